/* The calibration file: every calibration that there ever was, and which are in use. */
#include <glib.h>
#include <jansson.h>
#include <math.h>
#include <string.h>

#include "host/base/files.h"
#include "host/base/json.h"
#include "host/keep/file.h"
#include "host/rig/place.h"
#include "pintle/text.h"

#define FORMAT "pintle calibration 2"

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

static unsigned whole(const json_t *entry, const char *name)
{
    json_int_t is = json_integer_value(json_object_get(entry, name));
    return is > 0 && is < 1000000000 ? (unsigned)is : 0;
}

static const char *words(const json_t *entry, const char *name)
{
    return json_string_value(json_object_get(entry, name));
}

/* A number; not one: NaN. */
static double number(const json_t *entry, const char *name)
{
    const json_t *value = json_object_get(entry, name);
    return json_is_number(value) ? json_number_value(value) : (double)NAN;
}

/* What the first format had: gain and offset, and the earlier ones in a list of their own. */
static void take_first_format(json_t *root)
{
    json_t *all = json_array();
    json_t *entry = NULL;
    size_t i = 0;
    static const char *const lists[] = { "earlier", "corrections" };
    for (unsigned l = 0; l < 2; l++) {
        json_array_foreach (json_object_get(root, lists[l]), i, entry) {
            json_t *numbers =
                json_pack("[i, f, f]", 0, number(entry, "offset"), number(entry, "gain"));
            json_object_set_new(entry, "number",
                                json_integer((json_int_t)json_array_size(all) + 1));
            json_object_set_new(entry, "in_use", json_boolean(l == 1));
            json_object_set_new(entry, "is",
                                json_string(pintle_stage_word(PINTLE_STAGE_POLYNOMIAL)));
            json_object_set_new(entry, "numbers", numbers);
            json_array_append(all, entry);
        }
    }
    json_object_del(root, "earlier");
    json_object_set_new(root, "corrections", all);
    json_object_set_new(root, "format", json_string(FORMAT));
}

json_t *pintle_priv_entries_parse(const char *name, const char *text,
                                  struct pintle_problem *problem)
{
    json_error_t error;
    json_t *root = pintle_priv_json_parse(text, &error);
    bool ok = root && json_is_array(json_object_get(root, "corrections"));
    const char *format = ok ? words(root, "format") : NULL;
    if (ok && g_strcmp0(format, FORMAT) != 0) {
        ok = !format || strcmp(format, "pintle calibration 1") == 0;
        if (ok) {
            take_first_format(root);
        } else {
            pintle_problem_set(problem, PINTLE_FAILURE_USE,
                               "%s: its format is '%s', and this program knows '" FORMAT
                               "'; take a newer program, or move the file away to begin afresh",
                               name, format);
        }
    }
    if (!ok) {
        pintle_problem_set(problem, PINTLE_FAILURE_USE,
                           "%s:%d: this is no calibration file (%s); mend it, or move it away to "
                           "begin afresh",
                           name, root ? 1 : error.line, root ? "no \"corrections\"" : error.text);
        json_decref(root);
        return NULL;
    }
    return root;
}

json_t *pintle_priv_entries_read(const struct pintle_rig *rig, struct pintle_problem *problem)
{
    char *path = pintle_calibration_path(rig);
    json_t *root = NULL;
    if (!g_file_test(path, G_FILE_TEST_EXISTS)) {
        root = json_pack("{s:s, s:[]}", "format", FORMAT, "corrections");
    } else {
        char *text = pintle_priv_files_read(path, "calibration file", problem);
        root = text ? pintle_priv_entries_parse(path, text, problem) : NULL;
        g_free(text);
    }
    g_free(path);
    return root;
}

int pintle_priv_entries_lock(const struct pintle_rig *rig, struct pintle_problem *problem)
{
    char *path = pintle_calibration_path(rig);
    int lock = pintle_priv_files_lock(path, problem);
    g_free(path);
    return lock;
}

bool pintle_priv_entries_write(const struct pintle_rig *rig, const json_t *root,
                               struct pintle_problem *problem)
{
    char *path = pintle_calibration_path(rig);
    bool ok = pintle_priv_json_write(root, path, problem);
    g_free(path);
    return ok;
}

static int same_sensor(const struct pintle_rig *rig, json_t *entry)
{
    const char *name = words(entry, "sensor");
    const char *part = words(entry, "part");
    const char *bus = words(entry, "bus");
    for (unsigned i = 0; i < rig->sensors; i++) {
        const struct pintle_rig_sensor *s = &rig->sensor[i];
        bool here = s->made ? !part
                            : g_strcmp0(rig->bus[s->bus].name, bus) == 0
                                  && g_strcmp0(s->sheet->part->name, part) == 0
                                  && pintle_priv_place_is(entry, rig, i);
        if (here && g_strcmp0(s->name, name) == 0) {
            return (int)i;
        }
    }
    return -1;
}

/* "motion.temperature" */
static bool find_channel(const struct pintle_rig *rig, const char *name, int *sensor,
                         unsigned *channel)
{
    char **names = g_strsplit(name, ".", 2);
    int c = -1;
    for (unsigned i = 0; i < rig->sensors && names[0] && names[1]; i++) {
        if (strcmp(rig->sensor[i].name, names[0]) == 0) {
            *sensor = (int)i;
            c = pintle_sheet_channel(rig->sensor[i].sheet, names[1]);
        }
    }
    g_strfreev(names);
    *channel = c < 0 ? 0 : (unsigned)c;
    return c >= 0;
}

static void take_numbers(json_t *entry, struct pintle_calibration *c)
{
    json_t *numbers = json_object_get(entry, "numbers");
    json_t *deviations = json_object_get(entry, "deviations");
    size_t count = json_array_size(numbers);
    c->count = (uint8_t)(count <= PINTLE_STAGE_NUMBERS ? count : 0);
    for (size_t i = 0; i < c->count; i++) {
        json_t *of = json_array_get(numbers, i);
        json_t *its = json_array_get(deviations, i);
        c->numbers[i] = json_is_number(of) ? (float)json_number_value(of) : NAN;
        c->deviation[i] = json_is_number(its) ? json_number_value(its) : (double)NAN;
    }
}

static void take_found(const struct pintle_rig *rig, json_t *entry, struct pintle_calibration *c)
{
    json_t *span = json_object_get(entry, "span");
    const char *second = words(entry, "second");
    pintle_calibration_init(c, PINTLE_METHOD_TYPED);
    for (unsigned m = 0; m < PINTLE_METHOD_COUNT; m++) {
        const char *word = pintle_method_word((enum pintle_method)m);
        if (g_strcmp0(words(entry, "method"), word) == 0) {
            c->method = (enum pintle_method)m;
        }
    }
    for (unsigned k = 1; k < PINTLE_STAGE_KINDS; k++) {
        if (g_strcmp0(words(entry, "is"), pintle_stage_word((enum pintle_stage_kind)k)) == 0) {
            c->kind = (uint8_t)k;
        }
    }
    take_numbers(entry, c);
    if (json_array_size(span) == 2) {
        c->lowest = json_number_value(json_array_get(span, 0));
        c->highest = json_number_value(json_array_get(span, 1));
    }
    if (second && !find_channel(rig, second, &c->second, &c->second_channel)) {
        c->second = -1;
    }
    c->freedom = fmax(number(entry, "freedom"), 0);
    c->residual = number(entry, "residual");
    c->uncertainty = number(entry, "uncertainty");
    c->reference = fmax(number(entry, "reference"), 0);
    c->samples = whole(entry, "samples");
    c->pair_count = (unsigned)json_array_size(json_object_get(entry, "pairs"));
}

/* Where it sat, in words. */
static char *where_of(json_t *entry)
{
    const char *bus = words(entry, "bus");
    const char *code = words(entry, "code");
    const char *select = words(entry, "select");
    json_t *address = json_object_get(entry, "address");
    if (json_is_integer(address)) {
        return g_strdup_printf("%s 0x%02x", bus ? bus : "?",
                               (unsigned)json_integer_value(address) & 0x7f);
    }
    return g_strdup_printf("%s %s", bus ? bus : "?", code ? code : select ? select : "");
}

void pintle_priv_entry_take(const struct pintle_rig *rig, json_t *from, struct pintle_entry *to)
{
    int sensor = same_sensor(rig, from);
    const char *channel = words(from, "channel");
    int c = sensor >= 0 && channel ? pintle_sheet_channel(rig->sensor[sensor].sheet, channel) : -1;
    to->number = whole(from, "number");
    to->in_use = json_is_true(json_object_get(from, "in_use"));
    to->replaces = whole(from, "replaces");
    to->fits = c >= 0;
    to->sensor_index = sensor < 0 ? 0 : (unsigned)sensor;
    to->channel_index = c < 0 ? 0 : (unsigned)c;
    to->sensor = g_strdup(words(from, "sensor") ? words(from, "sensor") : "?");
    to->part = g_strdup(words(from, "part") ? words(from, "part") : "");
    to->channel = g_strdup(channel ? channel : "?");
    to->unit = g_strdup(words(from, "unit") ? words(from, "unit") : "");
    to->date = g_strdup(words(from, "date") ? words(from, "date") : "?");
    to->conditions = g_strdup(words(from, "conditions"));
    to->second = g_strdup(words(from, "second"));
    to->serial = g_strdup(words(from, "serial"));
    to->where = where_of(from);
    take_found(rig, from, &to->found);
    to->found.conditions = to->conditions;
    to->found.serial = to->serial;
}

void pintle_priv_entries_take(const struct pintle_rig *rig, json_t *root,
                              struct pintle_entries *entries)
{
    json_t *list = json_object_get(root, "corrections");
    entries->count = (unsigned)json_array_size(list);
    entries->entry = g_new0(struct pintle_entry, entries->count + 1);
    for (unsigned i = 0; i < entries->count; i++) {
        pintle_priv_entry_take(rig, json_array_get(list, i), &entries->entry[i]);
    }
}

bool pintle_entries_load(const struct pintle_rig *rig, struct pintle_entries *entries,
                         struct pintle_problem *problem)
{
    json_t *root = pintle_priv_entries_read(rig, problem);
    *entries = (struct pintle_entries){ 0 };
    if (!root) {
        return false;
    }
    pintle_priv_entries_take(rig, root, entries);
    json_decref(root);
    return true;
}

void pintle_entries_free(struct pintle_entries *entries)
{
    for (unsigned i = 0; i < entries->count; i++) {
        struct pintle_entry *e = &entries->entry[i];
        char *const texts[] = { e->sensor, e->part,       e->where,  e->channel, e->unit,
                                e->date,   e->conditions, e->second, e->serial };
        for (size_t k = 0; k < G_N_ELEMENTS(texts); k++) {
            g_free(texts[k]);
        }
    }
    g_free(entries->entry);
    *entries = (struct pintle_entries){ 0 };
}

int pintle_entries_used(const struct pintle_entries *entries, unsigned sensor, unsigned channel,
                        enum pintle_stage_kind kind)
{
    for (unsigned i = 0; i < entries->count; i++) {
        const struct pintle_entry *e = &entries->entry[i];
        if (e->in_use && e->fits && e->sensor_index == sensor && e->channel_index == channel
            && pintle_rig_replaces(kind, (enum pintle_stage_kind)e->found.kind)) {
            return (int)i;
        }
    }
    return -1;
}

/* A second channel of the same chip: itself, or one that has, or is, a second channel already. */
static bool is_a_ring(const struct pintle_rig *rig, const struct pintle_entry *e)
{
    const struct pintle_rig_sensor *s = &rig->sensor[e->sensor_index];
    bool ring = e->found.second_channel == e->channel_index;
    for (unsigned i = 0; i < s->stages; i++) {
        const struct pintle_rig_stage *other = &s->stage[i];
        bool mine = other->second == (int)e->sensor_index;
        ring = ring
               || (mine
                   && (other->stage.channel == e->found.second_channel
                       || other->second_channel == e->channel_index));
    }
    return ring;
}

/* Why it cannot be used, or null. */
static const char *unfit(const struct pintle_rig *rig, const struct pintle_entry *e)
{
    if (!e->fits) {
        return "the rig has no such sensor, part and place any more";
    }
    if (e->second && e->found.second < 0) {
        return "the rig has not the second channel any more that it needs";
    }
    if (e->found.second >= 0 && (unsigned)e->found.second != e->sensor_index
        && pintle_rig_needs(rig, (unsigned)e->found.second, e->sensor_index)) {
        return "its second channel is corrected by, or made of, this one";
    }
    if (e->found.second == (int)e->sensor_index && is_a_ring(rig, e)) {
        return "its second channel is corrected by, or is, this one";
    }
    return pintle_priv_entry_valid(&e->found) ? NULL : "its numbers are none that can be used";
}

bool pintle_calibration_load(struct pintle_rig *rig, void (*remark)(const char *sentence),
                             struct pintle_problem *problem)
{
    struct pintle_entries entries;
    if (!pintle_entries_load(rig, &entries, problem)) {
        return false;
    }
    char *path = pintle_calibration_path(rig);
    for (unsigned i = 0; i < entries.count; i++) {
        const struct pintle_entry *e = &entries.entry[i];
        const char *why = e->in_use ? unfit(rig, e) : NULL;
        if (why && remark) {
            char *sentence = g_strdup_printf("%s: the correction of '%s' (%s) is not used: %s",
                                             path, e->sensor, e->part, why);
            remark(sentence);
            g_free(sentence);
        }
        if (e->in_use && !why) {
            const struct pintle_calibration *c = &e->found;
            struct pintle_rig_stage stage = {
                .stage = { .kind = c->kind,
                           .channel = (uint8_t)e->channel_index,
                           .count = c->count,
                           .lowest = (float)c->lowest,
                           .highest = (float)c->highest,
                           .uncertainty = isnan(c->uncertainty) ? 0 : (float)c->uncertainty,
                           .numbers = c->numbers },
                .second = c->second,
                .second_channel = c->second_channel,
                .residual = isnan(c->residual) ? 0 : c->residual,
                .entry = e->number
            };
            g_strlcpy(stage.serial, e->serial ? e->serial : "", sizeof stage.serial);
            for (unsigned n = 0; n < 5 && c->kind == PINTLE_STAGE_POLYNOMIAL; n++) {
                stage.deviation[n] = isnan(c->deviation[n]) ? 0 : c->deviation[n];
            }
            pintle_rig_correct(rig, &rig->sensor[e->sensor_index], &stage);
        }
    }
    g_free(path);
    pintle_entries_free(&entries);
    return true;
}
