//! Movies: what one holds, and a plate taken out of it, by the system's ffmpeg and ffprobe.
//!
//! The rate is an exact fraction that fits the time stamp of every picture to one tick of the
//! container's clock; where none does, the movie has a variable rate and is refused. Pictures are
//! written as PNG without loss, 16 bits where the movie has more than 8, numbered from 1 in the
//! order in which they are shown. Count, order and content are verified: ffmpeg lists the time
//! stamp and checksum of every picture that it writes, which are held against the time stamps that
//! ffprobe read from the container and against the first and the last file as they are read back.
//!
//! Only the file itself is opened: other protocols and playlist formats are shut out.

use crate::child::{self, Printed};
use crate::{MediaError, picture};
use parallax_core::plate::FrameRate;
use parallax_core::progress::Progress;
use serde::{Deserialize, Serialize};
use sha2::{Digest, Sha256};
use std::path::{Path, PathBuf};
use std::process::Command;
use std::time::Duration;

/// Endings of the movies that are taken in.
pub const ENDINGS: [&str; 6] = ["mp4", "mov", "mkv", "avi", "webm", "m4v"];
/// Containers that ffmpeg may open.
const CONTAINERS: &str = "mov,mp4,m4a,3gp,3g2,mj2,matroska,webm,avi";
/// Most pictures that are taken out of a movie.
const MOST_FRAMES: usize = 100_000;
/// Rates that pictures are taken at, besides the one that the container states.
const COMMON_RATES: [(u32, u32); 12] = [
    (24_000, 1001),
    (24, 1),
    (25, 1),
    (30_000, 1001),
    (30, 1),
    (48_000, 1001),
    (48, 1),
    (50, 1),
    (60_000, 1001),
    (60, 1),
    (100, 1),
    (120, 1),
];

/// What a movie holds.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct MovieFacts {
    /// File name.
    pub file: String,
    /// How its pictures are coded.
    pub codec: String,
    /// Width as shown, px.
    pub width: u32,
    /// Height as shown, px.
    pub height: u32,
    /// Bits per channel.
    pub bits: u32,
    /// Pictures that it holds.
    pub count: usize,
    /// Exact rate.
    pub rate: FrameRate,
    /// Time code of the first picture, where it states one.
    pub timecode: Option<String>,
    /// Whether pictures come in fields.
    pub interlaced: bool,
}

/// A movie that was looked at.
#[derive(Clone, Debug)]
pub struct Movie {
    /// Where it is.
    pub path: PathBuf,
    /// What it holds.
    pub facts: MovieFacts,
    /// Time stamps in the order in which pictures are shown, ticks of the container's clock.
    stamps: Vec<i64>,
    /// The standard by which its colours are coded, as ffmpeg names it.
    matrix: &'static str,
}

/// Whether a file's name is that of a movie.
pub fn is_movie(path: &Path) -> bool {
    let ending = path
        .extension()
        .and_then(|e| e.to_str())
        .map(str::to_ascii_lowercase);
    ending.is_some_and(|e| ENDINGS.contains(&e.as_str()))
}

#[derive(Deserialize)]
struct Probed {
    #[serde(default)]
    streams: Vec<Stream>,
    #[serde(default)]
    packets: Vec<Packet>,
    #[serde(default)]
    format: Format,
}

#[derive(Default, Deserialize)]
struct Format {
    #[serde(default)]
    tags: Tags,
}

#[derive(Default, Deserialize)]
struct Tags {
    timecode: Option<String>,
}

#[derive(Deserialize)]
struct Stream {
    codec_name: Option<String>,
    width: Option<u32>,
    height: Option<u32>,
    pix_fmt: Option<String>,
    r_frame_rate: Option<String>,
    avg_frame_rate: Option<String>,
    time_base: Option<String>,
    color_space: Option<String>,
    field_order: Option<String>,
    #[serde(default)]
    tags: Tags,
    #[serde(default)]
    side_data_list: Vec<SideData>,
}

#[derive(Deserialize)]
struct SideData {
    rotation: Option<f64>,
}

#[derive(Deserialize)]
struct Packet {
    pts: Option<i64>,
    dts: Option<i64>,
    #[serde(default)]
    flags: String,
}

fn name_of(path: &Path) -> String {
    path.file_name().map_or_else(
        || path.display().to_string(),
        |n| n.to_string_lossy().into_owned(),
    )
}

fn not_a_movie(path: &Path, reason: impl ToString) -> MediaError {
    MediaError::NotAMovie {
        file: name_of(path),
        reason: reason.to_string(),
    }
}

/// How long a movie may take to be looked at, and how long taking pictures out may stand still.
const LOOKING: Duration = Duration::from_secs(60);
const STANDING_STILL: Duration = Duration::from_secs(60);

pub(crate) fn source(path: &Path) -> std::ffi::OsString {
    let mut source = std::ffi::OsString::from("file:");
    source.push(path);
    source
}

impl Movie {
    /// Looks at a movie: every time stamp is read, no picture is decoded.
    pub fn open(path: &Path) -> Result<Self, MediaError> {
        let path = path.canonicalize().map_err(|e| not_a_movie(path, e))?;
        if !path.is_file() {
            return Err(not_a_movie(&path, "it is no file"));
        }
        let mut command = Command::new("ffprobe");
        command.args([
            "-v",
            "error",
            "-protocol_whitelist",
            "file",
            "-format_whitelist",
            CONTAINERS,
        ]);
        command.args(["-select_streams", "v:0", "-show_streams", "-show_packets"]);
        command
            .args([
                "-show_entries",
                "packet=pts,dts,flags:format_tags=timecode",
                "-of",
                "json",
            ])
            .arg(source(&path));
        let Printed {
            success,
            output,
            errors,
        } = child::printed(&mut command, LOOKING)?;
        let probed: Probed =
            serde_json::from_slice(&output).map_err(|_| not_a_movie(&path, first_line(&errors)))?;
        if !success {
            return Err(not_a_movie(&path, first_line(&errors)));
        }
        let Some(stream) = probed.streams.first() else {
            return Err(not_a_movie(
                &path,
                "it holds no pictures, only sound or data",
            ));
        };
        let shown = probed.packets.iter().filter(|p| !p.flags.contains('D'));
        let mut stamps: Vec<i64> = shown.filter_map(|p| p.pts.or(p.dts)).collect();
        stamps.sort_unstable();
        if stamps.is_empty() || stamps.len() > MOST_FRAMES {
            return Err(not_a_movie(
                &path,
                format!("it holds {} pictures", stamps.len()),
            ));
        }
        let facts = facts(&path, &probed, stream, &stamps)?;
        let small = facts.height < 720;
        let matrix = match stream.color_space.as_deref() {
            Some("bt709") => "bt709",
            Some("smpte170m" | "bt470bg" | "fcc") => "bt601",
            Some("bt2020nc" | "bt2020c") => "bt2020",
            // What is not said follows the size, as screens have it.
            _ if small => "bt601",
            _ => "bt709",
        };
        Ok(Self {
            path,
            facts,
            stamps,
            matrix,
        })
    }

    /// Writes all pictures as PNG into a folder: `000001.png` and so on. What was there of an
    /// earlier try is replaced; what is not complete or not true is taken away again.
    pub fn extract(&self, folder: &Path, progress: &dyn Progress) -> Result<(), MediaError> {
        let failed = |e: std::io::Error| MediaError::Ffmpeg {
            reason: e.to_string(),
        };
        let partial = folder.with_extension("part");
        let _ = std::fs::remove_dir_all(&partial);
        std::fs::create_dir_all(&partial).map_err(failed)?;
        let written = self
            .written(&partial, progress)
            .and_then(|()| self.verified(&partial));
        if let Err(error) = written {
            let _ = std::fs::remove_dir_all(&partial);
            return Err(error);
        }
        let _ = std::fs::remove_dir_all(folder);
        std::fs::rename(&partial, folder).map_err(failed)
    }

    fn written(&self, folder: &Path, progress: &dyn Progress) -> Result<(), MediaError> {
        let format = self.format();
        let colours = format!(
            "scale=in_color_matrix={}:flags=accurate_rnd+full_chroma_int+full_chroma_inp+lanczos,format={format}",
            self.matrix
        );
        let mut command = Command::new("ffmpeg");
        command.current_dir(folder).args([
            "-nostdin",
            "-v",
            "error",
            "-progress",
            "pipe:1",
            "-xerror",
        ]);
        command
            .args([
                "-protocol_whitelist",
                "file",
                "-format_whitelist",
                CONTAINERS,
                "-i",
            ])
            .arg(source(&self.path));
        for to in [
            &["-f", "image2", "-start_number", "1", "%06d.png"][..],
            &["-f", "framehash", "-hash", "sha256", LIST],
        ] {
            command
                .args([
                    "-map",
                    "0:v:0",
                    "-fps_mode",
                    "passthrough",
                    "-enc_time_base",
                    "-1",
                    "-vf",
                    &colours,
                ])
                .args(to);
        }
        let mut done = 0;
        let hear = |line: &str| {
            let count = line
                .strip_prefix("frame=")
                .and_then(|n| n.trim().parse().ok());
            let forward = count.is_some_and(|count: usize| count > done);
            done = count.unwrap_or(done);
            progress.report("pictures out of the movie", done, self.facts.count);
            forward
        };
        let cancelled = || progress.is_cancelled();
        let (success, said) = child::followed(&mut command, STANDING_STILL, cancelled, hear)?;
        if success {
            return Ok(());
        }
        let (there, promised) = (read_list(folder).map_or(0, |l| l.len()), self.facts.count);
        Err(not_a_movie(
            &self.path,
            format!(
                "it promises {promised} pictures, {there} could be decoded: {}",
                first_line(&said)
            ),
        ))
    }

    /// Holds what was written against what the container states.
    fn verified(&self, folder: &Path) -> Result<(), MediaError> {
        let list = read_list(folder).ok_or_else(|| MediaError::Ffmpeg {
            reason: "its list cannot be read".to_owned(),
        })?;
        let promised = self.facts.count;
        if list.len() != promised {
            let said = format!(
                "it promises {promised} pictures, {} could be decoded",
                list.len()
            );
            return Err(not_a_movie(&self.path, said));
        }
        let in_order = list.windows(2).all(|w| w[0].0 < w[1].0);
        // The stamps may be shifted as a whole, and counted in ticks of another clock.
        let share = |stamps: &[i64], k: usize| {
            let (first, last) = (stamps[0] as f64, stamps[stamps.len() - 1] as f64);
            (stamps[k] as f64 - first) / (last - first).max(1.0)
        };
        let written: Vec<i64> = list.iter().map(|l| l.0).collect();
        let slack = 0.5 / promised as f64;
        if !in_order
            || (0..promised).any(|k| (share(&written, k) - share(&self.stamps, k)).abs() > slack)
        {
            return Err(not_a_movie(
                &self.path,
                "its pictures do not come at the times that it states",
            ));
        }
        for k in [0, promised - 1] {
            let file = folder.join(format!("{:06}.png", k + 1));
            if self.checksum(&file)? != list[k].1 {
                return Err(MediaError::Ffmpeg {
                    reason: format!("picture {} was not written as it was decoded", k + 1),
                });
            }
        }
        std::fs::remove_file(folder.join(LIST)).map_err(|e| MediaError::Ffmpeg {
            reason: e.to_string(),
        })
    }

    fn format(&self) -> &'static str {
        if self.facts.bits > 8 {
            "rgb48be"
        } else {
            "rgb24"
        }
    }

    /// Of the values as ffmpeg lists them.
    fn checksum(&self, file: &Path) -> Result<String, MediaError> {
        let decoded = picture::decode(file)?;
        let mut hash = Sha256::new();
        if self.facts.bits > 8 {
            hash.update(
                decoded
                    .to_rgb16()
                    .as_raw()
                    .iter()
                    .flat_map(|v| v.to_be_bytes())
                    .collect::<Vec<u8>>(),
            );
        } else {
            hash.update(decoded.to_rgb8().as_raw());
        }
        Ok(hash.finalize().iter().map(|b| format!("{b:02x}")).collect())
    }
}

/// Where ffmpeg lists what it wrote.
const LIST: &str = "pictures.list";

/// Time stamp and checksum of every picture.
fn read_list(folder: &Path) -> Option<Vec<(i64, String)>> {
    let text = std::fs::read_to_string(folder.join(LIST)).ok()?;
    let entry = |line: &str| {
        let mut parts = line.split(',').map(str::trim);
        let stamp = parts.nth(2)?.parse().ok()?;
        Some((stamp, parts.next_back()?.to_owned()))
    };
    text.lines()
        .filter(|l| !l.starts_with('#') && !l.is_empty())
        .map(entry)
        .collect()
}

fn first_line(said: &str) -> String {
    let line = said
        .lines()
        .find(|l| !l.trim().is_empty())
        .unwrap_or("ffmpeg does not understand it");
    // What the tool names by its path is named by its file elsewhere.
    line.rsplit("] ")
        .next()
        .unwrap_or(line)
        .chars()
        .take(200)
        .collect()
}

fn facts(
    path: &Path,
    probed: &Probed,
    stream: &Stream,
    stamps: &[i64],
) -> Result<MovieFacts, MediaError> {
    let (Some(mut width), Some(mut height)) = (stream.width, stream.height) else {
        return Err(not_a_movie(path, "its pictures have no size"));
    };
    let turned = stream
        .side_data_list
        .iter()
        .filter_map(|s| s.rotation)
        .any(|r| (r / 90.0).round() as i64 % 2 != 0);
    if turned {
        std::mem::swap(&mut width, &mut height);
    }
    if width > picture::MOST_SIDE_PX || height > picture::MOST_SIDE_PX || width < 16 || height < 16
    {
        return Err(MediaError::TooLarge {
            file: name_of(path),
            width,
            height,
        });
    }
    let tick = stream
        .time_base
        .as_deref()
        .and_then(fraction)
        .ok_or_else(|| not_a_movie(path, "it has no clock"))?;
    let stated = [&stream.r_frame_rate, &stream.avg_frame_rate]
        .into_iter()
        .flatten()
        .filter_map(|r| r.parse().ok());
    let common = COMMON_RATES
        .iter()
        .filter_map(|(n, d)| FrameRate::new(*n, *d));
    let fits = |rate: &FrameRate| rate_fits(*rate, tick, stamps);
    let rate = stated.chain(common).find(fits).ok_or_else(|| {
        let seconds = |ticks: i64| ticks as f64 * tick.0 as f64 / tick.1 as f64;
        let steps = || {
            stamps
                .windows(2)
                .map(|w| seconds(w[1] - w[0]))
                .filter(|s| *s > 0.0)
        };
        let (shortest, longest) = (
            steps().fold(f64::INFINITY, f64::min),
            steps().fold(0.0, f64::max),
        );
        MediaError::VariableRate {
            file: name_of(path),
            lowest: 1.0 / longest,
            highest: 1.0 / shortest,
        }
    })?;
    let tags = [&stream.tags.timecode, &probed.format.tags.timecode];
    Ok(MovieFacts {
        file: name_of(path),
        codec: stream.codec_name.clone().unwrap_or_default(),
        width,
        height,
        bits: bits_of(stream.pix_fmt.as_deref().unwrap_or_default()),
        count: stamps.len(),
        rate,
        timecode: tags.into_iter().flatten().next().cloned(),
        interlaced: stream
            .field_order
            .as_deref()
            .is_some_and(|f| f != "progressive" && f != "unknown"),
    })
}

/// Every stamp lies within a tick of where the rate puts it.
fn rate_fits(rate: FrameRate, tick: (i64, i64), stamps: &[i64]) -> bool {
    let ticks_per_picture =
        f64::from(rate.denominator()) / f64::from(rate.numerator()) * tick.1 as f64 / tick.0 as f64;
    let first = stamps[0];
    stamps
        .iter()
        .enumerate()
        .all(|(k, s)| ((s - first) as f64 - k as f64 * ticks_per_picture).abs() <= 1.01)
}

fn fraction(text: &str) -> Option<(i64, i64)> {
    let (above, below) = text.split_once('/')?;
    let (above, below): (i64, i64) = (above.parse().ok()?, below.parse().ok()?);
    (above > 0 && below > 0).then_some((above, below))
}

/// Bits per channel by the name of the pixel format: yuv420p10le has 10.
fn bits_of(pix_fmt: &str) -> u32 {
    let plain = pix_fmt.trim_end_matches("le").trim_end_matches("be");
    let digits: String = plain
        .chars()
        .rev()
        .take_while(char::is_ascii_digit)
        .collect();
    let bits: u32 = digits
        .chars()
        .rev()
        .collect::<String>()
        .parse()
        .unwrap_or(8);
    match (plain, bits) {
        // Here the number counts the bits of a whole px.
        (p, _) if p.starts_with("nv") => 8,
        (p, 48 | 64) if p.starts_with("rgb") || p.starts_with("bgr") => 16,
        (_, 9..=16) => bits,
        _ => 8,
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    #[case("yuv420p", 8)]
    #[case("yuv422p10le", 10)]
    #[case("yuv444p12le", 12)]
    #[case("rgb48be", 16)]
    #[case("gray16le", 16)]
    #[case("rgb24", 8)]
    #[case("nv12", 8)]
    #[case("p010le", 10)]
    #[case("yuyv422", 8)]
    fn bits_are_read_from_the_pixel_format(#[case] name: &str, #[case] bits: u32) {
        assert_eq!(bits_of(name), bits);
    }

    #[rstest]
    #[case::exact(24_000, 1001, (1, 24_000), &[0, 1001, 2002, 3003], true)]
    #[case::milliseconds(30_000, 1001, (1, 1000), &[0, 33, 67, 100, 133, 167], true)]
    #[case::other_rate(25, 1, (1, 1000), &[0, 33, 67, 100, 133, 167], false)]
    #[case::jump(25, 1, (1, 1000), &[0, 40, 80, 160, 200], false)]
    fn a_rate_fits_every_stamp_or_none(
        #[case] n: u32,
        #[case] d: u32,
        #[case] tick: (i64, i64),
        #[case] stamps: &[i64],
        #[case] fits: bool,
    ) {
        assert_eq!(rate_fits(FrameRate::new(n, d).unwrap(), tick, stamps), fits);
    }
}
