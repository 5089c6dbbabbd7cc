//! Where does a step lead?
//!
//! What a step says of a point is straight in its inverse depth before a camera that sees it, together with where it is
//! seen there (Civera, Davison and Montiel 2008): a far point's depth hardly shows, so that its steps are as long as its
//! depth, and on a straight line in space most of them would lead astray. To first order this is the same step.

use super::{FOCAL, Problem, Shared, Step};
use crate::camera::Pose;
use nalgebra::{Point3, Vector3};

/// A step leads at most to so many times less than infinity, by inverse depth: ten times as far.
const MOST_DEEPER: f64 = 0.9;

impl Problem {
    /// The problem after a step.
    pub fn stepped(&self, step: &Step) -> Self {
        let mut next = self.clone();
        for (pose, s) in next.poses.iter_mut().zip(&step.cameras) {
            *pose = pose.perturbed(
                Vector3::new(s[0], s[1], s[2]),
                Vector3::new(s[3], s[4], s[5]),
            );
        }
        let anchors = self.anchors();
        for ((point, s), anchor) in next.points.iter_mut().zip(&step.points).zip(anchors) {
            let [before, after] = [&self.poses, &next.poses].map(|poses| poses.get(anchor));
            *point = moved(point, s, before.zip(after));
            if self.motion.is_on_the_spot() {
                *point /= point.norm().max(f64::MIN_POSITIVE);
            }
        }
        if let Some(zoom) = &mut next.zoom {
            zoom.step(step.cameras.iter().map(|s| s[FOCAL]));
        }
        for (term, change) in self.free.terms().zip(step.shared) {
            next.change(term, change);
        }
        if let Some(mut rolling) = next.rolling.take() {
            rolling.follow(&next.eyes());
            next.rolling = Some(rolling);
        }
        next
    }

    /// Changes what is shared by no more than makes sense at once.
    fn change(&mut self, term: Shared, by: f64) {
        let lens = &mut self.lens;
        match term {
            // A step never more than halves or doubles the focal length.
            Shared::Focal => {
                lens.focal_px =
                    (lens.focal_px + by).clamp(0.5 * lens.focal_px, 2.0 * lens.focal_px);
            }
            Shared::Lens(term) => term.change(lens, by),
            Shared::Readout => {
                if let Some(rolling) = &mut self.rolling {
                    // It may be read upwards, and takes no longer than a frame.
                    rolling.readout = (rolling.readout + by).clamp(-1.0, 1.0);
                }
            }
        }
    }

    /// The camera in the middle of those that see each point; none of directions and where no camera does.
    pub fn anchors(&self) -> Vec<usize> {
        let mut anchors = vec![usize::MAX; self.points.len()];
        if self.motion.is_on_the_spot() {
            return anchors;
        }
        for seen in self.observations.chunk_by(|a, b| a.point == b.point) {
            let middle = &seen[seen.len() / 2];
            anchors[middle.point as usize] = middle.camera as usize;
        }
        anchors
    }
}

/// Where a point comes to by a step, as a camera that sees it stands before and after that.
pub fn moved(
    point: &Vector3<f64>,
    step: &Vector3<f64>,
    anchor: Option<(&Pose, &Pose)>,
) -> Vector3<f64> {
    let Some((before, after)) = anchor else {
        return point + step;
    };
    let from = (before.camera_from_world * Point3::from(*point)).coords;
    // The step by the camera that it was reckoned with: long as it is, the camera's turn would bend it.
    let turned = (after.camera_from_world * Point3::from(*point)).coords - from;
    let by = turned + before.camera_from_world.rotation * step;
    if from.z == 0.0 {
        return point + step;
    }
    let deeper = (by.z / from.z).min(MOST_DEEPER);
    let depth = from.z / (1.0 - deeper);
    let across = |x: f64, by_x: f64| (x + by_x - x * by.z / from.z) / from.z * depth;
    let to = Vector3::new(across(from.x, by.x), across(from.y, by.y), depth);
    (after.camera_from_world.inverse() * Point3::from(to)).coords
}

#[cfg(test)]
mod tests {
    #![allow(clippy::unwrap_used)]

    use super::*;
    use crate::camera::Intrinsics;
    use crate::spaces::WorldPoint;
    use nalgebra::UnitQuaternion;
    use rstest::rstest;

    fn camera(turn: Vector3<f64>, shift: Vector3<f64>) -> Pose {
        Pose::from_parts(UnitQuaternion::new(Vector3::new(0.1, -0.3, 0.05)), shift)
            .perturbed(turn, Vector3::zeros())
    }

    /// A point so deep before the first camera.
    fn before(camera: &Pose, deep: f64) -> Vector3<f64> {
        let lens = Intrinsics::centred(1280, 720, 1000.0);
        let at = |z: f64| {
            let at = camera.camera_from_world.inverse() * Point3::new(0.2 * deep, -0.1 * deep, z);
            lens.project(camera, &WorldPoint(at)).map(|_| at.coords)
        };
        at(deep).or(at(-deep)).unwrap()
    }

    /// A tenth of a step changes a tenth as much, and is off a straight line by a hundredth as much.
    #[rstest]
    fn a_short_step_is_straight(#[values(3.0, 400.0)] deep: f64) {
        let camera = camera(Vector3::zeros(), Vector3::new(0.3, 0.1, -0.4));
        let point = before(&camera, deep);
        let step = Vector3::new(0.02, -0.05, 0.03) * deep;
        let off = |share: f64| {
            let turned = camera.perturbed(Vector3::new(0.01, 0.02, -0.01) * share, step * share);
            let to = moved(&point, &(step * share), Some((&camera, &turned)));
            (to - point - step * share).norm()
        };
        let ratio = off(1e-2) / off(1e-3);
        assert!((95.0..105.0).contains(&ratio), "{ratio}");
    }

    /// A far point goes half as far again while the camera turns: it is seen where the turn alone has it.
    #[rstest]
    #[case::nearer(-0.5)]
    #[case::farther(0.5)]
    #[case::past_infinity(1.5)]
    fn a_far_point_is_carried_along_its_line_of_sight(#[case] deeper: f64) {
        let lens = Intrinsics::centred(1280, 720, 1000.0);
        let camera = camera(Vector3::zeros(), Vector3::zeros());
        let turned = camera.perturbed(Vector3::new(5e-4, -4e-4, 0.0), Vector3::zeros());
        let point = before(&camera, 2000.0);
        let to = moved(&point, &(point * deeper), Some((&camera, &turned)));
        let seen = |at: Vector3<f64>| lens.project(&turned, &WorldPoint(at.into())).unwrap();
        let off_px = seen(to).distance_px(seen(point));
        assert!(off_px < 0.01, "{off_px} px off");
        let times = to.norm() / point.norm();
        let wanted = 1.0 / (1.0 - deeper.min(MOST_DEEPER));
        assert!((times / wanted - 1.0).abs() < 0.01, "{times} times as far");
    }
}
