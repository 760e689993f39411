//! AAF (AMWA's open specification) of sound that was made, by an open library for Python, where this machine has it.

use metaxis_core::{
    group::Group,
    turnover::{MadeSound, escaped},
};
use metaxis_media::{Fingerprint, Stop, run_to_end};
use serde_json::{Value, json};
use std::{
    env,
    ffi::OsString,
    fs::{self, File},
    io,
    process::{Command, Stdio},
    sync::OnceLock,
    time::Duration,
};

/// What names the Python that is used, where it is not `python3`.
const CHOSEN: &str = "METAXIS_PYTHON";
const SCRIPT: &str = include_str!("aaf.py");
/// It takes less than a second.
const LIMIT: Duration = Duration::from_secs(60);

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

/// What an AAF of the sound of a group is to say: a track for each channel of each file, and the timecode that the group counts.
#[derive(Clone)]
pub struct Aaf(Value);

impl Aaf {
    /// Of files that were made of a group.
    pub fn of(group: &Group, made: &[MadeSound]) -> Self {
        Self(told(group, made))
    }

    /// It as bytes; `None` where this machine has no library for it.
    ///
    /// # Errors
    /// Why it was not made.
    pub fn written(&self, stop: &Stop) -> io::Result<Option<Vec<u8>>> {
        aaf_writer().map(|python| written(python, &self.0, stop)).transpose()
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

fn written(python: &OsString, told: &Value, stop: &Stop) -> io::Result<Vec<u8>> {
    let folder = tempfile::tempdir()?;
    let [given, out, said] = ["given.json", "own.aaf", "said.txt"].map(|name| folder.path().join(name));
    fs::write(&given, told.to_string())?;
    let mut command = Command::new(python);
    command.args(["-c", SCRIPT]).arg(&out).stdin(File::open(&given)?).stdout(Stdio::null());
    match run_to_end(command.stderr(File::create(&said)?), LIMIT, stop)? {
        Some(status) if status.success() => fs::read(&out),
        Some(_) => {
            let said = fs::read(&said)?;
            let said = String::from_utf8_lossy(&said).lines().last().unwrap_or("no message").to_owned();
            Err(io::Error::other(said))
        }
        None => Err(io::Error::other(format!("it was stopped, or not done after {} s", LIMIT.as_secs()))),
    }
}
