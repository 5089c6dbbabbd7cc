//! How large is the undistorted picture, and where does each of its px come from?
//!
//! The undistorted picture has the focal length and, but for a whole number of px of shift, the
//! centre of the plate. Size: as the plate, or as large as takes all of the plate in, rounded up
//! to even numbers ([`Frame`]). A map holds, for every px of one picture, where its centre lies in
//! the other ([`Map`], px). Both directions are exact to 1e-9: distorting is the polynomial, its
//! inverse Newton's method started from the neighbouring px.
//!
//! Pictures go through a map by [`resample`](super::resample).

use crate::camera::Intrinsics;
use crate::spaces::{LensPoint, PlatePx, UndistortedPx};
use rayon::prelude::*;
use serde::{Deserialize, Serialize};

/// How much of the plate the undistorted picture shows.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum Keep {
    /// The size of the plate; what lies beyond is cut off.
    Size,
    /// Every px of the plate.
    All,
}

/// Why a plate cannot be undistorted.
#[derive(Clone, Copy, Debug, PartialEq, thiserror::Error)]
pub enum MapError {
    /// The lens folds inside the picture.
    #[error(
        "the lens terms fold the picture {fold_px:.0} px from the centre, before its corner at {corner_px:.0} px: they hold for a smaller picture only. Check the terms and the focal length they refer to"
    )]
    Folds {
        /// Distance at which the map turns back, px of the plate.
        fold_px: f64,
        /// Distance of the farthest corner, px.
        corner_px: f64,
    },
    /// Too large to be of use.
    #[error(
        "all of the plate undistorted would have {width}x{height} px; keep the size of the plate instead"
    )]
    TooLarge {
        /// Width.
        width: u64,
        /// Height.
        height: u64,
    },
}

/// The undistorted picture: its size and where the plate's corner lies in it.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Frame {
    /// The lens of the plate.
    pub lens: Intrinsics,
    /// Width of the undistorted picture, px.
    pub width_px: u32,
    /// Height, px.
    pub height_px: u32,
    /// Px that were added on the left and at the top.
    pub added_px: [u32; 2],
}

/// Widest undistorted picture, as a multiple of the plate.
const MOST_GROWTH: f64 = 4.0;

impl Frame {
    /// The undistorted picture of a plate.
    pub fn of(lens: &Intrinsics, keep: Keep) -> Result<Self, MapError> {
        let (w, h) = (f64::from(lens.width_px), f64::from(lens.height_px));
        let mut frame = Self {
            lens: *lens,
            width_px: lens.width_px,
            height_px: lens.height_px,
            added_px: [0, 0],
        };
        // All of the border has to have a place, also where only the size is kept.
        let steps = lens.width_px.max(lens.height_px);
        let along = |i: u32| f64::from(i) / f64::from(steps);
        let border = (0..=steps).flat_map(|i| {
            let t = along(i);
            [(t * w, 0.0), (t * w, h), (0.0, t * h), (w, t * h)]
        });
        let (mut low, mut high) = ([0.0f64; 2], [w, h]);
        for (x, y) in border {
            let Some(at) = lens.lens_point(PlatePx::new(x, y)) else {
                return Err(MapError::Folds {
                    fold_px: lens.fold_px(),
                    corner_px: lens.farthest_corner_px(),
                });
            };
            let place = [
                lens.centre.x + lens.focal_px * at.x,
                lens.centre.y + lens.focal_px * at.y,
            ];
            for k in 0..2 {
                low[k] = low[k].min(place[k]);
                high[k] = high[k].max(place[k]);
            }
        }
        if keep == Keep::All {
            // Half a thousandth of a px is nothing.
            let added = low.map(|v| (-v - 5e-4).ceil().max(0.0));
            let size = [0, 1].map(|k| 2 * ((high[k] + added[k] - 5e-4).ceil() as u64).div_ceil(2));
            if size[0] as f64 > MOST_GROWTH * w || size[1] as f64 > MOST_GROWTH * h {
                return Err(MapError::TooLarge {
                    width: size[0],
                    height: size[1],
                });
            }
            frame.width_px = size[0] as u32;
            frame.height_px = size[1] as u32;
            frame.added_px = added.map(|v| v as u32);
        }
        Ok(frame)
    }

    /// The undistorted pictures of a plate along a zoom, all of one size that takes every one of them in.
    pub fn along(lenses: &[Intrinsics], keep: Keep) -> Result<Vec<Self>, MapError> {
        let own: Result<Vec<Self>, MapError> = lenses.iter().map(|l| Self::of(l, keep)).collect();
        let own = own?;
        let most = |of: fn(&Self) -> [u32; 2]| {
            let all = own.iter().map(of);
            all.fold([0; 2], |a, b| [a[0].max(b[0]), a[1].max(b[1])])
        };
        let added_px = most(|f| f.added_px);
        let beyond = most(|f| {
            [
                f.width_px - f.lens.width_px.min(f.width_px) - f.added_px[0],
                f.height_px - f.lens.height_px.min(f.height_px) - f.added_px[1],
            ]
        });
        let even = |size: u32, k: usize| match keep {
            Keep::Size => size,
            Keep::All => (size + added_px[k] + beyond[k]).next_multiple_of(2),
        };
        let one = |frame: Self| Self {
            width_px: even(frame.lens.width_px, 0),
            height_px: even(frame.lens.height_px, 1),
            added_px,
            ..frame
        };
        Ok(own.into_iter().map(one).collect())
    }

    /// The undistorted picture as a camera: no distortion, its own size and centre.
    pub fn straight(&self) -> Intrinsics {
        let centre = PlatePx::new(
            self.lens.centre.x + f64::from(self.added_px[0]),
            self.lens.centre.y + f64::from(self.added_px[1]),
        );
        let straight = Intrinsics::centred(self.width_px, self.height_px, self.lens.focal_px);
        Intrinsics { centre, ..straight }
    }

    /// The direction of a position of the undistorted picture.
    pub fn lens_point(&self, px: UndistortedPx) -> LensPoint {
        let [left, top] = self.added_px.map(f64::from);
        LensPoint::new(
            (px.x - self.lens.centre.x - left) / self.lens.focal_px,
            (px.y - self.lens.centre.y - top) / self.lens.focal_px,
        )
    }

    /// Where a direction falls in the undistorted picture.
    pub fn undistorted_px(&self, at: LensPoint) -> UndistortedPx {
        let [left, top] = self.added_px.map(f64::from);
        UndistortedPx::new(
            self.lens.centre.x + left + self.lens.focal_px * at.x,
            self.lens.centre.y + top + self.lens.focal_px * at.y,
        )
    }

    /// Where a position of the undistorted picture lies in the plate. `None` beyond the radius
    /// in which the lens maps one to one.
    pub fn distorted(&self, px: UndistortedPx) -> Option<PlatePx> {
        let at = self.lens_point(px);
        let inside = at.x.hypot(at.y) <= self.lens.distortion.valid_radius();
        inside.then(|| self.lens.plate_px(at))
    }

    /// Where a position of the plate lies in the undistorted picture. `None` where the lens has
    /// no inverse.
    pub fn undistorted(&self, px: PlatePx) -> Option<UndistortedPx> {
        Some(self.undistorted_px(self.lens.lens_point(px)?))
    }

    /// For every px of the undistorted picture, where it lies in the plate.
    pub fn undistorting(&self) -> Map {
        let limit = self.lens.distortion.valid_radius();
        Map::of(self.width_px, self.height_px, |(): &mut (), [x, y]| {
            let at = self.lens_point(UndistortedPx::new(x, y));
            (at.x.hypot(at.y) <= limit).then(|| {
                let px = self.lens.plate_px(at);
                [px.x, px.y]
            })
        })
    }

    /// For every px of the plate, where it lies in the undistorted picture.
    pub fn distorting(&self) -> Map {
        let lens = &self.lens;
        Map::of(
            lens.width_px,
            lens.height_px,
            |last: &mut Option<LensPoint>, [x, y]| {
                let at = lens.distorted_point(PlatePx::new(x, y));
                let guess = last.unwrap_or(LensPoint::new(at.x, at.y));
                *last = lens
                    .distortion
                    .undistort_near(at, guess)
                    .or_else(|| lens.distortion.undistort(at));
                last.map(|found| {
                    let px = self.undistorted_px(found);
                    [px.x, px.y]
                })
            },
        )
    }
}

/// For every px, row by row, a position in another picture; not a number where there is none.
/// Which of the two pictures is the plate depends on the direction, so positions are bare here.
#[derive(Clone, Debug)]
pub struct Map {
    /// Width of the picture that is filled, px.
    pub width_px: u32,
    /// Its height, px.
    pub height_px: u32,
    /// Positions across and down, px of the picture that is read.
    pub from_px: Vec<[f32; 2]>,
}

impl Map {
    /// Fills a map from the centres of its px; what `place` keeps from px to px begins anew with every row.
    fn of<K: Default>(
        width_px: u32,
        height_px: u32,
        place: impl Fn(&mut K, [f64; 2]) -> Option<[f64; 2]> + Sync,
    ) -> Self {
        let mut from_px = vec![[f32::NAN; 2]; width_px as usize * height_px as usize];
        from_px
            .par_chunks_mut(width_px.max(1) as usize)
            .enumerate()
            .for_each(|(y, row)| {
                let mut kept = K::default();
                for (x, out) in row.iter_mut().enumerate() {
                    if let Some(at) = place(&mut kept, [x as f64 + 0.5, y as f64 + 0.5]) {
                        *out = at.map(|v| v as f32);
                    }
                }
            });
        Self {
            width_px,
            height_px,
            from_px,
        }
    }

    /// Whether some px have nothing to show in a picture of a size: their positions lie beyond it.
    pub fn leads_beyond(&self, width_px: u32, height_px: u32) -> bool {
        let (right, bottom) = (width_px as f32, height_px as f32);
        let inside = |[x, y]: &[f32; 2]| (0.0..=right).contains(x) && (0.0..=bottom).contains(y);
        !self.from_px.iter().all(inside)
    }

    /// The position at a place between px, bilinear; `None` at the border.
    pub fn at(&self, px: [f64; 2]) -> Option<[f64; 2]> {
        let [x, y] = px.map(|v| v - 0.5);
        let inside = x >= 0.0
            && y >= 0.0
            && x < f64::from(self.width_px) - 1.0
            && y < f64::from(self.height_px) - 1.0;
        if !inside {
            return None;
        }
        let (column, row) = (x.floor() as usize, y.floor() as usize);
        let (fx, fy) = (x - column as f64, y - row as f64);
        let corner =
            |dx: usize, dy: usize| self.from_px[(row + dy) * self.width_px as usize + column + dx];
        let mixed = |k: usize| {
            let value = |dx, dy| f64::from(corner(dx, dy)[k]);
            (1.0 - fy) * ((1.0 - fx) * value(0, 0) + fx * value(1, 0))
                + fy * ((1.0 - fx) * value(0, 1) + fx * value(1, 1))
        };
        let at = [mixed(0), mixed(1)];
        at.iter().all(|v| v.is_finite()).then_some(at)
    }
}
