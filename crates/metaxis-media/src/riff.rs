//! RIFF chunks of WAV files (EBU Tech 3285): finding one, adding one.

use crate::open::open_file;
use std::{
    fs::OpenOptions,
    io::{self, Read, Seek, SeekFrom, Write},
    path::Path,
};

/// A chunk's name, where its content begins, and the length its header gives.
pub(crate) struct Chunk {
    pub(crate) id: [u8; 4],
    pub(crate) at: u64,
    pub(crate) size: u64,
}

/// Walks the chunks of a RIFF, RF64 or BW64 file until `wanted` says so; `None` where it never does or the file is none.
pub(crate) fn walk_chunks<R: Read + Seek>(
    file: &mut R,
    wanted: impl Fn(&Chunk) -> bool,
) -> io::Result<Option<Chunk>> {
    let length = file.seek(SeekFrom::End(0))?;
    file.seek(SeekFrom::Start(0))?;
    let mut head = [0_u8; 12];
    if file.read_exact(&mut head).is_err() || !matches!(&head[..4], b"RIFF" | b"RF64" | b"BW64") {
        return Ok(None);
    }
    let mut at = 12_u64;
    let mut long_data = None;
    while at + 8 <= length {
        file.seek(SeekFrom::Start(at))?;
        let mut header = [0_u8; 8];
        file.read_exact(&mut header)?;
        let [a, b, c, d, sizes @ ..] = header;
        let mut chunk = Chunk { id: [a, b, c, d], at: at + 8, size: u64::from(u32::from_le_bytes(sizes)) };
        if &chunk.id == b"ds64" && chunk.size >= 16 {
            let mut sizes = [0_u8; 16];
            if file.read_exact(&mut sizes).is_err() {
                return Ok(None); // it ends in the middle of it
            }
            let mut data = [0_u8; 8];
            data.copy_from_slice(&sizes[8..]);
            long_data = Some(u64::from_le_bytes(data));
        }
        if &chunk.id == b"data" && chunk.size == u64::from(u32::MAX) {
            chunk.size = long_data.unwrap_or(chunk.size);
        }
        if wanted(&chunk) {
            return Ok(Some(chunk));
        }
        at = chunk.at.saturating_add(chunk.size).saturating_add(chunk.size & 1);
    }
    Ok(None)
}

/// The bytes of the first chunk named `id` in a RIFF, RF64 or BW64 file; `None` where there is none or
/// it is longer than `most`.
///
/// # Errors
/// Reading errors; a file that is no RIFF is `Ok(None)`.
pub fn find_chunk(path: &Path, id: [u8; 4], most: u64) -> io::Result<Option<Vec<u8>>> {
    find_chunk_in(&mut open_file(path)?, id, most)
}

/// As [`find_chunk`], in anything that can be read.
///
/// # Errors
/// Reading errors.
pub fn find_chunk_in<R: Read + Seek>(mut file: R, id: [u8; 4], most: u64) -> io::Result<Option<Vec<u8>>> {
    let length = file.seek(SeekFrom::End(0))?;
    let Some(chunk) = walk_chunks(&mut file, |chunk| chunk.id == id)? else { return Ok(None) };
    if chunk.size > most || chunk.at.saturating_add(chunk.size) > length {
        return Ok(None);
    }
    let mut bytes = vec![];
    file.seek(SeekFrom::Start(chunk.at))?;
    file.take(chunk.size).read_to_end(&mut bytes)?;
    Ok(Some(bytes))
}

/// How much of the sound that a WAV's header promises is in the file, 0 to 1; `None` where it is no WAV or its header
/// leaves the length open.
///
/// # Errors
/// Reading errors.
pub(crate) fn data_share(path: &Path) -> io::Result<Option<f64>> {
    let mut file = open_file(path)?;
    let length = file.metadata()?.len();
    let Some(chunk) = walk_chunks(&mut file, |chunk| &chunk.id == b"data")? else { return Ok(None) };
    if chunk.size == 0 || chunk.size >= u64::from(u32::MAX) && chunk.size > length.saturating_mul(1000) {
        return Ok(None);
    }
    Ok(Some((length.saturating_sub(chunk.at) as f64 / chunk.size as f64).min(1.0)))
}

/// Adds a chunk at the end of a WAV file and corrects the length in its head. For files of our own making
/// below 4 GiB.
///
/// # Errors
/// Writing errors, or a file too long for plain RIFF.
pub fn append_chunk(path: &Path, id: [u8; 4], bytes: &[u8]) -> io::Result<()> {
    let mut file = OpenOptions::new().read(true).write(true).open(path)?;
    let too_long = || io::Error::new(io::ErrorKind::InvalidInput, "longer than 4 GiB");
    file.seek(SeekFrom::End(0))?;
    if file.stream_position()? % 2 == 1 {
        file.write_all(&[0])?;
    }
    file.write_all(&id)?;
    file.write_all(&u32::try_from(bytes.len()).map_err(|_| too_long())?.to_le_bytes())?;
    file.write_all(bytes)?;
    if bytes.len() % 2 == 1 {
        file.write_all(&[0])?;
    }
    let size = u32::try_from(file.stream_position()? - 8).map_err(|_| too_long())?;
    file.seek(SeekFrom::Start(4))?;
    file.write_all(&size.to_le_bytes())
}
