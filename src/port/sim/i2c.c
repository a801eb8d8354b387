/* I2C by whole transfers, byte after byte through the chips that are addressed. */
#include "port/sim/bench.h"

uint8_t sim_means(const struct pintle_sim_chip *chip, uint8_t address)
{
    return chip->address == address || sim_faulty(chip->sim, chip, PINTLE_SIM_DEAFENING);
}

static void byte_passes(struct pintle_sim *sim, struct pintle_sim_bus *bus)
{
    bus->bytes++;
    pintle_sim_pass(sim, (bus->bit_ns * (uint64_t)9 + 999) / 1000);
}

/* A bus with two chips on one address: both see everything, and their zeros win. */
struct talk {
    struct pintle_sim *sim;
    struct pintle_sim_bus *bus;
    struct pintle_sim_chip *chips[PINTLE_SIM_CHIPS];
    uint8_t count;
};

static void listeners(struct talk *talk, uint8_t bus, uint8_t address)
{
    talk->count = 0;
    for (uint8_t i = 0; i < talk->sim->chips; i++) {
        struct pintle_sim_chip *chip = &talk->sim->chip[i];
        if (chip->bus == bus && chip->model->kind == PINTLE_SIM_I2C && sim_hears(talk->sim, chip)
            && sim_means(chip, address)) {
            talk->chips[talk->count++] = chip;
        }
    }
}

static uint8_t call_all(struct talk *talk, uint8_t reading)
{
    uint8_t ack = 0;
    for (uint8_t i = 0; i < talk->count; i++) {
        ack |= talk->chips[i]->model->start(talk->chips[i], reading);
    }
    byte_passes(talk->sim, talk->bus);
    return ack;
}

static uint8_t write_all(struct talk *talk, uint8_t byte)
{
    uint8_t ack = 0;
    for (uint8_t i = 0; i < talk->count; i++) {
        ack |= talk->chips[i]->model->write(talk->chips[i], byte);
    }
    byte_passes(talk->sim, talk->bus);
    return ack;
}

static uint8_t read_all(struct talk *talk)
{
    uint8_t byte = 0xff;
    for (uint8_t i = 0; i < talk->count; i++) {
        byte &= talk->chips[i]->model->read(talk->chips[i]);
    }
    byte_passes(talk->sim, talk->bus);
    return byte;
}

static enum pintle_status do_segment(struct talk *talk, const struct pintle_segment *segment)
{
    if (!call_all(talk, segment->in != NULL)) {
        return PINTLE_NO_ANSWER;
    }
    for (uint16_t i = 0; i < segment->length; i++) {
        if (segment->in) {
            segment->in[i] = read_all(talk);
        } else if (!write_all(talk, segment->out[i])) {
            return PINTLE_DATA_REFUSED;
        }
    }
    return PINTLE_OK;
}

static void flip_one_bit(struct talk *talk, const struct pintle_segment *segments, uint8_t count)
{
    for (uint8_t i = 0; i < count; i++) {
        if (segments[i].in && sim_faulty(talk->sim, talk->chips[0], PINTLE_SIM_FLIPPED)) {
            uint64_t random = sim_random(talk->sim);
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
    const struct pintle_sim_line *line = context;
    if (sim_off(line->sim, line->bus)) {
        return PINTLE_UNSUPPORTED;
    }
    struct talk talk = { .sim = line->sim, .bus = &line->sim->bus[line->bus] };
    uint64_t begun = line->sim->now_us;
    uint32_t amount = 0;
    uint8_t troubles = sim_troubles(line->sim, line->bus, &amount);
    enum pintle_status status = lines_say(talk.bus, troubles, amount, limit_us);
    if (status != PINTLE_OK) {
        pintle_sim_pass(line->sim, status == PINTLE_CLOCK_STUCK ? limit_us : 10);
        return status;
    }
    listeners(&talk, line->bus, address);
    for (uint8_t i = 0; i < count && status == PINTLE_OK; i++) {
        status = do_segment(&talk, &segments[i]);
    }
    for (uint8_t i = 0; i < talk.count; i++) {
        talk.chips[i]->model->stop(talk.chips[i]);
    }
    if (status == PINTLE_OK) {
        flip_one_bit(&talk, segments, count);
        status = line->sim->now_us - begun > limit_us ? PINTLE_TIME_LIMIT : PINTLE_OK;
    }
    return status;
}

static enum pintle_status recover(void *context)
{
    const struct pintle_sim_line *line = context;
    uint32_t amount = 0;
    uint8_t troubles = sim_troubles(line->sim, line->bus, &amount);
    line->sim->bus[line->bus].held = 1; /* its chips have seen nine clocks */
    return lines_say(&line->sim->bus[line->bus], troubles, amount, 1000);
}

struct pintle_i2c pintle_sim_i2c(struct pintle_sim *sim, uint8_t bus)
{
    static const struct pintle_i2c_calls calls = { transfer, recover };
    return (struct pintle_i2c){ &calls, &sim->line[bus], 0 };
}
