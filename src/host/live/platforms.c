/* The platforms of this build. */
#include <glib.h>
#include <string.h>

#include "pintle/host/live/platform.h"

static const struct pintle_platform *const platforms[] = {
#if PINTLE_WITH_SIM
    &pintle_platform_sim,
#endif
#if PINTLE_WITH_LINUX
    &pintle_platform_linux,
#endif
    NULL
};

const struct pintle_platform *pintle_platform_at(size_t index)
{
    return index < G_N_ELEMENTS(platforms) ? platforms[index] : NULL;
}

const struct pintle_platform *pintle_platform_find(const char *name, struct pintle_problem *problem)
{
    GString *all = g_string_new(NULL);
    for (size_t i = 0; platforms[i]; i++) {
        if (strcmp(platforms[i]->name, name) == 0) {
            g_string_free(all, TRUE);
            return platforms[i];
        }
        g_string_append_printf(all, "%s'%s' (%s)", i ? ", " : "", platforms[i]->name,
                               platforms[i]->what);
    }
    pintle_problem_set(problem, PINTLE_FAILURE_USE,
                       "there is no port '%s' in this build; it has %s", name, all->str);
    g_string_free(all, TRUE);
    return NULL;
}

char *pintle_platform_offers(struct pintle_problem *problem)
{
    for (size_t i = 0; platforms[i]; i++) {
        if (platforms[i]->offers) {
            return platforms[i]->offers(problem);
        }
    }
    pintle_problem_set(problem, PINTLE_FAILURE_USE,
                       "this build knows no buses but those of a rig; name its file with --rig "
                       "FILE, or take the built-in one with --demo");
    return NULL;
}
