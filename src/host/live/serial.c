/* Which specimen of a chip it is, where the chip has a serial number that it says. */
#include "host/live/serial.h"

#include <glib.h>
#include <string.h>

#define SAYS_US 2000u /* from the command until it is there, and more than it takes to start */

/* Two words, each with its checksum. */
static enum pintle_status ask(struct pintle_station *station, unsigned index, uint8_t words[6])
{
    const struct pintle_rig_sensor *s = &station->rig->sensor[index];
    struct pintle_i2c *bus = &station->i2c[s->bus];
    const struct pintle_segment command = { .out = &s->sheet->serial, .length = 1 };
    const struct pintle_segment answer = { .in = words, .length = 6 };
    const struct pintle_clock *clock = &station->clock;
    clock->calls->sleep_us(clock->context, SAYS_US); /* it may be starting */
    enum pintle_status status = pintle_i2c_transfer(bus, s->place.address, &command, 1);
    if (status == PINTLE_OK) {
        clock->calls->sleep_us(clock->context, SAYS_US);
        status = pintle_i2c_transfer(bus, s->place.address, &answer, 1);
    }
    return status == PINTLE_OK ? pintle_part_crc_check(s->sheet->part->crc, words, 6) : status;
}

enum pintle_status pintle_station_serial(struct pintle_station *station, unsigned index,
                                         char serial[PINTLE_SERIAL_TEXT])
{
    uint8_t first[6];
    uint8_t again[6];
    const struct pintle_rig_sensor *s = &station->rig->sensor[index];
    serial[0] = '\0';
    if (s->made || !s->sheet->serial) {
        return PINTLE_NO_ABILITY;
    }
    enum pintle_status status = ask(station, index, first);
    status = status == PINTLE_OK ? ask(station, index, again) : status;
    if (status == PINTLE_OK && memcmp(first, again, sizeof first) != 0) {
        status = PINTLE_BAD_CRC; /* somebody else's answer was among them */
    }
    if (status == PINTLE_OK) {
        g_snprintf(serial, PINTLE_SERIAL_TEXT, "%02x%02x%02x%02x", first[0], first[1], first[3],
                   first[4]);
    }
    return status;
}

bool pintle_priv_is_specimen(struct pintle_station *station, unsigned index)
{
    const struct pintle_rig_sensor *s = &station->rig->sensor[index];
    struct pintle_rigged *rigged = &station->rigged[index];
    char serial[PINTLE_SERIAL_TEXT];
    bool asked = false;
    for (unsigned i = 0; i < s->stages; i++) {
        asked = asked || s->stage[i].serial[0];
    }
    if (!asked) {
        return true;
    }
    if (station->turn[index].status != PINTLE_OK) {
        rigged->specimen = PINTLE_SPECIMEN_UNKNOWN; /* whoever comes back may be another */
    } else if (rigged->specimen == PINTLE_SPECIMEN_UNKNOWN
               && pintle_station_serial(station, index, serial) == PINTLE_OK) {
        rigged->specimen = PINTLE_SPECIMEN_SAME;
        for (unsigned i = 0; i < s->stages; i++) {
            if (s->stage[i].serial[0] && strcmp(s->stage[i].serial, serial) != 0) {
                rigged->specimen = PINTLE_SPECIMEN_OTHER;
            }
        }
    }
    return rigged->specimen == PINTLE_SPECIMEN_SAME;
}
