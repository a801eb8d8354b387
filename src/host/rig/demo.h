/* The built-in rig and world: demo/sloop.rig and demo/sloop.world, turned into strings by the
 * build. */
#ifndef PINTLE_PRIV_RIG_DEMO_H
#define PINTLE_PRIV_RIG_DEMO_H

extern const char pintle_priv_demo_rig[];
extern const char pintle_priv_demo_world[];

#endif
