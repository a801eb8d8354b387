/* Every word that a rig file may have, and what it is where it isn't given. */
#include "host/rig/loading.h"

/* Sections with titles of their own. */
#define ONCE_EACH (CFGF_MULTI | CFGF_TITLE | CFGF_NO_TITLE_DUPES)

/* --- a chip that the catalogue lacks --- */

static cfg_opt_t field[] = { CFG_INT("bit", -1, CFGF_NONE), CFG_INT("bits", 1, CFGF_NONE),
                             CFG_STR("meaning", "", CFGF_NONE),
                             CFG_STR_LIST("values", "{}", CFGF_NONE), CFG_END() };

static cfg_opt_t reg[] = {
    CFG_INT("address", -1, CFGF_NONE),     CFG_INT("width", 1, CFGF_NONE),
    CFG_STR("access", "both", CFGF_NONE),  CFG_INT("at-power-on", 0, CFGF_NONE),
    CFG_STR("head", NULL, CFGF_NODEFAULT), CFG_STR("meaning", "", CFGF_NONE),
    CFG_SEC("field", field, ONCE_EACH),    CFG_END()
};

/* A further place of a setting, by the name of its register. */
static cfg_opt_t also[] = { CFG_INT("bit", 0, CFGF_NONE), CFG_INT_LIST("codes", "{}", CFGF_NONE),
                            CFG_END() };

static cfg_opt_t setting[] = { CFG_STR("register", NULL, CFGF_NODEFAULT),
                               CFG_INT("bit", 0, CFGF_NONE),
                               CFG_STR("meaning", "", CFGF_NONE),
                               CFG_STR_LIST("options", "{}", CFGF_NONE),
                               CFG_STR("initial", NULL, CFGF_NODEFAULT),
                               CFG_SEC("also", also, ONCE_EACH),
                               CFG_END() };

static cfg_opt_t number[] = { CFG_STR("unit", "", CFGF_NONE), CFG_FLOAT("initial", 1, CFGF_NONE),
                              CFG_FLOAT_LIST("range", "{}", CFGF_NONE),
                              CFG_STR("meaning", "", CFGF_NONE), CFG_END() };

static cfg_opt_t checksum[] = { CFG_INT("polynomial", 0x31, CFGF_NONE),
                                CFG_INT("start", 0xff, CFGF_NONE),
                                CFG_INT("bits", 8, CFGF_NONE),
                                CFG_INT("over", 2, CFGF_NONE),
                                CFG_BOOL("low-first", cfg_false, CFGF_NONE),
                                CFG_BOOL("registers", cfg_true, CFGF_NONE),
                                CFG_END() };

/* Where it lies and what it means, of all options or, in a row, of some. */
#define ROW_OPTIONS                                                                                \
    CFG_INT("bytes", 2, CFGF_NONE), CFG_INT("drop", 0, CFGF_NONE), CFG_INT("bits", 0, CFGF_NONE),  \
        CFG_BOOL("signed", cfg_false, CFGF_NONE), CFG_BOOL("clamp", cfg_false, CFGF_NONE),         \
        CFG_STR("order", "", CFGF_NONE), CFG_FLOAT("scale", 1, CFGF_NONE),                         \
        CFG_FLOAT("offset", 0, CFGF_NONE), CFG_FLOAT_LIST("polynomial", "{}", CFGF_NONE),          \
        CFG_FLOAT("polynomial-above", 0, CFGF_NONE), CFG_STR("power-on", NULL, CFGF_NODEFAULT),    \
        CFG_STR_LIST("ends", "{}", CFGF_NONE), CFG_STR_LIST("marks", "{}", CFGF_NONE)

static cfg_opt_t row[] = { ROW_OPTIONS, CFG_END() };

static cfg_opt_t part_channel[] = { CFG_STR("quantity", NULL, CFGF_NODEFAULT),
                                    CFG_INT("at", 0, CFGF_NONE),
                                    ROW_OPTIONS,
                                    CFG_STR("input", NULL, CFGF_NODEFAULT),
                                    CFG_STR_LIST("scaled-by", "{}", CFGF_NONE),
                                    CFG_STR("times", NULL, CFGF_NODEFAULT),
                                    CFG_STR("divided-by", NULL, CFGF_NODEFAULT),
                                    CFG_STR_LIST("rows-by", "{}", CFGF_NONE),
                                    CFG_STR("value", NULL, CFGF_NODEFAULT),
                                    CFG_SEC("row", row, ONCE_EACH),
                                    CFG_FLOAT_LIST("range", "{}", CFGF_NONE),
                                    CFG_INT("decimals", 2, CFGF_NONE),
                                    CFG_FLOAT("accuracy", 0, CFGF_NONE),
                                    CFG_FLOAT("accuracy-percent", 0, CFGF_NONE),
                                    CFG_END() };

static cfg_opt_t coefficient[] = { CFG_INT("bit", 0, CFGF_NONE), CFG_INT("bits", 0, CFGF_NONE),
                                   CFG_BOOL("signed", cfg_true, CFGF_NONE), CFG_END() };

static cfg_opt_t ranging[] = { CFG_STR_LIST("settings", "{}", CFGF_NONE),
                               CFG_STR_LIST("rungs", "{}", CFGF_NONE),
                               CFG_STR_LIST("channels", "{}", CFGF_NONE),
                               CFG_INT("below", 0, CFGF_NONE),
                               CFG_INT("from", 0, CFGF_NONE),
                               CFG_END() };

static cfg_opt_t fifo[] = { CFG_STR_LIST("start", "{}", CFGF_NONE),
                            CFG_STR_LIST("empty", "{}", CFGF_NONE),
                            CFG_STR_LIST("check", "{}", CFGF_NONE),
                            CFG_STR("count", NULL, CFGF_NODEFAULT),
                            CFG_INT("count-mask", 0xffff, CFGF_NONE),
                            CFG_INT("counted", 1, CFGF_NONE),
                            CFG_STR("data", NULL, CFGF_NODEFAULT),
                            CFG_STR("over", NULL, CFGF_NODEFAULT),
                            CFG_INT("over-mask", 0, CFGF_NONE),
                            CFG_INT("record", 0, CFGF_NONE),
                            CFG_INT("at", 0, CFGF_NONE),
                            CFG_INT("at-once", 1, CFGF_NONE),
                            CFG_INT("depth", 0, CFGF_NONE),
                            CFG_BOOL("torn", cfg_false, CFGF_NONE),
                            CFG_STR("rate", NULL, CFGF_NODEFAULT),
                            CFG_STR_LIST("periods", "{}", CFGF_NONE),
                            CFG_STR_LIST("channels", "{}", CFGF_NONE),
                            CFG_END() };

static cfg_opt_t lines[] = { CFG_STR("out", NULL, CFGF_NODEFAULT),
                             CFG_STR("in", NULL, CFGF_NODEFAULT),
                             CFG_STR("direction", NULL, CFGF_NODEFAULT),
                             CFG_INT("count", 0, CFGF_NONE), CFG_END() };

static cfg_opt_t memory[] = { CFG_INT("size", 0, CFGF_NONE), CFG_INT("page", 1, CFGF_NONE),
                              CFG_INT("first", 0, CFGF_NONE), CFG_STR("write", "5 ms", CFGF_NONE),
                              CFG_END() };

static cfg_opt_t keeper[] = { CFG_STR("first", NULL, CFGF_NODEFAULT),
                              CFG_STR_LIST("order", "{}", CFGF_NONE),
                              CFG_INT("century", 0, CFGF_NONE),
                              CFG_STR("stop", NULL, CFGF_NODEFAULT),
                              CFG_STR("lost", NULL, CFGF_NODEFAULT),
                              CFG_INT("lost-at", 0, CFGF_NONE),
                              CFG_END() };

static cfg_opt_t display[] = { CFG_INT("width", 0, CFGF_NONE), CFG_INT("height", 0, CFGF_NONE),
                               CFG_INT("row", 0, CFGF_NONE), CFG_INT("column", 0, CFGF_NONE),
                               CFG_END() };

static cfg_opt_t part[] = { CFG_STR("what", "described by the rig file", CFGF_NONE),
                            CFG_STR("source", "the rig file", CFGF_NONE),
                            CFG_STR("bus", "i2c", CFGF_NONE),
                            CFG_INT_LIST("addresses", "{}", CFGF_NONE),
                            CFG_INT("family", 0, CFGF_NONE),
                            CFG_INT("mode", 0, CFGF_NONE),
                            CFG_INT("top-speed", 1000000, CFGF_NONE),
                            CFG_INT("read-bit", 0, CFGF_NONE),
                            CFG_INT("burst-bit", 0, CFGF_NONE),
                            CFG_INT("bank-register", -1, CFGF_NONE),
                            CFG_INT("bank-bit", 0, CFGF_NONE),
                            CFG_BOOL("commands", cfg_false, CFGF_NONE),
                            CFG_INT("speed", 9600, CFGF_NONE),
                            CFG_BOOL("text", cfg_false, CFGF_NONE),
                            CFG_INT("frame", 0, CFGF_NONE),
                            CFG_INT("answers-within-ms", 500, CFGF_NONE),
                            CFG_STR("order", "high", CFGF_NONE),
                            CFG_BOOL("wide-address", cfg_false, CFGF_NONE),
                            CFG_BOOL("first-suspect", cfg_false, CFGF_NONE),
                            CFG_STR_LIST("silent", "{}", CFGF_NONE),
                            CFG_INT("data-at", 0, CFGF_NONE),
                            CFG_BOOL("acts", cfg_false, CFGF_NONE),
                            CFG_FLOAT_LIST("supply", "{3.0, 3.6}", CFGF_NONE),
                            CFG_STR_LIST("identity", "{}", CFGF_NONE),
                            CFG_STR_LIST("start", "{}", CFGF_NONE),
                            CFG_STR_LIST("measure", "{}", CFGF_NONE),
                            CFG_STR("pause", NULL, CFGF_NODEFAULT),
                            CFG_STR_LIST("rest", "{}", CFGF_NONE),
                            CFG_FLOAT_LIST("current", "{}", CFGF_NONE),
                            CFG_SEC("auto", ranging, CFGF_NODEFAULT),
                            CFG_SEC("fifo", fifo, CFGF_NODEFAULT),
                            CFG_SEC("lines", lines, CFGF_NODEFAULT),
                            CFG_SEC("memory", memory, CFGF_NODEFAULT),
                            CFG_SEC("clock", keeper, CFGF_NODEFAULT),
                            CFG_SEC("display", display, CFGF_NODEFAULT),
                            CFG_SEC("register", reg, ONCE_EACH),
                            CFG_SEC("setting", setting, ONCE_EACH),
                            CFG_SEC("number", number, ONCE_EACH),
                            CFG_SEC("coefficient", coefficient, ONCE_EACH),
                            CFG_SEC("checksum", checksum, ONCE_EACH),
                            CFG_STR_LIST("inputs", "{}", CFGF_NONE),
                            CFG_SEC("channel", part_channel, ONCE_EACH),
                            CFG_END() };

/* --- the rest --- */

static cfg_opt_t board[] = {
    CFG_STR("name", "board", CFGF_NONE),      CFG_STR("port", "sim", CFGF_NONE),
    CFG_STR("depth", "transfers", CFGF_NONE), CFG_STR("world", NULL, CFGF_NODEFAULT),
    CFG_FLOAT("logic", 3.3, CFGF_NONE),       CFG_END()
};

static cfg_opt_t bus[] = { CFG_STR("kind", "i2c", CFGF_NONE),
                           CFG_INT("speed", 0, CFGF_NONE),
                           CFG_STR("data", "", CFGF_NONE),
                           CFG_STR("data-in", "", CFGF_NONE),
                           CFG_STR("clock", "", CFGF_NONE),
                           CFG_STR("command", "", CFGF_NONE),
                           CFG_FLOAT("pull-up", 0, CFGF_NONE),
                           CFG_FLOAT("pull-up-to", 3.3, CFGF_NONE),
                           CFG_FLOAT("cable", 0.2, CFGF_NONE),
                           CFG_FLOAT("cable-pf", 100, CFGF_NONE),
                           CFG_BOOL("shared", cfg_false, CFGF_NONE),
                           CFG_STR("device", "", CFGF_NONE),
                           CFG_STR_LIST("selects", "{}", CFGF_NONE),
                           CFG_BOOL("beside-drivers", cfg_false, CFGF_NONE),
                           CFG_END() };

static cfg_opt_t sensor_channel[] = { CFG_FLOAT("gain", 1, CFGF_NONE),
                                      CFG_FLOAT("offset", 0, CFGF_NONE),
                                      CFG_FLOAT("jump", -1, CFGF_NONE),
                                      CFG_FLOAT("rate", -1, CFGF_NONE),
                                      CFG_INT("frozen", -1, CFGF_NONE),
                                      CFG_INT("median", 0, CFGF_NONE),
                                      CFG_INT("hold", 0, CFGF_NONE),
                                      CFG_STR("twin", NULL, CFGF_NODEFAULT),
                                      CFG_FLOAT("within", -1, CFGF_NONE),
                                      CFG_STR("as", NULL, CFGF_NODEFAULT),
                                      CFG_STR("unit", NULL, CFGF_NODEFAULT),
                                      CFG_FLOAT_LIST("divider", "{}", CFGF_NONE),
                                      CFG_FLOAT_LIST("thermistor", "{}", CFGF_NONE),
                                      CFG_END() };

static cfg_opt_t sensor[] = { CFG_STR("part", NULL, CFGF_NODEFAULT),
                              CFG_STR("bus", NULL, CFGF_NODEFAULT),
                              CFG_INT("address", -1, CFGF_NONE),
                              CFG_STR("select", NULL, CFGF_NODEFAULT),
                              CFG_STR("code", NULL, CFGF_NODEFAULT),
                              CFG_STR("device", NULL, CFGF_NODEFAULT),
                              CFG_FLOAT("supply", 3.3, CFGF_NONE),
                              CFG_BOOL("rest", cfg_false, CFGF_NONE),
                              CFG_STR_LIST("use", "{}", CFGF_NONE),
                              CFG_STR_LIST("mount", "{}", CFGF_NONE),
                              CFG_FLOAT("pull-up", 0, CFGF_NONE),
                              CFG_STR_LIST("set", "{}", CFGF_NONE),
                              CFG_SEC("channel", sensor_channel,
                                      CFGF_MULTI | CFGF_TITLE | CFGF_NO_TITLE_DUPES),
                              CFG_END() };

static cfg_opt_t made_channel[] = {
    CFG_STR("is", NULL, CFGF_NODEFAULT),   CFG_STR_LIST("of", "{}", CFGF_NONE),
    CFG_STR_LIST("set", "{}", CFGF_NONE),  CFG_FLOAT_LIST("points", "{}", CFGF_NONE),
    CFG_STR("over", NULL, CFGF_NODEFAULT), CFG_STR("quantity", NULL, CFGF_NODEFAULT),
    CFG_INT("decimals", -1, CFGF_NONE),    CFG_FLOAT("gain", 1, CFGF_NONE),
    CFG_FLOAT("offset", 0, CFGF_NONE),     CFG_FLOAT("jump", -1, CFGF_NONE),
    CFG_FLOAT("rate", -1, CFGF_NONE),      CFG_INT("frozen", -1, CFGF_NONE),
    CFG_INT("median", 0, CFGF_NONE),       CFG_INT("hold", 0, CFGF_NONE),
    CFG_STR("unit", NULL, CFGF_NODEFAULT), CFG_END()
};

static cfg_opt_t derive[] = { CFG_SEC("channel", made_channel, ONCE_EACH), CFG_END() };

static cfg_opt_t logging[] = {
    CFG_STR("every", "1 min", CFGF_NONE),          CFG_STR("folder", "runs", CFGF_NONE),
    CFG_BOOL("folders", cfg_true, CFGF_NONE),      CFG_STR("database", NULL, CFGF_NODEFAULT),
    CFG_BOOL("uncertainty", cfg_false, CFGF_NONE), CFG_END()
};

static cfg_opt_t schema[] = { CFG_SEC("board", board, CFGF_NONE),
                              CFG_SEC("part", part, CFGF_MULTI | CFGF_TITLE),
                              CFG_SEC("bus", bus, CFGF_MULTI | CFGF_TITLE),
                              CFG_SEC("sensor", sensor, CFGF_MULTI | CFGF_TITLE),
                              CFG_SEC("derive", derive, CFGF_MULTI | CFGF_TITLE),
                              CFG_SEC("log", logging, CFGF_NONE),
                              CFG_END() };

cfg_opt_t *pintle_priv_rig_schema(void)
{
    return schema;
}
