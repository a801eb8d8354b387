/* What the files of the tests under real kernels share. */
#ifndef TESTS_LINUX_KERNEL_TEST_H
#define TESTS_LINUX_KERNEL_TEST_H

#include "board.h"

#define LINUX "board { name = \"sloop\" port = \"linux\" }\n"

/* A chip that is described in the rig file. */
#define TMP105                                                                                     \
    "part TMP105 {\n"                                                                              \
    " what = \"thermometer\" source = \"SBOS648\"\n"                                               \
    " addresses = { 0x48, 0x49, 0x4a }\n"                                                          \
    " register TEMPERATURE { address = 0 width = 2 access = \"read\" }\n"                          \
    " register CONFIGURATION { address = 1 field R { bit = 5 bits = 2 } }\n"                       \
    " register T_LOW { address = 2 width = 2 }\n"                                                  \
    " register T_HIGH { address = 3 width = 2 }\n"                                                 \
    " setting resolution { register = \"CONFIGURATION\" bit = 5\n"                                 \
    "  options = { \"9-bit=0\", \"12-bit=3\" } initial = \"12-bit\" }\n"                           \
    " start = { \"write CONFIGURATION 0\", \"wait 40 ms\" }\n"                                     \
    " measure = { \"read TEMPERATURE\" }\n"                                                        \
    " channel temperature { quantity = \"temperature\" drop = 4 signed = true scale = 0.0625\n"    \
    "  range = { -55, 128 } decimals = 4 marks = { \"bus unless byte 1 mask 0x0f is 0\" } }\n"     \
    "}\n"

extern const char *lab; /* the folder that tests/linux/prepare has made */
extern struct board board;

#define SEA "sensor sea { part = \"TMP105\" bus = \"aft\" address = 0x48 }\n"
#define BOAT LINUX TMP105 "bus aft { device = \"/dev/i2c-0\" }\n" SEA

/* A thermometer of the emulator's: set its temperature. */
void set_temperature(const char *id, double celsius);

/* kernel_scan.c: chips of the emulator's that no rig names */
void what_a_scan_sends(void);
void a_bus_switch(void);

/* kernel_power.c: a machine with a card, started again with what is on it */
bool boot_power(void);
void power_goes(void);
void a_card_fills(void);
void a_log_is_killed(void);

/* kernel_onewire.c: probes behind the kernel's own 1-Wire core */
void onewire_as_captured(void);
void probes_are_read(void);
void a_probe_goes_and_comes(void);
void probes_that_fail(void);
void probe_on_the_line(void);
void a_slow_line(void);

#endif
