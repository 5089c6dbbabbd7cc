//! The Track station as an artist uses it: a hand track, a matte, culling by loop, a drifter found.

use browser_tests::{
    along, application, browser, click, key, last_done, on_screen, open_walk, press, pull, seek,
    state, text, until,
};
use fantoccini::{Client, Locator};
use parallax_core::progress::Silent;
use parallax_core::spaces::{PlatePx, TrackId};
use parallax_core::track::session::{follow_plate, preview};
use parallax_core::track::{FrameSource, TrackOptions};
use parallax_demo::plates::{self, Coding};
use parallax_demo::trial::Trial;
use parallax_formats::tracks_csv::{self, Called};
use parallax_media::Plate;
use serde_json::json;
use std::path::Path;

const SIZE: (u32, u32) = (640, 360);
const FRAMES: usize = 30;

fn render(root: &Path, seed: u64) -> Plate {
    let trial = Trial {
        width_px: SIZE.0,
        height_px: SIZE.1,
        frame_count: FRAMES,
        rays: 4,
        grain_levels: 1.0,
        ..Trial::new(seed)
    };
    plates::write_trial(&trial, &root.join("walk"), Coding::Png).unwrap();
    Plate::in_folder(&root.join("walk"), false).unwrap().1
}

/// Opens the shot of the plate at the Track station.
async fn open(client: &Client, address: &str) {
    open_walk(client, address, "track").await.unwrap();
    until(
        client,
        "document.querySelector('#follow') && !document.querySelector('.work')",
    )
    .await
    .unwrap();
}

async fn at(client: &Client, px: [f64; 2]) -> (f64, f64) {
    on_screen(
        client,
        SIZE,
        (px[0] / f64::from(SIZE.0), px[1] / f64::from(SIZE.1)),
    )
    .await
}

/// What the first row of hand tracks says: keys and frames.
const HAND_ROW: &str = "[...document.querySelectorAll('#hands tr')].at(1)?.innerText.split(/\\s+/).slice(1).map(Number)";

#[tokio::test(flavor = "multi_thread")]
async fn a_hand_track_is_placed_followed_and_corrected() {
    let (data, root, profile) = (
        tempfile::tempdir().unwrap(),
        tempfile::tempdir().unwrap(),
        tempfile::tempdir().unwrap(),
    );
    let plate = render(root.path(), 21);
    let options = TrackOptions {
        count: 40,
        ..TrackOptions::for_size(SIZE.0, SIZE.1)
    };
    let details = preview(plate.grey(14).unwrap(), None, &options).unwrap();
    // On the wall behind, well inside the picture.
    let inside = |px: &PlatePx| (200.0..440.0).contains(&px.x) && (30.0..90.0).contains(&px.y);
    let detail = details.iter().map(|d| d.0).find(inside).unwrap();

    let address = application(data.path(), root.path()).await.unwrap();
    let (_driver, client) = browser(profile.path()).await.unwrap();
    open(&client, &address).await;
    click(&client, "#panel-hands").await;
    seek(&client, 15).await.unwrap();
    state(&client, "#hand-name", "bracket").await;
    click(&client, "#place").await;
    press(&client, at(&client, [detail.x, detail.y]).await)
        .await
        .unwrap();
    until(
        &client,
        "document.querySelector('#hands').innerText.includes('bracket')",
    )
    .await
    .unwrap();
    click(&client, "#follow-both").await;
    until(&client, &format!("({HAND_ROW})?.[1] >= 20"))
        .await
        .unwrap();

    // Beside its reference, and what it is like, on another frame.
    seek(&client, 20).await.unwrap();
    until(
        &client,
        "document.querySelector('#compared').innerText.includes('correlation 0.9')",
    )
    .await
    .unwrap();
    assert!(text(&client, "figcaption").await.contains("frame 15"));

    // Dragging the marker keys it; the undo takes the key back and follows nothing anew.
    let before = text(&client, "#hand-hint").await;
    assert!(before.contains("correct it here"), "{before}");
    let script = "return fetch('/api/shots/1/tracks').then(a => a.json()).then(t => { const k = t.tracks[0].frames.indexOf(20); return t.tracks[0].xy.slice(2 * k, 2 * k + 2) })";
    let here = client.execute(script, vec![]).await.unwrap();
    let here = [here[0].as_f64().unwrap(), here[1].as_f64().unwrap()];
    pull(
        &client,
        at(&client, here).await,
        at(&client, [here[0] + 6.0, here[1]]).await,
    )
    .await
    .unwrap();
    until(&client, &format!("({HAND_ROW})?.[0] === 2"))
        .await
        .unwrap();
    assert!(
        text(&client, "#hand-hint")
            .await
            .contains("A key lies on this frame")
    );
    click(&client, "#undo").await;
    until(
        &client,
        &format!("({HAND_ROW})?.[0] === 1 && ({HAND_ROW})?.[1] >= 20"),
    )
    .await
    .unwrap();

    // Its end; what comes after is not seen.
    until(&client, "!document.querySelector('.work')")
        .await
        .unwrap();
    click(&client, "#end-here").await;
    seek(&client, 22).await.unwrap();
    until(
        &client,
        "document.querySelector('#hand-hint').innerText.includes('not seen')",
    )
    .await
    .unwrap();
    client.close().await.unwrap();
}

/// How many are selected by a box over the left of the picture.
async fn selected_left(client: &Client) -> String {
    key(client, "Escape").await;
    until(
        client,
        "document.querySelector('#selection').innerText === 'nothing selected'",
    )
    .await
    .unwrap();
    let (from, to) = (
        at(client, [8.0, 8.0]).await,
        at(client, [300.0, 352.0]).await,
    );
    pull(client, from, to).await.unwrap();
    text(client, "#selection").await
}

#[tokio::test(flavor = "multi_thread")]
async fn features_leave_a_keyed_matte_and_are_culled_by_loop() {
    let (data, root, profile) = (
        tempfile::tempdir().unwrap(),
        tempfile::tempdir().unwrap(),
        tempfile::tempdir().unwrap(),
    );
    render(root.path(), 22);
    let address = application(data.path(), root.path()).await.unwrap();
    let (_driver, client) = browser(profile.path()).await.unwrap();
    open(&client, &address).await;

    // The preview says how many there would be.
    click(&client, "#preview").await;
    until(
        &client,
        "Number.parseInt(document.querySelector('#preview-count').innerText) > 50",
    )
    .await
    .unwrap();
    click(&client, "#follow").await;
    until(
        &client,
        "document.querySelector('#stop-track').className.includes('good')",
    )
    .await
    .unwrap();
    let followed: usize = text(&client, "#stop-track .num").await.parse().unwrap();

    // Cull by a loop, see it, undo.
    click(&client, "#panel-tracks").await;
    seek(&client, 5).await.unwrap();
    click(&client, "#loop-tool").await;
    let corners = [
        [60.0, 60.0],
        [420.0, 40.0],
        [560.0, 200.0],
        [300.0, 300.0],
        [80.0, 280.0],
    ];
    let mut path = Vec::new();
    for corner in corners {
        path.push(at(&client, corner).await);
    }
    along(&client, &path).await.unwrap();
    until(
        &client,
        "document.querySelector('#selection').innerText.includes('more')",
    )
    .await
    .unwrap();
    key(&client, "Delete").await;
    until(
        &client,
        &format!("Number(document.querySelector('#stop-track .num').innerText) < {followed} - 10"),
    )
    .await
    .unwrap();
    click(&client, "#undo").await;
    until(
        &client,
        &format!("Number(document.querySelector('#stop-track .num').innerText) === {followed}"),
    )
    .await
    .unwrap();
    click(&client, "#loop-tool").await;

    // A matte over the left half: nothing is left to be selected there.
    assert_ne!(selected_left(&client).await, "nothing selected");
    click(&client, "#panel-mattes").await;
    click(&client, "#draw-matte").await;
    for corner in [[4.0, 4.0], [316.0, 4.0], [316.0, 356.0], [4.0, 356.0]] {
        press(&client, at(&client, corner).await).await.unwrap();
    }
    key(&client, "Enter").await;
    until(
        &client,
        "document.querySelector('#mattes').innerText.includes('1 key')",
    )
    .await
    .unwrap();
    // Its tracks come after the view.
    let left = "document.querySelector('[x-data]')._x_dataStack[0].tracks.list.some((t) => t.frames[0] === 1 && t.xy[0] < 300)";
    until(&client, &format!("!{left}")).await.unwrap();
    click(&client, "#panel-tracks").await;
    assert_eq!(selected_left(&client).await, "nothing selected");

    // Keyed away on a later frame, features are there again; on the first key they are not.
    click(&client, "#panel-mattes").await;
    seek(&client, 25).await.unwrap();
    pull(
        &client,
        at(&client, [160.0, 180.0]).await,
        at(&client, [470.0, 180.0]).await,
    )
    .await
    .unwrap();
    until(
        &client,
        "document.querySelector('#mattes').innerText.includes('2 keys')",
    )
    .await
    .unwrap();
    click(&client, "#panel-tracks").await;
    assert_ne!(selected_left(&client).await, "nothing selected");
    seek(&client, 5).await.unwrap();
    assert_eq!(selected_left(&client).await, "nothing selected");
    client.close().await.unwrap();
}

#[tokio::test(flavor = "multi_thread")]
async fn a_planted_drifter_is_found_and_dropped() {
    let (data, root, profile) = (
        tempfile::tempdir().unwrap(),
        tempfile::tempdir().unwrap(),
        tempfile::tempdir().unwrap(),
    );
    let plate = render(root.path(), 23);
    let options = TrackOptions {
        count: 150,
        ..TrackOptions::for_size(SIZE.0, SIZE.1)
    };
    let mut tracks = follow_plate(&plate, &options, &Silent).unwrap();
    // Named ones that slide off their detail, by a little more on each frame.
    let long: Vec<_> = tracks
        .iter()
        .filter(|t| t.samples.len() >= 25)
        .take(3)
        .cloned()
        .collect();
    let first = tracks.len() as u32 + 1;
    for (index, mut drifter) in long.into_iter().enumerate() {
        drifter.id = TrackId(first + index as u32);
        for (k, sample) in drifter.samples.iter_mut().enumerate() {
            sample.px = PlatePx::new(
                sample.px.x + 0.5 * k as f64,
                sample.px.y - 9.0 - 0.8 * k as f64,
            );
        }
        tracks.push(drifter);
    }
    let called = |id: TrackId| Called {
        name: if id.0 >= first {
            format!("slider {}", id.0 - first + 1)
        } else {
            String::new()
        },
        group: String::new(),
        aside: String::new(),
    };
    let file = root.path().join("tracks.csv");
    let called: Vec<_> = tracks.iter().map(|t| called(t.id)).collect();
    let rows = tracks_csv::write(tracks.iter().zip(&called)).unwrap();
    std::fs::write(&file, rows).unwrap();

    let address = application(data.path(), root.path()).await.unwrap();
    let (_driver, client) = browser(profile.path()).await.unwrap();
    open(&client, &address).await;
    click(&client, "#panel-tracks").await;
    client
        .find(Locator::Css("#import"))
        .await
        .unwrap()
        .send_keys(&file.display().to_string())
        .await
        .unwrap();
    until(
        &client,
        "document.querySelector('#import-said').innerText.includes('tracks taken in')",
    )
    .await
    .unwrap();
    let finding = "[...document.querySelectorAll('div.finding')].find((f) => /by themselves|no place in space/.test(f.innerText))";
    until(&client, finding).await.unwrap();
    let see = format!("{finding}.querySelector('.see').click()");
    client.execute(&see, vec![]).await.unwrap();
    until(
        &client,
        "document.querySelector('#listed').innerText !== ''",
    )
    .await
    .unwrap();
    // Each of the three is among them: the list of the selection names it.
    let script = "return fetch('/api/shots/1').then(a => a.json()).then(v => v.findings.flatMap(f => f.tracks ?? []))";
    let suspects = client.execute(script, vec![]).await.unwrap();
    for id in first..first + 3 {
        assert!(
            suspects.as_array().unwrap().contains(&json!(id)),
            "{id} is not among {suspects}"
        );
    }
    assert_ne!(text(&client, "#selection").await, "nothing selected");
    let drop = format!("{finding}.querySelector('.drop-all').click()");
    client.execute(&drop, vec![]).await.unwrap();
    last_done(&client, "set aside").await.unwrap();
    client.close().await.unwrap();
}
