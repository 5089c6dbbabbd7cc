//! What an artist states and marks of a shot's lens.

use crate::things::Things;
use parallax_core::camera::Intrinsics;
use parallax_core::lens::Distortion;
use parallax_core::lens::convert::Convention;
use parallax_core::lens::maps::Keep;
use parallax_core::lens::straights::{Centre, LensOptions};
use parallax_core::spaces::PlatePx;
use serde::{Deserialize, Serialize};

/// Marks along one straight thing on a frame of the shot.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Straight {
    /// The frame on which it is marked.
    pub frame: i32,
    /// Its marks in order along it, px.
    pub marks: Vec<[f64; 2]>,
}

/// Where the lens of a shot comes from.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum LensSource {
    /// From its straights; without any there is no lens.
    #[default]
    Straights,
    /// From values that were typed or taken from the library.
    Values,
}

/// Values as they were typed or taken.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
#[serde(default, deny_unknown_fields)]
pub struct LensValues {
    /// What the polynomial maps.
    pub convention: Convention,
    /// Its terms.
    pub terms: Distortion,
    /// The unit of the radius, px; where it is not stated, the focal length if that is, else the width.
    pub focal_px: Option<f64>,
    /// Centre of distortion, px; the middle when left out.
    pub centre: Option<[f64; 2]>,
    /// Name in the library, where they come from there.
    pub taken_from: Option<String>,
}

/// What is known of a shot's lens.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(default, deny_unknown_fields)]
pub struct LensState {
    /// Where the lens comes from.
    pub source: LensSource,
    /// Marks along straight things.
    pub straights: Things<Straight>,
    /// Radial terms that are solved from them, 1 to 3.
    pub terms: usize,
    /// Whether tangential terms are solved.
    pub tangential: bool,
    /// Whether the centre is.
    pub centre: Centre,
    /// Values, where the lens comes from these.
    pub values: LensValues,
    /// What the undistorted picture keeps.
    pub keep: Keep,
}

impl Default for LensState {
    fn default() -> Self {
        Self {
            source: LensSource::default(),
            straights: Things::default(),
            terms: 2,
            tangential: false,
            centre: Centre::Fixed,
            values: LensValues::default(),
            keep: Keep::All,
        }
    }
}

/// Straights that are kept at most.
const MOST_STRAIGHTS: usize = 200;
/// Marks that are kept at most.
const MOST_MARKS: usize = 6000;

impl LensState {
    /// True when nothing is marked nor stated.
    pub fn is_empty(&self) -> bool {
        match self.source {
            LensSource::Straights => self.straights.is_empty(),
            LensSource::Values => self.values.terms.is_none(),
        }
    }

    /// The values as a lens of a picture of this size, in the convention they are written in.
    /// Without a stated unit of the radius, `focal_px` is taken, or the width.
    pub fn typed(&self, width_px: u32, height_px: u32, focal_px: Option<f64>) -> Intrinsics {
        let values = &self.values;
        let unit_px = values.focal_px.or(focal_px).unwrap_or(f64::from(width_px));
        let plain = Intrinsics::centred(width_px, height_px, unit_px);
        Intrinsics {
            centre: values
                .centre
                .map_or(plain.centre, |[x, y]| PlatePx::new(x, y)),
            distortion: values.terms,
            ..plain
        }
    }

    /// The marks of all straights.
    pub fn marks(&self) -> Vec<Vec<PlatePx>> {
        let mark = |[x, y]: &[f64; 2]| PlatePx::new(*x, *y);
        self.straights
            .iter()
            .map(|s| s.marks.iter().map(mark).collect())
            .collect()
    }

    /// What is solved from straights.
    pub fn options(&self, focal_px: Option<f64>) -> LensOptions {
        LensOptions {
            terms: self.terms,
            tangential: self.tangential,
            centre: self.centre,
            focal_px,
        }
    }

    /// What cannot be kept; what only cannot be solved is said by the solve.
    pub fn complaint(&self) -> Option<String> {
        let marks: usize = self.straights.iter().map(|s| s.marks.len()).sum();
        if self.straights.len() > MOST_STRAIGHTS || marks > MOST_MARKS {
            return Some(format!(
                "a shot has {MOST_STRAIGHTS} straights and {MOST_MARKS} marks at most"
            ));
        }
        let far = |v: &f64| !v.is_finite() || v.abs() > 1e6;
        if self
            .straights
            .iter()
            .flat_map(|s| s.marks.as_flattened())
            .any(far)
        {
            return Some("a mark lies beyond all measure".to_owned());
        }
        if !(1..=3).contains(&self.terms) {
            return Some("a lens has one to three radial terms".to_owned());
        }
        let Distortion {
            k1,
            k2,
            k3,
            p1,
            p2,
            k1_by_zoom,
        } = self.values.terms;
        if [k1, k2, k3, p1, p2, k1_by_zoom]
            .iter()
            .any(|k| !k.is_finite() || k.abs() > 1000.0)
        {
            return Some("lens terms lie between -1000 and 1000".to_owned());
        }
        if self
            .values
            .focal_px
            .is_some_and(|f| !(f.is_finite() && (1.0..1e6).contains(&f)))
        {
            return Some("the unit of the radius has to be greater than 1 px".to_owned());
        }
        if self.values.centre.is_some_and(|c| c.iter().any(far)) {
            return Some("the centre lies beyond all measure".to_owned());
        }
        None
    }
}

#[cfg(test)]
mod tests {
    #![allow(clippy::unwrap_used)]

    use super::*;
    use crate::ShotState;
    use rstest::rstest;
    use serde_json::{Value, json};

    /// A shot kept before lenses had a state of their own, brought to this version.
    async fn migrated(lens: Value) -> ShotState {
        let pool = sqlx::sqlite::SqlitePoolOptions::new()
            .max_connections(1)
            .connect("sqlite::memory:")
            .await
            .unwrap();
        sqlx::raw_sql(include_str!("../migrations/0001_shots.sql"))
            .execute(&pool)
            .await
            .unwrap();
        let mut state = serde_json::to_value(ShotState::new(1280, 720)).unwrap();
        state["lens"] = lens;
        let text = state.to_string();
        let insert = "INSERT INTO shots (name, folder, sequence, width_px, height_px, state) VALUES ('', '', '', 1, 1, ?)";
        sqlx::query(insert).bind(text).execute(&pool).await.unwrap();
        sqlx::raw_sql(include_str!("../migrations/0003_lens.sql"))
            .execute(&pool)
            .await
            .unwrap();
        let kept: String = sqlx::query_scalar("SELECT state FROM shots")
            .fetch_one(&pool)
            .await
            .unwrap();
        serde_json::from_str(&kept).unwrap()
    }

    #[rstest]
    #[case::none(json!({ "k1": 0.0, "k2": 0.0, "k3": 0.0, "p1": 0.0, "p2": 0.0 }), LensState::default())]
    #[case::terms(json!({ "k1": -0.1, "k2": 0.02, "k3": 0.0, "p1": 0.0, "p2": 0.0 }), LensState {
        source: LensSource::Values,
        values: LensValues { terms: Distortion::radial(-0.1, 0.02), ..LensValues::default() },
        ..LensState::default()
    })]
    #[tokio::test]
    async fn terms_of_older_shots_are_kept(#[case] before: Value, #[case] after: LensState) {
        assert_eq!(migrated(before).await.lens, after);
    }

    #[test]
    fn the_unit_of_the_radius_is_the_focal_length_where_that_is_known() {
        let values = LensValues {
            terms: Distortion::radial(-0.05, 0.0),
            ..LensValues::default()
        };
        let state = LensState {
            source: LensSource::Values,
            values,
            ..LensState::default()
        };
        let unit_px = |focal_px| state.typed(1280, 720, focal_px).focal_px;
        assert_eq!((unit_px(None), unit_px(Some(960.0))), (1280.0, 960.0));
        assert!(LensState::default().is_empty());
    }
}
