#include "pintle/unit.h"

#include "pintle/table.h"

#define QUANTITY_TEXTS(name, word, symbol, shown)                                                  \
    static const char word_##name[] PINTLE_TABLE = word;                                           \
    static const char symbol_##name[] PINTLE_TABLE = symbol;                                       \
    static const char shown_##name[] PINTLE_TABLE = shown;
PINTLE_QUANTITY_LIST(QUANTITY_TEXTS)

#define QUANTITY_WORD(name, word, symbol, shown) word_##name,
#define QUANTITY_SYMBOL(name, word, symbol, shown) symbol_##name,
#define QUANTITY_SHOWN(name, word, symbol, shown) shown_##name,

static const char *const words[] PINTLE_TABLE = { PINTLE_QUANTITY_LIST(QUANTITY_WORD) };
static const char *const symbols[] PINTLE_TABLE = { PINTLE_QUANTITY_LIST(QUANTITY_SYMBOL) };
static const char *const shown_units[] PINTLE_TABLE = { PINTLE_QUANTITY_LIST(QUANTITY_SHOWN) };
static const char unknown[] PINTLE_TABLE = "unknown";

static const char *text(const char *const *table, enum pintle_quantity quantity)
{
    return quantity < PINTLE_QUANTITY_COUNT ? pintle_table_pointer(&table[quantity]) : unknown;
}

const char *pintle_quantity_word(enum pintle_quantity quantity)
{
    return text(words, quantity);
}

const char *pintle_quantity_symbol(enum pintle_quantity quantity)
{
    return text(symbols, quantity);
}

const char *pintle_quantity_shown(enum pintle_quantity quantity)
{
    return text(shown_units, quantity);
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

const char *pintle_unit_symbol(enum pintle_unit unit)
{
    return unit < PINTLE_UNIT_COUNT ? units[unit].symbol : unknown;
}

enum pintle_quantity pintle_unit_quantity(enum pintle_unit unit)
{
    return unit < PINTLE_UNIT_COUNT ? (enum pintle_quantity)pintle_table_u8(&units[unit].quantity)
                                    : PINTLE_QUANTITY_COUNT;
}

float pintle_unit_show(enum pintle_unit unit, float base)
{
    if (unit >= PINTLE_UNIT_COUNT) {
        return base;
    }
    PINTLE_TABLE_ROW(struct unit, row, &units[unit]);
    return (base - row->offset) / row->gain;
}

float pintle_unit_base(enum pintle_unit unit, float value)
{
    if (unit >= PINTLE_UNIT_COUNT) {
        return value;
    }
    PINTLE_TABLE_ROW(struct unit, row, &units[unit]);
    return value * row->gain + row->offset;
}

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

enum pintle_unit pintle_unit_find(const char *symbol, enum pintle_quantity quantity)
{
    for (int i = 0; i < PINTLE_UNIT_COUNT; i++) {
        struct unit unit;
        pintle_table_copy(&unit, &units[i], sizeof unit);
        if (strcmp(unit.symbol, symbol) == 0
            && (quantity == PINTLE_QUANTITY_COUNT || unit.quantity == quantity)) {
            return (enum pintle_unit)i;
        }
    }
    return PINTLE_UNIT_COUNT;
}

enum pintle_unit pintle_quantity_unit(enum pintle_quantity quantity)
{
    char symbol[8] = "";
    const char *shown = pintle_quantity_shown(quantity);
    for (uint8_t i = 0; i + 1u < sizeof symbol; i++) {
        symbol[i] = (char)pintle_table_u8(&shown[i]);
        if (symbol[i] == '\0') {
            break;
        }
    }
    return pintle_unit_find(symbol, quantity);
}
