//! Runs the system's ffmpeg and ffprobe so that neither can hold up who asked: both have a time
//! limit, are ended when the work is cancelled, and what they print is bounded.

use crate::MediaError;
use std::io::{BufRead, BufReader, Read};
use std::process::{Child, Command, Stdio};
use std::sync::mpsc::{Receiver, RecvTimeoutError, channel};
use std::time::{Duration, Instant};

/// What a finished command printed.
pub struct Printed {
    /// Whether it succeeded.
    pub success: bool,
    /// Standard output.
    pub output: Vec<u8>,
    /// Standard error, its beginning.
    pub errors: String,
}

/// How often it is asked whether to go on.
const LOOK: Duration = Duration::from_millis(50);
/// Most of standard output that is kept, bytes: time stamps of the longest movie taken in.
const MOST_OUTPUT: u64 = 256 << 20;
/// Most of standard error that is kept, bytes.
const MOST_ERRORS: u64 = 64 << 10;

/// A command that reads nothing; it is ended when this is dropped.
struct Running(Child);

impl Drop for Running {
    fn drop(&mut self) {
        // It may have ended by itself; then there is nothing to do.
        let _ = self.0.kill();
        let _ = self.0.wait();
    }
}

fn started(command: &mut Command) -> Result<Running, MediaError> {
    let piped = command
        .stdin(Stdio::null())
        .stdout(Stdio::piped())
        .stderr(Stdio::piped());
    piped.spawn().map(Running).map_err(|e| match e.kind() {
        std::io::ErrorKind::NotFound => MediaError::NoFfmpeg,
        _ => MediaError::Ffmpeg {
            reason: e.to_string(),
        },
    })
}

/// Reads to the end on a thread of its own, keeps the first `most` bytes.
fn read_apart(mut from: impl Read + Send + 'static, most: u64) -> Receiver<Vec<u8>> {
    let (send, receive) = channel();
    std::thread::spawn(move || {
        let mut kept = Vec::new();
        let _ = from.by_ref().take(most).read_to_end(&mut kept);
        let _ = std::io::copy(&mut from, &mut std::io::sink());
        // Nobody listens any more when the command was given up.
        let _ = send.send(kept);
    });
    receive
}

fn ended(mut running: Running, errors: &Receiver<Vec<u8>>) -> Result<(bool, String), MediaError> {
    let failed = |e: std::io::Error| MediaError::Ffmpeg {
        reason: e.to_string(),
    };
    let status = running.0.wait().map_err(failed)?;
    let said = errors.recv().unwrap_or_default();
    Ok((
        status.success(),
        String::from_utf8_lossy(&said).into_owned(),
    ))
}

/// Runs a command to its end, or for as long as `limit`.
pub fn printed(command: &mut Command, limit: Duration) -> Result<Printed, MediaError> {
    let begun = Instant::now();
    let mut running = started(command)?;
    let (Some(output), Some(errors)) = (running.0.stdout.take(), running.0.stderr.take()) else {
        return Err(MediaError::Ffmpeg {
            reason: "it has no output".to_owned(),
        });
    };
    let (output, errors) = (
        read_apart(output, MOST_OUTPUT),
        read_apart(errors, MOST_ERRORS),
    );
    match output.recv_timeout(limit.saturating_sub(begun.elapsed())) {
        Ok(output) => {
            let (success, errors) = ended(running, &errors)?;
            Ok(Printed {
                success,
                output,
                errors,
            })
        }
        Err(_) => Err(MediaError::TooSlow {
            seconds: limit.as_secs(),
        }),
    }
}

/// Runs a command whose lines of output `hear` is told of; it answers whether that was a step
/// forward. Ends it when `cancelled`, and when no step was made for as long as `silence`.
pub fn followed(
    command: &mut Command,
    silence: Duration,
    cancelled: impl Fn() -> bool,
    mut hear: impl FnMut(&str) -> bool,
) -> Result<(bool, String), MediaError> {
    let mut running = started(command)?;
    let (Some(output), Some(errors)) = (running.0.stdout.take(), running.0.stderr.take()) else {
        return Err(MediaError::Ffmpeg {
            reason: "it has no output".to_owned(),
        });
    };
    let errors = read_apart(errors, MOST_ERRORS);
    let (send, lines) = channel();
    std::thread::spawn(move || {
        let lines = BufReader::new(output).lines().map_while(Result::ok);
        // Nobody listens any more when the command was given up.
        lines
            .take_while(|line| send.send(line.clone()).is_ok())
            .for_each(drop);
    });
    let mut last_step = Instant::now();
    loop {
        if cancelled() {
            return Err(MediaError::Cancelled);
        }
        if last_step.elapsed() > silence {
            return Err(MediaError::TooSlow {
                seconds: silence.as_secs(),
            });
        }
        match lines.recv_timeout(LOOK) {
            Ok(line) if hear(&line) => last_step = Instant::now(),
            Ok(_) | Err(RecvTimeoutError::Timeout) => {}
            Err(RecvTimeoutError::Disconnected) => return ended(running, &errors),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use std::sync::atomic::{AtomicBool, Ordering};

    fn shell(script: &str) -> Command {
        let mut command = Command::new("sh");
        command.args(["-c", script]);
        command
    }

    #[test]
    fn what_is_printed_is_kept() {
        let done = printed(
            &mut shell("echo out; echo err >&2"),
            Duration::from_secs(20),
        )
        .unwrap();
        assert!(done.success);
        assert_eq!(
            (&done.output[..], done.errors.as_str()),
            (&b"out\n"[..], "err\n")
        );
        assert!(
            !printed(&mut shell("exit 3"), Duration::from_secs(20))
                .unwrap()
                .success
        );
    }

    #[test]
    fn a_command_that_hangs_is_ended_at_its_limit() {
        let begun = Instant::now();
        let error = printed(&mut shell("exec sleep 60"), Duration::from_millis(100))
            .err()
            .unwrap();
        assert!(matches!(error, MediaError::TooSlow { .. }), "{error}");
        assert!(begun.elapsed() < Duration::from_secs(30));
    }

    #[test]
    fn a_command_that_makes_no_step_is_ended() {
        // It talks, but gets nowhere.
        let mut talking = shell("while true; do echo frame=1; sleep 0.02; done");
        let error = followed(
            &mut talking,
            Duration::from_millis(200),
            || false,
            |_| false,
        )
        .unwrap_err();
        assert!(matches!(error, MediaError::TooSlow { .. }), "{error}");
    }

    #[test]
    fn cancelling_reaches_a_command_that_prints_nothing() {
        let folder = tempfile::tempdir().unwrap();
        let pid = folder.path().join("pid");
        let cancelled = AtomicBool::new(false);
        let mut command = shell(&format!(
            "echo $$ > {}; echo go; exec sleep 60",
            pid.display()
        ));
        let error = followed(
            &mut command,
            Duration::from_secs(50),
            || cancelled.load(Ordering::Relaxed),
            |_| {
                cancelled.store(true, Ordering::Relaxed);
                true
            },
        );
        assert!(matches!(error, Err(MediaError::Cancelled)));
        let number = std::fs::read_to_string(pid).unwrap();
        let process = format!("/proc/{}", number.trim());
        assert!(!std::path::Path::new(&process).exists(), "it still runs");
    }

    #[test]
    fn a_program_that_is_not_installed_is_said() {
        let error = printed(&mut Command::new("no-such-program"), Duration::from_secs(1)).err();
        assert!(matches!(error, Some(MediaError::NoFfmpeg)));
    }
}
