//! A rolling shutter in a camera that shakes: found with its read-out time, or left alone where there is none.
//! Tracks of points that a known camera sees row by row, without pictures.

use crate::shared;
use nalgebra::{Point3, UnitQuaternion, Vector2, Vector3};
use parallax_core::camera::registration::{self, Sight, registered};
use parallax_core::camera::{Intrinsics, Pose, Similarity};
use parallax_core::solve::{Attempt, CameraMove, Readout, SolveError, SolveOptions, Verdict};
use parallax_core::spaces::{FrameNumber, PlatePx, TrackId, WorldPoint};
use parallax_core::tracks::{Covariance, Sample, Track, TrackKind};
use rstest::rstest;

const FRAMES: usize = 40;
const NOISE_PX: f64 = 0.1;

/// How the camera draws at a time, where its focal length changes by a factor over the shot.
fn lens(zoom: f64, time: f64) -> Intrinsics {
    Intrinsics::centred(1280, 720, 1000.0 * zoom.powf(time / FRAMES as f64))
}

/// A walk, or a turn on the spot, with a camera in unsteady hands.
fn camera(travels: bool, time: f64) -> Pose {
    let t = time / FRAMES as f64;
    let eye = match travels {
        true => Point3::new(
            -1.5 + 3.0 * t,
            1.3 + 0.04 * (0.7 * time).sin(),
            6.0 - 0.6 * t,
        ),
        false => Point3::new(0.0, 1.3, 6.0),
    };
    let target = match travels {
        true => Point3::new(0.3 * t, 0.6, -3.0),
        false => Point3::new(5.0 * t - 2.5, 0.6, -3.0),
    };
    let steady = Pose::looking_at(&eye, &target, &Vector3::y());
    let shakes =
        |period: f64, phase: f64| 0.02 * (std::f64::consts::TAU * time / period + phase).sin();
    let hands = UnitQuaternion::new(Vector3::new(
        shakes(9.0, 0.3),
        shakes(11.0, 1.0),
        shakes(14.0, 2.0),
    ));
    let rotation = hands * steady.camera_from_world.rotation;
    Pose::from_parts(rotation, -(rotation * eye.coords))
}

/// Where a point is seen on a frame whose rows are read within so many frames.
fn seen(
    (travels, zoom): (bool, f64),
    k: usize,
    point: &WorldPoint,
    readout: f64,
) -> Option<PlatePx> {
    let mut px = PlatePx::new(640.0, 360.0);
    for _ in 0..8 {
        let time = k as f64 + readout * (px.y / 720.0 - 0.5);
        px = lens(zoom, time).project(&camera(travels, time), point)?;
    }
    lens(zoom, 0.0).holds(px).then_some(px)
}

struct Shot {
    travels: bool,
    zoom: f64,
    points: Vec<WorldPoint>,
    tracks: Vec<Track>,
}

impl Shot {
    fn new(travels: bool, readout: f64) -> Self {
        Self::zooming(travels, 1.0, readout)
    }

    fn zooming(travels: bool, zoom: f64, readout: f64) -> Self {
        let mut random = fastrand::Rng::with_seed(31);
        let mut draw = |low: f64, high: f64| low + (high - low) * random.f64();
        let points: Vec<WorldPoint> = (0..320)
            .map(|_| WorldPoint::new(draw(-8.0, 8.0), draw(-3.0, 4.0), draw(-6.0, 1.0)))
            .collect();
        let mut normal = || (0..12).map(|_| random.f64()).sum::<f64>() - 6.0;
        let mut track = |(id, point): (usize, &WorldPoint)| {
            let samples = (0..FRAMES).filter_map(|k| {
                let px = seen((travels, zoom), k, point, readout)?;
                Some(Sample {
                    frame: FrameNumber(k as i32 + 1),
                    px: px.moved(Vector2::new(normal(), normal()) * NOISE_PX),
                    covariance: Covariance::isotropic(NOISE_PX),
                })
            });
            Track::new(TrackId(id as u32), TrackKind::Auto, samples.collect())
        };
        let tracks = points.iter().enumerate().map(&mut track);
        let tracks = tracks.filter(|t| t.samples.len() >= 3).collect();
        Self {
            travels,
            zoom,
            points,
            tracks,
        }
    }

    fn solved(&self, readout: Readout) -> Result<Attempt, SolveError> {
        let options = SolveOptions {
            moves: Some(match self.travels {
                true => CameraMove::Free,
                false => CameraMove::Nodal,
            }),
            zooms: Some(self.zoom != 1.0),
            readout,
            ..SolveOptions::nothing_known(lens(1.0, 0.0))
        };
        shared::solve(&self.tracks, &options)
    }

    /// How far the middle rows' cameras see true points off, px rms.
    fn off_px(&self, attempt: &Attempt) -> f64 {
        // What a camera sees that only turns are directions.
        let eye = camera(false, 0.0).centre().0;
        let place = |p: &WorldPoint| match self.travels {
            true => *p,
            false => WorldPoint((p.0 - eye).normalize().into()),
        };
        let points: Vec<WorldPoint> = self.points.iter().map(place).collect();
        let pairs = attempt.landmarks.iter().map(|l| {
            let there = match self.travels {
                true => l.point,
                false => WorldPoint(l.point.0.coords.normalize().into()),
            };
            (points[l.track.0 as usize], there)
        });
        let (from, to): (Vec<_>, Vec<_>) = pairs.unzip();
        let true_pose = |k: usize| match self.travels {
            true => camera(true, k as f64),
            false => Pose::from_parts(
                camera(false, k as f64).camera_from_world.rotation,
                Vector3::zeros(),
            ),
        };
        let sights: Vec<Sight> = attempt
            .frames
            .iter()
            .step_by(3)
            .flat_map(|f| {
                let k = f.frame.0 as usize - 1;
                let sight = |point: &WorldPoint| {
                    let lens = lens(self.zoom, k as f64);
                    let px = lens.project(&true_pose(k), point);
                    let px = px.filter(|px| lens.holds(*px))?;
                    Some(Sight {
                        lens: attempt.lens_at(f),
                        pose: f.pose,
                        point: *point,
                        px,
                    })
                };
                points.iter().filter_map(sight).collect::<Vec<_>>()
            })
            .collect();
        let change = registered(Similarity::fitting(&from, &to).unwrap(), &sights);
        registration::rms_px(&change, &sights)
    }
}

impl Shot {
    /// How far landmarks are drawn off what was seen, px rms: by the rows' cameras, by the middle rows'.
    fn drawn_off_px(&self, attempt: &Attempt) -> (f64, f64) {
        let rows = attempt.rows();
        let (mut by_rows, mut by_middle, mut count) = (0.0, 0.0, 0.0);
        for landmark in &attempt.landmarks {
            let track = self.tracks.iter().find(|t| t.id == landmark.track).unwrap();
            for sample in &track.samples {
                let k = attempt
                    .frames
                    .binary_search_by_key(&sample.frame, |f| f.frame)
                    .unwrap();
                let middle = attempt
                    .lens
                    .project(&attempt.frames[k].pose, &landmark.point);
                let row = rows.seen(k, &landmark.point);
                if let Some(((row, _), middle)) = row.zip(middle) {
                    by_rows += row.distance_px(sample.px).powi(2);
                    by_middle += middle.distance_px(sample.px).powi(2);
                    count += 1.0;
                }
            }
        }
        ((by_rows / count).sqrt(), (by_middle / count).sqrt())
    }
}

/// Found by itself: the read-out time within three of its errors, the camera at least fifteen times nearer.
#[rstest]
#[case::walk(true)]
#[case::turn(false)]
fn a_read_out_time_is_found(#[case] travels: bool) {
    const READOUT: f64 = 0.5;
    let shot = Shot::new(travels, READOUT);
    let attempt = shot.solved(Readout::Unknown).unwrap();
    let (found, sigma) = attempt.readout.unwrap();
    assert!(
        (found - READOUT).abs() < 3.0 * sigma && sigma < 0.001,
        "{found} +- {sigma} frames"
    );
    let off_px = shot.off_px(&attempt);
    assert!(off_px < 0.05, "{off_px:.3} px");
    assert_eq!(attempt.verdict, Verdict::Good, "{:?}", attempt.doubts);
    // Drawn where their rows were read, landmarks lie on what was followed.
    let (by_rows, by_middle) = shot.drawn_off_px(&attempt);
    assert!(
        by_rows < 2.0 * NOISE_PX && by_middle > 3.0 * by_rows,
        "{by_rows:.3} and {by_middle:.3} px"
    );
    // Where there is a camera at all without it, it is far off and doubted.
    if let Ok(without) = shot.solved(Readout::None) {
        let before = shot.off_px(&without);
        assert!(before > 15.0 * off_px, "{before:.3} and {off_px:.3} px");
        assert_eq!(without.verdict, Verdict::NeedsALook);
    }
}

/// A zoom goes on while rows are read.
#[rstest]
#[case::walk(true)]
#[case::turn(false)]
fn a_zoom_goes_on_while_rows_are_read(#[case] travels: bool) {
    let shot = Shot::zooming(travels, 1.3, 0.6);
    let attempt = shot.solved(Readout::Unknown).unwrap();
    let (found, _) = attempt.readout.unwrap();
    assert!((found - 0.6).abs() < 0.02, "{found} frames");
    let off_px = shot.off_px(&attempt);
    assert!(off_px < 0.3, "{off_px:.3} px");
    assert_eq!(attempt.verdict, Verdict::Good, "{:?}", attempt.doubts);
}

/// In unsteady hands a slight zoom looks like a lens that bends; it is found for what it is.
#[rstest]
fn a_slight_zoom_is_no_lens(
    #[values(true, false)] travels: bool,
    #[values(0.0, 0.6)] readout: f64,
    #[values(1.002, 1.0035)] zoom: f64,
) {
    let shot = Shot::zooming(travels, zoom, readout);
    let attempt = shot.solved(Readout::Unknown).unwrap();
    assert!(attempt.zooms());
    assert_eq!(attempt.verdict, Verdict::Good, "{:?}", attempt.doubts);
    let off_px = shot.off_px(&attempt);
    assert!(off_px < 0.15, "{off_px:.3} px");
}

/// What another solve found is a start, and no more: here it is another value, or none.
#[rstest]
#[case::another(0.5, 0.25)]
#[case::none(0.0, 0.4)]
fn a_read_out_time_found_elsewhere_is_a_start(#[case] readout: f64, #[case] elsewhere: f64) {
    let shot = Shot::new(true, readout);
    let attempt = shot.solved(Readout::Found(elsewhere)).unwrap();
    let found = attempt.readout.map_or(0.0, |(frames, _)| frames);
    assert!((found - readout).abs() < 0.02, "{found} frames");
    assert_eq!(attempt.verdict, Verdict::Good, "{:?}", attempt.doubts);
    assert!(shot.off_px(&attempt) < 0.3);
}

/// None is made up where all rows are exposed at once.
#[rstest]
#[case::walk(true)]
#[case::turn(false)]
fn no_read_out_time_is_made_up(#[case] travels: bool) {
    let attempt = Shot::new(travels, 0.0).solved(Readout::Unknown).unwrap();
    assert_eq!(attempt.readout, None);
    assert_eq!(attempt.verdict, Verdict::Good, "{:?}", attempt.doubts);
}

/// One that is stated is taken as it is.
#[test]
fn a_stated_read_out_time_is_kept() {
    let shot = Shot::new(true, 0.3);
    let attempt = shot.solved(Readout::Known(0.3)).unwrap();
    assert_eq!(attempt.readout, Some((0.3, 0.0)));
    assert!(shot.off_px(&attempt) < 0.3);
    let wrong = shot.solved(Readout::Known(3.0));
    assert!(
        matches!(wrong, Err(SolveError::OutOfRange { .. })),
        "{:?}",
        wrong.err()
    );
}
