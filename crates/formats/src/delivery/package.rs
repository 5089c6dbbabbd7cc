//! The files of a delivery together: written, put into an archive, taken out of it again.

use super::{Delivery, DeliveryError};
use rayon::prelude::*;
use std::io::{Cursor, Read, Write};
use zip::write::SimpleFileOptions;

/// A file: name and bytes.
pub type NamedBytes = (String, Vec<u8>);

/// Most bytes of a file that is taken out of an archive.
const MOST_BYTES: u64 = 2 << 30;

impl Delivery<'_> {
    /// The files of all its formats; without the receipt and what explains them.
    pub fn files(&self) -> Result<Vec<NamedBytes>, DeliveryError> {
        let written = self
            .formats
            .par_iter()
            .map(|kind| kind.format().write(self));
        let written: Result<Vec<_>, DeliveryError> = written.collect();
        let mut files: Vec<NamedBytes> = written?.into_iter().flatten().collect();
        // Formats that bring the same pictures name them alike.
        let mut seen = std::collections::HashSet::new();
        files.retain(|(name, _)| seen.insert(name.clone()));
        Ok(files)
    }
}

/// One zip archive of files.
pub fn zipped(files: &[NamedBytes]) -> Result<Vec<u8>, DeliveryError> {
    zipped_as(files, SimpleFileOptions::default())
}

/// The same, packed and laid out as it is stated.
pub(crate) fn zipped_as(
    files: &[NamedBytes],
    options: SimpleFileOptions,
) -> Result<Vec<u8>, DeliveryError> {
    let failed = |e: &dyn std::fmt::Display| DeliveryError::Package(e.to_string());
    let mut archive = zip::ZipWriter::new(Cursor::new(Vec::new()));
    for (name, bytes) in files {
        archive
            .start_file(name.as_str(), options)
            .map_err(|e| failed(&e))?;
        archive.write_all(bytes).map_err(|e| failed(&e))?;
    }
    Ok(archive.finish().map_err(|e| failed(&e))?.into_inner())
}

/// The names of the files in a zip archive.
pub fn names_zipped(archive: &[u8]) -> Result<Vec<String>, DeliveryError> {
    let archive = zip::ZipArchive::new(Cursor::new(archive))
        .map_err(|e| DeliveryError::Package(e.to_string()))?;
    Ok(archive.file_names().map(str::to_owned).collect())
}

/// One file of a zip archive.
pub fn unzipped(archive: &[u8], name: &str) -> Result<Vec<u8>, DeliveryError> {
    let failed = |e: &dyn std::fmt::Display| DeliveryError::ReadBack {
        file: name.to_owned(),
        reason: e.to_string(),
    };
    let mut archive = zip::ZipArchive::new(Cursor::new(archive)).map_err(|e| failed(&e))?;
    let file = archive.by_name(name).map_err(|e| failed(&e))?;
    let mut bytes = Vec::new();
    file.take(MOST_BYTES)
        .read_to_end(&mut bytes)
        .map_err(|e| failed(&e))?;
    Ok(bytes)
}
