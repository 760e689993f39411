//! Documents together with their media, as OpenTimelineIO bundles them in one archive (.otioz): the document is `content.otio` there,
//! the version of the form `version.txt`, and what the document names lies below `media`.

use super::Sources;
use crate::{clip::ClipId, names::first_free};
use percent_encoding::{AsciiSet, NON_ALPHANUMERIC, utf8_percent_encode};
use serde_json::Value;
use std::collections::{HashMap, HashSet};

/// Where the document lies in a bundle.
pub const BUNDLED_DOCUMENT: &str = "content.otio";
/// Where the version of the form stands,
pub const BUNDLE_VERSION_FILE: &str = "version.txt";
/// and what it is.
pub const BUNDLE_VERSION: &str = "1.0.0";
/// Below what its media lies.
pub const BUNDLED_MEDIA: &str = "media";

/// What needs no sign for it in the path of a URL (RFC 3986, section 2.3).
const ESCAPED: &AsciiSet = &NON_ALPHANUMERIC.remove(b'-').remove(b'.').remove(b'_').remove(b'~');

/// A file's name as the path of a URL.
pub fn escaped(name: &str) -> String {
    utf8_percent_encode(name, ESCAPED).to_string()
}

/// Has every reference of a document to one of the sources point into the bundle; the clips whose files have to lie there, each once
/// and in the order in which they are named, and what they are called there: by their own names, told apart where two are alike.
pub fn bundled(document: &mut Value, sources: &Sources) -> Vec<(ClipId, String)> {
    let by_url = sources.clips.iter().map(|(clip, own)| (own.url.as_str(), *clip)).collect();
    let mut media = Media { sources, by_url, taken: HashSet::new(), all: vec![] };
    media.walk(document);
    media.all
}

struct Media<'a> {
    sources: &'a Sources,
    by_url: HashMap<&'a str, ClipId>,
    /// In small letters: there are disks that do not tell them from capitals.
    taken: HashSet<String>,
    all: Vec<(ClipId, String)>,
}

impl Media<'_> {
    fn walk(&mut self, value: &mut Value) {
        match value {
            Value::Array(all) => all.iter_mut().for_each(|own| self.walk(own)),
            Value::Object(all) => {
                let clip = all.get("target_url").and_then(Value::as_str).and_then(|url| self.by_url.get(url));
                if let Some(clip) = clip.copied() {
                    let name = self.name_of(clip);
                    let url = format!("{BUNDLED_MEDIA}/{}", escaped(&name));
                    all.insert("target_url".into(), url.into());
                }
                all.values_mut().for_each(|own| self.walk(own));
            }
            _ => {}
        }
    }

    fn name_of(&mut self, clip: ClipId) -> String {
        if let Some((_, name)) = self.all.iter().find(|(own, _)| *own == clip) {
            return name.clone();
        }
        let whole = self.sources.clips.get(&clip).map_or("", |own| own.file_name.as_str());
        let (stem, extension) = match whole.rsplit_once('.') {
            Some((stem, extension)) if !stem.is_empty() => (stem, format!(".{extension}")),
            _ => (whole, String::new()),
        };
        let is_taken = |stem: &str| self.taken.contains(&format!("{stem}{extension}").to_lowercase());
        let name = format!("{}{extension}", first_free(stem.to_owned(), is_taken));
        self.taken.insert(name.to_lowercase());
        self.all.push((clip, name.clone()));
        name
    }
}
