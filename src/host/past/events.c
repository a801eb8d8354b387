/* What happened while a run was logged, by what its records say. */
#include <glib.h>
#include <math.h>
#include <stdlib.h>
#include <string.h>

#include "pintle/host/base/duration.h"
#include "pintle/host/past/summary.h"

#define NONE UINT_MAX

/* A sensor's columns stand together. */
struct watched {
    unsigned from, to;
    unsigned failing; /* the event that lasts; NONE */
    bool fresh;       /* its last record was one as after power-up */
};

struct watching {
    const struct pintle_reader *reader;
    unsigned sensors;
    struct watched *sensor;
    unsigned *suspect; /* of each column, the event that lasts */
    struct pintle_record last;
    bool any;
    unsigned unset, missed;
    int64_t over_us;
};

static size_t sensor_length(const char *name)
{
    const char *dot = strrchr(name, '.');
    return dot ? (size_t)(dot - name) : strlen(name);
}

static bool same_sensor(const char *a, const char *b)
{
    size_t length = sensor_length(a);
    return length == sensor_length(b) && strncmp(a, b, length) == 0;
}

struct pintle_events *pintle_events_open(const struct pintle_reader *reader)
{
    struct pintle_events *events = g_new0(struct pintle_events, 1);
    struct watching *w = g_new0(struct watching, 1);
    w->reader = reader;
    w->sensor = g_new0(struct watched, reader->columns + 1);
    w->suspect = g_new(unsigned, reader->columns + 1);
    w->unset = w->missed = NONE;
    for (unsigned i = 0; i < reader->columns; i++) {
        w->suspect[i] = NONE;
        if (i == 0 || !same_sensor(reader->column[i].name, reader->column[i - 1].name)) {
            w->sensor[w->sensors++] = (struct watched){ i, i, NONE, false };
        }
        w->sensor[w->sensors - 1].to = i + 1;
    }
    events->own = w;
    return events;
}

static unsigned begin(struct pintle_events *events, enum pintle_event_kind kind,
                      const struct pintle_record *record, char *name)
{
    if (events->count == events->room) {
        events->room = events->room ? 2 * events->room : 64;
        events->event = g_renew(struct pintle_event, events->event, events->room);
    }
    events->event[events->count] = (struct pintle_event){ .record = record->number,
                                                          .kind = kind,
                                                          .run = record->run,
                                                          .from_us = record->time_us,
                                                          .to_us = record->time_us,
                                                          .name = name };
    return events->count++;
}

/* Something lasts, or is over. `of` is the event of it so far. */
static void follow(struct pintle_events *events, unsigned *of, bool lasts,
                   enum pintle_event_kind kind, const struct pintle_record *record, uint64_t count,
                   const char *name, size_t length)
{
    if (!lasts) {
        *of = NONE;
        return;
    }
    if (*of == NONE) {
        *of = begin(events, kind, record, name ? g_strndup(name, length) : NULL);
    }
    struct pintle_event *event = &events->event[*of];
    event->to_us = record->time_us;
    event->count += count;
}

/* Several readings may be in one record. */
static uint64_t readings(const struct pintle_cell *cell)
{
    return MAX(cell->suspect, 1);
}

static void take_sensor(struct pintle_events *events, struct watching *w, struct watched *s,
                        const struct pintle_record *record)
{
    const struct pintle_run_column *column = &w->reader->column[s->from];
    bool failing = !column->made;
    bool fresh = !column->made;
    for (unsigned i = s->from; i < s->to; i++) {
        const struct pintle_cell *cell = &record->cell[i];
        failing = failing && (cell->quality & PINTLE_QUALITY_BUS) && cell->good == 0;
        fresh = fresh && (cell->quality & PINTLE_QUALITY_FIRST);
    }
    size_t length = sensor_length(column->name);
    follow(events, &s->failing, failing, PINTLE_EVENT_FAILED, record,
           readings(&record->cell[s->from]), column->name, length);
    if (fresh && !s->fresh) {
        unsigned at = begin(events, PINTLE_EVENT_POWERED, record, g_strndup(column->name, length));
        events->event[at].count = record->number;
    }
    s->fresh = fresh;
    for (unsigned i = s->from; i < s->to; i++) {
        const struct pintle_cell *cell = &record->cell[i];
        pintle_marks told = (PINTLE_QUALITY_SUSPECT & ~PINTLE_QUALITY_FIRST) | PINTLE_CELL_UNKNOWN;
        told &= (pintle_marks) ~(failing || column->made ? PINTLE_QUALITY_BUS : 0);
        pintle_marks quality = cell->quality & told;
        follow(events, &w->suspect[i], quality != 0, PINTLE_EVENT_SUSPECT, record, readings(cell),
               w->reader->column[i].name, strlen(w->reader->column[i].name));
        if (quality) {
            events->event[w->suspect[i]].quality |= quality;
        }
    }
}

/* What lasted until a run's end lasts no longer. */
static void end_run(struct pintle_events *events, struct watching *w)
{
    for (unsigned i = 0; i < w->sensors; i++) {
        if (w->sensor[i].failing != NONE) {
            events->event[w->sensor[i].failing].lasts = true;
        }
        w->sensor[i].failing = NONE;
        w->sensor[i].fresh = false;
    }
    for (unsigned i = 0; i < w->reader->columns; i++) {
        if (w->suspect[i] != NONE) {
            events->event[w->suspect[i]].lasts = true;
        }
        w->suspect[i] = NONE;
    }
    w->unset = w->missed = NONE;
}

void pintle_events_take(struct pintle_events *events, const struct pintle_record *record)
{
    struct watching *w = events->own;
    if (w->any && record->run != w->last.run) {
        end_run(events, w);
        unsigned at = begin(events, PINTLE_EVENT_BETWEEN, &w->last, NULL);
        events->event[at].to_us = record->time_us;
    }
    if (record->over_us != w->over_us) {
        unsigned at = begin(events, PINTLE_EVENT_THINNED, record, NULL);
        events->event[at].by_us = record->over_us;
    }
    if (record->stepped_us != 0) {
        unsigned at = begin(events, PINTLE_EVENT_STEPPED, record, NULL);
        events->event[at].by_us = record->stepped_us;
    }
    follow(events, &w->unset, record->unset, PINTLE_EVENT_UNSET, record, 1, NULL, 0);
    follow(events, &w->missed, record->missed > 0, PINTLE_EVENT_MISSED, record, record->missed,
           NULL, 0);
    for (unsigned i = 0; i < w->sensors; i++) {
        take_sensor(events, w, &w->sensor[i], record);
    }
    w->any = true;
    w->over_us = record->over_us;
    w->last = *record;
}

/* In the order of the records, since a clock may have been moved while they were taken. */
static int by_record(const void *a, const void *b)
{
    const struct pintle_event *one = a;
    const struct pintle_event *other = b;
    bool notes = one->kind == PINTLE_EVENT_NOTED && other->kind == PINTLE_EVENT_NOTED;
    if (one->run != other->run) {
        return one->run < other->run ? -1 : 1;
    }
    if (one->record != other->record) {
        return one->record < other->record ? -1 : 1;
    }
    return notes ? (one->from_us > other->from_us) - (one->from_us < other->from_us)
                 : (int)one->kind - (int)other->kind;
}

/* The record at which the latest event before a note began. */
static uint64_t record_before(const struct pintle_events *events, unsigned run, int64_t time_us)
{
    uint64_t record = 0;
    for (unsigned i = 0; i < events->count; i++) {
        const struct pintle_event *event = &events->event[i];
        if (event->run == run && event->kind != PINTLE_EVENT_NOTED && event->from_us <= time_us) {
            record = MAX(record, event->record);
        }
    }
    return record;
}

void pintle_events_end(struct pintle_events *events, struct pintle_past *const *runs,
                       unsigned count, struct pintle_window window)
{
    end_run(events, events->own);
    for (unsigned r = 0; r < count; r++) {
        for (unsigned i = 0; i < runs[r]->notes; i++) {
            const int64_t time_us = runs[r]->note[i].time_us;
            const struct pintle_record at = { .run = r,
                                              .number = record_before(events, r, time_us),
                                              .time_us = time_us };
            if (at.time_us >= window.from_us && at.time_us < window.to_us) {
                begin(events, PINTLE_EVENT_NOTED, &at, g_strdup(runs[r]->note[i].text));
            }
        }
    }
    if (events->count > 0) {
        qsort(events->event, events->count, sizeof *events->event, by_record);
    }
}

void pintle_events_free(struct pintle_events *events)
{
    if (!events) {
        return;
    }
    struct watching *w = events->own;
    for (unsigned i = 0; i < events->count; i++) {
        g_free(events->event[i].name);
    }
    g_free(events->event);
    g_free(w->sensor);
    g_free(w->suspect);
    g_free(w);
    g_free(events);
}

/* "105 records, until 17:05:00", "1 record". */
static char *extent_text(const struct pintle_event *event, const char *until)
{
    const char *many = event->count == 1 ? "" : "s";
    char *end = event->lasts                    ? g_strdup(", to the end of the run")
                : event->to_us > event->from_us ? g_strdup_printf(", until %s", until)
                                                : g_strdup("");
    char *text = g_strdup_printf("%" G_GUINT64_FORMAT " record%s%s", event->count, many, end);
    g_free(end);
    return text;
}

char *pintle_event_text(const struct pintle_event *event, const char *until)
{
    char *extent = extent_text(event, until);
    char *marks = pintle_marks_text(event->quality);
    char *by = pintle_duration_text(event->by_us);
    char *text = NULL;
    switch (event->kind) {
    case PINTLE_EVENT_FAILED:
        text = g_strdup_printf("%s gave no data: %s", event->name, extent);
        break;
    case PINTLE_EVENT_SUSPECT:
        text = g_strdup_printf("%s was suspect (%s): %s", event->name, marks, extent);
        break;
    case PINTLE_EVENT_POWERED:
        text =
            g_strdup_printf(event->count == 1 ? "%s: its first reading after power-up is left out"
                                              : "%s had lost its supply, and was set up anew",
                            event->name);
        break;
    case PINTLE_EVENT_MISSED:
        text = g_strdup_printf("%" G_GUINT64_FORMAT " slot%s missed: nobody measured", event->count,
                               event->count == 1 ? " was" : "s were");
        break;
    case PINTLE_EVENT_STEPPED:
        text = g_strdup_printf("the clock was moved by %s; times before don't belong to those "
                               "after it",
                               by);
        break;
    case PINTLE_EVENT_UNSET:
        text = g_strdup_printf("the clock was not set: %s", extent);
        break;
    case PINTLE_EVENT_BETWEEN:
        g_free(by);
        by = pintle_duration_text(llabs(event->to_us - event->from_us));
        text = g_strdup_printf("the run ended; the next began %s %s", by,
                               event->to_us < event->from_us ? "earlier" : "later");
        break;
    case PINTLE_EVENT_NOTED:
        text = g_strdup_printf("note: %s", event->name);
        break;
    case PINTLE_EVENT_THINNED:
        text = event->by_us
                   ? g_strdup_printf("from here on thinned: a record is averaged over %s", by)
                   : g_strdup("from here on every record is kept");
        break;
    }
    g_free(extent);
    g_free(marks);
    g_free(by);
    return text;
}
