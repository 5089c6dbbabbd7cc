//! The Proof station: stand-ins in the plate.

pub mod view;
