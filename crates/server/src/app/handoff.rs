//! Hand-off: files planned, checked, written at their own size, zipped for download.

use std::io::Write;
use std::sync::Arc;
use std::time::Instant;

use dustcoat_core::bake::{Surface, measurement};
use dustcoat_core::document::{self, Document, Edit, Layout};
use dustcoat_core::evaluate::bands::BUDGET;
use dustcoat_core::evaluate::{self, Context, EvaluateError, Measured};
use dustcoat_core::handoff::check::{self, Check, checks};
use dustcoat_core::handoff::manifest::Manifest;
use dustcoat_core::handoff::ready::{READY, usual};
use dustcoat_core::handoff::{self, Content, Handoff, Naming, Plan, PlannedFile};
use dustcoat_core::mesh::Piece;
use dustcoat_core::task::Cancel;
use zip::write::SimpleFileOptions;

use super::jobs::Job;
use super::{App, AppError};
use crate::db::ProjectRow;
use crate::views::{FileKindView, HandoffDone, HandoffRequest, HandoffView, JobKind, KeptLayout, ReadyLayout};

/// What names are filled in with.
fn naming<'a>(document: &'a Document, variant: &'a str, revision: &'a str) -> Naming<'a> {
    Naming { piece: &document.name, variant, revision }
}

/// The layout that is asked for: the project's own, if none is, or the usual one.
fn layout_of(request: &HandoffRequest, document: &Document, piece: &Piece) -> Layout {
    let own = || document.layout.clone().unwrap_or_else(|| usual(document, piece.sheets.len()));
    request.layout.clone().unwrap_or_else(own)
}

impl App {
    /// What would be written, and what stands against it.
    ///
    /// # Errors
    /// [`AppError::Handoff`] when the layout makes no sense.
    pub fn plan_handoff(&self, project: i64, request: &HandoffRequest) -> Result<HandoffView, AppError> {
        let row = self.db.project(project)?;
        let document = &row.document;
        let piece = self.piece(&document.intake)?;
        let channels = evaluate::channels(document, &piece);
        let layout = layout_of(request, document, &piece);
        let ready =
            READY.iter().map(|r| ReadyLayout { key: r.key, layout: r.layout(document, &channels, piece.sheets.len()) });
        let (ready, offered, kinds) =
            (ready.collect(), Content::offered(document, &channels, layout.height_range), FileKindView::all());
        let fresh = layout.fresh_file();
        let revision = row.revision.to_string();
        let named = naming(document, "", &revision);
        let prepared = match handoff::prepare(&layout, document, &piece, named) {
            Ok(prepared) => prepared,
            // What can't be written is still shown, to be mended.
            Err(why) => {
                let problems =
                    vec![Check { serious: true, what: why.to_string(), remedy: String::new(), room: "handoff" }];
                return Ok(HandoffView {
                    layout,
                    fresh,
                    files: vec![],
                    unlaid: vec![],
                    refused: true,
                    problems,
                    fits: None,
                    ready,
                    offered,
                    kinds,
                });
            }
        };
        let mut problems: Vec<Check> =
            piece.findings.iter().filter(|f| f.serious).cloned().map(|f| Check::of(f, "surface")).collect();
        problems.extend(self.lost_in(document, &piece)?.into_iter().map(|f| Check::of(f, "build")));
        let surface = self.surface_of(document, document.draft_size)?;
        let measured = self.at_hand(&evaluate::needs_with_occlusion(document, &surface.piece), &surface, true);
        let cancel = Cancel::default();
        let draft = match evaluate::evaluate(document, &self.context(&surface, &measured, &cancel)) {
            Ok(e) => Some(e),
            Err(EvaluateError::Missing(_) | EvaluateError::NoTexels) => None,
            Err(other) => return Err(other.into()),
        };
        problems.extend(self.to_be_measured(project, &prepared, &piece)?);
        let plan = prepared.plan;
        problems.extend(checks(&plan, document, &piece, draft.as_ref().map(|e| (&*surface, e))));
        let fits = draft.as_ref().and_then(|e| check::fits(&plan, layout.height_range, e));
        let Plan { files, unlaid, .. } = plan;
        Ok(HandoffView { layout, fresh, files, unlaid, refused: false, problems, fits, ready, offered, kinds })
    }

    /// Writes the files and zips them; for all variants, each into a folder of its name.
    ///
    /// # Errors
    /// [`AppError`]
    pub fn write_handoff(&self, project: i64, request: &HandoffRequest) -> Result<HandoffDone, AppError> {
        let clock = Instant::now();
        let row = self.db.project(project)?;
        let layout = layout_of(request, &row.document, &*self.piece(&row.document.intake)?);
        let revision = row.revision.to_string();
        let mut prepared = vec![];
        for (folder, variant, document) in documents(&row, request.variants)? {
            prepared.push(self.prepare(project, &layout, (folder, variant, document), &revision)?);
        }
        // What is measured for it is a job of its own, with a Stop of its own.
        let job = self.jobs.begin(project, JobKind::HandOff, vec![]);
        let mut written = self.written.begin()?;
        let mut zip = zip::ZipWriter::new(written.as_file_mut());
        let mut files = vec![];
        for one in &prepared {
            let named = naming(&one.document, &one.variant, &revision);
            files.extend(self.write_one(one, named, &job, &mut zip)?);
        }
        zip.finish().map_err(std::io::Error::from)?;
        let name = format!("{}-{}.zip", row.document.name, layout.size);
        let (download, bytes) = self.written.keep(written)?;
        Ok(HandoffDone { download, name, files, bytes, seconds: clock.elapsed().as_secs_f64() })
    }

    /// The layouts that are kept for any project, by name.
    ///
    /// # Errors
    /// [`AppError`]
    pub fn layouts(&self) -> Result<Vec<KeptLayout>, AppError> {
        Ok(self.db.layouts()?.into_iter().map(|(id, layout)| KeptLayout { id, layout }).collect())
    }

    /// Keeps a layout for any project, beside those that are there.
    ///
    /// # Errors
    /// [`AppError`] where it is none.
    pub fn keep_layout(&self, layout: &Layout) -> Result<Vec<KeptLayout>, AppError> {
        document::check_layout(layout)?;
        self.db.keep_layout(layout)?;
        self.layouts()
    }

    /// Takes a kept layout out.
    ///
    /// # Errors
    /// [`AppError`] where there is no such layout.
    pub fn remove_layout(&self, id: i64) -> Result<Vec<KeptLayout>, AppError> {
        self.db.remove_layout(id)?;
        self.layouts()
    }

    /// What is measured before anything is written, where that takes a while or nobody knows how long.
    fn to_be_measured(
        &self,
        project: i64,
        prepared: &handoff::Prepared,
        piece: &Piece,
    ) -> Result<Option<Check>, AppError> {
        const A_WHILE: f64 = 5.0;
        let own = prepared.plan.size;
        let larger = handoff::surface_size(own, piece.sheets.len());
        let finely = prepared.finely.iter().map(|k| (k, larger));
        let (mut what, mut seconds) = (vec![], Some(0.0));
        for (key, size) in finely.chain(prepared.plainly.iter().map(|k| (k, own))) {
            if self.db.reading_seconds(&key.hash(&piece.hash, size))?.is_some() {
                continue;
            }
            what.push(format!(
                "{} at {size}",
                measurement::find(key.kind).map_or(key.kind, |m| m.label).to_lowercase()
            ));
            let last = self.db.last_measured(project, key.kind)?;
            let work = key.work((size as usize).pow(2));
            seconds = seconds.zip(last).map(|(all, l)| all + l.estimate(work));
        }
        let long = match seconds {
            Some(seconds) if seconds < A_WHILE => return Ok(None),
            Some(seconds) => format!(", some {} s", seconds.round()),
            None => String::new(),
        };
        Ok(Some(Check {
            serious: false,
            what: format!("Before anything is written there is to be measured: {}{long}.", what.join(", ")),
            remedy: "It is kept: only the first time takes so long.".into(),
            room: "handoff",
        }))
    }

    /// Plans what is written of a document, and measures what that wants.
    fn prepare(
        &self,
        project: i64,
        layout: &Layout,
        (folder, variant, document): (String, String, Document),
        revision: &str,
    ) -> Result<ToWrite, AppError> {
        let piece = self.piece(&document.intake)?;
        let prepared = handoff::prepare(layout, &document, &piece, naming(&document, &variant, revision))?;
        let surface = self.surface_of(&document, handoff::surface_size(layout.size, piece.sheets.len()))?;
        let measured =
            prepared.measured(&surface, |keys, on| self.ensure_all(project, keys, on, &Cancel::default()))?;
        Ok(ToWrite { folder, variant, document, plan: prepared.plan, surface, measured })
    }

    fn write_one<W: Write + std::io::Seek>(
        &self,
        ToWrite { folder, document, plan, surface, measured, .. }: &ToWrite,
        naming: Naming,
        job: &Job,
        zip: &mut zip::ZipWriter<W>,
    ) -> Result<Vec<PlannedFile>, AppError> {
        let tell = |label: &str, share: f32| job.tell(label, share, None);
        let context = Context { progress: &tell, ..self.context(surface, measured, &job.cancel) };
        let writing = Handoff { document, context: &context, plan, budget: BUDGET };
        // PNGs don't shrink further; storing them is fast.
        let options = SimpleFileOptions::default().compression_method(zip::CompressionMethod::Stored).large_file(true);
        let (mut done, mut manifest) = (0, Manifest::new(plan, naming));
        writing.write::<AppError>(&mut |file, bytes| {
            done += 1;
            tell(&format!("Writing {}", file.name), done as f32 / plan.files.len() as f32);
            manifest.add(file, &bytes);
            zip.start_file(format!("{folder}{}", file.name), options).map_err(std::io::Error::from)?;
            Ok(zip.write_all(&bytes)?)
        })?;
        let name = format!("{folder}{}", Plan::manifest_name(naming));
        zip.start_file(name, options).map_err(std::io::Error::from)?;
        zip.write_all(&manifest.json())?;
        Ok(plan.files.iter().map(|f| PlannedFile { name: format!("{folder}{}", f.name), ..f.clone() }).collect())
    }
}

/// What is about to be written of a document.
struct ToWrite {
    /// The folder that it goes into, with its slash; empty for none.
    folder: String,
    variant: String,
    document: Document,
    plan: Plan,
    surface: Arc<Surface>,
    measured: Measured,
}

/// What is written of a project: as it stands, or each of its variants, with a folder and a name.
fn documents(row: &ProjectRow, variants: bool) -> Result<Vec<(String, String, Document)>, AppError> {
    if !variants || row.document.variants.is_empty() {
        return Ok(vec![(String::new(), String::new(), row.document.clone())]);
    }
    let mut out: Vec<(String, String, Document)> = vec![];
    for variant in &row.document.variants {
        let mut folder = handoff::file_name(&variant.name);
        while out.iter().any(|o| o.0 == format!("{folder}/")) {
            folder.push('_');
        }
        let document = document::apply(&row.document, &Edit::TakeVariant { name: variant.name.clone() })?;
        out.push((format!("{folder}/"), variant.name.clone(), document));
    }
    Ok(out)
}
