//! UVs for a mesh that has none: charts of faces that look about the same way, laid flat and packed into the square.
//!
//! Charts grow from the largest face on over edges between faces, each taking the neighbour that bends least, up to [`BEND`] from the chart's own direction.
//! They are projected along that direction, so nothing is stretched by more than 1 / cos [`BEND`]; one that would lie over itself is cut in two. All charts keep
//! one scale, turned to their smallest rectangle and packed (`etagere`) with a padding between them. The same mesh always gets the same UVs.

use std::collections::BinaryHeap;

use etagere::{AllocatorOptions, AtlasAllocator, size2};
use glam::{Vec2, Vec3};

use super::Soup;
use super::edges;

/// Cosine of the widest angle between a face and its chart's direction: 45°.
const BEND: f32 = 0.707;
/// Steps of the square that packing works in.
const STEPS: i32 = 2048;
/// Padding around each chart, in those steps: 4 texels at a draft of 1024.
const PADDING: i32 = 8;
/// Angles tried for the smallest rectangle, over a right angle.
const TURNS: u32 = 12;

struct Chart {
    faces: Vec<u32>,
    /// A plane position per corner of each face, in mm, the smallest at 0.
    flat: Vec<[Vec2; 3]>,
    size: Vec2,
}

/// Gives every corner a UV inside the square and says how many charts it made.
pub fn unwrap(soup: &mut Soup) -> usize {
    let normals: Vec<Vec3> = (0..soup.len()).map(|t| weighted_normal(soup, t)).collect();
    let mut charts = vec![];
    for faces in grow(soup, &normals) {
        lay(soup, &normals, faces, &mut charts);
    }
    place(soup, &charts);
    charts.len()
}

fn corners(soup: &Soup, t: usize) -> [Vec3; 3] {
    [0, 1, 2].map(|k| Vec3::from(soup.positions[3 * t + k]))
}

/// Normal of a face, as long as twice its area.
fn weighted_normal(soup: &Soup, t: usize) -> Vec3 {
    let [a, b, c] = corners(soup, t);
    (b - a).cross(c - a)
}

/// Neighbours of each face over its three edges; an edge of more than two faces joins none, since no plane lies flat there.
fn neighbours(soup: &Soup) -> Vec<[Option<u32>; 3]> {
    let triangles: Vec<[u32; 3]> = (0..soup.len() as u32).map(|t| [3 * t, 3 * t + 1, 3 * t + 2]).collect();
    let mut out = vec![[None; 3]; soup.len()];
    for meeting in edges::meetings(&edges::sides(&triangles, &edges::places(&soup.positions))) {
        if let [a, b] = meeting {
            out[a.triangle as usize][usize::from(a.k)] = Some(b.triangle);
            out[b.triangle as usize][usize::from(b.k)] = Some(a.triangle);
        }
    }
    out
}

/// A face waiting to be taken: how well it fits, then the lower index first.
#[derive(PartialEq)]
struct Waiting(f32, std::cmp::Reverse<u32>);

impl Eq for Waiting {}

impl PartialOrd for Waiting {
    fn partial_cmp(&self, other: &Self) -> Option<std::cmp::Ordering> {
        Some(self.cmp(other))
    }
}

impl Ord for Waiting {
    fn cmp(&self, other: &Self) -> std::cmp::Ordering {
        self.0.total_cmp(&other.0).then(self.1.cmp(&other.1))
    }
}

fn grow(soup: &Soup, normals: &[Vec3]) -> Vec<Vec<u32>> {
    let beside = neighbours(soup);
    let mut seeds: Vec<u32> = (0..soup.len() as u32).collect();
    seeds.sort_by(|a, b| {
        normals[*b as usize].length_squared().total_cmp(&normals[*a as usize].length_squared()).then(a.cmp(b))
    });
    let mut taken = vec![false; soup.len()];
    let mut charts = vec![];
    for seed in seeds {
        if taken[seed as usize] {
            continue;
        }
        let (mut faces, mut sum) = (vec![], Vec3::ZERO);
        // The seed's direction bounds the chart, so that it can't creep around a cylinder as its mean turns.
        let first = normals[seed as usize].normalize_or(Vec3::Y);
        let mut waiting = BinaryHeap::from([Waiting(1.0, std::cmp::Reverse(seed))]);
        while let Some(Waiting(_, std::cmp::Reverse(t))) = waiting.pop() {
            let unit = normals[t as usize].normalize_or(first);
            let mean = if faces.is_empty() { first } else { sum.normalize_or(first) };
            if taken[t as usize] || unit.dot(first) < BEND || unit.dot(mean) < BEND {
                continue;
            }
            taken[t as usize] = true;
            faces.push(t);
            sum += normals[t as usize];
            for n in beside[t as usize].into_iter().flatten().filter(|n| !taken[*n as usize]) {
                waiting.push(Waiting(normals[n as usize].normalize_or(first).dot(first), std::cmp::Reverse(n)));
            }
        }
        charts.push(faces);
    }
    charts
}

/// Lays faces flat along their mean direction; what would lie over itself is cut in two along its longer side, again and again.
fn lay(soup: &Soup, normals: &[Vec3], faces: Vec<u32>, charts: &mut Vec<Chart>) {
    let axis = faces.iter().map(|t| normals[*t as usize]).sum::<Vec3>().normalize_or(Vec3::Y);
    let (right, up) = axis.any_orthonormal_pair();
    let project = |t: &u32| corners(soup, *t as usize).map(|p| Vec2::new(p.dot(right), -p.dot(up)));
    let flat: Vec<[Vec2; 3]> = faces.iter().map(project).collect();
    if faces.len() > 1 && folds(&flat) {
        let (min, max) = bounds(&flat);
        let axis = usize::from((max - min).y > (max - min).x);
        let mut order: Vec<usize> = (0..faces.len()).collect();
        let middle = |i: &usize| flat[*i].iter().map(|p| p[axis]).sum::<f32>();
        order.sort_by(|a, b| middle(a).total_cmp(&middle(b)).then(a.cmp(b)));
        let (low, high) = order.split_at(order.len() / 2);
        for half in [low, high] {
            lay(soup, normals, half.iter().map(|i| faces[*i]).collect(), charts);
        }
        return;
    }
    charts.push(turned(faces, flat));
}

fn bounds(flat: &[[Vec2; 3]]) -> (Vec2, Vec2) {
    let all = flat.iter().flatten();
    all.fold((Vec2::MAX, Vec2::MIN), |(low, high), p| (low.min(*p), high.max(*p)))
}

/// Whether flat triangles lie over one another: more than one covers the same spot of a coarse grid, well inside of both. They run clockwise here, v
/// pointing down.
fn folds(flat: &[[Vec2; 3]]) -> bool {
    let (min, max) = bounds(flat);
    let cell = ((max - min).max_element() / 96.0).max(1e-12);
    let mut covered = vec![false; 97 * 97];
    for t in flat {
        let double = (t[2] - t[0]).perp_dot(t[1] - t[0]);
        if double <= 0.0 {
            return true;
        }
        let (low, high) = (t[0].min(t[1]).min(t[2]), t[0].max(t[1]).max(t[2]));
        let (first, last) = ((low - min) / cell, (high - min) / cell);
        for y in first.y.ceil() as usize..=last.y as usize {
            for x in first.x.ceil() as usize..=last.x as usize {
                let p = min + Vec2::new(x as f32, y as f32) * cell;
                let inside = (0..3).all(|k| (p - t[k]).perp_dot(t[(k + 1) % 3] - t[k]) > double * 1e-3);
                if inside && std::mem::replace(&mut covered[y * 97 + x], true) {
                    return true;
                }
            }
        }
    }
    false
}

/// The chart turned to its smallest rectangle, lying along u, its corner at 0.
fn turned(faces: Vec<u32>, flat: Vec<[Vec2; 3]>) -> Chart {
    let turn = |k: u32| {
        let (sin, cos) = libm::sincosf(k as f32 * std::f32::consts::FRAC_PI_2 / TURNS as f32);
        flat.iter().map(|t| t.map(|p| Vec2::new(cos, sin).rotate(p))).collect::<Vec<_>>()
    };
    let area = |flat: &[[Vec2; 3]]| {
        let (min, max) = bounds(flat);
        (max - min).element_product()
    };
    let mut best = turn(0);
    for k in 1..TURNS {
        let next = turn(k);
        // A turn must win by something, or rounding would turn squares at random.
        if area(&next) < area(&best) * 0.999 {
            best = next;
        }
    }
    let (min, max) = bounds(&best);
    let size = max - min;
    let upright = size.y > size.x;
    for p in best.iter_mut().flatten() {
        *p -= min;
        // A quarter turn keeps the winding.
        *p = if upright { Vec2::new(size.y - p.y, p.x) } else { *p };
    }
    Chart { faces, flat: best, size: if upright { Vec2::new(size.y, size.x) } else { size } }
}

/// Packs the charts at the largest common scale that fits, found by halving, and writes their UVs.
fn place(soup: &mut Soup, charts: &[Chart]) {
    let mut order: Vec<usize> = (0..charts.len()).collect();
    order.sort_by(|a, b| charts[*b].size.y.total_cmp(&charts[*a].size.y).then(a.cmp(b)));
    let area: f32 = charts.iter().map(|c| c.size.element_product()).sum();
    let (mut low, mut high) = (0.0f32, STEPS as f32 / area.max(1e-12).sqrt());
    let mut best = pack(charts, &order, 0.0);
    for _ in 0..14 {
        let middle = (low + high) * 0.5;
        match pack(charts, &order, middle) {
            Some(places) => (low, best) = (middle, Some(places)),
            None => high = middle,
        }
    }
    let Some(places) = best else {
        // More charts than the square has room for at any size: they all lie in the corner, and the report says that they overlap.
        soup.uvs.fill([0.0; 2]);
        return;
    };
    for (chart, at) in charts.iter().zip(places) {
        for (face, flat) in chart.faces.iter().zip(&chart.flat) {
            for k in 0..3 {
                let p = (at + flat[k] * low) / STEPS as f32;
                soup.uvs[3 * *face as usize + k] = p.to_array();
            }
        }
    }
}

/// Where each chart's corner lies in steps, if all fit at this scale (steps per mm).
fn pack(charts: &[Chart], order: &[usize], scale: f32) -> Option<Vec<Vec2>> {
    let options = AllocatorOptions { alignment: size2(1, 1), ..AllocatorOptions::default() };
    let mut atlas = AtlasAllocator::with_options(size2(STEPS, STEPS), &options);
    let mut places = vec![Vec2::ZERO; charts.len()];
    for i in order {
        // A sliver of next to no area asks for a scale at which its length is beyond any integer: too long is long enough.
        let steps = |mm: f32| (mm * scale).ceil().min(STEPS as f32) as i32 + 2 * PADDING;
        let room = atlas.allocate(size2(steps(charts[*i].size.x), steps(charts[*i].size.y)))?;
        places[*i] = Vec2::new((room.rectangle.min.x + PADDING) as f32, (room.rectangle.min.y + PADDING) as f32);
    }
    Some(places)
}
