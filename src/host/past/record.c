#include "host/past/record.h"

#include <float.h>
#include <glib.h>
#include <math.h>
#include <string.h>

#include "pintle/calendar.h"
#include "pintle/text.h"
#include "pintle/host/run/run.h"

static enum pintle_quantity quantity_of(const char *symbol)
{
    enum pintle_quantity q = (enum pintle_quantity)0;
    while (q < PINTLE_QUANTITY_COUNT && strcmp(pintle_quantity_symbol(q), symbol) != 0) {
        q = (enum pintle_quantity)(q + 1);
    }
    return q;
}

/* Of a run that doesn't say: what is usual. */
static uint8_t usual_decimals(enum pintle_quantity quantity)
{
    enum pintle_unit unit = pintle_quantity_unit(quantity);
    double size = (double)(pintle_unit_show(unit, 1) - pintle_unit_show(unit, 0));
    return (uint8_t)CLAMP(2 + (int)floor(log10(size)), 0, 6);
}

/* What the run itself says of a column. False: it is of another unit. */
static bool take_about(struct pintle_run_column *column, const char *unit,
                       const struct pintle_past *run)
{
    bool same = true;
    column->decimals = usual_decimals(column->quantity);
    for (unsigned i = 0; i < run->channels; i++) {
        if (strcmp(run->channel[i].name, column->name) == 0) {
            column->decimals = run->channel[i].decimals;
            column->made = run->channel[i].made;
            same = !run->channel[i].unit || g_strcmp0(run->channel[i].unit, unit) == 0;
        }
    }
    return same;
}

/* "baro.temperature.uncorrected/Cel" stands behind "baro.temperature/Cel" and belongs to it. */
static bool take_beside(struct pintle_layout *layout, const char *name)
{
    struct pintle_place_in *to = &layout->into[layout->fields];
    struct pintle_run_column *last =
        layout->columns > 0 ? &layout->column[layout->columns - 1] : NULL;
    size_t length = last && last->name ? strlen(last->name) : 0;
    if (length == 0 || strncmp(name, last->name, length) != 0) {
        return false;
    }
    to->column = layout->columns - 1;
    if (g_str_has_prefix(name + length, PINTLE_RUN_UNCORRECTED "/") && !last->corrected) {
        to->is = PINTLE_FIELD_UNCORRECTED;
        return last->corrected = true;
    }
    if (g_str_has_prefix(name + length, PINTLE_RUN_UNCERTAINTY "/") && !last->uncertain) {
        to->is = PINTLE_FIELD_UNCERTAINTY;
        return last->uncertain = true;
    }
    return false;
}

/* As every name of ours: something, with no blank and nothing that a terminal would obey. */
static bool is_name(const char *name)
{
    const char *at = name;
    while (g_ascii_isgraph(*at)) {
        at++;
    }
    return at > name && *at == '\0';
}

static bool is_twice(const struct pintle_layout *layout, const char *name)
{
    unsigned i = 0;
    while (i < layout->columns && strcmp(layout->column[i].name, name) != 0) {
        i++;
    }
    return i < layout->columns;
}

/* "cabin.temperature/Cel"; what is in front of the slash must be there, and once. */
static bool take_column(struct pintle_layout *layout, const char *name,
                        const struct pintle_past *run)
{
    const char *slash = strchr(name, '/');
    const char *end = slash ? slash : name + strlen(name);
    struct pintle_run_column *column = &layout->column[layout->columns];
    column->quantity = slash ? quantity_of(slash + 1) : PINTLE_QUANTITY_COUNT;
    column->name = g_strndup(name, (gsize)(end - name));
    bool same = take_about(column, slash ? slash + 1 : NULL, run);
    bool ok = same && is_name(column->name) && !is_twice(layout, column->name);
    layout->into[layout->fields] =
        (struct pintle_place_in){ layout->columns++, PINTLE_FIELD_VALUE };
    return ok;
}

bool pintle_priv_layout_make(struct pintle_layout *layout, char *const *names, unsigned count,
                             const struct pintle_past *run)
{
    bool ok = count >= 4 && strcmp(names[0], "record") == 0 && strcmp(names[1], "time") == 0
              && strcmp(names[count - 1], "quality") == 0;
    layout->column = g_new0(struct pintle_run_column, count);
    layout->into = g_new0(struct pintle_place_in, count);
    for (unsigned i = 2; ok && i + 1 < count; i++) {
        ok = take_beside(layout, names[i]) || take_column(layout, names[i], run);
        layout->fields++;
    }
    return ok;
}

void pintle_priv_layout_free(struct pintle_layout *layout)
{
    for (unsigned i = 0; i < layout->columns; i++) {
        g_free(layout->column[i].name);
    }
    g_free(layout->column);
    g_free(layout->into);
    *layout = (struct pintle_layout){ 0 };
}

void pintle_priv_cells_clear(struct pintle_cell *cells, unsigned count)
{
    for (unsigned i = 0; i < count; i++) {
        cells[i] = (struct pintle_cell){ .value = (double)NAN,
                                         .uncorrected = (double)NAN,
                                         .uncertainty = (double)NAN,
                                         .least = (double)NAN,
                                         .greatest = (double)NAN,
                                         .odd = (double)NAN };
    }
}

void pintle_priv_cell_put(const struct pintle_layout *layout, struct pintle_cell *cells,
                          unsigned field, double value)
{
    struct pintle_cell *cell = &cells[layout->into[field].column];
    double *to = layout->into[field].is == PINTLE_FIELD_VALUE         ? &cell->value
                 : layout->into[field].is == PINTLE_FIELD_UNCORRECTED ? &cell->uncorrected
                                                                      : &cell->uncertainty;
    *to = value;
}

static pintle_marks bit_of(const char *word, size_t length)
{
    for (pintle_marks bit = 1; bit != 0; bit <<= 1) {
        const char *its = pintle_quality_word(bit);
        if (bit != PINTLE_CELL_UNKNOWN && strlen(its) == length
            && strncmp(its, word, length) == 0) {
            return bit;
        }
    }
    return PINTLE_CELL_UNKNOWN;
}

static pintle_marks bits_of(const char *words, size_t length)
{
    pintle_marks bits = 0;
    while (length > 0) {
        size_t word = 0;
        while (word < length && words[word] != '+') {
            word++;
        }
        bits |= bit_of(words, word);
        words += word + (word < length);
        length -= word + (word < length);
    }
    return bits;
}

pintle_marks pintle_priv_marks_parse(const char *words)
{
    return bits_of(words, strlen(words));
}

char *pintle_marks_text(pintle_marks quality)
{
    GString *text = g_string_new(NULL);
    for (pintle_marks bit = 1; bit != 0; bit <<= 1) {
        if (quality & bit) {
            g_string_append_printf(text, "%s%s", text->len ? "+" : "", pintle_quality_word(bit));
        }
    }
    return g_string_free(text, FALSE);
}

bool pintle_priv_whole_parse(const char *text, size_t length, uint64_t most, uint64_t *number)
{
    *number = 0;
    for (size_t i = 0; i < length; i++) {
        uint64_t digit = (uint64_t)(text[i] - '0');
        if (!g_ascii_isdigit(text[i]) || *number > (most - digit) / 10) {
            return false;
        }
        *number = *number * 10 + digit;
    }
    return length > 0;
}

/* A thousand years: no clock is moved further. */
#define STEP_MOST_MS ((uint64_t)1 << 45)

static bool take_step(const char *words, size_t length, int64_t *stepped_us)
{
    uint64_t ms = 0;
    bool back = length > 0 && words[0] == '-';
    bool ok = length > 2u + back && strncmp(words + length - 2, "ms", 2) == 0
              && pintle_priv_whole_parse(words + back, length - 2 - back, STEP_MOST_MS, &ms);
    *stepped_us = (back ? -1000 : 1000) * (int64_t)ms;
    return ok;
}

/* "cabin.temperature=jump+warming" */
static bool take_marks(const struct pintle_layout *layout, struct pintle_cell *cells,
                       const char *name, size_t length, pintle_marks marks)
{
    for (unsigned i = 0; i < layout->columns; i++) {
        const char *its = layout->column[i].name;
        if (strncmp(its, name, length) == 0 && its[length] == '\0') {
            cells[i].quality |= marks;
            return true;
        }
    }
    return false;
}

static bool is(const char *words, size_t length, const char *word)
{
    return strlen(word) == length && strncmp(words, word, length) == 0;
}

/* One of those, or "missed=3", "clock-step=3600000ms", "clock=never-set". False: it says something
 * else, of which nobody knows what it means for the values. */
static bool take_remark(const struct pintle_layout *layout, struct pintle_cell *cells,
                        const char *remark, size_t length, struct pintle_record *record)
{
    const char *sign = memchr(remark, '=', length);
    size_t name = sign ? (size_t)(sign - remark) : 0;
    const char *says = sign ? sign + 1 : remark;
    size_t left = length - (size_t)(says - remark);
    uint64_t missed = 0;
    if (name == 0) {
        return false;
    }
    if (is(remark, name, "missed")) {
        bool ok = pintle_priv_whole_parse(says, left, UINT32_MAX, &missed);
        record->missed = (uint32_t)missed;
        return ok;
    }
    if (is(remark, name, "clock-step")) {
        return take_step(says, left, &record->stepped_us);
    }
    if (is(remark, name, "clock")) {
        record->unset = is(says, left, "never-set");
        return record->unset;
    }
    return left > 0 && take_marks(layout, cells, remark, name, bits_of(says, left));
}

bool pintle_cell_good(const struct pintle_cell *cell)
{
    return cell->good > 0;
}

bool pintle_priv_record_mark(const struct pintle_layout *layout, struct pintle_cell *cells,
                             const char *words, struct pintle_record *record)
{
    bool any = *words != '\0';
    bool known = true;
    bool good = strcmp(words, "good") == 0;
    while (*words && !good) {
        const char *end = strstr(words, "; ");
        size_t length = end ? (size_t)(end - words) : strlen(words);
        known = take_remark(layout, cells, words, length, record) && known;
        words += length + (end ? 2 : 0);
    }
    for (unsigned i = 0; i < layout->columns && !known; i++) {
        cells[i].quality |= PINTLE_CELL_UNKNOWN;
    }
    record->marked = false;
    for (unsigned i = 0; i < layout->columns; i++) {
        struct pintle_cell *cell = &cells[i];
        bool suspect = cell->quality & (PINTLE_QUALITY_SUSPECT | PINTLE_CELL_UNKNOWN);
        cell->good = !suspect && !isnan(cell->value);
        cell->suspect = suspect;
        record->marked |= suspect;
        cell->least = cell->greatest = cell->good ? cell->value : (double)NAN;
        cell->odd = suspect ? cell->value : (double)NAN;
        cell->below = cell->good && cell->value < 0;
    }
    return any;
}

bool pintle_priv_value_parse(const char *text, double *value)
{
    const char *at = text;
    char *end = NULL;
    while (g_ascii_isdigit(*at) || (*at && strchr("+-.e", *at))) {
        at++;
    }
    *value = text[0] ? g_ascii_strtod(text, &end) : (double)NAN;
    return text[0] == '\0' || (*at == '\0' && end == at && fabs(*value) <= (double)FLT_MAX);
}

static bool digits(const char **at, unsigned count, unsigned *number)
{
    *number = 0;
    for (unsigned i = 0; i < count; i++) {
        if (!g_ascii_isdigit(**at)) {
            return false;
        }
        *number = *number * 10 + (unsigned)(*(*at)++ - '0');
    }
    return true;
}

static bool sign(const char **at, char one)
{
    return *(*at)++ == one;
}

bool pintle_priv_time_parse(const char *text, int64_t *time_us)
{
    unsigned year, month, day, hour, minute, second;
    unsigned parts = 0;
    const char *at = text;
    if (!(digits(&at, 4, &year) && sign(&at, '-') && digits(&at, 2, &month) && sign(&at, '-')
          && digits(&at, 2, &day) && (*at == 'T' || *at == ' ') && sign(&at, *at)
          && digits(&at, 2, &hour) && sign(&at, ':') && digits(&at, 2, &minute) && sign(&at, ':')
          && digits(&at, 2, &second))) {
        return false;
    }
    unsigned scale = 1000000;
    if (*at == '.') {
        at++;
        for (; g_ascii_isdigit(*at) && scale > 1; at++) {
            scale /= 10;
            parts += (unsigned)(*at - '0') * scale;
        }
    }
    const struct pintle_calendar date = { .year = (uint16_t)year,
                                          .month = (uint8_t)month,
                                          .day = (uint8_t)day,
                                          .hour = (uint8_t)hour,
                                          .minute = (uint8_t)minute,
                                          .second = (uint8_t)second };
    bool real = year > 0 && month >= 1 && month <= 12 && hour < 24 && minute < 60 && second < 60
                && day >= 1 && day <= g_date_get_days_in_month((GDateMonth)month, (GDateYear)year);
    *time_us = real ? pintle_calendar_seconds(&date) * 1000000 + parts : 0;
    return real && at[0] == 'Z' && at[1] == '\0';
}
