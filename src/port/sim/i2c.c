/* I2C by whole transfers, byte after byte through the chips that are addressed. */
#include "port/sim/bench.h"

uint8_t pintle_priv_sim_means(const struct pintle_sim_chip *chip, uint8_t address)
{
    return chip->address == address || pintle_priv_sim_faulty(chip, PINTLE_SIM_DEAFENING);
}

static void byte_passes(struct pintle_sim *sim, struct pintle_sim_bus *bus)
{
    bus->bytes++;
    pintle_priv_sim_pass(sim, (bus->bit_ns * (uint64_t)9 + 999) / 1000);
}

/* The next chip, from this one on, that is addressed and has power. On a bus with two chips on one
 * address both see everything, and their zeros win. */
static struct pintle_sim_chip *listener(struct pintle_sim_chip *chip)
{
    while (chip && !(chip->addressed && chip->present)) {
        chip = pintle_priv_sim_next(chip);
    }
    return chip;
}

static struct pintle_sim_chip *first(const struct pintle_sim_bus *bus)
{
    return listener(pintle_priv_sim_first(bus->sim, bus->index, PINTLE_SIM_I2C));
}

static struct pintle_sim_chip *next(const struct pintle_sim_chip *chip)
{
    return listener(pintle_priv_sim_next(chip));
}

static void listen(struct pintle_sim_bus *bus, uint8_t address)
{
    struct pintle_sim_chip *chip = pintle_priv_sim_first(bus->sim, bus->index, PINTLE_SIM_I2C);
    for (; chip; chip = pintle_priv_sim_next(chip)) {
        chip->addressed = pintle_priv_sim_hears(chip) && pintle_priv_sim_means(chip, address);
    }
}

static uint8_t call_all(struct pintle_sim_bus *bus, uint8_t reading)
{
    uint8_t ack = 0;
    for (struct pintle_sim_chip *chip = first(bus); chip; chip = next(chip)) {
        ack |= pintle_priv_sim_i2c_start(chip, reading);
    }
    byte_passes(bus->sim, bus);
    return ack;
}

static uint8_t write_all(struct pintle_sim_bus *bus, uint8_t byte)
{
    uint8_t ack = 0;
    for (struct pintle_sim_chip *chip = first(bus); chip; chip = next(chip)) {
        ack |= pintle_priv_sim_i2c_write(chip, byte);
    }
    byte_passes(bus->sim, bus);
    return ack;
}

static uint8_t read_all(struct pintle_sim_bus *bus)
{
    uint8_t byte = 0xff;
    for (struct pintle_sim_chip *chip = first(bus); chip; chip = next(chip)) {
        byte &= chip->model->read(chip);
    }
    byte_passes(bus->sim, bus);
    return byte;
}

static uint8_t breaks_off(const struct pintle_sim_bus *bus)
{
    const struct pintle_sim_chip *chip = first(bus);
    return chip && pintle_priv_sim_faulty(chip, PINTLE_SIM_TORN)
           && pintle_priv_sim_random(bus->sim) % 8 == 0;
}

static enum pintle_status do_segment(struct pintle_sim_bus *bus,
                                     const struct pintle_segment *segment)
{
    if (!call_all(bus, segment->in != NULL)) {
        return PINTLE_NO_ANSWER;
    }
    for (uint16_t i = 0; i < segment->length; i++) {
        if (breaks_off(bus)) {
            return PINTLE_TIME_LIMIT;
        }
        if (segment->in) {
            segment->in[i] = read_all(bus);
        } else if (!write_all(bus, segment->out[i])) {
            return PINTLE_DATA_REFUSED;
        }
    }
    return PINTLE_OK;
}

static void flip_one_bit(struct pintle_sim_bus *bus, const struct pintle_segment *segments,
                         uint8_t count)
{
    const struct pintle_sim_chip *chip = first(bus);
    for (uint8_t i = 0; chip && i < count; i++) {
        if (segments[i].in && pintle_priv_sim_faulty(chip, PINTLE_SIM_FLIPPED)) {
            uint64_t random = pintle_priv_sim_random(bus->sim);
            segments[i].in[(random >> 3) % segments[i].length] ^= (uint8_t)(1u << (random & 7));
            return;
        }
    }
}

/* What a master would say of troubled lines, without going through their edges. Clocks of a
 * recovery free a chip that holds data. */
static enum pintle_status lines_say(struct pintle_sim_bus *bus, uint8_t troubles, uint32_t amount,
                                    uint32_t limit_us)
{
    uint8_t clock = PINTLE_SIM_CLOCK_LOW | PINTLE_SIM_NO_PULL_UP | PINTLE_SIM_BRIDGED;
    bus->held = troubles & PINTLE_SIM_HELD ? bus->held : 0;
    if (troubles & clock) {
        return PINTLE_CLOCK_STUCK;
    }
    if ((troubles & PINTLE_SIM_DATA_LOW)
        || ((troubles & PINTLE_SIM_HELD) && (amount > 9 || !bus->held))) {
        return PINTLE_DATA_STUCK;
    }
    if ((troubles & PINTLE_SIM_STRETCHED) && amount >= limit_us) {
        return PINTLE_CLOCK_STUCK;
    }
    return troubles & PINTLE_SIM_SWAPPED ? PINTLE_NO_ANSWER : PINTLE_OK;
}

static enum pintle_status transfer(void *context, uint8_t address,
                                   const struct pintle_segment *segments, uint8_t count,
                                   uint32_t limit_us)
{
    struct pintle_sim_bus *bus = context;
    if (pintle_priv_sim_off(bus->sim, bus->index)) {
        return PINTLE_NO_DEVICE;
    }
    uint64_t begun = bus->sim->now_us;
    uint32_t amount = 0;
    uint8_t troubles = pintle_priv_sim_troubles(bus->sim, bus->index, &amount);
    enum pintle_status status = lines_say(bus, troubles, amount, limit_us);
    if (status != PINTLE_OK) {
        pintle_sim_pass(bus->sim, status == PINTLE_CLOCK_STUCK ? limit_us : 10);
        return status;
    }
    pintle_priv_sim_meddle(bus->sim, bus->index, PINTLE_SIM_I2C);
    listen(bus, address);
    for (uint8_t i = 0; i < count && status == PINTLE_OK; i++) {
        status = do_segment(bus, &segments[i]);
    }
    for (struct pintle_sim_chip *chip = first(bus); chip; chip = next(chip)) {
        chip->model->stop(chip);
    }
    if (status == PINTLE_OK) {
        flip_one_bit(bus, segments, count);
        status = bus->sim->now_us - begun > limit_us ? PINTLE_TIME_LIMIT : PINTLE_OK;
    }
    return status;
}

/* A controller that goes on by itself: its bytes move at the end, so that whoever lets go of them,
 * or looks at them, before then is found out. */
#define ASKED_MOST 3

static enum pintle_status start(void *context, uint8_t address,
                                const struct pintle_segment *segments, uint8_t count,
                                uint32_t limit_us)
{
    struct pintle_sim_bus *bus = context;
    if (bus->begun) {
        return PINTLE_IO_ERROR; /* one at a time */
    }
    bus->begun = segments;
    bus->address = address;
    bus->count = count;
    bus->limit_us = limit_us;
    bus->asked = 0;
    bus->begun_us = bus->sim->now_us;
    return PINTLE_OK;
}

static enum pintle_status done(void *context)
{
    struct pintle_sim_bus *bus = context;
    const struct pintle_segment *segments = bus->begun;
    if (!segments) {
        return PINTLE_IO_ERROR;
    }
    if (bus->asked++ < ASKED_MOST && bus->sim->now_us - bus->begun_us < bus->limit_us) {
        return PINTLE_NOT_READY;
    }
    bus->begun = NULL;
    return transfer(bus, bus->address, segments, bus->count, bus->limit_us);
}

static enum pintle_status recover(void *context)
{
    struct pintle_sim_bus *bus = context;
    uint32_t amount = 0;
    uint8_t troubles = pintle_priv_sim_troubles(bus->sim, bus->index, &amount);
    bus->held = 1; /* its chips have seen nine clocks */
    return lines_say(bus, troubles, amount, 1000);
}

struct pintle_i2c pintle_sim_i2c(struct pintle_sim *sim, uint16_t bus)
{
    static const struct pintle_i2c_calls calls = {
        .transfer = transfer, .recover = recover, .start = start, .done = done
    };
    return (struct pintle_i2c){ .calls = &calls,
                                .common = { .context = &sim->bus[bus],
                                            .clock = &sim->clock,
                                            .sole_master = !sim->bus[bus].shared },
                                .bit_ns = sim->bus[bus].bit_ns };
}
