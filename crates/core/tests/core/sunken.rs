//! Shells that are sunk into one another: what lies in several of them is solid once, and what lies within is no surface.

use std::sync::Arc;

use crate::common::{add_box, measured, numbers, quad};
use dustcoat_core::bake::Surface;
use dustcoat_core::mesh::{Piece, Soup};
use dustcoat_core::setting::Param;

/// A slab 20 mm thick whose top lies at 0, and a square rod of 8 mm that stands 20 mm out of it and reaches down to `foot`, open at its lower end unless `closed`.
fn slab_with_rod(foot: f32, closed: bool) -> Surface {
    let mut soup = Soup::default();
    add_box(&mut soup, [-40.0, -20.0, -40.0], [40.0, 0.0, 40.0], [0.0, 0.0, 1.0, 0.6]);
    soup.parts.fill(0);
    let mut rod = Soup::default();
    add_box(&mut rod, [-4.0, foot, -4.0], [4.0, 20.0, 4.0], [0.0, 0.6, 1.0, 1.0]);
    let is_floor = |t: usize| rod.positions[3 * t..3 * t + 3].iter().all(|p| p[1] == foot);
    let part = soup.part("rod");
    for t in (0..rod.len()).filter(|t| closed || !is_floor(*t)) {
        soup.push(part, [0, 1, 2].map(|k| (rod.positions[3 * t + k], rod.normals[3 * t + k], rod.uvs[3 * t + k])));
    }
    Surface::new(Arc::new(Piece::build(soup).unwrap()), 256)
}

/// The mean of a reading over the texels for which `of` holds.
fn mean(surface: &Surface, kind: &str, settings: &[(&str, Param)], of: impl Fn([f32; 3], u16) -> bool) -> f32 {
    let (plane, a) = (measured(surface, kind, settings), &surface.atlas);
    let all: Vec<f32> =
        (0..a.len()).filter(|i| of([a.px[*i], a.py[*i], a.pz[*i]], a.part[*i])).map(|i| plane[i]).collect();
    assert!(all.len() > 30, "{} texels", all.len());
    all.iter().sum::<f32>() / all.len() as f32
}

#[test]
fn a_rod_reads_alike_whether_it_stands_on_a_slab_or_is_sunk_into_it_open_or_closed() {
    let radius = [("fine", 2.0), ("medium", 10.0), ("broad", 14.0), ("rays", 256.0)];
    // On the slab beside the rod, on the rod above the slab, at the rod's upper rim.
    let beside = |p: [f32; 3], part: u16| {
        let [far, near] = [p[0].abs().max(p[2].abs()), p[0].abs().min(p[2].abs())];
        part == 0 && p[1] > -0.01 && (4.5..7.0).contains(&far) && near < 3.0
    };
    let above = |p: [f32; 3], part: u16| part != 0 && (1.0..5.0).contains(&p[1]);
    let rim = |p: [f32; 3], part: u16| part != 0 && (17.0..19.9).contains(&p[1]);
    let all = |s: &Surface| {
        let at = |kind, of: &dyn Fn([f32; 3], u16) -> bool| mean(s, kind, &numbers(radius), of);
        [at("recesses", &beside), at("recesses", &above), at("edges", &rim)]
    };
    let standing = all(&slab_with_rod(0.0, false));
    for (foot, closed) in [(-15.0, true), (-15.0, false), (-30.0, true)] {
        let sunk = all(&slab_with_rod(foot, closed));
        let off = standing.iter().zip(sunk).map(|(a, b)| (a - b).abs()).fold(0.0, f32::max);
        assert!(off < 0.02, "down to {foot}, closed {closed}: {sunk:?}, not {standing:?}");
    }
}

#[test]
fn thickness_goes_on_through_what_is_sunk_in() {
    let settings = numbers([("distance", 60.0), ("rays", 256.0)]);
    let top =
        |p: [f32; 3], part: u16| part == 0 && p[1] > -0.01 && (6.0..12.0).contains(&p[0].abs()) && p[2].abs() < 12.0;
    let bare = mean(&slab_with_rod(0.0, false), "thickness", &settings, top);
    let sunk = mean(&slab_with_rod(-15.0, true), "thickness", &settings, top);
    assert!((bare - sunk).abs() < 0.01, "{sunk}, not {bare}");
    // Down the rod the way leads through the slab as well.
    let end = |p: [f32; 3], part: u16| part != 0 && p[1] > 19.9 && p[0].abs() < 3.0 && p[2].abs() < 3.0;
    let (on, through) = (
        mean(&slab_with_rod(0.0, false), "thickness", &settings, end),
        mean(&slab_with_rod(-15.0, true), "thickness", &settings, end),
    );
    assert!((on - through).abs() < 0.02, "{through}, not {on}");
}

#[test]
fn what_lies_under_a_sheet_does_not_count_as_sunk() {
    let covered = |with: bool| {
        let mut soup = Soup::default();
        add_box(&mut soup, [-40.0, -20.0, -40.0], [40.0, 0.0, 40.0], [0.0, 0.0, 1.0, 0.6]);
        soup.parts.fill(0);
        if with {
            // A cloth laid over the slab, open on all sides, hanging down beside it.
            let corners = [[-50.0, 3.0, 50.0], [50.0, 3.0, 50.0], [50.0, 3.0, -50.0], [-50.0, 3.0, -50.0]];
            quad(&mut soup, "cloth", corners, [0.0, 0.6, 0.5, 1.0]);
            let hem = [[50.0, 3.0, 50.0], [50.0, -30.0, 50.0], [50.0, -30.0, -50.0], [50.0, 3.0, -50.0]];
            quad(&mut soup, "cloth", hem, [0.5, 0.6, 1.0, 1.0]);
        }
        let surface = Surface::new(Arc::new(Piece::build(soup).unwrap()), 128);
        let slab = |p: [f32; 3], part: u16| part == 0 && p[1] > -0.01 && p[0].abs() < 30.0 && p[2].abs() < 30.0;
        mean(&surface, "recesses", &numbers([("medium", 2.0), ("rays", 64.0)]), slab)
    };
    assert!((covered(true) - covered(false)).abs() < 0.01, "{}, not {}", covered(true), covered(false));
}

#[test]
fn what_is_hidden_reads_like_what_is_seen_beside_it_and_runs_no_dark_line_along_it() {
    let surface = slab_with_rod(-15.0, true);
    let open = |low: f32, high: f32| {
        let settings = numbers([("distance", 60.0), ("rays", 128.0)]);
        mean(&surface, "occlusion", &settings, |p, part| part != 0 && (low..high).contains(&p[1]))
    };
    let (seen, hidden, deep) = (open(0.2, 1.2), open(-0.95, -0.1), open(-14.0, -8.0));
    assert!(seen > 0.3 && (hidden - seen).abs() < 0.06, "{hidden} just below, {seen} just above");
    assert!(deep < 0.02, "{deep} far within, where nothing is carried to");
}

#[test]
fn what_a_shell_with_an_open_end_stands_on_is_hidden_and_what_lies_under_a_sheet_is_not() {
    // The slab's top below the rod, which stands on it without a floor; it takes on what lies beside it.
    let surface = slab_with_rod(0.0, false);
    let settings = numbers([("distance", 60.0), ("rays", 128.0)]);
    let below = |p: [f32; 3], part: u16| {
        part == 0 && p[1] > -0.01 && p[0].abs().max(p[2].abs()) < 3.9 && p[0].abs().max(p[2].abs()) > 2.5
    };
    let beside = |p: [f32; 3], part: u16| part == 0 && p[1] > -0.01 && (4.2..6.5).contains(&p[0].abs().max(p[2].abs()));
    let (below, beside) =
        (mean(&surface, "occlusion", &settings, below), mean(&surface, "occlusion", &settings, beside));
    assert!((below - beside).abs() < 0.12 && beside > 0.3, "{below} below, {beside} beside");
}
