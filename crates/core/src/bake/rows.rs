//! The covered texels row by row, as runs of one chart that lie side by side, and the pairs that are neighbours across a seam: what sweeps over a surface go by.

use std::ops::Range;

use rayon::prelude::*;

use super::Surface;
use super::links::AROUND;

/// Covered texels of one chart that lie side by side in a row.
#[derive(Debug, Clone, Copy)]
struct Run {
    /// The first of them.
    first: u32,
    /// Where it lies in its row.
    x: u32,
    len: u32,
    chart: u32,
}

/// The rows of all squares, one sheet after the other.
pub struct Rows {
    runs: Vec<Run>,
    /// The first run of each row, and one past the last.
    starts: Vec<u32>,
    /// The first covered texel of each row, and one past the last.
    texels: Vec<u32>,
    size: u32,
    /// Covered texels and what lies next to them across a seam, in the order of the former.
    pub crossings: Vec<(u32, u32)>,
}

impl Rows {
    /// Of a surface.
    pub fn build(surface: &Surface) -> Rows {
        let (atlas, links) = (&surface.atlas, surface.links());
        let count = (atlas.sheets * atlas.size) as usize;
        let (mut runs, mut starts, mut texels) = (vec![], vec![0u32], vec![0u32]);
        let mut at = 0;
        for row in 0..count as u32 {
            while at < atlas.len() && atlas.texel[at] / atlas.size == row {
                let (first, chart) = (at, links.chart[at]);
                let goes_on = |i: usize| {
                    i < atlas.len()
                        && atlas.texel[i] == atlas.texel[first] + (i - first) as u32
                        && atlas.texel[i] / atlas.size == row
                        && links.chart[i] == chart
                };
                while goes_on(at) {
                    at += 1;
                }
                let (x, len) = (atlas.texel[first] % atlas.size, (at - first) as u32);
                runs.push(Run { first: first as u32, x, len, chart });
            }
            starts.push(runs.len() as u32);
            texels.push(at as u32);
        }
        let across = |i: usize| {
            let next = move |(dx, dy): &(i32, i32)| links.next(surface, i as u32, *dx, *dy);
            AROUND[..4].iter().filter_map(next).filter(|(_, seam)| *seam).map(move |(j, _)| (i as u32, j))
        };
        // Collected in order, whatever the number of threads.
        let crossings = (0..atlas.len()).into_par_iter().with_min_len(4096).flat_map_iter(across).collect();
        Rows { runs, starts, texels, size: atlas.size, crossings }
    }

    /// Number of rows.
    pub fn len(&self) -> usize {
        self.starts.len() - 1
    }

    /// Whether there are none.
    pub fn is_empty(&self) -> bool {
        self.len() == 0
    }

    /// The covered texels of some rows.
    pub fn texels(&self, rows: Range<usize>) -> Range<usize> {
        self.texels[rows.start] as usize..self.texels[rows.end] as usize
    }

    fn of(&self, row: usize) -> &[Run] {
        &self.runs[self.starts[row] as usize..self.starts[row + 1] as usize]
    }

    /// The runs of a row, as ranges of covered texels.
    pub fn runs(&self, row: usize) -> impl Iterator<Item = Range<usize>> {
        self.of(row).iter().map(|r| r.first as usize..(r.first + r.len) as usize)
    }

    /// Whether two rows lie side by side in one square.
    pub fn adjoin(&self, a: usize, b: usize) -> bool {
        a.abs_diff(b) == 1 && a / self.size as usize == b / self.size as usize
    }

    /// Where texels of one chart lie side by side in two rows: the first in each of them, and how many.
    pub fn pairs(&self, a: usize, b: usize) -> impl Iterator<Item = (usize, usize, usize)> {
        let (mine, others) = if self.adjoin(a, b) { (self.of(a), self.of(b)) } else { (&[][..], &[][..]) };
        let mut from = 0;
        mine.iter().flat_map(move |m| {
            while from < others.len() && others[from].x + others[from].len <= m.x {
                from += 1;
            }
            let near = others[from..].iter().take_while(|o| o.x < m.x + m.len).filter(|o| o.chart == m.chart);
            near.map(|o| {
                let (start, end) = (m.x.max(o.x), (m.x + m.len).min(o.x + o.len));
                ((m.first + start - m.x) as usize, (o.first + start - o.x) as usize, (end - start) as usize)
            })
        })
    }
}
