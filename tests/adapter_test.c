/* Adapters that can do only part of what I2C is, through the port to Linux: the kernel's character
 * device is stood in for at its system calls (linux/i2c-dev.h, linux/i2c.h), with simulated chips
 * behind it. */
#include "support.h"

#include <errno.h>
#include <linux/i2c-dev.h>
#include <linux/i2c.h>
#include <stdarg.h>
#include <sys/ioctl.h>
#include <sys/syscall.h>
#include <unistd.h>

#include "pintle/linux.h"

static struct adapter {
    struct pintle_i2c *bus; /* null: no stand-in, calls go to the kernel */
    unsigned long can;
    uint8_t address;
    unsigned transfers, probes;
} adapter;

static int answer(enum pintle_status status)
{
    errno = status == PINTLE_OK ? 0 : status == PINTLE_NO_ANSWER ? ENXIO : EIO;
    return status == PINTLE_OK ? 0 : -1;
}

static int messages(const struct i2c_rdwr_ioctl_data *all)
{
    struct pintle_segment segments[I2C_RDWR_IOCTL_MAX_MSGS];
    if (!(adapter.can & I2C_FUNC_I2C)) {
        errno = EOPNOTSUPP;
        return -1;
    }
    for (unsigned i = 0; i < all->nmsgs; i++) {
        const struct i2c_msg *m = &all->msgs[i];
        CU_ASSERT(m->len > 0 || (adapter.can & I2C_FUNC_SMBUS_QUICK));
        segments[i] = (struct pintle_segment){ m->flags & I2C_M_RD ? NULL : m->buf,
                                               m->flags & I2C_M_RD ? m->buf : NULL, m->len };
        adapter.probes += m->len == 0;
    }
    adapter.transfers++;
    int failed =
        answer(adapter.bus->calls->transfer(adapter.bus->common.context, (uint8_t)all->msgs[0].addr,
                                            segments, (uint8_t)all->nmsgs, 100000));
    return failed ? failed : (int)all->nmsgs;
}

/* The calls of SMBus that these tests have use for. */
static int smbus(const struct i2c_smbus_ioctl_data *one)
{
    uint8_t byte = 0;
    struct pintle_segment s = { NULL, NULL, 0 };
    if (one->size == I2C_SMBUS_BYTE && one->read_write == I2C_SMBUS_READ
        && (adapter.can & I2C_FUNC_SMBUS_READ_BYTE)) {
        s = (struct pintle_segment){ NULL, &byte, 1 };
    } else if (one->size != I2C_SMBUS_QUICK || !(adapter.can & I2C_FUNC_SMBUS_QUICK)) {
        errno = EOPNOTSUPP;
        return -1;
    }
    adapter.transfers++;
    adapter.probes += one->size == I2C_SMBUS_QUICK;
    int failed = answer(
        adapter.bus->calls->transfer(adapter.bus->common.context, adapter.address, &s, 1, 100000));
    if (one->data) {
        one->data->byte = byte;
    }
    return failed;
}

/* In place of the C library's. */
int ioctl(int file, unsigned long request, ...)
{
    va_list rest;
    va_start(rest, request);
    unsigned long argument = va_arg(rest, unsigned long);
    va_end(rest);
    if (!adapter.bus) {
        return (int)syscall(SYS_ioctl, file, request, argument);
    }
    switch (request) {
    case I2C_FUNCS:
        *(unsigned long *)argument = adapter.can; // NOLINT(performance-no-int-to-ptr)
        return 0;
    case I2C_SLAVE_FORCE:
        adapter.address = (uint8_t)argument;
        return 0;
    case I2C_RDWR:
        return messages((void *)argument); // NOLINT(performance-no-int-to-ptr)
    case I2C_SMBUS:
        return smbus((void *)argument); // NOLINT(performance-no-int-to-ptr)
    default:
        errno = ENOTTY;
        return -1;
    }
}

/* An HS3001 is told to measure by a write of nothing. An adapter that can't do that says so, and
 * sends nothing in its place: a byte read would fetch the result before. */
static void writes_of_nothing(void)
{
    static const struct {
        unsigned long can;
        enum pintle_status reads, probes;
        const char *words;
    } rows[] = {
        { I2C_FUNC_I2C | I2C_FUNC_SMBUS_EMUL, PINTLE_OK, PINTLE_OK, "" },
        { I2C_FUNC_I2C | (I2C_FUNC_SMBUS_EMUL & ~I2C_FUNC_SMBUS_QUICK), PINTLE_UNSUPPORTED,
          PINTLE_OK, "cannot write nothing, the address alone" },
        { I2C_FUNC_SMBUS_READ_BYTE, PINTLE_UNSUPPORTED, PINTLE_OK,
          "cannot write nothing, the address alone" },
        { 0, PINTLE_UNSUPPORTED, PINTLE_UNSUPPORTED, "has no call for this transfer" },
    };
    for (size_t i = 0; i < COUNT(rows); i++) {
        struct bench bench;
        struct pintle_any sensor;
        struct pintle_sample sample;
        struct pintle_linux_i2c device;
        bench_make(&bench, &pintle_hs3001, 0x44);
        adapter = (struct adapter){ .bus = &bench.bus, .can = rows[i].can };
        CU_ASSERT_EQUAL(pintle_linux_i2c_open(&device, "/dev/null"), PINTLE_OK);
        device.beside_drivers = 1;
        struct pintle_i2c bus = pintle_linux_i2c_bus(&device);
        bus.common.clock = &bench.clock; /* the chip's time, not the machine's */
        CU_ASSERT_EQUAL(any_on_i2c(&sensor, &pintle_hs3001, &bus, 0x44), PINTLE_OK);
        enum pintle_status status = pintle_i2c_probe(&bus, 0x44);
        EXPECT(status == rows[i].probes, "adapter %u, probe: %s", (unsigned)i,
               pintle_status_word(status));
        adapter.transfers = adapter.probes = 0;
        status = pintle_sample_read(&sensor.sensor, &sample);
        EXPECT(status == rows[i].reads, "adapter %u, reading: %s", (unsigned)i,
               pintle_status_word(status));
        EXPECT(strstr(device.words, rows[i].words) != NULL, "adapter %u: %s", (unsigned)i,
               device.words);
        EXPECT(adapter.probes == (rows[i].reads == PINTLE_OK), "adapter %u: %u writes of nothing",
               (unsigned)i, adapter.probes);
        EXPECT(status == PINTLE_OK || adapter.transfers < 2,
               "adapter %u: %u transfers of a part that cannot work", (unsigned)i,
               adapter.transfers);
        pintle_linux_i2c_close(&device);
        adapter.bus = NULL;
    }
}

void add_adapter_suite(void)
{
    SUITE("adapter", { "writes of nothing", writes_of_nothing });
}
