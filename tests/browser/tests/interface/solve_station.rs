//! The Solve station: a limit is looked at before it is set, two attempts stand beside each other, features are
//! found in a table, a smoother camera says its cost, and a survey puts the world in metres.

use browser_tests::{
    application, browser, click, follow_and_solve, open_walk, solved, state, text, until,
};
use fantoccini::{Client, Locator};
use parallax_demo::plates::{self, Coding};
use parallax_demo::trial::Trial;
use serde_json::Value;

async fn read(client: &Client, script: &str) -> Value {
    client.execute(script, vec![]).await.unwrap()
}

/// Types into a field, without leaving it.
async fn typed(client: &Client, selector: &str, value: &str) {
    let field = client.find(Locator::Css(selector)).await.unwrap();
    field.clear().await.unwrap();
    field.send_keys(value).await.unwrap();
}

/// Whether every camera lies within the view of space.
const PATH_IS_SEEN: &str = "(() => {
    const view = document.querySelector('[x-data]')?._x_dataStack?.[0].shot?.page?.spaceView;
    const at = view?.camera.position.clone();
    const isSeen = ({ matrix: m }) => {
        const { x, y } = at.set(m[12], m[13], m[14]).project(view.camera);
        return Math.max(Math.abs(x), Math.abs(y)) < 1;
    };
    return view?.world?.cameras.length && view.world.cameras.every(isSeen);
})()";

#[tokio::test(flavor = "multi_thread")]
async fn an_artist_tries_a_limit_smoothing_and_a_survey() {
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
    plates::write_trial(&trial, &root.path().join("walk"), Coding::Png).unwrap();
    let address = application(data.path(), root.path()).await.unwrap();
    let (_driver, client) = browser(profile.path()).await.unwrap();
    open_walk(&client, &address, "plate").await.unwrap();
    follow_and_solve(&client, "25").await.unwrap();

    // All of the path is seen, also where the view is laid out after what it shows has come.
    until(&client, PATH_IS_SEEN).await.unwrap();
    client.refresh().await.unwrap();
    until(&client, PATH_IS_SEEN).await.unwrap();

    // What a limit would drop is there before it is set, and a word is no limit.
    typed(&client, "#limit", "0.2").await;
    until(
        &client,
        "/drops \\d+ features? of/.test(document.querySelector('#limit-said').innerText)",
    )
    .await
    .unwrap();
    state(&client, "#limit", "little").await;
    until(&client, "document.querySelector('#error').innerText")
        .await
        .unwrap();
    let limit = "return document.querySelector('[x-data]')._x_dataStack[0].shot.state.limit_px";
    assert_eq!(read(&client, limit).await, Value::Null);
    state(&client, "#limit", "0.2").await;
    // What is stale says so first, and moves what stands below it.
    until(
        &client,
        "document.querySelector('#stop-solve').className.includes('stale')",
    )
    .await
    .unwrap();
    click(&client, "#solve-again").await;
    until(
        &client,
        "document.querySelectorAll('#attempts tr').length === 2",
    )
    .await
    .unwrap();
    solved(&client).await.unwrap();

    // Two attempts beside each other, and back to the first.
    click(&client, "#attempts tr:not(.current) .beside").await;
    until(&client, "document.querySelector('#beside')")
        .await
        .unwrap();
    assert!(text(&client, "#differs").await.contains("the limit"));
    click(&client, "#swap-attempts").await;
    until(
        &client,
        "document.querySelector('#beside')?.innerText.includes('attempt 2')",
    )
    .await
    .unwrap();

    // The table leads with the worst, and a click on a name selects it everywhere.
    let column = "return [...document.querySelectorAll('#features tr')].slice(1, 9).map(r => Number(r.cells[1].innerText))";
    let px: Vec<f64> = serde_json::from_value(read(&client, column).await).unwrap();
    assert!(px.len() == 8 && px.is_sorted_by(|a, b| a >= b), "{px:?}");
    click(&client, "#features .feature-name").await;
    let first = text(&client, "#features .feature-name").await;
    until(
        &client,
        &format!("document.querySelector('#selection').innerText === '{first}'"),
    )
    .await
    .unwrap();

    // Smoothing says its cost, and nothing is kept by asking.
    click(&client, "#smoothing").await;
    typed(&client, "#smooth-turn", "0.001").await;
    click(&client, "#smooth-try").await;
    until(
        &client,
        "/from 0\\.\\d+ to \\d+\\.\\d+ px/.test(document.querySelector('#smooth-said').innerText)",
    )
    .await
    .unwrap();
    assert_eq!(
        read(
            &client,
            "return document.querySelectorAll('#attempts tr').length"
        )
        .await,
        2
    );

    known_lengths(&client).await;
    survey(&client).await;
    client.close().await.unwrap();
}

/// Landmarks that many frames see, at these shares of their list: track and place.
async fn landmarks<const N: usize>(client: &Client, shares: [f64; N]) -> Vec<(u32, [f64; 3])> {
    let script = format!(
        "const p = document.querySelector('[x-data]')._x_dataStack[0];
        const long = new Map(p.tracks.list.map((t) => [t.id, t.frames.length]));
        const points = p.shot.page.world.points.filter(([id]) => long.get(id) > 20);
        const at = (share) => points[Math.floor(share * points.length)];
        return {shares:?}.map((share) => at(share)).map(([id, x, y, z]) => [id, [x, y, z]]);"
    );
    serde_json::from_value(read(client, &script).await).unwrap()
}

/// Selects features everywhere.
async fn select(client: &Client, ids: &[u32]) {
    let page = "document.querySelector('[x-data]')._x_dataStack[0]";
    read(client, &format!("{page}.selection.pick({ids:?}, false)")).await;
}

/// Lengths between two pairs of features, three times what the solve has, are stated and hold; a plane needs four
/// features.
async fn known_lengths(client: &Client) {
    click(client, "#constraints-open").await;
    let ends = landmarks(client, [0.05, 0.6, 0.3, 0.9]).await;
    for (k, pair) in ends.chunks(2).enumerate() {
        let [(one, p), (other, q)] = [pair[0], pair[1]];
        let squares = p.iter().zip(&q).map(|(p, q)| (p - q).powi(2));
        let metres = 3.0 * squares.sum::<f64>().sqrt();
        select(client, &[one, other]).await;
        assert_eq!(
            read(
                client,
                "return document.querySelector('#constraint-plane').disabled"
            )
            .await,
            Value::Bool(true)
        );
        typed(client, "#constraint-m", &format!("{metres:.4}")).await;
        typed(client, "#constraint-sigma", "20").await;
        click(client, "#constraint-length").await;
        let rows = format!(
            "document.querySelectorAll('#constraints tr').length === {}",
            k + 1
        );
        until(client, &rows).await.unwrap();
    }
    assert!(text(client, "#constraints").await.contains("± 20 mm"));
    until(
        client,
        "document.querySelector('#stop-solve').className.includes('stale')",
    )
    .await
    .unwrap();
    click(client, "#solve-again").await;
    until(
        client,
        "[...document.querySelectorAll('#constraints tr')].every((r) => / mm$/.test(r.cells[1].innerText))",
    )
    .await
    .unwrap();
    solved(client).await.unwrap();
    let off = "return [...document.querySelectorAll('#constraints tr')].map((r) => parseFloat(r.cells[1].innerText.replace('\\u2212', '-')))";
    let off: Vec<f64> = serde_json::from_value(read(client, off).await).unwrap();
    assert!(off.iter().all(|mm| mm.abs() < 60.0), "{off:?}");
}

/// Four features whose places are four times what the solve has are typed in and hold the world.
async fn survey(client: &Client) {
    click(client, "#survey-open").await;
    let places = landmarks(client, [0.0, 0.25, 0.5, 0.75]).await;
    for (k, (id, [x, y, z])) in places.into_iter().enumerate() {
        select(client, &[id]).await;
        typed(client, "#survey-name", &format!("mark {k}")).await;
        typed(
            client,
            "#survey-at",
            &format!("{:.4} {:.4} {:.4}", 4.0 * x, 4.0 * y, 4.0 * z),
        )
        .await;
        typed(client, "#survey-sigma", "20").await;
        click(client, "#survey-add").await;
        let rows = format!(
            "document.querySelectorAll('#survey tr').length === {}",
            k + 1
        );
        until(client, &rows).await.unwrap();
    }
    click(client, "#solve-again").await;
    // Known lengths have given the world its metres before.
    until(
        client,
        "[...document.querySelectorAll('#survey tr')].every((r) => r.cells[1].innerText.endsWith(' mm'))",
    )
    .await
    .unwrap();
    solved(client).await.unwrap();
    let off =
        "return [...document.querySelectorAll('#survey tr')].map((r) => r.cells[1].innerText)";
    let off: Vec<String> = serde_json::from_value(read(client, off).await).unwrap();
    assert!(off.iter().all(|o| o.ends_with(" mm")), "{off:?}");
}
