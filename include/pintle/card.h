/* card.h: how SD cards are talked to over SPI, for the part that is one (parts/sdcard.h). Users
 * need store.h.
 *
 * May still change.
 */
#ifndef PINTLE_CARD_H
#define PINTLE_CARD_H

#include "pintle/part.h"

PINTLE_C_BEGIN

struct pintle_store_calls;

/* Commands as registers (Physical Layer Simplified Specification 6.00, table 7-3): reading one
 * sends it, with the argument that it always has, and brings the first byte of its answer, R1; of
 * those marked DATA, a block. */
#define PINTLE_CARD_APP 0x100 /* CMD55 goes in front */
#define PINTLE_CARD_DATA 0x200
#define PINTLE_CARD_GO_IDLE 0
#define PINTLE_CARD_SEND_IF_COND 8
#define PINTLE_CARD_SEND_CSD (PINTLE_CARD_DATA | 9)
#define PINTLE_CARD_SEND_CID (PINTLE_CARD_DATA | 10)
#define PINTLE_CARD_BLOCK_LENGTH 16
#define PINTLE_CARD_OP_COND (PINTLE_CARD_APP | 41)
#define PINTLE_CARD_CRC_ON 59
#define PINTLE_CARD_WAKE 0x400 /* no command: 80 clocks with nobody selected */

#define PINTLE_CARD_IDLE 0x01 /* R1: it is not ready for anything else yet */

extern const struct pintle_link pintle_link_card;
extern const struct pintle_store_calls pintle_card_store;

/* Its capacity, by its CSD register; 0 for one of a version that isn't known. */
uint64_t pintle_card_bytes(const uint8_t *csd);

PINTLE_C_END

#endif
