/* Where others talk on a bus, a chip may have been set up afresh by one of them: what a reading was
 * made of is asked once more. */
#include "host/live/shared.h"

#include <glib.h>

static const struct pintle_map_reg *reg_at(const struct pintle_sheet *sheet, uint16_t address)
{
    for (unsigned i = 0; i < sheet->reg_count; i++) {
        const struct pintle_map_reg *row = &sheet->regs[i];
        bool whole = row->reg.width > 0 && !(row->reg.flags & PINTLE_REG_WRITE_ONLY);
        if (row->reg.address == address && whole) {
            return row;
        }
    }
    return NULL;
}

/* The bits of a register that settings decide, and what they are now. */
static uint32_t decided(const struct pintle_sensor *sensor, uint16_t reg, uint32_t *want)
{
    uint32_t mask = 0;
    *want = 0;
    for (unsigned i = 0; i < sensor->part->setting_count; i++) {
        const struct pintle_setting *setting = &sensor->part->settings[i];
        for (unsigned k = 0; setting->reg == reg && k < setting->count; k++) {
            uint32_t bits = (uint32_t)setting->options[k].code << setting->shift;
            mask |= bits;
            *want |= k == sensor->settings[i] ? bits : 0;
        }
    }
    return mask;
}

/* Is it the first setting that lives there? */
static bool is_first(const struct pintle_part *part, unsigned setting)
{
    for (unsigned i = 0; i < setting; i++) {
        if (part->settings[i].reg == part->settings[setting].reg) {
            return false;
        }
    }
    return true;
}

enum pintle_status pintle_priv_still_set(struct pintle_sensor *sensor,
                                         const struct pintle_sheet *sheet,
                                         char words[PINTLE_WORDS_MAX])
{
    const struct pintle_part *part = sheet->part;
    for (unsigned i = 0; i < part->setting_count; i++) {
        const struct pintle_map_reg *row = reg_at(sheet, part->settings[i].reg);
        uint32_t want = 0;
        uint32_t is = 0;
        if (!row || !is_first(part, i)) {
            continue;
        }
        uint32_t mask = decided(sensor, row->reg.address, &want);
        enum pintle_status status = pintle_reg_read(sensor, &row->reg, &is);
        if (status != PINTLE_OK) {
            return status;
        }
        if ((is & mask) != want) {
            g_snprintf(words, PINTLE_WORDS_MAX,
                       "register %s holds %0*xh, and this sensor has set %0*xh in the bits %0*xh: "
                       "somebody else on the bus has changed it; it is set up afresh",
                       row->name, 2 * row->reg.width, is, 2 * row->reg.width, want,
                       2 * row->reg.width, mask);
            return PINTLE_MISFIT;
        }
    }
    return PINTLE_OK;
}
