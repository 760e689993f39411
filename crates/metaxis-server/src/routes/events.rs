//! Server-sent events: what the page is told as it happens.

use crate::{App, Event};
use axum::{
    extract::State,
    response::sse::{self, KeepAlive, Sse},
};
use futures::{Stream, StreamExt};
use std::sync::Arc;
use tokio_stream::wrappers::BroadcastStream;

pub async fn events(State(app): State<Arc<App>>) -> Sse<impl Stream<Item = Result<sse::Event, axum::Error>>> {
    let told = BroadcastStream::new(app.listen())
        // A slow page missed some: the day says it all.
        .map(|event| sse::Event::default().json_data(event.unwrap_or(Event::Day)))
        .take_until(app.closed());
    Sse::new(told).keep_alive(KeepAlive::default())
}
