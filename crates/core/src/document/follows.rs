//! Who reads whose mask: names of published masks are told apart, and a circle of followers is refused with its names.

use std::collections::BTreeMap;

use super::{EditError, Layer, tree};
use crate::setting::{Param, Value};

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
    let reads: Vec<Vec<usize>> = layers.iter().enumerate().map(|(i, l)| reads(i, l, &layers, &published)).collect();
    let mut state = vec![State::Unseen; layers.len()];
    for i in 0..layers.len() {
        let mut way = vec![];
        if let Some(circle) = circle(i, &reads, &mut state, &mut way) {
            let names: Vec<&str> = circle.iter().map(|i| layers[*i].name.as_str()).collect();
            return Err(EditError::Circle { circle: names.join(" → ") });
        }
    }
    Ok(())
}

/// The layers whose masks a layer's line reads: those it follows, and all coats below it if it asks what lies there.
fn reads(i: usize, layer: &Layer, layers: &[&Layer], published: &BTreeMap<&str, usize>) -> Vec<usize> {
    let mut out = vec![];
    for (kind, settings) in layer.mask.steps.iter().filter(|s| s.on).flat_map(|s| s.sources()) {
        match (kind, settings.get("name")) {
            ("follow", Some(Param::Const(Value::Text(name)))) => out.extend(published.get(name.as_str())),
            // A group that holds the layer stands before it, but its mask does not go into what lies below it... of its own coats it does.
            ("below", _) => out.extend((0..i).filter(|k| layers[*k].shown)),
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
