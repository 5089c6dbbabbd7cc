//! Guests over the plate: one picture, or all of them as a movie or as numbered pictures.
//!
//! Page and command line hand over guests with their surfaces, the cameras and the light; what comes out depends on
//! nothing else.

use parallax_core::camera::Similarity;
use parallax_core::guest::Guest;
use parallax_core::plate::FrameRate;
use parallax_core::progress::Progress;
use parallax_core::render::{
    Cameras, Light, Piece, Quality, Scene, Shown, Sun, Traced, draw, over,
};
use parallax_core::spaces::{FrameNumber, WorldPoint};
use parallax_media::movie_out::MovieKind;
use parallax_media::{MediaError, movie_out, picture, texture};
use std::path::{Path, PathBuf};
use std::sync::Arc;

/// A guest with its surface, in the world of the cameras.
#[derive(Clone)]
pub struct Standing {
    /// The guest.
    pub guest: Guest,
    /// Its surface.
    pub surface: Arc<Traced>,
    /// Where its feature is, where it keeps to one.
    pub anchor: Option<WorldPoint>,
}

impl Standing {
    /// From its own space to the world at a time in frames; `None` where its feature is nowhere.
    pub fn placed(&self, time_frames: f64) -> Option<Similarity> {
        self.guest.placed(time_frames, |_| self.anchor)
    }
}

/// All that pictures with guests depend on, the plate apart.
pub struct Proofing {
    /// Guests that are shown.
    pub guests: Vec<Standing>,
    /// What of the set they meet.
    pub set: Vec<Piece>,
    /// The light.
    pub sun: Sun,
    /// The cameras.
    pub cameras: Cameras,
    /// How finely it is drawn.
    pub quality: Quality,
}

/// Why no picture comes out.
#[derive(Debug, thiserror::Error)]
pub enum ProofError {
    /// The plate or the movie.
    #[error(transparent)]
    Media(#[from] MediaError),
    /// A picture of another size than the camera's.
    #[error("frame {frame} is {found:?} px, the camera was solved for {expected:?}; solve again")]
    Size {
        /// The frame.
        frame: i32,
        /// Its size.
        found: (usize, usize),
        /// The camera's.
        expected: (usize, usize),
    },
    /// The disk.
    #[error("the pictures cannot be kept: {0}")]
    Disk(#[from] std::io::Error),
    /// It was stopped.
    #[error("stopped; the pictures drawn so far are kept and are not drawn again")]
    Cancelled,
    /// Nothing to draw.
    #[error("the plate has no frames between in and out")]
    NoFrames,
}

/// A picture of eight bits red, green, blue.
pub struct Picture {
    /// Width, px.
    pub width: usize,
    /// Height, px.
    pub height: usize,
    /// Three bytes a px.
    pub rgb: Vec<u8>,
}

impl Proofing {
    /// The plate of a frame with the guests on it; as it is where the frame has no camera.
    pub fn frame(&self, file: &Path, frame: FrameNumber) -> Result<Picture, ProofError> {
        let plate = picture::viewable(picture::decode(file)?, 0.0);
        let (width, height) = (plate.width() as usize, plate.height() as usize);
        let mut rgb = plate.into_raw();
        let shown = |s: &Standing| {
            (!s.guest.hidden)
                .then(|| {
                    Shown::of(s.surface.clone(), frame, &self.quality, |time| {
                        s.placed(time)
                    })
                })
                .flatten()
        };
        let guests: Vec<Shown> = self.guests.iter().filter_map(shown).collect();
        let scene = Scene {
            guests: &guests,
            set: &self.set,
            light: Light::from(&self.sun),
        };
        if let Some(drawn) = draw(&scene, &self.cameras, frame, &self.quality) {
            if (drawn.width, drawn.height) != (width, height) {
                return Err(ProofError::Size {
                    frame: frame.0,
                    found: (width, height),
                    expected: (drawn.width, drawn.height),
                });
            }
            over::over(&mut rgb, &drawn);
        }
        Ok(Picture { width, height, rgb })
    }

    /// Draws all frames; they are at `to`, a file or a folder, when this succeeds and not before. Pictures that an
    /// earlier try left beside it are not drawn again.
    pub fn movie(
        &self,
        frames: &[(FrameNumber, PathBuf)],
        (name, rate, kind): (&str, FrameRate, &MovieKind),
        to: &Path,
        progress: &dyn Progress,
    ) -> Result<usize, ProofError> {
        if frames.is_empty() {
            return Err(ProofError::NoFrames);
        }
        let partial = to.with_extension("drawn");
        std::fs::create_dir_all(&partial)?;
        for (k, (frame, file)) in frames.iter().enumerate() {
            progress.report("drawing guests", k, frames.len());
            if progress.is_cancelled() {
                return Err(ProofError::Cancelled);
            }
            let out = partial.join(format!("{:06}.png", k + 1));
            if out.exists() {
                continue;
            }
            let mut made = self.frame(file, *frame)?;
            if kind.numbers {
                over::stamped(
                    &mut made.rgb,
                    made.width,
                    made.height,
                    &format!("{name} {}", frame.0),
                );
            }
            let bytes = texture::encode_rgb(made.width as u32, made.height as u32, made.rgb);
            let writing = out.with_extension("part");
            std::fs::write(&writing, bytes)?;
            std::fs::rename(&writing, &out)?;
        }
        if kind.pictures {
            for (k, (frame, _)) in frames.iter().enumerate() {
                let from = partial.join(format!("{:06}.png", k + 1));
                std::fs::rename(from, partial.join(format!("{name}.{:04}.png", frame.0)))?;
            }
            // What an earlier try left there is replaced.
            let _ = std::fs::remove_dir_all(to);
            std::fs::rename(&partial, to)?;
        } else {
            movie_out::encode(&partial, frames.len(), rate, to, progress).map_err(|e| match e {
                MediaError::Cancelled => ProofError::Cancelled,
                other => other.into(),
            })?;
            // The movie is whole; pictures that stay take room and nothing else.
            let _ = std::fs::remove_dir_all(&partial);
        }
        Ok(frames.len())
    }
}
