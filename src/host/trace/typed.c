/* A transfer that somebody types: "aft 0x48: read TEMPERATURE 2", in the words of a described
 * part's steps, or byte by byte. */
#include <glib.h>
#include <string.h>

#include "host/rig/place.h"
#include "pintle/host/trace/trace.h"

#define SEGMENTS_MAX 8
#define BYTES_MAX 32

struct typed {
    struct pintle_station *station;
    unsigned bus;
    union pintle_place place;
    bool placed;                            /* 1-Wire: a code was given */
    const struct pintle_rig_sensor *sensor; /* the rig's at this place, or null */
    char **word;
    unsigned at;
    uint8_t bytes[SEGMENTS_MAX][BYTES_MAX];
    struct pintle_segment segment[SEGMENTS_MAX]; /* sent and fetched: one transfer */
    uint8_t segments;
    bool really; /* the first time round it is only read */
    enum pintle_status status;
    struct pintle_problem *problem;
};

/* Words, with any number of blanks between. */
static char **split(const char *text)
{
    char **words = g_strsplit_set(text, " \t", -1);
    unsigned kept = 0;
    for (unsigned i = 0; words[i]; i++) {
        if (words[i][0]) {
            words[kept++] = words[i];
        } else {
            g_free(words[i]);
        }
    }
    words[kept] = NULL;
    return words;
}

static enum pintle_bus_kind kind_of(const struct typed *t)
{
    return t->station->rig->bus[t->bus].kind;
}

/* --- the place --- */

static bool take_place(struct typed *t, const char *word)
{
    const struct pintle_rig_bus *bus = &t->station->rig->bus[t->bus];
    char *end = NULL;
    guint64 address = 0;
    t->placed = word != NULL;
    switch (bus->kind) {
    case PINTLE_BUS_I2C:
        address = word ? g_ascii_strtoull(word, &end, 0) : 0;
        t->place.address = (uint8_t)address;
        return address >= 0x08 && address <= 0x77 && *end == '\0';
    case PINTLE_BUS_STREAM:
        return !word;
    case PINTLE_BUS_ONEWIRE:
        return !word || pintle_code_parse(word, t->place.code);
    default:
        while (word && t->place.select < bus->selects
               && strcmp(bus->select_pin[t->place.select], word) != 0) {
            t->place.select++;
        }
        return word && t->place.select < bus->selects;
    }
}

static void find_sensor(struct typed *t)
{
    t->placed = t->placed || kind_of(t) == PINTLE_BUS_STREAM;
    const struct pintle_rig *rig = t->station->rig;
    for (unsigned i = 0; i < rig->sensors && t->placed; i++) {
        const struct pintle_rig_sensor *s = &rig->sensor[i];
        if (s->bus == t->bus && pintle_priv_place_equal(kind_of(t), &s->place, &t->place)) {
            t->sensor = s;
        }
    }
}

/* --- byte by byte --- */

static enum pintle_status transfer_i2c(struct typed *t)
{
    return pintle_i2c_transfer(&t->station->i2c[t->bus], t->place.address, t->segment, t->segments);
}

/* The way of a chip that the rig doesn't know: mode 0, as fast as the bus allows. */
static enum pintle_status transfer_spi(struct typed *t)
{
    struct pintle_spi_way way = { .clock_hz = t->station->rig->bus[t->bus].speed_hz,
                                  .select = t->place.select };
    if (t->sensor) {
        way.mode = t->sensor->sheet->part->spi->mode;
        way.clock_hz = MIN(way.clock_hz, t->sensor->sheet->part->spi->top_hz);
    }
    return pintle_spi_transfer(&t->station->spi[t->bus], &way, t->segment, t->segments);
}

static enum pintle_status transfer_onewire(struct typed *t)
{
    struct pintle_onewire *line = &t->station->onewire[t->bus];
    enum pintle_status status = t->placed ? pintle_onewire_select(line, t->place.code)
                                          : line->calls->reset(line->common.context);
    for (unsigned i = 0; i < t->segments && status == PINTLE_OK; i++) {
        const struct pintle_segment *s = &t->segment[i];
        status =
            line->calls->slots(line->common.context, s->out, s->in, (uint16_t)(8 * s->length), 0);
    }
    return status;
}

/* So long is waited for what is fetched. */
#define ANSWER_US 300000u

static enum pintle_status transfer_line(struct typed *t)
{
    const struct pintle_stream *line = &t->station->stream[t->bus];
    enum pintle_status status = PINTLE_OK;
    for (unsigned i = 0; i < t->segments && status == PINTLE_OK; i++) {
        const struct pintle_segment *s = &t->segment[i];
        uint16_t got = 1;
        while (s->out && got > 0 && status == PINTLE_OK) { /* what came before is no answer */
            uint8_t old[BYTES_MAX];
            status = line->calls->receive(line->common.context, old, sizeof old, &got, 0);
        }
        if (s->out && status == PINTLE_OK) {
            status = line->calls->send(line->common.context, s->out, s->length, UINT32_MAX);
        }
        got = 1;
        for (uint16_t at = 0; s->in && at < s->length && got > 0 && status == PINTLE_OK;
             at += got) {
            status = line->calls->receive(line->common.context, s->in + at,
                                          (uint16_t)(s->length - at), &got, ANSWER_US);
        }
        status = status == PINTLE_OK && got == 0 ? PINTLE_NO_ANSWER : status;
    }
    return status;
}

/* What was sent and fetched so far, as one transfer. */
static void flush(struct typed *t)
{
    if (t->segments > 0 && t->really && t->status == PINTLE_OK) {
        static enum pintle_status (*const transfer[])(
            struct typed *) = { transfer_i2c, transfer_spi, transfer_onewire, transfer_line };
        t->status = transfer[kind_of(t)](t);
    }
    t->segments = 0;
}

static const char *next(struct typed *t)
{
    return t->word[t->at] ? t->word[t->at++] : NULL;
}

static bool number(struct typed *t, guint64 least, guint64 most, guint64 *value)
{
    const char *word = next(t);
    char *end = NULL;
    *value = word ? g_ascii_strtoull(word, &end, 0) : 0;
    return word && g_ascii_isdigit(word[0]) && *end == '\0' && *value >= least && *value <= most;
}

static bool is_byte(const char *word)
{
    return word && g_ascii_isxdigit(word[0]) && g_ascii_isxdigit(word[1]) && word[2] == '\0';
}

static bool do_send(struct typed *t)
{
    if (t->segments == SEGMENTS_MAX) {
        return false;
    }
    uint8_t *bytes = t->bytes[t->segments];
    uint16_t count = 0;
    for (; is_byte(t->word[t->at]) && count < BYTES_MAX; count++) {
        const char *word = next(t);
        bytes[count] =
            (uint8_t)(g_ascii_xdigit_value(word[0]) * 16 + g_ascii_xdigit_value(word[1]));
    }
    t->segment[t->segments++] = (struct pintle_segment){ bytes, NULL, count };
    return count > 0;
}

static bool do_fetch(struct typed *t)
{
    guint64 count = 0;
    if (t->segments == SEGMENTS_MAX || !number(t, 1, BYTES_MAX, &count)) {
        return false;
    }
    t->segment[t->segments] =
        (struct pintle_segment){ NULL, t->bytes[t->segments], (uint16_t)count };
    t->segments++;
    return true;
}

/* --- by register, in the way of the sensor that sits there --- */

static void no_register(const struct typed *t, const char *word)
{
    const struct pintle_sheet *sheet = t->sensor->sheet;
    const char **names = g_new0(const char *, sheet->reg_count + 1u);
    for (unsigned i = 0; i < sheet->reg_count; i++) {
        names[i] = sheet->regs[i].name;
    }
    const char *nearest = pintle_problem_nearest(word, names, sheet->reg_count);
    if (nearest) {
        pintle_problem_set(t->problem, PINTLE_FAILURE_USE,
                           "a %s has no register '%s'; did you mean '%s'?", sheet->part->name, word,
                           nearest);
    } else {
        pintle_problem_set(t->problem, PINTLE_FAILURE_USE,
                           "a %s has no register '%s'; 'pintle regs %s' names them, and a number "
                           "will do",
                           sheet->part->name, word, t->sensor->name);
    }
    g_free(names);
}

/* A name of the sensor's part, or a number; a number's width is one byte. */
static bool take_register(struct typed *t, struct pintle_reg *reg)
{
    const struct pintle_sheet *sheet = t->sensor->sheet;
    for (unsigned i = 0; t->word[t->at] && i < sheet->reg_count; i++) {
        if (g_ascii_strcasecmp(sheet->regs[i].name, t->word[t->at]) == 0) {
            *reg = sheet->regs[i].reg;
            t->at++;
            return true;
        }
    }
    guint64 address = 0;
    const char *word = t->word[t->at];
    bool ok = number(t, 0, 0xffff, &address);
    if (!ok && word) {
        no_register(t, word);
    }
    *reg = (struct pintle_reg)PINTLE_REG((uint16_t)address, 1, 0);
    return ok;
}

#define ASK_AGAIN_US 500

/* One dealing with the sensor: `in` to read, else `out` to write. What the bus knows of the chip is
 * forgotten, so that everything is on the bus that was typed. */
static void talk(struct typed *t, uint16_t reg, const uint8_t *out, uint8_t *in, uint8_t count)
{
    struct pintle_any any;
    struct pintle_sensor *sensor = &any.sensor;
    const struct pintle_part *part = t->sensor->sheet->part;
    flush(t);
    if (!t->really || t->status != PINTLE_OK) {
        return;
    }
    t->status = pintle_station_wire(t->station, &any, part, t->bus, &t->place);
    t->status = t->status == PINTLE_OK ? pintle_bus_claim(sensor->bus.any) : t->status;
    if (t->status != PINTLE_OK) {
        return;
    }
    if (part->link->forget) {
        part->link->forget(sensor);
    }
    do {
        t->status = in ? part->link->receive(sensor, reg, in, count)
                       : part->link->send(sensor, reg, out, count);
        if (t->status == PINTLE_NOT_READY) {
            pintle_station_wait(t->station, ASK_AGAIN_US, NULL);
        }
    } while (t->status == PINTLE_NOT_READY);
    pintle_bus_release(sensor->bus.any);
}

static bool do_read(struct typed *t)
{
    struct pintle_reg reg;
    uint8_t bytes[BYTES_MAX];
    if (!t->sensor || !take_register(t, &reg)) {
        return false;
    }
    const struct pintle_part_crc *crc = t->sensor->sheet->part->crc;
    guint64 count = reg.width + (crc && crc->bits ? reg.width / crc->span * (crc->bits / 8u) : 0u);
    if (t->word[t->at] && !number(t, 1, BYTES_MAX, &count)) {
        return false;
    }
    talk(t, reg.address, NULL, bytes, (uint8_t)count);
    return true;
}

/* In the part's byte order. */
static bool do_write(struct typed *t)
{
    struct pintle_reg reg;
    uint8_t bytes[4];
    guint64 value = 0;
    if (!t->sensor || !take_register(t, &reg)
        || !number(t, 0, ((guint64)1 << 8 * reg.width) - 1, &value)) {
        return false;
    }
    bool high_first = t->sensor->sheet->part->flags & PINTLE_PART_BIG_ENDIAN;
    for (uint8_t i = 0; i < reg.width; i++) {
        bytes[i] = (uint8_t)(value >> 8 * (high_first ? reg.width - 1 - i : i));
    }
    talk(t, reg.address, bytes, NULL, reg.width);
    return true;
}

static bool do_command(struct typed *t)
{
    guint64 code = 0;
    if (!t->sensor || !number(t, 0, 0xffff, &code)) {
        return false;
    }
    talk(t, (uint16_t)code, NULL, NULL, 0);
    return true;
}

/* --- the whole --- */

static bool do_step(struct typed *t, const char *text)
{
    static const struct {
        const char *word;
        bool (*run)(struct typed *t);
    } verbs[] = { { "read", do_read },
                  { "write", do_write },
                  { "command", do_command },
                  { "send", do_send },
                  { "fetch", do_fetch } };
    t->word = split(text);
    t->at = 1;
    bool ok = false;
    for (unsigned i = 0; t->word[0] && i < G_N_ELEMENTS(verbs); i++) {
        if (strcmp(verbs[i].word, t->word[0]) == 0) {
            ok = verbs[i].run(t) && !t->word[t->at];
        }
    }
    g_strfreev(t->word);
    return ok;
}

/* An address and no steps: the address alone. */
static bool do_steps(struct typed *t, const char *steps)
{
    if (strspn(steps, " \t") == strlen(steps)) {
        t->segment[0] = (struct pintle_segment){ NULL, NULL, 0 };
        t->segments = 1;
        flush(t);
        return kind_of(t) == PINTLE_BUS_I2C;
    }
    char **each = g_strsplit(steps, ",", -1);
    bool ok = true;
    for (unsigned i = 0; each[i] && ok; i++) {
        ok = do_step(t, each[i]);
    }
    g_strfreev(each);
    flush(t);
    return ok;
}

bool pintle_trace_typed(struct pintle_station *station, const char *text,
                        enum pintle_status *status, struct pintle_problem *problem)
{
    char **halves = g_strsplit(text, ":", 2);
    char **words = split(text[0] ? halves[0] : "");
    struct typed t = { .station = station, .problem = problem };
    int bus = words[0] ? pintle_rig_find_bus(station->rig, words[0]) : -1;
    t.bus = (unsigned)MAX(bus, 0);
    bool ok = bus >= 0 && (!words[1] || !words[2]) && take_place(&t, words[1]);
    if (ok) {
        const char *steps = halves[1] ? halves[1] : "";
        find_sensor(&t);
        ok = do_steps(&t, steps);
        t.really = ok;
        (void)(ok && do_steps(&t, steps));
    }
    g_strfreev(words);
    g_strfreev(halves);
    *status = t.status;
    return ok
           || pintle_problem_set(
               problem, PINTLE_FAILURE_USE,
               "'%s' is no transfer; write a bus and a place (I2C: a 7-bit address, SPI: a select "
               "pin, 1-Wire: a code or nothing, serial: nothing), a colon, and steps with commas "
               "between: send "
               "BYTES, fetch COUNT (up to %d) and, where the rig has a sensor, read REGISTER "
               "[COUNT], write REGISTER VALUE, command CODE, as in \"%s 0x48: send 01, fetch 2\"",
               text, BYTES_MAX, station->rig->bus[0].name);
}
