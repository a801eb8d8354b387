#include "pintle/host/run/logger.h"

#include <glib.h>

/* Longest wait in one go: how soon a step of the clock is seen. */
#define NAP_US 1000000

/* Slots follow the wall clock, lengths the port's own clock, which nobody can set. */
struct pintle_logger {
    const struct pintle_logging *logging;
    struct pintle_schedule schedule;
    struct pintle_run run;
    bool has_run;
    struct pintle_run_line line;
    struct pintle_slot slot; /* the one that is waited for */
    int64_t apart_us;        /* wall clock less own clock, when they were compared last */
    int64_t stepped_us;
    int64_t end_us;  /* by its own clock, */
    int64_t show_us; /* and so is this: the next round that is only shown */
    uint32_t missed;
    bool tried;       /* the round before all records was measured */
    unsigned failing; /* sensors in the last round that was measured whole */
};

static int64_t own_now(const struct pintle_logger *l)
{
    const struct pintle_clock *clock = &l->logging->station->clock;
    return (int64_t)clock->calls->now_us(clock->context);
}

static int64_t wall_now(const struct pintle_logger *l)
{
    return pintle_station_now(l->logging->station);
}

/* Has the wall clock been moved since it was looked at last? A little is its drift, or a slow
 * adjustment: followed, and no step. */
static bool was_moved(struct pintle_logger *l)
{
    int64_t apart = wall_now(l) - own_now(l);
    int64_t by = apart - l->apart_us;
    int64_t much = CLAMP(l->schedule.interval_us / 2, 10000, 1000000);
    l->apart_us = apart;
    if (ABS(by) < much) {
        return false;
    }
    l->stepped_us += by;
    return true;
}

/* The next slot; after a step they are counted anew, and none was missed. */
static void take_slot(struct pintle_logger *l)
{
    l->slot.missed = 0;
    if (was_moved(l)) {
        l->schedule.last_us = 0;
    }
    l->slot.time_us = pintle_schedule_next(&l->schedule, wall_now(l), &l->slot.missed);
}

static bool has_place(const struct pintle_logging *logging)
{
    return logging->places.folder || logging->places.database;
}

static void begin_slots(struct pintle_logger *l)
{
    int64_t for_us = l->logging->for_us;
    l->schedule.last_us = 0;
    l->apart_us = wall_now(l) - own_now(l);
    take_slot(l);
    l->end_us = for_us > 0 ? own_now(l) + l->slot.time_us - wall_now(l) + for_us : INT64_MAX;
}

struct pintle_logger *pintle_logger_open(const struct pintle_logging *logging,
                                         struct pintle_problem *problem)
{
    struct pintle_logger *l = g_new0(struct pintle_logger, 1);
    l->logging = logging;
    l->schedule.interval_us = logging->every_us;
    l->has_run = has_place(logging);
    if (l->has_run && !pintle_run_begin(&l->run, &logging->places, logging->station, problem)) {
        g_free(l);
        return NULL;
    }
    l->show_us = own_now(l);
    begin_slots(l);
    return l;
}

/* False: it was stopped, and what was not measured whole is no record. */
static bool measure(struct pintle_logger *l)
{
    struct pintle_station *station = l->logging->station;
    if (pintle_station_round(station, l->logging->stop) == SIZE_MAX) {
        return false;
    }
    l->failing = 0;
    for (unsigned i = 0; i < station->rig->sensors; i++) {
        l->failing += station->turn[i].status != PINTLE_OK;
    }
    return true;
}

static enum pintle_logger_did take_record(struct pintle_logger *l, struct pintle_problem *problem)
{
    const struct pintle_logging *logging = l->logging;
    if (!measure(l)) {
        return PINTLE_LOGGER_STOPPED;
    }
    l->slot.number = l->run.records + 1;
    l->slot.stepped_us = l->stepped_us;
    l->slot.unset = !pintle_station_knows_time(logging->station);
    if (l->stepped_us != 0) {
        pintle_run_stepped(&l->run, l->stepped_us);
        l->stepped_us = 0;
    }
    pintle_run_record(&l->line, logging->station, &l->slot);
    bool ok = pintle_run_append(&l->run, &l->line, problem);
    l->show_us = own_now(l) + logging->show_us;
    take_slot(l);
    l->missed += l->slot.missed;
    return ok ? PINTLE_LOGGER_RECORDED : PINTLE_LOGGER_FAILED;
}

static enum pintle_logger_did show_round(struct pintle_logger *l)
{
    const struct pintle_logging *logging = l->logging;
    if (!measure(l)) {
        return PINTLE_LOGGER_STOPPED;
    }
    const struct pintle_slot slot = { .time_us = wall_now(l) / 1000 * 1000,
                                      .unset = !pintle_station_knows_time(logging->station) };
    pintle_run_record(&l->line, logging->station, &slot);
    l->show_us = MAX(l->show_us + logging->show_us, own_now(l));
    return PINTLE_LOGGER_SHOWN;
}

/* No round is shown so shortly before a slot that it could be late. */
static bool is_show_due(const struct pintle_logger *l, int64_t left)
{
    int64_t show = l->logging->show_us;
    return show > 0 && own_now(l) >= l->show_us && (!l->has_run || left > show);
}

/* One round before all records: a chip's first reading after power-up is spent on it, and whoever
 * watches sees at once what will be logged. Slots and the end are counted from then on. */
static enum pintle_logger_did try_round(struct pintle_logger *l)
{
    l->tried = true;
    enum pintle_logger_did did = show_round(l);
    int64_t show_us = l->logging->show_us;
    l->show_us = own_now(l) + show_us;
    begin_slots(l);
    return did;
}

enum pintle_logger_did pintle_logger_step(struct pintle_logger *l, struct pintle_problem *problem)
{
    if (!l->tried) {
        return try_round(l);
    }
    if (was_moved(l)) { /* the slot that was waited for is elsewhere now */
        l->schedule.last_us = 0;
        l->slot.time_us = pintle_schedule_next(&l->schedule, wall_now(l), NULL);
        l->slot.missed = 0;
    }
    int64_t left = l->slot.time_us - wall_now(l);
    if (l->has_run ? own_now(l) + left >= l->end_us : own_now(l) >= l->end_us) {
        return PINTLE_LOGGER_OVER;
    }
    if (l->has_run && left <= 0) {
        return take_record(l, problem);
    }
    return is_show_due(l, left) ? show_round(l) : PINTLE_LOGGER_WAITS;
}

int64_t pintle_logger_due(const struct pintle_logger *l)
{
    int64_t left = l->slot.time_us - wall_now(l);
    int64_t due = l->has_run ? left : NAP_US;
    if (l->logging->show_us > 0 && (!l->has_run || left > l->logging->show_us)) {
        due = MIN(due, l->show_us - own_now(l));
    }
    return CLAMP(due, 0, NAP_US);
}

const char *pintle_logger_line(const struct pintle_logger *l)
{
    return l->line.at;
}

const struct pintle_run *pintle_logger_run(const struct pintle_logger *l)
{
    return l->has_run ? &l->run : NULL;
}

bool pintle_logger_close(struct pintle_logger *l, const char *how, struct pintle_logged *logged,
                         struct pintle_problem *problem)
{
    const struct pintle_run *run = &l->run;
    *logged = (struct pintle_logged){ .number = run->number,
                                      .records = run->records,
                                      .suspect = run->suspect,
                                      .missed = l->missed,
                                      .steps = run->steps,
                                      .unset = run->unset,
                                      .failing = l->failing,
                                      .bytes = run->bytes,
                                      .lost = g_strdup(run->lost),
                                      .path = g_strdup(run->path) };
    bool ok = !l->has_run || pintle_run_end(&l->run, how, problem);
    pintle_run_line_free(&l->line);
    g_free(l);
    return ok;
}

static bool stopped(const struct pintle_logging *logging)
{
    return logging->stop && *logging->stop;
}

/* Tell whoever wants to know. */
static bool tell(const struct pintle_logging *logging, const struct pintle_logger *l, bool first,
                 enum pintle_logger_did did, struct pintle_problem *problem)
{
    if (first && did == PINTLE_LOGGER_SHOWN && logging->begun) {
        logging->begun(logging->context, pintle_logger_run(l), l->slot.time_us);
    }
    if (did == PINTLE_LOGGER_RECORDED && logging->record) {
        return logging->record(logging->context, &l->run, l->line.at, problem);
    }
    if (did == PINTLE_LOGGER_SHOWN && logging->shown) {
        return logging->shown(logging->context, l->line.at, problem);
    }
    return true;
}

bool pintle_log(const struct pintle_logging *logging, struct pintle_logged *logged,
                struct pintle_problem *problem)
{
    enum pintle_logger_did did = PINTLE_LOGGER_WAITS;
    *logged = (struct pintle_logged){ 0 };
    struct pintle_logger *l = pintle_logger_open(logging, problem);
    if (!l) {
        return false;
    }
    bool ok = true;
    while (ok && did != PINTLE_LOGGER_OVER && !stopped(logging)) {
        bool first = !l->tried;
        did = pintle_logger_step(l, problem);
        ok = did != PINTLE_LOGGER_FAILED && tell(logging, l, first, did, problem);
        if (ok && did == PINTLE_LOGGER_WAITS) {
            if (logging->alive) {
                logging->alive(logging->context);
            }
            pintle_station_wait(logging->station, (uint32_t)pintle_logger_due(l), logging->stop);
        }
    }
    bool interrupted = stopped(logging);
    ok = pintle_logger_close(l,
                             !ok           ? "failed"
                             : interrupted ? "interrupted"
                                           : "done",
                             logged, problem)
         && ok;
    logged->interrupted = interrupted;
    return ok;
}
