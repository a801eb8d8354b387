/* An SPI bus as lines. A chip takes a bit on the edge that its modes say and shows the next one on
 * the other edge. */
#include "port/sim/bench.h"

static void set_level(struct pintle_sim_spi_wires *w, uint8_t line, uint8_t level)
{
    if (w->level[line] != level) {
        w->level[line] = level;
        if (w->edge) {
            w->edge(w->edge_context, line, level, w->sim->now_us * 1000);
        }
    }
}

static uint8_t hears(const struct pintle_sim_chip *chip)
{
    return chip->side.spi.selected && pintle_priv_sim_hears(chip);
}

/* What the chips' common output is. */
static void settle_in(struct pintle_sim_spi_wires *w)
{
    uint8_t level = 1;
    const struct pintle_sim_chip *chip = pintle_priv_sim_first(w->sim, w->bus, PINTLE_SIM_SPI);
    for (; chip; chip = pintle_priv_sim_next(chip)) {
        level &= !(hears(chip) && chip->side.spi.visible == PINTLE_SIM_SHOWS_0);
    }
    level = w->active & PINTLE_SIM_SWAPPED ? 1 : level;
    set_level(w, PINTLE_SIM_DATA_IN, w->active & PINTLE_SIM_DATA_LOW ? 0 : level);
}

/* Modes 0 and 3 take bits on the rising edge, 1 and 2 on the falling one. */
static void clock_edge(struct pintle_sim_spi_wires *w, uint8_t level)
{
    uint8_t data = w->active & PINTLE_SIM_SWAPPED ? 1 : w->level[PINTLE_SIM_DATA];
    struct pintle_sim_chip *chip = pintle_priv_sim_first(w->sim, w->bus, PINTLE_SIM_SPI);
    for (; chip; chip = pintle_priv_sim_next(chip)) {
        struct pintle_sim_spi_slave *s = &chip->side.spi;
        uint8_t taking = level == (chip->model->modes & 9 ? 1 : 0);
        if (taking && chip->model->idle && chip->present && !s->selected) {
            chip->model->idle(chip, 1);
        }
        if (!hears(chip)) {
            continue;
        }
        if (taking) {
            pintle_priv_sim_spi_clock(chip, data);
        } else {
            s->visible = s->behind ? s->before : chip->shown;
            s->before = chip->shown;
        }
    }
}

static void select_edge(struct pintle_sim_spi_wires *w, uint8_t select, uint8_t level)
{
    struct pintle_sim_chip *chip = pintle_priv_sim_first(w->sim, w->bus, PINTLE_SIM_SPI);
    for (; chip; chip = pintle_priv_sim_next(chip)) {
        struct pintle_sim_spi_slave *s = &chip->side.spi;
        if (chip->address == select) {
            s->selected = !level;
            s->behind = chip->model->modes == 1 << 3 && !w->level[PINTLE_SIM_CLOCK];
            s->before = PINTLE_SIM_SHOWS_NOTHING;
            if (pintle_priv_sim_hears(chip)) {
                pintle_priv_sim_spi_select(chip, !level);
            }
            s->visible = chip->shown;
        }
    }
    if (level) {
        pintle_priv_sim_meddle(w->sim, w->bus, PINTLE_SIM_SPI);
    }
}

static void tell_kind(struct pintle_sim_spi_wires *w, uint8_t command)
{
    struct pintle_sim_chip *chip = pintle_priv_sim_first(w->sim, w->bus, PINTLE_SIM_SPI);
    for (; chip; chip = pintle_priv_sim_next(chip)) {
        chip->commanded = command;
    }
}

static void drive(void *context, enum pintle_drive drive)
{
    const struct pintle_sim_spi_wire *wire = context;
    struct pintle_sim_spi_wires *w = wire->wires;
    uint8_t level = drive != PINTLE_DRIVE_LOW;
    uint8_t before = w->level[wire->line];
    w->active = pintle_priv_sim_active(w->sim, w->bus, w->trouble);
    if (wire->line == PINTLE_SIM_CLOCK && (w->active & PINTLE_SIM_CLOCK_LOW)) {
        level = 0;
    }
    set_level(w, wire->line, level);
    if (wire->line == PINTLE_SIM_CLOCK && level != before) {
        clock_edge(w, level);
    } else if (wire->line == PINTLE_SIM_COMMAND) {
        tell_kind(w, !level);
    } else if (wire->line >= PINTLE_SIM_SELECT && level != before) {
        select_edge(w, wire->line - PINTLE_SIM_SELECT, level);
    }
    settle_in(w);
}

static uint8_t level(void *context)
{
    const struct pintle_sim_spi_wire *wire = context;
    struct pintle_sim_spi_wires *w = wire->wires;
    w->active = pintle_priv_sim_active(w->sim, w->bus, w->trouble);
    settle_in(w);
    return pintle_priv_sim_noisy(w->sim, w->active, w->level[wire->line]);
}

void pintle_sim_spi_wires_init(struct pintle_sim_spi_wires *wires, struct pintle_sim *sim,
                               uint16_t bus)
{
    memset(wires, 0, sizeof *wires);
    wires->sim = sim;
    wires->bus = bus;
    struct pintle_sim_chip *chip = pintle_priv_sim_first(sim, bus, PINTLE_SIM_SPI);
    for (; chip; chip = pintle_priv_sim_next(chip)) {
        chip->side.spi = (struct pintle_sim_spi_slave){ .visible = PINTLE_SIM_SHOWS_NOTHING };
    }
    for (unsigned line = 0; line < PINTLE_SIM_LINES_MAX; line++) {
        wires->level[line] = line >= PINTLE_SIM_DATA_IN;
        wires->wire[line].wires = wires;
        wires->wire[line].line = (uint8_t)line;
    }
}

struct pintle_pin pintle_sim_spi_pin(struct pintle_sim_spi_wires *wires, uint8_t line)
{
    static const struct pintle_pin_calls calls = { drive, level };
    return (struct pintle_pin){ &calls, &wires->wire[line] };
}
