//! Deliveries that are written into folders: whole or not at all, and never over another.

use parallax_formats::delivery::{NamedBytes, PlateAt, UNDISTORTED_FOLDER};
use parallax_formats::handed_on::{self, Content};
use std::io;
use std::path::{Path, PathBuf};

/// A folder in `within` that is not there yet, called so or so with a number.
pub fn free(within: &Path, name: &str) -> PathBuf {
    let numbered = |k: u32| match k {
        1 => within.join(name),
        k => within.join(format!("{name}-{k}")),
    };
    (1..)
        .map(numbered)
        .find(|p| !p.exists())
        .unwrap_or_else(|| within.join(name))
}

/// Writes the files, with an undistorted plate where one goes along (its folder, and by how much its frames are numbered
/// higher), into a folder that is not there yet: beside it
/// first, then under its name.
pub fn write(to: &Path, files: &[NamedBytes], plate: Option<(&Path, i32)>) -> io::Result<()> {
    let beside = to.with_file_name(format!(
        ".{}.part",
        to.file_name().unwrap_or_default().to_string_lossy()
    ));
    if beside.exists() {
        std::fs::remove_dir_all(&beside)?;
    }
    std::fs::create_dir(&beside)?;
    for (name, bytes) in files {
        std::fs::write(beside.join(name), bytes)?;
    }
    if let Some((plate, by)) = plate {
        add_plate(plate, by, &beside.join(UNDISTORTED_FOLDER))?;
    }
    std::fs::rename(&beside, to)
}

/// The files of an undistorted plate once more, in a folder of their own.
fn add_plate(plate: &Path, by: i32, to: &Path) -> io::Result<()> {
    std::fs::create_dir(to)?;
    for (name, content) in handed_on::files(plate, by)? {
        match content {
            Content::File(from) => drop(std::fs::copy(from, to.join(name))?),
            Content::Bytes(bytes) => std::fs::write(to.join(name), bytes)?,
        }
    }
    Ok(())
}

/// Where the plate is as seen from a folder, both real paths.
pub fn plate_from(folder: &Path, first: &Path, number: i32) -> Option<PlateAt> {
    let mut up = folder.components().peekable();
    let mut down = first.components().peekable();
    while up.peek().is_some() && up.peek() == down.peek() {
        up.next();
        down.next();
    }
    let back = up.map(|_| "..".to_owned());
    let on = down.map(|c| c.as_os_str().to_string_lossy().into_owned());
    let parts: Vec<String> = back.chain(on).collect();
    let first = parts.join("/");
    let name = parts.last()?;
    // The last number of the name is the frame's.
    let digits = number.unsigned_abs().to_string();
    let at = name.rfind(&digits)?;
    let padded = name[..at].trim_end_matches('0').len();
    let marks = "#".repeat(at + digits.len() - padded);
    let pattern = format!("{}{marks}{}", &name[..padded], &name[at + digits.len()..]);
    let folder = first.strip_suffix(name.as_str())?;
    Some(PlateAt {
        pattern: format!("{folder}{pattern}"),
        first,
    })
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[test]
    fn nothing_is_written_over() {
        let root = tempfile::tempdir().unwrap();
        let files = [("a.txt".to_owned(), b"one".to_vec())];
        let first = free(root.path(), "walk-v001");
        write(&first, &files, None).unwrap();
        let second = free(root.path(), "walk-v001");
        assert_eq!(second, root.path().join("walk-v001-2"));
        write(&second, &files, None).unwrap();
        assert_eq!(std::fs::read(first.join("a.txt")).unwrap(), b"one");
        let left = std::fs::read_dir(root.path()).unwrap().count();
        assert_eq!(left, 2, "nothing half-written stays");
    }

    #[rstest]
    #[case(
        "/p/out/v1",
        "/p/walk/walk.0101.png",
        101,
        "../../walk/walk.0101.png",
        "../../walk/walk.####.png"
    )]
    #[case("/p/walk", "/p/walk/frame7.jpg", 7, "frame7.jpg", "frame#.jpg")]
    fn the_plate_is_found_from_the_folder(
        #[case] folder: &str,
        #[case] file: &str,
        #[case] number: i32,
        #[case] first: &str,
        #[case] pattern: &str,
    ) {
        let found = plate_from(Path::new(folder), Path::new(file), number).unwrap();
        assert_eq!(
            (found.first.as_str(), found.pattern.as_str()),
            (first, pattern)
        );
    }
}
