//! The world upright, at its origin and in metres, against the truth of the set; what is said when picks do not do.
#![allow(clippy::unwrap_used)]

#[path = "../../../tests/running/mod.rs"]
mod running;

use running::{opened, placed, small_plate, solved_from_truth, standing};
use serde_json::{Value, json};

const FRAMES: usize = 24;

fn distance(a: [f64; 3], b: [f64; 3]) -> f64 {
    let squares = (0..3).map(|k| (a[k] - b[k]).powi(2));
    squares.sum::<f64>().sqrt()
}

fn said(view: &Value) -> Vec<String> {
    let all = view["findings"].as_array().unwrap().iter();
    all.filter(|f| f["station"] == "orient")
        .map(|f| f["text"].as_str().unwrap().to_owned())
        .collect()
}

#[actix_web::test]
async fn ground_origin_and_a_distance_make_the_world_true() {
    let (data, root) = (tempfile::tempdir().unwrap(), tempfile::tempdir().unwrap());
    small_plate(root.path(), FRAMES);
    let (server, shot) = opened(data.path(), root.path()).await;
    let (_, before) = server.get(&format!("/api/shots/{shot}")).await;
    assert!(said(&before)[0].contains("Solve first"));
    let (points, view) = solved_from_truth(&server, shot, FRAMES).await;
    assert_eq!(standing(&view, "orient").1, "–");
    let found = placed(&server, shot, &points).await;
    let ground: Vec<_> = found.iter().filter(|(_, t, _)| t[1].abs() < 1e-6).collect();
    assert!(ground.len() >= 10, "{} on the ground", ground.len());

    // The ground alone levels; of a scale nothing is known, and that is said.
    let ids: Vec<u64> = ground.iter().map(|g| g.0).collect();
    let (status, view) = server
        .edit(shot, json!({ "picks": { "ground": ids } }))
        .await;
    assert_eq!(status, 200, "{view}");
    assert_eq!(
        standing(&view, "orient"),
        ("in-work".into(), "no scale".into())
    );
    assert!(said(&view)[1].contains("whose distance you know"));

    // The two farthest apart, with their true distance, and an origin.
    let pairs = ground
        .iter()
        .flat_map(|a| ground.iter().map(move |b| (a, b)));
    let (a, b) = pairs
        .max_by(|p, q| distance(p.0.1, p.1.1).total_cmp(&distance(q.0.1, q.1.1)))
        .unwrap();
    let metres = distance(a.1, b.1);
    let picks = json!({ "picks": { "origin": a.0, "distance": [a.0, b.0, metres] } });
    let (status, view) = server.edit(shot, picks).await;
    assert_eq!(status, 200, "{view}");
    assert_eq!(standing(&view, "orient"), ("good".into(), "metre".into()));
    assert_eq!(view["facts"]["unit"], "metre");
    assert!(said(&view)[1].starts_with("Scale is certain to ±"));

    let now = placed(&server, shot, &points).await;
    let origin = now.iter().find(|p| p.0 == a.0).unwrap();
    assert!(distance(origin.2, [0.0; 3]) < 1e-6, "{:?}", origin.2);
    for (id, truth, at) in &now {
        // Heights are upright's test, distances from the origin that of scale; far things are less certain.
        let far = distance(*truth, a.1);
        let bound = 0.01 + 0.006 * far;
        assert!(
            (at[1] - truth[1]).abs() < bound,
            "{id}: {at:?} for {truth:?}"
        );
        assert!(
            (distance(*at, [0.0; 3]) - far).abs() < bound,
            "{id}: {at:?} for {truth:?}"
        );
    }
    // One undo takes one statement back.
    let (_, view) = server
        .post(&format!("/api/shots/{shot}/undo"), json!({}))
        .await;
    assert_eq!(standing(&view, "orient").1, "no scale");
    server.end().await;
}

/// What cannot be a world is refused with its cause, and the world stays.
#[actix_web::test]
async fn picks_that_make_no_world_are_said() {
    let (data, root) = (tempfile::tempdir().unwrap(), tempfile::tempdir().unwrap());
    small_plate(root.path(), FRAMES);
    let (server, shot) = opened(data.path(), root.path()).await;
    let (points, _) = solved_from_truth(&server, shot, FRAMES).await;
    let found = placed(&server, shot, &points).await;
    let ids: Vec<u64> = found.iter().map(|f| f.0).collect();
    for picks in [
        json!({ "distance": [ids[0], ids[1], -2.0] }),
        json!({ "distance": [ids[0], ids[1], 1e300] }),
        json!({ "ground": "all" }),
    ] {
        let (status, answer) = server.edit(shot, json!({ "picks": picks })).await;
        assert!(matches!(status, 400 | 422), "{picks}: {answer}");
    }
    // Two are no plane, a track without a landmark is no pick: kept, and said.
    for picks in [
        json!({ "ground": [ids[0], ids[1]] }),
        json!({ "ground": [], "distance": [ids[0], ids[0], 2.0] }),
        json!({ "distance": null, "origin": 4_000_000 }),
    ] {
        let (status, view) = server.edit(shot, json!({ "picks": picks })).await;
        assert_eq!(status, 200, "{picks}: {view}");
        assert_eq!(
            standing(&view, "orient").1,
            "pick again",
            "{picks}: {:?}",
            said(&view)
        );
        assert!(said(&view)[0].ends_with('.') && said(&view)[0].len() > 20);
    }
    server.end().await;
}
