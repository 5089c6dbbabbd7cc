//! A photograph in the browser: lay rails along edges, undo, take what is suggested, state the
//! height of the door, pull the box, deliver, read the receipt.

use browser_tests::{application, browser, click, pull, state, text, until};
use fantoccini::{Client, Locator};
use parallax_core::spaces::WorldPoint;
use parallax_demo::{plates, reading_room};
use serde_json::{Value, json};

/// The number that a text begins with.
fn number(text: &str) -> f64 {
    text.split_whitespace().next().unwrap().parse().unwrap()
}

/// Where the true camera sees a point of the room, on the screen.
async fn on_screen(client: &Client, [x, y, z]: [f64; 3]) -> (f64, f64) {
    let take = reading_room::take();
    let px = take
        .lens
        .project(&take.pose(0), &WorldPoint::new(x, y, z))
        .unwrap();
    let script = "const r = document.querySelector('#plate').getBoundingClientRect(); const s = Math.min(r.width / 2000, r.height / 1333); return [r.left + (r.width - 2000 * s) / 2 + s * arguments[0], r.top + (r.height - 1333 * s) / 2 + s * arguments[1]]";
    let at: Value = client
        .execute(script, vec![json!(px.x), json!(px.y)])
        .await
        .unwrap();
    (at[0].as_f64().unwrap(), at[1].as_f64().unwrap())
}

async fn drag(client: &Client, from: [f64; 3], to: [f64; 3]) {
    pull(
        client,
        on_screen(client, from).await,
        on_screen(client, to).await,
    )
    .await
    .unwrap();
}

/// Drags along an edge with an axis chosen and waits until the rail is kept.
async fn lay(client: &Client, axis: &str, from: [f64; 3], to: [f64; 3], count: usize) {
    click(client, &format!("#axis-{axis}")).await;
    drag(client, from, to).await;
    let kept = format!("document.querySelector('#axis-{axis} .num').innerText === '{count}'");
    until(client, &kept).await.unwrap();
}

#[tokio::test(flavor = "multi_thread")]
async fn from_a_dropped_photograph_to_the_receipt() {
    let (data, root, profile) = (
        tempfile::tempdir().unwrap(),
        tempfile::tempdir().unwrap(),
        tempfile::tempdir().unwrap(),
    );
    let file = root.path().join("room.jpg");
    std::fs::copy(
        plates::shipped().join("reading-room/reading-room.0001.jpg"),
        &file,
    )
    .unwrap();
    let address = application(data.path(), root.path()).await.unwrap();
    let (_driver, client) = browser(profile.path()).await.unwrap();

    // Drop the picture.
    client.goto(&address).await.unwrap();
    until(&client, "document.querySelector('#files')")
        .await
        .unwrap();
    client
        .find(Locator::Css("#files"))
        .await
        .unwrap()
        .send_keys(&file.display().to_string())
        .await
        .unwrap();
    until(
        &client,
        "location.pathname === '/shots/1' && document.querySelector('#stop-rails')",
    )
    .await
    .unwrap();

    // Four rails along edges, laid as well as one screen px allows: a camera within a few per cent.
    click(&client, "#stop-rails").await;
    lay(&client, "x", [0.2, 2.28, -2.715], [2.25, 2.28, -2.715], 1).await;
    lay(&client, "x", [-1.2, 0.0, -1.0], [1.3, 0.0, -1.0], 2).await;
    lay(&client, "z", [-2.0, 0.012, -1.8], [-2.0, 0.012, -0.3], 1).await;
    lay(&client, "z", [-2.4, 2.4, -1.7], [-2.4, 2.4, -0.1], 2).await;
    until(&client, "document.querySelector('#focal-mm')")
        .await
        .unwrap();
    let truth_mm = 1480.0 * 36.0 / 2000.0;
    let laid_mm = number(&text(&client, "#focal-mm").await);
    assert!(
        (laid_mm / truth_mm - 1.0).abs() < 0.06,
        "{laid_mm} mm instead of {truth_mm:.2}"
    );

    // All figures go to the clipboard at once. The word stands for a second and a half only, which
    // may be over before a busy browser has answered the click: the page notes that it stood.
    let watch = "const cell = document.querySelector('#copy-all'); new MutationObserver(() => { if (cell.innerText === 'copied') document.body.dataset.copied = 'yes'; }).observe(cell, { childList: true, characterData: true, subtree: true });";
    client.execute(watch, vec![]).await.unwrap();
    click(&client, "#copy-all").await;
    until(&client, "document.body.dataset.copied")
        .await
        .unwrap();

    // Undo takes the last rail away, redo brings it back.
    click(&client, "#undo").await;
    until(
        &client,
        "document.querySelector('#axis-z .num').innerText === '1'",
    )
    .await
    .unwrap();
    click(&client, "#redo").await;
    until(
        &client,
        "document.querySelector('#axis-z .num').innerText === '2'",
    )
    .await
    .unwrap();

    // What the picture offers makes it exact.
    click(&client, "#suggest").await;
    until(&client, "document.querySelector('#take-all')?.offsetParent")
        .await
        .unwrap();
    click(&client, "#take-all").await;
    until(
        &client,
        "Number(document.querySelector('#axis-y .num').innerText) > 3",
    )
    .await
    .unwrap();
    let taken_mm = number(&text(&client, "#focal-mm").await);
    assert!(
        (taken_mm / truth_mm - 1.0).abs() < 0.02,
        "{taken_mm} mm instead of {truth_mm:.2}"
    );

    // The door is 2.04 m high.
    click(&client, "#stop-orient").await;
    drag(&client, [-1.45, 0.0, -3.1], [-1.45, 2.04, -3.1]).await;
    // No length is assumed: the staff waits for it, and the field has the focus.
    until(&client, "document.activeElement.id === 'metres'")
        .await
        .unwrap();
    assert_eq!(text(&client, "#unit").await, "no scale");
    state(&client, "#metres", "2,04 m").await;
    until(
        &client,
        "document.querySelector('#unit').innerText === 'metre'",
    )
    .await
    .unwrap();
    let height = number(&text(&client, "#camera-height").await);
    assert!(
        (height - 1.58).abs() < 0.05,
        "the camera is {height} m high"
    );

    // A box, then the receipt; a reload finds it all.
    click(&client, "#stop-proof").await;
    click(&client, "#stand-box").await;
    until(
        &client,
        "document.querySelector('#box-y')?.value === '0.500'",
    )
    .await
    .unwrap();
    // A click selects what stands there.
    click(&client, "#box-y").await;
    let side = client.find(Locator::Css("#box-y")).await.unwrap();
    side.send_keys("0.75\n").await.unwrap();
    click(&client, "#stop-deliver").await;
    click(&client, "#up-z").await;
    until(
        &client,
        "document.querySelector('#up-z').classList.contains('on')",
    )
    .await
    .unwrap();
    click(&client, "#deliver").await;
    until(&client, "document.querySelector('#files-agree')")
        .await
        .unwrap();
    assert_eq!(
        text(&client, "#files-agree").await,
        "The files agree with the solve."
    );
    assert_eq!(text(&client, "#receipt-unit").await, "metre");
    assert_eq!(text(&client, "#receipt-up").await, "Z, right-handed");
    client.refresh().await.unwrap();
    until(&client, "document.querySelector('#difference')")
        .await
        .unwrap();
    let off = number(&text(&client, "#difference").await);
    assert!(off < 0.01, "{off} px");
    until(
        &client,
        "document.querySelector('#box-y')?.value === '0.750'",
    )
    .await
    .unwrap();
    client.close().await.unwrap();
}
