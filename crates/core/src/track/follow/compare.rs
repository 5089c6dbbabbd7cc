//! Two patches as an artist looks at them: beside each other, with one figure.

use super::fits;
use crate::spaces::PlatePx;
use crate::track::picture::Plane;

/// Two patches side by side, as an artist compares them.
#[derive(Clone, Debug)]
pub struct Compared {
    /// Side of both, px.
    pub side: usize,
    /// Levels of the first, row by row; beyond the picture its border repeats.
    pub first: Vec<f32>,
    /// Levels of the second.
    pub second: Vec<f32>,
    /// Their zero-mean normalised correlation over what lies in both pictures, -1 to 1; 0 where one of
    /// them is blank.
    pub correlation: f64,
}

/// Compares the patches of `side` px around a place in each of two pictures. `None` where one of the
/// places lies beyond its picture.
pub fn compare(
    first: (&Plane, PlatePx),
    second: (&Plane, PlatePx),
    side: usize,
) -> Option<Compared> {
    let half = side as f64 / 2.0;
    let places = |at: PlatePx| {
        let offset = move |k: usize| k as f64 + 0.5 - half;
        (0..side * side)
            .map(move |k| PlatePx::new(at.x + offset(k % side), at.y + offset(k / side)))
    };
    let patch = |(picture, at): (&Plane, PlatePx)| -> Option<Vec<f32>> {
        fits(picture, at, 0.0).then(|| places(at).map(|px| picture.level_at(px) as f32).collect())
    };
    let (a, b) = (patch(first)?, patch(second)?);
    let seen = places(first.1)
        .zip(places(second.1))
        .map(|(p, q)| fits(first.0, p, 0.5) && fits(second.0, q, 0.5));
    let both: Vec<(f64, f64)> = a
        .iter()
        .zip(&b)
        .zip(seen)
        .filter(|(_, seen)| *seen)
        .map(|((l, r), _)| (f64::from(*l), f64::from(*r)))
        .collect();
    let count = both.len().max(1) as f64;
    let (ma, mb) = both
        .iter()
        .fold((0.0, 0.0), |(a, b), (l, r)| (a + l / count, b + r / count));
    let [mut aa, mut bb, mut ab] = [0.0; 3];
    for (l, r) in both {
        let (l, r) = (l - ma, r - mb);
        (aa, bb, ab) = (aa + l * l, bb + r * r, ab + l * r);
    }
    let correlation = if aa * bb > 0.0 {
        ab / (aa * bb).sqrt()
    } else {
        0.0
    };
    Some(Compared {
        side,
        first: a,
        second: b,
        correlation,
    })
}

#[cfg(test)]
mod tests {
    #![allow(clippy::unwrap_used)]

    use super::*;

    #[test]
    fn the_same_detail_correlates_wherever_and_however_bright_it_is() {
        let wave = |x: f32, y: f32| 100.0 + 40.0 * (x * 0.7).sin() + 30.0 * (y * 0.5).cos();
        let plane = |shift: f32, gain: f32| {
            let levels = (0..60 * 60)
                .map(|i| gain * wave((i % 60) as f32 - shift, (i / 60) as f32))
                .collect();
            Plane::new(60, 60, levels).unwrap()
        };
        let (a, b) = (plane(0.0, 1.0), plane(6.0, 1.4));
        let at = |x: f64| PlatePx::new(x, 30.5);
        let same = compare((&a, at(20.5)), (&b, at(26.5)), 15).unwrap();
        assert!(same.correlation > 0.9999, "{}", same.correlation);
        assert_eq!(same.first.len(), 225);
        assert!(
            compare((&a, at(20.5)), (&b, at(22.5)), 15)
                .unwrap()
                .correlation
                < 0.7
        );
        // Across the border what lies in both pictures counts.
        let half = compare((&a, at(2.5)), (&b, at(8.5)), 15).unwrap();
        assert!(half.correlation > 0.9999, "{}", half.correlation);
        assert_eq!(half.first.len(), 225);
        assert!(compare((&a, at(-1.0)), (&b, at(26.5)), 15).is_none());
    }
}
