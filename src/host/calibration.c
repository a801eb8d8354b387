#include "pintle/host/calibration.h"

#include <glib.h>
#include <jansson.h>
#include <math.h>
#include <stdlib.h>
#include <string.h>

#include "host/files.h"
#include "host/place.h"
#include "pintle/format.h"

static const char *const methods[] = { "offset", "straight line" };

bool pintle_calibration_fit(struct pintle_calibration *calibration, struct pintle_problem *problem)
{
    struct pintle_fit fit = { 0 };
    for (unsigned i = 0; i < calibration->pair_count; i++) {
        pintle_fit_add(&fit, (float)calibration->pairs[i].sensor,
                       (float)calibration->pairs[i].reference);
    }
    bool line = calibration->method == PINTLE_METHOD_LINE;
    enum pintle_status status = line ? pintle_fit_line(&fit, &calibration->line)
                                     : pintle_fit_offset(&fit, &calibration->line);
    if (status != PINTLE_OK) {
        return pintle_problem_set(
            problem, PINTLE_FAILURE_USE, "%s",
            line ? "a straight line needs two pairs at different values; add pairs, or calibrate "
                   "with --method offset"
                 : "an offset needs one pair at least; give one as RAW=REFERENCE");
    }
    calibration->residual = sqrt((double)calibration->line.variance);
    calibration->uncertainty = sqrt((double)calibration->line.offset_variance);
    return true;
}

static bool parse_pair(const char *line, struct pintle_pair *pair)
{
    char *end = NULL;
    pair->sensor = g_ascii_strtod(line, &end);
    if (end == line) {
        return false;
    }
    end += strspn(end, " \t");
    if (*end != ',' && *end != ';') {
        return false;
    }
    const char *second = end + 1;
    pair->reference = g_ascii_strtod(second, &end);
    return end > second && end[strspn(end, " \t\r")] == '\0' && isfinite(pair->sensor)
           && isfinite(pair->reference);
}

bool pintle_calibration_pairs(const char *path, struct pintle_pair **pairs, unsigned *count,
                              struct pintle_problem *problem)
{
    char *text = files_read(path, "CSV file of pairs", problem);
    if (!text) {
        return false;
    }
    char **lines = g_strsplit(text, "\n", -1);
    *pairs = calloc(g_strv_length(lines) + 1, sizeof **pairs);
    *count = 0;
    bool ok = true;
    for (unsigned i = 0; lines[i] && ok; i++) {
        g_strchomp(lines[i]);
        if (lines[i][0] == '\0') {
            continue;
        }
        if (parse_pair(lines[i], &(*pairs)[*count])) {
            (*count)++;
        } else if (i > 0) {
            ok = pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                    "%s:%u: '%s' is no pair of numbers; each line is the sensor's "
                                    "value, a comma, the reference's",
                                    path, i + 1, lines[i]);
        }
    }
    g_strfreev(lines);
    g_free(text);
    return ok;
}

char *pintle_calibration_path(const struct pintle_rig *rig)
{
    char *base = rig->path ? g_path_get_basename(rig->path) : g_strdup("sloop.rig");
    if (g_str_has_suffix(base, ".rig")) {
        base[strlen(base) - 4] = '\0';
    }
    char *file = g_strconcat(base, ".calibration.json", NULL);
    char *path = g_build_filename(rig->folder, file, NULL);
    g_free(base);
    g_free(file);
    return path;
}

/* The file's content, {"corrections": []} where there is none yet, or null. */
static json_t *load_file(const char *path, struct pintle_problem *problem)
{
    json_error_t error;
    if (!g_file_test(path, G_FILE_TEST_EXISTS)) {
        return json_pack("{s:s, s:[]}", "format", "pintle calibration 1", "corrections");
    }
    json_t *root = json_load_file(path, 0, &error);
    if (root && json_is_array(json_object_get(root, "corrections"))) {
        return root;
    }
    pintle_problem_set(problem, PINTLE_FAILURE_USE,
                       "%s:%d: this is no calibration file (%s); mend it, or move it away to begin "
                       "afresh",
                       path, root ? 1 : error.line, root ? "no \"corrections\"" : error.text);
    json_decref(root);
    return NULL;
}

static bool is_entry(json_t *entry, const char *sensor, const char *channel)
{
    return g_strcmp0(json_string_value(json_object_get(entry, "sensor")), sensor) == 0
           && g_strcmp0(json_string_value(json_object_get(entry, "channel")), channel) == 0;
}

static char *date_text(int64_t utc_us)
{
    char buffer[32];
    struct pintle_text text;
    pintle_text_init(&text, buffer, sizeof buffer);
    pintle_text_time(&text, utc_us, 0, 0);
    return g_strdup(buffer);
}

static json_t *make_entry(const struct pintle_rig *rig, unsigned sensor, unsigned channel,
                          const struct pintle_calibration *calibration, int64_t utc_us)
{
    const struct pintle_rig_sensor *s = &rig->sensor[sensor];
    const struct pintle_channel *c = &s->sheet->part->channels[channel];
    const struct pintle_correction *correction = &calibration->line.correction;
    json_t *pairs = json_array();
    for (unsigned i = 0; i < calibration->pair_count; i++) {
        json_array_append_new(pairs, json_pack("[f, f]", calibration->pairs[i].sensor,
                                               calibration->pairs[i].reference));
    }
    char *date = date_text(utc_us);
    json_t *entry = json_pack(
        "{s:s, s:s, s:s, s:s, s:s, s:s, s:s, s:f, s:f, s:f, s:f, s:o}", "sensor", s->name,
        "channel", c->name, "part", s->sheet->part->name, "bus", rig->bus[s->bus].name, "unit",
        pintle_quantity_symbol(c->quantity), "method", methods[calibration->method], "date", date,
        "gain", (double)correction->gain, "offset", (double)correction->offset, "residual",
        calibration->residual, "uncertainty", calibration->uncertainty, "pairs", pairs);
    place_put(entry, rig, sensor);
    g_free(date);
    return entry;
}

static void remove_entry(json_t *list, const char *sensor, const char *channel)
{
    for (size_t i = json_array_size(list); i-- > 0;) {
        if (is_entry(json_array_get(list, i), sensor, channel)) {
            json_array_remove(list, i);
        }
    }
}

bool pintle_calibration_keep(const struct pintle_rig *rig, unsigned sensor, unsigned channel,
                             const struct pintle_calibration *calibration, int64_t utc_us,
                             struct pintle_problem *problem)
{
    char *path = pintle_calibration_path(rig);
    json_t *root = load_file(path, problem);
    bool ok = root != NULL;
    if (ok) {
        json_t *list = json_object_get(root, "corrections");
        const struct pintle_rig_sensor *s = &rig->sensor[sensor];
        remove_entry(list, s->name, s->sheet->part->channels[channel].name);
        json_array_append_new(list, make_entry(rig, sensor, channel, calibration, utc_us));
        char *text = json_dumps(root, JSON_INDENT(2) | JSON_REAL_PRECISION(8));
        ok = files_replace(path, text, problem);
        free(text);
        json_decref(root);
    }
    g_free(path);
    return ok;
}

static const struct pintle_rig_sensor *same_sensor(const struct pintle_rig *rig, json_t *entry)
{
    const char *name = json_string_value(json_object_get(entry, "sensor"));
    const char *part = json_string_value(json_object_get(entry, "part"));
    for (unsigned i = 0; i < rig->sensors; i++) {
        const struct pintle_rig_sensor *s = &rig->sensor[i];
        if (g_strcmp0(s->name, name) == 0 && g_strcmp0(s->sheet->part->name, part) == 0
            && place_is(entry, rig, i)) {
            return s;
        }
    }
    return NULL;
}

static bool take_entry(struct pintle_rig *rig, json_t *entry)
{
    const struct pintle_rig_sensor *found = same_sensor(rig, entry);
    const char *channel = json_string_value(json_object_get(entry, "channel"));
    json_t *gain = json_object_get(entry, "gain");
    json_t *offset = json_object_get(entry, "offset");
    int c = found && channel ? pintle_sheet_channel(found->sheet, channel) : -1;
    if (c < 0 || !json_is_number(gain) || !json_is_number(offset)) {
        return false;
    }
    rig->sensor[found - rig->sensor].channel[c].correction =
        (struct pintle_correction){ (float)json_number_value(gain),
                                    (float)json_number_value(offset), 1 };
    return true;
}

static void remark_entry(const char *path, json_t *entry, void (*remark)(const char *))
{
    const char *sensor = json_string_value(json_object_get(entry, "sensor"));
    const char *part = json_string_value(json_object_get(entry, "part"));
    char *sentence = g_strdup_printf(
        "%s: the correction of '%s' (%s) is not used: the rig has no such sensor, part and place "
        "any more",
        path, sensor ? sensor : "?", part ? part : "?");
    remark(sentence);
    g_free(sentence);
}

bool pintle_calibration_load(struct pintle_rig *rig, void (*remark)(const char *sentence),
                             struct pintle_problem *problem)
{
    char *path = pintle_calibration_path(rig);
    json_t *root = load_file(path, problem);
    json_t *entry = NULL;
    size_t i = 0;
    json_array_foreach (json_object_get(root, "corrections"), i, entry) {
        if (!take_entry(rig, entry) && remark) {
            remark_entry(path, entry, remark);
        }
    }
    bool ok = root != NULL;
    json_decref(root);
    g_free(path);
    return ok;
}
