//! What the server survives and says: hostile files and requests, plates that change under it,
//! stale solves, other clients, other processes.
#![allow(clippy::unwrap_used)]

mod running;

use parallax_demo::plates::{self, Coding};
use parallax_demo::trial::Trial;
use parallax_formats::delivery::unzipped;
use rstest::rstest;
use running::{Running, start};
use serde_json::{Value, json};
use std::path::Path;

fn small_plate(root: &Path, frames: usize) {
    let trial = Trial {
        width_px: 320,
        height_px: 180,
        frame_count: frames,
        rays: 4,
        grain_levels: 0.8,
        ..Trial::new(6)
    };
    plates::write(&trial.take(), &root.join("walk"), Coding::Png, |_| {}).unwrap();
}

async fn opened(data: &Path, root: &Path) -> (Running, i64) {
    let server = start(data, root).await;
    let (status, opened) = server.post("/api/shots", json!({ "folder": "walk" })).await;
    assert_eq!(status, 201, "{opened}");
    let shot = opened["shot"].as_i64().unwrap();
    server.settled(shot).await;
    (server, shot)
}

fn drop_of(files: &[(&str, &[u8])]) -> Vec<u8> {
    let mut body = Vec::new();
    for (name, bytes) in files {
        let head = format!(
            "--x\r\ncontent-disposition: form-data; name=\"files\"; filename=\"{name}\"\r\n\r\n"
        );
        body.extend(head.as_bytes());
        body.extend(*bytes);
        body.extend(b"\r\n");
    }
    body.extend(b"--x--\r\n");
    body
}

async fn dropped(server: &Running, files: &[(&str, &[u8])]) -> (u16, Value) {
    let boundary = "content-type: multipart/form-data; boundary=x\r\n";
    let (status, body) = server
        .ask("POST", "/api/uploads", boundary, &drop_of(files))
        .await;
    (status, serde_json::from_slice(&body).unwrap())
}

fn coded(format: image::ImageFormat) -> Vec<u8> {
    let picture = image::RgbImage::from_fn(64, 48, |x, y| {
        image::Rgb([(x * 4) as u8, (y * 5) as u8, ((x * y) % 251) as u8])
    });
    let mut bytes = std::io::Cursor::new(Vec::new());
    picture.write_to(&mut bytes, format).unwrap();
    bytes.into_inner()
}

/// An OpenEXR of 96x64 px whose data window begins and ends where it is told to.
fn exr(data_window: [i32; 4], tiles: Option<[u32; 2]>) -> Vec<u8> {
    let mut bytes = vec![
        0x76,
        0x2f,
        0x31,
        0x01,
        2,
        if tiles.is_some() { 2 } else { 0 },
        0,
        0,
    ];
    let mut attribute = |name: &str, kind: &str, value: &[u8]| {
        bytes.extend(name.as_bytes());
        bytes.push(0);
        bytes.extend(kind.as_bytes());
        bytes.push(0);
        bytes.extend((value.len() as i32).to_le_bytes());
        bytes.extend(value);
    };
    let window = |w: [i32; 4]| w.iter().flat_map(|v| v.to_le_bytes()).collect::<Vec<u8>>();
    let mut channels = Vec::new();
    for name in ["B", "G", "R"] {
        channels.extend(name.as_bytes());
        channels.push(0);
        channels.extend(1i32.to_le_bytes());
        channels.extend([0; 4]);
        channels.extend(1i32.to_le_bytes());
        channels.extend(1i32.to_le_bytes());
    }
    channels.push(0);
    attribute("channels", "chlist", &channels);
    attribute("compression", "compression", &[0]);
    attribute("dataWindow", "box2i", &window(data_window));
    attribute("displayWindow", "box2i", &window([0, 0, 95, 63]));
    attribute("lineOrder", "lineOrder", &[0]);
    attribute("pixelAspectRatio", "float", &1f32.to_le_bytes());
    attribute("screenWindowCenter", "v2f", &[0; 8]);
    attribute("screenWindowWidth", "float", &1f32.to_le_bytes());
    if let Some([width, height]) = tiles {
        let sides = [width.to_le_bytes(), height.to_le_bytes()].concat();
        attribute("tiles", "tiledesc", &[&sides[..], &[0]].concat());
    }
    bytes.push(0);
    bytes.extend([0; 256]);
    bytes
}

#[rstest]
#[case::window_far_to_the_left(exr([-200_000_000, 0, 95, 63], None))]
#[case::window_far_away(exr([-200_000_000, 0, -199_999_905, 63], None))]
#[case::window_of_all_there_is(exr([i32::MIN / 2 + 1, i32::MIN / 2 + 1, i32::MAX / 2 - 1, i32::MAX / 2 - 1], None))]
#[case::tiles_without_end(exr([0, 0, 95, 63], Some([1 << 30, 1 << 30])))]
#[case::tiles_of_nothing(exr([0, 0, 95, 63], Some([0, 0])))]
#[actix_web::test]
async fn an_openexr_that_asks_for_too_much_is_refused(#[case] bytes: Vec<u8>) {
    let (data, root) = (tempfile::tempdir().unwrap(), tempfile::tempdir().unwrap());
    let server = start(data.path(), root.path()).await;
    let (status, answer) = dropped(&server, &[("a.0001.exr", &bytes)]).await;
    assert_eq!(status, 422, "{answer}");
    assert_eq!(server.get("/api/shots").await.0, 200, "the server goes on");
    server.end().await;
}

#[actix_web::test]
async fn a_picture_cut_off_is_refused_when_it_is_decoded() {
    let root = tempfile::tempdir().unwrap();
    for (ending, format) in [
        ("jpg", image::ImageFormat::Jpeg),
        ("png", image::ImageFormat::Png),
        ("tif", image::ImageFormat::Tiff),
    ] {
        let bytes = coded(format);
        let file = root.path().join(format!("a.{ending}"));
        std::fs::write(&file, &bytes).unwrap();
        assert!(parallax_media::picture::decode(&file).is_ok(), "{ending}");
        for share in 1..20 {
            std::fs::write(&file, &bytes[..bytes.len() * share / 20]).unwrap();
            let decoded = parallax_media::picture::decode(&file);
            assert!(decoded.is_err(), "{ending} cut at {share} of 20");
        }
    }
}

#[actix_web::test]
async fn dropped_files_are_taken_or_named() {
    let (data, root) = (tempfile::tempdir().unwrap(), tempfile::tempdir().unwrap());
    let server = start(data.path(), root.path()).await;
    let png = coded(image::ImageFormat::Png);
    let frames = [
        ("walk+take '2' [a], b.1.png", &png[..]),
        ("walk+take '2' [a], b.2.png", &png),
    ];
    let note = ("note.txt", &b"a note"[..]);
    let (status, answer) = dropped(&server, &[frames[0], note, frames[1]]).await;
    assert_eq!(
        (status, &answer["left"]),
        (201, &json!(["note.txt"])),
        "{answer}"
    );
    let view = server.settled(answer["shot"].as_i64().unwrap()).await;
    assert_eq!(view["plate"]["count"], 2);
    assert!(view["findings"].to_string().contains("note.txt"));
    let (status, answer) = dropped(&server, &[("x.1.png", &png), ("x.0001.png", &png)]).await;
    assert_eq!(status, 409, "{answer}");
    assert!(
        answer["error"]
            .as_str()
            .unwrap()
            .contains("x.1.png and x.0001.png"),
        "{answer}"
    );
    let (status, answer) = dropped(&server, &[note]).await;
    assert_eq!(status, 409, "{answer}");
    server.end().await;
}

/// Sentences are for artists: none speaks of the library that reads requests.
#[rstest]
#[case::no_json("POST", "/api/shots/1/edits", "{", 400)]
#[case::no_label("POST", "/api/shots/1/edits", r#"{"patch": {}}"#, 400)]
#[case::no_number("GET", "/api/shots/seven", "", 400)]
#[case::no_query("GET", "/api/shots/1/features?frame=x", "", 400)]
#[case::nowhere("GET", "/api/nothing", "", 404)]
#[case::a_list(
    "POST",
    "/api/shots/1/edits",
    r#"{"label": "x", "patch": [1, 2, 3]}"#,
    422
)]
#[case::half_a_film_back(
    "POST",
    "/api/shots/1/edits",
    r#"{"label": "x", "patch": {"film_back": {"width_mm": 36}}}"#,
    422
)]
#[case::no_such_member(
    "POST",
    "/api/shots/1/edits",
    r#"{"label": "x", "patch": {"lens": {"k7": 1}}}"#,
    422
)]
#[case::a_result(
    "POST",
    "/api/shots/1/edits",
    r#"{"label": "x", "patch": {"run": 3}}"#,
    422
)]
#[case::a_list_unseen(
    "POST",
    "/api/shots/1/edits",
    r#"{"label": "x", "patch": {"stand_ins": []}}"#,
    422
)]
#[case::no_attempt("POST", "/api/shots/1/attempts/99", "{}", 404)]
#[actix_web::test]
async fn bad_requests_get_a_sentence(
    #[case] method: &str,
    #[case] path: &str,
    #[case] body: &str,
    #[case] wanted: u16,
) {
    let (data, root) = (tempfile::tempdir().unwrap(), tempfile::tempdir().unwrap());
    small_plate(root.path(), 3);
    let (server, _) = opened(data.path(), root.path()).await;
    let kind = "content-type: application/json\r\n";
    let (status, answer) = server.ask(method, path, kind, body.as_bytes()).await;
    let said = String::from_utf8_lossy(&answer).into_owned();
    assert_eq!(status, wanted, "{said}");
    let answer: Value = serde_json::from_slice(&answer).expect("errors are JSON");
    let sentence = answer["error"].as_str().unwrap();
    for word in [
        "missing field",
        "expected",
        "line 1",
        "invalid type",
        "unknown variant",
    ] {
        assert!(!sentence.contains(word), "{sentence}");
    }
    server.end().await;
}

/// Wild terms froze a thread for good, and did so again at each opening.
#[rstest]
#[case::tiny_unit(json!({ "terms": { "k3": 1000.0 }, "focal_px": 1.0 }))]
#[case::huge_term(json!({ "terms": { "k1": 1000.0 } }))]
#[case::tangential(json!({ "terms": { "p1": 900.0, "p2": -900.0 } }))]
#[actix_web::test]
async fn a_wild_lens_is_refused_by_what_it_does_to_the_picture(#[case] values: Value) {
    let (data, root) = (tempfile::tempdir().unwrap(), tempfile::tempdir().unwrap());
    small_plate(root.path(), 3);
    let (server, shot) = opened(data.path(), root.path()).await;
    for convention in ["undistorted_to_distorted", "distorted_to_undistorted"] {
        let mut values = values.clone();
        values["convention"] = json!(convention);
        let patch = json!({ "lens": { "source": "values", "values": values } });
        let (status, view) = server.edit(shot, patch).await;
        assert_eq!(status, 200, "{view}");
        assert!(view["lens"]["error"].is_string(), "{}", view["lens"]);
        assert_eq!(server.get(&format!("/api/shots/{shot}")).await.0, 200);
    }
    server.end().await;
}

#[actix_web::test]
async fn numbers_beyond_bounds_do_not_come_in_with_tracks() {
    let (data, root) = (tempfile::tempdir().unwrap(), tempfile::tempdir().unwrap());
    small_plate(root.path(), 3);
    let (server, shot) = opened(data.path(), root.path()).await;
    let rows = b"track,frame,x,y,sigma_x\na,1,10,10,1e200\na,2,10,10,1\n";
    let path = format!("/api/shots/{shot}/tracks/import");
    let (status, answer) = server.ask("POST", &path, "", rows).await;
    let said = String::from_utf8_lossy(&answer).into_owned();
    assert_eq!(status, 422, "{said}");
    assert!(said.contains("row 2"), "{said}");
    assert_eq!(server.get(&format!("/api/shots/{shot}")).await.0, 200);
    server.end().await;
}

/// A plate is the files that it was: what happens in its folder is said, and nothing of the shot
/// changes until it is asked for.
#[actix_web::test]
async fn a_plate_is_pinned_to_its_files() {
    let (data, root) = (tempfile::tempdir().unwrap(), tempfile::tempdir().unwrap());
    small_plate(root.path(), 5);
    let folder = root.path().join("walk");
    let (server, shot) = opened(data.path(), root.path()).await;
    let mut names: Vec<_> = std::fs::read_dir(&folder)
        .unwrap()
        .map(|e| e.unwrap().path())
        .collect();
    names.sort();
    let findings = async || {
        // A folder is looked at again after a few seconds; a new server looks at once.
        server.worker.forget_plate(shot);
        server.get(&format!("/api/shots/{shot}")).await.1["findings"].to_string()
    };
    assert!(!findings().await.contains("has changed since"));
    for frame in 1..=9 {
        std::fs::copy(&names[0], folder.join(format!("other.{frame}.png"))).unwrap();
    }
    assert!(
        !findings().await.contains("has changed since"),
        "another sequence is no change"
    );
    assert_eq!(
        server.get(&format!("/api/shots/{shot}")).await.1["plate"]["count"],
        5
    );
    std::fs::remove_file(&names[2]).unwrap();
    std::fs::copy(&names[0], &names[1]).unwrap();
    let said = findings().await;
    let number = |file: &Path| {
        let stem = file.file_stem().unwrap().to_string_lossy().into_owned();
        stem.rsplit('.')
            .next()
            .unwrap()
            .trim_start_matches('0')
            .to_owned()
    };
    let (gone, other) = (number(&names[2]), number(&names[1]));
    assert!(
        said.contains(&format!("not there any more: {gone}")),
        "{said}"
    );
    assert!(
        said.contains(&format!("other pictures now: {other}")),
        "{said}"
    );
    for frame in 1..=9 {
        std::fs::remove_file(folder.join(format!("other.{frame}.png"))).unwrap();
    }
    let (status, view) = server
        .post(&format!("/api/shots/{shot}"), json!({ "do": "take_plate" }))
        .await;
    assert_eq!(
        (status, &view["plate"]["count"]),
        (200, &json!(4)),
        "{view}"
    );
    assert!(!findings().await.contains("has changed since"));
    server.end().await;
}

#[actix_web::test]
async fn links_do_not_lead_out_of_the_allowed_folder() {
    let (data, root) = (tempfile::tempdir().unwrap(), tempfile::tempdir().unwrap());
    let elsewhere = tempfile::tempdir().unwrap();
    let secret = elsewhere.path().join("secret.png");
    std::fs::write(&secret, coded(image::ImageFormat::Png)).unwrap();
    std::fs::create_dir(root.path().join("one")).unwrap();
    std::os::unix::fs::symlink(&secret, root.path().join("one/a.0001.png")).unwrap();
    let server = start(data.path(), root.path()).await;
    let (status, answer) = server.post("/api/shots", json!({ "folder": "one" })).await;
    assert_eq!(status, 403, "{answer}");
    server.end().await;
}

#[actix_web::test]
async fn a_second_server_on_one_folder_is_refused() {
    let (data, root) = (tempfile::tempdir().unwrap(), tempfile::tempdir().unwrap());
    let server = start(data.path(), root.path()).await;
    let config = server.worker.config.clone();
    let second = parallax_web::start(config.clone())
        .await
        .err()
        .expect("it is refused");
    assert!(
        second
            .to_string()
            .contains("another True Parallax works on"),
        "{second}"
    );
    server.end().await;
    let (third, _, app) = parallax_web::start(config).await.unwrap();
    drop(third);
    app.end();
}

/// An old camera with a new film back was delivered and called proven.
#[actix_web::test]
async fn a_stale_solve_is_refused_or_delivered_as_stale() {
    let (data, root) = (tempfile::tempdir().unwrap(), tempfile::tempdir().unwrap());
    small_plate(root.path(), 24);
    let (server, shot) = opened(data.path(), root.path()).await;
    let facts = json!({
        "rate": "25", "focal": { "mm": 30.0 }, "film_back": { "width_mm": 36.0, "height_mm": 20.25 },
        "track": { "count": 250, "pattern_px": 15 },
    });
    assert_eq!(server.edit(shot, facts).await.0, 200);
    let begin = async |kind: &str| {
        let asked = json!({ "kind": kind });
        assert_eq!(
            server
                .post(&format!("/api/shots/{shot}/jobs"), asked)
                .await
                .0,
            202
        );
        server.settled(shot).await
    };
    begin("track").await;
    let view = begin("solve").await;
    assert!(view["state"]["attempt"].is_i64(), "{}", view["jobs"]);
    assert_eq!(view["stale_since"], json!([]));
    let back = json!({ "film_back": { "width_mm": 24.0, "height_mm": 13.5 } });
    let (_, view) = server.edit(shot, back).await;
    assert_eq!(
        view["stale_since"].as_array().unwrap().len(),
        1,
        "{}",
        view["stale_since"]
    );
    let view = begin("deliver").await;
    assert_eq!(view["jobs"][0]["state"], "failed");
    assert!(
        view["jobs"][0]["message"]
            .as_str()
            .unwrap()
            .contains("the solve is stale")
    );
    assert!(view["state"]["delivery"].is_null());
    let view = begin("deliver_stale").await;
    let delivery = view["state"]["delivery"].as_i64().unwrap();
    assert_eq!(view["receipt"]["stale"].as_array().unwrap().len(), 1);
    let path = format!("/api/shots/{shot}/deliveries/{delivery}");
    let (_, package) = server.ask("GET", &path, "", b"").await;
    let receipt: Value =
        serde_json::from_str(&unzipped(&package, "stale-receipt.json").unwrap()).unwrap();
    assert_eq!(
        receipt["files_agree"], true,
        "the files agree, the solve is stale all the same"
    );
    assert!(
        unzipped(&package, "stale-camera.json")
            .unwrap()
            .contains("\"stale\"")
    );
    server.end().await;
}

/// Names that were given, or found in an imported file, are in every delivered file.
#[actix_web::test]
async fn names_survive_import_solve_and_delivery() {
    let (data, root) = (tempfile::tempdir().unwrap(), tempfile::tempdir().unwrap());
    small_plate(root.path(), 24);
    let (server, shot) = opened(data.path(), root.path()).await;
    let facts = json!({ "rate": "25", "track": { "count": 250, "pattern_px": 15 } });
    assert_eq!(server.edit(shot, facts).await.0, 200);
    let begin = async |kind: &str| {
        let asked = json!({ "kind": kind });
        assert_eq!(
            server
                .post(&format!("/api/shots/{shot}/jobs"), asked)
                .await
                .0,
            202
        );
        server.settled(shot).await
    };
    begin("track").await;
    // Out, named by numbers and words, and in again as the only tracks of another shot.
    let (_, rows) = server
        .ask("GET", &format!("/api/shots/{shot}/tracks.csv"), "", b"")
        .await;
    let rows = String::from_utf8(rows).unwrap();
    let renamed: Vec<String> = rows
        .lines()
        .map(|row| match row.split_once(',') {
            Some((track, rest)) if track != "track" => {
                let number: u32 = track[1..].parse().unwrap();
                let name = if number.is_multiple_of(2) {
                    format!("{number}")
                } else {
                    format!("nail {number}")
                };
                format!("{name},{rest}")
            }
            _ => row.to_owned(),
        })
        .collect();
    let (_, opened) = server.post("/api/shots", json!({ "folder": "walk" })).await;
    let other = opened["shot"].as_i64().unwrap();
    server.settled(other).await;
    assert_eq!(server.edit(other, json!({ "rate": "25" })).await.0, 200);
    let path = format!("/api/shots/{other}/tracks/import");
    let (status, answer) = server
        .ask("POST", &path, "", renamed.join("\n").as_bytes())
        .await;
    assert_eq!(status, 200, "{}", String::from_utf8_lossy(&answer));
    server.settled(other).await;
    for kind in ["solve", "deliver"] {
        server
            .post(&format!("/api/shots/{other}/jobs"), json!({ "kind": kind }))
            .await;
        let view = server.settled(other).await;
        assert_eq!(view["jobs"][0]["state"], "done", "{}", view["jobs"]);
    }
    let (_, view) = server.get(&format!("/api/shots/{other}")).await;
    let delivery = view["state"]["delivery"].as_i64().unwrap();
    let path = format!("/api/shots/{other}/deliveries/{delivery}");
    let (_, package) = server.ask("GET", &path, "", b"").await;
    let camera: Value = serde_json::from_str(&unzipped(&package, "camera.json").unwrap()).unwrap();
    let names: Vec<&str> = camera["points"]
        .as_array()
        .unwrap()
        .iter()
        .map(|p| p["name"].as_str().unwrap())
        .collect();
    assert!(names.len() > 20);
    let given = |name: &&str| name.starts_with("nail ") || name.parse::<u32>().is_ok();
    assert!(names.iter().all(given), "{names:?}");
    let scene = unzipped(&package, "scene.usda").unwrap();
    let tracks = unzipped(&package, "tracks.csv").unwrap();
    for name in names.iter().take(5) {
        assert!(
            scene.contains(&format!("\"{name}\"")) && tracks.contains(name),
            "{name}"
        );
    }
    server.end().await;
}

/// Two who remove one matte removed two; a matte has a number for good.
#[actix_web::test]
async fn removing_one_matte_twice_removes_one() {
    let (data, root) = (tempfile::tempdir().unwrap(), tempfile::tempdir().unwrap());
    small_plate(root.path(), 3);
    let (server, shot) = opened(data.path(), root.path()).await;
    let path = format!("/api/shots/{shot}/mattes");
    for x in [10.0, 60.0, 110.0] {
        let points = json!([[x, 10.0], [x + 30.0, 10.0], [x, 40.0]]);
        let drawn = server
            .post(&path, json!({ "do": "draw", "frame": 1, "points": points }))
            .await;
        assert_eq!(drawn.0, 200, "{}", drawn.1);
    }
    let remove = json!({ "do": "remove", "matte": 1 });
    let (first, second) = (
        server.post(&path, remove.clone()).await,
        server.post(&path, remove).await,
    );
    assert_eq!((first.0, second.0), (200, 404));
    let (_, view) = server.get(&format!("/api/shots/{shot}")).await;
    let ids: Vec<i64> = view["state"]["mattes"]
        .as_array()
        .unwrap()
        .iter()
        .map(|m| m["id"].as_i64().unwrap())
        .collect();
    assert_eq!(ids, [2, 3]);
    server.end().await;
}

#[actix_web::test]
async fn shots_go_into_the_bin_and_out_of_it_and_their_files_with_them() {
    let (data, root) = (tempfile::tempdir().unwrap(), tempfile::tempdir().unwrap());
    let server = start(data.path(), root.path()).await;
    let png = coded(image::ImageFormat::Png);
    let (_, answer) = dropped(&server, &[("a.1.png", &png), ("a.2.png", &png)]).await;
    let shot = answer["shot"].as_i64().unwrap();
    server.settled(shot).await;
    let path = format!("/api/shots/{shot}");
    let deed = async |deed: Value| server.post(&path, deed).await.0;
    assert_eq!(
        deed(json!({ "do": "delete" })).await,
        409,
        "only from the bin"
    );
    assert_eq!(
        deed(json!({ "do": "rename", "name": "terrace" })).await,
        200
    );
    assert_eq!(deed(json!({ "do": "bin" })).await, 200);
    let jobs = format!("/api/shots/{shot}/jobs");
    assert_eq!(server.post(&jobs, json!({ "kind": "track" })).await.0, 409);
    assert_eq!(server.get("/api/shots").await.1, json!([]));
    assert_eq!(
        server.get("/api/shots?bin=true").await.1[0]["name"],
        "terrace"
    );
    assert_eq!(deed(json!({ "do": "take_out" })).await, 200);
    assert_eq!(deed(json!({ "do": "bin" })).await, 200);
    assert_eq!(deed(json!({ "do": "delete" })).await, 200);
    assert_eq!(server.get(&path).await.0, 404);
    for folder in ["uploads", "views"] {
        let left = std::fs::read_dir(data.path().join(folder)).unwrap().count();
        assert_eq!(left, 0, "{folder} has orphans");
    }
    server.end().await;
}

/// A kept result that cannot be read: the shot opens all the same and says so.
#[actix_web::test]
async fn a_shot_with_a_damaged_attempt_opens_and_says_so() {
    let (data, root) = (tempfile::tempdir().unwrap(), tempfile::tempdir().unwrap());
    small_plate(root.path(), 24);
    let (server, shot) = opened(data.path(), root.path()).await;
    let facts = json!({ "rate": "25", "track": { "count": 250, "pattern_px": 15 } });
    server.edit(shot, facts).await;
    for kind in ["track", "solve"] {
        server
            .post(&format!("/api/shots/{shot}/jobs"), json!({ "kind": kind }))
            .await;
        server.settled(shot).await;
    }
    server.end().await;
    let file = format!("sqlite://{}", data.path().join("project.db").display());
    let pool = sqlx::SqlitePool::connect(&file).await.unwrap();
    let spoil = "UPDATE attempts SET result = \
                 json_set(result, '$.radial_sigma', json('[null,null]'), '$.rms_px', null)";
    sqlx::query(spoil).execute(&pool).await.unwrap();
    pool.close().await;
    let again = start(data.path(), root.path()).await;
    let (status, view) = again.get(&format!("/api/shots/{shot}")).await;
    assert_eq!(status, 200, "{view}");
    let said = view["findings"].to_string();
    assert!(
        said.contains("the current attempt cannot be read"),
        "{said}"
    );
    let (status, view) = again
        .post(&format!("/api/shots/{shot}/undo"), json!({}))
        .await;
    assert_eq!(status, 200);
    assert!(view["state"]["attempt"].is_null());
    assert!(!view["findings"].to_string().contains("damaged"));
    again.end().await;
}
