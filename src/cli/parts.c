#include <stdio.h>
#include <string.h>

#include "cli/cli.h"

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

static void list(const struct pintle_rig *rig)
{
    printf("%s%-9s %-44s %-16s %s%s%s\n", cli_bold(), "part", "what it is", "address or bus",
           "channels", rig ? ": sensors of the rig" : "", cli_plain());
    const struct pintle_sheet *sheet = NULL;
    for (size_t i = 0; (sheet = pintle_rig_part_at(rig, i)) != NULL; i++) {
        GString *addresses = g_string_new(NULL);
        if (sheet->part->link->kind != PINTLE_BUS_I2C) {
            g_string_assign(addresses,
                            pintle_bus_word((enum pintle_bus_kind)sheet->part->link->kind));
        }
        put_addresses(addresses, sheet->part);
        printf("%-9s %-44s %-16s", sheet->part->name, sheet->what, addresses->str);
        for (unsigned c = 0; c < sheet->part->channel_count; c++) {
            printf("%s %s", c ? "," : "", sheet->part->channels[c].name);
        }
        print_users(rig, sheet);
        printf("\n");
        g_string_free(addresses, TRUE);
    }
    printf("\n'pintle parts NAME' explains one of them.\n");
}

static void heading(const char *text)
{
    printf("\n%s%s%s\n", cli_bold(), text, cli_plain());
}

static void show_settings(const struct pintle_sheet *sheet)
{
    uint8_t initial[PINTLE_SETTINGS_MAX];
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
        printf("\n");
        if (setting->meaning[0]) {
            printf("  %-26s%s\n", "", setting->meaning);
        }
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
    const GOptionEntry entries[] = { RIG_OPTIONS(options),
                                     { "markdown", 0, 0, G_OPTION_ARG_NONE, &as_markdown,
                                       "the whole catalogue, as docs/parts.md", NULL },
                                     { 0 } };
    struct pintle_problem problem = { 0 };
    struct pintle_rig *rig = NULL;
    if (!cli_options(&command_parts, entries, &argc, &argv)) {
        return PINTLE_FAILURE_USE;
    }
    if (argc > 2) {
        return cli_misuse("parts: one name at a time");
    }
    if (as_markdown) {
        return argc == 1 && !options.rig && !options.demo
                   ? markdown()
                   : cli_misuse("parts: --markdown is of the whole catalogue; leave the rest away");
    }
    if ((options.rig || options.demo) && !(rig = cli_rig(&options, &problem))) {
        return cli_fail(&problem);
    }
    const struct pintle_sheet *sheet = argc == 2 ? pintle_rig_part(rig, argv[1], &problem) : NULL;
    if (sheet) {
        show(sheet);
        printf("\nIts registers: 'pintle regs SENSOR' on a rig that has one.\n");
    } else if (argc == 1) {
        list(rig);
    }
    pintle_rig_free(rig);
    return sheet || argc == 1 ? 0 : cli_fail(&problem);
}

const struct command command_parts = {
    .name = "parts",
    .usage = "[NAME]",
    .summary = "the catalogue, or one part in full",
    .more = "With a rig the list says which of its sensors are of each part.\n\n"
            "Example:\n  pintle parts BME280\n  pintle parts --demo",
    .run = run,
};
