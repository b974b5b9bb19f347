//! Documents of earlier versions brought up to the present one, looking as they did.

use super::{Document, FORMAT, Layer, layers, tree};
use crate::setting::{Param, Settings};

/// Brings a document that this version can read to its own format; one that it can't is left for [`check`](super::check) to refuse.
///
/// `dustcoat/1` measured edges and recesses each at a radius of its own, and had fixed defaults. Both are read from one measurement now: what was the radius
/// of edges is its medium one, what was that of recesses its broad one, and steps say which of them they take.
pub fn upgrade(document: &mut Document) {
    if document.format != "dustcoat/1" {
        return;
    }
    document.format = FORMAT.into();
    let mut take = |kind: &str| document.readings.remove(kind).unwrap_or_default();
    let (edges, recesses) = (take("edges"), take("recesses"));
    let radius = |of: &Settings| of.get("radius").cloned().unwrap_or(6.0.into());
    let mut curvature = Settings::from([("medium".into(), radius(&edges)), ("broad".into(), radius(&recesses))]);
    if let Some(rays) = edges.get("rays").or(recesses.get("rays")) {
        curvature.insert("rays".into(), rays.clone());
    }
    document.readings.insert("curvature".into(), curvature);
    for (kind, distance) in [("occlusion", 120.0), ("thickness", 40.0)] {
        document.readings.entry(kind.into()).or_default().entry("distance".into()).or_insert(distance.into());
    }
    for settings in document.readings.values_mut() {
        settings.insert("smooth".into(), Param::from("off"));
    }
    if radius(&edges) != radius(&recesses) {
        let ids: Vec<String> = layers(&document.layers).iter().map(|l| l.id.clone()).collect();
        for id in ids {
            if let Some(layer) = tree::find_layer_mut(&mut document.layers, &id) {
                broad_recesses(layer);
            }
        }
    }
}

fn broad_recesses(layer: &mut Layer) {
    for step in layer.mask.steps.iter_mut().filter(|s| s.kind == "recesses") {
        step.settings.insert("radius".into(), Param::from("broad"));
    }
}
