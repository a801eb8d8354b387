#include "port/sim/bench.h"

static const struct pintle_sim_model *const models[] = {
    &sim_as5600,   &sim_bme280,   &sim_ds18b20, &sim_ds3231,  &sim_icm20948, &sim_lis331dlh,
    &sim_lis331hh, &sim_max31855, &sim_mcp3008, &sim_mcp9808, &sim_sht31,    &sim_tmp102,
};

const struct pintle_sim_model *pintle_sim_model_at(size_t index)
{
    return index < sizeof models / sizeof models[0] ? models[index] : NULL;
}
