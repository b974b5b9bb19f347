//! Recipes in use against their layers opened, forty uses at once, and six pictures against what they may cost.

use std::time::Instant;

use dustcoat_core::document::{
    self, Dial, Document, Edit, Layer, LayerKind, Reach, apply, check, dial_states, layers, six, standings,
};
use dustcoat_core::evaluate::{Cache, evaluate_channels};
use dustcoat_core::setting::{Drive, Value};
use dustcoat_core::still::shoot::{StillSettings, shoot};
use dustcoat_core::task::{Cancel, silent};

use crate::dial::{Bench, readings};
use crate::{Line, median, print};

/// How often the recipe is used.
pub const USES: usize = 40;
const TIMES: usize = 7;

fn bench(document: &Document, size: u32) -> Bench {
    let surface = super::occlusion::valve(size);
    let readings = readings(document, &surface);
    Bench { surface, readings }
}

/// A document of that many uses of the twelve-layer recipe, with a dial that drives them all, of that id.
pub fn uses(count: usize, id: &str) -> Document {
    let recipe = dustcoat_demo::projects::dock_paint();
    let mut d = Document::new("Uses");
    d.dials.push(Dial::number(id, "Age", "", (0.0, 1.0), 0.5));
    let one = |i: usize| {
        let mut layer = Layer { id: format!("l{}", i + 1), ..recipe.to_use() };
        if let LayerKind::Use { values, .. } = &mut layer.kind {
            values.insert("wear".into(), Drive::plain(id).into());
        }
        layer
    };
    d.layers = (0..count).map(one).collect();
    d
}

fn aged(d: &Document, to: f64) -> Document {
    apply(d, &Edit::TurnDial { layer: None, dial: "age".into(), value: Value::Number(to) }).expect("there is Age")
}

pub fn run() {
    let line = |bench, ours: f64, reference, theirs: f64| {
        print(&Line { bench, ours: ours * 1e3, unit: "ms", reference, theirs: theirs * 1e3, rate: false });
    };
    // One use against its layers opened, both cold.
    let used = uses(1, "age");
    let loose = apply(&used, &Edit::Loosen { layer: "l1".into() }).expect("it is a use");
    let at = bench(&used, 1024);
    let cold = |d: &Document| median((0..TIMES).map(|_| at.moving(d, &Cache::new(1 << 30))).collect());
    line("a use", cold(&used), "its layers opened", cold(&loose));

    // Forty uses: what is read, checked and worked out before anything is drawn, and one dial that drives them all.
    let many = uses(USES, "age");
    let text = serde_json::to_string(&many).expect("a document is JSON");
    let open = || {
        let clock = Instant::now();
        let d: Document = serde_json::from_str(&text).expect("it was written");
        check(&d).expect("it is valid");
        let states = dial_states(&d.dials, &Default::default());
        let told = layers(&d.layers).iter().map(|l| document::colors(l, &states).len()).sum::<usize>();
        assert!(told > 0 && !standings(&d).is_empty());
        clock.elapsed().as_secs_f64()
    };
    line("forty uses of twelve layers: opened", median((0..TIMES).map(|_| open()).collect()), "a second", 1.0);
    // At the size of the first pixels of a drag, and at the draft.
    for (size, name) in
        [(256, "forty uses: a dial that drives them all, 256"), (512, "forty uses: a dial that drives them all, 512")]
    {
        let small = bench(&many, size);
        let cache = Cache::new(1 << 30);
        let first = small.moving(&many, &cache);
        let moves = (1..=TIMES).map(|k| small.moving(&aged(&many, k as f64 / 9.0), &cache)).collect();
        line(name, median(moves), "cold evaluation of the same", first);
    }

    // Six pictures, from where the piece is seen whole.
    let document = dustcoat_demo::projects::gate_valve();
    let valve = bench(&document, 512);
    let settings = StillSettings { width: 240, height: 180, samples: 16, denoise: true, ..StillSettings::default() };
    let cancel = Cancel::default();
    let picture = |d: &Document, cache: &Cache| {
        let clock = Instant::now();
        let e = evaluate_channels(d, &valve.context(cache, &cancel)).expect("it can be evaluated");
        let evaluated = clock.elapsed().as_secs_f64();
        shoot(&valve.surface, &e, &settings, &cancel, &silent).expect("it can be seen");
        (evaluated, clock.elapsed().as_secs_f64() - evaluated)
    };
    let cache = Cache::new(1 << 30);
    let (cold, view) = picture(&document, &cache);
    let reaches = document.dials.iter().map(|d| (d.id.clone(), Reach::Lot)).collect();
    let drawn = six(&document, &reaches, 5).into_iter().map(|choice| {
        let turns = choice.into_iter().map(|(dial, value)| Edit::TurnDial { layer: None, dial, value });
        let turned = turns.fold(document.clone(), |d, turn| apply(&d, &turn).expect("its own dials"));
        let (evaluated, seen) = picture(&turned, &cache);
        evaluated + seen
    });
    line("six to choose from", drawn.sum(), "3 cold evaluations and 6 views", 3.0 * cold + 6.0 * view);
}
