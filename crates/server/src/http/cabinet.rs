//! The cabinet over HTTP.

use actix_web::web::{Json, Path, Payload};
use actix_web::{HttpRequest, HttpResponse};

use super::problem::Failure;
use super::{Shared, attachment, off, upload};
use crate::views::{CabinetCard, KeptLine, LayRecipe, ProjectView, SaveLine, SaveRecipe};

type Answer<T> = Result<Json<T>, Failure>;

pub async fn list(app: Shared) -> Answer<Vec<CabinetCard>> {
    Ok(Json(off(&app, |a| a.cabinet()).await?))
}

pub async fn save(app: Shared, id: Path<i64>, body: Json<SaveRecipe>) -> Answer<Vec<CabinetCard>> {
    Ok(Json(off(&app, move |a| a.save_recipe(*id, &body)).await?))
}

pub async fn lay(app: Shared, id: Path<i64>, body: Json<LayRecipe>) -> Answer<ProjectView> {
    Ok(Json(off(&app, move |a| a.lay_recipe(*id, &body)).await?))
}

pub async fn lines(app: Shared) -> Answer<Vec<KeptLine>> {
    Ok(Json(off(&app, |a| a.lines()).await?))
}

pub async fn save_line(app: Shared, id: Path<i64>, body: Json<SaveLine>) -> Answer<Vec<KeptLine>> {
    Ok(Json(off(&app, move |a| a.save_line(*id, &body)).await?))
}

pub async fn remove_line(app: Shared, id: Path<i64>) -> Answer<Vec<KeptLine>> {
    Ok(Json(off(&app, move |a| a.set_line_removed(*id, true)).await?))
}

pub async fn restore_line(app: Shared, id: Path<i64>) -> Answer<Vec<KeptLine>> {
    Ok(Json(off(&app, move |a| a.set_line_removed(*id, false)).await?))
}

pub async fn import(app: Shared, request: HttpRequest, body: Payload) -> Answer<Vec<CabinetCard>> {
    let bytes = upload(&request, body).await?;
    Ok(Json(off(&app, move |a| a.import_recipe(&bytes)).await?))
}

pub async fn file(app: Shared, id: Path<i64>) -> Result<HttpResponse, Failure> {
    let (name, bytes) = off(&app, move |a| a.pack_recipe(*id)).await?;
    Ok(attachment(&name, "application/zip", bytes))
}
