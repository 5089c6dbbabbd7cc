//! A shot as a whole: the files that it is, two who change it, its bin, its one server.

use crate::running::{coded, opened, small_plate, start};
use serde_json::{Value, json};
use std::path::Path;

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
    let (status, answer) = server.dropped(&[frames[0], note, frames[1]]).await;
    assert_eq!(
        (status, &answer["left"]),
        (201, &json!(["note.txt"])),
        "{answer}"
    );
    let view = server.settled(answer["shot"].as_i64().unwrap()).await;
    assert_eq!(view["plate"]["count"], 2);
    assert!(view["findings"].to_string().contains("note.txt"));
    let (status, answer) = server
        .dropped(&[("x.1.png", &png), ("x.0001.png", &png)])
        .await;
    assert_eq!(status, 409, "{answer}");
    assert!(
        answer["error"]
            .as_str()
            .unwrap()
            .contains("x.1.png and x.0001.png"),
        "{answer}"
    );
    let (status, answer) = server.dropped(&[note]).await;
    assert_eq!(status, 409, "{answer}");
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
    let (_, answer) = server
        .dropped(&[("a.1.png", &png), ("a.2.png", &png)])
        .await;
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
