/* Where a log goes and what is said at its end, whichever command keeps it. */
#include "cli/cli.h"

struct pintle_run_places cli_where(struct pintle_rig *rig, const char *into, const char *database,
                                   bool only_database, const char *title)
{
    if (into) {
        pintle_rig_move_database(rig, into);
        (void)!g_mkdir_with_parents(into, 0755); /* where it can't be, opening says why */
    }
    const char *base = database ? database : rig->database;
    bool folders = !only_database && (rig->folders || (into && !rig->database));
    return (struct pintle_run_places){ .folder = !folders ? NULL
                                                 : into   ? into
                                                          : rig->runs,
                                       .database = base,
                                       .title = title };
}

int cli_logged(struct pintle_logged *logged, bool ok, const struct pintle_problem *problem)
{
    if (logged->number > 0) {
        cli_say("run %04u: %u record%s in %s, %u with suspect readings%s", logged->number,
                logged->records, cli_s(logged->records), logged->path, logged->suspect,
                logged->interrupted ? ", stopped by a signal" : "");
    }
    if (logged->lost) {
        cli_say("%s", logged->lost);
    }
    if (logged->missed > 0) {
        cli_say("%u slot%s missed: a round takes longer than the interval", logged->missed,
                logged->missed > 1 ? "s were" : " was");
    }
    if (logged->steps > 0) {
        cli_say("the clock was moved %u time%s while it ran; the records' quality and run.json say "
                "where, and times before and after don't belong together",
                logged->steps, cli_s(logged->steps));
    }
    if (logged->unset) {
        cli_say("the clock was never set when the run began: until it is, times count from 1970 or "
                "2000 and are marked");
    }
    if (logged->failing > 0) {
        cli_say("%u sensor%s failed to the end; 'pintle scan' says what may be wrong",
                logged->failing, cli_s(logged->failing));
    }
    int found = logged->failing > 0 ? PINTLE_FAILURE_RIG : 0;
    int status = !ok ? cli_fail(problem) : logged->lost ? PINTLE_FAILURE_UNABLE : found;
    pintle_host_free(logged->path);
    pintle_host_free(logged->lost);
    return status;
}
