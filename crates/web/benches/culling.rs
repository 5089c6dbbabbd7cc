//! What does it take to set one track of many aside?
//!
//! `cargo bench -p parallax-web --bench culling`: 2,000 tracks over 400 frames are taken in, then one after the
//! other is set aside as a page does it: the edit, answered by what it changed in the view, and the tracks that
//! changed. Times of both and their bytes; beside them the whole list, packed.
#![allow(clippy::unwrap_used)]

#[allow(dead_code)]
#[path = "../tests/serving/running/mod.rs"]
mod running;

use running::start;
use serde_json::{Value, json};
use std::fmt::Write as _;
use std::time::Instant;

const TRACKS: usize = 2000;
const FRAMES: usize = 400;
const TIMES: usize = 40;

/// Tracks that wander a little, as comma-separated text.
fn tracks() -> String {
    let mut random = fastrand::Rng::with_seed(1);
    let mut text = "track,frame,x,y\n".to_owned();
    for track in 0..TRACKS {
        let [mut x, mut y] = [280.0, 140.0].map(|size| 20.0 + size * random.f64());
        for frame in 1..=FRAMES {
            x += random.f64() - 0.5;
            y += random.f64() - 0.5;
            writeln!(text, "p{track},{frame},{x:.3},{y:.3}").unwrap();
        }
    }
    text
}

fn head(packed: &[u8]) -> Value {
    let length = u32::from_le_bytes(packed[..4].try_into().unwrap()) as usize;
    serde_json::from_slice(&packed[4..4 + length]).unwrap()
}

fn middle(mut times: Vec<f64>) -> (f64, f64) {
    times.sort_by(f64::total_cmp);
    (times[times.len() / 2], times[times.len() - 1])
}

#[actix_web::main]
async fn main() {
    let (data, root) = (tempfile::tempdir().unwrap(), tempfile::tempdir().unwrap());
    let picture = image::GrayImage::from_pixel(320, 180, image::Luma([90]));
    std::fs::create_dir(root.path().join("long")).unwrap();
    for frame in 1..=FRAMES {
        let file = format!("long/long.{frame:04}.png");
        picture.save(root.path().join(file)).unwrap();
    }
    let server = start(data.path(), root.path()).await;
    // It may not listen yet.
    while tokio::net::TcpStream::connect(&server.address)
        .await
        .is_err()
    {
        tokio::time::sleep(std::time::Duration::from_millis(20)).await;
    }
    let (_, opened) = server.post("/api/shots", json!({ "folder": "long" })).await;
    let shot = opened["shot"].as_i64().unwrap();
    server.settled(shot).await;
    let path = format!("/api/shots/{shot}");
    let text = tracks();
    let import = format!("{path}/tracks/import");
    server
        .ask(
            "POST",
            &import,
            "content-type: text/csv\r\n",
            text.as_bytes(),
        )
        .await;
    let view = server.settled(shot).await;
    let begun = Instant::now();
    let (_, whole) = server
        .ask("GET", &format!("{path}/tracks.bin"), "", &[])
        .await;
    println!(
        "all tracks: {} bytes, {:.0} ms",
        whole.len(),
        1e3 * begun.elapsed().as_secs_f64()
    );
    let mut seen = view["tag"].as_str().unwrap().to_owned();
    let mut listed = head(&whole)["tag"].as_str().unwrap().to_owned();
    let (mut edits, mut lists, mut bytes) = (Vec::new(), Vec::new(), 0);
    for k in 1..=TIMES {
        let known = format!("content-type: application/json\r\nx-seen: {seen}\r\n");
        let body = json!({ "aside": [k] }).to_string();
        let begun = Instant::now();
        let (_, answer) = server
            .ask("POST", &format!("{path}/cull"), &known, body.as_bytes())
            .await;
        edits.push(1e3 * begun.elapsed().as_secs_f64());
        let changed: Value = serde_json::from_slice(&answer).unwrap();
        seen = changed["tag"].as_str().unwrap().to_owned();
        let begun = Instant::now();
        let since = format!("{path}/tracks.bin?since={listed}");
        let (_, tracks) = server.ask("GET", &since, "", &[]).await;
        lists.push(1e3 * begun.elapsed().as_secs_f64());
        listed = head(&tracks)["tag"].as_str().unwrap().to_owned();
        bytes = bytes.max(answer.len() + tracks.len());
    }
    let ((edit, longest), (list, slowest)) = (middle(edits), middle(lists));
    println!(
        "edit {edit:.1} ms (longest {longest:.1}), tracks {list:.1} ms (longest {slowest:.1}), at most {bytes} bytes"
    );
}
