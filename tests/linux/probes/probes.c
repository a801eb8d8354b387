// SPDX-License-Identifier: MIT
/* A 1-Wire master for the kernel's own core, with simulated DS18B20 probes on its line, for tests
 * in an emulator. Written from linux/w1.h and the datasheet 19-7487; it knows nothing of Pintle.
 *
 * What is on the line is said in a parameter, and may be changed at any time (a new text: a probe
 * that was not there before has just got its supply):
 *
 *     echo "00000a1b2c3d:345 00000a1b2c3e:-162:parasite" > /sys/module/probes/parameters/line
 *
 * A serial number in hex, the temperature in sixteenths of a degree, then words:
 *     parasite   it lives on the line: a conversion without strong power resets the chip
 *     zeros      its scratchpad is read as zeros
 *     crc        one bit of its scratchpad's CRC is wrong
 *     code       one bit of its code's CRC is wrong
 *     idle       it takes the command to convert, and doesn't
 * `slot_us` makes each time slot that long.
 */
#include <linux/delay.h>
#include <linux/ktime.h>
#include <linux/module.h>
#include <linux/mutex.h>
#include <linux/slab.h>
#include <linux/string.h>
#include <linux/w1.h>

#define PROBES 8
#define FAMILY 0x28
#define FULL_CONVERSION_MS 600 /* at 12 bits; table 2 allows 750 */

/* What a probe does with the next time slot. */
enum state {
    DEAF,
    ROM_COMMAND,
    SEARCH,
    MATCH,
    SEND_CODE,
    COMMAND,
    WRITE_PAD,
    READ_PAD,
    SUPPLY,
    BUSY
};

struct probe {
    u8 code[8];
    int sixteenths;
    bool parasite, zeros, bad_crc, idle;
    enum state state;
    unsigned bit; /* since this state began */
    u8 byte;      /* received, low bit first */
    u8 pad[9];
    u8 kept[3]; /* EEPROM: T_H, T_L, configuration */
    bool alarm;
    bool converting;
    u64 done_ns;
};

static struct probe probe[PROBES];
static unsigned probes;
static DEFINE_MUTEX(guard);
static unsigned slot_us;
static u64 strong_until_ns; /* set_pullup was asked for */
static char text[PAGE_SIZE / 4];

/* Figure "CRC generator": x^8 + x^5 + x^4 + 1, low bit first. */
static u8 crc_of(const u8 *bytes, unsigned count)
{
    u8 crc = 0;
    unsigned i, bit;

    for (i = 0; i < count; i++)
        for (bit = 0; bit < 8; bit++) {
            u8 mix = (crc ^ (bytes[i] >> bit)) & 1;

            crc >>= 1;
            if (mix)
                crc ^= 0x8c;
        }
    return crc;
}

static void seal(struct probe *p)
{
    p->pad[8] = crc_of(p->pad, 8);
}

static void recall(struct probe *p)
{
    memcpy(p->pad + 2, p->kept, 3);
    seal(p);
}

/* Figure 9: +85 degC, T_H and T_L and the configuration from EEPROM. */
static void power_up(struct probe *p)
{
    static const u8 after[9] = { 0x50, 0x05, 0, 0, 0, 0xff, 0x0c, 0x10, 0 };

    memcpy(p->pad, after, sizeof(after));
    p->state = DEAF;
    p->converting = false;
    p->alarm = false;
    recall(p);
}

/* Table 2: each bit less halves the time. */
static unsigned resolution(const struct probe *p)
{
    return p->pad[4] >> 5 & 3;
}

static void finish(struct probe *p)
{
    int t = p->sixteenths;
    int whole;

    p->converting = false;
    t &= ~((1 << (3 - resolution(p))) - 1);
    whole = t >> 4;
    p->alarm = whole >= (s8)p->pad[2] || whole <= (s8)p->pad[3];
    /* "undefined" bits below the resolution: ones, so that somebody who uses them is noticed */
    t |= (1 << (3 - resolution(p))) - 1;
    p->pad[0] = t & 0xff;
    p->pad[1] = t >> 8 & 0xff;
    p->pad[6] = 0x10 - (t & 0xf); /* "reserved": what is left of a count, which it shows unasked */
    seal(p);
}

/* Before each slot and reset. They take the strong power away: what lives on it stops. */
static void look_at_time(struct probe *p, u64 now)
{
    if (p->converting && now >= p->done_ns)
        finish(p);
    else if (p->converting && p->parasite)
        power_up(p);
}

static void convert(struct probe *p, u64 now)
{
    u64 takes = (u64)FULL_CONVERSION_MS * 1000000 >> (3 - resolution(p));

    if (p->idle)
        return;
    if (p->parasite && strong_until_ns < now + takes) {
        power_up(p); /* its capacitor is empty long before the end */
        return;
    }
    p->converting = true;
    p->done_ns = now + takes;
}

static void enter(struct probe *p, enum state state)
{
    p->state = state;
    p->bit = 0;
    p->byte = 0;
}

static void rom_command(struct probe *p)
{
    switch (p->byte) {
    case 0xf0:
        enter(p, SEARCH);
        break;
    case 0xec:
        enter(p, p->alarm ? SEARCH : DEAF);
        break;
    case 0x55:
        enter(p, MATCH);
        break;
    case 0x33:
        enter(p, SEND_CODE);
        break;
    case 0xcc:
        enter(p, COMMAND);
        break;
    default:
        enter(p, DEAF);
        break;
    }
}

static void function_command(struct probe *p, u64 now)
{
    switch (p->byte) {
    case 0x44:
        convert(p, now);
        if (p->state == COMMAND)
            enter(p, p->parasite ? DEAF : BUSY);
        break;
    case 0x4e:
        enter(p, WRITE_PAD);
        break;
    case 0xbe:
        enter(p, READ_PAD);
        break;
    case 0xb4:
        enter(p, SUPPLY);
        break;
    case 0x48:
        memcpy(p->kept, p->pad + 2, 3);
        enter(p, DEAF);
        break;
    case 0xb8:
        recall(p);
        enter(p, DEAF);
        break;
    default:
        enter(p, DEAF);
        break;
    }
}

static bool code_bit(const struct probe *p, unsigned i)
{
    return p->code[i / 8] >> i % 8 & 1;
}

/* Does it pull the line low in a slot that the master leaves to it? */
static bool pulls(const struct probe *p)
{
    unsigned i = p->bit;

    switch (p->state) {
    case SEARCH:
        return i % 3 == 0 ? !code_bit(p, i / 3) : i % 3 == 1 ? code_bit(p, i / 3) : false;
    case SEND_CODE:
        return i < 64 && !code_bit(p, i);
    case READ_PAD:
        if (i >= 72)
            return false;
        if (p->zeros)
            return true;
        return !((p->pad[i / 8] >> i % 8 & 1) ^ (p->bad_crc && i == 70));
    case SUPPLY:
        return p->parasite;
    case BUSY:
        return p->converting;
    default:
        return false;
    }
}

/* A byte of a command or of a scratchpad is complete. */
static void hear_byte(struct probe *p, u64 now)
{
    u8 written = p->bit / 8; /* of a scratchpad */

    if (p->state == ROM_COMMAND) {
        rom_command(p);
    } else if (p->state == COMMAND) {
        function_command(p, now);
    } else {
        p->pad[1 + written] = written == 3 ? (p->byte & 0x60) | 0x1f : p->byte;
        seal(p);
        if (written == 3)
            enter(p, DEAF);
    }
}

static void hear(struct probe *p, bool level, u64 now)
{
    unsigned i = p->bit++;

    switch (p->state) {
    case SEARCH:
        if (i % 3 == 2 && level != code_bit(p, i / 3))
            enter(p, DEAF);
        else if (p->bit == 192)
            enter(p, COMMAND);
        break;
    case MATCH:
        if (level != code_bit(p, i))
            enter(p, DEAF);
        else if (p->bit == 64)
            enter(p, COMMAND);
        break;
    case SEND_CODE:
        if (p->bit == 64)
            enter(p, COMMAND);
        break;
    case ROM_COMMAND:
    case COMMAND:
    case WRITE_PAD:
        p->byte = p->byte >> 1 | (level ? 0x80 : 0);
        if (p->bit % 8 == 0)
            hear_byte(p, now);
        break;
    default:
        break;
    }
}

/* --- the master --- */

static u8 touch_bit(void *data, u8 bit)
{
    bool level = bit;
    unsigned i;
    u64 now;

    if (slot_us)
        usleep_range(slot_us, slot_us + 10);
    mutex_lock(&guard);
    now = ktime_get_ns();
    for (i = 0; i < probes; i++) {
        look_at_time(&probe[i], now);
        if (bit && pulls(&probe[i]))
            level = false;
    }
    for (i = 0; i < probes; i++)
        hear(&probe[i], level, now);
    mutex_unlock(&guard);
    return level;
}

static u8 reset_bus(void *data)
{
    unsigned i;
    u8 absent;

    usleep_range(960, 1000);
    mutex_lock(&guard);
    for (i = 0; i < probes; i++) {
        look_at_time(&probe[i], ktime_get_ns());
        enter(&probe[i], ROM_COMMAND);
    }
    absent = probes == 0;
    mutex_unlock(&guard);
    return absent;
}

/* Called before the last bit of a command with the duration that is wanted, and with 0 behind it,
 * where the power is to be given and ended. */
static u8 set_pullup(void *data, int ms)
{
    static int wanted;

    mutex_lock(&guard);
    if (ms > 0) {
        wanted = ms;
        strong_until_ns = ktime_get_ns() + (u64)ms * 1000000 + 1000000;
    }
    mutex_unlock(&guard);
    if (ms == 0 && wanted) {
        msleep(wanted);
        wanted = 0;
    }
    return 0;
}

static struct w1_bus_master master = {
    .touch_bit = touch_bit,
    .reset_bus = reset_bus,
    .set_pullup = set_pullup,
};

/* --- what is on the line --- */

static int read_probe(char *words, struct probe *p)
{
    char *word = strsep(&words, ":");
    u64 serial;
    unsigned i;

    memset(p, 0, sizeof(*p));
    if (kstrtou64(word, 16, &serial) || !words
        || kstrtoint(strsep(&words, ":"), 10, &p->sixteenths))
        return -EINVAL;
    p->code[0] = FAMILY;
    for (i = 0; i < 6; i++)
        p->code[1 + i] = serial >> 8 * i & 0xff;
    p->code[7] = crc_of(p->code, 7);
    while ((word = strsep(&words, ":")) != NULL) {
        p->parasite |= !strcmp(word, "parasite");
        p->zeros |= !strcmp(word, "zeros");
        p->bad_crc |= !strcmp(word, "crc");
        p->idle |= !strcmp(word, "idle");
        p->code[7] ^= !strcmp(word, "code");
    }
    p->kept[0] = 75;
    p->kept[1] = 70;
    p->kept[2] = 0x7f;
    power_up(p);
    return 0;
}

/* One that was there before keeps what it has stored. */
static void keep(struct probe *p)
{
    unsigned i;

    for (i = 0; i < probes; i++)
        if (!memcmp(probe[i].code, p->code, 7)) {
            memcpy(p->pad, probe[i].pad, sizeof(p->pad));
            memcpy(p->kept, probe[i].kept, sizeof(p->kept));
            p->alarm = probe[i].alarm;
            p->converting = probe[i].converting;
            p->done_ns = probe[i].done_ns;
            p->state = probe[i].state;
            p->bit = probe[i].bit;
            p->byte = probe[i].byte;
        }
}

static int set_line(const char *value, const struct kernel_param *parameter)
{
    static struct probe next[PROBES];
    unsigned count = 0;
    char *word, *rest, *copy = kstrdup(value, GFP_KERNEL);
    int error = copy ? 0 : -ENOMEM;

    mutex_lock(&guard);
    rest = copy ? strim(copy) : NULL;
    while (!error && (word = strsep(&rest, " ")) != NULL) {
        if (!*word)
            continue;
        error = count < PROBES ? read_probe(word, &next[count]) : -E2BIG;
        if (!error)
            keep(&next[count++]);
    }
    if (!error) {
        memcpy(probe, next, sizeof(probe));
        probes = count;
        strscpy(text, value, sizeof(text));
    }
    mutex_unlock(&guard);
    kfree(copy);
    return error;
}

static int get_line(char *buffer, const struct kernel_param *parameter)
{
    return scnprintf(buffer, PAGE_SIZE, "%s\n", strim(text));
}

static const struct kernel_param_ops line_calls = { .set = set_line, .get = get_line };
module_param_cb(line, &line_calls, NULL, 0644);
module_param(slot_us, uint, 0644);

static int __init begin(void)
{
    return w1_add_master_device(&master);
}

static void __exit end(void)
{
    w1_remove_master_device(&master);
}

module_init(begin);
module_exit(end);
MODULE_LICENSE("Dual MIT/GPL");
MODULE_DESCRIPTION("a 1-Wire master with simulated DS18B20 probes");
