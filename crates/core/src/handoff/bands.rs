//! Files too large to be worked out whole: written band by band, sheet by sheet.

use super::{Each, Handoff, PlannedFile, dressed, dressing, form, png, rows};
use crate::bake::Band;
use crate::evaluate::bands::Bands;
use crate::evaluate::{EvaluateError, LayerCoverage};

/// Writes the files of a hand-off whose size is above that of its surface.
///
/// # Errors
/// [`EvaluateError`], and what `each` refuses.
pub fn write<E: From<EvaluateError>>(job: &Handoff, each: Each<E>) -> Result<Vec<LayerCoverage>, E> {
    let (size, base) = (job.layout.size, job.context.surface);
    let glb = job.files.iter().find(|f| f.map == "glb");
    let mut bands = Bands::new(job.document, job.context, size)?;
    let height = bands.rows(job.budget);
    let highest = bands.highest();
    let (inside, see_through) = (dressing(&highest), highest.contains_key("opacity"));
    let mut pictures: Vec<Vec<Vec<u8>>> = vec![];
    for (s, sheet) in base.piece.sheets.iter().enumerate() {
        let wanted: Vec<&PlannedFile> = job.files.iter().filter(|f| f.sheet == sheet.name && f.map != "glb").collect();
        let more = inside.iter().filter(|m| glb.is_some() && !wanted.iter().any(|f| f.map == **m));
        let maps: Vec<&str> = wanted.iter().map(|f| f.map.as_str()).chain(more.copied()).collect();
        let forms: Vec<png::Form> = maps.iter().map(|map| form(map, see_through)).collect();
        let mut files: Vec<png::Rows> = forms.iter().map(|form| png::Rows::new(size, *form)).collect();
        let (mut row, end) = (s as u32 * size, (s as u32 + 1) * size);
        while row < end {
            let done = row as f32 / (base.piece.sheets.len() as u32 * size) as f32;
            (job.context.progress)("Writing the files", done);
            let band = Band::build(base, size, row, height);
            let e = bands.evaluate(&band)?;
            let occlusion = job.occlusion.map(|o| band.read(o));
            for ((map, form), file) in maps.iter().zip(&forms).zip(&mut files) {
                job.context.cancel.check().map_err(EvaluateError::from)?;
                let bytes = rows(map, job.layout, &band.surface, &e, occlusion.as_deref());
                let at = |row: u32| band.surface.atlas.place(row * size) * form.bytes();
                file.add(&bytes[at(band.rows.start)..at(band.rows.end)]);
            }
            row = band.rows.end;
        }
        let mut done: Vec<Vec<u8>> = files.into_iter().map(png::Rows::finish).collect();
        if glb.is_some() {
            let picture = |map: &str| maps.iter().position(|m| *m == map).map_or(vec![], |i| done[i].clone());
            pictures.push(inside.iter().map(|map| picture(map)).collect());
        }
        for (file, bytes) in wanted.iter().zip(done.drain(..)) {
            each(file, bytes)?;
        }
    }
    if let Some(file) = glb {
        each(file, dressed(&base.piece, &inside, &pictures, &highest))?;
    }
    Ok(bands.coverage())
}
