//! The Orient station: the world upright and in metres.

pub mod statements;
pub mod view;
