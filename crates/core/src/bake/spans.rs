//! Covered texels that lie side by side in a row and have all that is asked for around them: what can be worked through in one go. The few others are listed one by one.

use rayon::prelude::*;

use super::Surface;
use super::atlas::{NONE, metric};

/// Covered texels side by side in a row.
#[derive(Debug, Clone, Copy)]
pub struct Span {
    /// The first of them.
    pub first: u32,
    /// How many.
    pub len: u32,
}

/// Spans of texels that something holds for, and the other texels.
pub struct Spans {
    /// In the order of the texels.
    pub plain: Vec<Span>,
    /// In the order of the texels.
    pub rest: Vec<u32>,
}

impl Spans {
    /// Of the texels of a surface that `holds` says so of.
    pub fn of(surface: &Surface, holds: impl Fn(usize) -> bool + Sync + Send) -> Spans {
        let atlas = &surface.atlas;
        let flags: Vec<bool> = (0..atlas.len()).into_par_iter().with_min_len(4096).map(holds).collect();
        let mut out = Spans { plain: vec![], rest: vec![] };
        for (i, flag) in flags.iter().enumerate() {
            let goes_on = |s: &Span| {
                let (beside, new_row) =
                    (atlas.texel[i] == atlas.texel[i - 1] + 1, atlas.texel[i].is_multiple_of(atlas.size));
                (s.first + s.len) as usize == i && beside && !new_row
            };
            match out.plain.last_mut() {
                _ if !flag => out.rest.push(i as u32),
                Some(last) if goes_on(last) => last.len += 1,
                _ => out.plain.push(Span { first: i as u32, len: 1 }),
            }
        }
        out
    }

    /// The parts of a plane that the spans lie on, in their order.
    pub fn parts<'a>(&self, mut plane: &'a mut [f32]) -> Vec<(Span, &'a mut [f32])> {
        let (mut at, mut out) = (0, Vec::with_capacity(self.plain.len()));
        for span in &self.plain {
            let (part, rest) = std::mem::take(&mut plane)[(span.first - at) as usize..].split_at_mut(span.len as usize);
            (plane, at) = (rest, span.first + span.len);
            out.push((*span, part));
        }
        out
    }

    /// Fills the other texels of a plane.
    pub fn fill_rest(&self, plane: &mut [f32], value: impl Fn(usize) -> f32 + Sync + Send) {
        let rest: Vec<f32> = self.rest.par_iter().with_min_len(1024).map(|i| value(*i as usize)).collect();
        for (i, v) in self.rest.iter().zip(rest) {
            plane[*i as usize] = v;
        }
    }
}

/// What each texel of the squares holds, by charts: that of a covered texel, [`ACROSS`] where a gutter is filled from across a seam, or [`NONE`].
pub fn owners(surface: &Surface) -> Vec<u32> {
    let chart = &surface.links().chart;
    let mut out: Vec<u32> =
        surface.atlas.lookup.iter().map(|i| if *i == NONE { NONE } else { chart[*i as usize] }).collect();
    for across in &surface.seams().across {
        let at = &mut out[across.at as usize];
        *at = if *at == NONE { ACROSS } else { *at };
    }
    out
}

/// In [`owners`]: no chart's own, filled from across a seam.
pub const ACROSS: u32 = NONE - 1;
/// How far [`Straight`] looks, in texels: no gutter is narrower.
pub const REACH: usize = 4;

/// Looking to both sides along a side of the square: across (0) or down (1).
pub struct Straight {
    /// How long each texel is, in mm.
    pub length: Vec<f32>,
    /// Those with [`REACH`] texels of their own chart, or filled across a seam, on both sides.
    pub spans: Spans,
}

impl Straight {
    /// Along a side of the squares of a surface.
    pub fn build(surface: &Surface, side: usize) -> Straight {
        let (atlas, owner, places) = (&surface.atlas, owners(surface), &surface.links().place);
        let (size, chart) = (atlas.size as usize, &surface.links().chart);
        let length = |i: usize| {
            let (du, dv) = metric(&surface.piece, atlas.triangle[i], atlas.size);
            [du, dv][side].length()
        };
        let stride = if side == 0 { 1 } else { size };
        let all_there = |i: usize| {
            let (at, place) = (atlas.texel[i] as usize, usize::from(places[i][side]));
            let inside = place >= REACH && place + REACH < size;
            let mine = |to: usize| owner[to] == chart[i] || owner[to] == ACROSS;
            inside && (1..=REACH).all(|k| mine(at - k * stride) && mine(at + k * stride))
        };
        let lengths = (0..atlas.len()).into_par_iter().with_min_len(4096).map(length).collect();
        Straight { length: lengths, spans: Spans::of(surface, all_there) }
    }
}
