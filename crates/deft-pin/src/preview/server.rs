//! The server: it listens on this machine's own address alone, and waits for nobody for long.

use std::net::{Ipv4Addr, SocketAddr};
use std::sync::Arc;
use std::time::Duration;

use anyhow::{Context as _, Result, bail};
use axum::Router;
use hyper::server::conn::http1;
use hyper_util::rt::{TokioIo, TokioTimer};
use hyper_util::service::TowerToHyperService;
use tokio::net::{TcpListener, TcpSocket};
use tokio::sync::Semaphore;

use super::Preview;
use super::routes::{Served, answer};

/// How long somebody who connects may take to say what is wanted.
const PATIENCE: Duration = Duration::from_secs(10);

/// How many connections are open at once; more wait.
const CONNECTIONS: usize = 1024;

/// A server that listens.
pub struct Server {
    listener: TcpListener,
    /// The port that it listens on.
    pub port: u16,
}

/// Listens on a port of this machine's own address; on a free one where none is named.
///
/// # Errors
/// The port is taken.
pub fn bind(port: Option<u16>) -> Result<Server> {
    let socket = TcpSocket::new_v4().context("no socket can be had")?;
    #[cfg(unix)]
    let _ = socket.set_reuseaddr(true);
    let wanted = SocketAddr::from((Ipv4Addr::LOCALHOST, port.unwrap_or(0)));
    if let Err(error) = socket.bind(wanted) {
        match port {
            Some(port) => bail!("the port {port} cannot be had: {error}; without --port a free one is taken"),
            None => bail!("no port can be had: {error}"),
        }
    }
    let listener = socket.listen(1024).context("nobody can listen on this machine's own address")?;
    let port = listener.local_addr().context("the port cannot be told")?.port();
    Ok(Server { listener, port })
}

impl Server {
    /// The address of the server, without a slash at its end.
    pub fn origin(&self) -> String {
        format!("http://127.0.0.1:{}", self.port)
    }

    /// Answers for as long as the program runs.
    pub async fn serve(self, preview: Arc<Preview>) {
        let served = Served { preview, port: self.port };
        let router = Router::new().fallback(answer).with_state(Arc::new(served));
        let room = Arc::new(Semaphore::new(CONNECTIONS));
        loop {
            let Ok(place) = Arc::clone(&room).acquire_owned().await else { return };
            let Ok((stream, _)) = self.listener.accept().await else {
                // Out of file descriptors, most likely: those that are open end some time.
                tokio::time::sleep(Duration::from_millis(50)).await;
                continue;
            };
            let service = TowerToHyperService::new(router.clone());
            tokio::spawn(async move {
                let connection = http1::Builder::new()
                    .timer(TokioTimer::new())
                    .header_read_timeout(PATIENCE)
                    .max_headers(128)
                    .serve_connection(TokioIo::new(stream), service);
                // Whoever goes away in the middle is no trouble.
                let _ = connection.await;
                drop(place);
            });
        }
    }
}
