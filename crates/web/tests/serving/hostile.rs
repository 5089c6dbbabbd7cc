//! Hostile files and requests: refused with a sentence, and the server goes on.

use crate::running::{coded, opened, small_plate, start};
use rstest::rstest;
use serde_json::{Value, json};

/// An OpenEXR of 96x64 px whose data window begins and ends where it is told to.
fn exr(data_window: [i32; 4], tiles: Option<[u32; 2]>) -> Vec<u8> {
    let mut bytes = vec![
        0x76,
        0x2f,
        0x31,
        0x01,
        2,
        if tiles.is_some() { 2 } else { 0 },
        0,
        0,
    ];
    let mut attribute = |name: &str, kind: &str, value: &[u8]| {
        bytes.extend(name.as_bytes());
        bytes.push(0);
        bytes.extend(kind.as_bytes());
        bytes.push(0);
        bytes.extend((value.len() as i32).to_le_bytes());
        bytes.extend(value);
    };
    let window = |w: [i32; 4]| w.iter().flat_map(|v| v.to_le_bytes()).collect::<Vec<u8>>();
    let mut channels = Vec::new();
    for name in ["B", "G", "R"] {
        channels.extend(name.as_bytes());
        channels.push(0);
        channels.extend(1i32.to_le_bytes());
        channels.extend([0; 4]);
        channels.extend(1i32.to_le_bytes());
        channels.extend(1i32.to_le_bytes());
    }
    channels.push(0);
    attribute("channels", "chlist", &channels);
    attribute("compression", "compression", &[0]);
    attribute("dataWindow", "box2i", &window(data_window));
    attribute("displayWindow", "box2i", &window([0, 0, 95, 63]));
    attribute("lineOrder", "lineOrder", &[0]);
    attribute("pixelAspectRatio", "float", &1f32.to_le_bytes());
    attribute("screenWindowCenter", "v2f", &[0; 8]);
    attribute("screenWindowWidth", "float", &1f32.to_le_bytes());
    if let Some([width, height]) = tiles {
        let sides = [width.to_le_bytes(), height.to_le_bytes()].concat();
        attribute("tiles", "tiledesc", &[&sides[..], &[0]].concat());
    }
    bytes.push(0);
    bytes.extend([0; 256]);
    bytes
}

#[rstest]
#[case::window_far_to_the_left(exr([-200_000_000, 0, 95, 63], None))]
#[case::window_far_away(exr([-200_000_000, 0, -199_999_905, 63], None))]
#[case::window_of_all_there_is(exr([i32::MIN / 2 + 1, i32::MIN / 2 + 1, i32::MAX / 2 - 1, i32::MAX / 2 - 1], None))]
#[case::tiles_without_end(exr([0, 0, 95, 63], Some([1 << 30, 1 << 30])))]
#[case::tiles_of_nothing(exr([0, 0, 95, 63], Some([0, 0])))]
#[actix_web::test]
async fn an_openexr_that_asks_for_too_much_is_refused(#[case] bytes: Vec<u8>) {
    let (data, root) = (tempfile::tempdir().unwrap(), tempfile::tempdir().unwrap());
    let server = start(data.path(), root.path()).await;
    let (status, answer) = server.dropped(&[("a.0001.exr", &bytes)]).await;
    assert_eq!(status, 422, "{answer}");
    assert_eq!(server.get("/api/shots").await.0, 200, "the server goes on");
    server.end().await;
}

/// Sentences are for artists: none speaks of the library that reads requests.
#[rstest]
#[case::no_json("POST", "/api/shots/1/edits", "{", 400)]
#[case::no_label("POST", "/api/shots/1/edits", r#"{"patch": {}}"#, 400)]
#[case::no_number("GET", "/api/shots/seven", "", 400)]
#[case::no_query("GET", "/api/shots/1/features?frame=x", "", 400)]
#[case::nowhere("GET", "/api/nothing", "", 404)]
#[case::a_list(
    "POST",
    "/api/shots/1/edits",
    r#"{"label": "x", "patch": [1, 2, 3]}"#,
    422
)]
#[case::half_a_film_back(
    "POST",
    "/api/shots/1/edits",
    r#"{"label": "x", "patch": {"film_back": {"width_mm": 36}}}"#,
    422
)]
#[case::no_such_member(
    "POST",
    "/api/shots/1/edits",
    r#"{"label": "x", "patch": {"lens": {"k7": 1}}}"#,
    422
)]
#[case::a_result(
    "POST",
    "/api/shots/1/edits",
    r#"{"label": "x", "patch": {"run": 3}}"#,
    422
)]
#[case::a_list_unseen(
    "POST",
    "/api/shots/1/edits",
    r#"{"label": "x", "patch": {"stand_ins": []}}"#,
    422
)]
#[case::no_attempt("POST", "/api/shots/1/attempts/99", "{}", 404)]
#[actix_web::test]
async fn bad_requests_get_a_sentence(
    #[case] method: &str,
    #[case] path: &str,
    #[case] body: &str,
    #[case] wanted: u16,
) {
    let (data, root) = (tempfile::tempdir().unwrap(), tempfile::tempdir().unwrap());
    small_plate(root.path(), 3);
    let (server, _) = opened(data.path(), root.path()).await;
    let kind = "content-type: application/json\r\n";
    let (status, answer) = server.ask(method, path, kind, body.as_bytes()).await;
    let said = String::from_utf8_lossy(&answer).into_owned();
    assert_eq!(status, wanted, "{said}");
    let answer: Value = serde_json::from_slice(&answer).expect("errors are JSON");
    let sentence = answer["error"].as_str().unwrap();
    for word in [
        "missing field",
        "expected",
        "line 1",
        "invalid type",
        "unknown variant",
    ] {
        assert!(!sentence.contains(word), "{sentence}");
    }
    server.end().await;
}

/// Wild terms froze a thread for good, and did so again at each opening.
#[rstest]
#[case::tiny_unit(json!({ "terms": { "k3": 1000.0 }, "focal_px": 1.0 }))]
#[case::huge_term(json!({ "terms": { "k1": 1000.0 } }))]
#[case::tangential(json!({ "terms": { "p1": 900.0, "p2": -900.0 } }))]
#[actix_web::test]
async fn a_wild_lens_is_refused_by_what_it_does_to_the_picture(#[case] values: Value) {
    let (data, root) = (tempfile::tempdir().unwrap(), tempfile::tempdir().unwrap());
    small_plate(root.path(), 3);
    let (server, shot) = opened(data.path(), root.path()).await;
    for convention in ["undistorted_to_distorted", "distorted_to_undistorted"] {
        let mut values = values.clone();
        values["convention"] = json!(convention);
        let patch = json!({ "lens": { "source": "values", "values": values } });
        let (status, view) = server.edit(shot, patch).await;
        assert_eq!(status, 200, "{view}");
        assert!(view["lens"]["error"].is_string(), "{}", view["lens"]);
        assert_eq!(server.get(&format!("/api/shots/{shot}")).await.0, 200);
    }
    server.end().await;
}

#[actix_web::test]
async fn numbers_beyond_bounds_do_not_come_in_with_tracks() {
    let (data, root) = (tempfile::tempdir().unwrap(), tempfile::tempdir().unwrap());
    small_plate(root.path(), 3);
    let (server, shot) = opened(data.path(), root.path()).await;
    let rows = b"track,frame,x,y,sigma_x\na,1,10,10,1e200\na,2,10,10,1\n";
    let path = format!("/api/shots/{shot}/tracks/import");
    let (status, answer) = server.ask("POST", &path, "", rows).await;
    let said = String::from_utf8_lossy(&answer).into_owned();
    assert_eq!(status, 422, "{said}");
    assert!(said.contains("row 2"), "{said}");
    assert_eq!(server.get(&format!("/api/shots/{shot}")).await.0, 200);
    server.end().await;
}

#[actix_web::test]
async fn links_do_not_lead_out_of_the_allowed_folder() {
    let (data, root) = (tempfile::tempdir().unwrap(), tempfile::tempdir().unwrap());
    let elsewhere = tempfile::tempdir().unwrap();
    let secret = elsewhere.path().join("secret.png");
    std::fs::write(&secret, coded(image::ImageFormat::Png)).unwrap();
    std::fs::create_dir(root.path().join("one")).unwrap();
    std::os::unix::fs::symlink(&secret, root.path().join("one/a.0001.png")).unwrap();
    let server = start(data.path(), root.path()).await;
    let (status, answer) = server.post("/api/shots", json!({ "folder": "one" })).await;
    assert_eq!(status, 403, "{answer}");
    server.end().await;
}
