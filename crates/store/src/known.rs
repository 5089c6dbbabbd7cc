//! What is known of a shot before it is solved: focal length, lens terms, steadiness, measured points.

use parallax_core::solve::Surveyed;
use parallax_core::spaces::TrackId;
use serde::{Deserialize, Serialize};

/// What is known of the focal length.
#[derive(Clone, Copy, Debug, Default, PartialEq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum FocalFact {
    /// Nothing.
    #[default]
    Unknown,
    /// Its value in mm.
    Mm(f64),
    /// Nothing but that it stays over the whole shot.
    Stays,
    /// It changes along the shot.
    Zooms,
    /// Its value with one standard error: it is solved, and pulled towards that.
    About {
        /// The value, mm.
        mm: f64,
        /// One standard error, mm.
        sigma_mm: f64,
    },
    /// It changes along the shot, and of the first frame it is known.
    ZoomsFrom {
        /// The value there, mm.
        mm: f64,
        /// One standard error, mm; `None` where the value is exact.
        #[serde(default)]
        sigma_mm: Option<f64>,
    },
}

impl FocalFact {
    /// The value that is stated, mm; that of the first frame where it changes.
    pub fn mm(self) -> Option<f64> {
        match self {
            Self::Mm(mm) | Self::About { mm, .. } | Self::ZoomsFrom { mm, .. } => Some(mm),
            Self::Unknown | Self::Stays | Self::Zooms => None,
        }
    }

    /// One standard error of that, mm, where it has one.
    pub fn sigma_mm(self) -> Option<f64> {
        match self {
            Self::About { sigma_mm, .. } => Some(sigma_mm),
            Self::ZoomsFrom { sigma_mm, .. } => sigma_mm,
            Self::Unknown | Self::Stays | Self::Zooms | Self::Mm(_) => None,
        }
    }
}

/// Lens terms besides the two radial ones.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[serde(default, deny_unknown_fields)]
pub struct MoreTerms {
    /// A third radial term.
    pub k3: bool,
    /// The tangential terms.
    pub tangential: bool,
    /// The centre.
    pub centre: bool,
}

/// How much the speed of the camera changes from frame to frame, one standard error; `None` where nothing is
/// believed of it.
#[derive(Clone, Copy, Debug, Default, PartialEq, Serialize, Deserialize)]
#[serde(default, deny_unknown_fields)]
pub struct Steadiness {
    /// Of its place, mm per frame.
    pub place_mm: Option<f64>,
    /// Of its turn, degrees per frame.
    pub turn_deg: Option<f64>,
}

/// A point that was measured on the set.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct SurveyedPoint {
    /// What it is called.
    pub name: String,
    /// The track that is it; `None` where that is the one of its name.
    #[serde(default)]
    pub track: Option<u32>,
    /// Its place, m, y up; a coordinate that was not measured is none.
    pub at_m: [Option<f64>; 3],
    /// One standard error of each, m.
    pub sigma_m: [f64; 3],
}

/// Most points of a survey.
pub const MOST_SURVEYED: usize = 2000;
/// Letters of the longest name of one.
const MOST_NAME: usize = 80;

impl SurveyedPoint {
    pub(crate) fn is_possible(&self) -> bool {
        let of_core = Surveyed {
            track: TrackId(self.track.unwrap_or_default()),
            at_m: self.at_m,
            sigma_m: self.sigma_m,
        };
        let letters = self.name.chars().count();
        (1..=MOST_NAME).contains(&letters) && of_core.is_possible()
    }
}
