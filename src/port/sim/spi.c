/* SPI by whole transfers, bit after bit through the chips that are selected. */
#include "port/sim/bench.h"

struct talk {
    struct pintle_sim *sim;
    struct pintle_sim_bus *bus;
    uint8_t active; /* troubles */
    uint8_t late;   /* wrong mode: the master takes the bit before, */
    uint8_t lost;   /* and where it is the other edge, so does the chip */
    uint8_t hasty;  /* faster than a chip can follow */
    uint8_t sent_before, shown_before;
};

/* The next chip, from this one on, that is selected and has power. */
static struct pintle_sim_chip *listener(struct pintle_sim_chip *chip)
{
    while (chip && !(chip->addressed && chip->present)) {
        chip = pintle_priv_sim_next(chip);
    }
    return chip;
}

static struct pintle_sim_chip *first(const struct talk *talk)
{
    return listener(pintle_priv_sim_first(talk->sim, talk->bus->index, PINTLE_SIM_SPI));
}

static struct pintle_sim_chip *next(const struct pintle_sim_chip *chip)
{
    return listener(pintle_priv_sim_next(chip));
}

static void select_chips(struct talk *talk, const struct pintle_spi_way *way)
{
    struct pintle_sim_chip *chip =
        pintle_priv_sim_first(talk->sim, talk->bus->index, PINTLE_SIM_SPI);
    for (; chip; chip = pintle_priv_sim_next(chip)) {
        const struct pintle_sim_model *model = chip->model;
        uint8_t held = chip->addressed;
        chip->addressed = chip->address == way->select && pintle_priv_sim_hears(chip);
        chip->commanded = way->command;
        if (held && !chip->addressed) {
            pintle_priv_sim_spi_select(chip, 0); /* the port let it go */
        }
        if (chip->addressed) {
            talk->late |= !(model->modes >> way->mode & 1) || way->low_bit_first;
            talk->lost |= !(model->modes & (way->mode % 3 ? 6 : 9)) || way->low_bit_first;
            talk->hasty |= way->clock_hz > model->top_hz;
        }
        if (chip->addressed && !held) {
            pintle_priv_sim_spi_select(chip, 1);
        }
    }
}

/* What the chips show; a line that nobody drives is pulled up weakly. */
static uint8_t shown(const struct talk *talk)
{
    uint8_t level = 1;
    for (struct pintle_sim_chip *chip = first(talk); chip; chip = next(chip)) {
        level &= chip->shown != PINTLE_SIM_SHOWS_0;
    }
    return level;
}

static uint8_t pass_bit(struct talk *talk, uint8_t bit)
{
    uint8_t taken = talk->lost ? talk->sent_before : bit;
    uint8_t now = shown(talk);
    uint8_t seen = talk->late ? talk->shown_before : now;
    talk->sent_before = bit;
    talk->shown_before = now;
    struct pintle_sim_chip *chip = talk->active & PINTLE_SIM_CLOCK_LOW ? NULL : first(talk);
    for (; chip; chip = next(chip)) {
        pintle_priv_sim_spi_clock(chip, (talk->active & PINTLE_SIM_SWAPPED) ? 1 : taken);
    }
    if (talk->hasty && pintle_priv_sim_random(talk->sim) % 4 == 0) {
        seen = !seen;
    }
    if (talk->active & (PINTLE_SIM_SWAPPED | PINTLE_SIM_CLOCK_LOW)) {
        seen = 1;
    }
    return talk->active & PINTLE_SIM_DATA_LOW
               ? 0
               : pintle_priv_sim_noisy(talk->sim, talk->active, seen);
}

static uint8_t pass_byte(struct talk *talk, uint8_t out)
{
    uint8_t in = 0;
    for (uint8_t mask = 0x80; mask; mask >>= 1) {
        in = (uint8_t)(in << 1 | pass_bit(talk, (out & mask) != 0));
    }
    return in;
}

static void pass_segment(struct talk *talk, const struct pintle_segment *segment)
{
    for (uint16_t i = 0; i < segment->length; i++) {
        uint8_t in = pass_byte(talk, segment->out ? segment->out[i] : 0);
        if (segment->in) {
            segment->in[i] = in;
        }
    }
    const struct pintle_sim_chip *chip = first(talk);
    if (segment->in && chip && segment->length > 0
        && pintle_priv_sim_faulty(chip, PINTLE_SIM_FLIPPED)) {
        uint64_t random = pintle_priv_sim_random(talk->sim);
        segment->in[(random >> 3) % segment->length] ^= (uint8_t)(1u << (random & 7));
    }
}

static enum pintle_status transfer(void *context, const struct pintle_spi_way *way,
                                   const struct pintle_segment *segments, uint8_t count)
{
    struct pintle_sim_bus *bus = context;
    struct pintle_sim *sim = bus->sim;
    if (pintle_priv_sim_off(sim, bus->index)) {
        return PINTLE_NO_DEVICE;
    }
    struct talk talk = { .sim = sim,
                         .bus = bus,
                         .active = pintle_priv_sim_active(sim, bus->index, 0) };
    uint64_t bytes = 0;
    if (!bus->claimed) {
        pintle_priv_sim_meddle(sim, bus->index, PINTLE_SIM_SPI);
    }
    select_chips(&talk, way);
    for (uint8_t i = 0; i < count; i++) {
        pass_segment(&talk, &segments[i]);
        bytes += segments[i].length;
    }
    for (struct pintle_sim_chip *chip = first(&talk); chip && !way->hold; chip = next(chip)) {
        pintle_priv_sim_spi_select(chip, 0);
        chip->shown = PINTLE_SIM_SHOWS_NOTHING;
        chip->addressed = 0;
    }
    struct pintle_sim_chip *chip = pintle_priv_sim_first(sim, bus->index, PINTLE_SIM_SPI);
    for (; chip; chip = pintle_priv_sim_next(chip)) {
        if (chip->model->idle && chip->address != way->select && chip->present) {
            chip->model->idle(chip, (uint32_t)(8 * bytes));
        }
    }
    bus->bytes += bytes;
    pintle_sim_pass(sim, 1 + bytes * 8000000 / (way->clock_hz ? way->clock_hz : 1));
    return PINTLE_OK;
}

void pintle_priv_sim_show(struct pintle_sim_chip *chip, struct pintle_sim_shifter *shifter,
                          uint8_t out)
{
    shifter->bits = 0;
    shifter->out = out;
    chip->shown = out >> 7;
}

uint8_t pintle_priv_sim_shift(struct pintle_sim_chip *chip, struct pintle_sim_shifter *shifter,
                              uint8_t bit)
{
    shifter->in = (uint8_t)(shifter->in << 1 | bit);
    shifter->out = (uint8_t)(shifter->out << 1);
    chip->shown = shifter->out >> 7;
    shifter->bits++;
    return shifter->bits == 8;
}

/* Programs that share the bus take turns: another one has it before, or after. */
static enum pintle_status acquire(void *context)
{
    struct pintle_sim_bus *bus = context;
    pintle_priv_sim_meddle(bus->sim, bus->index, PINTLE_SIM_SPI);
    bus->claimed = 1;
    return PINTLE_OK;
}

static void release(void *context)
{
    struct pintle_sim_bus *bus = context;
    bus->claimed = 0;
}

struct pintle_spi pintle_sim_spi(struct pintle_sim *sim, uint16_t bus)
{
    static const struct pintle_claims claims = { acquire, release };
    static const struct pintle_spi_calls calls = { .transfer = transfer };
    return (struct pintle_spi){ .calls = &calls,
                                .common = { .context = &sim->bus[bus],
                                            .clock = &sim->clock,
                                            .claims = &claims,
                                            .sole_master = !sim->bus[bus].shared } };
}
