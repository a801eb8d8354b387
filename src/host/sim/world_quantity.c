/* A quantity of a world script: how it moves. */
#include "host/sim/world.h"

#include <glib.h>
#include <string.h>

/* "6h 12.5": a time and a value, the last word being the value. */
static bool take_point(cfg_t *cfg, const char *text, struct pintle_point *point)
{
    const char *blank = strrchr(text, ' ');
    if (!blank) {
        pintle_priv_conf_complain(
            cfg, "'%s' is no point; write a time and a value, as in \"6h 12.5\"", text);
        return false;
    }
    char *when = g_strndup(text, (gsize)(blank - text));
    bool ok = pintle_priv_conf_number(cfg, blank + 1, &point->value)
              && pintle_priv_world_seconds(cfg, when, &point->t);
    g_free(when);
    return ok;
}

static int take_points(cfg_t *cfg, cfg_t *section, struct pintle_sim_curve *curve)
{
    unsigned count = cfg_size(section, "points");
    if (count == 0) {
        return 0;
    }
    struct pintle_point *points = g_new0(struct pintle_point, count);
    curve->points = points;
    curve->count = count;
    for (unsigned i = 0; i < count; i++) {
        if (!take_point(cfg, cfg_getnstr(section, "points", i), &points[i])) {
            return -1;
        }
        if (i > 0 && points[i].t <= points[i - 1].t) {
            return pintle_priv_conf_complain(
                cfg, "quantity '%s': its points are not in order of time", cfg_title(section));
        }
    }
    return 0;
}

int pintle_priv_world_quantity(cfg_t *cfg, cfg_opt_t *opt)
{
    struct simulated *it = pintle_priv_building.it;
    cfg_t *section = pintle_priv_conf_section(opt);
    if (pintle_priv_world_title(cfg, pintle_priv_building.quantities, "quantity",
                                cfg_title(section))
        != 0) {
        return -1;
    }
    it->curves = g_renew(struct pintle_sim_curve, it->curves, it->curve_count + 1);
    struct pintle_sim_curve *curve = &it->curves[it->curve_count++];
    *curve = (struct pintle_sim_curve){ .level = cfg_getfloat(section, "level"),
                                        .swing = cfg_getfloat(section, "swing") };
    if (!pintle_priv_world_seconds(cfg, cfg_getstr(section, "period"), &curve->period_s)
        || !pintle_priv_world_seconds(cfg, cfg_getstr(section, "phase"), &curve->phase_s)) {
        return -1;
    }
    return take_points(cfg, section, curve);
}

int pintle_priv_world_board(cfg_t *cfg, cfg_opt_t *opt)
{
    struct simulated *it = pintle_priv_building.it;
    cfg_t *section = pintle_priv_conf_section(opt);
    const char *name = cfg_getstr(section, "temperature");
    it->board_curve = pintle_priv_world_index(pintle_priv_building.quantities, name ? name : "");
    it->board_warmer = cfg_getfloat(section, "warmer");
    return it->board_curve >= 0
               ? 0
               : pintle_priv_conf_complain(
                   cfg, "the board feels the quantity '%s', which no section before it describes",
                   name ? name : "");
}
