/* A bus as two open-drain lines. Nobody drives a line high: it rises through its pull-up, and is
 * high once it has passed 0.7 of the supply, R x C x ln(1/0.3) after the last one let go
 * (UM10204 section 7.2.1). Falls take no time. */
#include "port/sim/bench.h"

#define LN_RISE 1.2039728

enum { IDLE, ADDRESS, WRITE, READ, ACK_TO_MASTER, ACK_FROM_MASTER, DEAF };

static double now_ns(const struct pintle_sim_i2c_wires *w)
{
    return (double)w->sim->now_us * 1000.0;
}

static void note_edge(const struct pintle_sim_i2c_wires *w, uint8_t line, double at_ns)
{
    if (w->edge) {
        w->edge(w->edge_context, line, w->level[line], (uint64_t)at_ns);
    }
}

static uint8_t anybody_pulls(const struct pintle_sim_i2c_wires *w, uint8_t line)
{
    uint8_t low = w->master_low[line];
    low |= (w->active & PINTLE_SIM_DATA_LOW) && line == PINTLE_SIM_DATA;
    low |= (w->active & PINTLE_SIM_CLOCK_LOW) && line == PINTLE_SIM_CLOCK;
    low |= (w->active & PINTLE_SIM_HELD) && line == PINTLE_SIM_DATA && w->held_clocks > 0;
    low |= line == PINTLE_SIM_CLOCK && w->sim->now_us < w->stretched_until_us;
    const struct pintle_sim_chip *chip = pintle_priv_sim_first(w->sim, w->bus, PINTLE_SIM_I2C);
    for (; chip; chip = pintle_priv_sim_next(chip)) {
        low |= chip->side.i2c.low[line];
    }
    return low;
}

static uint8_t is_low(const struct pintle_sim_i2c_wires *w, uint8_t line)
{
    return anybody_pulls(w, line)
           || ((w->active & PINTLE_SIM_BRIDGED) && anybody_pulls(w, line ^ 1));
}

/* --- a chip's side --- */

static void slave_idle(struct pintle_sim_chip *chip)
{
    chip->side.i2c.state = IDLE;
    chip->side.i2c.low[PINTLE_SIM_DATA] = 0;
}

static void slave_start(struct pintle_sim_chip *chip)
{
    slave_idle(chip);
    if (pintle_priv_sim_hears(chip)) {
        chip->side.i2c.state = ADDRESS;
        chip->side.i2c.bits = 0;
    }
}

static void slave_stop(struct pintle_sim_chip *chip)
{
    uint8_t state = chip->side.i2c.state;
    if (state != IDLE && state != ADDRESS) {
        chip->model->stop(chip);
    }
    slave_idle(chip);
}

/* The clock has risen: take a bit in. */
static void slave_sample(struct pintle_sim_chip *chip, uint8_t data)
{
    struct pintle_sim_i2c_slave *s = &chip->side.i2c;
    if (s->state == ADDRESS || s->state == WRITE) {
        s->shifted = (uint8_t)(s->shifted << 1 | data);
        s->bits++;
    } else if (s->state == ACK_FROM_MASTER && data) {
        s->state = DEAF; /* the master has had enough */
    }
}

static void slave_next_out(struct pintle_sim_chip *chip, uint8_t first)
{
    struct pintle_sim_i2c_slave *s = &chip->side.i2c;
    s->shifted = chip->model->read(chip);
    if (first && pintle_priv_sim_faulty(chip, PINTLE_SIM_FLIPPED)) {
        s->shifted ^= (uint8_t)(1u << (pintle_priv_sim_random(chip->sim) & 7));
    }
    s->bits = 0;
    s->state = READ;
}

static void slave_put_bit(struct pintle_sim_i2c_slave *s)
{
    s->low[PINTLE_SIM_DATA] = !(s->shifted & 0x80);
    s->shifted = (uint8_t)(s->shifted << 1);
    s->bits++;
}

/* A whole byte is in: acknowledge it or not. Returns 1 after the own address. */
static uint8_t slave_take_byte(struct pintle_sim_chip *chip)
{
    struct pintle_sim_i2c_slave *s = &chip->side.i2c;
    uint8_t address = s->state == ADDRESS;
    uint8_t ack = 0;
    if (!address) {
        ack = pintle_priv_sim_i2c_write(chip, s->shifted);
    } else if (pintle_priv_sim_means(chip, s->shifted >> 1)) {
        ack = pintle_priv_sim_i2c_start(chip, s->shifted & 1);
    }
    s->low[PINTLE_SIM_DATA] = ack;
    s->state = ack ? ACK_TO_MASTER : address ? IDLE : DEAF;
    s->bits = address && (s->shifted & 1); /* what comes after the acknowledge: reading? */
    return address && ack;
}

/* The clock has fallen: the moment to change the data line. Returns 1 after the own address. */
static uint8_t slave_clock_fell(struct pintle_sim_chip *chip)
{
    struct pintle_sim_i2c_slave *s = &chip->side.i2c;
    if (s->state != IDLE && !chip->present) { /* it lost its power on the way */
        slave_idle(chip);
    }
    switch (s->state) {
    case ADDRESS:
    case WRITE:
        return s->bits == 8 ? slave_take_byte(chip) : 0;
    case ACK_TO_MASTER:
        s->low[PINTLE_SIM_DATA] = 0;
        s->state = WRITE;
        if (s->bits) {
            slave_next_out(chip, 1);
            slave_put_bit(s);
        }
        s->bits = s->state == READ ? s->bits : 0;
        break;
    case READ:
        if (s->bits < 8) {
            slave_put_bit(s);
        } else {
            s->low[PINTLE_SIM_DATA] = 0;
            s->state = ACK_FROM_MASTER;
        }
        break;
    case ACK_FROM_MASTER:
        slave_next_out(chip, 0);
        slave_put_bit(s);
        break;
    default:
        s->low[PINTLE_SIM_DATA] = 0;
        break;
    }
    return 0;
}

/* --- the lines --- */

static void all_see(struct pintle_sim_i2c_wires *w, uint8_t line)
{
    uint8_t data = w->level[PINTLE_SIM_DATA];
    uint8_t clock = w->level[PINTLE_SIM_CLOCK];
    uint8_t answered = 0;
    if (line == PINTLE_SIM_DATA && clock && data) {
        pintle_priv_sim_meddle(w->sim, w->bus, PINTLE_SIM_I2C); /* after a STOP the bus is free */
    }
    struct pintle_sim_chip *chip = pintle_priv_sim_first(w->sim, w->bus, PINTLE_SIM_I2C);
    for (; chip; chip = pintle_priv_sim_next(chip)) {
        if (line == PINTLE_SIM_DATA && clock) {
            (data ? slave_stop : slave_start)(chip);
        } else if (line == PINTLE_SIM_CLOCK && clock) {
            slave_sample(chip, data);
        } else if (line == PINTLE_SIM_CLOCK) {
            answered |= slave_clock_fell(chip);
        }
    }
    if (line == PINTLE_SIM_CLOCK && !clock && w->held_clocks > 0) {
        w->held_clocks--;
    }
    if (answered && (w->active & PINTLE_SIM_STRETCHED)) {
        w->stretched_until_us = w->sim->now_us + w->stretch_us;
    }
}

/* Take over the troubles of this moment; one that begins brings its amount. */
static void update_troubles(struct pintle_sim_i2c_wires *w)
{
    uint32_t amount = 0;
    uint8_t scheduled = pintle_priv_sim_troubles(w->sim, w->bus, &amount);
    uint8_t begun = scheduled & (uint8_t)~w->active;
    if (begun & PINTLE_SIM_HELD) {
        w->held_clocks = (uint8_t)(amount < 255 ? amount : 255);
    }
    if (begun & PINTLE_SIM_STRETCHED) {
        w->stretch_us = amount;
    }
    w->active = scheduled | w->trouble;
}

/* Falls happen at once, rises when their time has come; what chips do about one may cause more. */
static void settle(struct pintle_sim_i2c_wires *w)
{
    update_troubles(w);
    for (uint8_t changed = 1; changed;) {
        changed = 0;
        for (uint8_t line = 0; line < 2; line++) {
            uint8_t low = is_low(w, line);
            if (w->low[line] && !low) {
                w->released_ns[line] = now_ns(w);
            }
            w->low[line] = low;
            double rises_ns = w->released_ns[line] + w->rise_ns;
            uint8_t may_rise = !low && !(w->active & PINTLE_SIM_NO_PULL_UP);
            uint8_t level = may_rise && now_ns(w) >= rises_ns;
            if (low || level) {
                if (w->level[line] != level) {
                    w->level[line] = level;
                    note_edge(w, line, level ? rises_ns : now_ns(w));
                    all_see(w, line);
                    changed = 1;
                }
            }
        }
    }
}

static uint8_t net(const struct pintle_sim_i2c_wire *wire)
{
    return wire->wires->active & PINTLE_SIM_SWAPPED ? wire->line ^ 1 : wire->line;
}

static void pin_drive(void *context, enum pintle_drive drive)
{
    struct pintle_sim_i2c_wire *wire = context;
    settle(wire->wires);
    wire->wires->master_low[net(wire)] = drive == PINTLE_DRIVE_LOW;
    settle(wire->wires);
}

static uint8_t pin_level(void *context)
{
    struct pintle_sim_i2c_wire *wire = context;
    settle(wire->wires);
    return pintle_priv_sim_noisy(wire->wires->sim, wire->wires->active,
                                 wire->wires->level[net(wire)]);
}

void pintle_sim_i2c_wires_init(struct pintle_sim_i2c_wires *wires, struct pintle_sim *sim,
                               uint16_t bus, double pull_up_ohm, double capacitance_pf)
{
    memset(wires, 0, sizeof *wires);
    wires->sim = sim;
    wires->bus = bus;
    wires->rise_ns = pull_up_ohm * capacitance_pf * 1e-3 * LN_RISE;
    struct pintle_sim_chip *chip = pintle_priv_sim_first(sim, bus, PINTLE_SIM_I2C);
    for (; chip; chip = pintle_priv_sim_next(chip)) {
        chip->side.i2c = (struct pintle_sim_i2c_slave){ .state = IDLE };
    }
    for (uint8_t line = 0; line < 2; line++) {
        wires->level[line] = 1;
        wires->released_ns[line] = -1e12;
        wires->wire[line].wires = wires;
        wires->wire[line].line = line;
    }
}

struct pintle_pin pintle_sim_i2c_pin(struct pintle_sim_i2c_wires *wires,
                                     enum pintle_sim_line_name line)
{
    static const struct pintle_pin_calls calls = { pin_drive, pin_level };
    return (struct pintle_pin){ &calls, &wires->wire[line] };
}
