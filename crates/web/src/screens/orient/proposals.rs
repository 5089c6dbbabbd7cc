//! What landmarks and pictures propose about the world, in words, to be taken with one click.

use super::statements::stated;
use crate::app::App;
use crate::error::ApiError;
use crate::said::words::short;
use crate::shot::world::current_world;
use actix_web::{HttpResponse, web};
use parallax_core::orient::propose::edges;
use parallax_core::orient::{Evidence, Fact, Pictured, Proposal, Solved, propose};
use parallax_store::ShotState;
use serde_json::{Value, json};

/// The proposals of the current attempt, the surest first; each a fact as it would be stated.
pub async fn proposals(
    app: web::Data<App>,
    shot: web::Path<i64>,
) -> Result<HttpResponse, ApiError> {
    let (shot, kept, now) = current_world(&app, *shot).await?;
    let unit = now.scaled.then_some(now.change.scale);
    let stated = shot.state.stated();
    let mut pictures = Vec::new();
    for frame in edges::worth_a_look(&Solved::of_attempt(&kept.attempt, None)) {
        // A frame that cannot be read shows no edges.
        pictures.extend((app.grey(&shot, frame.0).await.ok()).map(|picture| (frame, picture)));
    }
    let found = web::block(move || {
        let solved = Solved::of_attempt(&kept.attempt, None);
        let edges = pictures.iter().map(|(frame, picture)| Pictured {
            frame: *frame,
            edges: edges::edges_of(picture),
        });
        let edges: Vec<Pictured> = edges.collect();
        (propose(&solved, &edges, &stated), solved.depth)
    });
    let (found, depth) = found.await?;
    let depth_m = unit.map(|u| u * depth);
    let all: Vec<Value> = found
        .chunk_by(|a, b| is_same_way(&a.fact, &b.fact))
        .map(|together| told(&shot.state, together, depth_m))
        .collect();
    let said = match found.iter().any(|p| p.sure) {
        true => "",
        false if found.is_empty() => {
            "Landmarks show no ground and no walls, and edges no direction. State what you know."
        }
        false => "None of these is certain. Look before you take one.",
    };
    Ok(HttpResponse::Ok().json(json!({ "proposals": all, "said": said })))
}

/// Edges that run the same way are taken together.
fn is_same_way(one: &Fact, other: &Fact) -> bool {
    match (one, other) {
        (Fact::Edge { runs: a, .. }, Fact::Edge { runs: b, .. }) => a == b,
        _ => false,
    }
}

/// What is taken with one click; `depth_m` is how deep the scene is, m, where it has a scale.
fn told(state: &ShotState, together: &[Proposal], depth_m: Option<f64>) -> Value {
    let proposal = &together[0];
    let facts: Vec<&Fact> = together.iter().map(|p| &p.fact).collect();
    let said: Vec<String> = facts.iter().map(|fact| stated(state, fact)).collect();
    let sure = if proposal.sure { "" } else { " Unsure." };
    let evidence = match proposal.evidence {
        Evidence::Landmarks {
            features,
            share,
            rough_share,
        } => {
            let flat = depth_m.map(|depth| 1000.0 * rough_share * depth);
            let flat = flat.map_or(String::new(), |mm| {
                format!(", flat to {:.1} mm", short(mm, 1))
            });
            let share = 100.0 * share;
            format!("{features} landmarks lie on it, {share:.0} % of those that tell{flat}.{sure}")
        }
        Evidence::Edges { edges, share } => {
            let share = 100.0 * share;
            format!("{edges} edges of the pictures run so, {share:.0} % of their length.{sure}")
        }
    };
    json!({
        "facts": facts,
        "said": said.join(", "),
        "evidence": evidence,
        "sure": proposal.sure,
        "tracks": proposal.fact.features().iter().map(|t| t.0).collect::<Vec<_>>(),
    })
}
