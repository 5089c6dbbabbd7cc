//! From a solved shot to a guest that stands on the ground, lit and with its shadow, as somebody does it who has never
//! seen the page: under two minutes and fifteen clicks.

use browser_tests::{
    application, browser, click, follow_and_solve, key, on_screen, open_walk, press, pull, state,
    until,
};
use fantoccini::Client;
use parallax_core::lens::Distortion;
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
        distortion: Distortion::radial(-0.15, 0.02),
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
    asked(&client, "return fetch('/api/shots/1/edits', {method: 'POST', headers: {'content-type': 'application/json'}, body: JSON.stringify({label: 'solve the lens along', patch: {solve_lens: true}})}).then((a) => a.status);").await;
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
    // In space its handle lifts it by the upright rod and turns it by the level arc, and does nothing else.
    let lie = asked(&client, "return page.guests.list[0].lie;").await;
    for (part, way) in [(1, (0.0, -20.0)), (4, (25.0, 0.0))] {
        let knob = format!(
            "const h = page.spaceView.handles[1]; const [x, y] = h.screen(h.group.position.clone().set(...h.parts[{part}].at)); const r = h.view.canvas.getBoundingClientRect(); return [JSON.stringify(page.guests.list[0].lie), x + r.x, y + r.y];"
        );
        let at = asked(&client, &knob).await;
        let (kept, x, y) = (
            at[0].as_str().unwrap(),
            at[1].as_f64().unwrap(),
            at[2].as_f64().unwrap(),
        );
        pull(&client, (x, y), (x + way.0, y + way.1)).await.unwrap();
        let changed = format!(
            "(() => {{ {PAGE} return JSON.stringify(page.guests.list[0].lie) !== '{kept}'; }})()"
        );
        until(&client, &changed).await.unwrap();
    }
    let now = asked(&client, "return page.guests.list[0].lie;").await;
    let (was, is) = (&lie["shift_m"], &now["shift_m"]);
    assert!(up(is) > up(was) + 0.02, "lifted: {lie} {now}");
    assert!(was[0] == is[0] && was[2] == is[2], "lifted: {lie} {now}");
    let (was, is) = (&lie["turn_deg"], &now["turn_deg"]);
    assert!(
        was[0] != is[0] && was[1] == is[1] && was[2] == is[2],
        "turned: {lie} {now}"
    );
    for _ in 0..2 {
        asked(&client, "return page.shot.undo().then(() => 1);").await;
    }
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
    is_drawn_where_it_is(&client).await;
    client.close().await.unwrap();
}

/// A small ball towards a corner, where the lens bends most: the middle of its px, enlarged, is where the server projects
/// its middle.
async fn is_drawn_where_it_is(client: &Client) {
    const RADIUS_M: f64 = 0.04;
    let script = format!(
        "const on = page.shot.version; const place = (await (await fetch('/api/shots/1/place-guest?frame=1&x=560&y=310')).json()).place;
         const what = {{ kind: 'sphere', diameter_m: {} }}; const lie = {{ shift_m: place, turn_deg: [0, 0, 0], scale: 1 }};
         const hidden = page.guests.list.map((g) => ({{ ...JSON.parse(JSON.stringify(g)), hidden: true }}));
         await page.shot.edit('a ball', {{}}, {{ guests: {{ add: [{{ name: 'ball', what, at: null, lie }}], change: hidden }} }});
         page.playback.seek(1); page.guests.choose(page.guests.list.at(-1).id); return place;",
        2.0 * RADIUS_M
    );
    let place = asked(client, &format!("return (async () => {{ {script} }})();")).await;
    let [x, y, z] = [0, 1, 2].map(|k| place[k].as_f64().unwrap());
    until(client, &format!("(() => {{ {PAGE} return view.bodies.size === 2 && [...view.bodies.values()].some((b) => b.group.visible && b.group.children.length); }})()")).await.unwrap();
    let seen = format!(
        "return (async () => {{ const rows = (await (await fetch('/api/shots/1/path?x={x}&y={}&z={z}&kind=json')).json()).frames; const px = rows.find((r) => r.frame === 1).px;
         const lens = page.world.cameras[0].terms; const v = plate.viewport; const [a, b] = v.plateToScreen(...px); v.zoom(8 / v.scale, a, b); const at = v.plateToScreen(...px); v.pan(v.size[0] / 2 - at[0], v.size[1] / 2 - at[1]);
         view.draw(1, v, 1, plate.frame()); const c = document.createElement('canvas'); c.width = view.canvas.width; c.height = view.canvas.height; const g = c.getContext('2d'); g.drawImage(view.canvas, 0, 0); const d = g.getImageData(0, 0, c.width, c.height).data;
         let n = 0, sx = 0, sy = 0; for (let k = 0; k < d.length; k += 4) if (d[k + 3] > 250) {{ n++; sx += (k / 4) % c.width + 0.5; sy += Math.floor(k / 4 / c.width) + 0.5; }}
         const drawn = v.screenToPlate(sx / n, sy / n); return [n, drawn[0] - px[0], drawn[1] - px[1], lens[0]]; }})();",
        y + RADIUS_M
    );
    let found = asked(client, &seen).await;
    let number = |k: usize| found[k].as_f64().unwrap_or(f64::NAN);
    assert!(number(0) > 400.0, "the ball is drawn: {found}");
    assert!(number(3) < -0.05, "through a lens that bends: {found}");
    let off = number(1).hypot(number(2));
    assert!(off < 0.05, "{off} px: {found}");
}
