/* Wrong uses of the interface, and what each gets: the compiler's refusal, a warning, or a status
 * that says which mistake it is. */
#include "support.h"

#include "pintle/burst.h"
#include "pintle/limits.h"
#include "pintle/outputs.h"
#include "pintle/store.h"
#include "pintle/time.h"

/* --- what the compiler says --- */

static const struct {
    const char *what;
    const char *line; /* in a function with `water`, `air`, `inputs`, `bus` */
    const char *said; /* a part of it; null: nothing, it is right */
} compiled[] = {
    { "right", "if (pintle_tmp102_set_rate(&water, PINTLE_TMP102_1_HZ)) return;", NULL },
    { "an option of another part", "if (pintle_tmp102_set_rate(&water, PINTLE_BME280_X4)) return;",
      "enum-conversion" },
    { "an option of another setting",
      "if (pintle_tmp102_set_rate(&water, PINTLE_TMP102_13_BIT)) return;", "enum-conversion" },
    { "a setting that the part does not have", "if (pintle_tmp102_set_filter(&water, 1)) return;",
      "implicit-function-declaration" },
    { "a status that nobody looks at", "pintle_sensor_read(&water.sensor);", "unused-result" },
    { "a setter's status that nobody looks at",
      "pintle_tmp102_set_rate(&water, PINTLE_TMP102_1_HZ);", "unused-result" },
    { "a bus of another kind", "if (pintle_mcp3008_on_spi(&inputs, &bus, 0)) return;",
      "incompatible-pointer-types" },
    { "the address of another kind of bus", "if (pintle_tmp102_on_spi(&water, &bus, 0)) return;",
      "implicit-function-declaration" },
    { "the sensor of another part", "if (pintle_tmp102_on_i2c(&air, &bus, 0x48)) return;",
      "incompatible-pointer-types" },
    { "a setting of another part's sensor",
      "if (pintle_tmp102_set_rate(&air, PINTLE_TMP102_1_HZ)) return;",
      "incompatible-pointer-types" },
    { "a part where a sensor belongs", "if (pintle_sensor_start(&pintle_tmp102)) return;",
      "incompatible-pointer-types" },
    { "a reading that the part does not have",
      "told = water.reading[PINTLE_BME280_HUMIDITY].quality;", "array-bounds" },
    { "a bus where a sensor belongs", "if (pintle_sensor_read(&bus)) return;",
      "incompatible-pointer-types" },
};

static void the_compiler_says_so(void)
{
    char *folder = scratch_make();
    for (size_t i = 0; i < COUNT(compiled); i++) {
        char *source = g_strdup_printf("#include \"pintle/parts/bme280.h\"\n"
                                       "#include \"pintle/parts/mcp3008.h\"\n"
                                       "#include \"pintle/parts/tmp102.h\"\n"
                                       "#include \"pintle/pintle.h\"\n"
                                       "extern struct pintle_tmp102 water;\n"
                                       "extern struct pintle_bme280 air;\n"
                                       "extern struct pintle_mcp3008 inputs;\n"
                                       "extern struct pintle_i2c bus;\n"
                                       "extern int told;\n"
                                       "void use(void);\nvoid use(void)\n{\n"
                                       "    %s\n}\n",
                                       compiled[i].line);
        file_write(folder, "use.c", source);
        char *command = g_strdup_printf(
            "env LC_ALL=C gcc -std=c11 -O2 -Wall -Wextra -Werror -c -o /dev/null -I%s/include "
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
    b->bus.common.clock = NULL;
    return any_on_i2c(&b->any, &pintle_tmp102, &b->bus, 0x48);
}

static struct pintle_tmp102 small;

/* A thermometer's object for a part that needs more. */
static enum pintle_status no_trim(struct bench *b)
{
    const struct pintle_room room = pintle_tmp102_room(&small);
    return pintle_sensor_on_i2c(&small.sensor, &pintle_mcp9808, &room, &b->bus, 0x18) == PINTLE_OK
               ? pintle_sensor_on_i2c(&small.sensor, &pintle_bme280, &room, &b->bus, 0x76)
               : PINTLE_BAD_ARGUMENT;
}

static enum pintle_status other_bus(struct bench *b)
{
    return any_on_i2c(&b->any, &pintle_mcp3008, &b->bus, 0x48);
}

static enum pintle_status other_address(struct bench *b)
{
    return any_on_i2c(&b->any, &pintle_tmp102, &b->bus, 0x76);
}

static enum pintle_status other_family(struct bench *b)
{
    const uint8_t code[8] = { 0x01, 0, 0, 0, 0, 0, 0, 0x3d };
    return any_on_onewire(&b->any, &pintle_ds18b20, &b->line, code);
}

static enum pintle_status other_numbers(struct bench *b)
{
    const float ohms = 0.1f;
    return pintle_sensor_numbers(&b->sensor, &ohms, 1);
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
    return pintle_sample_collect(&b->sensor, &sample);
}

static enum pintle_status twice_collected(struct bench *b)
{
    struct pintle_sample sample;
    enum pintle_status status = pintle_sample_read(&b->sensor, &sample);
    return status == PINTLE_OK ? pintle_sample_collect(&b->sensor, &sample) : status;
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
        { "the object of a smaller part", no_trim, PINTLE_NO_ROOM },
        { "a part of another bus", other_bus, PINTLE_WRONG_BUS },
        { "an address that it cannot have", other_address, PINTLE_WRONG_PLACE },
        { "a code of another family", other_family, PINTLE_WRONG_PLACE },
        { "numbers that the part does not have", other_numbers, PINTLE_BAD_ARGUMENT },
        { "a setting beyond the last", no_setting, PINTLE_BAD_ARGUMENT },
        { "an option beyond the last", no_option, PINTLE_BAD_ARGUMENT },
        { "a channel beyond the last", no_channel, PINTLE_BAD_ARGUMENT },
        { "a range by itself of a part with none", no_ladder, PINTLE_NO_ABILITY },
        { "collected and never started", not_started, PINTLE_NOT_STARTED },
        { "collected twice", twice_collected, PINTLE_NOT_STARTED },
        { "the memory of a thermometer", no_memory_in_it, PINTLE_NO_ABILITY },
        { "the time of a thermometer", no_clock_in_it, PINTLE_NO_ABILITY },
        { "the lines of a thermometer", no_lines_in_it, PINTLE_NO_ABILITY },
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

/* --- what an assert says --- */

/* A program of its own, for the assert is the library's, too. */
static const char asserting[] =
    "#include <stdlib.h>\n"
    "#include \"pintle/parts/tmp102.h\"\n"
    "int main(int argc, char **argv)\n"
    "{\n"
    "    static struct pintle_tmp102 never;\n"
    "    struct pintle_sensor *it = &never.sensor;\n"
    "    const float none = 0;\n"
    "    switch (argc > 1 ? argv[1][0] : 0) {\n"
    "    case '0': return pintle_sensor_start(it);\n"
    "    case '1': return pintle_sensor_collect(it);\n"
    "    case '2': return pintle_sensor_read(it);\n"
    "    case '3': return pintle_sensor_prove(it);\n"
    "    case '4': return pintle_sensor_set(it, 0, 0);\n"
    "    case '5': return pintle_sensor_numbers(it, &none, 0);\n"
    "    case '6': return pintle_sensor_ask(it, 0);\n"
    "    case '7': return pintle_sensor_auto(it, 1);\n"
    "    default: return pintle_sensor_on_i2c(it, NULL, NULL, NULL, 0);\n"
    "    }\n"
    "}\n";

static void an_assert_says_so(void)
{
    char *folder = scratch_make();
    file_write(folder, "use.c", asserting);
    char *build = g_strdup_printf(
        "sh -c \"cd %s && gcc -std=c11 -Iinclude -Isrc -o %s/use '-DPINTLE_ASSERT(c)=((c) ? "
        "(void)0 "
        ": _Exit(77))' -include stdlib.h %s/use.c src/core/*/*.c src/parts/tmp102.c -lm\"",
        SOURCE, folder, folder);
    char *said = NULL;
    int status = 0;
    CU_ASSERT_TRUE_FATAL(g_spawn_command_line_sync(build, NULL, &said, &status, NULL));
    EXPECT(status == 0, "%s", said);
    for (int call = 0; call <= 8; call++) {
        char *run = g_strdup_printf("%s/use %d", folder, call);
        CU_ASSERT_TRUE_FATAL(g_spawn_command_line_sync(run, NULL, NULL, &status, NULL));
        EXPECT(g_spawn_check_wait_status(status, NULL) == FALSE && status == 77 << 8,
               "call %d of a sensor that was never made: status %d", call, status);
        g_free(run);
    }
    g_free(said);
    g_free(build);
    scratch_remove(folder);
}

void add_misuse_suite(void)
{
    SUITE("misuse", { "the compiler says so", the_compiler_says_so },
          { "a status says which", a_status_says_which },
          { "an assert says so", an_assert_says_so });
}
