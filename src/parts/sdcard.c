/* SD memory card, Physical Layer Simplified Specification 6.00 (commands: table 7-3; registers:
 * section 5; how cards are told apart: figure 7-2). */
#include "pintle/parts/sdcard.h"

#include "pintle/ability.h"
#include "pintle/card.h"
#include "pintle/store.h"

static const struct pintle_spi_rules spi PINTLE_TABLE = { .top_hz = 25000000 };

/* Clocks with nobody selected, then CMD0 with the select line low: from now on it speaks SPI. One
 * that knows CMD8 must send its pattern back. */
static const struct pintle_step identity[] PINTLE_TABLE = {
    PINTLE_COMMAND(PINTLE_CARD_WAKE),
    PINTLE_EXPECT(PINTLE_CARD_GO_IDLE, 1, 0xff, PINTLE_CARD_IDLE),
    PINTLE_EXPECT(PINTLE_CARD_SEND_IF_COND, 1, 0xff, PINTLE_CARD_IDLE),
    PINTLE_END(),
};

/* Section 4.2.3: it may take a second to get ready. */
static const struct pintle_step setup[] PINTLE_TABLE = {
    PINTLE_EXPECT(PINTLE_CARD_CRC_ON, 1, 0xff, PINTLE_CARD_IDLE),
    PINTLE_POLL(PINTLE_CARD_OP_COND, 0xff, 0, 1500),
    PINTLE_TRIM(PINTLE_CARD_SEND_CSD, 16),
    PINTLE_TRIM(PINTLE_CARD_SEND_CID, 16),
    PINTLE_EXPECT(PINTLE_CARD_BLOCK_LENGTH, 1, 0xff, 0),
    PINTLE_END(),
};

static const struct pintle_step measure[] PINTLE_TABLE = { PINTLE_END() };

static const struct pintle_store store PINTLE_TABLE = { .calls = &pintle_card_store,
                                                        .unit = PINTLE_SDCARD_BLOCK,
                                                        .page = PINTLE_SDCARD_BLOCK };
static const struct pintle_abilities can PINTLE_TABLE = { .store = &store };

const struct pintle_part pintle_sdcard PINTLE_TABLE = {
    .name = "SDCARD",
    .flags = PINTLE_PART_ONES_SILENT,
    .trim_size = PINTLE_SDCARD_TRIM,
    .link = &pintle_link_card,
    .spi = &spi,
    .identity = identity,
    .setup = setup,
    .measure = measure,
    .rare = pintle_part_steps_rare,
    .can = &can,
};

/* Section 5.2: CID. */
void pintle_sdcard_describe(const struct pintle_sensor *sensor, struct pintle_sdcard_about *about)
{
    const uint8_t *cid = pintle_sensor_block(sensor).trim + 16;
    about->bytes = pintle_card_bytes(pintle_sensor_block(sensor).trim);
    about->maker = cid[0];
    memcpy(about->product, cid + 3, 5);
    about->product[5] = '\0';
    about->serial =
        (uint32_t)cid[9] << 24 | (uint32_t)cid[10] << 16 | (uint32_t)cid[11] << 8 | cid[12];
    about->year = (uint16_t)(2000 + (cid[13] & 15) * 16 + (cid[14] >> 4));
    about->month = cid[14] & 15;
}
