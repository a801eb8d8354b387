/* A part that a rig file describes, while it is read. */
#ifndef PINTLE_PRIV_RIG_DESCRIBED_H
#define PINTLE_PRIV_RIG_DESCRIBED_H

#include "host/rig/described_values.h"
#include "host/rig/loading.h"

struct describing {
    cfg_t *cfg, *section;
    struct pintle_part *part;
    struct pintle_sheet *sheet;
    unsigned raw; /* bytes of the raw block that the measuring steps have read so far */
};

/* The register of this name, or null. */
const struct pintle_map_reg *pintle_priv_described_reg(const struct describing *d,
                                                       const char *name);

/* What is written in words, while they are read: `ok` until one doesn't fit. */
struct described_words {
    const struct describing *d;
    char **word;
    unsigned at;
    bool ok;
};

/* The next word; null behind the last. */
const char *pintle_priv_described_word(struct described_words *w);

/* The word that must come next. */
void pintle_priv_described_keyword(struct described_words *w, const char *word);

/* A number, decimal or hexadecimal (0x), or characters between single quotes. */
uint32_t pintle_priv_described_number(struct described_words *w, uint32_t most);

/* The number, from 0 on, of the setting, the number or the input of this name; -1: there is none.
 */
int pintle_priv_described_setting(const struct describing *d, const char *name);
int pintle_priv_described_input(const struct describing *d, const char *name);

/* Its bus, registers, settings and so on. They return -1 where a mistake was reported. */
int pintle_priv_described_bus(struct describing *d);
int pintle_priv_described_registers(struct describing *d);
int pintle_priv_described_settings(struct describing *d);
int pintle_priv_described_numbers(struct describing *d);
int pintle_priv_described_checksum(struct describing *d);
int pintle_priv_described_channels(struct describing *d);

/* The steps of an option ("identity", "start", "measure") as a table. Null: a mistake was
 * reported. */
const struct pintle_step *pintle_priv_described_steps(struct describing *d, const char *option);

/* Likewise of a program of another section, for which nothing is read into the raw block. */
const struct pintle_step *pintle_priv_described_program(struct describing *d, cfg_t *from,
                                                        const char *option);

/* Room for a part, and for what its factory's coefficients do, which is read last. */
struct pintle_part *pintle_priv_described_part(void);
int pintle_priv_described_trim(struct describing *d);

/* What it does besides measuring. Returns -1 where a mistake was reported. */
int pintle_priv_described_abilities(struct describing *d);

/* A mistake in this part. Returns -1. */
int pintle_priv_described_complain(const struct describing *d, const char *format, ...)
    __attribute__((format(printf, 2, 3)));

#endif
