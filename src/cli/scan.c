#include <stdio.h>

#include "cli/cli.h"
#include "pintle/host/check/scan.h"

static const char *colour(enum pintle_finding_kind kind)
{
    return kind <= PINTLE_FINDING_LIKELY ? cli_good() : cli_bad();
}

static void print_finding(const struct pintle_rig *rig, const struct pintle_finding *f)
{
    const char *word = pintle_finding_word(f->kind);
    bool fine = f->kind <= PINTLE_FINDING_LIKELY;
    char *look_up = fine ? g_strdup("") : g_strdup_printf(" [%s]", pintle_hint_at(f->hint)->word);
    int width = rig->bus[f->bus].kind == PINTLE_BUS_I2C ? 5 : 16;
    if (!f->where[0]) {
        printf("  %s%s%s  %s%s\n", colour(f->kind), word, cli_plain(), f->text, look_up);
    } else {
        printf("  %-*s %-9s %-10s %s%-10s%s %s%s\n", width, f->where,
               f->sheet ? f->sheet->part->name : "?",
               f->sensor >= 0 ? rig->sensor[f->sensor].name : "-", colour(f->kind), word,
               cli_plain(), f->text, look_up);
    }
    g_free(look_up);
}

static void print_text(const struct pintle_rig *rig, const struct pintle_scan *scan)
{
    unsigned at = 0;
    unsigned there = 0;
    for (unsigned bus = 0; bus < rig->buses; bus++) {
        printf("%sbus %s%s  %s", cli_bold(), rig->bus[bus].name, cli_plain(),
               pintle_bus_word(rig->bus[bus].kind));
        if (rig->bus[bus].kind != PINTLE_BUS_ONEWIRE) {
            printf(", %u kHz", rig->bus[bus].speed_hz / 1000);
        }
        printf("\n");
        unsigned first = at;
        for (; at < scan->count && scan->finding[at]->bus == bus; at++) {
            print_finding(rig, scan->finding[at]);
            there += scan->finding[at]->kind <= PINTLE_FINDING_LIKELY;
        }
        if (at == first) {
            printf(
                rig->bus[bus].kind == PINTLE_BUS_SPI
                    ? "  SPI has no addresses to ask, and no sensor of the rig names a select pin\n"
                    : "  nothing answers, and the rig expects nothing here\n");
        }
        printf("\n");
    }
    printf("%u of %u sensors are there%s.\n", there, rig->sensors,
           scan->amiss ? "; 'pintle explain WORD' says more of a [word]"
                       : ", nothing else answers");
}

static void print_csv(const struct pintle_rig *rig, const struct pintle_scan *scan)
{
    printf("bus,place,state,part,sensor,finding,remark\r\n");
    for (unsigned i = 0; i < scan->count; i++) {
        const struct pintle_finding *f = scan->finding[i];
        char buffer[700];
        struct pintle_text remark;
        pintle_text_init(&remark, buffer, sizeof buffer);
        pintle_csv_field(&remark, f->text);
        printf("%s,%s,%s,%s,%s,%s%s\r\n", rig->bus[f->bus].name, f->where,
               pintle_finding_word(f->kind), f->sheet ? f->sheet->part->name : "",
               f->sensor >= 0 ? rig->sensor[f->sensor].name : "",
               f->kind > PINTLE_FINDING_LIKELY ? pintle_hint_at(f->hint)->word : "", buffer);
    }
}

static int run(int argc, char **argv)
{
    struct rig_options options = { .may_be_empty = true };
    char *format_name = NULL;
    const GOptionEntry entries[] = { RIG_OPTIONS(options),
                                     { "format", 'f', 0, G_OPTION_ARG_STRING, &format_name,
                                       "text or csv", "NAME" },
                                     { 0 } };
    if (!cli_options(&command_scan, entries, &argc, &argv)) {
        return PINTLE_FAILURE_USE;
    }
    struct pintle_problem problem = { 0 };
    struct pintle_rig *rig = NULL;
    struct pintle_station *station = NULL;
    enum format format = FORMAT_TEXT;
    if (argc > 1) {
        return cli_misuse("scan: it takes no names; it asks everybody on every bus");
    }
    if (!cli_format(format_name, &format, &problem)) {
        return cli_fail(&problem);
    }
    if (format == FORMAT_SENML) {
        return cli_misuse("scan yields no readings; its formats are text and csv");
    }
    if (!cli_open(&options, &rig, &station, &problem)) {
        return cli_fail(&problem);
    }
    struct pintle_scan *scan = pintle_scan_run(station);
    (format == FORMAT_CSV ? print_csv : print_text)(rig, scan);
    int status = scan->amiss ? PINTLE_FAILURE_RIG : 0;
    pintle_scan_free(scan);
    pintle_station_free(station);
    pintle_rig_free(rig);
    return status;
}

const struct command command_scan = {
    .name = "scan",
    .summary = "who answers on each bus, which part it is, what is missing",
    .more =
        "States:\n"
        "  proven      an identity register says that it is the expected part\n"
        "  likely      it answers as the expected part would; the part has no identity register\n"
        "  wrong       something else answers there\n"
        "  missing     expected by the rig, and nothing answers\n"
        "  unexpected  answers, and the rig does not know it\n"
        "  unsteady    there, and not reliably\n"
        "  marginal    the bus works, and its lines are not as they should be\n"
        "  broken      the whole bus does not work\n\n"
        "'pintle explain' lists what can be found and what to do about it.\n\n"
        "Example:\n  pintle scan --demo\n  pintle scan --demo --at 16h",
    .run = run,
};
