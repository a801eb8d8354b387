#include "append.h"

static const char nan_text[] PINTLE_TABLE = "nan";
static const char inf_text[] PINTLE_TABLE = "inf";
static const char over_text[] PINTLE_TABLE = "over";
static const char good[] PINTLE_TABLE = "good";

void pintle_text_init(struct pintle_text *text, char *buffer, size_t size)
{
    text->at = buffer;
    text->size = size;
    text->used = 0;
    text->full = 0;
    buffer[0] = '\0';
}

void pintle_text_char(struct pintle_text *text, char character)
{
    if (text->full || text->used + 1 >= text->size) {
        text->full = 1;
        return;
    }
    text->at[text->used++] = character;
    text->at[text->used] = '\0';
}

void pintle_text_string(struct pintle_text *text, const char *string)
{
    size_t from = text->used;
    while (*string) {
        pintle_text_char(text, *string++);
    }
    pintle_priv_whole(text, from);
}

void pintle_text_table(struct pintle_text *text, const char *string)
{
    size_t from = text->used;
    char character = (char)pintle_table_u8(string);
    while (character) {
        pintle_text_char(text, character);
        character = (char)pintle_table_u8(++string);
    }
    pintle_priv_whole(text, from);
}

static void digits_of(struct pintle_text *text, uint64_t value, uint8_t digits)
{
    char reversed[20] = { 0 };
    uint8_t used = 0;
    while (used < sizeof reversed && (value > 0 || used < digits || used == 0)) {
        reversed[used++] = (char)('0' + value % 10);
        value /= 10;
    }
    while (used > 0) {
        pintle_text_char(text, reversed[--used]);
    }
}

void pintle_text_whole(struct pintle_text *text, int64_t value, uint8_t digits)
{
    size_t from = text->used;
    uint64_t magnitude = (uint64_t)value;
    if (value < 0) {
        pintle_text_char(text, '-');
        magnitude = 0 - magnitude;
    }
    digits_of(text, magnitude, digits > 20 ? 20 : digits);
    pintle_priv_whole(text, from);
}

/* x / 2^shift, to the nearest, a tie to the even. */
static uint64_t halve(uint64_t x, uint8_t shift)
{
    if (shift == 0) {
        return x;
    }
    if (shift > 63) {
        return 0;
    }
    uint64_t half = (uint64_t)1 << (shift - 1);
    uint64_t rest = x & (2 * half - 1);
    uint64_t quotient = x >> shift;
    return quotient + (rest > half || (rest == half && (quotient & 1)));
}

/* IEEE 754 binary32: value = mantissa x 2^(exponent - 150), so that value x 10^decimals is an
 * integer below 2^48 times a power of two. */
static void fixed(struct pintle_text *text, float value, uint8_t decimals)
{
    uint32_t bits;
    memcpy(&bits, &value, sizeof bits);
    uint8_t exponent = (uint8_t)(bits >> 23);
    uint64_t scaled = bits & 0x7fffff;
    if (exponent == 255 && scaled != 0) {
        pintle_text_table(text, nan_text);
        return;
    }
    uint32_t power = 1;
    for (uint8_t i = 0; i < decimals && i < PINTLE_DECIMALS_MAX; i++) {
        power *= 10;
    }
    scaled = (exponent ? scaled | 0x800000 : scaled) * power;
    exponent = exponent ? exponent : 1;
    scaled = exponent < 150 ? halve(scaled, (uint8_t)(150 - exponent))
                            : scaled << (exponent < 167 ? exponent - 150 : 0);
    if ((bits >> 31) && (scaled > 0 || exponent >= 167)) {
        pintle_text_char(text, '-');
    }
    if (exponent >= 167) {
        pintle_text_table(text, exponent == 255 ? inf_text : over_text);
        return;
    }
    digits_of(text, scaled / power, 1);
    if (power > 1) {
        pintle_text_char(text, '.');
        digits_of(text, scaled % power,
                  decimals > PINTLE_DECIMALS_MAX ? PINTLE_DECIMALS_MAX : decimals);
    }
}

void pintle_text_fixed(struct pintle_text *text, float value, uint8_t decimals)
{
    size_t from = text->used;
    fixed(text, value, decimals);
    pintle_priv_whole(text, from);
}

#define SECONDS_TO_2000 946684800

#if PINTLE_WHOLE
static uint8_t is_none(pintle_value value)
{
    return value == INT32_MIN;
}

static void put_decimals(struct pintle_text *text, pintle_value value, uint8_t decimals)
{
    size_t from = text->used;
    uint32_t magnitude = value < 0 ? 0u - (uint32_t)value : (uint32_t)value;
    uint32_t power = 1;
    for (uint8_t i = 0; i < decimals; i++) {
        power *= 10;
    }
    if (value < 0) {
        pintle_text_char(text, '-');
    }
    digits_of(text, magnitude / power, 1);
    if (power > 1) {
        pintle_text_char(text, '.');
        digits_of(text, magnitude % power, decimals);
    }
    pintle_priv_whole(text, from);
}
#else
static uint8_t is_none(pintle_value value)
{
    return value != value;
}
#endif

void pintle_text_reading(struct pintle_text *text, const struct pintle_channel *channel,
                         const struct pintle_reading *reading)
{
    if ((reading->quality & (PINTLE_QUALITY_BUS | PINTLE_QUALITY_IDLE))
        || is_none(reading->value)) {
        return;
    }
    if (pintle_table_u8(&channel->quantity) == PINTLE_QUANTITY_TIME) {
        int64_t seconds = (int64_t)(uint32_t)reading->raw + SECONDS_TO_2000;
        pintle_text_time(text, seconds * 1000000, 0, 0);
        return;
    }
#if PINTLE_WHOLE
    put_decimals(text, reading->value, pintle_table_u8(&channel->decimals));
#else
    pintle_text_fixed(text, reading->value, pintle_table_u8(&channel->decimals));
#endif
}

void pintle_text_quality(struct pintle_text *text, pintle_marks quality)
{
    size_t from = text->used;
    pintle_marks left = quality & PINTLE_QUALITY_SUSPECT;
    if (left == 0) {
        pintle_text_table(text, good);
        return;
    }
    for (pintle_marks bit = 1; left != 0; bit <<= 1) {
        if (left & bit) {
            left &= ~bit;
            pintle_text_table(text, pintle_quality_word(bit));
            if (left) {
                pintle_text_char(text, '+');
            }
        }
    }
    pintle_priv_whole(text, from);
}

/* RFC 4180 section 2, rule 6. */
static uint8_t needs_quotes(const char *string)
{
    for (; *string; string++) {
        if (*string == ',' || *string == '"' || *string == '\r' || *string == '\n') {
            return 1;
        }
    }
    return 0;
}

void pintle_text_csv(struct pintle_text *text, const char *string)
{
    size_t from = text->used;
    uint8_t quotes = needs_quotes(string);
    pintle_text_char(text, ',');
    if (quotes) {
        pintle_text_char(text, '"');
    }
    for (; *string; string++) {
        if (*string == '"') {
            pintle_text_char(text, '"');
        }
        pintle_text_char(text, *string);
    }
    if (quotes) {
        pintle_text_char(text, '"');
    }
    pintle_priv_whole(text, from);
}
