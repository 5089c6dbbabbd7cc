//! Recipes as they are named on the command line, and deliveries by them.

use crate::Failure;
use crate::package::write;
use crate::told;
use clap::Args;
use parallax_core::lens::maps::Keep;
use parallax_core::plate::FrameRate;
use parallax_core::spaces::FrameNumber;
use parallax_core::track::FrameSource;
use parallax_formats::delivery::{DeliveryError, Names, Recipe, UNDISTORTED_FOLDER};
use parallax_formats::plate_lens::PlateLens;
use parallax_formats::receipt::Receipt;
use parallax_formats::undistorted::{self, UndistortReceipt, Undistorting};
use parallax_matching::delivering::{By, Proven, now};
use parallax_matching::folders;
use parallax_media::colour::Written as KindOfPicture;
use parallax_media::{Plate, Sequence};
use serde::Deserialize;
use serde_json::{Value, json};
use std::collections::BTreeMap;
use std::path::{Path, PathBuf};

/// What is delivered.
#[derive(Args)]
pub struct RecipeArgs {
    /// A recipe, or several, as JSON (see docs/api.md), or one that comes with the program by its name: '3D scene',
    /// 'compositing', 'lens work', 'tracks', 'for the record'. Each writes a folder of its own. Can be given again.
    #[arg(long, value_name = "FILE|NAME")]
    pub recipe: Vec<String>,
}

#[derive(Deserialize)]
#[serde(untagged)]
enum File {
    One(Box<Recipe>),
    Several(Vec<Recipe>),
}

/// The recipes of a text; the reason where it holds none.
fn of_text(text: &str) -> Result<Vec<Recipe>, String> {
    // By itself first, so that what is wrong with one recipe is said, and not only that it is no list.
    let several = text.trim_start().starts_with('[');
    let read: Result<File, _> = match several {
        true => serde_json::from_str(text).map(File::Several),
        false => serde_json::from_str(text).map(|one| File::One(Box::new(one))),
    };
    let all = match read.map_err(|e| e.to_string())? {
        File::One(one) => vec![*one],
        File::Several(several) => several,
    };
    match all
        .iter()
        .find(|r| !r.is_possible() || r.formats.is_empty())
    {
        Some(bad) => Err(format!(
            "'{}' is no recipe: it needs a name, formats, names of files of at most 80 letters and a scale between 0.0001 and 10000",
            bad.name
        )),
        None => Ok(all),
    }
}

impl RecipeArgs {
    /// All of them.
    pub fn read(&self) -> Result<Vec<Recipe>, Failure> {
        let usual = Recipe::usual();
        let mut all = Vec::new();
        for named in &self.recipe {
            if let Some(known) = usual.iter().find(|r| r.name == *named) {
                all.push(known.clone());
                continue;
            }
            let text = std::fs::read_to_string(named).map_err(|e| {
                let names: Vec<String> = usual.iter().map(|r| format!("'{}'", r.name)).collect();
                let names = names.join(", ");
                Failure::unreadable(format!(
                    "{named} is neither a recipe's file ({e}) nor one of {names}"
                ))
            })?;
            all.extend(of_text(&text).map_err(|e| Failure::unreadable(format!("{named}: {e}")))?);
        }
        Ok(all)
    }
}

/// A delivery that was written.
pub struct Written {
    /// By which recipe.
    pub recipe: String,
    /// Where.
    pub folder: String,
    /// Its receipt.
    pub receipt: Receipt,
}

impl Written {
    /// For a report.
    pub fn report(&self) -> Value {
        json!({
            "recipe": self.recipe, "folder": self.folder, "files_agree": self.receipt.files_agree,
            "largest_difference_px": self.receipt.largest_difference_px,
            "left_out": self.receipt.left_out,
            "undistorted": self.receipt.undistorted.as_ref().map(|u| json!({ "frames": u.frames, "proven": u.proven })),
            "files": self.receipt.files.iter().map(|f| &f.file).collect::<Vec<_>>(),
        })
    }
}

/// What is delivered from.
pub struct About<'a> {
    /// What the shot is called.
    pub name: &'a str,
    /// The plate's pictures by frame; empty where they are not at hand.
    pub pictures: &'a BTreeMap<FrameNumber, PathBuf>,
    /// The first frame with a camera, from which recipes count.
    pub first: FrameNumber,
    /// The plate, where it can be undistorted; why it cannot.
    pub plate: Result<PlateOf<'a>, String>,
}

/// A plate with its lens.
pub struct PlateOf<'a> {
    /// How its files are named.
    pub sequence: &'a Sequence,
    /// Its frames.
    pub plate: &'a Plate,
    /// Its lens.
    pub lens: PlateLens,
    /// Frames a second.
    pub rate: FrameRate,
}

impl PlateOf<'_> {
    /// Undistorts it into a folder.
    fn undistorted(&self, renumbered_by: i32, to: &Path) -> Result<UndistortReceipt, Failure> {
        let frames = self.lens.frames(self.plate.frames(), Keep::All);
        let what = Undistorting {
            sequence: self.sequence,
            plate: self.plate,
            frames: &frames.map_err(Failure::unsolvable)?,
            lens: &self.lens.file(renumbered_by),
            kind: KindOfPicture::Png,
            rate: Some(self.rate),
            renumbered_by,
        };
        let made = undistorted::deliver(&what, to, &told::Lines::new());
        Ok(made.map_err(Failure::unreadable)?.1)
    }
}

/// Delivers a shot by each recipe into a folder of its own below `out`.
pub fn deliver(
    out: &Path,
    recipes: &[Recipe],
    about: &About<'_>,
    make: impl Fn(&By<'_>) -> Result<Proven, DeliveryError>,
) -> Result<Vec<Written>, Failure> {
    let mut written = Vec::new();
    if recipes.is_empty() {
        return Ok(written);
    }
    let unwritable = |e: std::io::Error| Failure::unreadable(format!("{}: {e}", out.display()));
    std::fs::create_dir_all(out).map_err(unwritable)?;
    let out = out.canonicalize().map_err(unwritable)?;
    for recipe in recipes {
        let version = next_version(&out, recipe, about.name);
        let aside = out.join(".undistorted.part");
        let undistorted = match &about.plate {
            _ if !recipe.undistorted => None,
            Err(why) => Some(Err(why.clone())),
            Ok(plate) => {
                // What an earlier run left may be of another plate.
                let _ = std::fs::remove_dir_all(&aside);
                let renumbered_by = recipe.renumbered_by(about.first).unwrap_or(0);
                Some(Ok(plate.undistorted(renumbered_by, &aside)?))
            }
        };
        let by = By {
            recipe,
            version,
            date: now(),
            pictures: about.pictures,
            within: Some(&out),
            undistorted,
        };
        let proven = make(&by).map_err(Failure::unreadable)?;
        let folder = folders::free(&out, &proven.name);
        write(&folder, &proven)?;
        if aside.exists() {
            std::fs::rename(&aside, folder.join(UNDISTORTED_FOLDER)).map_err(unwritable)?;
        }
        written.push(Written {
            recipe: recipe.name.clone(),
            folder: folder.display().to_string(),
            receipt: proven.receipt,
        });
    }
    Ok(written)
}

/// The first version of which there is no folder yet.
fn next_version(out: &Path, recipe: &Recipe, shot: &str) -> u32 {
    let taken = |version: &u32| {
        let names = Names::of(&recipe.names, shot, &recipe.name, *version);
        names.package().is_some_and(|name| out.join(name).exists())
    };
    (1..).find(|v| !taken(v)).unwrap_or(1)
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    #[case::one(r#"{"name": "a", "formats": ["usd"]}"#, Some(1))]
    #[case::several(
        r#"[{"name": "a", "formats": ["usd"]}, {"name": "b", "formats": ["glb"]}]"#,
        Some(2)
    )]
    #[case::no_format(r#"{"name": "a", "formats": []}"#, None)]
    #[case::unknown_format(r#"{"name": "a", "formats": ["paper"]}"#, None)]
    #[case::no_scale(r#"{"name": "a", "formats": ["usd"], "receiver": {"scale": 0}}"#, None)]
    #[case::no_recipe("17", None)]
    fn recipes_are_read_or_refused(#[case] text: &str, #[case] count: Option<usize>) {
        assert_eq!(of_text(text).ok().map(|r| r.len()), count);
    }

    #[test]
    fn versions_go_on_where_there_are_folders() {
        let out = tempfile::tempdir().unwrap();
        let recipe = &Recipe::usual()[0];
        assert_eq!(next_version(out.path(), recipe, "walk"), 1);
        std::fs::create_dir(out.path().join("walk-3D-scene-v001")).unwrap();
        assert_eq!(next_version(out.path(), recipe, "walk"), 2);
    }
}
