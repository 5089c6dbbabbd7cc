//! `still` and `rails` as a pipeline calls them: exit statuses, sentences, files, and truth.
#![allow(clippy::unwrap_used)]

use parallax_core::spaces::WorldPoint;
use parallax_demo::{plates, reading_room};
use parallax_formats::camera_reader::CameraFile;
use rstest::rstest;
use serde_json::{Value, json};
use std::process::{Command, Output};

fn run(args: &[&str]) -> Output {
    Command::new(env!("CARGO_BIN_EXE_true-parallax"))
        .args(args)
        .output()
        .unwrap()
}

fn still(photo: &Value) -> (Output, tempfile::TempDir) {
    let folder = tempfile::tempdir().unwrap();
    let file = folder.path().join("room.json");
    std::fs::write(&file, photo.to_string()).unwrap();
    let out = folder.path().join("out");
    (
        run(&[
            "still",
            file.to_str().unwrap(),
            "--out",
            out.to_str().unwrap(),
        ]),
        folder,
    )
}

/// Edges of the reading room as the true camera sees them.
fn photo() -> Value {
    let take = reading_room::take();
    let px = |x: f64, y: f64, z: f64| {
        let px = take
            .lens
            .project(&take.pose(0), &WorldPoint::new(x, y, z))
            .unwrap();
        [px.x, px.y]
    };
    let [x, y, z] = reading_room::DOOR_FOOT;
    let top = y + reading_room::DOOR_HEIGHT_M;
    let rail = |axis: &str, a: [f64; 2], b: [f64; 2]| json!({ "axis": axis, "a": a, "b": b });
    json!({
        "width": 2000, "height": 1333, "film_back_mm": [36, 24],
        "rails": [
            rail("x", px(0.2, 2.0, z), px(2.2, 2.0, z)), rail("x", px(-1.5, 0.1, -1.0), px(1.5, 0.1, -1.0)),
            rail("z", px(-2.2, 0.0, -3.0), px(-2.2, 0.0, -0.5)), rail("z", px(-2.2, 2.4, -2.8), px(-2.2, 2.4, -0.3)),
            rail("y", px(x, y, z), px(x, top, z)), rail("y", px(2.2, 0.1, z), px(2.2, 2.2, z)),
        ],
        "origin": px(0.0, 0.0, -1.0),
        "known_length": { "axis": "y", "from": px(x, y, z), "to": px(x, top, z), "metres": 2.04 },
        "focal_mm": null, "solve_centre": false,
    })
}

#[test]
fn a_door_of_known_height_gives_the_camera() {
    let (output, folder) = still(&photo());
    assert!(
        output.status.success(),
        "{}",
        String::from_utf8_lossy(&output.stderr)
    );
    let summary: Value = serde_json::from_slice(&output.stdout).unwrap();
    assert!((summary["focal_mm"].as_f64().unwrap() - 1480.0 * 36.0 / 2000.0).abs() < 0.01);
    let out = folder.path().join("out");
    let report: Value =
        serde_json::from_str(&std::fs::read_to_string(out.join("report.json")).unwrap()).unwrap();
    assert_eq!(report["receipt"]["files_agree"], true);
    assert!(report["focal_sigma_px"].as_f64().unwrap() > 0.0);
    let solved =
        CameraFile::read(&std::fs::read_to_string(out.join("camera.json")).unwrap()).unwrap();
    let pose = solved.pose(&solved.frames[0]).unwrap();
    let truth = reading_room::take().pose(0);
    let shift = truth.centre().0 - pose.centre().0;
    let off = shift.x.hypot(shift.y).hypot(shift.z + 1.0);
    assert!(off < 0.005, "{shift}");
    assert!(
        truth
            .camera_from_world
            .rotation
            .angle_to(&pose.camera_from_world.rotation)
            < 1e-4
    );
    for name in ["scene.usda", "receipt.json"] {
        assert!(out.join(name).exists(), "{name} is missing");
    }
    assert!(
        !out.join("tracks.csv").exists(),
        "a photograph has no tracks to hand on"
    );
}

fn with(key: &str, value: Value) -> Value {
    let mut photo = photo();
    photo[key] = value;
    photo
}

#[rstest]
#[case::no_rails(with("rails", json!([])), 4, "a camera needs two or more rails")]
#[case::origin_in_the_sky(with("origin", json!([1000, 20])), 4, "on or above the horizon")]
#[case::no_length(with("known_length", json!({"axis": "y", "from": [900, 880], "to": [900, 400], "metres": 0})), 2, "known length in metres")]
#[case::one_pixel(with("width", json!(1)), 2, "shorter side of the picture")]
#[case::no_film(with("film_back_mm", json!([0, 24])), 3, "film back")]
#[case::other_words(with("reils", json!([])), 3, "not understood")]
#[case::negative_focal(with("focal_mm", json!(-20)), 2, "focal length")]
fn what_cannot_be_used_is_said(#[case] photo: Value, #[case] status: i32, #[case] sentence: &str) {
    let (output, folder) = still(&photo);
    let said = String::from_utf8_lossy(&output.stderr).into_owned();
    assert_eq!(output.status.code(), Some(status), "{said}");
    assert!(said.contains(sentence), "{said}");
    assert_eq!(said.trim().lines().count(), 1, "one sentence: {said}");
    assert!(!folder.path().join("out/camera.json").exists());
}

#[test]
fn rails_of_a_picture_can_be_solved_at_once() {
    let picture = plates::shipped().join("reading-room/reading-room.0001.jpg");
    let output = run(&["rails", picture.to_str().unwrap()]);
    assert!(
        output.status.success(),
        "{}",
        String::from_utf8_lossy(&output.stderr)
    );
    let (solved, _folder) = still(&serde_json::from_slice(&output.stdout).unwrap());
    assert!(
        solved.status.success(),
        "{}",
        String::from_utf8_lossy(&solved.stderr)
    );
}

#[test]
fn a_picture_of_nothing_offers_no_rails() {
    let folder = tempfile::tempdir().unwrap();
    let file = folder.path().join("blank.png");
    image::GrayImage::from_pixel(400, 300, image::Luma([90]))
        .save(&file)
        .unwrap();
    let output = run(&["rails", file.to_str().unwrap()]);
    assert_eq!(output.status.code(), Some(4));
    assert!(String::from_utf8_lossy(&output.stderr).contains("no straight edges"));
}
