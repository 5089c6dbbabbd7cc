//! What numbered pictures does a folder hold?
//!
//! A picture's number is the last run of digits before its ending: `a.1001.png`,
//! `a_0001.jpg`, `0007.png`. Files with the same words around the number and the same ending
//! form a sequence; the longest one is the plate, the others are named. A folder without
//! numbered pictures but with others holds a photograph: the first by name, as frame 1.

use crate::MediaError;
use parallax_core::spaces::FrameNumber;
use std::collections::BTreeMap;
use std::path::{Path, PathBuf};

/// A numbered sequence of pictures.
#[derive(Clone, Debug)]
pub struct Sequence {
    /// The folder.
    pub folder: PathBuf,
    /// Words before the number.
    pub prefix: String,
    /// Ending, lower case.
    pub ending: String,
    /// Digits of the shortest number.
    pub padding: usize,
    /// Frames with their files, ascending.
    pub files: Vec<(FrameNumber, PathBuf)>,
    /// Other sequences in the folder: pattern and number of files.
    pub others: Vec<(String, usize)>,
}

/// A file with its number and how many digits it was written with.
type Numbered = (FrameNumber, usize, PathBuf);

/// Endings that are read.
pub const ENDINGS: [&str; 6] = ["png", "jpg", "jpeg", "tif", "tiff", "exr"];

impl Sequence {
    /// The longest sequence in a folder.
    pub fn find(folder: &Path) -> Result<Self, MediaError> {
        let unreadable = |source| MediaError::Folder {
            folder: folder.to_owned(),
            source,
        };
        let mut groups: BTreeMap<(String, String), Vec<Numbered>> = BTreeMap::new();
        for entry in std::fs::read_dir(folder).map_err(unreadable)? {
            let path = entry.map_err(unreadable)?.path();
            let Some(name) = path.file_name().and_then(|n| n.to_str()) else {
                continue;
            };
            if let Some((prefix, digits, ending)) = parts(name)
                && let Ok(number) = digits.parse()
                && path.is_file()
            {
                groups.entry((prefix, ending)).or_default().push((
                    FrameNumber(number),
                    digits.len(),
                    path,
                ));
            }
        }
        let longest = groups
            .iter()
            .max_by_key(|(_, files)| files.len())
            .map(|(key, _)| key.clone());
        let Some(key) = longest else {
            return Self::photograph(folder);
        };
        let mut files = groups.remove(&key).unwrap_or_default();
        files.sort();
        // `x.1.png` and `x.0001.png` are one frame: the second is named among the others.
        let mut again: Vec<(String, usize)> = Vec::new();
        files.dedup_by(|later, kept| {
            let same = later.0 == kept.0;
            let name = later
                .2
                .file_name()
                .map(|n| n.to_string_lossy().into_owned());
            again.extend(name.filter(|_| same).map(|name| (name, 1)));
            same
        });
        let padding = files
            .iter()
            .map(|(_, digits, _)| *digits)
            .min()
            .unwrap_or(1);
        let others = groups
            .into_iter()
            .map(|((prefix, ending), f)| (format!("{prefix}#.{ending}"), f.len()))
            .chain(again)
            .collect();
        Ok(Self {
            folder: folder.to_owned(),
            prefix: key.0,
            ending: key.1,
            padding,
            files: files
                .into_iter()
                .map(|(number, _, path)| (number, path))
                .collect(),
            others,
        })
    }

    /// A picture without a number, as a sequence of one.
    fn photograph(folder: &Path) -> Result<Self, MediaError> {
        let unreadable = |source| MediaError::Folder {
            folder: folder.to_owned(),
            source,
        };
        let mut pictures: Vec<(String, String, PathBuf)> = Vec::new();
        for entry in std::fs::read_dir(folder).map_err(unreadable)? {
            let path = entry.map_err(unreadable)?.path();
            let Some((stem, ending)) = path
                .file_name()
                .and_then(|n| n.to_str())
                .and_then(stem_and_ending)
            else {
                continue;
            };
            if path.is_file() {
                pictures.push((stem, ending, path));
            }
        }
        pictures.sort();
        let mut pictures = pictures.into_iter();
        let Some((prefix, ending, path)) = pictures.next() else {
            return Err(MediaError::NoPictures {
                folder: folder.to_owned(),
            });
        };
        let others = pictures
            .map(|(stem, ending, _)| (format!("{stem}.{ending}"), 1))
            .collect();
        let files = vec![(FrameNumber(1), path)];
        Ok(Self {
            folder: folder.to_owned(),
            prefix,
            ending,
            padding: 0,
            files,
            others,
        })
    }

    /// Files that are known, ascending by frame, as the sequence that their names say.
    pub fn of_files(folder: &Path, files: Vec<(FrameNumber, PathBuf)>) -> Self {
        let name = |path: &PathBuf| path.file_name().map(|n| n.to_string_lossy().into_owned());
        let names: Vec<String> = files.iter().filter_map(|(_, path)| name(path)).collect();
        let taken_apart = names.first().and_then(|n| parts(n));
        let plain = || {
            names
                .first()
                .and_then(|n| stem_and_ending(n))
                .unwrap_or_default()
        };
        let (prefix, ending) = match (&taken_apart, files.len()) {
            (Some((prefix, _, ending)), _) => (prefix.clone(), ending.clone()),
            (None, _) => plain(),
        };
        let digits = names.iter().filter_map(|n| Some(parts(n)?.1.len()));
        let padding = if taken_apart.is_some() {
            digits.min().unwrap_or(0)
        } else {
            0
        };
        let folder = folder.to_owned();
        Self {
            folder,
            prefix,
            ending,
            padding,
            files,
            others: Vec::new(),
        }
    }

    /// First and last frame.
    pub fn range(&self) -> (FrameNumber, FrameNumber) {
        let number = |file: Option<&(FrameNumber, PathBuf)>| file.map_or(FrameNumber(0), |f| f.0);
        (number(self.files.first()), number(self.files.last()))
    }

    /// Missing numbers between first and last, as inclusive ranges.
    pub fn gaps(&self) -> Vec<(i32, i32)> {
        gaps(self.files.iter().map(|f| f.0))
    }

    /// How files are named: `terrace-walk.####.jpg`.
    pub fn pattern(&self) -> String {
        format!(
            "{}{}.{}",
            self.prefix,
            "#".repeat(self.padding),
            self.ending
        )
    }
}

/// Missing numbers in ascending frames, as inclusive ranges.
pub fn gaps(frames: impl Iterator<Item = FrameNumber>) -> Vec<(i32, i32)> {
    let mut out = Vec::new();
    let mut last: Option<i32> = None;
    for FrameNumber(frame) in frames {
        if let Some(last) = last
            && frame > last + 1
        {
            out.push((last + 1, frame - 1));
        }
        last = Some(frame);
    }
    out
}

/// Ascending numbers as ranges, from and to.
pub fn runs(numbers: &[i32]) -> Vec<(i32, i32)> {
    let mut out: Vec<(i32, i32)> = Vec::new();
    for &number in numbers {
        match out.last_mut() {
            Some(last) if last.1 + 1 == number => last.1 = number,
            _ => out.push((number, number)),
        }
    }
    out
}

/// `1003, 1007-1009`, at most six ranges.
pub fn ranges_text(ranges: &[(i32, i32)]) -> String {
    let one = |(a, b): &(i32, i32)| {
        if a == b {
            a.to_string()
        } else {
            format!("{a}-{b}")
        }
    };
    let mut parts: Vec<String> = ranges.iter().take(6).map(one).collect();
    if ranges.len() > 6 {
        parts.push(format!("and {} more", ranges.len() - 6));
    }
    parts.join(", ")
}

/// Words before the number, digits, ending in lower case. `None` for other files.
pub fn parts(name: &str) -> Option<(String, String, String)> {
    let (stem, ending) = stem_and_ending(name)?;
    let words = stem.trim_end_matches(|c: char| c.is_ascii_digit());
    let digits = &stem[words.len()..];
    (!digits.is_empty() && digits.len() <= 9).then(|| (words.to_owned(), digits.to_owned(), ending))
}

/// Words before the ending, and the ending in lower case. `None` for files that are no pictures.
pub fn stem_and_ending(name: &str) -> Option<(String, String)> {
    let (stem, ending) = name.rsplit_once('.')?;
    let ending = ending.to_ascii_lowercase();
    (ENDINGS.contains(&ending.as_str()) && !stem.starts_with('.'))
        .then(|| (stem.to_owned(), ending))
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    #[case::dotted("terrace-walk.1001.png", Some(("terrace-walk.", "1001", "png")))]
    #[case::underscore("a_0001.JPG", Some(("a_", "0001", "jpg")))]
    #[case::bare("7.jpeg", Some(("", "7", "jpeg")))]
    #[case::no_number("note.png", None)]
    #[case::other_ending("a.1001.gif", None)]
    #[case::hidden(".a.1001.png", None)]
    #[case::endless("a.1234567890123.png", None)]
    fn names_are_taken_apart(#[case] name: &str, #[case] expected: Option<(&str, &str, &str)>) {
        let expected = expected.map(|(a, b, c)| (a.to_owned(), b.to_owned(), c.to_owned()));
        assert_eq!(parts(name), expected);
    }

    #[test]
    fn the_longest_sequence_is_found_with_its_gaps() {
        let folder = tempfile::tempdir().unwrap();
        for name in [
            "a.0998.png",
            "a.0999.png",
            "a.1000.png",
            "a.1003.png",
            "b.1.png",
            "note.txt",
        ] {
            std::fs::write(folder.path().join(name), b"").unwrap();
        }
        let found = Sequence::find(folder.path()).unwrap();
        assert_eq!(found.range(), (FrameNumber(998), FrameNumber(1003)));
        assert_eq!(found.padding, 4);
        assert_eq!(found.gaps(), vec![(1001, 1002)]);
        assert_eq!(found.pattern(), "a.####.png");
        assert_eq!(found.others, vec![("b.#.png".to_owned(), 1)]);
    }

    #[test]
    fn a_picture_without_a_number_is_a_photograph() {
        let folder = tempfile::tempdir().unwrap();
        for name in ["reading room.jpg", "plan.tif", "note.txt"] {
            std::fs::write(folder.path().join(name), b"").unwrap();
        }
        let found = Sequence::find(folder.path()).unwrap();
        assert_eq!((found.files.len(), found.range().0), (1, FrameNumber(1)));
        assert_eq!(found.pattern(), "plan.tif");
        assert_eq!(found.others, vec![("reading room.jpg".to_owned(), 1)]);
    }

    #[test]
    fn two_files_of_one_frame_are_named() {
        let folder = tempfile::tempdir().unwrap();
        for name in ["x.1.png", "x.0001.png", "x.2.png"] {
            std::fs::write(folder.path().join(name), b"").unwrap();
        }
        let found = Sequence::find(folder.path()).unwrap();
        assert_eq!(found.files.len(), 2);
        assert_eq!(found.others.len(), 1, "{:?}", found.others);
        let again = Sequence::of_files(folder.path(), found.files.clone());
        assert_eq!(
            (again.pattern(), again.range()),
            (found.pattern(), found.range())
        );
    }

    #[test]
    fn an_empty_folder_says_what_is_expected() {
        let folder = tempfile::tempdir().unwrap();
        let error = Sequence::find(folder.path()).unwrap_err().to_string();
        assert!(error.contains("holds no numbered"), "{error}");
    }
}
