/* A hundred thousand transfers over lines that flip, stick, stretch, whisper and go away at random.
 * Nothing may hang, every bus must work when it is over, and no wrong value of a part with a CRC
 * may pass as good; for the others the rate is measured and printed. */
#include "support.h"

#define TRANSFERS 10000 /* of each part */

/* What came of a part. */
struct outcome {
    unsigned transfers, good, failed, marked, wrong;
};

/* Counts the transfers of whatever bus is in use. */
struct counter {
    struct pintle_i2c i2c;
    struct pintle_spi spi;
    struct pintle_onewire line;
    unsigned transfers;
};

static enum pintle_status count_i2c(void *context, uint8_t address,
                                    const struct pintle_segment *segments, uint8_t count,
                                    uint32_t limit_us)
{
    struct counter *c = context;
    c->transfers++;
    return c->i2c.calls->transfer(c->i2c.context, address, segments, count, limit_us);
}

static enum pintle_status count_recovery(void *context)
{
    struct counter *c = context;
    return c->i2c.calls->recover(c->i2c.context);
}

static enum pintle_status count_spi(void *context, const struct pintle_spi_way *way,
                                    const struct pintle_segment *segments, uint8_t count)
{
    struct counter *c = context;
    c->transfers++;
    return c->spi.calls->transfer(c->spi.context, way, segments, count);
}

static enum pintle_status count_reset(void *context)
{
    struct counter *c = context;
    c->transfers++;
    return c->line.calls->reset(c->line.context);
}

static enum pintle_status count_slots(void *context, const uint8_t *out, uint8_t *in,
                                      uint16_t count, uint8_t strong)
{
    struct counter *c = context;
    return c->line.calls->slots(c->line.context, out, in, count, strong);
}

static void count_transfers(struct bench *bench, struct counter *counter)
{
    static const struct pintle_i2c_calls i2c = { .transfer = count_i2c, .recover = count_recovery };
    static const struct pintle_spi_calls spi = { .transfer = count_spi };
    static const struct pintle_onewire_calls line = { .reset = count_reset, .slots = count_slots };
    *counter = (struct counter){ bench->bus, bench->spi, bench->line, 0 };
    bench->bus.calls = &i2c;
    bench->spi.calls = &spi;
    bench->line.calls = &line;
    bench->bus.context = bench->spi.context = bench->line.context = counter;
}

/* Chips that go away or lie for a while, again and again. */
static void plan_faults(struct bench *bench)
{
    static const enum pintle_sim_fault_kind kinds[] = { PINTLE_SIM_SILENT, PINTLE_SIM_FLIPPED,
                                                        PINTLE_SIM_UNPLUGGED };
    pintle_sim_calm(&bench->sim);
    for (uint64_t s = 1; s < 10; s++) {
        const struct pintle_sim_fault fault = { .kind = kinds[s % 3],
                                                .from_us = bench->sim.now_us + s * 20000000,
                                                .to_us =
                                                    bench->sim.now_us + s * 20000000 + 3000000 };
        CU_ASSERT_EQUAL(pintle_sim_add_fault(&bench->sim, &fault), PINTLE_OK);
    }
}

/* In two of three readings something is wrong with the lines. */
static void trouble(struct wired *wired, double rise_ns)
{
    uint8_t trouble = (uint8_t)(rand() % 3 ? 1u << rand() % 8 : 0);
    wired->wires.trouble = wired->spi_wires.trouble = wired->onewire_wires.trouble = trouble;
    wired->wires.stretch_us = (uint32_t)(rand() % 2000);
    wired->wires.held_clocks = (uint8_t)(rand() % 30);
    wired->wires.rise_ns = rand() % 8 ? rise_ns : rise_ns * (rand() % 20);
}

static void calm(struct wired *wired, double rise_ns)
{
    wired->wires.trouble = wired->spi_wires.trouble = wired->onewire_wires.trouble = 0;
    wired->wires.rise_ns = rise_ns;
}

static struct outcome troubled_times(const struct pintle_part *part, uint8_t address, unsigned seed,
                                     double truth, double tolerance)
{
    struct bench bench;
    struct wired wired;
    struct counter counter;
    struct pintle_sample sample;
    struct outcome outcome = { 0 };
    bench_make_seeded(&bench, part, address, seed);
    pintle_sim_pass(&bench.sim, 10000);
    bench_wire(&bench, &wired);
    count_transfers(&bench, &counter);
    double rise_ns = wired.wires.rise_ns;
    srand(seed);
    for (int i = 0; counter.transfers < TRANSFERS; i++) {
        if (i % 700 == 0) {
            plan_faults(&bench);
        }
        trouble(&wired, rise_ns);
        uint64_t before = bench.sim.now_us;
        enum pintle_status status = pintle_sensor_read(&bench.sensor, &sample);
        if (bench.sim.now_us - before > 1000000) {
            EXPECT(0, "%s, seed %u, round %d took %u us", part->name, seed, i,
                   (unsigned)(bench.sim.now_us - before));
        }
        const struct pintle_reading *reading = &sample.channel[0];
        bool good = status == PINTLE_OK && !(reading->quality & PINTLE_QUALITY_SUSPECT);
        outcome.failed += status != PINTLE_OK;
        outcome.marked += status == PINTLE_OK && !good;
        outcome.good += good;
        outcome.wrong += good && fabs((double)reading->value - truth) > tolerance;
        pintle_sim_pass(&bench.sim, 100000);
    }
    calm(&wired, rise_ns);
    pintle_sim_pass(&bench.sim, 1000000000);
    /* A chip that lost its supply meanwhile is found out by one reading, and set up by the next. */
    (void)!pintle_sensor_read(&bench.sensor, &sample);
    enum pintle_status afterwards = bench_read(&bench, &sample);
    EXPECT(afterwards == PINTLE_OK, "%s, seed %u: afterwards %s", part->name, seed,
           pintle_status_word(afterwards));
    EXPECT_NEAR(sample.channel[0].value, truth, tolerance, part->name);
    outcome.transfers = counter.transfers;
    return outcome;
}

static void random_troubles(void)
{
    static const struct {
        const struct pintle_part *part;
        uint8_t address;
        double truth, tolerance;
        bool checked; /* by a CRC */
    } rows[] = {
        { &pintle_sht31, 0x44, 20, 3.1, true },   { &pintle_ds18b20, 5, 20, 0.6, true },
        { &pintle_tmp102, 0x48, 20, 3.1, false }, { &pintle_mcp9808, 0x18, 20, 3.1, false },
        { &pintle_bme280, 0x76, 20, 3.1, false }, { &pintle_ds3231, 0x68, 20, 3.1, false },
        { &pintle_mcp3008, 0, 1, 0.03, false },   { &pintle_icm20948, 1, 0, 0.3, false },
        { &pintle_lis331dlh, 2, 0, 0.3, false },  { &pintle_lis331hh, 3, 0, 0.3, false }
    };
    unsigned transfers = 0;
    printf("\n");
    for (size_t i = 0; i < COUNT(rows); i++) {
        unsigned seed = 29 + (unsigned)i;
        struct outcome o =
            troubled_times(rows[i].part, rows[i].address, seed, rows[i].truth, rows[i].tolerance);
        printf("  %-9s seed %u: %u transfers; %u good, %u marked, %u failed; wrong among the good: "
               "%u%s\n",
               rows[i].part->name, seed, o.transfers, o.good, o.marked, o.failed, o.wrong,
               rows[i].checked ? " (has a CRC)" : "");
        transfers += o.transfers;
        EXPECT(o.good > 80 && o.failed + o.marked > 40, "%s: %u good, %u failed, %u marked",
               rows[i].part->name, o.good, o.failed, o.marked);
        EXPECT(!rows[i].checked || o.wrong == 0, "%s: %u wrong values passed as good",
               rows[i].part->name, o.wrong);
    }
    EXPECT(transfers >= 100000, "%u transfers", transfers);
}

void add_campaign_suite(void)
{
    SUITE("campaign", { "random troubles", random_troubles });
}
