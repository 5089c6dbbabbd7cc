//! `match`: from files to a verified camera, without browser or database.

use crate::following::{self, FollowArgs, Followed};
use crate::package::{Stages, put, round, write};
use crate::recipes::{About, PlateOf, RecipeArgs, Written, deliver};
use crate::{Failure, lens, told, values};
use clap::{ArgGroup, Args, ValueEnum};
use parallax_core::lens::Distortion;
use parallax_core::lens::maps::Keep;
use parallax_core::orient::Orientation;
use parallax_core::plate::{FilmBack, FrameRate};
use parallax_core::progress::Silent;
use parallax_core::solve::bodies::motion::BodyLength;
use parallax_core::solve::{Attempt, Body, CameraMove, Constraints, LensTerms, SolveError, Steady};
use parallax_core::spaces::{FrameNumber, TrackId};
use parallax_core::track::FrameSource;
use parallax_core::tracks::Track;
use parallax_formats::constraints_json::ConstraintsFile;
use parallax_formats::delivery;
use parallax_formats::receipt::Receipt;
use parallax_formats::survey_csv::{self, SurveyPoint};
use parallax_formats::tracks_csv::Called;
use parallax_formats::tracks_reader::{NamedTracks, read_csv};
use parallax_matching::choosing::Choices;
use parallax_matching::constraints;
use parallax_matching::delivering::{By, Delivering, Proven, plate_lens, undistorts};
use parallax_matching::following::judged;
use parallax_matching::solving::{Focal, GivenLens, Solving, Stated, matched};
use parallax_media::{Plate, Sequence};
use serde_json::{Value, json};
use std::cell::OnceCell;
use std::collections::{BTreeMap, HashSet};
use std::path::{Path, PathBuf};

/// What to match, what is known, where to write.
#[derive(Args)]
#[command(group(ArgGroup::new("focal").args(["focal_mm", "focal_px"])))]
#[command(group(ArgGroup::new("terms").args(["lens", "lens_file", "solve_lens"])))]
pub struct MatchArgs {
    /// Folder with the numbered pictures.
    plate_dir: PathBuf,
    /// Pictures per second, an exact fraction such as 24000/1001.
    #[arg(long)]
    rate: FrameRate,
    /// Film back in mm, such as 36x20.25; 36 mm wide is assumed when it is left out.
    #[arg(long, value_parser = values::film_back)]
    film_back: Option<FilmBack>,
    /// Focal length in mm, if known: 35, or 35±1 (or 35+-1) where it is known to one standard error. With `--zoom yes`
    /// it is that of the first frame.
    #[arg(long, value_parser = values::about)]
    focal_mm: Option<Stated>,
    /// Focal length in px, if known, in the same form.
    #[arg(long, value_parser = values::about)]
    focal_px: Option<Stated>,
    /// How the camera moves; `auto` finds it out.
    #[arg(long = "move", value_enum, default_value_t = MoveArg::Auto)]
    moves: MoveArg,
    /// Whether the focal length changes; `auto` finds it out.
    #[arg(long, value_enum, default_value_t = ZoomArg::Auto)]
    zoom: ZoomArg,
    /// Time in which the sensor reads a picture from its first row to its last, ms; `auto` finds it out,
    /// `none` takes all rows for exposed at once.
    #[arg(long, value_parser = values::readout, default_value = "auto")]
    rolling_shutter: values::RollingShutter,
    /// Lens terms, such as k1=-0.1,k2=0.02.
    #[arg(long, value_parser = values::distortion, allow_hyphen_values = true)]
    lens: Option<Distortion>,
    /// A lens file, such as `lens` writes; its terms are restated for the focal length that is found.
    #[arg(long)]
    lens_file: Option<PathBuf>,
    /// Solve lens terms along with the camera: k1,k2 where nothing else is said, of k1,k2,k3,p,centre.
    #[arg(long, value_name = "TERMS", num_args = 0..=1, default_missing_value = "k1,k2",
        value_parser = values::lens_terms)]
    solve_lens: Option<LensTerms>,
    /// Points measured on the set: CSV with the columns name,x,y,z in metres, and sigma or
    /// sigma_x,sigma_y,sigma_z. They belong to the tracks of the same names; three or more hold the world.
    #[arg(long, value_name = "FILE")]
    survey: Option<PathBuf>,
    /// Up axis of the survey.
    #[arg(long, value_enum, default_value = "y", requires = "survey")]
    survey_up: values::UpArg,
    /// Lengths between features and planes that features lie on, as JSON; they pull in the last adjustment.
    #[arg(long, value_name = "FILE")]
    constraints: Option<PathBuf>,
    /// How much the speed of the camera changes from frame to frame (one standard error), mm and degrees: the
    /// smaller, the smoother. A metre is a unit of the world that is delivered.
    #[arg(long, value_name = "POSITION_MM,ROTATION_DEG", value_parser = values::steady,
        allow_hyphen_values = true)]
    smooth: Option<Steady>,
    /// Frames from which the solve starts, such as 1004-1031; they are found where none are stated.
    #[arg(long, value_name = "FIRST-LAST", value_parser = values::range, allow_hyphen_values = true)]
    start_from: Option<(i32, i32)>,
    /// Solve this of the rigid bodies that are found, by the number in report.json, instead of the scene,
    /// which is number 0.
    #[arg(long, value_name = "N")]
    body: Option<usize>,
    /// Hands things that move by themselves on with the camera, each with its landmarks.
    #[arg(long)]
    bodies: bool,
    /// Solve from these tracks instead of following features.
    #[arg(long)]
    tracks: Option<PathBuf>,
    #[command(flatten)]
    receiver: values::ReceiverArgs,
    #[command(flatten)]
    recipes: RecipeArgs,
    /// Folder to write into; made if it is not there.
    #[arg(long)]
    out: PathBuf,
    #[command(flatten)]
    follow: FollowArgs,
    /// Tracks keyed by hand, as JSON; `--hand` is the receiver's.
    #[arg(long)]
    hand_tracks: Option<PathBuf>,
    /// How long the shutter is open, degrees: said in scenes, so that what is drawn blurs alike.
    #[arg(long, default_value_t = 180.0, value_parser = values::shutter)]
    shutter: f64,
    /// Drop features whose residual exceeds this, px.
    #[arg(long)]
    limit_px: Option<f64>,
}

#[derive(Clone, Copy, PartialEq, Eq, ValueEnum)]
enum MoveArg {
    Auto,
    /// It travels.
    Free,
    /// It turns on the spot.
    Nodal,
    /// It rests.
    Locked,
}

#[derive(Clone, Copy, PartialEq, Eq, ValueEnum)]
enum ZoomArg {
    Auto,
    /// It stays.
    No,
    /// It changes.
    Yes,
}

/// Runs the command.
pub fn run(args: MatchArgs) -> Result<(), Failure> {
    let mut stages = Stages::begun();
    args.follow.check()?;
    let recipes = args.recipes.read()?;
    let (sequence, plate) = args.follow.open(&args.plate_dir, args.rate)?;
    stages.done("open");
    let mut solving = solving(&args, &plate)?;
    let survey = args
        .survey
        .as_deref()
        .map(|f| read_survey(f, args.survey_up));
    let survey = survey.transpose()?.unwrap_or_default();
    let progress = told::Lines::new();
    let followed = match &args.tracks {
        Some(file) => read_tracks(file, &plate)?,
        None => args
            .follow
            .follow(&plate, args.hand_tracks.as_deref(), &progress)?,
    };
    stages.done("track");
    let size = (plate.width_px, plate.height_px);
    let suspects = judged(&followed.tracks, size, &progress).map_err(following::failure)?;
    let choices = Choices::default();
    let solvable = choices.solvable(&followed.tracks, &suspects);
    let aside = followed.tracks.len() - solvable.trusted().count();
    stages.done("judge");
    let names = followed.called.iter();
    let names = names.map(|(id, called)| (*id, called.name.clone()));
    let (surveyed, without_track) = matched(&survey, names);
    solving.survey = surveyed;
    let lacking = match &args.constraints {
        None => None,
        Some(file) => {
            let called = |t: &Track| (t.id, followed.called()(t.id));
            let called = followed.tracks.iter().map(called).collect();
            let (constraints, lacking) = constraints::named(&read_constraints(file)?, &called);
            solving.constraints = constraints;
            Some(lacking)
        }
    };
    let failure = |e| match e {
        SolveError::OutOfRange { .. } => Failure::usage(e),
        other => Failure::unsolvable(other),
    };
    let mut attempt = solving
        .solve(solvable.candidates(), None, &Silent, &progress)
        .map_err(failure)?;
    if let Some(number) = args.body {
        let all = solvable.candidates().tracks;
        let body = solving.solve_body(all, &attempt, number, &progress);
        let found = attempt.bodies.len();
        attempt = body
            .ok_or_else(|| {
                Failure::usage(format!(
                    "there is no body {number}: {found} found, counted from 0"
                ))
            })?
            .map_err(failure)?;
    }
    stages.done("solve");
    let delivering = Delivering {
        shot: delivery::Shot {
            name: shot_name(&args.plate_dir),
            rate: args.rate,
            film_back: solving.film_back,
            film_back_assumed: args.film_back.is_none(),
            receiver: args.receiver.receiver(),
            shutter_deg: Some(args.shutter),
            keep: Keep::All,
        },
        attempt: &attempt,
        orientation: Orientation::of_attempt(&attempt),
        tracks: &choices.used(&followed.tracks),
        guests: Vec::new(),
        stated: Vec::new(),
        lengths: solving
            .constraints
            .lengths
            .iter()
            .map(BodyLength::from)
            .collect(),
        progress: &progress,
        bodies: OnceCell::new(),
        renumbered_by: 0,
        stale: Vec::new(),
    };
    let proven = delivering
        .proven(args.bodies, followed.called())
        .map_err(Failure::unreadable)?;
    write(&args.out, &proven)?;
    let pictures: BTreeMap<_, _> = sequence.files.iter().cloned().collect();
    let make = |by: &By<'_>| delivering.proven_by(by, followed.called());
    let plate_of = |lens| PlateOf {
        sequence: &sequence,
        plate: &plate,
        lens,
        rate: args.rate,
    };
    let about = About {
        name: &delivering.shot.name,
        pictures: &pictures,
        first: first_frame(&attempt),
        plate: undistorts(Some(plate_lens(&attempt))).map(plate_of),
    };
    let written = deliver(&args.out, &recipes, &about, make)?;
    stages.done("deliver");
    let mut report = report(
        &args,
        &sequence,
        &plate,
        (&followed.tracks, aside),
        &attempt,
        &proven,
        &stages,
    );
    report["deliveries"] = written.iter().map(Written::report).collect();
    report["solve"]["survey"] = survey_report(&attempt, &survey, &without_track);
    report["solve"]["constraints"] = constraints_report(&attempt, lacking.as_deref());
    put(&args.out.join("report.json"), &format!("{report:#}\n"))?;
    println!("{}", summary(&attempt, &proven.receipt, &args.out));
    Ok(())
}

fn first_frame(attempt: &Attempt) -> FrameNumber {
    attempt.frames.first().map_or(FrameNumber(0), |f| f.frame)
}

fn shot_name(folder: &Path) -> String {
    folder
        .file_name()
        .map_or_else(|| "shot".to_owned(), |n| n.to_string_lossy().into_owned())
}

fn solving(args: &MatchArgs, plate: &Plate) -> Result<Solving, Failure> {
    let assumed = || FilmBack::assumed(plate.width_px, plate.height_px);
    let file = args
        .lens_file
        .as_deref()
        .map(|f| lens::read_for(f, plate))
        .transpose()?;
    Ok(Solving {
        width_px: plate.width_px,
        height_px: plate.height_px,
        frames: plate.frames().len(),
        film_back: args.film_back.unwrap_or_else(assumed),
        focal: match (args.focal_px, args.focal_mm) {
            (Some(px), _) => Focal::Px(px),
            (None, Some(mm)) => Focal::Mm(mm),
            (None, None) => Focal::Unknown,
        },
        moves: match args.moves {
            MoveArg::Auto => None,
            MoveArg::Free => Some(CameraMove::Free),
            MoveArg::Nodal => Some(CameraMove::Nodal),
            MoveArg::Locked => Some(CameraMove::Locked),
        },
        zooms: match args.zoom {
            ZoomArg::Auto => None,
            ZoomArg::No => Some(false),
            ZoomArg::Yes => Some(true),
        },
        lens: match (file, args.lens) {
            (Some(lens), _) => GivenLens::Calibrated(lens),
            (None, Some(terms)) => GivenLens::OfThisCamera(terms),
            (None, None) => GivenLens::None,
        },
        readout: args.rolling_shutter.at(args.rate),
        solve_lens: args.solve_lens.unwrap_or(LensTerms::NONE),
        steady: args.smooth,
        survey: Vec::new(),
        constraints: Constraints::default(),
        start_from: args
            .start_from
            .map(|(a, b)| (FrameNumber(a), FrameNumber(b))),
        limit_px: args.limit_px,
    })
}

fn read_constraints(file: &Path) -> Result<ConstraintsFile, Failure> {
    let text = std::fs::read_to_string(file).map_err(|e| {
        Failure::unreadable(format!(
            "the constraints {} cannot be read: {e}",
            file.display()
        ))
    })?;
    ConstraintsFile::read(&text).map_err(Failure::unreadable)
}

fn read_survey(file: &Path, up: values::UpArg) -> Result<Vec<SurveyPoint>, Failure> {
    let text = std::fs::read_to_string(file).map_err(|e| {
        Failure::unreadable(format!("the survey {} cannot be read: {e}", file.display()))
    })?;
    survey_csv::read(&text, up.axes()).map_err(Failure::unreadable)
}

/// Tracks of a file with what they are called there.
fn read_tracks(file: &Path, plate: &Plate) -> Result<Followed, Failure> {
    let text = std::fs::read_to_string(file).map_err(|e| {
        Failure::unreadable(format!(
            "the track file {} cannot be read: {e}",
            file.display()
        ))
    })?;
    let NamedTracks {
        tracks,
        mut names,
        mut groups,
        ..
    } = read_csv(&text).map_err(Failure::unreadable)?;
    let known: HashSet<FrameNumber> = plate.frames().iter().copied().collect();
    let mut samples = tracks.iter().flat_map(|t| &t.samples);
    if let Some(stray) = samples.find(|s| !known.contains(&s.frame)) {
        return Err(Failure::unreadable(format!(
            "the track file has positions on frame {}, which the plate does not have",
            stray.frame
        )));
    }
    let mut called = |id: TrackId| Called {
        name: names.remove(&id).unwrap_or_default(),
        group: groups.remove(&id).unwrap_or_default(),
        aside: String::new(),
    };
    let called = tracks.iter().map(|t| (t.id, called(t.id))).collect();
    Ok(Followed { tracks, called })
}

fn report(
    args: &MatchArgs,
    sequence: &Sequence,
    plate: &Plate,
    (tracks, aside): (&[Track], usize),
    attempt: &Attempt,
    proven: &Proven,
    stages: &Stages,
) -> Value {
    let (lens, receipt) = (&attempt.lens, &proven.receipt);
    json!({
        "plate": {
            "pattern": sequence.pattern(), "frames": plate.frames().len(),
            "first": plate.frames().first().map(|f| f.0), "last": plate.frames().last().map(|f| f.0),
            "width": plate.width_px, "height": plate.height_px, "rate": args.rate.to_string(),
        },
        "seconds": stages.as_json(),
        "tracks": {
            "count": tracks.len(),
            "positions": tracks.iter().map(|t| t.samples.len()).sum::<usize>(),
            "set_aside": aside,
        },
        "solve": {
            "verdict": attempt.verdict,
            "reasons": attempt.reasons(),
            "rms_px": attempt.rms_px,
            "frames": attempt.frames.len(),
            "landmarks": attempt.landmarks.len(),
            "positions": attempt.positions,
            "set_aside": tracks.len() - attempt.landmarks.len(),
            "move": attempt.moves,
            "zooms": attempt.zooms(),
            "tried": attempt.tried,
            "zoom_suspicion": attempt.zoom_suspicion,
            "focal_px_by_frame": attempt.zooms().then(|| {
                let frames = attempt.frames.iter();
                frames.map(|f| json!([f.frame.0, f.focal_px, f.focal_sigma_px])).collect::<Vec<_>>()
            }),
            "bodies": attempt.bodies.iter().map(body).collect::<Vec<_>>(),
            "focal_px": lens.focal_px,
            "focal_sigma_px": attempt.focal_sigma_px,
            "distortion": lens.distortion,
            "radial_sigma": attempt.radial_sigma,
            "lens_errors": attempt.lens_errors,
            "centre": lens.centre,
            "lens_suspicion": attempt.lens_suspicion,
            "smooth": attempt.steady,
            "slip_px": attempt.slip_px,
            "jump": attempt.jump,
            "readout_ms": attempt.readout.map(|(frames, _)| args.rate.ms_in_frames(frames)),
            "readout_sigma_ms": attempt.readout.map(|(_, sigma)| args.rate.ms_in_frames(sigma)),
            "parallax_deg": attempt.parallax_deg,
            "started_from": [attempt.started_from.0.0, attempt.started_from.1.0],
        },
        "receipt": {
            "files_agree": receipt.files_agree, "largest_difference_px": receipt.largest_difference_px,
            "assumptions": receipt.assumptions,
        },
        "peak_memory_bytes": told::peak_memory_bytes(),
    })
}

/// What a survey came to; null where there was none.
fn survey_report(attempt: &Attempt, survey: &[SurveyPoint], without_track: &[String]) -> Value {
    if survey.is_empty() {
        return Value::Null;
    }
    let points = attempt.survey.iter().map(|miss| {
        json!({
            "track": miss.track, "off_mm": miss.off_m.map(|m| 1000.0 * m),
            "sigma_mm": 1000.0 * miss.sigma_m, "used": miss.used,
        })
    });
    json!({
        "points": survey.len(), "without_track": without_track, "unused": attempt.survey_unused,
        "misses": points.collect::<Vec<_>>(),
    })
}

/// What constraints came to; null where there were none.
fn constraints_report(attempt: &Attempt, without_track: Option<&[String]>) -> Value {
    let Some(without_track) = without_track else {
        return Value::Null;
    };
    let misses = attempt.constraints.iter().map(|miss| {
        json!({
            "tracks": miss.tracks, "off_mm": 1000.0 * miss.off_m, "sigma_mm": 1000.0 * miss.sigma_m,
            "used": miss.used,
        })
    });
    json!({ "without_track": without_track, "misses": misses.collect::<Vec<_>>() })
}

/// A body in a report, the scene first.
fn body(body: &Body) -> Value {
    json!({
        "tracks": body.tracks.len(), "cover": body.cover, "border": body.border, "life": body.life,
        "rms_px": body.rms_px, "fit": body.fit, "weight": body.weight(),
    })
}

fn summary(attempt: &Attempt, receipt: &Receipt, out: &Path) -> Value {
    json!({
        "status": "done",
        "verdict": attempt.verdict,
        "reasons": attempt.reasons(),
        "move": attempt.moves,
        "zooms": attempt.zooms(),
        "rms_px": round(attempt.rms_px, 4),
        "frames": attempt.frames.len(),
        "landmarks": attempt.landmarks.len(),
        "lens_suspected": attempt.lens_suspicion.is_some(),
        "focal_px": round(attempt.lens.focal_px, 3),
        "receipt_px": receipt.largest_difference_px,
        "out": out.display().to_string(),
    })
}
