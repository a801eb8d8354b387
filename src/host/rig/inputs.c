/* A converter's inputs as the rig describes them: with a divider or a thermistor in front, a name,
 * and only those in use. The sensor then has a part of its own, which differs from the catalogue's
 * in its channels. */
#include <glib.h>
#include <string.h>

#include "host/rig/described_values.h"
#include "host/rig/loading.h"
#include "pintle/shape.h"

struct making {
    cfg_t *cfg, *section;
    struct pintle_part *part;
    struct pintle_sheet *sheet;
    struct pintle_channel *channel;
    struct pintle_channel_text *text;
    struct pintle_linear *linear;
};

static int wrong_part(cfg_t *cfg, const struct pintle_sheet *sheet, const char *word)
{
    return pintle_priv_conf_complain(cfg, "'%s' is for a converter's voltages; a %s has none", word,
                                     sheet->part->name);
}

/* Two resistors: the input sees lower / (upper + lower) of what is to be measured. */
static int divide(const struct making *m, unsigned c, cfg_t *words)
{
    double upper = cfg_getnfloat(words, "divider", 0);
    double lower = cfg_getnfloat(words, "divider", 1);
    if (cfg_size(words, "divider") != 2 || !(upper >= 0) || !(lower > 0)) {
        return pintle_priv_conf_complain(
            m->cfg, "'divider' takes two resistors in ohms, from the voltage to the input "
                    "and from there to ground, as in { 100000, 15000 }");
    }
    m->linear[c].scale *= (float)((upper + lower) / lower);
    m->channel[c].highest *= (float)((upper + lower) / lower);
    m->text[c].formula = "V = code x reference / 1024 x (upper + lower) / lower";
    m->text[c].accuracy = "7 counts and the resistors'";
    m->text[c].accuracy_narrow *= (float)((upper + lower) / lower);
    m->text[c].accuracy_wide = m->text[c].accuracy_narrow;
    return 0;
}

static int warm(const struct making *m, unsigned c, cfg_t *words)
{
    float *constants = pintle_priv_loading_own(3 * sizeof *constants);
    bool ok = cfg_size(words, "thermistor") == 3;
    for (unsigned i = 0; ok && i < 3; i++) {
        constants[i] = (float)cfg_getnfloat(words, "thermistor", i);
        ok = constants[i] > 0;
    }
    if (!ok) {
        return pintle_priv_conf_complain(
            m->cfg, "'thermistor' takes three numbers: the resistor to the reference in "
                    "ohms, the thermistor's ohms at 25 degC, its B in kelvin, as in "
                    "{ 10000, 10000, 3950 }");
    }
    m->channel[c].number = 0; /* a share of the reference, whatever that is */
    m->linear[c].shape = pintle_shape_thermistor;
    m->linear[c].constants = constants;
    m->channel[c].quantity = PINTLE_QUANTITY_TEMPERATURE;
    m->channel[c].decimals = 2;
    m->channel[c].lowest = -55;
    m->channel[c].highest = 150;
    m->text[c].formula = "1/T = 1/298.15 K + ln(R / R25) / B, R = resistor x code / (1024 - code)";
    m->text[c].resolution = "about 0.1 degC at 25 degC";
    m->text[c].accuracy = "the thermistor's, and 7 counts";
    m->text[c].accuracy_narrow = m->text[c].accuracy_wide = 2;
    return 0;
}

static int take_words(const struct making *m, unsigned c, cfg_t *words)
{
    const char *as = cfg_getstr(words, "as");
    unsigned divider = cfg_size(words, "divider");
    unsigned thermistor = cfg_size(words, "thermistor");
    if (as && pintle_priv_conf_name(m->cfg, "a channel", as) != 0) {
        return -1;
    }
    if (as && strlen(as) >= sizeof m->channel[c].name) {
        return pintle_priv_conf_complain(
            m->cfg, "'%s' is too long for a channel's name: at most %u letters", as,
            (unsigned)sizeof m->channel[c].name - 1);
    }
    if (as) {
        g_strlcpy(m->channel[c].name, as, sizeof m->channel[c].name);
    }
    if (divider && thermistor) {
        return pintle_priv_conf_complain(
            m->cfg, "channel '%s' has a divider and a thermistor; it can have one",
            cfg_title(words));
    }
    return divider ? divide(m, c, words) : thermistor ? warm(m, c, words) : 0;
}

/* Copies of everything that is going to differ. */
static void copy(struct making *m, const struct pintle_sheet *from)
{
    unsigned count = from->part->channel_count;
    size_t size = from->described ? sizeof(struct described_part) : sizeof *m->part;
    m->part = pintle_priv_loading_own(size);
    m->sheet = pintle_priv_loading_own(sizeof *m->sheet);
    m->channel = pintle_priv_loading_own(count * sizeof *m->channel);
    m->text = pintle_priv_loading_own(count * sizeof *m->text);
    m->linear = pintle_priv_loading_own(count * sizeof *m->linear);
    memcpy(m->part, from->part, size);
    *m->sheet = *from;
    memcpy(m->channel, from->part->channels, count * sizeof *m->channel);
    memcpy(m->text, from->channels, count * sizeof *m->text);
    for (unsigned c = 0; c < count; c++) {
        if (m->channel[c].linear) {
            m->linear[c] = *m->channel[c].linear;
            m->channel[c].linear = &m->linear[c];
        }
    }
    m->part->channels = m->channel;
    m->sheet->part = m->part;
    m->sheet->channels = m->text;
    m->sheet->accuracies = NULL; /* resistors come on top */
}

/* The part's figures are for the reference that it has unless the rig says otherwise. */
static void follow_reference(const struct making *m, const struct pintle_rig_sensor *sensor)
{
    int n = pintle_sheet_number(m->sheet, "reference");
    for (unsigned c = 0; n >= 0 && c < m->part->channel_count; c++) {
        float factor = sensor->chosen.numbers[n] / m->part->numbers[n].initial;
        m->channel[c].highest = sensor->chosen.numbers[n];
        m->text[c].accuracy_narrow *= factor;
        m->text[c].accuracy_wide *= factor;
    }
}

/* Keep the channels that the rig names, in its order. */
static int choose(const struct making *m, const struct pintle_sheet *from)
{
    struct pintle_channel kept[PINTLE_MOST_CHANNELS];
    struct pintle_channel_text texts[PINTLE_MOST_CHANNELS];
    unsigned count = cfg_size(m->section, "use");
    for (unsigned i = 0; i < count; i++) {
        const char *name = cfg_getnstr(m->section, "use", i);
        int c = pintle_sheet_channel(from, name);
        if (c < 0 || i >= PINTLE_MOST_CHANNELS) {
            return pintle_priv_conf_complain(m->cfg, "'use': a %s has no channel '%s'",
                                             from->part->name, name);
        }
        kept[i] = m->channel[c];
        texts[i] = m->text[c];
    }
    if (count > 0) {
        memcpy(m->channel, kept, count * sizeof *kept);
        memcpy(m->text, texts, count * sizeof *texts);
        m->part->channel_count = (uint8_t)count;
    }
    return 0;
}

/* Does any channel of the section have this option? */
static bool anywhere(cfg_t *section, const char *option)
{
    for (unsigned i = 0; i < cfg_size(section, "channel"); i++) {
        if (cfg_size(cfg_getnsec(section, "channel", i), option) > 0
            && (strcmp(option, "as") != 0
                || cfg_getstr(cfg_getnsec(section, "channel", i), "as"))) {
            return true;
        }
    }
    return false;
}

int pintle_priv_inputs_sheet(cfg_t *cfg, cfg_t *section, struct pintle_rig_sensor *sensor)
{
    const struct pintle_sheet *from = sensor->sheet;
    struct making m = { .cfg = cfg, .section = section };
    bool analogue = anywhere(section, "divider") || anywhere(section, "thermistor");
    bool converter = pintle_sheet_number(from, "reference") >= 0;
    if (!converter && !analogue && !anywhere(section, "as") && cfg_size(section, "use") == 0) {
        return 0;
    }
    if (analogue && from->part->channels[0].quantity != PINTLE_QUANTITY_VOLTAGE) {
        return wrong_part(cfg, from, "divider or thermistor");
    }
    if (from->part->decode || from->part->channels[0].rows_by) {
        return pintle_priv_conf_complain(cfg,
                                         "the channels of a %s are worked out together; they "
                                         "can't be chosen with 'use' or renamed with 'as'",
                                         from->part->name);
    }
    if (anywhere(section, "thermistor") && !converter) {
        return wrong_part(cfg, from, "thermistor");
    }
    copy(&m, from);
    follow_reference(&m, sensor);
    for (unsigned i = 0; i < cfg_size(section, "channel"); i++) {
        cfg_t *words = cfg_getnsec(section, "channel", i);
        int c = pintle_sheet_channel(from, cfg_title(words));
        if (c >= 0 && take_words(&m, (unsigned)c, words) != 0) {
            return -1;
        }
    }
    sensor->sheet = m.sheet;
    return choose(&m, from);
}
