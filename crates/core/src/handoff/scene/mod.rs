//! What names the pictures of a hand-off: the dressed piece as glTF and USD, the material as MaterialX.

mod materialx;
mod usd;

use percent_encoding::{AsciiSet, NON_ALPHANUMERIC, utf8_percent_encode};

use super::inputs::is_of;
use super::plan::{Plan, PlannedFile};
use super::ready::{self, Inside};
use crate::document::FileKind;
use crate::evaluate::Highest;
use crate::mesh::Piece;
use crate::mesh::write::{Body, Dressing, Pictures, glb, gltf};

/// The bytes of such a file. `inside` are the pictures of a GLB, sheet by sheet.
pub(super) fn write(
    plan: &Plan,
    file: &PlannedFile,
    piece: &Piece,
    inside: &[Vec<Vec<u8>>],
    highest: &Highest,
) -> Vec<u8> {
    match file.kind {
        FileKind::MaterialX => materialx::write(plan, piece, highest),
        FileKind::Usd => usd::write(plan, piece, highest).into_bytes(),
        FileKind::Gltf => {
            let rows = ready::inside(highest);
            let named = |i: &Inside| {
                let found = plan.pictures().find(|(p, _)| is_of(p, &i.row, highest));
                found.map_or(vec![], |(_, files)| files.iter().map(|f| uri(&f.name)).collect::<Vec<_>>())
            };
            let all: Vec<Vec<String>> = rows.iter().map(named).collect();
            let sheets = 0..piece.sheets.len();
            let names: Vec<Vec<String>> =
                sheets.map(|s| all.iter().map(|files| files.get(s).cloned().unwrap_or_default()).collect()).collect();
            let stem = file.name.rsplit_once('.').map_or(file.name.as_str(), |n| n.0);
            let (json, bin) = gltf(piece, &dressing(highest, Pictures::Beside(&names)), &uri(&format!("{stem}.bin")));
            if file.name.ends_with(".bin") { bin } else { json }
        }
        _ => glb(piece, Some(&dressing(highest, Pictures::Inside(inside)))),
    }
}

/// How a piece with such channels is dressed.
fn dressing<'a>(highest: &Highest, pictures: Pictures<'a>) -> Dressing<'a> {
    Dressing {
        maps: ready::inside(highest).into_iter().map(|i| (i.add, i.factor)).collect(),
        pictures,
        see_through: highest.contains_key("opacity"),
        body: highest.contains_key("thickness").then(|| Body { tint: highest.tint.map(|t| (t.color, t.distance)) }),
    }
}

/// A name as MaterialX and USD take it: letters, digits and underscores of ASCII, no digit first.
fn safe(text: &str) -> String {
    let plain: String = text.chars().map(|c| if c.is_ascii_alphanumeric() { c } else { '_' }).collect();
    if plain.is_empty() || plain.starts_with(|c: char| c.is_ascii_digit()) { format!("m{plain}") } else { plain }
}

/// The file that a picture is of a sheet; of all of them, where UDIM numbers are all that tells them apart.
fn file_of(plan: &Plan, files: &[&PlannedFile], sheet: usize, piece: &Piece) -> String {
    let file = &files[sheet.min(files.len() - 1)].name;
    if plan.udim { file.replacen(&piece.sheets[0].name, "<UDIM>", 1) } else { file.clone() }
}

/// A file's name as an address names it (RFC 3986).
fn uri(name: &str) -> String {
    const KEPT: &AsciiSet = &NON_ALPHANUMERIC.remove(b'-').remove(b'_').remove(b'.').remove(b'~');
    utf8_percent_encode(name, KEPT).to_string()
}
