//! What an artist says of tracks: names, groups, locks, weights.

use crate::state::SurveyedPoint;
use crate::{Invalid, ShotState, StoreError};
use serde::{Deserialize, Serialize};

/// Numbers from here on are hand tracks; automatic ones stay below.
pub const FIRST_HAND: u32 = 100_001;

/// What is said of one track.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(default, deny_unknown_fields)]
pub struct TrackNote {
    /// Its name; its number where this is empty.
    pub name: String,
    /// The group that it is in, if any.
    pub group: String,
    /// Whether it can be set aside or changed.
    pub locked: bool,
    /// Whether it is left out of sight.
    pub hidden: bool,
    /// How much it counts in a solve.
    pub weight: f64,
}

impl Default for TrackNote {
    fn default() -> Self {
        Self {
            name: String::new(),
            group: String::new(),
            locked: false,
            hidden: false,
            weight: 1.0,
        }
    }
}

/// A change to what is said of tracks; what is left out stays.
#[derive(Clone, Debug, Default, PartialEq, Deserialize)]
#[serde(default, deny_unknown_fields)]
pub struct NoteChange {
    /// A new name; numbered when several tracks get it.
    pub name: Option<String>,
    /// A new group, empty for none.
    pub group: Option<String>,
    /// Locked or not.
    pub locked: Option<bool>,
    /// Hidden or not.
    pub hidden: Option<bool>,
    /// A new weight.
    pub weight: Option<f64>,
}

/// Longest name of a track or a group.
const LONGEST_NAME: usize = 80;

impl ShotState {
    /// With something said of tracks.
    pub fn noted(&self, tracks: &[u32], change: &NoteChange) -> Result<Self, StoreError> {
        if change
            .weight
            .is_some_and(|w| !(w.is_finite() && (0.0..=100.0).contains(&w)))
        {
            return Err(Invalid::Weight.into());
        }
        let long = |text: &Option<String>| {
            text.as_ref()
                .is_some_and(|t| t.chars().count() > LONGEST_NAME)
        };
        if long(&change.name) || long(&change.group) {
            return Err(Invalid::Name { most: LONGEST_NAME }.into());
        }
        let mut next = self.clone();
        for (index, id) in tracks.iter().enumerate() {
            let note = next.notes.entry(*id).or_default();
            if let Some(name) = &change.name {
                let name = match (name.trim(), tracks.len()) {
                    (name, 1) => name.to_owned(),
                    ("", _) => String::new(),
                    (name, _) => format!("{name} {}", index + 1),
                };
                match next.hands.iter_mut().find(|h| h.id == *id) {
                    // A hand track has a name of its own, and is never without one.
                    Some(hand) if !name.is_empty() => hand.name = name,
                    Some(_) => {}
                    None => note.name = name,
                }
            }
            if let Some(group) = &change.group {
                note.group = group.trim().to_owned();
            }
            note.locked = change.locked.unwrap_or(note.locked);
            note.hidden = change.hidden.unwrap_or(note.hidden);
            note.weight = change.weight.unwrap_or(note.weight);
        }
        next.notes.retain(|_, note| *note != TrackNote::default());
        Ok(next)
    }

    /// What a track is called: by its hand track or its note; nothing where it has no name.
    pub fn name_of(&self, track: u32) -> Option<&str> {
        let noted = self
            .notes
            .get(&track)
            .map(|n| n.name.as_str())
            .filter(|n| !n.is_empty());
        noted.or_else(|| {
            self.hands
                .iter()
                .find(|h| h.id == track)
                .map(|h| h.name.as_str())
        })
    }

    /// The track that a surveyed point is: the one that was chosen, else the one of its name.
    pub fn track_of(&self, point: &SurveyedPoint) -> Option<u32> {
        let wanted = point.name.trim().to_lowercase();
        let is_it = |id: &u32| {
            let name = self.name_of(*id).unwrap_or_default();
            name.trim().to_lowercase() == wanted
        };
        let named = self.notes.keys().copied();
        let mut named = named.chain(self.hands.iter().map(|h| h.id));
        point.track.or_else(|| named.find(is_it))
    }

    /// Whether a track is locked.
    pub fn is_locked(&self, track: u32) -> bool {
        self.notes.get(&track).is_some_and(|n| n.locked)
    }

    /// With tracks set aside and others brought back; locked ones stay as they are.
    pub fn culled(&self, aside: &[u32], back: &[u32]) -> Self {
        let free = |ids: &[u32]| -> Vec<u32> {
            ids.iter()
                .copied()
                .filter(|id| !self.is_locked(*id))
                .collect()
        };
        let (aside, back) = (free(aside), free(back));
        let changed = |list: &[u32], less: &[u32], more: &[u32]| {
            let mut next: Vec<u32> = list
                .iter()
                .chain(more)
                .copied()
                .filter(|id| !less.contains(id))
                .collect();
            next.sort_unstable();
            next.dedup();
            next
        };
        Self {
            culled: changed(&self.culled, &back, &aside),
            kept_movers: changed(&self.kept_movers, &aside, &back),
            ..self.clone()
        }
    }

    /// The number that the next hand track gets.
    pub fn next_hand(&self) -> u32 {
        self.hands
            .iter()
            .map(|h| h.id + 1)
            .fold(FIRST_HAND, u32::max)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_is_said_of_tracks_is_kept_and_taken_back() {
        let state = ShotState::new(640, 360);
        let group = NoteChange {
            group: Some("ground ".to_owned()),
            name: Some("slab".to_owned()),
            ..Default::default()
        };
        let state = state.noted(&[3, 9], &group).unwrap();
        assert_eq!(state.notes[&9].group, "ground");
        assert_eq!(state.name_of(9), Some("slab 2"));
        let cleared = NoteChange {
            group: Some(String::new()),
            name: Some(String::new()),
            ..Default::default()
        };
        assert!(state.noted(&[3, 9], &cleared).unwrap().notes.is_empty());
        let heavy = NoteChange {
            weight: Some(f64::NAN),
            ..Default::default()
        };
        assert!(state.noted(&[3], &heavy).is_err());
    }

    #[test]
    fn locked_tracks_are_not_culled() {
        let locked = NoteChange {
            locked: Some(true),
            ..Default::default()
        };
        let state = ShotState::new(640, 360)
            .noted(&[4], &locked)
            .unwrap()
            .culled(&[3, 4, 5], &[]);
        assert_eq!(state.culled, [3, 5]);
        let state = state.culled(&[], &[5]);
        assert_eq!((state.culled, state.kept_movers), (vec![3], vec![5]));
    }
}
