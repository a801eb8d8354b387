/* Without floats the same: each part's decoding in whole numbers against that in floats. */
#include "support.h"

#define BLOCKS 3000

static void put_hex(GString *text, const uint8_t *bytes, size_t count)
{
    for (size_t i = 0; i < count; i++) {
        g_string_append_printf(text, "%02x", bytes[i]);
    }
    g_string_append(text, count ? " " : "- ");
}

/* A true trim of a simulated specimen, and a block that a chip may send: dense where it matters. */
struct asked {
    uint8_t settings[PINTLE_MOST_SETTINGS];
    uint8_t trim[64];
    uint8_t raw[PINTLE_MOST_RAW];
};

static void ask(const struct pintle_part *part, const struct bench *bench, unsigned n,
                struct asked *a)
{
    memcpy(a->trim, pintle_sensor_block(&bench->sensor).trim, part->trim_size);
    for (unsigned s = 0; s < part->setting_count; s++) {
        a->settings[s] = (uint8_t)((unsigned)rand() % part->settings[s].count);
    }
    for (unsigned i = 0; i < part->raw_size; i++) {
        a->raw[i] = (uint8_t)(rand() % 7 ? rand() >> 7 : rand() % 2 ? 0 : 0xff);
    }
    if (n % 3 == 0) { /* upwards through all codes */
        a->raw[0] = (uint8_t)(n * 22 >> 8);
        a->raw[1] = (uint8_t)(n * 22);
    }
}

/* What the program says of them all. */
static char *answers(const char *questions)
{
    char *argv[] = { (char *)(uintptr_t)WHOLE, NULL };
    char *folder = scratch_make();
    char *line = g_strdup_printf("%s < %s/q > %s/a", argv[0], folder, folder);
    file_write(folder, "q", questions);
    EXPECT(system(line) == 0, "%s", line);
    char *out = file_text(folder, "a");
    g_free(line);
    scratch_remove(folder);
    return out;
}

static void within_one_unit_of_the_last_place(void)
{
    for (size_t p = 0; p < measuring_count(); p++) {
        const struct pintle_part *part = measuring_at(p)->part;
        struct asked *asked = g_new0(struct asked, BLOCKS);
        struct pintle_sample first;
        struct bench bench;
        GString *questions = g_string_new(NULL);
        if (strcmp(part->name, "VEML7700") == 0) { /* has a curve */
            g_free(asked);
            g_string_free(questions, TRUE);
            continue;
        }
        bench_make_seeded(&bench, part, bench_place(part), p + 1);
        pintle_sim_pass(&bench.sim, 1000000);
        CU_ASSERT_EQUAL(bench_read(&bench, &first), PINTLE_OK);
        srand((unsigned)p + 5);
        for (unsigned n = 0; n < BLOCKS; n++) {
            ask(part, &bench, n, &asked[n]);
            g_string_append_printf(questions, "%s ", part->name);
            for (unsigned s = 0; s < part->setting_count; s++) {
                g_string_append_c(questions, (char)('a' + asked[n].settings[s]));
            }
            g_string_append(questions, part->setting_count ? " " : "- ");
            put_hex(questions, asked[n].trim, part->trim_size);
            put_hex(questions, asked[n].raw, part->raw_size);
            g_string_append_c(questions, '\n');
        }
        char *out = answers(questions->str);
        char **lines = g_strsplit(out, "\n", -1);
        unsigned wrong = 0;
        EXPECT(g_strv_length(lines) == BLOCKS + 1, "%s: %u answers", part->name,
               g_strv_length(lines));
        for (unsigned n = 0; n < BLOCKS && lines[n]; n++) {
            struct pintle_sample sample = { 0 };
            const struct pintle_block block = { .raw = asked[n].raw,
                                                .trim = asked[n].trim,
                                                .settings = asked[n].settings };
            pintle_sample_decode(part, &block, &sample);
            char **words = g_strsplit(lines[n], " ", -1);
            for (uint8_t c = 0; c < part->channel_count && words[3 * c]; c++) {
                const struct pintle_reading *reading = &sample.channel[c];
                double unit = pow(10, -part->channels[c].decimals);
                double whole = g_ascii_strtod(words[3 * c], NULL) * unit;
                unsigned quality = (unsigned)atoi(words[3 * c + 2]);
                /* a float has 24 bits; a whole number 31 */
                double worst = 1.01 * unit + 4e-7 * fabs((double)reading->value);
                bool near_limit =
                    fabs((double)(reading->value - part->channels[c].lowest)) < worst
                    || fabs((double)(reading->value - part->channels[c].highest)) < worst;
                bool beyond = fabs((double)reading->value) / unit > 2147483646.0;
                bool none = isnan(reading->value) && strcmp(words[3 * c], "-2147483648") == 0
                            && quality == reading->quality;
                bool same =
                    fabs(whole - (double)reading->value) <= worst
                    && (quality == reading->quality
                        || ((quality ^ reading->quality) == PINTLE_QUALITY_RANGE && near_limit));
                bool is_time = part->channels[c].quantity == PINTLE_QUANTITY_TIME;
                if (!none && !same && !beyond && !is_time && wrong++ < 3) {
                    EXPECT(0, "%s, block %u, channel %u: %.9g %x, not %.9g %x", part->name, n, c,
                           whole, quality, (double)reading->value, reading->quality);
                }
            }
            g_strfreev(words);
        }
        EXPECT(wrong == 0, "%s: %u differ", part->name, wrong);
        g_strfreev(lines);
        g_free(out);
        g_free(asked);
        g_string_free(questions, TRUE);
    }
}

void add_whole_suite(void)
{
    SUITE("whole", { "within one unit of the last place", within_one_unit_of_the_last_place });
}
