//! The pure parts of the page, tested by themselves: run from here, so that one command tests everything.

use std::{path::Path, process::Command};

#[test]
fn the_pure_parts_of_the_page_hold() {
    let web = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../web");
    let run = Command::new("node")
        .args(["node_modules/vitest/vitest.mjs", "run", "--no-color"])
        .current_dir(web)
        .output()
        .expect("node runs; scripts/setup.sh test installs it");
    let said = format!("{}{}", String::from_utf8_lossy(&run.stdout), String::from_utf8_lossy(&run.stderr));
    assert!(run.status.success(), "{said}");
    // Where nothing was found to run, nothing was tested.
    assert!(
        said.lines().any(|line| line.trim_start().starts_with("Tests") && line.contains("passed")),
        "{said}"
    );
}
