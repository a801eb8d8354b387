/* Buses down to the wire: the bit-banged master's edges against the standard, and what it says of
 * lines that are not as they should be. */
#include "support.h"

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

/* UM10204 rev. 7 table 10, nanoseconds. */
static void edges_meet_the_standard(void)
{
    static const struct {
        uint32_t hz;
        double low, high, hold_start, set_up_start, set_up_stop, bus_free, set_up_data;
    } rows[] = {
        { 100000, 4700, 4000, 4000, 4700, 4000, 4700, 250 },
        { 400000, 1300, 600, 600, 600, 600, 1300, 100 },
        { 1000000, 500, 260, 260, 260, 260, 500, 50 },
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
            EXPECT(pintle_sensor_read(&bench.sensor, &sample) == PINTLE_OK, "%u Hz reads",
                   rows[i].hz);
        }
        EXPECT(s.starts > 20 && s.stops > 10, "%u Hz: %u starts, %u stops", rows[i].hz, s.starts,
               s.stops);
        const struct {
            const char *name;
            double measured, limit;
        } times[] = { { "clock low", s.low, rows[i].low },
                      { "clock high", s.high, rows[i].high },
                      { "period", s.period, 1e9 / rows[i].hz },
                      { "hold of START", s.hold_start, rows[i].hold_start },
                      { "set-up of repeated START", s.set_up_start, rows[i].set_up_start },
                      { "set-up of STOP", s.set_up_stop, rows[i].set_up_stop },
                      { "bus free", s.bus_free, rows[i].bus_free },
                      { "set-up of data", s.set_up_data, rows[i].set_up_data } };
        for (size_t t = 0; t < COUNT(times); t++) {
            EXPECT(times[t].measured >= times[t].limit && times[t].measured < 1e8,
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
        EXPECT(pintle_sensor_read(&bench.sensor, &sample) == PINTLE_OK, "%s: before", rows[i].name);
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
        EXPECT(pintle_sensor_read(&bench.sensor, &sample) == PINTLE_OK, "%s: after", rows[i].name);
        EXPECT_NEAR(sample.channel[0].value, 20, 2, rows[i].name);
    }
}

/* Over wires and over whole transfers the same chip gives the same readings. */
static void both_depths_agree(void)
{
    static const struct {
        const struct pintle_part *part;
        uint8_t address;
    } rows[] = { { &pintle_tmp102, 0x4b }, { &pintle_mcp9808, 0x18 }, { &pintle_sht31, 0x45 },
                 { &pintle_bme280, 0x77 }, { &pintle_ds3231, 0x68 },  { &pintle_ds18b20, 7 },
                 { &pintle_mcp3008, 0 },   { &pintle_icm20948, 1 },   { &pintle_lis331dlh, 2 },
                 { &pintle_lis331hh, 3 } };
    for (size_t i = 0; i < COUNT(rows); i++) {
        struct bench transfers;
        struct bench wires;
        struct wired wired;
        struct pintle_sample a;
        struct pintle_sample b;
        bench_make(&transfers, rows[i].part, rows[i].address);
        bench_make(&wires, rows[i].part, rows[i].address);
        bench_wire(&wires, &wired);
        uint64_t seed = transfers.sim.seed;
        for (int k = 0; k < 20; k++) {
            transfers.sim.seed = wires.sim.seed = seed + (uint64_t)k;
            CU_ASSERT_EQUAL(bench_read(&transfers, &a), PINTLE_OK);
            EXPECT(bench_read(&wires, &b) == PINTLE_OK, "%s over wires", rows[i].part->name);
            EXPECT(memcmp(a.raw, b.raw, rows[i].part->raw_size) == 0, "%s: the same bytes",
                   rows[i].part->name);
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
    CU_ASSERT_EQUAL(pintle_bitbang_i2c_init(&wired.master, wired.master.data, wired.master.line,
                                            bench.clock, 999),
                    PINTLE_OUT_OF_RANGE);
    CU_ASSERT_EQUAL(pintle_bitbang_i2c_init(&wired.master, wired.master.data, wired.master.line,
                                            bench.clock, 1000001),
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
          { "troubles of lines", troubles_of_lines }, { "both depths agree", both_depths_agree },
          { "speeds", speeds }, { "looks at idle lines", looks });
}
