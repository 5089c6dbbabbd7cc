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
    };
    let (server, address, _app) = parallax_web::start(config).await?;
    tokio::spawn(server);
    Ok(address)
}

/// A browser with a page of 1280x800.
pub async fn browser(profile: &Path) -> Outcome<(Driver, Client)> {
    let port = std::net::TcpListener::bind("127.0.0.1:0")?.local_addr()?.port();
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
    let capabilities = json!({ "goog:chromeOptions": { "args": all }, "goog:loggingPrefs": { "browser": "ALL" } });
    let Value::Object(capabilities) = capabilities else { return Err("capabilities".into()) };
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
        if client.execute(&format!("return !!({script})"), vec![]).await? == json!(true) {
            return Ok(());
        }
        if begun.elapsed() > PATIENCE {
            let page = client.execute("return document.body.innerText", vec![]).await?;
            return Err(format!("never came true: {script}\n{page}").into());
        }
        tokio::time::sleep(Duration::from_millis(100)).await;
    }
}

/// Clicks what a selector names once it is there and enabled.
pub async fn click(client: &Client, selector: &str) {
    let ready = format!("document.querySelector('{selector}') && !document.querySelector('{selector}').disabled");
    if let Err(error) = until(client, &ready).await {
        panic!("{selector}: {error}");
    }
    let clicked = async { client.find(Locator::Css(selector)).await?.click().await };
    if let Err(error) = clicked.await {
        panic!("{selector} cannot be clicked: {error}");
    }
}

/// The text of what a selector names.
pub async fn text(client: &Client, selector: &str) -> String {
    let found = async { client.find(Locator::Css(selector)).await?.text().await };
    found.await.unwrap_or_else(|error| panic!("{selector} has no text: {error}"))
}

/// Drags from one point of the screen to another.
pub async fn pull(client: &Client, from: (f64, f64), to: (f64, f64)) -> Outcome<()> {
    let move_to = |x: f64, y: f64| PointerAction::MoveTo { duration: Some(Duration::from_millis(30)), x, y };
    let actions = MouseActions::new("mouse".to_owned())
        .then(move_to(from.0, from.1))
        .then(PointerAction::Down { button: 0 })
        .then(move_to((from.0 + to.0) / 2.0, (from.1 + to.1) / 2.0))
        .then(move_to(to.0, to.1))
        .then(PointerAction::Up { button: 0 });
    Ok(client.perform_actions(actions).await?)
}
