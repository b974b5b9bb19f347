//! Who reads whose mask: names of published masks are told apart, and a circle of followers is refused with its names.

use std::collections::BTreeMap;

use super::{EditError, Layer, tree};
use crate::setting::{Param, Settings, Value};

/// Checks the layers of a document or a recipe; those inside a recipe's use are a scope of their own.
pub(super) fn check(all: &[Layer]) -> Result<(), EditError> {
    let layers = tree::layers(all);
    let mut published = BTreeMap::new();
    for (i, l) in layers.iter().enumerate() {
        let Some(name) = &l.publish else { continue };
        if published.insert(name.as_str(), i).is_some() {
            return Err(EditError::PublishedTwice { name: name.clone() });
        }
    }
    // What is read: the layers' lines by their places, and what they lay down by places behind all of these.
    let n = layers.len();
    let lines = layers.iter().enumerate().map(|(i, l)| {
        let sources = l.mask.steps.iter().filter(|s| s.on).flat_map(|s| s.sources());
        reads(i, sources, &layers, &published)
    });
    let finishes = layers.iter().enumerate().map(|(i, l)| reads(i, tree::finish_sources(l), &layers, &published));
    let reads: Vec<Vec<usize>> = lines.chain(finishes).collect();
    let mut state = vec![State::Unseen; reads.len()];
    for i in 0..reads.len() {
        let mut way = vec![];
        if let Some(circle) = circle(i, &reads, &mut state, &mut way) {
            let mut names: Vec<&str> = circle.iter().map(|i| layers[i % n].name.as_str()).collect();
            names.dedup();
            if names.len() == 1 {
                names.push(names[0]);
            }
            return Err(EditError::Circle { circle: names.join(" → ") });
        }
    }
    Ok(())
}

/// What a layer's line or finish reads: the lines that it follows, its own, and all coats below it with their lines if it asks what lies there.
fn reads<'a>(
    i: usize,
    sources: impl Iterator<Item = (&'a str, &'a Settings)>,
    layers: &[&Layer],
    published: &BTreeMap<&str, usize>,
) -> Vec<usize> {
    let mut out = vec![];
    for (kind, settings) in sources {
        match (kind, settings.get("name")) {
            ("follow", Some(Param::Const(Value::Text(name)))) => out.extend(published.get(name.as_str())),
            ("own", _) => out.push(i),
            // A group that holds the layer stands before it, but its mask does not go into what lies below it... of its own coats it does.
            ("below", _) => {
                out.extend((0..i).filter(|k| layers[*k].shown).flat_map(|k| [k, layers.len() + k]));
            }
            _ => {}
        }
    }
    out
}

#[derive(Clone, Copy, PartialEq)]
enum State {
    Unseen,
    Underway,
    Done,
}

fn circle(i: usize, reads: &[Vec<usize>], state: &mut [State], way: &mut Vec<usize>) -> Option<Vec<usize>> {
    match state[i] {
        State::Done => return None,
        State::Underway => {
            let start = way.iter().position(|w| *w == i).unwrap_or(0);
            return Some(way[start..].iter().copied().chain([i]).collect());
        }
        State::Unseen => {}
    }
    state[i] = State::Underway;
    way.push(i);
    let found = reads[i].iter().find_map(|j| circle(*j, reads, state, way));
    way.pop();
    state[i] = State::Done;
    found
}
