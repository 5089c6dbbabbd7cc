//! Where is this feature on the next frame, and how certain is that?
//!
//! Two alignments, both inverse-compositional Gauss-Newton (Baker and Matthews 2004):
//!
//! 1. [`shift_between`]: translation only, from the previous frame, coarse to fine, to find it.
//! 2. [`Reference::align`]: affine with gain and bias against the feature's own reference
//!    patch, at full resolution, so that small errors do not add up from frame to frame.
//!
//! Shape: on a single edge or a corner beside the middle it can hardly be told from a motion. That it
//! is nearly the last one is a belief of one standard deviation ([`settle`]), with which the
//! alignment is a maximum a posteriori estimate and what it may be off is in the covariance.
//!
//! Brightness: the steepest-descent images are made orthogonal to 1 (and for the reference
//! also to the patch itself), hence gain and bias drop out of the step (Baker and Matthews,
//! part 3, "project out"). With white noise of variance s² in the residual and Δp = P r,
//! the covariance of the step is s² P Pᵀ; its translation block, carried through the affine
//! map, is the covariance of the position.
//!
//! Blur: where some is seen between reference and picture, steps are blind to it ([`blur`]).
//!
//! Patches are stored in rows of [`stride`] values, the side rounded up to eight: what lies
//! beyond the side has no weight and no gradient, and every loop runs over whole vectors
//! (`kernels`, `sampling`).
//!
//! Fails when most of the patch leaves the picture ([`edge`]), when the normal matrix is singular or when the
//! step does not settle; the caller then ends the feature or searches for it.

mod blur;
mod certainty;
mod compare;
mod edge;
mod find;
mod kernels;
mod regrid;
mod sampling;
mod settle;
mod window;

pub use compare::{Compared, compare};
pub use find::{search, shift_between};

use super::picture::Plane;
use crate::spaces::PlatePx;
use crate::tracks::Covariance;
use crate::vectors::vectors;
use blur::{ByBlur, EVIDENT};
use certainty::{Shrunk, judged, shrinkage};
use edge::{Part, Trim};
use kernels::{
    area, comparison_sums, descent_images, dot, gradients, gram, products, stride,
    subtract_and_weigh, weigh,
};
use nalgebra::{Matrix2, Matrix6, Vector2, Vector6};
use pulp::{Simd, WithSimd};
use sampling::sample_block;
use serde::{Deserialize, Serialize};
use settle::{Comparison, MOST_ITERATIONS, ROUGHLY, SETTLED, Settle, Settled};
use window::Window;

/// Buffers of one thread, so that following allocates nothing per patch.
#[derive(Default)]
pub struct Scratch {
    block: Vec<f32>,
    template: Vec<f32>,
    across: Vec<f32>,
    down: Vec<f32>,
    sampled: Vec<f32>,
    images: Vec<f32>,
    columns: Vec<f32>,
    window: Window,
    regrid: regrid::Buffers,
    /// The same for other sides, so that taking turns costs nothing.
    others: Vec<Scratch>,
}

/// Place and shape of a feature on one frame: maps offsets in its reference patch to the picture.
#[derive(Clone, Copy, Debug, Serialize, Deserialize)]
pub struct Warp {
    /// Where the reference's centre is, level-0 px.
    pub centre: PlatePx,
    /// Linear part, reference px to picture px.
    pub shape: Matrix2<f64>,
}

/// The patch that a feature was born with (or was renewed with), ready to be aligned to.
///
/// Thousands are alive and each is read once per frame, so it holds nine patches and no
/// more: the steepest-descent images are made from the gradients as they are used.
#[derive(Clone, Debug, Serialize, Deserialize)]
pub struct Reference {
    side: usize,
    /// What of it counts.
    part: Part,
    /// Where the feature lies, less the middle of the patch: patches lie on whole pixels, so that
    /// they are not interpolated.
    off_middle: Vector2<f64>,
    /// The patch less its weighted mean.
    centred: Vec<f32>,
    /// Gradients times the weights.
    across: Vec<f32>,
    down: Vec<f32>,
    /// What the patch changes by when it is blurred, see [`blur`].
    blurs: [Vec<f32>; blur::BLURS],
    /// The normal matrix, in the order of [`kernels::steepest_sums`].
    normal: Matrix6<f64>,
    /// The same for steps that are blind to blur.
    blind_normal: Matrix6<f64>,
    /// What is left in each cell has shrunk by so much, for steps that see blur and those that do not.
    shrunk: [Shrunk; 2],
    weighted_mean: f32,
    weighted_variance: f32,
}

/// How an alignment to the reference came out.
#[derive(Clone, Copy, Debug)]
pub struct Alignment {
    /// Where the feature is.
    pub warp: Warp,
    /// Zero-mean normalised correlation with the reference, -1 to 1.
    pub correlation: f64,
    /// How certain the position is.
    pub covariance: Covariance,
}

/// Sides from its middle that a patch may reach to be shifted on to a grid of its own: it has grown fourfold there.
const MOST_GROWN: usize = 2;

/// So much of the standard error of an alignment that is blind to blur is clearly less.
const CLEARLY: f64 = 0.75;

impl Reference {
    /// Side of the patch, px.
    pub fn side_px(&self) -> usize {
        self.side
    }

    /// How far from the border a place has to be for a patch of `side` px to be cut there.
    pub fn room_px(side: usize) -> f64 {
        side as f64 / 2.0 + 2.0
    }

    /// Cuts the patch of `side` px (odd) around `centre`. `None` where it does not fit into
    /// the picture or cannot be aligned to for lack of texture.
    pub fn cut(
        picture: &Plane,
        centre: PlatePx,
        side: usize,
        scratch: &mut Scratch,
    ) -> Option<Self> {
        if !fits(picture, centre, Self::room_px(side)) {
            return None;
        }
        let middle = PlatePx::new(centre.x.floor() + 0.5, centre.y.floor() + 0.5);
        let off_middle = centre.offset_from(middle);
        vectors(Cut {
            picture,
            centre: middle,
            side,
            scratch,
        })
        .map(|cut| Self { off_middle, ..cut })
    }

    /// Aligns the reference to `picture` from `start`, whose shape is believed to hold nearly
    /// ([`settle`]). `None` when it does not settle, bends out of all likeness or leaves the picture.
    pub fn align(&self, picture: &Plane, start: Warp, scratch: &mut Scratch) -> Option<Alignment> {
        let middle = |warp: Warp, sign: f64| Warp {
            centre: warp.centre.moved(warp.shape * self.off_middle * sign),
            ..warp
        };
        let start = middle(start, -1.0);
        let part = Part::seen(picture, &start, self.side)?;
        let found = if part == self.part {
            self.aligned(picture, start, scratch)?
        } else {
            scratch.resize(self.side);
            let whole = std::mem::replace(&mut scratch.window, Window::of(self.side, &part));
            let trimmed = vectors(Trim {
                reference: self,
                part,
                weights: &whole.weights,
                scratch,
            });
            let found = trimmed.and_then(|trimmed| trimmed.aligned(picture, start, scratch));
            scratch.window = whole;
            found?
        };
        Some(Alignment {
            warp: middle(found.warp, 1.0),
            ..found
        })
    }

    /// The same for the middle of the patch.
    fn aligned(&self, picture: &Plane, start: Warp, scratch: &mut Scratch) -> Option<Alignment> {
        let believed = start.shape;
        let settle = Settle {
            reference: self,
            picture,
            start,
            believed,
            near: ROUGHLY,
            blind: false,
            scratch,
        };
        let rough = vectors(settle)?;
        self.refined(picture, &rough.warp, believed, scratch)
            .or_else(|| self.settled(picture, rough.warp, believed, scratch))
    }

    /// Settles to the end and judges what came of it: once more blind to blur where some is seen,
    /// which counts unless it is far less certain. On a lone corner being blind costs half the certainty.
    fn settled(
        &self,
        picture: &Plane,
        start: Warp,
        believed: Matrix2<f64>,
        scratch: &mut Scratch,
    ) -> Option<Alignment> {
        let settle = |start, blind, scratch: &mut Scratch| {
            vectors(Settle {
                reference: self,
                picture,
                start,
                believed,
                near: SETTLED,
                blind,
                scratch: &mut *scratch,
            })
        };
        let plain = settle(start, false, scratch);
        let found = plain
            .as_ref()
            .and_then(|plain| judged(self, plain, scratch));
        match plain {
            Some(plain) if !self.is_blurred(&plain, scratch) => found,
            plain => {
                let again = plain.map_or(start, |plain| plain.warp);
                let blind =
                    settle(again, true, scratch).and_then(|blind| judged(self, &blind, scratch));
                let certain = |plain: &Alignment, blind: &Alignment| {
                    plain.covariance.sigma_px() < CLEARLY * blind.covariance.sigma_px()
                };
                match (found, blind) {
                    (Some(plain), Some(blind)) if certain(&plain, &blind) => Some(plain),
                    (plain, blind) => blind.or(plain),
                }
            }
        }
    }

    /// Whether the patches differ by more blur than noise makes believe.
    fn is_blurred(&self, settled: &Settled, scratch: &Scratch) -> bool {
        let by_blur = vectors(ByBlur {
            reference: self,
            scratch,
        });
        let left = self.left(&settled.sums) / f64::from(settled.sums.gain).powi(2);
        by_blur > EVIDENT * (left - by_blur / f64::from(scratch.window.total))
    }

    /// Variance of what is left between the reference and what was sampled.
    fn left(&self, sums: &Comparison) -> f64 {
        f64::from(self.weighted_variance * (1.0 - sums.correlation * sums.correlation)).max(0.0)
    }

    /// Aligns once more where the picture is hardly interpolated ([`regrid`]). `None` for what has grown
    /// beyond all measure.
    fn refined(
        &self,
        picture: &Plane,
        rough: &Warp,
        believed: Matrix2<f64>,
        scratch: &mut Scratch,
    ) -> Option<Alignment> {
        let reach = (rough.shape.abs() * Vector2::repeat(self.side as f64 / 2.0))
            .max()
            .ceil() as usize
            + 2;
        if reach > MOST_GROWN * self.side {
            return None;
        }
        let moved = |by: f64, warp: Warp, origin: PlatePx| Warp {
            centre: warp.centre.moved(Vector2::new(origin.x, origin.y) * by),
            ..warp
        };
        let regrid::Regrid { plane, origin } =
            regrid::around(picture, rough.centre, reach, &mut scratch.regrid)?;
        let found = self.settled(&plane, moved(-1.0, *rough, origin), believed, scratch);
        scratch.regrid.levels = plane.into_levels();
        found.map(|found| Alignment {
            warp: moved(1.0, found.warp, origin),
            ..found
        })
    }
}

/// What [`Reference::cut`] does, in vectors.
struct Cut<'a> {
    picture: &'a Plane,
    centre: PlatePx,
    side: usize,
    scratch: &'a mut Scratch,
}

impl WithSimd for Cut<'_> {
    type Output = Option<Reference>;

    #[inline(always)]
    fn with_simd<S: Simd>(self, simd: S) -> Self::Output {
        let Self {
            picture,
            centre,
            side,
            scratch,
        } = self;
        scratch.resize(side);
        let centre = Vector2::new(centre.x, centre.y);
        scratch.cut(simd, picture, centre, side);
        let derivatives = blur::derivatives(simd, picture, centre, side, scratch);
        made(simd, side, derivatives, scratch)
    }
}

/// The reference of the patch and its gradients in the scratch, under the window there.
#[inline(always)]
fn made<S: Simd>(
    simd: S,
    side: usize,
    mut blurs: [Vec<f32>; blur::BLURS],
    scratch: &mut Scratch,
) -> Option<Reference> {
    let Scratch {
        template,
        across,
        down,
        images,
        window,
        ..
    } = scratch;
    let Window {
        weights,
        roots,
        ramp,
        total,
        ..
    } = &*window;
    let weighted_mean = dot(simd, template, weights) / total;
    let centred: Vec<f32> = template.iter().map(|t| t - weighted_mean).collect();
    let [_, energy, _] = comparison_sums(simd, weights, &centred, &centred, 0.0);
    let weighted_variance = energy / total;
    if weighted_variance < 0.5 {
        return None;
    }
    blur::make_orthonormal(simd, &mut blurs, (&centred, energy), window);
    descent_images(simd, [across, down], ramp, images);
    let mut by_blur = [Vector6::zeros(); blur::BLURS];
    for (k, image) in images.chunks_exact_mut(weights.len()).enumerate() {
        let along = products(simd, weights, image, blurs.each_ref().map(|b| &b[..]), 0.0);
        by_blur
            .iter_mut()
            .zip(along)
            .for_each(|(by, along)| by[k] = f64::from(along));
        let mean = dot(simd, image, weights) / *total;
        let [_, _, along] = comparison_sums(simd, weights, image, &centred, 0.0);
        subtract_and_weigh(simd, image, &centred, roots, (mean, along / energy));
    }
    let normal = gram(simd, images);
    // The blurs are orthogonal to each other and of length 1.
    let blind_normal = by_blur
        .iter()
        .fold(normal, |normal, by| normal - by * by.transpose());
    let inverse = normal.cholesky()?.inverse();
    let shrunk = shrinkage(images, &inverse, side, window);
    weigh(simd, across, weights);
    weigh(simd, down, weights);
    Some(Reference {
        side,
        part: Part::whole(side),
        off_middle: Vector2::zeros(),
        across: across.clone(),
        down: down.clone(),
        centred,
        blurs,
        normal,
        blind_normal,
        shrunk,
        weighted_mean,
        weighted_variance,
    })
}

/// Whether a square of `half` px around `centre` lies inside the picture.
pub fn fits(picture: &Plane, centre: PlatePx, half: f64) -> bool {
    centre.x >= half
        && centre.y >= half
        && centre.x <= picture.width() as f64 - half
        && centre.y <= picture.height() as f64 - half
}

impl Scratch {
    fn resize(&mut self, side: usize) {
        if self.has(side) {
            return;
        }
        let mut others = std::mem::take(&mut self.others);
        let kept = others.iter().position(|other| other.has(side));
        let wanted = kept.map_or_else(|| Self::of(side), |kept| others.swap_remove(kept));
        let before = std::mem::replace(self, wanted);
        if !before.template.is_empty() {
            others.push(before);
        }
        self.others = others;
    }

    fn has(&self, side: usize) -> bool {
        self.template.len() == area(side)
    }

    fn of(side: usize) -> Self {
        let zeros = |length| vec![0.0; length];
        // Reading from within its last row goes one vector on.
        let widest = side + 2 * blur::BORDER;
        Self {
            block: zeros(widest * stride(widest) + 8),
            template: zeros(area(side)),
            across: zeros(area(side)),
            down: zeros(area(side)),
            sampled: zeros(area(side)),
            images: zeros(6 * area(side)),
            columns: zeros(4 * stride(side)),
            window: Window::new(side),
            ..Self::default()
        }
    }

    /// Cuts the patch around `centre` and its gradients.
    #[inline(always)]
    fn cut<S: Simd>(&mut self, simd: S, picture: &Plane, centre: Vector2<f64>, side: usize) {
        let reach = side as f64 / 2.0 + 1.0;
        let Self {
            block,
            template,
            across,
            down,
            ..
        } = self;
        sample_block(
            simd,
            picture,
            centre.x - reach,
            centre.y - reach,
            side + 2,
            block,
        );
        gradients(simd, block, side, [template, across, down]);
    }
}
