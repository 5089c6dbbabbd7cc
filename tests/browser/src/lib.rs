//! What an artist does, in the real interface: the application in this process, ChromeDriver
//! and Chromium beside it.
#![cfg_attr(test, allow(clippy::unwrap_used))]

use fantoccini::actions::{InputSource, MouseActions, PointerAction};
use fantoccini::{Client, ClientBuilder, Locator};
use hyper_util::client::legacy::connect::HttpConnector;
use parallax_web::Config;
use serde_json::{Value, json};
use std::path::Path;
use std::process::{Child, Command, Stdio};
use std::time::{Duration, Instant};

/// Longest wait for anything, on a slow machine.
pub const PATIENCE: Duration = Duration::from_secs(240);

/// The driver process, ended with the test.
pub struct Driver(Child);

impl Drop for Driver {
    fn drop(&mut self) {
        // It may have ended by itself; there is nothing to do about that.
        let _ = self.0.kill();
        let _ = self.0.wait();
    }
}

type Outcome<T> = Result<T, Box<dyn std::error::Error>>;

/// Starts the application; its address.
pub async fn application(data: &Path, plates: &Path) -> Outcome<String> {
    let config = Config {
        host: "127.0.0.1".to_owned(),
        port: 0,
        data: data.to_owned(),
        plates: Some(plates.to_owned()),
        demo: Vec::new(),
        lenses: Vec::new(),
        models: vec![("brass orrery".to_owned(), parallax_demo::orrery::mesh())],
        view_bytes: parallax_web::USUAL_VIEW_BYTES,
    };
    let (server, address, _app) = parallax_web::start(config).await?;
    tokio::spawn(server);
    Ok(address)
}

/// A browser with a page of 1280x800.
pub async fn browser(profile: &Path) -> Outcome<(Driver, Client)> {
    let port = std::net::TcpListener::bind("127.0.0.1:0")?
        .local_addr()?
        .port();
    let child = Command::new("chromedriver")
        .arg(format!("--port={port}"))
        .stdout(Stdio::null())
        .stderr(Stdio::null())
        .spawn()?;
    let driver = Driver(child);
    let arguments = [
        "--headless=new",
        "--no-sandbox",
        "--disable-dev-shm-usage",
        "--window-size=1280,800",
        "--force-device-scale-factor=1",
        "--hide-scrollbars",
        "--disable-background-networking",
        "--disable-component-update",
        "--disable-sync",
        "--disable-extensions",
        "--no-first-run",
        "--enable-unsafe-swiftshader",
        "--host-resolver-rules=MAP * ~NOTFOUND , EXCLUDE 127.0.0.1",
    ];
    let mut all: Vec<String> = arguments.iter().map(|a| (*a).to_owned()).collect();
    all.push(format!("--user-data-dir={}", profile.display()));
    let capabilities =
        json!({ "goog:chromeOptions": { "args": all }, "goog:loggingPrefs": { "browser": "ALL" } });
    let Value::Object(capabilities) = capabilities else {
        return Err("capabilities".into());
    };
    let begun = Instant::now();
    loop {
        let connected = ClientBuilder::new(HttpConnector::new())
            .capabilities(capabilities.clone())
            .connect(&format!("http://127.0.0.1:{port}"))
            .await;
        match connected {
            Ok(client) => {
                client.set_window_size(1280, 890).await?;
                return Ok((driver, client));
            }
            Err(error) if begun.elapsed() > Duration::from_secs(60) => return Err(error.into()),
            Err(_) => tokio::time::sleep(Duration::from_millis(200)).await,
        }
    }
}

/// Waits until a script answers true.
pub async fn until(client: &Client, script: &str) -> Outcome<()> {
    let begun = Instant::now();
    loop {
        if client
            .execute(&format!("return !!({script})"), vec![])
            .await?
            == json!(true)
        {
            return Ok(());
        }
        if begun.elapsed() > PATIENCE {
            let page = client
                .execute("return document.body.innerText", vec![])
                .await?;
            return Err(format!("never came true: {script}\n{page}").into());
        }
        tokio::time::sleep(Duration::from_millis(100)).await;
    }
}

/// Clicks what a selector names once it is there, in sight, enabled and at rest. The page shows what it shows with the
/// next picture that it draws, and draws a list anew when it changes: a click that falls between is made again.
pub async fn click(client: &Client, selector: &str) {
    let begun = Instant::now();
    // What an answer of the server moves is not clicked until it rests.
    let rests = "const {x, y} = e.getBoundingClientRect(); const was = window.stood; window.stood = `${x} ${y}`; return was === window.stood;";
    let there = "if (!e || e.disabled || !e.checkVisibility()) return false;";
    let ready = format!("((e) => {{ {there} {rests} }})(document.querySelector('{selector}'))");
    let _ = client.execute("window.stood = null", vec![]).await;
    loop {
        if let Err(error) = until(client, &ready).await {
            panic!("{selector}: {error}");
        }
        let clicked = async { client.find(Locator::Css(selector)).await?.click().await };
        match clicked.await {
            Ok(()) => return,
            Err(error)
                if error.is_stale_element_reference() || error.is_element_not_interactable() =>
            {
                assert!(
                    begun.elapsed() < PATIENCE,
                    "{selector} cannot be clicked: {error}"
                );
            }
            Err(error) => panic!("{selector} cannot be clicked: {error}"),
        }
    }
}

/// Waits until undo names what was done last.
pub async fn last_done(client: &Client, what: &str) -> Outcome<()> {
    until(
        client,
        &format!("document.querySelector('#undo').title.includes('{what}')"),
    )
    .await
}

/// Opens the folder `walk` as the first shot, at a station.
pub async fn open_walk(client: &Client, address: &str, station: &str) -> Outcome<()> {
    client.goto(address).await?;
    let script = "return fetch('/api/shots', {method: 'POST', headers: {'content-type': 'application/json'}, body: JSON.stringify({folder: 'walk'})}).then(a => a.status)";
    let status = client.execute(script, vec![]).await?;
    if status != json!(201) {
        return Err(format!("the shot is not opened: {status}").into());
    }
    client.goto(&format!("{address}/shots/1#{station}")).await?;
    until(client, "document.querySelector('#rate')").await
}

/// From an open plate to a solved camera, as an artist presses the buttons: rate, follow, solve.
pub async fn follow_and_solve(client: &Client, rate: &str) -> Outcome<()> {
    state(client, "#rate", rate).await;
    click(client, "#stop-track").await;
    click(client, "#follow").await;
    let followed = "document.querySelector('#stop-track').className.includes('good')";
    until(client, followed).await?;
    click(client, "#stop-solve").await;
    click(client, "#solve").await;
    solved(client).await
}

/// Waits until there is a camera and no work goes on.
pub async fn solved(client: &Client) -> Outcome<()> {
    let at_rest = "document.querySelector('#rms') && !document.querySelector('.work')";
    until(client, at_rest).await
}

/// Shows the frame so many from the first, 1 being the first, of a plate numbered from 1.
pub async fn seek(client: &Client, frame: usize) -> Outcome<()> {
    key(client, "Home").await;
    for _ in 1..frame {
        key(client, "ArrowRight").await;
    }
    let shown = format!("document.querySelector('#frame').innerText === '{frame}'");
    until(client, &shown).await
}

/// The text of what a selector names.
pub async fn text(client: &Client, selector: &str) -> String {
    let found = async { client.find(Locator::Css(selector)).await?.text().await };
    found
        .await
        .unwrap_or_else(|error| panic!("{selector} has no text: {error}"))
}

/// Drags from one point of the screen to another.
pub async fn pull(client: &Client, from: (f64, f64), to: (f64, f64)) -> Outcome<()> {
    let move_to = |x: f64, y: f64| PointerAction::MoveTo {
        duration: Some(Duration::from_millis(30)),
        x,
        y,
    };
    let actions = MouseActions::new("mouse".to_owned())
        .then(move_to(from.0, from.1))
        .then(PointerAction::Down { button: 0 })
        .then(move_to((from.0 + to.0) / 2.0, (from.1 + to.1) / 2.0))
        .then(move_to(to.0, to.1))
        .then(PointerAction::Up { button: 0 });
    Ok(client.perform_actions(actions).await?)
}

/// Types into a field and leaves it.
pub async fn state(client: &Client, selector: &str, value: &str) {
    let script = "const f = document.querySelector(arguments[0]); f.value = arguments[1]; f.dispatchEvent(new Event('input', {bubbles: true})); f.dispatchEvent(new Event('change', {bubbles: true}));";
    if let Err(error) = client
        .execute(script, vec![json!(selector), json!(value)])
        .await
    {
        panic!("{selector} does not take {value}: {error}");
    }
}

/// A point of a plate that fits its view, as shares of the picture, on the screen.
pub async fn on_screen(
    client: &Client,
    (width, height): (u32, u32),
    share: (f64, f64),
) -> (f64, f64) {
    let script = "const [w, h, x, y] = arguments; const r = document.querySelector('#plate').getBoundingClientRect(); const s = Math.min(r.width / w, r.height / h); return [r.left + (r.width - w * s) / 2 + w * s * x, r.top + (r.height - h * s) / 2 + h * s * y]";
    let arguments = [f64::from(width), f64::from(height), share.0, share.1]
        .map(|v| json!(v))
        .to_vec();
    let at = client.execute(script, arguments).await;
    let at = at
        .ok()
        .and_then(|at| Some((at[0].as_f64()?, at[1].as_f64()?)));
    at.unwrap_or_else(|| panic!("the plate is not on the screen"))
}

/// Presses and lets go at one point of the screen.
pub async fn press(client: &Client, at: (f64, f64)) -> Outcome<()> {
    let actions = MouseActions::new("mouse".to_owned())
        .then(PointerAction::MoveTo {
            duration: Some(Duration::from_millis(20)),
            x: at.0,
            y: at.1,
        })
        .then(PointerAction::Down { button: 0 })
        .then(PointerAction::Up { button: 0 });
    Ok(client.perform_actions(actions).await?)
}

/// Drags along a path of points of the screen.
pub async fn along(client: &Client, path: &[(f64, f64)]) -> Outcome<()> {
    let mut actions = MouseActions::new("mouse".to_owned());
    for (index, &(x, y)) in path.iter().enumerate() {
        actions = actions.then(PointerAction::MoveTo {
            duration: Some(Duration::from_millis(20)),
            x,
            y,
        });
        if index == 0 {
            actions = actions.then(PointerAction::Down { button: 0 });
        }
    }
    Ok(client
        .perform_actions(actions.then(PointerAction::Up { button: 0 }))
        .await?)
}

/// Presses a key, by its name in the page.
pub async fn key(client: &Client, name: &str) {
    let script = "window.dispatchEvent(new KeyboardEvent('keydown', {key: arguments[0], bubbles: true, cancelable: true})); window.dispatchEvent(new KeyboardEvent('keyup', {key: arguments[0], bubbles: true}))";
    // Handlers read the element that has the focus.
    let script = script.replace("window.dispatch", "document.body.dispatch");
    if let Err(error) = client.execute(&script, vec![json!(name)]).await {
        panic!("{name} cannot be pressed: {error}");
    }
}
