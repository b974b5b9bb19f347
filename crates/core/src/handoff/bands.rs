//! Files of another size than the surface that they are worked out on: too large to lie in memory whole, or so small that a finer one is measured. Written band by band, sheet by sheet.

use std::collections::BTreeMap;

use super::content::{self, Content, Laid};
use super::picture::{Picture, Writing};
use super::{Each, Handoff, scene};
use crate::bake::Band;
use crate::document::{Document, FileKind};
use crate::evaluate::bands::Bands;
use crate::evaluate::{EvaluateError, LayerCoverage};
use crate::raster::Plane;

/// Writes the files of a hand-off whose size is another than that of its surface. `occlusion` and `readings` are those of the surface.
///
/// # Errors
/// [`EvaluateError`], and what `each` refuses.
pub fn write<E: From<EvaluateError>>(
    job: &Handoff,
    occlusion: Option<&[f32]>,
    readings: &BTreeMap<String, Plane>,
    each: Each<E>,
) -> Result<Vec<LayerCoverage>, E> {
    let (plan, size, base) = (job.plan, job.plan.size, job.context.surface);
    let mut bands = Bands::new(job.document, job.context, size, &plan.masks())?;
    let height = bands.rows(job.budget);
    let highest = bands.highest();
    let of_files: Vec<(usize, &Picture)> = plan.pictures().map(|(p, _)| p).enumerate().collect();
    let mut inside: Vec<Vec<Vec<u8>>> = vec![];
    for (s, sheet) in base.piece.sheets.iter().enumerate() {
        let all: Vec<&Picture> = of_files.iter().map(|f| f.1).chain(&plan.inside).collect();
        let mut files: Vec<Writing> = all.iter().map(|p| p.begin(size)).collect();
        let (mut row, end) = (s as u32 * size, (s as u32 + 1) * size);
        while row < end {
            let done = row as f32 / (base.piece.sheets.len() as u32 * size) as f32;
            (job.context.progress)("Writing the files", done);
            let band = Band::build(base, size, row, height);
            let e = bands.evaluate(&band)?;
            let occlusion = occlusion.map(|o| band.read(o));
            let readings = readings_of(&all, job.document, &band, readings);
            let laid = Laid::new(&band.surface, &e, occlusion.as_deref(), &readings);
            for (picture, file) in all.iter().zip(&mut files) {
                job.context.cancel.check().map_err(EvaluateError::from)?;
                let bytes = picture.rows(&laid);
                let at = |row: u32| band.surface.atlas.place(row * size) * picture.texel();
                file.add(&bytes[at(band.rows.start)..at(band.rows.end)]);
            }
            row = band.rows.end;
        }
        let mut done = files.into_iter().map(Writing::finish);
        for (row, _) in &of_files {
            let bytes = done.next().expect("one for each");
            let of = |i: &usize| plan.picture(*i).is_some_and(|p| p.0 == *row) && plan.files[*i].sheet == sheet.name;
            if let Some(i) = (0..plan.files.len()).find(of) {
                each(&plan.files[i], bytes)?;
            }
        }
        inside.push(done.collect());
    }
    for file in plan.files.iter().filter(|f| !f.kind.is_picture()) {
        let inside = if file.kind == FileKind::Glb { inside.as_slice() } else { &[] };
        each(file, scene::write(plan, file, &base.piece, inside, &highest))?;
    }
    Ok(bands.coverage())
}

/// The readings that pictures hold, on a band: what is measured is read between the texels of the surface, all else is worked out there.
fn readings_of(
    pictures: &[&Picture],
    document: &Document,
    band: &Band,
    known: &BTreeMap<String, Plane>,
) -> BTreeMap<String, Plane> {
    let mut out = BTreeMap::new();
    for slot in pictures.iter().flat_map(|p| &p.slots) {
        let Content::Reading(reading, settings) = &slot.content else { continue };
        let key = content::held_as(reading, settings);
        let plane = || match reading.measurement() {
            Some(_) => known.get(&key).map_or_else(Vec::new, |plane| band.read(plane)),
            None => content::read(reading, settings, document, &band.surface, None),
        };
        out.entry(key.clone()).or_insert_with(plane);
    }
    out
}
