//! Where guests, landmarks of bodies and the landmarks that are handed on are seen on each frame, as comma-separated text:
//! `name,frame,x,y,undistorted_x,undistorted_y,depth,visible`, as [`crate::path`] has them; depths in the receiver's unit.

use crate::delivery::package::NamedBytes;
use crate::delivery::{Delivery, DeliveryError};
use crate::format::Format;
use crate::path::path;
use crate::receipt::compare::{known, straight};
use crate::receipt::{FileReceipt, Held, unreadable};
use parallax_core::spaces::WorldPoint;
use serde::Deserialize;

/// The file.
const FILE: &str = "paths.csv";
/// Most landmarks with a path: named and grouped ones go first.
const MOST: usize = 500;

/// The format.
pub struct Paths;

/// What has a path: foot of a guest or landmark, with its name.
fn places<'a>(delivery: &'a Delivery<'_>) -> Vec<(&'a str, Vec<WorldPoint>)> {
    let frames = 0..delivery.cameras.len();
    let foot = |g: &crate::delivery::Delivered, k| WorldPoint(g.on(k).translation.into());
    let guests = delivery.guests.iter().map(|g| {
        (
            g.name.as_str(),
            frames.clone().map(|k| foot(g, k)).collect(),
        )
    });
    let named = |p: &&crate::delivery::Landmark| !p.group.is_empty() || !is_number(&p.name);
    let mut points: Vec<_> = delivery.points.iter().filter(named).collect();
    if points.is_empty() {
        points = delivery.points.iter().collect();
    }
    let points = points
        .into_iter()
        .take(MOST)
        .map(|p| (p.name.as_str(), vec![p.place; delivery.cameras.len()]));
    let bodies = delivery.bodies.iter().flat_map(|body| {
        let on: Vec<Vec<WorldPoint>> = frames.clone().map(|k| body.places(k)).collect();
        let path = move |at: usize| on.iter().map(|places| places[at]).collect();
        let all = body.points.iter().enumerate().take(MOST);
        all.map(move |(at, p)| (p.name.as_str(), path(at)))
    });
    guests.chain(bodies).chain(points).collect()
}

/// Whether a name is the number of a track that nobody named.
fn is_number(name: &str) -> bool {
    name.strip_prefix('t')
        .is_some_and(|rest| !rest.is_empty() && rest.bytes().all(|b| b.is_ascii_digit()))
}

impl Format for Paths {
    fn write(&self, delivery: &Delivery<'_>) -> Result<Vec<NamedBytes>, DeliveryError> {
        let failed = |e: &dyn std::fmt::Display| DeliveryError::Package(e.to_string());
        let mut writer = csv::Writer::from_writer(Vec::new());
        let head = [
            "name",
            "frame",
            "x",
            "y",
            "undistorted_x",
            "undistorted_y",
            "depth",
            "visible",
        ];
        writer.write_record(head).map_err(|e| failed(&e))?;
        for (name, places) in places(delivery) {
            for (camera, place) in delivery.cameras.iter().zip(places) {
                let lens = delivery.lens_of(camera);
                let row = path([(camera.frame, lens, camera.pose)], &place);
                let two = |px: Option<[f64; 2]>| {
                    px.map_or_else(Default::default, |px| px.map(|v| format!("{v:.4}")))
                };
                for on in row {
                    let ([x, y], [u, v]) = (two(on.px), two(on.undistorted_px));
                    let depth = on.depth * delivery.receiver.per_metre();
                    let (frame, depth) = (on.frame.to_string(), format!("{depth:.6}"));
                    let visible = u8::from(on.visible).to_string();
                    let record = [name, &frame, &x, &y, &u, &v, &depth, &visible];
                    writer.write_record(record).map_err(|e| failed(&e))?;
                }
            }
        }
        let bytes = writer.into_inner().map_err(|e| failed(&e))?;
        Ok(vec![(delivery.named(FILE), bytes)])
    }

    fn check(
        &self,
        delivery: &Delivery<'_>,
        files: &Held<'_>,
    ) -> Result<Vec<FileReceipt>, DeliveryError> {
        let file = delivery.named(FILE);
        let off = read_back(delivery, &file, files.bytes(&file)?)?;
        let said = "each place on each frame, as shot and undistorted; depths";
        let left = delivery.points.len() > MOST;
        let receipt = FileReceipt::of(&file, files, said, off)?.lacking(
            left,
            "landmarks beyond the 500 that are written: name or group those that matter",
        );
        Ok(vec![receipt])
    }
}

#[derive(Deserialize)]
struct Row {
    name: String,
    frame: i32,
    x: Option<f64>,
    y: Option<f64>,
    undistorted_x: Option<f64>,
    undistorted_y: Option<f64>,
    depth: f64,
}

fn read_back(delivery: &Delivery<'_>, file: &str, bytes: &[u8]) -> Result<f64, DeliveryError> {
    let bad = |reason: &dyn std::fmt::Display| unreadable(file, reason);
    let mut reader = csv::Reader::from_reader(bytes);
    let mut rows = reader.deserialize::<Row>();
    let mut largest: f64 = 0.0;
    for (name, places) in places(delivery) {
        for (camera, place) in delivery.cameras.iter().zip(places) {
            let row = rows.next().ok_or_else(|| bad(&"rows are missing"))?;
            let row = row.map_err(|e| bad(&e))?;
            if row.name != name || row.frame != camera.frame.0 {
                return Err(bad(&"its rows are of other places or frames"));
            }
            let lens = delivery.lens_of(camera);
            let depth = -camera.pose.to_camera(&place).z * delivery.receiver.per_metre();
            if known(row.depth - depth).abs() > 1e-6 * (1.0 + depth.abs()) {
                return Err(bad(&"a depth is another"));
            }
            let both = [
                (lens, row.x.zip(row.y)),
                (straight(&lens), row.undistorted_x.zip(row.undistorted_y)),
            ];
            for (lens, read) in both {
                let solved = lens.project(&camera.pose, &place);
                if solved.is_some() != read.is_some() {
                    return Err(bad(&"a place is drawn on one side only"));
                }
                let off = solved.zip(read).map(|(s, (x, y))| (s.x - x).hypot(s.y - y));
                largest = largest.max(known(off.unwrap_or(0.0)));
            }
        }
    }
    match rows.next() {
        Some(_) => Err(bad(&"there are too many rows")),
        None => Ok(largest),
    }
}
