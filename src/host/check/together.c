/* A shopping list on as few buses as will do: a matching between parts and addresses, and a supply
 * that suits. */
#include "pintle/host/check/together.h"

#include <stdbool.h>
#include <string.h>

#define ADDRESSES 128

struct matching {
    struct pintle_together *fit;
    unsigned buses;
    int owner[PINTLE_TOGETHER_BUSES * ADDRESSES]; /* of an address of a bus: a place, or -1 */
    bool seen[PINTLE_TOGETHER_BUSES * ADDRESSES];
    uint64_t met; /* places in whose way somebody was */
};

static bool is_i2c(const struct pintle_sheet *sheet)
{
    return sheet->part->link->kind == PINTLE_BUS_I2C;
}

/* Give the place an address, if need be one that somebody moves away from. */
static bool seat(struct matching *m, unsigned p)
{
    struct pintle_together_part *place = &m->fit->place[p];
    const struct pintle_part *part = place->sheet->part;
    m->met |= (uint64_t)1 << p;
    for (unsigned bus = 0; bus < m->buses; bus++) {
        for (unsigned i = 0; i < part->address_count; i++) {
            unsigned at = bus * ADDRESSES + (place->sheet->straps[i].address & 127u);
            if (m->seen[at]) {
                continue;
            }
            m->seen[at] = true;
            if (m->owner[at] < 0 || seat(m, (unsigned)m->owner[at])) {
                m->owner[at] = (int)p;
                place->bus = bus;
                place->strap = (int)i;
                return true;
            }
        }
    }
    return false;
}

static bool seat_all(struct pintle_together *fit, unsigned buses, uint64_t *crowd)
{
    struct matching m = { .fit = fit, .buses = buses };
    memset(m.owner, -1, sizeof m.owner);
    for (unsigned p = 0; p < fit->count; p++) {
        memset(m.seen, 0, sizeof m.seen);
        m.met = 0;
        if (is_i2c(fit->place[p].sheet) && !seat(&m, p)) {
            *crowd = m.met;
            return false;
        }
    }
    return true;
}

static void seat_others(struct pintle_together *fit)
{
    for (unsigned p = 0; p < fit->count; p++) {
        struct pintle_together_part *place = &fit->place[p];
        unsigned kind = place->sheet->part->link->kind;
        if (kind == PINTLE_BUS_SPI) {
            unsigned selects = 0;
            for (unsigned k = 0; k < p; k++) {
                selects += fit->place[k].sheet->part->link->kind == PINTLE_BUS_SPI;
            }
            place->strap = (int)selects;
            fit->buses[kind] = 1;
        } else if (kind == PINTLE_BUS_ONEWIRE) {
            fit->buses[kind] = 1;
        } else if (kind == PINTLE_BUS_STREAM) {
            place->bus = fit->buses[kind]++; /* it has one other end */
        }
    }
}

static uint64_t unsuited(const struct pintle_together *fit, float volts, unsigned *count)
{
    uint64_t set = 0;
    *count = 0;
    for (unsigned p = 0; p < fit->count; p++) {
        const struct pintle_sheet *sheet = fit->place[p].sheet;
        if (volts < sheet->supply_lowest || volts > sheet->supply_highest) {
            set |= (uint64_t)1 << p;
            ++*count;
        }
    }
    return set;
}

static void supply(struct pintle_together *fit)
{
    static const float usual[] = { 3.3f, 5.0f, 1.8f, 2.5f };
    unsigned fewest = UINT32_MAX;
    for (unsigned i = 0; i < sizeof usual / sizeof usual[0]; i++) {
        unsigned count = 0;
        uint64_t set = unsuited(fit, usual[i], &count);
        if (count < fewest) {
            fewest = count;
            fit->supply_v = usual[i];
            fit->other_v = set;
        }
    }
}

int pintle_together_place(const struct pintle_sheet *const *parts, unsigned count,
                          struct pintle_together *fit)
{
    unsigned i2c = 0;
    memset(fit, 0, sizeof *fit);
    fit->count = count;
    for (unsigned p = 0; p < count; p++) {
        fit->place[p].sheet = parts[p];
        i2c += is_i2c(parts[p]);
    }
    seat_others(fit);
    supply(fit);
    fit->buses[PINTLE_BUS_I2C] = i2c > 0;
    while (!seat_all(fit, fit->buses[PINTLE_BUS_I2C], &fit->crowd[fit->buses[PINTLE_BUS_I2C]])) {
        if (++fit->buses[PINTLE_BUS_I2C] == PINTLE_TOGETHER_BUSES) {
            return 0;
        }
    }
    return 1;
}
