//! `serve` and `demo`: the application on loopback.

use crate::Failure;
use clap::Args;
use parallax_media::apart;
use parallax_web::Config;
use std::io::Write;
use std::path::{Path, PathBuf};
use std::time::Duration;
use tracing_subscriber::filter::{LevelFilter, Targets};
use tracing_subscriber::layer::SubscriberExt;
use tracing_subscriber::util::SubscriberInitExt;

/// Where to listen and what may be opened.
#[derive(Args)]
pub struct ServeArgs {
    /// Address to listen on.
    #[arg(long, default_value = "127.0.0.1")]
    host: String,
    /// Port; 0 takes a free one.
    #[arg(long, default_value_t = 7414)]
    port: u16,
    /// Folder for the database, uploads and viewing copies.
    #[arg(long, default_value = "true-parallax-data")]
    data: PathBuf,
    /// Folder below which plates may be opened.
    #[arg(long)]
    plates: Option<PathBuf>,
    /// Room for viewing copies on disk, MB; what was looked at least lately goes first.
    #[arg(long, default_value_t = parallax_web::USUAL_VIEW_BYTES >> 20)]
    view_cache_mb: u64,
}

/// Where to listen.
#[derive(Args)]
pub struct DemoArgs {
    /// Port; 0 takes a free one.
    #[arg(long, default_value_t = 7414)]
    port: u16,
    /// Folder for the database and viewing copies; kept from run to run.
    #[arg(long, default_value = "target/demo-data")]
    data: PathBuf,
}

/// Starts the application.
pub fn serve(args: ServeArgs) -> Result<(), Failure> {
    let ServeArgs {
        host,
        port,
        data,
        plates,
        view_cache_mb,
    } = args;
    let view_bytes = view_cache_mb.saturating_mul(1 << 20);
    listen(Config {
        host,
        port,
        data,
        plates,
        demo: Vec::new(),
        lenses: Vec::new(),
        models: Vec::new(),
        view_bytes,
    })
}

/// Starts the application with the demo shots.
pub fn demo(args: DemoArgs) -> Result<(), Failure> {
    let plates = parallax_demo::plates::shipped();
    let demo: Vec<_> = ["terrace-walk", "valley-pan", "reading-room", "wagon-pass"]
        .into_iter()
        .map(|name| (name.to_owned(), plates.join(name)))
        .collect();
    if let Some((name, folder)) = demo.iter().find(|(_, folder)| !folder.is_dir()) {
        return Err(Failure::unreadable(format!(
            "the demo plate {name} is not at {}; set TRUE_PARALLAX_DEMO to the folder that holds it",
            folder.display()
        )));
    }
    let (host, lenses) = (
        "127.0.0.1".to_owned(),
        parallax_demo::lenses::kept().to_vec(),
    );
    let view_bytes = parallax_web::USUAL_VIEW_BYTES;
    listen(Config {
        host,
        port: args.port,
        data: args.data,
        plates: Some(plates),
        demo,
        lenses,
        models: vec![("brass orrery".to_owned(), parallax_demo::orrery::mesh())],
        view_bytes,
    })
}

/// What the program is called with to decode pictures for the application.
pub const DECODING: &str = "decode-apart";

/// Decodes pictures for the application that asks for them.
pub fn decode() -> Result<(), Failure> {
    apart::answer_requests(std::io::stdin().lock(), std::io::stdout().lock())
        .map_err(Failure::unreadable)
}

fn listen(config: Config) -> Result<(), Failure> {
    let filter = std::env::var("RUST_LOG").ok().and_then(|f| f.parse().ok());
    let usual = || {
        Targets::new()
            .with_default(LevelFilter::INFO)
            .with_target("sqlx", LevelFilter::WARN)
    };
    tracing_subscriber::fmt()
        // A standard error that nobody reads any more must not end what writes to it.
        .log_internal_errors(false)
        .with_writer(std::io::stderr)
        .finish()
        .with(filter.unwrap_or_else(usual))
        .init();
    if let Ok(program) = std::env::current_exe() {
        apart::use_program(program, &[DECODING]);
    }
    let data = config.data.clone();
    let system = runtime()?;
    let served = system.block_on(async move {
        let (server, address, app) = parallax_web::start(config)
            .await
            .map_err(|e| could_not(&data, e.as_ref()))?;
        // Whoever started it may have closed its output; it is open all the same.
        let _ = writeln!(std::io::stdout(), "True Parallax is open at {address}");
        let served = server.await.map_err(Failure::unreadable);
        app.end();
        app.ended(MOST_TO_END).await;
        served
    });
    // Work that does not hear that it was cancelled is not waited for.
    system.shutdown_timeout(MOST_TO_END);
    served
}

/// Work is given so long to stop where it can go on.
const MOST_TO_END: Duration = Duration::from_millis(800);

fn runtime() -> Result<tokio::runtime::Runtime, Failure> {
    tokio::runtime::Builder::new_multi_thread()
        .enable_all()
        .build()
        .map_err(Failure::unreadable)
}

fn could_not(data: &Path, error: &dyn std::error::Error) -> Failure {
    Failure::unreadable(format!(
        "the application cannot start with its data in {}: {error}",
        data.display()
    ))
}
