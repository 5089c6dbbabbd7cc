//! How the camera moves, as an artist finds and states it: a turn on the spot that zooms.

use browser_tests::{application, browser, click, open_walk, state, text, until};
use fantoccini::Client;
use parallax_demo::plates::{self, Coding};
use parallax_demo::trial::{Move, Trial};

/// What the strip shows, as a picture.
async fn strip(client: &Client) -> String {
    let script = "return document.querySelector('#strip').toDataURL()";
    let picture = client.execute(script, vec![]).await.unwrap();
    picture.as_str().unwrap().to_owned()
}

#[tokio::test(flavor = "multi_thread")]
async fn a_turn_is_found_stated_otherwise_and_taken_back() {
    let (data, root, profile) = (
        tempfile::tempdir().unwrap(),
        tempfile::tempdir().unwrap(),
        tempfile::tempdir().unwrap(),
    );
    let trial = Trial {
        camera: Move::Turn,
        zoom: 1.2,
        ..Trial::small(24)
    };
    let folder = root.path().join("walk");
    plates::write_trial(&trial, &folder, Coding::Png).unwrap();
    let address = application(data.path(), root.path()).await.unwrap();
    let (_driver, client) = browser(profile.path()).await.unwrap();
    open_walk(&client, &address, "plate").await.unwrap();
    state(&client, "#rate", "25").await;
    click(&client, "#stop-track").await;
    state(&client, "#count", "250").await;
    state(&client, "#pattern", "15").await;
    click(&client, "#follow").await;
    until(
        &client,
        "document.querySelector('#stop-track').className.includes('good')",
    )
    .await
    .unwrap();

    // Nobody states the move: it is found out, with its evidence.
    let shown = "document.querySelector('#move').selectedOptions[0].text";
    until(&client, &format!("{shown} === 'find out'"))
        .await
        .unwrap();
    click(&client, "#stop-solve").await;
    click(&client, "#solve").await;
    until(&client, &format!("{shown} === 'found: turns on the spot'"))
        .await
        .unwrap();
    let notes = text(&client, ".notes").await;
    assert!(notes.contains("The camera turns on the spot"), "{notes}");
    assert!(
        notes.contains("The focal length changes, between"),
        "{notes}"
    );
    assert!(text(&client, "#solved-focal").await.contains('–'));

    // The strip shows what was chosen of the camera, each otherwise.
    let mut seen = vec![strip(&client).await];
    for curve in ["position", "rotation", "focal"] {
        state(&client, "#curve", curve).await;
        let now = strip(&client).await;
        assert!(!seen.contains(&now), "{curve} looks like another curve");
        seen.push(now);
    }

    // Stated to travel it is stale, and undo takes that back.
    state(&client, "#move", "free").await;
    until(
        &client,
        "document.querySelector('#stop-solve').className.includes('stale')",
    )
    .await
    .unwrap();
    assert!(text(&client, ".notes").await.contains("Solve again"));
    click(&client, "#undo").await;
    until(&client, &format!("{shown} === 'found: turns on the spot'"))
        .await
        .unwrap();
    until(
        &client,
        "document.querySelector('#stop-solve').className.includes('good')",
    )
    .await
    .unwrap();
    client.close().await.unwrap();
}
