/* A chip that the rig does not name: which part is it, and what may be sent to it to find out?
 * Another chip than the one that is looked for must not change by it.
 *
 * Nothing is sent where no part of the catalogue could prove its identity at that address. Else it
 * is read first, without a word to it:
 *
 * - A chip that refuses to be read has no registers; commands of two bytes are no write to it.
 * - A chip with registers answers. It gets a register's number, which is one byte, and is read.
 * - There are chips to which that byte is a setting, at the addresses below. They have no other
 *   register, so that they answer one byte over and over; a chip that does gets nothing.
 */
#include <glib.h>
#include <string.h>

#include "host/check/scan.h"

/* Chips that take any byte for a setting and are in no catalogue of sensors. */
static const struct {
    uint8_t first, last;
    const char *what;
} settable[] = {
    { 0x20, 0x27, "an expander (PCF8574)" },
    { 0x38, 0x3f, "an expander (PCF8574A)" },
    { 0x68, 0x6f, "a converter (MCP3422)" },
    { 0x70, 0x77, "a bus switch (PCA9548)" },
};

enum allowed { NOTHING, REGISTER_NUMBERS, COMMANDS };

static bool could_be(const struct pintle_sheet *sheet, uint8_t address)
{
    return sheet->part->link->kind == PINTLE_BUS_I2C && pintle_sheet_strap(sheet, address)[0];
}

static const char *other_chip(uint8_t address)
{
    for (size_t i = 0; i < G_N_ELEMENTS(settable); i++) {
        if (address >= settable[i].first && address <= settable[i].last) {
            return settable[i].what;
        }
    }
    return NULL;
}

/* Read it without a word; where the adapter can't fetch so many at once, one by one. */
static enum pintle_status read_plainly(const struct scanning *s, uint8_t address, uint8_t *bytes,
                                       uint8_t count)
{
    struct pintle_i2c *bus = &s->station->i2c[s->bus];
    const struct pintle_segment all = { NULL, bytes, count };
    enum pintle_status status = pintle_i2c_transfer(bus, address, &all, 1);
    for (uint8_t i = 0; i < count && (status == PINTLE_UNSUPPORTED || i > 0); i++) {
        const struct pintle_segment one = { NULL, bytes + i, 1 };
        status = pintle_i2c_transfer(bus, address, &one, 1);
        if (status != PINTLE_OK) {
            break;
        }
    }
    return status;
}

/* Twice: the first answer may be a result that waited to be fetched. */
static bool refuses(const struct scanning *s, uint8_t address)
{
    uint8_t byte = 0;
    (void)read_plainly(s, address, &byte, 1);
    enum pintle_status status = read_plainly(s, address, &byte, 1);
    return status == PINTLE_NO_ANSWER || status == PINTLE_DATA_REFUSED;
}

#define STRETCH 8
#define MOST 256 /* bytes: all registers of a chip that are numbered with one */

/* Do other bytes come the further it is read? The first half of a stretch may be a result, before a
 * setting that comes over and over; the high half of a byte may be inputs of a switch. */
static bool has_many_registers(const struct scanning *s, uint8_t address)
{
    uint8_t bytes[STRETCH];
    for (unsigned done = 0; done < MOST; done += STRETCH) {
        if (read_plainly(s, address, bytes, STRETCH) != PINTLE_OK) {
            return false;
        }
        for (unsigned i = STRETCH / 2; i < STRETCH - 1; i++) {
            if ((bytes[i] ^ bytes[i + 1]) & 0x0f) {
                return true;
            }
        }
    }
    return false;
}

static enum allowed may_send(const struct scanning *s, const struct pintle_finding *finding)
{
    const uint8_t address = finding->place.address;
    const struct pintle_sheet *sheet = NULL;
    bool certain = false;
    if (finding->sheet && finding->sheet->acts) {
        return NOTHING;
    }
    for (size_t i = 0; (sheet = pintle_rig_part_at(s->station->rig, i)) != NULL; i++) {
        if (could_be(sheet, address)) {
            if (sheet->acts) {
                return NOTHING;
            }
            certain = certain || sheet->proof_is_certain;
        }
    }
    if (!certain) {
        return NOTHING;
    }
    if (refuses(s, address)) {
        return COMMANDS;
    }
    return other_chip(address) && !has_many_registers(s, address) ? NOTHING : REGISTER_NUMBERS;
}

/* What its proof sends. */
static enum allowed needs(const struct pintle_sheet *sheet)
{
    enum allowed most = NOTHING;
    for (const struct pintle_step *step = sheet->part->identity; step->op != PINTLE_OP_END;
         step++) {
        bool asks = step->op == PINTLE_OP_EXPECT || step->op == PINTLE_OP_REFUSE;
        bool wide = (sheet->part->flags & PINTLE_PART_WIDE_ADDRESS) != 0;
        if (step->op == PINTLE_OP_WAIT || (asks && step->reg == PINTLE_NO_REG)) {
            continue;
        }
        most = MAX(most, asks && !wide ? REGISTER_NUMBERS : COMMANDS);
    }
    return most;
}

/* A status that says what the chip isn't, rather than what the bus can't. */
static bool denies(enum pintle_status status)
{
    return status == PINTLE_WRONG_IDENTITY || status == PINTLE_NO_ANSWER
           || status == PINTLE_DATA_REFUSED || status == PINTLE_BAD_CRC || status == PINTLE_MISFIT;
}

static void add_possible(struct pintle_finding *finding, const struct pintle_sheet *sheet)
{
    finding->possible =
        g_renew(const struct pintle_sheet *, finding->possible, finding->possibles + 1);
    finding->possible[finding->possibles++] = sheet;
}

static const struct pintle_sheet *recognise_i2c(const struct scanning *s,
                                                struct pintle_finding *finding)
{
    const uint8_t address = finding->place.address;
    const enum allowed allowed = may_send(s, finding);
    const struct pintle_sheet *sheet = NULL;
    finding->possibles = 0;
    finding->untried = allowed == NOTHING && other_chip(address);
    for (size_t i = 0; (sheet = pintle_rig_part_at(s->station->rig, i)) != NULL; i++) {
        if (!could_be(sheet, address)) {
            continue;
        }
        enum pintle_status status = PINTLE_UNSUPPORTED;
        if (allowed != NOTHING && needs(sheet) <= allowed) {
            status = pintle_priv_scan_prove(s, sheet, finding);
        }
        if (status == PINTLE_OK && sheet->proof_is_certain) {
            return sheet;
        }
        if (!denies(status)) {
            add_possible(finding, sheet);
            finding->untried = finding->untried || sheet->acts;
        }
    }
    return NULL;
}

/* On SPI: a part with banks is only asked where the first one, of its power-up, is chosen, since
 * else its proof would choose it. */
bool pintle_priv_scan_moves_bank(const struct scanning *s, const struct pintle_sheet *sheet,
                                 const struct pintle_finding *finding)
{
    const struct pintle_spi_rules *rules = sheet->part->spi;
    uint8_t bank = 0xff;
    struct pintle_any any;
    return rules && rules->banks
           && (pintle_station_wire(s->station, &any, sheet->part, finding->bus, &finding->place)
                   != PINTLE_OK
               || sheet->part->link->receive(&any.sensor, rules->bank_reg, &bank, 1) != PINTLE_OK
               || bank >> rules->bank_shift != 0);
}

/* Zeros are no identity: a line that nothing drives may read so. */
static bool has_identity(const struct pintle_sheet *sheet)
{
    const struct pintle_step *first = sheet->part->identity;
    return first->op == PINTLE_OP_EXPECT && (first->value & 0xffff) != 0;
}

static const struct pintle_sheet *recognise_other(const struct scanning *s,
                                                  struct pintle_finding *finding)
{
    const struct pintle_sheet *sheet = NULL;
    const enum pintle_bus_kind kind = s->station->rig->bus[s->bus].kind;
    finding->possibles = 0;
    for (size_t i = 0; (sheet = pintle_rig_part_at(s->station->rig, i)) != NULL; i++) {
        if (sheet->part->link->kind != kind || sheet->acts
            || pintle_priv_scan_moves_bank(s, sheet, finding)
            || !pintle_priv_scan_proves(s, sheet, finding)) {
            continue;
        }
        if (sheet->proof_is_certain) {
            return sheet;
        }
        if (has_identity(sheet)) {
            add_possible(finding, sheet);
        }
    }
    return NULL;
}

const struct pintle_sheet *pintle_priv_scan_recognise(const struct scanning *s,
                                                      struct pintle_finding *finding)
{
    bool i2c = s->station->rig->bus[s->bus].kind == PINTLE_BUS_I2C;
    return i2c ? recognise_i2c(s, finding) : recognise_other(s, finding);
}

char *pintle_priv_scan_possible(const struct pintle_finding *finding)
{
    GString *names = g_string_new(NULL);
    bool told = !finding->untried;
    for (unsigned i = 0; i < finding->possibles; i++) {
        g_string_append_printf(names, "%s%s", i ? " or " : "", finding->possible[i]->part->name);
        told = told || finding->possible[i]->acts;
    }
    if (!told) {
        g_string_append_printf(names, "%s%s", names->len ? " or " : "",
                               other_chip(finding->place.address));
    }
    return g_string_free(names, FALSE);
}
