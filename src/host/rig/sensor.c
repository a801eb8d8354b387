/* A sensor section of a rig file: its part, its place, what it is set to. */
#include <glib.h>
#include <math.h>
#include <string.h>

#include "host/rig/loading.h"
#include "pintle/host/rig/worth.h"
#include "pintle/onewire.h"

/* "0x76 (SDO to GND) or 0x77 (SDO to VDDIO)" */
static char *addresses_text(const struct pintle_sheet *sheet)
{
    GString *text = g_string_new(NULL);
    for (unsigned i = 0; i < sheet->part->address_count; i++) {
        g_string_append_printf(text, "%s0x%02x (%s)", i ? " or " : "", sheet->straps[i].address,
                               sheet->straps[i].by);
    }
    return g_string_free(text, FALSE);
}

static bool can_sit(const struct pintle_sheet *sheet, long address)
{
    for (unsigned i = 0; i < sheet->part->address_count; i++) {
        if (sheet->straps[i].address == address) {
            return true;
        }
    }
    return false;
}

static int check_address(struct pintle_rig_sensor *sensor, long address)
{
    char *where = addresses_text(sensor->sheet);
    const char *part = sensor->sheet->part->name;
    int result = 0;
    if (address < 0) {
        result = pintle_priv_conf_complain_at(pintle_priv_loading.part_line,
                                              "sensor '%s' has no address; a %s sits at %s",
                                              sensor->name, part, where);
    } else if (!can_sit(sensor->sheet, address) && can_sit(sensor->sheet, address >> 1)) {
        result = pintle_priv_conf_complain_at(
            pintle_priv_loading.address_line,
            "sensor '%s': 0x%02lx looks like the 8-bit form of an address; "
            "write the 7-bit one, 0x%02lx",
            sensor->name, (unsigned long)address, (unsigned long)address >> 1);
    } else if (!can_sit(sensor->sheet, address)) {
        result =
            pintle_priv_conf_complain_at(pintle_priv_loading.address_line,
                                         "sensor '%s': a %s cannot sit at 0x%02lx; it sits at %s",
                                         sensor->name, part, (unsigned long)address, where);
    }
    g_free(where);
    sensor->place.address = (uint8_t)address;
    sensor->where = pintle_priv_loading_text("0x%02x", sensor->place.address);
    return result;
}

static int take_select(cfg_t *cfg, struct pintle_rig_sensor *sensor, const char *pin,
                       const char *device)
{
    struct pintle_rig_bus *bus = &pintle_priv_loading.rig->bus[sensor->bus];
    if (!pin) {
        return pintle_priv_conf_complain(
            cfg,
            "sensor '%s' has no select pin; add select = \"PIN\", the board's pin "
            "that its select input is wired to",
            sensor->name);
    }
    int i = pintle_priv_loading_select(cfg, bus, pin);
    if (i < 0) {
        return -1;
    }
    if (device) {
        bus->select_device[i] = pintle_priv_loading_text("%s", device);
    }
    sensor->place.select = (uint8_t)i;
    sensor->where = pintle_priv_loading_text("select %s", pin);
    return 0;
}

static int take_code(cfg_t *cfg, struct pintle_rig_sensor *sensor, const char *text)
{
    uint8_t *code = sensor->place.code;
    char good[17];
    if (!text) {
        return pintle_priv_conf_complain(
            cfg,
            "sensor '%s' has no code; add code = \"...\", which 'pintle scan' finds "
            "(a rig file may have a bus without sensors)",
            sensor->name);
    }
    if (!pintle_code_parse(text, code)) {
        return pintle_priv_conf_complain(
            cfg,
            "sensor '%s': '%s' is no 1-Wire code; it has 16 hexadecimal digits, "
            "as in \"284c1e720700001d\"",
            sensor->name, text);
    }
    uint8_t crc = pintle_onewire_crc(code, 7);
    if (crc != code[7]) {
        return pintle_priv_conf_complain(
            cfg,
            "sensor '%s': the code's last two digits, its CRC, should be %02x and "
            "are %02x; a digit is wrong",
            sensor->name, crc, code[7]);
    }
    if (code[0] != sensor->sheet->part->family) {
        return pintle_priv_conf_complain(
            cfg, "sensor '%s': the code is of family %02x, and a %s has family %02x", sensor->name,
            code[0], sensor->sheet->part->name, sensor->sheet->part->family);
    }
    pintle_code_text(code, good);
    sensor->where = pintle_priv_loading_text("%s", good);
    return 0;
}

/* Words of another kind of bus are mistakes. */
static int check_words(cfg_t *cfg, const struct pintle_rig_sensor *sensor, cfg_t *section)
{
    static const char *const words[] = { "address", "select", "code" };
    static const char *const has[] = { "an address", "a select pin", "a code", "the other end" };
    enum pintle_bus_kind kind = pintle_priv_loading.rig->bus[sensor->bus].kind;
    const bool given[] = { cfg_getint(section, "address") >= 0,
                           cfg_getstr(section, "select") != NULL,
                           cfg_getstr(section, "code") != NULL };
    for (unsigned i = 0; i < G_N_ELEMENTS(words); i++) {
        if (given[i] && i != (unsigned)kind) {
            return pintle_priv_conf_complain(
                cfg, "sensor '%s': on a bus of kind %s it has %s and no %s", sensor->name,
                pintle_bus_word(kind), has[kind], words[i]);
        }
    }
    if (cfg_getstr(section, "device") && kind != PINTLE_BUS_SPI) {
        return pintle_priv_conf_complain(
            cfg,
            "sensor '%s': only a select line of SPI has a device; that of bus '%s' goes into "
            "its bus section",
            sensor->name, pintle_priv_loading.rig->bus[sensor->bus].name);
    }
    return 0;
}

/* What the part wants of its bus. */
static int check_bus(cfg_t *cfg, const struct pintle_rig_sensor *sensor,
                     const struct pintle_rig_bus *bus)
{
    const struct pintle_part *part = sensor->sheet->part;
    if (part->spi && part->spi->commands && !bus->command_pin[0]) {
        return pintle_priv_conf_complain(
            cfg,
            "sensor '%s': a %s must be told commands from data; add command = \"PIN\" to bus "
            "'%s', the board's pin that its D/C input is wired to",
            sensor->name, part->name, bus->name);
    }
    if (part->frame && bus->speed_hz != part->frame->bit_hz) {
        return pintle_priv_conf_complain(
            cfg, "sensor '%s': a %s speaks at %u baud, and bus '%s' is set to %u; write speed = %u",
            sensor->name, part->name, part->frame->bit_hz, bus->name, bus->speed_hz,
            part->frame->bit_hz);
    }
    return 0;
}

static int take_place(cfg_t *cfg, struct pintle_rig_sensor *sensor, cfg_t *section)
{
    const struct pintle_rig_bus *bus = &pintle_priv_loading.rig->bus[sensor->bus];
    enum pintle_bus_kind speaks = (enum pintle_bus_kind)sensor->sheet->part->link->kind;
    if (speaks != bus->kind) {
        return pintle_priv_conf_complain(cfg, "sensor '%s': a %s speaks %s, and bus '%s' is %s",
                                         sensor->name, sensor->sheet->part->name,
                                         pintle_bus_word(speaks), bus->name,
                                         pintle_bus_word(bus->kind));
    }
    if (check_words(cfg, sensor, section) != 0 || check_bus(cfg, sensor, bus) != 0) {
        return -1;
    }
    switch (bus->kind) {
    case PINTLE_BUS_I2C:
        return check_address(sensor, cfg_getint(section, "address"));
    case PINTLE_BUS_SPI:
        return take_select(cfg, sensor, cfg_getstr(section, "select"),
                           cfg_getstr(section, "device"));
    case PINTLE_BUS_ONEWIRE:
        return take_code(cfg, sensor, cfg_getstr(section, "code"));
    default:
        sensor->where = pintle_priv_loading_text("its other end");
        return 0;
    }
}

/* Another sensor of the same name is a mistake; at the same place, one of the wiring, which
 * 'pintle wiring' explains and nothing else can work with. */
static int check_twins(struct pintle_rig *rig, unsigned index)
{
    const struct pintle_rig_sensor *sensor = &rig->sensor[index];
    for (unsigned i = 0; i < index; i++) {
        const struct pintle_rig_sensor *other = &rig->sensor[i];
        if (strcmp(other->name, sensor->name) == 0) {
            return pintle_priv_conf_complain_at(
                pintle_priv_loading.part_line,
                "there is a sensor '%s' already; give each its own name", sensor->name);
        }
        if (pintle_rig_same_place(rig, i, index) && !rig->conflict) {
            rig->conflict = pintle_priv_loading_text(
                "%s:%d: sensors '%s' and '%s' both sit at %s on bus '%s'; 'pintle wiring' says "
                "what would part them",
                pintle_priv_loading.name, sensor->line, other->name, sensor->name, sensor->where,
                rig->bus[sensor->bus].name);
        }
    }
    return 0;
}

/* What is said of them; a jump without a rate is all that it may move by. */
static void take_limits(cfg_t *section, struct pintle_rig_channel *channel)
{
    double jump = cfg_getfloat(section, "jump");
    double rate = cfg_getfloat(section, "rate");
    long frozen = cfg_getint(section, "frozen");
    if (jump >= 0 || rate >= 0) {
        channel->jump = (float)fmax(jump, 0);
        channel->rate = (float)fmax(rate, 0);
        channel->fast_s = 0;
    }
    if (frozen >= 0) {
        channel->frozen = (uint16_t)frozen;
    }
    channel->median = (uint8_t)cfg_getint(section, "median");
    channel->hold = (uint8_t)cfg_getint(section, "hold");
}

int pintle_priv_loading_channel(struct pintle_rig_sensor *sensor, cfg_t *section)
{
    const char *as = sensor->made ? NULL : cfg_getstr(section, "as");
    int index = pintle_sheet_channel(sensor->sheet, as ? as : cfg_title(section));
    if (index < 0) {
        return pintle_priv_conf_complain(section, "sensor '%s': a %s has no channel '%s'",
                                         sensor->name, sensor->sheet->part->name,
                                         cfg_title(section));
    }
    struct pintle_rig_channel *channel = &sensor->channel[index];
    const float line[] = { 0, (float)cfg_getfloat(section, "offset"),
                           (float)cfg_getfloat(section, "gain") };
    const struct pintle_rig_stage stage = { .stage = { .kind = PINTLE_STAGE_POLYNOMIAL,
                                                       .channel = (uint8_t)index,
                                                       .count = 3,
                                                       .numbers = line },
                                            .second = -1 };
    if (line[1] != 0 || line[2] != 1) {
        pintle_rig_correct(pintle_priv_loading.rig, sensor, &stage);
    }
    take_limits(section, channel);
    if (!sensor->made && cfg_getstr(section, "twin")) {
        channel->twin_name = pintle_priv_loading_text("%s", cfg_getstr(section, "twin"));
        channel->within = (float)cfg_getfloat(section, "within");
    }
    const char *unit = cfg_getstr(section, "unit");
    struct pintle_problem unsaid = { 0 };
    uint8_t quantity = sensor->sheet->part->channels[index].quantity;
    char *name = g_strconcat(sensor->name, ".", cfg_title(section), NULL);
    const struct pintle_unit_slot slot = { name, (enum pintle_quantity)quantity, &channel->unit,
                                           &channel->also };
    char *words = g_strconcat(name, "=", unit, NULL);
    bool ok = !unit || pintle_units_take(words, &slot, 1, "this rig", &unsaid);
    g_free(words);
    g_free(name);
    return ok ? 0
              : pintle_priv_conf_complain(section, "sensor '%s': %s", sensor->name, unsaid.text);
}

static int take_settings(cfg_t *cfg, struct pintle_rig_sensor *sensor, cfg_t *section)
{
    pintle_rig_initial(sensor->sheet->part, &sensor->chosen);
    for (unsigned i = 0; i < cfg_size(section, "set"); i++) {
        struct pintle_problem inner = { 0 };
        if (!pintle_rig_setting(sensor->sheet, cfg_getnstr(section, "set", i), &sensor->chosen,
                                &inner)) {
            return pintle_priv_conf_complain(cfg, "sensor '%s': %s", sensor->name, inner.text);
        }
    }
    return 0;
}

/* "x=-y": the x of what it is screwed to is the chip's y, turned round. */
static bool take_axis(struct pintle_derive_mount *mount, const char *words)
{
    size_t length = strlen(words);
    bool turned = length == 4 && words[2] == '-';
    const char *of = words + (turned ? 3 : 2);
    if (length != (turned ? 4 : 3) || words[1] != '=' || !strchr("xyz", words[0])
        || !strchr("xyz", *of)) {
        return false;
    }
    int8_t axis = (int8_t)(*of - 'x' + 1);
    int8_t *axes[] = { &mount->x, &mount->y, &mount->z };
    *axes[words[0] - 'x'] = turned ? (int8_t)-axis : axis;
    return true;
}

static int take_mount(cfg_t *cfg, struct pintle_rig_sensor *sensor, cfg_t *section)
{
    unsigned count = cfg_size(section, "mount");
    bool ok = count == 3;
    for (unsigned i = 0; ok && i < count; i++) {
        ok = take_axis(&sensor->mount, cfg_getnstr(section, "mount", i));
    }
    if (count == 0) {
        return 0;
    }
    if (!ok || !pintle_derive_mount_is_valid(&sensor->mount)) {
        return pintle_priv_conf_complain(
            cfg,
            "sensor '%s': 'mount' says which axis of the chip each axis of the thing is, all "
            "three, as a turn and not as a mirror, as in { \"x=-y\", \"y=x\", \"z=z\" }",
            sensor->name);
    }
    return pintle_sheet_axes(sensor->sheet, 0) >= 0
               ? 0
               : pintle_priv_conf_complain(cfg, "sensor '%s': a %s has no axes to mount",
                                           sensor->name, sensor->sheet->part->name);
}

/* A whole sensor section has been read. */
int pintle_priv_loading_sensor(cfg_t *cfg, cfg_opt_t *opt)
{
    struct pintle_rig *rig = pintle_priv_loading.rig;
    cfg_t *section = pintle_priv_conf_section(opt);
    struct pintle_rig_sensor sensor = { .name =
                                            pintle_priv_loading_text("%s", cfg_title(section)) };
    if (pintle_priv_conf_name(cfg, "a sensor", sensor.name) != 0) {
        return -1;
    }
    if (rig->sensors > rig->wired) {
        return pintle_priv_conf_complain(
            cfg, "sensor '%s' stands behind what is derived; move the derive sections to the end",
            sensor.name);
    }
    struct pintle_problem unsaid = { 0 };
    const char *part = cfg_getstr(section, "part");
    if (!part) {
        return pintle_priv_conf_complain(cfg, "sensor '%s' names no part; add part = \"...\"",
                                         sensor.name);
    }
    sensor.sheet = pintle_rig_part(rig, part, &unsaid);
    const char *bus = cfg_getstr(section, "bus");
    int bus_index = bus ? pintle_rig_find_bus(rig, bus) : 0;
    if (bus_index < 0 || rig->buses == 0) {
        return pintle_priv_conf_complain(
            cfg,
            "sensor '%s' is on bus '%s', which no bus section before it "
            "describes",
            sensor.name, bus ? bus : "");
    }
    sensor.bus = (unsigned)bus_index;
    sensor.line = pintle_priv_loading.part_line;
    if (take_place(cfg, &sensor, section) != 0 || take_settings(cfg, &sensor, section) != 0
        || pintle_priv_inputs_sheet(cfg, section, &sensor) != 0) {
        return -1;
    }
    if (take_mount(cfg, &sensor, section) != 0) {
        return -1;
    }
    sensor.rests = cfg_getbool(section, "rest");
    if (sensor.rests && !sensor.sheet->part->rest) {
        return pintle_priv_conf_complain(
            cfg, "sensor '%s': a %s cannot be told to rest%s; take 'rest' out", sensor.name,
            sensor.sheet->part->name, sensor.sheet->resting_ua > 0 ? ", it does so by itself" : "");
    }
    sensor.supply_v = cfg_getfloat(section, "supply");
    sensor.pull_up_ohm = cfg_getfloat(section, "pull-up");
    for (unsigned i = 0; i < sensor.sheet->part->channel_count; i++) {
        sensor.channel[i].unit = sensor.channel[i].also = PINTLE_UNIT_COUNT;
        pintle_worth_limits(&sensor, i, &sensor.channel[i]);
    }
    for (unsigned i = 0; i < cfg_size(section, "channel"); i++) {
        if (pintle_priv_loading_channel(&sensor, cfg_getnsec(section, "channel", i)) != 0) {
            return -1;
        }
    }
    rig->sensor = g_renew(struct pintle_rig_sensor, rig->sensor, rig->sensors + 1);
    rig->sensor[rig->sensors++] = sensor;
    rig->wired = rig->sensors;
    return check_twins(rig, rig->sensors - 1);
}
