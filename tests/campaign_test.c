/* Readings in trouble, by the hundred thousand. Nothing may hang, every bus must work when it is
 * over, and a wrong value is called good only where the chip offers no means to notice.
 *
 * First what happens to a chip, by part and cause, as a table; then lines that flip, stick,
 * stretch, whisper and go away at random. PINTLE_READINGS in the environment sets how many
 * readings. */
#include "support.h"

#include "pintle/ability.h"

#define READINGS 100000
#define WORLD 50 /* readings of one specimen with one choice of settings */

enum cause {
    NOTHING,
    SCRAMBLED,
    BROWN_OUT,
    CUT,
    OTHER_MASTER,
    CLOCK_STEPS,
    BIT_ERRORS,
    MISHEARD,
    TORN,
    CHATTER,
    NEIGHBOUR,
    CAUSES
};

static const char *const cause_names[CAUSES] = { "nothing",      "scrambled",  "brown-out",
                                                 "cut in write", "2nd master", "clock steps",
                                                 "bit errors",   "misheard",   "torn",
                                                 "chatter",      "neighbour" };

/* What came of a part and a cause. */
struct tally {
    unsigned readings, good, marked, failed, wrong;
};

/* From 10 us to 3 s, each power of ten as likely. */
static uint32_t a_while_us(void)
{
    return (uint32_t)pow(10, 1 + below(5500) / 1000.0);
}

static void plan_of(struct bench *bench, uint8_t chip, enum pintle_sim_fault_kind kind,
                    uint64_t after_us, uint64_t for_us)
{
    uint64_t now = bench->sim.now_us;
    const struct pintle_sim_fault fault = {
        .kind = kind, .chip = chip, .from_us = now + after_us, .to_us = now + after_us + for_us
    };
    CU_ASSERT_EQUAL(pintle_sim_add_fault(&bench->sim, &fault), PINTLE_OK);
}

static void plan(struct bench *bench, enum pintle_sim_fault_kind kind, uint64_t after_us,
                 uint64_t for_us)
{
    plan_of(bench, 0, kind, after_us, for_us);
}

/* Settings as they come, but for how it is powered: that is a matter of wires. Does it smooth? */
static bool choose(struct bench *bench, const struct pintle_sheet *sheet)
{
    bool smooths = false;
    for (uint8_t s = 0; s < sheet->part->setting_count; s++) {
        bool powers = strcmp(sheet->settings[s].name, "power") == 0;
        uint8_t option = powers ? 0 : (uint8_t)below(sheet->part->settings[s].count);
        CU_ASSERT_EQUAL(pintle_sensor_set(&bench->sensor, s, option), PINTLE_OK);
        smooths |= strcmp(sheet->settings[s].name, "filter") == 0 && option > 0;
    }
    return smooths;
}

static void strike(struct bench *bench, const struct pintle_sheet *sheet, enum cause cause)
{
    const struct pintle_sim_model *model = bench->chip->model;
    uint32_t longest_us = 1000 + (model->longest_us ? model->longest_us(bench->chip) : 0)
                          + (sheet->part->frame ? 60000 : 0); /* or until a line has come */
    pintle_sim_calm(&bench->sim);
    switch (cause) {
    case SCRAMBLED: /* by whatever ran before; a new program begins */
        pintle_sim_scramble(bench->chip);
        pintle_sim_pass(&bench->sim, a_while_us());
        CU_ASSERT_EQUAL(bench_seat(bench, sheet->part), PINTLE_OK);
        choose(bench, sheet);
        break;
    case BROWN_OUT: /* before the reading or in it */
        plan(bench, PINTLE_SIM_UNPLUGGED, below(2) ? 0 : below(longest_us), 200 + a_while_us());
        if (below(2)) {
            pintle_sim_pass(&bench->sim, a_while_us());
        }
        break;
    case CUT:
        plan(bench, PINTLE_SIM_CUT, 0, 200 + a_while_us());
        break;
    case OTHER_MASTER:
        plan(bench, PINTLE_SIM_MEDDLED, 0, 1000000000);
        break;
    case CLOCK_STEPS:
        CU_ASSERT_EQUAL(bench->clock.calls->set_wall_us(bench->clock.context,
                                                        1700000000000000 + 1000 * (int64_t)rand()),
                        PINTLE_OK);
        break;
    case MISHEARD: /* while it is set up, too */
        CU_ASSERT_EQUAL(bench_seat(bench, sheet->part), PINTLE_OK);
        choose(bench, sheet);
        plan(bench, PINTLE_SIM_MISHEARD, 0, a_while_us());
        break;
    case TORN:
        plan(bench, PINTLE_SIM_TORN, below(longest_us), a_while_us());
        break;
    case CHATTER: /* its supply comes and goes */
        for (uint32_t k = 0, at = below(longest_us), every = 5000 + below(500000); k < 12; k++) {
            uint32_t away = 1000 + below(every / 2);
            plan(bench, PINTLE_SIM_UNPLUGGED, at, away);
            at += every;
        }
        break;
    case NEIGHBOUR: /* it answers at every address, and both send */
        if (bench->sim.chips > 1) {
            plan_of(bench, 1, PINTLE_SIM_DEAFENING, below(longest_us), a_while_us());
        }
        break;
    case BIT_ERRORS:
        plan(bench, PINTLE_SIM_FLIPPED, below(longest_us), below(longest_us));
        break;
    default:
        break;
    }
}

static int64_t wall(const struct bench *bench)
{
    int64_t at = 0;
    CU_ASSERT_EQUAL(bench->clock.calls->get_wall_us(bench->clock.context, &at), PINTLE_OK);
    return at;
}

static void read_once(struct bench *bench, struct tally *tally)
{
    struct pintle_sample sample;
    int64_t from = wall(bench);
    enum pintle_status status = pintle_sample_read(&bench->sensor, &sample);
    bool good = status == PINTLE_OK; /* all that the world has a say in */
    for (uint8_t c = 0; c < bench->sensor.part->channel_count && good; c++) {
        good =
            !(sample.channel[c].quality & PINTLE_QUALITY_SUSPECT) || isnan(bench_truth(bench, c));
    }
    tally->readings++;
    tally->failed += status != PINTLE_OK;
    tally->marked += status == PINTLE_OK && !good;
    tally->good += good;
    tally->wrong +=
        bench_lies(bench, &sample) > 0 || sample.time_us < from || sample.time_us > wall(bench);
}

/* A specimen in trouble, and well again when that is over. */
static void live_through(const struct pintle_sheet *sheet, enum cause cause, unsigned seed,
                         unsigned readings, struct tally *tally)
{
    struct bench bench;
    struct tally after = { 0 };
    bench_make_seeded(&bench, sheet->part, bench_place(sheet->part), seed);
    bench.sim.bus[0].shared = cause == OTHER_MASTER;
    bench.bus.common.sole_master = bench.spi.common.sole_master = cause != OTHER_MASTER;
    if (cause == NEIGHBOUR && sheet->part->link->kind == PINTLE_BUS_I2C) {
        static const struct neighbour {
            const char *name;
            uint8_t address;
        } neighbours[] = { { "BME280", 0x76 }, { "SHT31", 0x45 }, { "PCF8574", 0x27 } };
        const struct neighbour *next = &neighbours[seed % COUNT(neighbours)];
        uint8_t address = (uint8_t)(next->address ^ (next->address == bench.chip->address));
        CU_ASSERT_PTR_NOT_NULL(pintle_sim_add(&bench.sim, next->name, 0, address));
    }
    srand(seed);
    bool smooths = choose(&bench, sheet);
    bench_move_on(&bench, sheet);
    for (unsigned i = 0; i < readings; i++) {
        if (!smooths && cause != SCRAMBLED && cause != MISHEARD) {
            bench_move_on(&bench, sheet);
        }
        strike(&bench, sheet, cause);
        for (unsigned k = below(3); i < readings; i++, k--) {
            read_once(&bench, tally);
            if (k == 0) {
                break;
            }
            pintle_sim_pass(&bench.sim, a_while_us());
        }
    }
    pintle_sim_calm(&bench.sim);
    pintle_sim_pass(&bench.sim, 5000000);
    for (int k = 0; k < 3; k++) {
        after = (struct tally){ 0 };
        read_once(&bench, &after);
    }
    EXPECT(after.failed == 0 && after.wrong == 0, "%s, %s, seed %u: not well when it is over",
           sheet->part->name, cause_names[cause], seed);
}

/* No means at all: no checksum comes with these, and nothing is sent twice; or the bit that begins
 * a conversion came wrong, and the result is the one before; or a neighbour spoiled a transfer and
 * answered only at its own address after it. docs/trust.md says so. */
static bool has_no_means(const struct pintle_sheet *sheet, enum cause cause)
{
    return (cause == NEIGHBOUR && !bench_has_crc(sheet->part))
           || (cause == BIT_ERRORS && !bench_has_crc(sheet->part) && sheet->part != &pintle_mcp3008)
           || (cause == MISHEARD
               && (sheet->part == &pintle_ads1115 || sheet->part == &pintle_bmp180));
}

static void the_table(void)
{
    const char *asked = g_getenv("PINTLE_READINGS");
    size_t parts = measuring_count();
    unsigned wanted = asked ? (unsigned)g_ascii_strtoull(asked, NULL, 10) : READINGS / one_in();
    unsigned each = (unsigned)(wanted / (parts * CAUSES) + 1);
    unsigned readings = 0;
    printf("\n  wrong among the good, by part and cause\n  %-10s", "");
    for (int cause = 0; cause < CAUSES; cause++) {
        printf(" %12s", cause_names[cause]);
    }
    printf("\n");
    for (size_t p = 0; p < parts; p++) {
        const struct pintle_sheet *sheet = measuring_at(p);
        printf("  %-10s", sheet->part->name);
        for (int cause = 0; cause < CAUSES; cause++) {
            struct tally tally = { 0 };
            for (unsigned seed = 1; tally.readings < each; seed++) {
                unsigned left = each - tally.readings;
                live_through(sheet, (enum cause)cause, seed * 97 + (unsigned)p,
                             left < WORLD ? left : WORLD, &tally);
            }
            readings += tally.readings;
            char *cell = g_strdup_printf("%u of %u", tally.wrong, tally.good);
            printf(" %12s", cell);
            g_free(cell);
            EXPECT(tally.good > each / 50 || each < 100, "%s, %s: %u good of %u", sheet->part->name,
                   cause_names[cause], tally.good, tally.readings);
            EXPECT(tally.wrong == 0 || has_no_means(sheet, (enum cause)cause),
                   "%s, %s: %u wrong values are called good", sheet->part->name, cause_names[cause],
                   tally.wrong);
        }
        printf("\n");
    }
    printf("  %u readings\n", readings);
}

/* --- lines --- */

#define TRANSFERS (10000 / one_in()) /* of each part */

/* What came of a part. */
struct outcome {
    unsigned transfers, good, failed, marked, wrong;
};

/* Counts the transfers of whatever bus is in use. */
struct counter {
    struct pintle_i2c i2c;
    struct pintle_spi spi;
    struct pintle_onewire line;
    struct pintle_stream stream;
    unsigned transfers;
};

static enum pintle_status count_i2c(void *context, uint8_t address,
                                    const struct pintle_segment *segments, uint8_t count,
                                    uint32_t limit_us)
{
    struct counter *c = context;
    c->transfers++;
    return c->i2c.calls->transfer(c->i2c.common.context, address, segments, count, limit_us);
}

static enum pintle_status count_recovery(void *context)
{
    struct counter *c = context;
    return c->i2c.calls->recover(c->i2c.common.context);
}

static enum pintle_status count_spi(void *context, const struct pintle_spi_way *way,
                                    const struct pintle_segment *segments, uint8_t count)
{
    struct counter *c = context;
    c->transfers++;
    return c->spi.calls->transfer(c->spi.common.context, way, segments, count);
}

static enum pintle_status count_reset(void *context)
{
    struct counter *c = context;
    c->transfers++;
    return c->line.calls->reset(c->line.common.context);
}

static enum pintle_status count_slots(void *context, const uint8_t *out, uint8_t *in,
                                      uint16_t count, uint8_t strong)
{
    struct counter *c = context;
    return c->line.calls->slots(c->line.common.context, out, in, count, strong);
}

static enum pintle_status count_send(void *context, const uint8_t *bytes, uint16_t count,
                                     uint32_t limit_us)
{
    struct counter *c = context;
    c->transfers++;
    return c->stream.calls->send(c->stream.common.context, bytes, count, limit_us);
}

static enum pintle_status count_receive(void *context, uint8_t *bytes, uint16_t count,
                                        uint16_t *got, uint32_t limit_us)
{
    struct counter *c = context;
    return c->stream.calls->receive(c->stream.common.context, bytes, count, got, limit_us);
}

static void count_transfers(struct bench *bench, struct counter *counter)
{
    static const struct pintle_i2c_calls i2c = { .transfer = count_i2c, .recover = count_recovery };
    static const struct pintle_spi_calls spi = { .transfer = count_spi };
    static const struct pintle_onewire_calls line = { .reset = count_reset, .slots = count_slots };
    static const struct pintle_stream_calls stream = { .send = count_send,
                                                       .receive = count_receive };
    *counter = (struct counter){ bench->bus, bench->spi, bench->line, bench->stream, 0 };
    bench->bus.calls = &i2c;
    bench->spi.calls = &spi;
    bench->line.calls = &line;
    bench->stream.calls = &stream;
    bench->bus.common.context = bench->spi.common.context = bench->line.common.context = counter;
    bench->stream.common.context = counter;
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

static struct outcome troubled_times(const struct pintle_part *part, unsigned seed)
{
    struct bench bench;
    struct wired wired;
    struct counter counter;
    struct pintle_sample sample;
    struct outcome outcome = { 0 };
    bench_make_seeded(&bench, part, bench_place(part), seed);
    pintle_sim_pass(&bench.sim, 10000);
    bench_wire(&bench, &wired);
    bench.bus.common.sole_master = bench.spi.common.sole_master = 1;
    count_transfers(&bench, &counter);
    double rise_ns = wired.wires.rise_ns;
    srand(seed);
    for (int i = 0; counter.transfers < TRANSFERS || i < 50; i++) {
        if (i % 700 == 0) {
            plan_faults(&bench);
        }
        trouble(&wired, rise_ns);
        uint64_t before = bench.sim.now_us;
        enum pintle_status status = pintle_sample_read(&bench.sensor, &sample);
        if (bench.sim.now_us - before > 1000000) {
            EXPECT(0, "%s, seed %u, round %d took %u us", part->name, seed, i,
                   (unsigned)(bench.sim.now_us - before));
        }
        const struct pintle_reading *reading = &sample.channel[0];
        bool good = status == PINTLE_OK && !(reading->quality & PINTLE_QUALITY_SUSPECT);
        outcome.failed += status != PINTLE_OK;
        outcome.marked += status == PINTLE_OK && !good;
        outcome.good += good;
        outcome.wrong += bench_lies(&bench, &sample) > 0;
        pintle_sim_pass(&bench.sim, 100000);
    }
    calm(&wired, rise_ns);
    pintle_sim_pass(&bench.sim, 1000000000);
    /* A chip that lost its supply meanwhile is found out by one reading, and set up by the next. */
    (void)!pintle_sample_read(&bench.sensor, &sample);
    enum pintle_status afterwards = bench_read(&bench, &sample);
    bool keeps_time = part->can && part->can->timekeeper;
    if (keeps_time && afterwards == PINTLE_WRONG_IDENTITY) { /* noise has written into its time */
        bench.set_s = 1781265600;
        CU_ASSERT_EQUAL(pintle_time_set(&bench.sensor, bench.set_s), PINTLE_OK);
        bench.set_us = bench.sim.now_us;
        afterwards = bench_read(&bench, &sample);
    }
    EXPECT(afterwards == PINTLE_OK, "%s, seed %u: afterwards %s", part->name, seed,
           pintle_status_word(afterwards));
    EXPECT(bench_lies(&bench, &sample) == 0, "%s, seed %u: wrong afterwards", part->name, seed);
    outcome.transfers = counter.transfers;
    return outcome;
}

static void random_troubles(void)
{
    unsigned transfers = 0;
    printf("\n");
    for (size_t p = 0; p < measuring_count(); p++) {
        const struct pintle_part *part = measuring_at(p)->part;
        unsigned seed = 29 + (unsigned)p;
        struct outcome o = troubled_times(part, seed);
        printf("  %-9s seed %u: %u transfers; %u good, %u marked, %u failed; wrong among the good: "
               "%u%s\n",
               part->name, seed, o.transfers, o.good, o.marked, o.failed, o.wrong,
               bench_has_crc(part) ? " (has a CRC)" : "");
        transfers += o.transfers;
        EXPECT(o.good > 80 / one_in() && o.failed + o.marked > 40 / one_in(),
               "%s: %u good, %u failed, %u marked", part->name, o.good, o.failed, o.marked);
        EXPECT(!bench_has_crc(part) || o.wrong == 0, "%s: %u wrong values passed as good",
               part->name, o.wrong);
    }
    EXPECT(transfers >= 100000 / one_in(), "%u transfers", transfers);
}

void add_campaign_suite(void)
{
    SUITE("campaign", { "by part and cause", the_table }, { "troubled lines", random_troubles });
}
