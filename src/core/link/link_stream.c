/* Serial lines: frames found among bytes. A register is what a frame begins with. */
#include "../engine/engine.h"

#define USUAL_BIT_NS 104167u /* 9600 baud */
#define ASK_EVERY_US 500u
#define HEAD 2

#define FRAME(name, sensor)                                                                        \
    PINTLE_TABLE_ROW(struct pintle_frame, name, pintle_table_pointer(&(sensor)->part->frame))

static uint32_t bytes_us(const struct pintle_stream *stream, uint8_t count)
{
    uint32_t bit_ns = stream->bit_ns ? stream->bit_ns : USUAL_BIT_NS;
    return (uint32_t)count * (bit_ns / 100 + 1); /* ten bits each, and a little */
}

static void drop(struct pintle_stream *stream, uint8_t count)
{
    stream->held = (uint8_t)(stream->held - count);
    memmove(stream->frame, stream->frame + count, stream->held);
}

/* Take what has come, as far as there is room for it. */
static enum pintle_status gather(struct pintle_stream *stream)
{
    uint16_t got = 0;
    uint16_t room = (uint16_t)(PINTLE_STREAM_FRAME - stream->held);
    enum pintle_status status = pintle_priv_said(stream->calls->receive(
        stream->common.context, stream->frame + stream->held, room, &got, 0));
    stream->held = (uint8_t)(stream->held + (status == PINTLE_OK ? got : 0));
    return status;
}

/* Behind a question the answer begins; without one somebody may be in the middle of a line, and the
 * next one begins behind its end. */
static enum pintle_status forget_all(struct pintle_stream *stream, uint8_t asks)
{
    enum pintle_status status = PINTLE_OK;
    do {
        stream->held = 0;
        status = gather(stream);
    } while (status == PINTLE_OK && stream->held == PINTLE_STREAM_FRAME);
    stream->held = 0;
    stream->begun = asks;
    return status;
}

/* How long the line is that they begin with, its end included; 0: it isn't whole. */
static uint8_t line_length(const struct pintle_stream *stream, uint8_t end)
{
    const uint8_t *at = memchr(stream->frame, end, stream->held);
    return at ? (uint8_t)(at - stream->frame + 1) : 0;
}

static uint8_t begins_so(const struct pintle_stream *stream, uint16_t reg)
{
    return reg == PINTLE_NO_REG
           || (stream->frame[0] == reg >> 8 && stream->frame[1] == (uint8_t)reg);
}

/* The frame that is wanted, at the front: its length; 0: not yet. */
static uint8_t find_line(struct pintle_stream *stream, uint8_t end, uint16_t reg)
{
    uint8_t length = 0;
    while ((length = line_length(stream, end)) > 0) {
        if (stream->begun && length > HEAD && begins_so(stream, reg)) {
            return length;
        }
        stream->begun = 1;
        drop(stream, length);
    }
    if (stream->held == PINTLE_STREAM_FRAME) { /* too long for a line */
        stream->held = stream->begun = 0;
    }
    return 0;
}

static uint8_t find_frame(struct pintle_stream *stream, uint8_t length, uint16_t reg)
{
    while (stream->held >= HEAD && !begins_so(stream, reg)) {
        drop(stream, 1);
    }
    return stream->held >= length ? length : 0;
}

/* What ends a line is no part of it. */
static void cut_end(uint8_t *bytes, uint8_t count, uint8_t length)
{
    if (length <= count) {
        bytes[length - 1] = 0;
    }
    if (length - 2 < count && bytes[length - 2] == '\r') {
        bytes[length - 2] = 0;
    }
}

/* It isn't whole yet. NO_ANSWER: nothing that is wanted has come in time. */
static enum pintle_status not_yet(struct pintle_sensor *sensor, uint16_t limit_ms)
{
    uint64_t at = pintle_priv_now(sensor->bus.any->clock);
    return pintle_priv_not_yet(sensor, at, limit_ms, ASK_EVERY_US) ? PINTLE_NOT_READY
                                                                   : PINTLE_NO_ANSWER;
}

static enum pintle_status receive(struct pintle_sensor *sensor, uint16_t reg, uint8_t *bytes,
                                  uint8_t count)
{
    struct pintle_stream *stream = sensor->bus.stream;
    FRAME(frame, sensor);
    enum pintle_status status = gather(stream);
    if (status != PINTLE_OK) {
        return status;
    }
    uint8_t length =
        frame->length ? find_frame(stream, frame->length, reg) : find_line(stream, frame->end, reg);
    if (length == 0) {
        return not_yet(sensor, frame->limit_ms);
    }
    sensor->since = 0;
    memset(bytes, 0, count);
    memcpy(bytes, stream->frame, length < count ? length : count);
    if (!frame->length) {
        cut_end(bytes, count, length);
    }
    drop(stream, length);
    return PINTLE_OK;
}

/* What came before belongs to something else. */
static enum pintle_status send(struct pintle_sensor *sensor, uint16_t reg, const uint8_t *bytes,
                               uint8_t count)
{
    struct pintle_stream *stream = sensor->bus.stream;
    uint8_t out[HEAD + PINTLE_SEND_MAX];
    uint8_t used = 0;
    if (count > PINTLE_SEND_MAX) {
        return PINTLE_BAD_ARGUMENT;
    }
    if (reg != PINTLE_NO_REG) {
        out[used++] = (uint8_t)(reg >> 8);
        out[used++] = (uint8_t)reg;
    }
    for (uint8_t i = 0; i < count; i++) {
        out[used++] = bytes[i];
    }
    enum pintle_status status = forget_all(stream, used > 0);
    return status == PINTLE_OK && used > 0 ? pintle_priv_said(stream->calls->send(
               stream->common.context, out, used, 10000 + 2 * bytes_us(stream, used)))
                                           : status;
}

static void forget(struct pintle_sensor *sensor)
{
    sensor->bus.stream->held = sensor->bus.stream->begun = 0;
}

const struct pintle_link pintle_link_stream PINTLE_TABLE = {
    .kind = PINTLE_BUS_STREAM, .send = send, .receive = receive, .forget = forget
};
