//! The viewing copies on disk: which there are, how much room they take, and which go first.
//!
//! All copies together stay within a budget. What was looked at least lately goes first; it is made
//! again when it is wanted, so nothing but time is lost. A plate that is larger than the budget
//! by itself is copied as far as the budget goes.

use std::collections::{BTreeMap, HashMap};
use std::path::{Path, PathBuf};
use std::sync::Mutex;
use std::time::SystemTime;

/// A viewing copy: shot and frame.
type Copy = (i64, i32);

/// What is known of the copies. Ages count up; the smallest was used least lately.
#[derive(Default)]
struct Known {
    copies: HashMap<Copy, Kept>,
    by_age: BTreeMap<u64, Copy>,
    bytes: u64,
    age: u64,
}

struct Kept {
    age: u64,
    bytes: u64,
}

/// The copies below one folder.
pub struct ViewCache {
    folder: PathBuf,
    budget_bytes: u64,
    known: Mutex<Known>,
}

impl ViewCache {
    /// Takes stock of a folder; what was used before the process began is known by when it was written.
    pub fn open(folder: PathBuf, budget_bytes: u64) -> std::io::Result<Self> {
        std::fs::create_dir_all(&folder)?;
        let mut found: Vec<(SystemTime, Copy, u64)> = Vec::new();
        for shot in std::fs::read_dir(&folder)?.filter_map(|e| e.ok()) {
            let Some(id) = shot.file_name().to_str().and_then(|n| n.parse().ok()) else {
                continue;
            };
            for entry in std::fs::read_dir(shot.path())
                .into_iter()
                .flatten()
                .filter_map(|e| e.ok())
            {
                let name = entry.file_name();
                let frame = name
                    .to_str()
                    .and_then(|n| n.strip_suffix(".jpg"))
                    .and_then(|n| n.parse().ok());
                if let (Some(frame), Ok(facts)) = (frame, entry.metadata()) {
                    found.push((
                        facts.modified().unwrap_or(SystemTime::UNIX_EPOCH),
                        (id, frame),
                        facts.len(),
                    ));
                }
            }
        }
        found.sort();
        let mut known = Known::default();
        found
            .into_iter()
            .for_each(|(_, copy, bytes)| known.used(copy, bytes));
        let cache = Self {
            folder,
            budget_bytes,
            known: Mutex::new(known),
        };
        cache.trim();
        Ok(cache)
    }

    /// Where a copy lies, or would.
    pub fn path(&self, (shot, frame): Copy) -> PathBuf {
        self.shot(shot).join(format!("{frame}.jpg"))
    }

    /// The folder of a shot's copies.
    pub fn shot(&self, shot: i64) -> PathBuf {
        self.folder.join(shot.to_string())
    }

    /// How many copies of a shot there are.
    pub fn count(&self, shot: i64) -> usize {
        self.known
            .lock()
            .map_or(0, |k| k.copies.keys().filter(|c| c.0 == shot).count())
    }

    /// Notes that a copy was made or looked at, and lets go of others until all fit.
    pub fn used(&self, copy: Copy) {
        let bytes = std::fs::metadata(self.path(copy)).map_or(0, |m| m.len());
        if let Ok(mut known) = self.known.lock() {
            known.used(copy, bytes);
        }
        self.trim();
    }

    /// Whether one more copy of a shot would only push out another of the same shot.
    pub fn is_full_of(&self, shot: i64) -> bool {
        let Ok(known) = self.known.lock() else {
            return false;
        };
        let own: (u64, u64) = known
            .copies
            .iter()
            .filter(|(c, _)| c.0 == shot)
            .fold((0, 0), |(n, b), (_, k)| (n + 1, b + k.bytes));
        let usual = own.1 / own.0.max(1);
        own.0 > 0 && own.1 + usual > self.budget_bytes
    }

    /// Removes all copies of a shot.
    pub fn forget(&self, shot: i64) {
        if let Ok(mut known) = self.known.lock() {
            let own: Vec<Copy> = known
                .copies
                .keys()
                .filter(|c| c.0 == shot)
                .copied()
                .collect();
            own.into_iter().for_each(|copy| known.forget(copy));
        }
        let folder = self.shot(shot);
        if folder.is_dir()
            && let Err(error) = std::fs::remove_dir_all(&folder)
        {
            tracing::warn!("viewing copies of shot {shot} stay: {error}");
        }
    }

    fn trim(&self) {
        let Ok(mut known) = self.known.lock() else {
            return;
        };
        while known.bytes > self.budget_bytes && known.copies.len() > 1 {
            let Some(copy) = known.oldest() else { return };
            remove(&self.path(copy));
        }
    }
}

fn remove(file: &Path) {
    if let Err(error) = std::fs::remove_file(file) {
        tracing::warn!("a viewing copy cannot be removed: {error}");
    }
}

impl Known {
    fn used(&mut self, copy: Copy, bytes: u64) {
        self.age += 1;
        let age = self.age;
        if let Some(before) = self.copies.insert(copy, Kept { age, bytes }) {
            self.by_age.remove(&before.age);
            self.bytes -= before.bytes;
        }
        self.by_age.insert(age, copy);
        self.bytes += bytes;
    }

    fn forget(&mut self, copy: Copy) {
        if let Some(kept) = self.copies.remove(&copy) {
            self.by_age.remove(&kept.age);
            self.bytes -= kept.bytes;
        }
    }

    /// Forgets the copy that was used least lately.
    fn oldest(&mut self) -> Option<Copy> {
        let (_, copy) = self.by_age.pop_first()?;
        if let Some(kept) = self.copies.remove(&copy) {
            self.bytes -= kept.bytes;
        }
        Some(copy)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn make(cache: &ViewCache, copy: Copy, bytes: usize) {
        std::fs::create_dir_all(cache.shot(copy.0)).unwrap();
        std::fs::write(cache.path(copy), vec![0; bytes]).unwrap();
        cache.used(copy);
    }

    #[test]
    fn what_was_looked_at_least_lately_goes_first() {
        let folder = tempfile::tempdir().unwrap();
        let cache = ViewCache::open(folder.path().join("views"), 350).unwrap();
        for frame in 1..=3 {
            make(&cache, (7, frame), 100);
        }
        cache.used((7, 1));
        make(&cache, (8, 1), 100);
        assert!(
            cache.path((7, 1)).exists()
                && cache.path((7, 3)).exists()
                && cache.path((8, 1)).exists()
        );
        assert!(!cache.path((7, 2)).exists());
        assert_eq!((cache.count(7), cache.count(8)), (2, 1));
    }

    #[test]
    fn a_new_process_keeps_what_fits() {
        let folder = tempfile::tempdir().unwrap();
        let views = folder.path().join("views");
        let cache = ViewCache::open(views.clone(), 1000).unwrap();
        (1..=5).for_each(|frame| make(&cache, (1, frame), 100));
        let again = ViewCache::open(views, 250).unwrap();
        assert_eq!(again.count(1), 2);
        assert_eq!(std::fs::read_dir(again.shot(1)).unwrap().count(), 2);
    }

    #[test]
    fn a_plate_larger_than_the_budget_is_copied_as_far_as_it_goes() {
        let folder = tempfile::tempdir().unwrap();
        let cache = ViewCache::open(folder.path().join("views"), 250).unwrap();
        make(&cache, (1, 1), 100);
        make(&cache, (2, 1), 100);
        assert!(!cache.is_full_of(2));
        make(&cache, (2, 2), 100);
        assert!(cache.is_full_of(2) && !cache.is_full_of(1));
    }
}
