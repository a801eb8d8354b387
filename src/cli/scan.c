#include <stdio.h>

#include "cli/cli.h"
#include "pintle/host/check/scan.h"

static const char *colour(enum pintle_finding_kind kind)
{
    return kind <= PINTLE_FINDING_FOUND || kind == PINTLE_FINDING_HELD ? cli_good() : cli_bad();
}

static void print_finding(const struct pintle_rig *rig, const struct pintle_finding *f)
{
    const char *word = pintle_finding_word(f->kind);
    bool fine = f->kind <= PINTLE_FINDING_FOUND && f->sheet;
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

/* The bus's speed as it is, and as the rig has it where that differs. */
static void print_bus(const struct pintle_station *station, unsigned i)
{
    const struct pintle_rig_bus *bus = &station->rig->bus[i];
    const struct pintle_platform *platform = station->platform;
    uint32_t real = platform->speed_hz ? platform->speed_hz(station, i) : bus->speed_hz;
    printf("%sbus %s%s  %s", cli_bold(), bus->name, cli_plain(), pintle_bus_word(bus->kind));
    if (bus->kind == PINTLE_BUS_STREAM) {
        printf(", %u baud", bus->speed_hz);
    } else if (bus->kind != PINTLE_BUS_ONEWIRE) {
        printf(", %u kHz", (real ? real : bus->speed_hz) / 1000);
    }
    if (real != 0 && real != bus->speed_hz && bus->kind == PINTLE_BUS_I2C) {
        printf(" (the rig says %u; the system decides)", bus->speed_hz / 1000);
    } else if (real == 0 && bus->kind == PINTLE_BUS_I2C) {
        printf(" by the rig; the system does not say");
    }
    if (bus->device[0]) {
        printf(", %s", bus->device);
    }
    printf("\n");
}

static void print_nothing(const struct pintle_rig *rig, const struct pintle_rig_bus *bus)
{
    if (bus->kind == PINTLE_BUS_SPI) {
        printf(bus->selects > 0
                   ? "  no part of the catalogue proves itself at a select pin; SPI has no "
                     "addresses to ask\n"
                   : "  SPI has no addresses to ask, and the rig names no select pin\n");
    } else if (bus->kind == PINTLE_BUS_STREAM) {
        printf(
            "  the rig expects nobody at its other end, and a serial line is not asked blindly\n");
    } else {
        printf(rig->wired > 0 ? "  nothing answers, and the rig expects nothing here\n"
                              : "  nothing answers\n");
    }
}

static void print_sum(const struct pintle_rig *rig, const struct pintle_scan *scan, unsigned there,
                      bool drafted)
{
    const char *more = "; 'pintle explain WORD' says more of a [word]";
    if (rig->wired > 0) {
        printf("%u of %u sensors are there%s.\n", there, rig->wired,
               scan->amiss ? more : ", nothing else answers");
    } else {
        printf("%u answered%s%s.\n", there, scan->amiss ? more : "",
               drafted || there == 0 ? "" : "; --draft FILE writes a rig file to begin with");
    }
}

static void print_text(const struct pintle_station *station, const struct pintle_scan *scan,
                       bool drafted)
{
    const struct pintle_rig *rig = station->rig;
    unsigned at = 0;
    unsigned there = 0;
    for (unsigned bus = 0; bus < rig->buses; bus++) {
        print_bus(station, bus);
        unsigned first = at;
        for (; at < scan->count && scan->finding[at]->bus == bus; at++) {
            print_finding(rig, scan->finding[at]);
            there += scan->finding[at]->kind <= PINTLE_FINDING_FOUND;
        }
        if (at == first) {
            print_nothing(rig, &rig->bus[bus]);
        }
        printf("\n");
    }
    print_sum(rig, scan, there, drafted);
}

static void print_csv(const struct pintle_rig *rig, const struct pintle_scan *scan)
{
    printf("bus,place,state,part,sensor,finding,remark\r\n");
    for (unsigned i = 0; i < scan->count; i++) {
        const struct pintle_finding *f = scan->finding[i];
        char buffer[700];
        struct pintle_text remark;
        pintle_text_init(&remark, buffer, sizeof buffer);
        pintle_text_csv(&remark, f->text);
        printf("%s,%s,%s,%s,%s,%s%s\r\n", rig->bus[f->bus].name, f->where,
               pintle_finding_word(f->kind), f->sheet ? f->sheet->part->name : "",
               f->sensor >= 0 ? rig->sensor[f->sensor].name : "",
               f->kind > PINTLE_FINDING_FOUND ? pintle_hint_at(f->hint)->word : "", buffer);
    }
}

static int scan_with(struct pintle_station *station, enum format format, const char *draft)
{
    struct pintle_problem problem = { 0 };
    struct pintle_scan *scan = pintle_scan_run(station);
    int status = scan->amiss ? PINTLE_FAILURE_RIG : 0;
    if (format == FORMAT_CSV) {
        print_csv(station->rig, scan);
    } else {
        print_text(station, scan, draft != NULL);
    }
    if (draft && !pintle_scan_draft(scan, station->rig, draft, &problem)) {
        status = cli_fail(&problem);
    } else if (draft) {
        cli_say("drafted %s; 'pintle read --rig %s' reads it", draft, draft);
    }
    pintle_scan_free(scan);
    return status;
}

static int run(int argc, char **argv)
{
    struct rig_options options = { .may_be_empty = true, .may_offer = true };
    char *format_name = NULL;
    char *draft = NULL;
    const GOptionEntry entries[] = { RIG_OPTIONS(options),
                                     AT_OPTION(options.at),
                                     { "draft", 0, 0, G_OPTION_ARG_FILENAME, &draft,
                                       "write a rig file of what is found", "FILE" },
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
    int status = scan_with(station, format, draft);
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
        "  found       it answers, and there is no rig to expect anything\n"
        "  wrong       something else answers there\n"
        "  missing     expected by the rig, and nothing answers\n"
        "  unexpected  answers, and the rig does not know it\n"
        "  held        a driver of the operating system has it to itself\n"
        "  unsteady    there, and not reliably\n"
        "  marginal    the bus works, and its lines are not as they should be\n"
        "  broken      the whole bus does not work\n\n"
        "Without --rig and --demo it asks every bus that this machine offers.\n\n"
        "'pintle explain' lists what can be found and what to do about it.\n\n"
        "Example:\n  pintle scan --demo\n  pintle scan --demo --at 16h\n"
        "  pintle scan --draft boat.rig",
    .run = run,
};
