//! The files of a folder as one archive, without compression: pictures have their own.

use std::io::Write;
use std::path::Path;

/// Writes the files of a folder whose names `belong`, in the order of their names, one after the other.
pub fn of_folder(folder: &Path, belong: fn(&str) -> bool, to: impl Write) -> std::io::Result<()> {
    let mut names: Vec<String> = std::fs::read_dir(folder)?
        .filter_map(|e| e.ok()?.file_name().into_string().ok())
        .filter(|n| belong(n))
        .collect();
    names.sort();
    let mut archive = zip::ZipWriter::new_stream(to);
    let options = zip::write::SimpleFileOptions::default()
        .compression_method(zip::CompressionMethod::Stored)
        .large_file(true);
    for name in names {
        archive.start_file(&name, options)?;
        std::io::copy(&mut std::fs::File::open(folder.join(&name))?, &mut archive)?;
    }
    archive.finish()?.into_inner().flush()
}
