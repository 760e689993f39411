//! Who may ask: this machine's own pages, or whoever has the token.

use crate::App;
use axum::{
    extract::{Request, State},
    http::{HeaderMap, HeaderValue, StatusCode, header},
    middleware::Next,
    response::{IntoResponse, Response},
};
use std::sync::Arc;

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
    let Some(token) = &app.config.token else {
        return next.run(request).await;
    };
    let bearer =
        text(headers, header::AUTHORIZATION).and_then(|v| v.strip_prefix("Bearer ").map(str::to_owned));
    let cookie = text(headers, header::COOKIE).and_then(|all| {
        all.split(';').find_map(|one| one.trim().strip_prefix("metaxis_token=").map(str::to_owned))
    });
    if [bearer, cookie].into_iter().flatten().any(|given| same(&given, token)) {
        return next.run(request).await;
    }
    let in_link =
        request.uri().query().and_then(|q| q.split('&').find_map(|part| part.strip_prefix("token=")));
    if in_link.is_some_and(|given| same(given, token)) {
        let mut response = next.run(request).await;
        if let Ok(cookie) =
            HeaderValue::from_str(&format!("metaxis_token={token}; HttpOnly; SameSite=Strict; Path=/"))
        {
            response.headers_mut().insert(header::SET_COOKIE, cookie);
        }
        return response;
    }
    refuse(StatusCode::UNAUTHORIZED, "an access token is needed: open the address with ?token=… at its end")
}

fn text(headers: &HeaderMap, name: header::HeaderName) -> Option<String> {
    headers.get(name)?.to_str().ok().map(str::to_owned)
}

fn is_local(host: &str) -> bool {
    let name = if host.starts_with('[') {
        host.split_once(']').map_or(host, |(name, _)| name).trim_start_matches('[')
    } else {
        host.split(':').next().unwrap_or_default()
    };
    matches!(name, "localhost" | "127.0.0.1" | "::1")
}

/// Compares without telling by its time where the first difference is.
fn same(given: &str, token: &str) -> bool {
    given.len() == token.len() && given.bytes().zip(token.bytes()).fold(0, |all, (a, b)| all | (a ^ b)) == 0
}

fn refuse(status: StatusCode, why: &str) -> Response {
    (status, axum::Json(crate::error::Refusal { error: why.to_owned() })).into_response()
}
