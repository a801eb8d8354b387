/* A serial line: nobody can be asked who they are, so only a sensor that the rig has there is. */
#include <glib.h>

#include "host/check/scan.h"

#define LISTEN_US 600000u

/* What comes unasked, for a while: how many bytes, and how many of them are no text. */
static enum pintle_status listen_to(const struct scanning *s, unsigned *bytes, unsigned *odd)
{
    const struct pintle_stream *line = &s->station->stream[s->bus];
    const struct pintle_clock *clock = &s->station->clock;
    uint64_t until = clock->calls->now_us(clock->context) + LISTEN_US;
    enum pintle_status status = PINTLE_OK;
    *bytes = *odd = 0;
    while (status == PINTLE_OK && clock->calls->now_us(clock->context) < until) {
        uint8_t came[32];
        uint16_t got = 0;
        status =
            line->calls->receive(line->common.context, came, sizeof came, &got, LISTEN_US / 10);
        for (uint16_t i = 0; i < got; i++) {
            *odd += !g_ascii_isprint(came[i]) && !g_ascii_isspace(came[i]);
        }
        *bytes += got;
    }
    return status;
}

static void explain(const struct scanning *s, struct pintle_finding *finding)
{
    const struct pintle_hint_names names = { .part = finding->sheet->part->name };
    unsigned bytes = 0;
    unsigned odd = 0;
    (void)listen_to(s, &bytes, &odd);
    bool garbled = odd * 8 > bytes;
    pintle_priv_scan_tell(finding, bytes == 0 ? PINTLE_FINDING_MISSING : PINTLE_FINDING_WRONG,
                          bytes == 0 ? PINTLE_HINT_SILENT_LINE
                          : garbled  ? PINTLE_HINT_GARBLED_LINE
                                     : PINTLE_HINT_DEAF_LINE,
                          &names);
}

void pintle_priv_scan_stream(const struct scanning *s)
{
    const struct pintle_rig *rig = s->station->rig;
    const struct pintle_stream *line = &s->station->stream[s->bus];
    uint8_t byte = 0;
    uint16_t got = 0;
    enum pintle_status status = line->calls->receive(line->common.context, &byte, 1, &got, 0);
    if (pintle_priv_scan_system(s, status)) {
        return;
    }
    for (unsigned i = 0; i < rig->sensors; i++) {
        if (rig->sensor[i].bus != s->bus) {
            continue;
        }
        struct pintle_finding *finding = pintle_priv_scan_add(s, rig->sensor[i].where, (int)i);
        if (pintle_priv_scan_proves(s, finding->sheet, finding)) {
            pintle_priv_scan_judge(s, finding);
        } else {
            explain(s, finding);
        }
    }
}
