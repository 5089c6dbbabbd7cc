//! How far a station is.

use serde::Serialize;

/// How far a station is.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize)]
#[serde(rename_all = "kebab-case")]
pub enum Standing {
    /// Nothing done.
    NotBegun,
    /// Begun, or being worked on.
    InWork,
    /// Done.
    Good,
    /// Done, with something to look at.
    NeedsALook,
    /// Something before it changed.
    Stale,
}

/// One stop of the route.
#[derive(Clone, Debug, Serialize)]
pub struct Station {
    /// Its key in addresses of the page.
    pub key: &'static str,
    /// What it is called.
    pub name: &'static str,
    /// How far it is.
    pub standing: Standing,
    /// Its one figure.
    pub figure: String,
}

impl Station {
    /// A station with its one figure.
    pub fn new(key: &'static str, name: &'static str, standing: Standing, figure: String) -> Self {
        Self {
            key,
            name,
            standing,
            figure,
        }
    }
}
