//! What a delivery changes against the one before: by how many px landmarks move in the picture, on which frames, and
//! whether the world lies otherwise.

use parallax_formats::camera_reader::CameraFile;
use std::collections::HashMap;
use std::fmt;

/// Below this nothing is said to move, px.
const STILL_PX: f64 = 1e-3;
/// Frames on which landmarks move by more are named, px.
const NAMED_PX: f64 = 0.1;
/// Cameras farther apart stand elsewhere, share of the way that the camera goes and of a unit.
const ELSEWHERE: f64 = 1e-6;
/// Ranges of frames that are named.
const MOST_RANGES: usize = 4;

/// What changed.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Changes {
    /// By how much a landmark moves in the picture at most, px, and on which frame; `None` without common landmarks.
    pub largest_px: Option<(f64, i32)>,
    /// First and last frames between which it is more than 0.1 px.
    pub frames: Vec<(i32, i32)>,
    /// Frames that are new.
    pub more: usize,
    /// Frames that are gone.
    pub fewer: usize,
    /// Whether cameras stand elsewhere in the world, which turns no picture.
    pub elsewhere: bool,
    /// Largest change of the focal length, share.
    pub focal_share: f64,
}

impl Changes {
    /// From one camera of a shot to another, both with their frames as the plate has them.
    pub fn between(old: &CameraFile, new: &CameraFile) -> Self {
        let before: HashMap<i32, _> = old.frames.iter().map(|f| (f.frame, f)).collect();
        let places: HashMap<&str, _> = old
            .points
            .iter()
            .map(|p| (p.name.as_str(), old.point(p)))
            .collect();
        let both: Vec<_> = new
            .points
            .iter()
            .filter_map(|p| Some((*places.get(p.name.as_str())?, new.point(p))))
            .collect();
        let mut out = Self {
            more: new
                .frames
                .iter()
                .filter(|f| !before.contains_key(&f.frame))
                .count(),
            ..Self::default()
        };
        out.fewer = before.len() + out.more - new.frames.len();
        for frame in &new.frames {
            let Some(old_frame) = before.get(&frame.frame) else {
                continue;
            };
            let (Some(was), Some(is)) = (old.pose(old_frame), new.pose(frame)) else {
                continue;
            };
            let (was_lens, is_lens) = (old.intrinsics(old_frame), new.intrinsics(frame));
            let share = (is_lens.focal_px / was_lens.focal_px - 1.0).abs();
            out.focal_share = out.focal_share.max(share);
            let apart = was.centre().distance(is.centre());
            let turned = was
                .camera_from_world
                .rotation
                .angle_to(&is.camera_from_world.rotation);
            let far = was.centre().0.coords.norm();
            out.elsewhere |= apart > ELSEWHERE * (1.0 + far) || turned > ELSEWHERE;
            let moved = both.iter().filter_map(|(old, new)| {
                let was = was_lens
                    .project(&was, old)
                    .filter(|px| was_lens.holds(*px))?;
                Some(is_lens.project(&is, new)?.distance_px(was))
            });
            let Some(largest) = moved.reduce(f64::max) else {
                continue;
            };
            if out.largest_px.is_none_or(|(px, _)| largest > px) {
                out.largest_px = Some((largest, frame.frame));
            }
            if largest > NAMED_PX {
                match out.frames.last_mut() {
                    Some((_, last)) if *last + 1 == frame.frame => *last = frame.frame,
                    _ => out.frames.push((frame.frame, frame.frame)),
                }
            }
        }
        out
    }

    /// With frames numbered higher by so many.
    pub fn renumbered(mut self, by: i32) -> Self {
        let moved = |frame: i32| frame.saturating_add(by);
        self.largest_px = self.largest_px.map(|(px, frame)| (px, moved(frame)));
        for (first, last) in &mut self.frames {
            (*first, *last) = (moved(*first), moved(*last));
        }
        self
    }
}

impl fmt::Display for Changes {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let mut said = Vec::new();
        match self.largest_px {
            None => said.push("no landmark is in both".to_owned()),
            Some((px, frame)) if px >= STILL_PX => {
                said.push(format!(
                    "landmarks move by up to {px:.3} px in the picture (on {frame})"
                ));
            }
            Some(_) => {}
        }
        if !self.frames.is_empty() {
            let named = self.frames.iter().take(MOST_RANGES);
            let named: Vec<String> = named
                .map(|(first, last)| match first == last {
                    true => first.to_string(),
                    false => format!("{first} to {last}"),
                })
                .collect();
            let more = match self.frames.len().saturating_sub(MOST_RANGES) {
                0 => String::new(),
                more => format!(" and {more} more ranges"),
            };
            said.push(format!(
                "by more than {NAMED_PX} px on {}{more}",
                named.join(", ")
            ));
        }
        if self.focal_share > 1e-6 {
            said.push(format!(
                "the focal length changes by {:.3} %",
                100.0 * self.focal_share
            ));
        }
        let still = self.largest_px.is_some_and(|(px, _)| px < STILL_PX);
        if self.elsewhere && still {
            said.push("the world lies otherwise, the picture stays".to_owned());
        }
        for (count, what) in [(self.more, "new"), (self.fewer, "gone")] {
            match count {
                0 => {}
                1 => said.push(format!("1 frame is {what}")),
                many => said.push(format!("{many} frames are {what}")),
            }
        }
        match said.is_empty() {
            true => write!(f, "the camera is the same"),
            false => write!(f, "{}", said.join("; ")),
        }
    }
}
