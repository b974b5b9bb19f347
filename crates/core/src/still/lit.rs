//! Quick shading of a still: every lobe of the material under three lights and a sky that is bright above and dark below; no light is traced on.

use glam::Vec3;

use super::Shot;
use crate::bake::Surface;
use crate::bake::frame::frame;
use crate::evaluate::Evaluation;
use crate::raster::srgb::encode_u8;

const LIGHTS: [([f32; 3], [f32; 3]); 3] = [
    ([0.55, 0.75, 0.45], [2.6, 2.45, 2.2]),
    ([-0.8, 0.25, 0.35], [0.55, 0.65, 0.8]),
    ([-0.2, 0.35, -0.9], [1.1, 1.15, 1.25]),
];

/// The dressed piece as sRGB RGBA8, transparent around it. `occlusion` darkens the sky in hollows.
pub fn picture(shot: &Shot, surface: &Surface, e: &Evaluation, occlusion: Option<&[f32]>) -> Vec<u8> {
    let normals = e.normals(surface);
    let sample = |i: u32| {
        let i = i as usize;
        let c = tone(shade(shot, surface, e, &normals, occlusion, i));
        [c.x, c.y, c.z, e.channels.get("opacity").map_or(1.0, |o| o[i])]
    };
    let samples: Vec<Option<[f32; 4]>> = shot.texel.iter().map(|t| t.map(sample)).collect();
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
    let number = |kind: &str, bare: f32| e.channels.get(kind).map_or(bare, |c| c[i]);
    let color = |kind: &str, bare: f32| {
        e.channels.get(kind).map_or(Vec3::splat(bare), |c| Vec3::new(c[i], c[n_texels + i], c[2 * n_texels + i]))
    };
    let base = color("base_color", 0.5);
    let (rough, metal) = (number("roughness", 0.6).max(0.06), number("metallic", 0.0));
    let n0 = Vec3::new(a.nx[i], a.ny[i], a.nz[i]);
    let (t, b) = frame(surface, i);
    let [x, y, z] = normals[i];
    let n = (t * x + b * y + n0 * z).normalize_or(n0);
    let v = (shot.camera.eye - Vec3::new(a.px[i], a.py[i], a.pz[i])).normalize();
    let nv = n.dot(v).max(1e-3);
    let head_on = {
        let ior = number("ior", 1.5);
        (ior - 1.0) * (ior - 1.0) / ((ior + 1.0) * (ior + 1.0))
    };
    let f0 = (color("specular_color", 1.0) * (head_on * number("specular", 1.0))).lerp(base, metal);
    let through = number("transmission", 0.0) * (1.0 - metal);
    let diffuse = base * (1.0 - metal) * (1.0 - through) / std::f32::consts::PI;
    let stretch = {
        let (strength, angle) = (number("anisotropy", 0.0), number("anisotropy_rotation", 0.0).to_radians());
        let along = (t * libm::cosf(angle) + b * libm::sinf(angle)).normalize_or(t);
        let along = (along - n * n.dot(along)).normalize_or(t);
        // KHR_materials_anisotropy: the roughness along the direction grows towards 1 with the strength squared.
        let a2 = rough * rough;
        (along, n.cross(along), a2 + (1.0 - a2) * strength * strength, a2)
    };
    let coat = number("clearcoat", 0.0);
    let coat_rough = number("clearcoat_roughness", 0.05).max(0.06);
    let sheen = (color("sheen_color", 0.0), number("sheen_roughness", 0.5).max(0.07));
    // What the clear layer reflects doesn't reach what lies below it.
    let past = 1.0 - coat * schlick(0.04, n0.dot(v).max(0.0));
    let (mut below, mut above) = (Vec3::ZERO, Vec3::ZERO);
    for (direction, colour) in LIGHTS {
        let (l, colour) = (Vec3::from(direction).normalize(), Vec3::from(colour));
        let nl = n.dot(l);
        if nl > 0.0 {
            let lobes = diffuse + specular(n, v, l, stretch, f0) + sheen.0 * fibres(n, v, l, sheen.1);
            below += lobes * colour * nl;
        }
        if coat > 0.0 && n0.dot(l) > 0.0 {
            let round = (stretch.0, stretch.1, coat_rough * coat_rough, coat_rough * coat_rough);
            above += specular(n0, v, l, round, Vec3::splat(0.04)) * colour * (n0.dot(l) * coat);
        }
    }
    let open = occlusion.map_or(1.0, |o| o[i]) * number("occlusion", 1.0);
    let mirrored = |n: Vec3| n * (2.0 * n.dot(v)) - v;
    let fresnel = f0 + (Vec3::splat(1.0 - rough).max(f0) - f0) * (1.0 - nv) * (1.0 - nv) * (1.0 - nv) * (1.0 - nv);
    let velvet = sheen.0 * (1.0 - nv) * (1.0 - nv) * 0.6 * sky(n.y, 1.0);
    let around =
        diffuse * sky(n.y, 1.0) * std::f32::consts::PI * 0.55 + fresnel * sky(mirrored(n).y, rough) * 0.8 + velvet;
    let behind = base * (through * (1.0 - fresnel.max_element())) * sky(-v.y * 0.5 - n.y * 0.5, 0.4 + rough);
    let glaze = coat * schlick(0.04, n0.dot(v).max(0.0)) * 0.8;
    let glow = color("emissive", 0.0) * number("emissive_strength", 1.0);
    (below + around * open + behind + glow) * past + above + sky(mirrored(n0).y, coat_rough) * (glaze * open)
}

/// Schlick's approximation of Fresnel's reflectance.
fn schlick(f0: f32, cos: f32) -> f32 {
    let m = (1.0 - cos).clamp(0.0, 1.0);
    f0 + (1.0 - f0) * m * m * m * m * m
}

/// Anisotropic GGX (Burley 2012): `along` and `across` span the grain, with a roughness squared for each.
fn specular(n: Vec3, v: Vec3, l: Vec3, (along, across, at, ab): (Vec3, Vec3, f32, f32), f0: Vec3) -> Vec3 {
    let h = (v + l).normalize_or(n);
    let (nh, nl, nv) = (n.dot(h).max(0.0), n.dot(l), n.dot(v).max(1e-3));
    let (x, y) = (h.dot(along) / at, h.dot(across) / ab);
    let d = x * x + y * y + nh * nh;
    let ggx = 1.0 / (std::f32::consts::PI * at * ab * d * d);
    let lambda = |w: Vec3, nw: f32| Vec3::new(at * w.dot(along), ab * w.dot(across), nw).length();
    let smith = nl * lambda(v, nv) + nv * lambda(l, nl);
    let m = (1.0 - v.dot(h)).clamp(0.0, 1.0);
    let f = f0 + (Vec3::ONE - f0) * (m * m * m * m * m);
    f * (ggx * 0.5 / smith.max(1e-5))
}

/// Sheen: inverted Gaussian fibres (Estevez & Kulla 2017, "Charlie") with the visibility of Neubelt & Pettineo 2013.
fn fibres(n: Vec3, v: Vec3, l: Vec3, rough: f32) -> f32 {
    let h = (v + l).normalize_or(n);
    let (nl, nv, inverse) = (n.dot(l).max(1e-3), n.dot(v).max(1e-3), 1.0 / (rough * rough));
    let sine = (1.0 - n.dot(h) * n.dot(h)).max(0.0).sqrt();
    let d = (2.0 + inverse) * libm::powf(sine, inverse) / std::f32::consts::TAU;
    d / (4.0 * (nl + nv - nl * nv))
}

/// A sky that is bright above, with a soft horizon that roughness widens.
fn sky(up: f32, rough: f32) -> Vec3 {
    let width = 0.15 + rough * 0.85;
    let t = (up / width * 0.5 + 0.5).clamp(0.0, 1.0);
    Vec3::new(0.14, 0.14, 0.145).lerp(Vec3::new(0.85, 0.9, 0.95), t * t * (3.0 - 2.0 * t))
}
