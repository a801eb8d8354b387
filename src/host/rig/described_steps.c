/* Steps as a rig file writes them, a verb and what it needs:
 *
 *     write REGISTER VALUE            expect REGISTER VALUE [mask MASK]
 *     change REGISTER VALUE mask MASK refuse REGISTER VALUE [mask MASK]
 *     command CODE                    poll REGISTER VALUE [mask MASK] within DURATION
 *     wait DURATION [and settings]    read REGISTER [COUNT]
 *     power CODE DURATION             fetch COUNT
 *                                     check words
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

uint32_t pintle_priv_described_number(struct described_words *w, uint32_t most)
{
    const char *word = pintle_priv_described_word(w);
    char *end = NULL;
    guint64 value = word ? g_ascii_strtoull(word, &end, 0) : 0;
    w->ok = w->ok && word && end > word && *end == '\0' && word[0] != '-' && value <= most;
    return (uint32_t)value;
}

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

static struct pintle_step take_write(struct described_words *w)
{
    const struct pintle_reg *r = reg(w);
    return (struct pintle_step){ PINTLE_OP_WRITE, r->width, r->address,
                                 pintle_priv_described_number(w, all_of(r)) };
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

static struct pintle_step take_expect(struct described_words *w)
{
    return take_condition(w, PINTLE_OP_EXPECT);
}

static struct pintle_step take_refuse(struct described_words *w)
{
    return take_condition(w, PINTLE_OP_REFUSE);
}

static struct pintle_step take_poll(struct described_words *w)
{
    const struct pintle_reg *r = reg(w);
    uint32_t value = pintle_priv_described_number(w, 0xff);
    uint32_t bits = mask(w, r) & 0xff;
    pintle_priv_described_keyword(w, "within");
    uint32_t ms = duration(w, NULL) / 1000;
    w->ok = w->ok && r->width == 1 && ms >= 1 && ms <= 0xffff && !(value & ~bits);
    return (struct pintle_step){ PINTLE_OP_POLL, 1, r->address,
                                 bits << 24 | (value & 0xff) << 16 | (ms & 0xffff) };
}

static struct pintle_step take_command(struct described_words *w)
{
    return (struct pintle_step){ PINTLE_OP_WRITE, 0,
                                 (uint16_t)pintle_priv_described_number(w, 0xffff), 0 };
}

static struct pintle_step take_wait(struct described_words *w)
{
    uint32_t us = duration(w, "and");
    bool settings = w->word[w->at] != NULL;
    if (settings) {
        pintle_priv_described_keyword(w, "and");
        pintle_priv_described_keyword(w, "settings");
    }
    return (struct pintle_step){ PINTLE_OP_WAIT, settings, 0, us };
}

static struct pintle_step take_power(struct described_words *w)
{
    uint16_t code = (uint16_t)pintle_priv_described_number(w, 0xff);
    return (struct pintle_step){ PINTLE_OP_POWER, 0, code, duration(w, NULL) };
}

static struct pintle_step take_read(struct described_words *w)
{
    const struct pintle_reg *r = reg(w);
    uint32_t count = w->word[w->at] ? pintle_priv_described_number(w, PINTLE_RAW_MAX) : r->width;
    return (struct pintle_step){ PINTLE_OP_READ, (uint8_t)count, r->address, 0 };
}

static struct pintle_step take_fetch(struct described_words *w)
{
    return (struct pintle_step){ PINTLE_OP_FETCH,
                                 (uint8_t)pintle_priv_described_number(w, PINTLE_RAW_MAX), 0, 0 };
}

static struct pintle_step take_check(struct described_words *w)
{
    pintle_priv_described_keyword(w, "words");
    return (struct pintle_step){ PINTLE_OP_WORDS, 0, 0, 0 };
}

enum place { IDENTITY = 1, START = 2, MEASURE = 4 };
#define ANYWHERE (IDENTITY | START | MEASURE)

static const struct verb {
    const char *word;
    struct pintle_step (*take)(struct described_words *w);
    unsigned where; /* it makes sense, a set of enum place */
} verbs[] = {
    { "write", take_write, ANYWHERE },      { "change", take_change, ANYWHERE },
    { "command", take_command, ANYWHERE },  { "wait", take_wait, ANYWHERE },
    { "power", take_power, ANYWHERE },      { "expect", take_expect, ANYWHERE },
    { "refuse", take_refuse, ANYWHERE },    { "poll", take_poll, ANYWHERE },
    { "read", take_read, START | MEASURE }, { "fetch", take_fetch, MEASURE },
    { "check", take_check, MEASURE },
};

static bool take_step(struct describing *d, const char *text, enum place place,
                      struct pintle_step *step)
{
    struct described_words w = { .d = d, .word = g_strsplit(text, " ", -1), .ok = true };
    const char *verb = pintle_priv_described_word(&w);
    unsigned i = 0;
    while (verb && i < G_N_ELEMENTS(verbs) && strcmp(verbs[i].word, verb) != 0) {
        i++;
    }
    w.ok = verb && i < G_N_ELEMENTS(verbs) && (verbs[i].where & place);
    if (w.ok) {
        *step = verbs[i].take(&w);
        w.ok = w.ok && !w.word[w.at];
    }
    g_strfreev(w.word);
    if (w.ok && step->op >= PINTLE_OP_READ && place == MEASURE) {
        d->raw += step->width;
        w.ok = d->raw <= PINTLE_RAW_MAX;
    }
    return w.ok;
}

const struct pintle_step *pintle_priv_described_steps(struct describing *d, const char *option)
{
    unsigned count = cfg_size(d->section, option);
    struct pintle_step *steps = pintle_priv_loading_own((count + 1) * sizeof *steps);
    enum place place = strcmp(option, "measure") == 0 ? MEASURE
                       : strcmp(option, "start") == 0 ? START
                                                      : IDENTITY;
    for (unsigned i = 0; i < count; i++) {
        const char *text = cfg_getnstr(d->section, option, i);
        if (!take_step(d, text, place, &steps[i])) {
            pintle_priv_described_complain(
                d,
                "%s: '%s' is no step; there are write, change, command, wait, power, "
                "expect, refuse and poll, read but in the identity and, when measuring, fetch and "
                "check words, with registers described above and values within their masks "
                "(docs/rig-file.md has them all); at most %d bytes are read",
                option, text, PINTLE_RAW_MAX);
            return NULL;
        }
    }
    steps[count].op = PINTLE_OP_END;
    return steps;
}
