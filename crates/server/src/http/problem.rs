//! Errors as `application/problem+json` (RFC 9457).

use actix_web::error::{JsonPayloadError, PathError, QueryPayloadError};
use actix_web::http::StatusCode;
use actix_web::{HttpRequest, HttpResponse, ResponseError};

use super::UPLOAD_LIMIT;
use crate::app::AppError;
use crate::db::DbError;
use crate::views::Problem;

/// What a handler answers when it can't do what it was asked.
#[derive(Debug, thiserror::Error)]
pub enum Failure {
    /// The application said so.
    #[error(transparent)]
    App(#[from] AppError),
    /// An upload past the limit.
    #[error("The file is larger than {} MB, the most that is taken. Reduce it and try again.", UPLOAD_LIMIT >> 20)]
    UploadTooLarge,
    /// An upload that broke off.
    #[error("The upload broke off before the file was complete. Nothing was kept; try again.")]
    UploadBroken,
    /// JSON that is none, or of another shape.
    #[error(
        "The request can't be read: {0}. Reload the page; if it happens again, the page and the server are of different versions."
    )]
    Request(String),
    /// No such address.
    #[error("There is nothing at this address.")]
    NoRoute,
    /// From somewhere else.
    #[error("{0}")]
    Forbidden(&'static str),
    /// Our own bug.
    #[error(
        "Something went wrong inside Dust Coat; the edit was not made. Everything before it is kept. Try again, or undo the last change."
    )]
    Bug,
}

impl Failure {
    fn kind(&self) -> (&'static str, StatusCode) {
        match self {
            Failure::App(AppError::Db(DbError::Stale { .. })) => ("stale", StatusCode::CONFLICT),
            Failure::App(
                AppError::Db(DbError::NotFound(_))
                | AppError::NoDemo(_)
                | AppError::NoMadePicture(_)
                | AppError::NoPatch
                | AppError::NoReading(_)
                | AppError::NoSide(_)
                | AppError::NoFinish(_)
                | AppError::NothingThere,
            ) => ("not-found", StatusCode::NOT_FOUND),
            Failure::App(AppError::Db(DbError::NothingTo(_))) => ("nothing-to-do", StatusCode::CONFLICT),
            Failure::App(AppError::Db(DbError::Full)) => ("disk-full", StatusCode::INSUFFICIENT_STORAGE),
            Failure::App(AppError::Db(_)) => ("database", StatusCode::INTERNAL_SERVER_ERROR),
            Failure::App(e) if e.is_cancelled() => ("cancelled", StatusCode::CONFLICT),
            Failure::App(AppError::PixelsGone | AppError::WrittenGone) => ("gone", StatusCode::GONE),
            Failure::App(
                AppError::Edit(_)
                | AppError::EmptyLine
                | AppError::ClearSpot
                | AppError::NoGrey(_)
                | AppError::NotBrought(_)
                | AppError::NoName
                | AppError::NoThing(_)
                | AppError::Pictured(_)
                | AppError::ServesOtherwise(_)
                | AppError::OtherMesh(_),
            ) => ("edit", StatusCode::UNPROCESSABLE_ENTITY),
            Failure::App(AppError::Mesh(_) | AppError::Package(_) | AppError::Picture(_)) => {
                ("file", StatusCode::UNPROCESSABLE_ENTITY)
            }
            Failure::App(
                AppError::Cancelled(_) | AppError::Evaluate(_) | AppError::Handoff(_) | AppError::Still(_),
            ) => ("unprocessable", StatusCode::UNPROCESSABLE_ENTITY),
            Failure::App(AppError::Written(_)) => ("disk", StatusCode::INSUFFICIENT_STORAGE),
            Failure::UploadTooLarge => ("too-large", StatusCode::PAYLOAD_TOO_LARGE),
            Failure::UploadBroken => ("broken-upload", StatusCode::BAD_REQUEST),
            Failure::Request(_) => ("request", StatusCode::BAD_REQUEST),
            Failure::NoRoute => ("not-found", StatusCode::NOT_FOUND),
            Failure::Forbidden(_) => ("forbidden", StatusCode::FORBIDDEN),
            Failure::Bug => ("bug", StatusCode::INTERNAL_SERVER_ERROR),
        }
    }
}

impl ResponseError for Failure {
    fn status_code(&self) -> StatusCode {
        self.kind().1
    }

    fn error_response(&self) -> HttpResponse {
        let (kind, status) = self.kind();
        let revision = match self {
            Failure::App(AppError::Db(DbError::Stale { current })) => Some(*current),
            _ => None,
        };
        let body = Problem { kind: kind.into(), title: self.to_string(), status: status.as_u16(), revision };
        HttpResponse::build(status).content_type("application/problem+json").json(body)
    }
}

pub(super) fn json(e: JsonPayloadError, _: &HttpRequest) -> actix_web::Error {
    match e {
        JsonPayloadError::Overflow { .. } | JsonPayloadError::OverflowKnownLength { .. } => {
            Failure::UploadTooLarge.into()
        }
        e => Failure::Request(e.to_string()).into(),
    }
}

pub(super) fn path(_: PathError, _: &HttpRequest) -> actix_web::Error {
    Failure::NoRoute.into()
}

pub(super) fn query(e: QueryPayloadError, _: &HttpRequest) -> actix_web::Error {
    Failure::Request(e.to_string()).into()
}

pub(super) async fn no_route() -> Result<HttpResponse, Failure> {
    Err(Failure::NoRoute)
}
