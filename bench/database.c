/* What a record in a database costs, beside a bare insert loop, and behind a hundred million
 * others.
 *
 *     database ours|bare COUNT FILE      records a second, and bytes a record
 *     database deep COUNT FILE           microseconds a record, of a new one and behind so many
 */
#include <fcntl.h>
#include <sqlite3.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/stat.h>
#include <time.h>
#include <unistd.h>

#include "pintle/host/run/run.h"

#define TIMED 500 /* records in a row, */
#define TURNS 6   /* and so many times */

static double now(void)
{
    struct timespec time;
    clock_gettime(CLOCK_MONOTONIC, &time);
    return (double)time.tv_sec + (double)time.tv_nsec / 1e9;
}

static double size_of(const char *path)
{
    struct stat status;
    return stat(path, &status) == 0 ? (double)status.st_size : 0;
}

static void must(sqlite3 *db, int code)
{
    if (code != SQLITE_OK && code != SQLITE_DONE && code != SQLITE_ROW) {
        fprintf(stderr, "%s\n", sqlite3_errmsg(db));
        exit(3);
    }
}

static void run_sql(sqlite3 *db, const char *sql)
{
    must(db, sqlite3_exec(db, sql, NULL, NULL, NULL));
}

/* The demo's channels as a table of numbers: the least that a program by hand would do. */
static void bare(const struct pintle_station *station, long count, const char *path)
{
    sqlite3 *db = NULL;
    sqlite3_stmt *insert = NULL;
    must(db, sqlite3_open(path, &db));
    run_sql(db, "PRAGMA journal_mode = WAL; PRAGMA synchronous = FULL;");
    run_sql(db,
            "CREATE TABLE r (n INTEGER PRIMARY KEY, t TEXT, a, b, c, d, e, f, g, h, i, j, k, l, m,"
            " o, p, q, r, s, u, v, w, x, y, z, a1, a2, a3, a4, a5, a6, a7, quality TEXT)");
    must(db,
         sqlite3_prepare_v2(db,
                            "INSERT INTO r VALUES (?, '2026-06-12T00:00:00Z', ?, ?, ?, ?, ?, ?, ?,"
                            " ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?,"
                            " ?, 'good')",
                            -1, &insert, NULL));
    double begun = now();
    for (long i = 1; i <= count; i++) {
        sqlite3_bind_int64(insert, 1, i);
        for (int k = 2; k <= 32; k++) {
            sqlite3_bind_double(insert, k, (double)station->turn[0].sample.channel[0].value + k);
        }
        must(db, sqlite3_step(insert));
        sqlite3_reset(insert);
    }
    printf("%.0f %.0f\n", (double)count / (now() - begun), size_of(path) / (double)count);
    sqlite3_finalize(insert);
    sqlite3_close(db);
}

static double append(struct pintle_run *run, const struct pintle_station *station, long count)
{
    static struct pintle_run_line line;
    struct pintle_problem problem = { 0 };
    double begun = now();
    for (long i = 0; i < count; i++) {
        const struct pintle_slot slot = { .number = run->records + 1,
                                          .time_us = (int64_t)run->records * 1000000 };
        pintle_run_record(&line, station, &slot);
        if (!pintle_run_append(run, &line, &problem)) {
            fprintf(stderr, "%s\n", problem.text);
            exit(3);
        }
    }
    return now() - begun;
}

/* So many records that are there already, put there all at once. */
static void fill(const char *path, unsigned run, long from, long count)
{
    sqlite3 *db = NULL;
    char sql[400];
    must(db, sqlite3_open(path, &db));
    run_sql(db, "PRAGMA synchronous = OFF; PRAGMA wal_autocheckpoint = 100000;");
    for (long done = 0; done < count; done += 1000000) {
        long part = count - done < 1000000 ? count - done : 1000000;
        snprintf(sql, sizeof sql,
                 "WITH RECURSIVE n(i) AS (SELECT %ld UNION ALL SELECT i + 1 FROM n WHERE i < %ld) "
                 "INSERT INTO readings_%u (record, time, quality) "
                 "SELECT i, '2026-06-12T00:00:00Z', 'good' FROM n",
                 from + done, from + done + part - 1, run);
        run_sql(db, sql);
    }
    run_sql(db, "PRAGMA wal_checkpoint(TRUNCATE)");
    sqlite3_close(db);
    int file = open(path, O_RDWR); /* or the first record waits for all of them */
    if (file < 0 || fsync(file) != 0) {
        exit(3);
    }
    close(file);
}

/* In turns with a database that has nothing yet, so that what else the disk does is in both. */
static void beside_a_new_one(struct pintle_run *run, const struct pintle_station *station,
                             const char *path)
{
    char name[400];
    struct pintle_run small = { 0 };
    struct pintle_problem problem = { 0 };
    double first = 0;
    double last = 0;
    snprintf(name, sizeof name, "%s.new", path);
    const struct pintle_run_places places = { .database = name };
    if (!pintle_run_begin(&small, &places, station, &problem)) {
        fprintf(stderr, "%s\n", problem.text);
        exit(3);
    }
    for (int turn = 0; turn < TURNS; turn++) {
        first += append(&small, station, TIMED);
        last += append(run, station, TIMED);
    }
    printf("%.0f %.0f\n", first / TIMED / TURNS * 1e6, last / TIMED / TURNS * 1e6);
    pintle_run_end(&small, "done", &problem);
}

int main(int argc, char **argv)
{
    struct pintle_problem problem = { 0 };
    bool deep = argc == 4 && strcmp(argv[1], "deep") == 0;
    struct pintle_rig *rig = pintle_rig_demo(&problem);
    struct pintle_station *station = rig ? pintle_station_open(rig, 0, &problem) : NULL;
    struct pintle_run run = { 0 };
    const struct pintle_run_places places = { .database = argc == 4 ? argv[3] : NULL };
    if (!station || argc != 4) {
        fprintf(stderr, "%s\n", problem.text);
        return 2;
    }
    pintle_station_round(station, NULL);
    long count = atol(argv[2]);
    if (strcmp(argv[1], "bare") == 0) {
        bare(station, count, argv[3]);
    } else if (pintle_run_begin(&run, &places, station, &problem)) {
        double first = deep ? 0 : append(&run, station, count);
        if (deep) {
            fill(argv[3], run.number, (long)run.records + 1, count);
            run.records += (uint32_t)count;
            beside_a_new_one(&run, station, argv[3]);
        }
        pintle_run_end(&run, "done", &problem);
        if (!deep) {
            printf("%.0f %.0f\n", (double)count / first, size_of(argv[3]) / (double)count);
        }
    } else {
        fprintf(stderr, "%s\n", problem.text);
    }
    pintle_station_free(station);
    pintle_rig_free(rig);
    return problem.text[0] ? 3 : 0;
}
