//! What is known of a shot besides what was seen, by track and frame, until it becomes residuals of the
//! adjustment ([`super::bundle::beliefs`]).

use super::bundle::{Anchor, Beliefs, Smoothness};
use super::constraints::Tied;
use crate::camera::Pose;
use nalgebra::Vector3;
use serde::{Deserialize, Serialize};

/// What is believed of a world.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
pub struct Believed {
    /// The focal length with its standard error, px.
    pub focal_px: Option<(f64, f64)>,
    /// The focal length of the first frame with its standard error, px, where it changes.
    #[serde(default)]
    pub focal_at_first_px: Option<(f64, f64)>,
    /// How steadily the camera moves, this world's units.
    pub steady: Option<Steady>,
    /// Frames that see little and are carried by those around them.
    #[serde(default)]
    pub carried: Option<Carried>,
    /// Surveyed landmarks, ascending by track.
    pub surveyed: Vec<Measured>,
    /// Lengths and planes.
    #[serde(default)]
    pub tied: Tied,
}

/// Frames that see too little of the scene to stand by themselves, and how steadily the camera is taken to move
/// over them.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
pub struct Carried {
    /// Indices of the frames, ascending.
    pub frames: Vec<usize>,
    /// How steadily.
    pub steady: Steady,
}

/// How steadily a camera moves: one standard error of how much its speed changes within a frame.
#[derive(Clone, Copy, Debug, Default, PartialEq, Serialize, Deserialize)]
pub struct Steady {
    /// Of its place, units of the world per frame; `None` where nothing is believed of it.
    pub place: Option<f64>,
    /// Of its turn, degrees per frame.
    pub turn_deg: Option<f64>,
}

impl Steady {
    /// Whether anything is believed.
    pub fn any(&self) -> bool {
        self.place.is_some() || self.turn_deg.is_some()
    }

    /// The same in a world whose units are so many of this one's.
    pub fn in_units(self, units: f64) -> Self {
        Self {
            place: self.place.map(|place| place / units),
            ..self
        }
    }
}

/// Where the landmark of a track was measured.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
pub struct Measured {
    /// Index of the track.
    pub track: usize,
    /// Where, world units.
    pub at: Vector3<f64>,
    /// One over the standard error of each coordinate, 0 where it was not measured.
    pub precision: Vector3<f64>,
}

impl Believed {
    /// The same in a world whose units are so many of this one's, its surveyed landmarks aside.
    pub fn in_units(&mut self, units: f64) {
        self.steady = self.steady.map(|steady| steady.in_units(units));
        if let Some(carried) = &mut self.carried {
            carried.steady = carried.steady.in_units(units);
        }
        self.tied.in_units(units);
    }

    /// The residuals of an adjustment of these cameras, of these frames at these times, and of the points that
    /// are these tracks', all ascending.
    pub fn beliefs(
        &self,
        poses: &[Pose],
        frames: &[usize],
        times: impl Fn() -> Vec<f64>,
        points: &[usize],
    ) -> Beliefs {
        let anchor = |measured: &Measured| {
            let point = points.binary_search(&measured.track).ok()?;
            Some(Anchor {
                point: point as u32,
                at: measured.at,
                precision: measured.precision,
            })
        };
        let mut beliefs = Beliefs {
            focal_px: self.focal_px,
            smooth: Vec::new(),
            anchors: self.surveyed.iter().filter_map(anchor).collect(),
            ties: self.tied.ties(points),
        };
        let is_held = beliefs.hold_the_world() || beliefs.ties.hold_the_scale();
        let carried = self.carried.as_ref().map(|carried| {
            let camera = |frame| frames.binary_search(frame).ok();
            let only = carried.frames.iter().filter_map(camera).collect();
            (carried.steady, Some(only))
        });
        let all_along = self.steady.map(|steady| (steady, None));
        let smoothness = |(steady, only): (Steady, Option<Vec<usize>>)| Smoothness {
            times: times(),
            only,
            turn_rad: steady.turn_deg.map(f64::to_radians),
            place: steady.place,
            held: farthest(poses).filter(|_| steady.place.is_some() && !is_held),
        };
        let held = all_along.into_iter().chain(carried);
        let held = held.filter(|(steady, _)| steady.any());
        beliefs.smooth = held.map(smoothness).collect();
        beliefs
    }
}

/// The first camera and the one farthest from it, with their distance.
fn farthest(poses: &[Pose]) -> Option<(usize, usize, f64)> {
    let first = poses.first()?.centre();
    let distance = |k: usize| poses[k].centre().distance(first);
    let far = (1..poses.len()).max_by(|a, b| distance(*a).total_cmp(&distance(*b)))?;
    Some((0, far, distance(far))).filter(|(.., distance)| *distance > 0.0)
}
