//! What ships in `assets/` is what `ui/src` and the templates in `src/screens` build: the build notes what it was made
//! from and what came out, and this holds both against the files as they are.

use serde_json::Value;
use sha2::{Digest, Sha256};
use std::path::{Path, PathBuf};

fn files(folder: &Path, out: &mut Vec<PathBuf>) {
    for entry in std::fs::read_dir(folder).unwrap() {
        let path = entry.unwrap().path();
        if path.is_dir() {
            files(&path, out)
        } else {
            out.push(path)
        }
    }
}

/// Checksum over names and contents of all files below folders, but for some.
fn checksum(root: &Path, folders: &[&str], without: &str) -> String {
    let mut all = Vec::new();
    folders
        .iter()
        .for_each(|folder| files(&root.join(folder), &mut all));
    let mut named: Vec<(String, PathBuf)> = all
        .into_iter()
        .map(|path| {
            (
                path.strip_prefix(root)
                    .unwrap()
                    .to_string_lossy()
                    .replace('\\', "/"),
                path,
            )
        })
        .filter(|(name, _)| !name.ends_with(without))
        // Of the stations, what is built into the page are the templates.
        .filter(|(name, _)| !name.starts_with("src/") || name.ends_with(".html"))
        .collect();
    named.sort();
    let mut hash = Sha256::new();
    for (name, path) in named {
        hash.update(name.as_bytes());
        hash.update([0]);
        hash.update(std::fs::read(path).unwrap());
    }
    hash.finalize().iter().map(|b| format!("{b:02x}")).collect()
}

#[test]
fn what_ships_is_what_the_sources_build() {
    let root = Path::new(env!("CARGO_MANIFEST_DIR"));
    let noted = std::fs::read_to_string(root.join("assets/built-from.json")).unwrap();
    let noted: Value = serde_json::from_str(&noted).unwrap();
    let again = "build the page anew: npm ci && npm run build in crates/web/ui";
    let sources = checksum(root, &["ui/src", "src/screens"], ".DS_Store");
    assert_eq!(
        noted["sources"], sources,
        "the sources were changed since; {again}"
    );
    let assets = checksum(root, &["assets"], "built-from.json");
    assert_eq!(
        noted["assets"], assets,
        "what ships was changed by hand; {again}"
    );
}
