//! What an artist states about where the world lies, and how that was kept before there were statements.

use crate::constraints::Constraint;
use crate::things::Things;
use parallax_core::orient::{End, Facing, Fact, Stated, Statement};
use parallax_core::spaces::TrackId;
use serde::{Deserialize, Serialize};

/// Most statements of a shot.
pub const MOST_STATEMENTS: usize = 200;

/// Numbers of statements that are made of what is known at Solve are those of the constraints from here on.
pub const OF_CONSTRAINTS: u32 = 1 << 30;

/// Ground, origin and a distance, as shots of before there were statements have them: read, never written.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
#[serde(default, deny_unknown_fields)]
pub struct Picks {
    ground: Vec<TrackId>,
    origin: Option<TrackId>,
    distance: Option<(TrackId, TrackId, f64)>,
}

/// How exactly a distance of before errors were stated is taken to have been measured, share.
const USUAL_SHARE: f64 = 0.001;

impl Picks {
    /// Whether there are none.
    pub fn is_empty(&self) -> bool {
        *self == Self::default()
    }

    /// As statements.
    pub fn stated(self) -> Vec<Statement> {
        let ground = (!self.ground.is_empty()).then(|| Fact::Plane {
            name: "ground".to_owned(),
            faces: Facing::Ground,
            on: self.ground,
        });
        let origin = self.origin.map(|at| Fact::Origin { at });
        let distance = self.distance.map(|(a, b, length_m)| Fact::Length {
            between: [End::Feature(a), End::Feature(b)],
            length_m,
            sigma_m: USUAL_SHARE * length_m,
        });
        let facts = [ground, origin, distance].into_iter().flatten();
        facts.map(|fact| Statement { fact, off: false }).collect()
    }
}

/// All that is stated about the world, lengths that are known at Solve among it.
pub fn stated(statements: &Things<Statement>, constraints: &Things<Constraint>) -> Vec<Stated> {
    let own = statements.iter().map(|s| (s.id, s.it.clone()));
    let lengths = constraints.iter().filter_map(|c| match c.it {
        Constraint::Length {
            between,
            length_m,
            sigma_m,
        } => Some((
            OF_CONSTRAINTS.saturating_add(c.id),
            Statement {
                fact: Fact::Length {
                    between: between.map(|id| End::Feature(TrackId(id))),
                    length_m,
                    sigma_m,
                },
                off: false,
            },
        )),
        Constraint::Plane { .. } => None,
    });
    own.chain(lengths).collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::ShotState;
    use serde_json::json;

    #[test]
    fn picks_of_before_are_read_as_statements() {
        let mut old = serde_json::to_value(ShotState::new(640, 360)).unwrap();
        assert!(old.get("picks").is_none());
        old["picks"] = json!({ "ground": [3, 4, 5], "origin": 4, "distance": [3, 5, 2.5] });
        let state: ShotState = serde_json::from_value(old.clone()).unwrap();
        let kinds: Vec<_> = state.statements.iter().map(|s| (s.id, &s.fact)).collect();
        assert_eq!(kinds.len(), 3);
        let on = [3, 4, 5].map(TrackId).to_vec();
        let name = "ground".to_owned();
        let faces = Facing::Ground;
        assert_eq!(kinds[0], (1, &Fact::Plane { name, faces, on }));
        assert_eq!(kinds[1], (2, &Fact::Origin { at: TrackId(4) }));
        let kept = serde_json::to_value(&state).unwrap();
        assert!(kept.get("picks").is_none());
        // Read twice it is the same, and what was kept is read as itself.
        assert_eq!(serde_json::from_value::<ShotState>(old).unwrap(), state);
        assert_eq!(serde_json::from_value::<ShotState>(kept).unwrap(), state);
    }

    #[test]
    fn lengths_known_at_solve_are_stated_too() {
        let constraints = [
            Constraint::Length {
                between: [1, 2],
                length_m: 0.9,
                sigma_m: 0.003,
            },
            Constraint::Plane {
                tracks: vec![1, 2, 3, 4],
                sigma_m: 0.01,
            },
        ];
        let all = stated(&Things::default(), &constraints.into_iter().collect());
        assert_eq!(all.len(), 1);
        assert_eq!(all[0].0, OF_CONSTRAINTS + 1);
        assert_eq!(all[0].1.fact.features(), [TrackId(1), TrackId(2)]);
    }
}
