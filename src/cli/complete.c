/* Bytes that people leave out of what they give `convert`. */
#include <string.h>

#include "cli/cli.h"

/* What is read once more, as if it had come the same. */
static void repeat_end(const struct pintle_sheet *sheet, GByteArray *raw)
{
    guint8 end[PINTLE_MOST_RAW];
    if (sheet->repeats && raw->len + sheet->repeats == sheet->part->raw_size) {
        memcpy(end, raw->data + raw->len - sheet->repeats, sheet->repeats);
        g_byte_array_append(raw, end, sheet->repeats);
    }
}

/* A byte in front that has one value when all is well. */
static void put_front(const struct pintle_sheet *sheet, GByteArray *raw)
{
    if (sheet->usual_first && raw->len + 1u == sheet->part->raw_size) {
        g_byte_array_prepend(raw, &sheet->usual_first, 1);
    }
}

static void fill(GByteArray *raw, guint8 byte, unsigned size)
{
    while (raw->len < size) {
        g_byte_array_append(raw, &byte, 1);
    }
}

static unsigned end_of(const struct pintle_channel *channel)
{
    return channel->linear ? channel->at + channel->linear->bytes : 0u;
}

static bool is_checked(const struct pintle_part *part)
{
    const struct pintle_step *step = part->measure;
    while (step->op != PINTLE_OP_END && step->op != PINTLE_OP_CHECK) {
        step++;
    }
    return step->op == PINTLE_OP_CHECK;
}

/* Where each channel is for itself, those at the end may be missing, unless a checksum would be
 * missing with them. */
static bool ends_with_a_channel(const struct pintle_part *part, unsigned length)
{
    bool ends = false;
    for (unsigned c = 0; c < part->channel_count; c++) {
        ends = ends || end_of(&part->channels[c]) == length;
    }
    return ends && !part->decode && !is_checked(part) && length < part->raw_size;
}

void cli_complete(const struct pintle_sheet *sheet, struct cli_block *block)
{
    const struct pintle_part *part = sheet->part;
    repeat_end(sheet, block->raw);
    put_front(sheet, block->raw);
    block->given = block->raw->len;
    block->idle = 0;
    if (part->frame && part->integer) { /* a line of text ends where it ends */
        fill(block->raw, 0, part->raw_size);
        block->given = part->raw_size;
    } else if (ends_with_a_channel(part, block->given)) {
        for (unsigned c = 0; c < part->channel_count; c++) {
            const struct pintle_channel *channel = &part->channels[c];
            block->idle |= end_of(channel) > block->given ? channel->input : 0;
        }
        fill(block->raw, block->raw->data[0], part->raw_size);
    }
}

void cli_leave_out(const struct pintle_part *part, const struct cli_block *block,
                   struct pintle_sample *sample)
{
    for (unsigned c = 0; c < part->channel_count; c++) {
        if (end_of(&part->channels[c]) > block->given) {
            sample->channel[c] = (struct pintle_reading){ .quality = PINTLE_QUALITY_IDLE };
        }
    }
}
