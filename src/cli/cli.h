/* What the commands share: options, files, how they talk. */
#ifndef PINTLE_CLI_H
#define PINTLE_CLI_H

#include <glib.h>

#include "pintle/host/live/station.h"
#include "pintle/host/run/logger.h"
#include "pintle/host/trace/trace.h"

/* A command: its function gets the arguments after its name, itself at index 0. */
struct command {
    const char *name;
    const char *usage;   /* what follows the name */
    const char *summary; /* one line */
    const char *more;    /* the rest of --help, with an example */
    int (*run)(int argc, char **argv);
};

extern const struct command command_parts, command_scan, command_regs, command_read,
    command_convert, command_calibrate, command_log, command_plot, command_trace, command_wiring,
    command_explain, command_demo, command_lines, command_store, command_clock, command_show,
    command_burst, command_derive, command_power, command_limits, command_corrections,
    command_compare, command_runs, command_summary, command_export, command_note, command_thin,
    command_live, command_report;

/* The options that most commands take. */
struct rig_options {
    char *rig;
    gboolean demo;
    char *at;
    char **units;      /* asked for */
    bool may_be_empty; /* the command makes sense with no sensor */
    bool may_offer;    /* and with no rig: then of the buses that this machine offers */
};
#define UNIT_OPTION(options)                                                                       \
    {                                                                                              \
        "unit", 'u', 0, G_OPTION_ARG_STRING_ARRAY, &(options).units,                               \
            "show it in these units: degF,pressure=hPa+mmHg", "UNITS"                              \
    }
#define AT_OPTION(at)                                                                              \
    {                                                                                              \
        "at", 0, 0, G_OPTION_ARG_STRING, &(at),                                                    \
            "begin this far into the simulated world (\"1d 6h\")", "DURATION"                      \
    }
#define RIG_OPTIONS(options)                                                                       \
    { "rig", 'r', 0, G_OPTION_ARG_FILENAME, &(options).rig, "the rig file", "FILE" },              \
    {                                                                                              \
        "demo", 0, 0, G_OPTION_ARG_NONE, &(options).demo, "use the built-in rig, a moored sloop",  \
            NULL                                                                                   \
    }

enum format { FORMAT_TEXT, FORMAT_CSV, FORMAT_SENML };

/* Parse the command's options; what is left stays in argv. False: the mistake is reported, leave
 * with status 2. --help ends the program. Titles and runs are G_OPTION_ARG_FILENAME: taken as they
 * are, whatever the character set. */
bool cli_options(const struct command *command, const GOptionEntry *entries, int *argc,
                 char ***argv);

/* Free what options hold; nothing of it may be used afterwards. */
void cli_end(void);

/* "text", "csv" or "senml" (null: text). */
bool cli_format(const char *name, enum format *format, struct pintle_problem *problem);

/* A duration that was given with an option, or the usual one. */
bool cli_duration(const char *option, const char *text, int64_t usual, int64_t *us,
                  struct pintle_problem *problem);

/* Formats behind `last` have base units: is none asked for with them? */
bool cli_units_fit(char *const *units, enum format format, enum format last,
                   struct pintle_problem *problem);

/* Load the rig with its kept corrections and open a station on it. */
bool cli_open(const struct rig_options *options, struct pintle_rig **rig,
              struct pintle_station **station, struct pintle_problem *problem);

/* One sensor of a rig brought to life. */
struct one {
    struct pintle_rig *rig;
    struct pintle_station *station;
    unsigned index;
    const struct pintle_rig_sensor *from;
    struct pintle_sensor *sensor;
};

/* Open a station and find the sensor of this name on it, which must be able to do what a command
 * is for ("clock"); no name: the only one of the rig that is. */
typedef bool cli_able(const struct pintle_part *part);
bool cli_open_one(const struct rig_options *options, const char *name, const char *what,
                  cli_able *able, struct one *one, struct pintle_problem *problem);
void cli_close_one(struct one *one);

/* A call about it failed: what, in the words of its bus and part. False. */
bool cli_one_failed(const struct one *one, const char *what, enum pintle_status status,
                    struct pintle_problem *problem);

/* It has no such ability: say so, and who of the catalogue has. False. */
bool cli_unable(const struct one *one, const char *what, cli_able *able,
                struct pintle_problem *problem);

/* The bytes that `convert` is given. */
struct cli_block {
    GByteArray *raw;
    unsigned given; /* so many of them, when it is complete; the others are filled up */
    uint16_t idle;  /* inputs of which there are none */
};

/* Complete it to the part's raw block where what is missing is known: what is read twice, a first
 * byte that says "new", a line's end; and channels at the end, which are left out of a sample. */
void cli_complete(const struct pintle_sheet *sheet, struct cli_block *block);
void cli_leave_out(const struct pintle_part *part, const struct cli_block *block,
                   struct pintle_sample *sample);

/* Four digits that count, and no powers of ten; to be freed. */
char *cli_figure(double number);

/* Stations opened from now on are simulated over wires and recorded into `trace`; null: no more. */
void cli_trace(struct pintle_trace *trace);

/* The rig alone. */
struct pintle_rig *cli_rig(const struct rig_options *options, struct pintle_problem *problem);

/* Print the problem to stderr; returns the exit status that goes with it. */
int cli_fail(const struct pintle_problem *problem);

/* Wrong use, said in one go. Returns the exit status. */
int cli_misuse(const char *format, ...) __attribute__((format(printf, 1, 2)));

/* Where a log goes: as the rig file says, its relative paths within the folder `into`; and into
 * `database`, either may be null. */
struct pintle_run_places cli_where(struct pintle_rig *rig, const char *into, const char *database,
                                   bool only_database, const char *title);

/* Say what came of a log, which was `ok` or failed with the problem, and free what belongs to it.
 * Returns the exit status. */
int cli_logged(struct pintle_logged *logged, bool ok, const struct pintle_problem *problem);

/* Has everything that was printed gone where it should? False, with the problem set. */
bool cli_printed(struct pintle_problem *problem);

/* The line that is written over and over, on a terminal only; and away with it, which talk does by
 * itself. */
void cli_progress(const char *format, ...) __attribute__((format(printf, 1, 2)));
void cli_progress_clear(void);

/* Talk: a line on stderr. */
void cli_say(const char *format, ...) __attribute__((format(printf, 1, 2)));

/* Terminal codes, empty strings where stdout is no terminal. */
const char *cli_bold(void);
const char *cli_good(void);
const char *cli_bad(void);
const char *cli_dim(void);
const char *cli_plain(void);

/* "s" behind a word of which there are so many. */
const char *cli_s(uint64_t count);

/* Decimals that are worth printing in this unit. */
unsigned cli_places(const struct pintle_channel *channel, enum pintle_unit unit);

/* The unit in which a channel is shown: `unit`, or the usual one where that is PINTLE_UNIT_COUNT.
 */
enum pintle_unit cli_chosen(const struct pintle_channel *channel, enum pintle_unit unit);

/* A reading in that unit, with `extra` more places than are worth it. To be
 * freed with g_free. "-" where there is no value. */
char *cli_value(const struct pintle_channel *channel, enum pintle_unit unit,
                const struct pintle_reading *reading, unsigned extra);

/* A standard uncertainty in that unit, to be freed with g_free: two figures that count; empty where
 * nobody knows it. */
char *cli_worth(const struct pintle_channel *channel, enum pintle_unit unit, double uncertainty);

/* The unit's symbol; of a time "UTC". */
const char *cli_unit(const struct pintle_channel *channel, enum pintle_unit unit);

/* Likewise for data, with the symbol: in the base unit where no other is asked for. To be freed
 * with g_free; empty where there is no value. */
char *cli_field(const struct pintle_channel *channel, enum pintle_unit unit,
                const struct pintle_reading *reading, const char **symbol);

/* A channel's raw integer, with a sign where it has one. To be freed with g_free. */
char *cli_raw(const struct pintle_channel *channel, const struct pintle_reading *reading);

/* Quality as words. To be freed with g_free. */
char *cli_quality(pintle_marks quality);

/* Tell the service manager that started this, where one did: "READY=1", "WATCHDOG=1". */
void cli_notify(const char *message);

/* What the bus's port says of its last call, in its own words where it has any. To be freed with
 * g_free. */
char *cli_why(const struct pintle_station *station, unsigned bus, enum pintle_status status);

/* Bytes as "00 7f a0". To be freed with g_free. */
char *cli_bytes(const uint8_t *bytes, size_t count);

#endif
