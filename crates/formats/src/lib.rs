//! Open formats, reader beside writer, and the delivery package with its receipt.
#![deny(missing_docs)]
#![cfg_attr(test, allow(clippy::unwrap_used))]

pub mod camera_json;
