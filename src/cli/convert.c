#include <math.h>
#include <stdio.h>
#include <string.h>

#include "cli/cli.h"
#include "pintle/host/run/senml.h"

struct convert_options {
    struct rig_options rig;
    char **units;
    char **trims;
    char **settings;
    char *format;
};

struct request {
    const struct pintle_sheet *sheet;
    struct pintle_chosen chosen;
    struct cli_block block;
    GByteArray *trim;
    enum pintle_unit unit[PINTLE_MOST_CHANNELS];
    enum pintle_unit also[PINTLE_MOST_CHANNELS];
    gboolean working;
    enum format format;
};

/* The working: one line per intermediate value, as the part reports them. */
static void print_whole(struct pintle_notes *notes, const char *symbol, int64_t value)
{
    (void)notes;
    printf("  %-26s %lld\n", symbol, (long long)value);
}

/* Hexadecimal with blanks, commas, colons or 0x anywhere between the bytes. */
static bool parse_hex(const char *text, GByteArray *bytes, struct pintle_problem *problem)
{
    GString *digits = g_string_new(NULL);
    bool ok = true;
    for (const char *at = text; *at && ok; at++) {
        if (at[0] == '0' && (at[1] == 'x' || at[1] == 'X')) {
            at++;
        } else if (g_ascii_isxdigit(*at)) {
            g_string_append_c(digits, *at);
        } else if (!strchr(" ,:-\t", *at)) {
            ok = pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                    "'%c' in '%s' is no hexadecimal digit", *at, text);
        }
    }
    if (ok && digits->len % 2 != 0) {
        ok = pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                "'%s' has %zu hexadecimal digits; bytes take two each, so one is "
                                "missing or one too many",
                                text, digits->len);
    }
    for (gsize i = 0; ok && i < digits->len; i += 2) {
        uint8_t byte = (uint8_t)(g_ascii_xdigit_value(digits->str[i]) * 16
                                 + g_ascii_xdigit_value(digits->str[i + 1]));
        g_byte_array_append(bytes, &byte, 1);
    }
    g_string_free(digits, TRUE);
    return ok;
}

/* "8 bytes: F7h 3, FAh 3, FDh 2" */
static char *block_text(const struct pintle_stretch *blocks, unsigned count)
{
    GString *text = g_string_new(NULL);
    unsigned sum = 0;
    for (unsigned i = 0; i < count; i++) {
        sum += blocks[i].bytes;
        g_string_append_printf(text, "%s%s%s%u", i ? ", " : "", blocks[i].from,
                               blocks[i].from[0] ? " " : "", blocks[i].bytes);
    }
    char *all = g_strdup_printf("%u bytes: %s", sum, text->str);
    g_string_free(text, TRUE);
    return all;
}

static bool check_size(const struct pintle_sheet *sheet, const char *what, guint have,
                       unsigned want, const struct pintle_stretch *blocks, unsigned count,
                       struct pintle_problem *problem)
{
    if (have == want) {
        return true;
    }
    char *text = block_text(blocks, count);
    pintle_problem_set(
        problem, PINTLE_FAILURE_USE,
        "%s: the %s has %u byte%s where it takes %s; 'pintle parts %s' explains them",
        sheet->part->name, what, have, have == 1 ? "" : "s", want ? text : "none",
        sheet->part->name);
    g_free(text);
    return false;
}

/* "range=4g, resolution=full": what decides how the integer is scaled. */
static void show_choice(const struct request *request, const struct pintle_channel *channel)
{
    const struct pintle_sheet *sheet = request->sheet;
    unsigned set = channel->rows_by | channel->scaled_by;
    unsigned number = channel->number & ~(unsigned)PINTLE_DIVIDED;
    GString *text = g_string_new(NULL);
    for (unsigned s = 0; s < sheet->part->setting_count; s++) {
        if (set >> s & 1) {
            g_string_append_printf(text, "%s%s=%s", text->len ? ", " : "", sheet->settings[s].name,
                                   sheet->settings[s].options[request->chosen.settings[s]]);
        }
    }
    if (number > 0) {
        g_string_append_printf(
            text, "%s%s=%g%s", text->len ? ", " : "", sheet->numbers[number - 1].name,
            (double)request->chosen.numbers[number - 1], sheet->numbers[number - 1].unit);
    }
    if (text->len > 0) {
        printf("  %-26s %s\n", "with", text->str);
    }
    g_string_free(text, TRUE);
}

/* "104 x 0.0383072 m/s2 = 3.98395 m/s2" */
static void show_sum(const struct request *request, const struct pintle_channel *channel,
                     const struct pintle_reading *reading)
{
    const struct pintle_part *part = request->sheet->part;
    const struct pintle_block block = { .settings = request->chosen.settings,
                                        .numbers = request->chosen.numbers };
    const struct pintle_linear *row = pintle_part_row(part, channel, request->chosen.settings);
    bool scaled = part->factor && (channel->scaled_by || channel->number);
    float scale = row->scale * (scaled ? part->factor(part, channel, &block) : 1);
    const char *unit = pintle_quantity_symbol((enum pintle_quantity)channel->quantity);
    bool has_sign = row->flags & PINTLE_LINEAR_SIGNED;
    double raw = has_sign ? (double)reading->raw : (double)(uint32_t)reading->raw;
    double line = raw * (double)scale + (double)row->zero;
    printf("  %-26s %.0f x %.7g", "in numbers", raw, (double)scale);
    if (row->zero < 0 || row->zero > 0) {
        printf(" %c %.8g", row->zero < 0 ? '-' : '+', fabs((double)row->zero));
    }
    printf(" = %.8g %s", line, unit);
    if (row->shape) {
        printf(", and through its curve %.8g %s", (double)reading->value, unit);
    } else if (fabs(line - (double)reading->value) > 1e-5 * fabs(line)) {
        printf(", kept within %.8g %s", (double)reading->value, unit);
    }
    printf("\n");
}

static void show_linear(const struct request *request, const struct pintle_sample *sample)
{
    const struct pintle_sheet *sheet = request->sheet;
    for (unsigned c = 0; c < sheet->part->channel_count; c++) {
        const struct pintle_channel_text *text = &sheet->channels[c];
        const struct pintle_channel *channel = &sheet->part->channels[c];
        const struct pintle_reading *reading = &sample->channel[c];
        if (!channel->linear || (reading->quality & PINTLE_QUALITY_IDLE)) {
            continue;
        }
        char *raw = cli_raw(channel, reading);
        printf("  %-26s %s = 0x%0*x, from byte %u\n", text->symbol, raw, 2 * channel->linear->bytes,
               (unsigned)reading->raw & (0xffffffffu >> 8 * (4 - channel->linear->bytes)),
               channel->at);
        g_free(raw);
        printf("  %-26s %s\n", channel->name, text->formula);
        show_choice(request, channel);
        show_sum(request, channel, reading);
    }
}

static void print_text(const struct request *request, const struct pintle_sample *sample)
{
    const struct pintle_sheet *sheet = request->sheet;
    for (unsigned c = 0; c < sheet->part->channel_count; c++) {
        const struct pintle_channel *channel = &sheet->part->channels[c];
        char *value = cli_value(channel, request->unit[c], &sample->channel[c], 0);
        char *quality = cli_quality(sample->channel[c].quality);
        char *raw = cli_raw(channel, &sample->channel[c]);
        printf("%-12s %20s %-5s raw %-11s %s\n", channel->name, value,
               cli_unit(channel, request->unit[c]), raw, quality);
        g_free(raw);
        g_free(value);
        g_free(quality);
        if (request->also[c] != PINTLE_UNIT_COUNT) {
            value = cli_value(channel, request->also[c], &sample->channel[c], 0);
            printf("%-12s %20s %s\n", "", value, cli_unit(channel, request->also[c]));
            g_free(value);
        }
    }
}

static void print_field(const struct pintle_channel *channel, enum pintle_unit unit,
                        const struct pintle_reading *reading)
{
    const char *symbol = NULL;
    char *value = cli_field(channel, unit, reading, &symbol);
    char *quality = cli_quality(reading->quality);
    printf("%s,%s,%s,%s\r\n", channel->name, value, symbol, quality);
    g_free(value);
    g_free(quality);
}

static void print_csv(const struct request *request, const struct pintle_sample *sample)
{
    const struct pintle_sheet *sheet = request->sheet;
    printf("channel,value,unit,quality\r\n");
    for (unsigned c = 0; c < sheet->part->channel_count; c++) {
        print_field(&sheet->part->channels[c], request->unit[c], &sample->channel[c]);
        if (request->also[c] != PINTLE_UNIT_COUNT) {
            print_field(&sheet->part->channels[c], request->also[c], &sample->channel[c]);
        }
    }
}

static void print_senml(const struct request *request, const struct pintle_sample *sample)
{
    const struct pintle_sheet *sheet = request->sheet;
    char *pack = pintle_senml_sample(sheet->part->name, sheet, sample);
    printf("%s\n", pack);
    pintle_host_free(pack);
}

/* The name is a part's or, with a rig, one of its sensors', which brings its settings along. */
static bool take_name(struct request *request, const struct pintle_rig *rig, const char *name,
                      struct pintle_problem *problem)
{
    for (unsigned i = 0; rig && i < rig->wired; i++) {
        if (strcmp(rig->sensor[i].name, name) == 0) {
            request->sheet = rig->sensor[i].sheet;
            request->chosen = rig->sensor[i].chosen;
            for (unsigned c = 0; c < request->sheet->part->channel_count; c++) {
                request->unit[c] = rig->sensor[i].channel[c].unit;
                request->also[c] = rig->sensor[i].channel[c].also;
            }
            return true;
        }
    }
    request->sheet = pintle_rig_part(rig, name, problem);
    if (request->sheet) {
        const struct pintle_part *part = request->sheet->part;
        pintle_rig_initial(part, &request->chosen);
        for (unsigned c = 0; c < part->channel_count; c++) {
            request->unit[c] = request->also[c] = PINTLE_UNIT_COUNT;
        }
    }
    return request->sheet != NULL;
}

static bool take_units(struct request *request, const char *words, struct pintle_problem *problem)
{
    const struct pintle_part *part = request->sheet->part;
    struct pintle_unit_slot slots[PINTLE_MOST_CHANNELS];
    char *where = g_strdup_printf("a %s", part->name);
    for (unsigned c = 0; c < part->channel_count; c++) {
        slots[c] = (struct pintle_unit_slot){ part->channels[c].name,
                                              (enum pintle_quantity)part->channels[c].quantity,
                                              &request->unit[c], &request->also[c] };
    }
    bool ok = pintle_units_take(words, slots, part->channel_count, where, problem);
    g_free(where);
    return ok;
}

static bool gather(struct request *request, const struct pintle_rig *rig, const char *name,
                   const struct convert_options *options, const char *hex,
                   struct pintle_problem *problem)
{
    if (!take_name(request, rig, name, problem)) {
        return false;
    }
    const struct pintle_sheet *sheet = request->sheet;
    if (sheet->part->channel_count == 0) {
        return pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                  "a %s measures nothing: there is nothing to convert",
                                  sheet->part->name);
    }
    char *const *settings = options->settings;
    char *const *trims = options->trims;
    for (unsigned i = 0; options->units && options->units[i]; i++) {
        if (!take_units(request, options->units[i], problem)) {
            return false;
        }
    }
    for (unsigned i = 0; settings && settings[i]; i++) {
        if (!pintle_rig_setting(sheet, settings[i], &request->chosen, problem)) {
            return false;
        }
    }
    for (unsigned i = 0; trims && trims[i]; i++) {
        if (!parse_hex(trims[i], request->trim, problem)) {
            return false;
        }
    }
    if (!parse_hex(hex, request->block.raw, problem)) {
        return false;
    }
    cli_complete(sheet, &request->block);
    return check_size(sheet, "data", request->block.raw->len, sheet->part->raw_size, sheet->data,
                      sheet->data_count, problem)
           && check_size(sheet, "trim", request->trim->len, sheet->part->trim_size, sheet->trim,
                         sheet->trim_count, problem);
}

/* One checksum: what was sent after `count` bytes whose CRC by this rule is `crc`. */
static bool check_crc(const struct request *request, const uint8_t *bytes, size_t count,
                      const struct pintle_part_crc *rule, uint16_t crc,
                      struct pintle_problem *problem)
{
    char *text = cli_bytes(bytes, count);
    const uint8_t *sum = bytes + count;
    uint8_t bits = rule->bits;
    unsigned sent = bits == 8         ? sum[0]
                    : rule->low_first ? sum[0] + sum[1] * 256u
                                      : sum[0] * 256u + sum[1];
    if (request->working) {
        printf("  CRC of %-18s %0*x, sent %0*x\n", text, bits / 4, crc, bits / 4, sent);
    }
    bool ok =
        crc == sent
        || pintle_problem_set(problem, PINTLE_FAILURE_RIG,
                              "%s: the CRC of %s is %0*x, not %0*x; a bit was lost on the "
                              "way, or the bytes are not in order",
                              request->sheet->part->name, text, bits / 4, crc, bits / 4, sent);
    g_free(text);
    return ok;
}

/* One checksum after the other. */
static bool check_groups(const struct request *request, const struct pintle_sheet_check *check,
                         struct pintle_problem *problem)
{
    const struct pintle_part_crc *rule = check->rule;
    bool ok = true;
    for (unsigned i = 0; ok && i < check->count; i += rule->span + rule->bits / 8u) {
        const uint8_t *bytes = request->block.raw->data + check->at + i;
        ok = check_crc(request, bytes, rule->span, rule,
                       pintle_part_crc_over(rule, bytes, rule->span), problem);
    }
    return ok;
}

/* Parts that send checksums must have sent the right ones. */
static bool check_sums(const struct request *request, struct pintle_problem *problem)
{
    const struct pintle_part *part = request->sheet->part;
    const uint8_t *raw = request->block.raw->data;
    bool ok = true;
    if (part->link->kind == PINTLE_BUS_ONEWIRE && request->block.raw->len == 9) {
        static const struct pintle_part_crc scratchpad = { .bits = 8 };
        return check_crc(request, raw, 8, &scratchpad, pintle_onewire_crc(raw, 8), problem);
    }
    struct pintle_sheet_check checks[PINTLE_STEPS_MAX];
    unsigned count =
        pintle_sheet_checks(part, request->chosen.settings, checks, G_N_ELEMENTS(checks));
    for (unsigned i = 0; ok && i < count; i++) {
        ok = check_groups(request, &checks[i], problem);
    }
    return ok;
}

static bool convert(const struct request *request, struct pintle_problem *problem)
{
    static void (*const printers[])(const struct request *,
                                    const struct pintle_sample *) = { print_text, print_csv,
                                                                      print_senml };
    struct pintle_notes notes = { print_whole };
    const struct pintle_block block = { .raw = request->block.raw->data,
                                        .trim = request->trim->data,
                                        .settings = request->chosen.settings,
                                        .numbers = request->chosen.numbers,
                                        .idle = request->block.idle,
                                        .notes = request->working ? &notes : NULL };
    struct pintle_sample sample = { 0 };
    if (request->working) {
        char *bytes = cli_bytes(request->block.raw->data, request->block.raw->len);
        printf("%sworking%s\n  %-26s %s\n", cli_bold(), cli_plain(), "raw bytes", bytes);
        g_free(bytes);
    }
    if (!check_sums(request, problem)) {
        return false;
    }
    pintle_sample_decode(request->sheet->part, &block, &sample);
    cli_leave_out(request->sheet->part, &request->block, &sample);
    if (request->working) {
        show_linear(request, &sample);
        printf("%sresult%s\n", cli_bold(), cli_plain());
    }
    printers[request->format](request, &sample);
    return true;
}

static int run(int argc, char **argv)
{
    struct request request = { 0 };
    struct convert_options options = { 0 };
    const GOptionEntry entries[] = { RIG_OPTIONS(options.rig),
                                     UNIT_OPTION(options),
                                     { "trim", 't', 0, G_OPTION_ARG_STRING_ARRAY, &options.trims,
                                       "the factory's trim, block after block", "HEX" },
                                     { "set", 's', 0, G_OPTION_ARG_STRING_ARRAY, &options.settings,
                                       "a setting of the part", "NAME=VALUE" },
                                     { "working", 'w', 0, G_OPTION_ARG_NONE, &request.working,
                                       "show every intermediate value", NULL },
                                     { "format", 'f', 0, G_OPTION_ARG_STRING, &options.format,
                                       "text, csv or senml", "NAME" },
                                     { 0 } };
    if (!cli_options(&command_convert, entries, &argc, &argv)) {
        return PINTLE_FAILURE_USE;
    }
    struct pintle_problem problem = { 0 };
    if (argc < 3) {
        return cli_misuse("convert: give a part and its raw bytes in hexadecimal");
    }
    char *hex = g_strjoinv(" ", argv + 2);
    request.block.raw = g_byte_array_new();
    request.trim = g_byte_array_new();
    struct pintle_rig *rig = NULL;
    bool ok = cli_format(options.format, &request.format, &problem)
              && cli_units_fit(options.units, request.format, FORMAT_CSV, &problem);
    if (ok && (options.rig.rig || options.rig.demo)) {
        rig = cli_rig(&options.rig, &problem);
        ok = rig != NULL;
    }
    if (ok && request.working && request.format != FORMAT_TEXT) {
        ok = pintle_problem_set(&problem, PINTLE_FAILURE_USE,
                                "--working is for people; leave --format away with it");
    }
    ok = ok && gather(&request, rig, argv[1], &options, hex, &problem)
         && convert(&request, &problem);
    pintle_rig_free(rig);
    g_byte_array_free(request.block.raw, TRUE);
    g_byte_array_free(request.trim, TRUE);
    g_free(hex);
    return ok ? 0 : cli_fail(&problem);
}

const struct command command_convert = {
    .name = "convert",
    .usage = "PART HEX",
    .summary = "raw bytes from a datasheet, a log or a scope, to units",
    .more = "No hardware and no rig are needed. 'pintle parts PART' says in which order the bytes "
            "go.\n\n"
            "Example:\n  pintle convert TMP102 1910 --working\n"
            "  pintle convert SHT31 \"be ef 92 80 00 a2\"",
    .run = run,
};
