/* What the Linux ports share: how they open, lock, and say what the system says. */
#ifndef PINTLE_PRIV_LINUX_SYSTEM_H
#define PINTLE_PRIV_LINUX_SYSTEM_H

#include <signal.h>
#include <stddef.h>

#include "pintle/linux.h"

/* Write words, printf style; returns `status`. */
enum pintle_status pintle_priv_linux_say(char words[PINTLE_LINUX_WORDS], enum pintle_status status,
                                         const char *format, ...)
    __attribute__((format(printf, 3, 4)));

/* Open a device for reading and writing, close-on-exec. NO_DEVICE, DENIED or IO_ERROR with words;
 * `what` is what it would be ("an I2C bus"). */
enum pintle_status pintle_priv_linux_open(const char *path, const char *what, int *file,
                                          char words[PINTLE_LINUX_WORDS]);

/* What a failed call on an open device comes to: NO_DEVICE where it has gone away. */
enum pintle_status pintle_priv_linux_failed(int error, const char *path,
                                            char words[PINTLE_LINUX_WORDS]);

/* Hold a lock on an open file; TIME_LIMIT where another program keeps it. */
enum pintle_status pintle_priv_linux_lock(int file);
void pintle_priv_linux_unlock(int file);

/* Signals wait meanwhile, so that none tears a transfer apart. */
void pintle_priv_linux_defer(sigset_t *before);
void pintle_priv_linux_resume(const sigset_t *before);

/* The device that a line of the chip with this label belongs to, as its pin's function. 0: nobody
 * says. */
int pintle_priv_linux_pin_owner(const char *label, unsigned line, char *owner, size_t room);

/* Monotonic time. */
uint64_t pintle_priv_linux_now_us(void);

/* The first line of a small file, without its line end. 0: it could not be read. */
int pintle_priv_linux_line(const char *path, char *text, size_t room);

#endif
