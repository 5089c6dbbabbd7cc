//! A photograph over the API: taken in, solved while it is laid, kept, delivered.

use crate::running::{Running, made, start};
use parallax_core::spaces::WorldPoint;
use parallax_demo::{plates, reading_room};
use serde_json::{Value, json};

fn px(x: f64, y: f64, z: f64) -> [f64; 2] {
    let take = reading_room::take();
    let px = take
        .lens
        .project(&take.pose(0), &WorldPoint::new(x, y, z))
        .unwrap();
    [px.x, px.y]
}

fn rails() -> Value {
    json!([
        { "axis": "x", "a": px(0.2, 2.0, -3.1), "b": px(2.2, 2.0, -3.1) },
        { "axis": "x", "a": px(-1.5, 0.1, -1.0), "b": px(1.5, 0.1, -1.0) },
        { "axis": "z", "a": px(-2.2, 0.0, -3.0), "b": px(-2.2, 0.0, -0.5) },
        { "axis": "z", "a": px(-2.2, 2.4, -2.8), "b": px(-2.2, 2.4, -0.3) },
    ])
}

async fn room(root: &std::path::Path) -> Running {
    std::fs::create_dir(root.join("room")).unwrap();
    std::fs::copy(
        plates::shipped().join("reading-room/reading-room.0001.jpg"),
        root.join("room/reading room.jpg"),
    )
    .unwrap();
    let running = start(&root.join("data"), root).await;
    let (status, answer) = running
        .post("/api/shots", json!({ "folder": "room" }))
        .await;
    assert_eq!((status, &answer["shot"]), (201, &json!(1)));
    running
}

#[actix_web::test]
async fn bodies_are_kept_and_taken_and_the_receiver_has_its_axes() {
    let root = tempfile::tempdir().unwrap();
    let running = room(root.path()).await;
    let view = running.settled(1).await;
    let said = view["solved"]["findings"].to_string();
    assert!(said.contains("says nothing of its camera"), "{said}");
    let (status, all) = running
        .post(
            "/api/bodies",
            json!({ "name": "Dome A1", "width_mm": 24.0, "height_mm": 20.0 }),
        )
        .await;
    assert_eq!((status, &all["kept"][0]["name"]), (200, &json!("Dome A1")));
    let (status, _) = running
        .post(
            "/api/bodies",
            json!({ "name": "", "width_mm": 24.0, "height_mm": 20.0 }),
        )
        .await;
    assert_eq!(status, 422);
    let (_, view) = running
        .post(
            "/api/shots/1/body",
            json!({ "width_mm": 24.0, "height_mm": 20.0 }),
        )
        .await;
    let back = &view["state"]["film_back"];
    let height_mm = back["height_mm"].as_f64().unwrap();
    assert_eq!(back["width_mm"], 24.0);
    assert!(
        (height_mm - 24.0 * 1333.0 / 2000.0).abs() < 1e-9,
        "{height_mm}"
    );
    assert_eq!(
        running
            .ask("DELETE", "/api/bodies/Dome%20A1", "", b"")
            .await
            .0,
        200
    );
    assert_eq!(running.get("/api/bodies").await.1["kept"], json!([]));

    let patch = json!({ "photo": { "rails": rails() } });
    running.edit(1, patch).await;
    let other = json!({ "add": [{
        "name": "other", "formats": ["camera_json", "usd", "usdz", "gltf", "glb", "camera_csv", "landmarks_ply", "paths_csv"],
        "receiver": { "up": "z", "hand": "left" },
    }] });
    running.things(1, "recipes", other).await;
    let view = running.deliver(1, "other").await;
    assert_eq!(
        made(&view)["receipt"]["files_agree"],
        true,
        "{}",
        view["jobs"]
    );
    assert_eq!(made(&view)["receipt"]["up_axis"], "Z, left-handed");
}

#[actix_web::test]
async fn from_a_picture_without_a_number_to_the_receipt() {
    let root = tempfile::tempdir().unwrap();
    let running = room(root.path()).await;
    let view = running.settled(1).await;
    assert_eq!(view["plate"]["pattern"], "reading room.jpg");
    assert!(
        view["solved"]["error"]
            .as_str()
            .unwrap()
            .contains("two or more rails")
    );

    // Under the pointer: solved, not kept.
    let draft = json!({ "photo": { "rails": rails() } });
    let (status, answer) = running.post("/api/shots/1/photo", draft).await;
    assert_eq!(status, 200);
    assert!(
        (answer["figures"]["focal_px"].as_f64().unwrap() - 1480.0).abs() < 1.0,
        "{answer}"
    );
    assert_eq!(
        running.get("/api/shots/1").await.1["state"]["photo"]["rails"],
        json!([])
    );

    // Kept, placed, delivered.
    let known = json!({ "axis": "y", "from": px(-1.45, 0.0, -3.1), "to": px(-1.45, 2.04, -3.1), "metres": 2.04 });
    let patch = json!({ "photo": { "rails": rails(), "known": known, "corner_box": { "at": null, "size": [0.4, 0.5, -0.3] } } });
    let (status, view) = running.edit(1, patch).await;
    assert_eq!(status, 200, "{view}");
    assert!((view["solved"]["placed"]["camera_height"].as_f64().unwrap() - 1.58).abs() < 0.005);
    running
        .post("/api/shots/1/jobs", json!({ "kind": "deliver" }))
        .await;
    let view = running.settled(1).await;
    assert_eq!(
        made(&view)["receipt"]["files_agree"],
        true,
        "{}",
        view["jobs"]
    );
    assert_eq!(made(&view)["receipt"]["units"], "metre");

    // Undone: the rails are gone, the delivery is stale, nothing is lost.
    running.post("/api/shots/1/undo", json!({})).await;
    running.end().await;
    let again = start(&root.path().join("data"), root.path()).await;
    let (_, view) = again.post("/api/shots/1/redo", json!({})).await;
    assert_eq!(view["state"]["photo"]["rails"].as_array().unwrap().len(), 4);
}

#[actix_web::test]
async fn damage_and_another_file_are_said_of_a_photograph() {
    let root = tempfile::tempdir().unwrap();
    let running = room(root.path()).await;
    running.settled(1).await;
    let (status, _) = running
        .edit(1, json!({ "photo": { "rails": rails() } }))
        .await;
    assert_eq!(status, 200);
    assert_eq!(
        running.get("/api/shots/1").await.1["findings"],
        json!([]),
        "nothing to say of a sound one"
    );
    running.end().await;
    let file = format!("sqlite://{}", root.path().join("data/project.db").display());
    let pool = sqlx::SqlitePool::connect(&file).await.unwrap();
    sqlx::query("UPDATE shots SET state = json_set(state, '$.photo.rails[0].axis', 'w')")
        .execute(&pool)
        .await
        .unwrap();
    pool.close().await;
    let other = image::RgbImage::from_pixel(2000, 1333, image::Rgb([90, 90, 90]));
    other
        .save(root.path().join("room/reading room.jpg"))
        .unwrap();

    let again = start(&root.path().join("data"), root.path()).await;
    let (status, view) = again.get("/api/shots/1").await;
    assert_eq!(status, 200, "{view}");
    let said = view["findings"].to_string();
    assert!(said.contains("Not all that is kept"), "{said}");
    assert!(said.contains("has changed since"), "{said}");
    let (status, answer) = again.edit(1, json!({ "photo": { "rails": [] } })).await;
    assert_eq!(status, 422, "an edit would overwrite it: {answer}");
    let (status, view) = again.post("/api/shots/1", json!({ "do": "mend" })).await;
    assert_eq!(status, 200, "{view}");
    assert!(
        !view["findings"]
            .to_string()
            .contains("Not all that is kept")
    );
    let (status, answer) = again
        .edit(1, json!({ "photo": { "rails": rails() } }))
        .await;
    assert_eq!(status, 200, "{answer}");
    again.end().await;
}

#[actix_web::test]
async fn rails_settle_and_are_offered() {
    let root = tempfile::tempdir().unwrap();
    let running = room(root.path()).await;
    let (a, b) = (px(0.15, 2.282, -2.715), px(2.3, 2.282, -2.715));
    let laid = json!({ "rail": { "axis": "x", "a": [a[0] + 20.0, a[1] + 2.0], "b": [b[0] - 20.0, b[1] - 1.5] } });
    let (status, answer) = running.post("/api/shots/1/photo/settle", laid).await;
    assert_eq!(status, 200, "{answer}");
    assert!(answer["moved_px"].as_f64().unwrap() < 6.0);
    let (status, answer) = running.get("/api/shots/1/photo/suggested").await;
    assert_eq!(status, 200);
    assert!(answer["rails"].as_array().unwrap().len() > 12);
    let far = json!({ "rail": { "axis": "x", "a": [1e300, 0.0], "b": [560.0, 1030.0] } });
    let (status, answer) = running.post("/api/shots/1/photo/settle", far).await;
    assert_eq!(status, 422, "{answer}");
    // The middle of a plain wall has no edge.
    let plain = json!({ "rail": { "axis": "x", "a": [400.0, 1000.0], "b": [560.0, 1030.0] } });
    let (status, answer) = running.post("/api/shots/1/photo/settle", plain).await;
    assert_eq!(status, 409, "{answer}");
    assert!(
        answer["error"]
            .as_str()
            .unwrap()
            .contains("it stays where it is")
    );
}

#[actix_web::test]
async fn what_cannot_be_laid_is_refused_and_nothing_is_lost() {
    let root = tempfile::tempdir().unwrap();
    let running = room(root.path()).await;
    let edit = |patch: Value| json!({ "photo": patch });
    running.edit(1, edit(json!({ "rails": rails() }))).await;
    for bad in [
        json!({ "rails": [{ "axis": "x", "a": [1e12, 0.0], "b": [1.0, 1.0] }] }),
        json!({ "known": { "axis": "y", "from": [1, 1], "to": [2, 2], "metres": -1 } }),
        json!({ "rails": 7 }),
    ] {
        let (status, answer) = running.edit(1, edit(bad)).await;
        assert!((400..500).contains(&status), "{status}");
        assert!(
            answer["error"]
                .as_str()
                .unwrap()
                .contains("Nothing was changed"),
            "{answer}"
        );
    }
    // Kept although it cannot be solved: the sentence says why, the rails are still there.
    let (_, view) = running
        .edit(1, edit(json!({ "origin": [1000.0, 10.0] })))
        .await;
    assert!(
        view["solved"]["place_error"]
            .as_str()
            .unwrap()
            .contains("horizon")
    );
    assert_eq!(view["state"]["photo"]["rails"].as_array().unwrap().len(), 4);
    assert!(view["solved"]["figures"].is_object());
}
