/* Steps as a rig file writes them, a verb and what it needs:
 *
 *     write REGISTER VALUE            expect REGISTER VALUE [mask MASK]
 *     write REGISTER VALUE loose      write REGISTER VALUE plain
 *     change REGISTER VALUE mask MASK expect fetched COUNT CHECKSUM
 *     command CODE [with BYTE...]     refuse REGISTER VALUE [mask MASK]
 *     call                            poll REGISTER VALUE [mask MASK] within DURATION
 *     wait DURATION [and SETTING...]  read REGISTER [COUNT] [until CONDITION]
 *     power CODE DURATION             fetch COUNT [until CONDITION]
 *                                     check CHECKSUM [of COUNT]
 *
 * A condition is "byte N [mask MASK] is VALUE within DURATION". In front may stand "for INPUT" or
 * "only SETTING OPTION".
 */
#include <glib.h>
#include <string.h>

#include "host/rig/described.h"

const char *pintle_priv_described_word(struct described_words *w)
{
    const char *word = w->word[w->at];
    w->at += word != NULL;
    return word;
}

void pintle_priv_described_keyword(struct described_words *w, const char *word)
{
    const char *is = pintle_priv_described_word(w);
    w->ok = w->ok && is && strcmp(is, word) == 0;
}

/* "'ok'": characters, the first in the highest byte. */
static uint32_t characters(struct described_words *w, const char *word, uint32_t most)
{
    size_t count = strlen(word);
    uint32_t value = 0;
    w->ok = w->ok && count > 2 && count <= 6 && word[count - 1] == '\'';
    for (size_t i = 1; i + 1 < count; i++) {
        value = value << 8 | (uint8_t)word[i];
    }
    w->ok = w->ok && value <= most;
    return value;
}

uint32_t pintle_priv_described_number(struct described_words *w, uint32_t most)
{
    const char *word = pintle_priv_described_word(w);
    char *end = NULL;
    if (word && word[0] == '\'') {
        return characters(w, word, most);
    }
    guint64 value = word ? g_ascii_strtoull(word, &end, 0) : 0;
    w->ok = w->ok && word && end > word && *end == '\0' && word[0] != '-' && value <= most;
    return (uint32_t)value;
}

#define TRIM_MOST 64 /* bytes that a sensor has room for */

static const struct pintle_reg *reg(struct described_words *w)
{
    static const struct pintle_reg nothing = PINTLE_REG(0, 1, 0);
    const char *name = pintle_priv_described_word(w);
    const struct pintle_map_reg *found = name ? pintle_priv_described_reg(w->d, name) : NULL;
    w->ok = w->ok && found;
    return found ? &found->reg : &nothing;
}

static uint32_t all_of(const struct pintle_reg *r)
{
    return r->width == 4 ? UINT32_MAX : ((uint32_t)1 << 8 * r->width) - 1;
}

/* "mask 0xf0", or all bits where it isn't there. */
static uint32_t mask(struct described_words *w, const struct pintle_reg *r)
{
    if (!w->word[w->at] || strcmp(w->word[w->at], "mask") != 0) {
        return all_of(r);
    }
    pintle_priv_described_keyword(w, "mask");
    return pintle_priv_described_number(w, all_of(r));
}

/* The next word, if it is this one. */
static bool is_next(struct described_words *w, const char *word)
{
    bool is = g_strcmp0(w->word[w->at], word) == 0;
    w->at += is;
    return is;
}

/* The rest of the words, up to `until`, as a duration in microseconds. */
static uint32_t duration(struct described_words *w, const char *until)
{
    GString *text = g_string_new(NULL);
    int64_t us = 0;
    while (w->word[w->at] && (!until || strcmp(w->word[w->at], until) != 0)) {
        g_string_append_printf(text, "%s ", pintle_priv_described_word(w));
    }
    w->ok = w->ok && pintle_duration_parse(g_strstrip(text->str), &us) && us <= 60000000;
    g_string_free(text, TRUE);
    return (uint32_t)us;
}

/* "within 60 ms": milliseconds, up to what a step can hold. */
static uint32_t limit(struct described_words *w)
{
    pintle_priv_described_keyword(w, "within");
    uint32_t ms = duration(w, NULL) / 1000;
    w->ok = w->ok && ms >= 1 && ms <= 0xfff;
    return ms & 0xfff;
}

/* "until byte 0 mask 0xc0 is 0 within 100 ms", where it is there. */
static uint32_t condition(struct described_words *w, uint32_t count)
{
    if (!is_next(w, "until")) {
        return 0;
    }
    pintle_priv_described_keyword(w, "byte");
    uint32_t byte = pintle_priv_described_number(w, count > 0 ? MIN(count - 1, 15) : 0);
    uint32_t bits = is_next(w, "mask") ? pintle_priv_described_number(w, 0xff) : 0xff;
    pintle_priv_described_keyword(w, "is");
    uint32_t want = pintle_priv_described_number(w, 0xff);
    w->ok = w->ok && bits > 0 && !(want & ~bits);
    return PINTLE_UNTIL(byte & 15, bits & 0xff, want & 0xff, limit(w));
}

/* "trim COEF 18": what the factory put there, read once. */
static struct pintle_step take_trim(struct described_words *w)
{
    const struct pintle_reg *r = reg(w);
    uint32_t count = pintle_priv_described_number(w, TRIM_MOST);
    w->ok = w->ok && count > 0 && w->d->part->trim_size + count <= TRIM_MOST;
    w->d->part->trim_size = (uint8_t)(w->d->part->trim_size + (w->ok ? count : 0));
    return (struct pintle_step)PINTLE_TRIM(r->address, (uint8_t)count);
}

static struct pintle_step take_write(struct described_words *w)
{
    const struct pintle_reg *r = reg(w);
    uint32_t value = pintle_priv_described_number(w, all_of(r));
    uint8_t flag = is_next(w, "plain")                                         ? PINTLE_STEP_PLAIN
                   : is_next(w, "loose") || (r->flags & PINTLE_REG_WRITE_ONLY) ? PINTLE_STEP_LOOSE
                                                                               : 0;
    return (struct pintle_step){ PINTLE_OP_WRITE, r->width | flag, r->address, value };
}

static struct pintle_step take_change(struct described_words *w)
{
    const struct pintle_reg *r = reg(w);
    uint32_t value = pintle_priv_described_number(w, 0xff);
    uint32_t bits = mask(w, r);
    w->ok = w->ok && r->width == 1 && !(value & ~bits);
    return (struct pintle_step)PINTLE_CHANGE(r->address, bits, value);
}

static struct pintle_step take_condition(struct described_words *w, enum pintle_op op)
{
    const struct pintle_reg *r = reg(w);
    uint32_t value = pintle_priv_described_number(w, 0xffff);
    uint32_t bits = mask(w, r);
    w->ok = w->ok && r->width <= 2 && !(value & ~bits);
    return (struct pintle_step){ (uint8_t)op, r->width, r->address,
                                 (bits & 0xffff) << 16 | (value & 0xffff) };
}

/* The number of the checksum rule that is named. */
static uint16_t rule(struct described_words *w)
{
    const char *name = pintle_priv_described_word(w);
    unsigned count = cfg_size(w->d->section, "checksum");
    unsigned i = 0;
    while (name && i < count
           && strcmp(cfg_title(cfg_getnsec(w->d->section, "checksum", i)), name) != 0) {
        i++;
    }
    w->ok = w->ok && name && i < count;
    return (uint16_t)(i + 1);
}

/* Of what comes with no register only the checksums are known. */
static struct pintle_step take_expect(struct described_words *w)
{
    if (is_next(w, "fetched")) {
        uint8_t count = (uint8_t)pintle_priv_described_number(w, 8);
        w->ok = w->ok && count > 2;
        return (struct pintle_step)PINTLE_EXPECT(PINTLE_NO_REG, count, 0, rule(w));
    }
    return take_condition(w, PINTLE_OP_EXPECT);
}

static struct pintle_step take_refuse(struct described_words *w)
{
    return take_condition(w, PINTLE_OP_REFUSE);
}

static struct pintle_step take_poll(struct described_words *w)
{
    const struct pintle_reg *r = reg(w);
    uint32_t value = pintle_priv_described_number(w, 0xffff);
    uint32_t bits = mask(w, r);
    bool upper = r->width == 2 && !(bits & 0xff);
    bool big = w->d->part->flags & PINTLE_PART_BIG_ENDIAN;
    unsigned at = r->width == 2 && upper != big;
    w->ok = w->ok && r->width <= 2 && !(value & ~bits) && (!(bits & 0xff) || !(bits >> 8));
    value = upper ? value >> 8 : value;
    bits = upper ? bits >> 8 : bits;
    uint8_t count = w->d->part->link == &pintle_link_smbus ? r->width : (uint8_t)(at + 1);
    return (struct pintle_step){ PINTLE_OP_POLL, count, r->address,
                                 PINTLE_UNTIL(at, bits & 0xff, value & 0xff, limit(w)) };
}

/* "with 0x80 0x00 0xa2": the same wherever the command is sent. */
static void take_bytes(struct described_words *w, uint16_t code)
{
    struct described_part *all = (struct described_part *)(void *)w->d->part;
    struct described_send send = { .code = code };
    while (w->ok && w->word[w->at]) {
        w->ok = send.count < SEND_BYTES;
        send.bytes[w->ok ? send.count++ : 0] = (uint8_t)pintle_priv_described_number(w, 0xff);
    }
    for (unsigned s = 0; s < w->d->part->setting_count; s++) { /* it would be another command */
        w->ok = w->ok && w->d->part->settings[s].reg != code;
    }
    unsigned i = 0;
    while (i < all->sends && all->send[i].code != code) {
        i++;
    }
    bool same = i < all->sends && memcmp(&all->send[i], &send, sizeof send) == 0;
    w->ok = w->ok && send.count > 0 && (same || (i == all->sends && i < SENDS));
    if (w->ok && !same) {
        all->send[all->sends++] = send;
    }
}

static struct pintle_step take_command(struct described_words *w)
{
    uint16_t code = (uint16_t)pintle_priv_described_number(w, 0xffff);
    if (is_next(w, "with")) {
        take_bytes(w, code);
    }
    return (struct pintle_step){ PINTLE_OP_WRITE, 0, code, 0 };
}

/* "and settings", or "and" those that are named. */
static struct pintle_step take_wait(struct described_words *w)
{
    uint32_t us = duration(w, "and");
    unsigned settings = 0;
    if (is_next(w, "and")) {
        settings = is_next(w, "settings") ? PINTLE_ALL_SETTINGS : 0;
        w->ok = w->ok && (settings || w->word[w->at]);
        while (w->ok && w->word[w->at]) {
            int setting = pintle_priv_described_setting(w->d, pintle_priv_described_word(w));
            w->ok = setting >= 0;
            settings |= w->ok ? 1u << setting : 0;
        }
    }
    return (struct pintle_step)PINTLE_WAIT_FOR(us, (uint16_t)settings);
}

static struct pintle_step take_power(struct described_words *w)
{
    uint16_t code = (uint16_t)pintle_priv_described_number(w, 0xff);
    return (struct pintle_step){ PINTLE_OP_POWER, 0, code, duration(w, NULL) };
}

static bool is_number(const char *word)
{
    return word && g_ascii_isdigit(word[0]);
}

static struct pintle_step take_read(struct described_words *w)
{
    const struct pintle_reg *r = reg(w);
    uint32_t count =
        is_number(w->word[w->at]) ? pintle_priv_described_number(w, PINTLE_MOST_RAW) : r->width;
    return (struct pintle_step){ PINTLE_OP_READ, (uint8_t)count, r->address, condition(w, count) };
}

static struct pintle_step take_fetch(struct described_words *w)
{
    uint32_t count = pintle_priv_described_number(w, PINTLE_MOST_RAW);
    return (struct pintle_step){ PINTLE_OP_READ, (uint8_t)count, PINTLE_NO_REG,
                                 condition(w, count) };
}

static struct pintle_step take_call(struct described_words *w)
{
    (void)w;
    return (struct pintle_step)PINTLE_CALL();
}

static struct pintle_step take_check(struct described_words *w)
{
    uint16_t number = rule(w);
    uint32_t count = is_next(w, "of") ? pintle_priv_described_number(w, PINTLE_MOST_RAW) : 0;
    return (struct pintle_step)PINTLE_CHECK_LAST((uint8_t)count, number);
}

enum place { IDENTITY = 1, START = 2, MEASURE = 4 };
#define ANYWHERE (IDENTITY | START | MEASURE)

static const struct verb {
    const char *word;
    struct pintle_step (*take)(struct described_words *w);
    unsigned where; /* it makes sense, a set of enum place */
} verbs[] = {
    { "write", take_write, ANYWHERE },     { "change", take_change, ANYWHERE },
    { "command", take_command, ANYWHERE }, { "wait", take_wait, ANYWHERE },
    { "power", take_power, ANYWHERE },     { "expect", take_expect, ANYWHERE },
    { "refuse", take_refuse, ANYWHERE },   { "poll", take_poll, ANYWHERE },
    { "trim", take_trim, START },          { "read", take_read, START | MEASURE },
    { "fetch", take_fetch, MEASURE },      { "check", take_check, MEASURE },
    { "call", take_call, ANYWHERE },
};

/* "only mode one-shot", "for ch0": a step for itself, in front of the other. */
static bool take_prefix(struct described_words *w, struct pintle_step *step)
{
    if (is_next(w, "only")) {
        const struct pintle_setting_text *texts = w->d->sheet->settings;
        int setting = pintle_priv_described_setting(w->d, pintle_priv_described_word(w));
        const char *option = pintle_priv_described_word(w);
        unsigned i = 0;
        while (setting >= 0 && texts[setting].options[i]
               && g_strcmp0(texts[setting].options[i], option) != 0) {
            i++;
        }
        w->ok = w->ok && setting >= 0 && texts[setting].options[i];
        *step = (struct pintle_step)PINTLE_ONLY((uint16_t)setting, i, 1);
        return true;
    }
    if (is_next(w, "for")) {
        int input = pintle_priv_described_input(w->d, pintle_priv_described_word(w));
        w->ok = w->ok && input >= 0;
        *step = (struct pintle_step)PINTLE_FOR((uint16_t)(w->ok ? 1u << input : 0), 1, 0);
        return true;
    }
    return false;
}

/* One step, or two where something stands in front. */
static bool take_step(struct describing *d, const char *text, enum place place,
                      struct pintle_step **step)
{
    struct described_words w = { .d = d, .word = g_strsplit(text, " ", -1), .ok = true };
    struct pintle_step *prefix = *step;
    bool prefixed = take_prefix(&w, prefix);
    struct pintle_step *at = prefix + prefixed;
    const char *verb = pintle_priv_described_word(&w);
    unsigned i = 0;
    while (verb && i < G_N_ELEMENTS(verbs) && strcmp(verbs[i].word, verb) != 0) {
        i++;
    }
    w.ok = w.ok && verb && i < G_N_ELEMENTS(verbs) && (verbs[i].where & place);
    if (w.ok) {
        *at = verbs[i].take(&w);
        w.ok = w.ok && !w.word[w.at];
    }
    g_strfreev(w.word);
    bool reads = w.ok && at->op == PINTLE_OP_READ && place == MEASURE;
    if (reads) {
        d->raw += at->width;
        w.ok = d->raw <= PINTLE_MOST_RAW;
    }
    if (reads && prefixed && prefix->op == PINTLE_OP_FOR) {
        prefix->value = at->width;
    }
    *step = at + 1;
    return w.ok;
}

static const struct pintle_step *take_steps(struct describing *d, cfg_t *from, const char *option,
                                            enum place place)
{
    unsigned count = cfg_size(from, option);
    struct pintle_step *steps = pintle_priv_loading_own((2 * count + 1) * sizeof *steps);
    struct pintle_step *end = steps;
    for (unsigned i = 0; i < count; i++) {
        const char *text = cfg_getnstr(from, option, i);
        if (!take_step(d, text, place, &end)) {
            pintle_priv_described_complain(
                d,
                "%s: '%s' is no step; there are write, change, command, call, wait, power, "
                "expect, refuse and poll, read but in the identity and, when measuring, fetch and "
                "check, with registers, settings, inputs and checksums described above and values "
                "within their masks (docs/rig-file.md has them all); at most %d bytes are read",
                option, text, PINTLE_MOST_RAW);
            return NULL;
        }
    }
    end->op = PINTLE_OP_END;
    return steps;
}

const struct pintle_step *pintle_priv_described_steps(struct describing *d, const char *option)
{
    enum place place = strcmp(option, "measure") == 0 ? MEASURE
                       : strcmp(option, "start") == 0 ? START
                                                      : IDENTITY;
    return take_steps(d, d->section, option, place);
}

const struct pintle_step *pintle_priv_described_program(struct describing *d, cfg_t *from,
                                                        const char *option)
{
    return take_steps(d, from, option, START);
}
