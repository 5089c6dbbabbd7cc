//! A solved, oriented shot as files that are read back and proven, by a recipe or plainly.

use crate::{colouring, folders, in_scene};
use parallax_core::orient::{Orientation, Stated};
use parallax_core::progress::Progress;
use parallax_core::scene::Receiver;
use parallax_core::solve::Attempt;
use parallax_core::solve::bodies::motion::BodyLength;
use parallax_core::spaces::{FrameNumber, TrackId};
use parallax_core::tracks::Track;
use parallax_formats::camera_json;
use parallax_formats::delivery::{
    Delivered, Delivery, DeliveryError, MovingBody, NamedBytes, PlateAt, RECEIPT_FILE, Recipe,
    Shot, readme, unzipped, zipped,
};
use parallax_formats::format::FormatKind;
use parallax_formats::plate_lens::PlateLens;
use parallax_formats::receipt::{self, Receipt};
use parallax_formats::tracks_csv::Called;
use parallax_formats::undistorted::UndistortReceipt;
use std::cell::OnceCell;
use std::collections::BTreeMap;
use std::path::{Path, PathBuf};

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
    /// Guests in the oriented world; those that move on the frames of the solve.
    pub guests: Vec<Delivered>,
    /// What is stated about the world: planes of the set, lengths on things that move by themselves.
    pub stated: Vec<Stated>,
    /// Lengths between features that are known besides, m.
    pub lengths: Vec<BodyLength>,
    /// Told while bodies are solved.
    pub progress: &'a dyn Progress,
    /// Bodies that were solved, and why others were not; empty to begin with.
    pub bodies: OnceCell<Bodies>,
    /// What is added to the numbers of frames, where the recipe does not say.
    pub renumbered_by: i32,
    /// What changed since the solve; empty unless it is stale.
    pub stale: Vec<String>,
}

/// A recipe, and what is said of the delivery by it.
#[derive(Clone)]
pub struct By<'a> {
    /// The recipe.
    pub recipe: &'a Recipe,
    /// Which delivery by it this is, from 1.
    pub version: u32,
    /// When it is made, ISO 8601.
    pub date: String,
    /// The plate's pictures by frame; empty where they are not at hand.
    pub pictures: &'a BTreeMap<FrameNumber, PathBuf>,
    /// The folder in which the files get one of their own, a real path; `None` where that is not known.
    pub within: Option<&'a Path>,
    /// Where the recipe asks for the undistorted plate: its proof, or why it does not go along.
    pub undistorted: Option<Result<UndistortReceipt, String>>,
}

/// Files with their receipt and what explains them.
pub struct Proven {
    /// Names and bytes.
    pub files: Vec<NamedBytes>,
    /// What the files hold.
    pub receipt: Receipt,
    /// What all of them together are called.
    pub name: String,
}

impl Delivering<'_> {
    /// The plain files, read back and proven, with bodies where that is wished; `called` is what the artist calls tracks.
    pub fn proven(
        &self,
        with_bodies: bool,
        called: impl Fn(TrackId) -> Called,
    ) -> Result<Proven, DeliveryError> {
        let plain = Recipe {
            bodies: with_bodies,
            ..Recipe::of("", &FormatKind::PLAIN)
        };
        let (attempt, tracks) = renumbered(self.renumbered_by, self.attempt, self.tracks);
        proven(&self.whole((&attempt, &tracks), &plain, called))
    }

    /// The neutral camera of everything in our own axes, frames as the plate has them: what the next delivery is held
    /// against.
    pub fn camera(&self, called: impl Fn(TrackId) -> Called) -> Result<String, DeliveryError> {
        let shot = Shot {
            receiver: Receiver::default(),
            ..self.shot.clone()
        };
        let everything = Delivery::of_attempt(&shot, self.attempt, &self.orientation, &[], called);
        Ok(camera_json::write(&everything)?)
    }

    /// By how much frames are numbered higher in what a recipe asks for.
    pub fn renumbered_by(&self, recipe: &Recipe) -> i32 {
        let first = self.attempt.frames.first();
        let asked = first.and_then(|f| recipe.renumbered_by(f.frame));
        asked.unwrap_or(self.renumbered_by)
    }

    /// The files that a recipe asks for, read back and proven.
    pub fn proven_by(
        &self,
        by: &By<'_>,
        called: impl Fn(TrackId) -> Called,
    ) -> Result<Proven, DeliveryError> {
        let renumbered_by = self.renumbered_by(by.recipe);
        let (attempt, tracks) = renumbered(renumbered_by, self.attempt, self.tracks);
        let whole = self.whole((&attempt, &tracks), by.recipe, called);
        proven(&by.applied(whole, renumbered_by)?)
    }

    /// Everything, in numbered frames; the set and bodies where a recipe asks for them.
    fn whole<'d>(
        &self,
        (attempt, tracks): (&Attempt, &'d [Track]),
        recipe: &Recipe,
        called: impl Fn(TrackId) -> Called,
    ) -> Delivery<'d> {
        let (shot, orientation) = (&self.shot, &self.orientation);
        let mut whole = Delivery::of_attempt(shot, attempt, orientation, tracks, &called);
        whole.guests.clone_from(&self.guests);
        whole.stale.clone_from(&self.stale);
        let change = &orientation.change;
        let landmark = |t| Some(change.point(&attempt.landmark(t)?.point));
        if recipe.set {
            whole.set = in_scene::set(orientation, &self.stated, landmark);
        }
        if recipe.bodies && recipe.formats.iter().any(|f| f.holds_bodies()) {
            (whole.bodies, whole.left_out) = self.bodies(&called).clone();
            // They are known by the frames of the plate.
            let first = |a: &Attempt| a.frames.first().map_or(0, |f| f.frame.0);
            let by = first(attempt).saturating_sub(first(self.attempt));
            let seen = whole.bodies.iter_mut().flat_map(|b| &mut b.seen);
            seen.for_each(|f| f.0 = f.0.saturating_add(by));
        }
        whole
    }

    /// Bodies, solved once.
    fn bodies(&self, called: impl Fn(TrackId) -> Called) -> &Bodies {
        self.bodies.get_or_init(|| {
            let mut lengths = in_scene::lengths(&self.stated);
            lengths.extend(&self.lengths);
            let known = (&self.orientation, &lengths[..]);
            in_scene::bodies(self.tracks, self.attempt, known, called, self.progress)
        })
    }
}

/// Things that move by themselves, and why others are not among them.
pub type Bodies = (Vec<MovingBody>, Vec<String>);

impl By<'_> {
    /// What of a delivery the recipe asks for; its frames are numbered higher by so many than the plate's.
    pub fn applied<'d>(
        &self,
        mut everything: Delivery<'d>,
        renumbered_by: i32,
    ) -> Result<Delivery<'d>, DeliveryError> {
        if self.recipe.formats.is_empty() {
            return Err(DeliveryError::NoFormat(self.recipe.name.clone()));
        }
        if self.recipe.formats.iter().any(|f| f.is_coloured()) {
            colouring::put(&mut everything, self.pictures, renumbered_by);
        }
        let first = everything.cameras.first();
        let first = first.map(|c| FrameNumber(c.frame.0.saturating_sub(renumbered_by)));
        let mut delivery = self.recipe.applied(everything, self.version, &self.date);
        delivery.plate = first.and_then(|frame| self.plate(frame));
        match self
            .undistorted
            .as_ref()
            .filter(|_| self.recipe.undistorted)
        {
            Some(Ok(proof)) => delivery.undistorted = Some(proof.clone()),
            Some(Err(why)) => delivery
                .left_out
                .push(format!("the undistorted plate: {why}")),
            None => {}
        }
        Ok(delivery)
    }

    /// Where the picture of a frame is, as seen from the folder of the files.
    fn plate(&self, frame: FrameNumber) -> Option<PlateAt> {
        let picture = self.pictures.get(&frame)?.canonicalize().ok()?;
        folders::plate_from(&self.within?.join("delivery"), &picture, frame.0)
    }
}

/// The lens that a plate is undistorted with for a delivery, where it is worth it; why not.
pub fn undistorts(lens: Option<PlateLens>) -> Result<PlateLens, String> {
    let bends = lens.filter(|l| !l.lens.distortion.is_none());
    bends.ok_or_else(|| "the lens does not bend, so that it is the plate as shot".to_owned())
}

/// The lens of an attempt, on each frame where it zooms.
pub fn plate_lens(attempt: &Attempt) -> PlateLens {
    let frames = attempt.frames.iter();
    let along = match attempt.zooms() {
        true => frames.map(|f| (f.frame, attempt.lens_at(f))).collect(),
        false => Vec::new(),
    };
    let first = along.first().map(|(_, lens)| *lens);
    PlateLens {
        lens: first.unwrap_or(attempt.lens),
        along,
    }
}

/// Day and time of now, ISO 8601 in UTC, to the second.
pub fn now() -> String {
    let now = time::OffsetDateTime::now_utc();
    let whole = now.replace_nanosecond(0).unwrap_or(now);
    let text = whole.format(&time::format_description::well_known::Rfc3339);
    text.unwrap_or_default()
}

/// Writes the files of a delivery, has them read back, and adds the receipt and what explains them.
pub fn proven(delivery: &Delivery<'_>) -> Result<Proven, DeliveryError> {
    let mut files = delivery.files()?;
    let receipt = receipt::make(delivery, &files)?;
    files.extend(readme::files(delivery, &receipt)?);
    let text = serde_json::to_vec_pretty(&receipt)?;
    files.push((delivery.named(RECEIPT_FILE), text));
    let name = delivery.named_package();
    Ok(Proven {
        files,
        receipt,
        name,
    })
}

impl Proven {
    /// All files as one archive, from which each comes out again as it went in.
    pub fn package(&self) -> Result<Vec<u8>, DeliveryError> {
        let archive = zipped(&self.files)?;
        for (name, bytes) in &self.files {
            if unzipped(&archive, name)? != *bytes {
                return Err(DeliveryError::Package(format!(
                    "{name} was not kept as it is"
                )));
            }
        }
        Ok(archive)
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
