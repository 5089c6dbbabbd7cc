//! What the landmarks propose about the world, in words, to be taken with one click.

use super::statements::stated;
use crate::app::App;
use crate::error::ApiError;
use crate::said::words::short;
use crate::shot::world::current_world;
use actix_web::{HttpResponse, web};
use parallax_core::orient::{Proposal, Solved, propose};
use parallax_store::ShotState;
use serde_json::{Value, json};

/// The proposals of the current attempt, the surest first; each a fact as it would be stated.
pub async fn proposals(
    app: web::Data<App>,
    shot: web::Path<i64>,
) -> Result<HttpResponse, ApiError> {
    let (shot, kept, now) = current_world(&app, *shot).await?;
    let unit = now.scaled.then_some(now.change.scale);
    let found = web::block(move || {
        let solved = Solved::of_attempt(&kept.attempt, None);
        (propose(&solved), solved.depth)
    });
    let (found, depth) = found.await?;
    let all: Vec<Value> = found
        .iter()
        .map(|p| told(&shot.state, p, unit.map(|u| u * depth)))
        .collect();
    let said = match found.iter().any(|p| p.sure) {
        true => "",
        false if found.is_empty() => {
            "The landmarks show no ground and no walls. State what you know."
        }
        false => {
            "The landmarks do not show for certain which of these is the ground. Look before you take one."
        }
    };
    Ok(HttpResponse::Ok().json(json!({ "proposals": all, "said": said })))
}

/// `depth_m` is how deep the scene is, m, where it has a scale.
fn told(state: &ShotState, proposal: &Proposal, depth_m: Option<f64>) -> Value {
    let flat = match depth_m {
        Some(depth) => format!(
            ", flat to {:.1} mm",
            short(1000.0 * proposal.rough_share * depth, 1)
        ),
        None => String::new(),
    };
    let sure = if proposal.sure { "" } else { " Unsure." };
    json!({
        "fact": proposal.fact,
        "said": stated(state, &proposal.fact),
        "evidence": format!(
            "{} landmarks lie on it, {:.0} % of those that tell{flat}.{sure}",
            proposal.features, 100.0 * proposal.share
        ),
        "sure": proposal.sure,
        "tracks": proposal.fact.features().iter().map(|t| t.0).collect::<Vec<_>>(),
    })
}
