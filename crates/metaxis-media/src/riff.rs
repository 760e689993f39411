//! RIFF chunks of WAV files (EBU Tech 3285): finding one, adding one.

use std::{
    fs::{File, OpenOptions},
    io::{self, Read, Seek, SeekFrom, Write},
    path::Path,
};

/// The bytes of the first chunk named `id` in a RIFF, RF64 or BW64 file; `None` where there is none or
/// it is longer than `most`.
///
/// # Errors
/// Reading errors; a file that is no RIFF is `Ok(None)`.
pub fn find_chunk(path: &Path, id: [u8; 4], most: u64) -> io::Result<Option<Vec<u8>>> {
    let mut file = File::open(path)?;
    let length = file.metadata()?.len();
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
        let mut size = u64::from(u32::from_le_bytes([header[4], header[5], header[6], header[7]]));
        if &header[..4] == b"ds64" && size >= 16 {
            let mut sizes = [0_u8; 16];
            file.read_exact(&mut sizes)?;
            let mut data = [0_u8; 8];
            data.copy_from_slice(&sizes[8..]);
            long_data = Some(u64::from_le_bytes(data));
        }
        if &header[..4] == b"data" && size == u64::from(u32::MAX) {
            size = long_data.unwrap_or(size);
        }
        if header[..4] == id {
            if size > most || at + 8 + size > length {
                return Ok(None);
            }
            let mut bytes = vec![];
            file.seek(SeekFrom::Start(at + 8))?;
            file.take(size).read_to_end(&mut bytes)?;
            return Ok(Some(bytes));
        }
        at = at.saturating_add(8).saturating_add(size).saturating_add(size & 1);
    }
    Ok(None)
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
