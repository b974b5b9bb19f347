//! Stills and tangents: what the pictures show is where it is, and the frames that normals are written in are right.

use std::sync::{Arc, Mutex};

use crate::common::{coat, cube, document, evaluated, of_channel, plate, quad, sphere, step};
use dustcoat_core::bake::Surface;
use dustcoat_core::bake::rays::{point, uniform_sphere};
use dustcoat_core::document::{Document, Edit, apply};
use dustcoat_core::mask::Join;
use dustcoat_core::mesh::{Piece, Soup};
use dustcoat_core::still::shape::Shape;
use dustcoat_core::still::shoot::{StillSettings, Surround, shoot, shoot_shown};
use dustcoat_core::still::sky::Sky;
use dustcoat_core::still::trace::{Exposure, Scene};
use dustcoat_core::still::{Camera, SAMPLES, Shot};
use dustcoat_core::task::{Cancel, silent};
use glam::Vec3;

fn shot(surface: &Surface, width: u32, height: u32, fill: f32) -> Shot {
    Shot::new(surface, Camera::framing(&surface.piece, width as f32 / height as f32, fill), width, height)
}

/// First and last row and column of samples that see the piece.
fn bounds(shot: &Shot) -> [u32; 4] {
    let w = shot.width * SAMPLES;
    let seen: Vec<(u32, u32)> =
        (0..shot.texel.len() as u32).filter(|i| shot.texel[*i as usize].is_some()).map(|i| (i % w, i / w)).collect();
    let range = |f: fn(&(u32, u32)) -> u32| {
        let all = || seen.iter().map(f);
        (all().min().unwrap(), all().max().unwrap())
    };
    let ((x0, x1), (y0, y1)) = (range(|p| p.0), range(|p| p.1));
    [x0, x1, y0, y1]
}

#[test]
fn a_piece_of_any_shape_fills_the_picture_and_is_not_cut_off() {
    let tall = {
        let mut soup = Soup::default();
        crate::common::add_box(&mut soup, [-5.0, 0.0, -5.0], [5.0, 300.0, 5.0], [0.0, 0.0, 1.0, 1.0]);
        Arc::new(Piece::build(soup).unwrap())
    };
    for piece in [cube(2.0), cube(5000.0), plate(80.0), tall] {
        let surface = Surface::new(piece, 128);
        for (w, h) in [(92, 74), (60, 120)] {
            let s = shot(&surface, w, h, 1.0);
            let [x0, x1, y0, y1] = bounds(&s);
            let (w, h) = (w * SAMPLES, h * SAMPLES);
            assert!(x0 > 0 && y0 > 0 && x1 < w - 1 && y1 < h - 1, "whole: {x0}…{x1} of {w}, {y0}…{y1} of {h}");
            let filled = f64::from(x1 - x0) / f64::from(w) > 0.75 || f64::from(y1 - y0) / f64::from(h) > 0.75;
            assert!(filled, "large: {x0}…{x1} of {w}, {y0}…{y1} of {h}");
        }
        let close = shot(&surface, 80, 80, 1.8);
        assert!(close.seen().len() > shot(&surface, 80, 80, 1.0).seen().len(), "more of the picture shows the piece");
    }
}

#[test]
fn a_mask_picture_is_light_where_the_mask_is_and_clear_around_the_piece() {
    let surface = Surface::new(cube(40.0), 256);
    let s = shot(&surface, 90, 90, 1.0);
    let seen = s.seen();
    let subset = surface.subset(&seen);
    // The mask is the top face alone.
    let values: Vec<f32> = seen.iter().map(|i| f32::from(surface.atlas.ny[*i as usize] > 0.5)).collect();
    let picture = s.mask_picture(&subset, &values);
    let pixel = |x: usize, y: usize| &picture[(y * 90 + x) * 4..(y * 90 + x) * 4 + 4];
    assert_eq!(pixel(0, 0)[3], 0, "clear around");
    let middle = pixel(45, 45);
    assert_eq!(middle[3], 255);
    let (mut light, mut dark) = (0, 0);
    for p in picture.chunks_exact(4).filter(|p| p[3] == 255) {
        assert!(p[0] == p[1] && p[1] == p[2], "grey");
        light += u32::from(p[0] > 200);
        dark += u32::from(p[0] < 60);
    }
    assert!(light > 300 && dark > 600, "one of three faces is light: {light}, {dark}");
}

#[test]
fn a_still_shows_the_colour_and_the_light() {
    let surface = Surface::new(cube(40.0), 128);
    let of = |color: &str| {
        let e = evaluated(&document(vec![coat("l1", color, vec![])]), &surface);
        let clear = StillSettings { surround: Surround::Clear, ..StillSettings::default() };
        let settings = StillSettings { width: 80, height: 80, samples: 16, ..clear };
        shoot(&surface, &e, &settings, &Cancel::default(), &silent).unwrap().swap_remove(0)
    };
    let mean = |p: &[u8]| {
        let inside: Vec<&[u8]> = p.chunks_exact(4).filter(|p| p[3] == 255).collect();
        [0, 1, 2].map(|k| inside.iter().map(|p| u32::from(p[k])).sum::<u32>() / inside.len() as u32)
    };
    let (red, grey) = (mean(&of("#c02010")), mean(&of("#808080")));
    assert!(red[0] > red[1] + 40 && red[0] > red[2] + 40, "{red:?}");
    assert!(grey[0].abs_diff(grey[2]) < 40 && grey[0] > 30, "{grey:?}");
    assert_eq!(of("#808080"), of("#808080"), "the same picture every time");
    // Faces are lit differently, so that the shape can be read.
    let picture = of("#808080");
    let mut levels: Vec<u8> = picture.chunks_exact(4).filter(|p| p[3] == 255).map(|p| p[0] / 8).collect();
    levels.sort_unstable();
    levels.dedup();
    assert!(levels.len() >= 3, "{levels:?}");
}

#[test]
fn tangents_run_along_u_and_mirrored_charts_are_told_by_their_sign() {
    let mut soup = Soup::default();
    let up = |x: f32| [[x, 0.0, 10.0], [x + 10.0, 0.0, 10.0], [x + 10.0, 0.0, 0.0], [x, 0.0, 0.0]];
    quad(&mut soup, "plain", up(0.0), [0.0, 0.0, 0.45, 1.0]);
    quad(&mut soup, "mirrored", up(20.0), [1.0, 0.0, 0.55, 1.0]);
    let piece = Piece::build(soup).unwrap();
    for (t, tri) in piece.triangles.iter().enumerate() {
        let mirrored = piece.part_of[t] == 1;
        for v in tri {
            let [x, y, z, w] = piece.tangents[*v as usize];
            let (tangent, normal) = (Vec3::new(x, y, z), Vec3::from(piece.normals[*v as usize]));
            assert!(tangent.dot(normal).abs() < 1e-4 && (tangent.length() - 1.0).abs() < 1e-4);
            let along = Vec3::new(if mirrored { -1.0 } else { 1.0 }, 0.0, 0.0);
            assert!(tangent.dot(along) > 0.999, "{tangent} runs along u");
            // Up the texture, which is −z on this plate, is sign · (normal × tangent).
            assert!((normal.cross(tangent) * w).dot(-Vec3::Z) > 0.999, "sign {w} of a mirrored {mirrored} chart");
        }
    }
}

#[test]
fn tangents_of_a_shell_are_the_same_beside_other_shells_as_alone() {
    let ball = sphere(20.0);
    // The balls' triangles take turns, so many that they are told apart by what hangs together.
    let spread = |places: &[f32]| {
        let mut soup = Soup::default();
        for tri in &ball.triangles {
            for x in places {
                let part = soup.part(&format!("at {x}"));
                let corner = |v: u32| {
                    let [px, py, pz] = ball.positions[v as usize];
                    ([px + x, py, pz], ball.normals[v as usize], ball.uvs[v as usize])
                };
                soup.push(part, tri.map(corner));
            }
        }
        Piece::build(soup).unwrap()
    };
    let frames = |piece: &Piece, part: u16| -> Vec<[[f32; 4]; 3]> {
        let own = piece.triangles.iter().zip(&piece.part_of).filter(|(_, p)| **p == part);
        own.map(|(tri, _)| tri.map(|v| piece.tangents[v as usize])).collect()
    };
    let places = [-100.0, 0.0, 100.0];
    let all = spread(&places);
    assert!(all.triangles.len() > 40_000 && all.shells == 3, "{} in {}", all.triangles.len(), all.shells);
    for (k, x) in places.into_iter().enumerate() {
        let (ours, alone) = (frames(&all, k as u16), frames(&spread(&[x]), 0));
        assert_eq!(ours.len(), ball.triangles.len());
        assert!(ours == alone, "the ball at {x}");
    }
}

#[test]
fn a_mirrored_chart_has_the_same_relief_on_the_piece() {
    let bent = |uv: [f32; 4]| {
        let mut soup = Soup::default();
        quad(&mut soup, "a", [[0.0, 0.0, 10.0], [10.0, 0.0, 10.0], [10.0, 0.0, 0.0], [0.0, 0.0, 0.0]], uv);
        let surface = Surface::new(Arc::new(Piece::build(soup).unwrap()), 64);
        let height: Vec<f32> = surface.atlas.px.iter().map(|x| x * 0.3).collect();
        let n = dustcoat_core::finish::relief::normals(&surface, &height, &[])[surface.atlas.len() / 2];
        let v = surface.piece.triangles[0][0] as usize;
        let [x, y, z, w] = surface.piece.tangents[v];
        let (t, up) = (Vec3::new(x, y, z), Vec3::from(surface.piece.normals[v]));
        t * n[0] + up.cross(t) * w * n[1] + up * n[2]
    };
    let (plain, mirrored) = (bent([0.0, 0.0, 1.0, 1.0]), bent([1.0, 0.0, 0.0, 1.0]));
    assert!((plain - mirrored).length() < 1e-3, "{plain} against {mirrored}");
    assert!(plain.x < -0.2, "it leans away from the rise: {plain}");
}

fn as_high(document: &Document, mm: f64) -> Document {
    let height = Edit::SetParam { target: of_channel("l1", "height", "value"), value: Some(mm.into()) };
    apply(document, &height).unwrap()
}

#[test]
fn relief_that_moves_the_surface_is_seen_in_its_outline() {
    let surface = Surface::new(sphere(50.0), 256);
    let document = as_high(&document(vec![coat("l1", "#808080", vec![])]), 10.0);
    let e = evaluated(&document, &surface);
    let sky = Sky::even(1.0);
    let camera = Camera { eye: Vec3::new(300.0, 0.0, 0.0), target: Vec3::ZERO, fov: 30.0 };
    let exposure = Exposure { camera, size: [96, 96], samples: 8, denoise: false };
    let covered = |scene: Scene| -> f32 {
        scene.trace(&exposure, &Cancel::default(), &silent).unwrap().pixels.iter().map(|p| p[3]).sum()
    };
    let scene = || Scene::new(&surface, &e, &sky).before(Vec3::ZERO);
    // A sphere of radius r at a distance d covers a circle of the half-angle asin(r/d).
    let circle = |radius: f32| {
        let share = (radius / 300.0).asin().tan() / 15f32.to_radians().tan();
        std::f32::consts::PI * share * share * 48.0 * 48.0
    };
    let (still, moved) = (covered(scene()), covered(scene().moved_by(&e)));
    assert!((still / circle(50.0) - 1.0).abs() < 0.02, "{still} against {}", circle(50.0));
    assert!((moved / circle(60.0) - 1.0).abs() < 0.02, "{moved} against {}", circle(60.0));
}

#[test]
fn relief_that_moves_the_surface_opens_no_gap_where_charts_meet() {
    let surface = Surface::new(cube(40.0), 256);
    let clouds = step(Join::Replace, "perlin", &[("size", 9.0.into()), ("octaves", 4.0.into())]);
    let e = evaluated(&as_high(&document(vec![coat("l1", "#808080", vec![clouds])]), 6.0), &surface);
    let [low, high] = dustcoat_core::evaluate::texture::height_range(&e);
    assert!(high - low > 2.0, "there is relief to gape: {low} to {high}");
    let moved = Shape::moved(&surface, &e);
    let mut farthest = 0.0f32;
    for k in 0..20_000 {
        let towards = uniform_sphere(point(k, 3));
        let (far, t, _) = moved.bvh().first_hit(Vec3::ZERO, towards).unwrap_or_else(|| panic!("{towards} finds a gap"));
        let at = towards * far;
        // What was hit lies in the sheet where that side of the cube does: its charts are a grid of three by two.
        let middle = moved.uvs(t).iter().copied().sum::<glam::Vec2>() / 3.0;
        let axis = (0..3).max_by(|a, b| at[*a].abs().total_cmp(&at[*b].abs())).unwrap();
        let side = axis * 2 + usize::from(at[axis] < 0.0);
        let chart = (middle.x * 3.0) as usize + 3 * (middle.y * 2.0) as usize;
        farthest = farthest.max(at[axis].abs());
        let inwards = at.abs().to_array().iter().filter(|c| **c > 18.0).count();
        assert!(chart == side || inwards > 1, "{at} is on side {side}, not {chart}");
    }
    assert!((20.5..26.5).contains(&farthest), "moved outwards by up to 6 mm: {farthest}");
}

/// Two boxes beside each other, one of them painted in clouds of rust: colours, corners and shadows that a filter must leave.
fn corner() -> (Surface, Document) {
    let mut soup = Soup::default();
    crate::common::add_box(&mut soup, [-30.0, 0.0, -30.0], [30.0, 20.0, 30.0], [0.0, 0.0, 0.5, 0.5]);
    crate::common::add_box(&mut soup, [-12.0, 20.0, -12.0], [12.0, 50.0, 12.0], [0.5, 0.5, 1.0, 1.0]);
    let clouds = step(Join::Replace, "perlin", &[("size", 40.0.into()), ("octaves", 2.0.into())]);
    let cut = step(Join::Replace, "threshold", &[("cut", 0.5.into()), ("softness", 0.02.into())]);
    let mut d = document(vec![coat("l1", "#c8c8c8", vec![]), coat("l2", "#8a3a12", vec![clouds, cut])]);
    let rough = Edit::SetParam { target: of_channel("l1", "roughness", "value"), value: Some(0.25.into()) };
    d = apply(&d, &rough).unwrap();
    (Surface::new(Arc::new(Piece::build(soup).unwrap()), 256), d)
}

#[test]
fn what_is_taken_out_of_a_picture_is_noise() {
    let (surface, document) = corner();
    let e = evaluated(&document, &surface);
    let taken = |samples: u32, denoise: bool| {
        let size = StillSettings { width: 96, height: 72, samples, denoise, ..StillSettings::default() };
        shoot(&surface, &e, &size, &Cancel::default(), &silent).unwrap().remove(0)
    };
    // Root of the mean square of what is apart, in parts of 255 as shown.
    let truth = taken(1024, false);
    let apart = |picture: &[u8]| {
        let squares = picture.iter().zip(&truth).map(|(a, b)| f64::from(a.abs_diff(*b)).powi(2)).sum::<f64>();
        (squares / (picture.len() as f64 * 0.75)).sqrt()
    };
    let few = taken(16, true);
    let (filtered, plain, more) = (apart(&few), apart(&taken(16, false)), apart(&taken(32, false)));
    println!("16 samples {plain:.2}, without noise {filtered:.2}; 32 samples {more:.2}");
    assert!(filtered < more && filtered < 0.7 * plain, "{filtered} of 255, {plain} before, {more} with 32");
    // Nor is it darker or brighter for it.
    let mean = |picture: &[u8]| picture.iter().map(|v| f64::from(*v)).sum::<f64>() / picture.len() as f64;
    assert!((mean(&few) - mean(&truth)).abs() < 1.0, "{} and {}", mean(&few), mean(&truth));
    // Nothing is washed out: the share of pixels beside which another is far brighter or darker is that of the truth.
    let edges = |picture: &[u8]| {
        let far = |a: &[u8], b: &[u8]| a[0].abs_diff(b[0]) > 40;
        let rows = picture.chunks_exact(96 * 4);
        rows.map(|r| r.chunks_exact(4).zip(r.chunks_exact(4).skip(1)).filter(|(a, b)| far(a, b)).count()).sum::<usize>()
    };
    let (there, kept) = (edges(&truth) as f64, edges(&few) as f64);
    assert!(kept > 0.9 * there, "{kept} of {there} edges");
    assert_eq!(few, taken(16, true), "the same bytes every time");
}

#[test]
fn a_still_is_shown_as_it_gets_smoother_and_ends_as_the_same_picture() {
    let (surface, document) = corner();
    let e = evaluated(&document, &surface);
    for denoise in [false, true] {
        let settings = StillSettings { width: 48, height: 36, samples: 100, denoise, ..StillSettings::default() };
        let shown = Mutex::new(vec![]);
        let show = |samples: u32, picture: Vec<u8>| shown.lock().unwrap().push((samples, picture));
        let taken = shoot_shown(&surface, &e, &settings, &Cancel::default(), &silent, &show).unwrap().remove(0);
        assert_eq!(taken, shoot(&surface, &e, &settings, &Cancel::default(), &silent).unwrap().remove(0));
        let shown = shown.into_inner().unwrap();
        assert_eq!(shown.iter().map(|s| s.0).collect::<Vec<_>>(), [16, 32, 64], "up to 112, in rounds of 16");
        let first = StillSettings { samples: 16, ..settings };
        assert_eq!(shown[0].1, shoot(&surface, &e, &first, &Cancel::default(), &silent).unwrap().remove(0));
        let apart = |p: &[u8]| p.iter().zip(&taken).map(|(a, b)| u64::from(a.abs_diff(*b))).sum::<u64>();
        assert!(apart(&shown[0].1) > apart(&shown[2].1), "nearer with every round");
    }
    let turn = StillSettings { width: 16, height: 16, samples: 64, turntable: 2, ..StillSettings::default() };
    let never = |_: u32, _: Vec<u8>| panic!("a turntable is many pictures");
    shoot_shown(&surface, &e, &turn, &Cancel::default(), &silent, &never).unwrap();
}
