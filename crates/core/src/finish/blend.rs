//! Blend modes: how a coat's value meets the one below, component by component, by the formulas of W3C Compositing and Blending Level 1 (section 9.1, separable
//! modes), besides add and subtract. A table of one line each.
//!
//! Values are linear, 0…1. Channels that may go beyond are clamped by their own range, not here.

/// A blend mode: key, label, and B(below, value).
pub struct Blend {
    /// Key.
    pub kind: &'static str,
    /// What the artist reads.
    pub label: &'static str,
    /// B(cb, cs): the result where the coat is full.
    pub of: fn(f32, f32) -> f32,
}

const COUNT: usize = 14;

/// All blend modes, in the order they are offered; the first is the default.
pub static BLENDS: [Blend; COUNT] = [
    Blend { kind: "normal", label: "Normal", of: |_, s| s },
    Blend { kind: "multiply", label: "Multiply", of: |b, s| b * s },
    Blend { kind: "screen", label: "Screen", of: screen },
    Blend { kind: "overlay", label: "Overlay", of: |b, s| hard_light(s, b) },
    Blend { kind: "darken", label: "Darken", of: |b, s| if b < s { b } else { s } },
    Blend { kind: "lighten", label: "Lighten", of: |b, s| if b > s { b } else { s } },
    Blend { kind: "color_dodge", label: "Color dodge", of: color_dodge },
    Blend { kind: "color_burn", label: "Color burn", of: color_burn },
    Blend { kind: "hard_light", label: "Hard light", of: hard_light },
    Blend { kind: "soft_light", label: "Soft light", of: soft_light },
    Blend { kind: "difference", label: "Difference", of: |b, s| (b - s).abs() },
    Blend { kind: "exclusion", label: "Exclusion", of: |b, s| b + s - 2.0 * b * s },
    Blend { kind: "add", label: "Add", of: |b, s| b + s },
    Blend { kind: "subtract", label: "Subtract", of: |b, s| b - s },
];

fn screen(b: f32, s: f32) -> f32 {
    b + s - b * s
}

fn hard_light(b: f32, s: f32) -> f32 {
    if s <= 0.5 { b * 2.0 * s } else { screen(b, 2.0 * s - 1.0) }
}

fn color_dodge(b: f32, s: f32) -> f32 {
    if b <= 0.0 {
        0.0
    } else if s >= 1.0 {
        1.0
    } else {
        (b / (1.0 - s)).min(1.0)
    }
}

fn color_burn(b: f32, s: f32) -> f32 {
    if b >= 1.0 {
        1.0
    } else if s <= 0.0 {
        0.0
    } else {
        1.0 - ((1.0 - b) / s).min(1.0)
    }
}

fn soft_light(b: f32, s: f32) -> f32 {
    if s <= 0.5 {
        return b - (1.0 - 2.0 * s) * b * (1.0 - b);
    }
    let d = if b <= 0.25 { ((16.0 * b - 12.0) * b + 4.0) * b } else { b.sqrt() };
    b + (2.0 * s - 1.0) * (d - b)
}

/// The blend mode of a key, or normal.
pub fn find(kind: &str) -> &'static Blend {
    BLENDS.iter().find(|b| b.kind == kind).unwrap_or(&BLENDS[0])
}

/// Keys and labels, for a choice.
pub fn choices() -> [(&'static str, &'static str); COUNT] {
    std::array::from_fn(|i| (BLENDS[i].kind, BLENDS[i].label))
}

impl Blend {
    /// below ← mix(below, B(below, value), weight), B within `range`. Slices of one length.
    pub fn lay(&self, value: &[f32], weight: &[f32], range: (f32, f32), below: &mut [f32]) {
        let each = below.iter_mut().zip(value).zip(weight);
        if self.kind == "normal" {
            each.for_each(|((b, v), w)| *b += (v - *b) * w);
        } else {
            each.for_each(|((b, v), w)| *b += ((self.of)(*b, *v).clamp(range.0, range.1) - *b) * w);
        }
    }
}
