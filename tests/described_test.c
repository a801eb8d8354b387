/* Parts that a rig file describes itself: the example's two, in every command, and what each
 * mistake in such a description is answered with. */
#include "support.h"

static void in_every_command(void)
{
    static const struct {
        const char *arguments;
        int status;
        const char *text;
    } rows[] = {
        { "scan", 0, "0x36  AS5600    rudder     proven" },
        { "scan", 0, "select S1        MAX31855  exhaust    likely" },
        { "read --at 13min", 0, "deg " },
        { "read exhaust", 0, "temperature                 2" },
        { "read --format csv exhaust", 0, "exhaust,junction,1" },
        { "read --format senml rudder", 0, "\"n\":\"rudder.angle\",\"u\":\"deg\"" },
        { "regs rudder STATUS.MD", 0, "1 = yes" },
        { "regs rudder CONF.HYST=3", 0, "CONF             0x000c" },
        { "regs rudder --measure CONF.HYST", 0, "2 = 2" },
        { "regs rudder ANGLE", 2, "a AS5600 has no register 'ANGLE'" },
        { "parts AS5600", 0, "raw x 0.0878906 + 0" },
        { "parts", 0, "MAX31855  thermocouple converter" },
        { "convert AS5600 200800", 0, "180.00 deg" },
        { "convert AS5600 000800", 0, "raw 2048        bus" },
        { "convert AS5600 300800", 0, "raw 2048        range" },
        { "convert AS5600 200000", 0, "raw 0           good" },
        { "convert MAX31855 064d7f00", 0, "raw 403         bus" },
        /* 19-5793 table 4: +1600.00, +1000.00, +100.75, -0.25 and -250.00 degC; table 5: +127, -20
         */
        { "convert MAX31855 64000000", 0, "1600.00 degC" },
        { "convert MAX31855 3e800000", 0, "1000.00 degC" },
        { "convert MAX31855 064c7f00", 0, "100.75 degC" },
        { "convert MAX31855 fffc7f00", 0, "-0.25 degC" },
        { "convert MAX31855 f0607f00", 0, "-250.00 degC" },
        { "convert MAX31855 0000ec00", 0, "-20.0000 degC" },
        { "calibrate rudder.angle 183=180", 0, "not kept" },
        { "trace -- read", 0, "write 0b+ STATUS" },
        { "wiring", 0, "Nothing speaks against switching on." },
        { "log --for 3min --every 1min --into runs", 0, "3 records in" },
    };
    char *folder = scratch_make();
    const char *const files[] = { "rudder.rig", "rudder.world" };
    for (size_t i = 0; i < COUNT(files); i++) {
        char *text = file_text(SOURCE "/examples/described", files[i]);
        file_write(folder, files[i], text);
        g_free(text);
    }
    for (size_t i = 0; i < COUNT(rows); i++) {
        char **words = g_strsplit(rows[i].arguments, " ", 2);
        char *arguments =
            g_strdup_printf("%s --rig rudder.rig %s", words[0], words[1] ? words[1] : "");
        expect_said(folder, arguments, rows[i].status, rows[i].text);
        g_free(arguments);
        g_strfreev(words);
    }
    scratch_remove(folder);
}

#define HEAD "part X { addresses = { 0x40 }\n register R { address = 1 }\n"
#define CHANNEL " channel c { quantity = \"voltage\" bytes = 1 range = { 0, 1 } }\n"

static void mistakes(void)
{
    static const struct {
        const char *name;
        const char *part;
        const char *answer;
    } rows[] = {
        { "no address", "part X { measure = { \"fetch 1\" }" CHANNEL "}",
          "it needs its addresses" },
        { "8-bit address", "part X { addresses = { 0x90 } }", "0x90 is no 7-bit address" },
        { "a taken name", "part TMP102 { }", "is taken already" },
        { "a long name", "part TEMPERATURE99 { }", "its name has more than 11 letters" },
        { "no such bus", "part X { bus = \"can\" }", "there are i2c, spi and onewire" },
        { "no such mode", "part X { bus = \"spi\" mode = 4 }", "mode is a number from 0 to 3" },
        { "no such order", "part X { addresses = { 0x40 } order = \"middle\" }",
          "which byte comes first" },
        { "one supply", "part X { addresses = { 0x40 } supply = { 3 } }", "takes two voltages" },
        { "a wide register", HEAD " register S { address = 2 width = 5 } }",
          "a width of 1 to 4 bytes" },
        { "a field outside", HEAD " register S { address = 2 field F { bit = 6 bits = 3 } } }",
          "field 'F' of register 'S' does not lie within it" },
        { "a setting of nothing", HEAD " setting s { register = \"Q\" options = { \"a=1\" } } }",
          "setting 's' needs a register described above" },
        { "an option without code", HEAD " setting s { register = \"R\" options = { \"a\" } } }",
          "'a' is no option; write its name, its code" },
        { "an option with no time",
          HEAD " setting s { register = \"R\" options = { \"a=1 soon\" } } }",
          "'a=1 soon' is no option" },
        { "an initial option that is none",
          HEAD " setting s { register = \"R\" options = { \"a=1\" } initial = \"b\" } }",
          "has no option 'b'" },
        { "no such verb", HEAD " measure = { \"peek R\" } }", "measure: 'peek R' is no step" },
        { "no such register", HEAD " measure = { \"read Q\" } }", "'read Q' is no step" },
        { "reading as a proof", HEAD " identity = { \"read R\" } }",
          "identity: 'read R' is no step" },
        { "fetching at the start", HEAD " start = { \"fetch 1\" } }",
          "start: 'fetch 1' is no step" },
        { "a value beside its mask", HEAD " identity = { \"expect R 3 mask 2\" } }",
          "'expect R 3 mask 2' is no step" },
        { "a register twice", HEAD " register R { address = 2 } }", "there is a 'R' here already" },
        { "a register with a dot", HEAD " register R.S { address = 2 } }",
          "a register cannot be called 'R.S'" },
        { "a bit far away", HEAD " setting s { register = \"R\" bit = 40 options = { \"a=1\" } } }",
          "setting 's': register 'R' has no bit 40" },
        { "a code too large",
          HEAD " setting s { register = \"R\" bit = 6 options = { \"a=1\", \"b=4\" } } }",
          "its option 'b' does not fit into register 'R' at bit 6" },
        { "too much after power-up", HEAD " register S { address = 2 at-power-on = 256 } }",
          "register 'S' has no room for its at-power-on" },
        { "no such read bit", "part X { bus = \"spi\" read-bit = 0x100 }",
          "read-bit is a number from 0 to 255" },
        { "no family", "part X { bus = \"onewire\" }", "family is the first byte of its code" },
        { "words that are none", HEAD " measure = { \"read R 4\", \"check words\" }" CHANNEL "}",
          "it describes words with checksums that the bytes before are not" },
        { "ends out of reach",
          HEAD
          " measure = { \"read R\" } channel c { quantity = \"voltage\" bytes = 1 range = { 0, 1 } "
          "ends = { 0, 256 } } }",
          "ends takes the two integers at which its scale ends" },
        { "a mark of nothing",
          HEAD
          " measure = { \"read R\" } channel c { quantity = \"voltage\" bytes = 1 range = { 0, 1 } "
          "marks = { \"late when byte 0 is 1\" } } }",
          "'late when byte 0 is 1' is no mark" },
        { "a mark outside",
          HEAD
          " measure = { \"read R\" } channel c { quantity = \"voltage\" bytes = 1 range = { 0, 1 } "
          "marks = { \"stale when byte 1 is 1\" } } }",
          "'stale when byte 1 is 1' is no mark" },
        { "a power-on value too large",
          HEAD
          " measure = { \"read R\" } channel c { quantity = \"voltage\" bytes = 1 range = { 0, 1 } "
          "power-on = 300 } }",
          "power-on is an integer of its bits, not '300'" },
        { "a scale of nothing",
          HEAD
          " measure = { \"read R\" } channel c { quantity = \"voltage\" bytes = 1 range = { 0, 1 } "
          "scale = 0 } }",
          "it describes a channel whose scale is no number, or 0" },
        { "a range the wrong way round",
          HEAD
          " measure = { \"read R\" } channel c { quantity = \"voltage\" bytes = 1 range = { 1, 0 } "
          "} }",
          "it describes a channel whose quantity, decimals or range are none" },
        { "a poll for ever", HEAD " measure = { \"poll R 1\" } }", "'poll R 1' is no step" },
        { "too much", HEAD " measure = { \"read R 25\" } }", "at most 24 bytes are read" },
        { "no channel", HEAD " measure = { \"read R\" } }", "it needs 1 to 8 channels" },
        { "no quantity", HEAD " measure = { \"read R\" } channel c { range = { 0, 1 } } }",
          "'' is no quantity; there are temperature" },
        { "no range", HEAD " measure = { \"read R\" } channel c { quantity = \"voltage\" } }",
          "a range of two numbers in V" },
        { "beyond the block",
          HEAD " measure = { \"read R\" }\n"
               " channel c { quantity = \"voltage\" bytes = 2 range = { 0, 1 } } }",
          "does not lie within the 1 bytes that the measuring steps read" },
        { "scaled by nothing",
          HEAD
          " measure = { \"read R\" }\n"
          " channel c { quantity = \"voltage\" bytes = 1 range = { 0, 1 } scale-by = \"s\" } }",
          "scale-by names a setting" },
    };
    char *folder = scratch_make();
    for (size_t i = 0; i < COUNT(rows); i++) {
        file_write(folder, "x.rig", rows[i].part);
        struct said said = tool(folder, "parts --rig x.rig");
        EXPECT(strstr(said.err, rows[i].answer) != NULL, "%s: %s", rows[i].name, said.err);
        EXPECT(said.status == 2, "%s: status %d", rows[i].name, said.status);
        said_free(&said);
    }
    scratch_remove(folder);
}

/* Everything that a description can say, on a chip that the catalogue has too: both must read the
 * same. A BME280's temperature needs a polynomial no table has, so that a TMP102 and an LIS331HH
 * stand in, with their settings, polls, scales and byte orders. */
static const char twins[] =
    "board { world = \"w\" }\n"
    "part MYTEMP { addresses = { 0x48, 0x49 }\n"
    " register T { address = 0 width = 2 access = \"read\" }\n"
    " register C { address = 1 width = 2 }\n"
    " setting format { register = \"C\" bit = 4 options = { \"12-bit=0\", \"13-bit=1\" } }\n"
    " setting rate { register = \"C\" bit = 6 options = { \"1Hz=1 1s\", \"8Hz=3 125 ms\" } initial "
    "= \"8Hz\" }\n"
    " identity = { \"expect C 0x6000 mask 0x6000\" }\n"
    " start = { \"write C 0x6000\", \"wait 36 ms and settings\" }\n"
    " measure = { \"read T\" }\n"
    " channel temperature { quantity = \"temperature\" bytes = 2 drop = 3 signed = true\n"
    "  scale-by = \"format\" scales = { 0.03125, 0.0625 } range = { -55, 150 } decimals = 4 }\n"
    " channel fahrenheit { quantity = \"angle\" bytes = 2 drop = 3 signed = true\n"
    "  scale = 0.0625 polynomial = { 32, 1.8 } range = { -100, 400 } decimals = 3 }\n"
    "}\n"
    "part MYACCEL { bus = \"spi\" mode = 3 read-bit = 0x80 burst-bit = 0x40 order = \"low\"\n"
    " register WHO { address = 0x0f access = \"read\" }\n"
    " register CTRL1 { address = 0x20 } register CTRL4 { address = 0x23 }\n"
    " register STATUS { address = 0x27 access = \"read\" }\n"
    " register X { address = 0x28 width = 2 access = \"read\" }\n"
    " identity = { \"expect WHO 0x32\" }\n"
    " start = { \"change CTRL4 0x80 mask 0x80\", \"write CTRL1 0x27\", \"wait 1 ms\" }\n"
    " measure = { \"poll STATUS 8 mask 8 within 60 ms\", \"read X 6\" }\n"
    " channel accel-z { quantity = \"acceleration\" at = 4 bytes = 2 drop = 4 signed = true\n"
    "  scale = 0.02941995 range = { -59, 59 } decimals = 3 }\n"
    "}\n"
    "bus a { } bus b { kind = \"spi\" }\n"
    "sensor own { part = \"MYTEMP\" bus = \"a\" address = 0x48 set = { \"format=13-bit\" } }\n"
    "sensor its { part = \"TMP102\" bus = \"a\" address = 0x49 set = { \"format=13-bit\", "
    "\"rate=8Hz\" } }\n"
    "sensor mine { part = \"MYACCEL\" bus = \"b\" select = \"P1\" }\n"
    "sensor theirs { part = \"LIS331HH\" bus = \"b\" select = \"P2\" }\n";

static const char twin_chips[] = "quantity t { level = 31.25 }\nquantity z { level = 12.5 }\n"
                                 "chip a { part = \"TMP102\" bus = \"a\" address = 0x48 feels = { "
                                 "\"temperature=t\" } errors = { \"temperature=0\" } }\n"
                                 "chip b { part = \"TMP102\" bus = \"a\" address = 0x49 feels = { "
                                 "\"temperature=t\" } errors = { \"temperature=0\" } }\n"
                                 "chip c { part = \"LIS331HH\" bus = \"b\" select = \"P1\" feels = "
                                 "{ \"accel-z=z\" } errors = { \"accel-z=0\" } }\n"
                                 "chip d { part = \"LIS331HH\" bus = \"b\" select = \"P2\" feels = "
                                 "{ \"accel-z=z\" } errors = { \"accel-z=0\" } }\n";

static double value_of(const char *csv, const char *channel)
{
    const char *at = strstr(csv, channel);
    return at ? g_ascii_strtod(at + strlen(channel) + 1, NULL) : NAN;
}

/* What only marks, ends and checksums of a description can tell. */
static void what_a_description_knows(void)
{
    static const char rig[] =
        "board { world = \"w\" }\n"
        "part WORDS { addresses = { 0x44 } measure = { \"fetch 6\", \"check words\" }\n"
        " channel t { quantity = \"temperature\" scale = 0.01 range = { -50, 800 } }\n"
        " channel h { quantity = \"temperature\" at = 3 scale = 0.01 range = { -50, 800 } } }\n"
        "part WIDE { addresses = { 0x45 } measure = { \"fetch 4\" }\n"
        " channel v { quantity = \"voltage\" bytes = 4 scale = 1e-6 range = { 0, 5000 } } }\n"
        "part BITS { addresses = { 0x46 } measure = { \"fetch 3\" }\n"
        " channel u { quantity = \"voltage\" bytes = 2 bits = 10 scale = 0.001 range = { -1, 3 }\n"
        "  marks = { \"stale when byte 2 mask 0xc0 is 0x40\", \"power-on unless byte 2 mask 1 is "
        "1\" } }\n"
        " channel s { quantity = \"voltage\" bytes = 2 bits = 10 signed = true scale = 0.001 range "
        "= { -1, 3 }\n"
        "  power-on = -3 }\n"
        " channel n { quantity = \"voltage\" bytes = 1 ends = { 0x10, 0xf0 } scale = 0.001 range = "
        "{ -1, 3 } } }\n"
        "bus a { }\n";
    static const struct {
        const char *arguments;
        const char *text;
    } rows[] = {
        { "WORDS beef92beef92", "raw 48879 good" },
        { "WORDS beef92beef93", "the CRC of be ef is 92, not 93" },
        { "WIDE ffff0000", "raw 4294901760 good" },
        { "WIDE ffffffff", "raw 4294967295 saturated" },
        { "BITS 010001", "u 0.26 V raw 256 good" },
        { "BITS 010041", "raw 256 stale" },
        { "BITS 0100c1", "u 0.26 V raw 256 good" },
        { "BITS 010000", "raw 256 power-on" },
        { "BITS 03ff01", "u 1.02 V raw 1023 saturated" },
        { "BITS 020001", "s -0.51 V raw -512 saturated" },
        { "BITS 01ff01", "s 0.51 V raw 511 saturated" },
        { "BITS 03fd01", "s 0.00 V raw -3 power-on" },
        { "BITS 100001", "n 0.02 V raw 16 saturated" },
        { "BITS 110001", "n 0.02 V raw 17 good" },
        { "BITS f00001", "n 0.24 V raw 240 saturated" },
    };
    char *folder = scratch_make();
    file_write(folder, "x.rig", rig);
    file_write(folder, "w", "");
    for (size_t i = 0; i < COUNT(rows); i++) {
        char *arguments = g_strdup_printf("convert --rig x.rig %s | tr -s ' '", rows[i].arguments);
        struct said said = tool(folder, arguments);
        EXPECT(strstr(said.out, rows[i].text) || strstr(said.err, rows[i].text), "%s: %s%s",
               rows[i].arguments, said.out, said.err);
        said_free(&said);
        g_free(arguments);
    }
    scratch_remove(folder);
}

static void like_the_catalogues(void)
{
    char *folder = scratch_make();
    file_write(folder, "x.rig", twins);
    file_write(folder, "w", twin_chips);
    struct said said = tool(folder, "read --rig x.rig --format csv");
    EXPECT(said.status == 0, "%s%s", said.out, said.err);
    EXPECT_NEAR(value_of(said.out, "own,temperature"), 31.25, 0.13, "described");
    EXPECT_NEAR(value_of(said.out, "its,temperature"), 31.25, 0.13, "the catalogue's");
    EXPECT_NEAR(value_of(said.out, "own,fahrenheit"), 88.25, 0.23, "by polynomial");
    EXPECT_NEAR(value_of(said.out, "mine,accel-z"), 12.5, 0.04, "described");
    EXPECT_NEAR(value_of(said.out, "theirs,accel-z"), 12.5, 0.04, "the catalogue's");
    said_free(&said);
    expect_said(folder, "scan --rig x.rig", 0, "MYACCEL   mine       proven");
    expect_said(folder, "regs --rig x.rig --measure mine CTRL4", 0, "0x80");
    scratch_remove(folder);
}

#define SPI "bus main { kind = \"spi\" }\n"

/* What hangs on a converter's inputs, by hand: V = code x reference / 1024 x (upper + lower) /
 * lower, and the B equation of a thermistor. */
static void inputs_as_the_rig_says(void)
{
    static const struct {
        const char *sensor; /* inside the section */
        const char *hex;    /* of the inputs from the first on; the others are 0 */
        const char *text;
    } rows[] = {
        { "", "400010", "ch0                        1.6500 V" },
        { "reference = 5", "400010", "ch0                        2.5000 V" },
        { "reference = 5", "000000000000000000000000000000400010",
          "ch5                        2.5000 V" },
        { "channel ch0 { divider = { 100000, 15000 } }", "400010",
          "ch0                       12.6500 V" },
        { "reference = 2.5 channel ch0 { divider = { 10000, 10000 } }", "200020",
          "ch0                        1.2500 V" },
        { "channel ch0 { as = \"house\" divider = { 0, 1 } }", "400010",
          "house                      1.6500 V" },
        { "channel ch0 { thermistor = { 10000, 10000, 3950 } }", "400010", "25.00 degC" },
        { "channel ch0 { thermistor = { 10000, 10000, 3950 } }", "000000",
          "ch0                             - degC" },
        { "use = { \"ch7\", \"ch0\" }", "400010", "ch7                        0.0000 V" },
        { "use = { \"ch7\" }", "400010", "ch7                        0.0000 V" },
    };
    char *folder = scratch_make();
    file_write(folder, "w", "");
    for (size_t i = 0; i < COUNT(rows); i++) {
        char *rig = g_strdup_printf("board { world = \"w\" }\n" SPI
                                    "sensor a { part = \"MCP3008\" select = \"P1\" %s }\n",
                                    rows[i].sensor);
        char *arguments = g_strdup_printf("convert --rig x.rig a %s%0*d", rows[i].hex,
                                          48 - (int)strlen(rows[i].hex), 0);
        file_write(folder, "x.rig", rig);
        expect_said(folder, arguments, 0, rows[i].text);
        g_free(arguments);
        g_free(rig);
    }
    /* A correction is kept under the new name, with the select pin as the place. */
    file_write(folder, "x.rig",
               "board { world = \"w\" }\n" SPI
               "sensor a { part = \"MCP3008\" select = \"P1\" use = { "
               "\"ch0\" } channel ch0 { as = \"house\" } }\n");
    file_write(folder, "w", "chip a { part = \"MCP3008\" select = \"P1\" }\n");
    expect_said(folder, "calibrate --rig x.rig a.house 1.0=1.1 --yes", 0, "");
    char *kept = file_text(folder, "x.calibration.json");
    EXPECT(strstr(kept, "\"select\": \"P1\"") && strstr(kept, "\"channel\": \"house\""), "%s",
           kept);
    expect_said(folder, "read --rig x.rig", 0, "corrected");
    expect_said(folder, "regs --rig x.rig a --save s.json", 0, "saved in s.json");
    expect_said(folder, "regs --rig x.rig a --diff s.json", 0, "differ from s.json");
    g_free(kept);
    scratch_remove(folder);
}

/* Nobody drives the line: that is no other part's identity, however wide it is. */
static void nobody_has_no_identity(void)
{
    char *folder = scratch_make();
    file_write(folder, "w", "");
    for (unsigned width = 1; width <= 2; width++) {
        char *rig = g_strdup_printf(
            "board { world = \"w\" }\n"
            "part WIDE { bus = \"spi\" read-bit = 0x80\n"
            " register WHO { address = 0x0f width = %u access = \"read\" }\n"
            " identity = { \"expect WHO 0x32\" }  measure = { \"read WHO\" }\n"
            " channel x { quantity = \"voltage\" bytes = 1 range = { 0, 1 } } }\n"
            "bus main { kind = \"spi\" }\nsensor a { part = \"WIDE\" select = \"S1\" }\n",
            width);
        file_write(folder, "x.rig", rig);
        expect_said(folder, "read --rig x.rig", 1, "nothing answered");
        g_free(rig);
    }
    scratch_remove(folder);
}

void add_described_suite(void)
{
    SUITE("described", { "in every command", in_every_command }, { "mistakes", mistakes },
          { "like the catalogue's", like_the_catalogues },
          { "what a description knows", what_a_description_knows },
          { "inputs as the rig says", inputs_as_the_rig_says },
          { "nobody has no identity", nobody_has_no_identity });
}
