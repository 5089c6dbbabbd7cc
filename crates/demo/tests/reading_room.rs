//! The photograph that ships: it is what the generator makes, and what the picture offers as
//! rails gives its camera.
#![allow(clippy::unwrap_used)]

use parallax_core::photo::suggest::{FAMILY_MISS_PX, Suggestion, suggest};
use parallax_core::photo::{Axis, PhotoOptions, solve};
use parallax_core::track::picture::Plane;
use parallax_demo::{plates, reading_room, render};

fn shipped() -> image::RgbImage {
    image::open(plates::shipped().join("reading-room/reading-room.0001.jpg"))
        .unwrap()
        .into_rgb8()
}

#[test]
fn rows_render_to_what_ships() {
    let (first, end) = (640, 660);
    let fresh = render::rows(&reading_room::take(), 0, first, end);
    let picture = shipped();
    let rows = &picture.as_raw()[first * 2000 * 3..end * 2000 * 3];
    let off: f64 = rows
        .iter()
        .zip(&fresh.rgb)
        .map(|(a, b)| f64::from(a.abs_diff(*b)))
        .sum();
    let mean = off / rows.len() as f64;
    assert!(mean < 4.0, "mean difference {mean} levels");
}

fn grey(picture: &image::RgbImage) -> Plane {
    let levels = picture
        .pixels()
        .map(|p| 0.2126 * f32::from(p[0]) + 0.7152 * f32::from(p[1]) + 0.0722 * f32::from(p[2]));
    Plane::new(
        picture.width() as usize,
        picture.height() as usize,
        levels.collect(),
    )
    .unwrap()
}

#[test]
fn suggested_rails_alone_give_the_camera() {
    let truth = reading_room::take();
    let Suggestion { rails, free_centre } = suggest(&grey(&shipped()), None);
    assert!(!free_centre);
    let (width, height) = reading_room::SIZE_PX;
    let answer = solve(width, height, &rails, &PhotoOptions::default()).unwrap();
    let off = (answer.focal_px.value / truth.lens.focal_px - 1.0).abs();
    assert!(off < 0.03, "focal length is off by {:.1} %", 100.0 * off);
    for axis in Axis::ALL {
        assert!(
            rails.iter().filter(|r| r.axis == axis).count() >= 4,
            "{axis} has few rails"
        );
    }
    // Held against the true vanishing points, not against those they were found with.
    let true_axes = truth.pose(0).camera_from_world.rotation;
    let turned = |v: nalgebra::Vector3<f64>| {
        let lens = truth.lens;
        nalgebra::Vector3::new(
            lens.focal_px * v.x - lens.centre.x * v.z,
            -lens.focal_px * v.y - lens.centre.y * v.z,
            -v.z,
        )
    };
    for rail in &rails {
        let miss = rail.miss_px(&turned(true_axes * rail.axis.unit())).abs();
        assert!(
            miss < FAMILY_MISS_PX + 0.5,
            "a rail of {} misses the true axis by {miss:.2} px",
            rail.axis
        );
    }
}

/// Leaves, clouds, grain: nothing straight, nothing offered.
#[test]
fn a_picture_without_edges_offers_nothing() {
    let levels = (0..900 * 600)
        .map(|i| {
            let (x, y) = (f64::from(i % 900), f64::from(i / 900));
            let cloud = parallax_demo::noise::octaves(x / 60.0, y / 60.0, 1.0, 0.02, 0.7, 9);
            (120.0 + 70.0 * cloud + 3.0 * parallax_demo::noise::unit(i as u64)) as f32
        })
        .collect();
    assert_eq!(
        suggest(&Plane::new(900, 600, levels).unwrap(), None),
        Suggestion::default()
    );
}

/// Nearly a quarter cut off on the left: the third family shows it.
#[test]
fn a_cropped_picture_frees_the_centre() {
    let cut = 480;
    let whole = shipped();
    let (width, height) = (whole.width() - cut, whole.height());
    let cropped = image::imageops::crop_imm(&whole, cut, 0, width, height).to_image();
    let Suggestion { rails, free_centre } = suggest(&grey(&cropped), None);
    assert!(free_centre);
    let answer = solve(
        width,
        height,
        &rails,
        &PhotoOptions {
            solve_centre: true,
            ..PhotoOptions::default()
        },
    )
    .unwrap();
    let truth = reading_room::take().lens;
    let off = (answer.focal_px.value / truth.focal_px - 1.0).abs();
    assert!(off < 0.03, "focal length is off by {:.1} %", 100.0 * off);
    let off_px = answer.lens.centre.x - (truth.centre.x - f64::from(cut));
    let sigma_px = answer.centre_sigma_px.unwrap()[0];
    assert!(
        off_px.abs() < 3.0 * sigma_px && sigma_px < 20.0,
        "the centre is off by {off_px:.1} ±{sigma_px:.1} px"
    );
}

/// Twice as wide, soft from px to px as such files are.
#[test]
fn a_picture_of_many_megapixels_offers_the_same() {
    let whole = shipped();
    let (width, height) = (2 * whole.width(), 2 * whole.height());
    let large = image::imageops::resize(
        &whole,
        width,
        height,
        image::imageops::FilterType::CatmullRom,
    );
    let Suggestion { rails, .. } = suggest(&grey(&large), None);
    let answer = solve(width, height, &rails, &PhotoOptions::default()).unwrap();
    let off = (answer.focal_px.value / (2.0 * reading_room::take().lens.focal_px) - 1.0).abs();
    assert!(off < 0.03, "focal length is off by {:.1} %", 100.0 * off);
}
