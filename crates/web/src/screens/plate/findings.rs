//! What can be said of a plate: its files, its rate, the movie that it was.

use crate::said::finding::{Finding, Remedy, finding};
use crate::said::words::capital;
use crate::said::words::several;
use crate::shot::everything::{Everything, THE_SHOT};
use crate::shot::facts;
use parallax_media::movie::MovieFacts;
use parallax_media::pin::Differences;
use parallax_media::sequence::{ranges_text, runs};
use parallax_store::shots::{Shot, TakenMovie};
use serde_json::json;

/// What is said of a plate.
pub fn findings(all: &Everything) -> Vec<Finding> {
    let (s, plate) = (&all.shot.state, &all.shot.plate);
    let mut out = of_files(&all.damaged, &all.differences);
    if s.rate.is_none() {
        out.push(finding(
            "plate",
            "warn",
            "The files do not state a rate. Type it; it is never guessed.".to_owned(),
        ));
    }
    if !plate.gaps.is_empty() {
        let tail = if s.bridge_gaps {
            "They are bridged."
        } else {
            "Supply them, choose a range without them, or bridge them."
        };
        out.push(finding(
            "plate",
            "warn",
            format!("Frames are missing: {}. {tail}", ranges_text(&plate.gaps)),
        ));
    } else {
        out.push(finding(
            "plate",
            "ok",
            format!(
                "{}, no frame missing, all {}×{} px.",
                plate.pattern, all.shot.width_px, all.shot.height_px
            ),
        ));
    }
    if let Some(movie) = &plate.movie {
        out.extend(of_movie(movie));
    }
    out.extend(of_rates(&all.shot));
    for (pattern, count) in &plate.others {
        out.push(finding(
            "plate",
            "warn",
            format!(
                "The folder also holds {pattern} ({}); it is left alone.",
                several(*count, "file", "files")
            ),
        ));
    }
    if s.film_back.is_none() {
        out.push(finding(
            "plate",
            "ok",
            "The film back is assumed to be 36 mm wide. Type it if you know it.".to_owned(),
        ));
    }
    out
}

/// What is damaged of what is kept, and what changed in the plate's folder.
pub fn of_files(damaged: &[&'static str], differences: &Differences) -> Vec<Finding> {
    let damaged = damaged.iter().map(|what| of_damage(what));
    damaged.chain(of_differences(differences)).collect()
}

/// What is kept and cannot be read.
fn of_damage(what: &str) -> Finding {
    if what == THE_SHOT {
        let text = "Not all that is kept of this shot can be read. What can stands here, the rest as in a new one; nothing was overwritten, and nothing can be changed before you go on with it. A copy of the project may hold the whole.";
        return finding("plate", "bad", text.to_owned())
            .attended_by("Go on with what can be read", json!({ "do": "mend" }));
    }
    let text = format!(
        "What is kept of this shot is damaged: {what} cannot be read. Undo the last edit, or make it again; all else is kept."
    );
    finding("plate", "bad", text)
}

/// In what the folder differs from the files that the plate was when it was taken in.
fn of_differences(differences: &Differences) -> Option<Finding> {
    if differences.is_none() {
        return None;
    }
    let frames = |word: &str, frames: &[i32]| {
        (!frames.is_empty()).then(|| format!("{word}: {}", ranges_text(&runs(frames))))
    };
    let what = [
        frames("frames that are not there any more", &differences.missing),
        frames("frames that are other pictures now", &differences.changed),
        frames("frames that are new", &differences.added),
    ];
    let what: Vec<String> = what.into_iter().flatten().collect();
    let text = format!(
        "The plate's folder has changed since it was taken in: {}. The shot keeps to the files that it was; what was made of them stays.",
        what.join("; ")
    );
    let level = if differences.missing.is_empty() && differences.changed.is_empty() {
        "warn"
    } else {
        "bad"
    };
    let deed = json!({ "do": "take_plate" });
    Some(finding("plate", level, text).attended_by("Take the plate as it is now", deed))
}

/// What the movie states.
fn of_movie(movie: &TakenMovie) -> Vec<Finding> {
    let MovieFacts {
        file,
        codec,
        bits,
        count,
        rate: stated,
        timecode,
        interlaced,
        ..
    } = &movie.facts;
    let written = if *bits > 8 { "16-bit PNG" } else { "8-bit PNG" };
    let code = timecode
        .as_ref()
        .map(|t| format!(", time code {t}"))
        .unwrap_or_default();
    let text = format!(
        "Taken out of {file}: {codec}, {bits} bits, {count} pictures at {stated}{code}; kept as {written} without loss."
    );
    let mut out = vec![finding("plate", "ok", text)];
    if *interlaced {
        out.push(finding("plate", "warn", "Its pictures come in two fields. Every second line is of another time: have the movie delivered progressive.".to_owned()));
    }
    out
}

/// Which of two rates holds, where the shot's contradicts what the plate states.
fn of_rates(shot: &Shot) -> Vec<Finding> {
    let Some((stated, whose)) = facts::contradicted_rate(shot) else {
        return Vec::new();
    };
    let rate = shot.state.rate;
    let said = rate.map(|r| r.to_string()).unwrap_or_default();
    let whole = capital(whose);
    let text = format!("{whole} {stated} frames a second, the shot says {said}. Which one holds?");
    let take = Remedy {
        label: "Take what is stated",
        edit: json!({ "rate": stated }),
        things: None,
        work: None,
    };
    let keep = Remedy {
        label: "Keep the shot's rate",
        edit: json!({ "settled_rate": rate }),
        things: None,
        work: None,
    };
    let wait = format!(
        "Nothing is delivered until that is settled. {said} can be kept where that was written wrongly."
    );
    vec![
        finding("plate", "bad", text).mended_by(Some(take)),
        finding("plate", "bad", wait).mended_by(Some(keep)),
    ]
}
