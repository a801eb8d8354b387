/* host/adjust/guide.h: what a guided calibration makes of a live stream, a measurement at a time.
 *
 * No words and no keys here: each call says what has come about, and whoever leads a person through
 * it says so. Nothing waits.
 */
#ifndef PINTLE_HOST_ADJUST_GUIDE_H
#define PINTLE_HOST_ADJUST_GUIDE_H

#include "pintle/fit.h"
#include "pintle/host/keep/calibration.h"

PINTLE_C_BEGIN

/* --- positions of an accelerometer, in whatever order they come --- */

enum pintle_position {
    PINTLE_POSITION_TURNING,     /* not still yet */
    PINTLE_POSITION_TAKING,      /* still, and measured */
    PINTLE_POSITION_TAKEN,       /* this one is complete now */
    PINTLE_POSITION_HELD,        /* and still is held */
    PINTLE_POSITION_MOVED,       /* it was moved while it was measured: that position begins anew */
    PINTLE_POSITION_TILTED,      /* still, but no axis points up or down */
    PINTLE_POSITION_AGAIN,       /* still, in a position that was taken before */
    PINTLE_POSITION_UNWANTED,    /* still, and nobody asked for that position */
    PINTLE_POSITION_NOT_GRAVITY, /* still, and what it feels is not gravity's strength */
    PINTLE_POSITION_SUSPECT,     /* a reading that is not good: left out */
    PINTLE_POSITION_DONE         /* the last one is complete */
};

struct pintle_positions {
    uint8_t wanted;   /* a bit for each face: 1 x up, 2 x down, 4 y up, ... */
    uint32_t samples; /* of each position */
    uint32_t settle;  /* so many in a row are still before it counts */
    float gravity;

    struct pintle_fit_still still; /* its limit and axes are the caller's too */
    struct pintle_fit_faces faces;
    struct pintle_fit_spread now[3]; /* of the position that is held */
    uint8_t taken;                   /* bits */
    int8_t face;                     /* that is held; -1: none */
    int8_t last;                     /* that was taken last; -1: none */
    int8_t told;                     /* as which somebody wants it taken; -1: as it feels */
    bool held;                       /* it is complete */
    bool doubted;                    /* it lies still, and as none of them */
};

/* Set the first members and the still detector's, the others to 0. */
void pintle_positions_begin(struct pintle_positions *positions);
enum pintle_position pintle_positions_add(struct pintle_positions *positions, const float xyz[3],
                                          bool good);

/* Of a sensor that lies still and feels no gravity, or no axis up or down, since an axis may be far
 * off: take it as this face, until it is moved. False: it was just moved, or there is no doubt. */
bool pintle_positions_tell(struct pintle_positions *positions, int face);

/* Forget a face, to take it again. False: it was not taken. */
bool pintle_positions_forget(struct pintle_positions *positions, int face);

/* What they tell: six positions of three axes, or scale and offset of one axis from its
 * orientations (up and down, and level where any other face was taken). */
bool pintle_positions_solve(const struct pintle_positions *positions,
                            struct pintle_calibration *calibration, struct pintle_problem *problem);
bool pintle_positions_solve_axis(const struct pintle_positions *positions, unsigned axis,
                                 struct pintle_calibration *calibration,
                                 struct pintle_problem *problem);

/* Which way a face's axis points: "x up". */
const char *pintle_face_word(int face);

/* --- how far it has come, beside the rig, so that nothing is lost by a break --- */

/* Keep it, take it up again (false: there is none, or another one's), forget it. */
bool pintle_progress_keep(const struct pintle_rig *rig, const char *of,
                          const struct pintle_positions *positions, struct pintle_problem *problem);
bool pintle_progress_take(const struct pintle_rig *rig, const char *of,
                          struct pintle_positions *positions);
void pintle_progress_forget(const struct pintle_rig *rig, const char *of);

PINTLE_C_END

#endif
