#include "host/rig/place.h"

#include <glib.h>
#include <string.h>

const char *pintle_bus_word(enum pintle_bus_kind kind)
{
    static const char *const words[] = { "I2C", "SPI", "1-Wire", "serial" };
    return kind < G_N_ELEMENTS(words) ? words[kind] : "unknown";
}

void pintle_code_text(const uint8_t code[8], char text[17])
{
    for (unsigned i = 0; i < 8; i++) {
        g_snprintf(text + 2 * i, 3, "%02x", code[i]);
    }
}

bool pintle_code_parse(const char *text, uint8_t code[8])
{
    unsigned digits = 0;
    memset(code, 0, 8);
    for (; *text; text++) {
        if (*text == ' ') {
            continue;
        }
        if (!g_ascii_isxdigit(*text) || digits == 16) {
            return false;
        }
        code[digits / 2] = (uint8_t)(code[digits / 2] << 4 | g_ascii_xdigit_value(*text));
        digits++;
    }
    return digits == 16;
}

bool pintle_priv_place_equal(enum pintle_bus_kind kind, const union pintle_place *a,
                             const union pintle_place *b)
{
    switch (kind) {
    case PINTLE_BUS_I2C:
        return a->address == b->address;
    case PINTLE_BUS_SPI:
        return a->select == b->select;
    case PINTLE_BUS_ONEWIRE:
        return memcmp(a->code, b->code, sizeof a->code) == 0;
    default:
        return true; /* a serial line has one other end */
    }
}

bool pintle_rig_same_place(const struct pintle_rig *rig, unsigned a, unsigned b)
{
    const struct pintle_rig_sensor *x = &rig->sensor[a];
    const struct pintle_rig_sensor *y = &rig->sensor[b];
    return !x->made && !y->made && x->bus == y->bus
           && pintle_priv_place_equal(rig->bus[x->bus].kind, &x->place, &y->place);
}

static const char *key(const struct pintle_rig *rig, unsigned sensor)
{
    static const char *const keys[] = { "address", "select", "code", "line" };
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
