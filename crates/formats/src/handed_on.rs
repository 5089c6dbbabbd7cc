//! The files of an undistorted plate as they are handed on: whole ones alone, with frames numbered as the delivery has
//! them, whatever they were numbered when they were written.

use crate::lens_json::LensFile;
use crate::undistorted::{LENS_FILE, is_finished};
use std::io;
use std::path::{Path, PathBuf};

/// What a file holds.
#[derive(Debug)]
pub enum Content {
    /// What this one does.
    File(PathBuf),
    /// This.
    Bytes(Vec<u8>),
}

/// The files of a folder by their names, with frames numbered higher by so many.
pub fn files(folder: &Path, by: i32) -> io::Result<Vec<(String, Content)>> {
    let mut names: Vec<String> = std::fs::read_dir(folder)?
        .filter_map(|e| e.ok()?.file_name().into_string().ok())
        .filter(|n| is_finished(n))
        .collect();
    names.sort();
    let file = |name: String| {
        let path = folder.join(&name);
        let content = match name == LENS_FILE && by != 0 {
            true => Content::Bytes(lens(&path, by)?),
            false => Content::File(path),
        };
        Ok((numbered(&name, by), content))
    };
    names.into_iter().map(file).collect()
}

/// A name with the number that it ends with, if any, higher by so many.
fn numbered(name: &str, by: i32) -> String {
    let (stem, ending) = name.rsplit_once('.').unwrap_or((name, ""));
    let plain = stem.trim_end_matches(|c: char| c.is_ascii_digit());
    let digits = &stem[plain.len()..];
    match digits.parse::<i32>() {
        Ok(number) => {
            let (number, padding) = (number.saturating_add(by), digits.len());
            format!("{plain}{number:0padding$}.{ending}")
        }
        Err(_) => name.to_owned(),
    }
}

/// The lens file, which along a zoom names frames.
fn lens(path: &Path, by: i32) -> io::Result<Vec<u8>> {
    let mut file: LensFile = serde_json::from_slice(&std::fs::read(path)?)?;
    let frames = file.frames.iter_mut();
    frames.for_each(|zoomed| zoomed.frame = zoomed.frame.saturating_add(by));
    Ok(serde_json::to_vec_pretty(&file)?)
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    #[case::picture("walk.0001.png", 1000, "walk.1001.png")]
    #[case::lower("walk.1001.png", -1000, "walk.0001.png")]
    #[case::longer("f7.jpg", 995, "f1002.jpg")]
    #[case::map("distort.0012.exr", 3, "distort.0015.exr")]
    #[case::map_of_all("distort.exr", 3, "distort.exr")]
    #[case::words("README.txt", 3, "README.txt")]
    fn frames_are_numbered_as_the_delivery_has_them(
        #[case] name: &str,
        #[case] by: i32,
        #[case] wanted: &str,
    ) {
        assert_eq!(numbered(name, by), wanted);
    }
}
