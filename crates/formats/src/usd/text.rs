//! OpenUSD text as it is built: braces, indents, values.

use std::fmt::Display;

/// Text that grows, with the depth at which it stands.
#[derive(Default)]
pub struct Lines {
    text: String,
    depth: usize,
}

impl Lines {
    /// A line at this depth.
    pub fn line(&mut self, line: impl AsRef<str>) {
        for _ in 0..self.depth {
            self.text.push_str("    ");
        }
        self.text.push_str(line.as_ref());
        self.text.push('\n');
    }

    /// `name = value`.
    pub fn set(&mut self, name: &str, value: impl Display) {
        self.line(format!("{name} = {value}"));
    }

    /// What stands between `open` and `close`, one deeper.
    pub fn within(&mut self, [open, close]: [&str; 2], inside: impl FnOnce(&mut Self)) {
        self.line(open);
        self.depth += 1;
        inside(self);
        self.depth -= 1;
        self.line(close);
    }

    /// A prim with its metadata.
    pub fn prim(
        &mut self,
        what: &str,
        name: &str,
        metadata: &[(&str, String)],
        inside: impl FnOnce(&mut Self),
    ) {
        let head = format!("def {what} \"{name}\"");
        if metadata.is_empty() {
            self.line(head);
        } else {
            self.within([&format!("{head} ("), ")"], |lines| {
                metadata
                    .iter()
                    .for_each(|(name, value)| lines.set(name, value));
            });
        }
        self.within(["{", "}"], inside);
    }

    /// One value per time.
    pub fn samples(&mut self, name: &str, values: impl IntoIterator<Item = (f64, String)>) {
        self.within([&format!("{name}.timeSamples = {{"), "}"], |lines| {
            for (time, value) in values {
                lines.line(format!("{time}: {value},"));
            }
        });
    }

    /// The whole text.
    pub fn finished(self) -> String {
        self.text
    }
}

/// `(1, 2, 3)`.
pub fn tuple<T: Display>(values: &[T]) -> String {
    let parts: Vec<String> = values.iter().map(T::to_string).collect();
    format!("({})", parts.join(", "))
}

/// `[a, b]`.
pub fn array<T: Display>(values: impl IntoIterator<Item = T>) -> String {
    let parts: Vec<String> = values.into_iter().map(|v| v.to_string()).collect();
    format!("[{}]", parts.join(", "))
}

/// A text in quotes, without control characters.
pub fn quoted(text: &str) -> String {
    let plain = text.chars().filter(|c| !c.is_control());
    let inside = plain.fold(String::new(), |mut out, c| {
        if matches!(c, '"' | '\\') {
            out.push('\\');
        }
        out.push(c);
        out
    });
    format!("\"{inside}\"")
}

/// A 4x4 matrix for column vectors, written for row vectors.
pub fn matrix(m: &nalgebra::Matrix4<f64>) -> String {
    let rows: Vec<String> = (0..4)
        .map(|c| tuple(&[m[(0, c)], m[(1, c)], m[(2, c)], m[(3, c)]]))
        .collect();
    format!("( {} )", rows.join(", "))
}
