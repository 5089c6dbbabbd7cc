//! The demo plate that ships is what the generator makes, and its truth is true.
#![allow(clippy::unwrap_used)]

use parallax_demo::{plates, render, terrace};
use parallax_formats::camera_reader::CameraFile;

/// JPEG at the shipped quality leaves about 2 levels; another render would leave tens.
#[test]
fn one_frame_renders_to_what_ships() {
    let take = terrace::take();
    let index = 40;
    let (first, end) = (400, 520);
    let fresh = render::rows(&take, index, first, end);
    let name = format!("terrace-walk.{}.jpg", take.frame_number(index));
    let shipped = image::open(plates::shipped().join("terrace-walk").join(name))
        .unwrap()
        .into_rgb8();
    assert_eq!(shipped.dimensions(), (1280, 720));
    let rows = &shipped.as_raw()[first * 1280 * 3..end * 1280 * 3];
    let off: f64 = rows
        .iter()
        .zip(&fresh.rgb)
        .map(|(a, b)| f64::from(a.abs_diff(*b)))
        .sum();
    let mean = off / rows.len() as f64;
    assert!(mean < 4.0, "mean difference {mean} levels");
}

#[test]
fn the_shipped_truth_is_the_takes() {
    let take = terrace::take();
    let path = plates::truth_path(&plates::shipped().join("terrace-walk"), "terrace-walk");
    let shipped = CameraFile::read(&std::fs::read_to_string(path).unwrap()).unwrap();
    let fresh = take.truth().unwrap();
    assert_eq!(shipped.frames.len(), fresh.frames.len());
    for (a, b) in shipped.frames.iter().zip(&fresh.frames) {
        assert_eq!(a.frame, b.frame);
        assert!(
            a.world_from_camera
                .iter()
                .zip(&b.world_from_camera)
                .all(|(x, y)| (x - y).abs() < 1e-9)
        );
    }
    assert!(shipped.points.len() >= 300);
}
