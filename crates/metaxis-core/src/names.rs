//! Names that are made: by a pattern of words, and told apart where two would be the same.

/// Letters that a name given by a person may have.
pub const MOST_LETTERS: usize = 80;

/// A name as it is kept; `None` where it is empty, too long, or not to be written on one line.
///
/// ```
/// use metaxis_core::names::readable;
///
/// assert_eq!(readable("  Crane "), Some("Crane".to_owned()));
/// assert_eq!((readable(" "), readable("two\nlines"), readable(&"x".repeat(81))), (None, None, None));
/// ```
pub fn readable(name: &str) -> Option<String> {
    let name = name.trim();
    let can_be =
        !name.is_empty() && name.chars().count() <= MOST_LETTERS && !name.chars().any(char::is_control);
    can_be.then(|| name.to_owned())
}

/// The name, or where it is taken, the name with the first number that is free.
///
/// ```
/// use metaxis_core::names::first_free;
///
/// let taken = ["12A / 1", "12A / 1 (2)"];
/// assert_eq!(first_free("12A / 1".into(), |name| taken.contains(&name)), "12A / 1 (3)");
/// assert_eq!(first_free("12A / 2".into(), |name| taken.contains(&name)), "12A / 2");
/// ```
pub fn first_free(name: String, is_taken: impl Fn(&str) -> bool) -> String {
    if !is_taken(&name) {
        return name;
    }
    let mut number = 2_u64;
    loop {
        let numbered = format!("{name} ({number})");
        if !is_taken(&numbered) {
            return numbered;
        }
        number += 1;
    }
}

/// The pattern with every word in braces replaced by its value; what is left out leaves no gap.
///
/// ```
/// use metaxis_core::names::by_pattern;
///
/// let value = |word: &str| if word == "scene" { "12A".to_owned() } else { String::new() };
/// assert_eq!(by_pattern("Scene {scene} {take} wide", value), "Scene 12A wide");
/// ```
pub fn by_pattern(pattern: &str, value: impl Fn(&str) -> String) -> String {
    let mut out = String::new();
    let mut rest = pattern;
    while let Some((text, behind)) = rest.split_once('{') {
        out.push_str(text);
        let Some((word, after)) = behind.split_once('}') else {
            rest = &rest[text.len()..];
            break;
        };
        out.push_str(&value(word));
        rest = after;
    }
    out.push_str(rest);
    out.split_whitespace().collect::<Vec<_>>().join(" ")
}
