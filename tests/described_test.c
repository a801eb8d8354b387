/* Parts that a rig file describes itself: the example's two, in every command, and what each
 * mistake in such a description is answered with. */
#include "support.h"

struct command_row {
    const char *arguments;
    int status;
    const char *text;
};

/* Commands on an example's rig and world, copied to a folder, which is returned. */
static char *on_example(const char *name, const struct command_row *rows, size_t count)
{
    char *folder = scratch_make();
    for (int i = 0; i < 2; i++) {
        char *file = g_strdup_printf("%s.%s", name, i ? "world" : "rig");
        char *text = file_text(SOURCE "/examples/described", file);
        file_write(folder, file, text);
        g_free(text);
        g_free(file);
    }
    for (size_t i = 0; i < count; i++) {
        char **words = g_strsplit(rows[i].arguments, " ", 2);
        char *line =
            g_strdup_printf("%s --rig %s.rig %s", words[0], name, words[1] ? words[1] : "");
        expect_said(folder, line, rows[i].status, rows[i].text);
        g_free(line);
        g_strfreev(words);
    }
    return folder;
}

static void in_every_command(void)
{
    static const struct command_row rows[] = {
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
        { "parts", 0, "MAX31855    thermocouple converter" },
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
        { "calibrate rudder.angle 183=180", 1, "not kept" },
        { "trace -- read", 0, "write 0b+ STATUS" },
        { "wiring", 0, "Nothing speaks against switching on." },
        { "log --for 3min --every 1min --into runs", 0, "3 records in" },
    };
    char *folder = on_example("rudder", rows, COUNT(rows));
    scratch_remove(folder);
}

/* 150 degC, where one chip of the catalogue and a described one can say no more than 125 and 128.
 */
static void at_the_end_of_its_scale(void)
{
    static const char rig[] =
        "board { port = \"sim\" world = \"hot.world\" }\n"
        "bus line { kind = \"onewire\" data = \"H1\" pull-up = 2200 }\n"
        "bus aft { data = \"AD\" clock = \"AC\" pull-up = 2200 }\n"
        "part WARM { addresses = { 0x48 }  register T { address = 0 width = 2 access = \"read\" }\n"
        " measure = { \"read T\" }  channel temperature { quantity = \"temperature\"\n"
        "  signed = true drop = 4 scale = 0.0625 range = { -40, 200 } } }\n"
        "sensor a { part = \"DS18B20\" bus = \"line\" code = \"284c1e720700001d\" }\n"
        "sensor b { part = \"WARM\" bus = \"aft\" address = 0x48 }\n";
    static const char world[] =
        "quantity hot { level = 150 }\n"
        "chip a { part = \"DS18B20\" bus = \"line\" code = \"284c1e720700001d\"\n"
        " feels = { \"temperature=hot\" } }\n"
        "chip b { part = \"WARM\" bus = \"aft\" address = 0x48 feels = { \"temperature=hot\" } }\n";
    char *folder = scratch_make();
    file_write(folder, "hot.rig", rig);
    file_write(folder, "hot.world", world);
    expect_said(folder, "read --rig hot.rig a", 0, "125.0000 degC         2000   saturated");
    expect_said(folder, "read --rig hot.rig b", 0, "127.94 degC         2047   saturated");
    scratch_remove(folder);
}

/* Chips on serial lines: one of text, against the catalogue's own; one of frames, typed. */
static const char lines_rig[] =
    "board { port = \"sim\" world = \"lines.world\" }\n"
    "bus bow { kind = \"serial\" data = \"TX\" data-in = \"RX\" }\n"
    "bus stern { kind = \"serial\" }\n"
    "part RANGER {\n bus = \"serial\" text = true answers-within-ms = 150\n"
    " register ASK { head = \"r6\" access = \"write\" }\n"
    " register ANSWER { head = \"L=\" access = \"read\" width = 2 }\n"
    " identity = { \"write ASK '#'\", \"expect ANSWER 'L='\" }\n"
    " measure = { \"write ASK '#'\", \"read ANSWER 12\" }\n"
    " channel distance { quantity = \"length\" at = 2 bytes = 4 signed = true scale = 0.001\n"
    "  range = { 0.1, 1.8000001 } decimals = 3 ends = { -100, 2000 }\n"
    "  marks = { \"bus unless byte 0 is 0x4c\", \"bus unless byte 1 is 0x3d\" } } }\n"
    "part FRAMES {\n bus = \"serial\" frame = 9 speed = 115200\n"
    " register F { address = 0x5959 access = \"read\" width = 2 }\n"
    " checksum sum { polynomial = 0 start = 0 over = 8 }\n"
    " measure = { \"read F 9\", \"check sum\" }\n"
    " channel d { quantity = \"length\" at = 2 order = \"low\" scale = 0.01 range = { 0, 12 } } }\n"
    "sensor described { part = \"RANGER\" bus = \"bow\" }\n"
    "sensor known { part = \"TOF10120\" bus = \"stern\" }\n";

static const char lines_world[] =
    "quantity gap { level = 0.742 }\n"
    "chip a { part = \"TOF10120\" bus = \"bow\" feels = { \"distance=gap\" } errors = "
    "{ \"distance=0\" } }\n"
    "chip b { part = \"TOF10120\" bus = \"stern\" feels = { \"distance=gap\" } errors = "
    "{ \"distance=0\" } }\n"
    "fault a { kind = \"silent\" from = \"1h\" to = \"2h\" }\n"
    "trouble bow { kind = \"swapped\" from = \"3h\" to = \"4h\" }\n"
    "trouble stern { kind = \"noise\" from = \"3h\" to = \"4h\" }\n";

static void on_serial_lines(void)
{
    static const struct {
        const char *arguments;
        int status;
        const char *text;
    } rows[] = {
        { "read --at 1min", 0, "described  distance                      74" },
        { "read --at 1min", 0, "known      distance                      74" },
        { "read --at 1min known", 0, "raw bytes 4c 3d 37 34" },
        { "read --at 90min", 1,
          "nothing answered; likely it is unplugged, has no supply, data and data-in" },
        { "scan --at 1min", 0, "known      proven" },
        { "scan --at 90min", 1, "missing    nothing comes from its other end" },
        { "scan --at 3h10min", 1, "described  missing" },
        { "wiring", 0, "TX         RX" },
        { "wiring", 0, "serial, 9600 baud" },
        { "trace --at 1min -- read known", 0, "known hears 72'r' 36'6' 23'#'" },
        { "trace --at 1min -- read known", 0, "known says  4c'L' 3d'='" },
        { "trace --at 1min --do \"stern: send 72 31 23, fetch 5\"", 0, "44'D' 3d'='" },
        { "trace --at 1min --do \"stern: read 0x4c3d 8\"", 0, "nothing answered" },
        { "convert RANGER 4c3d3734326d6d0000000000", 0, "742 mm" },
        { "convert FRAMES 59592c010000000 0df", 0, "3000 mm" },
        { "convert FRAMES 59592c0100000000de", 1, "is df, not de" },
        { "parts FRAMES", 0, "serial, 115200 baud" },
        { "log --for 3min --every 1min --into runs", 0, "3 records in" },
    };
    char *folder = scratch_make();
    file_write(folder, "x.rig", lines_rig);
    file_write(folder, "lines.world", lines_world);
    for (size_t i = 0; i < COUNT(rows); i++) {
        char **words = g_strsplit(rows[i].arguments, " ", 2);
        char *arguments = g_strdup_printf("%s --rig x.rig %s", words[0], words[1] ? words[1] : "");
        expect_said(folder, arguments, rows[i].status, rows[i].text);
        g_free(arguments);
        g_strfreev(words);
    }
    scratch_remove(folder);
}

/* A part's identity and its three answers, each after a rule of its own. */
#define RULED(name, start)                                                                         \
    "part " name " { addresses = { 0x40 }\n"                                                       \
    " checksum word { start = 0 registers = false }\n"                                             \
    " checksum byte { start = 0 over = 1 registers = false }\n"                                    \
    " checksum frame { polynomial = 0xa001 start = " start                                         \
    " bits = 16 over = 6 low-first = true registers = false }\n"                                   \
    " register STATUS { address = 7 at-power-on = 0x18 }\n"                                        \
    " identity = { \"command 0x20\", \"wait 1 ms\", \"expect fetched 8 byte\", "                   \
    "\"expect STATUS 0x18\" }\n"                                                                   \
    " measure = { \"command 0x10\", \"wait 10 ms\", \"fetch 3\", \"check word of 3\", "            \
    "\"command 0x11\", \"wait 10 ms\", \"fetch 8\", \"check frame of 8\" }\n"                      \
    " channel word { quantity = \"temperature\" scale = 0.01 range = { -50, 800 } }\n"             \
    " channel frame { quantity = \"temperature\" at = 7 scale = 0.01 range = { -50, 800 } } }\n"

/* One rule is another in the chip: what it covers is told from the rest, and the register that no
 * rule covers is read. */
static void several_checksums(void)
{
    static const char rig[] = "board { world = \"w\" }\nbus a { }\n" RULED("MIXED", "0xffff")
        RULED("OTHER", "0") "sensor m { part = \"MIXED\" bus = \"a\" address = 0x40 }\n";
    char *folder = scratch_make();
    file_write(folder, "x.rig", rig);
    for (int other = 0; other < 2; other++) {
        char *world = g_strdup_printf("quantity q { level = 21.5 }\n"
                                      "chip m { part = \"%s\" bus = \"a\" address = 0x40 "
                                      "feels = { \"word=q\", \"frame=q\" } "
                                      "errors = { \"word=0\", \"frame=0\" } }\n",
                                      other ? "OTHER" : "MIXED");
        file_write(folder, "w", world);
        expect_said(folder, "read --rig x.rig", other,
                    other ? "their checksum" : "raw bytes 08 66 2a 00 00 00 00 08 66 87 f1");
        expect_said(folder, "regs --rig x.rig m", 0, "STATUS           0x18");
        expect_said(folder, "regs --rig x.rig m STATUS=0x19", 0, "STATUS           0x19");
        g_free(world);
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
        { "no such bus", "part X { bus = \"can\" }",
          "there are i2c, smbus, spi, onewire and serial" },
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
        { "no checksums",
          HEAD " checksum w { } measure = { \"read R 4\", \"check w\" }" CHANNEL "}",
          "it describes checksums that the bytes before don't have" },
        { "no rule", HEAD " measure = { \"read R 3\", \"check w\" }" CHANNEL "}",
          "'check w' is no step" },
        { "no such rule", HEAD " checksum w { } measure = { \"fetch 3\", \"check sums\" } }",
          "'check sums' is no step" },
        { "more than was read",
          HEAD " checksum w { } measure = { \"fetch 3\", \"check w of 6\" }" CHANNEL "}",
          "it describes checksums that the bytes before don't have" },
        { "a wide polynomial", HEAD " checksum sum { polynomial = 0x131 } }",
          "its checksum 'sum' has to have 8 or 16" },
        { "a number with no range", HEAD " number shunt { } }", "number 'shunt' needs a range" },
        { "no such input", HEAD " measure = { \"for a read R\" } }", "'for a read R' is no step" },
        { "no such option", HEAD " measure = { \"only s a read R\" } }",
          "'only s a read R' is no step" },
        { "until never", HEAD " measure = { \"read R until byte 1 is 1 within 1 s\" } }",
          "is no step" },
        { "a factor of nothing",
          HEAD " setting s { register = \"R\" options = { \"a=1 times 0\" } } }",
          "'a=1 times 0' is no option" },
        { "also nowhere", HEAD " setting s { register = \"R\" options = { \"a=1\" } also Q { } } }",
          "also 'Q' needs the name of a register" },
        { "also with other codes",
          HEAD
          " setting s { register = \"R\" options = { \"a=1\" } also R { codes = { 1, 2 } } } }",
          "also 'R' needs the name of a register" },
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
        { "no channel", HEAD " measure = { \"read R\" } }", "it needs 1 to 10 channels" },
        { "no quantity", HEAD " measure = { \"read R\" } channel c { range = { 0, 1 } } }",
          "'' is no quantity; there are temperature" },
        { "no range", HEAD " measure = { \"read R\" } channel c { quantity = \"voltage\" } }",
          "a range of two numbers in V" },
        { "beyond the block",
          HEAD " measure = { \"read R\" }\n"
               " channel c { quantity = \"voltage\" bytes = 2 range = { 0, 1 } } }",
          "does not lie within the 1 bytes that the measuring steps read" },
        { "scaled by nothing",
          HEAD " measure = { \"read R\" }\n"
               " channel c { quantity = \"voltage\" bytes = 1 range = { 0, 1 } scaled-by = { \"s\" "
               "} } }",
          "scaled-by names settings" },
        { "divided by nothing",
          HEAD
          " measure = { \"read R\" }\n"
          " channel c { quantity = \"voltage\" bytes = 1 range = { 0, 1 } divided-by = \"n\" } }",
          "names one number" },
        { "a row too few",
          HEAD
          " setting s { register = \"R\" options = { \"a=1\", \"b=2\" } } measure = { \"read R\" "
          "}\n"
          " channel c { quantity = \"voltage\" bytes = 1 range = { 0, 1 } rows-by = { \"s\" } row "
          "a "
          "{ } } }",
          "has 1 rows, and its rows-by asks for 2" },
        { "a row of nothing",
          HEAD
          " setting s { register = \"R\" options = { \"a=1\", \"b=2\" } } measure = { \"read R\" "
          "}\n"
          " channel c { quantity = \"voltage\" bytes = 1 range = { 0, 1 } rows-by = { \"s\" } row "
          "a "
          "{ } row c { } } }",
          "has no row \"b\"" },
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
    " start = { \"write C 0x6000 loose\", \"wait 36 ms and settings\" }\n"
    " measure = { \"read T\" }\n"
    " channel temperature { quantity = \"temperature\" signed = true scale = 0.0625\n"
    "  rows-by = { \"format\" } row 12-bit { drop = 4 } row 13-bit { drop = 3 }\n"
    "  range = { -55, 150 } decimals = 4 }\n"
    " channel fahrenheit { quantity = \"angle\" bytes = 2 drop = 3 signed = true\n"
    "  scale = 0.0625 polynomial = { 32, 1.8 } range = { -100, 400 } decimals = 3 }\n"
    "}\n"
    "part MYACCEL { bus = \"spi\" mode = 3 read-bit = 0x80 burst-bit = 0x40 order = \"low\"\n"
    " register WHO { address = 0x0f access = \"read\" }\n"
    " register CTRL1 { address = 0x20 } register CTRL4 { address = 0x23 }\n"
    " register STATUS { address = 0x27 access = \"read\" }\n"
    " setting range { register = \"CTRL4\" bit = 4 options = { \"6g=0\", \"12g=1 times 2\", "
    "\"24g=3 times 4\" } initial = \"12g\" }\n"
    " register X { address = 0x28 width = 2 access = \"read\" }\n"
    " identity = { \"expect WHO 0x32\" }\n"
    " start = { \"write CTRL4 0x80\", \"write CTRL1 0x27\", \"wait 1 ms\" }\n"
    " measure = { \"poll STATUS 8 mask 8 within 60 ms\", \"read X 6\" }\n"
    " channel accel-z { quantity = \"acceleration\" at = 4 bytes = 2 drop = 4 signed = true\n"
    "  scale = 0.02941995 scaled-by = { \"range\" } range = { -118, 118 } decimals = 3 }\n"
    "}\n"
    "bus a { } bus b { kind = \"spi\" }\n"
    "sensor own { part = \"MYTEMP\" bus = \"a\" address = 0x48 set = { \"format=13-bit\" } }\n"
    "sensor its { part = \"TMP102\" bus = \"a\" address = 0x49 set = { \"format=13-bit\", "
    "\"rate=8Hz\" } }\n"
    "sensor mine { part = \"MYACCEL\" bus = \"b\" select = \"P1\" }\n"
    "sensor theirs { part = \"LIS331HH\" bus = \"b\" select = \"P2\" set = { \"range=12g\" } "
    "}\n";

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
        "part WORDS { addresses = { 0x44 } checksum w { } measure = { \"fetch 6\", \"check w\" }\n"
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
        /* three rules in one block; what they must be: see below */
        "part MIXED { addresses = { 0x40 } checksum word { start = 0 registers = false }\n"
        " checksum byte { start = 0 over = 1 registers = false }\n"
        " checksum frame { polynomial = 0xa001 start = 0xffff bits = 16 over = 6 low-first = true "
        "registers = false }\n"
        " register STATUS { address = 7 at-power-on = 0x18 }\n"
        " measure = { \"fetch 3\", \"check word of 3\", \"fetch 2\", \"check byte of 2\", "
        "\"fetch 8\", \"check frame of 8\" }\n"
        " channel t { quantity = \"temperature\" scale = 0.01 range = { -50, 800 } }\n"
        " channel l { quantity = \"temperature\" at = 9 scale = 0.01 range = { -50, 800 } } }\n"
        "bus a { }\n";
    static const struct {
        const char *arguments;
        const char *text;
    } rows[] = {
        { "WORDS beef92beef92", "raw 48879 good" },
        { "WORDS beef", "the data has 2 bytes where it takes 6" },
        { "WORDS beef92beef", "the data has 5 bytes where it takes 6" },
        { "WORDS beef92beef93", "the CRC of be ef is 92, not 93" },
        /* The words and the byte are examples of the SHT2x's CRC, the frame one of Modbus over
         * Serial Line V1.02. */
        { "MIXED 683a7cdc7901030000000ac5cd", "t 266.82 degC raw 26682 good" },
        { "MIXED 4e856bdc7901030000000ac5cd", "t 201.01 degC raw 20101 good" },
        { "MIXED 683a7ddc7901030000000ac5cd", "the CRC of 68 3a is 7c, not 7d" },
        { "MIXED 683a7cdd7901030000000ac5cd", "the CRC of dd is" },
        { "MIXED 683a7cdc7901030000000bc5cd", "the CRC of 01 03 00 00 00 0b is" },
        { "MIXED 683a7cdc7901030000000acdc5", "the CRC of 01 03 00 00 00 0a is cdc5, not c5cd" },
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
    expect_said(folder, "regs --rig x.rig --measure mine CTRL4", 0, "0x90");
    scratch_remove(folder);
}

/* --- what else a described chip can do, tried on chips written from the datasheets --- */

static const char able_rig[] =
    "board { port = \"sim\" world = \"able.world\" }\n"
    "part GYRO { addresses = { 0x68 } current = { 3800, 5 }\n"
    " register SMPLRT_DIV { address = 0x19 } register CONFIG { address = 0x1a }\n"
    " register GYRO_CONFIG { address = 0x1b } register ACCEL_CONFIG { address = 0x1c }\n"
    " register FIFO_EN { address = 0x23 }\n"
    " register INT_STATUS { address = 0x3a access = \"read\" }\n"
    " register USER_CTRL { address = 0x6a } register PWR_MGMT_1 { address = 0x6b }\n"
    " register FIFO_COUNT { address = 0x72 width = 2 access = \"read\" }\n"
    " register FIFO_R_W { address = 0x74 access = \"read\" }\n"
    " register WHO_AM_I { address = 0x75 access = \"read\" }\n"
    " setting rate { register = \"SMPLRT_DIV\" options = { \"500Hz=1 2 ms\", \"100Hz=9 10 ms\" } "
    "}\n"
    " identity = { \"expect WHO_AM_I 0x68\" }\n"
    " start = { \"write PWR_MGMT_1 0x80 plain\", \"wait 2 ms\", \"poll PWR_MGMT_1 0x40 within 150 "
    "ms\",\n"
    "  \"write PWR_MGMT_1 1\", \"write SMPLRT_DIV 0\", \"write CONFIG 1\", \"write GYRO_CONFIG "
    "0\",\n"
    "  \"write ACCEL_CONFIG 0\", \"wait 35 ms and settings\", \"read INT_STATUS 15\" }\n"
    " measure = { \"read INT_STATUS 15 until byte 0 mask 1 is 1 within 60 ms\","
    " \"expect PWR_MGMT_1 1\" }\n"
    " rest = { \"write PWR_MGMT_1 0x40\" }\n"
    " channel accel-z { quantity = \"acceleration\" at = 5 signed = true scale = 0.00059855042\n"
    "  range = { -160, 160 } decimals = 4 }\n"
    " channel temperature { quantity = \"temperature\" at = 7 signed = true scale = 0.0029411765\n"
    "  offset = 36.53 range = { -40, 85 } }\n"
    " fifo { start = { \"write USER_CTRL 0\", \"write FIFO_EN 0xf8\", \"write USER_CTRL 4\","
    " \"write USER_CTRL 0x40\", \"read INT_STATUS\" }\n"
    "  empty = { \"write USER_CTRL 0\", \"write USER_CTRL 4\", \"write USER_CTRL 0x40\","
    " \"read INT_STATUS\" }\n"
    "  check = { \"expect PWR_MGMT_1 1\", \"expect USER_CTRL 0x40\" }\n"
    "  count = \"FIFO_COUNT\" counted = 14 data = \"FIFO_R_W\" over = \"INT_STATUS\" over-mask = "
    "0x10\n"
    "  record = 14 at = 1 at-once = 3 depth = 73 torn = true\n"
    "  rate = \"rate\" periods = { \"2 ms\", \"10 ms\" } channels = { \"accel-z\", \"temperature\" "
    "} } }\n"
    "part VOLTS { addresses = { 0x48 } inputs = { \"ain0\" }\n"
    " register CONVERSION { address = 0 width = 2 access = \"read\" }\n"
    " register CONFIG { address = 1 width = 2 }\n"
    " setting range { register = \"CONFIG\" bit = 9 options = { \"6.144V=0 times 3\","
    " \"2.048V=2 times 1\", \"0.256V=5 times 0.125\" } }\n"
    " identity = { \"call\" }\n"
    " measure = { \"for ain0 write CONFIG 0xc183\", \"for ain0 wait 10 ms\", \"for ain0 read "
    "CONVERSION\" }\n"
    " channel ain0 { quantity = \"voltage\" signed = true scale = 62.5e-6 scaled-by = { \"range\" "
    "}\n"
    "  input = \"ain0\" range = { -0.3, 5.8 } decimals = 6 }\n"
    " auto { settings = { \"range\" } rungs = { \"0.256V\", \"2.048V\", \"6.144V\" }"
    " channels = { \"ain0\" } below = 2500 from = 30000 } }\n"
    "part LAMPS { addresses = { 0x20 } measure = { \"fetch 1\" }\n"
    " channel red { quantity = \"state\" bytes = 1 bits = 1 range = { 0, 1 } decimals = 0 ends = { "
    "none } }\n"
    " channel green { quantity = \"state\" bytes = 1 drop = 1 bits = 1 range = { 0, 1 } decimals = "
    "0"
    " ends = { none } }\n"
    " lines { count = 2 } }\n"
    "part NOTES { addresses = { 0x57 } wide-address = true measure = { }\n"
    " memory { size = 4096 page = 32 write = \"20 ms\" } }\n"
    "part CHRONO { addresses = { 0x68 }\n"
    " register SECONDS { address = 0 } register CONTROL { address = 7 }\n"
    " measure = { \"read SECONDS 7\" }\n"
    " channel time { quantity = \"time\" range = { 0, 4.3e9 } decimals = 0 }\n"
    " clock { first = \"SECONDS\" order = { \"second\", \"minute\", \"hour\", \"weekday\", \"day\","
    " \"month\", \"year\" } lost = \"SECONDS 7\" } }\n"
    "part SIGN { bus = \"spi\" commands = true measure = { }\n"
    " start = { \"command 0x21\", \"command 0xbc\", \"command 0x13\", \"command 0x20\", \"command "
    "0x0c\" }\n"
    " display { width = 84 height = 48 row = 0x40 column = 0x80 } }\n"
    "bus fast { speed = 400000 pull-up = 2200 } bus slow { pull-up = 4700 }\n"
    "bus panel { kind = \"spi\" command = \"DC\" }\n"
    "sensor gyro { part = \"GYRO\" bus = \"fast\" address = 0x68 rest = true }\n"
    "sensor volts { part = \"VOLTS\" bus = \"fast\" address = 0x48 set = { \"range=auto\" } }\n"
    "sensor lamps { part = \"LAMPS\" bus = \"fast\" address = 0x20 }\n"
    "sensor notes { part = \"NOTES\" bus = \"fast\" address = 0x57 }\n"
    "sensor chrono { part = \"CHRONO\" bus = \"slow\" address = 0x68 }\n"
    "sensor sign { part = \"SIGN\" bus = \"panel\" select = \"S1\" }\n";
static const char able_world[] =
    "quantity v { level = 0.1 } quantity a { level = 7.5 }\n"
    "chip gyro { part = \"MPU6050\" bus = \"fast\" address = 0x68 feels = { \"accel-z=a\" }"
    " errors = { \"accel-z=0\" } }\n"
    "chip volts { part = \"ADS1115\" bus = \"fast\" address = 0x48 feels = { \"ain0=v\" }"
    " errors = { \"ain0=0\" } }\n"
    "chip lamps { part = \"PCF8574\" bus = \"fast\" address = 0x20 }\n"
    "chip notes { part = \"AT24C32\" bus = \"fast\" address = 0x57 }\n"
    "chip chrono { part = \"DS1307\" bus = \"slow\" address = 0x68 }\n"
    "chip sign { part = \"PCD8544\" bus = \"panel\" select = \"S1\" }\n";

static void with_every_ability(void)
{
    static const struct {
        const char *arguments;
        int status;
        const char *text;
    } rows[] = {
        { "read gyro", 0, "accel-z                   0.76" },
        { "power", 0, "gyro       GYRO              3800           5" },
        { "log --for 3min", 0, "3 records in" },
        { "burst gyro --for 1s", 0, "a second; none lost" },
        { "burst gyro --for 10ms --format csv", 0, "time,accel-z g,temperature degC,quality" },
        { "read volts", 0, "ain0                     0.0999" },
        { "trace -- read volts", 0, "cb+ 83+" }, /* the finest range of all, at last */
        { "lines lamps red=0 green=1", 0, "red          low        yes" },
        { "store notes", 0, "4096 bytes" },
        { "store notes --load crew.txt --from 40", 0,
          "5 bytes of crew.txt written, and read back" },
        { "clock chrono", 1, "stood still" },
        { "clock chrono --set", 0, "good" },
        { "show sign dot.pbm", 0, "only a look tells" },
        { "scan", 0, "6 of 6 sensors are there" },
        { "parts GYRO", 0, "to which the rig may send it" },
    };
    static const struct {
        const char *part, *answer;
    } wrong[] = {
        { "rest = { \"jump\" }", "rest: 'jump' is no step" },
        { "current = { 1 }", "current takes two figures" },
        { "auto { settings = { \"s\" } }", "auto takes one or two settings, two rungs or more" },
        { "fifo { }", "fifo: count names no register" },
        { "fifo { count = \"R\" data = \"R\" }", "fifo takes record" },
        { "lines { count = 3 }", "each of them is a channel" },
        { "lines { out = \"Q\" }", "lines: out names no register" },
        { "memory { size = 0 }", "memory takes its size in bytes" },
        { "memory { size = 9 write = \"x\" }", "memory takes its size in bytes" },
        { "clock { first = \"R\" order = { \"day\" } }", "clock takes its first register" },
        { "display { width = 84 height = 47 }", "a multiple of 8" },
    };
    char *folder = scratch_make();
    file_write(folder, "able.rig", able_rig);
    file_write(folder, "able.world", able_world);
    file_write(folder, "crew.txt", "ahoy\n");
    file_write(folder, "dot.pbm", "P1\n2 1\n1 0\n");
    for (size_t i = 0; i < COUNT(rows); i++) {
        char **words = g_strsplit(rows[i].arguments, " ", 2);
        char *arguments =
            g_strdup_printf("%s --rig able.rig %s", words[0], words[1] ? words[1] : "");
        expect_said(folder, arguments, rows[i].status, rows[i].text);
        g_free(arguments);
        g_strfreev(words);
    }
    for (size_t i = 0; i < COUNT(wrong); i++) {
        char *text =
            g_strconcat("part X { addresses = { 0x20 } register R { address = 0 } setting s {"
                        " register = \"R\" options = { \"a=0\", \"b=1\" } }\n"
                        " measure = { \"read R\" } channel c { quantity = \"voltage\""
                        " bytes = 1 range = { 0, 300 } }\n",
                        wrong[i].part, " }\nbus b { }\n", NULL);
        file_write(folder, "x.rig", text);
        expect_said(folder, "parts --rig x.rig", 2, wrong[i].answer);
        g_free(text);
    }
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
        { "set = { \"reference=5\" }", "400010", "ch0                        2.5000 V" },
        { "set = { \"reference=5\" }", "000000000000000000000000000000400010",
          "ch5                        2.5000 V" },
        { "channel ch0 { divider = { 100000, 15000 } }", "400010",
          "ch0                       12.6500 V" },
        { "set = { \"reference=2.5\" } channel ch0 { divider = { 10000, 10000 } }", "200020",
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

/* A DPS310 with coefficients of all signs; expected values from the datasheet's formula (V1.2,
 * section 4.9) in exact fractions, by another program. */
static void factory_coefficients(void)
{
    static const struct {
        const char *trim, *raw, *temperature, *pressure;
    } rows[] = {
        { "0ccefb13d76f1dd4f50b04cad993ff87fa24", "fb3d4002bf20", "12.39 degC", "1113.301" },
        { "0ccefb13d76f1dd4f50b04cad993ff87fa24", "fc2f70fea070", "146.80 degC", "1073.914" },
        { "0ccefb13d76f1dd4f50b04cad993ff87fa24", "f9e0ae03ffff", "-28.50 degC", "1185.845" },
        { "0cdefa13498f3ea40bb8fa881f40004d076c", "faf6f001e240", "40.81 degC", "1137.733" },
        { "0cdefa13498f3ea40bb8fa881f40004d076c", "fe2b3ffcf2c0", "202.45 degC", "894.579" },
    };
    static const struct {
        const char *from, *to, *said;
    } wrong[] = {
        { "bits = 20 }\n    coefficient c10", "bits = 200 }\n    coefficient c10",
          "coefficient 'c00' takes 1 to 32" },
        { "\"trim COEF 18\", ", "", "which lie within the 0 bytes that the step" },
        { "c1 * temperature", "c9 * temperature",
          "channel 'temperature': value makes no sense from \"c9 * temperature\" on" },
        { "coefficient c1 ", "coefficient pressure ", "'pressure' is a coefficient and a channel" },
        { "trim COEF 18", "trim COEF 80", "trim COEF 80" },
    };
    char *rig = file_text(DESCRIBED, "dps310.rig");
    char *folder = scratch_make();
    file_write(folder, "x.rig", rig);
    for (size_t i = 0; i < COUNT(rows); i++) {
        char *line =
            g_strdup_printf("convert DPS310 --rig x.rig --trim %s %s", rows[i].trim, rows[i].raw);
        expect_said(folder, line, 0, rows[i].temperature);
        expect_said(folder, line, 0, rows[i].pressure);
        g_free(line);
    }
    /* The temperature at the end of its scale: nothing that is made of it is good either. */
    char *line = g_strdup_printf("convert DPS310 --rig x.rig --trim %s fb3d407fffff", rows[0].trim);
    struct said said = tool(folder, line);
    EXPECT(strstr(said.out, "pressure") && strstr(strstr(said.out, "pressure"), "saturated"), "%s",
           said.out);
    said_free(&said);
    g_free(line);
    for (size_t i = 0; i < COUNT(wrong); i++) {
        GString *text = g_string_new(rig);
        CU_ASSERT_EQUAL(g_string_replace(text, wrong[i].from, wrong[i].to, 1), 1);
        file_write(folder, "x.rig", text->str);
        expect_said(folder, "wiring --rig x.rig", 2, wrong[i].said);
        g_string_free(text, TRUE);
    }
    g_free(rig);
    scratch_remove(folder);
}

/* Five chips, each with something that no register has; values by the datasheets' formulas in exact
 * fractions, by another program. */
static void below_deck(void)
{
    static const struct command_row rows[] = {
        { "convert SGP40 75a888", 0, "30120 count raw 30120       good" },
        { "convert SGP40 75a889", 1, "the CRC of 75 a8 is 88, not 89" },
        { "convert SGP40 ffffac", 0, "saturated" },
        { "convert HDC1080 64d83a98", 0, "25.00 degC  raw 25816       good" },
        { "convert HDC1080 3a986664", 0, "-2.23 degC  raw 15000       good" },
        { "convert HDC1080 fffc0004", 0, "0.01 %RH   raw 4           good" },
        { "convert HDC1080 64d98000", 0, "degC  raw 25817       bus" },
        { "convert HDC1080 00000000", 0, "raw 0           bus" },
        { "convert MLX90614 f73a f73a", 0, "28.75 degC  raw 15095       good" },
        { "convert MLX90614 ad270000", 0, "power-on+range" },
        { "convert MLX90614 f73af7ba", 0, "bus" },
        { "convert TSL2591 0a52c012", 0, "2039.843 lx    raw 0           good" },
        { "convert TSL2591 -s gain=high -s integration=200ms 0a52c012", 0, "59.575 lx" },
        { "convert TSL2591 -s gain=most -s integration=600ms f4017800", 0, "0.020 lx" },
        { "convert TSL2591 fe8f0a00", 0, "6012.615 lx    raw 0           good" },
        { "convert TSL2591 ff8f0a00", 0, "lx    raw 0           saturated" },
        { "convert TSL2591 -s integration=200ms ff8f0a00", 0, "raw 0           good" },
        { "convert MAX6675 0320", 0, "25.00 degC  raw 100         good" },
        { "convert MAX6675 0324", 0, "raw 100         bus" },
        { "convert MAX6675 8320", 0, "raw 100         bus" },
        { "convert MAX6675 0322", 0, "raw 100         bus" },
        { "convert MAX6675 0000", 0, "raw 0           bus" },
        { "convert MAX6675 7ff8", 0, "saturated" },
        { "scan", 0, "5 of 5 sensors are there" },
        { "read deck --uncertainty", 0, "+/- 1" },
        { "regs gland EMISSIVITY=0xf000", 0, "24h  EMISSIVITY       0xf000" },
        { "parts TSL2591", 0, "accuracy    20 percent" },
        { "trace -- read bilge", 0, "write 26+ 0f+ 80+ 00+ a2+ 66+ 66+ 93+" },
        { "log --for 1h --every 10min --into runs", 0, "6 records in runs/0001, 0 with suspect" },
    };
    char *folder = on_example("below_deck", rows, COUNT(rows));
    /* A bit lost in each read: the error code tells, where nothing else would. */
    char *world = file_text(folder, "below_deck.world");
    char *flipped = g_strconcat(
        world, "fault gland { kind = \"flipped\" from = \"0 min\" to = \"9h\" }\n", NULL);
    file_write(folder, "below_deck.world", flipped);
    expect_said(folder, "read --rig below_deck.rig gland", 1, "the bytes came wrong");
    g_free(flipped);
    g_free(world);
    scratch_remove(folder);
}

/* An expression is as exact as what is in it: by hand, sqrt((y ux)^2 + (x uy)^2), of limits 1 and
 * 0.5 and counts of 1 and 0.25, is 0.907. */
static void how_exact(void)
{
    char *folder = scratch_make();
    file_write(
        folder, "x.rig",
        "board { world = \"w\" }\nbus b { data = \"D\" clock = \"C\" pull-up = 4700 }\n"
        "part P { addresses = { 0x48 }  register R { address = 0 }\n"
        " measure = { \"read R 6\" }\n"
        " channel x { quantity = \"count\" range = { 0, 9 } accuracy = 1 }\n"
        " channel y { quantity = \"count\" at = 2 scale = 0.25 range = { 0, 9 } accuracy = 0.5 "
        "}\n channel of { quantity = \"count\" range = { 0, 9 } value = \"x * y\" }\n"
        " channel z { quantity = \"count\" at = 4 range = { 0, 9 } }\n"
        " channel unknown { quantity = \"count\" range = { 0, 9 } value = \"x * z\" }\n"
        " channel nested { quantity = \"count\" range = { 0, 9 } value = \"x * stated\" }\n"
        " channel stated { quantity = \"count\" range = { 0, 90 } value = \"x * x\" accuracy = 0.5 "
        "accuracy-percent = 10 } }\n"
        "sensor s { part = \"P\" address = 0x48 }\n");
    file_write(folder, "w",
               "quantity three { level = 3 }\nquantity quarter { level = 0.25 }\n"
               "chip s { part = \"P\" address = 0x48 feels = { \"x=three\", \"y=quarter\", "
               "\"z=quarter\" } errors = { \"x=0\", \"y=0\", \"z=0\" } }\n");
    expect_said(folder, "read --rig x.rig --uncertainty", 0, "0.75 +/- 0.91");
    expect_said(folder, "read --rig x.rig --uncertainty", 0, "9.00 +/- 0.81"); /* 0.5 and a tenth */
    struct said said = tool(folder, "read --rig x.rig --uncertainty -f csv");
    static const char *const nobody_knows[] = { "s,unknown,", "s,nested," };
    for (size_t i = 0; i < COUNT(nobody_knows); i++) {
        const char *line = strstr(said.out, nobody_knows[i]);
        EXPECT(line && strcspn(line, "\r") > 5 && line[strcspn(line, "\r") - 1] == ',', "%s: %s",
               nobody_knows[i], said.out);
    }
    said_free(&said);
    scratch_remove(folder);
}

static void marks_over_bytes(void)
{
    static const struct {
        const char *bytes, *said;
    } rows[] = {
        { "0000aabb", "raw 0           good" },  { "0001aabb", "raw 1           bus" },
        { "0101aabb", "raw 257         bus" },   { "ffffaabb", "raw 65535       range" },
        { "fffeaabb", "raw 65534       good" },  { "0002aabc", "raw 2           stale" },
        { "0002abbb", "raw 2           stale" },
    };
    char *folder = scratch_make();
    file_write(folder, "x.rig",
               "board { }\nbus b { }\npart P { addresses = { 0x48 }  register R { address = 0 }\n"
               " register S { address = 1 } setting k { register = \"S\" options = { \"a=0\", "
               "\"b=1\" } }\n measure = { \"read R 4\" }\n"
               " channel x { quantity = \"count\" range = { 0, 65535 } ends = { none } rows-by = { "
               "\"k\" }\n  marks = { \"bus when bytes 0 to 1 mask 0x00ff is 0x0001\", \"range when "
               "bytes 0 to 1 is 0xffff\",\n   \"stale unless bytes 2 to 3 is 0xaabb\" }\n"
               "  row a { } row b { scale = 2 } } }\n");
    for (size_t i = 0; i < COUNT(rows); i++) {
        char *line = g_strdup_printf("convert --rig x.rig P %s", rows[i].bytes);
        expect_said(folder, line, 0, rows[i].said);
        g_free(line);
    }
    /* Settings would make another command of it, which has no bytes. */
    char *rig = file_text(folder, "x.rig");
    GString *both = g_string_new(rig);
    CU_ASSERT_EQUAL(
        g_string_replace(both, " measure =", " start = { \"command 1 with 2\" } measure =", 1), 1);
    file_write(folder, "x.rig", both->str);
    expect_said(folder, "convert --rig x.rig P 00000000", 2, "'command 1 with 2' is no step");
    g_string_free(both, TRUE);
    g_free(rig);
    scratch_remove(folder);
}

/* Arithmetic, beside what another language makes of it: x is 3, y 0.25. */
static void expressions(void)
{
    static const struct {
        const char *value, *said;
    } rows[] = {
        { "x * y + 2 - -x", "5.7500000" },
        { "(x - y) / (x + y) - 1e2", "-99.15384" },
        { "root(x * x + y * y)", "3.0103986" },
        { "power(greatest(x, y), least(x, 2))", "9.0000000" },
        { "absolute(y - x) * exp(-y) + ln(x)", "3.2403145" },
        { "x - y - 1 - y", "1.5000000" },
        { "x / y / 2 * 4", "24.0000000" },
        { "-x * -y", "0.7500000" },
        { "((x))", "3.0000000" },
        { "x / (x - 3)", "range" }, /* no number is in a range */
        { "root(y - x)", "range" },
        { "x-y", "makes no sense from \"x-y\" on" }, /* a name */
        { "x +", "makes no sense from \"\" on" },
        { "(x", "makes no sense from \"\" on" },
        { "x) + 1", "makes no sense from \") + 1\" on" },
        { "least(x)", "makes no sense from \")\" on" },
        { "root x", "makes no sense from \"x\" on" },
        { "1 2", "makes no sense from \"2\" on" },
        { "", "makes no sense from \"\" on" },
        { "x + z", "makes no sense from \"z\" on" },
        { "x ^ 2", "makes no sense from \"^ 2\" on" },
        { "k", "makes no sense from \"k\" on" }, /* a setting, and no factors */
    };
    char *folder = scratch_make();
    for (size_t i = 0; i < COUNT(rows); i++) {
        char *rig = g_strdup_printf(
            "board { }\nbus b { }\npart P { addresses = { 0x48 }\n"
            " register R { address = 0 } register S { address = 1 }\n"
            " setting k { register = \"S\" options = { \"a=0\", \"b=1\" } }\n"
            " measure = { \"read R 4\" }\n"
            " channel x { quantity = \"count\" at = 0 range = { 0, 9 } }\n"
            " channel y { quantity = \"count\" at = 2 scale = 0.25 range = { 0, 9 } }\n"
            " channel of { quantity = \"count\" range = { -200, 200 } decimals = 7 value = "
            "\"%s\" } }\n",
            rows[i].value);
        file_write(folder, "x.rig", rig);
        struct said said = tool(folder, "convert --rig x.rig P 00030001");
        EXPECT(strstr(said.status ? said.err : said.out, rows[i].said) != NULL, "%s: %s%s",
               rows[i].value, said.out, said.err);
        said_free(&said);
        g_free(rig);
    }
    GString *deep =
        g_string_new("board { }\nbus b { }\npart P { addresses = { 0x48 } register R { "
                     "address = 0 }\n measure = { \"read R 2\" } channel x { quantity = "
                     "\"count\" range = { 0, 9 } value = \"");
    for (unsigned i = 0; i < 5000; i++) {
        g_string_append_c(deep, '(');
    }
    g_string_append(deep, "\" } }\n");
    file_write(folder, "x.rig", deep->str);
    expect_said(folder, "convert --rig x.rig P 0003", 2, "makes no sense from");
    g_string_free(deep, TRUE);
    scratch_remove(folder);
}

void add_described_suite(void)
{
    SUITE("described", { "factory coefficients", factory_coefficients },
          { "below deck", below_deck }, { "expressions", expressions },
          { "marks over bytes", marks_over_bytes }, { "how exact", how_exact },
          { "in every command", in_every_command },
          { "at the end of its scale", at_the_end_of_its_scale },
          { "on serial lines", on_serial_lines }, { "with every ability", with_every_ability },
          { "mistakes", mistakes }, { "like the catalogue's", like_the_catalogues },
          { "several checksums", several_checksums },
          { "what a description knows", what_a_description_knows },
          { "inputs as the rig says", inputs_as_the_rig_says },
          { "nobody has no identity", nobody_has_no_identity });
}
