/* Before anything is wired: which parts there are, which fit together, what they draw; and chips
 * that rest between measurements. */
#include "support.h"

#include "pintle/host/check/power.h"
#include "pintle/host/check/together.h"

/* --- a shopping list, against every arrangement that there is --- */

static bool arrange(const struct pintle_sheet *const *parts, unsigned count, unsigned at,
                    unsigned buses, uint8_t taken[4][128])
{
    while (at < count && parts[at]->part->link->kind != PINTLE_BUS_I2C) {
        at++;
    }
    if (at == count) {
        return true;
    }
    for (unsigned bus = 0; bus < buses; bus++) {
        for (unsigned i = 0; i < parts[at]->part->address_count; i++) {
            uint8_t *place = &taken[bus][parts[at]->part->addresses[i]];
            if (*place == 0) {
                *place = 1;
                if (arrange(parts, count, at + 1, buses, taken)) {
                    return true;
                }
                *place = 0;
            }
        }
    }
    return false;
}

static unsigned fewest(const struct pintle_sheet *const *parts, unsigned count)
{
    unsigned i2c = 0;
    for (unsigned i = 0; i < count; i++) {
        i2c += parts[i]->part->link->kind == PINTLE_BUS_I2C;
    }
    for (unsigned buses = i2c > 0; buses <= 4; buses++) {
        uint8_t taken[4][128] = { { 0 } };
        if (arrange(parts, count, 0, buses, taken)) {
            return buses;
        }
    }
    return 5;
}

static void on_as_few_buses_as_will_do(void)
{
    srand(5);
    unsigned crowded = 0;
    for (int n = 0; n < 400; n++) {
        const struct pintle_sheet *parts[7];
        unsigned count = 1 + (unsigned)rand() % 7;
        struct pintle_together fit;
        for (unsigned i = 0; i < count; i++) {
            parts[i] = pintle_sheet_at((size_t)rand() % pintle_sheet_count());
            parts[i] = i > 0 && rand() % 3 == 0 ? parts[i - 1] : parts[i];
        }
        unsigned wanted = fewest(parts, count);
        int ok = pintle_together_place(parts, count, &fit);
        EXPECT(wanted <= 4 && ok && fit.buses[PINTLE_BUS_I2C] == wanted, "list %d: %u, not %u", n,
               fit.buses[PINTLE_BUS_I2C], wanted);
        crowded += wanted > 1;
        unsigned streams = 0;
        for (unsigned i = 0; i < count; i++) {
            const struct pintle_together_part *a = &fit.place[i];
            unsigned kind = a->sheet->part->link->kind;
            streams += kind == PINTLE_BUS_STREAM;
            for (unsigned k = 0; k < i; k++) {
                const struct pintle_together_part *b = &fit.place[k];
                if (b->sheet->part->link->kind != kind || a->bus != b->bus) {
                    continue;
                }
                bool same = kind == PINTLE_BUS_I2C ? a->sheet->straps[a->strap].address
                                                         == b->sheet->straps[b->strap].address
                            : kind == PINTLE_BUS_SPI ? a->strap == b->strap
                                                     : kind == PINTLE_BUS_STREAM;
                EXPECT(!same, "list %d: %s and %s in one place", n, a->sheet->part->name,
                       b->sheet->part->name);
            }
        }
        CU_ASSERT_EQUAL(fit.buses[PINTLE_BUS_STREAM], streams);
    }
    CU_ASSERT(crowded > 20);
    const struct pintle_sheet *many[PINTLE_TOGETHER_PARTS];
    struct pintle_together fit;
    for (unsigned i = 0; i < 8; i++) {
        many[i] = pintle_sheet_find("BMP180");
    }
    CU_ASSERT(!pintle_together_place(many, 8, &fit));
}

/* --- rest --- */

/* After a rest a part measures as before, over and over; meanwhile its chip measures nothing. */
static void they_rest(void)
{
    unsigned rest = 0;
    for (size_t p = 0; p < measuring_count(); p++) {
        const struct pintle_sheet *sheet = measuring_at(p);
        struct bench bench;
        struct pintle_sample sample;
        bench_make(&bench, sheet->part, bench_place(sheet->part));
        pintle_sim_pass(&bench.sim, 1000000);
        if (!sheet->part->rest) {
            CU_ASSERT_EQUAL(pintle_sensor_rest(&bench.sensor), PINTLE_NO_ABILITY);
            continue;
        }
        rest++;
        for (int k = 0; k < 4; k++) {
            EXPECT(bench_read(&bench, &sample) == PINTLE_OK && bench_lies(&bench, &sample) == 0,
                   "%s, reading %d", sheet->part->name, k);
            EXPECT(pintle_reading_good(&sample.channel[0]), "%s, reading %d: %x", sheet->part->name,
                   k, sample.channel[0].quality);
            EXPECT(pintle_sensor_rest(&bench.sensor) == PINTLE_OK, "%s rests", sheet->part->name);
            pintle_sim_pass(&bench.sim, 10000000);
        }
        const struct pintle_sim_fault gone = { .kind = PINTLE_SIM_UNPLUGGED,
                                               .from_us = bench.sim.now_us,
                                               .to_us = UINT64_MAX };
        CU_ASSERT_EQUAL(pintle_sim_add_fault(&bench.sim, &gone), PINTLE_OK);
        pintle_sim_pass(&bench.sim, 1);
        enum pintle_status status = pintle_sensor_rest(&bench.sensor);
        EXPECT(status == PINTLE_NO_ANSWER || sheet->part->link->kind == PINTLE_BUS_SPI,
               "%s is gone: %s", sheet->part->name, pintle_status_word(status));
    }
    CU_ASSERT(rest >= 9);
}

/* What the programs wait by themselves is what a reading of the simulation takes, but for polls. */
static void waits_are_what_they_take(void)
{
    static const struct {
        const char *part;
        const char *setting;
        double ms;
    } rows[] = {
        { "SHT31", "repeatability=high", 15.5 },
        { "SHT31", "repeatability=low", 4.5 },
        { "BME280", "pressure-oversampling=x16", 43.8 },
        { "DS18B20", "resolution=9-bit", 93.75 },
        { "TMP102", "mode=one-shot", 35 },
        { "TMP102", "mode=continuous", 0 },
    };
    for (size_t i = 0; i < COUNT(rows); i++) {
        const struct pintle_sheet *sheet = pintle_sheet_find(rows[i].part);
        struct pintle_chosen chosen;
        struct pintle_problem problem = { 0 };
        pintle_rig_initial(sheet->part, &chosen);
        CU_ASSERT(pintle_rig_setting(sheet, rows[i].setting, &chosen, &problem));
        double ms =
            (double)pintle_sheet_waits_us(sheet->part, sheet->part->measure, chosen.settings) / 1e3;
        EXPECT(fabs(ms - rows[i].ms) < 0.3, "%s %s: %g ms", rows[i].part, rows[i].setting, ms);
    }
}

/* --- the commands --- */

static void in_the_commands(void)
{
    static const struct {
        const char *arguments;
        int status;
        const char *text;
    } rows[] = {
        { "parts --measures pressure", 0, "BMP280" },
        { "parts --measures temperature --bus 1-wire", 0, "DS18B20" },
        { "parts --bus serial", 0, "TOF10120 " },
        { "parts --address 0x68", 0, "MPU6050" },
        { "parts --measures wind", 2, "they measure temperature, relative humidity" },
        { "parts --address 200", 2, "an I2C address has 7 bits" },
        { "parts --bus can", 2, "no part is so" },
        { "parts --fit DS3231 MPU6050 BMP180 BME280", 0, "MPU6050    I2C 1      0x69" },
        { "parts --fit DS3231 DS1307", 0, "DS3231, DS1307 are too many for 1 bus" },
        { "parts --fit TMP102 BMP180 DS1307", 0, "DS1307 takes 4.5 to 5.5 V" },
        { "parts --fit ICM20948 PCD8544", 0, "select 2   and a line that tells commands" },
        { "parts --fit TOF10120 TOF10120", 0, "serial 2   -          alone on its line" },
        { "parts --fit BMP180 BMP180 BMP180 BMP180 BMP180 BMP180 BMP180 BMP180", 1,
          "too few addresses between them, even on 7 buses" },
        { "parts --fit", 2, "--fit takes the names" },
        { "parts --fit BMP18", 2, "BMP180" },
        { "parts BME280 BMP180", 2, "--fit and all of a shopping list" },
        { "parts ADXL345", 0,
          "12.5Hz     -                -                  177.1 ms      50 uA" },
        { "parts VEML7700", 0, "1762 ms" },
        { "parts MPU6050", 0,
          "3800 uA while it works, 5 uA at rest, to which the rig may send it" },
        { "power --rig p.rig", 0, "light      VEML7700            45         0.5       always" },
        { "power --rig p.rig --every 10min", 0, "heel       MPU6050           3800           5" },
        { "power --rig p.rig --battery 1000", 0, "if the board took nothing: say --board MA" },
        { "power --rig p.rig --battery 1000 --board 2", 0, "mA with the board" },
        { "power --rig p.rig --battery -1", 2, "from 0 up" },
        { "power --rig p.rig --every never", 2, "not 'never'" },
        { "power --rig p.rig now", 2, "one word too many" },
        { "log --rig p.rig --for 3min", 0, "3 records in" },
        { "parts --rig bad.rig", 2, "a SHT31 cannot be told to rest, it does so by itself" },
    };
    char *folder = scratch_make();
    file_write(folder, "p.rig",
               "board { port = \"sim\" world = \"p.world\" }\n"
               "bus cabin { speed = 400000 pull-up = 2200 }\n"
               "sensor light { part = \"VEML7700\" bus = \"cabin\" address = 0x10 }\n"
               "sensor heel { part = \"MPU6050\" bus = \"cabin\" address = 0x68 rest = true }\n"
               "derive way { channel up { is = \"pitch\" of = { \"heel.accel-x\","
               " \"heel.accel-y\", \"heel.accel-z\" } } }\n");
    file_write(folder, "p.world",
               "chip light { part = \"VEML7700\" bus = \"cabin\" address = 0x10 }\n"
               "chip heel { part = \"MPU6050\" bus = \"cabin\" address = 0x68 }\n");
    file_write(folder, "bad.rig",
               "board { port = \"sim\" world = \"p.world\" }\nbus cabin { }\n"
               "sensor air { part = \"SHT31\" address = 0x44 rest = true }\n");
    for (size_t i = 0; i < COUNT(rows); i++) {
        expect_said(folder, rows[i].arguments, rows[i].status, rows[i].text);
    }
    char *records = file_text(folder, "runs/0001/readings.csv");
    EXPECT(g_str_has_suffix(records, ",good\r\n"), "%s", records);
    g_free(records);
    scratch_remove(folder);
}

void add_shop_suite(void)
{
    SUITE("shop", { "on as few buses as will do", on_as_few_buses_as_will_do },
          { "they rest", they_rest }, { "waits are what they take", waits_are_what_they_take },
          { "in the commands", in_the_commands });
}
