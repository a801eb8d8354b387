/* Serial lines, byte by byte. What a chip says arrives when its stop bit does, and waits as long as
 * there is room for it. */
#include "port/sim/bench.h"

/* Of these nothing comes through. */
#define MUTE (PINTLE_SIM_SWAPPED | PINTLE_SIM_DATA_LOW | PINTLE_SIM_BRIDGED)

static struct pintle_sim_chip *chip_on(const struct pintle_sim_bus *bus)
{
    return pintle_priv_sim_first(bus->sim, bus->index, PINTLE_SIM_STREAM);
}

static void show_byte(const struct pintle_sim_bus *bus, uint8_t line, uint8_t byte,
                      uint64_t from_ns)
{
    unsigned bits = (unsigned)byte << 1 | 0x200; /* start, eight, stop */
    uint8_t level = 1;
    for (unsigned i = 0; bus->edge && i < 10; i++) {
        uint8_t next = bits >> i & 1;
        if (next != level) {
            bus->edge(bus->edge_context, line, next, from_ns + (uint64_t)i * bus->bit_ns);
        }
        level = next;
    }
}

/* A byte at another speed than it was sent at is another byte. */
static uint8_t heard(const struct pintle_sim_chip *chip, uint8_t byte)
{
    const struct pintle_sim_bus *bus = &chip->sim->bus[chip->bus];
    uint32_t bit_ns = 1000000000u / chip->model->top_hz;
    uint32_t off = bus->bit_ns > bit_ns ? bus->bit_ns - bit_ns : bit_ns - bus->bit_ns;
    uint64_t random = pintle_priv_sim_random(chip->sim);
    if ((bus->troubles & PINTLE_SIM_NOISE) && random % 32 == 0) {
        byte ^= (uint8_t)(1u << (random >> 8) % 8);
    }
    return off > bit_ns / 25 ? (uint8_t)(random >> 16) : byte;
}

void pintle_sim_arrive(struct pintle_sim_chip *chip, uint8_t byte, uint64_t at_us)
{
    struct pintle_sim_bus *bus = &chip->sim->bus[chip->bus];
    if (!pintle_priv_sim_hears(chip) || (bus->troubles & MUTE)) {
        return;
    }
    if (pintle_priv_sim_faulty(chip, PINTLE_SIM_FLIPPED)
        && pintle_priv_sim_random(chip->sim) % 8 == 0) {
        byte ^= (uint8_t)(1u << pintle_priv_sim_random(chip->sim) % 8);
    }
    byte = heard(chip, byte);
    show_byte(bus, PINTLE_SIM_ANSWER, byte, at_us * 1000 - (uint64_t)10 * bus->bit_ns);
    bus->bytes++;
    if (bus->waiting < sizeof bus->came) {
        bus->came[bus->waiting++] = byte;
    }
}

static void catch_up(const struct pintle_sim_bus *bus)
{
    struct pintle_sim_chip *chip = chip_on(bus);
    pintle_priv_sim_refresh(bus->sim);
    if (chip && chip->present) {
        chip->model->speak(chip);
    }
}

static uint64_t byte_us(const struct pintle_sim_bus *bus)
{
    return ((uint64_t)10 * bus->bit_ns + 999) / 1000;
}

static enum pintle_status send(void *context, const uint8_t *bytes, uint16_t count,
                               uint32_t limit_us)
{
    struct pintle_sim_bus *bus = context;
    if (pintle_priv_sim_off(bus->sim, bus->index)) {
        return PINTLE_NO_DEVICE;
    }
    if (count * byte_us(bus) > limit_us) {
        return PINTLE_TIME_LIMIT;
    }
    for (uint16_t i = 0; i < count; i++) {
        struct pintle_sim_chip *chip = chip_on(bus);
        catch_up(bus);
        show_byte(bus, PINTLE_SIM_DATA, bytes[i], bus->sim->now_us * 1000);
        pintle_priv_sim_pass(bus->sim, byte_us(bus));
        bus->bytes++;
        catch_up(bus);
        if (chip && pintle_priv_sim_hears(chip) && !(bus->troubles & MUTE)) {
            chip->model->hear(chip, heard(chip, bytes[i]));
        }
    }
    return PINTLE_OK;
}

static enum pintle_status receive(void *context, uint8_t *bytes, uint16_t count, uint16_t *got,
                                  uint32_t limit_us)
{
    struct pintle_sim_bus *bus = context;
    uint64_t until = bus->sim->now_us + limit_us;
    *got = 0;
    if (pintle_priv_sim_off(bus->sim, bus->index)) {
        return PINTLE_NO_DEVICE;
    }
    catch_up(bus);
    while (bus->waiting == 0 && bus->sim->now_us < until) {
        pintle_priv_sim_pass(bus->sim, byte_us(bus));
        catch_up(bus);
    }
    *got = count < bus->waiting ? count : bus->waiting;
    memcpy(bytes, bus->came, *got);
    bus->waiting = (uint16_t)(bus->waiting - *got);
    memmove(bus->came, bus->came + *got, bus->waiting);
    return PINTLE_OK;
}

struct pintle_stream pintle_sim_stream(struct pintle_sim *sim, uint16_t bus)
{
    static const struct pintle_stream_calls calls = { .send = send, .receive = receive };
    return (struct pintle_stream){ .calls = &calls,
                                   .common = { .context = &sim->bus[bus], .clock = &sim->clock },
                                   .bit_ns = sim->bus[bus].bit_ns };
}
