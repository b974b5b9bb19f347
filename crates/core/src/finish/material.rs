//! What a spot of the surface is made of: all channels at one place, as light meets them.

use glam::Vec3;

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
    /// What no channel has been read into.
    pub(super) const NOTHING: Material = Material {
        base: Vec3::ZERO,
        metallic: 0.0,
        roughness: 0.0,
        opacity: 0.0,
        emissive: Vec3::ZERO,
        clearcoat: 0.0,
        clearcoat_roughness: 0.0,
        clearcoat_normal: Vec3::ZERO,
        sheen_color: Vec3::ZERO,
        sheen_roughness: 0.0,
        anisotropy: 0.0,
        grain: 0.0,
        specular: 0.0,
        specular_color: Vec3::ZERO,
        ior: 0.0,
        transmission: 0.0,
        thickness: 0.0,
        attenuation: Vec3::ZERO,
        distance: 0.0,
    };

    /// What is left of light on its way through the body (Beer and Lambert).
    pub fn within(&self) -> Vec3 {
        let ways = self.thickness / self.distance.max(1e-3);
        if ways == 0.0 || self.attenuation == Vec3::ONE {
            return Vec3::ONE;
        }
        self.attenuation.map(|c| libm::powf(c.clamp(0.0, 1.0), ways))
    }
}

/// Reads a plane's texel into a material: the plane, all components one after the other, the texel, and how many there are.
pub type Put = fn(&mut Material, &[f32], usize, usize);

/// The colour of a texel.
pub(super) fn color(plane: &[f32], i: usize, n: usize) -> Vec3 {
    Vec3::new(plane[i], plane[n + i], plane[2 * n + i])
}
