//! Sentences about a solved camera: what speaks for and against it, and what mends it.

use super::beside;
use crate::said::camera;
use crate::said::finding::Shows;
use crate::said::finding::{Finding, Remedy, finding};
use crate::said::words::several;
use crate::said::words::{error_alone, sentence};
use crate::shot::everything::Everything;
use crate::shot::facts::name_of;
use crate::shot::{facts, solving};
use parallax_core::plate::FilmBack;
use parallax_core::solve::locked::FAR;
use parallax_core::solve::world::FEWEST_SIGHTS;
use parallax_core::solve::{Attempt, Body, CameraMove, Doubt, LensSuspicion, SetAside, Tried};
use parallax_store::state::FocalFact;
use serde_json::json;

/// Doubts that have a finding of their own, with evidence and remedy.
fn is_said_below(doubt: &Doubt) -> bool {
    matches!(
        doubt,
        Doubt::LensLeftOut
            | Doubt::LittleParallax { .. }
            | Doubt::FocalUncertain { .. }
            | Doubt::FewFeatures { .. }
            | Doubt::Rival { .. }
    )
}

/// What changed of what the current attempt was made from.
fn changed(all: &Everything) -> Vec<&'static str> {
    let kept = all.attempt.as_ref().map_or("", |a| &a.inputs);
    beside::differs(&solving::solve_inputs(&all.shot), kept)
}

/// All that can be said of an attempt.
pub fn findings(all: &Everything) -> Vec<Finding> {
    let Some(kept) = &all.attempt else {
        return Vec::new();
    };
    let other = other_focal_of_attempt(all).map(|(stated_mm, solved)| {
        let text = format!("{stated_mm} mm is stated now; this attempt has {solved}.");
        finding("solve", "warn", text)
    });
    let stale = kept.inputs != solving::solve_inputs(&all.shot);
    let mut out: Vec<Finding> = other.into_iter().collect();
    out.extend(of_attempt(all, &kept.attempt, stale));
    out
}

/// Whether the current attempt was made with another focal length than the one stated now.
fn other_focal_of_attempt(all: &Everything) -> Option<(f64, String)> {
    // One that is stated with an error may come out another.
    let FocalFact::Mm(stated_mm) = all.shot.state.focal else {
        return None;
    };
    let (kept, back) = (all.attempt.as_ref()?, facts::film_back(&all.shot));
    let mm = back.focal_mm(kept.attempt.lens.focal_px, kept.attempt.lens.width_px);
    let differs = (mm / stated_mm - 1.0).abs() > 1e-6 || kept.attempt.zooms();
    differs.then(|| (stated_mm, camera::focal_of(&kept.attempt, &back)))
}

fn of_attempt(all: &Everything, a: &Attempt, stale: bool) -> Vec<Finding> {
    let state = &all.shot.state;
    let mut out = Vec::new();
    let has_lens = !a.lens.distortion.is_none();
    if stale {
        out.push(finding(
            "solve",
            "warn",
            format!(
                "Changed since this attempt: {}. Solve again.",
                changed(all).join(", ")
            ),
        ));
    }
    out.extend(
        a.lens_suspicion
            .map(|lens| suspected_lens(a, &lens, has_lens)),
    );
    out.extend(
        a.doubts
            .iter()
            .filter(|doubt| !is_said_below(doubt))
            .map(|doubt| of_doubt(doubt, all.shot.state.focal)),
    );
    out.extend(of_bodies(a));
    let against = a
        .set_aside
        .iter()
        .filter(|(_, why)| *why == SetAside::AgainstTheScene)
        .count();
    if against > 0 {
        out.push(finding(
            "solve",
            "warn",
            match against {
                1 => "1 feature does not move as the scene does (it slips or moves by itself) and takes no part.".to_owned(),
                n => format!("{n} features do not move as the scene does (they slip or move by themselves) and take no part."),
            },
        ));
    }
    let worst = a.landmarks.iter();
    if let Some(worst) = worst.max_by(|x, y| x.rms_px.total_cmp(&y.rms_px)) {
        let (name, px) = (name_of(state, worst.track), worst.rms_px);
        let farthest = worst.residuals_px.iter();
        let farthest = farthest.max_by(|x, y| x.1.total_cmp(&y.1));
        let text = format!("Worst feature: {name} with {px:.2} px.");
        out.push(finding("solve", "ok", text).showing(Shows {
            track: Some(worst.track.0),
            frame: farthest.map(|r| r.0.0),
            ..Shows::default()
        }));
    }
    // Frames that stand on those around them are said apart.
    let are_carried = a.doubts.iter().any(|d| matches!(d, Doubt::Carried { .. }));
    let least = if are_carried { FEWEST_SIGHTS } else { 0 };
    let standing = a.frames.iter().filter(|f| f.features >= least);
    let weak = standing.min_by_key(|f| f.features);
    if let Some(weak) = weak.filter(|f| f.features < 20) {
        let features = several(weak.features, "feature", "features");
        let text = format!(
            "Frame {} rests on {features} only. Add features there.",
            weak.frame
        );
        out.push(finding("solve", "bad", text).showing(Shows {
            frame: Some(weak.frame.0),
            ..Shows::default()
        }));
    }
    out.push(of_move(a));
    out.extend(of_focal(a, &facts::film_back(&all.shot)));
    out.push(finding(
        "solve",
        "ok",
        match a.started_from {
            (first, second) if first == second => format!("Begun from frame {first}."),
            (first, second) => format!("Begun from frames {first} and {second}."),
        },
    ));
    out
}

fn suspected_lens(a: &Attempt, lens: &LensSuspicion, has_lens: bool) -> Finding {
    // The robust fit improves by far more than chance even where the root mean square hardly moves.
    let residual = if lens.rms_px < 0.98 * a.rms_px {
        format!(
            "the residual falls from {:.3} to {:.3} px",
            a.rms_px, lens.rms_px
        )
    } else {
        format!(
            "the features fit better, with a residual of {:.3} px",
            lens.rms_px
        )
    };
    let what = if has_lens {
        "The lens that was given leaves bending that it does not explain"
    } else {
        "The lens bends the picture and this solve does not know"
    };
    let text = format!(
        "{what}: with k1 = {:.4}, k2 = {:.4} {}({:.1} px in the corner) {residual} and the focal length changes by {:+.2} %.",
        lens.k1,
        lens.k2,
        if has_lens { "on top of it " } else { "" },
        lens.corner_px,
        100.0 * (lens.focal_px / a.lens.focal_px - 1.0)
    );
    let remedy = Remedy {
        label: "Solve the lens along",
        edit: json!({ "solve_lens": true }),
        things: None,
        work: Some("solve_again"),
    };
    finding("solve", "warn", text).mended_by(Some(remedy))
}

/// The other things that move rigidly, each with its tracks to be seen, kept or dropped.
fn of_bodies(a: &Attempt) -> Vec<Finding> {
    let is_rival = a.doubts.iter().any(|d| matches!(d, Doubt::Rival { .. }));
    let Some((scene, others)) = a.bodies.split_first() else {
        return Vec::new();
    };
    let one = |(k, body): (usize, &Body)| {
        let covers = format!(
            "{} over {:.0} % of the picture",
            several(body.tracks.len(), "track", "tracks"),
            100.0 * body.cover
        );
        let (level, text) = match is_rival && k == 0 {
            true => (
                "warn",
                format!(
                    "Two things move rigidly and either may be the scene. Solved is the one with {} tracks over {:.0} % of the picture; the other has {covers}. Set the other aside if it moves by itself, or take it as the scene.",
                    scene.tracks.len(),
                    100.0 * scene.cover
                ),
            ),
            false => (
                "ok",
                format!("Something else moves rigidly: {covers}. It takes no part."),
            ),
        };
        let tracks: Vec<u32> = body.tracks.iter().map(|t| t.0).collect();
        let own = scene.tracks.iter().map(|t| t.0);
        let instead_of = own.filter(|id| !tracks.contains(id)).collect();
        finding("solve", level, text)
            .about(tracks)
            .instead_of(instead_of)
    };
    others.iter().enumerate().map(one).collect()
}

/// How the camera moves, and what speaks for it.
fn of_move(a: &Attempt) -> Finding {
    let against = |is_other: &dyn Fn(&Tried) -> bool| {
        let others = a.tried.iter().filter(|t| is_other(t));
        others.min_by(|x, y| x.behind.total_cmp(&y.behind))
    };
    match a.moves {
        CameraMove::Free => {
            let (level, word) = if a.parallax_deg >= 2.0 {
                ("ok", "Parallax is ample")
            } else {
                ("warn", "There is little parallax")
            };
            let turning = against(&|t| t.moves == CameraMove::Nodal)
                .map_or_else(String::new, |t| {
                    format!(" Turning alone explains {}.", explained(t))
                });
            let text = format!(
                "{word}: median angle {:.1}° between the rays of a feature.{turning}",
                a.parallax_deg
            );
            finding("solve", level, text)
        }
        CameraMove::Nodal => {
            let rest = match against(&|t| t.moves == CameraMove::Free) {
                Some(free) => format!(
                    " A camera that travels explains {}, which is no better for what it costs.",
                    explained(free)
                ),
                None => " No parallax is left.".to_owned(),
            };
            let text = format!(
                "The camera turns on the spot: that alone leaves {:.2} px.{rest} Landmarks are directions, {} units away.",
                a.rms_px, FAR
            );
            finding("solve", "ok", text)
        }
        CameraMove::Locked => {
            let text = match a.zooms() {
                true => format!(
                    "The camera rests and zooms: that alone leaves {:.2} px. Its focal lengths follow from the one that is stated of the first frame. Landmarks are directions, {} units away.",
                    a.rms_px, FAR
                ),
                false => format!(
                    "The camera rests: features stay within {:.2} px of one place. Landmarks are directions, {} units away.",
                    a.rms_px, FAR
                ),
            };
            finding("solve", "ok", text)
        }
    }
}

fn explained(tried: &Tried) -> String {
    format!(
        "{:.0} % of the positions, with {:.2} px",
        100.0 * tried.share,
        tried.rms_px
    )
}

/// Whether the focal length changes, what speaks for it, and how certain it is.
fn of_focal(a: &Attempt, back: &FilmBack) -> Vec<Finding> {
    let mut out = Vec::new();
    if let Some((shortest, longest)) = camera::focal_range_mm(a, back) {
        let fixed = a.tried.iter().find(|t| t.moves == a.moves && !t.zooms);
        let without = fixed.map_or_else(String::new, |t| {
            format!(
                " One focal length for all frames explains {}.",
                explained(t)
            )
        });
        let text = format!(
            "The focal length changes, between {shortest:.2} and {longest:.2} mm.{without}"
        );
        out.push(finding("solve", "ok", text));
    }
    if let Some((focal_px, sigma_px)) = camera::vaguest_focal_px(a) {
        let percent = 100.0 * sigma_px / focal_px;
        let level = if percent < 1.0 { "ok" } else { "warn" };
        let least = if a.zooms() {
            " where it is known least"
        } else {
            ""
        };
        let slip = a.slip_px.map_or_else(String::new, |px| {
            format!("; CG of true proportions slips by {px:.2} px for it")
        });
        let text = format!(
            "Focal length is certain to {} (one standard error){least}{slip}.",
            error_alone(percent, " %")
        );
        out.push(finding("solve", level, text));
    }
    out
}

/// A doubt that has no finding of its own, with what mends it.
fn of_doubt(doubt: &Doubt, stated: FocalFact) -> Finding {
    let mend = match (doubt, stated, stated.mm()) {
        (Doubt::FocalChanges { .. }, ..) => {
            Some(("Let the focal length change", json!({ "focal": "zooms" })))
        }
        (Doubt::MayRestAndZoom { .. }, _, Some(mm)) => {
            let focal = FocalFact::ZoomsFrom {
                mm,
                sigma_mm: stated.sigma_mm(),
            };
            Some((
                "Let it rest and zoom from the stated focal length",
                json!({ "focal": focal, "moves": null }),
            ))
        }
        (Doubt::FocalContradicted { .. }, FocalFact::ZoomsFrom { .. }, _) => Some((
            "Solve the focal length instead",
            json!({ "focal": "zooms" }),
        )),
        (Doubt::FocalContradicted { .. }, ..) => Some((
            "Solve the focal length instead",
            json!({ "focal": "unknown" }),
        )),
        _ => None,
    };
    let remedy = mend.map(|(label, edit)| Remedy {
        label,
        edit,
        things: None,
        work: Some("solve"),
    });
    let frame = match doubt {
        Doubt::Carried { first, .. } => Some(first.0),
        Doubt::Jumps { before, .. } => Some(before.0),
        _ => None,
    };
    let text = sentence(doubt);
    let found = finding("solve", "warn", text).mended_by(remedy);
    match frame {
        Some(_) => found.showing(Shows {
            frame,
            ..Shows::default()
        }),
        None => found,
    }
}
