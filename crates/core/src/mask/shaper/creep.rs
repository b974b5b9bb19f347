//! Creep: the mask spreads through a pattern, as rust crawls under paint.
//!
//! A front sets out from the mask's border (where it is ½). It is quick where the pattern lies low and slow where it stands high, so it runs out in tongues along
//! the pattern's hollows; each texel is reached by the quickest way (Dijkstra 1959, over the eight neighbours on the surface). The pattern is even on average, so
//! the front comes about as far as it is told.

use std::cmp::Reverse;
use std::collections::BinaryHeap;

use super::{Shaper, Work};
use crate::bake::Surface;
use crate::bake::levels::{down, up};
use crate::bake::links::{AROUND, place};
use crate::lattice::{octaves, seed_spec, sum};
use crate::setting::ParamSpec;
use crate::task::{Cancel, Cancelled};

pub static SHAPER: Shaper = Shaper {
    kind: "creep",
    label: "Creep",
    help: "Spreads the mask through a pattern, in tongues: the crawling front of rust, damp in plaster.",
    specs: || {
        vec![
            ParamSpec::length("distance", "Distance", (0.1, 500.0), 12.0, "How far the quickest tongues come."),
            ParamSpec::length("size", "Size", (0.2, 500.0), 7.0, "Size of the pattern: how broad its tongues are."),
            ParamSpec::share("ragged", "Ragged", 0.6, "How unequal its tongues are; at 0 it spreads evenly."),
            ParamSpec::share("fade", "Fade", 0.3, "How much weaker it is at its front."),
            seed_spec(),
        ]
    },
    work: |s| {
        let (distance, size) = (s.number("distance"), s.number("size"));
        let (ragged, fade, seed) = (s.number("ragged"), s.number("fade"), s.integer("seed"));
        Work::whole(move |surface, mask, given| {
            // Five texels to a tongue are enough: its borders are smooth.
            let levels = surface.down_to((size * 0.2).min(distance * 0.2));
            let last = levels[levels.len() - 1];
            let mut slow = vec![0.0; last.atlas.len()];
            let a = &last.atlas;
            sum(&octaves(size, 4, 2.0, 0.6, seed ^ 0x71f3, 1.0), &a.px, &a.py, &a.pz, &mut slow);
            // From 1 where the pattern lies lowest to many times that where it stands highest.
            slow.iter_mut().for_each(|v| *v = libm::expf(ragged * 5.0 * (*v + 0.55).max(0.0)));
            let arrival = arrivals(last, &down(&levels, mask), &slow, distance, given.cancel)?;
            let strength = |way: &f32| {
                let left = (1.0 - way / distance).clamp(0.0, 1.0);
                (left * 6.0).min(1.0) * (1.0 - fade * (1.0 - left))
            };
            // What was there stays as sharp as it was.
            let spread = up(&levels, arrival.iter().map(strength).collect());
            Ok(spread.iter().zip(mask).map(|(s, m)| s.max(*m)).collect())
        })
    },
};

/// The way from the mask to each texel, in mm on the pattern's quickest ground: 0 inside, infinite where it is longer than `reach`.
fn arrivals(surface: &Surface, mask: &[f32], slow: &[f32], reach: f32, cancel: &Cancel) -> Result<Vec<f32>, Cancelled> {
    let links = surface.links();
    let mut way: Vec<f32> = mask.iter().map(|m| if *m >= 0.5 { 0.0 } else { f32::INFINITY }).collect();
    // Non-negative floats are in the order of their bits.
    let mut waiting: BinaryHeap<Reverse<(u32, u32)>> =
        way.iter().enumerate().filter(|(_, w)| **w == 0.0).map(|(i, _)| Reverse((0, i as u32))).collect();
    let mut done = 0u32;
    while let Some(Reverse((bits, i))) = waiting.pop() {
        done += 1;
        if done.is_multiple_of(16_384) {
            cancel.check()?;
        }
        let here = f32::from_bits(bits);
        if here > way[i as usize] {
            continue;
        }
        for (dx, dy) in AROUND {
            let Some((j, _)) = links.next(surface, i, dx, dy) else { continue };
            let cost = 0.5 * (slow[i as usize] + slow[j as usize]);
            let there = here + place(surface, i).distance(place(surface, j)) * cost;
            if there < way[j as usize] && there < reach {
                way[j as usize] = there;
                waiting.push(Reverse((there.to_bits(), j)));
            }
        }
    }
    Ok(way)
}
