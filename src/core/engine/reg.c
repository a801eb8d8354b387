#include "pintle/reg.h"

#include "engine.h"

/* What is done to a register in one claim of the bus. */
struct work {
    const struct pintle_reg *reg;
    uint32_t mask;  /* the bits to change; 0: only read */
    uint32_t value; /* to write, or what was read */
};

static uint32_t all_of(const struct pintle_reg *reg)
{
    return reg->width < 4 ? ((uint32_t)1 << 8 * reg->width) - 1 : UINT32_MAX;
}

/* Flags that were down when they were read may have risen since: they are written so that they stay
 * as they are. */
static enum pintle_status do_work(struct pintle_sensor *sensor, struct work *work)
{
    const struct pintle_reg *reg = work->reg;
    uint32_t whole = 0;
    if (work->mask != all_of(reg)) {
        enum pintle_status status = pintle_priv_read(sensor, reg->address, reg->width, &whole);
        if (status != PINTLE_OK || work->mask == 0) {
            work->value = whole;
            return status;
        }
        whole = ((whole | reg->ones) & ~reg->zeros & ~work->mask) | work->value;
    } else {
        whole = work->value;
    }
    return pintle_priv_write(sensor, reg->address, reg->width, whole);
}

/* Nothing is taken for granted by hand: the chip may have lost its pointer or bank with its supply.
 * Where another chip is being powered by the line, its end is waited for. */
static enum pintle_status work_on(struct pintle_sensor *sensor, struct work *work)
{
    int64_t when_us = sensor->when_us; /* of a measurement, under way or done */
    enum pintle_status status = PINTLE_OK;
    enum pintle_status slept = PINTLE_OK;
    do {
        status = pintle_priv_hold(sensor);
        if (status == PINTLE_OK) {
            pintle_priv_forget_all(sensor);
            status = do_work(sensor, work);
        }
        pintle_priv_let_go(sensor);
        if (status == PINTLE_NOT_READY) {
            slept = pintle_priv_wait(sensor);
        }
    } while (status == PINTLE_NOT_READY && slept == PINTLE_OK);
    sensor->when_us = when_us;
    return slept == PINTLE_OK ? status : slept;
}

enum pintle_status pintle_reg_read(struct pintle_sensor *sensor, const struct pintle_reg *reg,
                                   uint32_t *value)
{
    struct work work = { reg, 0, 0 };
    if (reg->flags & PINTLE_REG_WRITE_ONLY) {
        return PINTLE_WRITE_ONLY;
    }
    if (reg->width == 0) {
        return PINTLE_BAD_ARGUMENT;
    }
    enum pintle_status status = work_on(sensor, &work);
    if (status == PINTLE_OK) {
        *value = work.value;
    }
    return status;
}

static enum pintle_status write(struct pintle_sensor *sensor, const struct pintle_reg *reg,
                                uint32_t mask, uint32_t value)
{
    struct work work = { reg, mask, value };
    if (reg->flags & PINTLE_REG_READ_ONLY) {
        return PINTLE_READ_ONLY;
    }
    const struct pintle_part_crc *rule = pintle_table_pointer(&sensor->part->crc);
    if (rule && pintle_table_u8(&rule->bits) && reg->width > 0) {
        return PINTLE_NO_ABILITY;
    }
    return value & ~mask ? PINTLE_OUT_OF_RANGE : work_on(sensor, &work);
}

enum pintle_status pintle_reg_write(struct pintle_sensor *sensor, const struct pintle_reg *reg,
                                    uint32_t value)
{
    return write(sensor, reg, all_of(reg), value);
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
    if (reg->flags & PINTLE_REG_WRITE_ONLY) {
        return PINTLE_WRITE_ONLY;
    }
    if (reg->fixed & (mask << shift)) {
        return PINTLE_READ_ONLY;
    }
    return write(sensor, reg, mask << shift, value << shift);
}
