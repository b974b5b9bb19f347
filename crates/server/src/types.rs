//! The front end's types, generated from the Rust types: one file, declarations in the order of their names.

use std::any::TypeId;
use std::collections::{BTreeMap, HashSet};

use dustcoat_core::catalog::Entry;
use dustcoat_core::document::{ToldChannel, TriedFormula};
use dustcoat_core::evaluate::probe::Probe;
use dustcoat_core::mesh::import::SizeInUnit;
use dustcoat_core::still::shoot::StillSettings;
use ts_rs::{Config, TS, TypeVisitor};

use crate::views;

struct Collect<'a> {
    config: &'a Config,
    found: BTreeMap<String, String>,
    seen: HashSet<TypeId>,
}

impl TypeVisitor for Collect<'_> {
    fn visit<T: TS + 'static + ?Sized>(&mut self) {
        if !self.seen.insert(TypeId::of::<T>()) {
            return;
        }
        // Only named types have a file of their own; numbers, lists and the like don't.
        if T::output_path().is_none() {
            T::visit_dependencies(self);
            return;
        }
        let name = T::ident(self.config);
        self.found.insert(name, T::decl(self.config));
        T::visit_dependencies(self);
    }
}

/// Brings `/**`, ` * text`, ` */` on lines of their own into one line.
fn one_line_comments(decl: &str) -> String {
    decl.replace("/**\n * ", "/** ").replace("\n */\n", " */\n")
}

/// The content of `web/src/api/types.ts`.
pub fn typescript() -> String {
    let config = Config::new().with_large_int("number");
    let mut all = Collect { config: &config, found: BTreeMap::new(), seen: HashSet::new() };
    macro_rules! collect {
        ($($t:ty),* $(,)?) => { $( all.visit::<$t>(); )* };
    }
    collect!(
        Entry,
        SizeInUnit,
        views::ProjectCard,
        views::DemoCard,
        views::ProjectView,
        views::EditRequest,
        views::OnRevision,
        views::StateView,
        views::When,
        views::GoTo,
        views::EvaluateRequest,
        views::DrawRequest,
        views::Drawn,
        TriedFormula,
        views::LookRequest,
        views::SixRequest,
        views::Six,
        views::PatchRequest,
        views::Patches,
        views::KeepSnapshot,
        views::EvaluationView,
        views::MeasureRequest,
        views::MeasureStarted,
        views::PreviewRequest,
        views::CandidateView,
        views::ProbeRequest,
        views::ProbeView,
        Probe,
        views::LadderRequest,
        views::LadderView,
        views::SheetRequest,
        views::CabinetCard,
        views::MarkRequest,
        views::UsedIn,
        views::FoundThings,
        views::FavouriteRequest,
        views::Imported,
        views::Laying,
        views::FitView,
        views::KeepPreset,
        views::KeepOpened,
        views::SaveRecipe,
        views::LayRecipe,
        views::KeptLine,
        views::SaveLine,
        views::HandoffView,
        views::HandoffRequest,
        views::KeptLayout,
        views::HandoffDone,
        StillSettings,
        views::LightsView,
        views::GroundView,
        views::StillDone,
        views::Event,
        views::ArrivalView,
        views::JobView,
        views::ToldPictures,
        ToldChannel,
        views::ToneRequest,
        views::ToneView,
        views::LayPictured,
        views::StrokesAt,
        views::StrokesAsked,
        views::StrokeView,
        views::MadeCard,
        views::Problem,
    );
    let mut out = String::from(
        "// Generated from the Rust types by `make types`; a test fails when it is out of date. Don't edit.\n",
    );
    for decl in all.found.values() {
        out.push_str("\nexport ");
        out.push_str(&one_line_comments(decl));
        out.push('\n');
    }
    out
}
