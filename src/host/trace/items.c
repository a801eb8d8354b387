/* What the edges of a trace say, decoded from nothing but the edges and the kind of bus. */
#include <glib.h>
#include <string.h>

#include "pintle/host/trace/trace.h"

/* One direction of a serial line. */
struct voice {
    uint64_t from_ns; /* its start bit */
    uint8_t byte, speaks;
};

/* One bus while its edges are decoded. */
struct listener {
    const struct pintle_rig_bus *bus;
    uint64_t fell_ns; /* 1-Wire */
    uint16_t index;
    uint8_t level[PINTLE_LINES];
    uint8_t active;
    uint8_t bits;
    uint8_t shifted, answered;
    uint8_t rising;       /* SPI: bits are taken on the clock's rising edge */
    uint8_t presence_due; /* the next low is a chip's presence */
    uint8_t searching;
    uint8_t code[8];
    struct voice voice[2]; /* serial: by line */
    uint8_t speaker;       /* serial: whose byte was the last one; 0: none yet */
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
    if (edge->line >= PINTLE_LINE_SELECT && edge->line < PINTLE_LINE_COMMAND) {
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
    item->acknowledged = !l->level[PINTLE_LINE_COMMAND];
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

/* --- serial lines --- */

#define PAUSE_BITS 40 /* so much silence parts what is said in one go from what is said next */

/* A byte of the line's is whole once its ten bits have gone by. */
static unsigned end_byte(struct listener *l, uint8_t line, uint64_t now_ns,
                         struct pintle_item *item)
{
    struct voice *v = &l->voice[line];
    uint64_t bit_ns = 1000000000u / l->bus->speed_hz;
    if (!v->speaks || now_ns < v->from_ns + 19 * bit_ns / 2) {
        return 0;
    }
    unsigned begins = l->speaker != line + 1u || v->from_ns > l->fell_ns + PAUSE_BITS * bit_ns;
    uint64_t end_ns = v->from_ns + 10 * bit_ns;
    if (begins) {
        item[0] = (struct pintle_item){
            .at_ns = v->from_ns, .bus = l->index, .kind = PINTLE_ITEM_START, .answer = line
        };
    }
    item[begins] = (struct pintle_item){
        .at_ns = end_ns, .bus = l->index, .kind = PINTLE_ITEM_BYTE, .value = v->byte, .answer = line
    };
    v->speaks = 0;
    l->speaker = (uint8_t)(line + 1);
    l->fell_ns = end_ns;
    return begins + 1;
}

/* Nothing but the time between edges tells the bits. */
static unsigned hear_line(struct listener *l, const struct pintle_edge *edge,
                          struct pintle_item *items)
{
    uint64_t bit_ns = 1000000000u / l->bus->speed_hz;
    unsigned first = l->voice[0].from_ns <= l->voice[1].from_ns ? 0 : 1;
    unsigned count = end_byte(l, (uint8_t)first, edge->at_ns, items);
    count += end_byte(l, (uint8_t)!first, edge->at_ns, items + count);
    struct voice *v = &l->voice[edge->line & 1];
    if (!v->speaks) {
        *v = (struct voice){ .from_ns = edge->at_ns, .speaks = !edge->level };
        return count;
    }
    unsigned at = (unsigned)((edge->at_ns - v->from_ns + bit_ns / 2) / bit_ns);
    for (unsigned bit = at; bit >= 1 && bit <= 8; bit++) {
        unsigned mask = 1u << (bit - 1);
        v->byte = (uint8_t)(edge->level ? v->byte | mask : v->byte & ~mask);
    }
    return count;
}

uint8_t pintle_trace_at_first(const struct pintle_rig_bus *bus, unsigned line)
{
    return bus->kind != PINTLE_BUS_SPI || line >= PINTLE_LINE_DATA_IN; /* high at rest */
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
        for (unsigned line = 0; line < PINTLE_LINES; line++) {
            listeners[i].level[line] = pintle_trace_at_first(&rig->bus[i], line);
        }
        listeners[i].index = (uint16_t)i;
    }
    *items = g_new0(struct pintle_item, trace->count + 4 * rig->buses + 4);
    for (unsigned i = 0; i < trace->count; i++) {
        const struct pintle_edge *edge = &trace->edge[i];
        struct listener *l = &listeners[edge->bus];
        struct pintle_item *item = &(*items)[count];
        if (l->bus->kind == PINTLE_BUS_STREAM) {
            count += hear_line(l, edge, item);
            continue;
        }
        *item = (struct pintle_item){ .at_ns = edge->at_ns, .bus = edge->bus };
        count += hear[l->bus->kind](l, rig, edge, item);
        l->level[edge->line] = edge->level;
    }
    for (unsigned i = 0; i < rig->buses; i++) {
        count += rig->bus[i].kind == PINTLE_BUS_STREAM
                     ? end_byte(&listeners[i], 0, UINT64_MAX / 2, &(*items)[count])
                     : 0;
        count += rig->bus[i].kind == PINTLE_BUS_STREAM
                     ? end_byte(&listeners[i], 1, UINT64_MAX / 2, &(*items)[count])
                     : 0;
    }
    g_free(listeners);
    return count;
}
