/* What was kept with the runs: corrections, wiring. Runs that are joined may differ in it. */
#include <string.h>

#include "cli/report.h"
#include "pintle/host/check/wiring.h"
#include "pintle/host/draw/draw.h"

/* Of each run; neighbours that are alike are told together. */
static unsigned end_of_alike(const GPtrArray *kept, unsigned first)
{
    unsigned end = first + 1;
    while (end < kept->len && strcmp(kept->pdata[first], kept->pdata[end]) == 0) {
        end++;
    }
    return end;
}

static void put_heading(const struct reporting *r, const char *what, unsigned first, unsigned end)
{
    fprintf(r->out, "<h2>%s", what);
    if (end - first < r->chosen->count) {
        fputs(": ", r->out);
        report_put(r, r->chosen->run[first]->where);
        if (end - first > 1) {
            fputs(" to ", r->out);
            report_put(r, r->chosen->run[end - 1]->where);
        }
    }
    fputs("</h2>\n", r->out);
}

/* --- corrections --- */

/* A line for each: the channel, a tab, what is done to it. */
static char *corrections_of(const struct pintle_past *run)
{
    struct pintle_past_correction *all = pintle_past_corrections(run);
    GString *text = g_string_new(NULL);
    for (unsigned i = 0; all[i].channel; i++) {
        g_string_append_printf(text, "%s%s\t%s", i > 0 ? "\n" : "", all[i].channel, all[i].text);
        pintle_host_free(all[i].channel);
        pintle_host_free(all[i].text);
    }
    pintle_host_free(all);
    return g_string_free(text, FALSE);
}

static void put_corrections(const struct reporting *r, const char *text)
{
    if (text[0] == '\0') {
        fputs("<p>None was applied.</p>\n", r->out);
        return;
    }
    char **lines = g_strsplit(text, "\n", -1);
    fputs("<table><thead><tr><th>channel</th><th>correction</th></tr></thead><tbody>\n", r->out);
    for (char **line = lines; *line; line++) {
        char **parts = g_strsplit(*line, "\t", 2);
        fputs("<tr>", r->out);
        report_cell(r, "", parts[0]);
        report_cell(r, "", parts[1] ? parts[1] : "");
        fputs("</tr>\n", r->out);
        g_strfreev(parts);
    }
    fputs("</tbody></table>\n", r->out);
    g_strfreev(lines);
}

void report_corrections(const struct reporting *r)
{
    GPtrArray *kept = g_ptr_array_new_with_free_func(g_free);
    for (unsigned i = 0; i < r->chosen->count; i++) {
        g_ptr_array_add(kept, corrections_of(r->chosen->run[i]));
    }
    for (unsigned first = 0, end = 0; first < kept->len; first = end) {
        end = end_of_alike(kept, first);
        put_heading(r, "Corrections", first, end);
        put_corrections(r, kept->pdata[first]);
    }
    g_ptr_array_unref(kept);
}

/* --- wiring --- */

static bool put_card(const struct reporting *r, const struct pintle_rig *rig,
                     struct pintle_problem *problem)
{
    char *path = g_build_filename(r->drawings, "drawing.svg", NULL);
    bool ok = pintle_draw_card(rig, path, problem) && report_picture(r, path, "wiring", problem);
    g_free(path);
    return ok;
}

static char *settings_of(const struct pintle_rig_sensor *s)
{
    GString *settings = g_string_new(NULL);
    const struct pintle_part *part = s->sheet->part;
    for (unsigned i = 0; i < part->setting_count; i++) {
        bool ranges = s->chosen.ranging && pintle_sheet_ranges(s->sheet, i);
        g_string_append_printf(
            settings, "%s%s=%s", settings->len ? ", " : "", s->sheet->settings[i].name,
            ranges ? "auto" : s->sheet->settings[i].options[s->chosen.settings[i]]);
    }
    for (unsigned i = 0; i < part->number_count; i++) {
        g_string_append_printf(settings, "%s%s=%g", settings->len ? ", " : "",
                               s->sheet->numbers[i].name, (double)s->chosen.numbers[i]);
    }
    return g_string_free(settings, FALSE);
}

static void put_sensor(const struct reporting *r, const struct pintle_rig *rig,
                       const struct pintle_rig_sensor *s)
{
    char *settings = settings_of(s);
    char *supply =
        pintle_wiring_on_line(s) ? g_strdup("the line") : g_strdup_printf("%g V", s->supply_v);
    fputs("<tr>", r->out);
    report_cell(r, "", s->name);
    report_cell(r, "", s->sheet->part->name);
    report_cell(r, "", rig->bus[s->bus].name);
    report_cell(r, "", s->where ? s->where : "");
    report_cell(r, "", supply);
    report_cell(r, "", settings);
    fputs("</tr>\n", r->out);
    g_free(supply);
    g_free(settings);
}

static bool put_rig(const struct reporting *r, const char *text, struct pintle_problem *problem)
{
    struct pintle_problem ignored = { 0 };
    struct pintle_rig *rig = text[0] ? pintle_rig_parse("rig", text, &ignored) : NULL;
    if (!rig) {
        fputs("<p>The rig file that was kept with the run can't be read.</p>\n", r->out);
        return true;
    }
    fputs("<table><thead><tr><th>sensor</th><th>part</th><th>bus</th><th>place</th><th>supply</th>"
          "<th>settings</th></tr></thead><tbody>\n",
          r->out);
    for (unsigned i = 0; i < rig->wired; i++) {
        put_sensor(r, rig, &rig->sensor[i]);
    }
    fputs("</tbody></table>\n", r->out);
    bool ok = !pintle_draw_can() || put_card(r, rig, problem);
    pintle_rig_free(rig);
    return ok;
}

bool report_rigs(const struct reporting *r, struct pintle_problem *problem)
{
    GPtrArray *kept = g_ptr_array_new_with_free_func(g_free);
    bool ok = true;
    for (unsigned i = 0; i < r->chosen->count; i++) {
        char *text = pintle_past_text(r->chosen->run[i], "rig");
        g_ptr_array_add(kept, g_strdup(text ? text : ""));
        pintle_host_free(text);
    }
    for (unsigned first = 0, end = 0; ok && first < kept->len; first = end) {
        end = end_of_alike(kept, first);
        put_heading(r, "Wiring, parts, settings", first, end);
        ok = put_rig(r, kept->pdata[first], problem);
    }
    g_ptr_array_unref(kept);
    return ok;
}
