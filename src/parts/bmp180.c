/* BMP180, datasheet BST-BMP180-DS000. Compensation: section 3.5, the integer formulas. Differences
 * and products that only impossible trim could make overflow wrap around, as the datasheet's code
 * does on its own machine. */
#include "pintle/parts/bmp180.h"

#define AC1 0xaa /* the trim: 11 words, high byte first */
#define ID 0xd0
#define SOFT_RESET 0xe0
#define CTRL_MEAS 0xf4
#define OUT_MSB 0xf6

#define TEMPERATURE 0x2e /* CTRL_MEAS: section 3.3, table 8 */
#define PRESSURE 0x34
#define SCO 0x20            /* a conversion runs */
#define TEMPERATURE_US 4500 /* table 8: the longest */
#define UNCONVERTED 0x8000  /* OUT_MSB and OUT_LSB after power-up, section 4 */

static const uint8_t addresses[] PINTLE_TABLE = { 0x77 };

PINTLE_OPTIONS(times, PINTLE_BMP180_OVERSAMPLING_OPTIONS);

static const struct pintle_setting settings[] PINTLE_TABLE = {
    [PINTLE_BMP180_OVERSAMPLING] = { CTRL_MEAS, 6, 4, PINTLE_BMP180_X1, times, NULL },
};

static const struct pintle_step identity[] PINTLE_TABLE = {
    PINTLE_EXPECT(ID, 1, 0xff, 0x55),
    PINTLE_END(),
};

static const struct pintle_step setup[] PINTLE_TABLE = {
    PINTLE_WRITE_PLAIN(SOFT_RESET, 1, 0xb6),
    PINTLE_WAIT(10000), /* table 1: start-up */
    PINTLE_TRIM(AC1, PINTLE_BMP180_TRIM),
    PINTLE_END(),
};

/* A chip that loses its supply in between has no conversion to show, and says so. */
static const struct pintle_step measure[] PINTLE_TABLE = {
    PINTLE_WRITE_PLAIN(CTRL_MEAS, 1, TEMPERATURE),
    PINTLE_WAIT(TEMPERATURE_US),
    PINTLE_READ(OUT_MSB, 2),
    PINTLE_EXPECT(CTRL_MEAS, 1, 0x1f, TEMPERATURE & 0x1f), /* and nobody's pressure */
    PINTLE_WRITE(CTRL_MEAS, 1, PRESSURE),
    PINTLE_WAIT_SETTINGS(0),
    PINTLE_READ(OUT_MSB, 3),
    PINTLE_EXPECT(CTRL_MEAS, 1, 0xdf, PRESSURE & ~SCO),
    PINTLE_VACANT(),
    PINTLE_END(),
};

static uint16_t u16(const uint8_t *at)
{
    return (uint16_t)((uint16_t)at[0] << 8 | at[1]);
}

static int32_t s16(const uint8_t *at)
{
    return (int16_t)u16(at);
}

static int32_t mul(int32_t a, int32_t b)
{
    return (int32_t)((uint32_t)a * (uint32_t)b);
}

static int32_t add(int32_t a, int32_t b)
{
    return (int32_t)((uint32_t)a + (uint32_t)b);
}

static int32_t sub(int32_t a, int32_t b)
{
    return (int32_t)((uint32_t)a - (uint32_t)b);
}

/* The example of section 3.5 rounds down, also below 0. 0: a division by zero. */
static int32_t floor_of(int32_t a, int32_t b)
{
    if (b < 0) {
        a = -a;
        b = -b;
    }
    return b > 0 ? a / b - (a % b < 0) : 0;
}

/* B5, which the pressure needs too; 0 where the trim makes it a division by zero. */
static int32_t b5_of(const struct pintle_block *block, int32_t UT)
{
    const uint8_t *trim = block->trim;
    int32_t MD = s16(trim + 20);
    int32_t X1 = mul(UT - u16(trim + 10), u16(trim + 8)) >> 15;
    int32_t X2 = floor_of(s16(trim + 18) * 2048, X1 + MD);
    PINTLE_NOTE(block->notes, "UT", UT);
    PINTLE_NOTE(block->notes, "AC5", u16(trim + 8));
    PINTLE_NOTE(block->notes, "AC6", u16(trim + 10));
    PINTLE_NOTE(block->notes, "MC", s16(trim + 18));
    PINTLE_NOTE(block->notes, "MD", MD);
    PINTLE_NOTE(block->notes, "X1 (T)", X1);
    PINTLE_NOTE(block->notes, "X2 (T)", X2);
    PINTLE_NOTE(block->notes, "B5", X1 + X2);
    return X1 + X2;
}

/* Pa; 0 where the trim makes it a division by zero. */
static int32_t pressure(const struct pintle_block *block, int32_t UP, int32_t B5)
{
    const uint8_t *trim = block->trim;
    uint8_t oss = block->settings[PINTLE_BMP180_OVERSAMPLING];
    int32_t B6 = sub(B5, 4000);
    int32_t square = mul(B6, B6) >> 12;
    int32_t X3 = add(mul(s16(trim + 14), square) >> 11, mul(s16(trim + 2), B6) >> 11);
    int32_t B3 = add(mul(add(mul(s16(trim), 4), X3), 1 << oss), 2) >> 2;
    PINTLE_NOTE(block->notes, "UP", UP);
    PINTLE_NOTE(block->notes, "B6", B6);
    PINTLE_NOTE(block->notes, "X3 (B3)", X3);
    PINTLE_NOTE(block->notes, "B3", B3);
    X3 = add(mul(s16(trim + 4), B6) >> 13, mul(s16(trim + 12), square) >> 16);
    X3 = add(X3, 2) >> 2;
    uint32_t B4 = (uint16_t)u16(trim + 6) * (uint32_t)(X3 + 32768) >> 15;
    uint32_t B7 = ((uint32_t)UP - (uint32_t)B3) * (uint32_t)(50000 >> oss);
    PINTLE_NOTE(block->notes, "X3 (B4)", X3);
    PINTLE_NOTE(block->notes, "B4", B4);
    PINTLE_NOTE(block->notes, "B7", B7);
    if (B4 == 0) {
        return 0;
    }
    int32_t p = (int32_t)(B7 < 0x80000000u ? B7 * 2 / B4 : B7 / B4 * 2);
    int32_t X1 = mul(mul(p >> 8, p >> 8), 3038) >> 16;
    int32_t X2 = mul(-7357, p) >> 16;
    PINTLE_NOTE(block->notes, "p (before the last terms)", p);
    PINTLE_NOTE(block->notes, "X1 (p)", X1);
    PINTLE_NOTE(block->notes, "X2 (p)", X2);
    return add(p, add(add(X1, X2), 3791) >> 4);
}

/* Table 2: no word of the trim is 0 or FFFFh. */
static uint8_t is_trim(const uint8_t *trim)
{
    for (uint8_t i = 0; i < PINTLE_BMP180_TRIM; i = (uint8_t)(i + 2)) {
        uint16_t word = u16(trim + i);
        if (word == 0 || word == 0xffff) {
            return 0;
        }
    }
    return 1;
}

#define LOWEST (-400) /* 0.1 degC */
#define HIGHEST 850

static void decode(const struct pintle_part *part, const struct pintle_block *block,
                   struct pintle_reading *readings)
{
    (void)part;
    uint8_t oss = block->settings[PINTLE_BMP180_OVERSAMPLING];
    int32_t UT = u16(block->raw);
    int32_t UP = (int32_t)((uint32_t)u16(block->raw + 2) << 8 | block->raw[4]) >> (8 - oss);
    int32_t B5 = b5_of(block, UT);
    int32_t T = add(B5, 8) >> 4;
    int32_t p = pressure(block, UP, B5);
    PINTLE_NOTE(block->notes, "T (0.1 degC)", T);
    PINTLE_NOTE(block->notes, "p (Pa)", p);
    pintle_marks quality = is_trim(block->trim) ? 0 : PINTLE_QUALITY_BUS;
    quality |= UT == UNCONVERTED ? PINTLE_QUALITY_POWER_ON : 0;
    quality |= T < LOWEST || T > HIGHEST ? PINTLE_QUALITY_RANGE : 0; /* the other hangs on it */
    readings[PINTLE_BMP180_TEMPERATURE] =
        (struct pintle_reading){ pintle_part_value(T, 10, 1), UT, quality };
    quality |= u16(block->raw + 2) == UNCONVERTED ? PINTLE_QUALITY_POWER_ON : 0;
    /* still the temperature: it was never told to convert the pressure, or they happen to be the
     * same */
    quality |=
        u16(block->raw + 2) == u16(block->raw) && !block->again ? PINTLE_QUALITY_POWER_ON : 0;
    readings[PINTLE_BMP180_PRESSURE] =
        (struct pintle_reading){ pintle_part_value(p, 1, 0), UP, quality };
}

static const struct pintle_channel channels[] PINTLE_TABLE = {
    PINTLE_CHANNEL("temperature", TEMPERATURE, 1, -40, 85, NULL, .at = 0),
    PINTLE_CHANNEL("pressure", PRESSURE, 0, 30000, 110000, NULL, .at = 2),
};

const struct pintle_part pintle_bmp180 PINTLE_TABLE = {
    .name = "BMP180",
    .flags = PINTLE_PART_BIG_ENDIAN | PINTLE_PART_FORGETS | PINTLE_PART_KEEPS,
    .raw_size = 5,
    .trim_size = PINTLE_BMP180_TRIM,
    .channel_count = 2,
    .setting_count = 1,
    .address_count = sizeof addresses,
    .addresses = addresses,
    .link = &pintle_link_i2c,
    .identity = identity,
    .setup = setup,
    .measure = measure,
    .rare = pintle_part_steps_rare,
    .settings = settings,
    .channels = channels,
    .decode = decode,
};
