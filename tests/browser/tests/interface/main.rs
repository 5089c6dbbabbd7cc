//! The real interface in a browser, in one program, so that it is built once and two tests run at a time.
#![allow(clippy::unwrap_used)]

mod deliver_station;
mod hands;
mod lens;
mod moves;
mod on_demand;
mod photograph;
mod proof_station;
mod scripts;
mod solve_station;
mod track_station;
mod walk;
