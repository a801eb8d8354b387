/* A part section of a rig file: a chip that the catalogue lacks, in the words of part.h and
 * sheet.h. It becomes the same tables. */
#include "host/described.h"

#include <glib.h>
#include <stdarg.h>
#include <string.h>

/* Sections with titles of their own. */
#define ONCE_EACH (CFGF_MULTI | CFGF_TITLE | CFGF_NO_TITLE_DUPES)

cfg_opt_t *described_schema(void)
{
    static cfg_opt_t field[] = { CFG_INT("bit", -1, CFGF_NONE), CFG_INT("bits", 1, CFGF_NONE),
                                 CFG_STR("meaning", "", CFGF_NONE),
                                 CFG_STR_LIST("values", "{}", CFGF_NONE), CFG_END() };
    static cfg_opt_t reg[] = { CFG_INT("address", -1, CFGF_NONE),
                               CFG_INT("width", 1, CFGF_NONE),
                               CFG_STR("access", "both", CFGF_NONE),
                               CFG_INT("at-power-on", 0, CFGF_NONE),
                               CFG_STR("meaning", "", CFGF_NONE),
                               CFG_SEC("field", field, ONCE_EACH),
                               CFG_END() };
    static cfg_opt_t setting[] = {
        CFG_STR("register", NULL, CFGF_NODEFAULT), CFG_INT("bit", 0, CFGF_NONE),
        CFG_STR("meaning", "", CFGF_NONE),         CFG_STR_LIST("options", "{}", CFGF_NONE),
        CFG_STR("initial", NULL, CFGF_NODEFAULT),  CFG_END()
    };
    static cfg_opt_t channel[] = { CFG_STR("quantity", NULL, CFGF_NODEFAULT),
                                   CFG_INT("at", 0, CFGF_NONE),
                                   CFG_INT("bytes", 2, CFGF_NONE),
                                   CFG_INT("drop", 0, CFGF_NONE),
                                   CFG_INT("bits", 0, CFGF_NONE),
                                   CFG_BOOL("signed", cfg_false, CFGF_NONE),
                                   CFG_STR("order", "", CFGF_NONE),
                                   CFG_FLOAT("scale", 1, CFGF_NONE),
                                   CFG_FLOAT("offset", 0, CFGF_NONE),
                                   CFG_STR("scale-by", NULL, CFGF_NODEFAULT),
                                   CFG_FLOAT_LIST("scales", "{}", CFGF_NONE),
                                   CFG_FLOAT_LIST("polynomial", "{}", CFGF_NONE),
                                   CFG_FLOAT_LIST("range", "{}", CFGF_NONE),
                                   CFG_INT("decimals", 2, CFGF_NONE),
                                   CFG_FLOAT("accuracy", 0, CFGF_NONE),
                                   CFG_STR("power-on", NULL, CFGF_NODEFAULT),
                                   CFG_STR_LIST("ends", "{}", CFGF_NONE),
                                   CFG_STR_LIST("marks", "{}", CFGF_NONE),
                                   CFG_END() };
    static cfg_opt_t part[] = { CFG_STR("what", "described by the rig file", CFGF_NONE),
                                CFG_STR("source", "the rig file", CFGF_NONE),
                                CFG_STR("bus", "i2c", CFGF_NONE),
                                CFG_INT_LIST("addresses", "{}", CFGF_NONE),
                                CFG_INT("family", 0, CFGF_NONE),
                                CFG_INT("mode", 0, CFGF_NONE),
                                CFG_INT("top-speed", 1000000, CFGF_NONE),
                                CFG_INT("read-bit", 0, CFGF_NONE),
                                CFG_INT("burst-bit", 0, CFGF_NONE),
                                CFG_INT("bank-register", -1, CFGF_NONE),
                                CFG_INT("bank-bit", 0, CFGF_NONE),
                                CFG_STR("order", "high", CFGF_NONE),
                                CFG_BOOL("wide-address", cfg_false, CFGF_NONE),
                                CFG_BOOL("first-suspect", cfg_false, CFGF_NONE),
                                CFG_FLOAT_LIST("supply", "{3.0, 3.6}", CFGF_NONE),
                                CFG_STR_LIST("identity", "{}", CFGF_NONE),
                                CFG_STR_LIST("start", "{}", CFGF_NONE),
                                CFG_STR_LIST("measure", "{}", CFGF_NONE),
                                CFG_SEC("register", reg, ONCE_EACH),
                                CFG_SEC("setting", setting, ONCE_EACH),
                                CFG_SEC("channel", channel, ONCE_EACH),
                                CFG_END() };
    return part;
}

int described_complain(const struct describing *d, const char *format, ...)
{
    va_list args;
    va_start(args, format);
    char *text = g_strdup_vprintf(format, args);
    va_end(args);
    int result = conf_complain(d->cfg, "part '%s': %s", cfg_title(d->section), text);
    g_free(text);
    return result;
}

const struct pintle_map_reg *described_reg(const struct describing *d, const char *name)
{
    for (unsigned i = 0; i < d->sheet->reg_count; i++) {
        if (g_ascii_strcasecmp(d->sheet->regs[i].name, name) == 0) {
            return &d->sheet->regs[i];
        }
    }
    return NULL;
}

/* A list of strings as a table that ends in null; null where it is empty. */
static const char *const *own_list(cfg_t *section, const char *option)
{
    unsigned count = cfg_size(section, option);
    char **list = loading_own((count + 1) * sizeof *list);
    for (unsigned i = 0; i < count; i++) {
        list[i] = loading_text(cfg_getnstr(section, option, i));
    }
    return count ? (const char *const *)list : NULL;
}

static int take_fields(const struct describing *d, cfg_t *section, struct pintle_map_reg *reg)
{
    unsigned count = cfg_size(section, "field");
    struct pintle_field *fields = loading_own((count + 1) * sizeof *fields);
    for (unsigned i = 0; i < count; i++) {
        cfg_t *from = cfg_getnsec(section, "field", i);
        long bit = cfg_getint(from, "bit");
        long bits = cfg_getint(from, "bits");
        if (conf_name(d->cfg, "a field", cfg_title(from)) != 0) {
            return -1;
        }
        if (bit < 0 || bits < 1 || bit + bits > 8 * reg->reg.width) {
            return described_complain(d,
                                      "field '%s' of register '%s' does not lie within it; give "
                                      "bit = its lowest bit and bits = how many",
                                      cfg_title(from), reg->name);
        }
        fields[i] = (struct pintle_field){ loading_text(cfg_title(from)), (uint8_t)bit,
                                           (uint8_t)bits, loading_text(cfg_getstr(from, "meaning")),
                                           own_list(from, "values") };
    }
    reg->fields = fields;
    reg->field_count = (uint8_t)count;
    return 0;
}

static int take_registers(struct describing *d)
{
    unsigned count = cfg_size(d->section, "register");
    struct pintle_map_reg *regs = loading_own((count + 1) * sizeof *regs);
    d->sheet->regs = regs;
    for (unsigned i = 0; i < count; i++) {
        cfg_t *from = cfg_getnsec(d->section, "register", i);
        const char *access = cfg_getstr(from, "access");
        long address = cfg_getint(from, "address");
        long width = cfg_getint(from, "width");
        bool reads = strcmp(access, "read") == 0;
        bool writes = strcmp(access, "write") == 0;
        long at_power_on = cfg_getint(from, "at-power-on");
        if (conf_name(d->cfg, "a register", cfg_title(from)) != 0) {
            return -1;
        }
        if (address < 0 || address > 0xffff || width < 1 || width > 4
            || (!reads && !writes && strcmp(access, "both") != 0)) {
            return described_complain(d,
                                      "register '%s' needs an address up to 0xffff, a width of 1 "
                                      "to 4 bytes, and as access read, write or both",
                                      cfg_title(from));
        }
        if (at_power_on < 0 || at_power_on >> 8 * width) {
            return described_complain(d, "register '%s' has no room for its at-power-on",
                                      cfg_title(from));
        }
        uint8_t flags = reads ? PINTLE_REG_READ_ONLY : writes ? PINTLE_REG_WRITE_ONLY : 0;
        regs[i] = (struct pintle_map_reg){
            .name = loading_text(cfg_title(from)),
            .reg = PINTLE_REG((uint16_t)address, (uint8_t)width, flags),
            .at_power_on = (uint32_t)at_power_on,
            .meaning = loading_text(cfg_getstr(from, "meaning")),
        };
        d->sheet->reg_count = (uint16_t)(i + 1);
        if (take_fields(d, from, &regs[i]) != 0) {
            return -1;
        }
    }
    return 0;
}

/* "4Hz=2" or "x16=5 43 ms": name, code, what it adds to the measuring time. */
static int take_option(const struct describing *d, const char *text, struct pintle_option *option,
                       const char **name)
{
    const char *sign = strchr(text, '=');
    char *end = NULL;
    int64_t us = 0;
    guint64 code = sign ? g_ascii_strtoull(sign + 1, &end, 0) : 0;
    bool ok = sign && sign > text && end > sign + 1 && code <= 0xffff;
    if (ok && *end == ' ') {
        ok = pintle_duration_parse(end + 1, &us) && us <= 60000000;
    } else {
        ok = ok && *end == '\0';
    }
    if (!ok) {
        return described_complain(d,
                                  "'%s' is no option; write its name, its code and, where it costs "
                                  "any, its time, as in \"x16=5 43 ms\"",
                                  text);
    }
    char *word = g_strndup(text, (gsize)(sign - text));
    *name = loading_text(word);
    g_free(word);
    *option = (struct pintle_option){ (uint16_t)code, (uint32_t)us };
    return 0;
}

static int take_setting(const struct describing *d, cfg_t *from, struct pintle_setting *setting,
                        struct pintle_setting_text *text)
{
    const char *name = cfg_getstr(from, "register");
    const struct pintle_map_reg *reg = name ? described_reg(d, name) : NULL;
    unsigned count = cfg_size(from, "options");
    struct pintle_option *options = loading_own((count + 1) * sizeof *options);
    const char **names = loading_own((count + 1) * sizeof *names);
    const char *initial = cfg_getstr(from, "initial");
    long bit = cfg_getint(from, "bit");
    if (conf_name(d->cfg, "a setting", cfg_title(from)) != 0) {
        return -1;
    }
    if (!reg || count == 0 || count > 254) {
        return described_complain(d,
                                  "setting '%s' needs a register described above and 1 to 254 "
                                  "options",
                                  cfg_title(from));
    }
    if (bit < 0 || bit >= 8 * reg->reg.width) {
        return described_complain(d, "setting '%s': register '%s' has no bit %ld", cfg_title(from),
                                  reg->name, bit);
    }
    *setting = (struct pintle_setting){ reg->reg.address, (uint8_t)bit, (uint8_t)count,
                                        initial ? 255 : 0, options };
    for (unsigned i = 0; i < count; i++) {
        if (take_option(d, cfg_getnstr(from, "options", i), &options[i], &names[i]) != 0) {
            return -1;
        }
        if ((uint64_t)options[i].code << bit >> 8 * reg->reg.width) {
            return described_complain(d,
                                      "setting '%s': its option '%s' does not fit into register "
                                      "'%s' at bit %ld",
                                      cfg_title(from), names[i], reg->name, bit);
        }
        if (initial && strcmp(names[i], initial) == 0) {
            setting->initial = (uint8_t)i;
        }
    }
    *text = (struct pintle_setting_text){ loading_text(cfg_title(from)),
                                          loading_text(cfg_getstr(from, "meaning")), names };
    return setting->initial == 255
               ? described_complain(d, "setting '%s' has no option '%s'", cfg_title(from), initial)
               : 0;
}

static int take_settings(struct describing *d)
{
    unsigned count = cfg_size(d->section, "setting");
    struct pintle_setting *settings = loading_own((count + 1) * sizeof *settings);
    struct pintle_setting_text *texts = loading_own((count + 1) * sizeof *texts);
    if (count > PINTLE_SETTINGS_MAX) {
        return described_complain(d, "there is room for %d settings", PINTLE_SETTINGS_MAX);
    }
    for (unsigned i = 0; i < count; i++) {
        if (take_setting(d, cfg_getnsec(d->section, "setting", i), &settings[i], &texts[i]) != 0) {
            return -1;
        }
    }
    d->part->settings = settings;
    d->part->setting_count = (uint8_t)count;
    d->sheet->settings = texts;
    return 0;
}

static int take_i2c(struct describing *d)
{
    unsigned count = cfg_size(d->section, "addresses");
    uint8_t *addresses = loading_own(count + 1);
    struct pintle_strap *straps = loading_own((count + 1) * sizeof *straps);
    for (unsigned i = 0; i < count; i++) {
        long address = cfg_getnint(d->section, "addresses", i);
        if (address < 0x08 || address > 0x77) {
            return described_complain(d, "0x%02lx is no 7-bit address; they go from 0x08 to 0x77",
                                      (unsigned long)address);
        }
        addresses[i] = (uint8_t)address;
        straps[i] = (struct pintle_strap){ (uint8_t)address, "as the rig file says" };
    }
    d->part->link = &pintle_link_i2c;
    d->part->addresses = addresses;
    d->part->address_count = (uint8_t)count;
    d->sheet->straps = straps;
    return count > 0 && count <= 112
               ? 0
               : described_complain(d, "it needs its addresses, as in { 0x48, 0x49 }");
}

static int take_spi(struct describing *d)
{
    struct pintle_spi_rules *rules = loading_own(sizeof *rules);
    static const struct {
        const char *word;
        long lowest, highest;
    } numbers[] = { { "top-speed", 1000, 100000000 }, { "mode", 0, 3 },
                    { "read-bit", 0, 0xff },          { "burst-bit", 0, 0xff },
                    { "bank-register", -1, 0x7f },    { "bank-bit", 0, 7 } };
    long is[G_N_ELEMENTS(numbers)];
    for (unsigned i = 0; i < G_N_ELEMENTS(numbers); i++) {
        is[i] = cfg_getint(d->section, numbers[i].word);
        if (is[i] < numbers[i].lowest || is[i] > numbers[i].highest) {
            return described_complain(d, "%s is a number from %ld to %ld", numbers[i].word,
                                      MAX(numbers[i].lowest, 0), numbers[i].highest);
        }
    }
    *rules = (struct pintle_spi_rules){ .top_hz = (uint32_t)is[0],
                                        .mode = (uint8_t)is[1],
                                        .read_bit = (uint8_t)is[2],
                                        .burst_bit = (uint8_t)is[3],
                                        .bank_reg = (uint8_t)MAX(is[4], 0),
                                        .bank_shift = (uint8_t)is[5],
                                        .banks = is[4] >= 0 };
    d->part->link = &pintle_link_spi;
    d->part->spi = rules;
    d->part->flags |= PINTLE_PART_ONES_SILENT;
    return 0;
}

static int take_bus(struct describing *d)
{
    const char *bus = cfg_getstr(d->section, "bus");
    if (strcmp(bus, "i2c") == 0) {
        return take_i2c(d);
    }
    if (strcmp(bus, "spi") == 0) {
        return take_spi(d);
    }
    if (strcmp(bus, "onewire") == 0) {
        long family = cfg_getint(d->section, "family");
        d->part->link = &pintle_link_scratchpad;
        d->part->family = (uint8_t)family;
        return family >= 1 && family <= 0xff
                   ? 0
                   : described_complain(d, "family is the first byte of its code, 0x01 to 0xff");
    }
    return described_complain(d, "it is on a bus of kind '%s'; there are i2c, spi and onewire",
                              bus);
}

static int take_flags(struct describing *d)
{
    const char *order = cfg_getstr(d->section, "order");
    if (strcmp(order, "high") != 0 && strcmp(order, "low") != 0) {
        return described_complain(d, "order says which byte comes first, high or low");
    }
    d->part->flags |= order[0] == 'h' ? PINTLE_PART_BIG_ENDIAN : 0;
    d->part->flags |= cfg_getbool(d->section, "wide-address") ? PINTLE_PART_WIDE_ADDRESS : 0;
    d->part->flags |= cfg_getbool(d->section, "first-suspect") ? PINTLE_PART_FIRST_SUSPECT : 0;
    return 0;
}

/* What 'convert' and 'parts' say of the raw block. */
static void describe_block(struct describing *d)
{
    struct pintle_stretch *data = loading_own(sizeof *data);
    *data = (struct pintle_stretch){ "read", (uint8_t)d->raw, "what the measuring steps read" };
    d->sheet->data = data;
    d->sheet->data_count = 1;
    d->part->raw_size = (uint8_t)d->raw;
}

static void take_texts(struct describing *d)
{
    d->sheet->part = d->part;
    d->sheet->described = 1;
    d->sheet->what = loading_text(cfg_getstr(d->section, "what"));
    d->sheet->source = loading_text(cfg_getstr(d->section, "source"));
    d->sheet->supply_lowest = (float)cfg_getnfloat(d->section, "supply", 0);
    d->sheet->supply_highest = (float)cfg_getnfloat(d->section, "supply", 1);
    d->sheet->proof_is_certain = cfg_size(d->section, "identity") > 0;
    d->sheet->proof = d->sheet->proof_is_certain ? "the identity that the rig file describes"
                                                 : "no identity; it answers";
}

int described_take(cfg_t *cfg, cfg_opt_t *opt)
{
    struct pintle_rig *rig = loading.rig;
    struct describing d = { .cfg = cfg,
                            .section = conf_section(opt),
                            .part = loading_own(sizeof *d.part),
                            .sheet = loading_own(sizeof *d.sheet) };
    const char *name = cfg_title(d.section);
    struct pintle_problem unsaid = { 0 };
    if (conf_name(cfg, "a part", name) != 0) {
        return -1;
    }
    if (strlen(name) >= sizeof d.part->name || pintle_rig_part(rig, name, &unsaid)) {
        return described_complain(&d, "its name has more than %u letters or is taken already",
                                  (unsigned)sizeof d.part->name - 1);
    }
    g_strlcpy(d.part->name, name, sizeof d.part->name);
    if (cfg_size(d.section, "supply") != 2) {
        return described_complain(&d, "supply takes two voltages, as in { 2.7, 3.6 }");
    }
    take_texts(&d);
    if (take_bus(&d) != 0 || take_flags(&d) != 0 || take_registers(&d) != 0
        || take_settings(&d) != 0) {
        return -1;
    }
    d.part->identity = described_steps(&d, "identity");
    d.part->setup = d.part->identity ? described_steps(&d, "start") : NULL;
    d.part->measure = d.part->setup ? described_steps(&d, "measure") : NULL;
    if (!d.part->measure || described_channels(&d) != 0) {
        return -1;
    }
    describe_block(&d);
    const char *fault = pintle_sheet_fault(d.sheet);
    if (fault) {
        return described_complain(&d, "it describes %s", fault);
    }
    rig->part = g_renew(const struct pintle_sheet *, rig->part, rig->described + 1);
    rig->part[rig->described++] = d.sheet;
    return 0;
}
