//! Normals: smooth where faces meet gently, split at creases, weighted by area so that flats beside a bevel stay flat.

use std::collections::HashMap;

use glam::Vec3;

use super::Chart;

/// Cosine of the greatest angle between faces that count as one smooth surface.
const CREASE: f32 = 0.76;

/// One normal per triangle corner, per chart.
pub fn corner_normals(charts: &[Chart]) -> Vec<Vec<Vec3>> {
    let key = |shape: u32, p: Vec3| (shape, (p * 256.0).round().to_array().map(|v| v as i32));
    let mut faces: HashMap<(u32, [i32; 3]), Vec<Vec3>> = HashMap::new();
    let face = |c: &Chart, t: &[u32; 3]| {
        let [a, b, d] = t.map(|v| c.positions[v as usize]);
        (b - a).cross(d - a)
    };
    for c in charts {
        for t in &c.triangles {
            for v in t {
                faces.entry(key(c.shape, c.positions[*v as usize])).or_default().push(face(c, t));
            }
        }
    }
    let corner = |c: &Chart, own: Vec3, v: u32| {
        let own = own.normalize_or(Vec3::Y);
        let around = &faces[&key(c.shape, c.positions[v as usize])];
        let smooth = around.iter().filter(|n| n.normalize_or_zero().dot(own) > CREASE).sum::<Vec3>();
        smooth.normalize_or(own)
    };
    charts.iter().map(|c| c.triangles.iter().flat_map(|t| t.map(|v| corner(c, face(c, t), v))).collect()).collect()
}
