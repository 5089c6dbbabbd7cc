//! The command line and the application come to the same camera, bit by bit.
#![allow(clippy::unwrap_used)]

use parallax_demo::plates::{self, Coding};
use parallax_demo::trial::Trial;
use parallax_formats::delivery::{Recipe, unzipped};
use parallax_store::ShotState;
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

async fn done(app: &App, shot: i64, kind: JobKind, about: u32) {
    let added = app.store.add_job_about(shot, kind, about).await;
    added.unwrap();
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
        .args(["--recipe", "for the record"])
        .output()
        .unwrap();
    assert!(
        told.status.success(),
        "{}",
        String::from_utf8_lossy(&told.stderr)
    );

    let app = application(data.path(), root.path()).await;
    let shot = app.store.shots(false).await.unwrap()[0].id;
    for kind in [JobKind::Track, JobKind::Solve] {
        done(&app, shot, kind, 0).await;
    }
    // Into a folder beside that of the command line, so that both name the plate alike.
    let into_folder = |state: &ShotState| {
        let own = state.recipes.plain().into_iter();
        let recipes = own.map(|recipe| Recipe {
            folder: "page".to_owned(),
            ..recipe
        });
        Ok(ShotState {
            recipes: recipes.collect(),
            ..state.clone()
        })
    };
    app.store.edit(shot, "folder", into_folder).await.unwrap();
    let recipes = app.store.shot(shot).await.unwrap().state.recipes;
    let record = recipes.iter().find(|r| r.name == "for the record").unwrap();
    done(&app, shot, JobKind::Deliver, record.id).await;
    let delivery = app.store.shot(shot).await.unwrap().state.delivery.unwrap();
    let package = app.store.package(shot, delivery).await.unwrap();
    let out = out.join("walk-for-the-record-v001");
    for file in [
        "walk-camera-v001.json",
        "walk-camera-v001.csv",
        "walk-scene-v001.usda",
        "walk-tracks-v001.csv",
        "walk-receipt-v001.json",
    ] {
        let of_page = unzipped(&package, file).unwrap();
        let of_line = std::fs::read(out.join(file)).unwrap();
        assert!(
            of_page == of_line,
            "{file} differs between page and command line"
        );
    }
}
