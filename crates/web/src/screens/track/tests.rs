//! Hand tracks, mattes, notes and track files over the API.

use crate::running::{Running, opened, small_plate, solved_from_truth};
use parallax_core::track::session::preview;
use parallax_core::track::{FrameSource, TrackOptions};
use parallax_media::Plate;
use serde_json::{Value, json};
use tempfile::TempDir;

struct Shot {
    server: Running,
    id: i64,
    root: TempDir,
    _data: TempDir,
}

impl Shot {
    async fn opened() -> Self {
        let (data, root) = (tempfile::tempdir().unwrap(), tempfile::tempdir().unwrap());
        small_plate(root.path(), 24);
        let (server, id) = opened(data.path(), root.path()).await;
        Self {
            server,
            id,
            root,
            _data: data,
        }
    }

    async fn post(&self, what: &str, body: Value) -> (u16, Value) {
        self.server
            .post(&format!("/api/shots/{}/{what}", self.id), body)
            .await
    }

    async fn done(&self, what: &str, body: Value) -> Value {
        let (status, answer) = self.post(what, body).await;
        assert_eq!(status, 200, "{answer}");
        answer
    }

    async fn tracks(&self) -> Vec<Value> {
        let (_, answer) = self
            .server
            .get(&format!("/api/shots/{}/tracks", self.id))
            .await;
        answer["tracks"].as_array().unwrap().clone()
    }

    async fn followed(&self) -> Vec<Value> {
        let controls =
            json!({ "label": "t", "patch": { "track": { "count": 120, "pattern_px": 15 } } });
        self.done("edits", controls).await;
        self.post("jobs", json!({ "kind": "track" })).await;
        self.server.settled(self.id).await;
        self.tracks().await
    }

    /// A detail of the middle frame, in its middle.
    fn detail(&self) -> [f64; 2] {
        let (_, plate) = Plate::in_folder(&self.root.path().join("walk"), false).unwrap();
        let options = TrackOptions {
            count: 60,
            pattern_px: 15,
            ..TrackOptions::for_size(320, 180)
        };
        let found = preview(plate.grey(11).unwrap(), None, &options).unwrap();
        let inside = |x: f64, y: f64| (90.0..230.0).contains(&x) && (20.0..70.0).contains(&y);
        found
            .iter()
            .map(|(px, _)| [px.x, px.y])
            .find(|[x, y]| inside(*x, *y))
            .unwrap()
    }
}

fn message(view: &Value) -> String {
    view["jobs"][0]["message"]
        .as_str()
        .unwrap_or_default()
        .to_owned()
}

#[actix_web::test]
async fn a_hand_track_is_placed_followed_corrected_and_taken_back() {
    let shot = Shot::opened().await;
    let px = shot.detail();
    let placed = shot
        .done(
            "hands",
            json!({ "do": "place", "frame": 12, "px": px, "name": "bracket" }),
        )
        .await;
    let hand = placed["hand"].as_u64().unwrap();
    assert_eq!(hand, 100_001);
    shot.done(
        "hands",
        json!({ "do": "follow", "hand": hand, "frame": 12, "way": "both" }),
    )
    .await;
    let view = shot.server.settled(shot.id).await;
    assert!(
        message(&view).starts_with("2 legs followed"),
        "{}",
        view["jobs"]
    );
    let tracks = shot.tracks().await;
    assert_eq!(
        (&tracks[0]["kind"], &tracks[0]["name"]),
        (&json!("hand"), &json!("bracket"))
    );
    let frames = tracks[0]["frames"].as_array().unwrap().len();
    assert!(frames >= 12, "{frames} frames");
    let (_, look) = shot
        .server
        .get(&format!(
            "/api/shots/{}/tracks/{hand}/look?frame=14",
            shot.id
        ))
        .await;
    assert_eq!(look["reference_frame"], 12);
    assert!(
        look["patches"]["correlation"].as_f64().unwrap() > 0.9,
        "{look}"
    );

    // A key at a later frame is followed back and on; what leads to the start is kept.
    let at: Vec<f64> = tracks[0]["xy"]
        .as_array()
        .unwrap()
        .iter()
        .map(|v| v.as_f64().unwrap())
        .collect();
    let index = tracks[0]["frames"]
        .as_array()
        .unwrap()
        .iter()
        .position(|f| f == 16)
        .unwrap();
    let key = [at[2 * index] + 0.4, at[2 * index + 1]];
    shot.done(
        "hands",
        json!({ "do": "key", "hand": hand, "frame": 16, "px": key }),
    )
    .await;
    let view = shot.server.settled(shot.id).await;
    assert!(
        message(&view).starts_with("3 legs followed"),
        "{}",
        view["jobs"]
    );
    shot.done("hands", json!({ "do": "end", "hand": hand, "frame": 16 }))
        .await;
    shot.server.settled(shot.id).await;
    let frames = shot.tracks().await[0]["frames"].as_array().unwrap().clone();
    assert_eq!(frames.last(), Some(&json!(16)));

    // Going back finds its legs followed already.
    shot.done("undo", json!({})).await;
    let undone = shot.done("undo", json!({})).await;
    assert_eq!(
        undone["stations"][2]["standing"], "good",
        "{}",
        undone["stations"]
    );
    assert_eq!(
        undone["state"]["hands"][0]["keys"]
            .as_array()
            .unwrap()
            .len(),
        1
    );

    let (status, refused) = shot
        .post(
            "hands",
            json!({ "do": "place", "frame": 12, "px": [999, 4] }),
        )
        .await;
    assert_eq!(status, 422);
    assert!(
        refused["error"]
            .as_str()
            .unwrap()
            .contains("outside the picture"),
        "{refused}"
    );
    let (status, _) = shot
        .post(
            "hands",
            json!({ "do": "key", "hand": 7, "frame": 12, "px": [9, 4] }),
        )
        .await;
    assert_eq!(status, 404);
    shot.done("tracks", json!({ "tracks": [hand], "locked": true }))
        .await;
    let (status, refused) = shot
        .post(
            "hands",
            json!({ "do": "key", "hand": hand, "frame": 12, "px": px }),
        )
        .await;
    assert_eq!(
        (
            status,
            refused["error"].as_str().unwrap().contains("locked")
        ),
        (422, true),
        "{refused}"
    );
    let forged = json!({ "label": "x", "patch": { "mattes": [] } });
    assert_eq!(
        shot.post("edits", forged).await.0,
        422,
        "mattes have requests of their own"
    );
}

#[actix_web::test]
async fn what_falls_into_a_matte_is_left_out_and_comes_back() {
    let shot = Shot::opened().await;
    let before = shot.followed().await;
    let inside = |tracks: &[Value]| {
        let xs = tracks.iter().flat_map(|t| {
            t["xy"]
                .as_array()
                .unwrap()
                .iter()
                .step_by(2)
                .map(|v| v.as_f64().unwrap())
        });
        xs.filter(|x| *x < 160.0).count()
    };
    assert!(inside(&before) > 100);
    let left = json!([[-5, -5], [160, -5], [160, 185], [-5, 185]]);
    let view = shot
        .done(
            "mattes",
            json!({ "do": "draw", "frame": 1, "points": left }),
        )
        .await;
    assert_ne!(
        view["stations"][2]["standing"], "stale",
        "nothing has to be followed again"
    );
    assert_eq!(inside(&shot.tracks().await), 0);
    let keyed = json!({ "do": "key", "matte": 1, "frame": 24, "points": [[-9, -5], [-8, -5], [-8, 185], [-9, 185]] });
    shot.done("mattes", keyed).await;
    let half_way = inside(&shot.tracks().await);
    assert!(half_way > 0 && half_way < inside(&before), "{half_way}");
    let point = json!({ "do": "point", "matte": 1, "frame": 24, "after": 0, "px": [-8.5, -20] });
    let view = shot.done("mattes", point).await;
    assert_eq!(
        view["state"]["mattes"][0]["source"]["keys"][0]["points"]
            .as_array()
            .unwrap()
            .len(),
        5
    );
    for _ in 0..3 {
        shot.done("undo", json!({})).await;
    }
    assert_eq!(inside(&shot.tracks().await), inside(&before));

    for (deed, status, words) in [
        (json!({ "do": "alpha" }), 422, "the plate has none"),
        (
            json!({ "do": "draw", "frame": 1, "points": [[1, 1], [2, 2]] }),
            422,
            "outline of 3",
        ),
        (json!({ "do": "remove", "matte": 3 }), 404, "no matte 3"),
        (
            json!({ "do": "sequence", "folder": "../elsewhere" }),
            403,
            "",
        ),
        (
            json!({ "do": "colour", "key": { "hue_deg": 900 } }),
            422,
            "hue of 0 to 360",
        ),
    ] {
        let (found, answer) = shot.post("mattes", deed.clone()).await;
        assert_eq!(found, status, "{deed}: {answer}");
        assert!(
            answer["error"].as_str().unwrap().contains(words),
            "{answer}"
        );
    }
    let (status, picture) = shot
        .server
        .ask("GET", &format!("/api/shots/{}/mattes/3", shot.id), "", b"")
        .await;
    assert_eq!((status, &picture[1..4]), (200, &b"PNG"[..]));
}

#[actix_web::test]
async fn tracks_go_out_and_come_in_with_names_and_what_could_not_be_placed() {
    let shot = Shot::opened().await;
    let tracks = shot.followed().await;
    let (first, second) = (&tracks[0]["id"], &tracks[1]["id"]);
    shot.done(
        "tracks",
        json!({ "tracks": [first, second], "name": "slab", "group": "ground", "weight": 2.0 }),
    )
    .await;
    for kind in ["csv", "json"] {
        let (status, text) = shot
            .server
            .ask(
                "GET",
                &format!("/api/shots/{}/tracks.{kind}", shot.id),
                "",
                b"",
            )
            .await;
        assert_eq!(status, 200);
        let other = Shot::opened().await;
        let path = format!("/api/shots/{}/tracks/import", other.id);
        let (status, answer) = other
            .server
            .ask("POST", &path, "content-type: text/plain\r\n", &text)
            .await;
        assert_eq!(status, 200, "{}", String::from_utf8_lossy(&answer));
        other.server.settled(other.id).await;
        let back = other.tracks().await;
        assert_eq!(back.len(), tracks.len());
        assert_eq!(
            (&back[0]["name"], &back[0]["note"]["group"]),
            (&json!("slab 1"), &json!("ground"))
        );
        let sum = |tracks: &[Value]| {
            tracks
                .iter()
                .map(|t| t["sigma"].as_f64().unwrap())
                .sum::<f64>()
        };
        assert!(
            (sum(&back) / sum(&tracks) - 1.0).abs() < 0.01,
            "uncertainty is kept"
        );
    }
    let import = |text: &'static str| {
        let path = format!("/api/shots/{}/tracks/import", shot.id);
        let server = &shot.server;
        async move {
            let (status, answer) = server
                .ask("POST", &path, "content-type: text/csv\r\n", text.as_bytes())
                .await;
            (status, String::from_utf8_lossy(&answer).into_owned())
        }
    };
    let mixed = "track,frame,x,y\nnail,1,5,5\nnail,2,6,6\nnail,90,6,6\nlost,91,5,5\nlost,92,5,5\nfar,1,99999,5\nfar,2,5,5\n";
    let (status, said) = import(mixed).await;
    assert_eq!(status, 200, "{said}");
    for words in [
        "1 track taken in",
        "no frames 90-92",
        "1 position far outside",
        "lost and 1 more",
    ] {
        assert!(said.contains(words), "{words}: {said}");
    }
    let count = shot.tracks().await.len();
    assert_eq!(count, tracks.len() + 1);
    for (text, words) in [
        (
            "track,frame,x,y\na,900,5,5\na,901,6,6\n",
            "Nothing was changed",
        ),
        ("these are no tracks", "cannot be read"),
        (
            "{\"schema\":\"other\",\"tracks\":[]}",
            "true-parallax/tracks@1",
        ),
    ] {
        let (status, said) = import(text).await;
        assert_eq!(status, 422, "{said}");
        assert!(said.contains(words), "{said}");
    }
    assert_eq!(
        shot.tracks().await.len(),
        count,
        "nothing was lost and nothing came in"
    );
    let view = shot.done("undo", json!({})).await;
    assert_eq!(
        shot.tracks().await.len(),
        tracks.len(),
        "{}",
        view["history"]
    );
}

#[actix_web::test]
async fn a_feature_is_promoted_and_features_are_previewed() {
    let shot = Shot::opened().await;
    let (status, places) = shot
        .server
        .get(&format!("/api/shots/{}/features?frame=5", shot.id))
        .await;
    assert_eq!(status, 200, "{places}");
    assert!(places["count"].as_u64().unwrap() > 20, "{places}");
    let tracks = shot.followed().await;
    let long = tracks
        .iter()
        .max_by_key(|t| t["frames"].as_array().unwrap().len())
        .unwrap();
    let answer = shot
        .done("hands", json!({ "do": "promote", "tracks": [long["id"]] }))
        .await;
    let hand = answer["hand"].clone();
    shot.server.settled(shot.id).await;
    let after = shot.tracks().await;
    let promoted = after.iter().find(|t| t["id"] == hand).unwrap();
    assert_eq!(promoted["frames"], long["frames"]);
    let old = after.iter().find(|t| t["id"] == long["id"]).unwrap();
    assert_eq!(old["aside"], "culled");
}

#[actix_web::test]
async fn judging_anew_makes_a_solve_stale_and_is_no_edit() {
    let shot = Shot::opened().await;
    shot.followed().await;
    shot.post("jobs", json!({ "kind": "solve" })).await;
    let solved = shot.server.settled(shot.id).await;
    assert_ne!(
        solved["stations"][3]["standing"], "stale",
        "{}",
        solved["jobs"]
    );
    // Suspects as another way of judging would have left them.
    let run = solved["state"]["run"].as_i64().unwrap();
    let judged = shot
        .server
        .worker
        .store
        .judge_anew(shot.id, run, &[])
        .await
        .unwrap();
    assert_ne!(judged, run);
    let view = shot.server.settled(shot.id).await;
    assert_eq!(
        view["stations"][3]["standing"], "stale",
        "other tracks take part now"
    );
    assert_eq!(view["history"]["undo"], solved["history"]["undo"]);
    assert!(
        shot.server
            .worker
            .store
            .judge_anew(shot.id, run, &[])
            .await
            .is_err(),
        "the old run is not current"
    );
    shot.post("jobs", json!({ "kind": "judge" })).await;
    let view = shot.server.settled(shot.id).await;
    assert!(message(&view).contains("suspect track"), "{}", view["jobs"]);
}

#[actix_web::test]
async fn hand_tracks_alone_are_one_edit_each() {
    let shot = Shot::opened().await;
    let placed = shot
        .done(
            "hands",
            json!({ "do": "place", "frame": 12, "px": shot.detail() }),
        )
        .await;
    assert!(placed["state"]["run"].is_i64(), "attempts belong to a run");
    shot.done(
        "hands",
        json!({ "do": "follow", "hand": 100_001, "frame": 12, "way": "both" }),
    )
    .await;
    let view = shot.server.settled(shot.id).await;
    assert_eq!(view["history"]["undo"], "follow a hand track");
    // A name of its own, in one place; a matte's name changes nothing that was followed.
    let named = shot
        .done("tracks", json!({ "tracks": [100_001], "name": "hook" }))
        .await;
    assert_eq!(
        (
            &named["state"]["hands"][0]["name"],
            &named["state"]["notes"]
        ),
        (&json!("hook"), &json!({}))
    );
    shot.done(
        "mattes",
        json!({ "do": "draw", "frame": 1, "points": [[1, 1], [9, 1], [5, 9]] }),
    )
    .await;
    shot.server.settled(shot.id).await;
    let renamed = shot
        .done(
            "mattes",
            json!({ "do": "set", "matte": 1, "name": "corner" }),
        )
        .await;
    assert_eq!(
        renamed["stations"][2]["standing"], "good",
        "{}",
        renamed["jobs"]
    );
}

/// A solved camera leads a hand track to where it is; what has no place is not led, and followed by its looks it is led no
/// more.
#[actix_web::test]
async fn a_hand_track_is_led_by_the_camera() {
    let shot = Shot::opened().await;
    let place = json!({ "do": "place", "frame": 12, "px": shot.detail() });
    shot.done("hands", place).await;
    let guide = || json!({ "do": "guide", "hand": 100_001 });
    let (status, told) = shot.post("hands", guide()).await;
    assert!(status == 409 || status == 422, "{status} {told}");
    assert!(told.to_string().contains("solve first"), "{told}");
    solved_from_truth(&shot.server, shot.id, 24).await;
    let (status, told) = shot.post("hands", guide()).await;
    assert_eq!(status, 422, "{told}");
    assert!(
        told.to_string().contains("Mark it on another frame"),
        "{told}"
    );

    let follow = || json!({ "do": "follow", "hand": 100_001, "frame": 12, "way": "both" });
    shot.done("hands", follow()).await;
    shot.server.settled(shot.id).await;
    let path = |tracks: Vec<Value>| -> Vec<(i64, f64, f64)> {
        let hand = tracks.iter().find(|t| t["id"] == 100_001).unwrap();
        let (frames, xy) = (
            hand["frames"].as_array().unwrap(),
            hand["xy"].as_array().unwrap(),
        );
        let at = |k: usize| xy[k].as_f64().unwrap();
        let one = |(k, f): (usize, &Value)| (f.as_i64().unwrap(), at(2 * k), at(2 * k + 1));
        frames.iter().enumerate().map(one).collect()
    };
    let by_looks = path(shot.tracks().await);
    assert!(by_looks.len() >= 8, "{by_looks:?}");

    let led = shot.done("hands", guide()).await;
    let hand = &led["state"]["hands"][0];
    assert!(
        hand["guide"].as_array().unwrap().len() >= by_looks.len(),
        "{hand}"
    );
    let view = shot.server.settled(shot.id).await;
    assert_eq!(view["history"]["undo"], "follow along the prediction");
    let guided = path(shot.tracks().await);
    assert!(guided.len() >= by_looks.len(), "{guided:?}");
    for (frame, x, y) in &by_looks {
        let (_, gx, gy) = guided.iter().find(|g| g.0 == *frame).unwrap();
        let off = (gx - x).hypot(gy - y);
        assert!(off < 0.3, "{off:.2} px apart on frame {frame}");
    }
    let again = shot.done("hands", follow()).await;
    assert!(again["state"]["hands"][0]["guide"].is_null());
    shot.server.end().await;
}
