/* What happens at the door to a chip: bits that it mishears, transfers that break off, neighbours
 * that disturb, clocks left with a time that there is none of. */
#include "support.h"

#include "pintle/ability.h"
#include "pintle/burst.h"
#include "pintle/store.h"
#include "pintle/time.h"

/* --- one wrong bit in what is written --- */

static struct {
    const struct pintle_i2c_calls *i2c;
    const struct pintle_spi_calls *spi;
    unsigned bits;  /* written so far, behind the byte that says where to */
    unsigned wrong; /* this one of them comes wrong */
} line;

/* Copy what goes out, with the bit that comes wrong. */
static const uint8_t *say(const uint8_t *out, uint16_t count, uint16_t from, uint8_t *copy)
{
    memcpy(copy, out, count);
    for (uint16_t i = from; i < count; i++, line.bits += 8) {
        if (line.wrong >= line.bits && line.wrong < line.bits + 8) {
            copy[i] ^= (uint8_t)(1u << (line.wrong - line.bits));
        }
    }
    return copy;
}

static enum pintle_status misheard_i2c(void *context, uint8_t address,
                                       const struct pintle_segment *segments, uint8_t count,
                                       uint32_t limit_us)
{
    uint8_t copy[64];
    struct pintle_segment said[2] = { segments[0], count > 1 ? segments[1] : segments[0] };
    if (segments[0].out && segments[0].length > 1) {
        said[0].out = say(segments[0].out, segments[0].length, 1, copy);
    }
    return line.i2c->transfer(context, address, said, count, limit_us);
}

static enum pintle_status misheard_spi(void *context, const struct pintle_spi_way *way,
                                       const struct pintle_segment *segments, uint8_t count)
{
    uint8_t copy[64];
    struct pintle_segment said[2] = { segments[0], count > 1 ? segments[1] : segments[0] };
    if (count > 1 && segments[1].out) {
        said[1].out = say(segments[1].out, segments[1].length, 0, copy);
    } else if (count == 1 && segments[0].length > 1) {
        said[0].out = say(segments[0].out, segments[0].length, 1, copy);
    }
    return line.spi->transfer(context, way, said, count);
}

static void mishear(struct bench *bench, const struct pintle_part *part, unsigned wrong)
{
    static const struct pintle_i2c_calls i2c = { .transfer = misheard_i2c };
    static const struct pintle_spi_calls spi = { .transfer = misheard_spi };
    bench_make(bench, part, bench_place(part));
    pintle_sim_pass(&bench->sim, 1000000);
    line.i2c = bench->bus.calls;
    line.spi = bench->spi.calls;
    line.bits = 0;
    line.wrong = wrong;
    bench->bus.calls = &i2c;
    bench->spi.calls = &spi;
}

/* Of each byte that is written each bit is wrong once, and nothing is wrong afterwards. */
static void each_bit_misheard(void)
{
    unsigned tried = 0;
    unsigned found = 0;
    for (size_t p = 0; p < measuring_count(); p++) {
        const struct pintle_part *part = measuring_at(p)->part;
        struct bench bench;
        struct pintle_sample sample;
        if (part->link->kind != PINTLE_BUS_I2C && part->link->kind != PINTLE_BUS_SPI) {
            continue;
        }
        mishear(&bench, part, UINT_MAX);
        CU_ASSERT_EQUAL(bench_read(&bench, &sample), PINTLE_OK);
        unsigned bits = line.bits;
        unsigned lies = 0;
        for (unsigned bit = 0; bit < bits; bit++) {
            enum pintle_status status = PINTLE_OK;
            mishear(&bench, part, bit);
            for (unsigned k = 0; k < 4; k++) {
                status = pintle_sample_read(&bench.sensor, &sample);
                lies += status == PINTLE_OK && bench_lies(&bench, &sample) > 0;
                found += status != PINTLE_OK;
                pintle_sim_pass(&bench.sim, 1000000);
            }
            EXPECT(status == PINTLE_OK, "%s: bit %u: %s in the end", part->name, bit,
                   pintle_status_word(status));
            tried++;
        }
        /* docs/trust.md: the bit that begins the first of its conversions, and once */
        EXPECT(lies == (part == &pintle_ads1115 ? 1 : 0),
               "%s: %u of %u bits make it wrong and good", part->name, lies, bits);
    }
    printf("\n    %u bits, of which %u were noticed at once\n", tried, found);
    EXPECT(tried > 500 && found > 100, "%u bits, %u noticed", tried, found);
}

/* --- what was not asked for --- */

static void asked_and_started(void)
{
    static const struct pintle_part *const parts[] = { &pintle_ads1115, &pintle_mcp3008,
                                                       &pintle_veml7700 };
    for (size_t p = 0; p < COUNT(parts); p++) {
        for (unsigned c = 0; c < parts[p]->channel_count; c++) {
            struct bench bench;
            bench_make(&bench, parts[p], bench_place(parts[p]));
            struct turn turn = { .sensor = &bench.sensor };
            CU_ASSERT_EQUAL(pintle_sensor_ask(&bench.sensor, 1u << c), PINTLE_OK);
            CU_ASSERT_EQUAL(pintle_sensor_start(&bench.sensor), PINTLE_OK);
            enum pintle_status status = PINTLE_NOT_READY;
            while (status == PINTLE_NOT_READY) {
                pintle_sim_pass(&bench.sim, pintle_sensor_wait_us(&bench.sensor));
                status = pintle_sample_collect(&bench.sensor, &turn.sample);
            }
            EXPECT(status == PINTLE_OK && bench_lies(&bench, &turn.sample) == 0, "%s, %u: %s",
                   parts[p]->name, c, pintle_status_word(status));
            pintle_sim_pass(&bench.sim, 1000000);
            EXPECT(turns_round(&turn, 1) == 0 && bench_lies(&bench, &turn.sample) == 0,
                   "%s, %u: in a round", parts[p]->name, c);
            for (unsigned k = 0; k < parts[p]->channel_count; k++) {
                EXPECT(k == c || turn.sample.channel[k].quality == PINTLE_QUALITY_IDLE,
                       "%s, %u: %u is idle", parts[p]->name, c, k);
            }
        }
    }
}

/* --- a line that nobody drives --- */

static uint8_t level;

static enum pintle_status undriven(void *context, uint8_t address,
                                   const struct pintle_segment *segments, uint8_t count,
                                   uint32_t limit_us)
{
    (void)context;
    (void)address;
    (void)limit_us;
    for (uint8_t i = 0; i < count; i++) {
        if (segments[i].in) {
            memset(segments[i].in, level, segments[i].length);
        }
    }
    return PINTLE_OK;
}

/* Whichever of its inputs are asked for, nothing but ones, or zeros, is nobody. */
static void inputs_of_nobody(void)
{
    static const uint8_t addresses[] = { 0x48 };
    static const struct pintle_step nothing[] = { PINTLE_END() };
    static const struct pintle_step measure[] = { PINTLE_FOR(1, 1, 2), PINTLE_READ(0, 2),
                                                  PINTLE_FOR(2, 1, 2), PINTLE_READ(1, 2),
                                                  PINTLE_FOR(4, 1, 2), PINTLE_READ(2, 2),
                                                  PINTLE_END() };
    static const struct pintle_linear row = { .bytes = 2, .scale = 1, .lowest = -1, .highest = -1 };
    static const struct pintle_channel channels[] = {
        PINTLE_CHANNEL("a", NUMBER, 0, 0, 65535, &row, .at = 0, .input = 1),
        PINTLE_CHANNEL("b", NUMBER, 0, 0, 65535, &row, .at = 2, .input = 2),
        PINTLE_CHANNEL("c", NUMBER, 0, 0, 65535, &row, .at = 4, .input = 4),
    };
    static const struct pintle_part part = {
        .name = "INPUTS",
        .flags = PINTLE_PART_ONES_SILENT | PINTLE_PART_ZEROS_SILENT,
        .raw_size = 6,
        .channel_count = 3,
        .address_count = 1,
        .addresses = addresses,
        .link = &pintle_link_i2c,
        .identity = nothing,
        .setup = nothing,
        .measure = measure,
        .rare = pintle_part_steps_rare,
        .channels = channels,
    };
    static const struct pintle_i2c_calls calls = { .transfer = undriven };
    for (uint32_t asked = 0; asked < 8; asked++) {
        for (unsigned k = 0; k < 3; k++) {
            struct bench bench;
            struct pintle_sample sample;
            bench_make(&bench, &pintle_tmp102, 0x48);
            bench.bus.calls = &calls;
            level = (uint8_t[]){ 0x00, 0xff, 0x42 }[k];
            CU_ASSERT_EQUAL_FATAL(any_on_i2c(&bench.any, &part, &bench.bus, 0x48), PINTLE_OK);
            CU_ASSERT_EQUAL(pintle_sensor_ask(&bench.sensor, asked), PINTLE_OK);
            enum pintle_status status = pintle_sample_read(&bench.sensor, &sample);
            EXPECT(status == (k < 2 ? PINTLE_NO_ANSWER : PINTLE_OK), "asked %x, %02x: %s", asked,
                   level, pintle_status_word(status));
        }
    }
}

/* --- a checksum over each transfer --- */

static uint8_t pec, written[8];
static unsigned written_count;

static enum pintle_status told_by_hand(void *context, uint8_t address,
                                       const struct pintle_segment *segments, uint8_t count,
                                       uint32_t limit_us)
{
    const uint8_t answer[] = { 0xd2, 0x3a, pec };
    (void)context;
    (void)address;
    (void)limit_us;
    if (count == 2 && segments[1].in && segments[1].length == sizeof answer) {
        memcpy(segments[1].in, answer, sizeof answer);
        return segments[0].out[0] == 0x07 ? PINTLE_OK : PINTLE_NO_ANSWER;
    }
    written_count = segments[0].length;
    memcpy(written, segments[0].out, MIN(written_count, sizeof written));
    return PINTLE_OK;
}

/* The examples of an MLX90614's datasheet (3901090614, "SMBus communication"): reading 07h answers
 * D2h 3Ah and the packet error code 30h; writing C807h to 22h goes with 48h. */
static void packet_error_code(void)
{
    static const uint8_t addresses[] = { 0x5a };
    static const struct pintle_step nothing[] = { PINTLE_END() };
    static const struct pintle_step setup[] = { PINTLE_WRITE_LOOSE(0x22, 2, 0xc807), PINTLE_END() };
    static const struct pintle_step measure[] = { PINTLE_READ(0x07, 2), PINTLE_END() };
    static const struct pintle_linear row = {
        .bytes = 2, .flags = PINTLE_LINEAR_LITTLE_ENDIAN, .scale = 1, .lowest = -1, .highest = -1
    };
    static const struct pintle_channel channels[] = { PINTLE_CHANNEL("object", NUMBER, 0, 0, 65535,
                                                                     &row, .at = 0) };
    static const struct pintle_part part = { .name = "SMBUS",
                                             .raw_size = 2,
                                             .channel_count = 1,
                                             .address_count = 1,
                                             .addresses = addresses,
                                             .link = &pintle_link_smbus,
                                             .identity = nothing,
                                             .setup = setup,
                                             .measure = measure,
                                             .channels = channels };
    static const struct pintle_step fetching[] = { PINTLE_FETCH(2), PINTLE_END() };
    static const struct pintle_step calling[] = { PINTLE_CALL(), PINTLE_READ(0x07, 2),
                                                  PINTLE_END() };
    const struct pintle_step *const bare[] = { fetching, calling };
    static const struct pintle_i2c_calls calls = { .transfer = told_by_hand };
    static const uint8_t frame[] = { 0x22, 0x07, 0xc8, 0x48 };
    for (unsigned code = 0; code < 256; code++) {
        struct bench bench;
        struct pintle_sample sample;
        bench_make(&bench, &pintle_tmp102, 0x48);
        bench.bus.calls = &calls;
        pec = (uint8_t)code;
        CU_ASSERT_EQUAL_FATAL(any_on_i2c(&bench.any, &part, &bench.bus, 0x5a), PINTLE_OK);
        enum pintle_status status = pintle_sample_read(&bench.sensor, &sample);
        EXPECT(status == (code == 0x30 ? PINTLE_OK : PINTLE_BAD_CRC), "code %02x: %s", code,
               pintle_status_word(status));
        EXPECT(code != 0x30 || sample.channel[0].raw == 0x3ad2, "%x",
               (unsigned)sample.channel[0].raw);
        EXPECT(written_count == sizeof frame && memcmp(written, frame, sizeof frame) == 0,
               "written: %u bytes, the last %02x", written_count, written[3]);
    }
    for (size_t i = 0; i < COUNT(bare); i++) { /* with no command there is nothing to be summed */
        struct bench bench;
        struct pintle_sample sample;
        struct pintle_part other = part;
        other.measure = bare[i];
        bench_make(&bench, &pintle_tmp102, 0x48);
        bench.bus.calls = &calls;
        CU_ASSERT_EQUAL_FATAL(any_on_i2c(&bench.any, &other, &bench.bus, 0x5a), PINTLE_OK);
        CU_ASSERT_EQUAL(pintle_sample_read(&bench.sensor, &sample), PINTLE_UNSUPPORTED);
    }
}

/* --- a supply that flickers --- */

/* Never long enough for a conversion: 0 degC is what it holds after power-up, at the second look
 * too. */
static void a_flickering_supply(void)
{
    struct bench bench;
    struct pintle_sample sample;
    bench_make(&bench, &pintle_tmp102, 0x48);
    for (unsigned k = 0; k < 32; k++) {
        uint64_t at = bench.sim.now_us + 3000 + 20000 * k;
        const struct pintle_sim_fault fault = { .kind = PINTLE_SIM_UNPLUGGED,
                                                .from_us = at,
                                                .to_us = at + 2000 };
        CU_ASSERT_EQUAL(pintle_sim_add_fault(&bench.sim, &fault), PINTLE_OK);
    }
    enum pintle_status status = pintle_sample_read(&bench.sensor, &sample);
    EXPECT(status != PINTLE_OK || bench_lies(&bench, &sample) == 0, "%s: %g is good",
           pintle_status_word(status), (double)sample.channel[0].value);
}

/* --- a neighbour that answers at every address, and sends its byte with the others' --- */

/* Parts with nothing else to tell it by ask at an address that no chip has. */
static void a_neighbour_that_stays(void)
{
    static const struct pintle_part *const parts[] = { &pintle_bme280, &pintle_bmp280,
                                                       &pintle_bmp180, &pintle_pcf8574,
                                                       &pintle_tof10120i2c };
    for (size_t p = 0; p < COUNT(parts); p++) {
        for (int before = 0; before < 2; before++) { /* it is set up before, or meanwhile */
            struct bench bench;
            struct pintle_sample sample;
            bench_make(&bench, parts[p], bench_place(parts[p]));
            CU_ASSERT_PTR_NOT_NULL_FATAL(pintle_sim_add(&bench.sim, "PCF8574", 0, 0x27));
            CU_ASSERT(!before || pintle_sample_read(&bench.sensor, &sample) == PINTLE_OK);
            const struct pintle_sim_fault fault = { .kind = PINTLE_SIM_DEAFENING,
                                                    .chip = 1,
                                                    .from_us = bench.sim.now_us,
                                                    .to_us = UINT64_MAX };
            CU_ASSERT_EQUAL(pintle_sim_add_fault(&bench.sim, &fault), PINTLE_OK);
            for (unsigned k = 0; k < 3; k++) {
                enum pintle_status status = pintle_sample_read(&bench.sensor, &sample);
                EXPECT(status != PINTLE_OK, "%s, reading %u: a value of two chips is taken",
                       parts[p]->name, k);
            }
            pintle_sim_calm(&bench.sim);
            pintle_sim_pass(&bench.sim, 5000000);
            EXPECT(bench_read(&bench, &sample) == PINTLE_OK && bench_lies(&bench, &sample) == 0,
                   "%s is not well when it is over", parts[p]->name);
        }
    }
}

/* It answers everywhere from a set-up on, and stops in the middle of that or later: what was read
 * meanwhile once for all, trim, must not bend the values for ever. */
static void a_neighbour_that_stops(void)
{
    static const struct pintle_part *const parts[] = { &pintle_bme280, &pintle_bmp280,
                                                       &pintle_bmp180 };
    for (size_t p = 0; p < COUNT(parts); p++) {
        for (uint64_t ms = 1; ms < 40; ms++) {
            struct bench bench;
            struct pintle_sample sample;
            uint8_t place = bench_place(parts[p]);
            bench_make(&bench, parts[p], place);
            CU_ASSERT_PTR_NOT_NULL_FATAL(
                pintle_sim_add(&bench.sim, "BME280", 0, (uint8_t)(place ^ 1)));
            const struct pintle_sim_fault fault = { .kind = PINTLE_SIM_DEAFENING,
                                                    .chip = 1,
                                                    .from_us = bench.sim.now_us,
                                                    .to_us = bench.sim.now_us + 1000 * ms };
            CU_ASSERT_EQUAL(pintle_sim_add_fault(&bench.sim, &fault), PINTLE_OK);
            (void)!pintle_sample_read(&bench.sensor, &sample);
            pintle_sim_pass(&bench.sim, 1000000);
            EXPECT(bench_read(&bench, &sample) == PINTLE_OK && bench_lies(&bench, &sample) == 0,
                   "%s, %u ms: wrong long after it is over", parts[p]->name, (unsigned)ms);
        }
    }
}

/* --- a neighbour that hears everything --- */

static void a_deaf_neighbour(void)
{
    static const struct pintle_part *const parts[] = { &pintle_tmp102, &pintle_mcp9808,
                                                       &pintle_ina219, &pintle_ads1115,
                                                       &pintle_hs3001, &pintle_tof10120i2c };
    for (size_t p = 0; p < COUNT(parts); p++) {
        struct bench bench;
        struct pintle_any other;
        struct pintle_sample sample;
        bench_make(&bench, parts[p], bench_place(parts[p]));
        CU_ASSERT_PTR_NOT_NULL_FATAL(pintle_sim_add(&bench.sim, "BME280", 0, 0x76));
        bench.bus = pintle_sim_i2c(&bench.sim, 0);
        bench.bus.common.sole_master = 1;
        CU_ASSERT_EQUAL(any_on_i2c(&other, &pintle_bme280, &bench.bus, 0x76), PINTLE_OK);
        for (unsigned round = 0; round < 40; round++) {
            const struct pintle_sim_fault fault = { .kind = PINTLE_SIM_DEAFENING,
                                                    .chip = 0,
                                                    .from_us = bench.sim.now_us + 1000 * round,
                                                    .to_us =
                                                        bench.sim.now_us + 1000 * round + 5000 };
            CU_ASSERT_EQUAL(pintle_sim_add_fault(&bench.sim, &fault), PINTLE_OK);
            (void)!pintle_sample_read(&other.sensor, &sample);
            pintle_sim_pass(&bench.sim, 1000000);
            pintle_sim_calm(&bench.sim);
            for (unsigned k = 0; k < 3; k++) {
                enum pintle_status status = pintle_sample_read(&bench.sensor, &sample);
                EXPECT(status != PINTLE_OK || bench_lies(&bench, &sample) == 0,
                       "%s, round %u, reading %u: %g is wrong and good", parts[p]->name, round, k,
                       (double)sample.channel[0].value);
                EXPECT(k < 2 || status == PINTLE_OK, "%s, round %u: %s in the end", parts[p]->name,
                       round, pintle_status_word(status));
                pintle_sim_pass(&bench.sim, 1000000);
            }
        }
    }
}

/* --- bursts that break off --- */

static void torn_bursts(void)
{
    static const struct pintle_part *const parts[] = { &pintle_mpu6050, &pintle_bmi160,
                                                       &pintle_adxl345 };
    for (size_t p = 0; p < COUNT(parts); p++) {
        static struct pintle_sample samples[64];
        struct bench bench;
        struct pintle_burst burst;
        uint16_t count = 0;
        uint64_t good = 0;
        unsigned failed = 0;
        bench_make(&bench, parts[p], bench_place(parts[p]));
        CU_ASSERT_EQUAL_FATAL(pintle_burst_init(&burst, &bench.sensor), PINTLE_OK);
        uint64_t began = 0;
        for (unsigned i = 0; i < 3000; i++) {
            pintle_sim_calm(&bench.sim);
            if (i % 16 == 9) {
                const struct pintle_sim_fault fault = { .kind = PINTLE_SIM_TORN,
                                                        .from_us = bench.sim.now_us,
                                                        .to_us = bench.sim.now_us + 20000 };
                CU_ASSERT_EQUAL(pintle_sim_add_fault(&bench.sim, &fault), PINTLE_OK);
            }
            enum pintle_status status = burst_collect(&burst, samples, COUNT(samples), &count);
            failed += status != PINTLE_OK && status != PINTLE_NOT_READY;
            for (uint16_t k = 0; k < count; k++) {
                EXPECT(bench_lies(&bench, &samples[k]) == 0, "%s, batch %u: a wrong sample is good",
                       parts[p]->name, i);
            }
            good += count;
            began = began ? began : status == PINTLE_OK ? bench.sim.now_us : 0;
            pintle_sim_pass(&bench.sim, 20000);
        }
        double periods =
            (double)(bench.sim.now_us - began) * 1000
            / (double)parts[p]->can->fifo->periods_ns[pintle_sensor_block(&bench.sensor)
                                                          .settings[parts[p]->can->fifo->rate]];
        double seen = (double)(good + burst.lost);
        EXPECT(failed > 20 && burst.lost > 20, "%s: %u failed, %u lost", parts[p]->name, failed,
               burst.lost);
        EXPECT(fabs(seen / periods - 1) < 0.1, "%s: %g samples, and %g periods went by",
               parts[p]->name, seen, periods);
    }
}

/* --- clocks --- */

/* Whatever a register of the time holds, the clock can be set. */
static void any_time_can_be_set(void)
{
    static const struct pintle_part *const parts[] = { &pintle_ds3231, &pintle_ds1307 };
    for (size_t p = 0; p < COUNT(parts); p++) {
        for (unsigned reg = 0; reg < 7; reg++) {
            for (unsigned value = 0; value < 256; value++) {
                struct bench bench;
                struct pintle_sample sample;
                bench_make(&bench, parts[p], 0x68);
                pintle_sim_poke(bench.chip, (uint16_t)reg, 1, value);
                CU_ASSERT_EQUAL(bench_seat(&bench, parts[p]), PINTLE_OK);
                enum pintle_status status = pintle_time_set(&bench.sensor, 1781265600);
                EXPECT(status == PINTLE_OK, "%s, register %u at %02x: %s", parts[p]->name, reg,
                       value, pintle_status_word(status));
                bench.set_s = 1781265600;
                bench.set_us = bench.sim.now_us;
                status = pintle_sample_read(&bench.sensor, &sample);
                EXPECT(status == PINTLE_OK && bench_lies(&bench, &sample) == 0,
                       "%s, register %u at %02x: then %s", parts[p]->name, reg, value,
                       pintle_status_word(status));
            }
        }
    }
}

static void a_clock_mishears(void)
{
    static const struct pintle_part *const parts[] = { &pintle_ds3231, &pintle_ds1307 };
    for (size_t p = 0; p < COUNT(parts); p++) {
        for (unsigned bit = 0; bit < 200; bit++) {
            struct bench bench;
            struct pintle_sample sample;
            mishear(&bench, parts[p], bit);
            enum pintle_status status = pintle_time_set(&bench.sensor, 1781265600);
            if (status == PINTLE_OK) {
                bench.set_s = 1781265600;
                bench.set_us = bench.sim.now_us;
                (void)!pintle_sample_read(&bench.sensor, &sample);
                EXPECT(bench_lies(&bench, &sample) == 0,
                       "%s, bit %u: set wrong, and said to be set", parts[p]->name, bit);
            }
            EXPECT(status == PINTLE_OK || status == PINTLE_MISFIT, "%s, bit %u: %s", parts[p]->name,
                   bit, pintle_status_word(status));
        }
    }
}

void add_door_suite(void)
{
    SUITE("door", { "each bit misheard", each_bit_misheard },
          { "asked and started", asked_and_started }, { "inputs of nobody", inputs_of_nobody },
          { "packet error code", packet_error_code },
          { "a flickering supply", a_flickering_supply }, { "a deaf neighbour", a_deaf_neighbour },
          { "a neighbour that stays", a_neighbour_that_stays },
          { "a neighbour that stops", a_neighbour_that_stops }, { "torn bursts", torn_bursts },
          { "any time can be set", any_time_can_be_set }, { "a clock mishears", a_clock_mishears });
}
