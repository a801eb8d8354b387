/* Points: each settles, then the reference is asked for; and raw beside corrected. */
#include <math.h>
#include <stdio.h>
#include <string.h>

#include "cli/guided.h"
#include "pintle/host/rig/worth.h"

/* A line, waited for. False: nobody answers. */
static bool ask(char line[160])
{
    if (cli_calibrate_stop || !fgets(line, 160, stdin) || cli_calibrate_stop) {
        fputc('\n', stderr);
        return false;
    }
    g_strstrip(line);
    return true;
}

#define PATIENCE 15 /* settling times */

/* Wait until it keeps still, then its mean. */
static bool settle(struct subject *s, struct pintle_fit_spread *mean,
                   struct pintle_problem *problem)
{
    const struct pintle_rig_sensor *sensor = &s->rig->sensor[s->wanted.of.sensor];
    const struct pintle_sheet *sheet = sensor->sheet;
    unsigned c = s->wanted.of.channel;
    double accuracy = sheet->channels ? (double)sheet->channels[c].accuracy_narrow : 0;
    double middle = (double)(s->about->lowest + s->about->highest) / 2;
    double least =
        fmax(3 * pintle_worth_count(sensor, c, middle), 5 * pow(10, -s->about->decimals));
    float limit = (float)fmax(least, accuracy / 4);
    struct pintle_fit_still still = { .axes = 1, .limit = limit };
    int64_t began = cli_now_us(s);
    int64_t next = began;
    int64_t since = began;
    memset(mean, 0, sizeof *mean);
    while (!cli_calibrate_stop) {
        float values[3] = { 0 };
        pintle_marks quality = cli_measure(s, values);
        if (quality & (pintle_marks)~PINTLE_QUALITY_JUMP) {
            return cli_no_reading(s, quality, problem);
        }
        if (quality) { /* plunged into a bath: it has not settled */
            still.count = 0;
        }
        if (pintle_fit_still_add(&still, values) <= 1) {
            since = cli_now_us(s);
            memset(mean, 0, sizeof *mean);
        }
        (void)!pintle_fit_spread_add(mean, values[0]);
        cli_progress("%.3f %s, settled for %.0f of %.0f s",
                     cli_calibrate_shown(s, (double)values[0]), cli_calibrate_unit(s),
                     (double)(cli_now_us(s) - since) / 1e6, (double)s->options->settle_us / 1e6);
        if (cli_now_us(s) - since >= s->options->settle_us
            && mean->count >= (unsigned)MAX(s->options->samples, 2)) {
            cli_progress_clear();
            return true;
        }
        if (cli_now_us(s) - began >= PATIENCE * s->options->settle_us) {
            cli_progress_clear();
            cli_say("It does not settle: it moved by more than %.3f %s again and again. Stir the "
                    "bath or move it out of the draught, or ask less of it with --settle.",
                    (double)limit * cli_calibrate_per_base(s), cli_calibrate_unit(s));
            mean->count = 0;
            return true;
        }
        cli_pace(s, &next);
    }
    cli_progress_clear();
    return false;
}

static bool wait_for(struct subject *s, const char *words)
{
    int64_t us = 0;
    if (!pintle_duration_parse(words, &us)) {
        cli_say("'wait' takes a duration, as in 'wait 10 min'.");
        return false;
    }
    for (; us > 0 && !cli_calibrate_stop; us -= 1000000000) {
        pintle_station_wait(s->station, (uint32_t)MIN(us, 1000000000), &cli_calibrate_stop);
    }
    return true;
}

/* What was typed at a point: 1 measure again, 0 it is over, -1 leave, 2 ask again. */
static int answer(struct subject *s, const char *line, double value)
{
    char *end = NULL;
    double reference = g_ascii_strtod(line, &end);
    if (line[0] == '\0' || strcmp(line, "done") == 0) {
        return 0;
    }
    if (strcmp(line, "quit") == 0) {
        return -1;
    }
    if (strcmp(line, "again") == 0) {
        return 1;
    }
    if (g_str_has_prefix(line, "wait")) {
        return wait_for(s, line + 4) ? 1 : 2;
    }
    if (strcmp(line, "back") == 0) {
        cli_say(s->count > 0 ? "The last pair is forgotten." : "There is no pair yet.");
        s->count -= s->count > 0;
        return 2;
    }
    if (*end != '\0' || !isfinite(reference)) {
        cli_say("That is no number; nothing was taken. Type what the reference shows, or 'back', "
                "'again', 'wait 10 min', 'done', 'quit'.");
        return 2;
    }
    s->pairs = g_renew(struct pintle_pair, s->pairs, s->count + 1);
    s->pairs[s->count++] = (struct pintle_pair){ value, cli_calibrate_base(s, reference) };
    return 1;
}

static bool leave(const struct subject *s, struct pintle_problem *problem)
{
    GString *pairs = g_string_new(NULL);
    for (unsigned i = 0; i < s->count; i++) {
        g_string_append_printf(pairs, " %.3f=%.3f", cli_calibrate_shown(s, s->pairs[i].sensor),
                               cli_calibrate_shown(s, s->pairs[i].reference));
    }
    pintle_problem_set(problem, PINTLE_FAILURE_UNABLE, "stopped; no correction was changed%s%s",
                       s->count ? "; the pairs so far, to go on with:" : "", pairs->str);
    g_string_free(pairs, TRUE);
    return false;
}

bool cli_guide_points(struct subject *s, struct pintle_problem *problem)
{
    char line[160];
    cli_say(
        "Put sensor and reference side by side: in an ice bath, in a room, wherever it is to be "
        "right. Type what the reference shows in %s; an empty line ends.",
        cli_calibrate_unit(s));
    for (int next = 1; next != 0;) {
        struct pintle_fit_spread mean;
        if (!settle(s, &mean, problem)) {
            if (!cli_calibrate_stop && s->count > 0) {
                struct pintle_problem why = *problem;
                *problem = (struct pintle_problem){ 0 };
                leave(s, problem);
                char *both = g_strdup_printf("%s; %s", why.text, problem->text);
                g_strlcpy(problem->text, both, sizeof problem->text);
                problem->failure = why.failure;
                g_free(both);
                return false;
            }
            return cli_calibrate_stop ? leave(s, problem) : false;
        }
        double value = (double)pintle_fit_spread_mean(&mean);
        do {
            if (mean.count > 0) {
                fprintf(stderr, "sensor %.3f %s, scatter %.3f, reference? ",
                        cli_calibrate_shown(s, value), cli_calibrate_unit(s),
                        sqrt((double)pintle_fit_spread_variance(&mean))
                            * cli_calibrate_per_base(s));
            } else {
                fprintf(stderr, "'again', 'wait 10 min', 'done' or 'quit'? ");
            }
            next = ask(line) ? answer(s, line, value) : cli_calibrate_stop ? -1 : 0;
        } while (next == 2);
        if (next < 0) {
            return leave(s, problem);
        }
    }
    return true;
}

/* --- raw and corrected --- */

bool cli_calibrate_watch(struct subject *s, struct pintle_problem *problem)
{
    int64_t began = cli_now_us(s);
    int64_t next = began;
    const struct pintle_wanted *w = &s->wanted;
    bool feels = w->wide == 3 && s->about->quantity == PINTLE_QUANTITY_ACCELERATION;
    int64_t length = s->options->length ? s->options->for_us : INT64_MAX / 2;
    for (unsigned a = 0; a < w->wide; a++) {
        printf("%s%12s %12s", a ? "  " : "", s->about[a].name, "corrected");
    }
    printf("   %s%s\n", cli_calibrate_unit(s), feels ? ", which axis points down" : "");
    for (; cli_now_us(s) - began < length && !cli_calibrate_stop; cli_pace(s, &next)) {
        float xyz[3] = { 0 };
        (void)!pintle_station_read(s->station, w->of.sensor, true);
        for (unsigned a = 0; a < w->wide; a++) {
            unsigned c = w->of.channel + a;
            struct pintle_reading raw = s->station->rigged[w->of.sensor].before[c];
            struct pintle_reading now = s->station->turn[w->of.sensor].sample.channel[c];
            char *before = cli_value(&s->about[a], s->unit, &raw, 1);
            char *after = cli_value(&s->about[a], s->unit, &now, 1);
            printf("%s%12s %12s", a ? "  " : "", before, after);
            xyz[a] = now.value;
            g_free(before);
            g_free(after);
        }
        int8_t face = feels ? pintle_fit_face_up(xyz) : -1;
        static const char *const down[] = { "-x", "x", "-y", "y", "-z", "z" };
        printf("   %s\n", !feels ? "" : face < 0 ? "none" : down[face]);
        fflush(stdout);
    }
    return cli_printed(problem);
}
