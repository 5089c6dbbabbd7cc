//! How does an adjustment get along a valley that is long and bent?
//!
//! Past a flat wall a longer focal length passes for a flatter world: the cost hardly falls along that way, and
//! since all cameras and landmarks have to move together on curves, steps that are straight stay short. What a
//! round of steps has done is done again by as many times as pays, from where it ended: cameras and landmarks
//! are carried on, focal lengths by their ratio, and a few steps lead back to the bottom (an extrapolation
//! along the last displacement, as in the accelerated patterns of Hooke and Jeeves 1961). It is kept where it
//! lowers the cost, so that nothing is lost but these steps.
//!
//! The way of the valley itself is known: focal lengths by a ratio, depths by the same, turns away from the view by its
//! inverse (the bas-relief ambiguity, Szeliski and Kang 1997). What has grown from another focal length than is stated is
//! brought there along it.

use super::bundle::Motion;
use super::world::World;
use crate::camera::Pose;
use nalgebra::{Point3, UnitQuaternion, Vector3};

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
                if self.motion.is_on_the_spot() {
                    *point = point.normalize();
                }
            }
        }
        next
    }

    /// The world with focal lengths so many times as long that looks nearly the same past a flat wall: as many times
    /// as deep along the view of its middle camera, with cameras turned away from that by as many times less.
    pub(super) fn stretched(&self, times: f64) -> Option<World> {
        let posed: Vec<&Pose> = self.poses.iter().flatten().collect();
        let middle = **posed.get(posed.len() / 2)?;
        let to_middle = middle.camera_from_world.rotation;
        let deeper = |at: Vector3<f64>| at + (times - 1.0) * Vector3::new(0.0, 0.0, at.z);
        let mut next = self.clone();
        next.lens.focal_px *= times;
        next.focals_px.iter_mut().for_each(|f| *f *= times);
        for pose in next.poses.iter_mut().flatten() {
            let turn = (pose.camera_from_world.rotation * to_middle.inverse()).scaled_axis();
            let turn = Vector3::new(turn.x / times, turn.y / times, turn.z);
            let rotation = UnitQuaternion::new(turn) * to_middle;
            let centre = middle.camera_from_world * Point3::from(pose.centre().0);
            let centre = middle.camera_from_world.inverse() * Point3::from(deeper(centre.coords));
            *pose = Pose::from_parts(rotation, -(rotation * centre.coords));
        }
        for point in next.points.iter_mut().flatten() {
            *point = match self.motion {
                Motion::Free => {
                    let at = middle.camera_from_world * Point3::from(*point);
                    (middle.camera_from_world.inverse() * Point3::from(deeper(at.coords))).coords
                }
                Motion::Turning | Motion::Resting => {
                    (to_middle.inverse() * deeper(to_middle * *point)).normalize()
                }
            };
        }
        Some(next)
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
    #![allow(clippy::unwrap_used)]

    use super::super::bundle::{Loss, Stop};
    use super::super::views::{Seen, Views};
    use super::*;
    use crate::camera::{Eye, Intrinsics};
    use crate::progress::Silent;
    use crate::solve::SolveOptions;
    use crate::spaces::{FrameNumber, PlatePx, TrackId, WorldPoint};
    use crate::tracks::{Covariance, Sample, Track, TrackKind};
    use rstest::rstest;

    const FRAMES: u32 = 40;
    const FOCAL_PX: f64 = 1100.0;
    /// What the cost rises by one standard error off the bottom.
    const OF_A_SIGMA: f64 = 0.5;

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

    /// A camera slides past a wall that is so deep, and so many points at the horizon, with unsteady hands; what it
    /// saw, and the truth.
    fn slide(depth: f64, hands_rad: f64, far: usize) -> (Views, World) {
        let lens = Intrinsics::centred(1280, 720, FOCAL_PX);
        let mut random = fastrand::Rng::with_seed(5);
        let mut draw = |within: f64| within * (2.0 * random.f64() - 1.0);
        let poses: Vec<Pose> = (0..FRAMES)
            .map(|k| {
                let hands = Vector3::new(draw(hands_rad), draw(hands_rad), draw(hands_rad));
                let rotation = UnitQuaternion::new(hands);
                let along = 2.0 * f64::from(k) / f64::from(FRAMES) - 1.0;
                let centre = Vector3::new(along, draw(0.02), draw(0.02));
                Pose::from_parts(rotation, -(rotation * centre))
            })
            .collect();
        let ahead = poses[0].camera_from_world.rotation.inverse() * Vector3::new(0.0, 0.0, 1.0);
        let is_before = lens.project(&poses[0], &WorldPoint((ahead * 9.0).into()));
        let away = if is_before.is_some() { 9.0 } else { -9.0 };
        let mut places: Vec<Vector3<f64>> = (0..300)
            .map(|_| Vector3::new(draw(5.5), draw(2.5), away + draw(depth)))
            .collect();
        let at_the_horizon = |_| 1000.0 * Vector3::new(draw(4.0), draw(2.0), away);
        places.extend((0..far).map(at_the_horizon));
        let mut track = |place: &Vector3<f64>, id: u32| {
            let samples = poses.iter().zip(1..).filter_map(|(pose, frame)| {
                let px = lens.project(pose, &WorldPoint((*place).into()))?;
                let px = PlatePx::new(px.x + draw(0.17), px.y + draw(0.17));
                let is_inside = (0.0..1280.0).contains(&px.x) && (0.0..720.0).contains(&px.y);
                is_inside.then_some(Sample {
                    frame: FrameNumber(frame),
                    px,
                    covariance: Covariance::isotropic(0.1),
                })
            });
            Track::new(TrackId(id), TrackKind::Auto, samples.collect())
        };
        let tracks: Vec<Track> = places.iter().zip(1..).map(|(p, id)| track(p, id)).collect();
        let options = SolveOptions::nothing_known(lens);
        let views = Views::of(&tracks, &options);
        let mut world = World::empty(&views, lens, options.free_lens());
        world.poses = poses.into_iter().map(Some).collect();
        let place = |id: &TrackId| places[id.0 as usize - 1];
        world.points = views.tracks.iter().map(|id| Some(place(id))).collect();
        (views, world)
    }

    /// How far apart two worlds draw at most what was seen within so many px of the centre, px.
    fn apart_px(views: &Views, a: &World, b: &World, within_px: f64) -> f64 {
        let drawn = |world: &World, track: usize, seen: &Seen| {
            let Eye { lens, pose } = world.eye(seen.frame)?;
            lens.project(&pose, &WorldPoint(world.points[track]?.into()))
        };
        let all = views.seen.iter().enumerate();
        let all = all.flat_map(|(track, seen)| seen.iter().map(move |s| (track, s)));
        let is_within =
            |(_, seen): &(usize, &Seen)| seen.px.distance_px(a.lens.centre) <= within_px;
        all.filter(is_within)
            .map(|(track, seen)| {
                let [a, b] = [a, b].map(|world| drawn(world, track, seen).unwrap());
                (a.x - b.x).hypot(a.y - b.y)
            })
            .fold(0.0, f64::max)
    }

    /// All of it where the camera does not turn; where it turns by half a degree, which shifts the picture by 11 px, the
    /// middle: what is left grows with the square of the distance from there.
    #[rstest]
    #[case::steady_hands(0.0, f64::INFINITY, 1e-6)]
    #[case::hands_that_turn(0.01, 100.0, 0.5)]
    fn past_anything_a_stretched_world_looks_alike(
        #[case] hands_rad: f64,
        #[case] within_px: f64,
        #[case] most_px: f64,
        #[values(0.7, 1.4)] times: f64,
    ) {
        let (views, world) = slide(1.0, hands_rad, 0);
        let stretched = world.stretched(times).unwrap();
        assert!((stretched.lens.focal_px - times * FOCAL_PX).abs() < 1e-9);
        let apart = apart_px(&views, &world, &stretched, within_px);
        assert!(apart < most_px, "{apart} px apart");
    }

    #[rstest]
    fn directions_are_stretched_as_places_are(#[values(0.7, 1.4)] times: f64) {
        let (views, mut world) = slide(1.0, 0.0, 0);
        for pose in world.poses.iter_mut().flatten() {
            *pose = Pose::from_parts(UnitQuaternion::identity(), Vector3::zeros());
        }
        world.motion = Motion::Turning;
        world
            .points
            .iter_mut()
            .flatten()
            .for_each(|p| *p = p.normalize());
        let stretched = world.stretched(times).unwrap();
        let apart = apart_px(&views, &world, &stretched, f64::INFINITY);
        assert!(apart < 1e-6, "{apart} px apart");
    }

    /// Adjusted until a step gains next to nothing; the cost.
    fn rested(views: &Views, world: &mut World, loss: Loss) -> f64 {
        loop {
            let report = world.adjust(views, loss, (12, 1e-6), &Silent);
            if report.stop != Stop::IterationsUsed {
                return report.last_cost;
            }
        }
    }

    /// Wherever along the valley of a wall it begins, and whatever the horizon says of depths, it ends at the bottom, less
    /// than a standard error along it away.
    #[rstest]
    fn it_comes_to_rest_at_the_bottom(
        #[values(0.7, 0.9, 1.1, 1.5)] times: f64,
        #[values(0, 4)] far: usize,
    ) {
        let (views, truth) = slide(0.3, 0.001, far);
        let loss = Loss::Cauchy(views.in_sigmas(0.5));
        let mut bottom = truth.clone();
        let lowest = rested(&views, &mut bottom, loss);
        let mut world = truth.stretched(times).unwrap();
        let at_rest = rested(&views, &mut world, loss);
        let focals_px = [&world, &bottom].map(|w| w.lens.focal_px);
        assert!(
            (at_rest - lowest).abs() < OF_A_SIGMA,
            "{at_rest} at rest, {lowest} lowest, at {focals_px:?} px"
        );
    }
}
