//! What a document keeps under names: places of the camera, palettes. Keeping under a name that is taken keeps that one anew.

use super::edit::unknown;
use super::{Document, Edit, EditError, Palette, Place};

trait Named {
    const WHAT: &'static str;
    fn name(&self) -> &str;
}

impl Named for Place {
    const WHAT: &'static str = "place";
    fn name(&self) -> &str {
        &self.name
    }
}

impl Named for Palette {
    const WHAT: &'static str = "palette";
    fn name(&self) -> &str {
        &self.name
    }
}

fn keep<T: Named>(all: &mut Vec<T>, new: T) {
    match all.iter_mut().find(|there| there.name() == new.name()) {
        Some(there) => *there = new,
        None => all.push(new),
    }
}

fn find<T: Named>(all: &[T], name: &str) -> Result<usize, EditError> {
    all.iter().position(|there| there.name() == name).ok_or_else(|| unknown(T::WHAT, name))
}

fn forget<T: Named>(all: &mut Vec<T>, name: &str) -> Result<(), EditError> {
    all.remove(find(all, name)?);
    Ok(())
}

pub(super) fn change_kept(d: &mut Document, edit: &Edit) -> Result<(), EditError> {
    match edit {
        Edit::KeepPlace { place } => keep(&mut d.places, place.clone()),
        Edit::RemovePlace { name } => forget(&mut d.places, name)?,
        Edit::KeepPalette { palette } => keep(&mut d.study.palettes, palette.clone()),
        Edit::RemovePalette { name } => forget(&mut d.study.palettes, name)?,
        _ => {}
    }
    Ok(())
}
