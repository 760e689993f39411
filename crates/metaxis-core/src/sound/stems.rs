//! What files are called that are made of others.

use std::collections::HashSet;

/// Names of files without their extensions, where these do not tell files apart.
pub struct Stems(HashSet<String>);

impl Stems {
    /// Of the paths of files that are made into others.
    pub fn of<'a>(paths: impl Iterator<Item = &'a str>) -> Self {
        let (mut seen, mut shared) = (HashSet::new(), HashSet::new());
        for path in paths {
            // Disks of some systems take no notice of case.
            let stem = stem(path).to_lowercase();
            if !seen.insert(stem.clone()) {
                shared.insert(stem);
            }
        }
        Self(shared)
    }

    /// The path without its extension; with it where another file has the same without.
    pub fn of_path(&self, path: &str) -> String {
        let bare = stem(path);
        if self.0.contains(&bare.to_lowercase()) { path.to_owned() } else { bare.to_owned() }
    }
}

/// A path without its extension.
pub fn stem(path: &str) -> &str {
    let name_at = path.rfind('/').map_or(0, |at| at + 1);
    match path[name_at..].rfind('.') {
        Some(dot) if dot > 0 => &path[..name_at + dot],
        _ => path,
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn names_lose_their_extension_where_that_tells_nothing() {
        let stems =
            Stems::of(["A/A001.mov", "A/a001.MP4", "B/.hidden", "B/B.1/B001", "C/c.d.mxf"].into_iter());
        let of = |path: &str| stems.of_path(path);
        assert_eq!((of("A/A001.mov"), of("A/a001.MP4")), ("A/A001.mov".into(), "A/a001.MP4".into()));
        assert_eq!((of("B/.hidden"), of("B/B.1/B001")), ("B/.hidden".into(), "B/B.1/B001".into()));
        assert_eq!(of("C/c.d.mxf"), "C/c.d");
    }
}
