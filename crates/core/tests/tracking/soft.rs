//! What is out of focus and passes near before the lens: followed by larger patterns, farther from frame to frame than
//! fine detail may go, and only where there is something to be followed.

use crate::following::Waves;
use parallax_core::progress::Silent;
use parallax_core::spaces::{FrameNumber, PlatePx};
use parallax_core::track::picture::Plane;
use parallax_core::track::session::follow_plate;
use parallax_core::track::{FrameError, FrameSource, TrackOptions};
use parallax_core::tracks::{Sample, Track};
use rstest::rstest;

const SIZE: (usize, usize) = (480, 300);
const OPTIONS: TrackOptions = TrackOptions {
    count: 120,
    pattern_px: 15,
    reach_x_px: 14.0,
    reach_y_px: 14.0,
    strictness: 0.5,
};
/// The panel comes in from the right, covers all on these frames and leaves to the left.
const SPEED_PX: f64 = 24.0;
const WIDTH_PX: f64 = 800.0;
const COVERED: std::ops::RangeInclusive<i32> = 21..=33;

/// Fine detail at rest, and a panel that passes before it.
struct Passing {
    frames: Vec<FrameNumber>,
    behind: Waves,
    /// What is painted on the panel, by its own px.
    panel: Waves,
    /// How strong that is.
    contrast: f64,
}

/// Where the panel's left edge is.
fn edge_px(frame: FrameNumber) -> f64 {
    SIZE.0 as f64 - SPEED_PX * f64::from(frame.0)
}

impl Passing {
    fn new(contrast: f64) -> Self {
        Self {
            frames: (0..58).map(FrameNumber).collect(),
            behind: Waves::new(5),
            panel: Waves::of_lengths(9, 24.0..60.0),
            contrast,
        }
    }
}

impl FrameSource for Passing {
    fn frames(&self) -> &[FrameNumber] {
        &self.frames
    }

    fn grey(&self, index: usize) -> Result<Plane, FrameError> {
        let mut grain = fastrand::Rng::with_seed(index as u64);
        let edge = edge_px(self.frames[index]);
        let levels = (0..SIZE.0 * SIZE.1).map(|i| {
            let (x, y) = ((i % SIZE.0) as f64 + 0.5, (i / SIZE.0) as f64 + 0.5);
            let level = match (edge..edge + WIDTH_PX).contains(&x) {
                true => 128.0 + self.contrast * (self.panel.at(x - edge, y) - 128.0),
                false => self.behind.at(x, y),
            };
            (level + 3.0 * (grain.f64() - 0.5)).round() as f32
        });
        Ok(Plane::new(SIZE.0, SIZE.1, levels.collect()).unwrap())
    }
}

/// Positions on the panel, clear of its edges, on frames that it covers.
fn on_panel(track: &Track) -> Vec<Sample> {
    let covered = |s: &&Sample| COVERED.contains(&s.frame.0);
    track.samples.iter().filter(covered).copied().collect()
}

#[rstest]
#[case::strong(1.0)]
#[case::weak(0.5)]
fn what_passes_near_links_both_sides(#[case] contrast: f64) {
    let tracks = follow_plate(&Passing::new(contrast), &OPTIONS, &Silent).unwrap();
    let with: Vec<Vec<Sample>> = tracks.iter().map(on_panel).collect();
    for frame in COVERED {
        let seen = with.iter().filter(|t| t.iter().any(|s| s.frame.0 == frame));
        let count = seen.count();
        assert!(count >= 8, "{count} are followed on frame {frame}");
    }
    let mut off: Vec<f64> = Vec::new();
    for samples in with.iter().filter(|samples| samples.len() > 2) {
        let on = |s: &Sample| PlatePx::new(s.px.x - edge_px(s.frame), s.px.y);
        let first = on(&samples[0]);
        off.extend(samples[1..].iter().map(|s| on(s).distance_px(first)));
    }
    off.sort_by(f64::total_cmp);
    let (usual, most) = (off[off.len() / 2], off[off.len() * 95 / 100]);
    assert!(usual < 0.2 && most < 0.6, "{usual:.2}, {most:.2} px off");
}

#[test]
fn grain_alone_is_not_followed() {
    let tracks = follow_plate(&Passing::new(0.0), &OPTIONS, &Silent).unwrap();
    let seen: usize = tracks.iter().map(|t| on_panel(t).len()).sum();
    assert_eq!(seen, 0, "positions on a blank panel");
}
