//! Layers of lines: as far as their clips reach, and as parts on the frames of a group.

use crate::{OverPart, StoreError, clips};
use metaxis_core::{
    group::Group,
    line::{Layer, Line, LineEdit},
    time::FrameRate,
};
use rusqlite::Transaction;

/// An edit whose layer is no longer than its clip.
///
/// # Errors
/// [`StoreError::Refused`] where its clip is not there, has no picture, or has no such frame.
pub(crate) fn fitted(t: &Transaction, edit: &LineEdit, rate: FrameRate) -> Result<LineEdit, StoreError> {
    let mut edit = edit.clone();
    if let LineEdit::Lay { layer } | LineEdit::Relay { layer, .. } = &mut edit {
        *layer = whole(t, layer, rate)?;
    }
    Ok(edit)
}

/// A layer as far as its clip reaches, where frames are counted so.
///
/// # Errors
/// As [`fitted`].
pub(crate) fn whole(t: &Transaction, layer: &Layer, rate: FrameRate) -> Result<Layer, StoreError> {
    let clip = clips::one(t, layer.clip)?;
    let name = clip.path.file_name().unwrap_or_default().to_string_lossy().into_owned();
    let refused = |why: &str| StoreError::Refused(format!("{name} cannot be laid: {why}"));
    let picture = clip.facts.picture.as_ref().ok_or_else(|| refused("it has no picture"))?;
    layer.fitted(picture, rate).ok_or_else(|| refused("it has no such frame"))
}

/// The layers of a line as parts on the frames of its group.
pub(crate) fn parts(t: &Transaction, group: &Group, line: &Line) -> Result<Vec<OverPart>, StoreError> {
    let mut all = vec![];
    for (number, layer) in line.layers().iter().enumerate() {
        let facts = match clips::one(t, layer.clip) {
            Ok(clip) => clip.facts,
            Err(StoreError::Missing { .. }) => continue,
            Err(e) => return Err(e),
        };
        let Some(picture) = &facts.picture else { continue };
        all.push(OverPart { layer: number, part: layer.part(group, picture, facts.picture_delay_s()) });
    }
    Ok(all)
}
