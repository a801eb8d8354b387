/* A world script brought to life: what its words build on, and the order of things. */
#include "host/sim/world.h"

#include <glib.h>
#include <string.h>

#include "host/base/files.h"

struct building pintle_priv_building;

int pintle_priv_world_index(const GPtrArray *names, const char *name)
{
    guint i = 0;
    while (i < names->len && strcmp(names->pdata[i], name) != 0) {
        i++;
    }
    return i < names->len ? (int)i : -1;
}

/* Remember a title that may come only once. */
int pintle_priv_world_title(cfg_t *cfg, GPtrArray *names, const char *what, const char *title)
{
    if (pintle_priv_world_index(names, title) >= 0) {
        return pintle_priv_conf_complain(cfg, "there is a %s '%s' already; give each its own name",
                                         what, title);
    }
    g_ptr_array_add(names, g_strdup(title));
    return 0;
}

bool pintle_priv_world_seconds(cfg_t *cfg, const char *text, double *s)
{
    int64_t us = 0;
    if (!pintle_duration_parse(text, &us)) {
        pintle_priv_conf_complain(cfg, "'%s' is no duration; write for example \"1d 6h\"", text);
        return false;
    }
    *s = (double)us / 1e6;
    return true;
}

static void prepare(cfg_t *cfg)
{
    cfg_set_validate_func(cfg, "began", pintle_priv_world_began);
    cfg_set_validate_func(cfg, "seed", pintle_priv_world_seed);
    cfg_set_validate_func(cfg, "clock-set", pintle_priv_world_clock_set);
    cfg_set_validate_func(cfg, "clock-steps", pintle_priv_world_steps);
    cfg_set_validate_func(cfg, "quantity", pintle_priv_world_quantity);
    cfg_set_validate_func(cfg, "board", pintle_priv_world_board);
    cfg_set_validate_func(cfg, "chip", pintle_priv_world_chip);
    cfg_set_validate_func(cfg, "fault", pintle_priv_world_fault);
    cfg_set_validate_func(cfg, "lines", pintle_priv_world_lines);
    cfg_set_validate_func(cfg, "trouble", pintle_priv_world_trouble);
}

bool pintle_priv_world_text(const struct pintle_rig *rig, char **text,
                            struct pintle_problem *problem)
{
    if (!rig->world_path) {
        return pintle_problem_set(
            problem, PINTLE_FAILURE_USE,
            "%s: the board's port is 'sim' but it names no world; add world = "
            "\"FILE\" to the board section",
            rig->path);
    }
    *text = rig->world_text ? g_strdup(rig->world_text)
                            : pintle_priv_files_read(rig->world_path, "world file", problem);
    return *text != NULL;
}

bool pintle_priv_world_build(struct simulated *it, struct pintle_problem *problem)
{
    struct building *b = &pintle_priv_building;
    b->it = it;
    b->quantities = g_ptr_array_new_with_free_func(g_free);
    b->chips = g_ptr_array_new_with_free_func(g_free);
    b->lines = g_ptr_array_new_with_free_func(g_free);
    b->clocks = g_ptr_array_new();
    cfg_t *cfg = pintle_priv_conf_parse(pintle_priv_world_schema(), prepare, it->rig->world_path,
                                        it->text, problem);
    bool ok = cfg != NULL;
    for (guint i = 0; ok && i < b->clocks->len; i++) {
        ok = pintle_priv_world_set(b->clocks->pdata[i], problem);
    }
    if (cfg) {
        cfg_free(cfg);
    }
    g_ptr_array_free(b->quantities, TRUE);
    g_ptr_array_free(b->chips, TRUE);
    g_ptr_array_free(b->lines, TRUE);
    g_ptr_array_free(b->clocks, TRUE);
    return ok;
}
