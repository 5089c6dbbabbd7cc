//! Drawing guests: a frame of 1280x720 as the movie has it, and a heavy model made ready for rays.
#![allow(clippy::unwrap_used)]

use criterion::{Criterion, criterion_group, criterion_main};
use nalgebra::{Point3, UnitQuaternion, Vector3};
use parallax_core::camera::{Eye, Intrinsics, Pose};
use parallax_core::guest::{Guest, Mesh, What, stand_ins};
use parallax_core::lens::Distortion;
use parallax_core::render::{Cameras, Light, Piece, Quality, Scene, Shown, Sun, Traced, draw};
use parallax_core::spaces::FrameNumber;
use parallax_demo::orrery;
use std::hint::black_box;
use std::sync::Arc;

fn scene() -> (Cameras, Vec<(Guest, Arc<Traced>)>) {
    let lens = Intrinsics {
        distortion: Distortion::radial(-0.09, 0.02),
        ..Intrinsics::centred(1280, 720, 960.0)
    };
    let eye = |k: i32| {
        let from = Point3::new(0.02 * f64::from(k), 1.6, 2.0);
        let pose = Pose::looking_at(&from, &Point3::new(0.0, 0.5, -3.0), &Vector3::y());
        (FrameNumber(k), Eye { lens, pose })
    };
    let guest = |what: What, mesh: Mesh, x: f64| {
        let mut guest = Guest::new("guest", what, None);
        guest.lie.shift_m = [x, 0.0, -3.0];
        (guest, Arc::new(Traced::of(Arc::new(mesh))))
    };
    let stand_in = |what: What, x: f64| {
        let mesh = stand_ins::mesh(&what).unwrap();
        guest(what, mesh, x)
    };
    let guests = vec![
        guest(What::Model { model: 1 }, orrery::mesh(), 0.0),
        stand_in(What::Figure { height_m: 1.75 }, 1.2),
        stand_in(What::Box { size_m: [0.5; 3] }, -1.0),
        stand_in(What::Sphere { diameter_m: 0.4 }, -1.8),
    ];
    (Cameras::of((0..5).map(eye), None), guests)
}

/// Four guests with their shadows on the ground.
fn frame(c: &mut Criterion) {
    let (cameras, guests) = scene();
    let light = Light::from(&Sun::default());
    let mut group = c.benchmark_group("draw four guests, 1280x720");
    group.sample_size(10);
    for rays in [4, 16] {
        let quality = Quality {
            rays,
            shutter_frames: 0.5,
        };
        group.bench_function(format!("{rays} rays"), |b| {
            b.iter(|| {
                let shown: Vec<Shown> = guests
                    .iter()
                    .filter_map(|(guest, traced)| {
                        Shown::of(traced.clone(), FrameNumber(2), &quality, |t| {
                            guest.placed(t, |_| None)
                        })
                    })
                    .collect();
                let scene = Scene {
                    guests: &shown,
                    set: &[Piece::ground(0.0)],
                    light,
                };
                black_box(draw(&scene, &cameras, FrameNumber(2), &quality).unwrap())
            });
        });
    }
    group.finish();
}

/// A million triangles.
fn ready(c: &mut Criterion) {
    let one = orrery::mesh();
    let mut mesh = one.clone();
    while mesh.triangles.len() < 1_000_000 {
        let shift = Vector3::new(mesh.triangles.len() as f32 * 1e-5, 0.0, 0.0);
        mesh.add(&one, &UnitQuaternion::identity(), &shift);
    }
    let mesh = Arc::new(mesh);
    let mut group = c.benchmark_group("make ready for rays");
    group.sample_size(10);
    group.bench_function("1,000,000 triangles", |b| {
        b.iter(|| black_box(Traced::of(mesh.clone())))
    });
    group.finish();
}

criterion_group!(benches, frame, ready);
criterion_main!(benches);
