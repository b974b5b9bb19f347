//! Sheen: light caught by fibres that stand up, by inverted Gaussians (Estevez & Kulla 2017, "Charlie") with the visibility of Neubelt & Pettineo 2013.

use std::sync::LazyLock;

use glam::Vec3;

use super::ggx::Table;
use crate::bake::rays::sin_cos_turn;

/// Fibres of a perceptual roughness.
#[derive(Debug, Clone, Copy)]
pub struct Fibres {
    inverse: f32,
    rough: f32,
}

/// Least roughness.
const SMOOTHEST: f32 = 0.07;

impl Fibres {
    /// Fibres of that roughness, 0…1.
    pub fn new(roughness: f32) -> Self {
        let rough = roughness.clamp(SMOOTHEST, 1.0);
        Self { inverse: 1.0 / (rough * rough), rough }
    }

    /// f · cos of the light, both directions local and above.
    pub fn reflect(&self, o: Vec3, i: Vec3) -> f32 {
        let h = (o + i).normalize_or(Vec3::Z);
        let sine = (1.0 - h.z * h.z).max(0.0).sqrt();
        let d = (2.0 + self.inverse) * libm::powf(sine, self.inverse) / std::f32::consts::TAU;
        d * i.z / (4.0 * (i.z + o.z - i.z * o.z).max(1e-4))
    }

    /// What they turn back towards a direction of even light. It can be more than all near the horizon, where the formula isn't physical: whoever lays it must not
    /// let it.
    pub fn turned_back(&self, cos: f32) -> f32 {
        TABLE.read([cos.clamp(0.0, 1.0).sqrt(), (self.rough - SMOOTHEST) / (1.0 - SMOOTHEST), 0.0, 0.0]).0
    }
}

/// Rings and directions of a ring that the table is summed over.
const RINGS: u32 = 72;
const AROUND: u32 = 36;

static TABLE: LazyLock<Table> = LazyLock::new(|| {
    Table::new([64, 56, 1, 1], |[u, r, ..]| {
        let fibres = Fibres::new(SMOOTHEST + r * (1.0 - SMOOTHEST));
        let cos = (u * u).clamp(1e-3, 1.0);
        let o = Vec3::new((1.0 - cos * cos).sqrt(), 0.0, cos);
        let mut sum = 0.0f64;
        for ring in 0..RINGS {
            // Denser towards the horizon, where fibres shine.
            let t = (ring as f32 + 0.5) / RINGS as f32;
            let (z, breadth) = (t * t, 2.0 * t);
            let flat = (1.0 - z * z).sqrt();
            for k in 0..AROUND {
                // Half a circle: the other half is its mirror image.
                let (s, c) = sin_cos_turn((k as f32 + 0.5) / (2 * AROUND) as f32);
                sum += f64::from(breadth * fibres.reflect(o, Vec3::new(flat * c, flat * s, z)));
            }
        }
        ((sum * std::f64::consts::TAU / f64::from(RINGS * AROUND)) as f32, 0.0)
    })
});
