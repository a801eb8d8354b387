/* A 1-Wire line by time slots. */
#include "port/sim/bench.h"

#define RESET_US 960
#define SLOT_US 70
#define STUCK (PINTLE_SIM_DATA_LOW | PINTLE_SIM_NO_PULL_UP | PINTLE_SIM_HELD)

static enum pintle_status reset(void *context)
{
    const struct pintle_sim_bus *bus = context;
    struct pintle_sim *sim = bus->sim;
    uint8_t there = 0;
    if (pintle_priv_sim_off(sim, bus->index)) {
        return PINTLE_NO_DEVICE;
    }
    pintle_priv_sim_rom_strong(sim, bus->index, 0);
    pintle_sim_pass(sim, RESET_US);
    if (pintle_priv_sim_active(sim, bus->index, 0) & STUCK) {
        return PINTLE_DATA_STUCK;
    }
    struct pintle_sim_chip *chip = pintle_priv_sim_first(sim, bus->index, PINTLE_SIM_ONEWIRE);
    for (; chip; chip = pintle_priv_sim_next(chip)) {
        if (pintle_priv_sim_hears(chip)) {
            pintle_priv_sim_rom_reset(chip);
            there = 1;
        }
    }
    return there ? PINTLE_OK : PINTLE_NO_ANSWER;
}

static uint8_t slot(const struct pintle_sim_bus *bus, uint8_t out)
{
    struct pintle_sim *sim = bus->sim;
    uint8_t level = out;
    struct pintle_sim_chip *chip = pintle_priv_sim_first(sim, bus->index, PINTLE_SIM_ONEWIRE);
    for (; chip; chip = pintle_priv_sim_next(chip)) {
        if (!pintle_priv_sim_rom_awake(chip) || !pintle_priv_sim_hears(chip)) {
            continue;
        }
        if (pintle_priv_sim_rom_sends(chip)) {
            level &= pintle_priv_sim_rom_give(chip);
        } else {
            pintle_priv_sim_rom_take(chip, out);
        }
    }
    pintle_priv_sim_pass(sim, SLOT_US);
    uint8_t active = pintle_priv_sim_active(sim, bus->index, 0);
    return active & STUCK ? 0 : pintle_priv_sim_noisy(sim, active, level);
}

/* One bit of what a chip sends is wrong. */
static void flip(const struct pintle_sim_bus *bus, uint8_t *in, uint16_t count)
{
    struct pintle_sim *sim = bus->sim;
    const struct pintle_sim_chip *chip = pintle_priv_sim_first(sim, bus->index, PINTLE_SIM_ONEWIRE);
    for (; chip; chip = pintle_priv_sim_next(chip)) {
        if (chip->rom.giving && pintle_priv_sim_faulty(chip, PINTLE_SIM_FLIPPED)) {
            uint64_t bit = pintle_priv_sim_random(sim) % count;
            in[bit / 8] ^= (uint8_t)(1u << bit % 8);
            return;
        }
    }
}

static enum pintle_status slots(void *context, const uint8_t *out, uint8_t *in, uint16_t count,
                                uint8_t strong)
{
    struct pintle_sim_bus *bus = context;
    pintle_priv_sim_rom_strong(bus->sim, bus->index, 0);
    for (uint16_t i = 0; i < count; i++) {
        uint8_t mask = (uint8_t)(1u << (i & 7));
        uint8_t seen = slot(bus, !out || (out[i / 8] & mask));
        if (in) {
            in[i / 8] = (uint8_t)(seen ? in[i / 8] | mask : in[i / 8] & ~mask);
        }
    }
    bus->bytes += (count + 7u) / 8;
    if (in && count >= 8) {
        flip(bus, in, count);
    }
    pintle_priv_sim_rom_strong(bus->sim, bus->index, strong);
    return PINTLE_OK;
}

struct pintle_onewire pintle_sim_onewire(struct pintle_sim *sim, uint16_t bus)
{
    static const struct pintle_onewire_calls calls = { .reset = reset, .slots = slots };
    return (struct pintle_onewire){ .calls = &calls,
                                    .common = { .context = &sim->bus[bus], .clock = &sim->clock } };
}
