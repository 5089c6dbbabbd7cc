//! The command line: `demo` and `serve` start the application, `match` solves a plate
//! without browser or database, `orient` puts its world upright and to scale, `slip` and `path` tell of a place in it, `proof` puts guests into it, `deliver` hands it on, `batch` does all of it for many shots,
//! `track` only follows features, `still` and `rails` do so for one photograph, `lens` and
//! `undistort` for straight lines, `extract` for movies, `probe` says what a plate holds, `render` makes
//! synthetic plates with known truth and `compare` and `strays` hold a camera and tracks against a truth.
//!
//! Exit status: 0 done, 2 wrong usage, 3 input unreadable, 4 not solvable, 5 some shots of a batch broken.
#![cfg_attr(test, allow(clippy::unwrap_used))]

mod batch;
mod compare;
mod deliver;
mod extract;
mod following;
mod guests;
mod lens;
mod match_plate;
mod orient;
mod package;
mod probe;
mod proof;
mod rails;
mod recipes;
mod render;
mod reopened;
mod serve;
mod slip;
mod still;
mod strays;
mod told;
mod track;
mod undistort;
mod values;

use clap::{Parser, Subcommand};
use std::io::Write;
use std::process::ExitCode;

/// Matches the camera of a plate.
#[derive(Parser)]
#[command(name = "true-parallax", version, about)]
struct Line {
    #[command(subcommand)]
    command: Command,
}

#[derive(Subcommand)]
enum Command {
    /// Start the application with the demo shots open in it.
    Demo(serve::DemoArgs),
    /// Start the application.
    Serve(serve::ServeArgs),
    /// Follow features in a plate, solve its camera and write it.
    Match(Box<match_plate::MatchArgs>),
    /// Follow features in a plate and write the tracks.
    Track(track::TrackArgs),
    /// Solve the camera of one photograph from rails and write it.
    Still(still::StillArgs),
    /// Suggest rails for a photograph: prints what `still` reads.
    Rails(rails::RailsArgs),
    /// Solve a lens from straights; write it with its ST maps.
    Lens(lens::LensArgs),
    /// Put a solved world where statements have it; write its camera.
    Orient(orient::OrientArgs),
    /// Forecast how far CG at a place slips, and say what would lessen it.
    Slip(slip::SlipArgs),
    /// Draw guests over a plate through a solved camera, as a movie or numbered pictures.
    Proof(Box<proof::ProofArgs>),
    /// Match, orient and deliver a list of shots, or every N-th of them.
    Batch(batch::BatchArgs),
    /// Write a solved camera by recipes, for whoever receives it; read back and proven.
    Deliver(Box<deliver::DeliverArgs>),
    /// Write where a place in space is seen on each frame.
    Path(slip::PathArgs),
    /// Write a plate undistorted, with its ST maps and the proof that they lead back.
    Undistort(undistort::UndistortArgs),
    /// Take a plate out of a movie.
    Extract(extract::ExtractArgs),
    /// Print what a plate holds.
    Probe(probe::ProbeArgs),
    /// Render a synthetic plate with its truth.
    Render(render::RenderArgs),
    /// Hold a solved camera file against a true one.
    Compare(compare::CompareArgs),
    /// Decode pictures for the application that started this.
    #[command(name = serve::DECODING, hide = true)]
    Decode,
    /// Hold tracks of a rendered plate against its truth.
    Strays(strays::StraysArgs),
}

/// A failure with its exit status.
#[derive(Debug)]
pub struct Failure {
    status: u8,
    sentence: String,
}

impl Failure {
    /// Wrong usage.
    pub fn usage(sentence: impl ToString) -> Self {
        Self {
            status: 2,
            sentence: sentence.to_string(),
        }
    }

    /// Input that cannot be read (or output that cannot be written).
    pub fn unreadable(sentence: impl ToString) -> Self {
        Self {
            status: 3,
            sentence: sentence.to_string(),
        }
    }

    /// Some of several things are broken.
    pub fn broken(sentence: impl ToString) -> Self {
        Self {
            status: 5,
            sentence: sentence.to_string(),
        }
    }

    /// No camera.
    pub fn unsolvable(sentence: impl ToString) -> Self {
        Self {
            status: 4,
            sentence: sentence.to_string(),
        }
    }
}

fn main() -> ExitCode {
    let done = match Line::parse().command {
        Command::Demo(args) => serve::demo(args),
        Command::Serve(args) => serve::serve(args),
        Command::Match(args) => match_plate::run(*args),
        Command::Track(args) => track::run(args),
        Command::Still(args) => still::run(args),
        Command::Rails(args) => rails::run(args),
        Command::Lens(args) => lens::run(args),
        Command::Orient(args) => orient::run(args),
        Command::Slip(args) => slip::run(args),
        Command::Proof(args) => proof::run(*args),
        Command::Batch(args) => batch::run(args),
        Command::Deliver(args) => deliver::run(*args),
        Command::Path(args) => slip::path(args),
        Command::Undistort(args) => undistort::run(args),
        Command::Extract(args) => extract::run(args),
        Command::Probe(args) => probe::run(args),
        Command::Render(args) => render::run(args),
        Command::Compare(args) => compare::run(args),
        Command::Decode => serve::decode(),
        Command::Strays(args) => strays::run(args),
    };
    match done {
        Ok(()) => ExitCode::SUCCESS,
        Err(failure) => {
            // Nobody may be there to read it; the status says it too.
            let _ = writeln!(std::io::stderr(), "true-parallax: {}", failure.sentence);
            ExitCode::from(failure.status)
        }
    }
}
