//! A world that is known, hidden behind a change of world and noise: statements bring it back, say how exactly, and
//! say what contradicts them.

use nalgebra::{DMatrix, Matrix3, Point3, UnitQuaternion, Vector3};
use parallax_core::camera::{Eye, Intrinsics, Pose, Similarity};
use parallax_core::lens::Distortion;
use parallax_core::orient::{
    Edge, End, Facing, Fact, Off, Orientation, Placed, Rail, Runs, Sight, Solved, Stand, Stated,
    Statement, Together, Unused, orient,
};
use parallax_core::solve::certain::PointCovariance;
use parallax_core::spaces::{FrameNumber, TrackId, WorldPoint};
use proptest::prelude::*;
use rstest::rstest;

/// Landmarks of a room: a floor (1 to 12), a wall that faces across (21 to 26), a table (31 to 34).
fn places() -> Vec<(u32, [f64; 3])> {
    let floor = (0..12).map(|i| {
        let (x, z) = (f64::from(i % 4) * 1.3 - 2.0, f64::from(i / 4) * 1.7 - 3.0);
        (1 + i as u32, [x, 0.0, z + 0.1 * x])
    });
    let wall = (0..6).map(|i| {
        let at = [
            f64::from(i % 3) * 1.5 - 1.6,
            0.4 + 1.1 * f64::from(i / 3),
            -5.0,
        ];
        (21 + i as u32, at)
    });
    let table = [
        [0.5, 0.75, -2.0],
        [1.7, 0.75, -2.0],
        [0.5, 0.75, -2.8],
        [1.7, 0.75, -2.8],
    ];
    let table = table
        .into_iter()
        .enumerate()
        .map(|(i, at)| (31 + i as u32, at));
    floor.chain(wall).chain(table).collect()
}

fn lens() -> Intrinsics {
    Intrinsics {
        distortion: Distortion::radial(-0.08, 0.01),
        ..Intrinsics::centred(1920, 1080, 1500.0)
    }
}

/// The camera on a frame of 1 to 9, which walks past and looks slightly down.
fn pose(frame: i32) -> Pose {
    let t = f64::from(frame - 5) / 4.0;
    Pose::looking_at(
        &Point3::new(1.4 * t, 1.6 + 0.1 * t, 4.0),
        &Point3::new(0.2 * t, 0.8, -2.0),
        &Vector3::y(),
    )
}

struct Hidden {
    landmarks: Vec<Placed>,
    cameras: Vec<Stand>,
    travels: bool,
}

impl Hidden {
    fn exact(change: &Similarity) -> Self {
        Self::noisy(change, &[], Matrix3::identity() * 1e-12)
    }

    /// Each landmark off by what `noise` has for it (in the true world), whose covariance is told.
    fn noisy(change: &Similarity, noise: &[Vector3<f64>], covariance: Matrix3<f64>) -> Self {
        let covariance = PointCovariance::new(&covariance).unwrap().in_world(change);
        let placed = |(i, (id, at)): (usize, (u32, [f64; 3]))| {
            let off = noise.get(i).copied().unwrap_or_default();
            let at = WorldPoint(Point3::from(at) + off);
            (TrackId(id), change.point(&at), Some(covariance))
        };
        let cameras = (1..=9).map(|frame| Stand {
            frame: FrameNumber(frame),
            eye: Eye {
                lens: lens(),
                pose: change.pose(&pose(frame)),
            },
            covariance: None,
        });
        Self {
            landmarks: places().into_iter().enumerate().map(placed).collect(),
            cameras: cameras.collect(),
            travels: true,
        }
    }

    fn solved<'a>(&self, together: Option<&'a dyn Together>) -> Solved<'a> {
        let (landmarks, cameras) = (self.landmarks.clone(), self.cameras.clone());
        Solved::new(landmarks, cameras, self.travels, together)
    }

    fn oriented(&self, facts: Vec<Fact>) -> Orientation {
        orient(&self.solved(None), &stated(facts))
    }
}

fn stated(facts: Vec<Fact>) -> Vec<Stated> {
    let on = |(i, fact)| (i as u32 + 1, Statement { fact, off: false });
    facts.into_iter().enumerate().map(on).collect()
}

fn change_of(turn: [f64; 3], shift: [f64; 3], scale: f64) -> Similarity {
    Similarity {
        rotation: UnitQuaternion::new(turn.into()),
        translation: shift.into(),
        scale,
    }
}

fn somewhere() -> Similarity {
    change_of([0.4, -0.9, 0.3], [2.0, -1.0, 5.0], 0.37)
}

fn tracks(ids: impl IntoIterator<Item = u32>) -> Vec<TrackId> {
    ids.into_iter().map(TrackId).collect()
}

fn plane(name: &str, faces: Facing, on: impl IntoIterator<Item = u32>) -> Fact {
    let name = name.to_owned();
    let on = tracks(on);
    Fact::Plane { name, faces, on }
}

fn floor() -> Fact {
    plane("floor", Facing::Ground, 1..=12)
}

fn origin(track: u32) -> Fact {
    Fact::Origin { at: TrackId(track) }
}

fn edge(a: u32, b: u32, runs: Runs) -> Fact {
    let edge = Edge::Features([TrackId(a), TrackId(b)]);
    Fact::Edge { edge, runs }
}

/// A rail over the plate along a true edge.
fn drawn(frame: i32, a: [f64; 3], b: [f64; 3]) -> Rail {
    let px = |at: [f64; 3]| {
        lens()
            .project(&pose(frame), &WorldPoint(at.into()))
            .unwrap()
    };
    let (a, b) = (px(a), px(b));
    let frame = FrameNumber(frame);
    Rail { frame, a, b }
}

fn rail(frame: i32, a: [f64; 3], b: [f64; 3], runs: Runs) -> Fact {
    let edge = Edge::Rail(drawn(frame, a, b));
    Fact::Edge { edge, runs }
}

fn sight(frame: i32, at: [f64; 3]) -> Sight {
    let px = lens()
        .project(&pose(frame), &WorldPoint(at.into()))
        .unwrap();
    let frame = FrameNumber(frame);
    Sight { frame, px }
}

fn length(a: End, b: End, length_m: f64) -> Fact {
    Fact::Length {
        between: [a, b],
        length_m,
        sigma_m: 0.002,
    }
}

fn feature(id: u32) -> End {
    End::Feature(TrackId(id))
}

fn apart(a: u32, b: u32) -> f64 {
    let of = |id| Vector3::from(places().into_iter().find(|p| p.0 == id).unwrap().1);
    (of(a) - of(b)).norm()
}

/// Angle of up, and of the heading, against the truth, degrees.
fn off_deg(hidden: &Similarity, found: &Orientation) -> (f64, f64) {
    let turn = found.change.rotation * hidden.rotation;
    let up = (turn * Vector3::y()).angle(&Vector3::y());
    let back = turn * Vector3::z();
    let heading = back.x.atan2(back.z);
    (up.to_degrees(), heading.to_degrees())
}

proptest! {
    /// Ground, origin, an edge and a length make any world true, to the last landmark.
    #[test]
    fn any_world_is_put_upright_headed_and_to_scale(
        turn in prop::array::uniform3(-3.0..3.0f64), shift in prop::array::uniform3(-9.0..9.0f64), scale in 0.05..20.0f64
    ) {
        let hidden = change_of(turn, shift, scale);
        let found = Hidden::exact(&hidden).oriented(vec![
            floor(), origin(2), edge(31, 32, Runs::Along), length(feature(1), feature(12), apart(1, 12)),
        ]);
        prop_assert!(found.levelled && found.headed && found.scaled);
        prop_assert!(found.ground.unwrap().abs() < 1e-5);
        let base = Vector3::from(places()[1].1);
        for (landmark, (_, truth)) in Hidden::exact(&hidden).landmarks.iter().zip(places()) {
            let at = found.change.point(&landmark.1).0.coords;
            prop_assert!((at - (Vector3::from(truth) - base)).norm() < 1e-4, "{at} for {truth:?}");
        }
    }
}

/// Each way to say which way is up and which along, alone or together.
#[rstest]
#[case::ground(vec![floor()], true, false)]
#[case::ceiling(vec![plane("table", Facing::Level, 31..=34)], true, false)]
#[case::plumb_edge(vec![edge(21, 24, Runs::Up)], true, false)]
#[case::plumb_rails(vec![rail(2, [-1.6, 0.4, -5.0], [-1.6, 2.0, -5.0], Runs::Up), rail(2, [1.7, 0.1, -2.0], [1.7, 1.5, -2.0], Runs::Up)], true, false)]
#[case::horizon(vec![Fact::Horizon { rail: drawn(3, [-300.0, 1.55, -1000.0], [400.0, 1.55, -1000.0]) }], true, false)]
#[case::ground_and_edge(vec![floor(), edge(31, 33, Runs::Across)], true, true)]
#[case::ground_and_rail(vec![floor(), rail(5, [-2.0, 0.0, -3.0], [2.0, 0.0, -3.0], Runs::Along)], true, true)]
#[case::ground_and_wall(vec![floor(), plane("back", Facing::Across, 21..=26)], true, true)]
#[case::two_edges(vec![edge(31, 32, Runs::Along), edge(31, 33, Runs::Across)], true, true)]
#[case::plumb_and_level(vec![edge(21, 24, Runs::Up), rail(7, [-1.0, 0.75, -2.0], [2.0, 0.75, -2.0], Runs::Along)], true, true)]
#[case::parallels(vec![floor(), rail(5, [-2.0, 0.0, -3.0], [2.0, 0.0, -3.0], Runs::Free), rail(8, [-1.0, 1.0, -4.0], [2.0, 1.0, -4.0], Runs::With(2)),
    edge(31, 33, Runs::SquareTo(2)), edge(32, 34, Runs::Across)], true, true)]
#[case::walls(vec![plane("side", Facing::Wall, [21, 24, 31]), edge(21, 24, Runs::Up)], true, false)]
#[case::level_edges(vec![edge(31, 32, Runs::Level), edge(31, 33, Runs::Level)], true, false)]
fn directions_are_found(#[case] facts: Vec<Fact>, #[case] levelled: bool, #[case] headed: bool) {
    let hidden = somewhere();
    let found = Hidden::exact(&hidden).oriented(facts);
    assert_eq!(found.unused().count(), 0, "{:?}", found.misses);
    assert_eq!(
        (found.levelled, found.headed, found.scaled),
        (levelled, headed, false)
    );
    let (up, heading) = off_deg(&hidden, &found);
    // The horizon is drawn at a finite distance and the camera's height.
    assert!(up < 0.02, "{up} degrees");
    assert!(!headed || heading.abs() < 0.02, "{heading} degrees");
    assert!(
        heading.abs() < 45.0,
        "the first camera looks across: {heading}"
    );
    assert!(
        found.misses.iter().all(|m| !m.contradicts),
        "{:?}",
        found.misses
    );
}

/// Each way to say how long a metre is.
#[rstest]
#[case::features(vec![length(feature(31), feature(32), 1.2)])]
#[case::camera(vec![length(End::Camera(FrameNumber(5)), feature(3), {
    let at = Vector3::from(places()[2].1);
    (at - pose(5).centre().0.coords).norm()
})])]
#[case::height(vec![floor(), Fact::CameraHeight { frame: FrameNumber(5), height_m: 1.6, sigma_m: 0.01 }])]
#[case::marked(vec![length(
    End::Marked([sight(1, [-1.0, 0.5, -4.0]), sight(9, [-1.0, 0.5, -4.0])]),
    End::Marked([sight(1, [-1.0, 1.5, -4.0]), sight(9, [-1.0, 1.5, -4.0])]), 1.0)])]
#[case::along_a_rail(vec![floor(), length(
    End::OnPlane { sight: sight(4, [-1.0, 0.0, -2.0]), plane: 1 },
    End::OnPlane { sight: sight(4, [1.5, 0.0, -2.0]), plane: 1 }, 2.5)])]
#[case::several(vec![length(feature(31), feature(32), 1.2), length(feature(31), feature(33), 0.8), length(feature(21), feature(24), 1.1)])]
fn a_metre_is_found(#[case] facts: Vec<Fact>) {
    let hidden = somewhere();
    let found = Hidden::exact(&hidden).oriented(facts);
    assert_eq!(found.unused().count(), 0, "{:?}", found.misses);
    assert!(found.scaled);
    let share = found.change.scale * hidden.scale - 1.0;
    assert!(share.abs() < 1e-3, "{share}");
    let sigma = found.scale_share_sigma.unwrap();
    assert!((1e-4..0.05).contains(&sigma), "{sigma}");
}

/// A length alone leaves the world as it was solved, but for its size.
#[test]
fn a_length_alone_turns_nothing() {
    let found = Hidden::exact(&somewhere()).oriented(vec![length(feature(31), feature(32), 1.2)]);
    assert!(!found.levelled && !found.headed);
    assert!(found.change.rotation.angle() < 1e-9);
}

/// Of two lengths that do not agree both are named, of three the one that is wrong; directions as well.
#[rstest]
#[case::two(vec![length(feature(31), feature(32), 1.2), length(feature(31), feature(33), 0.9)], &[1, 2])]
#[case::three(vec![length(feature(31), feature(32), 1.2), length(feature(31), feature(33), 0.9), length(feature(21), feature(24), 1.1)], &[2])]
#[case::directions(vec![floor(), edge(31, 32, Runs::Along), edge(31, 33, Runs::Across), edge(21, 22, Runs::Across)], &[4])]
#[case::a_wall(vec![floor(), plane("back", Facing::Across, 21..=26), edge(31, 33, Runs::Along)], &[2, 3])]
#[case::planes(vec![floor(), plane("ceiling", Facing::Level, 21..=26)], &[1, 2])]
#[case::a_slope(vec![edge(21, 24, Runs::Up), edge(31, 32, Runs::Along), plane("back", Facing::Along, 21..=26)], &[2, 3])]
#[case::plumb(vec![floor(), edge(31, 32, Runs::Along), edge(22, 25, Runs::Up), edge(22, 24, Runs::Up)], &[4])]
fn what_contradicts_is_named(#[case] facts: Vec<Fact>, #[case] expected: &[u32]) {
    let found = Hidden::exact(&somewhere()).oriented(facts);
    assert_eq!(found.contradicting(), expected, "{:?}", found.misses);
}

/// A feature that does not lie on the floor is named and does not tilt it.
#[test]
fn a_feature_off_its_plane_is_named() {
    let hidden = somewhere();
    let on: Vec<u32> = (1..=12).chain([34]).collect();
    let found = Hidden::exact(&hidden).oriented(vec![
        plane("floor", Facing::Ground, on),
        length(feature(31), feature(32), 1.2),
    ]);
    let Off::Flat(_, Some((track, off))) = &found.misses[0].off else {
        panic!("{:?}", found.misses);
    };
    assert_eq!(*track, TrackId(34));
    assert!((off.abs() - 0.75).abs() < 0.05, "{off}");
    assert!(off_deg(&hidden, &found).0 < 0.5);
}

/// What cannot take part says why, and the others go on.
#[rstest]
#[case::gone(edge(31, 99, Runs::Along), Unused::NotSolved(tracks([99])))]
#[case::two_left(plane("wall", Facing::Wall, [21, 22, 98, 99]), Unused::TooFewSolved { solved: 2, missing: tracks([98, 99]) })]
#[case::in_a_row(plane("wall", Facing::Wall, [21, 22, 23]), Unused::InOneLine)]
#[case::no_frame(
    length(End::Camera(FrameNumber(77)), feature(3), 2.0),
    Unused::NoCamera(FrameNumber(77))
)]
#[case::no_meeting(length(End::Marked([sight(1, [-1.0, 0.5, -4.0]), sight(9, [1.0, 1.5, -4.0])]), feature(3), 2.0), Unused::NoMeeting)]
#[case::no_plane(length(End::OnPlane { sight: sight(4, [-1.0, 0.0, -2.0]), plane: 9 }, feature(3), 2.0), Unused::NoStatement(9))]
#[case::parallel_to_a_plane(edge(31, 32, Runs::With(1)), Unused::NoStatement(1))]
#[case::to_itself(edge(31, 32, Runs::With(2)), Unused::InACircle)]
fn what_cannot_take_part_says_why(#[case] fact: Fact, #[case] expected: Unused) {
    let hidden = somewhere();
    let found = Hidden::exact(&hidden).oriented(vec![floor(), fact]);
    let unused: Vec<_> = found.unused().collect();
    assert_eq!(unused, [(2, &expected)]);
    assert!(expected.to_string().len() > 20);
    assert!(found.levelled && off_deg(&hidden, &found).0 < 0.01);
}

/// A height above the ground needs one; what is off takes no part and is not named.
#[test]
fn what_is_off_takes_no_part() {
    let mut all = stated(vec![
        Fact::CameraHeight {
            frame: FrameNumber(5),
            height_m: 1.6,
            sigma_m: 0.01,
        },
        floor(),
    ]);
    all[1].1.off = true;
    let found = orient(&Hidden::exact(&somewhere()).solved(None), &all);
    assert_eq!(found.unused().collect::<Vec<_>>(), [(1, &Unused::NoGround)]);
    assert_eq!(found.misses.len(), 1);
    assert!(!found.levelled && !found.scaled);
}

/// A camera that does not travel is levelled by what is drawn; planes and lengths of features say why they are not heard.
#[test]
fn a_camera_that_turns_is_levelled_by_lines() {
    let hidden = change_of([0.3, 0.5, -0.2], [0.0; 3], 1.0);
    let mut of = Hidden::exact(&hidden);
    of.travels = false;
    let found = of.oriented(vec![
        floor(),
        length(feature(31), feature(32), 1.2),
        rail(2, [-1.6, 0.4, -5.0], [-1.6, 2.0, -5.0], Runs::Up),
        rail(2, [1.7, 0.1, -2.0], [1.7, 1.5, -2.0], Runs::Up),
        rail(5, [-2.0, 0.0, -3.0], [2.0, 0.0, -3.0], Runs::Along),
    ]);
    let unused: Vec<u32> = found.unused().map(|(id, _)| id).collect();
    assert_eq!(unused, [1, 2]);
    assert!(found.levelled && found.headed && !found.scaled);
    let (up, heading) = off_deg(&hidden, &found);
    assert!(up < 0.01 && heading.abs() < 0.01, "{up} {heading}");
}

/// A world that is upright already keeps what nothing is said of: an edge turns it about up, and no more.
#[test]
fn an_upright_world_stays_upright() {
    let hidden = change_of([0.0, 0.4, 0.0], [1.0, 0.0, 2.0], 1.0);
    let of = Hidden::exact(&hidden);
    let solved = Solved {
        is_upright: true,
        ..of.solved(None)
    };
    let drawn = rail(5, [-2.0, 0.0, -3.0], [2.0, 0.0, -3.0], Runs::Along);
    let found = orient(&solved, &stated(vec![drawn]));
    let (up, heading) = off_deg(&hidden, &found);
    assert!(up < 0.2 && heading.abs() < 0.5, "{up} {heading}");
    let found = orient(&solved, &stated(vec![origin(3)]));
    assert!(found.change.rotation.angle() < 1e-9);
}

/// By hand comes last, about the origin, and is one more statement.
#[test]
fn a_change_by_hand_comes_last() {
    let base = vec![
        floor(),
        origin(2),
        edge(31, 32, Runs::Along),
        length(feature(31), feature(32), 1.2),
    ];
    let hand = Fact::ByHand {
        turn_deg: [0.0, 90.0, 0.0],
        shift_m: [0.0, 0.5, 0.0],
        scale: 2.0,
    };
    let hidden = Hidden::exact(&somewhere());
    let before = hidden.oriented(base.clone());
    let after = hidden.oriented(base.into_iter().chain([hand]).collect());
    let at = |o: &Orientation| o.change.point(&hidden.landmarks[8].1).0.coords;
    let (p, q) = (at(&before), at(&after));
    assert!((q - Vector3::new(2.0 * p.z, 2.0 * p.y + 0.5, -2.0 * p.x)).norm() < 1e-9);
    assert!((after.ground.unwrap() - 0.5).abs() < 1e-6);
}

struct Common(Vec<TrackId>, DMatrix<f64>);

impl Together for Common {
    fn covariance(&self, tracks: &[TrackId]) -> Option<DMatrix<f64>> {
        let at: Option<Vec<usize>> = tracks
            .iter()
            .map(|t| self.0.iter().position(|own| own == t))
            .collect();
        let at = at?;
        let entry = |i: usize, j: usize| self.1[(3 * at[i / 3] + i % 3, 3 * at[j / 3] + j % 3)];
        Some(DMatrix::from_fn(3 * at.len(), 3 * at.len(), entry))
    }
}

fn normal(random: &mut fastrand::Rng) -> f64 {
    (-2.0 * (1.0 - random.f64()).ln()).sqrt() * (std::f64::consts::TAU * random.f64()).cos()
}

/// Over many draws of the landmarks' errors, what is stated as one standard error is one: for errors of each by
/// itself, and for those that all have in common, which only a joint covariance tells.
#[rstest]
#[case::alone(0.0)]
#[case::in_common(1.0)]
fn stated_errors_are_honest(#[case] bent: f64) {
    const DRAWS: usize = 300;
    const SIGMA: f64 = 0.01;
    let hidden = somewhere();
    let count = places().len();
    let own = Matrix3::from_diagonal(&Vector3::new(1.0, 1.0, 9.0)) * (SIGMA * SIGMA);
    // All bent in common: as far as they are away, and up with it.
    let modes: Vec<Vec<Vector3<f64>>> = vec![
        places()
            .iter()
            .map(|(_, at)| Vector3::from(*at) * 0.01 * bent)
            .collect(),
        places()
            .iter()
            .map(|(_, at)| Vector3::new(0.0, at[2], 0.0) * 0.01 * bent)
            .collect(),
    ];
    let turn = hidden.rotation.to_rotation_matrix().into_inner() * hidden.scale;
    let mut joint = DMatrix::zeros(3 * count, 3 * count);
    for i in 0..count {
        for j in 0..count {
            let mut block: Matrix3<f64> = modes.iter().map(|m| m[i] * m[j].transpose()).sum();
            if i == j {
                block += own;
            }
            let block = turn * block * turn.transpose();
            joint.fixed_view_mut::<3, 3>(3 * i, 3 * j).copy_from(&block);
        }
    }
    let common = Common(places().iter().map(|p| TrackId(p.0)).collect(), joint);
    let facts = stated(vec![
        floor(),
        edge(31, 32, Runs::Along),
        length(feature(1), feature(12), apart(1, 12)),
        length(feature(21), feature(26), apart(21, 26)),
    ]);
    let mut random = fastrand::Rng::with_seed(5);
    let mut squares = [0.0; 3];
    for _ in 0..DRAWS {
        let much = [normal(&mut random), normal(&mut random)];
        let noise: Vec<Vector3<f64>> = (0..count)
            .map(|i| {
                let alone = Vector3::new(
                    normal(&mut random),
                    normal(&mut random),
                    3.0 * normal(&mut random),
                ) * SIGMA;
                alone + modes[0][i] * much[0] + modes[1][i] * much[1]
            })
            .collect();
        let of = Hidden::noisy(&hidden, &noise, own);
        let found = orient(&of.solved(Some(&common)), &facts);
        let (up, heading) = off_deg(&hidden, &found);
        let share = (found.change.scale * hidden.scale).ln();
        squares[0] += (up / found.up_sigma_deg.unwrap()).powi(2);
        squares[1] += (heading / found.heading_sigma_deg.unwrap()).powi(2);
        squares[2] += (share / found.scale_share_sigma.unwrap()).powi(2);
    }
    let honest = squares.map(|s| (s / DRAWS as f64).sqrt());
    assert!(
        honest.iter().all(|h| (0.88..1.12).contains(h)),
        "{honest:?}"
    );
}

#[test]
fn nothing_stated_changes_nothing() {
    let found = Hidden::exact(&somewhere()).oriented(Vec::new());
    assert!(found.change.rotation.angle() < 1e-12);
    assert!((found.change.scale - 1.0).abs() < 1e-12);
    assert_eq!(found.misses, []);
}
