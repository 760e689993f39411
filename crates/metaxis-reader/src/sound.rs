//! Decoding one stream's sound from the first sample that a correct player presents to the last.

use crate::{
    input,
    times::{Frame, Times},
    wire::Wire,
};
use ffmpeg_next::{
    Error, Packet, codec, decoder, error, ffi,
    format::{
        Sample,
        context::Input,
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

/// What is decoded.
pub struct Wanted {
    /// Which of the sound streams.
    pub stream: usize,
    /// Channels, and samples a second, that it is to have.
    pub expected: (u16, u32),
    /// The sample that is to be the first, of those that a correct player presents.
    pub from: u64,
}

/// Files in which a sample is found again to a hair, by the beginnings of their formats' names.
const EXACT: [&str; 2] = ["mov,", "flac"];
/// Decoding begins so much before what is wanted: coders need a run-up, seconds.
const RUN_UP_S: f64 = 0.5;

/// Decodes a sound of `path` from a sample on. What is damaged on the way is said, so that what follows stays where it belongs.
///
/// # Errors
/// Why it cannot be done here: anything that ffmpeg would have to convert, a file that cannot be read on, or one in which no
/// sample can be found but by decoding all before it.
pub fn decode<W: Write>(path: &str, wanted: &Wanted, wire: &mut Wire<W>) -> Result<(), String> {
    let text = |e: Error| e.to_string();
    let Wanted { stream, expected, from } = *wanted;
    let mut input = input::open(path)?;
    let sounds = input.streams().filter(|stream| stream.parameters().medium() == Type::Audio);
    let (index, tick, parameters) = sounds
        .map(|stream| (stream.index(), f64::from(stream.time_base()), stream.parameters()))
        .nth(stream)
        .ok_or("it has no such sound stream")?;
    let context = codec::Context::from_parameters(parameters).map_err(text)?;
    let mut decoder = context.decoder().audio().map_err(text)?;
    // Without it, a decoder does not know the times of what it leaves out at the head.
    if let Some(own) = input.stream(index) {
        decoder.set_packet_time_base(own.time_base());
    }
    input::only(&mut input, index);
    let rate = f64::from(expected.1);
    let mut out = Samples {
        wire,
        expected,
        tick,
        times: Times::new(expected.1, tick),
        bytes: vec![],
        from: i64::try_from(from).map_err(|e| e.to_string())?,
        begins_s: None,
        place: 0,
    };
    if from > 0 {
        let is_exact = EXACT.iter().any(|name| input.format().name().starts_with(name));
        if !is_exact || tick * rate > 1.0 + 1e-9 {
            return Err("what comes before has to be decoded too".into());
        }
        let begins_s = first_s(&mut input, index, &mut decoder, tick)?;
        let to_s = (begins_s + from as f64 / rate - RUN_UP_S).max(begins_s);
        let to = (to_s * f64::from(ffi::AV_TIME_BASE)) as i64;
        input.seek(to, ..to).map_err(text)?;
        decoder.flush();
        out.begins_s = Some(begins_s);
    }
    each_packet(&mut input, index, |packet| {
        // A packet that cannot be decoded is lost; what follows is not.
        let _ = decoder.send_packet(packet);
        out.take(&mut decoder).map(|()| true)
    })?;
    let _ = decoder.send_eof();
    out.take(&mut decoder)
}

/// Hands on the packets of a stream as long as more are wanted.
fn each_packet(
    input: &mut Input,
    index: usize,
    mut hand: impl FnMut(&Packet) -> Result<bool, String>,
) -> Result<(), String> {
    let mut failures = 0;
    loop {
        // A fresh one each time: reading into one that holds something leaks that.
        let mut packet = Packet::empty();
        match packet.read(input) {
            Ok(()) if packet.stream() != index => {}
            Ok(()) if hand(&packet)? => {}
            Ok(()) | Err(Error::Eof) => return Ok(()),
            Err(_) if failures < MOST_FAILURES => failures += 1,
            Err(e) => return Err(e.to_string()),
        }
    }
}

/// When its first sample is, seconds of the file's own times.
fn first_s(input: &mut Input, index: usize, decoder: &mut decoder::Audio, tick: f64) -> Result<f64, String> {
    let mut first = None;
    let mut frame = Audio::empty();
    each_packet(input, index, |packet| {
        let _ = decoder.send_packet(packet);
        if decoder.receive_frame(&mut frame).is_ok() {
            first = frame.timestamp();
        }
        Ok(first.is_none())
    })?;
    first.map(|at| at as f64 * tick).ok_or_else(|| "nothing of it can be decoded".into())
}

/// Frames on their way out.
struct Samples<'a, W> {
    wire: &'a mut Wire<W>,
    expected: (u16, u32),
    /// Seconds of a step of the stream's times.
    tick: f64,
    times: Times,
    bytes: Vec<u8>,
    /// The first sample that is wanted.
    from: i64,
    /// When sample 0 is, until it is known where a beginning within the file lies.
    begins_s: Option<f64>,
    /// The next sample.
    place: i64,
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
        let at_s = frame.timestamp().map(|at| at as f64 * self.tick);
        if let Some(begins_s) = self.begins_s.take() {
            let at_s = at_s.ok_or("it does not say where it is")?;
            self.place = ((at_s - begins_s) * f64::from(self.expected.1)).round() as i64;
            if self.place > self.from {
                return Err("what is wanted was passed over".into());
            }
        }
        let (lost, before) = match self.times.take(at_s, frame.samples()) {
            Frame::After(lost) => (i64::try_from(lost).unwrap_or(i64::MAX - self.place), 0),
            Frame::Without(before) => (0, before),
        };
        // Of all this what lies before the first that is wanted is not sent.
        let unsent = |place: i64, count: i64| (self.from - place).clamp(0, count);
        let lost_sent = lost - unsent(self.place, lost);
        self.place += lost;
        let count = (frame.samples() - before) as i64;
        let head = before + unsent(self.place, count) as usize;
        self.place += count;
        if lost_sent > 0 {
            self.wire.lost(lost_sent as u64).map_err(|e| e.to_string())?;
        }
        if head == frame.samples() {
            return Ok(());
        }
        self.bytes.clear();
        interleave(frame, &mut self.bytes)?;
        let bytes = &self.bytes[head * 4 * usize::from(frame.channels())..];
        self.wire.say(bytes).map_err(|e: io::Error| e.to_string())
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
