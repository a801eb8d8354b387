/* Power that goes in the middle of a log, a disk that fills, a program that is killed: on a card with
 * a file system of the kernel's. */
#include <stdlib.h>
#include <string.h>

#include "kernel_test.h"

#define CARD                                                                                       \
    "until [ -b /dev/mmcblk0 ]; do sleep 1; done; mkdir -p /tmp/card; "                            \
    "mount -t ext4 /dev/mmcblk0 /tmp/card"
#define RUNS "/tmp/card/runs"
#define BASE "/tmp/card/log.db"

static void begin(void)
{
    set_temperature("sea", 21.125);
    board_write(&board, "/tmp/boat.rig", BOAT);
    board_expect(&board, "date -s '2026-06-12 08:00:00' >/dev/null; " CARD, 0, "");
}

/* Records in the folder and in the database of the last run, all of them good and 21.125. */
static void count_records(unsigned run, double *folder, double *base)
{
    struct answer answer = board_run(
        &board, 60,
        "pintle summary --rig /tmp/boat.rig --in " RUNS " %u | tee /tmp/s; awk -F, 'NR > 1 { n++; "
        "if ($3 != \"21.1250\") bad++ } END { print \"folder\", n + 0, \"bad\", bad + 0 }' " RUNS
        "/%04u/readings.csv; pintle export --rig /tmp/boat.rig --in " BASE
        " %u 2>/dev/null | awk -F, 'NR > 1 { n++; if ($4 != \"21.1250\") bad++ } END { print "
        "\"base\", n + 0, \"spoilt\", bad + 0 }'",
        run, run, run);
    *folder = number_after(answer.text, "folder ");
    *base = number_after(answer.text, "base ");
    printf("%s", answer.text);
    EXPECT(number_after(answer.text, "bad ") == 0 && number_after(answer.text, "spoilt ") == 0, "%s",
           answer.text);
    answer_free(&answer);
}

/* What was told to be on the disk when the power went is there when it comes back. */
void power_goes_while_logging(void)
{
    static unsigned run; /* a suite's disk is new */
    for (int cut = 0; cut < 3; cut++) {
        double folder = 0;
        double base = 0;
        begin();
        run++;
        board_begin(&board, "pintle log --rig /tmp/boat.rig --every 200ms --into " RUNS
                            " --database " BASE);
        double last = board_watch(&board, "08:00:", 8 + 5 * cut);
        board_off(&board);
        EXPECT(boot_power(), "it starts again");
        board_expect(&board, "date -s '2026-06-12 09:00:00' >/dev/null; " CARD, 0, "");
        board_write(&board, "/tmp/boat.rig", BOAT);
        count_records(run, &folder, &base);
        printf("    power cut %d: %.0f records were shown, %.0f in the folder, %.0f in the database\n",
               cut + 1, last, folder, base);
        EXPECT(last >= 5 && folder >= last && base >= last && folder <= last + 2 && base <= last + 2,
               "shown %.0f, folder %.0f, database %.0f", last, folder, base);
        board_expect(&board, "pintle runs --in " RUNS " --rig /tmp/boat.rig", 0, "interrupted");
    }
}
