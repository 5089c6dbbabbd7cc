//! The bytes of a glTF file as they are gathered: views and accessors.

use serde_json::{Value, json};

const ARRAY: u32 = 34962;
const ELEMENTS: u32 = 34963;
const FLOAT: u32 = 5126;
const UINT: u32 = 5125;

/// Bytes with what lies where.
#[derive(Default)]
pub struct Binary {
    /// The bytes.
    pub bytes: Vec<u8>,
    /// Views of them.
    pub views: Vec<Value>,
    /// What the views hold.
    pub accessors: Vec<Value>,
}

impl Binary {
    /// Adds bytes as they are.
    pub fn view(&mut self, bytes: &[u8], target: Option<u32>) -> usize {
        self.bytes.resize(self.bytes.len().next_multiple_of(4), 0);
        let mut view =
            json!({ "buffer": 0, "byteOffset": self.bytes.len(), "byteLength": bytes.len() });
        if let Some(target) = target {
            view["target"] = json!(target);
        }
        self.bytes.extend_from_slice(bytes);
        self.views.push(view);
        self.views.len() - 1
    }

    fn floats<const N: usize>(
        &mut self,
        values: &[[f32; N]],
        kind: &str,
        (target, with_bounds): (Option<u32>, bool),
    ) -> usize {
        let bytes: Vec<u8> = values
            .iter()
            .flatten()
            .flat_map(|v| v.to_le_bytes())
            .collect();
        let view = self.view(&bytes, target);
        let mut accessor = json!({ "bufferView": view, "componentType": FLOAT, "count": values.len(), "type": kind });
        if with_bounds {
            let bound = |pick: fn(f32, f32) -> f32| -> Vec<f32> {
                let of = |k: usize| values.iter().map(|v| v[k]).reduce(pick).unwrap_or(0.0);
                (0..N).map(of).collect()
            };
            accessor["min"] = json!(bound(f32::min));
            accessor["max"] = json!(bound(f32::max));
        }
        self.accessors.push(accessor);
        self.accessors.len() - 1
    }

    /// Values at corners.
    pub fn corners<const N: usize>(
        &mut self,
        values: &[[f32; N]],
        kind: &str,
        with_bounds: bool,
    ) -> usize {
        self.floats(values, kind, (Some(ARRAY), with_bounds))
    }

    /// Values over time.
    pub fn samples<const N: usize>(&mut self, values: &[[f32; N]], kind: &str) -> usize {
        self.floats(values, kind, (None, kind == "SCALAR"))
    }

    /// Corners of triangles.
    pub fn indices(&mut self, corners: &[u32]) -> usize {
        let bytes: Vec<u8> = corners.iter().flat_map(|v| v.to_le_bytes()).collect();
        let view = self.view(&bytes, Some(ELEMENTS));
        let accessor = json!({ "bufferView": view, "componentType": UINT, "count": corners.len(), "type": "SCALAR" });
        self.accessors.push(accessor);
        self.accessors.len() - 1
    }
}

/// Header and the two chunks of a file that holds everything, each padded to four bytes.
pub fn wrapped(mut text: Vec<u8>, mut bytes: Vec<u8>) -> Vec<u8> {
    text.resize(text.len().next_multiple_of(4), b' ');
    bytes.resize(bytes.len().next_multiple_of(4), 0);
    let word = |v: usize| (v as u32).to_le_bytes();
    let chunk = if bytes.is_empty() { 0 } else { 8 + bytes.len() };
    let mut out = Vec::with_capacity(20 + text.len() + chunk);
    out.extend(b"glTF");
    out.extend(word(2));
    out.extend(word(20 + text.len() + chunk));
    out.extend(word(text.len()));
    out.extend(b"JSON");
    out.extend(text);
    if !bytes.is_empty() {
        out.extend(word(bytes.len()));
        out.extend(b"BIN\0");
        out.extend(bytes);
    }
    out
}
