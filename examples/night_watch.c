/* A night's log of the whole sloop, a record every ten minutes on the clock's tens, with the power
 * lost for an hour and a bit in the middle: two runs, neither of which touches the other.
 *
 *     night_watch [FOLDER]
 */
#include <stdio.h>
#include <stdlib.h>

#include "pintle/host/past/history.h"
#include "pintle/host/run/logger.h"

#define MINUTE 60000000LL

static void print_record(const char *which, const struct pintle_history *run, unsigned row)
{
    unsigned minute = (unsigned)(run->time[row] / 60) % 1440;
    printf("  %s record at %02u:%02u, cabin %.1f degC\n", which, minute / 60, minute % 60,
           run->column[0].value[row]);
}

/* Power on at `from_min` of the simulated world, log for `for_min`, power off. */
static bool watch(const char *folder, int64_t from_min, int64_t for_min)
{
    struct pintle_problem problem = { PINTLE_FAILURE_NONE, "" };
    struct pintle_logged logged = { 0 };
    struct pintle_rig *rig = pintle_rig_demo(&problem);
    struct pintle_station *station =
        rig ? pintle_station_open(rig, from_min * MINUTE, &problem) : NULL;
    bool ok = station != NULL;
    if (ok) {
        const struct pintle_logging logging = { .station = station,
                                                .places = { .folder = folder },
                                                .every_us = 10 * MINUTE,
                                                .for_us = for_min * MINUTE };
        ok = pintle_log(&logging, &logged, &problem);
    }
    if (!ok) {
        printf("%s\n", problem.text);
    } else {
        struct pintle_history *run = pintle_history_load(folder, NULL, logged.path, &problem);
        printf("%s: %u records, %u with suspect readings\n", logged.path, logged.records,
               logged.suspect);
        if (run) {
            print_record("first", run, 0);
            print_record("last ", run, run->rows - 1);
        }
        pintle_history_free(run);
    }
    pintle_host_free(logged.path);
    pintle_station_free(station);
    pintle_rig_free(rig);
    return ok;
}

int main(int argc, char **argv)
{
    const char *folder = argc > 1 ? argv[1] : "night-watch";
    bool before = watch(folder, 20 * 60, 4 * 60 + 13);
    bool after = watch(folder, 25 * 60 + 27, 4 * 60 + 33);
    return before && after ? 0 : 1;
}
