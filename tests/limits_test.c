/* Limits that chips watch by themselves: what is told, by the chip's flag and by its pin, against
 * the world. */
#include "support.h"

static void expose(struct bench *bench, double celsius)
{
    struct pintle_sim_curve curve = { .level = celsius };
    CU_ASSERT_EQUAL(pintle_sim_feel(bench->chip, "temperature", &curve), PINTLE_OK);
    pintle_sim_pass(&bench->sim, 9000000); /* two conversions of the slowest rate */
}

static void flag_and_pin(void)
{
    static const struct {
        const char *name;
        const struct pintle_part *part;
        uint8_t setting, option;
        double celsius[5];
        uint8_t told[5];
    } rows[] = {
        /* its low limit is where it stops */
        { "TMP102, 12 bits",
          &pintle_tmp102,
          PINTLE_TMP102_RATE,
          PINTLE_TMP102_0_25_HZ,
          { 20, 31, 25, -10.5, 0 },
          { 0, PINTLE_LIMITS_ABOVE, PINTLE_LIMITS_ABOVE, 0, 0 } },
        { "TMP102, 13 bits",
          &pintle_tmp102,
          PINTLE_TMP102_FORMAT,
          PINTLE_TMP102_13_BIT,
          { 20, 31, 25, -10.5, 0 },
          { 0, PINTLE_LIMITS_ABOVE, PINTLE_LIMITS_ABOVE, 0, 0 } },
        { "MCP9808",
          &pintle_mcp9808,
          PINTLE_MCP9808_RESOLUTION,
          PINTLE_MCP9808_0_0625_DEGC,
          { 20, 31, 25, -10.5, 0 },
          { 0, PINTLE_LIMITS_ABOVE, 0, PINTLE_LIMITS_BELOW, 0 } },
    };
    for (size_t i = 0; i < COUNT(rows); i++) {
        struct bench bench;
        struct pintle_limits limits;
        bench_make(&bench, rows[i].part, bench_place(rows[i].part));
        CU_ASSERT_EQUAL(pintle_sim_error(bench.chip, "temperature", 0), PINTLE_OK);
        CU_ASSERT_EQUAL(pintle_sensor_set(&bench.sensor, rows[i].setting, rows[i].option),
                        PINTLE_OK);
        expose(&bench, 20);
        CU_ASSERT_EQUAL_FATAL(pintle_limits_set(&limits, &bench.sensor, -10, 30), PINTLE_OK);
        for (size_t k = 0; k < 5; k++) {
            uint8_t beyond = 0xff;
            expose(&bench, rows[i].celsius[k]);
            EXPECT(pintle_sim_interrupt(bench.chip) == (rows[i].told[k] == 0), "%s: pin at %g",
                   rows[i].name, rows[i].celsius[k]);
            CU_ASSERT_EQUAL(pintle_limits_ask(&limits, &beyond), PINTLE_OK);
            EXPECT(beyond == rows[i].told[k], "%s: %u at %g", rows[i].name, beyond,
                   rows[i].celsius[k]);
        }
    }
}

/* A value is measured in between; then the supply goes, and the limits with it. */
static void lost_and_set_again(void)
{
    static const struct pintle_part *const parts[] = { &pintle_tmp102, &pintle_mcp9808 };
    for (size_t i = 0; i < COUNT(parts); i++) {
        struct bench bench;
        struct pintle_limits limits;
        struct pintle_sample sample;
        uint8_t beyond = 0xff;
        bench_make(&bench, parts[i], bench_place(parts[i]));
        expose(&bench, 20);
        CU_ASSERT_EQUAL_FATAL(pintle_limits_set(&limits, &bench.sensor, -10, 30), PINTLE_OK);
        CU_ASSERT_EQUAL(bench_read(&bench, &sample), PINTLE_OK);
        expose(&bench, 40);
        EXPECT(pintle_sim_interrupt(bench.chip) == 0, "%s: pin", parts[i]->name);
        const struct pintle_sim_fault fault = { .kind = PINTLE_SIM_UNPLUGGED,
                                                .from_us = bench.sim.now_us,
                                                .to_us = bench.sim.now_us + 1000000 };
        CU_ASSERT_EQUAL(pintle_sim_add_fault(&bench.sim, &fault), PINTLE_OK);
        EXPECT(pintle_sim_interrupt(bench.chip) == 1, "%s: unplugged", parts[i]->name);
        EXPECT(pintle_limits_ask(&limits, &beyond) == PINTLE_NO_ANSWER && !beyond, "%s: gone",
               parts[i]->name);
        pintle_sim_pass(&bench.sim, 1000000);
        expose(&bench, 40);
        EXPECT(pintle_sim_interrupt(bench.chip) == 1, "%s: back, and told nothing", parts[i]->name);
        EXPECT(pintle_limits_ask(&limits, &beyond) == PINTLE_MISFIT && !beyond, "%s: back",
               parts[i]->name);
        expose(&bench, 40);
        EXPECT(pintle_limits_ask(&limits, &beyond) == PINTLE_OK && beyond == PINTLE_LIMITS_ABOVE
                   && pintle_sim_interrupt(bench.chip) == 0,
               "%s: again %u", parts[i]->name, beyond);
    }
}

/* What it says right after they are set is by these limits, not by those from before. */
static void the_first_answer(void)
{
    static const struct {
        const struct pintle_part *part;
        float low, high;
        uint8_t told;
    } rows[] = {
        { &pintle_tmp102, -10, 30, PINTLE_LIMITS_ABOVE },  { &pintle_tmp102, 60, 80, 0 },
        { &pintle_mcp9808, -10, 30, PINTLE_LIMITS_ABOVE }, { &pintle_mcp9808, 30, 60, 0 },
        { &pintle_mcp9808, 50, 60, PINTLE_LIMITS_BELOW },
    };
    for (unsigned i = 0; i < 27 * COUNT(rows); i++) { /* wherever its conversions are */
        struct bench bench;
        struct pintle_limits limits;
        uint8_t beyond = 0xff;
        size_t r = i % COUNT(rows);
        bench_make(&bench, rows[r].part, bench_place(rows[r].part));
        expose(&bench, 40);
        pintle_sim_pass(&bench.sim, 10000 * (i / COUNT(rows)));
        CU_ASSERT_EQUAL_FATAL(pintle_limits_set(&limits, &bench.sensor, rows[r].low, rows[r].high),
                              PINTLE_OK);
        CU_ASSERT_EQUAL(pintle_limits_ask(&limits, &beyond), PINTLE_OK);
        EXPECT(beyond == rows[r].told, "%s, %g to %g: %u", rows[r].part->name, (double)rows[r].low,
               (double)rows[r].high, beyond);
    }
}

/* Too warm, and the supply goes for a moment while it is asked: whatever is said, not "within". */
static void lost_while_it_is_asked(void)
{
    static const struct pintle_part *const parts[] = { &pintle_tmp102, &pintle_mcp9808 };
    for (unsigned i = 0; i < 2 * 60; i++) {
        struct bench bench;
        struct pintle_limits limits;
        uint8_t beyond = 0;
        bench_make(&bench, parts[i % 2], bench_place(parts[i % 2]));
        expose(&bench, 40);
        CU_ASSERT_EQUAL_FATAL(pintle_limits_set(&limits, &bench.sensor, -10, 30), PINTLE_OK);
        uint64_t began = bench.sim.now_us;
        CU_ASSERT_EQUAL(pintle_limits_ask(&limits, &beyond), PINTLE_OK);
        uint64_t at = bench.sim.now_us + (bench.sim.now_us - began) * (i / 2) / 60;
        const struct pintle_sim_fault fault = { .kind = PINTLE_SIM_UNPLUGGED,
                                                .from_us = at,
                                                .to_us = at + 5 };
        CU_ASSERT_EQUAL(pintle_sim_add_fault(&bench.sim, &fault), PINTLE_OK);
        enum pintle_status status = pintle_limits_ask(&limits, &beyond);
        EXPECT(status != PINTLE_OK || beyond == PINTLE_LIMITS_ABOVE, "%s, %u/60: within",
               parts[i % 2]->name, i / 2);
    }
}

/* Somebody else writes one of the limits: found out, and put right. */
static void one_is_moved(void)
{
    static const struct {
        const struct pintle_part *part;
        uint16_t low, high;
    } rows[] = { { &pintle_tmp102, 2, 3 }, { &pintle_mcp9808, 3, 2 } };
    for (size_t i = 0; i < 2 * COUNT(rows); i++) {
        struct bench bench;
        struct pintle_limits limits;
        uint8_t beyond = 0;
        uint16_t reg = i % 2 ? rows[i / 2].low : rows[i / 2].high;
        const uint8_t other[] = { (uint8_t)reg, 0x05, 0x00 };
        const struct pintle_segment segment = { other, NULL, sizeof other };
        bench_make(&bench, rows[i / 2].part, bench_place(rows[i / 2].part));
        expose(&bench, 20);
        CU_ASSERT_EQUAL_FATAL(pintle_limits_set(&limits, &bench.sensor, -10, 30), PINTLE_OK);
        CU_ASSERT_EQUAL(pintle_i2c_transfer(&bench.bus, bench_place(rows[i / 2].part), &segment, 1),
                        PINTLE_OK);
        EXPECT(pintle_limits_ask(&limits, &beyond) == PINTLE_MISFIT, "%s, register %u",
               rows[i / 2].part->name, reg);
        expose(&bench, 20);
        EXPECT(pintle_limits_ask(&limits, &beyond) == PINTLE_OK && !beyond, "%s, register %u again",
               rows[i / 2].part->name, reg);
    }
}

/* A pin that tells of each new sample: low behind a reading, high when the next one is there, and
 * (RM-MPU-6000A-00 4.24, DS-000189 8.7) for 50 us or (ADXL345 table 20, DocID15094 7.4) until it is
 * read. No poll is needed then: the next collect has it at once. */
static void new_samples(void)
{
    static const struct {
        const struct pintle_part *part;
        uint32_t period_us, pulse_us;
    } rows[] = {
        { &pintle_mpu6050, 10000, 50 },
        { &pintle_icm20948, 8889, 50 },
        { &pintle_adxl345, 10000, 0 },
        { &pintle_lis331dlh, 20000, 0 },
    };
    for (size_t i = 0; i < COUNT(rows); i++) {
        struct bench bench;
        struct pintle_sample sample;
        const char *name = rows[i].part->name;
        uint32_t waited = 0;
        bench_make(&bench, rows[i].part, bench_place(rows[i].part));
        CU_ASSERT_EQUAL(bench_read(&bench, &sample), PINTLE_OK);
        pintle_sim_pass(&bench.sim, rows[i].pulse_us);
        EXPECT(!pintle_sim_interrupt(bench.chip), "%s: low when it was read", name);
        for (; !pintle_sim_interrupt(bench.chip) && waited < 2 * rows[i].period_us; waited += 10) {
            pintle_sim_pass(&bench.sim, 10);
        }
        EXPECT(waited > rows[i].period_us / 2 && waited < rows[i].period_us * 1.1,
               "%s: after %u us", name, waited);
        pintle_sim_pass(&bench.sim, 60);
        EXPECT(pintle_sim_interrupt(bench.chip) == !rows[i].pulse_us, "%s: a pulse", name);
        uint64_t before = bench.sim.now_us;
        CU_ASSERT_EQUAL(pintle_sample_read(&bench.sensor, &sample), PINTLE_OK);
        EXPECT(bench.sim.now_us - before < 3000 && !pintle_sim_interrupt(bench.chip),
               "%s: read in %u us", name, (unsigned)(bench.sim.now_us - before));
    }
}

/* The clock's output, low from the alarm on until its flag is cleared. */
static void alarm_pin(void)
{
    struct bench bench;
    uint8_t went = 0;
    bench_make(&bench, &pintle_ds3231, 0x68);
    CU_ASSERT_EQUAL(pintle_time_alarm(&bench.sensor, PINTLE_EVERY_MINUTE, 0, 0, 30), PINTLE_OK);
    CU_ASSERT_EQUAL(pintle_sim_interrupt(bench.chip), 1);
    pintle_sim_pass(&bench.sim, 60000000);
    CU_ASSERT_EQUAL(pintle_sim_interrupt(bench.chip), 0);
    CU_ASSERT_EQUAL(pintle_time_alarmed(&bench.sensor, &went), PINTLE_OK);
    EXPECT(went && pintle_sim_interrupt(bench.chip), "the alarm's pin");
}

static void refused(void)
{
    struct bench bench;
    struct pintle_limits limits;
    bench_make(&bench, &pintle_sht31, 0x44);
    CU_ASSERT_EQUAL(pintle_limits_set(&limits, &bench.sensor, 0, 10), PINTLE_NO_ABILITY);
    bench_make(&bench, &pintle_mcp9808, 0x18);
    CU_ASSERT_EQUAL(pintle_limits_set(&limits, &bench.sensor, 10, NAN), PINTLE_OUT_OF_RANGE);
    bench_make(&bench, &pintle_tmp102, 0x48);
    CU_ASSERT_EQUAL(pintle_limits_set(&limits, &bench.sensor, 0, 128), PINTLE_OUT_OF_RANGE);
    CU_ASSERT_EQUAL(pintle_sensor_set(&bench.sensor, PINTLE_TMP102_MODE, PINTLE_TMP102_ONE_SHOT),
                    PINTLE_OK);
    CU_ASSERT_EQUAL(pintle_limits_set(&limits, &bench.sensor, 0, 10), PINTLE_MISFIT);
    expect_said(NULL, "limits --demo cabin --high 3", 2, "MCP9808, TMP102 have");
    expect_said(NULL, "limits --demo sea --high 3 --low 4", 2, "must not be above");
    expect_said(NULL, "limits --demo sea --high warm", 2, "'warm' is no number of degC");
    expect_said(NULL, "limits --demo sea", 2, "--low, --high or both");
}

/* 50 degC, which the world's engine passes 14 minutes after nine. */
static void command(void)
{
    static const char *const calls[] = {
        "limits --demo engine --high 50 --for 20min --at 9h",
        "limits --demo engine --high 122 --unit degF --for 20min --at 9h",
    };
    for (size_t i = 0; i < COUNT(calls); i++) {
        struct said said = tool(NULL, calls[i]);
        EXPECT(said.status == 0 && says(said.out, "T09:00:00.2") && says(said.out, "pin is high")
                   && says(said.out, "T09:14:0")
                   && says(said.out, "is above the high limit; its pin is low"),
               "%s: %s%s", calls[i], said.out, said.err);
        said_free(&said);
    }
    struct said said = tool(NULL, "limits --demo sea --high 30 --for 3h --at 15h");
    EXPECT(said.status == 0 && says(said.out, "cannot be asked: nothing answered")
               && says(said.out, "had lost its limits, which are set again"),
           "unplugged for a while: %s%s", said.out, said.err);
    said_free(&said);
    expect_said(NULL, "limits --demo sea --high 30 --for 1h --at 15h", 1, "nothing answered");
    expect_said(NULL, "limits --demo sea --high 30 --at 16h", 1, "watching 'sea' failed");
}

void add_limits_suite(void)
{
    SUITE("limits", { "flag and pin", flag_and_pin }, { "lost and set again", lost_and_set_again },
          { "the first answer", the_first_answer },
          { "lost while it is asked", lost_while_it_is_asked }, { "one is moved", one_is_moved },
          { "new samples", new_samples }, { "alarm pin", alarm_pin }, { "refused", refused },
          { "command", command });
}
