//! Programs that are ended: in time, and with all that they started.

use metaxis_media::{Stop, printed, printer, run_to_end};
use std::{
    fs,
    path::Path,
    process::Command,
    thread::yield_now,
    time::{Duration, Instant},
};

const LONG: Duration = Duration::from_secs(600);

fn shell(script: &str) -> Command {
    let mut command = Command::new("sh");
    command.args(["-c", script]);
    command
}

#[test]
fn what_takes_too_long_or_is_stopped_is_ended_with_what_it_started() {
    let folder = tempfile::tempdir().expect("a folder");
    let said = folder.path().join("pid");
    let script = format!("sleep 600 & echo $! > {}; wait", said.display());
    let begin = Instant::now();
    let ended = run_to_end(&mut shell(&script), Duration::from_millis(300), &Stop::default());
    assert!(ended.expect("a run").is_none() && begin.elapsed() < LONG / 10);
    let started = fs::read_to_string(&said).expect("its number").trim().to_owned();
    // One that is gone, or waits for nothing but to be forgotten.
    let status = Path::new("/proc").join(&started).join("stat");
    while fs::read_to_string(&status).is_ok_and(|own| !own.contains(") Z ")) {
        assert!(begin.elapsed() < LONG / 10, "{started} goes on");
        yield_now();
    }
    let stop = Stop::default();
    stop.stop();
    assert!(run_to_end(&mut shell("sleep 600"), LONG, &stop).expect("a run").is_none());
    // What ends by itself says how.
    let status = run_to_end(&mut shell("exit 3"), LONG, &Stop::default()).expect("a run");
    assert_eq!(status.and_then(|own| own.code()), Some(3));
    assert!(run_to_end(&mut Command::new("/no/such/program"), LONG, &Stop::default()).is_err());
}

#[test]
fn a_page_is_printed_whole_and_fetches_nothing() {
    let name = Path::new("own.pdf");
    let Some(_) = printer() else {
        let why = printed(b"<p>own", name, &Stop::default()).expect_err("nothing prints it").to_string();
        assert!(why.contains("own.pdf") && why.contains("install it"), "{why}");
        return;
    };
    let page = "<style>p { break-after: page }</style><p>One</p><p>Two</p><img src='http://nowhere.example/own.png'>";
    let bytes = printed(page.as_bytes(), name, &Stop::default()).expect("a print");
    assert!(bytes.starts_with(b"%PDF-"), "no PDF");
    let stop = Stop::default();
    stop.stop();
    assert!(printed(page.as_bytes(), name, &stop).is_err());
}
