/* A whole logger for a small microcontroller: one thermometer, aligned to the minute, one CSV line
 * each. It is built for every cross target to see what such a program costs; with a real port in
 * the place of the skeleton it runs. */
#include "pintle/pintle.h"

#include "skeleton.h"

/* Where the bytes go: your serial port. */
volatile char logger_out;

static void send(const char *line)
{
    while (*line) {
        logger_out = *line++;
    }
}

int main(void)
{
    static struct pintle_i2c bus;
    static struct pintle_clock clock;
    static struct pintle_sensor sensor;
    static struct pintle_sample sample;
    static struct pintle_schedule minute = { 60000000, 0 };
    static char line[64];
    const struct pintle_channel *channels = pintle_table_pointer(&pintle_tmp102.channels);
    uint32_t record = 0;

    bus = skeleton_i2c(NULL);
    clock = skeleton_clock(NULL);
    if (pintle_sensor_on_i2c(&sensor, &pintle_tmp102, &bus, &clock, 0x48, NULL) != PINTLE_OK) {
        return 1;
    }
    for (;;) {
        int64_t now = 0;
        if (clock.calls->get_wall_us(clock.context, &now) != PINTLE_OK) {
            now = (int64_t)clock.calls->now_us(clock.context);
        }
        int64_t slot = pintle_schedule_next(&minute, now, NULL);
        clock.calls->sleep_us(clock.context, (uint32_t)(slot - now));

        enum pintle_status status = pintle_sensor_read(&sensor, &sample);
        struct pintle_text text;
        pintle_text_init(&text, line, sizeof line);
        pintle_text_whole(&text, ++record, 1);
        pintle_text_char(&text, ',');
        pintle_text_time(&text, slot, 0, 0);
        pintle_text_char(&text, ',');
        pintle_text_reading(&text, &channels[0], &sample.channel[0]);
        pintle_text_char(&text, ',');
        if (status == PINTLE_OK) {
            pintle_text_quality(&text, sample.channel[0].quality);
        } else {
            pintle_text_table(&text, pintle_status_word(status));
        }
        pintle_text_string(&text, "\r\n");
        send(line);
    }
}
