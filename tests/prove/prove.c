/* What is proven to have no undefined behaviour, over all inputs, by abstract interpretation: an
 * entry for each thing that reads bytes from elsewhere. tools/prove runs them. Not compiled. */
#include "__fc_builtin.h"
#include "core/engine/engine.h"
#include "pintle/card.h"
#include "pintle/calendar.h"
#include "pintle/text.h"
#include "pintle/keep.h"
#include "pintle/onewire.h"
#include "pintle/parts.h"
#include "pintle/sample.h"
#include "pintle/time.h"

#define ANY(object) Frama_C_make_unknown((char *)&(object), sizeof(object))

static uint8_t bytes_of_raw[PINTLE_MOST_RAW];
static uint8_t bytes_of_trim[64];
static uint8_t chosen[PINTLE_MOST_SETTINGS];
static float values[8];
static struct pintle_reading readings[PINTLE_MOST_CHANNELS];

/* The last `count` of an array: what lies beyond them is nobody's. */
#define LAST(array, count) ((array) + sizeof(array) / sizeof(array)[0] - (count))

/* --- decode: all raw bytes, trim and settings, numbers within their limits --- */

static void decode(const struct pintle_part *part)
{
    uint8_t *raw = LAST(bytes_of_raw, part->raw_size);
    uint8_t *trim = LAST(bytes_of_trim, part->trim_size);
    uint8_t *settings = LAST(chosen, part->setting_count);
    float *numbers = LAST(values, part->number_count);
    Frama_C_make_unknown((char *)raw, part->raw_size);
    if (part->trim_size > 0) {
        Frama_C_make_unknown((char *)trim, part->trim_size);
    }
    for (uint8_t i = 0; i < part->setting_count; i++) {
        settings[i] = (uint8_t)Frama_C_interval(0, part->settings[i].count - 1);
    }
    for (uint8_t i = 0; i < part->number_count; i++) {
        numbers[i] = Frama_C_float_interval(part->numbers[i].lowest, part->numbers[i].highest);
    }
    struct pintle_block block = { .raw = raw,
                                  .trim = trim,
                                  .settings = settings,
                                  .numbers = numbers,
                                  .idle = (uint16_t)Frama_C_interval(0, 0xffff),
                                  .again = (uint8_t)Frama_C_interval(0, 1) };
    pintle_part_decode(part, &block, LAST(readings, part->channel_count));
}

#define DECODE(name, file, bus, place, flash)                                                      \
    void prove_##name(void)                                                                        \
    {                                                                                              \
        decode(&pintle_##name);                                                                    \
    }
PINTLE_PART_LIST(DECODE)

/* --- checksums: any bytes, any count, rules of every shape --- */

static void check(uint8_t bits, uint8_t span)
{
    uint8_t bytes[24];
    ANY(bytes);
    const struct pintle_part_crc rule = { .check = pintle_part_crc_check,
                                          .polynomial = (uint16_t)Frama_C_interval(0, 0xffff),
                                          .start = (uint16_t)Frama_C_interval(0, 0xffff),
                                          .bits = bits,
                                          .low_first = (uint8_t)Frama_C_interval(0, 1),
                                          .span = span };
    (void)!pintle_part_crc_check(&rule, bytes, (size_t)Frama_C_interval(0, sizeof bytes));
}

void prove_checksums(void)
{
    uint8_t bytes[40];
    ANY(bytes);
    for (uint8_t span = 1; span <= 8; span++) {
        check(8, span);
        check(16, span);
    }
    (void)pintle_onewire_crc(bytes, (uint8_t)Frama_C_interval(0, sizeof bytes));
}

/* --- calendars: any second of the years that they are for, any field --- */

void prove_calendar(void)
{
    struct pintle_calendar c;
    pintle_calendar_from(&c, Frama_C_long_long_interval(-62135596800, 253402300799));
    struct pintle_calendar any = {
        .year = (uint16_t)Frama_C_interval(0, 0xffff),
        .month = (uint8_t)Frama_C_interval(1, 12),
        .day = (uint8_t)Frama_C_interval(0, 255),
        .hour = (uint8_t)Frama_C_interval(0, 255),
        .minute = (uint8_t)Frama_C_interval(0, 255),
        .second = (uint8_t)Frama_C_interval(0, 255),
    };
    (void)pintle_calendar_seconds(&any);
}

/* --- text: any number, any room --- */

void prove_text(void)
{
    char buffer[48];
    struct pintle_text text;
    float value;
    uint64_t time;
    ANY(value);
    ANY(time);
    pintle_text_init(&text, buffer, (size_t)Frama_C_interval(1, sizeof buffer));
    pintle_text_fixed(&text, value, (uint8_t)Frama_C_interval(0, PINTLE_DECIMALS_MAX));
    pintle_text_quality(&text, (pintle_marks)Frama_C_interval(0, 0x7fffffff));
    pintle_text_whole(&text, (int64_t)time, (uint8_t)Frama_C_interval(0, 255));
    pintle_text_time(&text, Frama_C_long_long_interval(-62135596800000000, 253402300799000000),
                     (int16_t)Frama_C_interval(-1440, 1440), 6);
}

/* --- kept corrections: any bytes, any count of them --- */

static void unpack(uint8_t first, uint8_t last)
{
    static struct pintle_correct_stage stages[2];
    static float kept_numbers[8];
    uint8_t bytes[PINTLE_KEPT_BYTES(2, 8)];
    struct pintle_keep kept = {
        .stages = stages, .numbers = kept_numbers, .stage_room = 2, .number_room = 8
    };
    uint16_t turn;
    ANY(bytes);
    bytes[22] = (uint8_t)Frama_C_interval(first, last); /* the first stage's numbers */
    (void)!pintle_keep_unpack(&kept, &turn, bytes, (uint16_t)Frama_C_interval(0, sizeof bytes));
}

void prove_kept(void)
{
    for (uint8_t count = 0; count <= 12; count++) {
        unpack(count, count);
    }
    unpack(13, 255);
}

/* --- corrections: any stage that is called valid, on any reading --- */

void prove_correction(void)
{
    float given[12];
    struct pintle_reading second;
    struct pintle_reading readings[3];
    struct pintle_correct_stage stage;
    ANY(given);
    ANY(second);
    ANY(readings);
    ANY(stage);
    stage.channel = (uint8_t)Frama_C_interval(0, 255);
    stage.count = (uint8_t)Frama_C_interval(0, 12);
    stage.numbers = given;
    stage.second = Frama_C_interval(0, 1) ? &second : NULL;
    if (pintle_correct_is_valid(&stage)) {
        pintle_correct(&stage, 1, readings, 3);
    }
}

/* --- a card's registers --- */

void prove_card(void)
{
    uint8_t csd[16];
    ANY(csd);
    (void)pintle_card_bytes(csd);
}

/* --- the proof of the proof: a decode that overflows, and one that reads too far --- */

void prove_nothing_overflow(void)
{
    int32_t number;
    ANY(number);
    readings[0].raw = number * 2;
}

void prove_nothing_beyond(void)
{
    readings[0].raw = LAST(bytes_of_raw, 2)[Frama_C_interval(0, 2)];
}
