//! Which tracks take part in a solve?
//!
//! All that were followed or keyed, with the artist's weights, less what lies outside in and out
//! or under a drawn matte since; of these not what the artist set aside, and not what was set
//! aside by itself unless the artist keeps it. What the artist keyed nobody else sets aside.

use parallax_core::judge::{Suspect, Why};
use parallax_core::solve::Candidates;
use parallax_core::spaces::TrackId;
use parallax_core::track::matte::{Matte, drawn_leave_out};
use parallax_core::tracks::{Sample, Track, TrackKind};
use std::collections::{HashMap, HashSet};

/// What the artist decided about tracks.
#[derive(Default)]
pub struct Choices<'a> {
    /// In and out, inclusive; `None` is all.
    pub range: Option<(i32, i32)>,
    /// Mattes; the drawn ones act here.
    pub mattes: &'a [Matte],
    /// Weights other than 1.
    pub weights: HashMap<TrackId, f64>,
    /// Tracks that the artist set aside.
    pub culled: HashSet<TrackId>,
    /// Suspects that the artist keeps.
    pub kept: HashSet<TrackId>,
}

/// A feature needs so many positions to say anything; a hand track is seen from its first key on.
const LEAST: usize = 2;

impl Choices<'_> {
    /// All tracks as they are used, set aside or not.
    pub fn used<'t>(&self, tracks: impl IntoIterator<Item = &'t Track>) -> Vec<Track> {
        tracks
            .into_iter()
            .filter(|t| self.is_used(t))
            .map(|t| self.used_one(t))
            .collect()
    }

    /// How many tracks are used, and how many of these take no part.
    pub fn count<'t>(
        &self,
        tracks: impl IntoIterator<Item = &'t Track>,
        suspects: &[Suspect],
    ) -> (usize, usize) {
        let used: Vec<&Track> = tracks.into_iter().filter(|t| self.is_used(t)).collect();
        let aside = self.set_aside(used.iter().copied(), suspects).len();
        (used.len(), aside)
    }

    fn sees(&self, kind: TrackKind, sample: &Sample) -> bool {
        let within = self
            .range
            .is_none_or(|(first, last)| (first..=last).contains(&sample.frame.0));
        let covered = || {
            let matted = kind == TrackKind::Auto && !self.mattes.is_empty();
            matted && drawn_leave_out(self.mattes, sample.frame, sample.px)
        };
        within && !covered()
    }

    fn is_used(&self, track: &Track) -> bool {
        let least = if track.kind == TrackKind::Hand {
            1
        } else {
            LEAST
        };
        let seen = track.samples.iter().filter(|s| self.sees(track.kind, s));
        seen.take(least).count() == least
    }

    fn used_one(&self, track: &Track) -> Track {
        let seen = track.samples.iter().filter(|s| self.sees(track.kind, s));
        let used = Track {
            samples: seen.copied().collect(),
            ..track.clone()
        };
        match self.weights.get(&track.id) {
            Some(weight) => used.weighing(*weight),
            None => used,
        }
    }

    /// Those of the used tracks that do not take part.
    pub fn set_aside<'t>(
        &self,
        used: impl IntoIterator<Item = &'t Track>,
        suspects: &[Suspect],
    ) -> HashSet<TrackId> {
        let suspected: HashSet<TrackId> = suspects
            .iter()
            .filter(|s| s.why.sets_aside())
            .map(|s| s.track)
            .collect();
        let by_itself = |t: &Track| {
            t.kind == TrackKind::Auto && suspected.contains(&t.id) && !self.kept.contains(&t.id)
        };
        let aside = |t: &Track| self.culled.contains(&t.id) || by_itself(t);
        used.into_iter()
            .filter(|t| aside(t))
            .map(|t| t.id)
            .collect()
    }

    /// Those that may take part in a solve. What moves by itself as far as pairs of frames tell is
    /// among them, for the solve to judge by the whole shot.
    pub fn solvable<'t>(
        &self,
        tracks: impl IntoIterator<Item = &'t Track>,
        suspects: &[Suspect],
    ) -> Solvable {
        let used = self.used(tracks);
        let out = self.set_aside(&used, suspects);
        let moves = suspects.iter().filter(|s| s.why == Why::Mover);
        let suspected: HashSet<TrackId> = moves
            .map(|s| s.track)
            .filter(|id| out.contains(id) && !self.culled.contains(id))
            .collect();
        let takes_part = |t: &Track| {
            let is_heard = !out.contains(&t.id) || suspected.contains(&t.id);
            is_heard && t.weight > 0.0 && t.samples.len() >= LEAST
        };
        Solvable {
            tracks: used.into_iter().filter(takes_part).collect(),
            suspected,
        }
    }
}

/// Tracks that may take part in a solve.
pub struct Solvable {
    /// All of them, with those that the solve has to judge itself.
    pub tracks: Vec<Track>,
    /// Those that move by themselves as far as pairs of frames tell.
    pub suspected: HashSet<TrackId>,
}

impl Solvable {
    /// As the solve takes them.
    pub fn candidates(&self) -> Candidates<'_> {
        Candidates {
            tracks: &self.tracks,
            suspected: &self.suspected,
        }
    }

    /// Those that are not suspected.
    pub fn trusted(&self) -> impl Iterator<Item = &Track> {
        let is_trusted = |t: &&Track| !self.suspected.contains(&t.id);
        self.tracks.iter().filter(is_trusted)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use parallax_core::spaces::{FrameNumber, PlatePx};
    use parallax_core::tracks::Covariance;
    use rstest::rstest;

    fn track(id: u32, kind: TrackKind, frames: std::ops::RangeInclusive<i32>) -> Track {
        let at = |frame| Sample {
            frame: FrameNumber(frame),
            px: PlatePx::new(100.0, 50.0),
            covariance: Covariance::isotropic(0.1),
        };
        Track::new(TrackId(id), kind, frames.map(at).collect())
    }

    fn suspect(id: u32, why: Why) -> Suspect {
        let (track, frame) = (TrackId(id), FrameNumber(1));
        Suspect {
            track,
            why,
            figure: 0.0,
            frame,
            other: None,
        }
    }

    fn ids(list: &[u32]) -> HashSet<TrackId> {
        list.iter().copied().map(TrackId).collect()
    }

    #[rstest]
    #[case::all_are_used(Choices::default(), &[], &[1, 2, 3, 100_001])]
    #[case::a_mover_is_set_aside(Choices::default(), &[suspect(2, Why::Mover)], &[1, 3, 100_001])]
    #[case::a_drifter_is_only_named(Choices::default(), &[suspect(2, Why::Drifts)], &[1, 2, 3, 100_001])]
    #[case::what_was_keyed_is_not_set_aside_by_itself(Choices::default(), &[suspect(100_001, Why::Mover)], &[1, 2, 3, 100_001])]
    #[case::an_imported_hand_track_neither(Choices::default(), &[suspect(3, Why::Mover)], &[1, 2, 3, 100_001])]
    #[case::a_mover_is_kept(Choices { kept: ids(&[2]), ..Choices::default() }, &[suspect(2, Why::Mover)], &[1, 2, 3, 100_001])]
    #[case::culled(Choices { culled: ids(&[1, 100_001]), ..Choices::default() }, &[], &[2, 3])]
    #[case::no_weight(Choices { weights: [(TrackId(1), 0.0)].into(), ..Choices::default() }, &[], &[2, 3, 100_001])]
    #[case::out_of_range(Choices { range: Some((4, 9)), ..Choices::default() }, &[], &[2, 3, 100_001])]
    fn who_takes_part(
        #[case] choices: Choices<'_>,
        #[case] suspects: &[Suspect],
        #[case] expected: &[u32],
    ) {
        let tracks = [
            track(1, TrackKind::Auto, 1..=4),
            track(2, TrackKind::Auto, 1..=6),
            track(3, TrackKind::Hand, 1..=6),
            track(100_001, TrackKind::Hand, 1..=6),
        ];
        let solvable = choices.solvable(&tracks, suspects);
        let solvable: Vec<&Track> = solvable.trusted().collect();
        assert_eq!(
            solvable.iter().map(|t| t.id.0).collect::<Vec<_>>(),
            expected
        );
    }
}
