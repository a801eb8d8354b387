#include "pintle/host/run/run.h"

#include <errno.h>
#include <fcntl.h>
#include <glib.h>
#include <glib/gstdio.h>
#include <jansson.h>
#include <string.h>
#include <unistd.h>

#include "host/base/files.h"
#include "host/base/json.h"
#include "host/rig/place.h"
#include "pintle/host/keep/calibration.h"

bool pintle_run_logs(const struct pintle_channel *channel)
{
    return channel->quantity != PINTLE_QUANTITY_TIME;
}

unsigned pintle_run_last(const char *folder)
{
    GDir *dir = g_dir_open(folder, 0, NULL);
    const char *name = NULL;
    unsigned last = 0;
    while (dir && (name = g_dir_read_name(dir)) != NULL) {
        char *end = NULL;
        unsigned long number = strtoul(name, &end, 10);
        if (*end == '\0' && end > name && number > last && number < 1000000) {
            last = (unsigned)number;
        }
    }
    if (dir) {
        g_dir_close(dir);
    }
    return last;
}

/* A run is made whole under another name first, so that a folder with a number always has its
 * files, whenever the power goes. */
static bool make_unnumbered(struct pintle_run *run, const char *folder,
                            struct pintle_problem *problem)
{
    if (g_mkdir_with_parents(folder, 0755) != 0) {
        return pintle_priv_files_unwritable(folder, errno, problem);
    }
    run->path = g_build_filename(folder, ".beginning-XXXXXX", NULL);
    return g_mkdtemp_full(run->path, 0755) || pintle_priv_files_unwritable(folder, errno, problem);
}

/* Moving the folder to its name is what takes the number: of two at once only one can succeed. */
static bool take_number(struct pintle_run *run, const char *folder, struct pintle_problem *problem)
{
    run->number = pintle_run_last(folder);
    do {
        char name[16];
        run->number++;
        g_snprintf(name, sizeof name, "%04u", run->number);
        char *path = g_build_filename(folder, name, NULL);
        if (g_rename(run->path, path) == 0) {
            g_free(run->path);
            run->path = path;
            return true;
        }
        g_free(path);
    } while (errno == EEXIST || errno == ENOTEMPTY || errno == ENOTDIR);
    return pintle_priv_files_unwritable(folder, errno, problem);
}

/* Put a folder's new entries on the disk too. Some file systems can't, and need not. */
static bool sync_folder(const char *folder, struct pintle_problem *problem)
{
    int file = open(folder, O_RDONLY | O_DIRECTORY | O_CLOEXEC);
    bool ok = file >= 0 && (fsync(file) == 0 || errno == EINVAL);
    int error = errno;
    if (file >= 0) {
        close(file);
    }
    return ok || pintle_priv_files_unwritable(folder, error, problem);
}

/* The folder that `folder` is in. */
static bool sync_parent(const char *folder, struct pintle_problem *problem)
{
    char *parent = g_path_get_dirname(folder);
    bool ok = sync_folder(parent, problem);
    g_free(parent);
    return ok;
}

/* What each channel is made of. */
static json_t *describe_made(const struct pintle_rig *rig, const struct pintle_rig_sensor *s)
{
    json_t *all = json_object();
    for (unsigned c = 0; c < s->sheet->part->channel_count; c++) {
        const struct pintle_rig_made *made = &s->made[c];
        json_t *of = json_array();
        json_t *numbers = json_array();
        for (unsigned i = 0; made->formula && i < made->formula->formula->inputs; i++) {
            const struct pintle_rig_sensor *from = &rig->sensor[made->of[i].sensor];
            const char *channel = from->sheet->part->channels[made->of[i].channel].name;
            json_array_append_new(of, json_sprintf("%s.%s", from->name, channel));
        }
        for (unsigned i = 0; i < made->count; i++) {
            json_array_append_new(numbers, pintle_priv_json_float(made->numbers[i]));
        }
        json_object_set_new(
            all, s->sheet->part->channels[c].name,
            json_pack("{s:s, s:o, s:o, s:f}", "is",
                      made->formula ? made->formula->name : PINTLE_RIG_BOARD_TEMPERATURE, "of", of,
                      "numbers", numbers, "over_s", made->over_ms / 1e3));
    }
    return all;
}

/* Each stage, in the order in which they were applied; which of the kept calibrations it is. */
static json_t *describe_corrections(const struct pintle_rig *rig, const struct pintle_rig_sensor *s)
{
    json_t *all = json_array();
    for (unsigned i = 0; i < s->stages; i++) {
        const struct pintle_rig_stage *from = &s->stage[i];
        json_t *numbers = json_array();
        for (unsigned n = 0; n < from->stage.count; n++) {
            json_array_append_new(numbers, pintle_priv_json_float(from->stage.numbers[n]));
        }
        json_t *stage = json_pack("{s:s, s:s, s:o, s:i}", "channel",
                                  s->sheet->part->channels[from->stage.channel].name, "is",
                                  pintle_stage_word((enum pintle_stage_kind)from->stage.kind),
                                  "numbers", numbers, "correction", (int)from->entry);
        if (from->second >= 0) {
            const struct pintle_rig_sensor *second = &rig->sensor[from->second];
            json_object_set_new(
                stage, "second",
                json_sprintf("%s.%s", second->name,
                             second->sheet->part->channels[from->second_channel].name));
        }
        json_array_append_new(all, stage);
    }
    return all;
}

static json_t *describe_sensor(const struct pintle_rig *rig, unsigned index)
{
    const struct pintle_rig_sensor *s = &rig->sensor[index];
    json_t *settings = json_object();
    json_t *corrections = describe_corrections(rig, s);
    const struct pintle_part *part = s->sheet->part;
    for (unsigned i = 0; i < part->setting_count; i++) {
        json_object_set_new(
            settings, s->sheet->settings[i].name,
            json_string(s->chosen.ranging && pintle_sheet_ranges(s->sheet, i)
                            ? "auto"
                            : s->sheet->settings[i].options[s->chosen.settings[i]]));
    }
    for (unsigned i = 0; i < part->number_count; i++) {
        json_object_set_new(settings, s->sheet->numbers[i].name,
                            pintle_priv_json_float(s->chosen.numbers[i]));
    }
    if (s->made) {
        json_t *about = json_pack("{s:s, s:o}", "sensor", s->name, "made", describe_made(rig, s));
        json_object_set_new(about, "corrections", corrections);
        json_decref(settings);
        return about;
    }
    json_t *about = json_pack("{s:s, s:s, s:s}", "sensor", s->name, "part", part->name, "bus",
                              rig->bus[s->bus].name);
    pintle_priv_place_put(about, rig, index);
    json_object_set_new(about, "settings", settings);
    json_object_set_new(about, "corrections", corrections);
    return about;
}

static json_t *describe_steps(const struct pintle_run *run)
{
    json_t *steps = json_array();
    for (unsigned i = 0; i < run->steps; i++) {
        json_array_append_new(steps, json_pack("{s:I, s:f}", "before_record",
                                               (json_int_t)run->step[i].record, "by_s",
                                               (double)run->step[i].by_us / 1e6));
    }
    return steps;
}

void pintle_run_stepped(struct pintle_run *run, int64_t by_us)
{
    run->step = g_renew(struct pintle_clock_step, run->step, run->steps + 1);
    run->step[run->steps++] = (struct pintle_clock_step){ run->records + 1, by_us };
}

static bool write_about(const struct pintle_run *run, const char *ended,
                        struct pintle_problem *problem)
{
    const struct pintle_rig *rig = run->station->rig;
    char buffer[32];
    struct pintle_text began;
    pintle_text_init(&began, buffer, sizeof buffer);
    pintle_text_time(&began, run->began_us, 0, 0);
    json_t *sensors = json_array();
    for (unsigned i = 0; i < rig->sensors; i++) {
        json_array_append_new(sensors, describe_sensor(rig, i));
    }
    json_t *root =
        json_pack("{s:s, s:s, s:s, s:f, s:o}", "format", "pintle run 1", "board", rig->board,
                  "began", buffer, "every_s", (double)rig->every_us / 1e6, "sensors", sensors);
    if (run->unset) {
        json_object_set_new(root, "clock", json_string("never set when it began"));
    }
    if (run->steps > 0) {
        json_object_set_new(root, "clock_steps", describe_steps(run));
    }
    if (ended) {
        json_object_set_new(root, "records", json_integer(run->records));
        json_object_set_new(root, "suspect", json_integer(run->suspect));
        json_object_set_new(root, "ended", json_string(ended));
    }
    char *path = g_build_filename(run->path, "run.json", NULL);
    bool ok = pintle_priv_json_write(root, path, problem);
    g_free(path);
    json_decref(root);
    return ok;
}

static bool copy_into(const struct pintle_run *run, const char *name, const char *text,
                      struct pintle_problem *problem)
{
    char *path = g_build_filename(run->path, name, NULL);
    bool ok = !text || pintle_priv_files_replace(path, text, problem);
    g_free(path);
    return ok;
}

/* The rig, its world and the calibration file, as they are now. */
static bool copy_rig(const struct pintle_run *run, struct pintle_problem *problem)
{
    const struct pintle_rig *rig = run->station->rig;
    char *calibration_path = pintle_calibration_path(rig);
    char *calibration = NULL;
    g_file_get_contents(calibration_path, &calibration, NULL, NULL);
    bool ok = copy_into(run, "rig", rig->text, problem)
              && copy_into(run, "world", run->station->world, problem)
              && copy_into(run, "calibration.json", calibration, problem);
    g_free(calibration);
    g_free(calibration_path);
    return ok;
}

static bool append_text(struct pintle_run *run, const char *bytes, size_t count,
                        struct pintle_problem *problem)
{
    while (count > 0) {
        ssize_t wrote = write(run->file, bytes, count);
        if (wrote < 0 && errno == EINTR) {
            continue;
        }
        if (wrote < 0) {
            return pintle_priv_files_unwritable(run->path, errno, problem);
        }
        bytes += wrote;
        count -= (size_t)wrote;
    }
    if (fdatasync(run->file) != 0 && errno != EINVAL) {
        return pintle_priv_files_unwritable(run->path, errno, problem);
    }
    return true;
}

static bool open_readings(struct pintle_run *run, struct pintle_problem *problem)
{
    char *path = g_build_filename(run->path, "readings.csv", NULL);
    run->file = open(path, O_CREAT | O_EXCL | O_WRONLY | O_APPEND | O_CLOEXEC, 0644);
    bool ok = run->file >= 0 || pintle_priv_files_unwritable(path, errno, problem);
    g_free(path);
    if (!ok) {
        return false;
    }
    struct pintle_run_line header = { 0 };
    pintle_run_header(&header, run->station->rig);
    ok = append_text(run, header.at, header.used, problem);
    pintle_run_line_free(&header);
    return ok;
}

/* A run that could not begin leaves nothing behind. */
static void discard(struct pintle_run *run)
{
    static const char *const files[] = { "rig", "world", "calibration.json", "readings.csv",
                                         "run.json" };
    if (run->file >= 0) {
        close(run->file);
    }
    for (size_t i = 0; run->path && i < G_N_ELEMENTS(files); i++) {
        char *path = g_build_filename(run->path, files[i], NULL);
        g_unlink(path);
        g_free(path);
    }
    if (run->path) {
        g_rmdir(run->path);
    }
    g_free(run->path);
    g_free(run->step);
    *run = (struct pintle_run){ .file = -1 };
}

bool pintle_run_begin(struct pintle_run *run, const char *folder,
                      const struct pintle_station *station, struct pintle_problem *problem)
{
    *run = (struct pintle_run){ .file = -1,
                                .station = station,
                                .began_us = pintle_station_now(station),
                                .unset = !pintle_station_knows_time(station) };
    if (make_unnumbered(run, folder, problem) && write_about(run, NULL, problem)
        && copy_rig(run, problem) && open_readings(run, problem) && sync_folder(run->path, problem)
        && take_number(run, folder, problem) && sync_folder(folder, problem)
        && sync_parent(folder, problem)) {
        return true;
    }
    discard(run);
    return false;
}

bool pintle_run_append(struct pintle_run *run, const struct pintle_run_line *line,
                       struct pintle_problem *problem)
{
    if (!append_text(run, line->at, line->used, problem)) {
        return false;
    }
    run->records++;
    run->suspect += !line->good;
    return true;
}

bool pintle_run_end(struct pintle_run *run, const char *how, struct pintle_problem *problem)
{
    bool ok = close(run->file) == 0 || pintle_priv_files_unwritable(run->path, errno, problem);
    run->file = -1;
    ok = ok && write_about(run, how, problem);
    g_free(run->path);
    g_free(run->step);
    run->path = NULL;
    run->step = NULL;
    return ok;
}
