/* Instructions per reading: the engine, or the same transfers and formula written by hand, bare or
 * with the same marks, limits and time stamp.
 *
 *     readings PART engine|hand|marked sim|stub COUNT
 *
 * `sim` runs on the simulated bus with its chip; `stub` on a bus that only copies canned bytes, so
 * that next to nothing but the driver is left. bench/run counts two COUNTs under callgrind and
 * takes the difference. */
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "by_hand.h"
#include "pintle/sim.h"

struct subject {
    const char *name;
    const struct pintle_part *part;
    uint8_t address;
    float (*by_hand)(struct hand *hand);
    int (*marked)(struct hand *hand, struct pintle_sample *sample);
};

static const struct subject subjects[] = {
    { "TMP102", &pintle_tmp102, 0x48, hand_tmp102, marked_tmp102 },
    { "SHT31", &pintle_sht31, 0x44, hand_sht31, marked_sht31 },
    { "BME280", &pintle_bme280, 0x76, hand_bme280, marked_bme280 },
    { "DS3231", &pintle_ds3231, 0x68, hand_ds3231, marked_ds3231 },
};

/* Canned answers: a stretch of registers for each part that has an address counter. */
static uint8_t bme280[256] = { [0x88] = 0x70, 0x6b, 0x43, 0x67, 0x18, 0xfc,          0x7d,
                               0x8e,          0x43, 0xd6, 0xd0, 0x0b, 0x27,          0x0b,
                               0x8c,          0x00, 0xf9, 0xff, 0x8c, 0x3c,          0xf8,
                               0xc6,          0x70, 0x17, 0x00, 0x4b, [0xd0] = 0x60, [0xe1] = 0x6f,
                               0x01,          0x00, 0x13, 0x29, 0x03, 0x1e,          [0xf4] = 0x24,
                               [0xf7] = 0x65, 0x5a, 0xc0, 0x7e, 0xed, 0x00,          0x80,
                               0xe8 };
static uint8_t ds3231[] = { /* from STATUS on, around to the date */
                            [0x06] = 0x26, [0x0f] = 8, 0, 0x19, 0x40, 0, 0, 0, 5, 0x12, 6, 0x26
};
static uint8_t sht31_data[] = { 0xbe, 0xef, 0x92, 0x80, 0x00, 0xa2 };
static uint8_t sht31_status[] = { 0x80, 0x10, 0xe1 };
static uint8_t tmp102[2][2] = { { 0x19, 0x10 }, { 0x60, 0xa0 } };

static const struct subject *subject;
static uint64_t stub_us;

static uint8_t pointer;

/* What is written moves the pointer, and a BME280 keeps it: pairs of a register and a byte; it has
 * measured at once. */
static void keep(const struct pintle_segment *segment)
{
    pointer = segment->out[0];
    for (uint16_t i = 0; subject->address == 0x76 && i + 1 < segment->length;
         i = (uint16_t)(i + 2)) {
        bme280[segment->out[i]] = segment->out[i + 1] & (segment->out[i] == 0xf4 ? 0xfc : 0xff);
    }
}

static const uint8_t *canned(const struct pintle_segment *segments, uint16_t length)
{
    uint8_t reg = segments[0].out ? segments[0].out[0] : pointer;
    switch (subject->address) {
    case 0x48:
        return tmp102[reg & 1];
    case 0x44:
        return length == 3 ? sht31_status : sht31_data;
    case 0x68:
        return &ds3231[reg];
    default:
        return &bme280[reg];
    }
}

static enum pintle_status stub_transfer(void *context, uint8_t address,
                                        const struct pintle_segment *segments, uint8_t count,
                                        uint32_t limit_us)
{
    const struct pintle_segment *last = &segments[count - 1];
    (void)context;
    (void)limit_us;
    if (address != subject->address) {
        return PINTLE_NO_ANSWER;
    }
    if (segments[0].out) {
        keep(&segments[0]);
    }
    if (last->in) {
        memcpy(last->in, canned(segments, last->length), last->length);
    }
    return PINTLE_OK;
}

static uint64_t stub_now(void *context)
{
    (void)context;
    return stub_us;
}

static void stub_sleep(void *context, uint32_t us)
{
    (void)context;
    stub_us += us;
}

/* What is written by hand must say what the engine says of the same bytes. */
static int agree(const struct pintle_sample *a, const struct pintle_sample *b)
{
    for (int i = 0; i < subject->part->channel_count; i++) {
        const struct pintle_reading *x = &a->channel[i];
        const struct pintle_reading *y = &b->channel[i];
        if (x->raw != y->raw || x->value != y->value || x->quality != y->quality) {
            fprintf(stderr, "%d %g %x, not %d %g %x\n", (int)y->raw, (double)y->value, y->quality,
                    (int)x->raw, (double)x->value, x->quality);
            return 0;
        }
    }
    return memcmp(a->raw, b->raw, subject->part->raw_size) == 0;
}

static int run(const char *how, struct pintle_i2c *bus, long count)
{
    struct pintle_any any;
    const struct pintle_room room = pintle_any_room(&any);
    struct pintle_sample sample;
    struct hand hand;
    double sum = 0;
    memset(&sample, 0, sizeof sample);
    if (pintle_sensor_on_i2c(&any.sensor, subject->part, &room, bus, subject->address) != PINTLE_OK
        || pintle_sample_read(&any.sensor, &sample) != PINTLE_OK) {
        return 1;
    }
    hand_init(&hand, bus, subject->address, pintle_sensor_block(&any.sensor).trim);
    struct pintle_sample first = sample;
    for (long i = 0; i < count; i++) {
        if (how[0] == 'h') {
            sum += (double)subject->by_hand(&hand);
            continue;
        }
        if (how[0] == 'm' ? !subject->marked(&hand, &sample)
                          : pintle_sensor_read(&any.sensor) != PINTLE_OK) {
            return 1;
        }
        sum += (double)(how[0] == 'm' ? sample.channel[0].value : any.reading[0].value);
    }
    if (bus->calls->transfer == stub_transfer && how[0] == 'm' && count > 0) {
        if (pintle_sample_read(&any.sensor, &first) != PINTLE_OK || !agree(&first, &sample)) {
            fprintf(stderr, "%s: by hand something else is said\n", subject->name);
            return 1;
        }
    }
    printf("%s mean %.3f\n", subject->name, sum / (double)(count ? count : 1));
    return 0;
}

int main(int argc, char **argv)
{
    static const struct pintle_i2c_calls stub_calls = { .transfer = stub_transfer };
    static const struct pintle_clock_calls stub_clock = { stub_now, stub_sleep, NULL, NULL, NULL };
    static struct pintle_sim sim;
    const struct pintle_clock clock = { &stub_clock, NULL };
    struct pintle_i2c bus = { .calls = &stub_calls,
                              .common = { .clock = &clock, .sole_master = 1 },
                              .bit_ns = 10000 };
    if (argc != 5) {
        return 2;
    }
    for (size_t i = 0; i < sizeof subjects / sizeof subjects[0]; i++) {
        subject = strcmp(subjects[i].name, argv[1]) == 0 ? &subjects[i] : subject;
    }
    if (!subject) {
        return 2;
    }
    if (strcmp(argv[3], "sim") == 0) {
        pintle_sim_init(&sim, 1, 1781222400000000, 1);
        pintle_sim_add(&sim, subject->name, 0, subject->address);
        bus = pintle_sim_i2c(&sim, 0);
    }
    int result = run(argv[2], &bus, atol(argv[4]));
    if (strcmp(argv[3], "sim") == 0) {
        printf("bytes %llu\n", (unsigned long long)sim.bus[0].bytes);
    }
    return result;
}
