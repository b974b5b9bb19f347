//! Dust Coat's server and command line: the core's rules, kept in SQLite, served over HTTP.
//!
//! [`db`] keeps, [`app`] ties database, core and caches together without knowing of HTTP, [`http`] serves, [`cli`] are the commands,
//! [`views`] are the shapes that the page sees.

pub mod app;
pub mod cli;
pub mod db;
pub mod http;
pub mod types;
pub mod views;
