/* The simulated chips by themselves, byte for byte, from their datasheets and with no driver.
 *
 * A row is a conversation. Transfers stand between blanks; in one, segments stand between commas:
 *     w0160a0     write these bytes
 *     r60a0       read and expect these bytes, '.' for any digit
 *     -w01        the address must not be acknowledged
 *     !w0160      a data byte must be refused
 *     +26000      let so many microseconds pass
 * Every chip feels 20 degC, 50 %RH and 101325 Pa. */
#include "support.h"

struct talk {
    const char *part;
    uint8_t address;
    const char *name;
    const char *script;
};

static const struct talk talks[] = {
    /* SLOS854 section 8.5 */
    { "TMP102", 0x48, "power-on registers", "w00,r0000 w01,r60a0 w02,r4b00 w03,r5000" },
    { "TMP102", 0x48, "0 degC until the first conversion", "w00,r0000 +26000 r14.0" },
    { "TMP102", 0x48, "the pointer stays", "w02 r4b00 r4b00 w03,r5000 r5000" },
    { "TMP102", 0x48, "both bytes again and again", "w02,r4b004b00" },
    { "TMP102", 0x48, "read-only bits of the configuration",
      "w010000 w01,r6020 w01ffff w01,r7ff0" },
    { "TMP102", 0x48, "temperature cannot be written", "+26000 w005500 w00,r14.0" },
    { "TMP102", 0x48, "limits can", "w025a00 w02,r5a00 w03,r5000" },
    { "TMP102", 0x48, "one byte alone changes nothing", "w0100 w01,r60a0" },
    { "TMP102", 0x48, "13 bits are one place lower", "w0160b0 +300000 w00,r0a.." },
    { "TMP102", 0x48, "one shot: OS clears, then sets",
      "w0161a0 w01e1a0 w01,r61a0 +26000 w01,re1a0" },
    { "TMP102", 0x48, "shut down it converts no more", "w0161a0 +1000000 w00,r0000" },
    { "TMP102", 0x48, "nobody else answers", "w00,r0000" },
    /* DS25095 section 5 */
    { "MCP9808", 0x18, "identity and power-on registers",
      "w06,r0054 w07,r0400 w01,r0000 w02,r0000 w05,r0000 w08,r03" },
    { "MCP9808", 0x18, "250 ms to the first conversion", "w05,r0000 +250000 w05,rc1.." },
    { "MCP9808", 0x18, "30 ms at the coarsest, behind the conversion under way",
      "w0800 +220000 w05,r0000 +5000 w05,rc1.. +30000 w05,rc140 w08,r00" },
    { "MCP9808", 0x18, "locked it can be woken and no more",
      "w010100 w0101c0 w0107cf w01,r01c0 w010000 w01,r00c0 w021ffc w02,r0000" },
    { "MCP9808", 0x18, "flags follow the limits", "w020500 w040600 +250000 w05,r01.. w02,r0500" },
    { "MCP9808", 0x18, "below the lower limit", "w020500 w040600 w030400 +250000 w05,r21.." },
    { "MCP9808", 0x18, "shut down it converts no more", "w010100 +900000 w05,r0000" },
    { "MCP9808", 0x18, "unused bits of the limits", "w02ffff w02,r1ffc" },
    /* SHT3x-DIS version 7, sections 4.3 to 4.11 */
    { "SHT31", 0x44, "deaf after power-up", "-wf32d +500 wf32d,r8010e1" },
    { "SHT31", 0x44, "status after clearing", "+1000 w3041 wf32d,r000081" },
    { "SHT31", 0x44, "an unknown command is refused and noted", "+1000 !wabcd wf32d,r801283" },
    { "SHT31", 0x44, "nothing to fetch", "+1000 -r00" },
    { "SHT31", 0x44, "busy while measuring", "+1000 w2400 -r000000000000 +12500 r5f.........." },
    { "SHT31", 0x44, "medium takes 4.5 ms", "+1000 w240b +4000 -r00 +500 r5f.........." },
    { "SHT31", 0x44, "low takes 2.5 ms", "+1000 w2416 +2500 r5f.........." },
    { "SHT31", 0x44, "a result is fetched once", "+1000 w2416 +2500 r5f.......... -r00" },
    { "SHT31", 0x44, "heater on and off", "+1000 w306d wf32d,ra010.. w3066 wf32d,r8010.." },
    { "SHT31", 0x44, "soft reset switches the heater off",
      "+1000 w306d w30a2 +1500 wf32d,r8010.." },
    { "SHT31", 0x44, "a third byte is refused", "+1000 !wf32d00" },
    { "SHT31", 0x44, "measuring by itself it hears nothing but a break",
      "+1000 w2737 +20000 !w2400 !w30a2 wf32d,r801283 w3093 -w30a2 +1000 w30a2" },
    /* BST-BME280-DS002 sections 5.3 and 5.4 */
    { "BME280", 0x76, "identity and power-on values",
      "wd0,r60 wf2,r00 wf4,r0000 wf7,r.....0.....08000" },
    { "BME280", 0x76, "copying trim after power-up", "wf3,r01 +2000 wf3,r00" },
    { "BME280", 0x76, "measuring, then back to sleep",
      "+2000 wf425 wf3,r08 +7000 wf3,r00 wf4,r24 wf7,r.....0.....08000" },
    { "BME280", 0x76, "humidity needs both registers",
      "+2000 wf425 +9000 wfd,r8000 wf201 +9000 wfd,r8000 wf425 +9000 wf2,r01 "
      "wf7,r.....0.....0...." },
    { "BME280", 0x76, "what is skipped keeps its power-on value",
      "+2000 wf421 +5000 wf7,r800000.....08000" },
    { "BME280", 0x76, "normal mode goes on",
      "+2000 wf427 +9000 wf4,r27 wf7,r.....0.....0 +9000 wf3,r0. wf4,r27" },
    { "BME280", 0x76, "pairs of register and value", "wf201f510 wf2,r01 wf5,r10" },
    { "BME280", 0x76, "reset", "wf201 we0b6 wf2,r00" },
    { "BME280", 0x76, "no reset but B6h", "wf201 we0b7 wf2,r01" },
    { "BME280", 0x76, "unused bits of ctrl_hum read 0", "wf2ff wf2,r07" },
    /* 19-5170, figure 1 */
    { "DS3231", 0x68, "power-on registers",
      "w00,r00000001010100 w0e,r1c8c w11,r0000 +130000 w0e,r1c88 w11,r1..." },
    { "DS3231", 0x68, "it counts", "+3000000 w00,r03" },
    { "DS3231", 0x68, "59 s to the next year", "w0059592307311299 +1000000 w00,r00000001018100" },
    { "DS3231", 0x68, "29 February",
      "w00595923022802"
      "24 +1000000 w03,r03290224" },
    { "DS3231", 0x68, "no 29 February", "w0059592302280223 +1000000 w03,r03010323" },
    { "DS3231", 0x68, "11:59:59 PM to AM", "w0059597105110626 +1000000 w00,r000052061206" },
    { "DS3231", 0x68, "12:59:59 to 1 PM", "w00595972 +1000000 w00,r000061" },
    { "DS3231", 0x68, "the address wraps after 12h", "w12,r..00" },
    { "DS3231", 0x68, "flags can be cleared, not set",
      "+130000 w0f8b w0f,r88 w0f08 w0f,r08 w0f80 w0f,r00" },
    { "DS3231", 0x68, "temperature cannot be written", "+130000 w117f w11,r1..." },
    { "DS3231", 0x68, "a conversion when asked", "+130000 w0e3c w0e,r3c8c +130000 w0e,r1c88" },
    { "DS3231", 0x68, "writing the seconds restarts the second",
      "+900000 w0030 +900000 w00,r30 +100000 w00,r31" },
    /* 19-7487: figure 9, tables 2 and 3; the codes come from the address */
    { "DS18B20", 0x2a, "power-on scratchpad", "wccbe,r50054b467fff0c101c" },
    { "DS18B20", 0x2a, "its code", "w33,r282a0000000000.." },
    { "DS18B20", 0x2a, "converts in 640 ms", "wcc44 +640000 wccbe,r..014b467fff..10" },
    { "DS18B20", 0x2a, "9 bits take 80 ms", "wcc4e4b461f +10 wcc44 +80000 wccbe,r..014b461fff" },
    { "DS18B20", 0x2a, "85 degC until then", "wcc44 +100000 wccbe,r5005" },
    { "DS18B20", 0x2a, "reserved bits of the configuration",
      "wcc4e1122ff wccbe,r500511227fff0c10" },
    { "DS18B20", 0x2a, "recall brings the limits back", "wcc4e11223f wccb8 wccbe,r50054b467f" },
    { "DS18B20", 0x2a, "copied they stay", "wcc4e11223f wcc48 +20000 wccb8 wccbe,r500511223f" },
    { "DS18B20", 0x2a, "it has a supply", "wccb4,rff" },
    { "DS18B20", 0x2a, "another's code", "w55281100000000000100,rff wccbe,r5005" },
    /* DS21295 figures 5-1 and 5-2: null bit, ten bits, then the low ones again */
    { "MCP3008", 2, "single-ended, 1 V of 3.3 V", "w30,r26db w0180,r36" },
    { "MCP3008", 2, "a pair of equal inputs", "w2000,r00" },
    /* DS-000189 section 7 */
    { "ICM20948", 1, "identity and power-on values", "w80,rea w86,r41 w85,r40 w83,r00" },
    { "ICM20948", 1, "banks", "w7f20 w81,r01 w94,r01 wff,r20 w7f00 w80,rea" },
    { "ICM20948", 1, "asleep it measures nothing", "+100000 wad,r000000000000" },
    { "ICM20948", 1, "awake it does", "w0601 +50000 wb1,r.. wb2,r.. w9a,r01 w9a,r00" },
    { "ICM20948", 1, "a reset forgets", "+10 w0601 w0310 w0680 w86,r00 +12000 w86,r41 w83,r00" },
    { "ICM20948", 1, "identity cannot be written", "w0011 w80,rea" },
    /* DocID15094 section 7 */
    { "LIS331DLH", 3, "identity and power-on values", "w8f,r32 wa0,r07 we0,r0700" },
    { "LIS331DLH", 3, "without the increment bit the same again", "wa0,r070707" },
    { "LIS331DLH", 3, "powered down it measures nothing", "+100000 wa7,r00 we8,r000000000000" },
    { "LIS331DLH", 3, "awake it does, and the status clears",
      "w2027 +40000 wa7,r0f wec,r.03f wa7,r00" },
    { "LIS331HH", 3, "a third of the counts", "w2027 +40000 we8,r........ wec,r3015" },
    /* 19-5793 tables 2 to 4 */
    { "MAX31855", 0, "20 degC at both ends", "r01..1..0" },
    /* AS5600 datasheet, register description */
    { "AS5600", 0x36, "a magnet, and about 0 degrees", "w0b,r20 w1a,r80 w0c,r.." },
};

/* The hexadecimal byte at `text`; -1 where a digit may be any. */
static int wanted_nibble(char c)
{
    return c == '.' ? -1 : g_ascii_xdigit_value(c);
}

static bool fits(const char *pattern, const uint8_t *bytes, unsigned count)
{
    for (unsigned i = 0; i < 2 * count; i++) {
        int wanted = wanted_nibble(pattern[i]);
        int got = i % 2 ? bytes[i / 2] & 15 : bytes[i / 2] >> 4;
        if (wanted >= 0 && wanted != got) {
            return false;
        }
    }
    return true;
}

/* SPI clocks the segments through under one select, 1-Wire begins with a reset. */
static enum pintle_status pass(struct bench *bench, const struct talk *talk,
                               const struct pintle_segment *segments, uint8_t count)
{
    const struct pintle_sim_model *model = bench->chip->model;
    if (model->kind == PINTLE_SIM_I2C) {
        return pintle_i2c_transfer(&bench->bus, talk->address, segments, count);
    }
    if (model->kind == PINTLE_SIM_SPI) {
        const struct pintle_spi_way way = { .clock_hz = 100000,
                                            .select = talk->address,
                                            .mode = model->modes & 1 ? 0 : 3 };
        return bench->spi.calls->transfer(bench->spi.common.context, &way, segments, count);
    }
    enum pintle_status status = bench->line.calls->reset(bench->line.common.context);
    for (uint8_t i = 0; i < count && status == PINTLE_OK; i++) {
        status = bench->line.calls->slots(bench->line.common.context, segments[i].out,
                                          segments[i].in, (uint16_t)(8 * segments[i].length), 0);
    }
    return status;
}

/* One transfer: segments with commas between. */
static void run_transfer(struct bench *bench, const struct talk *talk, const char *word)
{
    enum pintle_status expected = word[0] == '-'   ? PINTLE_NO_ANSWER
                                  : word[0] == '!' ? PINTLE_DATA_REFUSED
                                                   : PINTLE_OK;
    char **parts = g_strsplit(word + (expected != PINTLE_OK), ",", -1);
    struct pintle_segment segments[4];
    uint8_t bytes[4][32] = { { 0 } };
    uint8_t count = 0;
    for (; parts[count]; count++) {
        bool reading = parts[count][0] == 'r';
        uint16_t length = (uint16_t)(strlen(parts[count] + 1) / 2);
        for (unsigned i = 0; i < length && !reading; i++) {
            bytes[count][i] = (uint8_t)(wanted_nibble(parts[count][1 + 2 * i]) * 16
                                        + wanted_nibble(parts[count][2 + 2 * i]));
        }
        segments[count] = (struct pintle_segment){ reading ? NULL : bytes[count],
                                                   reading ? bytes[count] : NULL, length };
    }
    enum pintle_status status = pass(bench, talk, segments, count);
    EXPECT(status == expected, "%s, %s, at %s: %s", talk->part, talk->name, word,
           pintle_status_word(status));
    for (uint8_t i = 0; i < count && expected == PINTLE_OK; i++) {
        EXPECT(!segments[i].in || fits(parts[i] + 1, bytes[i], segments[i].length),
               "%s, %s, at %s: got %02x %02x ...", talk->part, talk->name, word, bytes[i][0],
               bytes[i][1]);
    }
    g_strfreev(parts);
}

static void converse(bool over_wires)
{
    for (size_t i = 0; i < COUNT(talks); i++) {
        struct bench bench;
        struct wired wired;
        pintle_sim_init(&bench.sim, 1, 0, 1);
        bench.chip = pintle_sim_add(&bench.sim, talks[i].part, 0, talks[i].address);
        bench.bus = pintle_sim_i2c(&bench.sim, 0);
        bench.spi = pintle_sim_spi(&bench.sim, 0);
        bench.line = pintle_sim_onewire(&bench.sim, 0);
        bench.clock = pintle_sim_clock(&bench.sim);
        bench.sim.bus[0].bit_ns = 100; /* traffic takes next to no time */
        bench.chip->slowness = 0;      /* conversions the typical one */
        memset(&bench.chip->state, 0, sizeof bench.chip->state);
        bench.chip->model->power_up(bench.chip);
        if (over_wires) {
            bench_wire(&bench, &wired);
            bench.bus = wire_up(&wired, &bench.sim, 1000000);
        }
        char **words = g_strsplit(talks[i].script, " ", -1);
        for (unsigned w = 0; words[w]; w++) {
            if (words[w][0] == '+') {
                pintle_sim_pass(&bench.sim, (uint64_t)atoll(words[w] + 1));
            } else {
                run_transfer(&bench, &talks[i], words[w]);
            }
        }
        g_strfreev(words);
    }
}

static void conversations(void)
{
    converse(false);
}

/* The same chips, the same bytes, edge by edge. */
static void conversations_over_wires(void)
{
    converse(true);
}

/* Two chips on one address pull together: a zero of either wins. */
static void two_on_one_address(void)
{
    struct bench bench;
    uint8_t pointer = 2;
    uint8_t got[2] = { 0 };
    const struct pintle_segment both[] = { { &pointer, NULL, 1 }, { NULL, got, 2 } };
    pintle_sim_init(&bench.sim, 2, 0, 1);
    bench.bus = pintle_sim_i2c(&bench.sim, 0);
    struct pintle_i2c second = pintle_sim_i2c(&bench.sim, 1);
    pintle_sim_add(&bench.sim, "TMP102", 0, 0x48);
    pintle_sim_poke(pintle_sim_add(&bench.sim, "TMP102", 0, 0x48), 0x02, 2, 0x6400);
    CU_ASSERT_EQUAL(pintle_i2c_transfer(&bench.bus, 0x48, both, 2), PINTLE_OK);
    EXPECT(got[0] == (0x4b & 0x64) && got[1] == 0, "got %02x %02x", got[0], got[1]);
    CU_ASSERT_EQUAL(pintle_i2c_probe(&second, 0x48), PINTLE_NO_ANSWER);
}

/* A transfer longer than its limit says so. */
static void a_slow_bus(void)
{
    struct bench bench;
    bench_make(&bench, &pintle_tmp102, 0x48);
    bench.sim.bus[0].bit_ns = 1000000;
    bench.bus.limit_us = 20000;
    uint8_t got[4];
    const struct pintle_segment read = { NULL, got, 4 };
    CU_ASSERT_EQUAL(pintle_i2c_transfer(&bench.bus, 0x48, &read, 1), PINTLE_TIME_LIMIT);
    CU_ASSERT_EQUAL(pintle_i2c_probe(&bench.bus, 0x48), PINTLE_OK);
}

/* The same seed, the same world; another seed, another specimen. */
static void the_seed_decides(void)
{
    float values[3];
    static const uint64_t seeds[] = { 7, 7, 8 };
    for (int i = 0; i < 3; i++) {
        struct bench bench;
        struct pintle_sample sample;
        pintle_sim_init(&bench.sim, 1, 0, seeds[i]);
        pintle_sim_add(&bench.sim, "BME280", 0, 0x76);
        bench.bus = pintle_sim_i2c(&bench.sim, 0);
        bench.clock = pintle_sim_clock(&bench.sim);
        CU_ASSERT_EQUAL(any_on_i2c(&bench.any, &pintle_bme280, &bench.bus, 0x76), PINTLE_OK);
        CU_ASSERT_EQUAL(bench_read(&bench, &sample), PINTLE_OK);
        values[i] = sample.channel[PINTLE_BME280_PRESSURE].value;
    }
    CU_ASSERT_EQUAL(values[0], values[1]);
    CU_ASSERT_NOT_EQUAL(values[0], values[2]);
}

void add_chips_suite(void)
{
    SUITE("chips", { "conversations from the datasheets", conversations },
          { "the same over wires", conversations_over_wires },
          { "two on one address", two_on_one_address }, { "a slow bus", a_slow_bus },
          { "the seed decides", the_seed_decides });
}
