/* The folders of the kernel's 1-Wire masters, which anybody may read. A chip's folder has its
 * code's family and serial number in its name ("28-000007721e4c"), the serial number's high digits
 * first. */
#include <dirent.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <unistd.h>

#include "pintle/onewire.h"
#include "system.h"
#include "w1.h"

static int parse(const char *name, uint8_t code[8])
{
    char *end = NULL;
    unsigned long family = strtoul(name, &end, 16);
    if (end != name + 2 || *end != '-' || strlen(end + 1) != 12) {
        return 0;
    }
    unsigned long long serial = strtoull(end + 1, &end, 16);
    if (*end != '\0') {
        return 0;
    }
    code[0] = (uint8_t)family;
    for (int i = 0; i < 6; i++) {
        code[1 + i] = (uint8_t)(serial >> 8 * i);
    }
    code[7] = pintle_onewire_crc(code, 7);
    return 1;
}

uint8_t pintle_priv_w1_listed(const char *master, uint8_t (*codes)[8], uint8_t room)
{
    char path[400];
    uint8_t count = 0;
    snprintf(path, sizeof path, "%s", master);
    DIR *folder = opendir(path);
    const struct dirent *entry = NULL;
    while (folder && count < room && (entry = readdir(folder)) != NULL) {
        count = (uint8_t)(count + parse(entry->d_name, codes[count]));
    }
    if (folder) {
        closedir(folder);
    }
    return count;
}

/* "72 01 4b 46 7f ff 0e 10 57 : crc=57 YES" */
static int parse_pad(const char *line, uint8_t pad[9])
{
    for (int i = 0; i < 9; i++) {
        char *end = NULL;
        pad[i] = (uint8_t)strtoul(line, &end, 16);
        if (end != line + 2) {
            return 0;
        }
        line = end + 1;
    }
    return 1;
}

/* The first line of a file that a chip's driver shows. -1: there is no such file; 0: it failed. */
static int show(const char *master, const uint8_t code[8], const char *what, char *line,
                size_t room)
{
    char path[400];
    snprintf(path, sizeof path, "%s/%02x-%02x%02x%02x%02x%02x%02x/%s", master, code[0], code[6],
             code[5], code[4], code[3], code[2], code[1], what);
    return access(path, R_OK) == 0 ? pintle_priv_linux_line(path, line, room) : -1;
}

int pintle_priv_w1_powered(const char *master, const uint8_t code[8])
{
    char line[8];
    return show(master, code, "ext_power", line, sizeof line) == 1 ? line[0] == '1' : -1;
}

enum pintle_status pintle_priv_w1_measured(const char *master, const uint8_t code[8],
                                           uint8_t pad[9])
{
    char line[80];
    int shown = show(master, code, "w1_slave", line, sizeof line);
    if (shown < 0) {
        return PINTLE_UNSUPPORTED;
    }
    if (shown == 0 || !parse_pad(line, pad)) {
        return PINTLE_NO_ANSWER;
    }
    return strstr(line, "YES") ? PINTLE_OK : PINTLE_BAD_CRC;
}
