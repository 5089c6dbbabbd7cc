//! Do straights bend in a way that the terms which were asked for cannot draw?
//!
//! Each way to widen the lens (one more radial term, tangential terms, a free centre) is solved
//! along and held against what is left without it: a likelihood-ratio test. Of those that
//! improve the fit beyond chance, the one that does most is named.

use super::{Centre, LensOptions, SolvedLens, solve_straights};
use crate::spaces::PlatePx;
use serde::Serialize;

/// What would draw the straights better.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize)]
#[serde(rename_all = "snake_case")]
pub enum Widening {
    /// One more radial term.
    RadialTerm,
    /// The tangential terms.
    Tangential,
    /// A centre that is solved.
    FreeCentre,
}

impl std::fmt::Display for Widening {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.write_str(match self {
            Self::RadialTerm => "one more radial term",
            Self::Tangential => "tangential terms",
            Self::FreeCentre => "a free centre",
        })
    }
}

/// A wider lens that fits better than chance explains.
#[derive(Clone, Copy, Debug, PartialEq, Serialize)]
pub struct Wanting {
    /// By what.
    pub by: Widening,
    /// What is then left of the marks, px rms.
    pub rms_after_px: f64,
    /// How far it draws a corner from where the lens that was asked for draws it, px.
    pub corner_moves_px: f64,
}

/// The sum of squares, in units of a mark's variance, has to fall by this much: chance does so
/// once in a thousand times for two further unknowns (14); marks along one edge go with each
/// other, so twice that is asked for.
const BEYOND_CHANCE: f64 = 28.0;
/// A change below this share of a mark's error is not worth a word.
const LEAST_SHARE: f64 = 0.02;

/// The wider lens that straights call for, if they do.
pub fn wanting(
    straights: &[Vec<PlatePx>],
    options: &LensOptions,
    solved: &SolvedLens,
) -> Option<Wanting> {
    let wider = [
        (options.terms < 3).then_some((
            Widening::RadialTerm,
            LensOptions {
                terms: options.terms + 1,
                ..*options
            },
        )),
        (options.centre == Centre::Fixed).then_some((
            Widening::FreeCentre,
            LensOptions {
                centre: Centre::Free,
                ..*options
            },
        )),
        (!options.tangential).then_some((
            Widening::Tangential,
            LensOptions {
                tangential: true,
                ..*options
            },
        )),
    ];
    let marks: usize = straights.iter().map(Vec::len).sum();
    let squares = |s: &SolvedLens| s.rms_after_px * s.rms_after_px * marks as f64;
    let (width_px, height_px) = (solved.lens.width_px, solved.lens.height_px);
    let tried = wider.into_iter().flatten().filter_map(|(by, options)| {
        let found = solve_straights(width_px, height_px, straights, &options).ok()?;
        let gained = (squares(solved) - squares(&found)) / found.mark_sigma_px.powi(2).max(1e-12);
        let share = 1.0 - found.rms_after_px / solved.rms_after_px.max(1e-12);
        (gained > BEYOND_CHANCE && share > LEAST_SHARE).then_some((gained, by, found))
    });
    let (_, by, found) = tried.max_by(|a, b| a.0.total_cmp(&b.0))?;
    Some(Wanting {
        by,
        rms_after_px: found.rms_after_px,
        corner_moves_px: corner_moves_px(solved, &found),
    })
}

/// How far apart two lenses undistort the corners, once moved on to each other, px.
fn corner_moves_px(a: &SolvedLens, b: &SolvedLens) -> f64 {
    let (w, h) = (f64::from(a.lens.width_px), f64::from(a.lens.height_px));
    let corners = [(0.0, 0.0), (w, 0.0), (0.0, h), (w, h)];
    let place = |s: &SolvedLens, (x, y): (f64, f64)| {
        let at = s.lens.lens_point(PlatePx::new(x, y))?;
        Some([
            s.lens.centre.x + s.lens.focal_px * at.x,
            s.lens.centre.y + s.lens.focal_px * at.y,
        ])
    };
    let moves: Vec<[f64; 2]> = corners
        .into_iter()
        .filter_map(|corner| {
            let (p, q) = (place(a, corner)?, place(b, corner)?);
            Some([q[0] - p[0], q[1] - p[1]])
        })
        .collect();
    let mean = [0, 1].map(|k| moves.iter().map(|m| m[k]).sum::<f64>() / moves.len().max(1) as f64);
    moves
        .iter()
        .map(|m| (m[0] - mean[0]).hypot(m[1] - mean[1]))
        .fold(0.0, f64::max)
}
