/* Rig files and world scripts: what is read, and what each mistake is answered with. */
#include "support.h"

#include "pintle/host/keep/calibration.h"
#include "pintle/host/live/station.h"
#include "pintle/host/sim/sim.h"

#define WORLD "board { world = \"x.rig\" }\n"
#define SPI "bus main { kind = \"spi\" }\n"
#define LINE "bus main { kind = \"onewire\" }\n"
#define BUS "bus main { speed = 400000 }\n"

/* A rig file that is wrong, and what must stand in the answer: the line, and what was meant. */
static void mistakes_in_a_rig(void)
{
    static const struct {
        const char *name;
        const char *rig;
        const char *answer;
    } rows[] = {
        { "misspelt option", BUS "sensor a {\n part = \"TMP102\"\n adress = 0x48\n}",
          "x.rig:4: there is no 'adress' here; did you mean 'address'?" },
        { "no UTF-8", "# a\nboard { name = \"caf\351\" }\n",
          "x.rig:2: a character here is no UTF-8" },
        { "a control character", "board { name = \"\033[31m\" }\n", "x.rig:1: a character here" },
        { "cut off", BUS "sensor a { part = \"TMP102\" address = 0x48\n",
          "the file ends within 'sensor a', whose '}' is missing" },
        { "cut off further in",
          BUS "sensor a { part = \"TMP102\" address = 0x48 channel temperature { jump = 1",
          "the file ends within 'channel temperature'" },
        { "misspelt section", "bord { }\n",
          "x.rig:1: there is no 'bord' here; did you mean 'board'" },
        { "nothing like it", "quay { }\n", "known: board, part, bus, sensor, derive, log" },
        { "misspelt part", BUS "sensor a {\n part = \"TMP12\"\n}",
          "x.rig:3: the catalogue has no part 'TMP12'; did you mean 'TMP102'?" },
        { "unknown part", BUS "sensor a {\n part = \"ZZZ\"\n}",
          "'pintle parts' lists what it has" },
        { "no part", BUS "sensor a {\n address = 0x48\n}", "sensor 'a' names no part" },
        { "no address", BUS "sensor a {\n part = \"SHT31\"\n}",
          "sensor 'a' has no address; a SHT31 sits at 0x44 (ADDR to VSS) or 0x45 (ADDR to VDD)" },
        { "wrong address", BUS "sensor a {\n part = \"BME280\"\n address = 0x48\n}",
          "x.rig:4: sensor 'a': a BME280 cannot sit at 0x48; it sits at 0x76 (SDO to GND)" },
        { "8-bit address", BUS "sensor a {\n part = \"BME280\"\n address = 0xec\n}",
          "x.rig:4: sensor 'a': 0xec looks like the 8-bit form of an address; write the 7-bit one, "
          "0x76" },
        { "two on one address",
          WORLD BUS "sensor a {\n part = \"TMP102\"\n address = 0x48\n}\nsensor b {\n part = "
                    "\"TMP102\"\n address = 0x48\n}",
          "x.rig:8: sensors 'a' and 'b' both sit at 0x48 on bus 'main'; 'pintle wiring' says" },
        { "one name twice",
          BUS "sensor a {\n part = \"TMP102\"\n address = 0x48\n}\nsensor a {\n part = "
              "\"TMP102\"\n address = 0x49\n}",
          "there is a sensor 'a' already" },
        { "no such bus", BUS "sensor a { part = \"TMP102\" address = 0x48 bus = \"other\" }",
          "is on bus 'other', which no bus section before it describes" },
        { "no bus at all", "sensor a { part = \"TMP102\" address = 0x48 }",
          "which no bus section before it describes" },
        { "address in words", BUS "sensor a { address = gnd }",
          "x.rig:2: 'address' takes a whole number such as 8 or 0x48" },
        { "no such setting", BUS "sensor a { part = \"TMP102\" address = 0x48 set = {\"gain=2\"} }",
          "TMP102 has no setting 'gain'; it has mode, format, rate, faults" },
        { "no such option",
          BUS "sensor a { part = \"TMP102\" address = 0x48 set = {\"rate=2Hz\"} }",
          "TMP102: 'rate' cannot be '2Hz'; it can be 0.25Hz, 1Hz, 4Hz, 8Hz" },
        { "a setting of a part with none",
          BUS "sensor a { part = \"DS3231\" address = 0x68 set = {\"rate=2Hz\"} }", "it has none" },
        { "no assignment", BUS "sensor a { part = \"TMP102\" address = 0x48 set = {\"rate\"} }",
          "'rate' sets nothing; write NAME=VALUE" },
        { "no such channel",
          BUS "sensor a { part = \"TMP102\" address = 0x48 channel humidity { } }",
          "a TMP102 has no channel 'humidity'" },
        { "a unit of something else",
          BUS "sensor a { part = \"TMP102\" address = 0x48 channel temperature { unit = \"Pa\" } }",
          "temperature is not measured in 'Pa'; there are degC, degF, K." },
        { "a unit of time",
          BUS "sensor a { part = \"DS3231\" address = 0x68 channel time { unit = \"s\" } }",
          "time is not measured in 's'; it is shown as it is" },
        { "a cable below zero", "bus b { cable = -1 }", "'cable' cannot be -1" },
        { "another depth", "board { depth = \"atoms\" }", "there is no depth 'atoms'" },
        { "another kind of bus", "bus b { kind = \"can\" }",
          "there are i2c, spi, onewire and serial" },
        { "SPI too fast", "bus b { kind = \"spi\" speed = 50000000 }", "SPI runs at 1000 to" },
        { "no select", SPI "sensor a { part = \"LIS331HH\" }",
          "'a' has no select pin; add select" },
        { "address on SPI", SPI "sensor a { part = \"LIS331HH\" address = 3 select = \"P1\" }",
          "on a bus of kind SPI it has a select pin and no address" },
        { "I2C part on SPI", SPI "sensor a { part = \"TMP102\" address = 0x48 }",
          "a TMP102 speaks I2C, and bus 'main' is SPI" },
        { "no code", LINE "sensor a { part = \"DS18B20\" }", "'a' has no code; add code" },
        { "half a code", LINE "sensor a { part = \"DS18B20\" code = \"28.4c1e\" }",
          "is no 1-Wire code; it has 16 hexadecimal digits" },
        { "a digit wrong", LINE "sensor a { part = \"DS18B20\" code = \"284c1e7207000011\" }",
          "its CRC, should be 1d and are 11; a digit is wrong" },
        { "another family", LINE "sensor a { part = \"DS18B20\" code = \"22 4c1e72070000 96\" }",
          "the code is of family 22, and a DS18B20 has family 28" },
        { "a divider of three",
          SPI "sensor a { part = \"MCP3008\" select = \"1\" channel ch0 { divider = {1, 2, 3} } }",
          "'divider' takes two resistors" },
        { "a thermistor of one",
          SPI "sensor a { part = \"MCP3008\" select = \"1\" channel ch0 { thermistor = {1} } }",
          "'thermistor' takes three numbers" },
        { "both",
          SPI "sensor a { part = \"MCP3008\" select = \"1\"\n"
              "channel ch0 { thermistor = {1, 1, 1} divider = {1, 1} } }",
          "has a divider and a thermistor; it can have one" },
        { "a divider on a thermometer",
          BUS
          "sensor a { part = \"TMP102\" address = 0x48 channel temperature { divider = {1, 1} } }",
          "is for a converter's voltages; a TMP102 has none" },
        { "a thermometer renamed",
          BUS "sensor a { part = \"TMP102\" address = 0x48 channel temperature { as = \"t\" } }",
          "the channels of a TMP102 are worked out together" },
        { "no such input", SPI "sensor a { part = \"MCP3008\" select = \"1\" use = {\"ch8\"} }",
          "'use': a MCP3008 has no channel 'ch8'" },
        { "a name with a blank",
          SPI "sensor a { part = \"MCP3008\" select = \"1\" channel ch0 { as = \"a b\" } }",
          "a channel cannot be called 'a b'; a name has letters (a to z), digits, hyphens and" },
        { "a long name",
          SPI
          "sensor a { part = \"MCP3008\" select = \"1\" channel ch0 { as = \"twelve-long1\" } }",
          "too long for a channel's name: at most 11" },
        { "a sensor with a blank", BUS "\nsensor \"my cabin\" { part = \"TMP102\" address = 0x48 }",
          "x.rig:3: a sensor cannot be called 'my cabin'" },
        { "a sensor with a slash", BUS "sensor \"port/fwd\" { part = \"TMP102\" address = 0x48 }",
          "a sensor cannot be called 'port/fwd'" },
        { "a sensor with a dot", BUS "sensor a.b { part = \"TMP102\" address = 0x48 }",
          "a sensor cannot be called 'a.b'" },
        { "a sensor with no name", BUS "sensor \"\" { part = \"TMP102\" address = 0x48 }",
          "a sensor needs a name" },
        { "a bus with a comma", "bus \"a,b\" { }", "x.rig:1: a bus cannot be called 'a,b'" },
        { "a part with a bracket", "part \"X[1]\" { }", "a part cannot be called 'X[1]'" },
        { "one bus twice", "bus a { }\nbus a { }", "x.rig:2: there is a bus 'a' already" },
        { "one channel twice",
          BUS "sensor a { part = \"TMP102\" address = 0x48\nchannel temperature { jump = 1 }\n"
              "channel temperature { jump = 2 } }",
          "x.rig:4: there is a 'temperature' here already" },
        { "no number",
          BUS "sensor a { part = \"TMP102\" address = 0x48\nchannel temperature {\n"
              "gain = nan } }",
          "x.rig:4: 'gain' cannot be nan" },
        { "no gain",
          BUS "sensor a { part = \"TMP102\" address = 0x48 channel temperature { gain = 0 "
              "} }",
          "'gain' cannot be 0" },
        { "beyond all numbers",
          BUS "sensor a { part = \"TMP102\" address = 0x48 channel "
              "temperature { offset = 1e300 } }",
          "'offset' cannot be 1e+300; it takes a number" },
        { "infinite", "bus b { cable = inf }", "'cable' cannot be inf" },
        { "a prefix", "bus b {\npull-up = 4k7\n}",
          "x.rig:2: 'pull-up' takes a number such as 4700 or 0.5, with no unit and no prefix" },
        { "frozen below zero",
          BUS "sensor a { part = \"TMP102\" address = 0x48 channel temperature { frozen = -1 } }",
          "'frozen' cannot be -1" },
        { "a jump below zero",
          BUS "sensor a { part = \"TMP102\" address = 0x48 channel temperature { jump = -1 } }",
          "'jump' cannot be -1" },
        { "no reference",
          SPI "sensor a { part = \"MCP3008\" select = \"1\" set = { \"reference=0\" } }",
          "'reference' (voltage at the reference input) is a number from 0.25 to 5.5 V" },
        { "bus too fast", "bus b { speed = 5000000 }", "cannot run at 5000000 Hz" },
        { "no interval", "log { every = \"often\" }", "'often' is no interval" },
        { "unit missing", "log { every = \"20\" }", "'20' is no interval" },
        { "brace missing", BUS "sensor a {\n part = \"TMP102\"\n address = 0x48\n", "x.rig:" },
        { "no bus, no sensor", "board { }", "x.rig: it describes no bus" },
        { "no world", BUS "sensor a { part = \"TMP102\" address = 0x48 }", "it names no world" },
        { "world file missing",
          "board { world = \"no.world\" }\n" BUS "sensor a { part = \"TMP102\" address = 0x48 }",
          "there is no world file" },
    };
    char *folder = scratch_make();
    for (size_t i = 0; i < COUNT(rows); i++) {
        file_write(folder, "x.rig", rows[i].rig);
        struct said said = tool(folder, "scan --rig x.rig");
        EXPECT(strstr(said.err, rows[i].answer) != NULL, "%s: %s", rows[i].name, said.err);
        EXPECT(said.status == 2 || said.status == 3, "%s: status %d", rows[i].name, said.status);
        EXPECT(said.out[0] == '\0', "%s: nothing on stdout", rows[i].name);
        EXPECT(strchr(said.err, '\n') == said.err + strlen(said.err) - 1, "%s: one sentence: %s",
               rows[i].name, said.err);
        said_free(&said);
    }
    file_write(folder, "x.rig", WORLD BUS);
    file_write(folder, "w", "");
    expect_said(folder, "read --rig x.rig", 2, "the rig has no sensor yet; 'pintle scan' shows");
    expect_said(folder, "log --rig x.rig", 2, "the rig has no sensor yet");
    file_write(folder, "x.rig", "board { world = \"w\" }\n" LINE);
    file_write(folder, "w", "chip a { part = \"DS18B20\" code = \"280102030405069e\" }");
    expect_said(folder, "scan --rig x.rig", 0, "280102030405069e DS18B20   -          found");
    file_write(folder, "w", "");
    file_write(folder, "x.rig", "board { world = \"w\" }\n" SPI);
    expect_said(folder, "scan --rig x.rig", 0, "the rig names no select pin");
    scratch_remove(folder);
}

static void mistakes_in_a_world(void)
{
    static const struct {
        const char *name;
        const char *world;
        const char *answer;
    } rows[] = {
        { "no time", "began = \"yesterday\"\n", "w:1: 'yesterday' is no time" },
        { "no point", "quantity q {\n points = { \"6h\" }\n}\n", "'6h' is no point" },
        { "no number", "quantity q { points = { \"6h warm\" } }\n", "'warm' is no number" },
        { "no duration", "quantity q { points = { \"noon 5\" } }\n", "'noon' is no duration" },
        { "out of order", "quantity q { points = { \"6h 5\", \"5h 6\" } }\n",
          "not in order of time" },
        { "no such chip", "chip c { part = \"TMP103\" }\n", "there is no simulated 'TMP103'" },
        { "no such bus", "chip c { part = \"TMP102\" bus = \"b\" }\n",
          "a bus that the rig does not" },
        { "no such quantity", "chip c { part = \"TMP102\" feels = { \"temperature=q\" } }\n",
          "with a quantity described above" },
        { "does not feel it",
          "quantity q { level = 5 }\nchip c { part = \"TMP102\" feels = { \"light=q\" } }\n",
          "a simulated TMP102 does not feel 'light'" },
        { "no error", "chip c { part = \"TMP102\" errors = { \"light=1\" } }\n",
          "'light=1': a simulated TMP102 has no such input" },
        { "an error in words", "chip c { part = \"TMP102\" errors = { \"temperature=much\" } }\n",
          "'much' is no number" },
        { "an error of none", "chip c { part = \"TMP102\" errors = { \"temperature=nan\" } }\n",
          "'nan' is no number" },
        { "an endless level", "quantity q {\n level = inf\n}\n", "w:2: 'level' cannot be inf" },
        { "an address of 8 bits", "chip c { part = \"TMP102\" address = 0x148 }\n", "up to 0x7f" },
        { "a chip of another bus", "chip c { part = \"LIS331HH\" select = \"P1\" }\n",
          "a simulated LIS331HH cannot sit on bus 'main', which is I2C" },
        { "another power", "chip c { part = \"TMP102\" power = \"solar\" }\n",
          "a chip's power is external or parasite, not 'solar'" },
        { "no clock", "chip c { part = \"TMP102\" address = 0x48 set = true }\n", "is no clock" },
        { "no such fault", "chip c { part = \"TMP102\" }\nfault c { kind = \"lightning\" }\n",
          "'lightning' is no kind of what can go wrong; there are unplugged, brown-out, silent" },
        { "no such trouble", "trouble main { kind = \"gremlins\" }\n", "data-low, clock-low" },
        { "lines of no bus", "lines other { }\n", "a bus of the rig, with a pull-up in ohms" },
        { "no pull-up at all", "lines main { pull-up = 0 }\n", "above 0" },
        { "a fault that ends first",
          "chip c { part = \"TMP102\" }\nfault c { kind = \"silent\" from = \"2h\" to = \"1h\" }\n",
          "'to' (1h) is not after 'from' (2h)" },
        { "a trouble of no length", "trouble main { kind = \"noise\" from = \"1h\" to = \"1h\" }\n",
          "'to' (1h) is not after 'from' (1h)" },
        { "a step beyond every calendar", "clock-steps = { \"10min +3000000d\" }\n",
          "each by 100 years at most" },
        { "fault of nobody", "fault c { kind = \"silent\" }\n", "a chip described above" },
        { "meddled alone", "chip c { part = \"TMP102\" }\nfault c { kind = \"meddled\" }\n",
          "only on a bus with shared = true" },
        { "trouble of no bus", "trouble other { kind = \"noise\" }\n",
          "the name of a bus of the rig" },
        { "one quantity twice",
          "quantity q { level = 1 }\nquantity q { level = 2 }\n"
          "chip c { part = \"TMP102\" feels = { \"temperature=q\" } }\n",
          "w:2: there is a quantity 'q' already" },
        { "one chip twice", "chip c { part = \"TMP102\" }\nchip c { part = \"SHT31\" }\n",
          "w:2: there is a chip 'c' already" },
        { "lines twice", "lines main { }\nlines main { }\n",
          "w:2: there is a description of the lines 'main' already" },
        { "no step", "clock-steps = { \"10min\" }\n", "'10min' is no step of the clock" },
        { "steps out of order", "clock-steps = { \"10min +1h\", \"5min -1h\" }\n",
          "'5min -1h' is no step of the clock" },
    };
    char *folder = scratch_make();
    file_write(folder, "x.rig",
               "board { world = \"w\" }\n" BUS "sensor a { part = \"TMP102\" address = 0x48 }\n");
    for (size_t i = 0; i < COUNT(rows); i++) {
        file_write(folder, "w", rows[i].world);
        struct said said = tool(folder, "scan --rig x.rig");
        EXPECT(strstr(said.err, rows[i].answer) != NULL, "%s: %s", rows[i].name, said.err);
        EXPECT(said.status == 2, "%s: status %d", rows[i].name, said.status);
        said_free(&said);
    }
    scratch_remove(folder);
}

/* Of faults and troubles every one counts, also a second one of the same chip. */
static void every_fault_counts(void)
{
    static const struct pintle_sim_fault wanted[] = {
        { PINTLE_SIM_SILENT, 0, 0, 1000000, 0, 0 },
        { PINTLE_SIM_UNPLUGGED, 1, 0, 2000000, 0, 0 },
        { PINTLE_SIM_FROZEN, 0, 0, 3000000, 0, 0 },
        { PINTLE_SIM_LINES, 0, 0, 4000000, PINTLE_SIM_NOISE, 9 },
        { PINTLE_SIM_OFF, 0, 0, 5000000, 0, 9 },
        { PINTLE_SIM_CUT, 0, 0, 6000000, 0, 0 },
    };
    char *folder = scratch_make();
    char *path = g_build_filename(folder, "x.rig", NULL);
    struct pintle_problem problem = { 0 };
    file_write(folder, "x.rig", "board { world = \"w\" }\nbus main { }\n");
    file_write(
        folder, "w",
        "chip c { part = \"TMP102\" }\nchip d { part = \"SHT31\" }\n"
        "fault c { kind = \"silent\" to = \"1s\" }\nfault d { kind = \"brown-out\" to = \"2s\" }\n"
        "fault c { kind = \"frozen\" to = \"3s\" }\n"
        "trouble main { kind = \"noise\" to = \"4s\" }\n"
        "trouble main { kind = \"off\" to = \"5s\" }\nfault c { kind = \"cut\" to = \"6s\" }\n");
    struct pintle_rig *rig = pintle_rig_load(path, &problem);
    struct pintle_station *station = rig ? pintle_station_open(rig, 0, &problem) : NULL;
    CU_ASSERT_PTR_NOT_NULL_FATAL(station);
    EXPECT(pintle_station_sim(station)->faults == COUNT(wanted), "%u faults",
           pintle_station_sim(station)->faults);
    for (size_t i = 0; i < COUNT(wanted) && i < pintle_station_sim(station)->faults; i++) {
        const struct pintle_sim_fault *is = &pintle_station_sim(station)->fault[i];
        EXPECT(is->kind == wanted[i].kind && is->chip == wanted[i].chip
                   && is->to_us == wanted[i].to_us && is->trouble == wanted[i].trouble
                   && is->amount == wanted[i].amount,
               "fault %zu", i);
    }
    pintle_station_free(station);
    pintle_rig_free(rig);
    g_free(path);
    scratch_remove(folder);
}

/* A simulated converter measures against the reference that the rig describes, or the one that the
 * world feeds. */
/* Wherever a rig is cut off within its braces, it is refused. Braces are counted by another rule
 * than the reader's: the built-in rig has none in words or comments. */
static void cut_off(void)
{
    struct pintle_problem problem = { 0 };
    struct pintle_rig *demo = pintle_rig_demo(&problem);
    char *text = g_strdup(demo->text);
    int depth = 0;
    unsigned within = 0;
    for (size_t length = strlen(text); length > 0; length--) {
        char gone = text[length - 1];
        text[length - 1] = '\0';
        depth += (gone == '}') - (gone == '{');
        if (depth > 0) {
            struct pintle_problem why = { 0 };
            struct pintle_rig *rig = pintle_rig_parse("x.rig", text, &why);
            EXPECT(!rig && why.text[0], "cut off after %zu bytes it is read", length - 1);
            pintle_rig_free(rig);
            within++;
        }
    }
    EXPECT(depth == 0 && within > 1000, "%d, %u", depth, within);
    g_free(text);
    pintle_rig_free(demo);
}

static void the_reference_is_the_rigs(void)
{
    static const struct {
        const char *reference, *fed;
        double volts;
    } rows[] = { { "", "", 2 },
                 { "set = { \"reference=5.0\" }", "", 2 },
                 { "", ", \"reference=five\"", 1.32 } };
    char *folder = scratch_make();
    for (size_t i = 0; i < COUNT(rows); i++) {
        char *rig = g_strdup_printf("board { world = \"w\" }\n" SPI
                                    "sensor a { part = \"MCP3008\" select = \"P1\" %s }\n",
                                    rows[i].reference);
        char *world = g_strdup_printf("quantity two { level = 2 }\nquantity five { level = 5 }\n"
                                      "chip c { part = \"MCP3008\" select = \"P1\"\n"
                                      " feels = { \"ch0=two\"%s } errors = { \"ch0=0\" } }\n",
                                      rows[i].fed);
        file_write(folder, "x.rig", rig);
        file_write(folder, "w", world);
        struct said said = tool(folder, "read --rig x.rig --format csv");
        const char *at = strstr(said.out, "a,ch0,");
        EXPECT_NEAR(at ? g_ascii_strtod(at + 6, NULL) : 0, rows[i].volts, 0.012, rows[i].reference);
        said_free(&said);
        g_free(world);
        g_free(rig);
    }
    scratch_remove(folder);
}

/* Every option of a rig file arrives where it belongs. */
static void a_whole_rig(void)
{
    char *folder = scratch_make();
    char *path = g_build_filename(folder, "bench.rig", NULL);
    struct pintle_problem problem = { 0 };
    file_write(folder, "w", "");
    file_write(folder, "bench.rig",
               "board { name = \"bench\" port = \"sim\" world = \"w\" }\n"
               "bus one { speed = 400000 }\nbus two { }\n"
               "sensor warm { part = \"tmp102\" bus = \"two\" address = 0x4b\n"
               " set = { \"FORMAT=13-bit\", \"mode=one-shot\" }\n"
               " channel temperature { gain = 1.01 offset = -0.5 jump = 3 frozen = 9 } }\n"
               "sensor also { part = \"SHT31\" address = 0x45 }\n"
               "log { every = \"1h30m\" folder = \"logs\" }\n");
    struct pintle_rig *rig = pintle_rig_load(path, &problem);
    EXPECT(rig != NULL, "loads: %s", problem.text);
    if (rig) {
        const struct pintle_rig_sensor *warm = &rig->sensor[0];
        CU_ASSERT_STRING_EQUAL(rig->board, "bench");
        CU_ASSERT_EQUAL(rig->buses, 2);
        CU_ASSERT_EQUAL(rig->bus[0].speed_hz, 400000);
        CU_ASSERT_EQUAL(rig->bus[1].speed_hz, 100000);
        CU_ASSERT_EQUAL(warm->bus, 1);
        CU_ASSERT_EQUAL(warm->place.address, 0x4b);
        CU_ASSERT_EQUAL(warm->chosen.settings[PINTLE_TMP102_FORMAT], PINTLE_TMP102_13_BIT);
        CU_ASSERT_EQUAL(warm->chosen.settings[PINTLE_TMP102_MODE], PINTLE_TMP102_ONE_SHOT);
        EXPECT_NEAR(warm->stage[0].stage.numbers[2], 1.01, 1e-6, "gain");
        EXPECT_NEAR(warm->stage[0].stage.numbers[1], -0.5, 1e-6, "offset");
        CU_ASSERT_EQUAL(warm->stages, 1);
        CU_ASSERT_EQUAL(warm->channel[0].frozen, 9);
        CU_ASSERT_EQUAL(rig->sensor[1].bus, 0);
        CU_ASSERT_EQUAL(rig->sensor[1].stages, 0);
        CU_ASSERT_EQUAL(rig->every_us, 5400000000);
        EXPECT(g_str_has_suffix(rig->runs, "/logs"), "runs in %s", rig->runs);
    }
    pintle_rig_free(rig);
    g_free(path);
    scratch_remove(folder);
}

static void durations(void)
{
    static const struct {
        const char *text;
        int64_t us; /* -1: none */
    } rows[] = {
        { "20 s", 20000000 },
        { "20s", 20000000 },
        { "500 ms", 500000 },
        { "1h30m", 5400000000 },
        { "1d 6h", 108000000000 },
        { "0.5 min", 30000000 },
        { "2 days", 172800000000 },
        { "1 day 3 sec", 86403000000 },
        { "2 m", 120000000 },
        { "", -1 },
        { "20", -1 },
        { "s", -1 },
        { "-5 s", -1 },
        { "5 fortnights", -1 },
        { "5 s and more", -1 },
        { "1e99 d", -1 },
        { "0 s", 0 },
    };
    for (size_t i = 0; i < COUNT(rows); i++) {
        int64_t us = -1;
        bool ok = pintle_duration_parse(rows[i].text, &us);
        EXPECT(ok == (rows[i].us >= 0), "'%s' is%s one", rows[i].text, ok ? "" : " not");
        EXPECT(!ok || us == rows[i].us, "'%s': %lld us", rows[i].text, (long long)us);
    }
}

/* Kept corrections come back to the sensor that they belong to, and to no other. */
static char *last_remark;

static void remember(const char *sentence)
{
    g_free(last_remark);
    last_remark = g_strdup(sentence);
}

static void calibrations_are_kept(void)
{
    char *folder = scratch_make();
    char *path = g_build_filename(folder, "x.rig", NULL);
    struct pintle_problem problem = { 0 };
    struct pintle_pair pairs[] = { { 10, 11 }, { 20, 21 }, { 30, 31 } };
    struct pintle_calibration fit;
    pintle_calibration_init(&fit, PINTLE_METHOD_LINE);
    fit.pairs = pairs;
    fit.pair_count = 3;
    file_write(folder, "w", "");
    file_write(folder, "x.rig",
               "board { world = \"w\" }\n" BUS "sensor a { part = \"TMP102\" address = 0x48 }\n");
    struct pintle_rig *rig = pintle_rig_load(path, &problem);
    CU_ASSERT_PTR_NOT_NULL_FATAL(rig);
    CU_ASSERT_TRUE(pintle_calibration_fit(&fit, &problem));
    EXPECT_NEAR(fit.numbers[2], 1, 1e-6, "gain");
    EXPECT_NEAR(fit.numbers[1] - fit.numbers[0], 1, 1e-5, "offset");
    EXPECT_NEAR(fit.residual, 0, 1e-6, "residual");
    CU_ASSERT_TRUE(pintle_calibration_keep(rig, 0, 0, &fit, 1781222400000000, NULL, &problem));
    CU_ASSERT_TRUE(pintle_calibration_keep(rig, 0, 0, &fit, 1781222400000000, NULL, &problem));
    char *text = file_text(folder, "x.calibration.json");
    const char *first = strstr(text, "\"sensor\"");
    const char *second = first ? strstr(first + 1, "\"sensor\"") : NULL;
    EXPECT(second && strstr(text, "\"in_use\": false") < second
               && strstr(second, "\"replaces\": 1"),
           "a second one takes the place of the first: %s", text);
    EXPECT(strstr(text, "2026-06-12T00:00:00Z") != NULL, "dated: %s", text);
    g_free(text);
    CU_ASSERT_EQUAL(rig->sensor[0].stages, 0);
    CU_ASSERT_TRUE(pintle_calibration_load(rig, remember, &problem));
    CU_ASSERT_EQUAL(rig->sensor[0].stages, 1);
    CU_ASSERT_PTR_NULL(last_remark);
    pintle_rig_free(rig);

    file_write(folder, "x.rig",
               "board { world = \"w\" }\n" BUS "sensor a { part = \"SHT31\" address = 0x44 }\n");
    rig = pintle_rig_load(path, &problem);
    CU_ASSERT_PTR_NOT_NULL_FATAL(rig);
    CU_ASSERT_TRUE(pintle_calibration_load(rig, remember, &problem));
    CU_ASSERT_EQUAL(rig->sensor[0].stages, 0);
    EXPECT(last_remark && strstr(last_remark, "'a' (TMP102) is not used"), "remark: %s",
           last_remark ? last_remark : "none");
    file_write(folder, "x.calibration.json", "{ half");
    CU_ASSERT_FALSE(pintle_calibration_load(rig, remember, &problem));
    EXPECT(strstr(problem.text, "x.calibration.json:1: this is no calibration file") != NULL, "%s",
           problem.text);
    pintle_rig_free(rig);
    g_free(last_remark);
    last_remark = NULL;
    g_free(path);
    scratch_remove(folder);
}

/* Text put together at random from pieces of real files, so that the depths are reached. */
static char *random_text(const char *const *pieces, size_t count)
{
    GString *text = g_string_new(NULL);
    for (int k = rand() % 20; k >= 0; k--) {
        g_string_append_printf(text, "%s ", pieces[(size_t)rand() % count]);
    }
    return g_string_free(text, FALSE);
}

/* Anything at all in the place of a rig file: an answer, never a crash. */
static void any_rig_text(void)
{
    static const char *const pieces[] = {
        "sensor a {",
        "}",
        "part = \"TMP102\"",
        "address = 0x48",
        "bus b {",
        "\"",
        "set = {",
        "\"x\"",
        "channel temperature {",
        "gain = 1e999",
        "=",
        "log {",
        "{",
        "\n",
        "every = \"1 s\"",
        "board {",
        "#",
        "/*",
        "world = ",
        "\"w\"",
        "include(\"x.rig\")",
        "address = -1",
        "\\",
        "${HOME}",
        "kind = \"spi\"",
        "kind = \"onewire\"",
        "select = \"P\"",
        "code = \"284c1e720700001d\"",
        "part = \"MCP3008\"",
        "use = { \"ch1\", \"ch0\" }",
        "channel ch0 { divider = { 1, 2 } as = \"v\" }",
        "channel ch1 { thermistor = { 1, 2, 3 } }",
        "set = { \"reference=5\" }",
        "number n { range = { 1, 2 } }",
        "checksum w { }",
        "inputs = { \"a\" }",
        "measure = { \"for a read R until byte 0 is 1 within 1 s\" }",
        "row a { drop = 1 }",
        "part X { addresses = { 0x48 }",
        "register R { address = 1 width = 2 field F { bit = 1 } }",
        "measure = { \"read R 3\" }",
        "channel c { quantity = \"voltage\" range = { 0, 1 } }",
        "part = \"X\"",
        "bus = \"spi\"",
        "setting s { register = \"R\" options = { \"a=1\" } }",
        "start = { \"write R 1\" }"
    };
    char *folder = scratch_make();
    char *path = g_build_filename(folder, "x.rig", NULL);
    file_write(folder, "w", "");
    srand(11);
    for (int i = 0; i < 5000 / (int)one_in(); i++) {
        struct pintle_problem problem = { 0 };
        char *text = random_text(pieces, COUNT(pieces));
        g_file_set_contents(path, text, -1, NULL);
        struct pintle_rig *rig = pintle_rig_load(path, &problem);
        if (!rig && problem.text[0] == '\0') {
            EXPECT(0, "no answer to: %s", text);
        }
        pintle_rig_free(rig);
        g_free(text);
    }
    g_free(path);
    scratch_remove(folder);
}

/* Likewise for a world script, a calibration file and a file of pairs. */
static void any_other_text(void)
{
    static const char *const world[] = { "quantity q {",
                                         "}",
                                         "points = { \"0h 1\", \"1h 2\" }",
                                         "swing = 1",
                                         "period = \"1h\"",
                                         "chip c { part = \"TMP102\" }",
                                         "chip d {",
                                         "part = \"DS3231\"",
                                         "address = 0x68",
                                         "set = true",
                                         "fault c { kind = \"silent\" }",
                                         "feels = { \"temperature=q\" }",
                                         "errors = { \"temperature=x\" }",
                                         "seed = 99",
                                         "began = \"2026-06-12T00:00:00Z\"",
                                         "\"" };
    static const char *const json[] = { "{",
                                        "}",
                                        "[",
                                        "]",
                                        ",",
                                        ":",
                                        "\"corrections\"",
                                        "\"sensor\"",
                                        "\"a\"",
                                        "\"gain\"",
                                        "1e400",
                                        "null",
                                        "\"part\"",
                                        "\"TMP102\"",
                                        "\"address\"",
                                        "72",
                                        "{\"corrections\": [{}, 5]}" };
    static const char *const pairs[] = { "1,2\n",   "x\n",      ",", "1e999,1\n",
                                         "3;4\r\n", "-5, 6 \n", "\n" };
    char *folder = scratch_make();
    char *path = g_build_filename(folder, "x.rig", NULL);
    char *pairs_path = g_build_filename(folder, "pairs.csv", NULL);
    unsigned good = 0;
    file_write(folder, "x.rig",
               "board { world = \"w\" }\n" BUS "sensor a { part = \"TMP102\" address = 0x48 }\n");
    srand(13);
    for (int i = 0; i < 1500 / (int)one_in(); i++) {
        struct pintle_problem problem = { 0 };
        char *texts[] = { random_text(world, COUNT(world)), random_text(json, COUNT(json)),
                          random_text(pairs, COUNT(pairs)) };
        file_write(folder, "w", texts[0]);
        file_write(folder, "x.calibration.json", texts[1]);
        file_write(folder, "pairs.csv", texts[2]);
        struct pintle_rig *rig = pintle_rig_load(path, &problem);
        struct pintle_station *station = pintle_station_open(rig, 0, &problem);
        bool answered = station || problem.text[0];
        good += station != NULL;
        pintle_station_free(station);
        problem = (struct pintle_problem){ 0 };
        answered = answered && (pintle_calibration_load(rig, NULL, &problem) || problem.text[0]);
        unsigned count = 0;
        problem = (struct pintle_problem){ 0 };
        struct pintle_pair *taken = pintle_calibration_pairs(pairs_path, &count, &problem);
        answered = answered && (taken || problem.text[0]);
        if (!answered) {
            EXPECT(0, "no answer to %s / %s / %s", texts[0], texts[1], texts[2]);
        }
        pintle_host_free(taken);
        pintle_rig_free(rig);
        for (size_t k = 0; k < COUNT(texts); k++) {
            g_free(texts[k]);
        }
    }
    EXPECT(good > 10 / one_in(), "%u worlds were whole", good);
    g_free(pairs_path);
    g_free(path);
    scratch_remove(folder);
}

/* One of these values for a member of an entry, or the member left away. */
static void put_member(GString *text, const char *name, const char *const *values, size_t count)
{
    size_t which = (size_t)rand() % (count + 1);
    if (which < count) {
        g_string_append_printf(text, ", \"%s\": %s", name, values[which]);
    }
}

/* Entries with members of every kind, some of them nonsense: they are refused, or what they make of
 * a reading is a number or marked. */
static void any_entries(void)
{
    static const char *const kinds[] = { "\"polynomial\"", "\"table\"", "\"axes\"", "\"heat\"",
                                         "\"thermal\"",    "\"none\"",  "7" };
    static const char *const numbers[] = { "[0, 1, 2]",
                                           "[0, 1, 1e300]",
                                           "[1, 2, 3, 4]",
                                           "[0.2]",
                                           "[20, 0.1, 0]",
                                           "[]",
                                           "[\"x\", 1, 1]",
                                           "{}",
                                           "[1,2,3,1,0,0,0,1,0,0,0,1]",
                                           "[5, 5, 5, 6]" };
    static const char *const spans[] = { "[0, 40]", "[40, 0]", "[1e300, 2]", "null", "[1]" };
    static const char *const seconds[] = { "\"b.temperature\"", "\"a.temperature\"", "\"b\"", "5",
                                           "\"c.none\"" };
    static const char *const channels[] = { "\"temperature\"", "\"humidity\"", "3" };
    static const char *const ints[] = { "1", "-1", "99999999999999", "\"1\"" };
    static const char *const reals[] = { "0.1", "-0.1", "null", "1e400", "\"x\"" };
    char *folder = scratch_make();
    char *path = g_build_filename(folder, "x.rig", NULL);
    unsigned used = 0;
    file_write(folder, "w", "");
    file_write(folder, "x.rig",
               "board { world = \"w\" }\n" BUS "sensor a { part = \"TMP102\" address = 0x48 }\n"
               "sensor b { part = \"TMP102\" address = 0x49 }\n");
    srand(17);
    for (int i = 0; i < 5000 / (int)one_in(); i++) {
        struct pintle_problem problem = { 0 };
        GString *text = g_string_new("{\"format\": \"pintle calibration 2\", \"corrections\": [{"
                                     "\"sensor\": \"a\", \"part\": \"TMP102\", \"bus\": \"main\", "
                                     "\"address\": 72, \"in_use\": true");
        g_string_append_printf(text, ", \"channel\": %s", channels[rand() % 8 ? 0 : rand() % 3]);
        put_member(text, "is", kinds, COUNT(kinds));
        put_member(text, "numbers", numbers, COUNT(numbers));
        put_member(text, "span", spans, COUNT(spans));
        put_member(text, "second", seconds, COUNT(seconds));
        put_member(text, "number", ints, COUNT(ints));
        put_member(text, "samples", ints, COUNT(ints));
        put_member(text, "uncertainty", reals, COUNT(reals));
        put_member(text, "residual", reals, COUNT(reals));
        put_member(text, "date", ints, COUNT(ints));
        g_string_append(text, "}]}");
        file_write(folder, "x.calibration.json", text->str);
        struct pintle_rig *rig = pintle_rig_load(path, &problem);
        bool loaded = pintle_calibration_load(rig, NULL, &problem);
        struct pintle_station *station = loaded ? pintle_station_open(rig, 0, &problem) : NULL;
        if (rig->sensor[0].stages > 0 && station) {
            const struct pintle_reading *r = &station->turn[0].sample.channel[0];
            used++;
            (void)!pintle_station_read(station, 0, false);
            EXPECT(isfinite(r->value) || !pintle_reading_good(r), "%s", text->str);
        }
        EXPECT(station || problem.text[0], "no answer to %s", text->str);
        pintle_station_free(station);
        pintle_rig_free(rig);
        g_string_free(text, TRUE);
    }
    EXPECT(used > 30 / one_in(), "%u were used", used);
    g_free(path);
    scratch_remove(folder);
}

void add_rig_suite(void)
{
    SUITE("rig", { "cut off", cut_off }, { "mistakes in a rig file", mistakes_in_a_rig },
          { "mistakes in a world script", mistakes_in_a_world }, { "a whole rig", a_whole_rig },
          { "every fault counts", every_fault_counts },
          { "the reference is the rig's", the_reference_is_the_rigs }, { "durations", durations },
          { "calibrations are kept", calibrations_are_kept }, { "any rig text", any_rig_text },
          { "any other text", any_other_text }, { "any entries", any_entries });
}
