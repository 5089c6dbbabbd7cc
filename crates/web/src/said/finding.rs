//! A sentence about a shot, with what it is about and what mends it.

use serde::Serialize;
use serde_json::Value;

/// A sentence about the shot.
#[derive(Clone, Debug, Serialize)]
pub struct Finding {
    station: &'static str,
    level: &'static str,
    text: String,
    /// What it names, to be shown by a click.
    #[serde(skip_serializing_if = "Option::is_none")]
    shows: Option<Shows>,
    /// What mends it, where one thing does.
    #[serde(skip_serializing_if = "Option::is_none")]
    remedy: Option<Remedy>,
    /// The tracks it is about, to be seen, kept or dropped together.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    tracks: Vec<u32>,
    /// Tracks of the scene that these are to take the place of.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    instead_of: Vec<u32>,
    /// What can be done with the shot as a whole about it.
    #[serde(skip_serializing_if = "Option::is_none")]
    deed: Option<Deed>,
}

/// A thing that a finding names.
#[derive(Clone, Copy, Debug, Default, Serialize)]
pub struct Shows {
    /// A frame.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub frame: Option<i32>,
    /// A track.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub track: Option<u32>,
    /// A straight, counted from 0.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub straight: Option<usize>,
    /// A rail, counted from 0.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub rail: Option<usize>,
}

/// Something that is done with a shot as a whole.
#[derive(Clone, Debug, Serialize)]
pub struct Deed {
    /// What the button says.
    pub label: &'static str,
    /// What is asked of the shot's address.
    pub body: Value,
}

/// An edit of the state and the work that follows it.
#[derive(Clone, Debug, Serialize)]
pub struct Remedy {
    /// What the button says.
    pub label: &'static str,
    /// Merge patch of the state.
    pub edit: Value,
    /// What is done with things of lists, where anything is.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub things: Option<Value>,
    /// The kind of job that follows, if one does.
    pub work: Option<&'static str>,
}

impl Finding {
    /// Whether the artist should look.
    pub fn is_doubt(&self) -> bool {
        self.level == "warn"
    }

    /// With what mends it.
    pub fn mended_by(self, remedy: Option<Remedy>) -> Self {
        Self { remedy, ..self }
    }

    /// With what it names.
    pub fn showing(self, shows: Shows) -> Self {
        let shows = Some(shows);
        Self { shows, ..self }
    }

    /// With what can be done with the shot about it.
    pub fn attended_by(self, label: &'static str, body: Value) -> Self {
        let deed = Some(Deed { label, body });
        Self { deed, ..self }
    }

    /// With the tracks that those it is about can take the place of.
    pub fn instead_of(self, instead_of: Vec<u32>) -> Self {
        Self { instead_of, ..self }
    }

    /// With the tracks it is about.
    pub fn about(self, tracks: Vec<u32>) -> Self {
        Self { tracks, ..self }
    }
}

/// A finding without a remedy.
pub fn finding(station: &'static str, level: &'static str, text: String) -> Finding {
    Finding {
        station,
        level,
        text,
        shows: None,
        remedy: None,
        tracks: Vec::new(),
        instead_of: Vec::new(),
        deed: None,
    }
}
