//! The command line and the application come to the same camera, bit by bit.
#![allow(clippy::unwrap_used)]

use parallax_demo::plates::{self, Coding};
use parallax_demo::trial::Trial;
use parallax_formats::delivery::unzipped;
use parallax_store::jobs::{JobKind, JobState};
use parallax_web::{App, Config};
use std::path::Path;
use std::process::Command;
use std::sync::Arc;

/// The application, without a page, until its queue is empty.
async fn application(data: &Path, plates: &Path) -> Arc<App> {
    let config = Config {
        host: "127.0.0.1".to_owned(),
        port: 0,
        data: data.to_owned(),
        plates: Some(plates.to_owned()),
        demo: vec![("walk".to_owned(), plates.join("walk"))],
        lenses: Vec::new(),
        models: Vec::new(),
        view_bytes: parallax_web::USUAL_VIEW_BYTES,
    };
    let (server, _, app) = parallax_web::start(config).await.unwrap();
    tokio::spawn(server);
    app
}

async fn done(app: &App, shot: i64, kind: JobKind) {
    app.store.add_job(shot, kind).await.unwrap();
    app.wake.notify_waiters();
    let waits = |state| matches!(state, JobState::Queued | JobState::Running);
    while app
        .store
        .jobs(shot)
        .await
        .unwrap()
        .iter()
        .any(|j| waits(j.state))
    {
        tokio::task::yield_now().await;
    }
    let jobs = app.store.jobs(shot).await.unwrap();
    assert_eq!(jobs[0].state, JobState::Done, "{}", jobs[0].message);
}

#[tokio::test(flavor = "multi_thread")]
async fn the_command_line_and_the_page_deliver_the_same_camera() {
    let (data, root) = (tempfile::tempdir().unwrap(), tempfile::tempdir().unwrap());
    let folder = root.path().join("walk");
    plates::write(&Trial::small(24).take(), &folder, Coding::Png, |_| {}).unwrap();
    let out = root.path().join("out");
    let told = Command::new(env!("CARGO_BIN_EXE_true-parallax"))
        .args(["match", folder.to_str().unwrap(), "--rate", "24000/1001"])
        .args(["--film-back", "36x20.25", "--out", out.to_str().unwrap()])
        .output()
        .unwrap();
    assert!(
        told.status.success(),
        "{}",
        String::from_utf8_lossy(&told.stderr)
    );

    let app = application(data.path(), root.path()).await;
    let shot = app.store.shots(false).await.unwrap()[0].id;
    for kind in [JobKind::Track, JobKind::Solve, JobKind::Deliver] {
        done(&app, shot, kind).await;
    }
    let delivery = app.store.shot(shot).await.unwrap().state.delivery.unwrap();
    let package = app.store.package(shot, delivery).await.unwrap();
    for file in ["camera.json", "scene.usda", "tracks.csv", "receipt.json"] {
        let of_page = unzipped(&package, file).unwrap();
        let of_line = std::fs::read_to_string(out.join(file)).unwrap();
        assert!(
            of_page == of_line,
            "{file} differs between page and command line"
        );
    }
}
