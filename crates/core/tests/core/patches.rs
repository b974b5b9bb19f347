//! Patches: squares of the textures that are worked out closely, over a smaller surface.

use crate::common::{coat, cube, document, evaluated, of_step, sphere, step, with_context};
use dustcoat_core::bake::{Band, Surface};
use dustcoat_core::document::{Document, Edit, apply};
use dustcoat_core::evaluate::bands::Bands;
use dustcoat_core::evaluate::texture::{GreenAxis, base_color, normal, orm};
use dustcoat_core::evaluate::{Cache, Evaluation};
use dustcoat_core::mask::Join;

/// Flakes with relief, over something even.
fn flaked() -> Document {
    let flakes = vec![
        step(Join::Replace, "worley", &[("size", 9.0.into())]),
        step(Join::Replace, "threshold", &[("cut", 0.45.into())]),
    ];
    document(vec![coat("l1", "#405060", vec![]), coat("l2", "#c08040", flakes)])
}

fn patch<R>(d: &Document, base: &Surface, at: (u32, [u32; 2]), go: impl FnOnce(&Band, &Evaluation) -> R) -> R {
    with_context(d, base, &Cache::new(1 << 28), |context| {
        let bands = Bands::new(d, context, at.0, &[]).unwrap();
        let patch = Band::patch(base, at.0, 0, at.1, 64, 4);
        let e = bands.patch(&patch).unwrap();
        go(&patch, &e)
    })
}

/// The bytes of a texture under a patch.
fn under(whole: &[u8], size: u32, patch: &Band) -> Vec<u8> {
    let (columns, rows) = (&patch.surface.atlas.columns, patch.surface.atlas.held());
    let row = |y: u32| &whole[((y * size + columns.start) * 4) as usize..((y * size + columns.end) * 4) as usize];
    rows.flat_map(row).copied().collect()
}

#[test]
fn a_patch_of_the_surface_s_own_size_is_the_same_to_the_byte() {
    for piece in [cube(40.0), sphere(30.0)] {
        let (d, base) = (flaked(), Surface::new(piece, 256));
        let whole = evaluated(&d, &base);
        let (color, packed) = (base_color(&base, &whole), orm(&base, &whole, None));
        let slopes = normal(&base, &whole, GreenAxis::Up);
        for corner in [[0, 0], [64, 128], [192, 192]] {
            patch(&d, &base, (256, corner), |patch, e| {
                let held = &patch.surface.atlas;
                let covered: Vec<usize> = held.texel.iter().map(|at| held.place(*at) * 4).collect();
                let same = |ours: Vec<u8>, theirs: Vec<u8>| {
                    covered.iter().filter(|at| ours[**at..**at + 4] == theirs[**at..**at + 4]).count()
                };
                let all = covered.len();
                assert_eq!(same(base_color(&patch.surface, e), under(&color, 256, patch)), all);
                assert_eq!(same(orm(&patch.surface, e, None), under(&packed, 256, patch)), all);
                // Slopes at the patch's own rim are taken from one side, and right at a seam from places of their own.
                let own = normal(&patch.surface, e, GreenAxis::Up);
                assert!(same(own, under(&slopes, 256, patch)) * 10 > all * 9, "of {all} at {corner:?}");
            });
        }
    }
}

#[test]
fn a_patch_is_as_sharp_as_the_surface_at_its_size() {
    let d = flaked();
    let (base, large) = (Surface::new(sphere(30.0), 128), Surface::new(sphere(30.0), 1024));
    let (coarse, sharp) = (evaluated(&d, &base), base_color(&large, &evaluated(&d, &large)));
    let coarse = base_color(&base, &coarse);
    let (mut off, mut before, mut texels) = (0u64, 0u64, 0u64);
    for corner in [[256, 448], [640, 512]] {
        patch(&d, &base, (1024, corner), |patch, e| {
            let (ours, theirs) = (base_color(&patch.surface, e), under(&sharp, 1024, patch));
            for (k, at) in patch.surface.atlas.texel.iter().enumerate() {
                assert_eq!(patch.surface.atlas.place(*at), k, "the whole patch lies on the sphere");
                let drawn_up = &coarse[((at / 1024 / 8 * 128 + at % 1024 / 8) * 4) as usize..][..4];
                let apart = |a: &[u8]| u64::from(a[0].abs_diff(theirs[k * 4]));
                (off, before, texels) = (off + apart(&ours[k * 4..]), before + apart(drawn_up), texels + 1);
            }
        });
    }
    assert!(texels > 2 * 64 * 64 && before > 8 * off, "off by {off}, drawn up by {before}, in {texels} texels");
}

#[test]
fn a_patch_that_nothing_lies_on_is_empty_and_a_change_is_seen_in_it() {
    let (d, base) = (flaked(), Surface::new(sphere(30.0), 128));
    let other = apply(&d, &Edit::SetParam { target: of_step("l2", "s2", "cut"), value: Some(0.6.into()) }).unwrap();
    let bytes = |d: &Document| patch(d, &base, (512, [128, 192]), |patch, e| base_color(&patch.surface, e));
    assert_ne!(bytes(&d), bytes(&other));
    let mut aside = (*sphere(30.0)).clone();
    aside.uvs.iter_mut().for_each(|uv| *uv = uv.map(|c| c * 0.4));
    let aside = Surface::new(std::sync::Arc::new(aside), 128);
    patch(&d, &aside, (512, [400, 400]), |patch, e| {
        assert!(patch.surface.atlas.is_empty() && e.channels["base_color"].is_empty());
        assert_eq!(base_color(&patch.surface, e).len(), 72 * 72 * 4, "the same number of bytes");
    });
}
