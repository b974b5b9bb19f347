//! What the page sees and sends: plain data, from which the front end's types are generated.

mod cabinet;
mod evaluation;
mod handed;
mod looks;
mod pictured;
mod project;
mod strokes;
mod told;

pub use cabinet::{
    CabinetCard, CardLayer, FavouriteRequest, FitView, FoundPalette, FoundPicture, FoundThings, Imported, KeepOpened,
    KeepPreset, KeptLine, LayRecipe, Laying, MarkRequest, MarksView, SaveLine, SaveRecipe, UsedIn,
};
pub use evaluation::{
    CandidateView, ChannelView, DrawRequest, Drawn, EvaluateRequest, EvaluationView, MeasureRequest, MeasureStarted,
    MovedView, Over, PackedView, PatchPlace, PatchRequest, Patches, PreviewRequest, ProbeRequest, ProbeView, Sent,
    Tile, TintView,
};
pub use handed::{
    FileKindView, GroundView, HandoffDone, HandoffRequest, HandoffView, KeptLayout, LightsView, ReadyLayout, StillDone,
    SurroundView,
};
pub use looks::{LadderRequest, LadderView, LookRequest, SheetRequest, Six, SixRequest};
pub use pictured::{KnownGrey, LayPictured, SetAside, ToldPicture, ToldPictures, ToneRequest, ToneView};
pub use project::{
    DemoCard, EditRequest, Freshness, GoTo, KeepSnapshot, MadeCard, MeasurementState, Newer, OnRevision, PieceView,
    PlanView, ProjectCard, ProjectView, SnapshotView, StateView, When,
};
pub use strokes::{StrokeView, StrokesAsked, StrokesAt};
pub use told::{ArrivalView, Event, JobKind, JobView, Problem};
