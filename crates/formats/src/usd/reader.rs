//! Reads OpenUSD text back: layer metadata, prims, attributes, time samples.
//!
//! Written apart from the writer, on the grammar of the open format and not on the writer's
//! habits, so that a receipt proves something. It reads what a camera scene needs: `def`
//! prims, typed attributes with optional metadata, tuples, arrays, strings, numbers and
//! dictionaries of time samples. Values of types of single precision (`float`, `point3f` and
//! their like) are read as what 32 bits hold, since that is what every receiver keeps of them.

use std::collections::BTreeMap;

/// A value.
#[derive(Clone, Debug, PartialEq)]
pub enum Value {
    /// A number.
    Number(f64),
    /// A quoted text or a bare word.
    Text(String),
    /// A tuple or an array.
    List(Vec<Value>),
    /// Time samples or a dictionary, by key.
    Map(BTreeMap<String, Value>),
}

/// A prim with its attributes and children.
#[derive(Clone, Debug, Default)]
pub struct Prim {
    /// Its type, such as `Camera`.
    pub type_name: String,
    /// Its name.
    pub name: String,
    /// Values by attribute name, `.timeSamples` kept in the name.
    pub attributes: BTreeMap<String, Value>,
    /// Prims inside.
    pub children: Vec<Prim>,
}

/// A layer: metadata and root prims.
#[derive(Clone, Debug, Default)]
pub struct Layer {
    /// Metadata by name; dictionaries are maps.
    pub metadata: BTreeMap<String, Value>,
    /// Prims at the root.
    pub prims: Vec<Prim>,
}

/// Where the text stops being USD.
#[derive(Debug, thiserror::Error)]
#[error("not readable as OpenUSD text near line {line}: {reason}")]
pub struct UsdaError {
    /// Line, the first being 1.
    pub line: usize,
    /// What was expected.
    pub reason: String,
}

impl Value {
    /// As a number.
    pub fn number(&self) -> Option<f64> {
        if let Self::Number(n) = self {
            Some(*n)
        } else {
            None
        }
    }

    /// As text.
    pub fn text(&self) -> Option<&str> {
        if let Self::Text(t) = self {
            Some(t)
        } else {
            None
        }
    }

    /// As a list.
    pub fn list(&self) -> Option<&[Value]> {
        if let Self::List(l) = self {
            Some(l)
        } else {
            None
        }
    }

    /// With all numbers as 32 bits hold them.
    fn in_single_precision(self) -> Self {
        match self {
            Self::Number(n) => Self::Number(f64::from(n as f32)),
            Self::List(list) => {
                Self::List(list.into_iter().map(Self::in_single_precision).collect())
            }
            Self::Map(map) => {
                let single = |(key, value): (String, Self)| (key, value.in_single_precision());
                Self::Map(map.into_iter().map(single).collect())
            }
            text => text,
        }
    }

    /// All numbers inside, in order.
    pub fn numbers(&self) -> Vec<f64> {
        match self {
            Self::Number(n) => vec![*n],
            Self::List(l) => l.iter().flat_map(Self::numbers).collect(),
            _ => Vec::new(),
        }
    }
}

impl Prim {
    /// The first prim of a type, searched depth-first.
    pub fn find(&self, type_name: &str) -> Option<&Prim> {
        if self.type_name == type_name {
            return Some(self);
        }
        self.children.iter().find_map(|c| c.find(type_name))
    }
}

#[derive(Clone, Debug, PartialEq)]
enum Token<'a> {
    Word(&'a str),
    Quoted(String),
    Sign(char),
}

/// Reads a layer.
pub fn read(text: &str) -> Result<Layer, UsdaError> {
    if !text.starts_with("#usda 1.0") {
        return Err(UsdaError {
            line: 1,
            reason: "the header `#usda 1.0` is missing".to_owned(),
        });
    }
    let tokens = tokens(text)?;
    let mut reader = Reader { tokens, at: 0 };
    let mut layer = Layer::default();
    if reader.peek_sign('(') {
        layer.metadata = reader.metadata()?;
    }
    while !reader.done() {
        layer.prims.push(reader.prim()?);
    }
    Ok(layer)
}

/// The text up to the closing quote, its escapes undone, and how many bytes it takes with it.
fn quoted(rest: &str) -> Option<(String, usize)> {
    let mut inside = String::new();
    let mut letters = rest.char_indices();
    while let Some((at, letter)) = letters.next() {
        match letter {
            '"' => return Some((inside, at + 1)),
            '\\' => inside.push(letters.next()?.1),
            other => inside.push(other),
        }
    }
    None
}

/// Whether a type holds numbers of 32 bits: `float`, `float3`, `point3f`, `color3f[]` and so on.
fn is_single(type_name: &str) -> bool {
    let element = type_name.trim_end_matches("[]");
    let stem = element.trim_end_matches(|c: char| c.is_ascii_digit());
    stem == "float" || (element.ends_with('f') && element.contains(|c: char| c.is_ascii_digit()))
}

fn tokens(text: &str) -> Result<Vec<(Token<'_>, usize)>, UsdaError> {
    let mut out = Vec::new();
    for (index, line) in text.lines().enumerate() {
        let number = index + 1;
        let mut rest = line;
        while let Some(c) = rest.chars().next() {
            if c == '#' {
                break;
            }
            if c == '"' {
                let (inside, length) = quoted(&rest[1..]).ok_or_else(|| UsdaError {
                    line: number,
                    reason: "a quote is not closed".to_owned(),
                })?;
                out.push((Token::Quoted(inside), number));
                rest = &rest[1 + length..];
            } else if c == '@' {
                let inside = rest[1..].split('@').next().unwrap_or_default();
                if inside.len() + 2 > rest.len() {
                    return Err(UsdaError {
                        line: number,
                        reason: "the name of a file is not closed".to_owned(),
                    });
                }
                out.push((Token::Quoted(inside.to_owned()), number));
                rest = &rest[inside.len() + 2..];
            } else if "(){}[]=,".contains(c) {
                out.push((Token::Sign(c), number));
                rest = &rest[1..];
            } else if c.is_whitespace() || c == ';' {
                rest = &rest[c.len_utf8()..];
            } else {
                let end = rest
                    .find(|c: char| c.is_whitespace() || "(){}=,\"#".contains(c))
                    .unwrap_or(rest.len());
                // `[` opens an array, but `float3[]` is one word.
                // Nothing beyond the word is looked at: a line may hold a million numbers.
                let end = match rest[..end].find('[') {
                    Some(b) if !rest[b..].starts_with("[]") => b,
                    _ => match rest[..end].find(']') {
                        Some(b) if !rest[..=b].ends_with("[]") => b,
                        _ => end,
                    },
                };
                let end = end.max(1);
                out.push((Token::Word(&rest[..end]), number));
                rest = &rest[end..];
            }
        }
    }
    Ok(out)
}

struct Reader<'a> {
    tokens: Vec<(Token<'a>, usize)>,
    at: usize,
}

impl Reader<'_> {
    fn done(&self) -> bool {
        self.at >= self.tokens.len()
    }

    fn error(&self, reason: &str) -> UsdaError {
        let line = self
            .tokens
            .get(self.at)
            .or(self.tokens.last())
            .map_or(1, |t| t.1);
        UsdaError {
            line,
            reason: reason.to_owned(),
        }
    }

    fn peek_sign(&self, sign: char) -> bool {
        matches!(self.tokens.get(self.at), Some((Token::Sign(s), _)) if *s == sign)
    }

    fn take_sign(&mut self, sign: char) -> Result<(), UsdaError> {
        if !self.peek_sign(sign) {
            return Err(self.error(&format!("`{sign}` is expected")));
        }
        self.at += 1;
        Ok(())
    }

    fn skip_sign(&mut self, sign: char) -> bool {
        let found = self.peek_sign(sign);
        self.at += usize::from(found);
        found
    }

    fn word(&mut self) -> Result<String, UsdaError> {
        match self.tokens.get(self.at) {
            Some((Token::Word(w), _)) => {
                let w = (*w).to_owned();
                self.at += 1;
                Ok(w)
            }
            Some((Token::Quoted(w), _)) => {
                let w = w.clone();
                self.at += 1;
                Ok(w)
            }
            _ => Err(self.error("a name is expected")),
        }
    }

    /// `( name = value ... )`, types before names ignored.
    fn metadata(&mut self) -> Result<BTreeMap<String, Value>, UsdaError> {
        self.take_sign('(')?;
        self.assignments(')')
    }

    fn assignments(&mut self, end: char) -> Result<BTreeMap<String, Value>, UsdaError> {
        let mut out = BTreeMap::new();
        while !self.skip_sign(end) {
            if self.done() {
                return Err(self.error(&format!("`{end}` is expected")));
            }
            let (name, value) = self.assignment()?;
            if let Some(value) = value {
                out.insert(name, value);
            }
            self.skip_sign(',');
        }
        Ok(out)
    }

    /// Words up to `=`; the last one is the name, the one before it the type. A value may be
    /// missing.
    fn assignment(&mut self) -> Result<(String, Option<Value>), UsdaError> {
        let begins = self.tokens.get(self.at).map(|t| t.1);
        let (mut type_name, mut name) = (String::new(), self.word()?);
        // An attribute without a value ends with its line.
        while matches!(self.tokens.get(self.at), Some((Token::Word(_), line)) if Some(*line) == begins)
        {
            type_name = std::mem::replace(&mut name, self.word()?);
        }
        let value = if self.skip_sign('=') {
            Some(self.value()?)
        } else {
            None
        };
        let value = match is_single(&type_name) {
            true => value.map(Value::in_single_precision),
            false => value,
        };
        Ok((name, value))
    }

    fn value(&mut self) -> Result<Value, UsdaError> {
        if self.skip_sign('(') {
            return self.list(')');
        }
        if self.skip_sign('[') {
            return self.list(']');
        }
        if self.skip_sign('{') {
            return self.braces();
        }
        match self.tokens.get(self.at) {
            Some((Token::Quoted(t), _)) => {
                let t = t.clone();
                self.at += 1;
                Ok(Value::Text(t))
            }
            Some((Token::Word(w), _)) => {
                let value = w
                    .parse()
                    .map(Value::Number)
                    .unwrap_or_else(|_| Value::Text((*w).to_owned()));
                self.at += 1;
                Ok(value)
            }
            _ => Err(self.error("a value is expected")),
        }
    }

    fn list(&mut self, end: char) -> Result<Value, UsdaError> {
        let mut out = Vec::new();
        while !self.skip_sign(end) {
            if self.done() {
                return Err(self.error(&format!("`{end}` is expected")));
            }
            out.push(self.value()?);
            self.skip_sign(',');
        }
        Ok(Value::List(out))
    }

    /// Time samples `frame: value, ...` or a dictionary of typed assignments.
    fn braces(&mut self) -> Result<Value, UsdaError> {
        let timed =
            matches!(self.tokens.get(self.at), Some((Token::Word(w), _)) if w.ends_with(':'));
        if !timed {
            return Ok(Value::Map(self.assignments('}')?));
        }
        let mut out = BTreeMap::new();
        while !self.skip_sign('}') {
            let key = self.word()?;
            let value = self.value()?;
            out.insert(key.trim_end_matches(':').to_owned(), value);
            self.skip_sign(',');
        }
        Ok(Value::Map(out))
    }

    fn prim(&mut self) -> Result<Prim, UsdaError> {
        let specifier = self.word()?;
        if !matches!(specifier.as_str(), "def" | "over" | "class") {
            return Err(self.error("a prim is expected"));
        }
        let mut prim = Prim::default();
        if matches!(self.tokens.get(self.at), Some((Token::Word(_), _))) {
            prim.type_name = self.word()?;
        }
        prim.name = self.word()?;
        if self.peek_sign('(') {
            self.metadata()?;
        }
        self.take_sign('{')?;
        while !self.skip_sign('}') {
            if self.done() {
                return Err(self.error("`}` is expected"));
            }
            let is_prim = matches!(self.tokens.get(self.at), Some((Token::Word(w), _)) if *w == "def" || *w == "over");
            if is_prim {
                prim.children.push(self.prim()?);
                continue;
            }
            let (name, value) = self.assignment()?;
            if self.peek_sign('(') {
                self.metadata()?;
            }
            if let Some(value) = value {
                prim.attributes.insert(name, value);
            }
        }
        Ok(prim)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    const FOREIGN: &str = r#"#usda 1.0
(
    doc = "a scene from another program"
    customLayerData = { string rate = "25"  int n = 3 }
    timeCodesPerSecond = 25
)
over "stage" (
    kind = "assembly"
) {
    def Camera "cam" {
        float focalLength = 35.5
        float focalLength.timeSamples = { 1: 35.5, 2: 36, }
        float[] widths = [0.1, 0.2] ( interpolation = "vertex" )
        matrix4d xformOp:transform.timeSamples = {
            -1: ( (1, 0, 0, 0), (0, 1, 0, 0), (0, 0, 1, 0), (1e-3, -2, 3, 1) ), # a comment
        }
    }
}
"#;

    #[test]
    fn text_of_other_habits_is_read() {
        let layer = read(FOREIGN).unwrap();
        let Some(Value::Map(data)) = layer.metadata.get("customLayerData") else {
            panic!("no data")
        };
        assert_eq!(data["rate"], Value::Text("25".to_owned()));
        let camera = layer.prims[0].find("Camera").unwrap();
        assert_eq!(camera.attributes["focalLength"].number(), Some(35.5));
        let Value::Map(samples) = &camera.attributes["xformOp:transform.timeSamples"] else {
            panic!("no samples")
        };
        assert_eq!(samples["-1"].numbers()[12..], [1e-3, -2.0, 3.0, 1.0]);
        let single = [0.1f32, 0.2].map(f64::from);
        assert_eq!(
            camera.attributes["widths"].numbers(),
            single,
            "float holds 32 bits"
        );
    }

    #[test]
    fn a_cut_off_text_is_an_error() {
        for cut in [60, 150, 300, FOREIGN.len() - 4] {
            assert!(read(&FOREIGN[..cut]).is_err(), "cut at {cut}");
        }
    }
}
