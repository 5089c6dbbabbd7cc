//! What stands or moves in the scene that is handed on: surfaces of guests and of the set, and bodies.

use super::Landmark;
use nalgebra::Point3;
use parallax_core::camera::Similarity;
use parallax_core::guest::Mesh;
use parallax_core::spaces::{FrameNumber, WorldPoint};
use std::sync::Arc;

/// A guest, or a plane of the set, that is handed on.
#[derive(Clone, Debug)]
pub struct Delivered {
    /// Its name.
    pub name: String,
    /// Its surface.
    pub mesh: Arc<Mesh>,
    /// From its own space to the world; of one that moves, on the first frame.
    pub there: Similarity,
    /// The same on every frame of one that moves; empty of one that stands still.
    pub moves: Vec<Similarity>,
}

impl Delivered {
    /// One that stands still.
    pub fn still(name: impl Into<String>, mesh: Arc<Mesh>, there: Similarity) -> Self {
        let name = name.into();
        let moves = Vec::new();
        Self {
            name,
            mesh,
            there,
            moves,
        }
    }

    /// From its own space to the world on a frame, counted from the first.
    pub fn on(&self, frame: usize) -> &Similarity {
        self.moves.get(frame).unwrap_or(&self.there)
    }

    /// Its corners in its own space.
    pub fn own_corners(&self) -> impl Iterator<Item = WorldPoint> {
        let place = |p: &[f32; 3]| WorldPoint(Point3::from(*p).cast());
        self.mesh.points.iter().map(place)
    }

    /// Its corners in the world; of one that moves, on the first frame.
    pub fn corners(&self) -> impl Iterator<Item = WorldPoint> {
        self.own_corners().map(|p| self.there.point(&p))
    }
}

/// A thing that moves by itself: landmarks in its own space, which is where it is on each frame.
#[derive(Clone, Debug)]
pub struct MovingBody {
    /// What it is called.
    pub name: String,
    /// Its landmarks, in its own space.
    pub points: Vec<Landmark>,
    /// From its own space to the world, a frame each.
    pub moves: Vec<Similarity>,
    /// First and last frame on which it was solved; before and after it rests.
    pub seen: [FrameNumber; 2],
    /// By what its distance from the camera is known, as a sentence.
    pub distance_by: String,
    /// Whether nobody stated that.
    pub is_assumed: bool,
}

impl MovingBody {
    /// The same in a changed world; it grows with it.
    pub fn changed(&self, change: &Similarity) -> Self {
        let moved = |there: &Similarity| Similarity {
            scale: 1.0,
            ..there.then(change)
        };
        let grown = Similarity {
            scale: change.scale,
            ..Similarity::identity()
        };
        let own = |p: &Landmark| Landmark {
            place: grown.point(&p.place),
            covariance: p.covariance.map(|c| c.in_world(&grown)),
            ..p.clone()
        };
        Self {
            points: self.points.iter().map(own).collect(),
            moves: self.moves.iter().map(moved).collect(),
            ..self.clone()
        }
    }

    /// Its landmarks in the world on a frame, counted from the first.
    pub fn places(&self, frame: usize) -> Vec<WorldPoint> {
        let there = self.moves.get(frame);
        let place = |p: &Landmark| there.map_or(p.place, |t| t.point(&p.place));
        self.points.iter().map(place).collect()
    }
}
