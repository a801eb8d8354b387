#include "support.h"
void add_examples_suite(void) {}
