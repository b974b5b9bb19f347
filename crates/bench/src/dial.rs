//! The dial Wear of the demo project turned at 1024²: against a cold evaluation, and against evaluating only the layers it changes.

use std::time::Instant;

use dustcoat_core::bake::Surface;
use dustcoat_core::document::{Document, Edit, Layer, LayerKind, apply, driven};
use dustcoat_core::evaluate::{
    Cache, Context, EvaluateError, Evaluation, Measured, evaluate, evaluate_channels, needs,
};
use dustcoat_core::setting::Value;
use dustcoat_core::task::{Cancel, silent};

use crate::{Line, median, print};

/// A piece laid out and measured.
pub struct Bench {
    /// The piece.
    pub surface: Surface,
    /// Its measurements.
    pub readings: Measured,
}

impl Bench {
    fn seconds(&self, document: &Document, cache: &Cache) -> f64 {
        self.timed(cache, |context| evaluate(document, context))
    }

    /// Without the coverage, which nobody reads off while something moves.
    pub fn moving(&self, document: &Document, cache: &Cache) -> f64 {
        self.timed(cache, |context| evaluate_channels(document, context))
    }

    /// What an evaluation on it stands in.
    pub fn context<'a>(&'a self, cache: &'a Cache, cancel: &'a Cancel) -> Context<'a> {
        Context { surface: &self.surface, measured: &self.readings, cache, cancel, progress: &silent }
    }

    fn timed(&self, cache: &Cache, go: impl FnOnce(&Context) -> Result<Evaluation, EvaluateError>) -> f64 {
        let cancel = Cancel::default();
        let context = self.context(cache, &cancel);
        let clock = Instant::now();
        go(&context).expect("the demo can be evaluated");
        clock.elapsed().as_secs_f64()
    }
}

/// The document with another cut in a coat's mask line.
fn cut(document: &Document, coat: &str, to: f64) -> Document {
    let mut out = document.clone();
    let layer = out.layers.iter_mut().find(|l| l.name == coat).expect("the demo has the coat");
    let step = layer.mask.steps.iter_mut().find(|s| s.kind == "threshold").expect("which is cut");
    step.settings.insert("cut".into(), to.into());
    out
}

fn turned(document: &Document, to: f64) -> Document {
    let turn = Edit::TurnDial { layer: None, dial: "wear".into(), value: Value::Number(to) };
    apply(document, &turn).expect("the demo has the dial Wear")
}

/// What a document needs, measured, by hash.
pub fn readings(document: &Document, surface: &Surface) -> Measured {
    let keys = needs(document, &surface.piece);
    Measured::take(&keys, surface, &Cancel::default(), &silent).expect("nobody stops it")
}

pub fn run() {
    let document = dustcoat_demo::projects::gate_valve();
    let surface = super::occlusion::valve(1024);
    let readings = readings(&document, &surface);
    let bench = Bench { surface, readings };
    let moves: Vec<f64> = (1..=11).map(|k| f64::from(k) / 13.0).collect();
    let budget = 1 << 30;

    let cold = median(moves.iter().map(|to| bench.seconds(&turned(&document, *to), &Cache::new(budget))).collect());
    let warm = Cache::new(budget);
    bench.seconds(&document, &warm);
    let ours = median(moves.iter().map(|to| bench.seconds(&turned(&document, *to), &warm)).collect());

    // Nothing but the layers that the dial changes, their patterns warm as well.
    let names = driven(&document, "wear");
    let mut changed = document.clone();
    changed.layers.retain(|l| names.iter().any(|n| n.starts_with(&format!("{} ›", l.name))));
    let alone = Cache::new(budget);
    bench.seconds(&changed, &alone);
    let only = median(moves.iter().map(|to| bench.seconds(&turned(&changed, *to), &alone)).collect());

    let line = |reference, theirs: f64| Line {
        bench: "dial",
        ours: ours * 1e3,
        unit: "ms",
        reference,
        theirs: theirs * 1e3,
        rate: false,
    };
    print(&line("cold evaluation of the same document", cold));
    print(&line("the changed layers by themselves", only));

    // What a drag costs while it moves: the channels alone, the second time and later.
    let dragged = |name, change: &dyn Fn(f64) -> Document| {
        let cache = Cache::new(budget);
        bench.seconds(&document, &cache);
        let times = moves.iter().map(|to| bench.moving(&change(*to), &cache)).collect();
        let ours = median(times) * 1e3;
        let reference = "cold evaluation of the same document";
        print(&Line { bench: name, ours, unit: "ms", reference, theirs: cold * 1e3, rate: false });
    };
    dragged("drag: the dial Wear", &|to| turned(&document, to));
    dragged("drag: a cut in the top coat", &|to| cut(&document, "Handled metal", to));

    // All channels of the twelve coats against their masks alone, both cold, both with the coverage.
    let mut masks = document.clone();
    masks.layers.iter_mut().for_each(bare);
    let all = median((0..7).map(|_| bench.seconds(&document, &Cache::new(budget))).collect());
    let theirs = median((0..7).map(|_| bench.seconds(&masks, &Cache::new(budget))).collect());
    print(&Line {
        bench: "channels of twelve coats",
        ours: all * 1e3,
        unit: "ms",
        reference: "their masks alone",
        theirs: theirs * 1e3,
        rate: false,
    });
}

/// Takes everything off a layer that it lays down.
fn bare(layer: &mut Layer) {
    match &mut layer.kind {
        LayerKind::Coat { finish } | LayerKind::Adjust { finish } => finish.channels.clear(),
        LayerKind::Group { layers } => layers.iter_mut().for_each(bare),
        LayerKind::Use { recipe, .. } => std::sync::Arc::make_mut(recipe).layers.iter_mut().for_each(bare),
    }
}
