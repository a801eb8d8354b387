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

const char *pintle_sheet_strap(const struct pintle_sheet *sheet, uint8_t address)
{
    for (unsigned i = 0; i < sheet->part->address_count; i++) {
        if (sheet->straps[i].address == address) {
            return sheet->straps[i].by;
        }
    }
    return "";
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
