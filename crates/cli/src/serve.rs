//! `serve` and `demo`: the application on loopback.

use crate::Failure;
use clap::Args;

/// Where to listen and what may be opened.
#[derive(Args)]
pub struct ServeArgs {}

/// Where to listen.
#[derive(Args)]
pub struct DemoArgs {}

/// Starts the application.
pub fn serve(_args: ServeArgs) -> Result<(), Failure> {
    Err(Failure::usage("not yet"))
}

/// Starts the application with the demo shots.
pub fn demo(_args: DemoArgs) -> Result<(), Failure> {
    Err(Failure::usage("not yet"))
}
