//! Rays against the triangles of a mesh.

use crate::guest::Mesh;
use nalgebra::{Point3, Vector3};
use obvhs::BvhBuildParams;
use obvhs::bvh2::Bvh2;
use obvhs::bvh2::builder::build_bvh2_from_tris;
use obvhs::ray::{Ray, RayHit};
use obvhs::triangle::Triangle;
use std::sync::Arc;
use std::time::Duration;

/// A mesh that rays find fast.
pub struct Traced {
    /// The mesh.
    pub mesh: Arc<Mesh>,
    boxes: Bvh2,
    triangles: Vec<Triangle>,
}

/// Where a ray meets a mesh, in the mesh's own space.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Met {
    /// Along the ray, lengths of its direction.
    pub distance: f64,
    /// Which triangle.
    pub triangle: usize,
    /// Shares of the triangle's corners.
    pub shares: [f32; 3],
}

fn vec(v: &Vector3<f64>) -> [f32; 3] {
    [v.x as f32, v.y as f32, v.z as f32]
}

impl Traced {
    /// Makes a mesh ready. Triangles with corners that it does not have, or that are no numbers, are left out.
    pub fn of(mesh: Arc<Mesh>) -> Self {
        let of = |t: &[u32; 3]| -> Triangle {
            let [v0, v1, v2] = t.map(|k| mesh.points[k as usize].into());
            Triangle { v0, v1, v2 }
        };
        let triangles: Vec<Triangle> = mesh.triangles.iter().map(of).collect();
        let how = BvhBuildParams::fast_build();
        let boxes = build_bvh2_from_tris(&triangles, how, &mut Duration::default());
        Self {
            mesh,
            boxes,
            triangles,
        }
    }

    /// Room that it takes, bytes.
    pub fn bytes(&self) -> usize {
        let boxes =
            size_of_val(&self.boxes.nodes[..]) + size_of_val(&self.boxes.primitive_indices[..]);
        self.mesh.bytes() + boxes + size_of_val(&self.triangles[..])
    }

    fn ray(from: &Point3<f64>, direction: &Vector3<f64>, most: f64) -> Ray {
        Ray::new(
            vec(&from.coords).into(),
            vec(direction).into(),
            0.0,
            most as f32,
        )
    }

    /// The nearest triangle that a ray meets before so many lengths of its direction.
    pub fn nearest(&self, from: &Point3<f64>, direction: &Vector3<f64>, most: f64) -> Option<Met> {
        if self.triangles.is_empty() {
            return None;
        }
        let ray = Self::ray(from, direction, most);
        let mut hit = RayHit::none();
        let index = |k: usize| self.boxes.primitive_indices[k] as usize;
        let meet = |ray: &Ray, k: usize| self.triangles[index(k)].intersect(ray);
        self.boxes.ray_traverse(ray, &mut hit, meet);
        let found = hit.primitive_id != u32::MAX && hit.t.is_finite();
        found.then(|| {
            let triangle = index(hit.primitive_id as usize);
            let distance = f64::from(hit.t);
            let shares = self.shares(triangle, &(from + direction * distance));
            Met {
                distance,
                triangle,
                shares,
            }
        })
    }

    /// Whether anything lies on the way.
    pub fn blocks(&self, from: &Point3<f64>, direction: &Vector3<f64>, most: f64) -> bool {
        if self.triangles.is_empty() {
            return false;
        }
        let ray = Self::ray(from, direction, most);
        let meet = |ray: &Ray, k: usize| {
            self.triangles[self.boxes.primitive_indices[k] as usize].intersect(ray)
        };
        !self.boxes.ray_traverse_miss(ray, meet)
    }

    /// Shares of a triangle's corners at a place on it.
    fn shares(&self, triangle: usize, at: &Point3<f64>) -> [f32; 3] {
        let corner = |k: u32| Vector3::from(self.mesh.points[k as usize]).cast::<f64>();
        let [a, b, c] = self.mesh.triangles[triangle].map(corner);
        let (ab, ac, ap) = (b - a, c - a, at.coords - a);
        let normal = ab.cross(&ac);
        let area = normal.norm_squared().max(1e-300);
        let v = normal.dot(&ap.cross(&ac)) / area;
        let w = normal.dot(&ab.cross(&ap)) / area;
        [1.0 - v - w, v, w].map(|share| share.clamp(0.0, 1.0) as f32)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::guest::{What, stand_ins};
    use proptest::prelude::*;

    fn traced(what: &What) -> Traced {
        Traced::of(Arc::new(stand_ins::mesh(what).unwrap()))
    }

    proptest! {
        /// A ball is met where a ball is, within its facets.
        #[test]
        fn a_ball_is_met_where_it_is(yaw in -3.1..3.1f64, pitch in -1.5..1.5f64, aside in 0.0..0.85f64) {
            let ball = traced(&What::Sphere { diameter_m: 1.0 });
            let middle = Point3::new(0.0, 0.5, 0.0);
            let toward = Vector3::new(yaw.sin() * pitch.cos(), pitch.sin(), yaw.cos() * pitch.cos());
            let across = toward.cross(&Vector3::new(0.3, 0.5, -0.8)).normalize();
            let from = middle - toward * 4.0 + across * (0.5 * aside);
            let met = ball.nearest(&from, &toward, 100.0).unwrap();
            let expected = 4.0 - (0.25 - 0.25 * aside * aside).sqrt();
            prop_assert!((met.distance - expected).abs() < 0.01, "{} {}", met.distance, expected);
            prop_assert!((met.shares.iter().sum::<f32>() - 1.0).abs() < 1e-3);
            prop_assert!(ball.blocks(&from, &toward, 100.0));
            prop_assert!(!ball.blocks(&from, &toward, expected - 0.02));
            prop_assert!(!ball.blocks(&from, &(-toward), 100.0));
        }
    }

    #[test]
    fn nothing_is_met_by_no_ray() {
        let nothing = Traced::of(Arc::new(Mesh::default()));
        assert_eq!(nothing.nearest(&Point3::origin(), &Vector3::z(), 1e9), None);
        assert!(!nothing.blocks(&Point3::origin(), &Vector3::z(), 1e9));
    }
}
