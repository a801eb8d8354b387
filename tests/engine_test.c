/* The engine: traffic, waiting, identity, failing and coming back. */
#include "support.h"

#include "pintle/ability.h"

#include "pintle/sheet.h"

/* Bytes on the bus, address bytes included, of one measurement after the first. The least that the
 * datasheets allow:
 * TMP102  continuous: address, 2 bytes, the pointer being where it was left        3
 * TMP102  one-shot: address, pointer, 2 bytes; address, pointer, address, 2 bytes  9
 * and, where these come without a checksum, what tells a chip that lost its supply meanwhile: a
 * register whose value after power-up is another.
 * MCP9808 address, pointer, address, 2 bytes; and CONFIG likewise                 10
 * SHT31   address, 2 bytes command; address, 6 bytes                              10
 * SHTC3   likewise                                                                10
 * BME280  address, register, value; address, register, address, status;
 *         address, register, address, 8 bytes; and CTRL_MEAS                      22
 * DS3231  address, register, address, 11 bytes; the year likewise                 18
 * DS18B20 match, code, convert; match, code, read, 9 bytes                         29
 *         with a supply of its own also whether it is converting                   30
 * MCP3008 a byte of control, ten bits and nine of them again for each input        32
 * ADS1115 six times: address, CONFIG, 2 bytes; address, pointer, address, 2 bytes
 *         twice                                                                  84
 * ADXL345 address, register, address, INT_SOURCE; the same with 6 bytes; POWER_CTL 17
 * INA219  address, CONFIGURATION, 2 bytes; address, pointer, address, 2 bytes three
 *         times                                                                  19
 * VEML7700 address, pointer, address, 2 bytes: ALS, WHITE, ALS_CONF              15
 * MPU6050 address, register, address, 15 bytes; PWR_MGMT_1 likewise              22
 * BMI160  address, register, address: STATUS, 12 bytes, 2 bytes, PMU_STATUS      28
 * BMP180  address, register, value; address, pointer, address, 2 bytes; address,
 *         register, value; address, pointer, address, 3 bytes; and CTRL_MEAS      21
 * HS3001  address; address, 4 bytes; and once more                                11
 * SHT40   address, command; address, 6 bytes                                       9
 * ICM20948 register, byte: PWR_MGMT_1, INT_STATUS_1; register, 14 bytes;
 *         register, 9 bytes; I2C_MST_STATUS, PWR_MGMT_1                            33
 * LIS331  register, status; register, 6 bytes; and CTRL_REG1                       11 */
static void the_fewest_bytes(void)
{
    static const struct {
        const struct pintle_part *part;
        uint8_t address;
        uint8_t setting, option;
        unsigned bytes;
    } rows[] = {
        { &pintle_tmp102, 0x48, 255, 0, 10 },
        { &pintle_tmp102, 0x48, PINTLE_TMP102_MODE, PINTLE_TMP102_ONE_SHOT, 14 },
        { &pintle_mcp9808, 0x18, 255, 0, 19 },
        { &pintle_sht31, 0x44, 255, 0, 10 },
        { &pintle_shtc3, 0x70, 255, 0, 10 },
        { &pintle_bme280, 0x76, 255, 0, 23 },
        { &pintle_ads1115, 0x48, 255, 0, 84 },
        { &pintle_adxl345, 0x53, 255, 0, 21 },
        { &pintle_ina219, 0x40, 255, 0, 19 },
        { &pintle_veml7700, 0x10, 255, 0, 15 },
        { &pintle_mpu6050, 0x68, 255, 0, 30 },
        { &pintle_bmi160, 0x68, 255, 0, 36 },
        { &pintle_bmp180, 0x77, 255, 0, 26 },
        { &pintle_bmp280, 0x76, 255, 0, 21 },
        { &pintle_hs3001, 0x44, 255, 0, 11 },
        { &pintle_sht40, 0x44, 255, 0, 9 },
        { &pintle_ds3231, 0x68, 255, 0, 18 },
        { &pintle_ds1307, 0x68, 255, 0, 14 },
        { &pintle_tof10120, 0, 255, 0, 15 }, /* with lines that it says by itself */
        { &pintle_tof10120i2c, 0x52, 255, 0, 11 },
        { &pintle_pcf8574, 0x20, 255, 0, 5 },
        { &pintle_pcf8574a, 0x38, 255, 0, 5 },
        { &pintle_ds18b20, 1, 255, 0, 30 },
        { &pintle_ds18b20, 1, PINTLE_DS18B20_POWER, PINTLE_DS18B20_PARASITE, 29 },
        { &pintle_mcp3008, 0, 255, 0, 32 },
        { &pintle_icm20948, 0, 255, 0, 41 },
        { &pintle_lis331dlh, 0, 255, 0, 13 },
        { &pintle_lis331hh, 0, PINTLE_LIS331_RANGE, PINTLE_LIS331HH_24_G, 13 },
    };
    uint64_t seen = 0;
    for (size_t i = 0; i < COUNT(rows); i++) {
        struct bench bench;
        struct pintle_sample sample;
        bench_make(&bench, rows[i].part, rows[i].address);
        if (rows[i].setting != 255) {
            CU_ASSERT_EQUAL(pintle_sensor_set(&bench.sensor, rows[i].setting, rows[i].option),
                            PINTLE_OK);
        }
        CU_ASSERT_EQUAL(pintle_sample_read(&bench.sensor, &sample), PINTLE_OK);
        uint64_t before = bench.sim.bus[0].bytes;
        for (int k = 0; k < 10; k++) {
            pintle_sim_pass(&bench.sim, 50000); /* so that a free-running part has new data */
            CU_ASSERT_EQUAL(pintle_sample_read(&bench.sensor, &sample), PINTLE_OK);
        }
        uint64_t bytes = (bench.sim.bus[0].bytes - before) / 10;
        EXPECT(bytes == rows[i].bytes, "%s: %u bytes", rows[i].part->name, (unsigned)bytes);
        part_seen(&seen, rows[i].part);
    }
    expect_all_parts(seen, "bytes on the bus");
}

/* start never sleeps; collect says NOT_READY until the datasheet's longest time is over. */
static void start_wait_collect(void)
{
    static const struct {
        const struct pintle_part *part;
        uint8_t address;
        uint32_t longest_us; /* SHT31 table 4; BME280 appendix 9.1: 1.25 + 2.3 + 2.875 + 2.875 ms */
    } rows[] = { { &pintle_sht31, 0x44, 15500 },
                 { &pintle_bme280, 0x76, 9300 },
                 { &pintle_ds18b20, 1, 750000 } }; /* 19-7487 table 2 */
    for (size_t i = 0; i < COUNT(rows); i++) {
        struct bench bench;
        struct pintle_sample sample;
        bench_make(&bench, rows[i].part, rows[i].address);
        CU_ASSERT_EQUAL(pintle_sample_read(&bench.sensor, &sample), PINTLE_OK);
        CU_ASSERT_EQUAL(pintle_sensor_start(&bench.sensor), PINTLE_OK);
        uint32_t wait = pintle_sensor_wait_us(&bench.sensor);
        EXPECT(wait == rows[i].longest_us, "%s: wait %u", rows[i].part->name, wait);
        uint64_t traffic = bench.sim.bus[0].bytes;
        CU_ASSERT_EQUAL(pintle_sample_collect(&bench.sensor, &sample), PINTLE_NOT_READY);
        EXPECT(bench.sim.bus[0].bytes == traffic, "%s: asking too early costs no traffic",
               rows[i].part->name);
        pintle_sim_pass(&bench.sim, wait);
        CU_ASSERT_EQUAL(pintle_sensor_wait_us(&bench.sensor), 0);
        CU_ASSERT_EQUAL(pintle_sample_collect(&bench.sensor, &sample), PINTLE_OK);
        CU_ASSERT_EQUAL(sample.time_us, bench.sim.began_us + (int64_t)bench.sim.now_us);
        CU_ASSERT_EQUAL(pintle_sample_collect(&bench.sensor, &sample), PINTLE_NOT_STARTED);
    }
}

/* A port that says NOT_READY, which would never end. */
static enum pintle_status never_ready(void *context, uint8_t address,
                                      const struct pintle_segment *segments, uint8_t count,
                                      uint32_t limit_us)
{
    (void)context;
    (void)address;
    (void)segments;
    (void)count;
    (void)limit_us;
    return PINTLE_NOT_READY;
}

/* Calls out of turn neither lose a good sample nor leave an old one that looks good. */
static void out_of_turn(void)
{
    static const struct pintle_i2c_calls never = { .transfer = never_ready };
    for (size_t p = 0; p < measuring_count(); p++) {
        const struct pintle_part *part = measuring_at(p)->part;
        const struct pintle_sim_fault out = { .kind = PINTLE_SIM_UNPLUGGED,
                                              .from_us = 100000000,
                                              .to_us = 200000000 };
        struct bench bench;
        struct pintle_sample sample;
        bench_make(&bench, part, bench_place(part));
        memset(&sample, 0x5a, sizeof sample);
        const struct pintle_sample untouched = sample;
        EXPECT(pintle_sample_collect(&bench.sensor, &sample) == PINTLE_NOT_STARTED
                   && memcmp(&sample, &untouched, sizeof sample) == 0,
               "%s: nothing was started", part->name);
        CU_ASSERT_EQUAL(bench_read(&bench, &sample), PINTLE_OK);
        const struct pintle_sample good = sample;
        EXPECT(pintle_sample_collect(&bench.sensor, &sample) == PINTLE_NOT_STARTED
                   && memcmp(&sample, &good, sizeof sample) == 0,
               "%s: it was collected already", part->name);
        CU_ASSERT_EQUAL(pintle_sensor_start(&bench.sensor), PINTLE_OK);
        if (part->setting_count > 0) {
            CU_ASSERT_EQUAL(pintle_sensor_set(&bench.sensor, 0, 0), PINTLE_OK);
            EXPECT(pintle_sample_collect(&bench.sensor, &sample) == PINTLE_NOT_STARTED
                       && memcmp(&sample, &good, sizeof sample) == 0,
                   "%s: what was under way has ended", part->name);
        }
        CU_ASSERT_EQUAL(pintle_sim_add_fault(&bench.sim, &out), PINTLE_OK);
        pintle_sim_pass(&bench.sim, 101000000 - bench.sim.now_us);
        (void)!pintle_sensor_start(&bench.sensor); /* some parts are not talked to yet */
        enum pintle_status status = PINTLE_NOT_READY;
        for (int k = 0; k < 1000 && status == PINTLE_NOT_READY; k++) {
            pintle_sim_pass(&bench.sim, pintle_sensor_wait_us(&bench.sensor));
            status = pintle_sample_collect(&bench.sensor, &sample);
        }
        EXPECT(status == PINTLE_NO_ANSWER, "%s: a start that failed: %s", part->name,
               pintle_status_word(status));
        for (uint8_t c = 0; c < part->channel_count; c++) {
            EXPECT(sample.channel[c].quality == PINTLE_QUALITY_BUS, "%s: the old value is gone",
                   part->name);
        }
        (void)!pintle_sensor_start(&bench.sensor);
        pintle_sim_pass(&bench.sim, 200000000 - bench.sim.now_us);
        CU_ASSERT_EQUAL(bench_read(&bench, &sample), PINTLE_OK);
        const struct pintle_sample back = sample;
        EXPECT(pintle_sample_collect(&bench.sensor, &sample) == PINTLE_NOT_STARTED
                   && memcmp(&sample, &back, sizeof sample) == 0,
               "%s: a start that failed is forgotten with the next", part->name);
        pintle_sim_calm(&bench.sim);
        struct pintle_sim_fault still = out;
        still.to_us = UINT64_MAX;
        CU_ASSERT_EQUAL(pintle_sim_add_fault(&bench.sim, &still), PINTLE_OK);
        status = pintle_sensor_start(&bench.sensor);
        status = status == PINTLE_OK ? PINTLE_NOT_STARTED : status; /* it failed before */
        EXPECT(pintle_sensor_prove(&bench.sensor) != PINTLE_OK
                   && pintle_sample_collect(&bench.sensor, &sample) == status,
               "%s: a proof ends what was begun", part->name);
        bench.bus.calls = &never;
        status = pintle_sample_read(&bench.sensor, &sample);
        EXPECT(part->link->kind != PINTLE_BUS_I2C || status == PINTLE_UNSUPPORTED,
               "%s: a port that is never ready: %s", part->name, pintle_status_word(status));
    }
}

/* Starting again before the set-up is over begins it again, and nothing is left out. */
static void started_twice(void)
{
    for (size_t p = 0; p < measuring_count(); p++) {
        const struct pintle_part *part = measuring_at(p)->part;
        struct bench bench;
        struct pintle_sample sample;
        bench_make(&bench, part, bench_place(part));
        enum pintle_status status = PINTLE_NOT_READY;
        for (int k = 0; k < 3; k++) {
            CU_ASSERT_EQUAL(pintle_sensor_start(&bench.sensor), PINTLE_OK);
            pintle_sim_pass(&bench.sim, 700);
        }
        for (int k = 0; k < 1000 && status == PINTLE_NOT_READY; k++) {
            pintle_sim_pass(&bench.sim, pintle_sensor_wait_us(&bench.sensor));
            status = pintle_sample_collect(&bench.sensor, &sample);
        }
        EXPECT(status == PINTLE_OK, "%s: %s", part->name, pintle_status_word(status));
        EXPECT(bench_lies(&bench, &sample) == 0, "%s is wrong", part->name);
    }
}

/* Three sensors in a round take the time of the slowest, not the sum. */
static void a_round_is_as_long_as_the_slowest(void)
{
    struct pintle_sim sim;
    struct pintle_any sensors[3];
    struct turn turns[3];
    pintle_sim_init(&sim, 1, 0, 1);
    struct pintle_i2c bus = pintle_sim_i2c(&sim, 0);
    pintle_sim_add(&sim, "SHT31", 0, 0x44);
    pintle_sim_add(&sim, "SHT31", 0, 0x45);
    pintle_sim_add(&sim, "BME280", 0, 0x76);
    CU_ASSERT_EQUAL(any_on_i2c(&sensors[0], &pintle_sht31, &bus, 0x44), 0);
    CU_ASSERT_EQUAL(any_on_i2c(&sensors[1], &pintle_sht31, &bus, 0x45), 0);
    CU_ASSERT_EQUAL(any_on_i2c(&sensors[2], &pintle_bme280, &bus, 0x76), 0);
    for (int i = 0; i < 3; i++) {
        turns[i].sensor = &sensors[i].sensor;
    }
    CU_ASSERT_EQUAL(turns_round(turns, 3), 0);
    uint64_t before = sim.now_us;
    uint64_t bytes = sim.bus[0].bytes;
    CU_ASSERT_EQUAL(turns_round(turns, 3), 0);
    uint64_t traffic_us = (sim.bus[0].bytes - bytes) * 90;
    EXPECT(sim.now_us - before <= 15500 + traffic_us, "a round took %u us",
           (unsigned)(sim.now_us - before));
}

static void wrong_arguments(void)
{
    struct pintle_any sensor;
    struct bench bench;
    bench_make(&bench, &pintle_bme280, 0x76);
    CU_ASSERT_EQUAL(any_on_i2c(&sensor, &pintle_bme280, &bench.bus, 0x75), PINTLE_WRONG_PLACE);
    struct pintle_part large = pintle_tmp102; /* more than there is room for */
    large.channel_count = PINTLE_MOST_CHANNELS + 1;
    CU_ASSERT_EQUAL(any_on_i2c(&sensor, &large, &bench.bus, 0x48), PINTLE_NO_ROOM);
    large = pintle_tmp102;
    large.trim_size = 255;
    CU_ASSERT_EQUAL(any_on_i2c(&sensor, &large, &bench.bus, 0x48), PINTLE_NO_ROOM);
    CU_ASSERT_EQUAL(pintle_sensor_set(&bench.sensor, 4, 0), PINTLE_BAD_ARGUMENT);
    CU_ASSERT_EQUAL(pintle_sensor_set(&bench.sensor, 0, 5), PINTLE_BAD_ARGUMENT);
    uint8_t byte = 0;
    const struct pintle_segment both = { &byte, &byte, 1 };
    const struct pintle_segment neither = { NULL, NULL, 1 };
    const struct pintle_segment good = { &byte, NULL, 1 };
    CU_ASSERT_EQUAL(pintle_i2c_transfer(&bench.bus, 0x76, &both, 1), PINTLE_BAD_ARGUMENT);
    CU_ASSERT_EQUAL(pintle_i2c_transfer(&bench.bus, 0x76, &neither, 1), PINTLE_BAD_ARGUMENT);
    CU_ASSERT_EQUAL(pintle_i2c_transfer(&bench.bus, 0x76, &good, 0), PINTLE_BAD_ARGUMENT);
    CU_ASSERT_EQUAL(pintle_i2c_transfer(&bench.bus, 0x07, &good, 1), PINTLE_BAD_ARGUMENT);
    CU_ASSERT_EQUAL(pintle_i2c_transfer(&bench.bus, 0x78, &good, 1), PINTLE_BAD_ARGUMENT);
    CU_ASSERT_EQUAL(pintle_i2c_transfer(&bench.bus, 0x08, &good, 1), PINTLE_NO_ANSWER);
    CU_ASSERT_EQUAL(pintle_i2c_transfer(&bench.bus, 0x77, &good, 1), PINTLE_NO_ANSWER);
    CU_ASSERT_PTR_NULL(pintle_sim_add(&bench.sim, "TMP103", 0, 0x48));
    CU_ASSERT_PTR_NULL(pintle_sim_add(&bench.sim, "TMP102", 1, 0x48));
}

/* Which part passes whose proof, each put at an address that both know or not at all. */
static void identity(void)
{
    static const struct {
        const char *chip;
        const struct pintle_part *expected;
        uint8_t address;
        enum pintle_status status;
    } rows[] = {
        { "BME280", &pintle_bme280, 0x76, PINTLE_OK },
        { "TMP102", &pintle_tmp102, 0x4a, PINTLE_OK },
        { "SHT31", &pintle_sht31, 0x45, PINTLE_OK },
        { "DS3231", &pintle_ds3231, 0x68, PINTLE_OK },
        { "TMP102", &pintle_bme280, 0x76, PINTLE_WRONG_IDENTITY },
        { "DS3231", &pintle_bme280, 0x77, PINTLE_WRONG_IDENTITY },
        { "BME280", &pintle_tmp102, 0x48, PINTLE_WRONG_IDENTITY },
        { "DS3231", &pintle_tmp102, 0x48, PINTLE_WRONG_IDENTITY },
        { "TMP102", &pintle_ds3231, 0x68, PINTLE_WRONG_IDENTITY },
        { "SHT31", &pintle_bme280, 0x76, PINTLE_NO_ANSWER },
        { "BME280", &pintle_sht31, 0x44, PINTLE_BAD_CRC },
    };
    for (size_t i = 0; i < COUNT(rows); i++) {
        struct bench bench;
        pintle_sim_init(&bench.sim, 1, 0, 1);
        pintle_sim_add(&bench.sim, rows[i].chip, 0, rows[i].address);
        pintle_sim_pass(&bench.sim, 100000);
        bench.bus = pintle_sim_i2c(&bench.sim, 0);
        bench.clock = pintle_sim_clock(&bench.sim);
        CU_ASSERT_EQUAL(any_on_i2c(&bench.any, rows[i].expected, &bench.bus, rows[i].address),
                        PINTLE_OK);
        enum pintle_status status = pintle_sensor_prove(&bench.sensor);
        EXPECT(status == rows[i].status, "a %s as a %s: %s", rows[i].chip, rows[i].expected->name,
               pintle_status_word(status));
    }
}

/* Each fault of the simulation on each part: what is reported while it lasts, that every value is
 * marked, and that the sensor comes back by itself with its settings. */
static void come_and_go(const struct pintle_part *part, enum pintle_sim_fault_kind kind,
                        enum pintle_status expected, bool over_wires)
{
    struct bench bench;
    struct wired wired;
    struct pintle_sample sample;
    const struct pintle_sim_fault fault = { .kind = kind, .from_us = 10000000, .to_us = 20000000 };
    bench_make(&bench, part, bench_place(part));
    if (over_wires) {
        bench_wire(&bench, &wired);
    }
    CU_ASSERT_EQUAL(pintle_sim_add_fault(&bench.sim, &fault), PINTLE_OK);
    EXPECT(bench_read(&bench, &sample) == PINTLE_OK, "%s before", part->name);
    pintle_sim_pass(&bench.sim, 10000000);
    for (int k = 0; k < 3; k++) {
        enum pintle_status status = pintle_sample_read(&bench.sensor, &sample);
        bool by_chance = over_wires && kind == PINTLE_SIM_FLIPPED; /* not in each transfer */
        EXPECT(status == expected || by_chance, "%s during fault %d: %s", part->name, kind,
               pintle_status_word(status));
        for (unsigned c = 0; status != PINTLE_OK && c < part->channel_count; c++) {
            EXPECT(sample.channel[c].quality == PINTLE_QUALITY_BUS, "%s marked", part->name);
        }
    }
    pintle_sim_pass(&bench.sim, 10000000);
    EXPECT(bench_read(&bench, &sample) == PINTLE_OK && bench_lies(&bench, &sample) == 0, "%s after",
           part->name);
}

static void faults_come_and_go(void)
{
    for (size_t p = 0; p < measuring_count(); p++) {
        const struct pintle_part *part = measuring_at(p)->part;
        for (int wires = 0; wires < 2; wires++) {
            come_and_go(part, PINTLE_SIM_UNPLUGGED, PINTLE_NO_ANSWER, wires);
            come_and_go(part, PINTLE_SIM_SILENT, PINTLE_NO_ANSWER, wires);
            if (bench_has_crc(part)) {
                come_and_go(part, PINTLE_SIM_FLIPPED, PINTLE_BAD_CRC, wires);
            }
        }
    }
}

/* A chip that lost its supply for a moment, with nobody looking, has forgotten its settings and
 * holds what it holds after power-up. Read so many microseconds later, it is set up again and what
 * comes is the truth, or it is marked. */
static void brown_out(const struct pintle_sheet *sheet, uint8_t seed, uint32_t later_us)
{
    const struct pintle_part *part = sheet->part;
    struct bench bench;
    struct pintle_sample sample;
    bench_make_seeded(&bench, part, part->addresses ? part->addresses[0] : 3, seed);
    for (uint8_t s = 0; s < part->setting_count; s++) {
        uint8_t option = (uint8_t)(seed % part->settings[s].count);
        bool powers = strcmp(sheet->settings[s].name, "power") == 0;
        CU_ASSERT_EQUAL(pintle_sensor_set(&bench.sensor, s, powers ? 0 : option), PINTLE_OK);
    }
    const struct pintle_sim_fault fault = { .kind = PINTLE_SIM_UNPLUGGED,
                                            .from_us = 30000000,
                                            .to_us = 30010000 };
    CU_ASSERT_EQUAL(pintle_sim_add_fault(&bench.sim, &fault), PINTLE_OK);
    CU_ASSERT_EQUAL(bench_read(&bench, &sample), PINTLE_OK);
    pintle_sim_pass(&bench.sim, fault.to_us + later_us - bench.sim.now_us);
    for (int k = 0; k < 3; k++) {
        enum pintle_status status = pintle_sample_read(&bench.sensor, &sample);
        for (uint8_t c = 0; c < part->channel_count && status == PINTLE_OK; c++) {
            const struct pintle_channel *channel = &part->channels[c];
            double off =
                fabs((double)sample.channel[c].value - pintle_sim_truth(bench.chip, channel->name));
            bool good = !(sample.channel[c].quality & PINTLE_QUALITY_SUSPECT);
            EXPECT(!good || isnan(off) || off <= (double)sheet->channels[c].accuracy_wide,
                   "%s, %u us later, reading %d: %s of %g passes as good", part->name, later_us, k,
                   channel->name, (double)sample.channel[c].value);
            EXPECT(good || k < 2 || isnan(off), "%s, %u us later: %s is marked %02x for ever",
                   part->name, later_us, channel->name, sample.channel[c].quality);
        }
        EXPECT(k < 2 || status == PINTLE_OK, "%s, %u us later: %s", part->name, later_us,
               pintle_status_word(status));
    }
}

static void brown_outs(void)
{
    static const uint32_t later[] = { 10, 1000, 10000, 100000, 300000, 2000000 };
    for (size_t p = 0; p < measuring_count(); p++) {
        for (uint8_t i = 0; i < 12 * COUNT(later); i++) {
            brown_out(measuring_at(p), i, later[i % COUNT(later)]);
        }
    }
}

/* The supply goes at any moment of a reading, for a moment or for longer than that. Over wires it
 * goes between two bits. */
static void supply_goes_at(const struct pintle_part *part, unsigned at, unsigned of,
                           uint32_t for_us, bool over_wires)
{
    struct bench bench;
    struct wired wired;
    struct pintle_sample sample;
    bench_make(&bench, part, bench_place(part));
    if (over_wires) {
        bench_wire(&bench, &wired);
    }
    pintle_sim_pass(&bench.sim, 500000);
    EXPECT(bench_read(&bench, &sample) == PINTLE_OK, "%s before", part->name);
    pintle_sim_pass(&bench.sim, 50000);
    uint64_t begun = bench.sim.now_us;
    EXPECT(pintle_sample_read(&bench.sensor, &sample) == PINTLE_OK, "%s once more", part->name);
    uint64_t took = bench.sim.now_us - begun;
    pintle_sim_pass(&bench.sim, 50000);
    const struct pintle_sim_fault out = { .kind = PINTLE_SIM_UNPLUGGED,
                                          .from_us = bench.sim.now_us + took * at / of,
                                          .to_us = bench.sim.now_us + took * at / of + for_us };
    CU_ASSERT_EQUAL(pintle_sim_add_fault(&bench.sim, &out), PINTLE_OK);
    for (int k = 0; k < 3; k++) {
        enum pintle_status status = pintle_sample_read(&bench.sensor, &sample);
        EXPECT(bench_lies(&bench, &sample) == 0,
               "%s, %u/%u of a reading, %u us: wrong in reading %d", part->name, at, of, for_us, k);
        EXPECT(k < 2 || status == PINTLE_OK, "%s, %u/%u of a reading, %u us: %s", part->name, at,
               of, for_us, pintle_status_word(status));
        pintle_sim_pass(&bench.sim, 100000);
    }
}

static void the_supply_goes_in_a_reading(void)
{
    static const uint32_t long_us[] = { 5, 40, 300, 20000 };
    for (size_t p = 0; p < measuring_count(); p++) {
        for (unsigned i = 0; i < 800; i += one_in()) {
            supply_goes_at(measuring_at(p)->part, i / 8, 100, long_us[i % 4], i / 4 % 2);
        }
    }
}

/* A stuck line is recovered once and the transfer repeated; where that does not help, the first
 * cause comes out. */
struct stuck {
    int stuck_for; /* transfers */
    int recoveries;
    enum pintle_status recovery;
};

static enum pintle_status stuck_transfer(void *context, uint8_t address,
                                         const struct pintle_segment *segments, uint8_t count,
                                         uint32_t limit_us)
{
    struct stuck *stuck = context;
    (void)address;
    (void)segments;
    (void)count;
    EXPECT(limit_us == 25000 + 312, "a probe's limit: %u", limit_us);
    return stuck->stuck_for-- > 0 ? PINTLE_DATA_STUCK : PINTLE_OK;
}

static enum pintle_status stuck_recover(void *context)
{
    struct stuck *stuck = context;
    stuck->recoveries++;
    return stuck->recovery;
}

static void a_stuck_bus_is_recovered(void)
{
    static const struct pintle_i2c_calls calls = { .transfer = stuck_transfer,
                                                   .recover = stuck_recover };
    static const struct {
        const char *name;
        struct stuck stuck;
        enum pintle_status status;
        int recoveries;
    } rows[] = {
        { "free", { 0, 0, PINTLE_OK }, PINTLE_OK, 0 },
        { "stuck once", { 1, 0, PINTLE_OK }, PINTLE_OK, 1 },
        { "stuck again", { 2, 0, PINTLE_OK }, PINTLE_DATA_STUCK, 1 },
        { "cannot be recovered", { 1, 0, PINTLE_DATA_STUCK }, PINTLE_DATA_STUCK, 1 },
    };
    for (size_t i = 0; i < COUNT(rows); i++) {
        struct stuck stuck = rows[i].stuck;
        struct pintle_i2c bus = { .calls = &calls,
                                  .common = { .context = &stuck },
                                  .bit_ns = 10000 };
        EXPECT(pintle_i2c_probe(&bus, 0x48) == rows[i].status, "%s", rows[i].name);
        EXPECT(stuck.recoveries == rows[i].recoveries, "%s: recoveries", rows[i].name);
    }
}

/* A chip whose busy flag never clears ends in a time limit, not in a hang. */
static enum pintle_status busy_for_ever(void *context, uint8_t address,
                                        const struct pintle_segment *segments, uint8_t count,
                                        uint32_t limit_us)
{
    (void)context;
    (void)address;
    (void)limit_us;
    for (uint8_t i = 0; i < count; i++) {
        for (uint16_t k = 0; segments[i].in && k < segments[i].length; k++) {
            segments[i].in[k] = segments[0].out[0] == 0xd0 ? 0x60 : 0xff;
        }
    }
    return PINTLE_OK;
}

static void a_busy_flag_has_a_limit(void)
{
    static const struct pintle_i2c_calls calls = { .transfer = busy_for_ever };
    struct bench bench;
    struct pintle_sample sample;
    bench_make(&bench, &pintle_bme280, 0x76);
    bench.bus = (struct pintle_i2c){ .calls = &calls, .common = { .clock = &bench.clock } };
    CU_ASSERT_EQUAL(pintle_sample_read(&bench.sensor, &sample), PINTLE_STAYED_BUSY);
    EXPECT(bench.sim.now_us < 200000, "it took %u us", (unsigned)bench.sim.now_us);
}

/* Registers: what each call refuses, and that neighbours of a field stay. */
static void registers(void)
{
    static const struct pintle_reg config = PINTLE_REG(0x01, 2, 0);
    static const struct pintle_reg temperature = PINTLE_REG(0x00, 2, PINTLE_REG_READ_ONLY);
    static const struct pintle_reg secret = PINTLE_REG(0x02, 2, PINTLE_REG_WRITE_ONLY);
    static const struct pintle_reg wide = PINTLE_REG(0x02, 5, 0);
    struct bench bench;
    uint32_t value = 0;
    bench_make(&bench, &pintle_tmp102, 0x48);
    struct pintle_sensor *s = &bench.sensor;
    CU_ASSERT_EQUAL(pintle_reg_read(s, &config, &value), PINTLE_OK);
    CU_ASSERT_EQUAL(value, 0x60a0); /* SLOS854 table 8-8 */
    CU_ASSERT_EQUAL(pintle_reg_write_field(s, &config, 11, 2, 3), PINTLE_OK);
    CU_ASSERT_EQUAL(pintle_reg_read(s, &config, &value), PINTLE_OK);
    CU_ASSERT_EQUAL(value, 0x78a0);
    CU_ASSERT_EQUAL(pintle_reg_write_field(s, &config, 11, 2, 4), PINTLE_OUT_OF_RANGE);
    CU_ASSERT_EQUAL(pintle_reg_write_field(s, &config, 15, 2, 1), PINTLE_BAD_ARGUMENT);
    CU_ASSERT_EQUAL(pintle_reg_write_field(s, &config, 0, 0, 0), PINTLE_BAD_ARGUMENT);
    CU_ASSERT_EQUAL(pintle_reg_write_field(s, &temperature, 0, 1, 1), PINTLE_READ_ONLY);
    CU_ASSERT_EQUAL(pintle_reg_write(s, &temperature, 1), PINTLE_READ_ONLY);
    CU_ASSERT_EQUAL(pintle_reg_write(s, &config, 0x10000), PINTLE_OUT_OF_RANGE);
    CU_ASSERT_EQUAL(pintle_reg_read(s, &secret, &value), PINTLE_WRITE_ONLY);
    CU_ASSERT_EQUAL(pintle_reg_read(s, &wide, &value), PINTLE_BAD_ARGUMENT);
}

static void command_parts_have_registers_too(void)
{
    static const struct pintle_reg status = PINTLE_REG(0xf32d, 2, PINTLE_REG_READ_ONLY);
    static const struct pintle_reg heater = PINTLE_REG(0x306d, 0, PINTLE_REG_WRITE_ONLY);
    static const struct pintle_reg word = PINTLE_REG(0x6100, 2, 0);
    struct bench bench;
    uint32_t value = 0;
    bench_make(&bench, &pintle_sht31, 0x44);
    pintle_sim_pass(&bench.sim, 2000);
    CU_ASSERT_EQUAL(pintle_reg_read(&bench.sensor, &status, &value), PINTLE_OK);
    CU_ASSERT_EQUAL(value, 0x8010); /* SHT3x-DIS table 18 */
    CU_ASSERT_EQUAL(pintle_reg_write(&bench.sensor, &heater, 0), PINTLE_OK);
    CU_ASSERT_EQUAL(pintle_reg_read(&bench.sensor, &status, &value), PINTLE_OK);
    CU_ASSERT_EQUAL(value, 0xa010);
    CU_ASSERT_EQUAL(pintle_reg_write(&bench.sensor, &word, 1), PINTLE_NO_ABILITY);
}

/* Where the datasheet's first reading is not to be trusted, and only there. */
static void the_first_reading_is_marked(void)
{
    static const struct {
        const struct pintle_part *part;
        uint8_t address;
        uint8_t first;
    } rows[] = {
        { &pintle_bme280, 0x76, PINTLE_QUALITY_FIRST },
        { &pintle_tmp102, 0x48, 0 },
        { &pintle_sht31, 0x44, 0 },
    };
    for (size_t i = 0; i < COUNT(rows); i++) {
        struct bench bench;
        struct pintle_sample sample;
        bench_make(&bench, rows[i].part, rows[i].address);
        CU_ASSERT_EQUAL(pintle_sample_read(&bench.sensor, &sample), PINTLE_OK);
        EXPECT(sample.channel[0].quality == rows[i].first, "%s first", rows[i].part->name);
        CU_ASSERT_EQUAL(pintle_sample_read(&bench.sensor, &sample), PINTLE_OK);
        EXPECT(sample.channel[0].quality == 0, "%s second", rows[i].part->name);
    }
}

/* 0 degC is what the chips hold before their first conversion. It is asked for once more, and then
 * it is a temperature. */
static void freezing_point(void)
{
    static const struct pintle_part *const parts[] = { &pintle_tmp102, &pintle_mcp9808 };
    for (size_t p = 0; p < COUNT(parts); p++) {
        struct bench bench;
        struct pintle_sample sample;
        const struct pintle_sim_curve ice = { .level = 0 };
        bench_make(&bench, parts[p], parts[p]->addresses[0]);
        CU_ASSERT_EQUAL(pintle_sim_feel(bench.chip, "temperature", &ice), PINTLE_OK);
        CU_ASSERT_EQUAL(pintle_sim_error(bench.chip, "temperature", 0), PINTLE_OK);
        for (int i = 0; i < 20; i++) {
            CU_ASSERT_EQUAL(pintle_sample_read(&bench.sensor, &sample), PINTLE_OK);
            CU_ASSERT_EQUAL(sample.channel[0].quality, 0);
            EXPECT_NEAR(sample.channel[0].value, 0, 0.1, parts[p]->name);
            pintle_sim_pass(&bench.sim, 300000);
        }
    }
}

/* Between two readings somebody else reads another register of the chip: through a second sensor
 * object, by hand, with a bare transfer, or as another master. Its pointer or bank has moved. */
static enum pintle_status meddle(struct bench *bench, const struct pintle_part *part, int how)
{
    const struct pintle_reg other = PINTLE_REG(part == &pintle_tmp102 ? 0x01 : 0x0210, 1, 0);
    const uint8_t bank[2] = { 0x7f, 0x20 };
    const uint8_t pointer = 0x01;
    const struct pintle_segment by_spi = { bank, NULL, 2 };
    const struct pintle_segment by_i2c = { &pointer, NULL, 1 };
    const struct pintle_spi_way way = { .clock_hz = 1000000, .select = bench->chip->address };
    struct bench second = *bench;
    uint32_t value = 0;
    switch (how) {
    case 0: /* on the same bus */
        if (part->link->kind == PINTLE_BUS_I2C) {
            return any_on_i2c(&second.any, part, &bench->bus, bench->chip->address) != PINTLE_OK
                       ? PINTLE_BAD_ARGUMENT
                       : pintle_sensor_prove(&second.sensor);
        }
        return any_on_spi(&second.any, part, &bench->spi, bench->chip->address) != PINTLE_OK
                   ? PINTLE_BAD_ARGUMENT
                   : pintle_reg_read(&second.sensor, &other, &value);
    case 1:
        return pintle_reg_read(&bench->sensor, &other, &value);
    case 2:
        return part->link->kind == PINTLE_BUS_I2C
                   ? pintle_i2c_transfer(&bench->bus, bench->chip->address, &by_i2c, 1)
                   : pintle_spi_transfer(&bench->spi, &way, &by_spi, 1);
    case 3:
        return pintle_sensor_prove(&bench->sensor);
    default: /* another master, of which this one knows nothing but that there may be one */
        pintle_sim_poke(bench->chip, other.address, 1, 0x00);
        return PINTLE_OK;
    }
}

static void pointers_moved_by_others(void)
{
    static const struct pintle_part *const parts[] = { &pintle_tmp102, &pintle_icm20948 };
    for (size_t p = 0; p < COUNT(parts); p++) {
        for (int how = 0; how < 5; how++) {
            struct bench bench;
            struct pintle_sample sample;
            bench_make(&bench, parts[p], p ? 1 : 0x48);
            bench.bus.common.sole_master = bench.spi.common.sole_master = how < 4;
            const char *channel = parts[p]->channels[2 * p].name;
            double truth = pintle_sim_truth(bench.chip, channel);
            for (int k = 0; k < 4; k++) {
                CU_ASSERT_EQUAL(pintle_sample_read(&bench.sensor, &sample), PINTLE_OK);
                EXPECT_NEAR(sample.channel[2 * p].value, truth, 3.1, parts[p]->name);
                EXPECT(sample.channel[2 * p].quality == 0, "%s, way %d: marked", parts[p]->name,
                       how);
                EXPECT(meddle(&bench, parts[p], how) == PINTLE_OK, "%s, way %d", parts[p]->name,
                       how);
            }
        }
    }
}

/* Taking turns: every transfer happens inside a claim, claims don't nest, none lasts through a
 * conversion, and one that fails is passed on. */
struct turns {
    struct pintle_i2c i2c;
    struct pintle_spi spi;
    struct pintle_onewire line;
    struct pintle_stream stream;
    struct pintle_sim *sim;
    int held, claims, outside;
    uint64_t since_us, longest_us;
    enum pintle_status refused;
};
static struct turns turns;

static enum pintle_status take_turn(void *context)
{
    (void)context;
    turns.outside += turns.held;
    turns.held = turns.refused == PINTLE_OK;
    turns.claims++;
    turns.since_us = turns.sim->now_us;
    return turns.refused;
}

static void end_turn(void *context)
{
    (void)context;
    uint64_t lasted = turns.sim->now_us - turns.since_us;
    turns.longest_us = lasted > turns.longest_us ? lasted : turns.longest_us;
    turns.outside += !turns.held;
    turns.held = 0;
}

static enum pintle_status turn_i2c(void *context, uint8_t address,
                                   const struct pintle_segment *segments, uint8_t count,
                                   uint32_t limit_us)
{
    turns.outside += !turns.held;
    return turns.i2c.calls->transfer(context, address, segments, count, limit_us);
}

static enum pintle_status turn_spi(void *context, const struct pintle_spi_way *way,
                                   const struct pintle_segment *segments, uint8_t count)
{
    turns.outside += !turns.held;
    return turns.spi.calls->transfer(context, way, segments, count);
}

static enum pintle_status turn_reset(void *context)
{
    turns.outside += !turns.held;
    return turns.line.calls->reset(context);
}

static enum pintle_status turn_slots(void *context, const uint8_t *out, uint8_t *in, uint16_t count,
                                     uint8_t strong)
{
    turns.outside += !turns.held;
    return turns.line.calls->slots(context, out, in, count, strong);
}

static enum pintle_status turn_send(void *context, const uint8_t *bytes, uint16_t count,
                                    uint32_t limit_us)
{
    turns.outside += !turns.held;
    return turns.stream.calls->send(context, bytes, count, limit_us);
}

static enum pintle_status turn_receive(void *context, uint8_t *bytes, uint16_t count, uint16_t *got,
                                       uint32_t limit_us)
{
    turns.outside += !turns.held;
    return turns.stream.calls->receive(context, bytes, count, got, limit_us);
}

static void share(struct bench *bench)
{
    static const struct pintle_i2c_calls i2c = { .transfer = turn_i2c };
    static const struct pintle_spi_calls spi = { .transfer = turn_spi };
    static const struct pintle_onewire_calls line = { turn_reset, turn_slots, NULL };
    turns = (struct turns){ .i2c = bench->bus,
                            .spi = bench->spi,
                            .line = bench->line,
                            .stream = bench->stream,
                            .sim = &bench->sim };
    static const struct pintle_stream_calls stream = { turn_send, turn_receive, NULL };
    static const struct pintle_claims claims = { take_turn, end_turn };
    bench->stream.common.claims = bench->bus.common.claims = &claims;
    bench->spi.common.claims = bench->line.common.claims = &claims;
    bench->stream.calls = &stream;
    bench->bus.calls = &i2c;
    bench->spi.calls = &spi;
    bench->line.calls = &line;
}

/* A register that can be read; null: it has none. */
static const struct pintle_reg *readable(const struct pintle_sheet *sheet)
{
    for (unsigned i = 0; i < sheet->reg_count; i++) {
        if (!(sheet->regs[i].reg.flags & PINTLE_REG_WRITE_ONLY) && sheet->regs[i].reg.width) {
            return &sheet->regs[i].reg;
        }
    }
    return NULL;
}

static void taking_turns(void)
{
    for (size_t p = 0; p < measuring_count(); p++) {
        const struct pintle_sheet *sheet = measuring_at(p);
        const struct pintle_part *part = sheet->part;
        const struct pintle_reg *reg = readable(sheet);
        struct bench bench;
        struct pintle_sample sample;
        uint32_t value = 0;
        bench_make(&bench, part, part->addresses ? part->addresses[0] : 3);
        share(&bench);
        for (int k = 0; k < 3; k++) {
            CU_ASSERT_EQUAL(pintle_sample_read(&bench.sensor, &sample), PINTLE_OK);
            CU_ASSERT_EQUAL(pintle_sensor_prove(&bench.sensor), PINTLE_OK);
            CU_ASSERT(!reg || pintle_reg_read(&bench.sensor, reg, &value) == PINTLE_OK);
        }
        EXPECT(turns.claims > 0 && turns.outside == 0 && !turns.held,
               "%s: %d claims, %d times out of turn", part->name, turns.claims, turns.outside);
        EXPECT(turns.longest_us < (part->flags & PINTLE_PART_KEEPS ? 45000 : 35000),
               "%s holds the bus for %u us", part->name, (unsigned)turns.longest_us);
        turns.refused = PINTLE_TIME_LIMIT;
        CU_ASSERT_EQUAL(pintle_sample_read(&bench.sensor, &sample), PINTLE_TIME_LIMIT);
        CU_ASSERT(!reg || pintle_reg_read(&bench.sensor, reg, &value) == PINTLE_TIME_LIMIT);
        EXPECT(sample.channel[0].quality == PINTLE_QUALITY_BUS, "%s: marked", part->name);
        turns.refused = PINTLE_OK;
        CU_ASSERT_EQUAL(pintle_sample_read(&bench.sensor, &sample), PINTLE_OK);
        EXPECT(turns.outside == 0, "%s: afterwards", part->name);
    }
}

/* A clock of 32 bits that nobody extended, `ahead` of the simulation, or one that stands still from
 * `stands_from` on, or that is set back once at `back_at`. */
static struct {
    struct pintle_sim *sim;
    uint64_t ahead, stands_from, back_at, back;
    unsigned calls;
} odd;

static uint64_t odd_now(void *context)
{
    uint64_t at = odd.sim->now_us;
    (void)context;
    odd.calls++;
    at = at < odd.stands_from ? at : odd.stands_from;
    return (uint32_t)(at + odd.ahead - (at > odd.back_at ? odd.back : 0));
}

static void odd_sleep(void *context, uint32_t us)
{
    (void)context;
    odd.calls++;
    pintle_sim_pass(odd.sim, us);
}

/* No clock makes a reading endless, or has it collected too early; a good one is good again. */
static void odd_clocks(void)
{
    static const struct pintle_clock_calls calls = { odd_now, odd_sleep, NULL, NULL, NULL };
    const struct pintle_clock clock = { &calls, NULL };
    const struct {
        const char *name;
        uint64_t ahead, stands_from, back_at, back;
    } clocks[] = {
        { "wraps", UINT32_MAX - 1000, UINT64_MAX, UINT64_MAX, 0 },
        { "stands still", 1000, 500, UINT64_MAX, 0 },
        { "stops on the way", 1000, 600, UINT64_MAX, 0 },
        { "goes back by an hour", 4000000000, UINT64_MAX, 600, 3600000000 },
        { "goes back a little", 4000000000, UINT64_MAX, 600, 2000 },
    };
    const struct pintle_sheet *sheet = NULL;
    for (size_t p = 0; (sheet = measuring_at(p)) != NULL; p++) {
        const struct pintle_part *part = sheet->part;
        for (size_t i = 0; i < COUNT(clocks); i++) {
            struct bench bench;
            struct turn turn = { .sensor = &bench.sensor };
            bench_make(&bench, part, bench_place(part));
            bench.clock = clock;
            uint64_t base = bench.sim.now_us;
            odd.sim = &bench.sim;
            odd.ahead = clocks[i].ahead - base;
            odd.stands_from = clocks[i].stands_from + (clocks[i].stands_from < base ? base : 0);
            odd.back_at = clocks[i].back_at + (clocks[i].back_at < base ? base : 0);
            odd.back = clocks[i].back;
            for (unsigned round = 0; round < 3; round++) {
                odd.calls = 0;
                uint64_t before = bench.sim.now_us;
                enum pintle_status status = pintle_sample_read(&bench.sensor, &turn.sample);
                bool is_good =
                    status == PINTLE_OK
                    && !(turn.sample.channel[0].quality & (pintle_marks)~PINTLE_QUALITY_FIRST);
                EXPECT(is_good || status == PINTLE_CLOCK_STOPPED, "%s, %s: %s, %04x", part->name,
                       clocks[i].name, pintle_status_word(status), turn.sample.channel[0].quality);
                EXPECT(is_good || turn.sample.channel[0].quality == PINTLE_QUALITY_BUS,
                       "%s, %s: marked %04x", part->name, clocks[i].name,
                       turn.sample.channel[0].quality);
                EXPECT(!is_good || bench_lies(&bench, &turn.sample) == 0, "%s, %s: too early",
                       part->name, clocks[i].name);
                EXPECT(odd.calls < 5000 && bench.sim.now_us - before < 5000000,
                       "%s, %s: %u calls, %llu us", part->name, clocks[i].name, odd.calls,
                       (unsigned long long)(bench.sim.now_us - before));
            }
            odd.calls = 0;
            (void)turns_round(&turn, 1);
            EXPECT(odd.calls < 5000, "%s, %s: a round in %u calls", part->name, clocks[i].name,
                   odd.calls);
            odd.stands_from = odd.back_at = UINT64_MAX;
            odd.ahead = 1;
            (void)!pintle_sample_read(&bench.sensor, &turn.sample);
            EXPECT(pintle_sample_read(&bench.sensor, &turn.sample) == PINTLE_OK
                       && bench_lies(&bench, &turn.sample) == 0,
                   "%s, %s: right again", part->name, clocks[i].name);
        }
    }
}

/* Whatever is done with a chip besides measuring: its time is that of its last measurement, or
 * unknown. */
static void do_besides(struct bench *bench, const struct pintle_sheet *sheet, int how)
{
    const struct pintle_abilities none = { 0 };
    const struct pintle_abilities *can = sheet->part->can ? sheet->part->can : &none;
    struct pintle_limits limits;
    struct pintle_burst burst;
    struct pintle_sample samples[32];
    uint16_t count = 0;
    uint32_t value = 0;
    switch (how) {
    case 0:
        CU_ASSERT_EQUAL(pintle_sensor_prove(&bench->sensor), PINTLE_OK);
        break;
    case 1:
        (void)!pintle_sensor_rest(&bench->sensor);
        break;
    case 2:
        if (sheet->reg_count > 0) {
            (void)!pintle_reg_read(&bench->sensor, &sheet->regs[0].reg, &value);
        }
        break;
    case 3:
        if (can->limits) {
            CU_ASSERT_EQUAL(pintle_limits_set(&limits, &bench->sensor, 10, 20), PINTLE_OK);
        }
        break;
    case 4:
        if (can->timekeeper) {
            CU_ASSERT_EQUAL(pintle_time_set(&bench->sensor, 1781222400), PINTLE_OK);
        }
        break;
    case 5:
        CU_ASSERT_EQUAL(pintle_sensor_start(&bench->sensor), PINTLE_OK);
        break;
    default:
        if (can->fifo && pintle_burst_init(&burst, &bench->sensor) == PINTLE_OK) {
            (void)!burst_collect(&burst, samples, COUNT(samples), &count);
        }
        break;
    }
}

static void its_time(void)
{
    const struct pintle_sheet *sheet = NULL;
    for (size_t p = 0; (sheet = measuring_at(p)) != NULL; p++) {
        struct bench bench;
        struct pintle_sample sample;
        bench_make(&bench, sheet->part, bench_place(sheet->part));
        memset(&bench.any, 0, sizeof bench.any); /* as a static object is */
        CU_ASSERT_EQUAL(bench_seat(&bench, sheet->part), PINTLE_OK);
        CU_ASSERT_EQUAL(pintle_sensor_time_us(&bench.sensor), 0);
        for (uint8_t c = 0; c < sheet->part->channel_count; c++) {
            EXPECT(!pintle_reading_good(&bench.any.reading[c]) && isnan(bench.any.reading[c].value),
                   "%s: a value before the first measurement", sheet->part->name);
        }
        for (int how = 0; how < 7; how++) {
            enum pintle_status status = bench_read(&bench, &sample);
            EXPECT(status == PINTLE_OK, "%s, before %d: %s", sheet->part->name, how,
                   pintle_status_word(status));
            int64_t now_us = bench.sim.began_us + (int64_t)bench.sim.now_us;
            int64_t its = pintle_sensor_time_us(&bench.sensor);
            EXPECT(its == now_us && sample.time_us == its, "%s, before %d: %lld us off",
                   sheet->part->name, how, (long long)(its - now_us));
            do_besides(&bench, sheet, how);
            int64_t is = pintle_sensor_time_us(&bench.sensor);
            EXPECT(is == its || is == 0, "%s, after %d: %lld", sheet->part->name, how,
                   (long long)is);
            EXPECT(how != 1 || is == its, "%s: it rests, and has lost its time", sheet->part->name);
            pintle_sim_pass(&bench.sim, 1000000); /* what was begun is over */
        }
    }
}

void add_engine_suite(void)
{
    SUITE("engine", { "its time", its_time }, { "the fewest bytes on the bus", the_fewest_bytes },
          { "start, wait, collect", start_wait_collect }, { "out of turn", out_of_turn },
          { "started twice", started_twice },
          { "a round is as long as its slowest", a_round_is_as_long_as_the_slowest },
          { "wrong arguments", wrong_arguments }, { "identity", identity },
          { "faults come and go", faults_come_and_go }, { "brown-outs", brown_outs },
          { "the supply goes in a reading", the_supply_goes_in_a_reading },
          { "a stuck bus is recovered", a_stuck_bus_is_recovered },
          { "a busy flag has a limit", a_busy_flag_has_a_limit }, { "registers", registers },
          { "command parts have registers too", command_parts_have_registers_too },
          { "the first reading is marked", the_first_reading_is_marked },
          { "freezing point", freezing_point },
          { "pointers moved by others", pointers_moved_by_others },
          { "taking turns", taking_turns }, { "odd clocks", odd_clocks });
}
