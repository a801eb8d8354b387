/* When a world begins, and what happens to its clock on the wall. */
#include "host/sim/world.h"

#include <glib.h>
#include <string.h>

int pintle_priv_world_began(cfg_t *cfg, cfg_opt_t *opt)
{
    const char *text = cfg_opt_getnstr(opt, 0);
    GDateTime *time = g_date_time_new_from_iso8601(text, NULL);
    if (!time) {
        return pintle_priv_conf_complain(
            cfg, "'%s' is no time; write it as in \"2026-06-12T00:00:00Z\"", text);
    }
    pintle_priv_building.it->sim.began_us = g_date_time_to_unix(time) * 1000000;
    g_date_time_unref(time);
    return 0;
}

int pintle_priv_world_seed(cfg_t *cfg, cfg_opt_t *opt)
{
    (void)cfg;
    pintle_priv_building.it->sim.seed = (uint64_t)cfg_opt_getnint(opt, 0);
    return 0;
}

int pintle_priv_world_clock_set(cfg_t *cfg, cfg_opt_t *opt)
{
    (void)cfg;
    pintle_priv_building.it->sim.unset = !cfg_opt_getnbool(opt, 0);
    return 0;
}

#define STEP_MOST_US (36525 * INT64_C(86400000000)) /* no date has five figures for a year */

/* "10min +1h": when somebody sets it, and by how much. */
static bool parse_step(const char *text, struct pintle_sim_step *step)
{
    const char *sign = strpbrk(text, "+-");
    char *when = g_strndup(text, sign ? (gsize)(sign - text) : 0);
    int64_t at = 0;
    int64_t by = 0;
    bool ok = sign && pintle_duration_parse(g_strchomp(when), &at)
              && pintle_duration_parse(sign + 1, &by) && by <= STEP_MOST_US;
    *step = (struct pintle_sim_step){ (uint64_t)at, sign && *sign == '-' ? -by : by };
    g_free(when);
    return ok;
}

/* Called again and again while the list grows. */
int pintle_priv_world_steps(cfg_t *cfg, cfg_opt_t *opt)
{
    struct simulated *it = pintle_priv_building.it;
    struct pintle_sim *sim = &it->sim;
    unsigned count = cfg_opt_size(opt);
    it->steps = g_renew(struct pintle_sim_step, it->steps, count);
    sim->step = it->steps;
    for (; sim->steps < count; sim->steps++) {
        struct pintle_sim_step *step = &it->steps[sim->steps];
        const char *text = cfg_opt_getnstr(opt, sim->steps);
        if (!parse_step(text, step) || (sim->steps > 0 && step->at_us <= step[-1].at_us)) {
            return pintle_priv_conf_complain(
                cfg,
                "'%s' is no step of the clock; write when and by how much, as in "
                "\"10min +1h\" or \"2h -30s\", in order of time, each by 100 years at most",
                text);
        }
    }
    return 0;
}
