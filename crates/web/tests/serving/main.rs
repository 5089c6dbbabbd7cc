//! A real server and plain requests to it, in one program, so that it is built once and two tests run at a time.
//! Those of a station are beside what they test.
#![allow(clippy::unwrap_used)]

mod assets;
mod hostile;
mod running;
mod server;

#[path = "../../src/screens/deliver/tests.rs"]
mod deliver;
#[path = "../../src/screens/track/exchange_tests.rs"]
mod exchange;
#[path = "../../src/screens/lens/tests.rs"]
mod lens;
#[path = "../../src/screens/orient/tests.rs"]
mod orient;
#[path = "../../src/screens/page/tests.rs"]
mod page;
#[path = "../../src/screens/photo/tests.rs"]
mod photo;
#[path = "../../src/screens/plate/tests.rs"]
mod plate;
#[path = "../../src/screens/proof/tests.rs"]
mod proof;
#[path = "../../src/screens/solve/tests.rs"]
mod solve;
#[path = "../../src/screens/start/tests.rs"]
mod start;
#[path = "../../src/screens/track/tests.rs"]
mod track;
