#include "pintle/unit.h"

#include "pintle/table.h"

const char *pintle_quantity_word(enum pintle_quantity quantity)
{
    switch (quantity) {
#define PINTLE_WORD(name, word, symbol, shown, factor)                                             \
    case PINTLE_QUANTITY_##name:                                                                   \
        return word;
        PINTLE_QUANTITY_LIST(PINTLE_WORD)
    default:
        return "unknown";
    }
}

const char *pintle_quantity_symbol(enum pintle_quantity quantity)
{
    switch (quantity) {
#define PINTLE_SYMBOL(name, word, symbol, shown, factor)                                           \
    case PINTLE_QUANTITY_##name:                                                                   \
        return symbol;
        PINTLE_QUANTITY_LIST(PINTLE_SYMBOL)
    default:
        return "unknown";
    }
}

const char *pintle_quantity_shown(enum pintle_quantity quantity)
{
    switch (quantity) {
#define PINTLE_SHOWN(name, word, symbol, shown, factor)                                            \
    case PINTLE_QUANTITY_##name:                                                                   \
        return shown;
        PINTLE_QUANTITY_LIST(PINTLE_SHOWN)
    default:
        return "unknown";
    }
}

float pintle_quantity_show(enum pintle_quantity quantity, float base)
{
    switch (quantity) {
#define PINTLE_SHOW(name, word, symbol, shown, factor)                                             \
    case PINTLE_QUANTITY_##name:                                                                   \
        return base * (factor);
        PINTLE_QUANTITY_LIST(PINTLE_SHOW)
    default:
        return base;
    }
}

struct unit {
    uint8_t quantity;
    float gain;
    float offset;
    char symbol[8];
};

static const struct unit units[PINTLE_UNIT_COUNT] PINTLE_TABLE = {
#define PINTLE_ROW(name, symbol, quantity, gain, offset)                                           \
    { PINTLE_QUANTITY_##quantity, gain, offset, symbol },
    PINTLE_UNIT_LIST(PINTLE_ROW)
};

enum pintle_status pintle_unit_convert(float value, enum pintle_unit from, enum pintle_unit to,
                                       float *result)
{
    if (from >= PINTLE_UNIT_COUNT || to >= PINTLE_UNIT_COUNT) {
        return PINTLE_BAD_ARGUMENT;
    }
    struct unit a;
    struct unit b;
    pintle_table_copy(&a, &units[from], sizeof a);
    pintle_table_copy(&b, &units[to], sizeof b);
    if (a.quantity != b.quantity) {
        return PINTLE_BAD_ARGUMENT;
    }
    *result = (value * a.gain + a.offset - b.offset) / b.gain;
    return PINTLE_OK;
}

enum pintle_unit pintle_unit_find(const char *symbol)
{
    for (uint8_t i = 0; i < PINTLE_UNIT_COUNT; i++) {
        struct unit unit;
        pintle_table_copy(&unit, &units[i], sizeof unit);
        if (strcmp(unit.symbol, symbol) == 0) {
            return (enum pintle_unit)i;
        }
    }
    return PINTLE_UNIT_COUNT;
}
