//! What straight edges of the pictures propose: up and heading of sets that are known, for cameras that travel and that
//! turn on the spot, behind any change of world and a bent lens; and no certainty where edges run anyhow.

use crate::sets::{self, hidden, taken};
use nalgebra::{UnitQuaternion, Vector3};
use parallax_core::camera::Intrinsics;
use parallax_core::lens::Distortion;
use parallax_core::orient::propose::edges::worth_a_look;
use parallax_core::orient::{
    Evidence, Facing, Fact, Pictured, Proposal, Runs, Solved, Stand, Statement, orient, propose,
};
use parallax_core::photo::segments::Segment;
use parallax_core::solve::certain::PointCovariance;
use parallax_core::spaces::{FrameNumber, PlatePx, TrackId, WorldPoint};
use rstest::rstest;

/// How many edges a set has each way, and how many that run anyhow.
#[derive(Clone, Copy)]
struct Set {
    up: usize,
    along: usize,
    across: usize,
    anyhow: usize,
    /// How the set is turned about up, degrees.
    turned_deg: f64,
    /// How the camera is held, degrees of roll.
    rolled_deg: f64,
    travels: bool,
}

const BUILT: Set = Set {
    up: 14,
    along: 12,
    across: 9,
    anyhow: 30,
    turned_deg: 12.0,
    rolled_deg: 4.0,
    travels: true,
};

/// Ends of edges are found to this, px.
const NOISE_PX: f64 = 0.2;

type Line = [Vector3<f64>; 2];

fn lines(set: &Set, random: &mut fastrand::Rng) -> Vec<Line> {
    let mut draw = |low: f64, high: f64| low + (high - low) * random.f64();
    let turned = UnitQuaternion::from_axis_angle(&Vector3::y_axis(), set.turned_deg.to_radians());
    let mut out = Vec::new();
    for (count, way) in [
        (set.up, Vector3::y()),
        (set.along, Vector3::x()),
        (set.across, Vector3::z()),
    ] {
        for _ in 0..count {
            let from = Vector3::new(draw(-3.0, 3.0), draw(0.0, 2.5), draw(-6.0, -2.0));
            let long = draw(0.8, 2.0);
            out.push([turned * from, turned * (from + way * long)]);
        }
    }
    for _ in 0..set.anyhow {
        let from = Vector3::new(draw(-3.0, 3.0), draw(0.0, 2.5), draw(-6.0, -2.0));
        let way = Vector3::new(draw(-1.0, 1.0), draw(-1.0, 1.0), draw(-1.0, 1.0)).normalize();
        out.push([from, from + way * draw(0.8, 2.0)]);
    }
    out
}

/// Through a bent lens.
fn cameras(set: &Set) -> Vec<Stand> {
    let lens = Intrinsics {
        distortion: Distortion::radial(-0.08, 0.01),
        ..Intrinsics::centred(1280, 720, 1000.0)
    };
    let travels = if set.travels { 1.5 } else { 0.0 };
    sets::cameras(lens, travels, 1.6, set.rolled_deg)
}

/// A solved shot of a set without landmarks, and the edges of the frames that are worth a look.
fn seen(set: &Set, seed: u64) -> (Solved<'static>, Vec<Pictured>) {
    let mut random = fastrand::Rng::with_seed(seed);
    let lines = lines(set, &mut random);
    let solved = Solved::new(Vec::new(), cameras(set), set.travels, None);
    let pictured = worth_a_look(&solved).into_iter().map(|frame| {
        let stand = solved.cameras.iter().find(|c| c.frame == frame).unwrap();
        let mut px = |at: &Vector3<f64>| {
            let place = hidden().point(&WorldPoint((*at).into()));
            let at = stand.eye.lens.project(&stand.eye.pose, &place)?;
            let mut off = || NOISE_PX * ((0..12).map(|_| random.f64()).sum::<f64>() - 6.0);
            let moved = PlatePx::new(at.x + off(), at.y + off());
            stand.eye.lens.holds(moved).then_some(moved)
        };
        let edges = lines.iter().filter_map(|[a, b]| {
            let (a, b) = (px(a)?, px(b)?);
            let rms_px = NOISE_PX;
            Some(Segment { a, b, rms_px })
        });
        Pictured {
            frame,
            edges: edges.collect(),
        }
    });
    let pictured = pictured.collect();
    (solved, pictured)
}

fn runs(proposal: &Proposal) -> Runs {
    match &proposal.fact {
        Fact::Edge { runs, .. } => *runs,
        other => panic!("{other:?}"),
    }
}

/// How far off up and heading are, degrees, once all that is sure is taken.
fn off(solved: &Solved<'_>, proposals: &[Proposal], set: &Set) -> (f64, f64) {
    let found = orient(solved, &taken(proposals));
    assert!(found.levelled && found.headed, "{proposals:?}");
    assert_eq!(found.contradicting(), []);
    let turn = found.change.rotation * hidden().rotation;
    let up = (turn * Vector3::y()).angle(&Vector3::y()).to_degrees();
    let across = turn * Vector3::z();
    let heading = across.x.atan2(across.z).to_degrees() + set.turned_deg;
    (up, heading - 90.0 * (heading / 90.0).round())
}

/// Taken as they are, edges put the world upright and along the set, whether the camera travels or not.
#[rstest]
#[case::walk(BUILT)]
#[case::turning_on_the_spot(Set { travels: false, ..BUILT })]
#[case::held_askew(Set { rolled_deg: 17.0, ..BUILT })]
#[case::much_that_runs_anyhow(Set { anyhow: 60, up: 20, along: 20, ..BUILT })]
#[case::hardly_anything_across(Set { across: 0, ..BUILT })]
fn edges_say_up_and_heading(#[case] set: Set) {
    for seed in 1..6 {
        let (solved, pictures) = seen(&set, seed);
        let proposals = propose(&solved, &pictures, &[]);
        let (up, heading) = off(&solved, &proposals, &set);
        assert!(
            up < 0.3 && heading.abs() < 0.4,
            "{seed}: up {up}, heading {heading}"
        );
    }
}

/// Edges that run across the first picture are along, and evidence is counted over all pictures.
#[test]
fn directions_are_named_as_the_first_camera_sees_them() {
    let set = Set {
        turned_deg: 0.0,
        rolled_deg: 0.0,
        ..BUILT
    };
    let (solved, pictures) = seen(&set, 3);
    let proposals = propose(&solved, &pictures, &[]);
    let along = proposals.iter().find(|p| runs(p) == Runs::Along).unwrap();
    let Evidence::Edges { edges, share } = along.evidence else {
        panic!("{along:?}");
    };
    assert!(edges > 4 * pictures.len() && (0.1..0.6).contains(&share));
    let found = orient(&solved, &taken(&proposals));
    let turn = found.change.rotation * hidden().rotation;
    assert!((turn * Vector3::x()).x.abs() > 0.999);
}

/// Edges that run anyhow are no evidence; uprights alone say up and no heading.
#[rstest]
#[case::anyhow(Set { up: 0, along: 0, across: 0, anyhow: 60, ..BUILT }, false)]
#[case::few(Set { up: 3, along: 2, across: 0, anyhow: 40, ..BUILT }, false)]
#[case::uprights(Set { up: 30, along: 0, across: 0, anyhow: 20, ..BUILT }, true)]
fn what_is_unsure_is_said_to_be(#[case] set: Set, #[case] up: bool) {
    for seed in 1..8 {
        let (solved, pictures) = seen(&set, seed);
        let proposals = propose(&solved, &pictures, &[]);
        let sure: Vec<Runs> = proposals.iter().filter(|p| p.sure).map(runs).collect();
        assert!(sure.iter().all(|r| *r == Runs::Up), "{seed}: {sure:?}");
        assert_eq!(!sure.is_empty(), up, "{seed}: {proposals:?}");
    }
}

/// A floor and a wall as landmarks, the wall as it is, and edges of a set that is turned.
fn walled(set: &Set, seed: u64) -> (Solved<'static>, Vec<Pictured>) {
    let (solved, pictures) = seen(set, seed);
    let mut random = fastrand::Rng::with_seed(seed);
    let mut draw = |low: f64, high: f64| low + (high - low) * random.f64();
    let mut places = Vec::new();
    for _ in 0..60 {
        places.push(Vector3::new(draw(-3.0, 3.0), 0.0, draw(-6.0, 0.0)));
        places.push(Vector3::new(draw(-3.0, 3.0), draw(0.1, 2.6), -6.0));
    }
    let covariance = PointCovariance::of_sigma([0.002; 3]).unwrap();
    let covariance = Some(covariance.in_world(&hidden()));
    let landmarks = (1..).zip(places).map(|(id, at)| {
        let place = hidden().point(&WorldPoint(at.into()));
        (TrackId(id), place, covariance)
    });
    let solved = Solved::new(landmarks.collect(), solved.cameras, true, None);
    (solved, pictures)
}

/// Tiles that are laid at an angle say up like all else; the heading is the wall's.
#[rstest]
#[case::along_the_wall(0.0, true)]
#[case::tiles_at_an_angle(35.0, false)]
fn the_heading_of_edges_yields_to_that_of_a_wall(#[case] turned_deg: f64, #[case] both: bool) {
    let set = Set {
        turned_deg,
        ..BUILT
    };
    for seed in 1..6 {
        let (solved, pictures) = walled(&set, seed);
        let proposals = propose(&solved, &pictures, &[]);
        let sure: Vec<&Fact> = proposals
            .iter()
            .filter(|p| p.sure)
            .map(|p| &p.fact)
            .collect();
        let is_edge = |wanted: Runs| {
            sure.iter()
                .any(|f| matches!(f, Fact::Edge { runs, .. } if *runs == wanted))
        };
        assert!(is_edge(Runs::Up), "{seed}: {proposals:?}");
        assert_eq!(is_edge(Runs::Along), both, "{seed}: {proposals:?}");
        let (up, heading) = off(
            &solved,
            &proposals,
            &Set {
                turned_deg: 0.0,
                ..set
            },
        );
        assert!(
            up < 0.2 && heading.abs() < 0.3,
            "{seed}: up {up}, heading {heading}"
        );
    }
}

/// What is stated stands, whether it is right or not: nothing that contradicts it is certain.
#[test]
fn what_is_stated_stands() {
    let (solved, pictures) = walled(
        &Set {
            turned_deg: 0.0,
            ..BUILT
        },
        3,
    );
    let on_ground = (1..120)
        .step_by(2)
        .map(TrackId)
        .take(20)
        .collect::<Vec<_>>();
    let floor = |faces| {
        let fact = Fact::Plane {
            name: "floor".into(),
            faces,
            on: on_ground.clone(),
        };
        (7, Statement { fact, off: false })
    };
    let certain = |faces| {
        let all = propose(&solved, &pictures, &[floor(faces)]);
        let sure = taken(&all);
        let both = [
            vec![floor(faces)],
            sure.iter().map(|(id, s)| (id + 7, s.clone())).collect(),
        ];
        assert_eq!(orient(&solved, &both.concat()).contradicting(), []);
        sure.len()
    };
    let (right, wrong) = (certain(Facing::Ground), certain(Facing::Across));
    assert!(right > 4, "{right} beside what is right");
    assert!(wrong < right, "{wrong} beside what is wrong");
    let never = propose(&solved, &pictures, &[floor(Facing::Across)]);
    let ground = |p: &&Proposal| {
        matches!(
            &p.fact,
            Fact::Plane {
                faces: Facing::Ground,
                ..
            }
        )
    };
    assert!(!never.iter().find(ground).unwrap().sure);
}

/// No pictures, pictures without edges, frames without a camera: nothing is proposed.
#[test]
fn nothing_is_proposed_of_nothing() {
    let (solved, pictures) = seen(&BUILT, 1);
    let frame = pictures[0].frame;
    let empty = Pictured {
        frame,
        edges: Vec::new(),
    };
    let elsewhere = Pictured {
        frame: FrameNumber(900),
        ..pictures[0].clone()
    };
    for given in [vec![], vec![empty], vec![elsewhere]] {
        assert_eq!(propose(&solved, &given, &[]), []);
    }
}
