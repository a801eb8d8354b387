#include <glib.h>

#include "pintle/host/check/hint.h"

static const struct pintle_mark_text marks[] = {
    { PINTLE_QUALITY_FIRST, "the part's datasheet says to drop the first result after power-up",
      "nothing; read once more", "with the next reading" },
    { PINTLE_QUALITY_POWER_ON,
      "no conversion has ended since its supply came back: a loose plug, a thin supply wire, a "
      "motor on the same battery; of a clock, an empty battery",
      "read again; if it stays or comes back, measure the supply at the sensor while everything "
      "else runs",
      "once it holds something else, or the same value after the sensor was set up and measured "
      "anew, where the part lets one tell" },
    { PINTLE_QUALITY_RANGE,
      "the quantity really is that far out, the part is not the one in the rig file, or a setting "
      "or correction is wrong",
      "compare with another instrument; look the range up with 'pintle parts NAME'",
      "with the first reading within the range" },
    { PINTLE_QUALITY_SATURATED,
      "the quantity is beyond the scale, an input is open or shorted, or the reference is too low",
      "choose a wider scale; check the input's wires, and the reference",
      "with the first reading off the end" },
    { PINTLE_QUALITY_FROZEN,
      "the chip hangs or was put to sleep, another master stopped it, or nothing changes here and "
      "the limit is too tight",
      "take its power away and give it back; where nothing changes, raise 'frozen' in the rig file",
      "with the first reading whose raw integer differs" },
    { PINTLE_QUALITY_JUMP,
      "noise on the cable, a loose plug, a bit error that no checksum covers; or a real step",
      "look at the cable and the ground; where steps are real, raise 'jump' in the rig file",
      "back near the last good value at once; at a new level once thirty readings in a row agree "
      "with "
      "each other" },
    { PINTLE_QUALITY_BUS, "nothing came back, or what came cannot be this chip's",
      "'pintle scan' looks for the cause; 'pintle explain' with the failure's word says more",
      "with the first reading that comes whole, after the chip was proven and set up again" },
    { PINTLE_QUALITY_UNCORRECTED, "nobody calibrated this channel, or the calibration is refused",
      "'pintle calibrate' keeps one; without, the part's own accuracy holds",
      "it is not suspect: a remark only" },
    { PINTLE_QUALITY_STALE,
      "no conversion ended since the last reading, the chip converts more slowly than it was asked "
      "to, or its setting was changed by somebody else",
      "leave more time between readings; look for another master of the bus",
      "with the first reading of a new conversion" },
    { PINTLE_QUALITY_IDLE, "the program asked this part for other channels only",
      "ask for it too, or don't look at it", "when it is asked for" },
    { PINTLE_QUALITY_GAP,
      "the chip's own memory for samples ran full before they were collected: the host was busy, "
      "or "
      "collects too seldom for the rate",
      "collect more often, or choose a lower rate; the samples that are there are as they should "
      "be",
      "it is not suspect: a remark only, on the first sample behind the gap" },
    { PINTLE_QUALITY_SPAN,
      "it is beyond what the sensor was calibrated for, or the second channel is, by which it is "
      "corrected; or that channel gives no value; or another specimen was plugged in, by its "
      "serial "
      "number",
      "calibrate over a wider span ('pintle corrections' shows it); look after the second channel",
      "with the first reading within the span" },
    { PINTLE_QUALITY_APART,
      "one of the two is wrong, and nobody knows which: a sensor in the sun, wet, failing, or "
      "calibrated for another one",
      "compare both with a third instrument: 'pintle compare'; or raise 'within' in the rig file",
      "once the two agree again" },
    { PINTLE_QUALITY_WARMING,
      "the sensor's own heat, or its board's, a regulator's, a lamp's: since power-up the value "
      "rises "
      "as a thing does that is heated, ever more slowly",
      "move the sensor away from the heat; let it measure less often; correct it against the "
      "board's "
      "temperature (method heat)",
      "it is not suspect: a remark only, until it has risen as far as it will" },
    { PINTLE_QUALITY_SMOOTHED, "the rig file asks for a median of this channel",
      "nothing; 'median' in the rig file says how many readings it is of",
      "it is not suspect: a remark only" },
};

const struct pintle_mark_text *pintle_hint_mark(size_t index)
{
    return index < G_N_ELEMENTS(marks) ? &marks[index] : NULL;
}
