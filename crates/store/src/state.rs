//! The state of a shot: all that an artist decides, small enough to be kept whole for undo.
//! Results (tracks, attempts, deliveries) are rows of their own; the state names the current ones.

use crate::StoreError;
use crate::lens::LensState;
use crate::photo::PhotoState;
use crate::tracking::TrackNote;
use parallax_core::plate::{FilmBack, FrameRate};
use parallax_core::scene::{Picks, Receiver, StandIn};
use parallax_core::track::TrackOptions;
use parallax_core::track::adjust::Adjustment;
use parallax_core::track::hand::HandTrack;
use parallax_core::track::matte::Matte;
use parallax_media::colour::Written;
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;

/// What is known of the focal length.
#[derive(Clone, Copy, Debug, Default, PartialEq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum FocalFact {
    /// Nothing.
    #[default]
    Unknown,
    /// Its value in mm.
    Mm(f64),
    /// It changes along the shot.
    Zooms,
}

/// All that an artist decides about a shot.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct ShotState {
    /// Exact rate; asked for while it is unknown.
    pub rate: Option<FrameRate>,
    /// The rate that is kept although the plate's movie states another.
    #[serde(default)]
    pub settled_rate: Option<FrameRate>,
    /// Film back; `None` assumes 36 mm wide.
    pub film_back: Option<FilmBack>,
    /// Focal length.
    pub focal: FocalFact,
    /// In and out; `None` is the whole plate.
    pub range: Option<(i32, i32)>,
    /// Go on over missing frames.
    pub bridge_gaps: bool,
    /// What is known of the lens.
    pub lens: LensState,
    /// Solve two radial terms along.
    pub solve_lens: bool,
    /// How the picture is adjusted for following.
    #[serde(default)]
    pub adjust: Adjustment,
    /// How features are followed.
    pub track: TrackOptions,
    /// Where not to follow.
    #[serde(default)]
    pub mattes: Vec<Matte>,
    /// Tracks keyed by hand.
    #[serde(default)]
    pub hands: Vec<HandTrack>,
    /// What is said of tracks.
    #[serde(default)]
    pub notes: BTreeMap<u32, TrackNote>,
    /// Current tracks.
    pub run: Option<i64>,
    /// Tracks the artist set aside.
    pub culled: Vec<u32>,
    /// Suspects that the artist keeps: those set aside by themselves are back, the others are not named any more.
    pub kept_movers: Vec<u32>,
    /// Residual above which features are dropped, px.
    pub limit_px: Option<f64>,
    /// Current attempt.
    pub attempt: Option<i64>,
    /// Ground, origin, distance.
    pub picks: Picks,
    /// Side of a square of the ground grid, m.
    pub grid_m: f64,
    /// Boxes to check with.
    pub stand_ins: Vec<StandIn>,
    /// Latest delivery.
    pub delivery: Option<i64>,
    /// Number that the in point gets in deliveries; as the files are where it is not set.
    #[serde(default)]
    pub first_delivered: Option<i32>,
    /// How undistorted pictures are written.
    #[serde(default)]
    pub written: Written,
    /// Latest undistorted plate.
    #[serde(default)]
    pub undistorted: Option<i64>,
    /// Axes of the program that receives deliveries.
    #[serde(default)]
    pub receiver: Receiver,
    /// What is laid on a photograph.
    #[serde(default)]
    pub photo: PhotoState,
}

impl ShotState {
    /// A new shot of a size.
    pub fn new(width_px: u32, height_px: u32) -> Self {
        Self {
            rate: None,
            settled_rate: None,
            film_back: None,
            focal: FocalFact::Unknown,
            range: None,
            bridge_gaps: false,
            lens: LensState::default(),
            solve_lens: false,
            adjust: Adjustment::default(),
            track: TrackOptions::for_size(width_px, height_px),
            mattes: Vec::new(),
            hands: Vec::new(),
            notes: BTreeMap::new(),
            run: None,
            culled: Vec::new(),
            kept_movers: Vec::new(),
            limit_px: None,
            attempt: None,
            picks: Picks::default(),
            grid_m: 0.5,
            stand_ins: Vec::new(),
            delivery: None,
            first_delivered: None,
            written: Written::default(),
            undistorted: None,
            receiver: Receiver::default(),
            photo: PhotoState::default(),
        }
    }

    /// The state after a JSON merge patch (RFC 7396), checked.
    pub fn patched(&self, patch: &serde_json::Value) -> Result<Self, StoreError> {
        let damaged = |source| StoreError::Damaged {
            what: "state",
            source,
        };
        let mut value = serde_json::to_value(self).map_err(damaged)?;
        merge(&mut value, patch);
        let next: Self = serde_json::from_value(value).map_err(|e| {
            StoreError::Invalid(format!(
                "that is not a possible value: {e}. Nothing was changed"
            ))
        })?;
        next.checked()
    }

    fn checked(self) -> Result<Self, StoreError> {
        let invalid =
            |text: String| Err(StoreError::Invalid(format!("{text}. Nothing was changed")));
        if self.film_back.is_some_and(|b| !b.is_plausible()) {
            return invalid("a film back has sides of 0.5 to 500 mm".to_owned());
        }
        if let FocalFact::Mm(mm) = self.focal
            && !(mm.is_finite() && (1.0..=5000.0).contains(&mm))
        {
            return invalid("a focal length lies between 1 and 5000 mm".to_owned());
        }
        if self.range.is_some_and(|(a, b)| a > b) {
            return invalid("the in point lies after the out point".to_owned());
        }
        if !(self.grid_m.is_finite() && (0.001..=1000.0).contains(&self.grid_m)) {
            return invalid("a square of the grid has 0.001 to 1000 m".to_owned());
        }
        if self
            .first_delivered
            .is_some_and(|f| !(-1_000_000..=10_000_000).contains(&f))
        {
            return invalid("deliveries are numbered from -1000000 to 10000000".to_owned());
        }
        if self.limit_px.is_some_and(|l| !(l.is_finite() && l > 0.0)) {
            return invalid("the limit has to be greater than 0 px".to_owned());
        }
        if self.stand_ins.iter().any(|s| !s.is_plausible()) {
            return invalid("a stand-in has sides of 0.001 to 1000 m".to_owned());
        }
        if let Some(complaint) = self.lens.complaint() {
            return invalid(complaint);
        }
        if let Some(complaint) = self.photo.complaint() {
            return invalid(complaint);
        }
        if let Some(complaint) = self.adjust.complaint() {
            return invalid(complaint.to_owned());
        }
        if let Some(complaint) = self.mattes.iter().find_map(Matte::complaint) {
            return invalid(complaint);
        }
        match self.track.validated() {
            Ok(_) => Ok(self),
            Err(e) => invalid(e.to_string()),
        }
    }
}

fn merge(target: &mut serde_json::Value, patch: &serde_json::Value) {
    let (Some(into), Some(from)) = (target.as_object_mut(), patch.as_object()) else {
        *target = patch.clone();
        return;
    };
    for (key, value) in from {
        match into.get_mut(key) {
            Some(old) if old.is_object() && value.is_object() && key != "focal" => {
                merge(old, value)
            }
            _ => {
                into.insert(key.clone(), value.clone());
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;
    use serde_json::json;

    #[rstest]
    #[case::rate(json!({"rate": "24000/1001"}), true)]
    #[case::rate_of_nothing(json!({"rate": "0/0"}), false)]
    #[case::focal(json!({"focal": {"mm": 28.0}}), true)]
    #[case::negative_focal(json!({"focal": {"mm": -3.0}}), false)]
    #[case::unknown_key(json!({"rat": "24"}), false)]
    #[case::backwards(json!({"range": [9, 3]}), false)]
    #[case::one_control(json!({"track": {"count": 200}}), true)]
    #[case::even_pattern(json!({"track": {"pattern_px": 20}}), false)]
    #[case::receiver(json!({"receiver": {"up": "z", "hand": "left"}}), true)]
    #[case::up_sideways(json!({"receiver": {"up": "x"}}), false)]
    #[case::no_object(json!(7), false)]
    #[case::contrast(json!({"adjust": {"contrast": 1.5}}), true)]
    #[case::no_channel(json!({"adjust": {"mix": [0, 0, 0]}}), false)]
    #[case::straight(json!({"lens": {"straights": [{"frame": 3, "marks": [[1, 2], [3, 4]]}]}}), true)]
    #[case::four_terms(json!({"lens": {"terms": 4}}), false)]
    #[case::huge_term(json!({"lens": {"values": {"terms": {"k1": 1e9}}}}), false)]
    #[case::no_unit(json!({"lens": {"values": {"focal_px": 0}}}), false)]
    #[case::far_mark(json!({"lens": {"straights": [{"frame": 3, "marks": [[1e9, 2]]}]}}), false)]
    #[case::rail(json!({"photo": {"rails": [{"axis": "x", "a": [1, 2], "b": [30, 4]}]}}), true)]
    #[case::axis_of_nothing(json!({"photo": {"rails": [{"axis": "w", "a": [1, 2], "b": [30, 4]}]}}), false)]
    #[case::far_rail(json!({"photo": {"rails": [{"axis": "x", "a": [1e9, 2], "b": [30, 4]}]}}), false)]
    #[case::no_length(json!({"photo": {"known": {"axis": "y", "from": [1, 2], "to": [3, 4], "metres": 0}}}), false)]
    #[case::negative_length(json!({"photo": {"known": {"axis": "y", "from": [1, 2], "to": [3, 4], "metres": -2}}}), false)]
    fn patches_are_checked(#[case] patch: serde_json::Value, #[case] good: bool) {
        assert_eq!(ShotState::new(1280, 720).patched(&patch).is_ok(), good);
    }

    #[test]
    fn a_patch_leaves_the_rest() {
        let state = ShotState::new(1280, 720)
            .patched(&json!({"track": {"count": 200}}))
            .unwrap();
        assert_eq!(
            state.track,
            TrackOptions {
                count: 200,
                ..TrackOptions::for_size(1280, 720)
            }
        );
    }
}
