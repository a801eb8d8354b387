/* host/check/scan.h: who is on the buses, and is that what the rig expects?
 */
#ifndef PINTLE_HOST_CHECK_SCAN_H
#define PINTLE_HOST_CHECK_SCAN_H

#include "pintle/host/check/hint.h"
#include "pintle/host/live/station.h"

PINTLE_C_BEGIN

/* X(NAME, "word") */
#define PINTLE_FINDING_LIST(X)                                                                     \
    X(PROVEN, "proven")         /* expected, and its identity register says so */                  \
    X(LIKELY, "likely")         /* expected, and nothing speaks against it */                      \
    X(FOUND, "found")           /* answers, and the rig expects nothing anywhere */                \
    X(WRONG, "wrong")           /* something else answers where a sensor is expected */            \
    X(MISSING, "missing")       /* expected, and nothing answers */                                \
    X(UNEXPECTED, "unexpected") /* answers, and the rig does not know it */                        \
    X(HELD, "held")             /* a driver of the operating system has it to itself */            \
    X(UNSTEADY, "unsteady")     /* there, and not reliably */                                      \
    X(MARGINAL, "marginal")     /* the bus works, and its lines are not as they should be */       \
    X(BROKEN, "broken")         /* the whole bus does not work */

enum pintle_finding_kind {
#define PINTLE_FINDING_VALUE(name, word) PINTLE_FINDING_##name,
    PINTLE_FINDING_LIST(PINTLE_FINDING_VALUE)
#undef PINTLE_FINDING_VALUE
};

struct pintle_finding {
    enum pintle_finding_kind kind;
    unsigned bus;
    union pintle_place place;
    char *where;                      /* the place in words; empty: the bus itself */
    enum pintle_hint hint;            /* what it is, where something is amiss */
    int sensor;                       /* index in the rig, or -1 */
    const struct pintle_sheet *sheet; /* what it is, or is expected to be; may be NULL */
    /* Of something that nothing proves: what it could be, */
    const struct pintle_sheet **possible;
    unsigned possibles;
    bool untried;   /* and whether that was left untried, since a byte could switch something */
    char text[300]; /* how that is known, or the likely cause and what to do */
};

struct pintle_scan {
    unsigned count;
    unsigned amiss; /* findings that speak against the rig, or a bus */
    struct pintle_finding **finding;
};

/* Ask every address from 0x08 to 0x77 of every I2C bus, every select pin of every SPI bus that the
 * rig names, and search every 1-Wire line; prove what answers, compare with the rig. The
 * findings are in order of bus and place. Parts that act when they are asked (sheet.h) are proven
 * last, and only where the rig names them. A chip that the rig does not name gets its part's name
 * only if it proves its identity, and docs/trust.md says which bytes are sent to it. Never hangs:
 * at most about 8 s of bus time for a bus on which every transfer runs into its limit, or where an
 * adapter has a limit of its own 112 of those. Free with pintle_scan_free. */
struct pintle_scan *pintle_scan_run(struct pintle_station *station);

void pintle_scan_free(struct pintle_scan *scan);

/* Write a rig file with the scanned buses and what was found on them: sensors with their initial
 * settings as remarks, what is unknown as remarks. Never over a file that is there: somebody may
 * have worked on it. */
bool pintle_scan_draft(const struct pintle_scan *scan, const struct pintle_rig *rig,
                       const char *path, struct pintle_problem *problem);

/* The kind's word. */
const char *pintle_finding_word(enum pintle_finding_kind kind);

PINTLE_C_END

#endif
