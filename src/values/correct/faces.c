/* Six positions of an accelerometer.
 *
 * What it says is K a + b, with a = +g or -g along one axis. By least squares over the six means b
 * is their mean, and a column of K half the difference of an axis up and down, over g; 18 means
 * less 12 numbers leave 6 degrees of freedom. The correction is a = M (said - b), M the inverse of
 * K. */
#include <string.h>

#include "twofold.h"

#if !PINTLE_WHOLE

int8_t pintle_fit_face_up(const float xyz[3])
{
    float squares = xyz[0] * xyz[0] + xyz[1] * xyz[1] + xyz[2] * xyz[2];
    for (int8_t i = 0; i < 3; i++) {
        float along = xyz[i] * xyz[i];
        if (along > 0.9330f * squares) { /* cos^2 of 15 degrees */
            return (int8_t)(2 * i + (xyz[i] < 0));
        }
    }
    return -1;
}

enum pintle_status pintle_fit_faces_add(struct pintle_fit_faces *faces, uint8_t face,
                                        const float xyz[3])
{
    if (face >= PINTLE_FACES) {
        return PINTLE_BAD_ARGUMENT;
    }
    for (uint8_t i = 0; i < 3; i++) {
        if (!pintle_priv_is_finite(xyz[i])) {
            return PINTLE_OUT_OF_RANGE;
        }
    }
    enum pintle_status status = PINTLE_OK;
    for (uint8_t i = 0; i < 3 && status == PINTLE_OK; i++) {
        status = pintle_fit_spread_add(&faces->of[face][i], xyz[i]);
    }
    return status;
}

enum pintle_status pintle_fit_faces_axis(const struct pintle_fit_faces *faces, uint8_t axis,
                                         float gravity, struct pintle_fit_result *line)
{
    struct pintle_fit fit;
    memset(&fit, 0, sizeof fit);
    if (axis > 2) {
        return PINTLE_BAD_ARGUMENT;
    }
    const struct pintle_fit_spread *up = &faces->of[2 * axis][axis];
    const struct pintle_fit_spread *down = &faces->of[2 * axis + 1][axis];
    if (up->count == 0 || down->count == 0) {
        return PINTLE_TOO_FEW;
    }
    for (uint8_t face = 0; face < PINTLE_FACES; face++) {
        const struct pintle_fit_spread *said = &faces->of[face][axis];
        float felt = face / 2 != axis ? 0 : face % 2 ? -gravity : gravity;
        if (said->count > 0) {
            (void)!pintle_fit_add(&fit, pintle_fit_spread_mean(said), felt);
        }
    }
    return pintle_fit_line(&fit, line);
}

/* The inverse of a matrix by rows, by its cofactors. 0: it has none. */
static uint8_t invert(const float k[9], float m[9])
{
    for (uint8_t row = 0; row < 3; row++) {
        for (uint8_t column = 0; column < 3; column++) {
            uint8_t r1 = (uint8_t)((column + 1) % 3 * 3), r2 = (uint8_t)((column + 2) % 3 * 3);
            uint8_t c1 = (uint8_t)((row + 1) % 3), c2 = (uint8_t)((row + 2) % 3);
            m[3 * row + column] = k[r1 + c1] * k[r2 + c2] - k[r1 + c2] * k[r2 + c1];
        }
    }
    float determinant = k[0] * m[0] + k[1] * m[3] + k[2] * m[6];
    for (uint8_t i = 0; i < 9; i++) {
        m[i] /= determinant;
        if (!pintle_priv_is_finite(m[i])) {
            return 0;
        }
    }
    return 1;
}

/* Means, and from them K and b; what is left over. */
static float fit(const struct pintle_fit_faces *faces, float gravity, float k[9], float b[3])
{
    float left = 0;
    for (uint8_t i = 0; i < 3; i++) {
        b[i] = 0;
        for (uint8_t face = 0; face < PINTLE_FACES; face++) {
            b[i] += pintle_fit_spread_mean(&faces->of[face][i]) / PINTLE_FACES;
        }
        for (uint8_t axis = 0; axis < 3; axis++) {
            float up = pintle_fit_spread_mean(&faces->of[2 * axis][i]);
            float down = pintle_fit_spread_mean(&faces->of[2 * axis + 1][i]);
            float off = (up + down) / 2 - b[i];
            k[3 * i + axis] = (up - down) / (2 * gravity);
            left += 2 * off * off;
        }
    }
    return left;
}

enum pintle_status pintle_fit_faces_solve(const struct pintle_fit_faces *faces, float gravity,
                                          struct pintle_fit_axes *axes)
{
    float k[9];
    float noise = 0;
    float freedom = 0;
    memset(axes, 0, sizeof *axes);
    for (uint8_t face = 0; face < PINTLE_FACES; face++) {
        for (uint8_t i = 0; i < 3; i++) {
            const struct pintle_fit_spread *s = &faces->of[face][i];
            if (s->count == 0) {
                return PINTLE_TOO_FEW;
            }
            noise += pintle_priv_narrow(s->squares);
            freedom += (float)(s->count - 1);
        }
    }
    axes->variance = fit(faces, gravity, k, axes->numbers) / 6;
    axes->noise_variance = freedom > 0 ? noise / freedom : 0;
    axes->bias_variance = axes->variance / PINTLE_FACES;
    axes->scale_variance = axes->variance / (2 * gravity * gravity);
    return invert(k, axes->numbers + 3) ? PINTLE_OK : PINTLE_OUT_OF_RANGE;
}

#endif
