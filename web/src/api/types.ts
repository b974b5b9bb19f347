// Generated from the Rust types by `make types`; a test fails when it is out of date. Don't edit.

export type ArrivalView = { 
/** What is done now. */
label: string, 
/** 0…1. */
share: number, 
/** Seconds left, as far as that can be told. */
left: number | null, };

export type Between = "linear" | "smooth" | "stepped" | "palette";

export type BoardItem = { 
/** Stable within the board; empty asks for a fresh one. */
id: string, } & ({ "kind": "picture", 
/** How it lies; its height follows from what is left of it. */
lies: Lies, 
/** blake3 of the file. */
hash: string, 
/** File name it came with. */
file: string, 
/** Width and height in texels. */
size: [number, number], 
/** What is left of it: from the left, from the top, to the right and to the bottom, as shares. */
crop?: [number, number, number, number], 
/** What stands below it. */
text?: string, 
/** The palette that was pulled from it, by name. */
palette?: string, } | { "kind": "note", 
/** How it lies; its height follows from the words. */
lies: Lies, 
/** The words. */
text: string, } | { "kind": "frame", 
/** How it lies. */
lies: Lies, 
/** Height in points. */
height: number, 
/** Its name. */
text: string, } | { "kind": "arrow", 
/** Where it begins. */
from: End, 
/** Where it points to. */
to: End, });

export type CabinetCard = { 
/** Id of the version. */
id: number, 
/** Which version it is. */
version: number, 
/** Its name. */
name: string, 
/** One sentence on what it is for. */
note: string, 
/** Words under which it is looked for. */
tags: Array<string>, 
/** From the bottom up. */
layers: Array<CardLayer>, 
/** Labels of its dials. */
dials: Array<string>, 
/** Names of its presets. */
presets: Array<string>, 
/** What it asks of a piece. */
needs: Needs, 
/** Whether it keeps strokes or pins, for pieces of one shape. */
drawn: boolean, 
/** What was said of the versions before. */
history: Array<VersionNote>, 
/** What is noted of it. */
marks: MarksView, };

export type CandidateView = { 
/** Address of what it makes by itself; none of what only changes what is there. */
alone: string | null, 
/** Address of what the line is after it; none where it needs what was not measured, or does nothing. */
line: string | null, };

export type CardLayer = { 
/** Its name. */
name: string, 
/** The colours that it lays down. */
colors: Array<string>, };

export type ChannelUse = { 
/** Whether the coat lays this channel down at all. */
on: boolean, 
/** Its settings; missing ones stand at their default. */
settings: { [key in string]: Param }, };

export type ChannelView = { 
/** Address of its pixels. */
pixels: string, 
/** Whether they are RGBA8, sRGB; otherwise R8. */
colors: boolean, };

export type Check = { 
/** Whether what is written would be wrong. */
serious: boolean, 
/** What it is. */
what: string, 
/** What to do. */
remedy: string, 
/** The room where that is done: `surface`, `build`, `dials` or `handoff`. */
room: string, };

export type ColorsDrive = { 
/** The picture and how it lies: a source of the kind `colors`. */
colors: MaskSource, };

export type Covers = "way" | "shell" | "part" | "edges";

export type DemoCard = { 
/** Key. */
key: string, 
/** Name. */
name: string, 
/** One sentence. */
note: string, };

export type Derived = { 
/** Within the dial's range. */
value: Value, 
/** The formula, with the labels of its dials. */
formula: string, 
/** Why it doesn't stand at what the formula gives, if it doesn't. */
bounded?: string, };

export type Dial = { 
/** Stable within the document; empty asks for a fresh one. */
id: string, 
/** What the artist reads. */
label: string, 
/** What it takes; where nothing is said, what its default is: a number or a colour. */
kind?: DialKind, 
/** Dials of one group stand together. */
group: string, 
/** One line of help. */
help?: string, 
/** What is to be minded of it, in the artist's words. */
note?: string, 
/** Unit to show. */
unit: string, 
/** Least value of a number dial. */
min: number, 
/** Greatest value of a number dial. */
max: number, 
/** The least difference between two of its numbers; 0 for none. */
step?: number, 
/** Whether it moves in even ratios rather than in even steps. */
log?: boolean, 
/** What a choice is taken from, in their order. */
options?: Array<DialOption>, 
/** It is shown only while another dial stands so. */
when?: ShownWhen, 
/** The formula that it follows, dials by id in braces; such a dial is shown and not turned. */
formula?: string, 
/** What it is when nobody turned it. */
default: Value, 
/** Where it stands. */
value: Value, 
/** The layer that it came with, and goes with. */
of?: string, };

export type DialDrive = { 
/** The id of the dial. */
dial: string, 
/** The setting's value when the dial stands at its minimum. */
low?: number, 
/** The setting's value when the dial stands at its maximum. */
high?: number, 
/** The way from one to the other. */
way?: Way, };

export type DialKind = "number" | "color" | "choice" | "switch" | "seed" | "part" | "picture" | "palette";

export type DialOption = { 
/** What is kept. */
key: string, 
/** What the artist reads. */
label: string, };

export type Document = { 
/** `dustcoat/2`. */
format: string, 
/** A name to show. */
name: string, 
/** What the piece is made of. */
intake: Intake, 
/** From the bottom up: the first lies on the bare piece. */
layers: Array<Layer>, 
/** The exposed parameters. */
dials: Array<Dial>, 
/** Settings of the measurements, by kind; missing ones stand at their default for the piece. */
readings: { [key in string]: { [key in string]: Param } }, 
/** Working texture size in texels. */
draft_size: number, 
/** Named sets of the dials' values. */
variants?: Array<Variant>, 
/** Where it is looked at from, to come back to. */
places?: Array<Place>, 
/** The use of a recipe that is edited as layers. */
opened?: OpenedUse, 
/** What was gathered before the work. */
study?: Study, 
/** What is handed off, where that was chosen. */
layout?: Layout, };

export type DrawRequest = { 
/** What is wanted. */
wanted: EvaluateRequest, 
/** Addresses of pixels that the page has, those that it used last at the end. */
holds: Array<string>, };

export type Drawn = { 
/** The evaluation. */
view: EvaluationView, 
/** What the page has not, in the order in which it comes. */
sent: Array<Sent>, };

export type DrawnFit = { 
/** How many strokes. */
strokes: number, 
/** How many pins that stand at a spot. */
pins: number, 
/** Whether the piece has the shape of that which they were drawn on; on others they show nothing. */
shows: boolean, };

export type Drive = DialDrive | FormulaDrive;

export type Edit = { "edit": "rename", name: string, } | { "edit": "set_draft_size", size: number, } | { "edit": "set_layout", layout: Layout | null, } | { "edit": "keep_variant", name: string, on?: string, } | { "edit": "set_variant", name: string, dial: string, value: Value | null, } | { "edit": "show_in_variant", name: string, layer: string, shown: boolean | null, } | { "edit": "take_variant", name: string, } | { "edit": "remove_variant", name: string, } | { "edit": "keep_place", place: Place, } | { "edit": "remove_place", name: string, } | { "edit": "keep_palette", palette: Palette, } | { "edit": "remove_palette", name: string, } | { "edit": "put_on_board", items: Array<BoardItem>, } | { "edit": "take_off_board", items: Array<string>, } | { "edit": "stack_on_board", item: string, index: number, } | { "edit": "set_element", element: Element, } | { "edit": "remove_element", element: string, } | { "edit": "move_element", element: string, index: number, } | { "edit": "block_in", elements: Array<string>, } | { "edit": "set_note", on: Noted, text: string, } | { "edit": "add_layer", inside: string | null, index: number, layer: Layer, 
/** Dials that come with it and drive it. */
dials?: Array<Dial>, } | { "edit": "paste_layer", inside: string | null, index: number, copied: string, } | { "edit": "remove_layer", layer: string, } | { "edit": "move_layer", layer: string, inside: string | null, index: number, } | { "edit": "duplicate_layer", layer: string, } | { "edit": "group_layer", layer: string, name: string, } | { "edit": "follow_recipe", layer: string, recipe: Recipe, } | { "edit": "open_use", layer: string, } | { "edit": "close_use", kept: Recipe | null, } | { "edit": "take_preset", layer: string, name: string, } | { "edit": "loosen", layer: string, } | { "edit": "set_layer", layer: string, name?: string, shown?: boolean, 
/** Publishes its mask under that name; empty takes it back. */
publish?: string, } | { "edit": "set_channel", layer: string, channel: string, on: boolean, } | { "edit": "vary", layer: string, variation: Variation, } | { "edit": "add_step", layer: string, index: number, step: Step, } | { "edit": "add_steps", layer: string, index: number, steps: Array<Step>, } | { "edit": "remove_step", layer: string, step: string, } | { "edit": "move_step", layer: string, step: string, index: number, } | { "edit": "set_step", layer: string, step: string, on?: boolean, join?: Join, } | { "edit": "add_stroke", layer: string, step: string, stroke: Stroke, } | { "edit": "set_strokes", layer: string, step: string, strokes: Array<string>, change: StrokeChange, } | { "edit": "set_stroke_points", layer: string, step: string, stroke: string, points: number[][], } | { "edit": "remove_strokes", layer: string, step: string, strokes: Array<string>, } | { "edit": "move_stroke", layer: string, step: string, stroke: string, index: number, } | { "edit": "lay_pin", layer: string, step: string, spot: Spot | null, } | { "edit": "set_param", target: Target, value: Param | null, } | { "edit": "make_dial", target: Target, label: string, group: string, low?: number, high?: number, } | { "edit": "add_dial", dial: Dial, } | { "edit": "set_dial", dial: Dial, } | { "edit": "move_dial", dial: string, index: number, group: string, } | { "edit": "follow_formula", dial: string, text: string | null, } | { "edit": "set_formula", target: Target, text: string, } | { "edit": "turn_dial", layer?: string, dial: string, value: Value, } | { "edit": "remove_dial", dial: string, } | { "edit": "swap_mesh", mesh: MeshSource, parts: { [key in string]: PartLook }, report?: Swapped, } | { "edit": "settle_swap" } | { "edit": "tell_parts", by: PartsBy, tolerance?: number, } | { "edit": "set_part", part: string, was: string, name?: string, color?: string, } | { "edit": "unwrap_part", part: string, anew: boolean, } | { "edit": "share_texels", part: string, shared: Sharing, } | { "edit": "add_picture", picture: PictureUse, } | { "edit": "set_picture", picture: PictureUse, } | { "edit": "lay_packed", picture: string, channels: Array<PackedChannel>, hard: boolean, } | { "edit": "remove_picture", picture: string, } | { "edit": "set_finer", finer: Finer | null, };

export type EditRequest = { 
/** The revision they were made on. */
revision: number, 
/** One after the other. */
edits: Array<Edit>, };

export type Element = { 
/** Stable within the plan; empty asks for a fresh one. */
id: string, 
/** What it is: body, recess grime, worn edges. */
name: string, 
/** Of what. */
material?: string, 
/** sRGB hex. */
color: string, 
/** Where. */
place: Whereabouts, 
/** The part, by name, where it lies on one. */
part?: string, 
/** How much of the piece's surface is to be seen of it, 0…1, where that is said. */
share?: number, 
/** The layer that answers it. */
layer?: string, 
/** Whether nothing is left to be done for it. */
done?: boolean, 
/** What else is to be minded. */
note?: string, };

export type End = { 
/** What it is fixed to. */
item?: string, 
/** The place: in points; on what it is fixed to, as shares of its width and height from its upper left corner; of a picture, those of the whole of it, whatever is left of it. */
at: [number, number], };

export type Entry = { 
/** Its key. */
kind: string, 
/** `measurement`, `reading`, `pattern`, `source`, `own` (a source for the values of a finish alone), `colors` (one for its colours), `shaper`, `join`, `channel`, `starter` (of a mask line), `finish` (a ready one), `change` (a channel as a layer changes it), `adjustment` (a ready one), `palette` (a coat that varies), `plain` (a coat or a group to begin with), `layout` (of a hand-off), `way` (of telling parts), `sharing` (of texels), or `step`, `layer`, `piece` and `ladder` (what each of them has). */
family: string, 
/** What the artist reads. */
label: string, 
/** One sentence of help. */
help: string, 
/** Its settings. */
params: Array<ParamSpec>, 
/** Of a reading: the measurement that it is read from; empty when it costs no rays. */
measured: string, 
/** Of a join: the sign that stands between two tiles. */
sign: string, 
/** Of a join: the word that stands for it in the sentence. */
word: string, 
/** What taking it puts into a mask line; empty for what is not put into one. */
steps: Array<Step>, 
/** Of what lays something: the layer that it lays, or the group. */
layer?: Layer, 
/** Of a ready finish: the dials that come with it. */
dials?: Array<Dial>, 
/** Of a join: whether it brings its source in as it is where the mask is full, so that as the first of a line it needs no sign. */
opens: boolean, 
/** Of a channel: whether every piece has it. */
always: boolean, };

export type EvaluateRequest = { 
/** Which page asks: a later request of the same page overtakes an earlier one. */
page: string, 
/** Which of its requests this is, counted upwards, as they may arrive in another order. */
turn: number, 
/** Edits that are tried but not kept: a drag that is not over. */
edits: Array<Edit>, 
/** Whether coarse measurements will do while the real ones are taken. */
provisional: boolean, 
/** Whether the part of each texel is wanted as a texture. */
parts: boolean, 
/** Whether the shell of each texel is wanted as a texture. */
shells: boolean, 
/** Whether the height is wanted, to move the surface by. */
moved: boolean, 
/** The layer whose mask, tiles and histogram are wanted. */
layer?: string, 
/** The selected step: where its settings are values of the mask before it, the histogram is of that mask, and otherwise of the finished one. */
step?: string, 
/** Whether what that step does by itself is wanted as a texture, in the place of the layer's mask. */
alone: boolean, 
/** Whether that layer's mask is wanted as a texture. */
mask: boolean, 
/** Whether pictures of its steps are wanted. */
tiles: boolean, 
/** A reading that is wanted as a texture; `edges:fine` names its radius. */
reading?: string, 
/** A snapshot that is wanted in place of the project as it stands. */
snapshot?: number, 
/** A channel that is wanted as a texture by itself. */
channel?: string, 
/** While something moves: the greatest side that will do, in texels, of at most the draft's. Nothing is worked out then but the textures: no coverage, no histogram, no tiles. */
size?: number, 
/** At rest: whether the textures of the coats are wanted with smooth edges, as a hand-off has them. */
smooth: boolean, };

export type EvaluationView = { 
/** Side of a sheet in texels; the sheets lie one below the other in each texture. */
size: number, 
/** Number of sheets. */
sheets: number, 
/** sRGB base color, RGBA8. */
base_color: string, 
/** Occlusion, roughness, metallic, RGBA8. */
orm: string, 
/** Tangent-space normals, Y+, RGBA8. */
normal: string, 
/** Whether the base color's alpha is an opacity. */
see_through: boolean, 
/** Kinds of the channels that the piece has. */
channels: Array<string>, 
/** The textures of further channels, of those that the piece has. */
more: Array<PackedView>, 
/** Height, if it was asked for: to move the surface by. */
moved: MovedView | null, 
/** What the body does to light that goes through it, if a coat says so. */
tint: TintView | null, 
/** The channel that was asked for, if the piece has it. */
channel: ChannelView | null, 
/** The mask, R8, if it was asked for. */
mask: string | null, 
/** The reading, R8, if it was asked for. */
reading: string | null, 
/** The number of the part under each texel, R8, if it was asked for; 255 where there is none. */
parts: string | null, 
/** The number of the shell under each texel, counted round from 0 to 254, R8, if it was asked for; 255 where there is none. */
shells: string | null, 
/** Whether it was evaluated on coarse measurements. */
provisional: boolean, 
/** Whether the real ones are being taken, so that asking again later is worth while. */
improving: boolean, 
/** Tiles of the layer's mask line. */
tiles: Array<Tile>, 
/** Width and height of the tiles in pixels. */
tile_size: [number, number], 
/** Area-weighted histogram of the layer's mask, shares. */
histogram: Array<number>, 
/** Per layer. */
coverage: Array<LayerCoverage>, 
/** Names of the nodes that were computed. */
computed: Array<string>, 
/** How long it took. */
seconds: number, };

export type Event = { "event": "cabinet" } | { "event": "progress", 
/** The project. */
project: number, 
/** Its number. */
job: number, 
/** What it does. */
kind: JobKind, 
/** What is done. */
label: string, 
/** 0…1. */
share: number, 
/** Seconds left, as far as that can be told. */
left: number | null, } | { "event": "shown", 
/** The project. */
project: number, 
/** Its number. */
job: number, 
/** Samples that a pixel has had. */
samples: number, } | { "event": "over", 
/** The project. */
project: number, 
/** Its number. */
job: number, 
/** What it did. */
kind: JobKind, 
/** What went wrong, where nobody waited for an answer. */
error: string | null, } | { "event": "changed", 
/** The project. */
project: number, 
/** How often it was changed so far, undo and redo included. */
stamp: number, } | { "event": "missed" };

export type FavouriteRequest = { 
/** What the page knows it by. */
thing: string, 
/** Somebody likes it. */
favourite: boolean, };

export type FileChannel = { 
/** Where the number comes from: `roughness`, `base_color.g`, `normal.x`, `mask:Rust`, `published:chips`, `reading:edges`, or a number itself. */
from: string, 
/** Whether the least and the greatest change places. */
invert?: boolean, 
/** The numbers that become 0 and 1, where they aren't the usual ones. In files of floats numbers stay as they are unless this is said. */
range?: [number, number], };

export type FileKind = "png" | "tiff" | "exr" | "glb" | "gltf" | "materialx" | "usd";

export type FileKindView = { 
/** Which. */
kind: FileKind, 
/** What the artist reads. */
label: string, 
/** Bits a channel that it may have, the usual ones first; none where it is no picture. */
depths: Array<number>, 
/** The most channels that it may have. */
most: number, 
/** Whether its numbers are floats, which are never cut to a range nor encoded. */
float: boolean, };

export type FileRow = { 
/** What `{map}` becomes in its name. */
map: string, 
/** Its kind. */
kind: FileKind, 
/** Bits a channel; 0 where it is no picture. */
bits: number, 
/** Whether its colours are sRGB-encoded; alpha never is, nor are floats. */
srgb?: boolean, 
/** What lies in R, G, B and A; one alone is grey. An EXR may have more. None where it is no picture. */
slots?: Array<FileChannel>, 
/** Whether it is written. */
on: boolean, };

export type Finding = { 
/** Whether work is possible but something will look wrong. */
serious: boolean, 
/** What was found. */
what: string, 
/** What it means and what to do. */
remedy: string, };

export type Finer = { 
/** The mesh. */
mesh: MeshSource, 
/** How far from the piece it is looked for, in mm; none is a fiftieth of the piece's diagonal. */
cage?: number, };

export type Finish = { 
/** The channels. */
channels: { [key in string]: ChannelUse }, };

export type Fit = { 
/** What the piece has to fill, in the order of the dials. */
slots: Array<SlotFit>, 
/** Its patterns, each once, from the bottom layer up. */
sizes: Array<PatternSize>, 
/** What was drawn and laid by hand in it, if it keeps that. */
drawn?: DrawnFit, };

export type FitView = { 
/** What it needs to be told, and how large its patterns come out. */
fit: Fit, 
/** The layer that would be laid. */
layer: Layer, 
/** Labels of its measurements that are not taken yet. */
to_measure: Array<string>, };

export type FormulaDrive = { 
/** The formula. */
formula: string, };

export type FormulaError = { 
/** Where it begins, in UTF-16 units of the text. */
at: number, 
/** How many units of the text it is about; 0 where something is missing. */
length: number, 
/** What is wrong and what would be right, without the full stop. */
why: string, };

export type FoundPalette = { 
/** Name of the project. */
project: string, 
/** The palette. */
palette: Palette, };

export type FoundPicture = { 
/** The project. */
id: number, 
/** Its name. */
project: string, 
/** The picture. */
picture: PictureUse, };

export type FoundThings = { 
/** Palettes, each once. */
palettes: Array<FoundPalette>, 
/** Pictures for masks, each once. */
pictures: Array<FoundPicture>, 
/** Favourites among these and the ready finishes, by what the page knows them by. */
favourites: Array<string>, };

export type Freshness = "fresh" | "stale" | "missing";

export type Glow = { 
/** Where, and how bright. */
lamp: Lamp, 
/** Half its width in degrees. */
spread: number, };

export type GoTo = { 
/** The revision it was asked on. */
revision: number, 
/** The state's own. */
to: number, };

export type GroundView = { 
/** Its middle, in mm. */
middle: [number, number, number], 
/** Where it begins to fade, and where it is gone, in mm from the middle. */
fades: [number, number], 
/** Its grey, linear. */
grey: number, 
/** Texels along each side of the picture of how open it is to the sky. */
size: number, 
/** Address of that picture. */
pixels: string, };

export type HandoffDone = { 
/** Address of the ZIP. */
download: string, 
/** Name of the ZIP. */
name: string, 
/** The files in it. */
files: Array<PlannedFile>, 
/** Bytes of the ZIP. */
bytes: number, 
/** How long it took. */
seconds: number, };

export type HandoffRequest = { 
/** The layout; none is the project's own. */
layout?: Layout, 
/** Whether all variants are written, each into a folder of its name. */
variants?: boolean, };

export type HandoffView = { 
/** The layout. */
layout: Layout, 
/** What another file of it would be, to begin with. */
fresh: FileRow, 
/** The files. */
files: Array<PlannedFile>, 
/** Files of the layout, by their place in it, whose channels no coat lays. */
unlaid: Array<number>, 
/** Whether the layout can't be written as it is: the first problem says why. */
refused: boolean, 
/** Problems to know of. */
problems: Array<Check>, 
/** The height in mm that would have to be white for no relief to be cut off, where the layout's is too low. */
fits: number | null, 
/** Layouts that are ready to take. */
ready: Array<ReadyLayout>, 
/** What a channel of a file may hold. */
offered: Array<Offered>, 
/** The kinds of files that there are. */
kinds: Array<FileKindView>, };

export type Imported = { 
/** The cabinet as it is now. */
cards: Array<CabinetCard>, 
/** Names of those that are new. */
taken: Array<string>, 
/** Names of those that were there already, and of what they are there as. */
there: Array<string>, };

export type Intake = { 
/** The mesh. */
mesh: MeshSource, 
/** Settings of what is mended of it. */
mending?: { [key in string]: Param }, 
/** What tells its parts apart. */
parts_by: PartsBy, 
/** How far apart two colours may lie and still be one part, as a share of the way from black to white. */
tolerance: number, 
/** Parts that are named or shown otherwise than the file says, by the file's name. */
parts: { [key in string]: PartLook }, 
/** Pictures that were brought in. */
pictures: Array<PictureUse>, 
/** A finer mesh whose relief the piece takes on. */
finer?: Finer, 
/** What became of the parts in the last swap, until the artist has seen to it. */
swapped?: Swapped, };

export type JobKind = "measuring" | "still" | "hand-off";

export type JobView = { 
/** Its number. */
job: number, 
/** What it does. */
kind: JobKind, 
/** What it does just now. */
label: string, 
/** 0…1. */
share: number, };

export type Join = "replace" | "multiply" | "add" | "subtract" | "max" | "min" | "screen" | "overlay";

export type KeepOpened = { 
/** The revision it was asked on. */
revision: number, 
/** What to say of the version. */
note: string, };

export type KeepPreset = { 
/** The revision it was asked on. */
revision: number, 
/** The layer that uses it. */
layer: string, 
/** The preset's name. */
name: string, };

export type KeepSnapshot = { 
/** Its name. */
name: string, };

export type KeptLayout = { 
/** Id. */
id: number, 
/** The layout. */
layout: Layout, };

export type KeptLine = { 
/** Id. */
id: number, 
/** Its name. */
name: string, 
/** One sentence on what it is for. */
note: string, 
/** Its steps. */
steps: Array<Step>, 
/** What is noted of it. */
marks: MarksView, };

export type KnownGrey = { 
/** A place of the unit square, from the upper left corner. */
at: [number, number], 
/** The share of the light that it gives back, above 0 to 1. */
is: number, };

export type LadderRequest = { 
/** From left to right. */
across: LadderSide, 
/** From top to bottom, if two dials are stepped. */
down?: LadderSide, };

export type LadderSide = { 
/** Its id. */
dial: string, 
/** Of a number, where the ladder begins; the dial's own minimum if nothing is said. */
from?: number, 
/** Of a number, where it ends; the dial's own maximum if nothing is said. */
to?: number, 
/** How many steps a number or a seed is taken in. A choice and a switch go through all they have. */
steps?: number, };

export type LadderView = { 
/** From left to right. */
across: Array<Rung>, 
/** From top to bottom; empty if one dial is stepped. */
down: Array<Rung>, };

export type Lamp = { 
/** Degrees around the piece, from the front to the right. */
around: number, 
/** Degrees above the horizon. */
above: number, 
/** Linear. */
color: [number, number, number], 
/** Of a lamp: what a surface that faces it gets, in units of π × radiance ⁄ π. Of a glow: radiance. */
strength: number, };

export type LayPictured = { 
/** The revision it is laid on. */
revision: number, 
/** What the layer is called. */
name: string, 
/** The group it is laid in; the section itself if none is named. */
inside?: string, 
/** Its place there, from below. */
index: number, 
/** The pictures and what they show. */
pictures: Array<[SetAside, Shows]>, 
/** How wide they lie on the piece, in mm. */
width: number, 
/** Between black and white of the height, in mm. */
relief: number, 
/** Whether they go on as tiles, which keeps rows and courses whole; otherwise without a repeat that is seen. */
tiles: boolean, };

export type LayRecipe = { 
/** The revision it was asked on. */
revision: number, 
/** The group that it is laid in. */
inside?: string, 
/** How many layers of the row lie below it. */
index?: number, 
/** The recipe. */
recipe: number, 
/** The preset that it begins with. */
preset?: string, 
/** What its dials stand at, by id; above all what fills its slots. */
values?: { [key in string]: Value }, };

export type Layer = { 
/** Stable within the document; empty asks for a fresh one. */
id: string, 
/** A name to show. */
name: string, 
/** Hidden, it and all that it holds lay down nothing. */
shown: boolean, 
/** 0…1. */
opacity: Param, 
/** Where it shows. */
mask: MaskLine, 
/** The name under which other layers' masks may follow its own. */
publish?: string, 
/** What is to be minded of it, in the artist's words. */
note?: string, } & ({ "kind": "coat", 
/** The material. */
finish: Finish, } | { "kind": "adjust", 
/** How, channel by channel. */
finish: Finish, } | { "kind": "group", 
/** From the bottom up. */
layers: Array<Layer>, } | { "kind": "use", 
/** The recipe. */
recipe: Recipe, 
/** What sets the recipe's dials, by id: a value, or dials of the document; missing ones stand at their default. */
values: { [key in string]: Param }, });

export type LayerCoverage = { 
/** Id of the layer; layers inside a use are `use/inner`. */
layer: string, 
/** Its name. */
name: string, 
/** Mean of its mask, without opacity. */
mask: number, 
/** What of it is not hidden by the coats above; what holds others has the sum of the coats in it. */
visible: number, };

export type Laying = { 
/** The recipe. */
recipe: number, 
/** The preset that it begins with. */
preset?: string, 
/** What its dials stand at, by id; above all what fills its slots. */
values?: { [key in string]: Value }, };

export type Layout = { 
/** What the layout is called. */
name: string, 
/** Texture size in texels. */
size: number, 
/** File name without extension: `{piece}`, `{sheet}`, `{map}`, `{size}` and `{variant}` are filled in. */
pattern: string, 
/** Height in mm that is white where heights are cut to a range; its negative counterpart is black. */
height_range: number, 
/** The files. */
files: Array<FileRow>, };

export type Led = "hand" | "corners" | "curve";

export type Lies = { 
/** Its middle, in points. */
at: [number, number], 
/** Width in points. */
width: number, 
/** How far it is turned, in degrees clockwise. */
turn?: number, };

export type Light = { 
/** Key. */
key: string, 
/** What the artist reads. */
label: string, 
/** Colour straight above. */
zenith: [number, number, number], 
/** Colour at the horizon. */
horizon: [number, number, number], 
/** Colour below. */
ground: [number, number, number], 
/** Patches of light. */
glows: Array<Glow>, 
/** Hard lights. */
lamps: Array<Lamp>, };

export type LightsView = { 
/** Set-ups of light. */
lights: Array<Light>, 
/** The light from behind, at full strength. */
rim: Lamp, 
/** What may surround the piece. */
surrounds: Array<SurroundView>, 
/** Texels of a panorama across and down. */
panorama: [number, number], };

export type LookRequest = { 
/** The state that they are made on; the one in force if nothing is said. */
at?: number, 
/** One after the other. */
edits: Array<Edit>, 
/** From where and in which light; noise is taken out, and the size and the samples are bounded. */
still: StillSettings, };

export type MadeCard = { 
/** Key. */
key: string, 
/** What the artist reads. */
label: string, 
/** One sentence. */
help: string, };

export type MarkRequest = { 
/** Somebody likes it. */
favourite?: boolean, 
/** Out of the cabinet. */
removed?: boolean, };

export type MarksView = { 
/** Somebody likes it. */
favourite: boolean, 
/** It is out of the cabinet, and can be put back. */
removed: boolean, 
/** How often it was laid. */
laid: number, 
/** When it was kept, in seconds since 1970. */
made: number, };

export type MaskDrive = { 
/** Where the mask comes from. */
mask: MaskSource, 
/** The number where the mask is 0. */
low: number, 
/** The number where it is 1. */
high: number, };

export type MaskLine = { 
/** Read from left to right. */
steps: Array<Step>, };

export type MaskSource = { 
/** A kind of the catalog that brings something in. */
kind: string, 
/** Its settings; missing ones stand at their default. None of them is driven by a mask. */
settings: { [key in string]: Param }, };

export type MeasureRequest = { 
/** Kinds; empty means all. */
kinds: Array<string>, 
/** Whether the answer comes when all is measured; at once otherwise, and an event tells of the end. */
wait: boolean, };

export type MeasureStarted = { 
/** Number of the job. */
job: number, };

export type MeasurementState = { 
/** Kind. */
kind: string, 
/** Its settings, with the defaults for this piece. */
params: Array<ParamSpec>, 
/** Whether it follows the project's weather. */
weather: boolean, 
/** Whether it is at hand. */
state: Freshness, 
/** What changed since it was measured, in words; empty unless stale. */
why: string, 
/** How long measuring took. */
seconds: number | null, 
/** How long it would take, as far as that can be told. */
estimate: number | null, 
/** Whether the document needs it, for a mask or for the packed map. */
needed: boolean, };

export type MeshSource = { 
/** File name it came with. */
file: string, 
/** blake3 of its bytes. */
hash: string, 
/** Unit it was read with; none is the format's own. */
unit: Unit | null, };

export type MovedView = { 
/** Address of its R8 pixels. */
pixels: string, 
/** What 0 and 255 stand for, in mm. */
range: [number, number], };

export type Needs = { 
/** Labels of the measurements that it reads. */
measurements: Array<string>, 
/** Labels of the slots that a part fills. */
parts: Array<string>, 
/** Labels of the slots that a picture fills. */
pictures: Array<string>, };

export type Newer = { 
/** That version. */
recipe: Recipe, 
/** Labels of the dials that were set and have no place in it any more. */
lost: Array<string>, };

export type Noted = { "kind": "layer", layer: string, } | { "kind": "step", layer: string, step: string, } | { "kind": "dial", dial: string, };

export type Offered = { 
/** What a slot says. */
from: string, 
/** What the artist reads. */
label: string, 
/** What it stands with: `Channels`, `Normals`, `Masks`, `Readings` or `Numbers`. */
family: string, 
/** Whether it is a colour's component, which sRGB files encode. */
color: boolean, 
/** The numbers that are 0 and 1 in files where no range is said. */
range: [number, number], };

export type OnRevision = { 
/** The revision it was asked on. */
revision: number, };

export type OpenedUse = { 
/** The layer: a group while it is open. */
layer: string, 
/** What it was called then. */
name: string, 
/** The recipe as it was. */
recipe: Recipe, 
/** What set the recipe's dials in this use. */
values: { [key in string]: Param }, 
/** What set them in the others, by layer. */
others: { [key in string]: { [key in string]: Param } }, 
/** The document's ids of the recipe's dials, by their ids in the recipe. */
dials: { [key in string]: string }, };

export type Over = { 
/** The address of those others. */
address: string, 
/** Where each run begins, and how long it is, in bytes: in order. They come one after the other. */
runs: Array<[number, number]>, };

export type PackedChannel = { 
/** Which. */
channel: PictureChannel, 
/** What lies there: the name of the layer, and of its mask for others. */
name: string, 
/** sRGB hex, to tell it by. */
color: string, };

export type PackedView = { 
/** Key of the map of a hand-off that holds the same. */
map: string, 
/** Address of its RGBA8 pixels. */
pixels: string, 
/** Whether red, green and blue are sRGB. */
srgb: boolean, 
/** What its values are multiplied by in the material: the strength of the light, the IOR, the thickness in mm, or 1. */
factor: number, };

export type Palette = { 
/** Name, its own among the palettes. */
name: string, 
/** Its colours, in order. */
colors: Array<Swatch>, };

export type Param = Drive | MaskDrive | RampDrive | ColorsDrive | Value;

export type ParamSpec = { 
/** Its key in [`Settings`]. */
key: string, 
/** What the artist reads. */
label: string, 
/** `mm`, `°`, `%` or nothing. */
unit: string, 
/** Least value. */
min: number, 
/** Greatest value. */
max: number, 
/** What it is when nobody said anything. */
default: Value, 
/** Kind of value. */
type: ParamType, 
/** Whether the slider moves in ratios rather than in steps (lengths). */
log: boolean, 
/** The choices, as key and label; empty for other kinds. */
choices: Array<[string, string]>, 
/** One sentence of help. */
help: string, 
/** Under which heading it stands, folded away; empty for what is always seen. */
group: string, 
/** It has an effect only while the setting of the first key stands at one of the values; always when there is no key. */
when: [string, Array<string>], 
/** It is a value of the mask that its step changes: drawn into the histogram of the mask before that step. */
marks: boolean, 
/** A number that may differ from place to place, along a mask. */
varies: boolean, 
/** What may be read along a ramp. */
ramps: boolean, };

export type ParamType = "number" | "integer" | "color" | "choice" | "switch" | "part" | "follow" | "picture" | "palette";

export type Part = { 
/** What the file, or its colour, calls it. */
key: string, 
/** Its name. */
name: string, 
/** The colour that it is shown in, sRGB hex. */
color: string, 
/** Number of triangles. */
triangles: number, 
/** Surface area in mm². */
area: number, 
/** What becomes of texels that several of its triangles share. */
shared: Sharing, };

export type PartLook = { 
/** Another name. */
name?: string, 
/** Another colour to show it in, sRGB hex. */
color?: string, 
/** Whether its UVs are laid out anew. */
unwrap?: boolean, 
/** What becomes of texels that several of its triangles share, where that is not the first. */
shared?: Sharing, };

export type PartsBy = "materials" | "groups" | "objects" | "colors" | "picture";

export type PatchPlace = { 
/** Its sheet. */
sheet: number, 
/** Which one it is across its sheet. */
x: number, 
/** Which one it is down its sheet. */
y: number, };

export type PatchRequest = { 
/** Which page asks: its next evaluation, or its next request of this kind, overtakes this one. */
page: string, 
/** Side of the textures that they are of, in texels: a power of two up to 8192. */
size: number, 
/** Which ones. */
places: Array<PatchPlace>, };

export type Patches = { 
/** The revision that they are of; none when something newer was wanted before them, and none of them come. */
revision: number | null, 
/** Texels along a side. */
side: number, 
/** Texels around each that it shares with its neighbours, on every side. */
margin: number, 
/** The maps of each, RGBA8, one after the other. */
maps: Array<string>, };

export type PatternSize = { 
/** Name of the layer. */
layer: string, 
/** Label of the pattern. */
pattern: string, 
/** Label of the length. */
setting: string, 
/** In mm. */
mm: number, 
/** As a share of the piece's diagonal. */
share: number, };

export type PictureChannel = "grey" | "red" | "green" | "blue" | "alpha";

export type PictureUse = { 
/** blake3 of the file. */
hash: string, 
/** File name it came with. */
file: string, 
/** Width and height in texels. */
size: [number, number], 
/** What it is for: the kind of the reading that it stands in for, `curvature` (for edges and recesses alike, ½ on flats), `normal` (tangent-space
 * normals), `parts` (an ID picture), `mask` (for steps of masks, by its file name), or empty. */
purpose: string, 
/** Name of the sheet that it belongs to; empty is all of them. */
sheet?: string, 
/** Which number of it is taken, where one is. */
channel: PictureChannel, 
/** Whether 0 and 1 change places. */
invert: boolean, 
/** Whether its numbers are sRGB-encoded and are to be decoded. */
encoded: boolean, 
/** Of normals: whether green points down the texture. */
green_down: boolean, 
/** blake3 of the mesh file that it was brought in for. */
mesh: string, };

export type PieceView = { 
/** Hash of the piece, also the address of its buffers. */
hash: string, 
/** File it came from. */
file: string, 
/** Parts. */
parts: Array<Part>, 
/** Number of shells. */
shells: number, 
/** Number of triangles. */
triangles: number, 
/** Size of the bounding box in mm. */
size: [number, number, number], 
/** Least corner of the bounding box in mm. */
min: [number, number, number], 
/** Number of UV charts. */
charts: number, 
/** The sheets. */
sheets: Array<Sheet>, 
/** How well its UVs are laid out, at the draft size. */
layout: UvReport, 
/** By what its parts can be told. */
ways: Array<PartsBy>, 
/** Whether what is marked of single parts counts. */
marks: boolean, 
/** The settings of mending that make a difference to it, or are set. */
mendable: Array<string>, 
/** Share of the texels that met no finer mesh within the cage; none without one. */
missed: number | null, 
/** How far from the piece a finer mesh is looked for, in mm; none without one. */
cage: number | null, 
/** What was found. */
findings: Array<Finding>, };

export type Place = { 
/** Name, its own among the places. */
name: string, 
/** Where the eye is, in mm. */
eye: [number, number, number], 
/** What it looks at, in mm. */
target: [number, number, number], };

export type PlanView = { 
/** What another row would be, to begin with. */
fresh: Element, 
/** Where an element may lie, and what the artist reads. */
places: Array<[Whereabouts, string]>, 
/** How far from its planned share an element may be, 0…1. */
near: number, 
/** What is planned in all, where that is more than there is of the piece. */
over: number | null, };

export type PlannedFile = { 
/** Which file of the layout it is; none where that lists no such file. */
row: number | null, 
/** Name of the sheet; of a file for the whole piece, of the first. */
sheet: string, 
/** What `{map}` is in its name. */
map: string, 
/** Its kind. */
kind: FileKind, 
/** What its channels hold, in words. */
channels: string, 
/** The same, one by one; none where it is no picture. */
slots: Array<PlannedSlot>, 
/** Side in texels; 0 where it is no picture. */
size: number, 
/** Bits per channel; 0 where it is no picture. */
bits: number, 
/** File name. */
name: string, 
/** Whether it isn't ticked in the layout, and a file that is wants it. */
added: boolean, };

export type PlannedSlot = { 
/** The channel's name in the file: `R`, `G`, `B`, `A`, `Y`, or `layer.R`. */
channel: string, 
/** Where its numbers come from. */
from: string, 
/** The lesser and the greater of the numbers that are 0 and 1 in the file; none where floats stay as they are. */
range: [number, number] | null, 
/** Whether those two change places: the greater is 0. */
invert: boolean, 
/** Whether it is encoded as sRGB. */
srgb: boolean, 
/** The unit of its numbers; empty where they have none. */
unit: string, };

export type Preset = { 
/** Name, its own among the recipe's presets. */
name: string, 
/** What the dials stand at, by id; those that it doesn't name stay as they are. */
values: { [key in string]: Value }, };

export type Pressed = "flow" | "width" | "both" | "nothing";

export type PreviewRequest = { 
/** Which page asks, and after a slash which of its questions it is: the answer takes the place of the last but one to that. */
page: string, 
/** Edits that each add one step. */
candidates: Array<Edit>, };

export type Probe = { 
/** Where it lies on the piece, in mm. */
place: [number, number, number], 
/** Name of the part. */
part: string, 
/** Number of the shell. */
shell: number, 
/** The channels of the bare piece. */
bare: Array<ProbedValue>, 
/** The layers from the bottom up; what holds others stands before them. */
layers: Array<ProbedLayer>, };

export type ProbeRequest = { 
/** Across the textures, 0…1. */
u: number, 
/** Down them, 0…1; the sheets lie one below the other. */
v: number, };

export type ProbeView = { 
/** What hidden layers read that was only measured coarsely, by its label. */
coarse: Array<string>, 
/** Where it lies on the piece, in mm. */
place: [number, number, number], 
/** Name of the part. */
part: string, 
/** Number of the shell. */
shell: number, 
/** The channels of the bare piece. */
bare: Array<ProbedValue>, 
/** The layers from the bottom up; what holds others stands before them. */
layers: Array<ProbedLayer>, };

export type ProbedLayer = { 
/** Id; layers inside a use are `use/inner`. */
layer: string, 
/** Its name. */
name: string, 
/** Whether it, and all that hold it, are shown. */
shown: boolean, 
/** How many layers hold it. */
depth: number, 
/** Its mask there. */
mask: number, 
/** Mask × opacity, its own and of all that hold it. */
weight: number, 
/** What of that the coats above leave to be seen; 0 for what only holds others. */
visible: number, 
/** The mask after each step that has an effect. */
steps: Array<ProbedStep>, 
/** The channels that it lays down or changes, as they stand after it. */
after: Array<ProbedValue>, };

export type ProbedStep = { 
/** Its id. */
step: string, 
/** What it is. */
label: string, 
/** The mask after it. */
mask: number, };

export type ProbedValue = { 
/** Key of the channel. */
channel: string, 
/** What the artist reads. */
label: string, 
/** Unit of the number. */
unit: string, 
/** One number, or a linear colour. */
value: Array<number>, 
/** The colour as `#rrggbb`, if it is one. */
color: string | null, };

export type Problem = { 
/** A short name of the kind of error. */
type: string, 
/** One sentence: what is wrong and what to do. */
title: string, 
/** HTTP status. */
status: number, 
/** After a stale edit: the revision in force. */
revision: number | null, };

export type ProjectCard = { 
/** Id. */
id: number, 
/** Revision in force: the picture's version. */
revision: number, 
/** Name. */
name: string, 
/** When it was last changed, ISO 8601. */
changed: string, };

export type ProjectView = { 
/** Id. */
id: number, 
/** Revision in force; edits name it. */
revision: number, 
/** How often it was changed so far, undo, redo and snapshots included: what has a higher one is newer. */
stamp: number, 
/** The document. */
document: Document, 
/** What undo would take back. */
undo: string | null, 
/** What redo would bring again. */
redo: string | null, 
/** The piece. */
piece: PieceView, 
/** The measurements. */
measurements: Array<MeasurementState>, 
/** Kinds of the readings that a picture stands in for. */
stand_ins: Array<string>, 
/** What each dial drives, in words, by dial id. */
driven: { [key in string]: Array<string> }, 
/** The dials that drive each layer and what it holds, by layer id; none where none does. */
dials_of: { [key in string]: Array<string> }, 
/** The variants with what they take over, by name. */
variants: { [key in string]: WholeVariant }, 
/** Newer versions of the recipes that layers use, by layer id. */
newer: { [key in string]: Newer }, 
/** The kinds of settings that each dial can set, by dial id. */
sets: { [key in string]: Array<ParamType> }, 
/** The dials that follow formulas, by dial id. */
derived: { [key in string]: Derived }, 
/** The driven settings and the values they stand at. */
standings: Array<Standing>, 
/** The colours that each layer lays down, from the bottom up, by layer id. */
colors: { [key in string]: Array<string> }, 
/** How layers vary what lies below them, by layer id, where six numbers say all of it. */
variations: { [key in string]: Variation }, 
/** Its snapshots, oldest first. */
snapshots: Array<SnapshotView>, 
/** What the plan offers. */
plan: PlanView, };

export type RampDrive = { 
/** The mask along which it is read. */
along: MaskSource, 
/** From where the mask is 0 to where it is 1, in the order of their places. */
stops: Array<Stop>, 
/** What lies between two stops. */
between: Between, 
/** How many times the ramp runs through from 0 to 1. */
repeat: number, 
/** What its colours follow all together, if they are a palette: edits keep its stops at what that gives. */
palette?: Drive, };

export type Reach = "held" | "little" | "lot";

export type ReadyLayout = { 
/** Its key in the catalog. */
key: string, 
/** The layout. */
layout: Layout, };

export type Recipe = { 
/** `dustcoat-recipe/1`. */
format: string, 
/** Of which recipe it is a version, wherever it is opened; empty for one that was never kept. */
id?: string, 
/** Which version it is, from 1 on. */
version: number, 
/** A name to show. */
name: string, 
/** One sentence on what it is for. */
note: string, 
/** From the bottom up. */
layers: Array<Layer>, 
/** Its dials. */
dials: Array<Dial>, 
/** Sets of what its dials stand at, by names of their own. */
presets?: Array<Preset>, 
/** What was said of the versions before this one, the oldest first. */
history?: Array<VersionNote>, 
/** The shape of the piece that its strokes and pins were drawn and laid on: they are kept for it, and show nothing on others. None where it keeps none. */
drawn_on?: Shape, 
/** Words under which it is looked for. */
tags?: Array<string>, };

export type Rung = { 
/** What the dial stands at. */
value: Value, 
/** What it is called there: `Wear 0.5`. */
label: string, };

export type SaveLine = { 
/** The layer. */
layer: string, 
/** Its name in the cabinet. */
name: string, 
/** One sentence on what it is for. */
note: string, };

export type SaveRecipe = { 
/** The layer, usually a group; the whole section if none is named. */
layer?: string, 
/** The recipe of the cabinet that it becomes the next version of; none for a recipe of its own. */
of?: number, 
/** Its name in the cabinet. */
name: string, 
/** One sentence on what it is for. */
note: string, 
/** Words under which it is looked for. */
tags?: Array<string>, 
/** Whether what was drawn and laid by hand goes with it, for pieces of the same shape; its steps are empty otherwise. */
keep_drawn?: boolean, };

export type Sent = { 
/** Their address. */
address: string, 
/** How many bytes come of them. */
bytes: number, 
/** Where only what differs from others comes: those that the page says it holds. */
over?: Over, };

export type SetAside = { 
/** blake3 of the file. */
hash: string, 
/** Its name. */
file: string, 
/** Width and height in texels. */
size: [number, number], };

export type Shape = { 
/** The lowest corner of its box, in mm. */
min: [number, number, number], 
/** The highest. */
max: [number, number, number], 
/** Area of its surface, in mm². */
area: number, };

export type Sharing = "first" | "mean" | "own";

export type Sheet = { 
/** What its files are named after: the UDIM number of its tile, with the part's name where parts lie over one another. */
name: string, 
/** UDIM number. */
udim: number, };

export type SheetRequest = { 
/** Its sides. */
ladder: LadderRequest, 
/** From where and in which light each of its pictures is taken. */
still: StillSettings, };

export type ShownWhen = { 
/** The other dial's id: a switch or a choice. */
dial: string, 
/** What it must stand at. */
is: Value, };

export type Shows = "color" | "roughness" | "gloss" | "metallic" | "normals" | "normals_down" | "height" | "opacity" | "emissive" | "occlusion" | "packed" | "nothing";

export type Six = { 
/** What the dials that take part stand at, by id. */
choices: Array<{ [key in string]: Value }>, };

export type SixRequest = { 
/** How far each dial takes part, by id; one that isn't named is held. */
reaches: { [key in string]: Reach }, 
/** The same seed draws the same six. */
seed: number, };

export type SizeInUnit = { 
/** One unit of the file is one of these. */
unit: Unit, 
/** Its name, of several. */
label: string, 
/** Along x, y and z, in mm. */
size: [number, number, number], 
/** Whether it is likely the one that is meant. */
likely: boolean, };

export type SlotFit = { 
/** Id of the dial. */
dial: string, 
/** Its label. */
label: string, 
/** A part or a picture. */
kind: DialKind, 
/** What the recipe was made with. */
wanted: string, 
/** Names of what the piece has. */
options: Array<string>, 
/** Which of them is taken if nothing else is said; none where nothing is alike. */
takes?: string, };

export type SnapshotView = { 
/** Id. */
id: number, 
/** Its name. */
name: string, };

export type Span = { 
/** Least. */
min: number, 
/** Greatest. */
max: number, 
/** What it is when nobody said anything. */
default: number, };

export type Spot = { 
/** The middle of the picture, in mm. */
at: [number, number, number], 
/** Away from the surface. */
normal: [number, number, number], 
/** Up the picture before it is turned; what of it points along the normal counts for nothing. */
up: [number, number, number], };

export type Standing = { 
/** The setting. */
target: Target, 
/** Within the setting's range. */
value: Value, 
/** The formula that sets it, with the labels of its dials. */
formula?: string, 
/** Why it doesn't stand at what the formula gives, if it doesn't. */
bounded?: string, };

export type StateView = { 
/** Its revision. */
revision: number, 
/** What led to it. */
label: string, 
/** When, in seconds since 1970. */
made: number, 
/** Where it lies from the one in force. */
when: When, };

export type Step = { 
/** Stable within the document; empty asks for a fresh one. */
id: string, 
/** Switched off, the step does nothing. */
on: boolean, 
/** How a source meets the mask so far; shapers ignore it. */
join: Join, 
/** 0…1: how much of the step's effect is taken. */
amount: Param, 
/** Which pattern, reading, source or shaper: a kind of the catalog. */
kind: string, 
/** Its settings; missing ones stand at their default. */
settings: { [key in string]: Param }, 
/** What was drawn, where the kind is `strokes`. */
strokes?: Array<Stroke>, 
/** What is to be minded of it, in the artist's words. */
note?: string, 
/** Where it was laid, where the kind is `pin`. */
spot?: Spot, };

export type StillDone = { 
/** Address of the PNG, or the ZIP of them. */
download: string, 
/** Its name. */
name: string, 
/** Its bytes. */
bytes: number, 
/** How long it took. */
seconds: number, };

export type StillSettings = { 
/** Where the eye is, in mm; none for a three-quarter view with all of the piece. */
eye: [number, number, number] | null, 
/** What it looks at. */
target: [number, number, number], 
/** Vertical opening in degrees. */
fov: number, 
/** Pixels across. */
width: number, 
/** Pixels down. */
height: number, 
/** Samples to a pixel. */
samples: number, 
/** Key of the set-up of light. */
light: string, 
/** Degrees that the light is turned by. */
turn: number, 
/** Factor of the light. */
brightness: number, 
/** Strength of the rim light, 0…1. */
rim: number, 
/** Stops. */
exposure: number, 
/** What is seen around the piece. */
surround: Surround, 
/** Whether it stands on something. */
ground: boolean, 
/** Whether its relief moves the surface, rather than only its light. */
relief: boolean, 
/** Whether noise is taken out, so that few samples look like many. */
denoise: boolean, 
/** Pictures of one turn of the piece; 1 for a single still. */
turntable: number, };

export type Stop = { 
/** Its place, 0…1. */
at: number, 
/** A number, or a colour as `#rrggbb`. */
value: Value, 
/** What its value follows: edits keep the value at what that gives. */
by?: Drive, };

export type Stroke = { 
/** Stable within its step; empty asks for a fresh one. */
id: string, 
/** Where it runs: the hash of its points, or the points themselves when it is new. */
points: string | number[][], 
/** From the middle to the border, in mm. */
radius: number, 
/** 0: falls off from the middle; 1: even up to a sharp border. */
hardness: number, 
/** 0…1: how much of the value is laid down. */
flow: number, 
/** 0…1: what the mask is drawn to; when it takes away, that is 0. */
value: number, 
/** Takes away rather than adds. */
take?: boolean, 
/** Stays on the shell that it begins on. */
one_shell?: boolean, 
/** What the pen's pressure changes. */
pressed?: Pressed, 
/** What laying the pen down changes. */
tilted?: Tilted, 
/** What the brush ends in. */
tip?: Tip, 
/** What it covers: its way, or all of what it begins on. */
covers?: Covers, 
/** Where that goes up to edges: from how many degrees on they are sharp. */
crease?: number, 
/** How it gets from point to point. */
led?: Led, 
/** Led through its points, it comes back to the first. */
closed?: boolean, 
/** Hidden, it does nothing. */
shown?: boolean, };

export type StrokeChange = { 
/** mm. */
radius?: number, 
/** 0…1. */
hardness?: number, 
/** 0…1. */
flow?: number, 
/** 0…1. */
value?: number, 
/** Takes away rather than adds. */
take?: boolean, 
/** Stays on the shell that it begins on. */
one_shell?: boolean, 
/** What the pen's pressure changes. */
pressed?: Pressed, 
/** What laying the pen down changes. */
tilted?: Tilted, 
/** What the brush ends in. */
tip?: Tip, 
/** What it covers. */
covers?: Covers, 
/** From how many degrees on edges are sharp. */
crease?: number, 
/** How it gets from point to point. */
led?: Led, 
/** Whether it comes back to its first point. */
closed?: boolean, 
/** Shown or hidden. */
shown?: boolean, };

export type StrokeView = { 
/** Its id. */
id: string, 
/** The points of its line in a picture, in mm, x to the right and y down. */
line: Array<[number, number]>, 
/** Least x and y, width and height of what it covers there. */
bounds: [number, number, number, number], 
/** Of one that is led through its points: those, as rows of x, y, z, the normal's three, pressure, time and tilt. */
points: Array<[number, number, number, number, number, number, number, number, number]>, };

export type StrokesAsked = { 
/** The layer. */
layer: string, 
/** The step of its mask line. */
step: string, 
/** Their ids. */
strokes: Array<string>, };

export type StrokesAt = { 
/** The layer. */
layer: string, 
/** The step of its mask line. */
step: string, 
/** The place, in mm. */
at: [number, number, number], 
/** The surface's unit normal there. */
normal: [number, number, number], };

export type Study = { 
/** The palettes. */
palettes: Array<Palette>, 
/** What lies on the board, from the lowest to the highest. */
board?: Array<BoardItem>, 
/** The plan: what the piece is to be made of. */
plan?: Array<Element>, };

export type Surround = "grey" | "light" | "dark" | "sky" | "clear";

export type SurroundView = { 
/** Which. */
key: Surround, 
/** What the artist reads. */
label: string, 
/** Its grey, sRGB; of the sky what stands for it where none is drawn. */
byte: number, };

export type Swapped = { 
/** File name of the mesh before. */
from: string, 
/** Parts of the mesh before that nothing in this one answers to. */
lost: Array<string>, 
/** Parts that were matched by where they lie: the name they go by, and what the file calls them now. */
placed: Array<[string, string]>, 
/** Parts of this mesh that the one before did not have. */
fresh: Array<string>, };

export type Swatch = { 
/** sRGB, `#rrggbb`. */
color: string, 
/** How often it is there against the others, 0…1. */
weight: number, };

export type Target = { 
/** The layer. */
layer?: string, 
/** The step of its mask line. */
step?: string, 
/** The channel of its finish. */
channel?: string, 
/** The measurement. */
reading?: string, 
/** Whether a setting of how the mesh is mended is meant. */
mending?: boolean, 
/** The dial of the recipe that the layer uses. */
dial?: string, 
/** The setting's key; `opacity` for a layer, `amount` for a step's own, `value` for a dial. */
key: string, 
/** The setting of the mask that drives it, if that is meant. */
inner?: string, };

export type Tile = { 
/** The step. */
step: string, 
/** Address of its RGBA8 pixels. */
pixels: string, };

export type Tilted = "nothing" | "width" | "flow";

export type TintView = { 
/** Linear colour after the distance. */
color: [number, number, number], 
/** In mm. */
distance: number, };

export type Tip = "round" | "bristle" | "sponge" | "splash";

export type ToldChannel = { 
/** What would be taken. */
take: PackedChannel, 
/** Mean of its numbers, 0…1. */
mean: number, 
/** Whether it says anything: its numbers differ. */
differs: boolean, };

export type ToldPicture = { 
/** The picture. */
picture: SetAside, 
/** What it was taken to be. */
shows: Shows, 
/** Why. */
why: string, };

export type ToldPictures = { 
/** What the finish may be called. */
name: string, 
/** Each of them, as given. */
pictures: Array<ToldPicture>, 
/** All that a picture can be, with what the artist reads. */
shows: Array<[Shows, string]>, 
/** How wide it can lie, in mm. */
width: Span, 
/** How deep its height can go, in mm. */
relief: Span, };

export type ToneRequest = { 
/** A place of the unit square, from the upper left corner. */
at: [number, number], 
/** The grey that its brightness is told against. */
grey?: KnownGrey, };

export type ToneView = { 
/** Its colour as it is, sRGB hex. */
color: string, 
/** Its luminance, 0…1 of the picture's white. */
luminance: number, 
/** The share of the light that it gives back, against the grey. */
given_back: number | null, 
/** Its colour as it would be under white light that shows that grey as it is, sRGB hex. */
neutral: string | null, };

export type TriedFormula = { 
/** What it sets stands at then; none if it can't be kept. */
value: Value | null, 
/** Why that isn't what it gives, if it isn't. */
bounded: string | null, 
/** Why it can't be kept, and where. */
error: FormulaError | null, };

export type Unit = "mm" | "cm" | "m" | "in";

export type UsedIn = { 
/** The project. */
project: number, 
/** Its name. */
name: string, 
/** The layers that use it, each with its version. */
layers: Array<string>, };

export type UvReport = { 
/** Texels per mm at the size asked for: as dense as half of the surface. */
density: number, 
/** A twentieth of the surface is coarser than this, in texels per mm. */
coarse: number, 
/** A twentieth of the surface is finer than this. */
fine: number, 
/** Mean ratio of the longer to the shorter side of what was a square on the surface; 1 = not stretched. */
stretch: number, 
/** A twentieth of the surface is stretched by more than this. */
worst_stretch: number, 
/** Share of the square's texels that are covered. */
filled: number, 
/** Share of the covered texels that more than one triangle covers. */
overlap: number, 
/** What is wrong with the UVs of each part, in words: nothing where they are sound. */
faults: Array<Array<string>>, 
/** Whether triangles of each part share texels with others, noticeably. */
shared: Array<boolean>, };

export type Value = boolean | number | string;

export type Variant = { 
/** Name, its own among the variants. */
name: string, 
/** The variant that it builds on: what it doesn't say itself is as there. */
on?: string, 
/** What each dial stands at in it, by id; dials that came later are left alone. */
values: { [key in string]: Value }, 
/** Which layers are shown in it, by id; layers that it doesn't name are left alone. */
shown?: { [key in string]: boolean }, };

export type Variation = { 
/** Degrees that the hue is turned, to either side. */
hue: number, 
/** By what share of it the chroma is more or less. */
chroma: number, 
/** Added to the lightness or taken off, 0…1. */
lightness: number, 
/** Added to the roughness or taken off, 0…1. */
roughness: number, 
/** The kind of what tells places apart. */
by: string, 
/** Another number, other tones. */
seed: number, };

export type VersionNote = { 
/** Which one. */
version: number, 
/** What its maker said of it. */
note: string, };

export type Way = "even" | "ratios" | "smooth" | "stepped";

export type When = "ahead" | "now" | "behind";

export type Whereabouts = "all_over" | "edges" | "recesses" | "above" | "below" | "patches" | "part";

export type WholeVariant = { 
/** What each dial stands at in it, by id. */
values: { [key in string]: Value }, 
/** Which layers are shown in it, by id. */
shown: { [key in string]: boolean }, };
