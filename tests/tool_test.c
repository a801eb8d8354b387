#include "support.h"
void add_tool_suite(void) {}
