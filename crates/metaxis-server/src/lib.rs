//! The Metaxis server: routes, jobs, events and the static page; and the headless commands.
//!
//! A handler takes typed input, calls one function, returns a typed value. Work on media runs on threads of
//! its own ([`work`]), never on the async ones.

pub mod api_types;
mod app;
mod asked;
mod config;
mod connections;
mod each;
mod error;
mod film;
mod guard;
pub mod headless;
mod heard_day;
mod names;
mod owner;
mod page;
mod pictures;
mod routes;
mod samples;
mod serve;
mod sound;
mod turnover;
mod uploads;
pub mod work;

pub use app::{App, ArrivingClip, Event};
pub use config::{ConfigError, Limits, ServeConfig};
pub use heard_day::hear;
pub use names::{file_stem, file_url};
pub use serve::{Server, start};
