/* An ATmega328P at 16 MHz (datasheet DS40002061). Data and clock of I2C are its own two-wire
 * interface (PC4, PC5); SPI its own (PB3, PB4, PB5) with select lines on PB2 and PB1; 1-Wire a pin,
 * PD2; timer 1 is the clock; text goes to the serial port at 38400 baud. */
#include <avr/interrupt.h>
#include <avr/io.h>
#include <avr/sleep.h>
#include <util/atomic.h>
#include <util/delay_basic.h>

#include "board.h"
#include "pintle/bitbang.h"
#include "ticks.h"

#define MHZ 16
#define TICKS_PER_US 2 /* timer 1 counts every eighth clock */

/* --- the clock --- */

/* Low byte first: with one byte to count the interrupt takes 2 us, which a 1-Wire slot can spare.
 */
static volatile union {
    uint8_t byte[4];
    uint32_t all;
} laps;

ISR(TIMER1_OVF_vect)
{
    (void)(++laps.byte[0] == 0 && ++laps.byte[1] == 0 && ++laps.byte[2] == 0 && ++laps.byte[3]);
}

static uint64_t now_us(void *context)
{
    uint16_t count;
    uint8_t pending;
    uint32_t whole;
    (void)context;
    ATOMIC_BLOCK(ATOMIC_RESTORESTATE)
    {
        count = TCNT1;
        pending = TIFR1 & 1 << TOV1;
        whole = laps.all;
    }
    return ticks_extend(whole, count, 16, pending) / TICKS_PER_US;
}

#define LONG_US 100000UL
#define LAP_US 33000UL
#define SPIN_US 10000U

/* Long waits are slept through, from lap to lap of the timer. */
static __attribute__((noinline)) void sleep_long(uint32_t us)
{
    if (us >= LONG_US) {
        uint64_t end = now_us(0) + us;
        while (now_us(0) + LAP_US < end) {
            sleep_cpu();
        }
        uint64_t now = now_us(0);
        us = now < end ? (uint32_t)(end - now) : 0;
    }
    for (; us > SPIN_US; us -= SPIN_US) {
        _delay_loop_2(SPIN_US * (MHZ / 4));
    }
    if (us > 0) {
        _delay_loop_2((uint16_t)us * (MHZ / 4));
    }
}

/* A few microseconds are spun away, four clocks a turn, and nothing else: masters made of pins
 * count them. */
static void sleep_us(void *context, uint32_t us)
{
    (void)context;
    if (us > SPIN_US) {
        sleep_long(us);
    } else if (us > 0) {
        _delay_loop_2((uint16_t)us * (MHZ / 4));
    }
}

static const struct pintle_clock_calls clock_calls = { now_us, sleep_us, 0, 0, 0 };
const struct pintle_clock board_clock = { &clock_calls, NULL };

/* --- pins --- */

/* PINx, DDRx and PORTx follow each other. */
struct pin {
    volatile uint8_t *base;
    uint8_t mask;
};

static void drive(void *context, enum pintle_drive how)
{
    const struct pin *pin = context;
    volatile uint8_t *ddr = pin->base + 1;
    volatile uint8_t *port = pin->base + 2;
    uint8_t mask = pin->mask;
    if (how == PINTLE_DRIVE_HIGH) {
        *port |= mask;
    } else {
        *port &= (uint8_t)~mask;
    }
    if (how == PINTLE_RELEASE) {
        *ddr &= (uint8_t)~mask;
    } else {
        *ddr |= mask;
    }
}

static uint8_t level(void *context)
{
    const struct pin *pin = context;
    return (*pin->base & pin->mask) != 0;
}

enum pintle_status board_onewire(struct pintle_onewire *bus)
{
    static const struct pintle_pin_calls calls = { drive, level };
    static const struct pin line = { &PIND, 1 << 2 };
    static struct pintle_bitbang_onewire master;
    const struct pintle_pin pin = { &calls, (void *)&line };
    enum pintle_status status = pintle_bitbang_onewire_init(&master, pin, &board_clock);
    *bus = pintle_bitbang_onewire_bus(&master);
    return status;
}

/* --- I2C --- */

#define SCL (1 << 5)
#define SDA (1 << 4)

static uint64_t deadline_us;

static enum pintle_status find_fault(void)
{
    TWCR = 0; /* the pins are ours again */
    return !(PINC & SCL)   ? PINTLE_CLOCK_STUCK
           : !(PINC & SDA) ? PINTLE_DATA_STUCK
                           : PINTLE_TIME_LIMIT;
}

/* Let the interface do one thing (START, a byte, STOP) and take its status; 0: too late. */
static uint8_t act(uint8_t how)
{
    TWCR = (uint8_t)(1 << TWINT | 1 << TWEN | how);
    while (!(TWCR & 1 << TWINT)) {
        if (now_us(0) > deadline_us) {
            return 0;
        }
    }
    return TWSR & 0xf8;
}

static enum pintle_status stop(enum pintle_status status)
{
    TWCR = 1 << TWINT | 1 << TWEN | 1 << TWSTO;
    while (TWCR & 1 << TWSTO) {
        if (now_us(0) > deadline_us) {
            return find_fault();
        }
    }
    return status;
}

/* What an unexpected status means (tables 22-2 and 22-3). */
static enum pintle_status broken_off(uint8_t code)
{
    switch (code) {
    case 0:
        return find_fault();
    case 0x38:
        TWCR = 1 << TWINT | 1 << TWEN;
        return PINTLE_ARBITRATION_LOST;
    case 0x20:
    case 0x48:
        return stop(PINTLE_NO_ANSWER);
    case 0x30:
        return stop(PINTLE_DATA_REFUSED);
    default:
        return stop(PINTLE_DATA_STUCK);
    }
}

static uint8_t segment_of(uint8_t address, const struct pintle_segment *segment)
{
    uint8_t reading = segment->in != 0;
    uint8_t code = act(1 << TWSTA);
    if (code != 0x08 && code != 0x10) {
        return code;
    }
    TWDR = (uint8_t)(address << 1 | reading);
    code = act(0);
    if (code != (reading ? 0x40 : 0x18)) {
        return code;
    }
    for (uint16_t i = 0; i < segment->length; i++) {
        uint8_t last = i + 1 == segment->length;
        if (!reading) {
            TWDR = segment->out[i];
        }
        code = act(reading && !last ? 1 << TWEA : 0);
        if (code != (!reading ? 0x28 : last ? 0x58 : 0x50)) {
            return code;
        }
        if (reading) {
            segment->in[i] = TWDR;
        }
    }
    return 1; /* none of the interface's */
}

static enum pintle_status transfer(void *context, uint8_t address,
                                   const struct pintle_segment *segments, uint8_t count,
                                   uint32_t limit_us)
{
    (void)context;
    deadline_us = now_us(0) + limit_us;
    for (uint8_t i = 0; i < count; i++) {
        uint8_t code = segment_of(address, &segments[i]);
        if (code != 1) {
            return broken_off(code);
        }
    }
    return stop(PINTLE_OK);
}

/* By hand: the interface cannot clock without a START. */
static enum pintle_status recover(void *context)
{
    (void)context;
    TWCR = 0;
    PORTC &= (uint8_t) ~(SCL | SDA);
    for (uint8_t i = 0; i < 9 && !(PINC & SDA); i++) {
        DDRC |= SCL;
        sleep_us(0, 5);
        DDRC &= (uint8_t)~SCL;
        sleep_us(0, 5);
    }
    DDRC |= SDA; /* STOP */
    sleep_us(0, 5);
    DDRC &= (uint8_t)~SDA;
    sleep_us(0, 5);
    return !(PINC & SCL) ? PINTLE_CLOCK_STUCK : !(PINC & SDA) ? PINTLE_DATA_STUCK : PINTLE_OK;
}

enum pintle_status board_i2c(struct pintle_i2c *bus)
{
    static const struct pintle_i2c_calls calls = { .transfer = transfer, .recover = recover };
    TWBR = (MHZ * 10 - 16) / 2; /* 100 kHz */
    *bus = (struct pintle_i2c){ .calls = &calls,
                                .common = { .clock = &board_clock, .sole_master = 1 },
                                .bit_ns = 10000 };
    return PINTLE_OK;
}

/* --- SPI --- */

#define RATES 3
#define COMMAND 1 /* PB0: low with commands to a display */

static enum pintle_status exchange(void *context, const struct pintle_spi_way *way,
                                   const struct pintle_segment *segments, uint8_t count)
{
    static const uint8_t divisors[RATES] = { 16, 64, 128 };
    uint8_t select = way->select == PINTLE_SELECT_NONE ? 0 : way->select ? 1 << 1 : 1 << 2;
    uint8_t rate = 0;
    (void)context;
    while (rate < RATES && MHZ * 1000000UL / divisors[rate] > way->clock_hz) {
        rate++;
    }
    if ((select && way->select > 1) || rate == RATES) {
        return PINTLE_BAD_ARGUMENT;
    }
    SPCR = (uint8_t)(1 << SPE | 1 << MSTR | (way->low_bit_first ? 1 << DORD : 0) | way->mode << CPHA
                     | (rate + 1));
    PORTB = (uint8_t)((PORTB & ~(select | COMMAND)) | (way->command ? 0 : COMMAND));
    for (uint8_t i = 0; i < count; i++) {
        for (uint16_t k = 0; k < segments[i].length; k++) {
            SPDR = segments[i].out ? segments[i].out[k] : 0;
            while (!(SPSR & 1 << SPIF)) {
            }
            if (segments[i].in) {
                segments[i].in[k] = SPDR;
            }
        }
    }
    if (!way->hold) {
        PORTB |= select;
    }
    return PINTLE_OK;
}

enum pintle_status board_spi(struct pintle_spi *bus)
{
    static const struct pintle_spi_calls calls = { .transfer = exchange };
    PORTB |= 1 << 2 | 1 << 1;
    DDRB |= 1 << 5 | 1 << 3 | 1 << 2 | 1 << 1 | COMMAND;
    *bus = (struct pintle_spi){ .calls = &calls,
                                .common = { .clock = &board_clock, .sole_master = 1 } };
    return PINTLE_OK;
}

/* --- the rest --- */

void board_start(void)
{
    TCCR1B = 1 << CS11;
    TIMSK1 = 1 << TOIE1;
    UBRR0 = MHZ * 1000000UL / 16 / 38400 - 1;
    UCSR0B = 1 << TXEN0;
    SMCR = 1 << SE; /* idle */
    sei();
}

void board_say(const char *text)
{
    for (; *text; text++) {
        while (!(UCSR0A & 1 << UDRE0)) {
        }
        UDR0 = (uint8_t)*text;
    }
}

static enum pintle_status say_bytes(void *context, const uint8_t *bytes, uint16_t count,
                                    uint32_t limit_us)
{
    (void)context;
    (void)limit_us; /* nothing holds it up */
    for (; count > 0; count--) {
        while (!(UCSR0A & 1 << UDRE0)) {
        }
        UDR0 = *bytes++;
    }
    return PINTLE_OK;
}

/* The machine keeps two bytes, which at 9600 baud is long enough for whoever asks every
 * millisecond. */
static enum pintle_status hear_bytes(void *context, uint8_t *bytes, uint16_t count, uint16_t *got,
                                     uint32_t limit_us)
{
    uint64_t until = now_us(context) + limit_us;
    *got = 0;
    while (!(UCSR0A & 1 << RXC0) && now_us(context) < until) {
    }
    while ((UCSR0A & 1 << RXC0) && *got < count) {
        bytes[*got] = UDR0;
        ++*got;
    }
    return PINTLE_OK;
}

enum pintle_status board_stream(struct pintle_stream *bus)
{
    static const struct pintle_stream_calls calls = { .send = say_bytes, .receive = hear_bytes };
    UBRR0 = MHZ * 1000000UL / 16 / 9600 - 1;
    UCSR0B |= 1 << RXEN0;
    *bus = (struct pintle_stream){ .calls = &calls,
                                   .common = { .clock = &board_clock },
                                   .bit_ns = 104167 };
    return PINTLE_OK;
}

void board_halt(void)
{
    while (!(UCSR0A & 1 << UDRE0)) {
    }
    cli();
    sleep_cpu();
}
