//! Statements as residuals: what is unknown, what each statement measures, and from which places.
//!
//! Unknown are the turn of the world, the logarithm of its scale and what statements bring with them: heights of
//! planes, directions of edges of which only a relation is known. A shift is not among them: where the origin is
//! nothing measures. Lengths are held against each other in the units of the solve, so that a smaller world
//! never looks like a better one.

use super::Unused;
use super::flat::flatness;
use super::measure::{Measure, Place, Rays, Row};
use super::solved::Solved;
use super::statement::{Edge, End, Facing, Fact, Rail, Runs, Statement};
use super::unknowns::{Direction, Own, Plane, Unknowns};
use crate::spaces::{FrameNumber, TrackId};
use nalgebra::{Matrix3, UnitQuaternion, Vector3};
use std::collections::BTreeMap;

/// Everything that is fitted.
pub struct Model {
    /// Places of the solve's world.
    pub spots: Vec<Vector3<f64>>,
    /// Which spot is a feature's.
    pub features: BTreeMap<TrackId, usize>,
    /// Covariances of the spots that are no features, by spot.
    pub others: BTreeMap<usize, Matrix3<f64>>,
    /// Rails.
    pub rails: Vec<Rays>,
    /// Rows, by statement.
    pub rows: Vec<Row>,
    /// Planes by index of their statement.
    pub planes: BTreeMap<usize, Plane>,
    /// Their normals by their own features, in the solve's world.
    pub normals: BTreeMap<usize, Vector3<f64>>,
    /// The feature that lies far off its plane, with how far, units of the solve.
    pub astray: BTreeMap<usize, (TrackId, f64)>,
    /// Directions of edges by index of their statement.
    pub directions: BTreeMap<usize, Direction>,
    /// The ground.
    pub ground: Option<Plane>,
    /// To begin with.
    pub start: Unknowns,
    /// Why statements take no part, by index.
    pub unused: Vec<(usize, Unused)>,
}

/// A relation of directions holds to this, rad.
const EXACT_RAD: f64 = 1e-6;
/// An edge of the set is straight and true to this, rad.
const TRUE_RAD: f64 = 1e-4;
/// Features of a plane beyond so many say the same again: a floor is worn and a solve is bent in stretches, not from
/// feature to feature.
const TELLING: f64 = 12.0;
/// Planes are as flat as this share of the scene's depth, until their features say otherwise.
const FLAT_SHARE: f64 = 2e-5;

/// What an edge runs along, with the statements that it needs.
struct Running<'a> {
    statements: &'a [(u32, Statement)],
    used: Vec<bool>,
}

impl Running<'_> {
    fn find(&self, id: u32) -> Option<usize> {
        let at = self.statements.iter().position(|(own, _)| *own == id)?;
        self.used[at].then_some(at)
    }
}

impl Model {
    /// What statements come to for what was solved.
    pub fn of(solved: &Solved<'_>, statements: &[(u32, Statement)]) -> Self {
        let mut model = Self {
            spots: Vec::new(),
            features: BTreeMap::new(),
            others: BTreeMap::new(),
            rails: Vec::new(),
            rows: Vec::new(),
            planes: BTreeMap::new(),
            normals: BTreeMap::new(),
            astray: BTreeMap::new(),
            directions: BTreeMap::new(),
            ground: None,
            start: Unknowns {
                turn: UnitQuaternion::identity(),
                ln_scale: 0.0,
                own: Vec::new(),
            },
            unused: Vec::new(),
        };
        let mut running = Running {
            statements,
            used: statements.iter().map(|(_, s)| !s.off).collect(),
        };
        // Planes first: lengths and heights stand on them.
        let is_plane = |s: &Statement| matches!(s.fact, Fact::Plane { .. });
        let mut waiting: Vec<usize> = (0..statements.len()).filter(|i| running.used[*i]).collect();
        waiting.sort_by_key(|i| !is_plane(&statements[*i].1));
        // Edges after those that they name, round by round.
        while !waiting.is_empty() {
            let before = waiting.len();
            waiting.retain(|at| match model.take(solved, &running, *at) {
                Ok(Taken::Yes) => false,
                Ok(Taken::Later) => true,
                Err(why) => {
                    model.unused.push((*at, why));
                    running.used[*at] = false;
                    false
                }
            });
            if waiting.len() == before {
                for at in waiting.drain(..) {
                    model.unused.push((at, Unused::InACircle));
                }
            }
        }
        model.rows.sort_by_key(|row| row.statement);
        model
    }

    fn own(&mut self, own: Own) -> usize {
        self.start.own.push(own);
        self.start.own.len() - 1
    }

    fn feature(&mut self, solved: &Solved<'_>, track: TrackId) -> Result<usize, Unused> {
        if !solved.travels {
            return Err(Unused::Directions);
        }
        if let Some(spot) = self.features.get(&track) {
            return Ok(*spot);
        }
        let place = solved
            .landmark(track)
            .ok_or_else(|| Unused::NotSolved(vec![track]))?;
        self.spots.push(place.1.0.coords);
        self.features.insert(track, self.spots.len() - 1);
        Ok(self.spots.len() - 1)
    }

    fn other(&mut self, place: Vector3<f64>, covariance: Matrix3<f64>) -> usize {
        self.spots.push(place);
        self.others.insert(self.spots.len() - 1, covariance);
        self.spots.len() - 1
    }

    fn camera(&mut self, solved: &Solved<'_>, frame: FrameNumber) -> Result<usize, Unused> {
        if !solved.travels {
            return Err(Unused::Directions);
        }
        let (place, covariance) = solved.camera(frame).ok_or(Unused::NoCamera(frame))?;
        Ok(self.other(place, covariance))
    }

    fn rail(&mut self, solved: &Solved<'_>, rail: &Rail) -> Result<usize, Unused> {
        let [a, b] = [
            solved.ray(rail.frame, rail.a)?,
            solved.ray(rail.frame, rail.b)?,
        ];
        self.rails.push(Rays {
            ends: [a.direction, b.direction],
            sigma_rad: a.sigma_rad,
        });
        Ok(self.rails.len() - 1)
    }

    fn check_apart(&self, solved: &Solved<'_>, a: usize, b: usize) -> Result<(), Unused> {
        match (self.spots[a] - self.spots[b]).norm() < 1e-9 * solved.depth {
            true => Err(Unused::SamePlace),
            false => Ok(()),
        }
    }

    fn add(&mut self, statement: usize, measure: Measure, sigma: f64) {
        self.rows.push(Row {
            statement,
            measure,
            sigma,
            crowd: 1.0,
        });
    }

    fn take(
        &mut self,
        solved: &Solved<'_>,
        running: &Running<'_>,
        at: usize,
    ) -> Result<Taken, Unused> {
        match &running.statements[at].1.fact {
            Fact::Plane { faces, on, .. } => self.plane(solved, at, *faces, on)?,
            Fact::Origin { at: track } => {
                self.feature(solved, *track)?;
            }
            Fact::Edge { edge, runs } => return self.edge(solved, running, at, edge, *runs),
            Fact::Horizon { rail } => {
                let rail = self.rail(solved, rail)?;
                for end in 0..2 {
                    self.add(at, Measure::Rises(rail, end), 0.0);
                }
            }
            Fact::Length {
                between,
                length_m,
                sigma_m,
            } => {
                let ends = [
                    self.end(solved, running, &between[0])?,
                    self.end(solved, running, &between[1])?,
                ];
                if let [Place::Spot(a), Place::Spot(b)] = ends {
                    self.check_apart(solved, a, b)?;
                }
                self.add(at, Measure::Length(ends, *length_m), *sigma_m);
            }
            Fact::CameraHeight {
                frame,
                height_m,
                sigma_m,
            } => {
                let ground = self.ground.ok_or(Unused::NoGround)?;
                let camera = self.camera(solved, *frame)?;
                self.add(at, Measure::Above(camera, ground, *height_m), *sigma_m);
            }
            Fact::ByHand { .. } => {}
        }
        Ok(Taken::Yes)
    }

    fn plane(
        &mut self,
        solved: &Solved<'_>,
        at: usize,
        faces: Facing,
        on: &[TrackId],
    ) -> Result<(), Unused> {
        let there = |track: &&TrackId| solved.landmark(**track).is_some();
        let present: Vec<TrackId> = on.iter().filter(there).copied().collect();
        if solved.travels && present.len() < 3 {
            let missing = on.iter().filter(|t| !there(t)).copied().collect();
            return Err(Unused::TooFewSolved {
                solved: present.len(),
                missing,
            });
        }
        let spots = present
            .iter()
            .map(|track| self.feature(solved, *track))
            .collect::<Result<Vec<_>, _>>()?;
        let places: Vec<Vector3<f64>> = spots.iter().map(|s| self.spots[*s]).collect();
        let covariances: Vec<Matrix3<f64>> =
            present.iter().map(|t| solved.covariance(*t)).collect();
        let found = flatness(&places, &covariances).ok_or(Unused::InOneLine)?;
        let plane = match (faces, self.ground) {
            (Facing::Ground, Some(ground)) => ground,
            _ => {
                let normal = match faces {
                    Facing::Ground | Facing::Level => Direction::Axis(1),
                    Facing::Along => Direction::Axis(0),
                    Facing::Across => Direction::Axis(2),
                    Facing::Wall => Direction::Own(self.own(Own::Heading(0.0))),
                    Facing::Any => Direction::Own(self.own(Own::Direction(found.normal))),
                };
                let offset = self.own(Own::Offset(0.0));
                Plane { normal, offset }
            }
        };
        if faces == Facing::Ground {
            self.ground = Some(plane);
        }
        self.planes.insert(at, plane);
        self.normals.insert(at, found.normal);
        let farthest = (0..spots.len())
            .filter(|i| found.far[*i])
            .max_by(|a, b| found.off[*a].abs().total_cmp(&found.off[*b].abs()));
        if let Some(i) = farthest {
            self.astray.insert(at, (present[i], found.off[i].abs()));
        }
        let flat = (FLAT_SHARE * solved.depth).hypot(found.rough);
        let crowd = (spots.len() as f64 / TELLING).max(1.0);
        for (i, spot) in spots.into_iter().enumerate() {
            // What lies far off hardly counts.
            let sigma = match found.far[i] {
                true => flat.hypot(found.off[i]),
                false => flat,
            };
            self.rows.push(Row {
                statement: at,
                measure: Measure::Off(spot, plane),
                sigma,
                crowd,
            });
        }
        Ok(())
    }

    fn edge(
        &mut self,
        solved: &Solved<'_>,
        running: &Running<'_>,
        at: usize,
        edge: &Edge,
        runs: Runs,
    ) -> Result<Taken, Unused> {
        let other = |id: u32| running.find(id).ok_or(Unused::NoStatement(id));
        let known = match runs {
            Runs::With(id) | Runs::SquareTo(id) => {
                let other = other(id)?;
                if !matches!(running.statements[other].1.fact, Fact::Edge { .. }) {
                    return Err(Unused::NoStatement(id));
                }
                match self.directions.get(&other) {
                    Some(direction) => Some(*direction),
                    None => return Ok(Taken::Later),
                }
            }
            Runs::Up | Runs::Along | Runs::Across | Runs::Level | Runs::Free => None,
        };
        // Whatever is missing is said before anything is added.
        let seen = match edge {
            Edge::Features([a, b]) => {
                let spots = [self.feature(solved, *a)?, self.feature(solved, *b)?];
                self.check_apart(solved, spots[0], spots[1])?;
                Seen::Features(spots)
            }
            Edge::Rail(rail) => Seen::Rail(self.rail(solved, rail)?),
        };
        let direction = match (runs, known) {
            (Runs::Up, _) => Direction::Axis(1),
            (Runs::Along, _) => Direction::Axis(0),
            (Runs::Across, _) => Direction::Axis(2),
            (Runs::With(_), Some(known)) => known,
            (Runs::Level, _) => Direction::Own(self.own(Own::Heading(0.0))),
            _ => Direction::Own(self.own(Own::Direction(Vector3::z()))),
        };
        self.directions.insert(at, direction);
        match seen {
            Seen::Features(spots) => {
                for side in 0..2 {
                    self.add(at, Measure::Leaves(spots, direction, side), TRUE_RAD);
                }
            }
            Seen::Rail(rail) => self.add(at, Measure::Rail(rail, direction), TRUE_RAD),
        }
        if let (Runs::SquareTo(_), Some(known)) = (runs, known) {
            self.add(at, Measure::Square(direction, known), EXACT_RAD);
        }
        Ok(Taken::Yes)
    }

    fn end(
        &mut self,
        solved: &Solved<'_>,
        running: &Running<'_>,
        end: &End,
    ) -> Result<Place, Unused> {
        Ok(match end {
            End::Feature(track) => Place::Spot(self.feature(solved, *track)?),
            End::Camera(frame) => Place::Spot(self.camera(solved, *frame)?),
            End::Marked(sights) => {
                let (place, covariance) = solved.marked(sights)?;
                Place::Spot(self.other(place, covariance))
            }
            End::OnPlane { sight, plane } => {
                if !solved.travels {
                    return Err(Unused::Directions);
                }
                let at = running.find(*plane).ok_or(Unused::NoStatement(*plane))?;
                let of = self.planes.get(&at).copied();
                let ray = solved.ray(sight.frame, sight.px)?;
                Place::OnPlane(ray, of.ok_or(Unused::NoStatement(*plane))?)
            }
        })
    }
}

/// What became of a statement.
enum Taken {
    Yes,
    /// What it names was not taken yet.
    Later,
}

/// An edge as it is seen.
enum Seen {
    Features([usize; 2]),
    Rail(usize),
}
