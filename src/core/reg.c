#include "pintle/reg.h"

#include "engine.h"

/* By hand nothing is taken for granted: the chip may have lost its pointer or bank with its supply.
 */
static void forget_pointer(struct pintle_sensor *sensor)
{
    sensor->flags &= (uint8_t)~SENSOR_POINTED;
}

enum pintle_status pintle_reg_read(struct pintle_sensor *sensor, const struct pintle_reg *reg,
                                   uint32_t *value)
{
    if (reg->flags & PINTLE_REG_WRITE_ONLY) {
        return PINTLE_WRITE_ONLY;
    }
    forget_pointer(sensor);
    return pintle_priv_read(sensor, reg->address, reg->width, value);
}

enum pintle_status pintle_reg_write(struct pintle_sensor *sensor, const struct pintle_reg *reg,
                                    uint32_t value)
{
    if (reg->flags & PINTLE_REG_READ_ONLY) {
        return PINTLE_READ_ONLY;
    }
    if (pintle_priv_flags(sensor) & PINTLE_PART_CRC_WORDS && reg->width > 0) {
        return PINTLE_UNSUPPORTED;
    }
    if (reg->width < 4 && value >> (8 * reg->width) != 0) {
        return PINTLE_OUT_OF_RANGE;
    }
    forget_pointer(sensor);
    return pintle_priv_write(sensor, reg->address, reg->width, value);
}

enum pintle_status pintle_reg_write_field(struct pintle_sensor *sensor,
                                          const struct pintle_reg *reg, uint8_t shift, uint8_t bits,
                                          uint32_t value)
{
    if (bits == 0 || bits + shift > 8 * reg->width) {
        return PINTLE_BAD_ARGUMENT;
    }
    uint32_t mask = (uint32_t)(((uint64_t)1 << bits) - 1);
    if (value > mask) {
        return PINTLE_OUT_OF_RANGE;
    }
    if (reg->flags & PINTLE_REG_READ_ONLY) {
        return PINTLE_READ_ONLY;
    }
    uint32_t whole = 0;
    enum pintle_status status = pintle_reg_read(sensor, reg, &whole);
    if (status != PINTLE_OK) {
        return status;
    }
    return pintle_reg_write(sensor, reg, (whole & ~(mask << shift)) | (value << shift));
}
