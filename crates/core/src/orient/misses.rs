//! What each statement misses by, and which contradict each other.

use super::fit::{Fitted, fit};
use super::measure::Measure;
use super::model::Model;
use super::solved::Solved;
use super::{Stated, Unused, start};
use crate::spaces::TrackId;
use serde::{Deserialize, Serialize};

/// What came of a statement.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Miss {
    /// Its number.
    pub id: u32,
    /// What it is off.
    pub off: Off,
    /// The same in its own standard errors, root mean square.
    pub errors: f64,
    /// Whether it contradicts others: without it they agree.
    pub contradicts: bool,
}

/// By how much a statement is missed.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum Off {
    /// Features of a plane, root mean square, new units; the one that is farthest off, if it is far.
    Flat(f64, Option<(TrackId, f64)>),
    /// An edge or a horizon, degrees.
    Degrees(f64),
    /// A length or height, fitted less stated, new units.
    Length(f64),
    /// It defines and cannot be missed.
    Exact,
    /// It takes no part.
    Unused(Unused),
}

/// Statements that are missed by more standard errors do not agree with the others.
const AGREES: f64 = 4.0;
/// A feature is far off its plane at so many times what the others are.
const FAR: f64 = 4.0;

/// What came of all statements that are on.
pub fn of(solved: &Solved<'_>, statements: &[Stated], model: &Model, fitted: &Fitted) -> Vec<Miss> {
    let errors: Vec<f64> = (0..statements.len())
        .map(|at| errors_of(model, fitted, at))
        .collect();
    let against = contradicting(solved, statements, &errors);
    let mut out = Vec::new();
    for (at, (id, statement)) in statements.iter().enumerate() {
        if statement.off {
            continue;
        }
        let unused = model.unused.iter().find(|(unused, _)| *unused == at);
        let off = match unused {
            Some((_, why)) => Off::Unused(why.clone()),
            None => off_of(model, fitted, at),
        };
        out.push(Miss {
            id: *id,
            off,
            errors: errors[at],
            contradicts: against.contains(&at),
        });
    }
    out
}

/// Standard errors by which a statement is missed; planes tell from their own features how flat they are and
/// miss nothing.
fn errors_of(model: &Model, fitted: &Fitted, at: usize) -> f64 {
    let own = model.rows.iter().zip(&fitted.errors);
    let squares: Vec<f64> = own
        .filter(|(row, _)| row.statement == at)
        .map(|(_, z)| z * z)
        .collect();
    (squares.iter().sum::<f64>() / squares.len().max(1) as f64).sqrt()
}

fn off_of(model: &Model, fitted: &Fitted, at: usize) -> Off {
    let scale = fitted.unknowns.ln_scale.exp();
    let rows: Vec<(&Measure, f64)> = model
        .rows
        .iter()
        .zip(&fitted.off)
        .filter(|(row, _)| row.statement == at)
        .map(|(row, off)| (&row.measure, *off))
        .collect();
    let rms = |values: &[f64]| {
        (values.iter().map(|v| v * v).sum::<f64>() / values.len().max(1) as f64).sqrt()
    };
    let angles: Vec<f64> = rows
        .iter()
        .filter(|(m, _)| {
            matches!(
                m,
                Measure::Leaves(..) | Measure::Rail(..) | Measure::Square(..) | Measure::Rises(..)
            )
        })
        .map(|(_, off)| *off)
        .collect();
    match rows.first() {
        None => Off::Exact,
        Some((Measure::Off(..), _)) => {
            let off: Vec<f64> = rows.iter().map(|(_, off)| off * scale).collect();
            Off::Flat(rms(&off), farthest(model, &rows, scale))
        }
        Some((Measure::Length(..) | Measure::Above(..), off)) => Off::Length(off * scale),
        // Both sides of an edge make one angle; both ends of a horizon are two.
        Some((Measure::Rises(..), _)) => Off::Degrees(rms(&angles).asin().to_degrees()),
        Some(_) => {
            let whole = angles.iter().map(|a| a * a).sum::<f64>().sqrt();
            Off::Degrees(whole.min(1.0).asin().to_degrees())
        }
    }
}

/// The feature that is far off its plane, where the others are not.
fn farthest(model: &Model, rows: &[(&Measure, f64)], scale: f64) -> Option<(TrackId, f64)> {
    let mut sizes: Vec<f64> = rows.iter().map(|(_, off)| off.abs()).collect();
    let usual = 1.4826 * crate::statistics::median(&mut sizes)?;
    let (measure, off) = rows.iter().max_by(|a, b| a.1.abs().total_cmp(&b.1.abs()))?;
    let Measure::Off(spot, _) = measure else {
        return None;
    };
    let track = model.features.iter().find(|(_, own)| *own == spot)?.0;
    (rows.len() >= 5 && off.abs() > FAR * usual).then_some((*track, off * scale))
}

/// Statements without which the others agree; all that are missed where no single one is to blame.
fn contradicting(solved: &Solved<'_>, statements: &[Stated], errors: &[f64]) -> Vec<usize> {
    let is_missed = |z: &f64| *z > AGREES;
    if !errors.iter().any(is_missed) {
        return Vec::new();
    }
    let without = |at: usize| {
        let mut fewer = statements.to_vec();
        fewer[at].1.off = true;
        let mut model = Model::of(solved, &fewer);
        start::begin(solved, &mut model);
        let fitted = fit(solved, &model);
        (0..statements.len()).all(|other| !is_missed(&errors_of(&model, &fitted, other)))
    };
    let on = |at: &usize| !statements[*at].1.off && !statements[*at].1.fact.is_by_hand();
    let blamed: Vec<usize> = (0..statements.len())
        .filter(on)
        .filter(|at| without(*at))
        .collect();
    if blamed.is_empty() {
        let missed = errors.iter().enumerate().filter(|(_, z)| is_missed(z));
        return missed.map(|(at, _)| at).collect();
    }
    blamed
}
