//! Statements as residuals: what is unknown, what each statement measures, and from which places.
//!
//! Unknown are the turn of the world, the logarithm of its scale and what statements bring with them: heights of
//! planes, directions of edges of which only a relation is known. A shift is not among them: where the origin is
//! nothing measures. Lengths are held against each other in the units of the solve, so that a smaller world
//! never looks like a better one.

use super::Unused;
use super::solved::{Ray, Solved, plane_of};
use super::statement::{Edge, End, Facing, Fact, METRES, Rail, Runs, Statement};
use crate::spaces::{FrameNumber, TrackId};
use nalgebra::{Matrix3, UnitQuaternion, Vector3};
use std::collections::HashMap;

/// Values of all unknowns.
#[derive(Clone, Debug)]
pub struct Unknowns {
    /// From the solve's directions to the artist's.
    pub turn: UnitQuaternion<f64>,
    /// Logarithm of metres per unit of the solve.
    pub ln_scale: f64,
    /// What statements bring.
    pub own: Vec<Own>,
}

/// An unknown that a statement brings.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum Own {
    /// How far a plane is from the solve's origin, units of the solve.
    Offset(f64),
    /// A level direction by its angle about up, rad.
    Heading(f64),
    /// A direction, of unit length.
    Direction(Vector3<f64>),
}

impl Own {
    /// How many numbers it is.
    pub fn size(&self) -> usize {
        match self {
            Self::Direction(_) => 2,
            Self::Offset(_) | Self::Heading(_) => 1,
        }
    }

    fn direction(&self) -> Vector3<f64> {
        match self {
            Self::Direction(direction) => *direction,
            Self::Heading(angle) => Vector3::new(angle.sin(), 0.0, angle.cos()),
            Self::Offset(_) => Vector3::y(),
        }
    }
}

impl Unknowns {
    /// How many numbers there are: turn (3), scale, then those of statements.
    pub fn size(&self) -> usize {
        4 + self.own.iter().map(Own::size).sum::<usize>()
    }

    /// After a step.
    pub fn stepped(&self, step: &[f64]) -> Self {
        let mut next = self.clone();
        next.turn =
            UnitQuaternion::from_scaled_axis(Vector3::new(step[0], step[1], step[2])) * next.turn;
        // No step makes more than seven times as much or as little of it.
        next.ln_scale += step[3].clamp(-2.0, 2.0);
        let mut at = 4;
        for own in &mut next.own {
            match own {
                Own::Offset(value) | Own::Heading(value) => *value += step[at],
                Own::Direction(direction) => {
                    let [one, other] = across(direction);
                    *direction = (*direction + one * step[at] + other * step[at + 1]).normalize();
                }
            }
            at += own.size();
        }
        next
    }
}

/// Two directions square to one and to each other.
pub fn across(direction: &Vector3<f64>) -> [Vector3<f64>; 2] {
    let least = direction.iamin();
    let one = direction.cross(&Vector3::ith(least, 1.0)).normalize();
    [one, direction.cross(&one)]
}

/// A direction that statements name.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum Direction {
    /// One of the scene's.
    Axis(usize),
    /// One of the unknowns.
    Own(usize),
}

impl Direction {
    /// In the artist's world.
    pub fn of(self, unknowns: &Unknowns) -> Vector3<f64> {
        match self {
            Self::Axis(axis) => Vector3::ith(axis, 1.0),
            Self::Own(at) => unknowns.own[at].direction(),
        }
    }
}

/// A plane that statements name: its normal and its offset among the unknowns.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Plane {
    /// Its normal.
    pub normal: Direction,
    /// Which of the unknowns is its offset.
    pub offset: usize,
}

impl Plane {
    fn offset(self, unknowns: &Unknowns) -> f64 {
        match unknowns.own[self.offset] {
            Own::Offset(value) => value,
            Own::Heading(_) | Own::Direction(_) => 0.0,
        }
    }
}

/// An end of a length.
#[derive(Clone, Copy, Debug)]
pub enum Place {
    /// A spot.
    Spot(usize),
    /// Where a ray meets a plane.
    OnPlane(Ray, Plane),
}

/// What is measured, in units of the solve or rad.
#[derive(Clone, Copy, Debug)]
pub enum Measure {
    /// How far a spot is off a plane.
    Off(usize, Plane),
    /// By how much an edge from spot to spot leaves a direction, to one side of two.
    Leaves([usize; 2], Direction, usize),
    /// By how much the plane through eye and rail leaves a direction.
    Rail(usize, Direction),
    /// By how much two directions are not square.
    Square(Direction, Direction),
    /// By how much a ray rises.
    Rises(usize, usize),
    /// A length in m, against what it is.
    Length([Place; 2], f64),
    /// How high a spot is above a plane, against a height in m.
    Above(usize, Plane, f64),
}

/// A row of the fit.
#[derive(Clone, Copy, Debug)]
pub struct Row {
    /// Index of its statement.
    pub statement: usize,
    /// What it measures.
    pub measure: Measure,
    /// One standard error of the statement itself, m for lengths and heights, else of the measure's unit.
    pub sigma: f64,
}

/// A rail as rays of the solve's world.
#[derive(Clone, Copy, Debug)]
pub struct Rays {
    /// To its ends, unit length.
    pub ends: [Vector3<f64>; 2],
    /// How exactly they point, rad.
    pub sigma_rad: f64,
}

/// Everything that is fitted.
pub struct Model {
    /// Places of the solve's world.
    pub spots: Vec<Vector3<f64>>,
    /// Which spot is a feature's.
    pub features: HashMap<TrackId, usize>,
    /// Covariances of the spots that are no features, by spot.
    pub others: HashMap<usize, Matrix3<f64>>,
    /// Rails.
    pub rails: Vec<Rays>,
    /// Rows, by statement.
    pub rows: Vec<Row>,
    /// Planes by index of their statement.
    pub planes: HashMap<usize, Plane>,
    /// Directions of edges by index of their statement.
    pub directions: HashMap<usize, Direction>,
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
            features: HashMap::new(),
            others: HashMap::new(),
            rails: Vec::new(),
            rows: Vec::new(),
            planes: HashMap::new(),
            directions: HashMap::new(),
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

    fn add(&mut self, statement: usize, measure: Measure, sigma: f64) {
        self.rows.push(Row {
            statement,
            measure,
            sigma,
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
                if ends.iter().all(|end| matches!(end, Place::Spot(_))) {
                    let [Place::Spot(a), Place::Spot(b)] = ends else {
                        return Ok(Taken::Yes);
                    };
                    if (self.spots[a] - self.spots[b]).norm() < 1e-9 * solved.depth {
                        return Err(Unused::SamePlace);
                    }
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
        let Some(found) = plane_of(&places) else {
            return Err(Unused::InOneLine);
        };
        let plane = match (faces, self.ground) {
            (Facing::Ground, Some(ground)) => ground,
            _ => {
                let normal = match faces {
                    Facing::Ground | Facing::Level => Direction::Axis(1),
                    Facing::Along => Direction::Axis(2),
                    Facing::Across => Direction::Axis(0),
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
        for spot in spots {
            self.add(at, Measure::Off(spot, plane), FLAT_SHARE * solved.depth);
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
                let apart = (self.spots[spots[0]] - self.spots[spots[1]]).norm();
                if apart < 1e-9 * solved.depth {
                    return Err(Unused::SamePlace);
                }
                Seen::Features(spots)
            }
            Edge::Rail(rail) => Seen::Rail(self.rail(solved, rail)?),
        };
        let direction = match (runs, known) {
            (Runs::Up, _) => Direction::Axis(1),
            (Runs::Along, _) => Direction::Axis(2),
            (Runs::Across, _) => Direction::Axis(0),
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

impl Model {
    /// What a row comes to.
    pub fn value(&self, unknowns: &Unknowns, spots: &[Vector3<f64>], measure: &Measure) -> f64 {
        let scale = unknowns.ln_scale.exp();
        match measure {
            Measure::Off(spot, plane) => self.above(unknowns, &spots[*spot], *plane),
            Measure::Leaves([a, b], direction, side) => {
                let along = unknowns.turn * (spots[*b] - spots[*a]).normalize();
                let direction = direction.of(unknowns);
                let off = across(&direction)[*side].dot(&along);
                off * along.dot(&direction).signum()
            }
            Measure::Rail(rail, direction) => {
                let [a, b] = self.rails[*rail].ends;
                let normal = unknowns.turn * a.cross(&b).normalize();
                normal.dot(&direction.of(unknowns))
            }
            Measure::Square(one, other) => one.of(unknowns).dot(&other.of(unknowns)),
            Measure::Rises(rail, end) => (unknowns.turn * self.rails[*rail].ends[*end]).y,
            Measure::Length(ends, metres) => {
                let [a, b] = ends.map(|end| self.place(unknowns, spots, end));
                (a - b).norm() - metres / scale
            }
            Measure::Above(spot, plane, metres) => {
                self.above(unknowns, &spots[*spot], *plane) - metres / scale
            }
        }
    }

    fn above(&self, unknowns: &Unknowns, spot: &Vector3<f64>, plane: Plane) -> f64 {
        plane.normal.of(unknowns).dot(&(unknowns.turn * spot)) - plane.offset(unknowns)
    }

    /// An end of a length in the solve's world.
    fn place(&self, unknowns: &Unknowns, spots: &[Vector3<f64>], end: Place) -> Vector3<f64> {
        match end {
            Place::Spot(spot) => spots[spot],
            Place::OnPlane(ray, plane) => {
                let normal = unknowns.turn.inverse() * plane.normal.of(unknowns);
                let along = normal.dot(&ray.direction);
                let far = (plane.offset(unknowns) - normal.dot(&ray.eye)) / along;
                ray.eye + ray.direction * if far.is_finite() { far } else { 0.0 }
            }
        }
    }

    /// Spots on which a row depends.
    pub fn spots_of(&self, measure: &Measure) -> Vec<usize> {
        match measure {
            Measure::Off(spot, _) | Measure::Above(spot, ..) => vec![*spot],
            Measure::Leaves([a, b], ..) => vec![*a, *b],
            Measure::Length(ends, _) => {
                let spots = ends.iter().filter_map(|end| match end {
                    Place::Spot(spot) => Some(*spot),
                    Place::OnPlane(..) => None,
                });
                spots.collect()
            }
            Measure::Rail(..) | Measure::Square(..) | Measure::Rises(..) => Vec::new(),
        }
    }

    /// Variance of a row apart from that of its spots: of the statement itself and of marks over the plate.
    pub fn own_variance(&self, unknowns: &Unknowns, row: &Row) -> f64 {
        let scale = unknowns.ln_scale.exp();
        let of_marks = match &row.measure {
            Measure::Rail(rail, direction) => {
                let Rays { ends, sigma_rad } = &self.rails[*rail];
                let direction = unknowns.turn.inverse() * direction.of(unknowns);
                let normal = ends[0].cross(&ends[1]);
                let slope = |end: usize| {
                    let turned = ends[1 - end].cross(&direction);
                    (turned - ends[end] * ends[end].dot(&turned)).norm_squared()
                };
                sigma_rad.powi(2) * (slope(0) + slope(1)) / normal.norm_squared()
            }
            Measure::Rises(rail, _) => self.rails[*rail].sigma_rad.powi(2),
            Measure::Length(ends, _) => ends
                .iter()
                .map(|end| self.of_pointing(unknowns, *end))
                .sum(),
            _ => 0.0,
        };
        let stated = match row.measure {
            Measure::Length(..) | Measure::Above(..) => row.sigma.max(*METRES.start()) / scale,
            _ => row.sigma,
        };
        of_marks + stated.powi(2)
    }

    /// Variance of where a ray meets a plane for how exactly it was marked, units of the solve squared.
    fn of_pointing(&self, unknowns: &Unknowns, end: Place) -> f64 {
        let Place::OnPlane(ray, plane) = end else {
            return 0.0;
        };
        let normal = unknowns.turn.inverse() * plane.normal.of(unknowns);
        let far = (self.place(unknowns, &[], end) - ray.eye).norm();
        let slant = normal.dot(&ray.direction).abs().max(1e-3);
        // As far along the plane as the ray is slanted.
        (far * ray.sigma_rad / slant).powi(2)
    }
}
