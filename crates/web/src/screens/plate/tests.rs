//! What a plate's files state of themselves, over the API.

use crate::running::start;
use exr::prelude::{Encoding, Image, Layer, LayerAttributes, SpecificChannels, WritableImage};
use serde_json::{Value, json};

fn asked(view: &Value) -> Vec<Value> {
    let said = view["findings"].as_array().unwrap();
    said.iter()
        .filter(|f| f["station"] == "plate" && f["level"] == "bad")
        .cloned()
        .collect()
}

/// A rate in the headers is taken over; another one that is typed is asked about, once.
#[actix_web::test]
async fn the_rate_of_openexr_headers_is_taken_and_held_against_what_is_typed() {
    let root = tempfile::tempdir().unwrap();
    let folder = root.path().join("walk");
    std::fs::create_dir(&folder).unwrap();
    for frame in 1..=3 {
        let attributes = LayerAttributes {
            frames_per_second: Some((24_000, 1_001)),
            ..LayerAttributes::default()
        };
        let channels = SpecificChannels::rgb(|_| (0.2f32, 0.3f32, 0.4f32));
        let layer = Layer::new((64, 48), attributes, Encoding::FAST_LOSSLESS, channels);
        Image::from_layer(layer)
            .write()
            .to_file(folder.join(format!("walk.{frame:04}.exr")))
            .unwrap();
    }
    let running = start(&root.path().join("data"), root.path()).await;
    let (status, _) = running
        .post("/api/shots", json!({ "folder": "walk" }))
        .await;
    assert_eq!(status, 201);
    let view = running.settled(1).await;
    assert_eq!(
        (&view["state"]["rate"], asked(&view).len()),
        (&json!("24000/1001"), 0),
        "{}",
        view["findings"]
    );

    let edit = async |patch: Value| {
        let (status, view) = running
            .post(
                "/api/shots/1/edits",
                json!({ "label": "rate", "patch": patch }),
            )
            .await;
        assert_eq!(status, 200, "{view}");
        view
    };
    let both = asked(&edit(json!({ "rate": "24" })).await);
    assert_eq!(both.len(), 2, "{both:?}");
    assert!(
        both[0]["text"]
            .as_str()
            .unwrap()
            .starts_with("The pictures' headers state 24000/1001"),
        "{}",
        both[0]
    );
    assert_eq!(
        asked(&edit(both[1]["remedy"]["edit"].clone()).await),
        Vec::<Value>::new()
    );
    assert_eq!(asked(&edit(json!({ "rate": "25" })).await).len(), 2);
    assert_eq!(
        asked(&edit(both[0]["remedy"]["edit"].clone()).await),
        Vec::<Value>::new()
    );
}
