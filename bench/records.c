/* CSV records per second beside a bare formatted write of the same rows.
 *
 *     records ours|bare COUNT >FILE
 */
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <time.h>

#include "pintle/host/run/run.h"

static double now(void)
{
    struct timespec time;
    clock_gettime(CLOCK_MONOTONIC, &time);
    return (double)time.tv_sec + (double)time.tv_nsec / 1e9;
}

static void ours(const struct pintle_station *station, uint32_t number, int64_t slot_us)
{
    static struct pintle_run_line line;
    const struct pintle_slot slot = { .number = number, .time_us = slot_us };
    pintle_run_record(&line, station, &slot);
    fwrite(line.at, 1, line.used, stdout);
}

static void bare(const struct pintle_station *station, uint32_t number, int64_t slot_us)
{
    char when[32];
    time_t seconds = (time_t)(slot_us / 1000000);
    struct tm tm;
    const struct pintle_seat *s = station->turn;
    gmtime_r(&seconds, &tm);
    strftime(when, sizeof when, "%Y-%m-%dT%H:%M:%SZ", &tm);
    printf("%u,%s,%.2f,%.2f,%.2f,%.2f,%.2f,%.2f,%.4f,%.4f,%s\r\n", number, when,
           (double)s[0].sample.channel[0].value, (double)s[0].sample.channel[1].value,
           (double)s[1].sample.channel[0].value, (double)s[1].sample.channel[1].value,
           (double)s[1].sample.channel[2].value, (double)s[2].sample.channel[0].value,
           (double)s[3].sample.channel[0].value, (double)s[4].sample.channel[0].value, "good");
}

int main(int argc, char **argv)
{
    struct pintle_problem problem = { 0 };
    struct pintle_rig *rig = pintle_rig_demo(&problem);
    struct pintle_station *station = rig ? pintle_station_open(rig, 0, &problem) : NULL;
    if (!station || argc != 3) {
        return 2;
    }
    pintle_station_round(station, NULL);
    pintle_station_round(station, NULL);
    long count = atol(argv[2]);
    int64_t slot = pintle_station_now(station) / 60000000 * 60000000;
    double begun = now();
    for (long i = 0; i < count; i++) {
        (strcmp(argv[1], "ours") == 0 ? ours : bare)(station, (uint32_t)i + 1, slot);
        slot += 60000000;
    }
    fprintf(stderr, "%.0f\n", (double)count / (now() - begun));
    pintle_station_free(station);
    pintle_rig_free(rig);
    return 0;
}
