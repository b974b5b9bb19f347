//! What every browser test begins with: a folder, a server on it, a browser, and a page on that.

use tempfile::TempDir;

use crate::{Browser, Page, Server};

/// The app and a browser in front of it.
pub struct App {
    /// The page: plain, for machines that draw in software.
    pub page: Page,
    /// The browser, for what is downloaded.
    pub browser: Browser,
    /// The server.
    pub server: Server,
    /// The folder of the data, and for files that a test makes.
    pub data: TempDir,
}

impl App {
    /// Starts all of it on an empty folder.
    ///
    /// # Panics
    /// As [`Server::on`] and [`Browser::start`].
    pub async fn start() -> App {
        let data = tempfile::tempdir().expect("a folder can be made");
        let server = Server::on(data.path());
        let browser = Browser::start().await;
        let page = browser.page(&server.url, true);
        App { data, server, page, browser }
    }

    /// Ends the test: fails when the page has complained.
    ///
    /// # Panics
    /// When it has.
    pub async fn end(self) {
        self.page.assert_quiet().await;
    }
}
