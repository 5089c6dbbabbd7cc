//! `batch`: match, orient and deliver over a list of shots.
//!
//! Each shot is commands of this program of their own, with their own exit status and log, so that one that breaks takes
//! no other along. A shot that is finished and whose plate and wishes are the same is skipped. `--shard I/N` does every
//! N-th shot; any scheduler can run the shards, which share nothing but the folder that they write into. What there is
//! then is told in a table, as JSON and as a page.

mod job;
mod page;

use crate::Failure;
use clap::Args;
use job::{Job, RecipeOf, Shard, Shot};
use parallax_matching::delivering::now;
use serde::{Deserialize, Serialize};
use serde_json::{Value, json};
use std::fs::File;
use std::io::Write;
use std::path::{Path, PathBuf};
use std::process::{Command, Stdio};
use std::time::Instant;

/// A list of shots.
#[derive(Args)]
pub struct BatchArgs {
    /// The shots and what is done with them, `true-parallax/batch@1` (see docs/api.md).
    job: PathBuf,
    /// Do every N-th shot, beginning with the I-th.
    #[arg(long, value_name = "I/N")]
    shard: Option<Shard>,
    /// Do finished shots again.
    #[arg(long)]
    again: bool,
    /// Do nothing but tell what there is.
    #[arg(long)]
    tell: bool,
}

/// How a shot stands.
#[derive(Clone, Debug, Serialize, Deserialize)]
pub struct Status {
    /// What it was made from.
    pub fingerprint: String,
    /// Whether all its commands ended well.
    pub done: bool,
    /// Exit status of the last command; -1 where it was killed.
    pub exit: i32,
    /// What went wrong, the last line of its log.
    pub message: String,
    /// When it ended.
    pub ended: String,
    /// How long it took, s.
    pub seconds: f64,
    /// Figures of the solve.
    pub figures: Value,
    /// Folders of its deliveries.
    pub deliveries: Vec<Value>,
}

/// Runs the command.
pub fn run(args: BatchArgs) -> Result<(), Failure> {
    let job = Job::read(&args.job)?;
    let unwritable = |e: std::io::Error| {
        Failure::unreadable(format!("{} cannot be written: {e}", job.out.display()))
    };
    std::fs::create_dir_all(&job.out).map_err(unwritable)?;
    let shard = args.shard.unwrap_or(Shard::ALL);
    let own: Vec<&Shot> = job
        .shots
        .iter()
        .enumerate()
        .filter(|(index, _)| shard.does(*index))
        .map(|(_, shot)| shot)
        .collect();
    let mut broken = 0;
    for (number, shot) in own.iter().enumerate().filter(|_| !args.tell) {
        let folder = job.out.join(shot.folder());
        let fingerprint = shot.fingerprint();
        let before = status(&folder);
        let finished = before.is_some_and(|s| s.done && s.fingerprint == fingerprint);
        let count = format!("{}/{}", number + 1, own.len());
        if finished && !args.again {
            eprintln!("{count} {}: finished before", shot.name);
            continue;
        }
        eprintln!("{count} {}", shot.name);
        let made = done(shot, &folder, fingerprint).map_err(unwritable)?;
        if !made.done {
            broken += 1;
            eprintln!("{count} {}: {}", shot.name, made.message);
        }
    }
    let rows: Vec<(&Shot, Option<Status>)> = job
        .shots
        .iter()
        .map(|shot| (shot, status(&job.out.join(shot.folder()))))
        .collect();
    page::write(&job.out, &rows).map_err(unwritable)?;
    print!("{}", page::table(&rows));
    match broken {
        0 => Ok(()),
        1 => Err(Failure::broken(
            "1 shot is broken; its log says why, the others are done",
        )),
        many => Err(Failure::broken(format!(
            "{many} shots are broken; their logs say why, the others are done"
        ))),
    }
}

/// What is kept of a shot; `None` where nothing can be read.
fn status(folder: &Path) -> Option<Status> {
    serde_json::from_slice(&std::fs::read(folder.join("status.json")).ok()?).ok()
}

/// Does a shot and keeps how it stands; what was there of an earlier try is replaced, deliveries apart.
fn done(shot: &Shot, folder: &Path, fingerprint: String) -> std::io::Result<Status> {
    std::fs::create_dir_all(folder)?;
    let _ = std::fs::remove_file(folder.join("status.json"));
    let begun = Instant::now();
    let log = folder.join("log.txt");
    let mut exit = 0;
    std::fs::write(&log, "")?;
    for command in commands(shot, folder)? {
        exit = ended(&command, &log)?;
        if exit != 0 {
            break;
        }
    }
    let read = |path: PathBuf| -> Value {
        let bytes = std::fs::read(folder.join(path)).unwrap_or_default();
        serde_json::from_slice(&bytes).unwrap_or_default()
    };
    let report = read("match/report.json".into());
    let text = std::fs::read_to_string(&log).unwrap_or_default();
    let last = text.lines().rfind(|l| !l.trim().is_empty());
    let message = last.filter(|_| exit != 0).unwrap_or_default();
    let status = Status {
        fingerprint,
        done: exit == 0,
        exit,
        message: message.chars().take(500).collect(),
        ended: now(),
        seconds: crate::package::round(begun.elapsed().as_secs_f64(), 2),
        figures: report["solve"].clone(),
        deliveries: read("deliveries.json".into())["deliveries"]
            .as_array()
            .cloned()
            .unwrap_or_default(),
    };
    match page::frame(shot) {
        Some(jpeg) => std::fs::write(folder.join("frame.jpg"), jpeg)?,
        None => drop(std::fs::remove_file(folder.join("frame.jpg"))),
    }
    let text = serde_json::to_vec_pretty(&status)?;
    let beside = folder.join(".status.part");
    std::fs::write(&beside, text)?;
    std::fs::rename(&beside, folder.join("status.json"))?;
    Ok(status)
}

/// What is run for a shot, one after the other; the last one's answer is kept.
fn commands(shot: &Shot, folder: &Path) -> std::io::Result<Vec<Running>> {
    let path = |p: &Path| p.display().to_string();
    let (plate, matched) = (path(&shot.plate), folder.join("match"));
    let mut line = vec!["match".to_owned(), plate.clone()];
    line.extend(["--rate".to_owned(), shot.rate.to_string()]);
    line.extend(["--out".to_owned(), path(&matched)]);
    line.extend(shot.options.iter().cloned());
    // What recipes may ask for of a camera file has to be in it.
    let bodies = "--bodies".to_owned();
    if !shot.recipes.is_empty() && !line.contains(&bodies) {
        line.push(bodies);
    }
    let mut all = vec![Running { line, answer: None }];
    let mut camera = matched.join("camera.json");
    let tracks = matched.join("tracks.csv");
    if let Some(statements) = &shot.statements {
        let oriented = folder.join("orient");
        let line = [
            "orient",
            &path(&camera),
            &path(statements),
            "--tracks",
            &path(&tracks),
            "--out",
            &path(&oriented),
        ];
        all.push(Running {
            line: line.map(str::to_owned).to_vec(),
            answer: None,
        });
        camera = oriented.join("camera.json");
    }
    if shot.recipes.is_empty() {
        return Ok(all);
    }
    let mut line: Vec<String> = [
        "deliver",
        &path(&camera),
        "--tracks",
        &path(&tracks),
        "--plate",
        &plate,
        "--name",
        &shot.name,
    ]
    .map(str::to_owned)
    .to_vec();
    line.extend(["--out".to_owned(), path(&folder.join("delivered"))]);
    if let Some(statements) = &shot.statements {
        line.extend(["--statements".to_owned(), path(statements)]);
    }
    let mut whole = Vec::new();
    for recipe in &shot.recipes {
        match recipe {
            RecipeOf::Named(name) => line.extend(["--recipe".to_owned(), name.clone()]),
            RecipeOf::Whole(recipe) => whole.push(recipe),
        }
    }
    if !whole.is_empty() {
        let file = folder.join("recipes.json");
        std::fs::write(&file, serde_json::to_vec_pretty(&json!(whole))?)?;
        line.extend(["--recipe".to_owned(), path(&file)]);
    }
    all.push(Running {
        line,
        answer: Some(folder.join("deliveries.json")),
    });
    Ok(all)
}

/// A command of this program, and the file that gets its answer.
struct Running {
    line: Vec<String>,
    answer: Option<PathBuf>,
}

/// Runs a command with its words in a log; its exit status.
fn ended(command: &Running, log: &Path) -> std::io::Result<i32> {
    let mut words = File::options().append(true).open(log)?;
    writeln!(words, "$ true-parallax {}", command.line.join(" "))?;
    let answer = match &command.answer {
        Some(path) => Stdio::from(File::create(path)?),
        None => Stdio::from(words.try_clone()?),
    };
    let told = Command::new(std::env::current_exe()?)
        .args(&command.line)
        .stdin(Stdio::null())
        .stdout(answer)
        .stderr(words)
        .status()?;
    Ok(told.code().unwrap_or(-1))
}
