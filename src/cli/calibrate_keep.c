/* May it be kept? What it would replace, and what speaks against it. */
#include <stdio.h>
#include <string.h>

#include "cli/calibrate.h"

/* Yes, y: keep. Anything else, or no answer: don't. */
static bool answer_is_yes(const struct subject *subject)
{
    char line[16] = "";
    if (subject->answer) {
        fprintf(stderr, "%c\n", subject->answer);
        return subject->answer == 'y';
    }
    if (!fgets(line, sizeof line, stdin)) {
        fputc('\n', stderr);
    }
    return line[0] == 'y' || line[0] == 'Y';
}

static void object(GString *all, const char *format, ...) G_GNUC_PRINTF(2, 3);
static void object(GString *all, const char *format, ...)
{
    va_list args;
    va_start(args, format);
    g_string_append(all, all->len ? "; " : "");
    g_string_append_vprintf(all, format, args);
    va_end(args);
}

/* What speaks against keeping it, and what it would replace. */
static void objections(const struct subject *subject, GString *against, GString *replaces)
{
    struct pintle_problem unsaid = { 0 };
    struct pintle_entries entries = { 0 };
    bool known = pintle_entries_load(subject->rig, &entries, &unsaid);
    for (unsigned i = 0; i < subject->found_count; i++) {
        const struct pintle_calibration *c = &subject->found[i];
        unsigned sensor = subject->wanted.of.sensor;
        unsigned channel = subject->found_channel[i];
        enum pintle_stage_kind kind = (enum pintle_stage_kind)c->kind;
        char *doubt =
            pintle_calibration_doubt(subject->rig->sensor[sensor].sheet, channel, subject->unit, c);
        int used = known ? pintle_entries_used(&entries, sensor, channel, kind) : -1;
        if (doubt) {
            object(against, "%s", doubt);
        }
        if (used >= 0) {
            const struct pintle_entry *e = &entries.entry[used];
            unsigned had = MAX(e->found.samples, e->found.pair_count);
            object(replaces, "number %u (%s, %u samples, %s)", e->number,
                   pintle_method_word(e->found.method), had, e->date);
            if (had > c->samples) {
                object(against, "it takes the place of one from %u samples, and is from %u", had,
                       c->samples);
            }
        }
        for (unsigned k = 0; k < entries.count && i == 0; k++) {
            const struct pintle_entry *e = &entries.entry[k];
            unsigned wide = e->found.kind == PINTLE_STAGE_AXES ? 3 : 1;
            if (e->in_use && e->fits && e->sensor_index == sensor && channel >= e->channel_index
                && channel < e->channel_index + wide && e->found.kind > c->kind
                && !pintle_rig_replaces(kind, e->found.kind)) {
                object(against,
                       "number %u was fitted behind what is there now, and has to be found "
                       "anew",
                       e->number);
            }
        }
        pintle_host_free(doubt);
    }
    pintle_entries_free(&entries);
}

/* May it be kept? What speaks against it is said, and only a person may keep it all the same. */
static bool consent(const struct subject *subject, const char *path, bool *refused)
{
    GString *against = g_string_new(NULL);
    GString *replaces = g_string_new(NULL);
    objections(subject, against, replaces);
    bool yes = subject->options->yes;
    *refused = yes && against->len > 0;
    fflush(stdout);
    if (replaces->len > 0) {
        cli_say("It takes the place of %s, which 'pintle corrections' can take into use again.",
                replaces->str);
    }
    if (against->len > 0) {
        cli_say("pintle: this is doubtful: %s.", against->str);
    }
    if (!yes) {
        fprintf(stderr,
                against->len ? "Keep it in %s all the same? [y/N] " : "Keep it in %s? [y/N] ",
                path);
    }
    g_string_free(against, TRUE);
    g_string_free(replaces, TRUE);
    return yes ? !*refused : answer_is_yes(subject);
}

bool cli_calibrate_keep(struct subject *subject, struct pintle_problem *problem)
{
    char *path = pintle_calibration_path(subject->rig);
    bool refused = false;
    bool ok = true;
    if (!consent(subject, path, &refused)) {
        printf("not kept\n");
        subject->declined = true;
        g_free(path);
        return !refused
               || pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                     "a doubtful correction is not kept with --yes; leave --yes "
                                     "away, and answer for it");
    }
    int64_t at_us = subject->station ? pintle_station_now(subject->station) : subject->at_us;
    char serial[PINTLE_SERIAL_TEXT] = "";
    bool says =
        subject->station
        && pintle_station_serial(subject->station, subject->wanted.of.sensor, serial) == PINTLE_OK;
    for (unsigned i = 0; i < subject->found_count && ok; i++) {
        struct pintle_calibration found = subject->found[i];
        unsigned number = 0;
        found.serial = says ? serial : NULL;
        ok = pintle_calibration_keep(subject->rig, subject->wanted.of.sensor,
                                     subject->found_channel[i], &found, at_us, &number, problem);
        if (ok) {
            printf("kept in %s as number %u; every command uses it from now on\n", path, number);
        }
    }
    if (ok) {
        pintle_progress_forget(subject->rig, subject->name);
    }
    g_free(path);
    return ok;
}
