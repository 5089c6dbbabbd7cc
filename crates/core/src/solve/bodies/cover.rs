//! How much of the picture, of its border and of the shot's time does a body hold?

use super::Body;
use crate::solve::SolveOptions;
use crate::solve::views::Views;
use crate::spaces::{PlatePx, TrackId};
use rayon::prelude::*;

/// Cells in which cover is counted, across and down.
const CELLS: (usize, usize) = (16, 9);
/// Features that a body holds on a frame to live there.
const ALIVE: usize = 6;

/// Whose the picture is: for each frame and cell of a grid the track that is seen nearest to it. So
/// area is counted, however dense the features of something are.
pub(super) struct Held {
    nearest: Vec<Vec<usize>>,
}

impl Held {
    pub(super) fn of(views: &Views, options: &SolveOptions) -> Self {
        let (width, height) = (
            f64::from(options.lens.width_px),
            f64::from(options.lens.height_px),
        );
        let middle = |cell: usize| {
            let (column, row) = (cell % CELLS.0, cell / CELLS.0);
            PlatePx::new(
                (column as f64 + 0.5) / CELLS.0 as f64 * width,
                (row as f64 + 0.5) / CELLS.1 as f64 * height,
            )
        };
        let of_frame = |on_frame: &Vec<(usize, usize)>| -> Vec<usize> {
            let away = |cell, (track, k): (usize, usize)| {
                views.seen[track][k].px.distance_px(middle(cell))
            };
            let nearest = |cell: usize| {
                let by_distance = |a: &&(usize, usize), b: &&(usize, usize)| {
                    away(cell, **a).total_cmp(&away(cell, **b))
                };
                on_frame.iter().min_by(by_distance).map(|(track, _)| *track)
            };
            (0..CELLS.0 * CELLS.1).filter_map(nearest).collect()
        };
        Self {
            nearest: views.by_frame.par_iter().map(of_frame).collect(),
        }
    }

    /// The frame on which some tracks are the nearest in the least of the picture, and in how much of it;
    /// `None` where no frame has any track.
    pub(super) fn least_on_a_frame(
        &self,
        is_member: impl Fn(usize) -> bool,
    ) -> Option<(usize, f64)> {
        let share = |nearest: &Vec<usize>| {
            let own = nearest.iter().filter(|t| is_member(**t)).count();
            own as f64 / nearest.len().max(1) as f64
        };
        let followed = self.nearest.iter().enumerate();
        let followed = followed.filter(|(_, nearest)| !nearest.is_empty());
        let by_frame = followed.map(|(frame, nearest)| (frame, share(nearest)));
        by_frame.min_by(|a, b| a.1.total_cmp(&b.1))
    }

    /// The figures of the body that some tracks are.
    pub(super) fn body(&self, views: &Views, is_member: impl Fn(usize) -> bool) -> Body {
        let share = |is_counted: fn(usize) -> bool| {
            let cells = self.nearest.iter().flat_map(|n| n.iter().enumerate());
            let counted = cells.filter(|(cell, _)| is_counted(*cell));
            let (mut own, mut all) = (0usize, 0usize);
            for (_, track) in counted {
                own += usize::from(is_member(*track));
                all += 1;
            }
            own as f64 / all.max(1) as f64
        };
        let is_alive = |on_frame: &&Vec<(usize, usize)>| {
            on_frame.iter().filter(|(t, _)| is_member(*t)).count() >= ALIVE
        };
        let alive = views.by_frame.iter().filter(is_alive).count();
        let members = (0..views.tracks.len()).filter(|t| is_member(*t));
        let mut tracks: Vec<TrackId> = members.map(|t| views.tracks[t]).collect();
        tracks.sort_unstable();
        Body {
            tracks,
            cover: share(|_| true),
            border: share(is_at_border),
            life: alive as f64 / views.frames.len().max(1) as f64,
            rms_px: 0.0,
            fit: 0.0,
        }
    }
}

fn is_at_border(cell: usize) -> bool {
    let (column, row) = (cell % CELLS.0, cell / CELLS.0);
    column == 0 || row == 0 || column == CELLS.0 - 1 || row == CELLS.1 - 1
}
