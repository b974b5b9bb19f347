//! Noise taken out of a traced picture: an edge-avoiding wavelet filter (Dammertz, Sewtz, Hanika & Lensch 2010), with the variance that was seen as the measure of what is
//! noise (Schied et al. 2017, "Spatiotemporal variance-guided filtering").
//!
//! What a picture shows is taken as light times colour. The colour is known nearly without noise, so only the light is filtered: rust stays as sharp as it is. A pixel takes of another one as
//! much as their normals and distances agree and as their light differs by no more than chance.

use glam::Vec3;
use rayon::prelude::*;

/// What a pixel saw first, as the mean over its samples.
#[derive(Debug, Clone, Copy, Default)]
pub struct Guide {
    /// Colour of the surface, linear.
    pub color: Vec3,
    /// The bent normal, in space.
    pub normal: Vec3,
    /// Distance from the eye in mm.
    pub distance: f32,
    /// Share of the samples that saw anything.
    pub seen: f32,
    /// Variance of the mean of the samples' light ([`light_of`]).
    pub variance: f32,
}

/// Rounds; each reaches twice as far as the one before.
const ROUNDS: u32 = 5;
/// By how many standard deviations light may differ.
const DEVIATIONS: f32 = 1.5;
/// By how much mean normals may differ: those of a pixel that sees an edge are shorter.
const TURNED: f32 = 0.14;
/// By how much colours may differ, as roots: what is mirrored has no colour, so light divided by one is told apart by it.
const COLORED: f32 = 0.1;
/// Least colour that light is divided by: about what a surface mirrors besides.
const DARKEST: f32 = 0.06;
/// B3 spline.
const KERNEL: [f32; 3] = [3.0 / 8.0, 1.0 / 4.0, 1.0 / 16.0];

/// Rec. 709.
fn brightness(c: Vec3) -> f32 {
    c.dot(Vec3::new(0.2126, 0.7152, 0.0722))
}

/// How bright the light is that shows a colour like that.
pub fn light_of(seen: Vec3, color: Vec3) -> f32 {
    brightness(seen / (color + DARKEST))
}

/// A pixel's light, and the variance of its brightness.
type Lit = (Vec3, f32);

/// Radiance times coverage, and coverage, of a picture `width` pixels across, with less noise; the coverage stays.
pub fn denoised(pixels: &[[f32; 4]], guides: &[Guide], width: usize) -> Vec<[f32; 4]> {
    let height = pixels.len() / width.max(1);
    let color = |g: &Guide| g.color / g.seen.max(1e-6) + DARKEST;
    let one = |(p, g): (&[f32; 4], &Guide)| {
        if g.seen == 0.0 {
            return (Vec3::ZERO, 0.0);
        }
        let scale = 1.0 / p[3].max(1e-6);
        (Vec3::new(p[0], p[1], p[2]) * scale / color(g), g.variance)
    };
    let mut lit: Vec<Lit> = pixels.par_iter().zip(guides).with_min_len(1024).map(one).collect();
    for round in 0..ROUNDS {
        lit = filtered(&lit, guides, [width, height], 1 << round);
    }
    let put = |((p, g), (light, _)): ((&[f32; 4], &Guide), &Lit)| {
        if g.seen == 0.0 {
            return *p;
        }
        let c = *light * color(g) * p[3];
        [c.x, c.y, c.z, p[3]]
    };
    pixels.par_iter().zip(guides).zip(&lit).map(put).collect()
}

/// How alike two pixels are by what they saw first.
fn alike(a: &Guide, b: &Guide) -> f32 {
    let roots = |g: &Guide| (g.color / g.seen).max(Vec3::ZERO).map(f32::sqrt);
    let turned = (a.normal / a.seen - b.normal / b.seen).length_squared() / (TURNED * TURNED);
    let colored = (roots(a) - roots(b)).length_squared() / (COLORED * COLORED);
    libm::expf(-turned - colored)
}

/// One round, with pixels `stride` apart.
fn filtered(lit: &[Lit], guides: &[Guide], [width, height]: [usize; 2], stride: isize) -> Vec<Lit> {
    let at = |x: isize, y: isize| {
        let inside = x >= 0 && y >= 0 && x < width as isize && y < height as isize;
        inside.then(|| y as usize * width + x as usize).filter(|i| guides[*i].seen > 0.0)
    };
    let place = |i: usize| ((i % width) as isize, (i / width) as isize);
    // Brightness and variance of a few samples are uncertain themselves: taken as means over the pixels around. A bright speck that is told by itself would count for nothing, and the
    // whole would get darker.
    let around = |i: usize| {
        let ((x, y), mut sum, mut total) = (place(i), [0.0f32; 2], 0.0f32);
        for (dx, dy) in (-1..=1isize).flat_map(|dy| (-1..=1isize).map(move |dx| (dx, dy))) {
            let Some(j) = at(x + dx, y + dy).filter(|_| guides[i].seen > 0.0) else { continue };
            let weight = alike(&guides[i], &guides[j]);
            sum = [sum[0] + brightness(lit[j].0) * weight, sum[1] + lit[j].1 * weight];
            total += weight;
        }
        sum.map(|s| s / total.max(1e-6))
    };
    let calm: Vec<[f32; 2]> = (0..lit.len()).into_par_iter().with_min_len(1024).map(around).collect();
    let one = |i: usize| {
        let (g, (light, variance)) = (&guides[i], lit[i]);
        if g.seen == 0.0 {
            return (light, variance);
        }
        let ((x, y), distance) = (place(i), g.distance / g.seen);
        let chance = DEVIATIONS * calm[i][1].max(0.0).sqrt() + 1e-4;
        // How the distance changes from pixel to pixel, so that what leans away is no edge.
        let slope = |dx: isize, dy: isize| {
            let step =
                |s: isize| at(x + dx * s, y + dy * s).map(|j| (guides[j].distance / guides[j].seen - distance).abs());
            step(1).into_iter().chain(step(-1)).reduce(f32::min).unwrap_or(0.0)
        };
        let lean = [slope(1, 0), slope(0, 1)];
        let (mut sum, mut total, mut squares) = (Vec3::ZERO, 0.0f32, 0.0f32);
        for (dx, dy) in (-2..=2isize).flat_map(|dy| (-2..=2isize).map(move |dx| (dx, dy))) {
            let Some(j) = at(x + dx * stride, y + dy * stride) else { continue };
            let (other, (theirs, spread)) = (&guides[j], lit[j]);
            let expected = lean[0] * (dx * stride).abs() as f32 + lean[1] * (dy * stride).abs() as f32;
            let apart = (other.distance / other.seen - distance).abs() / (2.0 * expected + 1e-3 * distance);
            let differs = (calm[i][0] - calm[j][0]).abs() / chance;
            let like = if i == j { 1.0 } else { alike(g, other) * libm::expf(-apart - differs) };
            let weight = KERNEL[dx.unsigned_abs()] * KERNEL[dy.unsigned_abs()] * like;
            sum += theirs * weight;
            squares += spread * weight * weight;
            total += weight;
        }
        (sum / total, squares / (total * total))
    };
    (0..lit.len()).into_par_iter().with_min_len(256).map(one).collect()
}
