#include <stdio.h>
#include <string.h>

#include "cli/cli.h"
#include "pintle/host/check/power.h"
#include "pintle/host/check/together.h"

/* The rig's sensors of this part, ": cabin, engine". */
static void print_users(const struct pintle_rig *rig, const struct pintle_sheet *sheet)
{
    unsigned count = 0;
    for (unsigned i = 0; rig && i < rig->sensors; i++) {
        if (strcmp(rig->sensor[i].sheet->part->name, sheet->part->name) == 0) {
            printf("%s%s", count++ ? ", " : ": ", rig->sensor[i].name);
        }
    }
}

/* "0x44 0x45", or "0x18 to 0x1f" where there are many in a row. */
static void put_addresses(GString *text, const struct pintle_part *part)
{
    unsigned count = part->address_count;
    bool row = count > 2;
    for (unsigned i = 1; i < count; i++) {
        row = row && part->addresses[i] == part->addresses[0] + i;
    }
    if (row) {
        g_string_append_printf(text, "0x%02x to 0x%02x", part->addresses[0],
                               part->addresses[count - 1]);
    }
    for (unsigned i = 0; i < count && !row; i++) {
        g_string_append_printf(text, "%s0x%02x", i ? " " : "", part->addresses[i]);
    }
}

/* What is looked for; null or -1: whatever. */
struct wish {
    char *measures, *bus;
    int address;
};

static bool suits(const struct wish *wish, const struct pintle_sheet *sheet)
{
    const struct pintle_part *part = sheet->part;
    const char *bus = pintle_bus_word((enum pintle_bus_kind)part->link->kind);
    bool measures = !wish->measures;
    bool sits = wish->address < 0;
    for (unsigned c = 0; c < part->channel_count; c++) {
        const char *word = pintle_quantity_word((enum pintle_quantity)part->channels[c].quantity);
        measures = measures || strcmp(word, wish->measures) == 0;
    }
    for (unsigned i = 0; i < part->address_count; i++) {
        sits = sits || part->addresses[i] == wish->address;
    }
    return measures && sits && (!wish->bus || g_ascii_strcasecmp(wish->bus, bus) == 0);
}

/* The quantities that the catalogue measures, with commas between. */
static char *measured(const struct pintle_rig *rig)
{
    GString *all = g_string_new(NULL);
    for (int q = 0; q < PINTLE_QUANTITY_COUNT; q++) {
        const struct pintle_sheet *sheet = NULL;
        struct wish wish = { g_strdup(pintle_quantity_word((enum pintle_quantity)q)), NULL, -1 };
        for (size_t i = 0; (sheet = pintle_rig_part_at(rig, i)) != NULL; i++) {
            if (suits(&wish, sheet)) {
                g_string_append_printf(all, "%s%s", all->len ? ", " : "", wish.measures);
                break;
            }
        }
        g_free(wish.measures);
    }
    return g_string_free(all, FALSE);
}

/* What is wrong with a wish that nothing suits. */
static void regret(const struct pintle_rig *rig, const struct wish *wish,
                   struct pintle_problem *problem)
{
    char *all = measured(rig);
    pintle_problem_set(problem, PINTLE_FAILURE_USE,
                       "no part is so; there are parts on I2C, SPI, 1-Wire and serial lines, and "
                       "they measure %s%s",
                       all, wish->address > 0x77 ? "; an I2C address has 7 bits, up to 0x77" : "");
    g_free(all);
}

static void heading_of_list(const struct pintle_rig *rig)
{
    printf("%s%-11s %-44s %-16s %s%s%s\n", cli_bold(), "part", "what it is", "address or bus",
           "channels", rig ? ": sensors of the rig" : "", cli_plain());
}

static bool list(const struct pintle_rig *rig, const struct wish *wish,
                 struct pintle_problem *problem)
{
    unsigned shown = 0;
    const struct pintle_sheet *sheet = NULL;
    for (size_t i = 0; (sheet = pintle_rig_part_at(rig, i)) != NULL; i++) {
        if (!suits(wish, sheet)) {
            continue;
        }
        if (shown++ == 0) {
            heading_of_list(rig);
        }
        GString *addresses = g_string_new(NULL);
        if (sheet->part->link->kind != PINTLE_BUS_I2C) {
            g_string_assign(addresses,
                            pintle_bus_word((enum pintle_bus_kind)sheet->part->link->kind));
        }
        put_addresses(addresses, sheet->part);
        printf("%-11s %-44s %-16s", sheet->part->name, sheet->what, addresses->str);
        for (unsigned c = 0; c < sheet->part->channel_count; c++) {
            printf("%s %s", c ? "," : "", sheet->part->channels[c].name);
        }
        print_users(rig, sheet);
        printf("\n");
        g_string_free(addresses, TRUE);
    }
    if (shown == 0) {
        regret(rig, wish, problem);
        return false;
    }
    printf("\n'pintle parts NAME' explains one of them.\n");
    return true;
}

/* --- a shopping list --- */

static char *names_of(const struct pintle_together *fit, uint64_t set)
{
    GString *names = g_string_new(NULL);
    for (unsigned p = 0; p < fit->count; p++) {
        if (set >> p & 1) {
            g_string_append_printf(names, "%s%s", names->len ? ", " : "",
                                   fit->place[p].sheet->part->name);
        }
    }
    return g_string_free(names, FALSE);
}

static void print_place(const struct pintle_together_part *place)
{
    const struct pintle_part *part = place->sheet->part;
    enum pintle_bus_kind kind = (enum pintle_bus_kind)part->link->kind;
    char *bus = g_strdup_printf("%s %u", pintle_bus_word(kind), place->bus + 1);
    printf("%-10s %-10s ", part->name, bus);
    if (kind == PINTLE_BUS_I2C) {
        const struct pintle_strap *strap = &place->sheet->straps[place->strap];
        printf("0x%02x       %s\n", strap->address, strap->by);
    } else if (kind == PINTLE_BUS_SPI) {
        printf("select %-3d %s\n", place->strap + 1,
               part->spi->commands ? "and a line that tells commands from data" : "");
    } else {
        printf("%-10s %s\n", "-", kind == PINTLE_BUS_ONEWIRE ? "by its code" : "alone on its line");
    }
    g_free(bus);
}

static void print_supply(const struct pintle_together *fit)
{
    char *others = names_of(fit, fit->other_v);
    printf("\nsupply: %g V suits %s%s\n", (double)fit->supply_v,
           others[0] ? "all but " : "all of them", others);
    for (unsigned p = 0; p < fit->count; p++) {
        const struct pintle_sheet *sheet = fit->place[p].sheet;
        if (fit->other_v >> p & 1) {
            printf("        %s takes %g to %g V: give it that, and its lines a level shifter\n",
                   sheet->part->name, (double)sheet->supply_lowest, (double)sheet->supply_highest);
        }
    }
    g_free(others);
}

static bool fit_parts(const struct pintle_rig *rig, int count, char **names,
                      struct pintle_problem *problem)
{
    const struct pintle_sheet *parts[PINTLE_TOGETHER_PARTS];
    struct pintle_together fit;
    if (count < 1 || count > PINTLE_TOGETHER_PARTS) {
        return pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                  "--fit takes the names of 1 to %d parts", PINTLE_TOGETHER_PARTS);
    }
    for (int i = 0; i < count; i++) {
        parts[i] = pintle_rig_part(rig, names[i], problem);
        if (!parts[i]) {
            return false;
        }
    }
    if (!pintle_together_place(parts, (unsigned)count, &fit)) {
        char *crowd = names_of(&fit, fit.crowd[PINTLE_TOGETHER_BUSES - 1]);
        pintle_problem_set(problem, PINTLE_FAILURE_RIG,
                           "%s have too few addresses between them, even on %d buses", crowd,
                           PINTLE_TOGETHER_BUSES - 1);
        g_free(crowd);
        return false;
    }
    printf("%s%-10s %-10s %-10s %s%s\n", cli_bold(), "part", "bus", "address", "strap",
           cli_plain());
    for (unsigned p = 0; p < fit.count; p++) {
        print_place(&fit.place[p]);
    }
    for (unsigned buses = 1; buses < fit.buses[PINTLE_BUS_I2C]; buses++) {
        char *crowd = names_of(&fit, fit.crowd[buses]);
        printf("\nI2C bus %u is for want of addresses: %s are too many for %u bus%s\n", buses + 1,
               crowd, buses, buses == 1 ? "" : "es");
        g_free(crowd);
    }
    print_supply(&fit);
    return true;
}

static void heading(const char *text)
{
    printf("\n%s%s%s\n", cli_bold(), text, cli_plain());
}

static void show_settings(const struct pintle_sheet *sheet)
{
    uint8_t initial[PINTLE_MOST_SETTINGS];
    if (sheet->part->setting_count == 0) {
        return;
    }
    pintle_part_initial(sheet->part, initial);
    heading("settings (the one in brackets is used unless the rig says otherwise)");
    for (unsigned i = 0; i < sheet->part->setting_count; i++) {
        const struct pintle_setting_text *setting = &sheet->settings[i];
        printf("  %-26s", setting->name);
        for (unsigned o = 0; setting->options[o]; o++) {
            bool used = initial[i] == o;
            printf("%s%s%s%s", o ? " " : "", used ? "[" : "", setting->options[o], used ? "]" : "");
        }
        printf("%s\n", pintle_sheet_ranges(sheet, i) ? " auto" : "");
        if (setting->meaning[0]) {
            printf("  %-26s%s\n", "", setting->meaning);
        }
    }
}

/* The first channel whose scale the setting decides; or null. */
static const struct pintle_channel *scaled_by(const struct pintle_part *part, unsigned setting)
{
    for (unsigned c = 0; c < part->channel_count; c++) {
        if ((part->channels[c].rows_by | part->channels[c].scaled_by) >> setting & 1) {
            return &part->channels[c];
        }
    }
    return NULL;
}

/* "2.048 V" and "0.0000625 V": the end of the scale and one count of it. */
static void put_scale(const struct pintle_part *part, const struct pintle_channel *channel,
                      const uint8_t *settings)
{
    const struct pintle_block block = { .settings = settings };
    const struct pintle_linear *row = pintle_part_row(part, channel, settings);
    enum pintle_quantity quantity = (enum pintle_quantity)channel->quantity;
    enum pintle_unit unit = pintle_quantity_unit(quantity);
    float step =
        row->scale * (channel->scaled_by && part->factor ? part->factor(part, channel, &block) : 1);
    float zero = pintle_unit_show(unit, 0);
    bool ends = (row->flags & PINTLE_LINEAR_SIGNED) || row->highest > 0;
    float end = step * (float)row->highest;
    if (row->shape) { /* a curve is only good for what the channel can be */
        end = MIN(row->shape(row->constants, end), channel->highest);
    }
    const char *symbol = pintle_quantity_shown(quantity);
    char *full = cli_figure((double)(pintle_unit_show(unit, end) - zero));
    char *count = cli_figure((double)(pintle_unit_show(unit, step) - zero));
    char *texts[] = { ends ? g_strdup_printf("%s %s", full, symbol) : g_strdup("-"),
                      g_strdup_printf("%s %s", count, symbol) };
    printf(" %-16s %-18s", texts[0], texts[1]);
    g_free(texts[0]);
    g_free(texts[1]);
    g_free(full);
    g_free(count);
}

static uint64_t takes_us(const struct pintle_part *part, const uint8_t *settings)
{
    uint64_t measuring = pintle_sheet_waits_us(part, part->measure, settings);
    return measuring > 0 ? measuring : pintle_sheet_waits_us(part, part->setup, settings);
}

/* Does this option change anything that is known? */
static bool matters(const struct pintle_sheet *sheet, unsigned s)
{
    const struct pintle_setting *setting = &sheet->part->settings[s];
    bool times = false;
    for (unsigned o = 0; o < setting->count; o++) {
        times = times || setting->options[o].time_us > 0;
    }
    return times || sheet->settings[s].effects || sheet->settings[s].working_ua
           || scaled_by(sheet->part, s);
}

/* What each option does while the others stay as they are at first. */
static void show_trades(const struct pintle_sheet *sheet)
{
    uint8_t settings[PINTLE_MOST_SETTINGS];
    bool begun = false;
    pintle_part_initial(sheet->part, settings);
    bool measured = pintle_sheet_waits_us(sheet->part, sheet->part->measure, settings) > 0;
    for (unsigned s = 0; s < sheet->part->setting_count; s++) {
        const struct pintle_setting_text *text = &sheet->settings[s];
        uint8_t initial = settings[s];
        if (!matters(sheet, s)) {
            continue;
        }
        if (!begun) {
            heading("what each option does while the others stay");
            printf("  %-37s %-16s %-18s %-13s %s\n", "", "full scale", "one count",
                   measured ? "a reading" : "the first", "besides");
            begun = true;
        }
        for (unsigned o = 0; o < sheet->part->settings[s].count; o++) {
            const struct pintle_channel *channel = scaled_by(sheet->part, s);
            settings[s] = (uint8_t)o;
            printf("  %-26s %-10s", o ? "" : text->name, text->options[o]);
            if (channel && channel->linear) {
                put_scale(sheet->part, channel, settings);
            } else {
                printf(" %-16s %-18s", "-", "-");
            }
            char *time = g_strdup_printf("%.4g ms", (double)takes_us(sheet->part, settings) / 1000);
            printf(" %-13s %s", time, text->effects ? text->effects[o] : "");
            g_free(time);
            if (text->working_ua) {
                printf("%s%g uA", text->effects ? ", " : "", (double)text->working_ua[o]);
            }
            printf("\n");
        }
        settings[s] = initial;
    }
}

static void show_numbers(const struct pintle_sheet *sheet)
{
    if (sheet->part->number_count > 0) {
        heading("numbers of what it is wired to (set like settings)");
    }
    for (unsigned i = 0; i < sheet->part->number_count; i++) {
        const struct pintle_number *number = &sheet->part->numbers[i];
        const struct pintle_number_text *text = &sheet->numbers[i];
        printf("  %-26s[%g] %g to %g %s\n  %-26s%s\n", text->name, (double)number->initial,
               (double)number->lowest, (double)number->highest, text->unit, "", text->meaning);
    }
}

static void show_channel(const struct pintle_sheet *sheet, unsigned i)
{
    const struct pintle_channel *channel = &sheet->part->channels[i];
    const struct pintle_channel_text *text = &sheet->channels[i];
    enum pintle_quantity quantity = (enum pintle_quantity)channel->quantity;
    printf("  %s, %s\n", channel->name, pintle_quantity_shown(quantity));
    if (quantity != PINTLE_QUANTITY_TIME) {
        printf("    %-12s%g to %g %s\n", "range",
               (double)pintle_unit_show(pintle_quantity_unit(quantity), channel->lowest),
               (double)pintle_unit_show(pintle_quantity_unit(quantity), channel->highest),
               pintle_quantity_shown(quantity));
    }
    printf("    %-12s%s\n    %-12s%s\n    %-12s%s\n", "resolution", text->resolution, "accuracy",
           text->accuracy, "from raw", text->formula);
}

static void show_blocks(const char *title, const struct pintle_stretch *blocks, unsigned count)
{
    if (count == 0) {
        return;
    }
    heading(title);
    for (unsigned i = 0; i < count; i++) {
        printf("  %-6s %2u byte%s %s\n", blocks[i].from, blocks[i].bytes,
               blocks[i].bytes == 1 ? ", " : "s,", blocks[i].what);
    }
}

static void show_bus(const struct pintle_part *part)
{
    enum pintle_bus_kind kind = (enum pintle_bus_kind)part->link->kind;
    printf("  %-10s%s", "bus", pintle_bus_word(kind));
    if (kind == PINTLE_BUS_SPI) {
        printf(", mode %u, at most %g MHz", part->spi->mode, part->spi->top_hz / 1e6);
    } else if (kind == PINTLE_BUS_STREAM) {
        printf(", %u baud", part->frame->bit_hz);
    } else if (kind == PINTLE_BUS_ONEWIRE) {
        printf(", family %02xh", part->family);
    }
    printf("\n");
}

static void show(const struct pintle_sheet *sheet)
{
    printf("%s%s%s  %s\n", cli_bold(), sheet->part->name, cli_plain(), sheet->what);
    printf("  %-10s%s\n", "datasheet", sheet->source);
    printf("  %-10s%g to %g V\n", "supply", (double)sheet->supply_lowest,
           (double)sheet->supply_highest);
    if (sheet->working_ua > 0) {
        printf("  %-10s%g uA while it works, %g uA at rest%s (typical)\n", "current",
               (double)sheet->working_ua, (double)sheet->resting_ua,
               sheet->part->rest ? ", to which the rig may send it" : "");
    }
    show_bus(sheet->part);
    for (unsigned i = 0; i < sheet->part->address_count; i++) {
        printf("  %-10s0x%02x  %s\n", i ? "" : "address", sheet->straps[i].address,
               sheet->straps[i].by);
    }
    printf("  %-10s%s\n", "proof", sheet->proof);
    if (sheet->known_for) {
        printf("  %-10s%s\n", "known for", sheet->known_for);
    }
    show_settings(sheet);
    show_trades(sheet);
    show_numbers(sheet);
    heading("channels");
    for (unsigned i = 0; i < sheet->part->channel_count; i++) {
        show_channel(sheet, i);
    }
    show_blocks("data, in the order in which 'convert' takes it", sheet->data, sheet->data_count);
    show_blocks("trim, in the order in which 'convert --trim' takes it", sheet->trim,
                sheet->trim_count);
}

static int markdown(void)
{
    printf("# The parts that ship\n\n"
           "Made by `pintle parts --markdown` from the catalogue; don't edit it here.\n");
    for (size_t i = 0; pintle_sheet_at(i); i++) {
        printf("\n## %s\n\n```\n", pintle_sheet_at(i)->part->name);
        show(pintle_sheet_at(i));
        printf("```\n");
    }
    return 0;
}

static int run(int argc, char **argv)
{
    struct rig_options options = { 0 };
    gboolean as_markdown = FALSE;
    gboolean fit = FALSE;
    struct wish wish = { .address = -1 };
    const GOptionEntry entries[] = { RIG_OPTIONS(options),
                                     { "markdown", 0, 0, G_OPTION_ARG_NONE, &as_markdown,
                                       "the whole catalogue, as docs/parts.md", NULL },
                                     { "measures", 0, 0, G_OPTION_ARG_STRING, &wish.measures,
                                       "only parts that measure this (\"pressure\")", "QUANTITY" },
                                     { "bus", 0, 0, G_OPTION_ARG_STRING, &wish.bus,
                                       "only parts on I2C, SPI, 1-Wire or serial", "KIND" },
                                     { "address", 0, 0, G_OPTION_ARG_INT, &wish.address,
                                       "only parts that can have this address", "N" },
                                     { "fit", 0, 0, G_OPTION_ARG_NONE, &fit,
                                       "addresses, straps and buses for all that are named", NULL },
                                     { 0 } };
    struct pintle_problem problem = { 0 };
    struct pintle_rig *rig = NULL;
    if (!cli_options(&command_parts, entries, &argc, &argv)) {
        return PINTLE_FAILURE_USE;
    }
    if (argc > 2 && !fit) {
        return cli_misuse("parts: one name at a time, or --fit and all of a shopping list");
    }
    if (as_markdown) {
        return argc == 1 && !options.rig && !options.demo
                   ? markdown()
                   : cli_misuse("parts: --markdown is of the whole catalogue; leave the rest away");
    }
    if ((options.rig || options.demo) && !(rig = cli_rig(&options, &problem))) {
        return cli_fail(&problem);
    }
    if (fit) {
        bool fits = fit_parts(rig, argc - 1, argv + 1, &problem);
        pintle_rig_free(rig);
        return fits ? 0 : cli_fail(&problem);
    }
    const struct pintle_sheet *sheet = argc == 2 ? pintle_rig_part(rig, argv[1], &problem) : NULL;
    if (sheet) {
        show(sheet);
        printf("\nIts registers: 'pintle regs SENSOR' on a rig that has one.\n");
    }
    bool ok = argc == 1 ? list(rig, &wish, &problem) : sheet != NULL;
    pintle_rig_free(rig);
    return ok ? 0 : cli_fail(&problem);
}

const struct command command_parts = {
    .name = "parts",
    .usage = "[NAME...]",
    .summary = "the catalogue, one part in full, or which ones fit together",
    .more = "With a rig the list says which of its sensors are of each part.\n\n"
            "Example:\n  pintle parts BME280\n  pintle parts --demo\n"
            "  pintle parts --measures pressure --bus I2C\n"
            "  pintle parts --fit BME280 BMP180 DS3231 MPU6050 TMP102 TMP102",
    .run = run,
};
