//! WAV files, right and wrong ones.

/// A WAV file (kind 1: whole numbers, 3: floating point) whose head says what it is told.
pub(crate) fn wave(kind: u16, rate: u32, channels: u16, bits: u16, samples: &[u8]) -> Vec<u8> {
    let frame = channels.wrapping_mul(bits / 8);
    let mut head = b"RIFF\0\0\0\0WAVEfmt \x10\0\0\0".to_vec();
    head.extend(kind.to_le_bytes());
    head.extend(channels.to_le_bytes());
    head.extend(rate.to_le_bytes());
    head.extend(rate.wrapping_mul(u32::from(frame)).to_le_bytes());
    head.extend(frame.to_le_bytes());
    head.extend(bits.to_le_bytes());
    head.extend(b"data");
    head.extend((samples.len() as u32).to_le_bytes());
    head.extend(samples);
    let length = head.len() as u32 - 8;
    head[4..8].copy_from_slice(&length.to_le_bytes());
    head
}
