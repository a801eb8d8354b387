/* parts/pcd8544.h: PCD8544, the controller of a display of 84 x 48 dots on SPI, with a line that
 * tells commands from data; its reset input hangs on the board's reset (datasheet PCD8544,
 * 1999-04-12). How to show something: screen.h.
 */
#ifndef PINTLE_PARTS_PCD8544_H
#define PINTLE_PARTS_PCD8544_H

#include "pintle/parts.h"

PINTLE_C_BEGIN

#define PINTLE_PCD8544_PICTURE 504 /* bytes */

enum { PINTLE_PCD8544_CONTRAST, PINTLE_PCD8544_BIAS, PINTLE_PCD8544_COLOURS };
/* Section 8.8: the liquid's voltage is 3.06 V + 0.06 V each. Section 8.7: 4 for a multiplex rate of
 * 1:40 or 1:34, 3 for 1:48, 2 for 1:65. */
#define PINTLE_PCD8544_CONTRAST_OPTIONS(X)                                                         \
    X(PCD8544_VOP_48, "48", 48, 0, 1)                                                              \
    X(PCD8544_VOP_52, "52", 52, 0, 1)                                                              \
    X(PCD8544_VOP_56, "56", 56, 0, 1)                                                              \
    X(PCD8544_VOP_60, "60", 60, 0, 1)                                                              \
    X(PCD8544_VOP_64, "64", 64, 0, 1)                                                              \
    X(PCD8544_VOP_68, "68", 68, 0, 1)                                                              \
    X(PCD8544_VOP_72, "72", 72, 0, 1)
enum pintle_pcd8544_contrast { PINTLE_PCD8544_CONTRAST_OPTIONS(PINTLE_OPTION_NUMBER) };

#define PINTLE_PCD8544_BIAS_OPTIONS(X)                                                             \
    X(PCD8544_1_TO_48, "1:48", 3, 0, 1)                                                            \
    X(PCD8544_1_TO_40, "1:40", 4, 0, 1)                                                            \
    X(PCD8544_1_TO_65, "1:65", 2, 0, 1)
enum pintle_pcd8544_bias { PINTLE_PCD8544_BIAS_OPTIONS(PINTLE_OPTION_NUMBER) };

#define PINTLE_PCD8544_COLOURS_OPTIONS(X)                                                          \
    X(PCD8544_DARK_ON_LIGHT, "dark-on-light", 4, 0, 1)                                             \
    X(PCD8544_LIGHT_ON_DARK, "light-on-dark", 5, 0, 1)
enum pintle_pcd8544_colours { PINTLE_PCD8544_COLOURS_OPTIONS(PINTLE_OPTION_NUMBER) };

/* Its channels, numbers, settings, bytes of trim and of the raw block. */
PINTLE_SPI_SENSOR(pcd8544, 0, 0, 3, 0, 0)

PINTLE_SETTER(pcd8544, contrast, PINTLE_PCD8544_CONTRAST, pcd8544_contrast)
PINTLE_SETTER(pcd8544, bias, PINTLE_PCD8544_BIAS, pcd8544_bias)
PINTLE_SETTER(pcd8544, colours, PINTLE_PCD8544_COLOURS, pcd8544_colours)

PINTLE_C_END

#endif
