/* What trace tells, writes and draws, from the built command. */
#include "support.h"

static void what_is_told(void)
{
    static const struct {
        const char *arguments;
        int status;
        const char *told; /* in the output or in what is said */
    } rows[] = {
        { "trace --demo --do 'aft 0x48: read CONFIGURATION'", 0,
          "0x48+ sea      write 01+ CONFIGURATION\n" },
        { "trace --demo --do 'aft 0x48:read 0x01 2'", 0,
          "again    0x48+ sea      read  60+ a0-  stop" },
        { "trace --demo --do 'aft 0x48: send 01, fetch 2'", 0,
          "again    0x48+ sea      read  60+ a0-  stop" },
        { "trace --demo --do 'aft 0x48: write T_LOW 0x1234'", 0, "write 02+ T_LOW 12+ 34+  stop" },
        { "trace --demo --do 'aft 0x50'", 0, "aft      0x50-          write  stop" },
        { "trace --demo --do 'aft 0x50'", 0, "aft 0x50: nothing answered" },
        { "trace --demo -- read baro", 0, "0x03- no chip  read   stop" },
        { "trace --demo --do 'cabin 0x44: read STATUS'", 0, "read  80+ 10+ e1-  stop" },
        { "trace --demo --do 'cabin 0x44: command 0x30a2'", 0, "write 30+ a2+" },
        { "trace --demo --do 'cabin 0x44: send ab cd'", 0, "write ab+ cd-" },
        { "trace --demo -- read baro", 0, "write d0+ id" },
        { "trace --demo -- read baro", 0, "write f4+ ctrl_meas 2d+" },
        { "trace --demo -- regs sea CONFIGURATION.CR=1Hz", 0, "write 01+ CONFIGURATION 60+ 60+" },
        { "trace --demo --at 16h -- read sea", 1, "0x48- sea      write  stop" },
        { "trace --demo --do 'panel S1: send 80, fetch 1'", 0,
          "S1 motion   80/ff read  WHO_AM_I 00/ea  end, 33.0 us" },
        { "trace --demo --do 'panel S1: read GYRO_CONFIG_1'", 0, "7f/ff write bank 20/ff  end" },
        { "trace --demo -- read motion", 0, "7f/ff write bank 20/ff  end" },
        { "trace --demo -- read motion", 0, "94/ff read  ACCEL_CONFIG 00/01" },
        { "trace --demo --do 'hull 28 4c1e72070000 1d'", 2, "is no transfer" },
        { "trace --demo --do 'hull 284c1e720700001d: send b4, fetch 1'", 0,
          "reset+ 55 match 284c1e720700001d shaft b4 read power supply ff" },
        { "trace --demo --do 'hull: send 33, fetch 8'", 0, "reset+ 33" },
        { "trace --demo -- scan", 0, "reset+ f0 search 28a03b91070000a2 icebox" },
        { "trace --demo --do 'aft 72abc: send 01'", 2, "'aft 72abc: send 01' is no transfer" },
        { "trace --demo --do ' aft  0x48 :  send  01 ,fetch  2'", 0, "write 01+ CONFIGURATION" },
        { "trace --demo --do 'panel S9: fetch 1'", 2, "'panel S9: fetch 1' is no transfer" },
        { "trace --demo", 2, "name one command that talks to sensors" },
        { "trace --demo -- plot 1", 2, "name one command that talks to sensors" },
        { "trace --demo --do 'aft 0x48' -- read sea", 2, "name one command" },
        { "trace --demo --do 'bow 0x48: fetch 1'", 2, "'bow 0x48: fetch 1' is no transfer" },
        { "trace --demo --do 'aft 0x90: fetch 1'", 2, "is no transfer; write a bus and a place" },
        { "trace --demo --do 'aft 0x48: peek 1'", 2, "'aft 0x48: peek 1' is no transfer" },
        { "trace --demo --do 'aft 0x50: read 0x01 2'", 2, "where the rig has a sensor, read" },
        { "trace --demo --do 'aft 0x48: read WIND'", 2,
          "a TMP102 has no register 'WIND'; 'pintle regs sea' names them, and a number" },
        { "trace --demo --do 'aft 0x48: write T_LOV 1'", 2, "did you mean 'T_LOW'?" },
        { "trace --demo --do 'aft 0x48: write T_LOW 65536'", 2, "is no transfer" },
        { "trace --demo --do 'aft 0x48: send 012'", 2, "'aft 0x48: send 012' is no transfer" },
        { "trace --demo --do 'aft 0x48: fetch 99'", 2, "up to 32" },
        { "trace --demo --do 'aft 0x48: read'", 2, "'aft 0x48: read' is no transfer" },
        { "trace --demo --do 'aft 0x48: 01'", 2, "'aft 0x48: 01' is no transfer" },
        { "trace --demo --do 'aft'", 2, "'aft' is no transfer" },
        { "trace --demo --do ''", 2, "'' is no transfer" },
        { "trace -- read sea", 2, "which rig?" },
        { "trace --demo --vcd /dev/null/x -- read sea", 3, "cannot write /dev/null/x" },
        { "trace --demo --draw x.bmp -- read sea", 2, "ends in .png or .svg" },
        { "trace --demo --draw x.png --transfer 99 -- read sea", 2, "there is no transfer 99" },
        { "trace --demo -- read tide", 2, "the rig has no sensor 'tide'" },
    };
    for (size_t i = 0; i < COUNT(rows); i++) {
        expect_said(NULL, rows[i].arguments, rows[i].status, rows[i].told);
    }
}

/* A reader of waveform files, from IEEE 1364-2005 section 18 alone, that also hears I2C on the pair
 * of signals `data` and `clock`. Returns the bytes with their acknowledges, "48+ 01+ ..". */
static char *hear_vcd(const char *text, char data, char clock)
{
    GString *heard = g_string_new(NULL);
    char **lines = g_strsplit(text, "\n", -1);
    int levels[2] = { 1, 1 };
    unsigned bits = 0;
    unsigned value = 0;
    bool active = false;
    guint64 last = 0;
    for (unsigned i = 0; lines[i]; i++) {
        const char *line = lines[i];
        if (line[0] == '#') {
            guint64 now = g_ascii_strtoull(line + 1, NULL, 10);
            EXPECT(now >= last, "time goes back at %s", line);
            last = now;
        }
        if ((line[0] != '0' && line[0] != '1') || (line[1] != data && line[1] != clock)) {
            continue;
        }
        int level = line[0] == '1';
        if (line[1] == data && levels[1] && level != levels[0]) {
            active = !level;
            bits = 0;
        } else if (line[1] == clock && level && !levels[1] && active && bits < 8) {
            value = (value << 1 | (unsigned)levels[0]) & 0xff;
            bits++;
        } else if (line[1] == clock && level && !levels[1] && active) {
            g_string_append_printf(heard, "%02x%c ", value, levels[0] ? '-' : '+');
            bits = 0;
        }
        levels[line[1] == clock] = level;
    }
    g_strfreev(lines);
    return g_string_free(heard, FALSE);
}

/* The same bytes from the printed lines: addresses back into their first bytes. */
static char *hear_text(const char *text, const char *bus)
{
    GString *heard = g_string_new(NULL);
    char **lines = g_strsplit(text, "\n", -1);
    char on[32] = "";
    for (unsigned i = 0; lines[i]; i++) {
        const char *at = strstr(lines[i], " 0x");
        if (!at || strlen(lines[i]) < 40) {
            continue;
        }
        sscanf(lines[i] + 35, "%31s", on);
        bool again = strstr(lines[i], " again ") != NULL;
        static char current[32];
        if (!again) {
            g_strlcpy(current, on, sizeof current);
        }
        if (strcmp(current, bus) != 0) {
            continue;
        }
        unsigned address = (unsigned)strtoul(at + 3, NULL, 16);
        bool reading = strstr(at, "read") != NULL;
        g_string_append_printf(heard, "%02x%c ", address << 1 | reading, at[5]);
        char **words = g_strsplit(strstr(at, reading ? "read" : "write"), " ", -1);
        for (unsigned w = 1; words[w]; w++) {
            if (strlen(words[w]) == 3 && (words[w][2] == '+' || words[w][2] == '-')) {
                g_string_append_printf(heard, "%s ", words[w]);
            }
        }
        g_strfreev(words);
    }
    g_strfreev(lines);
    return g_string_free(heard, FALSE);
}

static void waveforms_agree_with_the_text(void)
{
    char *folder = scratch_make();
    struct said said = tool(folder, "trace --demo --vcd w.vcd -- read");
    char *vcd = file_text(folder, "w.vcd");
    static const struct {
        const char *bus;
        char data, clock;
    } buses[] = { { "cabin", '!', '"' }, { "aft", '#', '$' } };
    EXPECT(g_str_has_prefix(vcd, "$version"), "a waveform file: %.40s", vcd);
    EXPECT(strstr(vcd, "$timescale 1 ns $end") != NULL, "its timescale");
    for (size_t i = 0; i < COUNT(buses); i++) {
        char *seen = hear_vcd(vcd, buses[i].data, buses[i].clock);
        char *told = hear_text(said.out, buses[i].bus);
        EXPECT(strlen(seen) > 60, "bus %s: %s", buses[i].bus, seen);
        EXPECT(strcmp(seen, told) == 0, "bus %s: the waveform says %s; the text %s", buses[i].bus,
               seen, told);
        g_free(seen);
        g_free(told);
    }
    g_free(vcd);
    said_free(&said);
    scratch_remove(folder);
}

/* The waveforms of one bus as a row of changes: line, level, time. */
struct change {
    char line;
    int level;
    double ns;
};

static unsigned read_changes(const char *vcd, struct change *changes, unsigned room)
{
    char **lines = g_strsplit(strstr(vcd, "$enddefinitions"), "\n", -1);
    unsigned count = 0;
    double ns = 0;
    for (unsigned i = 0; lines[i]; i++) {
        if (lines[i][0] == '#') {
            ns = g_ascii_strtod(lines[i] + 1, NULL);
        } else if ((lines[i][0] == '0' || lines[i][0] == '1') && count < room) {
            changes[count++] = (struct change){ lines[i][1], lines[i][0] == '1', ns };
        }
    }
    g_strfreev(lines);
    return count;
}

/* SPI mode 0, heard by its definition alone: bytes "80/ff 00/ea " under each select. */
static void spi_waveforms(void)
{
    char *folder = scratch_make();
    struct said said = tool(folder, "trace --demo --vcd w.vcd --do 'panel S1: send 80, fetch 3'");
    char *vcd = file_text(folder, "w.vcd");
    struct change *changes = g_new0(struct change, 4096);
    unsigned count = read_changes(vcd, changes, 4096);
    int out = 0;
    int in = 1;
    unsigned bits = 0;
    unsigned sent = 0;
    unsigned got = 0;
    GString *heard = g_string_new(NULL);
    for (unsigned i = 0; i < count; i++) {
        const struct change *c = &changes[i];
        out = c->line == '%' ? c->level : out;
        in = c->line == '\'' ? c->level : in;
        if (c->line == '&' && c->level) {
            sent = (sent << 1 | (unsigned)out) & 0xff;
            got = (got << 1 | (unsigned)in) & 0xff;
            if (++bits % 8 == 0) {
                g_string_append_printf(heard, " %02x/%02x", sent, got);
            }
        }
    }
    EXPECT(strcmp(heard->str, " 80/ff 00/ea 00/00 00/00") == 0, "heard%s", heard->str);
    EXPECT(strstr(said.out, "80/ff read  WHO_AM_I 00/ea 00/00 00/00  end") != NULL, "told %s",
           said.out);
    EXPECT(strstr(vcd, "$var wire 1 ( select_S1 $end") != NULL, "the select has a name");
    g_string_free(heard, TRUE);
    g_free(changes);
    g_free(vcd);
    said_free(&said);
    scratch_remove(folder);
}

/* 1-Wire by the length of its lows: a reset, then bits, the low one first. */
static void onewire_waveforms(void)
{
    char *folder = scratch_make();
    struct said said =
        tool(folder, "trace --demo --vcd w.vcd --do 'hull 284c1e720700001d: send be, fetch 9'");
    char *vcd = file_text(folder, "w.vcd");
    struct change *changes = g_new0(struct change, 8192);
    unsigned count = read_changes(vcd, changes, 8192);
    double fell = 0;
    unsigned lows = 0;
    unsigned byte = 0;
    GString *heard = g_string_new(NULL);
    for (unsigned i = 0; i < count; i++) {
        if (changes[i].line != '*') {
            continue;
        }
        double low = changes[i].ns - fell;
        if (!changes[i].level) {
            fell = changes[i].ns;
        } else if (low > 480000) {
            lows = 0;
        } else if (lows++ > 0) { /* the first is the presence */
            byte = byte >> 1 | (low < 15000 ? 0x80u : 0);
            if ((lows - 1) % 8 == 0) {
                g_string_append_printf(heard, " %02x", byte);
            }
        }
    }
    EXPECT(
        g_str_has_prefix(heard->str, " 55 28 4c 1e 72 07 00 00 1d be 50 05 4b 46 7f ff 0c 10 1c"),
        "heard%s", heard->str);
    EXPECT(strstr(said.out, "be read scratchpad 50 05 4b 46 7f ff 0c 10 1c") != NULL, "told %s",
           said.out);
    g_string_free(heard, TRUE);
    g_free(changes);
    g_free(vcd);
    said_free(&said);
    scratch_remove(folder);
}

/* Sixteen bits and half a clock of select: the rig's speed is what the pins keep to. */
static void speeds_of_the_rig(void)
{
    static const struct {
        unsigned hz;
        const char *took;
    } rows[] = { { 50000, "end, 330.0 us" },
                 { 200000, "end, 99.0 us" },
                 { 500000, "end, 33.0 us" } };
    char *folder = scratch_make();
    file_write(folder, "w", "chip a { part = \"LIS331DLH\" select = \"P1\" }\n");
    for (size_t i = 0; i < COUNT(rows); i++) {
        char *rig = g_strdup_printf("board { world = \"w\" depth = \"wires\" }\n"
                                    "bus m { kind = \"spi\" speed = %u }\n"
                                    "sensor a { part = \"LIS331DLH\" select = \"P1\" }\n",
                                    rows[i].hz);
        file_write(folder, "x.rig", rig);
        expect_said(folder, "trace --rig x.rig -- read a", 0, rows[i].took);
        g_free(rig);
    }
    scratch_remove(folder);
}

static void a_transfer_is_drawn(void)
{
    char *folder = scratch_make();
    struct said png = tool(folder, "trace --demo --draw t.png --transfer 2 -- read sea");
    struct said svg = tool(folder, "trace --demo --draw t.svg -- read baro");
    expect_said(folder, "trace --demo --draw s.png --transfer 15 -- read motion", 0, "");
    expect_said(folder, "trace --demo --draw o.svg --transfer 3 -- read shaft", 0, "");
    char *text = file_text(folder, "t.svg");
    char *picture = file_text(folder, "t.png");
    EXPECT(png.status == 0 && strncmp(picture, "\x89PNG", 4) == 0, "PNG: %s", png.err);
    EXPECT(svg.status == 0 && strstr(text, "<svg") != NULL, "SVG: %s", svg.err);
    unsigned glyphs = 0;
    for (const char *at = text; (at = strstr(at, "<use ")) != NULL; at++) {
        glyphs++;
    }
    EXPECT(glyphs >= 150, "what the lines say is written beside them: %u glyphs", glyphs);
    g_free(text);
    g_free(picture);
    said_free(&png);
    said_free(&svg);
    scratch_remove(folder);
}

void add_trace_suite(void)
{
    SUITE("trace", { "what is told", what_is_told },
          { "waveforms agree with the text", waveforms_agree_with_the_text },
          { "SPI waveforms", spi_waveforms }, { "1-Wire waveforms", onewire_waveforms },
          { "speeds of the rig", speeds_of_the_rig },
          { "a transfer is drawn", a_transfer_is_drawn });
}
