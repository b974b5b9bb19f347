//! Speed measured against named libraries: a JSON line a comparison, both sides in one run.
//!
//! `cargo run --release -p dustcoat-bench -- [NAME]`, or `make bench [ONLY=NAME]`. `ratio` is how many times faster ours is.

mod cabinet;
mod dial;
mod drag;
mod embree;
mod noise;
mod occlusion;
mod reuse;
mod shapers;
mod still;
mod strokes;
mod weather;

use std::time::Instant;

use serde_json::json;

/// One comparison. Numbers are in `unit`; `ratio` above 1 means ours is faster.
struct Line<'a> {
    bench: &'a str,
    ours: f64,
    unit: &'a str,
    reference: &'a str,
    theirs: f64,
    /// Whether a larger number is the better one.
    rate: bool,
}

fn print(line: &Line) {
    let ratio = if line.rate { line.ours / line.theirs } else { line.theirs / line.ours };
    let round = |v: f64| (v * 1000.0).round() / 1000.0;
    println!(
        "{}",
        json!({"bench": line.bench, "ours": round(line.ours), "unit": line.unit, "reference": line.reference, "theirs": round(line.theirs), "ratio": round(ratio)})
    );
}

/// Seconds of the fastest of `times` runs: the one the rest of the machine disturbed least.
fn fastest(times: usize, mut run: impl FnMut()) -> f64 {
    let one = |_| {
        let clock = Instant::now();
        run();
        clock.elapsed().as_secs_f64()
    };
    (0..times).map(one).fold(f64::INFINITY, f64::min)
}

fn median(mut times: Vec<f64>) -> f64 {
    times.sort_by(f64::total_cmp);
    times[times.len() / 2]
}

fn main() {
    let only = std::env::args().nth(1);
    let all: [(&str, fn()); 16] = [
        ("occlusion", occlusion::run),
        ("curve", occlusion::curve),
        ("large", occlusion::large),
        ("weather", weather::run),
        ("cancel", occlusion::cancel),
        ("perlin", noise::run),
        ("worley", noise::worley),
        ("shapers", shapers::run),
        ("dial", dial::run),
        ("reuse", reuse::run),
        ("still", still::run),
        ("strokes", strokes::run),
        ("drag", drag::run),
        ("forty", drag::forty),
        ("pen", drag::pen),
        ("cabinet", cabinet::run),
    ];
    let wanted: Vec<_> = all.iter().filter(|(name, _)| only.as_deref().is_none_or(|o| o == *name)).collect();
    if wanted.is_empty() {
        let names: Vec<_> = all.iter().map(|(n, _)| *n).collect();
        eprintln!("There is no bench of that name; there are: {}.", names.join(", "));
        std::process::exit(2);
    }
    for (_, run) in wanted {
        run();
    }
}
