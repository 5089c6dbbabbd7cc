//! The reference tools of open formats, where the test command could install them.

use serde_json::Value;
use std::path::{Path, PathBuf};
use std::process::Command;

/// The folder of the tools; `None` where they are not installed.
pub fn tools() -> Option<PathBuf> {
    let here = Path::new(env!("CARGO_MANIFEST_DIR"));
    let usual = || {
        let target = std::env::var_os("CARGO_TARGET_DIR").map(PathBuf::from);
        target
            .unwrap_or_else(|| here.join("../../target"))
            .join("reference")
    };
    let folder = std::env::var_os("REFERENCE_TOOLS").map_or_else(usual, PathBuf::from);
    folder.join("installed").is_file().then_some(folder)
}

/// What the tools say of deliveries, one value a file.
///
/// # Errors
/// The text of whatever they failed with.
pub fn checked(tools: &Path, folders: &[PathBuf]) -> Result<Vec<Value>, String> {
    let here = Path::new(env!("CARGO_MANIFEST_DIR"));
    let told = Command::new(tools.join("python/bin/python"))
        .arg(here.join("check.py"))
        .arg(here.join("validate.cjs"))
        .args(folders)
        .env("REFERENCE_MODULES", tools.join("node_modules"))
        .output()
        .map_err(|e| e.to_string())?;
    if !told.status.success() {
        return Err(String::from_utf8_lossy(&told.stderr).into_owned());
    }
    let lines = String::from_utf8_lossy(&told.stdout).into_owned();
    let rows = lines.lines().map(serde_json::from_str);
    rows.collect::<Result<_, _>>().map_err(|e| e.to_string())
}
