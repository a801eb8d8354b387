/* A chip's registers, behind the drivers' backs: what another master would do to them. */
#include "port/sim/bench.h"

/* --- I2C --- */

static void point(struct pintle_sim_chip *chip, uint16_t address)
{
    chip->model->start(chip, 0);
    if (chip->model->map->wide_address) {
        chip->model->write(chip, (uint8_t)(address >> 8));
    }
    chip->model->write(chip, (uint8_t)address);
}

static void i2c_read(struct pintle_sim_chip *chip, uint16_t address, uint8_t *to, uint8_t count)
{
    point(chip, address);
    uint8_t answers = chip->model->start(chip, 1);
    for (uint8_t i = 0; i < count; i++) {
        to[i] = answers ? chip->model->read(chip) : 0xff;
    }
    chip->model->stop(chip);
}

static void i2c_write(struct pintle_sim_chip *chip, uint16_t address, const uint8_t *from,
                      uint8_t count)
{
    point(chip, address);
    for (uint8_t i = 0; i < count; i++) {
        chip->model->write(chip, from[i]);
    }
    chip->model->stop(chip);
}

/* --- SPI --- */

static uint8_t exchange(struct pintle_sim_chip *chip, uint8_t out)
{
    uint8_t in = 0;
    for (uint8_t mask = 0x80; mask; mask >>= 1) {
        in = (uint8_t)(in << 1 | (chip->shown != PINTLE_SIM_SHOWS_0));
        chip->model->clock(chip, (out & mask) != 0);
    }
    return in;
}

static void spi_first(struct pintle_sim_chip *chip, uint16_t address, uint8_t bits, uint8_t count)
{
    const struct pintle_sim_map *map = chip->model->map;
    if (map->bank_reg && (uint8_t)address != map->bank_reg) {
        chip->model->select(chip, 1);
        (void)exchange(chip, map->bank_reg);
        (void)exchange(chip, (uint8_t)(address >> 8 << 4));
        chip->model->select(chip, 0);
    }
    chip->model->select(chip, 1);
    (void)exchange(chip, (uint8_t)(address | bits | (count > 1 ? map->burst_bit : 0)));
}

static void spi_end(struct pintle_sim_chip *chip)
{
    chip->model->select(chip, 0);
    chip->shown = PINTLE_SIM_SHOWS_NOTHING;
}

static void spi_read(struct pintle_sim_chip *chip, uint16_t address, uint8_t *to, uint8_t count)
{
    spi_first(chip, address, chip->model->map->read_bit, count);
    for (uint8_t i = 0; i < count; i++) {
        to[i] = exchange(chip, 0);
    }
    spi_end(chip);
}

static void spi_write(struct pintle_sim_chip *chip, uint16_t address, const uint8_t *from,
                      uint8_t count)
{
    spi_first(chip, address, 0, count);
    for (uint8_t i = 0; i < count; i++) {
        (void)exchange(chip, from[i]);
    }
    spi_end(chip);
}

/* --- 1-Wire: the scratchpad's bytes, of which 2 to 4 are written together --- */

static void say(struct pintle_sim_chip *chip, uint8_t byte)
{
    for (uint8_t bit = 0; bit < 8; bit++) {
        pintle_priv_sim_rom_take(chip, byte >> bit & 1);
    }
}

static void call(struct pintle_sim_chip *chip, uint8_t command)
{
    pintle_priv_sim_rom_reset(chip);
    say(chip, 0xcc);
    say(chip, command);
}

static void onewire_read(struct pintle_sim_chip *chip, uint16_t address, uint8_t *to, uint8_t count)
{
    call(chip, 0xbe);
    for (unsigned bit = 0; bit < 8u * (address + count); bit++) {
        uint8_t *byte = bit / 8 < address ? NULL : &to[bit / 8 - address];
        uint8_t sent = pintle_priv_sim_rom_give(chip);
        if (byte) {
            *byte = (uint8_t)(*byte >> 1 | sent << 7);
        }
    }
    pintle_priv_sim_rom_reset(chip);
}

static void onewire_write(struct pintle_sim_chip *chip, uint16_t address, const uint8_t *from,
                          uint8_t count)
{
    uint8_t pad[3] = { 0 };
    if (count == 0) {
        call(chip, (uint8_t)address);
        return;
    }
    onewire_read(chip, 2, pad, 3);
    memcpy(pad + (address - 2), from, count);
    call(chip, 0x4e);
    for (uint8_t i = 0; i < 3; i++) {
        say(chip, pad[i]);
    }
    pintle_priv_sim_rom_reset(chip);
}

/* --- all of them --- */

static void read_bytes(struct pintle_sim_chip *chip, uint16_t address, uint8_t *to, uint8_t count)
{
    static void (*const readers[])(struct pintle_sim_chip *, uint16_t, uint8_t *,
                                   uint8_t) = { i2c_read, spi_read, onewire_read };
    readers[chip->model->kind](chip, address, to, count);
}

/* Where byte `i` of `width` belongs, in bits. */
static unsigned place(const struct pintle_sim_chip *chip, unsigned i, unsigned width)
{
    return 8 * (chip->model->map->low_first ? i : width - 1 - i);
}

uint32_t pintle_sim_peek(struct pintle_sim_chip *chip, uint16_t address, uint8_t width)
{
    struct pintle_sim_chip before = *chip;
    uint64_t seed = chip->sim->seed;
    uint8_t bytes[4] = { 0 };
    uint32_t value = 0;
    read_bytes(chip, address, bytes, width);
    *chip = before;
    chip->sim->seed = seed;
    for (unsigned i = 0; i < width; i++) {
        value |= (uint32_t)bytes[i] << place(chip, i, width);
    }
    return value;
}

void pintle_sim_poke(struct pintle_sim_chip *chip, uint16_t address, uint8_t width, uint32_t value)
{
    static void (*const writers[])(struct pintle_sim_chip *, uint16_t, const uint8_t *,
                                   uint8_t) = { i2c_write, spi_write, onewire_write };
    uint8_t bytes[4];
    for (unsigned i = 0; i < width; i++) {
        bytes[i] = (uint8_t)(value >> place(chip, i, width));
    }
    writers[chip->model->kind](chip, address, bytes, width);
}

/* One of the registers with any of `access` and none of `but`; null: there is none. */
static const struct pintle_sim_register *any(struct pintle_sim_chip *chip, uint8_t access,
                                             uint8_t but)
{
    const struct pintle_sim_map *map = chip->model->map;
    const struct pintle_sim_register *found = NULL;
    unsigned count = 0;
    for (const struct pintle_sim_register *r = map ? map->registers : NULL; r && r->access; r++) {
        if ((r->access & access) && !(r->access & but)
            && pintle_priv_sim_random(chip->sim) % ++count == 0) {
            found = r;
        }
    }
    return found;
}

static uint32_t anything(struct pintle_sim *sim)
{
    uint64_t random = pintle_priv_sim_random(sim);
    return random >> 62 ? (uint32_t)random : random & 1 ? UINT32_MAX : 0;
}

void pintle_sim_scramble(struct pintle_sim_chip *chip)
{
    for (int i = 0; i < 24; i++) {
        const struct pintle_sim_register *r = any(chip, PINTLE_SIM_WRITES, PINTLE_SIM_TRUTH);
        if (r && (r->width > 0 || i % 8 == 7)) {
            pintle_sim_poke(chip, r->address, r->width, anything(chip->sim) & ~r->ends);
        }
    }
}

/* Every other time; not in the middle of what a 1-Wire master begun with a reset. */
void pintle_priv_sim_meddle(struct pintle_sim *sim, uint16_t bus, enum pintle_sim_kind kind)
{
    struct pintle_sim_chip *chip = sim->faults ? pintle_priv_sim_first(sim, bus, kind) : NULL;
    for (; chip; chip = pintle_priv_sim_next(chip)) {
        if (pintle_priv_sim_faulty(chip, PINTLE_SIM_MEDDLED) && pintle_priv_sim_hears(chip)
            && pintle_priv_sim_random(sim) % 2) {
            const struct pintle_sim_register *r = any(chip, PINTLE_SIM_READS, PINTLE_SIM_CLEARS);
            uint8_t bytes[4];
            if (r) {
                read_bytes(chip, r->address, bytes, r->width);
            }
        }
    }
}
