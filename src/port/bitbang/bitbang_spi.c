/* SPI over pins. With phase 0 a bit is on the line before the clock's first edge and is taken on
 * it; with phase 1 it is put there on the first edge and taken on the second. */
#include "pintle/bitbang.h"

static void put(const struct pintle_pin *pin, uint8_t high)
{
    pin->calls->drive(pin->context, high ? PINTLE_DRIVE_HIGH : PINTLE_DRIVE_LOW);
}

static uint8_t clock_bit(const struct pintle_bitbang_spi *m, const struct pintle_spi_way *way,
                         uint16_t half_us, uint8_t bit)
{
    uint8_t rest = way->mode >> 1;
    uint8_t phase = way->mode & 1;
    uint8_t seen = 0;
    if (!phase) {
        put(&m->out, bit);
    }
    m->clock->calls->sleep_us(m->clock->context, half_us);
    if (!phase) {
        seen = m->in.calls->level(m->in.context);
    }
    put(&m->clock_line, !rest);
    if (phase) {
        put(&m->out, bit);
    }
    m->clock->calls->sleep_us(m->clock->context, half_us);
    if (phase) {
        seen = m->in.calls->level(m->in.context);
    }
    put(&m->clock_line, rest);
    return seen;
}

static uint8_t clock_byte(const struct pintle_bitbang_spi *m, const struct pintle_spi_way *way,
                          uint16_t half_us, uint8_t out)
{
    uint8_t in = 0;
    for (uint8_t i = 0; i < 8; i++) {
        uint8_t mask = (uint8_t)(way->low_bit_first ? 1u << i : 0x80u >> i);
        in = (uint8_t)(clock_bit(m, way, half_us, (out & mask) != 0) ? in | mask : in);
    }
    return in;
}

static enum pintle_status transfer(void *context, const struct pintle_spi_way *way,
                                   const struct pintle_segment *segments, uint8_t count)
{
    const struct pintle_bitbang_spi *m = context;
    uint8_t selects = way->select != PINTLE_SELECT_NONE;
    if ((selects && way->select >= m->select_count) || way->clock_hz == 0 || way->mode > 3) {
        return PINTLE_BAD_ARGUMENT;
    }
    if (m->command) {
        put(m->command, !way->command);
    } else if (way->command) {
        return PINTLE_UNSUPPORTED;
    }
    uint16_t half_us =
        (uint16_t)(way->clock_hz >= 500000 ? 1 : (500000 + way->clock_hz - 1) / way->clock_hz);
    put(&m->clock_line, way->mode >> 1);
    if (selects) {
        put(&m->selects[way->select], 0);
    }
    for (uint8_t i = 0; i < count; i++) {
        for (uint16_t k = 0; k < segments[i].length; k++) {
            uint8_t in = clock_byte(m, way, half_us, segments[i].out ? segments[i].out[k] : 0);
            if (segments[i].in) {
                segments[i].in[k] = in;
            }
        }
    }
    m->clock->calls->sleep_us(m->clock->context, half_us);
    if (selects && !way->hold) {
        put(&m->selects[way->select], 1);
        m->clock->calls->sleep_us(m->clock->context, half_us);
    }
    return PINTLE_OK;
}

void pintle_bitbang_spi_init(struct pintle_bitbang_spi *master, struct pintle_pin clock_line,
                             struct pintle_pin out, struct pintle_pin in,
                             const struct pintle_pin *selects, uint8_t select_count,
                             const struct pintle_clock *clock)
{
    master->clock_line = clock_line;
    master->out = out;
    master->in = in;
    master->selects = selects;
    master->select_count = select_count;
    master->clock = clock;
    master->command = NULL;
    for (uint8_t i = 0; i < select_count; i++) {
        put(&selects[i], 1);
    }
    in.calls->drive(in.context, PINTLE_RELEASE);
    put(&master->clock_line, 0);
}

struct pintle_spi pintle_bitbang_spi_bus(struct pintle_bitbang_spi *master)
{
    static const struct pintle_spi_calls calls = { .transfer = transfer };
    return (struct pintle_spi){ .calls = &calls,
                                .common = { .context = master, .clock = master->clock } };
}
