//! A next step: the one button that stands at a station.

use serde::Serialize;

/// A next step: what the button says, and what it does.
#[derive(Debug, Default, PartialEq, Serialize)]
pub struct Next {
    /// What the button says.
    pub text: &'static str,
    /// Work that begins.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub work: Option<&'static str>,
    /// The station that is gone to.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub go: Option<&'static str>,
    /// The field that asks to be filled in.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub field: Option<&'static str>,
}

impl Next {
    /// Work that begins.
    pub fn work(text: &'static str, work: &'static str) -> Self {
        let work = Some(work);
        Self {
            text,
            work,
            ..Self::default()
        }
    }

    /// To another station.
    pub fn go(text: &'static str, go: &'static str) -> Self {
        let go = Some(go);
        Self {
            text,
            go,
            ..Self::default()
        }
    }

    /// To a field.
    pub fn field(text: &'static str, field: &'static str) -> Self {
        let field = Some(field);
        Self {
            text,
            field,
            ..Self::default()
        }
    }
}
