/* Every part of the catalogue, whatever it is: its computation stands any bytes, and what its sheet
 * says fits. */
#include "support.h"

#include "pintle/host/rig/rig.h"
#include "pintle/sheet.h"

/* Any bytes at all, with any trim at all: no trap, and every value is finite. Run under the
 * sanitizers this finds overflow and out-of-bounds. */
static void any_bytes(void)
{
    srand(5);
    for (size_t p = 0; p < pintle_sheet_count(); p++) {
        const struct pintle_part *part = pintle_sheet_at(p)->part;
        for (int i = 0; i < 20000; i++) {
            uint8_t *raw = g_malloc(part->raw_size + 1u);
            uint8_t *trim = g_malloc(part->trim_size + 1u);
            for (unsigned k = 0; k < part->raw_size; k++) {
                raw[k] = (uint8_t)(rand() % 8 ? rand() : 0xff * (rand() & 1));
            }
            for (unsigned k = 0; k < part->trim_size; k++) {
                trim[k] = (uint8_t)(rand() % 8 ? rand() : 0xff * (rand() & 1));
            }
            uint8_t settings[PINTLE_MOST_SETTINGS] = { 0 };
            const struct pintle_block block = { .raw = raw, .trim = trim, .settings = settings };
            struct pintle_sample sample;
            memset(&sample, 0, sizeof sample);
            for (uint8_t k = 0; k < part->setting_count; k++) {
                settings[k] = (uint8_t)(rand() % part->settings[k].count);
            }
            pintle_sample_decode(part, &block, &sample);
            for (unsigned c = 0; c < part->channel_count; c++) {
                bool none = sample.channel[c].quality & PINTLE_QUALITY_BUS;
                if (none ? !isnan(sample.channel[c].value) : !isfinite(sample.channel[c].value)) {
                    EXPECT(0, "%s channel %u is %s", part->name, c,
                           none ? "a number, and there is none" : "not finite");
                }
            }
            g_free(raw);
            g_free(trim);
        }
        EXPECT(1, "%s", part->name);
    }
}

/* Where the fields lie that can only be read, as printed in the datasheets; what can be written is
 * tried on the simulated chips. */
static const struct {
    const char *part, *reg, *fields;
} printed[] = {
    { "BM?280", "status", "measuring 3, im_update 0" },
    { "ADXL345", "INT_SOURCE",
      "DATA_READY 7, SINGLE_TAP 6, DOUBLE_TAP 5, Activity 4, Inactivity 3, FREE_FALL 2, "
      "Watermark 1, Overrun 0" },
    { "ADXL345", "FIFO_STATUS", "FIFO_TRIG 7, Entries 5-0" },
    { "BMI160", "PMU_STATUS", "acc_pmu_status 5-4, gyr_pmu_status 3-2, mag_if_pmu_status 1-0" },
    { "BMI160", "STATUS", "drdy_acc 7, drdy_gyr 6" },
    { "MPU6050", "INT_STATUS", "FIFO_OFLOW 4, I2C_MST 3, DATA_RDY 0" },
    { "INA219", "BUS_VOLTAGE", "BD 15-3, CNVR 1, OVF 0" },
    { "VEML7700", "ALS_INT", "INT_TH_LOW 15, INT_TH_HIGH 14" },
    { "VEML7700", "ID", "ADDRESS 15-8, DEVICE 7-0" },
    { "DS18B20", "TEMPERATURE", "T 15-0" },
    { "DS3231", "Status", "OSF 7, EN32kHz 3, BSY 2, A2F 1, A1F 0" },
    { "ICM20948", "I2C_MST_STATUS",
      "I2C_SLV4_DONE 6, I2C_LOST_ARB 5, I2C_SLV4_NACK 4, I2C_SLV0_NACK 0" },
    { "ICM20948", "INT_STATUS_1", "RAW_DATA_0_RDY 0" },
    { "ICM20948", "INT_STATUS_2", "FIFO_OVERFLOW_INT 4-0" },
    { "ICM20948", "*OUT", "OUT 15-0" },
    { "ICM20948", "TEMP_OUT", "OUT 15-0" },
    { "LIS331*", "STATUS_REG", "ZYXOR 7, ZYXDA 3" },
    { "LIS331*", "OUT_?", "OUT 15-4" },
    { "MCP3008", "CH?", "NULL 15, CODE 14-5" },
    { "MCP9808", "CONFIG",
      "T_HYST 10-9, SHDN 8, CRIT_LOCK 7, WIN_LOCK 6, INT_CLEAR 5, ALERT_STAT 4, ALERT_CNT 3, "
      "ALERT_SEL 2, ALERT_POL 1, ALERT_MOD 0" },
    { "MCP9808", "T_A", "CRITICAL 15, UPPER 14, LOWER 13, T_A 12-0" },
    { "MCP9808", "DEVICE_ID", "DEVICE 15-8, REVISION 7-0" },
    { "SHT31", "STATUS",
      "ALERT_PENDING 15, HEATER 13, RH_ALERT 11, T_ALERT 10, RESET 4, COMMAND 1, WRITE_CRC 0" },
    { "SHTC3", "ID", "CODE_HIGH 11, CODE 5-0" },
    { "TMP102", "TEMPERATURE", "T 15-4" },
    { "TMP102", "CONFIGURATION",
      "OS 15, R 14-13, F 12-11, POL 10, TM 9, SD 8, CR 7-6, AL 5, EM 4" },
};

static int by_shift(const void *a, const void *b)
{
    return (int)((const struct pintle_field *)b)->shift
           - (int)((const struct pintle_field *)a)->shift;
}

/* From the high end down; null where all of them can be written. */
static char *fields_of(const struct pintle_map_reg *reg)
{
    GString *text = g_string_new(NULL);
    bool read_only = reg->reg.flags & PINTLE_REG_READ_ONLY;
    struct pintle_field *sorted = g_memdup2(reg->fields, reg->field_count * sizeof *sorted);
    if (reg->field_count > 0) {
        qsort(sorted, reg->field_count, sizeof *sorted, by_shift);
    }
    for (unsigned i = 0; i < reg->field_count; i++) {
        unsigned top = sorted[i].shift + sorted[i].bits - 1u;
        g_string_append_printf(text, "%s%s %u", i ? ", " : "", sorted[i].name, top);
        if (top > sorted[i].shift) {
            g_string_append_printf(text, "-%u", sorted[i].shift);
        }
        read_only |= reg->reg.fixed >> sorted[i].shift & 1;
    }
    g_free(sorted);
    return g_string_free(text, !read_only || reg->field_count == 0);
}

static void fields_as_printed(void)
{
    for (size_t p = 0; p < pintle_sheet_count(); p++) {
        const struct pintle_sheet *sheet = pintle_sheet_at(p);
        for (unsigned i = 0; i < sheet->reg_count; i++) {
            char *fields = fields_of(&sheet->regs[i]);
            const char *wanted = NULL;
            for (size_t k = 0; k < COUNT(printed) && fields && !wanted; k++) {
                bool named = g_pattern_match_simple(printed[k].part, sheet->part->name)
                             && g_pattern_match_simple(printed[k].reg, sheet->regs[i].name);
                wanted = named ? printed[k].fields : NULL;
            }
            EXPECT(g_strcmp0(fields, wanted) == 0,
                   "%s.%s has fields %s; the table `printed` has %s", sheet->part->name,
                   sheet->regs[i].name, fields, wanted ? wanted : "no row of it");
            g_free(fields);
        }
    }
}

/* Supplies, and the ends of the channels' ranges, in the datasheets' own units. */
static void limits_as_printed(void)
{
    const double g = 9.80665;
    const double degree_s = G_PI / 180;
    const struct {
        const char *part;
        double supply[2];
        struct {
            const char *channel;
            double lowest, highest, unit;
        } ends[4];
    } rows[] = {
        { "BME280",
          { 1.71, 3.6 },
          { { "temperature", -40, 85, 1 },
            { "pressure", 300, 1100, 100 },
            { "humidity", 0, 100, 1 } } },
        { "ADS1115", { 2, 5.5 }, { { "*-*", -5.8, 5.8, 1 }, { "ain?", -0.3, 5.8, 1 } } },
        { "ADXL345", { 2, 3.6 }, { { "accel-*", -16, 16, g } } },
        { "BMI160",
          { 1.71, 3.6 },
          { { "accel-*", -16, 16, g },
            { "rate-*", -2000, 2000, degree_s },
            { "temperature", -40, 85, 1 } } },
        { "MPU6050",
          { 2.375, 3.46 },
          { { "accel-*", -16, 16, g },
            { "rate-*", -2000, 2000, degree_s },
            { "temperature", -40, 85, 1 } } },
        { "INA219",
          { 3, 5.5 },
          { { "bus-voltage", 0, 26, 1 },
            { "shunt-volt", -0.32, 0.32, 1 },
            { "current", -3200, 3200, 1 },
            { "power", -83200, 83200, 1 } } },
        { "VEML7700", { 2.5, 3.6 }, { { "illuminance", 0, 120e3, 1 }, { "white", 0, 65535, 1 } } },
        { "BMP180",
          { 1.8, 3.6 },
          { { "temperature", -40, 85, 1 }, { "pressure", 300, 1100, 100 } } },
        { "BMP280",
          { 1.71, 3.6 },
          { { "temperature", -40, 85, 1 }, { "pressure", 300, 1100, 100 } } },
        { "HS3001", { 2.3, 5.5 }, { { "temperature", -40, 125, 1 }, { "humidity", 0, 100, 1 } } },
        { "SHT40", { 1.08, 3.6 }, { { "temperature", -40, 125, 1 }, { "humidity", 0, 100, 1 } } },
        { "DS18B20", { 3, 5.5 }, { { "temperature", -55, 125, 1 } } },
        { "DS3231", { 2.3, 5.5 }, { { "temperature", -40, 85, 1 }, { "time", 0, 4.3e9, 1 } } },
        { "TOF10120", { 3, 5 }, { { "distance", 0.1, 1.8, 1 } } },
        { "TOF10120I2C", { 3, 5 }, { { "distance", 0.1, 1.8, 1 } } },
        { "DS1307", { 4.5, 5.5 }, { { "time", 0, 4.3e9, 1 } } },
        { "AT24C32", { 1.8, 5.5 }, { { "", 0, 0, 1 } } },
        { "PCD8544", { 2.7, 3.3 }, { { "", 0, 0, 1 } } },
        { "SDCARD", { 2.7, 3.6 }, { { "", 0, 0, 1 } } },
        { "PCF8574", { 2.5, 6 }, { { "p?", 0, 1, 1 } } },
        { "PCF8574A", { 2.5, 6 }, { { "p?", 0, 1, 1 } } },
        { "ICM20948",
          { 1.71, 3.6 },
          { { "accel-*", -16, 16, g },
            { "rate-*", -2000, 2000, degree_s },
            { "temperature", -40, 85, 1 },
            { "mag-*", -4912.8, 4912.8, 1e-6 } } },
        { "LIS331DLH", { 2.16, 3.6 }, { { "accel-*", -8, 8, g } } },
        { "LIS331HH", { 2.16, 3.6 }, { { "accel-*", -24, 24, g } } },
        { "MCP3008", { 2.7, 5.5 }, { { "ch*", 0, 5.5, 1 } } },
        { "MCP9808", { 2.7, 5.5 }, { { "temperature", -40, 125, 1 } } },
        { "SHT31", { 2.15, 5.5 }, { { "temperature", -40, 125, 1 }, { "humidity", 0, 100, 1 } } },
        { "SHTC3", { 1.62, 3.6 }, { { "temperature", -40, 125, 1 }, { "humidity", 0, 100, 1 } } },
        { "TMP102", { 1.4, 3.6 }, { { "temperature", -40, 125, 1 } } },
    };
    uint64_t seen = 0;
    for (size_t i = 0; i < COUNT(rows); i++) {
        const struct pintle_sheet *sheet = pintle_sheet_find(rows[i].part);
        EXPECT_NEAR(sheet->supply_lowest, rows[i].supply[0], 1e-6, rows[i].part);
        EXPECT_NEAR(sheet->supply_highest, rows[i].supply[1], 1e-6, rows[i].part);
        for (unsigned c = 0; c < sheet->part->channel_count; c++) {
            const struct pintle_channel *channel = &sheet->part->channels[c];
            unsigned e = 0;
            while (e < 3 && !g_pattern_match_simple(rows[i].ends[e].channel, channel->name)) {
                e++;
            }
            double lowest = rows[i].ends[e].lowest * rows[i].ends[e].unit;
            double highest = rows[i].ends[e].highest * rows[i].ends[e].unit;
            EXPECT_NEAR(channel->lowest, lowest, 1e-6 * highest, channel->name);
            EXPECT_NEAR(channel->highest, highest, 1e-6 * highest, channel->name);
        }
        part_seen(&seen, sheet->part);
    }
    expect_all_parts(seen, "limits");
}

/* No two stretches of what 'convert' takes are called the same. */
static void stretches_differ(void)
{
    for (size_t p = 0; p < pintle_sheet_count(); p++) {
        const struct pintle_sheet *sheet = pintle_sheet_at(p);
        for (unsigned i = 0; i < sheet->data_count; i++) {
            for (unsigned k = 0; k < i; k++) {
                EXPECT(g_strcmp0(sheet->data[i].from, sheet->data[k].from) != 0
                           || g_strcmp0(sheet->data[i].what, sheet->data[k].what) != 0,
                       "%s: %s, %s twice", sheet->part->name, sheet->data[i].from,
                       sheet->data[i].what);
            }
        }
    }
}

/* What is said of an accuracy is what the tests of truth go by. */
static void accuracies_as_said(void)
{
    unsigned checked = 0;
    for (size_t p = 0; p < pintle_sheet_count(); p++) {
        const struct pintle_sheet *sheet = pintle_sheet_at(p);
        for (unsigned c = 0; c < sheet->part->channel_count; c++) {
            const struct pintle_channel *channel = &sheet->part->channels[c];
            const struct pintle_channel_text *text = &sheet->channels[c];
            float n[6] = { 0 };
            char unit[4][8];
            int count = sscanf(text->accuracy, "%f %7s from %f to %f %7[^ ,], %f %7s from %f to %f",
                               &n[0], unit[0], &n[1], &n[2], unit[1], &n[3], unit[2], &n[4], &n[5]);
            if (count < 5 || strcmp(unit[0], unit[1]) != 0) {
                continue; /* over the range of something else, or of a supply */
            }
            bool wide = count < 9
                        || (text->accuracy_wide == n[3] && channel->lowest == n[4]
                            && channel->highest == n[5]);
            EXPECT(text->accuracy_narrow == n[0] && text->narrow_lowest == n[1]
                       && text->narrow_highest == n[2] && wide,
                   "%s: %s", sheet->part->name, text->accuracy);
            checked++;
        }
    }
    EXPECT(checked >= 8, "%u accuracies", checked);
}

static void found_by_name(void)
{
    for (size_t p = 0; p < pintle_sheet_count(); p++) {
        const struct pintle_sheet *sheet = pintle_sheet_at(p);
        EXPECT(pintle_sheet_find(sheet->part->name) == sheet, "%s", sheet->part->name);
    }
    CU_ASSERT_PTR_NULL(pintle_sheet_find("TMP"));
    CU_ASSERT_PTR_NULL(pintle_sheet_find(""));
    CU_ASSERT_PTR_NOT_NULL(pintle_sheet_find("tmp102"));
    CU_ASSERT_PTR_NULL(pintle_sheet_at(pintle_sheet_count()));
}

/* What the engine runs and people are told: ends, sizes, straps, options, fields. */
static void tables_are_whole(void)
{
    for (size_t p = 0; p < pintle_sheet_count(); p++) {
        const char *fault = pintle_sheet_fault(pintle_sheet_at(p));
        EXPECT(!fault, "%s: %s", pintle_sheet_at(p)->part->name, fault);
    }
}

/* A BME280 whose tables can be broken: it has trim, settings and a raw block. */
struct broken {
    struct pintle_part part;
    struct pintle_sheet sheet;
    struct pintle_step identity[80], setup[80], measure[80];
    struct pintle_setting settings[4];
    struct pintle_channel channels[3];
    struct pintle_linear row;
    struct pintle_mark marks[2];
    struct pintle_map_reg regs[2];
};

static unsigned copy_steps(struct pintle_step *to, const struct pintle_step *from)
{
    unsigned i = 0;
    do {
        to[i] = from[i];
    } while (from[i++].op != PINTLE_OP_END);
    return i - 1;
}

static void make_broken(struct broken *b)
{
    memset(b, 0, sizeof *b);
    b->sheet = *pintle_sheet_find("BME280");
    b->part = pintle_bme280;
    copy_steps(b->identity, pintle_bme280.identity);
    copy_steps(b->setup, pintle_bme280.setup);
    copy_steps(b->measure, pintle_bme280.measure);
    memcpy(b->settings, pintle_bme280.settings, sizeof b->settings);
    memcpy(b->channels, pintle_bme280.channels, sizeof b->channels);
    b->row = (struct pintle_linear){ .bytes = 2, .scale = 1, .highest = 65535, .marks = b->marks };
    b->marks[0] = (struct pintle_mark)PINTLE_MARK(0, 1, 1, STALE);
    b->part.identity = b->identity;
    b->part.setup = b->setup;
    b->part.measure = b->measure;
    b->part.settings = b->settings;
    b->part.channels = b->channels;
    b->sheet.part = &b->part;
}

static struct pintle_step *find_step(struct pintle_step *step, enum pintle_op op)
{
    while (step->op != op) {
        step++;
    }
    return step;
}

static void no_end(struct broken *b)
{
    for (size_t i = 0; i < COUNT(b->measure); i++) {
        b->measure[i] = (struct pintle_step)PINTLE_WAIT(1);
    }
}

static void wide_trim(struct broken *b)
{
    find_step(b->setup, PINTLE_OP_TRIM)->width = 200;
}

static void wide_raw(struct broken *b)
{
    find_step(b->measure, PINTLE_OP_READ)->width = 200;
}

static void little_trim(struct broken *b)
{
    b->part.trim_size = 20;
}

static void little_raw(struct broken *b)
{
    b->part.raw_size = 6;
}

static void raw_in_the_identity(struct broken *b)
{
    b->identity[0] = (struct pintle_step)PINTLE_READ(0xd0, 1);
}

static void no_proof(struct broken *b)
{
    b->identity[0].op = PINTLE_OP_END;
}

static void no_limit(struct broken *b)
{
    find_step(b->measure, PINTLE_OP_POLL)->value &= 0xffff0000u;
}

static void never_equal(struct broken *b)
{
    b->identity[0].value = 0x0f00f0;
}

static void power_on_i2c(struct broken *b)
{
    b->setup[0].op = PINTLE_OP_POWER;
}

static void words_unchecked(struct broken *b)
{
    b->part.crc = &pintle_crc8_words;
}

static void no_such_option(struct broken *b)
{
    b->setup[0] = (struct pintle_step)PINTLE_ONLY(0, 5, 1);
}

static void a_wide_code(struct broken *b)
{
    b->settings[0].shift = 7;
}

static void another_initial(struct broken *b)
{
    b->settings[0].initial = 5;
}

static void a_dotted_channel(struct broken *b)
{
    b->channels[0].name[2] = '.';
}

static void twin_channels(struct broken *b)
{
    memcpy(b->channels[1].name, b->channels[0].name, sizeof b->channels[0].name);
}

static void a_row_outside(struct broken *b)
{
    b->channels[0].linear = &b->row;
    b->channels[0].at = 7;
}

static void twin_registers(struct broken *b)
{
    b->regs[0] = b->regs[1] = b->sheet.regs[0];
    b->regs[1].name = "other";
    b->sheet.regs = b->regs;
    b->sheet.reg_count = 2;
}

static void a_long_wait(struct broken *b)
{
    find_step(b->measure, PINTLE_OP_WAIT)->value = PINTLE_WAIT_MAX_US; /* and what settings add */
}

static void a_mark_outside(struct broken *b)
{
    b->channels[0].linear = &b->row;
    b->marks[0].at = 8;
}

static void no_range(struct broken *b)
{
    b->channels[0].highest = b->channels[0].lowest;
}

static void scaled_by_nothing(struct broken *b)
{
    b->channels[0].rows_by = 1 << 4;
}

/* Each mistake is found by the check of tables; and the engine, run on them all the same, says so
 * or stays within the caller's objects. */
static void broken_tables(void)
{
    static const struct {
        const char *name;
        void (*break_it)(struct broken *b);
        const char *fault;
        bool runs; /* the engine alone cannot know */
    } rows[] = {
        { "no end", no_end, "a program with no end", false },
        { "wide trim", wide_trim, "as much trim", false },
        { "wide raw", wide_raw, "as many bytes", false },
        { "little trim", little_trim, "another length", false },
        { "little raw", little_raw, "another length", false },
        { "raw in the identity", raw_in_the_identity, "no place for them", true },
        { "no proof", no_proof, "no proof of its identity", true },
        { "no limit", no_limit, "has no limit", true },
        { "never equal", never_equal, "a condition that cannot be", true },
        { "power on I2C", power_on_i2c, "a line that powers", false },
        { "words unchecked", words_unchecked, "read and not checked", true },
        { "no such option", no_such_option, "an option that there is not", true },
        { "a wide code", a_wide_code, "no room for", true },
        { "another initial", another_initial, "initial one", true },
        { "a dotted channel", a_dotted_channel, "a channel whose name", true },
        { "twin channels", twin_channels, "two channels of one name", true },
        { "a row outside", a_row_outside, "doesn't lie in what is read", true },
        { "twin registers", twin_registers, "or at one address", true },
        { "a long wait", a_long_wait, "more than ten minutes", true },
        { "a mark outside", a_mark_outside, "a mark of bits that are not there", true },
        { "no range", no_range, "quantity, decimals or range", true },
        { "scaled by nothing", scaled_by_nothing, "a setting or a number that there is not", true },
    };
    for (size_t i = 0; i < COUNT(rows); i++) {
        struct broken b;
        struct bench bench;
        struct pintle_sample sample = { 0 };
        make_broken(&b);
        EXPECT(!pintle_sheet_fault(&b.sheet), "%s: whole before", rows[i].name);
        rows[i].break_it(&b);
        const char *fault = pintle_sheet_fault(&b.sheet);
        EXPECT(fault && strstr(fault, rows[i].fault), "%s: %s", rows[i].name, fault);
        if (rows[i].runs) {
            continue;
        }
        bench_make(&bench, &pintle_bme280, 0x76);
        uint8_t *trim = g_malloc(b.part.trim_size); /* the sanitizer watches its ends */
        enum pintle_status status = any_on_i2c(&bench.any, &b.part, &bench.bus, 0x76);
        EXPECT((status == PINTLE_OK) == (rows[i].break_it != no_end), "%s: prepared", rows[i].name);
        if (status == PINTLE_OK) {
            status = pintle_sample_read(&bench.sensor, &sample);
            EXPECT(sample.channel[0].quality == PINTLE_QUALITY_BUS, "%s: marked", rows[i].name);
        }
        EXPECT(status == PINTLE_BAD_ARGUMENT || status == PINTLE_UNSUPPORTED, "%s: %s",
               rows[i].name, pintle_status_word(status));
        g_free(trim);
    }
}

/* What the headers call an option is what people call it. */
static void options_have_names(void)
{
    static const struct {
        const char *part, *assignment;
        unsigned setting, option;
    } rows[] = {
        { "TMP102", "mode=one-shot", PINTLE_TMP102_MODE, PINTLE_TMP102_ONE_SHOT },
        { "TMP102", "format=13-bit", PINTLE_TMP102_FORMAT, PINTLE_TMP102_13_BIT },
        { "TMP102", "rate=0.25Hz", PINTLE_TMP102_RATE, PINTLE_TMP102_0_25_HZ },
        { "TMP102", "rate=8Hz", PINTLE_TMP102_RATE, PINTLE_TMP102_8_HZ },
        { "TMP102", "faults=6", PINTLE_TMP102_FAULTS, PINTLE_TMP102_6_FAULTS },
        { "MCP9808", "resolution=0.0625", PINTLE_MCP9808_RESOLUTION, PINTLE_MCP9808_0_0625_DEGC },
        { "SHT31", "repeatability=low", PINTLE_SHT31_REPEATABILITY, PINTLE_SHT31_LOW },
        { "SHTC3", "mode=low-power", PINTLE_SHTC3_MODE, PINTLE_SHTC3_LOW_POWER },
        { "ADS1115", "range=0.256V", PINTLE_ADS1115_RANGE, PINTLE_ADS1115_0_256_V },
        { "ADS1115", "rate=475SPS", PINTLE_ADS1115_RATE, PINTLE_ADS1115_475_SPS },
        { "ADXL345", "resolution=full", PINTLE_ADXL345_RESOLUTION, PINTLE_ADXL345_FULL },
        { "ADXL345", "rate=800Hz", PINTLE_ADXL345_RATE, PINTLE_ADXL345_800_HZ },
        { "INA219", "bus-range=16V", PINTLE_INA219_BUS_RANGE, PINTLE_INA219_16_V },
        { "INA219", "samples=64", PINTLE_INA219_SAMPLES, PINTLE_INA219_64_SAMPLES },
        { "VEML7700", "gain=x1/4", PINTLE_VEML7700_GAIN, PINTLE_VEML7700_X1_4 },
        { "VEML7700", "integration=400ms", PINTLE_VEML7700_INTEGRATION, PINTLE_VEML7700_400_MS },
        { "MPU6050", "filter=44Hz", PINTLE_MPU6050_FILTER, PINTLE_MPU6050_FILTER_44_HZ },
        { "MPU6050", "rate=50Hz", PINTLE_MPU6050_RATE, PINTLE_MPU6050_50_HZ },
        { "BMI160", "gyro-range=125deg/s", PINTLE_BMI160_GYRO_RANGE, PINTLE_BMI160_125_DEG_S },
        { "BMI160", "rate=1600Hz", PINTLE_BMI160_RATE, PINTLE_BMI160_1600_HZ },
        { "SHT40", "precision=medium", PINTLE_SHT40_PRECISION, PINTLE_SHT40_MEDIUM },
        { "BMP180", "oversampling=x4", PINTLE_BMP180_OVERSAMPLING, PINTLE_BMP180_X4 },
        { "BMP280", "filter=16", PINTLE_BMP280_FILTER, PINTLE_BME280_FILTER_16 },
        { "BME280", "filter=off", PINTLE_BME280_FILTER, PINTLE_BME280_FILTER_OFF },
        { "BME280", "filter=16", PINTLE_BME280_FILTER, PINTLE_BME280_FILTER_16 },
        { "BME280", "humidity-oversampling=x16", PINTLE_BME280_HUMIDITY_OVERSAMPLING,
          PINTLE_BME280_X16 },
        { "DS18B20", "resolution=12-bit", PINTLE_DS18B20_RESOLUTION, PINTLE_DS18B20_12_BIT },
        { "DS18B20", "power=parasite", PINTLE_DS18B20_POWER, PINTLE_DS18B20_PARASITE },
        { "ICM20948", "accel-range=16g", PINTLE_ICM20948_ACCEL_RANGE, PINTLE_ICM20948_16_G },
        { "ICM20948", "accel-filter=473Hz", PINTLE_ICM20948_ACCEL_FILTER,
          PINTLE_ICM20948_ACCEL_473_HZ },
        { "ICM20948", "accel-filter=5.7Hz", PINTLE_ICM20948_ACCEL_FILTER,
          PINTLE_ICM20948_ACCEL_5_7_HZ },
        { "ICM20948", "gyro-range=2000deg/s", PINTLE_ICM20948_GYRO_RANGE,
          PINTLE_ICM20948_2000_DEG_S },
        { "ICM20948", "gyro-filter=11.6Hz", PINTLE_ICM20948_GYRO_FILTER,
          PINTLE_ICM20948_GYRO_11_6_HZ },
        { "ICM20948", "gyro-filter=5.7Hz", PINTLE_ICM20948_GYRO_FILTER,
          PINTLE_ICM20948_GYRO_5_7_HZ },
        { "LIS331DLH", "range=8g", PINTLE_LIS331_RANGE, PINTLE_LIS331DLH_8_G },
        { "LIS331HH", "rate=1000Hz", PINTLE_LIS331_RATE, PINTLE_LIS331_1000_HZ },
    };
    for (size_t i = 0; i < COUNT(rows); i++) {
        const struct pintle_sheet *sheet = pintle_sheet_find(rows[i].part);
        struct pintle_problem problem = { 0 };
        struct pintle_chosen chosen;
        memset(&chosen, 0xff, sizeof chosen);
        EXPECT(pintle_rig_setting(sheet, rows[i].assignment, &chosen, &problem)
                   && chosen.settings[rows[i].setting] == rows[i].option,
               "%s %s: %u", rows[i].part, rows[i].assignment, chosen.settings[rows[i].setting]);
    }
}

/* The type of a part's sensors has the room that the part's tables ask for, and no more. */
static void types(void)
{
    unsigned seen = 0;
#define PINTLE_TYPE_IS_EXACT(of, file, bus, place, flash)                                          \
    {                                                                                              \
        struct pintle_##of it;                                                                     \
        const struct pintle_part *part = &pintle_##of;                                             \
        const struct pintle_room room = pintle_##of##_room(&it);                                   \
        int code = part->link->kind == PINTLE_BUS_ONEWIRE ? PINTLE_OWN_CODE : 0;                   \
        EXPECT(room.channels == part->channel_count, "%s: %u channels", part->name,                \
               room.channels);                                                                     \
        EXPECT(room.own_size                                                                       \
                   == PINTLE_OWN(part->number_count, part->setting_count, part->trim_size,         \
                                 part->raw_size + code),                                           \
               "%s: %u bytes", part->name, room.own_size);                                         \
        EXPECT(COUNT(it.reading) >= room.channels && sizeof it.own.bytes >= room.own_size,         \
               "%s: no more than there is", part->name);                                           \
        seen++;                                                                                    \
    }
    PINTLE_PART_LIST(PINTLE_TYPE_IS_EXACT)
#undef PINTLE_TYPE_IS_EXACT
    CU_ASSERT_EQUAL(seen, pintle_sheet_count());
}

void add_sheets_suite(void)
{
    SUITE("sheets", { "any bytes and any trim", any_bytes },
          { "fields as printed", fields_as_printed }, { "limits as printed", limits_as_printed },
          { "accuracies as said", accuracies_as_said }, { "stretches differ", stretches_differ },
          { "found by name", found_by_name }, { "options have names", options_have_names },
          { "types are exact", types }, { "tables are whole", tables_are_whole },
          { "broken tables", broken_tables });
}
