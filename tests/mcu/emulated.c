/* Firmware with the real port of an ATmega328P, run in an emulator with simulated chips on the
 * emulated pins: whole programs as a user would flash them. Arguments: logger, logger of an SPI
 * part, probes, clock (.elf files). */
#include <CUnit/Basic.h>
#include <math.h>
#include <simavr/avr_ioport.h>
#include <simavr/avr_spi.h>
#include <simavr/avr_uart.h>
#include <simavr/sim_avr.h>
#include <simavr/sim_elf.h>
#include <stdlib.h>

#include "pintle/sim.h"
#include "port/sim/bench.h"

#define MHZ 16
#define SECOND (MHZ * 1000000ull)
#define DATA_PIN 2     /* of port D */
#define DATA_LINE 0x10 /* of port C */
#define CLOCK_LINE 0x20

/* Addresses of registers among the data, and bits of TWCR. */
#define PINC_DATA 0x26
#define PIND_DATA 0x29
#define TWSR_DATA 0xb9
#define TWDR_DATA 0xbb
#define TWCR_DATA 0xbc
#define TWINT 0x80
#define TWEA 0x40
#define TWSTA 0x20
#define TWSTO 0x10
#define TWEN 0x04
#define BIT_CYCLES (MHZ * 10) /* 100 kHz */

static const char *firmware[4];
enum { LOGGER, SPI_LOGGER, PROBES, CLOCK };

/* How the 1-Wire line was used, in clocks of the emulated machine. */
struct edges {
    avr_cycle_count_t fell, rose;
    uint8_t low;
    double shortest_one, longest_one, shortest_zero, longest_zero, latest_look, least_recovery;
    double shortest_reset, longest_reset;
    unsigned lows, looks;
};

struct two_wire {
    uint8_t control, called, started, addressing;
};

struct machine {
    avr_t *avr;
    avr_irq_t *spi;
    avr_irq_t *data;
    avr_io_read_t read_pins;
    void *pins_param;
    struct two_wire twi;
    struct pintle_sim sim;
    struct pintle_sim_chip *addressed;
    struct pintle_sim_onewire_wires line;
    struct edges edges;
    char said[4000];
    size_t length;
};

/* The chips' time is the machine's. */
static void catch_up(struct machine *m)
{
    uint64_t now = m->avr->cycle / MHZ;
    if (now > m->sim.now_us) {
        pintle_sim_pass(&m->sim, now - m->sim.now_us);
    }
}

static void on_serial(avr_irq_t *irq, uint32_t value, void *param)
{
    struct machine *m = param;
    (void)irq;
    if (m->length + 1 < sizeof m->said) {
        m->said[m->length++] = (char)value;
    }
}

/* --- I2C: the two-wire interface after DS40002061, section 22.7; the emulator's own is done before
 * a byte is through --- */

static uint8_t lines_are_high(const struct machine *m)
{
    return (m->avr->data[PINC_DATA] & (DATA_LINE | CLOCK_LINE)) == (DATA_LINE | CLOCK_LINE);
}

/* The address is through: who takes it? */
static uint8_t call(struct machine *m, uint8_t byte)
{
    uint8_t reading = byte & 1;
    struct pintle_sim_chip *chip = pintle_priv_sim_first(&m->sim, 0, PINTLE_SIM_I2C);
    m->addressed = NULL;
    for (; chip; chip = pintle_priv_sim_next(chip)) {
        if (pintle_priv_sim_hears(chip) && pintle_priv_sim_means(chip, byte >> 1)
            && pintle_priv_sim_i2c_start(chip, reading)) {
            m->addressed = chip;
        }
    }
    return reading ? (m->addressed ? 0x40 : 0x48) : (m->addressed ? 0x18 : 0x20);
}

static uint8_t pass_byte(struct machine *m)
{
    uint8_t *data = &m->avr->data[TWDR_DATA];
    if (m->twi.called & 1) {
        *data = m->addressed && pintle_priv_sim_hears(m->addressed)
                    ? m->addressed->model->read(m->addressed)
                    : 0xff;
        return m->twi.control & TWEA ? 0x50 : 0x58;
    }
    uint8_t ack = m->addressed && pintle_priv_sim_hears(m->addressed)
                  && pintle_priv_sim_i2c_write(m->addressed, *data);
    return ack ? 0x28 : 0x30;
}

/* What was begun is through. */
static avr_cycle_count_t on_done(avr_t *avr, avr_cycle_count_t when, void *param)
{
    struct machine *m = param;
    struct two_wire *t = &m->twi;
    (void)when;
    catch_up(m);
    if (!lines_are_high(m) || !(t->control & TWEN)) {
        return 0; /* it waits for ever */
    }
    if (t->control & TWSTO) {
        if (m->addressed) {
            m->addressed->model->stop(m->addressed);
        }
        m->addressed = NULL;
        t->started = 0;
        t->control &= (uint8_t)~TWSTO;
        avr->data[TWSR_DATA] = 0xf8;
        return 0;
    }
    if (t->control & TWSTA) {
        avr->data[TWSR_DATA] = t->started ? 0x10 : 0x08;
        t->started = t->addressing = 1;
    } else if (t->addressing) {
        t->addressing = 0;
        t->called = avr->data[TWDR_DATA];
        avr->data[TWSR_DATA] = call(m, t->called);
    } else {
        avr->data[TWSR_DATA] = pass_byte(m);
    }
    t->control |= TWINT;
    return 0;
}

static void on_twcr_write(struct avr_t *avr, avr_io_addr_t addr, uint8_t value, void *param)
{
    struct machine *m = param;
    uint8_t flag = m->twi.control & TWINT;
    (void)addr;
    m->twi.control = (uint8_t)((value & ~TWINT) | (value & TWINT ? 0 : flag));
    if ((value & TWINT) && (value & TWEN)) {
        unsigned bits = value & (TWSTA | TWSTO) ? 1 : 9;
        avr_cycle_timer_register(avr, bits * BIT_CYCLES, on_done, m);
    }
}

static uint8_t on_twcr_read(struct avr_t *avr, avr_io_addr_t addr, void *param)
{
    (void)avr;
    (void)addr;
    return ((struct machine *)param)->twi.control;
}

/* --- SPI --- */

static void on_select(avr_irq_t *irq, uint32_t value, void *param)
{
    struct machine *m = param;
    (void)irq;
    catch_up(m);
    for (struct pintle_sim_chip *chip = pintle_priv_sim_first(&m->sim, 0, PINTLE_SIM_SPI); chip;
         chip = pintle_priv_sim_next(chip)) {
        pintle_priv_sim_spi_select(chip, !value);
        m->addressed = value ? NULL : chip;
    }
}

static void on_spi(avr_irq_t *irq, uint32_t value, void *param)
{
    struct machine *m = param;
    uint8_t in = 0;
    (void)irq;
    catch_up(m);
    for (int bit = 7; bit >= 0; bit--) {
        uint8_t high = !m->addressed || m->addressed->shown != PINTLE_SIM_SHOWS_0;
        in = (uint8_t)(in << 1 | high);
        if (m->addressed) {
            pintle_priv_sim_spi_clock(m->addressed, value >> bit & 1);
        }
    }
    avr_raise_irq(m->spi + SPI_IRQ_INPUT, in);
}

/* --- 1-Wire --- */

static double us_since(const struct machine *m, avr_cycle_count_t then)
{
    return (double)(m->avr->cycle - then) / MHZ;
}

static void note_rise(struct machine *m)
{
    struct edges *e = &m->edges;
    double low = us_since(m, e->fell);
    e->lows++;
    if (low > 400) {
        e->shortest_reset = fmin(e->shortest_reset, low);
        e->longest_reset = fmax(e->longest_reset, low);
    } else if (low > 30) {
        e->shortest_zero = fmin(e->shortest_zero, low);
        e->longest_zero = fmax(e->longest_zero, low);
    } else {
        e->shortest_one = fmin(e->shortest_one, low);
        e->longest_one = fmax(e->longest_one, low);
    }
}

/* The pin's direction has changed: its output stays low. */
static void on_direction(avr_irq_t *irq, uint32_t value, void *param)
{
    struct machine *m = param;
    struct edges *e = &m->edges;
    struct pintle_pin pin = pintle_sim_onewire_pin(&m->line);
    uint8_t low = value >> DATA_PIN & 1;
    (void)irq;
    if (low == e->low) {
        return;
    }
    catch_up(m);
    pin.calls->drive(pin.context, low ? PINTLE_DRIVE_LOW : PINTLE_RELEASE);
    if (low) {
        e->least_recovery = e->rose ? fmin(e->least_recovery, us_since(m, e->rose)) : 1e9;
        e->fell = m->avr->cycle;
    } else {
        note_rise(m);
        e->rose = m->avr->cycle;
    }
    e->low = low;
}

/* Whoever reads the pins sees what the line is at this moment. */
static uint8_t on_pins(struct avr_t *avr, avr_io_addr_t addr, void *param)
{
    struct machine *m = param;
    struct edges *e = &m->edges;
    struct pintle_pin pin = pintle_sim_onewire_pin(&m->line);
    catch_up(m);
    if (!e->low && us_since(m, e->fell) < 45) {
        e->latest_look = fmax(e->latest_look, us_since(m, e->fell));
        e->looks++;
    }
    avr_raise_irq(m->data, pin.calls->level(pin.context));
    return m->read_pins(avr, addr, m->pins_param);
}

/* --- the machine --- */

static void no_sleep(avr_t *avr, avr_cycle_count_t clocks)
{
    (void)avr;
    (void)clocks;
}

static void quiet(avr_t *avr, const int level, const char *format, va_list args)
{
    (void)avr;
    (void)level;
    (void)format;
    (void)args;
}

/* The bus's pull-ups, but for the lines (bits of port C) that somebody holds low. */
static void pull(struct machine *m, uint8_t low)
{
    avr_ioport_external_t external = { .name = 'C',
                                       .mask = DATA_LINE | CLOCK_LINE,
                                       .value = (DATA_LINE | CLOCK_LINE) & ~low };
    avr_ioctl(m->avr, AVR_IOCTL_IOPORT_SET_EXTERNAL('C'), &external);
    for (unsigned pin = 4; pin <= 5; pin++) {
        avr_raise_irq(avr_io_getirq(m->avr, AVR_IOCTL_IOPORT_GETIRQ('C'), pin), !(low >> pin & 1));
    }
}

static void make(struct machine *m, int program)
{
    elf_firmware_t code = { 0 };
    uint32_t flags = 0;
    memset(m, 0, sizeof *m);
    avr_global_logger_set(quiet);
    pintle_sim_init(&m->sim, 1, 0, 77);
    m->avr = avr_make_mcu_by_name("atmega328p");
    CU_ASSERT_PTR_NOT_NULL_FATAL(m->avr);
    avr_t *avr = m->avr;
    avr_init(avr);
    avr->sleep = no_sleep;
    CU_ASSERT_EQUAL_FATAL(elf_read_firmware(firmware[program], &code), 0);
    code.frequency = SECOND;
    avr_load_firmware(avr, &code);
    avr->frequency = SECOND;
    avr_ioctl(avr, AVR_IOCTL_UART_GET_FLAGS('0'), &flags);
    flags &= ~(uint32_t)AVR_UART_FLAG_STDIO;
    avr_ioctl(avr, AVR_IOCTL_UART_SET_FLAGS('0'), &flags);
    avr_irq_register_notify(avr_io_getirq(avr, AVR_IOCTL_UART_GETIRQ('0'), UART_IRQ_OUTPUT),
                            on_serial, m);
    m->spi = avr_io_getirq(avr, AVR_IOCTL_SPI_GETIRQ(0), 0);
    avr_irq_register_notify(m->spi + SPI_IRQ_OUTPUT, on_spi, m);
    avr_irq_register_notify(avr_io_getirq(avr, AVR_IOCTL_IOPORT_GETIRQ('B'), IOPORT_IRQ_PIN2),
                            on_select, m);
    m->data = avr_io_getirq(avr, AVR_IOCTL_IOPORT_GETIRQ('D'), DATA_PIN);
    avr_irq_register_notify(
        avr_io_getirq(avr, AVR_IOCTL_IOPORT_GETIRQ('D'), IOPORT_IRQ_DIRECTION_ALL), on_direction,
        m);
    avr_io_addr_t pins = AVR_DATA_TO_IO(PIND_DATA);
    avr_io_addr_t control = AVR_DATA_TO_IO(TWCR_DATA);
    m->read_pins = avr->io[pins].r.c;
    m->pins_param = avr->io[pins].r.param;
    avr->io[pins].r.c = on_pins;
    avr->io[pins].r.param = m;
    avr->io[control].r.c = on_twcr_read;
    avr->io[control].r.param = m;
    avr->io[control].w.c = on_twcr_write;
    avr->io[control].w.param = m;
    pull(m, 0);
    m->edges = (struct edges){
        .shortest_one = 1e9, .shortest_zero = 1e9, .shortest_reset = 1e9, .least_recovery = 1e9
    };
}

/* Run until so many lines were said since `from`, or for so long; what was said since. */
static const char *run(struct machine *m, unsigned lines, double seconds)
{
    size_t from = m->length;
    size_t seen = from;
    avr_cycle_count_t end = m->avr->cycle + (avr_cycle_count_t)(seconds * (double)SECOND);
    while (lines > 0 && m->avr->cycle < end) {
        int state = avr_run(m->avr);
        for (; seen < m->length; seen++) {
            lines -= m->said[seen] == '\n';
        }
        if (state == cpu_Done || state == cpu_Crashed) {
            break;
        }
    }
    m->said[m->length] = '\0';
    return m->said + from;
}

static void end(struct machine *m)
{
    avr_terminate(m->avr);
    free(m->avr);
}

/* The value of channel `index` in a line of the logger, and its mark in `quality`. */
static double value_of(const char *line, unsigned index, char quality[40])
{
    for (unsigned i = 0; i < 2 + 2 * index && line; i++) {
        line = strchr(line, ',') ? strchr(line, ',') + 1 : NULL;
    }
    const char *mark = line ? strchr(line, ',') : NULL;
    quality[0] = '\0';
    if (!mark) {
        return NAN;
    }
    snprintf(quality, 40, "%.*s", (int)strcspn(mark + 1, ",\r\n"), mark + 1);
    return atof(line);
}

static void tells(const char *line, double value, double within, const char *mark)
{
    char quality[40];
    double is = value_of(line, 0, quality);
    int right = (isnan(value) || fabs(is - value) <= within) && strcmp(quality, mark) == 0;
    CU_assertImplementation(right, __LINE__, line, __FILE__, "", CU_FALSE);
}

/* --- the tests --- */

static void a_thermometer_is_logged(void)
{
    struct machine m;
    make(&m, LOGGER);
    struct pintle_sim_chip *chip = pintle_sim_add(&m.sim, "TMP102", 0, 0x48);
    chip->feels[0].level = 17.5;
    tells(run(&m, 1, 5), 17.5, 0.6, "good");
    chip->feels[0].level = -3.25;
    tells(run(&m, 1, 5), -3.25, 0.6, "good");
    const struct pintle_sim_fault gone = { .kind = PINTLE_SIM_UNPLUGGED,
                                           .from_us = m.sim.now_us,
                                           .to_us = m.sim.now_us + 3000000 };
    CU_ASSERT_EQUAL(pintle_sim_add_fault(&m.sim, &gone), PINTLE_OK);
    tells(run(&m, 1, 5), NAN, 0, "no-answer");
    (void)run(&m, 1, 5);
    tells(run(&m, 1, 5), -3.25, 0.6, "good");
    pull(&m, CLOCK_LINE);
    tells(run(&m, 1, 5), NAN, 0, "clock-stuck");
    pull(&m, DATA_LINE);
    tells(run(&m, 1, 5), NAN, 0, "data-stuck");
    pull(&m, 0);
    tells(run(&m, 1, 5), -3.25, 0.6, "good");
    end(&m);
}

static void an_spi_part_is_logged(void)
{
    struct machine m;
    char quality[40];
    make(&m, SPI_LOGGER);
    struct pintle_sim_chip *chip = pintle_sim_add(&m.sim, "LIS331DLH", 0, 0);
    const double truth[3] = { 1.5, -4.25, 9.0 };
    for (int i = 0; i < 3; i++) {
        chip->feels[i].level = truth[i];
    }
    const char *line = run(&m, 1, 5);
    for (unsigned i = 0; i < 3; i++) {
        double is = value_of(line, i, quality);
        CU_ASSERT_DOUBLE_EQUAL(is, truth[i], 1.5);
        CU_ASSERT_STRING_EQUAL(quality, "good");
    }
    end(&m);
}

/* 19-7487, AC characteristics: chips whose answer ends 15 us after the fall, one that takes a bit
 * as early as may be and one as late. */
static void probes_are_read_in_time(void)
{
    struct machine m;
    make(&m, PROBES);
    struct pintle_sim_chip *early = pintle_sim_add(&m.sim, "DS18B20", 0, 11);
    struct pintle_sim_chip *late = pintle_sim_add(&m.sim, "DS18B20", 0, 12);
    pintle_sim_onewire_wires_init(&m.line, &m.sim, 0, 4700, 400);
    early->side.onewire.holds_ns = late->side.onewire.holds_ns = 15000;
    early->side.onewire.samples_ns = early->side.onewire.shows_ns = 15000;
    late->side.onewire.samples_ns = late->side.onewire.shows_ns = 60000;
    early->side.onewire.shown_ns = 60000;
    late->side.onewire.shown_ns = 240000;
    early->feels[0].level = 21.5;
    late->feels[0].level = -8.0;
    const char *said = run(&m, 3, 10);
    CU_ASSERT_PTR_NOT_NULL(strstr(said, "no more"));
    unsigned good = 0;
    for (const char *at = said; (at = strstr(at, "good")) != NULL; at++) {
        good++;
    }
    CU_ASSERT_EQUAL(good, 2);
    const struct edges *e = &m.edges;
    const struct {
        const char *name;
        double measured, least, most;
    } rows[] = {
        { "low of a 1, shortest", e->shortest_one, 1, 15 },
        { "low of a 1, longest", e->longest_one, 1, 15 },
        { "low of a 0, shortest", e->shortest_zero, 60, 120 },
        { "low of a 0, longest", e->longest_zero, 60, 120 },
        { "latest look after the fall", e->latest_look, 1, 15 },
        { "least recovery", e->least_recovery, 1, 1e8 },
        { "reset, shortest", e->shortest_reset, 480, 960 },
        { "reset, longest", e->longest_reset, 480, 960 },
    };
    for (size_t i = 0; i < sizeof rows / sizeof rows[0]; i++) {
        printf("\n  %-28s %8.2f us", rows[i].name, rows[i].measured);
        CU_ASSERT(rows[i].measured >= rows[i].least && rows[i].measured <= rows[i].most);
    }
    printf("\n  %u lows, %u looks ", e->lows, e->looks);
    CU_ASSERT(e->lows > 500 && e->looks > 300);
    end(&m);
}

static void the_clock_is_steady(void)
{
    struct machine m;
    make(&m, CLOCK);
    CU_ASSERT_STRING_EQUAL(run(&m, 1, 60), "steady\r\n");
    end(&m);
}

int main(int argc, char **argv)
{
    if (argc != 5 || CU_initialize_registry() != CUE_SUCCESS) {
        return 2;
    }
    for (int i = 0; i < 4; i++) {
        firmware[i] = argv[i + 1];
    }
    CU_pSuite suite = CU_add_suite("an ATmega328P, emulated", NULL, NULL);
    if (!suite || !CU_add_test(suite, "a thermometer is logged", a_thermometer_is_logged)
        || !CU_add_test(suite, "an SPI part is logged", an_spi_part_is_logged)
        || !CU_add_test(suite, "probes are read in time", probes_are_read_in_time)
        || !CU_add_test(suite, "the clock is steady", the_clock_is_steady)) {
        return 2;
    }
    CU_basic_set_mode(CU_BRM_VERBOSE);
    CU_basic_run_tests();
    unsigned failures = CU_get_number_of_failures();
    CU_cleanup_registry();
    return failures > 0;
}
