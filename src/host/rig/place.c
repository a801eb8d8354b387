#include "host/rig/place.h"

#include <glib.h>
#include <string.h>

#include "pintle/onewire.h"

const char *pintle_bus_word(enum pintle_bus_kind kind)
{
    static const char *const words[] = { "I2C", "SPI", "1-Wire" };
    return kind < G_N_ELEMENTS(words) ? words[kind] : "unknown";
}

void pintle_code_text(const uint8_t code[8], char text[20])
{
    g_snprintf(text, 20, "%02x.%02x%02x%02x%02x%02x%02x.%02x", code[0], code[1], code[2], code[3],
               code[4], code[5], code[6], code[7]);
}

bool pintle_code_parse(const char *text, uint8_t code[8])
{
    unsigned digits = 0;
    memset(code, 0, 8);
    for (; *text; text++) {
        if (*text == '.' && digits > 0 && digits % 2 == 0) {
            continue;
        }
        if (!g_ascii_isxdigit(*text) || digits == 16) {
            return false;
        }
        code[digits / 2] = (uint8_t)(code[digits / 2] << 4 | g_ascii_xdigit_value(*text));
        digits++;
    }
    if (digits == 14) {
        code[7] = pintle_onewire_crc(code, 7);
    }
    return digits >= 14 && digits % 2 == 0;
}

bool pintle_rig_same_place(const struct pintle_rig *rig, unsigned a, unsigned b)
{
    const struct pintle_rig_sensor *x = &rig->sensor[a];
    const struct pintle_rig_sensor *y = &rig->sensor[b];
    return x->bus == y->bus && strcmp(x->where, y->where) == 0;
}

static const char *key(const struct pintle_rig *rig, unsigned sensor)
{
    static const char *const keys[] = { "address", "select", "code" };
    return keys[rig->bus[rig->sensor[sensor].bus].kind];
}

/* An address is a number, the others are words. */
static json_t *value(const struct pintle_rig *rig, unsigned sensor)
{
    const struct pintle_rig_sensor *s = &rig->sensor[sensor];
    const struct pintle_rig_bus *bus = &rig->bus[s->bus];
    switch (bus->kind) {
    case PINTLE_BUS_I2C:
        return json_integer(s->place.address);
    case PINTLE_BUS_SPI:
        return json_string(bus->select_pin[s->place.select]);
    default:
        return json_string(s->where);
    }
}

void pintle_priv_place_put(json_t *object, const struct pintle_rig *rig, unsigned sensor)
{
    json_object_set_new(object, key(rig, sensor), value(rig, sensor));
}

bool pintle_priv_place_is(json_t *object, const struct pintle_rig *rig, unsigned sensor)
{
    json_t *mine = value(rig, sensor);
    bool same = json_equal(json_object_get(object, key(rig, sensor)), mine);
    json_decref(mine);
    return same;
}
