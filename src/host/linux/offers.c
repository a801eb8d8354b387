/* Every bus that the kernel has, as a rig file without sensors. */
#include <glib.h>
#include <string.h>

#include "host/linux/linux.h"
#include "pintle/linux.h"

static int by_name(const void *a, const void *b)
{
    const char *x = *(const char *const *)a;
    const char *y = *(const char *const *)b;
    size_t m = strlen(x);
    size_t n = strlen(y);
    return m != n ? (m < n ? -1 : 1) : strcmp(x, y);
}

/* The entries of a folder that begin so, in order of their numbers. */
static GPtrArray *entries(const char *folder, const char *prefix)
{
    GPtrArray *names = g_ptr_array_new_with_free_func(g_free);
    GDir *dir = g_dir_open(folder, 0, NULL);
    const char *name = NULL;
    while (dir && (name = g_dir_read_name(dir)) != NULL) {
        if (g_str_has_prefix(name, prefix)) {
            g_ptr_array_add(names, g_strdup(name));
        }
    }
    if (dir) {
        g_dir_close(dir);
    }
    g_ptr_array_sort(names, by_name);
    return names;
}

/* The adapter's name where it can be told by it, else the path. To be freed with g_free. */
static char *adapter_name(const char *number, char **said)
{
    char *path = g_strdup_printf("/sys/bus/i2c/devices/i2c-%s/name", number);
    char *name = NULL;
    struct pintle_linux_i2c adapter;
    if (g_file_get_contents(path, &name, NULL, NULL)) {
        g_strchomp(name);
    }
    g_free(path);
    *said = g_strdup(name ? name : "");
    enum pintle_status status = name ? pintle_linux_i2c_open(&adapter, name) : PINTLE_NO_DEVICE;
    bool unique = name && adapter.path[0] != '\0' && !strpbrk(name, "\"\\$");
    if (status == PINTLE_OK) {
        pintle_linux_i2c_close(&adapter);
    }
    if (unique) {
        return name;
    }
    g_free(name);
    return g_strdup_printf("/dev/i2c-%s", number);
}

static void add_i2c(GString *rig)
{
    GPtrArray *buses = entries("/sys/bus/i2c/devices", "i2c-");
    for (guint i = 0; i < buses->len; i++) {
        const char *number = (const char *)buses->pdata[i] + strlen("i2c-");
        char *said = NULL;
        if (strspn(number, "0123456789") != strlen(number)) {
            continue;
        }
        struct pintle_linux_i2c adapter = { .file = -1 };
        char *device = adapter_name(number, &said);
        g_snprintf(adapter.path, sizeof adapter.path, "/dev/i2c-%s", number);
        uint32_t hz = pintle_linux_i2c_speed_hz(&adapter);
        g_string_append_printf(rig,
                               "# /dev/i2c-%s at present, adapter \"%s\"\n"
                               "bus i2c-%s {\n    kind   = \"i2c\"\n    device = \"%s\"\n",
                               number, said, number, device);
        if (hz >= 1000 && hz <= 1000000) {
            g_string_append_printf(rig, "    speed  = %u\n", hz);
        }
        g_string_append(rig, "}\n\n");
        g_free(device);
        g_free(said);
    }
    g_ptr_array_free(buses, TRUE);
}

/* "spidev0.1" belongs to controller 0. */
static void add_spi(GString *rig)
{
    GPtrArray *selects = entries("/dev", "spidev");
    for (guint i = 0; i < selects->len;) {
        const char *name = selects->pdata[i];
        size_t length = strcspn(name, ".");
        GString *lines = g_string_new(NULL);
        guint k = i;
        for (; k < selects->len && strncmp(selects->pdata[k], name, length + 1) == 0; k++) {
            g_string_append_printf(lines, "%s\"%s\"", k > i ? ", " : "",
                                   (const char *)selects->pdata[k] + length + 1);
        }
        g_string_append_printf(
            rig,
            "bus spi-%.*s {\n    kind    = \"spi\"\n    device  = \"/dev/%.*s\"\n"
            "    selects = { %s }\n}\n\n",
            (int)(length - strlen("spidev")), name + strlen("spidev"), (int)length, name,
            lines->str);
        g_string_free(lines, TRUE);
        i = k;
    }
    g_ptr_array_free(selects, TRUE);
}

static void add_onewire(GString *rig)
{
    GPtrArray *masters = entries("/sys/bus/w1/devices", "w1_bus_master");
    for (guint i = 0; i < masters->len; i++) {
        const char *name = masters->pdata[i];
        g_string_append_printf(rig,
                               "bus onewire-%s {\n    kind   = \"onewire\"\n    device = \"%s\"\n"
                               "}\n\n",
                               name + strlen("w1_bus_master"), name);
    }
    g_ptr_array_free(masters, TRUE);
}

char *pintle_priv_linux_offers(struct pintle_problem *problem)
{
    GString *rig = g_string_new("board {\n    name = \"board\"\n    port = \"linux\"\n}\n\n");
    size_t empty = rig->len;
    add_i2c(rig);
    add_spi(rig);
    add_onewire(rig);
    if (rig->len > empty) {
        return g_string_free(rig, FALSE);
    }
    g_string_free(rig, TRUE);
    pintle_problem_set(problem, PINTLE_FAILURE_UNABLE,
                       "this machine offers no I2C, SPI or 1-Wire bus: switch the interfaces on in "
                       "the board's settings or device tree and load their modules (i2c-dev, "
                       "spidev, w1-gpio); with --rig FILE or --demo it need not have any");
    return NULL;
}
