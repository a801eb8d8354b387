/* A run, whichever places it goes into. */
#include "pintle/host/run/run.h"

#include <glib.h>
#include <sys/stat.h>
#include <sys/statvfs.h>

#include "host/run/about.h"
#include "host/run/note.h"
#include "host/run/places.h"
#include "pintle/host/keep/calibration.h"

bool pintle_run_logs(const struct pintle_channel *channel)
{
    return channel->quantity != PINTLE_QUANTITY_TIME;
}

void pintle_run_stepped(struct pintle_run *run, int64_t by_us)
{
    run->step = g_renew(struct pintle_clock_step, run->step, run->steps + 1);
    run->step[run->steps++] = (struct pintle_clock_step){ run->records + 1, by_us };
}

/* The number that both places have free. */
static bool take_number(struct pintle_run *run, const struct pintle_run_places *places,
                        unsigned last, struct pintle_problem *problem)
{
    run->number = MAX(last, places->folder ? pintle_run_last(places->folder) : 0) + 1;
    return !run->folder || pintle_priv_folder_take(run->folder, &run->number, problem);
}

static bool put_title(const struct pintle_run *run, const struct pintle_run_places *places,
                      struct pintle_problem *problem)
{
    if (!places->title) {
        return true;
    }
    bool ok = !run->folder
              || pintle_priv_note_folder(pintle_priv_folder_path(run->folder), run->began_us, true,
                                         places->title, problem);
    return ok
           && (!run->base
               || pintle_priv_note_base(pintle_priv_base_db(run->base), places->database,
                                        run->number, run->began_us, true, places->title, problem));
}

static bool begin_in(struct pintle_run *run, const struct pintle_run_places *places,
                     const struct pintle_run_texts *texts, struct pintle_problem *problem)
{
    struct pintle_run_line header = { 0 };
    unsigned last = 0;
    char *about = pintle_priv_about(run, NULL);
    pintle_run_header(&header, run->station->rig);
    if (places->folder) {
        g_mkdir_with_parents(places->folder,
                             0755); /* the database may lie in it; else it is said later */
    }
    run->base = places->database ? pintle_priv_base_hold(places->database, &last, problem) : NULL;
    bool ok = run->base || !places->database;
    run->folder = ok && places->folder
                      ? pintle_priv_folder_make(places->folder, about, texts, &header, problem)
                      : NULL;
    ok = ok && (run->folder || !places->folder) && take_number(run, places, last, problem)
         && (!run->base
             || pintle_priv_base_begin(run->base, run->number, about, texts, &header, problem));
    pintle_run_line_free(&header);
    g_free(about);
    return ok;
}

static bool has_channel(const struct pintle_rig *rig)
{
    for (unsigned i = 0; i < rig->sensors; i++) {
        const struct pintle_part *part = rig->sensor[i].sheet->part;
        for (unsigned c = 0; c < part->channel_count; c++) {
            if (pintle_run_logs(&part->channels[c])) {
                return true;
            }
        }
    }
    return false;
}

bool pintle_run_begin(struct pintle_run *run, const struct pintle_run_places *places,
                      const struct pintle_station *station, struct pintle_problem *problem)
{
    if (!has_channel(station->rig)) {
        return pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                  "no sensor of this rig measures anything that can be logged; add "
                                  "one that does");
    }
    *run = (struct pintle_run){ .station = station,
                                .began_us = pintle_station_now(station),
                                .unset = !pintle_station_knows_time(station) };
    char *calibration_path = pintle_calibration_path(station->rig);
    char *calibration = NULL;
    g_file_get_contents(calibration_path, &calibration, NULL, NULL);
    const struct pintle_run_texts texts = { { station->rig->text, station->world, calibration } };
    bool ok = begin_in(run, places, &texts, problem);
    g_free(calibration);
    g_free(calibration_path);
    if (!ok) {
        pintle_priv_base_free(run->base);
        if (run->folder) {
            pintle_priv_folder_discard(run->folder);
        }
        *run = (struct pintle_run){ 0 };
        return false;
    }
    run->path = g_strdup(run->folder ? pintle_priv_folder_path(run->folder) : places->database);
    if (!put_title(run, places, problem)) {
        struct pintle_problem more = { 0 };
        pintle_run_end(run, "failed", &more);
        return false;
    }
    return true;
}

/* One of the run's places, after a record: has it failed just now, or recovered? It is tried again
 * with each record, since a disk that was full may have room again. */
static void look_after(struct pintle_run *run, const char *path, const char *other, bool ok,
                       uint32_t *lacks, const struct pintle_problem *why)
{
    char *news = NULL;
    if (!ok && *lacks == 0) {
        news = g_strdup_printf("%s failed after record %u (%s); logging continues in %s", path,
                               run->records, why->text, other);
    } else if (ok && *lacks > 0) {
        news = g_strdup_printf("%s is written again; %u record%s before record %u are only in %s",
                               path, *lacks, *lacks > 1 ? "s" : "", run->records + 1, other);
    }
    *lacks = ok ? 0 : *lacks + 1;
    if (news) {
        g_free(run->lost);
        run->lost = g_strdup(news);
        g_free(run->news);
        run->news = news;
    }
}

bool pintle_run_append(struct pintle_run *run, const struct pintle_run_line *line,
                       struct pintle_problem *problem)
{
    struct pintle_problem why[2] = { { 0 } };
    bool in_folder =
        run->folder && pintle_priv_folder_append(run->folder, line->at, line->used, &why[0]);
    bool in_base = run->base && pintle_priv_base_append(run->base, run, line, &why[1]);
    if (!in_folder && !in_base) {
        const struct pintle_problem *first = run->folder ? &why[0] : &why[1];
        return pintle_problem_set(problem, first->failure, "%s", first->text);
    }
    g_clear_pointer(&run->news, g_free);
    if (run->folder && run->base) {
        const char *folder = pintle_priv_folder_path(run->folder);
        const char *base = pintle_priv_base_path(run->base);
        look_after(run, folder, base, in_folder, &run->folder_lacks, &why[0]);
        look_after(run, base, folder, in_base, &run->base_lacks, &why[1]);
    }
    run->records++;
    run->suspect += !line->good;
    run->missed += line->missed;
    run->bytes += line->used;
    return true;
}

bool pintle_run_note(const struct pintle_run *run, int64_t time_us, const char *text,
                     struct pintle_problem *problem)
{
    return (!run->folder
            || pintle_priv_note_folder(pintle_priv_folder_path(run->folder), time_us, false, text,
                                       problem))
           && (!run->base
               || pintle_priv_note_base(pintle_priv_base_db(run->base),
                                        pintle_priv_base_path(run->base), run->number, time_us,
                                        false, text, problem));
}

bool pintle_run_end(struct pintle_run *run, const char *how, struct pintle_problem *problem)
{
    char *about = pintle_priv_about(run, how);
    struct pintle_problem known = { 0 }; /* a place that has failed may fail again */
    bool ok = !run->folder
              || pintle_priv_folder_end(run->folder, about, run->folder_lacks ? &known : problem)
              || run->folder_lacks > 0;
    ok = (!run->base
          || pintle_priv_base_end(run->base, about, how, run->base_lacks ? &known : problem)
          || run->base_lacks > 0)
         && ok;
    pintle_priv_folder_free(run->folder);
    pintle_priv_base_free(run->base);
    g_free(about);
    g_free(run->lost);
    g_free(run->news);
    g_free(run->path);
    g_free(run->step);
    *run = (struct pintle_run){ 0 };
    return ok;
}

bool pintle_run_room(const char *path, double bytes_a_record, int64_t every_us, double *free_bytes,
                     double *seconds)
{
    struct statvfs room;
    if (statvfs(path, &room) != 0 || bytes_a_record <= 0) {
        return false;
    }
    *free_bytes = (double)room.f_bavail * (double)room.f_frsize;
    *seconds = *free_bytes / bytes_a_record * (double)every_us / 1e6;
    return true;
}

double pintle_run_size(const char *path)
{
    struct stat status;
    return stat(path, &status) == 0 ? (double)status.st_size : 0;
}
