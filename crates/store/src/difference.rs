//! What differs between two states, so that an edit keeps that and not the whole twice.
//!
//! States are JSON. A difference is a list of places, each with what stood there and what stands
//! there now: a member of an object, an element of a list that keeps its length, or a run of
//! elements where a list grows or shrinks (what both ends have in common is left out). It leads
//! forwards and backwards; applied where something else stands than it says, it is refused and
//! nothing changes.

use serde::{Deserialize, Serialize};
use serde_json::Value;

/// One step on the way to a place.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(untagged)]
pub enum Step {
    /// A member of an object.
    Member(String),
    /// An element of a list.
    Element(usize),
}

/// What differs at one place.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
enum What {
    /// One value instead of another; nothing where a member is not there.
    #[serde(rename = "is")]
    Value(
        #[serde(with = "there")] Option<Value>,
        #[serde(with = "there")] Option<Value>,
    ),
    /// From an element on, some elements instead of others.
    Run(usize, Vec<Value>, Vec<Value>),
}

/// A value that may not be there, told from one that is null.
mod there {
    use super::{Deserialize, Serialize, Value};

    pub fn serialize<S: serde::Serializer>(v: &Option<Value>, to: S) -> Result<S::Ok, S::Error> {
        v.iter().collect::<Vec<_>>().serialize(to)
    }

    pub fn deserialize<'de, D: serde::Deserializer<'de>>(
        from: D,
    ) -> Result<Option<Value>, D::Error> {
        Ok(Vec::<Value>::deserialize(from)?.into_iter().next())
    }
}

#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
struct Place {
    at: Vec<Step>,
    what: What,
}

/// What differs between two states.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
#[serde(transparent)]
pub struct Difference(Vec<Place>);

/// What stands at a place now: the path to it, and there the value (`null` where there is none any more), or
/// the first element of a run, how many go and what comes in their place.
#[derive(Debug, Serialize)]
#[serde(untagged)]
pub enum Onward<'a> {
    /// One value.
    Is(&'a [Step], Option<&'a Value>),
    /// Some elements instead of others.
    Run(&'a [Step], usize, usize, &'a [Value]),
}

/// Which way a difference is applied.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Way {
    /// From the earlier to the later state.
    Forwards,
    /// Back.
    Backwards,
}

impl Difference {
    /// What differs between an earlier and a later state.
    pub fn between(before: &Value, after: &Value) -> Self {
        let mut places = Vec::new();
        compare(before, after, &mut Vec::new(), &mut places);
        Self(places)
    }

    /// Whether nothing differs.
    pub fn is_empty(&self) -> bool {
        self.0.is_empty()
    }

    /// The places that differ.
    pub fn places(&self) -> impl Iterator<Item = &[Step]> {
        self.0.iter().map(|place| place.at.as_slice())
    }

    /// The same one way only, for whoever has the earlier state.
    pub fn onwards(&self) -> Vec<Onward<'_>> {
        let mut out = Vec::new();
        for place in &self.0 {
            out.push(match &place.what {
                What::Value(_, now) => Onward::Is(&place.at, now.as_ref()),
                What::Run(first, before, now) => Onward::Run(&place.at, *first, before.len(), now),
            });
        }
        out
    }

    /// The state on the other side; `None` where the given one is not what the difference is of.
    pub fn applied(&self, state: &Value, way: Way) -> Option<Value> {
        let mut next = state.clone();
        let forwards = way == Way::Forwards;
        let places: Box<dyn Iterator<Item = &Place>> = if forwards {
            Box::new(self.0.iter())
        } else {
            Box::new(self.0.iter().rev())
        };
        for Place { at, what } in places {
            match what {
                What::Value(before, after) => {
                    let (from, to) = if forwards {
                        (before, after)
                    } else {
                        (after, before)
                    };
                    put(&mut next, at, from.as_ref(), to.as_ref())?;
                }
                What::Run(first, before, after) => {
                    let (from, to) = if forwards {
                        (before, after)
                    } else {
                        (after, before)
                    };
                    let list = found(&mut next, at)?.as_array_mut()?;
                    let end = first.checked_add(from.len())?;
                    if list.get(*first..end)? != from.as_slice() {
                        return None;
                    }
                    list.splice(*first..end, to.iter().cloned());
                }
            }
        }
        Some(next)
    }
}

fn compare(before: &Value, after: &Value, at: &mut Vec<Step>, out: &mut Vec<Place>) {
    match (before, after) {
        _ if before == after => {}
        (Value::Object(old), Value::Object(new)) => {
            let gone = old.keys().filter(|key| !new.contains_key(*key));
            for key in new.keys().chain(gone) {
                at.push(Step::Member(key.clone()));
                match (old.get(key), new.get(key)) {
                    (Some(a), Some(b)) => compare(a, b, at, out),
                    (a, b) => {
                        let what = What::Value(a.cloned(), b.cloned());
                        out.push(Place {
                            at: at.clone(),
                            what,
                        });
                    }
                }
                at.pop();
            }
        }
        (Value::Array(old), Value::Array(new)) if old.len() == new.len() => {
            for (k, (a, b)) in old.iter().zip(new).enumerate() {
                at.push(Step::Element(k));
                compare(a, b, at, out);
                at.pop();
            }
        }
        (Value::Array(old), Value::Array(new)) => {
            let same = |(a, b): &(&Value, &Value)| a == b;
            let first = old.iter().zip(new).take_while(same).count();
            let (a, b) = (&old[first..], &new[first..]);
            let last = a.iter().rev().zip(b.iter().rev()).take_while(same).count();
            let run = |list: &[Value]| list[..list.len() - last].to_vec();
            out.push(Place {
                at: at.clone(),
                what: What::Run(first, run(a), run(b)),
            });
        }
        _ => {
            let what = What::Value(Some(before.clone()), Some(after.clone()));
            out.push(Place {
                at: at.clone(),
                what,
            });
        }
    }
}

fn found<'a>(state: &'a mut Value, at: &[Step]) -> Option<&'a mut Value> {
    at.iter().try_fold(state, |value, step| match step {
        Step::Member(name) => value.as_object_mut()?.get_mut(name),
        Step::Element(k) => value.as_array_mut()?.get_mut(*k),
    })
}

/// Puts one value in the place of another; `None` where another stands there.
fn put(state: &mut Value, at: &[Step], from: Option<&Value>, to: Option<&Value>) -> Option<()> {
    let Some((last, before)) = at.split_last() else {
        return match (from, to) {
            (Some(from), Some(to)) if state == from => {
                *state = to.clone();
                Some(())
            }
            _ => None,
        };
    };
    let holder = found(state, before)?;
    match last {
        Step::Element(k) => {
            let element = holder.as_array_mut()?.get_mut(*k)?;
            if Some(&*element) != from {
                return None;
            }
            *element = to?.clone();
        }
        Step::Member(name) => {
            let members = holder.as_object_mut()?;
            if members.get(name) != from {
                return None;
            }
            match to {
                Some(to) => members.insert(name.clone(), to.clone()),
                None => members.remove(name),
            };
        }
    }
    Some(())
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;
    use serde_json::json;

    fn state() -> impl Strategy<Value = Value> {
        let leaf = prop_oneof![
            Just(Value::Null),
            any::<bool>().prop_map(Value::from),
            (-1000i64..1000).prop_map(Value::from),
            (-1e3..1e3f64).prop_map(Value::from),
            "[a-c]{0,3}".prop_map(Value::from),
        ];
        leaf.prop_recursive(4, 40, 6, |inner| {
            prop_oneof![
                prop::collection::vec(inner.clone(), 0..6).prop_map(Value::from),
                prop::collection::btree_map("[a-d]", inner, 0..5)
                    .prop_map(|m| Value::Object(m.into_iter().collect())),
            ]
        })
    }

    proptest! {
        /// There and back, also after it was kept as text.
        #[test]
        fn a_difference_leads_both_ways(before in state(), after in state()) {
            let difference = Difference::between(&before, &after);
            let text = serde_json::to_string(&difference).unwrap();
            let kept: Difference = serde_json::from_str(&text).unwrap();
            prop_assert_eq!(&kept, &difference);
            prop_assert_eq!(kept.applied(&before, Way::Forwards), Some(after.clone()));
            prop_assert_eq!(kept.applied(&after, Way::Backwards), Some(before.clone()));
            prop_assert_eq!(difference.is_empty(), before == after);
        }
    }

    #[test]
    fn one_element_of_many_is_kept_alone() {
        let many = |more: &[i32]| json!({ "list": (0..500).chain(more.iter().copied()).collect::<Vec<_>>(), "a": 1 });
        let difference = Difference::between(&many(&[]), &many(&[7]));
        assert!(serde_json::to_string(&difference).unwrap().len() < 60);
        assert!(
            difference
                .places()
                .all(|at| at[0] == Step::Member("list".to_owned()))
        );
    }

    #[test]
    fn what_is_not_there_any_more_is_refused() {
        let difference = Difference::between(&json!({ "a": [1, 2] }), &json!({ "a": [1] }));
        assert_eq!(
            difference.applied(&json!({ "a": [1, 3] }), Way::Forwards),
            None
        );
        let difference = Difference::between(&json!({ "a": 1 }), &json!({ "a": null }));
        assert_eq!(difference.applied(&json!({ "a": 2 }), Way::Forwards), None);
    }
}
