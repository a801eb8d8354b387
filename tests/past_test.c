/* Runs looked at again: summaries beside figures that are worked out here, out of the files;
 * exports taken apart; notes; what can't be read. */
#include "terminal.h"

#include <jansson.h>
#include <unistd.h>

#include "pintle/host/past/history.h"
#include "pintle/host/past/summary.h"

#define COLUMNS 64
#define ROWS 4000

/* A run's CSV, read by hand: the fields of each line, no quotes in them. */
struct sheet {
    unsigned columns, rows;
    char **name;
    char ***cell;
};

static struct sheet open_sheet(const char *folder, const char *name, const char *separator)
{
    char *text = file_text(folder, name);
    char **lines = g_strsplit(text, "\r\n", -1);
    struct sheet s = { .name = g_strsplit(lines[0], separator, -1) };
    s.columns = g_strv_length(s.name);
    s.cell = g_new0(char **, g_strv_length(lines) + 1);
    for (unsigned i = 1; lines[i] && lines[i][0]; i++) {
        s.cell[s.rows++] = g_strsplit(lines[i], separator, -1);
    }
    g_strfreev(lines);
    g_free(text);
    return s;
}

static void close_sheet(struct sheet *s)
{
    for (unsigned i = 0; i < s->rows; i++) {
        g_strfreev(s->cell[i]);
    }
    g_strfreev(s->name);
    g_free(s->cell);
}

static int find(const struct sheet *s, const char *name)
{
    for (unsigned i = 0; i < s->columns; i++) {
        if (strcmp(s->name[i], name) == 0) {
            return (int)i;
        }
    }
    return -1;
}

/* Is a channel's reading in this row suspect, by the quality column? All marks of these runs are.
 */
static bool marked(const struct sheet *s, unsigned row, const char *channel)
{
    char *with = g_strdup_printf("%s=", channel);
    const char *quality = s->cell[row][s->columns - 1];
    const char *at = strstr(quality, with);
    bool is = at && (at == quality || at[-1] == ' ') && !strstr(at, "=warming");
    g_free(with);
    return is;
}

/* What a column comes to, in two passes of long doubles. */
struct figures {
    long double least, mean, greatest, spread;
    unsigned good, marked;
};

static struct figures by_hand(const struct sheet *s, unsigned column, const char *channel)
{
    struct figures f = { INFINITY, 0, -INFINITY, 0, 0, 0 };
    for (int pass = 0; pass < 2; pass++) {
        for (unsigned r = 0; r < s->rows; r++) {
            bool bad = marked(s, r, channel);
            f.marked += pass == 0 && bad;
            if (bad || !s->cell[r][column][0]) {
                continue;
            }
            long double value = strtold(s->cell[r][column], NULL);
            if (pass == 0) {
                f.least = fminl(f.least, value);
                f.greatest = fmaxl(f.greatest, value);
                f.mean += value;
                f.good++;
            } else {
                f.spread += (value - f.mean) * (value - f.mean);
            }
        }
        if (pass == 0) {
            f.mean /= f.good;
        }
    }
    f.spread = sqrtl(f.spread / (f.good - 1));
    return f;
}

/* A figure as it was printed, within half of its last place. */
static void expect_figure(const char *channel, const char *what, const char *printed,
                          long double wanted)
{
    const char *point = strchr(printed, '.');
    double half = 0.5 * pow(10, point ? -(double)strlen(point + 1) : 0) * 1.001;
    EXPECT(fabs(strtod(printed, NULL) - (double)wanted) <= half, "%s: %s is %s, not %.9Lg", channel,
           what, printed, wanted);
}

/* Every number of a day with a plug pulled, in base units. */
static void every_number(void)
{
    char *folder = scratch_make();
    struct said day = tool(folder, "log --demo --for 1d --quiet");
    struct said csv = tool(folder, "summary --in sloop-runs 1 --format csv");
    file_write(folder, "summary.csv", csv.out);
    struct sheet run = open_sheet(folder, "sloop-runs/0001/readings.csv", ",");
    struct sheet sum = open_sheet(folder, "summary.csv", ",");
    EXPECT(sum.rows == 29, "%u channels", sum.rows);
    for (unsigned i = 0; i < sum.rows; i++) {
        char **row = sum.cell[i];
        char *name = g_strdup_printf("%s/%s", row[0], row[1]);
        int column = find(&run, name);
        EXPECT(column > 0, "%s is a column", name);
        struct figures f = by_hand(&run, (unsigned)column, row[0]);
        expect_figure(row[0], "the least", row[2], f.least);
        expect_figure(row[0], "the mean", row[3], f.mean);
        expect_figure(row[0], "the greatest", row[4], f.greatest);
        expect_figure(row[0], "the spread", row[5], f.spread);
        EXPECT(atoi(row[6]) == (int)f.good && atoi(row[7]) == (int)f.marked,
               "%s: %s good, %s marked, not %u and %u", row[0], row[6], row[7], f.good, f.marked);
        EXPECT(atoi(row[8]) == (strcmp(row[0], "sea.temperature") == 0), "%s: %s gaps", row[0],
               row[8]);
        g_free(name);
    }
    expect_said(
        folder, "summary --demo 1", 0,
        "2026-06-12 00:01:00 to 2026-06-13 00:00:00 UTC, 1440 records, 105 marked, 0 slots");
    expect_said(folder, "summary --demo 1", 0,
                "2026-06-12 15:21:00  sea gave no data: 105 records, until 17:05:00");
    expect_said(folder, "summary --demo 1 --from \"2026-06-12 15:00\" --to 2026-06-12T16:00:00Z", 0,
                "60 records, 39 marked");
    expect_said(folder, "summary --demo 1 --last 6h", 0, "360 records, 0 marked");
    close_sheet(&run);
    close_sheet(&sum);
    said_free(&csv);
    said_free(&day);
    scratch_remove(folder);
}

#define HEAD "record,time,a.direction/deg,b.t/Cel,b.t.uncorrected/Cel,c.t/Cel,quality\r\n"

/* Angles that cross north; a clock that was moved; supply lost; marks that nobody knows. */
static void planted(void)
{
    char *folder = scratch_make();
    char *run = g_build_filename(folder, "0001", NULL);
    g_mkdir_with_parents(run, 0755);
    file_write(folder, "0001/readings.csv",
               HEAD "1,2026-06-12T00:00:00Z,359.0,1.00,1.50,5.00,b.t=first\r\n"
                    "2,2026-06-12T00:01:00Z,1.0,2.00,2.50,5.00,good\r\n"
                    "3,2026-06-12T00:02:00Z,2.0,99.00,99.50,,b.t=jump; c.t=bus\r\n"
                    "4,2026-06-12T00:03:00Z,358.0,4.00,4.50,,c.t=bus; missed=7\r\n"
                    "5,2026-06-12T01:03:00Z,0.0,3.00,3.50,5.00,c.t=first; clock-step=3600000ms\r\n"
                    "6,2026-06-12T01:04:00Z,0.0,3.00,3.50,5.00,b.t=enchanted\r\n"
                    "7,2026-06-12T01:05:00Z,0.0,3.00,3.50,5.00,b.t=warming\r\n");
    static const char *const said[] = {
        "7 records, 5 marked, 7 slots missed",
        "a.direction              deg         358.00       0.000        2.00",
        "b.t                      degC          2.00       3.000        4.00     0.816         4",
        "c.t                      degC          5.00       5.000        5.00     0.000         4   "
        "    "
        "3     1",
        "00:00:00  b: its first reading after power-up is left out",
        "00:02:00  b.t was suspect (jump): 1 record\n",
        "00:02:00  c gave no data: 2 records, until 00:03:00",
        "00:03:00  7 slots were missed: nobody measured",
        "01:03:00  the clock was moved by 1 h;",
        "01:03:00  c had lost its supply, and was set up anew",
        "01:04:00  b.t was suspect (unknown): 1 record",
    };
    for (size_t i = 0; i < COUNT(said); i++) {
        expect_said(folder, "summary 0001", 0, said[i]);
    }
    /* all round: no mean */
    GString *text = g_string_new(HEAD);
    for (unsigned i = 0; i < 36; i++) {
        g_string_append_printf(text, "%u,2026-06-12T00:%02u:00Z,%u.0,1.00,1.00,1.00,good\r\n",
                               i + 1, i, i * 10);
    }
    file_write(folder, "0001/readings.csv", text->str);
    expect_said(folder, "summary 0001", 0, "all round");
    struct said odd = tool(folder, "--version; cp -r 0001 \"$(printf 'b\\351')\"; " TOOL
                                   " plot ./b* --svg r.svg && " TOOL " report ./b* --write r.html");
    EXPECT(odd.status == 0 && strstr(odd.out, "r.svg"), "a folder may be called anything: %s",
           odd.err);
    said_free(&odd);
    odd = tool(folder, "--version; export LC_ALL=C; " TOOL
                       " log --demo --for 2min --quiet --title \"T\303\266rn\"; " TOOL
                       " summary --demo; " TOOL " export 0001 --unit \"\302\260C\"");
    EXPECT(odd.status == 2 && strstr(odd.out, "run 1: T\303\266rn\n")
               && strstr(odd.err, "set LC_ALL=C.UTF-8"),
           "letters that the character set lacks: %s%s", odd.out, odd.err);
    said_free(&odd);
    expect_said(folder, "export 0001 --mean 1h --channels a", 0,
                "2026-06-12T00:00:00,1,1,,a.direction=all round\r\n");
    expect_said(folder, "export 0001 --mean 1h --channels a --format senml", 0,
                "[{\"n\":\"a.direction.quality\",\"t\":1781222400,\"vs\":\"all round\"}]");
    g_string_free(text, TRUE);
    g_free(run);
    scratch_remove(folder);
}

/* Over a restart: means leave out what is suspect and say how many, across both runs. */
static void joined_and_averaged(void)
{
    char *folder = scratch_make();
    expect_said(folder, "log --demo --at 14h30m --for 1h40m --quiet", 1, "100 records");
    expect_said(folder, "log --demo --at 16h40m --for 1h --quiet", 0, "60 records");
    struct said all =
        tool(folder, "export --demo 1 2 --channels sea,baro.pressure --write all.csv");
    struct said mean = tool(folder, "export --demo 1-2 --mean 1h --channels sea,baro.pressure "
                                    "--write mean.csv");
    EXPECT(strstr(all.err, "160 records in all.csv") && strstr(mean.err, "4 records"), "%s%s",
           all.err, mean.err);
    struct sheet a = open_sheet(folder, "all.csv", ",");
    struct sheet m = open_sheet(folder, "mean.csv", ",");
    for (unsigned i = 0; i < m.rows; i++) {
        long double sum[2] = { 0, 0 };
        unsigned good[2] = { 0, 0 };
        unsigned left = 0;
        for (unsigned r = 0; r < a.rows; r++) {
            if (strncmp(a.cell[r][0], m.cell[i][0], 13) != 0) { /* up to the hour */
                continue;
            }
            for (unsigned k = 0; k < 2; k++) {
                const char *cell = a.cell[r][3 + k];
                sum[k] += cell[0] ? strtold(cell, NULL) : 0;
                good[k] += cell[0] != '\0';
                left += k == 1 && !cell[0];
            }
        }
        for (unsigned k = 0; k < 2; k++) {
            EXPECT(good[k] > 0 || !m.cell[i][3 + k][0], "%s: no mean of nothing", m.cell[i][0]);
            if (good[k] > 0) {
                expect_figure(m.cell[i][0], "the mean", m.cell[i][3 + k], sum[k] / good[k]);
            }
        }
        EXPECT(left == 0 || strstr(m.cell[i][5], " left out"), "%s says it: %s", m.cell[i][0],
               m.cell[i][5]);
    }
    EXPECT(strcmp(m.cell[1][5], "sea.temperature=39 of 60 left out (bus)") == 0
               || strstr(m.cell[1][5], "sea.temperature=39 of 60 left out (bus)"),
           "%s", m.cell[1][5]);
    expect_said(folder, "summary --demo 1-2", 0, "the run ended; the next began 31 min later");
    expect_said(folder, "summary --demo 2 1", 0, " earlier\n");
    expect_said(folder, "summary --demo 2 1 --last 1h", 0, " 60 records, ");
    expect_said(folder, "summary --demo 1-2", 0,
                "sea gave no data: 50 records, to the end of the run");
    expect_said(folder, "plot --demo all --png both.png", 0, "both.png");
    expect_said(folder, "calibrate --demo sea.temperature 14=14.2 --yes", 0, "kept in");
    expect_said(folder, "log --demo --for 2min --quiet", 0, "2 records");
    expect_said(folder, "note --demo --run 1 --title gale", 0, "its title is set");
    expect_said(folder, "note --demo --title calm", 0, "its title is set");
    expect_said(folder, "summary --demo 1 3", 0, "runs 1, 3: gale; calm\n");
    expect_said(folder, "report --demo 1-3 --write three.html", 0, "three.html");
    char *html = file_text(folder, "three.html");
    static const char *const order[] = {
        "<h2>Corrections: sloop-runs/0001 to sloop-runs/0002</h2>",
        "<h2>Corrections: sloop-runs/0003</h2>",
        "<td>sea.temperature</td><td>polynomial 14 14.2 1, calibration 1</td>",
        "<h2>Wiring, parts, settings</h2>",
    };
    const char *at = html;
    for (size_t i = 0; at && i < COUNT(order); i++) {
        at = strstr(at, order[i]);
        EXPECT(at != NULL, "no %s", order[i]);
    }
    g_free(html);
    close_sheet(&a);
    close_sheet(&m);
    said_free(&all);
    said_free(&mean);
    scratch_remove(folder);
}

/* What a spreadsheet is given, and a program. */
static void exports(void)
{
    static const struct {
        const char *options;
        const char *said;
    } rows[] = {
        { "", "time/UTC,run,record,sea.temperature/Cel,quality\r\n"
              "2026-06-12T15:19:00,1,19,14.5000,\r\n" },
        { "", "2026-06-12T15:21:00,1,21,,sea.temperature=bus\r\n" },
        { "--unit degF", "sea.temperature/degF,quality\r\n2026-06-12T15:19:00,1,19,58.1000,\r\n" },
        { "--comma", "time/UTC;run;record;sea.temperature/Cel;quality\r\n"
                     "2026-06-12T15:19:00;1;19;14,5000;\r\n" },
        { "--local", "time/local,zone,run,record,sea.temperature/Cel,quality\r\n"
                     "2026-06-12T18:19:00,+03:00,1,19,14.5000,\r\n" },
        { "--suspect drop", "2026-06-12T15:20:00,1,20,14.5000,\r\n" },
        { "--blank", "\r\n2026-06-12 15:19:00,1,19,14.5000,\r\n" },
        { "--every 2min", "2026-06-12T15:19:00,1,19,14.5000,\r\n2026-06-12T15:20:00" },
        { "--format jsonl", "{\"time\":\"2026-06-12T15:19:00Z\",\"run\":1,\"record\":19,\"sea."
                            "temperature/Cel\":14.5000,"
                            "\"quality\":\"good\"}\n" },
        { "--mean 1d --local", "2026-06-12T00:00:00,+03:00,1,19,14.50000," },
        { "--format jsonl --local", "\"time\":\"2026-06-12T18:19:00+03:00\"" },
        { "--format jsonl", "\"sea.temperature/Cel\":null,\"quality\":\"sea.temperature=bus\"}" },
        { "--format senml",
          "[{\"n\":\"sea.temperature\",\"t\":1781277540,\"u\":\"Cel\",\"v\":14.5000}" },
        { "--format senml", "{\"n\":\"sea.temperature.quality\",\"t\":1781277660,\"vs\":\"bus\"}" },
    };
    char *folder = scratch_make();
    g_setenv("TZ", "Pintle-3", TRUE); /* three hours east */
    expect_said(folder, "log --demo --at 15h --for 30min --quiet", 1, "30 records");
    for (size_t i = 0; i < COUNT(rows); i++) {
        char *line =
            g_strdup_printf("export --demo 1 --channels sea --from \"2026-06-12 %s:19\" "
                            "--to \"2026-06-12 %s:22\" %s",
                            strstr(rows[i].options, "local") ? "18" : "15",
                            strstr(rows[i].options, "local") ? "18" : "15", rows[i].options);
        expect_said(folder, line, 0, rows[i].said);
        g_free(line);
    }
    expect_said(folder, "export --demo 1 --suspect drop --write x.csv", 0,
                "10 records with suspect readings dropped");
    struct said senml = tool(folder, "export --demo 1 --format senml");
    json_t *pack = json_loads(senml.out, 0, NULL);
    EXPECT(json_array_size(pack) == 29 * 30, "%zu entries", json_array_size(pack));
    json_decref(pack);
    said_free(&senml);
    g_unsetenv("TZ");
    scratch_remove(folder);
}

/* The letters of a drawing, and how many lie left of the one drawn before them in their row. */
static unsigned letters(const char *folder, const char *file, unsigned *back)
{
    char *svg = file_text(folder, file);
    unsigned count = 0;
    double last_x = 0;
    double last_y = 0;
    *back = 0;
    for (const char *at = svg; (at = strstr(at, "<use ")) != NULL; at++, count++) {
        const char *where = strstr(at, " x=\"");
        double x = where ? g_ascii_strtod(where + 4, NULL) : 0;
        where = where ? strstr(where, " y=\"") : NULL;
        double y = where ? g_ascii_strtod(where + 4, NULL) : 0;
        bool beneath = y > 740 && fabs(y - last_y) < 0.01;
        *back += beneath && x < last_x;
        last_x = x;
        last_y = y;
    }
    g_free(svg);
    return count;
}

/* Whatever somebody writes is drawn as it is, and beneath a plot nothing on top of another. */
static void beneath_a_plot(void)
{
    static const struct {
        const char *title, *note;
    } same[] = {
        { "xg buoys", "xu and xx" },
        { "#g buoys", "#u and ##" },
    };
    unsigned count[2];
    unsigned back = 0;
    for (size_t i = 0; i < COUNT(same); i++) {
        char *folder = scratch_make();
        char *line = g_strdup_printf("log --demo --for 1h --quiet --title '%s'", same[i].title);
        char *note = g_strdup_printf("note --demo '%s'", same[i].note);
        expect_said(folder, line, 0, "60 records");
        expect_said(folder, note, 0, "01:00:00");
        expect_said(folder,
                    "note --demo --at '2026-06-12 00:20' a long one, which has a row for itself "
                    "since MMMM WWWW would else be on top of what is to the right of it",
                    0, "00:20:00");
        expect_said(folder, "note --demo --at '2026-06-12 00:40' short", 0, "00:40:00");
        expect_said(folder, "plot --demo --channels sea --svg p.svg", 0, "p.svg");
        count[i] = letters(folder, "p.svg", &back);
        EXPECT(back == 0, "%u letters are on top of others", back);
        g_free(line);
        g_free(note);
        scratch_remove(folder);
    }
    EXPECT(count[0] > 200 && count[0] == count[1], "%u and %u letters", count[0], count[1]);
}

/* No time at all is better than one that SenML takes for one to come. */
static void never_set(void)
{
    char *folder = scratch_make();
    file_write(folder, "x.rig",
               "board { world = \"w\" }\nbus main { }\n"
               "sensor a { part = \"TMP102\" address = 0x48 }\nlog { folder = \"runs\" }\n");
    file_write(folder, "w", "clock-set = false\nchip c { part = \"TMP102\" address = 0x48 }\n");
    expect_said(folder, "log --rig x.rig --for 5min --quiet", 0, "5 records");
    struct said said = tool(folder, "export --rig x.rig 1 --format senml");
    EXPECT(strstr(said.err, "5 records left out: the clock was never set") != NULL, "%s", said.err);
    EXPECT(strcmp(said.out, "[]\n") == 0, "%s", said.out);
    said_free(&said);
    said = tool(folder, "log --rig x.rig --for 2min --format senml");
    EXPECT(strstr(said.out, "a.temperature") && !strstr(said.out, "\"t\""), "%s", said.out);
    said_free(&said);
    scratch_remove(folder);
}

static int64_t utc_us(const char *text)
{
    GDateTime *time = g_date_time_new_from_iso8601(text, NULL);
    int64_t us = time ? g_date_time_to_unix(time) * 1000000 : -1;
    if (time) {
        g_date_time_unref(time);
    }
    return us;
}

/* Of the calendar, also on the days that have an hour more or less. */
static void intervals(void)
{
    static const struct {
        const char *time;
        int hours;
        bool local;
        const char *begin;
    } rows[] = {
        { "2026-10-25T10:59:59Z", 1, false, "2026-10-25T10:00:00Z" },
        { "2026-10-25T23:59:59Z", 168, false, "2026-10-19T00:00:00Z" },
        { "2026-10-26T00:00:00Z", 168, false, "2026-10-26T00:00:00Z" },
        { "1969-12-31T23:59:59Z", 24, false, "1969-12-31T00:00:00Z" },
        { "2026-01-10T23:30:00Z", 24, true, "2026-01-10T23:00:00Z" },
        { "2026-07-10T22:30:00Z", 24, true, "2026-07-10T22:00:00Z" },
        { "2026-03-29T21:59:00Z", 24, true, "2026-03-28T23:00:00Z" },
        { "2026-10-25T22:59:00Z", 24, true, "2026-10-24T22:00:00Z" },
        { "2026-10-25T00:10:00Z", 1, true, "2026-10-25T00:00:00Z" },
        { "2026-10-25T01:10:00Z", 1, true, "2026-10-25T01:00:00Z" },
        { "2026-10-25T04:59:00Z", 6, true, "2026-10-24T22:00:00Z" },
        { "2026-10-25T22:30:00Z", 168, true, "2026-10-18T22:00:00Z" },
    };
    g_setenv("TZ", "AAA-1BBB,M3.5.0/2,M10.5.0/3", TRUE);
    for (size_t i = 0; i < COUNT(rows); i++) {
        int64_t begin = pintle_interval_begin(utc_us(rows[i].time),
                                              rows[i].hours * INT64_C(3600000000), rows[i].local);
        EXPECT(begin == utc_us(rows[i].begin), "%s in %d h: %+.0f s from %s", rows[i].time,
               rows[i].hours, (double)(begin - utc_us(rows[i].begin)) / 1e6, rows[i].begin);
    }
    g_unsetenv("TZ");
}

/* With a title, notes of their times, also while it is logged; shown everywhere. */
static void notes(void)
{
    char *folder = scratch_make();
    expect_said(folder, "log --demo --for 2h --quiet --title \"Two, \\\"hours\\\" <b>\"", 0,
                "120 records");
    expect_said(folder, "note --demo fenders out", 0, "2026-06-12 02:00:00");
    expect_said(folder, "note --demo --run 1 --at \"2026-06-12 01:30\" a \\\"gust\\\", and rain", 0,
                "01:30:00");
    expect_said(folder, "summary --demo", 0, "run 1: Two, \"hours\" <b>");
    expect_said(folder, "summary --demo", 0, "01:30:00  note: a \"gust\", and rain");
    expect_said(folder, "note --demo --title Two hours", 0, "its title is set");
    char *file = file_text(folder, "sloop-runs/0001/notes.csv");
    EXPECT(g_str_has_prefix(file, "time,what,text\r\n") && !strstr(file + 1, "time,what"), "%s",
           file);
    g_free(file);
    expect_said(folder, "runs --demo", 0, "Two hours\n");
    expect_said(folder, "report --demo --write r.html", 0, "r.html");
    char *html = file_text(folder, "r.html");
    static const char *const parts[] = { "<title>run 1: Two hours</title>",
                                         "a &quot;gust&quot;, and rain",
                                         "<h2>Corrections</h2>",
                                         "polynomial 0 -4e-06 1, from the rig file",
                                         "ICM20948",
                                         "accel-filter=5.7Hz",
                                         "data:image/svg+xml;base64,",
                                         "<h2>Gaps</h2>",
                                         "@media print" };
    for (size_t i = 0; i < COUNT(parts); i++) {
        EXPECT(strstr(html, parts[i]) != NULL, "the report has no %s", parts[i]);
    }
    EXPECT(!strstr(html, "http") && !strstr(html, "<script"), "it needs nothing else");
    g_free(html);
    expect_said(folder, "note --demo", 2, "give the text");
    expect_said(
        folder, "note --demo --at 2027-06-12 rain", 0,
        "outside the run, which has records from 2026-06-12 00:00:00 to 2026-06-12 02:00:00");
    expect_said(folder, "note --demo -- -5 \"$(printf 'a\\033[31mb\\nc \\377')\"", 0, "02:00:00");
    expect_said(folder, "summary --demo", 0, "note: -5 a [31mb c \xef\xbf\xbd\n");
    expect_said(folder, "note --demo --run 7 x", 2, "no run '7'");
    expect_said(folder, "note --demo --run 4294967297 x", 2, "no run '4294967297'");
    expect_said(folder, "summary --demo 0-4294967297", 0, "120 records");
    expect_said(folder, "note --demo --at noon x", 2, "--at takes a time");
    scratch_remove(folder);
}

/* Times at the ends of the calendar, which a zone moves beyond it; and what a damaged or foreign
 * run says of itself, escape sequences among it. */
static void foreign_texts(void)
{
    static const char *const years[] = { "0001-01-01", "9999-12-31" };
    char *folder = scratch_make();
    expect_said(folder, "log --demo --for 2min --quiet --title dusk", 0, "2 records");
    for (size_t i = 0; i < COUNT(years); i++) {
        char *csv = g_strdup_printf("record,time,sea.temperature/Cel,quality\r\n"
                                    "1,%sT12:00:00Z,14.5,good\r\n",
                                    years[i]);
        char *wanted = g_strdup_printf("%sT12:00:00Z\",\"run\":1,\"record\":1,", years[i]);
        file_write(folder, "sloop-runs/0001/readings.csv", csv);
        expect_said(folder, "export --demo 1 --format jsonl", 0, wanted);
        for (int west = 0; west < 2; west++) {
            char *local =
                g_strdup_printf("export --demo 1 --local --format jsonl --write z.%d", west);
            g_setenv("TZ", west ? "<-12>12" : "<+14>-14", TRUE);
            expect_said(folder, local, 0, "1 record in");
            g_unsetenv("TZ");
            g_free(local);
        }
        g_free(wanted);
        g_free(csv);
    }
    expect_said(folder, "export --demo 1 --local --format jsonl", 0, "sea.temperature/Cel\":14.5");
    file_write(folder, "sloop-runs/0001/run.json",
               "{ \"format\": \"pintle run 1\", \"every_s\": 60, \"began\": "
               "\"2026-06-12T00:00:00Z\", \"board\": \"\\u001b[31mred\", \"ended\": "
               "\"\\u001b[2Jx\", \"sensors\": [ { \"sensor\": \"\\u001b[0m\", \"corrections\": [ { "
               "\"channel\": \"\\u009b1m\" } ] } ] }");
    file_write(folder, "sloop-runs/0001/notes.csv",
               "time,what,text\r\n2026-06-12T00:00:00Z,note,\033[31mred\r\n");
    file_write(folder, "sloop-runs/0001/readings.csv",
               "record,time,sea.temperature/Cel,quality\r\n1,2026-06-12T00:00:00Z,14.5,good\r\n");
    static const char *const commands[] = { "runs", "summary", "report --write /dev/stdout" };
    for (size_t i = 0; i < COUNT(commands); i++) {
        char *both = g_strdup_printf(
            "%s --demo 2>&1 | LC_ALL=C grep -c \"$(printf '\\033\\|\\302\\233')\" | "
            "sed s/^0/none/",
            commands[i]);
        expect_said(folder, both, 0, "none");
        g_free(both);
    }
    scratch_remove(folder);
}

/* A run that says how many records it had, and has lost the last of them; and one whose column has
 * another unit than it had when it was logged. */
static void lost_and_changed(void)
{
    char *folder = scratch_make();
    expect_said(folder, "log --demo --for 5min --quiet --database l.db", 0, "5 records");
    char *text = file_text(folder, "sloop-runs/0001/readings.csv");
    char *fourth = strstr(text, "\r\n4,");
    CU_ASSERT_PTR_NOT_NULL_FATAL(fourth);
    struct said said = tool(folder, "summary --demo 1");
    EXPECT(!strstr(said.err, "missing"), "%s", said.err);
    said_free(&said);
    char *units = g_strdup(text);
    fourth[2] = '\0';
    file_write(folder, "sloop-runs/0001/readings.csv", text);
    expect_said(folder, "export --in sloop-runs 1", 0,
                "ended with 5 records, and the last 2 of them are missing");
    expect_said(folder, "plot --in sloop-runs 1 --png p.png", 0, "the last 2 of them are missing");
    file_write(folder, "sloop-runs/0001/readings.csv", "");
    char *heading = strstr(units, "sea.temperature/Cel");
    CU_ASSERT_PTR_NOT_NULL_FATAL(heading);
    memcpy(heading, "sea.temperature/lux", 19);
    file_write(folder, "sloop-runs/0001/readings.csv", units);
    expect_said(folder, "summary --in sloop-runs 1", 3, "readings.csv:1: this is no line of a run");
    char *sql =
        g_strdup_printf("sqlite3 %s/l.db 'DELETE FROM readings_1 WHERE record > 4'", folder);
    CU_ASSERT_TRUE(g_spawn_command_line_sync(sql, NULL, NULL, NULL, NULL));
    expect_said(folder, "summary --in l.db 1", 0, "the last 1 of them are missing");
    g_free(sql);
    g_free(units);
    g_free(text);
    scratch_remove(folder);
}

/* What a killed program left beside a file goes with the next one that is written there; what a
 * living one is writing stays. */
static void left_beside(void)
{
    char *folder = scratch_make();
    char *living = g_strdup_printf("day.csv.%d.part", (int)getpid());
    static const char *const others[] = { "day.csv.x.part", "day.csv.4194303.part.csv",
                                          "day.csv.1" };
    expect_said(folder, "log --demo --for 2min --quiet", 0, "2 records");
    file_write(folder, "day.csv.4194303.part", "half");
    file_write(folder, living, "half");
    for (size_t i = 0; i < COUNT(others); i++) {
        file_write(folder, others[i], "mine");
    }
    expect_said(folder, "export --demo 1 --write day.csv", 0, "2 records in day.csv");
    char *gone = g_build_filename(folder, "day.csv.4194303.part", NULL);
    CU_ASSERT_FALSE(g_file_test(gone, G_FILE_TEST_EXISTS));
    for (size_t i = 0; i <= COUNT(others); i++) {
        char *stays = g_build_filename(folder, i < COUNT(others) ? others[i] : living, NULL);
        EXPECT(g_file_test(stays, G_FILE_TEST_EXISTS), "%s is gone", stays);
        g_free(stays);
    }
    g_free(gone);
    g_free(living);
    scratch_remove(folder);
}

#define ABOUT "{ \"format\": \"pintle run 1\", \"every_s\": "

/* A sentence for each. */
static void mistakes(void)
{
    static const struct {
        const char *arguments;
        int status;
        const char *said;
    } rows[] = {
        { "summary --demo 1 --channels rudder", 2, "has no channel 'rudder'" },
        { "summary --demo 1 --unit ohm", 2, "no channel is of resistance" },
        { "summary --demo 1 --from 2027-01-01", 3, "has no record in that time" },
        { "summary --demo 1 --from noon", 2, "--from takes a time such as" },
        { "summary --demo 1 --from 2026-06-13 --to 2026-06-12", 2, "is not before --to" },
        { "summary --demo 1 --last 6h --to 2026-06-13", 2, "leave it away" },
        { "summary --demo 1 --last long", 2, "--last takes a duration" },
        { "summary --demo 1 1", 2, "is named twice" },
        { "summary --demo 4", 2, "there is no run '4' in sloop-runs" },
        { "summary --demo 2", 3, "the run has no record yet" },
        { "summary --demo 3", 3, "was written by a newer version (pintle run 2)" },
        { "summary --demo 1-3", 3, "was written by a newer version" },
        { "summary --demo --format senml", 2, "text or csv" },
        { "runs --demo", 3, "1 of 3 runs can't be read" },
        { "runs --demo 1", 2, "'pintle summary 1' looks at one run" },
        { "runs --demo --at 1d", 2, "Unknown option --at" },
        { "wiring --demo --at 1d", 2, "Unknown option --at" },
        { "read --demo --at nonsense", 2, "--at takes a duration" },
        { "live --demo --for nonsense", 2, "--for takes a duration" },
        { "calibrate --demo --at nonsense sea.temperature 1=2", 2, "--at takes a duration" },
        { "runs --in nowhere", 3, "there is no database nowhere" },
        { "runs --in empty", 2, "there is no run in empty" },
        { "export --demo 1 --format yaml", 2, "one of csv, jsonl, senml" },
        { "export --demo 1 --suspect perhaps", 2, "one of blank, keep, drop" },
        { "export --demo 1 --mean 1h --every 1h", 2, "give one" },
        { "export --demo 1 --mean 1h --suspect keep", 2, "never has suspect readings" },
        { "export --demo 1 --format senml --unit degF", 2, "base units always" },
        { "export --demo 1 --format jsonl --comma", 2, "JSON has points" },
        { "export --demo 1 --write no/x.csv", 3, "cannot write no/x.csv" },
        { "export --demo 1 --write /dev/full", 3, "cannot write /dev/full" },
        { "export --demo 1 --write sloop-runs/0001/readings.csv", 2, "0001 is kept there" },
        { "export --in l.db 1 --write ./l.db", 2, "run 1 in l.db is kept there" },
        { "report --demo 1 --write sloop-runs/0003/run.json", 2, "0003 is kept there" },
        { "summary --demo 1", 0, "120 records" },
        { "summary --in l.db 1", 0, "2 records" },
        { "report --demo 1 --write no/x.html", 3, "cannot write no/x.html" },
        { "report --demo 2", 3, "no record yet" },
        { "plot --demo 1 --against rudder", 2, "to plot against" },
        { "plot --demo 1 --channels baro.temperature --against cabin.temperature --png a.png", 0,
          "a.png" },
        { "plot --demo 1 --channels sea --against record --svg r.svg", 0, "r.svg" },
        { "plot --demo 1 --last 1h --local --unit pressure=hPa+inHg --png l.png", 0, "l.png" },
    };
    char *folder = scratch_make();
    expect_said(folder, "log --demo --for 2h --quiet", 0, "120 records");
    expect_said(folder, "log --demo --for 2min --quiet --database l.db --only-database", 0, "l.db");
    char *path = g_build_filename(folder, "sloop-runs/0002", NULL);
    char *third = g_build_filename(folder, "sloop-runs/0003", NULL);
    char *empty = g_build_filename(folder, "empty", NULL);
    g_mkdir_with_parents(path, 0755);
    g_mkdir_with_parents(third, 0755);
    g_mkdir_with_parents(empty, 0755);
    file_write(folder, "sloop-runs/0002/readings.csv", HEAD);
    file_write(folder, "sloop-runs/0003/readings.csv", HEAD);
    file_write(folder, "sloop-runs/0003/run.json", "{ \"format\": \"pintle run 2\" }");
    for (size_t i = 0; i < COUNT(rows); i++) {
        expect_said(folder, rows[i].arguments, rows[i].status, rows[i].said);
    }
    static const char *const damaged[] = { "{ \"format\": \"pin",
                                           "{ \"format\": \"pintle run 1\", \"every_s\": 60 }",
                                           ABOUT "0, \"began\": \"2026-06-12T00:00:00Z\" }",
                                           ABOUT "-60, \"began\": \"2026-06-12T00:00:00Z\" }",
                                           ABOUT "\"60\", \"began\": \"2026-06-12T00:00:00Z\" }",
                                           ABOUT "60, \"began\": \"noon\" }" };
    for (size_t i = 0; i < COUNT(damaged); i++) {
        file_write(folder, "sloop-runs/0003/run.json", damaged[i]);
        expect_said(folder, "summary --demo 3", 3, "its run.json is damaged");
    }
    g_free(path);
    g_free(third);
    g_free(empty);
    scratch_remove(folder);
}

/* A run that is being written is told from one that was cut off, and can be read meanwhile. */
static void being_written(void)
{
    char *folder = scratch_make();
    struct said said =
        tool(folder, "log --demo --for 3000d --quiet --database l.db 2>/dev/null & pid=$!; "
                     "for i in $(seq 400); do "
                     "[ $(wc -l <sloop-runs/0001/readings.csv 2>/dev/null || echo 0) -gt 50 ] "
                     "&& break; sleep 0.05; done; " TOOL " runs --demo; " TOOL
                     " runs --in l.db; " TOOL " summary --in l.db >/dev/null && " TOOL
                     " export --demo 1 >/dev/null && " TOOL " note --demo --run 1 halfway; "
                     "kill -9 $pid; wait $pid; " TOOL " runs --demo; " TOOL " runs --in l.db");
    EXPECT(said.status == 0, "status %d: %s%s", said.status, said.out, said.err);
    char *first = strstr(said.out, "is written");
    char *second = first ? strstr(first + 1, "is written") : NULL;
    EXPECT(second && strstr(second, "(database)"), "both while it is: %s", said.out);
    char *third = second ? strstr(second, "cut off") : NULL;
    EXPECT(third && strstr(third + 1, "cut off"), "and then: %s", said.out);
    expect_said(folder, "summary --demo", 0, "note: halfway");
    said_free(&said);
    scratch_remove(folder);
}

/* --- averages --- */

static struct pintle_cell cell_of(double value)
{
    return (struct pintle_cell){
        .value = value, .least = value, .greatest = value, .good = 1, .below = value < 0
    };
}

/* `a` less `b`; where values come around after `turn` (0: they don't), the nearer way. */
static double apart(double a, double b, double turn)
{
    return turn > 0 ? remainder(a - b, turn) : a - b;
}

/* However they are put together, in groups of groups: the same as in two passes over all. */
static void averages(void)
{
    static const struct {
        const char *name;
        double level, spread;
        enum pintle_quantity quantity;
    } rows[] = {
        { "a pressure", 101325, 0.01, PINTLE_QUANTITY_PRESSURE },
        { "a temperature", -3, 8, PINTLE_QUANTITY_TEMPERATURE },
        { "a heading to the south", 180, 50, PINTLE_QUANTITY_ANGLE },
        { "a heading around north", 359.5, 50, PINTLE_QUANTITY_ANGLE },
        { "a heel", -2, 20, PINTLE_QUANTITY_ANGLE },
    };
    for (size_t i = 0; i < COUNT(rows); i++) {
        bool heading = strstr(rows[i].name, "heading") != NULL;
        struct pintle_cell all = pintle_cell_empty();
        long double sum = 0;
        long double squares = 0;
        double least = INFINITY;
        double greatest = -INFINITY;
        double *by = g_new(double, 3000);
        srand(5);
        for (unsigned g = 0, n = 0; n < 3000; g++) {
            struct pintle_cell group = pintle_cell_empty();
            for (unsigned k = 0; k <= g % 40 && n < 3000; k++, n++) {
                by[n] = rows[i].spread * ((rand() % 20001) / 10000.0 - 1);
                double value = rows[i].level + by[n];
                struct pintle_cell one =
                    cell_of(heading ? value - 360 * floor(value / 360) : value);
                struct pintle_cell bad = one;
                bad.good = 0;
                bad.suspect = 1;
                bad.value = 1e9;
                pintle_cell_merge(&group, &one, rows[i].quantity);
                pintle_cell_merge(&group, &bad, rows[i].quantity);
                sum += by[n];
                least = fmin(least, value);
                greatest = fmax(greatest, value);
            }
            pintle_cell_merge(&all, &group, rows[i].quantity);
        }
        for (unsigned n = 0; n < 3000; n++) {
            squares += (by[n] - sum / 3000) * (by[n] - sum / 3000);
        }
        pintle_cell_settle(&all, rows[i].quantity);
        const double turn = heading ? 360 : 0;
        double mean = rows[i].level + (double)(sum / 3000);
        EXPECT(fabs(apart(all.value, mean, turn)) < 1e-9 * fmax(fabs(mean), 1),
               "%s: mean %.12g, not %.12g", rows[i].name, all.value, mean);
        EXPECT(!heading
                   || (all.value >= 0 && all.value < 360 && all.least >= 0 && all.greatest < 360),
               "%s: %g, %g, %g", rows[i].name, all.least, all.value, all.greatest);
        EXPECT_NEAR(pintle_cell_spread(&all), sqrtl(squares / 2999), 1e-9 * rows[i].spread,
                    rows[i].name);
        EXPECT_NEAR(apart(all.least, least, turn), 0, 1e-9, rows[i].name);
        EXPECT_NEAR(apart(all.greatest, greatest, turn), 0, 1e-9, rows[i].name);
        EXPECT(all.good == 3000 && all.suspect == 3000, "%s: %u and %u", rows[i].name, all.good,
               all.suspect);
        EXPECT(!pintle_cell_all_round(&all, rows[i].quantity), "%s is not all round", rows[i].name);
        g_free(by);
    }
    struct pintle_cell none = pintle_cell_empty();
    CU_ASSERT_TRUE(isnan(none.value) && isnan(pintle_cell_spread(&none)));
}

/* Columns of a long run in few rows: means between least and greatest, nothing counted twice. */
static void few_rows(void)
{
    char *folder = scratch_make();
    char *runs = g_build_filename(folder, "sloop-runs", NULL);
    struct pintle_problem problem = { 0 };
    expect_said(folder, "log --demo --for 1d --quiet", 0, "1440 records");
    struct pintle_archive *archive = pintle_archive_open(runs, NULL, &problem);
    CU_ASSERT_PTR_NOT_NULL_FATAL(archive);
    static const unsigned limits[] = { 0, 5000, 700, 100, 1 };
    for (size_t i = 0; i < COUNT(limits); i++) {
        struct pintle_history *h =
            pintle_history_read(archive->run, archive->count, PINTLE_ALL_TIME, limits[i], &problem);
        CU_ASSERT_PTR_NOT_NULL_FATAL(h);
        bool many = limits[i] > 0 && limits[i] < 1440;
        EXPECT(h->records == 1440 && (many ? h->rows <= limits[i] + 1 : h->rows == 1440),
               "%u: %u rows of %u", limits[i], h->rows, h->records);
        uint64_t marked = 0;
        unsigned wrong = 0;
        for (unsigned c = 0; c < h->columns; c++) {
            marked += h->column[c].marked;
            for (unsigned r = 0; many && r < h->rows; r++) {
                double value = h->column[c].value[r];
                wrong += !isnan(value)
                         && !(value >= h->column[c].least[r] - 1e-9
                              && value <= h->column[c].greatest[r] + 1e-9);
            }
        }
        EXPECT(marked == 105 && wrong == 0, "%u: %u marked, %u wrong", limits[i], (unsigned)marked,
               wrong);
        pintle_history_free(h);
    }
    pintle_archive_free(archive);
    g_free(runs);
    scratch_remove(folder);
}

/* On a terminal it says how far it is, and Ctrl-C ends it whole. */
static void on_a_terminal(void)
{
    struct terminal t;
    char *folder = scratch_make();
    sit_down(&t, folder, "log --demo --for 3000d --quiet");
    expect_on(&t, "logging: 20"); /* however fast it is */
    type(&t, "\003");
    CU_ASSERT_TRUE(stand_up(&t) <= 1); /* 1 while a plug is pulled in the world */
    EXPECT(strstr(t.said->str, "stopped by a signal") != NULL, "%s", t.said->str);
    g_string_free(t.said, TRUE);
    expect_said(folder, "runs --demo", 0, "interrupted");
    scratch_remove(folder);
}

/* How far it is on a terminal only, and nothing of it in a pipe. */
static void nothing_in_a_pipe(void)
{
    char *folder = scratch_make();
    struct said said = tool(folder, "log --demo --for 20d --quiet | cat");
    EXPECT(!strchr(said.err, '\r') && !strstr(said.err, "logging:"), "%s", said.err);
    said_free(&said);
    scratch_remove(folder);
}

void add_past_suite(void)
{
    SUITE("past", { "every number", every_number }, { "planted", planted },
          { "joined and averaged", joined_and_averaged }, { "exports", exports },
          { "beneath a plot", beneath_a_plot }, { "a clock that was never set", never_set },
          { "intervals", intervals }, { "notes", notes }, { "foreign texts", foreign_texts },
          { "lost and changed", lost_and_changed }, { "left beside", left_beside },
          { "mistakes", mistakes }, { "being written", being_written }, { "averages", averages },
          { "few rows", few_rows }, { "on a terminal", on_a_terminal },
          { "nothing in a pipe", nothing_in_a_pipe });
}
