//! `lens`, `undistort` and `probe` from files to files.
#![allow(clippy::unwrap_used)]

use parallax_core::camera::Intrinsics;
use parallax_core::lens::Distortion;
use parallax_core::spaces::LensPoint;
use parallax_demo::plates;
use parallax_formats::lens_json::LensFile;
use rstest::rstest;
use serde_json::{Value, json};
use std::path::Path;
use std::process::{Command, Output};

fn run(arguments: &[&str]) -> Output {
    Command::new(env!("CARGO_BIN_EXE_true-parallax"))
        .args(arguments)
        .output()
        .unwrap()
}

fn summary(output: &Output) -> Value {
    assert!(
        output.status.success(),
        "{}",
        String::from_utf8_lossy(&output.stderr)
    );
    serde_json::from_slice(&output.stdout).unwrap()
}

fn barrel() -> Intrinsics {
    Intrinsics {
        distortion: Distortion::radial(-0.25, 0.06),
        ..Intrinsics::centred(1920, 1080, 1920.0)
    }
}

/// Edges near the four borders and two across, as the lens bends them.
fn straights(lens: &Intrinsics) -> Value {
    let lines = [
        (0.0, -0.25),
        (0.0, 0.24),
        (1.0, -0.44),
        (1.0, 0.45),
        (0.0, -0.1),
        (1.0, 0.2),
    ];
    let marks = lines.map(|(upright, offset)| {
        let mark = |i: i32| {
            let t = f64::from(i) / 20.0 - 0.5;
            let at = if upright > 0.5 {
                LensPoint::new(offset, 0.52 * t)
            } else {
                LensPoint::new(0.95 * t, offset)
            };
            let px = lens.plate_px(at);
            [px.x, px.y]
        };
        (0..=20).map(mark).collect::<Vec<_>>()
    });
    json!({ "width": 1920, "height": 1080, "straights": marks, "terms": 2, "centre": "fixed" })
}

fn in_folder(folder: &Path, name: &str, text: &str) -> String {
    let path = folder.join(name);
    std::fs::write(&path, text).unwrap();
    path.display().to_string()
}

#[test]
fn straights_become_a_lens_with_its_maps() {
    let folder = tempfile::tempdir().unwrap();
    let file = in_folder(
        folder.path(),
        "straights.json",
        &straights(&barrel()).to_string(),
    );
    let out = folder.path().join("out").display().to_string();
    let told = summary(&run(&["lens", &file, "--out", &out]));
    assert!((told["k1"].as_f64().unwrap() + 0.25).abs() < 1e-6, "{told}");
    assert_eq!(told["focal_px"], 1920.0);
    let lens = LensFile::read(&std::fs::read_to_string(Path::new(&out).join("lens.json")).unwrap())
        .unwrap();
    let evidence = lens.evidence.clone().unwrap();
    assert!(
        evidence.rms_px.before > 3.0 && evidence.rms_px.after < 1e-6,
        "{evidence:?}"
    );
    for map in ["undistort.exr", "distort.exr"] {
        assert!(std::fs::metadata(Path::new(&out).join(map)).unwrap().len() > 1000);
    }
}

#[test]
fn a_plate_is_undistorted_and_leads_back() {
    let folder = tempfile::tempdir().unwrap();
    let plate = folder.path().join("plate");
    std::fs::create_dir(&plate).unwrap();
    for frame in 1001..=1002 {
        let name = format!("terrace-walk.{frame}.jpg");
        std::fs::copy(
            plates::shipped().join("terrace-walk").join(&name),
            plate.join(&name),
        )
        .unwrap();
    }
    let lens = Intrinsics {
        distortion: Distortion::radial(-0.12, 0.02),
        ..Intrinsics::centred(1280, 720, 1200.0)
    };
    let lens = in_folder(
        folder.path(),
        "lens.json",
        &serde_json::to_string(&LensFile::of(&lens)).unwrap(),
    );
    let (plate, out) = (
        plate.display().to_string(),
        folder.path().join("out").display().to_string(),
    );
    let line = ["undistort", &plate, "--lens", &lens, "--out", &out];
    let told = summary(&run(&line));
    assert_eq!(
        (&told["written"], &told["proven"]),
        (&json!(2), &json!(true)),
        "{told}"
    );
    let receipt: Value = serde_json::from_str(
        &std::fs::read_to_string(Path::new(&out).join("receipt.json")).unwrap(),
    )
    .unwrap();
    assert!(
        receipt["largest_difference_px"].as_f64().unwrap() < 0.02,
        "{receipt}"
    );
    assert!(
        receipt["interior_rms_levels"].as_f64().unwrap() < 1.0,
        "{receipt}"
    );
    let size = image::image_dimensions(Path::new(&out).join("terrace-walk.1001.png")).unwrap();
    assert_eq!(json!([size.0, size.1]), told["size"]);
    assert!(size.0 > 1280 && size.1 > 720);
    // What is there already is kept: only the frame that is missing is written.
    std::fs::remove_file(Path::new(&out).join("terrace-walk.1002.png")).unwrap();
    assert_eq!(summary(&run(&line))["written"], 1);
    // Where the plate shows nothing, alpha says so; OpenEXR states the rate.
    let corner = image::open(Path::new(&out).join("terrace-walk.1001.png"))
        .unwrap()
        .into_rgba16();
    assert_eq!(
        (
            corner.get_pixel(0, 0).0[3],
            corner.get_pixel(size.0 / 2, size.1 / 2).0[3]
        ),
        (0, u16::MAX)
    );
    let out = folder.path().join("exr").display().to_string();
    let line = [
        "undistort",
        &plate,
        "--lens",
        &lens,
        "--out",
        &out,
        "--format",
        "exr",
    ];
    let exr = [&line[..], &["--rate", "24000/1001"]].concat();
    assert_eq!(summary(&run(&exr))["written"], 2);
    let held = summary(&run(&["probe", &out]));
    assert_eq!(
        (&held["rate"], &held["alpha"]),
        (&json!("24000/1001"), &json!(true)),
        "{held}"
    );
    // Of another rate they are written anew.
    assert_eq!(summary(&run(&exr))["written"], 0);
    let other = [&line[..], &["--rate", "25"]].concat();
    assert_eq!(summary(&run(&other))["written"], 2);
}

#[test]
fn probe_tells_what_a_plate_holds() {
    let walk = summary(&run(&[
        "probe",
        &plates::shipped().join("terrace-walk").display().to_string(),
    ]));
    assert_eq!(
        [
            &walk["kind"],
            &walk["first"],
            &walk["last"],
            &walk["count"],
            &walk["width"],
            &walk["bits"]
        ],
        [
            &json!("sequence"),
            &json!(1001),
            &json!(1072),
            &json!(72),
            &json!(1280),
            &json!(8)
        ]
    );
    let room = summary(&run(&[
        "probe",
        &plates::shipped().join("reading-room").display().to_string(),
    ]));
    assert_eq!(
        (&room["kind"], &room["height"]),
        (&json!("photograph"), &json!(1333))
    );
}

#[rstest]
#[case::no_json("{", 3, "not understood")]
#[case::no_marks(r#"{"width":1920,"height":1080,"straights":[]}"#, 4, "too few")]
#[case::two_points(
    r#"{"width":1920,"height":1080,"straights":[[[1,2],[900,3]]]}"#,
    4,
    "three or more"
)]
#[case::five_terms(
    r#"{"width":1920,"height":1080,"straights":[[[1,2],[50,3],[900,3]]],"terms":5}"#,
    2,
    "radial terms"
)]
fn straights_that_say_nothing_are_refused(
    #[case] text: &str,
    #[case] status: i32,
    #[case] words: &str,
) {
    let folder = tempfile::tempdir().unwrap();
    let file = in_folder(folder.path(), "straights.json", text);
    let output = run(&[
        "lens",
        &file,
        "--out",
        &folder.path().join("out").display().to_string(),
    ]);
    let said = String::from_utf8_lossy(&output.stderr).into_owned();
    assert_eq!(output.status.code(), Some(status), "{said}");
    assert!(said.contains(words), "{said}");
}

#[rstest]
#[case::folding(-1.4, 1280, "fold")]
#[case::other_size(-0.1, 1920, "holds for its own picture size")]
fn a_lens_that_cannot_be_is_refused(#[case] k1: f64, #[case] width: u32, #[case] words: &str) {
    let folder = tempfile::tempdir().unwrap();
    let lens = Intrinsics {
        distortion: Distortion::radial(k1, 0.0),
        ..Intrinsics::centred(width, 720, 1200.0)
    };
    let lens = in_folder(
        folder.path(),
        "lens.json",
        &serde_json::to_string(&LensFile::of(&lens)).unwrap(),
    );
    let plate = plates::shipped().join("terrace-walk").display().to_string();
    let output = run(&[
        "undistort",
        &plate,
        "--lens",
        &lens,
        "--out",
        &folder.path().join("o").display().to_string(),
    ]);
    let said = String::from_utf8_lossy(&output.stderr).into_owned();
    assert_eq!(output.status.code(), Some(4), "{said}");
    assert!(said.contains(words), "{said}");
    let out = folder.path().join("m").display().to_string();
    let output = run(&[
        "match",
        &plate,
        "--rate",
        "24",
        "--lens-file",
        &lens,
        "--out",
        &out,
    ]);
    let said = String::from_utf8_lossy(&output.stderr).into_owned();
    assert!(
        output.status.code() == Some(4) && said.contains(words),
        "{said}"
    );
}
