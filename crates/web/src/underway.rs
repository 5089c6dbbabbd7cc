//! What interrupted work left on disk, so that it goes on where it was.
//!
//! One file for each shot and kind of work, below the data folder: the fingerprint of what the
//! work was about, then what it needs to go on, as CBOR (RFC 8949). It is written beside and put
//! in place whole, every half minute and when the work is stopped, and removed when the work is
//! done. A file of other inputs, or one that cannot be read, is as good as none.

use parallax_core::progress::Checkpoints;
use serde::Serialize;
use serde::de::DeserializeOwned;
use std::fs::File;
use std::io::{self, BufReader, BufWriter, Read, Write};
use std::path::{Path, PathBuf};
use std::sync::{Mutex, PoisonError};
use std::time::{Duration, Instant};

/// How often something is left: so much work may have to be done again after a sudden end.
const EVERY: Duration = Duration::from_secs(30);

/// The place of one piece of work.
pub struct OnDisk {
    file: PathBuf,
    inputs: String,
    last: Mutex<Instant>,
}

/// Where the work of all shots is left.
pub fn folder(data: &Path) -> PathBuf {
    data.join("underway")
}

/// Forgets what was left of all work on a shot.
pub fn forget(data: &Path, shot: i64) {
    for kind in ["track", "solve"] {
        // What is not there need not be removed; what cannot be removed is overwritten by the next.
        let _ = std::fs::remove_file(file(data, shot, kind));
    }
}

fn file(data: &Path, shot: i64, kind: &str) -> PathBuf {
    folder(data).join(format!("{shot}-{kind}"))
}

impl OnDisk {
    /// Of a kind of work on a shot, and the fingerprint of all that its result depends on.
    pub fn new(data: &Path, shot: i64, kind: &str, inputs: String) -> Self {
        Self {
            file: file(data, shot, kind),
            // What another version computes may be something else.
            inputs: format!("{} {inputs}\n", env!("CARGO_PKG_VERSION")),
            last: Mutex::new(Instant::now()),
        }
    }

    /// The work is done.
    pub fn done(&self) {
        let _ = std::fs::remove_file(&self.file);
    }

    fn read<T: DeserializeOwned>(&self) -> Option<T> {
        let mut from = BufReader::new(File::open(&self.file).ok()?);
        let mut inputs = vec![0; self.inputs.len()];
        from.read_exact(&mut inputs).ok()?;
        (inputs == self.inputs.as_bytes()).then_some(())?;
        ciborium::from_reader(from).ok()
    }

    fn write<T: Serialize>(&self, underway: &T) -> io::Result<()> {
        if let Some(folder) = self.file.parent() {
            std::fs::create_dir_all(folder)?;
        }
        let beside = self.file.with_extension("new");
        let mut to = BufWriter::new(File::create(&beside)?);
        to.write_all(self.inputs.as_bytes())?;
        ciborium::into_writer(underway, &mut to).map_err(io::Error::other)?;
        to.into_inner().map_err(io::Error::other)?;
        std::fs::rename(beside, &self.file)
    }
}

impl<T: Serialize + DeserializeOwned> Checkpoints<T> for OnDisk {
    fn left(&self) -> Option<T> {
        self.read()
    }

    fn is_due(&self) -> bool {
        let last = self.last.lock().unwrap_or_else(PoisonError::into_inner);
        last.elapsed() >= EVERY
    }

    fn leave(&self, underway: &T) {
        if let Err(error) = self.write(underway) {
            tracing::warn!("work could not be left so that it can go on: {error}");
        }
        *self.last.lock().unwrap_or_else(PoisonError::into_inner) = Instant::now();
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    fn place(data: &Path, inputs: &str) -> OnDisk {
        OnDisk::new(data, 7, "track", inputs.to_owned())
    }

    #[test]
    fn what_was_left_is_found_by_the_same_work_only() {
        let data = tempfile::tempdir().unwrap();
        let left = vec![(0.1f32, Some("a".to_owned())), (f32::MIN_POSITIVE, None)];
        place(data.path(), "plate, options").leave(&left);
        let found =
            |inputs| -> Option<Vec<(f32, Option<String>)>> { place(data.path(), inputs).left() };
        assert_eq!(found("plate, options"), Some(left));
        assert!(found("plate, other options").is_none());
        assert!(found("plate").is_none());
        forget(data.path(), 7);
        assert!(found("plate, options").is_none());
    }

    #[rstest]
    #[case::cut_off(12)]
    #[case::empty(0)]
    fn what_is_damaged_is_as_good_as_none(#[case] bytes: usize) {
        let data = tempfile::tempdir().unwrap();
        let place = place(data.path(), "x");
        place.leave(&vec![1u32; 400]);
        let text = std::fs::read(&place.file).unwrap();
        std::fs::write(&place.file, &text[..bytes]).unwrap();
        let left: Option<Vec<u32>> = place.left();
        assert!(left.is_none());
    }
}
