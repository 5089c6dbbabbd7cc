//! Is any wrong camera called good?
//!
//! `cargo bench -p true-parallax --bench cameras -- FIRST COUNT` draws so many trials from the seeds
//! that begin with FIRST: sets, moves (a walk, a slide, a turn on the spot, one that rests before it
//! walks), zooms, grain, things that move by themselves over up to 45 % of the picture, and sensors that are
//! read row by row in shaking hands. Each is
//! rendered, matched with defaults by the command line, and held against the truth. A line for each,
//! then the counts: wrong is more than 1 px at 1280 width.
#![allow(clippy::unwrap_used)]

use serde_json::Value;
use std::path::Path;
use std::process::Command;
use std::time::Instant;

/// A camera that is farther off than this is wrong, px at 1280.
const WRONG_PX: f64 = 1.0;

/// What is rendered.
struct Drawn {
    seed: u64,
    camera: &'static str,
    zoom: f64,
    degrees: f64,
    grain: f64,
    frames: usize,
    moving: Vec<String>,
    /// Read-out time, ms, and how much the hands shake.
    rolling: (f64, f64),
}

fn drawn(seed: u64) -> Drawn {
    let mut random = fastrand::Rng::with_seed(seed ^ 0x7712);
    let mut draw = |low: f64, high: f64| low + (high - low) * random.f64();
    let camera = ["walk", "slide", "turn", "walk", "start"][draw(0.0, 5.0) as usize];
    let zoom = if draw(0.0, 1.0) < 0.4 {
        draw(-0.35, 0.35).exp()
    } else {
        1.0
    };
    let (degrees, grain) = (draw(15.0, 60.0), draw(0.5, 3.0));
    let frames = draw(40.0, 80.0) as usize;
    let moving = match draw(0.0, 3.0) as usize {
        0 => vec!["--mover".to_owned()],
        1 => vec!["--cloth".to_owned(), format!("{:.2}", draw(0.15, 0.45))],
        _ => Vec::new(),
    };
    let rolling = match draw(0.0, 1.0) < 0.25 {
        true => (draw(5.0, 25.0), draw(1.0, 2.0)),
        false => (0.0, 1.0),
    };
    Drawn {
        seed,
        camera,
        zoom,
        degrees,
        grain,
        frames,
        moving,
        rolling,
    }
}

/// What the command says on its last line of output; what it complains of where it fails.
fn said(arguments: &[&str]) -> Result<Value, String> {
    let out = Command::new(env!("CARGO_BIN_EXE_true-parallax"))
        .args(arguments)
        .output()
        .unwrap();
    let last = |bytes: &[u8]| {
        let text = String::from_utf8_lossy(bytes);
        text.lines().last().unwrap_or_default().to_owned()
    };
    if out.status.success() {
        Ok(serde_json::from_str(&last(&out.stdout)).unwrap_or_default())
    } else {
        Err(last(&out.stderr))
    }
}

/// What came out of a trial.
enum Outcome {
    Right { good: bool },
    Wrong { good: bool },
    Refused,
}

fn tried(drawn: &Drawn, folder: &Path) -> Outcome {
    let at = |name: &str| folder.join(name).to_string_lossy().into_owned();
    let (seed, zoom) = (drawn.seed.to_string(), format!("{:.4}", drawn.zoom));
    let (degrees, grain) = (
        format!("{:.1}", drawn.degrees),
        format!("{:.2}", drawn.grain),
    );
    let (frames, plate, out) = (drawn.frames.to_string(), at("p"), at("o"));
    let mut render = vec!["render", "trial", "--seed", &seed, "--size", "640x360"];
    render.extend(["--rays", "4", "--camera", drawn.camera, "--zoom", &zoom]);
    render.extend([
        "--degrees",
        &degrees,
        "--grain",
        &grain,
        "--frames",
        &frames,
    ]);
    let (readout, shake) = drawn.rolling;
    let (readout, shake) = (format!("{readout:.1}"), format!("{shake:.2}"));
    render.extend(["--readout", &readout, "--shake", &shake]);
    render.extend(drawn.moving.iter().map(String::as_str));
    render.extend(["--out", &plate]);
    said(&render).unwrap();
    let begun = Instant::now();
    let matched = said(&["match", &plate, "--rate", "25", "--out", &out]);
    let seconds = begun.elapsed().as_secs_f64();
    let turns = match drawn.camera {
        "turn" => format!(" {degrees}°"),
        _ => String::new(),
    };
    let what = format!(
        "{seed} {}{turns} zoom {zoom} grain {grain} {frames} frames {}{}",
        drawn.camera,
        drawn.moving.join(" "),
        match drawn.rolling.0 > 0.0 {
            true => format!(" read in {readout} ms, shaking {shake}"),
            false => String::new(),
        },
    );
    let matched = match matched {
        Ok(matched) => matched,
        Err(why) => {
            println!("{what}: refused, {seconds:.1} s: {why}");
            return Outcome::Refused;
        }
    };
    let truth = at(&format!("trial-{seed}.truth.json"));
    let compared = said(&["compare", &at("o/camera.json"), &truth]).unwrap_or_default();
    let off_px = compared["rms_px_at_1280"].as_f64().unwrap_or(f64::INFINITY);
    let text = std::fs::read_to_string(at("o/report.json")).unwrap();
    let report: Value = serde_json::from_str(&text).unwrap();
    let stated = |name: &str| report["solve"][name].as_f64().unwrap_or(f64::NAN);
    let good = matched["verdict"] == "good";
    println!(
        "{what}: {off_px:.2} px, focal {:+.2} % (±{:.2}){}, {}{}, {}, {seconds:.1} s",
        compared["focal_percent"].as_f64().unwrap_or(f64::NAN),
        100.0 * stated("focal_sigma_px") / stated("focal_px"),
        report["solve"]["slip_px"]
            .as_f64()
            .map_or_else(String::new, |px| format!(
                ", slip {:.2} px forecast",
                2.0 * px
            )),
        matched["move"].as_str().unwrap_or("?"),
        match matched["zooms"] == true {
            true => " zooming",
            false => "",
        },
        match good {
            true => "good".to_owned(),
            false => format!("needs a look: {}", matched["reasons"]),
        },
    );
    if off_px > WRONG_PX {
        Outcome::Wrong { good }
    } else {
        Outcome::Right { good }
    }
}

fn main() {
    let numbers: Vec<u64> = std::env::args().filter_map(|a| a.parse().ok()).collect();
    let (first, count) = match numbers[..] {
        [first, count, ..] => (first, count),
        _ => (9000, 3),
    };
    let (mut right, mut doubted, mut wrong, mut wrong_good, mut refused) = (0, 0, 0, 0, 0);
    for seed in first..first + count {
        let folder = tempfile::tempdir().unwrap();
        match tried(&drawn(seed), folder.path()) {
            Outcome::Right { good: true } => right += 1,
            Outcome::Right { good: false } => doubted += 1,
            Outcome::Wrong { good: false } => wrong += 1,
            Outcome::Wrong { good: true } => wrong_good += 1,
            Outcome::Refused => refused += 1,
        }
    }
    println!(
        "{count} trials: {right} right and good, {doubted} right with a doubt, {wrong} wrong with a \
         doubt, {refused} refused, {wrong_good} WRONG AND CALLED GOOD"
    );
}
