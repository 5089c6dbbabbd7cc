//! What speaks against tracks, one finding a reason, with the worst named and all of them to be seen.

use crate::said::finding::Shows;
use crate::said::finding::{Finding, finding};
use crate::said::words::several;
use crate::shot::everything::Everything;
use crate::shot::facts;
use parallax_core::judge::{Suspect, Why};
use parallax_store::budget::MOST_RUNS;
use parallax_store::track_runs::NOTHING_FOLLOWED;
use parallax_store::tracking::FIRST_HAND;

/// All that can be said of the tracks.
pub fn findings(all: &Everything) -> Vec<Finding> {
    let s = &all.shot.state;
    let mut out = Vec::new();
    let (count, aside) = all.tracks.count(s);
    if count > 0 {
        let hands = match s.hands.len() {
            0 => String::new(),
            1 => ", one of them by hand".to_owned(),
            n => format!(", {n} of them by hand"),
        };
        out.push(finding(
            "track",
            "ok",
            format!("{}{hands}; {aside} set aside.", tracks(count)),
        ));
    }
    if all.tracks.waiting > 0 {
        out.push(finding(
            "track",
            "warn",
            "Hand tracks were changed and have yet to be followed.".to_owned(),
        ));
    }
    out.extend(cut_short(all));
    let Some(run) = &all.tracks.run else {
        return out;
    };
    if run.cleared {
        let text = format!(
            "The tracks of this step were cleared for room: those of a shot's last {MOST_RUNS} runs are kept. Follow again, or redo."
        );
        out.push(finding("track", "warn", text));
        return out;
    }
    if run.inputs != NOTHING_FOLLOWED && run.inputs != facts::following(&all.shot).inputs() {
        let text = "The plate, a matte or the controls changed since these features were followed. Follow again.";
        out.push(finding("track", "warn", text.to_owned()));
    }
    let all_why = [
        Why::Mover,
        Why::FalseCorner,
        Why::Drifts,
        Why::Jitters,
        Why::Duplicate,
        Why::Short,
    ];
    out.extend(all_why.into_iter().filter_map(|why| of(all, why)));
    out.extend(by_hand(all));
    out
}

/// Suspects that the artist has neither kept nor dropped.
fn open(all: &Everything, wanted: impl Fn(&Suspect) -> bool) -> Vec<&Suspect> {
    let s = &all.shot.state;
    let is_open = |t: u32| !s.culled.contains(&t) && !s.kept_movers.contains(&t);
    all.tracks
        .suspects()
        .iter()
        .filter(|x| wanted(x) && is_open(x.track.0))
        .collect()
}

fn ids(suspects: &[&Suspect]) -> Vec<u32> {
    suspects.iter().map(|s| s.track.0).collect()
}

fn tracks(count: usize) -> String {
    several(count, "track", "tracks")
}

fn at(track: u32, frame: i32) -> Shows {
    Shows {
        track: Some(track),
        frame: Some(frame),
        ..Shows::default()
    }
}

/// Hand tracks that the scene speaks against; they stay.
fn by_hand(all: &Everything) -> Option<Finding> {
    let open = open(all, |x| x.track.0 >= FIRST_HAND && x.why.sets_aside());
    let first = open.first()?;
    let name = all.shot.state.name_of(first.track.0).unwrap_or_default();
    let text = format!(
        "{} keyed by hand and yet not with the scene, such as {name} about frame {}. Nothing was set aside.",
        tracks(open.len()),
        first.frame
    );
    let shows = at(first.track.0, first.frame.0);
    Some(
        finding("track", "warn", text)
            .about(ids(&open))
            .showing(shows),
    )
}

/// Hand tracks that are lost before their life ends.
fn cut_short(all: &Everything) -> Option<Finding> {
    let cut = &all.tracks.cut_short;
    let (id, frame) = cut.first()?;
    let name = all.shot.state.name_of(*id).unwrap_or_default();
    let text = match cut.len() {
        1 => {
            format!("{name} is lost beyond frame {frame}: key it further on, or let it end there.")
        }
        n => format!(
            "Hand tracks are lost {n} times, such as {name} beyond frame {frame}: key them further on, or let them end there."
        ),
    };
    Some(finding("track", "warn", text).showing(at(*id, *frame)))
}

/// What one reason speaks against, unless the artist has kept or dropped all of it.
fn of(all: &Everything, why: Why) -> Option<Finding> {
    let open = open(all, |x| {
        x.why == why && !(x.track.0 >= FIRST_HAND && why.sets_aside())
    });
    let worst = open.iter().max_by(|a, b| a.figure.total_cmp(&b.figure))?;
    let (n, px, frame) = (tracks(open.len()), worst.figure, worst.frame);
    let name = all
        .shot
        .state
        .name_of(worst.track.0)
        .map_or_else(|| worst.track.to_string(), str::to_owned);
    let text = match why {
        Why::Mover => format!("{n} set aside for moving by themselves, against the scene."),
        Why::FalseCorner => format!(
            "{n} set aside for following the crossing of a near and a far edge, which is no place in space: {name} is {px:.1} px off on frame {frame}."
        ),
        Why::Drifts => {
            format!("{n} off the detail they were found on: {name} by {px:.2} px on frame {frame}.")
        }
        Why::Jitters => format!(
            "{n} shaking more than the camera: {name} by {px:.2} px, most on frame {frame}."
        ),
        Why::Duplicate => {
            format!("{n} on the same detail as another, such as {name} on frame {frame}.")
        }
        Why::Short => format!("{n} set aside for living too short a time to say anything."),
    };
    let level = if why.sets_aside() { "ok" } else { "warn" };
    let shows = at(worst.track.0, worst.frame.0);
    Some(
        finding("track", level, text)
            .about(ids(&open))
            .showing(shows),
    )
}
