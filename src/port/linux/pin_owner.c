/* Which device a pin belongs to: the kernel says so in debugfs only, to those who may read that. */
#include <dirent.h>
#include <stdio.h>
#include <string.h>

#include "system.h"

#define FOLDER "/sys/kernel/debug/pinctrl"
#define PATH_MAX_LENGTH 400

/* "0: 1e780000.gpio GPIOS [1821 - 2028] PINS [0 - 207]"; the first of a chip begins with its line
 * 0. The controller's number of a line; -1: it is not this controller's. */
static long number_of(const char *folder, const char *label, unsigned line)
{
    char path[PATH_MAX_LENGTH];
    char text[200];
    char name[100];
    unsigned base = 0;
    unsigned from = 0;
    unsigned to = 0;
    unsigned pin = 0;
    int first = 1;
    long found = -1;
    snprintf(path, sizeof path, FOLDER "/%.200s/gpio-ranges", folder);
    FILE *file = fopen(path, "re");
    while (file && fgets(text, sizeof text, file)) {
        if (sscanf(text, "%*u: %99s GPIOS [%u - %u] PINS [%u", name, &from, &to, &pin) != 4
            || strcmp(name, label) != 0) {
            continue;
        }
        base = first ? from : base;
        first = 0;
        if (line + base >= from && line + base <= to) {
            found = (long)(pin + line + base - from);
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
    long number = 0;
    int found = 0;
    snprintf(path, sizeof path, FOLDER "/%.200s/pinmux-pins", folder);
    FILE *file = fopen(path, "re");
    while (file && !found && fgets(text, sizeof text, file)) {
        const char *said = strstr(text, "): ");
        if (!said || sscanf(text, "pin %ld", &number) != 1 || number != pin) {
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
