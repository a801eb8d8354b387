/* Decoding on small machines: an ATmega328P, where int has 16 bits, double 32, and tables lie
 * apart, and a Cortex-M0. One line per row to the serial port; tools/check runs it in emulators and
 * compares the lines with decoding.txt, whose values come from the same documents as those of the
 * host's tests. */
#include "pintle/parts/ads1115.h"
#include "pintle/parts/bme280.h"
#include "pintle/parts/ina219.h"
#include "pintle/parts/veml7700.h"
#include "say.h"

/* Table rows are in program memory; their bytes are copied out one row at a time. */
struct row {
    char name[16];
    const struct pintle_part *part;
    uint8_t settings[4];
    uint8_t raw[24];
};

static const uint8_t trim_table[PINTLE_BME280_TRIM] PINTLE_TABLE = {
    0x70, 0x6b, 0x43, 0x67, 0x18, 0xfc, 0x7d, 0x8e, 0x43, 0xd6, 0xd0,
    0x0b, 0x27, 0x0b, 0x8c, 0x00, 0xf9, 0xff, 0x8c, 0x3c, 0xf8, 0xc6,
    0x70, 0x17, 0x00, 0x4b, 0x6f, 0x01, 0x00, 0x13, 0x29, 0x03, 0x1e
};

static const struct row rows[] PINTLE_TABLE = {
    { "TMP102 12 bits", &pintle_tmp102, { 0, 0 }, { 0xe7, 0x00 } },
    { "TMP102 12 bits", &pintle_tmp102, { 0, 0 }, { 0x7f, 0xf0 } },
    { "TMP102 13 bits", &pintle_tmp102, { 0, 1 }, { 0x4b, 0x01 } },
    { "TMP102 13 bits", &pintle_tmp102, { 0, 1 }, { 0xe4, 0x81 } },
    { "SHT31", &pintle_sht31, { 0 }, { 0x66, 0x66, 0, 0x80, 0x00, 0 } },
    { "SHT31 ends", &pintle_sht31, { 0 }, { 0xff, 0xff, 0, 0xff, 0xff, 0 } },
    { "BME280", &pintle_bme280, { 0 }, { 0x65, 0x5a, 0xc0, 0x7e, 0xed, 0x00, 0x80, 0xe8 } },
    { "DS3231",
      &pintle_ds3231,
      { 0 },
      { 0, 0, 0xff, 0xc0, 0x30, 0x59, 0x23, 5, 0x31, 0x12, 0x99, 0x99 } },
    { "DS18B20 12 bits", &pintle_ds18b20, { 3 }, { 0x6f, 0xfe, 0, 0, 0x7f } },
    { "DS18B20 9 bits", &pintle_ds18b20, { 0 }, { 0x97, 0x01, 0, 0, 0x1f } },
    { "LIS331DLH 8 g", &pintle_lis331dlh, { 2 }, { 0x00, 0x10, 0x00, 0xf0, 0xf0, 0x7f } },
    { "ICM20948",
      &pintle_icm20948,
      { 0, 5, 3, 5 },
      { 0x40, 0x00, 0xc0, 0x00, 0x80, 0x00, 0x40, 0x10, 0xbf, 0xf0, 0x00, 0x00 } },
    { "MCP3008",
      &pintle_mcp3008,
      { 0 },
      { 0x40, 0x00, 0x10, 0x7f, 0xff, 0xf0, 0, 0, 0, 0x26, 0xdb, 0x20 } },
    { "ADS1115 6.144 V", &pintle_ads1115, { 0, 4 }, { 0x40, 0, 0x80, 0, 0x7f, 0xff, 0xff, 0xff } },
    { "INA219", &pintle_ina219, { 1, 3, 0 }, { 0x5d, 0x82, 0x07, 0xd0 } },
    { "VEML7700", &pintle_veml7700, { 2, 2 }, { 0x7b, 0x08, 0x39, 0x30 } },
};

int main(void)
{
    static struct pintle_reading readings[10];
    uint8_t trim[PINTLE_BME280_TRIM];
    board_start();
    pintle_table_copy(trim, trim_table, sizeof trim);
    for (uint8_t i = 0; i < sizeof rows / sizeof rows[0]; i++) {
        struct row row;
        pintle_table_copy(&row, &rows[i], sizeof row);
        const struct pintle_block block = { .raw = row.raw,
                                            .trim = trim,
                                            .settings = row.settings };
        pintle_part_decode(row.part, &block, readings);
        print_readings(row.name, row.part, readings);
    }
    board_halt();
    return 0;
}
