/* Lines of a run as columns and cells. */
#ifndef PINTLE_PRIV_PAST_RECORD_H
#define PINTLE_PRIV_PAST_RECORD_H

#include "host/run/fields.h"
#include "pintle/host/past/reader.h"

/* The columns of one run's records, and where each of their fields goes. */
struct pintle_layout {
    unsigned columns;
    struct pintle_run_column *column;
    unsigned fields; /* between time and quality */
    struct pintle_place_in {
        unsigned column;
        enum pintle_field_kind {
            PINTLE_FIELD_VALUE,
            PINTLE_FIELD_UNCORRECTED,
            PINTLE_FIELD_UNCERTAINTY
        } is;
    } * into;
};

/* From the names of the columns: "record", "time", ..., "quality". False: they are no run's. */
bool pintle_priv_layout_make(struct pintle_layout *layout, char *const *names, unsigned count,
                             const struct pintle_past *run);
void pintle_priv_layout_free(struct pintle_layout *layout);

/* Empty cells, one for each column. */
void pintle_priv_cells_clear(struct pintle_cell *cells, unsigned count);

/* A field's number into its cell. */
void pintle_priv_cell_put(const struct pintle_layout *layout, struct pintle_cell *cells,
                          unsigned field, double value);

/* The quality column's words, then what each cell stands for. A word that is not understood makes
 * the whole record unknown. False: there is no word, not even that it is good. */
bool pintle_priv_record_mark(const struct pintle_layout *layout, struct pintle_cell *cells,
                             const char *words, struct pintle_record *record);

/* A field's number, as the logger writes them: decimal; not a number where it is empty. False: it
 * is something else, or more than any reading can be. */
bool pintle_priv_value_parse(const char *text, double *value);

/* Digits and nothing else, up to `most`. */
bool pintle_priv_whole_parse(const char *text, size_t length, uint64_t most, uint64_t *number);

/* "jump+warming" as a set of quality bits. */
pintle_marks pintle_priv_marks_parse(const char *words);

/* RFC 3339 in UTC, as records have it. False: it is none. */
bool pintle_priv_time_parse(const char *text, int64_t *time_us);

#endif
