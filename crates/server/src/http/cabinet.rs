//! The cabinet over HTTP.

use actix_web::web::{Json, Path, Payload, Query};
use actix_web::{HttpRequest, HttpResponse};
use dustcoat_core::recipe::Recipe;
use serde::Deserialize;

use super::problem::Failure;
use super::{Shared, attachment, off, upload};
use crate::views::{
    CabinetCard, FavouriteRequest, FitView, FoundThings, Imported, KeepOpened, KeepPreset, KeptLine, LayRecipe, Laying,
    MarkRequest, ProjectView, SaveLine, SaveRecipe, UsedIn,
};

type Answer<T> = Result<Json<T>, Failure>;

pub async fn list(app: Shared) -> Answer<Vec<CabinetCard>> {
    Ok(Json(off(&app, |a| a.cabinet()).await?))
}

pub async fn found(app: Shared) -> Answer<FoundThings> {
    Ok(Json(off(&app, |a| a.found_things()).await?))
}

pub async fn favourite(app: Shared, body: Json<FavouriteRequest>) -> Answer<FoundThings> {
    Ok(Json(off(&app, move |a| a.set_favourite(&body)).await?))
}

pub async fn recipe(app: Shared, id: Path<i64>) -> Answer<Recipe> {
    Ok(Json(off(&app, move |a| Ok(a.db.recipe(*id)?)).await?))
}

pub async fn mark(app: Shared, id: Path<i64>, body: Json<MarkRequest>) -> Answer<Vec<CabinetCard>> {
    Ok(Json(off(&app, move |a| a.mark_recipe(*id, &body)).await?))
}

pub async fn used_in(app: Shared, id: Path<i64>) -> Answer<Vec<UsedIn>> {
    Ok(Json(off(&app, move |a| a.used_in(*id)).await?))
}

pub async fn save(app: Shared, id: Path<i64>, body: Json<SaveRecipe>) -> Answer<Vec<CabinetCard>> {
    Ok(Json(off(&app, move |a| a.save_recipe(*id, &body)).await?))
}

pub async fn fit(app: Shared, id: Path<i64>, body: Json<Laying>) -> Answer<FitView> {
    Ok(Json(off(&app, move |a| a.fit(*id, &body)).await?))
}

pub async fn lay(app: Shared, id: Path<i64>, body: Json<LayRecipe>) -> Answer<ProjectView> {
    Ok(Json(off(&app, move |a| a.lay_recipe(*id, &body)).await?))
}

pub async fn keep_preset(app: Shared, id: Path<i64>, body: Json<KeepPreset>) -> Answer<ProjectView> {
    Ok(Json(off(&app, move |a| a.keep_preset(*id, &body)).await?))
}

pub async fn keep_opened(app: Shared, id: Path<i64>, body: Json<KeepOpened>) -> Answer<ProjectView> {
    Ok(Json(off(&app, move |a| a.keep_opened(*id, &body)).await?))
}

pub async fn lines(app: Shared) -> Answer<Vec<KeptLine>> {
    Ok(Json(off(&app, |a| a.lines()).await?))
}

pub async fn save_line(app: Shared, id: Path<i64>, body: Json<SaveLine>) -> Answer<Vec<KeptLine>> {
    Ok(Json(off(&app, move |a| a.save_line(*id, &body)).await?))
}

pub async fn mark_line(app: Shared, id: Path<i64>, body: Json<MarkRequest>) -> Answer<Vec<KeptLine>> {
    Ok(Json(off(&app, move |a| a.mark_line(*id, &body)).await?))
}

pub async fn count_line(app: Shared, id: Path<i64>) -> Answer<Vec<KeptLine>> {
    Ok(Json(off(&app, move |a| a.count_line(*id)).await?))
}

pub async fn import(app: Shared, request: HttpRequest, body: Payload) -> Answer<Imported> {
    let bytes = upload(&request, body).await?;
    Ok(Json(off(&app, move |a| a.import_recipes(&bytes)).await?))
}

/// Which recipes are to be packed, their ids with commas between.
#[derive(Deserialize)]
pub struct Which {
    ids: String,
}

pub async fn files(app: Shared, query: Query<Which>) -> Result<HttpResponse, Failure> {
    let ids: Vec<i64> = query.ids.split(',').filter_map(|id| id.parse().ok()).collect();
    let (name, bytes) = off(&app, move |a| a.pack_recipes(&ids)).await?;
    Ok(attachment(&name, "application/zip", bytes))
}
