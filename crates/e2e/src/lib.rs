//! A browser and a server for tests that use the app as a person does.
//!
//! [`Server`] serves a folder in this process, [`Browser`] is a headless Chromium through ChromeDriver, and [`Page`] is what a test holds: it finds
//! controls by what is written on them, waits until the page says that it is settled, and looks at pixels.

mod browser;
mod page;
mod picture;
mod server;

pub use browser::Browser;
pub use page::Page;
pub use picture::{Picture, blue, red};
pub use server::Server;
