//! What a document keeps under names: variants, places of the camera, palettes. Keeping under a name that is taken keeps that one anew.

use super::check_dial::check_value;
use super::edit::unknown;
use super::{Document, Edit, EditError, Palette, Place, Variant};

trait Named {
    const WHAT: &'static str;
    fn name(&self) -> &str;
}

impl Named for Variant {
    const WHAT: &'static str = "variant";
    fn name(&self) -> &str {
        &self.name
    }
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
        Edit::KeepVariant { name } => {
            let turned = d.dials.iter().filter(|x| x.formula.is_none());
            let values = turned.map(|x| (x.id.clone(), x.value.clone())).collect();
            keep(&mut d.variants, Variant { name: name.clone(), values });
        }
        Edit::TakeVariant { name } => {
            let found = &d.variants[find(&d.variants, name)?];
            for dial in d.dials.iter_mut().filter(|x| x.formula.is_none()) {
                // Its range may be another one since.
                if let Some(value) = found.values.get(&dial.id).map(|v| dial.bounded(v.clone()))
                    && check_value(dial, &value).is_ok()
                {
                    dial.value = value;
                }
            }
        }
        Edit::RemoveVariant { name } => forget(&mut d.variants, name)?,
        Edit::KeepPlace { place } => keep(&mut d.places, place.clone()),
        Edit::RemovePlace { name } => forget(&mut d.places, name)?,
        Edit::KeepPalette { palette } => keep(&mut d.study.palettes, palette.clone()),
        Edit::RemovePalette { name } => forget(&mut d.study.palettes, name)?,
        _ => {}
    }
    Ok(())
}
