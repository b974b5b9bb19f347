//! Shading of a still: GGX (Walter et al. 2007) with Smith's height-correlated visibility under three lights, and a sky that is
//! bright above and dark below.

use glam::Vec3;

use super::Shot;
use crate::bake::Surface;
use crate::evaluate::Evaluation;
use crate::finish::relief;
use crate::raster::srgb::encode_u8;

const LIGHTS: [([f32; 3], [f32; 3]); 3] = [
    ([0.55, 0.75, 0.45], [2.6, 2.45, 2.2]),
    ([-0.8, 0.25, 0.35], [0.55, 0.65, 0.8]),
    ([-0.2, 0.35, -0.9], [1.1, 1.15, 1.25]),
];

/// The dressed piece as sRGB RGBA8, transparent around it. `occlusion` darkens the sky in hollows.
pub fn picture(shot: &Shot, surface: &Surface, e: &Evaluation, occlusion: Option<&[f32]>) -> Vec<u8> {
    let normals = relief::normals(surface, &e.channels["height"]);
    let samples: Vec<Option<[f32; 3]>> = shot
        .texel
        .iter()
        .map(|t| t.map(|i| tone(shade(shot, surface, e, &normals, occlusion, i as usize)).to_array()))
        .collect();
    shot.resolve(&samples, encode_u8)
}

/// Keeps highlights from clipping: Reinhard's curve with a white point of 4.
fn tone(c: Vec3) -> Vec3 {
    c * (Vec3::ONE + c / 16.0) / (Vec3::ONE + c)
}

fn shade(
    shot: &Shot,
    surface: &Surface,
    e: &Evaluation,
    normals: &[[f32; 3]],
    occlusion: Option<&[f32]>,
    i: usize,
) -> Vec3 {
    let (a, n_texels) = (&surface.atlas, surface.atlas.len());
    let c = &e.channels["base_color"];
    let base = Vec3::new(c[i], c[n_texels + i], c[2 * n_texels + i]);
    let (rough, metal) = (e.channels["roughness"][i].max(0.06), e.channels["metallic"][i]);
    let n0 = Vec3::new(a.nx[i], a.ny[i], a.nz[i]);
    let frame = surface.piece.tangents[surface.piece.triangles[a.triangle[i] as usize][0] as usize];
    let t = Vec3::new(frame[0], frame[1], frame[2]);
    let t = (t - n0 * n0.dot(t)).normalize_or(n0.any_orthonormal_vector());
    let [x, y, z] = normals[i];
    let n = (t * x + n0.cross(t) * frame[3] * y + n0 * z).normalize_or(n0);
    let v = (shot.camera.eye - Vec3::new(a.px[i], a.py[i], a.pz[i])).normalize();
    let nv = n.dot(v).max(1e-3);
    let f0 = Vec3::splat(0.04).lerp(base, metal);
    let diffuse = base * (1.0 - metal) / std::f32::consts::PI;
    let mut out = Vec3::ZERO;
    for (direction, colour) in LIGHTS {
        let l = Vec3::from(direction).normalize();
        let nl = n.dot(l);
        if nl > 0.0 {
            out += (diffuse + specular(n, v, l, nv, nl, rough, f0)) * Vec3::from(colour) * nl;
        }
    }
    let open = occlusion.map_or(1.0, |o| o[i]);
    let reflected = n * (2.0 * n.dot(v)) - v;
    let schlick = f0 + (Vec3::splat(1.0 - rough).max(f0) - f0) * (1.0 - nv) * (1.0 - nv) * (1.0 - nv) * (1.0 - nv);
    out + (diffuse * sky(n.y, 1.0) * std::f32::consts::PI * 0.55 + schlick * sky(reflected.y, rough) * 0.8) * open
}

fn specular(n: Vec3, v: Vec3, l: Vec3, nv: f32, nl: f32, rough: f32, f0: Vec3) -> Vec3 {
    let h = (v + l).normalize_or(n);
    let a2 = rough * rough * rough * rough;
    let nh = n.dot(h).max(0.0);
    let d = nh * nh * (a2 - 1.0) + 1.0;
    let ggx = a2 / (std::f32::consts::PI * d * d);
    let smith = nl * (nv * nv * (1.0 - a2) + a2).sqrt() + nv * (nl * nl * (1.0 - a2) + a2).sqrt();
    let m = (1.0 - v.dot(h)).clamp(0.0, 1.0);
    let f = f0 + (Vec3::ONE - f0) * (m * m * m * m * m);
    f * (ggx * 0.5 / smith.max(1e-5))
}

/// A sky that is bright above, with a soft horizon that roughness widens.
fn sky(up: f32, rough: f32) -> Vec3 {
    let width = 0.15 + rough * 0.85;
    let t = (up / width * 0.5 + 0.5).clamp(0.0, 1.0);
    Vec3::new(0.14, 0.14, 0.145).lerp(Vec3::new(0.85, 0.9, 0.95), t * t * (3.0 - 2.0 * t))
}
