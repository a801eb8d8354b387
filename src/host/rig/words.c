/* Words of a rig file that are checked one by one, at their own line. */
#include <float.h>
#include <glib.h>
#include <math.h>
#include <string.h>

#include "host/rig/loading.h"
#include "pintle/judge.h"

static const char *last_string(cfg_opt_t *opt)
{
    return cfg_opt_getnstr(opt, cfg_opt_size(opt) - 1);
}

static int check_part(cfg_t *cfg, cfg_opt_t *opt)
{
    struct pintle_problem inner = { 0 };
    pintle_priv_loading.part_line = cfg->line;
    return pintle_rig_part(pintle_priv_loading.rig, last_string(opt), &inner)
               ? 0
               : pintle_priv_conf_complain(cfg, "%s", inner.text);
}

static int check_address(cfg_t *cfg, cfg_opt_t *opt)
{
    (void)opt;
    pintle_priv_loading.address_line = cfg->line;
    return 0;
}

static int check_depth(cfg_t *cfg, cfg_opt_t *opt)
{
    const char *depth = last_string(opt);
    if (strcmp(depth, "transfers") == 0 || strcmp(depth, "wires") == 0) {
        return 0;
    }
    return pintle_priv_conf_complain(
        cfg, "there is no depth '%s'; the simulation has 'transfers' and 'wires'", depth);
}

static int check_duration(cfg_t *cfg, cfg_opt_t *opt)
{
    int64_t us = 0;
    if (pintle_duration_parse(last_string(opt), &us) && us >= 1000) {
        return 0;
    }
    return pintle_priv_conf_complain(
        cfg,
        "'%s' is no interval; write for example \"20 s\", \"1 min\" or "
        "\"1h30m\", at least 1 ms",
        last_string(opt));
}

/* Figures of the wiring are never below zero. */
static int check_positive(cfg_t *cfg, cfg_opt_t *opt)
{
    double value = cfg_opt_getnfloat(opt, 0);
    return value >= 0 && value < 1e9
               ? 0
               : pintle_priv_conf_complain(cfg, "'%s' cannot be %g; it is a number from 0 up",
                                           cfg_opt_name(opt), value);
}

/* A correction turns every value into the same one with a gain of 0. */
static int check_gain(cfg_t *cfg, cfg_opt_t *opt)
{
    double value = cfg_opt_getnfloat(opt, 0);
    return value != 0 && fabs(value) <= (double)FLT_MAX
               ? 0
               : pintle_priv_conf_complain(
                   cfg,
                   "'gain' cannot be %g; it is the factor of a correction, 1 or "
                   "near it",
                   value);
}

static int check_median(cfg_t *cfg, cfg_opt_t *opt)
{
    long value = cfg_opt_getnint(opt, 0);
    return value == 0 || (value >= 3 && value <= PINTLE_MEDIAN_MAX && value % 2 == 1)
               ? 0
               : pintle_priv_conf_complain(
                   cfg, "'median' cannot be %ld; it is of 3, 5, 7 or %d readings", value,
                   PINTLE_MEDIAN_MAX);
}

static int check_hold(cfg_t *cfg, cfg_opt_t *opt)
{
    long value = cfg_opt_getnint(opt, 0);
    return value >= 0 && value <= UINT8_MAX
               ? 0
               : pintle_priv_conf_complain(
                   cfg,
                   "'hold' cannot be %ld; it is a number of readings, up to "
                   "%d",
                   value, UINT8_MAX);
}

static int check_frozen(cfg_t *cfg, cfg_opt_t *opt)
{
    long value = cfg_opt_getnint(opt, 0);
    return value >= 0 && value <= UINT16_MAX
               ? 0
               : pintle_priv_conf_complain(
                   cfg,
                   "'frozen' cannot be %ld; it is a number of equal readings, up "
                   "to %d",
                   value, UINT16_MAX);
}

void pintle_priv_rig_words(cfg_t *cfg)
{
    cfg_set_validate_func(cfg, "board|depth", check_depth);
    cfg_set_validate_func(cfg, "bus|kind", pintle_priv_check_kind);
    static const char *const figures[] = { "board|logic",    "bus|pull-up",        "bus|pull-up-to",
                                           "bus|cable",      "bus|cable-pf",       "sensor|supply",
                                           "sensor|pull-up", "sensor|channel|jump" };
    for (size_t i = 0; i < G_N_ELEMENTS(figures); i++) {
        cfg_set_validate_func(cfg, figures[i], check_positive);
    }
    cfg_set_validate_func(cfg, "sensor|channel|gain", check_gain);
    cfg_set_validate_func(cfg, "sensor|channel|frozen", check_frozen);
    static const char *const both[] = { "sensor", "derive" };
    for (size_t i = 0; i < G_N_ELEMENTS(both); i++) {
        const struct {
            const char *word;
            cfg_validate_callback_t check;
        } words[] = { { "rate", check_positive },
                      { "median", check_median },
                      { "hold", check_hold } };
        for (size_t w = 0; w < G_N_ELEMENTS(words); w++) {
            char *path = g_strdup_printf("%s|channel|%s", both[i], words[w].word);
            cfg_set_validate_func(cfg, path, words[w].check);
            g_free(path);
        }
    }
    cfg_set_validate_func(cfg, "sensor|channel|within", check_positive);
    cfg_set_validate_func(cfg, "bus", pintle_priv_loading_bus);
    cfg_set_validate_func(cfg, "part", pintle_priv_described_take);
    cfg_set_validate_func(cfg, "sensor|part", check_part);
    cfg_set_validate_func(cfg, "sensor|address", check_address);
    cfg_set_validate_func(cfg, "sensor", pintle_priv_loading_sensor);
    cfg_set_validate_func(cfg, "derive|channel|gain", check_gain);
    cfg_set_validate_func(cfg, "derive|channel|frozen", check_frozen);
    cfg_set_validate_func(cfg, "derive|channel|jump", check_positive);
    cfg_set_validate_func(cfg, "derive", pintle_priv_loading_derive);
    cfg_set_validate_func(cfg, "log|every", check_duration);
}
