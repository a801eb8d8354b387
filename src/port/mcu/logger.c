/* A whole logger for a small microcontroller: one sensor, aligned to the minute, one CSV line each,
 * the time in seconds since the start where the board has no wall clock. `make check` builds it for
 * each port and each part, to see what such a program costs, and runs it in an emulator. */
#include "board.h"
#include "pintle/pintle.h"

/* Which part on which bus, and its address or select line. */
#ifndef LOGGER_PART
#define LOGGER_PART tmp102
#define LOGGER_HEADER "pintle/parts/tmp102.h"
#define LOGGER_BUS i2c
#define LOGGER_PLACE 0x48
#endif
#ifndef LOGGER_WHERE
#define LOGGER_WHERE &bus, LOGGER_PLACE /* a serial line has no places */
#endif
#ifndef LOGGER_SECONDS
#define LOGGER_SECONDS 60
#endif
#define JOIN2(a, b) a##b
#define JOIN(a, b) JOIN2(a, b)
#define PART JOIN(pintle_, LOGGER_PART)

#include LOGGER_HEADER

#define LONGEST_US 60000000 /* of one sleep */

static char line[120];

static void tell(uint32_t record, const struct pintle_sensor *sensor, int64_t slot)
{
    struct pintle_text text;
    pintle_text_init(&text, line, sizeof line);
    pintle_text_whole(&text, record, 1);
    pintle_text_char(&text, ',');
    pintle_text_line(&text, sensor, slot);
    board_say(line);
}

int main(void)
{
    static struct JOIN(pintle_, LOGGER_BUS) bus;
    static struct PART logged;
    const struct pintle_clock *clock = &board_clock;
    struct pintle_schedule slots = { LOGGER_SECONDS * 1000000LL, 0 };
    uint32_t record = 0;

    board_start();
    if (JOIN(board_, LOGGER_BUS)(&bus) != PINTLE_OK
        || JOIN(PART, JOIN(_on_, LOGGER_BUS))(&logged, LOGGER_WHERE) != PINTLE_OK) {
        return 1;
    }
    for (;;) {
        int64_t now = 0;
        if (!clock->calls->get_wall_us
            || clock->calls->get_wall_us(clock->context, &now) != PINTLE_OK) {
            now = (int64_t)clock->calls->now_us(clock->context);
        }
        int64_t slot = pintle_schedule_next(&slots, now, NULL);
#if LOGGER_SECONDS > 3600 /* more than 32 bits of microseconds hold */
        for (; slot - now > LONGEST_US; now += LONGEST_US) {
            clock->calls->sleep_us(clock->context, LONGEST_US);
        }
#endif
        clock->calls->sleep_us(clock->context, (uint32_t)(slot - now));
        (void)!pintle_sensor_read(&logged.sensor); /* its line says how that went */
        tell(++record, &logged.sensor, slot);
    }
}
