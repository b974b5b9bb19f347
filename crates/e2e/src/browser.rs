//! ChromeDriver and Chromium: started once for all tests of a process, a fresh window for each, and cleared away whatever happens to them.

use std::io::{BufRead, BufReader};
use std::os::unix::process::CommandExt;
use std::process::{Child, Command, Stdio};
use std::sync::{Arc, LazyLock, Mutex as Cell};
use std::time::Duration;

use serde_json::json;
use tempfile::TempDir;
use thirtyfour::prelude::*;
use thirtyfour::{ChromiumLikeCapabilities, LoggingPrefsLogLevel, WindowHandle};
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

/// ChromeDriver in a process group of its own, which a watchdog kills with everything in it when this is dropped or the tests end, however they do; the profile goes with it.
struct DriverProcess {
    child: Child,
    watchdog: Child,
    url: String,
}

impl DriverProcess {
    fn start(profile: &std::path::Path) -> DriverProcess {
        let mut child = Command::new("chromedriver")
            .arg("--port=0")
            .process_group(0)
            .stdout(Stdio::piped())
            .stderr(Stdio::null())
            .spawn()
            .expect("chromedriver is installed (Debian packages chromium and chromium-driver)");
        // The watchdog's input ends when this process does.
        let watchdog = Command::new("bash")
            .args(["-c", "read _; kill -9 -- \"-$0\"; rm -rf \"$1\"", &child.id().to_string()])
            .arg(profile)
            .process_group(0)
            .stdin(Stdio::piped())
            .stdout(Stdio::null())
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

/// Chromium, kept from test to test: in a new one the page's shaders are compiled anew, which takes longer than most tests.
struct Kept {
    driver: WebDriver,
    /// An empty window that holds the browser open between two tests.
    home: WindowHandle,
    /// Where pages were opened: what these keep in the browser is cleared before the next test.
    origins: Arc<Cell<Vec<String>>>,
    _process: DriverProcess,
    _profile: TempDir,
}

impl Kept {
    async fn start() -> Kept {
        let profile = tempfile::tempdir().expect("a profile folder can be made");
        let process = DriverProcess::start(profile.path());
        let mut caps = DesiredCapabilities::chrome();
        for flag in FLAGS {
            caps.add_arg(flag).expect("flags are text");
        }
        caps.add_arg(&format!("--user-data-dir={}", profile.path().display())).expect("flags are text");
        caps.set_browser_log_level(LoggingPrefsLogLevel::All).expect("the log level is known");
        // Each test has a runtime of its own, with which the connections that it opened end: none is kept for the next one.
        let client = reqwest::Client::builder().pool_max_idle_per_host(0).timeout(Duration::from_secs(180)).build();
        let driver = WebDriver::builder(&process.url, caps)
            .client(client.expect("a client can be made"))
            .await
            .expect("Chromium starts");
        driver.set_script_timeout(Duration::from_secs(150)).await.expect("the timeout is taken");
        let home = driver.window().await.expect("there is a window");
        Kept { driver, home, origins: Arc::default(), _process: process, _profile: profile }
    }

    /// Clears what the last test left, and opens a window of [`SIZE`] whose downloads land in a folder.
    async fn fresh(&self, downloads: &std::path::Path) -> WebDriverResult<()> {
        let tools = self.driver.cdp();
        self.driver.switch_to_window(self.home.clone()).await?;
        for window in self.driver.windows().await? {
            if window != self.home {
                tools.send_raw("Target.closeTarget", json!({"targetId": window.to_string()})).await?;
            }
        }
        let origins = std::mem::take(&mut *self.origins.lock().expect("no test panics while it holds this"));
        for origin in origins {
            let all = json!({"origin": origin, "storageTypes": "all"});
            tools.send_raw("Storage.clearDataForOrigin", all).await?;
        }
        let window = self.driver.new_window().await?;
        self.driver.switch_to_window(window).await?;
        self.driver.browser_log().await?;
        let metrics = json!({"width": SIZE[0], "height": SIZE[1], "deviceScaleFactor": 1, "mobile": false});
        tools.send_raw("Emulation.setDeviceMetricsOverride", metrics).await?;
        tools.send_raw("Network.clearBrowserCache", json!({})).await?;
        let into = json!({"behavior": "allow", "downloadPath": downloads});
        tools.send_raw("Browser.setDownloadBehavior", into).await?;
        Ok(())
    }
}

/// A window of [`SIZE`] in a headless browser, which is one test's as long as this lives.
pub struct Browser {
    driver: WebDriver,
    origins: Arc<Cell<Vec<String>>>,
    downloads: TempDir,
    _alone: OwnedMutexGuard<Option<Kept>>,
}

/// The browser, one test's at a time: one that draws in software takes two cores nearly whole, so that two at a time take as long, and wait in vain now and then.
static ALONE: LazyLock<Arc<Mutex<Option<Kept>>>> = LazyLock::new(Arc::default);

impl Browser {
    /// A fresh window, when no other one of this process is used any more; in a new browser when there is none, or it doesn't answer.
    ///
    /// # Panics
    /// When Chromium or ChromeDriver are missing or don't start.
    pub async fn start() -> Browser {
        let mut alone = ALONE.clone().lock_owned().await;
        let downloads = tempfile::tempdir().expect("a download folder can be made");
        let mut ready = false;
        if let Some(kept) = &*alone {
            ready = kept.fresh(downloads.path()).await.is_ok();
        }
        if !ready {
            // The old one goes first.
            *alone = None;
            let kept = Kept::start().await;
            kept.fresh(downloads.path()).await.expect("a window can be opened");
            *alone = Some(kept);
        }
        let kept = alone.as_ref().expect("it was started");
        Browser { driver: kept.driver.clone(), origins: kept.origins.clone(), downloads, _alone: alone }
    }

    /// The window, on the app at `url`. With `plain`, it draws cheaply.
    pub fn page(&self, url: &str, plain: bool) -> Page {
        self.origins.lock().expect("no test panics while it holds this").push(url.to_owned());
        Page::new(self.driver.clone(), url, plain)
    }

    /// Where downloads land.
    pub fn downloads(&self) -> &std::path::Path {
        self.downloads.path()
    }
}
