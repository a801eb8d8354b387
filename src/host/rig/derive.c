/* A derive section of a rig file: channels made of other channels. To everybody but the station it
 * is one more sensor, on no bus, behind all those that are chips. */
#include <glib.h>
#include <limits.h>
#include <math.h>
#include <string.h>

#include "host/rig/loading.h"

struct deriving {
    cfg_t *cfg, *words; /* where the reader is; the channel's section */
    struct pintle_rig_sensor *sensor;
    struct pintle_part *part;
    const char *name; /* of the channel */
    struct pintle_rig_made *made;
    struct pintle_channel *channel;
    struct pintle_channel_text *text;
};

static int complain(const struct deriving *d, const char *format, ...)
    __attribute__((format(printf, 2, 3)));

static int complain(const struct deriving *d, const char *format, ...)
{
    va_list args;
    va_start(args, format);
    char *text = g_strdup_vprintf(format, args);
    va_end(args);
    int result =
        pintle_priv_conf_complain(d->cfg, "derive '%s', %s: %s", d->sensor->name, d->name, text);
    g_free(text);
    return result;
}

static char *known_formulas(void)
{
    const struct pintle_formula_text *text = NULL;
    GString *all = g_string_new(PINTLE_RIG_BOARD_TEMPERATURE);
    for (size_t i = 0; (text = pintle_formula_at(i)) != NULL; i++) {
        g_string_append_printf(all, ", %s", text->name);
    }
    return g_string_free(all, FALSE);
}

static int take_formula(struct deriving *d)
{
    const char *is = cfg_getstr(d->words, "is");
    d->made->formula = is ? pintle_formula_find(is) : NULL;
    if (d->made->formula || g_strcmp0(is, PINTLE_RIG_BOARD_TEMPERATURE) == 0) {
        return 0;
    }
    char *all = known_formulas();
    int result = complain(d, "%s%s%s; there are %s", is ? "there is no formula '" : "it names none",
                          is ? is : "", is ? "'" : "", all);
    g_free(all);
    return result;
}

/* "cabin.temperature", of a sensor above or of this section's channels above. */
static const struct pintle_channel *take_input(struct deriving *d, unsigned i, const char *words)
{
    const struct pintle_rig *rig = pintle_priv_loading.rig;
    char **parts = g_strsplit(words, ".", 2);
    const struct pintle_channel *found = NULL;
    for (unsigned s = 0; s <= rig->sensors && parts[0] && parts[1] && !found; s++) {
        const struct pintle_rig_sensor *from = s < rig->sensors ? &rig->sensor[s] : d->sensor;
        int c =
            strcmp(from->name, parts[0]) == 0 ? pintle_sheet_channel(from->sheet, parts[1]) : -1;
        if (c >= 0) {
            d->made->of[i].sensor = s;
            d->made->of[i].channel = (unsigned)c;
            found = &from->sheet->part->channels[c];
        }
    }
    g_strfreev(parts);
    return found;
}

static int take_inputs(struct deriving *d, const struct pintle_channel **first)
{
    const struct pintle_formula_text *text = d->made->formula;
    unsigned wanted = text ? text->formula->inputs : 0;
    unsigned given = cfg_size(d->words, "of");
    if (given != wanted) {
        GString *names = g_string_new(NULL);
        for (unsigned i = 0; i < wanted; i++) {
            g_string_append_printf(names, "%s%s", i ? ", " : "", text->inputs[i]);
        }
        int result = complain(d, "it takes %u channel%s%s%s%s, and 'of' has %u", wanted,
                              wanted == 1 ? "" : "s", wanted ? " (" : "", names->str,
                              wanted ? ")" : "", given);
        g_string_free(names, TRUE);
        return result;
    }
    for (unsigned i = 0; i < given; i++) {
        const char *words = cfg_getnstr(d->words, "of", i);
        const struct pintle_channel *input = take_input(d, i, words);
        if (!input) {
            return complain(d,
                            "'%s' is no channel of a sensor above it; write "
                            "\"SENSOR.CHANNEL\"",
                            words);
        }
        unsigned takes = text->formula->takes[i];
        takes = takes == PINTLE_ANY && i > 0 ? (*first)->quantity : takes;
        if (input->quantity == PINTLE_QUANTITY_TIME
            || (takes != PINTLE_ANY && takes != input->quantity)) {
            return complain(
                d, "'%s' is a %s where %s takes a %s", words,
                pintle_quantity_word((enum pintle_quantity)input->quantity), text->name,
                takes == PINTLE_ANY ? "number" : pintle_quantity_word((enum pintle_quantity)takes));
        }
        *first = i == 0 ? input : *first;
    }
    return 0;
}

static const struct pintle_formula_number *number_of(const struct pintle_formula_text *text,
                                                     const char *name, unsigned *index)
{
    for (*index = 0; *index < text->formula->numbers; ++*index) {
        if (strcmp(text->numbers[*index].name, name) == 0) {
            return &text->numbers[*index];
        }
    }
    return NULL;
}

static int take_number(struct deriving *d, const struct pintle_formula_text *text, float *numbers,
                       const char *words)
{
    struct pintle_problem problem = { 0 };
    unsigned index = 0;
    char **sides = g_strsplit(words, "=", 2);
    const struct pintle_formula_number *number = number_of(text, sides[0] ? sides[0] : "", &index);
    int result = 0;
    if (!number || !sides[1]) {
        result = complain(d, "'%s' sets no number of %s; it has %s%s%s", words, text->name,
                          text->formula->numbers > 0 ? text->numbers[0].name : "none",
                          text->formula->numbers > 1 ? ", " : "",
                          text->formula->numbers > 1 ? text->numbers[1].name : "");
    } else if (!pintle_formula_number_parse(number, sides[1], &numbers[index], &problem)) {
        result = complain(d, "%s", problem.text);
    }
    g_strfreev(sides);
    return result;
}

static int take_numbers(struct deriving *d)
{
    const struct pintle_formula_text *text = d->made->formula;
    unsigned count = text ? text->formula->numbers : 0;
    float *numbers = pintle_priv_loading_own((count + 1) * sizeof *numbers);
    for (unsigned i = 0; i < count; i++) {
        numbers[i] = text->numbers[i].initial;
    }
    if (!text && cfg_size(d->words, "set") > 0) {
        return complain(d, "it has no numbers to set");
    }
    for (unsigned i = 0; i < cfg_size(d->words, "set"); i++) {
        if (text && take_number(d, text, numbers, cfg_getnstr(d->words, "set", i)) != 0) {
            return -1;
        }
    }
    for (unsigned i = 0; i < count; i++) {
        if (isnan(numbers[i])) {
            return complain(d, "it must know its %s; add set = { \"%s=...\" }, in %s",
                            text->numbers[i].name, text->numbers[i].name,
                            text->numbers[i].unit[0] ? text->numbers[i].unit : "no unit");
        }
    }
    d->made->numbers = numbers;
    d->made->count = count;
    return 0;
}

/* Of a table: x, y, x, y, x rising. */
static int take_points(struct deriving *d)
{
    unsigned count = cfg_size(d->words, "points");
    bool table = d->made->formula && d->made->formula->formula == &pintle_through_points;
    if (!table) {
        return count > 0 ? complain(d, "only through-points has points") : 0;
    }
    float *numbers = pintle_priv_loading_own((count + 1) * sizeof *numbers);
    bool rising = true;
    for (unsigned i = 0; i < count; i++) {
        numbers[i] = (float)cfg_getnfloat(d->words, "points", i);
        rising =
            rising && isfinite(numbers[i]) && (i % 2 == 1 || i < 2 || numbers[i] > numbers[i - 2]);
    }
    if (count < 4 || count % 2 != 0 || !rising) {
        return complain(d, "'points' are pairs, two or more, the first of each rising, in base "
                           "units, as in { 0.5, 0, 4.5, 100 }");
    }
    d->made->numbers = numbers;
    d->made->count = count;
    return 0;
}

static int take_window(struct deriving *d)
{
    const char *over = cfg_getstr(d->words, "over");
    const struct pintle_formula_text *text = d->made->formula;
    bool windowed = text && text->formula->windowed;
    bool may_lack =
        windowed && (text->formula == &pintle_least || text->formula == &pintle_greatest);
    int64_t us = 0;
    if (!windowed || !over) {
        return over                    ? complain(d, "it has no window of time")
               : windowed && !may_lack ? complain(d, "it looks back; add over = \"10min\"")
                                       : 0;
    }
    if (!pintle_duration_parse(over, &us) || us < 1000 || us / 1000 > INT32_MAX) {
        return complain(d, "'%s' is no window of time; write \"10min\", up to 24 days", over);
    }
    d->made->over_ms = (uint32_t)(us / 1000);
    return 0;
}

static int take_quantity(struct deriving *d, const struct pintle_channel *first)
{
    const struct pintle_formula_text *text = d->made->formula;
    const char *word = cfg_getstr(d->words, "quantity");
    enum pintle_quantity quantity =
        text && first ? pintle_derive_gives(text->formula, (enum pintle_quantity)first->quantity)
                      : PINTLE_QUANTITY_TEMPERATURE;
    if (word && !(text && text->formula == &pintle_through_points)) {
        return complain(d, "it gives a %s, whatever 'quantity' says; take that out",
                        pintle_quantity_word(quantity));
    }
    for (int q = 0; word && q <= PINTLE_QUANTITY_COUNT; q++) {
        quantity = (enum pintle_quantity)q;
        if (strcmp(pintle_quantity_word(quantity), word) == 0) {
            break;
        }
    }
    if (quantity == PINTLE_QUANTITY_COUNT) {
        return complain(d, "'%s' is no quantity; write one as 'pintle parts' does, \"temperature\"",
                        word);
    }
    d->channel->quantity = (uint8_t)quantity;
    return 0;
}

static void describe(struct deriving *d, const struct pintle_channel *first)
{
    const struct pintle_formula_text *text = d->made->formula;
    long decimals = cfg_getint(d->words, "decimals");
    unsigned usual = !text || !first                              ? 1
                     : text->decimals == PINTLE_DECIMALS_AS_INPUT ? first->decimals
                                                                  : text->decimals;
    g_strlcpy(d->channel->name, d->name, sizeof d->channel->name);
    d->channel->decimals =
        decimals >= 0 && decimals <= PINTLE_DECIMALS_MAX ? (uint8_t)decimals : (uint8_t)usual;
    d->channel->lowest = -1e30f;
    d->channel->highest = 1e30f;
    *d->text = (struct pintle_channel_text){ .symbol = d->name,
                                             .formula = text ? text->as : "the machine's own",
                                             .resolution = "that of what it is made of",
                                             .accuracy = "that of what it is made of" };
}

static int take_channel(struct deriving *d)
{
    const struct pintle_channel *first = NULL;
    if (pintle_priv_conf_name(d->cfg, "a channel", d->name) != 0) {
        return -1;
    }
    if (strlen(d->name) >= sizeof d->channel->name) {
        return complain(d, "the name is too long: at most %u letters",
                        (unsigned)sizeof d->channel->name - 1);
    }
    if (take_formula(d) != 0 || take_inputs(d, &first) != 0 || take_numbers(d) != 0
        || take_points(d) != 0 || take_window(d) != 0 || take_quantity(d, first) != 0) {
        return -1;
    }
    describe(d, first);
    return 0;
}

/* A part of as many channels, which no chip is. */
static void prepare(struct deriving *d, unsigned count)
{
    struct pintle_part *part = pintle_priv_loading_own(sizeof *part);
    struct pintle_sheet *sheet = pintle_priv_loading_own(sizeof *sheet);
    d->part = part;
    d->channel = pintle_priv_loading_own(count * sizeof *d->channel);
    d->text = pintle_priv_loading_own(count * sizeof *d->text);
    d->made = pintle_priv_loading_own(count * sizeof *d->made);
    *part = (struct pintle_part){ .name = "derived", .channels = d->channel };
    *sheet = (struct pintle_sheet){
        .part = part, .what = "made of other channels", .source = "-", .channels = d->text
    };
    d->sensor->sheet = sheet;
    d->sensor->made = d->made;
    d->sensor->bus = UINT_MAX;
    d->sensor->where = pintle_priv_loading_text("no bus");
}

int pintle_priv_loading_derive(cfg_t *cfg, cfg_opt_t *opt)
{
    struct pintle_rig *rig = pintle_priv_loading.rig;
    cfg_t *section = pintle_priv_conf_section(opt);
    struct pintle_rig_sensor sensor = { .name =
                                            pintle_priv_loading_text("%s", cfg_title(section)) };
    struct deriving d = { .cfg = cfg, .sensor = &sensor };
    unsigned count = cfg_size(section, "channel");
    struct pintle_problem unsaid = { 0 };
    if (pintle_priv_conf_name(cfg, "a sensor", sensor.name) != 0) {
        return -1;
    }
    if (count == 0 || count > PINTLE_MOST_CHANNELS) {
        return pintle_priv_conf_complain(cfg, "derive '%s' needs 1 to %d channels", sensor.name,
                                         PINTLE_MOST_CHANNELS);
    }
    if (rig->sensors > 0 && pintle_rig_find_sensor(rig, sensor.name, &unsaid) >= 0) {
        return pintle_priv_conf_complain(
            cfg, "there is a sensor '%s' already; give each its own name", sensor.name);
    }
    prepare(&d, count);
    for (unsigned i = 0; i < count; i++, d.made++, d.channel++, d.text++) {
        d.words = cfg_getnsec(section, "channel", i);
        d.name = cfg_title(d.words);
        if (take_channel(&d) != 0) {
            return -1;
        }
        d.part->channel_count++;
        sensor.channel[i].also = PINTLE_UNIT_COUNT;
        sensor.channel[i].twin = -1;
        sensor.channel[i].unit =
            d.channel->quantity == PINTLE_QUANTITY_LENGTH ? PINTLE_UNIT_METRE : PINTLE_UNIT_COUNT;
        if (pintle_priv_loading_channel(&sensor, d.words) != 0) {
            return -1;
        }
    }
    rig->sensor = g_renew(struct pintle_rig_sensor, rig->sensor, rig->sensors + 1);
    rig->sensor[rig->sensors++] = sensor;
    return 0;
}
