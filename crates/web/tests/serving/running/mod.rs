//! A real server on a free port, and plain requests to it.

use parallax_demo::plates::{self, Coding};
use parallax_demo::trial::Trial;
use parallax_web::Config;
use serde_json::{Value, json};
use std::path::Path;
use std::time::{Duration, Instant};
use tokio::io::{AsyncReadExt, AsyncWriteExt};

pub mod prepared;

/// The small plate has so many frames in most tests.
pub const FRAMES: usize = 24;

/// The server while it runs.
pub struct Running {
    pub address: String,
    pub handle: actix_web::dev::ServerHandle,
    pub worker: std::sync::Arc<parallax_web::App>,
}

/// A server on a free port.
pub async fn start(data: &Path, plates: &Path) -> Running {
    let config = Config {
        host: "127.0.0.1".to_owned(),
        port: 0,
        data: data.to_owned(),
        plates: Some(plates.to_owned()),
        demo: Vec::new(),
        lenses: Vec::new(),
        models: Vec::new(),
        view_bytes: parallax_web::USUAL_VIEW_BYTES,
    };
    let (server, address, worker) = parallax_web::start(config).await.unwrap();
    let handle = server.handle();
    tokio::spawn(server);
    Running {
        address: address.trim_start_matches("http://").to_owned(),
        handle,
        worker,
    }
}

/// A small plate in the folder `walk`.
pub fn small_plate(root: &Path, frames: usize) {
    plates::write_trial(&Trial::small(frames), &root.join("walk"), Coding::Png).unwrap();
}

/// A server with the shot of that plate.
pub async fn opened(data: &Path, root: &Path) -> (Running, i64) {
    let server = start(data, root).await;
    let (status, opened) = server.post("/api/shots", json!({ "folder": "walk" })).await;
    assert_eq!(status, 201, "{opened}");
    let shot = opened["shot"].as_i64().unwrap();
    server.settled(shot).await;
    (server, shot)
}

/// Standing and figure of a station.
pub fn standing(view: &Value, station: &str) -> (String, String) {
    let all = view["stations"].as_array().unwrap();
    let found = all.iter().find(|s| s["key"] == station).unwrap();
    let word = |key: &str| found[key].as_str().unwrap().to_owned();
    (word("standing"), word("figure"))
}

/// A point that the tests of Orient and Proof know the truth of.
#[derive(Clone)]
pub struct TruePoint {
    /// Name of its track.
    pub name: String,
    /// Where it is in the world of the set, m; the ground is at height 0.
    pub at: [f64; 3],
}

/// Feeds a shot of the small plate with what its true camera sees of the set, and solves it: nothing is followed.
/// Positions miss by up to 0.02 px.
pub async fn solved_from_truth(
    server: &Running,
    shot: i64,
    frames: usize,
) -> (Vec<TruePoint>, Value) {
    let take = Trial::small(frames).take();
    let mut chance = fastrand::Rng::with_seed(5);
    let mut csv = "track,frame,x,y,sigma\n".to_owned();
    let mut points = Vec::new();
    for point in take.true_points(150) {
        let name = format!("p{:03}", points.len());
        let mut seen = 0;
        for index in 0..frames {
            let inside = |x: f64, y: f64| (4.0..316.0).contains(&x) && (4.0..176.0).contains(&y);
            let px = take.lens.project(&take.pose(index), &point);
            let Some(px) = px.filter(|px| inside(px.x, px.y)) else {
                continue;
            };
            let mut off = || 0.04 * (chance.f64() - 0.5);
            let (x, y) = (px.x + off(), px.y + off());
            let frame = take.frame_number(index);
            csv += &format!("{name},{frame},{x:.4},{y:.4},0.02\n");
            seen += 1;
        }
        assert!(seen > 0, "a true point is seen");
        let at = [point.0.x, point.0.y, point.0.z];
        points.push(TruePoint { name, at });
    }
    let path = format!("/api/shots/{shot}/tracks/import");
    let (status, said) = server.ask("POST", &path, "", csv.as_bytes()).await;
    assert_eq!(status, 200, "{}", String::from_utf8_lossy(&said));
    assert_eq!(server.edit(shot, json!({ "rate": "25" })).await.0, 200);
    let view = server.work(shot, "solve").await;
    assert!(view["state"]["attempt"].is_i64(), "{}", view["jobs"]);
    (points, view)
}

/// Landmarks as they stand now: id of the track, the true place, the place found.
pub async fn placed(
    server: &Running,
    shot: i64,
    points: &[TruePoint],
) -> Vec<(u64, [f64; 3], [f64; 3])> {
    let (_, tracks) = server.get(&format!("/api/shots/{shot}/tracks")).await;
    let (_, world) = server.get(&format!("/api/shots/{shot}/world")).await;
    let tracks = tracks["tracks"].as_array().unwrap();
    let found = world["points"].as_array().unwrap();
    let of = |p: &Value| {
        let track = tracks.iter().find(|t| t["id"] == p[0])?;
        let truth = points.iter().find(|t| track["name"] == t.name.as_str())?;
        let at = [1, 2, 3].map(|k| p[k].as_f64().unwrap());
        Some((p[0].as_u64()?, truth.at, at))
    };
    found.iter().filter_map(of).collect()
}

/// A small picture as a file.
pub fn coded(format: image::ImageFormat) -> Vec<u8> {
    let picture = image::RgbImage::from_fn(64, 48, |x, y| {
        image::Rgb([(x * 4) as u8, (y * 5) as u8, ((x * y) % 251) as u8])
    });
    let mut bytes = std::io::Cursor::new(Vec::new());
    picture.write_to(&mut bytes, format).unwrap();
    bytes.into_inner()
}

impl Running {
    /// Drops files on the first page.
    pub async fn dropped(&self, files: &[(&str, &[u8])]) -> (u16, Value) {
        self.dropped_at("/api/uploads", files).await
    }

    /// Drops files at an address.
    pub async fn dropped_at(&self, path: &str, files: &[(&str, &[u8])]) -> (u16, Value) {
        let mut body = Vec::new();
        for (name, bytes) in files {
            let head = format!(
                "--x\r\ncontent-disposition: form-data; name=\"files\"; filename=\"{name}\"\r\n\r\n"
            );
            body.extend(head.as_bytes());
            body.extend(*bytes);
            body.extend(b"\r\n");
        }
        body.extend(b"--x--\r\n");
        let kind = "content-type: multipart/form-data; boundary=x\r\n";
        let (status, answer) = self.ask("POST", path, kind, &body).await;
        (status, serde_json::from_slice(&answer).unwrap())
    }

    /// Lets work be done; the shot afterwards.
    pub async fn work(&self, shot: i64, kind: &str) -> Value {
        let jobs = format!("/api/shots/{shot}/jobs");
        let (status, answer) = self.post(&jobs, json!({ "kind": kind })).await;
        assert_eq!(status, 202, "{answer}");
        self.settled(shot).await
    }

    /// Delivers by the recipe of a name; the view afterwards.
    pub async fn deliver(&self, shot: i64, recipe: &str) -> Value {
        let (_, view) = self.get(&format!("/api/shots/{shot}")).await;
        let all = view["state"]["recipes"].as_array().unwrap();
        let found = all.iter().find(|r| r["name"] == recipe).unwrap();
        let jobs = format!("/api/shots/{shot}/jobs");
        let asked = json!({ "kind": "deliver", "recipe": found["id"] });
        let (status, answer) = self.post(&jobs, asked).await;
        assert_eq!(status, 202, "{answer}");
        self.settled(shot).await
    }

    /// The package of the latest delivery.
    pub async fn package(&self, shot: i64) -> Vec<u8> {
        let (_, view) = self.get(&format!("/api/shots/{shot}")).await;
        let delivery = view["state"]["delivery"].as_i64().unwrap();
        let path = format!("/api/shots/{shot}/deliveries/{delivery}");
        let (status, package) = self.ask("GET", &path, "", b"").await;
        assert_eq!(status, 200);
        package
    }

    /// Ends it in good order, so that another can be started on its folder.
    pub async fn end(self) {
        self.handle.stop(false).await;
        self.worker.end();
        self.worker.ended(Duration::from_secs(20)).await;
    }

    /// One request over a plain connection; status and body.
    pub async fn ask(
        &self,
        method: &str,
        path: &str,
        headers: &str,
        body: &[u8],
    ) -> (u16, Vec<u8>) {
        let mut stream = tokio::net::TcpStream::connect(&self.address).await.unwrap();
        let head = format!(
            "{method} {path} HTTP/1.1\r\nhost: {}\r\nconnection: close\r\naccept-encoding: identity\r\n{headers}content-length: {}\r\n\r\n",
            self.address,
            body.len()
        );
        stream.write_all(head.as_bytes()).await.unwrap();
        stream.write_all(body).await.unwrap();
        let mut answer = Vec::new();
        stream.read_to_end(&mut answer).await.unwrap();
        let end = answer.windows(4).position(|w| w == b"\r\n\r\n").unwrap();
        let head = String::from_utf8_lossy(&answer[..end]).to_ascii_lowercase();
        let status = head[9..12].parse().unwrap();
        let body = answer[end + 4..].to_vec();
        (
            status,
            if head.contains("transfer-encoding: chunked") {
                unchunked(&body)
            } else {
                body
            },
        )
    }

    pub async fn get(&self, path: &str) -> (u16, Value) {
        let (status, body) = self.ask("GET", path, "", b"").await;
        (status, serde_json::from_slice(&body).unwrap_or(Value::Null))
    }

    /// A file that is no JSON.
    pub async fn text(&self, path: &str) -> String {
        let (status, body) = self.ask("GET", path, "", b"").await;
        assert_eq!(status, 200);
        String::from_utf8(body).unwrap()
    }

    pub async fn post(&self, path: &str, body: Value) -> (u16, Value) {
        let (status, body) = self
            .ask(
                "POST",
                path,
                "content-type: application/json\r\n",
                body.to_string().as_bytes(),
            )
            .await;
        (status, serde_json::from_slice(&body).unwrap_or(Value::Null))
    }

    /// Edits a shot as somebody who sees it as it is now.
    pub async fn edit(&self, shot: i64, patch: Value) -> (u16, Value) {
        let (_, view) = self.get(&format!("/api/shots/{shot}")).await;
        let edit = json!({ "label": "edit", "patch": patch, "on": view["version"] });
        self.post(&format!("/api/shots/{shot}/edits"), edit).await
    }

    /// States facts about the world.
    pub async fn state(&self, shot: i64, facts: &[Value]) -> (u16, Value) {
        let (_, view) = self.get(&format!("/api/shots/{shot}")).await;
        let things = json!({ "statements": { "add": facts } });
        let edit =
            json!({ "label": "state", "patch": {}, "on": view["version"], "things": things });
        self.post(&format!("/api/shots/{shot}/edits"), edit).await
    }

    /// Does deeds on things of a list.
    pub async fn things(&self, shot: i64, list: &str, deeds: Value) -> (u16, Value) {
        let (_, view) = self.get(&format!("/api/shots/{shot}")).await;
        let things = json!({ list: deeds });
        let edit = json!({ "label": "edit", "patch": {}, "on": view["version"], "things": things });
        self.post(&format!("/api/shots/{shot}/edits"), edit).await
    }

    /// Waits until no work goes on; the shot as it is then.
    pub async fn settled(&self, shot: i64) -> Value {
        let begun = Instant::now();
        loop {
            let (_, view) = self.get(&format!("/api/shots/{shot}")).await;
            let active = view["jobs"]
                .as_array()
                .unwrap()
                .iter()
                .any(|j| j["state"] == "queued" || j["state"] == "running");
            if !active {
                return view;
            }
            assert!(
                begun.elapsed() < Duration::from_secs(240),
                "work does not end: {}",
                view["jobs"]
            );
            tokio::time::sleep(Duration::from_millis(50)).await;
        }
    }
}

fn unchunked(mut body: &[u8]) -> Vec<u8> {
    let mut out = Vec::new();
    while let Some(line) = body.windows(2).position(|w| w == b"\r\n") {
        let size =
            usize::from_str_radix(std::str::from_utf8(&body[..line]).unwrap().trim(), 16).unwrap();
        if size == 0 {
            break;
        }
        out.extend_from_slice(&body[line + 2..line + 2 + size]);
        body = &body[line + 4 + size..];
    }
    out
}

/// The statement that features lie on the ground.
pub fn ground_of(ids: &[u64]) -> Value {
    json!({ "kind": "plane", "name": "floor", "faces": "ground", "on": ids })
}

/// The statement of a length between two features.
pub fn length(a: u64, b: u64, metres: f64) -> Value {
    json!({ "kind": "length", "between": [{ "feature": a }, { "feature": b }], "length_m": metres, "sigma_m": 0.002 })
}

/// What the page shows of the latest delivery.
pub fn made(view: &Value) -> &Value {
    let latest = view["state"]["delivery"].as_i64();
    let rows = view["recipes"].as_array().unwrap();
    let made = rows.iter().map(|r| &r["made"]);
    made.into_iter()
        .find(|m| m["delivery"].as_i64() == latest && latest.is_some())
        .unwrap_or(&Value::Null)
}

/// A file of a package as text.
pub fn text_in(package: &[u8], file: &str) -> String {
    String::from_utf8(parallax_formats::delivery::unzipped(package, file).unwrap()).unwrap()
}
