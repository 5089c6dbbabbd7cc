//! What each statement misses by, and which contradict each other.

use super::fit::Fitted;
use super::measure::Measure;
use super::model::Model;
use super::solved::Solved;
use super::{End, Fact, Stated, Unused};
use crate::solve::{Attempt, Body};
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

impl Miss {
    /// The same where it is of a length between two features of one body of an attempt that is not the scene.
    pub(super) fn on_a_body(mut self, attempt: &Attempt, statements: &[Stated]) -> Self {
        let stated = statements.iter().find(|(id, _)| *id == self.id);
        let ends = match stated.map(|(_, statement)| &statement.fact) {
            Some(Fact::Length {
                between: [End::Feature(a), End::Feature(b)],
                ..
            }) => [*a, *b],
            _ => return self,
        };
        let holds = |body: &Body| ends.iter().all(|t| body.tracks.contains(t));
        if matches!(self.off, Off::Unused(Unused::NotSolved(_)))
            && attempt.bodies.iter().skip(1).any(holds)
        {
            self.off = Off::Unused(Unused::OnABody);
        }
        self
    }
}

/// A statement of one row that is missed by more standard errors does not agree with the others; one of more rows at
/// less, as the mean of more squares wanders less.
const AGREES: f64 = 4.0;
/// Of more statements than this it is not tried which of them is to blame.
const MOST_TRIED: usize = 40;

/// What came of all statements that are on.
pub fn of(solved: &Solved<'_>, statements: &[Stated], model: &Model, fitted: &Fitted) -> Vec<Miss> {
    let against = contradicting(solved, statements, (model, fitted));
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
            errors: squares_of(model, fitted, at).0.sqrt(),
            contradicts: against.contains(&at),
        });
    }
    out
}

/// The mean square of the standard errors by which a statement is missed, and of how many rows that tell.
fn squares_of(model: &Model, fitted: &Fitted, at: usize) -> (f64, f64) {
    let own = model.rows.iter().zip(&fitted.errors);
    let own = own.filter(|(row, _)| row.statement == at);
    let (mut sum, mut count, mut telling) = (0.0, 0.0, 0.0);
    for (row, z) in own {
        sum += z * z;
        count += 1.0;
        telling += 1.0 / row.crowd;
    }
    (sum / f64::max(count, 1.0), telling)
}

/// Whether a statement is missed by more than chance.
fn is_missed(model: &Model, fitted: &Fitted, at: usize) -> bool {
    let (square, telling) = squares_of(model, fitted, at);
    square > 1.0 + (AGREES * AGREES - 1.0) / telling.max(1.0).sqrt()
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
            let astray = model.astray.get(&at);
            Off::Flat(rms(&off), astray.map(|(track, off)| (*track, off * scale)))
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

/// Statements without which the others agree; all that are missed where no single one is to blame.
fn contradicting(
    solved: &Solved<'_>,
    statements: &[Stated],
    (model, fitted): (&Model, &Fitted),
) -> Vec<usize> {
    let all = || 0..statements.len();
    let missed: Vec<usize> = all().filter(|at| is_missed(model, fitted, *at)).collect();
    let on = |at: &usize| !statements[*at].1.off && !statements[*at].1.fact.is_by_hand();
    let tried: Vec<usize> = all().filter(on).collect();
    if missed.is_empty() || tried.len() > MOST_TRIED {
        return missed;
    }
    let agree_without = |at: &usize| {
        let mut fewer = statements.to_vec();
        fewer[*at].1.off = true;
        let (model, fitted) = super::fitted(solved, &fewer);
        all().all(|other| !is_missed(&model, &fitted, other))
    };
    let blamed: Vec<usize> = tried.into_iter().filter(agree_without).collect();
    if blamed.is_empty() { missed } else { blamed }
}
