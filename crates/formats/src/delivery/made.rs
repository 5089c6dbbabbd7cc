//! Deliveries as they are made: of an attempt in an oriented world, of a photograph.

use super::{Camera, CameraStanding, Delivery, Landmark, Names, Said, Shot, Solved, TimeAs};
use crate::format::FormatKind;
use crate::tracks_csv::Called;
use parallax_core::camera::Intrinsics;
use parallax_core::orient::Orientation;
use parallax_core::photo::Placed;
use parallax_core::photo::perspective::Perspective;
use parallax_core::solve::locked::FAR;
use parallax_core::solve::{Attempt, CameraMove};
use parallax_core::spaces::{FrameNumber, TrackId, WorldPoint};
use parallax_core::tracks::Track;
use std::collections::HashSet;

impl<'a> Delivery<'a> {
    /// The delivery of an attempt in an oriented world; `called` is what the artist calls tracks.
    pub fn of_attempt(
        shot: &Shot,
        attempt: &Attempt,
        orientation: &Orientation,
        tracks: &'a [Track],
        called: impl Fn(TrackId) -> Called,
    ) -> Self {
        let change = &orientation.change;
        let mut taken = HashSet::new();
        let mut landmark = |l: &parallax_core::solve::Landmark| Landmark {
            name: unlike(&mut taken, called(l.track).name, l.track),
            group: called(l.track).group,
            colour: None,
            place: change.point(&l.point),
            covariance: l.covariance.map(|c| c.in_world(change)),
            residual_px: l.rms_px,
        };
        let points: Vec<Landmark> = attempt.landmarks.iter().map(&mut landmark).collect();
        let solved = tracks.iter().filter(|t| attempt.landmark(t.id).is_some());
        Self {
            cameras: attempt
                .frames
                .iter()
                .map(|f| Camera {
                    frame: f.frame,
                    pose: change.pose(&f.pose),
                    focal_px: attempt.lens_at(f).focal_px,
                })
                .collect(),
            probes: points.iter().map(|p| p.place).collect(),
            points,
            directions_at: (attempt.moves != CameraMove::Free).then_some(FAR),
            readout: attempt.readout.map(|(frames, _)| frames),
            solved: Some(Solved::of(attempt)),
            tracks: solved.map(|t| (t, called(t.id))).collect(),
            scaled: orientation.scaled,
            levelled: orientation.levelled,
            astray: [
                orientation.contradicting().len(),
                orientation.unused().count(),
            ],
            standing: CameraStanding::doubted(attempt.reasons()),
            ..Self::empty(shot, attempt.lens)
        }
    }

    /// The delivery of a photograph: one frame, the origin and the tips of the axes as points,
    /// which are where they are said to be. A photograph has no rate; 1/1 stands for it.
    pub fn of_photograph(
        shot: &Shot,
        perspective: &Perspective,
        placed: &Placed,
        standing: CameraStanding,
    ) -> Self {
        let tips = [
            ("origin", WorldPoint::new(0.0, 0.0, 0.0)),
            ("x", WorldPoint::new(1.0, 0.0, 0.0)),
            ("y", WorldPoint::new(0.0, 1.0, 0.0)),
            ("z", WorldPoint::new(0.0, 0.0, 1.0)),
        ];
        let seen = |p: &WorldPoint| perspective.lens.project(&placed.pose, p).is_some();
        let points = tips
            .into_iter()
            .filter(|(_, p)| seen(p))
            .map(|(name, place)| Landmark {
                name: name.to_owned(),
                group: String::new(),
                colour: None,
                place,
                covariance: None,
                residual_px: 0.0,
            });
        let points: Vec<Landmark> = points.collect();
        Self {
            cameras: vec![Camera {
                frame: FrameNumber(1),
                pose: placed.pose,
                focal_px: perspective.lens.focal_px,
            }],
            probes: points.iter().map(|p| p.place).collect(),
            points,
            scaled: placed.scaled,
            levelled: true,
            standing,
            ..Self::empty(shot, perspective.lens)
        }
    }

    /// A delivery that holds nothing yet.
    pub fn empty(shot: &Shot, lens: Intrinsics) -> Self {
        Self {
            shot: shot.name.clone(),
            rate: shot.rate,
            film_back: shot.film_back,
            film_back_assumed: shot.film_back_assumed,
            lens,
            cameras: Vec::new(),
            points: Vec::new(),
            probes: Vec::new(),
            directions_at: None,
            readout: None,
            solved: None,
            astray: [0; 2],
            guests: Vec::new(),
            set: Vec::new(),
            bodies: Vec::new(),
            left_out: Vec::new(),
            undistorted: None,
            tracks: Vec::new(),
            scaled: false,
            levelled: false,
            receiver: shot.receiver,
            shutter_deg: shot.shutter_deg,
            keep: shot.keep,
            plate: None,
            formats: FormatKind::PLAIN.to_vec(),
            time: TimeAs::default(),
            names: Names::default(),
            said: Said::default(),
            standing: CameraStanding::default(),
            stale: Vec::new(),
        }
    }
}

/// The name of a track, or its identity where it has none, told apart from those taken.
fn unlike(taken: &mut HashSet<String>, name: String, track: TrackId) -> String {
    let wanted = if name.is_empty() {
        track.to_string()
    } else {
        name
    };
    let name = if taken.contains(&wanted) {
        format!("{wanted} ({track})")
    } else {
        wanted
    };
    taken.insert(name.clone());
    name
}
