/* Is everything that a part's tables say consistent? For parts that are being written, whether as
 * files or in a rig: what the engine runs must end, fit and prove something. */
#include <math.h>
#include <string.h>

#include "pintle/sample.h"
#include "pintle/sheet.h"

_Static_assert(PINTLE_STATUS_COUNT <= 32, "a sheet has a bit for each status (known_by_status)");

/* What a program reads and sends, for one choice of settings. */
struct tally {
    unsigned raw, trim, proofs, checks;
    const char *fault;
};

static int is_name(const char *name, size_t room)
{
    size_t length = 0;
    while (length < room && name[length]) {
        char c = name[length++];
        int letter = (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z') || (c >= '0' && c <= '9');
        if (!letter && c != '-' && c != '_') {
            return 0;
        }
    }
    return length > 0 && length < room;
}

static unsigned size_of(uint32_t bits)
{
    unsigned bytes = 0;
    for (; bits; bits >>= 8) {
        bytes++;
    }
    return bytes;
}

/* What bytes that are read again and again must become. */
static const char *until(const struct pintle_step *step)
{
    uint32_t mask = step->value >> 24;
    return mask == 0 || (step->value >> 16 & 0xff & ~mask) || !(step->value & 0xfff)
                   || (step->value >> 12 & 15) >= step->width
               ? "a poll that cannot end, or has no limit"
               : NULL;
}

/* A condition of one or two bytes: mask in the high half, what it must be in the low one. */
static const char *condition(const struct pintle_part *part, const struct pintle_step *step)
{
    uint32_t mask = step->value >> 16;
    uint32_t want = step->value & 0xffff;
    uint8_t by_answer = step->reg == PINTLE_NO_REG && step->op == PINTLE_OP_EXPECT;
    unsigned width = step->width & PINTLE_STEP_WIDTH;
    if (by_answer && width > 2) {
        const struct pintle_part_crc *rule = part->crc ? part->crc + step->value : NULL;
        return rule && rule->check && width <= 8 ? NULL : "checksums of an answer, with no rule";
    }
    if (width < 1 || width > 8 || (mask == 0 && !by_answer) || (want & ~mask)
        || size_of(mask) > (width == 2 ? 2u : 1u)) {
        return "a condition that cannot be: its width, its mask, or what it must be";
    }
    return NULL;
}

static const char *communicates(const struct pintle_part *part, const struct pintle_step *step)
{
    unsigned width = step->width & PINTLE_STEP_WIDTH;
    if (step->reg == PINTLE_NO_REG && step->op > PINTLE_OP_FOR && step->op < PINTLE_OP_CHECK
        && part->link->kind == PINTLE_BUS_ONEWIRE) {
        return "a step with no register, which its bus doesn't have";
    }
    switch (step->op) {
    case PINTLE_OP_WRITE:
        return width > 4 || size_of(step->value) > width
                   ? "a write of more bits than its bytes have"
                   : NULL;
    case PINTLE_OP_POLL:
        return step->width > 4 ? "a poll of more than four bytes" : until(step);
    case PINTLE_OP_CHANGE:
        return (step->value & 0xff & ~(step->value >> 8)) || !(step->value >> 8)
                   ? "a change of bits outside its mask"
                   : NULL;
    case PINTLE_OP_POWER:
        return part->link->power ? NULL : "a step for a line that powers, on another bus";
    case PINTLE_OP_VACANT:
        return part->link->kind == PINTLE_BUS_I2C ? NULL
                                                  : "a question to an address, on another bus";
    default:
        return NULL;
    }
}

/* Do the bytes before a check come in groups with a checksum each? */
static const char *check(const struct pintle_part *part, const struct pintle_step *step,
                         struct tally *tally)
{
    const struct pintle_part_crc *rule = part->crc ? part->crc + step->reg : NULL;
    unsigned count = step->width ? step->width : tally->raw;
    tally->checks++;
    return !rule || !rule->check || rule->span == 0 || count > tally->raw
                   || count % (rule->span + rule->bits / 8u)
               ? "checksums that the bytes before don't have"
               : NULL;
}

static const char *reads(const struct pintle_part *part, const struct pintle_step *step,
                         struct tally *tally)
{
    switch (step->op) {
    case PINTLE_OP_WRITE: /* to be called and answer is some proof */
        tally->proofs += step->reg == PINTLE_NO_REG;
        return NULL;
    case PINTLE_OP_EXPECT:
    case PINTLE_OP_REFUSE:
        tally->proofs++;
        return condition(part, step);
    case PINTLE_OP_TRIM:
        tally->trim += step->width;
        return step->width ? NULL : "trim of no bytes";
    case PINTLE_OP_READ:
        tally->raw += step->width;
        return step->width == 0 ? "a read of no bytes" : step->value ? until(step) : NULL;
    case PINTLE_OP_CHECK:
        return check(part, step, tally);
    default:
        return NULL;
    }
}

/* How long a step waits, with what the settings add. */
static uint64_t waits(const struct pintle_part *part, const struct pintle_step *step,
                      const uint8_t *settings)
{
    uint64_t us = step->value;
    unsigned of = step->op == PINTLE_OP_POWER ? PINTLE_ALL_SETTINGS : step->reg;
    for (unsigned s = 0; s < part->setting_count; s++) {
        us += of >> s & 1 ? part->settings[s].options[settings[s]].time_us : 0;
    }
    return step->op == PINTLE_OP_WAIT || step->op == PINTLE_OP_POWER ? us : 0;
}

/* Go through a program as the engine does with these settings. */
static struct tally run(const struct pintle_part *part, const struct pintle_step *step,
                        const uint8_t *settings)
{
    struct tally tally = { 0 };
    for (unsigned i = 0; step[i].op != PINTLE_OP_END; i++) {
        const struct pintle_step *s = &step[i];
        if (i >= PINTLE_STEPS_MAX || s->op > PINTLE_OP_VACANT) {
            tally.fault = "a program with no end";
        } else if (pintle_step_is_rare(s) && part->rare != pintle_part_steps_rare) {
            tally.fault = "a step that only pintle_part_steps_rare does";
        } else if (waits(part, s, settings) > PINTLE_WAIT_MAX_US) {
            tally.fault = "a step that waits for more than ten minutes";
        } else if (s->op == PINTLE_OP_ONLY && s->reg == PINTLE_NO_REG) {
            continue; /* when it is measured once more */
        } else if (s->op == PINTLE_OP_ONLY
                   && (s->reg >= part->setting_count || s->value >= part->settings[s->reg].count)) {
            tally.fault = "a step for an option that there is not";
        } else if (s->op == PINTLE_OP_ONLY) {
            i += settings[s->reg] == s->value ? 0 : s->width;
        } else {
            const char *talk = communicates(part, s);
            const char *read = reads(part, s, &tally);
            tally.fault = talk ? talk : read;
        }
        if (tally.fault) {
            break;
        }
    }
    return tally;
}

static const char *programs(const struct pintle_sheet *sheet, const uint8_t *settings)
{
    const struct pintle_part *part = sheet->part;
    struct tally identity = run(part, part->identity, settings);
    struct tally setup = run(part, part->setup, settings);
    struct tally measure = run(part, part->measure, settings);
    const char *fault = identity.fault ? identity.fault : setup.fault ? setup.fault : measure.fault;
    if (fault) {
        return fault;
    }
    if (identity.raw || identity.trim || measure.trim || setup.checks) {
        return "reads in a program that has no place for them";
    }
    if (measure.raw != part->raw_size
        || (measure.raw == 0 && !(part->can && !part->channel_count))) {
        return "measuring steps that don't read as many bytes as the part states";
    }
    if (setup.trim != part->trim_size) {
        return "a set-up that doesn't read as much trim as the part states";
    }
    if (!!part->crc != (measure.checks > 0) && !sheet->described) {
        return "checksums that are read and not checked, or the other way round";
    }
    return identity.proofs == 0 && !sheet->mute && (sheet->proof_is_certain || !sheet->described)
               ? "no proof of its identity"
               : NULL;
}

/* Every choice of settings, one after the other. */
static const char *all_programs(const struct pintle_sheet *sheet)
{
    const struct pintle_part *part = sheet->part;
    uint8_t settings[PINTLE_MOST_SETTINGS] = { 0 };
    unsigned s = 0;
    while (s < part->setting_count || part->setting_count == 0) {
        const char *fault = programs(sheet, settings);
        if (fault || part->setting_count == 0) {
            return fault;
        }
        for (s = 0; s < part->setting_count && ++settings[s] == part->settings[s].count; s++) {
            settings[s] = 0;
        }
    }
    return NULL;
}

/* How many bits the register at this address has, where the map knows it. */
static unsigned width_of(const struct pintle_sheet *sheet, uint16_t address)
{
    for (unsigned i = 0; i < sheet->reg_count; i++) {
        if (sheet->regs[i].reg.address == address && sheet->regs[i].reg.width) {
            return 8u * sheet->regs[i].reg.width;
        }
    }
    return 32;
}

static const char *a_setting(const struct pintle_sheet *sheet, unsigned s)
{
    const struct pintle_setting *setting = &sheet->part->settings[s];
    const struct pintle_setting_text *text = &sheet->settings[s];
    unsigned bits = width_of(sheet, setting->reg);
    unsigned options = 0;
    while (text->options[options]) {
        options++;
    }
    if (!is_name(text->name, 40) || setting->count == 0 || options != setting->count
        || setting->initial >= setting->count) {
        return "a setting whose name, options or initial one are not as they must be";
    }
    for (unsigned o = 0; o < setting->count; o++) {
        uint64_t code = setting->options[o].code;
        if (setting->shift > 31 || code << setting->shift >> bits) {
            return "a setting with an option that its register has no room for";
        }
    }
    return NULL;
}

/* A further place of a setting. */
static const char *a_further(const struct pintle_part *part, unsigned i)
{
    const struct pintle_setting *row = &part->settings[part->setting_count + i];
    return row->initial < part->setting_count && row->count == part->settings[row->initial].count
               ? NULL
               : "a further place of a setting that there is not, or with other options";
}

static const char *a_ladder(const struct pintle_part *part)
{
    const struct pintle_ladder *ladder = part->ladder;
    for (unsigned i = 0; ladder && i < 2u * ladder->rungs; i++) {
        unsigned setting = ladder->settings[i % 2];
        if (setting >= part->setting_count || ladder->options[i] >= part->settings[setting].count) {
            return "a ladder of options that there are not";
        }
    }
    return ladder
                   && (!ladder->climb || ladder->rungs < 2 || ladder->lowest < 1
                       || ladder->highest <= ladder->lowest
                       || ladder->channels >> part->channel_count || !ladder->channels)
               ? "a ladder that leads nowhere"
               : NULL;
}

static const char *a_number(const struct pintle_sheet *sheet, unsigned n)
{
    const struct pintle_number *number = &sheet->part->numbers[n];
    return is_name(sheet->numbers[n].name, 40) && number->lowest > 0
                   && number->initial >= number->lowest && number->initial <= number->highest
                   && isfinite(number->highest)
               ? NULL
               : "a number whose name, limits or initial value are not as they must be";
}

static const char *marks(const struct pintle_part *part, const struct pintle_channel *channel,
                         const struct pintle_linear *row)
{
    for (unsigned i = 0; row->marks && row->marks[i].mask; i++) {
        const struct pintle_mark *mark = &row->marks[i];
        int at = channel->at + mark->at;
        if (at < 0 || at >= part->raw_size || (mark->want & ~mark->mask) || i > 16) {
            return "a mark of bits that are not there";
        }
    }
    return NULL;
}

static const char *a_row(const struct pintle_part *part, const struct pintle_channel *channel,
                         const struct pintle_linear *row)
{
    int bits = row->bits ? row->bits : 8 * row->bytes - row->shift;
    if (row->bytes < 1 || row->bytes > 4 || channel->at + row->bytes > part->raw_size || bits < 1
        || row->shift + bits > 8 * row->bytes) {
        return "a channel whose value doesn't lie in what is read";
    }
    if (!isfinite(row->scale) || row->scale == 0 || !isfinite(row->zero)) {
        return "a channel whose scale is no number, or 0";
    }
    if ((row->flags & PINTLE_LINEAR_POWER_ON) && !(part->flags & PINTLE_PART_FORGETS)) {
        return "a power-on value of a part that isn't said to forget";
    }
    return marks(part, channel, row);
}

static const char *a_channel(const struct pintle_part *part, unsigned c)
{
    const struct pintle_channel *channel = &part->channels[c];
    unsigned rows = 1;
    if (!is_name(channel->name, sizeof channel->name)) {
        return "a channel whose name isn't letters, digits, hyphens and underscores, or too long";
    }
    for (unsigned i = 0; i < c; i++) {
        if (strcmp(part->channels[i].name, channel->name) == 0) {
            return "two channels of one name";
        }
    }
    if (channel->quantity >= PINTLE_QUANTITY_COUNT || channel->decimals > PINTLE_DECIMALS_MAX
        || !(channel->lowest < channel->highest) || !isfinite(channel->highest - channel->lowest)) {
        return "a channel whose quantity, decimals or range are none";
    }
    if ((channel->scaled_by || channel->number) && !part->factor) {
        return "a channel that is scaled, in a part that doesn't say how";
    }
    if ((channel->rows_by | channel->scaled_by) >> part->setting_count
        || (channel->number & ~PINTLE_DIVIDED) > part->number_count) {
        return "a channel that is scaled by a setting or a number that there is not";
    }
    for (unsigned s = 0; s < part->setting_count; s++) {
        const struct pintle_setting *setting = &part->settings[s];
        rows *= channel->rows_by >> s & 1 ? setting->count : 1;
        for (unsigned o = 0; channel->scaled_by >> s & 1 && o < setting->count; o++) {
            if (!setting->factors || !isfinite(setting->factors[o]) || setting->factors[o] == 0) {
                return "a channel that is scaled by an option with no factor";
            }
        }
    }
    if (!channel->linear) {
        return part->decode ? NULL : "a channel that nothing works out";
    }
    for (unsigned i = 0; i < rows; i++) {
        const char *fault = a_row(part, channel, &channel->linear[i]);
        if (fault) {
            return fault;
        }
    }
    return NULL;
}

static const char *a_register(const struct pintle_map_reg *reg)
{
    uint64_t seen = 0;
    unsigned bits = 8u * reg->reg.width;
    if (!is_name(reg->name, 40) || reg->reg.width > 4 || (uint64_t)reg->at_power_on >> bits) {
        return "a register whose name, width or power-on value are none";
    }
    for (unsigned i = 0; i < reg->field_count; i++) {
        const struct pintle_field *field = &reg->fields[i];
        uint64_t mask = (((uint64_t)1 << (field->bits & 63)) - 1) << (field->shift & 63);
        if (field->bits < 1 || field->shift + field->bits > bits || (seen & mask)) {
            return "a register whose fields overlap, or lie outside it";
        }
        seen |= mask;
        unsigned values = 0;
        while (field->values && field->values[values]) {
            values++;
        }
        if (values > (uint64_t)1 << (field->bits < 31 ? field->bits : 31)) {
            return "a field with more meanings than values";
        }
    }
    return NULL;
}

/* One address may be read under one name and written under another. */
static const char *twin_registers(const struct pintle_sheet *sheet, unsigned i)
{
    const uint8_t both = PINTLE_REG_READ_ONLY | PINTLE_REG_WRITE_ONLY;
    const struct pintle_map_reg *a = &sheet->regs[i];
    for (unsigned k = 0; k < i; k++) {
        const struct pintle_map_reg *b = &sheet->regs[k];
        uint8_t apart = ((a->reg.flags ^ b->reg.flags) & both) == both;
        if (strcmp(a->name, b->name) == 0 || (a->reg.address == b->reg.address && !apart)) {
            return "two registers of one name, or at one address";
        }
    }
    return NULL;
}

static const char *bus(const struct pintle_sheet *sheet)
{
    const struct pintle_part *part = sheet->part;
    if (!part->link || !part->identity || !part->setup || !part->measure) {
        return "no bus, or no identity, set-up or measuring steps";
    }
    if (part->link->kind == PINTLE_BUS_I2C && (part->address_count == 0 || !part->addresses)) {
        return "no address";
    }
    for (unsigned i = 0; i < part->address_count; i++) {
        if (part->addresses[i] < 0x08 || part->addresses[i] > 0x77
            || sheet->straps[i].address != part->addresses[i]) {
            return "an address that is none, or is strapped otherwise";
        }
    }
    if (part->link->kind == PINTLE_BUS_STREAM
        && (!part->frame || part->frame->bit_hz < 300 || part->frame->limit_ms == 0
            || part->frame->length > PINTLE_STREAM_FRAME)) {
        return "no frames, or longer ones than there is room for, or no limit to wait for them";
    }
    if (part->link->kind == PINTLE_BUS_SPI
        && (!part->spi || part->spi->top_hz == 0 || part->spi->mode > 3
            || part->spi->bank_shift > 7)) {
        return "no rules for SPI, or a mode or a speed that there is not";
    }
    return NULL;
}

static unsigned sum(const struct pintle_stretch *stretch, unsigned count)
{
    unsigned bytes = 0;
    for (unsigned i = 0; i < count; i++) {
        bytes += stretch[i].bytes;
    }
    return bytes;
}

static const char *sizes(const struct pintle_sheet *sheet)
{
    const struct pintle_part *part = sheet->part;
    if (!is_name(part->name, sizeof part->name)) {
        return "a name that isn't letters, digits, hyphens and underscores, or too long";
    }
    if (part->raw_size > PINTLE_MOST_RAW || part->setting_count > PINTLE_MOST_SETTINGS
        || part->channel_count > PINTLE_MOST_CHANNELS || part->trim_size > PINTLE_MOST_TRIM
        || part->number_count > PINTLE_MOST_NUMBERS || (part->channel_count == 0 && !part->can)) {
        return "more bytes, channels or settings than there is room for, or none";
    }
    if (sum(sheet->data, sheet->data_count) != part->raw_size
        || sum(sheet->trim, sheet->trim_count) != part->trim_size) {
        return "blocks that are explained with another length";
    }
    return NULL;
}

const char *pintle_sheet_fault(const struct pintle_sheet *sheet)
{
    const struct pintle_part *part = sheet->part;
    const char *fault = sizes(sheet);
    fault = fault ? fault : bus(sheet);
    for (unsigned s = 0; s < part->setting_count && !fault; s++) {
        fault = a_setting(sheet, s);
    }
    for (unsigned i = 0; i < part->further_count && !fault; i++) {
        fault = a_further(part, i);
    }
    fault = fault ? fault : all_programs(sheet);
    fault = fault ? fault : a_ladder(part);
    for (unsigned n = 0; n < part->number_count && !fault; n++) {
        fault = a_number(sheet, n);
    }
    for (unsigned c = 0; c < part->channel_count && !fault; c++) {
        fault = a_channel(part, c);
    }
    for (unsigned i = 0; i < sheet->reg_count && !fault; i++) {
        fault = a_register(&sheet->regs[i]);
        fault = fault ? fault : twin_registers(sheet, i);
    }
    return fault;
}
