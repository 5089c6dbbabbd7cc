//! How does an adjustment get along a valley that is long and bent?
//!
//! Past a flat wall a longer focal length passes for a flatter world: the cost hardly falls along that way, and
//! since all cameras and landmarks have to move together on curves, steps that are straight stay short. What a
//! round of steps has done is done again by as many times as pays, from where it ended: cameras and landmarks
//! are carried on, focal lengths by their ratio, and a few steps lead back to the bottom (an extrapolation
//! along the last displacement, as in the accelerated patterns of Hooke and Jeeves 1961). It is kept where it
//! lowers the cost, so that nothing is lost but these steps.

use super::bundle::Motion;
use super::world::World;
use crate::camera::Pose;
use nalgebra::UnitQuaternion;

impl World {
    /// The world carried on by so many times what it changed by since `before`.
    pub fn beyond(&self, before: &World, times: f64) -> World {
        let mut next = self.clone();
        let longer = |now: f64, was: f64| now * (now / was).powf(times);
        next.lens.focal_px = longer(self.lens.focal_px, before.lens.focal_px);
        for (focal_px, was) in next.focals_px.iter_mut().zip(&before.focals_px) {
            *focal_px = longer(*focal_px, *was);
        }
        for (pose, was) in next.poses.iter_mut().zip(&before.poses) {
            if let (Some(pose), Some(was)) = (pose, was) {
                *pose = carried_on(pose, was, times);
            }
        }
        for (point, was) in next.points.iter_mut().zip(&before.points) {
            if let (Some(point), Some(was)) = (point, was) {
                *point += (*point - was) * times;
                if self.motion == Motion::Turning {
                    *point = point.normalize();
                }
            }
        }
        next
    }
}

fn carried_on(now: &Pose, was: &Pose, times: f64) -> Pose {
    let [a, b] = [was, now].map(|pose| pose.camera_from_world.rotation);
    let turn = (b * a.inverse()).scaled_axis() * times;
    let rotation = UnitQuaternion::new(turn) * b;
    let (from, to) = (was.centre().0.coords, now.centre().0.coords);
    let centre = to + (to - from) * times;
    Pose::from_parts(rotation, -(rotation * centre))
}

#[cfg(test)]
mod tests {
    use super::*;
    use nalgebra::{Point3, Vector3};

    /// Steady in turn and travel, as it is at a time.
    fn steady(time: f64) -> Pose {
        let rotation = UnitQuaternion::new(Vector3::new(0.02, -0.05, 0.01) * time);
        let centre = Point3::new(1.0, 2.0, -0.5).coords * time;
        Pose::from_parts(rotation, -(rotation * centre))
    }

    #[test]
    fn what_moves_steadily_is_carried_on_to_where_it_will_be() {
        for times in [0.5, 2.0, 8.0] {
            let there = carried_on(&steady(3.0), &steady(2.0), times);
            let wanted = steady(3.0 + times);
            let off = there.centre().distance(wanted.centre());
            assert!(
                there.turn_to_rad(&wanted) < 1e-9 && off < 1e-9,
                "{times}: {off}"
            );
        }
    }
}
