//! What is put into the plate: stand-ins and models from files, where they stand, and how they move.
//!
//! A [`Guest`] has its own space: metres, y up, its foot's middle at the origin, its face turned across (towards +z).
//! [`Guest::placed`] leads from there to the artist's world at a frame. Its surface is a [`Mesh`]: [`stand_ins`] makes
//! those of stand-ins, files bring their own.
//!
//! - [`mesh`]: triangles, materials and textures, and how they are built.
//! - [`stand_ins`], [`figure`], [`cards`]: what comes with the program.
//! - [`keys`]: a guest that moves.

pub mod cards;
pub mod figure;
pub mod keys;
pub mod mesh;
pub mod stand_ins;

pub use keys::{Key, Lie};
pub use mesh::{Material, Mesh, Texture};

use crate::camera::Similarity;
use crate::spaces::{TrackId, WorldPoint};
use nalgebra::Vector3;
use serde::{Deserialize, Serialize};

/// Something that is put into the plate.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Guest {
    /// Its name.
    pub name: String,
    /// What it is.
    pub what: What,
    /// The feature that it keeps its distance from; `None` where its place is one of the world.
    #[serde(default)]
    pub at: Option<TrackId>,
    /// How it lies; where it has keys, these.
    #[serde(default)]
    pub lie: Lie,
    /// How it lies on some frames, ascending; between them it moves.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub keys: Vec<Key>,
    /// Whether it is left out of the picture for now.
    #[serde(default, skip_serializing_if = "is_false")]
    pub hidden: bool,
}

fn is_false(flag: &bool) -> bool {
    !*flag
}

/// What a guest is; lengths in m.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(tag = "kind", rename_all = "snake_case")]
pub enum What {
    /// A box that stands on its foot.
    Box {
        /// Width, height and depth.
        size_m: [f64; 3],
    },
    /// A box by its corner: from there along, up and across, the other way where a side is negative.
    Corner {
        /// Along, up and across.
        size_m: [f64; 3],
    },
    /// A flat piece that lies on its face.
    Plane {
        /// Width and depth.
        size_m: [f64; 2],
    },
    /// An upright cylinder.
    Cylinder {
        /// Across.
        diameter_m: f64,
        /// High.
        height_m: f64,
    },
    /// A ball on the ground.
    Sphere {
        /// Across.
        diameter_m: f64,
    },
    /// A person who stands.
    Figure {
        /// High.
        height_m: f64,
    },
    /// An upright card of light and dark squares.
    Checker {
        /// Width and height.
        size_m: [f64; 2],
        /// Squares across.
        squares: u32,
    },
    /// An upright card with a line of text.
    Text {
        /// The text.
        text: String,
        /// Height of the card.
        height_m: f64,
    },
    /// An arrow that points down at its place.
    Arrow {
        /// Long.
        length_m: f64,
    },
    /// A model from a file.
    Model {
        /// Which of the models that were taken in.
        model: i64,
    },
}

/// Letters of the longest name and text.
pub const MOST_LETTERS: usize = 80;
/// Sides of guests, m.
const SIDES_M: std::ops::RangeInclusive<f64> = 0.001..=1000.0;
/// Squares of a card across.
const SQUARES: std::ops::RangeInclusive<u32> = 1..=64;
/// Most keys of a guest.
pub const MOST_KEYS: usize = 500;

/// Kinds of stand-ins, in the order in which they are offered.
pub const KINDS: [&str; 9] = [
    "box", "figure", "cylinder", "corner", "sphere", "plane", "checker", "text", "arrow",
];

impl What {
    /// A stand-in of a kind in its usual size; `None` of no kind of them.
    pub fn usual(kind: &str) -> Option<Self> {
        Some(match kind {
            "box" => Self::Box { size_m: [0.5; 3] },
            "corner" => Self::Corner { size_m: [0.5; 3] },
            "figure" => Self::Figure { height_m: 1.75 },
            "cylinder" => Self::Cylinder {
                diameter_m: 0.4,
                height_m: 0.8,
            },
            "sphere" => Self::Sphere { diameter_m: 0.5 },
            "plane" => Self::Plane { size_m: [1.0; 2] },
            "checker" => Self::Checker {
                size_m: [0.6, 0.4],
                squares: 6,
            },
            "text" => Self::Text {
                text: "Aldermoor".to_owned(),
                height_m: 0.3,
            },
            "arrow" => Self::Arrow { length_m: 0.6 },
            _ => return None,
        })
    }

    /// Sizes within bounds.
    pub fn is_possible(&self) -> bool {
        let sides = |all: &[f64]| all.iter().all(|s| SIDES_M.contains(s));
        match self {
            Self::Box { size_m } => sides(size_m),
            Self::Corner { size_m } => sides(&size_m.map(f64::abs)),
            Self::Plane { size_m } => sides(size_m),
            Self::Cylinder {
                diameter_m,
                height_m,
            } => sides(&[*diameter_m, *height_m]),
            Self::Sphere { diameter_m } => sides(&[*diameter_m]),
            Self::Figure { height_m } => sides(&[*height_m]),
            Self::Checker { size_m, squares } => sides(size_m) && SQUARES.contains(squares),
            Self::Text { text, height_m } => {
                sides(&[*height_m]) && (1..=MOST_LETTERS).contains(&text.chars().count())
            }
            Self::Arrow { length_m } => sides(&[*length_m]),
            Self::Model { model } => *model > 0,
        }
    }
}

impl Guest {
    /// A guest of a name that lies straight at its place.
    pub fn new(name: &str, what: What, at: Option<TrackId>) -> Self {
        Self {
            name: name.to_owned(),
            what,
            at,
            lie: Lie::default(),
            keys: Vec::new(),
            hidden: false,
        }
    }

    /// Sizes within bounds, all finite, keys ascending.
    pub fn is_possible(&self) -> bool {
        let named = (1..=MOST_LETTERS).contains(&self.name.chars().count());
        let ascending = self.keys.windows(2).all(|k| k[0].frame < k[1].frame);
        let lies = self.keys.iter().map(|k| &k.lie).chain([&self.lie]);
        named
            && self.what.is_possible()
            && ascending
            && self.keys.len() <= MOST_KEYS
            && lies.into_iter().all(Lie::is_possible)
    }

    /// How it lies at a time in frames.
    pub fn lie_at(&self, time_frames: f64) -> Lie {
        keys::at(&self.lie, &self.keys, time_frames)
    }

    /// From its own space to the artist's world at a time in frames; `anchor` is where its feature is in that world.
    /// `None` where it keeps to a feature and there is none.
    pub fn placed(
        &self,
        time_frames: f64,
        anchor: impl FnOnce(TrackId) -> Option<WorldPoint>,
    ) -> Option<Similarity> {
        let origin = match self.at {
            Some(feature) => anchor(feature)?.0.coords,
            None => Vector3::zeros(),
        };
        let lie = self.lie_at(time_frames);
        Some(Similarity {
            rotation: lie.rotation(),
            translation: origin + Vector3::from(lie.shift_m),
            scale: lie.scale,
        })
    }

    /// Whether it moves by itself.
    pub fn moves(&self) -> bool {
        self.keys.windows(2).any(|k| k[0].lie != k[1].lie)
    }
}
