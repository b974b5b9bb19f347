//! The textures that channels beyond colour, roughness and metal are packed into, as glTF 2.0 and its ratified extensions want them. One line each in [`PACKED`].
//!
//! Bytes hold 0…1; what may be greater is divided by the greatest value that there can be, which goes into the material as a factor.

use serde_json::{Value, json};

use super::texture::scatter;
use super::{Evaluation, Highest};
use crate::bake::Surface;
use crate::finish::channel;
use crate::mesh::write::AddMap;
use crate::raster::quantise::unorm8;
use crate::raster::srgb::encode_u8;

/// A texture of four bytes a texel.
pub struct Packed {
    /// Key.
    pub key: &'static str,
    /// What the artist reads.
    pub label: &'static str,
    /// What its channels hold.
    pub holds: &'static str,
    /// Whether red, green and blue are colours, sRGB.
    pub srgb: bool,
    /// Whether alpha holds something too.
    pub alpha: bool,
    /// The channels that it is packed from; it is written if the piece has one of them.
    pub of: &'static [&'static str],
    /// The greatest value, from those of the channels.
    factor: fn(&Highest) -> f32,
    /// How it is put into a material of glTF.
    pub gltf: AddMap,
    texel: fn(&Values, usize) -> [u8; 4],
}

/// A channel that a texture is packed from.
struct Held<'a> {
    kind: &'static str,
    /// Nothing where the piece hasn't it.
    plane: Option<&'a [f32]>,
    bare: &'static [f32],
    /// The greatest value that there can be.
    most: f32,
}

/// The channels that a texture is packed from.
struct Values<'a> {
    held: Vec<Held<'a>>,
    texels: usize,
}

impl<'a> Values<'a> {
    fn new(of: &[&'static str], e: &'a Evaluation, texels: usize) -> Self {
        let held = |kind: &&'static str| Held {
            kind,
            plane: e.channels.get(*kind).map(|c| c.as_slice()),
            bare: bare(kind),
            most: most(&e.highest, kind),
        };
        Self { held: of.iter().map(held).collect(), texels }
    }

    fn held(&self, kind: &str) -> &Held<'a> {
        self.held.iter().find(|h| h.kind == kind).expect("a texture reads what it is packed from")
    }

    /// A component of a channel at a texel; the bare piece's where this one hasn't that channel.
    fn at(&self, kind: &str, component: usize, i: usize) -> f32 {
        let held = self.held(kind);
        held.plane.map_or(held.bare[component], |plane| plane[component * self.texels + i])
    }

    /// A number as a share of the greatest that there can be.
    fn share(&self, kind: &str, i: usize) -> f32 {
        self.at(kind, 0, i) / self.held(kind).most.max(1e-6)
    }

    fn color(&self, kind: &str, i: usize) -> [u8; 3] {
        [0, 1, 2].map(|c| encode_u8(self.at(kind, c, i)))
    }
}

/// What the bare piece has of a channel.
fn bare(kind: &str) -> &'static [f32] {
    channel::find(kind).expect("textures are packed from channels").bare
}

/// The greatest value of a channel, or the bare piece's.
fn most(highest: &Highest, kind: &str) -> f32 {
    highest.get(kind).copied().unwrap_or(bare(kind)[0])
}

/// Reflectance of a dielectric head-on (Fresnel).
pub(crate) fn head_on(ior: f32) -> f32 {
    let r = (ior - 1.0) / (ior + 1.0);
    r * r
}

/// Says what an extension of glTF's materials holds.
fn extend(material: &mut Value, name: &str, value: Value) {
    material["extensions"][format!("KHR_materials_{name}")] = value;
}

/// All of them.
pub static PACKED: [Packed; 7] = [
    Packed {
        key: "emissive",
        label: "Emissive",
        holds: "RGB · sRGB, divided by the strength in the material",
        srgb: true,
        alpha: false,
        of: &["emissive", "emissive_strength"],
        factor: |h| most(h, "emissive_strength").max(1e-3),
        gltf: |material, texture, factor, _| {
            let within = factor.min(1.0);
            material["emissiveTexture"] = texture.clone();
            material["emissiveFactor"] = json!([within, within, within]);
            if factor > 1.0 {
                extend(material, "emissive_strength", json!({"emissiveStrength": factor}));
            }
        },
        texel: |v, i| {
            let share = v.at("emissive_strength", 0, i) / v.held("emissive_strength").most.max(1e-3);
            let [r, g, b] = [0, 1, 2].map(|c| encode_u8(v.at("emissive", c, i) * share));
            [r, g, b, 255]
        },
    },
    Packed {
        key: "clearcoat",
        label: "Clearcoat",
        holds: "R weight · G roughness · linear",
        srgb: false,
        alpha: false,
        of: &["clearcoat", "clearcoat_roughness"],
        factor: |_| 1.0,
        gltf: |material, texture, _, _| {
            let value = json!({"clearcoatFactor": 1.0, "clearcoatTexture": texture,
                               "clearcoatRoughnessFactor": 1.0, "clearcoatRoughnessTexture": texture});
            extend(material, "clearcoat", value);
        },
        texel: |v, i| [unorm8(v.at("clearcoat", 0, i)), unorm8(v.at("clearcoat_roughness", 0, i)), 0, 255],
    },
    Packed {
        key: "clearcoat_normal",
        label: "Clearcoat normals",
        holds: "RGB direction in tangent space, green up · linear",
        srgb: false,
        alpha: false,
        of: &["clearcoat_normal"],
        factor: |_| 1.0,
        // Beside the weight, if there is one: without it the layer isn't there.
        gltf: |material, texture, _, _| {
            material["extensions"]["KHR_materials_clearcoat"]["clearcoatNormalTexture"] = texture.clone();
        },
        texel: |v, i| {
            let [x, y, z] = [0, 1, 2].map(|c| v.at("clearcoat_normal", c, i));
            [unorm8(x * 0.5 + 0.5), unorm8(y * 0.5 + 0.5), unorm8(z * 0.5 + 0.5), 255]
        },
    },
    Packed {
        key: "sheen",
        label: "Sheen",
        holds: "RGB colour, sRGB · A roughness",
        srgb: true,
        alpha: true,
        of: &["sheen_color", "sheen_roughness"],
        factor: |_| 1.0,
        gltf: |material, texture, _, _| {
            let value = json!({"sheenColorFactor": [1.0, 1.0, 1.0], "sheenColorTexture": texture,
                               "sheenRoughnessFactor": 1.0, "sheenRoughnessTexture": texture});
            extend(material, "sheen", value);
        },
        texel: |v, i| {
            let [r, g, b] = v.color("sheen_color", i);
            [r, g, b, unorm8(v.at("sheen_roughness", 0, i))]
        },
    },
    Packed {
        key: "anisotropy",
        label: "Anisotropy",
        holds: "RG direction in tangent space · B strength · linear",
        srgb: false,
        alpha: false,
        of: &["anisotropy", "anisotropy_rotation"],
        factor: |_| 1.0,
        gltf: |material, texture, _, _| {
            extend(material, "anisotropy", json!({"anisotropyStrength": 1.0, "anisotropyTexture": texture}));
        },
        texel: |v, i| {
            let angle = v.at("anisotropy_rotation", 0, i).to_radians();
            let unit = |c: f32| unorm8(c * 0.5 + 0.5);
            [unit(libm::cosf(angle)), unit(libm::sinf(angle)), unorm8(v.at("anisotropy", 0, i)), 255]
        },
    },
    Packed {
        key: "specular",
        label: "Specular",
        holds: "RGB tint, sRGB · A weight, of the reflection that the IOR in the material gives",
        srgb: true,
        alpha: true,
        of: &["specular", "specular_color", "ior"],
        factor: |h| most(h, "ior"),
        gltf: |material, texture, factor, _| {
            extend(material, "ior", json!({"ior": factor}));
            let value = json!({"specularFactor": 1.0, "specularTexture": texture,
                               "specularColorFactor": [1.0, 1.0, 1.0], "specularColorTexture": texture});
            extend(material, "specular", value);
        },
        texel: |v, i| {
            // glTF has one IOR for a material: a lower one at a texel is a weaker reflection there.
            let share = head_on(v.at("ior", 0, i)) / head_on(v.held("ior").most).max(1e-6);
            let [r, g, b] = v.color("specular_color", i);
            [r, g, b, unorm8(v.at("specular", 0, i) * share)]
        },
    },
    Packed {
        key: "transmission",
        label: "Transmission",
        holds: "R transmission · G thickness of the body, divided by that in the material · linear",
        srgb: false,
        alpha: false,
        of: &["transmission", "thickness"],
        factor: |h| most(h, "thickness"),
        gltf: |material, texture, factor, body| {
            extend(material, "transmission", json!({"transmissionFactor": 1.0, "transmissionTexture": texture}));
            let Some(body) = body else { return };
            let mut value = json!({"thicknessFactor": factor * 0.001, "thicknessTexture": texture});
            if let Some((color, distance)) = body.tint {
                value["attenuationColor"] = json!(color);
                value["attenuationDistance"] = json!(distance * 0.001);
            }
            extend(material, "volume", value);
        },
        texel: |v, i| [unorm8(v.at("transmission", 0, i)), unorm8(v.share("thickness", i)), 0, 255],
    },
];

/// The texture of that key.
pub fn find(key: &str) -> Option<&'static Packed> {
    PACKED.iter().find(|p| p.key == key)
}

impl Packed {
    /// Whether one of its channels is among those of a piece.
    pub fn is_among(&self, has: impl Fn(&str) -> bool) -> bool {
        self.of.iter().any(|kind| has(kind))
    }

    /// What goes into the material: the strength of the light, the IOR, the thickness in mm, or 1.
    pub fn factor(&self, highest: &Highest) -> f32 {
        (self.factor)(highest)
    }

    /// Its bytes by covered texel, of which there are so many.
    pub(crate) fn texels<'a>(
        &'a self,
        texels: usize,
        e: &'a Evaluation,
    ) -> impl Fn(usize) -> [u8; 4] + Send + Sync + 'a {
        let values = Values::new(self.of, e, texels);
        move |i| (self.texel)(&values, i)
    }

    /// RGBA8 over all rows that a surface holds.
    pub fn bytes(&self, surface: &Surface, e: &Evaluation) -> Vec<u8> {
        let values = Values::new(self.of, e, surface.atlas.len());
        scatter(surface, [0, 0, 0, 255], |i| (self.texel)(&values, i))
    }

    /// What its bytes depend on, as a name.
    pub fn content(&self, e: &Evaluation) -> String {
        let of = self.of.iter().map(|kind| e.keys.get(kind).map_or("", String::as_str));
        format!("{}/{}/{:?}", self.key, of.collect::<Vec<_>>().join("/"), self.factor(&e.highest))
    }
}
