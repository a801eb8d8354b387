#include "port/sim/bench.h"

#define OTHER(name) &pintle_twin_##name,
#define TWIN(name, file, bus, place, flash) OTHER(name)

static const struct pintle_sim_model *const models[] = { PINTLE_PART_LIST(TWIN)
                                                             PINTLE_SIM_OTHERS(OTHER) };

const struct pintle_sim_model *pintle_sim_model_at(size_t index)
{
    return index < sizeof models / sizeof models[0] ? models[index] : NULL;
}
