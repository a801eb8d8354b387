/* Every public operation with its Nth port call failing, for every N. */
#include "support.h"

/* Ports that fail their call number `at` once, or every call from it on. */
struct saboteur {
    struct pintle_i2c i2c;
    struct pintle_spi spi;
    struct pintle_onewire line;
    struct pintle_stream stream;
    enum pintle_status status;
    int at;
    int calls;
    bool for_ever;
    bool in_background, will_fail;
    struct pintle_background room;
    unsigned failed, to_nobody; /* of these, questions to an address that no chip has */
};

static bool fails_now(struct saboteur *s)
{
    int call = s->calls++;
    bool fails = call == s->at || (s->for_ever && call > s->at);
    s->failed += fails;
    return fails;
}

static enum pintle_status sabotaged_i2c(void *context, uint8_t address,
                                        const struct pintle_segment *segments, uint8_t count,
                                        uint32_t limit_us)
{
    struct saboteur *s = context;
    bool fails = fails_now(s);
    s->to_nobody += fails && address < 0x08;
    return fails
               ? s->status
               : s->i2c.calls->transfer(s->i2c.common.context, address, segments, count, limit_us);
}

/* What goes on by itself fails at its end: nothing of it came through. */
static enum pintle_status sabotaged_start(void *context, uint8_t address,
                                          const struct pintle_segment *segments, uint8_t count,
                                          uint32_t limit_us)
{
    struct saboteur *s = context;
    s->will_fail = fails_now(s);
    return s->will_fail
               ? PINTLE_OK
               : s->i2c.calls->start(s->i2c.common.context, address, segments, count, limit_us);
}

static enum pintle_status sabotaged_done(void *context)
{
    struct saboteur *s = context;
    return s->will_fail ? s->status : s->i2c.calls->done(s->i2c.common.context);
}

static enum pintle_status sabotaged_spi(void *context, const struct pintle_spi_way *way,
                                        const struct pintle_segment *segments, uint8_t count)
{
    struct saboteur *s = context;
    return fails_now(s) ? s->status
                        : s->spi.calls->transfer(s->spi.common.context, way, segments, count);
}

static enum pintle_status sabotaged_reset(void *context)
{
    struct saboteur *s = context;
    return fails_now(s) ? s->status : s->line.calls->reset(s->line.common.context);
}

static enum pintle_status sabotaged_slots(void *context, const uint8_t *out, uint8_t *in,
                                          uint16_t count, uint8_t strong)
{
    struct saboteur *s = context;
    return fails_now(s) ? s->status
                        : s->line.calls->slots(s->line.common.context, out, in, count, strong);
}

static enum pintle_status sabotaged_send(void *context, const uint8_t *bytes, uint16_t count,
                                         uint32_t limit_us)
{
    struct saboteur *s = context;
    return fails_now(s) ? s->status
                        : s->stream.calls->send(s->stream.common.context, bytes, count, limit_us);
}

static enum pintle_status sabotaged_receive(void *context, uint8_t *bytes, uint16_t count,
                                            uint16_t *got, uint32_t limit_us)
{
    struct saboteur *s = context;
    return fails_now(s)
               ? s->status
               : s->stream.calls->receive(s->stream.common.context, bytes, count, got, limit_us);
}

static void sabotage(struct bench *bench, struct saboteur *saboteur)
{
    static const struct pintle_i2c_calls i2c = { .transfer = sabotaged_i2c,
                                                 .start = sabotaged_start,
                                                 .done = sabotaged_done };
    static const struct pintle_spi_calls spi = { .transfer = sabotaged_spi };
    static const struct pintle_onewire_calls line = { .reset = sabotaged_reset,
                                                      .slots = sabotaged_slots };
    static const struct pintle_stream_calls stream = { .send = sabotaged_send,
                                                       .receive = sabotaged_receive };
    saboteur->i2c = bench->bus;
    saboteur->spi = bench->spi;
    saboteur->line = bench->line;
    saboteur->stream = bench->stream;
    bench->bus.calls = &i2c;
    bench->spi.calls = &spi;
    bench->line.calls = &line;
    bench->stream.calls = &stream;
    bench->bus.common.context = bench->spi.common.context = bench->line.common.context = saboteur;
    bench->stream.common.context = saboteur;
    if (saboteur->in_background) {
        CU_ASSERT_EQUAL_FATAL(pintle_i2c_in_background(&bench->bus, &saboteur->room), PINTLE_OK);
    }
}

typedef enum pintle_status (*operation)(struct pintle_sensor *sensor);

static enum pintle_status op_read(struct pintle_sensor *sensor)
{
    struct pintle_sample sample;
    return pintle_sample_read(sensor, &sample);
}

static enum pintle_status op_field(struct pintle_sensor *sensor)
{
    static const struct pintle_reg limit = PINTLE_REG(0x02, 2, 0);
    return pintle_reg_write_field(sensor, &limit, 4, 12, 5);
}

static enum pintle_status op_limits(struct pintle_sensor *sensor)
{
    struct pintle_limits limits;
    return pintle_limits_set(&limits, sensor, 10, 20);
}

static enum pintle_status op_set_clock(struct pintle_sensor *sensor)
{
    return pintle_time_set(sensor, 1781222400);
}

static enum pintle_status op_alarm(struct pintle_sensor *sensor)
{
    return pintle_time_alarm(sensor, PINTLE_EVERY_MINUTE, 0, 0, 30);
}

static enum pintle_status op_alarmed(struct pintle_sensor *sensor)
{
    uint8_t alarmed = 0;
    return pintle_time_alarmed(sensor, &alarmed);
}

static enum pintle_status op_write(struct pintle_sensor *sensor)
{
    static const struct pintle_reg limit = PINTLE_REG(0x02, 2, 0);
    return pintle_reg_write(sensor, &limit, 0x0190);
}

static enum pintle_status op_probe(struct pintle_sensor *sensor)
{
    return pintle_i2c_probe(sensor->bus.i2c, sensor->place);
}

static enum pintle_status op_round(struct pintle_sensor *sensor)
{
    struct turn turn = { .sensor = sensor };
    size_t failed = turns_round(&turn, 1);
    EXPECT(failed == (turn.status != PINTLE_OK), "a round counts");
    return turn.status;
}

static enum pintle_status op_start_collect(struct pintle_sensor *sensor)
{
    struct pintle_sample sample;
    enum pintle_status status = pintle_sensor_start(sensor);
    while (status == PINTLE_OK) {
        status = pintle_sample_collect(sensor, &sample);
        if (status == PINTLE_OK) {
            return status;
        }
        if (status == PINTLE_NOT_READY) {
            uint32_t wait = pintle_sensor_wait_us(sensor);
            const struct pintle_clock *clock = sensor->bus.any->clock;
            clock->calls->sleep_us(clock->context, wait ? wait : 1);
            status = PINTLE_OK;
        }
    }
    return status;
}

static enum pintle_status op_all_at_once(struct pintle_sensor *sensor)
{
    uint8_t byte = 0x44;
    struct pintle_onewire *line = sensor->bus.onewire;
    enum pintle_status status = pintle_onewire_select(line, NULL);
    status = status == PINTLE_OK ? pintle_onewire_write(line, &byte, 1) : status;
    status = status == PINTLE_OK ? pintle_onewire_read(line, &byte, 1) : status;
    return status == PINTLE_OK ? pintle_onewire_power(line, 0xff, 10) : status;
}

static enum pintle_status op_probe_limits(struct pintle_sensor *sensor)
{
    return pintle_ds18b20_limits(sensor, 5, 30, 1);
}

static enum pintle_status op_power(struct pintle_sensor *sensor)
{
    enum pintle_status status =
        pintle_sensor_set(sensor, PINTLE_DS18B20_POWER, PINTLE_DS18B20_PARASITE);
    return status == PINTLE_OK ? op_read(sensor) : status;
}

static enum pintle_status op_search(struct pintle_sensor *sensor)
{
    struct pintle_onewire_search search = { 0 };
    return pintle_onewire_next(sensor->bus.onewire, &search);
}

static enum pintle_status op_only(struct pintle_sensor *sensor)
{
    uint8_t code[8];
    return pintle_onewire_only(sensor->bus.onewire, code);
}

static enum pintle_status op_store(struct pintle_sensor *sensor)
{
    static unsigned differs;
    uint8_t bytes[40];
    memset(bytes, (int)++differs, sizeof bytes);
    return pintle_store_write(sensor, 3, bytes, sizeof bytes);
}

static enum pintle_status op_block(struct pintle_sensor *sensor)
{
    uint8_t bytes[512];
    enum pintle_status status = pintle_store_read(sensor, 3, bytes, 1);
    bytes[7]++;
    return status == PINTLE_OK ? pintle_store_write(sensor, 3, bytes, 1) : status;
}

static enum pintle_status op_lines(struct pintle_sensor *sensor)
{
    struct pintle_outputs outputs;
    uint16_t levels = 0;
    CU_ASSERT_EQUAL(pintle_outputs_init(&outputs, sensor), PINTLE_OK);
    enum pintle_status status = pintle_outputs_set(&outputs, 3, 1);
    return status == PINTLE_OK ? pintle_outputs_read(&outputs, &levels) : status;
}

static enum pintle_status op_show(struct pintle_sensor *sensor)
{
    static const uint8_t picture[PINTLE_PCD8544_PICTURE];
    return pintle_screen_show(sensor, picture);
}

static enum pintle_status op_bank_field(struct pintle_sensor *sensor)
{
    static const struct pintle_reg accel = PINTLE_REG(0x0214, 1, 0);
    return pintle_reg_write_field(sensor, &accel, 1, 2, 2);
}

/* For every operation fail its Nth transfer, for every N up to 100 and more and more seldom beyond,
 * once and for ever, in every way: the cause comes out, nothing hangs, and the sensor works
 * afterwards. */
static void sweep(const char *name, const struct pintle_part *part, uint8_t address, operation op,
                  enum pintle_status status, bool for_ever, bool in_background)
{
    for (int at = 0;; at += (int)one_in() * (1 + (at > 100 ? at / 4 : 0))) {
        struct bench bench;
        struct saboteur saboteur = {
            .status = status, .at = at, .for_ever = for_ever, .in_background = in_background
        };
        bench_make(&bench, part, address);
        pintle_sim_pass(&bench.sim, 2000);
        sabotage(&bench, &saboteur);
        enum pintle_status got = op(&bench.sensor);
        bool reached = saboteur.calls > at;
        bool inside = op == op_search && got == PINTLE_BAD_CRC; /* a code that breaks off */
        bool asked_again = part->unlock && status == PINTLE_NO_ANSWER && !for_ever;
        bool as_it_should = saboteur.to_nobody == saboteur.failed; /* only an answer counts */
        EXPECT(!reached || got == status || inside || asked_again || as_it_should,
               "%s: call %d failing %s gives %s", name, at, pintle_status_word(status),
               pintle_status_word(got));
        saboteur.at = 1000000;
        saboteur.for_ever = false;
        EXPECT(op_read(&bench.sensor) == PINTLE_OK, "%s: works after call %d failed", name, at);
        if (!reached) {
            EXPECT(got == PINTLE_OK && at > 0, "%s: %d calls", name, at);
            return;
        }
    }
}

static void every_call_failing(void)
{
    static const struct {
        const char *name;
        const struct pintle_part *part;
        uint8_t address;
        operation op;
    } rows[] = {
        { "write a field", &pintle_tmp102, 0x48, op_field },
        { "TMP102 limits", &pintle_tmp102, 0x48, op_limits },
        { "set DS3231", &pintle_ds3231, 0x68, op_set_clock },
        { "arm DS3231", &pintle_ds3231, 0x68, op_alarm },
        { "ask DS3231", &pintle_ds3231, 0x68, op_alarmed },
        { "write a register", &pintle_tmp102, 0x48, op_write },
        { "probe", &pintle_tmp102, 0x48, op_probe },
        { "all on the line", &pintle_ds18b20, 1, op_all_at_once },
        { "read DS18B20 powered by the line", &pintle_ds18b20, 1, op_power },
        { "DS18B20 limits", &pintle_ds18b20, 1, op_probe_limits },
        { "search", &pintle_ds18b20, 1, op_search },
        { "read code", &pintle_ds18b20, 1, op_only },
        { "a field behind a bank", &pintle_icm20948, 0, op_bank_field },
        { "write DS1307's memory", &pintle_ds1307, 0x68, op_store },
        { "a block of a card", &pintle_sdcard, 0, op_block },
        { "lines", &pintle_pcf8574, 0x20, op_lines },
        { "show", &pintle_pcd8544, 0, op_show },
    };
    static const enum pintle_status ways[] = { PINTLE_NO_ANSWER, PINTLE_DATA_REFUSED,
                                               PINTLE_CLOCK_STUCK, PINTLE_DATA_STUCK,
                                               PINTLE_TIME_LIMIT };
    static const struct {
        const char *name;
        operation op;
    } all[] = { { "read", op_read },
                { "prove", pintle_sensor_prove },
                { "a round", op_round },
                { "start and collect", op_start_collect } };
    for (size_t p = 0; p < COUNT(all) * measuring_count(); p++) {
        const struct pintle_part *part = measuring_at(p / COUNT(all))->part;
        char *name = g_strdup_printf("%s %s", all[p % COUNT(all)].name, part->name);
        for (size_t w = 0; w < COUNT(ways); w++) {
            sweep(name, part, bench_place(part), all[p % COUNT(all)].op, ways[w], false, false);
            sweep(name, part, bench_place(part), all[p % COUNT(all)].op, ways[w], true, false);
            if (part->link->kind == PINTLE_BUS_I2C) {
                sweep(name, part, bench_place(part), all[p % COUNT(all)].op, ways[w], false, true);
                sweep(name, part, bench_place(part), all[p % COUNT(all)].op, ways[w], true, true);
            }
        }
        g_free(name);
    }
    for (size_t i = 0; i < COUNT(rows); i++) {
        for (size_t w = 0; w < COUNT(ways); w++) {
            sweep(rows[i].name, rows[i].part, rows[i].address, rows[i].op, ways[w], false, false);
            sweep(rows[i].name, rows[i].part, rows[i].address, rows[i].op, ways[w], true, false);
        }
    }
}

void add_sweep_suite(void)
{
    SUITE("sweep", { "every call failing", every_call_failing });
}
