#include "pintle/host/check/hint.h"

#include <glib.h>

#define I2C PINTLE_ON_I2C
#define SPI PINTLE_ON_SPI
#define ONEWIRE PINTLE_ON_ONEWIRE
#define STREAM PINTLE_ON_STREAM
#define ALL PINTLE_ON_ALL

/* In the order of enum pintle_hint. */
static const struct pintle_hint_text hints[] = {
    { "switched-off", ALL, "the port says that it has no such bus",
      "this interface is switched off in the operating system, or the port has no such pins; "
      "switch "
      "it on in the board's settings and start the board again" },
    { "unable", ALL, "the port says that it cannot do this at all",
      "this bus's adapter cannot do what is asked of it; take another bus of the board, or a part "
      "that needs less" },
    { "denied", ALL, "the operating system does not let this program use the bus",
      "permission is missing: add your user to the group that has the device, and log in again" },
    { "system-fails", ALL, "the operating system says that it failed, and not what a chip did",
      "the operating system failed to do it; its log (dmesg) may say more" },
    { "held", I2C, "a driver of the operating system has the address to itself",
      "the driver '{other}' has this address; unbind it, or share the chip with it by "
      "beside-drivers = true in the bus section of the rig file" },
    { "held-switch", I2C, "a driver of the operating system runs a bus switch at the address",
      "the driver '{other}' runs the bus switch at this address: leave it bound; each channel is a "
      "bus of its own, which 'pintle scan' without a rig file lists" },
    { "all-late", I2C, "whatever is asked runs into the adapter's time limit",
      "every address runs into the adapter's time limit: either nobody is on this bus, or the "
      "clock "
      "stays low; check the plugs and the supply, then the pull-ups" },
    { "touching", I2C, "pulling data low pulls the clock low",
      "data and clock touch: pulling one low pulls the other; look for solder or a strand between "
      "them" },
    { "both-low", I2C, "both lines are low at rest",
      "both lines stay low: no pull-ups, no supply, or both shorted to ground; measure them "
      "against "
      "ground with the power off, then check the pull-ups and the supply" },
    { "clock-low", I2C, "the clock is low at rest",
      "the clock stays low: shorted to ground, its pull-up missing, or a chip stretches it for "
      "ever; "
      "unplug the boards one by one until it rises" },
    { "data-low", I2C, "data is low at rest",
      "data stays low, and nine clocks did not free it: shorted to ground, its pull-up missing, or "
      "a "
      "chip that hangs; unplug the boards one by one until it rises" },
    { "no-rise", I2C, "data was high at rest and does not rise after a low",
      "data does not rise again once it was low: there are no pull-ups, or no supply behind them; "
      "check both" },
    { "slow-rise", I2C, "data takes longer to rise than the bus's speed allows",
      "the lines rise too slowly: the pull-ups are too weak for the cable at this speed; take "
      "stronger ones, a shorter cable or a slower bus ('pintle wiring' has the numbers)" },
    { "low-while-talking", I2C, "the lines are well at rest and stuck in a transfer",
      "the lines are high at rest, but not while a chip talks: it stretches the clock for ever, or "
      "a "
      "board's supply is missing; unplug the boards one by one" },
    { "clock-stuck", I2C, "a transfer ended with clock-stuck, and the port cannot look at its pins",
      "the clock stays low: no pull-ups, no supply, shorted to ground or to data, or stretched for "
      "ever; check the pull-ups and the supply, then unplug the boards one by one" },
    { "everybody", I2C, "more addresses answer than a bus can have chips",
      "every address answers: noise, not chips; there is no pull-up on data, or the ground wire is "
      "missing; check both" },
    { "on-other-bus", I2C, "nothing answers, and the part answers on another bus",
      "no answer; a {part} answers at {place} on bus '{bus}': is it plugged in there?" },
    { "other-strap", I2C, "nothing answers, and the part answers at another of its addresses",
      "no answer; a {part} answers at {place} instead ({strap}): move the strap, or change the "
      "rig's "
      "address" },
    { "maybe-there", I2C, "nothing answers, and a chip that could be the part answers elsewhere",
      "no answer; what answers at {place} on bus '{bus}' could be the {part} ({strap}), but "
      "nothing "
      "proves it: check the plug and the address strap" },
    { "nobody", I2C, "nothing answers on the whole bus, and its lines are well",
      "no answer, and nothing else on this bus; check the bus's supply and ground, then whether "
      "data "
      "and clock are swapped" },
    { "one-missing", I2C, "nothing answers at one address, while others do",
      "no answer, while others on this bus do; check its plug, its supply and its address strap "
      "({strap})" },
    { "other-part", ALL, "another part of the catalogue passes its proof here",
      "a {other} answers where the rig expects a {part}; change the rig's part, or the board" },
    { "maybe-other", ALL, "the expected part does not prove itself, and others could be there",
      "something answers that is not a {part}: it does not pass the proof. It could be {other}; "
      "check the board's marking, and for two boards in one place" },
    { "no-proof", ALL, "something answers, and no part passes its proof",
      "something answers that is not a {part}: it does not pass the proof; check the board's "
      "marking, "
      "and for two boards in one place" },
    { "stranger", ALL, "a part that the rig does not know", "{proof}; add it to the rig file" },
    { "unproven-stranger", I2C, "something at an address of parts, and nothing that proves which",
      "it could be {other}, but nothing proves it; name the part in the rig file, or describe "
      "another there in a part section" },
    { "acting-stranger", I2C, "something at an address of parts that act when they are asked",
      "by its address it could be {other}; nothing was sent to it, since a byte could switch "
      "something; name it in the rig file to have it proven" },
    { "unknown-stranger", ALL, "something that the rig does not know and no part's proof fits",
      "no part of the catalogue passes its proof here; a part section of the rig file can describe "
      "it" },
    { "all-ones", SPI, "every byte read is ffh",
      "nothing but ones come back: nobody drives the data-in line; check the select wire, the "
      "supply, "
      "whether data-in and data-out are swapped, and the mode" },
    { "all-zeros", SPI, "every byte read is 00h",
      "nothing but zeros come back: data-in is shorted to ground, or the chip has no supply; "
      "measure "
      "data-in against ground with the power off" },
    { "other-select", SPI, "the part answers on another select pin",
      "a {part} answers on {place} instead: the select wires are swapped, or the rig's pins are; "
      "change one of them" },
    { "one-bit-late", SPI, "the identity comes out shifted by one bit",
      "the identity of a {part} comes one bit late: the mode is wrong, or the clock line rings; "
      "check "
      "the rig's mode, then shorten the wires" },
    { "unsteady", SPI, "the same register reads differently each time",
      "the same register reads differently each time: noise; shorten the wires, check the ground, "
      "and "
      "take a slower bus" },
    { "line-low", ONEWIRE, "the line does not rise",
      "the line stays low: it is shorted to ground, or its pull-up of 4.7 kilohms is missing or on "
      "another rail; unplug the probes one by one, then check the resistor" },
    { "line-shorted", ONEWIRE, "the line cannot even be charged",
      "the line is shorted to ground; unplug the probes one by one, and look for a crushed cable "
      "or a "
      "probe with its wires mixed up" },
    { "line-floats", ONEWIRE, "the line keeps a charge and does not rise by itself",
      "the line does not rise by itself: its pull-up of 4.7 kilohms is missing, or its rail has no "
      "supply; check both" },
    { "line-kept", ONEWIRE, "the operating system did not get to the line in time",
      "the line was busy all the time: another program or a driver of the operating system keeps "
      "it, or it is very slow; try again, and see what else reads the probes" },
    { "no-presence", ONEWIRE, "no presence pulse after a reset",
      "no probe shows its presence; check the plug and the ground, whether data and supply are "
      "swapped, and the pin" },
    { "no-code", ONEWIRE, "presence, but nobody takes part in the search",
      "a probe shows its presence and then no code: a weak pull-up or too long a cable; take 2.2 "
      "kilohms, and look at the plugs" },
    { "garbled-code", ONEWIRE, "a code's CRC is wrong",
      "a code came that does not hold together: noise, a loose plug or too long a cable; look at "
      "the "
      "plugs, take a stronger pull-up, and branch the cable less" },
    { "partial-code", ONEWIRE, "a code breaks off before its 64 bits",
      "a code broke off in the middle: a probe lost contact or its supply while it was speaking; "
      "look "
      "at its plug, then take a stronger pull-up" },
    { "zero-code", ONEWIRE, "a code of zeros",
      "a code of nothing but zeros came, which no chip has: the line was pulled low in the middle; "
      "look for a loose plug or a short" },
    { "flickering", ONEWIRE, "found in some of the searches only",
      "it comes and goes: found in some searches and not in others; look at its plug and its "
      "cable" },
    { "code-missing", ONEWIRE, "not found, while others on the line are",
      "this code is not on the line, while others are; check its plug, and that the code is that "
      "of "
      "the probe at hand" },
    { "unknown-family", ONEWIRE, "a whole code of a family that the catalogue lacks",
      "a chip of a family that the catalogue does not have" },
    { "needs-power", ONEWIRE,
      "it says that it lives on the line, and the rig has it powered by a wire",
      "it says that the line powers it, and the rig says that a wire does: its supply wire is "
      "broken "
      "or grounded; mend it, or set power=parasite" },
    { "silent-line", STREAM, "nothing comes",
      "nothing comes from its other end: no supply, a loose plug, or data and data-in are swapped, "
      "which each must go to the other's" },
    { "garbled-line", STREAM, "bytes come that make no sense",
      "what comes is no text of a {part}: another speed, another part, or levels that differ; "
      "check "
      "the speed first" },
    { "deaf-line", STREAM, "it speaks, and doesn't answer",
      "it speaks by itself and doesn't answer when it is asked: the wire from the board's data pin "
      "to it is loose, or goes to the wrong pin" },
};
G_STATIC_ASSERT(G_N_ELEMENTS(hints) == PINTLE_HINT_COUNT);

const struct pintle_hint_text *pintle_hint_at(size_t index)
{
    return index < G_N_ELEMENTS(hints) ? &hints[index] : NULL;
}

static void put(GString *text, const char *name, const char *value)
{
    g_string_replace(text, name, value ? value : "?", 0);
}

void pintle_hint_tell(enum pintle_hint hint, const struct pintle_hint_names *names, char *text,
                      size_t room)
{
    GString *string = g_string_new(hints[hint].text);
    if (names) {
        put(string, "{part}", names->part);
        put(string, "{other}", names->other);
        put(string, "{place}", names->place);
        put(string, "{bus}", names->bus);
        put(string, "{strap}", names->strap);
        put(string, "{proof}", names->proof);
    }
    g_strlcpy(text, string->str, room);
    g_string_free(string, TRUE);
}

static const struct {
    enum pintle_status status;
    unsigned buses;
    const char *causes;
} causes[] = {
    { PINTLE_NO_ANSWER, I2C, "it is unplugged, has no supply, or sits at another address" },
    { PINTLE_NO_ANSWER, SPI,
      "it is unplugged, has no supply, or its select or data-in wire is broken" },
    { PINTLE_NO_ANSWER, ONEWIRE,
      "it is unplugged, or this is not its code; if 'pintle scan' finds it, it does not convert" },
    { PINTLE_NO_ANSWER, STREAM,
      "it is unplugged, has no supply, data and data-in are swapped, or the speed differs" },
    { PINTLE_DATA_REFUSED, I2C, "the chip is busy, or another chip sits at this address" },
    { PINTLE_CLOCK_STUCK, I2C,
      "no pull-up, no supply, a short, or a chip that stretches for ever" },
    { PINTLE_DATA_STUCK, I2C, "a short, no pull-up, or a chip that hangs" },
    { PINTLE_DATA_STUCK, ONEWIRE, "the line is shorted, or its pull-up is missing" },
    { PINTLE_TIME_LIMIT, ALL, "the chip is not set up as expected, or lost its supply meanwhile" },
    { PINTLE_ARBITRATION_LOST, I2C,
      "another master talks on this bus: another process, a kernel driver, a second board" },
    { PINTLE_STAYED_BUSY, ALL,
      "the chip was restarted or reconfigured in the middle, or its supply dips" },
    { PINTLE_CLOCK_STOPPED, ALL,
      "the port's timer was never started, its interrupt is off, or it wraps and nobody counts "
      "it" },
    { PINTLE_MISFIT, ALL,
      "a wire or a setting is not as the rig file says, its supply dipped, or somebody else set "
      "it" },
    { PINTLE_BAD_CRC, I2C, "noise: a long cable, a weak pull-up, a loose plug" },
    { PINTLE_BAD_CRC, ONEWIRE, "noise: a long cable, a loose plug, or two chips at once" },
    { PINTLE_WRONG_IDENTITY, I2C, "another part, or two boards at one address" },
    { PINTLE_WRONG_IDENTITY, SPI, "another part, swapped selects, the wrong mode, or noise" },
    { PINTLE_WRONG_IDENTITY, ONEWIRE, "another part with this code's family" },
    { PINTLE_WRONG_IDENTITY, STREAM, "another part, or noise" },
    { PINTLE_UNSUPPORTED, ALL, "the port or its adapter lacks what this part needs" },
    { PINTLE_NO_DEVICE, ALL, "the interface is switched off in the operating system" },
    { PINTLE_DENIED, ALL, "your user is not in the group that has the device" },
    { PINTLE_HELD, I2C, "one of its drivers was bound to the address at start" },
    { PINTLE_IO_ERROR, ALL, "the adapter or its driver is in trouble; the system's log says more" },
};

const char *pintle_hint_causes(enum pintle_status status, enum pintle_bus_kind kind)
{
    for (size_t i = 0; i < G_N_ELEMENTS(causes); i++) {
        if (causes[i].status == status && (causes[i].buses & 1u << kind)) {
            return causes[i].causes;
        }
    }
    return "";
}
