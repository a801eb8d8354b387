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
        if (unit != PINTLE_UNIT_SECOND
            && (quantity == PINTLE_QUANTITY_COUNT || pintle_unit_quantity(unit) == quantity)) {
            g_string_append_printf(all, "%s%s", all->len ? ", " : "", pintle_unit_symbol(unit));
        }
    }
    return g_string_free(all, FALSE);
}

bool pintle_unit_named(const char *symbol, enum pintle_quantity quantity, enum pintle_unit *unit,
                       struct pintle_problem *problem)
{
    enum pintle_unit found = pintle_unit_find(symbol);
    char *all = known(quantity);
    bool any = quantity == PINTLE_QUANTITY_COUNT;
    bool ok = found != PINTLE_UNIT_COUNT && found != PINTLE_UNIT_SECOND
              && (any || pintle_unit_quantity(found) == quantity);
    if (ok) {
        *unit = found;
    } else if (any) {
        pintle_problem_set(problem, PINTLE_FAILURE_USE, "there is no unit '%s'; there are %s",
                           symbol, all);
    } else {
        pintle_problem_set(problem, PINTLE_FAILURE_USE, "%s is not measured in '%s'; %s%s",
                           pintle_quantity_word(quantity), symbol,
                           all[0] ? "there are " : "it is shown as it is", all);
    }
    g_free(all);
    return ok;
}

bool pintle_rig_show_in(struct pintle_rig *rig, const char *symbol, struct pintle_problem *problem)
{
    enum pintle_unit unit = PINTLE_UNIT_COUNT;
    unsigned shown = 0;
    if (!pintle_unit_named(symbol, PINTLE_QUANTITY_COUNT, &unit, problem)) {
        return false;
    }
    for (unsigned i = 0; i < rig->sensors; i++) {
        const struct pintle_part *part = rig->sensor[i].sheet->part;
        for (unsigned c = 0; c < part->channel_count; c++) {
            if (part->channels[c].quantity == pintle_unit_quantity(unit)) {
                rig->sensor[i].channel[c].unit = unit;
                shown++;
            }
        }
    }
    return shown > 0
           || pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                 "nothing in this rig is measured in '%s': no channel has a %s",
                                 symbol, pintle_quantity_word(pintle_unit_quantity(unit)));
}
