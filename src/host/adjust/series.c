#include "pintle/host/adjust/series.h"

#include <glib.h>
#include <math.h>
#include <string.h>

#include "host/base/files.h"
#include "pintle/host/keep/calibration.h"

void pintle_series_free(struct pintle_series *series)
{
    g_free(series->time);
    g_free(series->value);
    g_free(series->second);
    g_free(series->reference);
    *series = (struct pintle_series){ 0 };
}

/* Room for as many. */
static void make(struct pintle_series *series, unsigned wide, unsigned room, bool second,
                 bool reference)
{
    *series = (struct pintle_series){ .wide = wide,
                                      .time = g_new0(double, room + 1),
                                      .value = g_new0(double, (gsize)wide *room + 1),
                                      .second = second ? g_new0(double, room + 1) : NULL,
                                      .reference = reference ? g_new0(double, room + 1) : NULL };
}

static void grow(struct pintle_series *series, unsigned room)
{
    series->time = g_renew(double, series->time, room);
    series->value = g_renew(double, series->value, (gsize)series->wide *room);
    series->second = series->second ? g_renew(double, series->second, room) : NULL;
    series->reference = series->reference ? g_renew(double, series->reference, room) : NULL;
}

bool pintle_series_find(const struct pintle_rig *rig, const char *name, struct pintle_place_of *of,
                        unsigned *wide, struct pintle_problem *problem)
{
    char **names = g_strsplit(name, ".", 2);
    int sensor = pintle_rig_find_sensor(rig, names[0] ? names[0] : "", problem);
    int channel = -1;
    *wide = 1;
    if (sensor >= 0) {
        const struct pintle_sheet *sheet = rig->sensor[sensor].sheet;
        char *first = g_strconcat(names[1] ? names[1] : "", "-x", NULL);
        channel = names[1] ? pintle_sheet_channel(sheet, names[1]) : -1;
        int axes = names[1] ? pintle_sheet_channel(sheet, first) : -1;
        g_free(first);
        if (channel < 0 && axes >= 0 && pintle_sheet_axes(sheet, (unsigned)axes) == axes) {
            channel = axes;
            *wide = 3;
        }
        if (channel >= 0 && sheet->part->channels[channel].quantity == PINTLE_QUANTITY_TIME) {
            channel = -1;
        }
        unsigned usual = 0; /* one that measures */
        while (usual < sheet->part->channel_count
               && sheet->part->channels[usual].quantity == PINTLE_QUANTITY_TIME) {
            usual++;
        }
        if (channel < 0 && usual == sheet->part->channel_count) {
            pintle_problem_set(problem, PINTLE_FAILURE_USE,
                               "sensor '%s' measures nothing: it is a %s", rig->sensor[sensor].name,
                               sheet->what);
        } else if (channel < 0) {
            pintle_problem_set(problem, PINTLE_FAILURE_USE,
                               "'%s' names no channel that measures; write SENSOR.CHANNEL, as in "
                               "%s.%s",
                               name, rig->sensor[sensor].name, sheet->part->channels[usual].name);
        }
        *of = (struct pintle_place_of){ (unsigned)sensor, channel < 0 ? 0 : (unsigned)channel };
    }
    g_strfreev(names);
    return channel >= 0;
}

/* --- from a run --- */

const struct pintle_column *pintle_series_column(const struct pintle_history *history,
                                                 const struct pintle_rig *rig,
                                                 const struct pintle_place_of *of,
                                                 struct pintle_problem *problem)
{
    const struct pintle_rig_sensor *s = &rig->sensor[of->sensor];
    char *name = g_strdup_printf("%s.%s", s->name, s->sheet->part->channels[of->channel].name);
    const struct pintle_column *found = NULL;
    for (unsigned c = 0; c < history->columns && !found; c++) {
        found = strcmp(history->column[c].name, name) == 0 ? &history->column[c] : NULL;
    }
    if (!found) {
        pintle_problem_set(problem, PINTLE_FAILURE_USE,
                           "%s has no channel '%s'; it was logged with another rig, or the channel "
                           "was not in use",
                           history->path, name);
    }
    g_free(name);
    return found;
}

static bool is_good(const struct pintle_column *column, unsigned row)
{
    return !column->suspect[row] && !isnan(column->value[row]);
}

/* The stages in front of the one that is to be found, with seconds from their own columns. */
struct below {
    struct pintle_correct_stage stage[8];
    const struct pintle_column *second[8];
    struct pintle_reading reading[8];
    uint8_t count;
};

static bool take_below(const struct pintle_rig *rig, const struct pintle_history *history,
                       const struct pintle_wanted *wanted, unsigned axis, struct below *below,
                       struct pintle_problem *problem)
{
    const struct pintle_rig_sensor *s = &rig->sensor[wanted->of.sensor];
    below->count = 0;
    for (unsigned i = 0; i < s->stages && below->count < G_N_ELEMENTS(below->stage); i++) {
        const struct pintle_rig_stage *from = &s->stage[i];
        bool its = from->stage.channel == wanted->of.channel + axis
                   && from->stage.kind < wanted->kind
                   && !pintle_rig_replaces(wanted->kind, (enum pintle_stage_kind)from->stage.kind);
        if (!its) {
            continue;
        }
        struct pintle_place_of second = { (unsigned)MAX(from->second, 0), from->second_channel };
        uint8_t k = below->count++;
        below->stage[k] = from->stage;
        below->stage[k].channel = 0;
        below->stage[k].second = &below->reading[k];
        below->second[k] =
            from->second < 0 ? NULL : pintle_series_column(history, rig, &second, problem);
        if (from->second >= 0 && !below->second[k]) {
            return false;
        }
    }
    return true;
}

static double in_front(struct below *below, unsigned row, double value)
{
    struct pintle_reading reading = { .value = (float)value };
    for (uint8_t i = 0; i < below->count; i++) {
        if (below->second[i]) {
            below->reading[i].value = (float)below->second[i]->value[row];
            below->reading[i].quality = is_good(below->second[i], row) ? 0 : PINTLE_QUALITY_BUS;
        }
    }
    if (below->count == 0) {
        return value;
    }
    pintle_correct(below->stage, below->count, &reading, 1);
    bool whole = !(reading.quality & (PINTLE_QUALITY_UNCORRECTED | PINTLE_QUALITY_BUS));
    return whole ? (double)reading.value : (double)NAN;
}

bool pintle_series_run(const struct pintle_rig *rig, const struct pintle_history *history,
                       const struct pintle_wanted *wanted, struct pintle_series *series,
                       struct pintle_problem *problem)
{
    const struct pintle_column *of[3] = { NULL, NULL, NULL };
    const struct pintle_column *second = NULL;
    const struct pintle_column *reference = NULL;
    struct below below[3];
    for (unsigned a = 0; a < wanted->wide; a++) {
        struct pintle_place_of axis = { wanted->of.sensor, wanted->of.channel + a };
        of[a] = pintle_series_column(history, rig, &axis, problem);
        if (!of[a] || !take_below(rig, history, wanted, a, &below[a], problem)) {
            return false;
        }
    }
    if ((wanted->second && !(second = pintle_series_column(history, rig, wanted->second, problem)))
        || (wanted->reference
            && !(reference = pintle_series_column(history, rig, wanted->reference, problem)))) {
        return false;
    }
    make(series, wanted->wide, history->rows, second != NULL, reference != NULL);
    for (unsigned row = 0; row < history->rows; row++) {
        unsigned at = series->count;
        bool good = (!second || is_good(second, row)) && (!reference || is_good(reference, row));
        for (unsigned a = 0; a < wanted->wide; a++) {
            const double *from = of[a]->uncorrected ? of[a]->uncorrected : of[a]->value;
            double value = in_front(&below[a], row, from[row]);
            good = good && is_good(of[a], row) && !isnan(value);
            series->value[wanted->wide * at + a] = value;
        }
        series->time[at] = history->time[row];
        if (second) {
            series->second[at] = second->value[row];
        }
        if (reference) {
            series->reference[at] = reference->value[row];
        }
        series->count += good;
        series->left_out += !good;
    }
    return series->count > 0
           || pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                 "%s has not one record in which all of it is good", history->path);
}

/* --- live --- */

static bool take_round(struct pintle_station *station, const struct pintle_wanted *wanted,
                       struct pintle_series *series)
{
    unsigned at = series->count;
    bool good = true;
    for (unsigned a = 0; a < wanted->wide; a++) {
        struct pintle_reading reading =
            pintle_station_before(station, wanted->of.sensor, wanted->of.channel + a, wanted->kind);
        good = good && !(reading.quality & PINTLE_QUALITY_SUSPECT);
        series->value[wanted->wide * at + a] = (double)reading.value;
    }
    const struct pintle_place_of *const beside[] = { wanted->second, wanted->reference };
    double *const to[] = { series->second, series->reference };
    for (unsigned k = 0; k < 2; k++) {
        if (beside[k]) {
            const struct pintle_reading *r =
                &station->turn[beside[k]->sensor].sample.channel[beside[k]->channel];
            good = good && pintle_reading_good(r);
            to[k][at] = (double)r->value;
        }
    }
    series->time[at] = (double)pintle_station_now(station) / 1e6;
    return good;
}

bool pintle_series_live(struct pintle_station *station, const struct pintle_wanted *wanted,
                        int64_t every_us, int64_t for_us, const volatile sig_atomic_t *stop,
                        struct pintle_series *series, struct pintle_problem *problem)
{
    const struct pintle_clock *clock = &station->clock;
    uint8_t *chosen = g_new0(uint8_t, station->rig->sensors);
    unsigned room = 64;
    make(series, wanted->wide, room, wanted->second != NULL, wanted->reference != NULL);
    chosen[wanted->of.sensor] = 1;
    if (wanted->second) {
        chosen[wanted->second->sensor] = 1;
    }
    if (wanted->reference) {
        chosen[wanted->reference->sensor] = 1;
    }
    int64_t began = (int64_t)clock->calls->now_us(clock->context);
    for (int64_t next = began; next < began + for_us && !(stop && *stop); next += every_us) {
        int64_t left = next - (int64_t)clock->calls->now_us(clock->context);
        pintle_station_wait(station, left > 0 ? (uint32_t)MIN(left, UINT32_MAX) : 0, stop);
        pintle_station_some(station, chosen, series->count == 0);
        if (series->count + 1 >= room) {
            room *= 2;
            grow(series, room);
        }
        bool good = take_round(station, wanted, series);
        series->count += good;
        series->left_out += !good;
    }
    g_free(chosen);
    if (series->count > 0) {
        return true;
    }
    const char *words = station->rigged[wanted->of.sensor].words;
    enum pintle_status status = station->turn[wanted->of.sensor].status;
    return pintle_problem_set(problem, PINTLE_FAILURE_RIG,
                              "sensor '%s' gave no good reading%s%s%s; 'pintle read' says more",
                              station->rig->sensor[wanted->of.sensor].name,
                              status != PINTLE_OK ? ": " : "",
                              status == PINTLE_OK ? ""
                              : words[0]          ? words
                                                  : pintle_status_sentence(status),
                              "");
}

/* --- somebody else's log --- */

/* "2026-06-12T00:00:00Z", "2026-06-12 00:00:00" (UTC), or seconds. */
static bool parse_time(const char *text, size_t length, double *seconds)
{
    char *word = g_strstrip(g_strndup(text, length));
    char *end = NULL;
    *seconds = g_ascii_strtod(word, &end);
    bool ok = end > word && *end == '\0' && isfinite(*seconds);
    if (!ok) {
        GTimeZone *utc = g_time_zone_new_utc();
        GDateTime *time = g_date_time_new_from_iso8601(word, utc);
        ok = time != NULL;
        if (ok) {
            *seconds = (double)g_date_time_to_unix(time) + g_date_time_get_microsecond(time) / 1e6;
            g_date_time_unref(time);
        }
        g_time_zone_unref(utc);
    }
    g_free(word);
    return ok;
}

static bool parse_line(const char *line, double *time, double *value)
{
    const char *between = strpbrk(line, ",;\t");
    char *end = NULL;
    if (!between || !parse_time(line, (size_t)(between - line), time)) {
        return false;
    }
    *value = g_ascii_strtod(between + 1, &end);
    return end > between + 1 && strchr(",;\t \r", *end) != NULL && isfinite(*value);
}

static bool is_heading(const char *line)
{
    return g_ascii_isalpha(line[0]) || line[0] == '"' || line[0] == '#';
}

bool pintle_series_log(const char *path, double scale, double zero, struct pintle_series *series,
                       struct pintle_problem *problem)
{
    char *text = pintle_priv_files_read(path, "CSV file of times and values", problem);
    if (!text) {
        return false;
    }
    char **lines = g_strsplit(text + (g_str_has_prefix(text, "\xef\xbb\xbf") ? 3 : 0), "\n", -1);
    bool ok = true;
    make(series, 1, g_strv_length(lines), false, false);
    for (unsigned i = 0; lines[i] && ok; i++) {
        double time = 0;
        double value = 0;
        unsigned at = series->count;
        g_strchomp(lines[i]);
        if (lines[i][0] == '\0' || (i == 0 && is_heading(lines[i]))) {
            continue;
        }
        ok = parse_line(lines[i], &time, &value);
        if (!ok) {
            pintle_problem_set(problem, PINTLE_FAILURE_USE,
                               "%s:%u: '%s' is no time and value; each line is a time such as "
                               "2026-06-12T00:00:00Z or a number of seconds, a comma, the value",
                               path, i + 1, lines[i]);
        } else if (at > 0 && time <= series->time[at - 1]) {
            ok = pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                    "%s:%u: its time is not after the one before; put the lines in "
                                    "the order of their times",
                                    path, i + 1);
        }
        series->time[at] = time;
        series->value[at] = value * scale + zero;
        series->count += ok;
    }
    g_strfreev(lines);
    g_free(text);
    return ok
           && (series->count > 1
               || pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                     "%s: there are fewer than two times and values in it", path));
}

/* The log's value at this time; NaN: it has none near enough. */
static double value_at(const struct pintle_series *log, double time, double gap)
{
    unsigned low = 0;
    unsigned high = log->count - 1;
    if (time < log->time[0] || time > log->time[high]) {
        return (double)NAN;
    }
    while (high - low > 1) {
        unsigned middle = (low + high) / 2;
        if (log->time[middle] <= time) {
            low = middle;
        } else {
            high = middle;
        }
    }
    double apart = log->time[high] - log->time[low];
    double share = (time - log->time[low]) / apart;
    bool exact = share == 0 || share == 1;
    return apart > gap && !exact ? (double)NAN
                                 : log->value[low] + share * (log->value[high] - log->value[low]);
}

bool pintle_series_align(struct pintle_series *series, const struct pintle_series *log, double lag,
                         double gap, struct pintle_problem *problem)
{
    unsigned kept = 0;
    g_free(series->reference);
    series->reference = g_new0(double, series->count + 1);
    for (unsigned i = 0; i < series->count; i++) {
        double reference = value_at(log, series->time[i] + lag, gap);
        if (isnan(reference)) {
            continue;
        }
        series->time[kept] = series->time[i];
        memmove(&series->value[series->wide * kept], &series->value[series->wide * i],
                series->wide * sizeof *series->value);
        if (series->second) {
            series->second[kept] = series->second[i];
        }
        series->reference[kept++] = reference;
    }
    series->left_out += series->count - kept;
    series->count = kept;
    return kept > 0
           || pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                 "the two logs have no time in common: look at the times' zone and "
                                 "at the clocks, and give their difference with --lag");
}

struct pintle_pair *pintle_series_pairs(const struct pintle_series *series)
{
    struct pintle_pair *pairs = g_new0(struct pintle_pair, series->count + 1);
    for (unsigned i = 0; i < series->count; i++) {
        pairs[i] = (struct pintle_pair){ series->value[i], series->reference[i] };
    }
    return pairs;
}
