/* Which device a pin belongs to: the kernel says so in debugfs only, to those who may read that. */
#include <dirent.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "system.h"

#define FOLDER "/sys/kernel/debug/pinctrl"
#define PATH_MAX_LENGTH 400

/* A range of pins, as "0: 1e780000.gpio GPIOS [1821 - 2028] PINS [0 - 207]". 0: it is none of this
 * chip's.
 */
static int parse_range(const char *text, const char *label, unsigned long range[3])
{
    char head[PATH_MAX_LENGTH];
    char *end = NULL;
    snprintf(head, sizeof head, ": %.200s GPIOS [", label);
    const char *found = strstr(text, head);
    const char *pins = strstr(text, "PINS [");
    if (!found || !pins) {
        return 0;
    }
    range[0] = strtoul(found + strlen(head), &end, 10);
    range[1] = strtoul(end + strspn(end, " -"), NULL, 10);
    range[2] = strtoul(pins + strlen("PINS ["), NULL, 10);
    return 1;
}

/* The controller's number of a chip's line; -1: it is not this controller's. The chip's first range
 * begins with its line 0. */
static long number_of(const char *folder, const char *label, unsigned line)
{
    char path[PATH_MAX_LENGTH];
    char text[200];
    unsigned long range[3] = { 0 };
    unsigned long base = 0;
    int first = 1;
    long found = -1;
    snprintf(path, sizeof path, FOLDER "/%.200s/gpio-ranges", folder);
    FILE *file = fopen(path, "re");
    while (file && fgets(text, sizeof text, file)) {
        if (!parse_range(text, label, range)) {
            continue;
        }
        base = first ? range[0] : base;
        first = 0;
        if (line + base >= range[0] && line + base <= range[1]) {
            found = (long)(range[2] + line + base - range[0]);
        }
    }
    if (file) {
        fclose(file);
    }
    return found;
}

/* "pin 84 (E11): device 1e78a380.i2c-bus function I2C7 group I2C7", with or without "device". */
static int owner_in(const char *folder, long pin, char *owner, size_t room)
{
    char path[PATH_MAX_LENGTH];
    char text[300];
    char head[32];
    int found = 0;
    snprintf(path, sizeof path, FOLDER "/%.200s/pinmux-pins", folder);
    snprintf(head, sizeof head, "pin %ld ", pin);
    FILE *file = fopen(path, "re");
    while (file && !found && fgets(text, sizeof text, file)) {
        const char *said = strstr(text, "): ");
        if (!said || strncmp(text, head, strlen(head)) != 0) {
            continue;
        }
        said += strncmp(said + 3, "device ", 7) == 0 ? 10 : 3;
        found = *said != '(' && *said != '\n' && *said != '\0';
        snprintf(owner, room, "%.*s", (int)strcspn(said, " \n"), said);
    }
    if (file) {
        fclose(file);
    }
    return found;
}

int pintle_priv_linux_pin_owner(const char *label, unsigned line, char *owner, size_t room)
{
    DIR *folder = opendir(FOLDER);
    const struct dirent *entry = NULL;
    int found = 0;
    while (folder && !found && (entry = readdir(folder)) != NULL) {
        long pin = entry->d_name[0] == '.' ? -1 : number_of(entry->d_name, label, line);
        found = pin >= 0 && owner_in(entry->d_name, pin, owner, room);
    }
    if (folder) {
        closedir(folder);
    }
    return found;
}
