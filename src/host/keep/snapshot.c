#include "pintle/host/keep/snapshot.h"

#include <glib.h>
#include <jansson.h>
#include <string.h>

#include "host/base/files.h"
#include "host/base/json.h"
#include "host/rig/place.h"
#include "pintle/host/base/output.h"

static struct pintle_snapshot *empty(const struct pintle_sheet *sheet)
{
    return g_new0(struct pintle_snapshot, sheet->reg_count + 1u);
}

struct pintle_snapshot *pintle_snapshot_take(struct pintle_station *station, unsigned sensor,
                                             struct pintle_problem *problem)
{
    const struct pintle_rig_sensor *from = &station->rig->sensor[sensor];
    struct pintle_snapshot *snapshot = empty(from->sheet);
    for (unsigned i = 0; i < from->sheet->reg_count; i++) {
        const struct pintle_map_reg *reg = &from->sheet->regs[i];
        if (reg->reg.flags & PINTLE_REG_WRITE_ONLY) {
            continue;
        }
        enum pintle_status status =
            pintle_reg_read(&station->rigged[sensor].any.sensor, &reg->reg, &snapshot[i].value);
        if (status != PINTLE_OK) {
            pintle_problem_set(problem, PINTLE_FAILURE_RIG,
                               "sensor '%s', register %s: %s; 'pintle scan' says what is wrong",
                               from->name, reg->name, pintle_status_sentence(status));
            g_free(snapshot);
            return NULL;
        }
        snapshot[i].known = 1;
    }
    return snapshot;
}

bool pintle_snapshot_save(const struct pintle_station *station, unsigned sensor,
                          const struct pintle_snapshot *snapshot, const char *path,
                          struct pintle_problem *problem)
{
    const struct pintle_rig_sensor *from = &station->rig->sensor[sensor];
    json_t *registers = json_object();
    for (unsigned i = 0; i < from->sheet->reg_count; i++) {
        if (snapshot[i].known) {
            char value[16];
            g_snprintf(value, sizeof value, "0x%0*x", 2 * from->sheet->regs[i].reg.width,
                       snapshot[i].value);
            json_object_set_new(registers, from->sheet->regs[i].name, json_string(value));
        }
    }
    char when[32];
    struct pintle_text date;
    pintle_text_init(&date, when, sizeof when);
    pintle_text_time(&date, pintle_station_now(station), 0, 0);
    json_t *root = json_pack("{s:s, s:s, s:s, s:s}", "format", "pintle registers 1", "sensor",
                             from->name, "part", from->sheet->part->name, "date", when);
    pintle_priv_place_put(root, station->rig, sensor);
    json_object_set_new(root, "registers", registers);
    bool ok = pintle_output_may(path, problem) && pintle_priv_json_write(root, path, problem);
    json_decref(root);
    return ok;
}

static bool take_register(const struct pintle_sheet *sheet, const char *name, json_t *value,
                          struct pintle_snapshot *snapshot)
{
    const char *text = json_string_value(value);
    char *end = NULL;
    guint64 number = text ? g_ascii_strtoull(text, &end, 16) : 0;
    bool is_number = text && g_str_has_prefix(text, "0x") && end > text + 2 && *end == '\0';
    for (unsigned i = 0; is_number && i < sheet->reg_count; i++) {
        if (strcmp(sheet->regs[i].name, name) == 0) {
            snapshot[i].value = (uint32_t)number;
            snapshot[i].known = 1;
            return number >> 8 * sheet->regs[i].reg.width == 0;
        }
    }
    return false;
}

static bool take_registers(const struct pintle_sheet *sheet, json_t *root, const char *path,
                           struct pintle_snapshot *snapshot, struct pintle_problem *problem)
{
    const char *part = json_string_value(json_object_get(root, "part"));
    json_t *registers = json_object_get(root, "registers");
    const char *name = NULL;
    json_t *value = NULL;
    if (!part || !json_is_object(registers)) {
        return pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                  "%s is no snapshot of registers; make one with 'pintle regs "
                                  "SENSOR --save FILE'",
                                  path);
    }
    if (strcmp(part, sheet->part->name) != 0) {
        return pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                  "%s holds the registers of a %s, and this sensor is a %s", path,
                                  part, sheet->part->name);
    }
    json_object_foreach(registers, name, value)
    {
        if (!take_register(sheet, name, value, snapshot)) {
            return pintle_problem_set(
                problem, PINTLE_FAILURE_USE,
                "%s: a %s has no register '%s', or its value is no number that "
                "fits into it",
                path, part, name);
        }
    }
    return true;
}

struct pintle_snapshot *pintle_snapshot_load(const struct pintle_sheet *sheet, const char *path,
                                             struct pintle_problem *problem)
{
    json_error_t error;
    char *text = pintle_priv_files_read(path, "snapshot", problem);
    if (!text) {
        return NULL;
    }
    json_t *root = pintle_priv_json_parse(text, &error);
    struct pintle_snapshot *snapshot = empty(sheet);
    g_free(text);
    bool ok = root ? take_registers(sheet, root, path, snapshot, problem)
                   : pintle_problem_set(problem, PINTLE_FAILURE_USE, "%s:%d: %s", path, error.line,
                                        error.text);
    json_decref(root);
    if (!ok) {
        g_free(snapshot);
    }
    return ok ? snapshot : NULL;
}
