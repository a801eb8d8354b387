/* A part that a rig file describes, while it is read. */
#ifndef PINTLE_HOST_DESCRIBED_H
#define PINTLE_HOST_DESCRIBED_H

#include "host/loading.h"

struct describing {
    cfg_t *cfg, *section;
    struct pintle_part *part;
    struct pintle_sheet *sheet;
    unsigned raw; /* bytes of the raw block that the measuring steps have read so far */
};

/* The register of this name, or null. */
const struct pintle_map_reg *described_reg(const struct describing *d, const char *name);

/* What is written in words, while they are read: `ok` until one doesn't fit. */
struct described_words {
    const struct describing *d;
    char **word;
    unsigned at;
    bool ok;
};

/* The next word; null behind the last. */
const char *described_word(struct described_words *w);

/* The word that must come next. */
void described_keyword(struct described_words *w, const char *word);

/* A number, decimal or hexadecimal (0x). */
uint32_t described_number(struct described_words *w, uint32_t most);

/* The steps of an option ("identity", "start", "measure") as a table. Null: a mistake was
 * reported. */
const struct pintle_step *described_steps(struct describing *d, const char *option);

/* Its channels. Returns -1 where a mistake was reported. */
int described_channels(struct describing *d);

/* A mistake in this part. Returns -1. */
int described_complain(const struct describing *d, const char *format, ...)
    __attribute__((format(printf, 2, 3)));

#endif
