//! Strikes in a picture: something moves fast and then stands still, as sticks do that close on each other.

/// A short run of small grey pictures.
#[derive(Debug, Clone, PartialEq)]
pub struct GreyFrames {
    /// Pixels a row.
    pub width: usize,
    /// Rows.
    pub height: usize,
    /// Presentation time of each frame, seconds of the clip's own time, rising.
    pub times_s: Vec<f64>,
    /// Frame after frame, row after row; as many whole frames as there are times.
    pub pixels: Vec<u8>,
}

/// A strike that was seen.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Strike {
    /// When, seconds of the clip's own time; between frames where the last movement was a short one.
    pub at_s: f64,
    /// Standard deviation, seconds.
    pub sigma_s: f64,
    /// How far it stands out from all other stops of the run, 0 to 1.
    pub score: f64,
}

/// Side of a block that moves or stands still as one, pixels.
const BLOCK: usize = 12;
/// What moved is to stand still for so long, seconds, and at least so many frames.
const STILL_S: f64 = 0.1;
const STILL_FRAMES: usize = 2;
/// A block moves from this mean difference of two frames on, grey levels over its own usual restlessness.
const MOVES: f32 = 1.5;
/// It stands still below this share of how it moved.
const STILL: f32 = 0.25;
/// Strikes this close to a better one are the same one, seconds.
const SAME_S: f64 = 0.12;
/// Less than this stands out of nothing, grey levels summed over blocks.
const LITTLE: f32 = 8.0;
/// Where more of the picture stops at once it was the camera that moved, or the light.
const WHOLE: f64 = 0.6;
/// A moment is known to so much of a frame.
const OF_A_FRAME: f64 = 0.25;

/// The strikes of a run, clearest first.
pub fn find_strikes(frames: &GreyFrames) -> Vec<Strike> {
    let moves = movement(frames);
    let times = &frames.times_s;
    let stops: Vec<Vec<f32>> = (0..moves.frames.len()).map(|last| moves.stops(last, times)).collect();
    let mut ranked: Vec<(usize, f32, f64)> =
        (0..stops.len()).filter_map(|last| moves.strike(last, &stops, times)).collect();
    ranked.sort_by(|a, b| b.1.total_cmp(&a.1));
    let mut found: Vec<(usize, f32, f64)> = vec![];
    for stop in ranked {
        if found.iter().all(|other| (times[other.0] - times[stop.0]).abs() >= SAME_S) {
            found.push(stop);
        }
    }
    let rival =
        |i: usize| found.get(usize::from(i == 0)).map_or(LITTLE, |(_, strength, _)| strength.max(LITTLE));
    found
        .iter()
        .enumerate()
        .map(|(i, &(last, strength, part))| {
            let (from, length) = (times[last - 1], times[last] - times[last - 1]);
            Strike {
                at_s: from + part * length,
                sigma_s: OF_A_FRAME * length,
                score: f64::from(1.0 - rival(i) / strength).max(0.0),
            }
        })
        .collect()
}

/// How much each block of a picture moves.
struct Movement {
    /// Blocks a row.
    across: usize,
    /// One a frame: block after block, row after row.
    frames: Vec<Vec<f32>>,
}

/// How much each block of each frame differs from the frame before it, over the block's usual restlessness.
fn movement(frames: &GreyFrames) -> Movement {
    let (width, height) = (frames.width, frames.height);
    let (across, down) = (width / BLOCK, height / BLOCK);
    let pictures: Vec<&[u8]> =
        frames.pixels.chunks_exact((width * height).max(1)).take(frames.times_s.len()).collect();
    let mut moves: Vec<Vec<f32>> = pictures.first().map(|_| vec![0.0; across * down]).into_iter().collect();
    for pair in pictures.windows(2) {
        let block = |index: usize| {
            let (left, top) = (index % across * BLOCK, index / across * BLOCK);
            let rows = (top..top + BLOCK).map(|row| row * width + left..row * width + left + BLOCK);
            let differences = rows
                .flat_map(|row| pair[0][row.clone()].iter().zip(&pair[1][row]).map(|(a, b)| a.abs_diff(*b)));
            differences.map(u32::from).sum::<u32>() as f32 / (BLOCK * BLOCK) as f32
        };
        moves.push((0..across * down).map(block).collect());
    }
    // Grain and compression flicker alike in every frame.
    for index in 0..across * down {
        let mut own: Vec<f32> = moves.iter().skip(1).map(|frame| frame[index]).collect();
        own.sort_by(f32::total_cmp);
        let usual = own.get(own.len() / 2).copied().unwrap_or(0.0);
        moves.iter_mut().for_each(|frame| frame[index] = (frame[index] - usual).max(0.0));
    }
    Movement { across: across.max(1), frames: moves }
}

impl Movement {
    /// The most that a block or one beside it moves in a frame: what leaves a block has not stopped.
    fn around(&self, frame: usize, block: usize) -> f32 {
        let (x, y) = (block % self.across, block / self.across);
        let near = |at: usize, most: usize| at.saturating_sub(1)..(at + 2).min(most);
        let rows = near(y, self.frames[frame].len() / self.across);
        let own = rows.flat_map(|row| near(x, self.across).map(move |column| row * self.across + column));
        own.map(|index| self.frames[frame][index]).fold(0.0, f32::max)
    }

    /// How much each block stops with frame `last`: it moved before, and stands still after, with all about it.
    fn stops(&self, last: usize, times: &[f64]) -> Vec<f32> {
        let after: Vec<usize> = (last + 1..self.frames.len())
            .enumerate()
            .take_while(|(i, frame)| *i < STILL_FRAMES || times[*frame] - times[last] <= STILL_S)
            .map(|(_, frame)| frame)
            .collect();
        let blocks = self.frames[last].len();
        if last < 2 || after.len() < STILL_FRAMES {
            return vec![0.0; blocks];
        }
        let stop = |block: usize| {
            // What moves for one frame only is a cut or a flash.
            let [before, earlier, own] = [2, 1, 0].map(|back| self.frames[last - back][block]);
            if earlier < MOVES || own.max(before) < MOVES {
                return 0.0;
            }
            let moved = earlier.max(own);
            let stays = after.iter().map(|&frame| self.around(frame, block)).fold(0.0_f32, f32::max);
            if stays < STILL * moved { moved - stays } else { 0.0 }
        };
        (0..blocks).map(stop).collect()
    }

    /// What stops with frame `last`: the frame, how much, and which part of the time since the frame before it still
    /// moved. What stops in the same block at other times too, as figures that count do, has no say.
    fn strike(&self, last: usize, stops: &[Vec<f32>], times: &[f64]) -> Option<(usize, f32, f64)> {
        let stopped = stops[last].iter().filter(|stop| **stop > 0.0).count();
        if stopped as f64 > WHOLE * stops[last].len() as f64 {
            return None;
        }
        let (mut strength, mut before_last, mut in_last) = (0.0, 0.0, 0.0);
        for (block, stop) in stops[last].iter().enumerate().filter(|(_, stop)| **stop > 0.0) {
            let elsewhere = (0..stops.len()).filter(|&other| (times[other] - times[last]).abs() >= SAME_S);
            let own = stop - elsewhere.map(|other| stops[other][block]).fold(0.0, f32::max);
            if own > 0.0 {
                strength += own;
                before_last += self.frames[last - 1][block];
                in_last += self.frames[last][block];
            }
        }
        (strength > 0.0).then(|| (last, strength, f64::from(in_last / before_last).clamp(0.0, 1.0)))
    }
}
