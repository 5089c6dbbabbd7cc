//! The application in the browser: stations, API and background work.
