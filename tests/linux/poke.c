/* Somebody else on the bus, who knows nothing of turns: moves a thermometer's pointer and rewrites
 * its limits, and with "settings" its configuration too, as fast as the bus allows.
 *
 *     poke DEVICE ADDRESS SECONDS [settings]
 */
#include <fcntl.h>
#include <linux/i2c-dev.h>
#include <stdio.h>
#include <stdlib.h>
#include <sys/ioctl.h>
#include <time.h>
#include <unistd.h>

int main(int argc, char **argv)
{
    if (argc < 4) {
        return 2;
    }
    const unsigned char limits[] = { 3, 80, 0 };
    const unsigned char low[] = { 2, 75, 0 };
    const unsigned char coarse[] = { 1, 0 };
    unsigned char bytes[2];
    unsigned long count = 0;
    time_t end = time(NULL) + atoi(argv[3]);
    int file = open(argv[1], O_RDWR);
    if (file < 0 || ioctl(file, I2C_SLAVE_FORCE, strtoul(argv[2], NULL, 0)) < 0) {
        perror(argv[1]);
        return 1;
    }
    while (time(NULL) < end) {
        const unsigned char pointer = (unsigned char)(count % 4);
        int ok = write(file, limits, 3) == 3 && write(file, low, 3) == 3
                 && write(file, &pointer, 1) == 1 && read(file, bytes, 2) == 2;
        if (ok && argc > 4 && count % 300 == 0) {
            ok = write(file, coarse, 2) == 2;
        }
        count += ok;
    }
    printf("poked %lu times\n", count);
    return count == 0;
}
