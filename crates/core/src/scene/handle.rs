//! The handle that a world or a guest is moved by: three rods that shift, three arcs that turn, and a knob that makes
//! it larger. One shape for space and plate, in lengths of an arm from its own origin.

use crate::camera::{Intrinsics, Pose, Similarity};
use crate::spaces::{PlatePx, WorldPoint};
use nalgebra::Vector3;

/// What dragging a part does.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Drags {
    /// Shifts along an axis; a step is the length of an arm.
    Shift,
    /// Turns about an axis; a step is a radian.
    Turn,
    /// Makes larger; a step doubles.
    Scale,
}

/// A part of the handle with the knob that it is dragged by.
#[derive(Clone, Debug, PartialEq)]
pub struct Part {
    /// What it does.
    pub drags: Drags,
    /// The axis: along, up, across.
    pub axis: usize,
    /// Its knob.
    pub knob: Vector3<f64>,
    /// Which way a drag by one step takes the knob, at first.
    pub step: Vector3<f64>,
    /// Its lines, each by its ends; a rod is made of bands.
    pub lines: Vec<[Vector3<f64>; 2]>,
}

/// Bands of a rod, painted by turns.
const BANDS: usize = 5;
/// How far an arc is from the origin; pieces of its quarter turn, and ticks, every 15 degrees and so long.
const ARC: f64 = 0.7;
const PIECES: usize = 18;
const TICKS: usize = 6;
const TICK: f64 = 0.05;

fn unit(axis: usize) -> Vector3<f64> {
    Vector3::ith(axis % 3, 1.0)
}

/// A place on the arc about an axis.
fn on_arc(axis: usize, share: f64) -> Vector3<f64> {
    let angle = share * std::f64::consts::FRAC_PI_2;
    (unit(axis + 1) * angle.cos() + unit(axis + 2) * angle.sin()) * ARC
}

/// The parts of a handle: rods, arcs, the knob between the rods.
pub fn parts() -> [Part; 7] {
    let rod = |axis: usize| {
        let at = |k: usize| unit(axis) * (k as f64 / BANDS as f64);
        Part {
            drags: Drags::Shift,
            axis,
            knob: unit(axis),
            step: unit(axis),
            lines: (0..BANDS).map(|k| [at(k), at(k + 1)]).collect(),
        }
    };
    let arc = |axis: usize| {
        let at = |k: usize| on_arc(axis, k as f64 / PIECES as f64);
        let tick = |k: usize| {
            let foot = on_arc(axis, k as f64 / TICKS as f64);
            [foot, foot * (1.0 + TICK / ARC)]
        };
        let pieces = (0..PIECES).map(|k| [at(k), at(k + 1)]);
        let knob = on_arc(axis, 0.5);
        Part {
            drags: Drags::Turn,
            axis,
            knob,
            step: unit(axis).cross(&knob),
            lines: pieces.chain((0..=TICKS).map(tick)).collect(),
        }
    };
    let between = Vector3::repeat(0.5);
    let knob = Part {
        drags: Drags::Scale,
        axis: 0,
        knob: between,
        step: between,
        lines: vec![[Vector3::zeros(), between]],
    };
    [rod(0), rod(1), rod(2), arc(0), arc(1), arc(2), knob]
}

/// A part as it falls on the plate.
#[derive(Clone, Debug, PartialEq)]
pub struct Drawn {
    /// What it does.
    pub drags: Drags,
    /// The axis.
    pub axis: usize,
    /// Its knob.
    pub knob: PlatePx,
    /// Where a drag by this many steps would take it.
    pub later: PlatePx,
    /// Its lines, each by its ends; a band of a rod each.
    pub lines: Vec<[PlatePx; 2]>,
}

/// So many steps later a knob is where [`Drawn::later`] has it.
pub const LATER: f64 = 0.05;
/// An arm is so long, share of the distance that it is seen from.
const SIZE: f64 = 0.16;

/// The handle of a thing on the plate, and the length of its arms in units of the world; `placed` leads from the
/// thing's own axes to the world. `None` where its origin is not in the picture.
pub fn on_plate(lens: &Intrinsics, pose: &Pose, placed: &Similarity) -> Option<(f64, Vec<Drawn>)> {
    let origin = placed.point(&WorldPoint::new(0.0, 0.0, 0.0));
    let seen = lens.project(pose, &origin)?;
    if !lens.holds(seen) {
        return None;
    }
    let arm = SIZE * origin.distance(pose.centre());
    let place = |v: &Vector3<f64>| WorldPoint(origin.0 + placed.rotation * v * arm);
    let drawn = |part: Part| {
        // They are short: where the lens bends them their ends are enough.
        let seen = |v: &Vector3<f64>| lens.project(pose, &place(v));
        let lines = (part.lines.iter()).filter_map(|[a, b]| Some([seen(a)?, seen(b)?]));
        Some(Drawn {
            drags: part.drags,
            axis: part.axis,
            knob: seen(&part.knob)?,
            later: seen(&(part.knob + part.step * LATER))?,
            lines: lines.collect(),
        })
    };
    Some((arm, parts().into_iter().filter_map(drawn).collect()))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::lens::Distortion;
    use nalgebra::UnitQuaternion;

    /// What a step says is where a knob goes when the thing is shifted, turned or made larger by it.
    #[test]
    fn a_step_takes_the_knob_where_the_thing_goes() {
        for part in parts() {
            let by = 1e-6;
            let moved = match part.drags {
                Drags::Shift => part.knob + unit(part.axis) * by,
                Drags::Turn => UnitQuaternion::new(unit(part.axis) * by) * part.knob,
                Drags::Scale => part.knob * (1.0 + by),
            };
            let off = moved - part.knob - part.step * by;
            assert!(off.norm() < 1e-11, "{part:?}: {off}");
        }
    }

    /// Behind a bent lens knobs are where their places are seen, lines end at them, and an arm is as long as it says.
    #[test]
    fn knobs_lie_where_their_places_are_seen() {
        let lens = Intrinsics {
            distortion: Distortion::radial(-0.12, 0.01),
            ..Intrinsics::centred(1280, 720, 1000.0)
        };
        let pose = Pose::looking_at(&[1.0, 1.6, 4.0].into(), &[0.0; 3].into(), &Vector3::y());
        let placed = Similarity {
            rotation: UnitQuaternion::new(Vector3::new(0.0, 0.4, 0.0)),
            translation: Vector3::new(0.3, 0.2, -0.5),
            scale: 3.0,
        };
        let (arm, drawn) = on_plate(&lens, &pose, &placed).unwrap();
        assert_eq!(drawn.len(), 7);
        for part in &drawn {
            let axis = match part.drags {
                Drags::Shift => unit(part.axis),
                Drags::Turn | Drags::Scale => continue,
            };
            let tip = WorldPoint((placed.translation + placed.rotation * axis * arm).into());
            let seen = lens.project(&pose, &tip).unwrap();
            assert!(seen.distance_px(part.knob) < 1e-9);
            let [_, end] = *part.lines.last().unwrap();
            assert!(seen.distance_px(end) < 1e-9);
        }
        let behind = Similarity {
            translation: Vector3::new(2.0, 3.0, 9.0),
            ..placed
        };
        assert_eq!(on_plate(&lens, &pose, &behind), None);
    }
}
