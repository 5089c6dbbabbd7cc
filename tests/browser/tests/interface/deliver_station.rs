//! From a solved shot to files for two receivers, as somebody does it who has never seen the page: in under a minute.
//! Then another recipe, changed by hand, delivered, undone and delivered again.

use browser_tests::{application, browser, click, follow_and_solve, open_walk, state, text, until};
use fantoccini::Client;
use parallax_demo::plates::{self, Coding};
use parallax_demo::trial::Trial;
use parallax_formats::delivery::package::names_zipped;
use std::time::{Duration, Instant};

/// The longest time that a newcomer takes for two receivers.
const LONGEST: Duration = Duration::from_secs(60);

/// What the page shows of the recipe of a name.
async fn figure(client: &Client, recipe: &str) -> String {
    let script =
        format!("return document.querySelector('[data-recipe=\"{recipe}\"] .num').innerText;");
    let found = client.execute(&script, vec![]).await.unwrap();
    found.as_str().unwrap().to_owned()
}

async fn delivered(client: &Client, recipe: &str, version: u32) {
    let shown = format!(
        "document.querySelector('[data-recipe=\"{recipe}\"] .num')?.innerText.startsWith('v{version}, 0.0')"
    );
    until(client, &shown).await.unwrap();
}

/// The package behind the link, fetched by the page; names of its files.
async fn names_in_package(client: &Client) -> Vec<String> {
    let script = "const [done] = arguments; fetch(document.querySelector('#package').href).then((a) => a.arrayBuffer()).then((b) => done([...new Uint8Array(b)]));";
    let bytes = client.execute_async(script, vec![]).await.unwrap();
    let bytes: Vec<u8> = serde_json::from_value(bytes).unwrap();
    names_zipped(&bytes).unwrap()
}

#[tokio::test(flavor = "multi_thread")]
async fn a_newcomer_delivers_to_two_receivers() {
    let (data, root, profile) = (
        tempfile::tempdir().unwrap(),
        tempfile::tempdir().unwrap(),
        tempfile::tempdir().unwrap(),
    );
    let folder = root.path().join("walk");
    plates::write_trial(&Trial::small(24), &folder, Coding::Jpeg(92)).unwrap();
    let address = application(data.path(), root.path()).await.unwrap();
    let (_driver, client) = browser(profile.path()).await.unwrap();
    open_walk(&client, &address, "plate").await.unwrap();
    follow_and_solve(&client, "25").await.unwrap();

    let begun = Instant::now();
    click(&client, "#stop-deliver").await;
    click(&client, "#deliver").await;
    delivered(&client, "3D scene", 1).await;
    assert_eq!(
        text(&client, "#files-agree").await,
        "The files agree with the solve."
    );
    let names = names_in_package(&client).await;
    assert!(names.iter().any(|n| n.ends_with(".usda")), "{names:?}");
    click(&client, "[data-recipe=compositing]").await;
    click(&client, "#up-z").await;
    until(
        &client,
        "document.querySelector('#up-z').classList.contains('on')",
    )
    .await
    .unwrap();
    click(&client, "#deliver").await;
    delivered(&client, "compositing", 1).await;
    assert_eq!(text(&client, "#receipt-up").await, "Z, right-handed");
    let took = begun.elapsed();
    assert!(took < LONGEST, "{took:?}");

    // A recipe of one's own: formats, unit, first frame, names.
    click(&client, "#add-recipe").await;
    until(
        &client,
        "document.querySelector('#recipe-name').value === 'New recipe'",
    )
    .await
    .unwrap();
    state(&client, "#recipe-name", "layout").await;
    until(&client, "document.querySelector('[data-recipe=layout]')")
        .await
        .unwrap();
    for (format, on) in [("obj", true), ("usdz", false)] {
        click(&client, &format!("#format-{format}")).await;
        until(
            &client,
            &format!(
                "document.querySelector('#format-{format}').classList.contains('on') === {on}"
            ),
        )
        .await
        .unwrap();
    }
    click(&client, "#recipe-more").await;
    state(&client, "#recipe-first", "101").await;
    state(&client, "#recipe-names", "{recipe}_{file}_{version}").await;
    until(
        &client,
        "document.querySelector('#recipe-example').innerText === 'layout_scene_001.usda'",
    )
    .await
    .unwrap();
    click(&client, "#deliver").await;
    delivered(&client, "layout", 1).await;
    assert_eq!(text(&client, "#receipt-range").await, "101–124");
    let names = names_in_package(&client).await;
    assert!(
        names.contains(&"layout_camera_001.csv".to_owned()),
        "{names:?}"
    );

    // Changed, it is stale and says so; delivered again, it says what changed.
    click(&client, "#hand-left").await;
    until(
        &client,
        "document.querySelector('[data-recipe=layout] .num').innerText === 'v1, stale'",
    )
    .await
    .unwrap();
    click(&client, "#deliver-again").await;
    delivered(&client, "layout", 2).await;
    assert!(
        text(&client, "#changed")
            .await
            .contains("Against version 1: the camera is the same")
    );
    // Undo takes the delivery back, a reload finds it so.
    click(&client, "#undo").await;
    until(
        &client,
        "document.querySelector('[data-recipe=layout] .num').innerText === 'v1, stale'",
    )
    .await
    .unwrap();
    client.refresh().await.unwrap();
    until(&client, "document.querySelector('[data-recipe=layout]')")
        .await
        .unwrap();
    assert_eq!(figure(&client, "layout").await, "v1, stale");
    assert!(figure(&client, "tracks").await.contains("not made"));
    // All are removed, and one can be added all the same.
    click(&client, "#recipe-more").await;
    for left in (0..6).rev() {
        click(&client, "#remove-recipe").await;
        let gone = format!("document.querySelectorAll('[data-recipe]').length === {left}");
        until(&client, &gone).await.unwrap();
    }
    click(&client, "#add-recipe").await;
    until(
        &client,
        "document.querySelector('#recipe-name')?.value === 'New recipe'",
    )
    .await
    .unwrap();
    client.close().await.unwrap();
}
