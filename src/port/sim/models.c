#include "port/sim/bench.h"

static const struct pintle_sim_model *const models[] = {
    &pintle_priv_sim_as5600,   &pintle_priv_sim_bme280,   &pintle_priv_sim_ds18b20,
    &pintle_priv_sim_ds3231,   &pintle_priv_sim_icm20948, &pintle_priv_sim_lis331dlh,
    &pintle_priv_sim_lis331hh, &pintle_priv_sim_max31855, &pintle_priv_sim_mcp3008,
    &pintle_priv_sim_mcp9808,  &pintle_priv_sim_sht31,    &pintle_priv_sim_tmp102,
};

const struct pintle_sim_model *pintle_sim_model_at(size_t index)
{
    return index < sizeof models / sizeof models[0] ? models[index] : NULL;
}
