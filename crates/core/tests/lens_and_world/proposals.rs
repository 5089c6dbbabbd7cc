//! What landmarks propose: ground and walls of rooms that are known, behind any change of world; and no certainty
//! where there is none.

use crate::sets::{cameras, hidden, taken};
use nalgebra::{UnitQuaternion, Vector3};
use parallax_core::camera::{Intrinsics, Similarity};
use parallax_core::orient::{Facing, Fact, Placed, Proposal, Solved, Stand, orient, propose};
use parallax_core::solve::certain::PointCovariance;
use parallax_core::spaces::{TrackId, WorldPoint};
use rstest::rstest;

/// What a set has.
#[derive(Clone, Copy)]
struct Set {
    floor: usize,
    back: usize,
    side: usize,
    clutter: usize,
    /// The table's top, level and above the floor.
    table: usize,
    /// How the back wall is turned about up, degrees.
    turned_deg: f64,
    /// How the camera is held, degrees of roll.
    rolled_deg: f64,
    /// How far the side wall leans outwards, degrees.
    leans_deg: f64,
}

const ROOM: Set = Set {
    floor: 60,
    back: 50,
    side: 30,
    clutter: 60,
    table: 0,
    turned_deg: 0.0,
    rolled_deg: 0.0,
    leans_deg: 0.0,
};

const SIGMA: f64 = 0.004;

fn points(set: &Set, seed: u64) -> Vec<Vector3<f64>> {
    let mut random = fastrand::Rng::with_seed(seed);
    let mut draw = |low: f64, high: f64| low + (high - low) * random.f64();
    let mut out = Vec::new();
    let turned = UnitQuaternion::from_axis_angle(&Vector3::y_axis(), set.turned_deg.to_radians());
    for _ in 0..set.floor {
        out.push(Vector3::new(draw(-3.0, 3.0), 0.0, draw(-5.0, 2.0)));
    }
    for _ in 0..set.back {
        out.push(turned * Vector3::new(draw(-3.0, 3.0), draw(0.1, 2.6), -5.0));
    }
    for _ in 0..set.side {
        let height = draw(0.1, 2.6);
        let out_by = height * set.leans_deg.to_radians().tan();
        out.push(turned * Vector3::new(-3.2 - out_by, height, draw(-5.0, 1.0)));
    }
    for _ in 0..set.table {
        out.push(Vector3::new(draw(-1.0, 1.5), 0.8, draw(-3.5, -1.5)));
    }
    for _ in 0..set.clutter {
        out.push(Vector3::new(
            draw(-2.5, 2.5),
            draw(0.05, 1.8),
            draw(-4.5, 0.0),
        ));
    }
    let mut noise = || SIGMA * ((0..12).map(|_| random.f64()).sum::<f64>() - 6.0);
    out.into_iter()
        .map(|p| p + Vector3::new(noise(), noise(), noise()))
        .collect()
}

fn solved(set: &Set, seed: u64, hidden: &Similarity) -> (Vec<Placed>, Vec<Stand>) {
    let covariance = PointCovariance::of_sigma([SIGMA; 3])
        .unwrap()
        .in_world(hidden);
    let placed = |(i, at): (usize, Vector3<f64>)| {
        (
            TrackId(i as u32 + 1),
            hidden.point(&WorldPoint(at.into())),
            Some(covariance),
        )
    };
    let landmarks = points(set, seed)
        .into_iter()
        .enumerate()
        .map(placed)
        .collect();
    let lens = Intrinsics::centred(1280, 720, 1000.0);
    (landmarks, cameras(lens, 1.5, 0.3, set.rolled_deg))
}

fn proposed(set: &Set, seed: u64) -> (Solved<'static>, Vec<Proposal>) {
    let (landmarks, cameras) = solved(set, seed, &hidden());
    let solved = Solved::new(landmarks, cameras, true, None);
    let proposals = propose(&solved, &[], &[]);
    (solved, proposals)
}

fn facing(proposal: &Proposal) -> Facing {
    match &proposal.fact {
        Fact::Plane { faces, .. } => *faces,
        other => panic!("{other:?}"),
    }
}

/// Taken as they are, proposals put the world upright and square to its walls.
#[rstest]
#[case::room(ROOM)]
#[case::held_askew(Set { rolled_deg: 12.0, ..ROOM })]
#[case::a_table(Set { table: 40, clutter: 30, ..ROOM })]
#[case::more_wall_than_floor(Set { floor: 30, back: 90, ..ROOM })]
#[case::turned_walls(Set { turned_deg: 25.0, ..ROOM })]
fn ground_and_walls_are_proposed(#[case] set: Set) {
    let (solved, proposals) = proposed(&set, 3);
    assert_eq!(facing(&proposals[0]), Facing::Ground);
    assert!(proposals[0].sure && proposals[1].sure, "{proposals:?}");
    let found = orient(&solved, &taken(&proposals));
    assert!(found.levelled && found.headed);
    let turn = found.change.rotation * hidden().rotation;
    let up = (turn * Vector3::y()).angle(&Vector3::y()).to_degrees();
    let back = turn * Vector3::z();
    let heading = back.x.atan2(back.z).to_degrees() + set.turned_deg;
    let heading = heading - 90.0 * (heading / 90.0).round();
    assert!(
        up < 0.3 && heading.abs() < 0.5,
        "up {up}, heading {heading}"
    );
    // The wall that is seen from the front faces across, as the camera looks.
    assert_eq!(facing(&proposals[1]), Facing::Across);
}

/// What is certain agrees with all else that is: a side wall that leans is not stated to be upright.
#[rstest]
#[case::upright(0.0, 3)]
#[case::leaning(3.2, 2)]
#[case::leaning_the_other_way(-3.2, 2)]
fn what_is_proposed_for_certain_agrees(#[case] leans_deg: f64, #[case] sure: usize) {
    let (solved, proposals) = proposed(
        &Set {
            leans_deg,
            side: 45,
            ..ROOM
        },
        3,
    );
    let certain = taken(&proposals);
    assert_eq!(certain.len(), sure, "{proposals:?}");
    assert_eq!(orient(&solved, &certain).contradicting(), []);
}

/// Nothing plane, hardly a floor, a floor alone: what is proposed is no more certain than it is.
#[rstest]
#[case::clutter(Set { floor: 0, back: 0, side: 0, clutter: 150, ..ROOM }, false, 0)]
#[case::a_wall_alone(Set { floor: 0, side: 0, clutter: 40, ..ROOM }, false, 0)]
#[case::few_on_the_floor(Set { floor: 14, back: 0, side: 0, clutter: 60, ..ROOM }, false, 0)]
#[case::floor_alone(Set { back: 0, side: 0, clutter: 40, ..ROOM }, true, 0)]
fn what_is_unsure_is_said_to_be(#[case] set: Set, #[case] ground: bool, #[case] walls: usize) {
    for seed in 1..6 {
        let (_, proposals) = proposed(&set, seed);
        let sure = |wanted: bool| {
            let all = proposals.iter().filter(|p| p.sure);
            all.filter(|p| (facing(p) == Facing::Ground) == wanted)
                .count()
        };
        assert_eq!(
            (sure(true), sure(false)),
            (usize::from(ground), walls),
            "{seed}: {proposals:?}"
        );
    }
}

/// Of a camera that turns on the spot landmarks are directions, and propose nothing.
#[test]
fn directions_propose_nothing() {
    let (landmarks, cameras) = solved(&ROOM, 1, &hidden());
    assert_eq!(
        propose(&Solved::new(landmarks, cameras, false, None), &[], &[]),
        []
    );
}
