//! The whole walk: drop files, state the rate, follow, cull and undo, solve, orient, stand a
//! box, deliver, read the receipt.

use browser_tests::{application, browser, click, key, last_done, pull, state, text, until};
use fantoccini::{Client, Locator};
use parallax_demo::plates::{self, Coding};
use parallax_demo::trial::Trial;
use serde_json::json;

/// Width and height of the plate.
const PLATE: (u32, u32) = (640, 360);

/// A point of the plate, as shares of the picture, on the screen.
async fn on_screen(client: &Client, share: (f64, f64)) -> (f64, f64) {
    browser_tests::on_screen(client, PLATE, share).await
}

/// Drags a box over the plate.
async fn drag(client: &Client, from: (f64, f64), to: (f64, f64)) {
    pull(
        client,
        on_screen(client, from).await,
        on_screen(client, to).await,
    )
    .await
    .unwrap();
}

/// Clicks one of the landmarks on the ground, told apart by thirds of the picture; shift adds.
async fn select_one(client: &Client, nth: usize, adding: bool) {
    let place = format!(
        "return fetch('/api/shots/1/overlay?from=1&to=1').then(a => a.json()).then(o => {{ const p = o['1'].points; const low = []; for (let k = 0; k < p.length; k += 3) if (p[k + 2] > 230 && p[k + 2] < 340 && p[k + 1] > 60 && p[k + 1] < 580) low.push([p[k + 1] / 640, p[k + 2] / 360]); low.sort((a, b) => a[0] - b[0]); return low[Math.min(low.length - 1, {nth} * Math.floor(low.length / 3))]; }})"
    );
    let at = client.execute(&place, vec![]).await.unwrap();
    let (x, y) = on_screen(client, (at[0].as_f64().unwrap(), at[1].as_f64().unwrap())).await;
    let script = "const c = document.querySelector('#plate'); for (const type of ['pointerdown', 'pointerup']) c.dispatchEvent(new PointerEvent(type, {clientX: arguments[0], clientY: arguments[1], shiftKey: arguments[2], button: 0, pointerId: 1, bubbles: true}))";
    client
        .execute(
            "document.querySelector('#plate').setPointerCapture = () => {}",
            vec![],
        )
        .await
        .unwrap();
    client
        .execute(script, vec![json!(x), json!(y), json!(adding)])
        .await
        .unwrap();
}

/// Holds the first answer that says that no work goes on until `window.release()`; sets
/// `window.delivered` once the page had time to take it.
const HOLD_LAST_LOOK: &str = "
    const plain = window.fetch;
    window.fetch = async (path, options) => {
        const answer = await plain(path, options);
        if (path === '/api/shots/1' && !options?.method && !window.release) {
            // The look that tells that the work is done.
            const { changes } = await answer.clone().json();
            if (changes?.some(([at, now]) => at[0] === 'jobs' && now === 'done')) {
                await new Promise((done) => (window.release = done));
                setTimeout(() => (window.delivered = true), 300);
            }
        }
        return answer;
    };";

#[tokio::test(flavor = "multi_thread")]
async fn from_dropped_files_to_the_receipt() {
    let (data, root, profile) = (
        tempfile::tempdir().unwrap(),
        tempfile::tempdir().unwrap(),
        tempfile::tempdir().unwrap(),
    );
    let trial = Trial {
        width_px: 640,
        height_px: 360,
        frame_count: 30,
        rays: 4,
        grain_levels: 1.0,
        ..Trial::new(21)
    };
    let folder = root.path().join("walk");
    plates::write_trial(&trial, &folder, Coding::Jpeg(92)).unwrap();
    let address = application(data.path(), root.path()).await.unwrap();
    let (_driver, client) = browser(profile.path()).await.unwrap();

    // Drop the files.
    client.goto(&address).await.unwrap();
    until(
        &client,
        "document.querySelector('#open-folder') || document.querySelector('#files')",
    )
    .await
    .unwrap();
    let mut files: Vec<_> = std::fs::read_dir(&folder)
        .unwrap()
        .map(|e| e.unwrap().path().display().to_string())
        .collect();
    files.sort();
    client
        .find(Locator::Css("#files"))
        .await
        .unwrap()
        .send_keys(&files.join("\n"))
        .await
        .unwrap();
    until(
        &client,
        "location.pathname === '/shots/1' && document.querySelector('#rate')",
    )
    .await
    .unwrap();

    // The rate is asked for, an impossible one refused with a sentence.
    assert!(text(&client, ".notes").await.contains("never guessed"));
    state(&client, "#rate", "0/0").await;
    until(
        &client,
        "document.querySelector('#error').innerText.includes('Nothing was changed')",
    )
    .await
    .unwrap();
    state(&client, "#rate", "24000/1001").await;
    until(
        &client,
        "document.querySelector('#stop-plate').className.includes('good')",
    )
    .await
    .unwrap();

    // Follow features. The last look at the work is held up until an edit is through: what
    // is older than the edit must not be shown after it.
    client.execute(HOLD_LAST_LOOK, vec![]).await.unwrap();
    click(&client, "#stop-track").await;
    click(&client, "#follow").await;
    until(&client, "window.release").await.unwrap();
    state(&client, "#count", "300").await;
    last_done(&client, "count").await.unwrap();
    client.execute("window.release()", vec![]).await.unwrap();
    until(&client, "window.delivered").await.unwrap();
    let undo = client
        .find(Locator::Css("#undo"))
        .await
        .unwrap()
        .attr("title")
        .await
        .unwrap()
        .unwrap();
    assert!(
        undo.contains("count"),
        "an old answer is shown after the edit: {undo}"
    );
    click(&client, "#undo").await;

    // Cull by box; undo.
    until(
        &client,
        "document.querySelector('#stop-track').className.includes('good')",
    )
    .await
    .unwrap();
    let followed: usize = text(&client, "#stop-track .num").await.parse().unwrap();
    assert!(followed > 60, "{followed} features");
    drag(&client, (0.3, 0.3), (0.7, 0.8)).await;
    until(
        &client,
        "document.querySelector('#selection').innerText !== 'nothing selected'",
    )
    .await
    .unwrap();
    click(&client, "#set-aside").await;
    until(
        &client,
        &format!("Number(document.querySelector('#stop-track .num').innerText) < {followed}"),
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

    // Solve.
    click(&client, "#stop-solve").await;
    click(&client, "#solve").await;
    until(
        &client,
        "document.querySelector('#rms') || document.querySelector('#last-job.bad')",
    )
    .await
    .unwrap();
    let rms: f64 = text(&client, "#rms")
        .await
        .trim_end_matches(" px")
        .parse()
        .unwrap();
    assert!(rms < 0.6, "{rms} px");

    // Orient: ground by box, origin, distance.
    click(&client, "#stop-orient").await;
    tokio::task::yield_now().await;
    until(&client, "document.querySelector('#plane-ground')")
        .await
        .unwrap();
    drag(&client, (0.1, 0.80), (0.9, 0.99)).await;
    click(&client, "#plane-ground").await;
    until(
        &client,
        "document.querySelectorAll('#statements tr').length === 1",
    )
    .await
    .unwrap();
    // What the landmarks show by themselves is on offer; one click would take it.
    click(&client, "#propose").await;
    until(
        &client,
        "document.querySelector('.take') || document.querySelector('#proposed').innerText",
    )
    .await
    .unwrap();
    until(
        &client,
        "document.querySelector('#stop-orient .num').innerText === 'no scale'",
    )
    .await
    .unwrap();
    select_one(&client, 0, false).await;
    click(&client, "#make-origin").await;
    select_one(&client, 2, true).await;
    state(&client, "#metres", "1.5").await;
    click(&client, "#make-distance").await;
    until(
        &client,
        "document.querySelector('#unit').innerText === 'metre'",
    )
    .await
    .unwrap();
    // By hand, with the arrow keys: one statement more, in which every key counts; switched off it does not.
    click(&client, "#by-hand-open").await;
    click(&client, "#handle-turn").await;
    for _ in 0..3 {
        key(&client, "ArrowRight").await;
    }
    let last = "[...document.querySelectorAll('#statements tr')].at(-1).innerText";
    until(
        &client,
        &format!("{last}.includes('by hand: turned 0 3 0°')"),
    )
    .await
    .unwrap();
    // Over the plate the same handle takes the origin along with the pointer, and the world goes the other way.
    let knob = "const v = document.querySelector('[x-data]')._x_dataStack[0].shot.page.plateView; const handle = v.scene().overlay?.handle; if (!handle) return null; const [x, y] = v.viewport.plateToScreen(...handle.parts[1].at); const r = v.canvas.getBoundingClientRect(); return [x + r.x, y + r.y, document.querySelector('[x-data]')._x_dataStack[0].shot.state.statements.at(-1).shift_m[1]]";
    until(&client, &format!("(() => {{ {knob} }})()"))
        .await
        .unwrap();
    let at = client
        .execute(&format!("return (() => {{ {knob} }})()"), vec![])
        .await
        .unwrap();
    let [x, y, high] = [0, 1, 2].map(|k| at[k].as_f64().unwrap());
    pull(&client, (x, y), (x, y - 20.0)).await.unwrap();
    let lowered = format!("(() => {{ {knob} }})()?.[2] < {high}");
    until(&client, &lowered).await.unwrap();
    until(
        &client,
        &format!("Math.abs((() => {{ {knob} }})()?.[1] - {}) < 4", y - 20.0),
    )
    .await
    .unwrap();
    click(&client, "#undo").await;
    until(
        &client,
        &format!("{last}.includes('turned 0 3 0°') && !{last}.includes('shifted')"),
    )
    .await
    .unwrap();
    // The handle in space does the same: its upright arm lifts the world, in the same statement.
    let knob = "const v = document.querySelector('[x-data]')._x_dataStack[0].shot.page.spaceView; const [x, y] = v.handles[0].screen(v.handles[0].group.position.clone().set(0, 1, 0)); const r = v.canvas.getBoundingClientRect(); return [x + r.x, y + r.y]";
    let at = client.execute(knob, vec![]).await.unwrap();
    let (x, y) = (at[0].as_f64().unwrap(), at[1].as_f64().unwrap());
    pull(&client, (x, y), (x, y - 25.0)).await.unwrap();
    until(
        &client,
        &format!("/by hand: turned 0 3 0°, shifted 0 [0-9.]+ 0/.test({last})"),
    )
    .await
    .unwrap();
    // A key that is let go during a drag ends nothing: it stays one statement, of the whole drag.
    let begun = "const v = document.querySelector('[x-data]')._x_dataStack[0].shot.page.spaceView; v.canvas.setPointerCapture = () => {}; const [x, y] = v.handles[0].screen(v.handles[0].group.position.clone().set(0, 1, 0)); const r = v.canvas.getBoundingClientRect(); const to = (type, dy) => v.canvas.dispatchEvent(new PointerEvent(type, { clientX: x + r.x, clientY: y + r.y + dy, button: 0, pointerId: 1, bubbles: true })); to('pointerdown', 0); to('pointermove', -10); window.dispatchEvent(new KeyboardEvent('keyup', { key: 'Alt' })); to('pointermove', -30); to('pointerup', -30); return document.querySelectorAll('#statements tr').length";
    let lifted = client.execute(&format!("return {last}"), vec![]).await;
    let lifted = lifted.unwrap();
    let count = client.execute(begun, vec![]).await.unwrap();
    until(&client, &format!("{last} !== {lifted}"))
        .await
        .unwrap();
    let now = "return document.querySelectorAll('#statements tr').length";
    assert_eq!(client.execute(now, vec![]).await.unwrap(), count);
    click(&client, "#handle-turn").await;
    click(&client, "#statements tr:last-child button.slim").await;
    until(&client, &format!("{last}.includes('off')"))
        .await
        .unwrap();
    // A rail over the plate: drawn, said to run up, taken back.
    click(&client, "#draw-rail").await;
    drag(&client, (0.3, 0.25), (0.31, 0.6)).await;
    until(&client, "!document.querySelector('#edge-horizon').disabled")
        .await
        .unwrap();
    click(&client, "#edge-up").await;
    until(&client, &format!("{last}.includes('runs up')"))
        .await
        .unwrap();
    click(&client, "#undo").await;
    until(&client, &format!("{last}.includes('by hand')"))
        .await
        .unwrap();

    // Proof: a box on a landmark.
    click(&client, "#stop-proof").await;
    select_one(&client, 1, false).await;
    click(&client, "#stand-on").await;
    until(
        &client,
        "document.querySelector('#stop-proof .num').innerText === '1 guest'",
    )
    .await
    .unwrap();
    // How far it is expected to slip is said beside it, and drawn over the picture.
    until(
        &client,
        "document.querySelector('#slip-said').innerText.startsWith('CG here slips by ')",
    )
    .await
    .unwrap();
    click(&client, "#slip-over").await;
    until(
        &client,
        "document.querySelector('[x-data]')._x_dataStack[0].proof.fieldShown()",
    )
    .await
    .unwrap();

    // Deliver and read the receipt; a reload finds it still there.
    click(&client, "#stop-deliver").await;
    click(&client, "#deliver").await;
    until(&client, "document.querySelector('#files-agree')")
        .await
        .unwrap();
    client.refresh().await.unwrap();
    until(&client, "document.querySelector('#files-agree')")
        .await
        .unwrap();
    assert!(
        text(&client, "#files-agree")
            .await
            .contains("agree with the solve")
    );
    assert_eq!(text(&client, "#receipt-rate").await, "24000/1001");
    assert_eq!(text(&client, "#receipt-unit").await, "metre");
    client.close().await.unwrap();
}
