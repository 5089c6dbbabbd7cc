//! Tracks into a page and out of files: once and then what changed, merged where they are there already.

use crate::running::{Running, opened, small_plate};
use serde_json::{Value, json};

/// A server with one small shot.
struct Shot {
    server: Running,
    id: i64,
    _folders: [tempfile::TempDir; 2],
}

async fn small() -> Shot {
    let (data, root) = (tempfile::tempdir().unwrap(), tempfile::tempdir().unwrap());
    small_plate(root.path(), 24);
    let (server, id) = opened(data.path(), root.path()).await;
    let _folders = [data, root];
    Shot {
        server,
        id,
        _folders,
    }
}

/// The same with features followed.
async fn followed() -> Shot {
    let shot = small().await;
    let patch = json!({ "track": { "count": 120, "pattern_px": 15 } });
    shot.server.edit(shot.id, patch).await;
    shot.server.work(shot.id, "track").await;
    shot
}

impl Shot {
    async fn post(&self, what: &str, body: Value) -> (u16, Value) {
        let path = format!("/api/shots/{}/{what}", self.id);
        self.server.post(&path, body).await
    }

    async fn done(&self, what: &str, body: Value) -> Value {
        let (status, answer) = self.post(what, body).await;
        assert_eq!(status, 200, "{answer}");
        answer
    }

    async fn tracks(&self) -> Vec<Value> {
        let path = format!("/api/shots/{}/tracks", self.id);
        self.server.get(&path).await.1["tracks"]
            .as_array()
            .unwrap()
            .clone()
    }
}

/// What a page gets of the tracks: the header, and how many bytes it is in all.
async fn packed(shot: &Shot, since: &str) -> (Value, usize) {
    let path = format!("/api/shots/{}/tracks.bin{since}", shot.id);
    let (status, bytes) = shot.server.ask("GET", &path, "", &[]).await;
    assert_eq!(status, 200);
    let length = u32::from_le_bytes(bytes[..4].try_into().unwrap()) as usize;
    assert_eq!(length % 4, 0, "positions begin where 32-bit floats may");
    let head: Value = serde_json::from_slice(&bytes[4..4 + length]).unwrap();
    let samples: i64 = head["tracks"]
        .as_array()
        .unwrap()
        .iter()
        .flat_map(|t| t["runs"].as_array().cloned().unwrap_or_default())
        .map(|run| run[1].as_i64().unwrap())
        .sum();
    assert_eq!(bytes.len(), 4 + length + 12 * samples as usize);
    (head, bytes.len())
}

#[actix_web::test]
async fn a_page_gets_tracks_once_and_then_what_changed() {
    let shot = followed().await;
    let (all, whole) = packed(&shot, "").await;
    let listed = shot.tracks().await;
    assert_eq!(all["tracks"].as_array().unwrap().len(), listed.len());
    let since = format!("?since={}", all["tag"].as_str().unwrap());
    let (same, _) = packed(&shot, &since).await;
    assert_eq!((&same["tracks"], &same["gone"]), (&json!([]), &json!([])));

    let id = listed[3]["id"].as_u64().unwrap();
    shot.done("cull", json!({ "aside": [id] })).await;
    let (changed, bytes) = packed(&shot, &since).await;
    let rows = changed["tracks"].as_array().unwrap();
    assert_eq!((rows.len(), &rows[0]["id"]), (1, &json!(id)));
    assert_eq!(rows[0]["aside"], "culled");
    assert!(rows[0]["runs"].is_null(), "its positions came again");
    assert!(
        bytes < 1000 && bytes * 20 < whole,
        "{bytes} of {whole} bytes"
    );

    // In and out leave positions out, and tracks with them.
    let (_, view) = shot.server.get(&format!("/api/shots/{}", shot.id)).await;
    let edit = json!({ "label": "range", "patch": { "range": [1, 8] }, "on": view["version"] });
    shot.done("edits", edit).await;
    let since = format!("?since={}", changed["tag"].as_str().unwrap());
    let (shorter, _) = packed(&shot, &since).await;
    let gone = shorter["gone"].as_array().unwrap().len();
    assert_eq!(shot.tracks().await.len(), listed.len() - gone);
    assert!(
        gone > 0
            && shorter["tracks"]
                .as_array()
                .unwrap()
                .iter()
                .any(|t| t["runs"].is_array())
    );
}

#[actix_web::test]
async fn importing_ones_own_file_again_asks_and_merges() {
    let shot = followed().await;
    let tracks = shot.tracks().await;
    let id = tracks[2]["id"].as_u64().unwrap();
    shot.done("cull", json!({ "aside": [id] })).await;
    let said = json!({ "tracks": [id], "locked": true, "weight": 0.5 });
    shot.done("tracks", said).await;
    let path = format!("/api/shots/{}", shot.id);
    let (_, csv) = shot
        .server
        .ask("GET", &format!("{path}/tracks.csv"), "", &[])
        .await;
    let text = String::from_utf8(csv).unwrap();
    assert!(text.lines().next().unwrap().ends_with(",aside"));
    let own = format!("t{id:04},");
    let set_aside = text.lines().filter(|l| l.starts_with(&own));
    assert!(set_aside.clone().count() > 1 && set_aside.clone().all(|l| l.ends_with(",culled")));
    let import = async |same: &str| {
        let path = format!("{path}/tracks/import{same}");
        let head = "content-type: text/csv\r\n";
        let (status, answer) = shot.server.ask("POST", &path, head, text.as_bytes()).await;
        let answer: Value = serde_json::from_slice(&answer).unwrap();
        (status, answer)
    };
    let (status, asked) = import("").await;
    assert_eq!(
        (status, &asked["same"]),
        (409, &json!(tracks.len())),
        "{asked}"
    );
    assert_eq!(shot.tracks().await.len(), tracks.len(), "nothing was done");
    let (status, left) = import("?same=skip").await;
    assert_eq!((status, &left["taken"]), (200, &json!(0)), "{left}");
    let (_, view) = shot.server.get(&path).await;
    let label = &view["history"]["undo"];
    assert!(!label.to_string().contains("import"), "no edit: {label}");
    let (status, merged) = import("?same=replace").await;
    assert_eq!(
        (status, &merged["taken"]),
        (200, &json!(tracks.len())),
        "{merged}"
    );
    shot.server.settled(shot.id).await;
    let after = shot.tracks().await;
    assert_eq!(after.len(), tracks.len(), "merged by name");
    let again = after.iter().find(|t| t["id"] == id).unwrap();
    assert_eq!(again["aside"], "culled", "what was set aside stays so");
    let (_, view) = shot.server.get(&path).await;
    let note = &view["state"]["notes"][id.to_string()];
    assert_eq!(note["locked"], true, "what was said of it stays: {note}");
    assert_eq!(note["weight"], 0.5, "{note}");
    import("?same=add").await;
    shot.server.settled(shot.id).await;
    assert_eq!(shot.tracks().await.len(), 2 * tracks.len());
}

/// Two of one name stay two, with ids of their own, however often they come.
#[actix_web::test]
async fn two_tracks_of_one_name_stay_two() {
    let shot = small().await;
    let row = |track: &str, frame: i32, x: i32| format!("{track},corner,{frame},{x},40\n");
    let rows: String = (1..9)
        .flat_map(|f| [row("a", f, 30 + f), row("b", f, 90 + f)])
        .collect();
    let text = format!("track,name,frame,x,y\n{rows}");
    for (same, wanted) in [("", 2), ("?same=replace", 2), ("?same=add", 4)] {
        let path = format!("/api/shots/{}/tracks/import{same}", shot.id);
        let (status, said) = shot
            .server
            .ask("POST", &path, "content-type: text/csv\r\n", text.as_bytes())
            .await;
        assert_eq!(status, 200, "{same}: {}", String::from_utf8_lossy(&said));
        shot.server.settled(shot.id).await;
        let tracks = shot.tracks().await;
        let ids: std::collections::HashSet<u64> =
            tracks.iter().map(|t| t["id"].as_u64().unwrap()).collect();
        assert_eq!((tracks.len(), ids.len()), (wanted, wanted), "{same}");
    }
}

#[actix_web::test]
async fn the_only_key_of_a_hand_track_is_not_removed_in_silence() {
    let shot = small().await;
    let placed = shot
        .done(
            "hands",
            json!({ "do": "place", "frame": 3, "px": [40.0, 40.0] }),
        )
        .await;
    let hand = placed["hand"].clone();
    let (status, said) = shot
        .post("hands", json!({ "do": "unkey", "hand": hand, "frame": 3 }))
        .await;
    assert_eq!(status, 422, "{said}");
    assert!(
        said["error"].as_str().unwrap().contains("only key"),
        "{said}"
    );
    let removed = shot
        .done("hands", json!({ "do": "remove", "hand": hand }))
        .await;
    assert_eq!(removed["state"]["hands"], json!([]));
}
