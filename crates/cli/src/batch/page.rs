//! What a batch came to: a table, `summary.json`, and `index.html` with figures and a frame of each shot.

use super::Status;
use super::job::Shot;
use parallax_core::spaces::FrameNumber;
use parallax_media::{Plate, viewing};
use serde_json::{Value, json};
use std::fmt::Write;
use std::path::Path;

/// How a shot is told in one word.
fn word(status: Option<&Status>) -> &'static str {
    match status {
        None => "not begun",
        Some(s) if !s.done => "broken",
        Some(s) if s.figures["verdict"] == "good" => "good",
        Some(_) => "needs a look",
    }
}

fn number(value: &Value, unit: &str) -> String {
    value
        .as_f64()
        .map_or_else(|| "-".to_owned(), |v| format!("{v:.3}{unit}"))
}

/// What is told of a shot: word, residual, focal length, landmarks, seconds, deliveries.
fn cells(status: Option<&Status>) -> [String; 6] {
    let none = Value::Null;
    let figures = status.map_or(&none, |s| &s.figures);
    let count = |value: &Value| value.as_u64().map_or("-".to_owned(), |v| v.to_string());
    [
        word(status).to_owned(),
        number(&figures["rms_px"], " px"),
        number(&figures["focal_px"], " px"),
        count(&figures["landmarks"]),
        status.map_or("-".to_owned(), |s| format!("{:.1} s", s.seconds)),
        status.map_or("-".to_owned(), |s| s.deliveries.len().to_string()),
    ]
}

const HEADS: [&str; 7] = [
    "shot",
    "camera",
    "residual",
    "focal",
    "landmarks",
    "took",
    "deliveries",
];

/// As text, in columns.
pub fn table(rows: &[(&Shot, Option<Status>)]) -> String {
    let mut all = vec![HEADS.map(str::to_owned).to_vec()];
    for (shot, status) in rows {
        let mut row = vec![shot.name.clone()];
        row.extend(cells(status.as_ref()));
        all.push(row);
    }
    let wide = |k: usize| all.iter().map(|r| r[k].chars().count()).max().unwrap_or(0);
    let widths: Vec<usize> = (0..HEADS.len()).map(wide).collect();
    let line = |row: &Vec<String>| {
        let padded = row.iter().zip(&widths).map(|(c, w)| format!("{c:w$}"));
        padded.collect::<Vec<_>>().join("  ").trim_end().to_owned()
    };
    all.iter().map(|row| line(row) + "\n").collect()
}

/// Writes what there is, each file whole.
pub fn write(out: &Path, rows: &[(&Shot, Option<Status>)]) -> std::io::Result<()> {
    let of = |(shot, status): &(&Shot, Option<Status>)| json!({ "name": shot.name, "folder": shot.folder(), "standing": word(status.as_ref()), "status": status });
    let summary: Vec<Value> = rows.iter().map(of).collect();
    let put = |name: &str, text: String| {
        // Shards end side by side: each has a file of its own to begin with.
        let beside = out.join(format!(".{name}.{}", std::process::id()));
        std::fs::write(&beside, text)?;
        std::fs::rename(&beside, out.join(name))
    };
    put(
        "summary.json",
        format!("{:#}\n", json!({ "shots": summary })),
    )?;
    put("summary.txt", table(rows))?;
    put("index.html", html(out, rows))
}

fn escaped(text: &str) -> String {
    text.replace('&', "&amp;")
        .replace('<', "&lt;")
        .replace('>', "&gt;")
        .replace('"', "&quot;")
}

const STYLE: &str = "body{font:15px/1.5 system-ui,sans-serif;margin:2rem;background:#20211f;color:#e8e6df}table{border-collapse:collapse}td,th{padding:.4rem .9rem;text-align:left;border-bottom:1px solid #45473f;vertical-align:middle}td.n{font-family:ui-monospace,monospace;text-align:right;white-space:nowrap}img{display:block;width:192px}a{color:inherit}.good{color:#6fc9ae}.look{color:#e3b04b}.broken{color:#e07a5f}small{color:#a7a59b}";

fn html(folder_of_all: &Path, rows: &[(&Shot, Option<Status>)]) -> String {
    let mut out = format!(
        "<!doctype html><html lang=\"en\"><meta charset=\"utf-8\"><title>Batch</title><style>{STYLE}</style><h1>Batch</h1><table><tr><th></th>"
    );
    for head in HEADS {
        let _ = write!(out, "<th>{head}</th>");
    }
    out.push_str("</tr>\n");
    for (shot, status) in rows {
        let folder = escaped(&shot.folder());
        let class = match word(status.as_ref()) {
            "good" => "good",
            "broken" => "broken",
            _ => "look",
        };
        let pictured = folder_of_all
            .join(shot.folder())
            .join("frame.jpg")
            .is_file();
        let picture = match pictured {
            true => format!("<img src=\"{folder}/frame.jpg\" alt=\"a frame of {folder}\">"),
            false => String::new(),
        };
        let _ = write!(
            out,
            "<tr><td>{picture}</td><td><a href=\"{folder}/log.txt\">{}</a>{}</td>",
            escaped(&shot.name),
            said(status.as_ref())
        );
        for (k, cell) in cells(status.as_ref()).iter().enumerate() {
            let class = if k == 0 { class } else { "n" };
            let _ = write!(out, "<td class=\"{class}\">{}</td>", escaped(cell));
        }
        out.push_str("</tr>\n");
    }
    out.push_str("</table></html>\n");
    out
}

/// What is wrong with a shot, or what speaks against its camera.
fn said(status: Option<&Status>) -> String {
    let Some(status) = status else {
        return String::new();
    };
    let reasons = status.figures["reasons"].as_array();
    let reasons = reasons.into_iter().flatten().filter_map(Value::as_str);
    let own = Some(status.message.as_str()).filter(|m| !m.is_empty());
    own.into_iter()
        .chain(reasons)
        .fold(String::new(), |mut out, text| {
            let _ = write!(out, "<br><small>{}</small>", escaped(text));
            out
        })
}

/// The middle frame of a plate as JPEG; nothing where it cannot be read.
pub fn frame(shot: &Shot) -> Option<Vec<u8>> {
    let (sequence, _) = Plate::in_folder(&shot.plate, true).ok()?;
    let (number, file) = sequence.files.get(sequence.files.len() / 2)?;
    viewing::shown(file, FrameNumber(number.0), 0.0).ok()
}
