/* parts/sdcard.h: an SD memory card over SPI, of either way of counting: SDSC by bytes, SDHC and
 * SDXC by blocks (Physical Layer Simplified Specification 6.00, section 7). It is a store (store.h)
 * of blocks of 512 bytes.
 */
#ifndef PINTLE_PARTS_SDCARD_H
#define PINTLE_PARTS_SDCARD_H

#include "pintle/parts.h"

PINTLE_C_BEGIN

#define PINTLE_SDCARD_TRIM 32 /* its CSD and CID registers */
#define PINTLE_SDCARD_BLOCK 512

/* What the card says of itself. */
struct pintle_sdcard_about {
    uint64_t bytes;
    uint8_t maker;
    char product[6];
    uint32_t serial;
    uint16_t year; /* of making */
    uint8_t month;
};

/* Of a card that has been proven (pintle_store_size does that): its registers, taken apart. */
void pintle_sdcard_describe(const struct pintle_sensor *sensor, struct pintle_sdcard_about *about);

/* Its channels, numbers, settings, bytes of trim and of the raw block. */
PINTLE_SPI_SENSOR(sdcard, 0, 0, 0, PINTLE_SDCARD_TRIM, 0)

PINTLE_C_END

#endif
