//! Archives that are made while they are sent, without compression: pictures have their own.

use parallax_formats::handed_on::{self, Content};
use std::io::{Cursor, Read, Write};
use std::path::Path;
use zip::write::{SimpleFileOptions, StreamWriter};

/// An archive on its way.
pub struct Archive<W: Write>(zip::ZipWriter<StreamWriter<W>>);

impl<W: Write> Archive<W> {
    /// An empty one.
    pub fn to(to: W) -> Self {
        Self(zip::ZipWriter::new_stream(to))
    }

    /// The files of an undistorted plate, frames numbered higher by so many, below a folder of a name.
    pub fn add_plate(&mut self, folder: &Path, by: i32, below: &str) -> std::io::Result<()> {
        for (name, content) in handed_on::files(folder, by)? {
            let inside = inside(below, name);
            match content {
                Content::File(path) => self.add(&inside, &mut std::fs::File::open(path)?)?,
                Content::Bytes(bytes) => self.add(&inside, &mut &bytes[..])?,
            }
        }
        Ok(())
    }

    fn add(&mut self, name: &str, from: &mut dyn Read) -> std::io::Result<()> {
        let options = SimpleFileOptions::default()
            .compression_method(zip::CompressionMethod::Stored)
            .large_file(true);
        self.0.start_file(name, options)?;
        std::io::copy(from, &mut self.0)?;
        Ok(())
    }

    /// The files of a folder, in the order of their names.
    pub fn add_folder(&mut self, folder: &Path) -> std::io::Result<()> {
        let mut names: Vec<String> = std::fs::read_dir(folder)?
            .filter_map(|e| e.ok()?.file_name().into_string().ok())
            .collect();
        names.sort();
        for name in names {
            self.add(&name, &mut std::fs::File::open(folder.join(&name))?)?;
        }
        Ok(())
    }

    /// The files of an archive.
    pub fn add_archive(&mut self, bytes: &[u8]) -> std::io::Result<()> {
        let mut other = zip::ZipArchive::new(Cursor::new(bytes))?;
        for k in 0..other.len() {
            let mut file = other.by_index(k)?;
            let name = file.name().to_owned();
            self.add(&name, &mut file)?;
        }
        Ok(())
    }

    /// The end of it.
    pub fn finish(self) -> std::io::Result<()> {
        self.0.finish()?.into_inner().flush()
    }
}

fn inside(below: &str, name: String) -> String {
    match below {
        "" => name,
        below => format!("{below}/{name}"),
    }
}
