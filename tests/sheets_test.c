/* Every part of the catalogue, whatever it is: its computation stands any bytes, and what its sheet
 * says fits. */
#include "support.h"

#include "pintle/sheet.h"

/* Any bytes at all, with any trim at all: no trap, and every value is finite. Run under the
 * sanitizers this finds overflow and out-of-bounds. */
static void any_bytes(void)
{
    srand(5);
    for (size_t p = 0; p < pintle_sheet_count(); p++) {
        const struct pintle_part *part = pintle_sheet_at(p)->part;
        for (int i = 0; i < 20000; i++) {
            uint8_t *raw = g_malloc(part->raw_size);
            uint8_t *trim = g_malloc(part->trim_size + 1u);
            for (unsigned k = 0; k < part->raw_size; k++) {
                raw[k] = (uint8_t)(rand() % 8 ? rand() : 0xff * (rand() & 1));
            }
            for (unsigned k = 0; k < part->trim_size; k++) {
                trim[k] = (uint8_t)(rand() % 8 ? rand() : 0xff * (rand() & 1));
            }
            const struct pintle_block block = { raw, trim, NULL };
            uint8_t settings[PINTLE_SETTINGS_MAX] = { 0 };
            struct pintle_sample sample;
            memset(&sample, 0, sizeof sample);
            for (uint8_t k = 0; k < part->setting_count; k++) {
                settings[k] = (uint8_t)(rand() % part->settings[k].count);
            }
            pintle_part_decode(part, settings, &block, &sample);
            for (unsigned c = 0; c < part->channel_count; c++) {
                if (!isfinite(sample.channel[c].value)) {
                    EXPECT(0, "%s channel %u is not finite", part->name, c);
                }
            }
            g_free(raw);
            g_free(trim);
        }
        EXPECT(1, "%s", part->name);
    }
}

/* What a sheet says must fit the part that it explains. */
static void sheets_fit_their_parts(void)
{
    for (size_t p = 0; p < pintle_sheet_count(); p++) {
        const struct pintle_sheet *sheet = pintle_sheet_at(p);
        const struct pintle_part *part = sheet->part;
        unsigned data = 0;
        unsigned trim = 0;
        for (unsigned i = 0; i < sheet->data_count; i++) {
            data += sheet->data[i].bytes;
        }
        for (unsigned i = 0; i < sheet->trim_count; i++) {
            trim += sheet->trim[i].bytes;
        }
        EXPECT(data == part->raw_size, "%s: data %u", part->name, data);
        EXPECT(trim == part->trim_size, "%s: trim %u", part->name, trim);
        EXPECT(part->raw_size <= PINTLE_RAW_MAX, "%s: raw size", part->name);
        EXPECT(part->channel_count <= PINTLE_CHANNELS_MAX, "%s: channels", part->name);
        EXPECT(part->setting_count <= PINTLE_SETTINGS_MAX, "%s: settings", part->name);
        for (unsigned i = 0; i < part->address_count; i++) {
            EXPECT(sheet->straps[i].address == part->addresses[i], "%s: strap %u", part->name, i);
        }
        for (unsigned i = 0; i < part->setting_count; i++) {
            unsigned options = 0;
            while (sheet->settings[i].options[options]) {
                options++;
            }
            EXPECT(options == part->settings[i].count, "%s: options of %s", part->name,
                   sheet->settings[i].name);
            EXPECT(part->settings[i].initial < options, "%s: initial of %s", part->name,
                   sheet->settings[i].name);
        }
        EXPECT(pintle_sheet_find(part->name) == sheet, "%s: found by name", part->name);
    }
    CU_ASSERT_PTR_NULL(pintle_sheet_find("TMP"));
    CU_ASSERT_PTR_NULL(pintle_sheet_find(""));
    CU_ASSERT_PTR_NOT_NULL(pintle_sheet_find("tmp102"));
    CU_ASSERT_PTR_NULL(pintle_sheet_at(pintle_sheet_count()));
}

/* Fields lie inside their register and do not overlap; every value of a named field has a name. */
static void register_maps(void)
{
    for (size_t p = 0; p < pintle_sheet_count(); p++) {
        const struct pintle_sheet *sheet = pintle_sheet_at(p);
        for (unsigned r = 0; r < sheet->reg_count; r++) {
            const struct pintle_map_reg *reg = &sheet->regs[r];
            uint64_t taken = 0;
            for (unsigned f = 0; f < reg->field_count; f++) {
                const struct pintle_field *field = &reg->fields[f];
                uint64_t mask = (((uint64_t)1 << field->bits) - 1) << field->shift;
                unsigned names = 0;
                while (field->values && field->values[names]) {
                    names++;
                }
                EXPECT((taken & mask) == 0, "%s %s.%s overlaps", sheet->part->name, reg->name,
                       field->name);
                EXPECT(mask >> (8 * reg->reg.width) == 0, "%s %s.%s sticks out", sheet->part->name,
                       reg->name, field->name);
                EXPECT(!field->values || names <= 1u << field->bits, "%s %s.%s names",
                       sheet->part->name, reg->name, field->name);
                taken |= mask;
            }
        }
    }
}

void add_sheets_suite(void)
{
    SUITE("sheets", { "any bytes and any trim", any_bytes },
          { "sheets fit their parts", sheets_fit_their_parts }, { "register maps", register_maps });
}
