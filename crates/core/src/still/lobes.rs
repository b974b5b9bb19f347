//! How a spot of the piece throws light: clear coat over sheen over reflection over what is diffuse or lets light through.
//!
//! Every lobe hands down what it doesn't turn back itself, by its directional albedo towards the eye (as KHR_materials_sheen and the layering of glTF 2.0 appendix B, with
//! tables in place of approximations), so a white spot in even light is exactly as bright as that light. Reflection is glTF's: Schlick's Fresnel between F₀ and F₉₀.
//! What lets light through is thin: light goes on behind as it would be turned back in front, tinted by the base color.

use glam::Vec3;

use super::fibres::Fibres;
use super::ggx::{Ggx, regained};
use super::material::Material;
use crate::bake::rays::{cosine_hemisphere, frame, uniform_sphere};

/// The spot's axes.
#[derive(Debug, Clone, Copy)]
struct Axes {
    x: Vec3,
    y: Vec3,
    z: Vec3,
}

impl Axes {
    fn new(z: Vec3, along: Vec3) -> Self {
        let x = (along - z * z.dot(along)).normalize_or(frame(z).0);
        Self { x, y: z.cross(x), z }
    }

    fn local(&self, w: Vec3) -> Vec3 {
        Vec3::new(self.x.dot(w), self.y.dot(w), self.z.dot(w))
    }

    fn world(&self, w: Vec3) -> Vec3 {
        self.x * w.x + self.y * w.y + self.z * w.z
    }
}

/// Where light comes from that goes to the eye.
#[derive(Debug, Clone, Copy)]
pub struct Bounce {
    /// Direction, away from the spot.
    pub towards: Vec3,
    /// f · cos ⁄ density: what the light from there is multiplied by.
    pub weight: Vec3,
    /// Density per solid angle; none when it went through, where no lamp or sky is aimed at.
    pub density: Option<f32>,
}

/// Reflectance of facets: F₀, F₉₀, and what the lobe is multiplied by.
#[derive(Debug, Clone, Copy)]
struct Facets {
    f0: Vec3,
    f90: Vec3,
    scale: Vec3,
}

/// A spot, seen from one direction.
pub struct Lobes {
    over: Axes,
    below: Axes,
    over_eye: Vec3,
    eye: Vec3,
    flat: Vec3,
    coat: (Ggx, f32, Vec3),
    sheen: Option<(Fibres, Vec3)>,
    facets: Ggx,
    /// What the facets reflect: of what is no metal, and of metal.
    kinds: [Facets; 2],
    diffuse: Vec3,
    through: Vec3,
    /// Of the lobes in order: coat, sheen, facets, diffuse, through.
    chance: [f32; 5],
    /// What the spot sends out by itself.
    pub glow: Vec3,
}

/// Reflectance of a clear coat head-on: an IOR of 1.5.
const COAT: f32 = 0.04;

fn schlick(f0: Vec3, f90: Vec3, cos: f32) -> Vec3 {
    let m = (1.0 - cos).clamp(0.0, 1.0);
    f0 + (f90 - f0) * (m * m * m * m * m)
}

/// What facets turn back of even light: for F₀ and F₉₀.
fn turned_back((all, edge): (f32, f32), f0: Vec3, f90: Vec3) -> Vec3 {
    (f0 * (all - edge) + f90 * edge) * regained(f0, all)
}

/// A normal that the eye sees, as near to the wanted one as may be.
fn seen(wanted: Vec3, flat: Vec3, eye: Vec3) -> Vec3 {
    let cos = wanted.dot(eye);
    if cos > 0.02 { wanted } else { (wanted + eye * (0.02 - cos)).normalize_or(flat) }
}

impl Lobes {
    /// Of a material seen from `eye` (a unit vector away from the spot). `flat` is the triangle's normal, `smooth` the piece's and `bent` that of the relief, all on the eye's side;
    /// `along` is where the grain runs.
    pub fn new(m: &Material, eye: Vec3, flat: Vec3, smooth: Vec3, bent: Vec3, along: Vec3) -> Self {
        let (over, below) = (Axes::new(seen(smooth, flat, eye), along), Axes::new(seen(bent, flat, eye), along));
        let (over_eye, eye) = (over.local(eye), below.local(eye));
        let glaze = Ggx::new(m.clearcoat_roughness, 0.0);
        let mut left = 1.0;
        let coat_back = if m.clearcoat > 0.0 {
            m.clearcoat * turned_back(glaze.turned_back(over_eye), Vec3::splat(COAT), Vec3::ONE).x
        } else {
            0.0
        };
        left -= coat_back;
        let glow = m.emissive * left;
        let mut sheen_back = 0.0;
        let sheen = (m.sheen_color.max_element() > 0.0).then(|| {
            let fibres = Fibres::new(m.sheen_roughness);
            let back = fibres.turned_back(eye.z);
            sheen_back = left * m.sheen_color.max_element() * back.min(1.0);
            (fibres, m.sheen_color * (left / back.max(1.0)))
        });
        left -= sheen_back;
        let ggx = Ggx::new(m.roughness, m.anisotropy);
        let head_on = (m.ior - 1.0) / (m.ior + 1.0);
        let share = ggx.turned_back(eye);
        let facets = |f0: Vec3, f90: f32, by: f32| {
            let f90 = Vec3::splat(f90);
            (Facets { f0, f90, scale: regained(f0, share.0) * (left * by) }, turned_back(share, f0, f90).max_element())
        };
        // A mix of two materials, as glTF has it: what is no metal keeps what it doesn't reflect for what lies inside.
        let dielectric = (m.specular_color * (head_on * head_on)).min(Vec3::ONE) * m.specular;
        let (plain, plain_back) = facets(dielectric, m.specular, 1.0 - m.metallic);
        let (metal, metal_back) = facets(m.base, 1.0, m.metallic);
        let facets_back = left * (plain_back * (1.0 - m.metallic) + metal_back * m.metallic);
        let inside = m.base * (left * (1.0 - plain_back).max(0.0) * (1.0 - m.metallic));
        let (diffuse, through) = (inside * (1.0 - m.transmission), inside * m.transmission);
        let mut chance = [coat_back, sheen_back, facets_back, diffuse.max_element(), through.max_element()];
        let all: f32 = chance.iter().sum();
        chance.iter_mut().for_each(|c| *c /= all.max(1e-9));
        let coat = (glaze, m.clearcoat, regained(Vec3::splat(COAT), glaze.turned_back(over_eye).0));
        let kinds = [plain, metal];
        Self { over, below, over_eye, eye, flat, coat, sheen, facets: ggx, kinds, diffuse, through, chance, glow }
    }

    /// f · cos for light that comes from `towards` on the eye's side, and the density with which [`bounce`](Self::bounce) leads there.
    pub fn reflect(&self, towards: Vec3) -> (Vec3, f32) {
        if self.flat.dot(towards) <= 0.0 {
            return (Vec3::ZERO, 0.0);
        }
        let (mut f, mut density) = (Vec3::ZERO, 0.0);
        let over = self.over.local(towards);
        if self.chance[0] > 0.0 && over.z > 0.0 {
            let (value, d) = self.coat.0.reflect(self.over_eye, over);
            let cos = (self.over_eye + over).normalize_or(Vec3::Z).dot(over);
            f += schlick(Vec3::splat(COAT), Vec3::ONE, cos) * self.coat.2 * (value * self.coat.1);
            density += self.chance[0] * d;
        }
        let i = self.below.local(towards);
        if i.z <= 0.0 {
            return (f, density);
        }
        if let Some((fibres, tint)) = &self.sheen {
            f += *tint * fibres.reflect(self.eye, i);
            density += self.chance[1] / std::f32::consts::TAU;
        }
        let (value, d) = self.facets.reflect(self.eye, i);
        let cos = (self.eye + i).normalize_or(Vec3::Z).dot(i);
        for k in &self.kinds {
            f += schlick(k.f0, k.f90, cos) * k.scale * value;
        }
        density += self.chance[2] * d;
        f += self.diffuse * (i.z / std::f32::consts::PI);
        density += self.chance[3] * i.z / std::f32::consts::PI;
        (f, density)
    }

    /// Picks where to look for light, by one number and a point of the unit square; none where what was picked leads nowhere.
    pub fn bounce(&self, lobe: f32, p: [f32; 2]) -> Option<Bounce> {
        let mut left = lobe;
        let picked = self.chance.iter().position(|c| {
            left -= c;
            left < 0.0
        });
        let towards = match picked.unwrap_or(4) {
            0 => {
                let h = self.coat.0.facet(self.over_eye, p);
                self.over.world(h * (2.0 * self.over_eye.dot(h)) - self.over_eye)
            }
            1 => {
                let i = uniform_sphere(p);
                self.below.world(Vec3::new(i.x, i.y, i.z.abs()))
            }
            2 => {
                let h = self.facets.facet(self.eye, p);
                self.below.world(h * (2.0 * self.eye.dot(h)) - self.eye)
            }
            3 => self.below.world(cosine_hemisphere(p)),
            _ => return self.on_behind(p),
        };
        let (f, density) = self.reflect(towards);
        (density > 0.0).then(|| Bounce { towards, weight: f / density, density: Some(density) })
    }

    fn on_behind(&self, p: [f32; 2]) -> Option<Bounce> {
        let ggx = &self.facets;
        let h = ggx.facet(self.eye, p);
        let i = h * (2.0 * self.eye.dot(h)) - self.eye;
        let towards = self.below.world(Vec3::new(i.x, i.y, -i.z));
        if i.z <= 0.0 || self.chance[4] <= 0.0 || self.flat.dot(towards) >= 0.0 {
            return None;
        }
        let weight = self.through * (ggx.out(self.eye, i) / ggx.turned_back(self.eye).0.max(1e-3) / self.chance[4]);
        Some(Bounce { towards, weight, density: None })
    }
}
