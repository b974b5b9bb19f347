//! A drag in the real page, by real pointer events, on the demo's gate valve: from the event to the first changed pixels, and to those of the draft; and where the time goes.

use std::collections::BTreeMap;

use std::time::Instant;

use dustcoat_e2e::{Browser, Page, Server};
use serde_json::{Value, json};

use crate::reuse::{USES, uses};
use crate::{Line, median, print};

/// Moves that are timed.
const MOVES: usize = 20;

/// Remembers the next movement's event, and what becomes of it: in ms since the event.
const WATCH: &str = "
    const view = document.querySelector('.view');
    const draft = arguments[0];
    window.timed = {};
    let began = 0;
    addEventListener('pointermove', () => { began ||= performance.now(); }, { once: true, capture: true });
    const since = () => performance.now() - began;
    const mark = (name) => performance.getEntriesByName(name, 'mark').at(-1)?.startTime - began;
    const seen = new MutationObserver(() => {
        if (!began || view.dataset.size === undefined) return;
        if (window.timed.first === undefined) {
            const entry = performance.getEntriesByType('resource').filter((e) => e.name.endsWith('/draw')).at(-1);
            const server = Object.fromEntries((entry?.serverTiming ?? []).map((t) => [`server ${t.name}`, t.duration]));
            Object.assign(window.timed, { first: since(), answered: mark('received'), 'put together': mark('uploaded') - mark('received'), drawn: since() - mark('uploaded'), size: Number(view.dataset.size), ...server });
            performance.clearResourceTimings();
        }
        if (Number(view.dataset.size) === draft && window.timed.sharp === undefined) {
            window.timed.sharp = since();
            seen.disconnect();
        }
    });
    seen.observe(view, { attributes: true, attributeFilter: ['data-pixels'] });
";

/// What became of the last movement, once it is all there.
const TIMED: &str = "return window.timed.sharp === undefined ? null : window.timed;";

/// Draws the view again and tells how long that took.
const REDRAW: &str = "
    const done = arguments[0];
    const view = document.querySelector('.view');
    const began = performance.now();
    const seen = new MutationObserver(() => { seen.disconnect(); done(performance.now() - began); });
    seen.observe(view, { attributes: true, attributeFilter: ['data-frames'] });
    window.dispatchEvent(new Event('dustcoat:frame'));
";

/// The time that 95 of 100 take at most.
fn nearly_all(mut times: Vec<f64>) -> f64 {
    times.sort_by(f64::total_cmp);
    times.get((times.len() * 95).div_ceil(100).saturating_sub(1)).copied().unwrap_or(f64::NAN)
}

async fn frame(page: &Page) -> f64 {
    let mut times = vec![];
    for _ in 0..MOVES {
        let answer = page.driver.execute_async(REDRAW, vec![]).await.expect("the page draws");
        times.push(answer.json().as_f64().expect("milliseconds"));
        page.settled().await;
    }
    median(times)
}

/// Drags a slider to and fro, held all the while.
async fn moves(page: &Page, slider: &str, draft: u32) -> BTreeMap<String, Vec<f64>> {
    let thumb = page.control(slider).await;
    thumb.scroll_into_view().await.expect("it can be scrolled to");
    let hold = page.driver.action_chain().move_to_element_center(&thumb).click_and_hold();
    hold.perform().await.expect("the thumb is there");
    held(page, draft).await
}

/// Moves the pointer, held down, to and fro, and lets it go.
async fn held(page: &Page, draft: u32) -> BTreeMap<String, Vec<f64>> {
    let chain = || page.driver.action_chain();
    let mut out: BTreeMap<String, Vec<f64>> = BTreeMap::new();
    for k in 0..MOVES + 2 {
        page.settled().await;
        page.driver.execute(WATCH, vec![draft.into()]).await.expect("the page is watched");
        let by = if k % 8 < 4 { 6 } else { -6 } + if k % 2 == 0 { 1 } else { 0 };
        chain().move_by_offset(by, 0).perform().await.expect("the pointer moves");
        let mut timed = serde_json::Value::Null;
        page.until("the draft is drawn", async || {
            let answer = page.driver.execute(TIMED, vec![]).await;
            timed = answer.map(|a| a.json().clone()).unwrap_or_default();
            timed.is_object()
        })
        .await;
        // The first two find the size that answers in time.
        for (part, time) in timed.as_object().into_iter().flatten().filter(|_| k >= 2) {
            out.entry(part.clone()).or_default().extend(time.as_f64());
        }
    }
    chain().release().perform().await.expect("it is let go");
    page.settled().await;
    out
}

/// Strokes that are there before one more is timed.
const STROKES: usize = 2000;

/// Strokes as a hand draws them all over the wheel of the gate valve: what they are is beside the point, how many is not.
fn strokes(layer: &str, step: &str) -> Vec<Value> {
    let row = |k: usize, i: usize| {
        let turn = k as f64 * 2.4 + i as f64 * 0.004;
        let (sin, cos) = (turn.sin(), turn.cos());
        json!([88.0 * cos, 281.0, 88.0 * sin, 0.0, 1.0, 0.0, 1.0, i * 8])
    };
    let one = |k: usize| {
        let points: Vec<Value> = (0..50).map(|i| row(k, i)).collect();
        let stroke = json!({"points": points, "radius": 3.0, "hardness": 0.6, "flow": 0.02, "value": 0.5});
        json!({"edit": "add_stroke", "layer": layer, "step": step, "stroke": stroke})
    };
    (0..STROKES).map(one).collect()
}

/// Draws on the valve, upon as many strokes.
async fn pen_on(server: &Server, page: &Page, valve: i64) {
    let view = server.app.view(valve).expect("the valve");
    let layer = view.document.layers.last().expect("the handled metal");
    let step = layer.mask.steps.iter().find(|s| s.kind == "strokes").expect("its strokes");
    let request = json!({"revision": view.revision, "edits": strokes(&layer.id, &step.id)});
    server.app.edit(valve, &serde_json::from_value(request).expect("edits")).expect("they are made");
    page.open(&format!("/p/{valve}/build")).await;
    let redraw = frame(page).await;
    page.press(&page.find(".coat[data-layer='Handled metal'] .name-button").await).await;
    page.press(&page.find("[data-step='Strokes'] .tile-picture").await).await;
    page.keys("b").await;
    let canvas = page.find(".view canvas").await;
    let hold = page.driver.action_chain().move_to_element_center(&canvas).click_and_hold();
    hold.perform().await.expect("the pen is down");
    let timed = held(page, 1024).await;
    for (part, ours) in [("first pixels", median(timed["first"].clone())), ("sharp", median(timed["sharp"].clone()))] {
        let bench = format!("pen upon {STROKES} strokes, 1024: {part}");
        let reference = "the same view drawn again without new pixels";
        print(&Line { bench: &bench, ours, unit: "ms", reference, theirs: redraw, rate: false });
    }
}

pub fn pen() {
    on_the_valve(pen_on);
}

async fn select(page: &Page, coat: &str, step: &str) {
    page.click("Build").await;
    page.click(coat).await;
    page.press(&page.find(&format!("[data-step='{step}']")).await).await;
}

/// Lays forty uses of one recipe over a piece, with a dial that drives them all.
fn lay_forty(server: &Server, piece: i64) {
    let edit = |edits: Vec<Value>| {
        let revision = server.app.view(piece).expect("the piece").revision;
        let request = serde_json::from_value(json!({"revision": revision, "edits": edits})).expect("edits");
        server.app.edit(piece, &request).expect("they are made").document
    };
    let dial = edit(vec![json!({"edit": "add_dial", "dial": uses(0, "age").dials[0]})]).dials.pop().expect("a dial");
    let lay = |layer: &_| json!({"edit": "add_layer", "inside": null, "index": 1_000_000, "layer": layer});
    edit(uses(USES, &dial.id).layers.iter().map(lay).collect());
}

/// From the address until all is drawn and nothing computes, in ms, of what the server has had open before.
async fn opening(page: &Page, address: &str) -> f64 {
    let mut times = vec![];
    for _ in 0..5 {
        page.open("/").await;
        let clock = Instant::now();
        page.open(address).await;
        times.push(clock.elapsed().as_secs_f64() * 1e3);
    }
    median(times)
}

/// Forty uses of a recipe of twelve layers: opened, and driven by one dial of the project.
async fn forty_on(server: &Server, page: &Page, valve: i64) {
    page.choose("Draft size", "draft 512").await;
    page.settled().await;
    let address = format!("/p/{valve}/dials");
    let bare = opening(page, &address).await;
    lay_forty(server, valve);
    // The first time measures what they need.
    page.open(&address).await;
    let ours = opening(page, &address).await;
    let line = |bench: &str, ours: f64, reference: &str, theirs: f64| {
        print(&Line { bench, ours, unit: "ms", reference, theirs, rate: false });
    };
    line("forty uses in the page: opened", ours, "the piece without them, and a second", bare + 1e3);
    let timed = moves(page, "Age slider", 512).await;
    line("forty uses in the page, 512: first pixels", median(timed["first"].clone()), "what a drag may take", 80.0);
}

/// Does something in the page of the demo's gate valve.
fn on_the_valve(work: impl AsyncFnOnce(&Server, &Page, i64)) {
    tokio::runtime::Runtime::new().expect("a runtime starts").block_on(async {
        let data = tempfile::tempdir().expect("a folder can be made");
        let server = Server::on(data.path());
        server.app.fill_with_demo().expect("the demo is made");
        let browser = Browser::start().await;
        let page = browser.page(&server.url, true);
        page.open("/").await;
        page.press(&page.find(".card a").await).await;
        let valve = server.app.cards().expect("cards").remove(0).id;
        work(&server, &page, valve).await;
        page.driver.clone().quit().await.expect("the browser ends");
    });
}

pub fn forty() {
    on_the_valve(forty_on);
}

pub fn run() {
    on_the_valve(async |_, page, _| {
        for draft in [512, 1024, 2048] {
            page.choose("Draft size", &format!("draft {draft}")).await;
            let redraw = frame(page).await;
            for name in ["Wear", "cut in the top coat", "size in the lowest coat"] {
                match name {
                    "Wear" => page.click("Dials").await,
                    "cut in the top coat" => select(page, "Handled metal", "Threshold").await,
                    _ => select(page, "Mill scale", "Clouds").await,
                }
                let slider = match name {
                    "Wear" => "Wear slider",
                    "cut in the top coat" => "Cut slider",
                    _ => "Size slider",
                };
                let timed = moves(page, slider, draft).await;
                let line = |part: &str, ours: f64| {
                    let bench = format!("drag {name}, {draft}: {part}");
                    let reference = "the same view drawn again without new pixels";
                    print(&Line { bench: &bench, ours, unit: "ms", reference, theirs: redraw, rate: false });
                };
                line("first pixels", median(timed["first"].clone()));
                line("first pixels, 95 of 100", nearly_all(timed["first"].clone()));
                line("sharp", median(timed["sharp"].clone()));
                for (part, times) in
                    timed.iter().filter(|(part, _)| !["first", "sharp", "size"].contains(&part.as_str()))
                {
                    line(&format!("first pixels, {part}"), median(times.clone()));
                }
                println!(
                    "{}",
                    serde_json::json!({"bench": format!("drag {name}, {draft}: side of the first pixels"), "texels": median(timed["size"].clone())})
                );
            }
        }
    });
}
