//! A solved, oriented shot as files that are read back and proven.

use parallax_core::orient::Orientation;
use parallax_core::solve::Attempt;
use parallax_core::spaces::TrackId;
use parallax_core::tracks::Track;
use parallax_formats::delivery::{
    self, Delivered, Delivery, DeliveryError, NamedText, RECEIPT_FILE, Shot, unzipped, zipped,
};
use parallax_formats::receipt::{self, Receipt};
use parallax_formats::tracks_csv::Called;

/// All that a delivery depends on.
pub struct Delivering<'a> {
    /// Name, rate, film back, receiver.
    pub shot: Shot,
    /// The solve.
    pub attempt: &'a Attempt,
    /// The world as it is oriented.
    pub orientation: Orientation,
    /// All tracks; those that have a landmark are handed on.
    pub tracks: &'a [Track],
    /// Guests in the oriented world.
    pub guests: Vec<Delivered>,
    /// How many move by themselves, which the files do not hold.
    pub moving: usize,
    /// What is added to the numbers of frames.
    pub renumbered_by: i32,
    /// What changed since the solve; empty unless it is stale.
    pub stale: Vec<String>,
}

/// Files with their receipt, the receipt among them.
pub struct Proven {
    /// Names and texts.
    pub files: Vec<NamedText>,
    /// What the files hold.
    pub receipt: Receipt,
}

impl Delivering<'_> {
    /// The files, read back and proven; `called` is what the artist calls tracks.
    pub fn proven(&self, called: impl Fn(TrackId) -> Called) -> Result<Proven, DeliveryError> {
        let (attempt, tracks) = renumbered(self.renumbered_by, self.attempt, self.tracks);
        let mut delivery =
            Delivery::of_attempt(&self.shot, &attempt, &self.orientation, &tracks, called);
        delivery.guests.clone_from(&self.guests);
        delivery.moving = self.moving;
        delivery.stale.clone_from(&self.stale);
        proven(&delivery)
    }
}

/// Writes the files of a delivery into an archive, reads them back out of it and adds the receipt.
pub fn proven(delivery: &Delivery<'_>) -> Result<Proven, DeliveryError> {
    let mut files = delivery.files()?;
    let archive = zipped(&files)?;
    let receipt = receipt::make(delivery, |name| unzipped(&archive, name))?;
    let text = serde_json::to_string_pretty(&receipt)?;
    files.push((delivery.named(RECEIPT_FILE), text));
    Ok(Proven { files, receipt })
}

impl Proven {
    /// All files as one archive.
    pub fn package(&self) -> Result<Vec<u8>, DeliveryError> {
        delivery::zipped(&self.files)
    }
}

/// Attempt and tracks with other frame numbers, all by the same step.
fn renumbered(by: i32, attempt: &Attempt, tracks: &[Track]) -> (Attempt, Vec<Track>) {
    let (mut attempt, mut tracks) = (attempt.clone(), tracks.to_vec());
    let samples = tracks
        .iter_mut()
        .flat_map(|t| t.samples.iter_mut().map(|s| &mut s.frame));
    let landmarks = attempt.landmarks.iter_mut();
    let residuals = landmarks.flat_map(|l| l.residuals_px.iter_mut().map(|r| &mut r.0));
    let cameras = attempt.frames.iter_mut().map(|f| &mut f.frame);
    samples
        .chain(residuals)
        .chain(cameras)
        .for_each(|frame| frame.0 = frame.0.saturating_add(by));
    (attempt, tracks)
}
