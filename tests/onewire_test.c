/* 1-Wire: codes and the search, slots against the datasheet's table, power over the line. */
#include "support.h"

/* Datasheet and application note example: family 02h, serial number 1C B8 01 00 00 00, CRC A2h. */
static void crc_vectors(void)
{
    const uint8_t code[8] = { 0x02, 0x1c, 0xb8, 0x01, 0x00, 0x00, 0x00, 0xa2 };
    CU_ASSERT_EQUAL(pintle_onewire_crc(code, 7), 0xa2);
    CU_ASSERT_EQUAL(pintle_onewire_crc(code, 8), 0);
    CU_ASSERT_EQUAL(pintle_onewire_crc((const uint8_t *)"123456789", 9),
                    0xa1); /* the catalogues' */
}

/* Give a chip a code of random bits; its CRC by long division, bit by bit. */
static void set_code(struct pintle_sim_chip *chip, unsigned *seed)
{
    for (int i = 1; i < 7; i++) {
        *seed = *seed * 1103515245u + 12345u;
        chip->rom.code[i] = (uint8_t)(*seed >> 16);
    }
    uint8_t remainder = 0;
    for (int bit = 0; bit < 56; bit++) {
        uint8_t in = chip->rom.code[bit / 8] >> bit % 8 & 1;
        uint8_t out = (remainder & 1) ^ in;
        remainder = (uint8_t)(remainder >> 1 ^ (out ? 0x8c : 0));
    }
    chip->rom.code[7] = remainder;
}

/* Every chip is found once, over slots and over wires, and the alarm search finds those beyond
 * their limits. */
static void searches(void)
{
    for (unsigned count = 0; count <= 15; count += 3) {
        for (int depth = 0; depth < 2; depth++) {
            struct bench bench;
            struct wired wired;
            struct pintle_onewire_search search = { 0 };
            unsigned seed = 7 + count;
            bench_make(&bench, &pintle_ds18b20, 9);
            pintle_sim_clear(&bench.sim);
            for (unsigned i = 0; i < count; i++) {
                set_code(pintle_sim_add(&bench.sim, "DS18B20", 0, 0), &seed);
            }
            if (depth) {
                bench_wire(&bench, &wired);
            }
            unsigned found = 0;
            enum pintle_status status;
            while ((status = pintle_onewire_next(&bench.line, &search)) == PINTLE_OK) {
                unsigned k = 0;
                while (k < count && memcmp(bench.sim.chip[k].rom.code, search.code, 8) != 0) {
                    k++;
                }
                EXPECT(k < count, "%u chips: a code that nobody has", count);
                bench.sim.chip[k].rom.parasite = 7; /* seen */
                found++;
            }
            EXPECT(status == PINTLE_NO_ANSWER && found == count, "%u chips: found %u, then %s",
                   count, found, pintle_status_word(status));
            for (unsigned k = 0; k < count; k++) {
                EXPECT(bench.sim.chip[k].rom.parasite == 7, "%u chips: %u not found", count, k);
            }
        }
    }
}

static void the_only_one_and_the_alarmed(void)
{
    struct bench bench;
    uint8_t code[8];
    struct pintle_sample sample;
    struct pintle_onewire_search search = { .alarmed = 1 };
    bench_make(&bench, &pintle_ds18b20, 0x11);
    CU_ASSERT_EQUAL(pintle_onewire_only(&bench.line, code), PINTLE_OK);
    EXPECT(memcmp(code, bench.chip->rom.code, 8) == 0, "read ROM");
    struct pintle_sim_chip *hot = pintle_sim_add(&bench.sim, "DS18B20", 0, 0x3c);
    CU_ASSERT_EQUAL(pintle_onewire_only(&bench.line, code), PINTLE_BAD_CRC);
    const struct pintle_sim_curve level = { .level = 31 };
    struct pintle_any warm;
    CU_ASSERT_EQUAL(pintle_sim_feel(hot, "temperature", &level), PINTLE_OK);
    CU_ASSERT_EQUAL(any_on_onewire(&warm, &pintle_ds18b20, &bench.line, hot->rom.code), PINTLE_OK);
    CU_ASSERT_EQUAL(pintle_ds18b20_limits(&bench.sensor, -5, 30, 0), PINTLE_OK);
    CU_ASSERT_EQUAL(pintle_ds18b20_limits(&warm.sensor, -5, 30, 1), PINTLE_OK);
    CU_ASSERT_EQUAL(pintle_sensor_time_us(&warm.sensor), 0); /* nothing was measured yet */
    pintle_sim_pass(&bench.sim, 20000);
    CU_ASSERT_EQUAL(pintle_sample_read(&bench.sensor, &sample), PINTLE_OK);
    CU_ASSERT_EQUAL(pintle_sample_read(&warm.sensor, &sample), PINTLE_OK);
    CU_ASSERT_EQUAL(pintle_onewire_next(&bench.line, &search), PINTLE_OK);
    EXPECT(memcmp(search.code, hot->rom.code, 8) == 0, "the hot one is alarmed");
    CU_ASSERT_EQUAL(pintle_onewire_next(&bench.line, &search), PINTLE_NO_ANSWER);
    CU_ASSERT_EQUAL(pintle_ds18b20_limits(&warm.sensor, -56, 30, 0), PINTLE_OUT_OF_RANGE);
    CU_ASSERT_EQUAL(pintle_ds18b20_limits(&warm.sensor, 31, 30, 0), PINTLE_OUT_OF_RANGE);
    /* Kept limits outlast a loss of power, the others don't; the set-up leaves both alone. */
    const struct pintle_sim_fault out = { PINTLE_SIM_UNPLUGGED,    1, bench.sim.now_us + 1000,
                                          bench.sim.now_us + 2000, 0, 0 };
    const struct pintle_reg t_high = PINTLE_REG(2, 1, 0);
    uint32_t value = 0;
    CU_ASSERT_EQUAL(pintle_sim_add_fault(&bench.sim, &out), PINTLE_OK);
    pintle_sim_pass(&bench.sim, 1000000);
    CU_ASSERT_EQUAL(pintle_sample_read(&warm.sensor, &sample), PINTLE_OK);
    CU_ASSERT_EQUAL(pintle_reg_read(&warm.sensor, &t_high, &value), PINTLE_OK);
    CU_ASSERT_EQUAL(value, 30);
}

/* A code of another family, or one that does not hold together, is refused before any traffic. */
static void codes_are_checked(void)
{
    struct bench bench;
    bench_make(&bench, &pintle_ds18b20, 1);
    uint8_t code[8];
    memcpy(code, bench.chip->rom.code, 8);
    code[3] ^= 4;
    CU_ASSERT_EQUAL(any_on_onewire(&bench.any, &pintle_ds18b20, &bench.line, code),
                    PINTLE_WRONG_PLACE);
    const uint8_t other[8] = { 0x02, 0x1c, 0xb8, 0x01, 0x00, 0x00, 0x00, 0xa2 };
    CU_ASSERT_EQUAL(any_on_onewire(&bench.any, &pintle_ds18b20, &bench.line, other),
                    PINTLE_WRONG_PLACE);
    CU_ASSERT_EQUAL(any_on_i2c(&bench.any, &pintle_ds18b20, &bench.bus, 0x28), PINTLE_WRONG_BUS);
    CU_ASSERT_EQUAL(any_on_spi(&bench.any, &pintle_tmp102, &bench.spi, 0), PINTLE_WRONG_BUS);
}

/* The master's own edges, in nanoseconds: how long each low and each slot lasted. */
struct slots {
    double fell, rose;
    double shortest_low, longest_low, shortest_slot, longest_one, shortest_zero, longest_zero;
    double reset, after_reset, least_rest;
    unsigned lows, resets;
};

static void on_edge(void *context, uint8_t line, uint8_t level, uint64_t at_ns)
{
    struct slots *s = context;
    double at = (double)at_ns;
    (void)line;
    if (!level) {
        if (s->lows > 0 && at - s->fell < 400000) {
            s->shortest_slot = fmin(s->shortest_slot, at - s->fell);
            s->least_rest = fmin(s->least_rest, at - s->rose);
        }
        s->fell = at;
        s->lows++;
        return;
    }
    double low = at - s->fell;
    s->rose = at;
    if (low > 400000) {
        s->reset = low;
        s->resets++;
    } else if (low < 20000) {
        s->longest_one = fmax(s->longest_one, low);
        s->shortest_low = fmin(s->shortest_low, low);
    } else {
        s->shortest_zero = fmin(s->shortest_zero, low);
        s->longest_zero = fmax(s->longest_zero, low);
    }
}

/* 19-7487, AC electrical characteristics, nanoseconds. Measured where a chip sees them, behind the
 * rise time, with no chip on the line that would lengthen a low. */
static void slots_meet_the_table(void)
{
    struct bench bench;
    struct wired wired;
    struct slots s = {
        .shortest_low = 1e9, .shortest_slot = 1e9, .shortest_zero = 1e9, .least_rest = 1e9
    };
    const uint8_t bytes[6] = { 0x00, 0xff, 0x55, 0xaa, 0x0f, 0xbe };
    bench_make(&bench, &pintle_ds18b20, 1);
    pintle_sim_clear(&bench.sim);
    bench_wire(&bench, &wired);
    wired.onewire_wires.edge = on_edge;
    wired.onewire_wires.edge_context = &s;
    uint64_t before = bench.sim.now_us;
    CU_ASSERT_EQUAL(bench.line.calls->reset(bench.line.common.context), PINTLE_NO_ANSWER);
    EXPECT(bench.sim.now_us - before >= 960, "reset and rest");
    CU_ASSERT_EQUAL(pintle_onewire_write(&bench.line, bytes, sizeof bytes), PINTLE_OK);
    /* By the table, and what this master promises: nothing is given away on either side. */
    const double rise = wired.onewire_wires.rise_ns;
    const struct {
        const char *name;
        double measured, least, most, nominal;
    } rows[] = {
        { "reset low", s.reset, 480000, 960000, 500000 + rise },
        { "low of a 1, shortest", s.shortest_low, 1000, 15000, 2000 + rise },
        { "low of a 1, longest", s.longest_one, 1000, 15000, 2000 + rise },
        { "low of a 0, shortest", s.shortest_zero, 60000, 120000, 64000 + rise },
        { "low of a 0, longest", s.longest_zero, 60000, 120000, 64000 + rise },
        { "slot", s.shortest_slot, 60000, 120000, 70000 },
        { "recovery", s.least_rest, 1000, 1e9, 6000 - rise },
    };
    for (size_t i = 0; i < COUNT(rows); i++) {
        EXPECT(rows[i].measured >= rows[i].least && rows[i].measured <= rows[i].most, "%s: %g ns",
               rows[i].name, rows[i].measured);
        EXPECT_NEAR(rows[i].measured, rows[i].nominal, 500, rows[i].name);
    }
    EXPECT(s.lows == 49 && s.resets == 1, "%u lows, %u resets", s.lows, s.resets);
}

/* A machine whose calls take their time: each to a pin, what a sleep takes beyond what it is asked
 * for, and the clock. The look comes at the end of its call. */
struct slow_machine {
    struct pintle_sim *sim;
    struct pintle_pin line;
    struct pintle_clock clock;
    unsigned pin_us, rest_us, now_us;
    uint64_t fell;
    unsigned latest_look, shortest_low, longest_one;
};

static void slow_drive(void *context, enum pintle_drive drive)
{
    struct slow_machine *m = context;
    pintle_sim_pass(m->sim, m->pin_us);
    m->line.calls->drive(m->line.context, drive);
    uint64_t now = m->sim->now_us;
    if (drive == PINTLE_DRIVE_LOW) {
        m->fell = now;
    } else if (m->fell > 0 && now - m->fell < 60) {
        m->shortest_low = MIN(m->shortest_low, (unsigned)(now - m->fell));
        m->longest_one = MAX(m->longest_one, (unsigned)(now - m->fell));
    }
}

static uint8_t slow_level(void *context)
{
    struct slow_machine *m = context;
    pintle_sim_pass(m->sim, m->pin_us);
    unsigned after = (unsigned)(m->sim->now_us - m->fell);
    m->latest_look = m->fell > 0 && after < 60 ? MAX(m->latest_look, after) : m->latest_look;
    return m->line.calls->level(m->line.context);
}

static uint64_t slow_now(void *context)
{
    struct slow_machine *m = context;
    pintle_sim_pass(m->sim, m->now_us);
    return m->sim->now_us;
}

static void slow_sleep(void *context, uint32_t us)
{
    struct slow_machine *m = context;
    pintle_sim_pass(m->sim, m->rest_us + us);
}

/* Every machine that has a master at all keeps to the times: it takes what its calls cost off. */
static void on_a_slow_machine(void)
{
    static const struct pintle_pin_calls pin_calls = { slow_drive, slow_level };
    static const struct pintle_clock_calls clock_calls = { slow_now, slow_sleep, NULL, NULL, NULL };
    unsigned served = 0;
    for (unsigned i = 0; i < 11 * 11 * 2; i++) {
        struct bench bench;
        struct wired wired;
        struct pintle_onewire_search search = { 0 };
        struct pintle_bitbang_onewire master;
        bench_make_seeded(&bench, &pintle_ds18b20, 1, i);
        bench_wire(&bench, &wired);
        struct slow_machine m = { .sim = &bench.sim,
                                  .line = wired.onewire_master.data_line,
                                  .pin_us = i % 11,
                                  .rest_us = i / 11 % 11,
                                  .now_us = i / 121 * 9,
                                  .shortest_low = 99 };
        enum pintle_status status =
            pintle_bitbang_onewire_init(&master, (struct pintle_pin){ &pin_calls, &m },
                                        &(struct pintle_clock){ &clock_calls, &m });
        bool fast = m.pin_us <= 2 && m.rest_us <= 2;
        bool hopeless = m.pin_us >= 8 || m.rest_us + 2 * m.pin_us >= 30;
        EXPECT(fast ? status == PINTLE_OK : !hopeless || status == PINTLE_UNSUPPORTED,
               "%u us a pin, %u us a sleep: %s", m.pin_us, m.rest_us, pintle_status_word(status));
        if (status != PINTLE_OK) {
            continue;
        }
        struct pintle_onewire line = pintle_bitbang_onewire_bus(&master);
        status = pintle_onewire_next(&line, &search);
        EXPECT(status == PINTLE_OK && memcmp(search.code, bench.chip->rom.code, 8) == 0,
               "%u us a pin, %u us a sleep: %s", m.pin_us, m.rest_us, pintle_status_word(status));
        EXPECT(m.latest_look <= 15 && m.shortest_low >= 1 && m.longest_one < 15,
               "%u us a pin, %u us a sleep: looks after %u us, lows of %u to %u us", m.pin_us,
               m.rest_us, m.latest_look, m.shortest_low, m.longest_one);
        served++;
    }
    EXPECT(served > 80, "%u machines have a master", served);
}

/* On a noisy line a search finds codes, or says that they do not hold together; what it finds is
 * real, it ends, and afterwards everybody is found again. */
static void searches_on_a_noisy_line(void)
{
    unsigned found = 0;
    unsigned garbled = 0;
    for (uint64_t seed = 1; seed <= 60; seed++) {
        struct bench bench;
        struct wired wired;
        bench_make_seeded(&bench, &pintle_ds18b20, 1, seed);
        for (uint8_t i = 2; i <= 5; i++) {
            pintle_sim_add(&bench.sim, "DS18B20", 0, (uint8_t)(37 * i));
        }
        bench_wire(&bench, &wired);
        for (int noisy = 1; noisy >= 0; noisy--) {
            struct pintle_onewire_search search = { 0 };
            uint64_t before = bench.sim.now_us;
            enum pintle_status status = PINTLE_OK;
            unsigned whole = 0;
            unsigned steps = 0;
            wired.onewire_wires.trouble = noisy ? PINTLE_SIM_NOISE : 0;
            while ((status == PINTLE_OK || status == PINTLE_BAD_CRC) && steps++ < 200) {
                status = pintle_onewire_next(&bench.line, &search);
                garbled += status == PINTLE_BAD_CRC;
                for (unsigned k = 0; status == PINTLE_OK && k < 5; k++) {
                    whole += memcmp(bench.sim.chip[k].rom.code, search.code, 8) == 0;
                }
            }
            EXPECT(steps < 200 && bench.sim.now_us - before < 4000000, "seed %u ends: %u steps",
                   (unsigned)seed, steps);
            EXPECT(noisy || (whole == 5 && status == PINTLE_NO_ANSWER), "seed %u: %u of 5 found",
                   (unsigned)seed, whole);
            found += noisy ? whole : 0;
        }
    }
    EXPECT(found > 60 && garbled > 10, "in noise %u codes are found, %u garbled", found, garbled);
}

/* Wherever within the datasheet's limits a specimen's own clock is, it is understood. */
static void specimens_are_understood(void)
{
    for (uint64_t seed = 1; seed <= 300; seed++) {
        struct bench bench;
        struct wired wired;
        struct pintle_sample sample;
        bench_make_seeded(&bench, &pintle_ds18b20, (uint8_t)seed, seed);
        pintle_sim_add(&bench.sim, "DS18B20", 0, (uint8_t)(seed + 77));
        bench_wire(&bench, &wired);
        enum pintle_status status = pintle_sample_read(&bench.sensor, &sample);
        EXPECT(status == PINTLE_OK, "seed %u: %s", (unsigned)seed, pintle_status_word(status));
        EXPECT_NEAR(sample.channel[0].value, 20, 0.5, "specimen");
    }
}

/* Power over the line: with the strong pull-up it converts; without, it would lose its supply with
 * every conversion. It says how it is powered, so that is found out beforehand. */
static void power_over_the_line(void)
{
    static const struct {
        const char *name;
        uint8_t parasite, setting;
        enum pintle_status status;
    } rows[] = {
        { "own supply", 0, PINTLE_DS18B20_EXTERNAL, PINTLE_OK },
        { "own supply, powered too", 0, PINTLE_DS18B20_PARASITE, PINTLE_OK },
        { "parasite", 1, PINTLE_DS18B20_PARASITE, PINTLE_OK },
        { "parasite, set as external", 1, PINTLE_DS18B20_EXTERNAL, PINTLE_MISFIT },
    };
    for (size_t i = 0; i < 2 * COUNT(rows); i++) {
        struct bench bench;
        struct wired wired;
        struct pintle_sample sample;
        size_t r = i / 2;
        bench_make(&bench, &pintle_ds18b20, 5);
        bench.chip->rom.parasite = rows[r].parasite;
        if (i % 2) {
            bench_wire(&bench, &wired);
        }
        CU_ASSERT_EQUAL(pintle_sensor_set(&bench.sensor, PINTLE_DS18B20_POWER, rows[r].setting),
                        PINTLE_OK);
        for (int k = 0; k < 4; k++) {
            bool good = rows[r].status == PINTLE_OK;
            EXPECT(pintle_sample_read(&bench.sensor, &sample) == rows[r].status, "%s",
                   rows[r].name);
            EXPECT(sample.channel[0].quality == (good ? 0 : PINTLE_QUALITY_BUS), "%s: quality %02x",
                   rows[r].name, sample.channel[0].quality);
            EXPECT(good ? fabsf(sample.channel[0].value - 20) < 0.5f
                        : isnan(sample.channel[0].value),
                   "%s: %g", rows[r].name, (double)sample.channel[0].value);
        }
    }
}

/* Several probes powered by one line convert one after the other; those with a supply at once. */
static void a_round_of_probes(void)
{
    for (int parasite = 0; parasite < 2; parasite++) {
        struct bench bench;
        struct pintle_any sensors[3];
        struct turn turns[3];
        bench_make(&bench, &pintle_ds18b20, 1);
        for (uint8_t i = 0; i < 3; i++) {
            struct pintle_sim_chip *chip =
                i ? pintle_sim_add(&bench.sim, "DS18B20", 0, (uint8_t)(i + 1)) : bench.chip;
            const struct pintle_sim_curve level = { .level = 10.0 * (i + 1) };
            chip->rom.parasite = (uint8_t)parasite;
            CU_ASSERT_EQUAL(pintle_sim_feel(chip, "temperature", &level), PINTLE_OK);
            CU_ASSERT_EQUAL(
                any_on_onewire(&sensors[i], &pintle_ds18b20, &bench.line, chip->rom.code),
                PINTLE_OK);
            CU_ASSERT_EQUAL(
                pintle_sensor_set(&sensors[i].sensor, PINTLE_DS18B20_POWER, (uint8_t)parasite),
                PINTLE_OK);
            turns[i].sensor = &sensors[i].sensor;
        }
        uint64_t before = bench.sim.now_us;
        CU_ASSERT_EQUAL(turns_round(turns, 3), 0);
        double s = (double)(bench.sim.now_us - before) / 1e6;
        EXPECT(parasite ? s > 2.25 && s < 2.5 : s > 0.75 && s < 0.95, "a round took %g s", s);
        for (int i = 0; i < 3; i++) {
            EXPECT_NEAR(turns[i].sample.channel[0].value, 10 * (i + 1), 0.5, "probe");
            EXPECT(turns[i].sample.channel[0].quality == 0, "probe %d: quality %02x", i,
                   turns[i].sample.channel[0].quality);
        }
    }
}

/* +85 degC is what a chip holds that lost its supply. One with a supply of its own is asked once
 * more, and then believed; of one that lives on the line it never is. */
static void eighty_five(void)
{
    for (uint8_t power = 0; power < 2; power++) {
        static const double degrees[] = { 85, 60, 85, 85, 82, 85, 0 };
        struct bench bench;
        struct pintle_sample sample;
        bench_make(&bench, &pintle_ds18b20, 5);
        bench.chip->rom.parasite = power;
        CU_ASSERT_EQUAL(pintle_sim_error(bench.chip, "temperature", 0), PINTLE_OK);
        CU_ASSERT_EQUAL(pintle_sensor_set(&bench.sensor, PINTLE_DS18B20_RESOLUTION, 1), PINTLE_OK);
        CU_ASSERT_EQUAL(pintle_sensor_set(&bench.sensor, PINTLE_DS18B20_POWER, power), PINTLE_OK);
        for (size_t i = 0; i < COUNT(degrees); i++) {
            const struct pintle_sim_curve level = { .level = degrees[i] };
            pintle_marks wanted = power && degrees[i] == 85 ? PINTLE_QUALITY_POWER_ON : 0;
            CU_ASSERT_EQUAL(pintle_sim_feel(bench.chip, "temperature", &level), PINTLE_OK);
            CU_ASSERT_EQUAL(pintle_sample_read(&bench.sensor, &sample), PINTLE_OK);
            EXPECT_NEAR(sample.channel[0].value, degrees[i], 0.01, "10 bits");
            EXPECT(sample.channel[0].quality == wanted, "power %u, row %u: quality %02x", power,
                   (unsigned)i, sample.channel[0].quality);
        }
    }
}

/* What a master and a sensor say of a line that is not as it should be, at both depths. */
static void troubles_of_a_line(void)
{
    static const struct {
        const char *name;
        uint8_t trouble;
        enum pintle_sim_fault_kind fault;
        enum pintle_status status;
    } rows[] = {
        { "shorted", PINTLE_SIM_DATA_LOW, PINTLE_SIM_LINES, PINTLE_DATA_STUCK },
        { "no pull-up", PINTLE_SIM_NO_PULL_UP, PINTLE_SIM_LINES, PINTLE_DATA_STUCK },
        { "unplugged, alone", 0, PINTLE_SIM_UNPLUGGED, PINTLE_NO_ANSWER },
        { "silent, alone", 0, PINTLE_SIM_SILENT, PINTLE_NO_ANSWER },
        { "flipped", 0, PINTLE_SIM_FLIPPED, PINTLE_BAD_CRC },
    };
    for (size_t i = 0; i < 2 * COUNT(rows); i++) {
        struct bench bench;
        struct wired wired;
        struct pintle_sample sample;
        size_t r = i / 2;
        bench_make(&bench, &pintle_ds18b20, 5);
        if (i % 2) {
            bench_wire(&bench, &wired);
        }
        CU_ASSERT_EQUAL(pintle_sample_read(&bench.sensor, &sample), PINTLE_OK);
        uint64_t now = bench.sim.now_us;
        const struct pintle_sim_fault fault = { rows[r].fault,   0, now, now + 10000000,
                                                rows[r].trouble, 0 };
        CU_ASSERT_EQUAL(pintle_sim_add_fault(&bench.sim, &fault), PINTLE_OK);
        enum pintle_status status = pintle_sample_read(&bench.sensor, &sample);
        EXPECT(status == rows[r].status, "%s, depth %u: %s", rows[r].name, (unsigned)(i % 2),
               pintle_status_word(status));
        EXPECT(bench.sim.now_us - now < 1000000, "%s took %u us", rows[r].name,
               (unsigned)(bench.sim.now_us - now));
        pintle_sim_pass(&bench.sim, 20000000);
        EXPECT(pintle_sample_read(&bench.sensor, &sample) == PINTLE_OK, "%s: after", rows[r].name);
        EXPECT_NEAR(sample.channel[0].value, 20, 0.5, rows[r].name);
    }
    struct bench bench;
    struct pintle_sample sample;
    bench_make(&bench, &pintle_ds18b20, 5);
    pintle_sim_add(&bench.sim, "DS18B20", 0, 6);
    const struct pintle_sim_fault gone = { PINTLE_SIM_UNPLUGGED, 0, 0, UINT64_MAX, 0, 0 };
    CU_ASSERT_EQUAL(pintle_sim_add_fault(&bench.sim, &gone), PINTLE_OK);
    EXPECT(pintle_sample_read(&bench.sensor, &sample) == PINTLE_NO_ANSWER,
           "one of two is gone: nothing but ones");
}

void add_onewire_suite(void)
{
    SUITE("onewire", { "crc vectors", crc_vectors }, { "searches", searches },
          { "searches on a noisy line", searches_on_a_noisy_line },
          { "the only one and the alarmed", the_only_one_and_the_alarmed },
          { "codes are checked", codes_are_checked },
          { "slots meet the table", slots_meet_the_table },
          { "on a slow machine", on_a_slow_machine },
          { "specimens are understood", specimens_are_understood },
          { "power over the line", power_over_the_line },
          { "a round of probes", a_round_of_probes }, { "eighty-five", eighty_five },
          { "troubles of a line", troubles_of_a_line });
}
