/* The electrical check, against figures worked out by hand from UM10204 (section 7.1):
 *
 *     least = (VDD - 0.4 V) / 3 mA       most = t_r / (0.8473 x C)       C = 10 pF per pin + cable
 */
#include "support.h"

#include "pintle/host/check/wiring.h"

static struct pintle_rig *load(const char *folder, const char *text)
{
    struct pintle_problem problem = { 0 };
    char *path = g_build_filename(folder, "x.rig", NULL);
    file_write(folder, "w", "");
    file_write(folder, "x.rig", text);
    struct pintle_rig *rig = pintle_rig_load(path, &problem);
    EXPECT(rig != NULL, "%s", problem.text);
    g_free(path);
    return rig;
}

#define ONE "sensor a { part = \"TMP102\" address = 0x48 }\n"
#define TWO ONE "sensor b { part = \"TMP102\" address = 0x49 }\n"

static void figures(void)
{
    static const struct {
        const char *name;
        const char *rig; /* the bus section's inside, then sensors */
        const char *sensors;
        double ohm, least, most, pf, rise;
    } rows[] = {
        { "100 kHz, one sensor, 20 cm", "pull-up = 4700", ONE, 4700, 966.67, 29505.5, 40, 159.3 },
        { "400 kHz, the same", "pull-up = 4700 speed = 400000", ONE, 4700, 966.67, 8851.6, 40,
          159.3 },
        { "1 MHz, the same", "pull-up = 2200 speed = 1000000", ONE, 2200, 145, 3540.7, 40, 74.56 },
        { "two sensors", "pull-up = 4700", TWO, 4700, 966.67, 23604.4, 50, 199.1 },
        { "3 m of cable", "pull-up = 2200 cable = 3", ONE, 2200, 966.67, 3688.2, 320, 596.5 },
        { "a better cable", "pull-up = 2200 cable = 3 cable-pf = 50", ONE, 2200, 966.67, 6942.5,
          170, 316.9 },
        { "pulled up to 5 V", "pull-up = 4700 pull-up-to = 5", ONE, 4700, 1533.3, 29505.5, 40,
          159.3 },
        { "pulled up to 1.8 V", "pull-up = 4700 pull-up-to = 1.8", ONE, 4700, 466.67, 29505.5, 40,
          159.3 },
        { "three in parallel", "pull-up = 4700",
          "sensor a { part = \"TMP102\" address = 0x48 pull-up = 10000 }\n"
          "sensor b { part = \"TMP102\" address = 0x49 pull-up = 10000 }\n",
          2422.7, 966.67, 23604.4, 50, 102.6 },
        { "only on the sensor's board", "cable = 0",
          "sensor a { part = \"TMP102\" address = 0x48 pull-up = 10000 }\n", 10000, 966.67, 59011,
          20, 169.5 },
        { "none", "cable = 0", ONE, 0, 966.67, 59011, 20, 0 },
    };
    char *folder = scratch_make();
    for (size_t i = 0; i < COUNT(rows); i++) {
        char *text = g_strdup_printf("board { world = \"w\" }\nbus m { %s }\n%s", rows[i].rig,
                                     rows[i].sensors);
        struct pintle_rig *rig = load(folder, text);
        struct pintle_wiring w;
        pintle_wiring_figures(rig, 0, &w);
        EXPECT_NEAR(w.pull_up_ohm, rows[i].ohm, 0.1, rows[i].name);
        EXPECT_NEAR(w.least_ohm, rows[i].least, 0.1, rows[i].name);
        EXPECT_NEAR(w.most_ohm, rows[i].most, rows[i].most * 1e-4, rows[i].name);
        EXPECT_NEAR(w.capacitance_pf, rows[i].pf, 1e-9, rows[i].name);
        EXPECT_NEAR(w.rise_ns, rows[i].rise, 0.1, rows[i].name);
        pintle_rig_free(rig);
        g_free(text);
    }
    scratch_remove(folder);
}

static void faults(void)
{
    static const struct {
        const char *name;
        const char *rig;
        unsigned count;
        const char *text; /* of the first */
    } rows[] = {
        { "all well", "bus m { pull-up = 4700 }\n" TWO, 0, "" },
        { "no pull-up", "bus m { }\n" ONE, 1,
          "there is no pull-up: the lines cannot rise; put one of 967 to 29505 ohm" },
        { "none on the second bus", "bus m { pull-up = 4700 }\nbus n { }\n" ONE, 1,
          "there is no pull-up" },
        { "too strong", "bus m { pull-up = 820 }\n" ONE, 1,
          "1 pull-up makes 820 ohm: a chip would have to sink 3.5 mA and is asked for 3 mA" },
        { "too many in parallel",
          "bus m { pull-up = 1800 }\nsensor a { part = \"TMP102\" address = 0x48 pull-up = 4700 }\n"
          "sensor b { part = \"TMP102\" address = 0x49 pull-up = 2200 }\n",
          1, "3 pull-ups in parallel make 818 ohm" },
        { "too weak for the speed", "bus m { pull-up = 10000 speed = 400000 }\n" ONE, 1,
          "10000 ohm and 40 pF rise in 339 ns where 400 kHz allow 300 ns; take at most 8852 ohm" },
        { "too much cable", "bus m { pull-up = 1000 cable = 4 }\n" ONE, 1,
          "420 pF of pins and cable are more than the 400 pF" },
        { "5 V on a 3.3 V board",
          "bus m { pull-up = 4700 pull-up-to = 5 }\n"
          "sensor a { part = \"DS3231\" address = 0x68 supply = 5 }\n",
          1, "the lines are pulled up to 5 V, and the board's 3.3 V pins stand 3.8 V" },
        { "5 V on a 3.3 V part",
          "board { logic = 5 }\nbus m { pull-up = 4700 pull-up-to = 5 }\n" ONE, 1,
          "and a TMP102 supplied with 3.3 V stands 3.8 V on its pins" },
        { "a level too low",
          "bus m { pull-up = 4700 pull-up-to = 3.3 }\n"
          "sensor a { part = \"DS3231\" address = 0x68 supply = 5 }\n",
          1, "takes only 3.50 V and more for high" },
        { "a supply too high",
          "bus m { pull-up = 4700 }\n"
          "sensor a { part = \"TMP102\" address = 0x48 supply = 5 }\n",
          2, "a TMP102 stands 1.4 to 3.6 V and is supplied with 5 V" },
        { "a supply too low",
          "bus m { pull-up = 4700 pull-up-to = 1.8 }\n"
          "sensor a { part = \"SHT31\" address = 0x44 supply = 1.8 }\n",
          1, "a SHT31 stands 2.15 to 5.5 V and is supplied with 1.8 V" },
        { "a pin used twice",
          "bus m { pull-up = 4700 data = \"J1\" clock = \"J2\" }\n"
          "bus n { pull-up = 4700 data = \"J4\" clock = \"J1\" }\n" ONE,
          1, "pin J1 is clock of this bus and data of bus 'm'" },
        { "one pin for both", "bus m { pull-up = 4700 data = \"J1\" clock = \"J1\" }\n" ONE, 1,
          "pin J1 is clock of this bus and data of bus 'm'" },
    };
    char *folder = scratch_make();
    for (size_t i = 0; i < COUNT(rows); i++) {
        struct pintle_wiring_fault *found = NULL;
        bool has_board = g_str_has_prefix(rows[i].rig, "board");
        char *text = has_board ? g_strdup_printf("board { world = \"w\" %s", rows[i].rig + 8)
                               : g_strdup_printf("board { world = \"w\" }\n%s", rows[i].rig);
        struct pintle_rig *rig = load(folder, text);
        unsigned count = pintle_wiring_check(rig, &found);
        EXPECT(count == rows[i].count, "%s: %u faults", rows[i].name, count);
        EXPECT(count == 0 || strstr(found[0].text, rows[i].text), "%s: %s", rows[i].name,
               count ? found[0].text : "");
        pintle_host_free(found);
        struct said said = tool(folder, "wiring --rig x.rig");
        EXPECT(said.status == (rows[i].count > 0), "%s: status %d", rows[i].name, said.status);
        EXPECT(
            strstr(said.out, rows[i].count ? rows[i].text : "Nothing speaks against switching on"),
            "%s: %s", rows[i].name, said.out);
        said_free(&said);
        pintle_rig_free(rig);
        g_free(text);
    }
    scratch_remove(folder);
}

static void the_card(void)
{
    static const struct {
        const char *arguments;
        int status;
        const char *said;
    } rows[] = {
        { "wiring --demo --draw card.png", 0, "CD         CC         0x76: SDO to GND" },
        { "wiring --demo --draw card.svg", 0, "2423 ohm to 3.3 V; 967 to 14753 ohm would do" },
        { "wiring --demo --draw card.gif", 2, "ends in .png or .svg" },
        { "wiring --demo --draw no/card.png", 3, "cannot write no/card.png" },
        { "wiring --rig wires.rig", 0, "Nothing speaks against switching on." },
        { "parts --rig wires.rig", 0, ": a" },
        { "read --rig wires.rig", 2, "names no world; add world = " },
        { "wiring --rig later.rig", 0, "Nothing speaks against switching on." },
        { "parts --rig later.rig", 0, ": a" },
        { "read --rig later.rig", 2, "there is no port 'usb' in this build" },
        { "wiring --demo sea", 2, "it takes no names" },
        { "wiring", 2, "which rig?" },
    };
    char *folder = scratch_make();
    file_write(folder, "wires.rig", "bus aft { pull-up = 4700 }\n" ONE); /* and no world yet, */
    file_write(folder, "later.rig", "board { port = \"usb\" }\nbus aft { pull-up = 4700 }\n" ONE);
    for (size_t i = 0; i < COUNT(rows); i++) {
        expect_said(folder, rows[i].arguments, rows[i].status, rows[i].said);
    }
    char *svg = file_text(folder, "card.svg");
    char *png = file_text(folder, "card.png");
    EXPECT(strstr(svg, "<svg") != NULL, "an SVG");
    EXPECT(strncmp(png, "\x89PNG", 4) == 0, "a PNG");
    g_free(svg);
    g_free(png);
    scratch_remove(folder);
}

static unsigned glyphs(const char *folder, const char *rig)
{
    file_write(folder, "w", "");
    file_write(folder, "x.rig", rig);
    expect_said(folder, "wiring --rig x.rig --draw x.svg", 0, "");
    char *svg = file_text(folder, "x.svg");
    unsigned count = 0;
    for (const char *at = svg; (at = strstr(at, "<use ")) != NULL; at++) {
        count++;
    }
    g_free(svg);
    return count;
}

/* Each sensor is on the card, with its name, its part and its address at least. */
static void every_sensor_is_drawn(void)
{
#define BUS "board { world = \"w\" }\nbus aft { pull-up = 4700 }\n"
#define TWO_MORE                                                                                   \
    "sensor bb { part = \"TMP102\" address = 0x49 }\n"                                             \
    "sensor cc { part = \"TMP102\" address = 0x4a }\n"
    char *folder = scratch_make();
    unsigned one = glyphs(folder, BUS ONE);
    unsigned three = glyphs(folder, BUS ONE TWO_MORE);
    EXPECT(one > 0 && three >= one + 2 * strlen("bbTMP1020x49"), "%u, then %u", one, three);
    scratch_remove(folder);
}

void add_wiring_suite(void)
{
    SUITE("wiring", { "figures by hand", figures }, { "faults", faults }, { "the card", the_card },
          { "every sensor is drawn", every_sensor_is_drawn });
}
