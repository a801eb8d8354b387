#include "pintle/host/trace.h"

#include <glib.h>
#include <stdlib.h>
#include <string.h>

#include "host/files.h"

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
    for (uint8_t i = 0; i < station->rig->buses; i++) {
        trace->hook[i] = (struct pintle_trace_hook){ trace, i };
        station->wires[i].edge = on_edge;
        station->wires[i].edge_context = &trace->hook[i];
    }
}

void pintle_trace_free(struct pintle_trace *trace)
{
    g_free(trace->edge);
    *trace = (struct pintle_trace){ 0 };
}

/* One bus while its edges are decoded. */
struct listener {
    uint8_t level[2];
    uint8_t active;
    uint8_t bits;
    uint8_t shifted;
};

static bool hear_data(struct listener *l, const struct pintle_edge *edge, struct pintle_item *item)
{
    if (!l->level[PINTLE_SIM_CLOCK]) {
        return false;
    }
    item->kind = edge->level ? PINTLE_ITEM_STOP : PINTLE_ITEM_START;
    l->active = !edge->level;
    l->bits = 0;
    return true;
}

static bool hear_clock(struct listener *l, const struct pintle_edge *edge, struct pintle_item *item)
{
    if (!edge->level || !l->active) {
        return false;
    }
    uint8_t data = l->level[PINTLE_SIM_DATA];
    if (l->bits < 8) {
        l->shifted = (uint8_t)(l->shifted << 1 | data);
        l->bits++;
        return false;
    }
    item->kind = PINTLE_ITEM_BYTE;
    item->value = l->shifted;
    item->acknowledged = !data;
    l->bits = 0;
    return true;
}

unsigned pintle_trace_items(const struct pintle_trace *trace, struct pintle_item **items)
{
    struct listener listeners[PINTLE_RIG_BUSES];
    unsigned count = 0;
    memset(listeners, 0, sizeof listeners);
    for (unsigned i = 0; i < PINTLE_RIG_BUSES; i++) {
        listeners[i].level[0] = listeners[i].level[1] = 1;
    }
    *items = calloc(trace->count + 1, sizeof **items);
    for (unsigned i = 0; i < trace->count; i++) {
        const struct pintle_edge *edge = &trace->edge[i];
        struct listener *l = &listeners[edge->bus];
        struct pintle_item *item = &(*items)[count];
        *item = (struct pintle_item){ .at_ns = edge->at_ns, .bus = edge->bus };
        count +=
            edge->line == PINTLE_SIM_DATA ? hear_data(l, edge, item) : hear_clock(l, edge, item);
        l->level[edge->line] = edge->level;
    }
    return count;
}

/* --- telling --- */

/* What is known while a bus's items are told. */
struct telling {
    GString *text;
    const struct pintle_rig *rig;
    unsigned number;
    uint64_t began_ns, ended_ns; /* of the transfer, and of the one before */
    const struct pintle_rig_sensor *sensor;
    uint8_t address;
    uint8_t reading;
    uint8_t taken; /* bytes after the address */
    uint32_t value;
};

static const struct pintle_rig_sensor *sensor_at(const struct pintle_rig *rig, uint8_t bus,
                                                 uint8_t address)
{
    for (unsigned i = 0; i < rig->sensors; i++) {
        if (rig->sensor[i].bus == bus && rig->sensor[i].address == address) {
            return &rig->sensor[i];
        }
    }
    return NULL;
}

static const char *register_name(const struct pintle_rig_sensor *sensor, uint32_t reg)
{
    for (unsigned i = 0; sensor && i < sensor->sheet->reg_count; i++) {
        if (sensor->sheet->regs[i].reg.address == reg) {
            return sensor->sheet->regs[i].name;
        }
    }
    return NULL;
}

static void tell_start(struct telling *t, const struct pintle_item *item, bool repeated)
{
    if (!repeated) {
        double gap = t->number ? (double)(item->at_ns - t->ended_ns) / 1e3 : 0;
        t->number++;
        g_string_append_printf(t->text, "%5u %14.3f %12.1f  %-8s", t->number,
                               (double)item->at_ns / 1e6, gap, t->rig->bus[item->bus].name);
        t->began_ns = item->at_ns;
    } else {
        g_string_append_printf(t->text, "\n%5s %14s %12s  %-8s", "", "", "", "again");
    }
    t->taken = 0;
    t->value = 0;
}

/* The address byte, with who is there. */
static void tell_address(struct telling *t, const struct pintle_item *item)
{
    t->address = item->value >> 1;
    t->reading = item->value & 1;
    t->sensor = sensor_at(t->rig, item->bus, t->address);
    g_string_append_printf(t->text, " 0x%02x%c %-8s %s", t->address, item->acknowledged ? '+' : '-',
                           t->sensor ? t->sensor->name : "", t->reading ? "read " : "write");
}

/* The first written bytes may be a register or a command of the part. */
static void tell_byte(struct telling *t, const struct pintle_item *item)
{
    unsigned wide = t->sensor && (t->sensor->sheet->part->flags & PINTLE_PART_WIDE_ADDRESS) ? 2 : 1;
    g_string_append_printf(t->text, " %02x%c", item->value, item->acknowledged ? '+' : '-');
    t->taken++;
    t->value = t->value << 8 | item->value;
    const char *name = !t->reading && t->taken == wide ? register_name(t->sensor, t->value) : NULL;
    if (name) {
        g_string_append_printf(t->text, " %s", name);
    }
}

static void tell_stop(struct telling *t, const struct pintle_item *item)
{
    g_string_append_printf(t->text, "  stop, %.1f us\n", (double)(item->at_ns - t->began_ns) / 1e3);
    t->ended_ns = item->at_ns;
}

char *pintle_trace_text(const struct pintle_trace *trace, const struct pintle_rig *rig)
{
    struct pintle_item *items = NULL;
    unsigned count = pintle_trace_items(trace, &items);
    struct telling t = { .text = g_string_new(NULL), .rig = rig };
    uint8_t active = 0;
    uint8_t addressed = 0;
    g_string_append_printf(t.text, "%5s %14s %12s  %-8s bytes: + acknowledged, - not\n", "", "ms",
                           "gap us", "bus");
    for (unsigned i = 0; i < count; i++) {
        if (items[i].kind == PINTLE_ITEM_START) {
            tell_start(&t, &items[i], active);
            active = 1;
            addressed = 0;
        } else if (items[i].kind == PINTLE_ITEM_STOP) {
            if (active) {
                tell_stop(&t, &items[i]);
            }
            active = 0;
        } else if (!addressed) {
            tell_address(&t, &items[i]);
            addressed = 1;
        } else {
            tell_byte(&t, &items[i]);
        }
    }
    if (active) {
        g_string_append(t.text, "  and no stop\n");
    }
    free(items);
    if (trace->lost) {
        g_string_append_printf(t.text, "%u more edges were not kept\n", trace->lost);
    }
    char *text = strdup(t.text->str);
    g_string_free(t.text, TRUE);
    return text;
}
