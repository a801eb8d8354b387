#include "port/sim/chips/ak09916.h"

#include <math.h>

#define WIA1 0x00
#define WIA2 0x01
#define ST1 0x10
#define HXL 0x11
#define ST2 0x18
#define CNTL2 0x31
#define CNTL3 0x32

#define FIRST_INPUT 7 /* of the chip that it is in: x, y, z */
#define MEASURES_NS 7200000

void pintle_priv_sim_ak09916_reset(struct pintle_sim_ak09916 *ak)
{
    memset(ak, 0, sizeof *ak);
    ak->regs[WIA1] = 0x48;
    ak->regs[WIA2] = 0x09;
}

/* Section 13: once, or 10, 20, 50, 100 times a second. */
static uint64_t period_ns(const struct pintle_sim_ak09916 *ak)
{
    switch (ak->regs[CNTL2] & 0x1f) {
    case 0x02:
        return 100000000;
    case 0x04:
        return 50000000;
    case 0x06:
        return 20000000;
    case 0x08:
        return 10000000;
    default:
        return 0;
    }
}

static double clamp(double counts)
{
    return fmin(fmax(floor(counts + 0.5), -32752), 32752);
}

/* Section 3.3: 0.15 uT a count; section 12: y and z are turned round. Beyond 4912 uT in all it says
 * that it overflowed. */
static void measure(struct pintle_sim_chip *chip, struct pintle_sim_ak09916 *ak)
{
    double sum = 0;
    for (int axis = 0; axis < 3; axis++) {
        double flux = pintle_sim_sense(chip, FIRST_INPUT + axis) * (axis ? -1 : 1);
        int code = (int)clamp(flux / 0.15e-6);
        sum += fabs(flux);
        ak->regs[HXL + 2 * axis] = (uint8_t)code;
        ak->regs[HXL + 2 * axis + 1] = (uint8_t)((unsigned)code >> 8);
    }
    ak->regs[ST2] = sum >= 4912e-6 ? 0x08 : 0;
    ak->regs[ST1] |= ak->regs[ST1] & 1 ? 3 : 1;
}

static void catch_up(struct pintle_sim_chip *chip, struct pintle_sim_ak09916 *ak)
{
    uint64_t now_ns = chip->sim->now_us * 1000;
    if (ak->next_ns == 0 || now_ns < ak->next_ns) {
        return;
    }
    measure(chip, ak);
    uint64_t period = period_ns(ak);
    if (period == 0) {
        ak->next_ns = 0;
        ak->regs[CNTL2] = 0; /* a single one powers down behind itself */
        return;
    }
    ak->next_ns += ((now_ns - ak->next_ns) / period + 1) * period;
}

uint8_t pintle_priv_sim_ak09916_read(struct pintle_sim_chip *chip, struct pintle_sim_ak09916 *ak,
                                     uint8_t address, uint8_t reg, uint8_t *value)
{
    if ((address & 0x7f) != 0x0c) {
        return 0;
    }
    catch_up(chip, ak);
    *value = reg < sizeof ak->regs ? ak->regs[reg] : 0;
    if (reg == ST2) {
        ak->regs[ST1] = 0;
    }
    return 1;
}

uint8_t pintle_priv_sim_ak09916_write(struct pintle_sim_chip *chip, struct pintle_sim_ak09916 *ak,
                                      uint8_t address, uint8_t reg, uint8_t value)
{
    if ((address & 0x7f) != 0x0c) {
        return 0;
    }
    if (reg == CNTL3 && (value & 1)) {
        pintle_priv_sim_ak09916_reset(ak);
    } else if (reg == CNTL2) {
        ak->regs[CNTL2] = value & 0x1f;
        ak->next_ns = value & 0x1f ? chip->sim->now_us * 1000 + MEASURES_NS : 0;
    }
    return 1;
}
