/* What a described chip's channels come to beyond a scale: coefficients that its factory put into
 * it, where each lies in what the step "trim" reads; expressions over these, other channels,
 * numbers and the factors of settings; marks over several bytes. A channel's name in an expression
 * is its integer x scale + offset. */
#include <glib.h>
#include <math.h>
#include <string.h>

#include "host/rig/described.h"

/* Where each kind of name begins among the values of an expression. */
enum { OF_CHANNELS, OF_COEFFICIENTS = PINTLE_MOST_CHANNELS };
#define OF_NUMBERS (OF_COEFFICIENTS + COEFFICIENTS)
#define OF_SETTINGS (OF_NUMBERS + PINTLE_MOST_NUMBERS)
#define VALUES (OF_SETTINGS + PINTLE_MOST_SETTINGS)

struct pintle_part *pintle_priv_described_part(void)
{
    struct described_part *all = pintle_priv_loading_own(sizeof *all);
    all->part.rare = pintle_part_steps_rare;
    return &all->part;
}

static int32_t value_of(const struct coefficient *c, const uint8_t *trim)
{
    uint32_t value = 0;
    for (unsigned i = c->bit; i < c->bit + c->bits; i++) {
        value = value << 1 | (trim[i / 8] >> (7 - i % 8) & 1u);
    }
    bool negative = c->is_signed && (value >> (c->bits - 1) & 1);
    return (int32_t)(negative && c->bits < 32 ? value | UINT32_MAX << c->bits : value);
}

static void fill(const struct described_part *all, const struct pintle_block *block,
                 const struct pintle_reading *plain, double *values)
{
    const struct pintle_part *part = &all->plain;
    for (unsigned i = 0; i < part->channel_count; i++) {
        values[OF_CHANNELS + i] = (double)plain[i].value;
    }
    for (unsigned i = 0; i < all->coefficients; i++) {
        values[OF_COEFFICIENTS + i] = value_of(&all->coefficient[i], block->trim);
    }
    for (unsigned i = 0; i < part->number_count; i++) {
        values[OF_NUMBERS + i] = (double)pintle_part_number(part, block, (uint8_t)i);
    }
    for (unsigned i = 0; i < part->setting_count; i++) {
        const float *factors = part->settings[i].factors;
        values[OF_SETTINGS + i] = factors ? (double)factors[block->settings[i]] : 1;
    }
}

/* What speaks against any channel of an expression speaks against what it comes to. One that is an
 * expression itself is not judged by its range before that. */
static pintle_marks marks_of(const struct described_part *all, unsigned channel,
                             const struct pintle_reading *plain)
{
    pintle_marks marks = 0;
    for (unsigned i = 0; i < all->plain.channel_count; i++) {
        pintle_marks its = plain[i].quality;
        its &= all->value[i].count > 0 ? (pintle_marks)~PINTLE_QUALITY_RANGE : UINT32_MAX;
        marks |= pintle_priv_expression_uses(&all->value[channel], OF_CHANNELS + i) ? its : 0;
    }
    return marks;
}

static pintle_marks wide_marks(const struct described_part *all, unsigned channel,
                               const uint8_t *raw)
{
    pintle_marks marks = 0;
    for (unsigned i = 0; i < all->marks; i++) {
        const struct wide_mark *m = &all->mark[i];
        uint32_t word = 0;
        for (unsigned k = 0; k < m->count; k++) {
            word = word << 8 | raw[m->at + (m->low_first ? m->count - 1u - k : k)];
        }
        bool is = (word & m->mask) == m->want;
        marks |= m->channel == channel && is != (m->unless != 0) ? m->quality : 0;
    }
    return marks;
}

static void decode(const struct pintle_part *part, const struct pintle_block *block,
                   struct pintle_reading *readings)
{
    const struct described_part *all = pintle_priv_described_of(part);
    struct pintle_reading plain[PINTLE_MOST_CHANNELS];
    double values[VALUES] = { 0 };
    pintle_part_decode(&all->plain, block, plain);
    fill(all, block, plain, values);
    for (unsigned i = 0; i < part->channel_count; i++) {
        struct pintle_reading *reading = &readings[i];
        const struct expression *value = &all->value[i];
        bool own = value->count == 0 || pintle_priv_expression_uses(value, OF_CHANNELS + i);
        *reading = plain[i];
        reading->raw = own ? reading->raw : 0;
        if (value->count > 0) {
            reading->value = (float)pintle_priv_expression_value(value, values);
            reading->quality = marks_of(all, i, plain);
        }
        reading->quality &= (pintle_marks)~PINTLE_QUALITY_RANGE; /* judged by what it comes to */
        reading->quality |= wide_marks(all, i, block->raw);
        PINTLE_NOTE(block->notes, part->channels[i].name, reading->raw);
    }
}

bool pintle_priv_described_turns(const struct pintle_sheet *sheet)
{
    const struct described_part *all = pintle_priv_described_of(sheet->part);
    bool turns = sheet->described && sheet->part->decode == decode && !all->plain.decode;
    for (unsigned i = 0; turns && i < sheet->part->channel_count; i++) {
        turns = !pintle_priv_expression_uses(&all->value[i], OF_CHANNELS + i);
    }
    return turns;
}

double pintle_priv_described_spread(const struct pintle_part *part,
                                    const struct pintle_block *block, unsigned channel,
                                    const double *each)
{
    const struct described_part *all = pintle_priv_described_of(part);
    const struct expression *value = &all->value[channel];
    struct pintle_reading plain[PINTLE_MOST_CHANNELS];
    double values[VALUES] = { 0 };
    double squares = 0;
    if (part->decode != decode || value->count == 0) {
        return (double)NAN;
    }
    pintle_part_decode(&all->plain, block, plain);
    fill(all, block, plain, values);
    for (unsigned i = 0; i < part->channel_count; i++) {
        if (!pintle_priv_expression_uses(value, OF_CHANNELS + i)) {
            continue;
        }
        if (all->value[i].count > 0) { /* before that it is in no unit */
            return (double)NAN;
        }
        double is = values[OF_CHANNELS + i];
        values[OF_CHANNELS + i] = is + each[i];
        double above = pintle_priv_expression_value(value, values);
        values[OF_CHANNELS + i] = is - each[i];
        double off = (above - pintle_priv_expression_value(value, values)) / 2;
        values[OF_CHANNELS + i] = is;
        squares += off * off;
    }
    return sqrt(squares);
}

static int find_channel(const struct describing *d, const char *name)
{
    for (int i = 0; i < d->part->channel_count; i++) {
        if (strcmp(d->part->channels[i].name, name) == 0) {
            return i;
        }
    }
    return -1;
}

static bool scales(const struct pintle_setting *setting)
{
    bool any = false;
    for (unsigned i = 0; setting->factors && i < setting->count; i++) {
        any = any || setting->factors[i] != 1;
    }
    return any;
}

/* A channel, a coefficient, a number, or a setting whose options have factors. */
static int find_name(const void *context, const char *name)
{
    const struct describing *d = context;
    const struct described_part *all = pintle_priv_described_of(d->part);
    int channel = find_channel(d, name);
    int number = pintle_sheet_number(d->sheet, name);
    int setting = pintle_priv_described_setting(d, name);
    for (unsigned k = 0; channel < 0 && k < all->coefficients; k++) {
        if (strcmp(all->coefficient[k].name, name) == 0) {
            return OF_COEFFICIENTS + (int)k;
        }
    }
    bool has_factors = setting >= 0 && scales(&d->part->settings[setting]);
    return channel >= 0  ? OF_CHANNELS + channel
           : number >= 0 ? OF_NUMBERS + number
           : has_factors ? OF_SETTINGS + setting
                         : -1;
}

static int take_coefficients(const struct describing *d, struct described_part *all)
{
    all->coefficients = cfg_size(d->section, "coefficient");
    if (all->coefficients > COEFFICIENTS) {
        return pintle_priv_described_complain(d, "it has more than %d coefficients", COEFFICIENTS);
    }
    for (unsigned i = 0; i < all->coefficients; i++) {
        cfg_t *from = cfg_getnsec(d->section, "coefficient", i);
        long bit = cfg_getint(from, "bit");
        long bits = cfg_getint(from, "bits");
        if (bit < 0 || bits < 1 || bits > 32 || bit + bits > 8 * d->part->trim_size) {
            return pintle_priv_described_complain(
                d,
                "coefficient '%s' takes 1 to 32 bits, which lie within the %u bytes that the step "
                "\"trim\" reads",
                cfg_title(from), d->part->trim_size);
        }
        if (find_channel(d, cfg_title(from)) >= 0) {
            return pintle_priv_described_complain(
                d, "'%s' is a coefficient and a channel; give one of them another name",
                cfg_title(from));
        }
        all->coefficient[i] =
            (struct coefficient){ pintle_priv_loading_text("%s", cfg_title(from)), (uint16_t)bit,
                                  (uint8_t)bits, cfg_getbool(from, "signed") ? 1 : 0 };
    }
    return 0;
}

static int take_value(const struct describing *d, struct described_part *all, unsigned channel)
{
    cfg_t *from = cfg_getnsec(d->section, "channel", channel);
    const char *text = cfg_getstr(from, "value");
    const char *wrong = NULL;
    if (!text || pintle_priv_expression_take(text, find_name, d, &all->value[channel], &wrong)) {
        return 0;
    }
    return pintle_priv_described_complain(d,
                                          "channel '%s': value makes no sense from \"%s\" on; it "
                                          "has numbers, + - * / ( ), root, exp, ln, "
                                          "absolute, power, least, greatest, and names of "
                                          "channels, coefficients, numbers and settings "
                                          "with factors, with blanks around a minus",
                                          cfg_title(from), wrong);
}

/* Channels that are expressions lose their rows to the plain part. */
static void part_ways(struct describing *d, struct described_part *all)
{
    size_t size = (d->part->channel_count + 1u) * sizeof *d->part->channels;
    struct pintle_channel *own = pintle_priv_loading_own(size);
    memcpy(own, d->part->channels, size);
    all->plain = *d->part;
    for (unsigned i = 0; i < d->part->channel_count; i++) {
        own[i].linear = all->value[i].count > 0 ? NULL : own[i].linear;
    }
    d->part->channels = own;
    d->part->decode = decode;
}

int pintle_priv_described_trim(struct describing *d)
{
    struct described_part *all = (struct described_part *)(void *)d->part;
    bool any = all->marks > 0;
    if (take_coefficients(d, all) != 0) {
        return -1;
    }
    for (unsigned i = 0; i < d->part->channel_count; i++) {
        if (take_value(d, all, i) != 0) {
            return -1;
        }
        any = any || all->value[i].count > 0;
    }
    if (any) {
        part_ways(d, all);
    }
    if (d->part->trim_size > 0) {
        struct pintle_stretch *stretch = pintle_priv_loading_own(sizeof *stretch);
        *stretch =
            (struct pintle_stretch){ "trim", d->part->trim_size, "what the step \"trim\" reads" };
        d->sheet->trim = stretch;
        d->sheet->trim_count = 1;
    }
    return 0;
}
