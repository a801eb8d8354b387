#include <CUnit/Basic.h>

#include "support.h"

int main(void)
{
    if (CU_initialize_registry() != CUE_SUCCESS) {
        return CU_get_error();
    }
    add_text_suite();
    add_numbers_suite();
    add_parts_suite();
    add_truth_suite();
    add_engine_suite();
    add_rig_suite();
    add_tool_suite();
    add_log_suite();
    add_examples_suite();
    CU_basic_set_mode(CU_BRM_NORMAL);
    CU_basic_run_tests();
    int failed = CU_get_number_of_failures() > 0 || CU_get_error() != CUE_SUCCESS;
    CU_cleanup_registry();
    return failed;
}
