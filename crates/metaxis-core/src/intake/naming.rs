//! What a new device is called: a letter to speak of it, and a name.

/// Letter (or number) and name of a new device, from what its folder or files call it; `taken` are the letters that others
/// have. `A_FLOOR` is A, Floor; `CAM_A`, `A-CAM` and `Camera A` are A; `cam1` is 1; others go by their first free letter.
///
/// ```
/// # use metaxis_core::intake::name_device;
/// assert_eq!(name_device("A_FLOOR", &[]), ("A".to_owned(), "Floor".to_owned()));
/// assert_eq!(name_device("CAM_B", &[]), ("B".to_owned(), "CAM_B".to_owned()));
/// ```
pub fn name_device(folder: &str, taken: &[String]) -> (String, String) {
    let is_free = |letter: &String| !taken.contains(letter);
    let (said, name) = said_letter(folder);
    let own = folder.chars().filter(char::is_ascii_alphabetic);
    let any = said.into_iter().chain(own.chain('A'..='Z')).map(|c| c.to_ascii_uppercase().to_string());
    // Of more devices than letters, the next number.
    let letter = any.chain((1..).map(|n: u32| n.to_string())).find(is_free).unwrap_or_default();
    (letter, name)
}

/// Whether a folder says its letter or number itself: those are given out first.
pub fn says_letter(folder: &str) -> bool {
    said_letter(folder).0.is_some()
}

/// The letter or number that a folder says, and what it calls its device.
fn said_letter(folder: &str) -> (Option<char>, String) {
    let words: Vec<&str> = folder.split(['_', '-', ' ', '.']).filter(|word| !word.is_empty()).collect();
    let whole = folder.to_owned();
    match words[..] {
        [camera, letter] | [letter, camera] if is_camera(camera) && single(letter).is_some() => {
            (single(letter), whole)
        }
        [word] if numbered(word).is_some() => (numbered(word), whole),
        [letter, ref rest @ ..]
            if !rest.is_empty() && single(letter).is_some_and(|c| c.is_ascii_alphabetic()) =>
        {
            (single(letter), spelled(&rest.join(" ")))
        }
        _ => (None, whole),
    }
}

fn is_camera(word: &str) -> bool {
    word.eq_ignore_ascii_case("cam") || word.eq_ignore_ascii_case("camera")
}

/// The only character of a word, where that is a letter or a digit.
fn single(word: &str) -> Option<char> {
    let mut all = word.chars();
    all.next().filter(|c| c.is_ascii_alphanumeric() && all.next().is_none())
}

/// The letter or number behind "cam" or "camera" in one word.
fn numbered(word: &str) -> Option<char> {
    let end = word.char_indices().next_back()?.0;
    is_camera(&word[..end]).then(|| single(&word[end..]))?
}

/// A name as the folder spells it, but for what is in capitals only because folders are.
fn spelled(name: &str) -> String {
    if name.chars().any(char::is_lowercase) {
        return name.to_owned();
    }
    let mut letters = name.chars();
    let first = letters.next().map(|first| first.to_uppercase().to_string()).unwrap_or_default();
    first + &letters.as_str().to_lowercase()
}
