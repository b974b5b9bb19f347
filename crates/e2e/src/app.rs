//! What every browser test begins with: a folder, a server on it, a browser, and a page on that.

use std::collections::BTreeMap;
use std::io::{Cursor, Read};
use std::path::PathBuf;

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

    /// The first download of some extension, once all of it is there.
    ///
    /// # Panics
    /// When none comes.
    pub async fn landed(&self, extension: &str) -> PathBuf {
        let landed = || {
            let all = std::fs::read_dir(self.browser.downloads()).expect("the folder is there").flatten();
            all.map(|f| f.path()).find(|p| p.extension().is_some_and(|e| e == extension))
        };
        self.page.until("the file has landed", async || landed().is_some()).await;
        landed().expect("it was waited for")
    }

    /// Writes the files of the Hand-off room, downloads them, and unpacks them by name.
    ///
    /// # Panics
    /// When they don't come, or the ZIP can't be read.
    pub async fn hand_off(&self) -> BTreeMap<String, Vec<u8>> {
        self.page.click("Write files").await;
        self.page.click("Download").await;
        let bytes = std::fs::read(self.landed("zip").await).expect("the file can be read");
        let mut archive = zip::ZipArchive::new(Cursor::new(bytes)).expect("it is a ZIP");
        let all = archive.len();
        let one = |i: usize| {
            let mut file = archive.by_index(i).expect("it is listed");
            let (name, mut bytes) = (file.name().expect("a name").into_owned(), vec![]);
            file.read_to_end(&mut bytes).expect("it is whole");
            (name, bytes)
        };
        (0..all).map(one).collect()
    }

    /// Ends the test: fails when the page has complained.
    ///
    /// # Panics
    /// When it has.
    pub async fn end(self) {
        self.page.assert_quiet().await;
    }
}
