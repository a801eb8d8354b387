#include "support.h"

#include "pintle/ability.h"

#include <signal.h>
#include <stdarg.h>
#include <sys/statvfs.h>
#include <sys/wait.h>
#include <unistd.h>

void expect(int holds, const char *file, unsigned line, const char *format, ...)
{
    va_list args;
    va_start(args, format);
    char *name = g_strdup_vprintf(format, args);
    va_end(args);
    CU_assertImplementation(holds != 0, line, name, file, "", CU_FALSE);
    g_free(name);
}

static void out_of_time(int number)
{
    static const char words[] = "\nthis suite took longer than its time limit: it hangs\n";
    (void)number;
    (void)!write(STDERR_FILENO, words, sizeof words - 1);
    _exit(4);
}

int suite_begins(void)
{
    signal(SIGALRM, out_of_time);
    alarm(SUITE_SECONDS);
    return 0;
}

int suite_ends(void)
{
    alarm(0);
    return 0;
}

static struct said shell(const char *folder, char *line)
{
    struct said said = { .status = -1 };
    char *argv[] = { (char *)(uintptr_t) "sh", (char *)(uintptr_t) "-c", line, NULL };
    char *scratch = folder ? NULL : scratch_make();
    int wait_status = 0;
    if (g_spawn_sync(folder ? folder : scratch, argv, NULL, G_SPAWN_SEARCH_PATH, NULL, NULL,
                     &said.out, &said.err, &wait_status, NULL)) {
        said.status = WIFEXITED(wait_status) ? WEXITSTATUS(wait_status) : -1;
    }
    if (scratch) {
        scratch_remove(scratch);
    }
    g_free(line);
    return said;
}

struct said tool(const char *folder, const char *arguments)
{
    return shell(folder, g_strdup_printf("%s %s", TOOL, arguments));
}

bool in_little_room(const char *folder, const char *size, const char *commands, struct said *said)
{
    *said = shell(folder,
                  g_strdup_printf("unshare -rm true 2>/dev/null || exit 77; unshare -rm sh -c '"
                                  "mount -t tmpfs -o size=%s none /mnt || exit 77; TOOL=%s; %s'",
                                  size, TOOL, commands));
    if (said->status == 77) {
        printf("\n  (no file system may be mounted here: a full one was not tried: %s)\n",
               said->err);
    }
    return said->status != 77;
}

void said_free(struct said *said)
{
    g_free(said->out);
    g_free(said->err);
}

bool says(const char *said, const char *text)
{
    return *text ? strstr(said, text) != NULL : *said == '\0';
}

void expect_said(const char *folder, const char *arguments, int status, const char *text)
{
    struct said said = tool(folder, arguments);
    EXPECT(said.status == status, "pintle %s: status %d", arguments, said.status);
    EXPECT((*text && says(said.out, text)) || says(said.err, text), "pintle %s: %.300s%.300s",
           arguments, said.out, said.err);
    said_free(&said);
}

char *scratch_make(void)
{
    char *folder = g_dir_make_tmp("pintle-XXXXXX", NULL);
    if (!folder) {
        fputs("the tests need a temporary folder that can be written\n", stderr);
        exit(3);
    }
    return folder;
}

char *scratch_quick(void)
{
    struct statvfs room;
    bool quick =
        statvfs("/dev/shm", &room) == 0 && (double)room.f_bavail * (double)room.f_frsize > 120e6;
    char *folder = quick ? g_mkdtemp(g_strdup("/dev/shm/pintle-XXXXXX")) : NULL;
    return folder ? folder : scratch_make();
}

void scratch_remove(char *folder)
{
    char *line = g_strdup_printf("rm -rf '%s'", folder);
    g_spawn_command_line_sync(line, NULL, NULL, NULL, NULL);
    g_free(line);
    g_free(folder);
}

char *file_text(const char *folder, const char *name)
{
    char *path = g_build_filename(folder, name, NULL);
    char *text = NULL;
    if (!g_file_get_contents(path, &text, NULL, NULL)) {
        text = g_strdup("");
    }
    g_free(path);
    return text;
}

void file_write(const char *folder, const char *name, const char *text)
{
    char *path = g_build_filename(folder, name, NULL);
    EXPECT(g_file_set_contents(path, text, -1, NULL), "cannot write %s", path);
    g_free(path);
}

enum pintle_status any_on_i2c(struct pintle_any *any, const struct pintle_part *part,
                              struct pintle_i2c *bus, uint8_t address)
{
    const struct pintle_room room = pintle_any_room(any);
    return pintle_sensor_on_i2c(&any->sensor, part, &room, bus, address);
}

enum pintle_status any_on_spi(struct pintle_any *any, const struct pintle_part *part,
                              struct pintle_spi *bus, uint8_t select)
{
    const struct pintle_room room = pintle_any_room(any);
    return pintle_sensor_on_spi(&any->sensor, part, &room, bus, select);
}

enum pintle_status any_on_onewire(struct pintle_any *any, const struct pintle_part *part,
                                  struct pintle_onewire *line, const uint8_t code[8])
{
    const struct pintle_room room = pintle_any_room(any);
    return pintle_sensor_on_onewire(&any->sensor, part, &room, line, code);
}

enum pintle_status any_on_stream(struct pintle_any *any, const struct pintle_part *part,
                                 struct pintle_stream *stream)
{
    const struct pintle_room room = pintle_any_room(any);
    return pintle_sensor_on_stream(&any->sensor, part, &room, stream);
}

size_t turns_round(struct turn *turns, size_t count)
{
    struct pintle_sensor *sensors[32] = { NULL };
    for (size_t i = 0; i < count; i++) {
        sensors[i] = turns[i].sensor;
    }
    size_t failed = pintle_round(sensors, count);
    for (size_t i = 0; i < count; i++) {
        turns[i].status = pintle_sensor_status(sensors[i]);
        pintle_sample_take(sensors[i], &turns[i].sample);
    }
    return failed;
}

enum pintle_status burst_collect(struct pintle_burst *burst, struct pintle_sample *samples,
                                 uint16_t room, uint16_t *count)
{
    static struct pintle_reading readings[4096 * PINTLE_MOST_CHANNELS];
    const uint8_t channels = burst->sensor->part->channel_count;
    CU_ASSERT_FATAL(room <= 4096);
    enum pintle_status status = pintle_burst_collect(burst, readings, room, count);
    for (uint16_t i = 0; i < *count; i++) {
        samples[i].time_us = pintle_burst_time_us(burst, i);
        memcpy(samples[i].channel, readings + i * channels, channels * sizeof *readings);
    }
    return status;
}

uint8_t bench_place(const struct pintle_part *part)
{
    return part->addresses ? part->addresses[0] : 3;
}

bool bench_has_crc(const struct pintle_part *part)
{
    return part->crc || part->link->kind == PINTLE_BUS_ONEWIRE;
}

void part_seen(uint64_t *seen, const struct pintle_part *part)
{
    for (size_t p = 0; p < pintle_sheet_count(); p++) {
        *seen |= (uint64_t)(pintle_sheet_at(p)->part == part) << p;
    }
}

const struct pintle_sheet *measuring_at(size_t index)
{
    const struct pintle_sheet *sheet = NULL;
    for (size_t p = 0; (sheet = pintle_sheet_at(p)) != NULL; p++) {
        if (sheet->part->channel_count > 0 && index-- == 0) {
            break;
        }
    }
    return sheet;
}

size_t measuring_count(void)
{
    size_t count = 0;
    while (measuring_at(count)) {
        count++;
    }
    return count;
}

void expect_all_parts(uint64_t seen, const char *table)
{
    for (size_t p = 0; p < pintle_sheet_count(); p++) {
        EXPECT((seen >> p & 1) || pintle_sheet_at(p)->part->channel_count == 0,
               "the table of '%s' wants a row of %s", table, pintle_sheet_at(p)->part->name);
    }
}

void bench_scale(const struct bench *bench, uint8_t channel, double *lowest, double *highest)
{
    const struct pintle_channel *row = &bench->sensor.part->channels[channel];
    const struct pintle_linear *linear = row->linear;
    *lowest = (double)row->lowest;
    *highest = (double)row->highest;
    if (linear) {
        const struct pintle_block block = pintle_sensor_block(&bench->sensor);
        linear = pintle_part_row(bench->sensor.part, row, block.settings);
        double scale =
            (double)(linear->scale * pintle_part_factor(bench->sensor.part, row, &block));
        bool has_sign = linear->flags & PINTLE_LINEAR_SIGNED; /* without, -1 is no end */
        double one = scale * linear->lowest + (double)linear->zero;
        double other = scale * linear->highest + (double)linear->zero;
        double from = fmin(one, other); /* an axis may be turned round */
        double to = fmax(one, other);
        *lowest = has_sign || linear->lowest != -1 ? fmax(*lowest, from) : *lowest;
        *highest = has_sign || linear->highest != -1 ? fmin(*highest, to) : *highest;
    }
}

void repeat_end(const struct pintle_sheet *sheet, uint8_t *raw)
{
    uint8_t *end = raw + sheet->part->raw_size - sheet->repeats;
    memcpy(end, end - sheet->repeats, sheet->repeats);
}

double bench_truth(const struct bench *bench, uint8_t channel)
{
    const struct pintle_channel *c = &bench->sensor.part->channels[channel];
    return c->quantity == PINTLE_QUANTITY_TIME
               ? (double)bench->set_s + floor((double)(bench->sim.now_us - bench->set_us) / 1e6)
               : pintle_sim_truth(bench->chip, c->name);
}

unsigned bench_lies(const struct bench *bench, const struct pintle_sample *sample)
{
    const struct pintle_sheet *sheet = pintle_sheet_find(bench->sensor.part->name);
    unsigned lies = 0;
    for (uint8_t c = 0; c < sheet->part->channel_count; c++) {
        const struct pintle_reading *reading = &sample->channel[c];
        bool is_time = sheet->part->channels[c].quantity == PINTLE_QUANTITY_TIME;
        double value = is_time ? 946684800.0 + reading->raw : (double)reading->value;
        double may = is_time ? 1 : (double)sheet->channels[c].accuracy_wide;
        lies += !(reading->quality & PINTLE_QUALITY_SUSPECT)
                && fabs(value - bench_truth(bench, c)) > may;
    }
    return lies;
}

enum pintle_status bench_seat_other(struct bench *bench, const struct pintle_part *part,
                                    struct pintle_any *other)
{
    uint8_t address = bench->chip->address;
    switch (part->link->kind) {
    case PINTLE_BUS_I2C:
        return any_on_i2c(other, part, &bench->bus, address);
    case PINTLE_BUS_SPI:
        return any_on_spi(other, part, &bench->spi, address);
    case PINTLE_BUS_ONEWIRE:
        return any_on_onewire(other, part, &bench->line, bench->chip->rom.code);
    default:
        return any_on_stream(other, part, &bench->stream);
    }
}

enum pintle_status bench_seat(struct bench *bench, const struct pintle_part *part)
{
    return bench_seat_other(bench, part, &bench->any);
}

void bench_make_seeded(struct bench *bench, const struct pintle_part *part, uint8_t address,
                       uint64_t seed)
{
    pintle_sim_init(&bench->sim, 1, 1781222400000000, seed);
    if (part->frame) {
        bench->sim.bus[0].bit_ns = 1000000000u / part->frame->bit_hz;
    }
    bench->chip = pintle_sim_add(&bench->sim, part->name, 0, address);
    bench->bus = pintle_sim_i2c(&bench->sim, 0);
    bench->spi = pintle_sim_spi(&bench->sim, 0);
    bench->line = pintle_sim_onewire(&bench->sim, 0);
    bench->stream = pintle_sim_stream(&bench->sim, 0);
    bench->bus.common.clock = bench->spi.common.clock = bench->line.common.clock = &bench->clock;
    bench->stream.common.clock = &bench->clock;
    bench->clock = pintle_sim_clock(&bench->sim);
    CU_ASSERT_PTR_NOT_NULL_FATAL(bench->chip);
    CU_ASSERT_EQUAL_FATAL(bench_seat(bench, part), PINTLE_OK);
    if (part->can && part->can->timekeeper) {
        bench->set_s = 1781222400;
        CU_ASSERT_EQUAL(pintle_time_set(&bench->sensor, bench->set_s), PINTLE_OK);
        bench->set_us = bench->sim.now_us;
        CU_ASSERT_EQUAL(bench_seat(bench, part), PINTLE_OK);
    }
}

void bench_make(struct bench *bench, const struct pintle_part *part, uint8_t address)
{
    bench_make_seeded(bench, part, address, 42);
}

unsigned below(unsigned limit)
{
    return (unsigned)(((uint64_t)rand() << 16 ^ (uint64_t)rand()) % limit);
}

void bench_move_on(struct bench *bench, const struct pintle_sheet *sheet)
{
    const struct pintle_sim_model *model = bench->chip->model;
    for (unsigned i = 0; i < PINTLE_SIM_INPUTS && model->inputs[i]; i++) {
        int c = pintle_sheet_channel(sheet, model->inputs[i]);
        if (c >= 0) {
            double lowest = 0;
            double highest = 0;
            bench_scale(bench, (uint8_t)c, &lowest, &highest);
            bench->chip->feels[i].level = lowest + (highest - lowest) * (50 + below(900)) / 1000;
        }
    }
    pintle_sim_pass(&bench->sim,
                    70000000 + (model->settles_us ? model->settles_us(bench->chip) : 0));
}

enum pintle_status bench_read(struct bench *bench, struct pintle_sample *sample)
{
    enum pintle_status status = pintle_sample_read(&bench->sensor, sample);
    if (status == PINTLE_OK && (sample->channel[0].quality & PINTLE_QUALITY_FIRST)) {
        status = pintle_sample_read(&bench->sensor, sample);
    }
    return status;
}

struct pintle_i2c wire_up(struct wired *wired, struct pintle_sim *sim, uint32_t speed_hz)
{
    pintle_sim_i2c_wires_init(&wired->wires, sim, 0, 4700, 60);
    CU_ASSERT_EQUAL_FATAL(
        pintle_bitbang_i2c_init(&wired->master, pintle_sim_i2c_pin(&wired->wires, PINTLE_SIM_DATA),
                                pintle_sim_i2c_pin(&wired->wires, PINTLE_SIM_CLOCK), &sim->clock,
                                speed_hz),
        PINTLE_OK);
    return pintle_bitbang_i2c_bus(&wired->master);
}

void bench_wire(struct bench *bench, struct wired *wired)
{
    struct pintle_sim *sim = &bench->sim;
    bench->bus = wire_up(wired, sim, 400000);
    pintle_sim_spi_wires_init(&wired->spi_wires, sim, 0);
    for (uint8_t i = 0; i < PINTLE_SIM_SELECTS; i++) {
        wired->selects[i] = pintle_sim_spi_pin(&wired->spi_wires, PINTLE_SIM_SELECT + i);
    }
    pintle_bitbang_spi_init(&wired->spi_master,
                            pintle_sim_spi_pin(&wired->spi_wires, PINTLE_SIM_CLOCK),
                            pintle_sim_spi_pin(&wired->spi_wires, PINTLE_SIM_DATA),
                            pintle_sim_spi_pin(&wired->spi_wires, PINTLE_SIM_DATA_IN),
                            wired->selects, PINTLE_SIM_SELECTS, &bench->clock);
    bench->spi = pintle_bitbang_spi_bus(&wired->spi_master);
    pintle_sim_onewire_wires_init(&wired->onewire_wires, sim, 0, 4700, 500);
    CU_ASSERT_EQUAL(pintle_bitbang_onewire_init(&wired->onewire_master,
                                                pintle_sim_onewire_pin(&wired->onewire_wires),
                                                &bench->clock),
                    PINTLE_OK);
    bench->line = pintle_bitbang_onewire_bus(&wired->onewire_master);
}

unsigned one_in(void)
{
    const char *asked = g_getenv("PINTLE_SHARE");
    guint64 number = asked ? g_ascii_strtoull(asked, NULL, 10) : 1;
    return number > 0 && number < 1000 ? (unsigned)number : 1;
}
