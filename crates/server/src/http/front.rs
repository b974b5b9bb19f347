//! The front end, embedded in the binary. Every path that is no file is the page: rooms are addresses.

use actix_web::{HttpRequest, HttpResponse};
use rust_embed::RustEmbed;

#[derive(RustEmbed)]
#[folder = "../../web/dist"]
#[allow_missing = true]
struct Front;

pub async fn file(request: HttpRequest) -> HttpResponse {
    let path = request.path().trim_start_matches('/');
    let (name, file) = match Front::get(path).filter(|_| !path.is_empty()) {
        Some(file) => (path, Some(file)),
        None => ("index.html", Front::get("index.html")),
    };
    let Some(file) = file else {
        let text = "The front end is not built into this binary. Run `make demo`, which builds it first.";
        return HttpResponse::ServiceUnavailable().content_type("text/plain; charset=utf-8").body(text);
    };
    // Names of built assets carry a hash of their content; the page itself is always asked for.
    let cache = if name.starts_with("assets/") { "public, max-age=31536000, immutable" } else { "no-cache" };
    HttpResponse::Ok()
        .insert_header(("cache-control", cache))
        .insert_header(("x-content-type-options", "nosniff"))
        .insert_header((
            "content-security-policy",
            "default-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data: blob:; worker-src 'self' blob:; connect-src 'self' ws: wss:",
        ))
        .content_type(mime_guess::from_path(name).first_or_octet_stream().essence_str())
        .body(file.data.into_owned())
}
