/* What the files of the tests under real kernels share. */
#ifndef TESTS_LINUX_KERNEL_TEST_H
#define TESTS_LINUX_KERNEL_TEST_H

#include "board.h"

#define LINUX "board { name = \"sloop\" port = \"linux\" }\n"

extern const char *lab; /* the folder that tests/linux/prepare has made */
extern struct board board;

/* kernel_onewire.c: probes behind the kernel's own 1-Wire core */
void onewire_as_captured(void);
void probes_are_read(void);
void a_probe_goes_and_comes(void);
void probes_that_fail(void);
void probe_on_the_line(void);
void a_slow_line(void);

#endif
