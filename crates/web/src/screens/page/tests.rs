//! The page of a shot: what changed since the view that it has, what it hears, what is refused.

use crate::running::{Running, opened, small_plate, start};
use serde_json::{Value, json};
use std::time::Duration;
use tokio::io::{AsyncReadExt, AsyncWriteExt};

/// What stands in a view after changes, as a page applies them (`ui/src/page/changes.js`).
fn applied(mut view: Value, changes: &Value) -> Value {
    for change in changes.as_array().unwrap() {
        let (path, what) = change.as_array().unwrap().split_first().unwrap();
        let (last, before) = path.as_array().unwrap().split_last().unwrap();
        let mut holder = &mut view;
        for step in before {
            holder = match step.as_u64() {
                Some(k) => &mut holder[k as usize],
                None => &mut holder[step.as_str().unwrap()],
            };
        }
        let place = match last.as_u64() {
            Some(k) => &mut holder[k as usize],
            None => &mut holder[last.as_str().unwrap()],
        };
        match what {
            [now] => *place = now.clone(),
            [first, gone, come] => {
                let from = first.as_u64().unwrap() as usize;
                let to = from + gone.as_u64().unwrap() as usize;
                let come = come.as_array().unwrap().clone();
                place.as_array_mut().unwrap().splice(from..to, come);
            }
            other => panic!("no change: {other:?}"),
        }
    }
    view
}

/// Members that are null stand for members that are not there.
fn without_nulls(value: &Value) -> Value {
    match value {
        Value::Object(members) => {
            let there = members.iter().filter(|(_, v)| !v.is_null());
            Value::Object(there.map(|(k, v)| (k.clone(), without_nulls(v))).collect())
        }
        Value::Array(list) => list.iter().map(without_nulls).collect(),
        other => other.clone(),
    }
}

async fn seen(server: &Running, method: &str, path: &str, tag: &str, body: Value) -> Value {
    let head = format!("content-type: application/json\r\nx-seen: {tag}\r\n");
    let body = body.to_string();
    let (status, answer) = server.ask(method, path, &head, body.as_bytes()).await;
    let answer = serde_json::from_slice(&answer).unwrap();
    assert_eq!(status, 200, "{answer}");
    answer
}

#[actix_web::test]
async fn an_edit_answers_what_it_changed() {
    let (data, root) = (tempfile::tempdir().unwrap(), tempfile::tempdir().unwrap());
    small_plate(root.path(), 12);
    let (server, shot) = opened(data.path(), root.path()).await;
    let path = format!("/api/shots/{shot}");
    let (_, before) = server.get(&path).await;
    let tag = before["tag"].as_str().unwrap();
    let edits = format!("{path}/edits");
    let edit =
        json!({ "label": "state the rate", "patch": { "rate": "25" }, "on": before["version"] });
    let answer = seen(&server, "POST", &edits, tag, edit.clone()).await;
    assert_eq!(answer["since"], tag);
    assert!(answer["state"].is_null(), "the whole view was answered");
    let (_, after) = server.get(&path).await;
    let changed = applied(before.clone(), &answer["changes"]);
    let of = |view: &Value| {
        let mut view = without_nulls(view);
        view["tag"] = Value::Null;
        view
    };
    assert_eq!(of(&changed), of(&after));
    assert_eq!(answer["tag"], after["tag"]);

    // Who has a view that is not known, or none, gets all of it.
    let answer = seen(&server, "POST", &edits, "never seen", edit).await;
    assert_eq!(answer["state"]["rate"], "25");
    // Nothing changed: next to nothing is answered.
    let now = after["tag"].as_str().unwrap();
    let answer = seen(&server, "GET", &path, now, json!({})).await;
    assert_eq!(answer["changes"], json!([]));
}

#[actix_web::test]
async fn a_page_hears_what_others_do() {
    let (data, root) = (tempfile::tempdir().unwrap(), tempfile::tempdir().unwrap());
    small_plate(root.path(), 12);
    let (server, shot) = opened(data.path(), root.path()).await;
    let mut stream = tokio::net::TcpStream::connect(&server.address)
        .await
        .unwrap();
    let request = format!(
        "GET /api/shots/{shot}/events HTTP/1.1\r\nhost: {}\r\n\r\n",
        server.address
    );
    stream.write_all(request.as_bytes()).await.unwrap();
    let mut heard = String::new();
    let mut until = async |wanted: &str| {
        let mut bytes = [0; 4096];
        while !heard.contains(wanted) {
            let read = tokio::time::timeout(Duration::from_secs(10), stream.read(&mut bytes));
            let count = read
                .await
                .unwrap_or_else(|_| panic!("{wanted} was not heard"))
                .unwrap();
            assert!(count > 0, "the stream ended: {heard}");
            heard.push_str(&String::from_utf8_lossy(&bytes[..count]));
        }
        heard.clone()
    };
    let first = until("event: shot").await;
    assert!(first.contains("text/event-stream"), "{first}");
    let edit = json!({ "label": "state the rate", "patch": { "rate": "25" } });
    server.post(&format!("/api/shots/{shot}/edits"), edit).await;
    until("\"label\":\"state the rate\"").await;
    server
        .post(
            &format!("/api/shots/{shot}/jobs"),
            json!({ "kind": "track" }),
        )
        .await;
    until("\"running\"").await;
    until("\"done\"").await;
}

#[actix_web::test]
async fn events_of_a_shot_that_is_not_there_are_absent() {
    let (data, root) = (tempfile::tempdir().unwrap(), tempfile::tempdir().unwrap());
    let server = start(data.path(), root.path()).await;
    let (status, _) = server.get("/api/shots/7/events").await;
    assert_eq!(status, 404);
}

#[actix_web::test]
async fn a_range_outside_the_plate_is_refused() {
    let (data, root) = (tempfile::tempdir().unwrap(), tempfile::tempdir().unwrap());
    small_plate(root.path(), 12);
    let (server, shot) = opened(data.path(), root.path()).await;
    for (range, status) in [
        ([2, 9], 200),
        ([0, 9], 422),
        ([2, 13], 422),
        ([90, 99], 422),
    ] {
        let (_, view) = server.get(&format!("/api/shots/{shot}")).await;
        let edit = json!({ "label": "range", "patch": { "range": range }, "on": view["version"] });
        let (got, answer) = server.post(&format!("/api/shots/{shot}/edits"), edit).await;
        assert_eq!(got, status, "{range:?}: {answer}");
    }
}
