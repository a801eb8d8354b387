/* host/keep/snapshot.h: all readable registers of a sensor at one moment, kept in a file.
 */
#ifndef PINTLE_HOST_KEEP_SNAPSHOT_H
#define PINTLE_HOST_KEEP_SNAPSHOT_H

#include "pintle/host/live/station.h"

PINTLE_C_BEGIN

/* A value for each register of the part's sheet, in its order. */
struct pintle_snapshot {
    uint32_t value;
    uint8_t known; /* 0: cannot be read, or is not in the file */
};

/* Read every register that can be read. Null on failure; to be freed with pintle_host_free. */
struct pintle_snapshot *pintle_snapshot_take(struct pintle_station *station, unsigned sensor,
                                             struct pintle_problem *problem);

/* Keep it as JSON, and read it back (null on failure; to be freed with pintle_host_free). Reading
 * refuses the snapshot of another part, and values that are none. */
bool pintle_snapshot_save(const struct pintle_station *station, unsigned sensor,
                          const struct pintle_snapshot *snapshot, const char *path,
                          struct pintle_problem *problem);
struct pintle_snapshot *pintle_snapshot_load(const struct pintle_sheet *sheet, const char *path,
                                             struct pintle_problem *problem);

PINTLE_C_END

#endif
