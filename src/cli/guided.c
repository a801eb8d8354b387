/* Leading somebody through a calibration. Lines that are typed, or come from a script, are looked
 * at between measurements; with none at all it goes on by what the sensor says. */
#include <math.h>
#include <poll.h>
#include <stdio.h>
#include <string.h>
#include <unistd.h>

#include "cli/calibrate.h"
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

/* The line that is written over and over, on a terminal only. */
static void progress(const char *format, ...) G_GNUC_PRINTF(1, 2);
static void progress(const char *format, ...)
{
    va_list args;
    if (!isatty(STDERR_FILENO)) {
        return;
    }
    va_start(args, format);
    fputs("\r\033[K", stderr);
    vfprintf(stderr, format, args);
    fflush(stderr);
    va_end(args);
}

static void clear(void)
{
    if (isatty(STDERR_FILENO)) {
        fputs("\r\033[K", stderr);
    }
}

/* --- measurements --- */

static int64_t now_us(const struct subject *s)
{
    return (int64_t)s->station->clock.calls->now_us(s->station->clock.context);
}

/* The wanted channels in front of this correction. Returns their quality. */
static uint16_t measure(struct subject *s, float values[3])
{
    uint16_t quality = 0;
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
static bool no_reading(const struct subject *s, uint16_t quality, struct pintle_problem *problem)
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
static void pace(struct subject *s, int64_t *next_us)
{
    *next_us = MAX(*next_us + s->options->every_us, now_us(s));
    pintle_station_wait(s->station, (uint32_t)MIN(*next_us - now_us(s), UINT32_MAX),
                        &cli_calibrate_stop);
}

/* A stream of measurements, until `take` has what it needs. Its return: 1 done, 0 go on, -1 over.
 */
typedef int take_one(struct subject *s, void *own, const float values[3], bool good);
typedef int take_line(struct subject *s, void *own, const char *line);

static bool stream(struct subject *s, take_one *take, take_line *listen, void *own,
                   struct pintle_problem *problem)
{
    struct typing typing = { .over = false };
    char line[160];
    int64_t began = now_us(s);
    int64_t next = began;
    int64_t heard = began;
    bool away = false;
    int done = 0;
    while (done == 0 && !cli_calibrate_stop) {
        float values[3] = { 0, 0, 0 };
        uint16_t quality = measure(s, values);
        bool good = quality == 0;
        if (good && away) {
            cli_say("It answers again; go on.");
        }
        heard = good ? now_us(s) : heard;
        if (!good && !away) {
            struct pintle_problem why = { 0 };
            no_reading(s, quality, &why);
            clear();
            cli_say("%s. Nothing is lost: it goes on when the sensor is back.", why.text);
        }
        away = !good;
        done = take(s, own, values, good);
        const char *said = done == 0 ? typed(&typing, line) : NULL;
        done = said ? listen(s, own, said) : done;
        if (done == 0 && !good && now_us(s) - heard >= SILENT_US) {
            clear();
            return no_reading(s, quality, problem);
        }
        if (done == 0 && now_us(s) - began >= s->options->for_us) {
            clear();
            cli_say("The time of --for is over.");
            return true;
        }
        if (done == 0) {
            pace(s, &next);
        }
    }
    clear();
    if (cli_calibrate_stop || done < 0) {
        return pintle_problem_set(problem, PINTLE_FAILURE_UNABLE,
                                  "stopped; no correction was changed");
    }
    return true;
}

/* --- positions --- */

struct turning {
    enum pintle_position last; /* event, so that each is said once */
};

static unsigned ones(unsigned bits)
{
    unsigned count = 0;
    for (; bits; bits &= bits - 1) {
        count++;
    }
    return count;
}

static void say_missing(const struct pintle_positions *p)
{
    GString *missing = g_string_new(NULL);
    for (int face = 0; face < PINTLE_FACES; face++) {
        if ((p->wanted & ~p->taken) >> face & 1) {
            g_string_append_printf(missing, "%s%s", missing->len ? ", " : "",
                                   pintle_face_word(face));
        }
    }
    cli_say("Still to take, in any order: %s.", missing->str);
    g_string_free(missing, TRUE);
}

static void say_taken(const struct subject *s, int face)
{
    const struct pintle_positions *p = &s->positions;
    const struct pintle_spread *of = p->faces.of[face];
    double per = cli_calibrate_per_base(s);
    double scatter = 0;
    for (unsigned i = 0; i < 3; i++) {
        scatter = fmax(scatter, sqrt((double)pintle_spread_variance(&of[i])));
    }
    cli_say("Taken: %s, %.4f %.4f %.4f %s, scatter %.4f. %u of %u.", pintle_face_word(face),
            (double)pintle_spread_mean(&of[0]) * per, (double)pintle_spread_mean(&of[1]) * per,
            (double)pintle_spread_mean(&of[2]) * per, cli_calibrate_unit(s), scatter * per,
            ones(p->taken & p->wanted), ones(p->wanted));
}

static void say_event(const struct subject *s, enum pintle_position is, const float xyz[3])
{
    const struct pintle_positions *p = &s->positions;
    double per = cli_calibrate_per_base(s);
    int8_t face = pintle_face_up(xyz);
    switch (is) {
    case PINTLE_POSITION_MOVED:
        cli_say("It was moved; this position begins anew. Lay it on something firm.");
        break;
    case PINTLE_POSITION_TILTED:
        cli_say("No axis points up or down (%.2f %.2f %.2f %s): turn it until one does, within 15 "
                "degrees.",
                (double)xyz[0] * per, (double)xyz[1] * per, (double)xyz[2] * per,
                cli_calibrate_unit(s));
        break;
    case PINTLE_POSITION_AGAIN:
        cli_say("%s was taken already; turn another way up, or type 'again %s'.",
                pintle_face_word(face), pintle_face_word(face));
        break;
    case PINTLE_POSITION_UNWANTED:
        cli_say("%s is not asked for here.", pintle_face_word(face));
        say_missing(p);
        break;
    case PINTLE_POSITION_NOT_GRAVITY:
        cli_say("It feels %.2f %s in all, and gravity is %.2f: it is shaken, set to another range, "
                "or broken.",
                sqrt((double)(xyz[0] * xyz[0] + xyz[1] * xyz[1] + xyz[2] * xyz[2])) * per,
                cli_calibrate_unit(s), (double)p->gravity * per);
        break;
    case PINTLE_POSITION_TAKEN:
        say_taken(s, p->last);
        say_missing(p);
        break;
    case PINTLE_POSITION_DONE:
        say_taken(s, p->last);
        break;
    default:
        break;
    }
}

/* What is complete is kept at once: nothing of it is lost by a break. */
static void keep_progress(const struct subject *s)
{
    struct pintle_problem problem = { 0 };
    if (s->station && !pintle_progress_keep(s->rig, s->name, &s->positions, &problem)) {
        cli_say("pintle: %s; go on, but don't leave before the end.", problem.text);
    }
}

static int take_position(struct subject *s, void *own, const float values[3], bool good)
{
    struct turning *turning = own;
    struct pintle_positions *p = &s->positions;
    float xyz[3] = { values[0], values[1], values[2] };
    enum pintle_position is = pintle_positions_add(p, xyz, good);
    bool complete = is == PINTLE_POSITION_TAKEN || is == PINTLE_POSITION_DONE;
    if (is != turning->last) {
        if (is != PINTLE_POSITION_TAKING && is != PINTLE_POSITION_TURNING) {
            clear();
        }
        say_event(s, is, xyz);
    }
    turning->last = is;
    if (complete) {
        keep_progress(s);
    }
    progress("x %+7.3f  y %+7.3f  z %+7.3f %s  %s  %s %u of %u",
             (double)xyz[0] * cli_calibrate_per_base(s), (double)xyz[1] * cli_calibrate_per_base(s),
             (double)xyz[2] * cli_calibrate_per_base(s), cli_calibrate_unit(s),
             pintle_face_word(pintle_face_up(xyz)),
             is == PINTLE_POSITION_TAKING ? "measured"
             : p->held                    ? "taken, turn it;"
                                          : "still",
             is == PINTLE_POSITION_TAKING ? p->now[0].count : p->still.count,
             is == PINTLE_POSITION_TAKING ? p->samples : p->settle);
    return is == PINTLE_POSITION_DONE ? 1 : 0;
}

static int face_of(const char *word)
{
    for (int face = 0; face < PINTLE_FACES; face++) {
        if (strcmp(word, pintle_face_word(face)) == 0) {
            return face;
        }
    }
    return -1;
}

static int listen_positions(struct subject *s, void *own, const char *line)
{
    struct turning *turning = own;
    struct pintle_positions *p = &s->positions;
    bool again = g_str_has_prefix(line, "again");
    int face = again && line[5] == ' ' ? face_of(line + 6) : p->last;
    clear();
    if (strcmp(line, "quit") == 0) {
        return -1;
    }
    if (strcmp(line, "done") == 0) {
        return 1;
    }
    if (strcmp(line, "back") != 0 && !again) {
        cli_say("Type 'again' (or 'again x up') or 'back' to take one once more, 'done' or 'quit'; "
                "else just turn it.");
    } else if (pintle_positions_forget(p, face)) {
        cli_say("%s is forgotten, and will be taken anew.", pintle_face_word(face));
        keep_progress(s);
    } else {
        cli_say("That one was not taken yet.");
    }
    turning->last = PINTLE_POSITION_TURNING;
    return 0;
}

/* As a spread over its noise that a hand on the sensor exceeds, and its own noise doesn't. */
#define STILL_SHARE 0.06f

static void begin_positions(struct subject *s)
{
    struct pintle_positions *p = &s->positions;
    const struct calibrate_options *o = s->options;
    *p = (struct pintle_positions){ .wanted = 0x3f,
                                    .samples = o->samples > 0 ? (uint32_t)o->samples : 50,
                                    .settle = 10,
                                    .gravity = (float)o->strength,
                                    .still = { .axes = 3 } };
    p->still.limit = STILL_SHARE * p->gravity;
    pintle_positions_begin(p);
}

/* The first of the three axes that a channel belongs to. */
static unsigned first_axis(const struct subject *s)
{
    const struct pintle_sheet *sheet = s->rig->sensor[s->wanted.of.sensor].sheet;
    for (int c = 0; (c = pintle_sheet_axes(sheet, (unsigned)c)) >= 0; c += 3) {
        if (s->wanted.of.channel - (unsigned)c < 3) {
            return (unsigned)c;
        }
    }
    return s->wanted.of.channel;
}

/* What is missing at the run's end is said by the fit. */
static bool feed_run(struct subject *s, struct pintle_problem *problem)
{
    struct turning turning = { PINTLE_POSITION_TURNING };
    const struct pintle_series *series = &s->series;
    int done = 0;
    if (!cli_calibrate_from_run(s, problem)) {
        return false;
    }
    for (unsigned i = 0; i < series->count && done == 0; i++) {
        const float xyz[3] = { (float)series->value[3 * i], (float)series->value[3 * i + 1],
                               (float)series->value[3 * i + 2] };
        done = take_position(s, &turning, xyz, true);
    }
    return true;
}

bool cli_guide_positions(struct subject *s, struct pintle_problem *problem)
{
    struct turning turning = { PINTLE_POSITION_TURNING };
    const struct calibrate_options *o = s->options;
    unsigned first = first_axis(s);
    struct pintle_wanted asked = s->wanted;
    begin_positions(s);
    if (o->how == PINTLE_METHOD_ORIENTATIONS) {
        unsigned axis = s->wanted.of.channel - first;
        s->positions.wanted = (uint8_t)(3u << 2 * axis | 1u << (2 * axis + 2) % 6);
    }
    s->wanted.of.channel = first; /* all three tell how it lies */
    s->wanted.wide = 3;
    if (!o->run && !o->afresh && pintle_progress_take(s->rig, s->name, &s->positions)) {
        cli_say("%u positions are there from before; --afresh takes all anew.",
                ones(s->positions.taken));
    }
    bool ok = true;
    if (o->run) {
        ok = feed_run(s, problem);
    } else if ((s->positions.taken & s->positions.wanted) != s->positions.wanted) {
        cli_say("Lay the sensor on a firm surface so that each of these points where it says, one "
                "after the other, and keep your hands off until it is taken.");
        say_missing(&s->positions);
        ok = stream(s, take_position, listen_positions, &turning, problem);
    }
    if (!ok && s->positions.taken) {
        char *was = g_strdup(problem->text);
        g_snprintf(problem->text, sizeof problem->text,
                   "%s; %u positions wait beside the rig, and the same command goes on from there",
                   was, ones(s->positions.taken));
        g_free(was);
    }
    s->wanted.of.channel = asked.of.channel;
    s->wanted.wide = asked.wide;
    return ok;
}

/* --- rest, and a free turn: samples into the series --- */

struct gathering {
    struct pintle_still still;
    unsigned room, needed;
    unsigned octant[8]; /* how many from each eighth of all directions */
    double least;       /* that an axis has to change by to have been turned */
    bool moved;
};

static void begin_series(struct subject *s, struct gathering *g, unsigned usual)
{
    unsigned needed = s->options->samples > 0 ? (unsigned)s->options->samples : usual;
    g->needed = g->room = needed;
    pintle_series_free(&s->series);
    s->series = (struct pintle_series){ .wide = s->wanted.wide,
                                        .time = g_new0(double, g->room),
                                        .value = g_new0(double, (gsize)s->wanted.wide * g->room) };
}

static void put(struct subject *s, const float values[3])
{
    struct pintle_series *series = &s->series;
    for (unsigned a = 0; a < series->wide; a++) {
        series->value[series->wide * series->count + a] = (double)values[a];
    }
    series->time[series->count++] = (double)pintle_station_now(s->station) / 1e6;
}

static int take_rest(struct subject *s, void *own, const float values[3], bool good)
{
    struct gathering *g = own;
    if (good && pintle_still_add(&g->still, values) == 0) {
        if (s->series.count >= g->needed / 4 || (s->series.count > 0 && !g->moved)) {
            clear();
            cli_say("It was moved; the %u samples so far are dropped. Don't touch it, nor what it "
                    "lies on.",
                    s->series.count);
            g->moved = true;
        }
        s->series.count = 0;
    } else if (good) {
        put(s, values);
    }
    progress("at rest, %u of %u", s->series.count, g->needed);
    return s->series.count >= g->needed;
}

static int listen_gathering(struct subject *s, void *own, const char *line)
{
    struct gathering *g = own;
    clear();
    if (strcmp(line, "quit") == 0) {
        return -1;
    }
    if (strcmp(line, "done") == 0) {
        g->needed = MIN(g->needed, s->series.count);
        return 1;
    }
    if (strcmp(line, "back") == 0 || strcmp(line, "again") == 0) {
        s->series.count = 0;
        memset(g->octant, 0, sizeof g->octant);
        g->still.count = 0;
        cli_say("All is forgotten; it begins anew.");
    } else {
        cli_say("Type 'again' to begin anew, 'done' or 'quit'.");
    }
    return 0;
}

/* Its time is over, and nobody said that it is enough. */
static bool enough(const struct subject *s, const struct gathering *g,
                   struct pintle_problem *problem)
{
    return s->series.count >= g->needed
           || pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                 "too few samples: %u of %u without being disturbed; give it more "
                                 "time with --for, or ask for less with --samples",
                                 s->series.count, g->needed);
}

#define AT_REST 0.02f /* rad/s from one extreme to the other: more is a hand, or a boat */

bool cli_guide_rest(struct subject *s, struct pintle_problem *problem)
{
    struct gathering g = { .still = { .axes = (uint8_t)s->wanted.wide, .limit = AT_REST } };
    begin_series(s, &g, 400);
    cli_say("Lay the gyroscope down and don't touch it, nor what it lies on.");
    return stream(s, take_rest, listen_gathering, &g, problem) && enough(s, &g, problem);
}

/* The eighth that a direction lies in, seen from the middle of all so far. */
static void count_octants(const struct subject *s, struct gathering *g)
{
    const struct pintle_series *series = &s->series;
    double least[3] = { INFINITY, INFINITY, INFINITY };
    double most[3] = { -INFINITY, -INFINITY, -INFINITY };
    memset(g->octant, 0, sizeof g->octant);
    for (unsigned pass = 0; pass < 2; pass++) {
        for (unsigned i = 0; i < series->count; i++) {
            unsigned octant = 0;
            for (unsigned a = 0; a < 3; a++) {
                double v = series->value[3 * i + a];
                least[a] = fmin(least[a], v);
                most[a] = fmax(most[a], v);
                octant |= (v > (least[a] + most[a]) / 2 ? 1u : 0u) << a;
            }
            g->octant[octant] += pass;
        }
    }
    for (unsigned a = 0; a < 3; a++) { /* noise has directions too */
        if (!(most[a] - least[a] >= g->least)) {
            memset(g->octant, 0, sizeof g->octant);
        }
    }
}

static unsigned octants_seen(const struct gathering *g)
{
    unsigned seen = 0;
    for (unsigned i = 0; i < 8; i++) {
        seen += g->octant[i] * 24 >= g->needed; /* a third of its share */
    }
    return seen;
}

/* Where all eighths were seen it is enough; where some are missing, the oldest half makes room. */
static int take_turn(struct subject *s, void *own, const float values[3], bool good)
{
    struct gathering *g = own;
    if (good) {
        put(s, values);
    }
    if (s->series.count % 16 == 0 || s->series.count == g->needed) {
        count_octants(s, g);
    }
    progress("%u of %u, %u of 8 directions", s->series.count, g->needed, octants_seen(g));
    if (s->series.count < g->needed) {
        return 0;
    }
    if (octants_seen(g) == 8) {
        return 1;
    }
    clear();
    cli_say("Only %u of 8 directions were seen: turn it over all its sides, head over heels too.",
            octants_seen(g));
    unsigned kept = 0;
    for (unsigned i = 0; i < s->series.count; i += 2, kept++) {
        s->series.time[kept] = s->series.time[i];
        memmove(&s->series.value[3 * kept], &s->series.value[3 * i], 3 * sizeof *s->series.value);
    }
    s->series.count = kept;
    return 0;
}

bool cli_guide_turn(struct subject *s, struct pintle_problem *problem)
{
    const struct pintle_rig_sensor *sensor = &s->rig->sensor[s->wanted.of.sensor];
    struct gathering g = { .room = 0 };
    g.least = fmax(30 * pintle_worth_count(sensor, s->wanted.of.channel, 0), s->options->strength);
    begin_series(s, &g, 400);
    cli_say("Turn the sensor slowly through all directions, away from iron and wires, until it has "
            "enough.");
    return stream(s, take_turn, listen_gathering, &g, problem) && enough(s, &g, problem);
}

/* --- points: settled, then asked --- */

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
static bool settle(struct subject *s, struct pintle_spread *mean, struct pintle_problem *problem)
{
    const struct pintle_rig_sensor *sensor = &s->rig->sensor[s->wanted.of.sensor];
    const struct pintle_sheet *sheet = sensor->sheet;
    unsigned c = s->wanted.of.channel;
    double accuracy = sheet->channels ? (double)sheet->channels[c].accuracy_narrow : 0;
    double middle = (double)(s->about->lowest + s->about->highest) / 2;
    double least =
        fmax(3 * pintle_worth_count(sensor, c, middle), 5 * pow(10, -s->about->decimals));
    float limit = (float)fmax(least, accuracy / 4);
    struct pintle_still still = { .axes = 1, .limit = limit };
    int64_t began = now_us(s);
    int64_t next = began;
    int64_t since = began;
    memset(mean, 0, sizeof *mean);
    while (!cli_calibrate_stop) {
        float values[3] = { 0 };
        uint16_t quality = measure(s, values);
        if (quality & ~PINTLE_QUALITY_JUMP) {
            return no_reading(s, quality, problem);
        }
        if (quality) { /* plunged into a bath: it has not settled */
            still.count = 0;
        }
        if (pintle_still_add(&still, values) <= 1) {
            since = now_us(s);
            memset(mean, 0, sizeof *mean);
        }
        (void)!pintle_spread_add(mean, values[0]);
        progress("%.3f %s, settled for %.0f of %.0f s", cli_calibrate_shown(s, (double)values[0]),
                 cli_calibrate_unit(s), (double)(now_us(s) - since) / 1e6,
                 (double)s->options->settle_us / 1e6);
        if (now_us(s) - since >= s->options->settle_us
            && mean->count >= (unsigned)MAX(s->options->samples, 2)) {
            clear();
            return true;
        }
        if (now_us(s) - began >= PATIENCE * s->options->settle_us) {
            clear();
            cli_say("It does not settle: it moved by more than %.3f %s again and again. Stir the "
                    "bath or move it out of the draught, or ask less of it with --settle.",
                    (double)limit * cli_calibrate_per_base(s), cli_calibrate_unit(s));
            mean->count = 0;
            return true;
        }
        pace(s, &next);
    }
    clear();
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
        struct pintle_spread mean;
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
        double value = (double)pintle_spread_mean(&mean);
        do {
            if (mean.count > 0) {
                fprintf(stderr, "sensor %.3f %s, scatter %.3f, reference? ",
                        cli_calibrate_shown(s, value), cli_calibrate_unit(s),
                        sqrt((double)pintle_spread_variance(&mean)) * cli_calibrate_per_base(s));
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
    int64_t began = now_us(s);
    int64_t next = began;
    const struct pintle_wanted *w = &s->wanted;
    bool feels = w->wide == 3 && s->about->quantity == PINTLE_QUANTITY_ACCELERATION;
    int64_t length = s->options->length ? s->options->for_us : INT64_MAX / 2;
    for (unsigned a = 0; a < w->wide; a++) {
        printf("%s%12s %12s", a ? "  " : "", s->about[a].name, "corrected");
    }
    printf("   %s%s\n", cli_calibrate_unit(s), feels ? ", which axis points down" : "");
    for (; now_us(s) - began < length && !cli_calibrate_stop; pace(s, &next)) {
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
        int8_t face = feels ? pintle_face_up(xyz) : -1;
        static const char *const down[] = { "-x", "x", "-y", "y", "-z", "z" };
        printf("   %s\n", !feels ? "" : face < 0 ? "none" : down[face]);
        fflush(stdout);
    }
    return cli_printed(problem);
}
