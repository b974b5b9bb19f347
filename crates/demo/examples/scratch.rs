//! scratch
use dustcoat_core::handoff::png;
use glam::Vec2;
fn main() {
    let (w, h) = (1280usize, 900usize);
    let mut out = vec![0u8; w * h * 4];
    for px in out.chunks_mut(4) {
        px.copy_from_slice(&[120, 130, 128, 255]);
    }
    let (mut x0, mut y0, mut row) = (10usize, 10usize, 0usize);
    for p in dustcoat_demo::pins::PICTURES {
        let scale = 280.0 / p.size[0].max(p.size[1]);
        let scale = if p.size[0] > 200.0 { 440.0 / p.size[0] } else { scale };
        let (pw, ph) = ((p.size[0] * scale) as usize, (p.size[1] * scale) as usize);
        if x0 + pw > w {
            x0 = 10;
            y0 += row + 10;
            row = 0;
        }
        for y in 0..ph {
            for x in 0..pw {
                let at = Vec2::new(x as f32 + 0.5, (ph - y) as f32 - 0.5) / scale;
                let (c, a) = (p.paint)(at, 1.0 / scale);
                if y0 + y >= h {
                    continue;
                }
                let i = ((y0 + y) * w + x0 + x) * 4;
                for k in 0..3 {
                    out[i + k] = (f32::from(out[i + k]) * (1.0 - a) + c[k] * 255.0 * a) as u8;
                }
            }
        }
        x0 += pw + 10;
        row = row.max(ph);
    }
    std::fs::write("/tmp/pins/sheet.png", png::rgba8(&out, w as u32, h as u32)).unwrap();
}
