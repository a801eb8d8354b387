/* How far a guided calibration has come, as JSON beside the rig. */
#include <glib.h>
#include <glib/gstdio.h>
#include <jansson.h>
#include <string.h>

#include "host/base/files.h"
#include "host/base/json.h"
#include "pintle/host/adjust/guide.h"

/* One file for each name, so that none is lost by another: "boat.motion.accel.calibrating.json". */
static char *path_of(const struct pintle_rig *rig, const char *of)
{
    char *kept = pintle_calibration_path(rig);
    kept[strlen(kept) - strlen("calibration.json")] = '\0';
    char *path = g_strconcat(kept, of, ".calibrating.json", NULL);
    g_free(kept);
    return path;
}

static json_t *put_spread(const struct pintle_fit_spread *s)
{
    return json_pack("[I, f, f, f, f, f, f]", (json_int_t)s->count, (double)s->mean.high,
                     (double)s->mean.low, (double)s->squares.high, (double)s->squares.low,
                     (double)s->least, (double)s->greatest);
}

static bool take_spread(const json_t *from, struct pintle_fit_spread *s)
{
    float numbers[7];
    for (size_t i = 0; i < 7; i++) {
        const json_t *number = json_array_get(from, i);
        if (!json_is_number(number)) {
            return false;
        }
        numbers[i] = (float)json_number_value(number);
    }
    *s = (struct pintle_fit_spread){ .count = (uint32_t)numbers[0],
                                     .mean = { numbers[1], numbers[2] },
                                     .squares = { numbers[3], numbers[4] },
                                     .least = numbers[5],
                                     .greatest = numbers[6] };
    return s->count > 0;
}

bool pintle_progress_keep(const struct pintle_rig *rig, const char *of,
                          const struct pintle_positions *positions, struct pintle_problem *problem)
{
    json_t *faces = json_object();
    for (int face = 0; face < PINTLE_FACES; face++) {
        if (positions->taken >> face & 1) {
            const struct pintle_fit_spread *axes = positions->faces.of[face];
            json_object_set_new(faces, pintle_face_word(face),
                                json_pack("[o, o, o]", put_spread(&axes[0]), put_spread(&axes[1]),
                                          put_spread(&axes[2])));
        }
    }
    json_t *root = json_pack("{s:s, s:s, s:f, s:o}", "format", "pintle calibrating 1", "of", of,
                             "gravity", (double)positions->gravity, "positions", faces);
    char *path = path_of(rig, of);
    bool ok = pintle_priv_json_write(root, path, problem);
    g_free(path);
    json_decref(root);
    return ok;
}

bool pintle_progress_take(const struct pintle_rig *rig, const char *of,
                          struct pintle_positions *positions)
{
    char *path = path_of(rig, of);
    json_t *root = json_load_file(path, 0, NULL);
    json_t *faces = json_object_get(root, "positions");
    bool same = g_strcmp0(json_string_value(json_object_get(root, "of")), of) == 0;
    uint8_t taken = 0;
    for (int face = 0; face < PINTLE_FACES && same; face++) {
        struct pintle_fit_spread axes[3];
        const json_t *from = json_object_get(faces, pintle_face_word(face));
        if (take_spread(json_array_get(from, 0), &axes[0])
            && take_spread(json_array_get(from, 1), &axes[1])
            && take_spread(json_array_get(from, 2), &axes[2])) {
            memcpy(positions->faces.of[face], axes, sizeof axes);
            taken |= (uint8_t)(1u << face);
        }
    }
    positions->taken |= taken;
    json_decref(root);
    g_free(path);
    return taken != 0;
}

void pintle_progress_forget(const struct pintle_rig *rig, const char *of)
{
    char *path = path_of(rig, of);
    (void)g_unlink(path);
    g_free(path);
}
