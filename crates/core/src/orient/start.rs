//! Where the fit begins: directions in closed form, one after the other.
//!
//! A direction is sought that runs with some vectors and square to others: the eigenvector of least value of
//! `Σ v vᵀ + Σ (I - w wᵀ)` over the square ones v and the running ones w. Where nothing is said of it, up is as
//! the cameras were held and the first of them looks across (along -z).

use super::measure::Measure;
use super::model::Model;
use super::solved::{Solved, Stand};
use super::unknowns::{Direction, Own, Plane, across};
use nalgebra::{Matrix3, Rotation3, UnitQuaternion, Vector3};

/// How much the habits of cameras weigh against what is stated.
const HABIT: f64 = 1e-6;

/// What is known of a direction.
struct Hints(Matrix3<f64>);

impl Hints {
    fn expecting(direction: &Vector3<f64>) -> Self {
        let mut hints = Self(Matrix3::zeros());
        hints.runs(direction, HABIT);
        hints
    }

    fn runs(&mut self, with: &Vector3<f64>, weight: f64) {
        self.0 += (Matrix3::identity() - with * with.transpose()) * weight;
    }

    fn square(&mut self, to: &Vector3<f64>) {
        self.0 += to * to.transpose();
    }

    fn best(&self) -> Vector3<f64> {
        let eigen = self.0.symmetric_eigen();
        eigen
            .eigenvectors
            .column(eigen.eigenvalues.imin())
            .into_owned()
    }
}

/// Sets the start of a model's unknowns.
pub fn begin(solved: &Solved<'_>, model: &mut Model) {
    let up = up(solved, model);
    let turn = headed(solved, model, &up);
    model.start.turn = turn;
    for _ in 0..2 {
        directions(model);
    }
    offsets(model);
    scale(model);
}

/// What is known of the direction of an axis, in the solve's world.
fn hint(model: &Model, axis: usize, hints: &mut Hints) -> bool {
    let before = hints.0;
    for row in &model.rows {
        match &row.measure {
            Measure::Leaves([a, b], direction, 0) => {
                let edge = (model.spots[*b] - model.spots[*a]).normalize();
                match direction {
                    Direction::Axis(of) if *of == axis => hints.runs(&edge, 1.0),
                    Direction::Own(own) if axis == 1 && is_level(model, *own) => {
                        hints.square(&edge);
                    }
                    _ => {}
                }
            }
            Measure::Rail(rail, Direction::Axis(of)) if *of == axis => {
                let [a, b] = model.rails[*rail].ends;
                hints.square(&a.cross(&b).normalize());
            }
            Measure::Rises(rail, end) if axis == 1 => {
                hints.square(&model.rails[*rail].ends[*end]);
            }
            _ => {}
        }
    }
    for (at, plane) in &model.planes {
        let normal = model.normals[at];
        match plane.normal {
            Direction::Axis(of) if of == axis => hints.runs(&normal, 1.0),
            // Planes of the other axes stand square to it, walls upright.
            Direction::Axis(_) => hints.square(&normal),
            Direction::Own(own) if axis == 1 && is_level(model, own) => hints.square(&normal),
            Direction::Own(_) => {}
        }
    }
    hints.0 != before
}

fn is_level(model: &Model, own: usize) -> bool {
    matches!(model.start.own[own], Own::Heading(_))
}

/// Places of the features of planes of some statements.
fn spots_on(model: &Model, is_of: impl Fn(usize) -> bool) -> Vec<Vector3<f64>> {
    let on = model.rows.iter().filter_map(|row| match row.measure {
        Measure::Off(spot, _) if is_of(row.statement) => Some(model.spots[spot]),
        _ => None,
    });
    on.collect()
}

/// Up in the solve's world: the cameras stand above the ground.
fn up(solved: &Solved<'_>, model: &Model) -> Vector3<f64> {
    let held = solved.held_up();
    let mut hints = Hints::expecting(&held);
    hint(model, 1, &mut hints);
    let up = hints.best();
    let ground = model.ground.map(|ground| {
        let of_ground = |row: usize| model.planes.get(&row) == Some(&ground);
        spots_on(model, of_ground)
    });
    let is_upside_down = match ground {
        Some(places) => {
            let middle = places.iter().sum::<Vector3<f64>>() / places.len() as f64;
            let above = |c: &&Stand| (c.eye.pose.centre().0.coords - middle).dot(&up) > 0.0;
            2 * solved.cameras.iter().filter(above).count() < solved.cameras.len()
        }
        None => up.dot(&held) < 0.0,
    };
    if is_upside_down { -up } else { up }
}

/// The turn to a world with that up, in which the first camera looks along -z as nearly as edges allow.
fn headed(solved: &Solved<'_>, model: &Model, up: &Vector3<f64>) -> UnitQuaternion<f64> {
    let first = solved.cameras.first().filter(|_| !solved.is_upright);
    let rightwards = first.map_or(Vector3::x(), |c| {
        c.eye.pose.camera_from_world.rotation.inverse() * Vector3::x()
    });
    let flat = |v: &Vector3<f64>| (v - up * up.dot(v)).try_normalize(1e-6);
    let rightwards = flat(&rightwards).unwrap_or_else(|| across(up)[0]);
    let back = rightwards.cross(up);
    // Both axes as hints about one of them.
    let mut hints = Hints::expecting(&back);
    hints.0 += up * up.transpose() * 1e6;
    let of_z = hint(model, 2, &mut hints);
    let mut of_x = Hints(Matrix3::zeros());
    if hint(model, 0, &mut of_x) {
        let quarter = Rotation3::from_scaled_axis(up * std::f64::consts::FRAC_PI_2);
        hints.0 += quarter.transpose().matrix() * of_x.0 * quarter.matrix();
    }
    let mut best = if of_z || of_x.0 != Matrix3::zeros() {
        flat(&hints.best()).unwrap_or(back)
    } else {
        back
    };
    if best.dot(&back) < 0.0 {
        best = -best;
    }
    let rows = [
        up.cross(&best).transpose(),
        up.transpose(),
        best.transpose(),
    ];
    let turn = Rotation3::from_matrix_unchecked(Matrix3::from_rows(&rows));
    UnitQuaternion::from_rotation_matrix(&turn)
}

/// Directions that statements bring, from what runs with them and square to them.
fn directions(model: &mut Model) {
    let turn = model.start.turn;
    for own in 0..model.start.own.len() {
        let mine = Direction::Own(own);
        let mut hints = Hints(Matrix3::identity() * 1e-9);
        for row in &model.rows {
            match &row.measure {
                Measure::Leaves([a, b], direction, 0) if *direction == mine => {
                    hints.runs(
                        &(turn * (model.spots[*b] - model.spots[*a]).normalize()),
                        1.0,
                    );
                }
                Measure::Rail(rail, direction) if *direction == mine => {
                    let [a, b] = model.rails[*rail].ends;
                    hints.square(&(turn * a.cross(&b).normalize()));
                }
                Measure::Square(one, other) if *one == mine => {
                    hints.square(&other.of(&model.start));
                }
                _ => {}
            }
        }
        for (at, plane) in &model.planes {
            if plane.normal == mine {
                hints.runs(&(turn * model.normals[at]), 1.0);
            }
        }
        match &mut model.start.own[own] {
            Own::Direction(direction) => *direction = hints.best(),
            Own::Heading(angle) => {
                hints.square(&(Vector3::y() * 1e3));
                let best = hints.best();
                *angle = best.x.atan2(best.z);
            }
            Own::Offset(_) => {}
        }
    }
}

/// Where planes lie, by the middle of their features.
fn offsets(model: &mut Model) {
    let planes: Vec<Plane> = model.planes.values().copied().collect();
    for plane in planes {
        let is_of = |row: usize| model.planes.get(&row) == Some(&plane);
        let places = spots_on(model, is_of);
        let normal = plane.normal.of(&model.start);
        let sum: f64 = places
            .iter()
            .map(|p| normal.dot(&(model.start.turn * p)))
            .sum();
        model.start.own[plane.offset] = Own::Offset(sum / places.len().max(1) as f64);
    }
}

/// Scale by the median of what lengths say.
fn scale(model: &mut Model) {
    let mut said: Vec<f64> = model
        .rows
        .iter()
        .filter_map(|row| {
            let (Measure::Length(_, metres) | Measure::Above(_, _, metres)) = row.measure else {
                return None;
            };
            let solved = model.value(&model.start, &model.spots, &row.measure) + metres;
            (solved > 0.0).then(|| (metres / solved).ln())
        })
        .collect();
    if let Some(ln_scale) = crate::statistics::median(&mut said) {
        model.start.ln_scale = ln_scale;
    }
}
