//! Where not to follow: drawn outlines with keys over time, colour keys, and masks that came
//! with the plate.
//!
//! A matte names what is left out. Outlines are closed, their points keep their order at all
//! keys, and between keys each point moves evenly; before the first and after the last key the
//! outline stands still. A point added later is put on the same side of the outline at every other
//! key, which changes no earlier shape.

use crate::spaces::{FrameNumber, PlatePx};
use rayon::prelude::*;
use serde::{Deserialize, Serialize};

/// An outline at one frame, plate px.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct OutlineKey {
    /// The frame.
    pub frame: i32,
    /// Corners in order.
    pub points: Vec<[f64; 2]>,
}

/// What a matte is made from.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(tag = "kind", rename_all = "snake_case")]
pub enum MatteSource {
    /// A closed outline, at least one key, ascending by frame.
    Drawn {
        /// Its keys.
        keys: Vec<OutlineKey>,
    },
    /// A numbered sequence beside the plate: white is left out.
    Sequence {
        /// Its folder.
        folder: String,
    },
    /// The plate's own alpha channel: what is opaque is left out.
    Alpha,
    /// What has a colour.
    Colour(ColourKey),
}

/// Which colours are left out.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[serde(default, deny_unknown_fields)]
pub struct ColourKey {
    /// Middle of the hues, degrees; 120 is green, 240 blue.
    pub hue_deg: f64,
    /// Hues this far to each side are left out, degrees.
    pub width_deg: f64,
    /// Over so many degrees more it fades.
    pub softness_deg: f64,
    /// Least saturation, 0 to 1.
    pub saturation: f64,
    /// Specks and holes up to about this size are cleaned away, px.
    pub clean_px: usize,
}

impl Default for ColourKey {
    fn default() -> Self {
        Self {
            hue_deg: 120.0,
            width_deg: 25.0,
            softness_deg: 15.0,
            saturation: 0.25,
            clean_px: 2,
        }
    }
}

/// One matte of a shot.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Matte {
    /// Its number among the mattes of its shot, from 1; 0 in files and shots of before there were
    /// numbers.
    #[serde(default, skip_serializing_if = "is_unnumbered")]
    pub id: u32,
    /// What the artist calls it.
    pub name: String,
    /// What it is made from.
    pub source: MatteSource,
    /// Leaves out what it would keep, and the other way round.
    #[serde(default)]
    pub invert: bool,
    /// Half of this is added around it, px.
    #[serde(default)]
    pub feather_px: f64,
    /// Frames on which it holds; all where it is not set.
    #[serde(default)]
    pub frames: Option<(i32, i32)>,
    /// Whether it is switched off.
    #[serde(default)]
    pub off: bool,
}

fn is_unnumbered(id: &u32) -> bool {
    *id == 0
}

/// Most points of an outline and keys of a matte.
const MOST_POINTS: usize = 2000;

impl Matte {
    /// One that leaves out what its source says, on all frames; it has no number yet.
    pub fn new(name: String, source: MatteSource) -> Self {
        Self {
            id: 0,
            name,
            source,
            invert: false,
            feather_px: 0.0,
            frames: None,
            off: false,
        }
    }

    /// Those that take part, without what they are called: all that tracks depend on.
    pub fn in_use(mattes: &[Self]) -> Vec<Self> {
        mattes
            .iter()
            .filter(|m| !m.off)
            .map(|m| Self {
                id: 0,
                name: String::new(),
                ..m.clone()
            })
            .collect()
    }

    /// Numbers those that have none, so that each can be told from the others for good.
    pub fn numbered(mattes: &mut [Self]) {
        let next = mattes
            .iter()
            .map(|m| m.id)
            .max()
            .unwrap_or(0)
            .saturating_add(1);
        for (matte, id) in mattes.iter_mut().filter(|m| m.id == 0).zip(next..) {
            matte.id = id;
        }
    }

    /// Whether it takes part on a frame.
    pub fn holds_on(&self, frame: FrameNumber) -> bool {
        !self.off && self.frames.is_none_or(|(a, b)| (a..=b).contains(&frame.0))
    }

    /// What cannot be, if anything.
    pub fn complaint(&self) -> Option<String> {
        if self.id > 1_000_000_000 {
            return Some("a matte's id is at most 1000000000".to_owned());
        }
        if !(0.0..=500.0).contains(&self.feather_px) {
            return Some("a feather lies between 0 and 500 px".to_owned());
        }
        if self.frames.is_some_and(|(a, b)| a > b) {
            return Some(format!("the matte {} ends before it begins", self.name));
        }
        match &self.source {
            MatteSource::Drawn { keys } => self.complaint_of(keys),
            MatteSource::Colour(key) => {
                let inside = (0.0..=360.0).contains(&key.hue_deg)
                    && (0.0..=180.0).contains(&key.width_deg)
                    && (0.0..=180.0).contains(&key.softness_deg)
                    && (0.0..=1.0).contains(&key.saturation)
                    && key.clean_px <= 20;
                (!inside).then(|| "a colour key has a hue of 0 to 360, a width and softness of 0 to 180 degrees, a saturation of 0 to 1 and cleans up to 20 px".to_owned())
            }
            MatteSource::Sequence { .. } | MatteSource::Alpha => None,
        }
    }

    fn complaint_of(&self, keys: &[OutlineKey]) -> Option<String> {
        let Some(first) = keys.first() else {
            return Some(format!("the matte {} has no outline", self.name));
        };
        if keys.windows(2).any(|w| w[0].frame >= w[1].frame) {
            return Some(format!(
                "the keys of the matte {} are not in the order of frames",
                self.name
            ));
        }
        if !(3..=MOST_POINTS).contains(&first.points.len()) || keys.len() > MOST_POINTS {
            return Some(format!(
                "the matte {} needs an outline of 3 to {MOST_POINTS} points",
                self.name
            ));
        }
        let finite = |k: &OutlineKey| {
            k.points
                .iter()
                .flatten()
                .all(|v| v.is_finite() && v.abs() < 1e6)
        };
        let odd = keys
            .iter()
            .find(|k| k.points.len() != first.points.len() || !finite(k))?;
        Some(format!(
            "the outline of the matte {} on frame {} does not belong to the others",
            self.name, odd.frame
        ))
    }
}

/// Whether drawn mattes leave a place out on a frame.
pub fn drawn_leave_out(mattes: &[Matte], frame: FrameNumber, at: PlatePx) -> bool {
    mattes
        .iter()
        .filter(|m| m.holds_on(frame))
        .any(|m| match &m.source {
            MatteSource::Drawn { keys } => {
                is_inside(&outline_at(keys, frame), at, m.feather_px / 2.0) != m.invert
            }
            _ => false,
        })
}

/// The outline on a frame.
pub fn outline_at(keys: &[OutlineKey], frame: FrameNumber) -> Vec<[f64; 2]> {
    let after = keys.partition_point(|k| k.frame <= frame.0);
    let Some(a) = keys.get(after.saturating_sub(1)) else {
        return Vec::new();
    };
    match keys.get(after) {
        Some(b) if after > 0 => {
            let share = f64::from(frame.0 - a.frame) / f64::from(b.frame - a.frame);
            let between =
                |(p, q): (&[f64; 2], &[f64; 2])| [0, 1].map(|i| p[i] + share * (q[i] - p[i]));
            a.points.iter().zip(&b.points).map(between).collect()
        }
        _ => a.points.clone(),
    }
}

/// Adds a point behind the point at `after`, where it is wanted on one frame and on the straight
/// side between its neighbours, at the same share, at all other keys.
pub fn with_point(
    keys: &[OutlineKey],
    after: usize,
    frame: FrameNumber,
    at: PlatePx,
) -> Vec<OutlineKey> {
    let now = outline_at(keys, frame);
    if now.is_empty() || after >= now.len() {
        return keys.to_vec();
    }
    let next = (after + 1) % now.len();
    let (a, b) = (now[after], now[next]);
    let side = [b[0] - a[0], b[1] - a[1]];
    let length = (side[0].powi(2) + side[1].powi(2)).max(1e-12);
    let share = (((at.x - a[0]) * side[0] + (at.y - a[1]) * side[1]) / length).clamp(0.0, 1.0);
    let mut out = keyed(keys, frame);
    for key in &mut out {
        let (a, b) = (key.points[after], key.points[next]);
        let on_side = [0, 1].map(|i| a[i] + share * (b[i] - a[i]));
        key.points.insert(
            after + 1,
            if key.frame == frame.0 {
                [at.x, at.y]
            } else {
                on_side
            },
        );
    }
    out
}

/// The keys with one on a frame, as the outline is there.
pub fn keyed(keys: &[OutlineKey], frame: FrameNumber) -> Vec<OutlineKey> {
    let mut out = keys.to_vec();
    let place = out.partition_point(|k| k.frame < frame.0);
    if out.get(place).is_none_or(|k| k.frame != frame.0) {
        out.insert(
            place,
            OutlineKey {
                frame: frame.0,
                points: outline_at(keys, frame),
            },
        );
    }
    out
}

/// Whether a place lies inside a closed outline (even-odd rule) or within `around` px of it.
pub fn is_inside(outline: &[[f64; 2]], at: PlatePx, around: f64) -> bool {
    let mut inside = false;
    let mut near = false;
    for (i, a) in outline.iter().enumerate() {
        let b = outline[(i + 1) % outline.len()];
        if (a[1] > at.y) != (b[1] > at.y)
            && at.x < a[0] + (at.y - a[1]) / (b[1] - a[1]) * (b[0] - a[0])
        {
            inside = !inside;
        }
        near |= around > 0.0 && distance(*a, b, at) <= around;
    }
    inside || near
}

fn distance(a: [f64; 2], b: [f64; 2], at: PlatePx) -> f64 {
    let side = [b[0] - a[0], b[1] - a[1]];
    let length = (side[0].powi(2) + side[1].powi(2)).max(1e-12);
    let share = (((at.x - a[0]) * side[0] + (at.y - a[1]) * side[1]) / length).clamp(0.0, 1.0);
    (at.x - a[0] - share * side[0]).hypot(at.y - a[1] - share * side[1])
}

/// What is left out of a frame: one value a px, row by row.
#[derive(Clone, Debug, PartialEq)]
pub struct Mask {
    width: usize,
    height: usize,
    left_out: Vec<bool>,
}

impl Mask {
    /// Nothing left out.
    pub fn clear(width: usize, height: usize) -> Self {
        Self {
            width,
            height,
            left_out: vec![false; width * height],
        }
    }

    /// From a decision for each px, by column and row.
    pub fn of(width: usize, height: usize, left_out: impl Fn(usize, usize) -> bool + Sync) -> Self {
        let mut mask = Self::clear(width, height);
        mask.left_out
            .par_chunks_mut(width.max(1))
            .enumerate()
            .for_each(|(y, row)| {
                row.iter_mut()
                    .enumerate()
                    .for_each(|(x, v)| *v = left_out(x, y));
            });
        mask
    }

    /// Leaves out what another leaves out, as well.
    pub fn or_with(&mut self, other: &Self) {
        self.left_out
            .iter_mut()
            .zip(&other.left_out)
            .for_each(|(a, b)| *a |= b);
    }

    /// The other way round.
    pub fn inverted(mut self) -> Self {
        self.left_out.iter_mut().for_each(|v| *v = !*v);
        self
    }

    /// Grown by so many px on all sides, or shrunk where it is less than 0.
    pub fn grown(self, by_px: i32) -> Self {
        if by_px == 0 {
            return self;
        }
        let wanted = by_px > 0;
        let reach = by_px.unsigned_abs() as usize;
        let across = Self::of(self.width, self.height, |x, y| {
            let row = &self.left_out[y * self.width..][..self.width];
            row[x.saturating_sub(reach)..(x + reach + 1).min(self.width)].contains(&wanted)
                == wanted
        });
        Self::of(self.width, self.height, |x, y| {
            (y.saturating_sub(reach)..(y + reach + 1).min(self.height))
                .any(|line| across.left_out[line * self.width + x] == wanted)
                == wanted
        })
    }

    /// Without specks and holes of up to about twice this size.
    pub fn cleaned(self, px: usize) -> Self {
        let by = px as i32;
        self.grown(-by).grown(2 * by).grown(-by)
    }

    /// Whether a place is left out; beyond the picture nothing is.
    pub fn covers(&self, at: PlatePx) -> bool {
        at.x >= 0.0
            && at.y >= 0.0
            && at.x < self.width as f64
            && at.y < self.height as f64
            && self.left_out[at.y as usize * self.width + at.x as usize]
    }

    /// Whether anything within a square around a place is left out, `reach` px to each side.
    pub fn touches(&self, at: PlatePx, reach: f64) -> bool {
        let span = |at: f64, most: usize| {
            let clamped = |v: f64| v.floor().clamp(0.0, most as f64) as usize;
            clamped(at - reach)..clamped(at + reach + 1.0)
        };
        let across = span(at.x, self.width);
        span(at.y, self.height)
            .any(|y| self.left_out[y * self.width..][across.clone()].contains(&true))
    }

    /// Width and height, px.
    pub fn size(&self) -> (usize, usize) {
        (self.width, self.height)
    }

    /// All values, row by row.
    pub fn values(&self) -> &[bool] {
        &self.left_out
    }
}

/// A drawn matte on a frame.
pub fn drawn_mask(
    keys: &[OutlineKey],
    frame: FrameNumber,
    feather_px: f64,
    (width, height): (usize, usize),
) -> Mask {
    let outline = outline_at(keys, frame);
    let around = feather_px / 2.0;
    let rows = |i: usize| outline.iter().map(move |p| p[i]);
    let (left, right) = (
        rows(0).fold(f64::INFINITY, f64::min),
        rows(0).fold(f64::NEG_INFINITY, f64::max),
    );
    let (top, bottom) = (
        rows(1).fold(f64::INFINITY, f64::min),
        rows(1).fold(f64::NEG_INFINITY, f64::max),
    );
    Mask::of(width, height, |x, y| {
        let at = PlatePx::new(x as f64 + 0.5, y as f64 + 0.5);
        let boxed = (left - around..=right + around).contains(&at.x)
            && (top - around..=bottom + around).contains(&at.y);
        boxed && is_inside(&outline, at, around)
    })
}

impl ColourKey {
    /// How much a colour (0 to 1 each) is left out, 0 to 1.
    pub fn share(&self, [r, g, b]: [f32; 3]) -> f64 {
        let (high, low) = (r.max(g).max(b), r.min(g).min(b));
        let spread = high - low;
        if spread <= 0.0 || f64::from(spread / high) < self.saturation {
            return 0.0;
        }
        let sixth = if high == r {
            ((g - b) / spread).rem_euclid(6.0)
        } else if high == g {
            (b - r) / spread + 2.0
        } else {
            (r - g) / spread + 4.0
        };
        let off = (f64::from(sixth) * 60.0 - self.hue_deg).rem_euclid(360.0);
        let off = off.min(360.0 - off) - self.width_deg;
        if off <= 0.0 {
            1.0
        } else {
            (1.0 - off / self.softness_deg.max(1e-9)).max(0.0)
        }
    }

    /// Its mask of a picture.
    pub fn mask(
        &self,
        width: usize,
        height: usize,
        colour: impl Fn(usize, usize) -> [f32; 3] + Sync,
    ) -> Mask {
        Mask::of(width, height, |x, y| self.share(colour(x, y)) >= 0.5).cleaned(self.clean_px)
    }
}

#[cfg(test)]
mod tests {
    #![allow(clippy::unwrap_used)]

    use super::*;
    use rstest::rstest;

    fn square(frame: i32, at: f64) -> OutlineKey {
        OutlineKey {
            frame,
            points: vec![
                [at, at],
                [at + 10.0, at],
                [at + 10.0, at + 10.0],
                [at, at + 10.0],
            ],
        }
    }

    #[rstest]
    #[case::before(1, 0.0)]
    #[case::first(5, 0.0)]
    #[case::between(10, 50.0)]
    #[case::after(99, 100.0)]
    fn points_move_evenly_between_keys(#[case] frame: i32, #[case] corner: f64) {
        let keys = [square(5, 0.0), square(15, 100.0)];
        assert_eq!(outline_at(&keys, FrameNumber(frame))[0], [corner, corner]);
    }

    #[test]
    fn a_point_added_later_changes_no_earlier_shape() {
        let keys = [square(1, 0.0), square(11, 40.0)];
        let more = with_point(&keys, 0, FrameNumber(11), PlatePx::new(45.0, 30.0));
        assert_eq!(more[1].points[1], [45.0, 30.0]);
        for (x, y) in (0..40).flat_map(|x| {
            (0..40).map(move |y| (f64::from(x) / 2.0 + 0.25, f64::from(y) / 2.0 + 0.25))
        }) {
            let at = PlatePx::new(x, y);
            let [before, after] =
                [&keys[..], &more].map(|k| is_inside(&outline_at(k, FrameNumber(1)), at, 0.0));
            assert_eq!(before, after, "{x} {y}");
        }
    }

    #[test]
    fn a_feather_adds_half_of_it_around() {
        let mask = drawn_mask(&[square(1, 20.0)], FrameNumber(1), 8.0, (60, 60));
        let count = mask.values().iter().filter(|v| **v).count() as f64;
        // Square, four strips and four quarter discs.
        let area = 100.0 + 4.0 * 40.0 + std::f64::consts::PI * 16.0;
        assert!((count - area).abs() < 12.0, "{count} of {area}");
        assert!(mask.covers(PlatePx::new(17.0, 25.0)) && !mask.covers(PlatePx::new(14.0, 25.0)));
    }

    #[rstest]
    #[case::green([0.1, 0.8, 0.15], 1.0)]
    #[case::grey([0.5, 0.52, 0.5], 0.0)]
    #[case::skin([0.8, 0.6, 0.5], 0.0)]
    #[case::blue([0.1, 0.15, 0.8], 0.0)]
    fn a_colour_key_takes_its_hue_only(#[case] colour: [f32; 3], #[case] share: f64) {
        assert!((ColourKey::default().share(colour) - share).abs() < 1e-9);
    }

    #[test]
    fn specks_and_holes_are_cleaned_away() {
        let mask = Mask::of(40, 40, |x, y| {
            let block = (10..30).contains(&x) && (10..30).contains(&y);
            (block && (x, y) != (20, 20)) || (x, y) == (3, 3)
        });
        let clean = mask.cleaned(1);
        assert!(clean.covers(PlatePx::new(20.5, 20.5)) && !clean.covers(PlatePx::new(3.5, 3.5)));
        assert_eq!(clean.values().iter().filter(|v| **v).count(), 400);
    }

    #[rstest]
    #[case::no_keys(vec![])]
    #[case::two_points(vec![OutlineKey { frame: 1, points: vec![[0.0, 0.0], [1.0, 1.0]] }])]
    #[case::disorder(vec![square(5, 0.0), square(3, 0.0)])]
    #[case::not_finite(vec![OutlineKey { frame: 1, points: vec![[0.0, f64::NAN], [1.0, 1.0], [2.0, 0.0]] }])]
    fn impossible_outlines_are_named(#[case] keys: Vec<OutlineKey>) {
        let matte = Matte {
            id: 0,
            name: "cart".to_owned(),
            source: MatteSource::Drawn { keys },
            invert: false,
            feather_px: 0.0,
            frames: None,
            off: false,
        };
        assert!(matte.complaint().is_some());
    }
}
