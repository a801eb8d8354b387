/* host/snapshot.h: all readable registers of a sensor at one moment, kept in a file.
 */
#ifndef PINTLE_HOST_SNAPSHOT_H
#define PINTLE_HOST_SNAPSHOT_H

#include "pintle/host/station.h"

#define PINTLE_SNAPSHOT_MAX 64

/* Values in the order of the part's sheet. */
struct pintle_snapshot {
    uint32_t value[PINTLE_SNAPSHOT_MAX];
    uint8_t known[PINTLE_SNAPSHOT_MAX]; /* 0: cannot be read, or is not in the file */
};

/* Read every register that can be read. */
bool pintle_snapshot_take(struct pintle_station *station, unsigned sensor,
                          struct pintle_snapshot *snapshot, struct pintle_problem *problem);

/* Keep it as JSON, and read it back. Reading refuses the snapshot of another part. */
bool pintle_snapshot_save(const struct pintle_station *station, unsigned sensor,
                          const struct pintle_snapshot *snapshot, const char *path,
                          struct pintle_problem *problem);
bool pintle_snapshot_load(const struct pintle_sheet *sheet, const char *path,
                          struct pintle_snapshot *snapshot, struct pintle_problem *problem);

#endif
