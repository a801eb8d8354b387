#include "pintle/status.h"

#include "pintle/quality.h"

const char *pintle_status_word(enum pintle_status status)
{
    switch (status) {
#define PINTLE_STATUS_WORD(name, word, sentence)                                                   \
    case PINTLE_##name:                                                                            \
        return word;
        PINTLE_STATUS_LIST(PINTLE_STATUS_WORD)
    default:
        return "unknown";
    }
}

const char *pintle_status_sentence(enum pintle_status status)
{
    switch (status) {
#define PINTLE_STATUS_SENTENCE(name, word, sentence)                                               \
    case PINTLE_##name:                                                                            \
        return sentence;
        PINTLE_STATUS_LIST(PINTLE_STATUS_SENTENCE)
    default:
        return "unknown";
    }
}

const char *pintle_quality_word(uint8_t bit)
{
    switch (bit) {
#define PINTLE_QUALITY_WORD(name, number, word, sentence)                                          \
    case 1 << number:                                                                              \
        return word;
        PINTLE_QUALITY_LIST(PINTLE_QUALITY_WORD)
    default:
        return "unknown";
    }
}

const char *pintle_quality_sentence(uint8_t bit)
{
    switch (bit) {
#define PINTLE_QUALITY_SENTENCE(name, number, word, sentence)                                      \
    case 1 << number:                                                                              \
        return sentence;
        PINTLE_QUALITY_LIST(PINTLE_QUALITY_SENTENCE)
    default:
        return "unknown";
    }
}
