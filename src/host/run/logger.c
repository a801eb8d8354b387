#include "pintle/host/run/logger.h"

#include <glib.h>

/* Longest wait in one go: how soon a step of the clock is seen. */
#define NAP_US 1000000

/* Slots follow the wall clock, lengths the port's own clock, which nobody can set. */
struct pacing {
    const struct pintle_logging *logging;
    struct pintle_schedule schedule;
    int64_t apart_us; /* wall clock less own clock, when they were compared last */
    int64_t stepped_us;
    int64_t end_us;  /* by its own clock, */
    int64_t show_us; /* and so is this: the next round that is only shown */
    bool failed;     /* what was shown went nowhere */
};

static bool stopped(const struct pintle_logging *logging)
{
    return logging->stop && *logging->stop;
}

static int64_t own_now(const struct pacing *p)
{
    const struct pintle_clock *clock = &p->logging->station->clock;
    return (int64_t)clock->calls->now_us(clock->context);
}

static int64_t wall_now(const struct pacing *p)
{
    return pintle_station_now(p->logging->station);
}

/* Has the wall clock been moved since it was looked at last? A little is its drift, or a slow
 * adjustment: followed, and no step. */
static bool was_moved(struct pacing *p)
{
    int64_t apart = wall_now(p) - own_now(p);
    int64_t by = apart - p->apart_us;
    int64_t much = CLAMP(p->schedule.interval_us / 2, 10000, 1000000);
    p->apart_us = apart;
    if (ABS(by) < much) {
        return false;
    }
    p->stepped_us += by;
    return true;
}

/* The next slot; after a step they are counted anew, and none was missed. */
static int64_t next_slot(struct pacing *p, uint32_t *missed)
{
    *missed = 0;
    if (was_moved(p)) {
        p->schedule.last_us = 0;
    }
    return pintle_schedule_next(&p->schedule, wall_now(p), missed);
}

/* A round that is only shown, if its time has come; how long until the next one. */
static bool show_round(struct pacing *p, int64_t *until_us, struct pintle_problem *problem)
{
    const struct pintle_logging *logging = p->logging;
    *until_us = NAP_US;
    if (logging->show_us == 0) {
        return true;
    }
    if (own_now(p) >= p->show_us) {
        bool whole = pintle_station_round(logging->station, logging->stop) != SIZE_MAX;
        if (whole && logging->shown && !logging->shown(logging->context, problem)) {
            return false;
        }
        p->show_us = MAX(p->show_us + logging->show_us, own_now(p));
    }
    *until_us = p->show_us - own_now(p);
    return true;
}

/* Sleep until the slot, which moves where the clock is moved meanwhile. False: it is over before.
 */
static bool wait_for(struct pacing *p, int64_t *slot_us, uint32_t *missed,
                     struct pintle_problem *problem)
{
    for (;;) {
        int64_t nap = NAP_US;
        int64_t left = *slot_us - wall_now(p);
        if (stopped(p->logging) || own_now(p) + left >= p->end_us) {
            return false;
        }
        if (left <= 0) {
            return true;
        }
        if (p->logging->alive) {
            p->logging->alive(p->logging->context);
        }
        if (left > p->logging->show_us && !show_round(p, &nap, problem)) {
            p->failed = true;
            return false;
        }
        left = MAX(*slot_us - wall_now(p), 0);
        pintle_station_wait(p->logging->station, (uint32_t)MIN(MIN(left, nap), NAP_US),
                            p->logging->stop);
        if (was_moved(p)) {
            p->schedule.last_us = 0;
            *slot_us = pintle_schedule_next(&p->schedule, wall_now(p), NULL);
            *missed = 0;
        }
    }
}

static bool one_record(struct pacing *p, struct pintle_run *run, struct pintle_slot *slot,
                       struct pintle_run_line *line, struct pintle_problem *problem)
{
    const struct pintle_logging *logging = p->logging;
    slot->number = run->records + 1;
    slot->stepped_us = p->stepped_us;
    slot->unset = !pintle_station_knows_time(logging->station);
    if (pintle_station_round(logging->station, logging->stop) == SIZE_MAX) {
        return true; /* stopped: what was not measured whole is no record */
    }
    if (p->stepped_us != 0) {
        pintle_run_stepped(run, p->stepped_us);
        p->stepped_us = 0;
    }
    pintle_run_record(line, logging->station, slot);
    return pintle_run_append(run, line, problem)
           && (!logging->record || logging->record(logging->context, run, line->at, problem));
}

static bool record_slots(const struct pintle_logging *logging, struct pintle_run *run,
                         struct pintle_logged *logged, struct pintle_problem *problem)
{
    struct pacing p = { .logging = logging, .schedule = { .interval_us = logging->every_us } };
    struct pintle_run_line line = { 0 };
    struct pintle_slot slot = { 0 };
    bool ok = true;
    p.show_us = own_now(&p);
    p.apart_us = wall_now(&p) - own_now(&p);
    slot.time_us = next_slot(&p, &slot.missed);
    p.end_us = logging->for_us > 0 ? own_now(&p) + slot.time_us - wall_now(&p) + logging->for_us
                                   : INT64_MAX;
    while (ok && wait_for(&p, &slot.time_us, &slot.missed, problem)) {
        ok = one_record(&p, run, &slot, &line, problem);
        slot.time_us = next_slot(&p, &slot.missed);
        logged->missed += slot.missed;
    }
    logged->interrupted = stopped(logging);
    pintle_run_line_free(&line);
    return ok && !p.failed;
}

bool pintle_log(const struct pintle_logging *logging, struct pintle_logged *logged,
                struct pintle_problem *problem)
{
    struct pintle_run run;
    *logged = (struct pintle_logged){ 0 };
    if (!pintle_run_begin(&run, &logging->places, logging->station, problem)) {
        return false;
    }
    logged->number = run.number;
    logged->path = g_strdup(run.path);
    bool ok = record_slots(logging, &run, logged, problem);
    logged->records = run.records;
    logged->suspect = run.suspect;
    logged->steps = run.steps;
    logged->unset = run.unset;
    logged->bytes = run.bytes;
    logged->lost = g_strdup(run.lost);
    const char *how = ok ? (logged->interrupted ? "interrupted" : "done") : "failed";
    return pintle_run_end(&run, how, problem) && ok;
}
