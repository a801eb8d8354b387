/* Core and parts without floats (PINTLE_WHOLE=1), for a test to ask: each line of the input is a
 * part, its settings' options and, in hexadecimal, its trim ("-" for none) and its raw block; the
 * answer is value, decimals and quality of each channel. */
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "pintle/sample.h"
#include "pintle/parts.h"

#define pintle_veml7700 pintle_tmp102 /* it has a curve, and is not there */

static const struct pintle_part *find(const char *name)
{
#define PINTLE_WHOLE_PART(part, file, bus, place, flash) &pintle_##part,
    static const struct pintle_part *const parts[] = { PINTLE_PART_LIST(PINTLE_WHOLE_PART) };
    for (size_t i = 0; i < sizeof parts / sizeof parts[0]; i++) {
        if (strcmp(parts[i]->name, name) == 0) {
            return parts[i];
        }
    }
    return NULL;
}

static void take_hex(const char *text, uint8_t *bytes, size_t room)
{
    unsigned byte = 0;
    for (size_t i = 0; i < room && sscanf(text + 2 * i, "%2x", &byte) == 1; i++) {
        bytes[i] = (uint8_t)byte;
    }
}

int main(void)
{
    char name[16];
    char options[40];
    char trim_text[140];
    char raw_text[80];
    while (scanf("%15s %39s %139s %79s", name, options, trim_text, raw_text) == 4) {
        const struct pintle_part *part = find(name);
        struct pintle_sample sample;
        uint8_t settings[PINTLE_MOST_SETTINGS] = { 0 };
        uint8_t trim[64] = { 0 };
        if (!part) {
            return 1;
        }
        memset(&sample, 0, sizeof sample);
        for (size_t s = 0; s < part->setting_count; s++) {
            settings[s] = (uint8_t)(options[s] - 'a');
        }
        take_hex(trim_text, trim, sizeof trim);
        take_hex(raw_text, sample.raw, sizeof sample.raw);
        const struct pintle_block block = { .raw = sample.raw, .trim = trim, .settings = settings };
        pintle_sample_decode(part, &block, &sample);
        for (uint8_t c = 0; c < part->channel_count; c++) {
            printf("%ld %u %u ", (long)sample.channel[c].value, part->channels[c].decimals,
                   sample.channel[c].quality);
        }
        printf("\n");
    }
    return 0;
}
