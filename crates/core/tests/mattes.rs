//! Following past a matte, on a picture of which every place is known on every frame.
#![allow(clippy::unwrap_used)]

use parallax_core::progress::Silent;
use parallax_core::spaces::{FrameNumber, PlatePx};
use parallax_core::track::matte::Mask;
use parallax_core::track::picture::Plane;
use parallax_core::track::session::follow_plate;
use parallax_core::track::{FrameError, FrameSource, Track, TrackOptions};

const SIZE: (usize, usize) = (320, 200);
const SPEED_PX: f64 = 4.0;
const BAND: std::ops::Range<usize> = 150..190;

/// A texture that pans to the right behind a band that is painted over with another one, at rest.
struct Panning {
    frames: Vec<FrameNumber>,
    matte: bool,
}

impl Panning {
    fn new(matte: bool) -> Self {
        Self { frames: (1..=36).map(FrameNumber).collect(), matte }
    }
}

/// Waves of different length and direction, with no repetition inside the picture.
fn texture(x: f64, y: f64, turn: f64) -> f64 {
    let mut random = fastrand::Rng::with_seed(5 + turn as u64);
    let wave = |random: &mut fastrand::Rng| {
        let (angle, length) = (random.f64() * std::f64::consts::TAU, 8.0 + 30.0 * random.f64());
        let along = x * angle.cos() + y * angle.sin();
        (along * std::f64::consts::TAU / length + random.f64() * 6.0).sin()
    };
    128.0 + (0..24).map(|_| wave(&mut random)).sum::<f64>() * 12.0
}

impl FrameSource for Panning {
    fn frames(&self) -> &[FrameNumber] {
        &self.frames
    }

    fn grey(&self, index: usize) -> Result<Plane, FrameError> {
        let mut grain = fastrand::Rng::with_seed(index as u64);
        let levels = (0..SIZE.0 * SIZE.1).map(|i| {
            let (x, y) = ((i % SIZE.0) as f64 + 0.5, (i / SIZE.0) as f64 + 0.5);
            let level = match BAND.contains(&(i % SIZE.0)) {
                true => texture(x, y, 9.0),
                false => texture(x - SPEED_PX * index as f64, y, 0.0),
            };
            (level + 2.0 * (grain.f64() - 0.5)).round() as f32
        });
        Ok(Plane::new(SIZE.0, SIZE.1, levels.collect()).unwrap())
    }

    fn mask(&self, _: usize) -> Result<Option<Mask>, FrameError> {
        Ok(self.matte.then(|| Mask::of(SIZE.0, SIZE.1, |x, _| BAND.contains(&x))))
    }
}

fn followed(matte: bool) -> Vec<Track> {
    let options = TrackOptions { count: 60, pattern_px: 15, reach_x_px: 12.0, reach_y_px: 12.0, strictness: 0.5 };
    follow_plate(&Panning::new(matte), &options, &Silent).unwrap()
}

fn covered(px: PlatePx) -> bool {
    (BAND.start as f64..BAND.end as f64).contains(&px.x)
}

#[test]
fn nothing_is_followed_in_a_matte_and_what_passes_behind_it_wakes() {
    let tracks = followed(true);
    assert!(tracks.iter().flat_map(|t| &t.samples).all(|s| !covered(s.px)));
    assert!(followed(false).iter().flat_map(|t| &t.samples).any(|s| covered(s.px)), "the band is worth following");
    let passed = tracks.iter().filter(|t| {
        let (first, last) = (t.samples[0].px.x, t.samples[t.samples.len() - 1].px.x);
        first < BAND.start as f64 && last > BAND.end as f64
    });
    let mut count = 0;
    for track in passed {
        let first = track.samples[0];
        for sample in &track.samples {
            let expected = first.px.x + SPEED_PX * f64::from(sample.frame.0 - first.frame.0);
            let off = PlatePx::new(expected, first.px.y).distance_px(sample.px);
            assert!(off < 0.2, "{} is {off:.3} px off on frame {}", track.id, sample.frame);
        }
        count += 1;
    }
    assert!(count >= 8, "{count} woke");
}
