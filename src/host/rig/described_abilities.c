/* What a described chip does besides measuring once: rest, choose its range, keep samples in a
 * FIFO, drive lines, remember, tell the time, show dots. */
#include <glib.h>
#include <string.h>

#include "host/rig/described.h"
#include "pintle/ability.h"
#include "pintle/burst.h"
#include "pintle/outputs.h"
#include "pintle/screen.h"
#include "pintle/store.h"
#include "pintle/time.h"

/* The register that an option names. False: it names none, or there is none, which is said where it
 * `must` be. */
static bool find(struct describing *d, cfg_t *from, const char *what, const char *option, bool must,
                 const struct pintle_map_reg **reg)
{
    const char *name = cfg_getstr(from, option);
    *reg = name ? pintle_priv_described_reg(d, name) : NULL;
    if (*reg || (!must && !name)) {
        return true;
    }
    pintle_priv_described_complain(d, "%s: %s names no register described above", what, option);
    return false;
}

static int take_rest(struct describing *d)
{
    if (cfg_size(d->section, "rest") > 0) {
        d->part->rest = pintle_priv_described_program(d, d->section, "rest");
        return d->part->rest ? 0 : -1;
    }
    return 0;
}

static int take_current(struct describing *d)
{
    unsigned count = cfg_size(d->section, "current");
    if (count != 0 && count != 2) {
        return pintle_priv_described_complain(
            d, "current takes two figures in uA, while it works and at rest, as in { 140, 0.1 }");
    }
    d->sheet->working_ua = count ? (float)cfg_getnfloat(d->section, "current", 0) : 0;
    d->sheet->resting_ua = count ? (float)cfg_getnfloat(d->section, "current", 1) : 0;
    return 0;
}

/* --- a range chosen by itself --- */

static int option_of(const struct describing *d, int setting, const char *name)
{
    const char *const *options = d->sheet->settings[setting].options;
    for (int i = 0; options[i]; i++) {
        if (g_strcmp0(options[i], name) == 0) {
            return i;
        }
    }
    return -1;
}

/* "x2 800ms": an option of each of the settings. */
static bool take_rung(const struct describing *d, const struct pintle_ladder *ladder,
                      const char *text, uint8_t *options)
{
    char **words = g_strsplit(text, " ", 3);
    unsigned count = g_strv_length(words);
    bool one = ladder->settings[0] == ladder->settings[1];
    bool ok = count == (one ? 1u : 2u);
    for (unsigned i = 0; ok && i < 2; i++) {
        int option = option_of(d, ladder->settings[i], words[one ? 0 : i]);
        ok = option >= 0;
        options[i] = (uint8_t)MAX(option, 0);
    }
    g_strfreev(words);
    return ok;
}

static bool take_deciding(struct describing *d, cfg_t *from, uint32_t *channels)
{
    for (unsigned i = 0; i < cfg_size(from, "channels"); i++) {
        int c = pintle_sheet_channel(d->sheet, cfg_getnstr(from, "channels", i));
        if (c < 0) {
            return false;
        }
        *channels |= 1u << c;
    }
    return *channels != 0;
}

static int take_auto(struct describing *d)
{
    cfg_t *from = cfg_size(d->section, "auto") ? cfg_getsec(d->section, "auto") : NULL;
    if (!from) {
        return 0;
    }
    unsigned settings = cfg_size(from, "settings");
    unsigned rungs = cfg_size(from, "rungs");
    struct pintle_ladder *ladder = pintle_priv_loading_own(sizeof *ladder);
    uint8_t *options = pintle_priv_loading_own(2 * (rungs + 1));
    bool ok = settings >= 1 && settings <= 2 && rungs >= 2 && rungs <= 64;
    for (unsigned i = 0; ok && i < 2; i++) {
        int s =
            pintle_priv_described_setting(d, cfg_getnstr(from, "settings", MIN(i, settings - 1)));
        ok = s >= 0;
        ladder->settings[i] = (uint8_t)MAX(s, 0);
    }
    for (unsigned r = 0; ok && r < rungs; r++) {
        ok = take_rung(d, ladder, cfg_getnstr(from, "rungs", r), options + (size_t)2 * r);
    }
    ladder->climb = pintle_part_climb;
    ladder->rungs = (uint8_t)rungs;
    ladder->options = options;
    ladder->lowest = (int32_t)cfg_getint(from, "below");
    ladder->highest = (int32_t)cfg_getint(from, "from");
    ok = ok && take_deciding(d, from, &ladder->channels) && ladder->lowest > 0
         && ladder->highest > ladder->lowest;
    if (!ok) {
        return pintle_priv_described_complain(
            d,
            "auto takes one or two settings, two rungs or more with an option of each, the finest "
            "first, the channels that decide, and integers: below the one a finer rung is taken, "
            "from the other on a coarser");
    }
    d->part->ladder = ladder;
    return 0;
}

/* --- a FIFO --- */

static bool take_periods(struct describing *d, cfg_t *from, struct pintle_fifo *fifo)
{
    const char *name = cfg_getstr(from, "rate");
    int setting = pintle_priv_described_setting(d, name ? name : "");
    unsigned count = cfg_size(from, "periods");
    uint32_t *periods = pintle_priv_loading_own((count + 1) * sizeof *periods);
    bool ok = setting >= 0 && count == d->part->settings[setting].count;
    for (unsigned i = 0; ok && i < count; i++) {
        int64_t us = 0;
        ok = pintle_duration_parse(cfg_getnstr(from, "periods", i), &us) && us > 0
             && us < UINT32_MAX / 1000;
        periods[i] = (uint32_t)us * 1000;
    }
    fifo->rate = (uint8_t)MAX(setting, 0);
    fifo->periods_ns = periods;
    return ok;
}

static bool take_set(struct describing *d, cfg_t *from, uint16_t *set)
{
    uint32_t channels = 0;
    bool ok = take_deciding(d, from, &channels);
    *set = (uint16_t)channels;
    return ok;
}

static bool take_sizes(cfg_t *from, struct pintle_fifo *fifo)
{
    long record = cfg_getint(from, "record");
    long at = cfg_getint(from, "at");
    long depth = cfg_getint(from, "depth");
    long once = cfg_getint(from, "at-once");
    long counted = cfg_getint(from, "counted");
    long mask = cfg_getint(from, "count-mask");
    long over = cfg_getint(from, "over-mask");
    bool ok = record > 0 && once > 0 && record * once <= PINTLE_BURST_BYTES && at >= 0
              && at + record <= PINTLE_MOST_RAW && depth > 0 && depth <= UINT16_MAX && counted > 0
              && counted <= UINT8_MAX && mask > 0 && mask <= UINT16_MAX && over >= 0
              && over <= UINT8_MAX;
    fifo->record = (uint8_t)record;
    fifo->at = (uint8_t)at;
    fifo->depth = (uint16_t)depth;
    fifo->at_once = (uint8_t)once;
    fifo->per_count = (uint8_t)counted;
    fifo->count_mask = (uint16_t)mask;
    fifo->over_mask = (uint8_t)over;
    fifo->torn = cfg_getbool(from, "torn") ? 1 : 0;
    return ok;
}

static int take_fifo(struct describing *d, struct pintle_abilities *can)
{
    cfg_t *from = cfg_size(d->section, "fifo") ? cfg_getsec(d->section, "fifo") : NULL;
    const struct pintle_map_reg *count = NULL;
    const struct pintle_map_reg *data = NULL;
    const struct pintle_map_reg *over = NULL;
    if (!from) {
        return 0;
    }
    struct pintle_fifo *fifo = pintle_priv_loading_own(sizeof *fifo);
    if (!find(d, from, "fifo", "count", true, &count) || !find(d, from, "fifo", "data", true, &data)
        || !find(d, from, "fifo", "over", false, &over)) {
        return -1;
    }
    fifo->count_reg = count->reg.address;
    fifo->count_width = count->reg.width;
    fifo->data_reg = data->reg.address;
    fifo->over_reg = over ? over->reg.address : PINTLE_NO_REG;
    if (!take_sizes(from, fifo) || !take_periods(d, from, fifo)
        || !take_set(d, from, &fifo->channels) || fifo->count_width > 2) {
        return pintle_priv_described_complain(
            d,
            "fifo takes record, at, depth, at-once and counted (bytes of a sample, where they go "
            "in what is read, samples that it holds and that one transfer fetches, what is "
            "counted of each), rate with a period for each of its options, and channels");
    }
    fifo->start = pintle_priv_described_program(d, from, "start");
    fifo->empty = fifo->start ? pintle_priv_described_program(d, from, "empty") : NULL;
    fifo->check = fifo->empty ? pintle_priv_described_program(d, from, "check") : NULL;
    can->fifo = fifo;
    return fifo->check ? 0 : -1;
}

/* --- lines, memory, clocks, displays --- */

static int take_lines(struct describing *d, struct pintle_abilities *can)
{
    cfg_t *from = cfg_size(d->section, "lines") ? cfg_getsec(d->section, "lines") : NULL;
    const struct pintle_map_reg *out = NULL;
    const struct pintle_map_reg *in = NULL;
    const struct pintle_map_reg *direction = NULL;
    if (!from) {
        return 0;
    }
    if (!find(d, from, "lines", "out", false, &out) || !find(d, from, "lines", "in", false, &in)
        || !find(d, from, "lines", "direction", false, &direction)) {
        return -1;
    }
    long count = cfg_getint(from, "count");
    if (count < 1 || count > 16 || count != (long)cfg_size(d->section, "channel")) {
        return pintle_priv_described_complain(
            d, "lines: count is 1 to 16, and each of them is a channel");
    }
    struct pintle_lines *lines = pintle_priv_loading_own(sizeof *lines);
    *lines = (struct pintle_lines){ .out = out ? out->reg.address : PINTLE_NO_REG,
                                    .in = in ? in->reg.address : PINTLE_NO_REG,
                                    .direction = direction ? direction->reg.address : PINTLE_NO_REG,
                                    .count = (uint8_t)count };
    can->lines = lines;
    return 0;
}

static int take_memory(struct describing *d, struct pintle_abilities *can)
{
    cfg_t *from = cfg_size(d->section, "memory") ? cfg_getsec(d->section, "memory") : NULL;
    if (!from) {
        return 0;
    }
    long size = cfg_getint(from, "size");
    long page = cfg_getint(from, "page");
    long first = cfg_getint(from, "first");
    int64_t write_us = 0;
    if (size < 1 || size > 0x10000 || page < 1 || page > 128 || first < 0 || first > 0xffff
        || !pintle_duration_parse(cfg_getstr(from, "write"), &write_us) || write_us > 1000000) {
        return pintle_priv_described_complain(
            d,
            "memory takes its size in bytes, up to 65536, the page that one write stays in, up to "
            "128, the first byte's register, and how long a write takes, up to 1 s");
    }
    struct pintle_store *store = pintle_priv_loading_own(sizeof *store);
    *store = (struct pintle_store){ .calls = &pintle_store_registers,
                                    .size = (uint32_t)size,
                                    .unit = 1,
                                    .page = (uint16_t)page,
                                    .first = (uint16_t)first,
                                    .write_us = (uint32_t)write_us };
    can->store = store;
    return 0;
}

/* "CONTROL 7" */
static bool take_flag(struct describing *d, cfg_t *from, const char *option,
                      struct pintle_flag *flag)
{
    const char *text = cfg_getstr(from, option);
    char **words = g_strsplit(text ? text : "", " ", 2);
    const struct pintle_map_reg *reg = words[0] ? pintle_priv_described_reg(d, words[0]) : NULL;
    bool ok = !text
              || (reg && words[1] && g_ascii_isdigit(words[1][0])
                  && g_ascii_strtoll(words[1], NULL, 10) < 8);
    if (text && ok) {
        *flag = (struct pintle_flag){ .reg = reg->reg,
                                      .bit = (uint8_t)g_ascii_strtoll(words[1], NULL, 10) };
    }
    g_strfreev(words);
    return ok;
}

static int take_clock(struct describing *d, struct pintle_abilities *can)
{
    static const char *const names[] = { "second", "minute", "hour", "weekday",
                                         "day",    "month",  "year" };
    cfg_t *from = cfg_size(d->section, "clock") ? cfg_getsec(d->section, "clock") : NULL;
    const struct pintle_map_reg *first = NULL;
    if (!from) {
        return 0;
    }
    struct pintle_timekeeper *keeper = pintle_priv_loading_own(sizeof *keeper);
    unsigned seen = 0;
    if (!find(d, from, "clock", "first", true, &first)) {
        return -1;
    }
    keeper->first = (uint8_t)first->reg.address;
    keeper->century = (uint8_t)cfg_getint(from, "century");
    keeper->lost_at = (int8_t)cfg_getint(from, "lost-at");
    for (unsigned i = 0; i < cfg_size(from, "order") && i < 7; i++) {
        for (unsigned n = 0; n < 7; n++) {
            if (strcmp(cfg_getnstr(from, "order", i), names[n]) == 0) {
                keeper->order[n] = (uint8_t)i;
                seen |= 1u << n;
            }
        }
    }
    if (seen != 0x7f || !take_flag(d, from, "stop", &keeper->stop)
        || !take_flag(d, from, "lost", &keeper->lost)) {
        return pintle_priv_described_complain(
            d,
            "clock takes its first register, the order of second, minute, hour, weekday, day, "
            "month and year, and the bits that stop it and say that it stood still, as in stop = "
            "\"CONTROL 7\"");
    }
    d->part->decode = pintle_time_decode;
    can->timekeeper = keeper;
    return 0;
}

static int take_display(struct describing *d, struct pintle_abilities *can)
{
    cfg_t *from = cfg_size(d->section, "display") ? cfg_getsec(d->section, "display") : NULL;
    if (!from) {
        return 0;
    }
    long width = cfg_getint(from, "width");
    long height = cfg_getint(from, "height");
    if (width < 1 || width > 256 || height < 8 || height > 64 || height % 8 != 0) {
        return pintle_priv_described_complain(
            d, "display: width is 1 to 256 dots, height a multiple of 8 up to 64");
    }
    struct pintle_screen *screen = pintle_priv_loading_own(sizeof *screen);
    *screen = (struct pintle_screen){ .width = (uint16_t)width,
                                      .height = (uint16_t)height,
                                      .row = (uint8_t)cfg_getint(from, "row"),
                                      .column = (uint8_t)cfg_getint(from, "column") };
    can->screen = screen;
    d->sheet->mute = 1;
    return 0;
}

int pintle_priv_described_abilities(struct describing *d)
{
    struct pintle_abilities *can = pintle_priv_loading_own(sizeof *can);
    if (take_rest(d) != 0 || take_current(d) != 0 || take_auto(d) != 0 || take_fifo(d, can) != 0
        || take_lines(d, can) != 0 || take_memory(d, can) != 0 || take_clock(d, can) != 0
        || take_display(d, can) != 0) {
        return -1;
    }
    if (can->fifo || can->lines || can->store || can->timekeeper || can->screen) {
        d->part->can = can;
    }
    return 0;
}
