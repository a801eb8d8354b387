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

/* A row being read: from its own section, and where that is silent from its channel's. */
struct source {
    const struct describing *d;
    cfg_t *channel, *row;
    uint8_t channel_index;
};

/* The section that says this. */
static cfg_t *says(const struct source *from, const char *option)
{
    cfg_opt_t *own = from->row ? cfg_getopt(from->row, option) : NULL;
    return own && cfg_opt_size(own) > 0 && !(own->flags & CFGF_RESET) ? from->row : from->channel;
}

static long whole(const struct source *from, const char *option)
{
    return cfg_getint(says(from, option), option);
}

/* Where in the raw block a channel's integer lies. */
struct layout {
    long at, bytes, drop, bits;
    bool is_signed, low_first;
};

static bool take_layout(const struct source *from, struct layout *l)
{
    const struct describing *d = from->d;
    const char *order = cfg_getstr(says(from, "order"), "order");
    l->at = cfg_getint(from->channel, "at");
    l->bytes = whole(from, "bytes");
    l->drop = whole(from, "drop");
    l->bits = whole(from, "bits") ? whole(from, "bits") : 8 * l->bytes - l->drop;
    l->is_signed = cfg_getbool(says(from, "signed"), "signed");
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
static int take_ends(const struct source *source, const struct layout *l, struct pintle_linear *row)
{
    const struct describing *d = source->d;
    cfg_t *from = says(source, "ends");
    unsigned count = cfg_size(from, "ends");
    const char *first = count ? cfg_getnstr(from, "ends", 0) : "";
    if (count == 0 || (count == 1 && strcmp(first, "none") == 0)) {
        uint64_t top = ((uint64_t)1 << (l->bits - l->is_signed)) - 1;
        bool none = count == 1;
        row->lowest = l->is_signed ? (none ? INT32_MIN : (int32_t)(-(int64_t)top - 1)) : -1;
        top -= !l->is_signed && l->bits == 32; /* the last code of all means nowhere */
        row->highest = none ? (l->is_signed ? INT32_MAX : -1) : (int32_t)(uint32_t)top;
        return none && l->is_signed && l->bits == 32 ? pintle_priv_described_complain(
                   d, "channel '%s': 32 bits always end somewhere", cfg_title(source->channel))
                                                     : 0;
    }
    bool open = count == 2 && !l->is_signed && strcmp(first, "none") == 0;
    row->lowest = -1;
    if (count == 2 && (open || take_integer(l, first, &row->lowest))
        && take_integer(l, cfg_getnstr(from, "ends", 1), &row->highest)) {
        return 0;
    }
    return pintle_priv_described_complain(
        d,
        "channel '%s': ends takes the two integers at which its scale ends, "
        "as in { 0, 4095 }, { none, 4095 } or { none }",
        cfg_title(source->channel));
}

/* "stale when byte 0 mask 0xc0 is 0x40", "bus unless byte 3 is 0", "range when bytes 0 to 1 is
 * 0xffff": bytes are counted in what the measuring steps read, the first one highest unless the
 * channel has it otherwise. */
static bool take_mark(const struct describing *d, const struct layout *l, const char *text,
                      struct wide_mark *mark)
{
    struct described_words w = { .d = d, .word = g_strsplit(text, " ", -1), .ok = true };
    const char *quality = pintle_priv_described_word(&w);
    const char *how = pintle_priv_described_word(&w);
    bool unless = g_strcmp0(how, "unless") == 0;
    w.ok = unless || g_strcmp0(how, "when") == 0;
    bool several = g_strcmp0(w.word[w.at], "bytes") == 0;
    pintle_priv_described_keyword(&w, several ? "bytes" : "byte");
    uint32_t first = pintle_priv_described_number(&w, d->raw > 0 ? d->raw - 1 : 0);
    if (several) {
        pintle_priv_described_keyword(&w, "to");
    }
    uint32_t last = several ? pintle_priv_described_number(&w, d->raw > 0 ? d->raw - 1 : 0) : first;
    w.ok = w.ok && last >= first && last - first < 4;
    uint32_t most = w.ok ? UINT32_MAX >> (24 - 8 * (last - first)) : 0xff;
    bool masked = g_strcmp0(w.word[w.at], "mask") == 0;
    w.at += masked;
    uint32_t mask = masked ? pintle_priv_described_number(&w, most) : most;
    pintle_priv_described_keyword(&w, "is");
    uint32_t want = pintle_priv_described_number(&w, most);
    uint8_t bit = 0;
    while (w.ok && bit < 32 && strcmp(pintle_quality_word((pintle_marks)1 << bit), quality) != 0) {
        bit++;
    }
    bool ok = w.ok && bit < 32 && !w.word[w.at] && d->raw > 0 && mask > 0 && !(want & ~mask);
    g_strfreev(w.word);
    *mark = (struct wide_mark){ .at = (uint8_t)first,
                                .count = (uint8_t)(last - first + 1),
                                .low_first = l->low_first,
                                .unless = unless,
                                .quality = (pintle_marks)1 << (bit & 31),
                                .mask = mask,
                                .want = want };
    return ok;
}

/* One byte's is the row's own; others are of the channel, whatever row it has. */
static bool place_mark(const struct source *source, const struct layout *l,
                       const struct wide_mark *wide, struct pintle_mark *mark)
{
    struct described_part *all = (struct described_part *)(void *)source->d->part;
    uint8_t bit = 0;
    while (wide->quality >> bit != 1) {
        bit++;
    }
    *mark = (struct pintle_mark){ (int8_t)((long)wide->at - l->at), (uint8_t)wide->mask,
                                  (uint8_t)wide->want,
                                  (uint8_t)(bit | (wide->unless ? PINTLE_MARK_UNLESS : 0)) };
    if (wide->count == 1) {
        return true;
    }
    struct wide_mark its = *wide;
    its.channel = source->channel_index;
    for (unsigned i = 0; i < all->marks; i++) { /* of another row of the channel */
        if (memcmp(&all->mark[i], &its, sizeof its) == 0) {
            return true;
        }
    }
    if (says(source, "marks") == source->row || all->marks == WIDE_MARKS) {
        return false;
    }
    all->mark[all->marks++] = its;
    return true;
}

static int take_marks(const struct source *source, const struct layout *l,
                      struct pintle_linear *row)
{
    const struct describing *d = source->d;
    cfg_t *from = says(source, "marks");
    unsigned count = cfg_size(from, "marks");
    struct pintle_mark *marks = count ? pintle_priv_loading_own((count + 1) * sizeof *marks) : NULL;
    unsigned used = 0;
    for (unsigned i = 0; i < count; i++) {
        const char *text = cfg_getnstr(from, "marks", i);
        struct wide_mark wide = { 0 };
        bool ok = take_mark(d, l, text, &wide) && place_mark(source, l, &wide, &marks[used]);
        used += ok && wide.count == 1;
        if (!ok) {
            return pintle_priv_described_complain(
                d,
                "channel '%s': '%s' is no mark; write what is known against "
                "the value and when, as in \"stale when byte 0 mask 0xc0 is "
                "0x40\", \"bus unless byte 3 is 0\" or, not in a row, \"range when bytes 0 to 1 is "
                "0xffff\"",
                cfg_title(source->channel), text);
        }
    }
    if (used < count) { /* the first behind the last of its own ends them */
        marks[used] = (struct pintle_mark)PINTLE_MARKS_END();
    }
    row->marks = marks;
    return 0;
}

static void take_polynomial(const struct source *source, struct pintle_linear *row)
{
    cfg_t *from = says(source, "polynomial");
    unsigned terms = cfg_size(from, "polynomial");
    double above = cfg_getfloat(says(source, "polynomial-above"), "polynomial-above");
    float *constants = terms ? pintle_priv_loading_own((terms + 2) * sizeof *constants) : NULL;
    for (unsigned i = 0; i < terms; i++) {
        constants[0] = (float)above;
        constants[1] = (float)terms;
        constants[i + 2] = (float)cfg_getnfloat(from, "polynomial", i);
    }
    row->shape = above > 0 ? pintle_shape_above : pintle_shape_polynomial;
    row->constants = above > 0 || !terms ? constants : constants + 1;
    row->shape = terms ? row->shape : NULL;
}

static int take_row(const struct source *from, struct pintle_linear *row)
{
    struct layout l;
    const struct describing *d = from->d;
    const char *name = cfg_title(from->channel);
    const char *power_on = cfg_getstr(says(from, "power-on"), "power-on");
    if (!take_layout(from, &l)) {
        return pintle_priv_described_complain(
            d,
            "channel '%s' does not lie within the %u bytes that the measuring "
            "steps read; see its at, bytes, drop and bits",
            name, d->raw);
    }
    if (power_on && !take_integer(&l, power_on, &row->power_on)) {
        return pintle_priv_described_complain(
            d, "channel '%s': power-on is an integer of its bits, not '%s'", name, power_on);
    }
    d->part->flags |= power_on ? PINTLE_PART_FORGETS : 0;
    row->bytes = (uint8_t)l.bytes;
    row->shift = (uint8_t)l.drop;
    row->bits = (uint8_t)l.bits;
    row->flags = (uint8_t)((l.is_signed ? PINTLE_LINEAR_SIGNED : 0)
                           | (l.low_first ? PINTLE_LINEAR_LITTLE_ENDIAN : 0)
                           | (power_on ? PINTLE_LINEAR_POWER_ON : 0)
                           | (cfg_getbool(says(from, "clamp"), "clamp") ? PINTLE_LINEAR_CLAMP : 0));
    row->scale = (float)cfg_getfloat(says(from, "scale"), "scale");
    row->zero = (float)cfg_getfloat(says(from, "offset"), "offset");
    take_polynomial(from, row);
    return take_ends(from, &l, row) != 0 ? -1 : take_marks(from, &l, row);
}

/* The set of settings that a list names. */
static bool take_set(const struct describing *d, cfg_t *from, const char *option, uint16_t *set)
{
    *set = 0;
    for (unsigned i = 0; i < cfg_size(from, option); i++) {
        int setting = pintle_priv_described_setting(d, cfg_getnstr(from, option, i));
        if (setting < 0) {
            pintle_priv_described_complain(
                d, "channel '%s': %s names settings that are described above, not '%s'",
                cfg_title(from), option, cfg_getnstr(from, option, i));
            return false;
        }
        *set |= (uint16_t)(1u << setting);
    }
    return true;
}

/* Which row an index is, by the names of the options: "full 16g". */
static char *row_title(const struct describing *d, uint16_t set, unsigned index)
{
    char *title = g_strdup("");
    for (int s = d->part->setting_count - 1; s >= 0; s--) {
        if (set >> s & 1) {
            unsigned count = d->part->settings[s].count;
            char *longer = g_strdup_printf("%s%s%s", d->sheet->settings[s].options[index % count],
                                           *title ? " " : "", title);
            index /= count;
            g_free(title);
            title = longer;
        }
    }
    return title;
}

/* One row, or one for each combination of the settings that pick it. */
static int take_rows(const struct describing *d, cfg_t *from, struct pintle_channel *channel)
{
    unsigned count = 1;
    for (unsigned s = 0; s < d->part->setting_count; s++) {
        count *= channel->rows_by >> s & 1 ? d->part->settings[s].count : 1;
    }
    if ((channel->rows_by ? count : 0) != cfg_size(from, "row") || count > 255) {
        return pintle_priv_described_complain(
            d, "channel '%s' has %u rows, and its rows-by asks for %u", cfg_title(from),
            (unsigned)cfg_size(from, "row"), channel->rows_by ? count : 0);
    }
    struct pintle_linear *rows = pintle_priv_loading_own((count + 1) * sizeof *rows);
    channel->linear = rows;
    for (unsigned i = 0; i < count; i++) {
        char *title = row_title(d, channel->rows_by, i);
        struct source source = { d, from, channel->rows_by ? cfg_gettsec(from, "row", title) : NULL,
                                 (uint8_t)(channel - d->part->channels) };
        int result = channel->rows_by && !source.row ? pintle_priv_described_complain(
                         d, "channel '%s' has no row \"%s\"", cfg_title(from), title)
                                                     : take_row(&source, &rows[i]);
        g_free(title);
        if (result != 0) {
            return -1;
        }
    }
    return 0;
}

/* What scales it, and where it comes from. */
static int take_ways(const struct describing *d, cfg_t *from, struct pintle_channel *channel)
{
    const char *times = cfg_getstr(from, "times");
    const char *divided = cfg_getstr(from, "divided-by");
    const char *name = times ? times : divided;
    const char *input = cfg_getstr(from, "input");
    int number = name ? pintle_sheet_number(d->sheet, name) : -1;
    int index = input ? pintle_priv_described_input(d, input) : -1;
    if ((times && divided) || (name && number < 0)) {
        return pintle_priv_described_complain(
            d, "channel '%s': times or divided-by names one number that is described above",
            cfg_title(from));
    }
    if (input && index < 0) {
        return pintle_priv_described_complain(d, "channel '%s': there is no input '%s'",
                                              cfg_title(from), input);
    }
    d->part->factor = pintle_part_factor;
    channel->at = (uint8_t)cfg_getint(from, "at");
    channel->number = (uint8_t)((number + 1) | (divided ? PINTLE_DIVIDED : 0));
    channel->input = (uint16_t)(input ? 1u << index : 0);
    return take_set(d, from, "scaled-by", &channel->scaled_by)
                   && take_set(d, from, "rows-by", &channel->rows_by)
               ? take_rows(d, from, channel)
               : -1;
}

/* What 'parts' and 'convert' say of a channel. */
static void take_words(cfg_t *from, const struct pintle_channel *channel,
                       struct pintle_channel_text *text)
{
    const char *unit = pintle_quantity_symbol((enum pintle_quantity)channel->quantity);
    double scale = cfg_getfloat(from, "scale");
    float accuracy = (float)cfg_getfloat(from, "accuracy");
    float percent = (float)cfg_getfloat(from, "accuracy-percent");
    float most = MAX(ABS(channel->lowest), ABS(channel->highest));
    const char *times = cfg_getstr(from, "times");
    const char *divided = cfg_getstr(from, "divided-by");
    bool by = cfg_size(from, "scaled-by") + cfg_size(from, "rows-by") > 0 || times || divided;
    GString *how = g_string_new(NULL);
    g_string_printf(how, "%g", scale);
    for (unsigned i = 0; i < cfg_size(from, "scaled-by"); i++) {
        g_string_append_printf(how, " x factor of '%s'", cfg_getnstr(from, "scaled-by", i));
    }
    if (times || divided) {
        g_string_append_printf(how, "%s%s", times ? " x " : " / ", times ? times : divided);
    }
    char *factor = g_string_free(how, FALSE);
    const char *value = cfg_getstr(from, "value");
    bool plain = scale == 1 && cfg_getfloat(from, "offset") == 0; /* nothing is said of "raw" */
    char *formula =
        value && plain
            ? g_strdup(value)
            : g_strdup_printf("raw x %s + %g%s%s%s", factor, cfg_getfloat(from, "offset"),
                              cfg_size(from, "polynomial") ? ", then a polynomial" : "",
                              value ? ", then " : "", value ? value : "");
    char *resolution = g_strdup_printf("%g %s", scale, unit);
    char *said =
        percent > 0 && accuracy > 0
            ? g_strdup_printf("%g %s and %g percent", (double)accuracy, unit, (double)percent)
        : percent > 0 ? g_strdup_printf("%g percent", (double)percent)
                      : g_strdup_printf("%g %s", (double)accuracy, unit);
    *text = (struct pintle_channel_text){ "raw",
                                          pintle_priv_loading_text("%s", formula),
                                          value ? "by what it is made of"
                                          : by  ? "by setting"
                                                : pintle_priv_loading_text("%s", resolution),
                                          accuracy > 0 || percent > 0
                                              ? pintle_priv_loading_text("%s", said)
                                              : "not stated",
                                          accuracy + percent / 100 * most,
                                          channel->lowest,
                                          channel->highest,
                                          accuracy + percent / 100 * most };
    g_free(said);
    g_free(resolution);
    g_free(formula);
    g_free(factor);
}

static int take_channel(const struct describing *d, cfg_t *from, struct pintle_channel *channel,
                        struct pintle_channel_text *text, struct pintle_accuracy *closer)
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
    *channel = (struct pintle_channel){ .quantity = (uint8_t)quantity,
                                        .decimals = (uint8_t)CLAMP(cfg_getint(from, "decimals"), 0,
                                                                   PINTLE_DECIMALS_MAX),
                                        .lowest = (float)cfg_getnfloat(from, "range", 0),
                                        .highest = (float)cfg_getnfloat(from, "range", 1) };
    g_strlcpy(channel->name, name, sizeof channel->name);
    take_words(from, channel, text);
    float percent = (float)cfg_getfloat(from, "accuracy-percent");
    *closer = (struct pintle_accuracy){ percent > 0 ? (float)cfg_getfloat(from, "accuracy") : 0,
                                        percent / 100, 0 };
    if (quantity == PINTLE_QUANTITY_TIME && cfg_size(d->section, "clock") > 0) {
        return 0; /* by the order of its bytes */
    }
    return take_ways(d, from, channel);
}

int pintle_priv_described_channels(struct describing *d)
{
    unsigned count = cfg_size(d->section, "channel");
    struct pintle_channel *channels = pintle_priv_loading_own((count + 1) * sizeof *channels);
    struct pintle_channel_text *texts = pintle_priv_loading_own((count + 1) * sizeof *texts);
    struct pintle_accuracy *closer = pintle_priv_loading_own((count + 1) * sizeof *closer);
    bool other = cfg_size(d->section, "memory") > 0 || cfg_size(d->section, "display") > 0;
    if ((count == 0 && !other) || count > PINTLE_MOST_CHANNELS) {
        return pintle_priv_described_complain(d, "it needs 1 to %d channels", PINTLE_MOST_CHANNELS);
    }
    d->part->channels = channels;
    for (unsigned i = 0; i < count; i++) {
        if (take_channel(d, cfg_getnsec(d->section, "channel", i), &channels[i], &texts[i],
                         &closer[i])
            != 0) {
            return -1;
        }
    }
    d->part->channel_count = (uint8_t)count;
    d->sheet->channels = texts;
    d->sheet->accuracies = closer;
    return 0;
}
