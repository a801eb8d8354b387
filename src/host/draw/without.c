/* A build that cannot draw. */
#include "pintle/host/draw/draw.h"

static bool refuse(const char *path, struct pintle_problem *problem)
{
    return pintle_problem_set(problem, PINTLE_FAILURE_UNABLE,
                              "cannot draw '%s': this build has no plotting; build with "
                              "-DPINTLE_PLOT=ON, or take the run's folder to a machine that has it",
                              path);
}

bool pintle_draw_can(void)
{
    return false;
}

bool pintle_draw_plot(const struct pintle_plot *plot, const char *path,
                      struct pintle_problem *problem)
{
    (void)plot;
    return refuse(path, problem);
}

int pintle_draw_panels(const struct pintle_plot *plot)
{
    (void)plot;
    return 0;
}

bool pintle_draw_scatter(const struct pintle_scatter *scatter, const char *path,
                         struct pintle_problem *problem)
{
    (void)scatter;
    return refuse(path, problem);
}

bool pintle_draw_dots(const struct pintle_picture *picture, const char *path,
                      struct pintle_problem *problem)
{
    (void)picture;
    return refuse(path, problem);
}

bool pintle_draw_card(const struct pintle_rig *rig, const char *path,
                      struct pintle_problem *problem)
{
    (void)rig;
    return refuse(path, problem);
}

bool pintle_draw_timing(const struct pintle_trace *trace, const struct pintle_rig *rig,
                        unsigned number, const char *path, struct pintle_problem *problem)
{
    (void)trace;
    (void)rig;
    (void)number;
    return refuse(path, problem);
}
