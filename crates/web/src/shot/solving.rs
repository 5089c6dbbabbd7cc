//! What a solve is made from: options from the state, and the fingerprint that tells what is stale.

use crate::said::camera;
use crate::shot::facts::{choices, film_back, following};
use crate::shot::lens;
use crate::shot::tracks::ShotTracks;
use crate::shot::world::orientation_of;
use parallax_core::solve::{Attempt, CameraMove, LensTerms, Readout, Steady, Surveyed};
use parallax_core::spaces::{FrameNumber, TrackId};
use parallax_core::track::matte::Matte;
use parallax_matching::choosing::Choices;
use parallax_matching::solving::{Focal, GivenLens, Solving, Stated};
use parallax_store::ShotState;
use parallax_store::attempts::KeptAttempt;
use parallax_store::constraints::constraints;
use parallax_store::shots::Shot;
use parallax_store::state::{FocalFact, MoreTerms, Steadiness};
use parallax_store::track_runs::NOTHING_FOLLOWED;
use serde_json::json;
use std::collections::{BTreeMap, HashSet};

/// What is known of camera and lens.
pub fn solving(shot: &Shot) -> Solving {
    let s = &shot.state;
    Solving {
        width_px: shot.width_px,
        height_px: shot.height_px,
        frames: shot.plate.count_within(s.range),
        film_back: film_back(shot),
        focal: match s.focal {
            FocalFact::Unknown | FocalFact::Stays | FocalFact::Zooms => Focal::Unknown,
            FocalFact::Mm(mm) => Focal::Mm(mm.into()),
            FocalFact::About { mm, .. } | FocalFact::ZoomsFrom { mm, .. } => Focal::Mm(Stated {
                value: mm,
                sigma: s.focal.sigma_mm(),
            }),
        },
        moves: s.moves,
        zooms: match s.focal {
            FocalFact::Unknown => None,
            FocalFact::Stays | FocalFact::Mm(_) | FocalFact::About { .. } => Some(false),
            FocalFact::Zooms | FocalFact::ZoomsFrom { .. } => Some(true),
        },
        lens: lens::given(shot).map_or(GivenLens::None, GivenLens::Calibrated),
        readout: match (s.readout_ms, s.rate) {
            (Some(0.0), _) => Readout::None,
            (Some(ms), Some(rate)) => Readout::Known(rate.frames_in_ms(ms)),
            (Some(_) | None, _) => Readout::Unknown,
        },
        solve_lens: lens_terms(s),
        steady: steady(shot),
        survey: surveyed(s),
        constraints: constraints(&s.constraints),
        start_from: s.start_from.map(|(a, b)| (FrameNumber(a), FrameNumber(b))),
        limit_px: s.limit_px,
    }
}

/// The same beside an attempt that was solved before: lengths that are stated in metres are those of the
/// artist's world, which that one's orientation tells.
pub fn solving_beside(shot: &Shot, attempt: Option<&Attempt>) -> Solving {
    let solving = solving(shot);
    let oriented = attempt.map(|a| orientation_of(a, shot));
    let scale = match oriented.filter(|o| o.scaled && solving.survey.is_empty()) {
        Some(orientation) => orientation.change.scale,
        None => 1.0,
    };
    Solving {
        steady: solving.steady.map(|steady| steady.in_units(scale)),
        ..solving
    }
}

/// Lens terms that are solved along.
fn lens_terms(s: &ShotState) -> LensTerms {
    if !s.solve_lens {
        return LensTerms::NONE;
    }
    LensTerms {
        radial: if s.lens_terms.k3 { 3 } else { 2 },
        tangential: s.lens_terms.tangential,
        centre: s.lens_terms.centre,
        ..LensTerms::NONE
    }
}

/// How steadily the camera moves, units of the solve's world: as stated in metres, a unit being one until the
/// world has a scale.
fn steady(shot: &Shot) -> Option<Steady> {
    let Steadiness { place_mm, turn_deg } = shot.state.steady;
    let steady = Steady {
        place: place_mm.map(|mm| mm / 1000.0),
        turn_deg,
    };
    steady.any().then_some(steady)
}

/// Surveyed points that have a track: the one that was chosen, else the one of their name.
pub fn surveyed(state: &ShotState) -> Vec<Surveyed> {
    let points = state.survey.iter();
    let pairs = points.filter_map(|point| {
        Some(Surveyed {
            track: TrackId(state.track_of(point)?),
            at_m: point.at_m,
            sigma_m: point.sigma_m,
        })
    });
    pairs.collect()
}

/// What an attempt depends on. Both types are taken apart, so that nothing added to them is
/// forgotten here.
pub fn solve_inputs(shot: &Shot) -> String {
    let s = &shot.state;
    let Solving {
        width_px: _,
        height_px: _,
        // Of the plate and the range, which tracks depend on.
        frames: _,
        film_back,
        focal,
        moves,
        // Said by the fact about the focal length.
        zooms: _,
        lens,
        readout,
        // Said by what is stated about the lens.
        solve_lens: _,
        steady,
        survey,
        constraints,
        start_from,
        limit_px,
    } = solving(shot);
    // The range acts on tracks, whose own inputs hold it.
    let Choices {
        range: _,
        mattes,
        weights,
        culled,
        kept,
    } = choices(s);
    let width = matches!(focal, Focal::Mm(_)).then_some(film_back.width_mm);
    let given = match lens {
        GivenLens::Calibrated(lens) => Some(lens),
        GivenLens::None | GivenLens::OfThisCamera(_) => None,
    };
    let sorted = |ids: HashSet<TrackId>| {
        let mut ids: Vec<u32> = ids.into_iter().map(|id| id.0).collect();
        ids.sort_unstable();
        ids
    };
    let (culled, kept) = (sorted(culled), sorted(kept));
    let mut inputs = json!([
        s.run,
        culled,
        kept,
        s.focal,
        width,
        given,
        s.solve_lens,
        limit_px
    ]);
    let mattes = Matte::in_use(mattes);
    let weights: BTreeMap<u32, f64> = weights.into_iter().map(|(id, w)| (id.0, w)).collect();
    if let Some(list) = inputs.as_array_mut()
        && !(s.hands.is_empty() && mattes.is_empty() && weights.is_empty())
    {
        let hands = s
            .hands
            .iter()
            .map(|h| (h.id, &h.keys, &h.life, h.options()));
        let weights: Vec<(u32, f64)> = weights.into_iter().collect();
        list.push(json!([hands.collect::<Vec<_>>(), mattes, weights]));
    }
    if let Some((moves, list)) = moves.zip(inputs.as_array_mut()) {
        list.push(json!({ "move": moves }));
    }
    if let Some(list) = inputs
        .as_array_mut()
        .filter(|_| readout != Readout::Unknown)
    {
        list.push(json!({ "readout": readout }));
    }
    let more_terms = (s.solve_lens && s.lens_terms != MoreTerms::default()).then_some(s.lens_terms);
    let stated = [
        more_terms.map(|terms| json!({ "terms": terms })),
        steady.map(|steady| json!({ "steady": steady })),
        (!survey.is_empty()).then(|| json!({ "survey": survey })),
        (!constraints.is_empty()).then(|| json!({ "constraints": constraints })),
        start_from.map(|start_from| json!({ "start_from": start_from })),
    ];
    if let Some(list) = inputs.as_array_mut() {
        list.extend(stated.into_iter().flatten());
    }
    inputs.to_string()
}

/// A short name for an attempt: what was known and what was solved.
pub fn attempt_label(shot: &Shot, attempt: &Attempt) -> String {
    let s = &shot.state;
    let focal = match (camera::stated(s.focal), s.focal) {
        (Some(stated), FocalFact::ZoomsFrom { .. }) => stated,
        (Some(stated), _) => format!("focal {stated}"),
        (None, _) if attempt.zooms() => "zoom solved".to_owned(),
        (None, _) => "focal solved".to_owned(),
    };
    let moves = match attempt.moves {
        CameraMove::Free => "",
        CameraMove::Nodal => "turns, ",
        CameraMove::Locked => "rests, ",
    };
    let lens = match (s.solve_lens, lens::given(shot)) {
        (true, _) => ", lens solved",
        (false, Some(_)) => ", lens given",
        (false, None) => "",
    };
    let steady = if attempt.steady.is_some() {
        ", smoothed"
    } else {
        ""
    };
    let survey = if attempt.is_surveyed() {
        ", surveyed"
    } else {
        ""
    };
    let known = if attempt.constraints.iter().any(|miss| miss.used) {
        ", constrained"
    } else {
        ""
    };
    let limit = s
        .limit_px
        .map(|l| format!(", limit {l} px"))
        .unwrap_or_default();
    format!("{moves}{focal}{lens}{survey}{known}{steady}{limit}")
}

/// What of a shot has changed since its current attempt was solved, as sentences.
pub fn stale_since(shot: &Shot, attempt: &KeptAttempt, tracks: &ShotTracks) -> Vec<String> {
    let changed = |inputs: &str| inputs != NOTHING_FOLLOWED && inputs != following(shot).inputs();
    let followed = tracks.run.as_ref().is_some_and(|run| changed(&run.inputs));
    [
        (
            attempt.inputs != solve_inputs(shot),
            "what it was made from (tracks, lens, focal length, film back or other settings) was changed after it",
        ),
        (
            followed,
            "the plate's range or the controls of following were changed after tracking",
        ),
        (
            tracks.waiting > 0,
            "hand tracks were changed and not followed since",
        ),
    ]
    .into_iter()
    .filter(|(holds, _)| *holds)
    .map(|(_, text)| text.to_owned())
    .collect()
}
