//! Lists whose things have ids, so that two people can work on different things of one list.
//!
//! What is added gets an id that no thing of its list has had, but for one whose adding was undone. [`Deeds`] add, change and remove by id; which things a change touched is
//! told by [`touched`], so that an edit is late only where somebody changed the same thing.

use crate::difference::{Difference, Step};
use crate::{Invalid, StoreError};
use serde::{Deserialize, Serialize};
use serde_json::Value;
use std::collections::BTreeSet;
use std::ops::Deref;

/// Something in a list, with its id in the shot.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Thing<T> {
    /// Its id, from 1; 0 in what was not kept yet.
    #[serde(default)]
    pub id: u32,
    /// What it is.
    #[serde(flatten)]
    pub it: T,
}

impl<T> Deref for Thing<T> {
    type Target = T;

    fn deref(&self) -> &T {
        &self.it
    }
}

/// Things in their order, all with ids of their own.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(from = "Vec<Thing<T>>")]
pub struct Things<T>(Vec<Thing<T>>);

impl<T> Default for Things<T> {
    fn default() -> Self {
        Self(Vec::new())
    }
}

impl<T> From<Vec<Thing<T>>> for Things<T> {
    /// Numbers what has no id, as in shots of before there were ids, and what has another's.
    fn from(mut things: Vec<Thing<T>>) -> Self {
        let mut next = things.iter().map(|t| t.id).max().unwrap_or(0);
        let mut taken = BTreeSet::new();
        for thing in &mut things {
            if thing.id == 0 || !taken.insert(thing.id) {
                next = next.saturating_add(1);
                thing.id = next;
                taken.insert(next);
            }
        }
        Self(things)
    }
}

impl<T> FromIterator<T> for Things<T> {
    fn from_iter<I: IntoIterator<Item = T>>(all: I) -> Self {
        let things: Vec<Thing<T>> = all.into_iter().map(|it| Thing { id: 0, it }).collect();
        things.into()
    }
}

impl<T> Deref for Things<T> {
    type Target = [Thing<T>];

    fn deref(&self) -> &[Thing<T>] {
        &self.0
    }
}

impl<T: Clone> Things<T> {
    /// The things without their ids.
    pub fn plain(&self) -> Vec<T> {
        self.0.iter().map(|t| t.it.clone()).collect()
    }
}

/// A list in which several people may work.
struct Listed {
    /// Where it is in the state.
    path: &'static str,
    /// What one of its things is called.
    what: &'static str,
}

const LISTS: [Listed; 7] = [
    Listed {
        path: "lens.straights",
        what: "straight",
    },
    Listed {
        path: "statements",
        what: "statement",
    },
    Listed {
        path: "guests",
        what: "guest",
    },
    Listed {
        path: "recipes",
        what: "recipe",
    },
    Listed {
        path: "survey",
        what: "surveyed point",
    },
    Listed {
        path: "constraints",
        what: "constraint",
    },
    Listed {
        path: "photo.rails",
        what: "rail",
    },
];

fn listed(path: &str) -> Result<&'static Listed, Invalid> {
    let unknown = || Invalid::Unknown {
        at: path.to_owned(),
    };
    LISTS.iter().find(|l| l.path == path).ok_or_else(unknown)
}

fn at<'a>(state: &'a Value, path: &str) -> Option<&'a Value> {
    path.split('.')
        .try_fold(state, |value, name| value.get(name))
}

fn list_mut<'a>(state: &'a mut Value, path: &str) -> Result<&'a mut Vec<Value>, Invalid> {
    path.split('.')
        .try_fold(state, |value, name| value.get_mut(name))
        .and_then(Value::as_array_mut)
        .ok_or_else(|| Invalid::Unknown {
            at: path.to_owned(),
        })
}

/// The first list that a patch replaces: who replaces one has to say what he saw.
pub fn list_in(patch: &Value) -> Option<&'static str> {
    let is_replaced = |list: &&Listed| at(patch, list.path).is_some_and(Value::is_array);
    LISTS.iter().find(is_replaced).map(|list| list.path)
}

/// What is done with the things of one list.
#[derive(Clone, Debug, Default, Deserialize)]
#[serde(default, deny_unknown_fields)]
pub struct Deeds {
    /// New things, without ids.
    pub add: Vec<Value>,
    /// Things as they are to be, with their ids.
    pub change: Vec<Value>,
    /// Ids of what goes; one that is gone already is no error.
    pub remove: Vec<u32>,
}

impl Deeds {
    /// Done in a state as JSON; ids of new things are `next` and on, which moves along.
    pub(crate) fn done(
        &self,
        state: &mut Value,
        path: &str,
        next: &mut u32,
    ) -> Result<(), StoreError> {
        let listed = listed(path)?;
        let list = list_mut(state, path)?;
        for thing in &self.change {
            let id = id_of(thing).ok_or(Invalid::NoId { at: listed.path })?;
            let gone = || StoreError::Missing {
                what: listed.what,
                id: i64::from(id),
            };
            let old = list.iter_mut().find(|t| id_of(t) == Some(id));
            old.ok_or_else(gone)?.clone_from(thing);
        }
        list.retain(|t| id_of(t).is_none_or(|id| !self.remove.contains(&id)));
        for thing in &self.add {
            let mut thing = thing.clone();
            let highest = list.iter().filter_map(id_of).max().unwrap_or(0);
            *next = (*next).max(highest.saturating_add(1));
            let members = thing.as_object_mut();
            let members = members.ok_or(Invalid::NoId { at: listed.path })?;
            members.insert("id".to_owned(), Value::from(*next));
            *next = next.saturating_add(1);
            list.push(thing);
        }
        Ok(())
    }
}

fn id_of(thing: &Value) -> Option<u32> {
    let id = thing.get("id")?.as_u64()?;
    u32::try_from(id).ok().filter(|id| *id > 0)
}

/// What a change touched: outermost members of the state, and things of lists by their ids, as
/// `photo.rails#3`.
pub(crate) fn touched(difference: &Difference, before: &Value, after: &Value) -> Vec<String> {
    let mut out = BTreeSet::new();
    for place in difference.places() {
        let things = LISTS.iter().find(|l| leads_to(place, l.path));
        match (things, place.first()) {
            (Some(list), _) => {
                let (old, new) = (at(before, list.path), at(after, list.path));
                out.extend(differing(old, new).map(|id| format!("{}#{id}", list.path)));
            }
            // The counter of ids is nobody's deed.
            (None, Some(Step::Member(name))) if name != "next_thing" => {
                out.insert(name.clone());
            }
            _ => {}
        }
    }
    out.into_iter().collect()
}

fn leads_to(place: &[Step], path: &str) -> bool {
    let mut steps = place.iter();
    path.split('.')
        .all(|name| steps.next() == Some(&Step::Member(name.to_owned())))
}

/// Ids of things that are in one list only, or not the same in both.
fn differing<'a>(
    old: Option<&'a Value>,
    new: Option<&'a Value>,
) -> impl Iterator<Item = u32> + use<'a> {
    let things = |list: Option<&'a Value>| list.and_then(Value::as_array).into_iter().flatten();
    let of = move |list, id| things(list).find(|t| id_of(t) == Some(id));
    things(old)
        .chain(things(new))
        .filter_map(id_of)
        .filter(move |id| of(old, *id) != of(new, *id))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::ShotState;
    use crate::tests::with_shot;
    use rstest::rstest;
    use serde_json::json;
    use std::collections::BTreeMap;

    fn done(state: &ShotState, list: &str, deeds: Value) -> Result<ShotState, StoreError> {
        let deeds: Deeds = serde_json::from_value(deeds).unwrap();
        state.changed(&json!({}), &BTreeMap::from([(list.to_owned(), deeds)]))
    }

    fn rail(x: f64) -> Value {
        json!({ "axis": "x", "a": [x, 2.0], "b": [30.0, 4.0] })
    }

    fn ids(state: &ShotState) -> Vec<u32> {
        state.photo.rails.iter().map(|r| r.id).collect()
    }

    #[test]
    fn ids_are_never_given_twice() {
        let state = ShotState::new(640, 360);
        let three = json!({ "add": [rail(1.0), rail(2.0), rail(3.0)] });
        let state = done(&state, "photo.rails", three).unwrap();
        assert_eq!(ids(&state), [1, 2, 3]);
        let state = done(&state, "photo.rails", json!({ "remove": [3, 1] })).unwrap();
        let state = done(&state, "photo.rails", json!({ "add": [rail(4.0)] })).unwrap();
        assert_eq!(ids(&state), [2, 4]);
    }

    #[test]
    fn a_thing_is_changed_by_its_id_wherever_it_stands() {
        let state = ShotState::new(640, 360);
        let two = json!({ "add": [rail(1.0), rail(2.0)] });
        let state = done(&state, "photo.rails", two).unwrap();
        let mut moved = rail(9.0);
        moved["id"] = json!(2);
        let both = json!({ "change": [moved], "remove": [1] });
        let state = done(&state, "photo.rails", both).unwrap();
        assert_eq!((ids(&state), state.photo.rails[0].a.x), (vec![2], 9.0));
    }

    #[rstest]
    #[case::gone("photo.rails", json!({ "change": [{ "id": 7, "axis": "x", "a": [1, 2], "b": [3, 4] }] }))]
    #[case::no_id("photo.rails", json!({ "change": [{ "axis": "x", "a": [1, 2], "b": [3, 4] }] }))]
    #[case::no_rail("photo.rails", json!({ "add": [{ "axis": "w" }] }))]
    #[case::no_object("photo.rails", json!({ "add": [7] }))]
    #[case::more_than_a_rail("photo.rails", json!({ "add": [{ "axis": "x", "a": [1, 2], "b": [3, 4], "c": 1 }] }))]
    #[case::no_list("focal", json!({ "remove": [1] }))]
    #[case::no_statement("statements", json!({ "add": [{ "kind": "origin", "at": "a" }] }))]
    fn what_cannot_be_done_is_refused(#[case] list: &str, #[case] deeds: Value) {
        let state = ShotState::new(640, 360);
        assert!(done(&state, list, deeds).is_err());
    }

    #[test]
    fn lists_of_before_there_were_ids_are_numbered_the_same_each_time() {
        let mut old = serde_json::to_value(ShotState::new(640, 360)).unwrap();
        old["photo"]["rails"] = json!([rail(1.0), rail(2.0)]);
        let read = || serde_json::from_value::<ShotState>(old.clone()).unwrap();
        assert_eq!(ids(&read()), [1, 2]);
        assert_eq!(read(), read());
    }

    #[test]
    fn what_was_touched_is_told_thing_by_thing() {
        let state = ShotState::new(640, 360);
        let two = json!({ "add": [rail(1.0), rail(2.0)] });
        let before = done(&state, "photo.rails", two).unwrap();
        let after = done(&before, "photo.rails", json!({ "remove": [1] })).unwrap();
        let after = ShotState {
            grid_m: 2.0,
            ..after
        };
        let [before, after] = [before, after].map(|s| serde_json::to_value(s).unwrap());
        let difference = Difference::between(&before, &after);
        assert_eq!(
            touched(&difference, &before, &after),
            ["grid_m", "photo.rails#1"]
        );
    }

    /// Two who work on different things of one list do not stop each other; on the same thing they do.
    #[tokio::test]
    async fn things_of_one_list_are_late_one_by_one() {
        let folder = tempfile::tempdir().unwrap();
        let (store, shot) = with_shot(folder.path()).await;
        let rail =
            |id: u32, x: f64| json!({ "id": id, "axis": "x", "a": [x, 2.0], "b": [300.0, 4.0] });
        let done = async |on: i64, deeds: serde_json::Value| {
            let deeds = BTreeMap::from([(
                "photo.rails".to_owned(),
                serde_json::from_value(deeds).unwrap(),
            )]);
            store
                .edit_on(shot, "move a rail", Some(on), |s| {
                    s.changed(&json!({}), &deeds)
                })
                .await
        };
        let new = json!({ "add": [rail(0, 1.0), rail(0, 2.0)] });
        done(0, new).await.unwrap();
        let seen = store.shot(shot).await.unwrap().version;
        done(seen, json!({ "change": [rail(1, 7.0)] }))
            .await
            .unwrap();
        // Another thing, and a new one.
        done(
            seen,
            json!({ "change": [rail(2, 8.0)], "add": [rail(0, 3.0)] }),
        )
        .await
        .unwrap();
        let late = done(seen, json!({ "change": [rail(1, 9.0)] })).await;
        assert!(matches!(late, Err(StoreError::Late { .. })), "{late:?}");
        let late = done(seen, json!({ "remove": [2] })).await;
        assert!(matches!(late, Err(StoreError::Late { .. })), "{late:?}");
        let kept: Vec<(u32, f64)> = store
            .shot(shot)
            .await
            .unwrap()
            .state
            .photo
            .rails
            .iter()
            .map(|r| (r.id, r.a.x))
            .collect();
        assert_eq!(kept, [(1, 7.0), (2, 8.0), (3, 3.0)]);
    }
}
