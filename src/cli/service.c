/* To whoever started this as a service (sd_notify(3), "notes"): one datagram for each message. */
#include <stddef.h>
#include <string.h>
#include <sys/socket.h>
#include <sys/un.h>
#include <unistd.h>

#include "cli/cli.h"

void cli_notify(const char *message)
{
    const char *path = g_getenv("NOTIFY_SOCKET");
    struct sockaddr_un address = { .sun_family = AF_UNIX };
    if (!path || (path[0] != '/' && path[0] != '@') || strlen(path) >= sizeof address.sun_path) {
        return;
    }
    g_strlcpy(address.sun_path, path, sizeof address.sun_path);
    socklen_t length = (socklen_t)(offsetof(struct sockaddr_un, sun_path) + strlen(path));
    if (path[0] == '@') {
        address.sun_path[0] = '\0';
    }
    int file = socket(AF_UNIX, SOCK_DGRAM, 0);
    if (file >= 0) {
        (void)!sendto(file, message, strlen(message), 0, (const struct sockaddr *)&address, length);
        close(file);
    }
}
