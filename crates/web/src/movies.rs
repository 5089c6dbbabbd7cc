//! Movies with guests on disk: one file each, named after the shot and what it was made from.

use std::path::{Path, PathBuf};

/// So many movies of a shot are kept, so that undo leads to one that is still there.
const KEPT: usize = 2;

/// Where movies are, below the data folder.
pub fn folder(data: &Path) -> PathBuf {
    data.join("movies")
}

/// What lies there of a shot.
fn own(data: &Path, shot: i64) -> impl Iterator<Item = PathBuf> {
    let begins = format!("{shot}-");
    let entries = std::fs::read_dir(folder(data))
        .into_iter()
        .flatten()
        .flatten();
    entries
        .filter(move |e| e.file_name().to_string_lossy().starts_with(&begins))
        .map(|e| e.path())
}

/// Finished movies of a shot, the latest last.
pub fn all(data: &Path, shot: i64) -> Vec<PathBuf> {
    let is_whole = |path: &PathBuf| {
        let ending = path.extension().unwrap_or_default();
        let is_part = path.to_string_lossy().contains(".part.");
        (ending == "mp4" || ending == "zip") && !is_part
    };
    let mut whole: Vec<_> = own(data, shot)
        .filter(is_whole)
        .filter_map(|path| Some((path.metadata().ok()?.modified().ok()?, path)))
        .collect();
    whole.sort();
    whole.into_iter().map(|(_, path)| path).collect()
}

/// Removes what a shot's movies left, but for `latest` and the one before. What cannot be removed stays, and is tried
/// again next time.
pub fn clear(data: &Path, shot: i64, latest: &Path) {
    let mut kept: Vec<PathBuf> = all(data, shot);
    kept.retain(|path| path != latest);
    let kept = kept.split_off(kept.len().saturating_sub(KEPT - 1));
    own(data, shot)
        .filter(|path| path != latest && !kept.contains(path))
        .for_each(|path| remove(&path));
}

/// Forgets all movies of a shot.
pub fn forget(data: &Path, shot: i64) {
    own(data, shot).for_each(|path| remove(&path));
}

fn remove(path: &Path) {
    let gone = match path.is_dir() {
        true => std::fs::remove_dir_all(path),
        false => std::fs::remove_file(path),
    };
    if let Err(error) = gone {
        tracing::warn!("{} cannot be removed: {error}", path.display());
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn of_each_shot_the_last_two_are_kept_and_nothing_half_drawn() {
        let data = tempfile::tempdir().unwrap();
        let at = |name: &str| folder(data.path()).join(name);
        std::fs::create_dir_all(at("1-aa.drawn")).unwrap();
        for (age, name) in [
            "1-aa.mp4",
            "1-bb.zip",
            "1-cc.mp4",
            "1-dd.part.mp4",
            "11-aa.mp4",
        ]
        .iter()
        .enumerate()
        {
            std::fs::write(at(name), "x").unwrap();
            let when =
                std::time::SystemTime::UNIX_EPOCH + std::time::Duration::from_secs(60 * age as u64);
            std::fs::File::options()
                .write(true)
                .open(at(name))
                .unwrap()
                .set_modified(when)
                .unwrap();
        }
        assert_eq!(
            all(data.path(), 1),
            [at("1-aa.mp4"), at("1-bb.zip"), at("1-cc.mp4")]
        );
        clear(data.path(), 1, &at("1-cc.mp4"));
        assert_eq!(all(data.path(), 1), [at("1-bb.zip"), at("1-cc.mp4")]);
        assert!(!at("1-aa.drawn").exists() && !at("1-dd.part.mp4").exists());
        forget(data.path(), 1);
        assert!(all(data.path(), 1).is_empty());
        assert!(at("11-aa.mp4").exists(), "another shot's stays");
    }
}
