/* Whole measurements on simulated chips: each reading must be within the part's accuracy of what
 * the chip is exposed to, over the part's whole range. Chip and driver share no code. */
#include "support.h"

#include "pintle/sheet.h"

/* A way to measure: the part and one of its settings. */
struct mode {
    const char *part;
    const char *setting;
    const char *option;
};

static const struct mode modes[] = {
    { "TMP102", NULL, NULL },
    { "TMP102", "mode", "one-shot" },
    { "TMP102", "format", "13-bit" },
    { "TMP102", "rate", "8Hz" },
    { "MCP9808", NULL, NULL },
    { "MCP9808", "resolution", "0.25" },
    { "SHT31", NULL, NULL },
    { "SHT31", "repeatability", "medium" },
    { "SHT31", "repeatability", "low" },
    { "SHTC3", NULL, NULL },
    { "SHTC3", "mode", "low-power" },
    { "BME280", NULL, NULL },
    { "BME280", "temperature-oversampling", "x16" },
    { "BME280", "pressure-oversampling", "x16" },
    { "BME280", "humidity-oversampling", "x8" },
    { "ADS1115", NULL, NULL },
    { "ADS1115", "range", "2.048V" },
    { "ADS1115", "rate", "860SPS" },
    { "ADXL345", NULL, NULL },
    { "ADXL345", "range", "16g" },
    { "ADXL345", "resolution", "10-bit" },
    { "ADXL345", "rate", "3200Hz" },
    { "INA219", NULL, NULL },
    { "INA219", "shunt-range", "40mV" },
    { "INA219", "samples", "128" },
    { "VEML7700", NULL, NULL },
    { "VEML7700", "gain", "x2" },
    { "VEML7700", "integration", "25ms" },
    { "MPU6050", NULL, NULL },
    { "MPU6050", "accel-range", "8g" },
    { "MPU6050", "gyro-range", "2000deg/s" },
    { "BMI160", NULL, NULL },
    { "BMI160", "accel-range", "16g" },
    { "BMI160", "gyro-range", "125deg/s" },
    { "BMI160", "rate", "25Hz" },
    { "BMP180", NULL, NULL },
    { "BMP180", "oversampling", "x8" },
    { "BMP280", NULL, NULL },
    { "BMP280", "pressure-oversampling", "x16" },
    { "HS3001", NULL, NULL },
    { "SHT40", NULL, NULL },
    { "SHT40", "precision", "medium" },
    { "SHT40", "precision", "low" },
    { "DS3231", NULL, NULL },
    { "TOF10120", NULL, NULL },
    { "TOF10120", "mode", "real-time" },
    { "TOF10120I2C", NULL, NULL },
    { "DS1307", NULL, NULL },
    { "PCF8574", NULL, NULL },
    { "PCF8574A", NULL, NULL },
    { "DS18B20", NULL, NULL },
    { "DS18B20", "resolution", "9-bit" },
    { "DS18B20", "resolution", "11-bit" },
    { "MCP3008", NULL, NULL },
    { "ICM20948", NULL, NULL },
    { "ICM20948", "accel-range", "16g" },
    { "ICM20948", "gyro-range", "2000deg/s" },
    { "LIS331DLH", NULL, NULL },
    { "LIS331DLH", "range", "8g" },
    { "LIS331HH", "range", "12g" },
    { "LIS331HH", "rate", "1000Hz" },
};

static float allowed(const struct pintle_channel_text *text, double truth)
{
    bool narrow = truth >= (double)text->narrow_lowest && truth <= (double)text->narrow_highest;
    return narrow ? text->accuracy_narrow : text->accuracy_wide;
}

static void set(struct bench *bench, const struct pintle_sheet *sheet, const struct mode *mode)
{
    uint8_t settings[PINTLE_MOST_SETTINGS] = { 0 };
    pintle_part_initial(sheet->part, settings);
    if (mode->setting) {
        EXPECT(pintle_sheet_set(sheet, mode->setting, mode->option, settings) == PINTLE_OK,
               "%s has %s=%s", mode->part, mode->setting, mode->option);
    }
    for (uint8_t i = 0; i < sheet->part->setting_count; i++) {
        CU_ASSERT_EQUAL(pintle_sensor_set(&bench->sensor, i, settings[i]), PINTLE_OK);
    }
}

/* Move one channel from end to end of its range, the others staying where they are. */
static void sweep(struct bench *bench, const struct pintle_sheet *sheet, unsigned c,
                  const char *mode)
{
    const struct pintle_channel *channel = &sheet->part->channels[c];
    const int steps = 60;
    double lowest = 0;
    double highest = 0;
    bench_scale(bench, (uint8_t)c, &lowest, &highest);
    for (int i = 0; i <= steps; i++) {
        double truth = lowest + (highest - lowest) * i / steps;
        const struct pintle_sim_curve level = { .level = truth };
        struct pintle_sample sample;
        CU_ASSERT_EQUAL(pintle_sim_feel(bench->chip, channel->name, &level), PINTLE_OK);
        pintle_sim_pass(&bench->sim, 70000000); /* slower converters have converted by then */
        enum pintle_status status = bench_read(bench, &sample);
        double error = (double)sample.channel[c].value - truth;
        EXPECT(status == PINTLE_OK, "%s %s at %g: %s", sheet->part->name, mode, truth,
               pintle_status_word(status));
        EXPECT(fabs(error) <= (double)allowed(&sheet->channels[c], truth),
               "%s %s %s at %g is off by %g", sheet->part->name, mode, channel->name, truth, error);
        /* A sweep comes upon 85 degC unprepared, as a DS18B20 does after a loss of power. */
        uint8_t edge = PINTLE_QUALITY_RANGE | PINTLE_QUALITY_SATURATED;
        EXPECT((sample.channel[c].quality & ~edge) == 0, "%s %s at %g: quality %02x",
               sheet->part->name, mode, truth, sample.channel[c].quality);
    }
    const struct pintle_sim_curve middle = { .level =
                                                 (double)(channel->lowest + channel->highest) / 2 };
    CU_ASSERT_EQUAL(pintle_sim_feel(bench->chip, channel->name, &middle), PINTLE_OK);
}

/* Is the channel something that the chip feels, and not worked out from others? A clock's time is
 * another matter. */
static bool feels(const struct bench *bench, const struct pintle_channel *channel)
{
    const char *const *inputs = bench->chip->model->inputs;
    unsigned i = 0;
    while (inputs[i] && strcmp(inputs[i], channel->name) != 0) {
        i++;
    }
    EXPECT(inputs[0] || channel->quantity == PINTLE_QUANTITY_TIME, "%s feels nothing",
           bench->sensor.part->name);
    return inputs[i] && channel->quantity != PINTLE_QUANTITY_TIME;
}

/* A 12-bit TMP102 saturates above 127.94 degC and a TMP102's range ends at 125, so no step of a
 * sweep is beyond the scale. */
static void within_accuracy_over_the_range(void)
{
    uint64_t seen = 0;
    for (size_t m = 0; m < COUNT(modes); m++) {
        const struct pintle_sheet *sheet = pintle_sheet_find(modes[m].part);
        bool has_addresses = sheet->part->link->kind == PINTLE_BUS_I2C;
        part_seen(&seen, sheet->part);
        for (unsigned a = 0; a < (has_addresses ? sheet->part->address_count : 1); a++) {
            struct bench bench;
            bench_make(&bench, sheet->part, has_addresses ? sheet->part->addresses[a] : 1);
            bench.sim.seed += a;
            set(&bench, sheet, &modes[m]);
            for (unsigned c = 0; c < sheet->part->channel_count; c++) {
                if (feels(&bench, &sheet->part->channels[c])) {
                    sweep(&bench, sheet, c, modes[m].option ? modes[m].option : "as it is");
                }
            }
        }
    }
    expect_all_parts(seen, "modes");
}

/* Every part with a ladder, with the first channel that decides anywhere within its range, from any
 * rung: true, not at the end of the scale, and no coarser than it must be. Then it stays there, and
 * measures once. */
static void a_range_by_itself(void)
{
    static const struct {
        const char *part, *channel;
        double lowest, highest, share; /* the largest error, as a share, ... */
        double more;                   /* ... and besides */
    } rows[] = { { "VEML7700", "illuminance", 0.05, 90000, 0.16, 0.1 },
                 { "ADS1115", "ain0", 0.0001, 5.5, 0.002, 0.0013 } };
    uint64_t seen = 0;
    for (size_t r = 0; r < COUNT(rows); r++) {
        const struct pintle_sheet *sheet = pintle_sheet_find(rows[r].part);
        const struct pintle_ladder *ladder = sheet->part->ladder;
        int c = pintle_sheet_channel(sheet, rows[r].channel);
        part_seen(&seen, sheet->part);
        for (unsigned i = 0; i < 60; i++) {
            struct bench bench;
            struct pintle_sample sample;
            bench_make_seeded(&bench, sheet->part, bench_place(sheet->part), i);
            double truth = rows[r].lowest * pow(rows[r].highest / rows[r].lowest, i / 59.0);
            const struct pintle_sim_curve level = { .level = truth };
            CU_ASSERT_EQUAL(pintle_sim_feel(bench.chip, rows[r].channel, &level), PINTLE_OK);
            for (unsigned k = 0; k < 2; k++) {
                uint8_t option = ladder->options[2 * (i % ladder->rungs) + k];
                CU_ASSERT_EQUAL(pintle_sensor_set(&bench.sensor, ladder->settings[k], option),
                                PINTLE_OK);
            }
            CU_ASSERT_EQUAL(pintle_sensor_auto(&bench.sensor, 1), PINTLE_OK);
            CU_ASSERT_EQUAL(pintle_sensor_ask(&bench.sensor, 1u << c), PINTLE_OK);
            for (int again = 0; again < 2; again++) {
                uint8_t before[PINTLE_MOST_SETTINGS];
                const uint8_t *now = pintle_sensor_block(&bench.sensor).settings;
                memcpy(before, now, bench.sensor.part->setting_count);
                CU_ASSERT_EQUAL(bench_read(&bench, &sample), PINTLE_OK);
                const struct pintle_reading *reading = &sample.channel[c];
                EXPECT_NEAR(reading->value, truth, truth * rows[r].share + rows[r].more,
                            rows[r].part);
                EXPECT(reading->quality == 0, "%s at %g: %04x", rows[r].part, truth,
                       reading->quality);
                bool finest = memcmp(now, ladder->options, 1) == 0;
                EXPECT(reading->raw < ladder->highest || truth > 5, "%s at %g: %d counts",
                       rows[r].part, truth, reading->raw);
                EXPECT(reading->raw >= ladder->lowest || finest, "%s at %g: %d counts",
                       rows[r].part, truth, reading->raw);
                EXPECT(!again || memcmp(before, now, bench.sensor.part->setting_count) == 0,
                       "%s at %g moves on", rows[r].part, truth);
            }
        }
    }
    for (size_t p = 0; p < measuring_count(); p++) {
        struct bench bench;
        const struct pintle_part *part = measuring_at(p)->part;
        bench_make(&bench, part, bench_place(part));
        EXPECT(part->ladder || pintle_sensor_auto(&bench.sensor, 1) == PINTLE_NO_ABILITY,
               "%s has no ladder", part->name);
        if (!part->ladder) {
            part_seen(&seen, part);
        }
    }
    expect_all_parts(seen, "ladders");
}

/* Parts that convert their inputs one by one do nothing for those that nobody asks for. */
static void only_what_is_asked_for(void)
{
    for (size_t p = 0; p < measuring_count(); p++) {
        const struct pintle_part *part = measuring_at(p)->part;
        struct bench bench;
        struct pintle_sample sample;
        bench_make(&bench, part, bench_place(part));
        CU_ASSERT_EQUAL(bench_read(&bench, &sample), PINTLE_OK);
        uint64_t before = bench.sim.bus[0].bytes;
        CU_ASSERT_EQUAL(pintle_sample_read(&bench.sensor, &sample), PINTLE_OK);
        uint64_t all = bench.sim.bus[0].bytes - before;
        for (uint8_t c = 0; c < part->channel_count && part->channels[c].input; c++) {
            CU_ASSERT_EQUAL(pintle_sensor_ask(&bench.sensor, 1u << c), PINTLE_OK);
            memset(&sample, 0x5a, sizeof sample);
            CU_ASSERT_EQUAL(bench_read(&bench, &sample), PINTLE_OK);
            before = bench.sim.bus[0].bytes;
            CU_ASSERT_EQUAL(pintle_sample_read(&bench.sensor, &sample), PINTLE_OK);
            EXPECT(bench.sim.bus[0].bytes - before < all, "%s: %u bytes for one", part->name,
                   (unsigned)(bench.sim.bus[0].bytes - before));
            for (uint8_t k = 0; k < part->channel_count; k++) {
                bool idle = sample.channel[k].quality == PINTLE_QUALITY_IDLE;
                EXPECT(idle == !(part->channels[k].input & part->channels[c].input),
                       "%s: asked for %u, %u is marked %04x", part->name, c, k,
                       sample.channel[k].quality);
            }
        }
        CU_ASSERT_EQUAL(pintle_sensor_ask(&bench.sensor, 0), PINTLE_OK);
        CU_ASSERT_EQUAL(bench_read(&bench, &sample), PINTLE_OK);
        EXPECT(!(sample.channel[0].quality & PINTLE_QUALITY_IDLE), "%s: all", part->name);
    }
}

/* Wherever a specimen's errors fall, it stays within its data sheet. */
static void specimens_differ_within_the_sheet(void)
{
    for (size_t p = 0; p < measuring_count(); p++) {
        const struct pintle_sheet *sheet = measuring_at(p);
        uint8_t quantity = sheet->part->channels[0].quantity;
        if (quantity == PINTLE_QUANTITY_STATE || quantity == PINTLE_QUANTITY_TIME) {
            continue; /* that is exact, or the world's */
        }
        double least = INFINITY;
        double most = -INFINITY;
        double truth = 0;
        for (uint64_t seed = 1; seed <= 40; seed++) {
            struct bench bench;
            struct pintle_sample sample;
            const uint8_t *addresses = sheet->part->addresses;
            bench_make_seeded(&bench, sheet->part, addresses ? addresses[0] : 1, seed);
            if (quantity == PINTLE_QUANTITY_VOLTAGE) { /* of what is proportional something */
                const struct pintle_sim_curve volts = { .level = 1.9 };
                CU_ASSERT_EQUAL(pintle_sim_feel(bench.chip, sheet->part->channels[0].name, &volts),
                                PINTLE_OK);
            }
            truth = pintle_sim_truth(bench.chip, sheet->part->channels[0].name);
            CU_ASSERT_EQUAL(bench_read(&bench, &sample), PINTLE_OK);
            least = fmin(least, (double)sample.channel[0].value);
            most = fmax(most, (double)sample.channel[0].value);
        }
        double limit = (double)sheet->channels[0].accuracy_narrow;
        EXPECT(least >= truth - limit && most <= truth + limit, "%s: %g to %g", sheet->part->name,
               least, most);
        EXPECT(most - least > limit / 8, "%s: specimens differ by %g", sheet->part->name,
               most - least);
    }
}

/* The BMP280 datasheet's integers, from registers, over the bus, through the engine. The trim of
 * the simulated chip is the example's; here a chip that only holds bytes stands in for it. */
struct holder {
    uint8_t regs[256];
    uint8_t pointer;
    uint8_t address;
};

static enum pintle_status holder_transfer(void *context, uint8_t address,
                                          const struct pintle_segment *segments, uint8_t count,
                                          uint32_t limit_us)
{
    struct holder *holder = context;
    (void)limit_us;
    for (uint8_t i = 0; i < count; i++) {
        for (uint16_t k = 0; k < segments[i].length; k++) {
            if (segments[i].in) {
                segments[i].in[k] = holder->regs[holder->pointer++];
            } else if (k == 0) {
                holder->pointer = segments[i].out[0];
            } else {
                holder->regs[holder->pointer++] = segments[i].out[k];
            }
        }
    }
    return address == holder->address ? PINTLE_OK : PINTLE_NO_ANSWER;
}

static void the_worked_example_over_the_bus(void)
{
    static const struct pintle_i2c_calls calls = { .transfer = holder_transfer };
    static const uint8_t low[26] = { 0x70, 0x6b, 0x43, 0x67, 0x18, 0xfc, 0x7d, 0x8e, 0x43,
                                     0xd6, 0xd0, 0x0b, 0x27, 0x0b, 0x8c, 0x00, 0xf9, 0xff,
                                     0x8c, 0x3c, 0xf8, 0xc6, 0x70, 0x17, 0x00, 0x4b };
    static const uint8_t data[8] = { 0x65, 0x5a, 0xc0, 0x7e, 0xed, 0x00, 0x80, 0xe8 };
    struct holder holder = { .address = 0x77 };
    struct pintle_sim sim;
    struct pintle_any sensor;
    struct pintle_sample sample;
    struct pintle_i2c bus = { .calls = &calls,
                              .common = { .context = &holder, .clock = &sim.clock } };
    pintle_sim_init(&sim, 1, 0, 1);
    holder.regs[0xd0] = 0x60;
    memcpy(holder.regs + 0x88, low, sizeof low);
    memcpy(holder.regs + 0xf7, data, sizeof data);
    CU_ASSERT_EQUAL(any_on_i2c(&sensor, &pintle_bme280, &bus, 0x77), PINTLE_OK);
    CU_ASSERT_EQUAL(pintle_sample_read(&sensor.sensor, &sample), PINTLE_OK);
    EXPECT_NEAR(sample.channel[PINTLE_BME280_TEMPERATURE].value, 25.08, 1e-6, "T");
    EXPECT_NEAR(sample.channel[PINTLE_BME280_PRESSURE].value, 100653.27, 0.021, "p");
}

/* The world's curves: level, points, sine. */
static void curves(void)
{
    static const struct pintle_point points[] = { { 0, 10 }, { 100, 20 }, { 200, 20 }, { 300, 0 } };
    static const struct {
        const char *name;
        struct pintle_sim_curve curve;
        double t, value;
    } rows[] = {
        { "level", { .level = 7 }, 1e6, 7 },
        { "before the first point", { points, 4, 0, 0, 0, 0 }, -5, 10 },
        { "at a point", { points, 4, 0, 0, 0, 0 }, 100, 20 },
        { "half way", { points, 4, 0, 0, 0, 0 }, 50, 15 },
        { "flat stays flat", { points, 4, 0, 0, 0, 0 }, 130, 20 },
        { "after the last", { points, 4, 0, 0, 0, 0 }, 1e9, 0 },
        { "a quarter of a wave", { .level = 1, .swing = 2, .period_s = 40 }, 10, 3 },
        { "its phase", { .level = 1, .swing = 2, .period_s = 40, .phase_s = 10 }, 10, 1 },
    };
    for (size_t i = 0; i < COUNT(rows); i++) {
        EXPECT_NEAR(pintle_sim_curve_at(&rows[i].curve, rows[i].t), rows[i].value, 1e-9,
                    rows[i].name);
    }
}

/* The simulated clock counts by itself through every kind of end: minute, day, month, leap
 * February, year, century; the C library says what should come out. */
static void the_clock_chip_counts(void)
{
    static const int64_t starts[] = { 951782395,  1709164795, 1772323195, 4102444795,
                                      1781222395, 1782863995, 4107542389 };
    for (size_t i = 0; i < COUNT(starts); i++) {
        struct bench bench;
        struct pintle_sample sample;
        bench_make(&bench, &pintle_ds3231, 0x68);
        CU_ASSERT_EQUAL(pintle_time_set(&bench.sensor, starts[i]), PINTLE_OK);
        pintle_sim_pass(&bench.sim, 10500000);
        CU_ASSERT_EQUAL(bench_read(&bench, &sample), PINTLE_OK);
        const struct pintle_reading *time = &sample.channel[PINTLE_DS3231_TIME];
        int64_t now = (int64_t)(uint32_t)time->raw + 946684800;
        EXPECT(now == starts[i] + 10, "from %lld: %lld", (long long)starts[i], (long long)now);
        EXPECT(time->quality == 0, "from %lld: quality %02x", (long long)starts[i], time->quality);
    }
}

/* The chip takes 2100 for a leap year: from its 29 February on it is a day off, and marked. */
static void the_clock_chip_ends(void)
{
    struct bench bench;
    struct pintle_sample sample;
    bench_make(&bench, &pintle_ds3231, 0x68);
    CU_ASSERT_EQUAL(pintle_time_set(&bench.sensor, 4107542395), PINTLE_OK);
    for (int day = 0; day < 3; day++) {
        pintle_sim_pass(&bench.sim, day ? 86400000000 : 10000000);
        CU_ASSERT_EQUAL(bench_read(&bench, &sample), PINTLE_OK);
        CU_ASSERT_EQUAL(sample.channel[PINTLE_DS3231_TIME].quality, PINTLE_QUALITY_RANGE);
    }
}

static void the_clock_chip_refuses(void)
{
    struct bench bench;
    bench_make(&bench, &pintle_ds3231, 0x68);
    CU_ASSERT_EQUAL(pintle_time_set(&bench.sensor, 946684799), PINTLE_OUT_OF_RANGE);
    CU_ASSERT_EQUAL(pintle_time_set(&bench.sensor, 4107542400), PINTLE_OUT_OF_RANGE);
    CU_ASSERT_EQUAL(pintle_time_alarm(&bench.sensor, PINTLE_EVERY_DAY, 24, 0, 0),
                    PINTLE_OUT_OF_RANGE);
}

/* Another clock chip at its address: its counter goes on where this one's wraps, and what lies
 * there is memory, or a time in other registers. It is refused, and nothing is written into it. */
static void another_clock_chip(void)
{
    static const struct pintle_i2c_calls calls = { .transfer = holder_transfer };
    for (int filled = 0; filled < 2; filled++) {
        struct holder holder = { .address = 0x68 };
        struct bench bench;
        struct pintle_i2c bus = { .calls = &calls,
                                  .common = { .context = &holder, .clock = &bench.clock } };
        struct pintle_sample sample;
        uint8_t alarmed = 0;
        bench_make(&bench, &pintle_ds3231, 0x68);
        memcpy(holder.regs, "\x12\x30\x12\x05\x12\x06\x26", 7);
        holder.regs[0x0f] = 0x01; /* as if an alarm had gone off */
        memset(holder.regs + 0x13, filled ? 0xa5 : 0, 32);
        const struct holder before = holder;
        CU_ASSERT_EQUAL(any_on_i2c(&bench.any, &pintle_ds3231, &bus, 0x68), PINTLE_OK);
        const enum pintle_status said[] = {
            pintle_time_set(&bench.sensor, 1781265600),
            pintle_time_alarm(&bench.sensor, PINTLE_EVERY_DAY, 1, 2, 3),
            pintle_time_alarmed(&bench.sensor, &alarmed), pintle_sample_read(&bench.sensor, &sample)
        };
        for (size_t i = 0; i < COUNT(said); i++) {
            EXPECT(said[i] == PINTLE_WRONG_IDENTITY, "call %zu, memory %d: %s", i, filled,
                   pintle_status_word(said[i]));
        }
        EXPECT(memcmp(holder.regs, before.regs, sizeof before.regs) == 0,
               "memory %d: something was written", filled);
        EXPECT(sample.channel[0].quality == PINTLE_QUALITY_BUS, "memory %d: marked", filled);
    }
}

/* Set at 12:00:00, the alarm armed; each row: when it goes off for the first time, in seconds. */
static void the_clock_chip_alarms(void)
{
    static const struct {
        const char *name;
        enum pintle_every every;
        uint8_t hour, minute, second;
        uint32_t after_s;
    } rows[] = {
        { "every second", PINTLE_EVERY_SECOND, 0, 0, 0, 1 },
        { "every minute at :30", PINTLE_EVERY_MINUTE, 0, 0, 30, 30 },
        { "every hour at :10:05", PINTLE_EVERY_HOUR, 0, 10, 5, 605 },
        { "every day at 13:00:00", PINTLE_EVERY_DAY, 13, 0, 0, 3600 },
    };
    for (size_t i = 0; i < COUNT(rows); i++) {
        struct bench bench;
        uint8_t early = 9;
        uint8_t due = 9;
        uint8_t again = 9;
        bench_make(&bench, &pintle_ds3231, 0x68);
        CU_ASSERT_EQUAL(pintle_time_set(&bench.sensor, 1781265600), PINTLE_OK);
        CU_ASSERT_EQUAL(pintle_time_alarm(&bench.sensor, rows[i].every, rows[i].hour,
                                          rows[i].minute, rows[i].second),
                        PINTLE_OK);
        pintle_sim_pass(&bench.sim, (uint64_t)rows[i].after_s * 1000000 - 500000);
        CU_ASSERT_EQUAL(pintle_time_alarmed(&bench.sensor, &early), PINTLE_OK);
        pintle_sim_pass(&bench.sim, 600000);
        CU_ASSERT_EQUAL(pintle_time_alarmed(&bench.sensor, &due), PINTLE_OK);
        CU_ASSERT_EQUAL(pintle_time_alarmed(&bench.sensor, &again), PINTLE_OK);
        EXPECT(early == 0 && due == 1 && again == 0, "%s: %u %u %u", rows[i].name, early, due,
               again);
    }
}

/* TMP102 limits read back as the datasheet codes them. */
static void thermostat_limits(void)
{
    static const struct pintle_reg low = PINTLE_REG(0x02, 2, 0);
    static const struct pintle_reg high = PINTLE_REG(0x03, 2, 0);
    struct bench bench;
    uint32_t value = 0;
    struct pintle_limits limits;
    bench_make(&bench, &pintle_tmp102, 0x48);
    CU_ASSERT_EQUAL(pintle_limits_set(&limits, &bench.sensor, -25, 100), PINTLE_OK);
    CU_ASSERT_EQUAL(pintle_reg_read(&bench.sensor, &low, &value), PINTLE_OK);
    CU_ASSERT_EQUAL(value, 0xe700);
    CU_ASSERT_EQUAL(pintle_reg_read(&bench.sensor, &high, &value), PINTLE_OK);
    CU_ASSERT_EQUAL(value, 0x6400);
    CU_ASSERT_EQUAL(pintle_limits_set(&limits, &bench.sensor, 30, 20), PINTLE_OUT_OF_RANGE);
    CU_ASSERT_EQUAL(pintle_limits_set(&limits, &bench.sensor, 0, 128), PINTLE_OUT_OF_RANGE);
}

void add_truth_suite(void)
{
    SUITE("truth", { "within accuracy over the whole range", within_accuracy_over_the_range },
          { "specimens differ within the sheet", specimens_differ_within_the_sheet },
          { "a range by itself", a_range_by_itself },
          { "only what is asked for", only_what_is_asked_for },
          { "the worked example over the bus", the_worked_example_over_the_bus },
          { "curves of the world", curves }, { "the clock chip counts", the_clock_chip_counts },
          { "the clock chip ends", the_clock_chip_ends },
          { "the clock chip refuses", the_clock_chip_refuses },
          { "another clock chip", another_clock_chip },
          { "the clock chip's alarm", the_clock_chip_alarms },
          { "thermostat limits", thermostat_limits });
}
