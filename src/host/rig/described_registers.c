/* The registers of a described part, and the settings that live in them. */
#include "host/rig/described.h"

#include <glib.h>
#include <math.h>
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
        const char *head = cfg_getstr(from, "head");
        long address = head && strlen(head) == 2 ? (uint8_t)head[0] << 8 | (uint8_t)head[1]
                                                 : cfg_getint(from, "address");
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

/* "4Hz=2", "x16=5 43 ms", "x2=1 5 ms times 0.5": name, code, what it adds to the measuring time,
 * the factor of the channels that it scales. */
static int take_option(const struct describing *d, const char *text, struct pintle_option *option,
                       float *factor, const char **name)
{
    const char *sign = strchr(text, '=');
    char **halves = g_strsplit(sign ? sign + 1 : "", " times ", 2);
    char *end = NULL;
    int64_t us = 0;
    guint64 code = halves[0] ? g_ascii_strtoull(halves[0], &end, 0) : 0;
    bool ok = sign && sign > text && end && end > halves[0] && code <= 0xffff;
    if (ok && *end == ' ') {
        ok = pintle_duration_parse(end + 1, &us) && us <= 60000000;
    } else {
        ok = ok && *end == '\0';
    }
    *factor = 1;
    if (ok && halves[1]) {
        *factor = (float)g_ascii_strtod(halves[1], &end);
        ok = end > halves[1] && *end == '\0' && isnormal(*factor);
    }
    g_strfreev(halves);
    if (!ok) {
        return pintle_priv_described_complain(
            d,
            "'%s' is no option; write its name, its code and, where it has them, its time and its "
            "factor, as in \"x16=5 43 ms times 0.0625\"",
            text);
    }
    char *word = g_strndup(text, (gsize)(sign - text));
    *name = pintle_priv_loading_text("%s", word);
    g_free(word);
    *option = (struct pintle_option){ (uint16_t)code, (uint32_t)us };
    return 0;
}

/* Does each code fit into the register at this bit? */
static int codes_fit(const struct describing *d, const char *setting,
                     const struct pintle_setting *row, const char *const *names)
{
    const struct pintle_map_reg *reg = NULL;
    for (unsigned i = 0; i < d->sheet->reg_count; i++) {
        reg = d->sheet->regs[i].reg.address == row->reg ? &d->sheet->regs[i] : reg;
    }
    for (unsigned i = 0; reg && i < row->count; i++) {
        if ((uint64_t)row->options[i].code << row->shift >> 8 * reg->reg.width) {
            return pintle_priv_described_complain(
                d,
                "setting '%s': its option '%s' does not fit into register "
                "'%s' at bit %u",
                setting, names[i], reg->name, row->shift);
        }
    }
    return 0;
}

/* Where else a setting lives: a row for each, behind those of all settings. */
static int take_further(const struct describing *d, cfg_t *from, unsigned setting,
                        struct pintle_setting *settings, unsigned *rows)
{
    for (unsigned i = 0; i < cfg_size(from, "also"); i++) {
        cfg_t *also = cfg_getnsec(from, "also", i);
        const struct pintle_setting *of = &settings[setting];
        const struct pintle_map_reg *reg = pintle_priv_described_reg(d, cfg_title(also));
        unsigned codes = cfg_size(also, "codes");
        struct pintle_option *options = pintle_priv_loading_own(of->count * sizeof *options);
        long bit = cfg_getint(also, "bit");
        if (!reg || bit < 0 || bit >= 8 * reg->reg.width || (codes > 0 && codes != of->count)) {
            return pintle_priv_described_complain(
                d,
                "setting '%s': also '%s' needs the name of a register, a bit of it and, where they "
                "differ, a code for each option",
                cfg_title(from), cfg_title(also));
        }
        for (unsigned o = 0; o < of->count; o++) {
            options[o] = of->options[o];
            options[o].code = codes ? (uint16_t)cfg_getnint(also, "codes", o) : options[o].code;
        }
        settings[*rows] = (struct pintle_setting){ reg->reg.address, (uint8_t)bit, of->count,
                                                   (uint8_t)setting, options,      NULL };
        if (codes_fit(d, cfg_title(from), &settings[*rows], d->sheet->settings[setting].options)
            != 0) {
            return -1;
        }
        (*rows)++;
        d->part->further_count++;
    }
    return 0;
}

static int take_setting(const struct describing *d, cfg_t *from, struct pintle_setting *setting,
                        struct pintle_setting_text *text)
{
    const char *name = cfg_getstr(from, "register");
    const struct pintle_map_reg *reg = name ? pintle_priv_described_reg(d, name) : NULL;
    unsigned count = cfg_size(from, "options");
    struct pintle_option *options = pintle_priv_loading_own((count + 1) * sizeof *options);
    float *factors = pintle_priv_loading_own((count + 1) * sizeof *factors);
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
    *setting = (struct pintle_setting){ reg->reg.address,  (uint8_t)bit, (uint8_t)count,
                                        initial ? 255 : 0, options,      factors };
    for (unsigned i = 0; i < count; i++) {
        if (take_option(d, cfg_getnstr(from, "options", i), &options[i], &factors[i], &names[i])
            != 0) {
            return -1;
        }
        if (initial && strcmp(names[i], initial) == 0) {
            setting->initial = (uint8_t)i;
        }
    }
    if (codes_fit(d, cfg_title(from), setting, names) != 0) {
        return -1;
    }
    *text = (struct pintle_setting_text){ .name = pintle_priv_loading_text("%s", cfg_title(from)),
                                          .meaning = pintle_priv_loading_text(
                                              "%s", cfg_getstr(from, "meaning")),
                                          .options = names };
    return setting->initial == 255 ? pintle_priv_described_complain(
               d, "setting '%s' has no option '%s'", cfg_title(from), initial)
                                   : 0;
}

int pintle_priv_described_settings(struct describing *d)
{
    unsigned count = cfg_size(d->section, "setting");
    unsigned rows = count;
    for (unsigned i = 0; i < count; i++) {
        rows += cfg_size(cfg_getnsec(d->section, "setting", i), "also");
    }
    struct pintle_setting *settings = pintle_priv_loading_own((rows + 1) * sizeof *settings);
    struct pintle_setting_text *texts = pintle_priv_loading_own((count + 1) * sizeof *texts);
    if (count > PINTLE_MOST_SETTINGS || rows > 255) {
        return pintle_priv_described_complain(d, "there is room for %d settings",
                                              PINTLE_MOST_SETTINGS);
    }
    d->part->settings = settings;
    d->part->setting_count = (uint8_t)count;
    d->sheet->settings = texts;
    for (unsigned i = 0; i < count; i++) {
        if (take_setting(d, cfg_getnsec(d->section, "setting", i), &settings[i], &texts[i]) != 0) {
            return -1;
        }
    }
    rows = count;
    for (unsigned i = 0; i < count; i++) {
        if (take_further(d, cfg_getnsec(d->section, "setting", i), i, settings, &rows) != 0) {
            return -1;
        }
    }
    return 0;
}

int pintle_priv_described_numbers(struct describing *d)
{
    unsigned count = cfg_size(d->section, "number");
    struct pintle_number *numbers = pintle_priv_loading_own((count + 1) * sizeof *numbers);
    struct pintle_number_text *texts = pintle_priv_loading_own((count + 1) * sizeof *texts);
    if (count > PINTLE_MOST_NUMBERS) {
        return pintle_priv_described_complain(d, "there is room for %d numbers",
                                              PINTLE_MOST_NUMBERS);
    }
    for (unsigned i = 0; i < count; i++) {
        cfg_t *from = cfg_getnsec(d->section, "number", i);
        if (cfg_size(from, "range") != 2) {
            return pintle_priv_described_complain(
                d, "number '%s' needs a range of two numbers, as in { 0.001, 10 }",
                cfg_title(from));
        }
        numbers[i] = (struct pintle_number){ (float)cfg_getfloat(from, "initial"),
                                             (float)cfg_getnfloat(from, "range", 0),
                                             (float)cfg_getnfloat(from, "range", 1) };
        texts[i] =
            (struct pintle_number_text){ pintle_priv_loading_text("%s", cfg_title(from)),
                                         pintle_priv_loading_text("%s", cfg_getstr(from, "unit")),
                                         pintle_priv_loading_text("%s",
                                                                  cfg_getstr(from, "meaning")) };
    }
    d->part->numbers = numbers;
    d->part->number_count = (uint8_t)count;
    d->sheet->numbers = texts;
    return 0;
}

/* One rule. Its check is null where a mistake was reported. */
static struct pintle_part_crc rule_of(const struct describing *d, cfg_t *from)
{
    long bits = cfg_getint(from, "bits");
    long over = cfg_getint(from, "over");
    long polynomial = cfg_getint(from, "polynomial");
    long start = cfg_getint(from, "start");
    if ((bits != 8 && bits != 16) || over < 1 || over > PINTLE_MOST_RAW || polynomial < 0
        || polynomial >> bits || start < 0 || start >> bits) {
        (void)pintle_priv_described_complain(
            d,
            "its checksum '%s' has to have 8 or 16 bits, a polynomial and a start of no more, "
            "and to be over 1 to %d bytes",
            cfg_title(from), PINTLE_MOST_RAW);
        return (struct pintle_part_crc){ 0 };
    }
    return (struct pintle_part_crc){ pintle_part_crc_check,
                                     (uint16_t)polynomial,
                                     (uint16_t)start,
                                     (uint8_t)bits,
                                     cfg_getbool(from, "low-first") ? 1 : 0,
                                     (uint8_t)over };
}

/* In front of the rules, as number 0, stands the one that registers have: the first that isn't
 * said to be of other bytes only, or none. */
int pintle_priv_described_checksum(struct describing *d)
{
    unsigned count = cfg_size(d->section, "checksum");
    struct pintle_part_crc *rules = pintle_priv_loading_own((count + 1) * sizeof *rules);
    bool found = false;
    for (unsigned i = 0; i < count; i++) {
        cfg_t *from = cfg_getnsec(d->section, "checksum", i);
        rules[i + 1] = rule_of(d, from);
        if (!rules[i + 1].check) {
            return -1;
        }
        if (!found && cfg_getbool(from, "registers")) {
            rules[0] = rules[i + 1];
            found = true;
        }
    }
    d->part->crc = count ? rules : NULL;
    return 0;
}
