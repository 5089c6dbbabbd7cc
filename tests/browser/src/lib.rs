//! What an artist does, in the real interface.
