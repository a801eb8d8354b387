#include "support.h"
void add_rig_suite(void) {}
