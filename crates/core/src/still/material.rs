//! The channels of an evaluation, read at a texel as a material.

use glam::Vec3;

use crate::bake::Surface;
use crate::evaluate::Evaluation;

/// What a spot is made of. Shares and colours are 0…1, colours linear.
#[derive(Debug, Clone, Copy)]
#[expect(missing_docs, reason = "they are the channels of that name")]
pub struct Material {
    pub base: Vec3,
    pub metallic: f32,
    pub roughness: f32,
    pub opacity: f32,
    /// Colour times strength.
    pub emissive: Vec3,
    pub clearcoat: f32,
    pub clearcoat_roughness: f32,
    /// In tangent space.
    pub clearcoat_normal: Vec3,
    pub sheen_color: Vec3,
    pub sheen_roughness: f32,
    pub anisotropy: f32,
    /// Radians from the tangent.
    pub grain: f32,
    pub specular: f32,
    pub specular_color: Vec3,
    pub ior: f32,
    pub transmission: f32,
    /// Of the body, in mm.
    pub thickness: f32,
    /// Of white light after `distance` mm through the body.
    pub attenuation: Vec3,
    pub distance: f32,
}

impl Material {
    /// What is left of light on its way through the body (Beer and Lambert).
    pub fn within(&self) -> Vec3 {
        let ways = self.thickness / self.distance.max(1e-3);
        if ways == 0.0 || self.attenuation == Vec3::ONE {
            return Vec3::ONE;
        }
        self.attenuation.map(|c| libm::powf(c.clamp(0.0, 1.0), ways))
    }
}

impl Default for Material {
    /// Matt mid-grey.
    fn default() -> Self {
        Self {
            base: Vec3::splat(0.5),
            metallic: 0.0,
            roughness: 0.6,
            opacity: 1.0,
            emissive: Vec3::ZERO,
            clearcoat: 0.0,
            clearcoat_roughness: 0.05,
            clearcoat_normal: Vec3::Z,
            sheen_color: Vec3::ZERO,
            sheen_roughness: 0.5,
            anisotropy: 0.0,
            grain: 0.0,
            specular: 1.0,
            specular_color: Vec3::ONE,
            ior: 1.5,
            transmission: 0.0,
            thickness: 0.0,
            attenuation: Vec3::ONE,
            distance: 10.0,
        }
    }
}

/// Reads a plane's texel into a material: the plane, all of them, the texel, and how many there are.
type Put = fn(&mut Material, &[f32], usize, usize);

fn color(plane: &[f32], i: usize, n: usize) -> Vec3 {
    Vec3::new(plane[i], plane[n + i], plane[2 * n + i])
}

/// One line a channel that a still shows. Height is in the normals; occlusion is for who traces no light.
const READ: [(&str, Put); 20] = [
    ("base_color", |m, p, i, n| m.base = color(p, i, n)),
    ("metallic", |m, p, i, _| m.metallic = p[i]),
    ("roughness", |m, p, i, _| m.roughness = p[i]),
    ("opacity", |m, p, i, _| m.opacity = p[i]),
    ("emissive", |m, p, i, n| m.emissive = color(p, i, n)),
    // After the colour that it multiplies.
    ("emissive_strength", |m, p, i, _| m.emissive *= p[i]),
    ("clearcoat", |m, p, i, _| m.clearcoat = p[i]),
    ("clearcoat_roughness", |m, p, i, _| m.clearcoat_roughness = p[i]),
    ("clearcoat_normal", |m, p, i, n| m.clearcoat_normal = color(p, i, n)),
    ("sheen_color", |m, p, i, n| m.sheen_color = color(p, i, n)),
    ("sheen_roughness", |m, p, i, _| m.sheen_roughness = p[i]),
    ("anisotropy", |m, p, i, _| m.anisotropy = p[i]),
    ("anisotropy_rotation", |m, p, i, _| m.grain = p[i].to_radians()),
    ("specular", |m, p, i, _| m.specular = p[i]),
    ("specular_color", |m, p, i, n| m.specular_color = color(p, i, n)),
    ("ior", |m, p, i, _| m.ior = p[i]),
    ("transmission", |m, p, i, _| m.transmission = p[i]),
    ("thickness", |m, p, i, _| m.thickness = p[i]),
    ("attenuation_color", |m, p, i, n| m.attenuation = color(p, i, n)),
    ("attenuation_distance", |m, p, i, _| m.distance = p[i]),
];

/// The planes that a piece has.
#[derive(Clone)]
pub struct Materials<'a> {
    planes: Vec<(Put, &'a [f32])>,
    texels: usize,
}

impl<'a> Materials<'a> {
    /// Of an evaluation on a surface.
    pub fn new(surface: &Surface, e: &'a Evaluation) -> Self {
        let plane = |(kind, put): (&str, Put)| e.channels.get(kind).map(|plane| (put, plane.as_slice()));
        Self { planes: READ.into_iter().filter_map(plane).collect(), texels: surface.atlas.len() }
    }

    /// At a covered texel.
    pub fn at(&self, texel: usize) -> Material {
        let mut m = Material::default();
        for (put, plane) in &self.planes {
            put(&mut m, plane, texel, self.texels);
        }
        m
    }
}
