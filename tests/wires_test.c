/* Buses down to the wire: the bit-banged master's edges against the standard, and what it says of
 * lines that are not as they should be. */
#include "support.h"

#include "pintle/ability.h"

/* Every edge of a bus, with the shortest of each time that UM10204 table 10 limits. */
struct scope {
    double last_rise[2], last_fall[2];
    double low, high, period;        /* of the clock */
    double hold_start, set_up_start; /* set-up only of a repeated one */
    double set_up_stop, bus_free, set_up_data;
    double stopped;
    unsigned starts, stops;
};

static void least(double *so_far, double now)
{
    *so_far = now < *so_far ? now : *so_far;
}

static void clock_edge(struct scope *s, uint8_t level, double at)
{
    if (level) {
        least(&s->low, at - s->last_fall[PINTLE_SIM_CLOCK]);
        least(&s->set_up_data,
              at - fmax(s->last_rise[PINTLE_SIM_DATA], s->last_fall[PINTLE_SIM_DATA]));
        if (s->last_rise[PINTLE_SIM_CLOCK] > s->stopped) {
            least(&s->period, at - s->last_rise[PINTLE_SIM_CLOCK]);
        }
    } else {
        least(&s->high, at - s->last_rise[PINTLE_SIM_CLOCK]);
        if (s->last_fall[PINTLE_SIM_DATA] > s->last_rise[PINTLE_SIM_CLOCK]) {
            least(&s->hold_start, at - s->last_fall[PINTLE_SIM_DATA]);
        }
    }
}

static void on_edge(void *context, uint8_t line, uint8_t level, uint64_t at_ns)
{
    struct scope *s = context;
    double at = (double)at_ns;
    bool clock_high = s->last_rise[PINTLE_SIM_CLOCK] > s->last_fall[PINTLE_SIM_CLOCK];
    if (line == PINTLE_SIM_CLOCK) {
        clock_edge(s, level, at);
    } else if (clock_high && level) {
        least(&s->set_up_stop, at - s->last_rise[PINTLE_SIM_CLOCK]);
        s->stopped = at;
        s->stops++;
    } else if (clock_high) {
        if (s->stopped > s->last_rise[PINTLE_SIM_CLOCK]) {
            least(&s->bus_free, at - s->stopped);
        } else if (s->starts > 0) {
            least(&s->set_up_start, at - s->last_rise[PINTLE_SIM_CLOCK]);
        }
        s->starts++;
    }
    (level ? s->last_rise : s->last_fall)[line] = at;
}

/* UM10204 rev. 7 table 10, nanoseconds; and what this master promises in whole microseconds, give
 * or take the rise of a line: nothing is given away. */
static void edges_meet_the_standard(void)
{
    static const struct {
        uint32_t hz;
        double low, high, hold_start, set_up_start, set_up_stop, bus_free, set_up_data;
        double low_us, high_us;
    } rows[] = {
        { 100000, 4700, 4000, 4000, 4700, 4000, 4700, 250, 5, 5 },
        { 400000, 1300, 600, 600, 600, 600, 1300, 100, 2, 1 },
        { 1000000, 500, 260, 260, 260, 260, 500, 50, 1, 1 },
        { 150000, 1300, 600, 600, 600, 600, 1300, 100, 4, 3 },
        { 1000, 4700, 4000, 4000, 4700, 4000, 4700, 250, 500, 500 },
    };
    for (size_t i = 0; i < COUNT(rows); i++) {
        struct bench bench;
        struct wired wired;
        struct pintle_sample sample;
        struct scope s = { .low = 1e9,
                           .high = 1e9,
                           .period = 1e9,
                           .hold_start = 1e9,
                           .set_up_start = 1e9,
                           .set_up_stop = 1e9,
                           .bus_free = 1e9,
                           .set_up_data = 1e9 };
        bench_make(&bench, &pintle_bme280, 0x76);
        pintle_sim_pass(&bench.sim, 1000000);
        s.stopped = 0;
        s.last_rise[0] = s.last_rise[1] = 1;
        bench.bus = wire_up(&wired, &bench.sim, rows[i].hz);
        wired.wires.edge = on_edge;
        wired.wires.edge_context = &s;
        for (int k = 0; k < 5; k++) {
            EXPECT(pintle_sample_read(&bench.sensor, &sample) == PINTLE_OK, "%u Hz reads",
                   rows[i].hz);
        }
        EXPECT(s.starts > 20 && s.stops > 10, "%u Hz: %u starts, %u stops", rows[i].hz, s.starts,
               s.stops);
        const double low = 1000 * rows[i].low_us;
        const double high = 1000 * rows[i].high_us;
        const struct {
            const char *name;
            double measured, limit, promised;
        } times[] = { { "clock low", s.low, rows[i].low, low },
                      { "clock high", s.high, rows[i].high, high },
                      { "period", s.period, 1e9 / rows[i].hz, low + high },
                      { "hold of START", s.hold_start, rows[i].hold_start, high },
                      { "set-up of repeated START", s.set_up_start, rows[i].set_up_start, high },
                      { "set-up of STOP", s.set_up_stop, rows[i].set_up_stop, high },
                      { "bus free", s.bus_free, rows[i].bus_free, 2 * low + high - 1000 },
                      { "set-up of data", s.set_up_data, rows[i].set_up_data, low } };
        for (size_t t = 0; t < COUNT(times); t++) {
            double over = times[t].measured - times[t].promised;
            EXPECT(times[t].measured >= times[t].limit && over >= 0 && over <= 1001,
                   "%u Hz, %s: %g ns", rows[i].hz, times[t].name, times[t].measured);
        }
    }
}

/* What the master says of lines that are not as they should be: never a hang, the time bounded, and
 * readings again once the trouble is over. */
static void troubles_of_lines(void)
{
    static const struct {
        const char *name;
        uint8_t trouble;
        uint32_t stretch_us;
        uint8_t held_clocks;
        double pull_up;
        enum pintle_status status;
    } rows[] = {
        { "all well", 0, 0, 0, 4700, PINTLE_OK },
        { "data shorted to ground", PINTLE_SIM_DATA_LOW, 0, 0, 4700, PINTLE_DATA_STUCK },
        { "clock shorted to ground", PINTLE_SIM_CLOCK_LOW, 0, 0, 4700, PINTLE_CLOCK_STUCK },
        { "both shorted to ground", PINTLE_SIM_DATA_LOW | PINTLE_SIM_CLOCK_LOW, 0, 0, 4700,
          PINTLE_CLOCK_STUCK },
        { "no pull-up", PINTLE_SIM_NO_PULL_UP, 0, 0, 4700, PINTLE_CLOCK_STUCK },
        { "swapped", PINTLE_SIM_SWAPPED, 0, 0, 4700, PINTLE_NO_ANSWER },
        { "touching", PINTLE_SIM_BRIDGED, 0, 0, 4700, PINTLE_CLOCK_STUCK },
        { "stretched a little", PINTLE_SIM_STRETCHED, 400, 0, 4700, PINTLE_OK },
        { "stretched for ever", PINTLE_SIM_STRETCHED, 100000000, 0, 4700, PINTLE_CLOCK_STUCK },
        { "a chip holds data for three clocks", PINTLE_SIM_HELD, 0, 3, 4700, PINTLE_OK },
        { "a chip holds data for nine clocks", PINTLE_SIM_HELD, 0, 9, 4700, PINTLE_OK },
        { "a chip holds data for good", PINTLE_SIM_HELD, 0, 200, 4700, PINTLE_DATA_STUCK },
        { "a pull-up of a megohm", 0, 0, 0, 1e6, PINTLE_DATA_STUCK },
    };
    for (size_t i = 0; i < COUNT(rows); i++) {
        struct bench bench;
        struct wired wired;
        struct pintle_sample sample;
        bench_make(&bench, &pintle_tmp102, 0x48);
        bench.bus = wire_up(&wired, &bench.sim, 100000);
        EXPECT(pintle_sample_read(&bench.sensor, &sample) == PINTLE_OK, "%s: before", rows[i].name);
        double rise_ns = wired.wires.rise_ns;
        wired.wires.trouble = rows[i].trouble;
        wired.wires.stretch_us = rows[i].stretch_us;
        wired.wires.held_clocks = rows[i].held_clocks;
        wired.wires.rise_ns = rise_ns * rows[i].pull_up / 4700;
        uint64_t before = bench.sim.now_us;
        enum pintle_status status = pintle_i2c_probe(&bench.bus, 0x48);
        EXPECT(status == rows[i].status, "%s: %s", rows[i].name, pintle_status_word(status));
        EXPECT(bench.sim.now_us - before < 60000, "%s: it took %u us", rows[i].name,
               (unsigned)(bench.sim.now_us - before));
        wired.wires.trouble = 0;
        wired.wires.rise_ns = rise_ns;
        pintle_sim_pass(&bench.sim, 200000000);
        EXPECT(pintle_sample_read(&bench.sensor, &sample) == PINTLE_OK, "%s: after", rows[i].name);
        EXPECT_NEAR(sample.channel[0].value, 20, 2, rows[i].name);
    }
}

/* Another master on the same lines. It starts with us, follows our clock until that stops, goes on
 * with a clock of its own, and heeds nothing: what it sends must arrive unharmed. */
struct rival {
    struct pintle_pin pins[2];
    struct pintle_clock clock;
    bool ours_low[2], its_low[2];
    bool was_high, on_its_own;
    uint8_t bytes[3];
    int bit; /* -1: before the START */
    unsigned quiet_us, phase_us, harmed;
};

#define RIVAL_BITS 27

static void pull(struct rival *r, uint8_t line)
{
    const struct pintle_pin *pin = &r->pins[line];
    pin->calls->drive(pin->context,
                      r->ours_low[line] || r->its_low[line] ? PINTLE_DRIVE_LOW : PINTLE_RELEASE);
}

static uint8_t line_level(struct rival *r, uint8_t line)
{
    return r->pins[line].calls->level(r->pins[line].context);
}

/* The data line for the bit that comes; every ninth is for the chips. */
static void put_bit(struct rival *r)
{
    bool high = r->bit % 9 == 8 || (r->bytes[r->bit / 9] & 0x80 >> r->bit % 9);
    r->its_low[PINTLE_SIM_DATA] = !high;
    pull(r, PINTLE_SIM_DATA);
}

/* A microsecond of its life. */
static void live(struct rival *r)
{
    bool high = line_level(r, PINTLE_SIM_CLOCK);
    if (r->bit >= RIVAL_BITS) {
        return;
    }
    if (high && !r->was_high) {
        bool mine = !r->its_low[PINTLE_SIM_DATA];
        r->harmed += r->bit >= 0 && r->bit % 9 != 8 && mine && !line_level(r, PINTLE_SIM_DATA);
    }
    if (!high && r->was_high) {
        r->bit++;
        if (r->bit < RIVAL_BITS) {
            put_bit(r);
        }
    }
    r->quiet_us = high == r->was_high ? r->quiet_us + 1 : 0;
    r->was_high = high;
    r->on_its_own = r->on_its_own || (r->bit >= 0 && r->quiet_us > 20);
    if (r->on_its_own && ++r->phase_us % 5 == 0) {
        r->its_low[PINTLE_SIM_CLOCK] = !r->its_low[PINTLE_SIM_CLOCK];
        pull(r, PINTLE_SIM_CLOCK);
    }
    if (r->bit >= RIVAL_BITS) { /* STOP */
        r->its_low[0] = r->its_low[1] = false;
        pull(r, PINTLE_SIM_CLOCK);
        pull(r, PINTLE_SIM_DATA);
    }
}

static void rival_data(void *context, enum pintle_drive drive)
{
    struct rival *r = context;
    r->ours_low[PINTLE_SIM_DATA] = drive == PINTLE_DRIVE_LOW;
    pull(r, PINTLE_SIM_DATA);
}

static void rival_clock(void *context, enum pintle_drive drive)
{
    struct rival *r = context;
    r->ours_low[PINTLE_SIM_CLOCK] = drive == PINTLE_DRIVE_LOW;
    pull(r, PINTLE_SIM_CLOCK);
}

static uint8_t data_level(void *context)
{
    return line_level(context, PINTLE_SIM_DATA);
}

static uint8_t clock_level(void *context)
{
    return line_level(context, PINTLE_SIM_CLOCK);
}

static uint64_t rival_now(void *context)
{
    struct rival *r = context;
    return r->clock.calls->now_us(r->clock.context);
}

static void rival_sleep(void *context, uint32_t us)
{
    struct rival *r = context;
    while (us-- > 0) {
        r->clock.calls->sleep_us(r->clock.context, 1);
        live(r);
    }
}

/* Section 3.1.8: who sends a 1 where another sends a 0 has lost, and keeps off the lines. */
static void two_masters_at_once(void)
{
    static const struct pintle_pin_calls data = { rival_data, data_level };
    static const struct pintle_pin_calls line = { rival_clock, clock_level };
    static const struct pintle_clock_calls calls = { rival_now, rival_sleep, NULL, NULL, NULL };
    static const struct {
        const char *name;
        uint8_t bytes[3];
    } rows[] = {
        { "at the first bit", { 0x20, 0x55, 0xff } },
        { "at the fourth", { 0x80, 0xff, 0x01 } },
        { "in the data", { 0x90, 0x01, 0x80 } },
        { "at the last bit", { 0x90, 0x02, 0xff } },
    };
    for (size_t i = 0; i < COUNT(rows); i++) {
        struct bench bench;
        struct wired wired;
        struct rival rival = { .was_high = true, .bit = RIVAL_BITS };
        const uint8_t pointer = 0x03;
        const struct pintle_segment segment = { &pointer, NULL, 1 };
        bench_make(&bench, &pintle_tmp102, 0x48);
        wire_up(&wired, &bench.sim, 100000);
        rival.pins[PINTLE_SIM_DATA] = wired.master.data_line;
        rival.pins[PINTLE_SIM_CLOCK] = wired.master.clock_line;
        rival.clock = *wired.master.clock;
        const struct pintle_clock its = { &calls, &rival };
        CU_ASSERT_EQUAL(pintle_bitbang_i2c_init(&wired.master, (struct pintle_pin){ &data, &rival },
                                                (struct pintle_pin){ &line, &rival }, &its, 100000),
                        PINTLE_OK);
        struct pintle_i2c bus = pintle_bitbang_i2c_bus(&wired.master);
        memcpy(rival.bytes, rows[i].bytes, sizeof rival.bytes);
        rival.bit = -1;
        enum pintle_status status =
            bus.calls->transfer(bus.common.context, 0x48, &segment, 1, 25000);
        EXPECT(status == PINTLE_ARBITRATION_LOST, "%s: %s", rows[i].name,
               pintle_status_word(status));
        EXPECT(rival.harmed == 0 && rival.bit == RIVAL_BITS, "%s: %u of its bits harmed, %d sent",
               rows[i].name, rival.harmed, rival.bit);
        EXPECT(pintle_i2c_transfer(&bus, 0x48, &segment, 1) == PINTLE_OK, "%s: afterwards",
               rows[i].name);
    }
}

static uint64_t no_time(void *context)
{
    (void)context;
    return 1000;
}

static void pass_time(void *context, uint32_t us)
{
    pintle_sim_pass(context, us);
}

/* A clock line that stays low, timed by a clock that stands still: the waits are counted. */
static void stuck_without_a_clock(void)
{
    static const struct pintle_clock_calls calls = { no_time, pass_time, NULL, NULL, NULL };
    struct bench bench;
    struct wired wired;
    bench_make(&bench, &pintle_tmp102, 0x48);
    wire_up(&wired, &bench.sim, 100000);
    const struct pintle_clock still = { &calls, &bench.sim };
    wired.master.clock = &still;
    struct pintle_i2c bus = pintle_bitbang_i2c_bus(&wired.master);
    wired.wires.trouble = PINTLE_SIM_CLOCK_LOW;
    uint64_t before = bench.sim.now_us;
    CU_ASSERT_EQUAL(pintle_i2c_probe(&bus, 0x48), PINTLE_CLOCK_STUCK);
    EXPECT(bench.sim.now_us - before < 100000, "it took %u us",
           (unsigned)(bench.sim.now_us - before));
}

/* A chip that samples by a clock of its own has drawn another noise by the time that it is asked.
 */
static bool agree(const struct bench *bench, const struct pintle_sample *a,
                  const struct pintle_sample *b)
{
    const struct pintle_part *part = bench->sensor.part;
    const struct pintle_sim_model *model = bench->chip->model;
    bool equal = memcmp(a->raw, b->raw, part->raw_size) == 0;
    bool by_itself = part == &pintle_ina219; /* it converts before it is asked for the first time */
    bool close = by_itself || (part->can && part->can->fifo);
    for (uint8_t c = 0; close && c < part->channel_count; c++) {
        for (int input = 0; model->inputs[input]; input++) {
            double apart = fabs((double)(a->channel[c].value - b->channel[c].value));
            bool same = strcmp(model->inputs[input], part->channels[c].name) == 0;
            close = close && (!same || apart <= 8 * model->noises[input] + (by_itself ? 0.004 : 0));
        }
    }
    return equal || close;
}

/* Over wires and over whole transfers the same chip gives the same readings. */
static void both_depths_agree(void)
{
    for (size_t p = 0; p < measuring_count(); p++) {
        const struct pintle_part *part = measuring_at(p)->part;
        struct bench transfers;
        struct bench wires;
        struct wired wired;
        struct pintle_sample a;
        struct pintle_sample b;
        bench_make(&transfers, part, bench_place(part));
        bench_make(&wires, part, bench_place(part));
        bench_wire(&wires, &wired);
        uint64_t seed = transfers.sim.seed;
        for (int k = 0; k < 20; k++) {
            transfers.sim.seed = wires.sim.seed = seed + (uint64_t)k;
            CU_ASSERT_EQUAL(bench_read(&transfers, &a), PINTLE_OK);
            EXPECT(bench_read(&wires, &b) == PINTLE_OK, "%s over wires", part->name);
            EXPECT(agree(&wires, &a, &b), "%s: the same readings", part->name);
            pintle_sim_pass(&transfers.sim, 5000000 - transfers.sim.now_us % 5000000);
            pintle_sim_pass(&wires.sim, 5000000 - wires.sim.now_us % 5000000);
        }
    }
}

static void speeds(void)
{
    struct bench bench;
    struct wired wired;
    bench_make(&bench, &pintle_tmp102, 0x48);
    wire_up(&wired, &bench.sim, 1000);
    CU_ASSERT_EQUAL(pintle_i2c_probe(&bench.bus, 0x48), PINTLE_OK);
    CU_ASSERT_EQUAL(pintle_bitbang_i2c_init(&wired.master, wired.master.data_line,
                                            wired.master.clock_line, &bench.clock, 999),
                    PINTLE_OUT_OF_RANGE);
    CU_ASSERT_EQUAL(pintle_bitbang_i2c_init(&wired.master, wired.master.data_line,
                                            wired.master.clock_line, &bench.clock, 1000001),
                    PINTLE_OUT_OF_RANGE);
}

/* What the pins tell of an idle bus. */
static void looks(void)
{
    static const struct {
        const char *name;
        uint8_t trouble;
        double pull_up;
        struct pintle_bitbang_look look;
    } rows[] = {
        { "all well", 0, 4700, { 0, 0, 0, 1 } },
        { "100 kilohms", 0, 100000, { 0, 0, 0, 8 } },
        { "data low", PINTLE_SIM_DATA_LOW, 4700, { 1, 0, 0, UINT16_MAX } },
        { "clock low", PINTLE_SIM_CLOCK_LOW, 4700, { 0, 1, 0, 1 } },
        { "both low", PINTLE_SIM_DATA_LOW | PINTLE_SIM_CLOCK_LOW, 4700, { 1, 1, 0, UINT16_MAX } },
        { "touching", PINTLE_SIM_BRIDGED, 4700, { 0, 0, 1, 1 } },
        { "no pull-up", PINTLE_SIM_NO_PULL_UP, 4700, { 0, 0, 0, UINT16_MAX } },
        { "touching and low",
          PINTLE_SIM_BRIDGED | PINTLE_SIM_CLOCK_LOW,
          4700,
          { 1, 1, 0, UINT16_MAX } },
    };
    for (size_t i = 0; i < COUNT(rows); i++) {
        struct bench bench;
        struct wired wired;
        struct pintle_bitbang_look look;
        bench_make(&bench, &pintle_tmp102, 0x48);
        wire_up(&wired, &bench.sim, 100000);
        wired.wires.trouble = rows[i].trouble;
        wired.wires.rise_ns *= rows[i].pull_up / 4700;
        uint64_t before = bench.sim.now_us;
        pintle_bitbang_i2c_look(&wired.master, &look);
        EXPECT(bench.sim.now_us - before < 1100, "%s took %u us", rows[i].name,
               (unsigned)(bench.sim.now_us - before));
        EXPECT(look.data_low == rows[i].look.data_low && look.clock_low == rows[i].look.clock_low
                   && look.touching == rows[i].look.touching
                   && look.rise_us == rows[i].look.rise_us,
               "%s: data low %u, clock low %u, touching %u, rise %u us", rows[i].name,
               look.data_low, look.clock_low, look.touching, look.rise_us);
    }
}

void add_wires_suite(void)
{
    SUITE("wires", { "edges meet the standard", edges_meet_the_standard },
          { "troubles of lines", troubles_of_lines },
          { "two masters at once", two_masters_at_once },
          { "stuck without a clock", stuck_without_a_clock },
          { "both depths agree", both_depths_agree }, { "speeds", speeds },
          { "looks at idle lines", looks });
}
