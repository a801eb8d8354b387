/* Does a port keep its contract? Checked here: the simulation by transfers, the master on two pins
 * over simulated lines, and, where an adapter is named, this machine's own.
 *
 *     port_check [DEVICE KNOWN EMPTY REGISTER HIGH LOW]     numbers in C's way
 *     port_check /dev/i2c-0 0x48 0x49 3 0x50 0x00
 */
#include <inttypes.h>
#include <stdio.h>
#include <stdlib.h>

#include "pintle/linux.h"
#include "pintle/port_check.h"

#if PINTLE_WITH_SIM
#include "pintle/bitbang.h"
#include "pintle/sim.h"
#endif

static void print_line(void *context, const char *what, enum pintle_verdict verdict,
                       enum pintle_status status, uint32_t figure, const char *unit)
{
    (void)context;
    printf("  %-12s %s", pintle_port_verdict_word(verdict), what);
    if (*unit) {
        printf(" (%" PRIu32 " %s)", figure, unit);
    }
    printf(verdict == PINTLE_FAILS ? ": %s\n" : "\n", pintle_status_word(status));
}

#if PINTLE_WITH_SIM
/* A TMP102, whose T_HIGH is 80 degC at power-on. */
static unsigned check_simulation(const char *name, int on_lines)
{
    static struct pintle_sim sim;
    static struct pintle_sim_i2c_wires wires;
    static struct pintle_bitbang_i2c master;
    pintle_sim_init(&sim, 1, 1781222400000000, 1);
    if (!pintle_sim_add(&sim, "TMP102", 0, 0x48)) {
        return 1;
    }
    pintle_sim_pass(&sim, 100000);
    struct pintle_i2c bus = pintle_sim_i2c(&sim, 0);
    if (on_lines) {
        pintle_sim_i2c_wires_init(&wires, &sim, 0, 4700, 100);
        if (pintle_bitbang_i2c_init(&master, pintle_sim_i2c_pin(&wires, PINTLE_SIM_DATA),
                                    pintle_sim_i2c_pin(&wires, PINTLE_SIM_CLOCK), &sim.clock,
                                    100000)
            != PINTLE_OK) {
            return 1;
        }
        bus = pintle_bitbang_i2c_bus(&master);
    }
    printf("%s\n", name);
    const struct pintle_port_check check = { .bus = &bus,
                                             .known = 0x48,
                                             .empty = 0x49,
                                             .reg = 3,
                                             .bytes = { 0x50, 0x00 },
                                             .line = print_line };
    return pintle_port_check_run(&check);
}
#endif

static uint8_t number(const char *text)
{
    return (uint8_t)strtoul(text, NULL, 0);
}

static unsigned check_adapter(char **argv)
{
    struct pintle_linux_i2c adapter;
    (void)pintle_linux_i2c_open(&adapter, argv[1]);
    struct pintle_i2c bus = pintle_linux_i2c_bus(&adapter);
    printf("%s%s%s\n", argv[1], adapter.words[0] ? ": " : "", adapter.words);
    const struct pintle_port_check check = { .bus = &bus,
                                             .known = number(argv[2]),
                                             .empty = number(argv[3]),
                                             .reg = number(argv[4]),
                                             .bytes = { number(argv[5]), number(argv[6]) },
                                             .line = print_line };
    unsigned failed = pintle_port_check_run(&check);
    pintle_linux_i2c_close(&adapter);
    return failed;
}

int main(int argc, char **argv)
{
    unsigned failed = 0;
    if (argc != 1 && argc != 7) {
        fprintf(stderr, "port_check [DEVICE KNOWN EMPTY REGISTER HIGH LOW]\n");
        return 2;
    }
#if PINTLE_WITH_SIM
    if (argc == 1) {
        failed += check_simulation("the simulation, by transfers", 0);
        failed += check_simulation("a master on two pins, over simulated lines", 1);
    }
#endif
    if (argc == 7) {
        failed += check_adapter(argv);
    }
    printf("%u failed\n", failed);
    return failed > 0;
}
