/* The channels of a part that a rig file describes. */
#include <glib.h>
#include <stdio.h>
#include <string.h>

#include "host/rig/described.h"
#include "pintle/shape.h"

static int find_quantity(const struct describing *d, const char *word)
{
    GString *all = g_string_new(NULL);
    int found = -1;
    for (int q = 0; q < PINTLE_QUANTITY_COUNT; q++) {
        const char *name = pintle_quantity_word((enum pintle_quantity)q);
        found = word && strcmp(word, name) == 0 ? q : found;
        g_string_append_printf(all, "%s%s", q ? ", " : "", name);
    }
    if (found < 0) {
        pintle_priv_described_complain(d, "'%s' is no quantity; there are %s", word ? word : "",
                                       all->str);
    }
    g_string_free(all, TRUE);
    return found;
}

/* Where in the raw block a channel's integer lies. */
struct layout {
    long at, bytes, drop, bits;
    bool is_signed, low_first;
};

static bool take_layout(const struct describing *d, cfg_t *from, struct layout *l)
{
    const char *order = cfg_getstr(from, "order");
    l->at = cfg_getint(from, "at");
    l->bytes = cfg_getint(from, "bytes");
    l->drop = cfg_getint(from, "drop");
    l->bits = cfg_getint(from, "bits") ? cfg_getint(from, "bits") : 8 * l->bytes - l->drop;
    l->is_signed = cfg_getbool(from, "signed");
    l->low_first = strcmp(*order ? order : cfg_getstr(d->section, "order"), "low") == 0;
    return l->bytes >= 1 && l->bytes <= 4 && l->drop >= 0 && l->bits >= 1
           && l->drop + l->bits <= 8 * l->bytes && l->at >= 0 && l->at + l->bytes <= (long)d->raw;
}

/* A whole number that the channel's bits can hold. */
static bool take_integer(const struct layout *l, const char *text, int32_t *integer)
{
    char *end = NULL;
    gint64 value = g_ascii_strtoll(text, &end, 0);
    gint64 lowest = l->is_signed ? -((gint64)1 << (l->bits - 1)) : 0;
    gint64 highest = ((gint64)1 << (l->bits - l->is_signed)) - 1;
    *integer = (int32_t)(uint32_t)value;
    return end > text && *end == '\0' && value >= lowest && value <= highest;
}

/* Where its scale ends: with the code, unless it says otherwise. A code without a sign begins at 0,
 * which is a value. */
static int take_ends(const struct describing *d, cfg_t *from, const struct layout *l,
                     struct pintle_linear *row)
{
    unsigned count = cfg_size(from, "ends");
    const char *first = count ? cfg_getnstr(from, "ends", 0) : "";
    if (count == 0 || (count == 1 && strcmp(first, "none") == 0)) {
        uint64_t top = ((uint64_t)1 << (l->bits - l->is_signed)) - 1;
        bool none = count == 1;
        row->lowest = l->is_signed ? (none ? INT32_MIN : (int32_t)(-(int64_t)top - 1)) : -1;
        top -= !l->is_signed && l->bits == 32; /* the last code of all means nowhere */
        row->highest = none ? (l->is_signed ? INT32_MAX : -1) : (int32_t)(uint32_t)top;
        return none && l->is_signed && l->bits == 32 ? pintle_priv_described_complain(
                   d, "channel '%s': 32 bits always end somewhere", cfg_title(from))
                                                     : 0;
    }
    if (count == 2 && take_integer(l, first, &row->lowest)
        && take_integer(l, cfg_getnstr(from, "ends", 1), &row->highest)) {
        return 0;
    }
    return pintle_priv_described_complain(
        d,
        "channel '%s': ends takes the two integers at which its scale ends, "
        "as in { 0, 4095 }, or { none }",
        cfg_title(from));
}

/* "stale when byte 0 mask 0xc0 is 0x40", "bus unless byte 3 is 0": the byte is counted in what the
 * measuring steps read. */
static bool take_mark(const struct describing *d, const struct layout *l, const char *text,
                      struct pintle_mark *mark)
{
    struct described_words w = { .d = d, .word = g_strsplit(text, " ", -1), .ok = true };
    const char *quality = pintle_priv_described_word(&w);
    const char *how = pintle_priv_described_word(&w);
    bool unless = g_strcmp0(how, "unless") == 0;
    w.ok = unless || g_strcmp0(how, "when") == 0;
    pintle_priv_described_keyword(&w, "byte");
    uint32_t byte = pintle_priv_described_number(&w, d->raw > 0 ? d->raw - 1 : 0);
    const char *word = w.word[w.at];
    bool masked = g_strcmp0(word, "mask") == 0;
    w.at += masked;
    uint32_t mask = masked ? pintle_priv_described_number(&w, 0xff) : 0xff;
    pintle_priv_described_keyword(&w, "is");
    uint32_t want = pintle_priv_described_number(&w, 0xff);
    uint8_t bit = 0;
    while (w.ok && bit < 16 && strcmp(pintle_quality_word((uint16_t)(1u << bit)), quality) != 0) {
        bit++;
    }
    bool ok = w.ok && bit < 16 && !w.word[w.at] && d->raw > 0 && mask > 0 && !(want & ~mask);
    g_strfreev(w.word);
    *mark = (struct pintle_mark){ (int8_t)((long)byte - l->at), (uint8_t)mask, (uint8_t)want,
                                  (uint8_t)(bit | (unless ? PINTLE_MARK_UNLESS : 0)) };
    return ok;
}

static int take_marks(const struct describing *d, cfg_t *from, const struct layout *l,
                      struct pintle_linear *row)
{
    unsigned count = cfg_size(from, "marks");
    struct pintle_mark *marks = count ? pintle_priv_loading_own((count + 1) * sizeof *marks) : NULL;
    for (unsigned i = 0; i < count; i++) {
        const char *text = cfg_getnstr(from, "marks", i);
        if (!take_mark(d, l, text, &marks[i])) {
            return pintle_priv_described_complain(
                d,
                "channel '%s': '%s' is no mark; write what is known against "
                "the value and when, as in \"stale when byte 0 mask 0xc0 is "
                "0x40\" or \"bus unless byte 3 is 0\"",
                cfg_title(from), text);
        }
    }
    row->marks = marks;
    return 0;
}

static const float *take_polynomial(cfg_t *from)
{
    unsigned terms = cfg_size(from, "polynomial");
    float *constants = terms ? pintle_priv_loading_own((terms + 1) * sizeof *constants) : NULL;
    for (unsigned i = 0; i < terms; i++) {
        constants[0] = (float)terms;
        constants[i + 1] = (float)cfg_getnfloat(from, "polynomial", i);
    }
    return constants;
}

/* Which setting scales it; -1 with the mistake said. */
static int scaled_by(const struct describing *d, cfg_t *from)
{
    const char *by = cfg_getstr(from, "scale-by");
    for (uint8_t i = 0; by && i < d->part->setting_count; i++) {
        if (strcmp(d->sheet->settings[i].name, by) == 0
            && d->part->settings[i].count == cfg_size(from, "scales")) {
            return i;
        }
    }
    return by ? pintle_priv_described_complain(
               d,
               "channel '%s': scale-by names a setting, and scales has a "
               "number for each of its options",
               cfg_title(from))
              : PINTLE_ALWAYS;
}

/* What all of its rows have in common. */
static int take_row(const struct describing *d, cfg_t *from, struct pintle_linear *row)
{
    struct layout l;
    const char *power_on = cfg_getstr(from, "power-on");
    if (!take_layout(d, from, &l)) {
        return pintle_priv_described_complain(
            d,
            "channel '%s' does not lie within the %u bytes that the measuring "
            "steps read; see its at, bytes, drop and bits",
            cfg_title(from), d->raw);
    }
    if (power_on && !take_integer(&l, power_on, &row->power_on)) {
        return pintle_priv_described_complain(
            d, "channel '%s': power-on is an integer of its bits, not '%s'", cfg_title(from),
            power_on);
    }
    d->part->flags |= power_on ? PINTLE_PART_FORGETS : 0;
    row->at = (uint8_t)l.at;
    row->bytes = (uint8_t)l.bytes;
    row->shift = (uint8_t)l.drop;
    row->bits = (uint8_t)l.bits;
    row->flags = (uint8_t)((l.is_signed ? PINTLE_LINEAR_SIGNED : 0)
                           | (l.low_first ? PINTLE_LINEAR_LITTLE_ENDIAN : 0)
                           | (power_on ? PINTLE_LINEAR_POWER_ON : 0));
    row->zero = (float)cfg_getfloat(from, "offset");
    row->constants = take_polynomial(from);
    row->shape = row->constants ? pintle_shape_polynomial : NULL;
    return take_ends(d, from, &l, row) != 0 ? -1 : take_marks(d, from, &l, row);
}

/* One row, or one for each option of the setting that scales it. */
static int take_rows(const struct describing *d, cfg_t *from, struct pintle_channel *channel)
{
    int by = scaled_by(d, from);
    unsigned count = by == PINTLE_ALWAYS ? 1 : cfg_size(from, "scales");
    struct pintle_linear *rows = pintle_priv_loading_own((count + 1) * sizeof *rows);
    struct pintle_linear row = { 0 };
    if (by < 0 || take_row(d, from, &row) != 0) {
        return -1;
    }
    for (unsigned i = 0; i < count; i++) {
        rows[i] = row;
        rows[i].scale = (float)(by == PINTLE_ALWAYS ? cfg_getfloat(from, "scale")
                                                    : cfg_getnfloat(from, "scales", i));
    }
    channel->scale_by = (uint8_t)by;
    channel->linear = rows;
    return 0;
}

/* What 'parts' and 'convert' say of a channel. */
static void take_words(cfg_t *from, const struct pintle_channel *channel,
                       struct pintle_channel_text *text)
{
    const char *unit = pintle_quantity_symbol((enum pintle_quantity)channel->quantity);
    double scale = cfg_getfloat(from, "scale");
    float accuracy = (float)cfg_getfloat(from, "accuracy");
    bool by = cfg_getstr(from, "scale-by") != NULL;
    char *factor = by ? g_strdup_printf("the scale of '%s'", cfg_getstr(from, "scale-by"))
                      : g_strdup_printf("%g", scale);
    char *formula = g_strdup_printf("raw x %s + %g%s", factor, cfg_getfloat(from, "offset"),
                                    cfg_size(from, "polynomial") ? ", then a polynomial" : "");
    char *resolution = g_strdup_printf("%g %s", scale, unit);
    char *said = g_strdup_printf("%g %s", (double)accuracy, unit);
    *text = (struct pintle_channel_text){
        "raw",
        pintle_priv_loading_text("%s", formula),
        by ? "by setting" : pintle_priv_loading_text("%s", resolution),
        accuracy > 0 ? pintle_priv_loading_text("%s", said) : "not stated",
        accuracy,
        channel->lowest,
        channel->highest,
        accuracy
    };
    g_free(said);
    g_free(resolution);
    g_free(formula);
    g_free(factor);
}

static int take_channel(const struct describing *d, cfg_t *from, struct pintle_channel *channel,
                        struct pintle_channel_text *text)
{
    const char *name = cfg_title(from);
    int quantity = find_quantity(d, cfg_getstr(from, "quantity"));
    if (quantity < 0) {
        return -1;
    }
    if (pintle_priv_conf_name(d->cfg, "a channel", name) != 0) {
        return -1;
    }
    if (strlen(name) >= sizeof channel->name || cfg_size(from, "range") != 2) {
        return pintle_priv_described_complain(
            d,
            "channel '%s' needs a name of up to %u letters, and a range of "
            "two numbers in %s",
            name, (unsigned)sizeof channel->name - 1,
            pintle_quantity_symbol((enum pintle_quantity)quantity));
    }
    *channel =
        (struct pintle_channel){ .quantity = (uint8_t)quantity,
                                 .decimals = (uint8_t)CLAMP(cfg_getint(from, "decimals"), 0, 6),
                                 .lowest = (float)cfg_getnfloat(from, "range", 0),
                                 .highest = (float)cfg_getnfloat(from, "range", 1) };
    g_strlcpy(channel->name, name, sizeof channel->name);
    take_words(from, channel, text);
    return take_rows(d, from, channel);
}

int pintle_priv_described_channels(struct describing *d)
{
    unsigned count = cfg_size(d->section, "channel");
    struct pintle_channel *channels = pintle_priv_loading_own((count + 1) * sizeof *channels);
    struct pintle_channel_text *texts = pintle_priv_loading_own((count + 1) * sizeof *texts);
    if (count == 0 || count > PINTLE_CHANNELS_MAX) {
        return pintle_priv_described_complain(d, "it needs 1 to %d channels", PINTLE_CHANNELS_MAX);
    }
    for (unsigned i = 0; i < count; i++) {
        if (take_channel(d, cfg_getnsec(d->section, "channel", i), &channels[i], &texts[i]) != 0) {
            return -1;
        }
    }
    d->part->channels = channels;
    d->part->channel_count = (uint8_t)count;
    d->sheet->channels = texts;
    return 0;
}
