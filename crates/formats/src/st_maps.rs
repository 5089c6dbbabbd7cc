//! ST maps as part of a delivery: one that undistorts the plate, one that distorts what was added to it.
//!
//! They hold for one focal length. Where the lens does not bend there are none, and where it zooms neither: one pair
//! would be wrong on all frames but one.

use crate::delivery::package::NamedBytes;
use crate::delivery::{Delivery, DeliveryError};
use crate::format::Format;
use crate::receipt::compare::known;
use crate::receipt::{FileReceipt, Held, unreadable};
use crate::st_map;
use crate::undistorted::{DISTORTING_FILE, PROVEN_PX, UNDISTORTING_FILE, there_and_back};
use nalgebra::Point3;
use parallax_core::camera::Pose;
use parallax_core::lens::maps::{Frame, Map};
use parallax_core::spaces::WorldPoint;

/// The format.
pub struct StMaps;

/// Positions of a map that are compared at most.
const MOST_COMPARED: usize = 100_000;

/// The undistorted picture; `None` where there are no maps.
fn frame(delivery: &Delivery<'_>) -> Result<Option<Frame>, DeliveryError> {
    let terms = &delivery.lens.distortion;
    if terms.is_none() || delivery.zooms() {
        return Ok(None);
    }
    let failed = |e| DeliveryError::Package(format!("{e}"));
    let lens = delivery
        .cameras
        .first()
        .map_or(delivery.lens, |c| delivery.lens_of(c));
    Frame::of(&lens, delivery.keep).map(Some).map_err(failed)
}

impl Format for StMaps {
    fn write(&self, delivery: &Delivery<'_>) -> Result<Vec<NamedBytes>, DeliveryError> {
        let Some(frame) = frame(delivery)? else {
            return Ok(Vec::new());
        };
        let failed = |e| DeliveryError::Package(format!("{e}"));
        let [undistorting, distorting] = st_map::both(&frame).map_err(failed)?;
        Ok(vec![
            (delivery.named(UNDISTORTING_FILE), undistorting),
            (delivery.named(DISTORTING_FILE), distorting),
        ])
    }

    fn check(
        &self,
        delivery: &Delivery<'_>,
        files: &Held<'_>,
    ) -> Result<Vec<FileReceipt>, DeliveryError> {
        let Some(frame) = frame(delivery)? else {
            return Ok(Vec::new());
        };
        let (plate, straight) = (
            (frame.lens.width_px, frame.lens.height_px),
            (frame.width_px, frame.height_px),
        );
        let names = [UNDISTORTING_FILE, DISTORTING_FILE].map(|f| delivery.named(f));
        let read = |name: &str, size| {
            st_map::read(files.bytes(name)?, size).map_err(|e| unreadable(name, e))
        };
        let (there, back) = (read(&names[0], plate)?, read(&names[1], straight)?);
        let sizes = [(&there, straight), (&back, plate)];
        for ((map, size), name) in sizes.into_iter().zip(&names) {
            if (map.width_px, map.height_px) != size {
                return Err(unreadable(name, "the map is of another size"));
            }
        }
        let (round, compared) = there_and_back(&there, &back);
        if compared == 0 || round > PROVEN_PX {
            let said = format!("the maps do not lead back to the plate: {round} px");
            return Err(unreadable(&names[1], said));
        }
        let off = off(&frame, &there);
        let [left, top] = frame.added_px;
        let said = format!(
            "places of the undistorted picture ({}x{} px, {left} px added on the left, {top} at the top) as the lens \
             draws them; both maps together lead back within {round:.4} px. {}",
            frame.width_px,
            frame.height_px,
            st_map::CONVENTION
        );
        names
            .iter()
            .map(|name| FileReceipt::of(name, files, said.clone(), off))
            .collect()
    }
}

/// Largest distance between places as the map has them and as the lens draws a ray through the same px, px.
fn off(frame: &Frame, map: &Map) -> f64 {
    let (width, height) = (map.width_px as usize, map.height_px as usize);
    let step = (width * height).div_ceil(MOST_COMPARED).max(1);
    let rests = Pose::from_world_from_camera(&nalgebra::Matrix4::identity());
    let Some(pose) = rests else {
        return f64::INFINITY;
    };
    let lens = &frame.lens;
    let mut largest: f64 = 0.0;
    for at in (0..width * height).step_by(step) {
        let [x, y] = [at % width, at / width].map(|v| v as f64 + 0.5);
        let [left, top] = frame.added_px.map(f64::from);
        let (u, v) = (
            (x - left - lens.centre.x) / lens.focal_px,
            (y - top - lens.centre.y) / lens.focal_px,
        );
        let [px, py] = map.from_px[at].map(f64::from);
        let drawn = lens.project(&pose, &WorldPoint(Point3::new(u, -v, -1.0)));
        // The map has nothing where the plate shows nothing.
        let nothing = px.is_nan() && py.is_nan();
        if let Some(drawn) = drawn.filter(|_| !nothing) {
            largest = largest.max(known((drawn.x - px).hypot(drawn.y - py)));
        }
    }
    largest
}
