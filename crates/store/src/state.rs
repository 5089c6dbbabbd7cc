//! The state of a shot: all that an artist decides, small enough to be kept whole for undo.
//! Results (tracks, attempts, deliveries) are rows of their own; the state names the current ones.

use crate::constraints::{Constraint, MOST_CONSTRAINTS};
use crate::guests::{MOST_GUESTS, Met, OldBox, usual_shutter_deg};
pub use crate::known::{FocalFact, MOST_SURVEYED, MoreTerms, Steadiness, SurveyedPoint};
use crate::lens::LensState;
use crate::photo::PhotoState;
use crate::statements::{self, MOST_STATEMENTS, Picks};
use crate::things::{Deeds, Thing, Things};
use crate::tracking::TrackNote;
use crate::{Invalid, StoreError};
use parallax_core::guest::Guest;
use parallax_core::orient::{Stated, Statement};
use parallax_core::plate::{FilmBack, FrameRate};
use parallax_core::render::Sun;
use parallax_core::scene::Receiver;
use parallax_core::solve::CameraMove;
use parallax_core::track::TrackOptions;
use parallax_core::track::adjust::Adjustment;
use parallax_core::track::hand::HandTrack;
use parallax_core::track::matte::Matte;
use parallax_formats::delivery::Recipe;
use parallax_media::colour::Written;
use parallax_media::movie_out::MovieKind;
use serde::{Deserialize, Serialize};
use serde_json::Value;
use std::collections::BTreeMap;

/// Most recipes of a shot.
const MOST_RECIPES: usize = 50;

/// All that an artist decides about a shot.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields, remote = "Self")]
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
    /// How the camera moves; `None` is found out.
    #[serde(default)]
    pub moves: Option<CameraMove>,
    /// In and out; `None` is the whole plate.
    pub range: Option<(i32, i32)>,
    /// Go on over missing frames.
    pub bridge_gaps: bool,
    /// What is known of the lens.
    pub lens: LensState,
    /// Solve two radial terms along.
    pub solve_lens: bool,
    /// What else is solved along then.
    #[serde(default)]
    pub lens_terms: MoreTerms,
    /// How steadily the camera is taken to move.
    #[serde(default)]
    pub steady: Steadiness,
    /// Points that were measured on the set.
    #[serde(default)]
    pub survey: Things<SurveyedPoint>,
    /// What is known of several features together.
    #[serde(default)]
    pub constraints: Things<Constraint>,
    /// Frames from which a solve starts; `None` where they are found.
    #[serde(default)]
    pub start_from: Option<(i32, i32)>,
    /// Time from the first row to the last in which the sensor reads a picture, ms; 0 where all rows are
    /// exposed at once, `None` is found out.
    #[serde(default)]
    pub readout_ms: Option<f64>,
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
    /// Read of shots of before there were statements, as which they are taken.
    #[serde(default, skip_serializing_if = "Picks::is_empty")]
    pub picks: Picks,
    /// What is stated about where the world lies.
    #[serde(default)]
    pub statements: Things<Statement>,
    /// Whether the world's place is locked: statements cannot be changed.
    #[serde(default)]
    pub world_locked: bool,
    /// Side of a square of the ground grid, m.
    pub grid_m: f64,
    /// Read of shots of before there were guests, as which they are taken.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub stand_ins: Vec<OldBox>,
    /// What is put into the plate.
    #[serde(default)]
    pub guests: Things<Guest>,
    /// The light on it.
    #[serde(default)]
    pub sun: Sun,
    /// What of the set meets it.
    #[serde(default)]
    pub met: Met,
    /// How movies are made.
    #[serde(default)]
    pub movie: MovieKind,
    /// How long the shutter is open, degrees of a full turn a frame.
    #[serde(default = "usual_shutter_deg")]
    pub shutter_deg: f64,
    /// Latest delivery.
    pub delivery: Option<i64>,
    /// Deliveries that can be made again.
    #[serde(default = "usual_recipes")]
    pub recipes: Things<Recipe>,
    /// Latest delivery by each recipe.
    #[serde(default, skip_serializing_if = "BTreeMap::is_empty")]
    pub delivered: BTreeMap<u32, i64>,
    /// Number that the in point gets in deliveries; as the files are where it is not set.
    #[serde(default)]
    pub first_delivered: Option<i32>,
    /// How undistorted pictures are written.
    #[serde(default)]
    pub written: Written,
    /// Latest undistorted plate.
    #[serde(default)]
    pub undistorted: Option<i64>,
    /// Read of shots of before there were recipes, all of which are for it then.
    #[serde(default, skip_serializing_if = "is_usual")]
    pub receiver: Receiver,
    /// What is laid on a photograph.
    #[serde(default)]
    pub photo: PhotoState,
    /// Id of the next thing that is added to a list.
    #[serde(default = "first_thing")]
    pub next_thing: u32,
}

fn first_thing() -> u32 {
    1
}

/// The recipes that come with a shot.
fn usual_recipes() -> Things<Recipe> {
    Recipe::usual().into_iter().collect()
}

fn is_usual(receiver: &Receiver) -> bool {
    *receiver == Receiver::default()
}

impl Serialize for ShotState {
    fn serialize<S: serde::Serializer>(&self, to: S) -> Result<S::Ok, S::Error> {
        Self::serialize(self, to)
    }
}

impl<'de> Deserialize<'de> for ShotState {
    fn deserialize<D: serde::Deserializer<'de>>(from: D) -> Result<Self, D::Error> {
        let mut state = Self::deserialize(from)?;
        if !state.picks.is_empty() {
            let picked = std::mem::take(&mut state.picks).stated();
            let own = state.statements.iter().cloned();
            let new = picked.into_iter().map(|it| Thing { id: 0, it });
            state.statements = own.chain(new).collect::<Vec<_>>().into();
        }
        if !state.stand_ins.is_empty() {
            let boxes = std::mem::take(&mut state.stand_ins);
            let own = state.guests.iter().cloned();
            let new = boxes.into_iter().map(|b| Thing {
                id: 0,
                it: b.into(),
            });
            state.guests = own.chain(new).collect::<Vec<_>>().into();
        }
        // Of before there were recipes: it is shown as the first one's, and is no longer what that would make.
        if let (true, Some(id), Some(first)) = (
            state.delivered.is_empty(),
            state.delivery,
            state.recipes.first(),
        ) {
            let first = first.id;
            state.delivered.insert(first, id);
        }
        if !is_usual(&state.receiver) {
            let receiver = std::mem::take(&mut state.receiver);
            let all = state.recipes.iter().cloned();
            let own = all.map(|mut recipe| {
                recipe.it.receiver = receiver;
                recipe
            });
            state.recipes = own.collect::<Vec<_>>().into();
        }
        Ok(state)
    }
}

impl ShotState {
    /// All that is stated about the world, lengths that are known at Solve among it.
    pub fn stated(&self) -> Vec<Stated> {
        statements::stated(&self.statements, &self.constraints)
    }

    /// A new shot of a size.
    pub fn new(width_px: u32, height_px: u32) -> Self {
        Self {
            rate: None,
            settled_rate: None,
            film_back: None,
            focal: FocalFact::Unknown,
            moves: None,
            range: None,
            bridge_gaps: false,
            lens: LensState::default(),
            solve_lens: false,
            lens_terms: MoreTerms::default(),
            steady: Steadiness::default(),
            survey: Things::default(),
            constraints: Things::default(),
            start_from: None,
            readout_ms: None,
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
            statements: Things::default(),
            world_locked: false,
            grid_m: 0.5,
            stand_ins: Vec::new(),
            guests: Things::default(),
            sun: Sun::default(),
            met: Met::default(),
            movie: MovieKind::default(),
            shutter_deg: usual_shutter_deg(),
            delivery: None,
            recipes: usual_recipes(),
            delivered: BTreeMap::new(),
            first_delivered: None,
            written: Written::default(),
            undistorted: None,
            receiver: Receiver::default(),
            photo: PhotoState::default(),
            next_thing: first_thing(),
        }
    }

    /// The state after a change that names members and their new values, checked. Where a member
    /// has members itself, those that are named change and the rest stays; anything else is
    /// replaced. Only members that exist can be named, and none of [`NOT_BY_HAND`].
    pub fn patched(&self, patch: &Value) -> Result<Self, StoreError> {
        self.changed(patch, &BTreeMap::new())
    }

    /// The state after a change of members and deeds on things of lists, by the lists' paths.
    pub fn changed(
        &self,
        patch: &Value,
        things: &BTreeMap<String, Deeds>,
    ) -> Result<Self, StoreError> {
        let members = patch.as_object().ok_or_else(|| Invalid::NotMembers {
            at: shortened(patch),
        })?;
        if let Some(name) = NOT_BY_HAND
            .into_iter()
            .find(|name| members.contains_key(*name))
        {
            return Err(Invalid::NotByHand { name }.into());
        }
        let damaged = |source| StoreError::Damaged {
            what: "state",
            source,
        };
        let mut wanted = serde_json::to_value(self).map_err(damaged)?;
        for (name, value) in members {
            merge(&mut wanted, name, value, name)?;
            // One by one, so that the refusal names the member.
            check_kept(&wanted, name, value)?;
        }
        let mut next_thing = self.next_thing;
        for (path, deeds) in things {
            deeds.done(&mut wanted, path, &mut next_thing)?;
            let of_all = deeds.add.iter().chain(&deeds.change).cloned().collect();
            let outermost = path.split('.').next().unwrap_or_default();
            check_kept(&wanted, outermost, &Value::Array(of_all))?;
        }
        wanted["next_thing"] = Value::from(next_thing);
        let next: Self = serde_json::from_value(wanted).map_err(damaged)?;
        if self.world_locked && next.world_locked && next.stated() != self.stated() {
            return Err(Invalid::WorldLocked.into());
        }
        Ok(next.checked()?)
    }

    /// The state with what came from elsewhere, checked.
    pub fn checked_taken_in(self) -> Result<Self, StoreError> {
        Ok(self.checked()?)
    }

    pub(crate) fn checked(self) -> Result<Self, Invalid> {
        if self.film_back.is_some_and(|b| !b.is_plausible()) {
            return Err(Invalid::FilmBack);
        }
        if let Some(mm) = self.focal.mm()
            && !(1.0..=5000.0).contains(&mm)
        {
            return Err(Invalid::Focal { mm });
        }
        if let Some((mm, sigma_mm)) = self.focal.mm().zip(self.focal.sigma_mm())
            && !(1e-4 * mm..=mm).contains(&sigma_mm)
        {
            return Err(Invalid::FocalError { sigma_mm });
        }
        if let Some((first, last)) = self.start_from.filter(|(first, last)| first >= last) {
            return Err(Invalid::Start { first, last });
        }
        let wanders = [self.steady.place_mm, self.steady.turn_deg];
        if wanders
            .into_iter()
            .flatten()
            .any(|w| !(1e-4..=1e5).contains(&w))
        {
            return Err(Invalid::Steadiness);
        }
        if let Some(point) = self.survey.iter().find(|p| !p.is_possible()) {
            let name = point.name.chars().take(80).collect();
            return Err(Invalid::Survey { name });
        }
        if self.survey.len() > MOST_SURVEYED {
            return Err(Invalid::LongSurvey);
        }
        if !self.constraints.iter().all(|c| c.is_possible()) {
            return Err(Invalid::Constraint);
        }
        if self.constraints.len() > MOST_CONSTRAINTS {
            return Err(Invalid::ManyConstraints);
        }
        if let Some((first, last)) = self.range.filter(|(first, last)| first > last) {
            return Err(Invalid::RangeBackwards { first, last });
        }
        if !(0.001..=1000.0).contains(&self.grid_m) {
            return Err(Invalid::Grid);
        }
        if !self.statements.iter().all(|s| s.fact.is_possible()) {
            return Err(Invalid::Statement);
        }
        if self.statements.len() > MOST_STATEMENTS {
            return Err(Invalid::ManyStatements);
        }
        if self
            .first_delivered
            .is_some_and(|f| !(-1_000_000..=10_000_000).contains(&f))
        {
            return Err(Invalid::Numbering);
        }
        if self.limit_px.is_some_and(|l| !(l.is_finite() && l > 0.0)) {
            return Err(Invalid::Limit);
        }
        if self
            .readout_ms
            .is_some_and(|ms| !(0.0..=200.0).contains(&ms))
        {
            return Err(Invalid::Readout);
        }
        if self.guests.iter().any(|g| !g.is_possible()) {
            return Err(Invalid::Guest);
        }
        if self.guests.len() > MOST_GUESTS {
            return Err(Invalid::ManyGuests);
        }
        if !self.sun.is_possible() || !(0.0..=360.0).contains(&self.shutter_deg) {
            return Err(Invalid::Light);
        }
        if !self.recipes.iter().all(|r| r.is_possible()) {
            return Err(Invalid::Recipe);
        }
        if self.recipes.len() > MOST_RECIPES {
            return Err(Invalid::ManyRecipes);
        }
        if !self.movie.is_possible() {
            return Err(Invalid::Movie);
        }
        if self.met.planes.len() > MOST_STATEMENTS {
            return Err(Invalid::ManyStatements);
        }
        if let Some(complaint) = self.lens.complaint() {
            return Err(Invalid::Lens(complaint));
        }
        if let Some(complaint) = self.photo.complaint() {
            return Err(Invalid::Photo(complaint));
        }
        if let Some(complaint) = self.adjust.complaint() {
            return Err(Invalid::Adjustment(complaint));
        }
        if let Some(complaint) = self.mattes.iter().find_map(Matte::complaint) {
            return Err(Invalid::Matte(complaint));
        }
        self.track.validated()?;
        Ok(self)
    }
}

/// Members that only results set, or requests of their own that check them.
pub const NOT_BY_HAND: [&str; 11] = [
    "run",
    "attempt",
    "delivery",
    "delivered",
    "undistorted",
    "hands",
    "mattes",
    "notes",
    "culled",
    "kept_movers",
    "next_thing",
];

/// Puts a value in the place of a member, or changes the members that it names.
fn merge(into: &mut Value, name: &str, value: &Value, at: &str) -> Result<(), Invalid> {
    let Some(old) = into.get_mut(name) else {
        return Err(Invalid::Unknown { at: at.to_owned() });
    };
    match (&mut *old, value) {
        // A focal length is one of several kinds of values.
        (Value::Object(_), Value::Object(members)) if name != "focal" => members
            .iter()
            .try_for_each(|(name, value)| merge(old, name, value, &format!("{at}.{name}"))),
        _ => {
            *old = value.clone();
            Ok(())
        }
    }
}

/// Refuses a member of which not all would be kept as it is given.
fn check_kept(wanted: &Value, name: &str, value: &Value) -> Result<(), Invalid> {
    let next = serde_json::from_value::<ShotState>(wanted.clone());
    let kept = next.ok().and_then(|next| serde_json::to_value(next).ok());
    if kept.is_some_and(|kept| is_same_shape(&wanted[name], &kept[name])) {
        return Ok(());
    }
    Err(Invalid::Value {
        at: name.to_owned(),
        value: shortened(value),
    })
}

/// Whether what was kept of a value has its shape: a list was not taken for an object, nothing was
/// dropped, and no number became nothing.
fn is_same_shape(wanted: &Value, kept: &Value) -> bool {
    match (wanted, kept) {
        (Value::Object(w), Value::Object(k)) => w.iter().all(|(name, value)| {
            k.get(name)
                .map_or(value.is_null(), |k| is_same_shape(value, k))
        }),
        (Value::Array(w), Value::Array(k)) => {
            w.len() == k.len() && w.iter().zip(k).all(|(w, k)| is_same_shape(w, k))
        }
        (Value::Array(_), _) | (_, Value::Array(_)) => false,
        (Value::Number(_), Value::Null) => false,
        _ => true,
    }
}

/// A value as it stands in a sentence.
fn shortened(value: &Value) -> String {
    const MOST: usize = 60;
    let text = value.to_string();
    match text.char_indices().nth(MOST) {
        Some((end, _)) => format!("{}…", &text[..end]),
        None => text,
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
    #[case::recipes(json!({"recipes": [{"name": "a", "formats": ["usd"], "receiver": {"up": "z", "hand": "left"}}]}), true)]
    #[case::up_sideways(json!({"recipes": [{"name": "a", "formats": ["usd"], "receiver": {"up": "x"}}]}), false)]
    #[case::no_name(json!({"recipes": [{"name": " ", "formats": ["usd"]}]}), false)]
    #[case::receiver_of_before(json!({"receiver": {"up": "z"}}), false)]
    #[case::delivered_by_hand(json!({"delivered": {"1": 1}}), false)]
    #[case::no_object(json!(7), false)]
    #[case::a_list_of_values(json!([null, null, null]), false)]
    #[case::a_list_for_members(json!({"track": [[1, 2, 3], null, null]}), false)]
    #[case::picks_of_before(json!({"picks": {"ground": [1, 2, 3]}}), false)]
    #[case::statement(json!({"statements": [{"kind": "origin", "at": 3}]}), true)]
    #[case::statement_of_nothing(json!({"statements": [{"kind": "origin"}]}), false)]
    #[case::statement_with_more(json!({"statements": [{"kind": "origin", "at": 3, "x": 1}]}), false)]
    #[case::edge_to_itself(json!({"statements": [{"kind": "edge", "edge": {"features": [3, 3]}, "runs": "up"}]}), false)]
    #[case::a_list_for_a_film_back(json!({"film_back": [36.0, 24.0]}), false)]
    #[case::unknown_below(json!({"track": {"counts": 3}}), false)]
    #[case::a_result(json!({"attempt": 3}), false)]
    #[case::set_aside(json!({"culled": [1]}), false)]
    #[case::cleared(json!({"limit_px": null, "range": null}), true)]
    #[case::readout(json!({"readout_ms": 16.7}), true)]
    #[case::focal_about(json!({"focal": {"about": {"mm": 35, "sigma_mm": 1}}}), true)]
    #[case::zooms_from(json!({"focal": {"zooms_from": {"mm": 35, "sigma_mm": 1}}}), true)]
    #[case::zooms_from_exactly(json!({"focal": {"zooms_from": {"mm": 35}}}), true)]
    #[case::zooms_from_nothing(json!({"focal": {"zooms_from": {"mm": 0}}}), false)]
    #[case::zooms_from_anywhere(json!({"focal": {"zooms_from": {"mm": 35, "sigma_mm": 36}}}), false)]
    #[case::focal_about_nothing(json!({"focal": {"about": {"mm": 35, "sigma_mm": 0}}}), false)]
    #[case::steady(json!({"steady": {"place_mm": 5, "turn_deg": null}}), true)]
    #[case::frozen(json!({"steady": {"turn_deg": 0}}), false)]
    #[case::start(json!({"start_from": [3, 40]}), true)]
    #[case::start_in_one(json!({"start_from": [3, 3]}), false)]
    #[case::terms(json!({"lens_terms": {"k3": true}}), true)]
    #[case::survey(json!({"survey": [{"name": "kerb", "at_m": [1, null, 3], "sigma_m": [0.01, 0.01, 0.01]}]}), true)]
    #[case::length(json!({"constraints": [{"kind": "length", "between": [1, 2], "length_m": 0.9, "sigma_m": 0.003}]}), true)]
    #[case::length_to_itself(json!({"constraints": [{"kind": "length", "between": [2, 2], "length_m": 0.9, "sigma_m": 0.003}]}), false)]
    #[case::length_of_nothing(json!({"constraints": [{"kind": "length", "between": [1, 2], "length_m": 0, "sigma_m": 0.003}]}), false)]
    #[case::plane(json!({"constraints": [{"kind": "plane", "tracks": [1, 2, 3, 4], "sigma_m": 0.01}]}), true)]
    #[case::plane_of_three(json!({"constraints": [{"kind": "plane", "tracks": [1, 2, 3], "sigma_m": 0.01}]}), false)]
    #[case::survey_of_nothing(json!({"survey": [{"name": "kerb", "at_m": [null, null, null], "sigma_m": [0.01, 0.01, 0.01]}]}), false)]
    #[case::survey_too_sure(json!({"survey": [{"name": "kerb", "at_m": [1, 2, 3], "sigma_m": [0, 0.01, 0.01]}]}), false)]
    #[case::survey_without_a_name(json!({"survey": [{"name": "", "at_m": [1, 2, 3], "sigma_m": [0.01, 0.01, 0.01]}]}), false)]
    #[case::readout_backwards(json!({"readout_ms": -3}), false)]
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
