/* Twelve sensors on three buses, measured together every second: nothing is marked but what a fault
 * spoils, nothing is wrong, and a round takes the longest conversion and what the buses need.
 * PINTLE_ROUNDS says how many seconds, if not a week. */
#include "support.h"

#define ROUNDS 604800 /* a week */
#define SENSORS 12
#define TRIM 64
#define AWAY_S 20   /* how long a sensor is unplugged, */
#define APART_S 300 /* and how long after it the next one is */

static const struct seat {
    const char *part;
    uint8_t bus, address;
} seats[SENSORS] = {
    { "SHT31", 0, 0x44 },   { "BME280", 0, 0x76 },  { "TMP102", 0, 0x48 },  { "VEML7700", 0, 0x10 },
    { "INA219", 0, 0x40 },  { "SHTC3", 0, 0x70 },   { "MPU6050", 1, 0x68 }, { "BMP180", 1, 0x77 },
    { "MCP9808", 1, 0x18 }, { "ADXL345", 1, 0x1d }, { "DS18B20", 2, 1 },    { "DS18B20", 2, 2 },
};

struct week {
    struct pintle_sim sim;
    struct pintle_i2c i2c[2];
    struct pintle_onewire line;
    struct pintle_clock clock;
    struct bench bench[SENSORS]; /* the chip and the sensor of each */
    struct turn turn[SENSORS];
    uint64_t traffic_us; /* what they need of the buses, all together */
    uint64_t longest_us; /* the slowest conversion */
    unsigned good, marked, wrong, unexplained, late;
};

static void place(struct week *week, unsigned i)
{
    const struct seat *seat = &seats[i];
    struct bench *bench = &week->bench[i];
    const struct pintle_part *part = pintle_sheet_find(seat->part)->part;
    bench->chip = pintle_sim_add(&week->sim, seat->part, seat->bus, seat->address);
    CU_ASSERT_PTR_NOT_NULL_FATAL(bench->chip);
    enum pintle_status status =
        seat->bus == 2 ? any_on_onewire(&bench->any, part, &week->line, bench->chip->rom.code)
                       : any_on_i2c(&bench->any, part, &week->i2c[seat->bus], seat->address);
    CU_ASSERT_EQUAL_FATAL(status, PINTLE_OK);
    week->turn[i].sensor = &bench->sensor;
}

/* Each alone: what it takes beyond the waits of its program it needs of its bus. */
static void clock_each(struct week *week)
{
    for (unsigned i = 0; i < SENSORS; i++) {
        const struct pintle_sensor *sensor = &week->bench[i].sensor;
        uint64_t waits = pintle_sheet_waits_us(sensor->part, sensor->part->measure,
                                               pintle_sensor_block(sensor).settings);
        uint64_t began = week->sim.now_us;
        CU_ASSERT_EQUAL(turns_round(&week->turn[i], 1), 0);
        uint64_t took = week->sim.now_us - began;
        EXPECT(took >= waits && took - waits < 25000, "%s alone takes %u us", seats[i].part,
               (unsigned)took);
        week->traffic_us += took - waits;
        week->longest_us = MAX(week->longest_us, waits);
    }
}

static void settle(struct week *week)
{
    memset(week, 0, sizeof *week);
    pintle_sim_init(&week->sim, 3, 1781222400000000, 7);
    week->clock = pintle_sim_clock(&week->sim);
    week->line = pintle_sim_onewire(&week->sim, 2);
    for (uint16_t bus = 0; bus < 2; bus++) {
        week->sim.bus[bus].bit_ns = 2500;
        week->i2c[bus] = pintle_sim_i2c(&week->sim, bus);
    }
    for (unsigned i = 0; i < SENSORS; i++) {
        place(week, i);
    }
    (void)turns_round(week->turn, SENSORS); /* what is suspect at first */
    CU_ASSERT_EQUAL(turns_round(week->turn, SENSORS), 0);
    clock_each(week);
}

/* In turn they are unplugged for a while. Returns which one, or -1. */
static int away(struct week *week, unsigned second)
{
    struct pintle_sim *sim = &week->sim;
    int which = (int)(second / APART_S % SENSORS);
    if (second % APART_S == APART_S - AWAY_S) {
        const struct pintle_sim_fault fault = { .kind = PINTLE_SIM_UNPLUGGED,
                                                .chip = (uint16_t)which,
                                                .from_us = sim->now_us,
                                                .to_us = sim->now_us + AWAY_S * 1000000ull };
        pintle_sim_calm(sim); /* the one before is over */
        CU_ASSERT_EQUAL(pintle_sim_add_fault(sim, &fault), PINTLE_OK);
    }
    return second % APART_S >= APART_S - AWAY_S ? which : -1;
}

static void judge(struct week *week, int away, unsigned second)
{
    for (unsigned i = 0; i < SENSORS; i++) {
        const struct pintle_part *part = week->bench[i].sensor.part;
        pintle_marks marks = 0;
        for (uint8_t c = 0; c < part->channel_count; c++) {
            marks |= week->turn[i].sample.channel[c].quality & PINTLE_QUALITY_SUSPECT;
        }
        /* Back at its place it is set up first; what it says at once may be suspect. */
        int back = second >= APART_S && second % APART_S < 2
                   && (int)(second / APART_S - 1) % SENSORS == (int)i;
        /* Another one that has just gone may have disturbed the bus: all are set up again. */
        int afresh = marks == PINTLE_QUALITY_FIRST && second % APART_S >= APART_S - AWAY_S
                     && second % APART_S < APART_S - AWAY_S + 2;
        int spoilt = (int)i == away || back || afresh;
        week->good += marks == 0;
        week->marked += marks != 0;
        week->unexplained += marks != 0 && !spoilt;
        week->wrong +=
            bench_lies(&week->bench[i], &week->turn[i].sample) + ((int)i == away && !marks);
        if (marks && !spoilt && week->unexplained < 5) {
            EXPECT(0, "%s: %x at second %u", part->name, marks, second);
        }
    }
}

static void a_week(void)
{
    static struct week week;
    const char *asked = g_getenv("PINTLE_ROUNDS");
    unsigned rounds = asked ? (unsigned)g_ascii_strtoull(asked, NULL, 10) : ROUNDS / one_in();
    settle(&week);
    uint64_t began = week.sim.now_us;
    uint64_t least = UINT64_MAX;
    uint64_t most = 0;
    for (unsigned second = 0; second < rounds; second++) {
        uint64_t at = week.sim.now_us;
        int gone = away(&week, second);
        (void)turns_round(week.turn, SENSORS);
        uint64_t took = week.sim.now_us - at;
        if (gone < 0 && second % APART_S > 2) {
            least = MIN(least, took);
            most = MAX(most, took);
        }
        judge(&week, gone, second);
        uint64_t next = began + (second + 1) * 1000000ull;
        week.late += week.sim.now_us > next;
        pintle_sim_pass(&week.sim, next > week.sim.now_us ? next - week.sim.now_us : 0);
    }
    printf(
        "\n  %u rounds of twelve: %u good, %u marked, none of it without a fault; a round takes\n"
        "  %.1f to %.1f ms: a conversion of %.1f ms and %.1f ms of traffic, if that were in turn\n",
        rounds, week.good, week.marked, (double)least / 1e3, (double)most / 1e3,
        (double)week.longest_us / 1e3, (double)week.traffic_us / 1e3);
    EXPECT(week.unexplained == 0, "%u marks that no fault explains", week.unexplained);
    EXPECT(week.wrong == 0, "%u wrong among the good", week.wrong);
    EXPECT(week.late == 0, "%u rounds did not end within their second", week.late);
    EXPECT(week.marked >= rounds / APART_S * (AWAY_S - 1), "%u marked", week.marked);
    EXPECT(most <= week.longest_us + week.traffic_us, "a round took %u us", (unsigned)most);
}

void add_week_suite(void)
{
    SUITE("week", { "twelve sensors together", a_week });
}
