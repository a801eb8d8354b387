/* What was ever calibrated: shown, taken into use again or out of it, handed on. */
#include <math.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "cli/cli.h"
#include "pintle/text.h"
#include "pintle/host/keep/calibration.h"
#include "pintle/keep.h"
#include "pintle/regress.h"

struct corrections_options {
    struct rig_options rig;
    int show, use, stop;
    char *import, *save_to, *load_from;
    gboolean export, constants;
    int from, room;
};

static const char *in_words(const struct pintle_entry *e)
{
    return !e->in_use ? "" : e->fits ? "in use" : "no such sensor";
}

static void print_list(const struct pintle_entries *entries, int sensor)
{
    unsigned shown = 0;
    for (unsigned i = 0; i < entries->count; i++) {
        const struct pintle_entry *e = &entries->entry[i];
        if (sensor >= 0 && (!e->fits || e->sensor_index != (unsigned)sensor)) {
            continue;
        }
        if (shown++ == 0) {
            printf("%s%6s %-21s %-22s %-14s %7s %11s  %s%s\n", cli_bold(), "number", "date",
                   "channel", "method", "samples", "uncertainty", "unit", cli_plain());
        }
        char *name = g_strdup_printf("%s.%s", e->sensor, e->channel);
        char *worth =
            isnan(e->found.uncertainty) ? g_strdup("unknown") : cli_figure(e->found.uncertainty);
        printf("%6u %-21s %-22s %-14s %7u %11s  %-5s %s%s%s\n", e->number, e->date, name,
               pintle_method_word(e->found.method), e->found.samples, worth, e->unit,
               e->in_use && e->fits ? cli_good() : cli_bad(), in_words(e), cli_plain());
        g_free(name);
        g_free(worth);
    }
    if (shown == 0) {
        printf("nothing was calibrated yet; see 'pintle calibrate'\n");
    }
}

static void print_number(const char *name, double value, const char *unit)
{
    char *text = isnan(value) ? g_strdup("unknown") : cli_figure(value);
    printf("%-12s %s %s\n", name, text, isnan(value) ? "" : unit);
    g_free(text);
}

static void print_one(const struct pintle_entry *e)
{
    const struct pintle_calibration *c = &e->found;
    printf("%snumber %u%s   %s\n", cli_bold(), e->number, cli_plain(),
           e->in_use ? in_words(e) : "not in use");
    printf("%-12s %s.%s, a %s at %s\n", "of", e->sensor, e->channel,
           e->part[0] ? e->part : "derived", e->where);
    if (e->serial) {
        printf("%-12s %s\n", "serial", e->serial);
    }
    printf("%-12s %s\n", "found", e->date);
    printf("%-12s %s: %s; %u samples\n", "method", pintle_method_word(c->method),
           pintle_method_finds(c->method), c->samples);
    if (e->conditions) {
        printf("%-12s %s\n", "note", e->conditions);
    }
    if (e->replaces) {
        printf("%-12s number %u\n", "replaced", e->replaces);
    }
    printf("%-12s %s%s%s, of", "stage", pintle_stage_word((enum pintle_stage_kind)c->kind),
           e->second ? " by " : "", e->second ? e->second : "");
    for (unsigned i = 0; i < c->count; i++) {
        printf(" %.9g", (double)c->numbers[i]);
    }
    printf("\n");
    if (c->lowest != 0 || c->highest != 0) {
        printf("%-12s from %.6g to %.6g\n", "holds", c->lowest, c->highest);
    } else {
        printf("%-12s anywhere\n", "holds");
    }
    print_number("residual", c->residual, e->unit);
    print_number("uncertainty", c->uncertainty, e->unit);
    double factor = pintle_regress_student(pintle_calibration_freedom(c));
    if (!isnan(factor) && !isnan(c->uncertainty)) {
        print_number("  95 %", factor * c->uncertainty, e->unit);
    }
}

static bool show(const struct pintle_entries *entries, unsigned number,
                 struct pintle_problem *problem)
{
    for (unsigned i = 0; i < entries->count; i++) {
        if (entries->entry[i].number == number) {
            print_one(&entries->entry[i]);
            return true;
        }
    }
    return pintle_problem_set(problem, PINTLE_FAILURE_USE,
                              "there is no correction number %u; 'pintle corrections' lists them",
                              number);
}

/* --- a memory chip --- */

static bool is_memory(const struct pintle_part *part)
{
    return pintle_store_unit(part) == 1;
}

/* A 1-Wire code, or a serial number; others have nothing that tells them apart. */
static void identity_of(const struct one *memory, unsigned sensor, uint8_t identity[8])
{
    const struct pintle_rig_sensor *s = &memory->rig->sensor[sensor];
    char serial[PINTLE_SERIAL_TEXT];
    memset(identity, 0, 8);
    if (!s->made && memory->rig->bus[s->bus].kind == PINTLE_BUS_ONEWIRE) {
        memcpy(identity, s->place.code, 8);
    } else if (pintle_station_serial(memory->station, sensor, serial) == PINTLE_OK) {
        guint64 number = g_ascii_strtoull(serial, NULL, 16);
        for (unsigned i = 0; i < 4; i++) {
            identity[i] = (uint8_t)(number >> (24 - 8 * i));
        }
    }
}

/* "logbook"; "logbook" 512: which byte it begins at. */
static bool open_memory(const struct corrections_options *o, const char *name, struct one *memory,
                        struct pintle_problem *problem)
{
    if (o->room < 32 || o->room > 4096 || o->from < 0) {
        return pintle_problem_set(
            problem, PINTLE_FAILURE_USE,
            "--room is 32 to 4096 bytes of each of the two copies, --from the "
            "byte that the first begins at");
    }
    return cli_open_one(&o->rig, name, "memory of single bytes", is_memory, memory, problem);
}

static bool memory_failed(const struct one *memory, const struct corrections_options *o,
                          enum pintle_status status, struct pintle_problem *problem)
{
    switch (status) {
    case PINTLE_BAD_ARGUMENT:
        return pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                  "--from %d and --room %d are not both multiples of the page of a "
                                  "%s, which a power cut can spoil",
                                  o->from, o->room, memory->from->sheet->part->name);
    case PINTLE_BAD_CRC:
        return pintle_problem_set(problem, PINTLE_FAILURE_RIG,
                                  "memory '%s' has no correction at byte %d; one is put there with "
                                  "--save-to",
                                  memory->from->name, o->from);
    case PINTLE_MISFIT:
        return pintle_problem_set(
            problem, PINTLE_FAILURE_RIG,
            "the correction in memory '%s' is another specimen's: its code is "
            "not this sensor's",
            memory->from->name);
    case PINTLE_OUT_OF_RANGE:
        return pintle_problem_set(
            problem, PINTLE_FAILURE_USE,
            "memory '%s': the record does not fit: take a larger --room, or an "
            "earlier --from",
            memory->from->name);
    default:
        return cli_one_failed(memory, "memory", status, problem);
    }
}

#define STAGES 16

/* A sensor's stages in use, as firmware keeps them. */
static void gather(const struct pintle_rig_sensor *s, struct pintle_correct_stage *stages,
                   struct pintle_keep *kept)
{
    kept->stages = stages;
    for (unsigned i = 0; i < s->stages && kept->count < STAGES; i++) {
        stages[kept->count++] = s->stage[i].stage;
    }
}

static bool save(const struct corrections_options *o, const char *sensor,
                 struct pintle_problem *problem)
{
    struct one memory = { 0 };
    if (!open_memory(o, o->save_to, &memory, problem)) {
        return false;
    }
    struct pintle_correct_stage stages[STAGES];
    struct pintle_keep kept = { 0 };
    int index = pintle_rig_find_sensor(memory.rig, sensor, problem);
    uint8_t *work = g_malloc((gsize)o->room);
    bool ok = memory.rig && index >= 0;
    if (ok) {
        identity_of(&memory, (unsigned)index, kept.identity);
        gather(&memory.rig->sensor[index], stages, &kept);
        int64_t now_s = pintle_station_now(memory.station) / 1000000 - 946684800;
        kept.found_s = now_s > 0 ? (uint32_t)now_s : 0;
        ok = kept.count > 0
             || pintle_problem_set(
                 problem, PINTLE_FAILURE_USE,
                 "no correction is in use for sensor '%s'; see 'pintle calibrate'", sensor);
    }
    if (ok) {
        enum pintle_status status =
            pintle_keep_save(memory.sensor, (uint32_t)o->from, &kept, work, (uint16_t)o->room);
        ok = status == PINTLE_OK || memory_failed(&memory, o, status, problem);
    }
    if (ok) {
        printf("%u stages of '%s' are in memory '%s', bytes %d to %d, beside the ones before\n",
               kept.count, sensor, memory.from->name, o->from, o->from + 2 * o->room - 1);
    }
    g_free(work);
    cli_close_one(&memory);
    return ok;
}

static void print_kept(const struct one *memory, const struct pintle_rig_sensor *s,
                       const struct pintle_keep *kept)
{
    char buffer[32];
    struct pintle_text text;
    pintle_text_init(&text, buffer, sizeof buffer);
    pintle_text_time(&text, ((int64_t)kept->found_s + 946684800) * 1000000, 0, 0);
    printf("memory '%s' has %u stages, kept %s\n", memory->from->name, kept->count,
           kept->found_s ? buffer : "at an unknown time");
    for (unsigned i = 0; i < kept->count; i++) {
        const struct pintle_correct_stage *stage = &kept->stages[i];
        const struct pintle_part *part = s->sheet->part;
        printf("%-12s %s, of",
               stage->channel < part->channel_count ? part->channels[stage->channel].name : "?",
               pintle_stage_word((enum pintle_stage_kind)stage->kind));
        for (unsigned n = 0; n < stage->count; n++) {
            printf(" %.9g", (double)stage->numbers[n]);
        }
        printf("\n");
    }
}

/* Into the rig's file, as numbers that somebody knew. */
static bool take_over(const struct one *memory, unsigned sensor, const struct pintle_keep *kept,
                      struct pintle_problem *problem)
{
    const struct pintle_rig_sensor *s = &memory->rig->sensor[sensor];
    for (unsigned i = 0; i < kept->count; i++) {
        const struct pintle_correct_stage *stage = &kept->stages[i];
        struct pintle_calibration c;
        unsigned number = 0;
        pintle_calibration_init(&c, PINTLE_METHOD_TYPED);
        c.kind = stage->kind;
        c.count = stage->count;
        memcpy(c.numbers, stage->numbers, stage->count * sizeof *c.numbers);
        c.lowest = (double)stage->lowest;
        c.highest = (double)stage->highest;
        c.uncertainty = stage->uncertainty > 0 ? (double)stage->uncertainty : (double)NAN;
        c.conditions = "from a memory chip";
        bool fits = stage->channel < s->sheet->part->channel_count
                    && stage->kind != PINTLE_STAGE_HEAT && stage->kind != PINTLE_STAGE_THERMAL;
        if (!fits) {
            cli_say("A stage is left out: what its second channel is, only the firmware knows.");
        } else if (pintle_calibration_keep(memory->rig, sensor, stage->channel, &c,
                                           pintle_station_now(memory->station), &number, problem)) {
            printf("in use as number %u\n", number);
        } else {
            return false;
        }
    }
    return true;
}

static bool load(const struct corrections_options *o, const char *sensor,
                 struct pintle_problem *problem)
{
    struct one memory = { 0 };
    if (!open_memory(o, o->load_from, &memory, problem)) {
        return false;
    }
    struct pintle_correct_stage stages[STAGES];
    float numbers[STAGES * 13];
    struct pintle_keep kept = { .stages = stages,
                                .numbers = numbers,
                                .stage_room = STAGES,
                                .number_room = G_N_ELEMENTS(numbers) };
    int index = pintle_rig_find_sensor(memory.rig, sensor, problem);
    uint8_t *work = g_malloc((gsize)o->room);
    bool ok = memory.rig && index >= 0;
    if (ok) {
        identity_of(&memory, (unsigned)index, kept.identity);
        enum pintle_status status =
            pintle_keep_load(memory.sensor, (uint32_t)o->from, &kept, work, (uint16_t)o->room);
        ok = status == PINTLE_OK || memory_failed(&memory, o, status, problem);
    }
    if (ok) {
        print_kept(&memory, &memory.rig->sensor[index], &kept);
        ok = take_over(&memory, (unsigned)index, &kept, problem);
    }
    g_free(work);
    cli_close_one(&memory);
    return ok;
}

/* --- the file --- */

static bool take_in(const struct pintle_rig *rig, const char *path, struct pintle_problem *problem)
{
    char *text = NULL;
    unsigned count = 0;
    GError *error = NULL;
    if (!g_file_get_contents(path, &text, NULL, &error)) {
        pintle_problem_set(problem, PINTLE_FAILURE_UNABLE, "cannot read '%s': %s", path,
                           error->message);
        g_error_free(error);
        return false;
    }
    bool ok = pintle_calibration_import(rig, path, text, &count, problem);
    g_free(text);
    if (ok) {
        printf("%u corrections are taken over and in use\n", count);
    }
    return ok;
}

static bool hand_out(const struct pintle_rig *rig, int sensor, bool constants,
                     struct pintle_problem *problem)
{
    if (constants && sensor < 0) {
        return pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                  "constants are of one sensor; name it");
    }
    char *text = constants ? pintle_calibration_constants(rig, (unsigned)sensor, problem)
                           : pintle_calibration_export(rig, sensor, problem);
    if (text) {
        printf("%s%s", text, constants ? "" : "\n");
    }
    pintle_host_free(text);
    return text != NULL;
}

static bool change(const struct pintle_rig *rig, const struct corrections_options *o,
                   struct pintle_problem *problem)
{
    bool use = o->use != 0;
    int number = use ? o->use : o->stop;
    bool ok = pintle_calibration_use(rig, (unsigned)MAX(number, 0), use, problem);
    if (ok) {
        printf("number %d is %s use\n", number, use ? "in" : "out of");
    }
    return ok;
}

static bool look(const struct corrections_options *o, const char *name,
                 struct pintle_problem *problem)
{
    struct pintle_rig *rig = cli_rig(&o->rig, problem);
    struct pintle_entries entries = { 0 };
    int sensor = rig && name ? pintle_rig_find_sensor(rig, name, problem) : -1;
    bool ok = rig && (!name || sensor >= 0) && pintle_entries_load(rig, &entries, problem);
    if (ok && o->import) {
        ok = take_in(rig, o->import, problem);
    } else if (ok && (o->export || o->constants)) {
        ok = hand_out(rig, sensor, o->constants, problem);
    } else if (ok && (o->use || o->stop)) {
        ok = change(rig, o, problem);
    } else if (ok && o->show) {
        ok = show(&entries, (unsigned)MAX(o->show, 0), problem);
    } else if (ok) {
        print_list(&entries, sensor);
    }
    pintle_entries_free(&entries);
    pintle_rig_free(rig);
    return ok;
}

static int run(int argc, char **argv)
{
    struct corrections_options o = { .room = 256 };
    const GOptionEntry entries[] = {
        RIG_OPTIONS(o.rig),
        AT_OPTION(o.rig.at),
        { "show", 's', 0, G_OPTION_ARG_INT, &o.show, "all that is known of one", "NUMBER" },
        { "use", 0, 0, G_OPTION_ARG_INT, &o.use, "take one into use again", "NUMBER" },
        { "stop", 0, 0, G_OPTION_ARG_INT, &o.stop, "take one out of use", "NUMBER" },
        { "export", 0, 0, G_OPTION_ARG_NONE, &o.export, "those in use, as JSON", NULL },
        { "constants", 0, 0, G_OPTION_ARG_NONE, &o.constants, "as constants in C", NULL },
        { "import", 0, 0, G_OPTION_ARG_FILENAME, &o.import, "take over what was exported", "FILE" },
        { "save-to", 0, 0, G_OPTION_ARG_STRING, &o.save_to,
          "put the sensor's into a memory chip, for firmware", "MEMORY" },
        { "load-from", 0, 0, G_OPTION_ARG_STRING, &o.load_from, "take them over from there",
          "MEMORY" },
        { "from", 0, 0, G_OPTION_ARG_INT, &o.from, "first byte in the memory (0)", "N" },
        { "room", 0, 0, G_OPTION_ARG_INT, &o.room, "bytes of each of the two copies (256)", "N" },
        { 0 }
    };
    if (!cli_options(&command_corrections, entries, &argc, &argv)) {
        return PINTLE_FAILURE_USE;
    }
    int asked = (o.show != 0) + (o.use != 0) + (o.stop != 0) + (o.export != 0) + (o.constants != 0)
                + (o.import != NULL) + (o.save_to != NULL) + (o.load_from != NULL);
    if (argc > 2 || asked > 1) {
        return cli_misuse("corrections: one sensor at most, and one thing to do with it");
    }
    if ((o.save_to || o.load_from) && argc < 2) {
        return cli_misuse("corrections: name the sensor whose corrections go into the memory, or "
                          "come from it");
    }
    struct pintle_problem problem = { 0 };
    bool ok = o.save_to     ? save(&o, argv[1], &problem)
              : o.load_from ? load(&o, argv[1], &problem)
                            : look(&o, argc > 1 ? argv[1] : NULL, &problem);
    return ok ? 0 : cli_fail(&problem);
}

const struct command command_corrections = {
    .name = "corrections",
    .usage = "[SENSOR]",
    .summary = "what was ever calibrated: look, go back, hand on",
    .more = "Without options they are listed. None is ever lost: what a later one replaced can be "
            "taken\n"
            "into use again. In a memory chip two copies are written in turn, so that a power cut "
            "leaves\n"
            "the old or the new; --from and --room are multiples of the chip's page.\n\n"
            "Examples:\n"
            "  pintle corrections --demo\n"
            "  pintle corrections --demo --use 1\n"
            "  pintle corrections --demo baro --constants\n"
            "  pintle corrections --demo baro --save-to logbook --from 2048",
    .run = run,
};
