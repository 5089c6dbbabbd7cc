//! Whoever has no pointer, or cannot see the canvas, works here too; fields are filled in as fields are;
//! two who work on one shot see each other's edits.

use browser_tests::{application, browser, click, key, last_done, open_walk, state, text, until};
use fantoccini::{Client, Locator};
use parallax_demo::plates::{self, Coding};
use parallax_demo::trial::Trial;
use serde_json::{Value, json};
use std::path::Path;

const AXE: &str = include_str!("../../vendor/axe.min.js");

/// A small plate with grain in the folder `walk`.
fn walk(root: &Path) {
    plates::write_trial(&Trial::small(24), &root.join("walk"), Coding::Png).unwrap();
}

/// What axe-core finds wrong on the page as it is.
async fn violations(client: &Client) -> Vec<String> {
    client.execute(AXE, vec![]).await.unwrap();
    let run = "const done = arguments[arguments.length - 1]; axe.run(document).then((found) => done(found.violations.map((v) => `${v.id}: ${v.nodes.map((n) => n.html.slice(0, 160)).join(' | ')}`)))";
    let found = client.execute_async(run, vec![]).await.unwrap();
    serde_json::from_value(found).unwrap()
}

async fn read(client: &Client, script: &str) -> Value {
    client
        .execute(&format!("return {script}"), vec![])
        .await
        .unwrap()
}

#[tokio::test(flavor = "multi_thread")]
async fn every_station_can_be_read_aloud() {
    let folders = [(); 3].map(|()| tempfile::tempdir().unwrap());
    let [data, root, profile] = &folders;
    walk(root.path());
    let file = plates::shipped().join("reading-room/reading-room.0001.jpg");
    std::fs::create_dir(root.path().join("room")).unwrap();
    std::fs::copy(file, root.path().join("room/room.0001.jpg")).unwrap();
    let address = application(data.path(), root.path()).await.unwrap();
    let (_driver, client) = browser(profile.path()).await.unwrap();
    open_walk(&client, &address, "plate").await.unwrap();
    let mut wrong = Vec::new();
    for station in [
        "plate", "lens", "track", "solve", "orient", "proof", "deliver",
    ] {
        click(&client, &format!("#stop-{station}")).await;
        let here = format!("document.querySelector('#stop-{station}').ariaCurrent === 'page'");
        until(&client, &here).await.unwrap();
        let found = violations(&client).await;
        wrong.extend(found.into_iter().map(|v| format!("{station}: {v}")));
        // One next thing to do, everywhere.
        assert!(!text(&client, "#next").await.is_empty(), "{station}");
    }
    // The sheet of keys is a dialog that has the focus, and lets go of it.
    key(&client, "?").await;
    until(&client, "document.querySelector('dialog.keys').open")
        .await
        .unwrap();
    let inside = "document.querySelector('dialog.keys').contains(document.activeElement)";
    assert_eq!(read(&client, inside).await, true);
    wrong.extend(violations(&client).await);
    key(&client, "Escape").await;
    let open = "return fetch('/api/shots', {method: 'POST', headers: {'content-type': 'application/json'}, body: JSON.stringify({folder: 'room'})}).then(a => a.status)";
    assert_eq!(client.execute(open, vec![]).await.unwrap(), 201);
    client.goto(&address).await.unwrap();
    until(
        &client,
        "document.querySelectorAll('.stopmark').length === 12",
    )
    .await
    .unwrap();
    until(
        &client,
        "[...document.querySelectorAll('.thumb')].every((i) => i.src)",
    )
    .await
    .unwrap();
    assert!(
        text(&client, ".shotrow:nth-child(2)")
            .await
            .contains("photograph")
    );
    wrong.extend(violations(&client).await);
    client
        .goto(&format!("{address}/shots/2#rails"))
        .await
        .unwrap();
    until(&client, "document.querySelector('#suggest')")
        .await
        .unwrap();
    for station in ["plate", "rails", "orient", "proof", "deliver"] {
        click(&client, &format!("#stop-{station}")).await;
        let found = violations(&client).await;
        wrong.extend(
            found
                .into_iter()
                .map(|v| format!("photograph, {station}: {v}")),
        );
    }
    client.close().await.unwrap();
    assert!(wrong.is_empty(), "{}", wrong.join("\n"));
}

#[tokio::test(flavor = "multi_thread")]
async fn fields_are_filled_in_as_fields_are() {
    let folders = [(); 3].map(|()| tempfile::tempdir().unwrap());
    let [data, root, profile] = &folders;
    walk(root.path());
    let address = application(data.path(), root.path()).await.unwrap();
    let (_driver, client) = browser(profile.path()).await.unwrap();
    open_walk(&client, &address, "plate").await.unwrap();
    let shown = |id: &str| format!("document.querySelector('{id}').value");

    // A click selects all, so that typing replaces it; Escape brings back what stood there.
    click(&client, "#focal").await;
    let focal = client.find(Locator::Css("#focal")).await.unwrap();
    focal.send_keys("35,5 mm").await.unwrap();
    assert_eq!(read(&client, &shown("#focal")).await, "35,5 mm");
    focal.send_keys("\u{e00c}").await.unwrap();
    assert_eq!(read(&client, &shown("#focal")).await, "unknown");
    click(&client, "#focal").await;
    focal.send_keys("35,5 mm\u{e007}").await.unwrap();
    until(
        &client,
        &format!("{} === '35.5 mm, stated'", shown("#focal")),
    )
    .await
    .unwrap();

    // A zoom may be known on its first frame alone.
    state(&client, "#focal", "zooms from 35 ± 1").await;
    let zooms = format!("{} === 'zooms from 35 ± 1 mm, stated'", shown("#focal"));
    until(&client, &zooms).await.unwrap();
    state(&client, "#focal", "35.5").await;
    let again = format!("{} === '35.5 mm, stated'", shown("#focal"));
    until(&client, &again).await.unwrap();

    // What is no length is refused as a whole, and what holds stands there again.
    state(&client, "#focal", "50 mm, st30ated").await;
    until(&client, "document.querySelector('#error').innerText")
        .await
        .unwrap();
    assert_eq!(read(&client, &shown("#focal")).await, "35.5 mm, stated");

    // A rounded rate is not taken; the exact one is offered.
    state(&client, "#rate", "23.976").await;
    click(&client, "#take-offer").await;
    until(&client, &format!("{} === '24000/1001'", shown("#rate")))
        .await
        .unwrap();

    // In and out lie within the plate.
    state(&client, "#range", "1-99").await;
    until(
        &client,
        "document.querySelector('#error').innerText.includes('within')",
    )
    .await
    .unwrap();
    assert_eq!(read(&client, &shown("#range")).await, "1–24");

    // Undo says what it takes back.
    key(&client, "Escape").await;
    click(&client, "#undo").await;
    until(
        &client,
        "document.querySelector('#said').innerText.includes('state the rate')",
    )
    .await
    .unwrap();
    client.close().await.unwrap();
}

#[tokio::test(flavor = "multi_thread")]
async fn others_are_seen_and_a_late_edit_is_done_anew() {
    let folders = [(); 3].map(|()| tempfile::tempdir().unwrap());
    let [data, root, profile] = &folders;
    walk(root.path());
    let address = application(data.path(), root.path()).await.unwrap();
    let (_driver, client) = browser(profile.path()).await.unwrap();
    open_walk(&client, &address, "plate").await.unwrap();
    until(&client, "!document.querySelector('.work')")
        .await
        .unwrap();
    let elsewhere = |patch: Value| {
        let body = json!({ "label": "state facts elsewhere", "patch": patch }).to_string();
        let script = "return fetch('/api/shots/1/edits', {method: 'POST', headers: {'content-type': 'application/json'}, body: arguments[0]}).then(a => a.status)";
        let client = &client;
        async move { client.execute(script, vec![json!(body)]).await.unwrap() }
    };
    assert_eq!(elsewhere(json!({ "rate": "25" })).await, 200);
    until(&client, "document.querySelector('#rate').value === '25'")
        .await
        .unwrap();
    until(
        &client,
        "document.querySelector('#said').innerText.includes('elsewhere')",
    )
    .await
    .unwrap();

    // A page that has not heard yet, as one that was asleep.
    let deaf = "const { shot } = document.querySelector('[x-data]')._x_dataStack[0]; shot.page.events.close();";
    client.execute(deaf, vec![]).await.unwrap();
    assert_eq!(elsewhere(json!({ "rate": "30" })).await, 200);
    state(&client, "#rate", "48").await;
    until(
        &client,
        "document.querySelector('#error').innerText.includes('state facts elsewhere')",
    )
    .await
    .unwrap();
    click(&client, "#do-again").await;
    until(&client, "document.querySelector('#rate').value === '48'")
        .await
        .unwrap();
    client.close().await.unwrap();
}

#[tokio::test(flavor = "multi_thread")]
async fn tracks_are_gone_through_without_a_pointer() {
    let folders = [(); 3].map(|()| tempfile::tempdir().unwrap());
    let [data, root, profile] = &folders;
    walk(root.path());
    let address = application(data.path(), root.path()).await.unwrap();
    let (_driver, client) = browser(profile.path()).await.unwrap();
    open_walk(&client, &address, "track").await.unwrap();
    // Pressed while viewing copies are being made, it waits for its turn.
    click(&client, "#next").await;
    until(
        &client,
        "document.querySelector('#stop-track').className.includes('good')",
    )
    .await
    .unwrap();
    key(&client, "n").await;
    let first = text(&client, "#selection").await;
    key(&client, "n").await;
    let second = text(&client, "#selection").await;
    assert!(
        first != second && second != "nothing selected",
        "{first}, {second}"
    );
    let spoken = read(&client, "document.querySelector('#plate').ariaLabel").await;
    assert!(spoken.as_str().unwrap().contains(&second), "{spoken}");
    key(&client, "Delete").await;
    last_done(&client, "set aside 1 track").await.unwrap();

    // What a finding names is shown by a click; its tracks alone are listed until Escape.
    click(&client, ".finding .see").await;
    until(&client, "document.querySelector('#seeing').offsetParent")
        .await
        .unwrap();
    let listed = "document.querySelector('#strip').ariaLabel";
    let few = read(&client, listed).await;
    key(&client, "Escape").await;
    until(&client, "!document.querySelector('#seeing').offsetParent")
        .await
        .unwrap();
    let all = read(&client, listed).await;
    assert_ne!(few, all, "the strip lists all again");
    client.close().await.unwrap();
}
