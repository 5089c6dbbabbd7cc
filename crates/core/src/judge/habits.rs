//! What tracks do by themselves: shake, drift, double others, live too short a time.

use super::{Suspect, Why};
use crate::spaces::{FrameNumber, TrackId};
use crate::statistics::median;
use crate::tracks::{Sample, Track};
use nalgebra::Vector2;
use std::collections::{BTreeMap, HashMap};

/// A track that lives on fewer frames says little about the camera.
const SHORT_FRAMES: usize = 5;
/// Nearer than this, px at 1280, on all frames they share, two tracks follow one detail.
const SAME_PX: f64 = 3.0;
/// Frames that two tracks have to share to be called one.
const SHARED_FRAMES: usize = 5;
/// Off the detail it was born on by more than this, px at 1280, a track drifts.
const DRIFT_PX: f64 = 0.5;
/// Shaking by so many of its own standard errors, and by so many px at 1280, a track jitters.
const JITTER_SIGMAS: f64 = 3.0;
const JITTER_PX: f64 = 0.3;

/// All suspects by their habits.
pub fn suspects(tracks: &[Track], width_px: u32) -> Vec<Suspect> {
    let scale = (f64::from(width_px) / 1280.0).clamp(0.5, 4.0);
    let mut out = duplicates(tracks, SAME_PX * scale);
    for t in tracks {
        let Some(middle) = t.samples.get(t.samples.len() / 2) else {
            continue;
        };
        let suspect = |why, figure, frame| Suspect {
            track: t.id,
            why,
            figure,
            frame,
            other: None,
        };
        if t.samples.len() < SHORT_FRAMES {
            out.push(suspect(Why::Short, t.samples.len() as f64, middle.frame));
        }
        if let Some(drift) = t.drift_px.filter(|d| *d > DRIFT_PX * scale) {
            out.push(suspect(
                Why::Drifts,
                drift,
                t.samples.last().map_or(middle.frame, |s| s.frame),
            ));
        }
    }
    let rest = bends(tracks);
    for t in tracks {
        if let Some((px, sigmas, frame)) = jitter(t, &rest)
            && sigmas > JITTER_SIGMAS
            && px > JITTER_PX * scale
        {
            out.push(Suspect {
                track: t.id,
                why: Why::Jitters,
                figure: px,
                frame,
                other: None,
            });
        }
    }
    out
}

/// How much a path bends at each of its frames: the second difference, px.
fn second_differences(track: &Track) -> impl Iterator<Item = (&Sample, Vector2<f64>)> {
    track
        .samples
        .windows(3)
        .filter(|w| w[2].frame.0 - w[0].frame.0 == 2)
        .map(|w| {
            let bend = (w[0].px.offset_from(w[1].px) + w[2].px.offset_from(w[1].px)) / 2.0;
            (&w[1], bend)
        })
}

/// The median bend of all tracks on each frame: the camera's own shaking.
fn bends(tracks: &[Track]) -> HashMap<FrameNumber, Vector2<f64>> {
    let mut all: BTreeMap<FrameNumber, [Vec<f64>; 2]> = BTreeMap::new();
    for (sample, bend) in tracks.iter().flat_map(second_differences) {
        let [x, y] = all.entry(sample.frame).or_default();
        x.push(bend.x);
        y.push(bend.y);
    }
    let median = |mut v: Vec<f64>| median(&mut v).unwrap_or(0.0);
    all.into_iter()
        .map(|(f, [x, y])| (f, Vector2::new(median(x), median(y))))
        .collect()
}

/// How much each track shakes beside the camera, px, where it is long enough to tell.
pub fn jitters_px(tracks: &[Track]) -> HashMap<TrackId, f64> {
    let rest = bends(tracks);
    tracks
        .iter()
        .filter_map(|t| Some((t.id, jitter(t, &rest)?.0)))
        .collect()
}

/// Root mean square of a track's bends less the camera's, px and in its standard errors, and
/// where it is largest. White noise of one standard error bends by √1.5 of it.
fn jitter(
    track: &Track,
    common: &HashMap<FrameNumber, Vector2<f64>>,
) -> Option<(f64, f64, FrameNumber)> {
    let own: Vec<(FrameNumber, f64, f64)> = second_differences(track)
        .filter_map(|(s, bend)| {
            let off = (bend - common.get(&s.frame)?).norm() / 3f64.sqrt();
            Some((s.frame, off, off / s.covariance.sigma_px()))
        })
        .collect();
    if own.len() < 4 {
        return None;
    }
    let worst = own.iter().max_by(|a, b| a.1.total_cmp(&b.1))?.0;
    let rms = |of: fn(&(FrameNumber, f64, f64)) -> f64| {
        (own.iter().map(|o| of(o).powi(2)).sum::<f64>() / own.len() as f64).sqrt()
    };
    Some((rms(|o| o.1), rms(|o| o.2), worst))
}

/// Of tracks that follow one detail, all but the longest.
fn duplicates(tracks: &[Track], same_px: f64) -> Vec<Suspect> {
    let mut cells: HashMap<(i32, i64, i64), Vec<usize>> = HashMap::new();
    let mut shared: BTreeMap<(usize, usize), Shared> = BTreeMap::new();
    for (index, track) in tracks.iter().enumerate() {
        for s in &track.samples {
            let (cx, cy) = (
                (s.px.x / same_px).floor() as i64,
                (s.px.y / same_px).floor() as i64,
            );
            for (dx, dy) in (-1..=1).flat_map(|dx| (-1..=1).map(move |dy| (dx, dy))) {
                for &other in cells
                    .get(&(s.frame.0, cx + dx, cy + dy))
                    .into_iter()
                    .flatten()
                {
                    let Some(there) = tracks[other].at(s.frame) else {
                        continue;
                    };
                    let apart = there.px.distance_px(s.px);
                    if apart < same_px {
                        shared
                            .entry((other, index))
                            .or_default()
                            .add(s.frame, apart);
                    }
                }
            }
            cells.entry((s.frame.0, cx, cy)).or_default().push(index);
        }
    }
    let found = shared.into_iter().filter_map(|((a, b), near)| {
        let common = tracks[b]
            .samples
            .iter()
            .filter(|s| tracks[a].at(s.frame).is_some())
            .count();
        if near.frames < SHARED_FRAMES || near.frames < common {
            return None;
        }
        let longer_first = tracks[a].samples.len() >= tracks[b].samples.len();
        let (kept, spare): (TrackId, TrackId) = if longer_first {
            (tracks[a].id, tracks[b].id)
        } else {
            (tracks[b].id, tracks[a].id)
        };
        Some(Suspect {
            track: spare,
            why: Why::Duplicate,
            figure: near.farthest,
            frame: near.frame?,
            other: Some(kept),
        })
    });
    found.collect()
}

/// The frames on which two tracks are near each other.
#[derive(Default)]
struct Shared {
    frames: usize,
    farthest: f64,
    frame: Option<FrameNumber>,
}

impl Shared {
    fn add(&mut self, frame: FrameNumber, apart: f64) {
        self.frames += 1;
        self.frame.get_or_insert(frame);
        self.farthest = self.farthest.max(apart);
    }
}
