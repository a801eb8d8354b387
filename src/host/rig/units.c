/* Units by their names, for channels. */
#include <glib.h>
#include <string.h>

#include "pintle/host/rig/rig.h"

/* The units of a quantity, or of all, with commas between. */
static char *known(enum pintle_quantity quantity)
{
    GString *all = g_string_new(NULL);
    for (int i = 0; i < PINTLE_UNIT_COUNT; i++) {
        enum pintle_unit unit = (enum pintle_unit)i;
        bool twin = quantity == PINTLE_QUANTITY_COUNT
                    && pintle_unit_find(pintle_unit_symbol(unit), quantity) != unit;
        if (unit != PINTLE_UNIT_SECOND && !twin
            && (quantity == PINTLE_QUANTITY_COUNT || pintle_unit_quantity(unit) == quantity)) {
            g_string_append_printf(all, "%s%s", all->len ? ", " : "", pintle_unit_symbol(unit));
        }
    }
    return g_string_free(all, FALSE);
}

/* "relative-humidity", "cabin.temperature", "temperature": is that this one? */
static bool is_meant(const char *what, const struct pintle_unit_slot *slot)
{
    char *quantity = g_strdelimit(g_strdup(pintle_quantity_word(slot->quantity)), " ", '-');
    const char *channel = strchr(slot->name, '.');
    bool is = strcmp(what, quantity) == 0 || strcmp(what, slot->name) == 0
              || (channel && strcmp(what, channel + 1) == 0);
    g_free(quantity);
    return is;
}

/* "degC+degF" of a quantity. */
static bool take_symbols(const char *symbols, const struct pintle_unit_slot *slot)
{
    char **two = g_strsplit(symbols, "+", 2);
    enum pintle_unit unit = pintle_unit_find(two[0] ? two[0] : "", slot->quantity);
    enum pintle_unit also =
        two[0] && two[1] ? pintle_unit_find(two[1], slot->quantity) : PINTLE_UNIT_COUNT;
    bool ok = slot->quantity != PINTLE_QUANTITY_TIME && unit != PINTLE_UNIT_COUNT
              && (!two[0] || !two[1] || also != PINTLE_UNIT_COUNT);
    if (ok) {
        *slot->unit = unit;
        *slot->also = also;
    }
    g_strfreev(two);
    return ok;
}

/* "degC", "degC+degF": what is wrong with them, whoever is meant. False: nothing is. */
static bool complained(const char *symbols, struct pintle_problem *problem)
{
    char **each = g_strsplit(symbols, "+", -1);
    enum pintle_quantity quantity = PINTLE_QUANTITY_COUNT;
    bool bad = g_strv_length(each) > 2;
    if (bad) {
        pintle_problem_set(problem, PINTLE_FAILURE_USE,
                           "'%s' are more than two units; write one, or two as in degC+degF",
                           symbols);
    }
    for (unsigned i = 0; each[i] && !bad; i++) {
        enum pintle_unit unit = pintle_unit_find(each[i], PINTLE_QUANTITY_COUNT);
        bad = unit == PINTLE_UNIT_COUNT || unit == PINTLE_UNIT_SECOND;
        if (bad) {
            char *all = known(PINTLE_QUANTITY_COUNT);
            pintle_problem_set(problem, PINTLE_FAILURE_USE, "there is no unit '%s'; there are %s",
                               each[i], all);
            g_free(all);
        } else if (i > 0 && pintle_unit_quantity(unit) != quantity) {
            bad = !pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                      "'%s' are units of two quantities", symbols);
        }
        quantity = bad ? quantity : pintle_unit_quantity(unit);
    }
    g_strfreev(each);
    return bad;
}

static bool nothing_shown(const char *what, const char *symbols,
                          const struct pintle_unit_slot *meant, const char *where,
                          struct pintle_problem *problem)
{
    if (meant) {
        char *all = known(meant->quantity);
        pintle_problem_set(problem, PINTLE_FAILURE_USE, "%s is not measured in '%s'; %s%s",
                           pintle_quantity_word(meant->quantity), symbols,
                           all[0] ? "there are " : "it is shown as it is", all);
        g_free(all);
    } else if (what) {
        pintle_problem_set(problem, PINTLE_FAILURE_USE,
                           "nothing in %s is called '%s'; write a quantity or a channel, as in "
                           "\"temperature=degF\"",
                           where, what);
    } else if (!complained(symbols, problem)) {
        char *first = g_strndup(symbols, strcspn(symbols, "+"));
        enum pintle_unit unit = pintle_unit_find(first, PINTLE_QUANTITY_COUNT);
        pintle_problem_set(problem, PINTLE_FAILURE_USE,
                           "nothing in %s is measured in '%s': no channel is of %s", where, symbols,
                           pintle_quantity_word(pintle_unit_quantity(unit)));
        g_free(first);
    }
    return false;
}

static bool take_one(const char *word, const struct pintle_unit_slot *slots, unsigned count,
                     const char *where, struct pintle_problem *problem)
{
    char **sides = g_strsplit(word, "=", 2);
    const char *what = sides[0] && sides[1] ? sides[0] : NULL;
    const char *symbols = what ? sides[1] : word;
    const struct pintle_unit_slot *meant = NULL;
    bool shown = false;
    for (unsigned i = 0; i < count; i++) {
        bool mine = !what || is_meant(what, &slots[i]);
        meant = what && mine ? &slots[i] : meant;
        shown = (mine && take_symbols(symbols, &slots[i])) || shown;
    }
    shown = shown || nothing_shown(what, symbols, meant, where, problem);
    g_strfreev(sides);
    return shown;
}

bool pintle_units_take(const char *words, const struct pintle_unit_slot *slots, unsigned count,
                       const char *where, struct pintle_problem *problem)
{
    char **list = g_strsplit(words, ",", -1);
    bool ok = true;
    for (unsigned i = 0; ok && list[i]; i++) {
        ok = take_one(list[i], slots, count, where, problem);
    }
    g_strfreev(list);
    return ok;
}

bool pintle_formula_number_parse(const struct pintle_formula_number *number, const char *words,
                                 float *value, struct pintle_problem *problem)
{
    char *end = NULL;
    double given = g_ascii_strtod(words, &end);
    enum pintle_unit own = pintle_unit_find(number->unit, PINTLE_QUANTITY_COUNT);
    enum pintle_unit unit = end[0] ? pintle_unit_find(end, pintle_unit_quantity(own)) : own;
    float in_own = (float)given;
    bool same = strcmp(end, number->unit) == 0 || !end[0];
    bool ok = end != words
              && (same
                  || (own != PINTLE_UNIT_COUNT
                      && pintle_unit_convert((float)given, unit, own, &in_own) == PINTLE_OK));
    if (!ok) {
        return pintle_problem_set(problem, PINTLE_FAILURE_USE, "'%s' is no %s; write a number%s%s",
                                  words, number->name, number->unit[0] ? " in " : "", number->unit);
    }
    if (!(in_own >= number->lowest && in_own <= number->highest)) {
        return pintle_problem_set(problem, PINTLE_FAILURE_USE, "%s is %g to %g %s, not '%s'",
                                  number->name, (double)number->lowest, (double)number->highest,
                                  number->unit, words);
    }
    *value = in_own;
    return true;
}

bool pintle_rig_show_in(struct pintle_rig *rig, const char *words, struct pintle_problem *problem)
{
    struct pintle_unit_slot *slots =
        g_new0(struct pintle_unit_slot, (gsize)rig->sensors * PINTLE_MOST_CHANNELS + 1);
    GPtrArray *names = g_ptr_array_new_with_free_func(g_free);
    unsigned count = 0;
    for (unsigned i = 0; i < rig->sensors; i++) {
        struct pintle_rig_sensor *sensor = &rig->sensor[i];
        for (unsigned c = 0; c < sensor->sheet->part->channel_count; c++) {
            const struct pintle_channel *channel = &sensor->sheet->part->channels[c];
            g_ptr_array_add(names, g_strconcat(sensor->name, ".", channel->name, NULL));
            slots[count++] =
                (struct pintle_unit_slot){ names->pdata[names->len - 1],
                                           (enum pintle_quantity)channel->quantity,
                                           &sensor->channel[c].unit, &sensor->channel[c].also };
        }
    }
    bool ok = pintle_units_take(words, slots, count, "this rig", problem);
    g_ptr_array_free(names, TRUE);
    g_free(slots);
    return ok;
}
