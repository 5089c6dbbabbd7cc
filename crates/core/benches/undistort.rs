//! What undistorting costs: maps both ways, and pictures through a map.

use criterion::{Criterion, criterion_group, criterion_main};
use parallax_core::camera::Intrinsics;
use parallax_core::lens::Distortion;
use parallax_core::lens::maps::{Frame, Keep};
use parallax_core::lens::resample::Rgba;
use std::hint::black_box;

fn frame(width: u32, height: u32) -> Frame {
    let lens = Intrinsics {
        distortion: Distortion::radial(-0.12, 0.02),
        ..Intrinsics::centred(width, height, f64::from(width))
    };
    Frame::of(&lens, Keep::Size).unwrap_or_else(|e| unreachable!("{e}"))
}

fn undistorting(c: &mut Criterion) {
    let mut group = c.benchmark_group("undistort");
    group.sample_size(10);
    let large = frame(4096, 2160);
    group.bench_function("both maps, 4096x2160", |b| {
        b.iter(|| black_box((large.undistorting(), large.distorting())));
    });
    let hd = frame(1920, 1080);
    let map = hd.undistorting();
    let px = (0..1920 * 1080).map(|i| [(i % 255) as f32 / 255.0, (i % 31) as f32 / 31.0, 0.5, 1.0]);
    let picture = Rgba::of_px(1920, 1080, false, px);
    let mut out = picture.clone();
    group.bench_function("a picture of 1920x1080", |b| {
        b.iter(|| picture.through_into(black_box(&map), black_box(&mut out)));
    });
    group.finish();
}

criterion_group!(benches, undistorting);
criterion_main!(benches);
