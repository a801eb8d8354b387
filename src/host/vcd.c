/* Waveforms as IEEE 1364-2005 section 18 lays them down: four-state value change dump. */
#include <glib.h>

#include "host/files.h"
#include "pintle/host/trace.h"

/* Identifier codes: one printable character per line. */
static char code(unsigned bus, unsigned line)
{
    return (char)('!' + 2 * bus + line);
}

static void put_header(GString *text, const struct pintle_rig *rig)
{
    g_string_append(text, "$version pintle $end\n$timescale 1 ns $end\n");
    for (unsigned bus = 0; bus < rig->buses; bus++) {
        g_string_append_printf(text,
                               "$scope module %s $end\n$var wire 1 %c data $end\n"
                               "$var wire 1 %c clock $end\n$upscope $end\n",
                               rig->bus[bus].name, code(bus, PINTLE_SIM_DATA),
                               code(bus, PINTLE_SIM_CLOCK));
    }
    g_string_append(text, "$enddefinitions $end\n#0\n$dumpvars\n");
    for (unsigned bus = 0; bus < rig->buses; bus++) {
        g_string_append_printf(text, "1%c\n1%c\n", code(bus, PINTLE_SIM_DATA),
                               code(bus, PINTLE_SIM_CLOCK));
    }
    g_string_append(text, "$end\n");
}

/* Times must not go back; edges of different lines are noted when they are seen, which for a slow
 * rise may be a little after a later fall elsewhere. */
static int by_time(const void *a, const void *b)
{
    const struct pintle_edge *x = a;
    const struct pintle_edge *y = b;
    return (x->at_ns > y->at_ns) - (x->at_ns < y->at_ns);
}

bool pintle_trace_vcd(const struct pintle_trace *trace, const struct pintle_rig *rig,
                      const char *path, struct pintle_problem *problem)
{
    GString *text = g_string_new(NULL);
    struct pintle_edge *edges = g_memdup2(trace->edge, trace->count * sizeof *edges);
    uint64_t last = 0;
    put_header(text, rig);
    if (trace->count > 0) {
        qsort(edges, trace->count, sizeof *edges, by_time);
    }
    for (unsigned i = 0; i < trace->count; i++) {
        const struct pintle_edge *edge = &edges[i];
        if (edge->at_ns != last) {
            g_string_append_printf(text, "#%" G_GUINT64_FORMAT "\n", edge->at_ns);
            last = edge->at_ns;
        }
        g_string_append_printf(text, "%u%c\n", edge->level, code(edge->bus, edge->line));
    }
    bool ok = files_replace(path, text->str, problem);
    g_free(edges);
    g_string_free(text, TRUE);
    return ok;
}
