//! Taking connections: so many at a time, none of them for ever.

use crate::guard::Peer;
use axum::Router;
use hyper_util::{
    rt::{TokioExecutor, TokioIo, TokioTimer},
    server::{conn::auto::Builder, graceful::GracefulShutdown},
    service::TowerToHyperService,
};
use std::{future::Future, io, pin::pin, sync::Arc, time::Duration};
use tokio::{net::TcpListener, sync::Semaphore, time::timeout};
use tower_http::add_extension::AddExtension;

/// Connections at a time; more wait until one ends.
const MOST: usize = 2_000;
/// How long answers that are on their way may take when the server ends.
const FAREWELL: Duration = Duration::from_secs(1);
/// Pause where the system gives no more connections.
const PAUSE: Duration = Duration::from_millis(100);

/// Answers what comes to `listener` by `router` until `end`; a connection on which no head of a request comes for
/// `silence` is closed.
///
/// # Errors
/// None: what fails is one connection.
pub(crate) async fn serve(
    listener: TcpListener,
    router: Router,
    silence: Duration,
    end: impl Future<Output = ()>,
) -> io::Result<()> {
    // Only HTTP/1: to find out which of the two it is, a connection would be waited on without limit.
    let mut builder = Builder::new(TokioExecutor::new()).http1_only();
    builder.http1().timer(TokioTimer::new()).header_read_timeout(silence);
    let (graceful, room) = (GracefulShutdown::new(), Arc::new(Semaphore::new(MOST)));
    let mut end = pin!(end);
    loop {
        let accepted = async {
            // Never closed, so there is a place sooner or later.
            let place = room.clone().acquire_owned().await.ok();
            (listener.accept().await, place)
        };
        let (accepted, place) = tokio::select! {
            accepted = accepted => accepted,
            () = &mut end => break,
        };
        let Ok((stream, peer)) = accepted else {
            tokio::time::sleep(PAUSE).await;
            continue;
        };
        let service = TowerToHyperService::new(AddExtension::new(router.clone(), Peer(peer.ip())));
        let (builder, watcher) = (builder.clone(), graceful.watcher());
        tokio::spawn(async move {
            // The time for a head runs from its first byte on; until then it is waited for here.
            if !matches!(timeout(silence, stream.peek(&mut [0])).await, Ok(Ok(1..))) {
                return;
            }
            let connection =
                builder.serve_connection_with_upgrades(TokioIo::new(stream), service).into_owned();
            let connection = watcher.watch(connection);
            // What goes wrong with a connection is its client's affair.
            let _ = connection.await;
            drop(place);
        });
    }
    drop(listener);
    let _ = timeout(FAREWELL, graceful.shutdown()).await;
    Ok(())
}
