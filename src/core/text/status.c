#include "pintle/status.h"

#include "pintle/reading.h"
#include "pintle/table.h"

/* Each text is a table of its own, found through tables of pointers, so that on a Harvard machine
 * none of it takes RAM. */
#define STATUS_TEXTS(name, word, sentence)                                                         \
    static const char word_##name[] PINTLE_TABLE = word;                                           \
    static const char sentence_##name[] PINTLE_TABLE = sentence;
PINTLE_STATUS_LIST(STATUS_TEXTS)

#define QUALITY_TEXTS(name, number, word, sentence)                                                \
    static const char quality_##name[] PINTLE_TABLE = word;                                        \
    static const char quality_sentence_##name[] PINTLE_TABLE = sentence;
PINTLE_QUALITY_LIST(QUALITY_TEXTS)

#define STATUS_WORD(name, word, sentence) word_##name,
#define STATUS_SENTENCE(name, word, sentence) sentence_##name,
#define QUALITY_WORD(name, number, word, sentence) quality_##name,
#define QUALITY_SENTENCE(name, number, word, sentence) quality_sentence_##name,

static const char *const words[] PINTLE_TABLE = { PINTLE_STATUS_LIST(STATUS_WORD) };
static const char *const sentences[] PINTLE_TABLE = { PINTLE_STATUS_LIST(STATUS_SENTENCE) };
static const char *const qualities[] PINTLE_TABLE = { PINTLE_QUALITY_LIST(QUALITY_WORD) };
static const char *const remarks[] PINTLE_TABLE = { PINTLE_QUALITY_LIST(QUALITY_SENTENCE) };
static const char unknown[] PINTLE_TABLE = "unknown";

#define QUALITY_BITS ((uint8_t)(sizeof qualities / sizeof qualities[0]))

static const char *status_text(const char *const *table, enum pintle_status status)
{
    return status < PINTLE_STATUS_COUNT ? pintle_table_pointer(&table[status]) : unknown;
}

const char *pintle_status_word(enum pintle_status status)
{
    return status_text(words, status);
}

const char *pintle_status_sentence(enum pintle_status status)
{
    return status_text(sentences, status);
}

static const char *quality_text(const char *const *table, pintle_marks bit)
{
    for (uint8_t i = 0; i < QUALITY_BITS; i++) {
        if (bit == 1u << i) {
            return pintle_table_pointer(&table[i]);
        }
    }
    return unknown;
}

const char *pintle_quality_word(pintle_marks bit)
{
    return quality_text(qualities, bit);
}

const char *pintle_quality_sentence(pintle_marks bit)
{
    return quality_text(remarks, bit);
}
