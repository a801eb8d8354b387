/* An SPI bus: nobody has an address, so the part behind each select pin must prove itself. What
 * does not is looked at byte by byte: silence is all ones or all zeros. */
#include <glib.h>
#include <string.h>

#include "host/check/scan.h"

static bool unproven(const struct pintle_sheet *sheet)
{
    return sheet->part->identity->op == PINTLE_OP_END;
}

/* Read `count` bytes from register `reg`, as raw as can be; of a part with nothing to prove
 * whatever it says unasked. */
static bool read_raw(const struct scanning *s, const struct pintle_finding *finding, uint16_t reg,
                     uint8_t *bytes, uint8_t count)
{
    struct pintle_any any;
    return pintle_station_wire(s->station, &any, finding->sheet->part, finding->bus,
                               &finding->place)
               == PINTLE_OK
           && finding->sheet->part->link->receive(
                  &any.sensor, unproven(finding->sheet) ? PINTLE_NO_REG : reg, bytes, count)
                  == PINTLE_OK;
}

/* Does the bus transfer anything at all? */
static enum pintle_status carries(const struct scanning *s, uint8_t select)
{
    uint8_t byte = 0;
    const struct pintle_spi_way way = { .clock_hz = s->station->rig->bus[s->bus].speed_hz,
                                        .select = select };
    const struct pintle_segment one = { NULL, &byte, 1 };
    return pintle_spi_transfer(&s->station->spi[s->bus], &way, &one, 1);
}

static bool all(const uint8_t *bytes, uint8_t value)
{
    return bytes[0] == value && bytes[1] == value && bytes[2] == value && bytes[3] == value;
}

/* The identity that is read, shifted one bit to the right, with either bit coming in? */
static bool one_bit_late(const struct pintle_step *expect, uint8_t is)
{
    uint8_t want = (uint8_t)expect->value;
    return expect->width == 1 && (expect->value >> 16 & 0xff) == 0xff && is != want
           && (is == want >> 1 || is == (want >> 1 | 0x80));
}

/* The other select pin of this bus at which the part is, if any. */
static const char *elsewhere(const struct scanning *s, const struct pintle_finding *finding)
{
    const struct pintle_rig *rig = s->station->rig;
    struct pintle_finding there = *finding;
    for (unsigned i = 0; i < rig->sensors; i++) {
        const struct pintle_rig_sensor *other = &rig->sensor[i];
        there.place = other->place;
        if (other->bus == s->bus && (int)i != finding->sensor && other->sheet != finding->sheet
            && !other->sheet->acts && !pintle_priv_scan_moves_bank(s, finding->sheet, &there)
            && pintle_priv_scan_proves(s, finding->sheet, &there)) {
            return other->where;
        }
    }
    return NULL;
}

/* Another part that tells who it is; zeros are no identity. */
static bool another(const struct scanning *s, struct pintle_finding *finding)
{
    return pintle_priv_scan_recognise(s, finding) || finding->possibles > 0;
}

/* It does not prove itself: from the surest sign to the least. */
static void explain(const struct scanning *s, struct pintle_finding *finding)
{
    const struct pintle_step *identity = finding->sheet->part->identity;
    struct pintle_hint_names names = { .part = finding->sheet->part->name };
    uint8_t bytes[4] = { 0 };
    uint8_t again[4] = { 0 };
    bool steady = true;
    for (int i = 0; i < 8 && steady; i++) {
        read_raw(s, finding, identity->reg, again, 4);
        steady = i == 0 || memcmp(bytes, again, 1) == 0;
        memcpy(bytes, again, 4);
    }
    enum pintle_hint hint = PINTLE_HINT_COUNT;
    if (!steady) {
        hint = PINTLE_HINT_UNSTEADY;
    } else if ((names.place = elsewhere(s, finding)) != NULL) {
        hint = PINTLE_HINT_OTHER_SELECT;
    } else if (one_bit_late(identity, bytes[0])) {
        hint = PINTLE_HINT_ONE_BIT_LATE;
    } else if (another(s, finding)) {
        hint = PINTLE_HINT_COUNT;
    } else if (all(bytes, 0xff)) {
        hint = PINTLE_HINT_ALL_ONES;
    } else if (all(bytes, 0x00)) {
        hint = PINTLE_HINT_ALL_ZEROS;
    }
    if (hint == PINTLE_HINT_COUNT) {
        pintle_priv_scan_judge(s, finding);
    } else {
        bool silent = hint == PINTLE_HINT_ALL_ONES || hint == PINTLE_HINT_ALL_ZEROS;
        pintle_priv_scan_tell(finding,
                              silent                         ? PINTLE_FINDING_MISSING
                              : hint == PINTLE_HINT_UNSTEADY ? PINTLE_FINDING_UNSTEADY
                                                             : PINTLE_FINDING_WRONG,
                              hint, &names);
    }
}

#define PROOFS 256

/* Does it prove itself every time? One that sends checksums proves more at once. */
static unsigned proofs(const struct scanning *s, const struct pintle_finding *finding)
{
    unsigned count = 0;
    unsigned each = finding->sheet->part->link->checks ? PROOFS / 4 : 1;
    for (unsigned i = 0; i < PROOFS; i += each) {
        count += pintle_priv_scan_proves(s, finding->sheet, finding) ? each : 0;
    }
    return count;
}

/* A converter has no identity: zeros on all its inputs are as good as nothing. */
static bool only_zeros(const struct scanning *s, const struct pintle_finding *finding)
{
    const struct pintle_part *part = finding->sheet->part;
    uint8_t bytes[4] = { 0 };
    bool zeros = !finding->sheet->proof_is_certain && finding->sheet->reg_count > 0
                 && (part->identity->value & 0xffff) == 0;
    for (unsigned i = 0; zeros && i < finding->sheet->reg_count; i++) {
        zeros = read_raw(s, finding, finding->sheet->regs[i].reg.address, bytes, 2) && bytes[0] == 0
                && bytes[1] == 0;
    }
    return zeros;
}

/* A part with nothing to prove: it is there when something drives the line. */
static void judge_unproven(const struct scanning *s, struct pintle_finding *finding)
{
    uint8_t bytes[4] = { 0xff, 0xff, 0xff, 0xff };
    if (!read_raw(s, finding, 0, bytes, 4) || all(bytes, 0xff) || all(bytes, 0x00)) {
        pintle_priv_scan_tell(finding, PINTLE_FINDING_MISSING,
                              all(bytes, 0x00) ? PINTLE_HINT_ALL_ZEROS : PINTLE_HINT_ALL_ONES,
                              NULL);
    } else {
        pintle_priv_scan_judge(s, finding);
    }
}

static void ask_expected(const struct scanning *s, unsigned sensor)
{
    struct pintle_finding *finding =
        pintle_priv_scan_add(s, s->station->rig->sensor[sensor].where, (int)sensor);
    if (finding->sheet->mute) {
        finding->kind = PINTLE_FINDING_LIKELY;
        g_strlcpy(finding->text, finding->sheet->proof, sizeof finding->text);
        return;
    }
    if (unproven(finding->sheet)) {
        judge_unproven(s, finding);
        return;
    }
    unsigned proven = proofs(s, finding);
    if (proven > 0 && proven < PROOFS) {
        pintle_priv_scan_tell(finding, PINTLE_FINDING_UNSTEADY, PINTLE_HINT_UNSTEADY, NULL);
    } else if (proven == PROOFS && only_zeros(s, finding)) {
        pintle_priv_scan_tell(finding, PINTLE_FINDING_MISSING, PINTLE_HINT_ALL_ZEROS, NULL);
    } else if (proven == PROOFS) {
        pintle_priv_scan_judge(s, finding);
    } else {
        explain(s, finding);
    }
}

/* A select pin that no sensor of the rig has: is there a part of the catalogue that surely proves
 * itself? Nothing else can be told from silence. */
static void ask_stranger(const struct scanning *s, uint8_t select)
{
    char *where = g_strdup_printf("select %s", s->station->rig->bus[s->bus].select_pin[select]);
    struct pintle_finding there = { .bus = s->bus, .place = { .select = select } };
    if (pintle_priv_scan_recognise(s, &there)) {
        struct pintle_finding *finding = pintle_priv_scan_add(s, where, -1);
        finding->place.select = select;
        pintle_priv_scan_judge(s, finding);
    }
    g_free(there.possible);
    g_free(where);
}

/* The first sensor at a select pin, or -1. */
static int sensor_at(const struct scanning *s, unsigned select)
{
    const struct pintle_rig *rig = s->station->rig;
    for (unsigned i = 0; i < rig->sensors; i++) {
        if (rig->sensor[i].bus == s->bus && rig->sensor[i].place.select == select) {
            return (int)i;
        }
    }
    return -1;
}

void pintle_priv_scan_spi(const struct scanning *s)
{
    const struct pintle_rig_bus *bus = &s->station->rig->bus[s->bus];
    for (unsigned select = 0; select < bus->selects; select++) {
        int sensor = sensor_at(s, select);
        if (pintle_priv_scan_system(s, carries(s, (uint8_t)select))) {
            return;
        }
        if (sensor >= 0) {
            ask_expected(s, (unsigned)sensor);
        } else {
            ask_stranger(s, (uint8_t)select);
        }
    }
}
