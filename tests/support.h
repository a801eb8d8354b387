/* What the tests share: checks that name their row, the built tool, scratch folders, a bench with
 * one sensor. */
#ifndef TESTS_SUPPORT_H
#define TESTS_SUPPORT_H

#include <CUnit/CUnit.h>
#include <glib.h>
#include <math.h>
#include <stdbool.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "pintle/sample.h"
#include "pintle/parts/at24c32.h"
#include "pintle/parts/ds1307.h"
#include "pintle/parts/pcd8544.h"
#include "pintle/parts/pcf8574.h"
#include "pintle/parts/sdcard.h"
#include "pintle/parts/ads1115.h"
#include "pintle/parts/adxl345.h"
#include "pintle/parts/bme280.h"
#include "pintle/parts/bmi160.h"
#include "pintle/parts/bmp180.h"
#include "pintle/parts/ds18b20.h"
#include "pintle/parts/ds3231.h"
#include "pintle/parts/hs3001.h"
#include "pintle/parts/icm20948.h"
#include "pintle/parts/ina219.h"
#include "pintle/parts/lis331.h"
#include "pintle/parts/mcp3008.h"
#include "pintle/parts/mcp9808.h"
#include "pintle/parts/mpu6050.h"
#include "pintle/parts/sht31.h"
#include "pintle/parts/sht40.h"
#include "pintle/parts/shtc3.h"
#include "pintle/parts/tmp102.h"
#include "pintle/parts/tof10120.h"
#include "pintle/parts/veml7700.h"
#include "pintle/pintle.h"
#include "pintle/sheet.h"
#include "pintle/sim.h"

#define COUNT(array) (sizeof(array) / sizeof(array)[0])

/* Fails under a printf-style name of the row. */
void expect(int holds, const char *file, unsigned line, const char *format, ...)
    __attribute__((format(printf, 4, 5)));
#define EXPECT(holds, ...) expect((holds) ? 1 : 0, __FILE__, __LINE__, __VA_ARGS__)

/* `value` within `tolerance` of `wanted`. */
#define EXPECT_NEAR(value, wanted, tolerance, name)                                                \
    EXPECT(fabs((double)(value) - (double)(wanted)) <= (double)(tolerance), "%s: %.9g, not %.9g",  \
           (name), (double)(value), (double)(wanted))

/* Run the built tool in `folder` (null: a scratch one) through a shell. */
struct said {
    int status;
    char *out;
    char *err;
};
/* Long tests take one case of so many as PINTLE_SHARE says, as checks under
 * sanitizers do. 1 without. */
unsigned one_in(void);

struct said tool(const char *folder, const char *arguments);
void said_free(struct said *said);

/* Run shell commands, in which $TOOL is the built tool, where /mnt is a file system of this size;
 * false, and said aloud, where this user may not mount one. */
bool in_little_room(const char *folder, const char *size, const char *commands, struct said *said);

/* Is `text` among what was said? An empty one says that nothing was. */
bool says(const char *said, const char *text);

/* Run it, and expect this status and this text on stdout or stderr; an empty text: no complaint. */
void expect_said(const char *folder, const char *arguments, int status, const char *text);

/* A folder of its own below the system's temporary one, removed with everything in it by
 * scratch_remove. */
char *scratch_make(void);

/* Likewise, in memory where there is room: for what puts record after record on the disk, which is
 * tested elsewhere. */
char *scratch_quick(void);
void scratch_remove(char *folder);

char *file_text(const char *folder, const char *name);
void file_write(const char *folder, const char *name, const char *text);

/* A simulated bench with one sensor on one bus, of the kind that its part wants. */
struct bench {
    struct pintle_sim sim;
    struct pintle_sim_chip *chip;
    struct pintle_i2c bus;
    struct pintle_spi spi;
    struct pintle_onewire line;
    struct pintle_stream stream;
    struct pintle_clock clock;
    union {
        struct pintle_sensor sensor;
        struct pintle_any any; /* begins with it */
    };
    int64_t set_s; /* a clock: what it was set to, and when */
    uint64_t set_us;
};

/* Prepare a sensor of any part. */
enum pintle_status any_on_i2c(struct pintle_any *any, const struct pintle_part *part,
                              struct pintle_i2c *bus, uint8_t address);
enum pintle_status any_on_spi(struct pintle_any *any, const struct pintle_part *part,
                              struct pintle_spi *bus, uint8_t select);
enum pintle_status any_on_onewire(struct pintle_any *any, const struct pintle_part *part,
                                  struct pintle_onewire *line, const uint8_t code[8]);
enum pintle_status any_on_stream(struct pintle_any *any, const struct pintle_part *part,
                                 struct pintle_stream *stream);

/* A sensor in a round, and what it measured. */
struct turn {
    struct pintle_sensor *sensor;
    struct pintle_sample sample;
    enum pintle_status status;
};
size_t turns_round(struct turn *turns, size_t count);

/* pintle_burst_collect into samples, with their times. */
enum pintle_status burst_collect(struct pintle_burst *burst, struct pintle_sample *samples,
                                 uint16_t room, uint16_t *count);

/* Where the tests put a part. */
uint8_t bench_place(const struct pintle_part *part);

/* Do its readings carry a checksum (SHT31: table 20, DS18B20: figure 9)? */
bool bench_has_crc(const struct pintle_part *part);

/* The parts of the catalogue that measure something. */
size_t measuring_count(void);
const struct pintle_sheet *measuring_at(size_t index);

/* For tables of parts: which of the catalogue they name. All that measure must be there, or a new
 * part would be tested by nothing. */
void part_seen(uint64_t *seen, const struct pintle_part *part);
void expect_all_parts(uint64_t seen, const char *table);

/* The ends of the scale that the channel has with the sensor's settings. */
void bench_scale(const struct bench *bench, uint8_t channel, double *lowest, double *highest);

/* How many channels are called good and further from the truth than the data sheet promises. */
/* What a part reads once more, as if it had come the same. */
void repeat_end(const struct pintle_sheet *sheet, uint8_t *raw);

/* What a channel should say: the world's value, of a clock the time that it was set to and what has
 * gone by since; NaN: nobody knows. */
double bench_truth(const struct bench *bench, uint8_t channel);
unsigned bench_lies(const struct bench *bench, const struct pintle_sample *sample);

void bench_make(struct bench *bench, const struct pintle_part *part, uint8_t address);
void bench_make_seeded(struct bench *bench, const struct pintle_part *part, uint8_t address,
                       uint64_t seed);

/* Put the sensor on the bench's bus (again), as new; or another one. */
enum pintle_status bench_seat(struct bench *bench, const struct pintle_part *part);
enum pintle_status bench_seat_other(struct bench *bench, const struct pintle_part *part,
                                    struct pintle_any *other);

unsigned below(unsigned limit); /* by rand() */

/* The world becomes another, and the chip has had the time to notice: a clock chip looks every 64
 * s.
 */
void bench_move_on(struct bench *bench, const struct pintle_sheet *sheet);

/* One reading, with a suspect first one thrown away. */
enum pintle_status bench_read(struct bench *bench, struct pintle_sample *sample);

/* The lines of the first bus of a bench under a bit-banged master. */
struct wired {
    struct pintle_sim_i2c_wires wires;
    struct pintle_bitbang_i2c master;
    struct pintle_sim_spi_wires spi_wires;
    struct pintle_pin selects[PINTLE_SIM_SELECTS];
    struct pintle_bitbang_spi spi_master;
    struct pintle_sim_onewire_wires onewire_wires;
    struct pintle_bitbang_onewire onewire_master;
};
struct pintle_i2c wire_up(struct wired *wired, struct pintle_sim *sim, uint32_t speed_hz);

/* The same for whatever kind of bus the bench has; its ports go over the wires from then on. */
void bench_wire(struct bench *bench, struct wired *wired);

/* The suites. */
void add_text_suite(void);
void add_ticks_suite(void);
void add_numbers_suite(void);
void add_parts_suite(void);
void add_sheets_suite(void);
void add_chips_suite(void);
void add_truth_suite(void);
void add_marks_suite(void);
void add_twins_suite(void);
void add_wires_suite(void);
void add_spi_suite(void);
void add_onewire_suite(void);
void add_campaign_suite(void);
void add_faults_suite(void);
void add_described_suite(void);
void add_engine_suite(void);
void add_users_suite(void);
void add_door_suite(void);
void add_background_suite(void);
void add_sweep_suite(void);
void add_vectors_suite(void);
void add_abilities_suite(void);
void add_burst_suite(void);
void add_limits_suite(void);
void add_week_suite(void);
void add_derive_suite(void);
void add_shop_suite(void);
void add_hardest_suite(void);
void add_whole_suite(void);
void add_stream_suite(void);
void add_correct_suite(void);
void add_recover_suite(void);
void add_guided_suite(void);
void add_judge_suite(void);
void add_corrections_suite(void);
void add_live_suite(void);
void add_past_suite(void);
void add_base_suite(void);
void add_page_suite(void);
void add_rig_suite(void);
void add_tool_suite(void);
void add_log_suite(void);
void add_trace_suite(void);
void add_wiring_suite(void);
void add_examples_suite(void);
void add_linux_suite(void);
void add_adapter_suite(void);
void add_misuse_suite(void);

/* A suite has this long, under valgrind too; what hangs is said and ends the run. */
#define SUITE_SECONDS 1800
int suite_begins(void);
int suite_ends(void);

#define SUITE(title, ...)                                                                          \
    do {                                                                                           \
        static const CU_TestInfo tests[] = { __VA_ARGS__, CU_TEST_INFO_NULL };                     \
        const CU_SuiteInfo suites[] = { { (title), suite_begins, suite_ends, NULL, NULL,           \
                                          (CU_TestInfo *)(uintptr_t)tests },                       \
                                        CU_SUITE_INFO_NULL };                                      \
        CU_register_suites((CU_SuiteInfo *)(uintptr_t)suites);                                     \
    } while (0)

#endif
