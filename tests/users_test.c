/* Two users of one chip: a log as a service and somebody who reads by hand, two tasks of firmware.
 * The other one does a piece of its own work whenever this one lets go of the bus or sleeps. What
 * either calls good must be the chip's and of its own settings. */
#include "support.h"

#define SEEDS 8
#define READINGS (400 / one_in() + 20) /* of each part, for each kind of company */

static struct company {
    struct bench *bench;
    struct pintle_any other;
    struct pintle_sample sample;
    bool polite; /* it takes turns */
    bool busy;   /* it is at work just now */
    bool begun;
    int held;
    unsigned readings, wrong;
    const struct pintle_i2c_calls *i2c;
    const struct pintle_spi_calls *spi;
    const struct pintle_onewire_calls *line;
    const struct pintle_clock_calls *clock;
} with;

/* --- the bus and the clock, with somebody else there --- */

static void others_turn(void);

static enum pintle_status take(void *context)
{
    (void)context;
    if (with.held) {
        return PINTLE_TIME_LIMIT;
    }
    with.held = 1;
    return PINTLE_OK;
}

static void let_go(void *context)
{
    (void)context;
    with.held = 0;
    others_turn();
}

static enum pintle_status transfer(void *context, uint8_t address,
                                   const struct pintle_segment *segments, uint8_t count,
                                   uint32_t limit_us)
{
    return with.i2c->transfer(context, address, segments, count, limit_us);
}

static enum pintle_status spi_transfer(void *context, const struct pintle_spi_way *way,
                                       const struct pintle_segment *segments, uint8_t count)
{
    return with.spi->transfer(context, way, segments, count);
}

static enum pintle_status reset(void *context)
{
    return with.line->reset(context);
}

static enum pintle_status slots(void *context, const uint8_t *out, uint8_t *in, uint16_t count,
                                uint8_t strong)
{
    return with.line->slots(context, out, in, count, strong);
}

static uint64_t now(void *context)
{
    return with.clock->now_us(context);
}

/* In pieces, between which the other one may come. */
static void sleep(void *context, uint32_t us)
{
    while (us > 0) {
        uint32_t piece = us < 500 ? us : 500;
        with.clock->sleep_us(context, piece);
        us -= piece;
        others_turn();
    }
}

static enum pintle_status wall(void *context, int64_t *at)
{
    return with.clock->get_wall_us(context, at);
}

/* The other one begins a measurement, or looks whether it is there. One that takes no turns does so
 * while this one holds the bus, too. */
static void others_turn(void)
{
    if (with.busy || (with.polite && with.held) || rand() % 4) {
        return;
    }
    int held = with.held;
    with.busy = true;
    if (!with.polite) {
        with.held = 0;
    }
    if (!with.begun) {
        with.begun = pintle_sensor_start(&with.other.sensor) == PINTLE_OK;
    } else if (pintle_sensor_wait_us(&with.other.sensor) == 0) {
        struct bench seen = *with.bench;
        enum pintle_status status = pintle_sample_collect(&with.other.sensor, &with.sample);
        with.begun = status == PINTLE_NOT_READY;
        seen.any = with.other;
        with.readings += status == PINTLE_OK;
        with.wrong += status == PINTLE_OK && bench_lies(&seen, &with.sample) > 0;
    }
    with.held = held;
    with.busy = false;
}

static void join(struct bench *bench, const struct pintle_part *part, bool polite)
{
    static const struct pintle_i2c_calls i2c = { .transfer = transfer };
    static const struct pintle_spi_calls spi = { .transfer = spi_transfer };
    static const struct pintle_onewire_calls line = { reset, slots, NULL };
    static const struct pintle_clock_calls clock = { now, sleep, wall, NULL, NULL };
    with = (struct company){ .bench = bench,
                             .polite = polite,
                             .i2c = bench->bus.calls,
                             .spi = bench->spi.calls,
                             .line = bench->line.calls,
                             .clock = bench->clock.calls };
    bench->sim.bus[0].shared = 1;
    bench->bus.common.sole_master = bench->spi.common.sole_master = 0;
    static const struct pintle_claims claims = { take, let_go };
    bench->bus.common.claims = bench->spi.common.claims = bench->line.common.claims = &claims;
    bench->bus.calls = &i2c;
    bench->spi.calls = &spi;
    bench->line.calls = &line;
    bench->clock.calls = &clock;
    CU_ASSERT_EQUAL_FATAL(bench_seat(bench, part), PINTLE_OK);
    CU_ASSERT_EQUAL_FATAL(bench_seat_other(bench, part, &with.other), PINTLE_OK);
}

/* --- readings --- */

static void keep_company(const struct pintle_sheet *sheet, bool polite, bool same, unsigned seed)
{
    const struct pintle_part *part = sheet->part;
    struct bench bench;
    unsigned good = 0;
    unsigned wrong = 0;
    bench_make_seeded(&bench, part, bench_place(part), seed);
    join(&bench, part, polite);
    srand(seed);
    for (uint8_t s = 0; !same && s < part->setting_count; s++) {
        bool wires = strcmp(sheet->settings[s].name, "power") == 0
                     || strcmp(sheet->settings[s].name, "filter") == 0;
        unsigned other = (part->settings[s].initial + 1u) % part->settings[s].count;
        CU_ASSERT(wires || pintle_sensor_set(&with.other.sensor, s, other) == PINTLE_OK);
    }
    for (unsigned i = 0; i < READINGS; i++) {
        struct pintle_sample sample;
        if (i % 8 == 0) {
            with.begun = false;           /* what is under way is of the world before */
            bench_move_on(&bench, sheet); /* another measurement's result is another value */
            CU_ASSERT_EQUAL(pintle_sensor_ask(&with.other.sensor, 0), PINTLE_OK);
            CU_ASSERT_EQUAL(pintle_sensor_ask(&bench.sensor, 0), PINTLE_OK);
        }
        enum pintle_status status = pintle_sample_read(&bench.sensor, &sample);
        good += status == PINTLE_OK;
        wrong += status == PINTLE_OK && bench_lies(&bench, &sample) > 0;
    }
    /* docs/trust.md: an ADS1115 takes a command while it converts for somebody else, and a DS18B20
     * may begin anew. */
    bool no_means = (part == &pintle_ads1115 && !polite) || part == &pintle_ds18b20;
    EXPECT(no_means || (wrong == 0 && with.wrong == 0),
           "%s, seed %u: %u of %u and %u of %u are wrong and good", part->name, seed, wrong, good,
           with.wrong, with.readings);
    /* In few rounds an ICM20948's other user may come through in none: it is one in a hundred. */
    bool enough = good > READINGS / 8 && (with.readings > 0 || one_in() > 1);
    EXPECT(!polite || !same || enough,
           "%s: %u of %u readings come through, more than %u must, and %u of the other user's; "
           "is its result another's (PINTLE_PART_KEEPS)?",
           part->name, good, READINGS, READINGS / 8, with.readings);
}

static void everybody(bool polite, bool same)
{
    for (size_t p = 0; p < measuring_count(); p++) {
        bool has_two_ends = measuring_at(p)->part->link->kind == PINTLE_BUS_STREAM;
        for (unsigned seed = 1; !has_two_ends && seed <= (one_in() > 1 ? 1 : SEEDS); seed++) {
            keep_company(measuring_at(p), polite, same, seed);
        }
    }
}

static void taking_turns(void)
{
    everybody(true, true);
}

static void with_other_settings(void)
{
    everybody(true, false);
}

static void without_taking_turns(void)
{
    everybody(false, false);
}

void add_users_suite(void)
{
    SUITE("users", { "two that take turns", taking_turns },
          { "two with settings of their own", with_other_settings },
          { "one that takes no turns", without_taking_turns });
}
