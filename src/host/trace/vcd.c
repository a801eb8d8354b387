/* Waveforms as IEEE 1364-2005 section 18 lays them down: four-state value change dump. */
#include <glib.h>

#include "host/base/files.h"
#include "pintle/host/trace/trace.h"
#include "pintle/host/base/output.h"

static unsigned lines_of(const struct pintle_rig_bus *bus)
{
    static const unsigned lines[] = { 2, PINTLE_LINE_SELECT, 1, 2 };
    return lines[bus->kind] + bus->selects + (bus->command_pin[0] ? 1 : 0);
}

/* Identifier codes count the lines through, in printable characters. */
static void put_code(GString *text, const struct pintle_rig *rig, unsigned bus, unsigned line)
{
    unsigned number = line;
    for (unsigned i = 0; i < bus; i++) {
        number += lines_of(&rig->bus[i]);
    }
    for (; number >= 94; number = number / 94 - 1) {
        g_string_append_c(text, (char)('!' + number % 94));
    }
    g_string_append_c(text, (char)('!' + number));
}

static void put_line(GString *text, const struct pintle_rig *rig, unsigned number, unsigned line)
{
    static const char *const names[] = { "data", "clock", "data_in" };
    const struct pintle_rig_bus *bus = &rig->bus[number];
    unsigned command = PINTLE_LINE_SELECT + bus->selects;
    char *name = line >= PINTLE_LINE_SELECT && line < command
                     ? g_strdup_printf("select_%s", bus->select_pin[line - PINTLE_LINE_SELECT])
                 : line >= command                        ? g_strdup("command")
                 : bus->kind == PINTLE_BUS_STREAM && line ? g_strdup("data_in")
                                                          : g_strdup(names[line]);
    g_strdelimit(name, " \t", '_'); /* blanks end a name in this format */
    g_string_append(text, "$var wire 1 ");
    put_code(text, rig, number, line);
    g_string_append_printf(text, " %s $end\n", name);
    g_free(name);
}

static void put_change(GString *text, const struct pintle_rig *rig, unsigned bus, unsigned line,
                       unsigned level)
{
    g_string_append_printf(text, "%u", level);
    put_code(text, rig, bus, line);
    g_string_append_c(text, '\n');
}

static void put_header(GString *text, const struct pintle_rig *rig)
{
    g_string_append(text, "$version pintle $end\n$timescale 1 ns $end\n");
    for (unsigned i = 0; i < rig->buses; i++) {
        g_string_append_printf(text, "$scope module %s $end\n", rig->bus[i].name);
        for (unsigned line = 0; line < lines_of(&rig->bus[i]); line++) {
            put_line(text, rig, i, line);
        }
        g_string_append(text, "$upscope $end\n");
    }
    g_string_append(text, "$enddefinitions $end\n#0\n$dumpvars\n");
    for (unsigned i = 0; i < rig->buses; i++) {
        for (unsigned line = 0; line < lines_of(&rig->bus[i]); line++) {
            put_change(text, rig, i, line, pintle_trace_at_first(&rig->bus[i], line));
        }
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
        const struct pintle_rig_bus *bus = &rig->bus[edge->bus];
        bool command = bus->kind == PINTLE_BUS_SPI && edge->line == PINTLE_LINE_COMMAND;
        put_change(text, rig, edge->bus, command ? PINTLE_LINE_SELECT + bus->selects : edge->line,
                   edge->level);
    }
    bool ok =
        pintle_output_may(path, problem) && pintle_priv_files_replace(path, text->str, problem);
    g_free(edges);
    g_string_free(text, TRUE);
    return ok;
}
