/* The built command, as its user meets it. */
#include "support.h"

#include <jansson.h>

#define EXAMPLE_TRIM                                                                               \
    "--trim '70 6b 43 67 18 fc 7d 8e 43 d6 d0 0b 27 0b 8c 00 f9 ff 8c 3c f8 c6 70 17 00 4b' "      \
    "--trim '6f 01 00 13 29 03 1e' "

/* A command line, its exit status, and what must stand on stdout or stderr. */
struct line {
    const char *arguments;
    int status;
    const char *out;
    const char *err;
};

static void run_lines(const struct line *lines, size_t count)
{
    for (size_t i = 0; i < count; i++) {
        struct said said = tool(NULL, lines[i].arguments);
        EXPECT(said.status == lines[i].status, "pintle %s: status %d", lines[i].arguments,
               said.status);
        EXPECT(says(said.out, lines[i].out), "pintle %s: out %.300s", lines[i].arguments, said.out);
        EXPECT(says(said.err, lines[i].err), "pintle %s: err %.300s", lines[i].arguments, said.err);
        said_free(&said);
    }
}

static void commands_do_their_job(void)
{
    static const struct line lines[] = {
        { "--help", 0, "Begin with:  pintle demo", "" },
        { "--version", 0, "pintle 0.", "" },
        { "scan --help", 0, "pintle scan --demo --at 16h", "" },
        { "parts", 0, "TMP102      digital thermometer", "" },
        { "parts", 0, "BME280    ", "" },
        { "parts bme280", 0, "88h    26 bytes, dig_T1", "" },
        { "parts TMP102", 0, "0x4b  ADD0 to SCL", "" },
        { "parts SHT31", 0, "[high] medium low", "" },
        { "scan --demo", 0, "0x76  BME280    baro       proven     register id reads 60h", "" },
        { "scan --demo --at 16h", 1, "missing    no answer, while others on this bus do", "" },
        { "scan --demo --format csv", 0, "cabin,0x76,proven,BME280,baro,,register id reads 60h",
          "" },
        { "regs --demo baro", 0, "d0h  id               0x60", "" },
        { "regs --demo baro id", 0, "chip number, 60h, read-only", "" },
        { "regs --demo sea CONFIGURATION.CR", 0, "2 = 4Hz", "" },
        { "regs --demo sea CONFIGURATION.CR=8Hz", 0, "CONFIGURATION    0x60e0", "" },
        { "regs --demo sea CONFIGURATION.CR=0", 0, "CONFIGURATION    0x6020", "" },
        { "regs --demo sea t_high=0x6400", 0, "T_HIGH           0x6400", "" },
        { "regs --demo cabin STATUS.RESET", 0, "1 = yes", "" },
        { "regs --demo cabin HEATER_ON=0", 0, "HEATER_ON written", "" },
        { "regs --demo --measure baro ctrl_meas.osrs_p", 0, "3 = x4", "" },
        { "scan --demo", 0, "select S1        ICM20948  motion     proven", "" },
        { "scan --demo", 0, "284c1e720700001d DS18B20   shaft      proven", "" },
        { "scan --demo", 0, "12 of 12 sensors are there, nothing else answers.", "" },
        { "read --demo battery", 0, " V             51", "" },
        { "read --demo battery", 0, "degC          62", "" },
        { "read --demo --at 47h20m motion", 0, "accel-y", "" },
        { "regs --demo motion ACCEL_CONFIG.ACCEL_FS_SEL=8g", 0, "ACCEL_CONFIG     0x05", "" },
        { "regs --demo shaft T_L=5", 0, "03h  T_L              0x05", "" },
        { "regs --demo shaft T_L=5", 0, "03h  T_L              0x46", "" },
        { "regs --demo shaft COPY_SCRATCHPAD=0", 0, "COPY_SCRATCHPAD written", "" },
        { "explain", 0, "one-bit-late        SPI                the identity comes out shifted",
          "" },
        { "explain garbled-code", 0, "noise, a loose plug or too long a cable", "" },
        { "explain ds18b20", 0, "+85 degC says that it lost its power", "" },
        { "read --demo --at 16h sea", 1, "likely it is unplugged, has no supply", "" },
        { "explain bad-crc", 0, "1-Wire: noise: a long cable", "" },
        { "parts MCP3008", 0, "SPI, mode 0, at most 1.35 MHz", "" },
        { "parts DS18B20", 0, "1-Wire, family 28h", "" },
        { "convert DS18B20 \"91 01 4b 46 7f ff 0f 10 25\"", 0, "25.0625", "" },
        { "regs --demo clock Seconds --watch 1s --for 3s", 0, "00:00:02.0", "" },
        { "regs --demo sea CONFIGURATION.OS --watch 1s --for 9s", 0, "0x0  \n", "" },
        { "read --demo baro", 0, "hPa", "" },
        { "read --demo clock", 0, "2026-06-12T00:00:00Z UTC", "" },
        { "read --demo --at 16h sea cabin", 1, "nothing answered", "" },
        { "read --demo --at 9h15m engine", 0, "engine     temperature", "" },
        { "convert TMP102 1910", 0, "25.0625 degC  raw 401         good", "" },
        { "convert TMP102 0x19 0x10 --format csv", 0, "temperature,25.0625,Cel,good\r\n", "" },
        { "convert TMP102 4b01 --set format=13-bit", 0, "150.0000 degC  raw 2400        range",
          "" },
        { "convert TMP102 c900 --format senml", 0, "\"v\":-55.0", "" },
        { "convert --demo engine 4b01", 0, "150.0000 degC  raw 2400        range", "" },
        { "parts --demo", 0, "temperature: sea, engine", "" },
        { "convert SHT31 'be ef 92 80 00 a2'", 0, "85.52 degC", "" },
        { "convert SHT31 be:ef:92:80:00:a2 --working", 0, "CRC of be ef              92, sent 92",
          "" },
        { "convert DS3231 00 00 19 40 00 30 12 05 12 06 26", 0, "2026-06-12T12:30:00Z UTC", "" },
        { "convert BME280 " EXAMPLE_TRIM "'65 5a c0 7e ed 00 80 e8' --working", 0,
          "t_fine                     128422", "" },
        { "convert BME280 " EXAMPLE_TRIM "'65 5a c0 7e ed 00 80 e8' --format csv", 0,
          "temperature,25.08,Cel,good\r\npressure,100653.2,Pa,good\r\n", "" },
        { "convert MPU6050 0000000040000000000000000083", 0, "accel-z                   1.00000 g",
          "" },
        { "convert BMI160 000000000000000000000040", 0, "temperature                     -", "" },
        { "convert BMI160 000000000000000000000040", 0, "accel-z                   1.00000 g", "" },
        { "convert ICM20948 000000004000000000000083", 0, "rate-z", "" },
        { "convert TOF10120 4c3d3734306d6d", 0, "740 mm", "" },
        { "convert ADS1115 4000 -f csv", 0, "ain1,,V,idle", "" },
        { "convert TMP102 1910 --unit K --format csv", 0, "temperature,298.2125,K,good\r\n", "" },
        { "convert BME280 " EXAMPLE_TRIM "'65 5a c0 7e ed 00 80 e8' -u inHg -u degF", 0,
          "77.14 degF", "" },
        { "convert BME280 " EXAMPLE_TRIM "'65 5a c0 7e ed 00 80 e8' -u hPa -f csv", 0,
          "pressure,1006.532,hPa,good\r\n", "" },
        { "read --demo baro --unit kPa", 0, "101.8907 kPa", "" },
        { "log --demo --for 1min --unit degF --unit mmHg", 0, " degF ", "run 0001" },
        { "calibrate --demo sea.temperature --unit degF 56=57 60=61.2 </dev/null", 1,
          "offset         -1.8000 degF", "Keep it in" },
        { "calibrate --demo cabin.temperature 20.4=20.0 --yes", 0, "offset         -0.4000 degC",
          "" },
        { "calibrate --demo baro.pressure 1010=1011 1020=1021.1 1000=1001 --yes", 0,
          "kept in sloop.calibration.json", "" },
        { "calibrate --demo sea.temperature 10=10.4 20=20.5 -m offset </dev/null", 1, "not kept",
          "Keep it in sloop.calibration.json? [y/N]" },
    };
    run_lines(lines, COUNT(lines));
}

/* What users get wrong: one sentence that helps, the right status, nothing on stdout. */
static void mistakes_are_answered(void)
{
    static const struct line lines[] = {
        { "", 2, "pintle COMMAND", "" },
        { "raed", 2, "", "there is no command 'raed'; did you mean 'pintle read'?" },
        { "xyzzy", 2, "", "'pintle --help' lists them" },
        { "read", 2, "", "Name its file with --rig FILE, or take the built-in one with --demo" },
        { "scan --demo --rig x", 2, "", "exclude each other" },
        { "scan --rig no.rig", 3, "", "there is no rig file no.rig; check the path" },
        { "scan --rig /", 3, "", "cannot read the rig file /" },
        { "scan --demo --at noon", 2, "", "--at takes a duration such as \"1d 6h\", not 'noon'" },
        { "scan --demo sea", 2, "", "it takes no names" },
        { "parts --markdown BME280", 2, "", "--markdown is of the whole catalogue" },
        { "parts --markdown --demo", 2, "", "--markdown is of the whole catalogue" },
        { "scan --demo --format senml", 2, "", "its formats are text and csv" },
        { "scan --demo --colour", 2, "", "Unknown option --colour; see 'pintle scan --help'" },
        { "read --demo --format xml", 2, "", "there is no format 'xml'" },
        { "read --demo see", 2, "", "no sensor 'see'; did you mean 'sea'? It has cabin, baro" },
        { "parts TMP12", 2, "", "did you mean 'TMP102'?" },
        { "parts a b", 2, "", "one name at a time" },
        { "explain jump", 0, "at a new level once thirty readings", "" },
        { "explain stale", 0, "  do: leave more time between readings", "" },
        { "explain frozne", 2, "", "did you mean 'frozen'?" },
        { "explain nonsense-word", 2, "", "there is nothing about 'nonsense-word'" },
        { "explain all-onse", 2, "", "did you mean 'all-ones'?" },
        { "explain a b", 2, "", "one word at a time" },
        { "convert DS18B20 \"91 01 4b 46 7f ff 0f 10 26\"", 1, "",
          "the CRC of 91 01 4b 46 7f ff 0f 10 is 25, not 26" },
        { "regs --demo", 2, "", "name a sensor" },
        { "regs --demo sea TEMPERATURE=5", 2, "",
          "TEMPERATURE cannot be written: it is read-only" },
        { "regs --demo sea TEMPERATURE.T=5", 2, "",
          "TEMPERATURE.T cannot be written: it is read-only" },
        { "regs --demo cabin HEATER_ON", 2, "", "HEATER_ON cannot be read: it is write-only" },
        { "regs --demo sea CONFIG", 2, "", "no register 'CONFIG'; did you mean" },
        { "regs --demo sea CONFIGURATION.XX", 2, "", "has no field 'XX'; it has OS, R, F" },
        { "regs --demo baro id.x", 2, "", "it has none" },
        { "regs --demo sea CONFIGURATION.CR=9", 2, "",
          "cannot be '9'; it takes a number from 0 to 0x3" },
        { "regs --demo sea CONFIGURATION=70000", 2, "", "it takes a number from 0 to 0xffff" },
        { "regs --demo sea CONFIGURATION.CR=fast", 2, "",
          "cannot be 'fast'; it takes a number from 0 to 0x3, or 0.25Hz, 1Hz, 4Hz, 8Hz" },
        { "regs --demo sea CONFIGURATION=-1", 2, "", "CONFIGURATION cannot be '-1'" },
        { "regs --demo sea CONFIGURATION.AL=1", 2, "", "CONFIGURATION.AL cannot be written" },
        { "regs --demo clock Status.BSY=1", 2, "", "Status.BSY cannot be written" },
        { "regs --demo cabin HEATER_ON=1", 2, "", "HEATER_ON cannot be '1'" },
        { "regs --demo --at 16h sea CONFIGURATION", 1, "", "nothing answered" },
        { "regs --demo sea --save /dev/null/x", 3, "", "cannot write /dev/null/x" },
        { "regs --demo sea --diff no.json", 3, "", "there is no snapshot no.json" },
        { "regs --demo sea T_LOW --save x", 2, "", "--save and --diff take a whole sensor" },
        { "regs --demo sea --watch 1s", 2, "", "--watch takes one register" },
        { "regs --demo sea T_LOW=5 --watch 1s", 2, "", "--watch takes one register" },
        { "regs --demo sea T_LOW --watch often", 2, "", "--watch takes a duration" },
        { "regs --demo sea --for 1s", 2, "", "--for goes with --watch" },
        { "regs --demo --at 16h sea --save x", 1, "", "nothing answered" },
        { "convert TMP102", 2, "", "give a part and its raw bytes" },
        { "convert TMP102 191", 2, "", "has 3 hexadecimal digits; bytes take two each" },
        { "convert TMP102 19zz", 2, "", "'z' in '19zz' is no hexadecimal digit" },
        { "convert TMP102 191000", 2, "", "the data has 3 bytes where it takes 2 bytes: 00h 2" },
        { "convert BME280 655ac07eed0080e8", 2, "",
          "the trim has 0 bytes where it takes 33 bytes" },
        { "convert TMP102 1910 --trim 00", 2, "", "the trim has 1 byte where it takes none" },
        { "convert SHT31 beef928000a3", 1, "", "the CRC of 80 00 is a2, not a3" },
        { "convert SHT32 beef928000a2", 2, "", "did you mean 'SHT31'?" },
        { "convert TMP102 1910 --set gain=2", 2, "", "has no setting 'gain'" },
        { "convert TMP102 1910 --unit Pa", 2, "",
          "nothing in a TMP102 is measured in 'Pa': no channel is of pressure" },
        { "read --demo --unit furlong", 2, "", "there is no unit 'furlong'; there are degC, degF" },
        { "read --demo --unit degF --format senml", 2, "", "this format has base units always" },
        { "log --demo --for 1min --unit degF --format csv", 0, "time,cabin.temperature/degF",
          "1 record in" },
        { "log --demo --for 1min --unit degF --format senml", 2, "", "has base units always" },
        { "read --demo baro --unit temperature=degF,pressure=hPa+mmHg", 0, "764.2", "" },
        { "read --demo baro --unit baro.pressure=kPa+inHg --format csv", 0, "30.08", "" },
        { "read --demo --unit cabin.pressure=kPa", 2, "", "nothing in this rig is called" },
        { "read --demo --unit relative-humidity=kPa", 2, "",
          "is not measured in 'kPa'; there are %RH" },
        { "convert MPU6050 010000000040000c3d000000000000 --unit m/s2+g", 0, "1.00000 g", "" },
        { "convert MPU6050 010000000040000c3d000000000000 --unit m/s2+g --format csv", 0,
          "accel-z,1.00000,g,good", "" },
        { "convert TMP102 1910 --unit degF --format senml", 2, "", "has base units always" },
        { "convert BMP180 --trim '01 98 ff b8 c7 d1 7f e5 7f f5 5a 71 18 2e 00 04 80 00 dd f9 0b "
          "34' "
          "6cfa5d2300 --unit pressure=hPa+kPa",
          0, "699.64 hPa", "" }, /* the data sheet's example */
        { "read --demo --unit degC+degF+K", 2, "", "are more than two units" },
        { "read --demo --unit degC+xyz", 2, "", "there is no unit 'xyz'; there are degC" },
        { "read --demo --unit degC+hPa", 2, "", "'degC+hPa' are units of two quantities" },
        { "read --demo --unit ohm", 2, "", "nothing in this rig is measured in 'ohm'" },
        { "convert TMP102 1910 --working --format csv", 2, "", "--working is for people" },
        { "calibrate --demo", 2, "", "name what to calibrate" },
        { "calibrate --demo cabin 20=21", 2, "", "write SENSOR.CHANNEL, as in cabin.temperature" },
        { "calibrate --demo clock.time 20=21", 2, "", "names no channel that measures" },
        { "calibrate --demo cabin.temperature 20:21", 2, "", "'20:21' is no pair" },
        { "calibrate --demo cabin.temperature 20=21 -m cubic", 2, "",
          "there are offset, line, polynomial, table" },
        { "calibrate --demo cabin.temperature 20=21 -m line", 2, "",
          "two pairs at different values" },
        { "calibrate --demo cabin.temperature --pairs no.csv", 3, "", "there is no CSV file" },
        { "calibrate --demo cabin.temperature </dev/null", 2, "", "needs one pair at least" },
        { "calibrate --demo --at 16h sea.temperature </dev/null", 1, "", "nothing answered" },
        { "log --demo here", 2, "", "'here' is one word too many" },
        { "log --demo --for ever", 2, "", "--for takes a duration" },
        { "log --demo --every 0s", 2, "", "--every takes a duration of at least 1 ms" },
        { "log --demo --into /dev/null/x", 3, "", "cannot write /dev/null/x: Not a directory" },
        { "log --demo --into /proc/x", 3, "", "cannot write /proc/x" },
        { "plot --demo 7", 2, "", "this rig has no run yet: there is no sloop-runs" },
        { "plot 7", 2, "", "there is no run '7'" },
        { "plot nowhere", 2, "", "there is no run 'nowhere' in ." },
        { "demo --into /dev/null/x", 3, "", "cannot use the folder /dev/null/x" },
    };
    run_lines(lines, COUNT(lines));
}

/* The same reading in three formats says the same. */
static void formats_agree(void)
{
    struct said csv = tool(NULL, "read --demo baro --format csv");
    struct said senml = tool(NULL, "read --demo baro --format senml");
    json_error_t error;
    json_t *pack = json_loads(senml.out, 0, &error);
    char **lines = g_strsplit(csv.out, "\r\n", -1);
    EXPECT(json_array_size(pack) == 3, "three records: %s", senml.out);
    CU_ASSERT_STRING_EQUAL(lines[0], "sensor,channel,value,unit,raw,bytes,quality");
    for (size_t i = 0; i < json_array_size(pack) && lines[i + 1]; i++) {
        json_t *record = json_array_get(pack, i);
        char **cells = g_strsplit(lines[i + 1], ",", -1);
        char *name = g_strdup_printf("%s.%s", cells[0], cells[1]);
        CU_ASSERT_STRING_EQUAL(json_string_value(json_object_get(record, "n")), name);
        CU_ASSERT_STRING_EQUAL(json_string_value(json_object_get(record, "u")), cells[3]);
        EXPECT_NEAR(json_number_value(json_object_get(record, "v")), atof(cells[2]), 1e-9, name);
        EXPECT(json_number_value(json_object_get(record, "t")) > 1781222400, "%s has a time", name);
        CU_ASSERT_STRING_EQUAL(cells[6], "good");
        g_free(name);
        g_strfreev(cells);
    }
    json_decref(pack);
    g_strfreev(lines);
    said_free(&csv);
    said_free(&senml);
}

/* A kept correction is used by the next command, from pairs in a file, and typed in. */
static void a_calibration_is_used(void)
{
    static const char *const ways[] = {
        "calibrate --demo cabin.temperature 15=16 20=21 25=26 --yes",
        "calibrate --demo cabin.temperature --pairs pairs.csv --yes",
        "calibrate --demo cabin.temperature --method offset 15=16 --yes",
        "calibrate --demo cabin.temperature 15=16 20=21 25=26 <yes.txt",
    };
    for (size_t i = 0; i < COUNT(ways); i++) {
        char *folder = scratch_make();
        file_write(folder, "pairs.csv", "sensor,reference\r\n15,16\r\n20,21\r\n25,26\r\n");
        file_write(folder, "yes.txt", "y\n");
        struct said before =
            tool(folder, "read --demo cabin -f csv | grep temperature | cut -d, -f3");
        struct said said = tool(folder, ways[i]);
        struct said after =
            tool(folder, "read --demo cabin -f csv | grep temperature | cut -d, -f3");
        struct said text = tool(folder, "read --demo cabin");
        EXPECT(said.status == 0, "%s: %s", ways[i], said.err);
        EXPECT_NEAR(atof(after.out) - atof(before.out), 1, 0.011, ways[i]);
        EXPECT(strstr(text.out, "good, corrected") != NULL, "%s: %s", ways[i], text.out);
        said_free(&before);
        said_free(&said);
        said_free(&after);
        said_free(&text);
        scratch_remove(folder);
    }
}

/* Asked at the prompt: the sensor is read beside each answer, nonsense is not taken. */
static void calibrating_by_asking(void)
{
    char *folder = scratch_make();
    file_write(folder, "answers", "15.3\nwarm\n15.2\n15.1\n\ny\n");
    struct said said =
        tool(folder, "calibrate --demo cabin.temperature --settle 1h -m offset <answers");
    EXPECT(said.status == 0, "status %d: %s", said.status, said.err);
    EXPECT(strstr(said.err, "That is no number") != NULL, "nonsense: %s", said.err);
    EXPECT(strstr(said.out, "15.300") && strstr(said.out, "15.100"), "pairs: %s", said.out);
    EXPECT(strstr(said.out, "kept in sloop.calibration.json") != NULL, "kept: %s", said.out);
    said_free(&said);
    scratch_remove(folder);
}

static void a_file_of_pairs(void)
{
    static const struct {
        const char *name;
        const char *text;
        int status;
        const char *said;
    } rows[] = {
        { "a word", "15,16\nfifteen,16\n", 2, "pairs.csv:2: 'fifteen,16' is no pair of numbers" },
        { "no heading", "15 16\n20,21\n", 2, "pairs.csv:1: '15 16' is no pair of numbers" },
        { "two headings", "sensor,reference\ndegC,degC\n15,16\n", 2, "pairs.csv:2: 'degC,degC'" },
        { "decimal commas", "13,5;12,9\n", 2,
          "'13,5;12,9' is no pair of numbers; each line is the "
          "sensor's value, a comma, the reference's, with a point" },
        { "decimal commas and tabs", "13,5\t12,9\n", 2, "with a point before the decimals" },
        { "no number", "15,nan\n", 2, "'15,nan' is no pair" },
        { "nothing", "", 2, "there is no pair of numbers in it" },
        { "a heading alone", "sensor,reference\n", 2, "there is no pair of numbers in it" },
        { "a byte-order mark",
          "\xef\xbb\xbf"
          "15,16\n20,21\n",
          1, "15.000       16.000" },
        { "a mark and a heading", "\xef\xbb\xbfsensor,reference\r\n15,16\r\n", 1,
          "15.000       16.000" },
        { "tabs", "sensor\treference\n15\t16\n", 1, "15.000       16.000" },
        { "semicolons", "-15.5;-16\n", 1, "-15.500      -16.000" },
    };
    char *folder = scratch_make();
    for (size_t i = 0; i < COUNT(rows); i++) {
        file_write(folder, "pairs.csv", rows[i].text);
        expect_said(folder, "calibrate --demo cabin.temperature --pairs pairs.csv </dev/null",
                    rows[i].status, rows[i].said);
    }
    file_write(folder, "sloop.calibration.json", "[]");
    expect_said(folder, "read --demo", 2, "this is no calibration file");
    scratch_remove(folder);
}

/* What is doubtful is said; with --yes it isn't kept, and what was kept before never is lost. */
static void doubtful_calibrations(void)
{
    static const struct {
        const char *arguments;
        const char *doubt; /* null: none */
    } rows[] = {
        { "20.0=20.1 20.1=20.3", "moves values by up to" },
        { "10=20 20=10", "turns the sensor upside down" },
        { "20=90", "a pair may be mistyped" },
        { "20=20.5 21=21.5", "the pairs lie within 1 degC of each other" },
        { "20=20.5 21=21.5 -m offset", NULL },
        { "10=10.5 30=30.6", NULL },
        { "-5.2=-5.0 20=20.1", NULL },
        { "-5.2=-5.0 -.5=-.4 20=20.1 -m line", NULL },
        { "1e300=1", "is too large for a reading" },
        { "1=1e39 2=2", "is too large for a reading" },
        { "10=5 20=5", "make no correction: its gain is 0" },
    };
    char *folder = scratch_make();
    for (size_t i = 0; i < COUNT(rows); i++) {
        char *line =
            g_strdup_printf("calibrate --demo cabin.temperature %s --yes", rows[i].arguments);
        struct said said = tool(folder, line);
        char *kept = file_text(folder, "sloop.calibration.json");
        EXPECT(said.status == (rows[i].doubt ? 2 : 0), "%s: status %d: %s", line, said.status,
               said.err);
        EXPECT(!rows[i].doubt || strstr(said.err, rows[i].doubt), "%s: %s", line, said.err);
        EXPECT(!!strstr(kept, "\"polynomial\"") == !rows[i].doubt, "%s: kept: %s", line, kept);
        file_write(folder, "sloop.calibration.json",
                   "{\"format\": \"pintle calibration 1\", \"corrections\": []}");
        g_free(kept);
        said_free(&said);
        g_free(line);
    }
    file_write(folder, "yes", "y\n");
    expect_said(folder, "calibrate --demo cabin.temperature 20=20.5 21=21.5 <yes", 0, "kept in");
    expect_said(folder, "calibrate --demo cabin.temperature 20=20.3 --yes", 2,
                "it takes the place of one from 2 samples, and is from 1");
    expect_said(folder, "calibrate --demo cabin.temperature 20=20.3 <yes", 0, "kept in");
    char *text = file_text(folder, "sloop.calibration.json");
    EXPECT(strstr(text, "21.5") && strstr(text, "\"in_use\": false"),
           "the one before is still there: %s", text);
    file_write(folder, "sloop.calibration.json",
               "{\"corrections\": [{\"sensor\": \"cabin\", \"channel\": \"temperature\", \"part\": "
               "\"SHT31\","
               " \"bus\": \"cabin\", \"address\": 68, \"gain\": 1e300, \"offset\": 0}]}");
    expect_said(folder, "read --demo cabin", 0,
                "is not used: its numbers are none that can be used");
    static const struct {
        const char *bus, *uncertainty, *said;
    } entries[] = {
        { "\"bus\": \"cabin\", ", "0.1", "16.23 degC" },
        { "\"bus\": \"cabin\", ", "null", "16.23 degC" },
        { "\"bus\": \"cabin\", ", "-1", "is not used: its numbers are none that can be used" },
        { "\"bus\": \"cabin\", ", "1e300", "is not used: its numbers" },
        { "\"bus\": \"aft\", ", "0.1", "is not used: the rig has no such sensor" },
        { "", "0.1", "is not used: the rig has no such sensor, part and place" },
    };
    for (size_t i = 0; i < COUNT(entries); i++) {
        char *entry = g_strdup_printf(
            "{\"format\": \"pintle calibration 2\", \"corrections\": [{\"sensor\": \"cabin\", "
            "\"channel\": \"temperature\", \"part\": \"SHT31\", %s\"address\": 68, \"in_use\": "
            "true, "
            "\"is\": \"polynomial\", \"numbers\": [0, 1, 1], \"uncertainty\": %s}]}",
            entries[i].bus, entries[i].uncertainty);
        file_write(folder, "sloop.calibration.json", entry);
        expect_said(folder, "read --demo cabin", 0, entries[i].said);
        g_free(entry);
    }
    g_free(text);
    scratch_remove(folder);
}

/* Registers kept, and what differs from them by field; not those of another part. */
static void snapshots(void)
{
    static const struct {
        const char *arguments;
        int status;
        const char *said;
    } rows[] = {
        { "regs --demo engine --save cold.json", 0, "saved in cold.json" },
        { "regs --demo engine --diff cold.json", 0, "0 of 4 registers differ from cold.json" },
        { "regs --demo --measure engine --diff cold.json", 0,
          "EM             1 = 13-bit, was 0 = 12-bit" },
        { "regs --demo --measure engine --diff cold.json", 0,
          "01h  CONFIGURATION  0x60b0, was 0x60a0" },
        { "regs --demo baro --diff cold.json", 2, "holds the registers of a TMP102" },
        { "regs --demo engine --diff none.json", 2, "none.json is no snapshot of registers" },
        { "regs --demo engine --diff half.json", 2, "half.json:1:" },
        { "regs --demo engine --diff odd.json", 2, "a TMP102 has no register 'KEEL'" },
        { "regs --demo engine --diff empty.json", 2,
          "or its value is no number that fits into it" },
        { "regs --demo engine --diff wide.json", 2, "or its value is no number that fits into it" },
    };
    char *folder = scratch_make();
    file_write(folder, "none.json", "[]");
    file_write(folder, "half.json", "{ ");
    file_write(folder, "odd.json", "{\"part\": \"TMP102\", \"registers\": {\"KEEL\": \"0x1\"}}");
    file_write(folder, "empty.json", "{\"part\": \"TMP102\", \"registers\": {\"T_LOW\": \"\"}}");
    file_write(folder, "wide.json",
               "{\"part\": \"TMP102\", \"registers\": {\"T_LOW\": \"0x10000\"}}");
    for (size_t i = 0; i < COUNT(rows); i++) {
        expect_said(folder, rows[i].arguments, rows[i].status, rows[i].said);
    }
    scratch_remove(folder);
}

/* The tour runs, and leaves what it says. */
static void the_tour(void)
{
    char *folder = scratch_make();
    struct said said = tool(folder, "demo --into tour");
    static const char *const left[] = { "tour/sloop.calibration.json",
                                        "tour/sloop-runs/0001/readings.csv",
                                        "tour/sloop-runs/0001/plot.png",
                                        "tour/sloop-runs/0001/plot.svg",
                                        "tour/sloop-runs/0001/run.json" };
    EXPECT(said.status == 0, "status %d: %s", said.status, said.err);
    for (size_t i = 0; i < COUNT(left); i++) {
        char *text = file_text(folder, left[i]);
        EXPECT(text[0] != '\0', "%s is there", left[i]);
        g_free(text);
    }
    said_free(&said);
    said = tool(folder, "demo --into tour");
    char *second = file_text(folder, "tour/sloop-runs/0002/run.json");
    EXPECT(said.status == 0 && strstr(second, "\"ended\": \"done\""), "a second tour: %s", second);
    g_free(second);
    said_free(&said);
    scratch_remove(folder);
}

void add_tool_suite(void)
{
    SUITE("tool", { "commands do their job", commands_do_their_job },
          { "mistakes are answered", mistakes_are_answered }, { "formats agree", formats_agree },
          { "a calibration is used", a_calibration_is_used },
          { "calibrating by asking", calibrating_by_asking },
          { "a file of pairs", a_file_of_pairs },
          { "doubtful calibrations", doubtful_calibrations },
          { "snapshots of registers", snapshots }, { "the tour", the_tour });
}
