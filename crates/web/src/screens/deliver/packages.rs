//! Camera and packages.

use super::undistorted::{attached, streamed};
use crate::app::App;
use crate::archive::Archive;
use crate::error::{Absent, ApiError, Refused};
use crate::shot::world::{current, orientation};
use crate::shot::{facts, solving, tracks};
use actix_web::{HttpResponse, web};
use parallax_formats::camera_json;
use parallax_formats::delivery::{Delivery, DeliveryError, UNDISTORTED_FOLDER};
use std::path::PathBuf;

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
    let package = app.store.package(shot, delivery).await?;
    let kept = app.store.delivery(delivery).await?;
    let name = match kept.name.is_empty() {
        true => format!(
            "{}-match",
            facts::file_stem(&app.store.shot(shot).await?.name)
        ),
        false => kept.name,
    };
    if !kept.plate.is_empty() {
        let (plate, by) = (PathBuf::from(kept.plate), kept.plate_by);
        let by = i32::try_from(by).unwrap_or_default();
        if !plate.is_dir() {
            return Err(Absent::DeliveredPlate.into());
        }
        return Ok(streamed(&name, move |to| {
            let mut archive = Archive::to(to);
            archive.add_archive(&package)?;
            archive.add_plate(&plate, by, UNDISTORTED_FOLDER)?;
            archive.finish()
        }));
    }
    Ok(HttpResponse::Ok()
        .content_type("application/zip")
        .insert_header(("content-encoding", "identity"))
        .insert_header(attached(&name))
        .body(package))
}
