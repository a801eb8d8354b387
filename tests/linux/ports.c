/* The library's ports to Linux, as the tests on boards ask them.
 *
 *     ports level PIN              ports drive PIN low|high|release...
 *     ports edges PIN COUNT        each edge as it comes, for 20 s at most
 *     ports spi PATH MODE LENGTH [low]     a transfer, with the low bit first
 *     ports word DEVICE ADDRESS REGISTER VALUE     past the library, by SMBus
 */
#include <fcntl.h>
#include <inttypes.h>
#include <linux/i2c-dev.h>
#include <linux/i2c.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/ioctl.h>

#include "pintle/linux.h"

static int edges(struct pintle_linux_pin *pin, int count)
{
    struct pintle_linux_edge edge;
    struct pintle_clock clock = pintle_linux_clock;
    enum pintle_status status = pintle_linux_pin_watch(pin);
    printf("watching\n");
    fflush(stdout);
    for (int i = 0; i < count && status == PINTLE_OK; i++) {
        status = pintle_linux_pin_edge(pin, 20000000, &edge);
        uint64_t now = clock.calls->now_us(clock.context);
        if (status == PINTLE_OK) {
            printf("edge %" PRIu32 " to %u, %s\n", edge.sequence, edge.level,
                   edge.at_us <= now && now - edge.at_us < 1000000 ? "just now" : "WHEN?");
        }
    }
    printf("%s %s\n", pintle_status_word(status), pin->words);
    return status != PINTLE_OK;
}

static int pins(int argc, char **argv)
{
    struct pintle_linux_pin pin;
    enum pintle_status status = pintle_linux_pin_open(&pin, argv[2]);
    if (status != PINTLE_OK) {
        printf("%s: %s\n", pintle_status_word(status), pin.words);
        return 1;
    }
    struct pintle_pin line = pintle_linux_pin_of(&pin);
    if (strcmp(argv[1], "edges") == 0 && argc > 3) {
        return edges(&pin, atoi(argv[3]));
    }
    for (int i = 3; i < argc; i++) {
        line.calls->drive(line.context, argv[i][0] == 'l'   ? PINTLE_DRIVE_LOW
                                        : argv[i][0] == 'h' ? PINTLE_DRIVE_HIGH
                                                            : PINTLE_RELEASE);
        printf("%s: level %u %s\n", argv[i], line.calls->level(line.context), pin.words);
    }
    printf("level %u\n", line.calls->level(line.context));
    pintle_linux_pin_close(&pin);
    return 0;
}

static int spi(int argc, char **argv)
{
    static struct pintle_linux_spi port;
    static uint8_t bytes[UINT16_MAX];
    const struct pintle_segment segment = { bytes, bytes, (uint16_t)atoi(argv[4]) };
    const struct pintle_spi_way way = { .clock_hz = 1000000,
                                        .mode = (uint8_t)atoi(argv[3]),
                                        .low_bit_first = argc > 5 };
    bytes[0] = 0x9f; /* which flash chip? */
    pintle_linux_spi_begin(&port);
    (void)pintle_linux_spi_open(&port, 0, argv[2]);
    struct pintle_spi bus = pintle_linux_spi_bus(&port);
    enum pintle_status status = pintle_spi_transfer(&bus, &way, &segment, 1);
    printf("%s %s %02x %02x %02x %02x\n", pintle_status_word(status), port.words, bytes[0],
           bytes[1], bytes[2], bytes[3]);
    return status != PINTLE_OK;
}

static int word(char **argv)
{
    union i2c_smbus_data data = { .word = (uint16_t)strtoul(argv[5], NULL, 0) };
    struct i2c_smbus_ioctl_data call = { I2C_SMBUS_WRITE, (uint8_t)strtoul(argv[4], NULL, 0),
                                         I2C_SMBUS_WORD_DATA, &data };
    int file = open(argv[2], O_RDWR);
    if (file < 0 || ioctl(file, I2C_SLAVE_FORCE, strtoul(argv[3], NULL, 0)) < 0
        || ioctl(file, I2C_SMBUS, &call) < 0) {
        perror(argv[2]);
        return 1;
    }
    return 0;
}

int main(int argc, char **argv)
{
    if (argc == 6 && strcmp(argv[1], "word") == 0) {
        return word(argv);
    }
    if (argc >= 5 && strcmp(argv[1], "spi") == 0) {
        return spi(argc, argv);
    }
    return argc >= 3 ? pins(argc, argv) : 2;
}
