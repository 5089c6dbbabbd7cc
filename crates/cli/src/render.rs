//! `render`: synthetic plates with known truth, to try the program on.

use crate::Failure;
use clap::{Args, ValueEnum};
use parallax_core::lens::Distortion;
use parallax_demo::plates::{self, Coding};
use parallax_demo::take::Take;
use parallax_demo::trial::{Move, Moving, Trial};
use std::path::PathBuf;

/// What to render and where.
#[derive(Args)]
pub struct RenderArgs {
    #[command(flatten)]
    what: TakeArgs,
    /// Folder for the pictures; the truth is written beside it.
    #[arg(long)]
    out: PathBuf,
    /// JPEG quality; PNG when left out.
    #[arg(long)]
    jpeg: Option<u8>,
}

/// A take with known truth.
#[derive(Args)]
pub struct TakeArgs {
    /// `terrace-walk`, `wagon-pass`, `valley-pan`, `reading-room`, or `trial` for a set drawn from --seed.
    #[arg(value_enum)]
    shot: Shot,
    /// Draws the set, the path and the textures of a trial.
    #[arg(long, default_value_t = 1)]
    seed: u64,
    /// Size of a trial, such as 1280x720.
    #[arg(long, default_value = "1280x720")]
    size: String,
    /// Frames of a trial.
    #[arg(long, default_value_t = 72)]
    frames: usize,
    /// Grain of a trial, levels.
    #[arg(long, default_value_t = 1.5)]
    grain: f64,
    /// Rays per pixel, a square number.
    #[arg(long, default_value_t = 9)]
    rays: usize,
    /// A cart over a quarter of the picture moves by itself.
    #[arg(long)]
    mover: bool,
    /// A cloth over this share of the picture goes along with the camera and waves, such as 0.3.
    #[arg(long, conflicts_with = "mover")]
    cloth: Option<f64>,
    /// How the camera of a trial moves.
    #[arg(long, value_enum, default_value_t = Motion::Walk)]
    camera: Motion,
    /// How far a trial's camera turns on the spot, degrees.
    #[arg(long, default_value_t = 20.0)]
    degrees: f64,
    /// Focal length of a trial at the end by that at the start, such as 1.4.
    #[arg(long, default_value_t = 1.0)]
    zoom: f64,
    /// Time from the exposure of a trial's first row to that of its last, ms at 25 frames a second.
    #[arg(long, default_value_t = 0.0)]
    readout: f64,
    /// How much more than usual the hands of a trial's walk shake.
    #[arg(long, default_value_t = 1.0)]
    shake: f64,
    /// Lens terms of a trial.
    #[arg(long, value_parser = crate::values::distortion, allow_hyphen_values = true)]
    lens: Option<Distortion>,
}

#[derive(Clone, Copy, ValueEnum)]
enum Shot {
    TerraceWalk,
    WagonPass,
    ValleyPan,
    ReadingRoom,
    Trial,
}

#[derive(Clone, Copy, ValueEnum)]
enum Motion {
    Walk,
    Slide,
    Turn,
    Start,
    Rest,
    Loop,
    Covered,
}

/// Runs the command.
pub fn run(args: RenderArgs) -> Result<(), Failure> {
    let take = args.what.take()?;
    let total = take.frame_count;
    let coding = args
        .jpeg
        .map_or(Coding::Png, |q| Coding::Jpeg(q.clamp(1, 100)));
    plates::write(&take, &args.out, coding, |done| {
        eprintln!("render {done}/{total}")
    })
    .map_err(Failure::unreadable)
}

impl TakeArgs {
    /// The take.
    pub fn take(&self) -> Result<Take, Failure> {
        match self.shot {
            Shot::TerraceWalk => return Ok(parallax_demo::terrace::take()),
            Shot::WagonPass => return Ok(parallax_demo::wagon::take()),
            Shot::ValleyPan => return Ok(parallax_demo::valley::take()),
            Shot::ReadingRoom => return Ok(parallax_demo::reading_room::take()),
            Shot::Trial => {}
        }
        let (width, height) = crate::values::pair(&self.size).map_err(Failure::usage)?;
        let sides = [width, height];
        if sides
            .iter()
            .any(|s| s.fract() != 0.0 || !(32.0..=8192.0).contains(s))
            || !(1..=10_000).contains(&self.frames)
        {
            return Err(Failure::usage(
                "a trial has 32 to 8192 px a side and 1 to 10000 frames",
            ));
        }
        let camera = match self.camera {
            Motion::Walk => Move::Walk,
            Motion::Slide => Move::Slide,
            Motion::Turn => Move::Turn,
            Motion::Start => Move::Start,
            Motion::Rest => Move::Rest,
            Motion::Loop => Move::Loop,
            Motion::Covered => Move::Covered,
        };
        let trial = Trial {
            width_px: width as u32,
            height_px: height as u32,
            frame_count: self.frames,
            grain_levels: self.grain,
            rays: self.rays.clamp(1, 64),
            moving: match (self.mover, self.cloth) {
                (true, _) => Moving::Cart,
                (false, Some(share)) => Moving::Cloth(share.clamp(0.02, 0.8)),
                (false, None) => Moving::Nothing,
            },
            distortion: self.lens.unwrap_or(Distortion::NONE),
            camera,
            turn_deg: self.degrees.clamp(-360.0, 360.0),
            zoom: self.zoom.clamp(0.1, 10.0),
            readout: self.readout.clamp(0.0, 40.0) / 40.0,
            shake: self.shake.clamp(0.0, 10.0),
            ..Trial::new(self.seed)
        };
        Ok(trial.take())
    }
}
