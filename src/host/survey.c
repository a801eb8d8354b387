#include "pintle/host/survey.h"

#include <glib.h>
#include <string.h>

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

static bool proves(struct pintle_station *station, const struct pintle_sheet *sheet, unsigned bus,
                   uint8_t address)
{
    uint8_t trim[PINTLE_TRIM_MAX];
    struct pintle_sensor sensor;
    return pintle_sensor_on_i2c(&sensor, sheet->part, &station->bus[bus], &station->clock, address,
                              trim)
               == PINTLE_OK
           && pintle_sensor_prove(&sensor) == PINTLE_OK;
}

/* Every part of the catalogue that could sit here and passes its proof; a certain proof comes
 * before a likely one. */
static const struct pintle_sheet *recognise(struct pintle_station *station, unsigned bus,
                                            uint8_t address)
{
    const struct pintle_sheet *likely = NULL;
    for (size_t i = 0; pintle_sheet_at(i); i++) {
        const struct pintle_sheet *sheet = pintle_sheet_at(i);
        if (!proves(station, sheet, bus, address)) {
            continue;
        }
        if (sheet->proof_is_certain) {
            return sheet;
        }
        likely = likely ? likely : sheet;
    }
    return likely;
}

static int expected_at(const struct pintle_rig *rig, unsigned bus, uint8_t address)
{
    for (unsigned i = 0; i < rig->sensors; i++) {
        if (rig->sensor[i].bus == bus && rig->sensor[i].address == address) {
            return (int)i;
        }
    }
    return -1;
}

static struct pintle_finding *add(struct pintle_survey *survey, unsigned bus, uint8_t address,
                                  int sensor)
{
    static struct pintle_finding overflow;
    if (survey->count == PINTLE_FINDINGS_MAX) {
        return &overflow;
    }
    struct pintle_finding *finding = &survey->finding[survey->count++];
    *finding = (struct pintle_finding){ .bus = bus, .address = address, .sensor = sensor };
    return finding;
}

static void judge_expected(struct pintle_station *station, struct pintle_finding *finding)
{
    const struct pintle_rig_sensor *want = &station->rig->sensor[finding->sensor];
    finding->sheet = want->sheet;
    if (proves(station, want->sheet, finding->bus, finding->address)) {
        finding->kind =
            want->sheet->proof_is_certain ? PINTLE_FINDING_PROVEN : PINTLE_FINDING_LIKELY;
        g_strlcpy(finding->text, want->sheet->proof, sizeof finding->text);
        return;
    }
    const struct pintle_sheet *is = recognise(station, finding->bus, finding->address);
    finding->kind = PINTLE_FINDING_WRONG;
    if (is) {
        g_snprintf(finding->text, sizeof finding->text,
                   "a %s answers where the rig expects a %s; change the rig's part, or the board",
                   is->part->name, want->sheet->part->name);
    } else {
        g_snprintf(finding->text, sizeof finding->text,
                   "something answers that is no %s: it does not pass the proof; check the board's "
                   "marking, and for two boards on one address",
                   want->sheet->part->name);
    }
}

static void judge_stranger(struct pintle_station *station, struct pintle_finding *finding)
{
    finding->kind = PINTLE_FINDING_UNEXPECTED;
    finding->sheet = recognise(station, finding->bus, finding->address);
    if (finding->sheet) {
        g_snprintf(finding->text, sizeof finding->text, "%s; add it to the rig file",
                   finding->sheet->proof);
    } else {
        g_strlcpy(finding->text, "no part of the catalogue passes its proof here",
                  sizeof finding->text);
    }
}

static void ask(struct pintle_station *station, struct pintle_survey *survey, unsigned bus,
                uint8_t address)
{
    int sensor = expected_at(station->rig, bus, address);
    enum pintle_status status = pintle_i2c_probe(&station->bus[bus], address);
    if (status != PINTLE_OK && sensor < 0) {
        return;
    }
    struct pintle_finding *finding = add(survey, bus, address, sensor);
    if (status != PINTLE_OK) {
        finding->kind = PINTLE_FINDING_MISSING;
        finding->sheet = station->rig->sensor[sensor].sheet;
    } else if (sensor >= 0) {
        judge_expected(station, finding);
    } else {
        judge_stranger(station, finding);
    }
}

/* From what the lines do at rest to the likely causes, the likeliest first. */
static const char *cause_of(const struct pintle_bitbang_look *look)
{
    if (look->touching) {
        return "data and clock touch: pulling one low pulls the other; look for solder or a strand "
               "between them";
    }
    if (look->data_low && look->clock_low) {
        return "both lines stay low: no pull-ups, no supply, or both shorted to ground; measure "
               "them against ground with the power off, then check the pull-ups and the supply";
    }
    if (look->clock_low) {
        return "the clock stays low: shorted to ground, its pull-up missing, or a chip stretches "
               "it "
               "for ever; unplug the boards one by one until it rises";
    }
    if (look->data_low) {
        return "data stays low, and nine clocks did not free it: shorted to ground, its pull-up "
               "missing, or a chip that hangs; unplug the boards one by one until it rises";
    }
    if (look->rise_us == UINT16_MAX) {
        return "data does not rise again once it was low: there are no pull-ups, or no supply "
               "behind "
               "them; check both";
    }
    if (look->rise_us > 3) {
        return "the lines rise too slowly: the pull-ups are too weak for the cable; take stronger "
               "ones or a slower bus";
    }
    return "the lines are high at rest, but not while a chip talks: it stretches the clock for "
           "ever, or a board's supply is missing; unplug the boards one by one";
}

static const char *cause_without_pins(enum pintle_status status)
{
    return status == PINTLE_DATA_STUCK
               ? "data stays low, and nine clocks did not free it: shorted to ground, its pull-up "
                 "missing, or a chip that hangs; unplug the boards one by one until it rises"
               : "the clock stays low: no pull-ups, no supply, shorted to ground or to data, or "
                 "stretched for ever; check the pull-ups and the supply, then unplug the boards "
                 "one by one";
}

/* A bus on which no address can be asked is one finding, not a hundred. */
static void report_broken(struct pintle_survey *survey, unsigned bus, const char *cause)
{
    struct pintle_finding *finding = add(survey, bus, 0, -1);
    finding->kind = PINTLE_FINDING_BROKEN;
    g_strlcpy(finding->text, cause, sizeof finding->text);
}

/* A stretched clock shows only once a chip has taken its address, so the rig's own are tried too.
 */
static enum pintle_status try_bus(struct pintle_station *station, unsigned bus)
{
    const struct pintle_rig *rig = station->rig;
    enum pintle_status status = pintle_i2c_probe(&station->bus[bus], 0x08);
    for (unsigned i = 0; i < rig->sensors && status == PINTLE_NO_ANSWER; i++) {
        if (rig->sensor[i].bus == bus) {
            status = pintle_i2c_probe(&station->bus[bus], rig->sensor[i].address);
        }
    }
    return status;
}

/* The lines are looked at before anything is said on them: a chip that hangs may hold them low
 * afterwards. */
static void ask_bus(struct pintle_station *station, struct pintle_survey *survey, unsigned bus)
{
    struct pintle_bitbang_look look = { 0 };
    if (station->rig->wires) {
        pintle_bitbang_i2c_look(&station->master[bus], &look);
    }
    enum pintle_status status = try_bus(station, bus);
    if (status != PINTLE_OK && status != PINTLE_NO_ANSWER) {
        report_broken(survey, bus,
                      station->rig->wires ? cause_of(&look) : cause_without_pins(status));
        return;
    }
    for (uint8_t address = 0x08; address <= 0x77; address++) {
        ask(station, survey, bus, address);
    }
}

/* An unexpected part that could be the missing one. */
static const struct pintle_finding *stray(const struct pintle_survey *survey,
                                          const struct pintle_finding *missing)
{
    for (unsigned i = 0; i < survey->count; i++) {
        const struct pintle_finding *finding = &survey->finding[i];
        if (finding->kind == PINTLE_FINDING_UNEXPECTED && finding->sheet == missing->sheet) {
            return finding;
        }
    }
    return NULL;
}

static bool alone(const struct pintle_survey *survey, const struct pintle_finding *missing)
{
    for (unsigned i = 0; i < survey->count; i++) {
        if (survey->finding[i].bus == missing->bus
            && survey->finding[i].kind != PINTLE_FINDING_MISSING) {
            return false;
        }
    }
    return true;
}

static void explain_missing(const struct pintle_station *station,
                            const struct pintle_survey *survey, struct pintle_finding *missing)
{
    const char *part = missing->sheet->part->name;
    const struct pintle_finding *other = stray(survey, missing);
    if (other && other->bus != missing->bus) {
        g_snprintf(missing->text, sizeof missing->text,
                   "no answer; a %s answers at 0x%02x on bus '%s': is it plugged in there?", part,
                   other->address, station->rig->bus[other->bus].name);
    } else if (other) {
        g_snprintf(missing->text, sizeof missing->text,
                   "no answer; a %s answers at 0x%02x instead (%s): move the strap, or change the "
                   "rig's address",
                   part, other->address, pintle_sheet_strap(missing->sheet, other->address));
    } else if (alone(survey, missing)) {
        g_strlcpy(missing->text,
                  "no answer, and nothing else on this bus; check the bus's supply and ground, "
                  "then whether data and clock are swapped",
                  sizeof missing->text);
    } else {
        g_snprintf(missing->text, sizeof missing->text,
                   "no answer, while others on this bus do; check its plug, its supply and its "
                   "address strap (%s)",
                   pintle_sheet_strap(missing->sheet, missing->address));
    }
}

void pintle_survey_run(struct pintle_station *station, struct pintle_survey *survey)
{
    memset(survey, 0, sizeof *survey);
    for (unsigned bus = 0; bus < station->rig->buses; bus++) {
        ask_bus(station, survey, bus);
    }
    for (unsigned i = 0; i < survey->count; i++) {
        struct pintle_finding *finding = &survey->finding[i];
        if (finding->kind == PINTLE_FINDING_MISSING) {
            explain_missing(station, survey, finding);
        }
        survey->amiss += finding->kind > PINTLE_FINDING_LIKELY;
    }
}
