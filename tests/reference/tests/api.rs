//! The description of the API is one by the open standard, as its own validator has it.
#![allow(clippy::unwrap_used)]

use parallax_web::screens::described;
use reference_tests::tools;
use std::process::Command;

#[test]
fn the_api_is_described_by_the_standard() {
    let Some(tools) = tools() else {
        eprintln!("LEFT OUT: the validator of OpenAPI is not installed (tests/reference/install)");
        return;
    };
    let folder = tempfile::tempdir().unwrap();
    let file = folder.path().join("openapi.json");
    std::fs::write(&file, described::document().to_string()).unwrap();
    let told = Command::new(tools.join("python/bin/python"))
        .args(["-m", "openapi_spec_validator"])
        .arg(&file)
        .output()
        .unwrap();
    let said = String::from_utf8_lossy(&told.stdout).into_owned();
    assert!(told.status.success() && said.contains("OK"), "{said}");
}
