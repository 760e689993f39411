//! AAF (AMWA's open specification) of sound that was made, by an open library for Python, where this machine has it.

use metaxis_core::{
    group::Group,
    turnover::{MadeSound, escaped},
};
use metaxis_media::Fingerprint;
use serde_json::{Value, json};
use std::{
    env,
    ffi::OsString,
    fs,
    io::{self, Write},
    path::Path,
    process::{Command, Stdio},
    sync::OnceLock,
};

/// What names the Python that is used, where it is not `python3`.
const CHOSEN: &str = "METAXIS_PYTHON";
const SCRIPT: &str = include_str!("aaf.py");

/// The Python that has the library, where there is one.
pub fn aaf_writer() -> Option<&'static OsString> {
    static FOUND: OnceLock<Option<OsString>> = OnceLock::new();
    let found = || {
        let python = env::var_os(CHOSEN).unwrap_or_else(|| "python3".into());
        let mut asked = Command::new(&python);
        asked.args(["-c", "import aaf2"]).stdin(Stdio::null()).stdout(Stdio::null()).stderr(Stdio::null());
        asked.status().is_ok_and(|status| status.success()).then_some(python)
    };
    FOUND.get_or_init(found).as_ref()
}

/// The sound of a group: a track for each channel of each file, and the timecode that the group counts. `None` where this machine has
/// no library for it, or it cannot say it.
pub fn made_aaf(group: &Group, made: &[MadeSound]) -> Option<Vec<u8>> {
    let python = aaf_writer()?;
    match written(python, &told(group, made)) {
        Ok(bytes) => Some(bytes),
        Err(e) => {
            tracing::warn!("{}: no AAF was made of it ({e})", group.name);
            None
        }
    }
}

fn told(group: &Group, made: &[MadeSound]) -> Value {
    let one = |own: &MadeSound| {
        json!({
            "name": own.name, "url": escaped(&own.name), "rate": own.rate.0, "bits": own.bits, "tracks": own.tracks,
            "samples": own.samples, "handles": own.handles,
        })
    };
    let mut all = json!({
        "name": group.name, "rate": [group.rate().num(), group.rate().den()], "counts": group.rate().nominal(),
        "drop": group.start.drop, "start": group.start.frames, "frames": group.frames,
        "files": made.iter().map(one).collect::<Vec<_>>(),
    });
    all["uid"] = Fingerprint::of_bytes(all.to_string().as_bytes()).as_str().into();
    all
}

fn written(python: &OsString, told: &Value) -> io::Result<Vec<u8>> {
    let folder = tempfile::tempdir()?;
    let out = folder.path().join("own.aaf");
    let mut child = begun(python, &out)?;
    // What does not read its input says why on its way out.
    let given = child.stdin.take().map_or(Ok(()), |mut input| input.write_all(told.to_string().as_bytes()));
    let ended = child.wait_with_output()?;
    if ended.status.success() {
        given?;
        return fs::read(&out);
    }
    let said = String::from_utf8_lossy(&ended.stderr).lines().last().unwrap_or("no message").to_owned();
    Err(io::Error::other(said))
}

fn begun(python: &OsString, out: &Path) -> io::Result<std::process::Child> {
    Command::new(python)
        .args(["-c", SCRIPT])
        .arg(out)
        .stdin(Stdio::piped())
        .stdout(Stdio::null())
        .stderr(Stdio::piped())
        .spawn()
}
