//! Lenses from straights and maps, against lenses that are known.

use parallax_core::camera::Intrinsics;
use parallax_core::lens::Distortion;
use parallax_core::lens::edge::{filled, snap};
use parallax_core::lens::maps::{Frame, Keep, MapError};
use parallax_core::lens::resample::Rgba;
use parallax_core::lens::straights::{Centre, LensOptions, Widening, solve_straights, wanting};
use parallax_core::spaces::{LensPoint, PlatePx};
use parallax_core::track::picture::Plane;
use rstest::rstest;

const WIDTH: u32 = 1920;
const HEIGHT: u32 = 1080;

fn lens(distortion: Distortion) -> Intrinsics {
    Intrinsics {
        distortion,
        ..Intrinsics::centred(WIDTH, HEIGHT, f64::from(WIDTH))
    }
}

fn gauss(random: &mut fastrand::Rng) -> f64 {
    (-2.0 * random.f64().max(1e-12).ln()).sqrt() * (std::f64::consts::TAU * random.f64()).cos()
}

/// Lines across the undistorted picture, seen through the lens, marked with noise.
fn straights(lens: &Intrinsics, count: usize, noise_px: f64, seed: u64) -> Vec<Vec<PlatePx>> {
    let mut random = fastrand::Rng::with_seed(seed);
    let (w, h) = (
        f64::from(lens.width_px) / lens.focal_px,
        f64::from(lens.height_px) / lens.focal_px,
    );
    let mut out = Vec::new();
    while out.len() < count {
        let upright = random.bool();
        let (from, to) = (random.f64() - 0.5, random.f64() - 0.5);
        // Edges of buildings: nearly across or up, seldom through the middle.
        let to = from + 0.15 * to;
        let marks: Vec<PlatePx> = (0..24)
            .filter_map(|i| {
                let t = (f64::from(i) / 23.0 - 0.5) * 1.1;
                let s = from + (to - from) * (t + 0.5);
                let at = if upright {
                    LensPoint::new(s * w, t * h)
                } else {
                    LensPoint::new(t * w, s * h)
                };
                let px = lens.plate_px(at);
                let inside =
                    px.x > 0.0 && px.y > 0.0 && px.x < f64::from(WIDTH) && px.y < f64::from(HEIGHT);
                let noisy = PlatePx::new(
                    px.x + noise_px * gauss(&mut random),
                    px.y + noise_px * gauss(&mut random),
                );
                inside.then_some(noisy)
            })
            .collect();
        if marks.len() > 8 {
            out.push(marks);
        }
    }
    out
}

/// How far the recovered lens draws what the true one draws, at worst over the whole picture
/// with its corners, px of the plate.
fn corner_error_px(found: &Intrinsics, truth: &Intrinsics) -> f64 {
    let grid: Vec<(LensPoint, PlatePx)> = (0..=20)
        .flat_map(|i| (0..=20).map(move |j| (i, j)))
        .map(|(i, j)| {
            let px = PlatePx::new(
                f64::from(i) / 20.0 * f64::from(WIDTH),
                f64::from(j) / 20.0 * f64::from(HEIGHT),
            );
            (truth.lens_point(px).unwrap(), px)
        })
        .collect();
    grid.iter()
        .map(|(at, px)| found.plate_px(*at).distance_px(*px))
        .fold(0.0, f64::max)
}

#[rstest]
#[case::barrel(Distortion::radial(-0.25, 0.06))]
#[case::mild(Distortion::radial(-0.03, 0.0))]
#[case::cushion(Distortion::radial(0.08, -0.01))]
#[case::none(Distortion::NONE)]
fn ten_straights_give_the_lens(#[case] distortion: Distortion) {
    let truth = lens(distortion);
    let mut errors: Vec<f64> = (0..15)
        .map(|seed| {
            let marks = straights(&truth, 10, 0.3, seed);
            let found = solve_straights(WIDTH, HEIGHT, &marks, &LensOptions::default()).unwrap();
            // Misses are across the line only, so what is left is the noise of one coordinate.
            assert!(
                (0.2..0.4).contains(&found.rms_after_px),
                "{} px is left of 0.3",
                found.rms_after_px
            );
            corner_error_px(&found.lens, &truth)
        })
        .collect();
    errors.sort_by(f64::total_cmp);
    assert!(
        errors[7] < 0.5,
        "the corner is off by {:.2} px in the median, {:.2} at worst",
        errors[7],
        errors[14]
    );
}

#[test]
fn stated_errors_are_honest() {
    let truth = lens(Distortion::radial(-0.25, 0.06));
    let mut normalised: Vec<f64> = (0..60)
        .map(|seed| {
            let found = solve_straights(
                WIDTH,
                HEIGHT,
                &straights(&truth, 10, 0.3, 100 + seed),
                &LensOptions::default(),
            )
            .unwrap();
            ((found.lens.distortion.k1 + 0.25) / found.sigma.k1).abs()
        })
        .collect();
    normalised.sort_by(f64::total_cmp);
    let within = normalised.iter().filter(|n| **n < 1.0).count();
    assert!(
        (32..=50).contains(&within),
        "{within} of 60 within one standard error, 41 expected"
    );
}

#[test]
fn a_free_centre_and_more_terms_are_found() {
    let distortion = Distortion {
        k1: -0.2,
        k2: 0.05,
        k3: -0.01,
        ..Distortion::NONE
    };
    let truth = Intrinsics {
        centre: PlatePx::new(985.0, 520.0),
        ..lens(distortion)
    };
    let options = LensOptions {
        terms: 3,
        centre: Centre::Free,
        ..LensOptions::default()
    };
    let found = solve_straights(WIDTH, HEIGHT, &straights(&truth, 40, 0.1, 5), &options).unwrap();
    let [x, y] = found.centre_sigma_px.unwrap();
    let off = (found.lens.centre.x - 985.0, found.lens.centre.y - 520.0);
    assert!(
        off.0.abs() < 4.0 * x && off.1.abs() < 4.0 * y && x < 3.0,
        "centre off by {off:?}, stated {x:.2}, {y:.2}"
    );
    // Within a few parts of a px the map is the same, wherever the terms went.
    assert!(corner_error_px(&found.lens, &truth) < 1.5);
}

#[test]
fn one_wrong_straight_does_not_spoil_the_lens() {
    let truth = lens(Distortion::radial(-0.1, 0.02));
    let mut marks = straights(&truth, 12, 0.3, 3);
    // Along a curved thing.
    marks.push(
        (0..20)
            .map(|i| {
                PlatePx::new(
                    100.0 + 80.0 * f64::from(i),
                    900.0 + 0.2 * f64::from((i - 10) * (i - 10)),
                )
            })
            .collect(),
    );
    let found = solve_straights(WIDTH, HEIGHT, &marks, &LensOptions::default()).unwrap();
    assert_eq!(found.worst, 12);
    assert!(
        corner_error_px(&found.lens, &truth) < 3.0,
        "{:.2}",
        corner_error_px(&found.lens, &truth)
    );
}

#[rstest]
#[case::nothing(vec![], "too few")]
#[case::two_points(vec![vec![(10.0, 10.0), (900.0, 12.0)]], "three or more")]
#[case::one_place(vec![vec![(10.0, 10.0), (10.5, 10.0), (10.0, 10.5)]], "within 2 px")]
#[case::out_of_range(vec![vec![(10.0, f64::NAN), (50.0, 10.0), (90.0, 10.5)]], "out of range")]
#[case::through_the_centre(
    (0..6).map(|a| (0..12).map(|i| { let r = f64::from(i * 80 - 440); let t = f64::from(a) * 0.5; (960.0 + r * t.cos(), 540.0 + r * t.sin()) }).collect()).collect(),
    "do not determine"
)]
fn what_says_nothing_is_refused(#[case] marks: Vec<Vec<(f64, f64)>>, #[case] words: &str) {
    let marks: Vec<Vec<PlatePx>> = marks
        .into_iter()
        .map(|s| s.into_iter().map(|(x, y)| PlatePx::new(x, y)).collect())
        .collect();
    let error = solve_straights(WIDTH, HEIGHT, &marks, &LensOptions::default()).unwrap_err();
    assert!(error.to_string().contains(words), "{error}");
}

#[rstest]
#[case::barrel(Distortion::radial(-0.2, 0.04), true)]
#[case::cushion(Distortion::radial(0.1, 0.0), false)]
fn all_of_the_plate_is_kept(#[case] distortion: Distortion, #[case] grows: bool) {
    let lens = lens(distortion);
    let frame = Frame::of(&lens, Keep::All).unwrap();
    assert_eq!((frame.width_px % 2, frame.height_px % 2), (0, 0));
    assert_eq!(frame.width_px > WIDTH && frame.height_px > HEIGHT, grows);
    let (w, h) = (f64::from(WIDTH), f64::from(HEIGHT));
    for corner in [
        (0.0, 0.0),
        (w, 0.0),
        (0.0, h),
        (w, h),
        (0.5 * w, 0.0),
        (w, 0.5 * h),
    ] {
        let at = frame.undistorted(PlatePx::new(corner.0, corner.1)).unwrap();
        let inside = at.x >= -1e-3 && at.y >= -1e-3 && at.x <= f64::from(frame.width_px) + 1e-3;
        assert!(
            inside && at.y <= f64::from(frame.height_px) + 1e-3,
            "{at:?}"
        );
        assert!(
            frame
                .distorted(at)
                .unwrap()
                .distance_px(PlatePx::new(corner.0, corner.1))
                < 1e-6
        );
    }
    let same = Frame::of(&lens, Keep::Size).unwrap();
    assert_eq!((same.width_px, same.height_px), (WIDTH, HEIGHT));
}

#[test]
fn a_folding_lens_is_refused() {
    let error = Frame::of(&lens(Distortion::radial(-1.4, 0.0)), Keep::Size).unwrap_err();
    assert!(
        matches!(error, MapError::Folds { fold_px, corner_px } if fold_px < corner_px),
        "{error}"
    );
}

#[test]
fn maps_there_and_back_compose_to_nothing() {
    let lens = Intrinsics {
        centre: PlatePx::new(965.0, 534.0),
        ..lens(Distortion::radial(-0.25, 0.06))
    };
    let frame = Frame::of(&lens, Keep::All).unwrap();
    let (there, back) = (frame.undistorting(), frame.distorting());
    let mut worst: f64 = 0.0;
    for y in (2..HEIGHT - 2).step_by(7) {
        for x in (2..WIDTH - 2).step_by(7) {
            let [u, v] = back.from_px[(y * WIDTH + x) as usize].map(f64::from);
            let Some([px, py]) = there.at([u, v]) else {
                continue;
            };
            worst = worst.max((px - f64::from(x) - 0.5).hypot(py - f64::from(y) - 0.5));
        }
    }
    assert!(worst < 0.02, "{worst} px");
}

/// Texture down to a few px, as plates have.
fn texture() -> Rgba {
    let (width, height) = (640u32, 360u32);
    let level = |x: f64, y: f64| {
        0.5 + 0.2 * (0.31 * x + 0.17 * y).sin() + 0.15 * (0.09 * x - 0.6 * y).cos()
    };
    let px = (0..width * height).map(|i| {
        let v = level(f64::from(i % width), f64::from(i / width)) as f32;
        [v, 0.5 * v, 1.0 - v, 1.0]
    });
    Rgba::of_px(width, height, false, px)
}

#[test]
fn undistorting_and_distorting_again_returns_the_texture() {
    let source = texture();
    let lens = Intrinsics {
        distortion: Distortion::radial(-0.12, 0.02),
        ..Intrinsics::centred(source.width_px, source.height_px, 640.0)
    };
    let frame = Frame::of(&lens, Keep::All).unwrap();
    let again = source
        .through(&frame.undistorting())
        .through(&frame.distorting());
    let (mut squares, mut count) = (0.0, 0);
    for y in 8..352usize {
        for x in 8..632usize {
            let k = y * 640 + x;
            let (source, again) = (source.px(k), again.px(k));
            squares += (0..3)
                .map(|c| f64::from(source[c] - again[c]).powi(2))
                .sum::<f64>();
            count += 3;
        }
    }
    let rms_levels = 255.0 * (squares / f64::from(count)).sqrt();
    assert!(rms_levels < 1.0, "{rms_levels} levels");
}

#[test]
fn a_soft_edge_does_not_ring() {
    // A ramp of four px between two flat areas.
    let (width, height) = (200u32, 20u32);
    let level = |x: u32| ((f64::from(x) - 98.0) / 4.0).clamp(0.0, 1.0) as f32;
    let source = Rgba::of_px(
        width,
        height,
        true,
        (0..width * height).map(|i| [level(i % width); 4]),
    );
    let lens = Intrinsics {
        distortion: Distortion::radial(-0.05, 0.0),
        ..Intrinsics::centred(width, height, 200.0)
    };
    let out = source.through(&Frame::of(&lens, Keep::Size).unwrap().undistorting());
    let (low, high) = out
        .all_px()
        .filter(|v| v[3] > 0.0)
        .fold((1.0f32, 0.0f32), |(l, h), v| (l.min(v[0]), h.max(v[0])));
    assert!(
        low > -1.0 / 255.0 && high < 1.0 + 1.0 / 255.0,
        "{low} to {high}"
    );
}

/// A picture that is bright outside a circle, its border one px soft, with grain.
fn disc(centre: PlatePx, radius_px: f64, contrast: f64, grain: f64) -> Plane {
    let mut random = fastrand::Rng::with_seed(5);
    let level = |k: usize| {
        let at = PlatePx::new((k % 400) as f64 + 0.5, (k / 400) as f64 + 0.5);
        let share = 1.0 / (1.0 + (-(at.distance_px(centre) - radius_px) / 0.5).exp());
        (100.0 + contrast * share + grain * gauss(&mut random)) as f32
    };
    Plane::new(400, 300, (0..400 * 300).map(level).collect()).unwrap()
}

#[rstest]
#[case::strong_edge(80.0, 1.5, 0.1)]
#[case::weak_edge(12.0, 1.5, 0.35)]
#[case::darker_outside(-80.0, 1.5, 0.1)]
fn marks_snap_to_a_curved_edge(#[case] contrast: f64, #[case] grain: f64, #[case] within_px: f64) {
    let (centre, radius_px) = (PlatePx::new(200.0, 1040.0), 900.0);
    let picture = disc(centre, radius_px, contrast, grain);
    let beside = |x: f64, by: f64| {
        let top = centre.y - (radius_px.powi(2) - (x - centre.x).powi(2)).sqrt();
        PlatePx::new(x, top + by)
    };
    let marks = [
        beside(30.0, 2.0),
        beside(110.0, -2.5),
        beside(190.0, 1.5),
        beside(280.0, 0.5),
        beside(370.0, -2.0),
    ];
    let dense = filled(&marks, 20.0);
    assert!((15..25).contains(&dense.len()), "{} marks", dense.len());
    let snapped = snap(&picture, &dense, 5.0).unwrap();
    assert!(snapped.found.iter().all(|f| *f));
    let misses: Vec<f64> = snapped
        .marks
        .iter()
        .map(|m| m.distance_px(centre) - radius_px)
        .collect();
    let rms = (misses.iter().map(|m| m * m).sum::<f64>() / misses.len() as f64).sqrt();
    assert!(rms < within_px, "{rms} px from the edge");
}

#[test]
fn marks_stay_with_one_of_two_edges() {
    // A bar three px wide: both its borders are as strong, and every mark has both in reach.
    let (centre, radius_px) = (PlatePx::new(200.0, 1040.0), 900.0);
    let level = |k: usize| {
        let at = PlatePx::new((k % 400) as f64 + 0.5, (k / 400) as f64 + 0.5);
        let soft = |r: f64| 1.0 / (1.0 + (-(at.distance_px(centre) - r) / 0.4).exp());
        (90.0 + 70.0 * (soft(radius_px) - soft(radius_px + 4.0)) + 25.0 * soft(radius_px + 8.0))
            as f32
    };
    let picture = Plane::new(400, 300, (0..400 * 300).map(level).collect()).unwrap();
    let mut random = fastrand::Rng::with_seed(11);
    let marks: Vec<PlatePx> = (0..15)
        .map(|k| {
            let x = 30.0 + 24.0 * f64::from(k);
            let top = centre.y - (radius_px.powi(2) - (x - centre.x).powi(2)).sqrt();
            PlatePx::new(x, top + 2.0 * gauss(&mut random))
        })
        .collect();
    let snapped = snap(&picture, &marks, 6.0).unwrap();
    let on_edge = (0..15)
        .filter(|k| snapped.found[*k])
        .map(|k| snapped.marks[k].distance_px(centre) - radius_px);
    let worst = on_edge.map(f64::abs).fold(0.0, f64::max);
    assert!(
        worst < 0.3,
        "a mark lies {worst} px from the edge of the others"
    );
    assert!(snapped.found.iter().filter(|f| **f).count() > 12);
}

#[test]
fn nothing_snaps_where_there_is_no_edge() {
    let picture = disc(PlatePx::new(200.0, 1040.0), 900.0, 0.0, 1.5);
    let marks = [
        PlatePx::new(30.0, 150.0),
        PlatePx::new(200.0, 150.0),
        PlatePx::new(370.0, 150.0),
    ];
    assert_eq!(snap(&picture, &marks, 5.0), None);
}

#[test]
fn the_drawn_curve_passes_the_marks() {
    let truth = lens(Distortion::radial(-0.25, 0.06));
    let marks = straights(&truth, 10, 0.3, 3);
    let found = solve_straights(WIDTH, HEIGHT, &marks, &LensOptions::default()).unwrap();
    for (straight, of) in marks.iter().zip(&found.straights) {
        assert_eq!(of.misses_px.len(), straight.len());
        for (mark, miss) in straight.iter().zip(&of.misses_px) {
            // Between two of its points a curve is a chord, so the nearest point is a little off.
            let pieces = of.curve.windows(2);
            let nearest = pieces
                .map(|p| beside_piece(*mark, p[0], p[1]))
                .fold(f64::INFINITY, f64::min);
            assert!(
                (nearest - miss.norm()).abs() < 0.1,
                "{nearest} px drawn, {miss} px said"
            );
            let on_it = mark.moved(-miss);
            let left = of
                .curve
                .windows(2)
                .map(|p| beside_piece(on_it, p[0], p[1]))
                .fold(f64::INFINITY, f64::min);
            assert!(left < 0.1, "the needle ends {left} px beside the curve");
        }
    }
}

fn beside_piece(at: PlatePx, a: PlatePx, b: PlatePx) -> f64 {
    let along = b.offset_from(a);
    let t = (at.offset_from(a).dot(&along) / along.norm_squared()).clamp(0.0, 1.0);
    at.distance_px(a.moved(along * t))
}

/// A wide lens needs its third term: without it a corner is tens of px off although marks fit to
/// a tenth, and what is left is said to call for it; with it, or with a lens of two, for nothing.
#[rstest]
#[case::third_term(Distortion { k3: -0.05, ..Distortion::radial(-0.28, 0.16) }, 2, Some(Widening::RadialTerm))]
#[case::solved_with_it(Distortion { k3: -0.05, ..Distortion::radial(-0.28, 0.16) }, 3, None)]
#[case::two_are_enough(Distortion::radial(-0.25, 0.06), 2, None)]
fn straights_call_for_the_term_that_is_missing(
    #[case] distortion: Distortion,
    #[case] terms: usize,
    #[case] wanted: Option<Widening>,
) {
    let truth = Intrinsics {
        distortion,
        ..Intrinsics::centred(WIDTH, HEIGHT, 1400.0)
    };
    let options = LensOptions {
        terms,
        focal_px: Some(1400.0),
        ..LensOptions::default()
    };
    for seed in 0..6 {
        let marks = straights(&truth, 60, 0.1, seed);
        let solved = solve_straights(WIDTH, HEIGHT, &marks, &options).unwrap();
        assert_eq!(
            wanting(&marks, &options, &solved).map(|w| w.by),
            wanted,
            "seed {seed}"
        );
    }
}

#[test]
fn a_centre_off_the_middle_is_called_for_and_found() {
    let truth = Intrinsics {
        centre: PlatePx::new(985.0, 520.0),
        ..lens(Distortion::radial(-0.25, 0.06))
    };
    let marks = straights(&truth, 60, 0.1, 4);
    let solved = solve_straights(WIDTH, HEIGHT, &marks, &LensOptions::default()).unwrap();
    let said = wanting(&marks, &LensOptions::default(), &solved).unwrap();
    assert_eq!(said.by, Widening::FreeCentre);
    let options = LensOptions {
        centre: Centre::Free,
        ..LensOptions::default()
    };
    let found = solve_straights(WIDTH, HEIGHT, &marks, &options).unwrap();
    assert!(
        found.lens.centre.distance_px(truth.centre) < 6.0,
        "{:?}",
        found.lens.centre
    );
}

/// A picture cropped on one side has its centre where no lens has it; what is believed of
/// lenses must not pull it back.
#[test]
fn the_centre_of_a_cropped_picture_is_not_pulled_to_the_middle() {
    let truth = Intrinsics {
        centre: PlatePx::new(1260.0, 540.0),
        ..lens(Distortion::radial(-0.25, 0.06))
    };
    let options = LensOptions {
        centre: Centre::Free,
        ..LensOptions::default()
    };
    let offs: Vec<f64> = (0..9)
        .map(|seed| {
            let marks = straights(&truth, 25, 0.3, seed);
            let found = solve_straights(WIDTH, HEIGHT, &marks, &options).unwrap();
            let sigma = found.centre_sigma_px.unwrap()[0];
            (found.lens.centre.x - 1260.0) / sigma
        })
        .collect();
    let mean = offs.iter().sum::<f64>() / offs.len() as f64;
    // Nine draws: the mean of the normalised errors has a standard error of a third.
    assert!(mean.abs() < 1.2, "{offs:.2?}");
}

/// Tangential terms and a free centre do almost the same to straights; together they must not
/// run off to what no lens has.
#[test]
fn weak_terms_do_not_run_away_together() {
    let truth = lens(Distortion::radial(-0.25, 0.06));
    let options = LensOptions {
        tangential: true,
        centre: Centre::Free,
        ..LensOptions::default()
    };
    for seed in 0..9 {
        let marks = straights(&truth, 12, 0.5, seed);
        let found = solve_straights(WIDTH, HEIGHT, &marks, &options)
            .unwrap()
            .lens;
        let off_px = found.centre.distance_px(truth.centre);
        let tangential = found.distortion.p1.hypot(found.distortion.p2);
        assert!(
            off_px < 40.0 && tangential < 0.002,
            "seed {seed}: centre off by {off_px:.1} px, {tangential:.5}"
        );
    }
}
