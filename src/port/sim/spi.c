/* SPI by whole transfers, bit after bit through the chips that are selected. */
#include "port/sim/bench.h"

struct talk {
    struct pintle_sim *sim;
    struct pintle_sim_chip *chips[PINTLE_SIM_CHIPS];
    uint8_t count;
    uint8_t active; /* troubles */
    uint8_t late;   /* wrong mode: the master takes the bit before, */
    uint8_t lost;   /* and where it is the other edge, so does the chip */
    uint8_t hasty;  /* faster than a chip can follow */
    uint8_t sent_before, shown_before;
};

static void select_chips(struct talk *talk, uint8_t bus, const struct pintle_spi_way *way)
{
    for (uint8_t i = 0; i < talk->sim->chips; i++) {
        struct pintle_sim_chip *chip = &talk->sim->chip[i];
        const struct pintle_sim_model *model = chip->model;
        if (chip->bus == bus && model->kind == PINTLE_SIM_SPI && chip->address == way->select
            && sim_hears(talk->sim, chip)) {
            talk->chips[talk->count++] = chip;
            talk->late |= !(model->modes >> way->mode & 1) || way->low_bit_first;
            talk->lost |= !(model->modes & (way->mode % 3 ? 6 : 9)) || way->low_bit_first;
            talk->hasty |= way->clock_hz > model->top_hz;
            model->select(chip, 1);
        }
    }
}

/* What the chips show; a line that nobody drives is pulled up weakly. */
static uint8_t shown(const struct talk *talk)
{
    uint8_t level = 1;
    for (uint8_t i = 0; i < talk->count; i++) {
        level &= talk->chips[i]->shown != PINTLE_SIM_SHOWS_0;
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
    for (uint8_t i = 0; i < talk->count && !(talk->active & PINTLE_SIM_CLOCK_LOW); i++) {
        uint8_t driven = (talk->active & PINTLE_SIM_SWAPPED) ? 1 : taken;
        talk->chips[i]->model->clock(talk->chips[i], driven);
    }
    if (talk->hasty && sim_random(talk->sim) % 4 == 0) {
        seen = !seen;
    }
    if (talk->active & (PINTLE_SIM_SWAPPED | PINTLE_SIM_CLOCK_LOW)) {
        seen = 1;
    }
    return talk->active & PINTLE_SIM_DATA_LOW ? 0 : sim_noisy(talk->sim, talk->active, seen);
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
    if (segment->in && talk->count > 0 && segment->length > 0
        && sim_faulty(talk->sim, talk->chips[0], PINTLE_SIM_FLIPPED)) {
        uint64_t random = sim_random(talk->sim);
        segment->in[(random >> 3) % segment->length] ^= (uint8_t)(1u << (random & 7));
    }
}

static enum pintle_status transfer(void *context, const struct pintle_spi_way *way,
                                   const struct pintle_segment *segments, uint8_t count)
{
    const struct pintle_sim_line *line = context;
    struct pintle_sim *sim = line->sim;
    if (sim_off(sim, line->bus)) {
        return PINTLE_UNSUPPORTED;
    }
    struct talk talk = { .sim = sim, .active = sim_active(sim, line->bus, 0) };
    uint64_t bytes = 0;
    select_chips(&talk, line->bus, way);
    for (uint8_t i = 0; i < count; i++) {
        pass_segment(&talk, &segments[i]);
        bytes += segments[i].length;
    }
    for (uint8_t i = 0; i < talk.count; i++) {
        talk.chips[i]->model->select(talk.chips[i], 0);
        talk.chips[i]->shown = PINTLE_SIM_SHOWS_NOTHING;
    }
    sim->bus[line->bus].bytes += bytes;
    pintle_sim_pass(sim, 1 + bytes * 8000000 / (way->clock_hz ? way->clock_hz : 1));
    return PINTLE_OK;
}

void sim_show(struct pintle_sim_chip *chip, struct sim_shifter *shifter, uint8_t out)
{
    shifter->bits = 0;
    shifter->out = out;
    chip->shown = out >> 7;
}

uint8_t sim_shift(struct pintle_sim_chip *chip, struct sim_shifter *shifter, uint8_t bit)
{
    shifter->in = (uint8_t)(shifter->in << 1 | bit);
    shifter->out = (uint8_t)(shifter->out << 1);
    chip->shown = shifter->out >> 7;
    shifter->bits++;
    return shifter->bits == 8;
}

struct pintle_spi pintle_sim_spi(struct pintle_sim *sim, uint8_t bus)
{
    static const struct pintle_spi_calls calls = { transfer };
    return (struct pintle_spi){ &calls, &sim->line[bus], 0 };
}
