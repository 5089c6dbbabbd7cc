//! A movie of numbered pictures, by the system's ffmpeg: H.264 in MP4 at an exact rate, read back before it counts.

use crate::child;
use crate::movie::Movie;
use crate::{MediaError, movie};
use parallax_core::plate::FrameRate;
use parallax_core::progress::Progress;
use serde::{Deserialize, Serialize};
use std::path::Path;
use std::process::Command;
use std::time::Duration;

/// How a movie is made.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(default, deny_unknown_fields)]
pub struct MovieKind {
    /// Numbered PNG instead of one MP4.
    pub pictures: bool,
    /// Whether the frame's number is written into the picture.
    pub numbers: bool,
    /// Rays a px: 4 quick, 16 fine, 36 finest.
    pub rays: u32,
}

impl Default for MovieKind {
    fn default() -> Self {
        Self {
            pictures: false,
            numbers: true,
            rays: 16,
        }
    }
}

/// Most rays a px.
const MOST_RAYS: u32 = 100;

impl MovieKind {
    /// Within bounds.
    pub fn is_possible(&self) -> bool {
        (1..=MOST_RAYS).contains(&self.rays)
    }
}

/// So long no picture may take.
const STANDING_STILL: Duration = Duration::from_secs(60);

/// Makes a movie of `000001.png` and so on in a folder, `count` of them. It is at `to` when this succeeds and not
/// before.
pub fn encode(
    folder: &Path,
    count: usize,
    rate: FrameRate,
    to: &Path,
    progress: &dyn Progress,
) -> Result<(), MediaError> {
    let partial = to.with_extension("part.mp4");
    let failed = |reason: String| MediaError::Ffmpeg { reason };
    let mut command = Command::new("ffmpeg");
    command
        .current_dir(folder)
        .args(["-nostdin", "-v", "error", "-y", "-progress", "pipe:1", "-xerror"])
        .args(["-protocol_whitelist", "file", "-framerate"])
        .arg(rate.to_string())
        .args(["-f", "image2", "-start_number", "1", "-i", "%06d.png"])
        // Even sides, as the coding wants them, and colours that say what they are.
        .args(["-vf", "pad=ceil(iw/2)*2:ceil(ih/2)*2,scale=out_color_matrix=bt709:out_range=tv,format=yuv420p"])
        .args(["-c:v", "libx264", "-preset", "veryfast", "-crf", "16"])
        .args(["-colorspace", "bt709", "-color_primaries", "bt709", "-color_trc", "bt709", "-color_range", "tv"])
        .args(["-movflags", "+faststart"])
        .arg(movie::source(&partial));
    let mut done = 0;
    let hear = |line: &str| {
        let told = line
            .strip_prefix("frame=")
            .and_then(|n| n.trim().parse().ok());
        let forward = told.is_some_and(|now: usize| now > done);
        done = told.unwrap_or(done);
        progress.report("writing the movie", done, count);
        forward
    };
    let (success, said) = child::followed(
        &mut command,
        STANDING_STILL,
        || progress.is_cancelled(),
        hear,
    )?;
    if !success {
        return Err(failed(
            said.lines().next().unwrap_or("it gave up").to_owned(),
        ));
    }
    let facts = Movie::open(&partial)?.facts;
    if facts.count != count || facts.rate != rate {
        let said = format!(
            "it wrote {} pictures at {}, not {count} at {rate}",
            facts.count, facts.rate
        );
        return Err(failed(said));
    }
    std::fs::rename(&partial, to).map_err(|e| failed(e.to_string()))
}

#[cfg(test)]
mod tests {
    use super::*;
    use image::RgbImage;
    use parallax_core::progress::Silent;
    use rstest::rstest;

    /// What comes out has the exact rate, every picture, and sides that players take.
    #[rstest]
    #[case::film((24_000, 1001), (96, 54))]
    #[case::odd_sides((25, 1), (97, 55))]
    fn a_movie_has_its_rate_and_its_pictures(#[case] rate: (u32, u32), #[case] size: (u32, u32)) {
        let folder = tempfile::tempdir().unwrap();
        for k in 1..=7u32 {
            let picture = RgbImage::from_pixel(size.0, size.1, image::Rgb([30 * k as u8, 90, 200]));
            picture
                .save(folder.path().join(format!("{k:06}.png")))
                .unwrap();
        }
        let (to, rate) = (
            folder.path().join("out.mp4"),
            FrameRate::new(rate.0, rate.1).unwrap(),
        );
        encode(folder.path(), 7, rate, &to, &Silent).unwrap();
        let facts = Movie::open(&to).unwrap().facts;
        assert_eq!((facts.rate, facts.count), (rate, 7));
        assert_eq!((facts.width % 2, facts.height % 2), (0, 0));
        assert!(
            encode(
                folder.path(),
                8,
                rate,
                &folder.path().join("more.mp4"),
                &Silent
            )
            .is_err()
        );
        assert!(
            !folder.path().join("more.mp4").exists(),
            "what is not whole is not there"
        );
    }
}
