//! What is stated about the world, as it reads in the notebook: each fact with what it misses by.

use crate::said::words::{short, with_minus};
use crate::shot::everything::Everything;
use crate::shot::facts::name_of;
use parallax_core::orient::{Edge, End, Facing, Fact, Miss, Off, Runs, Statement, Unused};
use parallax_core::spaces::TrackId;
use parallax_store::ShotState;
use parallax_store::statements::OF_CONSTRAINTS;
use serde::Serialize;

/// A statement in the notebook.
#[derive(Serialize)]
pub struct StatementRow {
    /// Its number; none where it is stated at Solve.
    id: Option<u32>,
    /// What others call it.
    name: String,
    stated: String,
    miss: String,
    /// Why it takes no part, or what else is to be known of its miss.
    more: String,
    off: bool,
    contradicts: bool,
    /// The features that it is about.
    tracks: Vec<u32>,
    /// The frame that it was marked on.
    frame: Option<i32>,
    /// Whether edges can be stated by it.
    is_edge: bool,
}

/// All statements, row by row.
pub fn rows(all: &Everything) -> Vec<StatementRow> {
    let state = &all.shot.state;
    let misses = all.orientation.as_ref().map_or(&[][..], |o| &o.misses);
    let scaled = all.orientation.as_ref().is_some_and(|o| o.scaled);
    let row = |(id, statement): (u32, Statement)| {
        let miss = misses.iter().find(|m| m.id == id && !statement.off);
        StatementRow {
            id: (id < OF_CONSTRAINTS).then_some(id),
            name: number(id),
            stated: stated(state, &statement.fact),
            miss: miss.map_or_else(|| "–".to_owned(), |m| missed(m, scaled)),
            more: miss.map_or_else(String::new, |m| more(state, m, scaled)),
            off: statement.off,
            contradicts: miss.is_some_and(|m| m.contradicts),
            tracks: statement.fact.features().iter().map(|t| t.0).collect(),
            frame: frame_of(&statement.fact),
            is_edge: matches!(statement.fact, Fact::Edge { .. }),
        }
    };
    state.stated().into_iter().map(row).collect()
}

/// What a statement is called by others.
pub fn number(id: u32) -> String {
    match id.checked_sub(OF_CONSTRAINTS) {
        Some(_) => "Solve".to_owned(),
        None => format!("#{id}"),
    }
}

fn frame_of<F>(fact: &Fact<F>) -> Option<i32> {
    match fact {
        Fact::Edge {
            edge: Edge::Rail(rail),
            ..
        }
        | Fact::Horizon { rail } => Some(rail.frame.0),
        Fact::CameraHeight { frame, .. } => Some(frame.0),
        Fact::Length { between, .. } => between.iter().find_map(|end| match end {
            End::Camera(frame) => Some(frame.0),
            End::Marked([first, _]) => Some(first.frame.0),
            End::OnPlane { sight, .. } => Some(sight.frame.0),
            End::Feature(_) => None,
        }),
        Fact::Plane { .. } | Fact::Origin { .. } | Fact::ByHand { .. } | Fact::Edge { .. } => None,
    }
}

/// A fact in words.
pub fn stated(state: &ShotState, fact: &Fact) -> String {
    let name = |track: &TrackId| name_of(state, *track);
    match fact {
        Fact::Plane { name, faces, on } => {
            let how = match faces {
                Facing::Ground => "is the ground",
                Facing::Level => "is level",
                Facing::Wall => "stands upright",
                Facing::Along => "faces along",
                Facing::Across => "faces across",
                Facing::Any => "is a plane",
            };
            format!("{name} {how}, {} features", on.len())
        }
        Fact::Origin { at } => format!("{} is the origin", name(at)),
        Fact::Edge { edge, runs } => {
            let edge = match edge {
                Edge::Features([a, b]) => format!("{} to {}", name(a), name(b)),
                Edge::Rail(rail) => format!("rail on {}", rail.frame),
            };
            let runs = match runs {
                Runs::Up => "runs up".to_owned(),
                Runs::Along => "runs along".to_owned(),
                Runs::Across => "runs across".to_owned(),
                Runs::Level => "is level".to_owned(),
                Runs::Free => "for others".to_owned(),
                Runs::With(id) => format!("is parallel to #{id}"),
                Runs::SquareTo(id) => format!("is square to #{id}"),
            };
            format!("{edge} {runs}")
        }
        Fact::Horizon { rail } => format!("horizon on {}", rail.frame),
        Fact::Length {
            between: [a, b],
            length_m,
            sigma_m,
        } => {
            let end = |end: &End| match end {
                End::Feature(track) => name(track),
                End::Camera(frame) => format!("camera on {frame}"),
                End::Marked([a, b]) => format!("mark on {} and {}", a.frame, b.frame),
                End::OnPlane { sight, plane } => format!("mark on {}, on #{plane}", sight.frame),
            };
            let ends = match (a, b) {
                (End::Marked([a, b]), End::Marked([c, d]))
                    if (a.frame, b.frame) == (c.frame, d.frame) =>
                {
                    format!("edge drawn on {} and {}", a.frame, b.frame)
                }
                _ => format!("{} to {}", end(a), end(b)),
            };
            format!("{ends}: {}", metres(*length_m, *sigma_m))
        }
        Fact::CameraHeight {
            frame,
            height_m,
            sigma_m,
        } => format!("camera on {frame} is {} high", metres(*height_m, *sigma_m)),
        Fact::ByHand {
            turn_deg,
            shift_m,
            scale,
        } => {
            let three = |of: &[f64; 3]| of.map(|v| with_minus(short(v, 3).to_string())).join(" ");
            let turned = format!("turned {}°", three(turn_deg));
            let shifted = format!("shifted {}", three(shift_m));
            let scaled = format!("scaled {}", short(*scale, 4));
            let all = [
                (*turn_deg != [0.0; 3], turned),
                (*shift_m != [0.0; 3], shifted),
                ((scale - 1.0).abs() > 0.0, scaled),
            ];
            let done: Vec<String> = all.into_iter().filter(|d| d.0).map(|d| d.1).collect();
            format!("by hand: {}", done.join(", "))
        }
    }
}

fn metres(length_m: f64, sigma_m: f64) -> String {
    format!(
        "{} m ± {} mm",
        short(length_m, 4),
        short(1000.0 * sigma_m, 3)
    )
}

/// A length of the new world, in mm where it has a scale.
fn length(value: f64, scaled: bool) -> String {
    // Rounded to nothing it has no sign.
    match scaled {
        true => with_minus(format!("{:.1} mm", short(1000.0 * value, 1) + 0.0)),
        false => with_minus(format!("{:.4} units", short(value, 4) + 0.0)),
    }
}

fn missed(miss: &Miss, scaled: bool) -> String {
    match &miss.off {
        Off::Flat(rms, _) => length(*rms, scaled),
        Off::Degrees(degrees) => format!("{:.2}°", short(*degrees, 2).abs()),
        Off::Length(off) => length(*off, scaled),
        Off::Exact => "–".to_owned(),
        Off::Unused(Unused::OnABody) => "on a body".to_owned(),
        Off::Unused(_) => "not heard".to_owned(),
    }
}

fn more(state: &ShotState, miss: &Miss, scaled: bool) -> String {
    match &miss.off {
        Off::Unused(why) => why.to_string(),
        Off::Flat(_, Some((track, off))) => format!(
            "{} lies {} off it, far more than the others",
            name_of(state, *track),
            length(off.abs(), scaled)
        ),
        _ if miss.contradicts => "it does not agree with the others".to_owned(),
        Off::Flat(..) | Off::Degrees(_) | Off::Length(_) | Off::Exact => String::new(),
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;
    use serde_json::{Value, json};

    #[rstest]
    #[case::plane(json!({"kind": "plane", "name": "floor", "faces": "ground", "on": [1, 2, 3]}), "floor is the ground, 3 features")]
    #[case::edge(json!({"kind": "edge", "edge": {"features": [1, 2]}, "runs": "along"}), "t0001 to t0002 runs along")]
    #[case::rail(json!({"kind": "edge", "edge": {"rail": {"frame": 7, "a": {"x": 1, "y": 2}, "b": {"x": 30, "y": 4}}}, "runs": {"square_to": 3}}), "rail on 7 is square to #3")]
    #[case::length(json!({"kind": "length", "between": [{"feature": 1}, {"camera": 7}], "length_m": 2.0, "sigma_m": 0.01}), "t0001 to camera on 7: 2 m ± 10 mm")]
    #[case::by_hand(json!({"kind": "by_hand", "turn_deg": [0, -20, 0], "shift_m": [0, 0, 0], "scale": 1.5}), "by hand: turned 0 −20 0°, scaled 1.5")]
    fn facts_read_as_sentences(#[case] fact: Value, #[case] expected: &str) {
        let read: Statement = serde_json::from_value(fact).unwrap();
        assert_eq!(stated(&ShotState::new(640, 360), &read.fact), expected);
    }

    #[rstest]
    #[case::metres(Off::Length(-0.0012), true, "−1.2 mm")]
    #[case::nothing(Off::Length(-0.000_01), true, "0.0 mm")]
    #[case::units(Off::Flat(0.01234, None), false, "0.0123 units")]
    #[case::degrees(Off::Degrees(0.204), true, "0.20°")]
    fn misses_state_their_unit(#[case] off: Off, #[case] scaled: bool, #[case] expected: &str) {
        let miss = Miss {
            id: 1,
            off,
            errors: 1.0,
            contradicts: false,
        };
        assert_eq!(missed(&miss, scaled), expected);
    }
}
