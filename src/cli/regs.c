#include <stdio.h>
#include <string.h>

#include "cli/cli.h"
#include "pintle/host/keep/snapshot.h"

/* What the user named: REG, REG.FIELD, with =VALUE or without. */
struct target {
    const struct pintle_map_reg *reg;
    const struct pintle_field *field;
    bool write;
    uint32_t value;
};

static const char *access_word(const struct pintle_map_reg *reg)
{
    if (reg->reg.flags & PINTLE_REG_READ_ONLY) {
        return "read-only";
    }
    return reg->reg.flags & PINTLE_REG_WRITE_ONLY ? "write-only" : "";
}

static const struct pintle_map_reg *find_reg(const struct pintle_sheet *sheet, const char *name,
                                             struct pintle_problem *problem)
{
    const char **names = g_new(const char *, sheet->reg_count + 1u);
    for (unsigned i = 0; i < sheet->reg_count; i++) {
        names[i] = sheet->regs[i].name;
        if (g_ascii_strcasecmp(names[i], name) == 0) {
            g_free(names);
            return &sheet->regs[i];
        }
    }
    const char *nearest = pintle_problem_nearest(name, names, sheet->reg_count);
    char *meant = nearest ? g_strdup_printf("did you mean '%s'?", nearest)
                          : g_strdup("'pintle regs SENSOR' lists them");
    pintle_problem_set(problem, PINTLE_FAILURE_USE, "a %s has no register '%s'; %s",
                       sheet->part->name, name, meant);
    g_free(names);
    g_free(meant);
    return NULL;
}

static const struct pintle_field *find_field(const struct pintle_map_reg *reg, const char *name,
                                             struct pintle_problem *problem)
{
    GString *all = g_string_new(NULL);
    for (unsigned i = 0; i < reg->field_count; i++) {
        if (g_ascii_strcasecmp(reg->fields[i].name, name) == 0) {
            g_string_free(all, TRUE);
            return &reg->fields[i];
        }
        g_string_append_printf(all, "%s%s", i ? ", " : "", reg->fields[i].name);
    }
    pintle_problem_set(problem, PINTLE_FAILURE_USE, "register %s has no field '%s'; it has %s",
                       reg->name, name, all->len ? all->str : "none");
    g_string_free(all, TRUE);
    return NULL;
}

static bool parse_meaning(const char *const *values, const char *text, uint32_t *value)
{
    for (uint32_t i = 0; values && values[i]; i++) {
        if (g_ascii_strcasecmp(values[i], text) == 0) {
            *value = i;
            return true;
        }
    }
    return false;
}

static unsigned bits_of(const struct target *target)
{
    return target->field ? target->field->bits : 8u * target->reg->reg.width;
}

/* "CONFIGURATION.CR", to be freed with g_free. */
static char *name_of(const struct target *target)
{
    return target->field ? g_strdup_printf("%s.%s", target->reg->name, target->field->name)
                         : g_strdup(target->reg->name);
}

/* What the target takes, as a clause. */
static char *takes(const struct target *target)
{
    const char *const *values = target->field ? target->field->values : NULL;
    char *numbers = g_strdup_printf("a number from 0 to 0x%x",
                                    (unsigned)(((uint64_t)1 << bits_of(target)) - 1));
    if (!values) {
        return numbers;
    }
    char *meanings = g_strjoinv(", ", (char **)(uintptr_t)values);
    char *all = g_strdup_printf("%s, or %s", numbers, meanings);
    g_free(meanings);
    g_free(numbers);
    return all;
}

static bool no_value(const char *text, const struct target *target, struct pintle_problem *problem)
{
    char *name = name_of(target);
    char *right = takes(target);
    pintle_problem_set(problem, PINTLE_FAILURE_USE, "%s cannot be '%s'; it takes %s", name, text,
                       right);
    g_free(right);
    g_free(name);
    return false;
}

/* A whole number (decimal, 0x...) is the raw value; anything else a meaning of the field. */
static bool parse_value(const char *text, struct target *target, struct pintle_problem *problem)
{
    const char *const *values = target->field ? target->field->values : NULL;
    char *end = NULL;
    guint64 number = g_ascii_strtoull(text, &end, 0);
    if (end > text && *end == '\0' && text[0] != '-' && number >> bits_of(target) == 0) {
        target->value = (uint32_t)number;
        return true;
    }
    return parse_meaning(values, text, &target->value) || no_value(text, target, problem);
}

/* Before anything is asked of the chip. */
static bool check_access(const struct target *target, struct pintle_problem *problem)
{
    const struct pintle_reg *reg = &target->reg->reg;
    uint32_t mask = target->field ? (uint32_t)(((uint64_t)1 << target->field->bits) - 1)
                                        << target->field->shift
                                  : 0;
    bool readable = !(reg->flags & PINTLE_REG_WRITE_ONLY);
    bool writable = !(reg->flags & PINTLE_REG_READ_ONLY) && !(reg->fixed & mask);
    char *name = name_of(target);
    if (target->write && !writable) {
        pintle_problem_set(problem, PINTLE_FAILURE_USE, "%s cannot be written: it is read-only",
                           name);
    } else if (!readable && (!target->write || target->field)) {
        pintle_problem_set(problem, PINTLE_FAILURE_USE,
                           "%s cannot be read: it is write-only, as a whole", name);
    } else if (target->write && reg->width == 0 && target->value != 0) {
        pintle_problem_set(problem, PINTLE_FAILURE_USE,
                           "%s is a command with no value; write %s=0 to send it", name, name);
    }
    g_free(name);
    return problem->failure == PINTLE_FAILURE_NONE;
}

static bool parse_target(const struct pintle_sheet *sheet, const char *text, struct target *target,
                         struct pintle_problem *problem)
{
    char **sides = g_strsplit(text, "=", 2);
    char **names = g_strsplit(sides[0] ? sides[0] : "", ".", 2);
    target->write = sides[0] && sides[1];
    target->reg = find_reg(sheet, names[0] ? names[0] : "", problem);
    bool ok = target->reg != NULL;
    if (ok && names[1]) {
        target->field = find_field(target->reg, names[1], problem);
        ok = target->field != NULL;
    }
    ok = ok && (!target->write || parse_value(sides[1], target, problem))
         && check_access(target, problem);
    g_strfreev(sides);
    g_strfreev(names);
    return ok;
}

static uint32_t cut(const struct pintle_field *field, uint32_t value)
{
    return value >> field->shift & (uint32_t)(((uint64_t)1 << field->bits) - 1);
}

static const char *meaning_of(const struct pintle_field *field, uint32_t value)
{
    uint32_t i = 0;
    while (field->values && field->values[i]) {
        if (i++ == value) {
            return field->values[value];
        }
    }
    return "";
}

static void print_field(const struct pintle_field *field, uint32_t value)
{
    char bits[16];
    uint32_t part = cut(field, value);
    const char *meaning = meaning_of(field, part);
    if (field->bits == 1) {
        g_snprintf(bits, sizeof bits, "%u", field->shift);
    } else {
        g_snprintf(bits, sizeof bits, "%u-%u", field->shift + field->bits - 1, field->shift);
    }
    char *value_text = g_strdup_printf("%u%s%s", part, meaning[0] ? " = " : "", meaning);
    printf("    %-7s%-14s %-26s %s%s%s\n", bits, field->name, value_text, cli_dim(), field->meaning,
           cli_plain());
    g_free(value_text);
}

static void print_reg(const struct pintle_map_reg *reg, uint32_t value,
                      const struct pintle_field *only, int digits)
{
    const char *access = access_word(reg);
    printf("%s%0*xh  %-16s 0x%0*x%s  %s%s%s%s%s\n", cli_bold(), digits, reg->reg.address, reg->name,
           2 * reg->reg.width, value, cli_plain(), cli_dim(), reg->meaning, access[0] ? ", " : "",
           access, cli_plain());
    for (unsigned i = 0; i < reg->field_count; i++) {
        if (!only || only == &reg->fields[i]) {
            print_field(&reg->fields[i], value);
        }
    }
}

/* Of a part with banks all addresses are written with four digits. */
static int address_digits(const struct pintle_sheet *sheet)
{
    return sheet->reg_count > 0 && sheet->regs[sheet->reg_count - 1].reg.address > 0xff ? 4 : 2;
}

/* A transfer that failed, as a problem of the rig. */
static bool no_transfer(const struct pintle_station *station, unsigned index,
                        const struct pintle_map_reg *reg, enum pintle_status status,
                        struct pintle_problem *problem)
{
    const struct pintle_rig *rig = station->rig;
    const struct pintle_rig_sensor *sensor = &rig->sensor[index];
    char *why = cli_why(station, sensor->bus, status);
    bool use = status == PINTLE_READ_ONLY || status == PINTLE_WRITE_ONLY
               || status == PINTLE_OUT_OF_RANGE || status == PINTLE_BAD_ARGUMENT;
    pintle_problem_set(
        problem, use ? PINTLE_FAILURE_USE : PINTLE_FAILURE_RIG,
        "sensor '%s' (%s at %s on bus '%s'), register %s: %s%s", sensor->name,
        sensor->sheet->part->name, sensor->where, rig->bus[sensor->bus].name, reg->name, why,
        use ? "; 'pintle regs SENSOR' shows what each register takes"
        : pintle_station_words(station, sensor->bus)[0] ? ""
                                                        : "; 'pintle scan' says what is wrong");
    g_free(why);
    return false;
}

static bool show(struct pintle_station *station, unsigned index, const struct target *target,
                 struct pintle_problem *problem)
{
    uint32_t value = 0;
    enum pintle_status status =
        pintle_reg_read(&station->rigged[index].any.sensor, &target->reg->reg, &value);
    if (status != PINTLE_OK) {
        return no_transfer(station, index, target->reg, status, problem);
    }
    print_reg(target->reg, value, target->field, address_digits(station->rig->sensor[index].sheet));
    return true;
}

static bool change(struct pintle_station *station, unsigned index, const struct target *target,
                   struct pintle_problem *problem)
{
    struct pintle_sensor *sensor = &station->rigged[index].any.sensor;
    const struct pintle_reg *reg = &target->reg->reg;
    bool readable = !(reg->flags & PINTLE_REG_WRITE_ONLY);
    if (readable) {
        printf("before\n");
        if (!show(station, index, target, problem)) {
            return false;
        }
    }
    enum pintle_status status = target->field
                                    ? pintle_reg_write_field(sensor, reg, target->field->shift,
                                                             target->field->bits, target->value)
                                    : pintle_reg_write(sensor, reg, target->value);
    if (status != PINTLE_OK) {
        return no_transfer(station, index, target->reg, status, problem);
    }
    printf(readable ? "after\n" : "%s written\n", target->reg->name);
    return !readable || show(station, index, target, problem);
}

static bool dump(struct pintle_station *station, unsigned index, struct pintle_problem *problem)
{
    const struct pintle_rig_sensor *sensor = &station->rig->sensor[index];
    const struct pintle_sheet *sheet = sensor->sheet;
    printf("%s: %s at %s on bus '%s'\n\n", sensor->name, sheet->part->name, sensor->where,
           station->rig->bus[sensor->bus].name);
    for (unsigned i = 0; i < sheet->reg_count; i++) {
        const struct target target = { .reg = &sheet->regs[i] };
        if (target.reg->reg.flags & PINTLE_REG_WRITE_ONLY) {
            printf("%s%0*xh  %s%s  %s%s, write-only%s\n", cli_bold(), address_digits(sheet),
                   target.reg->reg.address, target.reg->name, cli_plain(), cli_dim(),
                   target.reg->meaning, cli_plain());
        } else if (!show(station, index, &target, problem)) {
            return false;
        }
    }
    return true;
}

struct regs_options {
    struct rig_options rig;
    gboolean measure;
    char *save;
    char *diff;
    char *watch;
    char *length;
};

/* Which fields of a register differ, or the whole where it has none that do. */
static void print_difference(const struct pintle_map_reg *reg, uint32_t then, uint32_t now)
{
    printf("%s%02xh  %-14s%s 0x%0*x, was 0x%0*x\n", cli_bold(), reg->reg.address, reg->name,
           cli_plain(), 2 * reg->reg.width, now, 2 * reg->reg.width, then);
    for (unsigned i = 0; i < reg->field_count; i++) {
        const struct pintle_field *field = &reg->fields[i];
        uint32_t a = cut(field, then);
        uint32_t b = cut(field, now);
        if (a != b) {
            const char *was = meaning_of(field, a);
            const char *is = meaning_of(field, b);
            printf("    %-14s %u%s%s, was %u%s%s  %s%s%s\n", field->name, b, is[0] ? " = " : "", is,
                   a, was[0] ? " = " : "", was, cli_dim(), field->meaning, cli_plain());
        }
    }
}

static bool compare(struct pintle_station *station, unsigned index, const char *path,
                    struct pintle_problem *problem)
{
    const struct pintle_sheet *sheet = station->rig->sensor[index].sheet;
    struct pintle_snapshot *then = pintle_snapshot_load(sheet, path, problem);
    struct pintle_snapshot *now = then ? pintle_snapshot_take(station, index, problem) : NULL;
    unsigned different = 0;
    for (unsigned i = 0; now && i < sheet->reg_count; i++) {
        if (then[i].known && now[i].known && then[i].value != now[i].value) {
            print_difference(&sheet->regs[i], then[i].value, now[i].value);
            different++;
        }
    }
    if (now) {
        printf("%u of %u registers differ from %s\n", different, sheet->reg_count, path);
    }
    pintle_host_free(then);
    pintle_host_free(now);
    return now != NULL;
}

static bool save(struct pintle_station *station, unsigned index, const char *path,
                 struct pintle_problem *problem)
{
    struct pintle_snapshot *snapshot = pintle_snapshot_take(station, index, problem);
    bool ok = snapshot && pintle_snapshot_save(station, index, snapshot, path, problem);
    pintle_host_free(snapshot);
    if (ok) {
        printf("saved in %s\n", path);
    }
    return ok;
}

/* One register again and again; a line whenever it has changed. */
static bool watch(struct pintle_station *station, unsigned index, const struct target *target,
                  const struct regs_options *options, struct pintle_problem *problem)
{
    const struct pintle_clock *clock = &station->clock;
    int64_t every = 0;
    int64_t length = 60000000;
    bool first = true;
    uint32_t last = 0;
    if (!pintle_duration_parse(options->watch, &every) || every < 1000 || every > 3600000000
        || (options->length && !pintle_duration_parse(options->length, &length))) {
        return pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                  "--watch and --for take durations such as \"500 ms\" (--watch "
                                  "from 1 ms to 1 h)");
    }
    for (int64_t left = length; left >= 0; left -= every) {
        uint32_t value = 0;
        enum pintle_status status =
            pintle_reg_read(&station->rigged[index].any.sensor, &target->reg->reg, &value);
        if (status != PINTLE_OK) {
            return no_transfer(station, index, target->reg, status, problem);
        }
        value = target->field ? cut(target->field, value) : value;
        if (first || value != last) {
            char buffer[40];
            struct pintle_text time;
            pintle_text_init(&time, buffer, sizeof buffer);
            pintle_text_time(&time, pintle_station_now(station), 0, 3);
            printf("%s  0x%0*x%s%s\n", buffer, target->field ? 1 : 2 * target->reg->reg.width,
                   value, target->field ? "  " : "",
                   target->field ? meaning_of(target->field, value) : "");
        }
        first = false;
        last = value;
        clock->calls->sleep_us(clock->context, (uint32_t)every);
    }
    return true;
}

static bool act_on_part(struct pintle_station *station, unsigned index,
                        const struct regs_options *options, struct pintle_problem *problem)
{
    if (options->save) {
        return save(station, index, options->save, problem);
    }
    return options->diff ? compare(station, index, options->diff, problem)
                         : dump(station, index, problem);
}

static bool act(struct pintle_station *station, const char *name, const char *what,
                const struct regs_options *options, struct pintle_problem *problem)
{
    int index = pintle_rig_find_wired(station->rig, name, problem);
    struct target target = { 0 };
    if (index < 0) {
        return false;
    }
    const struct pintle_sheet *sheet = station->rig->sensor[index].sheet;
    if (sheet->reg_count == 0) {
        return pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                  "'%s' is a %s, which has no registers", name, sheet->part->name);
    }
    if (options->measure) {
        pintle_station_read(station, (unsigned)index, true);
    }
    if (!what) {
        return act_on_part(station, (unsigned)index, options, problem);
    }
    if (!parse_target(station->rig->sensor[index].sheet, what, &target, problem)) {
        return false;
    }
    if (options->watch) {
        return watch(station, (unsigned)index, &target, options, problem);
    }
    return (target.write ? change : show)(station, (unsigned)index, &target, problem);
}

/* Which options go together. */
static const char *misfit(const struct regs_options *options, int argc, const char *what)
{
    if (argc < 2 || argc > 3) {
        return "name a sensor, and at most one register";
    }
    if ((options->save || options->diff) && (argc == 3 || (options->save && options->diff))) {
        return "--save and --diff take a whole sensor, one of them at a time";
    }
    if (options->watch && (argc != 3 || strchr(what, '='))) {
        return "--watch takes one register or field to read";
    }
    return options->length && !options->watch ? "--for goes with --watch" : NULL;
}

static int run(int argc, char **argv)
{
    struct regs_options options = { 0 };
    const GOptionEntry entries[] = {
        RIG_OPTIONS(options.rig),
        AT_OPTION(options.rig.at),
        { "measure", 'm', 0, G_OPTION_ARG_NONE, &options.measure,
          "set the sensor up and take a reading first", NULL },
        { "save", 0, 0, G_OPTION_ARG_FILENAME, &options.save, "keep all registers in a file",
          "FILE" },
        { "diff", 0, 0, G_OPTION_ARG_FILENAME, &options.diff,
          "what differs from a kept file, by field", "FILE" },
        { "watch", 'w', 0, G_OPTION_ARG_STRING, &options.watch,
          "read one register again and again; print it when it changes", "DURATION" },
        { "for", 0, 0, G_OPTION_ARG_STRING, &options.length, "how long to watch (1 min)",
          "DURATION" },
        { 0 }
    };
    if (!cli_options(&command_regs, entries, &argc, &argv)) {
        return PINTLE_FAILURE_USE;
    }
    const char *wrong = misfit(&options, argc, argc > 2 ? argv[2] : "");
    if (wrong) {
        return cli_misuse("regs: %s", wrong);
    }
    struct pintle_problem problem = { 0 };
    struct pintle_rig *rig = NULL;
    struct pintle_station *station = NULL;
    if (!cli_open(&options.rig, &rig, &station, &problem)) {
        return cli_fail(&problem);
    }
    bool ok = act(station, argv[1], argc > 2 ? argv[2] : NULL, &options, &problem);
    pintle_station_free(station);
    pintle_rig_free(rig);
    return ok ? 0 : cli_fail(&problem);
}

const struct command command_regs = {
    .name = "regs",
    .usage = "SENSOR [REGISTER[.FIELD][=VALUE]]",
    .summary = "a sensor's registers by name, explained; change one or one field",
    .more =
        "VALUE is the raw number (5, 0x05) or, for a field, one of its meanings (8Hz). A field is\n"
        "changed without disturbing its neighbours.\n\n"
        "Example:\n  pintle regs --demo baro\n  pintle regs --demo sea CONFIGURATION.CR=8Hz\n"
        "  pintle regs --demo sea --save cold.json\n"
        "  pintle regs --demo --measure sea --diff cold.json\n"
        "  pintle regs --demo clock Seconds --watch 1s --for 10s",
    .run = run,
};
