//! Reads what is known of several features together: `true-parallax/constraints@1`, JSON.
//!
//! ```json
//! {
//!   "schema": "true-parallax/constraints@1",
//!   "lengths": [{"between": ["door left", "door right"], "m": 0.9, "sigma_mm": 3}],
//!   "planes": [{"tracks": ["tile 1", "tile 2", "tile 3", "tile 4"], "sigma_mm": 5}, {"group": "wall"}]
//! }
//! ```
//!
//! Features are named as their tracks are, those of a plane one by one or by their group. An error that is left
//! out is 5 mm.

use parallax_core::solve::constraints::{FEWEST_ON_A_PLANE, LENGTHS_M};
use serde::Deserialize;

/// The value of the key `schema`.
pub const SCHEMA: &str = "true-parallax/constraints@1";

/// The whole file.
#[derive(Clone, Debug, PartialEq, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct ConstraintsFile {
    /// Always [`SCHEMA`].
    pub schema: String,
    /// Lengths between two features.
    #[serde(default)]
    pub lengths: Vec<NamedLength>,
    /// Planes that features lie on.
    #[serde(default)]
    pub planes: Vec<NamedPlane>,
}

/// A length between two features.
#[derive(Clone, Debug, PartialEq, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct NamedLength {
    /// Names of their tracks.
    pub between: [String; 2],
    /// The length, m.
    pub m: f64,
    /// Its standard error, mm.
    #[serde(default = "usual_mm")]
    pub sigma_mm: f64,
}

/// A plane that features lie on.
#[derive(Clone, Debug, PartialEq, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct NamedPlane {
    /// Names of their tracks.
    #[serde(default)]
    pub tracks: Vec<String>,
    /// Name of their group, with those that are named.
    #[serde(default)]
    pub group: Option<String>,
    /// One standard error of how far they are off it, mm.
    #[serde(default = "usual_mm")]
    pub sigma_mm: f64,
}

fn usual_mm() -> f64 {
    5.0
}

/// Why a text is no file of constraints.
#[derive(Debug, thiserror::Error)]
pub enum ConstraintsError {
    /// Not JSON of this shape.
    #[error("this is no file of constraints: {0}")]
    Json(#[from] serde_json::Error),
    /// Another schema.
    #[error("the file says schema `{0}`; `{SCHEMA}` is what can be read")]
    Schema(String),
    /// A length or an error beyond all measure.
    #[error("{0} m is no length or error: these lie between a thousandth of a mm and 1000 km")]
    Beyond(f64),
    /// A plane without features.
    #[error("a plane needs a group, or {FEWEST_ON_A_PLANE} features or more")]
    Plane,
    /// A length from a feature to itself.
    #[error("a length lies between two features, not between {0} and itself")]
    Same(String),
}

impl ConstraintsFile {
    /// Reads and checks a file.
    pub fn read(text: &str) -> Result<Self, ConstraintsError> {
        let file: Self = serde_json::from_str(text)?;
        if file.schema != SCHEMA {
            return Err(ConstraintsError::Schema(file.schema));
        }
        let lengths = file.lengths.iter().flat_map(|l| [l.m, l.sigma_mm / 1000.0]);
        let planes = file.planes.iter().map(|p| p.sigma_mm / 1000.0);
        let mut all = lengths.chain(planes);
        if let Some(beyond) = all.find(|metres| !LENGTHS_M.contains(metres)) {
            return Err(ConstraintsError::Beyond(beyond));
        }
        let too_few = |p: &NamedPlane| p.group.is_none() && p.tracks.len() < FEWEST_ON_A_PLANE;
        if file.planes.iter().any(too_few) {
            return Err(ConstraintsError::Plane);
        }
        let same = |l: &&NamedLength| l.between[0].eq_ignore_ascii_case(&l.between[1]);
        match file.lengths.iter().find(same) {
            Some(length) => Err(ConstraintsError::Same(length.between[0].clone())),
            None => Ok(file),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    fn file(rest: &str) -> String {
        format!("{{\"schema\": \"{SCHEMA}\", {rest}}}")
    }

    #[test]
    fn lengths_and_planes_are_read() {
        let text = file(
            r#""lengths": [{"between": ["a", "b"], "m": 0.9, "sigma_mm": 3}],
               "planes": [{"group": "wall"}, {"tracks": ["a", "b", "c", "d"], "sigma_mm": 2}]"#,
        );
        let read = ConstraintsFile::read(&text).unwrap();
        assert_eq!(read.lengths[0].between, ["a", "b"]);
        assert_eq!((read.lengths[0].m, read.lengths[0].sigma_mm), (0.9, 3.0));
        assert_eq!(read.planes[0].group.as_deref(), Some("wall"));
        assert_eq!(
            (read.planes[0].sigma_mm, read.planes[1].sigma_mm),
            (5.0, 2.0)
        );
    }

    #[rstest]
    #[case::not_json("lengths")]
    #[case::schema("{\"schema\": \"other\"}")]
    #[case::zero(&file(r#""lengths": [{"between": ["a", "b"], "m": 0}]"#))]
    #[case::negative_error(&file(r#""lengths": [{"between": ["a", "b"], "m": 1, "sigma_mm": -1}]"#))]
    #[case::three(&file(r#""planes": [{"tracks": ["a", "b", "c"]}]"#))]
    #[case::itself(&file(r#""lengths": [{"between": ["a", "A"], "m": 1}]"#))]
    #[case::unknown_key(&file(r#""planes": [{"group": "wall", "sigma": 1}]"#))]
    fn what_is_none_is_refused(#[case] text: &str) {
        let refused = ConstraintsFile::read(text).unwrap_err();
        assert!(!refused.to_string().is_empty());
    }
}
