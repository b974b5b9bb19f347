//! Normals from height: by the metric, in millimetres, whatever the size of texture and piece.

mod common;

use std::sync::Arc;

use common::plate;
use dustcoat_core::bake::Surface;
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
            for n in normals(&surface, &height) {
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
    for n in normals(&surface, &height) {
        assert!(n[1] < -0.4 && n[0].abs() < 1e-4, "{n:?}");
    }
}

#[test]
fn even_height_is_flat_and_a_chart_never_reads_its_neighbour_in_the_square() {
    let mut soup = Soup::default();
    // Two plates side by side in the square, far apart in space, at very different heights.
    let up = |x: f32| [[x, 0.0, 10.0], [x + 10.0, 0.0, 10.0], [x + 10.0, 0.0, 0.0], [x, 0.0, 0.0]];
    common::quad(&mut soup, "a", up(0.0), [0.0, 0.0, 0.5, 1.0]);
    common::quad(&mut soup, "b", up(1000.0), [0.5, 0.0, 1.0, 1.0]);
    let surface = Surface::new(Arc::new(Piece::build(soup).unwrap()), 64);
    let height: Vec<f32> = surface.atlas.part.iter().map(|p| f32::from(*p) * 50.0).collect();
    assert!(normals(&surface, &height).iter().all(|n| *n == [0.0, 0.0, 1.0]));
}
