/* Wrong uses of the interface, and what each gets: the compiler's refusal, a warning, or a status
 * that says which mistake it is. */
#include "support.h"

#include "pintle/burst.h"
#include "pintle/limits.h"
#include "pintle/lines.h"
#include "pintle/store.h"
#include "pintle/timekeeper.h"

/* --- what the compiler says --- */

static const struct {
    const char *what;
    const char *line; /* in a function with `sensor`, `sample`, `bus` and `clock` */
    const char *said; /* a part of it; null: nothing, it is right */
} compiled[] = {
    { "right", "if (pintle_tmp102_set_rate(&sensor, PINTLE_TMP102_1_HZ)) return;", NULL },
    { "an option of another part", "if (pintle_tmp102_set_rate(&sensor, PINTLE_BME280_X4)) return;",
      "enum-conversion" },
    { "an option of another setting",
      "if (pintle_tmp102_set_rate(&sensor, PINTLE_TMP102_13_BIT)) return;", "enum-conversion" },
    { "a setting that the part does not have", "if (pintle_tmp102_set_filter(&sensor, 1)) return;",
      "implicit-function-declaration" },
    { "a status that nobody looks at", "pintle_sensor_read(&sensor, &sample);", "unused-result" },
    { "a setter's status that nobody looks at",
      "pintle_tmp102_set_rate(&sensor, PINTLE_TMP102_1_HZ);", "unused-result" },
    { "a bus of another kind",
      "if (pintle_sensor_on_spi(&sensor, &pintle_mcp3008, &bus, &clock, 0, 0)) return;",
      "incompatible-pointer-types" },
    { "a part where a sensor belongs", "if (pintle_sensor_start(&pintle_tmp102)) return;",
      "incompatible-pointer-types" },
    { "no sample", "if (pintle_sensor_collect(&sensor)) return;", "too few arguments" },
};

static void the_compiler_says_so(void)
{
    char *folder = scratch_make();
    for (size_t i = 0; i < COUNT(compiled); i++) {
        char *source = g_strdup_printf("#include \"pintle/parts/bme280.h\"\n"
                                       "#include \"pintle/parts/tmp102.h\"\n"
                                       "#include \"pintle/pintle.h\"\n"
                                       "void use(void);\nvoid use(void)\n{\n"
                                       "    static struct pintle_sensor sensor;\n"
                                       "    static struct pintle_sample sample;\n"
                                       "    static struct pintle_i2c bus;\n"
                                       "    static struct pintle_clock clock;\n"
                                       "    (void)sensor, (void)sample, (void)bus, (void)clock;\n"
                                       "    %s\n}\n",
                                       compiled[i].line);
        file_write(folder, "use.c", source);
        char *command = g_strdup_printf(
            "env LC_ALL=C gcc -std=c11 -Wall -Wextra -Werror -c -o /dev/null -I%s/include "
            "%s/use.c",
            SOURCE, folder);
        char *said = NULL;
        int status = 0;
        CU_ASSERT_TRUE_FATAL(g_spawn_command_line_sync(command, NULL, &said, &status, NULL));
        EXPECT((status == 0) == (compiled[i].said == NULL)
                   && (!compiled[i].said || strstr(said, compiled[i].said)),
               "%s: the compiler says %s", compiled[i].what, *said ? said : "nothing");
        g_free(said);
        g_free(command);
        g_free(source);
    }
    scratch_remove(folder);
}

/* --- what a status says --- */

static enum pintle_status no_clock(struct bench *b)
{
    return pintle_sensor_on_i2c(&b->sensor, &pintle_tmp102, &b->bus, NULL, 0x48, NULL);
}

static enum pintle_status no_trim(struct bench *b)
{
    return pintle_sensor_on_i2c(&b->sensor, &pintle_bme280, &b->bus, &b->clock, 0x76, NULL);
}

static enum pintle_status other_bus(struct bench *b)
{
    return pintle_sensor_on_i2c(&b->sensor, &pintle_mcp3008, &b->bus, &b->clock, 0x48, NULL);
}

static enum pintle_status other_address(struct bench *b)
{
    return pintle_sensor_on_i2c(&b->sensor, &pintle_tmp102, &b->bus, &b->clock, 0x76, NULL);
}

static enum pintle_status other_family(struct bench *b)
{
    const uint8_t code[8] = { 0x01, 0, 0, 0, 0, 0, 0, 0x3d };
    return pintle_sensor_on_onewire(&b->sensor, &pintle_ds18b20, &b->line, &b->clock, code, NULL);
}

static enum pintle_status other_setting(struct bench *b)
{
    return pintle_bme280_set_filter(&b->sensor, PINTLE_BME280_FILTER_16);
}

static enum pintle_status no_setting(struct bench *b)
{
    return pintle_sensor_set(&b->sensor, 4, 0);
}

static enum pintle_status no_option(struct bench *b)
{
    return pintle_sensor_set(&b->sensor, PINTLE_TMP102_RATE, 4);
}

static enum pintle_status no_channel(struct bench *b)
{
    return pintle_sensor_ask(&b->sensor, 2);
}

static enum pintle_status no_ladder(struct bench *b)
{
    return pintle_sensor_auto(&b->sensor, 1);
}

static enum pintle_status not_started(struct bench *b)
{
    struct pintle_sample sample;
    return pintle_sensor_collect(&b->sensor, &sample);
}

static enum pintle_status twice_collected(struct bench *b)
{
    struct pintle_sample sample;
    enum pintle_status status = pintle_sensor_read(&b->sensor, &sample);
    return status == PINTLE_OK ? pintle_sensor_collect(&b->sensor, &sample) : status;
}

static enum pintle_status no_memory_in_it(struct bench *b)
{
    uint8_t bytes[4];
    return pintle_store_read(&b->sensor, 0, bytes, sizeof bytes);
}

static enum pintle_status no_clock_in_it(struct bench *b)
{
    return pintle_time_set(&b->sensor, 1781222400);
}

static enum pintle_status no_lines_in_it(struct bench *b)
{
    struct pintle_outputs outputs;
    return pintle_outputs_init(&outputs, &b->sensor);
}

static enum pintle_status reserved_address(struct bench *b)
{
    return pintle_i2c_probe(&b->bus, 0x03);
}

static enum pintle_status both_directions(struct bench *b)
{
    uint8_t byte = 0;
    const struct pintle_segment both = { &byte, &byte, 1 };
    return pintle_i2c_transfer(&b->bus, 0x48, &both, 1);
}

static void a_status_says_which(void)
{
    static const struct {
        const char *what;
        enum pintle_status (*use)(struct bench *bench);
        enum pintle_status status;
    } rows[] = {
        { "no clock", no_clock, PINTLE_NO_CLOCK },
        { "no room for the trim", no_trim, PINTLE_NO_ROOM },
        { "a part of another bus", other_bus, PINTLE_WRONG_BUS },
        { "an address that it cannot have", other_address, PINTLE_WRONG_PLACE },
        { "a code of another family", other_family, PINTLE_WRONG_PLACE },
        { "a setter of another part", other_setting, PINTLE_WRONG_PART },
        { "a setting beyond the last", no_setting, PINTLE_BAD_ARGUMENT },
        { "an option beyond the last", no_option, PINTLE_BAD_ARGUMENT },
        { "a channel beyond the last", no_channel, PINTLE_BAD_ARGUMENT },
        { "a range by itself of a part with none", no_ladder, PINTLE_UNSUPPORTED },
        { "collected and never started", not_started, PINTLE_NOT_STARTED },
        { "collected twice", twice_collected, PINTLE_NOT_STARTED },
        { "the memory of a thermometer", no_memory_in_it, PINTLE_UNSUPPORTED },
        { "the time of a thermometer", no_clock_in_it, PINTLE_UNSUPPORTED },
        { "the lines of a thermometer", no_lines_in_it, PINTLE_UNSUPPORTED },
        { "an address that no chip has", reserved_address, PINTLE_BAD_ARGUMENT },
        { "a segment that sends and receives", both_directions, PINTLE_BAD_ARGUMENT },
    };
    for (size_t i = 0; i < COUNT(rows); i++) {
        struct bench bench;
        bench_make(&bench, &pintle_tmp102, 0x48);
        uint64_t bytes = bench.sim.bus[0].bytes;
        enum pintle_status status = rows[i].use(&bench);
        EXPECT(status == rows[i].status, "%s: %s", rows[i].what, pintle_status_word(status));
        EXPECT(bench.sim.bus[0].bytes == bytes || rows[i].use == twice_collected, "%s: sent",
               rows[i].what);
    }
}

void add_misuse_suite(void)
{
    SUITE("misuse", { "the compiler says so", the_compiler_says_so },
          { "a status says which", a_status_says_which });
}
