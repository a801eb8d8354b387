#include "port/sim/bench.h"

static const struct pintle_sim_model *const models[] = { &sim_bme280, &sim_ds3231, &sim_mcp9808,
                                                         &sim_sht31, &sim_tmp102 };

const struct pintle_sim_model *pintle_sim_model_at(size_t index)
{
    return index < sizeof models / sizeof models[0] ? models[index] : NULL;
}
