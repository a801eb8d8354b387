/* Parts against their simulated chips, which are written from the datasheets by themselves and say
 * what their registers and choices are. All of it goes through the catalogue: a part without a
 * twin, or with a register or an option that its twin doesn't know, fails. */
#include "support.h"

#include "pintle/sheet.h"

static bool is_good(const struct pintle_reading *reading)
{
    return !(reading->quality & PINTLE_QUALITY_SUSPECT & (pintle_marks)~PINTLE_QUALITY_FIRST);
}

/* Is every channel that the world knows as true as the data sheet promises, and good? */
static void expect_truth(const struct pintle_sheet *sheet, const struct bench *bench,
                         const struct pintle_sample *sample, const char *when, unsigned seed)
{
    for (uint8_t c = 0; c < sheet->part->channel_count; c++) {
        const struct pintle_channel *channel = &sheet->part->channels[c];
        const struct pintle_reading *reading = &sample->channel[c];
        double truth = pintle_sim_truth(bench->chip, channel->name);
        double off = fabs((double)reading->value - truth);
        EXPECT(isnan(truth) || off <= (double)sheet->channels[c].accuracy_wide,
               "%s, %s, seed %u: %s is off by %g", sheet->part->name, when, seed, channel->name,
               off);
        EXPECT(isnan(truth) || is_good(reading), "%s, %s, seed %u: %s is marked %02x",
               sheet->part->name, when, seed, channel->name, reading->quality);
    }
}

static void make(struct bench *bench, const struct pintle_sheet *sheet, unsigned seed)
{
    bench_make_seeded(bench, sheet->part, bench_place(sheet->part), seed);
    pintle_sim_pass(&bench->sim, 500000);
    srand(seed);
}

/* Whatever somebody's program has left in its registers, a chip tells the truth to a new sensor. */
static void scrambled(void)
{
    for (size_t p = 0; p < measuring_count(); p++) {
        const struct pintle_sheet *sheet = measuring_at(p);
        for (unsigned seed = 1; seed <= 200; seed++) {
            struct bench bench;
            struct pintle_sample sample;
            make(&bench, sheet, seed);
            pintle_sim_scramble(bench.chip);
            pintle_sim_pass(&bench.sim, 20000 + (uint64_t)rand() % 3000000);
            enum pintle_status status = pintle_sample_read(&bench.sensor, &sample);
            EXPECT(status == PINTLE_OK, "%s, seed %u: %s", sheet->part->name, seed,
                   pintle_status_word(status));
            expect_truth(sheet, &bench, &sample, "scrambled", seed);
        }
    }
}

/* Bits that nothing but the loss of its supply can undo, as locks are: it is read all the same. */
static void locked(void)
{
    unsigned tried = 0;
    for (size_t p = 0; p < measuring_count(); p++) {
        const struct pintle_sheet *sheet = measuring_at(p);
        struct bench bench;
        make(&bench, sheet, 11);
        const struct pintle_sim_map *map = bench.chip->model->map;
        for (const struct pintle_sim_register *r = map ? map->registers : NULL; r && r->access;
             r++) {
            struct pintle_sample sample;
            if (!r->ends || r->width == 0) {
                continue;
            }
            make(&bench, sheet, 11);
            pintle_sim_poke(bench.chip, r->address, r->width, r->at_power_up | r->ends);
            enum pintle_status status = pintle_sample_read(&bench.sensor, &sample);
            EXPECT(status == PINTLE_OK, "%s, locked at %x: %s", sheet->part->name, r->address,
                   pintle_status_word(status));
            expect_truth(sheet, &bench, &sample, "locked", 11);
            tried++;
        }
    }
    EXPECT(tried > 0, "%u locks", tried);
}

/* --- register maps --- */

static const struct pintle_sim_register *find(const struct pintle_sim_chip *chip, uint16_t address)
{
    const struct pintle_sim_map *map = chip->model->map;
    for (const struct pintle_sim_register *r = map ? map->registers : NULL; r && r->access; r++) {
        if (r->address == address) {
            return r;
        }
    }
    return NULL;
}

static uint32_t all_of(uint8_t width)
{
    return width < 4 ? (1u << 8 * width) - 1 : UINT32_MAX;
}

static uint32_t mask_of(const struct pintle_field *field)
{
    return all_of(4) >> (32 - field->bits) << field->shift;
}

/* The bits that the map gives names to; all, where it gives none. */
static uint32_t named(const struct pintle_map_reg *reg)
{
    uint32_t bits = reg->field_count ? 0 : all_of(reg->reg.width);
    for (unsigned i = 0; i < reg->field_count; i++) {
        EXPECT(!(bits & mask_of(&reg->fields[i])), "%s.%s overlaps", reg->name,
               reg->fields[i].name);
        bits |= mask_of(&reg->fields[i]);
    }
    return bits;
}

static uint8_t access_of(const struct pintle_map_reg *reg)
{
    uint8_t flags = reg->reg.flags;
    return (uint8_t)((flags & PINTLE_REG_WRITE_ONLY ? 0 : PINTLE_SIM_READS)
                     | (flags & PINTLE_REG_READ_ONLY ? 0 : PINTLE_SIM_WRITES)
                     | (flags & PINTLE_REG_READ_CLEARS ? PINTLE_SIM_CLEARS : 0));
}

static void compare(const char *part, const struct pintle_map_reg *reg,
                    const struct pintle_sim_register *twin)
{
    uint8_t access = PINTLE_SIM_READS | PINTLE_SIM_WRITES;
    EXPECT(reg->reg.width == twin->width, "%s.%s: width", part, reg->name);
    EXPECT((access_of(reg) & access) == (twin->access & access), "%s.%s: access", part, reg->name);
    if (reg->reg.flags & PINTLE_REG_READ_CLEARS) {
        EXPECT(twin->access & PINTLE_SIM_CLEARS, "%s.%s: does reading clear it?", part, reg->name);
    }
    EXPECT((twin->access & PINTLE_SIM_LIVE) || reg->at_power_on == twin->at_power_up,
           "%s.%s: at power-on", part, reg->name);
    if (twin->width > 0 && (twin->access & access) == access) {
        uint32_t acts = reg->reg.ones | reg->reg.zeros;
        uint32_t writable = named(reg) & ~reg->reg.fixed;
        EXPECT(!(twin->keeps & reg->reg.fixed), "%s.%s: fixed bits can be written", part,
               reg->name);
        EXPECT((twin->keeps & ~writable) == 0, "%s.%s: bits %x are not in the map", part, reg->name,
               twin->keeps & ~writable);
        EXPECT((writable & ~twin->keeps & ~acts) == 0, "%s.%s: bits %x don't stay", part, reg->name,
               writable & ~twin->keeps & ~acts);
    }
}

/* One field through the driver's calls: it changes in the chip, and its neighbours stay. */
static void try_field(const struct pintle_sheet *sheet, const struct pintle_map_reg *reg,
                      const struct pintle_field *field, uint32_t value)
{
    struct bench bench;
    make(&bench, sheet, 5);
    const struct pintle_sim_register *twin = find(bench.chip, reg->reg.address);
    uint32_t mask = mask_of(field);
    uint32_t before = pintle_sim_peek(bench.chip, twin->address, twin->width);
    enum pintle_status status =
        pintle_reg_write_field(&bench.sensor, &reg->reg, field->shift, field->bits, value);
    uint32_t after = pintle_sim_peek(bench.chip, twin->address, twin->width);
    if (mask & reg->reg.fixed) {
        EXPECT(status == PINTLE_READ_ONLY, "%s.%s.%s: %s", sheet->part->name, reg->name,
               field->name, pintle_status_word(status));
        return;
    }
    EXPECT(status == PINTLE_OK, "%s.%s.%s: %s", sheet->part->name, reg->name, field->name,
           pintle_status_word(status));
    EXPECT((mask & ~twin->keeps) || (after & mask) >> field->shift == value,
           "%s.%s.%s: %x in the chip, not %x", sheet->part->name, reg->name, field->name, after,
           value);
    EXPECT(!((before ^ after) & twin->keeps & ~mask), "%s.%s.%s: its neighbours: %x, then %x",
           sheet->part->name, reg->name, field->name, before, after);
}

static void try_fields(const struct pintle_sheet *sheet, const struct pintle_map_reg *reg,
                       const struct pintle_sim_register *twin)
{
    for (unsigned i = 0; i < reg->field_count; i++) {
        const struct pintle_field *field = &reg->fields[i];
        uint32_t top = mask_of(field) >> field->shift;
        unsigned values = 0;
        while (field->values && field->values[values]) {
            values++;
        }
        EXPECT(!field->values || values <= top + 1, "%s.%s.%s: %u values", sheet->part->name,
               reg->name, field->name, values);
        if (!(mask_of(field) & (twin->ends | reg->reg.ones | reg->reg.zeros))) {
            try_field(sheet, reg, field, top);
            try_field(sheet, reg, field, top / 2);
        }
    }
}

/* A whole register through the driver's calls, both ways; bits that do something stay 0. */
static void try_register(const struct pintle_sheet *sheet, const struct pintle_map_reg *reg,
                         const struct pintle_sim_register *twin)
{
    for (unsigned k = 0; k < 8; k++) {
        struct bench bench;
        uint32_t got = 0;
        make(&bench, sheet, 70 + k);
        uint32_t value = (uint32_t)rand() & all_of(twin->width) & ~reg->reg.zeros & ~twin->ends;
        CU_ASSERT_EQUAL(pintle_reg_write(&bench.sensor, &reg->reg, value), PINTLE_OK);
        uint32_t holds = pintle_sim_peek(bench.chip, twin->address, twin->width);
        EXPECT(((value ^ holds) & twin->keeps) == 0, "%s.%s: wrote %x, it holds %x",
               sheet->part->name, reg->name, value, holds);
        CU_ASSERT_EQUAL(pintle_reg_read(&bench.sensor, &reg->reg, &got), PINTLE_OK);
        EXPECT(((got ^ holds) & (twin->keeps | reg->reg.fixed)) == 0, "%s.%s: holds %x, read %x",
               sheet->part->name, reg->name, holds, got);
    }
}

static void register_maps(void)
{
    for (size_t p = 0; p < pintle_sheet_count(); p++) {
        const struct pintle_sheet *sheet = pintle_sheet_at(p);
        struct bench bench;
        bench_make_seeded(&bench, sheet->part, bench_place(sheet->part), 5);
        pintle_sim_draw(bench.chip, 5);
        pintle_sim_pass(&bench.sim, 2000); /* it has started up, and not measured yet */
        const struct pintle_sim_map *map = bench.chip->model->map;
        EXPECT(!sheet->reg_count == !(map && map->registers->access), "%s: one has registers",
               sheet->part->name);
        for (unsigned i = 0; i < sheet->reg_count; i++) {
            const struct pintle_map_reg *reg = &sheet->regs[i];
            const struct pintle_sim_register *twin = find(bench.chip, reg->reg.address);
            if (!twin) {
                EXPECT(0, "%s.%s: its chip has nothing at %x", sheet->part->name, reg->name,
                       reg->reg.address);
                continue;
            }
            bool both = !(reg->reg.flags & (PINTLE_REG_READ_ONLY | PINTLE_REG_WRITE_ONLY));
            compare(sheet->part->name, reg, twin);
            if (twin->width > 0 && twin->access & PINTLE_SIM_READS
                && !(twin->access & PINTLE_SIM_LIVE)) {
                uint32_t holds = pintle_sim_peek(bench.chip, twin->address, twin->width);
                EXPECT(holds == twin->at_power_up, "%s.%s: its chip comes up with %x",
                       sheet->part->name, reg->name, holds);
            }
            if (both && twin->width > 0) {
                try_register(sheet, reg, twin);
                try_fields(sheet, reg, twin);
            }
        }
    }
}

/* --- settings --- */

static const struct pintle_sim_choice *choice_of(const struct pintle_sim_chip *chip,
                                                 const char *setting, const char *option)
{
    const struct pintle_sim_map *map = chip->model->map;
    for (const struct pintle_sim_choice *c = map ? map->choices : NULL; c && c->setting; c++) {
        if (strcmp(c->setting, setting) == 0 && strcmp(c->option, option) == 0) {
            return c;
        }
    }
    return NULL;
}

/* Every setting's field in the chip holds what the datasheet says of the option that was chosen. */
static void expect_choices(const struct pintle_sheet *sheet, const struct bench *bench)
{
    struct pintle_sim_chip *chip = bench->chip;
    for (uint8_t s = 0; s < sheet->part->setting_count; s++) {
        const struct pintle_setting_text *text = &sheet->settings[s];
        const char *option = text->options[pintle_sensor_block(&bench->sensor).settings[s]];
        const struct pintle_sim_choice *c = choice_of(chip, text->name, option);
        if (!c) {
            EXPECT(0, "%s: its chip knows no %s=%s", sheet->part->name, text->name, option);
            continue;
        }
        const struct pintle_sim_register *r = find(chip, c->address);
        uint32_t holds = chip->model->map->chosen
                             ? chip->model->map->chosen(chip)
                             : pintle_sim_peek(chip, c->address, r ? r->width : 1);
        EXPECT((holds & c->mask) == c->code, "%s, %s=%s: %x, not %x of %x", sheet->part->name,
               text->name, option, holds & c->mask, c->code, c->mask);
    }
}

/* How long the traffic of a reading may take on top of what the chip needs. */
static uint32_t traffic_us(const struct bench *bench)
{
    return bench->chip->model->kind >= PINTLE_SIM_ONEWIRE ? 100000 : 15000;
}

static uint64_t timed_read(struct bench *bench, const struct pintle_sheet *sheet, const char *when,
                           unsigned seed)
{
    struct pintle_sample sample;
    uint64_t begun = bench->sim.now_us;
    enum pintle_status status = pintle_sample_read(&bench->sensor, &sample);
    EXPECT(status == PINTLE_OK, "%s, %s: %s", sheet->part->name, when, pintle_status_word(status));
    expect_truth(sheet, bench, &sample, when, seed);
    return bench->sim.now_us - begun;
}

/* How many results a measurement fetches. */
static unsigned results(const struct pintle_part *part)
{
    unsigned reads = 0;
    for (const struct pintle_step *step = part->measure; step->op != PINTLE_OP_END; step++) {
        reads += step->op == PINTLE_OP_READ;
    }
    return reads;
}

/* A chip as slow as the datasheet allows, left in any state: its first reading is true, and comes
 * no later than it must; so is the next one, after the world has changed. */
static void try_option(const struct pintle_sheet *sheet, uint8_t setting, uint8_t option)
{
    struct bench bench;
    make(&bench, sheet, 90u + option);
    const struct pintle_sim_model *model = bench.chip->model;
    char *when = g_strdup_printf("%s=%s", sheet->settings[setting].name,
                                 sheet->settings[setting].options[option]);
    bool smooth = strcmp(sheet->settings[setting].name, "filter") == 0 && option > 0;
    bench.chip->slowness = 1;
    bench.chip->rom.parasite = strcmp(when, "power=parasite") == 0;
    pintle_sim_scramble(bench.chip);
    pintle_sim_pass(&bench.sim, 3000000);
    CU_ASSERT_EQUAL(pintle_sensor_set(&bench.sensor, setting, option), PINTLE_OK);
    uint64_t first = timed_read(&bench, sheet, when, option);
    expect_choices(sheet, &bench);
    uint64_t longest = model->longest_us(bench.chip);
    uint64_t settles = model->settles_us(bench.chip);
    EXPECT(first >= longest && first <= settles + longest + traffic_us(&bench),
           "%s, %s: the first reading took %u us", sheet->part->name, when, (unsigned)first);
    for (int i = 0; i < PINTLE_SIM_INPUTS && model->inputs[i] && !smooth; i++) {
        bench.chip->feels[i].level *= 1.04;
    }
    pintle_sim_pass(&bench.sim, settles);
    uint64_t next = timed_read(&bench, sheet, when, option);
    uint64_t traffic = traffic_us(&bench) * results(sheet->part) / 2;
    EXPECT(next <= longest + traffic, "%s, %s: the next reading took %u us", sheet->part->name,
           when, (unsigned)next);
    g_free(when);
}

static void every_option(void)
{
    for (size_t p = 0; p < pintle_sheet_count(); p++) {
        const struct pintle_sheet *sheet = pintle_sheet_at(p);
        for (uint8_t s = 0; s < sheet->part->setting_count; s++) {
            for (uint8_t o = 0; o < sheet->part->settings[s].count; o++) {
                try_option(sheet, s, o);
            }
        }
    }
}

void add_twins_suite(void)
{
    SUITE("twins", { "scrambled chips", scrambled }, { "locked chips", locked },
          { "register maps", register_maps }, { "every option of every setting", every_option });
}
