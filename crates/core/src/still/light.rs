//! Made-up skies and lamps. Each is a small painted panorama for reflections and soft light, and a few lamps for hard light. One entry each in [`LIGHTS`].

use std::f32::consts::{PI, TAU};

use glam::Vec3;
use serde::Serialize;
use ts_rs::TS;

/// A light from one direction.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, TS)]
pub struct Lamp {
    /// Degrees around the piece, from the front to the right.
    pub around: f32,
    /// Degrees above the horizon.
    pub above: f32,
    /// Linear.
    pub color: [f32; 3],
    /// Of a lamp: what a surface that faces it gets, in units of π × radiance ⁄ π. Of a glow: radiance.
    pub strength: f32,
}

/// A soft patch of light in the panorama.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, TS)]
pub struct Glow {
    /// Where, and how bright.
    pub lamp: Lamp,
    /// Half its width in degrees.
    pub spread: f32,
}

/// A set-up of light.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, TS)]
pub struct Light {
    /// Key.
    pub key: &'static str,
    /// What the artist reads.
    pub label: &'static str,
    /// Colour straight above.
    pub zenith: [f32; 3],
    /// Colour at the horizon.
    pub horizon: [f32; 3],
    /// Colour below.
    pub ground: [f32; 3],
    /// Patches of light.
    pub glows: &'static [Glow],
    /// Hard lights.
    pub lamps: &'static [Lamp],
}

const fn lamp(around: f32, above: f32, color: [f32; 3], strength: f32) -> Lamp {
    Lamp { around, above, color, strength }
}

const fn glow(around: f32, above: f32, spread: f32, color: [f32; 3], strength: f32) -> Glow {
    Glow { lamp: lamp(around, above, color, strength), spread }
}

const WHITE: [f32; 3] = [1.0, 1.0, 1.0];

/// All of them.
pub static LIGHTS: &[Light] = &[
    Light {
        key: "quay",
        label: "quay, overcast",
        zenith: [0.95, 1.0, 1.08],
        horizon: [0.75, 0.78, 0.8],
        ground: [0.2, 0.19, 0.175],
        glows: &[glow(-35.0, 55.0, 30.0, [1.0, 0.98, 0.95], 3.2), glow(140.0, 25.0, 16.0, [0.9, 0.97, 1.0], 1.6)],
        lamps: &[lamp(-35.0, 52.0, [1.0, 0.97, 0.93], 1.5)],
    },
    Light {
        key: "dusk",
        label: "quay at dusk",
        zenith: [0.16, 0.22, 0.38],
        horizon: [0.85, 0.52, 0.34],
        ground: [0.07, 0.065, 0.07],
        glows: &[glow(62.0, 9.0, 20.0, [1.0, 0.6, 0.3], 9.0), glow(-120.0, 35.0, 34.0, [0.4, 0.55, 1.0], 0.9)],
        lamps: &[lamp(62.0, 16.0, [1.0, 0.68, 0.42], 2.6), lamp(-130.0, 30.0, [0.5, 0.65, 1.0], 0.7)],
    },
    Light {
        key: "workshop",
        label: "workshop lamps",
        zenith: [0.22, 0.22, 0.22],
        horizon: [0.16, 0.16, 0.165],
        ground: [0.09, 0.085, 0.08],
        glows: &[
            glow(-48.0, 42.0, 15.0, [1.0, 0.95, 0.88], 13.0),
            glow(55.0, 22.0, 9.0, [0.92, 0.96, 1.0], 9.0),
            glow(165.0, 38.0, 10.0, WHITE, 14.0),
        ],
        lamps: &[lamp(-48.0, 42.0, [1.0, 0.95, 0.88], 1.7), lamp(165.0, 38.0, WHITE, 1.4)],
    },
    Light {
        key: "noon",
        label: "open quay at noon",
        zenith: [0.32, 0.52, 0.95],
        horizon: [0.8, 0.88, 0.98],
        ground: [0.3, 0.28, 0.25],
        glows: &[glow(28.0, 64.0, 5.0, [1.0, 0.97, 0.9], 60.0), glow(-150.0, 20.0, 40.0, [0.9, 0.95, 1.0], 0.5)],
        lamps: &[lamp(28.0, 64.0, [1.0, 0.96, 0.88], 3.4)],
    },
    Light {
        key: "fog",
        label: "morning fog",
        zenith: [0.82, 0.84, 0.86],
        horizon: [0.88, 0.89, 0.9],
        ground: [0.42, 0.42, 0.42],
        glows: &[glow(80.0, 18.0, 55.0, [1.0, 0.96, 0.9], 0.7)],
        lamps: &[lamp(80.0, 30.0, [1.0, 0.97, 0.92], 0.5)],
    },
    Light {
        key: "moon",
        label: "sluice by night",
        zenith: [0.012, 0.018, 0.035],
        horizon: [0.03, 0.04, 0.06],
        ground: [0.012, 0.012, 0.014],
        glows: &[glow(-60.0, 48.0, 4.0, [0.75, 0.85, 1.0], 22.0), glow(75.0, 4.0, 10.0, [1.0, 0.62, 0.25], 7.0)],
        lamps: &[lamp(-60.0, 48.0, [0.7, 0.82, 1.0], 0.7), lamp(75.0, 12.0, [1.0, 0.62, 0.3], 1.5)],
    },
    Light {
        key: "strips",
        label: "studio, long strips",
        zenith: [0.1, 0.1, 0.1],
        horizon: [0.07, 0.07, 0.07],
        ground: [0.05, 0.05, 0.05],
        glows: &[
            glow(-55.0, -30.0, 9.0, WHITE, 7.0),
            glow(-55.0, -10.0, 9.0, WHITE, 7.0),
            glow(-55.0, 10.0, 9.0, WHITE, 7.0),
            glow(-55.0, 30.0, 9.0, WHITE, 7.0),
            glow(-55.0, 50.0, 9.0, WHITE, 7.0),
            glow(-55.0, 70.0, 9.0, WHITE, 7.0),
            glow(70.0, -30.0, 5.0, WHITE, 9.0),
            glow(70.0, -10.0, 5.0, WHITE, 9.0),
            glow(70.0, 10.0, 5.0, WHITE, 9.0),
            glow(70.0, 30.0, 5.0, WHITE, 9.0),
            glow(70.0, 50.0, 5.0, WHITE, 9.0),
            glow(70.0, 70.0, 5.0, WHITE, 9.0),
            glow(180.0, 65.0, 22.0, WHITE, 2.4),
        ],
        lamps: &[lamp(-55.0, 30.0, WHITE, 1.6), lamp(70.0, 25.0, WHITE, 1.1)],
    },
    Light {
        key: "even",
        label: "even grey, for colours",
        zenith: [0.9, 0.9, 0.9],
        horizon: [0.9, 0.9, 0.9],
        ground: [0.9, 0.9, 0.9],
        glows: &[],
        lamps: &[lamp(-20.0, 40.0, WHITE, 0.35)],
    },
];

/// The set-up of that key.
pub fn find(key: &str) -> Option<&'static Light> {
    LIGHTS.iter().find(|l| l.key == key)
}

/// From behind, above and to the side: it draws the outline.
pub const RIM: Lamp = lamp(158.0, 34.0, WHITE, 6.0);

impl Lamp {
    /// Where it lies, seen from the piece.
    pub fn towards(&self) -> Vec3 {
        let (around, above) = (self.around.to_radians(), self.above.to_radians());
        let flat = libm::cosf(above);
        Vec3::new(flat * libm::sinf(around), libm::sinf(above), flat * libm::cosf(around))
    }
}

fn smooth(t: f32) -> f32 {
    let t = t.clamp(0.0, 1.0);
    t * t * (3.0 - 2.0 * t)
}

/// Texels of a panorama across and down.
pub const PANORAMA: [usize; 2] = [256, 128];

impl Light {
    /// Radiance from a direction.
    pub fn sky(&self, towards: Vec3) -> Vec3 {
        let [zenith, horizon, ground] = [self.zenith, self.horizon, self.ground].map(Vec3::from);
        let up = towards.y;
        let mut out = if up >= 0.0 {
            horizon.lerp(zenith, libm::powf(up, 0.6))
        } else {
            horizon.lerp(ground, smooth(-up / 0.25))
        };
        for glow in self.glows {
            let angle = libm::acosf(towards.dot(glow.lamp.towards()).clamp(-1.0, 1.0)).to_degrees();
            let inside = 1.0 - smooth((angle - glow.spread * 0.6) / (glow.spread * 0.8));
            out += Vec3::from(glow.lamp.color) * (glow.lamp.strength * inside);
        }
        out
    }

    /// The sky as an equirectangular picture: texel by texel, from the nadir up, linear red, green and blue. Across it goes around from −x over −z, by atan2(z, x).
    pub fn panorama(&self) -> Vec<[f32; 3]> {
        let [w, h] = PANORAMA;
        let at = |i: usize| {
            let around = ((i % w) as f32 + 0.5) / w as f32 * TAU - PI;
            let above = (((i / w) as f32 + 0.5) / h as f32 - 0.5) * PI;
            let flat = libm::cosf(above);
            let towards = Vec3::new(libm::cosf(around) * flat, libm::sinf(above), libm::sinf(around) * flat);
            self.sky(towards).to_array()
        };
        (0..w * h).map(at).collect()
    }
}
