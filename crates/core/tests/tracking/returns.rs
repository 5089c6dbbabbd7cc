//! Features that come back after they were lost: pictures of a board that something passes before.

use nalgebra::Vector2;
use parallax_core::progress::{Progress, Silent};
use parallax_core::returns::joined;
use parallax_core::spaces::FrameNumber;
use parallax_core::track::picture::Plane;
use parallax_core::track::session::follow_plate;
use parallax_core::track::{FrameError, FrameSource, TrackError, TrackOptions};
use parallax_core::tracks::{Sample, Track};
use rstest::rstest;

const WIDTH: usize = 360;
const HEIGHT: usize = 240;
const FRAMES: usize = 36;

/// Rough plaster: random levels on grids of several sizes, smoothly between.
fn rough(x: f64, y: f64, seed: u64) -> f64 {
    let node = |i: i64, j: i64, size: u64| {
        let mut random = fastrand::Rng::with_seed(
            seed ^ size << 40
                ^ (i as u64).wrapping_mul(0x9e37_79b9)
                ^ (j as u64).wrapping_mul(0x85eb_ca6b) << 7,
        );
        random.f64() - 0.5
    };
    let layer = |size: u64| {
        let (u, v) = (x / size as f64, y / size as f64);
        let (i, j) = (u.floor(), v.floor());
        let ease = |t: f64| t * t * (3.0 - 2.0 * t);
        let (fu, fv) = (ease(u - i), ease(v - j));
        let (i, j) = (i as i64, j as i64);
        let top = node(i, j, size) * (1.0 - fu) + node(i + 1, j, size) * fu;
        let bottom = node(i, j + 1, size) * (1.0 - fu) + node(i + 1, j + 1, size) * fu;
        top * (1.0 - fv) + bottom * fv
    };
    128.0 + 60.0 * layer(6) + 60.0 * layer(15) + 50.0 * layer(40)
}

/// A board that drifts in the picture while something else covers it on some frames.
struct Board {
    frames: Vec<FrameNumber>,
    covered: std::ops::Range<usize>,
    /// Which board is there afterwards.
    after: u64,
}

impl Board {
    fn new(covered: std::ops::Range<usize>, after: u64) -> Self {
        let frames = (1..=FRAMES as i32).map(FrameNumber).collect();
        Self {
            frames,
            covered,
            after,
        }
    }

    fn shift(index: usize) -> Vector2<f64> {
        let t = index as f64;
        Vector2::new(1.3 * t, 4.0 * (0.2 * t).sin())
    }

    fn tracks(&self) -> Vec<Track> {
        follow_plate(self, &options(), &Silent).unwrap()
    }

    /// Tracks that are seen before and after what covers.
    fn spanning<'t>(&self, tracks: &'t [Track]) -> Vec<&'t Track> {
        let frame = |index: usize| self.frames[index];
        let spans = |t: &&Track| {
            let (first, last) = t.range().unwrap();
            first < frame(self.covered.start) && last >= frame(self.covered.end)
        };
        tracks.iter().filter(spans).collect()
    }
}

impl FrameSource for Board {
    fn frames(&self) -> &[FrameNumber] {
        &self.frames
    }

    fn grey(&self, index: usize) -> Result<Plane, FrameError> {
        let shift = Self::shift(index);
        let board = if index < self.covered.end {
            1
        } else {
            self.after
        };
        let mut grain = fastrand::Rng::with_seed(index as u64);
        let level = |k: usize| {
            let (x, y) = ((k % WIDTH) as f64, (k / WIDTH) as f64);
            let light = match self.covered.contains(&index) {
                // What covers passes quickly.
                true => rough(x - 23.0 * index as f64, y, 77),
                false => rough(x - shift.x, y - shift.y, board),
            };
            (light + 2.0 * (grain.f64() - 0.5)) as f32
        };
        let levels = (0..WIDTH * HEIGHT).map(level).collect();
        Ok(Plane::new(WIDTH, HEIGHT, levels).unwrap())
    }
}

fn options() -> TrackOptions {
    TrackOptions {
        count: 120,
        ..TrackOptions::for_size(WIDTH as u32, HEIGHT as u32)
    }
}

/// What comes back is one track, where the detail that it was born on is.
#[test]
fn what_comes_back_is_the_same_feature_in_the_same_place() {
    let board = Board::new(16..20, 1);
    let tracks = board.tracks();
    assert_eq!(
        board.spanning(&tracks).len(),
        0,
        "following alone loses all"
    );
    let whole = joined(tracks.clone(), &board, &options(), &Silent).unwrap();
    let spanning = board.spanning(&whole);
    assert!(
        spanning.len() >= 15,
        "{} of {}",
        spanning.len(),
        tracks.len()
    );
    let mut off: Vec<f64> = spanning
        .iter()
        .map(|t| {
            let on_board = |frame: FrameNumber, px: parallax_core::spaces::PlatePx| {
                px.moved(-Board::shift(frame.0 as usize - 1))
            };
            let (first, last) = (t.samples.first().unwrap(), t.samples.last().unwrap());
            on_board(first.frame, first.px).distance_px(on_board(last.frame, last.px))
        })
        .collect();
    off.sort_by(f64::total_cmp);
    assert!(
        off[off.len() / 2] < 0.15,
        "{} px in the median",
        off[off.len() / 2]
    );
    assert!(
        off[off.len() - 1] < 1.0,
        "{} px at worst",
        off[off.len() - 1]
    );
    // Nothing is lost, and each frame has each track once.
    let positions = |tracks: &[Track]| tracks.iter().map(|t| t.samples.len()).sum::<usize>();
    assert!(positions(&tracks) <= positions(&whole));
    for track in &whole {
        assert!(track.samples.windows(2).all(|s| s[0].frame < s[1].frame));
    }
}

/// Where few details were born on again, others are found beside them, though no track goes on there.
#[test]
fn what_comes_back_beside_it_is_found_too() {
    let board = Board::new(16..20, 1);
    let few = TrackOptions {
        count: 45,
        ..options()
    };
    let tracks = follow_plate(&board, &few, &Silent).unwrap();
    let whole = joined(tracks.clone(), &board, &few, &Silent).unwrap();
    let seen_again = board.spanning(&whole);
    let after = board.frames[board.covered.end];
    let glimpsed = seen_again.iter().filter(|t| {
        let own = tracks.iter().find(|own| own.id == t.id).unwrap();
        let more = t.samples.iter().filter(|s| s.frame >= after).count();
        own.range().unwrap().1 < after && more < 4
    });
    assert!(
        seen_again.len() >= 20 && glimpsed.count() >= 5,
        "{} of {}",
        seen_again.len(),
        tracks.len()
    );
    for track in seen_again {
        let (first, last) = (
            track.samples.first().unwrap(),
            track.samples.last().unwrap(),
        );
        let on_board = |s: &Sample| s.px.moved(-Board::shift(s.frame.0 as usize - 1));
        let off_px = on_board(first).distance_px(on_board(last));
        assert!(off_px < 1.0, "{} is {off_px:.2} px off", track.id);
    }
}

/// Something else that comes after is not taken for it, and a shot that loses nothing stays as it is.
#[rstest]
#[case::another_board(Board::new(16..20, 2))]
#[case::nothing_passes(Board::new(16..16, 1))]
fn what_does_not_come_back_stays_as_it_is(#[case] board: Board) {
    let tracks = board.tracks();
    let whole = joined(tracks.clone(), &board, &options(), &Silent).unwrap();
    assert_eq!(whole, tracks);
}

/// Cancelled from the beginning.
struct Cancelled;

impl Progress for Cancelled {
    fn report(&self, _stage: &'static str, _done: usize, _total: usize) {}

    fn is_cancelled(&self) -> bool {
        true
    }
}

#[test]
fn it_can_be_cancelled() {
    let board = Board::new(16..20, 1);
    let told = joined(board.tracks(), &board, &options(), &Cancelled);
    assert!(matches!(told, Err(TrackError::Cancelled)), "{told:?}");
}
