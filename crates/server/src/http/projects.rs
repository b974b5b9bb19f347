//! Projects over HTTP.

use std::sync::Arc;

use actix_web::web::{Json, Path, Payload, Query};
use actix_web::{HttpRequest, HttpResponse};
use dustcoat_core::document::{Edit, TriedFormula};
use dustcoat_core::mesh::Unit;
use dustcoat_core::mesh::import::{self, MeshLimits, SizeInUnit};
use dustcoat_core::{catalog, document};
use dustcoat_demo::PIECES;
use dustcoat_demo::pins::{MadePicture, PICTURES};
use serde::Deserialize;

use super::problem::Failure;
use super::{Shared, attachment, off, upload};
use crate::app::{App, AppError};
use crate::views::{
    ArrivalView, DemoCard, EditRequest, GoTo, KeepSnapshot, LadderRequest, LadderView, LayPictured, MadeCard,
    OnRevision, ProjectCard, ProjectView, SetAside, Six, SixRequest, StateView, StrokeView, StrokesAsked, StrokesAt,
    ToldPictures,
};

type Answer<T> = Result<Json<T>, Failure>;

pub async fn catalog() -> Json<Vec<catalog::Entry>> {
    Json(catalog::catalog())
}

pub async fn catalog_for(app: Shared, id: Path<i64>) -> Answer<Vec<catalog::Entry>> {
    Ok(Json(off(&app, move |a| a.catalog(*id)).await?))
}

pub async fn demo_pieces() -> Json<Vec<DemoCard>> {
    let card = |p: &dustcoat_demo::DemoPiece| DemoCard { key: p.key.into(), name: p.name.into(), note: p.note.into() };
    Json(PIECES.iter().map(card).collect())
}

pub async fn list(app: Shared) -> Answer<Vec<ProjectCard>> {
    Ok(Json(off(&app, |a| a.cards()).await?))
}

pub async fn start_demo(app: Shared, key: Path<String>) -> Answer<ProjectView> {
    Ok(Json(off(&app, move |a| a.start_on_demo(&key)).await?))
}

/// How an uploaded file is to be read.
#[derive(Deserialize)]
pub struct FileQuery {
    name: String,
    unit: Option<Unit>,
    /// What the page asks by how far it is.
    #[serde(default)]
    ticket: String,
}

pub async fn start_file(
    app: Shared,
    query: Query<FileQuery>,
    request: HttpRequest,
    body: Payload,
) -> Answer<ProjectView> {
    let bytes = upload(&request, body).await?;
    let FileQuery { name, unit, ticket } = query.into_inner();
    Ok(Json(off(&app, move |a| a.start_on_file(&name, unit, &bytes, &ticket)).await?))
}

/// How far a mesh is that is being taken in; nothing where none is.
pub async fn arrival(app: Shared, ticket: Path<String>) -> Answer<Option<ArrivalView>> {
    Ok(Json(app.arrivals.view(&ticket)))
}

/// What a mesh file would measure in each unit, before it is brought in.
pub async fn sizes(
    app: Shared,
    query: Query<FileQuery>,
    request: HttpRequest,
    body: Payload,
) -> Answer<Vec<SizeInUnit>> {
    let bytes = upload(&request, body).await?;
    let measure = move |_: &Arc<App>| import::sizes(&query.name, &bytes, MeshLimits::default()).map_err(AppError::from);
    Ok(Json(off(&app, measure).await?))
}

pub async fn view(app: Shared, id: Path<i64>) -> Answer<ProjectView> {
    Ok(Json(off(&app, move |a| a.view(*id)).await?))
}

pub async fn remove(app: Shared, id: Path<i64>) -> Answer<Vec<ProjectCard>> {
    let removed = move |a: &Arc<App>| {
        a.db.remove_project(*id, true)?;
        a.cards()
    };
    Ok(Json(off(&app, removed).await?))
}

pub async fn restore(app: Shared, id: Path<i64>) -> Answer<Vec<ProjectCard>> {
    let restored = move |a: &Arc<App>| {
        a.db.remove_project(*id, false)?;
        a.cards()
    };
    Ok(Json(off(&app, restored).await?))
}

pub async fn edit(app: Shared, id: Path<i64>, body: Json<EditRequest>) -> Answer<ProjectView> {
    Ok(Json(off(&app, move |a| a.edit(*id, &body)).await?))
}

pub async fn try_formula(app: Shared, id: Path<i64>, body: Json<Edit>) -> Answer<TriedFormula> {
    Ok(Json(off(&app, move |a| a.try_formula(*id, &body)).await?))
}

pub async fn six(app: Shared, id: Path<i64>, body: Json<SixRequest>) -> Answer<Six> {
    Ok(Json(off(&app, move |a| a.six(*id, &body)).await?))
}

pub async fn ladder(app: Shared, id: Path<i64>, body: Json<LadderRequest>) -> Answer<LadderView> {
    Ok(Json(off(&app, move |a| a.ladder(*id, &body)).await?))
}

pub async fn undo(app: Shared, id: Path<i64>, body: Json<OnRevision>) -> Answer<ProjectView> {
    Ok(Json(off(&app, move |a| a.step(*id, body.revision, true)).await?))
}

pub async fn redo(app: Shared, id: Path<i64>, body: Json<OnRevision>) -> Answer<ProjectView> {
    Ok(Json(off(&app, move |a| a.step(*id, body.revision, false)).await?))
}

pub async fn history(app: Shared, id: Path<i64>) -> Answer<Vec<StateView>> {
    Ok(Json(off(&app, move |a| a.history(*id)).await?))
}

pub async fn go_to(app: Shared, id: Path<i64>, body: Json<GoTo>) -> Answer<ProjectView> {
    Ok(Json(off(&app, move |a| a.go_to(*id, &body)).await?))
}

pub async fn copy_layer(app: Shared, at: Path<(i64, String)>) -> Answer<String> {
    let copied = move |a: &Arc<App>| Ok(document::copied(&a.db.project(at.0)?.document, &at.1)?);
    Ok(Json(off(&app, copied).await?))
}

pub async fn keep_snapshot(app: Shared, id: Path<i64>, body: Json<KeepSnapshot>) -> Answer<ProjectView> {
    Ok(Json(off(&app, move |a| a.keep_snapshot(*id, &body.name)).await?))
}

pub async fn remove_snapshot(app: Shared, at: Path<(i64, i64)>) -> Answer<ProjectView> {
    Ok(Json(off(&app, move |a| a.set_snapshot_removed(at.0, at.1, true)).await?))
}

pub async fn restore_snapshot(app: Shared, at: Path<(i64, i64)>) -> Answer<ProjectView> {
    Ok(Json(off(&app, move |a| a.set_snapshot_removed(at.0, at.1, false)).await?))
}

pub async fn go_back(app: Shared, at: Path<(i64, i64)>, body: Json<OnRevision>) -> Answer<ProjectView> {
    Ok(Json(off(&app, move |a| a.go_back(at.0, at.1, body.revision)).await?))
}

/// How a file for a project is to be read, and the revision it was given on.
#[derive(Deserialize)]
pub struct BringQuery {
    name: String,
    unit: Option<Unit>,
    revision: i64,
    /// Of a picture: what it is for; guessed from its name otherwise.
    purpose: Option<String>,
}

/// Reads the body and hands it over with its query.
async fn bring(
    app: Shared,
    query: Query<BringQuery>,
    request: HttpRequest,
    body: Payload,
    take: impl FnOnce(&App, &BringQuery, &[u8]) -> Result<ProjectView, AppError> + Send + 'static,
) -> Answer<ProjectView> {
    let bytes = upload(&request, body).await?;
    Ok(Json(off(&app, move |a| take(a, &query, &bytes)).await?))
}

pub async fn swap_mesh(
    app: Shared,
    id: Path<i64>,
    query: Query<BringQuery>,
    request: HttpRequest,
    body: Payload,
) -> Answer<ProjectView> {
    bring(app, query, request, body, move |a, q, b| a.swap_mesh(*id, q.revision, &q.name, q.unit, b)).await
}

pub async fn bring_finer(
    app: Shared,
    id: Path<i64>,
    query: Query<BringQuery>,
    request: HttpRequest,
    body: Payload,
) -> Answer<ProjectView> {
    bring(app, query, request, body, move |a, q, b| a.bring_finer(*id, q.revision, &q.name, q.unit, b)).await
}

pub async fn bring_picture(
    app: Shared,
    id: Path<i64>,
    query: Query<BringQuery>,
    request: HttpRequest,
    body: Payload,
) -> Answer<ProjectView> {
    bring(app, query, request, body, move |a, q, b| a.bring_picture(*id, q.revision, &q.name, q.purpose.as_deref(), b))
        .await
}

pub async fn made_pictures() -> Json<Vec<MadeCard>> {
    let card = |p: &MadePicture| MadeCard { key: p.key.into(), label: p.label.into(), help: p.help.into() };
    Json(PICTURES.iter().map(card).collect())
}

pub async fn take_made(app: Shared, at: Path<(i64, String)>, body: Json<OnRevision>) -> Answer<ProjectView> {
    Ok(Json(off(&app, move |a| a.take_made(at.0, body.revision, &at.1)).await?))
}

/// What a file that is set aside is called.
#[derive(Deserialize)]
pub struct AsideQuery {
    name: String,
}

pub async fn set_aside(app: Shared, query: Query<AsideQuery>, request: HttpRequest, body: Payload) -> Answer<SetAside> {
    let bytes = upload(&request, body).await?;
    Ok(Json(off(&app, move |a| a.set_aside(&query.name, &bytes)).await?))
}

pub async fn tell_pictures(app: Shared, body: Json<Vec<SetAside>>) -> Answer<ToldPictures> {
    Ok(Json(off(&app, move |a| a.tell_pictures(&body)).await?))
}

/// The strokes that lie at a place.
pub async fn strokes_at(app: Shared, id: Path<i64>, body: Json<StrokesAt>) -> Answer<Vec<String>> {
    Ok(Json(off(&app, move |a| a.strokes_at(*id, &body)).await?))
}

/// Strokes in small.
pub async fn strokes_seen(app: Shared, id: Path<i64>, body: Json<StrokesAsked>) -> Answer<Vec<StrokeView>> {
    Ok(Json(off(&app, move |a| a.strokes_seen(*id, &body)).await?))
}

pub async fn lay_pictured(app: Shared, id: Path<i64>, body: Json<LayPictured>) -> Answer<ProjectView> {
    Ok(Json(off(&app, move |a| a.lay_pictured(*id, &body)).await?))
}

pub async fn file(app: Shared, id: Path<i64>) -> Result<HttpResponse, Failure> {
    let (name, bytes) = off(&app, move |a| a.pack(*id)).await?;
    Ok(attachment(&name, "application/zip", bytes))
}
