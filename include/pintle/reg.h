/* reg.h: a sensor's registers.
 *
 * For looking and changing by hand; measuring needs none of it. Writing a register that a setting
 * lives in lasts until the sensor is set up again.
 *
 * Stable.
 */
#ifndef PINTLE_REG_H
#define PINTLE_REG_H

#include "pintle/sensor.h"

PINTLE_C_BEGIN

#define PINTLE_REG_READ_ONLY 1
#define PINTLE_REG_WRITE_ONLY 2
#define PINTLE_REG_READ_CLEARS 4 /* reading it clears flags in the chip */

/* A register: its address (or read command) and its width of 1 to 4 bytes; 0: a command. Byte order
 * and CRC are the part's. */
struct pintle_reg {
    uint16_t address;
    uint8_t width;
    uint8_t flags;
    uint32_t ones;  /* flags that writing 0 clears; while another field is changed they get 1 */
    uint32_t zeros; /* bits that writing 1 clears or sets off; meanwhile they get 0 */
    uint32_t fixed; /* bits that a write does not change */
};

/* One with nothing but plain bits. */
#define PINTLE_REG(address, width, flags)                                                          \
    {                                                                                              \
        (address), (width), (flags), 0, 0, 0                                                       \
    }

/* Read a register. WRITE_ONLY, BAD_ARGUMENT (width), BAD_CRC or a bus status. */
PINTLE_MUST_CHECK enum pintle_status pintle_reg_read(struct pintle_sensor *sensor,
                                                     const struct pintle_reg *reg, uint32_t *value);

/* Write a register. READ_ONLY, OUT_OF_RANGE (the value needs more bytes), NO_ABILITY (a part
 * whose words carry a CRC) or a bus status. */
PINTLE_MUST_CHECK enum pintle_status pintle_reg_write(struct pintle_sensor *sensor,
                                                      const struct pintle_reg *reg, uint32_t value);

/* Change `bits` bits at `shift` and leave the others as they are: read, modify, write, with the bus
 * claimed throughout; flags that rise in between stay up (see struct pintle_reg). READ_ONLY: bits
 * of the field are fixed. Errors of both. */
PINTLE_MUST_CHECK enum pintle_status pintle_reg_write_field(struct pintle_sensor *sensor,
                                                            const struct pintle_reg *reg,
                                                            uint8_t shift, uint8_t bits,
                                                            uint32_t value);

PINTLE_C_END

#endif
