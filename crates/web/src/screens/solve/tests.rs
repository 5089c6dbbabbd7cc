//! What is stated of a solve, and what is asked of one before another is run: surveyed points, attempts beside
//! each other, limits, smoothing.

use crate::running::prepared::{Stage, prepared};
use crate::running::{Running, ground_of};
use serde_json::{Value, json};

const JSON: &str = "content-type: application/json\r\n";

/// Landmarks of the current attempt that many frames see: name and place.
async fn landmarks(server: &Running, shot: i64) -> Vec<(u32, [f64; 3])> {
    let (_, world) = server.get(&format!("/api/shots/{shot}/world")).await;
    let (_, tracks) = server.get(&format!("/api/shots/{shot}/tracks")).await;
    let long = |id: &Value| {
        let track = tracks["tracks"]
            .as_array()
            .unwrap()
            .iter()
            .find(|t| t["id"] == *id);
        track.is_some_and(|t| t["frames"].as_array().unwrap().len() > 18)
    };
    let points = world["points"].as_array().unwrap();
    let of = |p: &Value| {
        let place = [1, 2, 3].map(|k| p[k].as_f64().unwrap());
        (p[0].as_u64().unwrap() as u32, place)
    };
    points.iter().filter(|p| long(&p[0])).map(of).collect()
}

/// From a file to a world in metres: points by name, one given to a feature by hand, one that no track is.
#[actix_web::test]
async fn a_survey_holds_the_world_in_metres() {
    let (data, root) = (tempfile::tempdir().unwrap(), tempfile::tempdir().unwrap());
    let (server, shot, _, view) = prepared(Stage::Solved, data.path(), root.path()).await;
    assert_eq!(view["facts"]["unit"], "no scale");
    let known = landmarks(&server, shot).await;
    let chosen: Vec<&(u32, [f64; 3])> = known.iter().step_by(known.len() / 5).take(5).collect();
    for (k, (id, _)) in chosen.iter().enumerate().skip(1) {
        let note = json!({ "tracks": [id], "name": format!("mark {k}") });
        assert_eq!(
            server
                .post(&format!("/api/shots/{shot}/tracks"), note)
                .await
                .0,
            200
        );
    }
    // Three times as large, shifted, with Z up.
    let row = |k: usize| {
        let [x, y, z] = chosen[k].1.map(|c| 3.0 * c);
        format!("MARK {k},{},{},{},0.02\n", x + 40.0, 7.0 - z, y + 1.0)
    };
    let rows: String = (0..5).map(row).collect();
    let text = format!("name,x,y,z,sigma\n{rows}nowhere,1,2,3,0.02\n");
    let path = format!("/api/shots/{shot}/survey?up=z");
    let (status, said) = server.ask("POST", &path, JSON, text.as_bytes()).await;
    assert_eq!(status, 200, "{}", String::from_utf8_lossy(&said));
    let (_, view) = server.get(&format!("/api/shots/{shot}")).await;
    let rows = view["survey"].as_array().unwrap();
    assert_eq!(rows.len(), 6);
    assert_eq!(
        (&rows[0]["said"], &rows[5]["said"]),
        (&json!("no track"), &json!("no track"))
    );
    assert_eq!(
        view["stale_since"].as_array().unwrap().len(),
        1,
        "a survey changes the solve"
    );

    let first = view["state"]["survey"][0].clone();
    let mut given = first.clone();
    given["track"] = json!(chosen[0].0);
    let edit =
        json!({ "label": "match", "patch": {}, "things": { "survey": { "change": [given] } } });
    assert_eq!(
        server
            .post(&format!("/api/shots/{shot}/edits"), edit)
            .await
            .0,
        200
    );
    let view = server.work(shot, "solve_again").await;
    assert_eq!(
        view["facts"]["unit"], "metre",
        "{}",
        view["solve"]["reasons"]
    );
    assert_eq!(view["orientation"]["levelled"], true);
    for row in &view["survey"].as_array().unwrap()[..5] {
        let said = row["said"].as_str().unwrap();
        let off_mm: f64 = said.trim_end_matches(" mm").parse().unwrap();
        assert!(off_mm < 60.0, "{row}");
    }
    let (_, world) = server.get(&format!("/api/shots/{shot}/world")).await;
    let at = world["points"]
        .as_array()
        .unwrap()
        .iter()
        .find(|p| p[0] == json!(chosen[1].0));
    let x = at.unwrap()[1].as_f64().unwrap();
    assert!((x - (3.0 * chosen[1].1[0] + 40.0)).abs() < 0.1, "{x} m");
    // At Orient it is said what holds the world, and that what is picked besides lies over it.
    let said = |view: &Value| -> Vec<String> {
        let all = view["findings"].as_array().unwrap().iter();
        let orient = all.filter(|f| f["station"] == "orient");
        orient
            .map(|f| f["text"].as_str().unwrap().to_owned())
            .collect()
    };
    let now = said(&view);
    assert!(
        now.len() == 1 && now[0].contains("5 points are missed by"),
        "{now:?}"
    );
    let ground: Vec<u64> = chosen[..3].iter().map(|c| u64::from(c.0)).collect();
    let (status, view) = server.state(shot, &[ground_of(&ground)]).await;
    assert_eq!(status, 200, "{view}");
    assert!(
        said(&view)[1].contains("laid over the survey"),
        "{:?}",
        said(&view)
    );
    server
        .post(&format!("/api/shots/{shot}/undo"), json!({}))
        .await;
    // The camera that is handed on says that it is in metres.
    let (_, camera) = server.get(&format!("/api/shots/{shot}/camera")).await;
    assert_eq!(camera["metres_per_unit"], 1.0);
    // Who saw the shot as it was before somebody changed the survey replaces nothing.
    let late = format!("/api/shots/{shot}/survey?on=1");
    let (status, _) = server.ask("POST", &late, JSON, text.as_bytes()).await;
    assert_eq!(status, 409);
    // Undo brings the survey before it back.
    server
        .post(&format!("/api/shots/{shot}/undo"), json!({}))
        .await;
    let (status, refused) = server
        .ask(
            "POST",
            &format!("/api/shots/{shot}/survey"),
            JSON,
            b"name,x,y,z\na,1,2\n",
        )
        .await;
    let refused = String::from_utf8(refused).unwrap();
    assert!(
        status == 422 && refused.contains("row 2"),
        "{status}: {refused}"
    );
    server.end().await;
}

/// Two attempts of one shot, and what a change would do before it is made.
#[actix_web::test]
async fn attempts_stand_beside_each_other_and_changes_are_foreseen() {
    let (data, root) = (tempfile::tempdir().unwrap(), tempfile::tempdir().unwrap());
    let (server, shot, ..) = prepared(Stage::Followed, data.path(), root.path()).await;
    let ask = |what: &'static str| format!("/api/shots/{shot}/{what}");
    for what in [
        "limit?px=0.3",
        "smoothing?turn_deg=1",
        "misses?frame=3",
        "ellipsoids",
    ] {
        assert_eq!(
            server.get(&ask(what)).await.0,
            409,
            "{what} without a camera"
        );
    }
    let view = server.work(shot, "solve").await;
    assert!(view["state"]["attempt"].is_i64(), "{}", view["jobs"]);
    let (first, landmarks) = (
        view["state"]["attempt"].clone(),
        &view["solve"]["landmarks"],
    );

    let (_, all) = server.get(&ask("limit?px=100")).await;
    assert_eq!(all["limit"]["dropped"], 0);
    assert_eq!(&all["limit"]["kept"], landmarks);
    let (_, none) = server.get(&ask("limit?px=0.0001")).await;
    assert!(
        none["said"]
            .as_str()
            .unwrap()
            .contains("Too few are left on 1–24"),
        "{none}"
    );

    let (_, worst) = server.get(&ask("misses?frame=5")).await;
    let px: Vec<f64> = worst["worst"]
        .as_array()
        .unwrap()
        .iter()
        .map(|w| w[1].as_f64().unwrap())
        .collect();
    assert!(!px.is_empty() && px.is_sorted_by(|a, b| a >= b), "{px:?}");

    let (_, ellipsoids) = server.get(&ask("ellipsoids")).await;
    let one = &ellipsoids["ellipsoids"][0][1];
    assert_eq!(one.as_array().unwrap().len(), 12);

    let (status, cost) = server
        .get(&ask("smoothing?place_mm=0.1&turn_deg=0.001"))
        .await;
    assert_eq!(status, 200, "{cost}");
    let rms = |k: usize| cost["cost"]["rms_px"][k].as_f64().unwrap();
    assert!(rms(1) >= rms(0) * 0.99, "{cost}");
    assert_eq!(server.get(&ask("smoothing")).await.0, 409);
    assert_eq!(server.get(&ask("smoothing?turn_deg=0")).await.0, 409);
    let (_, view) = server.get(&format!("/api/shots/{shot}")).await;
    assert_eq!(view["state"]["attempt"], first, "asking keeps nothing");
    assert_eq!(view["state"]["steady"]["turn_deg"], Value::Null);

    let smooth = json!({ "steady": { "turn_deg": 5.0 }, "limit_px": 0.8 });
    assert_eq!(server.edit(shot, smooth).await.0, 200);
    let view = server.work(shot, "solve_again").await;
    assert_ne!(view["state"]["attempt"], first, "{}", view["jobs"]);
    let (_, beside) = server
        .get(&format!("/api/shots/{shot}/attempts/{first}"))
        .await;
    let differs: Vec<&str> = beside["differs"]
        .as_array()
        .unwrap()
        .iter()
        .map(|d| d.as_str().unwrap())
        .collect();
    assert_eq!(differs, ["the limit", "smoothing"]);
    assert_eq!(beside["path"].as_array().unwrap().len(), 24);
    // Both stand in one world.
    let (_, world) = server.get(&ask("world")).await;
    let camera = &world["cameras"][20]["matrix"];
    for axis in 0..3 {
        let off = beside["path"][20][axis].as_f64().unwrap() - camera[12 + axis].as_f64().unwrap();
        assert!(off.abs() < 0.1, "{off} units along axis {axis}");
    }
    let terms = json!({ "solve_lens": true, "lens_terms": { "k3": true } });
    assert_eq!(server.edit(shot, terms).await.0, 200);
    let view = server.work(shot, "solve_again").await;
    let terms = view["solve"]["terms_text"].as_array().unwrap();
    assert_eq!(terms.len(), 3, "{terms:?}");
    let (status, _) = server
        .get(&format!("/api/shots/{shot}/attempts/9999"))
        .await;
    assert_eq!(status, 404);
    server.end().await;
}

/// A focal length with its error is solved, and pulled to what is stated.
#[actix_web::test]
async fn a_focal_length_is_known_about() {
    let (data, root) = (tempfile::tempdir().unwrap(), tempfile::tempdir().unwrap());
    let (server, shot, ..) = prepared(Stage::Followed, data.path(), root.path()).await;
    let about = json!({ "focal": { "about": { "mm": 30.0, "sigma_mm": 0.5 } } });
    let (_, view) = server.edit(shot, about).await;
    assert_eq!(view["facts"]["focal"], "30 ± 0.5 mm, stated");
    let view = server.work(shot, "solve").await;
    assert!(view["state"]["attempt"].is_i64(), "{}", view["jobs"]);
    let sigma_mm = view["solve"]["focal_sigma_mm"].as_f64().unwrap();
    assert!(sigma_mm > 0.0 && sigma_mm <= 0.5, "{sigma_mm}");
    let (status, refused) = server
        .edit(
            shot,
            json!({ "focal": { "about": { "mm": 30.0, "sigma_mm": 0 } } }),
        )
        .await;
    assert!(
        status == 422 && refused["error"].as_str().unwrap().contains("35 ± 1"),
        "{refused}"
    );
    server.end().await;
}

/// Lengths that the solve has already, three times as large, are stated, said to be missed by little, and taken
/// back.
#[actix_web::test]
async fn known_lengths_take_part_and_say_what_they_miss() {
    let (data, root) = (tempfile::tempdir().unwrap(), tempfile::tempdir().unwrap());
    let (server, shot, ..) = prepared(Stage::Solved, data.path(), root.path()).await;
    let known = landmarks(&server, shot).await;
    let at = |share: f64| known[(share * known.len() as f64) as usize];
    let length = |a: (u32, [f64; 3]), b: (u32, [f64; 3]), times: f64| {
        let squares = a.1.iter().zip(&b.1).map(|(a, b)| (a - b).powi(2));
        let length_m = times * squares.sum::<f64>().sqrt();
        json!({ "kind": "length", "between": [a.0, b.0], "length_m": length_m, "sigma_m": 0.02 })
    };
    let path = format!("/api/shots/{shot}/edits");
    let state =
        |deeds: Value| json!({ "label": "state", "patch": {}, "things": { "constraints": deeds } });
    let both = [length(at(0.1), at(0.7), 3.0), length(at(0.4), at(0.9), 3.0)];
    let (status, _) = server.post(&path, state(json!({ "add": both }))).await;
    assert_eq!(status, 200);
    let plane = json!({ "kind": "plane", "tracks": [1, 2, 3], "sigma_m": 0.01 });
    let (status, said) = server.post(&path, state(json!({ "add": [plane] }))).await;
    assert!((400..500).contains(&status), "{said}");
    let (_, view) = server.get(&format!("/api/shots/{shot}")).await;
    assert_eq!(view["constraints"].as_array().unwrap().len(), 2);
    assert_eq!(view["constraints"][0]["said"], "–");
    assert_eq!(view["stale_since"].as_array().unwrap().len(), 1);
    let view = server.work(shot, "solve_again").await;
    for row in view["constraints"].as_array().unwrap() {
        let said = row["said"].as_str().unwrap();
        let off_mm: f64 = said
            .trim_end_matches(" mm")
            .replace('−', "-")
            .parse()
            .unwrap();
        assert!(off_mm.abs() < 60.0, "{row}");
    }
    // One that cannot be is left out with the other, and the camera is not called good.
    let id = view["state"]["constraints"][1]["id"].clone();
    let mut wrong = length(at(0.4), at(0.9), 6.0);
    wrong["id"] = id.clone();
    let (status, _) = server
        .post(&path, state(json!({ "change": [wrong] })))
        .await;
    assert_eq!(status, 200);
    let view = server.work(shot, "solve_again").await;
    assert!(
        view["solve"]["reasons"].to_string().contains("stated"),
        "{}",
        view["solve"]
    );
    let (status, _) = server.post(&path, state(json!({ "remove": [id] }))).await;
    assert_eq!(status, 200);
    let (_, view) = server.get(&format!("/api/shots/{shot}")).await;
    assert_eq!(view["constraints"].as_array().unwrap().len(), 1);
}
