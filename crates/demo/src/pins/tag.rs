//! An inspection tag: a card with an eyelet, a red head, lines to write on, and a stamp.

use std::f32::consts::TAU;
use std::sync::OnceLock;

use dustcoat_core::lattice::{hash, unit};
use glam::Vec2;

use super::shapes::{cloud, cos, noise, ramp, rounded, sin, stick, within};
use super::{Paint, letters};

fn mix(a: [f32; 3], b: [f32; 3], t: f32) -> [f32; 3] {
    [0, 1, 2].map(|c| a[c] + (b[c] - a[c]) * t)
}

/// How high the lines to write on lie, in mm.
const LINES: [f32; 4] = [50.0, 41.0, 32.0, 23.0];

/// What somebody wrote on each of the lines, word by word: loops that lean to the right, some of them tall, some below the line.
fn hand() -> &'static [Vec<Vec<Vec2>>; 4] {
    static HAND: OnceLock<[Vec<Vec<Vec2>>; 4]> = OnceLock::new();
    HAND.get_or_init(|| {
        let words: [&[u32]; 4] = [&[5, 8, 3], &[7, 4], &[4, 6, 2], &[6]];
        [0, 1, 2, 3].map(|line| {
            let mut x = 7.0;
            let word = |(w, letters): (usize, &u32)| {
                let from = x;
                let word = (0..*letters).flat_map(|letter| {
                    let chance = |k: u32| unit(hash(letter, w as u32, k, line as u32 + 11));
                    let wide = 1.35 + 0.7 * chance(1);
                    let high = match chance(2) {
                        c if letter == 0 || c > 0.8 => 3.9,
                        c if c < 0.12 => -2.0,
                        c => 1.5 + 0.5 * c,
                    };
                    let (begins, back) = (x, 0.5 + 0.3 * chance(3));
                    x += wide;
                    (0..10).map(move |i| {
                        let turn = i as f32 / 10.0;
                        let (s, c) = (sin(turn * TAU), cos(turn * TAU));
                        let up = high * 0.5 * (1.0 - c);
                        Vec2::new(begins + wide * turn - back * s + 0.3 * up, LINES[line] + 1.3 + up)
                    })
                });
                let word = word.collect();
                x += 1.6 + 0.2 * (x - from).min(1.0);
                word
            };
            words[line].iter().enumerate().map(word).collect()
        })
    })
}

pub fn paint(p: Vec2, pixel: f32) -> Paint {
    let cut = [Vec2::new(0.0, 96.0), Vec2::new(60.0, 96.0)].map(|c| {
        let away = (p - c).abs();
        // Two corners are cut off.
        (13.0 - away.x - away.y) / 2f32.sqrt()
    });
    let card = rounded(p, Vec2::new(30.0, 48.0), Vec2::new(29.0, 47.0), 2.5).max(cut[0]).max(cut[1]);
    let hole = p.distance(Vec2::new(30.0, 88.0));
    let there = within(card, pixel) * within(3.0 - hole, pixel);
    let worn = cloud(p, 30.0, 3);
    let mut color = mix([0.83, 0.78, 0.64], [0.66, 0.57, 0.40], ramp(0.4, 0.85, worn));
    let ink = |d: f32, much: f32, color: &mut [f32; 3], to: [f32; 3]| {
        let dry = 1.0 - 0.5 * ramp(0.5, 0.8, noise(p, 0.5, 9));
        *color = mix(*color, to, within(d, pixel) * much * dry);
    };
    let (red, dark) = ([0.52, 0.11, 0.08], [0.13, 0.13, 0.15]);
    ink(rounded(p, Vec2::new(30.0, 69.5), Vec2::new(26.0, 8.5), 1.0), 0.95, &mut color, red);
    let write = |what: &str, at: Vec2, height: f32| {
        let unit = height / letters::HEIGHT;
        letters::text((p - at) / unit, what) * unit
    };
    let head = [0.88, 0.85, 0.76];
    ink(write("TESTED", Vec2::new(9.4, 65.6), 8.0), 0.9, &mut color, head);
    for (k, y) in LINES.into_iter().enumerate() {
        ink(rounded(p, Vec2::new(30.0, y), Vec2::new(25.0, 0.28), 0.1), 0.7, &mut color, dark);
        if (p.y - y - 3.0).abs() < 5.0 {
            let words = hand()[k].iter().flat_map(|word| word.array_windows());
            let line = words.map(|[a, b]| stick(p, *a, *b, 0.26)).fold(f32::INFINITY, f32::min);
            ink(line, 0.85, &mut color, [0.10, 0.13, 0.30]);
        }
    }
    // A stamp, aslant, half dry.
    let from = p - Vec2::new(42.0, 13.0);
    let (s, c) = (sin(0.28), cos(0.28));
    let q = Vec2::new(from.x * c + from.y * s, from.y * c - from.x * s);
    let frame = (rounded(q, Vec2::ZERO, Vec2::new(13.0, 6.0), 1.0)).abs() - 0.5;
    let unit = 6.0 / letters::HEIGHT;
    let stamp = frame.min(letters::text((q + Vec2::new(9.0, 3.0)) / unit, "2-74") * unit);
    ink(stamp, 0.8 * ramp(0.25, 0.6, cloud(p, 6.0, 31)), &mut color, red);
    // A ring of brass around the hole, and a thumb's grease.
    let brass = within((hole - 4.1).abs() - 1.25, pixel);
    color = mix(color, [0.55, 0.42, 0.18], brass);
    let thumb = ramp(0.35, 0.7, cloud(p, 8.0, 41)) * ramp(13.0, 6.0, p.distance(Vec2::new(9.0, 10.0)));
    (mix(color, [0.36, 0.30, 0.22], 0.55 * thumb), there)
}
