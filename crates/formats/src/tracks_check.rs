//! Tracks read back out of what was delivered: every position, name and group.

use crate::delivery::package::NamedBytes;
use crate::delivery::{Delivery, DeliveryError};
use crate::receipt::compare::known;
use crate::receipt::{FileReceipt, Held, unreadable};
use parallax_core::spaces::{FrameNumber, PlatePx};
use std::collections::HashMap;

/// A track as read.
#[derive(Default)]
pub struct ReadTrack {
    /// What it is called.
    pub name: String,
    /// Its group.
    pub group: String,
    /// Where it is on each of its frames.
    pub at: Vec<(FrameNumber, PlatePx)>,
}

/// A file of tracks, where there are any.
pub fn written(
    delivery: &Delivery<'_>,
    file: &str,
    write: impl FnOnce() -> Result<Vec<u8>, DeliveryError>,
) -> Result<Vec<NamedBytes>, DeliveryError> {
    match delivery.tracks.is_empty() {
        true => Ok(Vec::new()),
        false => Ok(vec![(delivery.named(file), write()?)]),
    }
}

/// Its receipt; `read` has tracks by what the file tells them by.
pub fn receipt(
    delivery: &Delivery<'_>,
    files: &Held<'_>,
    file: &str,
    read: impl FnOnce(&str) -> Result<HashMap<String, ReadTrack>, String>,
) -> Result<Vec<FileReceipt>, DeliveryError> {
    if delivery.tracks.is_empty() {
        return Ok(Vec::new());
    }
    let file = delivery.named(file);
    let found = read(files.text(&file)?).map_err(|e| unreadable(&file, e))?;
    let off = off(delivery, &found).map_err(|reason| unreadable(&file, reason))?;
    let said = "every position of every track; names and groups";
    Ok(vec![FileReceipt::of(&file, files, said, off)?])
}

fn off(delivery: &Delivery<'_>, found: &HashMap<String, ReadTrack>) -> Result<f64, String> {
    let mut largest: f64 = 0.0;
    for (track, called) in &delivery.tracks {
        let identity = track.id.to_string();
        let read = found.get(&identity);
        let Some(read) = read.filter(|r| r.at.len() == track.samples.len()) else {
            return Err(format!("track {identity} is incomplete"));
        };
        let wanted = match called.name.trim() {
            "" => identity.as_str(),
            name => name,
        };
        let name = match read.name.as_str() {
            "" => identity.as_str(),
            name => name,
        };
        if name != wanted || read.group != called.group.trim() {
            return Err(format!("track {identity} is called otherwise"));
        }
        for ((frame, px), sample) in read.at.iter().zip(&track.samples) {
            if *frame != sample.frame {
                return Err("frames are mixed up".to_owned());
            }
            largest = largest.max(known(px.distance_px(sample.px)));
        }
    }
    match found.len() == delivery.tracks.len() {
        true => Ok(largest),
        false => Err("there are too many tracks".to_owned()),
    }
}
