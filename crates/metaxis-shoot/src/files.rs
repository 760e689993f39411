//! Files that are written without ffmpeg.

use crate::{picture::title_card, scenario::Extra};
use anyhow::{Context, Result};
use std::{fs, io::Write, path::Path};

/// A plain float WAV for ffmpeg to read.
pub(crate) fn write_float_wav(path: &Path, channels: &[Vec<f32>], rate: u32) -> Result<()> {
    let (count, frames) = (channels.len() as u32, channels.first().map_or(0, Vec::len));
    let bytes = u32::try_from(frames * channels.len() * 4).context("the sound is too long for one WAV")?;
    let mut out = std::io::BufWriter::new(fs::File::create(path)?);
    out.write_all(b"RIFF")?;
    out.write_all(&(36 + bytes).to_le_bytes())?;
    out.write_all(b"WAVEfmt \x10\0\0\0\x03\0")?;
    out.write_all(&(count as u16).to_le_bytes())?;
    out.write_all(&rate.to_le_bytes())?;
    out.write_all(&(rate * count * 4).to_le_bytes())?;
    out.write_all(&((count * 4) as u16).to_le_bytes())?;
    out.write_all(b"\x20\0data")?;
    out.write_all(&bytes.to_le_bytes())?;
    for i in 0..frames {
        for channel in channels {
            out.write_all(&channel[i].to_le_bytes())?;
        }
    }
    Ok(out.flush()?)
}

/// Text, damaged copies and stills on the cards.
pub(crate) fn write_extra(extra: &Extra, out: &Path) -> Result<()> {
    let path = match extra {
        Extra::Text { path, .. } | Extra::Damaged { path, .. } | Extra::TitleCard { path } => out.join(path),
    };
    fs::create_dir_all(path.parent().unwrap_or(out))?;
    match extra {
        Extra::Text { content, .. } => fs::write(path, content)?,
        Extra::Damaged { of, keep, .. } => {
            let mut bytes = fs::read(out.join(of)).with_context(|| format!("{of} is not in the scenario"))?;
            bytes.truncate(*keep as usize);
            fs::write(path, bytes)?;
        }
        Extra::TitleCard { .. } => {
            let card = title_card(1280, 720).context("no card")?;
            card.save_png(path)?;
        }
    }
    Ok(())
}
