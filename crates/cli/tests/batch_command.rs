//! Many shots: each by itself, in shards side by side, and by a scheduler that others wrote.
#![allow(clippy::unwrap_used)]

use parallax_demo::plates::{self, Coding};
use parallax_demo::trial::Trial;
use serde_json::{Value, json};
use std::path::{Path, PathBuf};
use std::process::{Child, Command, Output, Stdio};
use std::time::{Duration, Instant};

/// Three plates, each of so many shots with other features, and one plate that is not there.
fn job(root: &Path, out: &str, times: usize) -> PathBuf {
    let mut shots = Vec::new();
    for (k, name) in ["north", "south", "west wing"].into_iter().enumerate() {
        let folder = root.join("plates").join(name);
        if !folder.is_dir() {
            let trial = Trial {
                seed: 6 + k as u64,
                ..Trial::small(16)
            };
            plates::write_trial(&trial, &folder, Coding::Jpeg(92)).unwrap();
        }
        for time in 0..times {
            let called = match time {
                0 => name.to_owned(),
                time => format!("{name} {time}"),
            };
            let count = (250 - 20 * time).to_string();
            shots.push(json!({
                "name": called, "plate": format!("plates/{name}"), "rate": "25", "match": ["--count", count],
            }));
        }
    }
    if let Some(last) = shots.last_mut() {
        last["recipes"] =
            json!([{ "name": "layout", "formats": ["usd"], "receiver": { "up": "z" } }]);
    }
    let gone = json!({ "name": "gone", "plate": "plates/gone", "rate": "25" });
    shots.insert(1, gone);
    let file = root.join(format!("{out}.json"));
    let job = json!({
        "schema": "true-parallax/batch@1", "out": out, "recipes": ["3D scene"], "shots": shots,
    });
    std::fs::write(&file, job.to_string()).unwrap();
    file
}

fn batch(job: &Path, more: &[&str]) -> Command {
    let mut command = Command::new(env!("CARGO_BIN_EXE_true-parallax"));
    command.arg("batch").arg(job).args(more);
    command.stdout(Stdio::piped()).stderr(Stdio::piped());
    command
}

fn said(output: &Output) -> String {
    String::from_utf8_lossy(&output.stderr).into_owned()
}

fn summary(root: &Path, out: &str) -> Value {
    let text = std::fs::read(root.join(out).join("summary.json")).unwrap();
    serde_json::from_slice(&text).unwrap()
}

fn standings(root: &Path, out: &str) -> Vec<String> {
    let all = summary(root, out);
    let shots = all["shots"].as_array().unwrap();
    shots
        .iter()
        .map(|s| {
            format!(
                "{} {}",
                s["name"].as_str().unwrap(),
                s["standing"].as_str().unwrap()
            )
        })
        .collect()
}

/// Files that a batch came to, without what says when.
fn results(root: &Path, out: &str) -> Vec<(String, Vec<u8>)> {
    let mut found = Vec::new();
    let mut folders = vec![root.join(out)];
    while let Some(folder) = folders.pop() {
        for entry in std::fs::read_dir(folder).unwrap().flatten() {
            let path = entry.path();
            if path.is_dir() {
                folders.push(path);
                continue;
            }
            let name = path
                .strip_prefix(root.join(out))
                .unwrap()
                .display()
                .to_string();
            let timed = [
                "log.txt",
                "status.json",
                "report.json",
                "README",
                "summary",
                "index",
                "deliveries.json",
            ];
            if !timed.iter().any(|t| name.contains(t)) {
                found.push((name, std::fs::read(&path).unwrap()));
            }
        }
    }
    found.sort();
    found
}

#[test]
fn a_batch_is_the_same_in_shards_skips_what_is_finished_and_outlives_what_breaks() {
    let root = tempfile::tempdir().unwrap();
    let whole = job(root.path(), "whole", 1);
    let told = batch(&whole, &[]).output().unwrap();
    assert_eq!(told.status.code(), Some(5), "{}", said(&told));
    let told_all = standings(root.path(), "whole");
    assert_eq!(told_all[1], "gone broken");
    let solved = |s: &&String| s.ends_with(" good") || s.ends_with(" needs a look");
    assert_eq!(told_all.iter().filter(solved).count(), 3, "{told_all:?}");
    let text = String::from_utf8_lossy(&told.stdout).into_owned();
    assert!(
        text.lines().count() == 5 && text.contains("north"),
        "{text}"
    );
    let log = std::fs::read_to_string(root.path().join("whole/gone/log.txt")).unwrap();
    assert!(log.contains("plates/gone"), "{log}");
    let page = std::fs::read_to_string(root.path().join("whole/index.html")).unwrap();
    assert!(page.contains("west-wing/frame.jpg") && page.contains("class=\"broken\""));
    assert!(root.path().join("whole/west-wing/frame.jpg").is_file());
    let scene = "whole/west-wing/delivered/west-wing-layout-v001/west-wing-scene-v001.usda";
    let scene = std::fs::read_to_string(root.path().join(scene)).unwrap();
    assert!(scene.contains("upAxis = \"Z\""));

    // In two shards at once: the same, file by file.
    let parts = job(root.path(), "parts", 1);
    let shards = ["1/2", "2/2"].map(|s| batch(&parts, &["--shard", s]).spawn().unwrap());
    for shard in shards {
        shard.wait_with_output().unwrap();
    }
    let told = batch(&parts, &["--tell"]).output().unwrap();
    assert!(told.status.success(), "{}", said(&told));
    assert_eq!(
        standings(root.path(), "parts"),
        standings(root.path(), "whole")
    );
    let (one, two) = (results(root.path(), "whole"), results(root.path(), "parts"));
    assert!(one.len() > 15, "{} files", one.len());
    for ((a, bytes), (b, other)) in one.iter().zip(&two) {
        assert!(a == b && bytes == other, "{a} differs from {b}");
    }
    assert_eq!(one.len(), two.len());

    // Again: finished shots are skipped, the broken one is tried; mended, it is done.
    let from = root.path().join("plates/south");
    std::fs::rename(&from, root.path().join("plates/gone")).unwrap();
    std::fs::create_dir(&from).unwrap();
    for entry in std::fs::read_dir(root.path().join("plates/gone"))
        .unwrap()
        .flatten()
    {
        std::fs::copy(entry.path(), from.join(entry.file_name())).unwrap();
    }
    let told = batch(&whole, &[]).output().unwrap();
    assert!(told.status.success(), "{}", said(&told));
    assert!(
        said(&told).contains("north: finished before"),
        "{}",
        said(&told)
    );
    assert!(
        !said(&told).contains("south: finished before"),
        "its plate was written anew: {}",
        said(&told)
    );
    assert!(solved(&&standings(root.path(), "whole")[1]));
}

#[test]
fn a_batch_that_is_none_is_refused() {
    let root = tempfile::tempdir().unwrap();
    let file = root.path().join("job.json");
    std::fs::write(&file, "{}").unwrap();
    let told = batch(&file, &[]).output().unwrap();
    assert_eq!(told.status.code(), Some(3), "{}", said(&told));
    let told = batch(&file, &["--shard", "3/2"]).output().unwrap();
    assert_eq!(told.status.code(), Some(2), "{}", said(&told));
}

/// A cluster of one node on loopback, ended when it is dropped.
struct Cluster {
    daemons: Vec<Child>,
    conf: PathBuf,
}

impl Drop for Cluster {
    fn drop(&mut self) {
        for daemon in self.daemons.iter_mut().rev() {
            // Asked to end, so that they end what they began.
            let _ = Command::new("kill").arg(daemon.id().to_string()).status();
            let _ = daemon.wait();
        }
    }
}

/// A port that nobody listens on.
fn free_port() -> u16 {
    let socket = std::net::TcpListener::bind("127.0.0.1:0").unwrap();
    socket.local_addr().unwrap().port()
}

impl Cluster {
    /// Begun in a folder; `None` where the scheduler is not installed or does not come up.
    fn begin(folder: &Path) -> Option<Self> {
        let there = |program: &str| {
            let mut asked = Command::new(program);
            asked.arg("-V").stdout(Stdio::null()).stderr(Stdio::null());
            asked.status().is_ok()
        };
        if !["slurmctld", "slurmd", "munged"].iter().all(|p| there(p)) {
            return None;
        }
        let user = Command::new("id").arg("-u").output().ok()?;
        if user.stdout.trim_ascii() != b"0" {
            return None;
        }
        let name = Command::new("hostname").arg("-s").output().ok()?;
        let name = String::from_utf8(name.stdout).ok()?.trim().to_owned();
        let at = folder.display();
        for part in ["state", "spool"] {
            std::fs::create_dir(folder.join(part)).unwrap();
        }
        let conf = folder.join("slurm.conf");
        let (control, node) = (free_port(), free_port());
        let text = format!(
            "ClusterName=parallax\nSlurmctldHost={name}(127.0.0.1)\nAuthType=auth/munge\nAuthInfo=socket={at}/munge.socket\n\
             SlurmctldPort={control}\nSlurmdPort={node}\nStateSaveLocation={at}/state\nSlurmdSpoolDir={at}/spool\n\
             SlurmctldPidFile={at}/control.pid\nSlurmdPidFile={at}/node.pid\nSlurmUser=root\n\
             ProctrackType=proctrack/linuxproc\nTaskPlugin=task/none\nSelectType=select/cons_tres\n\
             SelectTypeParameters=CR_CPU\nSchedulerType=sched/builtin\nMpiDefault=none\nReturnToService=2\n\
             NodeName={name} NodeAddr=127.0.0.1 CPUs=2 State=UNKNOWN\n\
             PartitionName=all Nodes={name} Default=YES State=UP\n"
        );
        std::fs::write(&conf, text).unwrap();
        let key = folder.join("key");
        std::fs::write(&key, [7u8; 1024]).unwrap();
        let private = std::os::unix::fs::PermissionsExt::from_mode(0o400);
        std::fs::set_permissions(&key, private).unwrap();
        let open = std::os::unix::fs::PermissionsExt::from_mode(0o755);
        std::fs::set_permissions(folder, open).unwrap();
        let begin = |program: &str, arguments: &[String]| {
            Command::new(program)
                .args(arguments)
                .env("SLURM_CONF", &conf)
                .stdout(Stdio::null())
                .stderr(Stdio::null())
                .spawn()
                .unwrap()
        };
        let of = |what: &str, file: &str| format!("--{what}={at}/{file}");
        let munge = [
            "--foreground".to_owned(),
            "--force".to_owned(),
            of("key-file", "key"),
            of("socket", "munge.socket"),
            of("pid-file", "munge.pid"),
            of("log-file", "munge.log"),
            of("seed-file", "munge.seed"),
        ];
        let mut daemons = vec![begin("munged", &munge)];
        let begun = Instant::now();
        while !folder.join("munge.socket").exists() && begun.elapsed() < Duration::from_secs(20) {
            std::thread::yield_now();
        }
        daemons.push(begin("slurmctld", &["-D".to_owned()]));
        daemons.push(begin("slurmd", &["-D".to_owned()]));
        let cluster = Self { daemons, conf };
        let begun = Instant::now();
        while !cluster.told("sinfo", &["-h", "-o", "%T"]).contains("idle") {
            if begun.elapsed() > Duration::from_secs(60) {
                return None;
            }
        }
        Some(cluster)
    }

    fn told(&self, program: &str, arguments: &[&str]) -> String {
        let told = Command::new(program)
            .args(arguments)
            .env("SLURM_CONF", &self.conf)
            .output()
            .unwrap();
        String::from_utf8_lossy(&told.stdout).into_owned()
    }
}

/// Twelve shots and a broken one, in two shards.
#[test]
fn a_scheduler_runs_the_shards_to_the_same_files() {
    let root = tempfile::tempdir().unwrap();
    let folder = tempfile::tempdir().unwrap();
    let Some(cluster) = Cluster::begin(folder.path()) else {
        eprintln!(
            "LEFT OUT: Slurm (slurm-wlm and munge, begun as root) does not come up, so no scheduler ran the shards"
        );
        return;
    };
    let one = job(root.path(), "one", 4);
    batch(&one, &[]).output().unwrap();
    let array = job(root.path(), "array", 4);
    let script = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../scheduling/slurm-array.sh");
    let told = Command::new("sbatch")
        .args(["--array=1-2", "--cpus-per-task=1", "--wait"])
        .arg(format!("--output={}/shard-%a.log", root.path().display()))
        .arg(&script)
        .arg(&array)
        .env("SLURM_CONF", &cluster.conf)
        .env("TRUE_PARALLAX", env!("CARGO_BIN_EXE_true-parallax"))
        .output()
        .unwrap();
    let log = std::fs::read_to_string(root.path().join("shard-1.log")).unwrap_or_default();
    assert_eq!(
        told.status.code(),
        Some(5),
        "one is broken: {} {log}",
        said(&told)
    );
    assert_eq!(
        standings(root.path(), "array"),
        standings(root.path(), "one")
    );
    assert_eq!(results(root.path(), "array"), results(root.path(), "one"));
}
