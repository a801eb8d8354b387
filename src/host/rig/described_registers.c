/* The registers of a described part, and the settings that live in them. */
#include "host/rig/described.h"

#include <glib.h>
#include <string.h>

/* A list of strings as a table that ends in null; null where it is empty. */
static const char *const *own_list(cfg_t *section, const char *option)
{
    unsigned count = cfg_size(section, option);
    char **list = pintle_priv_loading_own((count + 1) * sizeof *list);
    for (unsigned i = 0; i < count; i++) {
        list[i] = pintle_priv_loading_text("%s", cfg_getnstr(section, option, i));
    }
    return count ? (const char *const *)list : NULL;
}

static int take_fields(const struct describing *d, cfg_t *section, struct pintle_map_reg *reg)
{
    unsigned count = cfg_size(section, "field");
    struct pintle_field *fields = pintle_priv_loading_own((count + 1) * sizeof *fields);
    for (unsigned i = 0; i < count; i++) {
        cfg_t *from = cfg_getnsec(section, "field", i);
        long bit = cfg_getint(from, "bit");
        long bits = cfg_getint(from, "bits");
        if (pintle_priv_conf_name(d->cfg, "a field", cfg_title(from)) != 0) {
            return -1;
        }
        if (bit < 0 || bits < 1 || bit + bits > 8 * reg->reg.width) {
            return pintle_priv_described_complain(
                d,
                "field '%s' of register '%s' does not lie within it; give "
                "bit = its lowest bit and bits = how many",
                cfg_title(from), reg->name);
        }
        fields[i] = (struct pintle_field){
            pintle_priv_loading_text("%s", cfg_title(from)), (uint8_t)bit, (uint8_t)bits,
            pintle_priv_loading_text("%s", cfg_getstr(from, "meaning")), own_list(from, "values")
        };
    }
    reg->fields = fields;
    reg->field_count = (uint8_t)count;
    return 0;
}

int pintle_priv_described_registers(struct describing *d)
{
    unsigned count = cfg_size(d->section, "register");
    struct pintle_map_reg *regs = pintle_priv_loading_own((count + 1) * sizeof *regs);
    d->sheet->regs = regs;
    for (unsigned i = 0; i < count; i++) {
        cfg_t *from = cfg_getnsec(d->section, "register", i);
        const char *access = cfg_getstr(from, "access");
        long address = cfg_getint(from, "address");
        long width = cfg_getint(from, "width");
        bool reads = strcmp(access, "read") == 0;
        bool writes = strcmp(access, "write") == 0;
        long at_power_on = cfg_getint(from, "at-power-on");
        if (pintle_priv_conf_name(d->cfg, "a register", cfg_title(from)) != 0) {
            return -1;
        }
        if (address < 0 || address > 0xffff || width < 1 || width > 4
            || (!reads && !writes && strcmp(access, "both") != 0)) {
            return pintle_priv_described_complain(
                d,
                "register '%s' needs an address up to 0xffff, a width of 1 "
                "to 4 bytes, and as access read, write or both",
                cfg_title(from));
        }
        if (at_power_on < 0 || at_power_on >> 8 * width) {
            return pintle_priv_described_complain(
                d, "register '%s' has no room for its at-power-on", cfg_title(from));
        }
        uint8_t flags = reads ? PINTLE_REG_READ_ONLY : writes ? PINTLE_REG_WRITE_ONLY : 0;
        regs[i] = (struct pintle_map_reg){
            .name = pintle_priv_loading_text("%s", cfg_title(from)),
            .reg = PINTLE_REG((uint16_t)address, (uint8_t)width, flags),
            .at_power_on = (uint32_t)at_power_on,
            .meaning = pintle_priv_loading_text("%s", cfg_getstr(from, "meaning")),
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
        return pintle_priv_described_complain(
            d,
            "'%s' is no option; write its name, its code and, where it costs "
            "any, its time, as in \"x16=5 43 ms\"",
            text);
    }
    char *word = g_strndup(text, (gsize)(sign - text));
    *name = pintle_priv_loading_text("%s", word);
    g_free(word);
    *option = (struct pintle_option){ (uint16_t)code, (uint32_t)us };
    return 0;
}

static int take_setting(const struct describing *d, cfg_t *from, struct pintle_setting *setting,
                        struct pintle_setting_text *text)
{
    const char *name = cfg_getstr(from, "register");
    const struct pintle_map_reg *reg = name ? pintle_priv_described_reg(d, name) : NULL;
    unsigned count = cfg_size(from, "options");
    struct pintle_option *options = pintle_priv_loading_own((count + 1) * sizeof *options);
    const char **names = pintle_priv_loading_own((count + 1) * sizeof *names);
    const char *initial = cfg_getstr(from, "initial");
    long bit = cfg_getint(from, "bit");
    if (pintle_priv_conf_name(d->cfg, "a setting", cfg_title(from)) != 0) {
        return -1;
    }
    if (!reg || count == 0 || count > 254) {
        return pintle_priv_described_complain(
            d,
            "setting '%s' needs a register described above and 1 to 254 "
            "options",
            cfg_title(from));
    }
    if (bit < 0 || bit >= 8 * reg->reg.width) {
        return pintle_priv_described_complain(d, "setting '%s': register '%s' has no bit %ld",
                                              cfg_title(from), reg->name, bit);
    }
    *setting = (struct pintle_setting){ reg->reg.address, (uint8_t)bit, (uint8_t)count,
                                        initial ? 255 : 0, options };
    for (unsigned i = 0; i < count; i++) {
        if (take_option(d, cfg_getnstr(from, "options", i), &options[i], &names[i]) != 0) {
            return -1;
        }
        if ((uint64_t)options[i].code << bit >> 8 * reg->reg.width) {
            return pintle_priv_described_complain(
                d,
                "setting '%s': its option '%s' does not fit into register "
                "'%s' at bit %ld",
                cfg_title(from), names[i], reg->name, bit);
        }
        if (initial && strcmp(names[i], initial) == 0) {
            setting->initial = (uint8_t)i;
        }
    }
    *text =
        (struct pintle_setting_text){ pintle_priv_loading_text("%s", cfg_title(from)),
                                      pintle_priv_loading_text("%s", cfg_getstr(from, "meaning")),
                                      names };
    return setting->initial == 255 ? pintle_priv_described_complain(
               d, "setting '%s' has no option '%s'", cfg_title(from), initial)
                                   : 0;
}

int pintle_priv_described_settings(struct describing *d)
{
    unsigned count = cfg_size(d->section, "setting");
    struct pintle_setting *settings = pintle_priv_loading_own((count + 1) * sizeof *settings);
    struct pintle_setting_text *texts = pintle_priv_loading_own((count + 1) * sizeof *texts);
    if (count > PINTLE_SETTINGS_MAX) {
        return pintle_priv_described_complain(d, "there is room for %d settings",
                                              PINTLE_SETTINGS_MAX);
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
