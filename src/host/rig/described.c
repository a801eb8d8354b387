/* A part section of a rig file: a chip that the catalogue lacks, in the words of part.h and
 * sheet.h. It becomes the same tables. */
#include "host/rig/described.h"

#include <glib.h>
#include <stdarg.h>
#include <string.h>

int pintle_priv_described_complain(const struct describing *d, const char *format, ...)
{
    va_list args;
    va_start(args, format);
    char *text = g_strdup_vprintf(format, args);
    va_end(args);
    int result = pintle_priv_conf_complain(d->cfg, "part '%s': %s", cfg_title(d->section), text);
    g_free(text);
    return result;
}

const struct pintle_map_reg *pintle_priv_described_reg(const struct describing *d, const char *name)
{
    for (unsigned i = 0; i < d->sheet->reg_count; i++) {
        if (g_ascii_strcasecmp(d->sheet->regs[i].name, name) == 0) {
            return &d->sheet->regs[i];
        }
    }
    return NULL;
}

int pintle_priv_described_setting(const struct describing *d, const char *name)
{
    int found = -1;
    for (int i = 0; name && i < d->part->setting_count; i++) {
        found = strcmp(d->sheet->settings[i].name, name) == 0 ? i : found;
    }
    return found;
}

int pintle_priv_described_input(const struct describing *d, const char *name)
{
    int found = -1;
    for (int i = 0; name && i < (int)cfg_size(d->section, "inputs") && i < 16; i++) {
        const char *is = cfg_getnstr(d->section, "inputs", (unsigned)i);
        found = strcmp(is, name) == 0 ? i : found;
    }
    return found;
}

/* silent = { "zeros", "ones" } */
static int take_silence(struct describing *d)
{
    for (unsigned i = 0; i < cfg_size(d->section, "silent"); i++) {
        const char *word = cfg_getnstr(d->section, "silent", i);
        bool zeros = strcmp(word, "zeros") == 0;
        if (!zeros && strcmp(word, "ones") != 0) {
            return pintle_priv_described_complain(
                d, "silent says what is no answer when nothing else is read, zeros or ones");
        }
        d->part->flags |= zeros ? PINTLE_PART_ZEROS_SILENT : PINTLE_PART_ONES_SILENT;
    }
    return 0;
}

static int take_flags(struct describing *d)
{
    const char *order = cfg_getstr(d->section, "order");
    if (strcmp(order, "high") != 0 && strcmp(order, "low") != 0) {
        return pintle_priv_described_complain(d, "order says which byte comes first, high or low");
    }
    d->part->flags |= order[0] == 'h' ? PINTLE_PART_BIG_ENDIAN : 0;
    d->part->flags |= cfg_getbool(d->section, "wide-address") ? PINTLE_PART_WIDE_ADDRESS : 0;
    d->part->flags |= cfg_getbool(d->section, "first-suspect") ? PINTLE_PART_FIRST_SUSPECT : 0;
    return take_silence(d);
}

/* What 'convert' and 'parts' say of the raw block. */
static void describe_block(struct describing *d)
{
    struct pintle_stretch *data = pintle_priv_loading_own(sizeof *data);
    *data = (struct pintle_stretch){ "read", (uint8_t)d->raw, "what the measuring steps read" };
    d->sheet->data = data;
    d->sheet->data_count = 1;
    d->part->raw_size = (uint8_t)d->raw;
    d->part->data_at = (uint8_t)CLAMP(cfg_getint(d->section, "data-at"), 0, (long)d->raw);
}

static void take_texts(struct describing *d)
{
    d->sheet->part = d->part;
    d->sheet->described = 1;
    d->sheet->acts = cfg_getbool(d->section, "acts") ? 1 : 0;
    d->sheet->what = pintle_priv_loading_text("%s", cfg_getstr(d->section, "what"));
    d->sheet->source = pintle_priv_loading_text("%s", cfg_getstr(d->section, "source"));
    d->sheet->supply_lowest = (float)cfg_getnfloat(d->section, "supply", 0);
    d->sheet->supply_highest = (float)cfg_getnfloat(d->section, "supply", 1);
    d->sheet->proof_is_certain = cfg_size(d->section, "identity") > 0;
    d->sheet->proof = d->sheet->proof_is_certain ? "the identity that the rig file describes"
                                                 : "no identity; it answers";
}

/* The bits of a register that settings decide. */
static uint32_t deciding(const struct pintle_part *part, uint16_t reg)
{
    uint32_t mask = 0;
    for (unsigned i = 0; i < part->setting_count; i++) {
        const struct pintle_setting *setting = &part->settings[i];
        for (unsigned k = 0; setting->reg == reg && k < setting->count; k++) {
            mask |= (uint32_t)setting->options[k].code << setting->shift;
        }
    }
    return mask;
}

/* Does a step look at these bits of it? */
static bool is_expected(const struct pintle_step *step, uint16_t reg, uint32_t mask)
{
    while (
        step->op != PINTLE_OP_END
        && !(step->op == PINTLE_OP_EXPECT && step->reg == reg && !(mask & ~(step->value >> 16)))) {
        step++;
    }
    return step->op != PINTLE_OP_END;
}

/* Behind what "measure" says: somebody else may have set the chip otherwise meanwhile. */
static void look_at_settings(struct describing *d)
{
    const struct pintle_step *from = d->part->measure;
    unsigned count = 0;
    while (from[count].op != PINTLE_OP_END) {
        count++;
    }
    struct pintle_step *steps =
        pintle_priv_loading_own((count + d->sheet->reg_count + 1) * sizeof *steps);
    memcpy(steps, from, count * sizeof *steps);
    for (unsigned i = 0; i < d->sheet->reg_count; i++) {
        const struct pintle_reg *reg = &d->sheet->regs[i].reg;
        uint32_t mask = deciding(d->part, reg->address);
        bool whole = reg->width >= 1 && reg->width <= 2 && !(reg->flags & PINTLE_REG_WRITE_ONLY);
        if (mask && whole && !is_expected(from, reg->address, mask)) {
            steps[count++] = (struct pintle_step)PINTLE_EXPECT(reg->address, reg->width, mask, 0);
        }
    }
    steps[count].op = PINTLE_OP_END;
    d->part->measure = steps;
}

/* Commands that take bytes with them. */
static enum pintle_status send(struct pintle_sensor *sensor, uint16_t reg, const uint8_t *bytes,
                               uint8_t count)
{
    const struct described_part *all = pintle_priv_described_of(sensor->part);
    for (unsigned i = 0; i < all->sends && count == 0; i++) {
        if (all->send[i].code == reg) {
            return all->bus->send(sensor, reg, all->send[i].bytes, all->send[i].count);
        }
    }
    return all->bus->send(sensor, reg, bytes, count);
}

static void send_bytes(struct describing *d)
{
    struct described_part *all = (struct described_part *)(void *)d->part;
    if (all->sends > 0) {
        all->bus = d->part->link;
        all->link = *all->bus;
        all->link.send = send;
        d->part->link = &all->link;
    }
}

/* "pause": in front of each measurement, so that no two are closer. */
static int take_pause(struct describing *d)
{
    const char *text = cfg_getstr(d->section, "pause");
    const struct pintle_step *from = d->part->measure;
    int64_t us = 0;
    unsigned count = 1;
    if (!text) {
        return 0;
    }
    if (!pintle_duration_parse(text, &us) || us < 1 || us > 60000000) {
        return pintle_priv_described_complain(d, "pause is what lies between two measurements at "
                                                 "least, as in \"220 ms\", up to a minute");
    }
    while (from[count - 1].op != PINTLE_OP_END) {
        count++;
    }
    struct pintle_step *steps = pintle_priv_loading_own((count + 1) * sizeof *steps);
    steps[0] = (struct pintle_step)PINTLE_WAIT((uint32_t)us);
    memcpy(steps + 1, from, count * sizeof *steps);
    d->part->measure = steps;
    return 0;
}

int pintle_priv_described_take(cfg_t *cfg, cfg_opt_t *opt)
{
    struct pintle_rig *rig = pintle_priv_loading.rig;
    struct describing d = { .cfg = cfg,
                            .section = pintle_priv_conf_section(opt),
                            .part = pintle_priv_described_part(),
                            .sheet = pintle_priv_loading_own(sizeof *d.sheet) };
    const char *name = cfg_title(d.section);
    struct pintle_problem unsaid = { 0 };
    if (pintle_priv_conf_name(cfg, "a part", name) != 0) {
        return -1;
    }
    if (strlen(name) >= sizeof d.part->name || pintle_rig_part(rig, name, &unsaid)) {
        return pintle_priv_described_complain(
            &d, "its name has more than %u letters or is taken already",
            (unsigned)sizeof d.part->name - 1);
    }
    g_strlcpy(d.part->name, name, sizeof d.part->name);
    if (cfg_size(d.section, "supply") != 2) {
        return pintle_priv_described_complain(&d, "supply takes two voltages, as in { 2.7, 3.6 }");
    }
    take_texts(&d);
    if (pintle_priv_described_bus(&d) != 0 || take_flags(&d) != 0
        || pintle_priv_described_registers(&d) != 0 || pintle_priv_described_settings(&d) != 0
        || pintle_priv_described_numbers(&d) != 0 || pintle_priv_described_checksum(&d) != 0) {
        return -1;
    }
    d.part->identity = pintle_priv_described_steps(&d, "identity");
    d.part->setup = d.part->identity ? pintle_priv_described_steps(&d, "start") : NULL;
    d.part->measure = d.part->setup ? pintle_priv_described_steps(&d, "measure") : NULL;
    if (!d.part->measure || pintle_priv_described_channels(&d) != 0
        || pintle_priv_described_abilities(&d) != 0) {
        return -1;
    }
    describe_block(&d);
    if (take_pause(&d) != 0) {
        return -1;
    }
    send_bytes(&d);
    if (d.part->link->kind == PINTLE_BUS_I2C || d.part->link->kind == PINTLE_BUS_SPI) {
        look_at_settings(&d);
    }
    if (pintle_priv_described_trim(&d) != 0) {
        return -1;
    }
    const char *fault = pintle_sheet_fault(d.sheet);
    if (fault) {
        return pintle_priv_described_complain(&d, "it describes %s", fault);
    }
    rig->part = g_renew(const struct pintle_sheet *, rig->part, rig->described + 1);
    rig->part[rig->described++] = d.sheet;
    return 0;
}
