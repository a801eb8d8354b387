/* What a chip made from its description has measured: its channels, the other way round. */
#include <glib.h>
#include <math.h>

#include "host/sim/twin.h"

static double value_of(const struct pintle_linear *row, double scale, double raw)
{
    double x = raw * scale + (double)row->zero;
    return row->shape ? (double)row->shape(row->constants, (float)x) : x;
}

/* The integer whose value is nearest: by halves, for it rises or falls all the way. */
static int64_t raw_of(const struct pintle_linear *row, double scale, double value)
{
    bool has_sign = row->flags & PINTLE_LINEAR_SIGNED;
    int bits = row->bits ? row->bits : 8 * row->bytes - row->shift;
    double low = has_sign ? -ldexp(1, bits - 1) : 0;
    double high = has_sign ? ldexp(1, bits - 1) - 1 : ldexp(1, bits) - 1;
    bool falls = value_of(row, scale, high * 0.75 + low * 0.25)
                 < value_of(row, scale, high * 0.25 + low * 0.75);
    low = has_sign || row->lowest >= 0 ? fmax(low, row->lowest) : low;
    high = has_sign || row->highest > 0 ? fmin(high, row->highest) : high;
    while (high - low > 0.5) {
        double middle = floor((low + high) / 2);
        double before = value_of(row, scale, middle + 0.5);
        bool beyond = falls ? value < before : value > before;
        if (beyond) {
            low = middle + 1;
        } else {
            high = middle;
        }
    }
    return (int64_t)low;
}

void pintle_priv_twin_put(const struct pintle_linear *row, uint8_t *first, int64_t raw)
{
    bool little = row->flags & PINTLE_LINEAR_LITTLE_ENDIAN;
    unsigned bits = row->bits ? row->bits : 8u * row->bytes - row->shift;
    uint32_t mask = bits < 32 ? (1u << bits) - 1 : UINT32_MAX;
    uint32_t word = ((uint32_t)raw & mask) << row->shift;
    for (unsigned i = 0; i < row->bytes; i++) {
        unsigned shift = 8u * (little ? i : row->bytes - 1u - i);
        uint8_t keep = (uint8_t) ~((uint8_t)((mask << row->shift) >> shift));
        first[i] = (uint8_t)((first[i] & keep) | (word >> shift & 0xff));
    }
}

/* Nothing that a mark speaks of is so. */
static void put_marks(const struct pintle_linear *row, uint8_t *first)
{
    for (const struct pintle_mark *m = row->marks; m && m->mask; m++) {
        uint8_t *byte = first + m->at;
        bool unless = m->bit & PINTLE_MARK_UNLESS;
        if (unless) {
            *byte = (uint8_t)((*byte & ~m->mask) | m->want);
        } else if ((*byte & m->mask) == m->want) {
            *byte = (uint8_t)(*byte ^ (m->mask & -m->mask));
        }
    }
}

static void put_digits(uint8_t *first, uint8_t left, int64_t raw)
{
    char *text = g_strdup_printf("%" G_GINT64_FORMAT, raw);
    for (uint8_t i = 0; i < left && text[i]; i++) {
        first[i] = (uint8_t)text[i];
    }
    g_free(text);
}

void pintle_priv_twin_channel(struct pintle_sim_chip *chip, unsigned c, const uint8_t *settings)
{
    const struct pintle_part *part = pintle_priv_twin_of(chip)->sheet->part;
    const struct pintle_channel *channel = &part->channels[c];
    const struct pintle_block block = { .settings = settings,
                                        .numbers = pintle_priv_twin_of(chip)->numbers };
    const struct pintle_linear *row = pintle_part_row(part, channel, settings);
    bool scaled = part->factor && (channel->scaled_by || channel->number);
    double scale =
        (double)row->scale * (scaled ? (double)part->factor(part, channel, &block) : 1.0);
    int64_t raw = raw_of(row, scale, pintle_sim_sense(chip, (int)c));
    uint8_t *first = pintle_priv_twin_state(chip)->raw + channel->at;
    if (part->frame && part->frame->length == 0) {
        put_digits(first, (uint8_t)(part->raw_size - channel->at), raw);
    } else {
        pintle_priv_twin_put(row, first, raw);
        put_marks(row, first);
    }
}
