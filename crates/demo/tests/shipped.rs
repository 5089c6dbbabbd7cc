//! The demo plates that ship are what the generator makes, and their truth is true.
#![allow(clippy::unwrap_used)]

use parallax_demo::take::Take;
use parallax_demo::{plates, render, terrace, valley, wagon};
use parallax_formats::camera_reader::CameraFile;
use rstest::rstest;

/// JPEG at the shipped quality leaves about 2 levels; another render would leave tens.
#[rstest]
#[case::terrace(terrace::take(), 40, "terrace-walk.1041.jpg")]
#[case::valley(valley::take(), 30, "valley-pan.0031.jpg")]
#[case::wagon(wagon::take(), 30, "wagon-pass.0031.jpg")]
fn one_frame_renders_to_what_ships(#[case] take: Take, #[case] index: usize, #[case] name: &str) {
    let (first, end) = (400, 520);
    let (width, height) = (take.lens.width_px, take.lens.height_px);
    let fresh = render::rows(&take, index, first, end);
    let shipped = image::open(plates::shipped().join(&take.name).join(name))
        .unwrap()
        .into_rgb8();
    assert_eq!(shipped.dimensions(), (width, height));
    let across = width as usize * 3;
    let rows = &shipped.as_raw()[first * across..end * across];
    let off: f64 = rows
        .iter()
        .zip(&fresh.rgb)
        .map(|(a, b)| f64::from(a.abs_diff(*b)))
        .sum();
    let mean = off / rows.len() as f64;
    assert!(mean < 4.0, "mean difference {mean} levels");
}

#[rstest]
#[case::terrace(terrace::take())]
#[case::valley(valley::take())]
#[case::wagon(wagon::take())]
fn the_shipped_truth_is_the_takes(#[case] take: Take) {
    let path = plates::truth_path(&plates::shipped().join(&take.name), &take.name);
    let shipped = CameraFile::read(&std::fs::read_to_string(path).unwrap()).unwrap();
    let fresh = take.truth().unwrap();
    assert_eq!(shipped.frames.len(), fresh.frames.len());
    for (a, b) in shipped.frames.iter().zip(&fresh.frames) {
        assert_eq!((a.frame, a.focal_px), (b.frame, b.focal_px));
        assert!(
            a.world_from_camera
                .iter()
                .zip(&b.world_from_camera)
                .all(|(x, y)| (x - y).abs() < 1e-9)
        );
    }
    assert!(shipped.points.len() >= 300);
}
