/* A simulated DS18B20, from datasheet 19-7487. */
#include <math.h>

#include "port/sim/bench.h"

enum { NOTHING, READING, WRITING, TELLING_BUSY, TELLING_POWER };

struct ds18b20 {
    uint8_t pad[9];
    uint8_t kept[3]; /* EEPROM: TH, TL, configuration */
    uint8_t doing;
    uint8_t at; /* bit read next, or byte written next */
    uint8_t converting;
    uint8_t fed;       /* the line is driven hard for this conversion */
    uint64_t began_us; /* the conversion */
};
SIM_STATE(ds18b20)

#define RW (PINTLE_SIM_READS | PINTLE_SIM_WRITES)

/* Figure 9; and the function commands that need no more than themselves. */
static const struct pintle_sim_register registers[] = {
    { 0, 2, PINTLE_SIM_READS, 0x0550, 0, 0 },
    { 2, 1, RW, 0x4b, 0xff, 0 },
    { 3, 1, RW, 0x46, 0xff, 0 },
    { 4, 1, RW, 0x7f, 0x60, 0 },
    { 8, 1, PINTLE_SIM_READS, 0x1c, 0, 0 },
    { 0x44, 0, PINTLE_SIM_WRITES, 0, 0, 0 },
    { 0x48, 0, PINTLE_SIM_WRITES, 0, 0, 0 },
    { 0xb8, 0, PINTLE_SIM_WRITES, 0, 0, 0 },
    { 0 },
};

/* Table 2. How it is powered is a matter of its wires. */
static const struct pintle_sim_choice choices[] = {
    { "resolution", "9-bit", 4, 0x60, 0x00 },
    { "resolution", "10-bit", 4, 0x60, 0x20 },
    { "resolution", "11-bit", 4, 0x60, 0x40 },
    { "resolution", "12-bit", 4, 0x60, 0x60 },
    { "power", "external", 4, 0, 0 },
    { "power", "parasite", 4, 0, 0 },
    { 0 },
};

static const struct pintle_sim_map map = { .registers = registers,
                                           .choices = choices,
                                           .low_first = 1 };

/* The scratchpad as it comes up: +85 degC, and what the EEPROM holds (figure 9). */
static void wake(struct pintle_sim_chip *chip)
{
    struct ds18b20 *s = self(chip);
    const uint8_t pad[9] = { 0x50, 0x05, s->kept[0], s->kept[1], s->kept[2], 0xff, 0x0c, 0x10, 0 };
    memcpy(s->pad, pad, sizeof pad);
    s->pad[8] = pintle_priv_sim_rom_crc(s->pad, 8);
    s->converting = 0;
    s->doing = NOTHING;
}

static void power_up(struct pintle_sim_chip *chip)
{
    struct ds18b20 *s = self(chip);
    if (s->kept[2] == 0) { /* fresh from the factory */
        s->kept[0] = 0x4b;
        s->kept[1] = 0x46;
        s->kept[2] = 0x7f;
    }
    wake(chip);
}

/* Table 2. */
static uint32_t longest_us(const struct pintle_sim_chip *chip)
{
    return (uint32_t)93750 << (state(chip)->pad[4] >> 5 & 3);
}

static uint32_t settles_us(const struct pintle_sim_chip *chip)
{
    (void)chip;
    return 0;
}

static uint64_t conversion_us(const struct pintle_sim_chip *chip)
{
    return pintle_priv_sim_conversion(chip, 0.7 * longest_us(chip), longest_us(chip));
}

/* Bits below the resolution are undefined (table 2). */
static void convert(struct pintle_sim_chip *chip)
{
    struct ds18b20 *s = self(chip);
    int unused = 3 - (s->pad[4] >> 5 & 3);
    double degrees = fmin(fmax(pintle_sim_sense(chip, 0), -55), 125);
    int counts = (int)floor(degrees * 16 / (1 << unused) + 0.5) * (1 << unused);
    counts += (int)(pintle_priv_sim_random(chip->sim) % (1u << unused));
    s->pad[0] = (uint8_t)counts;
    s->pad[1] = (uint8_t)(counts >> 8);
    s->pad[6] = (uint8_t)(0x10 - (counts & 15));
    s->pad[8] = pintle_priv_sim_rom_crc(s->pad, 8);
}

/* A chip that lives on the line and isn't driven hard while it converts loses its supply. */
static void catch_up(struct pintle_sim_chip *chip)
{
    struct ds18b20 *s = self(chip);
    if (!s->converting || chip->sim->now_us - s->began_us < conversion_us(chip)) {
        return;
    }
    s->converting = 0;
    if (chip->rom.parasite && !s->fed) {
        wake(chip);
    } else {
        convert(chip);
    }
}

static void powered(struct pintle_sim_chip *chip, uint8_t hard)
{
    struct ds18b20 *s = self(chip);
    catch_up(chip);
    if (s->converting) {
        /* section "powering": within 10 us of the command; a slot may be still under way */
        s->fed = hard && chip->sim->now_us - s->began_us < 100;
    }
}

static void addressed(struct pintle_sim_chip *chip)
{
    catch_up(chip);
    self(chip)->doing = NOTHING;
    self(chip)->at = 0;
}

static void tell(struct pintle_sim_chip *chip, uint8_t what)
{
    self(chip)->doing = what;
    self(chip)->at = 0;
    chip->rom.giving = 1;
}

static void command(struct pintle_sim_chip *chip, uint8_t code)
{
    struct ds18b20 *s = self(chip);
    switch (code) {
    case 0x44:
        s->converting = 1;
        s->fed = 0;
        s->began_us = chip->sim->now_us;
        tell(chip, TELLING_BUSY);
        break;
    case 0xbe:
        tell(chip, READING);
        break;
    case 0x4e:
        s->doing = WRITING;
        s->at = 0;
        break;
    case 0x48:
        memcpy(s->kept, s->pad + 2, 3);
        break;
    case 0xb8:
        memcpy(s->pad + 2, s->kept, 3);
        s->pad[8] = pintle_priv_sim_rom_crc(s->pad, 8);
        break;
    case 0xb4:
        tell(chip, TELLING_POWER);
        break;
    default:
        break;
    }
}

static void take(struct pintle_sim_chip *chip, uint8_t byte)
{
    struct ds18b20 *s = self(chip);
    catch_up(chip);
    if (s->doing != WRITING) {
        command(chip, byte);
    } else if (s->at < 3) {
        s->pad[2 + s->at] = s->at == 2 ? (uint8_t)((byte & 0x60) | 0x1f) : byte;
        s->at++;
        s->pad[8] = pintle_priv_sim_rom_crc(s->pad, 8);
    }
}

static uint8_t give(struct pintle_sim_chip *chip)
{
    struct ds18b20 *s = self(chip);
    catch_up(chip);
    if (s->doing == TELLING_BUSY) {
        return chip->rom.parasite || !s->converting;
    }
    if (s->doing == TELLING_POWER) {
        return !chip->rom.parasite;
    }
    uint8_t bit = 1;
    if (s->at < 72) {
        bit = s->pad[s->at / 8] >> s->at % 8 & 1;
        s->at++;
    }
    return bit;
}

static int whole(uint8_t byte)
{
    return byte < 128 ? byte : byte - 256;
}

/* After the last conversion: at or beyond a limit, whole degrees. */
static uint8_t alarm(struct pintle_sim_chip *chip)
{
    struct ds18b20 *s = self(chip);
    catch_up(chip);
    int degrees = whole((uint8_t)(s->pad[1] << 4 | s->pad[0] >> 4));
    return degrees >= whole(s->pad[2]) || degrees <= whole(s->pad[3]);
}

const struct pintle_sim_model pintle_twin_ds18b20 = {
    .name = "DS18B20",
    .kind = PINTLE_SIM_ONEWIRE,
    .inputs = { "temperature" },
    .errors = { 0.35 },
    .noises = { 0.02 },
    .power_up = power_up,
    .map = &map,
    .longest_us = longest_us,
    .settles_us = settles_us,
    .family = 0x28,
    .addressed = addressed,
    .take = take,
    .give = give,
    .alarm = alarm,
    .powered = powered,
};
