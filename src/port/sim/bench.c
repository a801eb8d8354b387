/* The bench: chips, faults, time. */
#include "port/sim/bench.h"

void pintle_sim_init(struct pintle_sim *sim, uint8_t buses, int64_t began_us, uint64_t seed)
{
    memset(sim, 0, sizeof *sim);
    sim->buses = buses > PINTLE_SIM_BUSES ? PINTLE_SIM_BUSES : buses;
    sim->began_us = began_us;
    sim->seed = seed;
    for (uint8_t i = 0; i < PINTLE_SIM_BUSES; i++) {
        sim->bus[i].bit_ns = 10000;
        sim->line[i].sim = sim;
        sim->line[i].bus = i;
    }
}

static const struct pintle_sim_model *find_model(const char *part)
{
    const struct pintle_sim_model *model = NULL;
    for (size_t i = 0; (model = pintle_sim_model_at(i)) != NULL; i++) {
        if (strcmp(model->name, part) == 0) {
            break;
        }
    }
    return model;
}

static double everyday(const char *input)
{
    static const struct {
        const char *input;
        double value;
    } rows[] = { { "humidity", 50 }, { "pressure", 101325 }, { "temperature", 20 },
                 { "junction", 20 }, { "accel-z", 9.80665 }, { "reference", 3.3 } };
    for (size_t i = 0; i < sizeof rows / sizeof rows[0]; i++) {
        if (strcmp(input, rows[i].input) == 0) {
            return rows[i].value;
        }
    }
    return strncmp(input, "ch", 2) == 0 ? 1 : 0;
}

struct pintle_sim_chip *pintle_sim_add(struct pintle_sim *sim, const char *part, uint8_t bus,
                                       uint8_t address)
{
    const struct pintle_sim_model *model = find_model(part);
    if (!model || bus >= sim->buses || sim->chips == PINTLE_SIM_CHIPS) {
        return NULL;
    }
    struct pintle_sim_chip *chip = &sim->chip[sim->chips++];
    chip->sim = sim;
    chip->model = model;
    chip->bus = bus;
    chip->address = address;
    chip->present = 1;
    chip->shown = PINTLE_SIM_SHOWS_NOTHING;
    chip->rom.code[0] = model->family;
    chip->rom.code[1] = address;
    chip->rom.code[7] = sim_rom_crc(chip->rom.code, 7);
    for (int i = 0; i < PINTLE_SIM_INPUTS && model->inputs[i]; i++) {
        chip->feels[i].level = everyday(model->inputs[i]);
        chip->error[i] = model->errors[i] * sim_uniform(sim);
    }
    model->power_up(chip);
    return chip;
}

enum pintle_status pintle_sim_add_fault(struct pintle_sim *sim,
                                        const struct pintle_sim_fault *fault)
{
    uint8_t count = fault->kind >= PINTLE_SIM_LINES ? sim->buses : sim->chips;
    if (sim->faults == PINTLE_SIM_FAULTS || fault->chip >= count) {
        return PINTLE_OUT_OF_RANGE;
    }
    sim->fault[sim->faults++] = *fault;
    return PINTLE_OK;
}

static uint8_t in_force(const struct pintle_sim *sim, const struct pintle_sim_fault *fault)
{
    return sim->now_us >= fault->from_us && sim->now_us < fault->to_us;
}

uint8_t sim_troubles(const struct pintle_sim *sim, uint8_t bus, uint32_t *amount)
{
    uint8_t troubles = 0;
    for (uint8_t i = 0; i < sim->faults; i++) {
        const struct pintle_sim_fault *f = &sim->fault[i];
        if (f->kind == PINTLE_SIM_LINES && f->chip == bus && in_force(sim, f)) {
            troubles |= f->trouble;
            *amount = f->amount;
        }
    }
    return troubles;
}

uint8_t sim_off(const struct pintle_sim *sim, uint8_t bus)
{
    for (uint8_t i = 0; i < sim->faults; i++) {
        const struct pintle_sim_fault *f = &sim->fault[i];
        if (f->kind == PINTLE_SIM_OFF && f->chip == bus && in_force(sim, f)) {
            return 1;
        }
    }
    return 0;
}

uint8_t sim_active(const struct pintle_sim *sim, uint8_t bus, uint8_t more)
{
    uint32_t amount = 0;
    return sim_troubles(sim, bus, &amount) | more;
}

/* One bit in 256 is wrong. */
uint8_t sim_noisy(struct pintle_sim *sim, uint8_t active, uint8_t bit)
{
    return (active & PINTLE_SIM_NOISE) && sim_random(sim) % 256 == 0 ? !bit : bit;
}

uint8_t sim_faulty(const struct pintle_sim *sim, const struct pintle_sim_chip *chip,
                   enum pintle_sim_fault_kind kind)
{
    for (uint8_t i = 0; i < sim->faults; i++) {
        const struct pintle_sim_fault *f = &sim->fault[i];
        if (f->kind == kind && &sim->chip[f->chip] == chip && in_force(sim, f)) {
            return 1;
        }
    }
    return 0;
}

/* Chips lose their state while unplugged, even when nobody talks to them meanwhile. */
static void plug(struct pintle_sim *sim)
{
    for (uint8_t i = 0; i < sim->chips && sim->faults > 0; i++) {
        struct pintle_sim_chip *chip = &sim->chip[i];
        uint8_t present = !sim_faulty(sim, chip, PINTLE_SIM_UNPLUGGED);
        if (present && !chip->present) {
            chip->model->power_up(chip);
        }
        chip->present = present;
    }
}

uint8_t sim_hears(struct pintle_sim *sim, const struct pintle_sim_chip *chip)
{
    plug(sim);
    return chip->present && !sim_faulty(sim, chip, PINTLE_SIM_SILENT);
}

uint8_t sim_means(const struct pintle_sim_chip *chip, uint8_t address)
{
    return chip->address == address || sim_faulty(chip->sim, chip, PINTLE_SIM_DEAFENING);
}

/* The end of the next fault that begins or ends before `until`, so that none is slept through. */
static uint64_t next_change(const struct pintle_sim *sim, uint64_t until)
{
    uint64_t next = until;
    for (uint8_t i = 0; i < sim->faults; i++) {
        const struct pintle_sim_fault *f = &sim->fault[i];
        if (f->from_us > sim->now_us && f->from_us < next) {
            next = f->from_us;
        }
        if (f->to_us > sim->now_us && f->to_us < next) {
            next = f->to_us;
        }
    }
    return next;
}

void pintle_sim_pass(struct pintle_sim *sim, uint64_t us)
{
    uint64_t until = sim->now_us + us;
    while (sim->now_us < until) {
        sim->now_us = next_change(sim, until);
        plug(sim);
    }
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

static uint64_t now_us(void *context)
{
    return ((struct pintle_sim *)context)->now_us;
}

static void sleep_us(void *context, uint32_t us)
{
    struct pintle_sim *sim = context;
    pintle_sim_pass(sim, us);
    if (sim->pace) {
        sim->pace(sim->pace_context, us);
    }
}

static enum pintle_status get_wall_us(void *context, int64_t *utc_us)
{
    const struct pintle_sim *sim = context;
    *utc_us = sim->began_us + (int64_t)sim->now_us;
    return PINTLE_OK;
}

static enum pintle_status set_wall_us(void *context, int64_t utc_us)
{
    struct pintle_sim *sim = context;
    sim->began_us = utc_us - (int64_t)sim->now_us;
    return PINTLE_OK;
}

struct pintle_i2c pintle_sim_i2c(struct pintle_sim *sim, uint8_t bus)
{
    static const struct pintle_i2c_calls calls = { transfer, recover };
    return (struct pintle_i2c){ &calls, &sim->line[bus], 0 };
}

struct pintle_clock pintle_sim_clock(struct pintle_sim *sim)
{
    static const struct pintle_clock_calls calls = { now_us, sleep_us, get_wall_us, set_wall_us };
    return (struct pintle_clock){ &calls, sim };
}
