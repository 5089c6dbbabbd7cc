//! Reads what is stated about where the world lies: `true-parallax/statements@1`, JSON.
//!
//! ```json
//! {
//!   "schema": "true-parallax/statements@1",
//!   "statements": [
//!     {"id": 1, "kind": "plane", "name": "floor", "faces": "ground", "on": ["tile 1", "tile 2", "tile 3"]},
//!     {"kind": "length", "between": [{"feature": "door left"}, {"feature": "door right"}], "length_m": 0.9, "sigma_m": 0.003}
//!   ]
//! }
//! ```
//!
//! Features are named as their tracks are. The facts are those of [`parallax_core::orient::Fact`]; one without an `id`
//! is counted on from the highest before it.

use parallax_core::orient::{Fact, Statement};
use serde::Deserialize;

/// The value of the key `schema`.
pub const SCHEMA: &str = "true-parallax/statements@1";
/// Most statements of a file.
const MOST: usize = 2000;

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct File {
    schema: String,
    statements: Vec<Numbered>,
}

#[derive(Deserialize)]
struct Numbered {
    #[serde(default)]
    id: Option<u32>,
    #[serde(flatten)]
    statement: Statement<String>,
}

/// Why a text is no file of statements.
#[derive(Debug, thiserror::Error)]
pub enum StatementsError {
    /// Not JSON of this shape.
    #[error("this is no file of statements: {0}")]
    Json(#[from] serde_json::Error),
    /// Another schema.
    #[error("the file says schema `{0}`; `{SCHEMA}` is what can be read")]
    Schema(String),
    /// A fact that cannot be.
    #[error(
        "statement {0} cannot be: it names different features and marks, lengths between a thousandth of a mm and 1000 km, and errors greater than 0"
    )]
    Impossible(u32),
    /// A number that two have.
    #[error("two statements have the number {0}")]
    Twice(u32),
    /// Too many.
    #[error("the file has more than {MOST} statements")]
    TooMany,
}

/// Statements with their numbers, features by name.
pub fn read(text: &str) -> Result<Vec<(u32, Statement<String>)>, StatementsError> {
    let file: File = serde_json::from_str(text)?;
    if file.schema != SCHEMA {
        return Err(StatementsError::Schema(file.schema));
    }
    if file.statements.len() > MOST {
        return Err(StatementsError::TooMany);
    }
    let mut out: Vec<(u32, Statement<String>)> = Vec::new();
    for Numbered { id, statement } in file.statements {
        let highest = out.iter().map(|(own, _)| *own).max().unwrap_or(0);
        let id = id.unwrap_or(highest.saturating_add(1));
        if out.iter().any(|(own, _)| *own == id) {
            return Err(StatementsError::Twice(id));
        }
        if !Fact::is_possible(&statement.fact) {
            return Err(StatementsError::Impossible(id));
        }
        out.push((id, statement));
    }
    Ok(out)
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    fn file(statements: &str) -> String {
        format!("{{\"schema\": \"{SCHEMA}\", \"statements\": [{statements}]}}")
    }

    const ORIGIN: &str = r#"{"kind": "origin", "at": "a"}"#;

    #[test]
    fn numbers_are_counted_on() {
        let text = file(&format!(
            r#"{ORIGIN}, {{"id": 7, "kind": "origin", "at": "b", "off": true}}, {ORIGIN}"#
        ));
        let read = read(&text).unwrap();
        let ids: Vec<(u32, bool)> = read.iter().map(|(id, s)| (*id, s.off)).collect();
        assert_eq!(ids, [(1, false), (7, true), (8, false)]);
    }

    #[rstest]
    #[case::not_json("statements")]
    #[case::schema("{\"schema\": \"other\", \"statements\": []}")]
    #[case::twice(&file(r#"{"id": 1, "kind": "origin", "at": "a"}, {"id": 1, "kind": "origin", "at": "b"}"#))]
    #[case::no_kind(&file(r#"{"at": "a"}"#))]
    #[case::no_length(&file(r#"{"kind": "length", "between": [{"feature": "a"}, {"feature": "b"}], "length_m": -1, "sigma_m": 0.1}"#))]
    #[case::not_finite(&file(r#"{"kind": "length", "between": [{"feature": "a"}, {"feature": "b"}], "length_m": 1e999, "sigma_m": 0.1}"#))]
    fn what_is_none_is_refused(#[case] text: &str) {
        assert!(!read(text).unwrap_err().to_string().is_empty());
    }
}
