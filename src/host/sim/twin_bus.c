/* How a chip made from its description talks. */
#include <glib.h>
#include <string.h>

#include "host/sim/twin.h"
#include "pintle/onewire.h"

static const struct pintle_part *part_of(const struct pintle_sim_chip *chip)
{
    return pintle_priv_twin_of(chip)->sheet->part;
}

static void refresh(struct pintle_sim_chip *chip)
{
    if (pintle_priv_twin_ready(chip)) {
        pintle_priv_twin_measure(chip);
    }
}

/* --- I2C: an address of one byte or two, then what is behind it --- */

static uint8_t heads_of(const struct pintle_part *part)
{
    return part->flags & PINTLE_PART_WIDE_ADDRESS ? 2 : 1;
}

static uint8_t start(struct pintle_sim_chip *chip, uint8_t reading)
{
    struct twin_state *s = pintle_priv_twin_state(chip);
    s->at = 0;
    if (!reading) {
        s->heads = 0;
        s->reg = 0;
        return 1;
    }
    bool fetching = pintle_priv_twin_of(chip)->fetches && !pintle_priv_twin_row(chip, s->reg);
    s->alone = 0;
    refresh(chip);
    return !fetching || pintle_priv_twin_ready(chip); /* busy: it doesn't answer */
}

static uint8_t write(struct pintle_sim_chip *chip, uint8_t byte)
{
    struct twin_state *s = pintle_priv_twin_state(chip);
    if (s->heads < heads_of(part_of(chip))) {
        s->reg = (uint16_t)(s->reg << 8 | byte);
        s->heads++;
        s->alone = s->heads == heads_of(part_of(chip));
    } else {
        pintle_priv_twin_store(chip, s->reg, s->at++, byte);
        s->alone = 0;
    }
    return 1;
}

/* SMBus: behind a register comes a checksum of the whole transfer. */
static uint8_t checksum(struct pintle_sim_chip *chip, uint8_t count)
{
    static const struct pintle_part_crc rule = { .polynomial = 0x07, .bits = 8 };
    uint8_t all[3 + PINTLE_MOST_RAW] = { (uint8_t)(chip->address << 1),
                                         (uint8_t)pintle_priv_twin_state(chip)->reg,
                                         (uint8_t)(chip->address << 1 | 1) };
    for (uint8_t i = 0; i < count; i++) {
        all[3 + i] = pintle_priv_twin_byte(chip, pintle_priv_twin_state(chip)->reg, i);
    }
    return (uint8_t)pintle_part_crc_over(&rule, all, 3u + count);
}

static uint8_t read(struct pintle_sim_chip *chip)
{
    struct twin_state *s = pintle_priv_twin_state(chip);
    uint8_t at = s->at++;
    if (pintle_priv_twin_of(chip)->fetches && !pintle_priv_twin_row(chip, s->reg)) {
        return pintle_priv_twin_fetched(chip, at);
    }
    const struct pintle_map_reg *row = pintle_priv_twin_row(chip, s->reg);
    bool sums = part_of(chip)->link == &pintle_link_smbus && row && at == row->reg.width;
    return sums ? checksum(chip, at) : pintle_priv_twin_byte(chip, s->reg, at);
}

/* An address and nothing behind it, and no register there: a command. */
static void stop(struct pintle_sim_chip *chip)
{
    struct twin_state *s = pintle_priv_twin_state(chip);
    if (s->alone && !pintle_priv_twin_row(chip, s->reg)) {
        pintle_priv_twin_command(chip, s->reg);
    }
    s->alone = 0;
}

static void speak_i2c(struct pintle_sim_model *model)
{
    model->start = start;
    model->write = write;
    model->read = read;
    model->stop = stop;
}

/* --- SPI: the first byte says where, unless nothing has an address --- */

static uint16_t banked(struct pintle_sim_chip *chip, uint8_t reg)
{
    const struct pintle_spi_rules *rules = part_of(chip)->spi;
    const struct twin_state *s = pintle_priv_twin_state(chip);
    return (uint16_t)(rules->banks && reg != rules->bank_reg ? s->command << 8 | reg : reg);
}

static void next_out(struct pintle_sim_chip *chip)
{
    struct twin_state *s = pintle_priv_twin_state(chip);
    bool plain = pintle_priv_twin_of(chip)->fetches;
    const struct pintle_spi_rules *rules = part_of(chip)->spi;
    s->bits = 0;
    if (plain) {
        s->out = s->at < sizeof s->raw ? s->raw[s->at] : 0;
    } else if (rules->banks && s->reg == rules->bank_reg) {
        s->out = (uint8_t)(s->command << rules->bank_shift);
    } else {
        s->out = pintle_priv_twin_byte(chip, banked(chip, (uint8_t)s->reg), s->at);
    }
    s->at++;
    chip->shown = s->reading ? s->out >> 7 : PINTLE_SIM_SHOWS_NOTHING;
}

static void take_byte(struct pintle_sim_chip *chip)
{
    struct twin_state *s = pintle_priv_twin_state(chip);
    const struct pintle_spi_rules *rules = part_of(chip)->spi;
    if (pintle_priv_twin_of(chip)->fetches) {
        next_out(chip);
    } else if (s->heads == 0) {
        s->heads = 1;
        s->at = 0;
        s->reg = s->in & (uint8_t) ~(rules->read_bit | rules->burst_bit);
        s->reading = !rules->read_bit || (s->in & rules->read_bit);
        next_out(chip);
        s->at = s->reading ? s->at : 0;
    } else if (s->reading) {
        next_out(chip);
    } else if (rules->banks && s->reg == rules->bank_reg) {
        s->command = (uint16_t)(s->in >> rules->bank_shift);
        s->bits = 0;
    } else {
        pintle_priv_twin_store(chip, banked(chip, (uint8_t)s->reg), s->at++, s->in);
        s->bits = 0;
    }
}

static void select_it(struct pintle_sim_chip *chip, uint8_t on)
{
    struct twin_state *s = pintle_priv_twin_state(chip);
    s->heads = s->at = s->bits = s->in = s->reading = 0;
    chip->shown = PINTLE_SIM_SHOWS_NOTHING;
    if (on) {
        refresh(chip);
        s->reading = pintle_priv_twin_of(chip)->fetches;
        if (s->reading) {
            next_out(chip);
        }
    }
}

static void clock_it(struct pintle_sim_chip *chip, uint8_t bit)
{
    struct twin_state *s = pintle_priv_twin_state(chip);
    s->in = (uint8_t)(s->in << 1 | bit);
    s->out = (uint8_t)(s->out << 1);
    chip->shown = s->reading ? s->out >> 7 : PINTLE_SIM_SHOWS_NOTHING;
    if (++s->bits == 8) {
        take_byte(chip);
    }
}

static void speak_spi(struct pintle_sim_model *model, const struct pintle_spi_rules *rules)
{
    model->modes = (uint8_t)(1u << rules->mode);
    model->top_hz = rules->top_hz;
    model->select = select_it;
    model->clock = clock_it;
}

/* --- 1-Wire: a scratchpad of nine bytes --- */

enum { NOTHING, READING, WRITING, CONVERTING };

static uint8_t pad_byte(struct pintle_sim_chip *chip, uint8_t at)
{
    uint8_t pad[9];
    for (uint8_t i = 0; i < 8; i++) {
        pad[i] = pintle_priv_twin_byte(chip, 0, i);
    }
    pad[8] = pintle_onewire_crc(pad, 8);
    return at < 9 ? pad[at] : 0xff;
}

static void addressed(struct pintle_sim_chip *chip)
{
    struct twin_state *s = pintle_priv_twin_state(chip);
    refresh(chip);
    s->doing = NOTHING;
    s->at = 0;
}

static void take(struct pintle_sim_chip *chip, uint8_t byte)
{
    struct twin_state *s = pintle_priv_twin_state(chip);
    if (s->doing == WRITING) {
        pintle_priv_twin_store(chip, 2, s->at++, byte);
    } else if (byte == 0x4e) {
        s->doing = WRITING;
        s->at = 0;
    } else {
        s->doing = byte == 0xbe ? READING : CONVERTING;
        s->at = 0;
        chip->rom.giving = 1;
        if (byte != 0xbe) {
            pintle_priv_twin_command(chip, byte);
        }
    }
}

static uint8_t give(struct pintle_sim_chip *chip)
{
    struct twin_state *s = pintle_priv_twin_state(chip);
    if (s->doing != READING) {
        return pintle_priv_twin_ready(chip);
    }
    uint8_t bit = pad_byte(chip, s->at / 8) >> s->at % 8 & 1;
    s->at++;
    return bit;
}

static uint8_t no_alarm(struct pintle_sim_chip *chip)
{
    (void)chip;
    return 0;
}

static void powered(struct pintle_sim_chip *chip, uint8_t hard)
{
    (void)chip;
    (void)hard;
}

static void speak_onewire(struct pintle_sim_model *model, uint8_t family)
{
    model->family = family;
    model->addressed = addressed;
    model->take = take;
    model->give = give;
    model->alarm = no_alarm;
    model->powered = powered;
}

/* --- a serial line: on request, or by itself ten times a second --- */

#define EVERY_US 100000u

static bool is_asked(const struct pintle_part *part)
{
    for (const struct pintle_step *step = part->measure; step->op != PINTLE_OP_END; step++) {
        if (step->op == PINTLE_OP_WRITE && step->reg != PINTLE_NO_REG) {
            return true;
        }
    }
    return false;
}

static uint64_t byte_us(const struct pintle_sim_chip *chip)
{
    return 10000000u / chip->model->top_hz + 1;
}

static void begin_line(struct pintle_sim_chip *chip, uint64_t at_us)
{
    struct twin_state *s = pintle_priv_twin_state(chip);
    const struct pintle_part *part = part_of(chip);
    uint8_t count = part->raw_size;
    pintle_priv_twin_measure(chip);
    while (part->frame->length == 0 && count > 0 && s->raw[count - 1] == 0) {
        count--;
    }
    memcpy(s->line, s->raw, count);
    if (part->frame->length == 0) {
        s->line[count++] = '\r';
        s->line[count++] = '\n';
    }
    s->length = count;
    s->said = 0;
    s->next_us = at_us + byte_us(chip);
}

static void hear(struct pintle_sim_chip *chip, uint8_t byte)
{
    struct twin_state *s = pintle_priv_twin_state(chip);
    (void)byte;
    if (is_asked(part_of(chip)) && s->said == s->length) {
        begin_line(chip, chip->sim->now_us + 5000); /* behind the question */
    }
}

static void speak(struct pintle_sim_chip *chip)
{
    struct twin_state *s = pintle_priv_twin_state(chip);
    uint64_t now = chip->sim->now_us;
    bool asked = is_asked(part_of(chip));
    if (!asked && s->said == s->length && now > s->next_us + 2 * EVERY_US) {
        s->next_us += (now - s->next_us) / EVERY_US * EVERY_US - EVERY_US;
    }
    while (s->next_us <= now && (s->said < s->length || !asked)) {
        if (s->said == s->length) {
            begin_line(chip, s->next_us);
            continue;
        }
        pintle_sim_arrive(chip, s->line[s->said++], s->next_us);
        s->next_us += s->said < s->length || asked ? byte_us(chip) : EVERY_US;
    }
}

static void speak_stream(struct pintle_sim_model *model, const struct pintle_frame *frame)
{
    model->top_hz = frame->bit_hz;
    model->hear = hear;
    model->speak = speak;
}

void pintle_priv_twin_speak(struct pintle_sim_model *model, const struct pintle_part *part)
{
    switch (part->link->kind) {
    case PINTLE_BUS_I2C:
        speak_i2c(model);
        break;
    case PINTLE_BUS_SPI:
        speak_spi(model, part->spi);
        break;
    case PINTLE_BUS_ONEWIRE:
        speak_onewire(model, part->family);
        break;
    default:
        speak_stream(model, part->frame);
        break;
    }
}
