#include "pintle/host/check/scan.h"

#include <glib.h>
#include <string.h>

#include "host/check/scan.h"

const char *pintle_finding_word(enum pintle_finding_kind kind)
{
    switch (kind) {
#define PINTLE_FINDING_WORD(name, word)                                                            \
    case PINTLE_FINDING_##name:                                                                    \
        return word;
        PINTLE_FINDING_LIST(PINTLE_FINDING_WORD)
    default:
        return "unknown";
    }
}

struct pintle_finding *pintle_priv_scan_add(const struct scanning *s, const char *where, int sensor)
{
    struct pintle_scan *scan = s->scan;
    struct pintle_finding *finding = g_new(struct pintle_finding, 1);
    scan->finding = g_renew(struct pintle_finding *, scan->finding, scan->count + 1);
    scan->finding[scan->count++] = finding;
    *finding = (struct pintle_finding){ .bus = s->bus, .where = g_strdup(where), .sensor = sensor };
    if (sensor >= 0) {
        finding->place = s->station->rig->sensor[sensor].place;
        finding->sheet = s->station->rig->sensor[sensor].sheet;
    }
    return finding;
}

int pintle_priv_scan_expected(const struct scanning *s, const char *where)
{
    const struct pintle_rig *rig = s->station->rig;
    for (unsigned i = 0; i < rig->sensors; i++) {
        if (rig->sensor[i].bus == s->bus && strcmp(rig->sensor[i].where, where) == 0) {
            return (int)i;
        }
    }
    return -1;
}

void pintle_priv_scan_tell(struct pintle_finding *finding, enum pintle_finding_kind kind,
                           enum pintle_hint hint, const struct pintle_hint_names *names)
{
    finding->kind = kind;
    finding->hint = hint;
    pintle_hint_tell(hint, names, finding->text, sizeof finding->text);
}

void pintle_priv_scan_bus(const struct scanning *s, enum pintle_finding_kind kind,
                          enum pintle_hint hint)
{
    pintle_priv_scan_tell(pintle_priv_scan_add(s, "", -1), kind, hint, NULL);
}

bool pintle_priv_scan_system(const struct scanning *s, enum pintle_status status)
{
    static const struct {
        enum pintle_status status;
        enum pintle_hint hint;
    } hints[] = { { PINTLE_NO_DEVICE, PINTLE_HINT_SWITCHED_OFF },
                  { PINTLE_UNSUPPORTED, PINTLE_HINT_UNABLE },
                  { PINTLE_DENIED, PINTLE_HINT_DENIED },
                  { PINTLE_IO_ERROR, PINTLE_HINT_SYSTEM_FAILS } };
    for (size_t i = 0; i < G_N_ELEMENTS(hints); i++) {
        if (hints[i].status == status) {
            struct pintle_finding *finding = pintle_priv_scan_add(s, "", -1);
            const char *words = pintle_station_words(s->station, s->bus);
            pintle_priv_scan_tell(finding, PINTLE_FINDING_BROKEN, hints[i].hint, NULL);
            if (words[0]) {
                g_strlcpy(finding->text, words, sizeof finding->text);
            }
            return true;
        }
    }
    return false;
}

enum pintle_status pintle_priv_scan_prove(const struct scanning *s,
                                          const struct pintle_sheet *sheet,
                                          const struct pintle_finding *finding)
{
    struct pintle_any any;
    enum pintle_status status =
        pintle_station_wire(s->station, &any, sheet->part, finding->bus, &finding->place);
    return status == PINTLE_OK ? pintle_sensor_prove(&any.sensor) : status;
}

bool pintle_priv_scan_proves(const struct scanning *s, const struct pintle_sheet *sheet,
                             const struct pintle_finding *finding)
{
    return pintle_priv_scan_prove(s, sheet, finding) == PINTLE_OK;
}

static void judge_expected(const struct scanning *s, struct pintle_finding *finding)
{
    const struct pintle_sheet *want = s->station->rig->sensor[finding->sensor].sheet;
    if (pintle_priv_scan_proves(s, want, finding)) {
        finding->kind = want->proof_is_certain ? PINTLE_FINDING_PROVEN : PINTLE_FINDING_LIKELY;
        g_strlcpy(finding->text, want->proof, sizeof finding->text);
        return;
    }
    const struct pintle_sheet *is = pintle_priv_scan_recognise(s, finding);
    char *could = is ? g_strdup(is->part->name) : pintle_priv_scan_possible(finding);
    const struct pintle_hint_names names = { .part = want->part->name, .other = could };
    pintle_priv_scan_tell(finding, PINTLE_FINDING_WRONG,
                          is         ? PINTLE_HINT_OTHER_PART
                          : could[0] ? PINTLE_HINT_MAYBE_OTHER
                                     : PINTLE_HINT_NO_PROOF,
                          &names);
    g_free(could);
}

static void judge_stranger(const struct scanning *s, struct pintle_finding *finding)
{
    finding->sheet = pintle_priv_scan_recognise(s, finding);
    char *could = pintle_priv_scan_possible(finding);
    const struct pintle_hint_names names = { .proof = finding->sheet ? finding->sheet->proof : NULL,
                                             .other = could };
    pintle_priv_scan_tell(finding, PINTLE_FINDING_UNEXPECTED,
                          finding->sheet     ? PINTLE_HINT_STRANGER
                          : !could[0]        ? PINTLE_HINT_UNKNOWN_STRANGER
                          : finding->untried ? PINTLE_HINT_ACTING_STRANGER
                                             : PINTLE_HINT_UNPROVEN_STRANGER,
                          &names);
    g_free(could);
    if (s->station->rig->wired == 0) {
        finding->kind = PINTLE_FINDING_FOUND;
        if (finding->sheet) {
            g_strlcpy(finding->text, finding->sheet->proof, sizeof finding->text);
        }
    }
}

void pintle_priv_scan_judge(const struct scanning *s, struct pintle_finding *finding)
{
    (finding->sensor >= 0 ? judge_expected : judge_stranger)(s, finding);
}

bool pintle_priv_scan_look(const struct scanning *s, struct pintle_look *look)
{
    const struct pintle_platform *platform = s->station->platform;
    return platform->look && platform->look(s->station, s->bus, look);
}

struct pintle_scan *pintle_scan_run(struct pintle_station *station)
{
    static void (*const ask[])(
        const struct scanning *s) = { pintle_priv_scan_i2c, pintle_priv_scan_spi,
                                      pintle_priv_scan_onewire, pintle_priv_scan_stream };
    const struct pintle_rig *rig = station->rig;
    struct pintle_scan *scan = g_new0(struct pintle_scan, 1);
    for (unsigned bus = 0; bus < rig->buses; bus++) {
        ask[rig->bus[bus].kind](&(struct scanning){ station, scan, bus });
    }
    for (unsigned i = 0; i < scan->count; i++) {
        struct pintle_finding *finding = scan->finding[i];
        if (finding->kind == PINTLE_FINDING_MISSING
            && rig->bus[finding->bus].kind == PINTLE_BUS_I2C) {
            pintle_priv_scan_explain_i2c(&(struct scanning){ station, scan, finding->bus },
                                         finding);
        }
        scan->amiss += finding->kind > PINTLE_FINDING_FOUND
                       && !(finding->kind == PINTLE_FINDING_HELD && finding->sensor < 0);
    }
    return scan;
}

void pintle_scan_free(struct pintle_scan *scan)
{
    for (unsigned i = 0; i < scan->count; i++) {
        g_free(scan->finding[i]->where);
        g_free(scan->finding[i]->possible);
        g_free(scan->finding[i]);
    }
    g_free(scan->finding);
    g_free(scan);
}
