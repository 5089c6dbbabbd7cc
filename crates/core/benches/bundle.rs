//! What an adjustment costs: cameras on a walk, tracks over 30 frames, a start far off.

use criterion::{BenchmarkId, Criterion, SamplingMode, criterion_group, criterion_main};
use nalgebra::{Point3, Vector3};
use parallax_core::camera::{Intrinsics, Pose};
use parallax_core::progress::Silent;
use parallax_core::solve::bundle::{
    Beliefs, FreeLens, Loss, Motion, Observation, Problem, Settings, minimise, residual,
};
use parallax_core::spaces::WorldPoint;

/// `cameras` on a walk; each point is seen by `life` consecutive cameras; start about 60 px off.
fn problem(cameras: usize, points: usize, life: usize) -> Problem {
    let mut random = fastrand::Rng::with_seed(2);
    let mut draw = |range: f64| (random.f64() - 0.5) * 2.0 * range;
    let lens = Intrinsics::centred(1280, 720, 1000.0);
    let poses: Vec<Pose> = (0..cameras)
        .map(|i| {
            let x = 0.05 * i as f64;
            let eye = Point3::new(x, 1.6 + draw(0.02), draw(0.05));
            Pose::looking_at(&eye, &Point3::new(x + draw(0.1), 1.0, -8.0), &Vector3::y())
        })
        .collect();
    let (mut places, mut observations) = (Vec::new(), Vec::new());
    for point in 0..points {
        let first = point * (cameras - life + 1) / points;
        let middle = 0.05 * (first + life / 2) as f64;
        let place = WorldPoint::new(middle + draw(3.0), 1.0 + draw(1.5), -8.0 + draw(3.0));
        places.push(place.0.coords);
        for (camera, pose) in poses.iter().enumerate().skip(first).take(life) {
            let Some(px) = lens.project(pose, &place) else {
                continue;
            };
            let px = px.moved(nalgebra::Vector2::new(draw(0.3), draw(0.3)));
            observations.push(Observation {
                camera: camera as u32,
                point: point as u32,
                px,
                whitening: [5.0, 0.0, 5.0],
            });
        }
    }
    let poses = poses
        .iter()
        .map(|p| {
            p.perturbed(
                Vector3::new(draw(0.04), draw(0.04), draw(0.02)),
                Vector3::new(draw(0.15), draw(0.15), draw(0.15)),
            )
        })
        .collect();
    let points = places
        .iter()
        .map(|p| p + Vector3::new(draw(0.2), draw(0.2), draw(0.4)))
        .collect();
    Problem {
        motion: Motion::Free,
        zoom: None,
        lens: lens.with_focal(1040.0),
        rolling: None,
        free: FreeLens {
            focal: true,
            ..FreeLens::default()
        },
        beliefs: Beliefs::default(),
        poses,
        points,
        observations: observations.into(),
    }
}

fn rms_px(problem: &Problem) -> f64 {
    let sum: f64 = problem
        .observations
        .iter()
        .filter_map(|o| residual::offset_px(problem, o))
        .map(|r| r.norm_squared())
        .sum();
    (sum / problem.observations.len() as f64).sqrt()
}

fn adjusting(c: &mut Criterion) {
    let mut group = c.benchmark_group("bundle");
    group.sample_size(10).sampling_mode(SamplingMode::Flat);
    for (cameras, points, life) in [
        (50, 500, 30),
        (200, 2000, 30),
        (400, 3000, 50),
        (600, 10_000, 36),
    ] {
        let start = problem(cameras, points, life);
        let name = format!(
            "{cameras} cameras, {points} points, {} observations",
            start.observations.len()
        );
        let settings = Settings {
            loss: Loss::Squares,
            most_iterations: 40,
            ..Settings::default()
        };
        let mut shown = start.clone();
        let report = minimise(&mut shown, &settings, &Silent);
        eprintln!(
            "{name}: {:.1} px -> {:.3} px, {report:?}",
            rms_px(&start),
            rms_px(&shown)
        );
        assert!(rms_px(&shown) < 0.5, "it has to converge");
        group.bench_function(BenchmarkId::from_parameter(&name), |b| {
            b.iter_batched(
                || start.clone(),
                |mut p| minimise(&mut p, &settings, &Silent),
                criterion::BatchSize::LargeInput,
            );
        });
    }
    group.finish();
}

criterion_group!(benches, adjusting);
criterion_main!(benches);
