//! Plates on disk: numbered picture sequences, decoding, viewing copies.
//!
//! [`sequence`] finds what a folder holds, [`picture`] decodes one file within limits,
//! [`plate`] hands frames to the core, [`viewing`] makes the copies that the browser plays,
//! [`mattes`] says what is left out of a frame, [`movie`] takes a plate out of a movie,
//! [`colour`] reads and writes in full depth for deliveries, [`exif`] reads what a photograph says of its camera,
//! [`stated_rate`] what pictures say of their rate. [`apart`] decodes where a breakdown takes nothing along.
#![deny(missing_docs)]
#![cfg_attr(test, allow(clippy::unwrap_used))]

pub mod apart;
mod child;
pub mod colour;
pub mod exif;
pub mod exr_header;
mod jpeg_end;
pub mod mattes;
pub mod movie;
pub mod movie_out;
pub mod picture;
pub mod pin;
pub mod plate;
pub mod sequence;
pub mod stated_rate;
pub mod texture;
pub mod viewing;

pub use mattes::Mattes;
pub use movie::Movie;
pub use plate::Plate;
pub use sequence::Sequence;

use parallax_core::spaces::FrameNumber;
use std::path::PathBuf;

/// Why a plate cannot be taken in.
#[derive(Debug, thiserror::Error)]
pub enum MediaError {
    /// The folder cannot be listed.
    #[error("the folder {} cannot be read: {source}", folder.display())]
    Folder {
        /// Which folder.
        folder: PathBuf,
        /// Why.
        source: std::io::Error,
    },
    /// No numbered pictures.
    #[error("{} holds no numbered pictures (PNG, JPEG, TIFF or OpenEXR) and no photograph; name frames like shot.1001.png", folder.display())]
    NoPictures {
        /// Which folder.
        folder: PathBuf,
    },
    /// A file is no picture, or is cut off.
    #[error("{file} is not a readable picture ({reason}); replace the file or leave the frame out")]
    NotAPicture {
        /// File name.
        file: String,
        /// What the decoder says.
        reason: String,
    },
    /// Larger than what is decoded.
    #[error(
        "{file} states a size of {width}x{height} px; pictures up to {} px a side and {} megapixels are read",
        picture::MOST_SIDE_PX,
        picture::MOST_MEGAPIXELS
    )]
    TooLarge {
        /// File name.
        file: String,
        /// Stated width.
        width: u32,
        /// Stated height.
        height: u32,
    },
    /// Frames of different sizes.
    #[error(
        "the frames differ in size: frame {first} is {width}x{height} px, frame {frame} is {other_width}x{other_height} px. A plate has one size; leave those frames out or take the right pass"
    )]
    MixedSizes {
        /// First frame.
        first: FrameNumber,
        /// Its width.
        width: u32,
        /// Its height.
        height: u32,
        /// The first frame of another size.
        frame: FrameNumber,
        /// Its width.
        other_width: u32,
        /// Its height.
        other_height: u32,
    },
    /// Numbers are missing.
    #[error(
        "frames are missing: {}. Supply them, choose a range without gaps, or bridge the gaps",
        sequence::ranges_text(gaps)
    )]
    Gaps {
        /// Missing ranges, inclusive.
        gaps: Vec<(i32, i32)>,
    },
    /// No ffmpeg on this machine.
    #[error(
        "movies are read by ffmpeg and ffprobe, which are not installed here; install the package ffmpeg, or take in numbered pictures. Everything else works"
    )]
    NoFfmpeg,
    /// A movie that cannot be taken in.
    #[error(
        "{file} cannot be taken in: {reason}. Nothing was kept; write the movie anew or hand in numbered pictures"
    )]
    NotAMovie {
        /// File name.
        file: String,
        /// Why.
        reason: String,
    },
    /// Pictures at uneven times.
    #[error(
        "{file} has a variable rate, between {lowest:.3} and {highest:.3} pictures a second: frames of such a movie have no place in time that a camera could be delivered at. Write it at a constant rate first, for example `ffmpeg -i IN -fps_mode cfr -r 25 OUT.mov`"
    )]
    VariableRate {
        /// File name.
        file: String,
        /// Pictures a second where they are fewest.
        lowest: f64,
        /// And where they are most.
        highest: f64,
    },
    /// ffmpeg failed, or wrote something else than it decoded.
    #[error("ffmpeg did not do its work: {reason}")]
    Ffmpeg {
        /// Why.
        reason: String,
    },
    /// ffmpeg or ffprobe got nowhere.
    #[error(
        "reading the movie was given up after {seconds} s without a step; nothing was kept. The file may be damaged, or the disk or network it lies on may not answer"
    )]
    TooSlow {
        /// How long it was waited for, s.
        seconds: u64,
    },
    /// A matte that does not fit the plate.
    #[error("{reason}")]
    Matte {
        /// What is wrong, as a sentence.
        reason: String,
    },
    /// The artist stopped it.
    #[error("taking in was cancelled")]
    Cancelled,
    /// A picture cannot be written.
    #[error("{file} cannot be written: {reason}")]
    NotWritten {
        /// Which file.
        file: String,
        /// Why.
        reason: String,
    },
    /// A viewing copy cannot be written.
    #[error("the viewing copy of frame {frame} cannot be made: {reason}")]
    Viewing {
        /// Which frame.
        frame: FrameNumber,
        /// Why.
        reason: String,
    },
}
