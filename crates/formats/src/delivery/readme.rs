//! What a delivery says of itself to the colleague who opens it without us: in plain words and as JSON.

use super::{Delivery, DeliveryError, UNDISTORTED_FOLDER};
use crate::receipt::Receipt;
use parallax_core::statistics::median;
use serde_json::{Value, json};
use std::fmt::Write;

/// In plain words.
pub const WORDS_FILE: &str = "README.txt";
/// As JSON.
pub const JSON_FILE: &str = "README.json";
/// The value of the key `schema`.
pub const SCHEMA: &str = "true-parallax/package@1";

const LENS: &str = "x, y are (px - centre) / focal length with y down, r2 = x^2 + y^2; as shot x' = x (1 + k1 r2 + k2 r2^2 + k3 r2^3) + 2 p1 x y + p2 (r2 + 2 x^2), y' = y (1 + k1 r2 + k2 r2^2 + k3 r2^3) + p1 (r2 + 2 y^2) + 2 p2 x y";
const PX: &str = "px from the picture's upper left corner, x right, y down; the first px has its middle at (0.5, 0.5)";

fn known(value: Option<f64>) -> Value {
    value.map_or(Value::Null, |v| json!(v))
}

/// Standard error of a landmark that is handed on, the median of all, receiver's units: a few that are far away are
/// hardly known and say nothing of the others.
fn landmark_sigma(delivery: &Delivery<'_>) -> Option<f64> {
    let known = delivery.points.iter().filter_map(|p| p.covariance);
    let one = known.map(|c| (c.sigma().iter().map(|s| s * s).sum::<f64>() / 3.0).sqrt());
    let mut all: Vec<f64> = one.collect();
    Some(median(&mut all)? * delivery.receiver.per_metre())
}

/// As JSON.
pub fn json(delivery: &Delivery<'_>, receipt: &Receipt) -> Value {
    let (d, lens) = (delivery, &delivery.lens);
    let terms = &lens.distortion;
    let focal_mm = |px: f64| px * d.film_back.width_mm / f64::from(lens.width_px);
    let focal: Vec<f64> = d.cameras.iter().map(|c| focal_mm(c.focal_px)).collect();
    let bound = |start: f64, pick: fn(f64, f64) -> f64| focal.iter().copied().fold(start, pick);
    let files: Vec<Value> = receipt
        .files
        .iter()
        .map(|f| json!({ "file": f.file, "bytes": f.bytes, "sha256": f.sha256, "lacks": f.lacks }))
        .collect();
    let mut out = json!({
        "schema": SCHEMA,
        "program": format!("True Parallax {}", env!("CARGO_PKG_VERSION")),
        "shot": d.shot,
        "plate": { "width_px": lens.width_px, "height_px": lens.height_px, "px": PX },
        "rate": d.rate.to_string(),
        "frames": [receipt.range[0], receipt.range[1]],
        "film_back": {
            "width_mm": d.film_back.width_mm, "height_mm": d.film_back.height_mm, "assumed": d.film_back_assumed,
        },
        "focal_length_mm": [bound(f64::INFINITY, f64::min), bound(f64::NEG_INFINITY, f64::max)],
        "lens": {
            "model": "brown", "formula": LENS, "k1": terms.k1, "k2": terms.k2, "k3": terms.k3, "p1": terms.p1,
            "p2": terms.p2, "k1_by_zoom": terms.k1_by_zoom, "focal_px": lens.focal_px,
            "centre_px": [lens.centre.x, lens.centre.y],
        },
        "world": {
            "axes": d.receiver.axes(), "unit": receipt.units, "scale": d.receiver.scale,
            "landmark_sigma": known(landmark_sigma(d)),
        },
        "camera": { "good": d.standing.good, "reasons": d.standing.reasons },
        "assumptions": receipt.assumptions,
        "left_out": receipt.left_out,
        "stale_since": d.stale,
        "files_agree": receipt.files_agree,
        "largest_difference_px": receipt.largest_difference_px,
        "files": files,
    });
    if let Some(plate) = &d.plate {
        out["plate"]["pattern"] = json!(plate.pattern);
    }
    if let Some(plate) = &d.undistorted {
        out["undistorted"] = json!({ "folder": UNDISTORTED_FOLDER, "receipt": plate });
    }
    if let Some(degrees) = d.shutter_deg {
        out["shutter_deg"] = json!(degrees);
    }
    let said = &d.said;
    let texts = [
        ("recipe", &said.recipe),
        ("author", &said.author),
        ("note", &said.note),
        ("date", &said.date),
    ];
    for (key, text) in texts.into_iter().filter(|(_, text)| !text.is_empty()) {
        out[key] = json!(text);
    }
    if said.version > 0 {
        out["version"] = json!(said.version);
    }
    out
}

/// In plain words.
pub fn words(delivery: &Delivery<'_>, receipt: &Receipt) -> String {
    let mut text = String::new();
    // Writing to a String cannot fail.
    let _ = paragraphs(&mut text, delivery, receipt);
    text
}

fn paragraphs(out: &mut String, d: &Delivery<'_>, receipt: &Receipt) -> std::fmt::Result {
    let said = &d.said;
    writeln!(out, "{}", d.shot.replace(char::is_control, " "))?;
    if !said.recipe.is_empty() {
        let version = match said.version {
            0 => String::new(),
            version => format!(", version {version}"),
        };
        writeln!(out, "Delivery '{}'{version}", said.recipe)?;
    }
    for (what, text) in [("By", &said.author), ("Made", &said.date)] {
        if !text.is_empty() {
            writeln!(out, "{what} {text}")?;
        }
    }
    writeln!(
        out,
        "Written by True Parallax {}",
        env!("CARGO_PKG_VERSION")
    )?;
    if !said.note.is_empty() {
        writeln!(out, "\n{}", said.note)?;
    }
    writeln!(out, "\nIS THE CAMERA GOOD?")?;
    match d.standing.good {
        true => writeln!(out, "Yes: nothing speaks against it.")?,
        false => writeln!(out, "It needs a look: {}.", d.standing.reasons.join("; "))?,
    }
    for reason in &d.stale {
        writeln!(out, "It is stale: {reason}.")?;
    }
    for assumption in &receipt.assumptions {
        writeln!(out, "Assumed: {assumption}.")?;
    }
    if let Some(sigma) = landmark_sigma(d) {
        let unit = if d.scaled {
            d.receiver.unit.short()
        } else {
            "units"
        };
        writeln!(
            out,
            "Half of the landmarks are certain to {sigma:.4} {unit} or better (one standard error)."
        )?;
    }
    for what in &receipt.left_out {
        writeln!(out, "Left out: {what}.")?;
    }
    writeln!(out, "\nDO THE FILES AGREE WITH IT?")?;
    let agree = if receipt.files_agree { "Yes" } else { "No" };
    writeln!(
        out,
        "{agree}: read back and held against the solve, the largest difference is {:.6} px.",
        receipt.largest_difference_px
    )?;
    if let Some(plate) = &d.undistorted {
        let [width, height] = plate.undistorted;
        let agree = if plate.proven { "proven" } else { "not proven" };
        writeln!(
            out,
            "The undistorted plate is in {UNDISTORTED_FOLDER}: {} pictures of {width} x {height} px with the maps that \
             lead back, {agree}: {:.5} px at most after both.",
            plate.frames, plate.largest_difference_px
        )?;
    }
    facts(out, d, receipt)?;
    writeln!(out, "\nFILES")?;
    for file in &receipt.files {
        writeln!(
            out,
            "{}  ({} bytes, SHA-256 {})",
            file.file, file.bytes, file.sha256
        )?;
        for lack in &file.lacks {
            writeln!(out, "    lacks {lack}")?;
        }
    }
    Ok(())
}

fn facts(out: &mut String, d: &Delivery<'_>, receipt: &Receipt) -> std::fmt::Result {
    let (lens, back) = (&d.lens, &d.film_back);
    let terms = &lens.distortion;
    let mm = |px: f64| px * back.width_mm / f64::from(lens.width_px);
    writeln!(out, "\nPLATE AND CAMERA")?;
    writeln!(
        out,
        "Plate: {} x {} px; {PX}.",
        lens.width_px, lens.height_px
    )?;
    if let Some(plate) = &d.plate {
        writeln!(out, "It is at {} as seen from these files.", plate.pattern)?;
    }
    if d.cameras.len() > 1 {
        let [first, last] = receipt.range;
        writeln!(
            out,
            "Frames {first} to {last} at {} frames a second.",
            d.rate
        )?;
    }
    let assumed = if d.film_back_assumed {
        " (assumed)"
    } else {
        ""
    };
    writeln!(
        out,
        "Film back: {} x {} mm{assumed}.",
        back.width_mm, back.height_mm
    )?;
    let focal = d.cameras.iter().map(|c| mm(c.focal_px));
    let (short, long) = focal.fold((f64::INFINITY, 0.0f64), |(a, b), f| (a.min(f), b.max(f)));
    match d.zooms() {
        true => writeln!(out, "Focal length: {short:.3} to {long:.3} mm, by frame.")?,
        false => writeln!(out, "Focal length: {long:.3} mm.")?,
    }
    writeln!(
        out,
        "Centre of projection: {} across, {} down, px.",
        lens.centre.x, lens.centre.y
    )?;
    if terms.is_none() {
        writeln!(out, "Lens: it does not bend.")?;
    } else {
        writeln!(out, "Lens (Brown 1966), undistorted to as shot: {LENS}.")?;
        writeln!(
            out,
            "k1 = {}, k2 = {}, k3 = {}, p1 = {}, p2 = {} at a focal length of {} px.",
            terms.k1, terms.k2, terms.k3, terms.p1, terms.p2, lens.focal_px
        )?;
        if terms.k1_by_zoom != 0.0 {
            let by = terms.k1_by_zoom;
            writeln!(
                out,
                "k1 follows the zoom: add {by} ln(focal length / {} px).",
                lens.focal_px
            )?;
        }
    }
    writeln!(
        out,
        "World: up {}; unit: {}.",
        d.receiver.axes(),
        receipt.units
    )?;
    if d.receiver.scale != 1.0 {
        writeln!(out, "It was asked for {} times as large.", d.receiver.scale)?;
    }
    Ok(())
}

/// Both, as files.
pub fn files(
    delivery: &Delivery<'_>,
    receipt: &Receipt,
) -> Result<Vec<super::NamedBytes>, DeliveryError> {
    let json = serde_json::to_vec_pretty(&json(delivery, receipt))?;
    Ok(vec![
        (
            delivery.named(WORDS_FILE),
            words(delivery, receipt).into_bytes(),
        ),
        (delivery.named(JSON_FILE), json),
    ])
}
