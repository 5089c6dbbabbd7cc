//! A camera file and its tracks as a solve again: to orient it, and to tell how far CG slips.

use crate::solving::{as_key, by_name};
use parallax_core::camera::{Eye, Intrinsics};
use parallax_core::lens::maps::Keep;
use parallax_core::lens::{LensTerms, Term};
use parallax_core::orient::{Placed, Solved, Stand, Stated, Statement, Together};
use parallax_core::plate::FilmBack;
use parallax_core::solve::CameraMove;
use parallax_core::solve::bundle::FreeLens;
use parallax_core::solve::certain::PointCovariance;
use parallax_core::solve::information::{Information, SolvedShot};
use parallax_core::spaces::{FrameNumber, TrackId};
use parallax_core::tracks::Track;
use parallax_formats::camera_reader::{CameraBody, CameraFile, CameraPoint, SolvedTerms};
use parallax_formats::delivery::{self, CameraStanding, Delivery, MovingBody};
use parallax_formats::tracks_csv::Called;
use parallax_formats::tracks_reader::NamedTracks;
use std::collections::HashMap;

/// A solved shot out of files, in our world.
#[derive(Clone)]
pub struct Reopened {
    /// Cameras, ascending by frame.
    pub cameras: Vec<Stand>,
    /// Landmarks, ascending by track.
    pub landmarks: Vec<Placed>,
    /// What was solved; the usual where the file does not say.
    pub solved: SolvedTerms,
    names: Vec<(TrackId, String)>,
    groups: HashMap<TrackId, String>,
    tracks: Vec<Track>,
    bodies: Vec<MovingBody>,
}

/// Points of a file that no track has are numbered from here on.
const WITHOUT_TRACK: u32 = 1 << 24;

impl Reopened {
    /// Of a camera file and, where they are there, the tracks that it was solved from.
    pub fn of(file: &CameraFile, tracks: Option<NamedTracks>) -> Self {
        let mut cameras: Vec<Stand> = file
            .frames
            .iter()
            .filter_map(|f| {
                Some(Stand {
                    frame: FrameNumber(f.frame),
                    eye: Eye {
                        lens: file.intrinsics(f),
                        pose: file.pose(f)?,
                    },
                    covariance: None,
                })
            })
            .collect();
        cameras.sort_by_key(|c| c.frame);
        let (tracks, known, groups) = match tracks {
            Some(named) => {
                let known = named.names.iter().map(|(id, name)| (*id, name.clone()));
                (named.tracks, by_name(known), named.groups)
            }
            None => (Vec::new(), HashMap::new(), HashMap::new()),
        };
        let mut landmarks = Vec::new();
        let mut names = Vec::new();
        for (at, point) in file.points.iter().enumerate() {
            let without = || TrackId(WITHOUT_TRACK + at as u32);
            let id = known.get(&as_key(&point.name)).copied();
            let id = id.unwrap_or_else(without);
            let covariance = file
                .sigma(point)
                .and_then(|s| PointCovariance::of_sigma(s).ok());
            landmarks.push((id, file.point(point), covariance));
            names.push((id, point.name.clone()));
        }
        landmarks.sort_by_key(|l| l.0);
        landmarks.dedup_by_key(|l| l.0);
        let usual = || SolvedTerms {
            moves: match file.directions_at {
                Some(_) => CameraMove::Nodal,
                None => CameraMove::Free,
            },
            focal: true,
            zooms: file
                .frames
                .windows(2)
                .any(|w| w[0].focal_px != w[1].focal_px),
            lens: Vec::new(),
            readout_frames: None,
            readout: false,
        };
        Self {
            cameras,
            landmarks,
            solved: file.solved.clone().unwrap_or_else(usual),
            names,
            groups,
            tracks,
            bodies: file.bodies.iter().map(|b| body(file, b)).collect(),
        }
    }

    /// Statements of the tracks of their names; those that name what is not there, with the first such name.
    pub fn stated(
        &self,
        statements: &[(u32, Statement<String>)],
    ) -> (Vec<Stated>, Vec<(u32, String)>) {
        let tracks = by_name(self.names.iter().cloned());
        let (mut stated, mut lacking) = (Vec::new(), Vec::new());
        for (id, statement) in statements {
            let named = |name: &String| tracks.get(&as_key(name)).copied().ok_or(name.clone());
            match statement.fact.named(named) {
                Ok(fact) => stated.push((
                    *id,
                    Statement {
                        fact,
                        off: statement.off,
                    },
                )),
                Err(name) => lacking.push((*id, name)),
            }
        }
        (stated, lacking)
    }

    /// What a landmark is called.
    pub fn name(&self, track: TrackId) -> Option<String> {
        let named = self.names.iter().find(|(id, _)| *id == track);
        named.map(|(_, name)| name.clone())
    }

    /// With frames numbered higher by so many, those of tracks and bodies too.
    pub fn renumbered(mut self, by: i32) -> Self {
        let samples = self.tracks.iter_mut().flat_map(|t| &mut t.samples);
        let frames = samples.map(|s| &mut s.frame);
        let cameras = self.cameras.iter_mut().map(|c| &mut c.frame);
        let seen = self.bodies.iter_mut().flat_map(|b| &mut b.seen);
        frames
            .chain(cameras)
            .chain(seen)
            .for_each(|f| f.0 = f.0.saturating_add(by));
        self
    }

    /// What of it can be handed on, as a shot of a name.
    pub fn delivery(&self, file: &CameraFile, name: &str) -> Delivery<'_> {
        let shot = delivery::Shot {
            name: name.to_owned(),
            rate: file.fps,
            film_back: FilmBack {
                width_mm: file.film_back_mm[0],
                height_mm: file.film_back_mm[1],
            },
            film_back_assumed: file.film_back_assumed,
            receiver: file.axes,
            shutter_deg: None,
            keep: Keep::All,
        };
        let first = self.cameras.first().map(|c| c.eye.lens);
        let lens =
            self.lens(&first.unwrap_or_else(|| Intrinsics::centred(file.width, file.height, 1.0)));
        let named: HashMap<&str, TrackId> = self
            .names
            .iter()
            .map(|(id, name)| (name.as_str(), *id))
            .collect();
        let group = |name: &str| named.get(name).and_then(|id| self.groups.get(id)).cloned();
        let point = |p| landmark(file, p, group);
        let points: Vec<_> = file.points.iter().map(point).collect();
        let names: HashMap<TrackId, &String> = self.names.iter().map(|(id, n)| (*id, n)).collect();
        let called = |t: &Track| Called {
            name: names.get(&t.id).copied().cloned().unwrap_or_default(),
            group: self.groups.get(&t.id).cloned().unwrap_or_default(),
            aside: String::new(),
        };
        let solved = self.tracks.iter().filter(|t| names.contains_key(&t.id));
        let unsaid = || {
            CameraStanding::doubted(vec![
                "the camera file does not say whether it is good".to_owned(),
            ])
        };
        Delivery {
            cameras: self
                .cameras
                .iter()
                .map(|c| delivery::Camera {
                    frame: c.frame,
                    pose: c.eye.pose,
                    focal_px: c.eye.lens.focal_px,
                })
                .collect(),
            probes: points.iter().map(|p| p.place).collect(),
            points,
            directions_at: file.directions_at.map(|d| d / file.units_of_a_metre()),
            readout: file.solved.as_ref().and_then(|s| s.readout_frames),
            tracks: solved.map(|t| (t, called(t))).collect(),
            scaled: file.metres_per_unit.is_some(),
            levelled: file.levelled.unwrap_or(file.metres_per_unit.is_some()),
            standing: file.camera.clone().unwrap_or_else(unsaid),
            stale: file.stale.clone(),
            bodies: self.bodies.clone(),
            ..Delivery::empty(&shot, lens)
        }
    }

    /// As orienting needs it.
    pub fn solved<'a>(&self, together: Option<&'a dyn Together>) -> Solved<'a> {
        let travels = self.solved.moves == CameraMove::Free;
        Solved::new(
            self.landmarks.clone(),
            self.cameras.clone(),
            travels,
            together,
        )
    }

    /// The lens of the first camera with how its k1 follows a zoom, which the file states by frame.
    fn lens(&self, first: &Intrinsics) -> Intrinsics {
        let zoomed = |c: &Stand| (c.eye.lens.focal_px / first.focal_px).ln();
        let farthest = self
            .cameras
            .iter()
            .max_by(|a, b| zoomed(a).abs().total_cmp(&zoomed(b).abs()));
        let mut lens = *first;
        if let Some(far) = farthest.filter(|far| zoomed(far).abs() > 1e-6) {
            let changed = far.eye.lens.distortion.k1 - first.distortion.k1;
            lens.distortion.k1_by_zoom = changed / zoomed(far);
        }
        lens
    }

    /// Its normal equations; `None` without tracks, or where they do not determine it.
    pub fn information(&self) -> Option<Information> {
        let first = self.cameras.first()?;
        if self.tracks.is_empty() {
            return None;
        }
        let SolvedTerms {
            moves,
            focal,
            zooms,
            lens,
            readout_frames,
            readout,
        } = &self.solved;
        let has = |term: Term| lens.contains(&term);
        let radial = [Term::K1, Term::K2, Term::K3];
        let shot = SolvedShot {
            moves: *moves,
            lens: self.lens(&first.eye.lens),
            cameras: self.cameras.iter().map(|c| (c.frame, c.eye)).collect(),
            landmarks: self.landmarks.iter().map(|l| (l.0, l.1.0.coords)).collect(),
            free: FreeLens {
                focal: *focal && !zooms,
                lens: LensTerms {
                    radial: radial.into_iter().filter(|term| has(*term)).count(),
                    tangential: has(Term::P1),
                    centre: has(Term::CentreX),
                    by_zoom: has(Term::K1ByZoom),
                },
                readout: *readout,
            },
            zooms: *zooms,
            readout: *readout_frames,
            focal_about: None,
            steady: None,
        };
        Information::of(&shot, &self.tracks)
    }
}

fn landmark(
    file: &CameraFile,
    point: &CameraPoint,
    group: impl Fn(&str) -> Option<String>,
) -> delivery::Landmark {
    let sigma = file.sigma(point);
    delivery::Landmark {
        name: point.name.clone(),
        group: group(&point.name).unwrap_or_default(),
        colour: None,
        place: file.point(point),
        covariance: sigma.and_then(|s| PointCovariance::of_sigma(s).ok()),
        residual_px: point.residual_px,
    }
}

fn body(file: &CameraFile, body: &CameraBody) -> MovingBody {
    let points = body.points.iter().map(|p| landmark(file, p, |_| None));
    MovingBody {
        name: body.name.clone(),
        points: points.collect(),
        moves: body
            .frames
            .iter()
            .filter_map(|f| file.body_move(f))
            .collect(),
        seen: body.seen.map(FrameNumber),
        is_assumed: body.assumed,
        distance_by: body.distance_by.clone(),
    }
}
