//! Cameras past a set of which the truth is known, behind a change of world that a solve would have.

use nalgebra::{Point3, UnitQuaternion, Vector3};
use parallax_core::camera::{Eye, Intrinsics, Pose, Similarity};
use parallax_core::orient::{Proposal, Stand, Stated};
use parallax_core::spaces::FrameNumber;

/// From the world of the set to that of the solve.
pub fn hidden() -> Similarity {
    Similarity {
        rotation: UnitQuaternion::new(Vector3::new(0.5, -0.8, 0.2)),
        translation: Vector3::new(1.0, 2.0, -3.0),
        scale: 1.7,
    }
}

/// Twenty cameras that travel so far, m, and sweep so far where they look, held askew; in the solve's world.
pub fn cameras(lens: Intrinsics, travels: f64, sweeps: f64, rolled_deg: f64) -> Vec<Stand> {
    let roll = UnitQuaternion::from_axis_angle(&Vector3::z_axis(), rolled_deg.to_radians());
    let camera = |k: i32| {
        let t = f64::from(k) / 19.0 - 0.5;
        let looks = Pose::looking_at(
            &Point3::new(travels * t, 1.6, 4.0),
            &Point3::new(sweeps * t, 1.0, -2.0),
            &Vector3::y(),
        );
        let pose = Pose::from_parts(
            roll * looks.camera_from_world.rotation,
            roll * looks.camera_from_world.translation.vector,
        );
        Stand {
            frame: FrameNumber(k + 1),
            eye: Eye {
                lens,
                pose: hidden().pose(&pose),
            },
            covariance: None,
        }
    };
    (0..20).map(camera).collect()
}

/// What is proposed for certain, as it is stated.
pub fn taken(proposals: &[Proposal]) -> Vec<Stated> {
    let sure = proposals.iter().filter(|p| p.sure);
    (1..).zip(sure.map(Proposal::stated)).collect()
}
