//! The pictures of a clip, one by one: each the one that is on screen at a moment.

use super::{pixels::Pixels, place::Place};
use crate::{MediaError, Stop, Tool, picture::as_coded, times::packet_times, tool::Pulled};
use metaxis_core::{
    clip::{ColourFacts, PictureFacts},
    time::Tick,
};
use std::{
    path::{Path, PathBuf},
    sync::{
        Arc,
        mpsc::{Receiver, Sender, SyncSender, channel, sync_channel},
    },
    thread::JoinHandle,
};

/// So many pictures are decoded ahead.
const AHEAD: usize = 4;
/// What is no further ahead is decoded on to; what is further is gone to, seconds.
const NEAR_S: f64 = 2.0;

/// When each frame of a clip begins, seconds after its first, where that is not by its number.
#[derive(Debug, Clone)]
pub struct FrameTimes(Option<Arc<[f64]>>);

impl FrameTimes {
    /// Of the clip at `path`. Where its frames come as they please, all of the file is looked through: once is enough.
    ///
    /// # Errors
    /// [`MediaError`] naming the file.
    pub fn of(path: &Path, facts: &PictureFacts, stop: &Stop) -> Result<Self, MediaError> {
        if facts.still || (facts.constant_rate && !leaves_out(facts)) {
            return Ok(Self(None));
        }
        let times = packet_times(Tool::ffprobe(path), path, stop)?;
        let first = times.first().copied().unwrap_or(0.0);
        Ok(Self(Some(times.into_iter().map(|own| own - first).collect())))
    }
}

/// Whether fewer frames, or more, are there than its length has: a camera left some out.
fn leaves_out(facts: &PictureFacts) -> bool {
    facts.frames.is_some_and(|frames| (facts.duration_s * facts.rate.as_f64() - frames as f64).abs() > 0.6)
}

/// A clip's pictures at a size, read one after the other.
pub struct Pictures {
    path: PathBuf,
    facts: PictureFacts,
    pixels: Pixels,
    filter: String,
    /// Where the viewing LUT lies that they are seen through.
    beside: Option<PathBuf>,
    stop: Stop,
    times: FrameTimes,
    running: Option<Running>,
    /// The two that were read last, the later first: blended pictures go back by one.
    read: [Option<(usize, Vec<u8>)>; 2],
    /// Pictures that were asked for and are not in the file.
    lost: usize,
}

/// A decoder under way.
struct Running {
    coming: Receiver<Result<Vec<u8>, MediaError>>,
    back: Sender<Vec<u8>>,
    /// The number of the next that comes.
    next: usize,
    /// The number behind the last that it was told to decode, where it was told.
    end: Option<usize>,
    /// Whether any came.
    came: bool,
    ender: Stop,
    thread: Option<JoinHandle<()>>,
}

impl Drop for Running {
    fn drop(&mut self) {
        self.ender.stop();
        // Whoever waits to send is let go.
        while self.coming.try_recv().is_ok() {}
        let (_, nothing) = channel();
        self.coming = nothing;
        if let Some(thread) = self.thread.take() {
            let _ = thread.join();
        }
    }
}

impl Pictures {
    /// Of the clip at `path`, made to fit into `pixels` at their own ratio, with black beside them; seen through a viewing LUT, a file
    /// in the cube form with a plain name in a folder of its own, where one is given.
    pub fn open(
        path: &Path,
        facts: &PictureFacts,
        times: &FrameTimes,
        pixels: Pixels,
        through: Option<&Path>,
        stop: &Stop,
    ) -> Self {
        let Pixels { width, height, .. } = pixels;
        let colours = colours(&facts.colour);
        let lut = through.and_then(|own| Some((own.parent()?, own.file_name()?.to_str()?)));
        let seen = lut.map_or_else(String::new, |(_, name)| through_lut(name));
        let filter = format!(
            "scale=w={width}:h={height}:force_original_aspect_ratio=decrease:force_divisible_by=2:flags=bicubic:out_range=tv{colours}{seen},\
             pad={width}:{height}:(ow-iw)/2:(oh-ih)/2,format={}",
            pixels.name()
        );
        Self {
            // Where it is read from is not where this program is.
            path: std::path::absolute(path).unwrap_or_else(|_| path.to_owned()),
            facts: facts.clone(),
            pixels,
            filter,
            beside: lut.map(|(folder, _)| folder.to_owned()),
            stop: stop.clone(),
            times: times.clone(),
            running: None,
            read: [None, None],
            lost: 0,
        }
    }

    /// How many pictures were asked for since this was asked that are not in the file: the one before stood for them.
    pub fn take_lost(&mut self) -> usize {
        std::mem::take(&mut self.lost)
    }

    /// The number of the frame that is on screen at a moment, seconds after the first began.
    fn number(&self, at_s: f64) -> usize {
        if self.facts.still {
            return 0;
        }
        match &self.times.0 {
            Some(times) => times.partition_point(|own| *own <= at_s + 1e-6).saturating_sub(1),
            None => {
                let number = Tick::from_seconds(at_s).frame(self.facts.rate);
                // Behind its end the last one stands.
                let all = self.facts.duration_s * self.facts.rate.as_f64();
                let last = self.facts.frames.unwrap_or(all.round() as i64) - 1;
                usize::try_from(number.min(last)).unwrap_or(0)
            }
        }
    }

    /// The picture that is on screen at a moment, seconds after the first began; `None` where there is none at all.
    ///
    /// # Errors
    /// [`MediaError`] naming the file.
    pub fn at(&mut self, at_s: f64) -> Result<Option<&[u8]>, MediaError> {
        let number = self.number(at_s);
        let is_it = |own: &Option<(usize, Vec<u8>)>| own.as_ref().is_some_and(|(own, _)| *own == number);
        let found = self.read.iter().position(is_it);
        let found = match found {
            Some(found) => found,
            None => {
                self.go_to(number)?;
                0
            }
        };
        Ok(self.read[found].as_ref().map(|(_, bytes)| bytes.as_slice()))
    }

    /// Begins to decode with the picture of a moment, so that it is there when it is asked for, and no further than that of `last_s`: what
    /// nobody will see takes as long as what is seen. More can be asked for all the same.
    ///
    /// # Errors
    /// [`MediaError::Tool`] where there is no ffmpeg.
    pub fn begin_at(&mut self, at_s: f64, last_s: f64) -> Result<(), MediaError> {
        let (first, last) = (self.number(at_s), self.number(last_s));
        self.running = Some(self.begin(first, (last >= first).then_some(last + 1))?);
        Ok(())
    }

    /// Reads on until the picture of that number is the last that was read.
    fn go_to(&mut self, number: usize) -> Result<(), MediaError> {
        let near = (NEAR_S * self.facts.rate.as_f64()).ceil() as usize;
        let goes_on = self.running.as_ref().is_some_and(|own| (own.next..=own.next + near).contains(&number));
        if !goes_on {
            self.running = None;
            self.running = Some(self.begin(number, None)?);
        }
        while let Some(running) = self.running.as_mut().filter(|own| own.next <= number) {
            match running.coming.recv() {
                Ok(Ok(bytes)) => {
                    let [last, before] = &mut self.read;
                    if let Some((_, own)) = before.take() {
                        let _ = running.back.send(own);
                    }
                    *before = last.take();
                    *last = Some((running.next, bytes));
                    running.next += 1;
                    running.came = true;
                }
                Ok(Err(e)) => return Err(e),
                // It was told to decode no more.
                Err(_) if running.end == Some(running.next) => {
                    let next = running.next;
                    self.running = None;
                    self.running = Some(self.begin(next, None)?);
                }
                // Nobody can go there: perhaps to what is before it.
                Err(_) if !running.came && running.next > 0 => {
                    let earlier = running.next.saturating_sub(near);
                    self.running = None;
                    self.running = Some(self.begin(earlier, None)?);
                }
                // It ends before: what was there last stands, under the number that was asked for.
                Err(_) => {
                    self.lost += 1;
                    if let [Some((own, _)), _] = &mut self.read {
                        *own = number;
                    }
                    running.next = number + 1;
                }
            }
        }
        Ok(())
    }

    /// Starts decoding with the picture of that number, up to that of `end` where there is an end.
    fn begin(&self, number: usize, end: Option<usize>) -> Result<Running, MediaError> {
        let mut tool = Tool::ffmpeg(&self.path).args(["-threads", "2"]);
        if let Some(folder) = &self.beside {
            tool = tool.beside(folder);
        }
        let mut filter = self.filter.clone();
        if let Some(place) = self.place(number) {
            tool = tool.args(place.gone_to(Some(self.facts.start_s)));
            filter = format!("{},{filter}", place.filter());
        }
        tool = tool.args(["-i"]).file(&self.path);
        if let Some(end) = end {
            tool = tool.args(["-frames:v", &(end - number).to_string()]);
        }
        let pulled = tool
            .args(["-map", "0:V:0", "-an", "-sn", "-dn", "-fps_mode", "passthrough", "-vf", &filter])
            // A picture in one piece, not in many small ones.
            .args(["-avioflags", "direct", "-f", "rawvideo", "pipe:1"])
            .pull(&self.stop)?;
        let ender = pulled.ender();
        let (full, coming) = sync_channel(AHEAD);
        let (back, empty) = channel();
        let bytes = self.pixels.bytes();
        let thread = std::thread::spawn(move || read_on(pulled, bytes, &full, &empty));
        Ok(Running { coming, back, next: number, end, came: false, ender, thread: Some(thread) })
    }

    /// Where the picture of a number is; `None` of the first.
    fn place(&self, number: usize) -> Option<Place> {
        let Some(times) = &self.times.0 else {
            return Place::of_number(i64::try_from(number).unwrap_or(0), self.facts.rate);
        };
        let begins = |number: usize| times.get(number).copied();
        let own_s = begins(number).unwrap_or(0.0);
        let after_s = begins(number + 1).unwrap_or(own_s + 1.0 / self.facts.rate.as_f64());
        Some(Place { before_s: begins(number.checked_sub(1)?).unwrap_or(0.0), own_s, after_s })
    }
}

/// What the scaler does with colours: those of screens become those of ITU-R BT.709, others stay as they were recorded, as in light
/// copies. Of a file that does not say, nothing is supposed.
fn colours(colour: &ColourFacts) -> String {
    let as_coded = as_coded(colour);
    if !as_coded.is_empty() {
        return as_coded;
    }
    match colour.matrix.as_deref() {
        Some("smpte170m" | "bt470bg") => ":in_color_matrix=bt601:out_color_matrix=bt709".into(),
        Some("gbr" | "rgb") => ":out_color_matrix=bt709".into(),
        _ => String::new(),
    }
}

/// Through a LUT, as the page draws it: from the codes of a screen's red, green and blue to others.
fn through_lut(name: &str) -> String {
    format!(
        ",scale=in_color_matrix=bt709:in_range=tv,format=gbrp10le,lut3d=file={name}:interp=tetrahedral,\
         scale=out_color_matrix=bt709:out_range=tv"
    )
}

/// Reads pictures until there are no more, or nobody wants them.
fn read_on(
    mut pulled: Pulled,
    bytes: usize,
    full: &SyncSender<Result<Vec<u8>, MediaError>>,
    empty: &Receiver<Vec<u8>>,
) {
    loop {
        let mut own = empty.try_recv().unwrap_or_default();
        own.resize(bytes, 0);
        let next = match pulled.fill(&mut own) {
            Ok(true) => Ok(own),
            Ok(false) => return,
            Err(e) => Err(e),
        };
        let is_last = next.is_err();
        if full.send(next).is_err() || is_last {
            return;
        }
    }
}
