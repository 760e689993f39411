//! The page's types are those of the server.

use std::{fs, path::Path};

#[test]
fn generated_types_are_current() {
    let path = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../web/src/api/types.ts");
    let now = metaxis_server::api_types::typescript();
    if std::env::var_os("METAXIS_WRITE_TYPES").is_some() {
        fs::write(&path, &now).expect("types can be written");
    }
    let kept = fs::read_to_string(&path).unwrap_or_default();
    assert!(kept == now, "web/src/api/types.ts is not current: run `make types`");
}
