//! Clients that open connections and say nothing, or half of it.

use crate::common::{Api, config};
use metaxis_server::Limits;
use reqwest::Client;
use std::time::Duration;
use tokio::{
    io::{AsyncReadExt, AsyncWriteExt},
    net::TcpStream,
};

#[tokio::test(flavor = "multi_thread")]
async fn silent_connections_are_closed_and_hold_nothing_up() {
    let data = tempfile::tempdir().expect("a folder");
    let mut config = config(data.path(), &[]);
    config.limits = Limits { silence: Duration::from_secs(3), ..Limits::default() };
    // A connection for each request: one that is kept open between them is silent too.
    let client = Client::builder().pool_max_idle_per_host(0).build().expect("a client");
    let api = Api { client, ..Api::start(config).await };
    let said = [
        "",
        "GET /api/day HTTP/1.1\r\nHost: 127.0.0.1\r\nX-Slow: ",
        "POST /api/passes HTTP/1.1\r\nHost: 127.0.0.1\r\nContent-Type: application/json\r\nContent-Length: 900\r\n\r\n{",
    ];
    let mut open = vec![];
    // One that was answered, and asks no more.
    let mut answered = TcpStream::connect(api.server.address).await.expect("a connection");
    answered.write_all(b"GET /api/day HTTP/1.1\r\nHost: 127.0.0.1\r\n\r\n").await.expect("sent");
    open.push(answered);
    for i in 0..600 {
        let mut stream = TcpStream::connect(api.server.address).await.expect("a connection");
        stream.write_all(said[i % said.len()].as_bytes()).await.expect("sent");
        open.push(stream);
    }
    assert_eq!(api.get("/day").await.0, 200, "the page is answered meanwhile");
    for mut stream in open {
        // Closed by the server, with an answer or without one.
        let mut rest = vec![];
        let _ = stream.read_to_end(&mut rest).await;
    }
    assert_eq!(api.get("/day").await.0, 200);
    api.server.stop().await;
}
