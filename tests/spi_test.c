/* SPI: the four modes edge by edge, parts with banks and bursts, what silence looks like. */
#include "support.h"

/* An SPI slave of its own, built on nothing but the definition of the modes: it takes and puts
 * bits on the edges that polarity and phase say. */
struct slave {
    uint8_t mode;
    uint8_t low_first;
    uint8_t level, selected;
    uint8_t data_in, data_out; /* lines */
    uint8_t bits, taken, to_put;
    uint8_t got[4];
    uint64_t now_us, last_edge_us, shortest_us;
};

struct slave_pin {
    struct slave *slave;
    int line; /* 0 clock, 1 data to the slave, 2 data from it, 3 select */
};

static void put(struct slave *s)
{
    s->data_out = s->to_put >> (s->low_first ? s->bits % 8 : 7 - s->bits % 8) & 1;
}

static void edge(struct slave *s, uint8_t level)
{
    uint8_t leading = level != (s->mode >> 1);
    uint8_t taking = (s->mode & 1) ? !leading : leading;
    if (taking) {
        uint8_t at = (uint8_t)(s->low_first ? s->bits % 8 : 7 - s->bits % 8);
        s->taken = (uint8_t)(s->taken | s->data_in << at);
        if (++s->bits % 8 == 0) {
            s->got[s->bits / 8 - 1] = s->taken;
            s->to_put = s->taken; /* each byte comes back as the next */
            s->taken = 0;
        }
    } else {
        put(s);
    }
}

static void slave_drive(void *context, enum pintle_drive drive)
{
    struct slave_pin *pin = context;
    struct slave *s = pin->slave;
    uint8_t level = drive == PINTLE_DRIVE_HIGH;
    if (pin->line == 3) {
        s->selected = !level;
        s->bits = s->taken = 0;
        s->to_put = 0xa5;
        put(s);
    } else if (pin->line == 1) {
        s->data_in = level;
    } else if (pin->line == 0 && level != s->level) {
        s->level = level;
        if (s->selected) {
            s->shortest_us = MIN(s->shortest_us, s->now_us - s->last_edge_us);
            s->last_edge_us = s->now_us;
            edge(s, level);
        }
    }
}

static uint8_t slave_level(void *context)
{
    return ((struct slave_pin *)context)->slave->data_out;
}

static uint64_t slave_now(void *context)
{
    return ((struct slave *)context)->now_us;
}

static void slave_sleep(void *context, uint32_t us)
{
    ((struct slave *)context)->now_us += us;
}

static uint8_t data_low(void *context)
{
    (void)context;
    return 0;
}

static void four_modes(void)
{
    static const struct pintle_pin_calls pin_calls = { slave_drive, slave_level };
    static const struct pintle_clock_calls clock_calls = { slave_now, slave_sleep, NULL, NULL,
                                                           NULL };
    for (uint8_t row = 0; row < 16; row++) {
        struct slave slave = { .mode = row & 3, .low_first = row >> 2 & 1, .shortest_us = 1000000 };
        struct slave_pin pins[4] = { { &slave, 0 }, { &slave, 1 }, { &slave, 2 }, { &slave, 3 } };
        struct pintle_bitbang_spi master;
        const struct pintle_pin select = { &pin_calls, &pins[3] };
        const struct pintle_spi_way way = { .clock_hz = row & 8 ? 100000 : 1000000,
                                            .mode = slave.mode,
                                            .low_bit_first = slave.low_first };
        const uint8_t out[3] = { 0x36, 0xc1, 0x0f };
        uint8_t in[3] = { 0 };
        const struct pintle_segment segments[2] = { { out, in, 2 }, { out + 2, in + 2, 1 } };
        pintle_bitbang_spi_init(&master, (struct pintle_pin){ &pin_calls, &pins[0] },
                                (struct pintle_pin){ &pin_calls, &pins[1] },
                                (struct pintle_pin){ &pin_calls, &pins[2] }, &select, 1,
                                &(struct pintle_clock){ &clock_calls, &slave });
        struct pintle_spi bus = pintle_bitbang_spi_bus(&master);
        CU_ASSERT_EQUAL(bus.calls->transfer(bus.common.context, &way, segments, 2), PINTLE_OK);
        EXPECT(memcmp(slave.got, out, 3) == 0, "mode %u, low bit %s: %02x %02x %02x", slave.mode,
               slave.low_first ? "first" : "last", slave.got[0], slave.got[1], slave.got[2]);
        EXPECT(in[0] == 0xa5 && in[1] == 0x36 && in[2] == 0xc1, "mode %u: back come %02x %02x %02x",
               slave.mode, in[0], in[1], in[2]);
        EXPECT(slave.shortest_us >= (row & 8 ? 5 : 1), "mode %u: half a clock of %u us", slave.mode,
               (unsigned)slave.shortest_us);
        struct pintle_spi_way wrong = way;
        wrong.select = 1;
        CU_ASSERT_EQUAL(bus.calls->transfer(bus.common.context, &wrong, segments, 2),
                        PINTLE_BAD_ARGUMENT);
        wrong = way;
        wrong.mode = 4;
        CU_ASSERT_EQUAL(bus.calls->transfer(bus.common.context, &wrong, segments, 2),
                        PINTLE_BAD_ARGUMENT);
        wrong = way;
        wrong.clock_hz = 0;
        CU_ASSERT_EQUAL(bus.calls->transfer(bus.common.context, &wrong, segments, 2),
                        PINTLE_BAD_ARGUMENT);
    }
}

/* Pins that remember how they were driven last. */
static void remember(void *context, enum pintle_drive drive)
{
    *(int *)context = (int)drive;
}

/* From the beginning nobody is selected, the clock is low and the chips' output is theirs; and
 * after a transfer again. */
static void nobody_is_selected(void)
{
    static const struct pintle_pin_calls pin_calls = { remember, data_low };
    static const struct pintle_clock_calls clock_calls = { slave_now, slave_sleep, NULL, NULL,
                                                           NULL };
    struct slave time = { 0 };
    int driven[6] = { -1, -1, -1, -1, -1, -1 };
    struct pintle_pin pins[6];
    struct pintle_bitbang_spi master;
    for (size_t i = 0; i < COUNT(pins); i++) {
        pins[i] = (struct pintle_pin){ &pin_calls, &driven[i] };
    }
    pintle_bitbang_spi_init(&master, pins[0], pins[1], pins[2], &pins[3], 3,
                            &(struct pintle_clock){ &clock_calls, &time });
    struct pintle_spi bus = pintle_bitbang_spi_bus(&master);
    uint8_t byte = 0;
    const struct pintle_segment segment = { NULL, &byte, 1 }; /* zeros are sent */
    for (int k = 0; k < 2; k++) {
        EXPECT(k == 0 || driven[1] == PINTLE_DRIVE_LOW, "data out is driven %d", driven[1]);
        for (size_t i = 3; i < COUNT(pins); i++) {
            EXPECT(driven[i] == PINTLE_DRIVE_HIGH, "select %zu is driven %d", i - 3, driven[i]);
        }
        EXPECT(driven[0] == PINTLE_DRIVE_LOW && driven[2] == PINTLE_RELEASE, "clock %d, input %d",
               driven[0], driven[2]);
        const struct pintle_spi_way way = { .clock_hz = 1000000, .select = 1 };
        CU_ASSERT_EQUAL(bus.calls->transfer(bus.common.context, &way, &segment, 1), PINTLE_OK);
    }
}

/* The lines of a whole transfer over wires: data stand for half a clock before the edge that takes
 * them and after it, the select comes before the first edge and goes after the last. */
struct scope {
    uint8_t mode;
    double data_ns, took_ns, select_ns, clock_ns;
    double set_up, hold, lead, lag;
    unsigned taken;
};

static void on_edge(void *context, uint8_t line, uint8_t level, uint64_t at_ns)
{
    struct scope *s = context;
    double at = (double)at_ns;
    bool taking = level == (s->mode == 0 || s->mode == 3);
    if (line == PINTLE_SIM_DATA) {
        s->hold = s->taken ? fmin(s->hold, at - s->took_ns) : s->hold;
        s->data_ns = at;
    } else if (line == PINTLE_SIM_CLOCK && s->select_ns > 0) {
        s->lead = s->clock_ns < s->select_ns ? fmin(s->lead, at - s->select_ns) : s->lead;
        s->clock_ns = at;
        if (taking) {
            s->set_up = fmin(s->set_up, at - s->data_ns);
            s->took_ns = at;
            s->taken++;
        }
    } else if (line >= PINTLE_SIM_SELECT) {
        s->lag = level ? fmin(s->lag, at - s->clock_ns) : s->lag;
        s->select_ns = level ? 0 : at;
    }
}

static void edges(void)
{
    static const struct {
        const struct pintle_part *part;
        uint8_t mode;
        uint32_t hz;
    } rows[] = { { &pintle_icm20948, 0, 500000 },
                 { &pintle_lis331hh, 3, 500000 },
                 { &pintle_icm20948, 0, 50000 },
                 { &pintle_lis331dlh, 3, 20000 } };
    for (size_t i = 0; i < COUNT(rows); i++) {
        struct bench bench;
        struct wired wired;
        struct pintle_sample sample;
        struct scope s = {
            .mode = rows[i].mode, .set_up = 1e9, .hold = 1e9, .lead = 1e9, .lag = 1e9
        };
        double half = 5e8 / rows[i].hz;
        bench_make(&bench, rows[i].part, 1);
        bench_wire(&bench, &wired);
        bench.spi.top_hz = rows[i].hz;
        pintle_sim_pass(&bench.sim, 1000);
        wired.spi_wires.edge = on_edge;
        wired.spi_wires.edge_context = &s;
        EXPECT(pintle_sample_read(&bench.sensor, &sample) == PINTLE_OK, "row %u reads",
               (unsigned)i);
        EXPECT(s.taken > 100 && s.taken % 8 == 0, "row %u: %u bits", (unsigned)i, s.taken);
        const double times[] = { s.set_up, s.hold, s.lead, s.lag };
        static const char *const names[] = { "set-up", "hold", "lead of select", "lag of select" };
        for (size_t t = 0; t < COUNT(times); t++) {
            EXPECT(fabs(times[t] - half) <= 1, "row %u, %s: %g ns, not %g", (unsigned)i, names[t],
                   times[t], half);
        }
    }
}

/* Four parts on one bus, each behind its own select, at once and in a round. */
static void four_on_one_bus(void)
{
    static const struct pintle_part *const parts[] = { &pintle_icm20948, &pintle_lis331dlh,
                                                       &pintle_mcp3008, &pintle_lis331hh };
    for (int depth = 0; depth < 2; depth++) {
        struct bench bench;
        struct wired wired;
        struct pintle_any sensors[4];
        struct turn turns[4];
        bench_make(&bench, parts[0], 0);
        for (uint8_t i = 1; i < 4; i++) {
            pintle_sim_add(&bench.sim, parts[i]->name, 0, i);
        }
        if (depth) {
            bench_wire(&bench, &wired);
        }
        for (uint8_t i = 0; i < 4; i++) {
            const struct pintle_sim_curve level = { .level = 0.5 * (i + 1) };
            CU_ASSERT_EQUAL(pintle_sim_feel(&bench.sim.chip[i], parts[i]->channels[0].name, &level),
                            PINTLE_OK);
            CU_ASSERT_EQUAL(any_on_spi(&sensors[i], parts[i], &bench.spi, i), PINTLE_OK);
            turns[i].sensor = &sensors[i].sensor;
        }
        for (int round = 0; round < 3; round++) {
            CU_ASSERT_EQUAL(turns_round(turns, 4), 0);
            for (int i = 0; i < 4; i++) {
                EXPECT_NEAR(turns[i].sample.channel[0].value, 0.5 * (i + 1), 0.26, parts[i]->name);
            }
        }
    }
}

/* Registers behind banks: a field changes and its neighbours stay; the bank is chosen only when it
 * changes; a measurement is one burst. */
static void banks(void)
{
    for (int depth = 0; depth < 2; depth++) {
        struct bench bench;
        struct wired wired;
        struct pintle_sample sample;
        bench_make(&bench, &pintle_icm20948, 2);
        if (depth) {
            bench_wire(&bench, &wired);
        }
        pintle_sim_pass(&bench.sim, 20000); /* it has just been switched on */
        const struct pintle_reg user = PINTLE_REG(0x0003, 1, 0);
        const struct pintle_reg accel = PINTLE_REG(0x0214, 1, 0);
        const struct pintle_reg divider = PINTLE_REG(0x0210, 2, 0);
        uint32_t value = 0;
        CU_ASSERT_EQUAL(pintle_reg_write(&bench.sensor, &user, 0xe0), PINTLE_OK);
        CU_ASSERT_EQUAL(pintle_reg_write_field(&bench.sensor, &user, 4, 1, 1), PINTLE_OK);
        CU_ASSERT_EQUAL(pintle_reg_read(&bench.sensor, &user, &value), PINTLE_OK);
        EXPECT(value == 0xf0, "the neighbours stay: %02x", value);
        CU_ASSERT_EQUAL(pintle_reg_write(&bench.sensor, &divider, 0x0123), PINTLE_OK);
        CU_ASSERT_EQUAL(pintle_reg_write_field(&bench.sensor, &accel, 1, 2, 3), PINTLE_OK);
        CU_ASSERT_EQUAL(pintle_reg_read(&bench.sensor, &accel, &value), PINTLE_OK);
        EXPECT(value == 0x07, "16 g, filter as it was: %02x", value);
        CU_ASSERT_EQUAL(pintle_reg_read(&bench.sensor, &divider, &value), PINTLE_OK);
        EXPECT(value == 0x0123, "two bytes in bank 2: %04x", value);
        /* A chip that lost its supply is in bank 0 again, whatever was known of it. */
        uint64_t now = bench.sim.now_us;
        const struct pintle_sim_fault out = { PINTLE_SIM_UNPLUGGED, 0, now + 10, now + 1000, 0, 0 };
        CU_ASSERT_EQUAL(pintle_sim_add_fault(&bench.sim, &out), PINTLE_OK);
        pintle_sim_pass(&bench.sim, 120000);
        CU_ASSERT_EQUAL(pintle_reg_read(&bench.sensor, &accel, &value), PINTLE_OK);
        EXPECT(value == 0x01, "as after a reset: %02x", value);
        CU_ASSERT_EQUAL(
            pintle_sensor_set(&bench.sensor, PINTLE_ICM20948_ACCEL_RANGE, PINTLE_ICM20948_8_G),
            PINTLE_OK);
        CU_ASSERT_EQUAL(pintle_sample_read(&bench.sensor, &sample), PINTLE_OK);
        CU_ASSERT_EQUAL(pintle_reg_read(&bench.sensor, &accel, &value), PINTLE_OK);
        EXPECT(value == 0x2d, "8 g, 11.5 Hz, on: %02x", value);
        CU_ASSERT_EQUAL(pintle_reg_read(&bench.sensor, &user, &value), PINTLE_OK);
        EXPECT(value == 0x30, "after the reset only SPI and the bus inside are set: %02x", value);
        EXPECT_NEAR(sample.channel[PINTLE_ICM20948_ACCEL_Z].value, 9.80665, 0.3, "1 g");
        CU_ASSERT_EQUAL(pintle_sample_read(&bench.sensor, &sample), PINTLE_OK);
        uint64_t bytes = bench.sim.bus[0].bytes;
        CU_ASSERT_EQUAL(pintle_sample_read(&bench.sensor, &sample), PINTLE_OK);
        EXPECT(depth || bench.sim.bus[0].bytes - bytes >= 33, "a reading takes %u bytes",
               (unsigned)(bench.sim.bus[0].bytes - bytes));
    }
}

/* Another master, with which nobody takes turns, moves the bank before our transfer number `at`. */
static struct {
    struct pintle_spi bus;
    struct pintle_sim_chip *chip;
    int calls, at;
} intruder;

static enum pintle_status intruded(void *context, const struct pintle_spi_way *way,
                                   const struct pintle_segment *segments, uint8_t count)
{
    if (intruder.calls++ == intruder.at) {
        pintle_sim_poke(intruder.chip, 0x7f, 1, 0x30);
    }
    return intruder.bus.calls->transfer(context, way, segments, count);
}

/* Whenever that happens, what comes is true, or the reading says that it was lost. */
static void a_bank_moved_in_the_middle(void)
{
    static const struct pintle_spi_calls calls = { .transfer = intruded };
    unsigned lost = 0;
    for (int at = 0; at < 170; at++) {
        struct bench bench;
        struct pintle_sample sample;
        bench_make(&bench, &pintle_icm20948, 0);
        pintle_sim_pass(&bench.sim, 200000);
        intruder.bus = bench.spi;
        intruder.chip = bench.chip;
        intruder.calls = 0;
        intruder.at = at;
        bench.spi.calls = &calls;
        bench.spi.common.sole_master = 0;
        enum pintle_status status = PINTLE_OK;
        for (int k = 0; k < 3; k++) {
            enum pintle_status now = pintle_sample_read(&bench.sensor, &sample);
            status = now == PINTLE_OK ? status : now;
            EXPECT(bench_lies(&bench, &sample) == 0, "moved before transfer %d: wrong", at);
        }
        lost += status == PINTLE_ARBITRATION_LOST;
        EXPECT(status == PINTLE_OK || status == PINTLE_ARBITRATION_LOST
                   || status == PINTLE_WRONG_IDENTITY || status == PINTLE_NO_ANSWER
                   || status == PINTLE_STAYED_BUSY,
               "moved before transfer %d: %s", at, pintle_status_word(status));
    }
    EXPECT(lost >= 10, "%u readings lost", lost);
}

/* Proving a part with banks on a chip that is another must write nothing into that. */
static void a_proof_writes_nothing(void)
{
    struct bench bench;
    struct pintle_any stranger;
    const struct pintle_reg control = PINTLE_REG(0x20, 1, 0);
    uint8_t before[PINTLE_SIM_STATE];
    uint32_t value = 0;
    bench_make(&bench, &pintle_lis331hh, 2);
    memcpy(before, bench.chip->state.bytes, 64); /* its registers */
    CU_ASSERT_EQUAL(any_on_spi(&stranger, &pintle_icm20948, &bench.spi, 2), PINTLE_OK);
    CU_ASSERT_NOT_EQUAL(pintle_sensor_prove(&stranger.sensor), PINTLE_OK);
    EXPECT(memcmp(before, bench.chip->state.bytes, 64) == 0, "its registers are as they were");
    CU_ASSERT_EQUAL(pintle_reg_read(&bench.sensor, &control, &value), PINTLE_OK);
    CU_ASSERT_EQUAL(value, 0x07);
}

/* Code = 1024 x input / reference, of the right input, at both depths. */
static void converter(void)
{
    for (int depth = 0; depth < 2; depth++) {
        struct bench bench;
        struct wired wired;
        struct pintle_sample sample;
        bench_make(&bench, &pintle_mcp3008, 0);
        if (depth) {
            bench_wire(&bench, &wired);
        }
        for (int i = 0; i < 8; i++) {
            char input[4] = { 'c', 'h', (char)('0' + i), 0 };
            const struct pintle_sim_curve level = { .level = 0.4 * i + 0.2 };
            CU_ASSERT_EQUAL(pintle_sim_feel(bench.chip, input, &level), PINTLE_OK);
            CU_ASSERT_EQUAL(pintle_sim_error(bench.chip, input, 0), PINTLE_OK);
        }
        CU_ASSERT_EQUAL(pintle_sample_read(&bench.sensor, &sample), PINTLE_OK);
        for (int i = 0; i < 8; i++) {
            EXPECT(abs(sample.channel[i].raw - (int)((0.4 * i + 0.2) / 3.3 * 1024)) <= 1,
                   "ch%d: %d", i, sample.channel[i].raw);
            EXPECT_NEAR(sample.channel[i].value, 0.4 * i + 0.2, 0.0065, "volts");
        }
        const struct pintle_sim_curve over = { .level = 3.5 };
        CU_ASSERT_EQUAL(pintle_sim_feel(bench.chip, "ch3", &over), PINTLE_OK);
        CU_ASSERT_EQUAL(pintle_sample_read(&bench.sensor, &sample), PINTLE_OK);
        EXPECT(sample.channel[3].quality == PINTLE_QUALITY_SATURATED, "over the reference");
    }
}

/* Silence, a wrong mode, a wrong speed and a lost supply, each with its status; and back. */
static void silence(void)
{
    static const struct {
        const struct pintle_part *part;
        enum pintle_sim_fault_kind fault;
        uint8_t trouble;
        enum pintle_status status;
    } rows[] = {
        { &pintle_icm20948, PINTLE_SIM_SILENT, 0, PINTLE_NO_ANSWER },
        { &pintle_icm20948, PINTLE_SIM_LINES, PINTLE_SIM_DATA_LOW, PINTLE_NO_ANSWER },
        { &pintle_icm20948, PINTLE_SIM_LINES, PINTLE_SIM_SWAPPED, PINTLE_NO_ANSWER },
        { &pintle_icm20948, PINTLE_SIM_LINES, PINTLE_SIM_CLOCK_LOW, PINTLE_NO_ANSWER },
        { &pintle_lis331hh, PINTLE_SIM_SILENT, 0, PINTLE_NO_ANSWER },
        { &pintle_lis331hh, PINTLE_SIM_LINES, PINTLE_SIM_DATA_LOW, PINTLE_STAYED_BUSY },
        { &pintle_mcp3008, PINTLE_SIM_SILENT, 0, PINTLE_NO_ANSWER },
        { &pintle_lis331dlh, PINTLE_SIM_UNPLUGGED, 0, PINTLE_NO_ANSWER },
    };
    for (size_t i = 0; i < 2 * COUNT(rows); i++) {
        struct bench bench;
        struct wired wired;
        struct pintle_sample sample;
        size_t r = i / 2;
        const char *name = rows[r].part->name;
        bench_make(&bench, rows[r].part, 1);
        if (i % 2) {
            bench_wire(&bench, &wired);
        }
        EXPECT(pintle_sample_read(&bench.sensor, &sample) == PINTLE_OK, "%s: before", name);
        float before = sample.channel[2].value;
        uint64_t now = bench.sim.now_us;
        const struct pintle_sim_fault fault = { rows[r].fault,   0, now, now + 10000000,
                                                rows[r].trouble, 0 };
        CU_ASSERT_EQUAL(pintle_sim_add_fault(&bench.sim, &fault), PINTLE_OK);
        enum pintle_status status = pintle_sample_read(&bench.sensor, &sample);
        EXPECT(status == rows[r].status, "row %u, %s, depth %u: %s", (unsigned)r, name,
               (unsigned)(i % 2), pintle_status_word(status));
        EXPECT(pintle_sensor_prove(&bench.sensor) != PINTLE_OK
                   || rows[r].trouble == PINTLE_SIM_DATA_LOW,
               "%s is not proven", name);
        pintle_sim_pass(&bench.sim, 20000000);
        status = pintle_sample_read(&bench.sensor, &sample);
        EXPECT(status == PINTLE_OK, "%s: after: %s", name, pintle_status_word(status));
        EXPECT_NEAR(sample.channel[2].value, before, 0.1, name);
    }
}

/* A part's speed is kept, the wires' own limit too; what is faster than a chip comes out wrong. */
static void speeds(void)
{
    struct bench bench;
    struct pintle_sample sample;
    bench_make(&bench, &pintle_icm20948, 0);
    CU_ASSERT_EQUAL(pintle_sample_read(&bench.sensor, &sample), PINTLE_OK);
    static const struct pintle_reg id = PINTLE_REG(0, 1, PINTLE_REG_READ_ONLY);
    uint32_t value = 0;
    uint64_t begun = bench.sim.now_us;
    CU_ASSERT_EQUAL(pintle_reg_read(&bench.sensor, &id, &value), PINTLE_OK);
    uint64_t fast = bench.sim.now_us - begun;
    bench.spi.top_hz = 100000;
    begun = bench.sim.now_us;
    CU_ASSERT_EQUAL(pintle_reg_read(&bench.sensor, &id, &value), PINTLE_OK);
    EXPECT(value == 0xea && fast < 10 && bench.sim.now_us - begun >= 160,
           "2 bytes: %u us, slow %u us", (unsigned)fast, (unsigned)(bench.sim.now_us - begun));
    const struct pintle_spi_way hasty = { .clock_hz = 20000000 };
    const uint8_t out[1] = { 0x80 };
    unsigned right = 0;
    for (int i = 0; i < 50; i++) {
        uint8_t in = 0;
        const struct pintle_segment segments[2] = { { out, NULL, 1 }, { NULL, &in, 1 } };
        CU_ASSERT_EQUAL(bench.spi.calls->transfer(bench.spi.common.context, &hasty, segments, 2),
                        0);
        right += in == 0xea;
    }
    EXPECT(right < 25, "too fast, and right %u times of 50", right);
}

/* The B equation at three points worked out with the 3950 K, 10 kilohm table's own definition:
 * R = R25 exp(B (1/T - 1/298.15)). */
static void thermistors_and_polynomials(void)
{
    const float thermistor[3] = { 10000, 10000, 3950 };
    for (double celsius = -30; celsius <= 120; celsius += 7.5) {
        double ohms = 10000 * exp(3950 * (1 / (celsius + 273.15) - 1 / 298.15));
        float share = (float)(ohms / (ohms + 10000));
        EXPECT_NEAR(pintle_shape_thermistor(thermistor, share), celsius, 0.005, "thermistor");
    }
    EXPECT(isnan(pintle_shape_thermistor(thermistor, 0)), "a shorted thermistor");
    EXPECT(isnan(pintle_shape_thermistor(thermistor, 1)), "a missing thermistor");
    const float cubic[5] = { 4, -1, 2, 0.5f, 0.25f };
    EXPECT_NEAR(pintle_shape_polynomial(cubic, 3), -1 + 6 + 4.5 + 6.75, 1e-6, "polynomial");
}

void add_spi_suite(void)
{
    SUITE("spi", { "four modes", four_modes }, { "edges", edges },
          { "four on one bus", four_on_one_bus }, { "banks", banks },
          { "a proof writes nothing", a_proof_writes_nothing }, { "converter", converter },
          { "a bank moved in the middle", a_bank_moved_in_the_middle },
          { "nobody is selected", nobody_is_selected }, { "silence", silence },
          { "speeds", speeds }, { "thermistors and polynomials", thermistors_and_polynomials });
}
