/* A chip that the catalogue does not have, from its datasheet's tables to readings. First described
 * in a text, so that the tool reads it at once; then, when it has proved itself, as a part in C,
 * which firmware can link. Both must say the same.
 *
 * The chip is an AS5600 (datasheet v1-06): the angle of a magnet on the rudder stock.
 *
 *     figure 22   RAW ANGLE  0Ch, 0Dh   12 bits, 4096 to a turn, high byte first
 *                 STATUS     0Bh        MD (5): a magnet is there; ML (4), MH (3): too weak, too
 * strong
 */
#include <math.h>
#include <stdio.h>

#include "pintle/host/rig/rig.h"
#include "pintle/pintle.h"
#include "pintle/sim.h"

/* --- described: a rig file has this text --- */

static const char rig_text[] =
    "board { port = \"sim\" world = \"built-in\" }\n"
    "part AS5600 {\n"
    "    what = \"magnetic angle encoder\"  source = \"v1-06\"  addresses = { 0x36 }\n"
    "    register STATUS { address = 0x0b  access = \"read\" }\n"
    "    register RAW_ANGLE { address = 0x0c  width = 2  access = \"read\" }\n"
    "    identity = { \"expect STATUS 0x20 mask 0xe0\" }\n"
    "    measure  = { \"read STATUS 3\" }\n"
    "    channel angle {\n"
    "        quantity = \"angle\"  at = 1  bytes = 2  bits = 12  scale = 0.087890625\n"
    "        range = { 0, 360 }  decimals = 2  ends = { none }\n"
    "        marks = { \"bus unless byte 0 mask 0x20 is 0x20\",\n"
    "                  \"range unless byte 0 mask 0x18 is 0\" }\n"
    "    }\n"
    "}\n"
    "bus stern { pull-up = 4700 }\n";

/* --- the same as a part --- */

#define STATUS 0x0b
#define MD 0x20
#define ML_MH 0x18

static const uint8_t addresses[] PINTLE_TABLE = { 0x36 };
/* It has no identity register: a magnet must be there, and the bits beside it are 0. */
static const struct pintle_step identity[] PINTLE_TABLE = {
    PINTLE_EXPECT(STATUS, 1, 0xe0, MD),
    PINTLE_END(),
};
static const struct pintle_step setup[] PINTLE_TABLE = { PINTLE_END() };
static const struct pintle_step measure[] PINTLE_TABLE = {
    PINTLE_READ(STATUS, 3),
    PINTLE_END(),
};
static const struct pintle_mark marks[] PINTLE_TABLE = {
    PINTLE_UNLESS(-1, MD, MD, BUS),
    PINTLE_UNLESS(-1, ML_MH, 0, RANGE),
    PINTLE_MARKS_END(),
};
static const struct pintle_linear row PINTLE_TABLE = {
    .bytes = 2, .bits = 12, .scale = 360.0f / 4096, .lowest = -1, .highest = -1, .marks = marks
};
static const struct pintle_channel channels[] PINTLE_TABLE = {
    PINTLE_CHANNEL("angle", ANGLE, 2, 0, 360, &row, .at = 1),
};
extern const struct pintle_part pintle_as5600;
const struct pintle_part pintle_as5600 PINTLE_TABLE = {
    .name = "AS5600",
    .flags = PINTLE_PART_BIG_ENDIAN,
    .raw_size = 3,
    .channel_count = 1,
    .address_count = sizeof addresses,
    .addresses = addresses,
    .link = &pintle_link_i2c,
    .identity = identity,
    .setup = setup,
    .measure = measure,
    .channels = channels,
};

/* Its sensors: one channel, no numbers, settings or trim, three raw bytes. */
PINTLE_I2C_SENSOR(as5600, 1, 0, 0, 0, 3)

static int read_with(const char *what, struct pintle_as5600 *rudder, float *degrees)
{
    char value[24];
    struct pintle_text text;
    enum pintle_status status = pintle_sensor_read(&rudder->sensor);
    if (status != PINTLE_OK) {
        printf("%-10s %s\n", what, pintle_status_sentence(status));
        return 0;
    }
    const struct pintle_reading *angle = &rudder->reading[0];
    *degrees = angle->value;
    pintle_text_init(&text, value, sizeof value);
    pintle_text_reading(&text, &channels[0], angle);
    printf("%-10s raw %4d is %s deg\n", what, (int)angle->raw, value);
    return 1;
}

int main(void)
{
    const struct pintle_sim_curve rudder = { .level = 183.5 };
    struct pintle_problem problem = { PINTLE_FAILURE_NONE, "" };
    struct pintle_sim sim;
    float described = 0;
    float built = 0;

    struct pintle_rig *rig = pintle_rig_parse("from_datasheet", rig_text, &problem);
    const struct pintle_sheet *sheet = rig ? pintle_rig_part(rig, "AS5600", &problem) : NULL;
    if (!sheet) {
        printf("%s\n", problem.text);
        return 1;
    }
    pintle_sim_init(&sim, 1, 1781222400000000, 2);
    struct pintle_sim_chip *chip = pintle_sim_add(&sim, "AS5600", 0, 0x36);
    struct pintle_i2c bus = pintle_sim_i2c(&sim, 0);
    struct pintle_as5600 one, other; /* the tool's is of the same size */
    const struct pintle_room room = pintle_as5600_room(&one);
    int ok = pintle_sim_feel(chip, "angle", &rudder) == PINTLE_OK
             && pintle_sensor_on_i2c(&one.sensor, sheet->part, &room, &bus, 0x36) == PINTLE_OK
             && read_with("described", &one, &described)
             && pintle_as5600_on_i2c(&other, &bus, 0x36) == PINTLE_OK
             && read_with("as a part", &other, &built);
    if (ok) {
        printf("%s\n", fabsf(described - built) < 0.2f ? "they say the same" : "they differ");
    }
    pintle_rig_free(rig);
    return ok ? 0 : 1;
}
