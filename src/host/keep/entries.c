#include "pintle/host/keep/calibration.h"

#include <glib.h>
#include <jansson.h>
#include <math.h>
#include <string.h>

#include "host/base/files.h"
#include "host/base/json.h"
#include "host/rig/place.h"
#include "pintle/format.h"

static const char *const methods[] = { "offset", "straight line" };

bool pintle_calibration_fit(struct pintle_calibration *calibration, struct pintle_problem *problem)
{
    struct pintle_fit fit = { 0 };
    for (unsigned i = 0; i < calibration->pair_count; i++) {
        const struct pintle_pair *pair = &calibration->pairs[i];
        if (pintle_fit_add(&fit, (float)pair->sensor, (float)pair->reference) != PINTLE_OK) {
            return pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                      "pair %u (%g, %g) is too large for a reading", i + 1,
                                      pair->sensor, pair->reference);
        }
    }
    bool line = calibration->method == PINTLE_METHOD_LINE;
    enum pintle_status status = line ? pintle_fit_line(&fit, &calibration->line)
                                     : pintle_fit_offset(&fit, &calibration->line);
    if (status == PINTLE_OUT_OF_RANGE) {
        return pintle_problem_set(
            problem, PINTLE_FAILURE_USE,
            "these pairs make no correction: its gain is 0 or its numbers are "
            "beyond all bounds; look for a mistyped one");
    }
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

/* How far the correction moves a value. */
static double moved(const struct pintle_calibration *fit, double value)
{
    const struct pintle_correction *c = &fit->line.correction;
    return fabs(value * (double)c->gain + (double)c->offset - value);
}

static double span_of(const struct pintle_calibration *fit)
{
    double least = INFINITY;
    double most = -INFINITY;
    for (unsigned i = 0; i < fit->pair_count; i++) {
        least = fmin(least, fit->pairs[i].sensor);
        most = fmax(most, fit->pairs[i].sensor);
    }
    return most - least;
}

/* The shares of a channel's range that tell a correction from a mistake. */
#define MUCH 0.1
#define LITTLE 0.02

char *pintle_calibration_doubt(const struct pintle_sheet *sheet, unsigned channel,
                               enum pintle_unit in, const struct pintle_calibration *fit)
{
    const struct pintle_channel *c = &sheet->part->channels[channel];
    double range = (double)c->highest - (double)c->lowest;
    double most = fmax(MUCH * range, 3 * (double)sheet->channels[channel].accuracy_wide);
    double far = fmax(moved(fit, (double)c->lowest), moved(fit, (double)c->highest));
    bool line = fit->method == PINTLE_METHOD_LINE;
    const char *unit = pintle_unit_symbol(in);
    double shown = (double)(pintle_unit_show(in, 1) - pintle_unit_show(in, 0));
    if (fit->line.correction.gain <= 0) {
        return g_strdup_printf("a gain of %.4g turns the sensor upside down",
                               (double)fit->line.correction.gain);
    }
    if (far > most) {
        return g_strdup_printf(
            "within the sensor's range it moves values by up to %.4g %s, where the "
            "data sheet has it right to %.4g; a pair may be mistyped, or of another "
            "sensor or unit",
            far * shown, unit, (double)sheet->channels[channel].accuracy_wide * shown);
    }
    if (line && span_of(fit) < LITTLE * range) {
        return g_strdup_printf(
            "the pairs lie within %.4g %s of each other, so that a line through them "
            "says little about the rest; take them further apart, or calibrate with "
            "--method offset",
            span_of(fit) * shown, unit);
    }
    return NULL;
}

/* Numbers in two columns. The comma of "13,5" would make two numbers of one. */
static bool parse_pair(const char *line, struct pintle_pair *pair)
{
    char *end = NULL;
    pair->sensor = g_ascii_strtod(line, &end);
    if (end == line) {
        return false;
    }
    end += strspn(end, " \t");
    if (*end != ',' && *end != ';' && end[-1] != '\t') {
        return false;
    }
    end -= *end != ',' && *end != ';';
    const char *second = end + 1;
    pair->reference = g_ascii_strtod(second, &end);
    return end > second && end[strspn(end, " \t\r")] == '\0' && isfinite(pair->sensor)
           && isfinite(pair->reference);
}

/* A heading has letters and no digit. */
static bool is_heading(const char *line)
{
    bool letters = false;
    for (; *line; line++) {
        letters |= g_ascii_isalpha(*line);
        if (g_ascii_isdigit(*line)) {
            return false;
        }
    }
    return letters;
}

static bool no_pair(const char *path, unsigned number, const char *line,
                    struct pintle_problem *problem)
{
    bool decimal_comma = strchr(line, ',') && strpbrk(line, ";\t");
    return pintle_problem_set(
        problem, PINTLE_FAILURE_USE,
        "%s:%u: '%s' is no pair of numbers; each line is the sensor's value, a "
        "comma, the reference's%s",
        path, number, line, decimal_comma ? ", with a point before the decimals" : "");
}

/* Pairs from lines, behind a heading. */
static bool take_pairs(const char *path, char **lines, struct pintle_pair *pairs, unsigned *count,
                       struct pintle_problem *problem)
{
    bool heading = false;
    for (unsigned i = 0; lines[i]; i++) {
        g_strchomp(lines[i]);
        if (parse_pair(lines[i], &pairs[*count])) {
            (*count)++;
        } else if (lines[i][0] != '\0' && (heading || *count > 0 || !is_heading(lines[i]))) {
            return no_pair(path, i + 1, lines[i], problem);
        } else {
            heading |= lines[i][0] != '\0';
        }
    }
    return *count > 0
           || pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                 "%s: there is no pair of numbers in it; each line is the sensor's "
                                 "value, a comma, the reference's",
                                 path);
}

struct pintle_pair *pintle_calibration_pairs(const char *path, unsigned *count,
                                             struct pintle_problem *problem)
{
    char *text = pintle_priv_files_read(path, "CSV file of pairs", problem);
    if (!text) {
        return NULL;
    }
    char **lines = g_strsplit(text + (g_str_has_prefix(text, "\xef\xbb\xbf") ? 3 : 0), "\n", -1);
    struct pintle_pair *pairs = g_new0(struct pintle_pair, g_strv_length(lines) + 1);
    *count = 0;
    bool ok = take_pairs(path, lines, pairs, count, problem);
    g_strfreev(lines);
    g_free(text);
    if (!ok) {
        g_free(pairs);
    }
    return ok ? pairs : NULL;
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
    pintle_priv_place_put(entry, rig, sensor);
    g_free(date);
    return entry;
}

/* An entry that is replaced is not lost: it goes to the earlier ones. */
static void set_aside(json_t *root, const char *sensor, const char *channel)
{
    json_t *list = json_object_get(root, "corrections");
    json_t *earlier = json_object_get(root, "earlier");
    if (!json_is_array(earlier)) {
        earlier = json_array();
        json_object_set_new(root, "earlier", earlier);
    }
    for (size_t i = json_array_size(list); i-- > 0;) {
        if (is_entry(json_array_get(list, i), sensor, channel)) {
            json_array_append(earlier, json_array_get(list, i));
            json_array_remove(list, i);
        }
    }
}

unsigned pintle_calibration_kept(const struct pintle_rig *rig, unsigned sensor, unsigned channel)
{
    struct pintle_problem unsaid = { 0 };
    const struct pintle_rig_sensor *s = &rig->sensor[sensor];
    char *path = pintle_calibration_path(rig);
    json_t *root = load_file(path, &unsaid);
    json_t *entry = NULL;
    size_t i = 0;
    size_t pairs = 0;
    json_array_foreach (json_object_get(root, "corrections"), i, entry) {
        if (is_entry(entry, s->name, s->sheet->part->channels[channel].name)) {
            pairs = json_array_size(json_object_get(entry, "pairs"));
        }
    }
    json_decref(root);
    g_free(path);
    return (unsigned)pairs;
}

bool pintle_calibration_keep(const struct pintle_rig *rig, unsigned sensor, unsigned channel,
                             const struct pintle_calibration *calibration, int64_t utc_us,
                             struct pintle_problem *problem)
{
    char *path = pintle_calibration_path(rig);
    json_t *root = load_file(path, problem);
    json_t *entry = pintle_correction_is_valid(&calibration->line.correction)
                        ? make_entry(rig, sensor, channel, calibration, utc_us)
                        : NULL;
    bool ok = root
              && (entry
                  || pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                        "this correction's numbers are none"));
    if (ok) {
        const struct pintle_rig_sensor *s = &rig->sensor[sensor];
        set_aside(root, s->name, s->sheet->part->channels[channel].name);
        json_array_append(json_object_get(root, "corrections"), entry);
        ok = pintle_priv_json_write(root, path, problem);
    }
    json_decref(entry);
    json_decref(root);
    g_free(path);
    return ok;
}

static const struct pintle_rig_sensor *same_sensor(const struct pintle_rig *rig, json_t *entry)
{
    const char *name = json_string_value(json_object_get(entry, "sensor"));
    const char *part = json_string_value(json_object_get(entry, "part"));
    for (unsigned i = 0; i < rig->wired; i++) {
        const struct pintle_rig_sensor *s = &rig->sensor[i];
        if (g_strcmp0(s->name, name) == 0 && g_strcmp0(s->sheet->part->name, part) == 0
            && pintle_priv_place_is(entry, rig, i)) {
            return s;
        }
    }
    return NULL;
}

/* Returns why it cannot be used, or null. */
static const char *take_entry(struct pintle_rig *rig, json_t *entry)
{
    const struct pintle_rig_sensor *found = same_sensor(rig, entry);
    const char *channel = json_string_value(json_object_get(entry, "channel"));
    json_t *gain = json_object_get(entry, "gain");
    json_t *offset = json_object_get(entry, "offset");
    int c = found && channel ? pintle_sheet_channel(found->sheet, channel) : -1;
    const struct pintle_correction correction = { (float)json_number_value(gain),
                                                  (float)json_number_value(offset), 1 };
    if (c < 0) {
        return "the rig has no such sensor, part and place any more";
    }
    if (!json_is_number(gain) || !json_is_number(offset)
        || !pintle_correction_is_valid(&correction)) {
        return "its gain or its offset is no number that can be used";
    }
    rig->sensor[found - rig->sensor].channel[c].correction = correction;
    return NULL;
}

static void remark_entry(const char *path, json_t *entry, const char *why,
                         void (*remark)(const char *))
{
    const char *sensor = json_string_value(json_object_get(entry, "sensor"));
    const char *part = json_string_value(json_object_get(entry, "part"));
    char *sentence = g_strdup_printf("%s: the correction of '%s' (%s) is not used: %s", path,
                                     sensor ? sensor : "?", part ? part : "?", why);
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
        const char *why = take_entry(rig, entry);
        if (why && remark) {
            remark_entry(path, entry, why, remark);
        }
    }
    bool ok = root != NULL;
    json_decref(root);
    g_free(path);
    return ok;
}
