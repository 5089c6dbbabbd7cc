//! What commands write: the files of a delivery, its receipt, seconds per stage.

use crate::Failure;
use parallax_formats::delivery::{Delivery, DeliveryError, RECEIPT_FILE};
use parallax_formats::receipt;
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

/// Writes the files of a delivery, reads them back and writes the receipt.
pub fn write(out: &Path, delivery: &Delivery<'_>) -> Result<receipt::Receipt, Failure> {
    std::fs::create_dir_all(out)
        .map_err(|e| Failure::unreadable(format!("{} cannot be made: {e}", out.display())))?;
    for (name, text) in delivery.files().map_err(Failure::unreadable)? {
        put(&out.join(name), &text)?;
    }
    let receipt = receipt::make(delivery, |name| {
        std::fs::read_to_string(out.join(name)).map_err(|e| DeliveryError::ReadBack {
            file: name.to_owned(),
            reason: e.to_string(),
        })
    })
    .map_err(Failure::unreadable)?;
    let text = serde_json::to_string_pretty(&receipt).map_err(Failure::unreadable)?;
    put(&out.join(RECEIPT_FILE), &text)?;
    Ok(receipt)
}
