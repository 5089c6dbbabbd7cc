//! Which way is up, where is the origin, how long is a metre?
//!
//! The artist states facts in any order and number ([`statement`]): features lie on the ground or on a wall, an
//! edge runs up, a length is so long. All are fitted together with their errors ([`model`], [`mod@fit`]); few give
//! a world at once and more refine it. What nothing is said of keeps a sensible default: up as the cameras were
//! held, the first of them looking along -Z, the origin in the middle of the ground.
//!
//! Features are named by their tracks, so that statements hold for every later attempt that solves them.
//!
//! - [`statement`]: what can be stated.
//! - [`solved`]: what is needed of a solve.
//! - [`unknowns`], [`measure`], [`model`]: statements as residuals; [`start`] where the fit begins, [`mod@fit`] the fit and its errors.
//! - [`mod@propose`]: the ground and walls that landmarks themselves offer, and which ways edges of the pictures run.
//! - [`flat`]: how flat planes are by their own features.
//! - [`misses`]: what each statement misses by, and which contradict each other.

pub mod fit;
pub mod flat;
pub mod measure;
pub mod misses;
pub mod model;
pub mod propose;
pub mod solved;
pub mod start;
pub mod statement;
pub mod unknowns;

pub use misses::{Miss, Off};
pub use propose::edges::Pictured;
pub use propose::{Evidence, Proposal, propose};
pub use solved::{Solved, Stand, Together};
pub use statement::{Edge, End, Facing, Fact, Rail, Runs, Sight, Statement};

use crate::camera::Similarity;
use crate::solve::Attempt;
use crate::solve::certain::PointCovariance;
use crate::spaces::{FrameNumber, TrackId, WorldPoint};
use fit::Fitted;
use measure::{Measure, Row};
use model::Model;
use nalgebra::{UnitQuaternion, Vector3};
use serde::{Deserialize, Serialize};
use unknowns::Own;

/// A solved landmark as orienting needs it: name, place, and how certain that is.
pub type Placed = (TrackId, WorldPoint, Option<PointCovariance>);

/// A statement with its number.
pub type Stated = (u32, Statement);

/// Where the world lies now.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Orientation {
    /// From the solve's world to the artist's.
    pub change: Similarity,
    /// Whether the world is known to be upright.
    pub levelled: bool,
    /// Whether its heading is known from what was stated.
    pub headed: bool,
    /// Whether the unit is the metre.
    pub scaled: bool,
    /// Height of the ground, new units; 0 unless an origin stands above it. `None` without one.
    pub ground: Option<f64>,
    /// One standard error of up, degrees.
    pub up_sigma_deg: Option<f64>,
    /// One standard error of the heading, degrees.
    pub heading_sigma_deg: Option<f64>,
    /// One standard error of the scale, share: of the ends, of what was measured, and of how lengths agree.
    pub scale_share_sigma: Option<f64>,
    /// Planes that were stated, the ground aside.
    pub planes: Vec<StandingPlane>,
    /// What came of each statement that is not off.
    pub misses: Vec<Miss>,
}

/// A plane of a statement where it stands in the artist's world.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
pub struct StandingPlane {
    /// Number of its statement.
    pub id: u32,
    /// The middle of its features, on it.
    pub middle: WorldPoint,
    /// Its normal.
    pub normal: Vector3<f64>,
    /// How far its features reach from there, new units.
    pub reach: f64,
}

impl Orientation {
    /// The world of an attempt as it was solved: in that of its survey, where one holds it.
    pub fn of_attempt(attempt: &Attempt) -> Self {
        let is_surveyed = attempt.is_surveyed();
        Self {
            levelled: is_surveyed,
            headed: is_surveyed,
            scaled: is_surveyed,
            ground: is_surveyed.then_some(0.0),
            ..Self::as_solved()
        }
    }

    /// A world as it was solved, of which nothing is known.
    pub fn as_solved() -> Self {
        Self {
            change: Similarity::identity(),
            levelled: false,
            headed: false,
            scaled: false,
            ground: None,
            up_sigma_deg: None,
            heading_sigma_deg: None,
            scale_share_sigma: None,
            planes: Vec::new(),
            misses: Vec::new(),
        }
    }

    /// The same world after one more change by hand: what is stated lies where that takes it, and level stays level.
    pub fn moved(&self, by: &Similarity) -> Self {
        let plane = |p: &StandingPlane| StandingPlane {
            middle: by.point(&p.middle),
            normal: by.rotation * p.normal,
            reach: by.scale * p.reach,
            ..*p
        };
        let height = |height: f64| by.point(&WorldPoint::new(0.0, height, 0.0)).0.y;
        Self {
            change: self.change.then(by),
            ground: self.ground.map(height),
            planes: self.planes.iter().map(plane).collect(),
            ..self.clone()
        }
    }

    /// Numbers of statements that take no part although they are on.
    pub fn unused(&self) -> impl Iterator<Item = (u32, &Unused)> {
        self.misses.iter().filter_map(|m| match &m.off {
            Off::Unused(why) if *why != Unused::OnABody => Some((m.id, why)),
            _ => None,
        })
    }

    /// Numbers of statements that contradict others.
    pub fn contradicting(&self) -> Vec<u32> {
        let against = self.misses.iter().filter(|m| m.contradicts);
        against.map(|m| m.id).collect()
    }
}

/// Why a statement takes no part.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, thiserror::Error)]
#[serde(rename_all = "snake_case")]
pub enum Unused {
    /// A feature is not in the solve.
    #[error("{} not solved in this attempt; state it of another feature", names(.0))]
    NotSolved(Vec<TrackId>),
    /// Its features are on a thing that moves by itself.
    #[error(
        "it is on a thing that moves by itself: it says how large that is where such things are delivered"
    )]
    OnABody,
    /// Too few of a plane's features are.
    #[error("a plane needs 3 features that are solved, and {solved} of these are ({} not)", names(.missing))]
    TooFewSolved {
        /// How many are.
        solved: usize,
        /// Those that are not.
        missing: Vec<TrackId>,
    },
    /// All in a row.
    #[error("its features lie in one line; add one to the side of it")]
    InOneLine,
    /// The two ends are one place.
    #[error("its two ends are in the same place; choose two that are apart")]
    SamePlace,
    /// The camera does not travel.
    #[error(
        "the camera does not travel, so that features are directions and show neither planes nor distances; draw edges or the horizon over the plate"
    )]
    Directions,
    /// A frame without a camera.
    #[error("frame {0} has no solved camera; state it on another frame")]
    NoCamera(FrameNumber),
    /// A mark where the lens cannot be inverted.
    #[error("its mark on frame {0} lies where the lens folds back")]
    BeyondLens(FrameNumber),
    /// Rays that do not meet.
    #[error(
        "its two marks do not meet in one place; mark the same detail on frames between which the camera travels"
    )]
    NoMeeting,
    /// A height above nothing.
    #[error("there is no ground to measure from; state the ground as well")]
    NoGround,
    /// A statement that is not there, or not of the kind that is needed.
    #[error("it names statement {0}, which is off, gone or of another kind")]
    NoStatement(u32),
    /// Statements that name each other.
    #[error("it and the statements it names go round in a circle")]
    InACircle,
}

fn names(tracks: &[TrackId]) -> String {
    const MOST: usize = 4;
    let said: Vec<String> = tracks.iter().take(MOST).map(TrackId::to_string).collect();
    let more = match tracks.len().saturating_sub(MOST) {
        0 => String::new(),
        more => format!(" and {more} more"),
    };
    let verb = if tracks.len() == 1 { "is" } else { "are" };
    format!("{}{more} {verb}", said.join(", "))
}

/// Puts an attempt's world where statements have it. What a survey holds is upright and in metres already.
pub fn oriented(
    attempt: &Attempt,
    statements: &[Stated],
    together: Option<&dyn Together>,
) -> Orientation {
    let as_solved = Orientation::of_attempt(attempt);
    if statements.iter().all(|(_, s)| s.off) {
        return as_solved;
    }
    let stated = orient(&Solved::of_attempt(attempt, together), statements);
    Orientation {
        levelled: stated.levelled || as_solved.levelled,
        headed: stated.headed || as_solved.headed,
        scaled: stated.scaled || as_solved.scaled,
        ground: stated.ground.or(as_solved.ground),
        misses: stated
            .misses
            .into_iter()
            .map(|m| m.on_a_body(attempt, statements))
            .collect(),
        ..stated
    }
}

/// Statements as a model, fitted.
fn fitted(solved: &Solved<'_>, statements: &[Stated]) -> (Model, Fitted) {
    let mut model = Model::of(solved, statements);
    start::begin(solved, &mut model);
    if model.rows.iter().all(is_of_lengths) {
        // Lengths alone leave the world as it was solved.
        model.start.turn = UnitQuaternion::identity();
    }
    let fitted = fit::fit(solved, &model);
    (model, fitted)
}

/// Puts a solved world where statements have it.
pub fn orient(solved: &Solved<'_>, statements: &[Stated]) -> Orientation {
    let (model, fitted) = fitted(solved, statements);
    let change = change(solved, statements, &model, &fitted);
    let unknowns = &fitted.unknowns;
    let scale = unknowns.ln_scale.exp();
    let height = model
        .ground
        .map(|ground| match unknowns.own[ground.offset] {
            Own::Offset(offset) => offset * scale,
            Own::Heading(_) | Own::Direction(_) => 0.0,
        });
    // An origin that is stated is at height 0, else the ground is.
    let ground = height.map(|height| {
        let level = match origin(statements, &model) {
            Some(spot) => height - (unknowns.turn * model.spots[spot] * scale).y,
            None => 0.0,
        };
        let moved = by_hand(statements).point(&WorldPoint::new(0.0, level, 0.0));
        moved.0.y
    });
    let variance = |k: usize| fitted.covariance[(k, k)].max(0.0);
    let is_known = |k: usize| fitted.is_known[k];
    let levelled = is_known(0) && is_known(2);
    let (headed, scaled) = (is_known(1) && levelled, is_known(3));
    Orientation {
        change,
        levelled,
        headed,
        scaled,
        ground,
        up_sigma_deg: levelled.then(|| (variance(0) + variance(2)).sqrt().to_degrees()),
        heading_sigma_deg: headed.then(|| variance(1).sqrt().to_degrees()),
        scale_share_sigma: scaled.then(|| variance(3).sqrt()),
        planes: standing(statements, &model, &fitted, &change),
        misses: misses::of(solved, statements, &model, &fitted),
    }
}

/// Planes but the ground, as they stand in the artist's world.
fn standing(
    statements: &[Stated],
    model: &Model,
    fitted: &Fitted,
    change: &Similarity,
) -> Vec<StandingPlane> {
    let walls = model.planes.iter();
    let walls = walls.filter(|(_, plane)| Some(**plane) != model.ground);
    let mut out: Vec<StandingPlane> = walls
        .map(|(at, plane)| {
            let own = model.rows.iter().filter(|row| row.statement == *at);
            let places: Vec<Vector3<f64>> = own
                .flat_map(|row| model.spots_of(&row.measure))
                .map(|spot| change.point(&WorldPoint(model.spots[spot].into())).0.coords)
                .collect();
            let unknowns = &fitted.unknowns;
            let normal = plane.normal.of(unknowns);
            let mean = places.iter().sum::<Vector3<f64>>() / places.len().max(1) as f64;
            // A change by hand turns the plane with the world.
            let turned = change.rotation * unknowns.turn.inverse();
            let far = |p: &Vector3<f64>| (p - mean).norm();
            StandingPlane {
                id: statements[*at].0,
                middle: WorldPoint(mean.into()),
                normal: turned * normal,
                reach: places.iter().map(far).fold(0.0, f64::max),
            }
        })
        .collect();
    out.sort_by_key(|plane| plane.id);
    out
}

fn is_of_lengths(row: &Row) -> bool {
    matches!(row.measure, Measure::Length(..))
}

/// The spot of the last stated origin that takes part.
fn origin(statements: &[Stated], model: &Model) -> Option<usize> {
    let stated = statements.iter().rev().filter(|(_, s)| !s.off);
    let mut tracks = stated.filter_map(|(_, s)| match s.fact {
        Fact::Origin { at } => Some(at),
        _ => None,
    });
    tracks.find_map(|track| model.features.get(&track).copied())
}

/// From the solve's world to the artist's, changes by hand at the end.
fn change(
    solved: &Solved<'_>,
    statements: &[Stated],
    model: &Model,
    fitted: &Fitted,
) -> Similarity {
    let unknowns = &fitted.unknowns;
    let scale = unknowns.ln_scale.exp();
    let turned = Similarity {
        rotation: unknowns.turn,
        scale,
        translation: Vector3::zeros(),
    };
    let middle = match (origin(statements, model), model.ground) {
        (Some(spot), _) => turned.point(&WorldPoint(model.spots[spot].into())).0.coords,
        (None, Some(ground)) => {
            let on = |row: &&Row| matches!(row.measure, Measure::Off(_, plane) if plane == ground);
            let spots = model.rows.iter().filter(on);
            let places: Vec<Vector3<f64>> = spots
                .flat_map(|row| model.spots_of(&row.measure))
                .map(|spot| turned.point(&WorldPoint(model.spots[spot].into())).0.coords)
                .collect();
            let mean = places.iter().sum::<Vector3<f64>>() / places.len().max(1) as f64;
            let height = match unknowns.own[ground.offset] {
                Own::Offset(offset) => offset * scale,
                Own::Heading(_) | Own::Direction(_) => mean.y,
            };
            Vector3::new(mean.x, height, mean.z)
        }
        // The first camera stays where it was.
        (None, None) => solved.cameras.first().map_or_else(Vector3::zeros, |c| {
            let centre = c.eye.pose.centre();
            turned.point(&centre).0.coords - centre.0.coords * scale
        }),
    };
    let placed = Similarity {
        translation: -middle,
        ..turned
    };
    placed.then(&by_hand(statements))
}

/// All changes by hand, one after the other.
fn by_hand(statements: &[Stated]) -> Similarity {
    let changes = statements.iter().filter(|(_, s)| !s.off);
    changes.fold(Similarity::identity(), |change, (_, s)| match s.fact {
        Fact::ByHand {
            turn_deg,
            shift_m,
            scale,
        } => change.then(&change_of(turn_deg, shift_m, scale)),
        _ => change,
    })
}

/// A change by hand: a turn by a vector (its direction the axis, its length degrees) and a scale, then a shift.
pub fn change_of(turn_deg: [f64; 3], shift_m: [f64; 3], scale: f64) -> Similarity {
    let turn = Vector3::from(turn_deg).map(f64::to_radians);
    Similarity {
        rotation: UnitQuaternion::from_scaled_axis(turn),
        translation: shift_m.into(),
        scale,
    }
}
