//! Guests: where they are drawn on the plate, how good they say they are, what is made of them.

use crate::running::prepared::{Stage, prepared};
use crate::running::{FRAMES, ground_of, length, placed, standing};
use parallax_core::spaces::WorldPoint;
use parallax_demo::trial::Trial;
use serde_json::{Value, json};
use std::path::Path;

fn boxed(at: u64, size_m: Value) -> Value {
    json!({ "name": "crate", "at": at, "what": { "kind": "box", "size_m": size_m } })
}

/// An edit that adds a guest.
fn add(on: &Value, guest: Value) -> Value {
    json!({ "label": "place a guest", "patch": {}, "on": on["version"], "things": { "guests": { "add": [guest] } } })
}

/// A shot solved from the truth in a world with ground and scale; landmarks on the ground with where they truly are.
async fn oriented(
    data: &Path,
    root: &Path,
) -> (crate::running::Running, i64, Vec<(u64, [f64; 3])>, Value) {
    let (server, shot, points, _) = prepared(Stage::FromTruth, data, root).await;
    let found = placed(&server, shot, &points).await;
    let ground: Vec<_> = found.iter().filter(|(_, t, _)| t[1].abs() < 1e-6).collect();
    let (a, b) = (ground[0], ground[ground.len() / 2]);
    let metres = (0..3)
        .map(|k| (a.1[k] - b.1[k]).powi(2))
        .sum::<f64>()
        .sqrt();
    let ids: Vec<u64> = ground.iter().map(|g| g.0).collect();
    let (status, view) = server
        .state(shot, &[ground_of(&ids), length(a.0, b.0, metres)])
        .await;
    assert_eq!(status, 200, "{view}");
    let true_ones = ground.iter().map(|g| (g.0, g.1)).collect();
    (server, shot, true_ones, view)
}

/// What is under the pointer: the landmark that is seen there, else the ground there, at the depth where it truly is.
#[actix_web::test]
async fn a_guest_comes_to_stand_where_the_pointer_is() {
    let (data, root) = (tempfile::tempdir().unwrap(), tempfile::tempdir().unwrap());
    let (server, shot, ground, _) = oriented(data.path(), root.path()).await;
    let take = Trial::small(FRAMES).take();
    let (id, at) = ground[ground.len() / 2];
    let px = take
        .lens
        .project(&take.pose(0), &WorldPoint::new(at[0], at[1], at[2]))
        .unwrap();
    let ask = async |snap: bool, x: f64, y: f64| {
        let frame = take.frame_number(0);
        let path = format!("/api/shots/{shot}/place-guest?frame={frame}&x={x}&y={y}&snap={snap}");
        server.get(&path).await
    };
    let (status, snapped) = ask(true, px.x + 2.0, px.y).await;
    assert_eq!(
        (status, snapped["feature"].as_u64()),
        (200, Some(id)),
        "{snapped}"
    );
    let (_, on_ground) = ask(false, px.x, px.y).await;
    assert_eq!(
        (on_ground["on"].as_str(), on_ground["feature"].as_u64()),
        (Some("the ground"), None)
    );
    let numbers = |v: &Value| -> Vec<f64> {
        v["place"]
            .as_array()
            .unwrap()
            .iter()
            .map(|v| v.as_f64().unwrap())
            .collect()
    };
    let off: f64 = numbers(&snapped)
        .iter()
        .zip(numbers(&on_ground))
        .map(|(a, b)| (a - b).powi(2))
        .sum::<f64>()
        .sqrt();
    assert!(off < 0.02, "{off} m");
    // The sky is nowhere.
    let (status, nothing) = ask(false, 160.0, -60.0).await;
    assert_eq!(status, 200);
    assert!(
        nothing["none"].as_str().unwrap().contains("Orient"),
        "{nothing}"
    );

    // A corner and where a sun would throw its shadow: the sun stands there.
    let (_, world) = server.get(&format!("/api/shots/{shot}/world")).await;
    let height = |p: &&Value| p[2].as_f64().unwrap();
    let points = world["points"].as_array().unwrap().iter();
    let corner = points
        .max_by(|a, b| height(a).total_cmp(&height(b)))
        .unwrap();
    let of_corner: Vec<f64> = (1..4).map(|k| corner[k].as_f64().unwrap()).collect();
    let (heading_deg, height_deg) = (25.0, 62.0);
    let sun = parallax_core::render::Sun {
        heading_deg,
        height_deg,
        ..Default::default()
    };
    let towards = sun.towards();
    let far = of_corner[1] / towards.y;
    let [x, z] = [0, 2].map(|k| of_corner[k] - towards[k] * far);
    let (frame, path) = (
        take.frame_number(0),
        format!("/api/shots/{shot}/path?x={x}&y=0&z={z}&kind=json"),
    );
    let (_, seen) = server.get(&path).await;
    let row = &seen["frames"][0];
    assert_eq!(row["frame"], frame.0, "{seen}");
    let track = &corner[0];
    let ask = format!(
        "/api/shots/{shot}/sun?corner={track}&frame={frame}&x={}&y={}",
        row["px"][0], row["px"][1]
    );
    let (_, found) = server.get(&ask).await;
    // A landmark near the shadow may take the click: some px are some degrees.
    let off = |name: &str, truth: f64| (found[name].as_f64().unwrap() - truth).abs();
    assert!(off("heading_deg", heading_deg) < 5.0, "{found}");
    assert!(off("height_deg", height_deg) < 5.0, "{found}");

    // A corner on the ground casts no shadow.
    let (status, sun) = server
        .get(&format!(
            "/api/shots/{shot}/sun?corner={id}&frame={}&x={}&y={}",
            take.frame_number(0),
            px.x,
            px.y
        ))
        .await;
    assert_eq!(status, 200);
    assert!(
        sun["none"].is_string(),
        "a corner on the ground casts no shadow: {sun}"
    );
    server.end().await;
}

/// The picture of a frame differs from the plate where the guest stands and where its shadow falls, and nowhere else;
/// the movie has the rate and all frames, and says when something has changed since.
#[actix_web::test]
async fn pictures_and_movies_show_guests() {
    let (data, root) = (tempfile::tempdir().unwrap(), tempfile::tempdir().unwrap());
    let (server, shot, ground, view) = oriented(data.path(), root.path()).await;
    let take = Trial::small(FRAMES).take();
    let (id, at) = ground[ground.len() / 2];
    let edits = format!("/api/shots/{shot}/edits");
    let (status, view) = server
        .post(&edits, add(&view, boxed(id, json!([0.4, 0.6, 0.4]))))
        .await;
    assert_eq!(status, 200, "{view}");
    let frame = take.frame_number(0);
    let (status, bytes) = server
        .ask(
            "GET",
            &format!("/api/shots/{shot}/guests/picture?frame={frame}&rays=4"),
            "",
            b"",
        )
        .await;
    assert_eq!(status, 200);
    let drawn = image::load_from_memory(&bytes).unwrap().into_rgb8();
    let file = std::fs::read_dir(root.path().join("walk"))
        .unwrap()
        .map(|e| e.unwrap().path())
        .min()
        .unwrap();
    let plate = image::open(file).unwrap().into_rgb8();
    let differs = |x: u32, y: u32| drawn.get_pixel(x, y) != plate.get_pixel(x, y);
    let seen = |h: f64| {
        take.lens
            .project(&take.pose(0), &WorldPoint::new(at[0], at[1] + h, at[2]))
            .unwrap()
    };
    let middle = seen(0.3);
    assert!(
        differs(middle.x as u32, middle.y as u32),
        "the box is there"
    );
    let high = (seen(0.0).y - seen(0.6).y).abs();
    let far = (0..plate.height()).flat_map(|y| (0..plate.width()).map(move |x| (x, y)));
    let changed = far.filter(|(x, y)| differs(*x, *y));
    let stray = changed
        .filter(|(x, y)| (f64::from(*x) - middle.x).hypot(f64::from(*y) - middle.y) > 5.0 * high)
        .count();
    assert_eq!(stray, 0, "nothing changes far from it");
    let (status, _) = server
        .get(&format!("/api/shots/{shot}/guests/picture?frame=9999"))
        .await;
    assert_eq!(status, 404);

    let (status, _) = server
        .ask("GET", &format!("/api/shots/{shot}/movie"), "", b"")
        .await;
    assert_eq!(status, 404, "none yet");
    let (_, view) = server.edit(shot, json!({ "movie": { "rays": 1 } })).await;
    assert!(view["movie"].is_null());
    let view = server.work(shot, "movie").await;
    assert_eq!(view["movie"]["current"], true, "{}", view["jobs"]);
    let (status, bytes) = server
        .ask("GET", &format!("/api/shots/{shot}/movie"), "", b"")
        .await;
    assert_eq!(status, 200);
    let kept = data.path().join("movie.mp4");
    std::fs::write(&kept, bytes).unwrap();
    let facts = parallax_media::Movie::open(&kept).unwrap().facts;
    assert_eq!(
        (facts.rate.to_string(), facts.count),
        ("25".to_owned(), FRAMES)
    );
    let (_, view) = server
        .edit(shot, json!({ "sun": { "height_deg": 20.0 } }))
        .await;
    assert_eq!(view["movie"]["current"], false);

    // As numbered pictures, by the numbers of the frames.
    server
        .edit(shot, json!({ "movie": { "pictures": true } }))
        .await;
    server.work(shot, "movie").await;
    let (_, bytes) = server
        .ask("GET", &format!("/api/shots/{shot}/movie"), "", b"")
        .await;
    let archive = zip::ZipArchive::new(std::io::Cursor::new(bytes)).unwrap();
    let last = format!(".{:04}.png", take.frame_number(FRAMES - 1));
    assert_eq!(archive.len(), FRAMES);
    assert!(
        archive.file_names().any(|name| name.ends_with(&last)),
        "{last}"
    );
    let left = std::fs::read_dir(data.path().join("movies")).unwrap();
    let half_drawn = left.filter(|e| e.as_ref().unwrap().path().is_dir());
    assert_eq!(
        half_drawn.count(),
        0,
        "nothing that is half drawn takes room"
    );
    server.end().await;
}

/// A model that is dropped can be placed; what cannot be drawn says why, and nothing is kept of it.
#[actix_web::test]
async fn models_are_taken_in_or_refused_with_a_sentence() {
    let (data, root) = (tempfile::tempdir().unwrap(), tempfile::tempdir().unwrap());
    let (server, shot, ground, view) = oriented(data.path(), root.path()).await;
    let cube = "v 0 0 0\nv 1 0 0\nv 1 1 0\nv 0 1 0\nv 0 0 1\nv 1 0 1\nf 1 2 3 4\nf 1 2 6 5\n";
    let (status, taken) = server
        .dropped_at("/api/models", &[("case.obj", cube.as_bytes())])
        .await;
    assert_eq!(status, 201, "{taken}");
    let (_, again) = server
        .dropped_at("/api/models", &[("case.obj", cube.as_bytes())])
        .await;
    assert_eq!(again["model"], taken["model"], "the same is kept once");
    for (name, text, said) in [
        ("case.obj", "mtllib lost.mtl\nv 0 0 0\n", "names lost.mtl"),
        ("case.glb", "glTF", "cannot be read as a model"),
        ("notes.txt", "hello", "none of the files is a model"),
    ] {
        let (status, answer) = server
            .dropped_at("/api/models", &[(name, text.as_bytes())])
            .await;
        assert_eq!(status, 409, "{answer}");
        assert!(answer["error"].as_str().unwrap().contains(said), "{answer}");
    }
    let (_, list) = server.get("/api/models").await;
    assert_eq!(list["models"].as_array().unwrap().len(), 1);
    let guest = json!({ "name": "case", "at": ground[0].0, "what": { "kind": "model", "model": taken["model"] } });
    let (status, view) = server
        .post(&format!("/api/shots/{shot}/edits"), add(&view, guest))
        .await;
    assert_eq!(status, 200, "{view}");
    let (_, shown) = server.get(&format!("/api/shots/{shot}/guests")).await;
    assert_eq!(
        shown["guests"][0]["high"][1], 1.0,
        "it stands on its foot: {}",
        shown["guests"][0]
    );
    // A model that is not there leaves the shot usable.
    let gone = json!({ "name": "gone", "at": null, "what": { "kind": "model", "model": 77 } });
    let (status, _) = server
        .post(&format!("/api/shots/{shot}/edits"), add(&view, gone))
        .await;
    assert_eq!(status, 200);
    let (status, shown) = server.get(&format!("/api/shots/{shot}/guests")).await;
    assert_eq!((status, &shown["guests"][1]["empty"]), (200, &json!(true)));
    // A model that is forgotten leaves a guest without a surface, and the shot usable.
    let path = format!("/api/models/{}", taken["model"]);
    let (status, bytes) = server.ask("DELETE", &path, "", b"").await;
    let left: Value = serde_json::from_slice(&bytes).unwrap();
    assert_eq!((status, &left["models"]), (200, &json!([])));
    assert_eq!(server.ask("DELETE", &path, "", b"").await.0, 404);
    let (status, shown) = server.get(&format!("/api/shots/{shot}/guests")).await;
    assert_eq!((status, &shown["guests"][0]["empty"]), (200, &json!(true)));
    assert_eq!(left["stand_ins"].as_array().unwrap().len(), 9);
    server.end().await;
}

#[actix_web::test]
async fn a_box_stands_where_the_true_camera_sees_it() {
    let (data, root) = (tempfile::tempdir().unwrap(), tempfile::tempdir().unwrap());
    let (server, shot, points, view) = prepared(Stage::FromTruth, data.path(), root.path()).await;
    assert_eq!(standing(&view, "proof"), ("not-begun".into(), "–".into()));
    let found = placed(&server, shot, &points).await;
    let ground: Vec<_> = found.iter().filter(|(_, t, _)| t[1].abs() < 1e-6).collect();
    let (a, b) = (ground[0], ground[ground.len() / 2]);
    let metres = (0..3)
        .map(|k| (a.1[k] - b.1[k]).powi(2))
        .sum::<f64>()
        .sqrt();
    let ids: Vec<u64> = ground.iter().map(|g| g.0).collect();
    let stand = boxed(b.0, json!([0.4, 0.6, 0.4]));
    let edits = format!("/api/shots/{shot}/edits");

    // In a world without ground and scale a box says that it needs a look.
    let (status, view) = server.post(&edits, add(&view, stand.clone())).await;
    assert_eq!(status, 200, "{view}");
    assert_eq!(
        standing(&view, "proof"),
        ("needs-a-look".into(), "1 guest".into())
    );
    let facts = [ground_of(&ids), length(a.0, b.0, metres)];
    let (_, view) = server.state(shot, &facts).await;
    assert_eq!(standing(&view, "proof"), ("good".into(), "1 guest".into()));

    // Its drawn edges reach the px at which the true camera sees the edge that rises 0.6 m above its landmark.
    let take = Trial::small(FRAMES).take();
    let frame = take.frame_number(FRAMES / 2);
    let path = format!("/api/shots/{shot}/overlay?from={frame}&to={frame}");
    let (status, drawn) = server.get(&path).await;
    assert_eq!(status, 200, "{drawn}");
    let boxes = drawn[frame.to_string()]["guests"][0][1].as_array().unwrap();
    assert!(boxes.len() >= 9, "{} edges", boxes.len());
    let ends: Vec<[f64; 2]> = boxes
        .iter()
        .flat_map(|line| line.as_array().unwrap().chunks(2))
        .map(|px| [px[0].as_f64().unwrap(), px[1].as_f64().unwrap()])
        .collect();
    let true_px = |at: [f64; 3]| {
        let at = WorldPoint::new(at[0], at[1], at[2]);
        take.lens.project(&take.pose(FRAMES / 2), &at).unwrap()
    };
    let top_centre = true_px([b.1[0], b.1[1] + 0.6, b.1[2]]);
    let foot = true_px(b.1);
    let height = (top_centre.y - foot.y).abs();
    let span = |k: usize| {
        let of = ends.iter().map(|e| e[k]);
        (
            of.clone().fold(f64::MAX, f64::min),
            of.fold(f64::MIN, f64::max),
        )
    };
    let ((left, right), (top, bottom)) = (span(0), span(1));
    assert!(left < foot.x && foot.x < right, "{left} {} {right}", foot.x);
    assert!(
        top < foot.y && foot.y < bottom + 0.5,
        "{top} {} {bottom}",
        foot.y
    );
    // Its near and far edges stand above and below the middle by less than its depth.
    assert!(
        (bottom - top) > height && (bottom - top) < 2.0 * height,
        "{height} {top} {bottom}"
    );

    // What is no box is refused, and what stands stays.
    for size in [
        json!([0.0, 1.0, 1.0]),
        json!([1.0, -1.0, 1.0]),
        json!([1.0, 1.0, 1e9]),
    ] {
        let (status, answer) = server.post(&edits, add(&view, boxed(b.0, size))).await;
        assert_eq!(status, 422, "{answer}");
    }
    let (_, view) = server.get(&format!("/api/shots/{shot}")).await;
    assert_eq!(standing(&view, "proof").1, "1 guest");
    server.end().await;
}

/// Slip is told of a landmark and of a place of the artist's world alike, over the picture too; of what has no place, and of
/// a stale solve, why not.
#[actix_web::test]
async fn slip_is_told_where_cg_stands() {
    let (data, root) = (tempfile::tempdir().unwrap(), tempfile::tempdir().unwrap());
    let (server, shot, points, _) = prepared(Stage::FromTruth, data.path(), root.path()).await;
    let found = placed(&server, shot, &points).await;
    let (id, _, at) = found[found.len() / 2];
    let ask = async |query: &str| server.get(&format!("/api/shots/{shot}/{query}")).await;
    let (status, of_track) = ask(&format!("slip?track={id}")).await;
    assert_eq!(status, 200, "{of_track}");
    let rms = of_track["rms_px"].as_f64().unwrap();
    assert!((1e-4..1.0).contains(&rms), "{of_track}");
    assert!(
        of_track["said"]
            .as_str()
            .unwrap()
            .starts_with("CG here slips by ")
    );
    let place = format!("slip?x={}&y={}&z={}", at[0], at[1], at[2]);
    let (_, of_place) = ask(&place).await;
    let off = of_place["rms_px"].as_f64().unwrap() / rms - 1.0;
    assert!(off.abs() < 0.01, "{off}");
    for advice in of_track["advice"].as_array().unwrap() {
        assert!(advice["to_px"].as_f64() < advice["from_px"].as_f64());
    }

    // A world twice as large slips the same at the same place.
    let twice =
        json!({ "kind": "by_hand", "turn_deg": [0, 30, 0], "shift_m": [1, 0, 0], "scale": 2 });
    assert_eq!(server.state(shot, &[twice]).await.0, 200);
    let moved = placed(&server, shot, &points).await;
    let at = moved.iter().find(|p| p.0 == id).unwrap().2;
    let (_, of_place) = ask(&format!("slip?x={}&y={}&z={}", at[0], at[1], at[2])).await;
    let off = of_place["rms_px"].as_f64().unwrap() / rms - 1.0;
    assert!(off.abs() < 0.01, "{off}");

    // Its path on screen, as a file: where it is seen, as far before the camera as the world says.
    let csv = server
        .text(&format!("/api/shots/{shot}/path?track={id}"))
        .await;
    let rows: Vec<Vec<f64>> = csv
        .lines()
        .skip(1)
        .map(|l| {
            l.split(',')
                .map(|v| v.parse().unwrap_or(f64::NAN))
                .collect()
        })
        .collect();
    assert_eq!(rows.len(), FRAMES);
    let first = &of_track["frames"][0];
    let row = rows
        .iter()
        .find(|r| r[0] == first[0].as_f64().unwrap())
        .unwrap();
    assert!((row[1] - first[1].as_f64().unwrap()).abs() < 0.01, "{csv}");
    assert!(row[5] > 0.5 && row[6] == 1.0, "{csv}");
    let (_, json) = ask(&format!("path?track={id}&kind=json")).await;
    assert_eq!(json["frames"].as_array().unwrap().len(), FRAMES);

    let (_, view) = server.get(&format!("/api/shots/{shot}")).await;
    let frame = view["plate"]["first"].as_i64().unwrap() + 5;
    let (_, field) = ask(&format!("slip/field?frame={frame}&track={id}")).await;
    let [columns, rows] = [0, 1].map(|k| field["size"][k].as_u64().unwrap() as usize);
    let px = field["px"].as_array().unwrap();
    assert_eq!(px.len(), columns * rows);
    assert!(px.iter().filter_map(Value::as_f64).count() > px.len() / 2);

    // What is measured in the plate is as small as a camera that is right has it, where the floor is seen: of some
    // places something stands before it.
    let mut measured = Vec::new();
    for (id, _, _) in found
        .iter()
        .filter(|(_, t, _)| t[1].abs() < 1e-6)
        .step_by(4)
    {
        let (status, reel) = ask(&format!("reel?track={id}&side=21&frame={frame}")).await;
        assert_eq!(status, 200, "{reel}");
        for crop in reel["crops"].as_array().into_iter().flatten() {
            assert_eq!(crop["levels"].as_array().unwrap().len(), 21 * 21);
        }
        measured.extend(reel["rms_px"].as_f64());
    }
    assert!(measured.len() > 3, "{measured:?}");
    measured.sort_by(f64::total_cmp);
    assert!(measured[measured.len() / 2] < 0.3, "{measured:?}");

    // Measured to be kept it is a finding, one for each place, until it is forgotten.
    let path = format!("/api/shots/{shot}");
    let said = async || {
        let (_, view) = server.get(&path).await;
        let all = view["findings"].as_array().unwrap().clone();
        all.into_iter()
            .filter(|f| f["station"] == "proof")
            .collect::<Vec<Value>>()
    };
    for side in [21, 25] {
        let asked = json!({ "track": id, "side": side, "frame": frame });
        let (status, reel) = server.post(&format!("{path}/reel"), asked).await;
        assert_eq!((status, reel["side"].as_u64()), (200, Some(side)), "{reel}");
    }
    let asked = json!({ "x": 0, "y": 0, "z": 1e9 });
    let (_, none) = server.post(&format!("{path}/reel"), asked).await;
    assert!(none["none"].is_string(), "{none}");
    let kept = said().await;
    assert_eq!(kept.len(), 1, "{kept:?}");
    let text = kept[0]["text"].as_str().unwrap();
    assert!(text.contains("px rms on"), "{text}");
    assert_eq!(kept[0]["shows"]["track"].as_u64(), Some(id));
    let deed = &kept[0]["deed"]["body"];
    assert_eq!(server.post(&path, deed.clone()).await.0, 200);
    assert_eq!(server.post(&path, deed.clone()).await.0, 404);
    assert_eq!(said().await.len(), 0);

    for (query, why) in [
        ("slip?track=4000000".to_owned(), "no place"),
        ("slip?x=0&y=0&z=1e9".to_owned(), "lies in the picture of"),
        ("reel?x=0&y=0&z=1e9".to_owned(), "in no picture"),
        (
            format!("slip/field?frame={frame}&distance=-2"),
            "greater than 0",
        ),
    ] {
        let (status, none) = ask(&query).await;
        let said = none["none"].as_str().unwrap_or_default();
        assert!(status == 200 && said.contains(why), "{query}: {none}");
    }
    server
        .edit(
            shot,
            json!({ "film_back": { "width_mm": 24, "height_mm": 13.5 }, "focal": { "mm": 30 } }),
        )
        .await;
    let (_, stale) = ask(&format!("slip?track={id}")).await;
    assert!(stale["none"].as_str().unwrap().contains("stale"), "{stale}");
    server.end().await;
}
