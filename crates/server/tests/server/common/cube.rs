//! The cube that is brought in by the tests of the server and of the page.

/// A cube of 40 mm with six faces side by side in the square.
pub fn cube() -> String {
    let mut obj = String::new();
    for i in 0..8 {
        let side = |bit: i32| if i & bit == 0 { -20 } else { 20 };
        obj += &format!("v {} {} {}\n", side(1), side(2), side(4));
    }
    let faces = [[2, 4, 8, 6], [1, 5, 7, 3], [3, 7, 8, 4], [1, 2, 6, 5], [5, 6, 8, 7], [1, 3, 4, 2]];
    for (f, face) in faces.iter().enumerate() {
        let (u, v) = ((f % 3) as f32 / 3.0, (f / 3) as f32 / 2.0);
        for (x, y) in [(0.02, 0.02), (0.31, 0.02), (0.31, 0.48), (0.02, 0.48)] {
            obj += &format!("vt {} {}\n", u + x, v + y);
        }
        let corner = |k: usize| format!("{}/{}", face[k], 4 * f + k + 1);
        obj += &format!(
            "usemtl {}\nf {} {} {} {}\n",
            if f == 2 { "top" } else { "sides" },
            corner(0),
            corner(1),
            corner(2),
            corner(3)
        );
    }
    obj
}
