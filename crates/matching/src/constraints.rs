//! Lengths and planes that are known of features, from their names to their tracks.

use crate::solving::{as_key, by_name};
use parallax_core::solve::constraints::FEWEST_ON_A_PLANE;
use parallax_core::solve::{Constraints, KnownLength, KnownPlane};
use parallax_core::spaces::TrackId;
use parallax_formats::constraints_json::ConstraintsFile;
use parallax_formats::tracks_csv::Called;
use std::collections::HashMap;

/// Constraints with the tracks of the names in a file, and the names that no track or group has. What lacks a
/// feature that it cannot do without is left out.
pub fn named(
    file: &ConstraintsFile,
    called: &HashMap<TrackId, Called>,
) -> (Constraints, Vec<String>) {
    let mut ids: Vec<TrackId> = called.keys().copied().collect();
    ids.sort_unstable();
    // Names first: somebody may have called a track what another's number is.
    let names = ids.iter().map(|id| (*id, called[id].name.clone()));
    let by_name = by_name(names.chain(ids.iter().map(|id| (*id, id.to_string()))));
    let track = |name: &str| by_name.get(&as_key(name)).copied();
    let mut lacking = Vec::new();
    let mut found = Constraints::default();
    for length in &file.lengths {
        let both = length.between.each_ref().map(|name| track(name));
        let names = length.between.iter().zip(&both);
        lacking.extend(
            names
                .filter(|(_, id)| id.is_none())
                .map(|(name, _)| name.clone()),
        );
        if let [Some(one), Some(other)] = both {
            found.lengths.push(KnownLength {
                between: [one, other],
                length_m: length.m,
                sigma_m: length.sigma_mm / 1000.0,
            });
        }
    }
    for plane in &file.planes {
        let mut tracks: Vec<TrackId> = plane.tracks.iter().filter_map(|n| track(n)).collect();
        lacking.extend(plane.tracks.iter().filter(|n| track(n).is_none()).cloned());
        if let Some(group) = &plane.group {
            let before = tracks.len();
            let in_group = |id: &&TrackId| as_key(&called[*id].group) == as_key(group);
            tracks.extend(ids.iter().filter(in_group));
            if tracks.len() == before {
                lacking.push(group.clone());
            }
        }
        tracks.sort();
        tracks.dedup();
        if tracks.len() >= FEWEST_ON_A_PLANE {
            let sigma_m = plane.sigma_mm / 1000.0;
            found.planes.push(KnownPlane { tracks, sigma_m });
        }
    }
    (found, lacking)
}

#[cfg(test)]
mod tests {
    #![allow(clippy::unwrap_used)]

    use super::*;

    #[test]
    fn names_and_groups_become_tracks() {
        let called = |name: &str, group: &str| Called {
            name: name.to_owned(),
            group: group.to_owned(),
            aside: String::new(),
        };
        let all: HashMap<TrackId, Called> = [
            (TrackId(1), called("Door left", "")),
            (TrackId(2), called("door right", "wall")),
            (TrackId(3), called("", "wall")),
            (TrackId(4), called("", "Wall")),
            (TrackId(5), called("", "wall")),
        ]
        .into();
        let text = r#"{"schema": "true-parallax/constraints@1",
            "lengths": [{"between": ["door left", "door right"], "m": 0.9, "sigma_mm": 3},
                        {"between": ["door left", "nobody"], "m": 1}],
            "planes": [{"tracks": ["", " ", "t0001", "t0002"]}, {"group": "wall", "tracks": ["door right"]}, {"group": "floor"},
                       {"tracks": ["t0001", "t0002", "t0003", "t0004"]}]}"#;
        let file = ConstraintsFile::read(text).unwrap();
        let (found, lacking) = named(&file, &all);
        assert_eq!(lacking, ["nobody", "", " ", "floor"]);
        assert_eq!(found.lengths.len(), 1);
        assert_eq!(found.lengths[0].between, [TrackId(1), TrackId(2)]);
        assert_eq!(
            (found.lengths[0].length_m, found.lengths[0].sigma_m),
            (0.9, 0.003)
        );
        let tracks: Vec<Vec<u32>> = found
            .planes
            .iter()
            .map(|p| p.tracks.iter().map(|t| t.0).collect())
            .collect();
        assert_eq!(tracks, [[2, 3, 4, 5], [1, 2, 3, 4]]);
    }
}
