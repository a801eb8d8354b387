#include <string.h>

#include "parts/map.h"

const char *const pintle_priv_no_yes[] = { "no", "yes", NULL };

#define LISTED(name, file, bus, place, flash) &pintle_priv_##name,
static const struct pintle_sheet *const catalogue[] = { PINTLE_PART_LIST(LISTED) };

size_t pintle_sheet_count(void)
{
    return sizeof catalogue / sizeof catalogue[0];
}

const struct pintle_sheet *pintle_sheet_at(size_t index)
{
    return index < pintle_sheet_count() ? catalogue[index] : NULL;
}

static char upper(char c)
{
    return (char)(c >= 'a' && c <= 'z' ? c - 'a' + 'A' : c);
}

static int same(const char *a, const char *b)
{
    while (*a && upper(*a) == upper(*b)) {
        a++;
        b++;
    }
    return *a == *b;
}

const struct pintle_sheet *pintle_sheet_find(const char *name)
{
    for (size_t i = 0; i < pintle_sheet_count(); i++) {
        if (same(catalogue[i]->part->name, name)) {
            return catalogue[i];
        }
    }
    return NULL;
}

enum pintle_status pintle_sheet_set(const struct pintle_sheet *sheet, const char *setting,
                                    const char *option, uint8_t *settings)
{
    for (uint8_t i = 0; i < sheet->part->setting_count; i++) {
        const struct pintle_setting_text *text = &sheet->settings[i];
        if (!same(text->name, setting)) {
            continue;
        }
        for (uint8_t o = 0; text->options[o]; o++) {
            if (same(text->options[o], option)) {
                settings[i] = o;
                return PINTLE_OK;
            }
        }
        return PINTLE_OUT_OF_RANGE;
    }
    return PINTLE_BAD_ARGUMENT;
}

int pintle_sheet_ranges(const struct pintle_sheet *sheet, unsigned setting)
{
    const struct pintle_ladder *ladder = sheet->part->ladder;
    return ladder && (ladder->settings[0] == setting || ladder->settings[1] == setting);
}

int pintle_sheet_number(const struct pintle_sheet *sheet, const char *name)
{
    for (int i = 0; i < sheet->part->number_count; i++) {
        if (same(sheet->numbers[i].name, name)) {
            return i;
        }
    }
    return -1;
}

const char *pintle_sheet_strap(const struct pintle_sheet *sheet, uint8_t address)
{
    for (unsigned i = 0; i < sheet->part->address_count; i++) {
        if (sheet->straps[i].address == address) {
            return sheet->straps[i].by;
        }
    }
    return "";
}

/* "accel-x" and 'x'. */
static int is_axis(const struct pintle_channel *channel, const struct pintle_channel *first,
                   char axis)
{
    size_t length = strlen(channel->name);
    return length > 2 && channel->name[length - 2] == '-' && channel->name[length - 1] == axis
           && strncmp(channel->name, first->name, length - 1) == 0
           && channel->quantity == first->quantity;
}

int pintle_sheet_axes(const struct pintle_sheet *sheet, unsigned from)
{
    for (unsigned c = from; c + 2 < sheet->part->channel_count; c++) {
        const struct pintle_channel *xyz = &sheet->part->channels[c];
        if (is_axis(&xyz[0], xyz, 'x') && is_axis(&xyz[1], xyz, 'y')
            && is_axis(&xyz[2], xyz, 'z')) {
            return (int)c;
        }
    }
    return -1;
}

int pintle_sheet_channel(const struct pintle_sheet *sheet, const char *name)
{
    for (int i = 0; i < sheet->part->channel_count; i++) {
        if (same(sheet->part->channels[i].name, name)) {
            return i;
        }
    }
    return -1;
}

static uint64_t options_us(const struct pintle_part *part, const uint8_t *settings, unsigned set)
{
    uint64_t us = 0;
    for (unsigned s = 0; s < part->setting_count; s++) {
        us += set >> s & 1 ? part->settings[s].options[settings[s]].time_us : 0;
    }
    return us;
}

unsigned pintle_sheet_checks(const struct pintle_part *part, const uint8_t *settings,
                             struct pintle_sheet_check *list, unsigned room)
{
    unsigned found = 0;
    uint8_t raw = 0;
    for (const struct pintle_step *step = part->measure; step->op != PINTLE_OP_END; step++) {
        if (step->op == PINTLE_OP_ONLY
            && (step->reg == PINTLE_NO_REG || settings[step->reg] != step->value)) {
            step += step->width;
        } else if (step->op == PINTLE_OP_READ) {
            raw = (uint8_t)(raw + step->width);
        } else if (step->op == PINTLE_OP_CHECK && found < room) {
            uint8_t count = step->width ? step->width : raw;
            list[found++] =
                (struct pintle_sheet_check){ part->crc + step->reg, (uint8_t)(raw - count), count };
        }
    }
    return found;
}

uint64_t pintle_sheet_waits_us(const struct pintle_part *part, const struct pintle_step *program,
                               const uint8_t *settings)
{
    uint64_t us = 0;
    for (const struct pintle_step *step = program; step->op != PINTLE_OP_END; step++) {
        if (step->op == PINTLE_OP_ONLY
            && (step->reg == PINTLE_NO_REG || settings[step->reg] != step->value)) {
            step += step->width;
        } else if (step->op == PINTLE_OP_WAIT) {
            us += step->value + options_us(part, settings, step->reg);
        } else if (step->op == PINTLE_OP_POWER) {
            us += step->value + options_us(part, settings, PINTLE_ALL_SETTINGS);
        }
    }
    return us;
}
