//! Starting and ending a server.

use crate::{
    App, Event, ServeConfig, connections::serve, error::ApiError, guard::guard, page::page, routes, work,
};
use anyhow::{Context, Result};
use axum::{
    Router,
    extract::DefaultBodyLimit,
    http::{HeaderName, HeaderValue, header},
    middleware,
};
use metaxis_store::{back_up, check_in_full};
use std::{
    fs::DirBuilder,
    net::SocketAddr,
    os::unix::fs::{DirBuilderExt, PermissionsExt},
    path::{Path, PathBuf},
    sync::{Arc, Weak},
    time::Duration,
};
use tokio::{net::TcpListener, sync::oneshot, task::JoinHandle};
use tower_http::{set_header::SetResponseHeaderLayer, timeout::RequestBodyTimeoutLayer};

/// How often the production is looked through and copied to its folder of backups.
const LOOKED_EVERY: Duration = Duration::from_secs(3600);

/// A running server.
pub struct Server {
    /// Where it listens.
    pub address: SocketAddr,
    /// Its shared state.
    pub app: Arc<App>,
    end: oneshot::Sender<()>,
    serving: JoinHandle<std::io::Result<()>>,
    workers: Vec<std::thread::JoinHandle<()>>,
    looking_after: JoinHandle<()>,
}

/// Starts listening and working.
///
/// # Errors
/// A refused configuration, an address in use, a data folder that cannot be written.
pub async fn start(config: ServeConfig) -> Result<Server> {
    let config = config.checked()?;
    make_private(&config.data).with_context(|| format!("{} cannot be made", config.data.display()))?;
    let listener = TcpListener::bind(config.address).await.with_context(|| {
        format!("{} cannot be listened on; is another server running there?", config.address)
    })?;
    let address = listener.local_addr()?;
    let app = App::open(config).map_err(|e: ApiError| anyhow::anyhow!("{e}"))?;
    let workers = work::start(&app);
    let looking_after = tokio::spawn(look_after(app.store.path().to_owned(), Arc::downgrade(&app)));
    let (end, ended) = oneshot::channel();
    let closing = app.clone();
    let serving = tokio::spawn(serve(listener, router(app.clone()), app.config.limits.silence, async move {
        let _ = ended.await;
        closing.close();
    }));
    Ok(Server { address, app, end, serving, workers, looking_after })
}

/// Looks through the whole production now and every hour, and copies it then where it is sound: a damaged one pushes no
/// good copy out. Each look is on a thread that nobody waits for at the end.
async fn look_after(production: PathBuf, app: Weak<App>) {
    let mut hours = tokio::time::interval(LOOKED_EVERY);
    // Opening made a copy.
    let mut copies = false;
    loop {
        hours.tick().await;
        let (done, looked) = oneshot::channel();
        let path = production.clone();
        std::thread::spawn(move || {
            let sound =
                check_in_full(&path).and_then(|()| if copies { back_up(&path).map(drop) } else { Ok(()) });
            // Nobody listens where the server has ended.
            let _ = done.send(sound);
        });
        if let (Ok(Err(e)), Some(app)) = (looked.await, app.upgrade()) {
            tracing::error!("{e}");
            app.tell(Event::Said { text: e.to_string() });
        }
        copies = true;
    }
}

/// Makes the data folder where it is not there; nobody but its owner, and a group it was given to, reads it.
fn make_private(folder: &Path) -> std::io::Result<()> {
    DirBuilder::new().recursive(true).mode(0o700).create(folder)?;
    let mut rights = folder.metadata()?.permissions();
    if rights.mode() & 0o007 != 0 {
        rights.set_mode(rights.mode() & !0o007);
        std::fs::set_permissions(folder, rights)?;
    }
    Ok(())
}

impl Server {
    /// Ends the server and everything it started.
    pub async fn stop(self) {
        self.app.close();
        self.looking_after.abort();
        let _ = self.end.send(());
        let _ = tokio::time::timeout(Duration::from_secs(3), self.serving).await;
        let _ =
            tokio::task::spawn_blocking(|| self.workers.into_iter().for_each(|worker| drop(worker.join())))
                .await;
    }
}

const POLICY: &str = "default-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data: blob:; \
                      media-src 'self' blob:; worker-src 'self' blob:; frame-ancestors 'none'; base-uri 'none'; form-action 'self'; \
                      script-src 'self' 'wasm-unsafe-eval'; object-src 'none'";

/// What every answer tells a browser beside it: nothing leaves for, and nothing comes from, other sites.
const SAID: [(HeaderName, &str); 4] = [
    (header::X_CONTENT_TYPE_OPTIONS, "nosniff"),
    (header::REFERRER_POLICY, "no-referrer"),
    (HeaderName::from_static("cross-origin-resource-policy"), "same-origin"),
    (HeaderName::from_static("cross-origin-opener-policy"), "same-origin"),
];

fn router(app: Arc<App>) -> Router {
    let router = Router::new()
        .nest("/api", routes::routes())
        .fallback(page)
        .layer(DefaultBodyLimit::max(1 << 20))
        .layer(RequestBodyTimeoutLayer::new(app.config.limits.silence))
        .layer(middleware::from_fn_with_state(app.clone(), guard))
        .layer(SetResponseHeaderLayer::overriding(
            header::CONTENT_SECURITY_POLICY,
            HeaderValue::from_static(POLICY),
        ))
        .layer(tower_http::compression::CompressionLayer::new());
    let said = |router: Router<Arc<App>>, (name, value)| {
        router.layer(SetResponseHeaderLayer::overriding(name, HeaderValue::from_static(value)))
    };
    SAID.into_iter().fold(router, said).with_state(app)
}
