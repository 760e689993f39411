//! Decoding a clip's sound: which streams, in which order, as one run of ffmpeg.

use crate::Tool;
use metaxis_core::clip::SoundFacts;
use std::path::Path;

/// What makes the decoded channels of a clip out of the file's streams: `-map` arguments, and a filter graph where
/// several streams become one set of channels. Sample 0 is the first sample a correct player presents.
pub(crate) fn sound_arguments(sound: &SoundFacts, after: Option<&str>) -> Vec<String> {
    let args = |list: &[&str]| list.iter().map(ToString::to_string).collect::<Vec<_>>();
    if sound.streams.len() < 2 {
        let index = sound.streams.first().map_or(0, |stream| stream.index);
        let mut all = args(&["-map", &format!("0:a:{index}")]);
        if let Some(filter) = after {
            all.extend(args(&["-af", filter]));
        }
        return all;
    }
    // Channel by channel, so that no layout can change their order; later streams are moved to their time, shorter
    // ones filled up, since merging ends with the shortest.
    let mut graph = String::new();
    let mut pads = String::new();
    let mut count = 0;
    for stream in &sound.streams {
        let delay = (stream.delay_s * f64::from(sound.rate.0)).round().max(0.0) as u64;
        // Before anything else: this filter knows no layout but those of the file.
        let delayed = if delay > 0 { format!("adelay={delay}S:all=1,") } else { String::new() };
        for channel in 0..stream.channels {
            graph.push_str(&format!(
                "[0:a:{}]{delayed}pan=mono|c0=c{channel},apad=whole_dur={:.6}[c{count}];",
                stream.index, sound.duration_s
            ));
            pads.push_str(&format!("[c{count}]"));
            count += 1;
        }
    }
    graph.push_str(&format!("{pads}amerge=inputs={count}"));
    if let Some(filter) = after {
        graph.push_str(&format!(",{filter}"));
    }
    graph.push_str("[out]");
    args(&["-filter_complex", &graph, "-map", "[out]"])
}

/// ffmpeg, decoding all of a clip's channels to interleaved 32-bit floats on its standard output.
pub fn decoder(path: &Path, sound: &SoundFacts) -> Tool {
    Tool::ffmpeg(path).args(["-vn", "-sn", "-dn", "-i"]).file(path).args(sound_arguments(sound, None)).args([
        "-vn",
        "-sn",
        "-dn",
        "-c:a",
        "pcm_f32le",
        "-f",
        "f32le",
        "pipe:1",
    ])
}
