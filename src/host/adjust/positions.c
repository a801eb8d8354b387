#include <glib.h>
#include <math.h>
#include <string.h>

#include "pintle/host/adjust/guide.h"

const char *pintle_face_word(int face)
{
    static const char *const words[PINTLE_FACES] = { "x up",   "x down", "y up",
                                                     "y down", "z up",   "z down" };
    return face >= 0 && face < PINTLE_FACES ? words[face] : "none";
}

void pintle_positions_begin(struct pintle_positions *p)
{
    memset(&p->faces, 0, sizeof p->faces);
    memset(p->now, 0, sizeof p->now);
    p->taken = 0;
    p->face = p->last = p->told = -1;
    p->held = false;
    p->still.count = 0;
}

/* Another position begins. */
static void let_go(struct pintle_positions *p)
{
    memset(p->now, 0, sizeof p->now);
    p->face = p->told = -1;
    p->doubted = p->held = false;
}

#define STRANGE 0.2 /* of gravity, more or less: no gravity */

static enum pintle_position judge(const struct pintle_positions *p, const float xyz[3], int8_t face)
{
    float squares = xyz[0] * xyz[0] + xyz[1] * xyz[1] + xyz[2] * xyz[2];
    double strength = sqrt((double)squares) / (double)p->gravity;
    if (p->told < 0 && fabs(strength - 1) > STRANGE) {
        return PINTLE_POSITION_NOT_GRAVITY;
    }
    if (face < 0) {
        return PINTLE_POSITION_TILTED;
    }
    if (p->taken >> face & 1) {
        return PINTLE_POSITION_AGAIN;
    }
    return p->wanted >> face & 1 ? PINTLE_POSITION_TAKING : PINTLE_POSITION_UNWANTED;
}

static enum pintle_position take(struct pintle_positions *p, const float xyz[3])
{
    for (unsigned i = 0; i < 3; i++) {
        (void)!pintle_fit_spread_add(&p->now[i], xyz[i]); /* still: they are numbers */
    }
    if (p->now[0].count < p->samples) {
        return PINTLE_POSITION_TAKING;
    }
    memcpy(p->faces.of[p->face], p->now, sizeof p->now);
    p->taken |= (uint8_t)(1u << p->face);
    p->last = p->face;
    p->held = true;
    return (p->taken & p->wanted) == p->wanted ? PINTLE_POSITION_DONE : PINTLE_POSITION_TAKEN;
}

enum pintle_position pintle_positions_add(struct pintle_positions *p, const float xyz[3], bool good)
{
    if (!good) {
        return PINTLE_POSITION_SUSPECT;
    }
    uint32_t still = pintle_fit_still_add(&p->still, xyz);
    if (still == 0) {
        bool measuring = p->face >= 0 && !p->held;
        let_go(p);
        return measuring ? PINTLE_POSITION_MOVED : PINTLE_POSITION_TURNING;
    }
    if (p->held) {
        return PINTLE_POSITION_HELD;
    }
    if (still < p->settle) {
        return PINTLE_POSITION_TURNING;
    }
    int8_t face = p->told >= 0 ? p->told : pintle_fit_face_up(xyz);
    enum pintle_position is = judge(p, xyz, face);
    p->doubted = is == PINTLE_POSITION_NOT_GRAVITY || is == PINTLE_POSITION_TILTED;
    p->face = is == PINTLE_POSITION_TAKING ? face : -1;
    return is == PINTLE_POSITION_TAKING ? take(p, xyz) : is;
}

bool pintle_positions_tell(struct pintle_positions *p, int face)
{
    bool may = p->doubted && face >= 0 && face < PINTLE_FACES;
    p->told = may ? (int8_t)face : p->told;
    return may;
}

bool pintle_positions_forget(struct pintle_positions *p, int face)
{
    if (face < 0 || face >= PINTLE_FACES || !(p->taken >> face & 1)) {
        return false;
    }
    memset(p->faces.of[face], 0, sizeof p->faces.of[face]);
    p->taken &= (uint8_t) ~(1u << face);
    p->last = -1;
    let_go(p);
    p->still.count = 0;
    return true;
}

static unsigned samples_of(const struct pintle_positions *p)
{
    unsigned count = 0;
    for (unsigned face = 0; face < PINTLE_FACES; face++) {
        count += p->faces.of[face][0].count;
    }
    return count;
}

static bool not_yet(const struct pintle_positions *p, uint8_t wanted,
                    struct pintle_problem *problem)
{
    GString *missing = g_string_new(NULL);
    unsigned missed = wanted & ~(unsigned)p->taken;
    for (int face = 0; face < PINTLE_FACES; face++) {
        if (missed & 1u << face) {
            g_string_append_printf(missing, "%s%s", missing->len ? ", " : "",
                                   pintle_face_word(face));
        }
    }
    pintle_problem_set(problem, PINTLE_FAILURE_USE,
                       "too few positions: %s %s missing; the same command goes on from there",
                       missing->str, strchr(missing->str, ',') ? "are" : "is");
    g_string_free(missing, TRUE);
    return false;
}

bool pintle_positions_solve(const struct pintle_positions *p, struct pintle_calibration *c,
                            struct pintle_problem *problem)
{
    struct pintle_fit_axes axes;
    enum pintle_status status = pintle_fit_faces_solve(&p->faces, p->gravity, &axes);
    if (status == PINTLE_TOO_FEW) {
        return not_yet(p, 0x3f, problem);
    }
    if (status != PINTLE_OK) {
        return pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                  "these positions make no correction: two axes say the same; look "
                                  "at the sensor's wires and take them again");
    }
    pintle_calibration_init(c, PINTLE_METHOD_SIX_POSITIONS);
    c->kind = PINTLE_STAGE_AXES;
    c->count = 12;
    memcpy(c->numbers, axes.numbers, sizeof axes.numbers);
    for (unsigned i = 0; i < 12; i++) {
        c->deviation[i] = sqrt((double)(i < 3 ? axes.bias_variance : axes.scale_variance));
    }
    c->freedom = 6;
    c->residual = sqrt((double)axes.variance);
    /* Bias and a half share of scale at one g, of one axis. */
    c->uncertainty =
        sqrt((double)axes.bias_variance + (double)(axes.scale_variance * p->gravity * p->gravity));
    c->samples = samples_of(p);
    return true;
}

bool pintle_positions_solve_axis(const struct pintle_positions *p, unsigned axis,
                                 struct pintle_calibration *c, struct pintle_problem *problem)
{
    struct pintle_fit_result line;
    enum pintle_status status = pintle_fit_faces_axis(&p->faces, (uint8_t)axis, p->gravity, &line);
    if (status == PINTLE_TOO_FEW) {
        return not_yet(p, (uint8_t)(3u << 2 * axis), problem);
    }
    if (status != PINTLE_OK) {
        return pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                  "the axis says the same up and down; look at the sensor's wires");
    }
    pintle_calibration_init(c, PINTLE_METHOD_ORIENTATIONS);
    pintle_calibration_take_line(c, &line);
    c->samples = samples_of(p);
    return true;
}
