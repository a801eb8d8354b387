/* The channels of a part that a rig file describes. */
#include <glib.h>
#include <string.h>

#include "host/described.h"
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
        described_complain(d, "'%s' is no quantity; there are %s", word ? word : "", all->str);
    }
    g_string_free(all, TRUE);
    return found;
}

/* One row, or one for each option of the setting that scales it. */
static int take_rows(const struct describing *d, cfg_t *from, struct pintle_channel *channel)
{
    const char *by = cfg_getstr(from, "scale-by");
    unsigned count = by ? cfg_size(from, "scales") : 1;
    struct pintle_linear *rows = loading_own((count + 1) * sizeof *rows);
    long bytes = cfg_getint(from, "bytes");
    long drop = cfg_getint(from, "drop");
    long bits = cfg_getint(from, "bits") ? cfg_getint(from, "bits") : 8 * bytes - drop;
    const char *order =
        *cfg_getstr(from, "order") ? cfg_getstr(from, "order") : cfg_getstr(d->section, "order");
    bool is_signed = cfg_getbool(from, "signed");
    long at = cfg_getint(from, "at");
    if (bytes < 1 || bytes > 4 || drop < 0 || bits < 1 || drop + bits > 8 * bytes || at < 0
        || at + bytes > (long)d->raw) {
        return described_complain(
            d,
            "channel '%s' does not lie within the %u bytes that the measuring "
            "steps read; see its at, bytes, drop and bits",
            channel->name, d->raw);
    }
    channel->scale_by = PINTLE_ALWAYS;
    for (uint8_t i = 0; by && i < d->part->setting_count; i++) {
        if (strcmp(d->sheet->settings[i].name, by) == 0 && d->part->settings[i].count == count) {
            channel->scale_by = i;
        }
    }
    if (by && channel->scale_by == PINTLE_ALWAYS) {
        return described_complain(d,
                                  "channel '%s': scale-by names a setting, and scales has a "
                                  "number for each of its options",
                                  channel->name);
    }
    unsigned terms = cfg_size(from, "polynomial");
    float *constants = terms ? loading_own((terms + 1) * sizeof *constants) : NULL;
    for (unsigned i = 0; i < terms; i++) {
        constants[0] = (float)terms;
        constants[i + 1] = (float)cfg_getnfloat(from, "polynomial", i);
    }
    long power_on = cfg_getint(from, "power-on");
    for (unsigned i = 0; i < count; i++) {
        rows[i] = (struct pintle_linear){
            .at = (uint8_t)at,
            .bytes = (uint8_t)bytes,
            .shift = (uint8_t)drop,
            .bits = (uint8_t)bits,
            .flags = (uint8_t)((is_signed ? PINTLE_LINEAR_SIGNED : 0)
                               | (strcmp(order, "low") == 0 ? PINTLE_LINEAR_LITTLE_ENDIAN : 0)
                               | (power_on != INT32_MIN ? PINTLE_LINEAR_POWER_ON : 0)),
            .scale = (float)(by ? cfg_getnfloat(from, "scales", i) : cfg_getfloat(from, "scale")),
            .zero = (float)cfg_getfloat(from, "offset"),
            .lowest = INT32_MIN,
            .highest = INT32_MAX,
            .power_on = (int32_t)power_on,
            .shape = terms ? pintle_shape_polynomial : NULL,
            .constants = constants,
        };
    }
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
    *text = (struct pintle_channel_text){ "raw",
                                          loading_text(formula),
                                          by ? "by setting" : loading_text(resolution),
                                          accuracy > 0 ? loading_text(said) : "not stated",
                                          accuracy,
                                          channel->lowest,
                                          channel->highest,
                                          accuracy };
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
    if (strlen(name) >= sizeof channel->name || strpbrk(name, " .,\"")
        || cfg_size(from, "range") != 2) {
        return described_complain(d,
                                  "channel '%s' needs a name of up to %u letters, digits and "
                                  "hyphens, and a range of two numbers in %s",
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

int described_channels(struct describing *d)
{
    unsigned count = cfg_size(d->section, "channel");
    struct pintle_channel *channels = loading_own((count + 1) * sizeof *channels);
    struct pintle_channel_text *texts = loading_own((count + 1) * sizeof *texts);
    if (count == 0 || count > PINTLE_CHANNELS_MAX) {
        return described_complain(d, "it needs 1 to %d channels", PINTLE_CHANNELS_MAX);
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
