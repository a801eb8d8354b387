/* What every 1-Wire chip does before a command of its own reaches it (19-7487, "ROM commands"). */
#include "port/sim/bench.h"

enum { ASLEEP = PINTLE_SIM_ROM_ASLEEP, COMMAND, MATCHING, SENDING_CODE, SEARCHING, ADDRESSED };

uint8_t pintle_priv_sim_rom_crc(const uint8_t *bytes, int count)
{
    unsigned crc = 0;
    for (int bit = 0; bit < 8 * count; bit++) {
        unsigned in = bytes[bit / 8] >> bit % 8 & 1;
        unsigned out = (crc ^ in) & 1;
        crc = (crc >> 1) ^ (out ? 0x8c : 0); /* stages 4 and 5 from the right take it in */
    }
    return (uint8_t)crc;
}

void pintle_priv_sim_rom_reset(struct pintle_sim_chip *chip)
{
    chip->rom.state = COMMAND;
    chip->rom.bits = 0;
    chip->rom.byte = 0;
    chip->rom.giving = 0;
}

static uint8_t code_bit(const struct pintle_sim_chip *chip, uint8_t bit)
{
    return chip->rom.code[bit / 8] >> bit % 8 & 1;
}

uint8_t pintle_priv_sim_rom_sends(const struct pintle_sim_chip *chip)
{
    const struct pintle_sim_rom *rom = &chip->rom;
    return rom->state == SENDING_CODE || (rom->state == SEARCHING && rom->bits % 3 != 2)
           || (rom->state == ADDRESSED && rom->giving);
}

uint8_t pintle_priv_sim_rom_give(struct pintle_sim_chip *chip)
{
    struct pintle_sim_rom *rom = &chip->rom;
    uint8_t bit = 1;
    if (rom->state == ADDRESSED) {
        return chip->model->give(chip);
    }
    if (rom->state == SEARCHING) {
        bit = code_bit(chip, rom->bits / 3) ^ (rom->bits % 3 == 1);
        rom->bits++;
    } else {
        bit = code_bit(chip, rom->bits++);
        rom->state = rom->bits == 64 ? ADDRESSED : rom->state;
    }
    return bit;
}

static void hear_command(struct pintle_sim_chip *chip, uint8_t command)
{
    struct pintle_sim_rom *rom = &chip->rom;
    rom->bits = 0;
    switch (command) {
    case 0x33:
        rom->state = SENDING_CODE;
        break;
    case 0x55:
        rom->state = MATCHING;
        break;
    case 0xcc:
        rom->state = ADDRESSED;
        break;
    case 0xf0:
        rom->state = SEARCHING;
        break;
    case 0xec:
        rom->state = chip->model->alarm(chip) ? SEARCHING : ASLEEP;
        break;
    default:
        rom->state = ASLEEP;
        break;
    }
    if (rom->state == ADDRESSED) {
        chip->model->addressed(chip);
    }
}

/* The master's bit in a search says which chips go on. */
static void hear_way(struct pintle_sim_chip *chip, uint8_t bit)
{
    struct pintle_sim_rom *rom = &chip->rom;
    uint8_t mine = code_bit(chip, rom->bits / 3);
    rom->bits++;
    if (bit != mine) {
        rom->state = ASLEEP;
    } else if (rom->bits == 192) {
        rom->state = ADDRESSED;
        chip->model->addressed(chip);
    }
}

static void hear_code(struct pintle_sim_chip *chip, uint8_t bit)
{
    struct pintle_sim_rom *rom = &chip->rom;
    if (bit != code_bit(chip, rom->bits)) {
        rom->state = ASLEEP;
    } else if (++rom->bits == 64) {
        rom->state = ADDRESSED;
        rom->bits = 0;
        chip->model->addressed(chip);
    }
}

void pintle_priv_sim_rom_take(struct pintle_sim_chip *chip, uint8_t bit)
{
    struct pintle_sim_rom *rom = &chip->rom;
    if (rom->state == SEARCHING) {
        hear_way(chip, bit);
    } else if (rom->state == MATCHING) {
        hear_code(chip, bit);
    } else if (rom->state == COMMAND || rom->state == ADDRESSED) {
        rom->byte = (uint8_t)(rom->byte >> 1 | bit << 7);
        if (++rom->bits == 8) {
            rom->bits = 0;
            if (rom->state == COMMAND) {
                hear_command(chip, rom->byte);
            } else {
                pintle_priv_sim_onewire_take(chip, rom->byte);
            }
        }
    }
}

void pintle_priv_sim_rom_strong(struct pintle_sim *sim, uint16_t bus, uint8_t on)
{
    if (sim->bus[bus].strong == on) {
        return;
    }
    sim->bus[bus].strong = on;
    struct pintle_sim_chip *chip = pintle_priv_sim_first(sim, bus, PINTLE_SIM_ONEWIRE);
    for (; chip; chip = pintle_priv_sim_next(chip)) {
        if (chip->present) {
            chip->model->powered(chip, on);
        }
    }
}
