#include "pintle/host/logger.h"

#include <glib.h>

/* Longest uninterrupted sleep: how soon a stop is heeded. */
#define NAP_US 200000

static bool stopped(const struct pintle_logging *logging)
{
    return logging->stop && *logging->stop;
}

/* Sleep until the slot; false when stopped before. */
static bool wait_for(const struct pintle_logging *logging, int64_t slot_us)
{
    const struct pintle_clock *clock = &logging->station->clock;
    int64_t left = slot_us - pintle_station_now(logging->station);
    while (left > 0 && !stopped(logging)) {
        clock->calls->sleep_us(clock->context, (uint32_t)MIN(left, NAP_US));
        left = slot_us - pintle_station_now(logging->station);
    }
    return !stopped(logging);
}

static bool one_record(const struct pintle_logging *logging, struct pintle_run *run,
                       int64_t slot_us, uint32_t missed, struct pintle_problem *problem)
{
    char buffer[8192];
    struct pintle_text line;
    pintle_station_round(logging->station);
    pintle_text_init(&line, buffer, sizeof buffer);
    pintle_run_record(&line, logging->station, run->records + 1, slot_us, missed);
    if (!pintle_run_append(run, &line, problem)) {
        return false;
    }
    if (logging->record) {
        logging->record(logging->context, run, buffer);
    }
    return true;
}

static bool record_slots(const struct pintle_logging *logging, struct pintle_run *run,
                         struct pintle_logged *logged, struct pintle_problem *problem)
{
    struct pintle_schedule schedule = { .interval_us = logging->every_us };
    uint32_t missed = 0;
    int64_t slot = pintle_schedule_next(&schedule, pintle_station_now(logging->station), NULL);
    int64_t end = logging->for_us > 0 ? slot + logging->for_us : INT64_MAX;
    while (slot < end && wait_for(logging, slot)) {
        if (!one_record(logging, run, slot, missed, problem)) {
            return false;
        }
        slot = pintle_schedule_next(&schedule, pintle_station_now(logging->station), &missed);
        logged->missed += missed;
    }
    logged->interrupted = slot < end;
    return true;
}

bool pintle_log(const struct pintle_logging *logging, struct pintle_logged *logged,
                struct pintle_problem *problem)
{
    struct pintle_run run;
    *logged = (struct pintle_logged){ 0 };
    if (!pintle_run_begin(&run, logging->folder, logging->station, problem)) {
        return false;
    }
    logged->number = run.number;
    g_strlcpy(logged->path, run.path, sizeof logged->path);
    bool ok = record_slots(logging, &run, logged, problem);
    logged->records = run.records;
    logged->suspect = run.suspect;
    const char *how = ok ? (logged->interrupted ? "interrupted" : "done") : "failed";
    return pintle_run_end(&run, how, problem) && ok;
}
