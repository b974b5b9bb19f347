//! Evaluation, measuring, hand-off, and the bytes that come of them.

use std::sync::Arc;

use actix_files::NamedFile;
use actix_web::body::SizedStream;
use actix_web::web::{Bytes, Json, Path, Query};
use actix_web::{HttpRequest, HttpResponse};
use dustcoat_core::document::{Layout, ToldChannel};
use dustcoat_core::setting::Swatch;

use serde::{Deserialize, Serialize};

use super::problem::Failure;
use super::{Shared, attachment, disposition, off};
use crate::app::{App, AppError, Clock};
use crate::views::{
    CandidateView, DrawRequest, Drawn, EvaluateRequest, HandoffDone, HandoffRequest, HandoffView, JobView, KeptLayout,
    LookRequest, MeasureRequest, MeasureStarted, PatchRequest, Patches, PreviewRequest, ProbeRequest, ProbeView, Sent,
    SheetRequest, ToneRequest, ToneView,
};

/// What an address names never changes.
const FOREVER: (&str, &str) = ("cache-control", "private, max-age=31536000, immutable");

type Answer<T> = Result<Json<T>, Failure>;

pub async fn evaluate(app: Shared, id: Path<i64>, body: Json<EvaluateRequest>) -> Result<HttpResponse, Failure> {
    let clock = Clock::start("waiting");
    let (view, timing) = off(&app, move |a| Ok((a.evaluate(*id, &body, &clock)?, timing(&clock)))).await?;
    Ok(HttpResponse::Ok().insert_header(timing).json(view))
}

/// An evaluation and its pixels in one answer: see [`DrawRequest`].
pub async fn draw(app: Shared, id: Path<i64>, body: Json<DrawRequest>) -> Result<HttpResponse, Failure> {
    let clock = Clock::start("waiting");
    let work = move |a: &Arc<App>| {
        let DrawRequest { wanted, holds } = &*body;
        let view = a.evaluate(*id, wanted, &clock)?;
        let missing = view.addresses().into_iter().filter(|address| !holds.iter().any(|h| h == address));
        clock.begin("sending");
        let (sent, parts): (Vec<Sent>, Vec<Vec<Bytes>>) = missing.filter_map(|address| a.sent(address, holds)).unzip();
        Ok((Drawn { view, sent }, parts.concat(), timing(&clock)))
    };
    let (drawn, parts, timing) = off(&app, work).await?;
    with_bytes(timing, &drawn, parts)
}

/// An answer as JSON, after its length as a little-endian u32, and bytes behind it that are not copied.
fn with_bytes(
    header: impl actix_web::http::header::TryIntoHeaderPair,
    answer: &impl Serialize,
    bytes: Vec<Bytes>,
) -> Result<HttpResponse, Failure> {
    let text = serde_json::to_vec(answer).map_err(|_| Failure::Bug)?;
    let head = [&(text.len() as u32).to_le_bytes()[..], &text].concat();
    let parts: Vec<Bytes> = std::iter::once(head.into()).chain(bytes).collect();
    let length = parts.iter().map(|p| p.len() as u64).sum();
    let parts = futures_util::stream::iter(parts.into_iter().map(Ok::<_, std::convert::Infallible>));
    Ok(HttpResponse::Ok()
        .insert_header(header)
        .content_type("application/octet-stream")
        .body(SizedStream::new(length, parts)))
}

/// Patches and their pixels in one answer: see [`PatchRequest`].
pub async fn patches(app: Shared, id: Path<i64>, body: Json<PatchRequest>) -> Result<HttpResponse, Failure> {
    // To be overtaken is no failure: the page asks again at its next rest.
    let work = move |a: &Arc<App>| match a.patches(*id, &body) {
        Err(error) if error.is_cancelled() => Ok((Patches::overtaken(), vec![])),
        answer => answer,
    };
    let (view, held) = off(&app, work).await?;
    with_bytes(("cache-control", "no-store"), &view, held.into_iter().map(|h| h.bytes).collect())
}

/// Where the time went, as browsers' tools show it.
fn timing(clock: &Clock) -> (&'static str, String) {
    let parts = clock.parts().into_iter().map(|(part, milliseconds)| format!("{part};dur={milliseconds:.1}"));
    ("server-timing", parts.collect::<Vec<_>>().join(", "))
}

pub async fn preview(app: Shared, id: Path<i64>, body: Json<PreviewRequest>) -> Answer<Vec<CandidateView>> {
    Ok(Json(off(&app, move |a| a.preview(*id, &body)).await?))
}

pub async fn probe(app: Shared, id: Path<i64>, body: Json<ProbeRequest>) -> Answer<ProbeView> {
    Ok(Json(off(&app, move |a| a.probe(*id, &body)).await?))
}

pub async fn measure(app: Shared, id: Path<i64>, body: Json<MeasureRequest>) -> Answer<MeasureStarted> {
    Ok(Json(off(&app, move |a| Ok(MeasureStarted { job: a.measure(*id, &body.kinds, body.wait)? })).await?))
}

pub async fn jobs(app: Shared, id: Path<i64>) -> Json<Vec<JobView>> {
    Json(app.jobs_of(*id))
}

pub async fn stop(app: Shared, at: Path<(i64, u64)>) -> HttpResponse {
    app.stop(at.0, at.1);
    HttpResponse::NoContent().finish()
}

pub async fn plan(app: Shared, id: Path<i64>, body: Json<HandoffRequest>) -> Answer<HandoffView> {
    Ok(Json(off(&app, move |a| a.plan_handoff(*id, &body)).await?))
}

pub async fn write(app: Shared, id: Path<i64>, body: Json<HandoffRequest>) -> Answer<HandoffDone> {
    Ok(Json(off(&app, move |a| a.write_handoff(*id, &body)).await?))
}

pub async fn layouts(app: Shared) -> Answer<Vec<KeptLayout>> {
    Ok(Json(off(&app, |a| a.layouts()).await?))
}

pub async fn keep_layout(app: Shared, body: Json<Layout>) -> Answer<Vec<KeptLayout>> {
    Ok(Json(off(&app, move |a| a.keep_layout(&body)).await?))
}

pub async fn remove_layout(app: Shared, id: Path<i64>) -> Answer<Vec<KeptLayout>> {
    Ok(Json(off(&app, move |a| a.remove_layout(*id)).await?))
}

pub async fn pixels(app: Shared, address: Path<String>) -> Result<HttpResponse, Failure> {
    let bytes = app.pixels(&address).ok_or(AppError::PixelsGone)?;
    Ok(HttpResponse::Ok().insert_header(FOREVER).content_type("application/octet-stream").body(bytes))
}

pub async fn download(
    app: Shared,
    request: HttpRequest,
    path: Path<(String, String)>,
) -> Result<HttpResponse, Failure> {
    let file = app.written.fetch(&path.0).ok_or(AppError::WrittenGone)?;
    let named = NamedFile::open(file).map_err(|e| Failure::App(e.into()))?;
    let named = named.set_content_type(mime_guess::from_path(&path.1).first_or_octet_stream());
    Ok(named.set_content_disposition(disposition(&path.1)).into_response(&request))
}

/// How a mesh is wanted.
#[derive(Deserialize)]
pub struct MeshQuery {
    #[serde(default)]
    fine: bool,
}

pub async fn mesh(app: Shared, path: Path<(i64, String)>, query: Query<MeshQuery>) -> Result<HttpResponse, Failure> {
    let bytes = off(&app, move |a| a.mesh_buffers(path.0, &path.1, query.fine)).await?;
    Ok(HttpResponse::Ok().insert_header(FOREVER).content_type("application/octet-stream").body(bytes))
}

/// A small picture of a state that is not kept: see [`LookRequest`].
pub async fn look(app: Shared, id: Path<i64>, body: Json<LookRequest>) -> Result<HttpResponse, Failure> {
    let png = off(&app, move |a| a.look(*id, &body)).await?;
    Ok(HttpResponse::Ok().insert_header(("cache-control", "no-store")).content_type("image/png").body(png))
}

pub async fn ladder_sheet(app: Shared, id: Path<i64>, body: Json<SheetRequest>) -> Result<HttpResponse, Failure> {
    let png = off(&app, move |a| a.ladder_sheet(*id, &body)).await?;
    Ok(attachment("ladder.png", "image/png", png))
}

/// A picture of what may change: kept by nobody without asking.
fn asked_anew(png: Vec<u8>) -> HttpResponse {
    HttpResponse::Ok().insert_header(("cache-control", "no-cache")).content_type("image/png").body(png)
}

pub async fn picture(app: Shared, id: Path<i64>) -> Result<HttpResponse, Failure> {
    let png = off(&app, move |a| a.picture(*id)).await?;
    Ok(asked_anew(png))
}

pub async fn recipe_picture(app: Shared, id: Path<i64>) -> Result<HttpResponse, Failure> {
    let png = off(&app, move |a| a.recipe_picture(*id)).await?;
    Ok(asked_anew(png))
}

pub async fn line_picture(app: Shared, id: Path<i64>) -> Result<HttpResponse, Failure> {
    let png = off(&app, move |a| a.line_picture(*id)).await?;
    Ok(asked_anew(png))
}

/// How large a picture is wanted.
#[derive(Deserialize)]
pub struct SideQuery {
    #[serde(default = "usual_side")]
    side: u32,
}

fn usual_side() -> u32 {
    1024
}

pub async fn brought(app: Shared, at: Path<(i64, String)>, query: Query<SideQuery>) -> Result<HttpResponse, Failure> {
    let bytes = off(&app, move |a| a.brought_picture(at.0, &at.1, query.side)).await?;
    let kind = if bytes.starts_with(&[0xff, 0xd8]) { "image/jpeg" } else { "image/png" };
    Ok(HttpResponse::Ok().insert_header(FOREVER).content_type(kind).body(bytes))
}

pub async fn tone(app: Shared, at: Path<(i64, String)>, body: Json<ToneRequest>) -> Result<Json<ToneView>, Failure> {
    Ok(Json(off(&app, move |a| a.tone(at.0, &at.1, &body)).await?))
}

/// A made-up picture in small. Another version of the program may draw it otherwise.
pub async fn made_picture(app: Shared, key: Path<String>) -> Result<HttpResponse, Failure> {
    let png = off(&app, move |a| a.made_picture(&key)).await?;
    Ok(HttpResponse::Ok().insert_header(("cache-control", "private, max-age=3600")).content_type("image/png").body(png))
}

pub async fn channels(app: Shared, at: Path<(i64, String)>) -> Result<Json<Vec<ToldChannel>>, Failure> {
    Ok(Json(off(&app, move |a| a.told_channels(at.0, &at.1)).await?))
}

/// How many colours are wanted of a picture.
#[derive(Deserialize)]
pub struct ColorsQuery {
    count: u8,
}

pub async fn colors(
    app: Shared,
    at: Path<(i64, String)>,
    query: Query<ColorsQuery>,
) -> Result<Json<Vec<Swatch>>, Failure> {
    Ok(Json(off(&app, move |a| a.picture_colors(at.0, &at.1, query.count)).await?))
}

pub async fn finish_picture(app: Shared, kind: Path<String>) -> Result<HttpResponse, Failure> {
    let png = off(&app, move |a| a.finish_picture(&kind)).await?;
    Ok(HttpResponse::Ok().insert_header(("cache-control", "max-age=3600")).content_type("image/png").body(png))
}

/// 204 is no failure: a page may ask for what an edit of another window has just made stale, and hears of that edit next.
pub async fn reading_picture(app: Shared, path: Path<(i64, String)>) -> Result<HttpResponse, Failure> {
    let png = off(&app, move |a| a.reading_picture(path.0, &path.1)).await?;
    Ok(png.map_or_else(|| HttpResponse::NoContent().insert_header(("cache-control", "no-store")).finish(), asked_anew))
}
