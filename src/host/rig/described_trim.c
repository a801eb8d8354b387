/* A chip whose factory put coefficients into it, described: where each lies in what the step "trim"
 * reads, and the sum of products that makes a channel of them, "c00", "c10 pressure", "c11 pressure
 * temperature". A channel's name in a product is its integer x scale + offset. */
#include <glib.h>
#include <string.h>

#include "host/rig/described.h"

#define FACTORS 6
#define TERMS 24
#define COEFFICIENTS 32

struct coefficient {
    const char *name;
    uint16_t bit; /* of the trim, from the high bit of its first byte on */
    uint8_t bits, is_signed;
};

/* A number times coefficients and channels. */
struct product {
    float number;
    uint8_t count;
    uint8_t
        factor[FACTORS]; /* a channel's index; a coefficient's is that many beyond the channels */
};

struct formula {
    unsigned count; /* 0: the channel is what it reads */
    struct product product[TERMS];
};

/* The part itself comes first, so that its decode function finds the rest. */
struct trimmed {
    struct pintle_part part;
    struct pintle_part plain; /* the same without what the coefficients do */
    unsigned coefficients;
    struct coefficient coefficient[COEFFICIENTS];
    struct formula formula[PINTLE_CHANNELS_MAX];
};

struct pintle_part *pintle_priv_described_part(void)
{
    struct trimmed *trimmed = pintle_priv_loading_own(sizeof *trimmed);
    return &trimmed->part;
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

static float sum_of(const struct trimmed *t, const struct formula *formula, const uint8_t *trim,
                    const struct pintle_reading *read)
{
    double sum = 0;
    for (unsigned i = 0; i < formula->count; i++) {
        const struct product *product = &formula->product[i];
        double value = (double)product->number;
        for (unsigned k = 0; k < product->count; k++) {
            unsigned at = product->factor[k];
            value *= at >= PINTLE_CHANNELS_MAX
                         ? value_of(&t->coefficient[at - PINTLE_CHANNELS_MAX], trim)
                         : (double)read[at].value;
        }
        sum += value;
    }
    return (float)sum;
}

/* What speaks against any channel of a formula speaks against what it comes to. */
static uint16_t marks_of(const struct formula *formula, const struct pintle_reading *read)
{
    uint16_t marks = 0;
    for (unsigned i = 0; i < formula->count; i++) {
        for (unsigned k = 0; k < formula->product[i].count; k++) {
            unsigned at = formula->product[i].factor[k];
            marks |= at < PINTLE_CHANNELS_MAX ? read[at].quality : 0;
        }
    }
    return marks;
}

static void decode(const struct pintle_part *part, const struct pintle_block *block,
                   struct pintle_sample *sample)
{
    const struct trimmed *t = (const struct trimmed *)(const void *)part;
    struct pintle_sample plain;
    pintle_part_decode(&t->plain, block, &plain);
    for (unsigned i = 0; i < part->channel_count; i++) {
        struct pintle_reading *reading = &sample->channel[i];
        *reading = plain.channel[i];
        if (t->formula[i].count > 0) {
            reading->value = sum_of(t, &t->formula[i], block->trim, plain.channel);
            reading->quality |= marks_of(&t->formula[i], plain.channel);
        }
        reading->quality &= (uint16_t)~PINTLE_QUALITY_RANGE; /* judged by what it comes to */
        PINTLE_NOTE(block->notes, part->channels[i].name, reading->raw);
    }
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

static bool take_product(const struct describing *d, const struct trimmed *t, const char *text,
                         struct product *product)
{
    char **word = g_strsplit_set(text, " ", -1);
    char *end = NULL;
    bool ok = true;
    *product = (struct product){ .number = 1 };
    for (unsigned i = 0; ok && word[i]; i++) {
        double number = g_ascii_strtod(word[i], &end);
        int at = find_channel(d, word[i]);
        bool found = at >= 0;
        for (unsigned k = 0; !found && k < t->coefficients; k++) {
            found = strcmp(t->coefficient[k].name, word[i]) == 0;
            at = PINTLE_CHANNELS_MAX + (int)k;
        }
        if (i == 0 && *word[i] && !*end) {
            product->number = (float)number;
        } else if (*word[i]) {
            ok = found && product->count < FACTORS;
            if (ok) {
                product->factor[product->count++] = (uint8_t)at;
            }
        }
    }
    g_strfreev(word);
    return ok;
}

static int take_coefficients(const struct describing *d, struct trimmed *t)
{
    t->coefficients = cfg_size(d->section, "coefficient");
    if (t->coefficients > COEFFICIENTS) {
        return pintle_priv_described_complain(d, "it has more than %d coefficients", COEFFICIENTS);
    }
    for (unsigned i = 0; i < t->coefficients; i++) {
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
        t->coefficient[i] =
            (struct coefficient){ pintle_priv_loading_text("%s", cfg_title(from)), (uint16_t)bit,
                                  (uint8_t)bits, cfg_getbool(from, "signed") ? 1 : 0 };
    }
    return 0;
}

static int take_formula(const struct describing *d, struct trimmed *t, unsigned channel)
{
    cfg_t *from = cfg_getnsec(d->section, "channel", channel);
    struct formula *formula = &t->formula[channel];
    formula->count = cfg_size(from, "terms");
    if (formula->count > TERMS) {
        return pintle_priv_described_complain(d, "channel '%s' has more than %d terms",
                                              cfg_title(from), TERMS);
    }
    for (unsigned i = 0; i < formula->count; i++) {
        const char *text = cfg_getnstr(from, "terms", i);
        if (!take_product(d, t, text, &formula->product[i])) {
            return pintle_priv_described_complain(
                d,
                "channel '%s': the term \"%s\" is not a number and up to %d names of coefficients "
                "or channels, as in \"0.5 c0\"",
                cfg_title(from), text, FACTORS);
        }
    }
    return 0;
}

/* The channels that the coefficients make lose their rows to the plain part. */
int pintle_priv_described_trim(struct describing *d)
{
    struct trimmed *t = (struct trimmed *)(void *)d->part;
    struct pintle_channel *plain = NULL;
    struct pintle_channel *own = NULL;
    bool any = false;
    if (take_coefficients(d, t) != 0) {
        return -1;
    }
    for (unsigned i = 0; i < d->part->channel_count; i++) {
        if (take_formula(d, t, i) != 0) {
            return -1;
        }
        any = any || t->formula[i].count > 0;
    }
    if (!any) {
        return 0;
    }
    size_t size = (d->part->channel_count + 1u) * sizeof *plain;
    plain = pintle_priv_loading_own(size);
    own = pintle_priv_loading_own(size);
    memcpy(plain, d->part->channels, size);
    memcpy(own, d->part->channels, size);
    for (unsigned i = 0; i < d->part->channel_count; i++) {
        own[i].linear = NULL;
    }
    t->plain = *d->part;
    t->plain.channels = plain;
    d->part->channels = own;
    d->part->decode = decode;
    struct pintle_stretch *stretch = pintle_priv_loading_own(sizeof *stretch);
    *stretch =
        (struct pintle_stretch){ "trim", d->part->trim_size, "what the step \"trim\" reads" };
    d->sheet->trim = stretch;
    d->sheet->trim_count = d->part->trim_size > 0;
    return 0;
}
