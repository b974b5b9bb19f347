//! The microfacet distribution GGX (Walter et al. 2007), stretched along x or y (Burley 2012), with Smith's height-correlated shadowing (Heitz 2014) and visible
//! normals (Heitz 2018); and how much of the light it turns back all in all, which tells what single scattering loses.
//!
//! Directions are local: z is the normal, x runs along the grain. Tables are filled when first asked for, by a fixed sequence of points: the same on every machine.

use std::sync::LazyLock;

use glam::Vec3;

use crate::bake::rays::{point, sin_cos_turn};

/// Least roughness: below it highlights are smaller than any pixel.
pub const SMOOTHEST: f32 = 0.05;

/// A distribution of facets: roughness squared along x and along y.
#[derive(Debug, Clone, Copy)]
pub struct Ggx {
    /// Along x.
    pub x: f32,
    /// Along y.
    pub y: f32,
}

impl Ggx {
    /// Of a perceptual roughness (squared as glTF wants it), drawn out along x by an anisotropy of 0…1 (KHR_materials_anisotropy: towards 1 with its square).
    pub fn new(roughness: f32, anisotropy: f32) -> Self {
        let r = roughness.clamp(SMOOTHEST, 1.0);
        let y = r * r;
        Self { x: y + (1.0 - y) * anisotropy * anisotropy, y }
    }

    /// Density of facets with the normal `h`.
    pub fn density(&self, h: Vec3) -> f32 {
        let (x, y) = (h.x / self.x, h.y / self.y);
        let d = x * x + y * y + h.z * h.z;
        1.0 / (std::f32::consts::PI * self.x * self.y * d * d)
    }

    /// Smith's Λ of a direction.
    fn hidden(&self, w: Vec3) -> f32 {
        let (x, y) = (w.x * self.x, w.y * self.y);
        ((1.0 + (x * x + y * y) / (w.z * w.z)).sqrt() - 1.0) * 0.5
    }

    /// f · cos of the light, for a Fresnel reflectance of 1, and the density with which [`facet`](Self::facet) leads there. Both directions lie above.
    pub fn reflect(&self, o: Vec3, i: Vec3) -> (f32, f32) {
        let h = (o + i).normalize_or(Vec3::Z);
        let (lo, li, d) = (self.hidden(o), self.hidden(i), self.density(h) / (4.0 * o.z));
        (d / (1.0 + lo + li), d / (1.0 + lo))
    }

    /// A facet that is seen from `o`, from a point of the unit square.
    pub fn facet(&self, o: Vec3, p: [f32; 2]) -> Vec3 {
        let v = Vec3::new(self.x * o.x, self.y * o.y, o.z).normalize();
        let flat = v.x * v.x + v.y * v.y;
        let t1 = if flat > 1e-12 { Vec3::new(-v.y, v.x, 0.0) / flat.sqrt() } else { Vec3::X };
        let t2 = v.cross(t1);
        let (sin, cos) = sin_cos_turn(p[1]);
        let r = p[0].sqrt();
        let a = r * cos;
        let s = 0.5 * (1.0 + v.z);
        let b = (1.0 - s) * (1.0 - a * a).max(0.0).sqrt() + s * r * sin;
        let n = t1 * a + t2 * b + v * (1.0 - a * a - b * b).max(0.0).sqrt();
        Vec3::new(self.x * n.x, self.y * n.y, n.z.max(0.0)).normalize_or(Vec3::Z)
    }

    /// What of the light from such a facet comes out, of what meets it: G₂ ⁄ G₁.
    pub fn out(&self, o: Vec3, i: Vec3) -> f32 {
        let lo = self.hidden(o);
        (1.0 + lo) / (1.0 + lo + self.hidden(i))
    }

    /// What single scattering turns back towards `o` of even light, for facets that reflect all, and of that the share with Schlick's (1 − cos)⁵.
    pub fn turned_back(&self, o: Vec3) -> (f32, f32) {
        let u = along_cosine(o.z);
        if self.x == self.y {
            return ROUND.read([u, along_roughness(self.y), 0.0, 0.0]);
        }
        // Symmetric in both halves: an eighth of the circle would do if x and y were alike.
        let angle = libm::atan2f(o.y.abs(), o.x.abs()) / std::f32::consts::FRAC_PI_2;
        STRETCHED.read([u, along_roughness(self.y), along_roughness(self.x), angle])
    }
}

/// What is lost by single scattering comes back after more: the whole lobe times this (Turquin 2019), so that white facets lose nothing.
pub fn regained(f0: Vec3, turned_back: f32) -> Vec3 {
    Vec3::ONE + f0 * ((1.0 - turned_back) / turned_back)
}

fn along_cosine(cos: f32) -> f32 {
    cos.clamp(0.0, 1.0).sqrt()
}

fn along_roughness(alpha: f32) -> f32 {
    ((alpha.sqrt() - SMOOTHEST) / (1.0 - SMOOTHEST)).clamp(0.0, 1.0)
}

/// Pairs of numbers over up to four coordinates of 0…1, read between.
pub struct Table {
    steps: [usize; 4],
    values: Vec<(f32, f32)>,
}

impl Table {
    /// Fills it: `of` is given coordinates.
    pub fn new(steps: [usize; 4], of: impl Fn([f32; 4]) -> (f32, f32) + Sync) -> Self {
        let count = steps.iter().product::<usize>();
        let one = |i: usize| {
            let mut left = i;
            of(steps.map(|n| {
                let at = left % n;
                left /= n;
                at as f32 / (n - 1).max(1) as f32
            }))
        };
        // Threads of its own: one of the pool's, waiting here, could take up work that waits for this very table.
        let threads = std::thread::available_parallelism().map_or(1, usize::from).min(8);
        let mut values = vec![(0.0, 0.0); count];
        let share = count.div_ceil(threads);
        std::thread::scope(|s| {
            for (k, part) in values.chunks_mut(share).enumerate() {
                let one = &one;
                s.spawn(move || part.iter_mut().enumerate().for_each(|(i, v)| *v = one(k * share + i)));
            }
        });
        Self { steps, values }
    }

    /// Reads it linearly.
    pub fn read(&self, at: [f32; 4]) -> (f32, f32) {
        let (mut first, mut part, mut stride) = (0, [0.0f32; 4], [0usize; 4]);
        let mut step = 1;
        for k in 0..4 {
            let n = self.steps[k];
            let place = at[k].clamp(0.0, 1.0) * (n - 1) as f32;
            let whole = (place as usize).min(n.saturating_sub(2));
            part[k] = place - whole as f32;
            stride[k] = if n > 1 { step } else { 0 };
            first += whole * stride[k];
            step *= n;
        }
        let (mut a, mut b) = (0.0, 0.0);
        for corner in 0..16usize {
            let (mut weight, mut place) = (1.0, first);
            for k in 0..4 {
                let upper = corner >> k & 1 == 1;
                weight *= if upper { part[k] } else { 1.0 - part[k] };
                place += if upper { stride[k] } else { 0 };
            }
            if weight > 0.0 {
                let v = self.values[place];
                (a, b) = (a + weight * v.0, b + weight * v.1);
            }
        }
        (a, b)
    }
}

static ROUND: LazyLock<Table> =
    LazyLock::new(|| Table::new([32, 32, 1, 1], |[u, r, ..]| measured(Ggx { x: alpha(r), y: alpha(r) }, u, 0.3, 1024)));

static STRETCHED: LazyLock<Table> = LazyLock::new(|| {
    Table::new([18, 14, 14, 9], |[u, ry, rx, angle]| measured(Ggx { x: alpha(rx), y: alpha(ry) }, u, angle * 0.25, 256))
});

fn alpha(step: f32) -> f32 {
    let r = SMOOTHEST + step * (1.0 - SMOOTHEST);
    r * r
}

/// [`Ggx::turned_back`] by `count` rays; `turn` is the angle from x as a part of a whole turn.
fn measured(ggx: Ggx, along: f32, turn: f32, count: u32) -> (f32, f32) {
    let cos = (along * along).clamp(1e-3, 1.0);
    let flat = (1.0 - cos * cos).max(0.0).sqrt();
    let (s, c) = sin_cos_turn(turn);
    let o = Vec3::new(flat * c, flat * s, cos);
    let (mut all, mut edge) = (0.0f64, 0.0f64);
    for k in 0..count {
        let h = ggx.facet(o, point(k, 11));
        let i = h * (2.0 * o.dot(h)) - o;
        if i.z > 0.0 {
            let out = f64::from(ggx.out(o, i));
            let m = f64::from((1.0 - o.dot(h)).clamp(0.0, 1.0));
            (all, edge) = (all + out, edge + out * m * m * m * m * m);
        }
    }
    ((all / f64::from(count)) as f32, (edge / f64::from(count)) as f32)
}
