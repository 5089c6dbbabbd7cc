//! The world upright, at its origin and in metres, against the truth of the set; what is said of statements that are not
//! heard or do not agree; a world that is locked.

use crate::running::prepared::{Stage, prepared};
use crate::running::{
    FRAMES, ground_of, length, made, opened, placed, small_plate, solved_from_truth, standing,
};
use parallax_core::spaces::WorldPoint;
use parallax_demo::trial::Trial;
use serde_json::{Value, json};

type Placed = (u64, [f64; 3], [f64; 3]);

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
    let (status, view) = server.state(shot, &[ground_of(&ids)]).await;
    assert_eq!(status, 200, "{view}");
    assert_eq!(
        standing(&view, "orient"),
        ("in-work".into(), "no scale".into())
    );
    assert!(said(&view)[0].contains("how large the world is"));
    assert_eq!(
        view["statements"][0]["stated"].as_str().unwrap(),
        format!("floor is the ground, {} features", ids.len())
    );

    // The two farthest apart, with their true distance, and an origin.
    let pairs = ground
        .iter()
        .flat_map(|a| ground.iter().map(move |b| (a, b)));
    let (a, b) = pairs
        .max_by(|p, q| distance(p.0.1, p.1.1).total_cmp(&distance(q.0.1, q.1.1)))
        .unwrap();
    let metres = distance(a.1, b.1);
    let facts = [
        json!({ "kind": "origin", "at": a.0 }),
        length(a.0, b.0, metres),
    ];
    let (status, view) = server.state(shot, &facts).await;
    assert_eq!(status, 200, "{view}");
    assert_eq!(standing(&view, "orient"), ("good".into(), "metre".into()));
    assert_eq!(view["facts"]["unit"], "metre");
    let certain = said(&view).pop().unwrap();
    assert!(
        certain.starts_with("Up is certain to ±") && certain.contains("the scale to ±"),
        "{certain}"
    );
    // The floor of the set is flat.
    let miss = view["statements"][0]["miss"].as_str().unwrap().to_owned();
    let miss: f64 = miss.trim_end_matches(" mm").parse().unwrap();
    assert!(miss < 10.0, "{miss} mm");

    let now = placed(&server, shot, &points).await;
    let origin = now.iter().find(|p| p.0 == a.0).unwrap();
    assert!(distance(origin.2, [0.0; 3]) < 1e-6, "{:?}", origin.2);
    for (id, truth, at) in &now {
        // Heights are upright's test, distances from the origin that of scale; far things are less certain.
        let far = distance(*truth, a.1);
        let bound = 0.015 + 0.006 * far;
        assert!(
            (at[1] - truth[1]).abs() < bound,
            "{id}: {at:?} for {truth:?}"
        );
        assert!(
            (distance(*at, [0.0; 3]) - far).abs() < bound,
            "{id}: {at:?} for {truth:?}"
        );
    }
    // What lies over the plate: the horizon within its band, the grid, the directions of the scene.
    let first = view["plate"]["first"].as_i64().unwrap();
    let path = format!("/api/shots/{shot}/overlay?from={first}&to={first}");
    let (_, overlay) = server.get(&path).await;
    let drawn = overlay.as_object().unwrap().values().next().unwrap();
    assert_eq!(drawn["horizon"].as_array().unwrap().len(), 1);
    let height = |line: &Value| line[1].as_f64().unwrap();
    let band = drawn["horizon_band"].as_array().unwrap();
    assert!(
        height(&band[1][0]) < height(&drawn["horizon"][0])
            && height(&drawn["horizon"][0]) < height(&band[0][0])
    );
    assert_eq!(drawn["axes"].as_array().unwrap().len(), 3);
    // A change by hand that is not kept yet is drawn as it will be once it is, the handle on the origin with it.
    let draft = "turn=0,20,0&shift=0.1,0.2,-0.1&scale=1.2";
    let drawn_by = async |query: &str| {
        let (status, overlay) = server.get(&format!("{path}&handle=true{query}")).await;
        assert_eq!(status, 200, "{overlay}");
        overlay
            .as_object()
            .unwrap()
            .values()
            .next()
            .unwrap()
            .clone()
    };
    let drafted = drawn_by(&format!("&{draft}")).await;
    assert_ne!(drafted["handle"], drawn_by("").await["handle"]);
    assert!(drafted["handle"]["parts"].as_array().unwrap().len() > 4);
    let by_hand = json!({ "kind": "by_hand", "turn_deg": [0, 20, 0], "shift_m": [0.1, 0.2, -0.1], "scale": 1.2 });
    server.state(shot, &[by_hand]).await;
    let kept = drawn_by("").await;
    for part in ["handle", "grid", "axes", "walls", "horizon"] {
        assert_eq!(kept[part], drafted[part], "{part}");
    }
    for none in ["&turn=1,2", "&shift=1,x,2", "&scale=0", "&scale=NaN"] {
        let (status, _) = server.get(&format!("{path}{none}")).await;
        assert_eq!(status, 400, "{none}");
    }
    server
        .post(&format!("/api/shots/{shot}/undo"), json!({}))
        .await;
    // One undo takes one edit back.
    let (_, view) = server
        .post(&format!("/api/shots/{shot}/undo"), json!({}))
        .await;
    assert_eq!(standing(&view, "orient").1, "no scale");
    server.end().await;
}

/// Proposals are facts that can be stated as they are; taken they put the world upright.
#[actix_web::test]
async fn what_is_proposed_can_be_stated() {
    let (data, root) = (tempfile::tempdir().unwrap(), tempfile::tempdir().unwrap());
    let (server, shot, ..) = prepared(Stage::FromTruth, data.path(), root.path()).await;
    let (status, answer) = server.get(&format!("/api/shots/{shot}/proposals")).await;
    assert_eq!(status, 200, "{answer}");
    let proposals = answer["proposals"].as_array().unwrap();
    let kind = |p: &&Value, kind: &str| p["facts"][0]["kind"] == kind;
    assert!(proposals.iter().any(|p| kind(&p, "edge")), "{answer}");
    let sure = proposals.iter().filter(|p| p["sure"] == true);
    let facts: Vec<Value> = sure
        .flat_map(|p| p["facts"].as_array().unwrap().clone())
        .collect();
    assert!(!facts.is_empty(), "{answer}");
    let (status, view) = server.state(shot, &facts).await;
    assert_eq!(status, 200, "{view}");
    assert!(
        view["orientation"]["levelled"] == true,
        "{}",
        view["orientation"]
    );
    let against = view["statements"].as_array().unwrap().iter();
    assert!(
        against.clone().all(|s| s["contradicts"] == false),
        "{}",
        view["statements"]
    );
    server.end().await;
}

/// What cannot be is refused; what is not heard says why and can be switched off; what does not agree is named.
#[actix_web::test]
async fn statements_that_make_no_world_are_said() {
    let (data, root) = (tempfile::tempdir().unwrap(), tempfile::tempdir().unwrap());
    let (server, shot, points, _) = prepared(Stage::FromTruth, data.path(), root.path()).await;
    let found = placed(&server, shot, &points).await;
    let ids: Vec<u64> = found.iter().map(|f| f.0).collect();
    for fact in [
        length(ids[0], ids[1], -2.0),
        length(ids[0], ids[1], 1e300),
        length(ids[0], ids[0], 2.0),
        ground_of(&ids[..2]),
        json!({ "kind": "plane", "name": "floor", "faces": "ground", "on": "all" }),
        json!({ "kind": "guess" }),
    ] {
        let (status, answer) = server.state(shot, std::slice::from_ref(&fact)).await;
        assert!(matches!(status, 400 | 422), "{fact}: {answer}");
    }
    // A track without a landmark: kept, and said with what mends it.
    let (status, view) = server
        .state(shot, &[json!({ "kind": "origin", "at": 4_000_000 })])
        .await;
    assert_eq!(status, 200, "{view}");
    assert_eq!(
        standing(&view, "orient"),
        ("needs-a-look".into(), "not heard".into())
    );
    let findings = view["findings"].as_array().unwrap();
    let named = findings
        .iter()
        .find(|f| f["text"].as_str().unwrap().contains("is not heard: "));
    let remedy = &named.unwrap()["remedy"];
    let mended = json!({ "label": "mend", "patch": remedy["edit"], "things": remedy["things"], "on": view["version"] });
    let (status, view) = server
        .post(&format!("/api/shots/{shot}/edits"), mended)
        .await;
    assert_eq!(status, 200, "{view}");
    assert_eq!(
        (
            standing(&view, "orient").1.as_str(),
            view["statements"][0]["off"].as_bool()
        ),
        ("–", Some(true))
    );

    // Three lengths of which one is wrong.
    let far = |k: usize| {
        let apart = |p: &&Placed| distance(p.1, found[k].1);
        found
            .iter()
            .max_by(|p, q| apart(p).total_cmp(&apart(q)))
            .unwrap()
    };
    let pair = |k: usize| (&found[9 * k], far(9 * k));
    let facts: Vec<Value> = (0..3)
        .map(|k| {
            let (a, b) = pair(k);
            length(
                a.0,
                b.0,
                distance(a.1, b.1) * if k == 1 { 1.5 } else { 1.0 },
            )
        })
        .collect();
    let (_, view) = server.state(shot, &facts).await;
    assert_eq!(
        standing(&view, "orient"),
        ("needs-a-look".into(), "contradiction".into())
    );
    let wrong: Vec<&Value> = view["statements"]
        .as_array()
        .unwrap()
        .iter()
        .filter(|s| s["contradicts"] == true)
        .collect();
    assert_eq!(wrong.len(), 1);
    assert!(
        said(&view)
            .iter()
            .any(|text| text.contains(wrong[0]["name"].as_str().unwrap())
                && text.contains("contradicts the others"))
    );
    // Whoever gets the delivery is told.
    server.edit(shot, json!({ "rate": "25" })).await;
    let view = server.work(shot, "deliver").await;
    let assumed = made(&view)["receipt"]["assumptions"].to_string();
    assert!(assumed.contains("contradict each other"), "{assumed}");
    server.end().await;
}

/// Locked, the world is not moved by accident; lengths that are known at Solve say how large it is.
#[actix_web::test]
async fn a_locked_world_stays() {
    let (data, root) = (tempfile::tempdir().unwrap(), tempfile::tempdir().unwrap());
    let (server, shot, points, _) = prepared(Stage::FromTruth, data.path(), root.path()).await;
    let found = placed(&server, shot, &points).await;
    let (a, b) = (&found[0], &found[5]);
    let (status, view) = server.edit(shot, json!({ "world_locked": true })).await;
    assert_eq!(status, 200, "{view}");
    let fact = json!({ "kind": "origin", "at": a.0 });
    let (status, refused) = server.state(shot, std::slice::from_ref(&fact)).await;
    assert_eq!(status, 422);
    assert!(
        refused["error"].as_str().unwrap().contains("unlock"),
        "{refused}"
    );
    server.edit(shot, json!({ "world_locked": false })).await;
    assert_eq!(server.state(shot, &[fact]).await.0, 200);

    let known = json!({ "kind": "length", "between": [a.0, b.0], "length_m": distance(a.1, b.1), "sigma_m": 0.002 });
    let (_, view) = server.get(&format!("/api/shots/{shot}")).await;
    let add = json!({ "label": "know", "patch": {}, "on": view["version"], "things": { "constraints": { "add": [known] } } });
    let (status, view) = server.post(&format!("/api/shots/{shot}/edits"), add).await;
    assert_eq!(status, 200, "{view}");
    assert_eq!(view["orientation"]["scaled"], true);
    let row = view["statements"].as_array().unwrap().last().unwrap();
    assert_eq!(
        (row["name"].as_str(), row["id"].is_null()),
        (Some("Solve"), true)
    );
    let now = placed(&server, shot, &points).await;
    let apart = distance(now[0].2, now[5].2);
    assert!((apart / distance(a.1, b.1) - 1.0).abs() < 1e-6, "{apart}");
    server.end().await;
}

/// The length of an edge that no feature is on: its ends are drawn over the plate on two frames.
#[actix_web::test]
async fn an_edge_drawn_on_two_frames_says_how_large_the_world_is() {
    let (data, root) = (tempfile::tempdir().unwrap(), tempfile::tempdir().unwrap());
    let (server, shot, points, _) = prepared(Stage::FromTruth, data.path(), root.path()).await;
    let take = Trial::small(FRAMES).take();
    let (first, last) = (1, FRAMES - 2);
    let drawn = |at: &[f64; 3]| {
        let on = |index: usize| {
            let place = WorldPoint::new(at[0], at[1], at[2]);
            let px = take.lens.project(&take.pose(index), &place)?;
            let inside = (4.0..316.0).contains(&px.x) && (4.0..176.0).contains(&px.y);
            let sight =
                json!({ "frame": take.frame_number(index).0, "px": { "x": px.x, "y": px.y } });
            inside.then_some(sight)
        };
        Some(json!({ "marked": [on(first)?, on(last)?] }))
    };
    let seen: Vec<_> = points
        .iter()
        .filter_map(|p| Some((p.at, drawn(&p.at)?)))
        .collect();
    let pairs = seen.iter().flat_map(|a| seen.iter().map(move |b| (a, b)));
    let (a, b) = pairs
        .max_by(|p, q| distance(p.0.0, p.1.0).total_cmp(&distance(q.0.0, q.1.0)))
        .unwrap();
    let metres = distance(a.0, b.0);
    let fact =
        json!({ "kind": "length", "between": [a.1, b.1], "length_m": metres, "sigma_m": 0.005 });
    let (status, view) = server.state(shot, &[fact]).await;
    assert_eq!(status, 200, "{view}");
    assert_eq!(view["facts"]["unit"], "metre");
    let stated = view["statements"][0]["stated"].as_str().unwrap();
    assert!(stated.starts_with("edge drawn on "), "{stated}");
    let found = placed(&server, shot, &points).await;
    let far = |k: usize| distance(found[0].2, found[k].2) / distance(found[0].1, found[k].1);
    let mut shares: Vec<f64> = (1..found.len()).map(far).collect();
    shares.sort_by(f64::total_cmp);
    let share = shares[shares.len() / 2];
    assert!(
        (share - 1.0).abs() < 0.01,
        "lengths are {share} of the true ones"
    );
    server.end().await;
}
