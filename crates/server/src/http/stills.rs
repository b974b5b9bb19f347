//! Light, ground and stills over HTTP.

use actix_web::HttpResponse;
use actix_web::web::{Json, Path};
use dustcoat_core::still::shoot::StillSettings;

use super::problem::Failure;
use super::{Shared, off};
use crate::app::{App, AppError};
use crate::views::{GroundView, LightsView, StillDone};

type Answer<T> = Result<Json<T>, Failure>;

pub async fn lights() -> Json<LightsView> {
    Json(App::lights())
}

pub async fn panorama(app: Shared, key: Path<String>) -> Result<HttpResponse, Failure> {
    let bytes = off(&app, move |a| a.panorama(&key)).await?;
    Ok(HttpResponse::Ok()
        .insert_header(("cache-control", "max-age=3600"))
        .content_type("application/octet-stream")
        .body(bytes))
}

pub async fn ground(app: Shared, id: Path<i64>) -> Answer<GroundView> {
    Ok(Json(off(&app, move |a| a.ground(*id)).await?))
}

pub async fn take(app: Shared, id: Path<i64>, body: Json<StillSettings>) -> Answer<StillDone> {
    Ok(Json(off(&app, move |a| a.take_still(*id, &body)).await?))
}

/// What a still under way looks like so far.
pub async fn so_far(app: Shared, at: Path<(i64, u64)>) -> Result<HttpResponse, Failure> {
    let png = app.still_so_far(at.0, at.1).ok_or(AppError::PixelsGone)?;
    Ok(HttpResponse::Ok().insert_header(("cache-control", "no-store")).content_type("image/png").body(png))
}
