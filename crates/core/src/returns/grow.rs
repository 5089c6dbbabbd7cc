//! More of what came back, found from what was recognised.
//!
//! A detail that is seen again is recognised only where a feature was born on it again, which few are.
//! But where some came back, others nearby came back beside them: each old feature is looked for where its
//! nearest neighbours say that it should be, and what is found says where others should be (growing
//! correspondences; Cech, Matas and Perdoch 2010). Whether all of it is one motion is for the caller to see to.

use super::{LEAST_CORRELATION, Return};
use crate::spaces::PlatePx;
use crate::track::follow::{Reference, Scratch, Warp, search};
use crate::track::picture::Pyramid;
use nalgebra::{Matrix2, Vector2};
use rayon::prelude::*;

/// Rounds of looking for what is left.
const ROUNDS: usize = 3;
/// So many neighbours say where a feature should be.
const NEIGHBOURS: usize = 3;
/// They lie within so many px at 1280 on the earlier frame ...
const NEAR_PX: f64 = 220.0;
/// ... and may be off by so many, besides what they differ by themselves.
const REACH_PX: f64 = 12.0;
/// A place that is known no better than this is not found, px at 1280.
const MOST_UNCERTAIN_PX: f64 = 1.5;
/// Neighbours that differ by more say nothing, px at 1280.
const MOST_APART_PX: f64 = 40.0;

/// The two pictures in which features are looked for.
pub(super) struct Pictures<'a> {
    /// Where they are old.
    pub(super) before: &'a Pyramid,
    /// Where they may have come back.
    pub(super) after: &'a Pyramid,
    /// Side of a patch, px.
    pub(super) pattern_px: usize,
    /// Px of this picture by px at 1280.
    pub(super) px_scale: f64,
}

impl Pictures<'_> {
    /// The level of the pyramids on which a px is about one at 1280: a search takes as long on large pictures.
    fn search_level(&self) -> usize {
        let level = self.px_scale.log2().round().max(0.0) as usize;
        level
            .min(self.before.count() - 1)
            .min(self.after.count() - 1)
    }
}

/// Those of the features `left` (track and place on the earlier frame) that are found where `known` pairs of places
/// say that they should be.
pub(super) fn grown(
    pictures: &Pictures<'_>,
    known: &[(PlatePx, PlatePx)],
    left: &[(usize, PlatePx)],
) -> Vec<Return> {
    let mut known = known.to_vec();
    let mut left = left.to_vec();
    let mut all = Vec::new();
    for _ in 0..ROUNDS {
        let found: Vec<Return> = left
            .par_iter()
            .map_init(Scratch::default, |scratch, (track, place)| {
                look_beside(pictures, &known, (*track, *place), scratch)
            })
            .flatten()
            .collect();
        if found.is_empty() {
            break;
        }
        left.retain(|(track, _)| found.iter().all(|f| f.earlier != *track));
        known.extend(found.iter().map(Return::places));
        all.extend(found);
    }
    all
}

/// Looks for a detail beside what is known.
fn look_beside(
    pictures: &Pictures<'_>,
    known: &[(PlatePx, PlatePx)],
    (track, place): (usize, PlatePx),
    scratch: &mut Scratch,
) -> Option<Return> {
    let (shift, apart_px) = expected(known, place, NEAR_PX * pictures.px_scale)?;
    if apart_px > MOST_APART_PX * pictures.px_scale {
        return None;
    }
    let reach_px = apart_px + REACH_PX * pictures.px_scale;
    look_for(
        pictures,
        (track, place),
        place.moved(shift),
        reach_px,
        scratch,
    )
}

/// Looks for a detail (track and place on the earlier frame) about a place on the later one.
pub(super) fn look_for(
    pictures: &Pictures<'_>,
    (earlier, place): (usize, PlatePx),
    there: PlatePx,
    reach_px: f64,
    scratch: &mut Scratch,
) -> Option<Return> {
    let (before, after) = (pictures.before, pictures.after);
    let reach = (reach_px, reach_px);
    let level = pictures.search_level();
    let centre = search(before, after, place, there, reach, level, scratch)?;
    let reference = Reference::cut(before.level(0), place, pictures.pattern_px, scratch)?;
    let start = Warp {
        centre,
        shape: Matrix2::identity(),
    };
    let found = reference.align(after.level(0), start, scratch)?;
    // Also what is no number is not certain.
    let certain = found.covariance.sigma_px() <= MOST_UNCERTAIN_PX * pictures.px_scale;
    (certain && found.correlation >= LEAST_CORRELATION).then_some(Return {
        earlier,
        later: None,
        place,
        found,
    })
}

/// By how much neighbours say that a place moved, and how far they are apart about it, px; `None` where there are
/// too few.
fn expected(
    known: &[(PlatePx, PlatePx)],
    place: PlatePx,
    near_px: f64,
) -> Option<(Vector2<f64>, f64)> {
    let mut near: Vec<(f64, Vector2<f64>)> = known
        .iter()
        .map(|(a, b)| (a.distance_px(place), b.offset_from(*a)))
        .filter(|(away, _)| *away <= near_px)
        .collect();
    if near.len() < NEIGHBOURS {
        return None;
    }
    near.select_nth_unstable_by(NEIGHBOURS - 1, |a, b| a.0.total_cmp(&b.0));
    near.truncate(NEIGHBOURS);
    let weight = |away: f64| 1.0 / (away + 0.05 * near_px);
    let weights: f64 = near.iter().map(|n| weight(n.0)).sum();
    let shift = near
        .iter()
        .map(|(away, shift)| shift * (weight(*away) / weights))
        .sum::<Vector2<f64>>();
    let apart = near.iter().map(|(_, s)| (s - shift).norm());
    Some((shift, apart.fold(0.0, f64::max)))
}

#[cfg(test)]
mod tests {
    #![allow(clippy::unwrap_used)]

    use super::*;
    use crate::track::picture::Plane;
    use rstest::rstest;

    /// A corner is found where it moved to, farther than an alignment reaches, on small pictures and on large ones.
    #[rstest]
    #[case::small(0.5, 0)]
    #[case::usual(1.0, 0)]
    #[case::large(2.0, 1)]
    #[case::larger(4.0, 2)]
    fn a_detail_is_found_at_any_size(#[case] px_scale: f64, #[case] level: usize) {
        let (width, height) = ((120.0 * px_scale) as usize, (90.0 * px_scale) as usize);
        let picture = |shift: f64| {
            let bright = |k: usize| {
                let (x, y) = ((k % width) as f64 - shift, (k / width) as f64);
                let wave = |v: f64, long: f64| (v / (long * px_scale)).sin();
                (120.0 + 40.0 * wave(x, 5.0) * wave(y, 7.0) + 30.0 * wave(x + y, 11.0)) as f32
            };
            let levels = (0..width * height).map(bright).collect();
            Pyramid::new(Plane::new(width, height, levels).unwrap(), 3)
        };
        let shift = 7.0 * px_scale;
        let (before, after) = (picture(0.0), picture(shift));
        let pictures = Pictures {
            before: &before,
            after: &after,
            pattern_px: (15.0 * px_scale) as usize | 1,
            px_scale,
        };
        assert_eq!(pictures.search_level(), level);
        let place = PlatePx::new(50.0 * px_scale, 40.0 * px_scale);
        let found = look_for(
            &pictures,
            (3, place),
            place,
            10.0 * px_scale,
            &mut Scratch::default(),
        );
        let there = found.unwrap().found.warp.centre;
        let off = there.distance_px(place.moved(Vector2::new(shift, 0.0)));
        assert!(off < 0.05, "{off:.3} px off");
    }

    #[test]
    fn nearest_neighbours_say_where_it_should_be() {
        let pair = |x: f64, y: f64, by: f64| (PlatePx::new(x, y), PlatePx::new(x + by, y + 2.0));
        let known = [
            pair(10.0, 0.0, 30.0),
            pair(-10.0, 0.0, 34.0),
            pair(0.0, 10.0, 32.0),
            pair(90.0, 90.0, -100.0),
        ];
        let at = PlatePx::new(0.0, 0.0);
        let (shift, apart) = expected(&known, at, 200.0).unwrap_or_default();
        assert!((shift - Vector2::new(32.0, 2.0)).norm() < 1e-9, "{shift}");
        assert!((apart - 2.0).abs() < 1e-9);
        assert_eq!(expected(&known, at, 5.0), None);
        assert_eq!(expected(&known[..2], at, 200.0), None);
    }
}
