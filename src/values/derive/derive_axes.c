/* Which way up, and where to: from gravity and the Earth's field. */
#include <math.h>

#include "pintle/derive.h"

#if !PINTLE_WHOLE

#define DEGREES 57.29578f
#define GRAVITY 9.80665f

static float sum_of_squares(const float *v)
{
    return v[0] * v[0] + v[1] * v[1] + v[2] * v[2];
}

/* More or less than gravity: it is being shaken, or falls. */
static void is_gravity(const float *a, pintle_marks *quality)
{
    float g = sum_of_squares(a) / (GRAVITY * GRAVITY);
    *quality |= g > 0.49f && g < 1.69f ? 0 : PINTLE_QUALITY_RANGE;
}

#define STEEP 0.03f /* (cos 80 deg)^2 */

/* Nearly on its nose or its stern a thing has no roll, and its front points nowhere along the
 * ground. */
static void is_not_upright(const float *a, pintle_marks *quality)
{
    *quality |= a[1] * a[1] + a[2] * a[2] > STEEP * sum_of_squares(a) ? 0 : PINTLE_QUALITY_RANGE;
}

static float pitch(struct pintle_derivation *of, const float *a, pintle_marks *quality)
{
    (void)of;
    is_gravity(a, quality);
    return DEGREES * atan2f(a[0], sqrtf(a[1] * a[1] + a[2] * a[2]));
}

static float roll(struct pintle_derivation *of, const float *a, pintle_marks *quality)
{
    (void)of;
    is_gravity(a, quality);
    is_not_upright(a, quality);
    return DEGREES * atan2f(a[1], a[2]);
}

/* With u the unit vector up and m the field: north along the ground is m - (m.u) u, east m x u. The
 * front's share of each tells where it points. */
static float heading(struct pintle_derivation *of, const float *inputs, pintle_marks *quality)
{
    const float *m = inputs;
    const float *a = inputs + 3;
    float length = sqrtf(sum_of_squares(a));
    is_gravity(a, quality);
    is_not_upright(a, quality);
    if (!(length > 0)) {
        return NAN;
    }
    float u[3] = { a[0] / length, a[1] / length, a[2] / length };
    float up = m[0] * u[0] + m[1] * u[1] + m[2] * u[2];
    float all = sum_of_squares(m);
    float level = all - up * up;
    *quality |= all > 20e-6f * 20e-6f && all < 70e-6f * 70e-6f && level > 5e-6f * 5e-6f
                    ? 0
                    : PINTLE_QUALITY_RANGE;
    float degrees = DEGREES * atan2f(m[1] * u[2] - m[2] * u[1], m[0] - up * u[0]) + of->numbers[0];
    return degrees < 0 ? degrees + 360 : degrees >= 360 ? degrees - 360 : degrees;
}

#define A PINTLE_QUANTITY_ACCELERATION
#define M PINTLE_QUANTITY_FLUX_DENSITY
const struct pintle_formula pintle_pitch PINTLE_TABLE = {
    .inputs = 3, .gives = PINTLE_QUANTITY_ANGLE, .takes = { A, A, A }, .make = pitch
};
const struct pintle_formula pintle_roll PINTLE_TABLE = {
    .inputs = 3, .gives = PINTLE_QUANTITY_ANGLE, .takes = { A, A, A }, .make = roll
};
const struct pintle_formula pintle_heading PINTLE_TABLE = { .inputs = 6,
                                                            .numbers = 1,
                                                            .gives = PINTLE_QUANTITY_ANGLE,
                                                            .takes = { M, M, M, A, A, A },
                                                            .make = heading };

/* --- mounts --- */

static int8_t size_of(int8_t axis)
{
    return axis < 0 ? (int8_t)-axis : axis;
}

static int8_t sign_of(int8_t axis)
{
    return axis < 0 ? -1 : 1;
}

/* Right-handed: an even permutation with an even number of minuses, or an odd one with an odd. */
uint8_t pintle_derive_mount_is_valid(const struct pintle_derive_mount *mount)
{
    int8_t x = size_of(mount->x);
    int8_t y = size_of(mount->y);
    int8_t z = size_of(mount->z);
    if (x < 1 || x > 3 || y < 1 || y > 3 || z < 1 || z > 3 || x == y || y == z || z == x) {
        return 0;
    }
    int8_t even = y == x % 3 + 1 ? 1 : -1;
    return even * sign_of(mount->x) * sign_of(mount->y) * sign_of(mount->z) > 0;
}

static struct pintle_reading turned(const struct pintle_reading *xyz, int8_t axis)
{
    struct pintle_reading reading = xyz[size_of(axis) - 1];
    reading.value *= sign_of(axis);
    return reading;
}

void pintle_derive_mount_apply(const struct pintle_derive_mount *mount, struct pintle_reading *xyz)
{
    struct pintle_reading x = turned(xyz, mount->x);
    struct pintle_reading y = turned(xyz, mount->y);
    struct pintle_reading z = turned(xyz, mount->z);
    xyz[0] = x;
    xyz[1] = y;
    xyz[2] = z;
}

#endif
