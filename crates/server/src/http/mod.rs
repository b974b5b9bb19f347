//! HTTP: routes, guards and errors. Handlers hand over to [`crate::app`] on a blocking thread and turn what comes back into JSON.

mod cabinet;
mod events;
mod front;
mod guard;
mod pixels;
mod problem;
mod projects;
mod stills;

use std::net::TcpListener;
use std::sync::Arc;

use actix_web::dev::Server;
use actix_web::{App as Actix, HttpServer, middleware, web};

pub use guard::Guard;

use crate::app::{App, AppError};

/// The most a JSON request may hold.
const JSON_LIMIT: usize = 8 << 20;
/// The most an uploaded file may hold.
pub const UPLOAD_LIMIT: usize = 512 << 20;

type Shared = web::Data<Arc<App>>;

/// Serves the application on a bound socket until the returned server is stopped.
///
/// # Errors
/// When the socket can't be listened on.
pub fn serve(app: Arc<App>, socket: TcpListener, guard: Guard) -> std::io::Result<Server> {
    let guard = Arc::new(guard);
    let server = HttpServer::new(move || {
        let guard = guard.clone();
        Actix::new()
            .app_data(web::Data::new(app.clone()))
            .app_data(web::JsonConfig::default().limit(JSON_LIMIT).error_handler(problem::json))
            .app_data(web::PathConfig::default().error_handler(problem::path))
            .app_data(web::QueryConfig::default().error_handler(problem::query))
            .wrap(middleware::from_fn(move |request, next| guard::check(guard.clone(), request, next)))
            .configure(routes)
    });
    Ok(server.workers(2).shutdown_timeout(1).listen(socket)?.run())
}

fn routes(c: &mut web::ServiceConfig) {
    c.service(
        web::scope("/api")
            .route("/catalog", web::get().to(projects::catalog))
            .route("/demo-pieces", web::get().to(projects::demo_pieces))
            .route("/projects", web::get().to(projects::list))
            .route("/projects/demo/{key}", web::post().to(projects::start_demo))
            .route("/projects/file", web::post().to(projects::start_file))
            .route("/arrivals/{ticket}", web::get().to(projects::arrival))
            .route("/mesh-sizes", web::post().to(projects::sizes))
            .route("/projects/{id}", web::get().to(projects::view))
            .route("/projects/{id}", web::delete().to(projects::remove))
            .route("/projects/{id}/restore", web::post().to(projects::restore))
            .route("/projects/{id}/catalog", web::get().to(projects::catalog_for))
            .route("/projects/{id}/edit", web::post().to(projects::edit))
            .route("/projects/{id}/formula", web::post().to(projects::try_formula))
            .route("/projects/{id}/look", web::post().to(pixels::look))
            .route("/projects/{id}/six", web::post().to(projects::six))
            .route("/projects/{id}/undo", web::post().to(projects::undo))
            .route("/projects/{id}/history", web::get().to(projects::history))
            .route("/projects/{id}/history", web::put().to(projects::go_to))
            .route("/projects/{id}/redo", web::post().to(projects::redo))
            .route("/projects/{id}/layers/{layer}/copy", web::get().to(projects::copy_layer))
            .route("/projects/{id}/snapshots", web::post().to(projects::keep_snapshot))
            .route("/projects/{id}/snapshots/{snapshot}", web::delete().to(projects::remove_snapshot))
            .route("/projects/{id}/snapshots/{snapshot}/restore", web::post().to(projects::restore_snapshot))
            .route("/projects/{id}/snapshots/{snapshot}/return", web::post().to(projects::go_back))
            .route("/projects/{id}/file", web::get().to(projects::file))
            .route("/projects/{id}/mesh", web::post().to(projects::swap_mesh))
            .route("/projects/{id}/finer", web::post().to(projects::bring_finer))
            .route("/projects/{id}/pictures", web::post().to(projects::bring_picture))
            .route("/projects/{id}/pictured", web::post().to(projects::lay_pictured))
            .route("/projects/{id}/strokes/seen", web::post().to(projects::strokes_seen))
            .route("/projects/{id}/strokes/at", web::post().to(projects::strokes_at))
            .route("/made-pictures", web::get().to(projects::made_pictures))
            .route("/made-pictures/{key}", web::get().to(pixels::made_picture))
            .route("/projects/{id}/made-pictures/{key}", web::post().to(projects::take_made))
            .route("/pictures", web::post().to(projects::set_aside))
            .route("/pictures/told", web::post().to(projects::tell_pictures))
            .route("/projects/{id}/pictures/{hash}", web::get().to(pixels::brought))
            .route("/projects/{id}/pictures/{hash}/tone", web::post().to(pixels::tone))
            .route("/projects/{id}/pictures/{hash}/channels", web::get().to(pixels::channels))
            .route("/projects/{id}/pictures/{hash}/colors", web::get().to(pixels::colors))
            .route("/projects/{id}/picture", web::get().to(pixels::picture))
            .route("/projects/{id}/mesh/{hash}", web::get().to(pixels::mesh))
            .route("/projects/{id}/evaluate", web::post().to(pixels::evaluate))
            .route("/projects/{id}/draw", web::post().to(pixels::draw))
            .route("/projects/{id}/patches", web::post().to(pixels::patches))
            .route("/projects/{id}/preview", web::post().to(pixels::preview))
            .route("/lights", web::get().to(stills::lights))
            .route("/lights/{key}/panorama", web::get().to(stills::panorama))
            .route("/projects/{id}/ground", web::get().to(stills::ground))
            .route("/projects/{id}/still", web::post().to(stills::take))
            .route("/projects/{id}/probe", web::post().to(pixels::probe))
            .route("/projects/{id}/reading/{kind}/picture", web::get().to(pixels::reading_picture))
            .route("/projects/{id}/measure", web::post().to(pixels::measure))
            .route("/projects/{id}/jobs", web::get().to(pixels::jobs))
            .route("/projects/{id}/jobs/{job}/picture", web::get().to(stills::so_far))
            .route("/projects/{id}/jobs/{job}/stop", web::post().to(pixels::stop))
            .route("/projects/{id}/handoff/plan", web::post().to(pixels::plan))
            .route("/projects/{id}/handoff/write", web::post().to(pixels::write))
            .route("/layouts", web::get().to(pixels::layouts))
            .route("/layouts", web::post().to(pixels::keep_layout))
            .route("/layouts/{id}", web::delete().to(pixels::remove_layout))
            .route("/projects/{id}/ladder", web::post().to(projects::ladder))
            .route("/projects/{id}/ladder/sheet", web::post().to(pixels::ladder_sheet))
            .route("/projects/{id}/recipe", web::post().to(cabinet::save))
            .route("/projects/{id}/fit", web::post().to(cabinet::fit))
            .route("/projects/{id}/lay", web::post().to(cabinet::lay))
            .route("/projects/{id}/preset", web::post().to(cabinet::keep_preset))
            .route("/projects/{id}/opened", web::post().to(cabinet::keep_opened))
            .route("/cabinet", web::get().to(cabinet::list))
            .route("/finishes/{kind}/picture", web::get().to(pixels::finish_picture))
            .route("/projects/{id}/line", web::post().to(cabinet::save_line))
            .route("/lines", web::get().to(cabinet::lines))
            .route("/lines/{id}/picture", web::get().to(pixels::line_picture))
            .route("/lines/{id}/marks", web::put().to(cabinet::mark_line))
            .route("/lines/{id}/used", web::post().to(cabinet::count_line))
            .route("/cabinet/import", web::post().to(cabinet::import))
            .route("/cabinet/{id}/picture", web::get().to(pixels::recipe_picture))
            .route("/cabinet/found", web::get().to(cabinet::found))
            .route("/cabinet/favourites", web::put().to(cabinet::favourite))
            .route("/cabinet/files", web::get().to(cabinet::files))
            .route("/cabinet/{id}", web::get().to(cabinet::recipe))
            .route("/cabinet/{id}/marks", web::put().to(cabinet::mark))
            .route("/cabinet/{id}/used", web::get().to(cabinet::used_in))
            .route("/pixels/{address}", web::get().to(pixels::pixels))
            .route("/downloads/{address}/{name}", web::get().to(pixels::download))
            .route("/events", web::get().to(events::events))
            .default_service(web::to(problem::no_route)),
    );
    c.default_service(web::get().to(front::file));
}

/// Runs work off the async threads.
async fn off<T: Send + 'static>(
    app: &Shared,
    work: impl FnOnce(&Arc<App>) -> Result<T, AppError> + Send + 'static,
) -> Result<T, problem::Failure> {
    let app = app.get_ref().clone();
    // The outer error is a panic in the work: our own bug, which costs this one request.
    Ok(web::block(move || work(&app)).await.map_err(|_| problem::Failure::Bug)??)
}

/// Reads a request's body up to [`UPLOAD_LIMIT`], refusing a larger one by its announced length before anything is read.
async fn upload(request: &actix_web::HttpRequest, body: web::Payload) -> Result<web::Bytes, problem::Failure> {
    let announced = request.headers().get("content-length").and_then(|v| v.to_str().ok()?.parse::<usize>().ok());
    if announced.is_some_and(|n| n > UPLOAD_LIMIT) {
        return Err(problem::Failure::UploadTooLarge);
    }
    let read = body.to_bytes_limited(UPLOAD_LIMIT).await.map_err(|_| problem::Failure::UploadTooLarge)?;
    read.map_err(|_| problem::Failure::UploadBroken)
}

fn attachment(name: &str, kind: &str, bytes: Vec<u8>) -> actix_web::HttpResponse {
    actix_web::HttpResponse::Ok().insert_header(disposition(name)).content_type(kind).body(bytes)
}

/// To be saved under a name.
fn disposition(name: &str) -> actix_web::http::header::ContentDisposition {
    use actix_web::http::header::{Charset, ContentDisposition, DispositionParam, DispositionType, ExtendedValue};
    let plain: String = name.chars().map(|c| if c.is_ascii_graphic() && c != '"' { c } else { '_' }).collect();
    let full = ExtendedValue { charset: Charset::Ext("UTF-8".into()), language_tag: None, value: name.into() };
    let parameters = vec![DispositionParam::Filename(plain), DispositionParam::FilenameExt(full)];
    ContentDisposition { disposition: DispositionType::Attachment, parameters }
}
