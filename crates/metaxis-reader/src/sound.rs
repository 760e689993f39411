//! Decoding one stream's sound from the first sample that a correct player presents to the last.

use crate::{
    input,
    times::{Frame, Times},
    wire::Wire,
};
use ffmpeg_next::{
    Error, Packet, codec, decoder, error,
    format::{
        Sample,
        sample::Type::{Packed, Planar},
    },
    frame::{self, Audio},
    media::Type,
};
use std::io::{self, Write};

/// Channels that a frame can be asked for one by one.
const MOST_PLANES: u16 = 8;
/// Failures to read on after which a file is given up.
const MOST_FAILURES: usize = 100;

/// Decodes sound stream number `stream` of `path`, which is to have so many channels and samples a second. What is damaged
/// on the way is said, so that what follows stays where it belongs.
///
/// # Errors
/// Why it cannot be done here: anything that ffmpeg would have to convert, or a file that cannot be read on.
pub fn decode<W: Write>(
    path: &str,
    stream: usize,
    expected: (u16, u32),
    wire: &mut Wire<W>,
) -> Result<(), String> {
    let text = |e: Error| e.to_string();
    let mut input = input::open(path)?;
    let sounds = input.streams().filter(|stream| stream.parameters().medium() == Type::Audio);
    let (index, tick, parameters) = sounds
        .map(|stream| (stream.index(), stream.time_base(), stream.parameters()))
        .nth(stream)
        .ok_or("it has no such sound stream")?;
    let context = codec::Context::from_parameters(parameters).map_err(text)?;
    let mut decoder = context.decoder().audio().map_err(text)?;
    // Without it, a decoder does not know the times of what it leaves out at the head.
    decoder.set_packet_time_base(tick);
    input::only(&mut input, index);
    let mut out = Samples {
        wire,
        expected,
        tick: f64::from(tick),
        times: Times::new(expected.1, f64::from(tick)),
        bytes: vec![],
    };
    let mut failures = 0;
    loop {
        // A fresh one each time: reading into one that holds something leaks that.
        let mut packet = Packet::empty();
        match packet.read(&mut input) {
            Ok(()) if packet.stream() == index => {
                // A packet that cannot be decoded is lost; what follows is not.
                let _ = decoder.send_packet(&packet);
                out.take(&mut decoder)?;
            }
            Ok(()) => {}
            Err(Error::Eof) => break,
            Err(_) if failures < MOST_FAILURES => failures += 1,
            Err(e) => return Err(e.to_string()),
        }
    }
    let _ = decoder.send_eof();
    out.take(&mut decoder)
}

/// Frames on their way out.
struct Samples<'a, W> {
    wire: &'a mut Wire<W>,
    expected: (u16, u32),
    /// Seconds of a step of the stream's times.
    tick: f64,
    times: Times,
    bytes: Vec<u8>,
}

impl<W: Write> Samples<'_, W> {
    fn take(&mut self, decoder: &mut decoder::Audio) -> Result<(), String> {
        let mut frame = Audio::empty();
        loop {
            match decoder.receive_frame(&mut frame) {
                Ok(()) => self.send(&frame)?,
                Err(Error::Eof | Error::Other { errno: error::EAGAIN }) => return Ok(()),
                Err(_) => {} // a damaged frame
            }
        }
    }

    fn send(&mut self, frame: &Audio) -> Result<(), String> {
        if (frame.channels(), frame.rate()) != self.expected {
            return Err("it changes its channels or its rate".into());
        }
        self.bytes.clear();
        interleave(frame, &mut self.bytes)?;
        let at_s = frame.timestamp().map(|at| at as f64 * self.tick);
        let said = match self.times.take(at_s, frame.samples()) {
            Frame::After(0) => self.wire.say(&self.bytes),
            Frame::After(lost) => self.wire.lost(lost).and_then(|()| self.wire.say(&self.bytes)),
            Frame::Without(before) => {
                self.wire.say(&self.bytes[before * 4 * usize::from(frame.channels())..])
            }
        };
        said.map_err(|e: io::Error| e.to_string())
    }
}

/// A frame's samples as interleaved 32-bit floats, full scale at 1.
fn interleave(frame: &Audio, out: &mut Vec<u8>) -> Result<(), String> {
    let eight = |value: u8| (f32::from(value) - 128.0) / 128.0;
    let sixteen = |value: i16| f32::from(value) / 32_768.0;
    let thirty_two = |value: i32| value as f32 / 2_147_483_648.0;
    if frame.channels() > MOST_PLANES && frame.format().is_planar() {
        return Err("it has many channels".into());
    }
    match frame.format() {
        Sample::U8(Packed) => packed(frame, out, |[byte]| eight(byte)),
        Sample::I16(Packed) => packed(frame, out, |bytes| sixteen(i16::from_ne_bytes(bytes))),
        Sample::I32(Packed) => packed(frame, out, |bytes| thirty_two(i32::from_ne_bytes(bytes))),
        Sample::F32(Packed) => packed(frame, out, f32::from_ne_bytes),
        Sample::F64(Packed) => packed(frame, out, |bytes| f64::from_ne_bytes(bytes) as f32),
        Sample::U8(Planar) => planar(frame, out, eight),
        Sample::I16(Planar) => planar(frame, out, sixteen),
        Sample::I32(Planar) => planar(frame, out, thirty_two),
        Sample::F32(Planar) => planar(frame, out, |value: f32| value),
        Sample::F64(Planar) => planar(frame, out, |value: f64| value as f32),
        _ => return Err("its samples are of a rare kind".into()),
    }
    Ok(())
}

fn packed<const SIZE: usize>(frame: &Audio, out: &mut Vec<u8>, value: impl Fn([u8; SIZE]) -> f32) {
    let bytes = &frame.data(0)[..frame.samples() * usize::from(frame.channels()) * SIZE];
    out.extend(bytes.as_chunks().0.iter().flat_map(|bytes| value(*bytes).to_le_bytes()));
}

fn planar<T: frame::audio::Sample + Copy>(frame: &Audio, out: &mut Vec<u8>, value: impl Fn(T) -> f32) {
    let planes: Vec<&[T]> = (0..usize::from(frame.channels())).map(|channel| frame.plane(channel)).collect();
    if let [only] = planes[..] {
        out.extend(only.iter().flat_map(|sample| value(*sample).to_le_bytes()));
        return;
    }
    for i in 0..frame.samples() {
        for plane in &planes {
            out.extend_from_slice(&value(plane[i]).to_le_bytes());
        }
    }
}
