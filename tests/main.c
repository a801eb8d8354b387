#include <CUnit/Basic.h>

#include "support.h"

/* Without names all suites run; with names, those; with "but" before them, all others. */
int main(int argc, char **argv)
{
    static const struct {
        const char *name;
        void (*add)(void);
    } suites[] = { { "text", add_text_suite },           { "numbers", add_numbers_suite },
                   { "parts", add_parts_suite },         { "sheets", add_sheets_suite },
                   { "truth", add_truth_suite },         { "chips", add_chips_suite },
                   { "twins", add_twins_suite },         { "marks", add_marks_suite },
                   { "wires", add_wires_suite },         { "spi", add_spi_suite },
                   { "onewire", add_onewire_suite },     { "campaign", add_campaign_suite },
                   { "faults", add_faults_suite },       { "described", add_described_suite },
                   { "engine", add_engine_suite },       { "users", add_users_suite },
                   { "door", add_door_suite },           { "background", add_background_suite },
                   { "sweep", add_sweep_suite },         { "vectors", add_vectors_suite },
                   { "abilities", add_abilities_suite }, { "burst", add_burst_suite },
                   { "derive", add_derive_suite },       { "limits", add_limits_suite },
                   { "week", add_week_suite },           { "shop", add_shop_suite },
                   { "hardest", add_hardest_suite },     { "whole", add_whole_suite },
                   { "stream", add_stream_suite },       { "rig", add_rig_suite },
                   { "tool", add_tool_suite },           { "log", add_log_suite },
                   { "trace", add_trace_suite },         { "ticks", add_ticks_suite },
                   { "wiring", add_wiring_suite },       { "correct", add_correct_suite },
                   { "recover", add_recover_suite },     { "guided", add_guided_suite },
                   { "judge", add_judge_suite },         { "corrections", add_corrections_suite },
                   { "live", add_live_suite },           { "past", add_past_suite },
                   { "base", add_base_suite },           { "page", add_page_suite },
                   { "examples", add_examples_suite },   { "linux", add_linux_suite },
                   { "adapter", add_adapter_suite },     { "misuse", add_misuse_suite } };
    if (CU_initialize_registry() != CUE_SUCCESS) {
        return 1;
    }
    const bool but = argc > 1 && strcmp(argv[1], "but") == 0;
    unsigned named = 0;
    for (size_t i = 0; i < COUNT(suites); i++) {
        bool is_named = false;
        for (int k = 1 + but; k < argc; k++) {
            is_named = is_named || strcmp(argv[k], suites[i].name) == 0;
        }
        named += is_named;
        if (argc == 1 || is_named != but) {
            suites[i].add();
        }
    }
    if (argc > 1 && named != (unsigned)(argc - 1 - but)) {
        fprintf(stderr, "%u of these %d are names of suites\n", named, argc - 1 - but);
        return 2;
    }
    CU_basic_set_mode(CU_BRM_NORMAL);
    CU_basic_run_tests();
    int failed = CU_get_number_of_failures() > 0 || CU_get_error() != CUE_SUCCESS;
    CU_cleanup_registry();
    return failed;
}
