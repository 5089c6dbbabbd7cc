//! Writes 2D tracks as comma-separated text.
//!
//! Header `track,frame,x,y,sigma_x,sigma_y,weight,kind,name,group,aside`. A track is one identity in
//! `track`; its name and group are what the artist calls it, and `aside`
//! says why it takes no part, being empty where it does. Pixel positions have the picture's
//! top-left corner as origin, y down. It is read by [`crate::tracks_reader`], which shares
//! nothing with this file.

use crate::delivery::package::NamedBytes;
use crate::delivery::{Delivery, DeliveryError, TRACKS_FILE};
use crate::format::Format;
use crate::receipt::{FileReceipt, Held};
use crate::tracks_check::{self, ReadTrack};
use crate::tracks_reader;
use parallax_core::tracks::{Track, TrackKind};
use std::collections::HashMap;

/// Why tracks cannot be written.
#[derive(Debug, thiserror::Error)]
#[error("the tracks cannot be written: {0}")]
pub struct TracksError(String);

/// What the artist calls a track.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Called {
    /// Its name, empty where it has none.
    pub name: String,
    /// Its group, empty where it is in none.
    pub group: String,
    /// Why it takes no part, empty where it does.
    pub aside: String,
}

/// Writes tracks, one row per position, with their names and groups.
pub fn write<'a>(
    tracks: impl IntoIterator<Item = (&'a Track, &'a Called)>,
) -> Result<String, TracksError> {
    let mut writer = csv::Writer::from_writer(Vec::new());
    let failed = |e: &dyn std::fmt::Display| TracksError(e.to_string());
    writer
        .write_record([
            "track", "frame", "x", "y", "sigma_x", "sigma_y", "weight", "kind", "name", "group",
            "aside",
        ])
        .map_err(|e| failed(&e))?;
    for (track, Called { name, group, aside }) in tracks {
        let kind = match track.kind {
            TrackKind::Auto => "auto",
            TrackKind::Hand => "hand",
        };
        for s in &track.samples {
            let record = [
                track.id.to_string(),
                s.frame.to_string(),
                format!("{:.4}", s.px.x),
                format!("{:.4}", s.px.y),
                format!("{:.4}", s.covariance.xx.sqrt()),
                format!("{:.4}", s.covariance.yy.sqrt()),
                track.weight.to_string(),
                kind.to_owned(),
                name.clone(),
                group.clone(),
                aside.clone(),
            ];
            writer.write_record(record).map_err(|e| failed(&e))?;
        }
    }
    let bytes = writer.into_inner().map_err(|e| failed(&e))?;
    String::from_utf8(bytes).map_err(|e| failed(&e))
}

/// The format.
pub struct Rows;

impl Format for Rows {
    fn write(&self, delivery: &Delivery<'_>) -> Result<Vec<NamedBytes>, DeliveryError> {
        tracks_check::written(delivery, TRACKS_FILE, || {
            let tracks = delivery.tracks.iter().map(|(t, called)| (*t, called));
            Ok(write(tracks)?.into_bytes())
        })
    }

    fn check(
        &self,
        delivery: &Delivery<'_>,
        files: &Held<'_>,
    ) -> Result<Vec<FileReceipt>, DeliveryError> {
        tracks_check::receipt(delivery, files, TRACKS_FILE, |text| {
            let read = tracks_reader::read_csv(text).map_err(|e| e.to_string())?;
            let one = |(track, identity): (Track, String)| {
                let of = |all: &HashMap<_, String>| all.get(&track.id).cloned().unwrap_or_default();
                let (name, group) = (of(&read.names), of(&read.groups));
                let at = track.samples.iter().map(|s| (s.frame, s.px)).collect();
                (identity, ReadTrack { name, group, at })
            };
            Ok(read
                .tracks
                .into_iter()
                .zip(read.identities)
                .map(one)
                .collect())
        })
    }
}
