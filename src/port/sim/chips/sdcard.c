/* A simulated SD card, from the Physical Layer Simplified Specification 6.00 (SPI mode: section 7,
 * registers: section 5). Specimens of odd serial numbers count blocks and are large, the others
 * count bytes. Blocks that were written lie in its memory; any other holds what its number makes of
 * it. */
#include "port/sim/bench.h"

#define KEPT 8u /* blocks that can be written */
#define BLOCK 512u
#define NCR 2 /* bytes before an answer: 0 to 8 */

enum { SD, SPI }; /* what it speaks */
enum { IDLE_R1 = 1, ILLEGAL = 4, SUM = 8, ADDRESS = 32, PARAMETER = 64 };
enum { TAKES_NOTHING, TAKES_TOKEN, TAKES_BLOCK };

struct sdcard {
    struct pintle_sim_shifter shifter;
    uint32_t clocks; /* since power-up, while nobody selects it */
    uint8_t speaks, idle, checks, app;
    uint8_t v1, large;
    uint8_t frame[6], got;
    uint8_t out[24]; /* what it sends next; then a block where there is one, then its busy time */
    uint8_t out_count, out_at;
    uint8_t sends_block, takes;
    uint16_t at; /* in the block */
    uint16_t sum;
    uint32_t block;
    uint64_t ready_us;   /* the end of its starting up */
    uint64_t data_us;    /* no sooner comes a block */
    uint64_t busy_until; /* zeros */
    uint8_t csd[16], cid[16];
};
/* Its memory: of each kept block the number plus one, then the bytes; and one more for what is
 * being written. */
struct kept {
    uint8_t number[4];
    uint8_t bytes[BLOCK];
};

SIM_STATE(sdcard)

static struct kept *kept(const struct pintle_sim_chip *chip, unsigned i)
{
    return (struct kept *)(void *)(chip->memory + i * sizeof(struct kept));
}

/* The block that it is, plus one; 0: none. */
static uint32_t number_of(const struct kept *room)
{
    uint32_t number;
    memcpy(&number, room->number, sizeof number);
    return number;
}

static uint8_t crc7(const uint8_t *bytes, unsigned count)
{
    uint8_t crc = 0;
    for (unsigned bit = 0; bit < 8 * count; bit++) {
        uint8_t in = bytes[bit / 8] >> (7 - bit % 8) & 1;
        uint8_t out = crc >> 6 & 1;
        crc = (uint8_t)((crc << 1 & 0x7f) ^ (in ^ out ? 0x09 : 0));
    }
    return crc;
}

static uint16_t crc16(uint16_t crc, uint8_t byte)
{
    for (int bit = 7; bit >= 0; bit--) {
        uint16_t out = (uint16_t)(crc >> 15 ^ (byte >> bit & 1));
        crc = (uint16_t)(crc << 1 ^ (out ? 0x1021 : 0));
    }
    return crc;
}

/* --- registers --- */

static void put_bits(uint8_t *reg, unsigned from, unsigned count, uint32_t value)
{
    for (unsigned i = 0; i < count; i++) {
        unsigned bit = from + i;
        reg[15 - bit / 8] |= (uint8_t)((value >> i & 1) << bit % 8);
    }
}

/* Tables 5-4 and 5-16: 8 GiB, or 64 MiB. */
static void make_csd(struct sdcard *s)
{
    memset(s->csd, 0, sizeof s->csd);
    put_bits(s->csd, 126, 2, s->large);
    put_bits(s->csd, 96, 8, 0x32);   /* 25 MHz */
    put_bits(s->csd, 84, 12, 0x5b5); /* command classes */
    put_bits(s->csd, 80, 4, 9);      /* READ_BL_LEN: 512 */
    if (s->large) {
        put_bits(s->csd, 48, 22, 16383);
    } else {
        put_bits(s->csd, 62, 12, 1023);
        put_bits(s->csd, 47, 3, 5); /* C_SIZE_MULT: 128 */
    }
    s->csd[15] = (uint8_t)(crc7(s->csd, 15) << 1 | 1);
}

/* Section 5.2. */
static void make_cid(struct pintle_sim_chip *chip)
{
    struct sdcard *s = self(chip);
    static const uint8_t front[] = { 0x77, 'S', 'L', 'L', 'O', 'G', 'B', 'K', 0x10 };
    uint64_t serial = pintle_priv_sim_random(chip->sim);
    memcpy(s->cid, front, sizeof front);
    for (unsigned i = 0; i < 4; i++) {
        s->cid[9 + i] = (uint8_t)(serial >> 8 * i);
    }
    s->cid[13] = 0x01; /* June 2025 */
    s->cid[14] = 0x96;
    s->cid[15] = (uint8_t)(crc7(s->cid, 15) << 1 | 1);
}

static uint32_t blocks(const struct sdcard *s)
{
    return s->large ? 16384u * 1024 : 131072;
}

/* --- what it holds --- */

static uint8_t made_of(uint32_t number, uint16_t at)
{
    return (uint8_t)(number * 2654435761u >> 24 ^ at);
}

static uint8_t byte_at(const struct pintle_sim_chip *chip, uint32_t number, uint16_t at)
{
    for (unsigned i = 0; i < KEPT; i++) {
        if (number_of(kept(chip, i)) == number + 1) {
            return kept(chip, i)->bytes[at];
        }
    }
    return made_of(number, at);
}

/* The room for a block: its own, a free one, or the one of another block, which is lost. */
static struct kept *room_for(struct pintle_sim_chip *chip, uint32_t number)
{
    struct kept *room = kept(chip, number % KEPT);
    for (unsigned i = KEPT; i > 0; i--) {
        room = number_of(kept(chip, i - 1)) == 0 ? kept(chip, i - 1) : room;
    }
    for (unsigned i = 0; i < KEPT; i++) {
        room = number_of(kept(chip, i)) == number + 1 ? kept(chip, i) : room;
    }
    return room;
}

/* --- power --- */

static void power_up(struct pintle_sim_chip *chip)
{
    struct sdcard *s = self(chip);
    struct sdcard before = *s;
    uint8_t fresh = s->csd[15] == 0;
    memset(s, 0, sizeof *s);
    memcpy(s->cid, before.cid, sizeof s->cid);
    if (fresh) {
        memset(chip->memory, 0, chip->model->memory);
        make_cid(chip);
    }
    s->large = s->cid[9] & 1;
    s->v1 = !s->large && (s->cid[9] & 2);
    make_csd(s);
}

/* What was being written is no whole block. */
static void power_down(struct pintle_sim_chip *chip)
{
    struct sdcard *s = self(chip);
    if (s->busy_until > chip->sim->now_us) {
        struct kept *room = room_for(chip, s->block);
        for (unsigned i = (unsigned)(pintle_priv_sim_random(chip->sim) % BLOCK); i < BLOCK; i++) {
            room->bytes[i] = (uint8_t)pintle_priv_sim_random(chip->sim);
        }
    }
}

static uint32_t at_once(const struct pintle_sim_chip *chip)
{
    (void)chip;
    return 0;
}

/* --- commands --- */

static void say(struct sdcard *s, const uint8_t *bytes, unsigned count)
{
    memset(s->out, 0xff, NCR);
    memcpy(s->out + NCR, bytes, count);
    s->out_count = (uint8_t)(NCR + count);
    s->out_at = 0;
    s->sends_block = 0;
}

static void say_r1(struct sdcard *s, uint8_t more)
{
    uint8_t r1 = (uint8_t)((s->idle ? IDLE_R1 : 0) | more);
    say(s, &r1, 1);
}

/* A register as data: token, 16 bytes, checksum. */
static void say_register(struct sdcard *s, const uint8_t *reg)
{
    uint8_t out[21] = { 0, 0xff, 0xfe };
    uint16_t crc = 0;
    memcpy(out + 3, reg, 16);
    for (unsigned i = 0; i < 16; i++) {
        crc = crc16(crc, reg[i]);
    }
    out[19] = (uint8_t)(crc >> 8);
    out[20] = (uint8_t)crc;
    say(s, out, sizeof out);
}

/* The block that an argument means; 0: there is none. */
static uint8_t find_block(struct sdcard *s, uint32_t argument)
{
    if (!s->large && argument % BLOCK) {
        say_r1(s, ADDRESS);
        return 0;
    }
    s->block = s->large ? argument : argument / BLOCK;
    if (s->block >= blocks(s)) {
        say_r1(s, PARAMETER);
        return 0;
    }
    say_r1(s, 0);
    return 1;
}

static void operating_conditions(struct pintle_sim_chip *chip, uint32_t argument)
{
    struct sdcard *s = self(chip);
    if (s->ready_us == 0) { /* section 4.2.3: up to a second */
        s->ready_us = chip->sim->now_us + pintle_priv_sim_conversion(chip, 20000, 900000);
    }
    uint8_t knows_large = argument >> 30 & 1;
    if (chip->sim->now_us >= s->ready_us && (knows_large || !s->large)) {
        s->idle = 0;
    }
    say_r1(s, 0);
}

/* Table 7-3. While idle only some are legal. */
static void ready_command(struct pintle_sim_chip *chip, uint8_t number, uint32_t argument)
{
    struct sdcard *s = self(chip);
    if (s->idle) {
        say_r1(s, ILLEGAL);
        return;
    }
    switch (number) {
    case 9:
        say_register(s, s->csd);
        break;
    case 10:
        say_register(s, s->cid);
        break;
    case 16:
        say_r1(s, s->large || argument == BLOCK ? 0 : PARAMETER);
        break;
    case 17:
        if (find_block(s, argument)) {
            s->sends_block = 1;
            s->at = 0;
            s->data_us = chip->sim->now_us + pintle_priv_sim_conversion(chip, 100, 1000);
        }
        break;
    case 24:
        s->takes = find_block(s, argument) ? TAKES_TOKEN : TAKES_NOTHING;
        break;
    default:
        say_r1(s, ILLEGAL);
        break;
    }
}

static void any_command(struct pintle_sim_chip *chip, uint8_t number, uint32_t argument)
{
    struct sdcard *s = self(chip);
    uint8_t out[5] = { IDLE_R1, 0, 0, (uint8_t)(argument >> 8 & 15), (uint8_t)argument };
    switch (number) {
    case 0:
        s->idle = 1;
        s->ready_us = 0;
        s->checks = 0;
        say_r1(s, 0);
        break;
    case 8:
        if (s->v1) {
            say_r1(s, ILLEGAL);
        } else {
            out[0] = s->idle ? IDLE_R1 : 0;
            say(s, out, 5);
        }
        break;
    case 55:
        s->app = 1;
        say_r1(s, 0);
        break;
    case 59:
        s->checks = argument & 1;
        say_r1(s, 0);
        break;
    default:
        ready_command(chip, number, argument);
        break;
    }
}

/* CMD0 and CMD8 always need their checksum. CMD0 with the select line low is what makes it speak
 * SPI, after 74 clocks of power. */
static void obey(struct pintle_sim_chip *chip)
{
    struct sdcard *s = self(chip);
    uint8_t number = s->frame[0] & 0x3f;
    uint8_t right = s->frame[5] == (uint8_t)(crc7(s->frame, 5) << 1 | 1);
    uint8_t app = s->app;
    uint32_t argument = (uint32_t)s->frame[1] << 24 | (uint32_t)s->frame[2] << 16
                        | (uint32_t)s->frame[3] << 8 | s->frame[4];
    s->app = 0;
    if (s->speaks != SPI) {
        if (s->clocks < 74 || number != 0 || !right) {
            return;
        }
        s->speaks = SPI;
    }
    if (!right && (s->checks || number == 0 || number == 8)) {
        say_r1(s, SUM);
    } else if (app && number == 41) {
        operating_conditions(chip, argument);
    } else { /* section 4.3.9: what is no application's command is an ordinary one */
        any_command(chip, number, argument);
    }
}

/* --- data --- */

static uint8_t next_of_block(struct pintle_sim_chip *chip)
{
    struct sdcard *s = self(chip);
    if (chip->sim->now_us < s->data_us && s->at == 0) {
        return 0xff;
    }
    uint16_t at = s->at++;
    if (at == 0) {
        s->sum = 0;
        return 0xfe;
    }
    if (at <= BLOCK) {
        uint8_t byte = byte_at(chip, s->block, (uint16_t)(at - 1));
        s->sum = crc16(s->sum, byte);
        return byte;
    }
    s->sends_block = at == BLOCK + 1;
    return (uint8_t)(at == BLOCK + 1 ? s->sum >> 8 : s->sum);
}

static uint8_t next_byte(struct pintle_sim_chip *chip)
{
    struct sdcard *s = self(chip);
    if (s->out_at < s->out_count) {
        return s->out[s->out_at++];
    }
    if (s->sends_block) {
        return next_of_block(chip);
    }
    return chip->sim->now_us < s->busy_until ? 0x00 : 0xff;
}

/* Section 7.3.3.1: the answer to a block, then busy. */
static void end_block(struct pintle_sim_chip *chip)
{
    struct sdcard *s = self(chip);
    struct kept *coming = kept(chip, KEPT);
    uint8_t right = !s->checks || s->sum == 0;
    s->out[0] = right ? 0xe5 : 0xeb;
    s->out_count = 1;
    s->out_at = 0;
    s->takes = TAKES_NOTHING;
    if (right) {
        struct kept *room = room_for(chip, s->block);
        uint32_t number = s->block + 1;
        memcpy(room->number, &number, sizeof number);
        memcpy(room->bytes, coming->bytes, BLOCK);
        s->busy_until = chip->sim->now_us + pintle_priv_sim_conversion(chip, 1000, 240000);
    }
}

static void take_of_block(struct pintle_sim_chip *chip, uint8_t byte)
{
    struct sdcard *s = self(chip);
    if (s->takes == TAKES_TOKEN) {
        if (byte == 0xfe) {
            s->takes = TAKES_BLOCK;
            s->at = 0;
            s->sum = 0;
        }
        return;
    }
    if (s->at < BLOCK) {
        kept(chip, KEPT)->bytes[s->at] = byte;
    }
    s->sum = crc16(s->sum, byte); /* over its own sum it is 0 */
    if (++s->at == BLOCK + 2) {
        end_block(chip);
    }
}

/* A command begins with 01; ones in between are nothing. */
static void take_byte(struct pintle_sim_chip *chip, uint8_t byte)
{
    struct sdcard *s = self(chip);
    if (s->takes != TAKES_NOTHING && s->out_at >= s->out_count) {
        take_of_block(chip, byte);
        return;
    }
    if (s->got == 0 && (byte & 0xc0) != 0x40) {
        return;
    }
    s->frame[s->got++] = byte;
    if (s->got == 6) {
        s->got = 0;
        obey(chip);
    }
}

static void select(struct pintle_sim_chip *chip, uint8_t on)
{
    struct sdcard *s = self(chip);
    s->shifter = (struct pintle_sim_shifter){ 0 };
    s->got = 0;
    chip->shown = PINTLE_SIM_SHOWS_NOTHING;
    if (on && s->speaks == SPI) {
        pintle_priv_sim_show(chip, &s->shifter, next_byte(chip));
    }
}

static void clock(struct pintle_sim_chip *chip, uint8_t bit)
{
    struct sdcard *s = self(chip);
    uint8_t whole = pintle_priv_sim_shift(chip, &s->shifter, bit);
    if (whole) {
        take_byte(chip, s->shifter.in);
        pintle_priv_sim_show(chip, &s->shifter, s->speaks == SPI ? next_byte(chip) : 0xff);
    }
    if (s->speaks != SPI) {
        chip->shown = PINTLE_SIM_SHOWS_NOTHING;
    }
}

static void idle(struct pintle_sim_chip *chip, uint32_t clocks)
{
    struct sdcard *s = self(chip);
    s->clocks = s->clocks > UINT32_MAX - clocks ? UINT32_MAX : s->clocks + clocks;
}

const struct pintle_sim_model pintle_twin_sdcard = {
    .name = "SDCARD",
    .kind = PINTLE_SIM_SPI,
    .power_up = power_up,
    .power_down = power_down,
    .longest_us = at_once,
    .settles_us = at_once,
    .memory = (KEPT + 1) * sizeof(struct kept),
    .modes = 1 << 0 | 1 << 3,
    .top_hz = 25000000,
    .select = select,
    .clock = clock,
    .idle = idle,
};
