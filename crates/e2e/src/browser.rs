//! ChromeDriver and Chromium: started, sized, and cleared away whatever happens to the test.

use std::io::{BufRead, BufReader};
use std::os::unix::process::CommandExt;
use std::process::{Child, Command, Stdio};
use std::sync::{Arc, LazyLock};
use std::time::Duration;

use serde_json::json;
use thirtyfour::prelude::*;
use thirtyfour::{ChromiumLikeCapabilities, LoggingPrefsLogLevel};
use tokio::sync::{Mutex, OwnedMutexGuard};

use crate::Page;

/// Width and height of the page in CSS pixels, one device pixel each.
pub const SIZE: [u32; 2] = [1280, 800];

const FLAGS: &[&str] = &[
    "--headless=new",
    "--no-sandbox",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    "--disable-search-engine-choice-screen",
    "--use-angle=gl-egl",
    "--ignore-gpu-blocklist",
    "--force-color-profile=srgb",
    "--force-prefers-reduced-motion",
    "--lang=en-GB",
];

/// ChromeDriver in a process group of its own, which is killed with everything in it when this is dropped, or by a watchdog when the test itself is killed.
struct DriverProcess {
    child: Child,
    watchdog: Child,
    url: String,
}

impl DriverProcess {
    fn start() -> DriverProcess {
        let mut child = Command::new("chromedriver")
            .arg("--port=0")
            .process_group(0)
            .stdout(Stdio::piped())
            .stderr(Stdio::null())
            .spawn()
            .expect("chromedriver is installed (Debian packages chromium and chromium-driver)");
        // The watchdog's input ends when this process does, however it ends.
        let watchdog = Command::new("bash")
            .args(["-c", "read _; kill -9 -- \"-$0\"", &child.id().to_string()])
            .process_group(0)
            .stdin(Stdio::piped())
            .stderr(Stdio::null())
            .spawn()
            .expect("bash is there");
        let mut lines = BufReader::new(child.stdout.take().expect("stdout is piped")).lines();
        let port = lines
            .by_ref()
            .map_while(Result::ok)
            .find_map(|l| l.split_once("successfully on port ").map(|(_, p)| p.trim_end_matches('.').to_owned()))
            .expect("chromedriver says its port");
        std::thread::spawn(move || lines.for_each(drop));
        DriverProcess { child, watchdog, url: format!("http://127.0.0.1:{port}") }
    }
}

impl Drop for DriverProcess {
    fn drop(&mut self) {
        drop(self.watchdog.stdin.take());
        let _ = self.watchdog.wait();
        let _ = self.child.wait();
    }
}

/// A headless browser with one tab of [`SIZE`].
pub struct Browser {
    driver: WebDriver,
    downloads: tempfile::TempDir,
    _profile: tempfile::TempDir,
    _process: DriverProcess,
    _alone: OwnedMutexGuard<()>,
}

/// One browser at a time: one that draws in software takes two cores nearly whole, so that two at a time take as long, and wait in vain now and then.
static ALONE: LazyLock<Arc<Mutex<()>>> = LazyLock::new(Arc::default);

impl Browser {
    /// Starts one, when no other one of this process is left.
    ///
    /// # Panics
    /// When Chromium or ChromeDriver are missing or don't start.
    pub async fn start() -> Browser {
        let alone = ALONE.clone().lock_owned().await;
        let process = DriverProcess::start();
        let profile = tempfile::tempdir().expect("a profile folder can be made");
        let downloads = tempfile::tempdir().expect("a download folder can be made");
        let mut caps = DesiredCapabilities::chrome();
        for flag in FLAGS {
            caps.add_arg(flag).expect("flags are text");
        }
        caps.add_arg(&format!("--user-data-dir={}", profile.path().display())).expect("flags are text");
        caps.set_browser_log_level(LoggingPrefsLogLevel::All).expect("the log level is known");
        let driver = WebDriver::builder(&process.url, caps)
            .request_timeout(Duration::from_secs(180))
            .await
            .expect("Chromium starts");
        driver.set_script_timeout(Duration::from_secs(150)).await.expect("the timeout is taken");
        let tools = driver.cdp();
        let metrics = json!({"width": SIZE[0], "height": SIZE[1], "deviceScaleFactor": 1, "mobile": false});
        tools.send_raw("Emulation.setDeviceMetricsOverride", metrics).await.expect("the size is taken");
        let into = json!({"behavior": "allow", "downloadPath": downloads.path()});
        tools.send_raw("Browser.setDownloadBehavior", into).await.expect("downloads are allowed");
        Browser { driver, downloads, _profile: profile, _process: process, _alone: alone }
    }

    /// The tab, on the app at `url`. With `plain`, it draws cheaply.
    pub fn page(&self, url: &str, plain: bool) -> Page {
        Page::new(self.driver.clone(), url, plain)
    }

    /// Where downloads land.
    pub fn downloads(&self) -> &std::path::Path {
        self.downloads.path()
    }
}
