//! Writing and proving a long delivery: 400 frames with 5,000 landmarks and a model, in every format, and in the two that
//! a 3D scene usually is.
#![allow(clippy::unwrap_used)]

use criterion::{Criterion, criterion_group, criterion_main};
use nalgebra::{Point3, Vector3};
use parallax_core::camera::{Intrinsics, Pose, Similarity};
use parallax_core::guest::{What, stand_ins};
use parallax_core::lens::Distortion;
use parallax_core::lens::maps::Keep;
use parallax_core::plate::{FilmBack, FrameRate};
use parallax_core::scene::Receiver;
use parallax_core::solve::certain::PointCovariance;
use parallax_core::spaces::{FrameNumber, WorldPoint};
use parallax_formats::delivery::{Camera, CameraStanding, Delivered, Delivery, Landmark, Shot};
use parallax_formats::format::FormatKind;
use parallax_formats::receipt;
use std::hint::black_box;

fn long() -> Delivery<'static> {
    let shot = Shot {
        name: "terrace-walk".to_owned(),
        rate: FrameRate::new(24000, 1001).unwrap(),
        film_back: FilmBack {
            width_mm: 36.0,
            height_mm: 20.25,
        },
        film_back_assumed: false,
        receiver: Receiver::default(),
        shutter_deg: Some(180.0),
        keep: Keep::All,
    };
    let camera = |k: i32| {
        let along = f64::from(k) / 400.0;
        let eye = Point3::new(8.0 * along, 1.6 + 0.05 * (20.0 * along).sin(), 4.0);
        Camera {
            frame: FrameNumber(1001 + k),
            pose: Pose::looking_at(&eye, &Point3::new(4.0, 0.9, -6.0), &Vector3::y()),
            focal_px: 1500.0,
        }
    };
    let landmark = |k: u32| {
        let spread = |step: f64| (f64::from(k) * step).fract();
        Landmark {
            name: format!("t{k:04}"),
            group: ["", "wall", "floor"][k as usize % 3].to_owned(),
            colour: Some([k as u8; 3]),
            place: WorldPoint::new(
                20.0 * spread(0.618_034) - 6.0,
                5.0 * spread(0.754_877),
                -14.0 * spread(0.569_840),
            ),
            covariance: PointCovariance::of_sigma([0.01, 0.02, 0.03]).ok(),
            residual_px: 0.2,
        }
    };
    let points: Vec<Landmark> = (0..5000).map(landmark).collect();
    let figure = stand_ins::mesh(&What::Figure { height_m: 1.75 }).unwrap();
    Delivery {
        cameras: (0..400).map(camera).collect(),
        probes: points.iter().map(|p| p.place).collect(),
        points,
        guests: vec![Delivered::still(
            "figure",
            figure.into(),
            Similarity::identity(),
        )],
        scaled: true,
        levelled: true,
        standing: CameraStanding::doubted(Vec::new()),
        ..Delivery::empty(
            &shot,
            Intrinsics {
                distortion: Distortion::radial(-0.08, 0.01),
                ..Intrinsics::centred(1920, 1080, 1500.0)
            },
        )
    }
}

fn deliver(criterion: &mut Criterion) {
    let mut group = criterion.benchmark_group("400 frames, 5,000 landmarks");
    group.sample_size(10);
    let mut delivery = long();
    for (name, formats) in [
        (
            "OpenUSD text and GLB",
            vec![FormatKind::Usd, FormatKind::Glb],
        ),
        ("every format", FormatKind::ALL.to_vec()),
    ] {
        delivery.formats = formats;
        group.bench_function(name, |b| {
            b.iter(|| {
                let files = delivery.files().unwrap();
                let receipt = receipt::make(&delivery, &files).unwrap();
                assert!(receipt.files_agree, "{}", receipt.largest_difference_px);
                black_box(receipt)
            });
        });
    }
    group.finish();
}

criterion_group!(benches, deliver);
criterion_main!(benches);
