/* The bus's side of chips that are made of registers: a pointer to whole registers or a counter of
 * bytes over I2C, a first byte with bits of its own over SPI. What the registers hold and what
 * writing them does is the model's (get, put). */
#include "port/sim/bench.h"

/* The register at an address or, byte by byte, around it; null: there is none. */
static const struct pintle_sim_register *row_of(const struct pintle_sim_chip *chip,
                                                uint16_t address)
{
    const struct pintle_sim_map *map = chip->model->map;
    const struct pintle_sim_register *r = map->registers;
    while (r->access
           && !(r->address <= address && address < r->address + (map->words ? 1 : r->width))) {
        r++;
    }
    return r->access ? r : NULL;
}

/* Where byte `i` of a register belongs, in bits. */
static unsigned place(const struct pintle_sim_map *map, const struct pintle_sim_register *r,
                      unsigned i)
{
    return 8 * (map->low_first ? i : r->width - 1u - i);
}

uint32_t pintle_priv_sim_keeps(const struct pintle_sim_chip *chip, uint16_t address)
{
    const struct pintle_sim_map *map = chip->model->map;
    const struct pintle_sim_register *r = row_of(chip, address);
    if (!r || !(r->access & PINTLE_SIM_WRITES)) {
        return 0;
    }
    return map->words ? r->keeps : r->keeps >> place(map, r, address - r->address) & 0xff;
}

void pintle_priv_sim_fill(const struct pintle_sim_chip *chip, uint8_t bank, uint8_t *regs,
                          size_t size)
{
    const struct pintle_sim_map *map = chip->model->map;
    memset(regs, 0, size);
    for (const struct pintle_sim_register *r = map->registers; r->access; r++) {
        for (unsigned i = 0; r->address >> 8 == bank && i < r->width; i++) {
            regs[(r->address & 0xff) + i] = (uint8_t)(r->at_power_up >> place(map, r, i));
        }
    }
}

/* --- I2C --- */

static uint8_t width_of(const struct pintle_sim_chip *chip)
{
    const struct pintle_sim_register *r = row_of(chip, chip->front.reg);
    return r ? r->width : 2;
}

static void advance(struct pintle_sim_chip *chip)
{
    const struct pintle_sim_map *map = chip->model->map;
    if (!map->stays || chip->front.reg != map->stays) {
        chip->front.reg =
            (uint8_t)(map->last && chip->front.reg >= map->last ? 0 : chip->front.reg + 1);
    }
}

uint8_t pintle_priv_sim_front_start(struct pintle_sim_chip *chip, uint8_t reading)
{
    chip->model->catch_up(chip);
    chip->front.count = reading ? chip->front.count : 0;
    chip->front.sent = 0;
    return 1;
}

static void take_address(struct pintle_sim_chip *chip, uint8_t byte)
{
    uint8_t last = chip->model->map->last;
    chip->front.reg = (uint8_t)(last ? byte % (last + 1) : byte);
    chip->front.count = 1;
    chip->front.word = 0;
}

/* Of a whole register the last byte counts; more of them don't. */
static void take_of_word(struct pintle_sim_chip *chip, uint8_t byte)
{
    struct pintle_sim_front *f = &chip->front;
    uint8_t width = width_of(chip);
    if (f->count > width) {
        return;
    }
    if (chip->model->map->low_first) {
        f->word |= (uint32_t)byte << 8 * (f->count - 1u);
    } else {
        f->word = f->word << 8 | byte;
    }
    if (f->count == width) {
        chip->model->put(chip, f->reg, f->word);
    }
    f->count = (uint8_t)(f->count + (f->count <= width));
}

uint8_t pintle_priv_sim_front_write(struct pintle_sim_chip *chip, uint8_t byte)
{
    const struct pintle_sim_map *map = chip->model->map;
    if (chip->front.count == 0) {
        take_address(chip, byte);
    } else if (map->words) {
        take_of_word(chip, byte);
    } else {
        chip->model->put(chip, chip->front.reg, byte);
        chip->front.count = !map->pairs;
        advance(chip);
    }
    return 1;
}

uint8_t pintle_priv_sim_front_read(struct pintle_sim_chip *chip)
{
    struct pintle_sim_front *f = &chip->front;
    uint32_t value = chip->model->get(chip, f->reg);
    if (!chip->model->map->words) {
        advance(chip);
        return (uint8_t)value;
    }
    uint8_t width = width_of(chip);
    uint8_t byte = f->sent++ % width;
    return (uint8_t)(value >> 8 * (chip->model->map->low_first ? byte : width - 1 - byte));
}

void pintle_priv_sim_front_stop(struct pintle_sim_chip *chip)
{
    (void)chip;
}

/* --- SPI --- */

void pintle_priv_sim_front_select(struct pintle_sim_chip *chip, uint8_t on)
{
    chip->front = (struct pintle_sim_front){ 0 };
    chip->shown = PINTLE_SIM_SHOWS_NOTHING;
    if (on) {
        chip->model->catch_up(chip);
    }
}

/* A whole byte is in; without the burst bit, where there is one, the same register comes again. */
static void take_byte(struct pintle_sim_chip *chip, uint8_t byte)
{
    struct pintle_sim_front *f = &chip->front;
    const struct pintle_sim_map *map = chip->model->map;
    if (f->count == 0) {
        f->head = byte;
        f->reg = byte & (uint8_t) ~(map->read_bit | map->burst_bit);
        f->count = 1;
    } else {
        if (!(f->head & map->read_bit)) {
            chip->model->put(chip, f->reg, byte);
        }
        if (!map->burst_bit || (f->head & map->burst_bit)) {
            advance(chip);
        }
    }
    if (f->head & map->read_bit) {
        pintle_priv_sim_show(chip, &f->shifter, (uint8_t)chip->model->get(chip, f->reg));
    }
}

void pintle_priv_sim_front_clock(struct pintle_sim_chip *chip, uint8_t bit)
{
    struct pintle_sim_front *f = &chip->front;
    if (chip->model->seen && f->count > 0 && f->shifter.bits == 0
        && (f->head & chip->model->map->read_bit)) {
        chip->model->seen(chip, f->reg);
    }
    if (pintle_priv_sim_shift(chip, &f->shifter, bit)) {
        f->shifter.bits = 0;
        take_byte(chip, f->shifter.in);
    }
    if (!(f->head & chip->model->map->read_bit)) {
        chip->shown = PINTLE_SIM_SHOWS_NOTHING;
    }
}
