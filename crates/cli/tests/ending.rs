//! The application ends when it is told to, also while it works, and its work goes on at the next
//! start.
#![allow(clippy::unwrap_used)]

use parallax_demo::plates::{self, Coding};
use parallax_demo::trial::Trial;
use parallax_store::Store;
use parallax_store::jobs::{JobKind, JobState};
use std::io::{BufRead, BufReader};
use std::path::Path;
use std::process::{Child, Command, Stdio};

fn serving(data: &Path, plates: &Path) -> (Child, String) {
    let mut child = Command::new(env!("CARGO_BIN_EXE_true-parallax"))
        .args(["serve", "--port", "0", "--data", data.to_str().unwrap()])
        .args(["--plates", plates.to_str().unwrap()])
        .stdout(Stdio::piped())
        .stderr(Stdio::null())
        .spawn()
        .unwrap();
    let mut line = String::new();
    BufReader::new(child.stdout.take().unwrap())
        .read_line(&mut line)
        .unwrap();
    let address = line.rsplit("http://").next().unwrap().trim().to_owned();
    (child, address)
}

async fn asked(address: &str, method: &str, path: &str, body: &str) -> String {
    use tokio::io::{AsyncReadExt, AsyncWriteExt};
    let mut stream = tokio::net::TcpStream::connect(address).await.unwrap();
    let text = format!(
        "{method} {path} HTTP/1.1\r\nhost: {address}\r\nconnection: close\r\ncontent-type: application/json\r\ncontent-length: {}\r\n\r\n{body}",
        body.len()
    );
    stream.write_all(text.as_bytes()).await.unwrap();
    let mut answer = Vec::new();
    stream.read_to_end(&mut answer).await.unwrap();
    String::from_utf8_lossy(&answer).into_owned()
}

#[tokio::test(flavor = "multi_thread")]
async fn it_ends_while_it_works_and_the_work_goes_on() {
    let (data, root) = (tempfile::tempdir().unwrap(), tempfile::tempdir().unwrap());
    let trial = Trial {
        width_px: 640,
        height_px: 360,
        frame_count: 30,
        rays: 1,
        ..Trial::new(8)
    };
    plates::write(
        &trial.take(),
        &root.path().join("walk"),
        Coding::Png,
        |_| {},
    )
    .unwrap();
    let (mut child, address) = serving(data.path(), root.path());
    asked(&address, "POST", "/api/shots", r#"{"folder": "walk"}"#).await;
    asked(
        &address,
        "POST",
        "/api/shots/1/jobs",
        r#"{"kind": "track"}"#,
    )
    .await;
    while !asked(&address, "GET", "/api/shots/1", "")
        .await
        .contains("follow")
    {
        tokio::task::yield_now().await;
    }
    let ended = Command::new("kill")
        .args(["-TERM", &child.id().to_string()])
        .status()
        .unwrap();
    assert!(ended.success());
    assert!(child.wait().unwrap().success(), "it ends in good order");
    // Nothing is running without a worker, and no death was counted.
    let store = Store::open(&data.path().join("project.db")).await.unwrap();
    let jobs = store.jobs(1).await.unwrap();
    assert!(
        jobs.iter().all(|j| j.state != JobState::Running),
        "{jobs:?}"
    );
    let track = jobs.iter().find(|j| j.kind == JobKind::Track).unwrap();
    assert!(
        matches!(track.state, JobState::Queued | JobState::Done),
        "{track:?}"
    );
    drop(store);

    let (mut child, address) = serving(data.path(), root.path());
    loop {
        let view = asked(&address, "GET", "/api/shots/1", "").await;
        if view.contains("features followed") {
            break;
        }
        assert!(!view.contains(r#""state":"failed""#), "{view}");
        tokio::task::yield_now().await;
    }
    let left = std::fs::read_dir(data.path().join("underway"));
    assert_eq!(
        left.map_or(0, Iterator::count),
        0,
        "what is done leaves nothing"
    );
    child.kill().unwrap();
    child.wait().unwrap();
}
