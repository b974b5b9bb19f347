//! Warp: pulls the mask about on the surface by noise.

use glam::Vec3;
use rayon::prelude::*;

use super::{Shaper, Work};
use crate::bake::links::{Walker, normal};
use crate::lattice::{octaves, seed_spec, sum};
use crate::setting::ParamSpec;
use crate::task::Cancelled;

pub static SHAPER: Shaper = Shaper {
    kind: "warp",
    label: "Warp",
    help: "Pulls the mask about on the surface by noise: straight borders become uneven.",
    specs: || {
        vec![
            ParamSpec::length("by", "By", (0.05, 200.0), 4.0, "How far the mask is pulled at most."),
            ParamSpec::length("size", "Size", (0.1, 2000.0), 12.0, "Over which length it is pulled one way."),
            ParamSpec::integer("octaves", "Octaves", (1.0, 6.0), 3.0, "How finely."),
            seed_spec(),
        ]
    },
    work: |s| {
        let (by, size, count, seed) = (s.number("by"), s.number("size"), s.integer("octaves"), s.integer("seed"));
        Work::whole(move |surface, mask, given| {
            let (links, a) = (surface.links(), &surface.atlas);
            let noise = octaves(size, count, 2.0, 0.5, seed ^ 0x3c6e, 1.0);
            let pull: [Vec<f32>; 3] = std::array::from_fn(|k| {
                let far = |v: &[f32]| v.iter().map(|c| c + k as f32 * 419.0).collect::<Vec<f32>>();
                let mut out = vec![0.0; a.len()];
                sum(&noise, &far(&a.px), &a.py, &far(&a.pz), &mut out);
                out
            });
            let stride = surface.atlas.texel_length;
            let one = |i: usize| {
                if i.is_multiple_of(4096) {
                    given.cancel.check()?;
                }
                let mut way = Vec3::new(pull[0][i], pull[1][i], pull[2][i]) * by * 2.0;
                let mut walker = Walker::at(i as u32);
                // The way is gone in steps of a texel, each along the surface where it stands.
                for _ in 0..4096 {
                    let n = normal(surface, walker.texel);
                    let (along, left) = (way - n * n.dot(way), way.length());
                    let step = along.clamp_length_max(stride.min(left));
                    if step.length() < 0.02 * stride || !walker.step(surface, links, step) {
                        break;
                    }
                    way = way.clamp_length_max((left - stride).max(0.0));
                }
                Ok(walker.value(surface, links, mask))
            };
            (0..a.len()).into_par_iter().with_min_len(1024).map(one).collect::<Result<_, Cancelled>>()
        })
    },
};
