/* What chips do besides measuring: lines, memory, clocks, displays, each against its simulated
 * chip, with its supply cut and its bits flipped. */
#include "support.h"

#include "pintle/ability.h"
#include "pintle/parts/at24c32.h"

static void make(struct bench *bench, const struct pintle_part *part, uint64_t seed)
{
    bench_make_seeded(bench, part, bench_place(part), seed);
    pintle_sim_pass(&bench->sim, 1000000);
}

static void feel(struct bench *bench, const char *input, double level)
{
    const struct pintle_sim_curve curve = { .level = level };
    CU_ASSERT_EQUAL(pintle_sim_feel(bench->chip, input, &curve), PINTLE_OK);
}

static void lose_supply(struct bench *bench, uint64_t in_us, uint64_t for_us)
{
    uint64_t from = bench->sim.now_us + in_us;
    const struct pintle_sim_fault fault = { .kind = PINTLE_SIM_UNPLUGGED,
                                            .from_us = from,
                                            .to_us = from + for_us };
    pintle_sim_calm(&bench->sim);
    CU_ASSERT_EQUAL(pintle_sim_add_fault(&bench->sim, &fault), PINTLE_OK);
}

static void come_back(struct bench *bench)
{
    pintle_sim_calm(&bench->sim);
    pintle_sim_pass(&bench->sim, 1000000);
}

/* Every ability of the catalogue is tried below; who has none of it is told so. */
static void who_can_what(void)
{
    for (size_t p = 0; p < pintle_sheet_count(); p++) {
        const struct pintle_part *part = pintle_sheet_at(p)->part;
        struct bench bench;
        struct pintle_outputs outputs;
        uint64_t size = 0;
        uint8_t byte = 0;
        make(&bench, part, 3);
        EXPECT((pintle_outputs_init(&outputs, &bench.sensor) == PINTLE_OK)
                   == (strncmp(part->name, "PCF8574", 7) == 0),
               "%s: lines", part->name);
        bool keeps = strcmp(part->name, "AT24C32") == 0 || strcmp(part->name, "DS1307") == 0
                     || strcmp(part->name, "SDCARD") == 0;
        enum pintle_status wanted = keeps ? PINTLE_OK : PINTLE_NO_ABILITY;
        CU_ASSERT_EQUAL(pintle_store_size(&bench.sensor, &size), wanted);
        EXPECT(!pintle_store_unit(part) == !keeps, "%s: unit", part->name);
        if (!keeps) {
            CU_ASSERT_EQUAL(pintle_store_read(&bench.sensor, 0, &byte, 1), PINTLE_NO_ABILITY);
            CU_ASSERT_EQUAL(pintle_store_write(&bench.sensor, 0, &byte, 1), PINTLE_NO_ABILITY);
        }
        bool counts = strncmp(part->name, "DS1307", 6) == 0 || strcmp(part->name, "DS3231") == 0;
        CU_ASSERT_EQUAL(pintle_time_set(&bench.sensor, 1781222400),
                        counts ? PINTLE_OK : PINTLE_NO_ABILITY);
        bool wakes = strcmp(part->name, "DS3231") == 0;
        CU_ASSERT_EQUAL(pintle_time_alarm(&bench.sensor, PINTLE_EVERY_SECOND, 0, 0, 0),
                        wakes ? PINTLE_OK : PINTLE_NO_ABILITY);
        CU_ASSERT_EQUAL(pintle_time_alarmed(&bench.sensor, &byte),
                        wakes ? PINTLE_OK : PINTLE_NO_ABILITY);
        bool shows = strcmp(part->name, "PCD8544") == 0;
        EXPECT(!pintle_screen_of(part) == !shows, "%s: screen", part->name);
        if (!shows) {
            CU_ASSERT_EQUAL(pintle_screen_show(&bench.sensor, &byte), PINTLE_NO_ABILITY);
        }
    }
}

/* --- lines --- */

static void lines_of(const struct pintle_part *part)
{
    struct bench bench;
    struct pintle_outputs outputs;
    uint16_t levels = 0;
    make(&bench, part, 4);
    CU_ASSERT_EQUAL(pintle_outputs_init(&outputs, &bench.sensor), PINTLE_OK);
    feel(&bench, "p6", 0);
    CU_ASSERT_EQUAL(pintle_outputs_read(&outputs, &levels), PINTLE_OK);
    CU_ASSERT_EQUAL(levels, 0xbf); /* a float pulls p6 low; nothing was written */
    CU_ASSERT_EQUAL(pintle_outputs_set(&outputs, 0x0f, 0x05), PINTLE_OK);
    CU_ASSERT_EQUAL(pintle_outputs_read(&outputs, &levels), PINTLE_OK);
    CU_ASSERT_EQUAL(levels, 0xb5);
    CU_ASSERT_EQUAL(pintle_outputs_set(&outputs, 0x03, 0x02), PINTLE_OK); /* two of them */
    CU_ASSERT_EQUAL(pintle_outputs_read(&outputs, &levels), PINTLE_OK);
    CU_ASSERT_EQUAL(levels, 0xb6);
    feel(&bench, "p1", 0); /* shorted while it is driven high */
    CU_ASSERT_EQUAL(pintle_outputs_read(&outputs, &levels), PINTLE_MISFIT);
    CU_ASSERT_EQUAL(levels, 0xb4);
    CU_ASSERT_EQUAL(pintle_outputs_release(&outputs, 0x02), PINTLE_OK); /* as an input it may be */
    CU_ASSERT_EQUAL(pintle_outputs_read(&outputs, &levels), PINTLE_OK);
    lose_supply(&bench, 0, 1000);
    pintle_sim_pass(&bench.sim, 500);
    CU_ASSERT_EQUAL(pintle_outputs_read(&outputs, &levels), PINTLE_NO_ANSWER);
    come_back(&bench);
    CU_ASSERT_EQUAL(pintle_outputs_read(&outputs, &levels), PINTLE_MISFIT); /* all let go */
    CU_ASSERT_EQUAL(pintle_outputs_set(&outputs, 0, 0), PINTLE_OK);
    CU_ASSERT_EQUAL(pintle_outputs_read(&outputs, &levels), PINTLE_OK);
    CU_ASSERT_EQUAL(levels, 0xb4);
    CU_ASSERT_EQUAL(pintle_outputs_set(&outputs, 0x100, 0), PINTLE_OUT_OF_RANGE);
    CU_ASSERT_EQUAL(pintle_outputs_release(&outputs, 0x8000), PINTLE_OUT_OF_RANGE);
}

static void lines(void)
{
    lines_of(&pintle_pcf8574);
    lines_of(&pintle_pcf8574a);
}

/* One with registers for directions, of sixteen lines, as a description would have it: what comes
 * over the bus, in its order. */
static uint8_t wide_regs[8];
static char wide_order[64];

static enum pintle_status wide_transfer(void *context, uint8_t address,
                                        const struct pintle_segment *segments, uint8_t count,
                                        uint32_t limit_us)
{
    (void)context;
    (void)limit_us;
    uint8_t reg = segments[0].out ? segments[0].out[0] : 0;
    for (uint16_t k = 1; count == 1 && segments[0].out && k < segments[0].length; k++) {
        wide_regs[(reg + k - 1) & 7] = segments[0].out[k];
        sprintf(wide_order + strlen(wide_order), "%u=%02x ", reg + k - 1u, segments[0].out[k]);
    }
    for (uint16_t k = 0; count == 2 && k < segments[1].length; k++) {
        segments[1].in[k] = wide_regs[(reg + k) & 7];
    }
    return address == 0x21 ? PINTLE_OK : PINTLE_NO_ANSWER;
}

static void lines_with_directions(void)
{
    static const uint8_t addresses[] = { 0x21 };
    static const struct pintle_step proof[] = { PINTLE_CALL(), PINTLE_END() };
    static const struct pintle_step none[] = { PINTLE_END() };
    static const struct pintle_lines rules = { .out = 2, .in = 0, .direction = 6, .count = 16 };
    static const struct pintle_abilities can = { .lines = &rules };
    static const struct pintle_part part = { .name = "WIDE",
                                             .address_count = 1,
                                             .addresses = addresses,
                                             .link = &pintle_link_i2c,
                                             .identity = proof,
                                             .setup = none,
                                             .measure = none,
                                             .can = &can };
    static const struct pintle_i2c_calls calls = { .transfer = wide_transfer };
    struct pintle_i2c bus = { .calls = &calls };
    struct bench bench;
    struct pintle_any sensor;
    struct pintle_outputs outputs;
    uint16_t levels = 0;
    bench_make(&bench, &pintle_tmp102, 0x48); /* for its clock */
    wide_order[0] = '\0';
    bus.common.clock = &bench.clock;
    CU_ASSERT_EQUAL(any_on_i2c(&sensor, &part, &bus, 0x21), PINTLE_OK);
    CU_ASSERT_EQUAL(pintle_outputs_init(&outputs, &sensor.sensor), PINTLE_OK);
    CU_ASSERT_EQUAL(pintle_outputs_set(&outputs, 0x8001, 0x8000), PINTLE_OK);
    EXPECT(strcmp(wide_order, "2=00 3=80 6=fe 7=7f ") == 0, "levels first: %s", wide_order);
    wide_regs[0] = 0xf0;
    wide_regs[1] = 0x8f;
    CU_ASSERT_EQUAL(pintle_outputs_read(&outputs, &levels), PINTLE_OK);
    CU_ASSERT_EQUAL(levels, 0x8ff0);
    wide_regs[1] = 0x0f;
    CU_ASSERT_EQUAL(pintle_outputs_read(&outputs, &levels), PINTLE_MISFIT);
}

/* The supply goes for a moment while they are read: an input that is low is never said to be high.
 */
static void lines_cut(void)
{
    const struct pintle_sim_curve low = { .level = 0 };
    for (unsigned i = 0; i < 80; i++) {
        struct bench bench;
        struct pintle_outputs outputs;
        uint16_t levels = 0;
        bench_make(&bench, &pintle_pcf8574, 0x20);
        CU_ASSERT_EQUAL(pintle_sim_feel(bench.chip, "p3", &low), PINTLE_OK);
        CU_ASSERT_EQUAL(pintle_outputs_init(&outputs, &bench.sensor), PINTLE_OK);
        uint64_t at = bench.sim.now_us + 5 * i;
        const struct pintle_sim_fault fault = { .kind = PINTLE_SIM_UNPLUGGED,
                                                .from_us = at,
                                                .to_us = at + 5 };
        CU_ASSERT_EQUAL(pintle_sim_add_fault(&bench.sim, &fault), PINTLE_OK);
        enum pintle_status status = pintle_outputs_read(&outputs, &levels);
        EXPECT(status != PINTLE_OK || !(levels & 8), "%u us: %x", 5 * i, levels);
    }
}

/* --- memory --- */

#define SHADOW 8192u /* bytes that are compared */

/* What a store must hold, block by block of a card. */
struct shadow {
    struct bench bench;
    uint16_t unit;
    uint64_t size;
    uint8_t bytes[SHADOW];
};

static void take_shadow(struct shadow *s, const struct pintle_part *part, uint64_t seed)
{
    make(&s->bench, part, seed);
    s->unit = pintle_store_unit(part);
    CU_ASSERT_EQUAL_FATAL(pintle_store_size(&s->bench.sensor, &s->size), PINTLE_OK);
    s->size = MIN(s->size, 6u * 512u * (s->unit > 1) + SHADOW / 2 * (s->unit == 1));
    CU_ASSERT_EQUAL(pintle_store_read(&s->bench.sensor, 0, s->bytes, (uint16_t)(s->size / s->unit)),
                    PINTLE_OK);
}

/* Is all as the shadow has it, but for these units? */
static void compare(struct shadow *s, uint32_t from, uint32_t count, const char *when)
{
    static uint8_t is[SHADOW];
    CU_ASSERT_EQUAL(pintle_store_read(&s->bench.sensor, 0, is, (uint16_t)(s->size / s->unit)),
                    PINTLE_OK);
    unsigned differ = 0;
    for (uint32_t i = 0; i < s->size; i++) {
        uint32_t unit = i / s->unit;
        differ += is[i] != s->bytes[i] && (unit < from || unit >= from + count);
    }
    EXPECT(differ == 0, "%s, %s: %u bytes differ", s->bench.sensor.part->name, when, differ);
    memcpy(s->bytes, is, s->size);
}

static void fill(uint8_t *bytes, size_t count)
{
    for (size_t i = 0; i < count; i++) {
        bytes[i] = (uint8_t)rand();
    }
}

static void stores_of(const struct pintle_part *part, uint64_t seed)
{
    static struct shadow s;
    take_shadow(&s, part, seed);
    uint32_t units = (uint32_t)(s.size / s.unit);
    srand((unsigned)seed);
    for (int i = 0; i < 12; i++) {
        uint8_t bytes[3 * 512];
        uint32_t count = 1 + (uint32_t)rand() % MIN(s.unit == 1 ? 70 : 3, units);
        uint32_t from = (uint32_t)rand() % (units - count + 1);
        fill(bytes, sizeof bytes);
        enum pintle_status status =
            pintle_store_write(&s.bench.sensor, from, bytes, (uint16_t)count);
        EXPECT(status == PINTLE_OK, "%s: %s", part->name, pintle_status_word(status));
        memcpy(s.bytes + (size_t)from * s.unit, bytes, (size_t)count * s.unit);
        uint64_t at = s.bench.sim.now_us;
        CU_ASSERT_EQUAL(pintle_store_write(&s.bench.sensor, from, bytes, (uint16_t)count),
                        PINTLE_OK); /* it is there already: nothing is written, nothing waits */
        EXPECT(s.bench.sim.now_us - at < 20000u + 100000u * (s.unit > 1), "%s: written again",
               part->name);
    }
    compare(&s, 0, 0, "written");
    uint64_t size = 0;
    uint8_t byte[512] = { 0 };
    CU_ASSERT_EQUAL(pintle_store_size(&s.bench.sensor, &size), PINTLE_OK);
    uint32_t last = (uint32_t)(size / s.unit) - 1;
    CU_ASSERT_EQUAL(pintle_store_read(&s.bench.sensor, last, byte, 1), PINTLE_OK);
    CU_ASSERT_EQUAL(pintle_store_read(&s.bench.sensor, last, byte, 2), PINTLE_OUT_OF_RANGE);
    CU_ASSERT_EQUAL(pintle_store_write(&s.bench.sensor, last + 1, byte, 1), PINTLE_OUT_OF_RANGE);
    CU_ASSERT_EQUAL(pintle_store_write(&s.bench.sensor, UINT32_MAX, byte, 1), PINTLE_OUT_OF_RANGE);
}

/* The supply goes somewhere in a write: nothing beside what was being written is another. */
static void cut(const struct pintle_part *part, uint64_t seed, uint64_t in_us)
{
    static struct shadow s;
    uint8_t bytes[64 + 2 * 512];
    take_shadow(&s, part, seed);
    uint32_t count = s.unit == 1 ? 40 : 2;
    uint32_t from = s.unit == 1 ? 9 : 1;
    srand((unsigned)in_us);
    fill(bytes, sizeof bytes);
    lose_supply(&s.bench, in_us, 3000);
    enum pintle_status status = pintle_store_write(&s.bench.sensor, from, bytes, (uint16_t)count);
    bool whole = status == PINTLE_OK;
    come_back(&s.bench);
    compare(&s, from, count, "cut");
    EXPECT(!whole || memcmp(s.bytes + (size_t)from * s.unit, bytes, (size_t)count * s.unit) == 0,
           "%s, cut after %u us: it says OK", part->name, (unsigned)in_us);
    CU_ASSERT_EQUAL(pintle_store_write(&s.bench.sensor, from, bytes, (uint16_t)count), PINTLE_OK);
    memcpy(s.bytes + (size_t)from * s.unit, bytes, (size_t)count * s.unit);
    compare(&s, 0, 0, "and again");
}

static void memory(void)
{
    for (uint64_t seed = 1; seed <= 12; seed++) { /* cards of every kind among them */
        stores_of(&pintle_at24c32, seed);
        stores_of(&pintle_ds1307, seed);
        stores_of(&pintle_sdcard, seed);
    }
}

static void memory_cut(void)
{
    for (uint64_t i = 0; i < 60; i++) {
        cut(&pintle_at24c32, 5, 100 + 377 * i);
        cut(&pintle_ds1307, 5, 100 + 151 * i);
    }
    for (uint64_t i = 0; i < 20; i++) {
        cut(&pintle_sdcard, 6 + i % 4, 50 + 9311 * i);
    }
}

/* The supply goes for a moment while it is read: other bytes are never called good. */
static void memory_read_cut(void)
{
    static const struct pintle_part *const parts[] = { &pintle_at24c32, &pintle_ds1307 };
    const uint8_t kept[8] = { 1, 2, 3, 4, 5, 6, 7, 8 };
    for (unsigned i = 0; i < 2 * 200; i++) {
        struct bench bench;
        uint8_t bytes[8];
        make(&bench, parts[i % 2], 1);
        CU_ASSERT_EQUAL(pintle_store_write(&bench.sensor, 8, kept, 8), PINTLE_OK);
        uint64_t at = bench.sim.now_us + 10 * (i / 2);
        const struct pintle_sim_fault fault = { .kind = PINTLE_SIM_UNPLUGGED,
                                                .from_us = at,
                                                .to_us = at + 5 };
        CU_ASSERT_EQUAL(pintle_sim_add_fault(&bench.sim, &fault), PINTLE_OK);
        enum pintle_status status = pintle_store_read(&bench.sensor, 8, bytes, 8);
        EXPECT(status != PINTLE_OK || memcmp(bytes, kept, 8) == 0, "%s, %u us: other bytes",
               parts[i % 2]->name, 10 * (i / 2));
    }
}

/* Pulled out while it writes, and never back: nobody waits for it. */
static void memory_gone(void)
{
    struct bench bench;
    const uint8_t byte = 0x5a;
    make(&bench, &pintle_at24c32, 1);
    CU_ASSERT_EQUAL(pintle_store_write(&bench.sensor, 9, &byte, 1), PINTLE_OK);
    const struct pintle_sim_fault gone = { .kind = PINTLE_SIM_UNPLUGGED,
                                           .from_us = bench.sim.now_us + 2500,
                                           .to_us = UINT64_MAX };
    const uint8_t other = 0xa5;
    CU_ASSERT_EQUAL(pintle_sim_add_fault(&bench.sim, &gone), PINTLE_OK);
    CU_ASSERT_EQUAL(pintle_store_write(&bench.sensor, 9, &other, 1), PINTLE_NO_ANSWER);
    EXPECT(bench.sim.now_us - gone.from_us < 100000, "after %u us",
           (unsigned)(bench.sim.now_us - gone.from_us));
}

/* Between the bus and a card whose blocks cannot be read until they are written again: in place of
 * the token that data begin with comes an error token (SD specification part 1, 7.3.3.3). */
struct worn {
    struct pintle_spi spi;
    uint8_t token; /* 0: the card is well */
    bool reading;
};

static enum pintle_status worn_transfer(void *context, const struct pintle_spi_way *way,
                                        const struct pintle_segment *segments, uint8_t count)
{
    struct worn *w = context;
    enum pintle_status status = w->spi.calls->transfer(w->spi.common.context, way, segments, count);
    for (uint8_t i = 0; i < count; i++) {
        const struct pintle_segment *s = &segments[i];
        const uint8_t *command = s->out && s->length > 6 ? s->out + s->length - 6 : NULL;
        if (command && (*command == 0x51 || *command == 0x58)) { /* CMD17, CMD24 */
            w->reading = *command == 0x51;
            w->token = w->reading ? w->token : 0;
        }
        for (uint16_t k = 0; s->in && k < s->length && w->reading && w->token; k++) {
            if (s->in[k] == 0xfe) {
                s->in[k] = w->token;
                w->reading = false;
            }
        }
    }
    return status;
}

/* A block that was lost can be written again; one beyond the card's end, or in an error of another
 * kind, is left alone. */
static void a_card_that_lost_a_block(void)
{
    static const struct {
        uint8_t token;
        enum pintle_status read, write;
    } rows[] = {
        { 0x04, PINTLE_BAD_CRC, PINTLE_OK },                /* card ECC failed */
        { 0x02, PINTLE_BAD_CRC, PINTLE_OK },                /* CC error */
        { 0x08, PINTLE_DATA_REFUSED, PINTLE_DATA_REFUSED }, /* out of range */
        { 0x01, PINTLE_DATA_REFUSED, PINTLE_DATA_REFUSED }, /* error */
    };
    for (size_t r = 0; r < COUNT(rows); r++) {
        static const struct pintle_spi_calls calls = { .transfer = worn_transfer };
        struct bench bench;
        uint8_t new[512];
        uint8_t is[512];
        make(&bench, &pintle_sdcard, 8);
        struct worn worn = { .spi = bench.spi, .token = rows[r].token };
        memset(new, 0x5a, sizeof new);
        bench.spi.calls = &calls;
        bench.spi.common.context = &worn;
        CU_ASSERT_EQUAL(pintle_store_read(&bench.sensor, 5, is, 1), rows[r].read);
        CU_ASSERT_EQUAL(pintle_store_write(&bench.sensor, 5, new, 1), rows[r].write);
        EXPECT((worn.token == 0) == (rows[r].write == PINTLE_OK), "token %02x: written or not",
               rows[r].token);
        worn.token = 0;
        CU_ASSERT_EQUAL(pintle_store_read(&bench.sensor, 5, is, 1), PINTLE_OK);
        EXPECT((memcmp(is, new, 512) == 0) == (rows[r].write == PINTLE_OK),
               "token %02x: what is kept", rows[r].token);
    }
}

/* A card's bits come with checksums: flipped ones are noticed, whichever way they go. */
static void a_card_with_wrong_bits(void)
{
    struct bench bench;
    uint8_t good[512];
    uint8_t bytes[512];
    const struct pintle_sim_fault flips = { .kind = PINTLE_SIM_FLIPPED, .to_us = UINT64_MAX };
    make(&bench, &pintle_sdcard, 8);
    CU_ASSERT_EQUAL(pintle_store_read(&bench.sensor, 5, good, 1), PINTLE_OK);
    CU_ASSERT_EQUAL(pintle_sim_add_fault(&bench.sim, &flips), PINTLE_OK);
    unsigned said = 0;
    for (int i = 0; i < 30; i++) {
        enum pintle_status status = pintle_store_read(&bench.sensor, 5, bytes, 1);
        said += status != PINTLE_OK;
        EXPECT(status != PINTLE_OK || memcmp(bytes, good, 512) == 0, "wrong bytes called good");
    }
    EXPECT(said > 20, "%u failures", said);
    come_back(&bench);
    CU_ASSERT_EQUAL(pintle_store_read(&bench.sensor, 5, bytes, 1), PINTLE_OK);
    EXPECT(memcmp(bytes, good, 512) == 0, "the same again");
}

/* Cards are changed by people: another one is set up, and not read as if it were the first. */
static void another_card(void)
{
    struct bench bench;
    uint8_t bytes[512];
    struct pintle_sdcard_about before, after;
    uint64_t size = 0;
    unsigned differ = 0;
    for (uint64_t seed = 1; seed < 9; seed++) {
        make(&bench, &pintle_sdcard, 2);
        CU_ASSERT_EQUAL(pintle_store_read(&bench.sensor, 7, bytes, 1), PINTLE_OK);
        pintle_sdcard_describe(&bench.sensor, &before);
        EXPECT(before.bytes == 67108864 || before.bytes == 8589934592, "its size");
        EXPECT(strcmp(before.product, "LOGBK") == 0 && before.year == 2025 && before.month == 6,
               "%s, %u-%u", before.product, before.year, before.month);
        lose_supply(&bench, 0, 100000);
        pintle_sim_pass(&bench.sim, 50000);
        pintle_sim_draw(bench.chip, 100 + seed);
        come_back(&bench);
        EXPECT(pintle_store_read(&bench.sensor, 7, bytes, 1) != PINTLE_OK, "it isn't ready");
        CU_ASSERT_EQUAL(pintle_store_size(&bench.sensor, &size), PINTLE_OK);
        pintle_sdcard_describe(&bench.sensor, &after);
        EXPECT(size == after.bytes && before.serial != after.serial, "it is another");
        differ += before.bytes != after.bytes;
        CU_ASSERT_EQUAL(pintle_store_read(&bench.sensor, 7, bytes, 1), PINTLE_OK);
    }
    EXPECT(differ > 0, "none of them was of the other kind");
}

static void write_protected(void)
{
    struct bench bench;
    uint8_t bytes[8] = "chart 7";
    uint8_t is[8] = { 0 };
    make(&bench, &pintle_at24c32, 9);
    feel(&bench, "write-protect", 1);
    CU_ASSERT_EQUAL(pintle_store_write(&bench.sensor, 100, bytes, 8), PINTLE_READ_ONLY);
    feel(&bench, "write-protect", 0);
    CU_ASSERT_EQUAL(pintle_store_write(&bench.sensor, 100, bytes, 8), PINTLE_OK);
    CU_ASSERT_EQUAL(pintle_store_read(&bench.sensor, 100, is, 8), PINTLE_OK);
    EXPECT(memcmp(bytes, is, 8) == 0, "%.8s", is);
}

/* --- clocks: DS1307; a DS3231 is in the suite truth --- */

static void a_clock(void)
{
    static const struct {
        int64_t set_s;
        unsigned later_s;
        bool ok;
    } rows[] = {
        { 946684800, 1, true },        { 1709164799, 90000, true }, /* over a 29 February */
        { 1781222400, 4000000, true }, { 4102444790, 9, true },
        { 946684799, 0, false },       { 4102444800, 0, false }
    };
    for (size_t i = 0; i < COUNT(rows); i++) {
        struct bench bench;
        struct pintle_sample sample;
        uint8_t kept[56], after[56];
        make(&bench, &pintle_ds1307, i + 1);
        CU_ASSERT_EQUAL(pintle_store_read(&bench.sensor, 0, kept, 56), PINTLE_OK);
        enum pintle_status status = pintle_time_set(&bench.sensor, rows[i].set_s);
        EXPECT(status == (rows[i].ok ? PINTLE_OK : PINTLE_OUT_OF_RANGE), "%u: %s", (unsigned)i,
               pintle_status_word(status));
        pintle_sim_pass(&bench.sim, rows[i].later_s * (uint64_t)1000000);
        CU_ASSERT_EQUAL(pintle_sample_read(&bench.sensor, &sample), PINTLE_OK);
        int64_t is = (int64_t)(uint32_t)sample.channel[0].raw + 946684800;
        int64_t wanted = rows[i].set_s + rows[i].later_s;
        EXPECT(!rows[i].ok || (is == wanted && sample.channel[0].quality == 0), "%u: off by %lld s",
               (unsigned)i, (long long)(is - wanted));
        CU_ASSERT_EQUAL(pintle_store_read(&bench.sensor, 0, after, 56), PINTLE_OK);
        EXPECT(memcmp(kept, after, 56) == 0, "its memory is another");
    }
    struct bench bench;
    struct pintle_sample sample;
    make(&bench, &pintle_ds1307, 1);
    pintle_sim_draw(bench.chip, 3); /* battery and all */
    CU_ASSERT_EQUAL(pintle_sample_read(&bench.sensor, &sample), PINTLE_OK);
    CU_ASSERT_EQUAL(sample.channel[0].quality, PINTLE_QUALITY_POWER_ON);
}

/* --- displays --- */

static void expect_shown(struct bench *bench, const uint8_t *picture, const char *when)
{
    EXPECT(memcmp(bench->chip->memory, picture, PINTLE_PCD8544_PICTURE) == 0, "another picture, %s",
           when);
}

static void a_display(void)
{
    struct bench bench;
    struct wired wired;
    uint8_t picture[PINTLE_PCD8544_PICTURE] = { 0 };
    make(&bench, &pintle_pcd8544, 3);
    for (uint16_t x = 0; x < 84; x++) {
        pintle_screen_dot(&pintle_pcd8544, picture, x, x % 48, 1);
        pintle_screen_dot(&pintle_pcd8544, picture, x, 47, x % 3 == 0);
    }
    pintle_screen_dot(&pintle_pcd8544, picture, 84, 0, 1); /* outside */
    pintle_screen_dot(&pintle_pcd8544, picture, 0, 48, 1);
    EXPECT(picture[0] == 0x01 && picture[84 + 8] == 0x01 && picture[5 * 84 + 3] == 0x80
               && picture[5 * 84 + 1] == 0,
           "dots");
    pintle_sim_scramble(bench.chip);
    CU_ASSERT_EQUAL(pintle_screen_show(&bench.sensor, picture), PINTLE_OK);
    expect_shown(&bench, picture, "at first");
    lose_supply(&bench, 0, 1000);
    come_back(&bench);
    CU_ASSERT_EQUAL(pintle_screen_show(&bench.sensor, picture), PINTLE_OK);
    expect_shown(&bench, picture, "after a loss of power");
    bench_wire(&bench, &wired); /* no line beside the bus */
    CU_ASSERT_EQUAL(bench_seat(&bench, &pintle_pcd8544), PINTLE_OK);
    CU_ASSERT_EQUAL(pintle_screen_show(&bench.sensor, picture), PINTLE_UNSUPPORTED);
    const struct pintle_pin command = pintle_sim_spi_pin(&wired.spi_wires, PINTLE_SIM_COMMAND);
    wired.spi_master.command = &command;
    memset(picture, 0x18, 84);
    CU_ASSERT_EQUAL(pintle_screen_show(&bench.sensor, picture), PINTLE_OK);
    expect_shown(&bench, picture, "over wires");
}

/* The card over wires: a select line that is held between transfers. */
static void a_card_over_wires(void)
{
    struct bench bench;
    struct wired wired;
    uint8_t bytes[512];
    uint8_t is[512];
    for (uint64_t seed = 1; seed < 6; seed++) {
        make(&bench, &pintle_sdcard, seed);
        bench_wire(&bench, &wired);
        CU_ASSERT_EQUAL(bench_seat(&bench, &pintle_sdcard), PINTLE_OK);
        fill(bytes, sizeof bytes);
        CU_ASSERT_EQUAL(pintle_store_write(&bench.sensor, 77, bytes, 1), PINTLE_OK);
        CU_ASSERT_EQUAL(pintle_store_read(&bench.sensor, 77, is, 1), PINTLE_OK);
        EXPECT(memcmp(bytes, is, 512) == 0, "seed %u", (unsigned)seed);
    }
}

/* --- the commands --- */

static const char rig_text[] =
    "board { name = \"sloop\" port = \"sim\" world = \"b.world\" }\n"
    "bus cabin { data = \"CD\" clock = \"CC\" pull-up = 4700 }\n"
    "bus panel { kind = \"spi\" data = \"PO\" data-in = \"PI\" clock = \"PC\" command = \"PD\" }\n"
    "sensor logbook { part = \"AT24C32\" bus = \"cabin\" address = 0x57 }\n"
    "sensor lamps { part = \"PCF8574\" bus = \"cabin\" address = 0x20 }\n"
    "sensor clock { part = \"DS3231\" bus = \"cabin\" address = 0x68 }\n"
    "sensor card { part = \"SDCARD\" bus = \"panel\" select = \"S1\" }\n"
    "sensor screen { part = \"PCD8544\" bus = \"panel\" select = \"S2\" }\n";
static const char world_text[] =
    "chip logbook { part = \"AT24C32\" bus = \"cabin\" address = 0x57 }\n"
    "quantity pressed { level = 0 }\n"
    "chip lamps { part = \"PCF8574\" bus = \"cabin\" address = 0x20 feels = { \"p6=pressed\" } }\n"
    "chip clock { part = \"DS3231\" bus = \"cabin\" address = 0x68 set = true }\n"
    "chip card { part = \"SDCARD\" bus = \"panel\" select = \"S1\" }\n"
    "chip screen { part = \"PCD8544\" bus = \"panel\" select = \"S2\" }\n";

/* 84 x 48 dots in rows of whole bytes. */
static void write_raw_picture(const char *folder, const char *name, const char *head, size_t bytes)
{
    GString *text = g_string_new(head);
    for (size_t i = 0; i < bytes; i++) {
        g_string_append_c(text, (char)(0x55 + i % 7));
    }
    char *path = g_build_filename(folder, name, NULL);
    CU_ASSERT(g_file_set_contents(path, text->str, (gssize)text->len, NULL));
    g_free(path);
    g_string_free(text, TRUE);
}

static void in_commands(void)
{
    static const struct {
        const char *arguments;
        int status;
        const char *text;
    } rows[] = {
        { "read logbook", 0, "memory of 4096 bytes, at 0x57: it is there and measures nothing" },
        { "read lamps", 0, "p6                              0 on              0   good" },
        { "read --format csv logbook lamps", 0, "lamps,p6,0,/,0,bf bf,good" },
        { "scan", 0, "5 of 5 sensors are there" },
        { "scan", 0, "card       proven     answers the reset as a card does" },
        { "scan", 0, "screen     likely     none: it has no output" },
        { "wiring", 0, "PD tells displays commands from data" },
        { "regs card", 2, "no registers" },
        { "store logbook", 0, "AT24C32 at 0x57 on bus 'cabin', 4096 bytes" },
        { "store card", 0, "67108864 bytes in blocks of 512; maker 77h, 'LOGBK'" },
        { "store logbook --from 4090", 0, "0ffah  ff ff ff ff ff ff\n" },
        { "store logbook --from 16 --count 2", 0, "0010h  ff ff\n" },
        { "store logbook --from 4096", 2, "has 4096 bytes, numbered from 0" },
        { "store logbook --count 4097", 2, "has 4096 bytes, numbered from 0" },
        { "store card --from 131072", 2, "has 131072 blocks of 512 bytes" },
        { "store logbook --load crew.txt --from 4", 0,
          "5 bytes of crew.txt written, and read back" },
        { "store card --load crew.txt --from 9", 0, "5 bytes of crew.txt written, and read back" },
        { "store logbook --load crew.txt --from 4092", 2, "there are not so many" },
        { "store logbook --load nowhere", 2, "cannot read nowhere" },
        { "store logbook --load crew.txt --save x", 2, "leave --save and --count away" },
        { "store logbook --count 3 --save no/such", 3, "cannot write no/such" },
        { "store logbook --count 3 --save three", 0, "3 bytes kept in three" },
        { "store clock", 2, "has no memory; AT24C32, DS1307, SDCARD have" },
        { "store buoy", 2, "the rig has no sensor 'buoy'" },
        { "store", 2, "which sensor? A memory is in logbook, card" },
        { "lines lamps", 0, "p6           low        no" },
        { "lines lamps p0=0 p1=1", 0, "p0           low        yes" },
        { "lines lamps p6=1", 1, "p6           low        yes, and does not obey" },
        { "lines lamps p0=2", 2, "write LINE=0 or LINE=1, with a line of p0 to p7" },
        { "lines lamps p9=1", 2, "'p9=1' sets no line" },
        { "lines logbook", 2, "has no line to drive; PCF8574, PCF8574A have" },
        { "lines", 0, "p6           low        no" },
        { "lines p1=1", 0, "p1           high       yes" },
        { "clock clock", 0, "2026-06-12T00:00:00Z   good" },
        { "clock clock --at 1h", 0, "0 s apart" },
        { "clock clock --set --alarm day=06:15:30", 0, "good" },
        { "clock clock --alarm minute=30 --went", 0, "the alarm has not gone off" },
        { "clock clock --alarm noon", 2, "'noon' is no alarm" },
        { "clock clock --alarm day=24:00:00", 2, "is no alarm" },
        { "clock clock --alarm hour=5", 2, "is no alarm" },
        { "clock lamps", 2, "has no clock; DS1307, DS3231 have" },
        { "clock", 0, "  good" },
        { "clock clock clock", 2, "one sensor at a time" },
        { "show screen tide.pbm", 0, "only a look tells" },
        { "show screen raw.pbm", 0, "only a look tells" },
        { "show screen half.pbm", 2, "is no whole PBM picture" },
        { "show screen wide.pbm", 2, "has 85 x 8 dots, and there is room for 84 x 48" },
        { "show screen crew.txt", 2, "is no whole PBM picture" },
        { "show screen nowhere", 2, "cannot read nowhere" },
        { "show tide.pbm", 0, "sent; a display" },
        { "show card tide.pbm", 2, "has no display; PCD8544 have" },
        { "show screen", 2, "cannot read screen" },
        { "show", 2, "give a display and a picture" },
        { "trace -- show screen tide.pbm", 0, "screen   20/ff command FUNCTION_SET" },
        { "trace -- show screen tide.pbm", 0, "screen   05/ff data" },
        { "trace --vcd x.vcd -- store card", 0, "card     ff/ff" },
        { "convert SDCARD 00", 2, "measures nothing" },
        { "log --for 2min --every 1min --into runs", 0, "2 records in" },
    };
    char *folder = scratch_make();
    file_write(folder, "b.rig", rig_text);
    file_write(folder, "b.world", world_text);
    file_write(folder, "crew.txt", "Ines\n");
    file_write(folder, "tide.pbm", "P1 # a small one\n3 4\n1 0 1\n010\n1 0 1 0 0 0\n");
    write_raw_picture(folder, "raw.pbm", "P4\n84 48\n", 11 * 48);
    write_raw_picture(folder, "half.pbm", "P4\n84 48\n", 11 * 47);
    write_raw_picture(folder, "wide.pbm", "P4\n85 8\n", 11 * 8);
    for (size_t i = 0; i < COUNT(rows); i++) {
        char **words = g_strsplit(rows[i].arguments, " ", 2);
        char *arguments = g_strdup_printf("%s --rig b.rig %s", words[0], words[1] ? words[1] : "");
        expect_said(folder, arguments, rows[i].status, rows[i].text);
        g_free(arguments);
        g_strfreev(words);
    }
    char *vcd = file_text(folder, "x.vcd");
    EXPECT(strstr(vcd, " command $end") != NULL, "no line for commands");
    g_free(vcd);
    scratch_remove(folder);
}

void add_abilities_suite(void)
{
    SUITE("abilities", { "who can what", who_can_what }, { "lines", lines },
          { "lines with directions", lines_with_directions }, { "lines, cut", lines_cut },
          { "memory", memory }, { "memory, its supply cut", memory_cut },
          { "memory, gone", memory_gone }, { "memory, read and cut", memory_read_cut },
          { "a card with wrong bits", a_card_with_wrong_bits }, { "another card", another_card },
          { "a card that lost a block", a_card_that_lost_a_block },
          { "write-protected", write_protected }, { "a clock", a_clock },
          { "a display", a_display }, { "a card over wires", a_card_over_wires },
          { "in commands", in_commands });
}
