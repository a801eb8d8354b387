/* The two places that a run goes into. Each call but the last returns false with the problem set.
 */
#ifndef PINTLE_PRIV_RUN_PLACES_H
#define PINTLE_PRIV_RUN_PLACES_H

#include "pintle/host/run/run.h"

/* Texts that are kept with a run, under these names. */
#define PINTLE_RUN_TEXTS 3
struct pintle_run_texts {
    const char *text[PINTLE_RUN_TEXTS]; /* null: there is none */
};
extern const char *const pintle_priv_run_text_names[PINTLE_RUN_TEXTS];

/* Every file of a run folder that we write. */
#define PINTLE_RUN_FILES (PINTLE_RUN_TEXTS + 3)
extern const char *const pintle_priv_run_files[PINTLE_RUN_FILES];

/* --- a numbered folder --- */

/* The number at the beginning of a folder's name; 0: it has none that a run could have. */
unsigned pintle_priv_run_number(const char *name);

/* Make it, whole but for its number, under `folder`. Null on failure. */
struct pintle_run_folder *pintle_priv_folder_make(const char *folder, const char *about,
                                                  const struct pintle_run_texts *texts,
                                                  const struct pintle_run_line *header,
                                                  struct pintle_problem *problem);
/* Give it this number, or the next that is free; *number says which. */
bool pintle_priv_folder_take(struct pintle_run_folder *folder, unsigned *number,
                             struct pintle_problem *problem);
const char *pintle_priv_folder_path(const struct pintle_run_folder *folder);
bool pintle_priv_folder_append(struct pintle_run_folder *folder, const char *bytes, size_t count,
                               struct pintle_problem *problem);
bool pintle_priv_folder_end(struct pintle_run_folder *folder, const char *about,
                            struct pintle_problem *problem);
/* Leave nothing behind of a run that could not begin. */
void pintle_priv_folder_discard(struct pintle_run_folder *folder);
void pintle_priv_folder_free(struct pintle_run_folder *folder);

/* --- a database --- */

/* Open it, and hold it for a new run: nobody else can take a number until base_begin or _free. Its
 * highest number is *last. Null on failure. */
struct pintle_run_base *pintle_priv_base_hold(const char *path, unsigned *last,
                                              struct pintle_problem *problem);
bool pintle_priv_base_begin(struct pintle_run_base *base, unsigned number, const char *about,
                            const struct pintle_run_texts *texts,
                            const struct pintle_run_line *header, struct pintle_problem *problem);
bool pintle_priv_base_append(struct pintle_run_base *base, const struct pintle_run *run,
                             const struct pintle_run_line *line, struct pintle_problem *problem);
bool pintle_priv_base_end(struct pintle_run_base *base, const char *about, const char *how,
                          struct pintle_problem *problem);
struct sqlite3;
struct sqlite3 *pintle_priv_base_db(const struct pintle_run_base *base);
const char *pintle_priv_base_path(const struct pintle_run_base *base);
void pintle_priv_base_free(struct pintle_run_base *base);

#endif
