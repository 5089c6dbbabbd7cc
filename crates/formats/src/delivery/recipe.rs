//! Recipes: named deliveries that can be made again. A recipe says what goes in, for which receiver, in which formats
//! and under which names.

use super::naming::{MOST_PATTERN, Names};
use super::{Delivery, Said};
use crate::format::FormatKind;
use parallax_core::scene::Receiver;
use parallax_core::spaces::FrameNumber;
use serde::{Deserialize, Serialize};

/// Most letters of a name, an author, a folder.
pub const MOST_NAME: usize = 120;
/// Most letters of a note.
pub const MOST_NOTE: usize = 4000;
/// Most groups that a recipe names.
pub const MOST_GROUPS: usize = 200;
/// How files are called where nothing else was asked for.
pub const USUAL_NAMES: &str = "{shot}-{file}-v{version}";

/// How time is counted where a format leaves it open.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum TimeAs {
    /// By the numbers of frames.
    #[default]
    Frames,
    /// By seconds after the first frame.
    Seconds,
}

/// Which landmarks go in.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum Landmarks {
    /// All of them.
    #[default]
    All,
    /// None.
    None,
    /// Those of these groups; the empty name is that of those in none.
    Groups(Vec<String>),
}

/// A delivery that can be made again.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Recipe {
    /// What it is called, by its job.
    pub name: String,
    /// In which formats.
    pub formats: Vec<FormatKind>,
    /// Which landmarks go in; with groups also which tracks.
    #[serde(default)]
    pub landmarks: Landmarks,
    /// Whether guests go in.
    #[serde(default)]
    pub guests: bool,
    /// Whether the planes of the set go in that are stated.
    #[serde(default)]
    pub set: bool,
    /// Whether things go in that move by themselves.
    #[serde(default)]
    pub bodies: bool,
    /// Whether the undistorted plate goes in, in a folder of its own.
    #[serde(default)]
    pub undistorted: bool,
    /// Axes, unit and scale of whoever receives it.
    #[serde(default)]
    pub receiver: Receiver,
    /// Number of the first frame; as the shot has it where left out.
    #[serde(default)]
    pub first_frame: Option<i32>,
    /// How time is counted where a format leaves it open.
    #[serde(default)]
    pub time: TimeAs,
    /// How files are called, with `{shot}`, `{recipe}`, `{version}` and `{file}`.
    #[serde(default = "usual_names")]
    pub names: String,
    /// Folder below those of plates into which files are written as well; empty for downloads alone.
    #[serde(default)]
    pub folder: String,
    /// Who hands it on; may be empty.
    #[serde(default)]
    pub author: String,
    /// A note to whoever receives it; may be empty.
    #[serde(default)]
    pub note: String,
}

fn usual_names() -> String {
    USUAL_NAMES.to_owned()
}

impl Recipe {
    /// One by its name and formats, everything else as usual.
    pub fn of(name: &str, formats: &[FormatKind]) -> Self {
        Self {
            name: name.to_owned(),
            formats: formats.to_vec(),
            landmarks: Landmarks::All,
            guests: true,
            set: true,
            bodies: true,
            undistorted: false,
            receiver: Receiver::default(),
            first_frame: None,
            time: TimeAs::Frames,
            names: usual_names(),
            folder: String::new(),
            author: String::new(),
            note: String::new(),
        }
    }

    /// Those that come with a new shot, named by the job.
    pub fn usual() -> Vec<Self> {
        use FormatKind::{
            CameraCsv, CameraJson, Glb, LandmarksPly, Obj, PathsCsv, StMaps, TracksCsv, TracksJson,
            Usd, Usdz,
        };
        let lens = Self {
            guests: false,
            set: false,
            bodies: false,
            landmarks: Landmarks::None,
            ..Self::of("lens work", &[CameraJson, CameraCsv, StMaps])
        };
        vec![
            Self::of("3D scene", &[Usd, Glb]),
            Self::of(
                "compositing",
                &[Usdz, CameraCsv, LandmarksPly, PathsCsv, StMaps],
            ),
            lens,
            Self {
                guests: false,
                set: false,
                bodies: false,
                ..Self::of("tracks", &[TracksCsv, TracksJson])
            },
            Self::of(
                "for the record",
                &[CameraJson, CameraCsv, Usd, Obj, TracksCsv],
            ),
        ]
    }

    /// What is added to the numbers of frames of which the first is `first`; `None` where it does not say.
    pub fn renumbered_by(&self, first: FrameNumber) -> Option<i32> {
        self.first_frame.map(|to| to.saturating_sub(first.0))
    }

    /// Whether it is one.
    pub fn is_possible(&self) -> bool {
        let short = |text: &str, most: usize| text.chars().count() <= most;
        let groups = match &self.landmarks {
            Landmarks::Groups(groups) => {
                groups.len() <= MOST_GROUPS && groups.iter().all(|g| short(g, MOST_NAME))
            }
            Landmarks::All | Landmarks::None => true,
        };
        !self.name.trim().is_empty()
            && [&self.name, &self.folder, &self.author]
                .iter()
                .all(|text| short(text, MOST_NAME) && !text.contains(char::is_control))
            && self.names.len() <= MOST_PATTERN
            && short(&self.note, MOST_NOTE)
            && self.receiver.is_possible()
            && groups
    }

    /// Which of the deliveries that hold everything it asks for.
    pub fn applied<'a>(&self, everything: Delivery<'a>, version: u32, date: &str) -> Delivery<'a> {
        let mut delivery = everything;
        match &self.landmarks {
            Landmarks::All => {}
            Landmarks::None => delivery.points.clear(),
            Landmarks::Groups(groups) => {
                delivery.points.retain(|p| groups.contains(&p.group));
                delivery
                    .tracks
                    .retain(|(_, called)| groups.contains(&called.group));
            }
        }
        if !self.guests {
            delivery.guests.clear();
        }
        if !self.set {
            delivery.set.clear();
        }
        if !self.bodies {
            delivery.bodies.clear();
        }
        delivery.receiver = self.receiver;
        delivery.formats.clone_from(&self.formats);
        delivery.formats.sort();
        delivery.formats.dedup();
        delivery.time = self.time;
        delivery.names = Names::of(&self.names, &delivery.shot, &self.name, version);
        delivery.said = Said {
            recipe: self.name.clone(),
            version,
            author: self.author.clone(),
            note: self.note.clone(),
            date: date.to_owned(),
        };
        delivery
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;
    use std::collections::HashSet;

    #[test]
    fn five_recipes_come_with_a_shot_and_are_what_they_were_when_read_again() {
        let usual = Recipe::usual();
        assert_eq!(usual.len(), 5);
        let names: HashSet<&str> = usual.iter().map(|r| r.name.as_str()).collect();
        assert_eq!(names.len(), 5);
        assert!(usual.iter().all(Recipe::is_possible));
        let text = serde_json::to_string(&usual).unwrap();
        assert_eq!(serde_json::from_str::<Vec<Recipe>>(&text).unwrap(), usual);
    }

    #[rstest]
    #[case::no_name(|r: &mut Recipe| r.name = "  ".to_owned())]
    #[case::long_name(|r: &mut Recipe| r.name = "n".repeat(MOST_NAME + 1))]
    #[case::lines_in_a_name(|r: &mut Recipe| r.name = "a\nb".to_owned())]
    #[case::long_note(|r: &mut Recipe| r.note = "n".repeat(MOST_NOTE + 1))]
    #[case::no_scale(|r: &mut Recipe| r.receiver.scale = 0.0)]
    #[case::no_number(|r: &mut Recipe| r.receiver.scale = f64::NAN)]
    #[case::many_groups(|r: &mut Recipe| r.landmarks = Landmarks::Groups(vec![String::new(); MOST_GROUPS + 1]))]
    fn what_is_no_recipe_is_found(#[case] spoil: fn(&mut Recipe)) {
        let mut recipe = Recipe::of("3D scene", &[FormatKind::Usd]);
        assert!(recipe.is_possible());
        spoil(&mut recipe);
        assert!(!recipe.is_possible());
    }

    #[test]
    fn a_recipe_may_leave_out_what_is_usual_and_nothing_unknown_may_be_in_it() {
        let short = r#"{"name": "layout", "formats": ["usd", "camera_csv"]}"#;
        let recipe: Recipe = serde_json::from_str(short).unwrap();
        assert_eq!(recipe.names, USUAL_NAMES);
        assert!(!recipe.guests);
        let unknown = r#"{"name": "layout", "formats": ["usd"], "colour": 1}"#;
        assert!(serde_json::from_str::<Recipe>(unknown).is_err());
    }
}
