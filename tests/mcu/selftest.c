/* The core on small machines: an ATmega328P, where int has 16 bits, double 32, and tables lie
 * apart, and a Cortex-M0. Text and whole measurements through the engine, one line per row to the
 * serial port; tools/check runs it in emulators and compares the lines with selftest.txt, whose
 * values come from the same documents as those of the host's tests. */
#include "pintle/parts/bme280.h"
#include "pintle/parts/ds18b20.h"
#include "say.h"

static const uint8_t trim_table[PINTLE_BME280_TRIM] PINTLE_TABLE = {
    0x70, 0x6b, 0x43, 0x67, 0x18, 0xfc, 0x7d, 0x8e, 0x43, 0xd6, 0xd0,
    0x0b, 0x27, 0x0b, 0x8c, 0x00, 0xf9, 0xff, 0x8c, 0x3c, 0xf8, 0xc6,
    0x70, 0x17, 0x00, 0x4b, 0x6f, 0x01, 0x00, 0x13, 0x29, 0x03, 0x1e
};

/* A bus with one chip that only holds bytes: a BME280 with the example's trim and data, set up. */
static enum pintle_status transfer(void *context, uint8_t address,
                                   const struct pintle_segment *segments, uint8_t count,
                                   uint32_t limit_us)
{
    static const uint8_t data[] = { 0x65, 0x5a, 0xc0, 0x7e, 0xed, 0x00, 0x80, 0xe8 };
    uint8_t reg = segments[0].out[0];
    (void)context;
    (void)limit_us;
    for (uint16_t k = 0; count == 2 && k < segments[1].length; k++, reg++) {
        uint8_t *to = &segments[1].in[k];
        *to = reg == 0xd0 ? 0x60 : reg == 0xf4 ? 0x24 : reg == 0xf2 ? 0x01 : 0;
        if (reg >= 0xf7) {
            *to = data[reg - 0xf7];
        } else if (reg >= 0x88 && reg < 0x88 + 26) {
            *to = pintle_table_u8(&trim_table[reg - 0x88]);
        } else if (reg >= 0xe1 && reg < 0xe1 + 7) {
            *to = pintle_table_u8(&trim_table[26 + reg - 0xe1]);
        }
    }
    return address == 0x77 ? PINTLE_OK : PINTLE_NO_ANSWER;
}

static uint64_t time_us = 1781222399999000;

static uint64_t now_us(void *context)
{
    (void)context;
    return time_us;
}

static void sleep_us(void *context, uint32_t us)
{
    (void)context;
    time_us += us;
}

static void measure(void)
{
    static const struct pintle_i2c_calls calls = { .transfer = transfer };
    static const struct pintle_clock_calls clock_calls = { now_us, sleep_us, 0, 0, 0 };
    static const struct pintle_clock clock = { &clock_calls, 0 };
    static struct pintle_i2c bus = { .calls = &calls, .common = { .clock = &clock } };
    static struct pintle_bme280 air;
    if (pintle_bme280_on_i2c(&air, &bus, 0x77) != PINTLE_OK
        || pintle_sensor_read(&air.sensor) != PINTLE_OK
        || pintle_sensor_read(&air.sensor) != PINTLE_OK) {
        board_say("the engine failed\n");
        return;
    }
    print_readings("engine", &pintle_bme280, air.reading);
}

/* Two thermometers on a 1-Wire line, slot by slot: enough of them for a search and a reading. */
static const uint8_t codes[2][8] = { { 0x28, 0x4c, 0x1e, 0x72, 0x07, 0x00, 0x00, 0x1d },
                                     { 0x28, 0xa0, 0x3b, 0x91, 0x07, 0x00, 0x00, 0xa2 } };
static uint8_t pad[9] = { 0x91, 0x01, 0x4b, 0x46, 0x7f, 0xff, 0x0c, 0x10, 0 };
static struct {
    uint16_t slot; /* since the reset */
    uint8_t command, function;
    uint8_t in[2]; /* still in the search, or addressed */
} ow;

static uint8_t bit_of(const uint8_t *bytes, uint16_t i)
{
    return bytes[i / 8] >> i % 8 & 1;
}

static uint8_t search_slot(uint16_t i, uint8_t out)
{
    uint8_t seen = 1;
    for (uint8_t c = 0; c < 2; c++) {
        uint8_t mine = bit_of(codes[c], i / 3);
        if (i % 3 == 2) {
            ow.in[c] = ow.in[c] && mine == out;
        } else if (ow.in[c]) {
            seen = seen && (i % 3 == 0 ? mine : !mine);
        }
    }
    return seen;
}

/* Behind a match of 64 bits and a function command come the scratchpad's bits. */
static uint8_t match_slot(uint16_t i, uint8_t out)
{
    if (i < 64) {
        ow.in[0] = ow.in[0] && bit_of(codes[0], i) == out;
        ow.in[1] = ow.in[1] && bit_of(codes[1], i) == out;
    } else if (i < 72) {
        ow.function = (uint8_t)(ow.function >> 1 | out << 7);
    } else if (ow.function == 0xbe && (ow.in[0] || ow.in[1]) && i < 144) {
        return bit_of(pad, i - 72);
    } else if (ow.function == 0x44 && (ow.in[0] || ow.in[1])) {
        return 0; /* it converts until the next reset */
    }
    return out;
}

static enum pintle_status line_reset(void *context)
{
    (void)context;
    memset(&ow, 0, sizeof ow);
    ow.in[0] = ow.in[1] = 1;
    return PINTLE_OK;
}

static enum pintle_status line_slots(void *context, const uint8_t *out, uint8_t *in, uint16_t count,
                                     uint8_t strong)
{
    (void)context;
    (void)strong;
    for (uint16_t i = 0; i < count; i++) {
        uint8_t bit = out ? bit_of(out, i) : 1;
        uint8_t seen = bit;
        if (ow.slot < 8) {
            ow.command = (uint8_t)(ow.command >> 1 | bit << 7);
        } else if (ow.command == 0xf0) {
            seen = search_slot((uint16_t)(ow.slot - 8), bit);
        } else {
            seen = match_slot((uint16_t)(ow.slot - 8), bit);
        }
        ow.slot++;
        if (in) {
            uint8_t mask = (uint8_t)(1u << (i & 7));
            in[i / 8] = (uint8_t)(seen ? in[i / 8] | mask : in[i / 8] & ~mask);
        }
    }
    return PINTLE_OK;
}

static void search_and_read(void)
{
    static const struct pintle_onewire_calls calls = { .reset = line_reset, .slots = line_slots };
    static const struct pintle_clock_calls clock_calls = { now_us, sleep_us, 0, 0, 0 };
    static const struct pintle_clock clock = { &clock_calls, 0 };
    static struct pintle_onewire bus = { .calls = &calls, .common = { .clock = &clock } };
    static struct pintle_onewire_search search;
    static struct pintle_ds18b20 probe;
    enum pintle_status status;
    pad[8] = pintle_onewire_crc(pad, 8);
    while ((status = pintle_onewire_next(&bus, &search)) == PINTLE_OK) {
        pintle_text_init(&text, line, sizeof line);
        pintle_text_string(&text, "found ");
        for (uint8_t i = 0; i < 8; i++) {
            pintle_text_whole(&text, search.code[i], 1);
            pintle_text_char(&text, i < 7 ? '.' : '\n');
        }
        board_say(line);
    }
    if (status != PINTLE_NO_ANSWER || pintle_ds18b20_on_onewire(&probe, &bus, codes[1]) != PINTLE_OK
        || pintle_sensor_read(&probe.sensor) != PINTLE_OK) {
        board_say("the line failed\n");
        return;
    }
    print_readings("line", &pintle_ds18b20, probe.reading);
}

static void print_thermistor(void)
{
    static const float constants[3] PINTLE_TABLE = { 10000, 10000, 3950 };
    pintle_text_init(&text, line, sizeof line);
    pintle_text_fixed(&text, pintle_shape_thermistor(constants, 0.5f), 2);
    pintle_text_char(&text, ' ');
    pintle_text_fixed(&text, pintle_shape_thermistor(constants, 0.76525f), 2);
    pintle_text_char(&text, '\n');
    board_say(line);
}

static void print_schedule(void)
{
    struct pintle_schedule schedule;
    schedule.interval_us = 20000000;
    schedule.last_us = 0;
    pintle_text_init(&text, line, sizeof line);
    pintle_text_time(&text, pintle_schedule_next(&schedule, 1781222400000001, 0), 120, 3);
    pintle_text_char(&text, ' ');
    pintle_text_whole(&text, INT64_MIN, 1);
    pintle_text_char(&text, ' ');
    pintle_text_fixed(&text, 65535.996f, 2);
    pintle_text_char(&text, '\n');
    board_say(line);
}

/* A pressure that it was found for, and one beyond that. */
static void print_corrected(const struct pintle_fit_result *fitted)
{
    static float numbers[3];
    static struct pintle_correct_stage stage;
    static struct pintle_reading readings[2];
    pintle_fit_numbers(fitted, numbers);
    stage.kind = PINTLE_STAGE_POLYNOMIAL;
    stage.count = 3;
    stage.lowest = 100900;
    stage.highest = 101300;
    stage.numbers = numbers;
    readings[0].value = 101150;
    readings[1].value = 101350;
    for (uint8_t i = 0; i < 2; i++) {
        pintle_correct(&stage, 1, &readings[i], 1);
        pintle_text_fixed(&text, readings[i].value, 1);
        pintle_text_char(&text, ' ');
    }
    pintle_text_quality(&text, readings[1].quality);
}

static void print_fit(void)
{
    struct pintle_fit fit;
    struct pintle_fit_result fitted;
    memset(&fit, 0, sizeof fit);
    (void)!pintle_fit_add(&fit, 101000, 101110);
    (void)!pintle_fit_add(&fit, 101100, 101211);
    (void)!pintle_fit_add(&fit, 101200, 101312);
    pintle_text_init(&text, line, sizeof line);
    if (pintle_fit_line(&fit, &fitted) == PINTLE_OK) {
        pintle_text_fixed(&text, fitted.gain, 4);
        pintle_text_char(&text, ' ');
        pintle_text_fixed(&text, 101100 * fitted.gain + fitted.offset, 1);
        pintle_text_char(&text, ' ');
        print_corrected(&fitted);
    }
    pintle_text_char(&text, '\n');
    board_say(line);
}

int main(void)
{
    board_start();
    measure();
    search_and_read();
    print_thermistor();
    print_schedule();
    print_fit();
    board_halt();
    return 0;
}
