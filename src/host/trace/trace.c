#include "pintle/host/trace/trace.h"

#include <glib.h>
#include <string.h>

#include "host/base/files.h"

static void on_edge(void *context, uint8_t line, uint8_t level, uint64_t at_ns)
{
    const struct pintle_trace_hook *hook = context;
    struct pintle_trace *trace = hook->trace;
    if (trace->count == PINTLE_TRACE_MAX) {
        trace->lost++;
        return;
    }
    if (trace->count == trace->room) {
        trace->room = trace->room ? trace->room * 2 : 1024;
        trace->edge = g_renew(struct pintle_edge, trace->edge, trace->room);
    }
    trace->edge[trace->count++] = (struct pintle_edge){ at_ns, hook->bus, line, level };
}

void pintle_trace_attach(struct pintle_trace *trace, struct pintle_station *station)
{
    trace->hook = g_renew(struct pintle_trace_hook, trace->hook, station->rig->buses);
    for (uint16_t i = 0; i < station->rig->buses; i++) {
        trace->hook[i] = (struct pintle_trace_hook){ trace, i };
    }
    for (uint16_t i = 0; i < station->rig->buses; i++) {
        station->platform->listen(station, i, on_edge, &trace->hook[i]);
    }
}

void pintle_trace_free(struct pintle_trace *trace)
{
    g_free(trace->edge);
    g_free(trace->hook);
    *trace = (struct pintle_trace){ 0 };
}
