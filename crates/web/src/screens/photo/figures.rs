//! The figures of a photograph's camera, rounded as they are read and as they are copied.

use crate::said::words::{error_alone, uncertain};
use crate::shot::facts;
use parallax_core::photo::Placed;
use parallax_core::photo::perspective::Perspective;
use parallax_store::shots::Shot;
use serde::Serialize;

/// One line of the table: what is read, and what the clipboard gets.
#[derive(Debug, Serialize)]
pub struct Row {
    key: &'static str,
    name: &'static str,
    text: String,
    copy: String,
}

fn row(key: &'static str, name: &'static str, text: String, copy: &[f64]) -> Row {
    let copy: Vec<String> = copy.iter().map(|v| format!("{v:.6}")).collect();
    Row {
        key,
        name,
        text,
        copy: copy.join(" "),
    }
}

/// A photograph's camera for programs, and as the rows of the table. Sigmas are one standard error.
#[derive(Debug, Serialize)]
pub struct CameraFigures {
    focal_mm: f64,
    focal_sigma_mm: f64,
    pub focal_text: String,
    focal_px: f64,
    focal_sigma_px: f64,
    view_deg: f64,
    view_sigma_deg: f64,
    view_vertical_deg: f64,
    view_diagonal_deg: f64,
    tilt_deg: f64,
    tilt_sigma_deg: f64,
    /// Centre of projection from the middle of the picture.
    centre_offset_px: [f64; 2],
    centre_sigma_px: Option<[f64; 2]>,
    pub rms_px: f64,
    end_sigma_px: f64,
    rows: Vec<Row>,
}

/// All figures of a camera.
pub fn camera(shot: &Shot, p: &Perspective) -> CameraFigures {
    let back = facts::film_back(shot);
    let mm = |px: f64| back.focal_mm(px, shot.width_px);
    let (width, height) = (f64::from(shot.width_px), f64::from(shot.height_px));
    let view = |size: f64| 2.0 * (size / (2.0 * p.lens.focal_px)).atan().to_degrees();
    let (focal_mm, focal_sigma_mm) = (mm(p.focal_px.value), mm(p.focal_px.sigma));
    let (upright, corner) = (view(height), view(width.hypot(height)));
    let offset = [
        p.lens.centre.x - 0.5 * width,
        p.lens.centre.y - 0.5 * height,
    ];
    let focal_text = uncertain(focal_mm, focal_sigma_mm, " mm");
    let rows = vec![
        row("focal-mm", "focal length", focal_text.clone(), &[focal_mm]),
        row(
            "focal-px",
            "in px",
            uncertain(p.focal_px.value, p.focal_px.sigma, " px"),
            &[p.focal_px.value],
        ),
        row(
            "view",
            "field of view",
            uncertain(p.view_deg.value, p.view_deg.sigma, "°"),
            &[p.view_deg.value],
        ),
        row(
            "view-upright",
            "up and down",
            format!("{upright:.2}°"),
            &[upright],
        ),
        row(
            "view-corner",
            "corner to corner",
            format!("{corner:.2}°"),
            &[corner],
        ),
        row(
            "tilt",
            "horizon tilt",
            uncertain(p.tilt_deg.value, p.tilt_deg.sigma, "°"),
            &[p.tilt_deg.value],
        ),
        row(
            "offset",
            "centre offset",
            format!("{:.1}, {:.1} px", offset[0], offset[1]),
            &offset,
        ),
        row(
            "rails-rms",
            "rails miss by",
            format!("{:.2} px rms", p.rms_px),
            &[p.rms_px],
        ),
    ];
    CameraFigures {
        focal_mm,
        focal_sigma_mm,
        focal_text,
        focal_px: p.focal_px.value,
        focal_sigma_px: p.focal_px.sigma,
        view_deg: p.view_deg.value,
        view_sigma_deg: p.view_deg.sigma,
        view_vertical_deg: upright,
        view_diagonal_deg: corner,
        tilt_deg: p.tilt_deg.value,
        tilt_sigma_deg: p.tilt_deg.sigma,
        centre_offset_px: offset,
        centre_sigma_px: p.centre_sigma_px,
        rms_px: p.rms_px,
        end_sigma_px: p.end_sigma_px,
        rows,
    }
}

/// Rows of what the placed world comes to.
pub fn placed(placed: &Placed) -> Vec<Row> {
    let unit = if placed.scaled { "m" } else { "units" };
    let length = |v: f64| format!("{v:.3} {unit}");
    let mut rows = vec![
        row(
            "camera-height",
            "camera height",
            length(placed.camera_height),
            &[placed.camera_height],
        ),
        row(
            "distance",
            "distance to origin",
            length(placed.distance),
            &[placed.distance],
        ),
    ];
    if let Some(share) = placed.scale_share_sigma {
        let ends = placed
            .scale_ends_sigma_px
            .map_or_else(String::new, |px| format!(", ends placed to ±{px:.1} px"));
        rows.push(row(
            "scale-sigma",
            "scale certain to",
            format!("{}{ends}", error_alone(100.0 * share, " %")),
            &[100.0 * share],
        ));
    }
    if let Some(off) = placed.off_axis_px {
        rows.push(row(
            "off-axis",
            "runs beside its way by",
            format!("{off:.1} px"),
            &[off],
        ));
    }
    rows
}
