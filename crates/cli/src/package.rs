//! What commands write: the files of a delivery, its receipt, seconds per stage.

use crate::Failure;
use parallax_matching::delivering::Proven;
use serde_json::{Value, json};
use std::path::Path;
use std::time::Instant;

/// Seconds of each stage.
pub struct Stages(Vec<(&'static str, f64)>, Instant);

impl Stages {
    /// The first stage begins now.
    pub fn begun() -> Self {
        Self(Vec::new(), Instant::now())
    }

    /// A stage ends and the next begins.
    pub fn done(&mut self, stage: &'static str) {
        self.0.push((stage, self.1.elapsed().as_secs_f64()));
        self.1 = Instant::now();
    }

    /// By name.
    pub fn as_json(&self) -> Value {
        self.0
            .iter()
            .map(|(name, seconds)| ((*name).to_owned(), json!(round(*seconds, 3))))
            .collect::<serde_json::Map<_, _>>()
            .into()
    }
}

/// Rounded to so many digits behind the point.
pub fn round(value: f64, digits: i32) -> f64 {
    let scale = 10f64.powi(digits);
    (value * scale).round() / scale
}

/// Writes one file.
pub fn put(path: &Path, text: &str) -> Result<(), Failure> {
    std::fs::write(path, text)
        .map_err(|e| Failure::unreadable(format!("{} cannot be written: {e}", path.display())))
}

/// Writes files that are proven, and holds what lies on the disk then against them.
pub fn write(out: &Path, proven: &Proven) -> Result<(), Failure> {
    std::fs::create_dir_all(out)
        .map_err(|e| Failure::unreadable(format!("{} cannot be made: {e}", out.display())))?;
    for (name, bytes) in &proven.files {
        let file = out.join(name);
        std::fs::write(&file, bytes).map_err(|e| {
            Failure::unreadable(format!("{} cannot be written: {e}", file.display()))
        })?;
        let kept = std::fs::read(&file);
        if !kept.is_ok_and(|kept| kept == *bytes) {
            let said = format!("{} was not kept as it was written", file.display());
            return Err(Failure::unreadable(said));
        }
    }
    Ok(())
}
