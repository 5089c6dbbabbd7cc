//! A shot's lens over the API: marked, solved, kept, taken, undistorted with proof, and a movie
//! taken in.

use crate::running::{Running, start};
use parallax_core::camera::Intrinsics;
use parallax_core::lens::Distortion;
use parallax_core::spaces::{LensPoint, PlatePx};
use parallax_demo::board;
use serde_json::{Value, json};
use std::path::Path;
use std::process::Command;

const SIZE: (u32, u32) = (320, 180);

fn lens() -> Intrinsics {
    board::lens(SIZE.0, SIZE.1)
}

/// Marks along edges of the wall, so many px beside them.
fn straights(off: f64) -> Value {
    let upright = [-4.0, -1.0, 3.0].iter().map(|c| {
        let marks =
            [-0.22, -0.1, 0.02, 0.14, 0.22].map(|t| board::place(&lens(), c * board::PANEL, t));
        marks.map(|[x, y]| [x + off, y]).to_vec()
    });
    let level = [-0.2, 0.2].iter().map(|c| {
        [-0.42, -0.2, 0.02, 0.2, 0.42]
            .map(|t| board::place(&lens(), t, *c))
            .to_vec()
    });
    json!(
        upright
            .chain(level)
            .map(|marks| json!({ "frame": 5, "marks": marks }))
            .collect::<Vec<_>>()
    )
}

async fn opened(root: &Path) -> Running {
    board::write(&lens(), &root.join("board"), 5, 7).unwrap();
    let running = start(&root.join("data"), root).await;
    let (status, _) = running
        .post("/api/shots", json!({ "folder": "board" }))
        .await;
    assert_eq!(status, 201);
    running.settled(1).await;
    running
}

async fn edit(running: &Running, patch: Value) -> Value {
    let (status, view) = running.edit(1, patch).await;
    assert_eq!(status, 200, "{view}");
    view
}

fn station<'a>(view: &'a Value, key: &str) -> &'a Value {
    view["stations"]
        .as_array()
        .unwrap()
        .iter()
        .find(|s| s["key"] == key)
        .unwrap()
}

/// The finding about the lens that offers a remedy.
fn offering<'a>(view: &'a Value, remedy: &str) -> &'a Value {
    let said = view["lens"]["findings"].as_array().unwrap();
    said.iter()
        .find(|f| f["remedy"]["label"] == remedy)
        .unwrap()
}

#[actix_web::test]
async fn straights_give_the_lens_and_undo_takes_it_back() {
    let root = tempfile::tempdir().unwrap();
    let running = opened(root.path()).await;
    let (_, draft) = running
        .post(
            "/api/shots/1/lens",
            json!({ "lens": { "straights": straights(0.0) } }),
        )
        .await;
    assert!(
        (draft["figures"]["terms"]["k1"].as_f64().unwrap() + 0.15).abs() < 1e-3,
        "{}",
        draft["figures"]
    );
    let view = edit(&running, json!({ "lens": { "straights": straights(0.0) } })).await;
    assert_eq!(station(&view, "lens")["standing"], "good");
    assert!(view["lens"]["figures"]["rms_px"][1].as_f64().unwrap() < 0.01);
    assert_eq!(view["lens"]["sizes"]["size"], json!([320, 180]));
    let kept_all = view["lens"]["sizes"]["all"][0].as_u64().unwrap();
    assert!(kept_all > 320 && kept_all % 2 == 0);
    let (_, mesh) = running.get("/api/shots/1/lens/mesh").await;
    assert_eq!(mesh["size"], view["lens"]["sizes"]["all"]);

    // One that is not straight in reality is named, and removed by what is offered.
    let mut wrong = straights(0.0);
    for (k, mark) in wrong[1]["marks"]
        .as_array_mut()
        .unwrap()
        .iter_mut()
        .enumerate()
    {
        mark[0] = json!(mark[0].as_f64().unwrap() + [0.0, 2.5, 4.0, 2.5, 0.0][k]);
    }
    let view = edit(&running, json!({ "lens": { "straights": wrong } })).await;
    let named = offering(&view, "Remove it");
    assert!(
        named["text"]
            .as_str()
            .unwrap()
            .starts_with("Straight 2 on frame 5"),
        "{named}"
    );
    let remove = json!({ "label": "remove it", "things": named["remedy"]["things"] });
    let (status, view) = running.post("/api/shots/1/edits", remove).await;
    assert_eq!(status, 200, "{view}");
    assert!(view["lens"]["figures"]["rms_px"][1].as_f64().unwrap() < 0.01);

    for _ in 0..3 {
        running.post("/api/shots/1/undo", json!({})).await;
    }
    let (_, view) = running.get("/api/shots/1").await;
    assert_eq!(
        (
            station(&view, "lens")["standing"].clone(),
            view["lens"]["used"].clone()
        ),
        (json!("not-begun"), Value::Null)
    );
}

#[actix_web::test]
async fn marks_snap_to_the_edge_of_the_frame() {
    let root = tempfile::tempdir().unwrap();
    let running = opened(root.path()).await;
    let rough = straights(2.0)[0].clone();
    let (status, snapped) = running
        .post(
            "/api/shots/1/lens/snap",
            json!({ "straight": rough, "reach_px": 4, "spacing_px": 8 }),
        )
        .await;
    assert_eq!(status, 200, "{snapped}");
    let marks = snapped["marks"].as_array().unwrap();
    assert!(marks.len() >= 10, "{} marks", marks.len());
    for mark in marks {
        let at = lens()
            .lens_point(PlatePx::new(
                mark[0].as_f64().unwrap(),
                mark[1].as_f64().unwrap(),
            ))
            .unwrap();
        assert!(
            ((at.x + 0.4) * 320.0).abs() < 0.35,
            "{} px beside the line",
            (at.x + 0.4) * 320.0
        );
    }
    let nowhere = json!({ "frame": 99, "marks": [[10, 10], [50, 50]] });
    assert_eq!(
        running
            .post("/api/shots/1/lens/snap", json!({ "straight": nowhere }))
            .await
            .0,
        404
    );
}

#[actix_web::test]
async fn lenses_are_kept_taken_exported_and_imported() {
    let root = tempfile::tempdir().unwrap();
    let running = opened(root.path()).await;
    let label = json!({ "body": "Dome A1", "lens": "East 27", "focal_mm": 27.0, "focus": "far" });
    assert_eq!(
        running
            .post("/api/shots/1/lens/keep", label.clone())
            .await
            .0,
        409
    );
    edit(&running, json!({ "lens": { "straights": straights(0.0) } })).await;
    let (status, all) = running.post("/api/shots/1/lens/keep", label.clone()).await;
    assert_eq!(
        (status, &all["kept"][0]["text"]),
        (200, &json!("Dome A1 · East 27 · 27 mm · far"))
    );
    // The same label is the same lens.
    let (_, all) = running.post("/api/shots/1/lens/keep", label).await;
    assert_eq!(all["kept"].as_array().unwrap().len(), 1);
    let id = all["kept"][0]["id"].as_i64().unwrap();
    let (_, file) = running.get(&format!("/api/lenses/{id}")).await;
    assert_eq!(file["schema"], "true-parallax/lens@1");

    running.post("/api/shots/1/undo", json!({})).await;
    let (_, view) = running
        .post("/api/shots/1/lens/take", json!({ "lens": id }))
        .await;
    assert!((view["lens"]["used"]["k1"].as_f64().unwrap() + 0.15).abs() < 1e-3);
    assert_eq!(
        running
            .ask("DELETE", &format!("/api/lenses/{id}"), "", b"")
            .await
            .0,
        200
    );
    let (status, all) = running.post("/api/lenses", file.clone()).await;
    assert_eq!((status, all["kept"].as_array().unwrap().len()), (200, 1));
    let mut wide = file;
    wide["height"] = json!(240);
    let (_, all) = running.post("/api/lenses", wide).await;
    let (status, refused) = running
        .post(
            "/api/shots/1/lens/take",
            json!({ "lens": all["kept"][0]["id"] }),
        )
        .await;
    assert_eq!(status, 409);
    assert!(
        refused["error"]
            .as_str()
            .unwrap()
            .contains("proportions differ")
    );
    assert_eq!(
        running
            .post("/api/lenses", json!({ "schema": "other" }))
            .await
            .0,
        409
    );
}

#[actix_web::test]
async fn the_older_convention_is_restated_with_its_error() {
    let root = tempfile::tempdir().unwrap();
    let running = opened(root.path()).await;
    let older = parallax_core::lens::convert::to_older(&lens()).unwrap();
    let values = json!({ "convention": "distorted_to_undistorted", "terms": older.terms, "focal_px": 320.0 });
    let view = edit(
        &running,
        json!({ "lens": { "source": "values", "values": values } }),
    )
    .await;
    assert!(
        (view["lens"]["used"]["k1"].as_f64().unwrap() + 0.15).abs() < 0.01,
        "{}",
        view["lens"]["used"]
    );
    assert!(
        view["lens"]["findings"]
            .to_string()
            .contains("Restated from the older convention")
    );
    let folding = json!({ "convention": "undistorted_to_distorted", "terms": { "k1": -3.0 } });
    let view = edit(&running, json!({ "lens": { "values": folding } })).await;
    assert!(
        view["lens"]["error"]
            .as_str()
            .unwrap()
            .contains("fold the picture")
    );
    assert_eq!(station(&view, "lens")["standing"], "needs-a-look");
}

#[actix_web::test]
async fn a_plate_is_undistorted_with_proof_and_goes_on_where_it_stood() {
    let root = tempfile::tempdir().unwrap();
    let running = opened(root.path()).await;
    edit(
        &running,
        json!({ "lens": { "straights": straights(0.0) }, "first_delivered": 1001 }),
    )
    .await;
    running
        .post("/api/shots/1/jobs", json!({ "kind": "undistort" }))
        .await;
    let view = running.settled(1).await;
    let receipt = &view["undistorted"]["receipt"];
    assert_eq!(
        (&receipt["proven"], &receipt["frames"]),
        (&json!(true), &json!(3)),
        "{}",
        view["jobs"]
    );
    let path = format!("/api/shots/1/undistorted/{}", view["state"]["undistorted"]);
    let (status, zip) = running.ask("GET", &path, "", b"").await;
    assert_eq!(status, 200);
    let mut archive = zip::ZipArchive::new(std::io::Cursor::new(zip)).unwrap();
    let mut names: Vec<String> = archive.file_names().map(str::to_owned).collect();
    names.sort();
    let frames = ["board.1001.png", "board.1002.png", "board.1003.png"];
    assert_eq!(
        names,
        [
            &["README.txt"],
            &frames[..],
            &["distort.exr", "lens.json", "receipt.json", "undistort.exr"]
        ]
        .concat()
    );
    assert!(archive.by_name("board.1002.png").unwrap().size() > 1000);
    assert_eq!(
        running
            .ask("GET", &format!("{path}/board.1001.png"), "", b"")
            .await
            .0,
        200
    );
    assert_eq!(
        running
            .ask("GET", &format!("{path}/..%2Fproject.db"), "", b"")
            .await
            .0,
        404
    );

    // A frame that is missing is written again, the others are kept.
    let folder = Path::new(view["undistorted"]["folder"].as_str().unwrap()).to_owned();
    std::fs::remove_file(folder.join("board.1002.png")).unwrap();
    running
        .post("/api/shots/1/jobs", json!({ "kind": "undistort" }))
        .await;
    let view = running.settled(1).await;
    assert!(
        view["jobs"][0]["message"]
            .as_str()
            .unwrap()
            .contains("2 of them were there already"),
        "{}",
        view["jobs"][0]
    );
    let view = edit(&running, json!({ "lens": { "keep": "size" } })).await;
    assert_eq!(view["undistorted"]["stale"], true);
}

#[actix_web::test]
async fn the_last_undistorted_plates_of_a_shot_are_kept() {
    let root = tempfile::tempdir().unwrap();
    let running = opened(root.path()).await;
    edit(&running, json!({ "lens": { "straights": straights(0.0) } })).await;
    let mut paths = Vec::new();
    for first in [1, 101, 201, 301] {
        edit(&running, json!({ "first_delivered": first })).await;
        running
            .post("/api/shots/1/jobs", json!({ "kind": "undistort" }))
            .await;
        let view = running.settled(1).await;
        assert_eq!(
            view["undistorted"]["receipt"]["proven"], true,
            "{}",
            view["jobs"]
        );
        paths.push(format!(
            "/api/shots/1/undistorted/{}/receipt.json",
            view["state"]["undistorted"]
        ));
    }
    let mut found = Vec::new();
    for path in &paths {
        let (status, said) = running.ask("GET", path, "", b"").await;
        assert!(
            status == 200 || String::from_utf8_lossy(&said).contains("undistort it again"),
            "{status}"
        );
        found.push(status);
    }
    assert_eq!(found, [404, 200, 200, 200]);
}

#[actix_web::test]
async fn a_movie_becomes_a_shot_whose_rate_is_not_changed_in_silence() {
    let root = tempfile::tempdir().unwrap();
    let source = "testsrc=s=160x90:r=24000/1001:d=0.4";
    let movie = root.path().join("walk.mov");
    let done = Command::new("ffmpeg")
        .args(["-v", "error", "-f", "lavfi", "-i", source, "-c:v", "ffv1"])
        .arg(&movie)
        .output();
    assert!(done.unwrap().status.success());
    std::fs::write(root.path().join("sound.mp4"), b"nothing of a movie").unwrap();
    let running = start(&root.path().join("data"), root.path()).await;
    let (_, listed) = running.get("/api/folders").await;
    assert_eq!(listed["movies"], json!(["sound.mp4", "walk.mov"]));
    let (status, refused) = running
        .post("/api/shots", json!({ "folder": "sound.mp4" }))
        .await;
    assert_eq!(status, 422, "{refused}");
    let (status, _) = running
        .post("/api/shots", json!({ "folder": "walk.mov" }))
        .await;
    assert_eq!(status, 201);
    let view = running.settled(1).await;
    assert_eq!(
        (&view["facts"]["rate"], &view["plate"]["count"]),
        (&json!("24000/1001"), &json!(10)),
        "{}",
        view["jobs"]
    );
    assert_eq!(
        running
            .ask("GET", "/api/shots/1/frames/10", "", b"")
            .await
            .0,
        200
    );
    assert_eq!(
        running
            .ask(
                "GET",
                "/api/shots/1/frames/10?adjust=%7B%22contrast%22%3A2.0%7D",
                "",
                b""
            )
            .await
            .0,
        200
    );
    assert_eq!(
        running
            .ask(
                "GET",
                "/api/shots/1/frames/10?adjust=%7B%22contrast%22%3A-2.0%7D",
                "",
                b""
            )
            .await
            .0,
        422
    );

    let view = edit(&running, json!({ "rate": "24" })).await;
    let said = view["findings"].as_array().unwrap();
    let asked: Vec<&Value> = said
        .iter()
        .filter(|f| f["station"] == "plate" && f["level"] == "bad")
        .collect();
    assert_eq!(asked.len(), 2, "{said:?}");
    assert_eq!(asked[0]["remedy"]["edit"], json!({ "rate": "24000/1001" }));
    let view = edit(&running, asked[1]["remedy"]["edit"].clone()).await;
    assert!(!view["findings"].to_string().contains("Which one holds"));
}

/// Marks of a lens that two terms cannot draw call for a third, and what is offered solves it.
#[actix_web::test]
async fn straights_that_call_for_one_more_term_say_so_and_get_it() {
    let root = tempfile::tempdir().unwrap();
    let running = opened(root.path()).await;
    let distortion = Distortion {
        k1: -0.3,
        k2: 0.3,
        k3: -0.4,
        ..Distortion::NONE
    };
    let lens = Intrinsics {
        distortion,
        ..Intrinsics::centred(SIZE.0, SIZE.1, f64::from(SIZE.0))
    };
    let along = |place: &dyn Fn(f64) -> LensPoint| {
        let marks: Vec<[f64; 2]> = (-10..=10)
            .map(|k| lens.plate_px(place(f64::from(k) / 10.0)))
            .filter(|px| (0.0..=320.0).contains(&px.x) && (0.0..=180.0).contains(&px.y))
            .map(|px| [px.x, px.y])
            .collect();
        json!({ "frame": 5, "marks": marks })
    };
    let level =
        [-0.27, -0.2, -0.12, 0.15, 0.22, 0.27].map(|y| along(&|t| LensPoint::new(0.5 * t, y)));
    let upright =
        [-0.48, -0.4, -0.25, 0.3, 0.42, 0.48].map(|x| along(&|t| LensPoint::new(x, 0.28 * t)));
    let marked: Vec<Value> = level.into_iter().chain(upright).collect();
    let view = edit(&running, json!({ "lens": { "straights": marked } })).await;
    let wanted = offering(&view, "Solve one more term");
    assert!(
        wanted["text"]
            .as_str()
            .unwrap()
            .contains("call for one more radial term"),
        "{wanted}"
    );
    let view = edit(&running, wanted["remedy"]["edit"].clone()).await;
    assert_eq!(view["state"]["lens"]["terms"], 3);
    let k3 = view["lens"]["figures"]["terms"]["k3"].as_f64().unwrap();
    assert!((k3 + 0.4).abs() < 0.02, "{k3}");
    let said = view["lens"]["findings"].as_array().unwrap();
    assert!(
        said.iter()
            .all(|f| f["remedy"]["label"] != "Solve one more term"),
        "{said:?}"
    );
}
