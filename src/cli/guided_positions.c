/* Positions of an accelerometer: what is said of each, and what may be typed meanwhile. */
#include <math.h>
#include <string.h>

#include "cli/guided.h"

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
    const struct pintle_fit_spread *of = p->faces.of[face];
    double per = cli_calibrate_per_base(s);
    double scatter = 0;
    for (unsigned i = 0; i < 3; i++) {
        scatter = fmax(scatter, sqrt((double)pintle_fit_spread_variance(&of[i])));
    }
    cli_say("Taken: %s, %.4f %.4f %.4f %s, scatter %.4f. %u of %u.", pintle_face_word(face),
            (double)pintle_fit_spread_mean(&of[0]) * per,
            (double)pintle_fit_spread_mean(&of[1]) * per,
            (double)pintle_fit_spread_mean(&of[2]) * per, cli_calibrate_unit(s), scatter * per,
            ones(p->taken & p->wanted), ones(p->wanted));
}

static void say_event(const struct subject *s, enum pintle_position is, const float xyz[3])
{
    const struct pintle_positions *p = &s->positions;
    double per = cli_calibrate_per_base(s);
    int8_t face = pintle_fit_face_up(xyz);
    switch (is) {
    case PINTLE_POSITION_MOVED:
        cli_say("It was moved; this position begins anew. Lay it on something firm.");
        break;
    case PINTLE_POSITION_TILTED:
        cli_say("No axis points up or down (%.2f %.2f %.2f %s): turn it until one does, within 15 "
                "degrees. Where one does, an axis is far off: type which, as in 'x up'.",
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
        cli_say(
            "It lies still, feels %.2f %s in all, and gravity is %.2f: an axis has a large offset "
            "or another scale, or the sensor turns, or is broken. Where you trust it, type which "
            "axis points where, as in 'x up'.",
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
            cli_progress_clear();
        }
        say_event(s, is, xyz);
    }
    turning->last = is;
    if (complete) {
        keep_progress(s);
    }
    cli_progress("x %+7.3f  y %+7.3f  z %+7.3f %s  %s  %s %u of %u",
                 (double)xyz[0] * cli_calibrate_per_base(s),
                 (double)xyz[1] * cli_calibrate_per_base(s),
                 (double)xyz[2] * cli_calibrate_per_base(s), cli_calibrate_unit(s),
                 pintle_face_word(pintle_fit_face_up(xyz)),
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

/* Somebody says how it lies. */
static void tell(struct pintle_positions *p, int face)
{
    if (p->taken >> face & 1) {
        cli_say("%s was taken already; type 'again %s' first.", pintle_face_word(face),
                pintle_face_word(face));
    } else if (!(p->wanted >> face & 1)) {
        cli_say("%s is not asked for here.", pintle_face_word(face));
    } else if (pintle_positions_tell(p, face)) {
        cli_say("Measured as %s, as you say. Keep your hands off.", pintle_face_word(face));
    } else {
        cli_say("No need to say so: it moves, or it feels by itself how it lies.");
    }
}

static int listen_positions(struct subject *s, void *own, const char *line)
{
    struct turning *turning = own;
    struct pintle_positions *p = &s->positions;
    bool again = g_str_has_prefix(line, "again");
    int face = again && line[5] == ' ' ? face_of(line + 6) : p->last;
    cli_progress_clear();
    if (strcmp(line, "quit") == 0) {
        return -1;
    }
    if (strcmp(line, "done") == 0) {
        return 1;
    }
    if (face_of(line) >= 0) {
        tell(p, face_of(line));
    } else if (strcmp(line, "back") != 0 && !again) {
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
        s->axis = s->wanted.of.channel - first;
        s->positions.wanted = (uint8_t)(3u << 2 * s->axis | 1u << (2 * s->axis + 2) % 6);
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
        ok = cli_stream(s, take_position, listen_positions, &turning, problem);
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
