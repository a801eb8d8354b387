/* What the files that append text share. */
#ifndef PINTLE_CORE_APPEND_H
#define PINTLE_CORE_APPEND_H

#include "pintle/text.h"

/* All or nothing: where the buffer ran full, take back what was appended from `from` on. */
static inline void pintle_priv_whole(struct pintle_text *text, size_t from)
{
    if (text->full) {
        text->used = from;
        text->at[from] = '\0';
    }
}

#endif
