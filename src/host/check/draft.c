/* What a scan has found, as a rig file. */
#include <glib.h>
#include <string.h>

#include "host/base/files.h"
#include "host/check/scan.h"
#include "pintle/host/check/wiring.h"

static void put_text(GString *out, const char *word, const char *value)
{
    if (value && value[0]) {
        g_string_append_printf(out, "    %-8s = \"%s\"\n", word, value);
    }
}

static void put_number(GString *out, const char *word, double value, double usual)
{
    if (value != usual) {
        g_string_append_printf(out, "    %-8s = %g\n", word, value);
    }
}

static void put_board(GString *out, const struct pintle_rig *rig)
{
    g_string_append(out, "board {\n");
    put_text(out, "name", rig->board);
    put_text(out, "port", rig->port);
    if (rig->world_text) {
        put_text(out, "world", PINTLE_RIG_BUILT_IN);
    } else if (rig->world_path) {
        char *path = g_canonicalize_filename(rig->world_path, NULL);
        put_text(out, "world", path);
        g_free(path);
    }
    put_number(out, "logic", rig->logic_v, 3.3);
    g_string_append(out, "}\n\n");
}

static void put_selects(GString *out, const struct pintle_rig_bus *bus)
{
    g_string_append_printf(out, "    %-8s = { ", "selects");
    for (unsigned i = 0; i < bus->selects; i++) {
        g_string_append_printf(out, "%s\"%s\"", i ? ", " : "", bus->select_pin[i]);
    }
    g_string_append(out, " }\n");
}

static void put_bus(GString *out, const struct pintle_rig_bus *bus)
{
    static const char *const kinds[] = { "i2c", "spi", "onewire", "serial" };
    g_string_append_printf(out, "bus %s {\n", bus->name);
    put_text(out, "kind", kinds[bus->kind]);
    put_text(out, "device", bus->device);
    if (bus->kind != PINTLE_BUS_ONEWIRE) {
        g_string_append_printf(out, "    %-8s = %u\n", "speed", bus->speed_hz);
    }
    if (bus->selects > 0) {
        put_selects(out, bus);
    }
    put_text(out, "data", bus->data_pin);
    put_text(out, "data-in", bus->data_in_pin);
    put_text(out, "clock", bus->clock_pin);
    put_text(out, "command", bus->command_pin);
    put_number(out, "pull-up", bus->pull_up_ohm, 0);
    if (pintle_wiring_pulls_up(bus->kind) && bus->pull_up_ohm == 0) {
        g_string_append(out,
                        "    # pull-up = 4700    # ohms, beside those on the sensors' boards\n");
    }
    put_number(out, "cable", bus->cable_m, 0.2);
    if (bus->shared) {
        g_string_append_printf(out, "    %-8s = true\n", "shared");
    }
    if (bus->beside_drivers) {
        g_string_append(out, "    beside-drivers = true\n");
    }
    g_string_append(out, "}\n\n");
}

/* The rig's own name, or the part's in small letters, with a number from the second on. */
static char *name_of(const struct pintle_scan *scan, const struct pintle_rig *rig, unsigned index)
{
    const struct pintle_finding *finding = scan->finding[index];
    unsigned before = 0;
    if (finding->sensor >= 0) {
        return g_strdup(rig->sensor[finding->sensor].name);
    }
    for (unsigned i = 0; i < index; i++) {
        const struct pintle_finding *other = scan->finding[i];
        before += other->sensor < 0 && other->sheet == finding->sheet;
    }
    char *name = g_ascii_strdown(finding->sheet->part->name, -1);
    if (before > 0) {
        char *numbered = g_strdup_printf("%s-%u", name, before + 1);
        g_free(name);
        return numbered;
    }
    return name;
}

/* Every setting as the part has it at first, or as the rig does. */
static void put_settings(GString *out, const struct pintle_rig *rig,
                         const struct pintle_finding *finding)
{
    const struct pintle_sheet *sheet = finding->sheet;
    struct pintle_chosen chosen;
    if (sheet->part->setting_count + sheet->part->number_count == 0) {
        return;
    }
    pintle_rig_initial(sheet->part, &chosen);
    bool mine = finding->sensor >= 0;
    if (mine) {
        chosen = rig->sensor[finding->sensor].chosen;
    }
    g_string_append(out, mine ? "    set      = { " : "    # set    = { ");
    for (unsigned i = 0; i < sheet->part->setting_count; i++) {
        g_string_append_printf(out, "%s\"%s=%s\"", i ? ", " : "", sheet->settings[i].name,
                               chosen.ranging && pintle_sheet_ranges(sheet, i)
                                   ? "auto"
                                   : sheet->settings[i].options[chosen.settings[i]]);
    }
    for (unsigned i = 0; i < sheet->part->number_count; i++) {
        g_string_append_printf(out, "%s\"%s=%g\"", i + sheet->part->setting_count ? ", " : "",
                               sheet->numbers[i].name, (double)chosen.numbers[i]);
    }
    g_string_append(out, " }\n");
}

static void put_sensor(GString *out, const struct pintle_scan *scan, const struct pintle_rig *rig,
                       unsigned index)
{
    const struct pintle_finding *finding = scan->finding[index];
    const struct pintle_rig_bus *bus = &rig->bus[finding->bus];
    char *name = name_of(scan, rig, index);
    g_string_append_printf(out, "# %s: %s\nsensor %s {\n", pintle_finding_word(finding->kind),
                           finding->text, name);
    put_text(out, "part", finding->sheet->part->name);
    put_text(out, "bus", bus->name);
    switch (bus->kind) {
    case PINTLE_BUS_I2C:
        g_string_append_printf(out, "    %-8s = 0x%02x\n", "address", finding->place.address);
        break;
    case PINTLE_BUS_SPI:
        put_text(out, "select", bus->select_pin[finding->place.select]);
        put_text(out, "device", bus->select_device[finding->place.select]);
        break;
    case PINTLE_BUS_STREAM:
        break;
    default:
        put_text(out, "code", finding->where);
        break;
    }
    put_settings(out, rig, finding);
    g_string_append(out, "}\n\n");
    g_free(name);
}

static bool is_sensor(const struct pintle_finding *finding)
{
    return finding->where[0] && finding->sheet && !finding->sheet->described
           && (finding->kind <= PINTLE_FINDING_FOUND || finding->kind == PINTLE_FINDING_UNEXPECTED);
}

/* What nothing proves is a remark: a guess that is wrong would write to somebody's chip. On I2C
 * with a section to uncomment. */
static void put_remark(GString *out, const struct pintle_rig *rig,
                       const struct pintle_finding *finding)
{
    const char *bus = rig->bus[finding->bus].name;
    g_string_append_printf(out, "# %s %s on bus '%s': %s\n",
                           finding->where[0] ? finding->where : "the bus",
                           pintle_finding_word(finding->kind), bus, finding->text);
    if (!finding->sheet && finding->possibles > 0
        && rig->bus[finding->bus].kind == PINTLE_BUS_I2C) {
        char *could = pintle_priv_scan_possible(finding);
        const char *first = finding->possible[0]->part->name;
        bool only = strcmp(could, first) == 0;
        g_string_append_printf(out,
                               "# if you know what it is, remove the first # of each line:\n"
                               "#sensor at-%02x {\n#    part     = \"%s\"%s%s\n"
                               "#    bus      = \"%s\"\n#    address  = 0x%02x\n#}\n",
                               finding->place.address, first, only ? "" : "    # ",
                               only ? "" : could, bus, finding->place.address);
        g_free(could);
    }
    g_string_append(out, "\n");
}

static char *draft(const struct pintle_scan *scan, const struct pintle_rig *rig)
{
    GString *out =
        g_string_new("# Drafted from what answers. Rename what you like; what every word "
                     "means is in docs/rig-file.md.\n\n");
    put_board(out, rig);
    unsigned at = 0;
    for (unsigned i = 0; i < rig->buses; i++) {
        put_bus(out, &rig->bus[i]);
        for (; at < scan->count && scan->finding[at]->bus == i; at++) {
            const struct pintle_finding *finding = scan->finding[at];
            if (is_sensor(finding)) {
                put_sensor(out, scan, rig, at);
            } else {
                put_remark(out, rig, finding);
            }
        }
    }
    return g_string_free(out, FALSE);
}

bool pintle_scan_draft(const struct pintle_scan *scan, const struct pintle_rig *rig,
                       const char *path, struct pintle_problem *problem)
{
    if (g_file_test(path, G_FILE_TEST_EXISTS)) {
        return pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                  "there is a file %s already, which stays as it is; name "
                                  "another one, or move it away",
                                  path);
    }
    char *text = draft(scan, rig);
    bool ok = pintle_priv_files_replace(path, text, problem);
    g_free(text);
    return ok;
}
