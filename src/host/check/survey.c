#include "pintle/host/check/survey.h"

#include <glib.h>
#include <string.h>

#include "host/check/survey_part.h"

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

struct pintle_finding *pintle_priv_survey_add(const struct surveying *s, const char *where,
                                              int sensor)
{
    struct pintle_survey *survey = s->survey;
    struct pintle_finding *finding = g_new(struct pintle_finding, 1);
    survey->finding = g_renew(struct pintle_finding *, survey->finding, survey->count + 1);
    survey->finding[survey->count++] = finding;
    *finding = (struct pintle_finding){ .bus = s->bus, .where = g_strdup(where), .sensor = sensor };
    if (sensor >= 0) {
        finding->place = s->station->rig->sensor[sensor].place;
        finding->sheet = s->station->rig->sensor[sensor].sheet;
    }
    return finding;
}

int pintle_priv_survey_expected(const struct surveying *s, const char *where)
{
    const struct pintle_rig *rig = s->station->rig;
    for (unsigned i = 0; i < rig->sensors; i++) {
        if (rig->sensor[i].bus == s->bus && strcmp(rig->sensor[i].where, where) == 0) {
            return (int)i;
        }
    }
    return -1;
}

void pintle_priv_survey_tell(struct pintle_finding *finding, enum pintle_finding_kind kind,
                             enum pintle_hint hint, const struct pintle_hint_names *names)
{
    finding->kind = kind;
    finding->hint = hint;
    pintle_hint_tell(hint, names, finding->text, sizeof finding->text);
}

void pintle_priv_survey_bus(const struct surveying *s, enum pintle_finding_kind kind,
                            enum pintle_hint hint)
{
    pintle_priv_survey_tell(pintle_priv_survey_add(s, "", -1), kind, hint, NULL);
}

bool pintle_priv_survey_proves(const struct surveying *s, const struct pintle_sheet *sheet,
                               const struct pintle_finding *finding)
{
    uint8_t trim[PINTLE_TRIM_MAX];
    struct pintle_sensor sensor;
    return pintle_station_wire(s->station, &sensor, sheet->part, finding->bus, &finding->place,
                               trim)
               == PINTLE_OK
           && pintle_sensor_prove(&sensor) == PINTLE_OK;
}

const struct pintle_sheet *pintle_priv_survey_recognise(const struct surveying *s,
                                                        const struct pintle_finding *finding)
{
    const struct pintle_sheet *likely = NULL;
    const struct pintle_sheet *sheet = NULL;
    for (size_t i = 0; (sheet = pintle_rig_part_at(s->station->rig, i)) != NULL; i++) {
        if (!pintle_priv_survey_proves(s, sheet, finding)) {
            continue;
        }
        if (sheet->proof_is_certain) {
            return sheet;
        }
        likely = likely ? likely : sheet;
    }
    return likely;
}

static void judge_expected(const struct surveying *s, struct pintle_finding *finding)
{
    const struct pintle_sheet *want = s->station->rig->sensor[finding->sensor].sheet;
    if (pintle_priv_survey_proves(s, want, finding)) {
        finding->kind = want->proof_is_certain ? PINTLE_FINDING_PROVEN : PINTLE_FINDING_LIKELY;
        g_strlcpy(finding->text, want->proof, sizeof finding->text);
        return;
    }
    const struct pintle_sheet *is = pintle_priv_survey_recognise(s, finding);
    const struct pintle_hint_names names = { .part = want->part->name,
                                             .other = is ? is->part->name : NULL };
    pintle_priv_survey_tell(finding, PINTLE_FINDING_WRONG,
                            is ? PINTLE_HINT_OTHER_PART : PINTLE_HINT_NO_PROOF, &names);
}

/* The parts that have this address, "TMP102 or MCP9808"; empty: none has. To be freed with g_free.
 */
static char *candidates(const struct surveying *s, const struct pintle_finding *finding)
{
    GString *names = g_string_new(NULL);
    const struct pintle_sheet *sheet = NULL;
    for (size_t i = 0; (sheet = pintle_rig_part_at(s->station->rig, i)) != NULL; i++) {
        if (s->station->rig->bus[s->bus].kind == PINTLE_BUS_I2C
            && pintle_sheet_strap(sheet, finding->place.address)[0]) {
            g_string_append_printf(names, "%s%s", names->len ? " or " : "", sheet->part->name);
        }
    }
    return g_string_free(names, FALSE);
}

static void judge_stranger(const struct surveying *s, struct pintle_finding *finding)
{
    finding->sheet = pintle_priv_survey_recognise(s, finding);
    char *could = candidates(s, finding);
    const struct pintle_hint_names names = { .proof = finding->sheet ? finding->sheet->proof : NULL,
                                             .other = could };
    pintle_priv_survey_tell(finding, PINTLE_FINDING_UNEXPECTED,
                            finding->sheet ? PINTLE_HINT_STRANGER
                            : could[0]     ? PINTLE_HINT_UNPROVEN_STRANGER
                                           : PINTLE_HINT_UNKNOWN_STRANGER,
                            &names);
    g_free(could);
}

void pintle_priv_survey_judge(const struct surveying *s, struct pintle_finding *finding)
{
    (finding->sensor >= 0 ? judge_expected : judge_stranger)(s, finding);
}

struct pintle_survey *pintle_survey_run(struct pintle_station *station)
{
    static void (*const ask[])(const struct surveying *s) = { pintle_priv_survey_i2c,
                                                              pintle_priv_survey_spi,
                                                              pintle_priv_survey_onewire };
    const struct pintle_rig *rig = station->rig;
    struct pintle_survey *survey = g_new0(struct pintle_survey, 1);
    for (unsigned bus = 0; bus < rig->buses; bus++) {
        ask[rig->bus[bus].kind](&(struct surveying){ station, survey, bus });
    }
    for (unsigned i = 0; i < survey->count; i++) {
        struct pintle_finding *finding = survey->finding[i];
        if (finding->kind == PINTLE_FINDING_MISSING
            && rig->bus[finding->bus].kind == PINTLE_BUS_I2C) {
            pintle_priv_survey_explain_i2c(&(struct surveying){ station, survey, finding->bus },
                                           finding);
        }
        survey->amiss += finding->kind > PINTLE_FINDING_LIKELY;
    }
    return survey;
}

void pintle_survey_free(struct pintle_survey *survey)
{
    for (unsigned i = 0; i < survey->count; i++) {
        g_free(survey->finding[i]->where);
        g_free(survey->finding[i]);
    }
    g_free(survey->finding);
    g_free(survey);
}
