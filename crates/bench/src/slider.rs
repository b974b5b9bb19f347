//! From the input event of a slider to the changed pixels in the view, in the browser at draft 512: median of 20 moves, against the
//! same page drawing the same view again without new pixels.

use dustcoat_e2e::{Browser, Page, Server};

use crate::{Line, print};

/// Moves the dial's slider by a key and tells the milliseconds from the event to the frame that holds the new pixels.
const MOVE: &str = "
    const done = arguments[0];
    const view = document.querySelector('.view');
    const thumb = document.querySelector('[role=slider][aria-label=\"Wear slider\"]');
    thumb.focus();
    let began = 0;
    thumb.addEventListener('keydown', () => { began = performance.now(); }, { once: true, capture: true });
    const seen = new MutationObserver(() => { seen.disconnect(); done(performance.now() - began); });
    seen.observe(view, { attributes: true, attributeFilter: ['data-pixels'] });
    thumb.dispatchEvent(new KeyboardEvent('keydown', { key: KEY, code: KEY, bubbles: true }));
";

/// Draws the view again and tells how long that took.
const REDRAW: &str = "
    const done = arguments[0];
    const view = document.querySelector('.view');
    const began = performance.now();
    const seen = new MutationObserver(() => { seen.disconnect(); done(performance.now() - began); });
    seen.observe(view, { attributes: true, attributeFilter: ['data-frames'] });
    window.dispatchEvent(new Event('dustcoat:frame'));
";

async fn median(page: &Page, script: impl Fn() -> String) -> f64 {
    let mut times = vec![];
    for _ in 0..20 {
        let answer = page.driver.execute_async(script(), vec![]).await.expect("the page moves");
        times.push(answer.json().as_f64().expect("milliseconds"));
        page.settled().await;
    }
    times.sort_by(f64::total_cmp);
    times[times.len() / 2]
}

pub fn run() {
    tokio::runtime::Runtime::new().expect("a runtime starts").block_on(async {
        let data = tempfile::tempdir().expect("a folder can be made");
        let server = Server::on(data.path());
        server.app.fill_with_demo().expect("the demo is made");
        let browser = Browser::start().await;
        let page = browser.page(&server.url, true);
        page.open("/").await;
        page.press(&page.find(".card a").await).await;
        page.choose("Draft size", "draft 512").await;
        page.click("Dials").await;
        let ours = median(&page, || MOVE.replace("KEY", "'ArrowRight'")).await;
        let theirs = median(&page, || REDRAW.to_owned()).await;
        print(&Line {
            bench: "slider",
            ours,
            unit: "ms",
            reference: "the same view drawn again without new pixels",
            theirs,
            rate: false,
        });
        page.driver.clone().quit().await.expect("the browser ends");
    });
}
