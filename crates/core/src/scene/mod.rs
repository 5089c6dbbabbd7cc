//! Putting the solved world where it belongs, and things into it.
