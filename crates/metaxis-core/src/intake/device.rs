//! Which device a file came from, guessed from where it lies and what it is called.

/// What a path says of its origin.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct DeviceGuess {
    /// The device, as the folder or the file name calls it; clips that share it are of one device.
    pub key: String,
    /// Shoot day, where a folder names one.
    pub day: Option<String>,
}

/// Folders that every card has, or that only sort others: they name no device. In capitals.
const STRUCTURE: [&str; 32] = [
    "DCIM",
    "PRIVATE",
    "AVCHD",
    "BDMV",
    "STREAM",
    "CONTENTS",
    "CLIP",
    "CLIPS",
    "VIDEO",
    "VIDEOS",
    "MEDIA",
    "FOOTAGE",
    "CARD",
    "CARDS",
    "CAMERA",
    "CAMERAS",
    "CAM",
    "CAMS",
    "PICTURE",
    "PICTURES",
    "ESSENCE",
    "ROOT",
    "DATA",
    "RUSHES",
    "RAW",
    "ORIGINALS",
    "INGEST",
    "SOURCE",
    "SOURCES",
    "MISC",
    "CLIPINF",
    "EXPORT",
];
/// The same for sound; with files in it directly, such a folder is the recorder.
const SOUND: [&str; 4] = ["AUDIO", "SOUND", "WAV", "SOUNDS"];

/// Guesses from a path below the folder that was taken in (forward slashes), and that folder's own name.
pub fn guess_device(relative: &str, taken: &str) -> DeviceGuess {
    let mut parts: Vec<&str> = relative.split('/').filter(|part| !part.is_empty()).collect();
    let file = parts.pop().unwrap_or_default();
    let day = parts.iter().chain([&taken]).find_map(|part| day_of(part));
    let naming = |part: &&&str| !is_structure(part) && !is_day(part);
    if let Some(folder) = parts.iter().find(naming) {
        return DeviceGuess { key: reel_letter(folder).unwrap_or_else(|| (**folder).to_owned()), day };
    }
    if let Some(folder) = parts.iter().rev().find(|part| SOUND.contains(&part.to_uppercase().as_str())) {
        return DeviceGuess { key: (**folder).to_owned(), day };
    }
    // Only structure above it: the card itself was taken in, and is called by the folder it lies in.
    if !parts.is_empty() && !taken.is_empty() && !is_structure(taken) && !is_day(taken) {
        return DeviceGuess { key: taken.to_owned(), day };
    }
    DeviceGuess { key: name_prefix(file), day }
}

fn is_structure(part: &str) -> bool {
    let upper = part.to_uppercase();
    // 100ABCDE and the like: the numbered folders of the camera file system standard (DCF).
    let numbered = upper.len() == 8 && upper.bytes().take(3).all(|b| b.is_ascii_digit());
    numbered || STRUCTURE.contains(&upper.as_str()) || SOUND.contains(&upper.as_str()) || is_card(&upper)
}

/// CARD1, CARD_02, ROLL 3: one of several cards of a device.
fn is_card(upper: &str) -> bool {
    ["CARD", "ROLL", "REEL", "DISK", "SSD"].iter().any(|word| {
        upper.strip_prefix(word).is_some_and(|rest| {
            let number = rest.trim_start_matches(['_', '-', ' ']);
            !number.is_empty() && number.bytes().all(|b| b.is_ascii_digit())
        })
    })
}

fn is_day(part: &str) -> bool {
    day_of(part).is_some()
}

/// 2026-05-14, 20260514, 2026_05_14, Day 3.
fn day_of(part: &str) -> Option<String> {
    let digits: String = part.chars().filter(char::is_ascii_digit).collect();
    let plain = part.chars().all(|c| c.is_ascii_digit() || "-_. ".contains(c));
    if plain && digits.len() == 8 {
        let (year, month, day) = (&digits[..4], &digits[4..6], &digits[6..]);
        let possible = ("1990".."2100").contains(&year)
            && ("01"..="12").contains(&month)
            && ("01"..="31").contains(&day);
        return possible.then(|| format!("{year}-{month}-{day}"));
    }
    let lower = part.to_lowercase();
    let number = lower.strip_prefix("day")?.trim_start_matches(['_', '-', ' ']);
    (!number.is_empty() && number.len() <= 3 && number.bytes().all(|b| b.is_ascii_digit()))
        .then(|| format!("Day {}", number.trim_start_matches('0')))
}

/// A001, B014_R1XY: a camera letter with a reel number; all its reels are one device.
fn reel_letter(folder: &str) -> Option<String> {
    let bytes = folder.as_bytes();
    let reel =
        bytes.len() >= 4 && bytes[0].is_ascii_uppercase() && bytes[1..4].iter().all(u8::is_ascii_digit);
    let ends = bytes.get(4).is_none_or(|b| !b.is_ascii_digit());
    (reel && ends).then(|| folder[..1].to_owned())
}

/// What a loose file's name begins with: letters before the first number.
fn name_prefix(file: &str) -> String {
    let stem = file.rsplit_once('.').map_or(file, |(stem, _)| stem);
    let prefix: String = stem.chars().take_while(|c| !c.is_ascii_digit()).collect();
    let prefix = prefix.trim_end_matches(['_', '-', ' ', '.']);
    if prefix.is_empty() { "Loose files".into() } else { prefix.to_owned() }
}
