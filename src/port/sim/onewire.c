/* A 1-Wire line by time slots. */
#include "port/sim/bench.h"

#define RESET_US 960
#define SLOT_US 70
#define STUCK (PINTLE_SIM_DATA_LOW | PINTLE_SIM_NO_PULL_UP | PINTLE_SIM_HELD)

static uint8_t takes_part(struct pintle_sim *sim, uint8_t bus, struct pintle_sim_chip *chip)
{
    return chip->bus == bus && chip->model->kind == PINTLE_SIM_ONEWIRE && sim_hears(sim, chip);
}

static enum pintle_status reset(void *context)
{
    const struct pintle_sim_line *line = context;
    struct pintle_sim *sim = line->sim;
    uint8_t there = 0;
    if (sim_off(sim, line->bus)) {
        return PINTLE_UNSUPPORTED;
    }
    sim_rom_strong(sim, line->bus, 0);
    pintle_sim_pass(sim, RESET_US);
    if (sim_active(sim, line->bus, 0) & STUCK) {
        return PINTLE_DATA_STUCK;
    }
    for (uint8_t i = 0; i < sim->chips; i++) {
        if (takes_part(sim, line->bus, &sim->chip[i])) {
            sim_rom_reset(&sim->chip[i]);
            there = 1;
        }
    }
    return there ? PINTLE_OK : PINTLE_NO_ANSWER;
}

static uint8_t slot(struct pintle_sim *sim, uint8_t bus, uint8_t out)
{
    uint8_t level = out;
    for (uint8_t i = 0; i < sim->chips; i++) {
        struct pintle_sim_chip *chip = &sim->chip[i];
        if (takes_part(sim, bus, chip) && sim_rom_sends(chip)) {
            level &= sim_rom_give(chip);
        } else if (takes_part(sim, bus, chip)) {
            sim_rom_take(chip, out);
        }
    }
    pintle_sim_pass(sim, SLOT_US);
    uint8_t active = sim_active(sim, bus, 0);
    return active & STUCK ? 0 : sim_noisy(sim, active, level);
}

/* One bit of what was read is wrong. */
static void flip(struct pintle_sim *sim, uint8_t bus, uint8_t *in, uint16_t count)
{
    for (uint8_t i = 0; i < sim->chips; i++) {
        if (sim->chip[i].bus == bus && sim_faulty(sim, &sim->chip[i], PINTLE_SIM_FLIPPED)) {
            uint64_t bit = sim_random(sim) % count;
            in[bit / 8] ^= (uint8_t)(1u << bit % 8);
            return;
        }
    }
}

static enum pintle_status slots(void *context, const uint8_t *out, uint8_t *in, uint16_t count,
                                uint8_t strong)
{
    const struct pintle_sim_line *line = context;
    sim_rom_strong(line->sim, line->bus, 0);
    for (uint16_t i = 0; i < count; i++) {
        uint8_t mask = (uint8_t)(1u << (i & 7));
        uint8_t seen = slot(line->sim, line->bus, !out || (out[i / 8] & mask));
        if (in) {
            in[i / 8] = (uint8_t)(seen ? in[i / 8] | mask : in[i / 8] & ~mask);
        }
    }
    line->sim->bus[line->bus].bytes += (count + 7u) / 8;
    if (in && count >= 8) {
        flip(line->sim, line->bus, in, count);
    }
    sim_rom_strong(line->sim, line->bus, strong);
    return PINTLE_OK;
}

struct pintle_onewire pintle_sim_onewire(struct pintle_sim *sim, uint8_t bus)
{
    static const struct pintle_onewire_calls calls = { reset, slots };
    return (struct pintle_onewire){ &calls, &sim->line[bus], 0 };
}
