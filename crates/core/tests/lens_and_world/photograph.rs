//! The camera of one photograph against synthetic truth: rooms seen by drawn cameras, rails
//! along their edges with errors in their ends.

use nalgebra::{Point3, UnitQuaternion, Vector2, Vector3};
use parallax_core::camera::{Intrinsics, Pose};
use parallax_core::photo::perspective::Perspective;
use parallax_core::photo::{
    Axis, Flips, KnownLength, PhotoError, PhotoFinding, PhotoOptions, Placement, Rail, findings,
    place, solve,
};
use parallax_core::spaces::{PlatePx, WorldPoint};
use proptest::prelude::*;
use rstest::rstest;

const SIZE: (u32, u32) = (2000, 1333);

struct Room {
    lens: Intrinsics,
    pose: Pose,
}

impl Room {
    /// A camera at eye height that looks into a corner of a room.
    fn drawn(random: &mut fastrand::Rng) -> Self {
        let mut draw = |low: f64, high: f64| low + (high - low) * random.f64();
        let lens = Intrinsics::centred(SIZE.0, SIZE.1, draw(1200.0, 2600.0));
        let turn = draw(0.35, 1.1);
        let eye = Point3::new(3.2 * turn.sin(), draw(1.3, 1.9), 3.2 * turn.cos());
        let target = Point3::new(draw(-0.3, 0.3), draw(0.9, 1.4), draw(-0.3, 0.3));
        let up = Vector3::new(draw(-0.05, 0.05), 1.0, 0.0);
        Self {
            lens,
            pose: Pose::looking_at(&eye, &target, &up),
        }
    }

    fn px(&self, x: f64, y: f64, z: f64) -> PlatePx {
        self.lens
            .project(&self.pose, &WorldPoint::new(x, y, z))
            .unwrap()
    }

    /// Four rails of an axis on edges of walls and furniture.
    fn rails(&self, axis: Axis) -> Vec<Rail> {
        let sides = [(-1.1, 0.2), (-0.9, 1.0), (0.8, 0.1), (1.0, 1.1)];
        let reach = [(-1.0, 0.9), (-0.8, 0.7), (-0.9, 1.0), (-0.6, 1.1)];
        sides
            .into_iter()
            .zip(reach)
            .map(|((p, q), (from, to))| {
                let at = |s: f64| match axis {
                    Axis::X => self.px(s, q * 2.0, p),
                    Axis::Y => self.px(p, 1.1 + s, q - 0.6),
                    Axis::Z => self.px(p, q * 2.0, s),
                };
                Rail {
                    axis,
                    a: at(from),
                    b: at(to),
                }
            })
            .collect()
    }

    fn all_rails(&self, axes: &[Axis]) -> Vec<Rail> {
        axes.iter().flat_map(|a| self.rails(*a)).collect()
    }

    fn off_rad(&self, solved: &Perspective) -> f64 {
        solved
            .rotation
            .angle_to(&self.pose.camera_from_world.rotation)
    }
}

fn shaken(rails: &[Rail], sigma_px: f64, random: &mut fastrand::Rng) -> Vec<Rail> {
    let mut normal = || (0..12).map(|_| random.f64()).sum::<f64>() - 6.0;
    let mut shake = |p: PlatePx| p.moved(Vector2::new(normal(), normal()) * sigma_px);
    rails
        .iter()
        .map(|r| Rail {
            a: shake(r.a),
            b: shake(r.b),
            ..*r
        })
        .collect()
}

fn solved(rails: &[Rail], options: &PhotoOptions) -> Perspective {
    solve(SIZE.0, SIZE.1, rails, options).unwrap()
}

/// Cramér-Rao: with exact rails the misses vanish, and the stated standard error for ends
/// with an error of 1 px is the bound.
fn bound(room: &Room, rails: &[Rail], options: &PhotoOptions) -> f64 {
    let exact = solved(rails, options);
    assert!((exact.focal_px.value / room.lens.focal_px - 1.0).abs() < 1e-4);
    exact.focal_px.sigma / exact.end_sigma_px * 0.5
}

#[rstest]
#[case::two_axes(&[Axis::X, Axis::Z])]
#[case::with_uprights(&[Axis::X, Axis::Y, Axis::Z])]
fn the_bound_is_reached(#[case] axes: &[Axis]) {
    let mut random = fastrand::Rng::with_seed(11);
    let (mut off_share, mut squares, mut within) = (Vec::new(), 0.0, 0);
    const DRAWS: usize = 2000;
    for _ in 0..DRAWS {
        let room = Room::drawn(&mut random);
        let exact = room.all_rails(axes);
        let options = PhotoOptions::default();
        let answer = solved(&shaken(&exact, 0.5, &mut random), &options);
        let off = answer.focal_px.value - room.lens.focal_px;
        off_share.push((off / room.lens.focal_px).abs());
        squares += (off / bound(&room, &exact, &options)).powi(2);
        within += usize::from(off.abs() < answer.focal_px.sigma);
    }
    off_share.sort_by(f64::total_cmp);
    assert!(
        off_share[DRAWS / 2] < 0.01,
        "median {:.2} %",
        100.0 * off_share[DRAWS / 2]
    );
    let ratio = (squares / DRAWS as f64).sqrt();
    assert!(ratio < 1.1, "{ratio:.3} times the bound");
    // 68.3 % of 2000 are 1365 with a standard error of 21.
    assert!(
        (1300..=1430).contains(&within),
        "{within} of 2000 within one standard error"
    );
}

#[test]
fn a_cropped_picture_gives_its_centre() {
    let mut random = fastrand::Rng::with_seed(3);
    let (mut offs, mut said) = (Vec::new(), 0);
    for _ in 0..40 {
        let mut room = Room::drawn(&mut random);
        room.lens.centre = PlatePx::new(1240.0, 540.0);
        let rails = shaken(&room.all_rails(&Axis::ALL), 0.5, &mut random);
        let freed = solved(
            &rails,
            &PhotoOptions {
                solve_centre: true,
                ..PhotoOptions::default()
            },
        );
        let off = freed.lens.centre.offset_from(room.lens.centre);
        let sigma = freed.centre_sigma_px.unwrap();
        offs.push((off.x / sigma[0]).abs().max((off.y / sigma[1]).abs()));
        said += usize::from(
            match solve(SIZE.0, SIZE.1, &rails, &PhotoOptions::default()) {
                Ok(kept) => findings::findings(&rails, &PhotoOptions::default(), &kept)
                    .iter()
                    .any(|f| matches!(f, PhotoFinding::Cropped { solved: false, .. })),
                Err(error) => error
                    .to_string()
                    .contains("free the centre if the picture is cropped"),
            },
        );
    }
    // Where the uprights hardly converge the centre is uncertain to 60 px and more.
    assert!(said >= 25, "{said} of 40 are suspected");
    offs.sort_by(f64::total_cmp);
    // The greater of two normal errors has its median at 1.05 and its ninth tenth at 1.95.
    assert!(
        offs[20] < 1.5 && offs[36] < 2.8,
        "{:.2}, {:.2} standard errors",
        offs[20],
        offs[36]
    );
}

#[test]
fn an_honest_picture_has_no_findings_of_lens_or_crop() {
    let mut random = fastrand::Rng::with_seed(5);
    let mut false_alarms = 0;
    for _ in 0..100 {
        let room = Room::drawn(&mut random);
        let rails = shaken(&room.all_rails(&Axis::ALL), 0.5, &mut random);
        let said = findings::findings(
            &rails,
            &PhotoOptions::default(),
            &solved(&rails, &PhotoOptions::default()),
        );
        let alarms = |f: &PhotoFinding| {
            matches!(
                f,
                PhotoFinding::LensBends { .. } | PhotoFinding::Cropped { .. }
            )
        };
        false_alarms += usize::from(said.iter().any(alarms));
    }
    assert!(false_alarms <= 2, "{false_alarms} of 100");
}

/// Two rails meet somewhere whatever they lie on: the misses cannot show a slip.
#[test]
fn two_rails_of_an_axis_are_said_to_be_unchecked() {
    let room = Room::drawn(&mut fastrand::Rng::with_seed(6));
    let said = |count: usize| {
        let rails: Vec<Rail> = Axis::ALL
            .iter()
            .flat_map(|a| room.rails(*a).into_iter().take(count))
            .collect();
        let found = findings::findings(
            &rails,
            &PhotoOptions::default(),
            &solved(&rails, &PhotoOptions::default()),
        );
        found
            .iter()
            .filter(|f| matches!(f, PhotoFinding::Unchecked { .. }))
            .count()
    };
    assert_eq!((said(2), said(3)), (3, 0));
}

#[test]
fn a_bent_lens_is_named() {
    let mut random = fastrand::Rng::with_seed(8);
    let mut named = 0;
    for _ in 0..20 {
        let mut room = Room::drawn(&mut random);
        room.lens.distortion.k1 = -0.12;
        let rails = shaken(&room.all_rails(&Axis::ALL), 0.5, &mut random);
        let said = findings::findings(
            &rails,
            &PhotoOptions::default(),
            &solved(&rails, &PhotoOptions::default()),
        );
        named +=
            usize::from(said.iter().any(
                |f| matches!(f, PhotoFinding::LensBends { corner_px, .. } if *corner_px < 0.0),
            ));
    }
    assert!(named >= 15, "{named} of 20");
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(64))]
    /// Any camera projects rails that solve back to itself.
    #[test]
    fn exact_rails_give_the_camera_back(seed in 0u64..10_000, third in any::<bool>()) {
        let room = Room::drawn(&mut fastrand::Rng::with_seed(seed));
        let axes: &[Axis] = if third { &Axis::ALL } else { &[Axis::X, Axis::Z] };
        let answer = solved(&room.all_rails(axes), &PhotoOptions::default());
        prop_assert!((answer.focal_px.value / room.lens.focal_px - 1.0).abs() < 1e-5);
        prop_assert!(room.off_rad(&answer) < 1e-5, "{} rad", room.off_rad(&answer));
        prop_assert!(answer.rms_px < 1e-4);
    }

    /// The world stays right-handed whatever is flipped.
    #[test]
    fn flips_turn_the_world(x in any::<bool>(), y in any::<bool>(), z in any::<bool>()) {
        let room = Room::drawn(&mut fastrand::Rng::with_seed(1));
        let rails = room.all_rails(&Axis::ALL);
        let flips = Flips { x, y, z };
        let (plain, flipped) = (solved(&rails, &PhotoOptions::default()), solved(&rails, &PhotoOptions { flips, ..PhotoOptions::default() }));
        for (axis, sign) in Axis::ALL.into_iter().zip(flips.signs()) {
            let (before, after) = (plain.rotation * axis.unit(), flipped.rotation * axis.unit());
            prop_assert!((before * sign - after).norm() < 1e-9);
        }
    }
}

#[test]
fn the_horizon_holds_level_directions() {
    let room = Room::drawn(&mut fastrand::Rng::with_seed(2));
    let answer = solved(&room.all_rails(&Axis::ALL), &PhotoOptions::default());
    let [a, b, c] = answer.horizon.unwrap();
    let eye = room.pose.centre().0;
    for turn in [-0.3, 0.0, 0.4] {
        let ahead = UnitQuaternion::from_axis_angle(&Vector3::y_axis(), turn)
            * room.pose.viewing_direction();
        let level = Vector3::new(ahead.x, 0.0, ahead.z) * 1e7;
        let px = room
            .lens
            .project(&room.pose, &WorldPoint(eye + level))
            .unwrap();
        assert!((a * px.x + b * px.y + c).abs() < 0.05);
    }
    let foot = room.px(0.0, 0.0, 0.0);
    assert!(
        a * foot.x + b * foot.y + c > 0.0,
        "the ground is below the horizon"
    );
}

#[test]
fn a_known_height_gives_place_and_scale() {
    let mut random = fastrand::Rng::with_seed(21);
    for _ in 0..20 {
        let room = Room::drawn(&mut random);
        let answer = solved(&room.all_rails(&Axis::ALL), &PhotoOptions::default());
        let (foot, head) = (room.px(0.4, 0.0, -0.3), room.px(0.4, 2.04, -0.3));
        let known = KnownLength {
            axis: Some(Axis::Y),
            from: foot,
            to: head,
            metres: 2.04,
        };
        let placed = place(
            &answer,
            &Placement {
                origin: Some(room.px(0.1, 0.0, 0.2)),
                known: Some(known),
            },
        )
        .unwrap();
        let eye = room.pose.centre().0;
        assert!(
            (placed.camera_height - eye.y).abs() < 1e-3,
            "height {}",
            placed.camera_height
        );
        let seen = placed.pose.centre().0 - Point3::new(eye.x - 0.1, eye.y, eye.z - 0.2);
        assert!(seen.norm() < 2e-3, "{seen}");
        let across = placed
            .measure(
                &answer,
                Some(Axis::X),
                room.px(-0.5, 0.0, 0.3),
                room.px(0.7, 0.0, 0.3),
            )
            .unwrap();
        assert!(
            (across.length - 1.2).abs() < 2e-3 && across.off_axis_px < 0.05,
            "{across:?}"
        );
        let ground = placed
            .measure(
                &answer,
                None,
                room.px(-0.5, 0.0, 0.3),
                room.px(0.4, 0.0, -0.9),
            )
            .unwrap();
        assert!((ground.length - 1.5).abs() < 2e-3, "{ground:?}");
    }
}

#[test]
fn one_family_needs_the_focal_length() {
    let room = Room::drawn(&mut fastrand::Rng::with_seed(4));
    let rails = room.rails(Axis::Y);
    assert_eq!(
        solve(SIZE.0, SIZE.1, &rails, &PhotoOptions::default()),
        Err(PhotoError::OneAxis { axis: Axis::Y })
    );
    let options = PhotoOptions {
        focal_px: Some(room.lens.focal_px),
        ..PhotoOptions::default()
    };
    let answer = solved(&rails, &options);
    let up = room.pose.camera_from_world.rotation * Vector3::y();
    assert!(
        (answer.rotation * Vector3::y()).angle(&up) < 1e-5,
        "upright is measured, the turn about it is not"
    );
    assert_eq!(answer.focal_px.sigma, 0.0);
}

fn rail(axis: Axis, a: (f64, f64), b: (f64, f64)) -> Rail {
    Rail {
        axis,
        a: PlatePx::new(a.0, a.1),
        b: PlatePx::new(b.0, b.1),
    }
}

fn level(axis: Axis, y: f64) -> Rail {
    rail(axis, (200.0, y), (1800.0, y))
}

#[rstest]
#[case::none(vec![], "none of the three directions")]
#[case::no_length(vec![rail(Axis::X, (9.0, 9.0), (9.0, 9.2)), level(Axis::X, 80.0)], "rail 1 has no length")]
#[case::not_a_place(vec![rail(Axis::X, (f64::NAN, 9.0), (9.0, 90.0)), level(Axis::X, 80.0)], "rail 1 has an end that is not a place")]
#[case::far_out(vec![rail(Axis::X, (1e9, 9.0), (9.0, 90.0)), level(Axis::X, 80.0)], "rail 1 has an end that is not a place")]
#[case::all_parallel(
    vec![level(Axis::X, 100.0), level(Axis::X, 900.0),
         rail(Axis::Y, (300.0, 100.0), (300.0, 1200.0)), rail(Axis::Y, (1700.0, 100.0), (1700.0, 1200.0))],
    "all rails are parallel")]
#[case::crossing(
    vec![rail(Axis::X, (100.0, 100.0), (900.0, 900.0)), rail(Axis::X, (100.0, 900.0), (900.0, 100.0)),
         rail(Axis::Z, (300.0, 100.0), (350.0, 1200.0)), rail(Axis::Z, (1700.0, 100.0), (1650.0, 1200.0))],
    "cross inside the picture")]
#[case::no_real_focal(
    // Three vanishing points on one side of the picture: no focal length makes them perpendicular.
    vec![rail(Axis::X, (100.0, 100.0), (1500.0, 500.0)), rail(Axis::X, (100.0, 1200.0), (1500.0, 800.0)),
         rail(Axis::Y, (200.0, 50.0), (1600.0, 520.0)), rail(Axis::Y, (200.0, 1250.0), (1600.0, 800.0)),
         rail(Axis::Z, (150.0, 10.0), (1400.0, 480.0)), rail(Axis::Z, (150.0, 1320.0), (1400.0, 850.0))],
    "cannot be square")]
fn what_gives_no_camera_is_said(#[case] rails: Vec<Rail>, #[case] expected: &str) {
    let error = solve(SIZE.0, SIZE.1, &rails, &PhotoOptions::default()).unwrap_err();
    assert!(error.to_string().contains(expected), "{error}");
}

#[rstest]
#[case::tiny(1, 1)]
#[case::narrow(2000, 8)]
fn a_picture_of_one_pixel_is_refused(#[case] width: u32, #[case] height: u32) {
    let rails = [
        rail(Axis::X, (0.0, 0.0), (0.9, 0.9)),
        rail(Axis::X, (0.0, 0.5), (0.9, 0.2)),
    ];
    assert!(matches!(
        solve(width, height, &rails, &PhotoOptions::default()),
        Err(PhotoError::OutOfRange { .. })
    ));
}

#[test]
fn the_centre_needs_three_axes() {
    let room = Room::drawn(&mut fastrand::Rng::with_seed(4));
    let options = PhotoOptions {
        solve_centre: true,
        ..PhotoOptions::default()
    };
    let error = solve(
        SIZE.0,
        SIZE.1,
        &room.all_rails(&[Axis::X, Axis::Z]),
        &options,
    );
    assert_eq!(error, Err(PhotoError::CentreNeedsThreeAxes));
}

#[rstest]
#[case::above(-0.2, "origin lies on or above the horizon")]
#[case::on(0.0, "origin lies on or above the horizon")]
fn an_origin_in_the_sky_is_refused(#[case] below_px: f64, #[case] expected: &str) {
    let room = Room::drawn(&mut fastrand::Rng::with_seed(4));
    let answer = solved(&room.all_rails(&Axis::ALL), &PhotoOptions::default());
    let [a, b, c] = answer.horizon.unwrap();
    let origin = PlatePx::new(1000.0, (below_px - a * 1000.0 - c) / b);
    let error = place(
        &answer,
        &Placement {
            origin: Some(origin),
            known: None,
        },
    )
    .unwrap_err();
    assert!(error.to_string().contains(expected), "{error}");
}

#[rstest]
#[case::zero(0.0)]
#[case::negative(-2.0)]
#[case::not_a_number(f64::NAN)]
fn a_length_has_to_be_one(#[case] metres: f64) {
    let room = Room::drawn(&mut fastrand::Rng::with_seed(4));
    let answer = solved(&room.all_rails(&Axis::ALL), &PhotoOptions::default());
    let known = KnownLength {
        axis: Some(Axis::Y),
        from: room.px(0.0, 0.0, 0.0),
        to: room.px(0.0, 1.0, 0.0),
        metres,
    };
    let error = place(
        &answer,
        &Placement {
            origin: None,
            known: Some(known),
        },
    )
    .unwrap_err();
    assert!(
        matches!(
            error,
            PhotoError::OutOfRange {
                what: "known length in metres",
                ..
            }
        ),
        "{error}"
    );
}
