#include "host/draw/axis.h"

#include <glib.h>
#include <math.h>
#include <string.h>

double pintle_priv_axis_step(double span, int ticks)
{
    double power = pow(10, floor(log10(span / ticks)));
    double times = span / ticks / power;
    return power * (times <= 1 ? 1 : times <= 2 ? 2 : times <= 5 ? 5 : 10);
}

double pintle_priv_axis_two(double low, double high, int ticks)
{
    double step = pintle_priv_axis_step(high - low, ticks);
    while (ticks < 20 && floor(high / step) - ceil(low / step) < 1) {
        step = pintle_priv_axis_step(high - low, ++ticks);
    }
    return step;
}

double pintle_priv_axis_time_step(double span)
{
    static const double steps[] = { 0.001, 0.002, 0.005, 0.01, 0.02, 0.05,  0.1,   0.2,   0.5,
                                    1,     2,     5,     10,   20,   30,    60,    120,   300,
                                    600,   1200,  1800,  3600, 7200, 10800, 14400, 21600, 43200 };
    for (unsigned i = 0; i < G_N_ELEMENTS(steps); i++) {
        if (span / steps[i] <= 9) {
            return steps[i];
        }
    }
    return 86400 * ceil(span / 86400 / 9);
}

/* As many places as tell two ticks apart. */
static void put_number(char *label, size_t size, double value, double step)
{
    int places = (int)CLAMP(ceil(-log10(step) - 1e-9), 0, 9);
    g_snprintf(label, size, "%.*f", places, fabs(value) < step * 1e-6 ? 0.0 : value);
}

/* 0.01, 1, 100, 10k, 1M */
static void put_decade(char *label, size_t size, double logarithm)
{
    int power = (int)lround(logarithm);
    if (fabs(logarithm - power) > 0.01) {
        label[0] = '\0';
    } else if (power >= 4) {
        g_snprintf(label, size, "%.0f%s", pow(10, power % 3), power >= 6 ? "M" : "k");
    } else {
        g_snprintf(label, size, "%.*f", MAX(-power, 0), pow(10, power));
    }
}

/* The day where a day begins. */
static void put_time(char *label, size_t size, double seconds, double step)
{
    gint64 whole = (gint64)floor(seconds + fmin(step, 1) * 1e-3);
    GDateTime *time = g_date_time_new_from_unix_utc(whole);
    bool day = whole % 86400 == 0 && seconds - (double)whole < step / 2;
    char *text = time ? g_date_time_format(time, day         ? "%b %d"
                                                 : step < 60 ? "%H:%M:%S"
                                                             : "%H:%M")
                      : g_strdup("?");
    int places = step < 1 ? (int)ceil(-log10(step) - 1e-9) : 0;
    if (places > 0) {
        char fraction[16];
        g_snprintf(fraction, sizeof fraction, "%.*f", places, fabs(seconds - (double)whole));
        g_snprintf(label, size, "%s%s", text, fraction + 1);
    } else {
        g_strlcpy(label, text, size);
    }
    if (time) {
        g_date_time_unref(time);
    }
    g_free(text);
}

static void put_label(PLINT which, PLFLT value, char *label, PLINT length, PLPointer data)
{
    const struct pintle_axis *axis = data;
    size_t size = (size_t)length;
    if (which == PL_X_AXIS && axis->time) {
        put_time(label, size, value, axis->across);
    } else if (which == PL_X_AXIS) {
        put_number(label, size, value, axis->across);
    } else if (axis->decades) {
        put_decade(label, size, value);
    } else {
        put_number(label, size, value, axis->up);
    }
}

void pintle_priv_axis_use(const struct pintle_axis *axis)
{
    plslabelfunc(put_label, (PLPointer)(uintptr_t)axis);
}
