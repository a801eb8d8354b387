/* A rig with eight planted wiring faults, found and explained one after the other: each time the
 * fault named is mended and the next one shows.
 *
 *     what_is_wrong [FOLDER]      two files are written there
 */
#include <stdio.h>

#include "pintle/host/check/scan.h"
#include "pintle/host/sim/sim.h"

static const char rig_text[] = "board { depth = \"wires\" world = \"wrong.world\" }\n"
                               "bus cabin { }\nbus aft { }\n"
                               "sensor baro { part = \"BME280\" bus = \"cabin\" address = 0x76 }\n"
                               "sensor sea { part = \"TMP102\" bus = \"aft\" address = 0x48 }\n"
                               "sensor engine { part = \"TMP102\" bus = \"aft\" address = 0x49 }\n";

#define CABIN "chip baro { part = \"BME280\" bus = \"cabin\" address = 0x76 }\n"
#define AFT                                                                                        \
    "chip sea { part = \"TMP102\" bus = \"aft\" address = 0x48 }\n"                                \
    "chip engine { part = \"TMP102\" bus = \"aft\" address = 0x49 }\n"

static const struct {
    const char *planted;
    const char *world;
} faults[] = {
    { "cabin: no pull-ups", CABIN AFT "trouble cabin { kind = \"no-pull-up\" }" },
    { "cabin: pull-ups far too weak",
      CABIN AFT "lines cabin { pull-up = 150000 capacitance = 300 }" },
    { "cabin: data and clock swapped", CABIN AFT "trouble cabin { kind = \"swapped\" }" },
    { "cabin: baro's strap at VDDIO",
      "chip baro { part = \"BME280\" bus = \"cabin\" address = 0x77 }\n" AFT },
    { "aft: a strand between data and clock", CABIN AFT "trouble aft { kind = \"touching\" }" },
    { "aft: data shorted to ground", CABIN AFT "trouble aft { kind = \"data-low\" }" },
    { "aft: sea's plug is in the cabin's socket",
      CABIN "chip sea { part = \"TMP102\" bus = \"cabin\" address = 0x48 }\n"
            "chip engine { part = \"TMP102\" bus = \"aft\" address = 0x49 }\n" },
    { "aft: a clock board where engine belongs",
      CABIN "chip sea { part = \"TMP102\" bus = \"aft\" address = 0x48 }\n"
            "chip clock { part = \"DS3231\" bus = \"aft\" address = 0x49 }\n" },
    { "nothing any more", CABIN AFT },
};

static bool write_file(const char *folder, const char *name, const char *text)
{
    char path[512];
    snprintf(path, sizeof path, "%s/%s", folder, name);
    FILE *file = fopen(path, "w");
    return file && fputs(text, file) >= 0 && fclose(file) == 0;
}

static bool scan(const char *folder)
{
    struct pintle_problem problem = { PINTLE_FAILURE_NONE, "" };
    char path[512];
    snprintf(path, sizeof path, "%s/wrong.rig", folder);
    struct pintle_rig *rig = pintle_rig_load(path, &problem);
    struct pintle_station *station = rig ? pintle_station_open(rig, 0, &problem) : NULL;
    if (!station) {
        printf("%s\n", problem.text);
        pintle_rig_free(rig);
        return false;
    }
    struct pintle_scan *found = pintle_scan_run(station);
    for (unsigned i = 0; i < found->count; i++) {
        const struct pintle_finding *f = found->finding[i];
        if (f->kind > PINTLE_FINDING_LIKELY) {
            printf("  %s%s%s %s: %s\n", rig->bus[f->bus].name, f->sensor >= 0 ? ", " : "",
                   f->sensor >= 0 ? rig->sensor[f->sensor].name : "", pintle_finding_word(f->kind),
                   f->text);
        }
    }
    printf("  %u amiss, after %.2f s\n", found->amiss,
           (double)pintle_station_sim(station)->now_us / 1e6);
    pintle_scan_free(found);
    pintle_station_free(station);
    pintle_rig_free(rig);
    return true;
}

int main(int argc, char **argv)
{
    const char *folder = argc > 1 ? argv[1] : ".";
    bool ok = write_file(folder, "wrong.rig", rig_text);
    for (size_t i = 0; ok && i < sizeof faults / sizeof faults[0]; i++) {
        printf("%s\n", faults[i].planted);
        ok = write_file(folder, "wrong.world", faults[i].world) && scan(folder);
    }
    return ok ? 0 : 1;
}
