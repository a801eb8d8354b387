#include "host/run/note.h"

#include <errno.h>
#include <fcntl.h>
#include <glib.h>
#include <string.h>
#include <unistd.h>

#include "host/base/files.h"
#include "host/base/plain.h"
#include "pintle/text.h"

static const char *word_of(bool title)
{
    return title ? "title" : "note";
}

static void put_time(char buffer[32], int64_t time_us)
{
    struct pintle_text text;
    pintle_text_init(&text, buffer, 32);
    pintle_text_time(&text, time_us, 0, time_us % 1000000 ? 3 : 0);
}

/* All of it, or nothing. */
static bool append(int file, const char *line)
{
    size_t length = strlen(line);
    off_t end = lseek(file, 0, SEEK_END);
    bool ok = write(file, line, length) == (ssize_t)length;
    int error = errno;
    if (!ok && end >= 0) {
        (void)!ftruncate(file, end);
        errno = error;
    }
    return ok && (fsync(file) == 0 || errno == EINVAL);
}

bool pintle_priv_note_folder(const char *path, int64_t time_us, bool title, const char *text,
                             struct pintle_problem *problem)
{
    char when[32];
    char *said = pintle_priv_plain(text);
    size_t size = 2 * strlen(said) + 8;
    char *quoted = g_malloc(size);
    struct pintle_text field;
    char *name = g_build_filename(path, PINTLE_NOTES_FILE, NULL);
    int file = open(name, O_WRONLY | O_CREAT | O_APPEND | O_CLOEXEC, 0644);
    put_time(when, time_us);
    pintle_text_init(&field, quoted, size);
    pintle_text_csv(&field, said); /* with its comma */
    bool fresh = file >= 0 && lseek(file, 0, SEEK_END) == 0;
    char *line = g_strdup_printf("%s%s,%s%s\r\n", fresh ? PINTLE_NOTES_HEADER : "", when,
                                 word_of(title), quoted);
    bool ok = file >= 0 && append(file, line);
    int error = errno;
    if (file >= 0) {
        close(file);
    }
    if (!ok) {
        pintle_priv_files_unwritable(name, error, problem);
    }
    g_free(line);
    g_free(quoted);
    g_free(said);
    g_free(name);
    return ok;
}

bool pintle_priv_note_base(sqlite3 *db, const char *path, unsigned run, int64_t time_us, bool title,
                           const char *text, struct pintle_problem *problem)
{
    char when[32];
    char *said = pintle_priv_plain(text);
    put_time(when, time_us);
    sqlite3_stmt *insert =
        pintle_priv_database_ask(db, path, problem, "INSERT INTO notes VALUES (%u, %Q, %Q, %Q)",
                                 run, when, word_of(title), said);
    g_free(said);
    return insert && pintle_priv_database_finish(insert, path, problem);
}
