/* parts/pcd8544.h: PCD8544, the controller of a display of 84 x 48 dots on SPI, with a line that
 * tells commands from data; its reset input hangs on the board's reset (datasheet PCD8544,
 * 1999-04-12). How to show something: screen.h.
 */
#ifndef PINTLE_PARTS_PCD8544_H
#define PINTLE_PARTS_PCD8544_H

#include "pintle/parts.h"

#define PINTLE_PCD8544_PICTURE 504 /* bytes */

enum { PINTLE_PCD8544_CONTRAST, PINTLE_PCD8544_BIAS, PINTLE_PCD8544_COLOURS };
enum {
    PINTLE_PCD8544_VOP_48,
    PINTLE_PCD8544_VOP_52,
    PINTLE_PCD8544_VOP_56,
    PINTLE_PCD8544_VOP_60,
    PINTLE_PCD8544_VOP_64,
    PINTLE_PCD8544_VOP_68,
    PINTLE_PCD8544_VOP_72
};
enum { PINTLE_PCD8544_1_TO_48, PINTLE_PCD8544_1_TO_40, PINTLE_PCD8544_1_TO_65 };
enum { PINTLE_PCD8544_DARK_ON_LIGHT, PINTLE_PCD8544_LIGHT_ON_DARK };

#endif
