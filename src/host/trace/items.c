/* What the edges of a trace say, decoded from nothing but the edges and the kind of bus. */
#include <glib.h>
#include <string.h>

#include "pintle/host/trace/trace.h"

/* One bus while its edges are decoded. */
struct listener {
    const struct pintle_rig_bus *bus;
    uint64_t fell_ns; /* 1-Wire */
    uint16_t index;
    uint8_t level[PINTLE_LINE_SELECT + PINTLE_RIG_SELECTS];
    uint8_t active;
    uint8_t bits;
    uint8_t shifted, answered;
    uint8_t rising;       /* SPI: bits are taken on the clock's rising edge */
    uint8_t presence_due; /* the next low is a chip's presence */
    uint8_t searching;
    uint8_t code[8];
};

/* --- I2C --- */

static bool hear_i2c_data(struct listener *l, const struct pintle_edge *edge,
                          struct pintle_item *item)
{
    if (!l->level[PINTLE_LINE_CLOCK]) {
        return false;
    }
    item->kind = edge->level ? PINTLE_ITEM_STOP : PINTLE_ITEM_START;
    l->active = !edge->level;
    l->bits = 0;
    return true;
}

static bool hear_i2c_clock(struct listener *l, const struct pintle_edge *edge,
                           struct pintle_item *item)
{
    if (!edge->level || !l->active) {
        return false;
    }
    uint8_t data = l->level[PINTLE_LINE_DATA];
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

static bool hear_i2c(struct listener *l, const struct pintle_rig *rig,
                     const struct pintle_edge *edge, struct pintle_item *item)
{
    (void)rig;
    return (edge->line == PINTLE_LINE_DATA ? hear_i2c_data : hear_i2c_clock)(l, edge, item);
}

/* --- SPI --- */

/* The mode is the selected part's: nothing on the lines tells it. */
static uint8_t takes_rising(const struct pintle_rig *rig, unsigned bus, uint8_t select)
{
    for (unsigned i = 0; i < rig->sensors; i++) {
        const struct pintle_rig_sensor *s = &rig->sensor[i];
        if (s->bus == bus && s->place.select == select && s->sheet->part->spi) {
            return s->sheet->part->spi->mode == 0 || s->sheet->part->spi->mode == 3;
        }
    }
    return 1;
}

static bool hear_spi(struct listener *l, const struct pintle_rig *rig,
                     const struct pintle_edge *edge, struct pintle_item *item)
{
    if (edge->line >= PINTLE_LINE_SELECT) {
        item->kind = edge->level ? PINTLE_ITEM_STOP : PINTLE_ITEM_START;
        item->value = (uint8_t)(edge->line - PINTLE_LINE_SELECT);
        l->active = !edge->level;
        l->bits = 0;
        l->rising = takes_rising(rig, l->index, item->value);
        return true;
    }
    if (edge->line != PINTLE_LINE_CLOCK || !l->active || edge->level != l->rising) {
        return false;
    }
    l->shifted = (uint8_t)(l->shifted << 1 | l->level[PINTLE_LINE_DATA]);
    l->answered = (uint8_t)(l->answered << 1 | l->level[PINTLE_LINE_DATA_IN]);
    if (++l->bits < 8) {
        return false;
    }
    item->kind = PINTLE_ITEM_BYTE;
    item->value = l->shifted;
    item->answer = l->answered;
    l->bits = 0;
    return true;
}

/* --- 1-Wire --- */

#define RESET_NS 400000
#define ONE_NS 15000

static bool whole_code(struct listener *l, struct pintle_item *item)
{
    item->kind = PINTLE_ITEM_CODE;
    memcpy(item->code, l->code, sizeof item->code);
    l->searching = 0;
    l->bits = 0;
    return true;
}

/* Three slots for each bit of a code; the third is the way that is taken. */
static bool hear_search(struct listener *l, uint8_t bit, struct pintle_item *item)
{
    if (l->bits % 3 == 2) {
        unsigned at = l->bits / 3;
        l->code[at / 8] =
            (uint8_t)(bit ? l->code[at / 8] | 1u << at % 8 : l->code[at / 8] & ~(1u << at % 8));
    }
    return ++l->bits == 192 ? whole_code(l, item) : false;
}

static bool hear_slot(struct listener *l, uint8_t bit, struct pintle_item *item)
{
    if (l->searching) {
        return hear_search(l, bit, item);
    }
    l->shifted = (uint8_t)(l->shifted >> 1 | bit << 7);
    if (++l->bits < 8) {
        return false;
    }
    item->kind = PINTLE_ITEM_BYTE;
    item->value = l->shifted;
    l->bits = 0;
    l->searching = l->active == 1 && (l->shifted == 0xf0 || l->shifted == 0xec);
    l->active = 2; /* past the first byte */
    return true;
}

static bool hear_onewire(struct listener *l, const struct pintle_rig *rig,
                         const struct pintle_edge *edge, struct pintle_item *item)
{
    (void)rig;
    if (!edge->level) {
        l->fell_ns = edge->at_ns;
        return false;
    }
    uint64_t low = edge->at_ns - l->fell_ns;
    if (l->presence_due) {
        l->presence_due = 0;
        item[-1].acknowledged = low > ONE_NS; /* the reset's */
        if (low > ONE_NS) {
            return false;
        }
    }
    if (low < RESET_NS) {
        return l->active && hear_slot(l, low < ONE_NS, item);
    }
    item->kind = PINTLE_ITEM_START;
    l->presence_due = 1;
    l->active = 1;
    l->searching = 0;
    l->bits = 0;
    return true;
}

uint8_t pintle_trace_at_first(const struct pintle_rig_bus *bus, unsigned line)
{
    return bus->kind != PINTLE_BUS_SPI || line >= PINTLE_LINE_DATA_IN;
}

unsigned pintle_trace_items(const struct pintle_trace *trace, const struct pintle_rig *rig,
                            struct pintle_item **items)
{
    static bool (*const hear[])(struct listener * l, const struct pintle_rig *rig,
                                const struct pintle_edge *edge,
                                struct pintle_item *item) = { hear_i2c, hear_spi, hear_onewire };
    struct listener *listeners = g_new0(struct listener, rig->buses);
    unsigned count = 0;
    for (unsigned i = 0; i < rig->buses; i++) {
        listeners[i].bus = &rig->bus[i];
        for (unsigned line = 0; line < PINTLE_LINE_SELECT + PINTLE_RIG_SELECTS; line++) {
            listeners[i].level[line] = pintle_trace_at_first(&rig->bus[i], line);
        }
        listeners[i].index = (uint16_t)i;
    }
    *items = g_new0(struct pintle_item, trace->count + 1);
    for (unsigned i = 0; i < trace->count; i++) {
        const struct pintle_edge *edge = &trace->edge[i];
        struct listener *l = &listeners[edge->bus];
        struct pintle_item *item = &(*items)[count];
        *item = (struct pintle_item){ .at_ns = edge->at_ns, .bus = edge->bus };
        count += hear[l->bus->kind](l, rig, edge, item);
        l->level[edge->line] = edge->level;
    }
    g_free(listeners);
    return count;
}
