//! What is delivered and kept: stale solves, names, results that cannot be read.
#![allow(clippy::unwrap_used)]

#[path = "../../../tests/running/mod.rs"]
mod running;

use parallax_demo::plates::{self, Coding};
use parallax_demo::trial::{Move, Trial};
use parallax_formats::delivery::unzipped;
use running::{ground_of, opened, small_plate, start};
use serde_json::{Value, json};

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
    server.work(shot, "track").await;
    let view = server.work(shot, "solve").await;
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
    let view = server.work(shot, "deliver").await;
    assert_eq!(view["jobs"][0]["state"], "failed");
    assert!(
        view["jobs"][0]["message"]
            .as_str()
            .unwrap()
            .contains("the solve is stale")
    );
    assert!(view["state"]["delivery"].is_null());
    let view = server.work(shot, "deliver_stale").await;
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
    server.work(shot, "track").await;
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
        let view = server.work(other, kind).await;
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

/// A kept result that cannot be read: the shot opens all the same and says so.
#[actix_web::test]
async fn a_shot_with_a_damaged_attempt_opens_and_says_so() {
    let (data, root) = (tempfile::tempdir().unwrap(), tempfile::tempdir().unwrap());
    small_plate(root.path(), 24);
    let (server, shot) = opened(data.path(), root.path()).await;
    let facts = json!({ "rate": "25", "track": { "count": 250, "pattern_px": 15 } });
    server.edit(shot, facts).await;
    for kind in ["track", "solve"] {
        server.work(shot, kind).await;
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

/// A turn on the spot with a zoom is found to be one, told as one and handed on by frame.
#[actix_web::test]
async fn a_turn_with_a_zoom_is_found_told_and_delivered() {
    let (data, root) = (tempfile::tempdir().unwrap(), tempfile::tempdir().unwrap());
    let trial = Trial {
        camera: Move::Turn,
        zoom: 1.2,
        ..Trial::small(24)
    };
    plates::write(
        &trial.take(),
        &root.path().join("walk"),
        Coding::Png,
        |_| {},
    )
    .unwrap();
    let (server, shot) = opened(data.path(), root.path()).await;
    let facts = json!({ "rate": "25", "track": { "count": 250, "pattern_px": 15 } });
    assert_eq!(server.edit(shot, facts).await.0, 200);
    server.work(shot, "track").await;
    let view = server.work(shot, "solve").await;
    assert_eq!(view["solve"]["move"], "nodal", "{}", view["jobs"]);
    assert_eq!(view["solve"]["zooms"], true);
    assert_eq!(view["facts"]["move_found"], "found: turns on the spot");
    let said = view["findings"].to_string();
    for sentence in [
        "turns on the spot",
        "The focal length changes",
        "Landmarks are directions",
    ] {
        assert!(said.contains(sentence), "{said}");
    }
    let (_, curves) = server.get(&format!("/api/shots/{shot}/curves")).await;
    let focal = curves["focal_mm"]["values"].as_array().unwrap();
    assert_eq!(focal.len(), 24);
    let (first, last) = (focal[0].as_f64().unwrap(), focal[23].as_f64().unwrap());
    assert!((last / first - 1.2).abs() < 0.01, "{first} to {last}");
    assert_eq!(curves["focal_mm"]["sigma"].as_array().unwrap().len(), 24);
    let pan = &curves["rotation_deg"][0]["values"];
    let turned = pan[23].as_f64().unwrap() - pan[0].as_f64().unwrap();
    assert!(
        (turned.abs() - 20.0 * 23.0 / 24.0).abs() < 0.5,
        "{turned} degrees"
    );
    // It does not travel: neither a ground nor a distance can be read off it, and that is said.
    assert!(view["state"]["attempt"].is_i64());
    let (_, view) = server.state(shot, &[ground_of(&[1, 2, 3])]).await;
    let said = view["findings"].to_string();
    assert!(
        said.contains("does not travel, so that features are directions"),
        "{said}"
    );
    server
        .post(&format!("/api/shots/{shot}/undo"), json!({}))
        .await;
    let view = server.work(shot, "deliver").await;
    let delivery = view["state"]["delivery"].as_i64().unwrap();
    let assumed = view["receipt"]["assumptions"].to_string();
    assert!(
        assumed.contains("directions, set 100 units away"),
        "{assumed}"
    );
    let path = format!("/api/shots/{shot}/deliveries/{delivery}");
    let (_, package) = server.ask("GET", &path, "", b"").await;
    let camera: Value = serde_json::from_str(&unzipped(&package, "camera.json").unwrap()).unwrap();
    assert_eq!(camera["directions_at"], 100.0);
    let of = |i: usize| camera["frames"][i]["focal_px"].as_f64().unwrap();
    assert!((of(23) / of(0) - 1.2).abs() < 0.01);
    // Stated to travel, it is another solve, and this one is stale until then.
    let (_, view) = server.edit(shot, json!({ "moves": "free" })).await;
    assert_eq!(view["stale_since"].as_array().unwrap().len(), 1);
    assert_eq!(
        server.edit(shot, json!({ "moves": "sideways" })).await.0,
        422
    );
    server.end().await;
}

/// A landmark on demand: any track has its place, without another solve; what has none says why.
#[actix_web::test]
async fn a_track_has_its_place_by_the_camera() {
    let (data, root) = (tempfile::tempdir().unwrap(), tempfile::tempdir().unwrap());
    small_plate(root.path(), 24);
    let (server, shot) = opened(data.path(), root.path()).await;
    let facts = json!({ "rate": "25", "track": { "count": 250, "pattern_px": 15 } });
    assert_eq!(server.edit(shot, facts).await.0, 200);
    server.work(shot, "track").await;
    let asked = |track: u64| format!("/api/shots/{shot}/tracks/{track}/place");
    let (_, before) = server.get(&asked(1)).await;
    assert!(
        before["none"].as_str().unwrap().contains("solve first"),
        "{before}"
    );
    server.work(shot, "solve").await;
    let (_, world) = server.get(&format!("/api/shots/{shot}/world")).await;
    let landmark = &world["points"].as_array().unwrap()[0];
    let (status, found) = server.get(&asked(landmark[0].as_u64().unwrap())).await;
    assert_eq!(status, 200);
    let off: f64 = (0..3)
        .map(|k| found["place"][k].as_f64().unwrap() - landmark[k + 1].as_f64().unwrap())
        .map(|d| d * d)
        .sum();
    assert!(off.sqrt() < 0.05, "{found} and {landmark}");
    assert_eq!(found["took_part"], true);
    let path = found["path"].as_array().unwrap();
    assert!(path.len() >= 3, "{found}");
    assert!(path.iter().all(|p| p[3].as_f64().unwrap() < 2.0));
    let (_, gone) = server.get(&asked(99_999)).await;
    assert_eq!(gone["none"], "there is no such track");
    server.end().await;
}

/// How long the sensor reads a picture is stated, refused where it makes no sense, and makes a solve stale.
#[actix_web::test]
async fn a_read_out_time_is_a_fact_of_the_shot() {
    let (data, root) = (tempfile::tempdir().unwrap(), tempfile::tempdir().unwrap());
    small_plate(root.path(), 24);
    let (server, shot) = opened(data.path(), root.path()).await;
    let facts = json!({ "rate": "25", "track": { "count": 250, "pattern_px": 15 } });
    assert_eq!(server.edit(shot, facts).await.0, 200);
    server.work(shot, "track").await;
    let view = server.work(shot, "solve").await;
    assert!(view["solve"]["readout_text"].is_null(), "{}", view["solve"]);
    let (_, view) = server.edit(shot, json!({ "readout_ms": 8.0 })).await;
    assert_eq!(view["stale_since"].as_array().unwrap().len(), 1);
    let view = server.work(shot, "solve").await;
    assert_eq!(view["solve"]["readout_text"], "8.0 ms, stated");
    let view = server.work(shot, "deliver").await;
    let assumed = view["receipt"]["assumptions"].to_string();
    assert!(assumed.contains("rows are read within 8.0 ms"), "{assumed}");
    let (status, told) = server.edit(shot, json!({ "readout_ms": -2.0 })).await;
    assert!(status >= 400, "{told}");
    assert!(told.to_string().contains("between 0 and 200 ms"), "{told}");
    server.end().await;
}
