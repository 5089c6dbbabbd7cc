//! Camera and packages.

use crate::app::App;
use crate::error::{ApiError, Refused};
use crate::shot::world::{current, orientation};
use crate::shot::{facts, solving, tracks};
use actix_web::{HttpResponse, web};
use parallax_formats::camera_json;
use parallax_formats::delivery::{Delivery, DeliveryError, STALE};
use parallax_formats::receipt::Receipt;

type Answer = Result<HttpResponse, ApiError>;

/// The neutral camera file of the current attempt, as it is oriented.
pub async fn camera(app: web::Data<App>, shot: web::Path<i64>) -> Answer {
    let (shot, kept) = current(&app, *shot).await?;
    let rate = shot.state.rate.ok_or(Refused::NoRate)?;
    let orientation = orientation(&app, &shot, &kept).await?;
    let about = facts::delivered_shot(&shot, rate);
    let called = tracks::called(&shot.state);
    let mut delivery = Delivery::of_attempt(&about, &kept.attempt, &orientation, &[], called);
    let tracks = tracks::of(&app, &shot).await?;
    delivery.stale = solving::stale_since(&shot, &kept, &tracks);
    let text = camera_json::write(&delivery).map_err(DeliveryError::from)?;
    Ok(HttpResponse::Ok()
        .content_type("application/json")
        .body(text))
}

/// A delivered package.
pub async fn package(app: web::Data<App>, path: web::Path<(i64, i64)>) -> Answer {
    let (shot, delivery) = path.into_inner();
    let name: String = app
        .store
        .shot(shot)
        .await?
        .name
        .chars()
        .filter(|c| c.is_ascii_alphanumeric() || "-_".contains(*c))
        .collect();
    let package = app.store.package(shot, delivery).await?;
    let receipt = app.store.delivery(delivery).await?.receipt;
    let is_stale = serde_json::from_str::<Receipt>(&receipt).is_ok_and(|r| !r.stale.is_empty());
    let mark = if is_stale { STALE } else { "" };
    Ok(HttpResponse::Ok()
        .content_type("application/zip")
        .insert_header(("content-encoding", "identity"))
        .insert_header((
            "content-disposition",
            format!("attachment; filename=\"{mark}{name}-match.zip\""),
        ))
        .body(package))
}
