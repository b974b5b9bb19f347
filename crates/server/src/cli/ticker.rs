//! A progress bar on a terminal; nothing where nobody looks.

use std::io::IsTerminal;
use std::sync::Mutex;

use indicatif::{ProgressBar, ProgressStyle};

/// Shows progress, unless standard error is no terminal or JSON was asked for.
pub struct Ticker(Option<Mutex<ProgressBar>>);

impl Ticker {
    /// A bar, or none.
    pub fn new(json: bool) -> Self {
        let shown = !json && std::io::stderr().is_terminal();
        let style = ProgressStyle::with_template("{msg:32} {wide_bar} {percent:>3} %");
        let bar = || ProgressBar::new(1000).with_style(style.unwrap_or_else(|_| ProgressStyle::default_bar()));
        Self(shown.then(|| Mutex::new(bar())))
    }

    /// Work named `label` has come to `share`.
    pub fn tick(&self, label: &str, share: f32) {
        if let Some(Ok(bar)) = self.0.as_ref().map(Mutex::lock) {
            bar.set_message(label.to_owned());
            bar.set_position((share * 1000.0) as u64);
        }
    }
}
