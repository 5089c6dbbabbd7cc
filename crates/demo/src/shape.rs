//! Shapes that rays meet: ground, boxes, upright cylinders, spheres.

use nalgebra::{Point3, Vector3};

/// A ray; `direction` has unit length.
#[derive(Clone, Copy, Debug)]
pub struct Ray {
    /// Where it starts.
    pub origin: Point3<f64>,
    /// Where it goes, unit length.
    pub direction: Vector3<f64>,
}

/// Where a ray meets a surface.
#[derive(Clone, Copy, Debug)]
pub struct Hit {
    /// Distance along the ray, m.
    pub distance: f64,
    /// Outward normal, unit length.
    pub normal: Vector3<f64>,
    /// Coordinates on the surface, m.
    pub uv: (f64, f64),
}

/// A shape in metres, Y up.
#[derive(Clone, Copy, Debug)]
pub enum Shape {
    /// The horizontal plane at a height.
    Ground { height: f64 },
    /// A box turned about the vertical by `turn_rad`.
    Box {
        centre: Point3<f64>,
        half: Vector3<f64>,
        turn_rad: f64,
    },
    /// An upright cylinder with a flat top.
    Cylinder {
        foot: Point3<f64>,
        radius: f64,
        height: f64,
    },
    /// A sphere.
    Sphere { centre: Point3<f64>, radius: f64 },
}

/// Hits nearer than this are the surface that the ray leaves, m.
const NEAREST: f64 = 1e-4;

impl Shape {
    /// A box that stands on height `foot.y` with its sides in metres.
    pub fn standing_box(foot: Point3<f64>, sides: Vector3<f64>, turn_rad: f64) -> Self {
        Self::Box {
            centre: foot + Vector3::new(0.0, sides.y / 2.0, 0.0),
            half: sides / 2.0,
            turn_rad,
        }
    }

    /// The shape moved by `by`.
    pub fn moved(self, by: Vector3<f64>) -> Self {
        match self {
            Self::Ground { height } => Self::Ground {
                height: height + by.y,
            },
            Self::Box {
                centre,
                half,
                turn_rad,
            } => Self::Box {
                centre: centre + by,
                half,
                turn_rad,
            },
            Self::Cylinder {
                foot,
                radius,
                height,
            } => Self::Cylinder {
                foot: foot + by,
                radius,
                height,
            },
            Self::Sphere { centre, radius } => Self::Sphere {
                centre: centre + by,
                radius,
            },
        }
    }

    /// A sphere around the shape, `None` for the ground.
    pub fn bound(&self) -> Option<(Point3<f64>, f64)> {
        match *self {
            Self::Ground { .. } => None,
            Self::Box { centre, half, .. } => Some((centre, half.norm())),
            Self::Cylinder {
                foot,
                radius,
                height,
            } => Some((
                foot + Vector3::new(0.0, height / 2.0, 0.0),
                radius.hypot(height / 2.0),
            )),
            Self::Sphere { centre, radius } => Some((centre, radius)),
        }
    }

    /// The nearest hit closer than `limit`.
    pub fn meet(&self, ray: &Ray, limit: f64) -> Option<Hit> {
        let hit = match *self {
            Self::Ground { height } => meet_ground(ray, height),
            Self::Box {
                centre,
                half,
                turn_rad,
            } => meet_box(ray, &centre, &half, turn_rad, limit),
            Self::Cylinder {
                foot,
                radius,
                height,
            } => meet_cylinder(ray, &foot, radius, height),
            Self::Sphere { centre, radius } => meet_sphere(ray, &centre, radius),
        }?;
        (hit.distance < limit).then_some(hit)
    }
}

fn meet_ground(ray: &Ray, height: f64) -> Option<Hit> {
    let distance = (height - ray.origin.y) / ray.direction.y;
    if distance.is_nan() || distance <= NEAREST {
        return None;
    }
    let at = ray.origin + ray.direction * distance;
    let normal = Vector3::new(0.0, -ray.direction.y.signum(), 0.0);
    Some(Hit {
        distance,
        normal,
        uv: (at.x, at.z),
    })
}

fn turned(v: Vector3<f64>, sin: f64, cos: f64) -> Vector3<f64> {
    Vector3::new(cos * v.x + sin * v.z, v.y, -sin * v.x + cos * v.z)
}

fn meet_box(
    ray: &Ray,
    centre: &Point3<f64>,
    half: &Vector3<f64>,
    turn_rad: f64,
    limit: f64,
) -> Option<Hit> {
    let (sin, cos) = if turn_rad == 0.0 {
        (0.0, 1.0)
    } else {
        turn_rad.sin_cos()
    };
    let origin = turned(ray.origin - centre, -sin, cos);
    let direction = turned(ray.direction, -sin, cos);
    let (mut near, mut far, mut axis) = (f64::NEG_INFINITY, limit, 0);
    for i in 0..3 {
        let inverse = 1.0 / direction[i];
        let (a, b) = (
            (-half[i] - origin[i]) * inverse,
            (half[i] - origin[i]) * inverse,
        );
        let (enter, leave) = if a < b { (a, b) } else { (b, a) };
        if enter > near {
            near = enter;
            axis = i;
        }
        far = far.min(leave);
        if near > far {
            return None;
        }
    }
    if near < NEAREST {
        return None;
    }
    let at = origin + direction * near;
    let mut local = Vector3::zeros();
    local[axis] = at[axis].signum();
    // Each side has its own stretch of texture.
    let side = 7.3 * (axis as f64) + if local[axis] > 0.0 { 3.1 } else { 0.0 };
    let uv = match axis {
        0 => (at.z + side, at.y + half.y),
        1 => (at.x + side, at.z),
        _ => (at.x + side, at.y + half.y),
    };
    Some(Hit {
        distance: near,
        normal: turned(local, sin, cos),
        uv,
    })
}

fn meet_cylinder(ray: &Ray, foot: &Point3<f64>, radius: f64, height: f64) -> Option<Hit> {
    let o = ray.origin - foot;
    let d = ray.direction;
    let a = d.x * d.x + d.z * d.z;
    let b = o.x * d.x + o.z * d.z;
    let c = o.x * o.x + o.z * o.z - radius * radius;
    let root = b * b - a * c;
    if root > 0.0 && a > 0.0 {
        let distance = (-b - root.sqrt()) / a;
        let at = o + d * distance;
        if distance > NEAREST && (0.0..=height).contains(&at.y) {
            let normal = Vector3::new(at.x, 0.0, at.z) / radius;
            return Some(Hit {
                distance,
                normal,
                uv: (at.z.atan2(at.x) * radius, at.y),
            });
        }
    }
    let distance = (height - o.y) / d.y;
    let at = o + d * distance;
    let on_top = distance > NEAREST && at.x * at.x + at.z * at.z <= radius * radius;
    on_top.then(|| Hit {
        distance,
        normal: Vector3::y() * -d.y.signum(),
        uv: (at.x, at.z),
    })
}

fn meet_sphere(ray: &Ray, centre: &Point3<f64>, radius: f64) -> Option<Hit> {
    let o = ray.origin - centre;
    let b = o.dot(&ray.direction);
    let root = b * b - (o.norm_squared() - radius * radius);
    if root < 0.0 {
        return None;
    }
    let distance = -b - root.sqrt();
    if distance < NEAREST {
        return None;
    }
    let normal = (o + ray.direction * distance) / radius;
    let uv = (
        normal.z.atan2(normal.x) * radius,
        normal.y.clamp(-1.0, 1.0).asin() * radius,
    );
    Some(Hit {
        distance,
        normal,
        uv,
    })
}
