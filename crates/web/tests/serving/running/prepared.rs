//! Shots of the small plate that are followed or solved already: done once in a program of tests and written from memory
//! into the folders of each that wants one.

use super::{FRAMES, Running, TruePoint, opened, small_plate, solved_from_truth, start};
use serde_json::{Value, json};
use std::path::{Path, PathBuf};
use tokio::sync::OnceCell;

/// How far a shot has come.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Stage {
    /// 250 features followed, at 25 frames a second.
    Followed,
    /// These solved.
    Solved,
    /// Solved from what its true camera sees, see [`solved_from_truth`].
    FromTruth,
}

/// What is kept of one.
struct Kept {
    shot: i64,
    /// Files of the data folder by their paths in it.
    files: Vec<(PathBuf, Vec<u8>)>,
    points: Vec<TruePoint>,
}

/// A server with a shot that has come so far, the true points if it was solved from them, and what the page
/// shows of it.
pub async fn prepared(
    stage: Stage,
    data: &Path,
    root: &Path,
) -> (Running, i64, Vec<TruePoint>, Value) {
    static ALL: [OnceCell<Kept>; 3] = [const { OnceCell::const_new() }; 3];
    small_plate(root, FRAMES);
    let kept = ALL[stage as usize].get_or_init(|| prepare(stage)).await;
    for (path, bytes) in &kept.files {
        let path = data.join(path);
        std::fs::create_dir_all(path.parent().unwrap()).unwrap();
        std::fs::write(path, bytes).unwrap();
    }
    let file = format!("sqlite://{}", data.join("project.db").display());
    let pool = sqlx::SqlitePool::connect(&file).await.unwrap();
    let folder = root.join("walk").canonicalize().unwrap();
    sqlx::query("UPDATE shots SET folder = ?")
        .bind(folder.to_str().unwrap())
        .execute(&pool)
        .await
        .unwrap();
    pool.close().await;
    let server = start(data, root).await;
    let (status, view) = server.get(&format!("/api/shots/{}", kept.shot)).await;
    assert_eq!(status, 200, "{view}");
    (server, kept.shot, kept.points.clone(), view)
}

/// Does it.
async fn prepare(stage: Stage) -> Kept {
    let (data, root) = (tempfile::tempdir().unwrap(), tempfile::tempdir().unwrap());
    small_plate(root.path(), FRAMES);
    let (server, shot) = opened(data.path(), root.path()).await;
    let mut points = Vec::new();
    match stage {
        Stage::FromTruth => points = solved_from_truth(&server, shot, FRAMES).await.0,
        Stage::Followed | Stage::Solved => {
            let facts = json!({ "rate": "25", "track": { "count": 250, "pattern_px": 15 } });
            assert_eq!(server.edit(shot, facts).await.0, 200);
            server.work(shot, "track").await;
        }
    }
    if stage == Stage::Solved {
        let view = server.work(shot, "solve").await;
        assert!(view["state"]["attempt"].is_i64(), "{}", view["jobs"]);
    }
    server.end().await;
    let mut files = Vec::new();
    read_all(data.path(), Path::new(""), &mut files);
    Kept {
        shot,
        files,
        points,
    }
}

/// Files below a folder of a folder.
fn read_all(data: &Path, within: &Path, files: &mut Vec<(PathBuf, Vec<u8>)>) {
    for entry in std::fs::read_dir(data.join(within)).unwrap() {
        let entry = entry.unwrap();
        let path = within.join(entry.file_name());
        if entry.file_type().unwrap().is_dir() {
            read_all(data, &path, files);
        } else {
            files.push((path.clone(), std::fs::read(data.join(path)).unwrap()));
        }
    }
}
