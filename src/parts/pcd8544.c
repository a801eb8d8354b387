/* PCD8544, datasheet of 1999-04-12 (instructions: table 1). */
#include "pintle/parts/pcd8544.h"

#include "pintle/ability.h"
#include "pintle/screen.h"

#define FUNCTION_SET 0x20 /* awake, the address counts along a band */
#define EXTENDED 0x21     /* the instructions of the other half of the table */
#define DISPLAY 0x08
#define SET_Y 0x40
#define SET_X 0x80
#define BIAS 0x10
#define VOP 0x80
#define TEMPERATURE 0x06 /* coefficient 2, for liquids of no particular kind */

static const struct pintle_spi_rules spi PINTLE_TABLE = { .top_hz = 4000000, .commands = 1 };

PINTLE_OPTIONS(contrasts, PINTLE_PCD8544_CONTRAST_OPTIONS);
PINTLE_OPTIONS(biases, PINTLE_PCD8544_BIAS_OPTIONS);
PINTLE_OPTIONS(colours, PINTLE_PCD8544_COLOURS_OPTIONS);
static const struct pintle_setting settings[] PINTLE_TABLE = {
    [PINTLE_PCD8544_CONTRAST] = { VOP, 0, 7, PINTLE_PCD8544_VOP_60, contrasts, NULL },
    [PINTLE_PCD8544_BIAS] = { BIAS, 0, 3, PINTLE_PCD8544_1_TO_48, biases, NULL },
    [PINTLE_PCD8544_COLOURS] = { DISPLAY, 0, 2, PINTLE_PCD8544_DARK_ON_LIGHT, colours, NULL },
};

/* It has no output: nothing can be known of it. */
static const struct pintle_step identity[] PINTLE_TABLE = { PINTLE_END() };

static const struct pintle_step setup[] PINTLE_TABLE = {
    PINTLE_COMMAND(EXTENDED),
    PINTLE_COMMAND(VOP),
    PINTLE_COMMAND(TEMPERATURE),
    PINTLE_COMMAND(BIAS),
    PINTLE_COMMAND(FUNCTION_SET),
    PINTLE_COMMAND(DISPLAY),
    PINTLE_END(),
};

static const struct pintle_step measure[] PINTLE_TABLE = { PINTLE_END() };

static const struct pintle_screen screen PINTLE_TABLE = {
    .width = 84, .height = 48, .row = SET_Y, .column = SET_X
};
static const struct pintle_abilities can PINTLE_TABLE = { .screen = &screen };

const struct pintle_part pintle_pcd8544 PINTLE_TABLE = {
    .name = "PCD8544",
    .setting_count = 3,
    .link = &pintle_link_spi,
    .spi = &spi,
    .identity = identity,
    .setup = setup,
    .measure = measure,
    .settings = settings,
    .can = &can,
};
