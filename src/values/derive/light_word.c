#include "pintle/derive.h"

struct light {
    float below; /* lux */
    char word[14];
};

/* Orders of magnitude that people know. */
static const struct light lights[] PINTLE_TABLE = {
    { 0.01f, "dark" }, { 1, "moonlight" },   { 30, "street light" }, { 200, "living room" },
    { 800, "office" }, { 5000, "overcast" }, { 30000, "daylight" },
};
static const char sun[] PINTLE_TABLE = "sun";

const char *pintle_derive_light_word(float lux)
{
    for (uint8_t i = 0; i < (uint8_t)(sizeof lights / sizeof lights[0]); i++) {
        float below;
        pintle_table_copy(&below, &lights[i].below, sizeof below);
        if (lux < below) {
            return lights[i].word;
        }
    }
    return sun;
}
