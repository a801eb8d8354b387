/* What the files of the survey share, one of which there is for each kind of bus. */
#ifndef PINTLE_PRIV_CHECK_SURVEY_PART_H
#define PINTLE_PRIV_CHECK_SURVEY_PART_H

#include "pintle/host/check/survey.h"

struct surveying {
    struct pintle_station *station;
    struct pintle_survey *survey;
    unsigned bus;
};

/* A new finding on this bus; `sensor` is an index of the rig, or -1. */
struct pintle_finding *pintle_priv_survey_add(const struct surveying *s, const char *where,
                                              int sensor);

/* The sensor that the rig has at this place of the bus, or -1. */
int pintle_priv_survey_expected(const struct surveying *s, const char *where);

/* A finding on the bus itself: BROKEN, then it is the only one, or MARGINAL. */
void pintle_priv_survey_bus(const struct surveying *s, enum pintle_finding_kind kind,
                            enum pintle_hint hint);

/* Say of a finding what it is, in the words of a hint. */
void pintle_priv_survey_tell(struct pintle_finding *finding, enum pintle_finding_kind kind,
                             enum pintle_hint hint, const struct pintle_hint_names *names);

/* Does `sheet`'s part prove itself at the finding's place? */
bool pintle_priv_survey_proves(const struct surveying *s, const struct pintle_sheet *sheet,
                               const struct pintle_finding *finding);

/* Of all parts that pass their proof there the one most certain, or null. */
const struct pintle_sheet *pintle_priv_survey_recognise(const struct surveying *s,
                                                        const struct pintle_finding *finding);

/* Something answers at the finding's place: is it what is expected, or who is it? */
void pintle_priv_survey_judge(const struct surveying *s, struct pintle_finding *finding);

void pintle_priv_survey_i2c(const struct surveying *s);
void pintle_priv_survey_spi(const struct surveying *s);
void pintle_priv_survey_onewire(const struct surveying *s);

/* Once every bus has been asked: what an I2C sensor's absence is likely due to. */
void pintle_priv_survey_explain_i2c(const struct surveying *s, struct pintle_finding *missing);

#endif
