/* 1-Wire over one pin. Times in microseconds, within the limits of the chips (DS18B20, datasheet
 * 19-7487, AC electrical characteristics):
 *
 *     slot                      60 to 120    70
 *     recovery between slots    1 or more    6 after a 0, else the rest of the slot
 *     low of a 0                60 to 120    64
 *     low of a 1 or of a read   1 to 15      3
 *     data valid for            15           looked at after 13
 *     reset low                 480 to 960   500
 *     presence comes            15 to 60     looked for from 60 on, ...
 *     ... and lasts             60 to 240    ... until 90
 *     reset, low and rest       960 or more  1000
 */
#include "pintle/bitbang.h"

static void rest(const struct pintle_bitbang_onewire *m, uint16_t us)
{
    m->clock.calls->sleep_us(m->clock.context, us);
}

static void drive(const struct pintle_bitbang_onewire *m, enum pintle_drive how)
{
    m->line.calls->drive(m->line.context, how);
}

static uint8_t level(const struct pintle_bitbang_onewire *m)
{
    return m->line.calls->level(m->line.context);
}

static enum pintle_status reset(void *context)
{
    const struct pintle_bitbang_onewire *m = context;
    drive(m, PINTLE_RELEASE);
    rest(m, 20);
    if (!level(m)) {
        return PINTLE_DATA_STUCK;
    }
    drive(m, PINTLE_DRIVE_LOW);
    rest(m, 500);
    drive(m, PINTLE_RELEASE);
    rest(m, 60);
    uint8_t absent = level(m);
    rest(m, 30);
    absent &= level(m);
    rest(m, 410);
    if (!level(m)) {
        return PINTLE_DATA_STUCK;
    }
    return absent ? PINTLE_NO_ANSWER : PINTLE_OK;
}

/* A slot; returns what the line was when a chip's answer is there. */
static uint8_t slot(const struct pintle_bitbang_onewire *m, uint8_t bit, uint8_t strong)
{
    uint8_t seen = 0;
    drive(m, PINTLE_DRIVE_LOW);
    rest(m, bit ? 3 : 64);
    drive(m, strong ? PINTLE_DRIVE_HIGH : PINTLE_RELEASE);
    if (bit) {
        rest(m, 10);
        seen = level(m);
        rest(m, 57);
    } else {
        rest(m, 6);
    }
    return seen;
}

static enum pintle_status slots(void *context, const uint8_t *out, uint8_t *in, uint16_t count,
                                uint8_t strong)
{
    const struct pintle_bitbang_onewire *m = context;
    drive(m, PINTLE_RELEASE);
    for (uint16_t i = 0; i < count; i++) {
        uint8_t mask = (uint8_t)(1u << (i & 7));
        uint8_t last = i + 1 == count;
        uint8_t seen = slot(m, !out || (out[i / 8] & mask), last && strong);
        if (in) {
            in[i / 8] = (uint8_t)(seen ? in[i / 8] | mask : in[i / 8] & ~mask);
        }
    }
    if (!strong) {
        drive(m, PINTLE_RELEASE);
    }
    return PINTLE_OK;
}

enum pintle_status pintle_bitbang_onewire_look(const struct pintle_bitbang_onewire *master)
{
    drive(master, PINTLE_DRIVE_HIGH);
    rest(master, 1);
    drive(master, PINTLE_RELEASE);
    rest(master, 1);
    uint8_t charged = level(master);
    drive(master, PINTLE_DRIVE_LOW);
    rest(master, 500);
    drive(master, PINTLE_RELEASE);
    rest(master, 20);
    uint8_t pulled = level(master);
    return pulled ? PINTLE_OK : charged ? PINTLE_NOT_READY : PINTLE_DATA_STUCK;
}

void pintle_bitbang_onewire_init(struct pintle_bitbang_onewire *master, struct pintle_pin line,
                                 struct pintle_clock clock)
{
    master->line = line;
    master->clock = clock;
    drive(master, PINTLE_RELEASE);
}

struct pintle_onewire pintle_bitbang_onewire(struct pintle_bitbang_onewire *master)
{
    static const struct pintle_onewire_calls calls = { reset, slots };
    return (struct pintle_onewire){ &calls, master, 0 };
}
