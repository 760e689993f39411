//! Who may ask: this machine's own pages, or whoever has the token.

use crate::{App, error::Refusal};
use axum::{
    extract::{Request, State},
    http::{HeaderMap, Method, StatusCode, Uri, header},
    middleware::Next,
    response::{IntoResponse, Redirect, Response},
};
use axum_extra::extract::cookie::{Cookie, CookieJar, SameSite};
use std::{
    collections::HashMap,
    net::IpAddr,
    sync::{Arc, Mutex, PoisonError},
    time::{Duration, Instant},
};

/// The other end of a connection.
#[derive(Debug, Clone, Copy)]
pub(crate) struct Peer(pub IpAddr);

/// What opens the server to other machines.
pub(crate) struct Door {
    token: String,
    /// What a browser keeps in place of the token: made from it, and it cannot be made back.
    cookie: String,
    guesses: Guesses,
}

impl Door {
    pub(crate) fn new(token: &str) -> Self {
        let cookie = blake3::Hash::from_bytes(blake3::derive_key(
            "metaxis 2026-11 cookie of a page",
            token.as_bytes(),
        ));
        Self { token: token.to_owned(), cookie: cookie.to_hex().to_string(), guesses: Guesses::default() }
    }
}

/// Refuses foreign Host and Origin headers, and requests without the token where there is one.
pub async fn guard(State(app): State<Arc<App>>, request: Request, next: Next) -> Response {
    let headers = request.headers();
    let host =
        text(headers, header::HOST).or_else(|| request.uri().authority().map(|a| a.as_str().to_owned()));
    let Some(host) = host else {
        return refuse(StatusCode::BAD_REQUEST, "a request must name its host");
    };
    if app.config.address.ip().is_loopback() && !is_local(&host) {
        return refuse(StatusCode::FORBIDDEN, "this server answers only to the name of its own machine");
    }
    if let Some(origin) = text(headers, header::ORIGIN)
        && origin.strip_prefix("http://").or(origin.strip_prefix("https://")) != Some(host.as_str())
    {
        return refuse(StatusCode::FORBIDDEN, "pages of other sites may not ask this server");
    }
    let Some(door) = &app.door else { return next.run(request).await };
    if CookieJar::from_headers(headers).get(COOKIE).is_some_and(|given| same(given.value(), &door.cookie)) {
        return next.run(request).await;
    }
    let in_link = (request.method() == Method::GET).then(|| without_token(request.uri())).flatten();
    let bearer =
        text(headers, header::AUTHORIZATION).and_then(|v| v.strip_prefix("Bearer ").map(str::to_owned));
    let Some(given) = bearer.as_ref().or(in_link.as_ref().map(|(token, _)| token)) else {
        let why = "an access token is needed: open the address with ?token=… at its end";
        return refuse(StatusCode::UNAUTHORIZED, why);
    };
    let peer = request.extensions().get::<Peer>().map(|peer| peer.0);
    if door.guesses.are_too_many(peer) {
        let why = "too many wrong tokens came from this address: wait a minute";
        return refuse(StatusCode::TOO_MANY_REQUESTS, why);
    }
    if !same(given, &door.token) {
        door.guesses.note(peer);
        return refuse(StatusCode::UNAUTHORIZED, "this is not the access token of this server");
    }
    match in_link {
        // Exchanged once: from here on it stands in no address, no history and no log.
        Some((_, address)) if bearer.is_none() => {
            let cookie = Cookie::build((COOKIE, door.cookie.clone())).http_only(true).path("/");
            let jar = CookieJar::new().add(cookie.same_site(SameSite::Lax));
            (jar, Redirect::to(&address)).into_response()
        }
        _ => next.run(request).await,
    }
}

const COOKIE: &str = "metaxis";

/// The token in an address, and the address without it.
fn without_token(uri: &Uri) -> Option<(String, String)> {
    let (tokens, others): (Vec<&str>, Vec<&str>) =
        uri.query()?.split('&').partition(|part| part.starts_with("token="));
    let token = tokens.first()?.strip_prefix("token=")?.to_owned();
    // One slash: two would lead to another machine.
    let path = format!("/{}", uri.path().trim_start_matches('/'));
    Some((token, if others.is_empty() { path } else { format!("{path}?{}", others.join("&")) }))
}

fn text(headers: &HeaderMap, name: header::HeaderName) -> Option<String> {
    headers.get(name)?.to_str().ok().map(str::to_owned)
}

fn is_local(host: &str) -> bool {
    let port = |rest: &str| {
        rest.is_empty() || rest.strip_prefix(':').is_some_and(|port| port.parse::<u16>().is_ok())
    };
    ["localhost", "127.0.0.1", "[::1]"].iter().any(|name| host.strip_prefix(name).is_some_and(port))
}

/// Compares without telling by its time where the first difference is.
fn same(given: &str, token: &str) -> bool {
    given.len() == token.len() && given.bytes().zip(token.bytes()).fold(0, |all, (a, b)| all | (a ^ b)) == 0
}

fn refuse(status: StatusCode, why: &str) -> Response {
    (status, axum::Json(Refusal { error: why.to_owned() })).into_response()
}

/// Wrong tokens of late, by where they came from.
#[derive(Default)]
struct Guesses(Mutex<HashMap<Option<IpAddr>, (u32, Instant)>>);

/// Wrong tokens that an address may try in a while.
const GUESSES: (u32, Duration) = (10, Duration::from_secs(60));

impl Guesses {
    fn are_too_many(&self, peer: Option<IpAddr>) -> bool {
        let of_late = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        of_late.get(&peer).is_some_and(|(count, since)| *count >= GUESSES.0 && since.elapsed() < GUESSES.1)
    }

    fn note(&self, peer: Option<IpAddr>) {
        let mut of_late = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        of_late.retain(|_, (_, since)| since.elapsed() < GUESSES.1);
        of_late.entry(peer).or_insert((0, Instant::now())).0 += 1;
    }
}
