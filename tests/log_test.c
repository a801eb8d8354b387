#include "support.h"
void add_log_suite(void) {}
