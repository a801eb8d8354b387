/* One transfer drawn as a timing diagram with PLplot: data and clock, and what the bits mean. */
#include <glib.h>

#include "host/draw/page.h"
#include "pintle/host/draw/draw.h"

#define ROWS_MAX 6      /* the transfer is broken into lines like text */
#define BYTES_PER_ROW 2 /* on each, where there is room */

enum { PAPER, INK, GRID, DATA, CLOCK, MARK };
static const PLINT reds[] = { 255, 40, 225, 0, 120, 200 };
static const PLINT greens[] = { 255, 40, 225, 114, 94, 0 };
static const PLINT blues[] = { 255, 40, 225, 178, 150, 60 };

/* A transfer: its items from the first START to the STOP. */
struct transfer {
    const struct pintle_item *item;
    unsigned count;
    uint16_t bus;
    uint8_t select; /* SPI */
    const struct pintle_rig_bus *on;
    double from_us, to_us;
};

/* Does a transfer begin with this item? A repeated START is in the middle of one. */
static bool begins(const struct pintle_item *item, bool active)
{
    return item->kind == PINTLE_ITEM_START && !active;
}

/* Does item `i` end the transfer it belongs to? I2C and SPI have an item for that; any other ends
 * where something else begins. */
static bool ends(const struct pintle_item *items, unsigned count, unsigned i, bool open)
{
    return open ? i + 1 == count || items[i + 1].kind == PINTLE_ITEM_START
                      || items[i + 1].bus != items[i].bus
                : items[i].kind == PINTLE_ITEM_STOP;
}

static bool find_transfer(const struct pintle_rig *rig, const struct pintle_item *items,
                          unsigned count, unsigned number, struct transfer *transfer)
{
    bool active = false;
    unsigned seen = 0;
    for (unsigned i = 0; i < count; i++) {
        enum pintle_bus_kind kind = rig->bus[items[i].bus].kind;
        bool onewire = kind == PINTLE_BUS_ONEWIRE;
        if (begins(&items[i], active)) {
            active = true;
            seen++;
            double lead_us = onewire ? 520 : 0; /* a reset is told at its end */
            *transfer = (struct transfer){ .item = &items[i],
                                           .bus = items[i].bus,
                                           .select = items[i].value,
                                           .from_us = (double)items[i].at_ns / 1e3 - lead_us };
        }
        if (active && seen == number) {
            transfer->count++;
        }
        if (ends(items, count, i, kind >= PINTLE_BUS_ONEWIRE)) {
            transfer->to_us = (double)items[i].at_ns / 1e3;
            if (active && seen == number) {
                return true;
            }
            active = false;
        }
    }
    return false;
}

/* One line as a step between 0 and `high` above `base`, cut to the row's time. */
static void draw_steps(const struct pintle_trace *trace, const struct transfer *transfer,
                       uint8_t line, double base, double high, double left, double right)
{

    uint8_t level = pintle_trace_at_first(transfer->on, line);
    double at = left;
    for (unsigned i = 0; i < trace->count && at < right; i++) {
        const struct pintle_edge *edge = &trace->edge[i];
        double t = (double)edge->at_ns / 1e3 - transfer->from_us;
        if (edge->bus != transfer->bus || edge->line != line) {
            continue;
        }
        if (t > left) {
            double to = MIN(t, right);
            PLFLT x[3] = { at, to, to };
            PLFLT y[3] = { base + high * level, base + high * level,
                           base + high * (t < right ? edge->level : level) };
            plline(3, x, y);
            at = to;
        }
        level = edge->level;
    }
    if (at < right) {
        PLFLT x[2] = { at, right };
        PLFLT y[2] = { base + high * level, base + high * level };
        plline(2, x, y);
    }
}

/* Nobody took the address or a written byte; the master ends a read in that way too. */
static bool refused(const struct transfer *transfer, const struct pintle_item *item, bool reading)
{
    return transfer->on->kind == PINTLE_BUS_I2C && item->kind == PINTLE_ITEM_BYTE
           && !item->acknowledged && !reading;
}

static void describe_i2c(const struct pintle_item *item, bool address, char *word, gulong room)
{
    if (item->kind != PINTLE_ITEM_BYTE) {
        g_strlcpy(word, item->kind == PINTLE_ITEM_START ? "S" : "P", room);
    } else if (address) {
        g_snprintf(word, room, "0x%02x %s %s", item->value >> 1, item->value & 1 ? "read" : "write",
                   item->acknowledged ? "A" : "N");
    } else {
        g_snprintf(word, room, "%02x %s", item->value, item->acknowledged ? "A" : "N");
    }
}

static void describe(const struct transfer *transfer, const struct pintle_item *item, bool address,
                     char *word, gulong room)
{
    if (transfer->on->kind == PINTLE_BUS_I2C) {
        describe_i2c(item, address, word, room);
    } else if (item->kind == PINTLE_ITEM_BYTE && transfer->on->kind == PINTLE_BUS_SPI) {
        g_snprintf(word, room, "%02x / %02x", item->value, item->answer);
    } else if (item->kind == PINTLE_ITEM_BYTE && g_ascii_isgraph(item->value)
               && transfer->on->kind == PINTLE_BUS_STREAM) {
        g_snprintf(word, room, "%02x '%c'", item->value, item->value);
    } else if (item->kind == PINTLE_ITEM_BYTE) {
        g_snprintf(word, room, "%02x", item->value);
    } else if (item->kind == PINTLE_ITEM_CODE) {
        pintle_code_text(item->code, word);
    } else {
        g_strlcpy(word, transfer->on->kind == PINTLE_BUS_ONEWIRE ? "reset" : "", room);
    }
}

/* What the items of a row say, above the data line, each where it ended. */
static void draw_words(const struct transfer *transfer, double left, double right)
{
    bool address = false;
    bool reading = false;
    for (unsigned i = 0; i < transfer->count; i++) {
        const struct pintle_item *item = &transfer->item[i];
        double at = (double)item->at_ns / 1e3 - transfer->from_us;
        char word[40];
        describe(transfer, item, address, word, sizeof word);
        if (at >= left && at <= right) {
            PLFLT x[2] = { at, at };
            PLFLT y[2] = { 0, 2.15 };
            plcol0(GRID);
            plline(2, x, y);
            plcol0(refused(transfer, item, reading && !address) ? MARK : INK);
            pintle_priv_page_text(at, 2.3, item->kind == PINTLE_ITEM_BYTE ? 0.85 : 0.5, word);
        }
        reading = address ? item->value & 1 : reading;
        address = item->kind == PINTLE_ITEM_START;
    }
}

/* The lines of a row from the top down, by kind of bus; the select is the transfer's own. */
static const struct {
    unsigned count;
    struct {
        uint8_t line;
        const char *name;
    } row[4];
} lines[] = {
    { 2, { { PINTLE_LINE_DATA, "data" }, { PINTLE_LINE_CLOCK, "clock" } } },
    { 4,
      { { PINTLE_LINE_DATA, "data" },
        { PINTLE_LINE_DATA_IN, "data-in" },
        { PINTLE_LINE_CLOCK, "clock" },
        { PINTLE_LINE_SELECT, "select" } } },
    { 1, { { PINTLE_LINE_DATA, "data" } } },
    { 2, { { PINTLE_LINE_DATA, "data" }, { PINTLE_LINE_ANSWER, "data-in" } } },
};

static void draw_row(const struct pintle_trace *trace, const struct transfer *transfer,
                     unsigned row, double height, double width_us)
{
    double lead = transfer->on->kind == PINTLE_BUS_ONEWIRE ? 30 : 12;
    double left = row * width_us - lead;
    double right = left + width_us;
    double top = 0.91 - row * height;
    double end = MIN(right, transfer->to_us - transfer->from_us + 12);
    unsigned count = lines[transfer->on->kind].count;
    double step = 2.05 / count;
    plvpor(0.07, 0.985, top - height + 0.045, top);
    plwind(left, right, -0.2, 2.6);
    plschr(0, 0.55);
    plcol0(INK);
    plbox("bnst", 0, 0, "", 0, 0);
    draw_words(transfer, left, right);
    plwidth(2);
    for (unsigned i = 0; i < count; i++) {
        uint8_t line = lines[transfer->on->kind].row[i].line;
        double base = step * (count - 1 - i);
        bool clocks = transfer->on->kind != PINTLE_BUS_STREAM && line == PINTLE_LINE_CLOCK;
        plcol0(clocks ? CLOCK : DATA);
        draw_steps(trace, transfer,
                   (uint8_t)(line == PINTLE_LINE_SELECT ? line + transfer->select : line), base,
                   0.7 * step, left, end);
        plmtex("lv", 0.6, (base + 0.35 * step + 0.2) / 2.8, 1,
               lines[transfer->on->kind].row[i].name);
    }
    plwidth(1);
}

static const char *const legends[] = { "S start, P stop, A acknowledged, N not; time in us",
                                       "sent / received; time in us", "time in us", "time in us" };

static void draw_page(const struct pintle_trace *trace, const struct pintle_rig *rig,
                      const struct transfer *transfer, unsigned number)
{
    unsigned bytes = 1;
    for (unsigned i = 0; i < transfer->count; i++) {
        bytes += transfer->item[i].kind == PINTLE_ITEM_BYTE;
    }
    double span = transfer->to_us - transfer->from_us + 24;
    unsigned rows = CLAMP((bytes + BYTES_PER_ROW - 1) / BYTES_PER_ROW, 1, ROWS_MAX);
    double width_us = span / rows;
    char *title = g_strdup_printf("transfer %u on bus %s: %.1f us from %.3f ms on", number,
                                  rig->bus[transfer->bus].name, transfer->to_us - transfer->from_us,
                                  transfer->from_us / 1e3);
    pladv(0);
    plvpor(0.07, 0.985, 0, 1);
    plwind(0, 1, 0, 1);
    plcol0(INK);
    plschr(0, 0.8);
    pintle_priv_page_text(0, 0.96, 0, title);
    plschr(0, 0.55);
    pintle_priv_page_text(1, 0.96, 1, legends[transfer->on->kind]);
    g_free(title);
    for (unsigned row = 0; row < rows; row++) {
        draw_row(trace, transfer, row, 0.88 / MAX(rows, 3), width_us);
    }
}

bool pintle_draw_timing(const struct pintle_trace *trace, const struct pintle_rig *rig,
                        unsigned number, const char *path, struct pintle_problem *problem)
{
    struct pintle_output page;
    struct pintle_item *items = NULL;
    struct transfer transfer = { 0 };
    unsigned count = pintle_trace_items(trace, rig, &items);
    bool ok = find_transfer(rig, items, count, number, &transfer)
              || pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                    "there is no transfer %u in this trace; its lines are numbered",
                                    number);
    transfer.on = &rig->bus[transfer.bus];
    ok = ok
         && pintle_priv_page_begin(&page, path, PAGE_HEIGHT, reds, greens, blues,
                                   G_N_ELEMENTS(reds), problem);
    if (ok) {
        draw_page(trace, rig, &transfer, number);
        ok = pintle_priv_page_end(&page, problem);
    }
    g_free(items);
    return ok;
}
