/* Chips that ask most of a description: described and built in, they say the same of every block of
 * bytes; read from chips written from the datasheets, they tell the truth; and simulated from their
 * own descriptions, they go through every command. */
#include "support.h"

#include "pintle/host/rig/rig.h"

#define HARDEST DESCRIBED "/hardest.rig"

/* Which channel of the catalogue's part is meant; its bytes may lie elsewhere. */
static const struct pair {
    const char *described, *channel, *part, *its;
    int from, to, count; /* bytes of the described block, and where they are in the other */
} pairs[] = {
    { "LIGHT", "illuminance", "VEML7700", "illuminance", 0, 0, 4 },
    { "LIGHT", "white", "VEML7700", "white", 0, 0, 4 },
    { "SHAKE", "accel-x", "ADXL345", "accel-x", 0, 0, 6 },
    { "INPUTS", "ain0", "ADS1115", "ain0", 0, 0, 2 },
    { "INPUTS", "ain0-ain1", "ADS1115", "ain0-ain1", 2, 8, 2 },
    { "DAMP", "temperature", "HS3001", "temperature", 0, 0, 4 },
    { "DAMP", "humidity", "HS3001", "humidity", 0, 0, 4 },
    { "SUPPLY", "bus-voltage", "INA219", "bus-voltage", 0, 0, 4 },
    { "SUPPLY", "current", "INA219", "current", 0, 0, 4 },
    { "AIR", "temperature", "SHT40", "temperature", 0, 0, 6 },
    { "AIR", "humidity", "SHT40", "humidity", 0, 0, 6 },
    { "HEEL", "accel-z", "MPU6050", "accel-z", 0, 0, 15 },
    { "HEEL", "temperature", "MPU6050", "temperature", 0, 0, 15 },
    { "HEEL", "rate-z", "MPU6050", "rate-z", 0, 0, 15 },
    { "BILGE", "temperature", "TMP102", "temperature", 0, 0, 2 },
};

/* The same options by their names; those that the description lacks stay as they are at first. */
static void choose(const struct pintle_sheet *sheet, const struct pintle_sheet *other,
                   uint8_t *settings, uint8_t *others)
{
    pintle_part_initial(sheet->part, settings);
    pintle_part_initial(other->part, others);
    for (unsigned s = 0; s < sheet->part->setting_count; s++) {
        settings[s] = (uint8_t)((unsigned)rand() % sheet->part->settings[s].count);
        CU_ASSERT_EQUAL(pintle_sheet_set(other, sheet->settings[s].name,
                                         sheet->settings[s].options[settings[s]], others),
                        PINTLE_OK);
    }
}

static void every_block_the_same(void)
{
    struct pintle_problem problem = { 0 };
    struct pintle_rig *rig = pintle_rig_load(HARDEST, &problem);
    EXPECT(rig != NULL, "%s", problem.text);
    for (size_t i = 0; rig && i < COUNT(pairs); i++) {
        const struct pair *p = &pairs[i];
        const struct pintle_sheet *mine = pintle_rig_part(rig, p->described, &problem);
        const struct pintle_sheet *its = pintle_sheet_find(p->part);
        int a = pintle_sheet_channel(mine, p->channel);
        int b = pintle_sheet_channel(its, p->its);
        unsigned differ = 0;
        srand(17);
        for (unsigned n = 0; n < 66000; n++) {
            struct pintle_sample x = { 0 };
            struct pintle_sample y = { 0 };
            uint8_t settings[PINTLE_MOST_SETTINGS];
            uint8_t others[PINTLE_MOST_SETTINGS];
            choose(mine, its, settings, others);
            for (unsigned k = 0; k < mine->part->raw_size; k++) {
                x.raw[k] = (uint8_t)(rand() % 5 ? rand() >> 8 : rand() % 2 ? 0 : 0xff);
            }
            if (mine->part->raw_size == 2) { /* every one there is */
                x.raw[0] = (uint8_t)(n >> 8);
                x.raw[1] = (uint8_t)n;
            }
            memcpy(y.raw + p->to, x.raw + p->from, (size_t)p->count);
            repeat_end(its, y.raw);
            const struct pintle_block first = { .raw = x.raw, .settings = settings };
            const struct pintle_block second = { .raw = y.raw, .settings = others };
            pintle_sample_decode(mine->part, &first, &x);
            pintle_sample_decode(its->part, &second, &y);
            const struct pintle_reading *r = &x.channel[a];
            const struct pintle_reading *q = &y.channel[b];
            double off = fabs((double)(r->value - q->value));
            bool near_end =
                ((r->quality ^ q->quality) & (pintle_marks)~PINTLE_QUALITY_RANGE) == 0
                && fabs(fabs((double)r->value) - fabs((double)its->part->channels[b].highest))
                       < 1e-4 * fabs((double)r->value);
            bool none = isnan(r->value) && isnan(q->value);
            bool same = r->raw == q->raw && (none || off <= 3e-7 * fabs((double)q->value) + 1e-6)
                        && (r->quality == q->quality || near_end);
            if (!same && differ++ < 3) {
                EXPECT(0, "%s.%s, block %u: %d %.9g %x, not %d %.9g %x", p->described, p->channel,
                       n, r->raw, (double)r->value, r->quality, q->raw, (double)q->value,
                       q->quality);
            }
        }
    }
    pintle_rig_free(rig);
}

static double value_of(const char *csv, const char *channel)
{
    const char *at = strstr(csv, channel);
    return at ? g_ascii_strtod(at + strlen(channel) + 1, NULL) : NAN;
}

static const struct {
    const char *described, *part, *channel;
    double truth, share;
} truths[] = {
    { "LIGHT", "VEML7700", "deck,illuminance", 14000, 0.002 },
    { "INPUTS", "ADS1115", "tanks,ain0", 1.234, 0.001 },
    { "DAMP", "HS3001", "locker,temperature", 23.5, 0.005 },
    { "DAMP", "HS3001", "locker,humidity", 61, 0.005 },
    { "SUPPLY", "INA219", "battery,bus-voltage", 12.65, 0.001 },
    { "AIR", "SHT40", "cabin,temperature", 23.5, 0.006 },
    { "AIR", "SHT40", "cabin,humidity", 61, 0.006 },
    { "HEEL", "MPU6050", "heel,accel-z", 9.7, 0.006 },
    { "HEEL", "MPU6050", "heel,temperature", 23.5, 0.006 },
    { "BILGE", "TMP102", "bilge,temperature", 14.25, 0.009 },
};

/* With chips made from the descriptions, then with those written from the datasheets. */
static void read_them(bool from_datasheets)
{
    char *folder = scratch_make();
    char *rig = NULL;
    char *world = NULL;
    CU_ASSERT_FATAL(g_file_get_contents(HARDEST, &rig, NULL, NULL));
    CU_ASSERT_FATAL(g_file_get_contents(DESCRIBED "/hardest.world", &world, NULL, NULL));
    GString *text = g_string_new(world);
    for (size_t i = 0; from_datasheets && i < COUNT(truths); i++) {
        char *old = g_strdup_printf("part = \"%s\"", truths[i].described);
        char *new = g_strdup_printf("part = \"%s\"", truths[i].part);
        g_string_replace(text, old, new, 0);
        g_free(old);
        g_free(new);
    }
    g_string_replace(text, "part = \"SHAKE\"",
                     from_datasheets ? "part = \"ADXL345\"" : "part = \"SHAKE\"", 0);
    g_string_replace(text, "\"current=amperes\" }",
                     from_datasheets ? "\"current=amperes\" } errors = { \"bus-voltage=0\" }"
                                     : "\"current=amperes\" }",
                     0);
    g_string_replace(text, "=warm\", \"humidity=damp\" }",
                     "=warm\", \"humidity=damp\" } errors = { \"temperature=0\", \"humidity=0\" }",
                     0);
    g_string_replace(text, "\"accel-z=up\", \"temperature=warm\" }",
                     "\"accel-z=up\", \"temperature=warm\" } errors = { \"accel-z=0\","
                     " \"temperature=0\" }",
                     0);
    g_string_replace(text, "\"illuminance=daylight\" }",
                     "\"illuminance=daylight\" } errors = { \"illuminance=0\" }", 0);
    g_string_replace(text, "\"ain0=tank\", \"ain0-ain1=tank\" }",
                     from_datasheets
                         ? "\"ain0=tank\" } errors = { \"ain0=0\" }"
                         : "\"ain0=tank\", \"ain0-ain1=tank\" } errors = { \"ain0=0\" }",
                     0);
    g_string_replace(text, "\"temperature=water\" }",
                     "\"temperature=water\" } errors = { \"temperature=0\" }", 0);
    file_write(folder, "hardest.rig", rig);
    file_write(folder, "hardest.world", text->str);
    struct said said = tool(folder, "read --rig hardest.rig --format csv");
    EXPECT(said.status == 0, "%s%s", said.out, said.err);
    EXPECT((strstr(said.err, "that proves the plumbing, and nothing of the chip") != NULL)
               == !from_datasheets,
           "%s", said.err);
    for (size_t i = 0; i < COUNT(truths); i++) {
        EXPECT_NEAR(value_of(said.out, truths[i].channel), truths[i].truth,
                    truths[i].truth * truths[i].share, truths[i].channel);
    }
    said_free(&said);
    expect_said(folder, "scan --rig hardest.rig", 0, "8 of 8 sensors are there");
    expect_said(folder, "log --rig hardest.rig --for 5min", 0, "5 records in");
    expect_said(folder, "regs --rig hardest.rig bilge", 0, "CONFIGURATION");
    expect_said(folder, "trace --rig hardest.rig -- read locker", 0, "locker     humidity");
    g_string_free(text, TRUE);
    g_free(rig);
    g_free(world);
    scratch_remove(folder);
}

static void from_descriptions(void)
{
    read_them(false);
}

static void from_datasheets(void)
{
    read_them(true);
}

/* On the other kinds of bus. */
static void on_every_bus(void)
{
    static const char rig[] =
        "board { port = \"sim\" world = \"b.world\" }\n"
        "part GYRE { bus = \"spi\" mode = 3 read-bit = 0x80 burst-bit = 0x40 order = \"low\"\n"
        " register WHO { address = 0x0f access = \"read\" }\n"
        " register CTRL { address = 0x20 }\n"
        " register STATUS { address = 0x27 access = \"read\" }\n"
        " register X { address = 0x28 width = 2 access = \"read\" }\n"
        " setting range { register = \"CTRL\" bit = 4 options = { \"small=0\", \"large=3 times 4\" "
        "} }\n"
        " identity = { \"expect WHO 0x32\" } start = { \"write CTRL 7\", \"wait 1 ms\" }\n"
        " measure = { \"poll STATUS 8 mask 8 within 60 ms\", \"read X 4\", \"expect CTRL 7\" }\n"
        " channel x { quantity = \"angular rate\" bytes = 2 signed = true scale = 0.001\n"
        "  scaled-by = { \"range\" } range = { -200, 200 } decimals = 3 }\n"
        " channel y { quantity = \"angular rate\" at = 2 bytes = 2 signed = true scale = 0.001\n"
        "  scaled-by = { \"range\" } range = { -200, 200 } decimals = 3 } }\n"
        "part COUPLE { bus = \"spi\" measure = { \"fetch 4\" }\n"
        " channel t { quantity = \"temperature\" bytes = 2 drop = 2 signed = true scale = 0.25\n"
        "  range = { -200, 1350 } marks = { \"bus when byte 1 mask 1 is 1\","
        " \"stale unless byte 3 is 0x5a\" } } }\n"
        "part PROBE { bus = \"onewire\" family = 0x42\n"
        " register T { address = 0 width = 2 access = \"read\" }\n"
        " register CONF { address = 4 at-power-on = 0x7f }\n"
        " order = \"low\" measure = { \"power 0x44 94 ms\", \"read T\" }\n"
        " channel t { quantity = \"temperature\" signed = true order = \"low\" scale = 0.0625\n"
        "  range = { -55, 125 } decimals = 4 } }\n"
        "part RANGER { bus = \"serial\" text = true answers-within-ms = 150\n"
        " register ASK { head = \"r6\" access = \"write\" }\n"
        " register ANSWER { head = \"L=\" access = \"read\" width = 2 }\n"
        " measure = { \"write ASK '#'\", \"read ANSWER 12\" }\n"
        " channel distance { quantity = \"length\" at = 2 bytes = 4 signed = true scale = 0.001\n"
        "  range = { 0.1, 5 } decimals = 3 } }\n"
        "part FRAMES { bus = \"serial\" frame = 9 speed = 115200\n"
        " register F { address = 0x5959 access = \"read\" width = 2 }\n"
        " checksum sum { polynomial = 0 start = 0 over = 8 }\n"
        " measure = { \"read F 9\", \"check sum\" }\n"
        " channel d { quantity = \"length\" at = 2 order = \"low\" scale = 0.01 range = { 0, 12 } "
        "} }\n"
        "bus panel { kind = \"spi\" data = \"PO\" data-in = \"PI\" clock = \"PC\" }\n"
        "bus hull { kind = \"onewire\" pull-up = 2200 }\n"
        "bus bow { kind = \"serial\" } bus stern { kind = \"serial\" speed = 115200 }\n"
        "sensor gyre { part = \"GYRE\" bus = \"panel\" select = \"S1\" set = { \"range=large\" } "
        "}\n"
        "sensor couple { part = \"COUPLE\" bus = \"panel\" select = \"S2\" }\n"
        "sensor probe { part = \"PROBE\" bus = \"hull\" code = \"42000000000000%s\" }\n"
        "sensor ranger { part = \"RANGER\" bus = \"bow\" }\n"
        "sensor frames { part = \"FRAMES\" bus = \"stern\" }\n";
    static const char world[] =
        "quantity a { level = -5.5 }\nquantity b { level = 101.25 }\nquantity c { level = 21.5 }\n"
        "quantity d { level = 3.21 }\n"
        "chip gyre { part = \"GYRE\" bus = \"panel\" select = \"S1\" feels = { \"y=a\" } }\n"
        "chip couple { part = \"COUPLE\" bus = \"panel\" select = \"S2\" feels = { \"t=b\" } }\n"
        "chip probe { part = \"PROBE\" bus = \"hull\" code = \"42000000000000%s\" feels = { "
        "\"t=c\" } }\n"
        "chip ranger { part = \"RANGER\" bus = \"bow\" feels = { \"distance=d\" } }\n"
        "chip frames { part = \"FRAMES\" bus = \"stern\" feels = { \"d=d\" } }\n"
        "fault probe { kind = \"unplugged\" from = \"1h\" to = \"2h\" }\n";
    static const uint8_t code[] = { 0x42, 0, 0, 0, 0, 0, 0 };
    char crc[3];
    char *folder = scratch_make();
    g_snprintf(crc, sizeof crc, "%02x", pintle_onewire_crc(code, 7));
    char *text = g_strdup_printf(rig, crc);
    char *chips = g_strdup_printf(world, crc);
    file_write(folder, "b.rig", text);
    file_write(folder, "b.world", chips);
    struct said said = tool(folder, "read --rig b.rig --format csv");
    EXPECT(said.status == 0, "%s%s", said.out, said.err);
    EXPECT_NEAR(value_of(said.out, "gyre,y"), -5.5, 0.002, "SPI, registers");
    EXPECT_NEAR(value_of(said.out, "couple,t"), 101.25, 1e-6, "SPI, no registers");
    EXPECT_NEAR(value_of(said.out, "probe,t"), 21.5, 1e-6, "1-Wire");
    EXPECT_NEAR(value_of(said.out, "ranger,distance"), 3.21, 1e-6, "text");
    EXPECT_NEAR(value_of(said.out, "frames,d"), 3.21, 1e-6, "frames");
    EXPECT(strstr(said.out, "bus") == NULL && strstr(said.out, "stale") == NULL, "%s", said.out);
    said_free(&said);
    expect_said(folder, "scan --rig b.rig", 0, "5 of 5 sensors are there");
    expect_said(folder, "read --rig b.rig --at 90min probe", 1, "nothing answered");
    expect_said(folder, "trace --rig b.rig -- read couple", 0, "101.25 degC");
    expect_said(folder, "trace --rig b.rig -- read probe", 0, "21.5000 degC");
    g_free(text);
    g_free(chips);
    file_write(folder, "b.world", "chip x { part = \"NOSUCH\" bus = \"panel\" select = \"S1\" }\n");
    expect_said(folder, "read --rig b.rig", 2, "there is no simulated 'NOSUCH'");
    scratch_remove(folder);
}

void add_hardest_suite(void)
{
    SUITE("hardest", { "every block the same", every_block_the_same },
          { "from descriptions", from_descriptions }, { "from datasheets", from_datasheets },
          { "on every bus", on_every_bus });
}
