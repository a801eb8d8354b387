/* Which bus a described part speaks, and how. */
#include "host/rig/described.h"

#include <glib.h>
#include <string.h>

static int take_i2c(struct describing *d, const struct pintle_link *link)
{
    unsigned count = cfg_size(d->section, "addresses");
    uint8_t *addresses = pintle_priv_loading_own(count + 1);
    struct pintle_strap *straps = pintle_priv_loading_own((count + 1) * sizeof *straps);
    for (unsigned i = 0; i < count; i++) {
        long address = cfg_getnint(d->section, "addresses", i);
        if (address < 0x08 || address > 0x77) {
            return pintle_priv_described_complain(
                d, "0x%02lx is no 7-bit address; they go from 0x08 to 0x77",
                (unsigned long)address);
        }
        addresses[i] = (uint8_t)address;
        straps[i] = (struct pintle_strap){ (uint8_t)address, "as the rig file says" };
    }
    d->part->link = link;
    d->part->addresses = addresses;
    d->part->address_count = (uint8_t)count;
    d->sheet->straps = straps;
    return count > 0 && count <= 112
               ? 0
               : pintle_priv_described_complain(d, "it needs its addresses, as in { 0x48, 0x49 }");
}

static int take_spi(struct describing *d)
{
    struct pintle_spi_rules *rules = pintle_priv_loading_own(sizeof *rules);
    static const struct {
        const char *word;
        long lowest, highest;
    } numbers[] = { { "top-speed", 1000, 100000000 }, { "mode", 0, 3 },
                    { "read-bit", 0, 0xff },          { "burst-bit", 0, 0xff },
                    { "bank-register", -1, 0x7f },    { "bank-bit", 0, 7 } };
    long is[G_N_ELEMENTS(numbers)];
    for (unsigned i = 0; i < G_N_ELEMENTS(numbers); i++) {
        is[i] = cfg_getint(d->section, numbers[i].word);
        if (is[i] < numbers[i].lowest || is[i] > numbers[i].highest) {
            return pintle_priv_described_complain(d, "%s is a number from %ld to %ld",
                                                  numbers[i].word, MAX(numbers[i].lowest, 0),
                                                  numbers[i].highest);
        }
    }
    *rules = (struct pintle_spi_rules){ .top_hz = (uint32_t)is[0],
                                        .mode = (uint8_t)is[1],
                                        .read_bit = (uint8_t)is[2],
                                        .burst_bit = (uint8_t)is[3],
                                        .bank_reg = (uint8_t)MAX(is[4], 0),
                                        .bank_shift = (uint8_t)is[5],
                                        .commands = cfg_getbool(d->section, "commands") != 0,
                                        .banks = is[4] >= 0 };
    d->part->link = &pintle_link_spi;
    d->part->spi = rules;
    d->part->flags |= rules->commands ? 0 : PINTLE_PART_ONES_SILENT;
    return 0;
}

/* "line" frames end with a line feed; or they have a length. */
static int take_line(struct describing *d)
{
    struct pintle_frame *frame = pintle_priv_loading_own(sizeof *frame);
    long speed = cfg_getint(d->section, "speed");
    long length = cfg_getint(d->section, "frame");
    long limit = cfg_getint(d->section, "answers-within-ms");
    bool text = cfg_getbool(d->section, "text");
    if (speed < 300 || speed > 1000000 || limit < 1 || limit > 60000
        || (text ? length != 0 : length < 2 || length > PINTLE_STREAM_FRAME)) {
        return pintle_priv_described_complain(
            d,
            "on a serial line it needs speed = BAUD (300 to 1000000), answers-within-ms = 1 to "
            "60000, "
            "and text = true for lines of text or frame = BYTES (2 to %d) for frames of bytes",
            PINTLE_STREAM_FRAME);
    }
    *frame = (struct pintle_frame){ .bit_hz = (uint32_t)speed,
                                    .limit_ms = (uint16_t)limit,
                                    .length = (uint8_t)length,
                                    .end = '\n' };
    d->part->link = &pintle_link_stream;
    d->part->frame = frame;
    d->part->integer = text ? pintle_part_digits : NULL;
    return 0;
}

int pintle_priv_described_bus(struct describing *d)
{
    const char *bus = cfg_getstr(d->section, "bus");
    if (strcmp(bus, "i2c") == 0 || strcmp(bus, "smbus") == 0) {
        return take_i2c(d, bus[0] == 's' ? &pintle_link_smbus : &pintle_link_i2c);
    }
    if (strcmp(bus, "spi") == 0) {
        return take_spi(d);
    }
    if (strcmp(bus, "onewire") == 0) {
        long family = cfg_getint(d->section, "family");
        d->part->link = &pintle_link_scratchpad;
        d->part->family = (uint8_t)family;
        return family >= 1 && family <= 0xff
                   ? 0
                   : pintle_priv_described_complain(
                       d, "family is the first byte of its code, 0x01 to 0xff");
    }
    if (strcmp(bus, "serial") == 0) {
        return take_line(d);
    }
    return pintle_priv_described_complain(
        d, "it is on a bus of kind '%s'; there are i2c, smbus, spi, onewire and serial", bus);
}
