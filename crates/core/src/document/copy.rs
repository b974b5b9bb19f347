//! Layers on their way from one project to another: as text, which says of which version it is.

use serde::{Deserialize, Serialize};

use super::ids::forget_ids;
use super::tree::{find_layer, layers};
use super::{Dial, Document, EditError, FORMAT, Layer, dials_behind, upgrade};

/// The most that is read, in bytes.
const LIMIT: usize = 8 << 20;

#[derive(Serialize, Deserialize)]
struct Copied {
    format: String,
    layer: Layer,
    #[serde(default)]
    dials: Vec<Dial>,
}

/// A layer as text, with the dials that drive it.
///
/// # Errors
/// When there is no such layer.
pub fn copied(document: &Document, id: &str) -> Result<String, EditError> {
    let unknown = || EditError::Unknown { what: "layer", id: id.into() };
    let layer = find_layer(&document.layers, id).ok_or_else(unknown)?.clone();
    let dials = dials_behind(std::slice::from_ref(&layer), &document.dials);
    serde_json::to_string(&Copied { format: FORMAT.into(), layer, dials })
        .map_err(|e| EditError::Copied { why: e.to_string() })
}

/// The name of a copied layer, as far as it can be read.
pub(super) fn name(text: &str) -> Option<String> {
    serde_json::from_str::<Copied>(text).ok().map(|c| c.layer.name)
}

/// The layer of a text, with fresh ids to be given, and its dials. A text of an earlier version is brought up to the present one. A mask is published under its name
/// unless one among `there` is.
pub(super) fn read(text: &str, there: &[Layer]) -> Result<(Layer, Vec<Dial>), EditError> {
    let wrong = |why: &str| EditError::Copied { why: why.into() };
    if text.len() > LIMIT {
        return Err(wrong("it is larger than 8 MB"));
    }
    let value: serde_json::Value = serde_json::from_str(text).map_err(|_| wrong("it is no layer of Dust Coat"))?;
    let format = value["format"].as_str().ok_or_else(|| wrong("it is no layer of Dust Coat"))?;
    if format != FORMAT && format != "dustcoat/1" {
        return Err(EditError::Format { found: format.chars().take(40).collect() });
    }
    let copied: Copied = serde_json::from_value(value).map_err(|e| EditError::Copied { why: e.to_string() })?;
    let mut document =
        Document { format: copied.format, layers: vec![copied.layer], dials: copied.dials, ..Document::new("Copied") };
    upgrade(&mut document);
    let mut layer = document.layers.remove(0);
    let taken: Vec<String> = layers(there).into_iter().filter_map(|l| l.publish.clone()).collect();
    forget_ids(&mut layer, &|name| !taken.iter().any(|t| t == name));
    Ok((layer, document.dials))
}
