/* What is made of other channels: each formula against the same figure found another way, windows
 * of time, mounts, and the rig file's derive sections. */
#include "support.h"

#include "pintle/formulas.h"

static struct pintle_reading make(const char *name, const double *inputs, const float *numbers,
                                  uint16_t count)
{
    const struct pintle_formula_text *text = pintle_formula_find(name);
    struct pintle_reading in[PINTLE_DERIVE_INPUTS] = { { 0, 0, 0 } };
    struct pintle_reading out = { 0, 0, 0 };
    CU_ASSERT_PTR_NOT_NULL_FATAL(text);
    struct pintle_derivation of = { .formula = text->formula, .numbers = numbers, .count = count };
    for (unsigned i = 0; i < text->formula->inputs; i++) {
        in[i].value = (float)inputs[i];
    }
    pintle_derive_begin(&of);
    pintle_derive(&of, in, 1000000, &out);
    return out;
}

/* Worked by hand or taken from tables. */
static void by_hand(void)
{
    static const struct {
        const char *name;
        double inputs[6];
        float numbers[6];
        double wanted, tolerance;
        pintle_marks quality;
    } rows[] = {
        /* ISO 2533: 1000, 5000, 10000, -1000 m */
        { "altitude", { 89874.6 }, { 101325 }, 1000, 0.2, 0 },
        { "altitude", { 54019.9 }, { 101325 }, 5000, 0.3, 0 },
        { "altitude", { 26436.3 }, { 101325 }, 10000, 0.6, 0 },
        { "altitude", { 113929 }, { 101325 }, -1000, 0.3, 0 },
        { "altitude", { 20000 }, { 101325 }, 11784, 30, PINTLE_QUALITY_RANGE },
        { "altitude-above", { 89874.6, 101325 }, { 0 }, 1000, 0.2, 0 },
        { "sea-level-pressure", { 89874.6 }, { 1000 }, 101325, 3, 0 },
        { "sea-level-pressure", { 101325 }, { 0 }, 101325, 0.01, 0 },
        /* saturated air: the dew point is the temperature, the vapour of tables 17.3 and 4.85 g */
        { "dew-point", { 20, 100 }, { 0 }, 20, 1e-4, 0 },
        { "dew-point", { 0, 100 }, { 0 }, 0, 1e-4, 0 },
        { "dew-point", { 70, 50 }, { 0 }, 54.9, 0.1, PINTLE_QUALITY_RANGE },
        { "absolute-humidity", { 20, 100 }, { 0 }, 0.0173, 1e-4, 0 },
        { "absolute-humidity", { 0, 100 }, { 0 }, 0.00485, 2e-5, 0 },
        { "absolute-humidity", { 20, 0 }, { 0 }, 0, 1e-9, 0 },
        { "humidity-at", { 20, 50, 20 }, { 0 }, 50, 1e-4, 0 },
        { "humidity-at", { 25, 50, 22 }, { 0 }, 59.9, 0.1, 0 },
        { "humidity-at", { 25, 90, 20 }, { 0 }, 121.9, 0.5, PINTLE_QUALITY_RANGE },
        { "divided", { 1.65 }, { 100000, 15000 }, 12.65, 1e-5, 0 },
        { "resistance-below", { 1.65 }, { 10000, 3.3f }, 10000, 0.01, 0 },
        { "resistance-below", { 1.1 }, { 10000, 3.3f }, 5000, 0.01, 0 },
        { "resistance-above", { 1.1 }, { 10000, 3.3f }, 20000, 0.02, 0 },
        { "thermistor-beta", { 10000 }, { 10000, 3950 }, 25, 1e-3, 0 },
        { "thermistor-beta", { 28224 }, { 10000, 3380 }, 0, 0.01, 0 },
        { "thermistor-beta", { 10 }, { 10000, 3950 }, 350, 60, PINTLE_QUALITY_RANGE },
        /* a = 1/298.15 - ln(10000)/3950, b = 1/3950, c = 0: the same thermistor */
        { "thermistor-steinhart", { 25000 }, { 1.0222861e-3f, 2.5316456e-4f, 0 }, 5.73, 0.02, 0 },
        { "power", { 12.5, 0.4 }, { 0 }, 5, 1e-6, 0 },
        { "difference", { 3, 5 }, { 0 }, -2, 1e-6, 0 },
    };
    for (size_t i = 0; i < COUNT(rows); i++) {
        struct pintle_reading out = make(rows[i].name, rows[i].inputs, rows[i].numbers, 0);
        EXPECT_NEAR(out.value, rows[i].wanted, rows[i].tolerance, rows[i].name);
        EXPECT(out.quality == rows[i].quality, "%s %g: marked %x", rows[i].name, rows[i].inputs[0],
               out.quality);
    }
    static const struct {
        const char *name;
        double inputs[6];
        float numbers[2];
    } none[] = { { "dew-point", { 20, 0 }, { 0 } },
                 { "resistance-below", { 0 }, { 10000, 3.3f } },
                 { "resistance-below", { 3.3 }, { 10000, 3.3f } },
                 { "resistance-above", { 0 }, { 10000, 3.3f } },
                 { "thermistor-beta", { 0 }, { 10000, 3950 } },
                 { "thermistor-steinhart", { -1 }, { 0.001f, 0.0002f } },
                 { "altitude", { 0 }, { 101325 } },
                 { "altitude-above", { 100000, 0 }, { 0 } },
                 { "heading", { 0 }, { 0 } } };
    for (size_t i = 0; i < COUNT(none); i++) {
        struct pintle_reading out = make(none[i].name, none[i].inputs, none[i].numbers, 0);
        EXPECT(isnan(out.value) && (out.quality & PINTLE_QUALITY_RANGE), "%s has no value",
               none[i].name);
    }
}

/* The dew point is where the vapour saturates, by halving; the altitude by adding up thin layers.
 */
static void another_way(void)
{
    for (int t = -40; t <= 60; t += 5) {
        for (int rh = 5; rh <= 100; rh += 5) {
            double low = -120;
            double high = 60;
            double inputs[] = { t, rh };
            double vapour = 6.112 * exp(17.62 * t / (243.12 + t)) * rh / 100;
            for (int i = 0; i < 60; i++) {
                double middle = (low + high) / 2;
                bool above = 6.112 * exp(17.62 * middle / (243.12 + middle)) > vapour;
                *(above ? &high : &low) = middle;
            }
            EXPECT_NEAR(make("dew-point", inputs, NULL, 0).value, low, 2e-4, "dew point");
            double density = vapour * 100 * 0.018015 / (8.31446 * (t + 273.15));
            EXPECT_NEAR(make("absolute-humidity", inputs, NULL, 0).value, density, density * 3e-4,
                        "absolute humidity");
        }
    }
    double pressure = 101325;
    for (int metre = 0; metre < 10999; metre++) {
        double kelvin = 288.15 - 0.0065 * (metre + 0.5);
        pressure -= pressure * 9.80665 / (287.05287 * kelvin);
        if (metre % 500 == 499) {
            const float reference[] = { 101325 };
            EXPECT_NEAR(make("altitude", &pressure, reference, 0).value, metre + 1, 1.2, "layers");
        }
    }
}

/* Turned by hand: yaw, then pitch, then roll; what the chip feels is where north and up are now. */
static void attitudes(void)
{
    static const double field_dip[] = { 0, 0.5, 1.1, -1.2 };
    for (unsigned d = 0; d < COUNT(field_dip); d++) {
        for (int yaw = 0; yaw < 360; yaw += 15) {
            for (int pitch = -75; pitch <= 75; pitch += 25) {
                for (int roll = -170; roll <= 170; roll += 34) {
                    double y = yaw * G_PI / 180;
                    double p = pitch * G_PI / 180;
                    double r = roll * G_PI / 180;
                    /* east, north, up; front, left, top of a thing that lies level */
                    double f[3] = { sin(y) * cos(p), cos(y) * cos(p), sin(p) };
                    double l0[3] = { -cos(y), sin(y), 0 };
                    double t0[3] = { -sin(y) * sin(p), -cos(y) * sin(p), cos(p) };
                    double inputs[6];
                    const double north[3] = { 0, 48e-6 * cos(field_dip[d]),
                                              -48e-6 * sin(field_dip[d]) };
                    const double up[3] = { 0, 0, 9.81 };
                    for (int axis = 0; axis < 3; axis++) {
                        inputs[axis] = inputs[3 + axis] = 0;
                    }
                    for (int k = 0; k < 3; k++) {
                        double left = l0[k] * cos(r) + t0[k] * sin(r);
                        double top = t0[k] * cos(r) - l0[k] * sin(r);
                        inputs[0] += f[k] * north[k];
                        inputs[1] += left * north[k];
                        inputs[2] += top * north[k];
                        inputs[3] += f[k] * up[k];
                        inputs[4] += left * up[k];
                        inputs[5] += top * up[k];
                    }
                    const float none[] = { 0 };
                    struct pintle_reading h = make("heading", inputs, none, 0);
                    double off = fabs((double)h.value - yaw);
                    EXPECT(fmin(off, 360 - off) < 0.01 && h.quality == 0,
                           "heading %d, pitch %d, roll %d: %g", yaw, pitch, roll, (double)h.value);
                    EXPECT_NEAR(make("pitch", inputs + 3, NULL, 0).value, pitch, 0.01, "pitch");
                    EXPECT_NEAR(make("roll", inputs + 3, NULL, 0).value, roll, 0.01, "roll");
                }
            }
        }
    }
    const float east[] = { 12 };
    double level[] = { 20e-6, 0, -40e-6, 0, 0, 9.8 };
    EXPECT_NEAR(make("heading", level, east, 0).value, 12, 1e-3, "declination");
    level[0] = 90e-6;
    CU_ASSERT_EQUAL(make("heading", level, east, 0).quality, PINTLE_QUALITY_RANGE);
    level[0] = 1e-6;
    CU_ASSERT_EQUAL(make("heading", level, east, 0).quality, PINTLE_QUALITY_RANGE);
    level[5] = 20;
    CU_ASSERT_EQUAL(make("pitch", level + 3, NULL, 0).quality, PINTLE_QUALITY_RANGE);
}

static void through_points(void)
{
    static const float table[] = { 0, 10, 1, 20, 3, 0 };
    static const double rows[][3] = { { 0, 10, 0 }, { 0.5, 15, 0 }, { 1, 20, 0 },  { 2, 10, 0 },
                                      { 3, 0, 0 },  { 4, -10, 1 },  { -0.5, 5, 1 } };
    for (size_t i = 0; i < COUNT(rows); i++) {
        struct pintle_reading out = make("through-points", rows[i], table, COUNT(table));
        EXPECT_NEAR(out.value, rows[i][1], 1e-5, "table");
        EXPECT(out.quality == (rows[i][2] > 0 ? PINTLE_QUALITY_RANGE : 0), "at %g: %x", rows[i][0],
               out.quality);
    }
    CU_ASSERT(isnan(make("through-points", rows[0], table, 2).value));
}

/* --- windows --- */

struct window {
    struct pintle_derivation of;
    struct pintle_moment memory[8];
    int64_t time_us;
};

static struct pintle_reading take(struct window *w, double step_s, float value,
                                  pintle_marks quality)
{
    const struct pintle_reading in = { value, 0, quality };
    struct pintle_reading out;
    w->time_us += (int64_t)(step_s * 1e6);
    pintle_derive(&w->of, &in, w->time_us, &out);
    return out;
}

static void open_window(struct window *w, const struct pintle_formula *formula, uint32_t over_ms,
                        uint8_t round)
{
    *w = (struct window){ .time_us = 1781222400000000 };
    w->of = (struct pintle_derivation){
        .formula = formula, .over_ms = over_ms, .memory = w->memory, .room = 8, .round = round
    };
    pintle_derive_begin(&w->of);
}

static void expect_window(struct window *w, double step_s, float value, pintle_marks quality,
                          double wanted, pintle_marks marks, const char *what)
{
    struct pintle_reading out = take(w, step_s, value, quality);
    EXPECT(isnan(wanted) ? isnan(out.value) : fabs((double)out.value - wanted) < 1e-4,
           "%s: %g, not %g", what, (double)out.value, wanted);
    EXPECT(out.quality == marks, "%s: marked %x, not %x", what, out.quality, marks);
}

/* From one word to the next. */
static void light_in_words(void)
{
    static const struct {
        float lux;
        const char *word;
    } rows[] = {
        { 0, "dark" },           { 0.0099999f, "dark" }, { 0.01f, "moonlight" },
        { 0.999f, "moonlight" }, { 1, "street light" },  { 29.9f, "street light" },
        { 30, "living room" },   { 200, "office" },      { 799, "office" },
        { 800, "overcast" },     { 4999, "overcast" },   { 5000, "daylight" },
        { 29999, "daylight" },   { 30000, "sun" },       { 120000, "sun" },
    };
    for (size_t i = 0; i < COUNT(rows); i++) {
        EXPECT(strcmp(pintle_derive_light_word(rows[i].lux), rows[i].word) == 0, "%g lx: %s",
               (double)rows[i].lux, pintle_derive_light_word(rows[i].lux));
    }
}

static void windows(void)
{
    struct window w;
    const pintle_marks first = PINTLE_QUALITY_FIRST;
    const pintle_marks bus = PINTLE_QUALITY_BUS;
    const pintle_marks gap = PINTLE_QUALITY_GAP;
    open_window(&w, &pintle_average, 4000, 0);
    expect_window(&w, 0, 10, 0, 10, first, "one");
    expect_window(&w, 2, 20, 0, 15, first, "two");
    expect_window(&w, 2, 30, 0, 20, 0, "full");
    expect_window(&w, 2, 40, 0, 30, 0, "the oldest is gone");
    expect_window(&w, 2, 999, PINTLE_QUALITY_JUMP, 35, PINTLE_QUALITY_JUMP, "suspect: stays out");
    expect_window(&w, 1, 0, bus, (double)NAN, bus, "no value");
    expect_window(&w, 0.5, 50, 0, 45, first | gap, "and goes on, without half of it");
    expect_window(&w, 9, 60, 0, 60, first, "jumped over: a new one");
    expect_window(&w, -3600, 70, 0, 70, first, "back in time");
    open_window(&w, &pintle_average, 60000, 1);
    expect_window(&w, 0, 350, 0, 350, first, "round");
    expect_window(&w, 1, 20, 0, 5, first, "across north");
    expect_window(&w, 1, 315, 0, 348.333333, first, "and back over it");
    expect_window(&w, 1, 340, 0, 346.25, first, "on this side");
    open_window(&w, &pintle_average, 60000, 1);
    expect_window(&w, 0, 340, 0, 340, first, "west of north");
    expect_window(&w, 1, 10, 0, 355, first, "and a little east");
    open_window(&w, &pintle_average, 60000, 1);
    expect_window(&w, 0, 175, 0, 175, first, "a roll");
    expect_window(&w, 1, -165, 0, -175, first, "over its keel");
    open_window(&w, &pintle_average, 60000, 0);
    for (int i = 0; i < 30; i++) { /* more than there is memory for */
        struct pintle_reading out = take(&w, 1, (float)i, 0);
        EXPECT(out.quality == first, "too little memory, %d: %x", i, out.quality);
    }
    open_window(&w, &pintle_greatest, 4000, 0);
    expect_window(&w, 0, 10, 0, 10, first, "greatest");
    expect_window(&w, 2, 5, 0, 10, first, "greatest");
    expect_window(&w, 2, 6, 0, 10, 0, "greatest");
    expect_window(&w, 2, 6, 0, 6, 0, "let go");
    open_window(&w, &pintle_least, 0, 0);
    expect_window(&w, 0, 10, 0, 10, 0, "least of all");
    expect_window(&w, 100000, 12, 0, 10, 0, "least of all");
    expect_window(&w, 100000, -40, PINTLE_QUALITY_FIRST, 10, first, "a suspect one is none");
    open_window(&w, &pintle_change, 10000, 0);
    expect_window(&w, 0, 100, 0, 0, first, "change");
    expect_window(&w, 5, 104, 0, 4, first, "change");
    expect_window(&w, 5, 101, 0, 1, 0, "change");
    expect_window(&w, 5, 101, 0, -3, 0, "change");
    open_window(&w, &pintle_change, 10800000,
                0); /* three hours, by the hour, one record a little late */
    for (int hour = 0; hour < 4; hour++) {
        (void)take(&w, hour ? 3600 : 0, (float)hour, 0);
    }
    expect_window(&w, 3601, 4, 0, 3, 0, "a change over all of it, though it is late");
    open_window(&w, &pintle_average, 6000, 0);
    for (int i = 0; i < 7; i++) {
        (void)take(&w, 1, 10, 0);
    }
    expect_window(&w, 1, 99, PINTLE_QUALITY_JUMP, 10, PINTLE_QUALITY_JUMP, "one is suspect");
    expect_window(&w, 1, 10, 0, 10, gap, "so that one is missing");
    open_window(&w, &pintle_change, 10000, 1);
    expect_window(&w, 0, 350, 0, 0, first, "turn");
    expect_window(&w, 10, 10, 0, 20, 0, "turn through north");
    open_window(&w, &pintle_altitude_gained, 0, 0);
    expect_window(&w, 0, 100000, bus, (double)NAN, bus, "not yet");
    expect_window(&w, 1, 101325, 0, 0, 0, "zero here");
    EXPECT_NEAR(take(&w, 1, 89874.6f, 0).value, 1000, 0.2, "gained");
}

static void mounts(void)
{
    unsigned valid = 0;
    for (int x = -3; x <= 3; x++) {
        for (int y = -3; y <= 3; y++) {
            for (int z = -3; z <= 3; z++) {
                const struct pintle_derive_mount mount = { (int8_t)x, (int8_t)y, (int8_t)z };
                double m[3][3] = { { 0 } };
                const int axes[] = { x, y, z };
                for (int i = 0; i < 3; i++) {
                    if (axes[i] != 0) {
                        m[i][abs(axes[i]) - 1] = axes[i] < 0 ? -1 : 1;
                    }
                }
                double determinant = m[0][0] * (m[1][1] * m[2][2] - m[1][2] * m[2][1])
                                     - m[0][1] * (m[1][0] * m[2][2] - m[1][2] * m[2][0])
                                     + m[0][2] * (m[1][0] * m[2][1] - m[1][1] * m[2][0]);
                EXPECT(pintle_derive_mount_is_valid(&mount) == (determinant > 0.5),
                       "mount %d %d %d", x, y, z);
                if (determinant > 0.5) {
                    struct pintle_reading xyz[] = { { 1, 11, 0 }, { 2, 12, 8 }, { 3, 13, 0 } };
                    pintle_derive_mount_apply(&mount, xyz);
                    for (int i = 0; i < 3; i++) {
                        double wanted = m[i][0] + 2 * m[i][1] + 3 * m[i][2];
                        EXPECT(fabs((double)xyz[i].value - wanted) < 1e-6
                                   && xyz[i].raw == 10 + abs(axes[i])
                                   && xyz[i].quality == (abs(axes[i]) == 2 ? 8 : 0),
                               "mount %d %d %d", x, y, z);
                    }
                    valid++;
                }
            }
        }
    }
    CU_ASSERT_EQUAL(valid, 24);
}

/* Marks carry over, whatever the formula. */
static void marks_carry_over(void)
{
    const struct pintle_formula_text *text = NULL;
    for (size_t f = 0; (text = pintle_formula_at(f)) != NULL; f++) {
        for (unsigned i = 0; i < text->formula->inputs; i++) {
            struct pintle_reading in[PINTLE_DERIVE_INPUTS];
            struct pintle_reading out;
            static const float numbers[] = { 1, 2, 3, 4 };
            struct pintle_moment memory[4];
            struct pintle_derivation of = { .formula = text->formula,
                                            .numbers = numbers,
                                            .count = 4,
                                            .over_ms = 1000,
                                            .memory = memory,
                                            .room = 4 };
            for (unsigned k = 0; k < PINTLE_DERIVE_INPUTS; k++) {
                in[k] = (struct pintle_reading){ .value = 1 };
            }
            in[i].quality = PINTLE_QUALITY_SATURATED | PINTLE_QUALITY_UNCORRECTED;
            pintle_derive_begin(&of);
            pintle_derive(&of, in, 0, &out);
            EXPECT(out.quality & PINTLE_QUALITY_SATURATED, "%s: input %u", text->name, i);
            EXPECT(!(out.quality & PINTLE_QUALITY_UNCORRECTED), "%s: remarks stay", text->name);
            in[i].quality = PINTLE_QUALITY_BUS;
            pintle_derive(&of, in, 0, &out);
            EXPECT((out.quality & PINTLE_QUALITY_BUS) && isnan(out.value), "%s: no input %u",
                   text->name, i);
        }
        EXPECT(f == 0 || strcmp(pintle_formula_at(f - 1)->name, text->name) < 0, "%s: order",
               text->name);
    }
}

/* --- the rig file and the commands --- */

#define RIG                                                                                        \
    "board { port = \"sim\" world = \"d.world\" }\n"                                               \
    "bus cabin { speed = 400000 pull-up = 2200 }\n"                                                \
    "bus panel { kind = \"spi\" data = \"PO\" data-in = \"PI\" clock = \"PC\" }\n"                 \
    "sensor cabin { part = \"SHT31\" bus = \"cabin\" address = 0x44 }\n"                           \
    "sensor baro { part = \"BME280\" bus = \"cabin\" address = 0x76 }\n"                           \
    "sensor motion { part = \"ICM20948\" bus = \"panel\" select = \"S1\""                          \
    " mount = { \"x=y\", \"y=-x\", \"z=z\" } }\n"

static void mistakes(void)
{
    static const struct {
        const char *section;
        const char *answer;
    } rows[] = {
        { "derive a { }", "needs 1 to 10 channels" },
        { "derive a { channel c { } }", "it names none; there are board-temperature, absolute" },
        { "derive a { channel c { is = \"dew\" } }", "there is no formula 'dew'" },
        { "derive a { channel c { is = \"dew-point\" of = { \"cabin.temperature\" } } }",
          "it takes 2 channels (temperature, humidity), and 'of' has 1" },
        { "derive a { channel c { is = \"altitude\" of = { \"cabin.pressure\" } } }",
          "'cabin.pressure' is no channel of a sensor above it" },
        { "derive a { channel c { is = \"altitude\" of = { \"cabin.humidity\" } } }",
          "'cabin.humidity' is a relative humidity where altitude takes a pressure" },
        { "derive a { channel c { is = \"difference\" of = { \"cabin.humidity\", "
          "\"baro.pressure\" } } }",
          "'baro.pressure' is a pressure where difference takes a relative humidity" },
        { "derive a { channel c { is = \"altitude\" of = { \"baro.pressure\" }"
          " set = { \"zero=3\" } } }",
          "'zero=3' sets no number of altitude; it has reference" },
        { "derive a { channel c { is = \"altitude\" of = { \"baro.pressure\" }"
          " set = { \"reference=3hPa\" } } }",
          "reference is 30000 to 120000 Pa, not '3hPa'" },
        { "derive a { channel c { is = \"altitude\" of = { \"baro.pressure\" }"
          " set = { \"reference=990degC\" } } }",
          "'990degC' is no reference; write a number in Pa" },
        { "derive a { channel c { is = \"sea-level-pressure\" of = { \"baro.pressure\" } } }",
          "it must know its altitude" },
        { "derive a { channel c { is = \"average\" of = { \"baro.pressure\" } } }",
          "it looks back; add over" },
        { "derive a { channel c { is = \"average\" of = { \"baro.pressure\" } over = \"soon\" } }",
          "'soon' is no window of time" },
        { "derive a { channel c { is = \"altitude\" of = { \"baro.pressure\" } over = \"1h\" } }",
          "it has no window of time" },
        { "derive a { channel c { is = \"altitude\" of = { \"baro.pressure\" } points = { 1 } } }",
          "only through-points has points" },
        { "derive a { channel c { is = \"through-points\" of = { \"baro.pressure\" }"
          " points = { 1, 2, 1, 3 } } }",
          "'points' are pairs, two or more, the first of each rising" },
        { "derive a { channel c { is = \"through-points\" of = { \"baro.pressure\" }"
          " points = { 1, 2, 2, 3 } quantity = \"wind\" } }",
          "'wind' is no quantity" },
        { "derive a { channel c { is = \"altitude\" of = { \"baro.pressure\" }"
          " quantity = \"pressure\" } }",
          "it gives a length, whatever 'quantity' says" },
        { "derive a { channel far-too-long-a-name { is = \"board-temperature\" } }",
          "the name is too long: at most 11 letters" },
        { "derive cabin { channel c { is = \"board-temperature\" } }",
          "there is a sensor 'cabin' already" },
        { "derive a { channel c { is = \"board-temperature\" set = { \"x=1\" } } }",
          "it has no numbers to set" },
        { "derive a { channel c { is = \"board-temperature\" } }\n"
          "sensor late { part = \"TMP102\" bus = \"cabin\" address = 0x48 }",
          "move the derive sections to the end" },
        { "derive a { channel c { is = \"board-temperature\" unit = \"hPa\" } }",
          "temperature is not measured in 'hPa'" },
        { "sensor m { part = \"TMP102\" bus = \"cabin\" address = 0x48 mount = { \"x=x\","
          " \"y=y\", \"z=z\" } }",
          "a TMP102 has no axes to mount" },
        { "sensor m { part = \"MPU6050\" bus = \"cabin\" address = 0x68 mount = { \"x=y\","
          " \"y=x\", \"z=z\" } }",
          "as a turn and not as a mirror" },
        { "sensor m { part = \"MPU6050\" bus = \"cabin\" address = 0x68 mount = { \"x=w\" } }",
          "as a turn and not as a mirror" },
    };
    char *folder = scratch_make();
    for (size_t i = 0; i < COUNT(rows); i++) {
        char *text = g_strconcat(RIG, rows[i].section, "\n", NULL);
        file_write(folder, "d.rig", text);
        struct said said = tool(folder, "parts --rig d.rig");
        EXPECT(said.status == 2 && strstr(said.err, rows[i].answer), "%s: %s", rows[i].section,
               said.err);
        said_free(&said);
        g_free(text);
    }
    scratch_remove(folder);
}

static void in_the_commands(void)
{
    static const char derived[] = RIG
        "derive air {\n"
        " channel dew { is = \"dew-point\" of = { \"cabin.temperature\", \"cabin.humidity\" } }\n"
        " channel height { is = \"altitude\" of = { \"baro.pressure\" }"
        " set = { \"reference=1013.25hPa\" } }\n"
        " channel apart { is = \"difference\" of = { \"cabin.temperature\","
        " \"baro.temperature\" } unit = \"degF\" }\n"
        " channel board { is = \"board-temperature\" }\n"
        " channel mean { is = \"average\" of = { \"air.height\" } over = \"3min\" }\n"
        " channel scaled { is = \"through-points\" of = { \"baro.pressure\" }"
        " points = { 80000, 4, 120000, 20 } quantity = \"current\" }\n"
        "}\n"
        "derive way {\n"
        " channel heel { is = \"roll\" of = { \"motion.accel-x\", \"motion.accel-y\","
        " \"motion.accel-z\" } }\n"
        " channel heading { is = \"heading\" of = { \"motion.mag-x\", \"motion.mag-y\","
        " \"motion.mag-z\", \"motion.accel-x\", \"motion.accel-y\", \"motion.accel-z\" } }\n"
        "}\n";
    static const char world[] =
        "quantity air { level = 20 }\n"
        "quantity damp { level = 50 }\n"
        "quantity weight { level = 89874.6 }\n"
        "quantity lean { level = 1.7028 }\n" /* 10 degrees */
        "quantity up { level = 9.6577 }\n"
        "quantity abeam { level = -26.642e-6 }\n" /* 20 uT to the left, 40 uT down */
        "quantity down { level = -35.919e-6 }\n"
        "quantity none { level = 0 }\n"
        "board { temperature = \"air\" warmer = 12.5 }\n"
        "chip cabin { part = \"SHT31\" bus = \"cabin\" address = 0x44 feels = {"
        " \"temperature=air\", \"humidity=damp\" } errors = { \"temperature=0\","
        " \"humidity=0\" } }\n"
        "chip baro { part = \"BME280\" bus = \"cabin\" address = 0x76 feels = {"
        " \"temperature=air\", \"pressure=weight\" } errors = { \"temperature=0\","
        " \"pressure=0\" } }\n"
        "chip motion { part = \"ICM20948\" bus = \"panel\" select = \"S1\" feels = {"
        " \"accel-x=lean\", \"accel-y=none\", \"accel-z=up\", \"mag-x=abeam\", \"mag-y=none\","
        " \"mag-z=down\" } errors = { \"accel-x=0\", \"accel-y=0\", \"accel-z=0\", \"mag-x=0\","
        " \"mag-y=0\", \"mag-z=0\" } }\n"
        "fault baro { kind = \"silent\" from = \"1h\" to = \"2h\" }\n";
    static const struct {
        const char *arguments;
        int status;
        const char *text;
    } rows[] = {
        { "read --rig d.rig air", 0, "air        dew                          9.2" },
        { "read --rig d.rig air", 0, "32.5 degC            -   good" },
        { "read --rig d.rig --format csv air", 0, "air,apart," },
        { "read --rig d.rig --format senml air", 0,
          "\"n\":\"air.board\",\"u\":\"Cel\",\"v\":32.5" },
        { "read --rig d.rig way", 0, "heel                        -10.0 deg " },
        { "read --rig d.rig --at 90min air", 0,
          "air        height                          - m               -   bus" },
        { "read --rig d.rig --at 90min air", 0,
          "air        mean                            - m               -   bus" },
        { "log --rig d.rig --for 5min", 0, "records in" },
        { "regs --rig d.rig air", 2, "'air' is made of other channels" },
        { "calibrate --rig d.rig air.dew 3=4 </dev/null", 1, "not kept" },
        { "burst --rig d.rig way", 2, "'way' is made of other channels" },
        { "scan --rig d.rig", 0, "3 of 3 sensors are there" },
        { "wiring --rig d.rig", 0, "" },
        { "derive", 0, "dew-point            temperature, humidity" },
        { "derive heading", 0, "set      declination, -180 to 180 deg; 0 unless set" },
        { "derive dew-point 68degF 50", 0, "9.26 degC   good" },
        { "derive dew-point -10 50", 0, "-18.4" },
        { "derive dew-point 20 50000", 0, "range" },
        { "derive absolute-humidity 20 -1", 0, "range" },
        { "derive roll 9.80665 0.01 0.01", 0, "range" },
        { "derive difference 10degC 50degF", 0, "0.000 degC   good" },
        { "derive difference 1ft 12in", 0, "0.000 m   good" },
        { "derive difference 1hPa 1Pa", 0, "0.99000 hPa   good" },
        { "derive difference 359deg 1deg", 0, "-2.000 deg   good" },
        { "derive difference 3 1", 0, "2    good" },
        { "derive difference 3degC 1", 2, "write a unit behind each value, or behind none" },
        { "derive difference 3degC 1hPa", 2, "'1hPa' is no" },
        { "derive heading 20uT 0uT -40uT 0 0 1g", 0, "0.0 deg   good" },
        { "derive altitude 898.746hPa", 0, "1000.0 m   good" },
        { "derive divided 1.65 --set upper=100kohm --set lower=15kohm", 0, "12.650 V   good" },
        { "derive divided 1.65", 2, "divided must know its upper" },
        { "derive divided 1.65 --set middle=1", 2, "sets no number of divided" },
        { "derive divided 1.65degC --set upper=1 --set lower=1", 2, "'1.65degC' is no voltage" },
        { "derive dew-point 3", 2, "takes 2 values, not 1" },
        { "derive average 3", 2, "which a rig file gives it" },
        { "derive wind", 2, "there is no formula 'wind'" },
        { "derive --resistor 1kohm,33kohm", 0, "buy       5600 ohm: 720 counts" },
        { "derive --resistor 33kohm,1kohm", 2, "least and greatest ohms" },
        { "derive --resistor 33kohm", 2, "least and greatest ohms" },
    };
    char *folder = scratch_make();
    file_write(folder, "d.rig", derived);
    file_write(folder, "d.world", world);
    for (size_t i = 0; i < COUNT(rows); i++) {
        expect_said(folder, rows[i].arguments, rows[i].status, rows[i].text);
    }
    char *records = file_text(folder, "runs/0001/readings.csv");
    EXPECT(strstr(records, ",air.dew/Cel,air.height/m,air.apart/K,air.board/Cel,air.mean/m,"
                           "air.scaled/A,way.heel/deg,way.heading/deg,quality"),
           "%s", records);
    EXPECT(strstr(records, "air.mean=first\r\n"), "%s", records);
    EXPECT(g_str_has_suffix(records, ",good\r\n"), "%s", records);
    char **fields = g_strsplit(records, ",", -1);
    EXPECT_NEAR(g_ascii_strtod(fields[g_strv_length(fields) - 2], NULL), 90, 3, "heading");
    g_strfreev(fields);
    g_free(records);
    scratch_remove(folder);
}

void add_derive_suite(void)
{
    SUITE("derive", { "by hand", by_hand }, { "another way", another_way },
          { "attitudes", attitudes }, { "through points", through_points }, { "windows", windows },
          { "light in words", light_in_words }, { "mounts", mounts },
          { "marks carry over", marks_carry_over }, { "mistakes", mistakes },
          { "in the commands", in_the_commands });
}
