/* A 1-Wire line as a line. The master pulls it low or lets it rise; a chip goes by how long it was
 * low and by its own clock, which is somewhere within the datasheet's limits (19-7487, AC
 * characteristics: a 0 is taken between 15 and 60 us after the fall, presence is shown 15 to 60 us
 * after a reset for 60 to 240 us, a reset lasts 480 us at least). */
#include "port/sim/bench.h"

#define LN_RISE 1.2039728
#define RESET_NS 480000.0
#define NEVER 1e18

static double now_ns(const struct pintle_sim_onewire_wires *w)
{
    return (double)w->sim->now_us * 1000.0;
}

static struct pintle_sim_chip *first(const struct pintle_sim_onewire_wires *w)
{
    return pintle_priv_sim_first(w->sim, w->bus, PINTLE_SIM_ONEWIRE);
}

static void set_level(struct pintle_sim_onewire_wires *w, uint8_t level, double at_ns)
{
    if (w->level != level) {
        w->level = level;
        if (w->edge) {
            w->edge(w->edge_context, PINTLE_SIM_DATA, level, (uint64_t)at_ns);
        }
    }
}

/* When the last of the chips that pull at `at` lets go; 0: none pulls. */
static double pulled_until(const struct pintle_sim_onewire_wires *w, double at)
{
    double until = 0;
    for (const struct pintle_sim_chip *chip = first(w); chip; chip = pintle_priv_sim_next(chip)) {
        const struct pintle_sim_probe *p = &chip->side.onewire;
        if (p->low_from_ns <= at && at < p->low_until_ns && p->low_until_ns > until) {
            until = p->low_until_ns;
        }
    }
    return until;
}

/* The next moment after `at` at which a chip begins to pull. */
static double next_pull(const struct pintle_sim_onewire_wires *w, double at)
{
    double next = NEVER;
    for (const struct pintle_sim_chip *chip = first(w); chip; chip = pintle_priv_sim_next(chip)) {
        double from = chip->side.onewire.low_from_ns;
        next = from > at && from < next ? from : next;
    }
    return next;
}

/* Without a pull-up the line keeps what was driven on it last. */
static uint8_t stuck(const struct pintle_sim_onewire_wires *w)
{
    uint8_t floats = (w->active & PINTLE_SIM_NO_PULL_UP) && !w->charged;
    return floats || (w->active & (PINTLE_SIM_DATA_LOW | PINTLE_SIM_HELD));
}

/* When the line was let go last, before `at`. */
static double released(const struct pintle_sim_onewire_wires *w, double at)
{
    double last = w->released_ns;
    for (const struct pintle_sim_chip *chip = first(w); chip; chip = pintle_priv_sim_next(chip)) {
        double until = chip->side.onewire.low_until_ns;
        last = chip->side.onewire.low_from_ns < NEVER && until <= at && until > last ? until : last;
    }
    return last;
}

/* Go through what the chips have done to a line that the master leaves alone, up to now. */
static void settle(struct pintle_sim_onewire_wires *w)
{
    double at = w->seen_ns;
    double rise = w->drive == PINTLE_DRIVE_HIGH ? 0 : w->rise_ns;
    while (at <= now_ns(w)) {
        double until = pulled_until(w, at);
        if (until > 0) {
            set_level(w, 0, at);
            at = until;
            continue;
        }
        double next = next_pull(w, at);
        double high = released(w, at) + rise;
        if (high <= now_ns(w) && high < next && !stuck(w)) {
            set_level(w, 1, high);
        }
        at = next;
    }
    w->seen_ns = now_ns(w);
    if (stuck(w)) {
        set_level(w, 0, now_ns(w));
    }
}

/* The master lets the line fall: chips that have a 0 to send hold it low for a while. */
static void falls(struct pintle_sim_onewire_wires *w)
{
    set_level(w, 0, now_ns(w));
    w->fell_ns = now_ns(w);
    w->in_slot = 1;
    for (struct pintle_sim_chip *chip = first(w); chip; chip = pintle_priv_sim_next(chip)) {
        struct pintle_sim_probe *p = &chip->side.onewire;
        p->low_from_ns = NEVER;
        p->sent = pintle_priv_sim_hears(chip) && pintle_priv_sim_rom_sends(chip);
        if (p->sent) {
            uint8_t bit = pintle_priv_sim_rom_give(chip);
            bit = pintle_priv_sim_faulty(chip, PINTLE_SIM_FLIPPED)
                          && pintle_priv_sim_random(w->sim) % 32 == 0
                      ? !bit
                      : bit;
            p->low_from_ns = bit ? NEVER : w->fell_ns;
            p->low_until_ns = w->fell_ns + p->holds_ns;
        }
    }
}

static void was_reset(struct pintle_sim_onewire_wires *w, struct pintle_sim_chip *chip)
{
    struct pintle_sim_probe *p = &chip->side.onewire;
    pintle_priv_sim_rom_reset(chip);
    p->low_from_ns = now_ns(w) + p->shows_ns;
    p->low_until_ns = p->low_from_ns + p->shown_ns;
}

/* The master lets go: how long was it low? */
static void rises(struct pintle_sim_onewire_wires *w)
{
    double low = now_ns(w) - w->fell_ns + (w->drive == PINTLE_DRIVE_HIGH ? 0 : w->rise_ns);
    w->in_slot = 0;
    for (struct pintle_sim_chip *chip = first(w); chip; chip = pintle_priv_sim_next(chip)) {
        struct pintle_sim_probe *p = &chip->side.onewire;
        if (!pintle_priv_sim_hears(chip)) {
            p->low_from_ns = NEVER;
        } else if (low >= RESET_NS) {
            was_reset(w, chip);
        } else if (!p->sent) {
            pintle_priv_sim_rom_take(chip, low < p->samples_ns);
        }
    }
}

static void drive(void *context, enum pintle_drive drive)
{
    struct pintle_sim_onewire_wires *w = context;
    w->active = pintle_priv_sim_active(w->sim, w->bus, w->trouble);
    if (w->drive != PINTLE_DRIVE_LOW) {
        settle(w);
    }
    w->drive = (uint8_t)drive;
    w->charged = drive == PINTLE_RELEASE ? w->charged : drive == PINTLE_DRIVE_HIGH;
    if (drive == PINTLE_DRIVE_LOW && !w->in_slot && w->level) {
        pintle_priv_sim_rom_strong(w->sim, w->bus, 0);
        falls(w);
    } else if (drive != PINTLE_DRIVE_LOW) {
        if (w->in_slot) {
            rises(w);
            w->released_ns = w->seen_ns = now_ns(w);
        }
        pintle_priv_sim_rom_strong(w->sim, w->bus, drive == PINTLE_DRIVE_HIGH);
    }
}

static uint8_t level(void *context)
{
    struct pintle_sim_onewire_wires *w = context;
    w->active = pintle_priv_sim_active(w->sim, w->bus, w->trouble);
    if (w->drive == PINTLE_DRIVE_LOW) {
        return 0;
    }
    settle(w);
    return pintle_priv_sim_noisy(w->sim, w->active, w->level);
}

void pintle_sim_onewire_wires_init(struct pintle_sim_onewire_wires *wires, struct pintle_sim *sim,
                                   uint16_t bus, double pull_up_ohm, double capacitance_pf)
{
    memset(wires, 0, sizeof *wires);
    wires->sim = sim;
    wires->bus = bus;
    wires->level = 1;
    wires->drive = PINTLE_RELEASE;
    wires->released_ns = -NEVER;
    wires->seen_ns = now_ns(wires);
    wires->rise_ns = pull_up_ohm * capacitance_pf * 1e-3 * LN_RISE;
    for (struct pintle_sim_chip *chip = first(wires); chip; chip = pintle_priv_sim_next(chip)) {
        chip->side.onewire = (struct pintle_sim_probe){
            .samples_ns = 30000 + 14000 * pintle_priv_sim_uniform(sim),
            .holds_ns = 30000 + 14000 * pintle_priv_sim_uniform(sim),
            .shows_ns = 37000 + 21000 * pintle_priv_sim_uniform(sim),
            .shown_ns = 150000 + 85000 * pintle_priv_sim_uniform(sim),
            .low_from_ns = NEVER,
        };
    }
}

struct pintle_pin pintle_sim_onewire_pin(struct pintle_sim_onewire_wires *wires)
{
    static const struct pintle_pin_calls calls = { drive, level };
    return (struct pintle_pin){ &calls, wires };
}
