/* A trace told as text, a line per stretch, with the names of sensors and registers. */
#include <glib.h>
#include <string.h>

#include "pintle/host/trace/trace.h"

/* What is known while a bus's items are told. */
struct telling {
    GString *text;
    const struct pintle_rig *rig;
    unsigned number;
    uint64_t began_ns, ended_ns; /* of the transfer, and of the one before */
    const struct pintle_rig_sensor *sensor;
    uint8_t active;
    uint8_t addressed;
    uint8_t reading;
    uint8_t taken; /* bytes after the address; 1-Wire: after the reset */
    uint32_t value;
    uint8_t command; /* 1-Wire: the first byte */
    uint8_t code[8];
    uint8_t *bank; /* SPI: the bank that each sensor was sent to */
};

static const char *register_name(const struct pintle_rig_sensor *sensor, uint32_t reg)
{
    for (unsigned i = 0; sensor && i < sensor->sheet->reg_count; i++) {
        if (sensor->sheet->regs[i].reg.address == reg) {
            return sensor->sheet->regs[i].name;
        }
    }
    return NULL;
}

static void put_name(struct telling *t, const char *name)
{
    if (name) {
        g_string_append_printf(t->text, " %s", name);
    }
}

static void tell_head(struct telling *t, const struct pintle_item *item)
{
    bool apart = t->number && item->at_ns > t->ended_ns; /* serial lines speak both ways at once */
    double gap = apart ? (double)(item->at_ns - t->ended_ns) / 1e3 : 0;
    t->number++;
    g_string_append_printf(t->text, "%5u %14.3f %12.1f  %-8s", t->number, (double)item->at_ns / 1e6,
                           gap, t->rig->bus[item->bus].name);
    t->began_ns = item->at_ns;
    t->taken = 0;
    t->value = 0;
}

static void tell_stop(struct telling *t, const struct pintle_item *item, const char *word)
{
    g_string_append_printf(t->text, "  %s, %.1f us\n", word,
                           (double)(item->at_ns - t->began_ns) / 1e3);
    t->ended_ns = item->at_ns;
    t->active = 0;
}

/* --- I2C --- */

static const struct pintle_rig_sensor *sensor_at(const struct pintle_rig *rig, unsigned bus,
                                                 uint8_t address)
{
    for (unsigned i = 0; i < rig->sensors; i++) {
        if (rig->sensor[i].bus == bus && rig->sensor[i].place.address == address) {
            return &rig->sensor[i];
        }
    }
    return NULL;
}

static void tell_i2c_start(struct telling *t, const struct pintle_item *item)
{
    if (!t->active) {
        tell_head(t, item);
    } else {
        g_string_append_printf(t->text, "\n%5s %14s %12s  %-8s", "", "", "", "again");
    }
    t->active = 1;
    t->addressed = 0;
    t->taken = 0;
    t->value = 0;
}

/* Addresses below this one are reserved (UM10204, table 3): a part asks there whether a chip
 * answers at every address. */
#define FIRST_ADDRESS 0x08

/* The address byte, with who is there. */
static void tell_address(struct telling *t, const struct pintle_item *item)
{
    const char *nobody = item->value >> 1 < FIRST_ADDRESS ? "no chip" : "";
    t->reading = item->value & 1;
    t->sensor = sensor_at(t->rig, item->bus, item->value >> 1);
    t->addressed = 1;
    g_string_append_printf(t->text, " 0x%02x%c %-8s %s", item->value >> 1,
                           item->acknowledged ? '+' : '-', t->sensor ? t->sensor->name : nobody,
                           t->reading ? "read " : "write");
}

/* The first written bytes may be a register or a command of the part. */
static void tell_i2c_byte(struct telling *t, const struct pintle_item *item)
{
    unsigned wide = t->sensor && (t->sensor->sheet->part->flags & PINTLE_PART_WIDE_ADDRESS) ? 2 : 1;
    g_string_append_printf(t->text, " %02x%c", item->value, item->acknowledged ? '+' : '-');
    t->taken++;
    t->value = t->value << 8 | item->value;
    if (!t->reading && t->taken == wide) {
        put_name(t, register_name(t->sensor, t->value));
    }
}

static void tell_i2c(struct telling *t, const struct pintle_item *item)
{
    if (item->kind == PINTLE_ITEM_START) {
        tell_i2c_start(t, item);
    } else if (item->kind == PINTLE_ITEM_STOP) {
        if (t->active) {
            tell_stop(t, item, "stop");
        }
    } else {
        (t->addressed ? tell_i2c_byte : tell_address)(t, item);
    }
}

/* --- SPI --- */

static void tell_select(struct telling *t, const struct pintle_item *item)
{
    const struct pintle_rig_bus *bus = &t->rig->bus[item->bus];
    tell_head(t, item);
    t->active = 1;
    t->sensor = NULL;
    for (unsigned i = 0; i < t->rig->sensors; i++) {
        const struct pintle_rig_sensor *s = &t->rig->sensor[i];
        t->sensor = s->bus == item->bus && s->place.select == item->value ? s : t->sensor;
    }
    g_string_append_printf(t->text, " %s %-8s",
                           item->value < bus->selects ? bus->select_pin[item->value] : "?",
                           t->sensor ? t->sensor->name : "");
}

/* The first byte holds the register, its bank was chosen before. */
static void tell_spi_register(struct telling *t, const struct pintle_item *item)
{
    const struct pintle_spi_rules *rules = t->sensor ? t->sensor->sheet->part->spi : NULL;
    if (!rules) {
        return;
    }
    if (rules->commands) {
        g_string_append(t->text, item->acknowledged ? " command" : " data");
        put_name(t, item->acknowledged ? register_name(t->sensor, item->value) : NULL);
        return;
    }
    uint8_t bank = rules->banks ? t->bank[t->sensor - t->rig->sensor] : 0;
    uint8_t low = item->value & (uint8_t) ~(rules->read_bit | rules->burst_bit);
    t->value = low;
    t->reading = (item->value & rules->read_bit) != 0;
    g_string_append(t->text, rules->read_bit ? (t->reading ? " read " : " write") : "");
    const char *name = register_name(t->sensor, (uint32_t)bank << 8 | low);
    put_name(t, name ? name : rules->banks && low == rules->bank_reg ? "bank" : NULL);
}

static void tell_spi_byte(struct telling *t, const struct pintle_item *item)
{
    const struct pintle_spi_rules *rules = t->sensor ? t->sensor->sheet->part->spi : NULL;
    g_string_append_printf(t->text, " %02x/%02x", item->value, item->answer);
    if (t->taken == 0) {
        tell_spi_register(t, item);
    } else if (t->taken == 1 && rules && rules->banks && !t->reading
               && t->value == rules->bank_reg) {
        t->bank[t->sensor - t->rig->sensor] = (uint8_t)(item->value >> rules->bank_shift);
    }
    t->taken++;
}

static void tell_spi(struct telling *t, const struct pintle_item *item)
{
    if (item->kind == PINTLE_ITEM_START) {
        tell_select(t, item);
    } else if (item->kind == PINTLE_ITEM_BYTE) {
        tell_spi_byte(t, item);
    } else if (t->active) {
        tell_stop(t, item, "end");
    }
}

/* --- 1-Wire --- */

struct command {
    uint8_t code;
    const char *word;
};

static const struct command rom_commands[] = {
    { 0x33, "read code" }, { 0x55, "match" },        { 0xcc, "all" },
    { 0xf0, "search" },    { 0xec, "alarm search" }, { 0, NULL },
};

static const struct command function_commands[] = {
    { 0x44, "convert" },
    { 0xbe, "read scratchpad" },
    { 0x4e, "write scratchpad" },
    { 0x48, "copy scratchpad" },
    { 0xb8, "recall" },
    { 0xb4, "read power supply" },
    { 0, NULL },
};

static const char *word_of(const struct command *commands, uint8_t code)
{
    while (commands->word && commands->code != code) {
        commands++;
    }
    return commands->word;
}

static void put_code(struct telling *t, unsigned bus, const uint8_t *code)
{
    char text[17];
    pintle_code_text(code, text);
    put_name(t, text);
    for (unsigned i = 0; i < t->rig->sensors; i++) {
        if (t->rig->sensor[i].bus == bus && strcmp(t->rig->sensor[i].where, text) == 0) {
            put_name(t, t->rig->sensor[i].name);
        }
    }
}

/* The bytes of a code are told as one; the byte behind it, or behind "all", is a command. */
static void tell_onewire_byte(struct telling *t, const struct pintle_item *item)
{
    unsigned at = t->taken++;
    bool coded = t->command == 0x55 || t->command == 0x33;
    if (at == 0) {
        t->command = item->value;
        g_string_append_printf(t->text, " %02x", item->value);
        put_name(t, word_of(rom_commands, item->value));
    } else if (coded && at <= 8) {
        t->code[at - 1] = item->value;
        if (at == 8) {
            put_code(t, item->bus, t->code);
        }
    } else {
        g_string_append_printf(t->text, " %02x", item->value);
        put_name(t, at == (coded ? 9u : 1u) ? word_of(function_commands, item->value) : NULL);
    }
    t->ended_ns = item->at_ns;
}

static void tell_onewire(struct telling *t, const struct pintle_item *item)
{
    if (item->kind == PINTLE_ITEM_START) {
        tell_head(t, item);
        g_string_append_printf(t->text, " reset%c", item->acknowledged ? '+' : '-');
        t->ended_ns = item->at_ns;
        t->active = 1;
    } else if (item->kind == PINTLE_ITEM_CODE) {
        put_code(t, item->bus, item->code);
        t->ended_ns = item->at_ns;
    } else {
        tell_onewire_byte(t, item);
    }
}

/* --- serial lines --- */

static void tell_line(struct telling *t, const struct pintle_item *item)
{
    if (item->kind == PINTLE_ITEM_START) {
        tell_head(t, item);
        for (unsigned i = 0; i < t->rig->sensors; i++) {
            put_name(t, t->rig->sensor[i].bus == item->bus ? t->rig->sensor[i].name : NULL);
        }
        g_string_append(t->text, item->answer ? " says " : " hears");
        t->active = 1;
        return;
    }
    bool shows = g_ascii_isgraph(item->value);
    g_string_append_printf(t->text, shows ? " %02x'%c'" : " %02x", item->value, item->value);
    t->ended_ns = item->at_ns;
}

/* These have no end of their own: the next thing on any bus is the end. */
static void end_open(struct telling *t, const struct pintle_item *next, unsigned bus)
{
    bool goes_on = next && next->bus == bus && next->kind != PINTLE_ITEM_START;
    if (t->active && t->rig->bus[bus].kind >= PINTLE_BUS_ONEWIRE && !goes_on) {
        g_string_append_printf(t->text, "  %.1f us\n", (double)(t->ended_ns - t->began_ns) / 1e3);
        t->active = 0;
    }
}

char *pintle_trace_text(const struct pintle_trace *trace, const struct pintle_rig *rig)
{
    static void (*const tell[])(struct telling * t,
                                const struct pintle_item *item) = { tell_i2c, tell_spi,
                                                                    tell_onewire, tell_line };
    struct pintle_item *items = NULL;
    unsigned count = pintle_trace_items(trace, rig, &items);
    struct telling t = { .text = g_string_new(NULL),
                         .rig = rig,
                         .bank = g_new0(uint8_t, rig->sensors + 1) };
    g_string_append_printf(t.text,
                           "%5s %14s %12s  %-8s bytes: + acknowledged, - not; SPI sent/received\n",
                           "", "ms", "gap us", "bus");
    for (unsigned i = 0; i < count; i++) {
        tell[rig->bus[items[i].bus].kind](&t, &items[i]);
        end_open(&t, i + 1 < count ? &items[i + 1] : NULL, items[i].bus);
    }
    if (t.active) {
        g_string_append(t.text, "  and no stop\n");
    }
    g_free(items);
    g_free(t.bank);
    if (trace->lost) {
        g_string_append_printf(t.text, "%u more edges were not kept\n", trace->lost);
    }
    return g_string_free(t.text, FALSE);
}
