//! Following on pictures of which every place is known on every frame: past mattes, and by hand.

use crate::interrupted::{Kept, persisted};
use parallax_core::progress::Silent;
use parallax_core::spaces::{FrameNumber, PlatePx};
use parallax_core::track::hand::{
    Ended, HandError, HandKey, HandTrack, Way, follow_hands, follow_legs,
};
use parallax_core::track::matte::Mask;
use parallax_core::track::picture::Plane;
use parallax_core::track::session::{follow_plate, go_on, preview};
use parallax_core::track::{FrameError, FrameSource, TrackError, TrackOptions};
use parallax_core::tracks::{Track, TrackKind};
use rstest::rstest;
use std::collections::HashMap;

const SIZE: (usize, usize) = (320, 200);
const SPEED_PX: f64 = 4.0;
const BAND: std::ops::Range<usize> = 150..190;

/// A texture that pans to the right behind a band that is painted over with another one, at rest.
struct Panning {
    frames: Vec<FrameNumber>,
    matte: bool,
    behind: Waves,
    band: Waves,
}

impl Panning {
    fn new(matte: bool) -> Self {
        Self {
            frames: (1..=36).map(FrameNumber).collect(),
            matte,
            behind: Waves::new(5),
            band: Waves::new(14),
        }
    }
}

/// Waves of different length and direction, with no repetition inside the picture.
pub struct Waves(Vec<[f64; 3]>);

impl Waves {
    pub fn new(seed: u64) -> Self {
        Self::of_lengths(seed, 8.0..38.0)
    }

    /// Waves as long as that, px.
    pub fn of_lengths(seed: u64, px: std::ops::Range<f64>) -> Self {
        let mut random = fastrand::Rng::with_seed(seed);
        let wave = |_| {
            let (angle, length) = (
                random.f64() * std::f64::consts::TAU,
                px.start + (px.end - px.start) * random.f64(),
            );
            let k = std::f64::consts::TAU / length;
            [k * angle.cos(), k * angle.sin(), random.f64() * 6.0]
        };
        Self((0..24).map(wave).collect())
    }

    pub fn at(&self, x: f64, y: f64) -> f64 {
        128.0
            + self
                .0
                .iter()
                .map(|[u, v, phase]| (u * x + v * y + phase).sin())
                .sum::<f64>()
                * 12.0
    }
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
                true => self.band.at(x, y),
                false => self.behind.at(x - SPEED_PX * index as f64, y),
            };
            (level + 2.0 * (grain.f64() - 0.5)).round() as f32
        });
        Ok(Plane::new(SIZE.0, SIZE.1, levels.collect()).unwrap())
    }

    fn look(&self, index: usize) -> Result<(Plane, Option<Mask>), FrameError> {
        let mask = self
            .matte
            .then(|| Mask::of(SIZE.0, SIZE.1, |x, _| BAND.contains(&x)));
        Ok((self.grey(index)?, mask))
    }
}

const OPTIONS: TrackOptions = TrackOptions {
    count: 60,
    pattern_px: 15,
    reach_x_px: 12.0,
    reach_y_px: 12.0,
    strictness: 0.5,
};

fn followed(matte: bool) -> Vec<Track> {
    follow_plate(&Panning::new(matte), &OPTIONS, &Silent).unwrap()
}

/// Stopped every few frames, or killed after something was left, following goes on where it was, and what
/// comes out is the same to the last bit.
#[rstest]
#[case::stopped(5, false)]
#[case::stopped_at_each_frame(2, false)]
#[case::left_at_every_frame(7, true)]
fn following_goes_on_where_it_was(#[case] steps: usize, #[case] always: bool) {
    let kept = Kept::new(always);
    let plate = Panning::new(true);
    let (tracks, stops) = persisted(
        |_| steps,
        |patience| go_on(&plate, &OPTIONS, &kept, patience),
        |e| matches!(e, TrackError::Cancelled),
    );
    assert!(stops > 3, "it was stopped {stops} times only");
    assert!(kept.times() >= stops);
    let without = followed(true);
    assert!(tracks == without, "another result");
}

fn covered(px: PlatePx) -> bool {
    (BAND.start as f64..BAND.end as f64).contains(&px.x)
}

#[test]
fn nothing_is_followed_in_a_matte_and_what_passes_behind_it_wakes() {
    let tracks = followed(true);
    assert!(
        tracks
            .iter()
            .flat_map(|t| &t.samples)
            .all(|s| !covered(s.px))
    );
    assert!(
        followed(false)
            .iter()
            .flat_map(|t| &t.samples)
            .any(|s| covered(s.px)),
        "the band is worth following"
    );
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
            assert!(
                off < 0.2,
                "{} is {off:.3} px off on frame {}",
                track.id,
                sample.frame
            );
        }
        count += 1;
    }
    assert!(count >= 8, "{count} woke");
}

#[test]
fn features_are_followed_until_they_leave_the_picture() {
    let tracks = followed(false);
    let mut count = 0;
    // They move to the right by 4 px a frame; at 15 px a pattern whose middle is nearer than 8 px reaches out.
    for track in tracks
        .iter()
        .filter(|t| t.samples.iter().any(|s| s.px.x > SIZE.0 as f64 - 8.0))
    {
        let near = track
            .samples
            .iter()
            .find(|s| s.px.x > SIZE.0 as f64 - 30.0)
            .unwrap();
        for sample in track.samples.iter().filter(|s| s.frame > near.frame) {
            let moved = SPEED_PX * f64::from(sample.frame.0 - near.frame.0);
            let off = PlatePx::new(near.px.x + moved, near.px.y).distance_px(sample.px);
            assert!(
                off < 0.3,
                "{} is {off:.3} px off on frame {}",
                track.id,
                sample.frame
            );
        }
        count += 1;
    }
    assert!(count >= 8, "{count} were followed across the border");
}

const SIZE_PX: (u32, u32) = (SIZE.0 as u32, SIZE.1 as u32);

/// A detail near the left side of the first frame.
fn detail() -> PlatePx {
    detail_within(16.0..40.0)
}

/// A detail between two places across on the first frame.
fn detail_within(across: std::ops::Range<f64>) -> PlatePx {
    let options = TrackOptions {
        count: 60,
        pattern_px: 15,
        reach_x_px: 12.0,
        reach_y_px: 12.0,
        strictness: 0.5,
    };
    let found = preview(Panning::new(false).grey(0).unwrap(), None, &options).unwrap();
    found
        .into_iter()
        .map(|f| f.0)
        .find(|px| across.contains(&px.x))
        .unwrap()
}

/// Where it is on a frame.
fn truth(frame: i32) -> PlatePx {
    let first = detail();
    PlatePx::new(first.x + SPEED_PX * f64::from(frame - 1), first.y)
}

fn hand(keys: &[(i32, f64)], life: &[(i32, i32)]) -> HandTrack {
    let key = |&(frame, off): &(i32, f64)| HandKey {
        frame,
        px: [truth(frame).x + off, truth(frame).y],
    };
    HandTrack {
        id: 7,
        name: "vase".to_owned(),
        keys: keys.iter().map(key).collect(),
        life: life.to_vec(),
        pattern_px: 15,
        reach_px: [12.0, 12.0],
        strictness: 0.5,
        guide: Vec::new(),
    }
}

/// Predictions on some frames, off by a little that grows.
fn guide(frames: &[i32], first: PlatePx) -> Vec<HandKey> {
    let at = |frame: &i32| {
        let gone = f64::from(*frame - 1);
        let px = [first.x + 1.5 + (SPEED_PX + 0.05) * gone, first.y - 1.0];
        HandKey { frame: *frame, px }
    };
    frames.iter().map(at).collect()
}

fn followed_hand(hand: &HandTrack) -> Track {
    follow_hands(
        &Panning::new(false),
        SIZE_PX,
        std::slice::from_ref(hand),
        &Silent,
    )
    .unwrap()
    .remove(0)
}

#[rstest]
#[case::forwards(&[(1, 0.0)], (1, 25))]
#[case::backwards(&[(25, 0.0)], (1, 25))]
#[case::both_ways(&[(12, 0.0)], (1, 25))]
#[case::between_keys(&[(3, 0.0), (20, 0.0)], (3, 20))]
fn a_hand_track_is_where_its_detail_is(#[case] keys: &[(i32, f64)], #[case] life: (i32, i32)) {
    let track = followed_hand(&hand(keys, &[life]));
    assert_eq!((track.kind, track.id.0), (TrackKind::Hand, 7));
    let frames: Vec<i32> = track.samples.iter().map(|s| s.frame.0).collect();
    assert_eq!(frames, (life.0..=life.1).collect::<Vec<_>>());
    for sample in &track.samples {
        let off = sample.px.distance_px(truth(sample.frame.0));
        assert!(off < 0.12, "{off:.3} px off on frame {}", sample.frame);
    }
}

#[test]
fn keys_that_disagree_are_led_to_evenly_and_said_to_be_uncertain() {
    let track = followed_hand(&hand(&[(1, 0.0), (21, 2.0)], &[(1, 21)]));
    let off = |frame: i32| track.at(FrameNumber(frame)).unwrap().px.x - truth(frame).x;
    for (frame, expected) in [(1, 0.0), (6, 0.5), (11, 1.0), (16, 1.5), (21, 2.0)] {
        assert!(
            (off(frame) - expected).abs() < 0.15,
            "{} on frame {frame}",
            off(frame)
        );
    }
    // Half way, the two differ by 2 px: a standard deviation of 1 px.
    let sigma = track.at(FrameNumber(11)).unwrap().covariance.xx.sqrt();
    assert!((0.9..1.2).contains(&sigma), "{sigma}");
    // The outer keys are left in doubt by half of what the other says.
    assert!((0.9..1.2).contains(&track.at(FrameNumber(21)).unwrap().covariance.xx.sqrt()));
}

#[test]
fn a_correction_changes_only_the_legs_beside_it() {
    let prints =
        |hand: &HandTrack| -> Vec<String> { hand.legs().iter().map(|l| l.fingerprint()).collect() };
    let before = hand(&[(1, 0.0), (8, 0.0), (16, 0.0), (24, 0.0)], &[(1, 30)]);
    let mut after = before.clone();
    after.keys[1].px[0] += 0.3;
    let (before, after) = (prints(&before), prints(&after));
    // There and back between four keys, and on from the last.
    assert_eq!(before.len(), 7);
    // Both legs that begin at the moved key; what leads to it stays as it was.
    assert_eq!(after.iter().filter(|p| !before.contains(p)).count(), 2);
}

#[test]
fn a_life_has_an_end_and_a_new_beginning() {
    let track = followed_hand(&hand(&[(1, 0.0), (20, 0.0)], &[(1, 8), (18, 25)]));
    let frames: Vec<i32> = track.samples.iter().map(|s| s.frame.0).collect();
    assert_eq!(frames, (1..=8).chain(18..=25).collect::<Vec<_>>());
}

/// What a prediction leads is found again behind what covers it, and is nowhere while it is covered.
#[rstest]
#[case::under_a_matte(true)]
#[case::behind_something(false)]
fn a_guided_track_goes_on_behind_what_covers_it(#[case] matte: bool) {
    let first = detail_within(90.0..125.0);
    let x = |frame: i32| first.x + SPEED_PX * f64::from(frame - 1);
    let frames: Vec<i32> = (1..=36).filter(|f| x(*f) < SIZE.0 as f64 - 1.0).collect();
    let key = HandKey {
        frame: 1,
        px: [first.x, first.y],
    };
    let by_looks = HandTrack {
        keys: vec![key],
        ..hand(&[], &[(1, 36)])
    };
    let guided = by_looks.guided(guide(&frames, first));
    let follow = |hand: &HandTrack| {
        let hands = std::slice::from_ref(hand);
        let tracks = follow_hands(&Panning::new(matte), SIZE_PX, hands, &Silent);
        tracks.unwrap().remove(0)
    };
    let half = 8.0;
    let (from, to) = (BAND.start as f64 - half, BAND.end as f64 + half);
    let behind = |t: &Track| t.samples.iter().filter(|s| s.px.x > to).count();
    assert_eq!(behind(&follow(&by_looks)), 0);
    let track = follow(&guided);
    assert!(behind(&track) >= 8, "{}", behind(&track));
    for s in &track.samples {
        let off = s.px.distance_px(PlatePx::new(x(s.frame.0), first.y));
        // What covers part of it pulls at it.
        let is_clear = s.px.x < from || s.px.x > to;
        let most = if is_clear { 0.2 } else { 0.6 };
        assert!(off < most, "{off:.3} px off on frame {}", s.frame);
        assert!(!(from + half..to - half).contains(&s.px.x), "{:?}", s.px);
    }
    // Followed by its looks once more, the prediction is forgotten.
    assert!(guided.followed(Way::Both, 1, (1, 36)).guide.is_empty());
}

#[test]
fn a_leg_ends_at_a_matte_and_says_so() {
    let hand = hand(&[(1, 0.0)], &[(1, 36)]);
    let paths = follow_legs(&Panning::new(true), &hand.legs(), &Silent).unwrap();
    assert_eq!(paths[0].ended, Ended::Matte);
    let paths: HashMap<String, _> = hand
        .legs()
        .iter()
        .map(|l| l.fingerprint())
        .zip(paths)
        .collect();
    let last = hand.joined(&paths).samples.last().unwrap().px;
    assert!(
        last.x < BAND.start as f64 && last.x > BAND.start as f64 - 15.0,
        "{last:?}"
    );
}

#[rstest]
#[case::no_keys(HandTrack { keys: vec![], ..hand(&[], &[]) }, "no key")]
#[case::disorder(hand(&[(5, 0.0), (2, 0.0)], &[(1, 9)]), "order of frames")]
#[case::guide(HandTrack { guide: guide(&[9, 5], truth(1)), ..hand(&[(5, 0.0)], &[(1, 9)]) }, "order of frames")]
#[case::twice(hand(&[(5, 0.0), (5, 1.0)], &[(1, 9)]), "order of frames")]
#[case::outside(hand(&[(5, 900.0)], &[(1, 9)]), "outside the picture")]
#[case::not_a_number(hand(&[(5, f64::NAN)], &[(1, 9)]), "outside the picture")]
#[case::no_frame(hand(&[(99, 0.0 - 4.0 * 98.0)], &[(1, 99)]), "which the plate has not")]
#[case::life(hand(&[(5, 0.0)], &[(5, 9), (8, 12)]), "life of vase")]
#[case::pattern(HandTrack { pattern_px: 8, ..hand(&[(5, 0.0)], &[(1, 9)]) }, "odd, 9 to 61")]
fn what_cannot_be_followed_is_named(#[case] hand: HandTrack, #[case] expected: &str) {
    let refused = follow_hands(&Panning::new(false), SIZE_PX, &[hand], &Silent);
    let Err(TrackError::Hand(error)) = refused else {
        panic!("accepted")
    };
    assert!(error.to_string().contains(expected), "{error}");
    assert!(!matches!(error, HandError::Control { .. }) || expected.contains("odd"));
}
