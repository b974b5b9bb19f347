//! Normals from height: by the metric, in millimetres, whatever the size of texture and piece.

use std::sync::Arc;

use crate::common::{plate, sphere_of};
use dustcoat_core::bake::frame::frame;
use dustcoat_core::bake::{Atlas, Band, Surface};
use dustcoat_core::finish::relief::normals;
use dustcoat_core::mesh::{Piece, Soup};

#[test]
fn a_slope_gives_its_own_angle_at_every_texture_size() {
    for (side, size) in [(100.0, 64), (100.0, 256), (2000.0, 128)] {
        let surface = Surface::new(plate(side), size);
        let a = &surface.atlas;
        for slope in [0.1f32, 1.0] {
            // Rising to the right: the normal leans to the left, by the slope.
            let height: Vec<f32> = a.px.iter().map(|x| x * slope).collect();
            let expected = glam::Vec3::new(-slope, 0.0, 1.0).normalize();
            for n in normals(&surface, &height, &[]) {
                assert!((glam::Vec3::from(n) - expected).length() < 1e-3, "{n:?} against {expected}");
            }
        }
    }
}

#[test]
fn y_is_up_the_texture() {
    let surface = Surface::new(plate(100.0), 64);
    // Towards −z is up the texture of the plate: rising there, the normal leans down.
    let height: Vec<f32> = surface.atlas.pz.iter().map(|z| -z * 0.5).collect();
    for n in normals(&surface, &height, &[]) {
        assert!(n[1] < -0.4 && n[0].abs() < 1e-4, "{n:?}");
    }
}

#[test]
fn even_height_is_flat_and_a_chart_never_reads_its_neighbour_in_the_square() {
    let mut soup = Soup::default();
    // Two plates side by side in the square, far apart in space, at very different heights.
    let up = |x: f32| [[x, 0.0, 10.0], [x + 10.0, 0.0, 10.0], [x + 10.0, 0.0, 0.0], [x, 0.0, 0.0]];
    crate::common::quad(&mut soup, "a", up(0.0), [0.0, 0.0, 0.5, 1.0]);
    crate::common::quad(&mut soup, "b", up(1000.0), [0.5, 0.0, 1.0, 1.0]);
    let surface = Surface::new(Arc::new(Piece::build(soup).unwrap()), 64);
    let height: Vec<f32> = surface.atlas.part.iter().map(|p| f32::from(*p) * 50.0).collect();
    assert!(normals(&surface, &height, &[]).iter().all(|n| *n == [0.0, 0.0, 1.0]));
}

#[test]
fn where_the_surface_ends_slopes_are_as_exact_as_within() {
    let surface = Surface::new(plate(100.0), 64);
    let a = &surface.atlas;
    // A dish: its slope along x is x / 100.
    let height: Vec<f32> = a.px.iter().zip(&a.pz).map(|(x, z)| (x * x + z * z) / 200.0).collect();
    for (i, n) in normals(&surface, &height, &[]).iter().enumerate() {
        let expected = glam::Vec3::new(-a.px[i] / 100.0, a.pz[i] / 100.0, 1.0).normalize();
        let off = (glam::Vec3::from(*n) - expected).length();
        assert!(off < 2e-3, "off by {off} at {} {}", a.px[i], a.pz[i]);
    }
}

#[test]
fn slopes_in_a_band_go_on_across_a_seam() {
    // Cut at the back, and with room around its chart.
    let mut piece = (*sphere_of(50.0, 128, 64)).clone();
    piece.uvs.iter_mut().for_each(|uv| *uv = uv.map(|c| 0.1 + 0.8 * c));
    let base = Surface::new(Arc::new(piece), 128);
    let band = Band::build(&base, 512, 224, 64);
    let (a, fringe) = (&band.surface.atlas, band.fringe());
    let slope = glam::Vec3::new(0.05, 0.1, 0.3);
    let heights = |a: &Atlas| -> Vec<f32> {
        (0..a.len()).map(|i| slope.dot(glam::Vec3::new(a.px[i], a.py[i], a.pz[i]))).collect()
    };
    let beyond = fringe.at.into_iter().zip(heights(&fringe.places.surface.atlas)).collect::<Vec<_>>();
    assert!(beyond.len() > 2 * 64, "both sides of the cut: {}", beyond.len());
    let normals = normals(&band.surface, &heights(a), &beyond);
    let mut along_the_cut = 0;
    for i in band.own().filter(|i| a.area[*i] > 0.0) {
        let n = glam::Vec3::new(a.nx[i], a.ny[i], a.nz[i]);
        let (t, b) = frame(&band.surface, i);
        let bent = n - (slope - n * n.dot(slope));
        let expected = glam::Vec3::new(bent.dot(t), bent.dot(b), bent.dot(n)).normalize();
        let off = (glam::Vec3::from(normals[i]) - expected).length();
        let x = a.texel[i] % 512;
        assert!(off < 0.01, "off by {off} at column {x}");
        along_the_cut += u32::from(x == 51 || x == 460);
    }
    assert_eq!(along_the_cut, 2 * 64);
}

#[test]
fn a_renderer_that_reads_mikktspace_sees_the_normals_that_were_meant() {
    // So coarse that tangents differ much from corner to corner.
    let piece = sphere_of(50.0, 16, 8);
    let surface = Surface::new(piece.clone(), 256);
    let a = &surface.atlas;
    let mut worst = 0.0f32;
    for i in (0..a.len()).filter(|i| a.area[*i] > 0.0) {
        // What is meant: the sphere's own normal, tilted by 20° towards a fixed direction.
        let n = glam::Vec3::new(a.nx[i], a.ny[i], a.nz[i]);
        let side =
            (glam::Vec3::new(0.3, 0.8, -0.5) - n * n.dot(glam::Vec3::new(0.3, 0.8, -0.5))).normalize_or(glam::Vec3::X);
        let meant = (n + side * 20f32.to_radians().tan()).normalize();
        let (t, b) = frame(&surface, i);
        let written = [meant.dot(t), meant.dot(b), meant.dot(n)];
        // What a renderer makes of it, by the barycentrics of the texel's centre in the picture: corners' normals and tangents mixed, the bitangent across them.
        let tri = piece.triangles[a.triangle[i] as usize].map(|v| v as usize);
        let at = a.texel[i];
        let p = glam::Vec2::new((at % a.size) as f32 + 0.5, (at / a.size) as f32 + 0.5) / a.size as f32;
        let c = tri.map(|v| glam::Vec2::from(piece.uvs[v]));
        let double = (c[1] - c[0]).perp_dot(c[2] - c[0]);
        let w = [(c[1] - p).perp_dot(c[2] - p), (c[2] - p).perp_dot(c[0] - p), (c[0] - p).perp_dot(c[1] - p)]
            .map(|w| w / double);
        let mix = |of: &dyn Fn(usize) -> glam::Vec3| (0..3).map(|k| of(tri[k]) * w[k]).sum::<glam::Vec3>().normalize();
        let normal = mix(&|v| glam::Vec3::from(piece.normals[v]));
        let tangent = mix(&|v| glam::Vec3::from_slice(&piece.tangents[v][..3]));
        let bitangent = normal.cross(tangent) * piece.tangents[tri[0]][3];
        let seen = (tangent * written[0] + bitangent * written[1] + normal * written[2]).normalize();
        worst = worst.max(seen.angle_between(meant).to_degrees());
    }
    assert!(worst < 2.0, "off by up to {worst}°");
}
