/* What happened when: numbered lines in a plot, and what they mean beneath it. */
#include <glib.h>
#include <math.h>
#include <string.h>

#include "host/draw/plot.h"

#define FLAGS 6 /* are explained */
#define HALF (0.5 * LETTERS - 1)

char *pintle_priv_plot_time(double seconds)
{
    GDateTime *time = g_date_time_new_from_unix_utc((gint64)floor(seconds));
    char *text = time ? g_date_time_format(time, "%Y-%m-%d %H:%M:%S") : g_strdup("?");
    if (time) {
        g_date_time_unref(time);
    }
    return text;
}

void pintle_priv_plot_flags(const struct drawing *d, const struct pintle_panel *panel, bool topmost)
{
    double taken = -INFINITY; /* by numbers */
    plcol0(FLAG);
    for (unsigned i = 0; i < d->plot->flags && !d->plot->across; i++) {
        double x = d->plot->flag[i].time + d->plot->zone_s;
        if (x < d->left || x > d->right) {
            continue;
        }
        pllsty(2);
        pintle_priv_plot_tick(x, pintle_priv_plot_lane(panel), panel->span.high);
        pllsty(1);
        if (topmost && i < FLAGS) {
            char number[8];
            g_snprintf(number, sizeof number, "%u", i + 1);
            double wide = d->right - d->left;
            double at = fmax(fmin(x + wide * 0.003, d->right - wide * 0.012), taken);
            taken = at + wide * 0.015;
            plptex(at, panel->span.high - (panel->span.high - panel->span.low) * 0.11, 1, 0, 0,
                   number);
        }
    }
}

/* Of a letter, in letters of usual width. */
static double width_of(gunichar letter)
{
    bool wide = g_unichar_iswide(letter) || (letter < 128 && strchr("MWmw@%", (int)letter));
    return wide ? 1.8 : g_unichar_isupper(letter) ? 1.3 : 1;
}

char *pintle_priv_plot_cut(const char *text, double room, double *width)
{
    GString *kept = g_string_new(NULL);
    char *valid = g_utf8_make_valid(text, -1); /* a folder may be called anything */
    *width = 0;
    for (const char *at = valid; *at && *width <= room; at = g_utf8_next_char(at)) {
        gunichar letter = g_utf8_get_char(at);
        *width += width_of(letter);
        g_string_append_unichar(kept, *width <= room ? letter : 0x2026);
    }
    g_free(valid);
    return g_string_free(kept, FALSE);
}

/* What the i-th means, and how wide that is. */
static char *meaning(const struct drawing *d, unsigned i, double *width)
{
    char *when = pintle_priv_plot_time(d->plot->flag[i].time + d->plot->zone_s);
    bool last = i + 1 == FLAGS && d->plot->flags > FLAGS;
    bool days = d->history->last - d->history->first > 86400;
    char *all = g_strdup_printf("%u  %.*s  %s%s", i + 1, days ? 11 : 5, when + (days ? 5 : 11),
                                last ? "(and more)  " : "", d->plot->flag[i].text);
    char *text = pintle_priv_plot_cut(all, LETTERS, width);
    g_free(all);
    g_free(when);
    return text;
}

/* The rows that they take, drawn or only counted: a long one has a row to itself. */
static unsigned explain(const struct drawing *d, bool draw, double top)
{
    unsigned row = 0;
    bool right = false; /* the next one goes into the right half of the row */
    for (unsigned i = 0; i < MIN(d->plot->flags, FLAGS) && !d->plot->across; i++) {
        double width = 0;
        char *text = meaning(d, i, &width);
        bool wide = width > HALF;
        row += wide && right;
        right = right && !wide;
        if (draw) {
            pintle_priv_page_text(right ? 0.5 : 0, top - FLAG_ROW * d->scale * row, 0, text);
        }
        row += wide || right;
        right = !wide && !right;
        g_free(text);
    }
    return row + right;
}

void pintle_priv_plot_explain(const struct drawing *d, double top)
{
    plcol0(FLAG);
    explain(d, true, top);
}

unsigned pintle_priv_plot_explained(const struct drawing *d)
{
    return explain(d, false, 0);
}
