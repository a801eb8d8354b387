#include "pintle/host/base/picture.h"
#include "pintle/host/base/output.h"

#include <glib.h>
#include <string.h>

#define SIDE_MAX 4096

/* What is left of a file. */
struct rest {
    const char *at, *end;
};

/* Blanks, and remarks up to the end of their line. */
static void skip(struct rest *r)
{
    while (r->at < r->end && (g_ascii_isspace(*r->at) || *r->at == '#')) {
        if (*r->at == '#') {
            while (r->at < r->end && *r->at != '\n') {
                r->at++;
            }
        } else {
            r->at++;
        }
    }
}

static unsigned number(struct rest *r)
{
    unsigned value = 0;
    skip(r);
    while (r->at < r->end && g_ascii_isdigit(*r->at) && value <= SIDE_MAX) {
        value = value * 10 + (unsigned)(*r->at++ - '0');
    }
    return value;
}

static bool take_plain(struct rest *r, struct pintle_picture *picture)
{
    for (unsigned i = 0; i < picture->width * picture->height; i++) {
        skip(r);
        if (r->at == r->end || (*r->at != '0' && *r->at != '1')) {
            return false;
        }
        picture->dot[i] = *r->at++ == '1';
    }
    return true;
}

/* Rows of whole bytes, the high bit first, behind one blank. */
static bool take_raw(struct rest *r, struct pintle_picture *picture)
{
    size_t stride = (picture->width + 7) / 8;
    if ((size_t)(r->end - r->at) < 1 + stride * picture->height) {
        return false;
    }
    for (unsigned i = 0; i < picture->width * picture->height; i++) {
        unsigned x = i % picture->width;
        uint8_t byte = (uint8_t)r->at[1 + i / picture->width * stride + x / 8];
        picture->dot[i] = byte >> (7 - x % 8) & 1;
    }
    return true;
}

bool pintle_picture_load(const char *path, struct pintle_picture *picture,
                         struct pintle_problem *problem)
{
    char *text = NULL;
    gsize length = 0;
    GError *error = NULL;
    *picture = (struct pintle_picture){ 0 };
    if (!g_file_get_contents(path, &text, &length, &error)) {
        pintle_problem_set(problem, PINTLE_FAILURE_USE, "cannot read %s: %s", path, error->message);
        g_error_free(error);
        return false;
    }
    struct rest rest = { text, text + length };
    bool plain = g_str_has_prefix(text, "P1");
    bool ok = plain || g_str_has_prefix(text, "P4");
    rest.at += ok ? 2 : 0;
    picture->width = ok ? number(&rest) : 0;
    picture->height = ok ? number(&rest) : 0;
    ok = picture->width > 0 && picture->height > 0 && picture->width <= SIDE_MAX
         && picture->height <= SIDE_MAX;
    picture->dot = g_malloc0(ok ? (gsize)picture->width * picture->height : 1);
    ok = ok && (plain ? take_plain : take_raw)(&rest, picture);
    g_free(text);
    if (!ok) {
        pintle_picture_free(picture);
        return pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                  "%s is no whole PBM picture (P1 or P4) of up to %d x %d dots",
                                  path, SIDE_MAX, SIDE_MAX);
    }
    return true;
}

bool pintle_picture_save(const char *path, const struct pintle_picture *picture,
                         struct pintle_problem *problem)
{
    size_t stride = (picture->width + 7) / 8;
    GString *bytes = g_string_new(NULL);
    g_string_printf(bytes, "P4\n%u %u\n", picture->width, picture->height);
    size_t head = bytes->len;
    g_string_set_size(bytes, head + stride * picture->height);
    memset(bytes->str + head, 0, stride * picture->height);
    for (unsigned i = 0; i < picture->width * picture->height; i++) {
        unsigned x = i % picture->width;
        char *byte = &bytes->str[head + i / picture->width * stride + x / 8];
        *byte = (char)(*byte | (picture->dot[i] ? 0x80 >> x % 8 : 0));
    }
    GError *error = NULL;
    bool ok = pintle_output_may(path, problem)
              && (g_file_set_contents(path, bytes->str, (gssize)bytes->len, &error)
                  || pintle_problem_set(problem, PINTLE_FAILURE_UNABLE, "cannot write %s: %s", path,
                                        error->message));
    g_clear_error(&error);
    g_string_free(bytes, TRUE);
    return ok;
}

void pintle_picture_free(struct pintle_picture *picture)
{
    g_free(picture->dot);
    *picture = (struct pintle_picture){ 0 };
}
