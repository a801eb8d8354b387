/* The built-in rig and world: demo/sloop.rig and demo/sloop.world, turned into strings by the
 * build. */
#ifndef PINTLE_HOST_DEMO_H
#define PINTLE_HOST_DEMO_H

extern const char demo_rig[];
extern const char demo_world[];

#endif
