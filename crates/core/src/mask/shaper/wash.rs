//! Wash: what the mask holds is carried away by rain, along the ways that water takes, and left behind as a stain, drop by drop.
//!
//! Each texel sends down what it holds; on the way a share of what is carried stays, so that the stain thins out as e to the power of the way over its length. Where ways
//! come together stains add up; what drops from an overhang stains what it lands on.

use super::{Shaper, Work};
use crate::bake::water::spread;
use crate::setting::ParamSpec;

pub static SHAPER: Shaper = Shaper {
    kind: "wash",
    label: "Wash",
    help: "Rain carries the mask down the ways that water takes: rust, soot and verdigris stains that gather in grooves and drip from edges.",
    specs: || {
        vec![
            ParamSpec::length(
                "length",
                "Length",
                (1.0, 5000.0),
                120.0,
                "How far the stain goes until little more than a third of it is left.",
            ),
            ParamSpec::share("strength", "Strength", 0.5, "How much of the mask goes along."),
            ParamSpec::choice(
                "keep",
                "Gives",
                &[("both", "mask and stain"), ("stain", "stain alone")],
                "Whether what is washed down stays in the mask.",
            ),
        ]
    },
    work: |s| {
        let (length, strength, keep) = (s.number("length"), s.number("strength"), s.text("keep") != "stain");
        Work::whole(move |surface, mask, given| {
            let atlas = &surface.atlas;
            let mut laid = vec![0.0f32; mask.len()];
            let water = surface.water(given.cancel)?;
            water.down(given.cancel, |i, [comes], first| {
                let area = atlas.area[i];
                let side = if area > 0.0 { area.sqrt() } else { atlas.texel_length };
                let all = if first { comes + mask[i] * area } else { comes };
                let stays = all * (1.0 - libm::expf(-side / length));
                laid[i] += stays / (side * side);
                [all - stays]
            })?;
            let mut told = [laid];
            spread(surface, &mut told);
            let [laid] = told;
            let stain = |laid: f32| 1.0 - libm::expf(-MUCH * strength * laid);
            Ok(laid.iter().zip(mask).map(|(l, m)| if keep { stain(*l).max(*m) } else { stain(*l) }).collect())
        })
    },
};

/// Layers of the mask that make a full stain at full strength, as a share.
const MUCH: f32 = 12.0;
