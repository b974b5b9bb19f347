//! A browser and a server for tests that use the app as a person does.
//!
//! [`Server`] serves a folder in this process, [`Browser`] is a headless Chromium through ChromeDriver, and [`Page`] is what a test holds: it finds
//! controls by what is written on them, waits until the page says that it is settled, and looks at pixels.

mod app;
mod browser;
mod page;
mod picture;
mod server;

#[path = "../../server/tests/server/common/cube.rs"]
mod cube;

pub use app::App;
pub use browser::Browser;
pub use cube::cube;
pub use page::Page;
pub use picture::{Picture, blue, red};
pub use server::Server;
