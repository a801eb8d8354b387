/* An I2C bus: its lines, then every address. */
#include <glib.h>
#include <string.h>

#include "host/check/scan.h"
#include "pintle/host/check/wiring.h"

/* More answers than a bus has room for chips: something is wrong with the lines. */
#define CROWD 100

static enum pintle_status probe(const struct scanning *s, uint8_t address)
{
    return pintle_i2c_probe(&s->station->i2c[s->bus], address);
}

static bool acts(const struct pintle_finding *finding)
{
    return finding->sheet && finding->sheet->acts;
}

/* Drivers of the kernel that make a bus of each channel of a switch. */
static bool is_switch_driver(const char *driver)
{
    static const char *const names[] = { "pca954x", "pca9541", "ltc4306", "mlxcpld-mux" };
    for (size_t i = 0; driver && i < G_N_ELEMENTS(names); i++) {
        if (strcmp(driver, names[i]) == 0) {
            return true;
        }
    }
    return false;
}

static void tell_held(const struct scanning *s, struct pintle_finding *finding)
{
    const struct pintle_platform *platform = s->station->platform;
    const char *driver =
        platform->holder ? platform->holder(s->station, s->bus, finding->place.address) : NULL;
    const struct pintle_hint_names names = { .other = driver };
    pintle_priv_scan_tell(finding, PINTLE_FINDING_HELD,
                          is_switch_driver(driver) ? PINTLE_HINT_HELD_SWITCH : PINTLE_HINT_HELD,
                          &names);
}

static void ask(const struct scanning *s, uint8_t address)
{
    char where[8];
    g_snprintf(where, sizeof where, "0x%02x", address);
    int sensor = pintle_priv_scan_expected(s, where);
    enum pintle_status status = probe(s, address);
    if (status != PINTLE_OK && status != PINTLE_HELD && sensor < 0) {
        return;
    }
    struct pintle_finding *finding = pintle_priv_scan_add(s, where, sensor);
    finding->place.address = address;
    if (status == PINTLE_HELD) {
        tell_held(s, finding);
    } else if (status != PINTLE_OK) {
        finding->kind = PINTLE_FINDING_MISSING;
    } else if (!acts(finding)) {
        pintle_priv_scan_judge(s, finding);
    }
}

/* What acts when it is asked comes last. */
static void ask_acting(const struct scanning *s)
{
    for (unsigned i = 0; i < s->scan->count; i++) {
        struct pintle_finding *finding = s->scan->finding[i];
        if (finding->bus == s->bus && finding->where[0] && acts(finding)
            && finding->kind == PINTLE_FINDING_PROVEN) {
            pintle_priv_scan_judge(s, finding);
        }
    }
}

/* The look counts whole microseconds: one less have surely passed. */
static bool is_slow(const struct pintle_bitbang_look *look, uint32_t speed_hz)
{
    return look->rise_us > 1 && look->rise_us != UINT16_MAX
           && look->rise_us - 1 > pintle_wiring_rise_us(speed_hz);
}

/* From what the lines do at rest to what is wrong with them, the surest first. */
static enum pintle_hint hint_of(const struct pintle_bitbang_look *look, uint32_t speed_hz)
{
    if (look->touching) {
        return PINTLE_HINT_TOUCHING;
    }
    if (look->data_low && look->clock_low) {
        return PINTLE_HINT_BOTH_LOW;
    }
    if (look->clock_low) {
        return PINTLE_HINT_CLOCK_LOW;
    }
    if (look->data_low) {
        return PINTLE_HINT_DATA_LOW;
    }
    if (look->rise_us == UINT16_MAX) {
        return PINTLE_HINT_NO_RISE;
    }
    return is_slow(look, speed_hz) ? PINTLE_HINT_SLOW_RISE : PINTLE_HINT_LOW_WHILE_TALKING;
}

static enum pintle_hint hint_without_pins(enum pintle_status status)
{
    return status == PINTLE_DATA_STUCK   ? PINTLE_HINT_DATA_LOW
           : status == PINTLE_TIME_LIMIT ? PINTLE_HINT_ALL_LATE
                                         : PINTLE_HINT_CLOCK_STUCK;
}

/* An adapter that has no other word for nobody says that it ran out of time. Somebody who answers
 * proves that the bus is well; the addresses of parts are likelier than others. */
static enum pintle_status try_everybody(const struct scanning *s)
{
    uint8_t tried[128] = { 0 };
    const struct pintle_sheet *sheet = NULL;
    for (size_t i = 0; (sheet = pintle_rig_part_at(s->station->rig, i)) != NULL; i++) {
        for (unsigned k = 0; sheet->part->addresses && k < sheet->part->address_count; k++) {
            uint8_t address = sheet->part->addresses[k];
            if (!tried[address]++ && probe(s, address) == PINTLE_OK) {
                return PINTLE_OK;
            }
        }
    }
    for (uint8_t address = 0x08; address <= 0x77; address++) {
        if (!tried[address] && probe(s, address) == PINTLE_OK) {
            return PINTLE_OK;
        }
    }
    return PINTLE_TIME_LIMIT;
}

/* A stretched clock shows only once a chip has taken its address, so the rig's own are tried too.
 */
static enum pintle_status try_bus(const struct scanning *s)
{
    const struct pintle_rig *rig = s->station->rig;
    enum pintle_status status = probe(s, 0x08);
    for (unsigned i = 0; i < rig->sensors && status == PINTLE_NO_ANSWER; i++) {
        if (rig->sensor[i].bus == s->bus) {
            status = probe(s, rig->sensor[i].place.address);
        }
    }
    bool waits = s->station->platform->pass == NULL;
    return status == PINTLE_TIME_LIMIT && waits ? try_everybody(s) : status;
}

static unsigned count_answers(const struct scanning *s)
{
    unsigned answers = 0;
    for (uint8_t address = 0x08; address <= 0x77; address++) {
        answers += probe(s, address) == PINTLE_OK;
    }
    return answers;
}

/* The lines are looked at before anything is said on them: a chip that hangs may hold them low
 * afterwards. */
void pintle_priv_scan_i2c(const struct scanning *s)
{
    struct pintle_look looked = { 0 };
    const struct pintle_bitbang_look *look = &looked.i2c;
    bool wires = pintle_priv_scan_look(s, &looked);
    uint32_t speed_hz = s->station->rig->bus[s->bus].speed_hz;
    enum pintle_status status = try_bus(s);
    if (pintle_priv_scan_system(s, status)) {
        return;
    }
    if (status != PINTLE_OK && status != PINTLE_NO_ANSWER && status != PINTLE_HELD) {
        pintle_priv_scan_bus(s, PINTLE_FINDING_BROKEN,
                             wires ? hint_of(look, speed_hz) : hint_without_pins(status));
        return;
    }
    if (status == PINTLE_OK && probe(s, 0x08) == PINTLE_OK && count_answers(s) >= CROWD) {
        pintle_priv_scan_bus(s, PINTLE_FINDING_BROKEN, PINTLE_HINT_EVERYBODY);
        return;
    }
    if (wires && is_slow(look, speed_hz)) {
        pintle_priv_scan_bus(s, PINTLE_FINDING_MARGINAL, PINTLE_HINT_SLOW_RISE);
    }
    for (uint8_t address = 0x08; address <= 0x77; address++) {
        ask(s, address);
    }
    ask_acting(s);
}

static bool is_possible(const struct pintle_finding *finding, const struct pintle_sheet *sheet)
{
    for (unsigned i = 0; !finding->sheet && i < finding->possibles; i++) {
        if (finding->possible[i] == sheet) {
            return true;
        }
    }
    return false;
}

/* Something unexpected that is the missing part, or else that could be it. */
static const struct pintle_finding *stray(const struct pintle_scan *scan,
                                          const struct pintle_finding *missing)
{
    const struct pintle_finding *possible = NULL;
    for (unsigned i = 0; i < scan->count; i++) {
        const struct pintle_finding *finding = scan->finding[i];
        if (finding->kind == PINTLE_FINDING_UNEXPECTED && finding->sheet == missing->sheet) {
            return finding;
        }
        if (finding->kind == PINTLE_FINDING_UNEXPECTED && is_possible(finding, missing->sheet)) {
            possible = possible ? possible : finding;
        }
    }
    return possible;
}

static bool alone(const struct pintle_scan *scan, const struct pintle_finding *missing)
{
    for (unsigned i = 0; i < scan->count; i++) {
        if (scan->finding[i]->bus == missing->bus && scan->finding[i]->where[0]
            && scan->finding[i]->kind != PINTLE_FINDING_MISSING) {
            return false;
        }
    }
    return true;
}

void pintle_priv_scan_explain_i2c(const struct scanning *s, struct pintle_finding *missing)
{
    const struct pintle_finding *other = stray(s->scan, missing);
    struct pintle_hint_names names = { .part = missing->sheet->part->name };
    enum pintle_hint hint = alone(s->scan, missing) ? PINTLE_HINT_NOBODY : PINTLE_HINT_ONE_MISSING;
    names.strap = pintle_sheet_strap(missing->sheet, missing->place.address);
    if (other) {
        hint = !other->sheet                ? PINTLE_HINT_MAYBE_THERE
               : other->bus == missing->bus ? PINTLE_HINT_OTHER_STRAP
                                            : PINTLE_HINT_ON_OTHER_BUS;
        names.place = other->where;
        names.bus = s->station->rig->bus[other->bus].name;
        names.strap = pintle_sheet_strap(missing->sheet, other->place.address);
    }
    pintle_priv_scan_tell(missing, PINTLE_FINDING_MISSING, hint, &names);
}
