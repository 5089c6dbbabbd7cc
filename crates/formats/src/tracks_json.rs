//! 2D tracks as JSON, with the same columns as the comma-separated text.
//!
//! `{"schema":"true-parallax/tracks@1","tracks":[{"track","name","group","aside","kind","weight",
//! "samples":[[frame,x,y,sigma_x,sigma_y],…]}]}`; what is left out of a sample's end has its default.

use crate::delivery::package::NamedBytes;
use crate::delivery::{Delivery, DeliveryError};
use crate::format::Format;
use crate::receipt::{FileReceipt, Held};
use crate::tracks_check::{self, ReadTrack};
use crate::tracks_csv::Called;
use crate::tracks_reader::{DEFAULT_SIGMA_PX, MOST_NAME, MOST_ROWS, NamedTracks, is_possible};
use parallax_core::spaces::{FrameNumber, PlatePx, TrackId};
use parallax_core::tracks::{Covariance, Sample, Track, TrackKind};
use serde::{Deserialize, Serialize};
use std::collections::{BTreeMap, HashMap, HashSet};

/// What the file calls itself.
pub const SCHEMA: &str = "true-parallax/tracks@1";

/// Why a text is no track file.
#[derive(Debug, thiserror::Error)]
pub enum TracksJsonError {
    /// Not JSON, or not of this shape.
    #[error("the track file cannot be read: {0}")]
    Shape(String),
    /// Another schema.
    #[error("the file says it is {found}; `{SCHEMA}` is read")]
    Schema {
        /// What it says.
        found: String,
    },
    /// A sample that is no position.
    #[error(
        "sample {index} of track {track} is no position: it needs [frame, x, y, sigma_x, sigma_y] with a whole frame, each frame once, and numbers that a position can have"
    )]
    Sample {
        /// The track.
        track: String,
        /// Which, counted from 1.
        index: usize,
    },
    /// A name that is too long to be one.
    #[error("the name or group of track {index} has more than {MOST_NAME} letters")]
    LongName {
        /// Which track, counted from 1.
        index: usize,
    },
    /// Longer than what is read.
    #[error("the track file has more than {MOST_ROWS} positions")]
    TooLong,
}

#[derive(Serialize, Deserialize)]
struct File {
    schema: String,
    tracks: Vec<Entry>,
}

#[derive(Serialize, Deserialize)]
struct Entry {
    #[serde(default)]
    track: String,
    #[serde(default)]
    name: String,
    #[serde(default)]
    group: String,
    #[serde(default, skip_serializing_if = "String::is_empty")]
    aside: String,
    #[serde(default = "auto")]
    kind: TrackKind,
    #[serde(default = "one")]
    weight: f64,
    samples: Vec<Vec<f64>>,
}

fn auto() -> TrackKind {
    TrackKind::Auto
}

fn one() -> f64 {
    1.0
}

/// Tracks as a JSON value.
pub fn write<'a>(
    tracks: impl IntoIterator<Item = &'a Track>,
    called: impl Fn(TrackId) -> Called,
) -> impl Serialize {
    let tenth = |v: f64| (v * 1e4).round() / 1e4;
    let entry = |t: &Track| {
        let Called { name, group, aside } = called(t.id);
        let sample = |s: &Sample| {
            let Covariance { xx, yy, .. } = s.covariance;
            vec![
                f64::from(s.frame.0),
                tenth(s.px.x),
                tenth(s.px.y),
                tenth(xx.sqrt()),
                tenth(yy.sqrt()),
            ]
        };
        let samples = t.samples.iter().map(sample).collect();
        Entry {
            track: t.id.to_string(),
            name,
            group,
            aside,
            kind: t.kind,
            weight: t.weight,
            samples,
        }
    };
    File {
        schema: SCHEMA.to_owned(),
        tracks: tracks.into_iter().map(entry).collect(),
    }
}

/// Reads and checks tracks.
pub fn read(text: &str) -> Result<NamedTracks, TracksJsonError> {
    let file: File =
        serde_json::from_str(text).map_err(|e| TracksJsonError::Shape(e.to_string()))?;
    if file.schema != SCHEMA {
        return Err(TracksJsonError::Schema { found: file.schema });
    }
    if file.tracks.iter().map(|t| t.samples.len()).sum::<usize>() > MOST_ROWS {
        return Err(TracksJsonError::TooLong);
    }
    let mut out = NamedTracks {
        tracks: Vec::new(),
        identities: Vec::new(),
        names: HashMap::new(),
        groups: HashMap::new(),
        aside: HashSet::new(),
    };
    for (index, entry) in file.tracks.into_iter().enumerate() {
        let id = TrackId(index as u32 + 1);
        if !entry.aside.is_empty() {
            out.aside.insert(id);
        }
        let named = [&entry.track, &entry.name, &entry.group];
        if named.iter().any(|text| text.chars().count() > MOST_NAME) {
            return Err(TracksJsonError::LongName { index: index + 1 });
        }
        let wrong = |index: usize| TracksJsonError::Sample {
            track: entry.track.clone(),
            index: index + 1,
        };
        let mut samples: BTreeMap<i32, Sample> = BTreeMap::new();
        for (k, values) in entry.samples.iter().enumerate() {
            let sample = sample(values).ok_or_else(|| wrong(k))?;
            if samples.insert(sample.frame.0, sample).is_some() {
                return Err(wrong(k));
            }
        }
        if !is_possible([0.0; 2], [0.0; 2], entry.weight) {
            return Err(wrong(0));
        }
        out.identities.push(entry.track.clone());
        out.tracks.push(
            Track::new(id, entry.kind, samples.into_values().collect()).weighing(entry.weight),
        );
        out.names.insert(
            id,
            if entry.name.is_empty() {
                entry.track
            } else {
                entry.name
            },
        );
        if !entry.group.is_empty() {
            out.groups.insert(id, entry.group);
        }
    }
    Ok(out)
}

fn sample(values: &[f64]) -> Option<Sample> {
    let (&[frame, x, y], rest) = (values.get(..3)?.first_chunk::<3>()?, &values[3..]);
    let sigma = |k: usize| rest.get(k).copied().unwrap_or(DEFAULT_SIGMA_PX);
    let (sx, sy) = (sigma(0), sigma(1));
    let fine = values.len() <= 5
        && frame.fract() == 0.0
        && (f64::from(i32::MIN)..=f64::from(i32::MAX)).contains(&frame)
        && is_possible([x, y], [sx, sy], 1.0);
    let covariance = Covariance {
        xx: sx * sx,
        xy: 0.0,
        yy: sy * sy,
    };
    fine.then_some(Sample {
        frame: FrameNumber(frame as i32),
        px: PlatePx::new(x, y),
        covariance,
    })
}

/// The tracks of a delivery as JSON.
const FILE: &str = "tracks.json";

/// The format.
pub struct Json;

impl Format for Json {
    fn write(&self, delivery: &Delivery<'_>) -> Result<Vec<NamedBytes>, DeliveryError> {
        tracks_check::written(delivery, FILE, || {
            let called: HashMap<TrackId, &Called> =
                delivery.tracks.iter().map(|(t, c)| (t.id, c)).collect();
            let of = |id| called.get(&id).copied().cloned().unwrap_or_default();
            let all = write(delivery.tracks.iter().map(|(t, _)| *t), of);
            Ok(serde_json::to_vec(&all)?)
        })
    }

    /// Read value by value, without what the writer is made of.
    fn check(
        &self,
        delivery: &Delivery<'_>,
        files: &Held<'_>,
    ) -> Result<Vec<FileReceipt>, DeliveryError> {
        tracks_check::receipt(delivery, files, FILE, |text| {
            let file: serde_json::Value = serde_json::from_str(text).map_err(|e| e.to_string())?;
            let all = file["tracks"].as_array().ok_or("it holds no tracks")?;
            let text = |value: &serde_json::Value| value.as_str().unwrap_or_default().to_owned();
            let sample = |s: &serde_json::Value| {
                let frame = FrameNumber(i32::try_from(s[0].as_f64()? as i64).ok()?);
                Some((frame, PlatePx::new(s[1].as_f64()?, s[2].as_f64()?)))
            };
            let one = |t: &serde_json::Value| {
                let at = t["samples"].as_array()?.iter().map(sample);
                let (name, group) = (text(&t["name"]), text(&t["group"]));
                let at = at.collect::<Option<Vec<_>>>()?;
                Some((text(&t["track"]), ReadTrack { name, group, at }))
            };
            let all: Option<HashMap<_, _>> = all.iter().map(one).collect();
            all.ok_or_else(|| "a track is incomplete".to_owned())
        })
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[test]
    fn what_is_written_is_read_back() {
        let at = |frame: i32| Sample {
            frame: FrameNumber(frame),
            px: PlatePx::new(3.25, f64::from(frame)),
            covariance: Covariance {
                xx: 0.01,
                xy: 0.0,
                yy: 0.04,
            },
        };
        let track = Track::new(TrackId(8), TrackKind::Hand, vec![at(-2), at(9)]).weighing(2.0);
        let called = |_| Called {
            name: "nail".to_owned(),
            group: "door".to_owned(),
            aside: "mover".to_owned(),
        };
        let text = serde_json::to_string(&write([&track], called)).unwrap();
        let back = read(&text).unwrap();
        assert_eq!(
            (back.tracks[0].kind, back.tracks[0].weight),
            (TrackKind::Hand, 2.0)
        );
        assert_eq!(back.tracks[0].samples.len(), 2);
        assert_eq!(back.tracks[0].samples[1].px, track.samples[1].px);
        assert!((back.tracks[0].samples[0].covariance.yy - 0.04).abs() < 1e-9);
        assert_eq!(
            (
                back.names[&TrackId(1)].as_str(),
                back.groups[&TrackId(1)].as_str()
            ),
            ("nail", "door")
        );
        assert!(back.aside.contains(&TrackId(1)));
    }

    #[rstest]
    #[case::schema(r#"{"schema":"other","tracks":[]}"#)]
    #[case::no_tracks(r#"{"schema":"true-parallax/tracks@1"}"#)]
    #[case::short(r#"{"schema":"true-parallax/tracks@1","tracks":[{"samples":[[1,2]]}]}"#)]
    #[case::half_a_frame(
        r#"{"schema":"true-parallax/tracks@1","tracks":[{"samples":[[1.5,2,3]]}]}"#
    )]
    #[case::twice(
        r#"{"schema":"true-parallax/tracks@1","tracks":[{"samples":[[1,2,3],[1,2,3]]}]}"#
    )]
    #[case::negative_sigma(
        r#"{"schema":"true-parallax/tracks@1","tracks":[{"samples":[[1,2,3,-1]]}]}"#
    )]
    fn what_is_no_track_file_is_refused(#[case] text: &str) {
        assert!(read(text).is_err());
    }
}
