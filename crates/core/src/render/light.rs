//! A sun and a sky.

use crate::guest::Material;
use nalgebra::Vector3;
use serde::{Deserialize, Serialize};

/// Where the sun stands and how light it is.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[serde(default, deny_unknown_fields)]
pub struct Sun {
    /// From across (towards the first camera) to along, degrees, as seen from above counter-clockwise.
    pub heading_deg: f64,
    /// Above level, degrees.
    pub height_deg: f64,
    /// How light it is on white that faces it; the plate's white is 1.
    pub strength: f64,
    /// Light of the open sky on white.
    pub sky: f64,
    /// Across its disc, degrees: half a degree clear, more through haze.
    pub disc_deg: f64,
}

impl Default for Sun {
    fn default() -> Self {
        Self {
            heading_deg: 40.0,
            height_deg: 50.0,
            strength: 0.8,
            sky: 0.35,
            disc_deg: 0.53,
        }
    }
}

impl Sun {
    /// Within bounds and finite.
    pub fn is_possible(&self) -> bool {
        self.heading_deg.abs() <= 360.0
            && (0.0..=90.0).contains(&self.height_deg)
            && [self.strength, self.sky]
                .iter()
                .all(|s| (0.0..=20.0).contains(s))
            && (0.0..=60.0).contains(&self.disc_deg)
    }

    /// The direction towards it, unit length.
    pub fn towards(&self) -> Vector3<f64> {
        let (heading, height) = (self.heading_deg.to_radians(), self.height_deg.to_radians());
        let level = height.cos();
        Vector3::new(level * heading.sin(), height.sin(), level * heading.cos())
    }

    /// Where the sun stands, of a corner and its shadow; `None` where the shadow lies above the corner or on it.
    pub fn casting(self, corner: &Vector3<f64>, shadow: &Vector3<f64>) -> Option<Self> {
        let towards = (corner - shadow).try_normalize(1e-9)?;
        (towards.y > 0.01).then(|| Self {
            heading_deg: towards.x.atan2(towards.z).to_degrees(),
            height_deg: towards.y.clamp(-1.0, 1.0).asin().to_degrees(),
            ..self
        })
    }
}

/// The light as rays are shaded by it.
#[derive(Clone, Copy, Debug)]
pub struct Light {
    /// Towards the sun.
    pub towards: Vector3<f64>,
    /// Half the angle across its disc, rad.
    pub disc_rad: f64,
    /// Light of the sun.
    pub sun: f64,
    /// Light of the sky.
    pub sky: f64,
}

/// The ground throws so much of what falls on it back up.
const BOUNCED: f64 = 0.35;

impl From<&Sun> for Light {
    fn from(sun: &Sun) -> Self {
        Self {
            towards: sun.towards(),
            disc_rad: sun.disc_deg.to_radians() / 2.0,
            sun: sun.strength,
            sky: sun.sky,
        }
    }
}

impl Light {
    /// A direction to the sun's disc, `draw` two numbers of 0 to 1.
    pub fn on_disc(&self, draw: [f64; 2]) -> Vector3<f64> {
        let (right, up) = about(&self.towards);
        let radius = self.disc_rad.tan() * draw[0].sqrt();
        let (sin, cos) = (std::f64::consts::TAU * draw[1]).sin_cos();
        (self.towards + (right * cos + up * sin) * radius).normalize()
    }

    /// Light that the ground throws back up.
    pub fn of_ground(&self) -> f64 {
        (self.sun * self.towards.y.max(0.0) + self.sky) * BOUNCED
    }

    /// Light of the sky on a surface that nothing stands about.
    pub fn of_sky(&self, normal: &Vector3<f64>) -> f64 {
        let open = 0.5 + 0.5 * normal.y;
        self.sky * open + self.of_ground() * (1.0 - open)
    }

    /// The share of its light that a surface has left, of the sun and of the sky so much each.
    pub fn left(&self, normal: &Vector3<f64>, sun_share: f64, sky_share: f64) -> f64 {
        let sun = self.sun * normal.dot(&self.towards).max(0.0);
        let sky = self.of_sky(normal);
        let all = sun + sky;
        if all <= 0.0 {
            return 1.0;
        }
        (sun * sun_share + sky * sky_share) / all
    }

    /// The colour of a surface: how much of sun and sky it gets, and how it throws them to the eye.
    pub fn shaded(
        &self,
        (material, colour): (&Material, [f32; 3]),
        normal: &Vector3<f64>,
        to_eye: &Vector3<f64>,
        (sun_share, sky_share): (f64, f64),
    ) -> [f32; 3] {
        let facing = normal.dot(&self.towards).max(0.0);
        let sun = self.sun * facing * sun_share;
        let sky = self.of_sky(normal) * sky_share;
        let (rough, metal) = (f64::from(material.rough), f64::from(material.metal));
        // A highlight as sharp as the surface is smooth, of the same light in all.
        let sharp = 2.0 / rough.max(0.04).powi(4).max(1e-3);
        let half = (self.towards + to_eye)
            .try_normalize(1e-9)
            .unwrap_or(*normal);
        let shine = (sharp + 2.0) / 8.0 * normal.dot(&half).max(0.0).powf(sharp);
        let glance = (1.0 - normal.dot(to_eye).max(0.0)).powi(5);
        let mirrored = reflected(to_eye, normal);
        let seen = self.of_sky(&mirrored) * sky_share;
        std::array::from_fn(|k| {
            let own = f64::from(colour[k]);
            let base = 0.04 * (1.0 - metal) + own * metal;
            let gloss = base + (1.0 - base) * glance * (1.0 - rough);
            let matt = own * (1.0 - metal) * (sun + sky);
            (matt + gloss * (shine.min(60.0) * sun + seen)) as f32
        })
    }
}

/// Where what the eye sees on a mirror comes from.
fn reflected(to_eye: &Vector3<f64>, normal: &Vector3<f64>) -> Vector3<f64> {
    normal * (2.0 * normal.dot(to_eye)) - to_eye
}

/// Two directions square to one and to each other.
pub fn about(direction: &Vector3<f64>) -> (Vector3<f64>, Vector3<f64>) {
    let other = match direction.y.abs() > 0.9 {
        true => Vector3::x(),
        false => Vector3::y(),
    };
    let right = other.cross(direction).normalize();
    (right, direction.cross(&right))
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    proptest! {
        /// A corner and its shadow say where the sun stands.
        #[test]
        fn a_shadow_says_where_the_sun_stands(heading in -179.0..179.0f64, height in 3.0..88.0f64, far in 0.2..9.0f64) {
            let sun = Sun { heading_deg: heading, height_deg: height, ..Sun::default() };
            let corner = Vector3::new(0.4, 2.0, -3.0);
            let found = Sun::default().casting(&corner, &(corner - sun.towards() * far)).unwrap();
            prop_assert!((found.heading_deg - heading).abs() < 1e-6);
            prop_assert!((found.height_deg - height).abs() < 1e-6);
        }

        /// More light never makes it darker, and no light is black.
        #[test]
        fn light_adds(strength in 0.0..4.0f64, sky in 0.0..2.0f64, share in 0.0..1.0f64, rough in 0.0..1.0f32, metal in 0.0..1.0f32) {
            let material = Material { rough, metal, ..Material::matt("m", [0.5; 3]) };
            let normal = Vector3::new(0.1, 0.9, 0.3).normalize();
            let eye = Vector3::new(0.0, 0.5, 0.8).normalize();
            let lit = |strength: f64, sky: f64, share: f64| {
                let light = Light::from(&Sun { strength, sky, ..Sun::default() });
                light.shaded((&material, [0.5, 0.4, 0.3]), &normal, &eye, (share, 1.0))[0]
            };
            prop_assert!(lit(strength, sky, share) <= lit(strength, sky, 1.0) + 1e-6);
            prop_assert!(lit(strength, sky, share) >= -1e-6);
            prop_assert!(lit(0.0, 0.0, 1.0).abs() < 1e-6);
        }
    }

    #[test]
    fn a_shadow_above_its_corner_says_nothing() {
        let corner = Vector3::new(0.0, 1.0, 0.0);
        assert_eq!(
            Sun::default().casting(&corner, &Vector3::new(1.0, 1.5, 0.0)),
            None
        );
        assert_eq!(Sun::default().casting(&corner, &corner), None);
    }
}
