//! Guests drawn through a camera, against where and how dark they must be.

use nalgebra::{Point3, Vector3};
use parallax_core::camera::{Eye, Intrinsics, Pose, Similarity};
use parallax_core::guest::{Guest, What, stand_ins};
use parallax_core::lens::Distortion;
use parallax_core::render::{
    Cameras, Drawn, Light, Piece, Quality, Scene, Shown, Sun, Traced, draw,
};
use parallax_core::spaces::{FrameNumber, WorldPoint};
use rstest::rstest;
use std::sync::Arc;

const STILL: Quality = Quality {
    rays: 9,
    shutter_frames: 0.0,
};

fn lens() -> Intrinsics {
    Intrinsics {
        distortion: Distortion::radial(-0.18, 0.03),
        ..Intrinsics::centred(480, 270, 420.0)
    }
}

fn looking(from: [f64; 3]) -> Eye {
    Eye {
        lens: lens(),
        pose: Pose::looking_at(&from.into(), &Point3::new(0.0, 0.5, -4.0), &Vector3::y()),
    }
}

fn still(eye: Eye) -> Cameras {
    Cameras::of([(FrameNumber(1), eye)], None)
}

fn at(what: What, x: f64, y: f64, z: f64) -> Guest {
    let mut guest = Guest::new("guest", what, None);
    guest.lie.shift_m = [x, y, z];
    guest
}

fn shown(guest: &Guest, frame: i32, quality: &Quality) -> Shown {
    let traced = Arc::new(Traced::of(Arc::new(stand_ins::mesh(&guest.what).unwrap())));
    Shown::of(traced, FrameNumber(frame), quality, |time| {
        guest.placed(time, |_| None::<WorldPoint>)
    })
    .unwrap()
}

fn drawn(
    guests: &[Guest],
    set: &[Piece],
    sun: &Sun,
    cameras: &Cameras,
    quality: &Quality,
) -> Drawn {
    let guests: Vec<Shown> = guests.iter().map(|g| shown(g, 1, quality)).collect();
    let scene = Scene {
        guests: &guests,
        set,
        light: Light::from(sun),
    };
    draw(&scene, cameras, FrameNumber(1), quality).unwrap()
}

/// Middle and amount of what is covered.
fn covered(drawn: &Drawn) -> ([f64; 2], f64) {
    let (mut sum, mut x, mut y) = (0.0, 0.0, 0.0);
    for (k, px) in drawn.rgba.iter().enumerate() {
        let cover = f64::from(px[3]);
        sum += cover;
        x += cover * ((k % drawn.width) as f64 + 0.5);
        y += cover * ((k / drawn.width) as f64 + 0.5);
    }
    ([x / sum, y / sum], sum)
}

/// A small ball is drawn where the solve's own lens projects its middle, bent edges of the picture included.
#[rstest]
#[case::middle(0.0, 0.0)]
#[case::left(-1.9, 0.4)]
#[case::upper_right(2.0, 1.4)]
#[case::below(0.7, -0.4)]
fn a_ball_is_drawn_where_it_is_projected(#[case] x: f64, #[case] y: f64) {
    let eye = looking([0.1, 0.6, 0.3]);
    let ball = at(What::Sphere { diameter_m: 0.1 }, x, y, -4.0);
    let fine = Quality { rays: 64, ..STILL };
    let (middle, amount) = covered(&drawn(&[ball], &[], &Sun::default(), &still(eye), &fine));
    let truth = eye
        .lens
        .project(&eye.pose, &WorldPoint::new(x, y + 0.05, -4.0))
        .unwrap();
    assert!(amount > 20.0);
    // A ball's outline is off its middle by its size squared; what is left is the draw of 64 rays.
    let off = (middle[0] - truth.x).hypot(middle[1] - truth.y);
    assert!(off < 0.05, "{middle:?} {truth:?}");
}

/// With the shutter open the drawn ball is as long as it moves meanwhile, and its middle stays.
#[test]
fn an_open_shutter_smears_along_the_move() {
    let cameras = Cameras::of(
        (0..3).map(|k| (FrameNumber(k), looking([0.3 * f64::from(k), 0.6, 0.0]))),
        None,
    );
    let ball = at(What::Sphere { diameter_m: 0.08 }, 0.0, 0.5, -4.0);
    let open = Quality {
        rays: 64,
        shutter_frames: 0.5,
    };
    let one = |quality: &Quality| {
        drawn(
            std::slice::from_ref(&ball),
            &[],
            &Sun::default(),
            &cameras,
            quality,
        )
    };
    let widest = |drawn: &Drawn| {
        let columns = (0..drawn.width)
            .filter(|x| (0..drawn.height).any(|y| drawn.rgba[y * drawn.width + x][3] > 0.05));
        columns.count() as f64
    };
    let (sharp, smeared) = (one(&STILL), one(&open));
    let px = |k: i32| {
        let eye = cameras.at(FrameNumber(k)).unwrap();
        eye.lens
            .project(&eye.pose, &WorldPoint::new(0.0, 0.54, -4.0))
            .unwrap()
            .x
    };
    let moves = (px(2) - px(0)).abs() / 4.0;
    let longer = widest(&smeared) - widest(&sharp);
    assert!((longer - moves).abs() < 2.5, "{longer} of {moves}");
    assert!((covered(&smeared).0[0] - covered(&sharp).0[0]).abs() < 0.3);
}

/// The shadow of a box lies where the sun throws it, as dark as the share of the sun's light.
#[test]
fn a_shadow_lies_where_the_sun_throws_it() {
    let eye = looking([0.0, 2.2, 0.5]);
    let size_m = [0.4, 0.8, 0.4];
    let sun = Sun {
        heading_deg: 90.0,
        height_deg: 45.0,
        strength: 1.0,
        sky: 0.2,
        disc_deg: 0.5,
    };
    let made = drawn(
        &[at(What::Box { size_m }, 0.0, 0.0, -4.0)],
        &[Piece::ground(0.0)],
        &sun,
        &still(eye),
        &STILL,
    );
    let alpha = |x: f64, z: f64| {
        let px = eye
            .lens
            .project(&eye.pose, &WorldPoint::new(x, 0.0, z))
            .unwrap();
        made.rgba[px.y as usize * made.width + px.x as usize]
    };
    // The sun stands along (+x): the shadow of the top falls 0.8 m the other way.
    let umbra = alpha(-0.7, -4.0);
    let light = Light::from(&sun);
    let expected = 1.0 - light.left(&Vector3::y(), 0.0, 1.0);
    assert!(
        (f64::from(umbra[3]) - expected).abs() < 0.15,
        "{umbra:?} {expected}"
    );
    assert_eq!(umbra[..3], [0.0; 3], "a shadow adds no light");
    assert!(alpha(0.7, -4.0)[3] < 0.25, "the side of the sun is lit");
    assert!(alpha(-1.25, -4.0)[3] < 0.1, "beyond the shadow of its top");
    assert_eq!(alpha(2.5, -6.0), [0.0; 4]);
}

/// Behind what is solid nothing is drawn, before it everything.
#[rstest]
#[case::behind(-3.0, false)]
#[case::before(-5.0, true)]
fn what_is_solid_hides_what_is_behind_it(#[case] wall_z: f64, #[case] is_seen: bool) {
    let wall = Piece {
        at: Point3::new(0.0, 0.0, wall_z),
        normal: Vector3::z(),
        half_m: [50.0, 50.0],
        catches: false,
        solid: true,
    };
    let ball = at(What::Sphere { diameter_m: 0.5 }, 0.0, 0.3, -4.0);
    let made = drawn(
        &[ball],
        &[wall],
        &Sun::default(),
        &still(looking([0.0, 0.6, 0.0])),
        &STILL,
    );
    assert_eq!(covered(&made).1 > 100.0, is_seen);
}

/// Guests are where their keys put them, on the frame and in its exposure.
#[test]
fn a_guest_with_keys_moves() {
    let mut ball = at(What::Sphere { diameter_m: 0.1 }, 0.0, 0.5, -4.0);
    let key = |frame: i32, x: f64| parallax_core::guest::Key {
        frame: FrameNumber(frame),
        lie: parallax_core::guest::Lie {
            shift_m: [x, 0.5, -4.0],
            ..Default::default()
        },
    };
    ball.keys = vec![key(0, 0.0), key(10, 1.0)];
    assert!(ball.is_possible() && ball.moves());
    let there = |time: f64| ball.placed(time, |_| None).unwrap().translation.x;
    assert_eq!(there(-3.0), 0.0);
    assert!((there(5.0) - 0.5).abs() < 1e-9);
    let eye = looking([0.0, 0.6, 0.0]);
    let cameras = Cameras::of((0..11).map(|k| (FrameNumber(k), eye)), None);
    let quality = Quality {
        rays: 36,
        shutter_frames: 0.0,
    };
    let one = [shown(&ball, 5, &quality)];
    let scene = Scene {
        guests: &one,
        set: &[],
        light: Light::from(&Sun::default()),
    };
    let made = draw(&scene, &cameras, FrameNumber(5), &quality).unwrap();
    let truth = eye
        .lens
        .project(&eye.pose, &WorldPoint::new(0.5, 0.55, -4.0))
        .unwrap();
    let (middle, _) = covered(&made);
    assert!((middle[0] - truth.x).hypot(middle[1] - truth.y) < 0.1);
    assert!(
        draw(&scene, &cameras, FrameNumber(99), &quality).is_none(),
        "no camera, no picture"
    );
}

/// A guest on a feature keeps its distance when the world is stated anew.
#[test]
fn a_guest_keeps_to_its_feature() {
    let mut guest = at(What::Sphere { diameter_m: 0.1 }, 0.1, 0.0, 0.0);
    guest.at = Some(parallax_core::spaces::TrackId(7));
    let there = guest
        .placed(1.0, |_| Some(WorldPoint::new(1.0, 2.0, 3.0)))
        .unwrap();
    assert_eq!(
        there,
        Similarity {
            translation: Vector3::new(1.1, 2.0, 3.0),
            ..Similarity::identity()
        }
    );
    assert_eq!(
        guest.placed(1.0, |_| None),
        None,
        "the feature is not solved"
    );
}
