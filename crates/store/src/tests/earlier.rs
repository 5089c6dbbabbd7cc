//! Projects and states as earlier versions of the program left them.

use super::facts;
use crate::tracking::NoteChange;
use crate::{ShotState, Store};
use parallax_core::guest::What;
use parallax_core::spaces::TrackId;
use rstest::rstest;
use serde_json::{Value, json};
use std::path::Path;

/// A project as an earlier version of the program left it: shots, whole-state edits, a run that
/// knows movers only, an attempt whose landmarks have standard errors.
async fn project_of_version(folder: &Path, version: i64) -> Value {
    let options = sqlx::sqlite::SqliteConnectOptions::new()
        .filename(folder.join("project.db"))
        .create_if_missing(true);
    let pool = sqlx::sqlite::SqlitePoolOptions::new()
        .connect_with(options)
        .await
        .unwrap();
    let mut migrator = sqlx::migrate!("./migrations");
    let known = migrator
        .migrations
        .iter()
        .filter(|m| m.version <= version)
        .cloned();
    migrator.migrations = known.collect::<Vec<_>>().into();
    migrator.run(&pool).await.unwrap();
    let mut state = serde_json::to_value(ShotState::new(640, 360)).unwrap();
    state["run"] = json!(1);
    state["attempt"] = json!(1);
    state["delivery"] = json!(1);
    state.as_object_mut().unwrap().remove("recipes");
    if version < 3 {
        state["lens"] = json!({ "k1": -0.1, "k2": 0.02, "k3": 0.0, "p1": 0.0, "p2": 0.0 });
    }
    let mut before = state.clone();
    before["grid_m"] = json!(2.0);
    let identity = json!({ "camera_from_world": { "rotation": [0.0, 0.0, 0.0, 1.0], "translation": [0.0, 0.0, 0.0] } });
    let attempt = json!({
        "lens": {
            "width_px": 640, "height_px": 360, "focal_px": 600.0, "centre": [320.0, 180.0],
            "distortion": {},
        },
        "focal_sigma_px": 2.0, "radial_sigma": null,
        "frames": [{ "frame": 1, "pose": identity, "rms_px": 0.1, "features": 30 }],
        "landmarks": [{
            "track": 1, "point": [1.0, 2.0, -9.0], "sigma": [0.1, 0.2, 0.3], "rms_px": 0.1,
            "residuals_px": [[1, 0.1]], "parallax_deg": 4.0,
        }],
        "set_aside": [], "rms_px": 0.1, "positions": 1, "parallax_deg": 4.0,
        "started_from": [1, 2], "verdict": "good",
    });
    let facts = serde_json::to_string(&facts()).unwrap();
    sqlx::query("INSERT INTO shots (name, folder, sequence, width_px, height_px, state) VALUES ('walk', '/p', ?, 640, 360, ?)")
        .bind(facts).bind(state.to_string()).execute(&pool).await.unwrap();
    sqlx::query(
        "INSERT INTO edits (shot_id, label, before, after) VALUES (1, 'set the grid', ?, ?)",
    )
    .bind(before.to_string())
    .bind(state.to_string())
    .execute(&pool)
    .await
    .unwrap();
    sqlx::query(
        "INSERT INTO track_runs (shot_id, inputs, tracks, movers) VALUES (1, 'in', '[]', '[4]')",
    )
    .execute(&pool)
    .await
    .unwrap();
    sqlx::query("INSERT INTO attempts (shot_id, run_id, label, inputs, rms_px, result) VALUES (1, 1, 'focal solved', 'in', 0.1, ?)")
        .bind(attempt.to_string()).execute(&pool).await.unwrap();
    sqlx::query(
        "INSERT INTO deliveries (shot_id, inputs, receipt, package) VALUES (1, 'in', '{}', x'01')",
    )
    .execute(&pool)
    .await
    .unwrap();
    sqlx::query("INSERT INTO jobs (shot_id, kind, state) VALUES (1, 'track', 'running')")
        .execute(&pool)
        .await
        .unwrap();
    pool.close().await;
    state
}

#[rstest]
#[tokio::test]
async fn projects_of_every_earlier_version_open(#[values(1, 2, 3, 4, 5, 6)] version: i64) {
    let folder = tempfile::tempdir().unwrap();
    project_of_version(folder.path(), version).await;
    let store = Store::open(&folder.path().join("project.db"))
        .await
        .unwrap();
    let shot = &store.shots(false).await.unwrap()[0];
    assert_eq!((shot.damage, shot.state.grid_m), (None, 0.5));
    if version < 3 {
        assert_eq!(
            shot.state.lens.values.terms.k1, -0.1,
            "terms of before lenses had a state"
        );
    }
    let attempt = store.attempt(1).await.unwrap().attempt;
    let sigma = attempt.landmarks[0].covariance.unwrap().sigma();
    assert!(
        (sigma[1] - 0.2).abs() < 1e-12,
        "standard errors became covariances"
    );
    assert_eq!(store.attempts(shot.id).await.unwrap()[0].number, 1);
    assert_eq!(
        store.track_run(1).await.unwrap().suspects[0].track,
        TrackId(4)
    );
    let delivered = store.delivered(shot.id, &shot.state).await.unwrap();
    assert_eq!(
        delivered[&1].id, 1,
        "a delivery of before there were recipes is the first one's"
    );
    assert_eq!(store.package(shot.id, 1).await.unwrap(), [1]);
    assert_eq!(store.requeue_interrupted().await.unwrap(), 1);
    // Undo of an edit that kept whole states, then one of ours on top of it.
    assert_eq!(
        store.undo(shot.id).await.unwrap().as_deref(),
        Some("set the grid")
    );
    assert_eq!(store.shot(shot.id).await.unwrap().state.grid_m, 2.0);
    store.redo(shot.id).await.unwrap();
    let change = NoteChange {
        name: Some("nail".to_owned()),
        ..NoteChange::default()
    };
    store
        .edit(shot.id, "name", |s| s.noted(&[3], &change))
        .await
        .unwrap();
    store.undo(shot.id).await.unwrap();
    store.undo(shot.id).await.unwrap();
    assert_eq!(store.shot(shot.id).await.unwrap().state.grid_m, 2.0);
}

/// A box of a shot of before there were guests stands where it stood, as a guest.
#[test]
fn old_boxes_are_guests() {
    let mut kept = serde_json::to_value(ShotState::new(640, 360)).unwrap();
    assert!(kept.get("stand_ins").is_none(), "none is written");
    kept["stand_ins"] = json!([
        { "id": 4, "name": "crate", "at": 7, "size_m": [0.5, 1.0, 0.25], "turn_deg": 30.0 },
    ]);
    kept.as_object_mut().unwrap().remove("guests");
    let state: ShotState = serde_json::from_value(kept).unwrap();
    let guest = &state.guests[0];
    assert_eq!((guest.name.as_str(), guest.at), ("crate", Some(TrackId(7))));
    let size_m = [0.5, 1.0, 0.25];
    assert_eq!(guest.what, What::Box { size_m });
    assert_eq!(guest.lie.turn_deg, [30.0, 0.0, 0.0]);
}

/// A shot of before there were recipes has the usual ones, for the receiver that it stated.
#[test]
fn an_old_receiver_is_that_of_the_recipes() {
    let mut kept = serde_json::to_value(ShotState::new(640, 360)).unwrap();
    assert!(kept.get("receiver").is_none(), "none is written");
    kept.as_object_mut().unwrap().remove("recipes");
    kept["receiver"] = json!({ "up": "z", "hand": "left" });
    let state: ShotState = serde_json::from_value(kept).unwrap();
    assert_eq!(state.recipes.len(), 5);
    let axes = state.recipes.iter().map(|r| r.receiver.axes());
    assert!(axes.into_iter().all(|a| a == "Z, left-handed"));
    let again: ShotState = serde_json::from_value(serde_json::to_value(&state).unwrap()).unwrap();
    assert_eq!(again, state);
}
