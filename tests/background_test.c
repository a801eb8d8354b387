/* I2C transfers that go on by themselves (pintle_i2c_in_background): the values are the same,
 * nobody takes another's for its own, and a controller that never ends is given up. */
#include "support.h"

static void in_background(struct bench *bench, struct pintle_background *room)
{
    CU_ASSERT_EQUAL_FATAL(pintle_i2c_in_background(&bench->bus, room), PINTLE_OK);
}

/* Until it is over; returns how often it was not. */
static unsigned collect(struct pintle_sensor *sensor, struct pintle_sample *sample,
                        enum pintle_status *status)
{
    unsigned later = 0;
    const struct pintle_clock *clock = sensor->bus.any->clock;
    while ((*status = pintle_sample_collect(sensor, sample)) == PINTLE_NOT_READY) {
        clock->calls->sleep_us(clock->context, pintle_sensor_wait_us(sensor) + 1);
        later++;
    }
    return later;
}

static void every_part(void)
{
    for (size_t p = 0; p < measuring_count(); p++) {
        const struct pintle_sheet *sheet = measuring_at(p);
        struct bench bench;
        struct pintle_background room;
        struct pintle_sample sample;
        enum pintle_status status = PINTLE_OK;
        if (sheet->part->link->kind != PINTLE_BUS_I2C) {
            continue;
        }
        bench_make(&bench, sheet->part, bench_place(sheet->part));
        in_background(&bench, &room);
        bench_move_on(&bench, sheet);
        CU_ASSERT_EQUAL(bench_read(&bench, &sample), PINTLE_OK);
        for (int i = 0; i < 5; i++) {
            bench_move_on(&bench, sheet);
            CU_ASSERT_EQUAL(pintle_sensor_start(&bench.sensor), PINTLE_OK);
            unsigned later = collect(&bench.sensor, &sample, &status);
            EXPECT(status == PINTLE_OK && bench_lies(&bench, &sample) == 0, "%s: %s",
                   sheet->part->name, pintle_status_word(status));
            EXPECT(later >= 3, "%s: gone on by itself, seen %u times", sheet->part->name, later);
        }
    }
}

/* Two thermometers whose measurements are under way beside each other, in every order of calls. */
static void beside_each_other(void)
{
    struct bench bench;
    struct pintle_background room;
    struct pintle_tmp102 warm;
    struct pintle_sample sample[2];
    bench_make(&bench, &pintle_tmp102, 0x48);
    struct pintle_sim_chip *chip = pintle_sim_add(&bench.sim, "TMP102", 0, 0x49);
    bench.chip->feels[0].level = 14.5;
    chip->feels[0].level = 61.5;
    in_background(&bench, &room);
    pintle_sim_pass(&bench.sim, 1000000);
    CU_ASSERT_EQUAL_FATAL(pintle_tmp102_on_i2c(&warm, &bench.bus, 0x49), PINTLE_OK);
    struct pintle_sensor *sensor[2] = { &bench.sensor, &warm.sensor };
    srand(7);
    unsigned good[2] = { 0, 0 };
    bool begun[2] = { false, false };
    for (int i = 0; i < 20000; i++) {
        unsigned w = below(2);
        enum pintle_status status = PINTLE_NOT_READY;
        if (!begun[w]) {
            begun[w] = pintle_sensor_start(sensor[w]) == PINTLE_OK;
        } else if (below(50) == 0) { /* somebody reads and writes by hand meanwhile */
            static const struct pintle_reg limit = PINTLE_REG(0x03, 2, 0);
            uint32_t value = 0;
            CU_ASSERT_EQUAL(pintle_reg_write(sensor[w], &limit, 0x5000), PINTLE_OK);
            EXPECT(pintle_reg_read(sensor[w], &limit, &value) == PINTLE_OK && value == 0x5000,
                   "the limit reads %04x", (unsigned)value);
        } else if (below(50) == 0) { /* or begins anew, or asks who is there */
            begun[w] = pintle_sensor_start(sensor[w]) == PINTLE_OK;
            CU_ASSERT_EQUAL(pintle_i2c_probe(&bench.bus, 0x4b), PINTLE_NO_ANSWER);
        } else {
            status = pintle_sample_collect(sensor[w], &sample[w]);
            begun[w] = status == PINTLE_NOT_READY;
            EXPECT(status == PINTLE_OK || begun[w], "%u: %s", w, pintle_status_word(status));
        }
        if (status == PINTLE_OK) {
            double off = (double)sample[w].channel[0].value - (w ? 61.5 : 14.5);
            EXPECT(fabs(off) <= 2, "%u is off by %g", w, off);
            good[w]++;
        }
        pintle_sim_pass(&bench.sim, below(3) ? below(40) : below(40000));
    }
    EXPECT(good[0] > 200 && good[1] > 200, "%u and %u readings", good[0], good[1]);
}

/* A read of one waits for what another has begun, and leaves that to it. */
static void one_waits_for_another(void)
{
    struct bench bench;
    struct pintle_background room;
    struct pintle_sht31 damp;
    struct pintle_sample sample;
    enum pintle_status status = PINTLE_OK;
    bench_make(&bench, &pintle_tmp102, 0x48);
    CU_ASSERT_PTR_NOT_NULL_FATAL(pintle_sim_add(&bench.sim, "SHT31", 0, 0x44));
    in_background(&bench, &room);
    pintle_sim_pass(&bench.sim, 1000000);
    CU_ASSERT_EQUAL_FATAL(pintle_sht31_on_i2c(&damp, &bench.bus, 0x44), PINTLE_OK);
    CU_ASSERT_EQUAL(pintle_sensor_read(&damp.sensor), PINTLE_OK);
    for (int i = 0; i < 20; i++) {
        CU_ASSERT_EQUAL(pintle_sensor_start(&damp.sensor), PINTLE_OK);
        CU_ASSERT_EQUAL(pintle_sample_read(&bench.sensor, &sample), PINTLE_OK);
        CU_ASSERT_EQUAL(bench_lies(&bench, &sample), 0);
        collect(&damp.sensor, &sample, &status);
        CU_ASSERT_EQUAL(status, PINTLE_OK);
    }
}

/* A register that is read by hand, at any point of a measurement with two reads in a row. */
static void by_hand_meanwhile(void)
{
    static const struct pintle_reg configuration = PINTLE_REG(0x00, 2, 0);
    struct bench bench;
    struct pintle_background room;
    struct pintle_sample sample;
    bench_make(&bench, &pintle_ina219, 0x40);
    in_background(&bench, &room);
    pintle_sim_pass(&bench.sim, 1000000);
    CU_ASSERT_EQUAL(bench_read(&bench, &sample), PINTLE_OK);
    uint32_t first = 0;
    CU_ASSERT_EQUAL(pintle_reg_read(&bench.sensor, &configuration, &first), PINTLE_OK);
    for (unsigned at = 0; at < 30; at++) {
        enum pintle_status status = pintle_sensor_start(&bench.sensor);
        for (unsigned i = 0; status == PINTLE_OK || status == PINTLE_NOT_READY; i++) {
            uint32_t value = 0;
            if (i == at) {
                CU_ASSERT_EQUAL(pintle_reg_read(&bench.sensor, &configuration, &value), PINTLE_OK);
                EXPECT(value == first, "at %u: %04x, not %04x", at, value, first);
            }
            pintle_sim_pass(&bench.sim, pintle_sensor_wait_us(&bench.sensor) + 1);
            status = pintle_sample_collect(&bench.sensor, &sample);
            if (status == PINTLE_OK) {
                break;
            }
        }
        EXPECT(status == PINTLE_OK && bench_lies(&bench, &sample) == 0, "at %u: %s", at,
               pintle_status_word(status));
    }
}

/* --- controllers that fail --- */

static struct pintle_i2c well;
static bool never_ends, is_stuck;
static unsigned asked, started;

static enum pintle_status start(void *context, uint8_t address,
                                const struct pintle_segment *segments, uint8_t count,
                                uint32_t limit_us)
{
    started++;
    return well.calls->start(context, address, segments, count, limit_us);
}

static enum pintle_status done(void *context)
{
    asked++;
    enum pintle_status status = never_ends ? PINTLE_NOT_READY : well.calls->done(context);
    return is_stuck && status == PINTLE_OK ? PINTLE_DATA_STUCK : status;
}

static enum pintle_status recover(void *context)
{
    (void)context;
    return PINTLE_OK;
}

static enum pintle_status transfer(void *context, uint8_t address,
                                   const struct pintle_segment *segments, uint8_t count,
                                   uint32_t limit_us)
{
    enum pintle_status status = well.calls->transfer(context, address, segments, count, limit_us);
    return is_stuck && status == PINTLE_OK ? PINTLE_DATA_STUCK : status;
}

/* Wherever a measurement is when it is begun anew, all of it is done anew: what of the old one was
 * under way is not taken for a step of the new. */
static void begun_anew(void)
{
    static const struct pintle_i2c_calls calls = { .transfer = transfer,
                                                   .start = start,
                                                   .done = done };
    unsigned all = 0;
    for (unsigned steps = 0; steps < 20; steps++) {
        struct bench bench;
        struct pintle_background room;
        struct pintle_sample sample;
        enum pintle_status status = PINTLE_OK;
        bench_make(&bench, &pintle_tmp102, 0x48);
        well = bench.bus;
        bench.bus.calls = &calls;
        in_background(&bench, &room);
        CU_ASSERT_EQUAL(
            pintle_sensor_set(&bench.sensor, PINTLE_TMP102_MODE, PINTLE_TMP102_ONE_SHOT),
            PINTLE_OK);
        pintle_sim_pass(&bench.sim, 1000000);
        CU_ASSERT_EQUAL(bench_read(&bench, &sample), PINTLE_OK);
        started = 0;
        CU_ASSERT_EQUAL(pintle_sensor_read(&bench.sensor), PINTLE_OK);
        all = started;
        CU_ASSERT_EQUAL(pintle_sensor_start(&bench.sensor), PINTLE_OK);
        for (unsigned i = 0; i < steps; i++) {
            pintle_sim_pass(&bench.sim, pintle_sensor_wait_us(&bench.sensor) + 1);
            (void)!pintle_sample_collect(&bench.sensor, &sample);
        }
        started = 0;
        CU_ASSERT_EQUAL(pintle_sensor_start(&bench.sensor), PINTLE_OK);
        collect(&bench.sensor, &sample, &status);
        EXPECT(status == PINTLE_OK && bench_lies(&bench, &sample) == 0 && started == all
                   && started == 2,
               "after %u steps: %s, %u transfers, not %u", steps, pintle_status_word(status),
               started, all);
    }
}

/* It fails each time, and each time the bus can be freed: it is tried once more, and no oftener. */
static void fails_again(void)
{
    static const struct pintle_i2c_calls calls = {
        .transfer = transfer, .recover = recover, .start = start, .done = done
    };
    struct bench bench;
    struct pintle_background room;
    struct pintle_sample sample;
    bench_make(&bench, &pintle_tmp102, 0x48);
    well = bench.bus;
    bench.bus.calls = &calls;
    in_background(&bench, &room);
    CU_ASSERT_EQUAL(bench_read(&bench, &sample), PINTLE_OK);
    CU_ASSERT_EQUAL(pintle_sensor_start(&bench.sensor), PINTLE_OK);
    is_stuck = true;
    enum pintle_status status = PINTLE_NOT_READY;
    unsigned left = 1000;
    for (; status == PINTLE_NOT_READY && left > 0; left--) {
        pintle_sim_pass(&bench.sim, pintle_sensor_wait_us(&bench.sensor) + 1);
        status = pintle_sample_collect(&bench.sensor, &sample);
    }
    is_stuck = false;
    EXPECT(status == PINTLE_DATA_STUCK && left > 900, "%s, %u tries left",
           pintle_status_word(status), left);
    CU_ASSERT_EQUAL(bench_read(&bench, &sample), PINTLE_OK);
}

static void never_over(void)
{
    static const struct pintle_i2c_calls calls = { .transfer = transfer,
                                                   .start = start,
                                                   .done = done };
    struct bench bench;
    struct pintle_background room;
    struct pintle_sample sample;
    bench_make(&bench, &pintle_tmp102, 0x48);
    well = bench.bus;
    bench.bus.calls = &calls;
    in_background(&bench, &room);
    CU_ASSERT_EQUAL(bench_read(&bench, &sample), PINTLE_OK);
    never_ends = true;
    asked = 0;
    uint64_t before = bench.sim.now_us;
    CU_ASSERT_EQUAL(pintle_sample_read(&bench.sensor, &sample), PINTLE_TIME_LIMIT);
    EXPECT(bench.sim.now_us - before < 200000 && asked > 10, "asked %u times in %u us", asked,
           (unsigned)(bench.sim.now_us - before));
    CU_ASSERT_TRUE(isnan((double)sample.channel[0].value));
    CU_ASSERT_EQUAL(pintle_sensor_start(&bench.sensor), PINTLE_OK);
    CU_ASSERT_EQUAL(pintle_i2c_probe(&bench.bus, 0x48), PINTLE_OK); /* nor does it hold up others */
    never_ends = false;
}

static void what_it_needs(void)
{
    static const struct pintle_i2c_calls plain = { .transfer = transfer };
    struct bench bench;
    struct pintle_background room;
    bench_make(&bench, &pintle_tmp102, 0x48);
    well = bench.bus;
    bench.bus.calls = &plain;
    CU_ASSERT_EQUAL(pintle_i2c_in_background(&bench.bus, &room), PINTLE_UNSUPPORTED);
    CU_ASSERT_PTR_NULL(bench.bus.background);
}

void add_background_suite(void)
{
    SUITE("background", { "every part", every_part }, { "beside each other", beside_each_other },
          { "one waits for another", one_waits_for_another }, { "begun anew", begun_anew },
          { "by hand meanwhile", by_hand_meanwhile }, { "fails again", fails_again },
          { "never over", never_over }, { "what it needs", what_it_needs });
}
