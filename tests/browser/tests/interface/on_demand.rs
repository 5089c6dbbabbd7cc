//! A landmark on demand: after a solve an artist marks a detail on two frames, reads its place, and keys it
//! where the camera says it should be.

use browser_tests::{
    application, browser, click, follow_and_solve, on_screen, open_walk, press, seek, text, until,
};
use fantoccini::Client;
use parallax_core::spaces::{PlatePx, WorldPoint};
use parallax_demo::plates::{self, Coding};
use parallax_demo::take::Take;
use parallax_demo::trial::Trial;

const SIZE: (u32, u32) = (640, 360);
const FRAMES: usize = 30;

fn trial() -> Trial {
    Trial {
        width_px: SIZE.0,
        height_px: SIZE.1,
        frame_count: FRAMES,
        rays: 4,
        grain_levels: 1.0,
        ..Trial::new(21)
    }
}

/// A point of the set that is seen well inside of the picture on some frames.
fn detail(take: &Take, frames: &[usize]) -> WorldPoint {
    let inside = |px: PlatePx| (80.0..560.0).contains(&px.x) && (40.0..320.0).contains(&px.y);
    let is_inside = |point: &&WorldPoint| {
        let mut frames = frames.iter();
        frames.all(|frame| seen(take, *frame, point).is_some_and(inside))
    };
    *take.true_points(200).iter().find(is_inside).unwrap()
}

/// Where a point is seen on a frame.
fn seen(take: &Take, frame: usize, point: &WorldPoint) -> Option<PlatePx> {
    take.lens.project(&take.pose(frame - 1), point)
}

async fn press_at(client: &Client, px: PlatePx) {
    let share = (px.x / f64::from(SIZE.0), px.y / f64::from(SIZE.1));
    let at = on_screen(client, SIZE, share).await;
    press(client, at).await.unwrap();
}

#[tokio::test(flavor = "multi_thread")]
async fn a_detail_marked_on_two_frames_has_its_place_and_path() {
    let (data, root, profile) = (
        tempfile::tempdir().unwrap(),
        tempfile::tempdir().unwrap(),
        tempfile::tempdir().unwrap(),
    );
    let take = trial().take();
    let detail = detail(&take, &[4, 10, 15, 20, 26]);
    let [early, middle, late] = [4, 15, 26].map(|frame| seen(&take, frame, &detail).unwrap());
    plates::write_trial(&trial(), &root.path().join("walk"), Coding::Png).unwrap();
    let address = application(data.path(), root.path()).await.unwrap();
    let (_driver, client) = browser(profile.path()).await.unwrap();
    open_walk(&client, &address, "plate").await.unwrap();
    follow_and_solve(&client, "25").await.unwrap();

    click(&client, "#mark-detail").await;
    seek(&client, 4).await.unwrap();
    press_at(&client, early).await;
    // One sight has no place, and it is said what is lacking.
    let said =
        |what: &str| format!("document.querySelector('#placed').innerText.includes('{what}')");
    until(&client, &said("Mark it on another frame"))
        .await
        .unwrap();
    seek(&client, 26).await.unwrap();
    press_at(&client, late).await;
    until(&client, &said("rays")).await.unwrap();
    let place = text(&client, "#placed").await;
    assert!(place.contains('±') && place.contains("units"), "{place}");

    // Where it was not marked it is keyed where it should be.
    seek(&client, 15).await.unwrap();
    until(
        &client,
        "document.querySelector('#key-predicted').offsetParent",
    )
    .await
    .unwrap();
    click(&client, "#key-predicted").await;
    let keys = "return fetch('/api/shots/1').then(a => a.json()).then(v => v.state.hands[0].keys)";
    let keyed =
        "[...document.querySelectorAll('#hands tr')].at(1)?.innerText.split(/\\s+/).includes('3')";
    until(&client, keyed).await.unwrap();
    let keys = client.execute(keys, vec![]).await.unwrap();
    let key = keys
        .as_array()
        .unwrap()
        .iter()
        .find(|k| k["frame"] == 15)
        .unwrap();
    let px = PlatePx::new(
        key["px"][0].as_f64().unwrap(),
        key["px"][1].as_f64().unwrap(),
    );
    // Clicks fall on screen px, about 0.6 of the plate's.
    let off_px = px.distance_px(middle);
    assert!(off_px < 2.0, "{off_px:.2} px from where it is");

    // And then it is followed along the path that the camera predicts, over all frames between.
    click(&client, "#guide").await;
    until(
        &client,
        "document.querySelector('#guide').innerText === 'Lead it anew'",
    )
    .await
    .unwrap();
    for frame in [10, 20] {
        let here = "document.querySelector('[x-data]')._x_dataStack[0].hands.on(100001)";
        seek(&client, frame).await.unwrap();
        until(&client, here).await.unwrap();
        let px = client.execute(&format!("return {here}.px"), vec![]).await;
        let px: [f64; 2] = serde_json::from_value(px.unwrap()).unwrap();
        let truth = seen(&take, frame, &detail).unwrap();
        let off_px = PlatePx::new(px[0], px[1]).distance_px(truth);
        // As far off as what was clicked may be.
        assert!(off_px < 3.0, "{off_px:.2} px off on frame {frame}");
    }
    client.close().await.unwrap();
}
