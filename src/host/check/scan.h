/* What the files of the scan share, one of which there is for each kind of bus. */
#ifndef PINTLE_PRIV_CHECK_SCAN_H
#define PINTLE_PRIV_CHECK_SCAN_H

#include "pintle/host/check/scan.h"

struct scanning {
    struct pintle_station *station;
    struct pintle_scan *scan;
    unsigned bus;
};

/* A new finding on this bus; `sensor` is an index of the rig, or -1. */
struct pintle_finding *pintle_priv_scan_add(const struct scanning *s, const char *where,
                                            int sensor);

/* The sensor that the rig has at this place of the bus, or -1. */
int pintle_priv_scan_expected(const struct scanning *s, const char *where);

/* A finding on the bus itself: BROKEN, then it is the only one, or MARGINAL. */
void pintle_priv_scan_bus(const struct scanning *s, enum pintle_finding_kind kind,
                          enum pintle_hint hint);

/* A status of the system rather than of a chip: say so of the whole bus, in the port's own words
 * where it has any. False: it is none. */
bool pintle_priv_scan_system(const struct scanning *s, enum pintle_status status);

/* Say of a finding what it is, in the words of a hint. */
void pintle_priv_scan_tell(struct pintle_finding *finding, enum pintle_finding_kind kind,
                           enum pintle_hint hint, const struct pintle_hint_names *names);

/* Does `sheet`'s part prove itself at the finding's place? */
enum pintle_status pintle_priv_scan_prove(const struct scanning *s,
                                          const struct pintle_sheet *sheet,
                                          const struct pintle_finding *finding);
bool pintle_priv_scan_proves(const struct scanning *s, const struct pintle_sheet *sheet,
                             const struct pintle_finding *finding);

/* The part that proves with certainty that it is there, or NULL. Then `possible` are the parts that
 * could be. Nothing is sent that could change anything in another chip (stranger.c). */
const struct pintle_sheet *pintle_priv_scan_recognise(const struct scanning *s,
                                                      struct pintle_finding *finding);

/* The finding's possible parts in words, "TMP102 or MCP9808"; "" for none. Free with g_free. */
char *pintle_priv_scan_possible(const struct pintle_finding *finding);

/* On SPI: would the proof of `sheet`'s part at the finding's place choose a bank, which is a write?
 */
bool pintle_priv_scan_moves_bank(const struct scanning *s, const struct pintle_sheet *sheet,
                                 const struct pintle_finding *finding);

/* Something answers at the finding's place: is it what is expected, or who is it? */
void pintle_priv_scan_judge(const struct scanning *s, struct pintle_finding *finding);

/* Look at the bus's lines. False: that cannot be done here. */
bool pintle_priv_scan_look(const struct scanning *s, struct pintle_look *look);

void pintle_priv_scan_i2c(const struct scanning *s);
void pintle_priv_scan_spi(const struct scanning *s);
void pintle_priv_scan_onewire(const struct scanning *s);
void pintle_priv_scan_stream(const struct scanning *s);

/* Once every bus has been asked: what an I2C sensor's absence is likely due to. */
void pintle_priv_scan_explain_i2c(const struct scanning *s, struct pintle_finding *missing);

#endif
