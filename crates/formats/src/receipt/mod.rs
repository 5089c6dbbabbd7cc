//! The proof that the written files hold the camera that was solved, and what else has to be known
//! of them.
//!
//! Every file is read back by code that did not write it, at the precision of its own types; all
//! landmarks are projected through the camera of each file on every frame and compared with the
//! solve itself. OpenUSD has no lens distortion, so that comparison is made on the undistorted
//! picture, and the terms that stand in its data are compared one by one.
//!
//! That the files agree says nothing of the camera itself: [`Receipt::camera`] does.

pub mod compare;

pub use compare::Held;

use crate::delivery::package::NamedBytes;
use crate::delivery::{self, CameraStanding, Delivery, DeliveryError};
use crate::format::FormatKind;
use crate::undistorted::UndistortReceipt;
use rayon::prelude::*;
use serde::{Deserialize, Serialize};
use sha2::{Digest, Sha256};

/// The largest difference at which the files are said to agree, px.
pub const PROVEN_PX: f64 = 0.01;

/// What was found in one file.
#[derive(Clone, Debug, Serialize, Deserialize)]
pub struct FileReceipt {
    /// File name.
    pub file: String,
    /// Bytes.
    pub bytes: usize,
    /// SHA-256, hexadecimal.
    pub sha256: String,
    /// What was compared, as a sentence.
    pub compared: String,
    /// Largest difference to the solve, px.
    pub largest_difference_px: f64,
    /// What the solve has and the file has no place for.
    #[serde(default)]
    pub lacks: Vec<String>,
}

/// The whole receipt.
#[derive(Clone, Debug, Serialize, Deserialize)]
pub struct Receipt {
    /// The shot.
    pub shot: String,
    /// True when every file agrees with the solve. Not whether the camera is good.
    #[serde(alias = "proven")]
    pub files_agree: bool,
    /// Whether the camera is good, and why not; unknown in receipts of before this was said.
    #[serde(default)]
    pub camera: Option<CameraStanding>,
    /// What was taken for granted because nobody stated it.
    #[serde(default)]
    pub assumptions: Vec<String>,
    /// What was asked for and is not in it, with why.
    #[serde(default)]
    pub left_out: Vec<String>,
    /// The proof of the undistorted plate that goes along.
    #[serde(default)]
    pub undistorted: Option<UndistortReceipt>,
    /// What changed since the solve; empty unless it is stale.
    #[serde(default)]
    pub stale: Vec<String>,
    /// Largest difference over all files, px.
    pub largest_difference_px: f64,
    /// Exact rate, the same in all files.
    pub rate: String,
    /// First and last frame, the same in all files.
    pub range: [i32; 2],
    /// Unit of the world.
    pub units: String,
    /// Up axis of the world.
    pub up_axis: String,
    /// Landmarks and frames that were compared.
    pub compared_points: usize,
    /// Frames that were compared.
    pub compared_frames: usize,
    /// File by file.
    pub files: Vec<FileReceipt>,
}

/// An error of a file that was read back.
pub fn unreadable(file: &str, reason: impl ToString) -> DeliveryError {
    DeliveryError::ReadBack {
        file: file.to_owned(),
        reason: reason.to_string(),
    }
}

/// SHA-256 of bytes, hexadecimal.
pub fn sum(bytes: &[u8]) -> String {
    let digest = Sha256::digest(bytes);
    digest.iter().map(|b| format!("{b:02x}")).collect()
}

/// What the files of one format hold. Readers of libraries are well tested, not proven: one that panics at what it reads
/// is an error like any other.
pub fn checked(
    kind: FormatKind,
    delivery: &Delivery<'_>,
    files: &Held<'_>,
) -> Result<Vec<FileReceipt>, DeliveryError> {
    let checking = || kind.format().check(delivery, files);
    let checked = std::panic::catch_unwind(std::panic::AssertUnwindSafe(checking));
    let failed = |_| {
        Err(unreadable(
            kind.title(),
            "its reader failed at what it holds",
        ))
    };
    let checked = checked.unwrap_or_else(failed)?;
    let none = checked
        .iter()
        .find(|r| !r.largest_difference_px.is_finite());
    match none {
        Some(bad) => Err(unreadable(&bad.file, "it holds places that are none")),
        None => Ok(checked),
    }
}

/// Has the files read back and holds them against the solve.
pub fn make(delivery: &Delivery<'_>, files: &[NamedBytes]) -> Result<Receipt, DeliveryError> {
    let held = Held::of(files);
    let formats = delivery.formats.par_iter();
    let made: Result<Vec<_>, DeliveryError> = formats
        .map(|kind| checked(*kind, delivery, &held))
        .collect();
    let mut receipts: Vec<FileReceipt> = made?.into_iter().flatten().collect();
    if let Some(file) = held.unchecked(&receipts) {
        return Err(unreadable(file, "nothing reads it back"));
    }
    let mut seen = std::collections::HashSet::new();
    receipts.retain(|r| seen.insert(r.file.clone()));
    let largest = receipts
        .iter()
        .map(|f| f.largest_difference_px)
        .fold(0.0, f64::max);
    let number = |camera: Option<&delivery::Camera>| camera.map_or(0, |c| c.frame.0);
    let unit = delivery.receiver.unit.word();
    Ok(Receipt {
        shot: delivery.shot.clone(),
        files_agree: largest <= PROVEN_PX && delivery.undistorted.as_ref().is_none_or(|u| u.proven),
        camera: Some(delivery.standing.clone()),
        assumptions: delivery.assumptions(),
        left_out: delivery.left_out.clone(),
        undistorted: delivery.undistorted.clone(),
        stale: delivery.stale.clone(),
        largest_difference_px: largest,
        rate: delivery.rate.to_string(),
        range: [
            number(delivery.cameras.first()),
            number(delivery.cameras.last()),
        ],
        units: if delivery.scaled { unit } else { "no scale" }.to_owned(),
        up_axis: delivery.receiver.to_string(),
        compared_points: delivery.points.len(),
        compared_frames: delivery.cameras.len(),
        files: receipts,
    })
}

impl FileReceipt {
    /// Of a file, what of it was compared, and by how many px it is off.
    pub fn of(
        file: &str,
        held: &Held<'_>,
        compared: impl Into<String>,
        largest_difference_px: f64,
    ) -> Result<Self, DeliveryError> {
        let bytes = held.bytes(file)?;
        Ok(Self {
            file: file.to_owned(),
            bytes: bytes.len(),
            sha256: sum(bytes),
            compared: compared.into(),
            largest_difference_px,
            lacks: Vec::new(),
        })
    }

    /// With what the file has no place for, where that holds.
    pub fn lacking(mut self, holds: bool, what: &str) -> Self {
        if holds {
            self.lacks.push(what.to_owned());
        }
        self
    }
}
