//! Opening a file.

use ffmpeg_next::{self as ffmpeg, ffi, format::context::Input};

/// Opens a file, and nothing but a file: the name can be taken for no other protocol.
pub fn open(path: &str) -> Result<Input, String> {
    ffmpeg::format::input(&format!("file:{path}")).map_err(|e| e.to_string())
}

/// Leaves out every stream but one, so that pictures are not even read from the disk.
#[allow(unsafe_code)]
pub fn only(input: &mut Input, index: usize) {
    for mut stream in input.streams_mut().filter(|stream| stream.index() != index) {
        // SAFETY: the pointer is that of a stream of `input`, which is borrowed for as long as it is used; the field
        // is one that the library lets its callers set at any time, and has no safe setter.
        unsafe { (*stream.as_mut_ptr()).discard = ffi::AVDiscard::AVDISCARD_ALL };
    }
}
