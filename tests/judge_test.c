/* Judging: a million glitches and a million clean readings, with the limits that parts have by
 * themselves; what a median, a hold, a twin, warmth and uncertainty do in a rig. */
#include "support.h"

#include <gsl/gsl_randist.h>

#include "pintle/host/live/station.h"
#include "pintle/host/rig/worth.h"
#include "pintle/judge.h"

static gsl_rng *rng;

/* A channel as a chip has it: truth that moves as it does around an instrument, noise, counts. */
struct source {
    const char *name;
    const char *part, *channel, *place;
    double count, noise; /* of the chip, by its data sheet */
    double low, high;    /* where the truth is, */
    double slope;        /* and what it moves by in a second at most */
    int64_t at_power_on; /* the raw value that it holds then */
    unsigned bits;
    const char *more; /* what the rig says of it */
};

static const struct source sources[] = {
    { "TMP102, watched for frozen", "TMP102", "temperature", "address = 0x48", 0.0625, 0.05, 5, 35,
      0.003, 0, 12, "frozen = 120" },
    { "SHT31 temperature", "SHT31", "temperature", "address = 0x44", 0.00267, 0.03, 5, 35, 0.01,
      32768, 16, "" },
    { "SHT31 humidity", "SHT31", "humidity", "address = 0x44", 0.00153, 0.05, 40, 80, 0.03, 0, 16,
      "" },
    { "BME280 pressure", "BME280", "pressure", "address = 0x76", 0.18, 1.3, 98000, 103000, 0.5,
      524288, 20, "" },
    { "MCP9808, its own limits", "MCP9808", "temperature", "address = 0x18", 0.0625, 0.05, 5, 35,
      0.003, 0, 13, "jump = 1  frozen = 120" },
};

static struct pintle_judge limits_of(const struct source *s)
{
    struct pintle_problem problem = { 0 };
    char *text = g_strdup_printf("board { world = \"w\" }\n"
                                 "bus b { kind = \"i2c\" data = \"D\" clock = \"C\" }\n"
                                 "sensor s { part = \"%s\" %s channel %s { %s } }\n",
                                 s->part, s->place, s->channel, s->more);
    struct pintle_rig *rig = pintle_rig_parse("x.rig", text, &problem);
    EXPECT(rig != NULL, "%s: %s", s->name, problem.text);
    int c = pintle_sheet_channel(rig->sensor[0].sheet, s->channel);
    struct pintle_judge judge = { .jump = rig->sensor[0].channel[c].jump,
                                  .rate = rig->sensor[0].channel[c].rate,
                                  .frozen = rig->sensor[0].channel[c].frozen };
    EXPECT_NEAR(pintle_worth_count(&rig->sensor[0], (unsigned)c, s->low), s->count,
                s->count * 0.1 + 0.008, s->name);
    pintle_rig_free(rig);
    g_free(text);
    return judge;
}

enum glitch { NONE, POWER_ON, SPIKE, FROZEN, BIT, GLITCHES };
static const char *const glitch_names[] = { "none", "power-on value", "spike", "frozen",
                                            "flipped bit" };

/* How a million readings of it came out. */
struct outcome {
    unsigned readings, glitched, lies, alarms;
    unsigned of[GLITCHES], marked[GLITCHES];
};

/* An episode is over before a new level would be believed; a frozen chip stays so longer. */
static unsigned length_of(enum glitch glitch)
{
    return glitch == FROZEN ? 20 + (unsigned)gsl_rng_uniform_int(rng, 3000)
                            : 1 + (unsigned)gsl_rng_uniform_int(rng, PINTLE_JUDGE_BELIEVES - 1);
}

static void run(const struct source *s, unsigned readings, bool glitches, struct outcome *o)
{
    struct pintle_judge judge = limits_of(s);
    double truth = (s->low + s->high) / 2;
    double then = truth;
    double slope = 0;
    double limit = (double)judge.jump + (double)judge.rate; /* a second is between readings */
    enum glitch now = NONE;
    unsigned left = 0;
    unsigned quiet = 100;
    int64_t held = 0;
    unsigned bit = 0;
    for (unsigned i = 0; i < readings; i++) {
        slope = 0.995 * slope + gsl_ran_gaussian(rng, s->slope / 20);
        slope = CLAMP(slope, -s->slope, s->slope);
        truth = CLAMP(truth + slope, s->low, s->high);
        double value = truth + gsl_ran_gaussian(rng, s->noise);
        int64_t raw = llround(value / s->count);
        if (left == 0 && quiet == 0 && glitches && gsl_rng_uniform_int(rng, 40) == 0) {
            static const enum glitch mixed[] = { POWER_ON, SPIKE,    BIT,   POWER_ON, SPIKE,
                                                 BIT,      POWER_ON, SPIKE, BIT,      FROZEN };
            now = mixed[gsl_rng_uniform_int(rng, COUNT(mixed))];
            left = length_of(now);
            held =
                now == SPIKE ? raw + llround(gsl_ran_flat(rng, -40, 40) * limit / s->count) : raw;
            bit = (unsigned)gsl_rng_uniform_int(rng, s->bits);
        }
        quiet -= quiet > 0;
        if (left > 0) {
            raw = now == POWER_ON ? s->at_power_on : now == BIT ? raw ^ (INT64_C(1) << bit) : held;
            quiet = --left == 0 ? 150 : quiet;
        } else {
            now = NONE;
        }
        struct pintle_reading reading = { .value = (float)((double)raw * s->count),
                                          .raw = (int32_t)raw };
        pintle_judge_reading(&judge, &reading, i * 1000u);
        bool good = pintle_reading_good(&reading);
        /* The limit is from the last good reading on, since when the truth has moved a little. */
        double slack = 5 * s->noise + s->count;
        slack += now == FROZEN ? 0 : fabs(truth - then);
        bool far = fabs((double)reading.value - truth) > limit + slack;
        then = good ? truth : then;
        o->readings++;
        o->glitched += now != NONE;
        o->of[now] += far;
        o->marked[now] += far && !good;
        o->lies += good && far;
        o->alarms += now == NONE && !good;
    }
}

static void a_million_readings(void)
{
    struct outcome bad = { 0 };
    struct outcome clean = { 0 };
    rng = gsl_rng_alloc(gsl_rng_mt19937);
    gsl_rng_set(rng, 11);
    for (size_t i = 0; i < COUNT(sources); i++) {
        unsigned lies = bad.lies;
        unsigned alarms = clean.alarms;
        run(&sources[i], 1000000 / COUNT(sources), true, &bad);
        run(&sources[i], 1000000 / COUNT(sources), false, &clean);
        EXPECT(bad.lies == lies, "%s: %u glitches are called good", sources[i].name,
               bad.lies - lies);
        EXPECT(clean.alarms == alarms, "%s: %u false alarms", sources[i].name,
               clean.alarms - alarms);
    }
    printf("\n  %u readings, %u in a glitch; further off than the jump limit and called good: %u\n",
           bad.readings, bad.glitched, bad.lies);
    for (unsigned g = POWER_ON; g < GLITCHES; g++) {
        printf("  %-16s %u that far off, %u marked\n", glitch_names[g], bad.of[g], bad.marked[g]);
        EXPECT(bad.of[g] > 100 && bad.of[g] == bad.marked[g], "%s", glitch_names[g]);
    }
    printf("  %u clean readings, false alarms: %u\n", clean.readings, clean.alarms);
    EXPECT(clean.readings == 1000000 && clean.alarms < 10, "false alarms: %u", clean.alarms);
    gsl_rng_free(rng);
}

/* --- smoothing --- */

static void smoothing(void)
{
    static const struct {
        const char *name;
        uint8_t median, hold;
        float values[8]; /* below 0: suspect */
        float out[8];
        const char *marks; /* f first, m smoothed, s stale, g good, x suspect */
    } rows[] = {
        { "a median of three", 3, 0, { 5, 1, 3, 9, 2 }, { 5, 1, 3, 3, 3 }, "ffmmm" },
        { "a suspect one is left out of it",
          3,
          0,
          { 5, 1, 3, -1, 9 },
          { 5, 1, 3, -1, 3 },
          "ffmxm" },
        { "the last one held, twice", 0, 2, { 5, -1, -1, -1, 6 }, { 5, 5, 5, -1, 6 }, "gssxg" },
        { "both", 3, 1, { 5, 1, 3, -1, -1, 2 }, { 5, 1, 3, 3, -1, 2 }, "ffmsxm" },
        { "neither", 0, 0, { 5, -1, 7 }, { 5, -1, 7 }, "gxg" },
    };
    for (size_t i = 0; i < COUNT(rows); i++) {
        struct pintle_judge_median smooth = { .median = rows[i].median, .hold = rows[i].hold };
        for (unsigned k = 0; rows[i].marks[k]; k++) {
            struct pintle_reading r = { rows[i].values[k], 0,
                                        rows[i].values[k] < 0 ? PINTLE_QUALITY_JUMP : 0 };
            pintle_judge_smooth(&smooth, &r);
            char mark = r.quality & PINTLE_QUALITY_STALE      ? 's'
                        : r.quality & PINTLE_QUALITY_JUMP     ? 'x'
                        : r.quality & PINTLE_QUALITY_FIRST    ? 'f'
                        : r.quality & PINTLE_QUALITY_SMOOTHED ? 'm'
                                                              : 'g';
            EXPECT(r.value == rows[i].out[k] && mark == rows[i].marks[k], "%s, value %u: %g, %c",
                   rows[i].name, k, (double)r.value, mark);
        }
    }
}

/* --- warmth --- */

/* How many of two hours' readings are WARMING, and in how many of the first ten minutes. */
static unsigned warm_readings(double rise, double tau_s, double drift_per_h, double swing,
                              unsigned seed)
{
    struct pintle_judge_heat warming = { .limit = 0.5f };
    unsigned marked = 0;
    gsl_rng *own = gsl_rng_alloc(gsl_rng_mt19937);
    gsl_rng_set(own, seed);
    for (unsigned t = 0; t < 7200; t += 2) {
        double value = 20 + rise * (1 - exp(-(double)t / tau_s)) + drift_per_h * t / 3600
                       + swing * sin(t / 700.0 + 0.7 * seed) + gsl_ran_gaussian(own, 0.02);
        struct pintle_reading r = { (float)value, 0, t == 0 ? PINTLE_QUALITY_FIRST : 0 };
        pintle_judge_warming(&warming, &r, 1000 * t);
        marked += (r.quality & PINTLE_QUALITY_WARMING) != 0;
    }
    gsl_rng_free(own);
    return marked;
}

static void warmth(void)
{
    unsigned false_alarms = 0;
    for (unsigned k = 0; k < 40; k++) {
        double tau = 60 * pow(20, k / 40.0); /* a minute to twenty */
        EXPECT(warm_readings(1.5 + k % 5, tau, 0.3, 0, k) > 50, "a board of %.0f s", tau);
        false_alarms += warm_readings(0, 1, -3 + 0.15 * k, 0, k) > 0;  /* weather */
        false_alarms += warm_readings(0, 1, 0, 0.05 * k, 100 + k) > 0; /* a heater that cycles */
        false_alarms += warm_readings(-1.0 - k % 3, tau, 0, 0, 200 + k) > 0; /* it cools */
        EXPECT(warm_readings(0.3, tau, 0, 0, 300 + k) == 0, "a rise that nobody minds");
    }
    printf("\n  40 boards that warm themselves: each is found; 120 that don't: %u are suspected\n",
           false_alarms);
    EXPECT(false_alarms <= 12, "%u suspected", false_alarms);
}

/* Four half minutes of warming outlast a short gap, and none of a minute.
 */
static void a_gap_in_warmth(void)
{
    static const struct {
        uint32_t gap_s;
        bool warm;
    } rows[] = { { 0, true }, { 5, true }, { 64, false }, { 600, false } };
    for (size_t i = 0; i < COUNT(rows); i++) {
        struct pintle_judge_heat warming = { .limit = 0.5f };
        unsigned marked = 0;
        for (uint32_t t = 0; t < 150; t++) {
            uint32_t at = t < 70 ? t : t + rows[i].gap_s;
            struct pintle_reading r = { 20 + 3 * (1 - expf(-(float)at / 100)), 0, 0 };
            pintle_judge_warming(&warming, &r, 1000 * at);
            marked += (r.quality & PINTLE_QUALITY_WARMING) != 0;
        }
        EXPECT((marked > 0) == rows[i].warm, "a gap of %u s: %u marked", rows[i].gap_s, marked);
    }
}

/* One count, by hand from the data sheets, of channels whose settings or numbers scale them. */
static void counts(void)
{
    static const struct {
        const char *sensor, *channel;
        double count;
    } rows[] = {
        { "part = \"INA219\" address = 0x40 bus = \"i\" set = { \"shunt=0.2\" }", "current", 5e-5 },
        { "part = \"INA219\" address = 0x40 bus = \"i\" set = { \"shunt=0.1\" }", "current", 1e-4 },
        { "part = \"MCP3008\" select = \"S\" bus = \"s\" set = { \"reference=3.3\" }", "ch0",
          3.3 / 1024 },
        { "part = \"ADS1115\" address = 0x48 bus = \"i\"", "ain0", 1.875e-4 },
        { "part = \"TMP102\" address = 0x48 bus = \"i\"", "temperature", 0.0625 },
        { "part = \"BME280\" address = 0x76 bus = \"i\"", "pressure", 0.18 },
    };
    for (size_t i = 0; i < COUNT(rows); i++) {
        struct pintle_problem problem = { 0 };
        char *text = g_strdup_printf(
            "board { world = \"w\" }\nbus i { kind = \"i2c\" data = \"D\" clock = \"C\" }\n"
            "bus s { kind = \"spi\" data = \"O\" data-in = \"I\" clock = \"K\" }\n"
            "sensor x { %s }\n",
            rows[i].sensor);
        struct pintle_rig *rig = pintle_rig_parse("x.rig", text, &problem);
        int c = rig ? pintle_sheet_channel(rig->sensor[0].sheet, rows[i].channel) : -1;
        EXPECT(c >= 0, "%s: %s", rows[i].sensor, problem.text);
        double count = c >= 0 ? pintle_worth_count(&rig->sensor[0], (unsigned)c, 1) : 0;
        EXPECT_NEAR(count, rows[i].count, rows[i].count * 1e-4, rows[i].sensor);
        pintle_rig_free(rig);
        g_free(text);
    }
}

/* The largest error, by hand from the data sheets, at a value and with settings and numbers. */
static void largest_errors(void)
{
    static const struct {
        const char *sensor, *channel;
        double value, most;
    } rows[] = {
        { "part = \"INA219\" address = 0x40 bus = \"i\" set = { \"shunt=0.1\" }", "current", 0.5,
          1e-4 / 0.1 + 0.005 },
        { "part = \"INA219\" address = 0x40 bus = \"i\" set = { \"shunt=0.001\" }", "current", -5,
          1e-4 / 0.001 + 0.05 },
        { "part = \"INA219\" address = 0x40 bus = \"i\" set = { \"shunt=0.01\" }", "power", 10,
          26 * 1e-4 / 0.01 + 0.2 },
        { "part = \"ADS1115\" address = 0x48 bus = \"i\" set = { \"range=0.256V\" }", "ain0", 0.1,
          3 * 7.8125e-6 + 0.00015 },
        { "part = \"VEML7700\" address = 0x10 bus = \"i\"", "illuminance", 50, 13.5 },
        { "part = \"TOF10120I2C\" address = 0x52 bus = \"i\"", "distance", 0.2, 0.01 },
        { "part = \"SHT31\" address = 0x44 bus = \"i\"", "temperature", 25, 0.2 },
    };
    for (size_t i = 0; i < COUNT(rows); i++) {
        struct pintle_problem problem = { 0 };
        char *text = g_strdup_printf(
            "board { world = \"w\" }\nbus i { kind = \"i2c\" data = \"D\" clock = \"C\" }\n"
            "sensor x { %s }\n",
            rows[i].sensor);
        struct pintle_rig *rig = pintle_rig_parse("x.rig", text, &problem);
        int c = rig ? pintle_sheet_channel(rig->sensor[0].sheet, rows[i].channel) : -1;
        EXPECT(c >= 0, "%s: %s", rows[i].sensor, problem.text);
        double most =
            c >= 0 ? pintle_worth_accuracy(&rig->sensor[0], (unsigned)c, rows[i].value) : 0;
        EXPECT_NEAR(most, rows[i].most, rows[i].most * 1e-4, rows[i].sensor);
        pintle_rig_free(rig);
        g_free(text);
    }
}

/* A probe that says 85 degC, what it holds after power-up, and says so again when it is asked: that
 * is good, and a sensor that was told where it looks so; one count below it is only good. */
static void looks_as_after_power_up(void)
{
    for (int below = 0; below < 2; below++) {
        struct bench bench;
        struct pintle_sample sample;
        const struct pintle_sim_curve warm = { .level = below ? 84.9375 : 85 };
        bench_make(&bench, &pintle_ds18b20, bench_place(&pintle_ds18b20));
        CU_ASSERT_EQUAL(pintle_sim_feel(bench.chip, "temperature", &warm), PINTLE_OK);
        CU_ASSERT_EQUAL(pintle_sim_error(bench.chip, "temperature", 0), PINTLE_OK);
        int raw = 0;
        for (int tries = 0; tries < 100 && raw != 1360 - below; tries++) { /* past its noise */
            CU_ASSERT_EQUAL_FATAL(pintle_sample_read(&bench.sensor, &sample), PINTLE_OK);
            raw = (int)sample.channel[0].raw;
        }
        CU_ASSERT_EQUAL(raw, 1360 - below);
        CU_ASSERT_EQUAL(sample.channel[0].quality & PINTLE_QUALITY_SUSPECT, 0);
        CU_ASSERT_EQUAL(pintle_sensor_unsure(&bench.sensor, sample.channel), below ? 0 : 1);
    }
}

/* --- in a rig --- */

#define TWO(more)                                                                                  \
    "board { world = \"w\" }\n"                                                                    \
    "bus b { kind = \"i2c\" data = \"D\" clock = \"C\" pull-up = 4700 }\n"                         \
    "sensor a { part = \"TMP102\" address = 0x48 channel temperature { " more " } }\n"             \
    "sensor b { part = \"TMP102\" address = 0x49 }\n"                                              \
    "derive d { channel both { is = \"difference\" of = { \"a.temperature\", \"b.temperature\" } " \
    "} }\n"

#define WORLD(error)                                                                               \
    "quantity air { level = 20 }\n"                                                                \
    "chip a { part = \"TMP102\" address = 0x48 bus = \"b\" feels = { \"temperature=air\" } }\n"    \
    "chip b { part = \"TMP102\" address = 0x49 bus = \"b\" feels = { \"temperature=air\" }"        \
    " errors = { \"temperature=" error "\" } }\n"

static void in_a_rig(void)
{
    static const struct {
        const char *name;
        const char *rig, *world;
        const char *command;
        int status;
        const char *said;
    } rows[] = {
        { "twins that agree", TWO("twin = \"b.temperature\""), WORLD("3.5"), "read --rig r.rig", 0,
          "376   good" },
        { "twins that don't", TWO("twin = \"b.temperature\" within = 2"), WORLD("3.5"),
          "read --rig r.rig", 0, "322   apart" },
        { "nor does what is made of them", TWO("twin = \"b.temperature\" within = 2"), WORLD("3.5"),
          "read --rig r.rig d", 0, "-   apart" },
        { "no such twin", TWO("twin = \"b.humidity\""), WORLD("0"), "read --rig r.rig", 2,
          "twin = \"b.humidity\" is no other channel of a chip that measures the same" },
        { "its own twin", TWO("twin = \"a.temperature\""), WORLD("0"), "read --rig r.rig", 2,
          "is no other channel" },
        { "an even median", TWO("median = 4"), WORLD("0"), "read --rig r.rig", 2,
          "'median' cannot be 4; it is of 3, 5, 7 or 9 readings" },
        { "a hold of less than none", TWO("hold = -1"), WORLD("0"), "read --rig r.rig", 2,
          "'hold' cannot be -1" },
        { "a rate of less than none", TWO("rate = -1"), WORLD("0"), "read --rig r.rig", 2,
          "'rate' cannot be -1" },
        { "a median in a log", TWO("median = 3"), WORLD("0"),
          "log --rig r.rig --for 5s --every 1s --quiet --into runs; cat runs/0001/readings.csv", 0,
          "a.temperature=smoothed" },
        { "how exact", TWO("jump = 5"), WORLD("0"), "read --rig r.rig --uncertainty", 0,
          /* 2 / sqrt(3) and 0.0625 / sqrt(12) */
          "20.0000 +/- 1.2 degC" },
        { "and of their difference", TWO("jump = 5"), WORLD("0"),
          "read --rig r.rig d --uncertainty", 0, "+/- 1.6" },
        { "with a correction", TWO("offset = 1"), WORLD("0"),
          "calibrate --rig r.rig a.temperature 10=11.0 20=21.1 30=31 --reference 0.05 --yes "
          ">/dev/null; %s read --rig r.rig a --uncertainty",
          0, "+/- 0.11 degC" },
        { "and at the end of its pairs", TWO("offset = 1"), WORLD("0"),
          /* residual 0.1225; in the middle 0.0707, and 10 x 0.00866 away from it: 0.17 in all */
          "calibrate --rig r.rig a.temperature 0=1.0 10=11.1 20=20.9 --yes >/dev/null; %s read "
          "--rig "
          "r.rig a --uncertainty",
          0, "+/- 0.17 degC" },
        { "in data", TWO("jump = 5"), WORLD("0"), "read --rig r.rig a -f csv --uncertainty", 0,
          "good,1.15" },
        { "SenML has no word", TWO("jump = 5"), WORLD("0"),
          "read --rig r.rig a -f senml --uncertainty", 2, "SenML has no word for an uncertainty" },
        { "as columns", TWO("jump = 5"), WORLD("0"),
          "log --rig r.rig --for 3s --every 1s -q --uncertainty --into runs; cat runs/0001/*.csv",
          0, "a.temperature.uncertainty/K,b.temperature" },
    };
    for (size_t i = 0; i < COUNT(rows); i++) {
        char *folder = scratch_make();
        file_write(folder, "r.rig", rows[i].rig);
        file_write(folder, "w", rows[i].world);
        char **parts = g_strsplit(rows[i].command, "%s", -1);
        char *command = g_strjoinv(TOOL, parts);
        g_strfreev(parts);
        struct said said = tool(folder, command);
        EXPECT(said.status == rows[i].status
                   && (strstr(said.out, rows[i].said) || strstr(said.err, rows[i].said)),
               "%s: status %d: %s%s", rows[i].name, said.status, said.out, said.err);
        said_free(&said);
        g_free(command);
        scratch_remove(folder);
    }
}

/* A record a minute, by the limits that a rig has unless it says otherwise: 20.5 degC in a minute
 * may be, 23 may not; and 85 degC from a probe is never believed, however long. */
static void steps_in_a_log(void)
{
    static const struct {
        const char *sensor, *to, *said;
    } rows[] = {
        { "bus = \"b\" part = \"TMP102\" address = 0x48", "40.5", "0001, 0 with suspect" },
        { "bus = \"b\" part = \"TMP102\" address = 0x48", "43", "0001, 29 with suspect" },
        { "bus = \"w\" part = \"DS18B20\" code = \"284c1e720700001d\"", "85",
          "0001, 35 with suspect" },
    };
    char *folder = scratch_make();
    for (size_t i = 0; i < COUNT(rows); i++) {
        char *rig = g_strdup_printf("board { world = \"w\" }\nbus b { data = \"D\" clock = \"C\" "
                                    "pull-up = 2200 }\nbus w { kind = \"onewire\" data = \"H\" "
                                    "pull-up = 2200 }\nsensor s { %s }\n",
                                    rows[i].sensor);
        char *world = g_strdup_printf(
            "quantity t { points = { \"0s 20\", \"330s 20\", \"331s %s\" } }\n"
            "chip s { %s feels = { \"temperature=t\" } errors = { \"temperature=0\" } }\n",
            rows[i].to, rows[i].sensor);
        char *line =
            g_strdup_printf("log --rig r.rig --quiet --every 1min --for 40min --into runs%zu", i);
        file_write(folder, "r.rig", rig);
        file_write(folder, "w", world);
        expect_said(folder, line, 0, rows[i].said);
        g_free(line);
        g_free(world);
        g_free(rig);
    }
    scratch_remove(folder);
}

void add_judge_suite(void)
{
    SUITE("judge", { "a million readings", a_million_readings }, { "smoothing", smoothing },
          { "warmth", warmth }, { "a gap in warmth", a_gap_in_warmth }, { "counts", counts },
          { "looks as after power-up", looks_as_after_power_up }, { "steps", steps_in_a_log },
          { "largest errors", largest_errors }, { "in a rig", in_a_rig });
}
