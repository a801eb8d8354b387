/* Where live readings come from: a rig, which may be logged meanwhile, or a run that was logged. */
#include <math.h>
#include <string.h>

#include "cli/live.h"

static void add_channel(struct live *live, const struct pintle_run_column *column,
                        enum pintle_unit unit)
{
    live->channel = g_renew(struct live_channel, live->channel, live->channels + 1);
    struct live_channel *c = &live->channel[live->channels++];
    *c = (struct live_channel){ .column = *column, .unit = unit, .threshold = (double)NAN };
    c->column.name = g_strdup(column->name);
    pintle_trail_init(&c->trail, column->quantity, LIVE_TRAIL);
}

/* While the picture is held, what is measured waits. */
static void put(struct live *live, unsigned i, double time, const struct pintle_cell *cell)
{
    const struct live_point point = { i, time, *cell };
    if (!live->held) {
        pintle_trail_add(&live->channel[i].trail, time, cell);
        return;
    }
    if (live->waiting->len >= LIVE_TRAIL * live->channels) { /* a trail would have lost these */
        g_array_remove_range(live->waiting, 0, live->waiting->len / 2);
    }
    g_array_append_val(live->waiting, point);
}

void live_release(struct live *live)
{
    live->held = false;
    for (guint i = 0; live->waiting && i < live->waiting->len; i++) {
        const struct live_point *point = &g_array_index(live->waiting, struct live_point, i);
        put(live, point->channel, point->time, &point->cell);
        live->time = point->time;
    }
    if (live->waiting) {
        g_array_set_size(live->waiting, 0);
    }
}

/* What the angles are, by what they are made of. */
static void find_angles(struct live *live, const struct pintle_rig *rig)
{
    live->heel = live->trim = live->heading = -1;
    for (unsigned k = 0; rig && k < live->channels; k++) {
        for (unsigned i = 0; i < rig->sensors; i++) {
            const struct pintle_rig_sensor *s = &rig->sensor[i];
            size_t length = strlen(s->name);
            const char *name = live->channel[k].column.name;
            int c = strncmp(name, s->name, length) == 0 && name[length] == '.'
                        ? pintle_sheet_channel(s->sheet, name + length + 1)
                        : -1;
            const char *is =
                c >= 0 && s->made && s->made[c].formula ? s->made[c].formula->name : "";
            live->heel = strcmp(is, "roll") == 0 ? (int)k : live->heel;
            live->trim = strcmp(is, "pitch") == 0 ? (int)k : live->trim;
            live->heading = strcmp(is, "heading") == 0 ? (int)k : live->heading;
        }
    }
}

/* --- a rig --- */

static void take_round(struct live *live, double time)
{
    uint64_t failing = 0;
    for (unsigned k = 0; k < live->channels; k++) {
        const struct pintle_reading *r =
            &live->station->turn[live->sensor_of[k]].sample.channel[live->channel_of[k]];
        bool none = r->quality & (PINTLE_QUALITY_BUS | PINTLE_QUALITY_IDLE);
        bool good = pintle_reading_good(r) && !isnan(r->value) && !none;
        struct pintle_cell cell = pintle_cell_empty();
        cell.value = none ? (double)NAN : (double)r->value;
        cell.quality = r->quality & (pintle_marks)~PINTLE_QUALITY_UNCORRECTED;
        cell.good = good;
        cell.suspect = !good;
        cell.least = cell.greatest = good ? cell.value : (double)NAN;
        put(live, k, time, &cell);
    }
    for (unsigned i = 0; i < live->rig->wired; i++) {
        failing += live->station->turn[i].status != PINTLE_OK;
    }
    live->failing = failing;
}

static int64_t own_now(const struct live *live)
{
    const struct pintle_clock *clock = &live->station->clock;
    return (int64_t)clock->calls->now_us(clock->context);
}

static int64_t step_rig(struct live *live, struct pintle_problem *problem)
{
    int64_t began = own_now(live);
    enum pintle_logger_did did = pintle_logger_step(live->logger, problem);
    if (did == PINTLE_LOGGER_SHOWN || did == PINTLE_LOGGER_RECORDED) {
        double time = (double)pintle_station_now(live->station) / 1e6;
        live->time = live->held ? live->time : time;
        live->rounds++;
        take_round(live, time);
    }
    if (did == PINTLE_LOGGER_FAILED || did == PINTLE_LOGGER_OVER) {
        return -1;
    }
    int64_t due = pintle_logger_due(live->logger);
    if (live->station->platform->pass) { /* simulated time passes when it is told to */
        pintle_station_wait(live->station, (uint32_t)due, NULL);
        due = own_now(live) - began;
    }
    return due;
}

bool live_open_rig(struct live *live, const struct rig_options *options,
                   struct pintle_problem *problem)
{
    if (!cli_open(options, &live->rig, &live->station, problem)) {
        return false;
    }
    const struct pintle_rig *rig = live->rig;
    unsigned most = rig->sensors * PINTLE_MOST_CHANNELS + 1;
    live->sensor_of = g_new0(unsigned, most);
    live->channel_of = g_new0(unsigned, most);
    live->step = step_rig;
    live->waiting = g_array_new(FALSE, FALSE, sizeof(struct live_point));
    live->name = g_strdup(rig->board);
    for (unsigned i = 0; i < rig->sensors; i++) {
        const struct pintle_part *part = rig->sensor[i].sheet->part;
        for (unsigned c = 0; c < part->channel_count; c++) {
            const struct pintle_channel *its = &part->channels[c];
            char *name = g_strdup_printf("%s.%s", rig->sensor[i].name, its->name);
            const struct pintle_run_column column = { .name = name,
                                                      .quantity =
                                                          (enum pintle_quantity)its->quantity,
                                                      .decimals = its->decimals };
            if (pintle_run_logs(its)) {
                live->sensor_of[live->channels] = i;
                live->channel_of[live->channels] = c;
                add_channel(live, &column, cli_chosen(its, rig->sensor[i].channel[c].unit));
            }
            g_free(name);
        }
    }
    find_angles(live, rig);
    return true;
}

bool live_begin(struct live *live, struct pintle_problem *problem)
{
    if (live->station) {
        live->logging.station = live->station;
        live->logger = pintle_logger_open(&live->logging, problem);
        return live->logger != NULL;
    }
    return true;
}

/* --- a run --- */

static int64_t step_run(struct live *live, struct pintle_problem *problem)
{
    struct pintle_record *next = &live->ahead;
    if (!live->has_ahead && !pintle_reader_next(live->reader, next, problem)) {
        return -1;
    }
    int64_t time_us = next->time_us;
    live->time = (double)time_us / 1e6;
    live->over_us = next->over_us;
    live->rounds++;
    for (unsigned k = 0; k < live->channels; k++) {
        put(live, k, live->time, &next->cell[live->column_of[k]]);
    }
    live->has_ahead = pintle_reader_next(live->reader, next, problem);
    return live->has_ahead ? CLAMP(next->time_us - time_us, 0, 86400000000LL) : -1;
}

bool live_open_run(struct live *live, const struct past_options *options, const char *run,
                   struct pintle_problem *problem)
{
    char *const words[] = { (char *)(uintptr_t)run, NULL };
    struct shown shown = { 0 };
    if (!cli_choose(options, words, &live->chosen, problem)) {
        return false;
    }
    live->reader =
        pintle_reader_open(live->chosen.run, live->chosen.count, live->chosen.window, problem);
    bool ok = live->reader
              && cli_shown(options, &live->chosen, live->reader->column, live->reader->columns,
                           &shown, problem);
    live->step = step_run;
    live->name = cli_runs_title(&live->chosen);
    if (ok) {
        char *text = pintle_past_text(live->chosen.run[0], "rig");
        struct pintle_problem ignored = { 0 };
        struct pintle_rig *kept = text ? pintle_rig_parse("rig", text, &ignored) : NULL;
        cli_shown_as_usual(&live->chosen, live->reader->column, &shown);
        live->column_of = g_new0(unsigned, live->reader->columns + 1);
        for (unsigned i = 0; i < live->reader->columns; i++) {
            live->column_of[live->channels] = i;
            add_channel(live, &live->reader->column[i],
                        cli_usual(&live->reader->column[i], shown.unit[i]));
        }
        find_angles(live, kept);
        pintle_rig_free(kept);
        pintle_host_free(text);
    }
    cli_shown_free(&shown);
    return ok;
}

/* --- both --- */

/* Those that are named stay: channels, sensors, quantities. */
bool live_choose(struct live *live, char *const *names, struct pintle_problem *problem)
{
    unsigned kept = 0;
    bool *keep = g_new0(bool, live->channels + 1);
    for (char *const *name = names; *name; name++) {
        bool any = false;
        for (unsigned k = 0; k < live->channels; k++) {
            bool match = cli_column_matches(&live->channel[k].column, *name);
            keep[k] = keep[k] || match;
            live->channel[k].marked =
                live->channel[k].marked || strcmp(live->channel[k].column.name, *name) == 0;
            any = any || match;
        }
        if (!any) {
            g_free(keep);
            return pintle_problem_set(
                problem, PINTLE_FAILURE_USE,
                "there is no channel '%s' in %s; name a channel such as %s, or "
                "a sensor",
                *name, live->name, live->channels ? live->channel[0].column.name : "sea");
        }
    }
    for (unsigned k = 0; names[0] && k < live->channels; k++) {
        bool angle = (int)k == live->heel || (int)k == live->trim || (int)k == live->heading;
        if (!keep[k] && !angle) {
            g_free(live->channel[k].column.name);
            pintle_trail_free(&live->channel[k].trail);
            continue;
        }
        live->heel = (int)k == live->heel ? (int)kept : live->heel;
        live->trim = (int)k == live->trim ? (int)kept : live->trim;
        live->heading = (int)k == live->heading ? (int)kept : live->heading;
        live->channel[kept] = live->channel[k];
        if (live->station) {
            live->sensor_of[kept] = live->sensor_of[k];
            live->channel_of[kept] = live->channel_of[k];
        } else {
            live->column_of[kept] = live->column_of[k];
        }
        kept++;
    }
    live->channels = names[0] ? kept : live->channels;
    g_free(keep);
    return true;
}

bool live_note(struct live *live, const char *text, struct pintle_problem *problem)
{
    const struct pintle_run *run = live->logger ? pintle_logger_run(live->logger) : NULL;
    if (run) {
        return pintle_run_note(run, pintle_station_now(live->station), text, problem);
    }
    return live->chosen.count == 1 ? pintle_past_note(
               live->chosen.run[0], (int64_t)live->time * 1000000, false, text, problem)
                                   : pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                                        "a note belongs to a run; log with --log");
}

void live_close(struct live *live)
{
    for (unsigned k = 0; k < live->channels; k++) {
        g_free(live->channel[k].column.name);
        pintle_trail_free(&live->channel[k].trail);
    }
    if (live->waiting) {
        g_array_free(live->waiting, TRUE);
    }
    g_free(live->channel);
    g_free(live->name);
    g_free(live->sensor_of);
    g_free(live->channel_of);
    g_free(live->column_of);
    pintle_reader_free(live->reader);
    cli_choose_free(&live->chosen);
    pintle_station_free(live->station);
    pintle_rig_free(live->rig);
}
