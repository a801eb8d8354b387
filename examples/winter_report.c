/* In winter, with three runs of the summer before one: joined as if nobody had ever pulled the
 * plug, averaged over three hours, and what they come to. The tool does the same as a page to
 * print:
 *
 *     pintle report --demo 1-3
 *
 *     winter_report [FOLDER]
 */
#include <stdio.h>
#include <string.h>

#include "pintle/host/past/summary.h"
#include "pintle/host/run/logger.h"

#define HOUR_US 3600000000LL
#define MINUTE_US 60000000LL

/* Last summer: power on at that hour, log for so long, a record every five minutes. */
static bool log_run(const char *folder, int64_t from_h, int64_t for_h,
                    struct pintle_problem *problem)
{
    struct pintle_logged logged = { 0 };
    struct pintle_rig *rig = pintle_rig_demo(problem);
    struct pintle_station *station =
        rig ? pintle_station_open(rig, from_h * HOUR_US, problem) : NULL;
    const struct pintle_logging logging = { .station = station,
                                            .places = { .folder = folder },
                                            .every_us = 5 * MINUTE_US,
                                            .for_us = for_h * HOUR_US };
    bool ok = station && pintle_log(&logging, &logged, problem);
    pintle_host_free(logged.path);
    pintle_station_free(station);
    pintle_rig_free(rig);
    return ok;
}

static unsigned column(const struct pintle_reader *reader, const char *name)
{
    unsigned i = 0;
    while (i + 1 < reader->columns && strcmp(reader->column[i].name, name) != 0) {
        i++;
    }
    return i;
}

static bool print_means(struct pintle_past **runs, unsigned count, struct pintle_problem *problem)
{
    struct pintle_record record;
    struct pintle_reader *reader = pintle_reader_open(runs, count, PINTLE_ALL_TIME, problem);
    if (!reader) {
        return false;
    }
    struct pintle_averager *averager = pintle_averager_open(reader, 3 * HOUR_US, false);
    unsigned sea = column(reader, "sea.temperature");
    unsigned baro = column(reader, "baro.pressure");
    printf("  from     sea degC        pressure hPa\n");
    while (pintle_averager_next(averager, &record, problem)) {
        const struct pintle_cell *s = &record.cell[sea];
        const struct pintle_cell *p = &record.cell[baro];
        int64_t hour = record.time_us / HOUR_US;
        printf("day %d %02d h  ", (int)(hour / 24 - 20615), (int)(hour % 24));
        if (s->good > 0) {
            printf("%6.2f", s->value);
        } else {
            printf("     -");
        }
        printf(" (%u left out)  %7.1f, %.1f to %.1f\n", s->suspect, p->value / 100, p->least / 100,
               p->greatest / 100);
    }
    pintle_averager_free(averager);
    pintle_reader_free(reader);
    return problem->text[0] == '\0';
}

static bool print_summary(struct pintle_past **runs, unsigned count, struct pintle_problem *problem)
{
    struct pintle_summary *s = pintle_summary_make(runs, count, PINTLE_ALL_TIME, problem);
    if (!s) {
        return false;
    }
    printf("%u records, %u marked\n", (unsigned)s->records, (unsigned)s->marked);
    for (unsigned i = 0; i < s->events->count; i++) {
        char *text = pintle_event_text(&s->events->event[i], "later");
        printf("  %s\n", text);
        pintle_host_free(text);
    }
    pintle_summary_free(s);
    return true;
}

int main(int argc, char **argv)
{
    const char *folder = argc > 1 ? argv[1] : "winter-report";
    struct pintle_problem problem = { PINTLE_FAILURE_NONE, "" };
    struct pintle_past **runs = NULL;
    unsigned count = 0;
    bool ok = log_run(folder, 0, 20, &problem) && log_run(folder, 22, 25, &problem)
              && log_run(folder, 50, 20, &problem);
    struct pintle_archive *archive = ok ? pintle_archive_open(folder, NULL, &problem) : NULL;
    ok = archive && pintle_archive_choose(archive, "all", &runs, &count, &problem)
         && print_means(runs, count, &problem) && print_summary(runs, count, &problem);
    if (!ok) {
        printf("%s\n", problem.text);
    }
    pintle_host_free(runs);
    pintle_archive_free(archive);
    return ok ? 0 : 1;
}
