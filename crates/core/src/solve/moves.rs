//! How did the camera move, and did it zoom?
//!
//! A camera that travels, one that turns on the spot and one that rests are different models with
//! different numbers of unknowns, each with a focal length that stays or one of its own for every
//! frame. What the artist states holds. Else the models that the evidence allows are solved, the
//! likeliest first, and the one is taken that explains the positions of the whole shot best for
//! its number of unknowns: the Bayesian information criterion (Schwarz 1978) with a bounded cost for
//! each position, in the manner of Torr's GRIC (1998). What was tried, and how it compares, is kept
//! with the attempt. A camera that rests has no model to be held against others where nothing moves; where the picture
//! grows about its middle and does nothing else, it is one that rests and zooms ([`super::locked_zoom`]).

use super::bundle::Motion;
use super::criterion::{criterion, unit_px};
use super::evidence::{self, Evidence, Keys};
use super::grow;
use super::locked;
use super::locked_zoom;
use super::start;
use super::underway::{Stage, Underway};
use super::views::Views;
use super::{Attempt, Doubt, FocalKnowledge, SolveError, SolveOptions, finish};
use crate::progress::{Checkpoints, Progress, Silent};
use serde::{Deserialize, Serialize};

/// How the camera moves through a shot.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum CameraMove {
    /// It travels.
    #[default]
    Free,
    /// It turns on the spot.
    Nodal,
    /// It rests.
    Locked,
}

impl From<Motion> for CameraMove {
    fn from(motion: Motion) -> Self {
        match motion {
            Motion::Free => Self::Free,
            Motion::Turning => Self::Nodal,
            Motion::Resting => Self::Locked,
        }
    }
}

/// A model of the camera: how it moves, and whether it zooms.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Kind {
    /// How it moves.
    pub moves: CameraMove,
    /// Whether its focal length changes.
    pub zooms: bool,
}

/// A model that was tried, and how it compares.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
pub struct Tried {
    /// How the camera moves in it.
    pub moves: CameraMove,
    /// Whether it zooms in it.
    pub zooms: bool,
    /// Share of the positions that it explains.
    pub share: f64,
    /// Root mean square of what it leaves of these, px.
    pub rms_px: f64,
    /// By how much the information criterion is worse than that of the best, half units of
    /// log-likelihood.
    pub behind: f64,
}

/// A model that explains less than this share may not be the right one.
const EXPLAINING: f64 = 0.9;
/// Frames without a camera are few up to this share: what is not seen no model explains.
const FEW_LOST: f64 = 0.03;
/// Parallax so many times larger than none may still be the error of a turning camera.
const HARDLY_ANY: f64 = 4.0;

impl Kind {
    /// A camera that rests and zooms.
    pub(super) const LOCKED_ZOOM: Self = Self {
        moves: CameraMove::Locked,
        zooms: true,
    };

    /// How cameras of different frames stand to each other. That of a camera that rests and does not zoom has no
    /// unknown, and is told by [`super::locked`]; how certain it is is told as if it turned.
    pub fn motion(self) -> Motion {
        match self {
            Self::LOCKED_ZOOM => Motion::Resting,
            Self {
                moves: CameraMove::Free,
                ..
            } => Motion::Free,
            _ => Motion::Turning,
        }
    }

    /// Whether it contradicts nothing that is stated.
    pub fn is_allowed_by(&self, options: &SolveOptions) -> bool {
        let moves = options.moves.is_none_or(|m| m == self.moves);
        let zooms = match (options.zooms, options.focal) {
            (Some(zooms), _) => zooms == self.zooms,
            (None, FocalKnowledge::Known(_) | FocalKnowledge::About { .. }) => !self.zooms,
            (None, FocalKnowledge::AtFirst { .. }) => self.zooms,
            (None, FocalKnowledge::Unknown) => true,
        };
        moves && zooms
    }

    /// Options in which it is stated.
    pub fn stated_in(&self, options: &SolveOptions) -> SolveOptions {
        SolveOptions {
            moves: Some(self.moves),
            zooms: Some(self.zooms),
            ..options.clone()
        }
    }
}

/// The model that an attempt was solved with.
pub fn as_solved(attempt: &Attempt) -> Kind {
    Kind {
        moves: attempt.moves,
        zooms: attempt.zooms(),
    }
}

/// Solves with the model that is stated, or with the one that explains the shot.
pub fn decided(
    views: &Views,
    options: &SolveOptions,
    checkpoints: &dyn Checkpoints<Underway>,
    progress: &dyn Progress,
) -> Result<Attempt, SolveError> {
    let keys = evidence::key_frames(views);
    let grows = growth(views, options, &keys);
    let motion_px = keys.motion_px;
    match options.moves {
        Some(CameraMove::Locked) if !keys.rests => {
            let can_zoom = Kind::LOCKED_ZOOM.is_allowed_by(options);
            match (grows, can_zoom, options.focal.at_first()) {
                (_, true, Some(_)) => {}
                (Some(factor), true, None) => {
                    return Err(SolveError::LockedZoomWithoutFocal { factor });
                }
                (Some(factor), false, _) => return Err(SolveError::LockedButZooms { factor }),
                (None, ..) => return Err(SolveError::NotLocked { motion_px }),
            }
        }
        Some(CameraMove::Free | CameraMove::Nodal) if keys.rests => {
            return Err(SolveError::NoMotion { motion_px });
        }
        _ if keys.rests => return locked::locked(views, options),
        _ => {}
    }
    let mut deciding = Deciding {
        views,
        options,
        keys: &keys,
        grows,
        progress,
        fixed: None,
        zoomed: None,
        tried: Vec::new(),
    };
    let left = checkpoints.left().filter(|left| left.is_of(views));
    let first = match left.as_ref().map(kind_of) {
        Some(kind) if kind.is_allowed_by(options) => kind,
        _ => deciding.likeliest()?,
    };
    deciding.try_out(first, checkpoints)?;
    while let Some(kind) = deciding.next()? {
        deciding.try_out(kind, &Silent)?;
    }
    let best = deciding.best()?;
    locked_zoom::doubted(views, options, || grows, best, progress)
}

/// By what factor the picture grows over the shot, where it does nothing else.
pub fn growth(views: &Views, options: &SolveOptions, keys: &Keys) -> Option<f64> {
    match keys.rests {
        true => None,
        false => locked_zoom::growth(views, options.lens.centre, &keys.frames),
    }
}

/// The model of an interrupted solve.
fn kind_of(underway: &Underway) -> Kind {
    Kind {
        moves: underway.world.motion.into(),
        zooms: underway.world.zooms(),
    }
}

/// A shot whose model is being decided.
struct Deciding<'a> {
    views: &'a Views,
    options: &'a SolveOptions,
    keys: &'a Keys,
    /// By what factor the picture grows over the shot, where it does nothing else.
    grows: Option<f64>,
    progress: &'a dyn Progress,
    /// Evidence by rotations alone, and by rotations with a change of focal length, once it was
    /// asked for.
    fixed: Option<Evidence>,
    zoomed: Option<Evidence>,
    tried: Vec<(Kind, Result<Attempt, SolveError>)>,
}

impl Deciding<'_> {
    fn is_allowed(&self, kind: Kind) -> bool {
        kind.is_allowed_by(self.options)
    }

    fn evidence(&mut self, zooms: bool) -> Result<&Evidence, SolveError> {
        let kept = match zooms {
            false => &mut self.fixed,
            true => &mut self.zoomed,
        };
        if kept.is_none() {
            let asked = self.options.zooming(zooms);
            let keys = &self.keys.frames;
            *kept = Some(evidence::parallax(self.views, &asked, keys, self.progress)?);
        }
        kept.as_ref().ok_or(SolveError::NoStart)
    }

    /// Whether pairs of frames show parallax, by rotations alone or with a change of focal length. Pairs that show it
    /// by rotations alone most often show it with that too, without a look at all others.
    fn has_parallax(&mut self, zooms: bool) -> Result<bool, SolveError> {
        if let (true, None, Some(fixed)) = (zooms, &self.zoomed, &self.fixed)
            && evidence::is_on_one(self.views, &self.options.zooming(true), fixed)
        {
            return Ok(true);
        }
        let parallax_px = self.evidence(zooms)?.parallax_px;
        Ok(!evidence::is_none(self.views, parallax_px))
    }

    /// What the evidence of pairs of frames speaks for.
    fn likeliest(&mut self) -> Result<Kind, SolveError> {
        let is_stated = self.options.moves == Some(CameraMove::Locked);
        if is_stated || self.grows.is_some() && self.is_allowed(Kind::LOCKED_ZOOM) {
            return Ok(Kind::LOCKED_ZOOM);
        }
        for zooms in [false, true] {
            let kind = Kind {
                moves: CameraMove::Nodal,
                zooms,
            };
            if !self.is_allowed(kind) {
                continue;
            }
            let has_parallax = self.has_parallax(zooms)?;
            let stated = self.options.moves == Some(CameraMove::Nodal);
            if stated && self.options.zooms.is_some() || !has_parallax {
                return Ok(kind);
            }
        }
        let fixed = Kind {
            moves: self.options.moves.unwrap_or(CameraMove::Free),
            zooms: false,
        };
        let zooms = !self.is_allowed(fixed);
        Ok(Kind { zooms, ..fixed })
    }

    /// What else is worth trying after the likeliest. Turns on the spot that pairs of frames speak against come last,
    /// and only where nothing explains the shot and what travels shows hardly any parallax: rows that are read one
    /// after the other, and what moves by itself, pass for a travel there.
    fn next(&mut self) -> Result<Option<Kind>, SolveError> {
        let first = self.tried.first().map(|(_, solved)| solved);
        if first.is_none_or(|solved| solved.as_ref().is_ok_and(|a| self.explains(a))) {
            return Ok(None);
        }
        let mut late = Vec::new();
        for moves in [CameraMove::Nodal, CameraMove::Free] {
            for zooms in [false, true] {
                let kind = Kind { moves, zooms };
                let is_tried = self.tried.iter().any(|(tried, _)| *tried == kind);
                if is_tried || !self.is_allowed(kind) {
                    continue;
                }
                if moves == CameraMove::Nodal && self.is_far_from_nodal(zooms)? {
                    late.push(kind);
                } else {
                    return Ok(Some(kind));
                }
            }
        }
        let is_little = |d: &Doubt| matches!(d, Doubt::LittleParallax { .. });
        let hardly_travels = self.solved_so_far().any(|a| a.doubts.iter().any(is_little));
        let is_explained = self.solved_so_far().any(|a| self.explains(a));
        Ok(late.into_iter().find(|_| hardly_travels && !is_explained))
    }

    fn solved_so_far(&self) -> impl DoubleEndedIterator<Item = &Attempt> {
        let tried = self.tried.iter();
        tried.filter_map(|(_, solved)| solved.as_ref().ok())
    }

    fn is_far_from_nodal(&mut self, zooms: bool) -> Result<bool, SolveError> {
        let parallax_px = self.evidence(zooms)?.parallax_px;
        Ok(!evidence::is_none(self.views, parallax_px / HARDLY_ANY))
    }

    /// Whether there is nothing that another model could explain better.
    fn explains(&self, attempt: &Attempt) -> bool {
        let rests = attempt.moves == CameraMove::Locked;
        let has_doubt = attempt.doubts.iter().any(|d| match d {
            // No model says more of the focal length of one that rests.
            Doubt::FocalUncertain { .. } => !rests,
            Doubt::NotConverged
            | Doubt::Undetermined
            | Doubt::LargeResiduals { .. }
            | Doubt::LittleParallax { .. }
            | Doubt::FocalChanges { .. } => true,
            Doubt::FramesLost { solved, all } => ((all - solved) as f64) > FEW_LOST * *all as f64,
            _ => false,
        });
        let travels = attempt.moves == CameraMove::Free;
        !has_doubt
            && self.views.as_claimed(attempt.unexplained_px()) == 1.0
            && (travels || self.share(attempt) >= EXPLAINING)
    }

    /// Whether cameras that turn on the spot leave something unexplained: features far off may be most of them,
    /// and hide in the median what near ones show of a travel.
    fn is_left_unexplained(&mut self, zooms: bool) -> Result<bool, SolveError> {
        if self.tried.is_empty() {
            // A travel is stated: a turn was not tried, and would not be taken.
            let turning = Kind {
                moves: CameraMove::Nodal,
                zooms,
            };
            return match self.solved(turning, &Silent) {
                Err(SolveError::Cancelled) => Err(SolveError::Cancelled),
                solved => Ok(!solved.is_ok_and(|a| self.explains(&a))),
            };
        }
        Ok(!self.solved_so_far().any(|a| self.explains(a)))
    }

    fn positions(&self) -> usize {
        self.views.seen.iter().map(Vec::len).sum()
    }

    fn share(&self, attempt: &Attempt) -> f64 {
        attempt.positions as f64 / self.positions().max(1) as f64
    }

    /// Solves with a model; what it fails with is kept, being cancelled ends all.
    fn try_out(
        &mut self,
        kind: Kind,
        checkpoints: &dyn Checkpoints<Underway>,
    ) -> Result<(), SolveError> {
        let solved = self.solved(kind, checkpoints);
        if solved == Err(SolveError::Cancelled) {
            return Err(SolveError::Cancelled);
        }
        self.tried.push((kind, solved));
        Ok(())
    }

    fn solved(
        &mut self,
        kind: Kind,
        checkpoints: &dyn Checkpoints<Underway>,
    ) -> Result<Attempt, SolveError> {
        let mut options = kind.stated_in(self.options);
        if kind == Kind::LOCKED_ZOOM {
            options = locked_zoom::with_usual_focal(&options);
        }
        if let Some(attempt) = self.solved_so_far().next_back() {
            options.readout = options.readout.or_found(attempt);
        }
        let keys = &self.keys.frames;
        let left = checkpoints.left().filter(|left| left.is_of(self.views));
        let mut underway = match left.filter(|left| kind_of(left) == kind) {
            Some(left) => left,
            None if kind == Kind::LOCKED_ZOOM => {
                locked_zoom::started(self.views, &options, self.progress)?
            }
            None => {
                let evidence = self.evidence(kind.zooms)?.clone();
                let is_none = evidence::is_none(self.views, evidence.parallax_px);
                let parallax_px = evidence.parallax_px;
                let travels_unseen = kind.moves == CameraMove::Free && is_none;
                if travels_unseen && !self.is_left_unexplained(kind.zooms)? {
                    return Err(SolveError::NoParallax { parallax_px });
                }
                match started(self.views, &options, keys, &evidence, self.progress) {
                    Err(SolveError::NoStart) if travels_unseen => {
                        return Err(SolveError::NoParallax { parallax_px });
                    }
                    started => started?,
                }
            }
        };
        grow::over_all_frames(
            self.views,
            &options,
            keys,
            &mut underway,
            checkpoints,
            self.progress,
        )?;
        finish::finish(self.views, &options, underway, checkpoints, self.progress)
    }

    /// The attempt of the model that explains most for its unknowns; the first failure where none
    /// gave a camera.
    fn best(self) -> Result<Attempt, SolveError> {
        let cameras: Vec<(Kind, &Attempt)> = self
            .tried
            .iter()
            .filter_map(|(kind, solved)| Some((*kind, solved.as_ref().ok()?)))
            .collect();
        let unit = self.unit_px(&cameras);
        let costs: Vec<f64> = cameras
            .iter()
            .map(|(_, attempt)| criterion(attempt, self.views, unit))
            .collect();
        let least = costs.iter().copied().fold(f64::INFINITY, f64::min);
        let tried: Vec<Tried> = cameras
            .iter()
            .zip(&costs)
            .map(|((kind, attempt), cost)| Tried {
                moves: kind.moves,
                zooms: kind.zooms,
                share: self.share(attempt),
                rms_px: attempt.rms_px,
                behind: cost - least,
            })
            .collect();
        let chosen = costs.iter().position(|cost| *cost == least);
        let is_chosen = |kind: Kind| chosen.is_some_and(|chosen| cameras[chosen].0 == kind);
        if let Some(factor) = self.grows
            && self.options.focal.at_first().is_none()
            && is_chosen(Kind::LOCKED_ZOOM)
        {
            return Err(SolveError::LockedZoomWithoutFocal { factor });
        }
        let mut solved = self.tried.into_iter().map(|(_, solved)| solved);
        match chosen {
            Some(chosen) => {
                let attempt = solved.flatten().nth(chosen);
                let attempt = attempt.ok_or(SolveError::NoStart)?;
                Ok(Attempt { tried, ..attempt })
            }
            None => solved.next().unwrap_or(Err(SolveError::NoStart)),
        }
    }

    /// One standard error of a position, px: what the best model leaves, where that is more than is
    /// claimed, so that too sure tracks do not make every unknown seem worth while.
    fn unit_px(&self, cameras: &[(Kind, &Attempt)]) -> f64 {
        let attempts = cameras.iter().map(|(_, attempt)| *attempt);
        unit_px(self.views, attempts.filter(|a| self.share(a) >= 0.5))
    }
}

/// A first piece of the world.
fn started(
    views: &Views,
    options: &SolveOptions,
    keys: &[usize],
    evidence: &Evidence,
    progress: &dyn Progress,
) -> Result<Underway, SolveError> {
    let seed = start::best_start(views, options, keys, &evidence.pairs, progress)?;
    let adjusted_at = seed.world.pose_count();
    let mut world = seed.world;
    world.readout = options.readout.to_start_with();
    Ok(Underway {
        world,
        started_from: seed.pair,
        stage: Stage::Growing { adjusted_at },
    })
}
