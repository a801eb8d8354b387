/* A bus section of a rig file. */
#include <glib.h>
#include <string.h>

#include "host/rig/loading.h"

static const char *const kinds[] = { "i2c", "spi", "onewire", "serial" };

int pintle_priv_check_kind(cfg_t *cfg, cfg_opt_t *opt)
{
    for (size_t i = 0; i < G_N_ELEMENTS(kinds); i++) {
        if (strcmp(cfg_opt_getnstr(opt, cfg_opt_size(opt) - 1), kinds[i]) == 0) {
            return 0;
        }
    }
    return pintle_priv_conf_complain(
        cfg, "bus '%s' is of kind '%s'; there are i2c, spi, onewire and serial", cfg->title,
        cfg_opt_getnstr(opt, cfg_opt_size(opt) - 1));
}

/* What each kind of bus can run at; a 1-Wire line has one speed only. */
static int check_speed(cfg_t *cfg, const struct pintle_rig_bus *bus, long hz)
{
    if (bus->kind == PINTLE_BUS_I2C && (hz < 1000 || hz > 1000000)) {
        return pintle_priv_conf_complain(
            cfg,
            "bus '%s' cannot run at %ld Hz; I2C runs at 100000, 400000 or "
            "1000000, and anything slower down to 1000",
            bus->name, hz);
    }
    if (bus->kind == PINTLE_BUS_SPI && (hz < 1000 || hz > 20000000)) {
        return pintle_priv_conf_complain(
            cfg, "bus '%s' cannot run at %ld Hz; SPI runs at 1000 to 20000000", bus->name, hz);
    }
    if (bus->kind == PINTLE_BUS_STREAM && (hz < 300 || hz > 1000000)) {
        return pintle_priv_conf_complain(
            cfg,
            "bus '%s' cannot run at %ld baud; serial lines run at 300 to 1000000, 9600 usually",
            bus->name, hz);
    }
    return 0;
}

int pintle_rig_find_bus(const struct pintle_rig *rig, const char *name)
{
    for (unsigned i = 0; i < rig->buses; i++) {
        if (strcmp(rig->bus[i].name, name) == 0) {
            return (int)i;
        }
    }
    return -1;
}

int pintle_priv_loading_select(cfg_t *cfg, struct pintle_rig_bus *bus, const char *pin)
{
    unsigned i = 0;
    if (bus->kind != PINTLE_BUS_SPI) {
        return pintle_priv_conf_complain(cfg, "bus '%s' is %s and has no select pins", bus->name,
                                         pintle_bus_word(bus->kind));
    }
    while (i < bus->selects && strcmp(bus->select_pin[i], pin) != 0) {
        i++;
    }
    if (i == PINTLE_RIG_SELECTS) {
        return pintle_priv_conf_complain(cfg, "bus '%s' cannot have more than %d select pins",
                                         bus->name, PINTLE_RIG_SELECTS);
    }
    if (i == bus->selects) {
        bus->selects++;
        bus->select_pin = g_renew(char *, bus->select_pin, bus->selects);
        bus->select_device = g_renew(char *, bus->select_device, bus->selects);
        bus->select_pin[i] = pintle_priv_loading_text("%s", pin);
        bus->select_device[i] = NULL;
    }
    return (int)i;
}

/* A whole bus section has been read. */
int pintle_priv_loading_bus(cfg_t *cfg, cfg_opt_t *opt)
{
    struct pintle_rig *rig = pintle_priv_loading.rig;
    cfg_t *section = pintle_priv_conf_section(opt);
    if (pintle_priv_conf_name(cfg, "a bus", cfg_title(section)) != 0) {
        return -1;
    }
    if (pintle_rig_find_bus(rig, cfg_title(section)) >= 0) {
        return pintle_priv_conf_complain(cfg, "there is a bus '%s' already; give each its own name",
                                         cfg_title(section));
    }
    rig->bus = g_renew(struct pintle_rig_bus, rig->bus, rig->buses + 1);
    struct pintle_rig_bus *bus = &rig->bus[rig->buses];
    static const long usual_hz[] = { 100000, 1000000, 15000, 9600 };
    unsigned kind = 0;
    while (kind < PINTLE_BUS_STREAM && strcmp(cfg_getstr(section, "kind"), kinds[kind]) != 0) {
        kind++;
    }
    long hz = cfg_getint(section, "speed");
    hz = hz == 0 || kind == PINTLE_BUS_ONEWIRE ? usual_hz[kind] : hz;
    *bus = (struct pintle_rig_bus){
        .name = pintle_priv_loading_text("%s", cfg_title(section)),
        .kind = (enum pintle_bus_kind)kind,
        .shared = cfg_getbool(section, "shared"),
        .beside_drivers = cfg_getbool(section, "beside-drivers"),
        .device = pintle_priv_loading_text("%s", cfg_getstr(section, "device")),
        .speed_hz = (uint32_t)hz,
        .data_pin = pintle_priv_loading_text("%s", cfg_getstr(section, "data")),
        .clock_pin = pintle_priv_loading_text("%s", cfg_getstr(section, "clock")),
        .data_in_pin = pintle_priv_loading_text("%s", cfg_getstr(section, "data-in")),
        .command_pin = pintle_priv_loading_text("%s", cfg_getstr(section, "command")),
        .pull_up_ohm = cfg_getfloat(section, "pull-up"),
        .pull_up_v = cfg_getfloat(section, "pull-up-to"),
        .cable_m = cfg_getfloat(section, "cable"),
        .cable_pf_m = cfg_getfloat(section, "cable-pf")
    };
    rig->buses++;
    for (unsigned i = 0; i < cfg_size(section, "selects"); i++) {
        if (pintle_priv_loading_select(cfg, bus, cfg_getnstr(section, "selects", i)) < 0) {
            return -1;
        }
    }
    return check_speed(cfg, bus, hz);
}
