//! Reads surveyed points from comma-separated text.
//!
//! Header `name,x,y,z`, then optionally `sigma` or any of `sigma_x,sigma_y,sigma_z`, in any order; metres,
//! right-handed. An empty coordinate was not measured. Semicolons may stand for the commas, and then commas
//! in numbers for points.

use parallax_core::scene::Receiver;
use parallax_core::solve::survey::{MOST_M, SIGMAS_M};
use std::collections::HashSet;

/// Most points that are read.
pub const MOST_POINTS: usize = 10_000;
/// Standard error of a coordinate that comes without one, m.
pub const DEFAULT_SIGMA_M: f64 = 0.005;
/// Letters of the longest name.
const MOST_NAME: usize = crate::tracks_reader::MOST_NAME;

/// A point of a survey, y up.
#[derive(Clone, Debug, PartialEq)]
pub struct SurveyPoint {
    /// What it is called.
    pub name: String,
    /// Its place, m; `None` for a coordinate that was not measured.
    pub at_m: [Option<f64>; 3],
    /// One standard error of each, m.
    pub sigma_m: [f64; 3],
}

/// Why a text is no survey.
#[derive(Debug, PartialEq, thiserror::Error)]
pub enum SurveyError {
    /// A row that is none.
    #[error(
        "the survey cannot be read at row {row}: {reason}. It needs the columns name,x,y,z in metres"
    )]
    Row {
        /// Row, the header being 1.
        row: usize,
        /// What is wrong.
        reason: String,
    },
    /// Two points of one name.
    #[error("the survey has two points that are called {0}")]
    Twice(String),
    /// Nothing in it.
    #[error("the survey has no points")]
    Empty,
    /// Longer than what is read.
    #[error("the survey has more than {MOST_POINTS} points")]
    TooLong,
}

/// Reads a survey whose axes are a receiver's, as points with y up.
pub fn read(text: &str, axes: Receiver) -> Result<Vec<SurveyPoint>, SurveyError> {
    let text = text.trim_start_matches('\u{feff}');
    let first = text.lines().next().unwrap_or_default();
    let semicolons = first.contains(';');
    let mut reader = csv::ReaderBuilder::new()
        .trim(csv::Trim::All)
        .delimiter(if semicolons { b';' } else { b',' })
        .from_reader(text.as_bytes());
    let wrong = |row: usize, reason: String| SurveyError::Row { row, reason };
    let header = reader.headers().map_err(|e| wrong(1, e.to_string()))?;
    let columns = Columns::of(header).map_err(|reason| wrong(1, reason))?;
    let (mut points, mut names) = (Vec::new(), HashSet::new());
    for (index, record) in reader.records().enumerate() {
        let row = index + 2;
        if index >= MOST_POINTS {
            return Err(SurveyError::TooLong);
        }
        let record = record.map_err(|e| wrong(row, e.to_string()))?;
        let point = columns
            .point(&record, semicolons)
            .map_err(|reason| wrong(row, reason))?;
        if !names.insert(point.name.to_lowercase()) {
            return Err(SurveyError::Twice(point.name));
        }
        points.push(upright(point, axes));
    }
    match points.is_empty() {
        true => Err(SurveyError::Empty),
        false => Ok(points),
    }
}

/// Which column holds what.
struct Columns {
    name: usize,
    at: [usize; 3],
    sigma: Option<usize>,
    sigmas: [Option<usize>; 3],
}

impl Columns {
    fn of(header: &csv::StringRecord) -> Result<Self, String> {
        let find = |name: &str| header.iter().position(|h| h.eq_ignore_ascii_case(name));
        let needed = |name: &str| find(name).ok_or(format!("the column {name} is missing"));
        Ok(Self {
            name: needed("name")?,
            at: [needed("x")?, needed("y")?, needed("z")?],
            sigma: find("sigma"),
            sigmas: ["sigma_x", "sigma_y", "sigma_z"].map(find),
        })
    }

    fn point(&self, record: &csv::StringRecord, commas: bool) -> Result<SurveyPoint, String> {
        let cell = |at: usize| record.get(at).unwrap_or_default();
        let number = |at: usize| -> Result<Option<f64>, String> {
            let text = match commas {
                true => cell(at).replace(',', "."),
                false => cell(at).to_owned(),
            };
            if text.is_empty() {
                return Ok(None);
            }
            let value: f64 = text.parse().map_err(|_| format!("`{text}` is no number"))?;
            let is_possible = value.is_finite() && value.abs() <= MOST_M;
            let far = || format!("`{text}` is beyond {MOST_M:.0} m");
            is_possible.then_some(Some(value)).ok_or_else(far)
        };
        let name = cell(self.name).to_owned();
        if name.is_empty() {
            return Err("the point has no name".to_owned());
        }
        if name.chars().count() > MOST_NAME {
            return Err(format!("its name has more than {MOST_NAME} letters"));
        }
        let mut at_m = [None; 3];
        let mut sigma_m = [DEFAULT_SIGMA_M; 3];
        let common = self.sigma.map(number).transpose()?.flatten();
        for axis in 0..3 {
            at_m[axis] = number(self.at[axis])?;
            let own = self.sigmas[axis].map(number).transpose()?.flatten();
            sigma_m[axis] = own.or(common).unwrap_or(DEFAULT_SIGMA_M);
        }
        if at_m.iter().all(Option::is_none) {
            return Err(format!("{name} has no coordinate"));
        }
        if !sigma_m.iter().all(|s| SIGMAS_M.contains(s)) {
            return Err(format!(
                "a standard error of {name} is not greater than 0, or beyond 10 km"
            ));
        }
        Ok(SurveyPoint {
            name,
            at_m,
            sigma_m,
        })
    }
}

/// In axes of ours.
fn upright(point: SurveyPoint, axes: Receiver) -> SurveyPoint {
    let order = axes.from_world();
    SurveyPoint {
        at_m: order.map(|(axis, sign)| point.at_m[axis].map(|c| sign * c)),
        sigma_m: order.map(|(axis, _)| point.sigma_m[axis]),
        ..point
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use parallax_core::scene::{Hand, Up};
    use parallax_core::spaces::WorldPoint;
    use rstest::rstest;

    #[test]
    fn names_places_and_errors_are_read() {
        let text = "name,x,y,z,sigma,sigma_y\nkerb,1.5,-2,3,0.01,0.002\nfloor,,0,,,\n";
        let points = read(text, Receiver::default()).unwrap();
        assert_eq!(points.len(), 2);
        assert_eq!(points[0].name, "kerb");
        assert_eq!(points[0].at_m, [Some(1.5), Some(-2.0), Some(3.0)]);
        assert_eq!(points[0].sigma_m, [0.01, 0.002, 0.01]);
        assert_eq!(points[1].at_m, [None, Some(0.0), None]);
        assert_eq!(points[1].sigma_m, [DEFAULT_SIGMA_M; 3]);
    }

    #[test]
    fn semicolons_go_with_decimal_commas() {
        let points = read("name;x;y;z\nkerb;1,5;2;-3,25\n", Receiver::default()).unwrap();
        assert_eq!(points[0].at_m, [Some(1.5), Some(2.0), Some(-3.25)]);
    }

    /// Whatever axes a survey has, its points are where a delivery in these axes would put them.
    #[rstest]
    fn axes_are_turned_upright(
        #[values(Up::Y, Up::Z)] up: Up,
        #[values(Hand::Right, Hand::Left)] hand: Hand,
    ) {
        let axes = Receiver::of_axes(up, hand);
        let [x, y, z] = axes.point(&WorldPoint::new(1.0, 2.0, 3.0));
        let text = format!("name,x,y,z,sigma_x\nkerb,{x},{y},{z},0.1\n");
        let points = read(&text, axes).unwrap();
        assert_eq!(points[0].at_m, [Some(1.0), Some(2.0), Some(3.0)]);
        assert_eq!(points[0].sigma_m[0], 0.1);
    }

    #[rstest]
    #[case::nothing("", "name is missing")]
    #[case::no_rows("name,x,y,z\n", "no points")]
    #[case::no_column("name,x,y\na,1,2\n", "column z is missing")]
    #[case::no_number("name,x,y,z\na,1,two,3\n", "row 2: `two` is no number")]
    #[case::infinite("name,x,y,z\na,1,inf,3\n", "beyond")]
    #[case::no_name("name,x,y,z\n,1,2,3\n", "has no name")]
    #[case::nowhere("name,x,y,z\na,,,\n", "has no coordinate")]
    #[case::no_error("name,x,y,z,sigma\na,1,2,3,0\n", "not greater than 0")]
    #[case::twice("name,x,y,z\na,1,2,3\nA,1,2,3\n", "two points")]
    #[case::ragged("name,x,y,z\na,1,2\n", "row 2")]
    fn what_is_no_survey_is_refused_with_its_row(#[case] text: &str, #[case] said: &str) {
        let error = read(text, Receiver::default()).unwrap_err().to_string();
        assert!(error.contains(said), "{error}");
    }
}
