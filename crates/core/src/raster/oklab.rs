//! OKLab (Ottosson 2020): a colour space in which equal distances look equally far apart.

use super::srgb::decode;

/// OKLab of an sRGB colour: lightness 0…1, then the two opponent axes.
pub fn oklab(srgb: [u8; 3]) -> [f32; 3] {
    of_linear(srgb.map(|c| decode(f32::from(c) / 255.0)))
}

/// The lightness, 0…1, of a linear Rec. 709 colour.
pub fn lightness(linear: [f32; 3]) -> f32 {
    of_linear(linear)[0]
}

/// The chroma of a linear Rec. 709 colour: how far it is from grey, 0 to about 0.32.
pub fn chroma(linear: [f32; 3]) -> f32 {
    let [_, a, b] = of_linear(linear);
    libm::hypotf(a, b)
}

/// OKLab of a linear Rec. 709 colour.
pub fn of_linear([r, g, b]: [f32; 3]) -> [f32; 3] {
    let l = libm::cbrtf(0.412_221_46 * r + 0.536_332_55 * g + 0.051_445_995 * b);
    let m = libm::cbrtf(0.211_903_5 * r + 0.680_699_5 * g + 0.107_396_96 * b);
    let s = libm::cbrtf(0.088_302_46 * r + 0.281_718_85 * g + 0.629_978_7 * b);
    [
        0.210_454_26 * l + 0.793_617_8 * m - 0.004_072_047 * s,
        1.977_998_5 * l - 2.428_592_2 * m + 0.450_593_7 * s,
        0.025_904_037 * l + 0.782_771_77 * m - 0.808_675_77 * s,
    ]
}

/// The linear Rec. 709 colour of one in OKLab; components may lie outside 0…1.
pub fn to_linear([lightness, a, b]: [f32; 3]) -> [f32; 3] {
    let cube = |v: f32| v * v * v;
    let l = cube(lightness + 0.396_337_78 * a + 0.215_803_76 * b);
    let m = cube(lightness - 0.105_561_346 * a - 0.063_854_17 * b);
    let s = cube(lightness - 0.089_484_18 * a - 1.291_485_5 * b);
    [
        4.076_741_7 * l - 3.307_711_6 * m + 0.230_969_94 * s,
        -1.268_438 * l + 2.609_757_4 * m - 0.341_319_4 * s,
        -0.004_196_086_3 * l - 0.703_418_6 * m + 1.707_614_7 * s,
    ]
}

/// Distance in OKLab: 1 from black to white.
pub fn distance(a: [f32; 3], b: [f32; 3]) -> f32 {
    let d = [a[0] - b[0], a[1] - b[1], a[2] - b[2]];
    (d[0] * d[0] + d[1] * d[1] + d[2] * d[2]).sqrt()
}
