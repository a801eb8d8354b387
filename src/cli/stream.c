/* Leading somebody through a calibration. Lines that are typed, or come from a script, are looked
 * at between measurements; with none at all it goes on by what the sensor says. */
#include <math.h>
#include <poll.h>
#include <stdio.h>
#include <string.h>
#include <unistd.h>

#include "cli/guided.h"
#include "pintle/host/rig/worth.h"

/* --- lines, without waiting for them --- */

struct typing {
    char text[160];
    size_t used;
    bool over; /* nobody types any more */
};

/* A whole line that has come, cut off its end; null: none yet. */
static const char *typed(struct typing *typing, char line[160])
{
    struct pollfd in = { .fd = STDIN_FILENO, .events = POLLIN };
    while (!typing->over && !memchr(typing->text, '\n', typing->used) && poll(&in, 1, 0) > 0) {
        size_t room = sizeof typing->text - typing->used;
        ssize_t got = read(STDIN_FILENO, typing->text + typing->used, room);
        typing->over = got <= 0 || room == 0;
        typing->used += got > 0 ? (size_t)got : 0;
    }
    char *end = memchr(typing->text, '\n', typing->used);
    if (!end) {
        return NULL;
    }
    size_t length = (size_t)(end - typing->text);
    memcpy(line, typing->text, length);
    line[length] = '\0';
    typing->used -= length + 1;
    memmove(typing->text, end + 1, typing->used);
    return g_strstrip(line);
}

/* --- measurements --- */

int64_t cli_now_us(const struct subject *s)
{
    return (int64_t)s->station->clock.calls->now_us(s->station->clock.context);
}

/* The wanted channels in front of this correction. Returns their quality. */
uint16_t cli_measure(struct subject *s, float values[3])
{
    pintle_marks quality = 0;
    const struct pintle_wanted *w = &s->wanted;
    (void)!pintle_station_read(s->station, w->of.sensor, true);
    for (unsigned a = 0; a < w->wide; a++) {
        struct pintle_reading r =
            pintle_station_before(s->station, w->of.sensor, w->of.channel + a, w->kind);
        values[a] = r.value;
        quality |= r.quality;
    }
    return quality & PINTLE_QUALITY_SUSPECT;
}

/* Why nothing good comes, as the problem; said where it lasts. */
bool cli_no_reading(const struct subject *s, pintle_marks quality, struct pintle_problem *problem)
{
    const struct pintle_station *station = s->station;
    unsigned sensor = s->wanted.of.sensor;
    const char *words = station->rigged[sensor].words;
    enum pintle_status status = station->turn[sensor].status;
    char *marks = cli_quality(quality);
    if (status != PINTLE_OK) {
        pintle_problem_set(problem, PINTLE_FAILURE_RIG, "sensor '%s': %s%s",
                           s->rig->sensor[sensor].name,
                           words[0] ? words : pintle_status_sentence(status),
                           words[0] ? "" : "; 'pintle scan' looks for the cause");
    } else {
        pintle_problem_set(problem, PINTLE_FAILURE_RIG,
                           "sensor '%s' gives a suspect reading (%s); nothing is calibrated on "
                           "that",
                           s->rig->sensor[sensor].name, marks);
    }
    g_free(marks);
    return false;
}

#define SILENT_US 10000000 /* so long it may be away, where somebody can push a plug home */

/* Time until the next measurement passes. */
void cli_pace(struct subject *s, int64_t *next_us)
{
    *next_us = MAX(*next_us + s->options->every_us, cli_now_us(s));
    int64_t left_us = *next_us - cli_now_us(s); /* asked once: it must not get below 0 in between */
    pintle_station_wait(s->station, (uint32_t)CLAMP(left_us, 0, UINT32_MAX), &cli_calibrate_stop);
}

/* A script can't wait for the question: its answer is remembered. */
static bool is_answer(const char *line)
{
    return strcmp(line, "y") == 0 || strcmp(line, "n") == 0;
}

bool cli_stream(struct subject *s, take_one *take, take_line *listen, void *own,
                struct pintle_problem *problem)
{
    struct typing typing = { .over = false };
    char line[160];
    int64_t began = cli_now_us(s);
    int64_t next = began;
    int64_t heard = began;
    bool away = false;
    int done = 0;
    while (done == 0 && !cli_calibrate_stop) {
        float values[3] = { 0, 0, 0 };
        pintle_marks quality = cli_measure(s, values);
        bool good =
            (quality & (pintle_marks)~PINTLE_QUALITY_JUMP) == 0; /* it is turned on purpose */
        if (good && away) {
            cli_say("It answers again; go on.");
        }
        heard = good ? cli_now_us(s) : heard;
        if (!good && !away) {
            struct pintle_problem why = { 0 };
            cli_no_reading(s, quality, &why);
            cli_progress_clear();
            cli_say("%s. Nothing is lost: it goes on when the sensor is back.", why.text);
        }
        away = !good;
        done = take(s, own, values, good);
        const char *said = done == 0 ? typed(&typing, line) : NULL;
        if (said && is_answer(said)) {
            s->answer = said[0];
        } else if (said) {
            done = listen(s, own, said);
        }
        if (done == 0 && !good && cli_now_us(s) - heard >= SILENT_US) {
            cli_progress_clear();
            return cli_no_reading(s, quality, problem);
        }
        if (done == 0 && cli_now_us(s) - began >= s->options->for_us) {
            cli_progress_clear();
            cli_say("The time of --for is over.");
            return true;
        }
        if (done == 0) {
            cli_pace(s, &next);
        }
    }
    cli_progress_clear();
    if (cli_calibrate_stop || done < 0) {
        return pintle_problem_set(problem, PINTLE_FAILURE_UNABLE,
                                  "stopped; no correction was changed");
    }
    return true;
}
