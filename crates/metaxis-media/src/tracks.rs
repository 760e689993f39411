//! Channels as the tracks of a file.

use std::ops::Range;

/// The filter that picks channels out of others, one or two.
pub(crate) fn picked(channels: &Range<usize>) -> String {
    match (channels.len(), channels.start) {
        (2, first) => format!("pan=stereo|c0=c{first}|c1=c{}", first + 1),
        (_, first) => format!("pan=mono|c0=c{first}"),
    }
}

/// The filter graph that makes tracks called `t0`, `t1`, … of the channels of an input; empty where there are none.
pub(crate) fn tracks_graph(input: usize, tracks: &[Range<usize>]) -> String {
    if tracks.is_empty() {
        return String::new();
    }
    let splits: Vec<String> = (0..tracks.len()).map(|n| format!("[s{n}]")).collect();
    let pick = |(n, channels): (usize, &Range<usize>)| format!("[s{n}]{}[t{n}]", picked(channels));
    let picks: Vec<String> = tracks.iter().enumerate().map(pick).collect();
    format!("[{input}:a]asplit={}{};{}", tracks.len(), splits.concat(), picks.join(";"))
}

/// Arguments that give the sound track of that number its name.
pub(crate) fn named(number: usize, name: &str) -> [String; 4] {
    let what = format!("-metadata:s:a:{number}");
    [what.clone(), format!("title={name}"), what, format!("handler_name={name}")]
}
