#include "cli/watch.h"
#include "cli/past.h"

#include <limits.h>
#include <stdio.h>
#include <string.h>
#include <sys/ioctl.h>
#include <unistd.h>

#include "pintle/host/run/senml.h"

void log_watch_begin(struct watch *watch)
{
    const struct pintle_rig *rig = watch->station->rig;
    watch->began_us = g_get_monotonic_time();
    watch->failing = g_new0(bool, rig->sensors);
    watch->columns = g_new0(struct column, (gsize)rig->sensors * PINTLE_MOST_CHANNELS * 2);
    for (unsigned i = 0; i < rig->sensors; i++) {
        const struct pintle_part *part = rig->sensor[i].sheet->part;
        for (unsigned c = 0; c < part->channel_count; c++) {
            if (pintle_run_logs(&part->channels[c])) {
                watch->columns[watch->count++] = (struct column){ i, c, false, 0 };
                if (rig->sensor[i].channel[c].also != PINTLE_UNIT_COUNT) {
                    watch->columns[watch->count++] = (struct column){ i, c, true, 0 };
                }
            }
        }
    }
}

void log_watch_end(struct watch *watch)
{
    g_free(watch->failing);
    g_free(watch->columns);
}

static const struct pintle_channel *channel_of(const struct pintle_rig *rig,
                                               const struct column *column)
{
    return &rig->sensor[column->sensor].sheet->part->channels[column->channel];
}

static enum pintle_unit unit_of(const struct pintle_rig *rig, const struct column *column)
{
    const struct pintle_rig_channel *channel =
        &rig->sensor[column->sensor].channel[column->channel];
    return column->again ? channel->also : channel->unit;
}

static int width_of(const struct pintle_rig *rig, const struct column *column)
{
    return MAX(9, (int)strlen(channel_of(rig, column)->name));
}

/* How many columns fit into the terminal's lines; all of them into a file. */
static unsigned columns_shown(const struct watch *watch)
{
    const struct pintle_rig *rig = watch->station->rig;
    const struct column *columns = watch->columns;
    struct winsize size = { 0 };
    bool terminal = ioctl(STDOUT_FILENO, TIOCGWINSZ, &size) == 0 && size.ws_col >= 60;
    int room = terminal ? size.ws_col - 56 : INT_MAX; /* a remark behind them, too */
    unsigned shown = 0;
    while (shown < watch->count && room > width_of(rig, &columns[shown])) {
        room -= terminal ? width_of(rig, &columns[shown]) + 1 : 0;
        shown++;
    }
    return shown;
}

static void print_heading(const struct watch *watch)
{
    const struct pintle_rig *rig = watch->station->rig;
    const struct column *columns = watch->columns;
    unsigned shown = columns_shown(watch);
    printf("%s%6s  %-20s", cli_bold(), "record", "time (UTC)");
    for (unsigned i = 0; i < shown; i++) {
        printf(" %*.11s", width_of(rig, &columns[i]), rig->sensor[columns[i].sensor].name);
    }
    if (shown < watch->count) {
        printf("  +%u more", watch->count - shown);
    }
    printf("\n%6s  %-20s", "", "");
    for (unsigned i = 0; i < shown; i++) {
        printf(" %*s", width_of(rig, &columns[i]), channel_of(rig, &columns[i])->name);
    }
    printf("\n%6s  %-20s", "", "");
    for (unsigned i = 0; i < shown; i++) {
        printf(" %*s", width_of(rig, &columns[i]),
               cli_unit(channel_of(rig, &columns[i]), unit_of(rig, &columns[i])));
    }
    printf("%s\n", cli_plain());
}

static const struct pintle_reading *reading_of(const struct watch *watch,
                                               const struct column *column)
{
    return &watch->station->turn[column->sensor].sample.channel[column->channel];
}

static void print_row(const struct watch *watch, uint32_t number, const char *line)
{
    const struct pintle_rig *rig = watch->station->rig;
    const struct column *columns = watch->columns;
    unsigned shown = columns_shown(watch);
    const char *time = strchr(line, ',') + 1;
    const char *quality = strrchr(line, ',') + 1;
    char *which = number > 0 ? g_strdup_printf("%u", number) : g_strdup("-");
    printf("%6s  %-20.*s", which, (int)strcspn(time, ","), time);
    g_free(which);
    for (unsigned i = 0; i < shown; i++) {
        const struct pintle_reading *reading = reading_of(watch, &columns[i]);
        bool good = pintle_reading_good(reading);
        char *value =
            cli_value(channel_of(rig, &columns[i]), unit_of(rig, &columns[i]), reading, 0);
        printf(" %s%*s%s", good ? "" : cli_bad(), width_of(rig, &columns[i]), value,
               good ? "" : cli_plain());
        g_free(value);
    }
    int length = (int)strcspn(quality, "\r\n");
    bool good = strncmp(quality, "good", 4) == 0;
    printf("%s%.*s\n", good ? "" : "  ", good ? 0 : length, quality);
}

/* Say why a channel is suspect, when that begins, and when it is good again; and of one that is
 * good when it seems to measure its own heat. A first reading is nothing to talk about, a sensor
 * that fails is told as such. */
static void talk_of_channel(struct watch *watch, struct column *column, const char *time,
                            int length)
{
    const struct pintle_rig *rig = watch->station->rig;
    const pintle_marks told =
        (PINTLE_QUALITY_SUSPECT ^ PINTLE_QUALITY_FIRST) | PINTLE_QUALITY_WARMING;
    pintle_marks quality = reading_of(watch, column)->quality & told;
    pintle_marks before = column->quality;
    bool failing = quality & PINTLE_QUALITY_BUS;
    if (failing || column->again || quality == before) {
        return;
    }
    const char *name = rig->sensor[column->sensor].name;
    const char *channel = channel_of(rig, column)->name;
    pintle_marks suspect = quality & PINTLE_QUALITY_SUSPECT;
    column->quality = quality;
    if (suspect) {
        char *words = cli_quality(quality);
        pintle_marks first = (pintle_marks)(suspect & -suspect);
        cli_say("%.*s: %s.%s is suspect: %s (%s); 'pintle explain %s' says more", length, time,
                name, channel, words, pintle_quality_sentence(first), pintle_quality_word(first));
        g_free(words);
    } else if (before & PINTLE_QUALITY_SUSPECT) {
        cli_say("%.*s: %s.%s is good again", length, time, name, channel);
    } else if (quality & PINTLE_QUALITY_WARMING) {
        cli_say("%.*s: %s.%s is %s; 'pintle explain warming' says more", length, time, name,
                channel, pintle_quality_sentence(PINTLE_QUALITY_WARMING));
    }
}

/* Say when a sensor fails and when it is back. */
static void talk(struct watch *watch, const char *line)
{
    const char *time = strchr(line, ',') + 1;
    int length = (int)strcspn(time, ",");
    for (unsigned i = 0; i < watch->station->rig->sensors; i++) {
        const struct pintle_seat *turn = &watch->station->turn[i];
        const struct pintle_rig_sensor *sensor = &watch->station->rig->sensor[i];
        bool failing = turn->status != PINTLE_OK;
        if (failing && !watch->failing[i]) {
            const char *words = watch->station->rigged[i].words;
            cli_say("%.*s: sensor '%s' fails: %s; it is marked and tried again every time", length,
                    time, sensor->name, words[0] ? words : pintle_status_sentence(turn->status));
        } else if (!failing && watch->failing[i]) {
            cli_say("%.*s: sensor '%s' is back", length, time, sensor->name);
        }
        watch->failing[i] = failing;
    }
    for (unsigned i = 0; i < watch->count; i++) {
        talk_of_channel(watch, &watch->columns[i], time, length);
    }
}

/* As the run's own lines, in other units. */
static void print_fields_heading(const struct watch *watch)
{
    const struct pintle_rig *rig = watch->station->rig;
    printf("record,time");
    for (unsigned i = 0; i < watch->count; i++) {
        const struct column *column = &watch->columns[i];
        const struct pintle_channel *channel = channel_of(rig, column);
        enum pintle_unit unit = unit_of(rig, column);
        printf(",%s.%s/%s", rig->sensor[column->sensor].name, channel->name,
               unit == PINTLE_UNIT_COUNT
                   ? pintle_quantity_symbol((enum pintle_quantity)channel->quantity)
                   : pintle_unit_symbol(unit));
    }
    printf(",quality\r\n");
}

static void print_fields(const struct watch *watch, const char *line)
{
    const struct pintle_rig *rig = watch->station->rig;
    const char *time = strchr(line, ',') + 1;
    printf("%.*s", (int)(time - line) + (int)strcspn(time, ","), line);
    for (unsigned i = 0; i < watch->count; i++) {
        const struct column *column = &watch->columns[i];
        const char *symbol = NULL;
        char *value = cli_field(channel_of(rig, column), unit_of(rig, column),
                                reading_of(watch, column), &symbol);
        printf(",%s", value);
        g_free(value);
    }
    fputs(strrchr(line, ','), stdout);
}

/* Once the run has begun. */
void log_watch_first(struct watch *watch)
{
    if (watch->quiet || watch->format == FORMAT_SENML || watch->begun) {
        return;
    }
    watch->begun = true;
    if (watch->format == FORMAT_TEXT) {
        print_heading(watch);
        return;
    }
    if (watch->in_units) {
        print_fields_heading(watch);
        return;
    }
    struct pintle_run_line header = { 0 };
    pintle_run_header(&header, watch->station->rig);
    fputs(header.at, stdout);
    pintle_run_line_free(&header);
}

/* Nothing is heard of it while it waits, but for this. Said every few seconds. */
void log_watch_wait(void *context)
{
    struct watch *watch = context;
    gint64 now = g_get_monotonic_time();
    if (watch->notified_us == 0) {
        cli_notify("READY=1");
    }
    if (watch->notified_us == 0 || now - watch->notified_us > 5 * G_USEC_PER_SEC) {
        watch->notified_us = now;
        cli_notify("WATCHDOG=1");
    }
}

/* On a terminal that gets no records, how far it is. */
static void tell_progress(struct watch *watch, uint32_t records, const char *line)
{
    gint64 now = g_get_monotonic_time();
    const char *time = strchr(line, ',') + 1;
    if (watch->quiet && now - watch->began_us > G_USEC_PER_SEC
        && now - watch->told_us > G_USEC_PER_SEC / 5) {
        cli_progress("logging: %.*s, record %u (Ctrl-C ends the run)", (int)strcspn(time, ","),
                     time, records);
        watch->told_us = now;
    }
}

/* One can leave it from here on: it measures, and where and when it records is said. */
void log_watch_begun(void *context, const struct pintle_run *run, int64_t first_us)
{
    const struct watch *watch = context;
    if (!watch->quiet && run) {
        char *first = cli_moment(first_us, false);
        cli_say("run %04u logs into %s; the first record is due at %s UTC", run->number, run->path,
                first);
        g_free(first);
    }
}

/* A round that is no record. */
bool log_watch_shown(void *context, const char *line, struct pintle_problem *problem)
{
    struct watch *watch = context;
    log_watch_first(watch);
    talk(watch, line);
    log_watch_wait(watch);
    if (!watch->quiet && watch->format == FORMAT_TEXT) {
        print_row(watch, 0, line);
    }
    return cli_printed(problem);
}

bool log_watch_record(void *context, const struct pintle_run *run, const char *line,
                      struct pintle_problem *problem)
{
    struct watch *watch = context;
    log_watch_first(watch);
    talk(watch, line);
    log_watch_wait(watch);
    if (run->news) {
        cli_say("pintle: %s.", run->news);
    }
    if (watch->quiet) {
        tell_progress(watch, run->records, line);
        return true;
    }
    if (watch->format == FORMAT_CSV && watch->in_units) {
        print_fields(watch, line);
    } else if (watch->format == FORMAT_CSV) {
        fputs(line, stdout);
    } else if (watch->format == FORMAT_SENML) {
        char *pack = pintle_senml(watch->station, NULL);
        printf("%s\n", pack);
        pintle_host_free(pack);
    } else {
        print_row(watch, run->records, line);
    }
    return cli_printed(problem);
}
