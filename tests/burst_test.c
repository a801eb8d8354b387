/* Bursts from every part with a FIFO, against its simulated chip: the world swings so fast that a
 * value tells when it was measured, whatever the driver says. */
#include "support.h"

#include "pintle/ability.h"

#define SWING 12.0 /* m/s2, or rad/s; within each part's smallest range */
#define MOST 4000

struct run {
    struct bench bench;
    struct pintle_burst burst;
    const struct pintle_fifo *fifo;
    double period_s;  /* of the world */
    double sample_s;  /* between two samples */
    double last_s;    /* when the last sample was measured, as its value says */
    double sure_s;    /* and of the last that tells, */
    unsigned sure_at; /* the how manyth that was */
    unsigned count, gaps, skipped, doubled, late;
};

static const struct pintle_fifo *fifo_of(const struct pintle_part *part)
{
    return part->can ? part->can->fifo : NULL;
}

static void begin(struct run *run, const struct pintle_part *part, uint8_t rate, uint64_t seed)
{
    memset(run, 0, sizeof *run);
    run->fifo = fifo_of(part);
    bench_make_seeded(&run->bench, part, bench_place(part), seed);
    run->bench.sim.bus[0].bit_ns = 2500; /* 400 kHz */
    run->sample_s = run->fifo->periods_ns[rate] / 1e9;
    run->period_s = 150 * run->sample_s;
    struct pintle_sim_curve curve = { .swing = SWING, .period_s = run->period_s };
    CU_ASSERT_EQUAL_FATAL(pintle_sim_feel(run->bench.chip, "accel-x", &curve), PINTLE_OK);
    CU_ASSERT_EQUAL_FATAL(pintle_sim_error(run->bench.chip, "accel-x", 0), PINTLE_OK);
    CU_ASSERT_EQUAL(pintle_sensor_set(&run->bench.sensor, run->fifo->rate, rate), PINTLE_OK);
    CU_ASSERT_EQUAL_FATAL(pintle_burst_init(&run->burst, &run->bench.sensor), PINTLE_OK);
    CU_ASSERT_EQUAL(pintle_burst_room_us(&run->burst) / 1000,
                    (uint64_t)run->fifo->depth * run->fifo->periods_ns[rate] / 1000000);
}

static uint8_t x_of(const struct pintle_part *part)
{
    uint8_t c = 0;
    while (strcmp(part->channels[c].name, "accel-x") != 0) {
        c++;
    }
    return c;
}

/* When the value was measured, to the moment that lies next to the time of the sample; NaN where
 * the swing turns and tells nothing. */
static double told(const struct run *run, double value, double time_s)
{
    double phase = asin(fmax(-1, fmin(1, value / SWING))) / (2 * G_PI) * run->period_s;
    double turns = floor(time_s / run->period_s);
    double best = NAN;
    for (int i = -1; i <= 1; i++) {
        double up = (turns + i) * run->period_s + phase;
        double down = (turns + i + 0.5) * run->period_s - phase;
        best = isnan(best) || fabs(up - time_s) < fabs(best - time_s) ? up : best;
        best = fabs(down - time_s) < fabs(best - time_s) ? down : best;
    }
    return fabs(value) < 0.85 * SWING ? best : NAN;
}

static void look(struct run *run, const struct pintle_sample *sample)
{
    const struct pintle_part *part = run->bench.sensor.part;
    const struct pintle_reading *x = &sample->channel[x_of(part)];
    double time_s = (double)(sample->time_us - run->bench.sim.began_us) / 1e6;
    double told_s = told(run, (double)x->value, time_s);
    double step = (told_s - run->last_s) / run->sample_s;
    pintle_marks quality = x->quality & (pintle_marks)~PINTLE_QUALITY_STALE;
    EXPECT(quality == 0 || quality == PINTLE_QUALITY_GAP, "%s: %x at %.6f", part->name, x->quality,
           time_s);
    for (uint8_t c = 0; c < part->channel_count; c++) {
        EXPECT(((sample->channel[c].quality & PINTLE_QUALITY_IDLE) == 0)
                   == (run->fifo->channels >> c & 1),
               "%s: channel %u", part->name, c);
    }
    run->gaps += (quality & PINTLE_QUALITY_GAP) != 0;
    run->late += fabs(told_s - time_s) > 1.6 * run->sample_s + 0.0004;
    if (run->count > 0 && !(quality & PINTLE_QUALITY_GAP)) {
        run->skipped += step > 1.75;
        run->doubled += step < 0.25;
    }
    run->count++;
    run->last_s = told_s;
    if (!isnan(told_s)) {
        run->sure_s = told_s;
        run->sure_at = run->count;
    }
}

/* Collect for so long, asking as often as `asks` says within the time that the FIFO holds. */
static enum pintle_status go_on(struct run *run, double seconds, double asks)
{
    static struct pintle_sample samples[96];
    uint64_t until = run->bench.sim.now_us + (uint64_t)(seconds * 1e6);
    enum pintle_status worst = PINTLE_OK;
    while (run->bench.sim.now_us < until) {
        uint16_t count = 0;
        enum pintle_status status = burst_collect(&run->burst, samples, COUNT(samples), &count);
        uint32_t wait = (uint32_t)(pintle_burst_room_us(&run->burst) / asks);
        for (uint16_t i = 0; i < count; i++) {
            look(run, &samples[i]);
        }
        if (status == PINTLE_NOT_READY) {
            wait = pintle_sensor_wait_us(&run->bench.sensor);
        } else if (status != PINTLE_OK) {
            worst = status;
        }
        pintle_sim_pass(&run->bench.sim, wait ? wait : 100);
    }
    return worst;
}

/* The bus carries this rate: a record, its part of the batch's overhead, and a third to spare. */
static bool carried(const struct run *run)
{
    const struct pintle_fifo *fifo = run->fifo;
    double bytes = fifo->record + 3.0 / fifo->at_once + 1;
    bool spi = run->bench.sensor.part->spi != NULL;
    return (spi ? bytes * 8 / 7e6 : bytes * 9 * 2.5e-6) < 0.67 * run->sample_s;
}

static void none_is_lost(void)
{
    unsigned parts = 0;
    for (size_t p = 0; p < measuring_count(); p++) {
        const struct pintle_part *part = measuring_at(p)->part;
        for (uint8_t rate = 0; fifo_of(part) && rate < part->settings[fifo_of(part)->rate].count;
             rate++) {
            struct run run;
            begin(&run, part, rate, 7 + p + rate);
            enum pintle_status status = go_on(&run, 1000 * run.sample_s + 0.3, 3);
            unsigned all = run.count + run.burst.lost;
            EXPECT(status == PINTLE_OK && all > 900 && all < 1050 + 0.3 / run.sample_s,
                   "%s: %u samples at %g s", part->name, all, run.sample_s);
            EXPECT(!run.skipped && !run.doubled && !run.late
                       && (!carried(&run) || (!run.gaps && !run.burst.lost)),
                   "%s every %g s: %u skipped, %u doubled, %u late, %u gaps, %u lost of %u",
                   part->name, run.sample_s, run.skipped, run.doubled, run.late, run.gaps,
                   run.burst.lost, run.count);
        }
        parts += fifo_of(part) != NULL;
    }
    CU_ASSERT_TRUE(parts >= 3);
}

/* The host stops for longer than the FIFO lasts. */
static void a_stall_is_counted(void)
{
    for (size_t p = 0; p < measuring_count(); p++) {
        const struct pintle_part *part = measuring_at(p)->part;
        for (unsigned stall = 1; fifo_of(part) && stall <= 3; stall++) {
            struct run run;
            begin(&run, part, 3, 40 + p);
            (void)go_on(&run, 400 * run.sample_s + 0.3, 3);
            double before_s = run.sure_s;
            unsigned before = run.sure_at;
            CU_ASSERT_EQUAL(run.gaps, 0);
            pintle_sim_pass(&run.bench.sim,
                            (uint64_t)(stall * 1.4 * run.fifo->depth * run.sample_s * 1e6));
            (void)go_on(&run, 100 * run.sample_s, 3);
            double off = 1 + 0.01 * (2 * run.bench.chip->slowness - 1); /* its clock */
            double hole = (run.sure_s - before_s) / (run.sample_s * off) - (run.sure_at - before);
            EXPECT(fabs(hole - run.burst.lost) < 3, "%s: %u lost, a hole of %.1f", part->name,
                   run.burst.lost, hole);
            (void)go_on(&run, 200 * run.sample_s, 3);
            EXPECT(run.gaps == 1 && !run.skipped && !run.doubled && !run.late,
                   "%s: goes on, %u gaps, %u skipped, %u doubled, %u late", part->name, run.gaps,
                   run.skipped, run.doubled, run.late);
        }
    }
}

/* Its supply goes for a moment, at any moment: it is set up again, and nothing of before or of
 * nowhere is called good. */
static void lost_supply_is_noticed(void)
{
    for (size_t p = 0; p < measuring_count(); p++) {
        const struct pintle_part *part = measuring_at(p)->part;
        for (unsigned at = 0; fifo_of(part) && at < 40; at++) {
            struct run run;
            begin(&run, part, 3, 90 + at);
            (void)go_on(&run, 200 * run.sample_s + 0.3, 3);
            uint64_t from = run.bench.sim.now_us + 137 * at;
            const struct pintle_sim_fault fault = { .kind = PINTLE_SIM_UNPLUGGED,
                                                    .from_us = from,
                                                    .to_us = from + 20 + 400 * (at % 5) };
            CU_ASSERT_EQUAL(pintle_sim_add_fault(&run.bench.sim, &fault), PINTLE_OK);
            enum pintle_status status = go_on(&run, 300 * run.sample_s + 1.0, 3);
            EXPECT(status != PINTLE_OK && run.gaps >= 1 && !run.late && !run.doubled
                       && !run.skipped,
                   "%s, %u: %s, %u gaps, %u late, %u doubled, %u skipped", part->name, at,
                   pintle_status_word(status), run.gaps, run.late, run.doubled, run.skipped);
        }
    }
}

static void who_has_none(void)
{
    struct bench bench;
    struct pintle_burst burst;
    struct pintle_sample sample;
    uint16_t count = 1;
    bench_make(&bench, &pintle_tmp102, 0x48);
    CU_ASSERT_EQUAL(pintle_burst_init(&burst, &bench.sensor), PINTLE_NO_ABILITY);
    CU_ASSERT_EQUAL(burst_collect(&burst, &sample, 1, &count), PINTLE_NO_ABILITY);
    CU_ASSERT_EQUAL(count, 0);
    bench_make(&bench, &pintle_mpu6050, 0x68);
    CU_ASSERT_EQUAL(pintle_burst_init(&burst, &bench.sensor), PINTLE_OK);
    CU_ASSERT_EQUAL(burst_collect(&burst, &sample, 0, &count), PINTLE_BAD_ARGUMENT);
}

static void in_the_command(void)
{
    static const char rig[] = "board { name = \"sloop\" port = \"sim\" world = \"b.world\" }\n"
                              "bus slow { speed = 100000 pull-up = 4700 }\n"
                              "bus fast { speed = 400000 pull-up = 2200 }\n"
                              "sensor bilge { part = \"TMP102\" bus = \"fast\" address = 0x48 }\n"
                              "sensor heel { part = \"MPU6050\" bus = \"fast\" address = 0x68"
                              " set = { \"rate=1000Hz\" } channel accel-z { offset = 1 } }\n"
                              "sensor keel { part = \"MPU6050\" bus = \"slow\" address = 0x69"
                              " set = { \"rate=1000Hz\" } }\n"
                              "sensor gone { part = \"ADXL345\" bus = \"fast\" address = 0x53 }\n";
    static const char world[] = "chip heel { part = \"MPU6050\" bus = \"fast\" address = 0x68"
                                " errors = { \"accel-z=0\" } }\n"
                                "chip keel { part = \"MPU6050\" bus = \"slow\" address = 0x69 }\n";
    static const struct {
        const char *arguments;
        int status;
        const char *text;
    } rows[] = {
        { "heel --for 3s", 0, "none lost" },
        { "heel --for 3s --format csv", 0,
          "time,accel-x g,accel-y g,accel-z g,temperature degC,rat" },
        { "heel --unit m/s2 --format csv", 0, "time,accel-x m/s2" },
        { "keel --for 3s", 0, "good+gap" },
        { "keel --for 3s", 0, "raise the bus's speed, or choose a lower rate" },
        { "gone", 1, "collecting from 'gone' failed" },
        { "bilge", 2, "has no FIFO; ADXL345, BMI160, ICM20948, MPU6050" },
        { "heel --for never", 2, "not 'never'" },
        { "heel --format senml", 2, "as text or csv, not as senml" },
        { "heel --format xml", 2, "xml" },
        { "", 2, "which sensor? A FIFO is in heel, keel, gone" },
    };
    char *folder = scratch_make();
    file_write(folder, "b.rig", rig);
    file_write(folder, "b.world", world);
    for (size_t i = 0; i < COUNT(rows); i++) {
        char *arguments = g_strdup_printf("burst --rig b.rig %s", rows[i].arguments);
        expect_said(folder, arguments, rows[i].status, rows[i].text);
        g_free(arguments);
    }
    struct said plain = tool(folder, "burst --rig b.rig heel --for 2ms --unit m/s2 --format csv");
    char **lines = g_strsplit(plain.out, "\r\n", 3);
    char **fields = g_strsplit(lines[1], ",", 5);
    EXPECT_NEAR(g_ascii_strtod(fields[3], NULL), 9.80665 + 1, 0.1, "corrected");
    g_strfreev(fields);
    g_strfreev(lines);
    said_free(&plain);
    scratch_remove(folder);
}

void add_burst_suite(void)
{
    CU_pSuite suite = CU_add_suite("burst", NULL, NULL);
    CU_add_test(suite, "none is lost or doubled", none_is_lost);
    CU_add_test(suite, "a stall is counted", a_stall_is_counted);
    CU_add_test(suite, "lost supply is noticed", lost_supply_is_noticed);
    CU_add_test(suite, "who has none", who_has_none);
    CU_add_test(suite, "in the command", in_the_command);
}
