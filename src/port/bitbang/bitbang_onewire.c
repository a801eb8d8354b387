/* 1-Wire over one pin. Times in microseconds, within the limits of the chips (DS18B20, datasheet
 * 19-7487, AC electrical characteristics):
 *
 *     slot                      60 to 120    70
 *     recovery between slots    1 or more    6 after a 0, else the rest of the slot
 *     low of a 0                60 to 120    64
 *     low of a 1 or of a read   1 to 15      2
 *     data valid for            15           looked at after 11
 *     reset low                 480 to 960   500
 *     presence comes            15 to 60     looked for after 63, and what the call costs
 *     ... and lasts             60 to 240    (75 at the latest)
 *     reset, low and rest       960 or more  1000
 *
 * On a slow machine the calls themselves take microseconds; what they cost is measured once and
 * taken off. Where even that leaves no time to look after 13 there is no such master; the rest of
 * the 15 is for an interrupt in between.
 */
#include "pintle/bitbang.h"

#define LOOK_AFTER 11
#define LOOK_LATEST_NS 13000
#define LOW 2
#define LEAST_LOW_NS 1500
#define LEAST_RISE_NS 4000

static void rest(const struct pintle_bitbang_onewire *m, uint16_t us)
{
    m->clock->calls->sleep_us(m->clock->context, us);
}

static void drive(const struct pintle_bitbang_onewire *m, enum pintle_drive how)
{
    m->data_line.calls->drive(m->data_line.context, how);
}

static uint8_t level(const struct pintle_bitbang_onewire *m)
{
    return m->data_line.calls->level(m->data_line.context);
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
    rest(m, 63);
    uint8_t absent = level(m);
    rest(m, 437);
    if (!level(m)) {
        return PINTLE_DATA_STUCK;
    }
    return absent ? PINTLE_NO_ANSWER : PINTLE_OK;
}

/* A slot; returns what the line was when a chip's answer is there. */
static uint8_t slot(const struct pintle_bitbang_onewire *m, uint8_t bit, enum pintle_drive after)
{
    drive(m, PINTLE_DRIVE_LOW);
    if (!bit) {
        rest(m, m->zero_us);
        drive(m, after);
        rest(m, 6);
        return 0;
    }
    if (m->low_us > 0) {
        rest(m, m->low_us);
    }
    drive(m, after);
    if (m->look_us > 0) {
        rest(m, m->look_us);
    }
    uint8_t seen = level(m);
    rest(m, 59);
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
        uint8_t seen = slot(m, !out || (out[i / 8] & mask),
                            last && strong ? PINTLE_DRIVE_HIGH : PINTLE_RELEASE);
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
    return pulled ? PINTLE_OK : charged ? PINTLE_NO_PULL_UP : PINTLE_DATA_STUCK;
}

#define TIMES 32

/* Nanoseconds that one of so many calls took, of `us` in all; a millisecond is too slow anyway. */
static uint32_t each(uint64_t us, uint8_t calls)
{
    return (uint32_t)(us < 1000 ? us : 1000) * 1000 / calls;
}

static uint64_t now(const struct pintle_bitbang_onewire *m)
{
    return m->clock->calls->now_us(m->clock->context);
}

/* How long to sleep, at least a microsecond, where `us` are wanted and `ns` go by anyway. */
static uint8_t less(uint8_t us, uint32_t ns)
{
    uint32_t gone = (ns + 999) / 1000;
    return (uint8_t)(us > gone ? us - gone : 1);
}

/* The sleeps of a slot. The look comes as late as may be, for the line has to rise. */
static enum pintle_status plan(struct pintle_bitbang_onewire *m, uint32_t pin_ns, uint32_t rest_ns)
{
    uint32_t calls_ns = pin_ns + rest_ns;
    m->low_us = pin_ns < LEAST_LOW_NS ? LOW : 0;
    uint32_t low_ns = m->low_us > 0 ? 1000u * LOW + calls_ns : pin_ns;
    m->look_us = less(LOOK_AFTER, low_ns + calls_ns);
    uint32_t rise_ns = 1000u * m->look_us + calls_ns;
    if (low_ns + rise_ns > LOOK_LATEST_NS) {
        m->look_us = 0;
        rise_ns = pin_ns;
    }
    m->zero_us = less(64, calls_ns);
    uint8_t fits = low_ns + rise_ns <= LOOK_LATEST_NS && rise_ns >= LEAST_RISE_NS;
    return fits ? PINTLE_OK : PINTLE_UNSUPPORTED;
}

/* The first line says what asking for the time costs, once in each of the other figures. */
enum pintle_status pintle_bitbang_onewire_init(struct pintle_bitbang_onewire *master,
                                               struct pintle_pin data_line,
                                               const struct pintle_clock *clock)
{
    master->data_line = data_line;
    master->clock = clock;
    drive(master, PINTLE_RELEASE);
    uint64_t before = now(master);
    uint64_t begun = now(master);
    for (uint8_t i = 0; i < TIMES; i++) {
        drive(master, PINTLE_RELEASE);
        (void)level(master);
    }
    uint64_t pins = now(master);
    for (uint8_t i = 0; i < TIMES; i++) {
        rest(master, 1);
    }
    uint64_t rests = now(master) - pins;
    uint64_t asking = begun - before;
    pins -= begun;
    uint64_t spent = asking + TIMES;
    return plan(master, each(pins > asking ? pins - asking : 0, 2 * TIMES),
                each(rests > spent ? rests - spent : 0, TIMES));
}

struct pintle_onewire pintle_bitbang_onewire_bus(struct pintle_bitbang_onewire *master)
{
    static const struct pintle_onewire_calls calls = { .reset = reset, .slots = slots };
    return (struct pintle_onewire){ .calls = &calls,
                                    .common = { .context = master, .clock = master->clock } };
}
