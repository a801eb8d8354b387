/* Every word that a world script may have, and what it is where it isn't given. */
#include "host/sim/world.h"

static cfg_opt_t quantity[] = {
    CFG_STR_LIST("points", "{}", CFGF_NONE), CFG_FLOAT("level", 0, CFGF_NONE),
    CFG_FLOAT("swing", 0, CFGF_NONE),        CFG_STR("period", "0s", CFGF_NONE),
    CFG_STR("phase", "0s", CFGF_NONE),       CFG_END()
};

/* The machine that the tool runs on, as far as it says something of itself. */
static cfg_opt_t board[] = { CFG_STR("temperature", NULL, CFGF_NODEFAULT),
                             CFG_FLOAT("warmer", 15, CFGF_NONE), CFG_END() };

static cfg_opt_t chip[] = {
    CFG_STR("part", NULL, CFGF_NODEFAULT),  CFG_STR("bus", NULL, CFGF_NODEFAULT),
    CFG_INT("address", 0, CFGF_NONE),       CFG_STR("select", NULL, CFGF_NODEFAULT),
    CFG_STR("code", NULL, CFGF_NODEFAULT),  CFG_STR("power", "external", CFGF_NONE),
    CFG_STR_LIST("feels", "{}", CFGF_NONE), CFG_STR_LIST("errors", "{}", CFGF_NONE),
    CFG_BOOL("set", cfg_false, CFGF_NONE),  CFG_END()
};

static cfg_opt_t fault[] = { CFG_STR("kind", NULL, CFGF_NODEFAULT),
                             CFG_STR("from", "0s", CFGF_NONE), CFG_STR("to", "36500d", CFGF_NONE),
                             CFG_END() };

static cfg_opt_t lines[] = { CFG_FLOAT("pull-up", 4700, CFGF_NONE),
                             CFG_FLOAT("capacitance", 100, CFGF_NONE), CFG_END() };

static cfg_opt_t trouble[] = { CFG_STR("kind", NULL, CFGF_NODEFAULT),
                               CFG_STR("from", "0s", CFGF_NONE), CFG_STR("to", "36500d", CFGF_NONE),
                               CFG_INT("amount", 9, CFGF_NONE), CFG_END() };

static cfg_opt_t schema[] = { CFG_STR("began", "2026-06-12T00:00:00Z", CFGF_NONE),
                              CFG_INT("seed", 1, CFGF_NONE),
                              CFG_BOOL("clock-set", cfg_true, CFGF_NONE),
                              CFG_STR_LIST("clock-steps", "{}", CFGF_NONE),
                              CFG_SEC("quantity", quantity, CFGF_MULTI | CFGF_TITLE),
                              CFG_SEC("board", board, CFGF_NODEFAULT),
                              CFG_SEC("chip", chip, CFGF_MULTI | CFGF_TITLE),
                              CFG_SEC("fault", fault, CFGF_MULTI | CFGF_TITLE),
                              CFG_SEC("lines", lines, CFGF_MULTI | CFGF_TITLE),
                              CFG_SEC("trouble", trouble, CFGF_MULTI | CFGF_TITLE),
                              CFG_END() };

cfg_opt_t *pintle_priv_world_schema(void)
{
    return schema;
}
