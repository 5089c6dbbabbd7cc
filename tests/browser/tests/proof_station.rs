//! From a solved shot to a guest that stands on the ground, lit and with its shadow, as somebody does it who has never
//! seen the page: under two minutes and fifteen clicks.
#![allow(clippy::unwrap_used)]

use browser_tests::{
    application, browser, click, follow_and_solve, key, on_screen, open_walk, press, pull, state,
    until,
};
use fantoccini::Client;
use parallax_demo::plates::{self, Coding};
use parallax_demo::trial::Trial;
use serde_json::{Value, json};
use std::time::{Duration, Instant};

const PLATE: (u32, u32) = (640, 360);
const PAGE: &str = "const page = document.querySelector('[x-data]')._x_dataStack[0].shot.page; const view = page.guestsView; const plate = page.plateView;";
/// Most clicks and the longest time that a newcomer takes.
const MOST_CLICKS: usize = 15;
const LONGEST: Duration = Duration::from_secs(120);

async fn asked(client: &Client, script: &str) -> Value {
    client
        .execute(&format!("{PAGE} {script}"), vec![])
        .await
        .unwrap()
}

/// How much of the picture guests cover, and their shadows: px of the surface that are lit, and px that are only
/// darkened.
async fn covered(client: &Client) -> (u64, u64) {
    let script = "view.draw(page.playback.frame, plate.viewport, 1, plate.frame()); const c = document.createElement('canvas'); c.width = view.canvas.width; c.height = view.canvas.height; const x = c.getContext('2d'); x.drawImage(view.canvas, 0, 0); const d = x.getImageData(0, 0, c.width, c.height).data; let lit = 0, dark = 0; for (let k = 0; k < d.length; k += 4) { if (d[k + 3] > 250) lit++; else if (d[k + 3] > 40 && d[k] + d[k + 1] + d[k + 2] < 12) dark++; } return [lit, dark];";
    let both = asked(client, script).await;
    (both[0].as_u64().unwrap(), both[1].as_u64().unwrap())
}

#[tokio::test(flavor = "multi_thread")]
async fn a_newcomer_puts_a_guest_into_the_plate() {
    let (data, root, profile) = (
        tempfile::tempdir().unwrap(),
        tempfile::tempdir().unwrap(),
        tempfile::tempdir().unwrap(),
    );
    let trial = Trial {
        width_px: PLATE.0,
        height_px: PLATE.1,
        frame_count: 40,
        rays: 4,
        ..Trial::new(21)
    };
    plates::write(
        &trial.take(),
        &root.path().join("walk"),
        Coding::Jpeg(92),
        |_| {},
    )
    .unwrap();
    let address = application(data.path(), root.path()).await.unwrap();
    let (_driver, client) = browser(profile.path()).await.unwrap();
    open_walk(&client, &address, "plate").await.unwrap();
    follow_and_solve(&client, "25").await.unwrap();

    // The clock of the newcomer.
    let (begun, mut clicks) = (Instant::now(), 0);
    let mut pressed = async |selector: &str| {
        click(&client, selector).await;
        clicks += 1;
    };
    pressed("#stop-orient").await;
    let (from, to) = (
        on_screen(&client, PLATE, (0.1, 0.8)).await,
        on_screen(&client, PLATE, (0.9, 0.99)).await,
    );
    pull(&client, from, to).await.unwrap();
    pressed("#plane-ground").await;
    until(
        &client,
        "document.querySelectorAll('#statements tr').length === 1",
    )
    .await
    .unwrap();
    pressed("#stop-proof").await;
    until(
        &client,
        "document.querySelectorAll('#guest-kind option').length > 8",
    )
    .await
    .unwrap();
    let orrery = asked(
        &client,
        "return page.guests.kinds.find((k) => k.name === 'brass orrery').key;",
    )
    .await;
    state(&client, "#guest-kind", orrery.as_str().unwrap()).await;
    pressed("#place-guest").await;
    press(&client, on_screen(&client, PLATE, (0.5, 0.8)).await)
        .await
        .unwrap();
    until(
        &client,
        "document.querySelector('#stop-proof .num').innerText === '1 guest'",
    )
    .await
    .unwrap();
    let is_drawn = format!(
        "(() => {{ {PAGE} return view.any && view.bodies.values().next().value.group.children.length > 0 && !view.canvas.hidden; }})()"
    );
    until(&client, &is_drawn).await.unwrap();
    let (lit, dark) = covered(&client).await;
    // The clicks above, with the drag, the choice from the list and the click on the plate.
    assert!(clicks + 3 <= MOST_CLICKS, "{clicks} clicks");
    assert!(begun.elapsed() < LONGEST, "{:?}", begun.elapsed());
    assert!(lit > 150, "it is drawn: {lit} px");
    assert!(dark > 40, "it casts a shadow: {dark} px");
    until(
        &client,
        "document.querySelector('#guest-name')?.value === 'brass orrery'",
    )
    .await
    .unwrap();

    // It is drawn where the server projects it, lens included.
    let off = asked(&client, "const g = view.given.guests[0]; const f = page.playback.frame; view.draw(f, plate.viewport, 1, plate.frame()); return fetch(`/api/shots/1/path?x=${g.matrix[3]}&y=${g.matrix[7]}&z=${g.matrix[11]}&kind=json`).then((a) => a.json()).then((p) => { const px = p.frames.find((r) => r.frame === f).px; const at = plate.viewport.screenToPlate(...view.drawnAt([g.matrix[3], g.matrix[7], g.matrix[11]], plate.viewport)); return Math.hypot(at[0] - px[0], at[1] - px[1]); });").await;
    assert!(off.as_f64().unwrap() < 0.05, "{off} px");

    // A drag moves it over the ground, undo brings it back.
    let shift = "page.guests.list[0].lie.shift_m";
    let before = asked(&client, &format!("return {shift};")).await;
    let from = on_screen(&client, PLATE, (0.5, 0.76)).await;
    let to = on_screen(&client, PLATE, (0.62, 0.8)).await;
    pull(&client, from, to).await.unwrap();
    until(
        &client,
        &format!("(() => {{ {PAGE} return JSON.stringify({shift}) !== '{before}'; }})()"),
    )
    .await
    .unwrap();
    let moved = asked(&client, &format!("return {shift};")).await;
    let up = |v: &Value| v[1].as_f64().unwrap();
    assert!(
        (up(&moved) - up(&before)).abs() < 0.01,
        "it stays on the ground: {before} {moved}"
    );
    click(&client, "#undo").await;
    until(
        &client,
        &format!("(() => {{ {PAGE} return JSON.stringify({shift}) === '{before}'; }})()"),
    )
    .await
    .unwrap();

    // Held still, the place stays where it is on the screen while frames pass.
    click(&client, "#hold-still").await;
    until(
        &client,
        &format!("(() => {{ {PAGE} return page.proof.holdShown(); }})()"),
    )
    .await
    .unwrap();
    let there = "const at = plate.viewport.plateToScreen(...page.proof.holdShown().px); return at;";
    let first = asked(&client, there).await;
    key(&client, "End").await;
    until(
        &client,
        "document.querySelector('#frame').innerText === '40'",
    )
    .await
    .unwrap();
    let last = asked(&client, &format!("plate.draw(); {there}")).await;
    let gone = (0..2)
        .map(|k| (first[k].as_f64().unwrap() - last[k].as_f64().unwrap()).abs())
        .fold(0.0, f64::max);
    assert!(gone < 0.5, "{first} {last}");

    // A key here and one at the beginning: it moves between them.
    click(&client, "#guest-key").await;
    until(
        &client,
        "document.querySelector('#chosen-guest').innerText.includes('keys on 40')",
    )
    .await
    .unwrap();
    key(&client, "Home").await;
    state(&client, ".field.shift", "0.5").await;
    until(
        &client,
        "document.querySelector('#chosen-guest').innerText.includes('keys on 1, 40')",
    )
    .await
    .unwrap();
    let moves = asked(&client, "return fetch('/api/shots/1/guests').then((a) => a.json()).then((g) => g.guests[0].frames.length);").await;
    assert_eq!(moves, json!(40));
    // Between them a key changes nothing: it lies there as it was drawn.
    for _ in 0..15 {
        key(&client, "ArrowRight").await;
    }
    let there = "page.guests.standsAt";
    let before = asked(&client, &format!("return {there};")).await;
    click(&client, "#guest-key").await;
    let keyed = "document.querySelector('#chosen-guest').innerText.includes('keys on 1, 16, 40')";
    until(&client, keyed).await.unwrap();
    until(
        &client,
        &format!(
            "(() => {{ {PAGE} return page.guests.data.given.guests[0].frames.length === 40; }})()"
        ),
    )
    .await
    .unwrap();
    let after = asked(&client, &format!("return {there};")).await;
    let off = |k: usize| (before[k].as_f64().unwrap() - after[k].as_f64().unwrap()).abs();
    assert!((0..3).all(|k| off(k) < 1e-4), "{before} {after}");
    client.close().await.unwrap();
}
