/* The core on an ATmega328P, where int has 16 bits, double 32, and tables lie apart: decoding, text
 * and a whole measurement through the engine. It prints one line per row to the serial port;
 * tools/check runs it in an emulator and compares them with expected.txt, whose values come from
 * the same documents as those of the host's tests. */
#include <avr/interrupt.h>
#include <avr/io.h>
#include <avr/sleep.h>

#include "pintle/pintle.h"

static void send(const char *line)
{
    for (; *line; line++) {
        while (!(UCSR0A & (1 << UDRE0))) {
        }
        UDR0 = (uint8_t)*line;
    }
}

/* Table rows are in program memory; their bytes are copied out one row at a time. */
struct row {
    char name[16];
    const struct pintle_part *part;
    uint8_t settings[PINTLE_SETTINGS_MAX];
    uint8_t raw[11];
};

static const uint8_t trim_table[PINTLE_BME280_TRIM] PINTLE_TABLE = {
    0x70, 0x6b, 0x43, 0x67, 0x18, 0xfc, 0x7d, 0x8e, 0x43, 0xd6, 0xd0,
    0x0b, 0x27, 0x0b, 0x8c, 0x00, 0xf9, 0xff, 0x8c, 0x3c, 0xf8, 0xc6,
    0x70, 0x17, 0x00, 0x4b, 0x6f, 0x01, 0x00, 0x13, 0x29, 0x03, 0x1e
};

static const struct row rows[] PINTLE_TABLE = {
    { "TMP102 12 bits", &pintle_tmp102, { 0, 0 }, { 0xe7, 0x00 } },
    { "TMP102 12 bits", &pintle_tmp102, { 0, 0 }, { 0x7f, 0xf0 } },
    { "TMP102 13 bits", &pintle_tmp102, { 0, 1 }, { 0x4b, 0x01 } },
    { "TMP102 13 bits", &pintle_tmp102, { 0, 1 }, { 0xe4, 0x81 } },
    { "SHT31", &pintle_sht31, { 0 }, { 0x66, 0x66, 0, 0x80, 0x00, 0 } },
    { "SHT31 ends", &pintle_sht31, { 0 }, { 0xff, 0xff, 0, 0xff, 0xff, 0 } },
    { "BME280", &pintle_bme280, { 0 }, { 0x65, 0x5a, 0xc0, 0x7e, 0xed, 0x00, 0x80, 0xe8 } },
    { "DS3231",
      &pintle_ds3231,
      { 0 },
      { 0, 0, 0xff, 0xc0, 0x30, 0x59, 0x23, 5, 0x31, 0x12, 0x99 } },
};

static char line[120];
static struct pintle_text text;
static struct pintle_sample sample;

static void print_sample(const char *name, const struct pintle_part *part)
{
    const struct pintle_channel *channels = pintle_table_pointer(&part->channels);
    pintle_text_init(&text, line, sizeof line);
    pintle_text_string(&text, name);
    for (uint8_t c = 0; c < pintle_table_u8(&part->channel_count); c++) {
        pintle_text_char(&text, ' ');
        pintle_text_reading(&text, &channels[c], &sample.channel[c]);
        pintle_text_char(&text, ' ');
        pintle_text_quality(&text, sample.channel[c].quality);
    }
    pintle_text_char(&text, '\n');
    send(line);
}

/* A bus with one chip that only holds bytes: a BME280 with the example's trim and data. */
static enum pintle_status transfer(void *context, uint8_t address,
                                   const struct pintle_segment *segments, uint8_t count,
                                   uint32_t limit_us)
{
    static const uint8_t data[] = { 0x65, 0x5a, 0xc0, 0x7e, 0xed, 0x00, 0x80, 0xe8 };
    uint8_t reg = segments[0].out[0];
    (void)context;
    (void)limit_us;
    for (uint16_t k = 0; count == 2 && k < segments[1].length; k++) {
        uint8_t *to = &segments[1].in[k];
        *to = 0;
        if (reg == 0xd0) {
            *to = 0x60;
        } else if (reg == 0xf7) {
            *to = data[k];
        } else if (reg == 0x88 || reg == 0xe1) {
            *to = pintle_table_u8(&trim_table[(reg == 0xe1 ? 26 : 0) + k]);
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
    static const struct pintle_i2c_calls calls = { transfer, 0 };
    static const struct pintle_clock_calls clock_calls = { now_us, sleep_us, 0, 0 };
    static const struct pintle_i2c bus = { &calls, 0, 0 };
    static const struct pintle_clock clock = { &clock_calls, 0 };
    static struct pintle_sensor sensor;
    static uint8_t trim[PINTLE_BME280_TRIM];
    if (pintle_sensor_on_i2c(&sensor, &pintle_bme280, &bus, &clock, 0x77, trim) != PINTLE_OK
        || pintle_sensor_read(&sensor, &sample) != PINTLE_OK
        || pintle_sensor_read(&sensor, &sample) != PINTLE_OK) {
        send("the engine failed\n");
        return;
    }
    print_sample("engine", &pintle_bme280);
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
    send(line);
}

static void print_fit(void)
{
    struct pintle_fit fit;
    struct pintle_line fitted;
    memset(&fit, 0, sizeof fit);
    pintle_fit_add(&fit, 101000, 101110);
    pintle_fit_add(&fit, 101100, 101211);
    pintle_fit_add(&fit, 101200, 101312);
    pintle_text_init(&text, line, sizeof line);
    if (pintle_fit_line(&fit, &fitted) == PINTLE_OK) {
        pintle_text_fixed(&text, fitted.correction.gain, 4);
        pintle_text_char(&text, ' ');
        pintle_text_fixed(&text, 101100 * fitted.correction.gain + fitted.correction.offset, 1);
    }
    pintle_text_char(&text, '\n');
    send(line);
}

int main(void)
{
    uint8_t trim[PINTLE_BME280_TRIM];
    UCSR0B = 1 << TXEN0;
    pintle_table_copy(trim, trim_table, sizeof trim);
    for (uint8_t i = 0; i < sizeof rows / sizeof rows[0]; i++) {
        struct row row;
        pintle_table_copy(&row, &rows[i], sizeof row);
        const struct pintle_block block = { row.raw, trim, 0 };
        pintle_part_decode(row.part, row.settings, &block, &sample);
        print_sample(row.name, row.part);
    }
    measure();
    print_schedule();
    print_fit();
    cli();
    sleep_enable();
    sleep_cpu(); /* the emulator ends here */
    return 0;
}
