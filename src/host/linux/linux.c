/* This machine's own buses as a platform. */
#include "host/linux/linux.h"

#include <glib.h>
#include <string.h>

#include "pintle/linux.h"

/* Of each bus the one of its kind is in use. */
struct line {
    struct pintle_linux_i2c i2c;
    struct pintle_linux_spi spi;
    struct pintle_linux_onewire onewire;
    struct pintle_linux_stream stream;
    struct pintle_linux_pin command; /* of displays on SPI */
};

static struct line *own(const struct pintle_station *station)
{
    return station->own;
}

/* A device that is missing is no failure here: whoever talks on the bus is told. */
static bool open_i2c(struct pintle_station *station, unsigned i, struct pintle_problem *problem)
{
    const struct pintle_rig_bus *bus = &station->rig->bus[i];
    struct pintle_linux_i2c *adapter = &own(station)[i].i2c;
    if (!bus->device[0]) {
        return pintle_problem_set(
            problem, PINTLE_FAILURE_USE,
            "%s: bus '%s' names no device; add device = \"/dev/i2c-1\" or the "
            "adapter's name, which 'pintle scan' without a rig lists",
            station->rig->path, bus->name);
    }
    (void)pintle_linux_i2c_open(adapter, bus->device);
    adapter->beside_drivers = bus->beside_drivers;
    station->i2c[i] = pintle_linux_i2c_bus(adapter);
    if (station->i2c[i].bit_ns == 0) {
        station->i2c[i].bit_ns = 1000000000u / bus->speed_hz;
    }
    return true;
}

/* The device of a select line: its own, or the bus's and the number that the kernel gives it. */
static char *select_path(const struct pintle_rig_bus *bus, unsigned select)
{
    const char *pin = bus->select_pin[select];
    if (bus->select_device[select]) {
        return g_strdup(bus->select_device[select]);
    }
    return bus->device[0] && strspn(pin, "0123456789") == strlen(pin)
               ? g_strdup_printf("%s.%s", bus->device, pin)
               : NULL;
}

static bool open_spi(struct pintle_station *station, unsigned i, struct pintle_problem *problem)
{
    const struct pintle_rig_bus *bus = &station->rig->bus[i];
    struct pintle_linux_spi *spi = &own(station)[i].spi;
    pintle_linux_spi_begin(spi);
    for (unsigned k = 0; k < bus->selects; k++) {
        char *path = select_path(bus, k);
        if (!path) {
            return pintle_problem_set(
                problem, PINTLE_FAILURE_USE,
                "%s: select '%s' of bus '%s' names no device; add device = \"/dev/spidev0.0\" to "
                "its sensor, or device = \"/dev/spidev0\" to the bus and call its selects 0, 1 ...",
                station->rig->path, bus->select_pin[k], bus->name);
        }
        (void)pintle_linux_spi_open(spi, (uint8_t)k, path);
        g_free(path);
    }
    if (bus->command_pin[0]) {
        (void)pintle_linux_pin_open(&own(station)[i].command, bus->command_pin);
        spi->command = &own(station)[i].command;
    }
    station->spi[i] = pintle_linux_spi_bus(spi);
    station->spi[i].top_hz = bus->speed_hz;
    return true;
}

static bool open_onewire(struct pintle_station *station, unsigned i, struct pintle_problem *problem)
{
    (void)problem;
    struct pintle_linux_onewire *line = &own(station)[i].onewire;
    (void)pintle_linux_onewire_open(line, station->rig->bus[i].device);
    station->onewire[i] = pintle_linux_onewire_bus(line);
    return true;
}

static bool open_stream(struct pintle_station *station, unsigned i, struct pintle_problem *problem)
{
    const struct pintle_rig_bus *bus = &station->rig->bus[i];
    struct pintle_linux_stream *line = &own(station)[i].stream;
    if (!bus->device[0]) {
        return pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                  "%s: bus '%s' names no device; add device = \"/dev/ttyS1\", or "
                                  "whichever serial line it is",
                                  station->rig->path, bus->name);
    }
    (void)pintle_linux_stream_open(line, bus->device, bus->speed_hz);
    station->stream[i] = pintle_linux_stream_bus(line);
    return true;
}

static bool open_buses(struct pintle_station *station, struct pintle_problem *problem)
{
    static bool (*const opens[])(struct pintle_station *, unsigned,
                                 struct pintle_problem *) = { open_i2c, open_spi, open_onewire,
                                                              open_stream };
    const struct pintle_rig *rig = station->rig;
    struct line *lines = g_new0(struct line, rig->buses);
    station->own = lines;
    station->clock = pintle_linux_clock;
    bool ok = true;
    for (unsigned i = 0; i < rig->buses; i++) {
        lines[i].i2c.file = lines[i].onewire.socket = lines[i].onewire.lock = -1;
        lines[i].stream.file = lines[i].command.file = -1;
    }
    for (unsigned i = 0; i < rig->buses && ok; i++) {
        ok = opens[rig->bus[i].kind](station, i, problem);
    }
    return ok;
}

static void close_buses(struct pintle_station *station)
{
    for (unsigned i = 0; i < station->rig->buses; i++) {
        pintle_linux_i2c_close(&own(station)[i].i2c);
        pintle_linux_spi_close(&own(station)[i].spi);
        pintle_linux_onewire_close(&own(station)[i].onewire);
        pintle_linux_stream_close(&own(station)[i].stream);
        pintle_linux_pin_close(&own(station)[i].command);
    }
    g_free(station->own);
}

static uint32_t speed_hz(const struct pintle_station *station, unsigned bus)
{
    return station->rig->bus[bus].kind == PINTLE_BUS_I2C
               ? pintle_linux_i2c_speed_hz(&own(station)[bus].i2c)
               : 0;
}

static const char *holder(struct pintle_station *station, unsigned bus, uint8_t address)
{
    return pintle_linux_i2c_holder(&own(station)[bus].i2c, address);
}

/* The kernel's first thermal zone, in thousandths. */
static bool board_temperature(struct pintle_station *station, float *celsius)
{
    char *text = NULL;
    char *end = NULL;
    (void)station;
    if (!g_file_get_contents("/sys/class/thermal/thermal_zone0/temp", &text, NULL, NULL)) {
        return false;
    }
    *celsius = (float)(g_ascii_strtod(text, &end) / 1000);
    bool ok = end != text;
    g_free(text);
    return ok;
}

const struct pintle_platform pintle_platform_linux = {
    .name = "linux",
    .what = "this machine's own buses",
    .open = open_buses,
    .close = close_buses,
    .speed_hz = speed_hz,
    .holder = holder,
    .board_temperature = board_temperature,
    .offers = pintle_priv_linux_offers,
    .lines = &pintle_priv_linux_lines,
};
