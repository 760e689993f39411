//! All of a day in one document.

use serde_json::{Value, json};

/// Documents under their headings as one OpenTimelineIO collection: a bin of bins, each document whole in it.
pub fn day_document(name: &str, bins: Vec<(&str, Vec<Value>)>) -> Value {
    let bins: Vec<Value> = bins.into_iter().map(|(name, children)| collection(name, children)).collect();
    collection(name, bins)
}

fn collection(name: &str, children: Vec<Value>) -> Value {
    json!({ "OTIO_SCHEMA": "SerializableCollection.1", "name": name, "metadata": {}, "children": children })
}
