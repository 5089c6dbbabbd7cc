//! What an artist may state about where the world lies.
//!
//! A [`Fact`] names features by whatever `F` is: tracks inside the program, names in a file. Directions of the
//! scene are `up`, `along` and `across`, the world's y, x and z; the first camera looks across, as nearly as edges
//! allow. Which axes of the receiver they are is said at Deliver.

use crate::spaces::{FrameNumber, PlatePx, TrackId};
use serde::{Deserialize, Serialize};

/// A fact with its number, by which others name it.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Statement<F = TrackId> {
    /// The fact.
    #[serde(flatten)]
    pub fact: Fact<F>,
    /// Whether it is left out for now.
    #[serde(default, skip_serializing_if = "is_false")]
    pub off: bool,
}

fn is_false(flag: &bool) -> bool {
    !*flag
}

/// One fact about the world's place.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(tag = "kind", rename_all = "snake_case")]
pub enum Fact<F = TrackId> {
    /// Features lie on one plane.
    Plane {
        /// What it is called.
        name: String,
        /// How it stands.
        faces: Facing,
        /// The features, three or more.
        on: Vec<F>,
    },
    /// A feature is the world's origin.
    Origin {
        /// The feature.
        at: F,
    },
    /// An edge runs in a direction of the scene.
    Edge {
        /// The edge.
        edge: Edge<F>,
        /// Where it runs.
        runs: Runs,
    },
    /// A line drawn along the horizon.
    Horizon {
        /// The line.
        rail: Rail,
    },
    /// A length.
    Length {
        /// Its ends.
        between: [End<F>; 2],
        /// The length, m.
        length_m: f64,
        /// How exactly that was measured, one standard error, m.
        sigma_m: f64,
    },
    /// How high the camera stands above the ground.
    CameraHeight {
        /// On this frame.
        frame: FrameNumber,
        /// The height, m.
        height_m: f64,
        /// How exactly that was measured, one standard error, m.
        sigma_m: f64,
    },
    /// A change by hand of what the others make, about the world's origin.
    ByHand {
        /// Axis and angle, degrees: the world's x, y and z.
        turn_deg: [f64; 3],
        /// Shift after that, m (units where there is no scale).
        shift_m: [f64; 3],
        /// Times as large.
        scale: f64,
    },
}

/// How a plane stands.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum Facing {
    /// The ground: level, at height 0 where no origin says otherwise.
    Ground,
    /// Level at some height: a ceiling, a table.
    Level,
    /// Upright, facing anywhere.
    Wall,
    /// Upright, its face turned along.
    Along,
    /// Upright, its face turned across.
    Across,
    /// Of no known direction.
    Any,
}

/// An edge of the scene.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum Edge<F = TrackId> {
    /// From one feature to another.
    Features([F; 2]),
    /// As it is drawn over the plate.
    Rail(Rail),
}

/// A line over the plate along something straight.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Rail {
    /// On this frame.
    pub frame: FrameNumber,
    /// One end, px of the plate as shot.
    pub a: PlatePx,
    /// The other end.
    pub b: PlatePx,
}

/// Where an edge runs.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum Runs {
    /// Up: a plumb line.
    Up,
    /// Along.
    Along,
    /// Across.
    Across,
    /// Level, in any direction.
    Level,
    /// Anywhere; others may be parallel or square to it.
    Free,
    /// Parallel to the edge of another statement.
    With(u32),
    /// Square to the edge of another statement.
    SquareTo(u32),
}

/// An end of a length.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum End<F = TrackId> {
    /// A feature.
    Feature(F),
    /// The camera on a frame.
    Camera(FrameNumber),
    /// A place that was marked on two frames and is no feature.
    Marked([Sight; 2]),
    /// A place that was marked on one frame and lies on the plane of another statement.
    OnPlane {
        /// Where it was marked.
        sight: Sight,
        /// Number of the statement.
        plane: u32,
    },
}

/// A place marked on a frame.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Sight {
    /// The frame.
    pub frame: FrameNumber,
    /// px of the plate as shot.
    pub px: PlatePx,
}

/// Lengths, heights and their errors lie within these bounds, m.
pub const METRES: std::ops::RangeInclusive<f64> = 1e-6..=1e6;
/// Marks lie within so many px of the plate's origin.
const MOST_PX: f64 = 1e6;
/// Most features of a plane.
pub const MOST_ON_A_PLANE: usize = 500;
/// Letters of the longest name.
const MOST_NAME: usize = 80;

impl<F: PartialEq> Fact<F> {
    /// Whether its numbers and features make sense, whatever the shot.
    pub fn is_possible(&self) -> bool {
        match self {
            Self::Plane { name, on, .. } => {
                let twice = |i: usize| on[..i].contains(&on[i]);
                (1..=MOST_NAME).contains(&name.chars().count())
                    && (3..=MOST_ON_A_PLANE).contains(&on.len())
                    && !(0..on.len()).any(twice)
            }
            Self::Origin { .. } => true,
            Self::Edge { edge, .. } => match edge {
                Edge::Features([a, b]) => a != b,
                Edge::Rail(rail) => rail.is_possible(),
            },
            Self::Horizon { rail } => rail.is_possible(),
            Self::Length {
                between: [a, b],
                length_m,
                sigma_m,
            } => a != b && a.is_possible() && b.is_possible() && are_metres(*length_m, *sigma_m),
            Self::CameraHeight {
                height_m, sigma_m, ..
            } => are_metres(*height_m, *sigma_m),
            Self::ByHand {
                turn_deg,
                shift_m,
                scale,
            } => {
                turn_deg.iter().all(|deg| deg.abs() <= 360.0)
                    && shift_m.iter().all(|m| m.abs() <= *METRES.end())
                    && (1e-4..=1e4).contains(scale)
            }
        }
    }
}

impl<F> Fact<F> {
    /// Whether it is a change by hand.
    pub fn is_by_hand(&self) -> bool {
        matches!(self, Self::ByHand { .. })
    }

    /// The same with its features named otherwise; the first that has no name fails.
    pub fn named<G, E>(&self, mut name: impl FnMut(&F) -> Result<G, E>) -> Result<Fact<G>, E> {
        Ok(match self {
            Self::Plane {
                name: called,
                faces,
                on,
            } => Fact::Plane {
                name: called.clone(),
                faces: *faces,
                on: on.iter().map(name).collect::<Result<_, _>>()?,
            },
            Self::Origin { at } => Fact::Origin { at: name(at)? },
            Self::Edge { edge, runs } => Fact::Edge {
                edge: match edge {
                    Edge::Features([a, b]) => Edge::Features([name(a)?, name(b)?]),
                    Edge::Rail(rail) => Edge::Rail(*rail),
                },
                runs: *runs,
            },
            Self::Horizon { rail } => Fact::Horizon { rail: *rail },
            Self::Length {
                between: [a, b],
                length_m,
                sigma_m,
            } => Fact::Length {
                between: [a.named(&mut name)?, b.named(&mut name)?],
                length_m: *length_m,
                sigma_m: *sigma_m,
            },
            Self::CameraHeight {
                frame,
                height_m,
                sigma_m,
            } => Fact::CameraHeight {
                frame: *frame,
                height_m: *height_m,
                sigma_m: *sigma_m,
            },
            Self::ByHand {
                turn_deg,
                shift_m,
                scale,
            } => Fact::ByHand {
                turn_deg: *turn_deg,
                shift_m: *shift_m,
                scale: *scale,
            },
        })
    }
}

impl Fact<TrackId> {
    /// The features that it is about.
    pub fn features(&self) -> Vec<TrackId> {
        let mut all = Vec::new();
        let _ = self.named(|id| {
            all.push(*id);
            Ok::<(), std::convert::Infallible>(())
        });
        all
    }
}

fn are_metres(metres: f64, sigma: f64) -> bool {
    METRES.contains(&metres) && METRES.contains(&sigma)
}

impl<F: PartialEq> End<F> {
    fn is_possible(&self) -> bool {
        match self {
            Self::Feature(_) | Self::Camera(_) => true,
            Self::Marked([a, b]) => a.is_possible() && b.is_possible() && a.frame != b.frame,
            Self::OnPlane { sight, .. } => sight.is_possible(),
        }
    }
}

impl<F> End<F> {
    fn named<G, E>(&self, name: &mut impl FnMut(&F) -> Result<G, E>) -> Result<End<G>, E> {
        Ok(match self {
            Self::Feature(f) => End::Feature(name(f)?),
            Self::Camera(frame) => End::Camera(*frame),
            Self::Marked(sights) => End::Marked(*sights),
            Self::OnPlane { sight, plane } => End::OnPlane {
                sight: *sight,
                plane: *plane,
            },
        })
    }
}

fn is_px(px: &PlatePx) -> bool {
    px.x.abs() <= MOST_PX && px.y.abs() <= MOST_PX
}

impl Rail {
    /// Ends nearer to each other show no direction, px.
    const SHORTEST_PX: f64 = 4.0;

    fn is_possible(&self) -> bool {
        is_px(&self.a) && is_px(&self.b) && self.a.distance_px(self.b) >= Self::SHORTEST_PX
    }
}

impl Sight {
    fn is_possible(&self) -> bool {
        is_px(&self.px)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;
    use serde_json::{Value, json};

    #[rstest]
    #[case::plane(json!({"kind": "plane", "name": "floor", "faces": "ground", "on": [1, 2, 3]}), true)]
    #[case::twice(json!({"kind": "plane", "name": "floor", "faces": "ground", "on": [1, 2, 2]}), false)]
    #[case::two(json!({"kind": "plane", "name": "floor", "faces": "ground", "on": [1, 2]}), false)]
    #[case::nameless(json!({"kind": "plane", "name": "", "faces": "wall", "on": [1, 2, 3]}), false)]
    #[case::edge(json!({"kind": "edge", "edge": {"features": [1, 2]}, "runs": "along"}), true)]
    #[case::no_edge(json!({"kind": "edge", "edge": {"features": [1, 1]}, "runs": "along"}), false)]
    #[case::parallel(json!({"kind": "edge", "edge": {"rail": {"frame": 7, "a": {"x": 1, "y": 2}, "b": {"x": 30, "y": 4}}}, "runs": {"with": 3}}), true)]
    #[case::short_rail(json!({"kind": "horizon", "rail": {"frame": 7, "a": {"x": 1, "y": 2}, "b": {"x": 2, "y": 2}}}), false)]
    #[case::length(json!({"kind": "length", "between": [{"feature": 1}, {"camera": 7}], "length_m": 2.0, "sigma_m": 0.01}), true)]
    #[case::marked(json!({"kind": "length", "between": [{"feature": 1}, {"marked": [{"frame": 1, "px": {"x": 1, "y": 1}}, {"frame": 9, "px": {"x": 3, "y": 1}}]}], "length_m": 2.0, "sigma_m": 0.01}), true)]
    #[case::marked_once(json!({"kind": "length", "between": [{"feature": 1}, {"marked": [{"frame": 1, "px": {"x": 1, "y": 1}}, {"frame": 1, "px": {"x": 3, "y": 1}}]}], "length_m": 2.0, "sigma_m": 0.01}), false)]
    #[case::exact(json!({"kind": "camera_height", "frame": 7, "height_m": 1.6, "sigma_m": 0.0}), false)]
    #[case::by_hand(json!({"kind": "by_hand", "turn_deg": [0, 20, 0], "shift_m": [0, 0, 1], "scale": 1}), true)]
    #[case::to_nothing(json!({"kind": "by_hand", "turn_deg": [0, 0, 0], "shift_m": [0, 0, 0], "scale": 0}), false)]
    fn facts_are_possible_or_not(#[case] fact: Value, #[case] possible: bool) {
        let read: Statement = serde_json::from_value(fact.clone()).unwrap();
        assert_eq!(read.fact.is_possible(), possible, "{fact}");
    }

    #[test]
    fn names_are_taken_for_features_wherever_they_stand() {
        let fact: Fact<String> = serde_json::from_value(json!({
            "kind": "length", "between": [{"feature": "door left"}, {"feature": "door right"}], "length_m": 0.9, "sigma_m": 0.002
        }))
        .unwrap();
        let tracks = fact.named(|name| match name.as_str() {
            "door left" => Ok(TrackId(4)),
            "door right" => Ok(TrackId(9)),
            other => Err(other.to_owned()),
        });
        assert_eq!(tracks.unwrap().features(), [TrackId(4), TrackId(9)]);
        assert_eq!(
            fact.named(|name| Err::<TrackId, _>(name.clone())),
            Err("door left".to_owned())
        );
    }
}
