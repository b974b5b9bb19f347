//! Works out what steps and finishes bring in, with a hash of everything that it depends on.

use std::sync::Arc;

use super::field::{Drawn, Field, Ladder, Lays, Painted};
use super::graded::{Amount, COARSE, Driver, FINE, Graded, MIDDLE};
use super::source::Origin;
use super::{StepKind, amount_spec};
use crate::bake::{MeasurementKey, reading};
use crate::finish::channel::{self, Channel};
use crate::pattern;
use crate::pattern::picture::PictureField;
use crate::pin::{ByHand, Laying, Pin, Pinned};
use crate::raster::pyramid::MaskPicture;
use crate::setting::{
    DialStates, MaskDrive, MaskSource, Param, ParamSpec, Resolved, Settings, Value, resolve, resolve_one,
};
use crate::stroke::{Drawing, Strokes};

/// What a line reads of the document around it.
pub trait Around {
    /// The measurement that a reading is read from, if it costs rays.
    fn measured(&mut self, reading: &reading::Reading) -> Option<MeasurementKey>;
    /// What the project says of the weather.
    fn weather(&mut self) -> Settings {
        Settings::new()
    }
    /// The hash of the picture that stands in for a reading, if one does.
    fn stand_in(&mut self, _reading: &reading::Reading) -> Option<String> {
        None
    }
    /// The index of the part of that name.
    fn part(&mut self, _name: &str) -> Option<u16> {
        None
    }
    /// A picture for masks by its file name: its hash and its numbers.
    fn picture(&mut self, name: &str) -> Option<(String, Arc<MaskPicture>)>;
    /// The layer that publishes its mask under a name: its index in the plan, and the hash of its mask.
    fn follow(&mut self, name: &str) -> Option<(usize, blake3::Hash)>;
    /// The layer's own mask, for the values of its finish: its index in the plan, and the hash of its mask.
    fn own(&mut self) -> Option<(usize, blake3::Hash)> {
        None
    }
    /// The pins of the layer's own line, for the values of its finish, each with a hash of all that it depends on.
    fn pins(&mut self) -> Vec<(Arc<Pin>, String)> {
        vec![]
    }
    /// The name of the use that the layer belongs to, all that hold it included; empty outside of recipes.
    fn within(&mut self) -> String {
        String::new()
    }
    /// Whether what was drawn and laid by hand in it belongs to a piece of another shape, and shows nothing here.
    fn is_drawn_elsewhere(&self) -> bool {
        false
    }
    /// The hash of a channel of what lies below.
    fn below(&mut self, channel: &'static Channel) -> blake3::Hash;
}

/// What the three numbers of a picture are.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Components {
    /// Linear red, green and blue.
    Colors,
    /// A direction in tangent space; green points up the picture.
    DirectionsUp,
    /// The same; green points down the picture.
    DirectionsDown,
}

/// Works out what steps and finishes bring in.
pub struct Bringing<'a> {
    /// What the dials stand at.
    pub dials: &'a DialStates,
    /// What lies around.
    pub around: &'a mut dyn Around,
}

impl Bringing<'_> {
    /// How much of something is taken. `own` is told everything that it depends on.
    pub fn amount(&mut self, param: &Param, own: &mut blake3::Hasher) -> Amount {
        self.number(&amount_spec(), Some(param), own)
    }

    /// A number that may vary along a mask.
    pub fn number(&mut self, spec: &ParamSpec, param: Option<&Param>, own: &mut blake3::Hasher) -> Amount {
        if let Some(Param::Mask(drive)) = param {
            let driver = self.driver(spec.clone(), drive, own);
            return Amount::Along(driver.field, driver.low as f32, driver.high as f32);
        }
        let Value::Number(amount) = resolve_one(spec, param, self.dials) else {
            return Amount::Even(0.0);
        };
        own.update(&amount.to_bits().to_le_bytes());
        Amount::Even(amount as f32)
    }

    /// The numbers of a step that masks drive.
    pub(super) fn drivers(
        &mut self,
        specs: &[ParamSpec],
        settings: &Settings,
        own: &mut blake3::Hasher,
    ) -> Vec<Driver> {
        let driven = settings.iter().filter_map(|(key, param)| match param {
            Param::Mask(drive) => Some((specs.iter().find(|s| s.key == key)?.clone(), drive)),
            _ => None,
        });
        driven.map(|(spec, drive)| self.driver(spec, drive, own)).collect()
    }

    fn driver(&mut self, spec: ParamSpec, drive: &MaskDrive, own: &mut blake3::Hasher) -> Driver {
        own.update(spec.key.as_bytes());
        own.update(&drive.low.to_bits().to_le_bytes()).update(&drive.high.to_bits().to_le_bytes());
        Driver { spec, field: Arc::new(self.brought(&drive.mask, own)), low: drive.low, high: drive.high }
    }

    /// The mask that drives something. `own` is told everything that it depends on.
    pub fn brought(&mut self, source: &MaskSource, own: &mut blake3::Hasher) -> Field {
        let Some(kind) = StepKind::find(&source.kind) else { return Field::Nothing };
        let settings = resolve(kind.specs(), &source.settings, self.dials);
        let mut inner = blake3::Hasher::new();
        let field = self.even_field(&source.kind, kind, &settings, &mut inner);
        own.update(inner.finalize().as_bytes());
        field
    }

    /// Three numbers of a picture; none when the picture is gone. `own` is told everything that it depends on.
    pub fn components(
        &mut self,
        source: &MaskSource,
        read: Components,
        own: &mut blake3::Hasher,
    ) -> Option<[Field; 3]> {
        let kind = StepKind::find(&source.kind)?;
        let StepKind::Source(s) = kind else { return None };
        let settings = resolve(kind.specs(), &source.settings, self.dials);
        hash_step(&source.kind, &settings, own);
        let name = match s.origin {
            Origin::Colors(name) => name,
            Origin::PinnedColors(name) => return self.pinned_components(&name(&settings), read, own),
            _ => return None,
        };
        let (hash, picture) = self.around.picture(&name(&settings))?;
        own.update(hash.as_bytes()).update(&[read as u8]);
        let all = match read {
            Components::Colors => PictureField::colors(&picture, &settings),
            Components::DirectionsUp => PictureField::directions(&picture, false, &settings),
            Components::DirectionsDown => PictureField::directions(&picture, true, &settings),
        };
        let mut component = 0u8;
        Some(all.map(|field| {
            component += 1;
            let hash = own.clone().update(&[component]).finalize().to_hex().to_string();
            Field::Pattern(pattern::Placed::of(Box::new(field), &settings), hash)
        }))
    }

    fn pinned_components(&mut self, name: &str, read: Components, own: &mut blake3::Hasher) -> Option<[Field; 3]> {
        own.update(&[read as u8]);
        let laying = |c: usize, pin: Arc<Pin>, picture: &MaskPicture| match read {
            Components::Colors => Laying::number(pin, picture, picture.linear(c)),
            _ => {
                let down = read == Components::DirectionsDown;
                Laying::direction(pin, picture, [0, 1, 2].map(|c| picture.direction(c, down)), c)
            }
        };
        let mut component = |c: usize| {
            own.update(&[c as u8]);
            // Beside a pin normals are those of the surface.
            let bare = if read != Components::Colors && c == 2 { 1.0 } else { 0.0 };
            self.pinned(name, bare, own, &|pin, picture| laying(c, pin, picture))
        };
        Some([component(0)?, component(1)?, component(2)?])
    }

    /// What was drawn or laid by hand. `own` is told everything that it depends on.
    pub(super) fn by_hand(
        &mut self,
        kind: StepKind,
        settings: &Resolved,
        by_hand: ByHand,
        own: &mut blake3::Hasher,
    ) -> Field {
        if let StepKind::Source(s) = kind
            && let Origin::Strokes = s.origin
        {
            return self.drawn(by_hand.strokes, own);
        }
        hash_step(kind.kind(), settings, own);
        let picture = self.around.picture(settings.text("picture"));
        let pin = Arc::new(Pin::new(settings, by_hand, picture, own));
        match Laying::mask(pin.clone(), settings.text("channel"), settings.is_on("negative")) {
            Some(laying) if !pin.frames.is_empty() => {
                let hash = own.finalize().to_hex().to_string();
                Field::Pinned(Box::new(Pinned::new(vec![laying], 0.0)), Lays::Mask(pin), hash)
            }
            _ => Field::Nothing,
        }
    }

    /// What the layer's own pins lay of a picture, or of their own ones where there is none of that name: what `laying` makes of each pin and its picture. `own` is told everything that it depends on.
    fn pinned(
        &mut self,
        name: &str,
        bare: f32,
        own: &mut blake3::Hasher,
        laying: &dyn Fn(Arc<Pin>, &MaskPicture) -> Laying,
    ) -> Option<Field> {
        let other = if name.is_empty() { None } else { Some(self.around.picture(name)?) };
        let pins = self.around.pins();
        own.update(other.as_ref().map_or("", |p| &p.0).as_bytes());
        for (_, hash) in &pins {
            own.update(hash.as_bytes());
        }
        let of = |pin: Arc<Pin>| {
            let picture = other.as_ref().or(pin.picture.as_ref())?.1.clone();
            Some(laying(pin, &picture))
        };
        let all: Vec<Laying> = pins.into_iter().filter_map(|(pin, _)| of(pin)).collect();
        let hash = own.finalize().to_hex().to_string();
        (!all.is_empty()).then(|| Field::Pinned(Box::new(Pinned::new(all, bare)), Lays::Value, hash))
    }

    fn drawn(&mut self, strokes: &Strokes, own: &mut blake3::Hasher) -> Field {
        // By itself, so that it is found again whatever else of the step is turned.
        let mut drawn = blake3::Hasher::new();
        drawn.update(b"strokes/1|");
        let mut after = vec![];
        let shown = strokes.iter().filter(|s| s.is_drawn()).count();
        for (i, stroke) in strokes.iter().filter(|s| s.is_drawn()).enumerate() {
            stroke.hash_into(&mut drawn);
            if i + Drawn::NEW + 1 >= shown {
                after.push(drawn.finalize().to_hex().to_string());
            }
        }
        own.update(drawn.finalize().as_bytes());
        Field::Drawn(Box::new(Drawn { strokes: strokes.clone(), after, drawing: Drawing::new(strokes.clone()) }))
    }

    /// What a source brings in. `own` is told everything that it depends on.
    pub(super) fn field(
        &mut self,
        name: &str,
        kind: StepKind,
        settings: &Resolved,
        (drivers, driven): (&[Driver], &blake3::Hasher),
        own: &mut blake3::Hasher,
    ) -> Field {
        let rungs = |spec: &ParamSpec| match kind {
            StepKind::Reading(_) => FINE,
            _ if spec.log => COARSE,
            _ => MIDDLE,
        };
        let mut hashes = driven.clone();
        let graded = Graded::new(settings, drivers, &rungs, &mut |settings| {
            let mut one = blake3::Hasher::new();
            let field = self.even_field(name, kind, settings, &mut one);
            hashes.update(one.finalize().as_bytes());
            field
        });
        own.update(hashes.finalize().as_bytes());
        let unlike: Vec<bool> = drivers.iter().map(|d| d.spec.log && !matches!(kind, StepKind::Reading(_))).collect();
        ladder(graded, &unlike, &mut hashes)
    }

    fn even_field(&mut self, name: &str, kind: StepKind, settings: &Resolved, own: &mut blake3::Hasher) -> Field {
        let read = match kind {
            StepKind::Reading(r) => Some(r.read_by(settings.clone(), &self.around.weather())),
            _ => None,
        };
        let settings = read.as_ref().unwrap_or(settings);
        hash_step(name, settings, own);
        let hash = |own: &blake3::Hasher| own.finalize().to_hex().to_string();
        match kind {
            StepKind::Reading(r) => {
                let key = self.around.measured(r);
                if let Some(key) = &key {
                    key.hash_into(own);
                }
                if let Some(hash) = self.around.stand_in(r) {
                    own.update(hash.as_bytes());
                }
                Field::Reading(r, settings.clone(), key)
            }
            StepKind::Pattern(p) => Field::Pattern(pattern::Placed::new(p, settings), hash(own)),
            StepKind::Source(s) => match s.origin {
                Origin::Here(fill) => Field::Source(fill, settings.clone()),
                Origin::Part(name, fill) => {
                    // Names change; the number is what texels hold.
                    let part = self.around.part(&name(settings));
                    own.update(&part.map_or(u32::MAX, u32::from).to_le_bytes());
                    Field::Source(fill, settings.clone())
                }
                Origin::Picture(name) => match self.around.picture(&name(settings)) {
                    Some((picture_hash, picture)) => {
                        own.update(picture_hash.as_bytes());
                        let field = Box::new(PictureField::new(&picture, settings));
                        Field::Pattern(pattern::Placed::of(field, settings), hash(own))
                    }
                    None => Field::Nothing,
                },
                Origin::Painted(name) => match self.around.picture(&name(settings)) {
                    Some((picture_hash, picture)) => {
                        own.update(picture_hash.as_bytes());
                        Field::Painted(Painted {
                            levels: picture.levels(settings.text("channel")),
                            negative: settings.is_on("negative"),
                            sheet: (settings.integer("sheet") as usize).checked_sub(1),
                        })
                    }
                    None => Field::Nothing,
                },
                // Colours are no mask: they come in by `components`; what is laid by hand stands in its step: it comes in by `by_hand`.
                Origin::Colors(_) | Origin::PinnedColors(_) | Origin::Strokes | Origin::Pin => Field::Nothing,
                Origin::Pinned(name) => {
                    let channel = settings.text("channel");
                    let laying = |pin, picture: &MaskPicture| Laying::number(pin, picture, picture.levels(channel));
                    self.pinned(&name(settings), 0.0, own, &laying).unwrap_or(Field::Nothing)
                }
                Origin::Use(seed) => {
                    let name = self.around.within();
                    own.update(name.as_bytes());
                    let [a, b, c, d, ..] = *blake3::hash(name.as_bytes()).as_bytes();
                    Field::Even(reading::random(u32::from_le_bytes([a, b, c, d]), seed(settings)))
                }
                Origin::Follow(name) => match self.around.follow(&name(settings)) {
                    Some((index, mask)) => {
                        own.update(mask.as_bytes());
                        Field::Layer(index, mask.to_hex().to_string())
                    }
                    None => Field::Nothing,
                },
                Origin::Own => match self.around.own() {
                    Some((index, mask)) => {
                        own.update(mask.as_bytes());
                        Field::Layer(index, mask.to_hex().to_string())
                    }
                    None => Field::Nothing,
                },
                Origin::Below(channel, value) => match channel::find(channel(settings)) {
                    Some(channel) => {
                        own.update(self.around.below(channel).as_bytes());
                        Field::Below(channel, value, settings.clone(), hash(own))
                    }
                    None => Field::Nothing,
                },
            },
            StepKind::Shaper(_) => Field::Nothing,
        }
    }
}

pub(super) fn hash_step(kind: &str, settings: &Resolved, own: &mut blake3::Hasher) {
    own.update(kind.as_bytes());
    settings.hash_into(own);
}

/// Fields on a ladder as one field. `unlike` says of each driven number whether its rungs have little in common; `hash` knows all that they depend on.
fn ladder(graded: Graded<Field>, unlike: &[bool], hash: &mut blake3::Hasher) -> Field {
    match graded {
        Graded::Even(field) => field,
        Graded::Along(by, rungs) => {
            let rungs = rungs.into_iter().map(|r| ladder(r, &unlike[1..], hash)).collect();
            // Each ladder within a ladder has a hash of its own.
            hash.update(b"|");
            Field::Graded(Box::new(Ladder { by, rungs, unlike: unlike[0], hash: hash.finalize().to_hex().to_string() }))
        }
    }
}
