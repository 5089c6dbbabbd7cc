//! Landmarks as PLY: places, standard errors as a scalar, and colours of the plate where they were read.

use super::in_our_world;
use super::ply::head;
use crate::delivery::package::NamedBytes;
use crate::delivery::{Delivery, DeliveryError, Landmark};
use crate::format::Format;
use crate::receipt::compare::{self, straight};
use crate::receipt::{FileReceipt, Held, unreadable};
use ply_rs_bw::parser::Parser;
use ply_rs_bw::ply::{Property, PropertyAccess, PropertyAccessResult};

/// The file.
const FILE: &str = "landmarks.ply";
/// What stands where an error is not known.
const UNKNOWN: f32 = -1.0;

/// The format.
pub struct Landmarks;

/// Root mean square of the errors along the axes, units of the receiver.
fn sigma(delivery: &Delivery<'_>, point: &Landmark) -> f32 {
    let Some(covariance) = point.covariance else {
        return UNKNOWN;
    };
    let squares: f64 = covariance.sigma().iter().map(|s| s * s).sum();
    ((squares / 3.0).sqrt() * delivery.receiver.per_metre()) as f32
}

fn write(delivery: &Delivery<'_>) -> Vec<u8> {
    let coloured = delivery.without_colour().is_some();
    let said = format!("sigma is one standard error, {UNKNOWN} where it is not known");
    let floats = ["x", "y", "z", "sigma"];
    let mut out = head(delivery, &[said], &floats, coloured, None);
    for point in &delivery.points {
        let place = delivery.receiver.point(&point.place).map(|v| v as f32);
        let floats = place.into_iter().chain([sigma(delivery, point)]);
        out.extend(floats.flat_map(f32::to_le_bytes));
        if coloured {
            out.extend(point.shown());
        }
    }
    out
}

impl Format for Landmarks {
    fn write(&self, delivery: &Delivery<'_>) -> Result<Vec<NamedBytes>, DeliveryError> {
        if delivery.points.is_empty() {
            return Ok(Vec::new());
        }
        Ok(vec![(delivery.named(FILE), write(delivery))])
    }

    fn check(
        &self,
        delivery: &Delivery<'_>,
        files: &Held<'_>,
    ) -> Result<Vec<FileReceipt>, DeliveryError> {
        if delivery.points.is_empty() {
            return Ok(Vec::new());
        }
        let file = delivery.named(FILE);
        let off = read_back(delivery, &file, files.bytes(&file)?)?;
        let said = "all landmarks drawn by the solved camera on every frame, undistorted, in single precision; errors and colours";
        let receipt = FileReceipt::of(&file, files, said, off)?
            .lacking(
                true,
                "names of landmarks: they are in the order of the solve",
            )
            .lacking(
                delivery.without_colour().is_none(),
                "colours of the plate, which were not read",
            )
            .lacking(
                delivery.without_colour().is_some_and(|n| n > 0),
                "colours of landmarks that no frame shows that was read: they are grey",
            );
        Ok(vec![receipt])
    }
}

#[derive(Default)]
struct Corner {
    place: [f32; 3],
    sigma: f32,
    colour: [u8; 3],
}

impl PropertyAccess for Corner {
    fn new() -> Self {
        Self::default()
    }

    fn set_property(&mut self, name: &str, property: Property) -> PropertyAccessResult {
        match (name, property) {
            ("x", Property::Float(v)) => self.place[0] = v,
            ("y", Property::Float(v)) => self.place[1] = v,
            ("z", Property::Float(v)) => self.place[2] = v,
            ("sigma", Property::Float(v)) => self.sigma = v,
            ("red", Property::UChar(v)) => self.colour[0] = v,
            ("green", Property::UChar(v)) => self.colour[1] = v,
            ("blue", Property::UChar(v)) => self.colour[2] = v,
            _ => return PropertyAccessResult::Ignored,
        }
        PropertyAccessResult::Set
    }
}

fn read_back(delivery: &Delivery<'_>, file: &str, bytes: &[u8]) -> Result<f64, DeliveryError> {
    let mut input = bytes;
    let read = Parser::<Corner>::new().read_ply(&mut input);
    let mut read = read.map_err(|e| unreadable(file, e))?;
    let corners = read.payload.shift_remove("vertex").unwrap_or_default();
    let places: Vec<_> = corners
        .iter()
        .map(|c| in_our_world(delivery, c.place))
        .collect();
    let off = compare::points(file, delivery, &straight(&delivery.lens), &places)?;
    let coloured = delivery.without_colour().is_some();
    let same = |(read, point): (&Corner, &Landmark)| {
        let colour = !coloured || point.shown() == read.colour;
        colour && read.sigma == sigma(delivery, point)
    };
    match corners.iter().zip(&delivery.points).all(same) {
        true => Ok(off),
        false => Err(unreadable(file, "an error or a colour is another")),
    }
}
