/* What a chip made from its description holds. */
#include "host/sim/twin.h"

#include <glib.h>
#include <math.h>
#include <string.h>

#include "host/rig/described_values.h"
#include "pintle/onewire.h"

static const struct pintle_part *part_of(const struct pintle_sim_chip *chip)
{
    return pintle_priv_twin_of(chip)->sheet->part;
}

static bool is_big(const struct pintle_part *part)
{
    return part->flags & PINTLE_PART_BIG_ENDIAN;
}

/* Where byte `i` of a register is, in bits. */
static unsigned place(const struct pintle_part *part, unsigned width, unsigned i)
{
    return 8 * (is_big(part) ? width - 1 - i : i);
}

/* --- settings, as the chip has them --- */

/* Is it written to? Bare, with nothing behind it, its settings are bits of what was sent last. */
static bool writes(const struct pintle_step *program, uint16_t reg, bool bare)
{
    for (const struct pintle_step *step = program; step->op != PINTLE_OP_END; step++) {
        if (step->op == PINTLE_OP_WRITE && step->reg == reg && (!bare || step->width == 0)) {
            return true;
        }
    }
    return false;
}

static bool is_command(const struct pintle_part *part, uint16_t reg)
{
    return writes(part->identity, reg, true) || writes(part->setup, reg, true)
           || writes(part->measure, reg, true);
}

static int row_at(const struct pintle_sim_chip *chip, uint16_t reg)
{
    const struct pintle_sheet *sheet = pintle_priv_twin_of(chip)->sheet;
    for (unsigned i = 0; i < sheet->reg_count; i++) {
        if (sheet->regs[i].reg.address == reg && !is_command(sheet->part, reg)) {
            return (int)i;
        }
    }
    return -1;
}

const struct pintle_map_reg *pintle_priv_twin_row(const struct pintle_sim_chip *chip, uint16_t reg)
{
    int row = row_at(chip, reg);
    return row < 0 ? NULL : &pintle_priv_twin_of(chip)->sheet->regs[row];
}

/* The option that a setting's bits say; the first where they say none. */
static void find_settings(struct pintle_sim_chip *chip, uint8_t *settings)
{
    const struct pintle_part *part = part_of(chip);
    const struct twin_state *s = pintle_priv_twin_state(chip);
    for (unsigned i = 0; i < part->setting_count; i++) {
        const struct pintle_setting *setting = &part->settings[i];
        int row = row_at(chip, setting->reg);
        uint32_t value = row >= 0 ? s->value[row] : s->command;
        unsigned widest = 0;
        for (unsigned o = 0; o < setting->count; o++) {
            widest |= setting->options[o].code;
        }
        unsigned mask = 1;
        while (mask < widest) {
            mask = mask << 1 | 1;
        }
        settings[i] = setting->initial;
        for (unsigned o = 0; o < setting->count; o++) {
            bool is = (value >> setting->shift & mask) == setting->options[o].code;
            settings[i] = is ? (uint8_t)o : settings[i];
        }
    }
}

/* --- steps of the measuring program, with what they read --- */

struct reading {
    const struct pintle_step *step;
    uint8_t at; /* in the raw block */
};

#define READINGS 16

static unsigned list_readings(const struct pintle_part *part, const uint8_t *settings,
                              struct reading *list)
{
    unsigned count = 0;
    uint8_t at = 0;
    for (const struct pintle_step *step = part->measure; step->op != PINTLE_OP_END; step++) {
        if (step->op == PINTLE_OP_ONLY
            && (step->reg == PINTLE_NO_REG || settings[step->reg] != step->value)) {
            step += step->width;
        } else if (step->op == PINTLE_OP_READ && count < READINGS) {
            list[count++] = (struct reading){ step, at };
            at = (uint8_t)(at + step->width);
        }
    }
    return count;
}

/* Bits that a program waits for, or checks. */
static uint8_t met(uint8_t byte, uint8_t mask, uint8_t want)
{
    return (uint8_t)((byte & ~mask) | (want & mask));
}

static void put_checksums(const struct pintle_part_crc *rule, uint8_t *raw, unsigned count)
{
    unsigned group = rule->span + rule->bits / 8u;
    for (unsigned i = 0; i + group <= count; i += group) {
        uint16_t crc = pintle_part_crc_over(rule, raw + i, rule->span);
        uint8_t *at = raw + i + rule->span;
        for (unsigned b = 0; b < rule->bits / 8u; b++) {
            unsigned shift = rule->low_first ? 8 * b : rule->bits - 8u - 8 * b;
            at[b] = (uint8_t)(crc >> shift);
        }
    }
}

void pintle_priv_twin_measure(struct pintle_sim_chip *chip)
{
    const struct pintle_part *part = part_of(chip);
    struct twin_state *s = pintle_priv_twin_state(chip);
    struct reading list[READINGS];
    uint8_t settings[PINTLE_MOST_SETTINGS] = { 0 };
    find_settings(chip, settings);
    memset(s->raw, 0, sizeof s->raw);
    unsigned count = list_readings(part, settings, list);
    for (unsigned i = 0; i < count; i++) {
        const struct pintle_step *step = list[i].step;
        if (part->frame && step->reg != PINTLE_NO_REG) {
            s->raw[list[i].at] = (uint8_t)(step->reg >> 8);
            s->raw[list[i].at + 1] = (uint8_t)step->reg;
        }
        if (step->value) {
            uint8_t *byte = &s->raw[list[i].at + (step->value >> 12 & 15)];
            *byte = met(*byte, (uint8_t)(step->value >> 24), (uint8_t)(step->value >> 16));
        }
    }
    for (unsigned c = 0; c < part->channel_count; c++) {
        if (part->channels[c].linear) {
            pintle_priv_twin_channel(chip, c, settings);
        }
    }
    struct pintle_sheet_check checks[READINGS];
    count = pintle_sheet_checks(part, settings, checks, READINGS);
    for (unsigned i = 0; i < count; i++) {
        put_checksums(checks[i].rule, s->raw + checks[i].at, checks[i].count);
    }
}

/* --- time --- */

/* The longest wait of a program: each conversion has one. */
static uint64_t longest_wait_us(const struct pintle_part *part, const struct pintle_step *program,
                                const uint8_t *settings)
{
    uint64_t longest = 0;
    for (const struct pintle_step *step = program; step->op != PINTLE_OP_END; step++) {
        const struct pintle_step alone[] = { *step, PINTLE_END() };
        bool waits = step->op == PINTLE_OP_WAIT || step->op == PINTLE_OP_POWER;
        longest = waits ? MAX(longest, pintle_sheet_waits_us(part, alone, settings)) : longest;
    }
    return longest;
}

static uint64_t conversion_us(struct pintle_sim_chip *chip)
{
    const struct pintle_part *part = part_of(chip);
    uint8_t settings[PINTLE_MOST_SETTINGS] = { 0 };
    find_settings(chip, settings);
    uint64_t us = pintle_priv_twin_state(chip)->measuring
                      ? longest_wait_us(part, part->measure, settings)
                      : 0;
    return us > 0 ? us - us / 10 : 500; /* within what is waited for */
}

bool pintle_priv_twin_ready(struct pintle_sim_chip *chip)
{
    uint64_t began_us = pintle_priv_twin_state(chip)->began_us;
    return began_us == 0 || chip->sim->now_us >= began_us + conversion_us(chip);
}

/* --- registers --- */

/* What identity wants is there from the beginning. */
static void put_identity(struct pintle_sim_chip *chip)
{
    struct twin_state *s = pintle_priv_twin_state(chip);
    for (const struct pintle_step *step = part_of(chip)->identity; step->op != PINTLE_OP_END;
         step++) {
        int row = row_at(chip, step->reg);
        uint32_t mask = step->value >> 16;
        uint32_t want = step->value & 0xffff;
        if (row < 0 || row >= TWIN_REGS) {
            continue;
        }
        if (step->op == PINTLE_OP_EXPECT && step->width <= 2) {
            s->value[row] = (s->value[row] & ~mask) | (want & mask);
        } else if (step->op == PINTLE_OP_REFUSE && (s->value[row] & mask) == want) {
            s->value[row] ^= mask & (0u - mask);
        }
    }
}

void pintle_priv_twin_power_up(struct pintle_sim_chip *chip)
{
    const struct pintle_sheet *sheet = pintle_priv_twin_of(chip)->sheet;
    struct twin_state *s = pintle_priv_twin_state(chip);
    memset(s, 0, sizeof *s);
    s->began_us = chip->sim->now_us;
    for (unsigned i = 0; i < sheet->reg_count && i < TWIN_REGS; i++) {
        s->value[i] = sheet->regs[i].at_power_on;
    }
    for (unsigned c = 0; c < sheet->part->channel_count; c++) {
        const struct pintle_channel *channel = &sheet->part->channels[c];
        if (channel->linear && (channel->linear->flags & PINTLE_LINEAR_POWER_ON)) {
            pintle_priv_twin_put(channel->linear, s->raw + channel->at, channel->linear->power_on);
        }
    }
    put_identity(chip);
}

/* Does the register still hold what the program wrote there last before this step? Then the chip
 * goes on by itself to what the step waits for; so does a register that it never writes. */
static bool goes_on(struct pintle_sim_chip *chip, const struct pintle_step *program,
                    const struct pintle_step *poll)
{
    int row = row_at(chip, poll->reg);
    uint32_t is = row >= 0 ? pintle_priv_twin_state(chip)->value[row] : 0;
    bool holds = true;
    for (const struct pintle_step *step = program; step < poll; step++) {
        if (step->op == PINTLE_OP_WRITE && step->reg == poll->reg) {
            holds = (is & step->value) == step->value;
        }
    }
    return holds;
}

/* A byte that some step polls, or checks in a register that nobody writes: as it wants it when the
 * conversion is over, and before otherwise. */
static uint8_t as_polled(struct pintle_sim_chip *chip, uint16_t reg, uint8_t i, uint8_t byte)
{
    const struct pintle_part *part = part_of(chip);
    const struct pintle_map_reg *row = pintle_priv_twin_row(chip, reg);
    const struct pintle_step *programs[] = { part->setup, part->measure };
    for (unsigned p = 0; p < 2; p++) {
        for (const struct pintle_step *step = programs[p]; step->op != PINTLE_OP_END; step++) {
            bool polls = step->op == PINTLE_OP_POLL && step->reg == reg
                         && (step->value >> 12 & 15) == i && goes_on(chip, programs[p], step);
            bool checks = step->op == PINTLE_OP_EXPECT && step->reg == reg && step->width == 1
                          && i == 0 && row && (row->reg.flags & PINTLE_REG_READ_ONLY);
            uint8_t mask = (uint8_t)(polls ? step->value >> 24 : step->value >> 16);
            uint8_t want = (uint8_t)(polls ? step->value >> 16 : step->value);
            if ((polls || checks) && pintle_priv_twin_ready(chip)) {
                byte = met(byte, mask, want);
            } else if (polls && (byte & mask) == want) {
                byte ^= (uint8_t)(mask & -mask);
            }
        }
    }
    return byte;
}

/* The byte of a register whose bytes lie around this address. */
static bool stored(struct pintle_sim_chip *chip, uint16_t reg, uint8_t i, uint8_t *byte)
{
    const struct twin *t = pintle_priv_twin_of(chip);
    const struct twin_state *s = pintle_priv_twin_state(chip);
    unsigned address = t->words ? reg : reg + i;
    for (unsigned r = 0; r < t->sheet->reg_count && r < TWIN_REGS; r++) {
        const struct pintle_reg *row = &t->sheet->regs[r].reg;
        unsigned at = t->words ? i % MAX(row->width, 1u) : address - row->address;
        if (row->width > 0 && (t->words ? row->address == reg : address >= row->address)
            && at < row->width) {
            *byte = (uint8_t)(s->value[r] >> place(t->sheet->part, row->width, at));
            return true;
        }
    }
    return false;
}

uint8_t pintle_priv_twin_byte(struct pintle_sim_chip *chip, uint16_t reg, uint8_t i)
{
    const struct twin *t = pintle_priv_twin_of(chip);
    struct twin_state *s = pintle_priv_twin_state(chip);
    struct reading list[READINGS];
    uint8_t settings[PINTLE_MOST_SETTINGS] = { 0 };
    find_settings(chip, settings);
    unsigned count = list_readings(t->sheet->part, settings, list);
    uint8_t byte = 0;
    for (unsigned k = 0; k < count; k++) {
        const struct pintle_step *step = list[k].step;
        unsigned at = t->words ? i : reg + i - (unsigned)step->reg;
        bool mine = t->words ? step->reg == reg : reg + i >= step->reg;
        if (mine && step->reg != PINTLE_NO_REG && at < step->width) {
            return as_polled(chip, reg, i, s->raw[list[k].at + at]);
        }
    }
    return stored(chip, reg, i, &byte) ? as_polled(chip, reg, i, byte) : as_polled(chip, reg, i, 0);
}

/* The step that fetches what a command asks for, or null. */
static const struct pintle_step *fetch_after(const struct pintle_step *program, uint16_t code)
{
    bool sent = false;
    for (const struct pintle_step *step = program; step->op != PINTLE_OP_END; step++) {
        if (step->op == PINTLE_OP_WRITE) {
            sent = step->reg == code;
        } else if (sent && step->reg == PINTLE_NO_REG
                   && (step->op == PINTLE_OP_READ || step->op == PINTLE_OP_EXPECT)) {
            return step;
        }
    }
    return NULL;
}

/* Where in the raw block lies what a step of the measuring program reads? */
static unsigned place_of(struct pintle_sim_chip *chip, const struct pintle_step *step)
{
    struct reading list[READINGS];
    uint8_t settings[PINTLE_MOST_SETTINGS] = { 0 };
    find_settings(chip, settings);
    unsigned count = list_readings(part_of(chip), settings, list);
    for (unsigned i = 0; i < count; i++) {
        if (list[i].step == step) {
            return list[i].at;
        }
    }
    return 0;
}

uint8_t pintle_priv_twin_fetched(struct pintle_sim_chip *chip, uint8_t i)
{
    const struct pintle_part *part = part_of(chip);
    const struct twin_state *s = pintle_priv_twin_state(chip);
    const struct pintle_step *measured = fetch_after(part->measure, s->asked);
    const struct pintle_step *proof = fetch_after(part->identity, s->asked);
    if (!measured && proof && part->crc && proof->width <= 8) { /* nothing but right checksums */
        uint8_t bytes[8] = { 0 };
        put_checksums(part->crc + proof->value, bytes, proof->width);
        return i < proof->width ? bytes[i] : 0xff;
    }
    unsigned at = (measured ? place_of(chip, measured) : 0) + i;
    return at < sizeof s->raw ? s->raw[at] : 0xff;
}

static void begin(struct pintle_sim_chip *chip, bool measuring)
{
    struct twin_state *s = pintle_priv_twin_state(chip);
    s->began_us = chip->sim->now_us;
    s->measuring = measuring;
}

void pintle_priv_twin_store(struct pintle_sim_chip *chip, uint16_t reg, uint8_t i, uint8_t byte)
{
    const struct twin *t = pintle_priv_twin_of(chip);
    struct twin_state *s = pintle_priv_twin_state(chip);
    for (unsigned r = 0; r < t->sheet->reg_count && r < TWIN_REGS; r++) {
        const struct pintle_reg *row = &t->sheet->regs[r].reg;
        unsigned at = t->words ? i : reg + i - (unsigned)row->address;
        bool mine = t->words ? row->address == reg : reg + i >= row->address;
        if (mine && at < row->width && !(row->flags & PINTLE_REG_READ_ONLY)) {
            unsigned shift = place(t->sheet->part, row->width, at);
            s->value[r] = (s->value[r] & ~(0xffu << shift)) | (uint32_t)byte << shift;
        }
    }
    s->asked = reg;
    begin(chip, writes(t->sheet->part->measure, reg, false));
}

void pintle_priv_twin_command(struct pintle_sim_chip *chip, uint16_t code)
{
    struct twin_state *s = pintle_priv_twin_state(chip);
    const struct pintle_part *part = part_of(chip);
    bool other = writes(part->identity, code, true) || writes(part->setup, code, true);
    s->command = s->asked = code;
    begin(chip, !other || writes(part->measure, code, true));
}

/* --- models --- */

static bool overlap(const struct pintle_sheet *sheet)
{
    for (unsigned a = 0; a < sheet->reg_count; a++) {
        for (unsigned b = 0; b < sheet->reg_count; b++) {
            const struct pintle_reg *x = &sheet->regs[a].reg;
            const struct pintle_reg *y = &sheet->regs[b].reg;
            if (y->address > x->address && y->address < x->address + x->width && y->width > 0) {
                return true;
            }
        }
    }
    return false;
}

static bool fetches(const struct pintle_part *part)
{
    for (const struct pintle_step *step = part->measure; step->op != PINTLE_OP_END; step++) {
        if (step->op == PINTLE_OP_READ && step->reg == PINTLE_NO_REG) {
            return true;
        }
    }
    return false;
}

/* The largest error of a specimen, at any value. */
static double error_of(const struct pintle_sheet *sheet, unsigned c)
{
    bool by_share = sheet->accuracies && sheet->accuracies[c].share > 0;
    return (double)(by_share ? sheet->accuracies[c].scaled : sheet->channels[c].accuracy_narrow)
           / 2;
}

struct twin *pintle_priv_twin_make(const struct pintle_sheet *sheet, const char **why)
{
    const struct pintle_part *part = sheet->part;
    if (part->decode && part->trim_size > 0) {
        *why = "its coefficients can't be applied backwards";
        return NULL;
    }
    bool turned = part->decode && pintle_priv_described_turns(sheet);
    if ((part->decode && !turned) || (part->spi && part->spi->commands)) {
        *why = part->decode && sheet->described
                   ? "a channel whose value has itself in it can't be turned round"
                   : "only what measures can be";
        return NULL;
    }
    if (sheet->reg_count > TWIN_REGS || part->channel_count > PINTLE_SIM_INPUTS) {
        *why = "it has more registers or channels than such a chip can";
        return NULL;
    }
    struct twin *t = g_new0(struct twin, 1);
    t->sheet = sheet;
    t->words = overlap(sheet);
    t->fetches = fetches(part);
    t->model.name = part->name;
    t->model.kind = (enum pintle_sim_kind)part->link->kind;
    t->model.power_up = pintle_priv_twin_power_up;
    for (unsigned c = 0; c < part->channel_count; c++) {
        t->model.inputs[c] = part->channels[c].linear ? part->channels[c].name : "";
        t->model.errors[c] = error_of(sheet, c);
    }
    pintle_priv_twin_speak(&t->model, part);
    return t;
}
