//! The API as a program meets it: a real server on a free port, a plate on disk.

use crate::running::{made, small_plate, start, text_in};
use parallax_store::Store;
use parallax_store::jobs::{Class, JobKind};
use serde_json::{Value, json};

#[actix_web::test]
async fn from_a_folder_to_a_proven_delivery_with_undo_and_restart() {
    let (data, root) = (tempfile::tempdir().unwrap(), tempfile::tempdir().unwrap());
    small_plate(root.path(), 24);
    let server = start(data.path(), root.path()).await;

    let (status, outside) = server.post("/api/shots", json!({ "folder": "../" })).await;
    assert_eq!(status, 403, "{outside}");
    let (status, opened) = server.post("/api/shots", json!({ "folder": "walk" })).await;
    assert_eq!(status, 201, "{opened}");
    let shot = opened["shot"].as_i64().unwrap();
    let view = server.settled(shot).await;
    assert_eq!(view["facts"]["rate"], "unknown", "a rate is never guessed");
    let (status, picture) = server
        .ask("GET", &format!("/api/shots/{shot}/frames/1"), "", b"")
        .await;
    assert_eq!((status, &picture[..2]), (200, &[0xff, 0xd8][..]));

    let edit = |patch: Value| json!({ "label": "test", "patch": patch });
    let (status, refused) = server
        .post(
            &format!("/api/shots/{shot}/edits"),
            edit(json!({ "rate": "0/0" })),
        )
        .await;
    assert_eq!(status, 422, "{refused}");
    let controls = json!({ "rate": "25", "track": { "count": 250, "pattern_px": 15 } });
    let (status, _) = server
        .post(&format!("/api/shots/{shot}/edits"), edit(controls))
        .await;
    assert_eq!(status, 200);
    server
        .post(
            &format!("/api/shots/{shot}/jobs"),
            json!({ "kind": "track" }),
        )
        .await;
    let view = server.settled(shot).await;
    assert!(view["state"]["run"].is_i64(), "{}", view["jobs"]);
    server
        .post(
            &format!("/api/shots/{shot}/jobs"),
            json!({ "kind": "solve" }),
        )
        .await;
    let view = server.settled(shot).await;
    assert!(view["state"]["attempt"].is_i64(), "{}", view["jobs"]);

    let (_, culled) = server
        .post(
            &format!("/api/shots/{shot}/cull"),
            json!({ "aside": [1, 2] }),
        )
        .await;
    assert_eq!(culled["state"]["culled"], json!([1, 2]));
    assert_eq!(
        culled["stations"][3]["standing"], "stale",
        "a stale solve is never used silently"
    );
    let (_, undone) = server
        .post(&format!("/api/shots/{shot}/undo"), json!({}))
        .await;
    assert_eq!(undone["state"]["culled"], json!([]));
    assert_eq!(undone["history"]["redo"], "set aside 2 tracks");
    assert_ne!(undone["stations"][3]["standing"], "stale");

    server
        .post(
            &format!("/api/shots/{shot}/jobs"),
            json!({ "kind": "deliver" }),
        )
        .await;
    let view = server.settled(shot).await;
    assert_eq!(
        made(&view)["receipt"]["files_agree"],
        true,
        "{}",
        view["jobs"]
    );
    assert_eq!(made(&view)["receipt"]["rate"], "25");
    let delivery = view["state"]["delivery"].as_i64().unwrap();
    let (status, package) = server
        .ask(
            "GET",
            &format!("/api/shots/{shot}/deliveries/{delivery}"),
            "",
            b"",
        )
        .await;
    assert_eq!(status, 200);
    let name = view["name"].as_str().unwrap();
    let receipt = text_in(&package, &format!("{name}-receipt-v001.json"));
    assert!(receipt.contains("\"files_agree\": true"));

    server.end().await;
    let again = start(data.path(), root.path()).await;
    let (_, after) = again.get(&format!("/api/shots/{shot}")).await;
    assert_eq!(
        after["state"], view["state"],
        "everything survives a restart"
    );
    assert_eq!(after["history"]["undo"], "deliver");
    again.handle.stop(true).await;
}

#[actix_web::test]
async fn work_that_was_cut_off_begins_again() {
    let (data, root) = (tempfile::tempdir().unwrap(), tempfile::tempdir().unwrap());
    small_plate(root.path(), 24);
    let server = start(data.path(), root.path()).await;
    let (_, opened) = server.post("/api/shots", json!({ "folder": "walk" })).await;
    let shot = opened["shot"].as_i64().unwrap();
    server.settled(shot).await;
    server.end().await;
    // As a process leaves the queue that is killed in the middle of tracking.
    let store = Store::open(&data.path().join("project.db")).await.unwrap();
    let job = store.add_job(shot, JobKind::Track).await.unwrap();
    let taken = store.take_job(Class::Long).await.unwrap().unwrap();
    assert_eq!(Some(taken.id), job);
    let again = start(data.path(), root.path()).await;
    let view = again.settled(shot).await;
    assert!(view["state"]["run"].is_i64(), "{}", view["jobs"]);
    let message = view["jobs"][0]["message"].as_str().unwrap();
    assert!(message.contains("begun again"), "{message}");
    again.handle.stop(false).await;
}

#[actix_web::test]
async fn foreign_requests_and_bad_drops_are_refused() {
    let (data, root) = (tempfile::tempdir().unwrap(), tempfile::tempdir().unwrap());
    let server = start(data.path(), root.path()).await;
    let foreign = "origin: http://elsewhere.example\r\ncontent-type: application/json\r\n";
    assert_eq!(
        server.ask("POST", "/api/shots", foreign, b"{}").await.0,
        403
    );
    let boundary = "content-type: multipart/form-data; boundary=x\r\n";
    let body = b"--x\r\ncontent-disposition: form-data; name=\"files\"; filename=\"a.0001.png\"\r\n\r\nno picture\r\n--x--\r\n";
    let (status, answer) = server.ask("POST", "/api/uploads", boundary, body).await;
    assert_eq!(status, 422, "{}", String::from_utf8_lossy(&answer));
    assert!(String::from_utf8_lossy(&answer).contains("a.0001.png is not a readable picture"));
    assert_eq!(
        std::fs::read_dir(data.path().join("uploads"))
            .unwrap()
            .count(),
        0,
        "nothing is left behind"
    );
    assert_eq!(server.get("/api/shots/99").await.0, 404);
    assert_eq!(server.get("/assets/../Cargo.toml").await.0, 404);
    server.handle.stop(false).await;
}

/// Both ways: what is served is documented, and what is documented is served.
#[test]
fn every_route_is_documented_and_every_documented_one_is_served() {
    let text = include_str!("../../../../docs/api.md");
    let rows = text
        .lines()
        .filter_map(|line| line.strip_prefix("| `")?.split_once('`'));
    let documented: Vec<(&str, &str)> = rows
        .filter_map(|(route, _)| route.split_once(' '))
        .filter(|r| r.1.starts_with('/'))
        .collect();
    let served: Vec<(&str, &str)> = parallax_web::screens::routes()
        .iter()
        .map(|r| (r.method, r.path))
        .collect();
    for route in &served {
        assert!(documented.contains(route), "docs/api.md lacks {route:?}");
    }
    for route in documented {
        assert!(served.contains(&route), "{route:?} is not served");
    }
}

/// The list of routes is what the server answers: none of them is an address with nothing at it.
#[actix_web::test]
async fn every_listed_route_is_served() {
    let (data, root) = (tempfile::tempdir().unwrap(), tempfile::tempdir().unwrap());
    let server = start(data.path(), root.path()).await;
    for route in parallax_web::screens::routes() {
        let (method, path) = (route.method, route.path);
        let path = [
            "shot",
            "job",
            "frame",
            "track",
            "delivery",
            "undistorted",
            "lens",
            "attempt",
            "model",
            "other",
        ]
        .iter()
        .fold(path.to_owned(), |p, name| {
            p.replace(&format!("{{{name}}}"), "7")
        })
        .replace("{name}", "a")
        .replace("{file}", "a");
        let (status, body) = server
            .ask(method, &path, "content-type: application/json\r\n", b"{}")
            .await;
        let said = String::from_utf8_lossy(&body).into_owned();
        assert!(
            !said.contains("nothing at this address"),
            "{method} {path}: {said}"
        );
        assert_ne!(status, 405, "{method} {path}");
        assert!(status < 500, "{method} {path}: {status} {said}");
    }
    server.end().await;
}

/// The bodies that the description shows are such as it describes: none is refused for its shape.
#[actix_web::test]
async fn the_examples_of_the_description_are_as_described() {
    let (data, root) = (tempfile::tempdir().unwrap(), tempfile::tempdir().unwrap());
    small_plate(root.path(), 3);
    let (server, shot) = crate::running::opened(data.path(), root.path()).await;
    let (status, document) = server.get("/api/openapi.json").await;
    assert_eq!((status, &document["openapi"]), (200, &json!("3.1.0")));
    let mut tried = 0;
    for (path, methods) in document["paths"].as_object().unwrap() {
        let body = &methods["post"]["requestBody"]["content"]["application/json"]["example"];
        if body.is_null() {
            continue;
        }
        let path = path
            .replace("{shot}", &shot.to_string())
            .replace("{attempt}", "1");
        let (status, answer) = server.post(&path, body.clone()).await;
        assert_ne!(status, 400, "{path} does not take {body}: {answer}");
        tried += 1;
    }
    assert!(tried >= 10, "{tried} examples");
    server.end().await;
}
