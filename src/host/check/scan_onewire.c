/* A 1-Wire line: who is on it, searched for several times, since a bad plug shows as codes that are
 * there and then are not. */
#include <glib.h>
#include <string.h>

#include "host/check/scan.h"
#include "pintle/onewire.h"

#define PASSES 4
#define CODES_MAX 64
#define READ_POWER_SUPPLY 0xb4

struct found {
    uint8_t code[CODES_MAX][8];
    unsigned seen[CODES_MAX]; /* in how many passes */
    unsigned count;
    unsigned garbled, partial, zeros; /* passes with such a thing in them */
};

static void note(struct found *found, const uint8_t *code)
{
    unsigned i = 0;
    while (i < found->count && memcmp(found->code[i], code, 8) != 0) {
        i++;
    }
    if (i == found->count && i < CODES_MAX) {
        memcpy(found->code[found->count++], code, 8);
    }
    if (i < CODES_MAX) {
        found->seen[i]++;
    }
}

/* What a port says that has not got to the line; nothing is known of the probes then. */
static bool never_got_there(enum pintle_status status)
{
    return status == PINTLE_TIME_LIMIT || status == PINTLE_LINE_BUSY || status == PINTLE_NO_DEVICE
           || status == PINTLE_DENIED || status == PINTLE_UNSUPPORTED || status == PINTLE_IO_ERROR;
}

static enum pintle_status search(const struct scanning *s, struct found *found)
{
    struct pintle_onewire_search search = { 0 };
    enum pintle_status status = PINTLE_OK;
    bool garbled = false;
    bool partial = false;
    bool zeros = false;
    for (unsigned i = 0; i < CODES_MAX && (status == PINTLE_OK || status == PINTLE_BAD_CRC); i++) {
        status = pintle_onewire_next(&s->station->onewire[s->bus], &search);
        bool zero = pintle_onewire_crc(search.code, 8) == 0;
        zeros = zeros || (status == PINTLE_BAD_CRC && search.bits == 64 && zero);
        garbled = garbled || (status == PINTLE_BAD_CRC && search.bits == 64 && !zero);
        partial = partial || (status == PINTLE_BAD_CRC && search.bits < 64);
        if (status == PINTLE_OK) {
            note(found, search.code);
        }
    }
    found->garbled += garbled;
    found->partial += partial;
    found->zeros += zeros;
    return never_got_there(status) || status == PINTLE_DATA_STUCK ? status : PINTLE_OK;
}

/* Does the chip say that it lives on the line, where the rig has a wire for it? */
static bool starves(const struct scanning *s, const struct pintle_finding *finding)
{
    const struct pintle_rig_sensor *sensor = &s->station->rig->sensor[finding->sensor];
    const struct pintle_part *part = sensor->sheet->part;
    struct pintle_onewire *line = &s->station->onewire[s->bus];
    const uint8_t command = READ_POWER_SUPPLY;
    uint8_t answer = 0xff;
    uint8_t settings[PINTLE_MOST_SETTINGS] = { 0 };
    memcpy(settings, sensor->chosen.settings, sizeof settings);
    if (pintle_sheet_set(sensor->sheet, "power", "external", settings) != PINTLE_OK
        || memcmp(settings, sensor->chosen.settings, part->setting_count) != 0) {
        return false;
    }
    return pintle_onewire_select(line, sensor->place.code) == PINTLE_OK
           && pintle_onewire_write(line, &command, 1) == PINTLE_OK
           && pintle_onewire_read(line, &answer, 1) == PINTLE_OK && answer == 0;
}

static void judge(const struct scanning *s, const struct found *found, unsigned i)
{
    char where[17];
    pintle_code_text(found->code[i], where);
    struct pintle_finding *finding =
        pintle_priv_scan_add(s, where, pintle_priv_scan_expected(s, where));
    memcpy(finding->place.code, found->code[i], 8);
    if (found->seen[i] < PASSES) {
        pintle_priv_scan_tell(finding, PINTLE_FINDING_UNSTEADY, PINTLE_HINT_FLICKERING, NULL);
        return;
    }
    pintle_priv_scan_judge(s, finding);
    if (finding->sensor < 0 && !finding->sheet) {
        pintle_priv_scan_tell(finding, finding->kind, PINTLE_HINT_UNKNOWN_FAMILY, NULL);
    } else if (finding->sensor >= 0 && finding->kind <= PINTLE_FINDING_LIKELY
               && starves(s, finding)) {
        pintle_priv_scan_tell(finding, PINTLE_FINDING_WRONG, PINTLE_HINT_NEEDS_POWER, NULL);
    }
}

static void report_missing(const struct scanning *s, const struct found *found)
{
    const struct pintle_rig *rig = s->station->rig;
    for (unsigned i = 0; i < rig->sensors; i++) {
        unsigned k = 0;
        while (k < found->count && memcmp(found->code[k], rig->sensor[i].place.code, 8) != 0) {
            k++;
        }
        if (rig->sensor[i].bus == s->bus && k == found->count) {
            struct pintle_finding *finding = pintle_priv_scan_add(s, rig->sensor[i].where, (int)i);
            pintle_priv_scan_tell(finding, PINTLE_FINDING_MISSING, PINTLE_HINT_CODE_MISSING, NULL);
        }
    }
}

static bool expects(const struct scanning *s)
{
    const struct pintle_rig *rig = s->station->rig;
    for (unsigned i = 0; i < rig->sensors; i++) {
        if (rig->sensor[i].bus == s->bus) {
            return true;
        }
    }
    return false;
}

/* Where the pin can be looked at, a short and a missing pull-up are told apart. */
static enum pintle_hint why_low(const struct scanning *s)
{
    struct pintle_look look = { .onewire = PINTLE_OK };
    (void)pintle_priv_scan_look(s, &look);
    return look.onewire == PINTLE_DATA_STUCK   ? PINTLE_HINT_LINE_SHORTED
           : look.onewire == PINTLE_NO_PULL_UP ? PINTLE_HINT_LINE_FLOATS
                                               : PINTLE_HINT_LINE_LOW;
}

static bool is_out_of_reach(const struct scanning *s, enum pintle_status status)
{
    if (status == PINTLE_TIME_LIMIT || status == PINTLE_LINE_BUSY) {
        pintle_priv_scan_bus(s, PINTLE_FINDING_BROKEN, PINTLE_HINT_LINE_KEPT);
        return true;
    }
    return pintle_priv_scan_system(s, status);
}

/* A code that came with a wrong CRC in every pass may have cost the others their turn. */
void pintle_priv_scan_onewire(const struct scanning *s)
{
    struct found found = { .count = 0 };
    enum pintle_status there =
        s->station->onewire[s->bus].calls->reset(s->station->onewire[s->bus].common.context);
    if (is_out_of_reach(s, there)) {
        return;
    }
    if (there == PINTLE_DATA_STUCK) {
        pintle_priv_scan_bus(s, PINTLE_FINDING_BROKEN, why_low(s));
        return;
    }
    if (there == PINTLE_NO_ANSWER) {
        if (expects(s)) {
            pintle_priv_scan_bus(s, PINTLE_FINDING_BROKEN, PINTLE_HINT_NO_PRESENCE);
        }
        return;
    }
    for (unsigned pass = 0; pass < PASSES; pass++) {
        enum pintle_status status = search(s, &found);
        if (is_out_of_reach(s, status)) {
            return;
        }
        if (status == PINTLE_DATA_STUCK && found.count == 0) {
            pintle_priv_scan_bus(s, PINTLE_FINDING_BROKEN, why_low(s));
            return;
        }
    }
    if (found.zeros > 0) {
        pintle_priv_scan_bus(s, PINTLE_FINDING_BROKEN, PINTLE_HINT_ZERO_CODE);
    } else if (found.garbled > 0) {
        pintle_priv_scan_bus(s, PINTLE_FINDING_BROKEN, PINTLE_HINT_GARBLED_CODE);
    } else if (found.partial > 0) {
        pintle_priv_scan_bus(s, PINTLE_FINDING_BROKEN, PINTLE_HINT_PARTIAL_CODE);
    } else if (found.count == 0) {
        pintle_priv_scan_bus(s, PINTLE_FINDING_BROKEN, PINTLE_HINT_NO_CODE);
        return;
    }
    for (unsigned i = 0; i < found.count; i++) {
        judge(s, &found, i);
    }
    report_missing(s, &found);
}
