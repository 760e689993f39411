//! What a confined program reaches, seen from inside it.

use std::{
    fs,
    os::unix::fs::PermissionsExt,
    path::Path,
    process::{Command, Output},
};

fn confined(args: &[&str]) -> Output {
    Command::new(env!("CARGO_BIN_EXE_metaxis-confine")).args(args).output().expect("it runs")
}

fn offered(what: &str) -> bool {
    let said = String::from_utf8(confined(&["--offered"]).stdout).expect("text");
    let has = said.contains(&format!("{what} yes"));
    if !has {
        eprintln!("this kernel does not offer it, so it cannot be tested here: {what}");
    }
    has
}

fn text(path: &Path) -> &str {
    path.to_str().expect("text")
}

#[test]
fn it_reads_what_is_named_and_nothing_else() {
    let folder = tempfile::tempdir().expect("a folder");
    let (own, other) = (folder.path().join("own.txt"), folder.path().join("other.txt"));
    fs::write(&own, "own").expect("written");
    fs::write(&other, "other").expect("written");
    let read = |path: &Path| confined(&["--read", text(&own), "cat", text(path)]);
    assert_eq!(read(&own).stdout, b"own");
    if offered("files") {
        for path in [&other, Path::new("/etc/passwd"), Path::new("/proc/self/environ")] {
            let refused = read(path);
            assert!(!refused.status.success() && refused.stdout.is_empty(), "{}", path.display());
        }
        // A name that leads elsewhere leads nowhere.
        let link = folder.path().join("link.txt");
        std::os::unix::fs::symlink(&other, &link).expect("a link");
        assert!(!read(&link).status.success());
    }
}

#[test]
fn it_writes_where_it_may_and_starts_nothing() {
    let folder = tempfile::tempdir().expect("a folder");
    let (inside, outside) = (folder.path().join("in"), folder.path().join("out"));
    fs::create_dir(&inside).expect("made");
    let write = |to: &Path| confined(&["--write", text(&inside), "cp", "/usr/bin/env", text(to)]);
    assert!(write(&inside.join("a")).status.success());
    if offered("files") {
        assert!(!write(&outside).status.success() && !outside.exists());
        // Not even what it wrote itself can be run.
        fs::set_permissions(inside.join("a"), fs::Permissions::from_mode(0o755)).expect("set");
        let program = inside.join("a");
        assert!(!confined(&["--write", text(&inside), "env", text(&program)]).status.success());
    }
    if offered("calls") {
        let forked = confined(&["sh", "-c", "(echo a process); echo on"]);
        assert!(!String::from_utf8_lossy(&forked.stdout).contains("a process"), "{forked:?}");
        let network = confined(&["perl", "-MSocket", "-e", "socket(S, AF_INET, SOCK_STREAM, 0) or exit 7"]);
        assert_eq!(network.status.code(), Some(7), "{network:?}");
    }
}

#[test]
fn memory_is_limited_and_what_is_not_there_is_said() {
    let hungry = "my $x = 'x' x 400000000; print length $x";
    assert_eq!(confined(&["perl", "-e", hungry]).stdout, b"400000000");
    assert!(!confined(&["--memory", "200000000", "perl", "-e", hungry]).status.success());
    let missing = confined(&["no-such-program"]);
    assert_eq!(missing.status.code(), Some(126));
    assert!(
        String::from_utf8_lossy(&missing.stderr).contains("no-such-program is not installed"),
        "{missing:?}"
    );
    assert_eq!(confined(&["--memory", "much", "true"]).status.code(), Some(126));
    assert_eq!(confined(&[]).status.code(), Some(126));
}
