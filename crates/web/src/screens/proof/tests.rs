//! A box on a landmark: where it is drawn on the plate, and how good it says it is.
#![allow(clippy::unwrap_used)]

#[path = "../../../tests/running/mod.rs"]
mod running;

use parallax_core::spaces::WorldPoint;
use parallax_demo::trial::Trial;
use running::{ground_of, length, opened, placed, small_plate, solved_from_truth, standing};
use serde_json::{Value, json};

const FRAMES: usize = 24;

#[actix_web::test]
async fn a_box_stands_where_the_true_camera_sees_it() {
    let (data, root) = (tempfile::tempdir().unwrap(), tempfile::tempdir().unwrap());
    small_plate(root.path(), FRAMES);
    let (server, shot) = opened(data.path(), root.path()).await;
    let (points, view) = solved_from_truth(&server, shot, FRAMES).await;
    assert_eq!(standing(&view, "proof"), ("not-begun".into(), "–".into()));
    let found = placed(&server, shot, &points).await;
    let ground: Vec<_> = found.iter().filter(|(_, t, _)| t[1].abs() < 1e-6).collect();
    let (a, b) = (ground[0], ground[ground.len() / 2]);
    let metres = (0..3)
        .map(|k| (a.1[k] - b.1[k]).powi(2))
        .sum::<f64>()
        .sqrt();
    let ids: Vec<u64> = ground.iter().map(|g| g.0).collect();
    let stand = json!({ "name": "crate", "at": b.0, "size_m": [0.4, 0.6, 0.4], "turn_deg": 0.0 });
    let add = |on: &Value, what: Value| json!({ "label": "stand a box", "patch": {}, "on": on["version"], "things": { "stand_ins": { "add": [what] } } });
    let edits = format!("/api/shots/{shot}/edits");

    // In a world without ground and scale a box says that it needs a look.
    let (status, view) = server.post(&edits, add(&view, stand.clone())).await;
    assert_eq!(status, 200, "{view}");
    assert_eq!(
        standing(&view, "proof"),
        ("needs-a-look".into(), "1 box".into())
    );
    let facts = [ground_of(&ids), length(a.0, b.0, metres)];
    let (_, view) = server.state(shot, &facts).await;
    assert_eq!(standing(&view, "proof"), ("good".into(), "1 box".into()));

    // Its drawn edges reach the px at which the true camera sees the edge that rises 0.6 m above its landmark.
    let take = Trial::small(FRAMES).take();
    let frame = take.frame_number(FRAMES / 2);
    let path = format!("/api/shots/{shot}/overlay?from={frame}&to={frame}");
    let (status, drawn) = server.get(&path).await;
    assert_eq!(status, 200, "{drawn}");
    let boxes = drawn[frame.to_string()]["boxes"].as_array().unwrap();
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
        let wrong = json!({ "name": "w", "at": b.0, "size_m": size, "turn_deg": 0.0 });
        let (status, answer) = server.post(&edits, add(&view, wrong)).await;
        assert_eq!(status, 422, "{answer}");
    }
    let (_, view) = server.get(&format!("/api/shots/{shot}")).await;
    assert_eq!(standing(&view, "proof").1, "1 box");
    server.end().await;
}

/// Slip is told of a landmark and of a place of the artist's world alike, over the picture too; of what has no place, and of
/// a stale solve, why not.
#[actix_web::test]
async fn slip_is_told_where_cg_stands() {
    let (data, root) = (tempfile::tempdir().unwrap(), tempfile::tempdir().unwrap());
    small_plate(root.path(), FRAMES);
    let (server, shot) = opened(data.path(), root.path()).await;
    let (points, _) = solved_from_truth(&server, shot, FRAMES).await;
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
