//! Connections that say a little and then nothing.

use crate::{Plan, Served};
use anyhow::{Context, Result};
use reqwest::Method;
use serde_json::Value;
use std::{
    fmt,
    time::{Duration, Instant},
};
use tokio::{io::AsyncWriteExt, net::TcpStream};

/// What came of it.
#[derive(Debug, Default)]
pub struct Slow {
    /// How many were open.
    pub open: usize,
    /// Median and longest time of an answer without them, milliseconds.
    pub without_ms: (f64, f64),
    /// The same with them.
    pub with_ms: (f64, f64),
}

impl fmt::Display for Slow {
    fn fmt(&self, f: &mut fmt::Formatter) -> fmt::Result {
        let ((was, worst), (is, now)) = (self.without_ms, self.with_ms);
        write!(
            f,
            "slow: {} silent connections open: the day in {is:.1} ms, at most {now:.1} (without them {was:.1}, {worst:.1}; \
             asked: not above 50)",
            self.open
        )
    }
}

/// Asks for the day `asks` times without, and with `count` connections on which half a request came.
///
/// # Errors
/// Where the server gives no answer.
pub async fn slow(plan: &Plan, count: usize, asks: usize) -> Result<Slow> {
    let served = Served::start(plan)?;
    let address = served.api.strip_prefix("http://").and_then(|rest| rest.strip_suffix("/api"));
    let address = address.context("no address")?.to_owned();
    let without_ms = times(&served, asks).await?;
    let mut open = vec![];
    for _ in 0..count {
        let mut stream = TcpStream::connect(&address).await?;
        stream.write_all(b"GET /api/day HTTP/1.1\r\nHost: local").await?;
        open.push(stream);
    }
    let with_ms = times(&served, asks).await?;
    Ok(Slow { open: open.len(), without_ms, with_ms })
}

async fn times(served: &Served, asks: usize) -> Result<(f64, f64)> {
    let mut times = vec![];
    for _ in 0..asks.max(1) {
        let begin = Instant::now();
        served.ask(Method::GET, "/day", &Value::Null).await?;
        times.push(begin.elapsed().as_secs_f64() * 1e3);
        tokio::time::sleep(Duration::from_millis(2)).await;
    }
    times.sort_by(f64::total_cmp);
    Ok((times[times.len() / 2], times.last().copied().unwrap_or_default()))
}
