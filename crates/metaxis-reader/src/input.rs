//! Opening a file.

use ffmpeg_next::{self as ffmpeg, Dictionary, ffi, format::context::Input};

/// Containers that hold their own sound and pictures; the server has the same list.
const CONTAINERS: &str =
    "mov,matroska,webm,mxf,mpegts,mpeg,avi,wav,w64,flac,mp3,aac,aiff,caf,ogg,png_pipe,jpeg_pipe";

/// Opens a file, and nothing but a file: the name can be taken for no other protocol, and what leads to other files is
/// refused.
pub fn open(path: &str) -> Result<Input, String> {
    let mut options = Dictionary::new();
    // Single pictures; a name with a percent sign would be taken for a row of them.
    let stills = if path.contains('%') { "" } else { ",image2" };
    options.set("format_whitelist", &format!("{CONTAINERS}{stills}"));
    options.set("protocol_whitelist", "file");
    ffmpeg::format::input_with_dictionary(&format!("file:{path}"), options).map_err(|e| e.to_string())
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
