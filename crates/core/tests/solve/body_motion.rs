//! How a thing that moves by itself goes through the scene: without pictures, against the truth.

use nalgebra::{Point3, UnitQuaternion, Vector3};
use parallax_core::camera::{Intrinsics, Pose, Similarity};
use parallax_core::lens::Distortion;
use parallax_core::orient::{Edge, End, Fact, Runs, Statement, oriented};
use parallax_core::progress::Silent;
use parallax_core::solve::bodies::motion::{BodyLength, BodyMotion, DistanceBy, motion};
use parallax_core::solve::{Attempt, Candidates, SolveOptions, solve_scene};
use parallax_core::spaces::{FrameNumber, TrackId, WorldPoint};
use parallax_core::tracks::{Covariance, Sample, Track, TrackKind};
use rstest::rstest;
use std::collections::HashSet;

const FRAMES: usize = 60;
const NOISE_PX: f64 = 0.05;
/// Tracks of the cart are numbered from here.
const CART: u32 = 1001;

/// How the camera goes.
#[derive(Clone, Copy, PartialEq)]
enum Goes {
    /// By hand, with a step every dozen frames.
    ByHand,
    /// On a straight rail at one speed.
    OnARail,
}

struct Shot {
    lens: Intrinsics,
    goes: Goes,
    tracks: Vec<Track>,
    cart: Vec<Point3<f64>>,
}

impl Shot {
    fn new(goes: Goes, distortion: Distortion) -> Self {
        let lens = Intrinsics {
            distortion,
            ..Intrinsics::centred(1280, 720, 1100.0)
        };
        let mut random = fastrand::Rng::with_seed(5);
        let mut draw = |low: f64, high: f64| low + (high - low) * random.f64();
        let scene =
            (0..160).map(|_| Point3::new(draw(-6.5, 6.5), draw(-3.6, 3.6), draw(-6.0, 0.5)));
        let scene: Vec<_> = scene.collect();
        let cart = (0..70).map(|_| Point3::from([0, 1, 2].map(|_| draw(-0.6, 0.6))));
        let cart: Vec<_> = cart.collect();
        let mut shot = Self {
            lens,
            goes,
            tracks: Vec::new(),
            cart,
        };
        let mut noise = || (0..12).map(|_| random.f64()).sum::<f64>() - 6.0;
        let mut followed = |id: u32, place: &dyn Fn(usize) -> WorldPoint| {
            let samples = (0..FRAMES).filter_map(|k| {
                let px = shot.lens.project(&shot.camera(k), &place(k))?;
                let px = px.moved(nalgebra::Vector2::new(noise(), noise()) * NOISE_PX);
                shot.lens.holds(px).then_some(Sample {
                    frame: frame(k),
                    px,
                    covariance: Covariance::isotropic(NOISE_PX),
                })
            });
            Track::new(TrackId(id), TrackKind::Auto, samples.collect())
        };
        let mut tracks = Vec::new();
        for (id, p) in (1..).zip(&scene) {
            tracks.push(followed(id, &|_| WorldPoint(*p)));
        }
        for (id, p) in (CART..).zip(&shot.cart) {
            tracks.push(followed(id, &|k| there(k).point(&WorldPoint(*p))));
        }
        shot.tracks = tracks;
        shot
    }

    fn camera(&self, k: usize) -> Pose {
        let t = k as f64;
        let eye = match self.goes {
            Goes::ByHand => Point3::new(
                -1.0 + 2.0 * t / FRAMES as f64 + 0.04 * (t / 2.3).sin(),
                0.06 * (t / 1.9).sin() + 0.03 * (t / 3.1).cos(),
                6.0 + 0.05 * (t / 2.9).sin(),
            ),
            Goes::OnARail => Point3::new(-1.0 + 2.0 * t / FRAMES as f64, 0.0, 6.0),
        };
        Pose::looking_at(&eye, &Point3::new(0.3, 0.0, -3.0), &Vector3::y())
    }

    fn attempt(&self) -> Attempt {
        let candidates = Candidates {
            tracks: &self.tracks,
            suspected: &HashSet::new(),
        };
        let options = SolveOptions::nothing_known(self.lens);
        let attempt = solve_scene(candidates, &options, &Silent, &Silent).unwrap();
        assert_eq!(attempt.bodies.len(), 2, "the scene and the cart");
        attempt
    }

    /// From the world of an attempt to the true one.
    fn to_truth(&self, attempt: &Attempt) -> Similarity {
        let solved: Vec<_> = attempt.frames.iter().map(|f| f.pose.centre()).collect();
        let truth: Vec<_> = (0..FRAMES).map(|k| self.camera(k).centre()).collect();
        // Cameras of a rail lie on a line: what they look at belongs to it.
        let ahead = |p: &Pose| WorldPoint(p.centre().0 + p.viewing_direction());
        let reach = solved[0].distance(solved[FRAMES - 1]) / truth[0].distance(truth[FRAMES - 1]);
        let ahead_solved = attempt.frames.iter().map(|f| {
            let eye = f.pose.centre().0;
            WorldPoint(eye + (ahead(&f.pose).0 - eye) * reach)
        });
        let ahead_true = (0..FRAMES).map(|k| ahead(&self.camera(k)));
        let solved: Vec<_> = solved.iter().copied().chain(ahead_solved).collect();
        let truth: Vec<_> = truth.iter().copied().chain(ahead_true).collect();
        Similarity::fitting(&solved, &truth).unwrap()
    }

    fn motion(&self, lengths: &[BodyLength]) -> BodyMotion {
        let attempt = self.attempt();
        let change = self.to_truth(&attempt);
        let found = motion(&self.tracks, &attempt, 1, (&change, lengths), &Silent);
        found.unwrap().unwrap()
    }

    /// Root mean square distance of the cart's landmarks from the truth on all frames, m.
    fn off_m(&self, found: &BodyMotion) -> f64 {
        let off = found.moves.iter().enumerate().flat_map(|(k, moved)| {
            found.points.iter().map(move |p| {
                let own = WorldPoint(self.cart[(p.track.0 - CART) as usize]);
                moved.point(&p.place).distance(there(k).point(&own)).powi(2)
            })
        });
        let all: Vec<f64> = off.collect();
        (all.iter().sum::<f64>() / all.len() as f64).sqrt()
    }
}

fn frame(k: usize) -> FrameNumber {
    FrameNumber(k as i32 + 1)
}

/// Where the cart is: it drives past and turns.
fn there(k: usize) -> Similarity {
    let t = k as f64 / FRAMES as f64;
    Similarity {
        rotation: UnitQuaternion::from_euler_angles(0.1 * t, 0.9 * t, 0.0),
        translation: Vector3::new(-1.2 + 2.0 * t, 0.2 * (3.0 * t).sin(), 2.0 + 0.5 * t),
        scale: 1.0,
    }
}

#[rstest]
#[case::by_hand(Goes::ByHand, Distortion::NONE)]
#[case::on_a_rail(Goes::OnARail, Distortion::NONE)]
#[case::through_a_bent_lens(Goes::ByHand, Distortion::radial(-0.1, 0.01))]
fn a_stated_length_says_how_far_away_it_is(#[case] goes: Goes, #[case] distortion: Distortion) {
    let shot = Shot::new(goes, distortion);
    let ends = [CART, CART + 1].map(TrackId);
    let length = (shot.cart[0] - shot.cart[1]).norm();
    let between = ends;
    let found = shot.motion(&[BodyLength { between, length }]);
    assert_eq!(found.by, DistanceBy::Lengths(1));
    assert_eq!(found.moves.len(), FRAMES);
    assert!(found.points.len() > 60, "{} landmarks", found.points.len());
    let off = shot.off_m(&found);
    assert!(off < 0.02, "{off:.4} m at 4 m");
}

#[test]
fn an_uneven_camera_tells_how_far_away_a_thing_is_that_moves_evenly() {
    let shot = Shot::new(Goes::ByHand, Distortion::NONE);
    let found = shot.motion(&[]);
    let DistanceBy::Independence(share) = found.by else {
        panic!("{}", found.by);
    };
    let off = shot.off_m(&found) / 4.0;
    assert!(
        off < 3.0 * share.max(0.01),
        "off by {off:.3} of the distance, {share:.3} stated"
    );
    assert!(off < 0.06, "off by {off:.3} of the distance");
}

#[test]
fn an_even_camera_does_not_tell_and_the_guess_is_said() {
    let shot = Shot::new(Goes::OnARail, Distortion::NONE);
    let found = shot.motion(&[]);
    assert_eq!(found.by, DistanceBy::Surroundings);
    assert!(found.by.to_string().contains("guessed"));
    // Seen by the camera it is where it was followed all the same.
    let last = FRAMES - 1;
    let off = found.points.iter().filter_map(|p| {
        let own = WorldPoint(shot.cart[(p.track.0 - CART) as usize]);
        let seen = shot
            .lens
            .project(&shot.camera(last), &found.moves[last].point(&p.place))?;
        Some(
            seen.distance_px(
                shot.lens
                    .project(&shot.camera(last), &there(last).point(&own))?,
            ),
        )
    });
    let off: Vec<f64> = off.collect();
    let mean = off.iter().sum::<f64>() / off.len() as f64;
    assert!(mean < 1.0, "{mean:.2} px");
}

#[test]
fn the_scene_is_no_body_and_neither_is_what_was_not_found() {
    let shot = Shot::new(Goes::ByHand, Distortion::NONE);
    let attempt = shot.attempt();
    let asked = |k| {
        motion(
            &shot.tracks,
            &attempt,
            k,
            (&Similarity::identity(), &[]),
            &Silent,
        )
    };
    assert!(asked(0).is_none());
    assert!(asked(2).is_none());
}

/// A length between two features of a thing that moves by itself is no fault of the world's statements; an edge there is.
#[test]
fn a_length_on_a_body_is_told_from_what_is_not_solved() {
    let shot = Shot::new(Goes::ByHand, Distortion::NONE);
    let attempt = shot.attempt();
    let [a, b, of_scene] = [CART, CART + 1, 1].map(TrackId);
    let length = |ends: [TrackId; 2]| Fact::Length {
        between: ends.map(End::Feature),
        length_m: 1.0,
        sigma_m: 0.01,
    };
    let edge = Fact::Edge {
        edge: Edge::Features([a, b]),
        runs: Runs::Up,
    };
    let facts = [length([a, b]), length([a, of_scene]), edge];
    let stated = (1..).zip(facts.map(|fact| Statement { fact, off: false }));
    let stated: Vec<_> = stated.collect();
    let world = oriented(&attempt, &stated, None);
    let unused: Vec<u32> = world.unused().map(|(id, _)| id).collect();
    assert_eq!(unused, [2, 3], "{:?}", world.misses);
}
