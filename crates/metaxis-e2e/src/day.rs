//! Reading what the API says of a day.

use serde_json::Value;

/// The number of a clip by its file name.
pub fn clip_of(day: &Value, file: &str) -> Option<i64> {
    day["clips"].as_array()?.iter().find(|clip| clip["file_name"] == file)?["id"].as_i64()
}

/// Where a clip begins on the axis, seconds.
pub fn start_of(day: &Value, clip: i64) -> Option<f64> {
    let placed = day["placements"].as_array()?.iter().find(|placed| placed["clip"] == clip)?;
    placed["placement"]["stretches"][0]["start_s"].as_f64()
}
