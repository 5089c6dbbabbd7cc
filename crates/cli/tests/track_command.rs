//! `track` and `strays`: features of a rendered plate against its truth, hand tracks, mattes.
#![allow(clippy::unwrap_used)]

use image::{GrayImage, Luma};
use parallax_core::track::session::preview;
use parallax_core::track::{FrameSource, TrackOptions};
use parallax_core::tracks::{Track, TrackKind};
use parallax_demo::plates::{self, Coding};
use parallax_demo::trial::{Moving, Trial};
use parallax_formats::tracks_reader::{NamedTracks, read_csv};
use parallax_media::Plate;
use rstest::{fixture, rstest};
use serde_json::{Value, json};
use std::path::{Path, PathBuf};
use std::process::{Command, Output};
use tempfile::TempDir;

const FRAMES: usize = 36;
const SIZE: (u32, u32) = (640, 360);

fn run(args: &[&str]) -> Output {
    Command::new(env!("CARGO_BIN_EXE_true-parallax"))
        .args(args)
        .output()
        .unwrap()
}

/// A plate nothing was tuned to, with a cart in it.
struct Shot {
    root: TempDir,
}

impl Shot {
    fn plate(&self) -> PathBuf {
        self.root.path().join("plate")
    }

    fn track(&self, name: &str, more: &[&str]) -> (Output, PathBuf) {
        let out = self.root.path().join(name);
        let plate = self.plate();
        let mut args = vec![
            "track",
            plate.to_str().unwrap(),
            "--rate",
            "24",
            "--out",
            out.to_str().unwrap(),
        ];
        args.extend(more);
        (run(&args), out)
    }

    fn tracked(&self, name: &str, more: &[&str]) -> (NamedTracks, Value) {
        let (done, out) = self.track(name, more);
        assert_eq!(
            done.status.code(),
            Some(0),
            "{}",
            String::from_utf8_lossy(&done.stderr)
        );
        let text = |file: &str| std::fs::read_to_string(out.join(file)).unwrap();
        (
            read_csv(&text("tracks.csv")).unwrap(),
            serde_json::from_str(&text("report.json")).unwrap(),
        )
    }

    fn put(&self, name: &str, text: &str) -> String {
        let path = self.root.path().join(name);
        std::fs::write(&path, text).unwrap();
        path.display().to_string()
    }
}

#[fixture]
#[once]
fn shot() -> Shot {
    let root = tempfile::tempdir().unwrap();
    let trial = Trial {
        width_px: SIZE.0,
        height_px: SIZE.1,
        frame_count: FRAMES,
        rays: 4,
        grain_levels: 1.5,
        moving: Moving::Cart,
        ..Trial::new(41)
    };
    plates::write(
        &trial.take(),
        &root.path().join("plate"),
        Coding::Png,
        |_| {},
    )
    .unwrap();
    Shot { root }
}

#[rstest]
fn features_are_where_the_true_camera_sees_them(shot: &Shot) {
    let (kept, report) = shot.tracked("plain", &[]);
    assert_eq!(report["tracks"]["count"], kept.tracks.len());
    let tracks = shot
        .root
        .path()
        .join("plain/tracks.csv")
        .display()
        .to_string();
    let frames = FRAMES.to_string();
    let take = [
        "--seed", "41", "--size", "640x360", "--frames", &frames, "--grain", "1.5", "--mover",
    ];
    let done = run(&[&["strays", "trial"][..], &take, &["--tracks", &tracks]].concat());
    assert_eq!(
        done.status.code(),
        Some(0),
        "{}",
        String::from_utf8_lossy(&done.stderr)
    );
    let strays: Value = serde_json::from_slice(&done.stdout).unwrap();
    let figure = |of: &str, what: &str| strays[of][what].as_f64().unwrap();
    assert!(figure("after_30_frames_px", "median") < 0.1, "{strays:#}");
    assert!(figure("anywhere_px", "p99") < 1.0, "{strays:#}");
    let honest = strays["errors_over_sigma"]["from_median"].as_f64().unwrap();
    assert!((0.8..1.25).contains(&honest), "{strays:#}");
    // Of all on the cart, 19 of 20 are set aside.
    let on_movers = strays["on_movers"].as_u64().unwrap() as usize;
    assert!(
        on_movers * 20 <= kept.tracks.len(),
        "{on_movers} of {}",
        kept.tracks.len()
    );
}

/// Details of the middle frame on the walls behind, which stay in the picture.
fn details(shot: &Shot) -> Vec<[f64; 2]> {
    let (_, plate) = Plate::in_folder(&shot.plate(), false).unwrap();
    let picture = plate.grey(FRAMES / 2).unwrap();
    let options = TrackOptions {
        count: 40,
        ..TrackOptions::for_size(SIZE.0, SIZE.1)
    };
    let found = preview(picture, None, &options).unwrap();
    let inside = |x: f64, y: f64| (180.0..540.0).contains(&x) && (40.0..100.0).contains(&y);
    found
        .iter()
        .map(|(px, _)| [px.x, px.y])
        .filter(|[x, y]| inside(*x, *y))
        .take(3)
        .collect()
}

#[rstest]
fn what_is_keyed_by_hand_is_followed_both_ways(shot: &Shot) {
    let frame = FRAMES / 2 + 1;
    let hands: Vec<Value> = details(shot)
        .into_iter()
        .enumerate()
        .map(|(i, px)| json!({ "name": format!("nail {i}"), "keys": [{ "frame": frame, "px": px }] }))
        .collect();
    let keys = shot.put("keys.json", &json!({ "tracks": hands }).to_string());
    let (kept, _) = shot.tracked("hand", &["--hand", &keys, "--count", "60"]);
    let by_hand: Vec<&Track> = kept
        .tracks
        .iter()
        .filter(|t| t.kind == TrackKind::Hand)
        .collect();
    assert_eq!(by_hand.len(), hands.len());
    for track in by_hand {
        assert!(
            kept.names[&track.id].starts_with("nail "),
            "{:?}",
            kept.names[&track.id]
        );
        let frames: Vec<usize> = track.samples.iter().map(|s| s.frame.0 as usize).collect();
        assert!(
            frames[0] < frame && frames[frames.len() - 1] > frame,
            "{frames:?}"
        );
    }
}

fn matte_sequence(shot: &Shot, name: &str, frames: usize, size: (u32, u32)) -> String {
    let folder = shot.root.path().join(name);
    std::fs::create_dir(&folder).unwrap();
    let left = GrayImage::from_fn(size.0, size.1, |x, _| {
        Luma([if x < size.0 / 2 { 255 } else { 0 }])
    });
    (1..=frames).for_each(|f| left.save(folder.join(format!("m.{f:04}.png"))).unwrap());
    folder.display().to_string()
}

#[rstest]
fn nothing_is_followed_where_a_matte_lies(shot: &Shot) {
    let folder = matte_sequence(shot, "left", FRAMES, SIZE);
    let (kept, _) = shot.tracked("matted", &["--mattes", &folder]);
    let left = kept
        .tracks
        .iter()
        .flat_map(|t| &t.samples)
        .filter(|s| s.px.x < f64::from(SIZE.0) / 2.0);
    assert_eq!(left.count(), 0);
    assert!(kept.tracks.len() > 40, "{}", kept.tracks.len());
}

#[rstest]
#[case::outside(
    r#"{"tracks":[{"name":"nail","keys":[{"frame":1,"px":[900,20]}]}]}"#,
    "outside the picture"
)]
#[case::disorder(
    r#"{"tracks":[{"name":"nail","keys":[{"frame":9,"px":[90,20]},{"frame":3,"px":[90,20]}]}]}"#,
    "order of frames"
)]
#[case::no_frame(
    r#"{"tracks":[{"name":"nail","keys":[{"frame":999,"px":[90,20]}]}]}"#,
    "which the plate has not"
)]
#[case::no_json("frame 1: 3 4", "does not state hand tracks")]
fn hand_keys_that_cannot_be_are_refused(shot: &Shot, #[case] text: &str, #[case] words: &str) {
    let keys = shot.put(&format!("{}.json", words.replace(' ', "-")), text);
    let (done, out) = shot.track("refused", &["--hand", &keys]);
    let said = String::from_utf8_lossy(&done.stderr);
    assert_eq!(done.status.code(), Some(3), "{said}");
    assert!(said.contains(words), "{said}");
    assert!(!Path::new(&out).exists());
}

#[rstest]
#[case::gap("gap", FRAMES - 2, SIZE, "no picture for frames 35-36")]
#[case::size("size", FRAMES, (320, 180), "is 320x180 px, the plate is 640x360 px")]
fn mattes_that_do_not_fit_are_refused(
    shot: &Shot,
    #[case] name: &str,
    #[case] frames: usize,
    #[case] size: (u32, u32),
    #[case] words: &str,
) {
    let folder = matte_sequence(shot, name, frames, size);
    let (done, _) = shot.track("refused", &["--mattes", &folder]);
    let said = String::from_utf8_lossy(&done.stderr);
    assert_eq!(done.status.code(), Some(3), "{said}");
    assert!(said.contains(words), "{said}");
}
