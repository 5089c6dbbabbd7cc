//! What one feature costs on one frame, on one thread: finding it (translation, coarse to
//! fine) and aligning it to its reference (affine); and what a pyramid costs.

use criterion::{BenchmarkId, Criterion, criterion_group, criterion_main};
use nalgebra::{Matrix2, Rotation2, Vector2};
use parallax_core::spaces::PlatePx;
use parallax_core::track::follow::{Reference, Scratch, Warp, shift_between};
use parallax_core::track::picture::{Plane, Pyramid};
use std::hint::black_box;

/// Moved by `shift`, turned by `turn_rad` and scaled about the top-left corner, as between
/// the frames of a walk.
fn picture(width: usize, height: usize, shift: (f64, f64), turn_rad: f64, scale: f64) -> Plane {
    let mut random = fastrand::Rng::with_seed(3);
    let waves: Vec<[f64; 4]> = (0..12)
        .map(|_| {
            let length = 4.0 * 16.0f64.powf(random.f64());
            let angle = random.f64() * std::f64::consts::TAU;
            let k = std::f64::consts::TAU / length;
            [
                k * angle.cos(),
                k * angle.sin(),
                random.f64() * 6.3,
                4.0 + length * 0.3,
            ]
        })
        .collect();
    let mut grain = fastrand::Rng::with_seed((shift.0 * 1000.0) as u64);
    let levels = (0..width * height)
        .map(|i| {
            let (x, y) = ((i % width) as f64 - shift.0, (i / width) as f64 - shift.1);
            let (sin, cos) = turn_rad.sin_cos();
            let (x, y) = ((cos * x + sin * y) / scale, (cos * y - sin * x) / scale);
            let texture: f64 = waves
                .iter()
                .map(|[u, v, p, a]| a * (u * x + v * y + p).sin())
                .sum();
            (128.0 + texture + 3.0 * (grain.f64() - 0.5)) as f32
        })
        .collect();
    Plane::new(width, height, levels).unwrap_or_else(|| unreachable!("sizes agree"))
}

fn following(c: &mut Criterion) {
    const FEATURES: usize = 200;
    let before = picture(1280, 720, (0.0, 0.0), 0.0, 1.0);
    let after = picture(1280, 720, (2.3, -1.6), 0.004, 1.003);
    let mut random = fastrand::Rng::with_seed(1);
    let places: Vec<PlatePx> = (0..FEATURES)
        .map(|_| PlatePx::new(60.0 + 1160.0 * random.f64(), 60.0 + 600.0 * random.f64()))
        .collect();
    let (old, new) = (Pyramid::new(before, 4), Pyramid::new(after, 4));
    let mut scratch = Scratch::default();
    let references: Vec<Option<Reference>> = places
        .iter()
        .map(|p| Reference::cut(old.level(0), *p, 21, &mut scratch))
        .collect();
    let (shift, turned) = (Vector2::new(2.3, -1.6), Rotation2::new(0.004));
    // A feature's speed predicts to a px or two.
    let expected = |place: &PlatePx| {
        let there = turned * (Vector2::new(place.x, place.y) * 1.003) + shift;
        PlatePx::new(there.x + 1.2, there.y - 0.9)
    };
    let mut group = c.benchmark_group("follow 200 features, pattern 21");
    group.bench_function("find and align, one way", |b| {
        b.iter(|| {
            let mut settled = 0;
            for (place, reference) in places.iter().zip(&references) {
                let Some(reference) = reference else { continue };
                let guess = expected(place);
                let Some(to) = shift_between(&old, &new, *place, guess, 21, (1, 2), &mut scratch)
                else {
                    continue;
                };
                let start = Warp {
                    centre: to,
                    shape: Matrix2::identity(),
                };
                settled +=
                    usize::from(reference.align(new.level(0), start, &mut scratch).is_some());
            }
            assert!(settled * 10 > FEATURES * 9);
            black_box(settled)
        });
    });
    group.bench_function("find only", |b| {
        b.iter(|| {
            for place in &places {
                black_box(shift_between(
                    &old,
                    &new,
                    *place,
                    expected(place),
                    21,
                    (1, 2),
                    &mut scratch,
                ));
            }
        });
    });
    group.bench_function("align only", |b| {
        b.iter(|| {
            for (place, reference) in places.iter().zip(&references) {
                let Some(reference) = reference else { continue };
                let to = expected(place).moved(Vector2::new(-1.17, 0.88));
                let start = Warp {
                    centre: to,
                    shape: Matrix2::identity(),
                };
                black_box(reference.align(new.level(0), start, &mut scratch));
            }
        });
    });
    group.bench_function("cut a reference", |b| {
        b.iter(|| {
            places
                .iter()
                .map(|p| Reference::cut(old.level(0), *p, 21, &mut scratch))
                .filter(Option::is_some)
                .count()
        });
    });
    group.finish();
    let mut group = c.benchmark_group("pyramid, 4 levels");
    for (width, height) in [(1280, 720), (1920, 1080)] {
        let plane = picture(width, height, (0.0, 0.0), 0.0, 1.0);
        group.bench_function(
            BenchmarkId::from_parameter(format!("{width}x{height}")),
            |b| {
                b.iter(|| Pyramid::new(plane.clone(), 4));
            },
        );
    }
    group.finish();
}

criterion_group!(benches, following);
criterion_main!(benches);
