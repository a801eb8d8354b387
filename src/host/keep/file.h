/* The calibration file as JSON. */
#ifndef PINTLE_PRIV_KEEP_FILE_H
#define PINTLE_PRIV_KEEP_FILE_H

#include <jansson.h>

#include "pintle/host/keep/calibration.h"

/* A text, or the rig's file, as {"format", "corrections": [...]}; or null. */
json_t *pintle_priv_entries_parse(const char *name, const char *text,
                                  struct pintle_problem *problem);
json_t *pintle_priv_entries_read(const struct pintle_rig *rig, struct pintle_problem *problem);
/* Until it is closed no other program changes them (files.h). */
int pintle_priv_entries_lock(const struct pintle_rig *rig, struct pintle_problem *problem);
bool pintle_priv_entries_write(const struct pintle_rig *rig, const json_t *root,
                               struct pintle_problem *problem);

/* Its entries, or one of them, and back: add one, in use, whose number is returned. */
void pintle_priv_entries_take(const struct pintle_rig *rig, json_t *root,
                              struct pintle_entries *entries);
void pintle_priv_entry_take(const struct pintle_rig *rig, json_t *from, struct pintle_entry *to);
unsigned pintle_priv_entries_add(const struct pintle_rig *rig, json_t *root, json_t *entry);

/* Are its numbers some, and is its second channel there? */
bool pintle_priv_entry_valid(const struct pintle_calibration *calibration);

#endif
