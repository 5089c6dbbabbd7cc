//! What is delivered and kept: stale solves, names, results that cannot be read.

#[path = "tests_along.rs"]
mod along;

use crate::running::prepared::{Stage, prepared};
use crate::running::{ground_of, made, opened, small_plate, start, text_in};
use parallax_demo::plates::{self, Coding};
use parallax_demo::trial::{Move, Trial};
use serde_json::{Value, json};

/// An old camera with a new film back was delivered and called proven.
#[actix_web::test]
async fn a_stale_solve_is_refused_or_delivered_as_stale() {
    let (data, root) = (tempfile::tempdir().unwrap(), tempfile::tempdir().unwrap());
    let (server, shot, ..) = prepared(Stage::Followed, data.path(), root.path()).await;
    let facts = json!({
        "focal": { "mm": 30.0 }, "film_back": { "width_mm": 36.0, "height_mm": 20.25 },
    });
    assert_eq!(server.edit(shot, facts).await.0, 200);
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
    assert_eq!(made(&view)["receipt"]["stale"].as_array().unwrap().len(), 1);
    assert_eq!(made(&view)["name"], "stale-trial-6-3D-scene-v001");
    let package = server.package(shot).await;
    let receipt: Value =
        serde_json::from_str(&text_in(&package, "stale-trial-6-receipt-v001.json")).unwrap();
    assert_eq!(
        receipt["files_agree"], true,
        "the files agree, the solve is stale all the same"
    );
    let scene = text_in(&package, "stale-trial-6-scene-v001.usda");
    assert!(scene.contains("string[] staleSince = [\""), "{scene}");
    server.end().await;
}

/// Names that were given, or found in an imported file, are in every delivered file.
#[actix_web::test]
async fn names_survive_import_solve_and_delivery() {
    let (data, root) = (tempfile::tempdir().unwrap(), tempfile::tempdir().unwrap());
    let (server, shot, ..) = prepared(Stage::Followed, data.path(), root.path()).await;
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
    server.work(other, "solve").await;
    let view = server.deliver(other, "for the record").await;
    assert_eq!(view["jobs"][0]["state"], "done", "{}", view["jobs"]);
    let package = server.package(other).await;
    let named = made(&view)["name"].as_str().unwrap();
    let shot = named.strip_suffix("-for-the-record-v001").unwrap();
    let file = |what: &str| text_in(&package, &what.replace("{}", shot));
    let camera: Value = serde_json::from_str(&file("{}-camera-v001.json")).unwrap();
    let names: Vec<&str> = camera["points"]
        .as_array()
        .unwrap()
        .iter()
        .map(|p| p["name"].as_str().unwrap())
        .collect();
    assert!(names.len() > 20);
    let given = |name: &&str| name.starts_with("nail ") || name.parse::<u32>().is_ok();
    assert!(names.iter().all(given), "{names:?}");
    let scene = file("{}-scene-v001.usda");
    let tracks = file("{}-tracks-v001.csv");
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
    let (server, shot, ..) = prepared(Stage::Solved, data.path(), root.path()).await;
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
    plates::write_trial(&trial, &root.path().join("walk"), Coding::Png).unwrap();
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
    let view = server.deliver(shot, "lens work").await;
    let assumed = made(&view)["receipt"]["assumptions"].to_string();
    assert!(
        assumed.contains("directions, set 100 units away"),
        "{assumed}"
    );
    let package = server.package(shot).await;
    let camera: Value =
        serde_json::from_str(&text_in(&package, "trial-6-camera-v001.json")).unwrap();
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
    let (server, shot, ..) = prepared(Stage::Followed, data.path(), root.path()).await;
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
    let (server, shot, _, view) = prepared(Stage::Solved, data.path(), root.path()).await;
    assert!(view["solve"]["readout_text"].is_null(), "{}", view["solve"]);
    let (_, view) = server.edit(shot, json!({ "readout_ms": 8.0 })).await;
    assert_eq!(view["stale_since"].as_array().unwrap().len(), 1);
    let view = server.work(shot, "solve").await;
    assert_eq!(view["solve"]["readout_text"], "8.0 ms, stated");
    let view = server.work(shot, "deliver").await;
    let assumed = made(&view)["receipt"]["assumptions"].to_string();
    assert!(assumed.contains("rows are read within 8.0 ms"), "{assumed}");
    let (status, told) = server.edit(shot, json!({ "readout_ms": -2.0 })).await;
    assert!(status >= 400, "{told}");
    assert!(told.to_string().contains("between 0 and 200 ms"), "{told}");
    server.end().await;
}

/// Recipes: each remembers its own, the next version says what changed, and none is written over another.
#[actix_web::test]
async fn recipes_are_delivered_again_and_say_what_changed() {
    let (data, root) = (tempfile::tempdir().unwrap(), tempfile::tempdir().unwrap());
    let (server, shot, ..) = prepared(Stage::Solved, data.path(), root.path()).await;
    let (_, view) = server.get(&format!("/api/shots/{shot}")).await;
    let names: Vec<&str> = view["state"]["recipes"]
        .as_array()
        .unwrap()
        .iter()
        .map(|r| r["name"].as_str().unwrap())
        .collect();
    assert_eq!(
        names,
        [
            "3D scene",
            "compositing",
            "lens work",
            "tracks",
            "for the record"
        ]
    );
    for recipe in &names {
        let view = server.deliver(shot, recipe).await;
        assert_eq!(view["jobs"][0]["state"], "done", "{}", view["jobs"]);
        assert_eq!(made(&view)["receipt"]["files_agree"], true);
        assert_eq!(made(&view)["changed"], "");
    }
    let add = json!({ "add": [{
        "name": "layout", "formats": ["usd", "glb", "camera_json"], "folder": "to layout/shots", "first_frame": 1,
        "receiver": { "up": "z", "hand": "left", "unit": "centimetre" }, "guests": true,
    }] });
    let (status, view) = server.things(shot, "recipes", add).await;
    assert_eq!(status, 200, "{view}");
    // As the page changes it: the whole recipe, with what is cleared as empty text.
    let recipe = view["state"]["recipes"][5].clone();
    let changed = |member: &str, value: Value| {
        let mut recipe = recipe.clone();
        recipe[member] = value;
        json!({ "change": [recipe] })
    };
    for (member, value) in [
        ("note", json!("")),
        ("first_frame", Value::Null),
        ("first_frame", json!(1)),
        (
            "receiver",
            json!({ "up": "z", "hand": "left", "unit": "centimetre", "scale": 1 }),
        ),
    ] {
        let deeds = changed(member, value);
        let (status, answer) = server.things(shot, "recipes", deeds).await;
        assert_eq!(status, 200, "{member}: {answer}");
    }
    let view = server.deliver(shot, "layout").await;
    let first = made(&view).clone();
    let folder = first["folder"].as_str().unwrap().to_owned();
    assert!(
        folder.ends_with("to layout/shots/trial-6-layout-v001"),
        "{folder}"
    );
    assert_eq!(first["receipt"]["range"], json!([1, 24]));
    assert_eq!(first["receipt"]["units"], "no scale");
    let scene = std::fs::read_to_string(format!("{folder}/trial-6-scene-v001.usda")).unwrap();
    assert!(scene.contains("metersPerUnit = 0.01") && scene.contains("upAxis = \"Z\""));
    let plate = scene.split("plate:firstFrame = @").nth(1).unwrap();
    let plate = plate.split('@').next().unwrap();
    assert!(
        std::path::Path::new(&folder).join(plate).is_file(),
        "{plate} does not lead to the plate"
    );
    // The world turned round: nothing moves in the picture.
    let (_, camera) = server.get(&format!("/api/shots/{shot}/camera")).await;
    let points = camera["points"].as_array().unwrap();
    assert!(points.len() > 20);
    let number = |k: usize| -> u64 { points[k]["name"].as_str().unwrap()[1..].parse().unwrap() };
    let ground = ground_of(&[number(0), number(5), number(11)]);
    let (status, view) = server.state(shot, &[ground]).await;
    assert_eq!(status, 200, "{view}");
    let rows = view["recipes"].as_array().unwrap();
    let stale = rows.iter().filter(|r| r["made"]["stale"] == true).count();
    assert_eq!(stale, 6, "all rest on the world");
    let view = server.deliver(shot, "layout").await;
    let second = made(&view).clone();
    assert_eq!(second["version"], 2);
    let changed = second["changed"].as_str().unwrap();
    assert!(
        changed.contains("against version 1: the world lies otherwise, the picture stays"),
        "{changed}"
    );
    // Another solve moves it.
    server.edit(shot, json!({ "limit_px": 0.25 })).await;
    server.work(shot, "solve").await;
    let view = server.deliver(shot, "layout").await;
    let third = made(&view).clone();
    assert_eq!(third["version"], 3, "{}", view["jobs"]);
    let changed = third["changed"].as_str().unwrap();
    assert!(changed.starts_with("against version 2: "), "{changed}");
    // Undone, and delivered again: a version is never given twice.
    server
        .post(&format!("/api/shots/{shot}/undo"), json!({}))
        .await;
    let view = server.deliver(shot, "layout").await;
    assert_eq!(made(&view)["version"], 4);
    assert!(
        std::path::Path::new(&folder).is_dir(),
        "the first is still there"
    );
    server.end().await;
}

/// What is no recipe is refused and nothing is changed; a folder that leads out is not written into.
#[actix_web::test]
async fn what_is_no_recipe_is_refused() {
    let (data, root) = (tempfile::tempdir().unwrap(), tempfile::tempdir().unwrap());
    let (server, shot, ..) = prepared(Stage::Solved, data.path(), root.path()).await;
    for wrong in [
        json!({ "name": "", "formats": ["usd"] }),
        json!({ "name": "a", "formats": ["paper"] }),
        json!({ "name": "a", "formats": ["usd"], "receiver": { "scale": -1.0 } }),
        json!({ "name": "a", "formats": ["usd"], "what": 1 }),
    ] {
        let (status, answer) = server
            .things(shot, "recipes", json!({ "add": [wrong] }))
            .await;
        assert!((400..500).contains(&status), "{status} {answer}");
    }
    for folder in ["../out", "/tmp/out", "walk/../../out"] {
        let add = json!({ "add": [{ "name": folder, "formats": ["usd"], "folder": folder }] });
        server.things(shot, "recipes", add).await;
        let view = server.deliver(shot, folder).await;
        assert_eq!(view["jobs"][0]["state"], "failed", "{}", view["jobs"]);
        let said = view["jobs"][0]["message"].as_str().unwrap();
        assert!(said.contains("not below the folder of plates"), "{said}");
        assert!(view["state"]["delivery"].is_null());
    }
    assert!(!root.path().parent().unwrap().join("out").exists());
    let no_format = json!({ "add": [{ "name": "empty", "formats": [] }] });
    server.things(shot, "recipes", no_format).await;
    let view = server.deliver(shot, "empty").await;
    let said = view["jobs"][0]["message"].as_str().unwrap();
    assert!(said.contains("names no format"), "{said}");
    server.end().await;
}

/// Recipes of one shot are taken by another, those it has already left out.
#[actix_web::test]
async fn recipes_come_from_another_shot() {
    let (data, root) = (tempfile::tempdir().unwrap(), tempfile::tempdir().unwrap());
    small_plate(root.path(), 5);
    let (server, shot) = opened(data.path(), root.path()).await;
    let add = json!({ "add": [{ "name": "layout", "formats": ["usd"] }] });
    server.things(shot, "recipes", add).await;
    let (_, other) = server.post("/api/shots", json!({ "folder": "walk" })).await;
    let other = other["shot"].as_i64().unwrap();
    server.settled(other).await;
    let path = format!("/api/shots/{other}/recipes/from/{shot}");
    for _ in 0..2 {
        let (status, view) = server.post(&path, json!({})).await;
        assert_eq!(status, 200, "{view}");
        let all = view["state"]["recipes"].as_array().unwrap();
        assert_eq!(all.len(), 6, "once, however often");
        assert_eq!(all[5]["name"], "layout");
    }
    let (status, _) = server
        .post(&format!("/api/shots/{other}/recipes/from/999"), json!({}))
        .await;
    assert_eq!(status, 404);
    server.end().await;
}

/// The example client takes a plate to a package, and says in the application's words what is refused.
#[actix_web::test]
async fn the_example_client_takes_a_plate_to_a_delivery() {
    let (data, root) = (tempfile::tempdir().unwrap(), tempfile::tempdir().unwrap());
    small_plate(root.path(), 24);
    let server = start(data.path(), root.path()).await;
    let script = std::path::Path::new(env!("CARGO_MANIFEST_DIR")).join("../../examples/client.py");
    let out = root.path().join("package.zip");
    let client = |folder: &str| {
        let mut client = tokio::process::Command::new("python3");
        client
            .arg(&script)
            .arg(format!("http://{}", server.address))
            .args([
                folder,
                "--rate",
                "25",
                "--recipe",
                "for the record",
                "--out",
            ])
            .arg(&out);
        client
    };
    let Ok(told) = client("walk").output().await else {
        eprintln!("LEFT OUT: python3 is not installed, so the example client did not run");
        return;
    };
    let words = String::from_utf8_lossy(&told.stderr);
    assert!(told.status.success(), "{words}");
    let said: Value = serde_json::from_slice(&told.stdout).unwrap();
    assert_eq!(said["files_agree"], true, "{said}");
    let names = parallax_formats::delivery::package::names_zipped(&std::fs::read(&out).unwrap());
    let names = names.unwrap();
    assert!(
        names.iter().any(|n| n.ends_with("camera-v001.json")),
        "{names:?}"
    );
    let told = client("nowhere").output().await.unwrap();
    let words = String::from_utf8_lossy(&told.stderr);
    assert!(
        !told.status.success() && words.contains("refused: "),
        "{words}"
    );
    server.end().await;
}
