//! Who may talk to the server: pages that it served itself, by an address it answers to, with the token where one is demanded.

use std::sync::Arc;

use actix_web::body::{BoxBody, MessageBody};
use actix_web::cookie::{Cookie, SameSite};
use actix_web::dev::{ServiceRequest, ServiceResponse};
use actix_web::http::header::{HOST, ORIGIN};
use actix_web::middleware::Next;
use actix_web::{Error, ResponseError};

use super::problem::Failure;

/// What is checked on every request.
#[derive(Debug, Clone)]
pub struct Guard {
    /// Names and addresses, without port, that the server answers to; empty answers to all (with a token).
    pub hosts: Vec<String>,
    /// Demanded from every request when the server is open to others: as `Authorization: Bearer`, as `?token=`, or in the cookie that this sets.
    pub token: Option<String>,
}

impl Guard {
    /// For a server that only this machine reaches.
    pub fn local() -> Self {
        Self { hosts: ["127.0.0.1", "localhost", "[::1]"].map(String::from).to_vec(), token: None }
    }

    fn host_ok(&self, host: &str) -> bool {
        let name =
            host.rsplit_once(':').filter(|(_, p)| p.chars().all(|c| c.is_ascii_digit())).map_or(host, |(n, _)| n);
        self.hosts.is_empty() || self.hosts.iter().any(|h| h == name)
    }

    fn token_ok(&self, request: &ServiceRequest) -> bool {
        let Some(token) = &self.token else { return true };
        let bearer = request.headers().get("authorization").and_then(|v| v.to_str().ok()?.strip_prefix("Bearer "));
        let cookie = request.cookie(COOKIE);
        // Hashes are compared, so that the time taken tells nothing of the token.
        let same = |given: &str| blake3::hash(given.as_bytes()) == blake3::hash(token.as_bytes());
        bearer.is_some_and(same)
            || cookie.is_some_and(|c| same(c.value()))
            || query_token(request.query_string()).is_some_and(same)
    }
}

const COOKIE: &str = "dustcoat_token";

fn query_token(query: &str) -> Option<&str> {
    query.split('&').find_map(|p| p.strip_prefix("token="))
}

pub(super) async fn check(
    guard: Arc<Guard>,
    request: ServiceRequest,
    next: Next<impl MessageBody + 'static>,
) -> Result<ServiceResponse<BoxBody>, Error> {
    let header = |name| request.headers().get(name).and_then(|v| v.to_str().ok());
    let host = header(HOST).unwrap_or_default().to_owned();
    let origin_host = header(ORIGIN).map(|o| o.split_once("://").map_or(o, |(_, h)| h).to_owned());
    let refuse = |request: ServiceRequest, why| Ok(request.into_response(Failure::Forbidden(why).error_response()));
    if !guard.host_ok(&host) {
        return refuse(request, "This server doesn't answer to that name. Open it by the address that it printed.");
    }
    if origin_host.is_some_and(|o| o != host) {
        return refuse(request, "Another page may not use this server. Open it by the address that it printed.");
    }
    if !guard.token_ok(&request) {
        return refuse(request, "This server demands its token. Open it by the address that it printed.");
    }
    let given = query_token(request.query_string()).filter(|_| guard.token.is_some()).map(str::to_owned);
    let mut response = next.call(request).await?.map_into_boxed_body();
    if let Some(token) = given {
        let cookie = Cookie::build(COOKIE, token).path("/").http_only(true).same_site(SameSite::Strict).finish();
        response.response_mut().add_cookie(&cookie)?;
    }
    Ok(response)
}
