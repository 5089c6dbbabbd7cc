//! What a batch does: `true-parallax/batch@1`, JSON.

use crate::Failure;
use parallax_core::plate::FrameRate;
use parallax_formats::delivery::Recipe;
use parallax_formats::delivery::naming::safe;
use serde::{Deserialize, Serialize};
use sha2::{Digest, Sha256};
use std::collections::HashSet;
use std::path::{Path, PathBuf};

/// The value of the key `schema`.
pub const SCHEMA: &str = "true-parallax/batch@1";
/// Most shots of a batch.
const MOST_SHOTS: usize = 100_000;

/// A batch; paths are as seen from its file.
#[derive(Clone, Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Job {
    schema: String,
    /// Folder in which each shot gets one of its own.
    pub out: PathBuf,
    /// Recipes of all shots: names of those that come with the program, files, or recipes themselves.
    #[serde(default)]
    pub recipes: Vec<RecipeOf>,
    /// Options of `match` for all shots, such as `["--solve-lens"]`.
    #[serde(default, rename = "match")]
    pub options: Vec<String>,
    /// The shots.
    pub shots: Vec<Shot>,
}

/// A recipe as it is named.
#[derive(Clone, Debug, Deserialize, Serialize)]
#[serde(untagged)]
pub enum RecipeOf {
    /// By name or file.
    Named(String),
    /// In full.
    Whole(Box<Recipe>),
}

/// One shot.
#[derive(Clone, Debug, Deserialize, Serialize)]
#[serde(deny_unknown_fields)]
pub struct Shot {
    /// What it is called, which is also its folder.
    pub name: String,
    /// Folder with the numbered pictures.
    pub plate: PathBuf,
    /// Frames a second, exact.
    pub rate: FrameRate,
    /// Options of `match` for this shot, after those of all.
    #[serde(default, rename = "match")]
    pub options: Vec<String>,
    /// Facts about the world, for `orient`.
    #[serde(default)]
    pub statements: Option<PathBuf>,
    /// Recipes of this shot, after those of all.
    #[serde(default)]
    pub recipes: Vec<RecipeOf>,
}

impl Job {
    /// Reads and checks a file; paths come out as seen from here.
    pub fn read(path: &Path) -> Result<Self, Failure> {
        let bad =
            |e: &dyn std::fmt::Display| Failure::unreadable(format!("{}: {e}", path.display()));
        let text = std::fs::read_to_string(path).map_err(|e| bad(&e))?;
        let mut job: Self = serde_json::from_str(&text).map_err(|e| bad(&e))?;
        if job.schema != SCHEMA {
            return Err(bad(&format!(
                "it says schema `{}`; `{SCHEMA}` is read",
                job.schema
            )));
        }
        if job.shots.is_empty() || job.shots.len() > MOST_SHOTS {
            return Err(bad(&format!("a batch has 1 to {MOST_SHOTS} shots")));
        }
        let mut folders = HashSet::new();
        if let Some(twice) = job.shots.iter().find(|s| !folders.insert(s.folder())) {
            return Err(bad(&format!("two shots are called {}", twice.name)));
        }
        let from = path.parent().unwrap_or(Path::new(""));
        job.out = from.join(&job.out);
        for shot in &mut job.shots {
            shot.plate = from.join(&shot.plate);
            shot.statements = shot.statements.as_ref().map(|s| from.join(s));
            shot.recipes.splice(0..0, job.recipes.iter().cloned());
            shot.options.splice(0..0, job.options.iter().cloned());
            for recipe in &mut shot.recipes {
                let RecipeOf::Named(name) = recipe else {
                    continue;
                };
                let file = from.join(&*name);
                if file.is_file() {
                    *name = file.display().to_string();
                }
            }
        }
        Ok(job)
    }
}

impl Shot {
    /// Its folder in that of the batch.
    pub fn folder(&self) -> String {
        safe(&self.name)
    }

    /// What it depends on: what is asked for, and names, sizes and times of the plate's files.
    pub fn fingerprint(&self) -> String {
        let mut sum = Sha256::new();
        sum.update(serde_json::to_string(self).unwrap_or_default());
        sum.update(env!("CARGO_PKG_VERSION"));
        let mut files: Vec<PathBuf> = std::fs::read_dir(&self.plate)
            .into_iter()
            .flatten()
            .filter_map(|entry| Some(entry.ok()?.path()))
            .collect();
        files.extend(self.statements.clone());
        files.sort();
        for file in files {
            let known = std::fs::metadata(&file).ok();
            let size = known.as_ref().map_or(0, std::fs::Metadata::len);
            let time = known.and_then(|m| m.modified().ok());
            sum.update(format!("{file:?} {size} {time:?}"));
        }
        sum.finalize().iter().map(|b| format!("{b:02x}")).collect()
    }
}

/// Every N-th shot, beginning with the I-th.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Shard {
    /// Which, from 1.
    pub number: usize,
    /// Of how many.
    pub of: usize,
}

impl Shard {
    /// All shots.
    pub const ALL: Self = Self { number: 1, of: 1 };

    /// Whether it does the shot at an index.
    pub fn does(self, index: usize) -> bool {
        index % self.of == self.number - 1
    }
}

impl std::str::FromStr for Shard {
    type Err = String;

    fn from_str(text: &str) -> Result<Self, String> {
        let wrong = || format!("{text} is no shard: state which of how many, such as 1/4");
        let (number, of) = text.split_once('/').ok_or_else(wrong)?;
        let shard = Self {
            number: number.trim().parse().map_err(|_| wrong())?,
            of: of.trim().parse().map_err(|_| wrong())?,
        };
        let fits = (1..=shard.of).contains(&shard.number);
        fits.then_some(shard).ok_or_else(wrong)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    #[case("1/1", Some((1, 1)))]
    #[case("3/4", Some((3, 4)))]
    #[case("0/4", None)]
    #[case("5/4", None)]
    #[case("1/0", None)]
    #[case("2", None)]
    #[case("-1/2", None)]
    fn shards_are_read(#[case] text: &str, #[case] wanted: Option<(usize, usize)>) {
        let read: Option<Shard> = text.parse().ok();
        assert_eq!(read.map(|s| (s.number, s.of)), wanted);
    }

    #[test]
    fn shards_do_every_shot_once() {
        for of in 1..=5 {
            for index in 0..20 {
                let doing = (1..=of).filter(|number| {
                    Shard {
                        number: *number,
                        of,
                    }
                    .does(index)
                });
                assert_eq!(doing.count(), 1);
            }
        }
    }

    fn job(text: &str) -> Result<Job, String> {
        let folder = tempfile::tempdir().unwrap();
        let path = folder.path().join("job.json");
        std::fs::write(&path, text).unwrap();
        std::fs::write(folder.path().join("layout.json"), "{}").unwrap();
        Job::read(&path).map_err(|f| f.sentence)
    }

    #[test]
    fn a_job_is_read_from_where_it_lies() {
        let read = job(
            r#"{"schema": "true-parallax/batch@1", "out": "out", "match": ["--solve-lens"], "recipes": ["tracks"],
            "shots": [{"name": "a/b", "plate": "a", "rate": "25", "match": ["--focal-mm", "35"],
            "recipes": ["layout.json", {"name": "own", "formats": ["usd"]}]}]}"#,
        )
        .unwrap();
        let shot = &read.shots[0];
        assert_eq!(shot.folder(), "a-b");
        assert_eq!(shot.options, ["--solve-lens", "--focal-mm", "35"]);
        assert!(shot.plate.ends_with("a") && shot.plate.is_absolute());
        assert_eq!(shot.recipes.len(), 3);
        assert!(matches!(&shot.recipes[0], RecipeOf::Named(name) if name == "tracks"));
        assert!(matches!(&shot.recipes[1], RecipeOf::Named(name) if name.len() > 11));
    }

    #[rstest]
    #[case::no_shots(
        r#"{"schema": "true-parallax/batch@1", "out": "o", "shots": []}"#,
        "1 to"
    )]
    #[case::schema(r#"{"schema": "x", "out": "o", "shots": []}"#, "schema")]
    #[case::twice(r#"{"schema": "true-parallax/batch@1", "out": "o", "shots": [{"name": "a", "plate": "a", "rate": "25"}, {"name": "a", "plate": "b", "rate": "25"}]}"#, "two shots")]
    #[case::unknown(
        r#"{"schema": "true-parallax/batch@1", "out": "o", "shots": [], "what": 1}"#,
        "unknown field"
    )]
    #[case::no_rate(r#"{"schema": "true-parallax/batch@1", "out": "o", "shots": [{"name": "a", "plate": "a"}]}"#, "rate")]
    fn what_is_no_job_is_said(#[case] text: &str, #[case] said: &str) {
        let error = job(text).unwrap_err();
        assert!(error.contains(said), "{error}");
    }
}
