//! The folder below that of the plates into which a recipe has files written.

use crate::error::{ApiError, Forbidden, Refused};
use std::io;
use std::path::{Component, Path, PathBuf};

/// A folder below the allowed one, made where it is not there; anything that leads outside is refused.
pub fn made(allowed: Option<&Path>, relative: &str) -> Result<PathBuf, ApiError> {
    let Some(allowed) = allowed else {
        return Err(Forbidden::NoPlates.into());
    };
    let outside = || ApiError::from(Refused::Folder(relative.to_owned()));
    let unmade = |e: &io::Error| {
        let (folder, reason) = (relative.to_owned(), e.to_string());
        ApiError::from(Refused::NoFolder { folder, reason })
    };
    let path = Path::new(relative);
    if path
        .components()
        .any(|c| !matches!(c, Component::Normal(_)))
    {
        return Err(outside());
    }
    let root = allowed.canonicalize().map_err(|e| unmade(&e))?;
    // What is there already may be a link that leads elsewhere: looked at before anything is made.
    let mut at = root.clone();
    for part in path.components() {
        at.push(part);
        match at.canonicalize() {
            Ok(real) if real.starts_with(&root) && real.is_dir() => at = real,
            Ok(_) => return Err(outside()),
            Err(e) if e.kind() == io::ErrorKind::NotFound => {
                std::fs::create_dir(&at).map_err(|e| unmade(&e))?;
            }
            Err(e) => return Err(unmade(&e)),
        }
    }
    Ok(at)
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    #[case::plain("out/camera", true)]
    #[case::up("../elsewhere", false)]
    #[case::root("/etc", false)]
    #[case::a_link_out("link/sub", false)]
    #[case::a_file("file", false)]
    fn folders_lie_below_the_allowed_one(#[case] relative: &str, #[case] fits: bool) {
        let root = tempfile::tempdir().unwrap();
        std::os::unix::fs::symlink("/tmp", root.path().join("link")).unwrap();
        std::fs::write(root.path().join("file"), "x").unwrap();
        let found = made(Some(root.path()), relative);
        assert_eq!(found.is_ok(), fits, "{relative}");
        if let Ok(folder) = found {
            assert!(folder.is_dir() && folder.starts_with(root.path().canonicalize().unwrap()));
        }
        assert!(!Path::new("/tmp/sub").exists());
        assert!(made(None, relative).is_err());
    }
}
