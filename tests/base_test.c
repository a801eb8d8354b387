/* Runs in a database: a month of the sloop with what happens to one, beside the same in folders;
 * what thinning leaves; databases that are none. */
#include "support.h"

#include <fcntl.h>
#include <glib/gstdio.h>
#include <signal.h>
#include <sqlite3.h>
#include <sys/wait.h>
#include <unistd.h>

#include "pintle/host/past/history.h"

/* The sloop for a month: her world, and more trouble in it. */
static void lay_month(const char *folder)
{
    char *rig = file_text(SOURCE, "demo/sloop.rig");
    char *world = file_text(SOURCE, "demo/sloop.world");
    char *more =
        g_strconcat(world,
                    "\nfault cabin { kind = \"unplugged\" from = \"6d\" to = \"6d3h\" }\n"
                    "fault engine { kind = \"frozen\" from = \"9d\" to = \"9d12h\" }\n"
                    "fault shaft { kind = \"unplugged\" from = \"13d1h\" to = \"13d2h\" }\n"
                    "fault baro { kind = \"unplugged\" from = \"21d\" to = \"22d\" }\n",
                    NULL);
    char **parts = g_strsplit(rig, "every  = \"1 min\"", 2);
    char *with =
        g_strconcat(parts[0], "every = \"1 min\"\n    database = \"month.db\"", parts[1], NULL);
    file_write(folder, "sloop.rig", with);
    file_write(folder, "sloop.world", more);
    g_strfreev(parts);
    g_free(with);
    g_free(more);
    g_free(world);
    g_free(rig);
}

static pid_t start(const char *folder, int from_min, const char *limit)
{
    pid_t child = fork();
    if (child == 0) {
        char *line = g_strdup_printf("cd %s && %s exec %s log --rig sloop.rig --quiet --at %dmin "
                                     "--for 40d 2>/dev/null",
                                     folder, limit, TOOL, from_min);
        execl("/bin/sh", "sh", "-c", line, (char *)NULL);
        _exit(9);
    }
    return child;
}

/* Records so far: lines of its file less the first. */
static int records_of(const char *folder, unsigned run)
{
    char *name = g_strdup_printf("sloop-runs/%04u/readings.csv", run);
    char *path = g_build_filename(folder, name, NULL);
    char *text = NULL;
    int lines = -1;
    if (g_file_get_contents(path, &text, NULL, NULL)) {
        for (const char *at = text; (at = strchr(at, '\n')) != NULL; at++) {
            lines++;
        }
    }
    g_free(text);
    g_free(path);
    g_free(name);
    return MAX(lines, 0);
}

static long long size_of(const char *folder, const char *name)
{
    GStatBuf about = { 0 };
    char *path = g_build_filename(folder, name, NULL);
    EXPECT(g_stat(path, &about) == 0, "%s", path);
    g_free(path);
    return (long long)about.st_size;
}

/* Log until so many records are there, then kill it without a word. */
static void log_and_kill(const char *folder, unsigned run, int from_min, int records)
{
    pid_t child = start(folder, from_min, "");
    for (int i = 0; i < 6000 && records_of(folder, run) < records; i++) {
        g_usleep(50000);
    }
    kill(child, SIGKILL);
    waitpid(child, NULL, 0);
}

/* Every cell of a run in both places, as text and as number. Returns how many records they share.
 */
static unsigned compare_run(sqlite3 *db, const char *folder, unsigned run, unsigned *wrong)
{
    char *name = g_strdup_printf("sloop-runs/%04u/readings.csv", run);
    char *text = file_text(folder, name);
    char **lines = g_strsplit(text, "\r\n", -1);
    unsigned whole = g_strv_length(lines) - 2; /* without the first, and what is behind the last */
    char *sql = g_strdup_printf("SELECT * FROM readings_%u ORDER BY record", run);
    sqlite3_stmt *rows = NULL;
    unsigned count = 0;
    CU_ASSERT_EQUAL_FATAL(sqlite3_prepare_v2(db, sql, -1, &rows, NULL), SQLITE_OK);
    while (sqlite3_step(rows) == SQLITE_ROW && count < whole) {
        char **cells = g_strsplit(lines[++count], ",", -1);
        unsigned columns = (unsigned)sqlite3_column_count(rows);
        *wrong += g_strv_length(cells) != columns;
        for (unsigned i = 0; cells[i] && i < columns; i++) {
            bool empty = sqlite3_column_type(rows, (int)i) == SQLITE_NULL;
            bool number = i != 1 && i + 1 < columns;
            bool same =
                number
                    ? (empty ? cells[i][0] == '\0'
                             : cells[i][0]
                                   && strtod(cells[i], NULL) == sqlite3_column_double(rows, (int)i))
                    : g_strcmp0((const char *)sqlite3_column_text(rows, (int)i), cells[i]) == 0;
            *wrong += !same;
        }
        g_strfreev(cells);
    }
    sqlite3_finalize(rows);
    EXPECT(count >= whole - 1 && count <= whole, "run %u: %u of %u", run, count, whole);
    g_strfreev(lines);
    g_free(sql);
    g_free(text);
    g_free(name);
    return count;
}

static bool is_sound(sqlite3 *db)
{
    sqlite3_stmt *check = NULL;
    bool sound = sqlite3_prepare_v2(db, "PRAGMA integrity_check", -1, &check, NULL) == SQLITE_OK
                 && sqlite3_step(check) == SQLITE_ROW
                 && strcmp((const char *)sqlite3_column_text(check, 0), "ok") == 0;
    sqlite3_finalize(check);
    return sound;
}

/* Ten runs make a month: eight end with a kill, one as its files may grow no further, one by
 * itself. Both places have every record, each but perhaps the last that was being written, and the
 * same. */
static void a_month(void)
{
    char *folder = scratch_quick();
    int minute = 0;
    int share = (int)one_in(); /* of the month */
    srand(30);
    lay_month(folder);
    for (unsigned run = 1; run <= 8; run++) {
        log_and_kill(folder, run, minute, (4000 + rand() % 700) / share);
        minute += records_of(folder, run);
    }
    int status =
        0; /* no file may grow much more: one of the database's is the first to get there */
    char *limit = g_strdup_printf(
        "trap '' XFSZ; ulimit -f %lld;", /* 512 bytes each */
        (size_of(folder, "month.db") + size_of(folder, "month.db-wal") + (1 << 20)) / 512);
    waitpid(start(folder, minute, limit), &status, 0);
    g_free(limit);
    EXPECT(WIFEXITED(status) && WEXITSTATUS(status) == 3, "a full place: status %x",
           (unsigned)status);
    minute += records_of(folder, 9);
    char *rest = g_strdup_printf("log --rig sloop.rig --quiet --at %dmin --for %dmin", minute,
                                 MAX(43200 / share - minute, 60));
    expect_said(folder, rest, 0, "run 0010");
    minute += records_of(folder, 10);
    EXPECT(minute >= 43200 / share, "%d minutes", minute);
    char *path = g_build_filename(folder, "month.db", NULL);
    sqlite3 *db = NULL;
    unsigned wrong = 0;
    unsigned shared = 0;
    for (unsigned run = 1; run <= 10; run++) { /* opened anew each time */
        CU_ASSERT_EQUAL_FATAL(sqlite3_open(path, &db), SQLITE_OK);
        EXPECT(is_sound(db), "run %u: it is sound", run);
        shared += run == 9 ? 0 : compare_run(db, folder, run, &wrong);
        sqlite3_close(db);
    }
    EXPECT(wrong == 0, "%u cells differ", wrong);
    EXPECT(shared > 30000u / one_in(), "%u records are in both", shared);
    struct said marked = tool(folder, "runs --rig sloop.rig");
    EXPECT(strstr(marked.out, "    10  ") && !strstr(marked.out, "11  2026"), "%s", marked.out);
    struct said cabin = tool(folder, "summary --rig sloop.rig all --channels cabin.humidity "
                                     "--format csv"); /* gone for three hours, run for run */
    EXPECT(share > 1 || strstr(cabin.out, ",180,") != NULL, "%s", cabin.out);
    said_free(&cabin);
    said_free(&marked);
    g_free(path);
    g_free(rest);
    scratch_remove(folder);
}

/* One of two places gives out: the other goes on, and the run is found where it is whole. */
static void one_place_gives_out(void)
{
    struct said said;
    char *folder = scratch_make();
    lay_month(folder);
    if (in_little_room(
            folder, "200k",
            "$TOOL log --rig sloop.rig --for 1d --quiet --database /mnt/b.db; s=$?; "
            "$TOOL summary --in /mnt/b.db >/dev/null && $TOOL runs --in /mnt/b.db; exit $s",
            &said)) {
        EXPECT(said.status == 3, "status %d", said.status);
        EXPECT(strstr(said.err, "/mnt/b.db failed after record") != NULL, "%s", said.err);
        EXPECT(strstr(said.err, "the disk is full")
                   && strstr(said.err, "logging continues in ./sloop-runs/0001"),
               "%s", said.err);
        EXPECT(strstr(said.err, "1440 records in") != NULL, "%s", said.err);
        EXPECT(strstr(said.out, "cut off") != NULL, "what it has can be read: %s", said.out);
        CU_ASSERT_EQUAL(records_of(folder, 1), 1440);
    }
    said_free(&said);
    scratch_remove(folder);
}

/* The disk has room again: the database is written again from then on, and says which records it
 * lacks.
 */
static void one_place_recovers(void)
{
    struct said said;
    char *folder = scratch_make();
    lay_month(folder);
    if (in_little_room(
            folder, "16m",
            "head -c 16200000 /dev/zero > /mnt/fill; touch err; "
            "( until grep -q failed err; do sleep 0.05; done; rm /mnt/fill ) & "
            "$TOOL log --rig sloop.rig --for 1d --quiet --database /mnt/b.db 2>err; s=$?; wait; "
            "cat err >&2; $TOOL export --in /mnt/b.db 1 --channels sea.temperature; exit $s",
            &said)) {
        const char *again = strstr(said.err, "/mnt/b.db is written again; ");
        EXPECT(said.status == 3 && strstr(said.err, "1440 records in"), "%s", said.err);
        EXPECT(again && strstr(again, "are only in ./sloop-runs/0001"), "%s", said.err);
        unsigned lacks = again ? (unsigned)strtoul(again + 28, NULL, 10) : 0;
        char **lines = g_strsplit(said.out, "\n", -1);
        unsigned records = g_strv_length(lines) - 2;
        EXPECT(lacks > 0 && records + lacks == 1440, "it has %u and lacks %u", records, lacks);
        g_strfreev(lines);
        CU_ASSERT_EQUAL(records_of(folder, 1), 1440);
    }
    said_free(&said);
    scratch_remove(folder);
}

/* As a service logs: the rig may lie where nothing may be written. */
static void a_database_with_its_runs(void)
{
    char *folder = scratch_make();
    char *beside = g_build_filename(folder, "x.db", NULL);
    file_write(folder, "x.rig",
               "board { world = \"w\" }\nbus main { }\n"
               "sensor a { part = \"TMP102\" address = 0x48 }\n"
               "log { folder = \"runs\" database = \"x.db\" }\n");
    file_write(folder, "w", "chip c { part = \"TMP102\" address = 0x48 }\n");
    expect_said(folder, "log --rig x.rig --into var --for 3min --quiet", 0,
                "3 records in var/0001");
    expect_said(folder, "summary --in var/x.db 1", 0, "3 records");
    expect_said(folder, "summary --rig x.rig --in var 1", 0, "3 records");
    CU_ASSERT_FALSE(g_file_test(beside, G_FILE_TEST_EXISTS));
    file_write(folder, "x.rig",
               "board { world = \"w\" }\nbus main { }\n"
               "sensor a { part = \"TMP102\" address = 0x48 }\n"
               "log { folders = false database = \"x.db\" }\n");
    expect_said(folder, "log --rig x.rig --into own --for 3min --quiet", 0,
                "3 records in own/x.db");
    char *number = g_build_filename(folder, "own", "0001", NULL);
    CU_ASSERT_FALSE(g_file_test(number, G_FILE_TEST_EXISTS));
    g_free(number);
    g_free(beside);
    scratch_remove(folder);
}

/* A clock that was set back: of two places the one with more records is read, not the later one. */
static void a_clock_set_back(void)
{
    char *folder = scratch_make();
    file_write(folder, "x.rig",
               "board { world = \"w\" }\nbus main { }\n"
               "sensor a { part = \"TMP102\" address = 0x48 }\n"
               "log { folder = \"runs\" database = \"x.db\" }\n");
    file_write(folder, "w",
               "clock-steps = { \"10min -1h\" }\n"
               "chip c { part = \"TMP102\" address = 0x48 }\n");
    expect_said(folder, "log --rig x.rig --for 30min --quiet", 0, "30 records");
    char *text = file_text(folder, "runs/0001/readings.csv");
    char *cut =
        g_strstr_len(text, -1, "\r\n9,"); /* its folder gave out before the clock was moved */
    CU_ASSERT_PTR_NOT_NULL_FATAL(cut);
    cut[2] = '\0';
    file_write(folder, "runs/0001/readings.csv", text);
    expect_said(folder, "summary --rig x.rig 1", 0, "30 records");
    expect_said(folder, "summary --in runs 1", 0, "8 records");
    g_free(text);
    scratch_remove(folder);
}

/* Cells of a summary that thinning must leave as they are. */
static void expect_same_summary(const char *folder, const char *before, const char *after)
{
    struct said a = tool(folder, before);
    struct said b = tool(folder, after);
    char **x = g_strsplit(a.out, "\r\n", -1);
    char **y = g_strsplit(b.out, "\r\n", -1);
    EXPECT(g_strv_length(x) == 31 && g_strv_length(y) == 31, "%s%s", a.err, b.err);
    for (unsigned i = 0; x[i] && y[i]; i++) {
        char *end = strrchr(x[i], ','); /* gaps may merge */
        EXPECT(strncmp(x[i], y[i], end ? (size_t)(end - x[i]) : 0) == 0, "%s, not %s", y[i], x[i]);
    }
    g_strfreev(x);
    g_strfreev(y);
    said_free(&a);
    said_free(&b);
}

static void thinning(void)
{
    char *folder = scratch_quick();
    expect_said(folder, "log --demo --for 3d --every 20s --quiet --database t.db --only-database",
                0, "12960 records in t.db");
    expect_said(folder, "thin --in t.db --whole 1d --minutes 2d --hours 2d", 0,
                "8638 records before 2026-06-14 00:00:00 would become averages of 1441 intervals");
    expect_said(folder, "thin --in t.db --whole 1d --minutes 2d --hours 2d", 0,
                "nothing was changed");
    char *path = g_build_filename(folder, "t.db", NULL);
    char *copy = g_build_filename(folder, "before.db", NULL);
    char *bytes = NULL;
    gsize size = 0;
    CU_ASSERT_TRUE(g_file_get_contents(path, &bytes, &size, NULL)
                   && g_file_set_contents(copy, bytes, (gssize)size, NULL));
    expect_said(folder, "thin --in t.db --whole 1d --minutes 2d --hours 2d --yes", 0, "are now");
    expect_said(folder, "thin --in t.db --whole 1d --minutes 2d --hours 2d --yes", 0,
                "nothing to thin");
    expect_same_summary(folder, "summary --in before.db 1 --format csv",
                        "summary --in t.db 1 --format csv");
    expect_said(folder, "summary --in t.db", 0, "12960 records, 945 marked");
    expect_said(folder, "summary --in t.db", 0, "note: thinned: 8638 records before");
    expect_said(folder, "summary --in t.db", 0,
                "from here on thinned: a record is averaged over 1 min");
    expect_said(folder, "thin --in t.db --whole 0.5d --minutes 1d --hours 2d --yes", 0, "are now");
    expect_same_summary(folder, "summary --in before.db 1 --format csv",
                        "summary --in t.db 1 --format csv");
    expect_same_summary(folder, "summary --in before.db 1 --format csv --last 12h",
                        "summary --in t.db 1 --format csv --last 12h");
    expect_said(folder, "export --in t.db --channels icebox --to 2026-06-12T00:00:30Z", 0,
                "2026-06-12T00:00:20,1,1,");
    expect_said(folder, "export --in t.db --channels icebox --to 2026-06-12T01:00:00Z", 0,
                ",averaged-over=86360s\r\n");
    expect_said(folder, "export --in t.db --channels icebox --mean 1h", 0,
                ",averaged-over=86400s\r\n");
    expect_said(folder, "export --in t.db --channels icebox --format senml", 0,
                "{\"n\":\"record.quality\",\"t\":1781222440,\"vs\":\"averaged-over=86360s\"}");
    struct said said = tool(folder, "export --in t.db --channels icebox --mean 1d");
    EXPECT(!strstr(said.out, "averaged-over"), "a day is what was asked for: %s", said.out);
    said_free(&said);
    expect_said(folder, "plot --in t.db --channels sea --png t.png", 0, "t.png");
    struct pintle_problem problem = { 0 };
    struct pintle_history *history = pintle_history_load(NULL, path, "1", &problem);
    EXPECT(history && history->reach[1] >= 86360 && history->reach[history->rows - 1] <= 20,
           "a day's average has no gap behind it: %s", problem.text);
    pintle_history_free(history);
    expect_said(folder, "thin --in t.db --whole 2d --minutes 1d", 2, "each no less than");
    expect_said(folder, "thin --demo", 2, "logs into no database");
    expect_said(folder, "thin --in none.db", 3, "there is no database none.db");
    g_free(bytes);
    g_free(copy);
    g_free(path);
    scratch_remove(folder);
}

/* Angles around 0 stay there when all that is left of them are averages. */
/* A thinned run begins and ends when it did. */
static void ends_stay(void)
{
    char *folder = scratch_quick();
    expect_said(folder,
                "log --demo --at 14h --for 30h --every 20s --quiet --database t.db --only-database",
                0, "5400 records in t.db");
    expect_said(folder, "log --demo --at 20d --for 1h --quiet --database t.db --only-database", 0,
                "60 records in t.db");
    struct said before = tool(folder, "runs --in t.db");
    struct said head = tool(folder, "summary --in t.db 1-2");
    expect_said(folder, "thin --in t.db --whole 1d --minutes 2d --hours 2d --yes", 0,
                "5398 records");
    struct said after = tool(folder, "runs --in t.db");
    struct said then = tool(folder, "summary --in t.db 1-2");
    char *end = strstr(before.out, "\n\nAt ");
    EXPECT(end && strncmp(before.out, after.out, (size_t)(end - before.out)) == 0, "%s, not %s",
           after.out, before.out);
    const char *line = strstr(head.out, "2026-06-12 14:00:20 to 2026-07-02 01:00:00 UTC");
    EXPECT(line && strstr(then.out, "2026-06-12 14:00:20 to 2026-07-02 01:00:00 UTC"), "%s%s",
           head.out, then.out);
    static const char over[] = "2026-06-13 20:00:00  the run ended; the next began";
    EXPECT(strstr(head.out, over) && strstr(then.out, over), "%s%s", head.out, then.out);
    expect_said(folder, "export --in t.db 1 --channels icebox", 0,
                "2026-06-12T14:00:40,1,2,"); /* the first day, what is left of it, */
    expect_said(folder, "export --in t.db 1 --channels icebox", 0, "averaged-over=35960s");
    expect_said(folder, "export --in t.db 1 --channels icebox", 0,
                "averaged-over=72000s"); /* the second, until the last record */
    said_free(&before);
    said_free(&after);
    said_free(&head);
    said_free(&then);
    scratch_remove(folder);
}

/* On a card that is nearly full: it takes little beside the file, and gives back what it saves. */
static void thinning_makes_room(void)
{
    struct said said;
    char *folder = scratch_quick();
    expect_said(folder, "log --demo --for 5d --every 10s --quiet --database t.db --only-database",
                0, "43200 records");
    char *path = g_build_filename(folder, "t.db", NULL);
    GStatBuf was;
    CU_ASSERT_EQUAL_FATAL(g_stat(path, &was), 0);
    char *size = g_strdup_printf("%luk", (unsigned long)was.st_size / 1024 + 4096);
    if (in_little_room(folder, size,
                       "cp t.db /mnt/t.db; $TOOL thin --in /mnt/t.db --whole 1d --minutes 1d "
                       "--hours 2d --yes; s=$?; ls -s --block-size=1 /mnt; $TOOL summary --in "
                       "/mnt/t.db; exit $s",
                       &said)) {
        const char *line = strstr(said.out, " t.db");
        EXPECT(said.status == 0 && line, "%s%s", said.out, said.err);
        while (line && line > said.out && line[-1] != '\n') {
            line--;
        }
        double left = line ? strtod(line, NULL) : 0;
        EXPECT(left > 0 && left < 0.4 * (double)was.st_size, "%g of %g bytes are left", left,
               (double)was.st_size);
        EXPECT(!strstr(said.out, "t.db-wal") || strstr(said.out, "0 t.db-wal"), "%s", said.out);
        EXPECT(strstr(said.out, "43200 records"), "%s", said.out);
    }
    said_free(&said);
    g_free(size);
    g_free(path);
    scratch_remove(folder);
}

static void thinned_angles(void)
{
    char *folder = scratch_quick();
    expect_said(folder, "log --demo --for 2d --every 20s --quiet --database t.db --only-database",
                1, "8640 records");
    static const char *const before[] = {
        "export --in t.db 1 --channels boat.heel --mean 1min --to 2026-06-12T02:00:00Z",
        "summary --in t.db 1 --channels boat --format csv --to 2026-06-12T02:00:00Z",
    };
    struct said whole[2];
    for (size_t i = 0; i < COUNT(before); i++) {
        whole[i] = tool(folder, before[i]);
    }
    EXPECT(strstr(whole[0].out, ",-") != NULL, "she heels to both sides: %.300s", whole[0].out);
    expect_said(folder, "thin --in t.db --whole 10min --yes", 0, "are now averages");
    for (size_t i = 0; i < COUNT(before); i++) {
        struct said thinned = tool(folder, before[i]);
        EXPECT(strcmp(thinned.out, whole[i].out) == 0, "%.400s, not %.400s", thinned.out,
               whole[i].out);
        said_free(&thinned);
        said_free(&whole[i]);
    }
    scratch_remove(folder);
}

/* Killed at any moment of it, each interval is as it was or as it is to be. */
static void thinning_is_killed(void)
{
    char *folder = scratch_quick();
    expect_said(folder, "log --demo --for 2d --every 10s --quiet --database t.db --only-database",
                1, "17280 records in t.db");
    char *copy = g_strdup_printf("cp %s/t.db %s/before.db", folder, folder);
    CU_ASSERT_TRUE(g_spawn_command_line_sync(copy, NULL, NULL, NULL, NULL));
    srand(3);
    for (int i = 0; i < 12; i++) {
        pid_t child = fork();
        if (child == 0) {
            if (chdir(folder) != 0 || !freopen("/dev/null", "w", stdout)) {
                _exit(9);
            }
            execl(TOOL, "pintle", "thin", "--in", "t.db", "--whole", "10min", "--minutes", "3y",
                  "--hours", "9y", "--yes", (char *)NULL);
            _exit(9);
        }
        g_usleep((gulong)(rand() % 150000));
        kill(child, SIGKILL);
        waitpid(child, NULL, 0);
        expect_same_summary(folder, "summary --in before.db 1 --format csv",
                            "summary --in t.db 1 --format csv");
    }
    expect_said(folder, "thin --in t.db --whole 10min --minutes 3y --hours 9y --yes", 0,
                "records before 2026-06-13 00:00:00");
    expect_said(folder, "summary --in t.db 1", 0, "averaged over 1 min");
    expect_same_summary(folder, "summary --in before.db 1 --format csv",
                        "summary --in t.db 1 --format csv");
    g_free(copy);
    scratch_remove(folder);
}

/* Two that log into one database at once have a number each, and all of their records. */
static void two_at_once(void)
{
    char *folder = scratch_quick();
    /* twenty times, for it is their beginnings that must not meet */
    for (int i = 0; i < 20; i++) {
        char *line =
            g_strdup_printf("log --demo --for 2min --quiet --database n%d.db --into a & " TOOL
                            " log --demo --for 2min --quiet --database n%d.db --into b && wait",
                            i, i);
        struct said both = tool(folder, line);
        EXPECT(both.status == 0 && !strstr(both.err, "pintle:"), "%s", both.err);
        said_free(&both);
        g_free(line);
    }
    struct said said =
        tool(folder, "log --demo --for 4h --quiet --database both.db --into c 2>/dev/null & " TOOL
                     " log --demo --for 4h --quiet --database both.db --into d 2>/dev/null; "
                     "wait; " TOOL " runs --in both.db");
    EXPECT(said.status == 0, "status %d", said.status);
    EXPECT(strstr(said.out, "     1  2026") && strstr(said.out, "     2  2026"), "%s", said.out);
    char *first = strstr(said.out, " done  ");
    EXPECT(first && strstr(first + 1, " done  "), "both end: %s", said.out);
    first = strstr(said.out, " 240  ");
    EXPECT(first && strstr(first + 1, " 240  "), "both are whole: %s", said.out);
    said_free(&said);
    scratch_remove(folder);
}

/* A window of years is found without reading them: records numbered far apart stand for many. */
static void windows(void)
{
    char *folder = scratch_make();
    expect_said(folder, "log --demo --for 5h --quiet --database w.db --only-database", 0, "300");
    for (int minute = 0; minute <= 300; minute += 37) {
        char *line =
            g_strdup_printf("export --in w.db --channels cabin --from \"2026-06-12 %02d:%02d\" "
                            "--to \"2026-06-12 05:00\"",
                            minute / 60, minute % 60);
        struct said said = tool(folder, line);
        char *first = g_strdup_printf("\r\n2026-06-12T%02d:%02d:00,1,%d,", MAX(minute, 1) / 60,
                                      MAX(minute, 1) % 60, MAX(minute, 1));
        EXPECT(strncmp(strstr(said.out, "\r\n"), first, strlen(first)) == 0, "%s: %.200s", line,
               said.out);
        g_free(first);
        said_free(&said);
        g_free(line);
    }
    scratch_remove(folder);
}

/* Broken, foreign, newer, forbidden. */
/* Of somebody else, on a card that may not be written to: after its run ended, while one goes on,
 * when that was killed. Root may write anything, so it becomes nobody. */
static void another_user_reads(void)
{
    char *folder = scratch_quick();
    expect_said(folder, "log --demo --for 1h --quiet --only-database --database done.db", 0,
                "60 r");
    struct said said =
        tool(folder,
             "--version; as=; [ $(id -u) = 0 ] && as='setpriv --reuid 65534 --clear-groups'; "
             "t=" TOOL "; chmod 755 .; $as $t --version || { cp $t .; t=./pintle; } ; "
             "$as $t --version || exit 77; " TOOL
             " log --demo --for 1d --every 1s --real-time --quiet --only-database --database l.db "
             "2>/dev/null & pid=$!; "
             "for i in $(seq 400); do $t runs --in l.db 2>&1 | grep -q 'is written  *[1-9]' "
             "&& break; sleep 0.05; done; chmod 555 .; chmod 444 *.db; "
             "$as $t note --in done.db hello; echo \"note $?\"; "
             "$as $t summary --in done.db; $as $t runs --in l.db; kill -9 $pid; wait; "
             "$as $t runs --in l.db; chmod 755 .; rm l.db-shm; chmod 555 .; "
             "$as $t runs --in l.db; chmod 755 .");
    if (said.status == 77) {
        printf("\n  (nobody can be become here: another user's reading was not tried: %s)\n",
               said.err);
        said_free(&said);
        scratch_remove(folder);
        return;
    }
    static const char *const parts[] = { "note 3", "60 records", "is written", "cut off" };
    const char *rest = said.out;
    for (size_t i = 0; rest && i < COUNT(parts); i++) {
        rest = strstr(rest, parts[i]);
        EXPECT(rest != NULL, "no '%s': %s%s", parts[i], said.out, said.err);
    }
    EXPECT(strstr(said.err, "copy it and l.db-wal to where they can be") != NULL, "%s", said.err);
    said_free(&said);
    scratch_remove(folder);
}

static void mistakes(void)
{
    static const struct {
        const char *prepare; /* for a database of its own, or a copy of good.db; or null */
        const char *arguments;
        int status;
        const char *said;
    } rows[] = {
        { "CREATE TABLE hens (eggs)", "runs --in x.db", 3, "is a database of something else" },
        { "CREATE TABLE hens (eggs)", "log --demo --for 1min --database x.db", 3,
          "is a database of something else" },
        { "PRAGMA application_id = 1349416044; PRAGMA user_version = 9; CREATE TABLE a (b)",
          "summary --in x.db", 3, "was written by a newer version (its format is 9" },
        { "UPDATE readings_1 SET \"sea.temperature/Cel\" = 'warm' WHERE record = 2",
          "summary --in x.db", 3, "run 1 in x.db: record 2 is none; the file was changed" },
        { "UPDATE readings_1 SET \"deck.illuminance/lx\" = 9e999 WHERE record = 1",
          "export --in x.db", 3, "record 1 is none" },
        { "UPDATE readings_1 SET quality = NULL WHERE record = 2", "plot --in x.db", 3,
          "record 2 is none" },
        { "UPDATE readings_1 SET time = 'yesterday' WHERE record = 2", "export --in x.db", 3,
          "record 2 is none" },
        { "", "runs --in x.db", 3, "x.db has no run: nothing was logged into it yet" },
        { "PRAGMA journal_mode = WAL", "summary --in x.db", 3, "x.db has no run" },
        { "PRAGMA journal_mode = WAL", "log --demo --for 1min --quiet --database x.db", 0,
          "1 record" },
        { NULL, "summary --in text.db", 3, "is damaged, or no database" },
        { NULL, "log --demo --for 1min --database text.db", 3, "is damaged, or no database" },
        { NULL, "summary --in cut.db", 3, "is damaged, or no database" },
        { NULL, "log --demo --for 1min --database no/x.db", 3, "cannot write no/x.db" },
        { NULL, "log --demo --for 1min --only-database", 2, "nowhere to log to" },
        { NULL, "log --demo --only-database --database y.db --into x", 2, "--into away" },
        { NULL, "log --demo --show 1s --quiet", 2, "leave one away" },
        { NULL, "summary --in good.db 2", 2, "there is no run '2' in good.db" },
        { NULL, "summary --in good.db", 0, "2 records" },
    };
    char *folder = scratch_make();
    char *path = g_build_filename(folder, "x.db", NULL);
    expect_said(folder, "log --demo --for 2min --quiet --database good.db --only-database", 0,
                "2 records");
    file_write(folder, "text.db",
               "It is no database, however long one looks at it. "
               "It is no database, however long one looks at it.\n");
    char *good = g_build_filename(folder, "good.db", NULL);
    char *bytes = NULL;
    gsize size = 0;
    CU_ASSERT_TRUE_FATAL(g_file_get_contents(good, &bytes, &size, NULL));
    char *whole = g_memdup2(bytes, size);
    memset(bytes + 4096, 0x5a, size - 4096);
    char *cut = g_build_filename(folder, "cut.db", NULL);
    CU_ASSERT_TRUE(g_file_set_contents(cut, bytes, (gssize)size, NULL));
    for (size_t i = 0; i < COUNT(rows); i++) {
        g_unlink(path);
        if (rows[i].prepare) {
            sqlite3 *db = NULL;
            if (g_str_has_prefix(rows[i].prepare, "UPDATE")) {
                CU_ASSERT_TRUE(g_file_set_contents(path, whole, (gssize)size, NULL));
            }
            CU_ASSERT_EQUAL(sqlite3_open(path, &db), SQLITE_OK);
            CU_ASSERT_EQUAL(sqlite3_exec(db, rows[i].prepare, NULL, NULL, NULL), SQLITE_OK);
            sqlite3_close(db);
        }
        expect_said(folder, rows[i].arguments, rows[i].status, rows[i].said);
    }
    g_free(cut);
    g_free(whole);
    g_free(bytes);
    g_free(good);
    g_free(path);
    scratch_remove(folder);
}

void add_base_suite(void)
{
    SUITE("base", { "a month", a_month }, { "one place gives out", one_place_gives_out },
          { "one place recovers", one_place_recovers },
          { "a database with its runs", a_database_with_its_runs },
          { "a clock set back", a_clock_set_back }, { "thinning", thinning },
          { "ends stay", ends_stay }, { "thinning makes room", thinning_makes_room },
          { "thinned angles", thinned_angles }, { "thinning is killed", thinning_is_killed },
          { "another user reads", another_user_reads }, { "two at once", two_at_once },
          { "windows", windows }, { "mistakes", mistakes });
}
