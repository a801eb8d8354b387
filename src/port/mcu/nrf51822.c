/* A Cortex-M0 at 16 MHz, the nRF51822 (reference manual 3.0). All buses are made of pins: I2C P0.00
 * (data) and P0.01 (clock), SPI P0.02 (clock), P0.03 (out), P0.04 (in), P0.05 and P0.06 (selects),
 * 1-Wire P0.07. The core's own timer, SysTick (ARMv6-M, B3.3), is the clock; text goes out of P0.24
 * at 115200 baud. Start-up and memory layout are at the end and in nrf51822.ld. */
#include "board.h"
#include "pintle/bitbang.h"
#include "ticks.h"

#define REGISTER(address) (*(volatile uint32_t *)(address))

/* --- the clock --- */

#define SYST_CSR REGISTER(0xe000e010u)
#define SYST_RVR REGISTER(0xe000e014u)
#define SYST_CVR REGISTER(0xe000e018u)
#define ICSR REGISTER(0xe000ed04u)
#define PENDSTSET (1u << 26)
#define LAST 0xffffffu
#define TICKS_PER_US 16

static volatile uint32_t laps;

void SysTick_Handler(void);
void SysTick_Handler(void)
{
    laps++;
}

static uint64_t ticks(void)
{
    uint32_t masked;
    __asm volatile("mrs %0, primask\n\tcpsid i" : "=r"(masked)::"memory");
    uint32_t count = LAST - SYST_CVR; /* it counts down */
    uint8_t pending = (ICSR & PENDSTSET) != 0;
    uint32_t whole = laps;
    __asm volatile("msr primask, %0" ::"r"(masked) : "memory");
    return ticks_extend(whole, count, 24, pending);
}

static uint64_t now_us(void *context)
{
    (void)context;
    return ticks() / TICKS_PER_US;
}

/* Spun away, a few clocks at a time; the timer's laps are shorter than what a 32-bit subtraction
 * can tell. */
static void sleep_us(void *context, uint32_t us)
{
    (void)context;
    while (us > 100000) {
        sleep_us(0, 100000);
        us -= 100000;
    }
    uint32_t from = SYST_CVR;
    while (((from - SYST_CVR) & LAST) < us * TICKS_PER_US) {
    }
}

static const struct pintle_clock_calls clock_calls = { now_us, sleep_us, 0, 0, 0 };
const struct pintle_clock board_clock = { &clock_calls, NULL };

/* --- pins --- */

#define GPIO 0x50000000u
#define OUTSET REGISTER(GPIO + 0x508)
#define OUTCLR REGISTER(GPIO + 0x50c)
#define IN REGISTER(GPIO + 0x510)
#define DIRSET REGISTER(GPIO + 0x518)
#define DIRCLR REGISTER(GPIO + 0x51c)
#define PIN_CNF(pin) REGISTER(GPIO + 0x700 + 4u * (pin))
#define PULL_UP (3u << 2)

static const uint8_t pins[] = { 0, 1, 2, 3, 4, 5, 6, 7 };

static void drive(void *context, enum pintle_drive how)
{
    uint32_t mask = 1u << *(const uint8_t *)context;
    if (how == PINTLE_DRIVE_HIGH) {
        OUTSET = mask;
    } else {
        OUTCLR = mask;
    }
    if (how == PINTLE_RELEASE) {
        DIRCLR = mask;
    } else {
        DIRSET = mask;
    }
}

static uint8_t level(void *context)
{
    return IN >> *(const uint8_t *)context & 1;
}

/* The weak pull-ups keep an open line from floating; a bus has its own beside them. */
static struct pintle_pin pin(uint8_t number)
{
    static const struct pintle_pin_calls calls = { drive, level };
    PIN_CNF(number) = PULL_UP;
    return (struct pintle_pin){ &calls, (void *)(uintptr_t)&pins[number] };
}

enum pintle_status board_i2c(struct pintle_i2c *bus)
{
    static struct pintle_bitbang_i2c master;
    enum pintle_status status =
        pintle_bitbang_i2c_init(&master, pin(0), pin(1), &board_clock, 100000);
    *bus = pintle_bitbang_i2c_bus(&master);
    return status;
}

enum pintle_status board_spi(struct pintle_spi *bus)
{
    static struct pintle_bitbang_spi master;
    static struct pintle_pin selects[2];
    selects[0] = pin(5);
    selects[1] = pin(6);
    pintle_bitbang_spi_init(&master, pin(2), pin(3), pin(4), selects, 2, &board_clock);
    *bus = pintle_bitbang_spi_bus(&master);
    return PINTLE_OK;
}

enum pintle_status board_onewire(struct pintle_onewire *bus)
{
    static struct pintle_bitbang_onewire master;
    enum pintle_status status = pintle_bitbang_onewire_init(&master, pin(7), &board_clock);
    *bus = pintle_bitbang_onewire_bus(&master);
    return status;
}

/* --- the serial port --- */

#define UART 0x40002000u
#define STARTTX REGISTER(UART + 0x008)
#define TXDRDY REGISTER(UART + 0x11c)
#define ENABLE REGISTER(UART + 0x500)
#define PSELTXD REGISTER(UART + 0x50c)
#define TXD REGISTER(UART + 0x51c)
#define BAUDRATE REGISTER(UART + 0x524)

void board_say(const char *text)
{
    for (; *text; text++) {
        TXDRDY = 0;
        TXD = (uint8_t)*text;
        while (!TXDRDY) {
        }
    }
}

#define STARTRX REGISTER(UART + 0x000)
#define RXDRDY REGISTER(UART + 0x108)
#define PSELRXD REGISTER(UART + 0x514)
#define RXD REGISTER(UART + 0x518)

static enum pintle_status send(void *context, const uint8_t *bytes, uint16_t count,
                               uint32_t limit_us)
{
    (void)context;
    (void)limit_us; /* nothing holds it up */
    for (; count > 0; count--) {
        TXDRDY = 0;
        TXD = *bytes++;
        while (!TXDRDY) {
        }
    }
    return PINTLE_OK;
}

/* The machine keeps six bytes, which is long enough for whoever asks every few milliseconds. */
static enum pintle_status receive(void *context, uint8_t *bytes, uint16_t count, uint16_t *got,
                                  uint32_t limit_us)
{
    uint64_t until = now_us(context) + limit_us;
    *got = 0;
    while (!RXDRDY && now_us(context) < until) {
    }
    while (RXDRDY && *got < count) {
        RXDRDY = 0;
        bytes[(*got)++] = (uint8_t)RXD;
    }
    return PINTLE_OK;
}

enum pintle_status board_stream(struct pintle_stream *bus)
{
    static const struct pintle_stream_calls calls = { .send = send, .receive = receive };
    PSELRXD = 25;
    BAUDRATE = 0x00275000; /* 9600 */
    STARTRX = 1;
    *bus = (struct pintle_stream){ .calls = &calls,
                                   .common = { .clock = &board_clock },
                                   .bit_ns = 104167 };
    return PINTLE_OK;
}

void board_start(void)
{
    SYST_RVR = LAST;
    SYST_CVR = 0;
    SYST_CSR = 7; /* the core's clock, with interrupt */
    PSELTXD = 24;
    BAUDRATE = 0x01d7e000;
    ENABLE = 4;
    STARTTX = 1;
}

void board_halt(void)
{
    for (;;) {
        __asm volatile("cpsid i\n\twfi");
    }
}

/* --- from power-on to main --- */

extern uint32_t stack_top, data_from, data_start, data_end, bss_start, bss_end;
int main(void);

void board_reset(void);
void board_reset(void)
{
    const uint32_t *from = &data_from;
    for (uint32_t *to = &data_start; to < &data_end; to++) {
        *to = *from++;
    }
    for (uint32_t *to = &bss_start; to < &bss_end; to++) {
        *to = 0;
    }
    (void)main();
    board_halt();
}

/* ARMv6-M, B1.5.3: the stack, then the handlers; SysTick is number 15. */
__attribute__((section(".vectors"), used)) static const void *const vectors[16] = {
    [0] = &stack_top,
    [1] = (const void *)board_reset,
    [2] = (const void *)board_halt,
    [3] = (const void *)board_halt,
    [15] = (const void *)SysTick_Handler,
};
