//! The covariance of cameras and lens together, for frames spread over the shot.
//!
//! Of a long shot some frames stand for all: errors of neighbours are alike, and nothing grows with the square of the
//! number of frames.

use crate::solve::bundle::covariance::Functional;
use crate::solve::bundle::residual::linear;
use crate::solve::bundle::{Beliefs, CAMERA, Observation, Problem};
use crate::solve::information::Information;
use crate::spaces::{FrameNumber, PlatePx, WorldPoint};
use crate::statistics::median;
use nalgebra::{DMatrix, Vector3};
use std::collections::HashMap;

/// Most frames that are looked at.
const MOST_FRAMES: usize = 64;

/// Some cameras and the lens with their joint covariance.
pub struct Joint {
    /// Cameras, lens and how rows are read; no points and no observations.
    problem: Problem,
    /// Index of each camera that is looked at, ascending.
    pub cameras: Vec<usize>,
    /// Frame of every camera.
    pub frames: Vec<FrameNumber>,
    /// Which unknown each row of the covariance is: camera (of all) and slot, or a shared one.
    unknowns: Vec<Unknown>,
    /// Covariance of the unknowns, not yet scaled by [`Self::factor`].
    covariance: DMatrix<f64>,
    /// By which covariances are scaled.
    pub factor: f64,
    /// Usual standard error of a position of a track, px.
    pub usual_sigma_px: f64,
}

/// An unknown of the solve.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum Unknown {
    /// Of a camera, by its index.
    OfCamera(usize, usize),
    /// Shared by all, in the order of [`crate::solve::bundle::FreeLens::terms`].
    Shared(usize),
}

/// How a place is seen by the cameras that are looked at.
pub struct Seen {
    /// Which of the cameras, by its place in [`Joint::cameras`].
    pub cameras: Vec<usize>,
    /// Where, px.
    pub px: Vec<PlatePx>,
    /// Derivatives by the unknowns of the joint covariance, two rows a frame.
    pub by_unknowns: DMatrix<f64>,
    /// Derivatives by the place, two rows a frame.
    pub by_place: DMatrix<f64>,
}

impl Joint {
    /// Of a solve; `None` where the evidence does not determine it.
    pub fn of(information: &Information) -> Option<Self> {
        let Information {
            problem,
            at_rest,
            frames,
            ..
        } = information;
        let count = problem.poses.len();
        if count < 2 {
            return None;
        }
        let shown = count.min(MOST_FRAMES);
        let cameras: Vec<usize> = (0..shown).map(|k| k * (count - 1) / (shown - 1)).collect();
        let of_cameras = cameras.iter().flat_map(|camera| {
            let slots = problem.slots().iter();
            slots.map(|slot| Unknown::OfCamera(*camera, *slot))
        });
        let shared = (0..problem.free.count()).map(Unknown::Shared);
        let all = of_cameras.chain(shared);
        let row = |unknown: &Unknown| match unknown {
            Unknown::OfCamera(camera, slot) => at_rest.row(*camera, *slot),
            Unknown::Shared(at) => Some(at_rest.shared_row(*at)),
        };
        let unknowns: Vec<Unknown> = all.filter(|unknown| row(unknown).is_some()).collect();
        let single: Vec<Functional> = unknowns
            .iter()
            .filter_map(row)
            .map(|row| vec![(row, 1.0)])
            .collect();
        let covariance = at_rest.between(&single)?;
        let mut sigmas: Vec<f64> = problem
            .observations
            .iter()
            .map(|o| 1.0 / o.whitening[2].max(f64::MIN_POSITIVE))
            .collect();
        Some(Self {
            cameras,
            frames: frames.clone(),
            unknowns,
            covariance,
            factor: at_rest.factor,
            usual_sigma_px: median(&mut sigmas)?,
            // CG is drawn by the camera of the middle row.
            problem: Problem {
                rolling: None,
                beliefs: Beliefs::default(),
                points: Vec::new(),
                observations: [].into(),
                ..problem.clone()
            },
        })
    }

    /// Where in the covariance an unknown stands; `None` where it is not free.
    pub fn at(&self, unknown: Unknown) -> Option<usize> {
        self.unknowns.iter().position(|own| *own == unknown)
    }

    /// How many unknowns the covariance is of.
    pub fn size(&self) -> usize {
        self.unknowns.len()
    }

    /// The cameras and the lens.
    pub fn problem(&self) -> &Problem {
        &self.problem
    }

    /// Covariances of linear functions of the unknowns, one a row, not scaled.
    pub fn between(&self, functions: &DMatrix<f64>) -> DMatrix<f64> {
        let half = functions * &self.covariance;
        half * functions.transpose()
    }

    /// How a place of the solve's world is seen by the cameras in whose picture it lies.
    pub fn seen(&self, place: &Vector3<f64>) -> Seen {
        let mut problem = self.problem.clone();
        problem.points = vec![*place];
        let mut seen = Vec::new();
        for (k, camera) in self.cameras.iter().enumerate() {
            let (lens, pose) = (problem.lens_of(*camera), &problem.poses[*camera]);
            let px = lens.project(pose, &WorldPoint((*place).into()));
            let Some(px) = px.filter(|px| lens.holds(*px)) else {
                continue;
            };
            let rotation = pose.camera_from_world.rotation.to_rotation_matrix();
            let observation = Observation {
                camera: *camera as u32,
                point: 0,
                px,
                whitening: [1.0, 0.0, 1.0],
            };
            if let Some(slopes) = linear(&problem, rotation.matrix(), &observation) {
                seen.push((k, px, slopes));
            }
        }
        let mut by_unknowns = DMatrix::zeros(2 * seen.len(), self.unknowns.len());
        let mut by_place = DMatrix::zeros(2 * seen.len(), 3);
        let columns: HashMap<Unknown, usize> = self.unknowns.iter().copied().zip(0..).collect();
        for (at, (k, _, slopes)) in seen.iter().enumerate() {
            let camera = self.cameras[*k];
            for side in 0..2 {
                let row = 2 * at + side;
                for slot in 0..CAMERA {
                    if let Some(column) = columns.get(&Unknown::OfCamera(camera, slot)) {
                        by_unknowns[(row, *column)] = slopes.camera[(side, slot)];
                    }
                }
                for shared in 0..problem.free.count() {
                    if let Some(column) = columns.get(&Unknown::Shared(shared)) {
                        by_unknowns[(row, *column)] = slopes.shared[(side, shared)];
                    }
                }
                for axis in 0..3 {
                    by_place[(row, axis)] = slopes.point[(side, axis)];
                }
            }
        }
        Seen {
            cameras: seen.iter().map(|s| s.0).collect(),
            px: seen.iter().map(|s| s.1).collect(),
            by_unknowns,
            by_place,
        }
    }
}
