/* A chip of a world script: where it sits, what it feels. */
#include "host/sim/twin.h"
#include "host/sim/world.h"
#include "pintle/ability.h"
#include "pintle/sheet.h"
#include "pintle/time.h"

#include <glib.h>
#include <string.h>

static int take_feel(cfg_t *cfg, struct pintle_sim_chip *chip, const char *assignment)
{
    char **sides = g_strsplit(assignment, "=", 2);
    int i = pintle_priv_world_index(pintle_priv_building.quantities,
                                    sides[0] && sides[1] ? sides[1] : "");
    int result = 0;
    if (i < 0) {
        result = pintle_priv_conf_complain(
            cfg, "'%s': write INPUT=QUANTITY with a quantity described above", assignment);
    } else if (pintle_sim_feel(chip, sides[0], &pintle_priv_building.it->curves[i]) != PINTLE_OK) {
        result = pintle_priv_conf_complain(cfg, "a simulated %s does not feel '%s'",
                                           chip->model->name, sides[0]);
    }
    g_strfreev(sides);
    return result;
}

static int take_error(cfg_t *cfg, struct pintle_sim_chip *chip, const char *assignment)
{
    char **sides = g_strsplit(assignment, "=", 2);
    double error = 0;
    bool ok = sides[0] && sides[1] && pintle_priv_conf_number(cfg, sides[1], &error);
    bool input = ok && pintle_sim_error(chip, sides[0], error) == PINTLE_OK;
    g_strfreev(sides);
    if (ok && !input) {
        pintle_priv_conf_complain(cfg, "'%s': a simulated %s has no such input", assignment,
                                  chip->model->name);
    } else if (!ok) {
        pintle_priv_conf_complain(cfg, "'%s': write INPUT=NUMBER", assignment);
    }
    return input ? 0 : -1;
}

/* Over the bus, as anybody would. It takes time, so it comes last: everything has been switched on
 * by then. */
bool pintle_priv_world_set(struct pintle_sim_chip *chip, struct pintle_problem *problem)
{
    struct pintle_sim *sim = chip->sim;
    struct pintle_i2c bus = pintle_sim_i2c(sim, chip->bus);
    const union pintle_any_bus on = { .i2c = &bus };
    const union pintle_place place = { .address = chip->address };
    struct pintle_any any;
    const struct pintle_sheet *sheet = pintle_sheet_find(chip->model->name);
    enum pintle_status status = pintle_any_on(&any, sheet->part, PINTLE_BUS_I2C, on, &place);
    if (status == PINTLE_OK) {
        status = pintle_time_set(&any.sensor, sim->began_us / 1000000);
    }
    return status == PINTLE_OK
           || pintle_problem_set(problem, PINTLE_FAILURE_USE, "%s: clock '%s' cannot be set: %s",
                                 pintle_priv_building.it->rig->world_path,
                                 (char *)pintle_priv_building.chips->pdata[chip - sim->chip],
                                 pintle_status_sentence(status));
}

/* The select line that the rig knows by this pin. */
static int take_select(cfg_t *cfg, const char *pin, struct pintle_sim_chip *chip)
{
    const struct pintle_rig_bus *bus = &pintle_priv_building.it->rig->bus[chip->bus];
    for (unsigned i = 0; pin && i < bus->selects; i++) {
        if (strcmp(bus->select_pin[i], pin) == 0) {
            chip->address = (uint8_t)i;
            return 0;
        }
    }
    return pintle_priv_conf_complain(
        cfg, "a simulated %s needs the select pin of one of the sensors on bus '%s'",
        chip->model->name, bus->name);
}

static int take_place(cfg_t *cfg, cfg_t *section, struct pintle_sim_chip *chip)
{
    const char *code = cfg_getstr(section, "code");
    const char *power = cfg_getstr(section, "power");
    long address = cfg_getint(section, "address");
    bool parasite = strcmp(power, "parasite") == 0;
    const struct pintle_rig_bus *bus = &pintle_priv_building.it->rig->bus[chip->bus];
    if ((int)chip->model->kind != (int)bus->kind) {
        return pintle_priv_conf_complain(cfg, "a simulated %s cannot sit on bus '%s', which is %s",
                                         chip->model->name, bus->name, pintle_bus_word(bus->kind));
    }
    if (!parasite && strcmp(power, "external") != 0) {
        return pintle_priv_conf_complain(cfg, "a chip's power is external or parasite, not '%s'",
                                         power);
    }
    chip->rom.parasite = parasite;
    switch (chip->model->kind) {
    case PINTLE_SIM_I2C:
        chip->address = (uint8_t)address;
        return address >= 0 && address <= 0x7f
                   ? 0
                   : pintle_priv_conf_complain(
                       cfg, "a simulated %s needs an address of 7 bits, up to 0x7f",
                       chip->model->name);
    case PINTLE_SIM_SPI:
        return take_select(cfg, cfg_getstr(section, "select"), chip);
    case PINTLE_SIM_STREAM:
        return 0;
    default:
        return code && pintle_code_parse(code, chip->rom.code)
                   ? 0
                   : pintle_priv_conf_complain(cfg,
                                               "a simulated %s needs a code, as in "
                                               "\"284c1e720700001d\"",
                                               chip->model->name);
    }
}

/* What the rig says that is wired to the chip (a converter's reference, a shunt) is what the chip
 * has, unless the world feeds that. */
static void follow_numbers(struct pintle_sim_chip *chip)
{
    const struct pintle_rig *rig = pintle_priv_building.it->rig;
    for (unsigned i = 0; i < rig->sensors; i++) {
        const struct pintle_rig_sensor *s = &rig->sensor[i];
        bool here = s->bus == chip->bus && chip->model->kind != PINTLE_SIM_ONEWIRE
                    && s->place.select == chip->address;
        if (here && chip->model->power_up == pintle_priv_twin_power_up) {
            struct twin *twin = g_ptr_array_index(pintle_priv_building.it->twins,
                                                  pintle_priv_building.it->twins->len - 1);
            twin->numbers = s->chosen.numbers;
        }
        for (unsigned n = 0; here && n < s->sheet->part->number_count; n++) {
            const struct pintle_sim_curve level = { .level = (double)s->chosen.numbers[n] };
            (void)!pintle_sim_feel(chip, s->sheet->numbers[n].name, &level);
        }
    }
}

/* A chip of a part that the rig describes is made from that. */
static struct pintle_sim_chip *add_described(cfg_t *cfg, const char *title, const char *part,
                                             uint16_t bus, bool *said)
{
    struct simulated *it = pintle_priv_building.it;
    struct pintle_problem unsaid = { 0 };
    const struct pintle_sheet *sheet = pintle_rig_part(it->rig, part, &unsaid);
    const char *why = NULL;
    if (!sheet || !sheet->described) {
        return NULL;
    }
    struct twin *twin = pintle_priv_twin_make(sheet, &why);
    if (!twin) {
        pintle_priv_conf_complain(cfg,
                                  "chip '%s': a '%s' cannot be simulated from its "
                                  "description: %s",
                                  title, part, why);
        *said = true;
        return NULL;
    }
    g_ptr_array_add(it->twins, twin);
    if (!it->remark) {
        it->remark = g_strdup_printf("chip '%s' is simulated from the rig's own description of a "
                                     "%s: that proves the plumbing, and nothing of the chip",
                                     title, part);
    }
    return pintle_sim_add_model(&it->sim, &twin->model, bus, 0);
}

static struct pintle_sim_chip *add_chip(cfg_t *cfg, cfg_t *section)
{
    struct simulated *it = pintle_priv_building.it;
    const char *title = cfg_title(section);
    const char *part = cfg_getstr(section, "part");
    const char *bus_name = cfg_getstr(section, "bus");
    int bus = bus_name ? pintle_rig_find_bus(it->rig, bus_name) : 0;
    if (bus < 0) {
        pintle_priv_conf_complain(cfg, "chip '%s' is on a bus that the rig does not have", title);
        return NULL;
    }
    struct pintle_sim_chip *chip = part ? pintle_sim_add(&it->sim, part, (uint16_t)bus, 0) : NULL;
    bool said = false;
    chip = chip || !part ? chip : add_described(cfg, title, part, (uint16_t)bus, &said);
    if (!chip && !said) {
        GString *known = g_string_new(NULL);
        for (size_t i = 0; pintle_sim_model_at(i); i++) {
            g_string_append_printf(known, "%s%s", i ? ", " : "", pintle_sim_model_at(i)->name);
        }
        pintle_priv_conf_complain(cfg, "chip '%s': there is no simulated '%s'; there are %s", title,
                                  part ? part : "", known->str);
        g_string_free(known, TRUE);
    }
    return chip;
}

int pintle_priv_world_chip(cfg_t *cfg, cfg_opt_t *opt)
{
    cfg_t *section = pintle_priv_conf_section(opt);
    if (pintle_priv_world_title(cfg, pintle_priv_building.chips, "chip", cfg_title(section)) != 0) {
        return -1;
    }
    struct pintle_sim_chip *chip = add_chip(cfg, section);
    if (!chip || take_place(cfg, section, chip) != 0) {
        return -1;
    }
    follow_numbers(chip);
    for (unsigned i = 0; i < cfg_size(section, "feels"); i++) {
        if (take_feel(cfg, chip, cfg_getnstr(section, "feels", i)) != 0) {
            return -1;
        }
    }
    for (unsigned i = 0; i < cfg_size(section, "errors"); i++) {
        if (take_error(cfg, chip, cfg_getnstr(section, "errors", i)) != 0) {
            return -1;
        }
    }
    if (cfg_getbool(section, "set")) {
        const struct pintle_sheet *sheet = pintle_sheet_find(chip->model->name);
        g_ptr_array_add(pintle_priv_building.clocks, chip);
        if (!sheet || !sheet->part->can || !sheet->part->can->timekeeper) {
            return pintle_priv_conf_complain(cfg, "chip '%s' is no clock that could be set",
                                             cfg_title(section));
        }
    }
    return 0;
}
