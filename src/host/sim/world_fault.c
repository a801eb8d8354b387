/* What goes wrong in a world script: with chips, with lines. */
#include "host/sim/world.h"

#include <glib.h>
#include <string.h>

/* A word among `words`: its index; where there is none, which there are is said. */
static int take_kind(cfg_t *cfg, const char *const *words, const char *word)
{
    int k = 0;
    while (words[k] && g_strcmp0(word, words[k]) != 0) {
        k++;
    }
    if (!words[k]) {
        char *all = g_strjoinv(", ", (char **)(uintptr_t)words);
        pintle_priv_conf_complain(cfg, "'%s' is no kind of what can go wrong; there are %s",
                                  word ? word : "", all);
        g_free(all);
        return -1;
    }
    return k;
}

/* The time that they have in common, and into the simulation. Every section counts, also of a title
 * that was there before. */
static int plan(cfg_t *cfg, cfg_t *section, struct pintle_sim_fault *fault)
{
    double from = 0;
    double to = 0;
    if (!pintle_priv_world_seconds(cfg, cfg_getstr(section, "from"), &from)
        || !pintle_priv_world_seconds(cfg, cfg_getstr(section, "to"), &to)) {
        return -1;
    }
    if (to <= from) {
        return pintle_priv_conf_complain(cfg, "'to' (%s) is not after 'from' (%s)",
                                         cfg_getstr(section, "to"), cfg_getstr(section, "from"));
    }
    fault->from_us = (uint64_t)(from * 1e6);
    fault->to_us = (uint64_t)(to * 1e6);
    return pintle_sim_add_fault(&pintle_priv_building.it->sim, fault) == PINTLE_OK
               ? 0
               : pintle_priv_conf_complain(
                   cfg, "there are too many faults and troubles for this simulation");
}

int pintle_priv_world_fault(cfg_t *cfg, cfg_opt_t *opt)
{
    static const struct {
        const char *words[11];
        enum pintle_sim_fault_kind kinds[10];
    } known = { { "unplugged", "brown-out", "silent", "flipped", "deafening", "frozen", "cut",
                  "meddled", "misheard", "torn", NULL },
                { PINTLE_SIM_UNPLUGGED, PINTLE_SIM_UNPLUGGED, PINTLE_SIM_SILENT, PINTLE_SIM_FLIPPED,
                  PINTLE_SIM_DEAFENING, PINTLE_SIM_FROZEN, PINTLE_SIM_CUT, PINTLE_SIM_MEDDLED,
                  PINTLE_SIM_MISHEARD, PINTLE_SIM_TORN } };
    cfg_t *section = pintle_priv_conf_section(opt);
    int k = take_kind(cfg, known.words, cfg_getstr(section, "kind"));
    int chip = pintle_priv_world_index(pintle_priv_building.chips, cfg_title(section));
    if (k < 0) {
        return -1;
    }
    if (chip < 0) {
        return pintle_priv_conf_complain(
            cfg, "fault '%s': it has the name of a chip described above", cfg_title(section));
    }
    struct pintle_sim_fault fault = { .kind = known.kinds[k], .chip = (uint16_t)chip };
    unsigned bus = pintle_priv_building.it->sim.chip[chip].bus;
    if (fault.kind == PINTLE_SIM_MEDDLED && !pintle_priv_building.it->rig->bus[bus].shared) {
        return pintle_priv_conf_complain(
            cfg,
            "fault '%s': only on a bus with shared = true in the rig file can "
            "another master meddle",
            cfg_title(section));
    }
    return plan(cfg, section, &fault);
}

int pintle_priv_world_lines(cfg_t *cfg, cfg_opt_t *opt)
{
    cfg_t *section = pintle_priv_conf_section(opt);
    int bus = pintle_rig_find_bus(pintle_priv_building.it->rig, cfg_title(section));
    double ohm = cfg_getfloat(section, "pull-up");
    double pf = cfg_getfloat(section, "capacitance");
    if (pintle_priv_world_title(cfg, pintle_priv_building.lines, "description of the lines",
                                cfg_title(section))
        != 0) {
        return -1;
    }
    if (bus < 0 || !(ohm > 0) || !(pf > 0)) {
        return pintle_priv_conf_complain(
            cfg,
            "lines '%s': a bus of the rig, with a pull-up in ohms and a "
            "capacitance in picofarads above 0",
            cfg_title(section));
    }
    pintle_priv_building.it->cable[bus].pull_up_ohm = ohm;
    pintle_priv_building.it->cable[bus].capacitance_pf = pf;
    return 0;
}

int pintle_priv_world_trouble(cfg_t *cfg, cfg_opt_t *opt)
{
    /* in the order of enum pintle_sim_trouble */
    static const char *const words[] = { "data-low", "clock-low", "no-pull-up", "swapped",
                                         "touching", "stretched", "held",       "noise",
                                         "off",      NULL };
    cfg_t *section = pintle_priv_conf_section(opt);
    int bus = pintle_rig_find_bus(pintle_priv_building.it->rig, cfg_title(section));
    int k = take_kind(cfg, words, cfg_getstr(section, "kind"));
    long amount = cfg_getint(section, "amount");
    if (k < 0) {
        return -1;
    }
    if (bus < 0 || amount < 0 || amount > INT32_MAX) {
        return pintle_priv_conf_complain(
            cfg,
            "trouble '%s': it has the name of a bus of the rig, and an amount "
            "from 0 up",
            cfg_title(section));
    }
    struct pintle_sim_fault fault = { .kind = PINTLE_SIM_OFF,
                                      .chip = (uint16_t)bus,
                                      .amount = (uint32_t)amount };
    if (strcmp(words[k], "off") != 0) {
        fault.kind = PINTLE_SIM_LINES;
        fault.trouble = (uint8_t)(1u << k);
    }
    return plan(cfg, section, &fault);
}
