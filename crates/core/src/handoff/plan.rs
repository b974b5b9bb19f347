//! What a layout comes to for a piece: files with names, and the pictures that lie in them.

use std::collections::BTreeSet;

use serde::Serialize;
use ts_rs::TS;

use super::content::Content;
use super::picture::{Picture, Slot};
use super::{HandoffError, file_name, inputs, is_map_size, ready};
use crate::bake::{MeasurementKey, Reading};
use crate::document::{Document, FileChannel, FileKind, FileRow, Layout};
use crate::evaluate::Highest;
use crate::mesh::{Piece, Sheet};
use crate::names::free;
use crate::setting::Settings;

/// What a channel of a planned file holds.
#[derive(Debug, Clone, PartialEq, Serialize, TS)]
pub struct PlannedSlot {
    /// The channel's name in the file: `R`, `G`, `B`, `A`, `Y`, or `layer.R`.
    pub channel: String,
    /// Where its numbers come from.
    pub from: String,
    /// The lesser and the greater of the numbers that are 0 and 1 in the file; none where floats stay as they are.
    pub range: Option<[f32; 2]>,
    /// Whether those two change places: the greater is 0.
    pub invert: bool,
    /// Whether it is encoded as sRGB.
    pub srgb: bool,
    /// The unit of its numbers; empty where they have none.
    pub unit: &'static str,
}

/// A file to be written.
#[derive(Debug, Clone, PartialEq, Serialize, TS)]
pub struct PlannedFile {
    /// Which file of the layout it is; none where that lists no such file.
    pub row: Option<usize>,
    /// Name of the sheet; of a file for the whole piece, of the first.
    pub sheet: String,
    /// What `{map}` is in its name.
    pub map: String,
    /// Its kind.
    pub kind: FileKind,
    /// What its channels hold, in words.
    pub channels: String,
    /// The same, one by one; none where it is no picture.
    pub slots: Vec<PlannedSlot>,
    /// Side in texels; 0 where it is no picture.
    pub size: u32,
    /// Bits per channel; 0 where it is no picture.
    pub bits: u32,
    /// File name.
    pub name: String,
    /// Whether it isn't ticked in the layout, and a file that is wants it.
    pub added: bool,
}

/// What names are filled in with, beside what the layout and the sheets give.
#[derive(Debug, Clone, Copy, Default)]
pub struct Naming<'a> {
    /// `{piece}`.
    pub piece: &'a str,
    /// `{variant}`.
    pub variant: &'a str,
    /// `{revision}`.
    pub revision: &'a str,
}

/// What a layout comes to.
#[derive(Clone)]
pub struct Plan {
    /// Side of the textures in texels.
    pub size: u32,
    /// The files, in the order in which they are written.
    pub files: Vec<PlannedFile>,
    /// Files of the layout, by their place in it, that hold nothing but what no coat lays: they aren't written.
    pub unlaid: Vec<usize>,
    /// The pictures, and how each file's is told: its row.
    pictures: Vec<Picture>,
    row_of: Vec<Option<usize>>,
    /// What lies in a dressed piece.
    pub(super) inside: Vec<Picture>,
    /// Whether sheets are told apart by the numbers of UDIM in file names, and by nothing else.
    pub(super) udim: bool,
}

/// A file that is written.
struct Chosen {
    row: FileRow,
    /// Its place in the layout.
    place: Option<usize>,
    /// Whether only others want it.
    added: bool,
}

/// Numbers in words.
fn short(v: f32) -> String {
    format!("{v}").replace('-', "−")
}

fn resolve(row: &FileRow, document: &Document, height: f32) -> Result<Picture, HandoffError> {
    let kind = row.kind.label();
    let may = row.kind.depths();
    if !may.contains(&row.bits) {
        let may = may.iter().map(u32::to_string).collect::<Vec<_>>().join(", ");
        return Err(HandoffError::Depth { map: row.map.clone(), bits: row.bits, kind, may });
    }
    let count = row.slots.len();
    let (fits, may) = match row.kind {
        FileKind::Exr => (count > 0, "one or more"),
        FileKind::Tiff => (matches!(count, 1 | 3 | 4), "one, three or four"),
        _ => ((1..=4).contains(&count), "one to four"),
    };
    if !fits {
        return Err(HandoffError::Channels { map: row.map.clone(), found: count, kind, may });
    }
    let (floats, mut slots, mut words) = (row.kind.is_float(), vec![], vec![]);
    for (i, slot) in row.slots.iter().enumerate() {
        let content = Content::parse(&slot.from, document)?;
        let usual = content.range(height);
        let range = slot.range.or((!floats).then_some(usual));
        if let Some([low, high]) = range.filter(|[l, h]| !(l.is_finite() && h.is_finite() && l != h)) {
            return Err(HandoffError::SlotRange { map: row.map.clone(), from: slot.from.clone(), low, high });
        }
        let encoded = row.srgb && !floats && i < 3 && content.is_color();
        if slot.from == "height" {
            let [low, high] = range.unwrap_or(usual);
            let word = if range.is_some() { format!("{low} mm is black, {high} mm is white") } else { "mm".into() };
            words.push(("Height", word));
        }
        slots.push(Slot { from: slot.from.clone(), content, range, usual, invert: slot.invert, encoded });
    }
    let names = names(row, &slots);
    Ok(Picture { kind: row.kind, bits: row.bits, srgb: row.srgb && !floats, slots, words, names })
}

/// The names of a file's channels.
fn names(row: &FileRow, slots: &[Slot]) -> Vec<String> {
    let usual: &[&str] = match slots.len() {
        1 => &["Y"],
        2 => &["Y", "A"],
        3 => &["R", "G", "B"],
        4 => &["R", "G", "B", "A"],
        _ => &[],
    };
    if !usual.is_empty() {
        return usual.iter().map(|n| (*n).to_owned()).collect();
    }
    let plain = |text: &str| text.replace([':', ' '], "_");
    let mut taken = BTreeSet::new();
    let name = |slot: &FileChannel| {
        let name = match slot.from.rsplit_once('.') {
            Some((layer, part)) if part.len() == 1 => format!("{}.{}", plain(layer), part.to_uppercase()),
            _ => format!("{}.Y", plain(&slot.from)),
        };
        let free = free(|n| if n == 1 { name.clone() } else { format!("{n}_{name}") }, |n| taken.contains(n));
        taken.insert(free.clone());
        free
    };
    row.slots.iter().map(name).collect()
}

/// What a picture's channels hold, in words.
fn told(picture: &Picture) -> String {
    if let Some(Slot { content: Content::Packed(packed, _), .. }) = picture.slots.first() {
        return packed.holds.into();
    }
    let letters = ["R", "G", "B", "A"];
    let grey = picture.slots.len() < 3;
    let mut runs: Vec<(String, String)> = vec![];
    for (i, slot) in picture.slots.iter().enumerate() {
        let mut what = slot.content.label(&slot.from);
        if slot.invert {
            what.push_str(", inverted");
        }
        // Heights have no range that goes without saying.
        if let Some([low, high]) = slot.range.filter(|r| *r != slot.usual || slot.from == "height") {
            let unit = slot.content.unit();
            what.push_str(&format!(", {} to {} {unit}", short(low), short(high)));
        }
        let letter = if grey && i == 0 { "grey" } else { letters.get(i.max(3 * usize::from(grey))).unwrap_or(&"") };
        match runs.last_mut() {
            Some((held, same)) if *same == what && !grey => held.push_str(letter),
            _ => runs.push((letter.into(), what)),
        }
    }
    let mut words: Vec<String> = if picture.slots.len() > 4 {
        vec![format!("{} layers", runs.len())]
    } else {
        runs.into_iter().map(|(letters, what)| format!("{letters} {}", what.trim())).collect()
    };
    words.push(if picture.srgb { "sRGB" } else { "linear" }.into());
    words.join(" · ")
}

/// Whether a row holds nothing but what no coat lays.
fn is_unlaid(row: &FileRow, document: &Document, highest: &Highest) -> Result<bool, HandoffError> {
    let contents: Vec<Content> =
        row.slots.iter().map(|s| Content::parse(&s.from, document)).collect::<Result<_, _>>()?;
    let of_coats: Vec<&Content> =
        contents.iter().filter(|s| matches!(s, Content::Channel(..) | Content::Packed(..))).collect();
    Ok(!of_coats.is_empty() && of_coats.iter().all(|s| !s.is_laid(highest)))
}

impl Plan {
    /// What a layout comes to for a document that gives a piece such channels.
    ///
    /// # Errors
    /// [`HandoffError`] with what to change.
    pub fn new(
        layout: &Layout,
        document: &Document,
        sheets: &[Sheet],
        highest: &Highest,
        naming: Naming,
    ) -> Result<Plan, HandoffError> {
        if !is_map_size(layout.size) {
            return Err(HandoffError::Size(layout.size));
        }
        if sheets.len() as u64 * u64::from(layout.size).pow(2) > u64::from(u32::MAX) {
            return Err(HandoffError::TooMany(sheets.len(), layout.size));
        }
        if !(0.01..=100.0).contains(&layout.height_range) {
            return Err(HandoffError::Range);
        }
        let mut rows: Vec<Chosen> = vec![];
        let (mut unlaid, mut spare) = (vec![], vec![]);
        for (place, row) in layout.files.iter().enumerate() {
            // What isn't ticked may ask for what is gone.
            let unwritten = row.kind.is_picture()
                && is_unlaid(row, document, highest).or_else(|e| if row.on { Err(e) } else { Ok(false) })?;
            if unwritten {
                unlaid.push(place);
            } else if row.on {
                let row = with_alpha_if_laid(row, document, highest)?;
                rows.push(Chosen { row, place: Some(place), added: false });
            } else if let Ok(row) = with_alpha_if_laid(row, document, highest)
                && let Ok(picture) = resolve(&row, document, layout.height_range)
                && row.kind.is_picture()
            {
                spare.push((Chosen { row, place: Some(place), added: true }, picture));
            }
        }
        let scenes: Vec<FileKind> = rows.iter().map(|r| r.row.kind).filter(|k| !k.is_picture()).collect();
        for kind in scenes {
            let mut resolved = vec![];
            for chosen in rows.iter().filter(|r| r.row.kind.is_picture()) {
                resolved.push(resolve(&chosen.row, document, layout.height_range)?);
            }
            let mut lacking = inputs::lacking(kind, &resolved, highest);
            // What the layout lists is written as it lists it, though it isn't ticked, before anything is written beside it.
            let mut left = vec![];
            for (chosen, picture) in spare {
                resolved.push(picture);
                let now = inputs::lacking(kind, &resolved, highest);
                if now.len() < lacking.len() {
                    lacking = now;
                    rows.push(chosen);
                } else {
                    left.extend(resolved.pop().map(|picture| (chosen, picture)));
                }
            }
            spare = left;
            for row in lacking {
                let taken = |name: &str| rows.iter().map(|r| &r.row).chain(&layout.files).any(|r| r.map == name);
                let map = free(|n| if n == 1 { row.map.clone() } else { format!("{}_{n}", row.map) }, taken);
                let row = with_alpha_if_laid(&FileRow { map, ..row }, document, highest)?;
                rows.push(Chosen { row, place: None, added: true });
            }
        }
        // Scenes come last: they name the pictures.
        rows.sort_by_key(|r| !r.row.kind.is_picture());
        let mut plan = Plan {
            size: layout.size,
            files: vec![],
            unlaid,
            pictures: vec![],
            row_of: vec![],
            inside: vec![],
            udim: sheets.len() > 1
                && layout.pattern.contains("{sheet}")
                && sheets.iter().all(|s| s.name == s.udim.to_string()),
        };
        for chosen in &rows {
            plan.add(chosen, layout, document, sheets, naming)?;
        }
        if plan.files.is_empty() {
            return Err(HandoffError::Nothing);
        }
        if rows.iter().any(|r| r.row.kind == FileKind::Glb) {
            for inside in ready::inside(highest) {
                let row = with_alpha_if_laid(&inside.row, document, highest)?;
                plan.inside.push(resolve(&row, document, layout.height_range)?);
            }
        }
        Ok(plan)
    }

    fn add(
        &mut self,
        Chosen { row, place, added }: &Chosen,
        layout: &Layout,
        document: &Document,
        sheets: &[Sheet],
        naming: Naming,
    ) -> Result<(), HandoffError> {
        let picture = if row.kind.is_picture() { Some(resolve(row, document, layout.height_range)?) } else { None };
        let of_piece = &sheets[..sheets.len().min(1)];
        let (ends, sheets): (&[&str], _) = match row.kind {
            FileKind::Png => (&["png"], sheets),
            FileKind::Tiff => (&["tif"], sheets),
            FileKind::Exr => (&["exr"], sheets),
            FileKind::Glb => (&["glb"], of_piece),
            FileKind::Gltf => (&["bin", "gltf"], of_piece),
            FileKind::MaterialX => (&["mtlx"], of_piece),
            FileKind::Usd => (&["usda"], of_piece),
        };
        let row_of = picture.is_some().then_some(self.pictures.len());
        let channels = picture.as_ref().map_or_else(|| inputs::told(row.kind).into(), told);
        let slots = picture.as_ref().map(Picture::told).unwrap_or_default();
        let size = if picture.is_some() { layout.size } else { 0 };
        for sheet in sheets {
            for end in ends {
                let sheet_name = if row.kind.is_picture() { sheet.name.as_str() } else { "" };
                let name = format!("{}.{end}", named(layout, naming, sheet_name, &row.map)?);
                // Some systems don't tell capitals from small letters.
                if self.files.iter().any(|f| f.name.eq_ignore_ascii_case(&name)) {
                    return Err(HandoffError::SameName(name));
                }
                self.files.push(PlannedFile {
                    row: *place,
                    sheet: sheet.name.clone(),
                    map: row.map.clone(),
                    kind: row.kind,
                    channels: channels.clone(),
                    slots: slots.clone(),
                    size,
                    bits: row.bits,
                    name,
                    added: *added,
                });
                self.row_of.push(row_of);
            }
        }
        self.pictures.extend(picture);
        Ok(())
    }

    /// The picture of a file, with the number of its row.
    pub(super) fn picture(&self, file: usize) -> Option<(usize, &Picture)> {
        let row = self.row_of[file]?;
        Some((row, &self.pictures[row]))
    }

    /// All pictures, row by row, with their files: one for each sheet.
    pub(super) fn pictures(&self) -> impl Iterator<Item = (&Picture, Vec<&PlannedFile>)> {
        self.pictures.iter().enumerate().map(|(row, picture)| {
            let of_row = self.files.iter().zip(&self.row_of).filter(move |(_, r)| **r == Some(row)).map(|(f, _)| f);
            (picture, of_row.collect())
        })
    }

    fn contents(&self) -> impl Iterator<Item = &Content> {
        self.pictures.iter().chain(&self.inside).flat_map(|p| &p.slots).map(|s| &s.content)
    }

    /// The layers whose masks are written, by their ids.
    pub fn masks(&self) -> Vec<String> {
        let ids = self.contents().filter_map(|s| if let Content::Mask(id) = s { Some(id.clone()) } else { None });
        ids.collect::<BTreeSet<_>>().into_iter().collect()
    }

    /// The readings that are written.
    pub(super) fn readings(&self) -> impl Iterator<Item = (&'static Reading, &Settings)> {
        self.contents().filter_map(|s| if let Content::Reading(r, settings) = s { Some((*r, settings)) } else { None })
    }

    /// The measurements that files want.
    pub(super) fn needs(&self, document: &Document, piece: &Piece) -> Vec<MeasurementKey> {
        self.contents().filter_map(|s| s.need(document, piece)).collect()
    }

    /// Whether heights are cut to the layout's range in some file.
    pub fn cuts_height(&self) -> bool {
        let cut = |s: &Slot| s.from == "height" && s.range.is_some();
        self.pictures.iter().any(|p| p.slots.iter().any(cut))
    }
}

/// A row without its alpha, where that is of a channel that no coat lays: then all of the piece is there.
fn with_alpha_if_laid(row: &FileRow, document: &Document, highest: &Highest) -> Result<FileRow, HandoffError> {
    let mut row = row.clone();
    if let [_, _, _, alpha] = row.slots.as_slice()
        && !Content::parse(&alpha.from, document)?.is_laid(highest)
    {
        row.slots.pop();
    }
    Ok(row)
}

/// Fills the pattern in and makes it safe as a file name on every system. What stands for nothing goes with the line or hyphen before it.
fn named(layout: &Layout, naming: Naming, sheet: &str, map: &str) -> Result<String, HandoffError> {
    let pattern = layout.pattern.chars().take(200).collect::<String>();
    if ["{piece}", "{map}", "{sheet}"].iter().all(|part| !pattern.contains(part)) && file_name(&pattern).is_empty() {
        return Err(HandoffError::Pattern(layout.pattern.clone()));
    }
    let size = layout.size.to_string();
    let parts = [
        ("{map}", map),
        ("{sheet}", sheet),
        ("{size}", &size),
        ("{piece}", naming.piece),
        ("{variant}", naming.variant),
        ("{revision}", naming.revision),
    ];
    let mut filled = pattern;
    for (part, with) in parts {
        if with.is_empty() {
            for before in ["_", "-", ".", " "] {
                filled = filled.replace(&format!("{before}{part}"), "");
            }
        }
        filled = filled.replace(part, with);
    }
    let name = file_name(filled.trim_start_matches(['_', '-', ' ']));
    Ok(if name.is_empty() { map.to_owned() } else { name })
}
