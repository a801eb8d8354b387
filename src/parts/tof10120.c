/* TOF10120, its manual, version 1.2: text commands at 9600 baud, answers in lines; registers of two
 * bytes over I2C. */
#include "pintle/parts/tof10120.h"

/* What commands and answers begin with. */
#define ASK 0x7236         /* "r6": the distance */
#define ANSWER 0x4c3d      /* "L=" */
#define OFFSET 0x7331      /* "s1": it is added to each distance */
#define MODE 0x7333        /* "s3" */
#define DONE 0x6f6b        /* "ok" */
#define HASH 0x23          /* what ends a command */
#define NOTHING 0x2d3023   /* "-0#" */
#define SOMETHING 0x2d0023 /* "-", the setting's digit, "#" */

#define FILTERED_REG 0x04

PINTLE_OPTIONS(modes, PINTLE_TOF10120_MODE_OPTIONS);
static const struct pintle_setting settings[] PINTLE_TABLE = {
    [PINTLE_TOF10120_MODE] = { MODE, 8, 2, PINTLE_TOF10120_FILTERED, modes, NULL },
};

static const struct pintle_step identity[] PINTLE_TABLE = {
    PINTLE_WRITE(ASK, 1, HASH),
    PINTLE_EXPECT(ANSWER, 2, 0xffff, ANSWER),
    PINTLE_END(),
};

static const struct pintle_step setup[] PINTLE_TABLE = {
    PINTLE_WRITE_PLAIN(OFFSET, 3, NOTHING),
    PINTLE_EXPECT(DONE, 2, 0xffff, DONE),
    PINTLE_WRITE_LOOSE(MODE, 3, SOMETHING),
    PINTLE_EXPECT(DONE, 2, 0xffff, DONE),
    PINTLE_END(),
};

static const struct pintle_step measure[] PINTLE_TABLE = {
    PINTLE_WRITE(ASK, 1, HASH),
    PINTLE_READ(ANSWER, 12),
    PINTLE_END(),
};

/* Out of its reach it says 2000. */
#define FAR 2000
#define REACH 1.8000001f /* what 1800 x 0.001 is */
static const struct pintle_mark prefix[] PINTLE_TABLE = { PINTLE_UNLESS(-2, 0xff, 'L', BUS),
                                                          PINTLE_UNLESS(-1, 0xff, '=', BUS),
                                                          PINTLE_MARKS_END() };
static const struct pintle_linear said PINTLE_TABLE = { .bytes = 4,
                                                        .flags = PINTLE_LINEAR_SIGNED,
                                                        .scale = 0.001f,
                                                        .lowest = INT32_MIN,
                                                        .highest = FAR,
                                                        .marks = prefix };
static const struct pintle_channel channels[] PINTLE_TABLE = {
    PINTLE_CHANNEL("distance", LENGTH, 3, 0.1f, REACH, &said, .at = 2),
};

/* A number and its unit: a line that broke off in front of that may lack digits too. */
static pintle_marks millimetres(const uint8_t *first, uint8_t left, int32_t *raw)
{
    pintle_marks quality = pintle_part_digits(first, left, raw);
    uint8_t i = 0;
    while (i + 2 < left && ((first[i] >= '0' && first[i] <= '9') || first[i] == '-')) {
        i++;
    }
    uint8_t whole = i + 2 < left && first[i] == 'm' && first[i + 1] == 'm' && first[i + 2] == 0;
    return whole ? quality : PINTLE_QUALITY_BUS;
}

static const struct pintle_frame frame PINTLE_TABLE = { .bit_hz = 9600,
                                                        .limit_ms = 150,
                                                        .end = '\n' };

const struct pintle_part pintle_tof10120 PINTLE_TABLE = {
    .name = "TOF10120",
    .flags = PINTLE_PART_BIG_ENDIAN,
    .raw_size = 12,
    .channel_count = 1,
    .setting_count = 1,
    .link = &pintle_link_stream,
    .identity = identity,
    .setup = setup,
    .measure = measure,
    .settings = settings,
    .channels = channels,
    .frame = &frame,
    .integer = millimetres,
};

/* --- over I2C --- */

static const uint8_t addresses[] PINTLE_TABLE = { 0x52 };

static const struct pintle_step i2c_identity[] PINTLE_TABLE = { PINTLE_ANSWERS(), PINTLE_END() };
static const struct pintle_step i2c_setup[] PINTLE_TABLE = { PINTLE_END() };
/* Twice: nothing else would tell ones that are left of a chip that has just lost its supply. */
static const struct pintle_step i2c_measure[] PINTLE_TABLE = {
    PINTLE_READ(FILTERED_REG, 2),
    PINTLE_READ(FILTERED_REG, 2),
    PINTLE_VACANT(),
    PINTLE_END(),
};

/* It may have measured anew in between; so far nothing moves. */
#define STEADY_MM 40
static void i2c_decode(const struct pintle_part *part, const struct pintle_block *block,
                       struct pintle_reading *readings)
{
    int32_t first = (int32_t)block->raw[0] << 8 | block->raw[1];
    int32_t again = (int32_t)block->raw[2] << 8 | block->raw[3];
    int32_t apart = first > again ? first - again : again - first;
    (void)part;
    readings[0].quality = apart > STEADY_MM ? PINTLE_QUALITY_BUS : 0;
}

static const struct pintle_linear counted PINTLE_TABLE = {
    .bytes = 2, .scale = 0.001f, .lowest = 0, .highest = FAR
};
static const struct pintle_channel i2c_channels[] PINTLE_TABLE = {
    PINTLE_CHANNEL("distance", LENGTH, 3, 0.1f, REACH, &counted, .at = 0),
};

const struct pintle_part pintle_tof10120i2c PINTLE_TABLE = {
    .name = "TOF10120I2C",
    .flags = PINTLE_PART_BIG_ENDIAN,
    .raw_size = 4,
    .channel_count = 1,
    .address_count = sizeof addresses,
    .addresses = addresses,
    .link = &pintle_link_i2c,
    .identity = i2c_identity,
    .setup = i2c_setup,
    .measure = i2c_measure,
    .rare = pintle_part_steps_rare,
    .channels = i2c_channels,
    .decode = i2c_decode,
};
