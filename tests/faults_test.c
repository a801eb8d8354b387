/* Planted faults, one row each: what scan or wiring says of it first must be the true cause. The
 * simulated time that a scan takes is printed, and bounded. */
#include "support.h"

#include "pintle/host/check/scan.h"
#include "pintle/host/sim/sim.h"
#include "pintle/host/check/wiring.h"

#define TRANSFERS 1
#define WIRES 2
#define BOTH 3

/* The rigs that faults are planted in. */
#define BARO                                                                                       \
    "bus main { pull-up = 4700 }\nbus spare { pull-up = 4700 }\n"                                  \
    "sensor baro { part = \"BME280\" bus = \"main\" address = 0x76 }\n"
#define FAST_BARO                                                                                  \
    "bus main { pull-up = 4700 speed = 400000 }\n"                                                 \
    "sensor baro { part = \"BME280\" bus = \"main\" address = 0x76 }\n"
#define BARO_CHIP "chip c { part = \"BME280\" bus = \"main\" address = 0x76 }\n"
#define MOTION                                                                                     \
    "bus main { kind = \"spi\" }\n"                                                                \
    "sensor motion { part = \"ICM20948\" select = \"P1\" }\n"                                      \
    "sensor shock { part = \"LIS331HH\" select = \"P2\" }\n"
#define MOTION_CHIPS                                                                               \
    "chip m { part = \"ICM20948\" select = \"P1\" }\n"                                             \
    "chip s { part = \"LIS331HH\" select = \"P2\" }\n"
#define INPUTS                                                                                     \
    "bus main { kind = \"spi\" }\n"                                                                \
    "sensor inputs { part = \"MCP3008\" select = \"P1\" }\n"
#define PROBES                                                                                     \
    "bus main { kind = \"onewire\" pull-up = 4700 }\n"                                             \
    "sensor sea { part = \"DS18B20\" code = \"284c1e720700001d\" }\n"                              \
    "sensor shaft { part = \"DS18B20\" code = \"28a03b91070000a2\" }\n"
#define SEA "chip sea { part = \"DS18B20\" code = \"284c1e720700001d\" }\n"
#define SHAFT "chip shaft { part = \"DS18B20\" code = \"28a03b91070000a2\" }\n"
/* An accelerometer that its owner described with the wrong mode. */
#define WRONG_MODE                                                                                 \
    "part MINE { bus = \"spi\" mode = 0 read-bit = 0x80\n"                                         \
    " register WHO { address = 0x0f access = \"read\" }\n"                                         \
    " identity = { \"expect WHO 0x32\" }  measure = { \"read WHO\" }\n"                            \
    " channel x { quantity = \"voltage\" bytes = 1 range = { 0, 1 } } }\n"                         \
    "bus main { kind = \"spi\" }\nsensor mine { part = \"MINE\" select = \"P1\" }\n"

struct row {
    const char *name;
    const char *rig;
    const char *world;
    int depths;
    enum pintle_finding_kind kind;
    const char *where;
    const char *text;
    unsigned amiss;
};

#define TROUBLE(kind) "trouble main { kind = \"" kind "\" }\n"

static const struct row rows[] = {
    { "as expected", BARO, BARO_CHIP, BOTH, PINTLE_FINDING_PROVEN, "0x76", "register id reads 60h",
      0 },
    { "data shorted", BARO, BARO_CHIP TROUBLE("data-low"), BOTH, PINTLE_FINDING_BROKEN, "",
      "data stays low", 1 },
    { "clock shorted", BARO, BARO_CHIP TROUBLE("clock-low"), WIRES, PINTLE_FINDING_BROKEN, "",
      "the clock stays low: shorted", 1 },
    { "clock shorted, pins unseen", BARO, BARO_CHIP TROUBLE("clock-low"), TRANSFERS,
      PINTLE_FINDING_BROKEN, "", "the clock stays low", 1 },
    { "both shorted", BARO, BARO_CHIP TROUBLE("clock-low") TROUBLE("data-low"), WIRES,
      PINTLE_FINDING_BROKEN, "", "both lines stay low: no pull-ups, no supply", 1 },
    { "no pull-up", BARO, BARO_CHIP TROUBLE("no-pull-up"), WIRES, PINTLE_FINDING_BROKEN, "",
      "data does not rise again once it was low: there are no pull-ups", 1 },
    { "a pull-up too weak for the cable", BARO,
      BARO_CHIP "lines main { pull-up = 100000 capacitance = 400 }\n", WIRES, PINTLE_FINDING_BROKEN,
      "", "the lines rise too slowly", 1 },
    { "15 kilohms at 400 kHz", FAST_BARO,
      BARO_CHIP "lines main { pull-up = 15000 capacitance = 140 }\n", WIRES, PINTLE_FINDING_BROKEN,
      "", "the lines rise too slowly", 1 },
    { "10 kilohms at 400 kHz", FAST_BARO,
      BARO_CHIP "lines main { pull-up = 10000 capacitance = 140 }\n", WIRES,
      PINTLE_FINDING_MARGINAL, "", "the lines rise too slowly", 1 },
    { "1.8 kilohms at 400 kHz", FAST_BARO,
      BARO_CHIP "lines main { pull-up = 1800 capacitance = 140 }\n", WIRES, PINTLE_FINDING_PROVEN,
      "0x76", "reads 60h", 0 },
    { "10 kilohms at 100 kHz", BARO, BARO_CHIP "lines main { pull-up = 8000 capacitance = 140 }\n",
      WIRES, PINTLE_FINDING_PROVEN, "0x76", "reads 60h", 0 },
    { "22 kilohms at 100 kHz", BARO, BARO_CHIP "lines main { pull-up = 22000 capacitance = 140 }\n",
      WIRES, PINTLE_FINDING_MARGINAL, "", "the lines rise too slowly", 1 },
    { "touching", BARO, BARO_CHIP TROUBLE("touching"), WIRES, PINTLE_FINDING_BROKEN, "",
      "data and clock touch", 1 },
    { "data held for good", BARO, BARO_CHIP "trouble main { kind = \"held\" amount = 250 }\n", BOTH,
      PINTLE_FINDING_BROKEN, "", "data stays low, and nine clocks did not free it", 1 },
    { "data held for a while", BARO, BARO_CHIP "trouble main { kind = \"held\" amount = 5 }\n",
      BOTH, PINTLE_FINDING_PROVEN, "0x76", "reads 60h", 0 },
    { "stretched for ever", BARO,
      BARO_CHIP "trouble main { kind = \"stretched\" amount = 100000000 }\n", WIRES,
      PINTLE_FINDING_BROKEN, "", "high at rest, but not while a chip talks: it stretches", 1 },
    { "stretched a little", BARO, BARO_CHIP "trouble main { kind = \"stretched\" amount = 300 }\n",
      BOTH, PINTLE_FINDING_PROVEN, "0x76", "reads 60h", 0 },
    { "swapped", BARO, BARO_CHIP TROUBLE("swapped"), BOTH, PINTLE_FINDING_MISSING, "0x76",
      "whether data and clock are swapped", 1 },
    { "interface off", BARO, BARO_CHIP TROUBLE("off"), TRANSFERS, PINTLE_FINDING_BROKEN, "",
      "this interface is switched off in the operating system", 1 },
    { "nothing there", BARO, "", BOTH, PINTLE_FINDING_MISSING, "0x76", "nothing else on this bus",
      1 },
    { "silent", BARO, BARO_CHIP "fault c { kind = \"silent\" }\n", BOTH, PINTLE_FINDING_MISSING,
      "0x76", "no answer, and nothing else on this bus", 1 },
    { "everything answers", BARO, BARO_CHIP "fault c { kind = \"deafening\" }\n", BOTH,
      PINTLE_FINDING_BROKEN, "", "every address answers: noise, not chips; there is no pull-up",
      1 },
    { "the other strap", BARO, "chip c { part = \"BME280\" bus = \"main\" address = 0x77 }\n", BOTH,
      PINTLE_FINDING_MISSING, "0x76", "a BME280 answers at 0x77 instead (SDO to VDDIO)", 2 },
    { "the other bus", BARO, "chip c { part = \"BME280\" bus = \"spare\" address = 0x76 }\n", BOTH,
      PINTLE_FINDING_MISSING, "0x76", "answers at 0x76 on bus 'spare': is it plugged in there?",
      2 },
    { "another part", BARO, "chip c { part = \"TMP102\" bus = \"main\" address = 0x76 }\n", BOTH,
      PINTLE_FINDING_WRONG, "0x76", "something answers that is not a BME280", 1 },
    { "a stranger beside it", BARO, BARO_CHIP "chip d { part = \"SHT31\" address = 0x44 }\n", BOTH,
      PINTLE_FINDING_UNEXPECTED, "0x44", "it could be SHT31, but nothing proves it", 1 },
    { "a stranger with an identity", BARO, BARO_CHIP "chip d { part = \"SHT40\" address = 0x44 }\n",
      BOTH, PINTLE_FINDING_UNEXPECTED, "0x44", "add it to the rig file", 1 },
    { "at the address of a switch", BARO, BARO_CHIP "chip d { part = \"SHTC3\" address = 0x70 }\n",
      BOTH, PINTLE_FINDING_UNEXPECTED, "0x70", "add it to the rig file", 1 },
    { "a switch there", BARO, BARO_CHIP "chip d { part = \"PCF8574\" address = 0x70 }\n", BOTH,
      PINTLE_FINDING_UNEXPECTED, "0x70",
      "could be SHTC3 or a bus switch (PCA9548); nothing was sent to it", 1 },
    { "a stranger at a stranger's place", BARO,
      BARO_CHIP "chip d { part = \"SHT31\" address = 0x33 }\n", BOTH, PINTLE_FINDING_UNEXPECTED,
      "0x33", "no part of the catalogue passes", 1 },
    { "a stranger that could be a TMP102", BARO,
      BARO_CHIP "chip d { part = \"DS3231\" address = 0x4a }\n", BOTH, PINTLE_FINDING_UNEXPECTED,
      "0x4a", "it could be ADS1115 or INA219 or TMP102, but nothing proves it", 1 },
    { "missing beside another", BARO, "chip d { part = \"SHT31\" address = 0x44 }\n", BOTH,
      PINTLE_FINDING_MISSING, "0x76", "no answer, while others on this bus do; check its plug", 2 },

    { "SPI as expected", MOTION, MOTION_CHIPS, BOTH, PINTLE_FINDING_PROVEN, "select P1",
      "WHO_AM_I reads EAh", 0 },
    { "select broken", MOTION, MOTION_CHIPS "fault m { kind = \"silent\" }\n", BOTH,
      PINTLE_FINDING_MISSING, "select P1",
      "nothing but ones come back: nobody drives the data-in line; check the select wire", 1 },
    { "unplugged", MOTION, MOTION_CHIPS "fault s { kind = \"unplugged\" }\n", BOTH,
      PINTLE_FINDING_MISSING, "select P2", "nothing but ones come back", 1 },
    { "data-in shorted", MOTION, MOTION_CHIPS TROUBLE("data-low"), BOTH, PINTLE_FINDING_MISSING,
      "select P1", "nothing but zeros come back: data-in is shorted to ground", 2 },
    { "in and out swapped", MOTION, MOTION_CHIPS TROUBLE("swapped"), BOTH, PINTLE_FINDING_MISSING,
      "select P2", "whether data-in and data-out are swapped", 2 },
    { "selects swapped", MOTION,
      "chip m { part = \"ICM20948\" select = \"P2\" }\n"
      "chip s { part = \"LIS331HH\" select = \"P1\" }\n",
      BOTH, PINTLE_FINDING_WRONG, "select P1",
      "a ICM20948 answers on select P2 instead: the select wires are swapped", 2 },
    { "another part at the select", MOTION,
      "chip m { part = \"LIS331HH\" select = \"P1\" }\n"
      "chip s { part = \"LIS331HH\" select = \"P2\" }\n",
      BOTH, PINTLE_FINDING_WRONG, "select P1",
      "not a ICM20948: it does not pass the proof. It could be LIS331DLH or LIS331HH", 1 },
    { "wrong mode", WRONG_MODE, "chip s { part = \"LIS331HH\" select = \"P1\" }\n", BOTH,
      PINTLE_FINDING_WRONG, "select P1", "comes one bit late: the mode is wrong", 1 },
    { "SPI noise", MOTION, MOTION_CHIPS TROUBLE("noise") "seed = 5\n", BOTH,
      PINTLE_FINDING_UNSTEADY, "select P1", "reads differently each time: noise", 2 },
    { "SPI off", MOTION, MOTION_CHIPS TROUBLE("off"), TRANSFERS, PINTLE_FINDING_BROKEN, "",
      "this interface is switched off", 1 },
    { "a converter shorted", INPUTS,
      "chip i { part = \"MCP3008\" select = \"P1\" }\n" TROUBLE("data-low"), BOTH,
      PINTLE_FINDING_MISSING, "select P1", "nothing but zeros come back", 1 },

    { "1-Wire as expected", PROBES, SEA SHAFT, BOTH, PINTLE_FINDING_PROVEN, "284c1e720700001d",
      "its code has family 28h", 0 },
    { "line shorted", PROBES, SEA SHAFT TROUBLE("data-low"), WIRES, PINTLE_FINDING_BROKEN, "",
      "the line is shorted to ground", 1 },
    { "line shorted, pin unseen", PROBES, SEA SHAFT TROUBLE("data-low"), TRANSFERS,
      PINTLE_FINDING_BROKEN, "", "the line stays low: it is shorted to ground", 1 },
    { "line without pull-up", PROBES, SEA SHAFT TROUBLE("no-pull-up"), WIRES, PINTLE_FINDING_BROKEN,
      "", "the line does not rise by itself: its pull-up of 4.7 kilohms is", 1 },
    { "line without pull-up, pin unseen", PROBES, SEA SHAFT TROUBLE("no-pull-up"), TRANSFERS,
      PINTLE_FINDING_BROKEN, "", "or its pull-up of 4.7 kilohms is missing", 1 },
    { "a code that breaks off", PROBES, SEA "fault sea { kind = \"unplugged\" from = \"16 ms\" }\n",
      BOTH, PINTLE_FINDING_BROKEN, "", "a code broke off in the middle: a probe lost contact", 3 },
    { "presence and no code", PROBES, SEA "fault sea { kind = \"unplugged\" from = \"11 ms\" }\n",
      BOTH, PINTLE_FINDING_BROKEN, "", "a probe shows its presence and then no code", 1 },
    { "nobody on the line", PROBES, "", BOTH, PINTLE_FINDING_BROKEN, "",
      "no probe shows its presence; check the plug", 1 },
    { "one probe missing", PROBES, SEA, BOTH, PINTLE_FINDING_MISSING, "28a03b91070000a2",
      "this code is not on the line, while others are", 1 },
    { "a stranger on the line", PROBES,
      SEA SHAFT "chip x { part = \"DS18B20\" code = \"280102030405069e\" }\n", BOTH,
      PINTLE_FINDING_UNEXPECTED, "280102030405069e", "add it to the rig file", 1 },
    { "a strange family", PROBES,
      SEA SHAFT "chip x { part = \"DS18B20\" code = \"2d01020304050657\" }\n", BOTH,
      PINTLE_FINDING_UNEXPECTED, "2d01020304050657", "a chip of a family that the catalogue", 1 },
    { "a code with a wrong CRC", PROBES,
      SEA SHAFT "chip x { part = \"DS18B20\" code = \"2801020304050600\" }\n", BOTH,
      PINTLE_FINDING_BROKEN, "", "a code came that does not hold together: noise, a loose plug",
      1 },
    { "a code of zeros", PROBES,
      SEA SHAFT "chip x { part = \"DS18B20\" code = \"0000000000000000\" }\n", BOTH,
      PINTLE_FINDING_BROKEN, "", "a code of nothing but zeros came", 1 },
    { "a loose plug", PROBES,
      SEA SHAFT "fault shaft { kind = \"unplugged\" from = \"65 ms\" to = \"1 s\" }\n", BOTH,
      PINTLE_FINDING_UNSTEADY, "28a03b91070000a2", "it comes and goes", 1 },
    { "no supply wire", PROBES,
      SEA "chip shaft { part = \"DS18B20\" code = \"28a03b91070000a2\" power = \"parasite\" }\n",
      BOTH, PINTLE_FINDING_WRONG, "28a03b91070000a2",
      "it says that the line powers it, and the rig says that a wire does", 1 },
    { "1-Wire off", PROBES, SEA SHAFT TROUBLE("off"), TRANSFERS, PINTLE_FINDING_BROKEN, "",
      "this interface is switched off", 1 },
};

static struct pintle_rig *load(const char *folder, const char *rig, const char *world,
                               const char *depth)
{
    struct pintle_problem problem = { 0 };
    char *path = g_build_filename(folder, "x.rig", NULL);
    char *text = g_strdup_printf("board { world = \"w\" depth = \"%s\" }\n%s", depth, rig);
    file_write(folder, "x.rig", text);
    file_write(folder, "w", world);
    struct pintle_rig *loaded = pintle_rig_load(path, &problem);
    EXPECT(loaded != NULL, "%s", problem.text);
    g_free(text);
    g_free(path);
    return loaded;
}

/* Returns how long it took, in simulated microseconds. */
static unsigned scan_is(const char *folder, const struct row *row, const char *depth)
{
    struct pintle_problem problem = { 0 };
    struct pintle_rig *rig = load(folder, row->rig, row->world, depth);
    struct pintle_station *station = rig ? pintle_station_open(rig, 10000, &problem) : NULL;
    EXPECT(station != NULL, "%s: %s", row->name, problem.text);
    CU_ASSERT_PTR_NOT_NULL_FATAL(station);
    struct pintle_scan *scan = pintle_scan_run(station);
    bool found = false;
    for (unsigned k = 0; k < scan->count; k++) {
        const struct pintle_finding *f = scan->finding[k];
        found = found
                || (f->kind == row->kind && strcmp(f->where, row->where) == 0
                    && strstr(f->text, row->text) != NULL);
    }
    EXPECT(found, "%s over %s: %s: %s", row->name, depth,
           scan->count ? scan->finding[0]->where : "",
           scan->count ? scan->finding[0]->text : "nothing");
    EXPECT(scan->amiss == row->amiss, "%s over %s: %u amiss", row->name, depth, scan->amiss);
    unsigned took = (unsigned)pintle_station_sim(station)->now_us - 10000;
    EXPECT(took < 5000000, "%s over %s took %u us", row->name, depth, took);
    pintle_scan_free(scan);
    pintle_station_free(station);
    pintle_rig_free(rig);
    return took;
}

static void found_by_scan(void)
{
    char *folder = scratch_make();
    unsigned longest = 0;
    unsigned count = 0;
    for (size_t i = 0; i < COUNT(rows); i++) {
        unsigned times[2] = { 0, 0 };
        times[0] = rows[i].depths & TRANSFERS ? scan_is(folder, &rows[i], "transfers") : 0;
        times[1] = rows[i].depths & WIRES ? scan_is(folder, &rows[i], "wires") : 0;
        longest = MAX(longest, MAX(times[0], times[1]));
        count += rows[i].amiss > 0;
    }
    printf("\n  %u planted faults, each found within %.2f s of bus time\n", count, longest / 1e6);
    scratch_remove(folder);
}

/* Any mixture of faults and troubles, on all buses at once: a scan ends, in bounded time, and has
 * a sentence for whatever it finds amiss. */
static void in_any_trouble(void)
{
    struct pintle_problem problem = { 0 };
    unsigned longest = 0;
    unsigned amiss = 0;
    srand(17);
    for (int i = 0; i < 120; i++) {
        struct pintle_rig *rig = pintle_rig_demo(&problem);
        CU_ASSERT_PTR_NOT_NULL_FATAL(rig);
        rig->wires = i % 2;
        struct pintle_station *station = pintle_station_open(rig, 60000000, &problem);
        CU_ASSERT_PTR_NOT_NULL_FATAL(station);
        for (int k = rand() % 6; k >= 0; k--) {
            const struct pintle_sim_fault fault = {
                .kind = (enum pintle_sim_fault_kind)(rand() % (PINTLE_SIM_OFF + 1)),
                .chip = (uint8_t)(rand() % 4),
                .from_us = (uint64_t)(rand() % 61000000),
                .to_us = (uint64_t)(60000000 + rand() % 2000000),
                .trouble = (uint8_t)(1u << rand() % 8),
                .amount = (uint32_t)(rand() % 300),
            };
            CU_ASSERT_EQUAL(pintle_sim_add_fault(pintle_station_sim(station), &fault), PINTLE_OK);
        }
        uint64_t before = pintle_station_sim(station)->now_us;
        struct pintle_scan *scan = pintle_scan_run(station);
        longest = MAX(longest, (unsigned)(pintle_station_sim(station)->now_us - before));
        amiss += scan->amiss;
        for (unsigned f = 0; f < scan->count; f++) {
            EXPECT(scan->finding[f]->text[0] && !strchr(scan->finding[f]->text, '{'),
                   "a sentence, with its names: %s", scan->finding[f]->text);
        }
        pintle_scan_free(scan);
        pintle_station_free(station);
        pintle_rig_free(rig);
    }
    printf("\n  %u findings in 120 troubled scans, the longest %.1f s of bus time\n", amiss,
           longest / 1e6);
    EXPECT(longest < 30000000 && amiss > 120, "longest %u us, %u findings", longest, amiss);
}

/* What is found before power-on, from the rig file alone. */
static void found_by_wiring(void)
{
    static const struct {
        const char *name;
        const char *rig;
        unsigned count;
        const char *text; /* of the first */
    } wired[] = {
        { "SPI and 1-Wire as they should be", MOTION, 0, "" },
        { "probes as they should be", PROBES, 0, "" },
        { "two on one address",
          "bus m { pull-up = 4700 }\nbus n { pull-up = 4700 }\n"
          "sensor a { part = \"SHT31\" bus = \"m\" address = 0x44 }\n"
          "sensor b { part = \"SHT31\" bus = \"m\" address = 0x44 }\n",
          1,
          "it sits at 0x44 like 'a'; move 'b' to 0x45 (ADDR to VDD), or 'a' to 0x45 (ADDR to VDD), "
          "or one of them to bus 'n'" },
        { "no strap left",
          "bus m { pull-up = 4700 }\n"
          "sensor a { part = \"DS3231\" address = 0x68 }\n"
          "sensor b { part = \"DS3231\" address = 0x68 }\n",
          1, "it sits at 0x68 like 'a'; move one of them to a bus of its own" },
        { "one select for two",
          "bus m { kind = \"spi\" }\nsensor a { part = \"MCP3008\" select = \"P1\" }\n"
          "sensor b { part = \"ICM20948\" select = \"P1\" }\n",
          1, "its select P1 is that of 'a' too: both would talk at once" },
        { "a select that is also data",
          "bus m { kind = \"spi\" data = \"P1\" }\nsensor a { part = \"MCP3008\" select = \"P1\" "
          "}\n",
          1, "pin P1 is select of this bus and data of bus 'm'" },
        { "5 V into a 3.3 V pin",
          "bus m { kind = \"spi\" }\nsensor a { part = \"MCP3008\" select = \"P1\" supply = 5 }\n",
          2, "the lines are driven to 3.3 V, and a MCP3008 supplied with 5 V takes only 3.50 V" },
        { "the same, the other way",
          "board { logic = 5 }\nbus m { kind = \"spi\" }\n"
          "sensor a { part = \"ICM20948\" select = \"P1\" }\n",
          1, "the lines are driven to 5 V, and a ICM20948 supplied with 3.3 V stands 3.8 V" },
        { "a line without pull-up",
          "bus m { kind = \"onewire\" }\nsensor a { part = \"DS18B20\" code = \"284c1e720700001d\" "
          "}\n",
          1,
          "there is no pull-up: the lines cannot rise; put one of 725 to 10000 ohm on data "
          "(DS18B20" },
        { "a pull-up too weak for noise",
          "bus m { kind = \"onewire\" pull-up = 22000 }\n"
          "sensor a { part = \"DS18B20\" code = \"284c1e720700001d\" }\n",
          1, "a pull-up of 22000 ohm hardly holds the line against noise; take at most 10000 ohm" },
        { "a probe at 5 V on a line at 3.3 V",
          "bus m { kind = \"onewire\" pull-up = 4700 }\n"
          "sensor a { part = \"DS18B20\" code = \"284c1e720700001d\" supply = 5 }\n",
          0, "" },
        { "the same, where 2.2 V are not reached",
          "board { logic = 1.8 }\nbus m { kind = \"onewire\" pull-up = 4700 pull-up-to = 1.8 }\n"
          "sensor a { part = \"DS18B20\" code = \"284c1e720700001d\" supply = 5 }\n",
          1,
          "the lines are pulled up to 1.8 V, and a DS18B20 supplied with 5 V takes only 2.20 V and "
          "more for high; go to 5 V, or put a level shifter between (its datasheet)" },
        { "a clock that stands 5 V on its pins",
          "board { logic = 5 }\nbus m { pull-up = 4700 pull-up-to = 5 }\n"
          "sensor a { part = \"DS3231\" address = 0x68 supply = 3.3 }\n",
          0, "" },
        { "high from 0.8 of the supply",
          "board { logic = 2.5 }\nbus m { kind = \"spi\" }\n"
          "sensor a { part = \"LIS331HH\" select = \"P1\" supply = 3.3 }\n",
          2,
          "the lines are driven to 2.5 V, and a LIS331HH supplied with 3.3 V takes only 2.64 V" },
        { "a line too long for its pull-up",
          "bus m { kind = \"onewire\" pull-up = 4700 cable = 25 }\n"
          "sensor a { part = \"DS18B20\" code = \"284c1e720700001d\" }\n",
          1,
          "4700 ohm and 2535 pF rise in 14.3 us where a slot allows 9 us; take at most 2949 ohm" },
        { "power along a long cable",
          "bus m { kind = \"onewire\" pull-up = 2200 cable = 12 }\n"
          "sensor a { part = \"DS18B20\" code = \"284c1e720700001d\" set = { \"power=parasite\" } "
          "}\n",
          1, "power over the line along 12 m of cable: beyond 5 m, a rule of thumb" },
        { "power from too low a line",
          "bus m { kind = \"onewire\" pull-up = 2200 pull-up-to = 2.7 }\n"
          "sensor a { part = \"DS18B20\" code = \"284c1e720700001d\" set = { \"power=parasite\" } "
          "}\n",
          1, "power over the line wants 3 V and more, and it is pulled up to 2.7 V" },
    };
    char *folder = scratch_make();
    for (size_t i = 0; i < COUNT(wired); i++) {
        struct pintle_wiring_fault *faults = NULL;
        struct pintle_rig *rig = load(folder, wired[i].rig, "", "transfers");
        CU_ASSERT_PTR_NOT_NULL_FATAL(rig);
        unsigned count = pintle_wiring_check(rig, &faults);
        EXPECT(count == wired[i].count, "%s: %u faults: %s", wired[i].name, count,
               count ? faults[0].text : "");
        EXPECT(count == 0 || g_str_has_prefix(faults[0].text, wired[i].text), "%s: %s",
               wired[i].name, count ? faults[0].text : "");
        pintle_host_free(faults);
        pintle_rig_free(rig);
    }
    scratch_remove(folder);
}

/* What a part is known for is said where it fits the failure, and only there. */
static void known_for(void)
{
    static const struct {
        const char *world;
        bool said;
    } fits[] = {
        { SHAFT, false }, /* all well */
        { "chip shaft { part = \"DS18B20\" code = \"28a03b91070000a2\" power = \"parasite\" }\n",
          true },
        { "", false }, /* unplugged */
    };
    char *folder = scratch_make();
    for (size_t i = 0; i < COUNT(fits); i++) {
        struct pintle_rig *rig =
            load(folder,
                 "bus h { kind = \"onewire\" pull-up = 4700 }\n"
                 "sensor shaft { part = \"DS18B20\" code = \"28a03b91070000a2\" }\n",
                 fits[i].world, "transfers");
        pintle_rig_free(rig);
        struct said said = tool(folder, "read --rig x.rig");
        EXPECT(!!strstr(said.out, "of a DS18B20 it is known") == fits[i].said, "row %zu: %s", i,
               said.out);
        said_free(&said);
    }
    scratch_remove(folder);
}

/* The pages on troubles and on parts are what the tool says today. */
static void the_page_is_current(void)
{
    struct said said = tool(NULL, "explain --markdown");
    char *page = file_text(SOURCE, "docs/troubleshooting.md");
    EXPECT(strcmp(said.out, page) == 0, "docs/troubleshooting.md is old: run 'make docs'");
    struct said parts = tool(NULL, "parts --markdown");
    char *parts_page = file_text(SOURCE, "docs/parts.md");
    EXPECT(strcmp(parts.out, parts_page) == 0, "docs/parts.md is old: run 'make docs'");
    g_free(parts_page);
    said_free(&parts);
    for (size_t i = 0; pintle_hint_at(i); i++) {
        EXPECT(strstr(page, pintle_hint_at(i)->word) != NULL, "%s", pintle_hint_at(i)->word);
    }
    for (unsigned bit = 1; bit < 1u << 15; bit <<= 1) {
        const char *word = pintle_quality_word((pintle_marks)bit);
        char *entry =
            g_strdup_printf("- **%s**: %s.", word, pintle_quality_sentence((pintle_marks)bit));
        EXPECT(strstr(page, entry) != NULL || strcmp(word, "unknown") == 0, "%s", entry);
        g_free(entry);
    }
    for (int status = PINTLE_OK + 1; status < PINTLE_NOT_READY; status++) {
        char *entry = g_strdup_printf("- **%s**", pintle_status_word((enum pintle_status)status));
        EXPECT(strstr(page, entry) != NULL, "%s", entry);
        g_free(entry);
    }
    g_free(page);
    said_free(&said);
}

void add_faults_suite(void)
{
    SUITE("faults", { "found by scan", found_by_scan }, { "in any trouble", in_any_trouble },
          { "found by wiring", found_by_wiring }, { "known for", known_for },
          { "the page is current", the_page_is_current });
}
