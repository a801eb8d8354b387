/* Power that goes in the middle of a log, a disk that fills, a program that is killed: with runs
 * and a database on a card under a file system of the kernel's. */
#include <string.h>

#include "kernel_test.h"

#define CARD                                                                                       \
    "i=0; until [ -b /dev/mmcblk0 ] || [ $i = 60 ]; do sleep 1; i=$((i+1)); done; mkdir -p "       \
    "/tmp/card; "                                                                                  \
    "mount -t ext4 /dev/mmcblk0 /tmp/card"
#define RUNS "/tmp/card/runs"
#define BASE "/tmp/card/log.db"
#define LOG "pintle log --rig /tmp/boat.rig --every 200ms --into " RUNS " --database " BASE

static void insert_card(const char *time)
{
    char *line = g_strdup_printf("date -s '2026-06-12 %s' >/dev/null; " CARD, time);
    set_temperature("sea", 21.125);
    board_write(&board, "/tmp/boat.rig", BOAT);
    board_expect(&board, line, 0, "");
    g_free(line);
}

/* Records of a run in the folder and in the database, all of which must be what was measured. */
static void count_records(unsigned run, double *folder, double *base)
{
    struct answer answer = board_run(
        &board, 60,
        "n=$(printf %%04d %u); awk -F, 'NR > 1 { n++; if ($3 != \"21.1250\") bad++ } END { print "
        "\"folder\", n + 0, \"bad\", bad + 0 }' " RUNS "/$n/readings.csv; pintle export --in " BASE
        " %u | awk -F, 'NR > 1 { n++; if ($4 != \"21.1250\") bad++ } END { print \"base\", n + 0, "
        "\"spoilt\", bad + 0 }'",
        run, run);
    *folder = number_after(answer.text, "folder ");
    *base = number_after(answer.text, "base ");
    EXPECT(number_after(answer.text, "bad ") == 0 && number_after(answer.text, "spoilt ") == 0,
           "%s", answer.text);
    answer_free(&answer);
}

/* What was shown had been put on the card before: it is there when the power is back. */
void power_goes(void)
{
    for (unsigned cut = 1; cut <= 3; cut++) {
        double folder = 0;
        double base = 0;
        insert_card("08:00:00");
        board_begin(&board, LOG);
        unsigned shown = board_watch(&board, "21.1250", 6 + 7 * cut);
        shown -= shown > 0; /* the first is the round before all records */
        board_off(&board);
        EXPECT(boot_power(), "it starts again");
        insert_card("09:00:00");
        count_records(cut, &folder, &base);
        printf("    power cut %u: %u records were shown, %.0f are in the folder, %.0f in the "
               "database\n",
               cut, shown, folder, base);
        EXPECT(shown >= 5 && folder >= shown && base >= shown, "shown %u, folder %.0f, base %.0f",
               shown, folder, base);
        board_expect(&board, "pintle runs --in " RUNS "; pintle runs --in " BASE, 0, "cut off");
        board_expect(&board, "umount /tmp/card", 0, "");
    }
    insert_card("10:00:00");
    board_expect(&board, LOG " --for 1s --quiet", 0, "run 0004: ");
    board_expect(&board, "tail -c 1 " RUNS "/0003/readings.csv | od -c", 0, "\\n");
    board_expect(&board, "umount /tmp/card", 0, "");
}

/* The card fills and is freed while a log goes on: the folder is elsewhere and has it all. */
/* To the last block: what the file system has set aside for its own is free once it is written. */
#define FILL "for i in 1 2 3; do dd if=/dev/zero bs=1k >> /tmp/card/fill 2>/dev/null; sync; done; "

void a_card_fills(void)
{
    insert_card("11:00:00");
    board_expect(
        &board,
        FILL
        "pintle log --rig /tmp/boat.rig --every 500ms --into /tmp/runs --database /tmp/card/new.db "
        "--for 2s --quiet",
        3, "/tmp/card/new.db: the disk is full");
    board_expect(&board,
                 "rm /tmp/card/fill; pintle log --rig /tmp/boat.rig --every 500ms --into /tmp/runs "
                 "--database " BASE " --quiet 2>/tmp/said & pid=$!; sleep 3; " FILL
                 "until grep -q failed /tmp/said; do sleep 1; "
                 "done; rm /tmp/card/fill; until grep -q again /tmp/said; do sleep 1; done; "
                 "kill -INT $pid; wait; cat /tmp/said",
                 0,
                 BASE " failed after record|the disk is full|logging continues in /tmp/runs/0|" BASE
                      " is written again; |are only in /tmp/runs/0| records in /tmp/runs");
    /* With both there it ends, and says why. */
    board_expect(&board,
                 LOG " --quiet 2>/tmp/said & sleep 3; " FILL
                     "wait; cat /tmp/said; rm /tmp/card/fill",
                 0, "; make room or name another"); /* whichever of the two is first */
    board_expect(&board, LOG " --for 2s --quiet", 0, " records in ");
    board_expect(&board, "umount /tmp/card", 0, "");
}

/* kill -9, and the next run at once. */
void a_log_is_killed(void)
{
    double folder = 0;
    double base = 0;
    insert_card("12:00:00");
    board_expect(&board,
                 "rm -rf " RUNS " " BASE "*; " LOG
                 " > /tmp/shown 2>&1 & until [ \"$(grep -c 21.1250 "
                 "/tmp/shown)\" -ge 12 ]; do usleep 100000; done; kill -9 $!; wait; grep -c "
                 "21.1250 /tmp/shown",
                 0, "1");
    struct answer answer =
        board_run(&board, 10, "echo shown $(grep -c '^ *[0-9].*21.1250' /tmp/shown)");
    double shown = number_after(answer.text, "shown ");
    answer_free(&answer);
    count_records(1, &folder, &base);
    printf("    killed: %.0f records were shown, %.0f are in the folder, %.0f in the database\n",
           shown, folder, base);
    EXPECT(folder >= shown && base >= shown, "shown %.0f, folder %.0f, base %.0f", shown, folder,
           base);
    board_expect(&board, LOG " --for 1s --quiet", 0, "run 0002: ");
    board_expect(&board, "pintle runs --in " RUNS, 0, "cut off|done");
}
