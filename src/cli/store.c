#include <stdio.h>
#include <string.h>

#include "cli/past.h"
#include "pintle/ability.h"
#include "pintle/parts/sdcard.h"
#include "pintle/host/base/output.h"

#define PER_LINE 16

struct store_options {
    struct rig_options rig;
    gint64 from, count; /* units; count 0: to the end */
    char *save, *load;
};

static bool able(const struct pintle_part *part)
{
    return part->can && part->can->store;
}

/* What is asked for, within what there is. */
static bool fits(const struct one *one, const struct store_options *options, uint64_t size,
                 struct pintle_problem *problem)
{
    uint64_t units = size / pintle_store_unit(one->sensor->part);
    return (options->from >= 0 && options->count >= 0 && (uint64_t)options->from < units
            && (uint64_t)options->count <= units - (uint64_t)options->from)
           || pintle_problem_set(
               problem, PINTLE_FAILURE_USE,
               "'%s' has %" G_GUINT64_FORMAT " %s, numbered from 0; from %" G_GINT64_FORMAT
               " on there are not so many",
               one->from->name, units,
               pintle_store_unit(one->sensor->part) > 1 ? "blocks of 512 bytes" : "bytes",
               options->from);
}

static void describe(const struct one *one, uint64_t size)
{
    const struct pintle_part *part = one->sensor->part;
    printf("%s%s%s  %s at %s on bus '%s', %" G_GUINT64_FORMAT " bytes", cli_bold(), one->from->name,
           cli_plain(), part->name, one->from->where, one->rig->bus[one->from->bus].name, size);
    if (part->link->checks) {
        struct pintle_sdcard_about about;
        pintle_sdcard_describe(one->sensor, &about);
        printf(" in blocks of %u; maker %02xh, '%s', serial number %08x, made %u-%02u",
               PINTLE_SDCARD_BLOCK, about.maker, about.product, about.serial, about.year,
               about.month);
    }
    printf("\n");
}

static void print_line(uint64_t at, const uint8_t *bytes, unsigned count)
{
    char *text = cli_bytes(bytes, count);
    printf("%04" G_GINT64_MODIFIER "xh  %s\n", at, text);
    g_free(text);
}

/* Unit after unit, into a file or as lines. */
static bool read_out(const struct one *one, const struct store_options *options, uint64_t size,
                     struct pintle_problem *problem)
{
    unsigned unit = pintle_store_unit(one->sensor->part);
    unsigned at_once = unit > 1 ? 1 : PER_LINE;
    uint64_t units =
        options->count ? (uint64_t)options->count : size / unit - (uint64_t)options->from;
    GByteArray *all = g_byte_array_new();
    struct pintle_progress progress = cli_watch_progress("reading");
    bool ok = true;
    for (uint64_t done = 0; ok && done < units;) {
        uint8_t bytes[PINTLE_SDCARD_BLOCK];
        uint16_t count = (uint16_t)MIN(units - done, at_once);
        uint64_t from = (uint64_t)options->from + done;
        enum pintle_status status = pintle_store_read(one->sensor, (uint32_t)from, bytes, count);
        ok = status == PINTLE_OK || cli_one_failed(one, "reading", status, problem);
        for (unsigned i = 0; ok && !options->save && i < count * unit; i += PER_LINE) {
            print_line(from * unit + i, bytes + i, MIN(count * unit - i, PER_LINE));
        }
        if (options->save) {
            g_byte_array_append(all, bytes, ok ? count * unit : 0);
        }
        done += count;
        ok = ok && cli_goes_on(&progress, (double)done / (double)units, "nothing is kept", problem);
    }
    cli_end_progress();
    GError *error = NULL;
    ok = ok && (!options->save || pintle_output_may(options->save, problem));
    if (ok && options->save
        && !g_file_set_contents(options->save, (const char *)all->data, all->len, &error)) {
        ok = pintle_problem_set(problem, PINTLE_FAILURE_UNABLE, "cannot write %s: %s",
                                options->save, error->message);
        g_error_free(error);
    }
    if (ok && options->save) {
        printf("%u bytes kept in %s\n", all->len, options->save);
    }
    g_byte_array_free(all, TRUE);
    return ok;
}

/* Of a card what is left of the last block becomes zeros. */
static bool write_in(const struct one *one, struct store_options *options, uint64_t size,
                     struct pintle_problem *problem)
{
    char *bytes = NULL;
    gsize length = 0;
    GError *error = NULL;
    unsigned unit = pintle_store_unit(one->sensor->part);
    if (!g_file_get_contents(options->load, &bytes, &length, &error)) {
        pintle_problem_set(problem, PINTLE_FAILURE_USE, "cannot read %s: %s", options->load,
                           error->message);
        g_error_free(error);
        return false;
    }
    options->count = (gint64)((length + unit - 1) / unit);
    bytes = g_realloc(bytes, (gsize)options->count * unit + 1);
    memset(bytes + length, 0, (gsize)options->count * unit - length);
    struct pintle_progress progress = cli_watch_progress("writing");
    bool ok = fits(one, options, size, problem);
    for (gint64 done = 0; ok && done < options->count;) {
        uint16_t count = (uint16_t)MIN(options->count - done, 32);
        enum pintle_status status =
            pintle_store_write(one->sensor, (uint32_t)(options->from + done),
                               (const uint8_t *)bytes + (gsize)done * unit, count);
        ok = status == PINTLE_OK || cli_one_failed(one, "writing", status, problem);
        done += count;
        ok = ok
             && (done == options->count
                 || cli_goes_on(&progress, (double)done / (double)options->count,
                                "a part of the file is written, the rest is as it was", problem));
    }
    cli_end_progress();
    if (ok) {
        printf("%" G_GSIZE_FORMAT " bytes of %s written, and read back\n", length, options->load);
    }
    g_free(bytes);
    return ok;
}

static bool act(const struct one *one, struct store_options *options, bool brief,
                struct pintle_problem *problem)
{
    uint64_t size = 0;
    enum pintle_status status = pintle_store_size(one->sensor, &size);
    if (status != PINTLE_OK) {
        return cli_one_failed(one, "asking", status, problem);
    }
    if (brief) {
        describe(one, size);
        return true;
    }
    return options->load
               ? write_in(one, options, size, problem)
               : fits(one, options, size, problem) && read_out(one, options, size, problem);
}

static int run(int argc, char **argv)
{
    struct store_options options = { .from = -1, .count = -1 };
    const GOptionEntry entries[] = {
        RIG_OPTIONS(options.rig),
        AT_OPTION(options.rig.at),
        { "from", 0, 0, G_OPTION_ARG_INT64, &options.from,
          "from this byte on, or block of a card (0)", "N" },
        { "count", 0, 0, G_OPTION_ARG_INT64, &options.count, "so many (all that there are)", "N" },
        { "save", 0, 0, G_OPTION_ARG_FILENAME, &options.save, "keep them in a file", "FILE" },
        { "load", 0, 0, G_OPTION_ARG_FILENAME, &options.load, "write a file's bytes there instead",
          "FILE" },
        { 0 }
    };
    struct pintle_problem problem = { 0 };
    struct one one;
    if (!cli_options(&command_store, entries, &argc, &argv)) {
        return PINTLE_FAILURE_USE;
    }
    if (argc > 2) {
        return cli_misuse("store: one sensor at a time");
    }
    if (options.load && (options.save || options.count >= 0)) {
        return cli_misuse("store: --load writes the whole file; leave --save and --count away");
    }
    if (!cli_open_one(&options.rig, argv[1], "memory", able, &one, &problem)) {
        return cli_fail(&problem);
    }
    bool brief = options.from < 0 && options.count < 0 && !options.save && !options.load;
    options.from = MAX(options.from, 0);
    options.count = MAX(options.count, 0);
    bool ok = act(&one, &options, brief, &problem);
    cli_close_one(&one);
    return ok ? 0 : cli_fail(&problem);
}

const struct command command_store = {
    .name = "store",
    .usage = "[SENSOR]",
    .summary = "the memory of a chip that has some: shown, kept in a file, written from one",
    .more = "What is written is read back; what is there already is not written again.\n\n"
            "Example:\n  pintle store --rig boat.rig logbook\n"
            "  pintle store --rig boat.rig logbook --from 0 --count 64\n"
            "  pintle store --rig boat.rig logbook --load crew.txt --from 256",
    .run = run,
};
