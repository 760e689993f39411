//! Server-sent events: what the page is told as it happens.

use crate::App;
use axum::{
    extract::State,
    response::sse::{self, KeepAlive, Sse},
};
use futures::Stream;
use std::{convert::Infallible, sync::Arc, time::Duration};
use tokio::sync::broadcast::error::RecvError;

pub async fn events(State(app): State<Arc<App>>) -> Sse<impl Stream<Item = Result<sse::Event, Infallible>>> {
    let receiver = app.listen();
    let stream = futures::stream::unfold((app, receiver), |(app, mut receiver)| async move {
        loop {
            if app.is_closing() {
                return None;
            }
            let next = tokio::time::timeout(Duration::from_millis(500), receiver.recv());
            let event = match next.await {
                Ok(Ok(event)) => event,
                // A slow page missed some: the day says it all.
                Ok(Err(RecvError::Lagged(_))) => crate::Event::Day,
                Ok(Err(RecvError::Closed)) => return None,
                Err(_) => continue,
            };
            let message = sse::Event::default().json_data(&event).unwrap_or_default();
            return Some((Ok(message), (app, receiver)));
        }
    });
    Sse::new(stream).keep_alive(KeepAlive::default())
}
