/* Corrections: what each stage does, what is no stage, what a memory chip keeps of them. */
#include "support.h"

#include "pintle/fit.h"
#include "pintle/keep.h"

#define GOOD 0u
#define SPAN PINTLE_QUALITY_SPAN
#define UNCORRECTED PINTLE_QUALITY_UNCORRECTED

static const float twice[] = { 20, 41, 2 };
static const float cubic[] = { 1, 2, 3, 4, 5 };
static const float bends[] = { 0, 0, 10, 20, 20, 30 };
static const float drift[] = { 25, 0.1f, 0.01f };
static const float warmth[] = { 0.25f };
static const float turn[] = { 1, 2, 3, 0, -1, 0, 1, 0, 0, 0, 0, 2 };

/* Worked out by hand. */
static void each_stage(void)
{
    static const struct {
        const char *name;
        struct pintle_correct_stage stage;
        float value, second;
        pintle_marks quality, second_quality;
        float wanted;
        pintle_marks marks;
    } rows[] = {
        { "a line",
          { PINTLE_STAGE_POLYNOMIAL, 0, 3, 0, 0, 40, 0, twice, NULL },
          25,
          0,
          0,
          0,
          51,
          0 },
        { "at the end of its span",
          { PINTLE_STAGE_POLYNOMIAL, 0, 3, 0, 0, 40, 0, twice, NULL },
          40,
          0,
          0,
          0,
          81,
          0 },
        { "at its beginning",
          { PINTLE_STAGE_POLYNOMIAL, 0, 3, 0, 0, 40, 0, twice, NULL },
          0,
          0,
          0,
          0,
          1,
          0 },
        { "beyond its span",
          { PINTLE_STAGE_POLYNOMIAL, 0, 3, 0, 0, 40, 0, twice, NULL },
          40.5f,
          0,
          0,
          0,
          82,
          SPAN },
        { "a third order",
          { PINTLE_STAGE_POLYNOMIAL, 0, 5, 0, 0, 0, 0, cubic, NULL },
          3,
          0,
          0,
          0,
          2 + 3 * 2 + 4 * 4 + 5 * 8,
          0 },
        { "a table, below its bend",
          { PINTLE_STAGE_TABLE, 0, 6, 0, 0, 20, 0, bends, NULL },
          5,
          0,
          0,
          0,
          10,
          0 },
        { "above it", { PINTLE_STAGE_TABLE, 0, 6, 0, 0, 20, 0, bends, NULL }, 15, 0, 0, 0, 25, 0 },
        { "at a point",
          { PINTLE_STAGE_TABLE, 0, 6, 0, 0, 20, 0, bends, NULL },
          10,
          0,
          0,
          0,
          20,
          0 },
        { "behind its end",
          { PINTLE_STAGE_TABLE, 0, 6, 0, 0, 20, 0, bends, NULL },
          22,
          0,
          0,
          0,
          32,
          SPAN },
        { "in front of its beginning",
          { PINTLE_STAGE_TABLE, 0, 6, 0, 0, 20, 0, bends, NULL },
          -1,
          0,
          0,
          0,
          -2,
          SPAN },
        { "a drift",
          { PINTLE_STAGE_THERMAL, 0, 3, 0, 0, 60, 0, drift, NULL },
          100,
          35,
          0,
          0,
          100 + (0.1f + 1) * 10,
          0 },
        { "hotter than it was tried",
          { PINTLE_STAGE_THERMAL, 0, 3, 0, 0, 60, 0, drift, NULL },
          100,
          65,
          0,
          0,
          100 + (0.1f + 1) * 40,
          SPAN },
        { "heat", { PINTLE_STAGE_HEAT, 0, 1, 0, 0, 0, 0, warmth, NULL }, 22, 30, 0, 0, 20, 0 },
        { "its second is suspect",
          { PINTLE_STAGE_HEAT, 0, 1, 0, 0, 0, 0, warmth, NULL },
          22,
          30,
          0,
          PINTLE_QUALITY_JUMP,
          20,
          PINTLE_QUALITY_JUMP },
        { "its second has no value",
          { PINTLE_STAGE_HEAT, 0, 1, 0, 0, 0, 0, warmth, NULL },
          22,
          0,
          0,
          PINTLE_QUALITY_BUS,
          22,
          SPAN | UNCORRECTED },
        { "a reading with no value",
          { PINTLE_STAGE_POLYNOMIAL, 0, 3, 0, 0, 40, 0, twice, NULL },
          0,
          0,
          PINTLE_QUALITY_BUS,
          0,
          0,
          PINTLE_QUALITY_BUS },
        { "a kind that there isn't",
          { 0xff, 0, 3, 0, 0, 0, 0, twice, NULL },
          25,
          0,
          0,
          0,
          25,
          UNCORRECTED },
        { "beyond all numbers",
          { PINTLE_STAGE_POLYNOMIAL, 0, 5, 0, 0, 0, 0, cubic, NULL },
          1e20f,
          0,
          0,
          0,
          INFINITY,
          PINTLE_QUALITY_RANGE },
    };
    for (size_t i = 0; i < COUNT(rows); i++) {
        struct pintle_reading second = { rows[i].second, 0, rows[i].second_quality };
        struct pintle_reading reading = { rows[i].value, 1, rows[i].quality };
        struct pintle_correct_stage stage = rows[i].stage;
        stage.second = &second;
        pintle_correct(&stage, 1, &reading, 1);
        EXPECT(reading.value == rows[i].wanted
                   || fabsf(reading.value - rows[i].wanted) <= 2e-6f * fabsf(rows[i].wanted),
               "%s: %g, not %g", rows[i].name, (double)reading.value, (double)rows[i].wanted);
        EXPECT(reading.quality == rows[i].marks, "%s: marks %x", rows[i].name, reading.quality);
    }
}

/* Stages follow each other; a channel with none says so; a missing second leaves what comes behind
 * it undone, for half a correction is none. */
static void stages_together(void)
{
    struct pintle_reading second = { 30, 0, 0 };
    const struct pintle_correct_stage chain[] = {
        { PINTLE_STAGE_HEAT, 0, 1, 0, 0, 0, 0, warmth, &second },
        { PINTLE_STAGE_POLYNOMIAL, 0, 3, 0, 0, 0, 0, twice, NULL },
        { PINTLE_STAGE_AXES, 2, 12, 0, 0, 0, 0, turn, NULL },
    };
    struct pintle_reading readings[5] = {
        { 22, 1, 0 }, { 7, 1, 0 }, { 3, 1, 0 }, { 5, 1, PINTLE_QUALITY_SATURATED }, { 4, 1, 0 }
    };
    pintle_correct(chain, 3, readings, 5);
    CU_ASSERT_EQUAL(readings[0].value, 41); /* 22 -> 20 -> 41 */
    CU_ASSERT_EQUAL(readings[0].quality, 0);
    CU_ASSERT_EQUAL(readings[1].quality, UNCORRECTED);
    CU_ASSERT_EQUAL(readings[2].value, -3); /* x is minus y less its bias, ... */
    CU_ASSERT_EQUAL(readings[3].value, 2);
    CU_ASSERT_EQUAL(readings[4].value, 2);
    CU_ASSERT_EQUAL(readings[2].quality, PINTLE_QUALITY_SATURATED); /* each is made of all three */
    second.quality = PINTLE_QUALITY_BUS;
    struct pintle_reading half[1] = { { 22, 1, 0 } };
    pintle_correct(chain, 2, half, 1);
    CU_ASSERT_EQUAL(half[0].value, 22);
    CU_ASSERT_EQUAL(half[0].quality, UNCORRECTED | SPAN);
    struct pintle_reading narrow[3] = { { 1, 1, 0 }, { 1, 1, 0 }, { 1, 1, 0 } };
    pintle_correct(chain + 2, 1, narrow, 3); /* x, y and z don't fit in behind the second channel */
    CU_ASSERT(narrow[2].value == 1 && narrow[2].quality == UNCORRECTED);
}

static void what_is_no_stage(void)
{
    static const float nan[] = { 0, NAN, 1 };
    static const float infinite[] = { 0, 0, INFINITY };
    static const float flat[] = { 0, 1, 0 };
    static const float falls[] = { 0, 0, 2, 1, 1, 2 };
    static const float squashed[12] = { 0, 0, 0, 1, 2, 3, 2, 4, 6, 0, 0, 1 };
    static const float minus[] = { -1 };
    const struct {
        const char *name;
        struct pintle_correct_stage stage;
    } rows[] = {
        { "no number", { PINTLE_STAGE_POLYNOMIAL, 0, 3, 0, 0, 0, 0, nan, NULL } },
        { "an infinite one", { PINTLE_STAGE_POLYNOMIAL, 0, 3, 0, 0, 0, 0, infinite, NULL } },
        { "a gain of 0", { PINTLE_STAGE_POLYNOMIAL, 0, 3, 0, 0, 0, 0, flat, NULL } },
        { "an offset alone", { PINTLE_STAGE_POLYNOMIAL, 0, 2, 0, 0, 0, 0, twice, NULL } },
        { "a fourth order", { PINTLE_STAGE_POLYNOMIAL, 0, 6, 0, 0, 0, 0, bends, NULL } },
        { "one point", { PINTLE_STAGE_TABLE, 0, 2, 0, 0, 0, 0, bends, NULL } },
        { "half a point", { PINTLE_STAGE_TABLE, 0, 5, 0, 0, 0, 0, bends, NULL } },
        { "points that fall", { PINTLE_STAGE_TABLE, 0, 6, 0, 0, 0, 0, falls, NULL } },
        { "a matrix that flattens", { PINTLE_STAGE_AXES, 0, 12, 0, 0, 0, 0, squashed, NULL } },
        { "a heat that divides by 0", { PINTLE_STAGE_HEAT, 0, 1, 0, 0, 0, 0, minus, NULL } },
        { "none", { PINTLE_STAGE_NONE, 0, 3, 0, 0, 0, 0, twice, NULL } },
        { "erased", { 0xff, 0xff, 0xff, 0xff, NAN, NAN, NAN, twice, NULL } },
        { "a span upside down", { PINTLE_STAGE_POLYNOMIAL, 0, 3, 0, 2, 1, 0, twice, NULL } },
        { "a span of nothing", { PINTLE_STAGE_POLYNOMIAL, 0, 3, 0, NAN, 1, 0, twice, NULL } },
        { "less than certain", { PINTLE_STAGE_POLYNOMIAL, 0, 3, 0, 0, 1, -1, twice, NULL } },
        { "no numbers", { PINTLE_STAGE_POLYNOMIAL, 0, 3, 0, 0, 0, 0, NULL, NULL } },
    };
    for (size_t i = 0; i < COUNT(rows); i++) {
        EXPECT(!pintle_correct_is_valid(&rows[i].stage), "%s", rows[i].name);
    }
    const struct pintle_correct_stage good = {
        PINTLE_STAGE_AXES, 0, 12, 0, -2, 2, 0.1f, turn, NULL
    };
    CU_ASSERT_TRUE(pintle_correct_is_valid(&good));
}

/* --- as bytes --- */

static const struct pintle_correct_stage packed_stages[] = {
    { PINTLE_STAGE_HEAT, 2, 1, 7, -10, 60, 0.125f, warmth, NULL },
    { PINTLE_STAGE_POLYNOMIAL, 2, 3, 0, 0, 40, 0.5f, twice, NULL },
};
/* Put together by hand; its last four bytes are CRC-32 by zlib's crc32. */
static const uint8_t packed_bytes[] = {
    0x51, 2,    72,   0,    9,    0,    0,    0,    0x80, 0x51, 0x01, 0x00, 0x28, 1,    2,
    3,    4,    5,    6,    0x1d, 1,    2,    1,    7,    0,    0,    0x20, 0xc1, 0,    0,
    0x70, 0x42, 0,    0,    0,    0x3e, 0,    0,    0x80, 0x3e, 3,    2,    3,    0,    0,
    0,    0,    0,    0,    0,    0x20, 0x42, 0,    0,    0,    0x3f, 0,    0,    0xa0, 0x41,
    0,    0,    0x24, 0x42, 0,    0,    0,    0x40, 0x85, 0x3a, 0x6a, 0x30
};

static struct pintle_keep a_kept(struct pintle_correct_stage *stages, float *numbers)
{
    struct pintle_keep kept = { .stages = stages,
                                .numbers = numbers,
                                .stage_room = 4,
                                .number_room = 32,
                                .found_s = 86400,
                                .identity = { 0x28, 1, 2, 3, 4, 5, 6, 0x1d } };
    return kept;
}

static void packed(void)
{
    struct pintle_correct_stage stages[4];
    float numbers[32];
    uint8_t bytes[128] = { 0 };
    uint16_t turn_number = 0;
    struct pintle_keep kept = a_kept(stages, numbers);
    memcpy(stages, packed_stages, sizeof packed_stages);
    kept.count = 2;
    CU_ASSERT_EQUAL(pintle_keep_pack(&kept, 9, bytes, sizeof packed_bytes - 1), 0);
    CU_ASSERT_EQUAL(pintle_keep_pack(&kept, 9, bytes, sizeof bytes), sizeof packed_bytes);
    CU_ASSERT_EQUAL(memcmp(bytes, packed_bytes, sizeof packed_bytes), 0);
    struct pintle_keep back = a_kept(stages, numbers);
    CU_ASSERT_EQUAL(pintle_keep_unpack(&back, &turn_number, bytes, sizeof bytes), PINTLE_OK);
    CU_ASSERT(back.count == 2 && turn_number == 9 && back.found_s == 86400);
    CU_ASSERT(stages[0].kind == PINTLE_STAGE_HEAT && stages[0].by == 7 && stages[0].highest == 60);
    CU_ASSERT(stages[1].uncertainty == 0.5f && memcmp(stages[1].numbers, twice, sizeof twice) == 0);
    for (unsigned bit = 0; bit < 8 * sizeof packed_bytes; bit++) {
        bytes[bit / 8] ^= (uint8_t)(1u << bit % 8);
        EXPECT(pintle_keep_unpack(&back, &turn_number, bytes, sizeof bytes) == PINTLE_BAD_CRC
                   && back.count == 0,
               "bit %u", bit);
        bytes[bit / 8] ^= (uint8_t)(1u << bit % 8);
    }
    for (uint16_t length = 0; length < sizeof packed_bytes; length++) {
        EXPECT(pintle_keep_unpack(&back, &turn_number, bytes, length) == PINTLE_BAD_CRC,
               "%u bytes of it", length);
    }
    back.number_room = 3;
    CU_ASSERT_EQUAL(pintle_keep_unpack(&back, &turn_number, bytes, sizeof bytes),
                    PINTLE_OUT_OF_RANGE);
    back = a_kept(stages, numbers);
    back.stage_room = 1;
    CU_ASSERT_EQUAL(pintle_keep_unpack(&back, &turn_number, bytes, sizeof bytes),
                    PINTLE_OUT_OF_RANGE);
}

/* --- in a memory chip --- */

static void make_memory(struct bench *bench)
{
    bench_make_seeded(bench, &pintle_at24c32, 0x57, 5);
}

/* The correction whose every number is this. */
static void a_line_of(float number, struct pintle_keep *kept, struct pintle_correct_stage *stage,
                      float *numbers)
{
    *kept = a_kept(stage, numbers);
    numbers[0] = numbers[1] = numbers[2] = number;
    *stage = (struct pintle_correct_stage){ .kind = PINTLE_STAGE_POLYNOMIAL,
                                            .count = 3,
                                            .numbers = numbers };
    kept->count = 1;
}

static enum pintle_status save(struct bench *bench, float number)
{
    struct pintle_keep kept;
    struct pintle_correct_stage stage;
    float numbers[3];
    uint8_t work[64];
    a_line_of(number, &kept, &stage, numbers);
    return pintle_keep_save(&bench->sensor, 128, &kept, work, sizeof work);
}

/* All three numbers, where they are one; else NaN. */
static float load(struct bench *bench, enum pintle_status *status)
{
    struct pintle_correct_stage stage;
    float numbers[4] = { 0 };
    uint8_t work[64];
    struct pintle_keep kept = a_kept(&stage, numbers);
    kept.stage_room = 1;
    kept.number_room = 4;
    *status = pintle_keep_load(&bench->sensor, 128, &kept, work, sizeof work);
    bool one = kept.count == 1 && numbers[0] == numbers[1] && numbers[1] == numbers[2];
    return one ? numbers[0] : NAN;
}

static void kept_in_memory(void)
{
    struct bench bench;
    struct pintle_keep kept;
    struct pintle_correct_stage stage;
    float numbers[4];
    uint8_t work[64];
    enum pintle_status status = PINTLE_OK;
    make_memory(&bench);
    load(&bench, &status);
    CU_ASSERT_EQUAL(status, PINTLE_BAD_CRC); /* nothing is there yet */
    for (unsigned i = 1; i <= 5; i++) {
        EXPECT(save(&bench, (float)i) == PINTLE_OK, "number %u", i);
        EXPECT(load(&bench, &status) == (float)i && status == PINTLE_OK, "number %u back", i);
    }
    a_line_of(1, &kept, &stage, numbers);
    CU_ASSERT_EQUAL(pintle_keep_save(&bench.sensor, 128, &kept, work, 32), PINTLE_OUT_OF_RANGE);
    CU_ASSERT_EQUAL(pintle_keep_save(&bench.sensor, 100, &kept, work, 64), PINTLE_BAD_ARGUMENT);
    CU_ASSERT_EQUAL(pintle_keep_save(&bench.sensor, 4096 - 64, &kept, work, 64),
                    PINTLE_OUT_OF_RANGE);
    kept.identity[3] ^= 1; /* another specimen's */
    kept.number_room = 4;
    kept.stage_room = 1;
    CU_ASSERT_EQUAL(pintle_keep_load(&bench.sensor, 128, &kept, work, 64), PINTLE_MISFIT);
    CU_ASSERT_EQUAL(kept.count, 0);
    bench_make(&bench, &pintle_tmp102, 0x48);
    CU_ASSERT_EQUAL(pintle_keep_save(&bench.sensor, 0, &kept, work, 64), PINTLE_NO_ABILITY);
    CU_ASSERT_EQUAL(pintle_keep_load(&bench.sensor, 0, &kept, work, 64), PINTLE_NO_ABILITY);
}

/* The supply goes at every moment of a write, less than the time of a byte apart: it is the old
 * correction that is found then, or the new one; and the next write works. */
static void cut_at_every_byte(void)
{
    unsigned old = 0;
    unsigned new = 0;
    unsigned ended = 0;
    for (uint64_t in_us = 0; ended < 3; in_us += 40) {
        struct bench bench;
        enum pintle_status status = PINTLE_OK;
        make_memory(&bench);
        CU_ASSERT_EQUAL(save(&bench, 1), PINTLE_OK);
        CU_ASSERT_EQUAL(save(&bench, 2), PINTLE_OK);
        const struct pintle_sim_fault cut = { .kind = PINTLE_SIM_UNPLUGGED,
                                              .from_us = bench.sim.now_us + in_us,
                                              .to_us = bench.sim.now_us + in_us + 30000 };
        CU_ASSERT_EQUAL(pintle_sim_add_fault(&bench.sim, &cut), PINTLE_OK);
        bool said = save(&bench, 3) == PINTLE_OK;
        ended += said && bench.sim.now_us < cut.from_us;
        bench.sim.now_us += 60000;
        float is = load(&bench, &status);
        EXPECT(status == PINTLE_OK && (is == 2 || is == 3), "cut after %u us: %s, %g",
               (unsigned)in_us, pintle_status_word(status), (double)is);
        EXPECT(!said || is == 3, "cut after %u us: it says OK", (unsigned)in_us);
        old += is == 2;
        new += is == 3;
        CU_ASSERT_EQUAL(save(&bench, 4), PINTLE_OK);
        EXPECT(load(&bench, &status) == 4, "cut after %u us: the next", (unsigned)in_us);
    }
    EXPECT(old > 300 && new > 3, "%u old, %u new", old, new);
    printf("\n  power cut at %u moments of a write: %u times the old correction, %u the new, never "
           "another\n",
           old + new, old, new);
}

/* --- held still, and which way up --- */

static void still(void)
{
    struct pintle_fit_still s = { .axes = 2, .limit = 1 };
    static const struct {
        float x, y;
        uint32_t count;
    } rows[] = { { 0, 0, 1 },    { 0.5f, 0, 2 },    { 1, -0.4f, 3 },
                 { 1.1f, 0, 0 }, { 1.5f, 0.5f, 2 }, { 1.2f, 1.2f, 0 },
                 { 1, NAN, 0 },  { 1, 1, 1 },       { 1, 1.9f, 2 } };
    for (size_t i = 0; i < COUNT(rows); i++) {
        const float xy[2] = { rows[i].x, rows[i].y };
        uint32_t count = pintle_fit_still_add(&s, xy);
        EXPECT(count == rows[i].count, "measurement %zu: %u", i, count);
    }
    /* A slow drift is no stillness, however small its steps. */
    struct pintle_fit_still slow = { .axes = 1, .limit = 1 };
    uint32_t most = 0;
    for (int i = 0; i < 1000; i++) {
        const float x = 0.01f * (float)i;
        uint32_t count = pintle_fit_still_add(&slow, &x);
        most = MAX(most, count);
    }
    EXPECT(most >= 90 && most <= 102, "a drift of 0.01: still for %u", most);
}

static void faces(void)
{
    static const struct {
        float xyz[3];
        int8_t face;
    } rows[] = { { { 9.8f, 0, 0 }, 0 },        { { -9.8f, 1, -1 }, 1 },   { { 0, 9.7f, 2.5f }, 2 },
                 { { 0.5f, -10, 0.5f }, 3 },   { { 3, 3, 9 }, -1 },       { { 0, 0, -9.8f }, 5 },
                 { { 5.7f, 5.7f, 5.7f }, -1 }, { { 0, 2.7f, 9.4f }, -1 }, { { 0, 2.4f, 9.4f }, 4 },
                 { { 0, 0, 0 }, -1 },          { { NAN, 0, 9.8f }, -1 } };
    for (size_t i = 0; i < COUNT(rows); i++) {
        int8_t face = pintle_fit_face_up(rows[i].xyz);
        EXPECT(face == rows[i].face, "row %zu: %d", i, face);
    }
    struct pintle_fit_faces f = { 0 };
    struct pintle_fit_axes axes;
    const float up[3] = { 9.8f, 0, 0 };
    const float none[3] = { 0, 0, NAN };
    CU_ASSERT_EQUAL(pintle_fit_faces_add(&f, 6, up), PINTLE_BAD_ARGUMENT);
    CU_ASSERT_EQUAL(pintle_fit_faces_add(&f, 0, none), PINTLE_OUT_OF_RANGE);
    CU_ASSERT_EQUAL(f.of[0][0].count, 0);
    for (uint8_t face = 0; face < PINTLE_FACES; face++) {
        CU_ASSERT_EQUAL(pintle_fit_faces_solve(&f, 9.8f, &axes), PINTLE_TOO_FEW);
        CU_ASSERT_EQUAL(pintle_fit_faces_add(&f, face, up), PINTLE_OK);
    }
    CU_ASSERT_EQUAL(pintle_fit_faces_solve(&f, 9.8f, &axes),
                    PINTLE_OUT_OF_RANGE); /* never turned */
}

void add_correct_suite(void)
{
    SUITE("correct", { "each stage", each_stage }, { "stages together", stages_together },
          { "what is no stage", what_is_no_stage }, { "as bytes", packed },
          { "in a memory chip", kept_in_memory }, { "cut at every byte", cut_at_every_byte },
          { "still", still }, { "faces", faces });
}
