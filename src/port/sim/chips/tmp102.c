/* A simulated TMP102, from datasheet SLOS854. */
#include <math.h>

#include "port/sim/bench.h"

#define CONVERT_US 26000u /* section 7.5, typical */

enum { REG_TEMP, REG_CONFIG, REG_LOW, REG_HIGH };

struct tmp102 {
    uint16_t regs[4];
    uint8_t pointer;
    uint8_t byte;     /* which byte of the register, or of the write, comes next */
    uint8_t high;     /* first byte of a register write */
    uint8_t one_shot; /* a single conversion is under way */
    uint64_t started; /* when the conversion series (or the single one) began */
    uint64_t done;    /* conversions of the series that are in the register already */
};
SIM_STATE_FITS(struct tmp102);

static struct tmp102 *self(struct pintle_sim_chip *chip)
{
    return (struct tmp102 *)(void *)chip->state.bytes;
}

static void power_up(struct pintle_sim_chip *chip)
{
    *self(chip) =
        (struct tmp102){ .regs = { 0x0000, 0x60a0, 0x4b00, 0x5000 }, .started = chip->sim->now_us };
}

/* Section 8.3.2 and 8.3.3: 12 bits left-justified, or 13 with the lowest bit of the word set. */
static void convert(struct pintle_sim_chip *chip)
{
    struct tmp102 *s = self(chip);
    int extended = (s->regs[REG_CONFIG] >> 4) & 1;
    double limit = extended ? 4095 : 2047;
    double counts = floor(sim_sense(chip, 0) / 0.0625 + 0.5);
    counts = fmin(fmax(counts, -limit - 1), limit);
    s->regs[REG_TEMP] = extended ? (uint16_t)((int)counts * 8 | 1) : (uint16_t)((int)counts * 16);
}

static uint64_t period_us(const struct tmp102 *s)
{
    static const uint32_t periods[] = { 4000000, 1000000, 250000, 125000 };
    return periods[(s->regs[REG_CONFIG] >> 6) & 3];
}

/* Bring the registers up to the present. */
static void catch_up(struct pintle_sim_chip *chip)
{
    struct tmp102 *s = self(chip);
    uint64_t age = chip->sim->now_us - s->started;
    int shutdown = (s->regs[REG_CONFIG] >> 8) & 1;
    if (s->one_shot && age >= CONVERT_US) {
        convert(chip);
        s->one_shot = 0;
        s->regs[REG_CONFIG] |= 0x8000; /* OS reads 1 when the conversion is done */
    }
    if (shutdown || age < CONVERT_US) {
        return;
    }
    uint64_t finished = 1 + (age - CONVERT_US) / period_us(s);
    if (finished > s->done) {
        convert(chip);
        s->done = finished;
    }
}

/* R1, R0 and AL cannot be written; the low four bits are zero. */
static void configure(struct pintle_sim_chip *chip, uint16_t value)
{
    struct tmp102 *s = self(chip);
    uint16_t old = s->regs[REG_CONFIG];
    s->regs[REG_CONFIG] = (uint16_t)((value & 0x1fd0) | (old & 0xe020));
    if (!(value & 0x0100) && (old & 0x0100)) { /* leaving shutdown */
        s->started = chip->sim->now_us;
        s->done = 0;
        s->regs[REG_CONFIG] &= 0x7fff;
    }
    if ((value & 0x8100) == 0x8100) { /* one shot */
        s->started = chip->sim->now_us;
        s->one_shot = 1;
        s->regs[REG_CONFIG] &= 0x7fff;
    }
}

static uint8_t start(struct pintle_sim_chip *chip, uint8_t reading)
{
    catch_up(chip);
    self(chip)->byte = reading ? 1 : 0;
    return 1;
}

/* Byte 0 is the pointer, 1 and 2 the register. */
static uint8_t write(struct pintle_sim_chip *chip, uint8_t byte)
{
    struct tmp102 *s = self(chip);
    if (s->byte == 0) {
        s->pointer = byte & 3;
    } else if (s->byte == 1) {
        s->high = byte;
    } else if (s->byte == 2 && s->pointer == REG_CONFIG) {
        configure(chip, (uint16_t)(s->high << 8 | byte));
    } else if (s->byte == 2 && s->pointer != REG_TEMP) {
        s->regs[s->pointer] = (uint16_t)((s->high << 8 | byte) & 0xfff8);
    }
    s->byte++;
    return 1;
}

static uint8_t read(struct pintle_sim_chip *chip)
{
    struct tmp102 *s = self(chip);
    uint16_t value = s->regs[s->pointer];
    return (uint8_t)(s->byte++ & 1 ? value >> 8 : value);
}

static void stop(struct pintle_sim_chip *chip)
{
    (void)chip;
}

const struct pintle_sim_model sim_tmp102 = {
    .name = "TMP102",
    .inputs = { "temperature" },
    .errors = { 1.0 },
    .noises = { 0.02 },
    .power_up = power_up,
    .start = start,
    .write = write,
    .read = read,
    .stop = stop,
};
