/* This machine's own lines. */
#include <glib.h>
#include <string.h>

#include "host/linux/linux.h"
#include "pintle/linux.h"

struct line {
    struct pintle_linux_pin pin;
    bool watched;
};

static bool failed(const struct pintle_linux_pin *pin, struct pintle_problem *problem)
{
    return pintle_problem_set(problem, PINTLE_FAILURE_RIG, "%s",
                              pin->words[0] ? pin->words : "the line can't be used");
}

static void *open_line(const char *name, struct pintle_problem *problem)
{
    struct line *line = g_new0(struct line, 1);
    if (pintle_linux_pin_open(&line->pin, name) == PINTLE_OK) {
        return line;
    }
    failed(&line->pin, problem);
    g_free(line);
    return NULL;
}

static bool level(void *from, uint8_t *is, struct pintle_problem *problem)
{
    struct line *line = from;
    const struct pintle_pin pin = pintle_linux_pin_of(&line->pin);
    line->pin.words[0] = '\0';
    *is = pin.calls->level(pin.context);
    return !line->pin.words[0] || failed(&line->pin, problem);
}

static bool drive(void *to, uint8_t to_level, struct pintle_problem *problem)
{
    struct line *line = to;
    const struct pintle_pin pin = pintle_linux_pin_of(&line->pin);
    line->pin.words[0] = '\0';
    pin.calls->drive(pin.context, to_level ? PINTLE_DRIVE_HIGH : PINTLE_DRIVE_LOW);
    return !line->pin.words[0] || failed(&line->pin, problem);
}

static bool edge(void *from, uint32_t limit_us, bool *came, struct pintle_board_edge *at,
                 struct pintle_problem *problem)
{
    struct line *line = from;
    struct pintle_linux_edge next;
    enum pintle_status status = line->watched ? PINTLE_OK : pintle_linux_pin_watch(&line->pin);
    line->watched = status == PINTLE_OK;
    if (status == PINTLE_OK) {
        status = pintle_linux_pin_edge(&line->pin, limit_us, &next);
    }
    *came = status == PINTLE_OK;
    if (*came) {
        *at = (struct pintle_board_edge){ next.at_us, next.level };
    }
    return *came || status == PINTLE_NOT_READY || failed(&line->pin, problem);
}

static void close_line(void *of)
{
    struct line *line = of;
    pintle_linux_pin_close(&line->pin);
    g_free(line);
}

const struct pintle_board_lines pintle_priv_linux_lines = { open_line, level, drive, edge,
                                                            close_line };
