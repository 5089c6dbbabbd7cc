//! Reads 2D tracks from comma-separated text.
//!
//! Header `track,frame,x,y`, then optionally `sigma_x,sigma_y,weight,kind,name,group,aside` in any order.
//! Written apart from the writer ([`crate::tracks_csv`]), so that a receipt proves something.
//! What cannot be a position is refused with its row: nothing that is not finite, and nothing
//! beyond what can be kept, comes in.

use parallax_core::spaces::{FrameNumber, PlatePx, TrackId};
use parallax_core::tracks::{Covariance, Sample, Track, TrackKind};
use serde::Deserialize;
use std::collections::{BTreeMap, HashMap, HashSet};

/// Most rows that are read.
pub const MOST_ROWS: usize = 5_000_000;
/// Standard error of positions that come without one, px.
pub const DEFAULT_SIGMA_PX: f64 = 0.2;

/// Positions lie within so many px of the picture's corner.
pub const MOST_PX: f64 = 1e6;
/// Largest standard error of a position, px.
pub const MOST_SIGMA_PX: f64 = 1e4;
/// Largest weight.
pub const MOST_WEIGHT: f64 = 100.0;
/// Letters of the longest name or group.
pub const MOST_NAME: usize = 80;

/// Why a text is no track file.
#[derive(Debug, thiserror::Error)]
pub enum TracksFileError {
    /// Not comma-separated text with the four columns.
    #[error(
        "the track file cannot be read at row {row}: {reason}. It needs the columns track,frame,x,y"
    )]
    Row {
        /// Row, the header being 1.
        row: u64,
        /// What is wrong.
        reason: String,
    },
    /// A number that cannot be a position.
    #[error(
        "row {row} of the track file states a number that no position has: positions lie within {MOST_PX:.0} px, standard errors between 0 and {MOST_SIGMA_PX:.0} px, weights between 0 and {MOST_WEIGHT:.0}"
    )]
    OutOfRange {
        /// Row, the header being 1.
        row: u64,
    },
    /// A name that is too long to be one.
    #[error("row {row} of the track file has a name of more than {MOST_NAME} letters")]
    LongName {
        /// Row, the header being 1.
        row: u64,
    },
    /// The same track twice on one frame.
    #[error("track {track} has two positions on frame {frame}")]
    Twice {
        /// Name of the track.
        track: String,
        /// The frame.
        frame: i32,
    },
    /// Longer than what is read.
    #[error("the track file has more than {MOST_ROWS} rows")]
    TooLong,
}

#[derive(Deserialize)]
struct Row {
    track: String,
    frame: i32,
    x: f64,
    y: f64,
    #[serde(default)]
    sigma_x: Option<f64>,
    #[serde(default)]
    sigma_y: Option<f64>,
    #[serde(default)]
    weight: Option<f64>,
    #[serde(default)]
    kind: Option<TrackKind>,
    #[serde(default)]
    name: Option<String>,
    #[serde(default)]
    group: Option<String>,
    #[serde(default)]
    aside: Option<String>,
}

/// Tracks with the names they had in the file.
#[derive(Debug)]
pub struct NamedTracks {
    /// Tracks, ids counted from 1 in the order of their names' first appearance.
    pub tracks: Vec<Track>,
    /// What the file tells each track by, in the order of the tracks.
    pub identities: Vec<String>,
    /// Name of each track: what it is called, or else its identity in the file.
    pub names: HashMap<TrackId, String>,
    /// The groups of those that are in one.
    pub groups: HashMap<TrackId, String>,
    /// Those that take no part.
    pub aside: HashSet<TrackId>,
}

/// Reads and checks tracks.
pub fn read_csv(text: &str) -> Result<NamedTracks, TracksFileError> {
    let mut reader = csv::ReaderBuilder::new()
        .trim(csv::Trim::All)
        .from_reader(text.as_bytes());
    let unreadable = |reason: String| TracksFileError::Row { row: 1, reason };
    let header = reader.headers().map_err(|e| unreadable(e.to_string()))?;
    if let Some(lacking) = ["track", "frame", "x", "y"]
        .iter()
        .find(|c| !header.iter().any(|h| h == **c))
    {
        return Err(unreadable(format!("the column {lacking} is missing")));
    }
    let mut order: Vec<String> = Vec::new();
    let mut found: HashMap<String, (Row, BTreeMap<i32, Sample>)> = HashMap::new();
    for (index, row) in reader.deserialize::<Row>().enumerate() {
        let number = index as u64 + 2;
        if index >= MOST_ROWS {
            return Err(TracksFileError::TooLong);
        }
        let row = row.map_err(|e| TracksFileError::Row {
            row: number,
            reason: e.to_string(),
        })?;
        let named = [Some(&row.track), row.name.as_ref(), row.group.as_ref()];
        let long = |text: &&String| text.chars().count() > MOST_NAME;
        if named.into_iter().flatten().any(|text| long(&text)) {
            return Err(TracksFileError::LongName { row: number });
        }
        let sample = sample(&row).ok_or(TracksFileError::OutOfRange { row: number })?;
        let (track, frame) = (row.track.clone(), row.frame);
        let entry = found.entry(track.clone()).or_insert_with(|| {
            order.push(track.clone());
            (row, BTreeMap::new())
        });
        if entry.1.insert(frame, sample).is_some() {
            return Err(TracksFileError::Twice { track, frame });
        }
    }
    let (mut names, mut groups) = (HashMap::new(), HashMap::new());
    let mut aside = HashSet::new();
    let identities = order.clone();
    let mut tracks = Vec::with_capacity(order.len());
    for (index, name) in order.into_iter().enumerate() {
        let Some((first, samples)) = found.remove(&name) else {
            continue;
        };
        let id = TrackId(index as u32 + 1);
        let (kind, weight) = (
            first.kind.unwrap_or(TrackKind::Auto),
            first.weight.unwrap_or(1.0),
        );
        tracks.push(Track::new(id, kind, samples.into_values().collect()).weighing(weight));
        let given = |text: Option<String>| text.filter(|t| !t.is_empty());
        names.insert(id, given(first.name).unwrap_or(name));
        groups.extend(given(first.group).map(|group| (id, group)));
        aside.extend(given(first.aside).map(|_| id));
    }
    Ok(NamedTracks {
        tracks,
        identities,
        names,
        groups,
        aside,
    })
}

fn sample(row: &Row) -> Option<Sample> {
    let (sx, sy) = (
        row.sigma_x.unwrap_or(DEFAULT_SIGMA_PX),
        row.sigma_y.unwrap_or(DEFAULT_SIGMA_PX),
    );
    let weight = row.weight.unwrap_or(1.0);
    let fine = is_possible([row.x, row.y], [sx, sy], weight);
    let covariance = Covariance {
        xx: sx * sx,
        xy: 0.0,
        yy: sy * sy,
    };
    fine.then_some(Sample {
        frame: FrameNumber(row.frame),
        px: PlatePx::new(row.x, row.y),
        covariance,
    })
}

/// Whether numbers can be a position, its standard errors and its weight: finite, and within
/// what can be computed with and kept.
pub fn is_possible(px: [f64; 2], sigma_px: [f64; 2], weight: f64) -> bool {
    px.iter().all(|v| v.abs() <= MOST_PX)
        && sigma_px.iter().all(|s| (0.0..=MOST_SIGMA_PX).contains(s))
        && (0.0..=MOST_WEIGHT).contains(&weight)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::tracks_csv::{Called, write};
    use rstest::rstest;

    #[test]
    fn what_is_written_is_read_back() {
        let at = |frame: i32, x: f64| Sample {
            frame: FrameNumber(frame),
            px: PlatePx::new(x, 20.25),
            covariance: Covariance {
                xx: 0.01,
                xy: 0.0,
                yy: 0.04,
            },
        };
        let track = Track::new(
            TrackId(1),
            TrackKind::Hand,
            vec![at(-2, 10.5), at(3, 11.125)],
        )
        .weighing(0.5);
        let called = Called {
            name: "nail, left".to_owned(),
            group: "door".to_owned(),
            aside: "mover".to_owned(),
        };
        let back = read_csv(&write([(&track, &called)]).unwrap()).unwrap();
        assert_eq!(back.identities, ["t0001"]);
        assert_eq!(back.names[&TrackId(1)], "nail, left");
        assert_eq!(back.groups[&TrackId(1)], "door");
        assert!(back.aside.contains(&TrackId(1)));
        assert_eq!(back.tracks.len(), 1);
        assert_eq!(back.tracks[0].kind, TrackKind::Hand);
        assert_eq!(back.tracks[0].weight, 0.5);
        for (a, b) in back.tracks[0].samples.iter().zip(&track.samples) {
            assert_eq!(a.frame, b.frame);
            assert!(a.px.distance_px(b.px) < 1e-4);
            assert!((a.covariance.yy - b.covariance.yy).abs() < 1e-6);
        }
    }

    #[test]
    fn four_columns_are_enough() {
        let read = read_csv("track,frame,x,y\nnail,1001,3.5,4.5\nnail,1002,3.6,4.5\n").unwrap();
        assert_eq!(read.names[&TrackId(1)], "nail");
        assert_eq!(read.tracks[0].samples.len(), 2);
    }

    #[rstest]
    #[case::no_column("track,frame,x\na,1,2\n")]
    #[case::no_number("track,frame,x,y\na,1,2,here\n")]
    #[case::not_finite("track,frame,x,y\na,1,2,NaN\n")]
    #[case::twice("track,frame,x,y\na,1,2,3\na,1,2,3\n")]
    #[case::negative_sigma("track,frame,x,y,sigma_x\na,1,2,3,-1\n")]
    #[case::sigma_whose_square_is_infinite("track,frame,x,y,sigma_x\na,1,2,3,1e200\n")]
    #[case::far_beyond("track,frame,x,y\na,1,1e300,3\n")]
    #[case::heavy("track,frame,x,y,weight\na,1,2,3,1e300\n")]
    fn what_is_no_track_file_is_refused(#[case] text: &str) {
        assert!(read_csv(text).is_err());
    }
}
