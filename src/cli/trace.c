#include <stdio.h>
#include <string.h>

#include "cli/cli.h"
#include "pintle/host/draw/draw.h"
#include "pintle/host/trace/trace.h"

struct trace_options {
    struct rig_options rig;
    char **raw;
    char *vcd;
    char *draw;
    int number;
};

static const struct command *const traceable[] = { &command_scan, &command_regs, &command_read,
                                                   &command_calibrate, &command_log };

static const struct command *find_command(const char *name)
{
    for (size_t i = 0; i < G_N_ELEMENTS(traceable); i++) {
        if (strcmp(traceable[i]->name, name) == 0) {
            return traceable[i];
        }
    }
    return NULL;
}

#define SEGMENTS_MAX 8
#define BYTES_MAX 32

/* A typed transfer while it is read. */
struct typed {
    struct pintle_segment segment[SEGMENTS_MAX];
    uint8_t bytes[SEGMENTS_MAX][BYTES_MAX];
    uint8_t count;
};

/* "01" behind "write": the next byte to send. */
static bool take_byte(struct typed *typed, const char *word)
{
    struct pintle_segment *last = typed->count ? &typed->segment[typed->count - 1] : NULL;
    uint8_t *bytes = typed->count ? typed->bytes[typed->count - 1] : NULL;
    bool hex = g_ascii_isxdigit(word[0]) && g_ascii_isxdigit(word[1]) && word[2] == '\0';
    if (!last || last->in || !hex || last->length == BYTES_MAX) {
        return false;
    }
    bytes[last->length++] =
        (uint8_t)(g_ascii_xdigit_value(word[0]) * 16 + g_ascii_xdigit_value(word[1]));
    last->out = bytes;
    return true;
}

/* "2" behind "read": how many bytes to receive. */
static bool take_count(struct typed *typed, const char *word)
{
    char *end = NULL;
    guint64 count = word ? g_ascii_strtoull(word, &end, 10) : 0;
    if (count < 1 || count > BYTES_MAX || *end != '\0') {
        return false;
    }
    typed->segment[typed->count - 1] =
        (struct pintle_segment){ NULL, typed->bytes[typed->count - 1], (uint16_t)count };
    return true;
}

/* "write 01 read 2", with any number of either; nothing at all asks for the address alone. */
static bool take_segments(struct typed *typed, char **words)
{
    bool ok = true;
    for (unsigned i = 0; ok && words[i]; i++) {
        bool reading = strcmp(words[i], "read") == 0;
        if (!reading && strcmp(words[i], "write") != 0) {
            ok = take_byte(typed, words[i]);
            continue;
        }
        ok = typed->count < SEGMENTS_MAX;
        typed->count += ok;
        if (ok && reading) {
            ok = take_count(typed, words[i + 1]);
            i += ok;
        }
    }
    if (typed->count == 0) {
        typed->count = 1;
    }
    return ok;
}

/* SPI has no directions: what is read is clocked through behind what is written. */
static enum pintle_status transfer_spi(struct pintle_station *station, unsigned bus, uint8_t select,
                                       const struct typed *typed)
{
    const struct pintle_rig *rig = station->rig;
    struct pintle_spi_way way = { .clock_hz = rig->bus[bus].speed_hz, .select = select };
    for (unsigned i = 0; i < rig->sensors; i++) {
        const struct pintle_rig_sensor *s = &rig->sensor[i];
        if (s->bus == bus && s->place.select == select) {
            way.mode = s->sheet->part->spi->mode;
            way.clock_hz = MIN(way.clock_hz, s->sheet->part->spi->top_hz);
        }
    }
    return pintle_spi_transfer(&station->spi[bus], &way, typed->segment, typed->count);
}

static enum pintle_status transfer_onewire(struct pintle_station *station, unsigned bus,
                                           const struct typed *typed)
{
    const struct pintle_onewire *line = &station->onewire[bus];
    enum pintle_status status = line->calls->reset(line->context);
    for (unsigned i = 0; i < typed->count && status == PINTLE_OK; i++) {
        const struct pintle_segment *s = &typed->segment[i];
        status = line->calls->slots(line->context, s->out, s->in, (uint16_t)(8 * s->length), 0);
    }
    return status;
}

/* The chip's place: an address, a select pin, or nothing on a 1-Wire line, where each transfer
 * begins with a reset. Returns how many words it takes, or -1. */
static int take_where(const struct pintle_rig_bus *bus, char **words, uint8_t *where)
{
    char *end = NULL;
    guint64 address = words[1] ? g_ascii_strtoull(words[1], &end, 0) : 0;
    *where = (uint8_t)address;
    if (bus->kind == PINTLE_BUS_I2C) {
        return address >= 0x08 && address <= 0x77 && *end == '\0' ? 2 : -1;
    }
    if (bus->kind == PINTLE_BUS_ONEWIRE) {
        return 1;
    }
    for (unsigned i = 0; words[1] && i < bus->selects; i++) {
        if (strcmp(bus->select_pin[i], words[1]) == 0) {
            *where = (uint8_t)i;
            return 2;
        }
    }
    return -1;
}

/* Words, with any number of blanks between. */
static char **split(const char *text)
{
    char **words = g_strsplit_set(text, " \t", -1);
    unsigned kept = 0;
    for (unsigned i = 0; words[i]; i++) {
        if (words[i][0]) {
            words[kept++] = words[i];
        } else {
            g_free(words[i]);
        }
    }
    words[kept] = NULL;
    return words;
}

/* "aft 0x48 write 01 read 2": bus, place, then as the trace itself tells it. */
static bool run_raw(struct pintle_station *station, const char *text,
                    struct pintle_problem *problem)
{
    struct typed typed = { .count = 0 };
    char **words = split(text);
    int bus = words[0] ? pintle_rig_bus(station->rig, words[0]) : -1;
    uint8_t where = 0;
    int at = bus >= 0 ? take_where(&station->rig->bus[bus], words, &where) : -1;
    bool ok = at > 0 && take_segments(&typed, words + at);
    g_strfreev(words);
    if (!ok) {
        return pintle_problem_set(
            problem, PINTLE_FAILURE_USE,
            "'%s' is no transfer; write a bus, a 7-bit address (SPI: a select pin, 1-Wire: "
            "nothing), then bytes to write and how many to read (up to %d), as in \"%s 0x48 write "
            "01 read 2\"",
            text, BYTES_MAX, station->rig->bus[0].name);
    }
    enum pintle_bus_kind kind = station->rig->bus[bus].kind;
    enum pintle_status status =
        kind == PINTLE_BUS_I2C
            ? pintle_i2c_transfer(&station->i2c[bus], where, typed.segment, typed.count)
        : kind == PINTLE_BUS_SPI ? transfer_spi(station, (unsigned)bus, where, &typed)
                                 : transfer_onewire(station, (unsigned)bus, &typed);
    if (status != PINTLE_OK) {
        cli_say("%s: %s", text, pintle_status_sentence(status));
    }
    return true;
}

static bool run_all_raw(const struct trace_options *options, struct pintle_problem *problem)
{
    struct pintle_rig *rig = NULL;
    struct pintle_station *station = NULL;
    if (!cli_open(&options->rig, &rig, &station, problem)) {
        return false;
    }
    bool ok = true;
    for (unsigned i = 0; options->raw[i] && ok; i++) {
        ok = run_raw(station, options->raw[i], problem);
    }
    pintle_station_free(station);
    pintle_rig_free(rig);
    return ok;
}

/* Run the command with the same rig. */
static int run_command(const struct command *command, const struct trace_options *options, int argc,
                       char **argv)
{
    char **words = g_new0(char *, (gsize)argc + 6);
    int count = 0;
    words[count++] = argv[0];
    if (options->rig.demo) {
        words[count++] = (char *)(uintptr_t) "--demo";
    }
    if (options->rig.rig) {
        words[count++] = (char *)(uintptr_t) "--rig";
        words[count++] = options->rig.rig;
    }
    if (options->rig.at) {
        words[count++] = (char *)(uintptr_t) "--at";
        words[count++] = options->rig.at;
    }
    for (int i = 1; i < argc; i++) {
        words[count++] = argv[i];
    }
    int status = command->run(count, words);
    g_free(words);
    return status;
}

static bool deliver(const struct trace_options *options, const struct pintle_trace *trace,
                    struct pintle_problem *problem)
{
    struct pintle_rig *rig = cli_rig(&options->rig, problem);
    if (!rig) {
        return false;
    }
    char *text = pintle_trace_text(trace, rig);
    printf("%s", text);
    pintle_host_free(text);
    bool ok = !options->vcd || pintle_trace_vcd(trace, rig, options->vcd, problem);
    ok = ok
         && (!options->draw
             || pintle_draw_timing(trace, rig, (unsigned)options->number, options->draw, problem));
    pintle_rig_free(rig);
    return ok;
}

static int run(int argc, char **argv)
{
    struct trace_options options = { .number = 1, .rig.may_be_empty = true };
    const GOptionEntry entries[] = {
        RIG_OPTIONS(options.rig),
        { "raw", 0, 0, G_OPTION_ARG_STRING_ARRAY, &options.raw,
          "do this transfer instead of a command (\"aft 0x48 write 01 read 2\"); again for more",
          "TRANSFER" },
        { "vcd", 0, 0, G_OPTION_ARG_FILENAME, &options.vcd, "write the waveforms here", "FILE" },
        { "draw", 0, 0, G_OPTION_ARG_FILENAME, &options.draw, "draw one transfer here, PNG or SVG",
          "FILE" },
        { "transfer", 0, 0, G_OPTION_ARG_INT, &options.number, "which one to draw (1)", "N" },
        { 0 }
    };
    if (!cli_options(&command_trace, entries, &argc, &argv)) {
        return PINTLE_FAILURE_USE;
    }
    int first = argc > 1 && strcmp(argv[1], "--") == 0 ? 2 : 1;
    const struct command *command = argc > first ? find_command(argv[first]) : NULL;
    if (!command == !options.raw) {
        g_strfreev(options.raw);
        return cli_misuse("trace: name one command that talks to sensors (scan, regs, read, "
                          "calibrate or log) behind --, or transfers with --raw");
    }
    struct pintle_trace trace = { 0 };
    struct pintle_problem problem = { 0 };
    int status = 0;
    cli_trace(&trace);
    bool ok = true;
    if (command) {
        status = run_command(command, &options, argc - first, argv + first);
    } else {
        ok = run_all_raw(&options, &problem);
    }
    cli_trace(NULL);
    ok = ok && status <= PINTLE_FAILURE_RIG ? deliver(&options, &trace, &problem) : ok;
    pintle_trace_free(&trace);
    g_strfreev(options.raw);
    return ok ? status : cli_fail(&problem);
}

const struct command command_trace = {
    .name = "trace",
    .usage = "-- COMMAND [ARGUMENTS]",
    .summary = "the conversation on the buses, with register names and as waveforms",
    .more = "The command is run with the rig simulated down to its lines; then every transfer is\n"
            "told as its edges say. Each byte is followed by + (acknowledged) or - (not).\n\n"
            "Example:\n  pintle trace --demo -- read sea\n"
            "  pintle trace --demo --raw \"aft 0x48 write 01 read 2\" --vcd /tmp/sea.vcd --draw "
            "/tmp/sea.png",
    .run = run,
};
