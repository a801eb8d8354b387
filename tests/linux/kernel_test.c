/* The built tool under real kernels, on adapters and chips of an emulator's making, which nobody
 * here wrote: what is set outside must be what is read inside.
 *
 *     linux-tests LAB [MACHINE [TEST...]]      LAB is what tests/linux/prepare has made
 */
#include <CUnit/Basic.h>
#include <math.h>
#include <signal.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <unistd.h>

#include "kernel_test.h"

const char *lab;
struct board board;

/* --- the rig of a described thermometer and what is on the other bus --- */

void set_temperature(const char *id, double celsius)
{
    char *path = g_strdup_printf("/machine/peripheral/%s", id);
    char *value = g_strdup_printf("%.0f", celsius * 1000);
    board_set(&board, path, "temperature", value);
    g_free(value);
    g_free(path);
}

/* --- a board with fourteen I2C adapters, pins, a 1-Wire master --- */

#define PINS "/machine/soc/gpio"
#define LINE_PIN "gpioF1" /* the 1-Wire line; prepare has put it there */

static void first_contact(void)
{
    board_expect(&board, "pintle scan", 0,
                 "bus i2c-0|0x48|it could be ADS1115 or INA219 or TMP102|0x4d|held|the driver "
                 "'lm75' has this "
                 "address|bus onewire-1|--draft FILE writes");
    board_expect(&board, "pintle scan --draft /tmp/first.rig >/dev/null; cat /tmp/first.rig", 0,
                 "port     = \"linux\"|device   = \"1e78a080.i2c-bus\"|# 0x4d held on bus|"
                 "device   = \"w1_bus_master1\"");
    board_expect(&board, "pintle scan --rig /tmp/first.rig", 0, "bus i2c-0|0x48|found");
    board_expect(&board, "pintle wiring --rig /tmp/first.rig", 1, "bus i2c-0|no pull-up");
    board_expect(&board, "pintle scan --draft /tmp/first.rig", 2, "there is a file /tmp/first.rig");
}

static void never_set(void)
{
    board_expect(
        &board,
        "pintle log --rig /tmp/boat.rig --every 500ms --for 3s --into /tmp/unset --quiet & "
        "sleep 1.5; date -s '2026-06-12 08:00:00' >/dev/null; wait",
        0, " records in|the clock was moved 1 time|the clock was never set when the run began");
    board_expect(&board, "cat /tmp/unset/0001/readings.csv", 0,
                 "1970-01-01T|clock=never-set|2026-06-12T08:00:0");
    board_expect(&board, "cat /tmp/unset/0001/run.json", 0, "\"before_record\"|\"by_s\": 1.7812");
    board_expect(&board,
                 "pintle log --rig /tmp/boat.rig --every 500ms --for 3s --into /tmp/back --quiet & "
                 "sleep 1; date -s '2026-06-12 07:00:00' >/dev/null; wait",
                 0, " records in|the clock was moved 1 time|!7200 slots were missed");
}

static void what_is_set_is_read(void)
{
    static const double set[] = { 36.5, 0, -0.0625, -10.25, -55, 125.5, 21.125 };
    for (size_t i = 0; i < G_N_ELEMENTS(set); i++) {
        set_temperature("sea", set[i]);
        struct answer answer =
            board_run(&board, 20, "pintle read --rig /tmp/boat.rig --format csv sea");
        double is = number_after(answer.text, "sea,temperature,");
        printf("    set outside %9.4f degC, read %9.4f degC\n", set[i], is);
        EXPECT(is == set[i] && strstr(answer.text, "good"), "%g: %s", set[i], answer.text);
        answer_free(&answer);
    }
}

/* The same rig but for the lines of its board and device, here and in the simulation. */
static void same_rig_simulated(void)
{
    set_temperature("sea", 21.125);
    board_write(&board, "/tmp/sim.rig",
                "board { name = \"sloop\" port = \"sim\" world = \"sim.world\" }\n" TMP105
                "bus aft { }\n" SEA);
    board_write(
        &board, "/tmp/sim.world",
        "quantity water { level = 21.125 }\n"
        "chip sea { part = \"TMP102\" address = 0x48 feels = { \"temperature=water\" } }\n");
    board_expect(&board, "pintle read --rig /tmp/sim.rig --at 1min", 0,
                 "sea        temperature|good");
    board_expect(&board, "pintle read --rig /tmp/boat.rig", 0,
                 "sea        temperature               21.1250 degC");
    board_write(&board, "/tmp/fast.rig",
                LINUX TMP105 "bus aft { device = \"/dev/i2c-0\" speed = 400000 }\n" SEA);
    board_expect(&board, "pintle scan --rig /tmp/fast.rig", 1,
                 "I2C, 100 kHz (the rig says 400; the system decides), /dev/i2c-0|likely");
    board_expect(&board, "pintle read --rig /tmp/boat.rig --at 1min", 2,
                 "on port 'linux' time is real");
    board_expect(&board, "pintle trace --rig /tmp/boat.rig -- read", 2,
                 "which port 'linux' cannot");
}

static void registers(void)
{
    board_expect(&board, "pintle regs --rig /tmp/boat.rig sea T_HIGH=0x5000", 0, "after|0x5000");
    board_expect(&board, "pintle regs --rig /tmp/boat.rig sea", 0,
                 "01h  CONFIGURATION    0x60|02h  T_LOW            0x4b00");
    board_expect(&board, "pintle regs --rig /tmp/boat.rig sea CONFIGURATION.R=0", 0, "after|0x00");
    board_expect(&board, "pintle read --rig /tmp/boat.rig sea", 0, "21.1250");
}

/* The kernel's own driver for the same chip: a second opinion, and an address that is held. */
static void held_by_a_driver(void)
{
    set_temperature("sea", -10.25);
    board_expect(&board,
                 "echo tmp105 0x48 > /sys/bus/i2c/devices/i2c-0/new_device; "
                 "cat /sys/bus/i2c/devices/0-0048/hwmon/hwmon*/temp1_input",
                 0, "-10250");
    board_expect(&board, "pintle read --rig /tmp/boat.rig", 1,
                 "the kernel's driver 'lm75' holds address 0x48 of /dev/i2c-0");
    board_expect(&board, "pintle scan --rig /tmp/boat.rig", 1,
                 "0x48  TMP105    sea        held|the driver 'lm75'");
    board_expect(&board, "pintle regs --rig /tmp/boat.rig sea T_HIGH", 1, "'lm75'");
    board_write(&board, "/tmp/beside.rig",
                LINUX TMP105
                "bus aft { device = \"1e78a080.i2c-bus\" beside-drivers = true }\n" SEA);
    board_expect(&board, "pintle read --rig /tmp/beside.rig", 0, "-10.2500|good");
    board_expect(
        &board,
        "pintle log --rig /tmp/boat.rig --every 500ms --for 3s --into /tmp/held >/dev/null & "
        "sleep 1.5; echo 0x48 > /sys/bus/i2c/devices/i2c-0/delete_device; wait",
        0, "sensor 'sea' fails: the kernel's driver|sensor 'sea' is back");
    board_expect(&board, "tail -n 1 /tmp/held/0001/readings.csv", 0, "-10.25|!=bus");
}

/* Nothing takes turns with us, moves the pointer and rewrites limits all the time; then the
 * configuration as well. Of ten thousand readings, on a slow machine fewer, no good one may be
 * another than what is there. */
static void somebody_else_pokes(void)
{
    static const struct {
        const char *how;
        double enough, least; /* records */
    } rows[] = { { "", 10000, 1000 }, { " settings", 500, 100 } };
    set_temperature("sea", 36.5625 + 0.0005); /* what is no whole sixteenth is cut off */
    for (size_t i = 0; i < G_N_ELEMENTS(rows); i++) {
        double records = 0;
        double good = 0;
        double wrong = 0;
        for (unsigned turn = 0; turn < 12 && records < rows[i].enough; turn++) {
            struct answer answer = board_run(
                &board, 60,
                "poke /dev/i2c-0 0x48 60%s & pintle log --rig /tmp/boat.rig --every 3ms --for 8s "
                "--into /tmp/poked --quiet 2>/dev/null; kill $!; awk -F, 'NR > 1 { n++; q = $4; "
                "sub(/\\r/, \"\", q); if (q ~ /^(good|missed=[0-9]+)$/) { good++; if ($3 != "
                "\"36.5625\") wrong++ } } END { print \"records\", n, \"good\", good + 0, "
                "\"wrong\", wrong + 0 }' /tmp/poked/0001/readings.csv; rm -r /tmp/poked",
                rows[i].how);
            records += number_after(answer.text, "records ");
            good += number_after(answer.text, "good ");
            wrong += number_after(answer.text, "wrong ");
            EXPECT(number_after(answer.text, "records ") > 0, "%s", answer.text);
            answer_free(&answer);
        }
        printf("    poked%s all the time: %.0f records, %.0f good, of these wrong %.0f\n",
               rows[i].how, records, good, wrong);
        EXPECT(records >= rows[i].least && good > records / 20 && wrong == 0, "%s", rows[i].how);
    }
}

/* As one that is plugged into a USB socket does. */
static void an_adapter_goes_and_comes(void)
{
    board_expect(
        &board,
        "cd /sys/bus/platform/drivers/aspeed-i2c-bus; pintle log --rig /tmp/boat.rig --every "
        "500ms --for 5s --into /tmp/gone --quiet & sleep 1; (echo 1e78a080.i2c-bus > unbind) "
        "& sleep 1; echo 1e78a080.i2c-bus > bind; wait; cd /tmp; tail -n 1 "
        "/tmp/gone/0001/readings.csv",
        0, "sensor 'sea' fails: |sensor 'sea' is back|36.5625");
}

/* Two programs of this library on one chip. */
static void two_terminals(void)
{
    board_expect(
        &board,
        "pintle log --rig /tmp/boat.rig --every 20ms --for 4s --into /tmp/two --quiet & "
        "for i in 1 2 3 4 5 6 7 8 9 10 11 12; do pintle regs --rig /tmp/boat.rig sea T_HIGH; "
        "done | sort | uniq -c; wait; cut -d, -f3,4 /tmp/two/0001/readings.csv | sort | "
        "uniq -c",
        0, "12 03h|36.5625,good|!80.0|!75.0");
}

static void stopped_by_a_signal(void)
{
    set_temperature("sea", 12.5);
    board_expect(
        &board,
        "pintle log --rig /tmp/boat.rig --every 30s --into /tmp/int --quiet & sleep 1; "
        "read a b < /proc/uptime; kill -INT $!; wait $!; echo ended $?; read c d < "
        "/proc/uptime; echo within $a $c | awk '{ print $1, int(($3 - $2) * 1000), \"ms\" }'",
        0, "stopped by a signal|ended 0|within");
    board_expect(&board, "cat /tmp/int/0001/run.json", 0, "interrupted");
    board_expect(&board,
                 "pintle log --rig /tmp/boat.rig --every 20ms --for 3s --into /tmp/storm --quiet & "
                 "for i in $(seq 40); do kill -STOP $!; kill -CONT $!; usleep 40000; done; wait; "
                 "cut -d, -f3- /tmp/storm/0001/readings.csv | sort | uniq -c",
                 0, "12.5000,good|!=bus");
}

static void what_is_missing(void)
{
    board_write(&board, "/tmp/four.rig",
                LINUX TMP105 "bus aft { device = \"/dev/i2c-0\" }\n"
                             "bus b { device = \"/dev/i2c-70\" }\nbus c { device = \"no name\" }\n"
                             "bus d { kind = \"spi\" device = \"/dev/spidev7\" }\n" SEA
                             "sensor air { part = \"SHT31\" bus = \"b\" address = 0x44 }\n"
                             "sensor baro { part = \"BME280\" bus = \"c\" address = 0x76 }\n"
                             "sensor motion { part = \"ICM20948\" bus = \"d\" select = \"0\" }\n");
    board_expect(
        &board, "pintle read --rig /tmp/four.rig", 1,
        "12.5000|there is no /dev/i2c-70: an I2C bus that is switched off|no I2C adapter is "
        "named 'no name'|there is no /dev/spidev7.0");
    board_expect(&board, "pintle scan --rig /tmp/four.rig", 1, "broken|there is no /dev/i2c-70");
    board_expect(&board, "pintle log --rig /tmp/four.rig --for 2s --every 1s --into /tmp/four", 1,
                 "12.5000|sensor 'air' fails: there is no /dev/i2c-70");
    board_expect(&board,
                 "mkdir /tmp/ro; mount -t tmpfs -o ro none /tmp/ro; "
                 "pintle log --rig /tmp/boat.rig --for 2s --into /tmp/ro/runs",
                 3, "/tmp/ro");
}

static void without_permission(void)
{
    board_expect(
        &board,
        "chown root:i2c /dev/i2c-0; chmod 660 /dev/i2c-0; su mate -s /bin/sh -c 'pintle read "
        "--rig /tmp/boat.rig'",
        1, "no permission for /dev/i2c-0, which group 'i2c' has; add your user to it");
    board_expect(&board, "su mate -s /bin/sh -c 'pintle scan'", 1,
                 "broken|no permission for /dev/i2c-0, which group 'i2c' has|no permission for "
                 "/dev/i2c-1, which only root has");
    board_expect(&board, "su mate -s /bin/sh -c 'ports level gpioB0'", 1, "permission");
}

static void the_ports_contract(void)
{
    board_expect(
        &board, "port_check /dev/i2c-0 0x48 0x49 3 0x50 0x00", 0,
        "holds        nobody answers at the empty address|holds        each segment begins "
        "with a START of its own|holds        the bus can be claimed|0 failed");
}

static void pins_and_edges(void)
{
    board_expect(&board, "ports level /dev/gpiochip0:40", 0, "level");
    board_set(&board, PINS, "gpioF0", "true");
    board_expect(&board, "ports level 1e780000.gpio:40", 0, "level 1");
    board_set(&board, PINS, "gpioF0", "false");
    board_expect(&board, "ports level 1e780000.gpio:40", 0, "level 0");
    board_expect(&board, "ports drive /dev/gpiochip0:40 low high release", 0,
                 "low: level 0|high: level 1|release: level");
    board_expect(&board, "ports level /dev/gpiochip0:41", 1,
                 "held: pin '/dev/gpiochip0:41' is in use");
    board_expect(&board, "dmesg -n 1; ports level /dev/gpiochip0:84", 1,
                 "belongs to another function, such as a bus; with debugfs");
    board_expect(&board, "mount -t debugfs none /sys/kernel/debug; ports level /dev/gpiochip0:84",
                 1, "held: pin '/dev/gpiochip0:84' belongs to '1e78a380.i2c-bus'");
    board_expect(&board, "ports level nowhere", 1, "no pin is named 'nowhere'");
    board_set(&board, PINS, "gpioF0", "false");
    board_begin(&board, "ports edges /dev/gpiochip0:40 3");
    static const char *const levels[] = { "true", "false", "true" };
    for (size_t i = 0; i < G_N_ELEMENTS(levels); i++) {
        g_usleep(500000);
        board_set(&board, PINS, "gpioF0", levels[i]);
    }
    struct answer answer = board_end(&board, 30);
    printf("    edges as they came:\n%s", answer.text);
    EXPECT(strstr(answer.text,
                  "edge 1 to 1, just now\nedge 2 to 0, just now\nedge 3 to 1, just now\nok"),
           "%s", answer.text);
    answer_free(&answer);
    board_set(&board, PINS, "gpioF0", "true");
    board_expect(&board, "pintle lines --board 1e780000.gpio:40", 0,
                 "1e780000.gpio:40         high       no");
    board_expect(&board, "pintle lines --board nowhere", 1, "no pin is named 'nowhere'");
    board_expect(&board, "pintle lines --board /dev/gpiochip0:84", 1,
                 "belongs to '1e78a380.i2c-bus'");
    board_expect(&board, "pintle lines --board /dev/gpiochip0:40 --wait --for 1s", 1,
                 "did not change in that");
    board_begin(&board, "pintle lines --board /dev/gpiochip0:40 --wait --for 2min");
    for (int i = 0; i < 600 && !board.lost; i++) { /* until it waits for one */
        board_set(&board, PINS, "gpioF0", i % 2 ? "true" : "false");
        if (board_hears(&board, "went")) {
            break;
        }
    }
    struct answer went = board_end(&board, 30);
    EXPECT(went.status == 0 && strstr(went.text, "/dev/gpiochip0:40 went "), "%s", went.text);
    answer_free(&went);
    board_set(&board, PINS, "gpioF0", "true");
    board_expect(&board, "pintle lines --board /dev/gpiochip0:40=1 --for 1s", 0,
                 "high       yes|then they are inputs again");
}

/* No chip of the emulator's speaks 1-Wire: a line that is high, and one that is low. */
static void a_onewire_line(void)
{
    board_write(&board, "/tmp/hull.rig",
                LINUX "bus hull { kind = \"onewire\" }\n"
                      "sensor shaft { part = \"DS18B20\" bus = \"hull\" code = "
                      "\"284c1e720700001d\" }\n");
    board_expect(&board, "pintle scan --rig /tmp/hull.rig", 1, "no probe shows its presence");
    board_expect(&board, "pintle read --rig /tmp/hull.rig", 1, "nothing answered");
    board_set(&board, PINS, LINE_PIN, "false");
    board_expect(&board, "pintle scan --rig /tmp/hull.rig", 1, "broken|the line stays low");
    board_expect(&board, "pintle read --rig /tmp/hull.rig", 1, "shaft|bus");
    board_set(&board, PINS, LINE_PIN, "true");
}

/* The whole tool on another kind of machine: byte for byte what this one writes. */
static void the_demo_is_the_same(void)
{
    char *folder = g_dir_make_tmp("pintle-XXXXXX", NULL);
    char *command = g_strdup_printf(
        "sh -c 'cd %s && %s/amd/pintle log --demo --for 1d --quiet 2>/dev/null && sha256sum < "
        "sloop-runs/0001/readings.csv; rm -r sloop-runs'",
        folder, lab);
    char *here = NULL;
    EXPECT(g_spawn_command_line_sync(command, &here, NULL, NULL, NULL), "%s", command);
    struct answer there =
        board_run(&board, 120,
                  "mkdir -p /tmp/demo; cd /tmp/demo; pintle log --demo --for 1d "
                  "--quiet 2>/dev/null; sha256sum < sloop-runs/0001/readings.csv; cd "
                  "/tmp");
    printf("    here  %s    there %s", here, there.text);
    EXPECT(here && strlen(here) > 60 && strstr(there.text, here), "%s and %s", here, there.text);
    answer_free(&there);
    rmdir(folder);
    g_free(here);
    g_free(command);
    g_free(folder);
}

/* --- a board with SPI, and adapters that say "time-out" where nobody answers --- */

#define FLASH                                                                                      \
    "part FLASH {\n"                                                                               \
    " what = \"flash chip\" source = \"SST25VF016B\" bus = \"spi\" top-speed = 1000000\n"          \
    " register MAKER { address = 0x9f access = \"read\" }\n"                                       \
    " identity = { \"expect MAKER 0xbf\" }\n measure = { \"read MAKER 3\" }\n"                     \
    " channel code { quantity = \"length\" at = 1 decimals = 0 range = { 0, 65535 } }\n}\n"

/* Its identity is its datasheet's: BFh, then 2541h. */
static void spi_chip(void)
{
    board_expect(&board,
                 "cd /sys/bus/platform/drivers/imx-i2c; for i in *.i2c; do echo $i > unbind; "
                 "done; cd /tmp; pintle scan",
                 3, "this machine offers no I2C, SPI or 1-Wire bus");
    board_expect(&board,
                 "echo spidev > /sys/bus/spi/devices/spi0.0/driver_override; echo spi0.0 > "
                 "/sys/bus/spi/drivers/spidev/bind; pintle scan",
                 0,
                 "bus spi-0  SPI, 1000 kHz, /dev/spidev0|no part of the catalogue proves itself");
    board_write(&board, "/tmp/flash.rig",
                LINUX FLASH
                "bus panel { kind = \"spi\" }\n"
                "sensor log { part = \"FLASH\" bus = \"panel\" select = \"S1\" device = "
                "\"/dev/spidev0.0\" }\n");
    board_expect(&board, "pintle scan --rig /tmp/flash.rig", 0, "log        proven");
    board_expect(&board, "pintle regs --rig /tmp/flash.rig log MAKER", 0, "0xbf");
    board_expect(&board, "pintle read --rig /tmp/flash.rig --format csv", 0,
                 "log,code,9537,m,9537,bf 25 41,good");
    board_write(&board, "/tmp/wrong.rig",
                LINUX "bus panel { kind = \"spi\" device = \"/dev/spidev0\" }\n"
                      "sensor motion { part = \"ICM20948\" bus = \"panel\" select = \"0\" }\n");
    board_expect(&board, "pintle scan --rig /tmp/wrong.rig", 1, "motion     ");
    board_expect(&board, "pintle read --rig /tmp/wrong.rig", 1, "motion|bus|!good");
    board_expect(&board, "ports spi /dev/spidev0.0 0 4", 0, "bf 25 41");
    board_expect(&board, "ports spi /dev/spidev0.0 0 4096", 0, "ok");
    board_expect(&board, "ports spi /dev/spidev0.0 0 4097", 1,
                 "unsupported /dev/spidev0.0 takes 16 stretches and 4096 bytes in one transfer");
    board_expect(&board, "ports spi /dev/spidev0.0 0 4 low", 1,
                 "unsupported the controller of /dev/spidev0.0 cannot do mode 0 with the low bit");
}

/* This adapter says ETIMEDOUT where nobody answers. */
static void time_outs(void)
{
    board_expect(&board,
                 "for i in 21a0000 21a4000; do echo $i.i2c > "
                 "/sys/bus/platform/drivers/imx-i2c/bind; done; ls /dev/i2c*",
                 0, "/dev/i2c-1");
    board_write(&board, "/tmp/boat.rig",
                LINUX TMP105 "bus aft { device = \"/dev/i2c-0\" }\n" SEA
                             "sensor air { part = \"TMP105\" bus = \"aft\" address = 0x49 }\n");
    set_temperature("sea", 21.125);
    board_expect(&board, "pintle scan --rig /tmp/boat.rig", 1, "0x48|likely|0x49|missing|!broken");
    board_expect(&board, "pintle read --rig /tmp/boat.rig", 1, "21.1250|nothing answered");
    board_write(&board, "/tmp/empty.rig",
                LINUX TMP105 "bus fore { device = \"/dev/i2c-1\" }\n"
                             "sensor air { part = \"TMP105\" bus = \"fore\" address = 0x49 }\n");
    board_expect(&board, "pintle read --rig /tmp/empty.rig", 1,
                 "ran into its time limit: either nobody answers and it says so in this way");
}

/* --- a machine whose adapters speak SMBus only --- */

static void memory_chips(void)
{
    board_expect(&board, "pintle scan", 0, "SMBus I801 adapter|0x50|0x57|8 answered");
}

/* The kernel's stand-in for chips: registers that keep what was written. */
static void smbus_only(void)
{
    board_expect(&board,
                 "insmod /lib/i2c-stub.ko chip_addr=0x48,0x44 && cat "
                 "/sys/bus/i2c/devices/i2c-1/name",
                 0, "SMBus stub driver");
    board_write(&board, "/tmp/boat.rig",
                LINUX TMP105 "bus aft { device = \"SMBus stub driver\" }\n" SEA
                             "sensor air { part = \"SHT31\" bus = \"aft\" address = 0x44 }\n");
    board_expect(&board, "ports word /dev/i2c-1 0x48 0 0x2015; pintle read --rig /tmp/boat.rig sea",
                 0, "sea        temperature               21.1250 degC");
    board_expect(&board, "ports word /dev/i2c-1 0x48 0 0xc0f5; pintle read --rig /tmp/boat.rig sea",
                 0, "sea        temperature              -10.2500 degC");
    board_expect(&board, "pintle regs --rig /tmp/boat.rig sea T_HIGH=0x5010", 0, "0x5010");
    board_expect(
        &board, "pintle read --rig /tmp/boat.rig", 1,
        "SHT31 at 0x44 on bus 'aft': the adapter of /dev/i2c-1 speaks SMBus only and has no "
        "call for this transfer: send 2, fetch 3");
}

static const char kernel_args[] = "quiet panic=-1";

static char *words_of(const char *format, ...) G_GNUC_PRINTF(1, 2);
static char *words_of(const char *format, ...)
{
    va_list args;
    va_start(args, format);
    char *text = g_strdup_vprintf(format, args);
    va_end(args);
    return text;
}

/* With this pin pulled up; null: none. */
static bool boot(const char *name, const char *line, const char *pin)
{
    char **words = NULL;
    GError *error = NULL;
    if (!g_shell_parse_argv(line, NULL, &words, &error)) {
        EXPECT(false, "%s: %s", line, error->message);
        return false;
    }
    bool ok = board_boot(&board, words);
    if (ok && pin) {
        board_set(&board, PINS, pin, "true");
    }
    printf("\n    %s\n", name);
    g_strfreev(words);
    if (!ok || !board_ready(&board)) {
        board_off(&board);
        return false;
    }
    struct answer kernel = board_run(&board, 5, "uname -srm");
    printf("    %s      up after %.1f s\n", g_strchomp(kernel.text), (double)board.began_us / 1e6);
    answer_free(&kernel);
    return true;
}

static int boot_as(const char *name)
{
    char *line = words_of(
        "qemu-system-arm -M ast2600-evb -accel tcg -m 512 -kernel %s/armhf/vmlinuz -dtb "
        "%s/aspeed.dtb -initrd %s/armhf/files.gz -append 'console=ttyS4,115200n8 machine=aspeed "
        "%s' -device tmp105,id=sea,bus=aspeed.i2c.bus.0,address=0x48 "
        "-device ds1338,bus=aspeed.i2c.bus.0,address=0x68 "
        "-device tmp421,id=engine,bus=aspeed.i2c.bus.1,address=0x4c "
        "-device pca9548,id=switch,bus=aspeed.i2c.bus.2,address=0x70 "
        "-device tmp105,id=deep,bus=i2c.0,address=0x49 "
        "-device at24c-eeprom,bus=aspeed.i2c.bus.2,address=0x50,rom-size=4096 "
        "-device pca9552,bus=aspeed.i2c.bus.2,address=0x60 "
        "-device max7310,bus=aspeed.i2c.bus.2,address=0x18 "
        "-trace i2c_* -D %s/%s.trace",
        lab, lab, lab, kernel_args, lab, name);
    bool ok = boot("fourteen I2C adapters, pins, 1-Wire", line, LINE_PIN);
    if (ok) {
        board_write(&board, "/tmp/boat.rig", BOAT);
    }
    g_free(line);
    return ok ? 0 : 1;
}

static int boot_aspeed(void)
{
    return boot_as("aspeed");
}

/* The same board once more: 1-Wire sleeps most of the time. */
static int boot_hull(void)
{
    return boot_as("hull");
}

/* The same board with a card in its slot, which stays what it is when the power goes. */
bool boot_power(void)
{
    char *line = words_of(
        "qemu-system-arm -M ast2600-evb -accel tcg -m 512 -kernel %s/armhf/vmlinuz -dtb "
        "%s/aspeed.dtb -initrd %s/armhf/files.gz -append 'console=ttyS4,115200n8 machine=aspeed "
        "%s' -device tmp105,id=sea,bus=aspeed.i2c.bus.0,address=0x48 "
        "-drive file=%s/card.img,format=raw,if=sd,index=2",
        lab, lab, lab, kernel_args, lab);
    bool ok = boot("a card, and power that goes", line, NULL);
    g_free(line);
    return ok;
}

static int begin_power(void)
{
    char *line = words_of("sh -c 'rm -f %s/card.img && truncate -s 16M %s/card.img && "
                          "mkfs.ext4 -q -m 0 %s/card.img'",
                          lab, lab, lab);
    int status = -1;
    bool ok = g_spawn_command_line_sync(line, NULL, NULL, &status, NULL) && status == 0;
    g_free(line);
    return ok && boot_power() ? 0 : 1;
}

static int boot_imx(void)
{
    char *line = words_of(
        "qemu-system-arm -M sabrelite -accel tcg -m 512 -kernel %s/armhf/vmlinuz -dtb %s/imx.dtb "
        "-initrd %s/armhf/files.gz -serial null -append 'console=ttymxc1 machine=imx %s' "
        "-device tmp105,id=sea,bus=i2c-bus.0,address=0x48",
        lab, lab, lab, kernel_args);
    bool ok = boot("SPI, and I2C that says time-out", line, NULL);
    g_free(line);
    return ok ? 0 : 1;
}

static int boot_pc(void)
{
    char *line = words_of("qemu-system-x86_64 -M q35 -accel tcg -m 512 -kernel %s/amd64/vmlinuz "
                          "-initrd %s/amd64/files.gz -append 'console=ttyS0 machine=pc %s'",
                          lab, lab, kernel_args);
    bool ok = boot("SMBus only", line, NULL);
    g_free(line);
    return ok ? 0 : 1;
}

static int off(void)
{
    board_off(&board);
    return 0;
}

static const CU_TestInfo aspeed_tests[] = {
    { "first contact", first_contact },
    { "a clock that was never set", never_set },
    { "what a scan sends", what_a_scan_sends },
    { "a bus switch", a_bus_switch },
    { "what is set outside is read", what_is_set_is_read },
    { "the same rig simulated", same_rig_simulated },
    { "registers", registers },
    { "held by a driver", held_by_a_driver },
    { "somebody else pokes", somebody_else_pokes },
    { "two terminals", two_terminals },
    { "an adapter goes and comes", an_adapter_goes_and_comes },
    { "stopped by a signal", stopped_by_a_signal },
    { "what is missing", what_is_missing },
    { "without permission", without_permission },
    { "the port's contract", the_ports_contract },
    { "pins and edges", pins_and_edges },
    { "a 1-Wire line", a_onewire_line },
    CU_TEST_INFO_NULL,
};

static const CU_TestInfo hull_tests[] = {
    { "1-Wire answers as captured", onewire_as_captured },
    { "probes are found and read", probes_are_read },
    { "a probe on the line's power", probe_on_the_line },
    { "a probe goes and comes", a_probe_goes_and_comes },
    { "probes that fail", probes_that_fail },
    { "a slow line", a_slow_line },
    CU_TEST_INFO_NULL,
};

static const CU_TestInfo power_tests[] = {
    { "power goes", power_goes },
    { "a card fills", a_card_fills },
    { "a log is killed", a_log_is_killed },
    CU_TEST_INFO_NULL,
};

static const CU_TestInfo imx_tests[] = {
    { "the demo is the same", the_demo_is_the_same },
    { "an SPI chip", spi_chip },
    { "time-outs", time_outs },
    CU_TEST_INFO_NULL,
};

static const CU_TestInfo pc_tests[] = {
    { "memory chips", memory_chips },
    { "SMBus only", smbus_only },
    CU_TEST_INFO_NULL,
};

int main(int argc, char **argv)
{
    CU_SuiteInfo suites[] = {
        { "aspeed", boot_aspeed, off, NULL, NULL, (CU_TestInfo *)(uintptr_t)aspeed_tests },
        { "hull", boot_hull, off, NULL, NULL, (CU_TestInfo *)(uintptr_t)hull_tests },
        { "power", begin_power, off, NULL, NULL, (CU_TestInfo *)(uintptr_t)power_tests },
        { "imx", boot_imx, off, NULL, NULL, (CU_TestInfo *)(uintptr_t)imx_tests },
        { "pc", boot_pc, off, NULL, NULL, (CU_TestInfo *)(uintptr_t)pc_tests },
        CU_SUITE_INFO_NULL,
    };
    signal(SIGPIPE, SIG_IGN);
    setvbuf(stdout, NULL, _IOLBF, 0);
    if (argc < 2) {
        fprintf(stderr, "linux-tests LAB [MACHINE [TEST...]]\n");
        return 2;
    }
    lab = g_canonicalize_filename(argv[1], NULL);
    for (size_t i = 0; suites[i].pName && argc > 2;) {
        if (strcmp(suites[i].pName, argv[2]) != 0) {
            memmove(&suites[i], &suites[i + 1], sizeof suites - (i + 1) * sizeof suites[0]);
        } else {
            i++;
        }
    }
    if (CU_initialize_registry() != CUE_SUCCESS || CU_register_suites(suites) != CUE_SUCCESS) {
        return 3;
    }
    CU_basic_set_mode(CU_BRM_VERBOSE);
    CU_set_fail_on_inactive(CU_FALSE);
    for (CU_pTest test = argc > 3 ? CU_get_suite(argv[2])->pTest : NULL; test; test = test->pNext) {
        CU_set_test_active(test, g_strv_contains((const char *const *)argv + 3, test->pName));
    }
    CU_basic_run_tests();
    unsigned bad = CU_get_number_of_failures() + CU_get_number_of_suites_failed();
    CU_cleanup_registry();
    return bad > 0;
}
