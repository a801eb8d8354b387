/* How long a reading takes, in simulated time and on a simulated bus, beside the longest conversion
 * that the datasheet states (which is the simulated chip's, not the driver's), and its bytes; for
 * every part, as its settings are at first, at their quickest and at their slowest. */
#include <stdbool.h>
#include <stdio.h>
#include <string.h>

#include "pintle/pintle.h"
#include "pintle/sample.h"
#include "pintle/sheet.h"
#include "pintle/sim.h"

#define READINGS 20
#define APART_US 250000 /* so that a chip that measures by itself has something new */

struct bench {
    struct pintle_sim sim;
    struct pintle_i2c i2c;
    struct pintle_spi spi;
    struct pintle_onewire line;
    struct pintle_stream stream;
    struct pintle_any any;
    struct pintle_sim_chip *chip;
};

static enum pintle_status seat(struct bench *b, const struct pintle_part *part)
{
    static const uint8_t first_place[] = { [PINTLE_BUS_ONEWIRE] = 1 };
    enum pintle_bus_kind kind = part->link->kind;
    uint8_t place = kind == PINTLE_BUS_I2C      ? part->addresses[0]
                    : kind < sizeof first_place ? first_place[kind]
                                                : 0;
    memset(b, 0, sizeof *b);
    pintle_sim_init(&b->sim, 1, 1781222400000000, 1);
    if (part->frame) {
        b->sim.bus[0].bit_ns = 1000000000u / part->frame->bit_hz;
    }
    b->chip = pintle_sim_add(&b->sim, part->name, 0, place);
    union pintle_any_bus bus = { .i2c = &b->i2c };
    union pintle_place where = { .address = place };
    switch (kind) {
    case PINTLE_BUS_I2C:
        b->i2c = pintle_sim_i2c(&b->sim, 0);
        break;
    case PINTLE_BUS_SPI:
        b->spi = pintle_sim_spi(&b->sim, 0);
        bus.spi = &b->spi;
        break;
    case PINTLE_BUS_ONEWIRE:
        b->line = pintle_sim_onewire(&b->sim, 0);
        bus.onewire = &b->line;
        memcpy(where.code, b->chip->rom.code, sizeof where.code);
        break;
    default:
        b->stream = pintle_sim_stream(&b->sim, 0);
        bus.stream = &b->stream;
        break;
    }
    return pintle_any_on(&b->any, part, kind, bus, &where);
}

/* The option that adds least time (sign -1) or most (+1); the one that is used at first where all
 * add the same. */
static uint8_t option(const struct pintle_part *part, unsigned s, int sign)
{
    const struct pintle_setting *setting = &part->settings[s];
    uint8_t best = setting->initial;
    for (uint8_t o = 0; o < setting->count; o++) {
        int64_t more =
            (int64_t)setting->options[o].time_us - (int64_t)setting->options[best].time_us;
        best = sign * more > 0 ? o : best;
    }
    return best;
}

static int measure(const struct pintle_part *part, const char *how, int sign)
{
    static struct bench b;
    uint64_t took_us = 0;
    uint64_t bytes = 0;
    bool other = sign == 0;
    enum pintle_status status = seat(&b, part);
    for (unsigned s = 0; sign && s < part->setting_count; s++) {
        uint8_t o = option(part, s, sign);
        other = other || o != part->settings[s].initial;
        if (status == PINTLE_OK) {
            status = pintle_sensor_set(&b.any.sensor, (uint8_t)s, o);
        }
    }
    if (!other) {
        return 0;
    }
    for (int i = 0; i <= READINGS && status == PINTLE_OK; i++) {
        uint64_t begun = b.sim.now_us;
        uint64_t before = b.sim.bus[0].bytes;
        status = pintle_sensor_read(&b.any.sensor);
        took_us += i ? b.sim.now_us - begun : 0; /* the first sets up */
        bytes += i ? b.sim.bus[0].bytes - before : 0;
        pintle_sim_pass(&b.sim, APART_US);
    }
    if (status != PINTLE_OK) {
        fprintf(stderr, "%s %s: %s\n", part->name, how, pintle_status_word(status));
        return 1;
    }
    uint32_t longest_us = b.chip->model->longest_us ? b.chip->model->longest_us(b.chip) : 0;
    printf("%-12s %-10s %10.3f %10.3f %7.1f\n", part->name, how, longest_us / 1e3,
           (double)took_us / READINGS / 1e3, (double)bytes / READINGS);
    return 0;
}

int main(void)
{
    const struct pintle_sheet *sheet = NULL;
    int failed = 0;
    printf("%-12s %-10s %10s %10s %7s\n%-12s %-10s %10s %10s %7s\n", "part", "settings",
           "datasheet", "a reading", "bytes", "", "", "ms", "ms", "");
    for (size_t i = 0; (sheet = pintle_sheet_at(i)) != NULL; i++) {
        const struct pintle_part *part = sheet->part;
        if (part->channel_count > 0) {
            failed |= measure(part, "at first", 0) | measure(part, "quickest", -1)
                      | measure(part, "slowest", 1);
        }
    }
    return failed;
}
