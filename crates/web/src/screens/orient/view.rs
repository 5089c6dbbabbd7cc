//! How far the Orient station is, and what is said there.

use super::statements;
use crate::said::finding::{Finding, Remedy, Shows, finding};
use crate::said::standing::Standing;
use crate::said::standing::Station;
use crate::said::words::error_alone;
use crate::shot::everything::Everything;
use parallax_core::orient::{Fact, Off, Orientation, Statement, Unused};
use serde_json::json;

/// The station, which rests on the solve.
pub fn station(all: &Everything, solve: Standing) -> Station {
    let (standing, figure) = match &all.orientation {
        None => (Standing::NotBegun, "–".to_owned()),
        Some(o) if !o.contradicting().is_empty() => {
            (Standing::NeedsALook, "contradiction".to_owned())
        }
        Some(o) if o.unused().count() > 0 => (Standing::NeedsALook, "not heard".to_owned()),
        Some(o) if !o.levelled && !o.scaled => (Standing::NotBegun, "–".to_owned()),
        Some(_) if solve == Standing::Stale => (Standing::Stale, "stale".to_owned()),
        Some(o) if o.levelled && o.scaled => (Standing::Good, "metre".to_owned()),
        Some(o) => (
            Standing::InWork,
            if o.levelled { "no scale" } else { "not level" }.to_owned(),
        ),
    };
    Station::new("orient", "Orient", standing, figure)
}

/// What is said of the world.
pub fn findings(all: &Everything) -> Vec<Finding> {
    let Some(o) = &all.orientation else {
        return vec![finding(
            "orient",
            "warn",
            "Solve first: there are no landmarks to state anything of yet.".to_owned(),
        )];
    };
    let is_surveyed = all.attempt.as_ref();
    let is_surveyed = is_surveyed.is_some_and(|a| a.attempt.is_surveyed());
    let mut out = match is_surveyed {
        true => surveyed(all),
        false => missing(o),
    };
    out.extend(trouble(all, o));
    out.extend(certain(o));
    out
}

/// What is still to be stated.
fn missing(o: &Orientation) -> Vec<Finding> {
    let level = (!o.levelled).then_some(
        "Nothing says which way is up: state the ground, a plumb edge, or take what is proposed.",
    );
    let scale = (!o.scaled).then_some(
        "Nothing says how large the world is: select two features a known distance apart and state the length.",
    );
    let all = [level, scale].into_iter().flatten();
    all.map(|text| finding("orient", "warn", text.to_owned()))
        .collect()
}

/// Statements that are not heard or do not agree.
fn trouble(all: &Everything, o: &Orientation) -> Vec<Finding> {
    let stated = all.shot.state.stated();
    let of = |id: u32| stated.iter().find(|(own, _)| *own == id).map(|(_, s)| s);
    let named = |id: u32, s: &Statement| {
        let fact = statements::stated(&all.shot.state, &s.fact);
        format!("{} ({fact})", statements::number(id))
    };
    let mut out = Vec::new();
    let against: Vec<String> = o
        .contradicting()
        .into_iter()
        .filter_map(|id| Some(named(id, of(id)?)))
        .collect();
    match &against[..] {
        [] => {}
        [one] => out.push(finding(
            "orient",
            "bad",
            format!(
                "{one} contradicts the others: without it they agree. Mend it or switch it off."
            ),
        )),
        many => out.push(finding(
            "orient",
            "bad",
            format!(
                "These do not agree: {}. Mend one or switch it off.",
                many.join("; ")
            ),
        )),
    }
    for miss in &o.misses {
        let Some(statement) = of(miss.id) else {
            continue;
        };
        let said = named(miss.id, statement);
        match &miss.off {
            Off::Unused(why @ Unused::OnABody) => {
                out.push(finding("orient", "ok", format!("{said}: {why}.")));
            }
            Off::Unused(why) => out.push(
                finding("orient", "bad", format!("{said} is not heard: {why}."))
                    .mended_by(switched_off(miss.id, statement)),
            ),
            Off::Flat(_, Some((track, _))) => {
                let name = crate::shot::facts::name_of(&all.shot.state, *track);
                let shows = Shows {
                    track: Some(track.0),
                    ..Shows::default()
                };
                let text = format!(
                    "{name} lies far off {said}; it hardly counts. Is it on another surface?"
                );
                out.push(
                    finding("orient", "warn", text)
                        .showing(shows)
                        .mended_by(without(miss.id, statement, track.0)),
                );
            }
            Off::Flat(..) | Off::Degrees(_) | Off::Length(_) | Off::Exact => {}
        }
    }
    out
}

/// How certain the world's place is.
fn certain(o: &Orientation) -> Option<Finding> {
    let degrees = |what: &str, sigma: Option<f64>| {
        sigma.map(|s| format!("{what} is certain to {}", error_alone(s, "°")))
    };
    let said: Vec<String> = [
        degrees("up", o.up_sigma_deg),
        degrees("the heading", o.heading_sigma_deg),
        o.scale_share_sigma
            .map(|s| format!("the scale to {}", error_alone(100.0 * s, " %"))),
    ]
    .into_iter()
    .flatten()
    .collect();
    (!said.is_empty()).then(|| {
        let text = crate::said::words::capital(&said.join(", "));
        let trusts = "as far as the solve is right and what is stated is true";
        finding("orient", "ok", format!("{text}, {trusts}."))
    })
}

fn switched_off(id: u32, statement: &Statement) -> Option<Remedy> {
    let changed = Statement {
        off: true,
        ..statement.clone()
    };
    changed_to("Switch it off", id, &changed)
}

/// A plane's statement without one of its features.
fn without(id: u32, statement: &Statement, track: u32) -> Option<Remedy> {
    let mut changed = statement.clone();
    if let Fact::Plane { on, .. } = &mut changed.fact {
        on.retain(|own| own.0 != track);
    }
    changed_to("Take it off", id, &changed)
}

fn changed_to(label: &'static str, id: u32, statement: &Statement) -> Option<Remedy> {
    let mut thing = serde_json::to_value(statement).ok()?;
    thing["id"] = json!(id);
    let own = id < parallax_store::statements::OF_CONSTRAINTS;
    own.then(|| Remedy {
        label,
        edit: json!({}),
        things: Some(json!({ "statements": { "change": [thing] } })),
        work: None,
    })
}

/// What is said at Orient of a world that a survey holds.
fn surveyed(all: &Everything) -> Vec<Finding> {
    let misses = all.attempt.iter().flat_map(|a| &a.attempt.survey);
    let used: Vec<f64> = misses
        .filter(|m| m.used)
        .map(|m| m.distance_m().powi(2))
        .collect();
    let rms_mm = 1000.0 * (used.iter().sum::<f64>() / used.len().max(1) as f64).sqrt();
    let held = finding(
        "orient",
        "ok",
        format!(
            "The survey holds the world: it is upright and in metres. {} points are missed by {rms_mm:.1} mm (rms).",
            used.len()
        ),
    );
    let own: Vec<u32> = all.shot.state.statements.iter().map(|s| s.id).collect();
    if own.is_empty() {
        return vec![held];
    }
    let stated = finding(
        "orient",
        "warn",
        "What is stated here as well is laid over the survey. Remove it to stand in its coordinates.".to_owned(),
    );
    let clear = Remedy {
        label: "Remove what is stated",
        edit: json!({}),
        things: Some(json!({ "statements": { "remove": own } })),
        work: None,
    };
    vec![held, stated.mended_by(Some(clear))]
}
