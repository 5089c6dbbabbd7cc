//! `orient`, `slip` and `path` as a pipeline calls them, on a camera that `match` solved: files, figures, exit statuses.
#![allow(clippy::unwrap_used)]

use parallax_core::camera::Pose;
use parallax_demo::features;
use parallax_demo::plates::{self, Coding};
use parallax_demo::trial::Trial;
use parallax_formats::camera_reader::CameraFile;
use parallax_formats::tracks_reader::read_csv;
use rstest::{fixture, rstest};
use serde_json::{Value, json};
use std::path::{Path, PathBuf};
use std::process::{Command, Output};
use std::sync::LazyLock;
use tempfile::TempDir;

fn run(args: &[&str]) -> Output {
    let command = Command::new(env!("CARGO_BIN_EXE_true-parallax"))
        .args(args)
        .output();
    command.unwrap()
}

/// A solved plate, and the true place of each of its points by name.
struct Solved {
    folder: TempDir,
    truth: Vec<(String, [f64; 3])>,
}

static SOLVED: LazyLock<Solved> = LazyLock::new(|| {
    let folder = TempDir::new().unwrap();
    let take = Trial::small(24).take();
    let plate = folder.path().join("p");
    plates::write(&take, &plate, Coding::Png, |_| ()).unwrap();
    let out = folder.path().join("o");
    let args = [
        plate.to_str().unwrap(),
        "--rate",
        "25",
        "--out",
        out.to_str().unwrap(),
    ];
    let done = run(&[&["match"], &args[..]].concat());
    assert!(done.status.success(), "{done:?}");
    let tracks = read_csv(&std::fs::read_to_string(out.join("tracks.csv")).unwrap()).unwrap();
    let place = |t: &parallax_core::tracks::Track| {
        let at = features::place(&take, t)?;
        Some((tracks.names[&t.id].clone(), at.0.coords.into()))
    };
    let truth = tracks.tracks.iter().filter_map(place).collect();
    Solved { folder, truth }
});

#[fixture]
fn solved() -> &'static Solved {
    &SOLVED
}

impl Solved {
    fn camera(&self) -> PathBuf {
        self.folder.path().join("o/camera.json")
    }

    /// Points of the camera file with their true places.
    fn points(&self) -> Vec<(String, [f64; 3])> {
        let file = read(&self.camera());
        let solved = |name: &String| file.points.iter().any(|p| p.name == *name);
        self.truth
            .iter()
            .filter(|t| solved(&t.0))
            .cloned()
            .collect()
    }
}

fn read(camera: &Path) -> CameraFile {
    CameraFile::read(&std::fs::read_to_string(camera).unwrap()).unwrap()
}

fn apart(a: &[f64; 3], b: &[f64; 3]) -> f64 {
    (0..3).map(|k| (a[k] - b[k]).powi(2)).sum::<f64>().sqrt()
}

/// Where a file has a point.
fn place(file: &CameraFile, name: &str) -> [f64; 3] {
    file.points.iter().find(|p| p.name == name).unwrap().xyz
}

/// A point by name, and where it truly is.
type Point = (String, [f64; 3]);

/// The two that are farthest from each other.
fn farthest<'a>(points: &[&'a Point]) -> (&'a Point, &'a Point) {
    let pairs = points.iter();
    let pairs = pairs.flat_map(|a| points.iter().map(move |b| (*a, *b)));
    pairs
        .max_by(|p, q| apart(&p.0.1, &p.1.1).total_cmp(&apart(&q.0.1, &q.1.1)))
        .unwrap()
}

fn statements(folder: &Path, facts: &[Value]) -> PathBuf {
    let file = folder.join("statements.json");
    let text = json!({ "schema": "true-parallax/statements@1", "statements": facts });
    std::fs::write(&file, text.to_string()).unwrap();
    file
}

fn orient(solved: &Solved, facts: &[Value], out: &Path) -> (Output, Value) {
    let file = statements(out, facts);
    let camera = solved.camera();
    let done = run(&[
        "orient",
        camera.to_str().unwrap(),
        file.to_str().unwrap(),
        "--out",
        out.to_str().unwrap(),
    ]);
    let report = std::fs::read_to_string(out.join("orientation.json")).unwrap_or_default();
    (done, serde_json::from_str(&report).unwrap_or_default())
}

/// Ground and a length as they truly are: heights and distances of all points come out true.
#[rstest]
fn a_camera_file_is_oriented(solved: &Solved) {
    let out = TempDir::new().unwrap();
    let points = solved.points();
    let ground: Vec<&(String, [f64; 3])> = points.iter().filter(|p| p.1[1].abs() < 1e-3).collect();
    let (a, b) = farthest(&ground);
    let names: Vec<&String> = ground.iter().map(|g| &g.0).collect();
    let (done, report) = orient(
        solved,
        &[
            json!({ "kind": "plane", "name": "floor", "faces": "ground", "on": names }),
            json!({ "kind": "length", "between": [{ "feature": a.0 }, { "feature": b.0 }], "length_m": apart(&a.1, &b.1), "sigma_m": 0.002 }),
            json!({ "kind": "origin", "at": "nobody" }),
        ],
        out.path(),
    );
    assert!(done.status.success(), "{done:?}");
    assert_eq!(
        (&report["levelled"], &report["scaled"], &report["headed"]),
        (&json!(true), &json!(true), &json!(false))
    );
    assert_eq!(report["errors_from"], "all tracks together");
    assert!(report["up_sigma_deg"].as_f64().unwrap() < 1.0);
    let lacking = &report["statements"].as_array().unwrap()[2];
    assert_eq!(
        (&lacking["heard"], lacking["off"].as_str().unwrap()),
        (&json!(false), "nobody is not solved in this camera")
    );
    let oriented = read(&out.path().join("camera.json"));
    assert_eq!(oriented.metres_per_unit, Some(1.0));
    let of = |name: &String| place(&oriented, name);
    // Of so small a picture a feature on an edge may be off.
    let level = ground.iter().filter(|g| of(&g.0)[1].abs() < 0.05).count();
    assert!(10 * level > 9 * ground.len(), "{level} of {}", ground.len());
    let (found, truth) = (apart(&of(&a.0), &of(&b.0)), apart(&a.1, &b.1));
    // That both lie on the ground says more of where they are than their own rays do: the length is missed by as
    // much as that moves them.
    let missed = report["statements"][1]["off"].as_f64().unwrap();
    assert!(
        (found - truth - missed).abs() < 1e-6,
        "{found} m for {truth} m: {report:#}"
    );
    assert!(missed.abs() < 0.02 * truth && report["statements"][1]["contradicts"] == false);
    // The same camera in another world: what it sees stays where it was.
    let before = read(&solved.camera());
    for (old, new) in before.points.iter().zip(&oriented.points).step_by(9) {
        let px = |file: &CameraFile, point| {
            let frame = &file.frames[5];
            file.intrinsics(frame)
                .project(&file.pose(frame).unwrap(), &file.point(point))
        };
        if let Some((p, q)) = px(&before, old).zip(px(&oriented, new)) {
            assert!(p.distance_px(q) < 1e-6);
        }
    }
}

/// What landmarks and edges show for certain puts the world upright and along the set without a word from anybody; a
/// statement that it contradicts stands.
#[rstest]
fn a_camera_file_is_oriented_by_what_is_proposed(solved: &Solved) {
    let out = TempDir::new().unwrap();
    let (camera, plate) = (solved.camera(), solved.folder.path().join("p"));
    let orient = |more: &[&str]| {
        let args = [
            "orient",
            camera.to_str().unwrap(),
            "--propose",
            "--plate",
            plate.to_str().unwrap(),
            "--out",
            out.path().to_str().unwrap(),
        ];
        let done = run(&[&args, more].concat());
        let report = serde_json::from_slice::<Value>(&done.stdout).unwrap();
        (done.status.success(), report)
    };
    let (done, report) = orient(&[]);
    assert!(done, "{report:#}");
    assert!(
        report["levelled"] == true && report["headed"] == true,
        "{report:#}"
    );
    let taken = report["proposed"].as_array().unwrap();
    let evidence = |kind: &str| {
        taken
            .iter()
            .any(|p| p["evidence"][kind].as_u64() > Some(10))
    };
    assert!(evidence("landmarks") && evidence("edges"), "{report:#}");
    assert!(
        taken
            .iter()
            .all(|p| p["id"].is_number() && p["kind"].is_string())
    );
    // Walls of the set run along and across, and its floor is level.
    let oriented = read(&out.path().join("camera.json"));
    let points = solved.points();
    let of = |name: &String| place(&oriented, name);
    let ground: Vec<_> = points.iter().filter(|p| p.1[1].abs() < 1e-3).collect();
    let (a, b) = farthest(&ground);
    let take = Trial::small(24).take();
    for (k, frame) in oriented.frames.iter().enumerate().step_by(8) {
        let rotation = |pose: Pose| pose.camera_from_world.rotation;
        let found = rotation(oriented.pose(frame).unwrap());
        let turn = (found.inverse() * rotation(take.pose(k))).to_rotation_matrix();
        let off = turn[(0, 2)].atan2(turn[(2, 2)]).to_degrees();
        let off = off - 90.0 * (off / 90.0).round();
        assert!(off.abs() < 0.3, "heading is off by {off} on frame {k}");
    }
    // So do its landmarks; one of them may sit on an edge, not one in two pairs that lie far apart.
    let pairs = ground.iter().enumerate();
    let pairs = pairs.flat_map(|(k, one)| ground[k + 1..].iter().map(move |other| (*one, *other)));
    let far = pairs.filter(|(one, other)| 2.0 * apart(&one.1, &other.1) > apart(&a.1, &b.1));
    let heading =
        |from: [f64; 3], to: [f64; 3]| (to[0] - from[0]).atan2(to[2] - from[2]).to_degrees();
    let mut off: Vec<f64> = far
        .map(|(one, other)| heading(of(&one.0), of(&other.0)) - heading(one.1, other.1))
        .map(|off| (off - 90.0 * (off / 90.0).round()).abs())
        .collect();
    off.sort_by(f64::total_cmp);
    let median = off[off.len() / 2];
    assert!(median < 0.7, "headings on the ground are off by {median}");
    let long = apart(&of(&a.0), &of(&b.0));
    let rises = ground.iter().map(|g| of(&g.0)[1].abs() / long);
    let level = rises.filter(|rise| *rise < 0.01).count();
    assert!(10 * level > 9 * ground.len(), "{level} of {}", ground.len());

    // What the artist says stands, and what contradicts it is not taken.
    let upright = json!({ "kind": "plane", "name": "floor", "faces": "across", "on": ground.iter().take(12).map(|g| &g.0).collect::<Vec<_>>() });
    let file = statements(out.path(), &[upright]);
    let (_, report) = orient(&[file.to_str().unwrap()]);
    let against = report["statements"].as_array().unwrap().iter();
    assert!(
        against.clone().all(|s| s["contradicts"] == false),
        "{report:#}"
    );
    let planes = report["proposed"].as_array().unwrap().iter();
    assert!(planes.clone().all(|p| p["faces"] != "ground"), "{report:#}");
}

/// Slip and path of a point and of its place are the same; the path is where the camera sees it.
#[rstest]
fn slip_and_path_of_a_place(solved: &Solved) {
    let (camera, folder) = (solved.camera(), TempDir::new().unwrap());
    let file = read(&camera);
    let point = &file.points[file.points.len() / 2];
    let camera = camera.to_str().unwrap();
    let told = |args: &[&str]| -> Value {
        let done = run(&[&["slip", camera], args].concat());
        assert!(done.status.success(), "{done:?}");
        serde_json::from_slice(&done.stdout).unwrap()
    };
    let by_name = told(&["--point", &point.name]);
    let [x, y, z] = point.xyz;
    let by_place = told(&["--at", &format!("{x},{y},{z}")]);
    assert_eq!(by_name["rms_px"], by_place["rms_px"]);
    assert!(
        (1e-4..1.0).contains(&by_name["rms_px"].as_f64().unwrap()),
        "{by_name}"
    );
    let path = folder.path().join("path.csv");
    let done = run(&[
        "path",
        camera,
        "--point",
        &point.name,
        "--out",
        path.to_str().unwrap(),
    ]);
    assert!(done.status.success(), "{done:?}");
    let text = std::fs::read_to_string(path).unwrap();
    assert_eq!(text.lines().count(), 1 + file.frames.len());
    let first = &by_name["frames"][0];
    let row = text
        .lines()
        .find(|l| l.starts_with(&format!("{},", first[0])))
        .unwrap();
    let x: f64 = row.split(',').nth(1).unwrap().parse().unwrap();
    assert!((x - first[1].as_f64().unwrap()).abs() < 0.01, "{row}");
}

/// What cannot be is refused with a sentence and its status: 2 wrong usage, 3 unreadable, 4 no world.
#[rstest]
#[case::no_such_point(&["slip", "CAMERA", "--point", "nobody"], 2, "no point called nobody")]
#[case::no_place(&["slip", "CAMERA"], 2, "--at")]
#[case::two_numbers(&["slip", "CAMERA", "--at", "1,2"], 2, "three numbers")]
#[case::no_camera(&["slip", "nowhere.json", "--at", "1,2,3"], 3, "nowhere.json")]
#[case::never_seen(&["slip", "CAMERA", "--at", "0,0,1e7"], 4, "lies in the picture of 0")]
fn what_cannot_be_is_refused(
    solved: &Solved,
    #[case] args: &[&str],
    #[case] status: i32,
    #[case] said: &str,
) {
    let camera = solved.camera();
    let args: Vec<&str> = args
        .iter()
        .map(|a| {
            if *a == "CAMERA" {
                camera.to_str().unwrap()
            } else {
                a
            }
        })
        .collect();
    let done = run(&args);
    assert_eq!(done.status.code(), Some(status), "{done:?}");
    assert!(
        String::from_utf8_lossy(&done.stderr).contains(said),
        "{done:?}"
    );
}

/// Statements that say nothing, and a file that is none.
#[rstest]
fn a_world_that_nothing_is_said_of(solved: &Solved) {
    let out = TempDir::new().unwrap();
    let (done, report) = orient(
        solved,
        &[json!({ "kind": "origin", "at": "nobody" })],
        out.path(),
    );
    assert_eq!(done.status.code(), Some(4), "{done:?}");
    assert_eq!(report["levelled"], false);
    let (done, _) = orient(solved, &[json!({ "kind": "guess" })], out.path());
    assert_eq!(done.status.code(), Some(3), "{done:?}");
}

/// Guests over the plate: a movie of its rate with all frames, numbered pictures of the frames' numbers; what cannot be
/// drawn says why.
#[rstest]
fn guests_are_drawn_over_the_plate(solved: &Solved) {
    let folder = TempDir::new().unwrap();
    let (camera, plate) = (solved.camera(), solved.folder.path().join("p"));
    let model = folder.path().join("roof.obj");
    std::fs::write(&model, "v 0 0 0\nv 1 0 0\nv 0.5 1 0\nf 1 2 3\n").unwrap();
    let point = solved.points()[0].0.clone();
    let common = [
        "proof",
        camera.to_str().unwrap(),
        "--plate",
        plate.to_str().unwrap(),
        "--rays",
        "1",
    ];
    let guests = [
        "--guest",
        "figure",
        "--at",
        &point,
        "--guest",
        model.to_str().unwrap(),
        "--at",
        "0,0,-2",
        "--turn",
        "0",
        "--turn",
        "45",
    ];
    let movie = folder.path().join("proof.mp4");
    let to_movie = [
        "--movie",
        movie.to_str().unwrap(),
        "--ground",
        "-1",
        "--sun",
        "20,45",
        "--numbers",
    ];
    let done = run(&[&common[..], &guests, &to_movie].concat());
    assert!(done.status.success(), "{done:?}");
    let facts = parallax_media::Movie::open(&movie).unwrap().facts;
    assert_eq!((facts.rate.to_string(), facts.count), ("25".to_owned(), 24));

    let pictures = folder.path().join("pictures");
    let done = run(&[
        &common[..],
        &guests,
        &["--movie", pictures.to_str().unwrap()],
    ]
    .concat());
    assert!(done.status.success(), "{done:?}");
    let mut names: Vec<String> = std::fs::read_dir(&pictures)
        .unwrap()
        .map(|e| e.unwrap().file_name().into_string().unwrap())
        .collect();
    names.sort();
    let first = read(&camera).first_frame;
    assert_eq!(
        (names.len(), names[0].clone()),
        (24, format!("pictures.{first:04}.png"))
    );

    let elsewhere = ["--movie", "/nowhere/x.mp4"];
    let refusals: [(&[&str], i32, &str); 4] = [
        (&["--guest", "lost.glb", "--at", "0,0,-2"], 3, "lost.glb"),
        (
            &["--guest", "figure", "--at", "nobody"],
            2,
            "neither a point of the camera file nor a place",
        ),
        (
            &["--guest", "figure", "--guest", "box", "--at", "0,0,-2"],
            2,
            "--at once for each",
        ),
        (
            &["--guest", "box", "--at", "0,0,-2", "--sun", "10,100"],
            2,
            "--sun",
        ),
    ];
    for (args, status, said) in refusals {
        let done = run(&[&common[..], args, &elsewhere].concat());
        let told = String::from_utf8_lossy(&done.stderr).into_owned();
        assert_eq!(done.status.code(), Some(status), "{told}");
        assert!(told.contains(said), "{told}");
    }
}
