//! Is a plate still the files that it was when it was taken in?
//!
//! A pin holds name, size, time and a checksum of the beginning of every file, and of some frames
//! the checksum of all of it. A folder may get more files, others of the same names, or lose some;
//! the plate of a shot stays the pinned files, and what differs is said. Size and time are looked
//! at first; only files in which they differ are read.

use crate::{MediaError, Sequence};
use parallax_core::spaces::FrameNumber;
use rayon::prelude::*;
use serde::{Deserialize, Serialize};
use sha2::{Digest, Sha256};
use std::collections::HashSet;
use std::io::Read;
use std::path::{Path, PathBuf};
use std::time::UNIX_EPOCH;

/// One file of a plate.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct PinnedFile {
    /// Its frame.
    pub frame: i32,
    /// Its name in the folder.
    pub name: String,
    /// Its size, bytes.
    pub bytes: u64,
    /// When it was written, milliseconds since 1970.
    pub modified_ms: i64,
    /// Checksum of its beginning, of some frames of all of it, hexadecimal.
    pub checksum: String,
}

/// All files of a plate.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct Pin {
    /// Files, ascending by frame.
    pub files: Vec<PinnedFile>,
}

/// In what a folder differs from what was pinned: frames.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize)]
pub struct Differences {
    /// Pinned files that are not there.
    pub missing: Vec<i32>,
    /// Pinned files that hold something else.
    pub changed: Vec<i32>,
    /// Files of the same sequence that were not there.
    pub added: Vec<i32>,
}

impl Differences {
    /// Whether the folder is as it was.
    pub fn is_none(&self) -> bool {
        self.missing.is_empty() && self.changed.is_empty() && self.added.is_empty()
    }
}

/// So much of a file's beginning holds its header, bytes.
const HEAD: u64 = 4096;

impl Pin {
    /// Of all files of a sequence as they are now.
    pub fn of(sequence: &Sequence) -> Result<Self, MediaError> {
        let last = sequence.files.len().saturating_sub(1);
        let whole = [0, last / 2, last];
        let pin = |(k, (frame, path)): (usize, &(FrameNumber, PathBuf))| {
            pinned(*frame, path, whole.contains(&k))
        };
        let files = sequence
            .files
            .par_iter()
            .enumerate()
            .map(pin)
            .collect::<Result<_, _>>()?;
        Ok(Self { files })
    }

    /// The frames with their paths below the plate's folder.
    pub fn paths(&self, folder: &Path) -> Vec<(FrameNumber, PathBuf)> {
        let path = |f: &PinnedFile| (FrameNumber(f.frame), folder.join(&f.name));
        self.files.iter().map(path).collect()
    }

    /// What tells this plate from others: a checksum over all that is pinned but times.
    pub fn fingerprint(&self) -> String {
        let mut hash = Sha256::new();
        for f in &self.files {
            hash.update(format!(
                "{} {} {} {}\n",
                f.frame, f.name, f.bytes, f.checksum
            ));
        }
        hexadecimal(&hash.finalize())[..16].to_owned()
    }

    /// In what the folder differs now.
    pub fn differences(&self, folder: &Path) -> Differences {
        let last = self.files.len().saturating_sub(1);
        let whole = [0, last / 2, last];
        let now: Vec<Option<bool>> = self
            .files
            .par_iter()
            .enumerate()
            .map(|(k, f)| is_same(f, &folder.join(&f.name), whole.contains(&k)))
            .collect();
        let frames = |wanted: Option<bool>| {
            let found = self
                .files
                .iter()
                .zip(&now)
                .filter(|(_, now)| **now == wanted);
            found.map(|(f, _)| f.frame).collect()
        };
        let known: HashSet<i32> = self.files.iter().map(|f| f.frame).collect();
        let there = Sequence::find(folder).ok().filter(|s| {
            // Another sequence may have become the longest; it is no addition to this one.
            self.files
                .iter()
                .any(|f| s.files.iter().any(|(_, p)| p.ends_with(&f.name)))
        });
        let added = there
            .into_iter()
            .flat_map(|s| s.files)
            .map(|(frame, _)| frame.0);
        Differences {
            missing: frames(None),
            changed: frames(Some(false)),
            added: added.filter(|frame| !known.contains(frame)).collect(),
        }
    }
}

fn hexadecimal(bytes: &[u8]) -> String {
    bytes.iter().map(|b| format!("{b:02x}")).collect()
}

fn modified_ms(about: &std::fs::Metadata) -> i64 {
    let since = about
        .modified()
        .ok()
        .and_then(|t| t.duration_since(UNIX_EPOCH).ok());
    since
        .and_then(|d| i64::try_from(d.as_millis()).ok())
        .unwrap_or(0)
}

fn checksum(path: &Path, whole: bool) -> std::io::Result<String> {
    let mut file = std::fs::File::open(path)?.take(if whole { u64::MAX } else { HEAD });
    let mut hash = Sha256::new();
    let mut part = vec![0; 64 << 10];
    loop {
        let count = file.read(&mut part)?;
        if count == 0 {
            break;
        }
        hash.update(&part[..count]);
    }
    Ok(hexadecimal(&hash.finalize())[..16].to_owned())
}

fn pinned(frame: FrameNumber, path: &Path, whole: bool) -> Result<PinnedFile, MediaError> {
    let name = path
        .file_name()
        .map(|n| n.to_string_lossy().into_owned())
        .unwrap_or_default();
    let unreadable = |e: std::io::Error| MediaError::NotAPicture {
        file: name.clone(),
        reason: e.to_string(),
    };
    let about = std::fs::metadata(path).map_err(unreadable)?;
    Ok(PinnedFile {
        frame: frame.0,
        bytes: about.len(),
        modified_ms: modified_ms(&about),
        checksum: checksum(path, whole).map_err(unreadable)?,
        name,
    })
}

/// Whether a file is what was pinned; `None` when it is not there.
fn is_same(pinned: &PinnedFile, path: &Path, whole: bool) -> Option<bool> {
    let about = std::fs::metadata(path)
        .ok()
        .filter(std::fs::Metadata::is_file)?;
    if about.len() != pinned.bytes {
        return Some(false);
    }
    let untouched = modified_ms(&about) == pinned.modified_ms;
    Some(untouched || checksum(path, whole).is_ok_and(|now| now == pinned.checksum))
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    fn plate(folder: &Path) -> Pin {
        for frame in 1..=5 {
            let name = format!("walk.{frame:04}.png");
            std::fs::write(folder.join(name), format!("picture {frame}")).unwrap();
        }
        Pin::of(&Sequence::find(folder).unwrap()).unwrap()
    }

    fn later(path: &Path) {
        let file = std::fs::File::options().append(true).open(path).unwrap();
        let then = std::time::SystemTime::now() + std::time::Duration::from_secs(60);
        file.set_modified(then).unwrap();
    }

    #[rstest]
    #[case::nothing(|_: &Path| (), Differences::default())]
    #[case::touched(|f: &Path| later(&f.join("walk.0002.png")), Differences::default())]
    #[case::removed(
        |f: &Path| std::fs::remove_file(f.join("walk.0002.png")).unwrap(),
        Differences { missing: vec![2], ..Differences::default() }
    )]
    #[case::replaced(
        |f: &Path| { std::fs::write(f.join("walk.0003.png"), "pictura 3").unwrap(); later(&f.join("walk.0003.png")) },
        Differences { changed: vec![3], ..Differences::default() }
    )]
    #[case::longer(
        |f: &Path| std::fs::write(f.join("walk.0006.png"), "picture 6").unwrap(),
        Differences { added: vec![6], ..Differences::default() }
    )]
    fn what_differs_is_said(#[case] change: fn(&Path), #[case] expected: Differences) {
        let folder = tempfile::tempdir().unwrap();
        let pin = plate(folder.path());
        change(folder.path());
        assert_eq!(pin.differences(folder.path()), expected);
    }

    #[test]
    fn a_longer_sequence_in_the_folder_does_not_take_its_place() {
        let folder = tempfile::tempdir().unwrap();
        let pin = plate(folder.path());
        for frame in 1..=9 {
            std::fs::write(folder.path().join(format!("other.{frame}.png")), "x").unwrap();
        }
        assert!(pin.differences(folder.path()).is_none());
        let names = pin.paths(folder.path());
        assert!(
            names
                .iter()
                .all(|(_, p)| p.to_string_lossy().contains("walk."))
        );
    }

    #[test]
    fn the_fingerprint_is_of_the_pictures_and_not_of_their_times() {
        let folder = tempfile::tempdir().unwrap();
        let pin = plate(folder.path());
        later(&folder.path().join("walk.0001.png"));
        let again = Pin::of(&Sequence::find(folder.path()).unwrap()).unwrap();
        assert_eq!(again.fingerprint(), pin.fingerprint());
        std::fs::write(folder.path().join("walk.0001.png"), "another 1").unwrap();
        let other = Pin::of(&Sequence::find(folder.path()).unwrap()).unwrap();
        assert_ne!(other.fingerprint(), pin.fingerprint());
    }
}
