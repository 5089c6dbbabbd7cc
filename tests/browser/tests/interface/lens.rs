//! The Lens station in the browser: mark straights along edges, drag a mark and take it back,
//! look at the plate undistorted, keep the lens, undistort and read the receipt.

use browser_tests::{application, browser, click, last_done, pull, text, until};
use fantoccini::Client;
use fantoccini::actions::{InputSource, KeyAction, KeyActions, MouseActions, PointerAction};
use fantoccini::key::Key;
use parallax_demo::board::{self, PANEL};
use serde_json::{Value, json};

const SIZE: (u32, u32) = (640, 360);

/// Where a place of the wall is on the screen.
async fn on_screen(client: &Client, x: f64, y: f64) -> (f64, f64) {
    let [px, py] = board::place(&board::lens(SIZE.0, SIZE.1), x, y);
    let script = "const r = document.querySelector('#plate').getBoundingClientRect(); const s = Math.min(r.width / 640, r.height / 360); return [r.left + (r.width - 640 * s) / 2 + s * arguments[0], r.top + (r.height - 360 * s) / 2 + s * arguments[1]]";
    let at: Value = client
        .execute(script, vec![json!(px), json!(py)])
        .await
        .unwrap();
    (at[0].as_f64().unwrap(), at[1].as_f64().unwrap())
}

/// Clicks on places of the wall with a real pointer and ends the straight with Enter.
async fn mark(client: &Client, places: &[(f64, f64)]) {
    let before = rows(client).await;
    for (x, y) in places {
        let (x, y) = on_screen(client, *x, *y).await;
        let actions = MouseActions::new("mouse".to_owned())
            .then(PointerAction::MoveTo {
                duration: None,
                x,
                y,
            })
            .then(PointerAction::Down { button: 0 })
            .then(PointerAction::Up { button: 0 });
        client.perform_actions(actions).await.unwrap();
    }
    press(client, char::from(Key::Enter)).await;
    let kept = format!(
        "document.querySelectorAll('#straights tr').length === {}",
        before + 1
    );
    until(client, &kept).await.unwrap();
}

/// Rows of the list of straights, its head included.
async fn rows(client: &Client) -> usize {
    let count = client
        .execute(
            "return document.querySelectorAll('#straights tr').length",
            vec![],
        )
        .await
        .unwrap();
    count.as_u64().unwrap() as usize
}

const ARROW_UP: char = '\u{e013}';

async fn press(client: &Client, key: char) {
    let keys = KeyActions::new("keys".to_owned())
        .then(KeyAction::Down { value: key })
        .then(KeyAction::Up { value: key });
    client.perform_actions(keys).await.unwrap();
}

/// A figure of the lens by its name, the number it begins with.
async fn figure(client: &Client, name: &str) -> f64 {
    let script = "const row = [...document.querySelectorAll('#lens-figures tr')].find((r) => r.cells[0].innerText === arguments[0]); return row.cells[1].innerText";
    let value = client.execute(script, vec![json!(name)]).await.unwrap();
    let text = value.as_str().unwrap();
    let text = text.replace('−', "-");
    text.split([' ', '±'])
        .find_map(|p| p.parse().ok())
        .unwrap_or_else(|| panic!("{name} is {text}"))
}

#[tokio::test(flavor = "multi_thread")]
async fn straights_make_the_plate_straight() {
    let (data, root, profile) = (
        tempfile::tempdir().unwrap(),
        tempfile::tempdir().unwrap(),
        tempfile::tempdir().unwrap(),
    );
    board::write(
        &board::lens(SIZE.0, SIZE.1),
        &root.path().join("board"),
        5,
        8,
    )
    .unwrap();
    let address = application(data.path(), root.path()).await.unwrap();
    let (_driver, client) = browser(profile.path()).await.unwrap();
    client.goto(&address).await.unwrap();
    until(
        &client,
        "[...document.querySelectorAll('button')].find((b) => b.innerText === 'board')",
    )
    .await
    .unwrap();
    client
        .execute(
            "[...document.querySelectorAll('button')].find((b) => b.innerText === 'board').click()",
            vec![],
        )
        .await
        .unwrap();
    until(&client, "document.querySelector('#open-folder')")
        .await
        .unwrap();
    click(&client, "#open-folder").await;
    until(&client, "document.querySelector('#stop-lens')")
        .await
        .unwrap();
    click(&client, "#stop-lens").await;

    // Without a lens there is nothing to undistort, and the page says so.
    click(&client, "#undistorted").await;
    until(
        &client,
        "document.querySelector('#error').innerText.includes('Nothing is known of the lens')",
    )
    .await
    .unwrap();

    // Five edges, three clicks on each: marks are added along the edge by themselves.
    for column in [-4.0, 3.0] {
        mark(
            &client,
            &[
                (column * PANEL, -0.2),
                (column * PANEL, 0.01),
                (column * PANEL, 0.2),
            ],
        )
        .await;
    }
    for row in [-2.0, 2.0, 1.0] {
        mark(
            &client,
            &[
                (-0.42, row * PANEL),
                (0.01, row * PANEL),
                (0.42, row * PANEL),
            ],
        )
        .await;
    }
    until(
        &client,
        "document.querySelector('#stop-lens').className.includes('good')",
    )
    .await
    .unwrap();
    let k1 = figure(&client, "k1").await;
    assert!((k1 + 0.15).abs() < 0.02, "k1 {k1}");
    let (before, after) = (
        figure(&client, "bent, as shot").await,
        figure(&client, "bent, with the lens").await,
    );
    assert!(before > 0.5 && after < 0.2, "{before} px, then {after} px");

    // A mark that is dragged off its edge bends its straight; undo takes it back.
    let (x, y) = on_screen(&client, -0.42, PANEL).await;
    let end = client
        .execute(
            "return document.querySelectorAll('#straights tr.current').length",
            vec![],
        )
        .await
        .unwrap();
    assert_eq!(end, json!(1), "the last straight is chosen");
    pull(&client, (x, y), (x, y + 14.0)).await.unwrap();
    last_done(&client, "move a mark").await.unwrap();
    assert!(figure(&client, "bent, with the lens").await > 2.0 * after);
    click(&client, "#undo").await;
    last_done(&client, "mark straight 5").await.unwrap();
    assert!((figure(&client, "bent, with the lens").await - after).abs() < 1e-9);

    // The same without a pointer: the marks of a straight are stepped through and nudged.
    press(&client, 'n').await;
    press(&client, 'm').await;
    press(&client, 'm').await;
    until(
        &client,
        "document.querySelector('#plate').ariaLabel.includes('straight 1, mark 2 of')",
    )
    .await
    .unwrap();
    press(&client, ARROW_UP).await;
    last_done(&client, "nudge a mark").await.unwrap();
    click(&client, "#undo").await;
    last_done(&client, "mark straight 5").await.unwrap();

    // Undistorted: the caption says so with its size, and the picture has changed.
    until(&client, "document.querySelector('#error').innerText === '' || document.querySelector('.said button')")
        .await
        .unwrap();
    press(&client, 'u').await;
    until(
        &client,
        "document.querySelector('#caption').innerText.includes('undistorted')",
    )
    .await
    .unwrap();
    let caption = text(&client, "#caption").await;
    let wide: u32 = caption
        .split("undistorted ")
        .nth(1)
        .unwrap()
        .split('×')
        .next()
        .unwrap()
        .parse()
        .unwrap();
    assert!(wide > 640 && wide.is_multiple_of(2), "{caption}");
    click(&client, "#keep-size").await;
    until(
        &client,
        "document.querySelector('#caption').innerText.includes('640×360, size kept')",
    )
    .await
    .unwrap();
    press(&client, 'u').await;
    until(
        &client,
        "document.querySelector('#caption').innerText.includes('as shot')",
    )
    .await
    .unwrap();

    // The lens is kept for other shots.
    click(&client, "#library summary").await;
    let typed = "for (const [id, v] of [['#label-lens', 'Terrace'], ['#label-focal', '27']]) { const f = document.querySelector(id); f.value = v; f.dispatchEvent(new Event('input', {bubbles: true})); }";
    client.execute(typed, vec![]).await.unwrap();
    until(&client, "!document.querySelector('#keep-lens').disabled")
        .await
        .unwrap();
    click(&client, "#keep-lens").await;
    until(
        &client,
        "document.querySelector('[id^=take-lens-]')?.innerText === 'Terrace · 27 mm'",
    )
    .await
    .unwrap();

    // The undistorted plate is delivered with its proof.
    click(&client, "#stop-deliver").await;
    click(&client, "#undistort").await;
    until(&client, "document.querySelector('#undistorted-proven')")
        .await
        .unwrap();
    assert!(
        text(&client, "#undistorted-proven")
            .await
            .contains("lead back to the plate")
    );
    let difference: f64 = text(&client, "#undistorted-difference")
        .await
        .trim_end_matches(" px")
        .parse()
        .unwrap();
    assert!(difference < 0.02);
    client.close().await.unwrap();
}
